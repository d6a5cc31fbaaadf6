//! What the account of moisture says: rooms, maps, series, air, patches, wet spots.

use super::air::Air;
use super::drying::{DayReading, Drying};
use super::heat::{Heat, Patch};
use super::map::{Class, MoistureMap};
use super::record::{Instrument, Material, Scale};
use super::surface::{OnBuilding, OnSurface};
use crate::trace::form::Shows;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// A wall of a room, on the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomSide {
    /// Which, from one.
    pub wall: usize,
    /// Its left end, seen from inside.
    pub left: [f64; 2],
    /// Its right end.
    pub right: [f64; 2],
    /// Its length, metres.
    pub length_m: f64,
    /// The direction it faces, when it is an outer wall.
    pub faces_deg: Option<f64>,
}

/// A room, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomAccount {
    /// Which.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Its corners on the building's plan.
    pub corners: Vec<[f64; 2]>,
    /// Its walls.
    pub sides: Vec<RoomSide>,
    /// Its area, m².
    pub area_m2: f64,
    /// Floor to ceiling, metres.
    pub height_m: f64,
    /// By how much the walk missed its start, metres.
    pub missed_m: f64,
    /// Why it could not be drawn.
    pub problem: Option<String>,
}

/// A reading with what it means.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadAt {
    /// Which.
    pub id: String,
    /// From the left, metres.
    pub x_m: f64,
    /// Up, metres.
    pub y_m: f64,
    /// What it showed.
    pub value: f64,
    /// Over the dry references, in their spreads; none without them.
    pub level: Option<f64>,
    /// What that means.
    pub class: Option<Class>,
    /// It is a reference itself.
    pub dry: bool,
}

/// A surface as it was read on a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurfaceMap {
    /// Lasting name.
    pub key: String,
    /// Which surface.
    pub surface: OnSurface,
    /// "Treatment room, ceiling".
    pub name: String,
    /// Its length, metres; none where it is not known.
    pub wide_m: Option<f64>,
    /// Its height.
    pub high_m: Option<f64>,
    /// With what.
    pub instrument: Instrument,
    /// On which scale.
    pub scale: Scale,
    /// Of what.
    pub material: Material,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Its readings.
    pub readings: Vec<ReadAt>,
    /// The dry references that hold for it.
    pub references: Vec<f64>,
    /// Against what it is judged, in words; empty while it is not.
    pub against: String,
    /// The map; none without references.
    pub map: Option<MoistureMap>,
    /// Why there is no judgement, with what to do.
    pub why_not: Option<String>,
    /// What it says.
    pub sentence: String,
    /// What should be looked at again.
    pub doubts: Vec<String>,
}

/// One place on several days.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceDrying {
    /// "Treatment room, ceiling, 1.2 m from the left".
    pub name: String,
    /// The readings: day and figure.
    pub readings: Vec<DayReading>,
    /// The first day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub from: Date,
    /// What the references show.
    pub dry_level: f64,
    /// How it dries; none when it cannot be said.
    pub drying: Option<Drying>,
    /// In words.
    pub sentence: String,
    /// Something may still feed it.
    pub still_fed: bool,
}

/// A reading of the air with what follows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AirAccount {
    /// Which.
    pub id: String,
    /// Where.
    pub name: String,
    /// What the air does.
    pub air: Air,
    /// In words.
    pub sentence: String,
    /// Mould can grow or water comes out.
    pub wrong: bool,
}

/// How a patch stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum PatchState {
    /// No contact reading yet, inside and outside of it.
    Unconfirmed,
    /// The meter agrees: wet.
    Wet,
    /// The meter disagrees: dry.
    Dry,
}

/// A patch with what the meter says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PatchAccount {
    /// As it was found.
    pub patch: Patch,
    /// Its middle on the surface: from the left and up, metres.
    pub at: [f64; 2],
    /// Its outline on the surface: left, low, right, high.
    pub bounds: [f64; 4],
    /// How it stands.
    pub state: PatchState,
    /// In words.
    pub sentence: String,
}

/// A picture of heat, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeatAccount {
    /// Which.
    pub id: String,
    /// Where.
    pub name: String,
    /// Its surface.
    pub surface: OnSurface,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Its lower left corner on the surface, metres.
    pub at: [f64; 2],
    /// Its size, metres.
    pub size: [f64; 2],
    /// Why it is not usable for moisture; empty when it is.
    pub against: Vec<String>,
    /// What it shows.
    pub heat: Option<Heat>,
    /// Its patches.
    pub patches: Vec<PatchAccount>,
}

/// A wet spot, offered for tracing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WetSpot {
    /// The surface it is on, with the place on it.
    pub at: OnSurface,
    /// Where that is.
    pub on: OnBuilding,
    /// How it shows.
    pub shows: Shows,
    /// "Treatment room, ceiling".
    pub name: String,
    /// What was read: "28 where dry places read 9".
    pub read: String,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub seen: Date,
}

/// Moisture, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MoistureAccount {
    /// The rooms.
    pub rooms: Vec<RoomAccount>,
    /// The building's outline, part by part, for the plan.
    pub outlines: Vec<Vec<[f64; 2]>>,
    /// Surfaces as they were read, the latest day first.
    pub maps: Vec<SurfaceMap>,
    /// Places that were read on several days.
    pub drying: Vec<PlaceDrying>,
    /// The air.
    pub air: Vec<AirAccount>,
    /// What follows from several readings of the air together.
    pub air_says: Vec<String>,
    /// Pictures of heat.
    pub heat: Vec<HeatAccount>,
    /// What is left to do.
    pub left: Vec<String>,
    /// Wet spots, for tracing.
    pub spots: Vec<WetSpot>,
    /// What should be looked at again.
    pub doubts: Vec<String>,
}
