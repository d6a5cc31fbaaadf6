//! The roof as it is kept: what a person measured and said, in their own units, and how masses stand against one another.
//!
//! Dimensions stay as they were typed. A bare number is metres; `59 ft`, `5486 mm` work as well. The plan's own frame has x
//! to the right seen from the front and y toward the rear; it is turned to true north by the direction the front faces.

use super::covering::covering;
use super::mass::{Along, Form, Mass, Side, SideOf};
use super::pitch::{PitchRead, pitch};
pub use super::typed::metres;
pub(crate) use super::typed::some_metres;
use crate::job::{SHORT_TEXT, too_long};
use crate::site::{Bearing, Face, LimitReason};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// Which way a ridge runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RidgeWay {
    /// From left to right, seen from the front.
    #[default]
    Across,
    /// From the front to the rear.
    FrontToRear,
}

/// The form of a mass as people name it: settings of its four sides.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RoofForm {
    /// Falls to all four sides.
    Hip,
    /// Two slopes from a ridge.
    Gable,
    /// A gable whose ends slope from a height on.
    HalfHip,
    /// Two slopes, each steep below and less steep above.
    Gambrel,
    /// Falls to all four sides, steep below and less steep above.
    Mansard,
    /// One slope.
    Shed,
    /// Level.
    Flat,
}

impl RoofForm {
    /// The form its slopes have before anything differs.
    fn plain(self) -> Form {
        match self {
            RoofForm::Hip | RoofForm::Mansard => Form::Hip,
            RoofForm::Gable | RoofForm::HalfHip | RoofForm::Gambrel => Form::Gable,
            RoofForm::Shed => Form::Shed,
            RoofForm::Flat => Form::Flat,
        }
    }
    /// Its slopes break.
    fn breaks(self) -> bool {
        matches!(self, RoofForm::Gambrel | RoofForm::Mansard)
    }
}

/// What was measured otherwise at one face; what is empty is as for the whole mass.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct FaceOf {
    /// Height of its roof plane at the wall line.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub eave: String,
    /// Its pitch: 6:12, 26.6°, 50 %.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub pitch: String,
    /// Beyond its wall.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub overhang: String,
}

/// How a mass stands against another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Against {
    /// The other mass.
    pub mass: String,
    /// The other's face it stands at.
    pub face: Face,
    /// From that face's left end, seen from outside, to this mass; as typed.
    pub from_left: String,
    /// Its roof runs on into the other's slope, so that valleys or a pitch break form.
    #[serde(default)]
    pub runs_on: bool,
    /// So far in from that face stands its own wall, on the other's roof: a dormer, an upper storey set in. Empty: it stands outside.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub inward: String,
}

/// One mass as it was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MassRecord {
    /// Short and lasting: A, B …
    pub id: String,
    /// "main", "wing".
    pub name: String,
    /// Between the walls, from left to right seen from the front.
    pub length: String,
    /// Between the walls, from the front to the rear.
    pub depth: String,
    /// The form.
    pub form: RoofForm,
    /// Of a gable, half-hip or gambrel.
    #[serde(default)]
    pub ridge: RidgeWay,
    /// Of a gambrel or mansard: the height its slopes break at.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub break_at: String,
    /// Of a gambrel or mansard: their pitch above that, 4:12.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub upper_pitch: String,
    /// Of a half-hip: the height its ends slope from.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub ends_from: String,
    /// What was measured otherwise at a face.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub faces: BTreeMap<Face, FaceOf>,
    /// Of a shed: the face it falls to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub falls_to: Option<Face>,
    /// How its pitch was had; unused on a flat roof.
    #[serde(default)]
    pub pitch: PitchRead,
    /// Height of the roof plane at the wall line.
    pub eave: String,
    /// Beyond the walls.
    pub overhang: String,
    /// Its covering, by name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub covering: Option<String>,
    /// Where it stands; the first mass stands by itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub against: Option<Against>,
    /// Turned about its middle, degrees counterclockwise; seldom needed.
    #[serde(default)]
    pub turned_deg: f64,
}

/// What stands in or on a slope.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum FittingKind {
    /// Chimney or flue stack.
    Chimney,
    /// Skylight or roof window.
    Skylight,
    /// Pipe through the covering.
    Pipe,
    /// Vent, fan, curb.
    Curb,
}

impl FittingKind {
    /// One of them in words.
    pub fn name(self) -> &'static str {
        match self {
            FittingKind::Chimney => "chimney",
            FittingKind::Skylight => "skylight",
            FittingKind::Pipe => "pipe",
            FittingKind::Curb => "curb",
        }
    }
}

/// Something that stands in or on a slope.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Fitting {
    /// Short and lasting: F1, F2 …
    pub id: String,
    /// What it is.
    pub kind: FittingKind,
    /// "flue stack".
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// The mass it stands on.
    pub mass: String,
    /// The face its slope falls to.
    pub face: Face,
    /// Width across the slope.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub width: String,
    /// From the left end of the mass's wall on that face, seen from outside, to its middle.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub from_left: String,
    /// Up from the wall line, on the plan.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub up: String,
}

/// What was found at a detail.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "found", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Answer {
    /// As it should be.
    Right,
    /// Wrong, and how.
    Wrong {
        /// The condition, from the catalogue.
        condition: String,
        /// The note that was made of it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        note_id: Option<String>,
    },
    /// Could not be seen.
    NotSeen {
        /// Why.
        reason: LimitReason,
    },
}

/// What lies where the ladder would land.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Landing {
    /// Firm and level.
    #[default]
    Firm,
    /// Soft, or it slopes.
    Uncertain,
    /// None that a ladder can stand on.
    Nowhere,
}

/// What decides about going up, as met on the day.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct GoingUp {
    /// Moss or algae underfoot.
    pub mossy: bool,
    /// Rain or dew.
    pub wet: bool,
    /// Frost, ice or snow.
    pub frost: bool,
    /// Granules roll underfoot.
    pub loose: bool,
    /// Tiles, shakes or slates known to break, or soft decking.
    pub brittle: bool,
    /// Wind that pushes a person.
    pub windy: bool,
    /// Lines overhead where the ladder or a person would be.
    pub lines: bool,
    /// What the ladder stands on.
    pub landing: Landing,
    /// Anchors and a harness are there, and somebody trained to use them.
    pub protected: bool,
    /// Going up against the advice: why.
    pub overruled: String,
}

/// What a piece of evidence says of the age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Said {
    /// A permit.
    Permit {
        /// Its day.
        #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
        on: Date,
    },
    /// An invoice: like a permit.
    Invoice {
        /// Its day.
        #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
        on: Date,
    },
    /// Somebody's word.
    Stated {
        /// The age they gave, years.
        years: f64,
        /// They were there.
        #[serde(default)]
        first_hand: bool,
    },
    /// A range somebody gave.
    Range {
        /// From, years.
        low_years: f64,
        /// To, years.
        high_years: f64,
    },
    /// A dated picture, from the air or the street.
    Picture {
        /// Its day.
        #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
        on: Date,
        /// The covering is on it.
        there: bool,
    },
}

/// A piece of evidence on the age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Paper {
    /// What it says.
    #[serde(flatten)]
    pub said: Said,
    /// Where it is from: "permit office", "the owner".
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub source: String,
    /// The masses it speaks of; all when none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub masses: Vec<String>,
    /// The chance that it means what it says, when somebody doubts it more or less than is usual.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub right: Option<f64>,
    /// Left out of the weighing, and kept.
    #[serde(default)]
    pub set_aside: bool,
}

/// The climate of the place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Climate {
    /// Hot and humid.
    HotHumid,
    /// Hot and dry.
    HotDry,
    /// Freezes and thaws.
    FreezeThaw,
    /// By the sea.
    Marine,
    /// Temperate.
    #[default]
    Temperate,
}

/// What shortens life, and what a new roof costs.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Setting {
    /// The climate.
    pub climate: Climate,
    /// South of the equator: the sun stands in the north.
    pub southern: bool,
    /// How long a worn-out roof stays on here until it is renewed, on average, years.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wait_years: Option<f64>,
    /// The attic is poorly ventilated.
    pub poor_ventilation: bool,
    /// It lies over an older layer.
    pub second_layer: bool,
    /// It was laid poorly.
    pub poor_workmanship: bool,
    /// Hail fell on it.
    pub past_hail: bool,
    /// Facets under overhanging trees.
    pub under_trees: Vec<String>,
    /// Masses whose product is known to fail early without repair: why that is known.
    pub fails_early: BTreeMap<String, String>,
    /// Cost of renewing a square, by covering, where it is not the usual figure.
    pub cost_per_square: BTreeMap<String, f64>,
}

/// A roof, as it is kept.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Roof {
    /// The walls as they were walked: `18 L 9 L 18 L 9`.
    pub perimeter: String,
    /// The masses, the one the others stand against first.
    pub masses: Vec<MassRecord>,
    /// What stands in or on the slopes.
    pub fittings: Vec<Fitting>,
    /// What was found at the details, by the detail's name.
    pub answers: BTreeMap<String, Answer>,
    /// What decides about going up.
    pub going_up: GoingUp,
    /// Evidence on the age.
    pub papers: Vec<Paper>,
    /// Grades of wear by facet and sign.
    pub wear: BTreeMap<String, BTreeMap<String, u8>>,
    /// What shortens life.
    pub setting: Setting,
}

/// Why a roof cannot be kept as it is.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct RoofError {
    /// The field, as it is called in JSON: `masses.B.length`.
    pub field: String,
    /// What is wrong and what to do.
    pub message: String,
}

/// Refuses a short name that is empty, long or there twice among those of its list.
pub(crate) fn own_name(seen: &mut std::collections::BTreeSet<String>, of: &str, id: &str) -> Result<(), RoofError> {
    if !id.trim().is_empty() && too_long(id, SHORT_TEXT).is_none() && seen.insert(format!("{of} {id}")) {
        return Ok(());
    }
    Err(RoofError {
        field: format!("{of}.{id}.id"),
        message: format!("Give each of them a short name of its own; \u{201c}{id}\u{201d} is empty, long or there twice."),
    })
}

/// A mass, placed in the building's own frame: its corner nearest to the front left, and its sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Standing {
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) length: f64,
    pub(crate) depth: f64,
}

impl Standing {
    /// The length of a face.
    pub(crate) fn side(&self, face: Face) -> f64 {
        if matches!(face, Face::Front | Face::Rear) { self.length } else { self.depth }
    }
    /// The same, so deep from the wall that looks to a face.
    fn deeper(self, face: Face, depth: f64) -> Standing {
        match face {
            Face::Front => Standing { depth, ..self },
            Face::Rear => Standing { y: self.y + self.depth - depth, depth, ..self },
            Face::Left => Standing { length: depth, ..self },
            Face::Right => Standing { x: self.x + self.length - depth, length: depth, ..self },
        }
    }
    /// A point in the building's frame: so far from a face's left end, seen from outside, and so far in from it.
    pub(crate) fn point(&self, face: Face, from_left: f64, inward: f64) -> [f64; 2] {
        match face {
            Face::Front => [self.x + from_left, self.y + inward],
            Face::Rear => [self.x + self.length - from_left, self.y + self.depth - inward],
            Face::Left => [self.x + inward, self.y + self.depth - from_left],
            Face::Right => [self.x + self.length - inward, self.y + from_left],
        }
    }
}

/// The side of a mass, in its own directions, that a face looks from.
pub(crate) fn side_of(face: Face) -> Side {
    match face {
        Face::Front => Side::MinusV,
        Face::Left => Side::MinusU,
        Face::Rear => Side::PlusV,
        Face::Right => Side::PlusU,
    }
}

/// Degrees the building's frame is turned counterclockwise from east and north. While the front's direction is not known it is
/// drawn as if the front looked south.
pub(crate) fn turn_of(front: Option<Bearing>) -> f64 {
    front.map_or(0.0, |f| 180.0 - f.degrees())
}

/// A point of the building's frame, east and north.
pub(crate) fn to_north(p: [f64; 2], front: Option<Bearing>) -> [f64; 2] {
    let (s, c) = turn_of(front).to_radians().sin_cos();
    [p[0] * c - p[1] * s, p[0] * s + p[1] * c]
}

/// The masses of a roof, placed and in metres, and what does not fit, in words.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Placed {
    pub(crate) masses: Vec<Mass>,
    pub(crate) standing: Vec<Standing>,
    /// What stands on the roof of another mass: which, and the face its own wall looks to.
    pub(crate) on: Vec<Option<(usize, Face)>>,
    pub(crate) doubts: Vec<String>,
}

const MOST_FITTINGS: usize = 200;
const MOST_PAPERS: usize = 40;

impl Roof {
    /// Checks everything but what only the day of the visit can tell.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| Err(RoofError { field, message });
        if self.masses.len() > super::mass::MOST_MASSES || self.fittings.len() > MOST_FITTINGS || self.papers.len() > MOST_PAPERS {
            return err("masses".into(), "This is more than a roof has. Split the job.".into());
        }
        if let Some(message) = too_long(&self.perimeter, 4000).or_else(|| too_long(&self.going_up.overruled, 2000)) {
            return err("perimeter".into(), message);
        }
        if !self.perimeter.trim().is_empty() {
            let walked = super::walked::walls(&self.perimeter).and_then(|w| {
                super::perimeter::traverse(&super::perimeter::TraverseInput { heading0_deg: 0.0, walls: w }).map_err(|e| e.to_string())
            });
            walked.map_err(|message| RoofError { field: "perimeter".into(), message })?;
        }
        let texts = self.fittings.iter().flat_map(|f| [&f.id, &f.name]).chain(self.papers.iter().map(|p| &p.source));
        if let Some(message) = texts.chain(self.masses.iter().map(|m| &m.name)).find_map(|t| too_long(t, SHORT_TEXT)) {
            return err("name".into(), message);
        }
        if !self.masses.is_empty() {
            self.placed(None)?;
        }
        let known = |id: &String| self.masses.iter().any(|m| m.id == *id);
        for f in &self.fittings {
            let field = |part: &str| format!("fittings.{}.{part}", f.id);
            if !known(&f.mass) {
                return err(field("mass"), format!("{} stands on no mass there is. Choose one.", f.kind.name()));
            }
            for (part, what, text) in [
                ("width", "The width", &f.width),
                ("from_left", "The distance from the left end", &f.from_left),
                ("up", "The way up", &f.up),
            ] {
                if !text.trim().is_empty() {
                    metres(what, text).map_err(|message| RoofError { field: field(part), message })?;
                }
            }
        }
        for (i, p) in self.papers.iter().enumerate() {
            if let Some(m) = p.masses.iter().find(|m| !known(m)) {
                return err(format!("papers.{i}.masses"), format!("\u{201c}{m}\u{201d} is no mass of this roof."));
            }
            let years = match p.said {
                Said::Stated { years, .. } => Some((years, years)),
                Said::Range { low_years, high_years } => Some((low_years, high_years)),
                _ => None,
            };
            if let Some((low, high)) = years.filter(|(l, h)| !(0.0..=60.0).contains(l) || !(0.0..=60.0).contains(h) || h < l) {
                return err(
                    format!("papers.{i}.years"),
                    format!("{low} to {high} years cannot be. Type years from 0 to 60, the lower first."),
                );
            }
        }
        for (facet, grades) in &self.wear {
            if let Some((sign, g)) = grades.iter().find(|(s, g)| **g > 4 || super::covering::signs().iter().all(|k| k.key != **s)) {
                return err(
                    format!("wear.{facet}.{sign}"),
                    format!("\u{201c}{sign}\u{201d} is graded {g}; known signs are graded from 0 to 4."),
                );
            }
        }
        if let Some(c) = self.setting.cost_per_square.values().find(|c| !(0.0..=1e6).contains(*c)) {
            return err("setting.cost_per_square".into(), format!("A square cannot cost {c}. Type a figure from 0 to a million."));
        }
        for answer in self.answers.values() {
            if let Answer::Wrong { condition, .. } = answer
                && crate::finding::catalogue().get(condition).is_none()
            {
                return err("answers".into(), format!("\u{201c}{condition}\u{201d} is not in the catalogue of conditions."));
            }
        }
        Ok(())
    }

    /// The masses placed against one another, east and north when the front's direction is known.
    ///
    /// # Errors
    /// The first mass that cannot be built or placed.
    pub(crate) fn placed(&self, front: Option<Bearing>) -> Result<Placed, RoofError> {
        let mut out = Placed { masses: Vec::new(), standing: Vec::new(), on: Vec::new(), doubts: Vec::new() };
        let mut ids = BTreeSet::new();
        for m in &self.masses {
            let at = |part: &str, message: String| RoofError { field: format!("masses.{}.{part}", m.id), message };
            if !ids.insert(&m.id) {
                return Err(at("id", format!("Two masses are called {}. Give each its own letter.", m.id)));
            }
            let figure = |part: &str, what: &str, text: &str| some_metres(&format!("{}: {what}", m.name), text).map_err(|e| at(part, e));
            let (length, depth) = (figure("length", "the length", &m.length)?, figure("depth", "the depth", &m.depth)?);
            let eave = metres(&format!("{}: the eave height", m.name), &m.eave).map_err(|e| at("eave", e))?;
            let overhang = metres(&format!("{}: the overhang", m.name), &m.overhang).map_err(|e| at("overhang", e))?;
            let slope =
                if m.form == RoofForm::Flat { 0.0 } else { pitch(&m.pitch).map_err(|e| at("pitch", format!("{}: {e}", m.name)))?.pitch };
            let sides = sides_of(m)?;
            if let Some(c) = m.covering.as_ref().filter(|c| covering(c).is_none()) {
                return Err(at("covering", format!("\u{201c}{c}\u{201d} is not a covering Trowel knows.")));
            }
            let mut standing = Standing { x: 0.0, y: 0.0, length, depth };
            let (mut grown, mut toward, mut on) = (0.0, None, None);
            if let Some(a) = &m.against {
                let Some(k) = self.masses.iter().position(|o| o.id == a.mass).filter(|k| *k < out.masses.len()) else {
                    return Err(at("against", format!("{} stands against {}, which is not above it in the list.", m.name, a.mass)));
                };
                let (other, name) = (out.standing[k], &self.masses[k].name);
                let from_left =
                    metres(&format!("{}: the distance from the left end", m.name), &a.from_left).map_err(|e| at("from_left", e))?;
                if from_left >= other.side(a.face) {
                    return Err(at(
                        "from_left",
                        format!(
                            "{} would stand {from_left:.2} m along the {} face of {name}, which is {:.2} m long: the two would not touch.",
                            m.name,
                            a.face.name().to_lowercase(),
                            other.side(a.face)
                        ),
                    ));
                }
                let inward = if a.inward.trim().is_empty() {
                    None
                } else {
                    Some(metres(&format!("{}: the way in from that face", m.name), &a.inward).map_err(|e| at("inward", e))?)
                };
                let corner = other.point(a.face, from_left, inward.unwrap_or(0.0));
                // Outside it reaches away from its wall, on the roof inward from it.
                let away = inward.is_none();
                (standing.x, standing.y) = match a.face {
                    Face::Front => (corner[0], if away { corner[1] - depth } else { corner[1] }),
                    Face::Rear => (corner[0] - length, if away { corner[1] } else { corner[1] - depth }),
                    Face::Left => (if away { corner[0] - length } else { corner[0] }, corner[1] - depth),
                    Face::Right => (if away { corner[0] } else { corner[0] - length }, corner[1]),
                };
                let planes = (&out.masses[k], m, slope, eave);
                match runs_on(planes, &standing, a, inward) {
                    Ok(by) if a.runs_on => (grown, toward) = (by, Some(a.face)),
                    Err(why) if a.runs_on => out.doubts.push(why),
                    _ => {}
                }
                let ends = !a.runs_on && inward.is_none();
                if let Some(doubt) = ends.then(|| meets_roof(&out.masses[k], m, slope, eave, &standing, a, name)).flatten() {
                    out.doubts.push(doubt);
                }
                if inward.is_some() && grown > 0.0 {
                    // How deep a dormer is follows from where it dies into the slope; where it does not, it is as deep as was typed.
                    (standing, grown) = (standing.deeper(a.face, grown), 0.0);
                }
                if let Some(inward) = inward {
                    on = Some((k, a.face));
                    out.doubts.extend(stands_on(&out.masses[k], &out.standing[k], m, &standing, eave, a, inward));
                }
            }
            let built = build(m, standing, slope, eave, overhang, grown, toward, front, sides);
            built.check().map_err(|e| at("form", e.to_string()))?;
            out.masses.push(built);
            out.standing.push(standing);
            out.on.push(on);
        }
        Ok(out)
    }
}

/// A mass in metres. One that runs on is longer by `grown` toward the mass it stands against.
#[allow(clippy::too_many_arguments, reason = "one place turns a record into a mass")]
fn build(
    m: &MassRecord,
    s: Standing,
    slope: f64,
    eave: f64,
    overhang: f64,
    grown: f64,
    against: Option<Face>,
    front: Option<Bearing>,
    sides: BTreeMap<Side, SideOf>,
) -> Mass {
    let (mut x, mut y, mut length, mut depth) = (s.x, s.y, s.length, s.depth);
    match against {
        Some(Face::Front) => depth += grown,
        Some(Face::Rear) => (y, depth) = (y - grown, depth + grown),
        Some(Face::Left) => length += grown,
        Some(Face::Right) => (x, length) = (x - grown, length + grown),
        None => {}
    }
    Mass {
        id: m.id.clone(),
        centre_m: to_north([x + length / 2.0, y + depth / 2.0], front),
        len_u_m: length,
        len_v_m: depth,
        rot_deg: turn_of(front) + m.turned_deg,
        eave_height_m: eave,
        pitch: slope,
        overhang_m: overhang,
        form: m.form.plain(),
        ridge_along: (m.form.plain() == Form::Gable).then_some(m.ridge_along()),
        downslope: m.falls_to.filter(|_| m.form == RoofForm::Shed).map(side_of),
        sides,
    }
}

impl MassRecord {
    fn ridge_along(&self) -> Along {
        if self.ridge == RidgeWay::Across { Along::U } else { Along::V }
    }

    /// Whether a face is an end of its ridge.
    fn is_end(&self, face: Face) -> bool {
        (self.ridge == RidgeWay::Across) == matches!(face, Face::Left | Face::Right)
    }
}

/// What differs by side, in metres.
fn sides_of(m: &MassRecord) -> Result<BTreeMap<Side, SideOf>, RoofError> {
    let at = |part: &str, message: String| RoofError { field: format!("masses.{}.{part}", m.id), message };
    let height = |part: &str, what: &str, text: &str| metres(&format!("{}: {what}", m.name), text).map_err(|e| at(part, e));
    let steep = |part: &str, text: &str| {
        pitch(&PitchRead::Typed { text: text.to_owned() }).map(|p| p.pitch).map_err(|e| at(part, format!("{}: {e}", m.name)))
    };
    let mut out: BTreeMap<Side, SideOf> = BTreeMap::new();
    for face in Face::ALL {
        let side = out.entry(side_of(face)).or_default();
        let end = m.form.plain() == Form::Gable && m.is_end(face);
        if m.form.breaks() && !end {
            side.break_height_m = Some(height("break_at", "the height of the break", &m.break_at)?);
            side.upper_pitch = Some(steep("upper_pitch", &m.upper_pitch)?);
        }
        if m.form == RoofForm::HalfHip && end {
            side.eave_height_m = Some(height("ends_from", "the height its ends slope from", &m.ends_from)?);
        }
        let Some(own) = m.faces.get(&face) else { continue };
        let part = |of: &str| format!("faces.{}.{of}", face.name().to_lowercase());
        if !own.overhang.trim().is_empty() {
            side.overhang_m = Some(height(&part("overhang"), "the overhang", &own.overhang)?);
        }
        let upright = end || m.form == RoofForm::Flat || m.form == RoofForm::Shed && m.falls_to != Some(face);
        if upright && !(own.eave.trim().is_empty() && own.pitch.trim().is_empty()) && !(end && m.form == RoofForm::HalfHip) {
            return Err(at(
                &part("eave"),
                format!(
                    "{}: the {} side has no slope, so it has no eave or pitch of its own. Leave them empty.",
                    m.name,
                    face.name().to_lowercase()
                ),
            ));
        }
        if !own.eave.trim().is_empty() {
            side.eave_height_m = Some(height(&part("eave"), "the eave height", &own.eave)?);
        }
        if !own.pitch.trim().is_empty() {
            side.pitch = Some(steep(&part("pitch"), &own.pitch)?);
        }
    }
    out.retain(|_, s| *s != SideOf::default());
    Ok(out)
}

/// What is odd about something that stands on another's roof.
fn stands_on(other: &Mass, under: &Standing, m: &MassRecord, s: &Standing, eave: f64, a: &Against, inward: f64) -> Vec<String> {
    let mut out = Vec::new();
    let beyond = s.x < under.x - 1e-6
        || s.y < under.y - 1e-6
        || s.x + s.length > under.x + under.length + 1e-6
        || s.y + s.depth > under.y + under.depth + 1e-6;
    if beyond {
        out.push(format!("{} stands on {} and reaches beyond its walls. Check where it stands and how long it is.", m.name, a.mass));
    }
    let side = side_of(a.face);
    let roof = if other.slopes().contains(&side) { other.height_in(side, inward) } else { other.eave_height_m };
    if eave <= roof {
        out.push(format!(
            "{}: its eave stands at {eave:.2} m where the roof under its wall stands at {roof:.2} m: it would be under the roof. Check the two heights.",
            m.name
        ));
    }
    out
}

/// How far a roof runs on into the slope it stands against, from the wall line.
///
/// Of something that stands on the roof, how deep it is from its own wall.
fn runs_on((other, m, slope, eave): (&Mass, &MassRecord, f64, f64), s: &Standing, a: &Against, inward: Option<f64>) -> Result<f64, String> {
    let face = a.face.name().to_lowercase();
    if !other.slopes().contains(&side_of(a.face)) {
        return Err(format!("{} cannot run on: the {face} side of {} has no slope to run into.", m.name, a.mass));
    }
    let across = if matches!(a.face, Face::Front | Face::Rear) { s.length } else { s.depth };
    let along = if inward.is_some() { 0.0 } else { s.depth + s.length - across };
    // The highest line of this roof that reaches the other, at the wall line; and how it goes on rising beyond.
    let (top, rises, more) = match m.form.plain() {
        // Running on makes it longer, so that its ridge stands half its width in, however short it was.
        Form::Hip => (eave + slope * across / 2.0, 0.0, across / 2.0),
        Form::Gable if (m.ridge == RidgeWay::FrontToRear) == matches!(a.face, Face::Front | Face::Rear) => {
            (eave + slope * across / 2.0, 0.0, 0.0)
        }
        Form::Shed if m.falls_to == Some(a.face) => (eave + slope * along, slope, 0.0),
        Form::Shed if m.falls_to.is_some_and(|f| (f.turn() - a.face.turn()).rem_euclid(180.0) != 0.0) => (eave + slope * across, 0.0, 0.0),
        Form::Flat => (eave, 0.0, 0.0),
        _ => {
            return Err(format!(
                "{} cannot run on: its roof falls toward {} there. Change the ridge, or let it end at the wall.",
                m.name, a.mass
            ));
        }
    };
    // A line that rises inward is met as if it had begun at the other's wall.
    let begins = inward.unwrap_or(0.0);
    let far = other.reach(side_of(a.face));
    let by = other.meets(side_of(a.face), top - rises * begins, rises).filter(|by| *by <= far + 1e-9);
    let Some(by) = by else {
        return Err(format!("{} stands higher than the roof of {} it should run into. Check the two heights.", m.name, a.mass));
    };
    let by = by - begins;
    // Nothing to run into: it ends below the other's eave.
    Ok(if by > 0.0 { by + more } else { 0.0 })
}

/// A mass that ends at a wall must do so below that wall's eave.
fn meets_roof(other: &Mass, m: &MassRecord, slope: f64, eave: f64, s: &Standing, a: &Against, name: &str) -> Option<String> {
    let along = if matches!(a.face, Face::Front | Face::Rear) { s.depth } else { s.length };
    let top = match m.form {
        RoofForm::Shed if m.falls_to == Some(a.face) => eave + slope * along,
        _ => eave,
    };
    let height = other.eave_of(side_of(a.face));
    (other.slopes().contains(&side_of(a.face)) && top > height + 1e-9).then(|| {
        format!(
            "{}: its top stands at {top:.2} m where the eave of {name} is at {:.2} m. It cannot end against the wall: let it run on, or check the two heights.",
            m.name, height
        )
    })
}
