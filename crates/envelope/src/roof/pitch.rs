//! Pitch, as it can be had on site: off a level and a stick, from a rise over a run, in degrees, from two heights, or by
//! counting courses. Each way says how far it may be off.

use super::typed::{metres, some_metres};
use crate::measure::{self, Quantity};
use serde::{Deserialize, Serialize};

/// How a pitch was had. Lengths are as typed; a bare number is metres.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "how", rename_all = "kebab-case", deny_unknown_fields)]
pub enum PitchRead {
    /// `6:12`, `26.6°`, `50 %`, `5 in per ft`, `0.5`.
    Typed {
        /// As typed.
        text: String,
    },
    /// One end of a level rests on the slope; the stick measures down from its other end.
    LevelAndStick {
        /// Length of the level.
        level: String,
        /// From the level's free end, straight down to the slope.
        drop: String,
    },
    /// Heights at two spots, and how far apart they are on the plan.
    Heights {
        /// The lower spot.
        low: String,
        /// The higher spot.
        high: String,
        /// From one to the other, level.
        run: String,
    },
    /// Courses counted up the slope, between two known heights.
    Courses {
        /// How many.
        courses: u32,
        /// Exposure of one, along the slope.
        exposure: String,
        /// Rise from the first to the last.
        rise: String,
    },
}

impl Default for PitchRead {
    fn default() -> Self {
        PitchRead::Typed { text: String::new() }
    }
}

/// A pitch, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pitch {
    /// Rise over run.
    pub pitch: f64,
    /// Inches in twelve.
    pub in_12: f64,
    /// Degrees.
    pub degrees: f64,
    /// Percent.
    pub percent: f64,
    /// Least and most it can be, rise over run, by how it was read.
    pub range: [f64; 2],
    /// How it was had, in words.
    pub rule: String,
}

/// A stick is read to this, on a rough covering.
const STICK_M: f64 = 0.003;
/// A spot height is read to this.
const SPOT_M: f64 = 0.01;
/// Typed without a reading behind it: half an inch in twelve, as pitches are quoted.
const QUOTED: f64 = 0.25 / 12.0;

/// Works out a pitch.
///
/// # Errors
/// What is wrong with the figures, and what to do.
pub fn pitch(read: &PitchRead) -> Result<Pitch, String> {
    let (value, low, high, rule) = match read {
        PitchRead::Typed { text } => {
            let v = typed(text)?;
            (v, (v - QUOTED).max(0.0), v + QUOTED, "As given".to_owned())
        }
        PitchRead::LevelAndStick { level, drop } => {
            let (run, rise) = (some_metres("The level", level)?, metres("The stick", drop)?);
            let at = |d: f64| (rise + d).max(0.0) / run;
            (at(0.0), at(-STICK_M), at(STICK_M), format!("{drop} down from the end of a level of {level}, as finely as a stick is read"))
        }
        PitchRead::Heights { low, high, run } => {
            let (a, b, run_m) = (metres("The lower height", low)?, metres("The higher height", high)?, some_metres("The run", run)?);
            if b < a {
                return Err("The higher spot is lower than the lower one. Change them round.".into());
            }
            let at = |d: f64| (b - a + d).max(0.0) / run_m;
            (at(0.0), at(-2.0 * SPOT_M), at(2.0 * SPOT_M), format!("from {low} to {high} over {run}, as finely as heights are read"))
        }
        PitchRead::Courses { courses, exposure, rise } => {
            let (each, rise_m) = (some_metres("The exposure", exposure)?, metres("The rise", rise)?);
            let at = |n: f64| {
                let along = n * each;
                (along > rise_m).then(|| rise_m / (along * along - rise_m * rise_m).sqrt())
            };
            let n = f64::from(*courses);
            let value = at(n).ok_or_else(|| {
                format!(
                    "{courses} courses of {exposure} are {:.2} m along the slope, no more than the rise of {rise}: count again.",
                    n * each
                )
            })?;
            let steep = at(n - 0.5).unwrap_or(f64::INFINITY);
            (value, at(n + 0.5).unwrap_or(value), steep, format!("{courses} courses of {exposure} rise {rise}, counted to half a course"))
        }
    };
    if !(0.0..=12.0).contains(&value) {
        return Err("A pitch lies between 0 and 12 in 1. Check the figures.".into());
    }
    Ok(Pitch {
        pitch: value,
        in_12: value * 12.0,
        degrees: value.atan().to_degrees(),
        percent: value * 100.0,
        range: [low, high.min(12.0)],
        rule,
    })
}

fn typed(text: &str) -> Result<f64, String> {
    let shown: String = text.trim().chars().take(40).collect();
    if shown.is_empty() {
        return Err("Type the pitch, for example 6:12, 26.6°, 50 % or 5 in per ft.".into());
    }
    if let Ok(v) = shown.parse::<f64>() {
        // A plain number is rise over run; from 1 on it is far more often meant in twelve, and nobody should guess which.
        if v >= 1.0 {
            return Err(format!("\u{201c}{shown}\u{201d} may be {shown} in 12 or {shown} in 1. Type {shown}:12 or {shown}:1."));
        }
        return Ok(v);
    }
    let m = measure::parse(text).map_err(|e| e.to_string())?;
    match m.quantity {
        Quantity::Slope | Quantity::Share => Ok(m.si),
        // An angle is turned into a slope here; an upright one has none.
        Quantity::Angle if m.si < std::f64::consts::FRAC_PI_2 => Ok(m.si.tan()),
        _ => Err(format!("\u{201c}{shown}\u{201d} is no pitch. Type it as 6:12, 26.6°, 50 % or 5 in per ft.")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(read: PitchRead) -> f64 {
        pitch(&read).unwrap().pitch
    }
    fn typed(text: &str) -> PitchRead {
        PitchRead::Typed { text: text.into() }
    }

    #[test]
    fn five_ways_to_the_same_pitch() {
        let six = [
            typed("6:12"),
            typed("50 %"),
            typed("0.5"),
            typed("6 in per ft"),
            PitchRead::LevelAndStick { level: "24 in".into(), drop: "12 in".into() },
            PitchRead::Heights { low: "2.9".into(), high: "4.65 m".into(), run: "3.5".into() },
        ];
        for read in six {
            assert!((of(read.clone()) - 0.5).abs() < 1e-9, "{read:?}");
        }
        assert!((of(typed("45°")) - 1.0).abs() < 1e-9);
        // 3-4-5: 50 courses of 100 mm rise 3 m over 4 m.
        let counted = pitch(&PitchRead::Courses { courses: 50, exposure: "100 mm".into(), rise: "3 m".into() }).unwrap();
        assert!((counted.pitch - 0.75).abs() < 1e-12);
        assert!(counted.range[0] < 0.75 && counted.range[1] > 0.75, "half a course either way");
    }

    #[test]
    fn a_bare_six_is_asked_about() {
        assert!(pitch(&typed("6")).unwrap_err().contains("6:12 or 6:1"));
        assert_eq!(of(typed("0.5")), 0.5);
    }

    #[test]
    fn a_pitch_that_cannot_be_is_said() {
        let e = |r: PitchRead| pitch(&r).unwrap_err();
        assert!(e(typed("")).contains("Type the pitch"));
        assert!(e(typed("3 ft")).contains("no pitch"));
        assert!(e(PitchRead::Courses { courses: 3, exposure: "100 mm".into(), rise: "3 m".into() }).contains("count again"));
        assert!(e(PitchRead::Heights { low: "5".into(), high: "3".into(), run: "2".into() }).contains("Change them round"));
        assert!(e(PitchRead::LevelAndStick { level: "0".into(), drop: "12 in".into() }).contains("The level"));
    }
}
