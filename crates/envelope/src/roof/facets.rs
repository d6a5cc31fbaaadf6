//! Facets, edges and the roof they make, as figures.

use super::mass::{Mass, Side};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Input of `calc roof`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofInput {
    /// The masses, in any order.
    pub masses: Vec<Mass>,
}

/// A plane: `z = z0 + gx·x + gy·y`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Plane {
    /// Its mass.
    pub mass: String,
    /// The side it falls to.
    pub plane: Side,
    /// Height at the origin, metres.
    pub z0: f64,
    /// Rise per metre east.
    pub gx: f64,
    /// Rise per metre north.
    pub gy: f64,
}

/// A connected part of a facet in plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Part {
    /// Its outline, counterclockwise.
    pub outer: Vec<[f64; 2]>,
    /// What is cut out of it, clockwise.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub holes: Vec<Vec<[f64; 2]>>,
}

/// A facet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Facet {
    /// `mass.plane`, joined by `|` where planes of several masses are one.
    pub id: String,
    /// Area seen from above, m².
    pub plan_area_m2: f64,
    /// Area along the slope, m².
    pub true_area_m2: f64,
    /// The same in roofing squares of 100 ft².
    pub squares: f64,
    /// Rise over run.
    pub pitch: f64,
    /// Inches of rise in twelve of run.
    pub pitch_in_12: f64,
    /// Degrees.
    pub degrees: f64,
    /// Percent.
    pub percent: f64,
    /// The way water runs, degrees clockwise from north; none on a flat roof.
    pub downslope_azimuth_deg: Option<f64>,
    /// Height: `[z0, gx, gy]`.
    pub height: [f64; 3],
    /// Where it lies; more than one part when something higher cuts through it.
    pub parts: Vec<Part>,
    /// A point well inside.
    pub middle: [f64; 2],
}

/// What an edge is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum EdgeKind {
    /// Water leaves here.
    Eave,
    /// The same, onto a lower roof.
    EaveOverRoof,
    /// Border of a flat roof.
    FlatEdge,
    /// The same, over a lower roof.
    FlatEdgeOverRoof,
    /// A flat roof meets a slope at the same height.
    FlatJunction,
    /// Top of a shed.
    HighEdge,
    /// The same, over a lower roof.
    HighEdgeOverRoof,
    /// Two slopes fall away from a line that is not level.
    Hip,
    /// Water crosses from one pitch to another.
    PitchBreak,
    /// Sloping border.
    Rake,
    /// The same, over a lower roof.
    RakeOverRoof,
    /// Two slopes fall away from a level line.
    Ridge,
    /// Two slopes fall to a line.
    Valley,
}

impl EdgeKind {
    /// The field's word.
    pub fn name(self) -> &'static str {
        match self {
            EdgeKind::Eave => "eave",
            EdgeKind::EaveOverRoof => "eave over a lower roof",
            EdgeKind::FlatEdge => "edge of a flat roof",
            EdgeKind::FlatEdgeOverRoof => "edge of a flat roof over a lower roof",
            EdgeKind::FlatJunction => "flat junction",
            EdgeKind::HighEdge => "high edge",
            EdgeKind::HighEdgeOverRoof => "high edge over a lower roof",
            EdgeKind::Hip => "hip",
            EdgeKind::PitchBreak => "pitch break",
            EdgeKind::Rake => "rake",
            EdgeKind::RakeOverRoof => "rake over a lower roof",
            EdgeKind::Ridge => "ridge",
            EdgeKind::Valley => "valley",
        }
    }
    /// A lower roof lies beyond.
    pub fn is_step(self) -> bool {
        matches!(self, EdgeKind::EaveOverRoof | EdgeKind::FlatEdgeOverRoof | EdgeKind::HighEdgeOverRoof | EdgeKind::RakeOverRoof)
    }
    /// Nothing lies beyond.
    pub fn is_border(self) -> bool {
        matches!(self, EdgeKind::Eave | EdgeKind::FlatEdge | EdgeKind::HighEdge | EdgeKind::Rake)
    }
    pub(super) fn over_roof(self) -> EdgeKind {
        match self {
            EdgeKind::Eave => EdgeKind::EaveOverRoof,
            EdgeKind::FlatEdge => EdgeKind::FlatEdgeOverRoof,
            EdgeKind::HighEdge => EdgeKind::HighEdgeOverRoof,
            EdgeKind::Rake => EdgeKind::RakeOverRoof,
            other => other,
        }
    }
}

/// How a lower facet meets the wall above it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum LowerSide {
    /// It falls toward the wall.
    Backwater,
    /// It is flat.
    FlatBelow,
    /// It falls away from the wall.
    Headwall,
    /// It runs along the wall.
    Sidewall,
}

/// Whether the roof bends up or down at a joint.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Sense {
    /// The roof is the higher of the two planes: valleys.
    Convex,
    /// The roof is the lower of the two planes: hips and ridges.
    Concave,
}

/// An edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Edge {
    /// e00, e01 … in the order of the list.
    pub id: String,
    /// What it is.
    pub kind: EdgeKind,
    /// The facet; at a step the upper one.
    pub facet: String,
    /// The other facet; at a step the lower one.
    pub other: Option<String>,
    /// One end: west before east, then south before north.
    pub p0: [f64; 2],
    /// The other end.
    pub p1: [f64; 2],
    /// Height at `p0` on `facet`.
    pub z0_m: f64,
    /// Height at `p1` on `facet`.
    pub z1_m: f64,
    /// Length seen from above.
    pub plan_m: f64,
    /// Length along the roof.
    pub true_m: f64,
    /// At a step: how the lower facet meets the wall.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lower_side: Option<LowerSide>,
    /// At a step: length along the lower facet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lower_true_m: Option<f64>,
    /// At a step: height at `p0` on the lower facet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lower_z0_m: Option<f64>,
    /// At a step: height at `p1` on the lower facet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lower_z1_m: Option<f64>,
    /// At a joint: which way the roof bends.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sense: Option<Sense>,
}

/// Sum of lengths.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lengths {
    /// Seen from above.
    pub plan_m: f64,
    /// Along the roof; at a step along the upper facet, or along the lower one where the sum is by lower side.
    pub true_m: f64,
}

/// The roof, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofShape {
    /// The planes of every mass.
    pub planes: Vec<Plane>,
    /// The facets, in the order of the masses.
    pub facets: Vec<Facet>,
    /// The edges, by kind, then from west to east.
    pub edges: Vec<Edge>,
    /// Area seen from above, m².
    pub plan_area_m2: f64,
    /// Area along the slopes, m².
    pub true_area_m2: f64,
    /// The same in roofing squares.
    pub squares: f64,
    /// Lengths by kind.
    pub edge_totals: BTreeMap<String, Lengths>,
    /// Lengths of steps by how the lower facet meets them.
    pub step_lower_side_totals: BTreeMap<String, Lengths>,
    /// What should be looked at again, in words.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}
