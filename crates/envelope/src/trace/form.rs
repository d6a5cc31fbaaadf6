//! What `calc trace` takes and answers.

use crate::measure::Units;
use serde::{Deserialize, Serialize};

/// How a wet spot shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Shows {
    /// On a ceiling.
    Ceiling,
    /// On the underside of a roof deck.
    Deck,
    /// High on a wall.
    WallHigh,
    /// At the head of a window or door.
    WindowHead,
    /// At its lower corner.
    WindowCorner,
    /// Low on a wall.
    WallLow,
    /// At the skirting.
    Skirting,
    /// On the floor near a wall.
    Floor,
}

impl Shows {
    /// All of them, from the top down.
    pub const ALL: [Self; 8] =
        [Self::Ceiling, Self::Deck, Self::WallHigh, Self::WindowHead, Self::WindowCorner, Self::WallLow, Self::Skirting, Self::Floor];
}

/// What a candidate is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum CandidateKind {
    /// A flashing, boot, valley, skylight or ridge on a roof; with a facing direction, the end of an eave against that wall.
    RoofDetail,
    /// The covering of a roof between its details.
    RoofField,
    /// A window, door, duct or box in a wall.
    WallOpening,
    /// A crack, joint or hole in the cladding.
    WallField,
    /// Where a gutter runs over or a sheet shoots past it.
    GutterSpill,
    /// Water that stands against a wall.
    Pond,
    /// A downspout that is let go at a wall.
    LetGo,
    /// A spray head that wets a wall.
    SprayHead,
    /// A pipe, drain or appliance.
    Plumbing,
    /// Moisture of the room's own air on a cold surface.
    Condensation,
}

impl CandidateKind {
    /// All of them.
    pub const ALL: [Self; 10] = [
        Self::RoofDetail,
        Self::RoofField,
        Self::WallOpening,
        Self::WallField,
        Self::GutterSpill,
        Self::Pond,
        Self::LetGo,
        Self::SprayHead,
        Self::Plumbing,
        Self::Condensation,
    ];

    /// Whether it gives water without rain.
    #[must_use]
    pub const fn without_rain(self) -> bool {
        matches!(self, Self::SprayHead | Self::Plumbing | Self::Condensation)
    }
}

/// What was seen of a candidate.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum SeenAs {
    /// Open: water can get in.
    Open,
    /// Doubtful.
    Doubtful,
    /// Not seen.
    Unseen,
    /// Looked at and found sound.
    Sound,
}

/// Wet or dry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Wetness {
    /// Wet.
    Wet,
    /// Dry.
    Dry,
}

/// A wet spot.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Spot {
    /// Its name.
    pub id: String,
    /// To the right, seen from the front, metres.
    pub x_m: f64,
    /// Toward the rear.
    pub y_m: f64,
    /// Above the ground floor.
    pub z_m: f64,
    /// The outward direction of the outer wall it shows on, degrees; none on ceilings, floors and decks.
    #[serde(default)]
    pub faces_deg: Option<f64>,
    /// How it shows.
    pub shows: Shows,
}

/// Where water may come in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TraceCandidate {
    /// Its name.
    pub id: String,
    /// What it is.
    pub kind: CandidateKind,
    /// To the right, seen from the front, metres.
    pub x_m: f64,
    /// Toward the rear.
    pub y_m: f64,
    /// Above the ground floor.
    pub z_m: f64,
    /// Where its roof falls to, degrees; on roofs.
    #[serde(default)]
    pub downslope_deg: Option<f64>,
    /// The outward direction of the wall it is in, ends against, or wets.
    #[serde(default)]
    pub faces_deg: Option<f64>,
    /// What was seen of it.
    pub state: SeenAs,
    /// Spills: the intensity over minutes from which the gutter runs over, mm/h.
    #[serde(default)]
    pub from_mm_h: Option<f64>,
    /// Ponds: the rain of the last 24 hours from which it stands, mm.
    #[serde(default)]
    pub from_mm: Option<f64>,
    /// Spray heads: from and to which hour of the day they run.
    #[serde(default)]
    pub hours: Option<[f64; 2]>,
    /// What a person calls it; the name where nothing is said.
    #[serde(default)]
    pub label: Option<String>,
    /// What mending it costs, in minutes of work; the usual figure of its kind where nothing is said.
    #[serde(default)]
    pub repair_minutes: Option<f64>,
}

/// An hour of the rain record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RainHour {
    /// When it begins.
    pub t: String,
    /// Rain in it, mm.
    pub mm: f64,
    /// Mean wind, m/s.
    pub wind_m_s: f64,
    /// Where the wind comes from, degrees.
    pub wind_from_deg: f64,
}

/// A time when somebody saw a spot wet or dry.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Sighting {
    /// Which spot.
    pub spot: String,
    /// When.
    pub t: String,
    /// Wet or dry.
    pub state: Wetness,
}

/// What kind of test was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum TestKind {
    /// Water from a hose on one place.
    Hose,
    /// Dye in the water of one place.
    Dye,
    /// Pressure on a pipe; for plumbing.
    Pressure,
    /// A meter along the line from there to here.
    Meter,
    /// Opening up to look.
    CutOut,
}

impl TestKind {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Hose, Self::Dye, Self::Pressure, Self::Meter, Self::CutOut];
}

/// A test that was made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TestDone {
    /// What kind.
    pub kind: TestKind,
    /// On which candidate.
    pub candidate: String,
    /// For how long, minutes.
    pub minutes: f64,
    /// Which spot was watched.
    pub spot: String,
    /// What it showed there.
    pub result: Wetness,
    /// Whether what lies below the water was tested dry or covered first.
    #[serde(default)]
    pub cleared_below: bool,
}

/// Input of `trace`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TraceInput {
    /// When the visit is, as 2026-11-18T10:00.
    pub visit: String,
    /// Where the front faces, degrees from north.
    pub front_deg: f64,
    /// The wet spots.
    pub spots: Vec<Spot>,
    /// Where water may come in.
    #[serde(default)]
    pub candidates: Vec<TraceCandidate>,
    /// Hourly rain and wind; an hour that is not in it was dry and calm, unless it lies in a hole.
    #[serde(default)]
    pub rain: Vec<RainHour>,
    /// Stretches of which the record knows nothing, from and to: sightings that would need them give no factor.
    #[serde(default)]
    pub holes: Vec<[String; 2]>,
    /// When the spots were seen wet or dry.
    #[serde(default)]
    pub seen: Vec<Sighting>,
    /// Tests that were made.
    #[serde(default)]
    pub tests: Vec<TestDone>,
    /// The units the reasons are read in.
    #[serde(default)]
    pub units: Units,
}

/// How much each thing speaks for a candidate, in bits: above nought for it, below against it. State: beside one that was not seen.
/// Place: beside a place at the edge of what its water reaches. Rain and tests: beside something that is not on the list.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TraceFactors {
    /// What was seen of it.
    pub state: f64,
    /// Where it lies.
    pub place: f64,
    /// When the spot was wet and when dry.
    pub rain: f64,
    /// What tests showed.
    pub tests: f64,
}

/// How the sightings agree with what a candidate was fed: numbers of sightings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Agreement {
    /// Wet when it should have shown.
    pub fed_wet: usize,
    /// Dry though it should have shown.
    pub fed_dry: usize,
    /// Wet though it could hardly have shown.
    pub unfed_wet: usize,
    /// Dry when it could hardly have shown.
    pub unfed_dry: usize,
}

/// An explanation with its probability.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RankedCause {
    /// One candidate, or two that work together.
    pub causes: Vec<String>,
    /// Its probability; all of a spot and what is not listed add up to one.
    pub p: f64,
    /// Why, in sentences; only for what is likely enough to be read.
    pub because: Vec<String>,
}

/// What was weighed of one candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TracedCandidate {
    /// Which.
    pub id: String,
    /// The probability that it feeds the spot, alone or with another.
    pub p: f64,
    /// What speaks for and against it.
    pub factors: TraceFactors,
    /// How the sightings agree with it.
    pub agreement: Agreement,
    /// Down its slope, or out of its wall, to the spot, metres.
    pub along_m: f64,
    /// Across that.
    pub side_m: f64,
    /// Down to the spot.
    pub drop_m: f64,
}

/// What would be believed after a result.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestOutcome {
    /// How likely this result is.
    pub chance: f64,
    /// What would lead then; empty when nothing on the list does.
    pub leads: Vec<String>,
    /// With which probability.
    pub p: f64,
}

/// A test that could be made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextTest {
    /// What kind.
    pub test: TestKind,
    /// On which candidate.
    pub candidate: String,
    /// How long it takes with what has to be set up, minutes.
    pub minutes: f64,
    /// How long the water runs, minutes; nought where none does.
    pub runs_minutes: f64,
    /// Whether a ladder is needed.
    pub ladder: bool,
    /// What is expected to become clearer, bits; never below nought.
    pub gain_bits: f64,
    /// For each minute.
    pub bits_per_minute: f64,
    /// What a wet spot would leave.
    pub if_wet: TestOutcome,
    /// What a dry spot would leave.
    pub if_dry: TestOutcome,
    /// What lies below in the water's way and was not tested dry: until then this test counts for less.
    pub clear_first: Vec<String>,
}

/// Whether to stop testing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StopRule {
    /// Stop now.
    pub now: bool,
    /// Why, or why not.
    pub because: String,
    /// What should be seen in the next rain if it was right.
    pub watch: Option<String>,
}

/// One spot, traced.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TracedSpot {
    /// Which.
    pub id: String,
    /// Every explanation, the likeliest first.
    pub ranking: Vec<RankedCause>,
    /// Every candidate, the likeliest first.
    pub candidates: Vec<TracedCandidate>,
    /// The probability that nothing on the list feeds it.
    pub unlisted: f64,
    /// How much is open, bits.
    pub open_bits: f64,
    /// Tests, the most telling for their time first.
    pub next: Vec<NextTest>,
    /// Whether to stop.
    pub stop: StopRule,
    /// What would change the first place.
    pub would_change: Vec<String>,
    /// What should be looked at again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// What `trace` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TraceOut {
    /// Every spot, in the order given.
    pub spots: Vec<TracedSpot>,
}

/// Why nothing can be traced.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct TraceError(pub(super) String);

impl TraceCandidate {
    /// What a person calls it.
    #[must_use]
    pub fn called(&self) -> &str {
        self.label.as_deref().filter(|l| !l.trim().is_empty()).unwrap_or(&self.id)
    }
}
