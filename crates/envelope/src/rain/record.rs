//! Rainwater as it is kept: the rain to design for, and the gutters as they were met, in the person's own units.

use super::flat::record::FlatRoof;
use crate::gutter::downspout::Bore;
use crate::gutter::section::Section;
use crate::job::{SHORT_TEXT, too_long};
use crate::measure::{self, Quantity};
use crate::roof::record::{RoofError, metres, some_metres};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// The two figures of the local table.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Storm {
    /// Over 5 minutes, as typed: `132 mm/h` or `5.2 in/h`.
    pub i5: String,
    /// Over 60 minutes.
    pub i60: String,
    /// Once in so many years.
    pub years: Option<f64>,
    /// Where the figures are from.
    pub source: String,
}

/// The form of a gutter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum GutterForm {
    /// A half circle; its width is its diameter.
    #[default]
    HalfRound,
    /// Upright walls.
    Box,
    /// Wider at the rim than at the floor: the ornamental front.
    Ornamental,
}

/// How clean a gutter is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Inside {
    /// Clean metal.
    #[default]
    Clean,
    /// Aged, a little silt.
    Aged,
    /// Debris, or a guard that sheds into it.
    Debris,
}

impl Inside {
    /// Manning's roughness; rule of practice.
    pub fn roughness(self) -> f64 {
        match self {
            Inside::Clean => 0.012,
            Inside::Aged => 0.016,
            Inside::Debris => 0.025,
        }
    }
}

/// Where a downspout ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Ends {
    /// On the ground.
    #[default]
    Ground,
    /// On a lower roof.
    LowerRoof,
    /// Into a pipe that comes to daylight.
    PipeToDaylight,
    /// Into a pipe of unknown end.
    BuriedPipe,
    /// There is no downspout.
    Nowhere,
}

/// An outlet as it was met.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct OutletRecord {
    /// From the left end of the run, seen from outside.
    pub from_left: String,
    /// `75 mm`, or `50 x 75 mm`.
    pub bore: String,
    /// A strainer lies over it.
    pub strainer: bool,
    /// Its sill above the floor of the gutter, of an overflow; flush while it is empty.
    pub up: String,
    /// Where it ends.
    pub ends: Ends,
    /// From the wall to where it lets go.
    pub distance: String,
    /// On a lower roof: the eave its water comes to, by name; found from the shape while it is empty.
    pub onto: String,
}

/// A gutter as it was met.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct GutterRecord {
    /// Short and lasting: G1, G2 …
    pub id: String,
    /// "rear left".
    pub name: String,
    /// The eave it hangs under, by the name Trowel gives it.
    pub eave: String,
    /// The eaves it goes on under round the corners, in order from left to right, seen from outside.
    pub round: Vec<String>,
    /// Its form.
    pub form: GutterForm,
    /// Across the rim.
    pub width: String,
    /// To the rim; half the width for a half round.
    pub depth: String,
    /// Level readings along it, `0 0, 7.5 12 mm`: place from the left end and how far the floor lies below the first reading.
    pub levels: String,
    /// How clean it is.
    pub inside: Inside,
    /// How far the covering reaches past the back of the trough; the usual 30 mm while it is empty.
    pub past_fascia: String,
    /// The drip edge above the rim; the usual 30 mm while it is empty.
    pub above_rim: String,
    /// Its outlets.
    pub outlets: Vec<OutletRecord>,
}

/// Corners of one run; more is another gutter.
const MOST_CORNERS: usize = 12;

/// A place along a gutter and how far its floor lies lower there, metres: `7.5 12 mm`, `24 ft 7 in 1/2 in`. A bare place is in metres. The
/// place is the shorter one where the words could be cut twice.
fn level(reading: &str) -> Option<[f64; 2]> {
    let bare = |t: &str| t.parse::<f64>().ok();
    let place = |t: &str| bare(t).or_else(|| metres("The place", t).ok());
    let down = |t: &str| {
        let (sign, t) = t.strip_prefix('-').map_or((-1.0, t), |rest| (1.0, rest.trim_start()));
        // A bare figure that is not nought has no unit: nobody falls by twelve metres.
        let deep = match bare(t) {
            Some(0.0) => 0.0,
            Some(_) => return None,
            None => metres("The reading", t).ok()?,
        };
        Some(if deep == 0.0 { 0.0 } else { sign * deep })
    };
    let cuts = reading.char_indices().filter(|(_, c)| c.is_whitespace()).map(|(at, _)| reading.split_at(at));
    cuts.filter_map(|(left, right)| Some([place(left.trim())?, down(right.trim())?])).find(|l| l.iter().all(|x| x.is_finite()))
}

impl GutterRecord {
    /// Every eave it hangs under, from its left end on.
    pub fn eaves(&self) -> impl Iterator<Item = &str> {
        std::iter::once(self.eave.as_str()).chain(self.round.iter().map(String::as_str))
    }
}

/// Rainwater, as it is kept.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Rainwater {
    /// The rain to design for.
    pub storm: Storm,
    /// Other rains of the place, to look at beside it.
    pub rains: Vec<Storm>,
    /// The gutters.
    pub gutters: Vec<GutterRecord>,
    /// Flat roofs: parapets, falls, drains and scuppers.
    pub flats: Vec<FlatRoof>,
    /// What a change costs, by its name, where it is not the usual figure.
    pub costs: BTreeMap<String, f64>,
}

/// An intensity as typed, mm/h. A bare number is millimetres per hour.
///
/// # Errors
/// What is wrong with the text.
pub fn intensity(what: &str, text: &str) -> Result<f64, String> {
    let shown: String = text.trim().chars().take(40).collect();
    if shown.is_empty() {
        return Err(format!("{what} is missing. Type it as 132 mm/h or 5.2 in/h."));
    }
    if let Ok(v) = shown.parse::<f64>() {
        return Ok(v);
    }
    let m = measure::parse(text).map_err(|e| format!("{what}: {e}"))?;
    // Metres per second inside.
    if m.quantity == Quantity::Intensity {
        Ok(m.si * 3.6e6)
    } else {
        Err(format!("{what}: \u{201c}{shown}\u{201d} is no rain. Type it as 132 mm/h or 5.2 in/h."))
    }
}

/// `75 mm`, `3 in`, `50 x 75 mm`.
pub(crate) fn bore(text: &str) -> Result<Bore, String> {
    let lower = text.to_lowercase().replace('×', "x");
    let mm = |t: &str| some_metres("The outlet", t).map(|m| m * 1000.0);
    let read = match lower.split_once('x') {
        None => Bore::Round { diameter_mm: mm(&lower)? },
        Some((a, b)) => {
            // The unit after the second figure holds for both.
            let unit: String = b.chars().skip_while(|c| c.is_ascii_digit() || *c == '.' || c.is_whitespace()).collect();
            let first = if a.trim().parse::<f64>().is_ok() { format!("{} {unit}", a.trim()) } else { a.to_owned() };
            Bore::Rectangular { width_mm: mm(&first)?, length_mm: mm(b)? }
        }
    };
    read.check().map(|()| read)
}

impl GutterRecord {
    /// Its cross-section.
    pub(crate) fn section(&self) -> Result<Section, String> {
        let width = some_metres("The width", &self.width)?;
        let depth = || some_metres("The depth", &self.depth);
        let section = match self.form {
            GutterForm::HalfRound => Section::HalfRound { diameter_m: width },
            GutterForm::Box => Section::Rect { width_m: width, depth_m: depth()? },
            // Its floor is about three fifths of its rim; rule of practice.
            GutterForm::Ornamental => Section::Trapezoid { bottom_m: width * 0.6, top_m: width, depth_m: depth()? },
        };
        section.check().map(|()| section)
    }

    /// Heights of its floor along the run, metres: level while nothing was read.
    pub(crate) fn floor(&self) -> Result<Vec<[f64; 2]>, String> {
        let mut out: Vec<[f64; 2]> = Vec::new();
        for reading in self.levels.split([',', ';']).map(str::trim).filter(|r| !r.is_empty()) {
            let wrong = || {
                format!(
                    "The reading \u{201c}{}\u{201d} is not a place and how far the floor lies lower, for example 7.5 12 mm.",
                    reading.chars().take(40).collect::<String>()
                )
            };
            out.push(level(reading).ok_or_else(wrong)?);
        }
        if !out.windows(2).all(|w| w[0][0] < w[1][0]) {
            return Err("The level readings go from the left end to the right, each at its own place.".into());
        }
        Ok(out)
    }
}

/// A rain that has a name: how often it comes, and what it brings over five minutes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NamedRain {
    /// Its return period, years.
    pub years: f64,
    /// Over five minutes, mm/h.
    pub mm_h: f64,
}

impl Rainwater {
    /// The rains that can be looked at by name: the design storm and those beside it.
    pub fn named_rains(&self) -> Vec<NamedRain> {
        let named = |s: &Storm| Some(NamedRain { years: s.years?, mm_h: intensity("The rain", &s.i5).ok()? });
        std::iter::once(&self.storm).chain(&self.rains).filter_map(named).collect()
    }
    /// Checks what can be checked without the roof.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| RoofError { field, message };
        /// More than any building has.
        const MOST_GUTTERS: usize = 100;
        if self.gutters.len() > MOST_GUTTERS {
            return Err(err("gutters".into(), format!("{} gutters are more than a building has.", self.gutters.len())));
        }
        for (field, text) in [("i5", &self.storm.i5), ("i60", &self.storm.i60)] {
            if !text.trim().is_empty() {
                intensity("The rain", text).map_err(|m| err(format!("storm.{field}"), m))?;
            }
        }
        /// More return periods than any table has.
        const MOST_RAINS: usize = 20;
        if self.rains.len() > MOST_RAINS {
            return Err(err("rains".into(), format!("{} rains are more than a table has.", self.rains.len())));
        }
        for (k, r) in self.rains.iter().enumerate() {
            for (part, text) in [("i5", &r.i5), ("i60", &r.i60)] {
                intensity("The rain", text).map_err(|m| err(format!("rains.{k}.{part}"), m))?;
            }
        }
        let (mut ids, mut eaves) = (BTreeSet::new(), BTreeSet::new());
        for g in &self.gutters {
            let at = |part: &str| format!("gutters.{}.{part}", g.id);
            if let Some(m) = [&g.id, &g.name, &g.eave].into_iter().find_map(|t| too_long(t, SHORT_TEXT)) {
                return Err(err(at("name"), m));
            }
            if g.id.is_empty() || !ids.insert(&g.id) {
                return Err(err(at("id"), "Each gutter has its own short name: G1, G2 and so on.".into()));
            }
            if g.round.len() > MOST_CORNERS || g.round.iter().any(|e| too_long(e, SHORT_TEXT).is_some()) {
                return Err(err(at("round"), format!("A gutter goes round at most {MOST_CORNERS} corners.")));
            }
            if !g.eaves().all(|e| eaves.insert(e)) {
                return Err(err(at("eave"), "Two gutters cannot hang under one eave. Choose another eave, or take one away.".into()));
            }
            // Of a half round it is not asked; what stands there is read all the same, for the form may be another tomorrow.
            if g.form != GutterForm::HalfRound || !g.depth.trim().is_empty() {
                some_metres("The depth", &g.depth).map_err(|m| err(at("depth"), m))?;
            }
            g.section().map_err(|m| err(at("width"), m))?;
            g.floor().map_err(|m| err(at("levels"), m))?;
            for (part, text) in [("past_fascia", &g.past_fascia), ("above_rim", &g.above_rim)] {
                if !text.trim().is_empty() {
                    metres("The distance", text).map_err(|m| err(at(part), m))?;
                }
            }
            for (k, o) in g.outlets.iter().enumerate() {
                bore(&o.bore).map_err(|m| err(at(&format!("outlets.{k}.bore")), m))?;
                metres("The place of the outlet", &o.from_left).map_err(|m| err(at(&format!("outlets.{k}.from_left")), m))?;
                for (part, what, text) in [("distance", "The distance from the wall", &o.distance), ("up", "The sill of the outlet", &o.up)]
                {
                    if !text.trim().is_empty() {
                        metres(what, text).map_err(|m| err(at(&format!("outlets.{k}.{part}")), m))?;
                    }
                }
            }
        }
        let mut masses = BTreeSet::new();
        for f in &self.flats {
            f.check()?;
            if !masses.insert(&f.mass) {
                return Err(err(format!("flats.{}.mass", f.mass), "The flat roof of one mass is kept once. Take the other away.".into()));
            }
        }
        match self.costs.values().find(|c| !(0.0..=1e6).contains(*c)) {
            Some(c) => Err(err("costs".into(), format!("A change cannot cost {c}. Type a figure from 0 to a million."))),
            None => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bores_and_levels_as_they_are_written() {
        assert_eq!(bore("75 mm").unwrap(), Bore::Round { diameter_mm: 75.0 });
        let Bore::Rectangular { width_mm, length_mm } = bore("2 x 3 in").unwrap() else { panic!("two figures are a rectangle") };
        assert!((width_mm - 50.8).abs() < 1e-9 && (length_mm - 76.2).abs() < 1e-9);
        assert!(bore("3 %").is_err() && bore("").is_err());
        let g = |levels: &str| GutterRecord { levels: levels.into(), ..Default::default() }.floor();
        assert_eq!(g("0 0, 7.5 12 mm").unwrap(), [[0.0, 0.0], [7.5, -0.012]]);
        assert_eq!(g("0 0; 3 -5 mm").unwrap()[1], [3.0, 0.005]);
        assert!(g("7 0, 3 12 mm").unwrap_err().contains("left end to the right"));
        for none in ["7.5", "7.5 mm", "ten 12 mm", "7.5 12", "inf 12 mm", "nan 0", "7.5 12 mm 3"] {
            assert!(g(none).is_err(), "{none}: {:?}", g(none));
        }
        // In feet and inches, place and depth, in either order of signs.
        for (text, place, height) in [
            ("24 ft 7 in 1/2 in", 7.4930, -0.0127),
            ("24 ft 1 1/2 in", 7.3152, -0.0381),
            ("3 m -5 mm", 3.0, 0.005),
            ("9' 1/4\"", 2.7432, -0.00635),
        ] {
            let [at, deep] = g(text).unwrap()[0];
            assert!((at - place).abs() < 1e-9 && (deep - height).abs() < 1e-9, "{text}: {at} {deep}");
        }
        assert!(g("0 0, 4 -0 mm").unwrap().iter().all(|l| l[1].is_sign_positive()), "level is level");
    }

    #[test]
    fn rain_in_both_units() {
        assert!((intensity("", "132 mm/h").unwrap() - 132.0).abs() < 1e-9);
        assert!((intensity("", "5.2 in/h").unwrap() - 132.08).abs() < 1e-6);
        assert!(intensity("", "5 ft").is_err());
    }
}
