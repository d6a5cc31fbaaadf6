//! Walls as they are kept: details with their laps, what was looked at before cladding, cladding that stands, cracks, floors.

use super::cracks::{CrackRecord, MOST_READINGS, SignRecord};
use super::floor::FloorPoint;
use super::laps::Over;
use super::matrix::{Again, CHECKS, Checked, FastenerRow};
use super::templates::Template;
use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::measure::Units;
use crate::roof::record::{RoofError, metres, own_name, some_metres};
use crate::site::Face;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// From which side the wind drives the water.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Wind {
    /// Straight down.
    #[default]
    Still,
    /// To the right.
    FromLeft,
    /// To the left.
    FromRight,
}

/// Sideways run of driven water for each metre of fall on a wall; an estimate, to show which laps depend on the wind.
const DRIVEN: f64 = 0.3;

impl Wind {
    /// Sideways run for each metre of fall, to the right positive.
    pub fn drift(self) -> f64 {
        match self {
            Wind::Still => 0.0,
            Wind::FromLeft => DRIVEN,
            Wind::FromRight => -DRIVEN,
        }
    }
}

/// A detail at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DetailRecord {
    /// Short and lasting: L1, L2 …
    pub id: String,
    /// Which detail.
    pub template: Template,
    /// Its face.
    pub face: Face,
    /// Where on it: `W3`, `R1`, "under the ledger".
    #[serde(default)]
    pub at: String,
    /// Its sizes as typed, by name; the usual ones where nothing is.
    #[serde(default)]
    pub sizes: BTreeMap<String, String>,
    /// Its faults, by name.
    #[serde(default)]
    pub faults: Vec<String>,
    /// Laps turned by hand, as they are now.
    #[serde(default)]
    pub turned: Vec<Over>,
    /// The wind it is looked at in.
    #[serde(default)]
    pub wind: Wind,
    /// It is closed up: nothing of it is reached without opening the wall.
    #[serde(default)]
    pub covered: bool,
    /// The order in which its pieces were put on, as far as it is known.
    #[serde(default)]
    pub installed: Vec<String>,
    /// In one's own words.
    #[serde(default)]
    pub text: String,
    /// Pictures of it, by their names in the job.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pictures: Vec<String>,
}

/// A length of masonry with its weeps and joints.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MasonryRecord {
    /// Short and lasting: M1, M2 …
    pub id: String,
    /// Its face.
    pub face: Face,
    /// What it is called.
    #[serde(default)]
    pub name: String,
    /// How long, as typed.
    pub length: String,
    /// Open weeps counted at its foot.
    #[serde(default)]
    pub weeps: u32,
    /// Where its movement joints are, from its left end, as typed with commas between.
    #[serde(default)]
    pub joints: String,
    /// Open holes that are no weeps.
    #[serde(default)]
    pub stray_holes: u32,
    /// The brick is painted.
    #[serde(default)]
    pub painted: bool,
}

/// Walls of a job.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Walls {
    /// Details with their laps.
    pub details: Vec<DetailRecord>,
    /// What was found before cladding, by place and check: `front.W1.head-lap`, `rear.slab-edge`.
    pub answers: BTreeMap<String, Checked>,
    /// Rows of fasteners that were counted.
    pub fasteners: Vec<FastenerRow>,
    /// What became of the do-not-cover list, by the name of its entry.
    pub again: BTreeMap<String, Again>,
    /// Masonry.
    pub masonry: Vec<MasonryRecord>,
    /// Cracks.
    pub cracks: Vec<CrackRecord>,
    /// Other signs that something moved.
    pub signs: Vec<SignRecord>,
    /// Heights of a floor.
    pub floor: Vec<FloorPoint>,
}

/// More than any job has of one kind.
const MOST: usize = 200;
/// Pictures of one detail: more are not looked at.
const MOST_PICTURES: usize = 12;

impl Walls {
    /// Checks that all of it can be kept.
    ///
    /// # Errors
    /// The first field that cannot, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| RoofError { field, message };
        let many = [self.details.len(), self.fasteners.len(), self.masonry.len(), self.cracks.len(), self.signs.len(), self.floor.len()];
        if many.iter().any(|n| *n > MOST) || self.answers.len() > 5000 || self.again.len() > 5000 {
            return Err(err("details".into(), "That is more than a building has. Keep what matters.".into()));
        }
        let mut ids = BTreeSet::new();
        let mut own = |of: &str, id: &str| own_name(&mut ids, of, id);
        let text = |field: String, text: &str, most: usize| too_long(text, most).map_or(Ok(()), |m| Err(err(field, m)));
        for d in &self.details {
            own("details", &d.id)?;
            let of = format!("details.{}", d.id);
            text(format!("{of}.at"), &d.at, SHORT_TEXT)?;
            text(format!("{of}.text"), &d.text, LONG_TEXT)?;
            let form = d.template.form();
            for (key, typed) in &d.sizes {
                let Some(size) = form.sizes.iter().find(|s| s.key == key) else {
                    return Err(err(
                        format!("{of}.sizes.{key}"),
                        format!("A {} has no size called \u{201c}{key}\u{201d}.", form.name.to_lowercase()),
                    ));
                };
                size.read(typed).map_err(|m| err(format!("{of}.sizes.{key}"), m))?;
            }
            if let Some(f) = d.faults.iter().find(|f| form.faults.iter().all(|k| k.key != **f)) {
                return Err(err(
                    format!("{of}.faults"),
                    format!("A {} is not known with the fault \u{201c}{f}\u{201d}.", form.name.to_lowercase()),
                ));
            }
            if d.pictures.len() > MOST_PICTURES {
                return Err(err(format!("{of}.pictures"), format!("At most {MOST_PICTURES} pictures of a detail are kept.")));
            }
            for p in &d.pictures {
                text(format!("{of}.pictures"), p, SHORT_TEXT)?;
            }
            if d.turned.len() + d.installed.len() > MOST {
                return Err(err(format!("{of}.turned"), "That is more than a detail has.".into()));
            }
        }
        for (key, a) in &self.answers {
            let check = key.rsplit('.').next().unwrap_or_default();
            let face = key.split('.').next().unwrap_or_default();
            let parts = key.split('.').count();
            let known = CHECKS.iter().any(|c| c.key == check && parts == if c.each { 3 } else { 2 });
            if !known || !Face::ALL.iter().any(|f| f.name().to_lowercase() == face) || too_long(key, SHORT_TEXT).is_some() {
                return Err(err(format!("answers.{key}"), "There is no such check at such a place.".into()));
            }
            text(format!("answers.{key}"), &a.text, LONG_TEXT)?;
        }
        for f in &self.fasteners {
            own("fasteners", &f.id)?;
            text(format!("fasteners.{}.row", f.id), &f.row, SHORT_TEXT)?;
            f.check().map_err(|m| err(format!("fasteners.{}.overdriven", f.id), m))?;
        }
        for key in self.again.keys() {
            text("again".into(), key, LONG_TEXT)?;
        }
        for m in &self.masonry {
            own("masonry", &m.id)?;
            let of = format!("masonry.{}", m.id);
            text(format!("{of}.name"), &m.name, SHORT_TEXT)?;
            let length = some_metres("The length", &m.length).map_err(|t| err(format!("{of}.length"), t))?;
            for at in m.joints() {
                let x = at.map_err(|t| err(format!("{of}.joints"), t))?;
                if x > length {
                    return Err(err(
                        format!("{of}.joints"),
                        "A joint lies past the end of the masonry. Type distances from its left end.".into(),
                    ));
                }
            }
            if m.weeps > 1000 || m.stray_holes > 1000 {
                return Err(err(format!("{of}.weeps"), "That many cannot be counted. Type the number of open ones.".into()));
            }
        }
        for c in &self.cracks {
            own("cracks", &c.id)?;
            if c.readings.len() > MOST_READINGS {
                return Err(err(format!("cracks.{}.readings", c.id), format!("At most {MOST_READINGS} readings of a crack are kept.")));
            }
            c.check().map_err(|(part, m)| err(format!("cracks.{}.{part}", c.id), m))?;
        }
        for s in &self.signs {
            own("signs", &s.id)?;
            text(format!("signs.{}.text", s.id), &s.text, SHORT_TEXT)?;
            if !s.from_left.trim().is_empty() {
                metres("The place", &s.from_left).map_err(|m| err(format!("signs.{}.from_left", s.id), m))?;
            }
        }
        for p in &self.floor {
            own("floor", &p.id)?;
            p.check().map_err(|(part, m)| err(format!("floor.{}.{part}", p.id), m))?;
        }
        Ok(())
    }
}

impl Walls {
    /// What a year of building speaks against: a reading of a crack that is older than the house.
    ///
    /// # Errors
    /// The first such reading.
    pub fn check_against(&self, year_built: Option<u16>) -> Result<(), RoofError> {
        let Some(year) = year_built else { return Ok(()) };
        for c in &self.cracks {
            if let Some(r) = c.readings.iter().find(|r| r.on.year() < year as i16) {
                let message = format!("{} was read on {}, before the house was built in {year}. Which of the two is wrong?", c.id, r.on);
                return Err(RoofError { field: format!("cracks.{}.readings", c.id), message });
            }
        }
        Ok(())
    }
}

impl super::templates::Size {
    /// A size as typed, in metres, if such a detail can have it.
    pub(crate) fn read(&self, typed: &str) -> Result<f64, String> {
        let m = metres(self.words, typed)?;
        if m < self.least_m - 1e-9 || m > self.most_m + 1e-9 {
            let [least, most] = [self.least_m, self.most_m].map(|m| Units::MetricUs.length(m, 2));
            return Err(format!("{} goes from {least} to {most} here. Was it in another unit?", self.words));
        }
        Ok(m)
    }
}

impl MasonryRecord {
    /// Its joints in metres from its left end.
    pub(crate) fn joints(&self) -> impl Iterator<Item = Result<f64, String>> + '_ {
        self.joints.split([',', ';']).filter(|t| !t.trim().is_empty()).map(|t| metres("The joint", t))
    }
}
