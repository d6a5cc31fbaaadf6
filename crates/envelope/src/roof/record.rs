//! The roof as it is kept: what a person measured and said, in their own units, and how masses stand against one another.
//!
//! Dimensions stay as they were typed. A bare number is metres; `59 ft`, `5486 mm` work as well. The plan's own frame has x
//! to the right seen from the front and y toward the rear; it is turned to true north by the direction the front faces.

use super::mass::Form;
use super::pitch::PitchRead;
pub(crate) use super::placed::{Placed, Standing, side_of, to_north, turn_of};
pub use super::typed::metres;
pub(crate) use super::typed::some_metres;
use crate::job::{SHORT_TEXT, too_long};
use crate::site::{Face, LimitReason};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

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
    pub(super) fn plain(self) -> Form {
        match self {
            RoofForm::Hip | RoofForm::Mansard => Form::Hip,
            RoofForm::Gable | RoofForm::HalfHip | RoofForm::Gambrel => Form::Gable,
            RoofForm::Shed => Form::Shed,
            RoofForm::Flat => Form::Flat,
        }
    }
    /// Its slopes break.
    pub(super) fn breaks(self) -> bool {
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

/// As much of a name as tells which it is.
fn shown(id: &str) -> String {
    id.chars().take(40).collect()
}

/// Refuses a short name that is empty, long or there twice among those of its list.
pub(crate) fn own_name(seen: &mut std::collections::BTreeSet<String>, of: &str, id: &str) -> Result<(), RoofError> {
    if !id.trim().is_empty() && too_long(id, SHORT_TEXT).is_none() && seen.insert(format!("{of} {id}")) {
        return Ok(());
    }
    Err(RoofError {
        field: format!("{of}.{}.id", shown(id)),
        message: format!("Give each of them a short name of its own; \u{201c}{}\u{201d} is empty, long or there twice.", shown(id)),
    })
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
}
