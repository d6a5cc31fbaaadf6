//! What the account of the rain says, as figures: eaves, outlets, gutters, what is offered, remedies.

use super::design::Rain;
use super::flat::figures::FlatAccount;
use super::overshoot::Overshoot;
use super::runoff::Runoff;
use crate::gutter::run::Run;
use crate::gutter::tables::Allowed;
use crate::site::{Face, Place};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Litres per minute in a litre per second.
pub(crate) const MIN: f64 = 60.0;

/// Water that flies from the edge, and whether the trough catches it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Flight {
    /// "the sheet of the slope", "the valley".
    pub what: String,
    /// From the left end, metres.
    pub x_m: f64,
    /// From the back of the trough to its front, metres.
    pub catch_m: f64,
    /// Where it lands.
    pub result: Overshoot,
    /// The result in a sentence; an estimate.
    pub sentence: String,
}

/// An eave and what it sheds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EaveAccount {
    /// Its lasting name: facet and number from the left.
    pub key: String,
    /// The edge of the drawing.
    pub edge: String,
    /// "rear eave of the main".
    pub label: String,
    /// The face it looks to.
    pub face: Face,
    /// Its ends on the plan.
    pub ends_m: [[f64; 2]; 2],
    /// Its length, metres.
    pub length_m: f64,
    /// Plan area that runs to it as a sheet, m².
    pub sheet_m2: f64,
    /// Plan area that arrives at its ends as a burst, m².
    pub burst_m2: f64,
    /// In the design rain, litres per minute.
    pub l_min: f64,
    /// The same, US gallons per minute.
    pub gpm: f64,
    /// The gutter that hangs there.
    pub gutter: Option<String>,
    /// How far water falls onto a roof below, metres; none where it falls to the ground or into a gutter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drops_m: Option<f64>,
}

/// An outlet on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutletAccount {
    /// From the left end, metres.
    pub x_m: f64,
    /// What it gets in the design rain, litres per minute.
    pub l_min: f64,
    /// Where it lets go, in words.
    pub ends: String,
    /// Its point on the eave, on the plan.
    pub at: [f64; 2],
    /// The eave it hangs under, by the name Trowel gives it.
    pub eave: String,
    /// The eave its water comes to next, when it ends on a lower roof.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub onto: Option<String>,
}

/// Water that comes to the roof otherwise than as rain on it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Arrival {
    /// "downspout of G1", "wind-driven rain off a wall".
    pub from: String,
    /// Where it comes to an eave, on the plan.
    pub at: [f64; 2],
    /// In this rain, litres per minute.
    pub l_min: f64,
}

/// Something that is wrong, offered as a note at its place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Offered {
    /// The condition, from the catalogue.
    pub condition: String,
    /// The line it would become.
    pub line: String,
    /// Where.
    pub place: Place,
    /// It is kept as something that could not be seen, not as a fault.
    pub limitation: bool,
}

/// A change that was tried.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Remedy {
    /// Its name, by which its cost is kept.
    pub change: String,
    /// What would be done.
    pub words: String,
    /// What it costs, an estimate.
    pub cost: f64,
    /// The rain it spills from afterwards, mm/h.
    pub spills_from_mm_h: Option<f64>,
    /// What still spills in the design rain, litres per minute.
    pub spilt_l_min: f64,
    /// Water left standing afterwards, mm.
    pub stands_mm: f64,
    /// It ends the spilling in the design rain.
    pub ends_it: bool,
    /// Before and after in a sentence.
    pub sentence: String,
}

/// Water that goes over a brim along one stretch.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpillAccount {
    /// The middle of the stretch, on the plan.
    pub at: [f64; 2],
    /// Litres per minute.
    pub l_min: f64,
    /// It falls on a roof below, and is followed from there.
    pub onto_roof: bool,
}

/// A gutter on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GutterAccount {
    /// Its name.
    pub id: String,
    /// The result as a sentence.
    pub sentence: String,
    /// The run, worked out; none when it could not be.
    pub run: Option<Run>,
    /// Why it could not be.
    pub problem: Option<String>,
    /// Its outlets.
    pub outlets: Vec<OutletAccount>,
    /// What the schools allow it, side by side.
    pub allowed: Vec<Allowed>,
    /// Water flying from the edge above it.
    pub flights: Vec<Flight>,
    /// Where it spills: every stretch with its place on the plan.
    pub spills: Vec<SpillAccount>,
    /// What is wrong.
    pub offered: Vec<Offered>,
    /// What would end it, the cheapest that does first.
    pub remedies: Vec<Remedy>,
}

/// Rainwater, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RainAccount {
    /// The intensity law; none while no rain was given.
    pub law: Option<Rain>,
    /// The design rain, mm/h.
    pub design_mm_h: f64,
    /// The design rain in words, with its school.
    pub design: String,
    /// Where the water goes; none while there is no roof.
    pub runoff: Option<Runoff>,
    /// A point well inside each facet, by its name: where a drop starts when a slope is chosen without a pointer.
    pub starts: BTreeMap<String, [f64; 2]>,
    /// The eaves.
    pub eaves: Vec<EaveAccount>,
    /// The gutters.
    pub gutters: Vec<GutterAccount>,
    /// The flat roofs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub flats: Vec<FlatAccount>,
    /// Water that comes to the roof otherwise than as rain on it.
    pub arrivals: Vec<Arrival>,
    /// Walls that drain onto roofs, half of their area, m².
    pub walls_m2: f64,
    /// What is wrong where no gutter hangs.
    pub offered: Vec<Offered>,
    /// Where to look: feet of walls.
    pub checks: Vec<String>,
    /// Where every litre of the design rain goes.
    pub sums: Sums,
    /// The same in words.
    pub balance: String,
    /// What should be looked at again, in words.
    pub doubts: Vec<String>,
}

/// Where every litre of a rain goes, litres per minute: `roof + walls = outlets + spilt + free + held`.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sums {
    /// Rain on the roof.
    pub roof: f64,
    /// Wind-driven rain off walls that stand on a roof.
    pub walls: f64,
    /// Let go by outlets, not counting those that end on a roof.
    pub outlets: f64,
    /// Spilt over brims to the ground.
    pub spilt: f64,
    /// Off eaves without a gutter.
    pub free: f64,
    /// Held on flat roofs and in level valleys.
    pub held: f64,
}
