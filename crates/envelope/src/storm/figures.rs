//! What is said of a storm assessment, as figures and sentences.

use super::events::WhichStormOut;
use super::hail::{BreakEven, Directional, SlopeRate};
use super::hits::HitVerdict;
use super::record::{HowSeen, MarkKind};
use super::said::SaidCount;
use super::wind::{ExactShare, WindOut};
use crate::rain::account::Offered;
use crate::roof::access::Decision;
use crate::site::Face;
use serde::{Deserialize, Serialize};

/// A mark in a square.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SquareMark {
    /// Which.
    pub id: String,
    /// Where on the plan; none while its square has no place.
    pub at: Option<[f64; 2]>,
    /// Its size, metres.
    pub size_m: Option<f64>,
    /// What it counts as.
    pub verdict: HitVerdict,
    /// Why.
    pub words: String,
}

/// A square.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SquareOut {
    /// Which.
    pub id: String,
    /// Its facet.
    pub slope: String,
    /// Its corners on the plan: lower left, lower right, upper right, upper left; none while it has no place.
    pub corners: Vec<[f64; 2]>,
    /// From the left end of the slope to its left side, metres.
    pub from_left_m: Option<f64>,
    /// Up the slope from its low edge to the square's, metres.
    pub from_low_m: Option<f64>,
    /// The same in words, with where it comes from.
    pub place_words: Option<String>,
    /// Along the eave and up the slope, metres.
    pub size_m: [f64; 2],
    /// It was counted.
    pub counted: bool,
    /// Sure hits.
    pub sure: u32,
    /// Doubtful ones.
    pub doubtful: u32,
    /// Marks that are not from hail.
    pub not_hail: u32,
    /// The largest hit, metres.
    pub largest_m: Option<f64>,
    /// Its marks.
    pub marks: Vec<SquareMark>,
    /// In words.
    pub words: String,
    /// Why it has no place.
    pub problem: Option<String>,
}

/// A slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlopeStorm {
    /// Its facet.
    pub facet: String,
    /// "rear slope of the main".
    pub label: String,
    /// The face it falls to.
    pub face: Face,
    /// The way it falls, degrees; none on a flat roof.
    pub faces_deg: Option<f64>,
    /// Rise over run.
    pub pitch: f64,
    /// Its area, squares of 100 sq ft.
    pub area_squares: f64,
    /// What a hit on its covering most likely is.
    pub usual: MarkKind,
    /// The most that is advised of going up.
    pub decision: Decision,
    /// The same in words.
    pub advice: String,
    /// Why.
    pub advice_why: Vec<String>,
    /// How it was looked at; none while nothing is said.
    pub how: Option<HowSeen>,
    /// Why so.
    pub how_why: String,
    /// It was looked at by hand against the advice, and no reason is kept.
    pub against: Option<String>,
    /// The rate without doubtful hits; none without a counted square.
    pub rate_sure: Option<SlopeRate>,
    /// The rate with them.
    pub rate_all: Option<SlopeRate>,
    /// Costs compared without them; none while no costs are asked for.
    pub even_sure: Option<BreakEven>,
    /// With them.
    pub even_all: Option<BreakEven>,
    /// What follows, in words; empty without costs.
    pub verdict: String,
}

/// Soft metal of one face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SoftFace {
    /// Which face.
    pub face: Face,
    /// Its direction, degrees.
    pub faces_deg: Option<f64>,
    /// How many things were looked at.
    pub things: u32,
    /// Marks on them.
    pub count: u32,
    /// The largest, metres.
    pub largest_m: Option<f64>,
    /// Marks that look fresh.
    pub fresh: u32,
    /// Marks that look old.
    pub oxidised: u32,
    /// In words.
    pub words: String,
}

/// Whether a slope can be mended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum MendVerdict {
    /// It can.
    Mends,
    /// Mending breaks its neighbours.
    BreaksMore,
    /// So little life is left that it is not worth it.
    NotWorth,
    /// Not settled.
    Open,
}

/// A lift test with what follows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mend {
    /// Which test.
    pub id: String,
    /// The facet.
    pub slope: String,
    /// How many broke.
    pub broke: ExactShare,
    /// Years left by the school the practice follows, median; none while nothing is known.
    pub left_years: Option<f64>,
    /// What follows.
    pub verdict: MendVerdict,
    /// In words.
    pub words: String,
}

/// Which list a row stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RowOf {
    /// Parts of slopes.
    Wind,
    /// Seals tried by hand.
    Seals,
}

/// What a row that was counted says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RowWords {
    /// Its list.
    pub of: RowOf,
    /// The row.
    pub id: String,
    /// Its share with the exact range.
    pub words: String,
}

/// A storm assessment, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StormAccount {
    /// Squares, as they are kept.
    pub squares: Vec<SquareOut>,
    /// Slopes, in compass order.
    pub slopes: Vec<SlopeStorm>,
    /// Whether they were hit alike, by sure hits.
    pub directional: Option<Directional>,
    /// The same in words.
    pub directional_words: String,
    /// Soft metal, face by face.
    pub soft: Vec<SoftFace>,
    /// Wind; none while nothing was looked at.
    pub wind: Option<WindOut>,
    /// Rows of the count of wind and of seals, each with its share.
    pub row_words: Vec<RowWords>,
    /// How wide corners and edges are and why; none while width or eaves are not known.
    pub zone_words: Option<String>,
    /// Which storm; none while none is on record.
    pub which: Option<WhichStormOut>,
    /// Whether it can be mended.
    pub mends: Vec<Mend>,
    /// What may go to the round as notes.
    pub offered: Vec<Offered>,
    /// Counts that were told on the round and stand in no square.
    pub said: Vec<SaidCount>,
    /// What could not be reached, or was seen from afar.
    pub unreached: Vec<String>,
    /// Where people can be hurt.
    pub cautions: Vec<String>,
    /// From this chance up a mark is a sure hit.
    pub sure_at: f64,
    /// How sure all ranges are.
    pub confidence: f64,
    /// What stands in the way, in words.
    pub problems: Vec<String>,
}
