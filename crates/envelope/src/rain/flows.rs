//! Where all the water of a roof goes, as figures.

use crate::gutter::run::AlongGutter;
use crate::roof::shape::EdgeKind;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Plan area of a facet that drains to an edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ToEdge {
    /// The edge.
    pub edge: String,
    /// What it is.
    pub kind: EdgeKind,
    /// One end.
    pub p0: [f64; 2],
    /// The other end.
    pub p1: [f64; 2],
    /// Plan area, m².
    pub plan_area_m2: f64,
}

/// Water that leaves along an eave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EaveSheet {
    /// The edge.
    pub edge: String,
    /// The facet above it.
    pub facet: String,
    /// One end.
    pub p0: [f64; 2],
    /// The other end.
    pub p1: [f64; 2],
    /// Its length.
    pub length_m: f64,
    /// From its own facet, m².
    pub own_facet_m2: f64,
    /// Dropped from above or came across a pitch break, m².
    pub from_roofs_above_m2: f64,
    /// Both.
    pub sheet_total_m2: f64,
    /// How it comes along the edge, metres from the left end seen from outside.
    pub along: Vec<AlongGutter>,
}

/// A valley, or a wall that water runs along.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Gathering {
    /// The edge.
    pub edge: String,
    /// What it is.
    pub kind: EdgeKind,
    /// One end.
    pub p0: [f64; 2],
    /// The other end.
    pub p1: [f64; 2],
    /// At its lower end, m².
    pub total_at_lower_end_m2: f64,
}

/// Water that crosses an edge onto another facet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Crossing {
    /// The edge.
    pub edge: String,
    /// What it is.
    pub kind: EdgeKind,
    /// One end.
    pub p0: [f64; 2],
    /// The other end.
    pub p1: [f64; 2],
    /// Plan area, m².
    pub area_crossing_m2: f64,
}

/// Water that arrives as a burst at one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PointDischarge {
    /// Where.
    pub at: [f64; 2],
    /// How high, metres.
    pub z_m: f64,
    /// Plan area, m².
    pub plan_area_m2: f64,
    /// It has no way out: a level channel.
    pub trapped: bool,
    /// The part of it that came down along a wall, m²: there a kick-out must turn it.
    #[serde(default, skip_serializing_if = "is_none")]
    pub along_wall_m2: f64,
    /// Where it came from, in words.
    pub note: String,
}

fn is_none(area: &f64) -> bool {
    *area == 0.0
}

/// Where all the water goes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Runoff {
    /// By facet: what drains to each edge.
    pub facet_to_edges: BTreeMap<String, Vec<ToEdge>>,
    /// What leaves along eaves.
    pub eave_sheet: Vec<EaveSheet>,
    /// Valleys and walls.
    pub channels: Vec<Gathering>,
    /// Across pitch breaks and over lower roofs.
    pub crossing: Vec<Crossing>,
    /// Bursts.
    pub point_discharges: Vec<PointDischarge>,
    /// What flat facets keep, their own rain and what they get.
    pub flat_receives_m2: BTreeMap<String, f64>,
    /// Where what comes from above lands on flat facets: the facet, the place, m².
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub(crate) landed: Vec<(String, [f64; 2], f64)>,
    /// All of it.
    pub total_plan_m2: f64,
}
