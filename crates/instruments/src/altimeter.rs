//! The hydrostatic altimeter: a pressure cell on a water-filled hose. It reads height differences against a place it was zeroed
//! on, drifts with the sun on the hose, jumps while a bubble travels through it, and now and then loses its connection.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a reading stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum AltimeterState {
    /// The water in the hose still swings.
    Settling,
    /// It can be taken.
    Steady,
    /// A bubble is in the hose: tap it, and wait.
    Bubble,
    /// Nothing comes any more.
    Lost,
}

/// One reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AltimeterReading {
    /// Since the cell was laid down, seconds.
    pub seconds: f64,
    /// Above the place it was zeroed on, millimetres; none while nothing comes.
    pub mm: Option<f64>,
    /// How it stands.
    pub state: AltimeterState,
    /// In words, with what to do.
    pub words: String,
    /// It is not real.
    pub simulated: bool,
}

/// An altimeter whose cell lies at a place.
pub trait Altimeter: Send + Sync {
    /// What it shows so many seconds after the cell was laid down at a place, in metres of the plan; `ground_mm` is the true
    /// height there, as far as anybody knows, and `hours_on` how long ago it was zeroed.
    fn reading(&self, at: [f64; 2], ground_mm: f64, seconds: f64, hours_on: f64) -> AltimeterReading;
}

/// The stand-in that ships with the application. What it shows follows from place and time alone.
#[derive(Debug, Default)]
pub struct SimulatedAltimeter;

/// The hose warms: so much an hour, mm.
const DRIFT_MM_H: f64 = 3.0;
/// The water swings this far at first, mm, and is still after a few of these, seconds.
const SWING_MM: f64 = 60.0;
const STILL_S: f64 = 1.2;
/// It is steady when the swing is below this, mm.
const STEADY_MM: f64 = 0.5;

/// A number from 0 to 1 that follows from a place.
fn dice(at: [f64; 2], salt: u64) -> f64 {
    let mut h = 0xcbf2_9ce4_8422_2325_u64 ^ salt;
    for v in at {
        for b in ((v * 100.0).round() as i64).to_le_bytes() {
            h = (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3);
        }
    }
    (h >> 40) as f64 / f64::from(1 << 24)
}

impl Altimeter for SimulatedAltimeter {
    fn reading(&self, at: [f64; 2], ground_mm: f64, seconds: f64, hours_on: f64) -> AltimeterReading {
        let bubble = dice(at, 1) < 0.15 && (1.0..4.0).contains(&seconds);
        let lost = dice(at, 2) < 0.06 && seconds > 5.0;
        let swing = SWING_MM * (-seconds / STILL_S).exp() * (seconds * 4.0).cos();
        let noise = (dice([at[0] + seconds * 7.0, at[1]], 3) - 0.5) * 0.8;
        let jump = if bubble { 35.0 * (dice([at[0], at[1] + seconds], 4) - 0.5) } else { 0.0 };
        let shown = ground_mm + DRIFT_MM_H * hours_on + swing + noise + jump;
        let still = SWING_MM * (-seconds / STILL_S).exp() < STEADY_MM;
        let (mm, state, words) = match (lost, bubble, still) {
            (true, _, _) => (None, AltimeterState::Lost, "The connection is lost. Wake the cell, or type the height."),
            (_, true, _) => (Some(shown), AltimeterState::Bubble, "A bubble is in the hose. Tap along it and wait."),
            (_, _, false) => (Some(shown), AltimeterState::Settling, "The water still swings. Wait."),
            _ => (Some(shown), AltimeterState::Steady, "Steady."),
        };
        AltimeterReading { seconds, mm: mm.map(|v| (v * 10.0).round() / 10.0), state, words: words.into(), simulated: true }
    }
}

/// The fall a slope stick shows between two heights, per cent; it reads to a tenth.
pub fn slope_stick_percent(from_mm: f64, to_mm: f64, length_m: f64) -> f64 {
    ((from_mm - to_mm) / 10.0 / length_m * 10.0).round() / 10.0
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(place: [f64; 2], seconds: f64, hours: f64) -> AltimeterReading {
        SimulatedAltimeter.reading(place, -240.0, seconds, hours)
    }

    #[test]
    fn it_swings_settles_and_drifts_and_says_that_it_is_simulated() {
        let place = (0..).map(|k| [f64::from(k), 2.0]).find(|p| dice(*p, 1) > 0.5 && dice(*p, 2) > 0.5).unwrap();
        let (first, still) = (at(place, 0.2, 0.0), at(place, 8.0, 0.0));
        assert!(first.state == AltimeterState::Settling && still.state == AltimeterState::Steady && still.simulated);
        assert!((still.mm.unwrap() + 240.0).abs() < 1.0, "{still:?}");
        let later = at(place, 8.0, 2.0);
        assert!((later.mm.unwrap() - still.mm.unwrap() - 6.0).abs() < 1e-9, "two hours of sun on the hose");
        assert_eq!(at(place, 8.0, 0.0), still, "nothing in it is chance");
    }

    #[test]
    fn bubbles_pass_and_lost_connections_stay_lost() {
        let places = || (0..400).map(|k| [f64::from(k % 20), f64::from(k / 20)]);
        let bubbly = places().find(|p| at(*p, 2.0, 0.0).state == AltimeterState::Bubble).expect("some hose has a bubble");
        assert_ne!(at(bubbly, 6.0, 0.0).state, AltimeterState::Bubble);
        let lost = places().find(|p| at(*p, 6.0, 0.0).state == AltimeterState::Lost).expect("some connection is lost");
        assert!(at(lost, 60.0, 0.0).mm.is_none() && at(lost, 2.0, 0.0).mm.is_some());
        assert!(places().filter(|p| at(*p, 6.0, 0.0).state == AltimeterState::Lost).count() < 60, "most are not");
    }

    #[test]
    fn the_stick_reads_to_a_tenth() {
        assert!((slope_stick_percent(-200.0, -261.0, 1.2) - 5.1).abs() < 1e-9);
    }
}
