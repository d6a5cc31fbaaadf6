//! Moisture meters and a thermal camera: what they show follows from one hidden wet field of the demo building, with the instrument's
//! step, its noise and its drift; now and then the battery is low, a place is out of range, or the connection is lost.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a meter stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum MeterState {
    /// It still moves.
    Settling,
    /// It can be taken.
    Steady,
    /// The battery is low: it reads too little.
    Battery,
    /// Nothing comes any more.
    Lost,
}

/// One reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MeterReading {
    /// Since it was put on, seconds.
    pub seconds: f64,
    /// What it shows; none while nothing comes.
    pub value: Option<f64>,
    /// How it stands.
    pub state: MeterState,
    /// In words, with what to do.
    pub words: String,
    /// It is not real.
    pub simulated: bool,
}

/// What the air shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AirShown {
    /// Temperature, °C.
    pub t_c: f64,
    /// Relative humidity, %.
    pub rh_pct: f64,
    /// The coldest surface near it, °C.
    pub surface_c: f64,
    /// In words.
    pub words: String,
    /// It is not real.
    pub simulated: bool,
}

/// Which scale a meter shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MeterScale {
    /// Per cent, as in wood.
    Percent,
    /// 0 to 100, only to compare.
    Relative,
}

/// Instruments that are put on a place of the building: right, rear and up in metres.
pub trait Meters: Send + Sync {
    /// What a moisture meter shows so many seconds after it was put on.
    fn moisture(&self, at: [f64; 3], scale: MeterScale, seconds: f64) -> MeterReading;
    /// What a thermo-hygrometer shows.
    fn air(&self, at: [f64; 3]) -> AirShown;
    /// A picture of heat: temperatures on a surface from its lower left corner, row by row from the top.
    fn heat(&self, corner: [f64; 3], right: [f64; 3], up: [f64; 3], cell_m: f64, size: [usize; 2]) -> Vec<Vec<Option<f64>>>;
}

/// The stand-in that ships with the application.
#[derive(Debug, Default)]
pub struct SimulatedMeters;

/// What is hidden in the demo building: wet places with their middle, reach and strength, and one cold duct that is dry.
const WET: [([f64; 3], [f64; 3], f64); 3] = [
    // Under the valley foot, where the wing meets the main roof.
    ([13.9, 9.7, 2.6], [0.55, 0.7, 0.4], 19.0),
    // Behind the store room's skirting.
    ([2.2, 8.7, 0.0], [0.9, 0.4, 0.3], 17.0),
    // At the porch stone.
    ([8.0, 0.0, 0.3], [0.5, 0.4, 0.35], 8.0),
];
const DUCT: ([f64; 3], [f64; 3], f64) = ([12.0, 11.6, 2.6], [0.35, 0.3, 0.3], 2.4);
/// What dry places read, per cent and compared.
const DRY_PCT: f64 = 9.0;
const DRY_RELATIVE: f64 = 14.0;
const RELATIVE_PER_PCT: f64 = 2.6;
/// A wet place is cooler by so much for each point of per cent, K.
const COOLER_K: f64 = 0.11;
/// Pins settle in about this, seconds.
const SETTLES_S: f64 = 0.8;

fn dice(at: &[f64], salt: u64) -> f64 {
    let mut h = 0xcbf2_9ce4_8422_2325_u64 ^ salt;
    for v in at {
        for b in ((v * 100.0).round() as i64).to_le_bytes() {
            h = (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3);
        }
    }
    (h >> 40) as f64 / f64::from(1 << 24)
}

fn bump(at: [f64; 3], of: &([f64; 3], [f64; 3], f64)) -> f64 {
    let d: f64 = (0..3).map(|k| ((at[k] - of.0[k]) / of.1[k]).powi(2)).sum();
    of.2 * (-d / 2.0).exp()
}

fn wet(at: [f64; 3]) -> f64 {
    WET.iter().map(|w| bump(at, w)).sum()
}

impl Meters for SimulatedMeters {
    fn moisture(&self, at: [f64; 3], scale: MeterScale, seconds: f64) -> MeterReading {
        let over = wet(at);
        let true_value = match scale {
            MeterScale::Percent => DRY_PCT + over,
            MeterScale::Relative => (DRY_RELATIVE + RELATIVE_PER_PCT * over).min(100.0),
        };
        let noise = (dice(&[at[0], at[1], at[2], seconds], 5) - 0.5) * 0.6 + (dice(&at, 6) - 0.5) * 1.2;
        let moving = (-seconds / SETTLES_S).exp();
        let battery = dice(&at, 7) < 0.05;
        let lost = dice(&at, 8) < 0.04 && seconds > 3.0;
        let shown = ((true_value + noise) * if battery { 0.7 } else { 1.0 } * (1.0 - 0.6 * moving)).max(0.0);
        let step = if scale == MeterScale::Percent { 0.1 } else { 1.0 };
        let value = (shown / step).round() * step;
        let (value, state, words) = match (lost, battery, moving > 0.05) {
            (true, _, _) => (None, MeterState::Lost, "The connection is lost. Put the meter on again, or type what it shows."),
            (_, true, _) => (Some(value), MeterState::Battery, "The battery is low and the figure too small. Change it and read again."),
            (_, _, true) => (Some(value), MeterState::Settling, "It still moves. Hold it."),
            _ => (Some(value), MeterState::Steady, "Steady."),
        };
        MeterReading { seconds, value, state, words: words.to_owned(), simulated: true }
    }

    fn air(&self, at: [f64; 3]) -> AirShown {
        let near = wet(at).min(10.0);
        AirShown {
            t_c: 20.5 + (dice(&at, 9) * 4.0).round() / 10.0,
            rh_pct: (46.0 + near * 0.6 + dice(&at, 10) * 3.0).round(),
            surface_c: 16.5 - (near * 0.1 * 10.0).round() / 10.0,
            words: "Simulated thermo-hygrometer.".into(),
            simulated: true,
        }
    }

    fn heat(&self, corner: [f64; 3], right: [f64; 3], up: [f64; 3], cell_m: f64, size: [usize; 2]) -> Vec<Vec<Option<f64>>> {
        let [cols, rows] = size;
        let at = |c: usize, r: usize| {
            let (x, y) = ((c as f64 + 0.5) * cell_m, ((rows - 1 - r) as f64 + 0.5) * cell_m);
            std::array::from_fn(|k| corner[k] + right[k] * x + up[k] * y)
        };
        (0..rows)
            .map(|r| {
                (0..cols)
                    .map(|c| {
                        let p: [f64; 3] = at(c, r);
                        let noise = (dice(&[p[0], p[1], p[2], c as f64], 11) - 0.5) * 0.16;
                        let t = 18.4 + 0.12 * c as f64 * cell_m - COOLER_K * wet(p) - bump(p, &DUCT) + noise;
                        Some((t * 100.0).round() / 100.0)
                    })
                    .collect()
            })
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_hidden_field_is_wet_where_it_is_wet_and_the_duct_is_only_cold() {
        let m = SimulatedMeters;
        let read = |at| (0..40).filter_map(|k| m.moisture(at, MeterScale::Percent, 2.0 + f64::from(k) / 10.0).value).fold(0.0, f64::max);
        assert!(read([13.9, 9.7, 2.6]) > 20.0 && read([12.0, 11.6, 2.6]) < 12.0);
        let grid = m.heat([11.0, 9.3, 2.6], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], 0.1, [32, 34]);
        let coldest = grid.iter().flatten().flatten().copied().fold(f64::MAX, f64::min);
        assert!(coldest < 17.0);
    }

    #[test]
    fn the_same_place_at_the_same_second_shows_the_same_and_it_settles() {
        let m = SimulatedMeters;
        let at = [5.0, 3.0, 1.0];
        assert_eq!(m.moisture(at, MeterScale::Relative, 1.0), m.moisture(at, MeterScale::Relative, 1.0));
        assert_eq!(m.moisture(at, MeterScale::Relative, 0.2).state, MeterState::Settling);
        assert!(m.moisture(at, MeterScale::Relative, 9.0).simulated);
    }
}
