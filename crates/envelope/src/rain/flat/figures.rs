//! What the account of a flat roof says, as figures.

use crate::rain::figures::{Offered, SpillAccount};
use serde::{Deserialize, Serialize};

/// An outline of water, and how deep it is inside.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WaterOutline {
    /// At least so deep, metres.
    pub depth_m: f64,
    /// Rings on the plan; a ring in another is an island.
    pub rings: Vec<Vec<[f64; 2]>>,
}

/// Water that stands on a flat roof.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofPool {
    /// Its deepest place, on the plan.
    pub at: [f64; 2],
    /// The same from the left and the front wall, metres.
    pub from_walls_m: [f64; 2],
    /// Its greatest depth, metres.
    pub depth_m: f64,
    /// Where it is at least a millimetre deep, m².
    pub area_m2: f64,
    /// What it holds, m³.
    pub volume_m3: f64,
    /// Weight of water over its deepest place, kg/m².
    pub load_kg_m2: f64,
    /// It runs over.
    pub over: bool,
}

/// A state of a flat roof under water.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofWater {
    /// Its waters, the deepest first.
    pub pools: Vec<RoofPool>,
    /// Their outlines.
    pub outlines: Vec<WaterOutline>,
    /// The greatest depth, metres.
    pub depth_m: f64,
    /// Weight over the deepest place, kg/m².
    pub load_kg_m2: f64,
    /// All of it, kg.
    pub weighs_kg: f64,
    /// What goes over edges and parapets, litres per minute.
    pub over_l_min: f64,
    /// It has no way out and would rise for as long as it rains.
    pub rises: bool,
}

/// An outlet of a flat roof on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofOutletAccount {
    /// "drain 1".
    pub name: String,
    /// Where it stands, on the plan.
    pub at: [f64; 2],
    /// What it takes in the design rain, litres per minute.
    pub l_min: f64,
    /// Water over its sill in the design rain, metres.
    pub head_m: f64,
    /// Its sill above the lowest place of its own hollow, metres: so deep water stays.
    pub sill_over_bottom_m: f64,
    /// Where it lets go, in words.
    pub ends: String,
    /// What its water comes to next, when it does not leave the roofs here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub onto: Option<String>,
    /// It was met blocked.
    pub blocked: bool,
}

/// What stands at a moment of the storm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofMoment {
    /// Minutes since the rain began.
    pub minute: f64,
    /// The greatest depth, mm.
    pub depth_mm: f64,
    /// All that stands, litres.
    pub litres: f64,
}

/// An hour of the design storm on a flat roof, and what comes after it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofHour {
    /// Its course, for drawing.
    pub course: Vec<RoofMoment>,
    /// The deepest it stood, metres.
    pub deepest_m: f64,
    /// Until nothing leaves any more, minutes after the rain; none when it was still running off when nobody looked any longer.
    pub runs_off_min: Option<f64>,
    /// Fell on it and came to it, litres.
    pub came_l: f64,
    /// Left by outlets, litres.
    pub outlets_l: f64,
    /// Left over edges, litres.
    pub edges_l: f64,
    /// Stays, litres.
    pub stays_l: f64,
}

/// A change that was tried on a flat roof.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofRemedy {
    /// What would be done.
    pub words: String,
    /// Before and after in a sentence.
    pub sentence: String,
    /// Greatest depth in the design rain afterwards, mm.
    pub depth_mm: f64,
    /// Greatest depth that stays after rain afterwards, mm.
    pub stays_mm: f64,
    /// Greatest depth with the drains blocked afterwards, mm.
    pub blocked_mm: f64,
}

/// A piece of the border of a flat roof.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoofBorder {
    /// Its ends on the plan.
    pub ends_m: [[f64; 2]; 2],
    /// The parapet on it, metres above the roof; none where water passes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parapet_m: Option<f64>,
    /// A wall rises there.
    pub wall: bool,
}

/// A flat roof on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FlatAccount {
    /// The mass.
    pub mass: String,
    /// "flat roof of the porch".
    pub label: String,
    /// Its area on the plan, m².
    pub plan_m2: f64,
    /// Plan area that comes to it from higher roofs, walls and downspouts, m².
    pub from_above_m2: f64,
    /// Its front wall is turned so many degrees counterclockwise from east.
    pub turned_deg: f64,
    /// Its border.
    pub border: Vec<RoofBorder>,
    /// The result in words.
    pub sentence: String,
    /// Why it could not be worked out.
    pub problem: Option<String>,
    /// Its outlets.
    pub outlets: Vec<RoofOutletAccount>,
    /// In the design rain, as it was met.
    pub rain: RoofWater,
    /// In the design rain with every outlet but the overflows blocked; none where there is no other outlet.
    pub blocked: Option<RoofWater>,
    /// What stays after rain.
    pub stays: RoofWater,
    /// Until it has dried up by itself, hours, by the practice's figure.
    pub dries_h: f64,
    /// An hour of the design storm; none while no law of the rain is known.
    pub hour: Option<RoofHour>,
    /// Over edges and parapets, on the plan.
    pub spills: Vec<SpillAccount>,
    /// Water that has no way out, litres per minute.
    pub held_l_min: f64,
    /// What is wrong.
    pub offered: Vec<Offered>,
    /// What would help.
    pub remedies: Vec<RoofRemedy>,
    /// What to be careful about, in words; empty when nothing stands deep.
    pub caution: String,
}
