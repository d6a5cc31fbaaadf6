//! What is said of a roof, as figures: masses, slopes, coverings, fittings.

use super::access::Access;
use super::details::Detail;
use super::elevation::Elevation;
use super::life::Life;
use super::perimeter::Traverse;
use super::pitch::Pitch;
use super::record::Roof;
use super::shape::RoofShape;
use crate::job::Brief;
use crate::practice::Practice;
use crate::site::Face;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// Input of `calc roof-account`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AccountInput {
    /// The roof as it is kept.
    pub roof: Roof,
    /// The brief: the front's direction, the day of the visit, the year of building.
    #[serde(default)]
    pub brief: Brief,
    /// The practice; the usual schools when it is not given.
    #[serde(default)]
    pub practice: Practice,
    /// The day to count from while the brief names no day of visit.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub today: Date,
}

/// A mass on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassAccount {
    /// Its letter.
    pub id: String,
    /// "main".
    pub name: String,
    /// Its pitch, worked out; none on a flat roof.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pitch: Option<Pitch>,
    /// Its walls on the plan.
    pub walls: Vec<[f64; 2]>,
    /// Going up or not.
    pub access: Access,
}

/// Something that shortens or lengthens a life.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Modifier {
    /// What.
    pub what: String,
    /// By how much; they multiply.
    pub factor: f64,
}

/// A layer beneath or in the covering.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LayerAccount {
    /// "underlayment".
    pub name: String,
    /// Why it counts by itself.
    pub why: String,
    /// Age, life and what is left, by the papers alone: it is not seen.
    pub life: Life,
}

/// A slope on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Slope {
    /// Its facet.
    pub facet: String,
    /// "rear slope of the main".
    pub label: String,
    /// The face it falls to.
    pub face: Face,
    /// The covering, by name in the data.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub covering: Option<String>,
    /// The covering in words; "covering not said" while it is not.
    pub covering_name: String,
    /// The signs of wear that can be graded here, with the grades given.
    pub signs: Vec<Graded>,
    /// Typical life with all modifiers, years.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub median_life_years: Option<f64>,
    /// What makes it differ from the typical one.
    pub modifiers: Vec<Modifier>,
    /// Age, life and what is left.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub life: Option<Life>,
    /// What is left by the school the practice follows: 10 %, median, 90 %, years.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub left: Option<[f64; 3]>,
    /// Why there is no answer.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub problem: Option<String>,
    /// Its life is spent, and why.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub spent: Option<String>,
    /// A layer that ages by itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub layer: Option<LayerAccount>,
}

/// A sign of wear on a slope.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Graded {
    /// Which.
    pub sign: String,
    /// The grade, when one was given.
    pub grade: Option<u8>,
}

/// What the covering as a whole asks for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CoveringAccount {
    /// The covering, by name in the data.
    pub covering: String,
    /// "laminated asphalt".
    pub name: String,
    /// The result as a sentence.
    pub sentence: String,
    /// The slope the whole is judged by: the worst of more than a tenth of its area.
    pub worst: String,
    /// Squares to renew.
    pub squares: f64,
    /// The year to plan for, and the one to be ready from.
    pub plan_year: i16,
    /// The earliest year worth being ready for: nine chances in ten that it lasts until then.
    pub ready_from: i16,
    /// Cost of a square that was used.
    pub cost_per_square: f64,
    /// Cost of renewing it.
    pub cost: f64,
    /// To be put aside each year until then.
    pub reserve_per_year: f64,
    /// It is overdue, in words: more likely than not it is worn out already.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub overdue: Option<String>,
    /// How the three schools differ here, and why.
    pub schools: String,
    /// Papers and wear that cannot both be right.
    pub conflicts: Vec<String>,
}

/// Where a fitting stands on the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FittingAccount {
    /// Which.
    pub id: String,
    /// "flue stack".
    pub name: String,
    /// Its middle.
    pub at: [f64; 2],
    /// Its width, metres, when it was given.
    pub width_m: Option<f64>,
    /// The direction across its slope, degrees counterclockwise from east.
    pub turned_deg: f64,
}

/// A roof, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Account {
    /// The perimeter as it was walked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub perimeter: Option<Traverse>,
    /// Facets and edges; none while there is no mass.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub shape: Option<RoofShape>,
    /// The masses.
    pub masses: Vec<MassAccount>,
    /// The slopes, in the order of the facets.
    pub slopes: Vec<Slope>,
    /// What stands on them.
    pub fittings: Vec<FittingAccount>,
    /// The building seen from each face.
    pub elevations: Vec<Elevation>,
    /// What must exist.
    pub details: Vec<Detail>,
    /// Age and life by covering.
    pub coverings: Vec<CoveringAccount>,
    /// The evidence on the age in words, in the order it is kept.
    pub papers: Vec<String>,
    /// The direction of north is known.
    pub oriented: bool,
    /// What should be looked at again, in words.
    pub doubts: Vec<String>,
    /// Why there is no shape.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub problem: Option<String>,
}
