//! What the account of walls takes and says.

use super::cracks::{CrackAccount, CrackReader};
use super::floor::FloorPlane;
use super::laps::{LapVerdict, LapsInput, Strip};
use super::matrix::{DoNotCover, Matrix, RowShare};
use super::record::Walls;
use super::said::CheckSaid;
use crate::practice::Practice;
use crate::rain::account::Offered;
use crate::round::Note;
use crate::site::{Face, Item, Place};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What goes into the account of walls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WallInput {
    /// As they were met.
    pub walls: Walls,
    /// Openings as they were counted on the round.
    #[serde(default)]
    pub items: Vec<Item>,
    /// Notes of the round.
    #[serde(default)]
    pub notes: Vec<Note>,
    /// How long each face is, metres, as far as the roof tells.
    #[serde(default)]
    pub face_m: BTreeMap<Face, f64>,
    /// Clearances that Ground worked out, in its words.
    #[serde(default)]
    pub clearances: Vec<Clearance>,
    /// Heights out of Ground's level book, metres above its datum; none while the book misses by more than it may.
    #[serde(default)]
    pub booked: Vec<Booked>,
    /// The practice.
    #[serde(default)]
    pub practice: Practice,
}

/// A height out of the level book.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Booked {
    /// The point, as the book names it.
    pub point: String,
    /// Its height, metres.
    pub height_m: f64,
}

/// A height that can be taken for the floor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BookedShown {
    /// The point, as the book names it.
    pub point: String,
    /// Its height as it would be typed.
    pub typed: String,
}

/// How far cladding stands over the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Clearance {
    /// The face.
    pub face: Face,
    /// From its left end, metres.
    pub station_m: f64,
    /// Over the ground, metres.
    pub stands_m: f64,
    /// What the practice asks, metres.
    pub asked_m: f64,
}

/// A lap that can be turned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LapShown {
    /// The piece outside.
    pub outer: String,
    /// The piece inside.
    pub inner: String,
    /// "upper sheet over window, 100 mm".
    pub words: String,
    /// The higher one is outside; none for a lap that runs sideways.
    pub shingled: Option<bool>,
    /// Shorter than the practice asks.
    pub short: bool,
    /// Turned by hand.
    pub turned: bool,
}

/// A set of laps to turn, in words.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MendingShown {
    /// What to do.
    pub words: String,
    /// The wall must be opened for it.
    pub opens_wall: bool,
}

/// A way in, for tracing: where water gets through and with what.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WayIn {
    /// The detail.
    pub detail: String,
    /// Where.
    pub place: Place,
    /// "Head of W2".
    pub words: String,
    /// The condition it is noted as.
    pub condition: String,
    /// Share of the width that lets water in, every seal sound.
    pub sound: f64,
    /// The same with aged seals.
    pub aged: f64,
    /// From where the wind has to come for it.
    pub wind: super::record::Wind,
}

/// A detail, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DetailAccount {
    /// Which.
    pub id: String,
    /// "Flanged window, front W2".
    pub name: String,
    /// Where.
    pub place: Place,
    /// The pieces as they lie, for the drawing; none where a size cannot be read.
    pub input: Option<LapsInput>,
    /// Why it could not be worked out.
    pub problem: Option<String>,
    /// What is to be said of it.
    pub verdict: Option<LapVerdict>,
    /// Share of the width that lets water in, every seal sound.
    pub sound: f64,
    /// The same with aged seals.
    pub aged: f64,
    /// The verdict in a sentence, with the way of the water.
    pub sentence: String,
    /// Seals of which each alone keeps water out.
    pub rests_on: Vec<String>,
    /// Its laps.
    pub laps: Vec<LapShown>,
    /// What would end it.
    pub mending: Vec<MendingShown>,
    /// In which order the pieces go on.
    pub order: String,
    /// A piece that was put on too early.
    pub too_early: Option<String>,
    /// What may be noted.
    pub offered: Option<Offered>,
    /// What is handed on for tracing.
    pub way_in: Option<WayIn>,
    /// Water's ways: for sound and for aged seals, one for each way that differs.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub ways: [Vec<Strip>; 2],
}

/// Masonry, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MasonryAccount {
    /// Which.
    pub id: String,
    /// Weeps it needs.
    pub needs: u32,
    /// Weeps that are missing.
    pub missing: u32,
    /// The sum of the weeps.
    pub weeps: String,
    /// What is to be said of its joints.
    pub joints: String,
    /// What else is to be said.
    pub more: Vec<String>,
    /// What may be noted.
    pub offered: Vec<Offered>,
}

/// Floor heights, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FloorAccount {
    /// The plane; none while there are too few heights.
    pub plane: Option<FloorPlane>,
    /// Each height where it was read, as far as it can be read.
    pub points: Vec<FloorShown>,
    /// In words, beside the practice's limits.
    pub sentence: String,
    /// Within both limits.
    pub right: bool,
}

/// A height of a floor as it is drawn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FloorShown {
    /// Which.
    pub id: String,
    /// From the left wall, metres.
    pub x_m: f64,
    /// From the front wall, metres.
    pub y_m: f64,
    /// Above or below the first, metres.
    pub height_m: f64,
    /// Beside the best plane, metres; none while there is no plane.
    pub off_m: Option<f64>,
}

/// A template as the page offers it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FormShown {
    /// Which.
    pub template: super::templates::Template,
    /// What it is called.
    pub name: String,
    /// Its sizes.
    pub sizes: Vec<SizeShown>,
    /// Its usual faults.
    pub faults: Vec<FaultShown>,
}

/// A size as the page asks it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SizeShown {
    /// Its name.
    pub key: String,
    /// As it is asked for.
    pub words: String,
    /// While nothing is typed, metres.
    pub usual_m: f64,
}

/// A fault as the page offers it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FaultShown {
    /// Its name.
    pub key: String,
    /// As it is said.
    pub words: String,
}

/// Everything that follows from walls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WallAccount {
    /// Details.
    pub details: Vec<DetailAccount>,
    /// Openings and faces by checks.
    pub matrix: Matrix,
    /// What must be seen again before it is closed up.
    pub do_not_cover: Vec<DoNotCover>,
    /// What notes tell of cells that are still open.
    pub told: Vec<CheckSaid>,
    /// Rows of fasteners.
    pub rows: Vec<RowShare>,
    /// What may be noted of rows.
    pub offered_rows: Vec<Offered>,
    /// Masonry.
    pub masonry: Vec<MasonryAccount>,
    /// Clearances, in words, short ones first.
    pub clearances: Vec<String>,
    /// Cracks.
    pub cracks: Vec<CrackAccount>,
    /// All signs beside four movements; none while there is no sign.
    pub reader: Option<CrackReader>,
    /// The floor; none while no height was read.
    pub floor: Option<FloorAccount>,
    /// Heights of the level book that are not among the floor's.
    pub booked: Vec<BookedShown>,
    /// What the details hand on for tracing.
    pub ways_in: Vec<WayIn>,
    /// What can be chosen.
    pub forms: Vec<FormShown>,
}
