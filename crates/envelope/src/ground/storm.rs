//! What one storm over a whole place comes to, as figures.

use super::origin::Origin;
use super::survey::{GroundInput, WallContact};
use crate::site::Face;
use serde::{Deserialize, Serialize};

/// Litres, by where they are. In and out of the whole place: `roof + walls + ground + spray = soaked + left + carried + held + stands`.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Litres {
    /// Rain on the roof.
    pub roof: f64,
    /// Rain off walls onto roofs.
    pub walls: f64,
    /// Rain on the ground.
    pub ground: f64,
    /// From spray heads.
    pub spray: f64,
    /// Taken by the soil.
    pub soaked: f64,
    /// Over the border of what is known.
    pub left: f64,
    /// In pipes, drains.
    pub carried: f64,
    /// Held on roofs.
    pub held: f64,
    /// Standing now.
    pub stands: f64,
}

impl Litres {
    /// What is missing or too much, as a share of all that came in.
    pub fn misses(&self) -> f64 {
        let came = self.roof + self.walls + self.ground + self.spray;
        let went = self.soaked + self.left + self.carried + self.held + self.stands;
        if came > 0.0 { (came - went) / came } else { 0.0 }
    }
}

/// A pond at one moment.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PondNow {
    /// Its name in the account.
    pub id: String,
    /// Level above the floor, metres.
    pub level_m: f64,
    /// Its depth.
    pub depth_m: f64,
    /// What it holds, m³.
    pub volume_m3: f64,
    /// It runs over.
    pub over: bool,
}

/// One moment of the storm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RainStep {
    /// Minutes since it began, at the end of the step.
    pub minute: f64,
    /// Rain in the step, mm/h.
    pub rain_mm_h: f64,
    /// Spilt from gutters in the step, litres per minute.
    pub spilt_l_min: f64,
    /// Let go by outlets in the step, litres per minute.
    pub outlets_l_min: f64,
    /// Every named pond.
    pub ponds: Vec<PondNow>,
    /// All so far.
    pub litres: Litres,
}

/// A part of the water in a pond.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FromWhere {
    /// "over the brim of G3", "rain on the ground".
    pub origin: String,
    /// The same as a thing, not as words.
    pub source: Origin,
    /// Of all that came into the pond, from 0 to 1.
    pub share: f64,
    /// Litres.
    pub litres: f64,
}

/// A place that gets wet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WetPlace {
    /// The pond.
    pub pond: String,
    /// Where it is.
    pub place: String,
    /// The face it lies at.
    pub face: Face,
    /// The result in a sentence.
    pub sentence: String,
    /// The most it held, m³.
    pub volume_m3: f64,
    /// Its depth then.
    pub depth_m: f64,
    /// The walls it stood against then.
    pub walls: Vec<WallContact>,
    /// Metres of wall that it wets, times the hours they are wet.
    pub wall_metre_hours: f64,
    /// When it was fullest, minutes.
    pub fullest_min: f64,
    /// When it ran over first, minutes.
    pub over_from_min: Option<f64>,
    /// When it was gone, hours since the storm began; none when it still stands after a day.
    pub gone_h: Option<f64>,
    /// Where its water came from, the most first.
    pub from: Vec<FromWhere>,
}

/// A way in, and the water before it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WayInStood {
    /// Its short name.
    pub id: String,
    /// The highest water that stood before it, above the finished floor, metres; none where none stood.
    pub level_m: Option<f64>,
    /// Its edge above that water, metres; negative when it was under it.
    pub margin_m: Option<f64>,
    /// No water stood before it, or well below it.
    pub clear: bool,
    /// In words.
    pub sentence: String,
}

/// The storm, through.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RainTest {
    /// The storm in words.
    pub storm: String,
    /// Every moment.
    pub steps: Vec<RainStep>,
    /// Who gets wet, the most first.
    pub wet: Vec<WetPlace>,
    /// Faces that stay dry, in words.
    pub dry: Vec<String>,
    /// Thresholds, sills, wells and vents: which are reached, the lowest first.
    pub ways_in: Vec<WayInStood>,
    /// All of it.
    pub litres: Litres,
    /// The balance in words.
    pub balance: String,
    /// Were the pipes blocked whose end nobody knows; none where there is no such pipe.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub if_blocked: Option<IfBlocked>,
}

/// The same storm were the buried pipes of unknown end blocked: the other of the two cases between which the truth lies.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct IfBlocked {
    /// The gutters that drain into them.
    pub gutters: Vec<String>,
    /// What goes into them in the storm, litres.
    pub litres: f64,
    /// What would be otherwise, in words.
    pub words: String,
    /// Who would get wet then, the most first.
    pub wet: Vec<WetPlace>,
    /// Where all the water is then.
    pub taken: Litres,
}

/// Input of `calc rain-test`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RainTestInput {
    /// The place.
    pub place: GroundInput,
    /// The return period; the design rain's while it is not given.
    #[serde(default)]
    pub years: Option<f64>,
    /// How long it rains.
    #[serde(default)]
    pub lasts: Lasts,
}

/// How long a storm lasts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Lasts {
    /// One hour: the burst that gutters fear.
    #[default]
    Hour,
    /// A day: the rain that yards fear. The law is stretched past the hour it was taken over, so its depth is an estimate.
    Day,
}

impl Lasts {
    pub(crate) fn words(self) -> &'static str {
        match self {
            Lasts::Hour => "One hour",
            Lasts::Day => "A day (the law stretched past its hour, an estimate)",
        }
    }
}

/// Which storm is wanted.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Wanted {
    /// The return period; the design rain's while it is not given.
    pub years: Option<f64>,
    /// How long it rains.
    pub lasts: Lasts,
}

/// Why the storm cannot be run.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RainTestError {
    /// Somebody stopped it.
    #[error("Stopped.")]
    Stopped,
    /// Something is missing.
    #[error("{0}")]
    Missing(String),
}
