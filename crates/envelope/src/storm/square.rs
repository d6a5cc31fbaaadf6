//! A test square as it is kept: where it lies, how it was looked at, its marks.

use super::hits::{HitInput, hit};
use super::record::HowSeen;
use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::roof::record::metres;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// No hailstone on record left a larger mark, metres.
pub const MOST_MARK_M: f64 = 0.15;

/// Nobody counts more in one square.
pub(super) const MOST_HITS: usize = 500;

/// Longer than any slope.
const MOST_SLOPE_M: f64 = 1000.0;

/// What a mark is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum MarkKind {
    /// Soft spot, the mat bruised.
    #[default]
    Bruise,
    /// The mat is broken.
    Fracture,
    /// Granules gone, the mat bright.
    GranulesGone,
    /// Wood split, edges sharp and fresh.
    Split,
    /// A dent in metal.
    Dent,
    /// A cracked tile.
    Crack,
    /// Not from hail: seen and told apart by eye.
    Other,
}

/// A mark in a square.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HitKept {
    /// Short and lasting.
    pub id: String,
    /// From the left side of the square, as a part of its width.
    pub x: f64,
    /// Up from its lower side, as a part of its height.
    pub y: f64,
    /// Its size, as typed; empty while it was not measured.
    #[serde(default)]
    pub size: String,
    /// What it is.
    #[serde(default)]
    pub kind: MarkKind,
    /// The person is not sure.
    #[serde(default)]
    pub unsure: bool,
    /// Signs that were looked at; they are weighed and then decide.
    #[serde(default)]
    pub signs: BTreeMap<String, String>,
    /// The picture it was marked on; empty when it was tapped or typed.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub picture: String,
}

/// A square that was moved from where the seed put it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SquareMoved {
    /// From the left end of the slope, as typed.
    pub from_left: String,
    /// Up the slope from its low edge, as typed.
    pub from_low: String,
    /// Why it was moved.
    pub why: String,
}

/// Where a square lay when counting began: its lower left corner.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DrawnAt {
    /// From the left end of the slope, metres.
    pub from_left_m: f64,
    /// Up the slope from its low edge, metres.
    pub from_low_m: f64,
}

/// A test square.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SquareKept {
    /// Short and lasting: Q1, Q2 …
    pub id: String,
    /// Its facet.
    pub slope: String,
    /// What its place is drawn from; kept, so that anyone can draw it again.
    pub seed: u32,
    /// Along the eave, as typed.
    pub wide: String,
    /// Up the slope, as typed.
    pub high: String,
    /// Where it was moved to, and why.
    #[serde(default)]
    pub moved: Option<SquareMoved>,
    /// Where the seed put it when counting began. A new drawing keeps clear of what is there then, and what was counted must not wander.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drawn: Option<DrawnAt>,
    /// How it was looked at.
    #[serde(default)]
    pub how: HowSeen,
    /// It has been counted: none found is a finding too.
    #[serde(default)]
    pub counted: bool,
    /// Hits that were counted without their places.
    #[serde(default)]
    pub unplaced: u32,
    /// The largest of them, as typed.
    #[serde(default)]
    pub largest: String,
    /// Marks.
    #[serde(default)]
    pub hits: Vec<HitKept>,
}

/// A size as typed, metres; none while nothing was typed.
pub(super) fn mark_size(text: &str) -> Result<Option<f64>, String> {
    if text.trim().is_empty() {
        return Ok(None);
    }
    let m = metres("The size", text)?;
    if !(0.0005..=MOST_MARK_M).contains(&m) {
        return Err(format!("A mark of {text} is no hail: the largest on record are under 150 mm (6 in)."));
    }
    Ok(Some(m))
}

/// A side of a square as typed, metres.
pub(super) fn side(what: &str, text: &str) -> Result<f64, String> {
    let m = metres(what, text)?;
    if (0.3..=30.0).contains(&m) { Ok(m) } else { Err(format!("{what} of {text} cannot be. The usual square is 10 ft by 10 ft.")) }
}

impl SquareKept {
    /// Counting has begun: its place is no longer free.
    pub(super) fn begun(&self) -> bool {
        self.counted || self.unplaced > 0 || !self.hits.is_empty()
    }
    /// The same drawing: the same place would come of it.
    pub(super) fn drawn_as(&self, o: &SquareKept) -> bool {
        (&self.id, &self.slope, self.seed, &self.wide, &self.high) == (&o.id, &o.slope, o.seed, &o.wide, &o.high)
    }
    pub(super) fn check(&self) -> Result<(), (String, String)> {
        let own = |part: &str, m: String| Err((part.to_owned(), m));
        if self.slope.trim().is_empty() {
            return own("slope", "Choose the slope it lies on.".into());
        }
        side("The width", &self.wide).map_err(|m| ("wide".to_owned(), m))?;
        side("The height", &self.high).map_err(|m| ("high".to_owned(), m))?;
        if let Some(m) = &self.moved {
            metres("From the left", &m.from_left).map_err(|e| ("moved.from_left".to_owned(), e))?;
            metres("From the low edge", &m.from_low).map_err(|e| ("moved.from_low".to_owned(), e))?;
            if m.why.trim().is_empty() {
                return own("moved.why", "Say why it was moved from where it was drawn: a moved square is asked about.".into());
            }
            if let Some(m) = too_long(&m.why, LONG_TEXT) {
                return own("moved.why", m);
            }
        }
        if let Some(d) = self.drawn
            && ![d.from_left_m, d.from_low_m].iter().all(|m| (-MOST_SLOPE_M..=MOST_SLOPE_M).contains(m))
        {
            return own("drawn", "No slope is as long as that.".into());
        }
        mark_size(&self.largest).map_err(|m| ("largest".to_owned(), m))?;
        if self.hits.len() > MOST_HITS || self.unplaced as usize > MOST_HITS {
            return own("hits", format!("More than {MOST_HITS} hits in one square are not counted by hand. Take a smaller square."));
        }
        if self.how == HowSeen::NotReached && (self.counted || self.unplaced > 0 || !self.hits.is_empty()) {
            return own("how", "What was not reached was not counted. Say how it was looked at.".into());
        }
        let mut ids = BTreeSet::new();
        for h in &self.hits {
            let field = |part: &str| format!("hits.{}.{part}", h.id);
            if h.id.trim().is_empty() || too_long(&h.id, SHORT_TEXT).is_some() || !ids.insert(&h.id) {
                return Err((field("id"), "Give each hit a short name of its own.".into()));
            }
            if !(0.0..=1.0).contains(&h.x) || !(0.0..=1.0).contains(&h.y) {
                return Err((field("x"), format!("{} lies outside its square and does not count.", h.id)));
            }
            if too_long(&h.picture, SHORT_TEXT).is_some() {
                return Err((field("picture"), "That is the name of no picture.".into()));
            }
            mark_size(&h.size).map_err(|m| (field("size"), m))?;
            hit(&HitInput { signs: h.signs.clone() }).map_err(|m| (field("signs"), m))?;
        }
        Ok(())
    }
}
