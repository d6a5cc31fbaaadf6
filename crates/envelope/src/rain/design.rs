//! Design rain from two figures of the local table: `i(t) = a / (t + b)^0.8` through the intensities of 5 and 60 minutes.
//!
//! Source: the usual three-parameter intensity law with its exponent held; a rule of practice. Millimetres per hour and
//! minutes.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Input of `calc rain`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RainInput {
    /// Once in so many years.
    #[serde(default)]
    pub return_period_years: Option<f64>,
    /// Intensity over 5 minutes, mm/h.
    pub i5_mm_h: f64,
    /// Intensity over 60 minutes, mm/h.
    pub i60_mm_h: f64,
}

/// The intensity law of a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rain {
    /// Numerator.
    pub a: f64,
    /// Added to the duration, minutes.
    pub b_min: f64,
    /// The exponent.
    pub c: f64,
    /// Intensity by duration in minutes, mm/h.
    pub i_mm_h: BTreeMap<String, f64>,
    /// The same in inches per hour.
    pub i_in_h: BTreeMap<String, f64>,
    /// Depth by duration, mm.
    pub depth_mm: BTreeMap<String, f64>,
    /// What a straight line on double-logarithmic paper would give, for comparison, mm/h.
    pub loglog_straight_line_mm_h: BTreeMap<String, f64>,
    /// The law has a pole at a short duration: it holds from five minutes on, not below.
    pub b_is_negative: bool,
    /// What should be looked at again, in words.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// Why two figures make no law.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum RainError {
    /// A figure that cannot be.
    #[error("An intensity of {0} mm/h cannot be. Type millimetres per hour, for example 132.")]
    Figure(f64),
    /// A longer rain is never the stronger one on average.
    #[error("Over 5 minutes it rains harder than over 60: {0} mm/h cannot go with {1} mm/h. Change them round, or check the table.")]
    Order(f64, f64),
}

/// Millimetres in an inch.
pub const INCH_MM: f64 = 25.4;
const EXPONENT: f64 = 0.8;
const DURATIONS: [f64; 5] = [5.0, 10.0, 15.0, 30.0, 60.0];

impl Rain {
    /// Intensity over so many minutes, mm/h.
    pub fn intensity(&self, minutes: f64) -> f64 {
        self.a / (minutes + self.b_min).powf(self.c)
    }
}

/// Works out the law.
///
/// # Errors
/// [`RainError`].
pub fn rain(input: &RainInput) -> Result<Rain, RainError> {
    let (i5, i60) = (input.i5_mm_h, input.i60_mm_h);
    for i in [i5, i60] {
        if !(i > 0.0 && i <= 2000.0) {
            return Err(RainError::Figure(i));
        }
    }
    if i5 <= i60 {
        return Err(RainError::Order(i5, i60));
    }
    let r = (i5 / i60).powf(1.0 / EXPONENT);
    let b = (60.0 - 5.0 * r) / (r - 1.0);
    let a = i5 * (5.0 + b).powf(EXPONENT);
    let mut law = Rain {
        a,
        b_min: b,
        c: EXPONENT,
        i_mm_h: BTreeMap::new(),
        i_in_h: BTreeMap::new(),
        depth_mm: BTreeMap::new(),
        loglog_straight_line_mm_h: BTreeMap::new(),
        b_is_negative: b < 0.0,
        doubts: vec![],
    };
    let line = (i60 / i5).ln() / (60.0_f64 / 5.0).ln();
    for t in DURATIONS {
        let (key, i) = (format!("{t}"), law.intensity(t));
        law.i_mm_h.insert(key.clone(), i);
        law.i_in_h.insert(key.clone(), i / INCH_MM);
        law.depth_mm.insert(key.clone(), i * t / 60.0);
        if t > 5.0 && t < 60.0 {
            law.loglog_straight_line_mm_h.insert(key, i5 * (t / 5.0).powf(line));
        }
    }
    law.doubts.extend(unit_doubt(i5));
    Ok(law)
}

/// Bursts between these are met somewhere; outside, a unit was mistaken. Rule of practice.
const LEAST_BURST_MM_H: f64 = 20.0;
const MOST_BURST_MM_H: f64 = 450.0;

/// Asks back when a five-minute intensity looks like the other unit.
pub fn unit_doubt(i5_mm_h: f64) -> Option<String> {
    let plausible = |i: f64| (LEAST_BURST_MM_H..=MOST_BURST_MM_H).contains(&i);
    if plausible(i5_mm_h) {
        return None;
    }
    let (inches, millimetres) = (i5_mm_h * INCH_MM, i5_mm_h / INCH_MM);
    if plausible(inches) {
        Some(format!("{i5_mm_h} mm/h is hardly rain. Are inches per hour meant ({inches:.0} mm/h)?"))
    } else if plausible(millimetres) {
        Some(format!("{i5_mm_h} mm/h is more than falls anywhere. Was it turned into millimetres twice ({millimetres:.0} mm/h)?"))
    } else {
        Some(format!("{i5_mm_h} mm/h over five minutes is unusual. Check the table."))
    }
}

/// Five minutes, hours.
pub(crate) const STEP_H: f64 = 5.0 / 60.0;
/// Steps of the storm: one hour.
const STORM_STEPS: usize = 12;

/// Intensities of a storm of one hour in steps of five minutes: each duration from five minutes to sixty has the depth of the
/// law, the burst in the middle, the rest by turns before and after it.
pub fn hyetograph(law: &Rain) -> Vec<f64> {
    hyetograph_of(law, STORM_STEPS, STEP_H)
}

/// The same for any storm: so many steps of so many hours.
pub fn hyetograph_of(law: &Rain, steps: usize, step_h: f64) -> Vec<f64> {
    let depth = |n: usize| law.intensity(step_h * 60.0 * n as f64) * step_h * n as f64;
    let blocks: Vec<f64> = (1..=steps).map(|n| (depth(n) - if n > 1 { depth(n - 1) } else { 0.0 }).max(0.0) / step_h).collect();
    let mut out = vec![0.0; steps];
    let middle = steps / 2;
    for (n, b) in blocks.iter().enumerate() {
        // 0, +1, −1, +2, −2 … about the middle.
        let away = n.div_ceil(2) as isize;
        let at = middle as isize + if n % 2 == 1 { -away } else { away };
        out[at.rem_euclid(steps as isize) as usize] = *b;
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn of(i5: f64, i60: f64) -> Result<Rain, RainError> {
        rain(&RainInput { return_period_years: None, i5_mm_h: i5, i60_mm_h: i60 })
    }

    #[test]
    fn the_other_unit_is_asked_about() {
        assert!(of(5.2, 1.34).unwrap().doubts[0].contains("inches per hour meant (132 mm/h)"));
        assert!(of(1990.0, 800.0).unwrap().doubts[0].contains("twice"));
        assert!(of(132.0, 34.0).unwrap().doubts.is_empty());
    }

    #[test]
    fn figures_that_make_no_law() {
        assert!(of(34.0, 132.0).unwrap_err().to_string().contains("Change them round"));
        assert!(of(0.0, 0.0).is_err() && of(f64::NAN, 3.0).is_err());
    }

    proptest! {
        /// It passes through both figures, and longer rain is weaker but deeper.
        #[test]
        fn through_both_and_falling(i60 in 5.0..150.0_f64, times in 1.2..7.0_f64) {
            let law = of(i60 * times, i60).unwrap();
            prop_assert!((law.intensity(5.0) / (i60 * times) - 1.0).abs() < 1e-9 && (law.intensity(60.0) / i60 - 1.0).abs() < 1e-9);
            for t in 5..60 {
                let (now, next) = (f64::from(t), f64::from(t + 1));
                prop_assert!(law.intensity(next) < law.intensity(now));
                prop_assert!(law.intensity(next) * next > law.intensity(now) * now);
            }
        }
    }
}
