//! `calc wind`: what share of the units the wind harmed, part by part, with exact ranges; corners and edges against the field; the
//! creases against the gust that is on record.
//!
//! A unit is a shingle, a shake, a tile, a pan. Harmed by wind is what is creased, lifted or gone. Unsealed without a crease is mostly
//! age, so it is counted apart and never added.

use super::chance::{fisher, share};
use crate::measure::Units;
use serde::{Deserialize, Serialize};

const USUAL_CONFIDENCE: f64 = 0.95;
/// A tenth of the least width of the plan, and 0.4 of the height of the eaves, whichever is less; never under this, metres. Rule of
/// practice, after the usual wind codes.
const PART_OF_WIDTH: f64 = 0.1;
const PART_OF_HEIGHT: f64 = 0.4;
const LEAST_ZONE_M: f64 = 0.9;
/// Creases that point within this of the gust go with it, degrees; a rule of practice.
const WITH_IT_DEG: f64 = 45.0;
/// Creases that point so much all ways have no direction: the length of their mean.
const LEAST_ACCORD: f64 = 0.4;
const MOST_UNITS: u32 = 100_000;
const MOST_ROWS: usize = 500;
const UNLIKELY: f64 = 0.05;

/// Part of a slope.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SlopePart {
    /// Where two edges meet.
    Corner,
    /// Along an eave or a rake.
    Edge,
    /// Along ridge and hips.
    Ridge,
    /// The rest.
    #[default]
    Field,
}

impl SlopePart {
    /// All, from the most to the least exposed.
    pub const ALL: [SlopePart; 4] = [SlopePart::Corner, SlopePart::Edge, SlopePart::Ridge, SlopePart::Field];
    /// In a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            SlopePart::Corner => "corners",
            SlopePart::Edge => "edges",
            SlopePart::Ridge => "ridge and hips",
            SlopePart::Field => "field",
        }
    }
}

/// Units that were looked at in one part of one slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WindPart {
    /// The slope.
    pub slope: String,
    /// Which part of it.
    pub part: SlopePart,
    /// How many were looked at.
    pub units: u32,
    /// With a crease line.
    #[serde(default)]
    pub creased: u32,
    /// Lifted or turned up, without a crease.
    #[serde(default)]
    pub lifted: u32,
    /// Gone.
    #[serde(default)]
    pub missing: u32,
    /// The seal is open, and there is no crease.
    #[serde(default)]
    pub unsealed: u32,
}

/// Units whose seal was tried by hand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SealTried {
    /// The slope.
    pub slope: String,
    /// How many were tried.
    pub tried: u32,
    /// How many came up.
    pub open: u32,
}

/// Input of `calc wind`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WindInput {
    /// What was looked at.
    #[serde(default)]
    pub parts: Vec<WindPart>,
    /// Seals tried by hand.
    #[serde(default)]
    pub seals: Vec<SealTried>,
    /// Where the creases say the wind came from, each in degrees.
    #[serde(default)]
    pub crease_from_deg: Vec<f64>,
    /// Where the strongest gust on record came from.
    #[serde(default)]
    pub gust_from_deg: Option<f64>,
    /// The least width of the building's plan, metres.
    #[serde(default)]
    pub least_width_m: Option<f64>,
    /// The height of its eaves, metres.
    #[serde(default)]
    pub eave_m: Option<f64>,
    /// How sure the ranges are.
    #[serde(default)]
    pub confidence: Option<f64>,
}

/// A share with its exact range.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExactShare {
    /// How many.
    pub of: u32,
    /// Of so many.
    pub units: u32,
    /// The share.
    pub share: f64,
    /// Its exact range (Clopper and Pearson).
    pub range: [f64; 2],
}

/// One part of one slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WindPartOut {
    /// The slope.
    pub slope: String,
    /// Which part.
    pub part: SlopePart,
    /// Harmed by wind: creased, lifted or gone.
    pub harmed: ExactShare,
    /// Unsealed without a crease: mostly age.
    pub unsealed: ExactShare,
}

/// Corners, edges and ridge against the field.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Contrast {
    /// What the wind pulls at most.
    pub outer: ExactShare,
    /// The field.
    pub field: ExactShare,
    /// The chance of shares as unlike, if wind had nothing to do with where they lie (Fisher's exact test, both sides).
    pub p_exact: f64,
    /// In words.
    pub words: String,
}

/// The creases and the gust.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CreaseWay {
    /// Where they say the wind came from, on average; none while they point all ways.
    pub from_deg: Option<f64>,
    /// How much they agree: 1 when all point one way, 0 when they cancel.
    pub accord: f64,
    /// The angle to the gust on record.
    pub off_deg: Option<f64>,
    /// They go with the gust; none while one of the two is not known.
    pub with_gust: Option<bool>,
    /// In words.
    pub words: String,
}

/// What `calc wind` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WindOut {
    /// Part by part.
    pub parts: Vec<WindPartOut>,
    /// All slopes, part by part.
    pub by_part: Vec<WindPartOut>,
    /// Corners, edges and ridge against the field; none while one of them was not looked at.
    pub contrast: Option<Contrast>,
    /// Seals, slope by slope.
    pub seals: Vec<SealOut>,
    /// Creases against the gust.
    pub creases: Option<CreaseWay>,
    /// How wide corners and edges are, metres; none while width or eaves are not known.
    pub zone_m: Option<f64>,
}

/// Seals tried by hand on a slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SealOut {
    /// The slope.
    pub slope: String,
    /// Those that came up.
    pub open: ExactShare,
}

/// Why nothing can be said.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct WindError(String);

/// How wide corners and edges are.
#[must_use]
pub fn zone_m(least_width_m: f64, eave_m: f64) -> f64 {
    (PART_OF_WIDTH * least_width_m).min(PART_OF_HEIGHT * eave_m).max(LEAST_ZONE_M)
}

/// The same in words, with the rule it follows.
pub(crate) fn zone_words(zone_m: f64, units: Units) -> String {
    format!(
        "Corners and edges are {} wide here: {PART_OF_WIDTH} of the least width or {PART_OF_HEIGHT} of the eaves' height, whichever is less, not under {}.",
        units.length(zone_m, 1),
        units.length(LEAST_ZONE_M, 1)
    )
}

pub(crate) fn of(k: u32, n: u32, confidence: f64) -> ExactShare {
    let part = if n == 0 { 0.0 } else { f64::from(k) / f64::from(n) };
    ExactShare { of: k, units: n, share: part, range: if n == 0 { [0.0, 1.0] } else { share(k, n, confidence) } }
}

impl WindPart {
    pub(crate) fn harmed(&self) -> u32 {
        self.creased + self.lifted + self.missing
    }
    /// What is wrong with it.
    pub(crate) fn wrong(&self) -> Option<(&'static str, String)> {
        if self.units == 0 {
            return Some(("units", "Say how many were looked at; leave the row out where none was.".into()));
        }
        if [self.units, self.creased, self.lifted, self.missing, self.unsealed].iter().any(|n| *n > MOST_UNITS) {
            return Some(("units", format!("More than {MOST_UNITS} units in one part of a slope cannot be.")));
        }
        let all = self.harmed() + self.unsealed;
        (all > self.units).then(|| {
            (
                "units",
                format!("{all} of {} units cannot be. A unit counts once: gone, else creased, else lifted, else unsealed.", self.units),
            )
        })
    }
}

impl SealTried {
    pub(crate) fn wrong(&self) -> Option<(&'static str, String)> {
        if self.tried == 0 || self.tried > MOST_UNITS {
            return Some(("tried", "Say how many seals were tried by hand.".into()));
        }
        (self.open > self.tried).then(|| ("open", format!("{} of {} seals cannot come up.", self.open, self.tried)))
    }
}

fn check(i: &WindInput) -> Result<f64, WindError> {
    let err = |m: String| Err(WindError(m));
    if i.parts.is_empty() && i.seals.is_empty() && i.crease_from_deg.is_empty() {
        return err("Nothing was looked at. Give units of at least one part of a slope, seals, or creases.".into());
    }
    if i.parts.len() > MOST_ROWS || i.seals.len() > MOST_ROWS || i.crease_from_deg.len() > MOST_ROWS {
        return err(format!("More than {MOST_ROWS} rows are not one roof."));
    }
    for p in &i.parts {
        if p.slope.trim().is_empty() {
            return err("Name the slope of each part.".into());
        }
        if let Some((_, m)) = p.wrong() {
            return err(format!("{}, {}: {m}", p.slope, p.part.name()));
        }
    }
    let mut seen = std::collections::BTreeSet::new();
    if let Some(p) = i.parts.iter().find(|p| !seen.insert((&p.slope, p.part))) {
        return err(format!("{}, {} is there twice. Put the two together.", p.slope, p.part.name()));
    }
    for s in &i.seals {
        if let Some((_, m)) = s.wrong() {
            return err(format!("{}: {m}", s.slope));
        }
    }
    let bearing = |d: f64| (-360.0..=720.0).contains(&d);
    if !i.crease_from_deg.iter().chain(&i.gust_from_deg).all(|d| bearing(*d)) {
        return err("A direction is no bearing. Type degrees from 0 to 360.".into());
    }
    if let Some(x) = i.least_width_m.iter().chain(&i.eave_m).find(|x| !(0.1..=1000.0).contains(*x)) {
        return err(format!("A width or height of {x} m cannot be."));
    }
    let c = i.confidence.unwrap_or(USUAL_CONFIDENCE);
    if !(0.5..=0.9999).contains(&c) {
        return err(format!("A confidence of {c} cannot be used. Type one from 0.5 to 0.9999, for example 0.95."));
    }
    Ok(c)
}

/// What two shares say of each other.
fn contrast(outer: ExactShare, field: ExactShare) -> Contrast {
    let p = fisher(outer.of, outer.units, field.of, field.units);
    let words = if outer.of + field.of == 0 {
        "Nothing was harmed, outside or in the field.".to_owned()
    } else if p >= UNLIKELY {
        format!(
            "Corners, edges and ridge ({} of {}) and the field ({} of {}) differ no more than chance lets them.",
            outer.of, outer.units, field.of, field.units
        )
    } else if outer.share > field.share {
        format!(
            "Corners, edges and ridge are harmed more ({} of {}) than the field ({} of {}), as wind does.",
            outer.of, outer.units, field.of, field.units
        )
    } else {
        format!(
            "The field is harmed more ({} of {}) than corners, edges and ridge ({} of {}). Wind does the opposite: look for feet, age or bad nailing.",
            field.of, field.units, outer.of, outer.units
        )
    };
    Contrast { outer, field, p_exact: p, words }
}

/// The least angle between two bearings, 0 to 180.
pub(crate) fn apart(a: f64, b: f64) -> f64 {
    let d = (a - b).rem_euclid(360.0);
    d.min(360.0 - d)
}

/// How much bearings agree, and their mean while they agree enough.
fn way(from: &[f64]) -> (f64, Option<f64>) {
    let n = from.len() as f64;
    let (east, north) = from.iter().fold((0.0, 0.0), |(e, w), d| (e + d.to_radians().sin() / n, w + d.to_radians().cos() / n));
    let accord = east.hypot(north).min(1.0);
    (accord, (accord >= LEAST_ACCORD).then(|| east.atan2(north).to_degrees().rem_euclid(360.0)))
}

/// Where creases say the wind came from; none without any, or while they point all ways.
pub(crate) fn mean_way(from: &[f64]) -> Option<f64> {
    if from.is_empty() { None } else { way(from).1 }
}

fn creases(from: &[f64], gust: Option<f64>) -> Option<CreaseWay> {
    if from.is_empty() {
        return None;
    }
    let (accord, mean) = way(from);
    let off = mean.zip(gust).map(|(m, g)| apart(m, g));
    let with = off.map(|o| o <= WITH_IT_DEG);
    let words = match (mean, gust, off) {
        (None, ..) => "The creases point all ways: no one gust made them.".to_owned(),
        (Some(m), Some(g), Some(o)) if o <= WITH_IT_DEG => {
            format!(
                "The creases say the wind came from {m:.0}\u{b0}, the gust on record from {g:.0}\u{b0}: they agree within {o:.0}\u{b0}."
            )
        }
        (Some(m), Some(g), Some(o)) => {
            format!("The creases say {m:.0}\u{b0}, the gust on record came from {g:.0}\u{b0}: {o:.0}\u{b0} apart, another wind made them.")
        }
        (Some(m), ..) => format!("The creases say the wind came from {m:.0}\u{b0}; no gust is on record to compare with."),
    };
    Some(CreaseWay { from_deg: mean, accord, off_deg: off, with_gust: with, words })
}

/// Shares, contrast, creases.
///
/// # Errors
/// What is wrong with which figure, and what to do.
pub fn wind(i: &WindInput) -> Result<WindOut, WindError> {
    let c = check(i)?;
    let out = |slope: &str, part, rows: &[&WindPart]| {
        let units = rows.iter().map(|p| p.units).sum();
        WindPartOut {
            slope: slope.to_owned(),
            part,
            harmed: of(rows.iter().map(|p| p.harmed()).sum(), units, c),
            unsealed: of(rows.iter().map(|p| p.unsealed).sum(), units, c),
        }
    };
    let rows = |want: &dyn Fn(SlopePart) -> bool| i.parts.iter().filter(|p| want(p.part)).collect::<Vec<_>>();
    let (outer, field) = (rows(&|p| p != SlopePart::Field), rows(&|p| p == SlopePart::Field));
    Ok(WindOut {
        parts: i.parts.iter().map(|p| out(&p.slope, p.part, &[p])).collect(),
        by_part: SlopePart::ALL
            .into_iter()
            .map(|part| (part, rows(&|p| p == part)))
            .filter(|(_, r)| !r.is_empty())
            .map(|(part, r)| out("all", part, &r))
            .collect(),
        contrast: (!outer.is_empty() && !field.is_empty())
            .then(|| contrast(out("", SlopePart::Edge, &outer).harmed, out("", SlopePart::Field, &field).harmed)),
        seals: i.seals.iter().map(|s| SealOut { slope: s.slope.clone(), open: of(s.open, s.tried, c) }).collect(),
        creases: creases(&i.crease_from_deg, i.gust_from_deg),
        zone_m: i.least_width_m.zip(i.eave_m).map(|(w, e)| zone_m(w, e)),
    })
}
