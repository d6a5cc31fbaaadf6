//! What is said of the ground, as figures: readings, transects, faces, ponds and what was told of its surroundings.

use super::level::LevelBook;
use super::placing::Placing;
use super::record::{Ground, How, NearbyKind, Top};
use super::transect::{Transect, TransectInput};
use crate::job::Brief;
use crate::practice::Practice;
use crate::rain::record::Rainwater;
use crate::roof::record::{Roof, to_north};
use crate::round::Note;
use crate::site::Face;
use crate::terrain::flood::Flooded;
use crate::terrain::surface::Grid;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Input of the ground's computations.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct GroundInput {
    /// The ground as it is kept.
    pub ground: Ground,
    /// The roof as it is kept: where the building stands.
    #[serde(default)]
    pub roof: Roof,
    /// Rain and gutters as they are kept.
    #[serde(default)]
    pub rainwater: Rainwater,
    /// The brief: what the walls are made of, and which way the front looks.
    #[serde(default)]
    pub brief: Brief,
    /// The practice; the usual schools when it is not given.
    #[serde(default)]
    pub practice: Practice,
    /// Notes of the round: trunks, spray heads and the like that were told with their distance stand on the plan as well.
    #[serde(default)]
    pub notes: Vec<Note>,
}

/// A reading, placed and levelled.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpotHeight {
    /// Its name.
    pub id: String,
    /// In the building's frame: right of the front left corner, and behind it, metres.
    pub at: [f64; 2],
    /// East and north of that corner.
    pub north: [f64; 2],
    /// Above the finished floor, metres.
    pub z_m: f64,
    /// What the ground is there.
    pub top: Top,
    /// How it was had.
    pub how: How,
}

/// A remedy for ground that falls short, with its figures, or why it cannot be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundRemedy {
    /// "fill", "swale", "drain", "lower".
    pub kind: String,
    /// It can be done with the figures there are.
    pub possible: bool,
    /// What would be done, with figures; or why not.
    pub sentence: String,
    /// Somebody digs: buried services are located first.
    pub digs: bool,
}

/// A transect on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundTransect {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// From the face's left end, metres.
    pub station_m: f64,
    /// What was asked.
    pub input: TransectInput,
    /// The lower edge of the cladding above the floor; none when it was not measured.
    pub cladding_m: Option<f64>,
    /// What came out; none when it could not be worked out.
    pub result: Option<Transect>,
    /// The result as a sentence, with its school.
    pub sentence: String,
    /// The ground falls as it should and the cladding stands clear.
    pub right: bool,
    /// What would mend it, as the practice orders it.
    pub remedies: Vec<GroundRemedy>,
}

/// A face of a mass, seen from the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundFace {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// Soil to bring between the first and the last transect, by average end areas, m³; none with one transect.
    pub fill_m3: Option<f64>,
    /// The face in a sentence.
    pub sentence: String,
    /// Nothing is wrong with it.
    pub right: bool,
}

/// Where a pond stands against a wall.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WallContact {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// Between these places from the face's left end, metres.
    pub from_m: f64,
    /// To.
    pub to_m: f64,
    /// Wall that stands in water, metres.
    pub length_m: f64,
    /// The deepest at it, metres.
    pub depth_m: f64,
    /// From the water to the lower edge of the cladding, metres; below 0 the cladding stands in water.
    pub clearance_m: Option<f64>,
}

/// Where water stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pond {
    /// A, B … from the largest.
    pub id: String,
    /// "rear of the main, left end".
    pub place: String,
    /// The face it lies at.
    pub face: Face,
    /// The level at which it runs over, above the floor, metres; none when it never does.
    pub brim_m: Option<f64>,
    /// Its depth then.
    pub depth_m: f64,
    /// What it holds then, m³.
    pub volume_m3: f64,
    /// Its area then, m².
    pub area_m2: f64,
    /// Ground that drains into it, m², its own with it.
    pub catchment_m2: f64,
    /// Where it stands against walls.
    pub walls: Vec<WallContact>,
    /// Where it runs over, or that it does not.
    pub way_out: String,
    /// Brim-full it is gone after so many hours; none when nothing seeps away.
    pub empties_h: Option<f64>,
    /// The deepest place, in the building's frame.
    pub deepest_at: [f64; 2],
}

/// Something nearby, judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NearbyAccount {
    /// Its name.
    pub id: String,
    /// What it is.
    pub kind: NearbyKind,
    /// East and north.
    pub north: [f64; 2],
    /// It concerns what lies within this distance, metres.
    pub reach_m: f64,
    /// From it to the nearest wall, metres.
    pub from_wall_m: f64,
    /// It is as far as the practice asks.
    pub right: bool,
    /// Judged, with its school.
    pub sentence: String,
}

/// The ground, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundAccount {
    /// The readings.
    pub readings: Vec<SpotHeight>,
    /// The level book; none while there is none, or when it cannot be reduced.
    pub book: Option<LevelBook>,
    /// The book in a sentence.
    pub book_says: String,
    /// The transects.
    pub transects: Vec<GroundTransect>,
    /// The faces that have any.
    pub faces: Vec<GroundFace>,
    /// Where water would stand.
    pub ponds: Vec<Pond>,
    /// Ground whose height is known, m².
    pub known_m2: f64,
    /// What stands and runs nearby.
    pub nearby: Vec<NearbyAccount>,
    /// What should be looked at again.
    pub doubts: Vec<String>,
}

/// The account with the surface it was read from.
#[derive(Debug, Clone)]
pub struct Survey {
    /// On the page.
    pub account: GroundAccount,
    /// The surface; none while there are too few readings.
    pub surface: Option<Surfaced>,
    pub(crate) place: Placing,
}

/// The surface with what lies on it.
#[derive(Debug, Clone)]
pub struct Surfaced {
    /// The ground.
    pub grid: Grid,
    /// Brim-full.
    pub water: Flooded,
    /// By cell: nothing seeps through it.
    pub paved: Vec<bool>,
    /// By cell: beyond the lot line.
    pub neighbour: Vec<bool>,
    /// By cell: under the roof, no rain falls on it.
    pub roofed: Vec<bool>,
    /// Hollows worth a name, by the number of the hollow: the pond of the account.
    pub named: BTreeMap<u32, usize>,
}

impl Survey {
    /// A point of the building's frame, east and north.
    pub fn north(&self, p: [f64; 2]) -> [f64; 2] {
        to_north(p, self.place.front)
    }
    /// A point east and north, in the building's frame.
    pub fn building(&self, p: [f64; 2]) -> [f64; 2] {
        self.place.to_building(p)
    }
    /// Outlines of the masses, east and north.
    pub fn outlines(&self) -> Vec<Vec<[f64; 2]>> {
        self.place.outlines().into_iter().map(|r| r.into_iter().map(|p| self.north(p)).collect()).collect()
    }
}
