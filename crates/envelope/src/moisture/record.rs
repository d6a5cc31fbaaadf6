//! Moisture as it is kept: rooms as they were taped, readings, air, pictures of heat.

use super::heat::HeatConditions;
use super::surface::OnSurface;
use crate::job::{SHORT_TEXT, too_long};
use crate::roof::record::{RoofError, metres, own_name, some_metres};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// More than anybody keeps of one building.
const MOST_ROOMS: usize = 60;
const MOST_READINGS: usize = 2000;
const MOST_AIR: usize = 300;
const MOST_PICTURES: usize = 40;
const MOST_WALLS: usize = 40;
/// Cells of a picture that is kept.
pub const MOST_KEPT_CELLS: usize = 40_000;

/// A wall of a room as it is walked.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RoomWall {
    /// Its length as typed.
    pub length: String,
    /// Degrees turned to the left after it; a right angle where nothing is typed.
    #[serde(default)]
    pub turn: String,
}

/// A room, walked inside with a tape: from its front left corner along the front wall, always turning left.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Room {
    /// Short and lasting: K1, K2 …
    pub id: String,
    /// "treatment room".
    pub name: String,
    /// Its first corner on the building's plan, to the right of the building's front left corner.
    #[serde(default)]
    pub x: String,
    /// Toward the rear of it.
    #[serde(default)]
    pub y: String,
    /// Its floor above the ground floor; nothing on the ground floor.
    #[serde(default)]
    pub floor: String,
    /// Floor to ceiling.
    pub height: String,
    /// Its walls in the order they were walked.
    pub walls: Vec<RoomWall>,
}

/// What is read with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Instrument {
    /// Two pins.
    #[default]
    Pin,
    /// Without pins.
    Pinless,
}

/// What the figure means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Scale {
    /// Moisture of wood, % of its dry weight.
    #[default]
    Wood,
    /// What wood would have, in another material, %.
    WoodEquivalent,
    /// A number from 0 to 100 that only compares.
    Relative,
}

impl Scale {
    /// The largest figure an instrument shows on it.
    const fn most(self) -> f64 {
        match self {
            Self::Wood | Self::WoodEquivalent | Self::Relative => 100.0,
        }
    }
    /// In words.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Wood => "wood moisture, %",
            Self::WoodEquivalent => "wood equivalent, %",
            Self::Relative => "relative, 0 to 100",
        }
    }
    /// Over this a figure in per cent is more than pins can tell in wood: fibres are full at 28 to 30 %.
    pub(crate) const fn doubtful_over(self) -> Option<f64> {
        match self {
            Self::Wood | Self::WoodEquivalent => Some(40.0),
            Self::Relative => None,
        }
    }
    /// The least an instrument tells apart on it.
    pub(crate) const fn step(self) -> f64 {
        match self {
            Self::Wood | Self::WoodEquivalent => 0.5,
            Self::Relative => 1.0,
        }
    }
}

/// What was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Material {
    /// Softwood.
    #[default]
    Softwood,
    /// Hardwood.
    Hardwood,
    /// Board of wood fibres or chips.
    WoodBoard,
    /// Gypsum board.
    GypsumBoard,
    /// Plaster.
    Plaster,
    /// Brick or block.
    Masonry,
    /// Concrete or screed.
    Concrete,
}

impl Material {
    /// In words.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Softwood => "softwood",
            Self::Hardwood => "hardwood",
            Self::WoodBoard => "wood board",
            Self::GypsumBoard => "gypsum board",
            Self::Plaster => "plaster",
            Self::Masonry => "brick or block",
            Self::Concrete => "concrete or screed",
        }
    }
}

/// A reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MoistureReading {
    /// Short and lasting: P1, P2 …
    pub id: String,
    /// Where.
    pub at: OnSurface,
    /// With what.
    #[serde(default)]
    pub instrument: Instrument,
    /// On which scale.
    #[serde(default)]
    pub scale: Scale,
    /// Of what.
    #[serde(default)]
    pub material: Material,
    /// What it showed.
    pub value: f64,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Taken where it is surely dry: a reference.
    #[serde(default)]
    pub dry: bool,
}

/// Where air was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum AirPlace {
    /// In a room.
    #[default]
    Room,
    /// Outside.
    Outside,
    /// In the attic.
    Attic,
    /// In the crawl space.
    Crawl,
}

/// A reading of the air.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AirRecord {
    /// Short and lasting: A1, A2 …
    pub id: String,
    /// Where.
    #[serde(default)]
    pub place: AirPlace,
    /// The room, or what else tells where.
    #[serde(default)]
    pub room: String,
    /// Temperature, °C.
    pub t_c: f64,
    /// Relative humidity, %.
    pub rh_pct: f64,
    /// Temperature of the coldest surface there, °C.
    #[serde(default)]
    pub surface_c: Option<f64>,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
}

/// A picture of heat.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HeatPicture {
    /// Short and lasting: T1, T2 …
    pub id: String,
    /// Its lower left corner.
    pub at: OnSurface,
    /// Side of a cell, metres.
    pub cell_m: f64,
    /// Temperatures, °C, row by row from the top.
    pub grid: Vec<Vec<Option<f64>>>,
    /// What it was like.
    pub conditions: HeatConditions,
    /// Where it is from: the camera, or the file.
    #[serde(default)]
    pub source: String,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
}

/// Moisture of a job.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Moisture {
    /// Rooms.
    pub rooms: Vec<Room>,
    /// Readings.
    pub readings: Vec<MoistureReading>,
    /// Air.
    pub air: Vec<AirRecord>,
    /// Pictures of heat.
    pub heat: Vec<HeatPicture>,
}

impl RoomWall {
    pub(crate) fn turn_deg(&self) -> Result<f64, String> {
        let t = self.turn.trim().trim_end_matches('°').trim();
        if t.is_empty() {
            return Ok(90.0);
        }
        t.parse::<f64>().ok().filter(|v| (-180.0..=180.0).contains(v)).ok_or_else(|| {
            format!("\u{201c}{}\u{201d} is no turn. Type degrees to the left, 90 for a right angle, -90 to the right.", self.turn)
        })
    }
}

impl Moisture {
    /// Checks what can be checked of it alone.
    ///
    /// # Errors
    /// The field that is wrong, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| Err(RoofError { field, message });
        for (n, most, what) in [
            (self.rooms.len(), MOST_ROOMS, "rooms"),
            (self.readings.len(), MOST_READINGS, "readings"),
            (self.air.len(), MOST_AIR, "air"),
            (self.heat.len(), MOST_PICTURES, "heat"),
        ] {
            if n > most {
                return err(what.into(), format!("That is more than one job keeps here; the most is {most}."));
            }
        }
        let mut ids = BTreeSet::new();
        let mut own = |of: &str, id: &str| own_name(&mut ids, of, id);
        for r in &self.rooms {
            own("rooms", &r.id)?;
            let of = format!("rooms.{}", r.id);
            let at = |part: &str, e: String| RoofError { field: format!("{of}.{part}"), message: e };
            if r.name.trim().is_empty() {
                return err(format!("{of}.name"), "Give the room a name.".into());
            }
            if let Some(m) = too_long(&r.name, SHORT_TEXT) {
                return err(format!("{of}.name"), m);
            }
            let height = some_metres("The height of the room", &r.height).map_err(|e| at("height", e))?;
            if height > 30.0 {
                return err(format!("{of}.height"), "No room is higher than 30 m. Was it in feet or centimetres?".into());
            }
            for (part, text) in [("x", &r.x), ("y", &r.y), ("floor", &r.floor)] {
                if !text.trim().is_empty() {
                    crate::roof::typed::signed("The place of the room", text).map_err(|e| at(part, e))?;
                }
            }
            if r.walls.len() > MOST_WALLS {
                return err(format!("{of}.walls"), format!("A room of more than {MOST_WALLS} walls is taped in parts."));
            }
            for (k, w) in r.walls.iter().enumerate() {
                some_metres(&format!("Wall {}", k + 1), &w.length).map_err(|e| at(&format!("walls.{k}.length"), e))?;
                w.turn_deg().map_err(|e| at(&format!("walls.{k}.turn"), e))?;
            }
        }
        for r in &self.readings {
            own("readings", &r.id)?;
            let of = format!("readings.{}", r.id);
            r.at.check(self).map_err(|(part, e)| RoofError { field: format!("{of}.at.{part}"), message: e })?;
            if !(0.0..=r.scale.most()).contains(&r.value) {
                return err(
                    format!("{of}.value"),
                    format!("{} lies outside what is read on this scale ({}). Look at the scale.", r.value, r.scale.name()),
                );
            }
        }
        for a in &self.air {
            own("air", &a.id)?;
            let input = super::air::AirInput { t_c: a.t_c, rh_pct: a.rh_pct, surface_c: a.surface_c, out_c: None, pressure_pa: None };
            super::air::air(&input).map_err(|e| RoofError { field: format!("air.{}.t_c", a.id), message: e.to_string() })?;
            if let Some(m) = too_long(&a.room, SHORT_TEXT) {
                return err(format!("air.{}.room", a.id), m);
            }
        }
        for h in &self.heat {
            own("heat", &h.id)?;
            let of = format!("heat.{}", h.id);
            h.at.check(self).map_err(|(part, e)| RoofError { field: format!("{of}.at.{part}"), message: e })?;
            if let Some(m) = too_long(&h.source, SHORT_TEXT) {
                return err(format!("{of}.source"), m);
            }
            if h.grid.iter().map(Vec::len).sum::<usize>() > MOST_KEPT_CELLS {
                return err(format!("{of}.grid"), format!("The picture has more than {MOST_KEPT_CELLS} cells. Take every second one."));
            }
            super::heat::heat(&super::heat::HeatInput { cell_m: h.cell_m, grid: h.grid.clone(), least_k: None })
                .map_err(|e| RoofError { field: format!("{of}.grid"), message: e.to_string() })?;
        }
        Ok(())
    }

    /// A length that is typed, or nothing.
    pub(crate) fn length(text: &str) -> f64 {
        metres("", text).unwrap_or(0.0)
    }
}
