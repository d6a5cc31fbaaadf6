//! Water that leaves the roof's edge flies: does it land in the trough?
//!
//! Along a slope it runs as a thin sheet, in a valley as a stream in a V, both at their uniform depth: Manning's formula, and for a
//! sheet so thin that it is laminar the film of Nusselt, whichever is deeper. It
//! leaves with the slope of the roof and falls freely to the rim. An estimate: drops cling to an edge at small flows, wind and
//! ridged coverings move them.

use crate::gutter::G;
use serde::{Deserialize, Serialize};

/// What leaves the edge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "as", rename_all = "kebab-case")]
pub enum Leaves {
    /// A sheet.
    Sheet {
        /// Plan area behind each metre of the edge, m.
        width_m: f64,
        /// Rise over run of the slope.
        pitch: f64,
    },
    /// A stream out of a valley.
    Stream {
        /// Plan area behind it, m².
        area_m2: f64,
        /// Rise over run along the valley.
        pitch: f64,
        /// Rise over run of each side across the valley.
        sides: [f64; 2],
        /// Angle between the valley and straight out from the eave, degrees, on the plan.
        skew_deg: f64,
    },
}

/// Input of `calc overshoot`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OvershootInput {
    /// What leaves.
    pub leaves: Leaves,
    /// Rain, mm/h.
    pub rain_mm_h: f64,
    /// Manning's roughness of the covering.
    pub roughness: f64,
    /// How far the covering reaches past the back of the trough, metres.
    pub past_fascia_m: f64,
    /// The drip edge above the rim, metres.
    pub above_rim_m: f64,
    /// From the back of the trough to its front, metres.
    pub catch_m: f64,
}

/// Where it lands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Overshoot {
    /// Depth at the edge, mm.
    pub depth_mm: f64,
    /// Speed at the edge, m/s.
    pub speed_m_s: f64,
    /// From the back of the trough, at the height of its rim, metres.
    pub lands_m: f64,
    /// It lands in the trough.
    pub caught: bool,
    /// The rain from which it flies over, mm/h; none when no rain of this world does.
    pub flies_over_from_mm_h: Option<f64>,
}

/// More than falls on earth, mm/h.
const MOST_RAIN: f64 = 2000.0;

/// Kinematic viscosity of water at 10 °C, m²/s.
const VISCOSITY: f64 = 1.31e-6;

/// Uniform depth and speed at a flow. Metres and metres per second.
fn uniform(leaves: Leaves, roughness: f64, rain_mm_h: f64) -> (f64, f64) {
    let per = rain_mm_h / 3.6e6;
    // Along the slope, not along the plan.
    let along = |pitch: f64| (pitch / pitch.hypot(1.0)).sqrt();
    match leaves {
        Leaves::Sheet { width_m, pitch } => {
            let q = width_m * per;
            let turbulent = (roughness * q / along(pitch)).powf(0.6);
            // A laminar film: q = g S y³ / 3ν. The slower of the two holds the water back, and so is the deeper.
            let laminar = (3.0 * VISCOSITY * q / (G * along(pitch).powi(2))).cbrt();
            let y = turbulent.max(laminar);
            (y, if y > 0.0 { q / y } else { 0.0 })
        }
        Leaves::Stream { area_m2, pitch, sides, .. } => {
            let q = area_m2 * per;
            // Width of the surface and wetted sides for each metre of depth.
            let [a, b] = sides.map(|s| 1.0 / s.max(1e-3));
            let (half, wet) = ((a + b) / 2.0, a.hypot(1.0) + b.hypot(1.0));
            let y = (roughness * q / along(pitch) / half * (wet / half).powf(2.0 / 3.0)).powf(0.375);
            (y, if y > 0.0 { q / (half * y * y) } else { 0.0 })
        }
    }
}

fn lands(i: &OvershootInput, rain_mm_h: f64) -> (f64, f64, f64) {
    let (depth, speed) = uniform(i.leaves, i.roughness, rain_mm_h);
    let (pitch, skew) = match i.leaves {
        Leaves::Sheet { pitch, .. } => (pitch, 0.0_f64),
        Leaves::Stream { pitch, skew_deg, .. } => (pitch, skew_deg),
    };
    let (out, down) = (speed / pitch.hypot(1.0), speed * pitch / pitch.hypot(1.0));
    let time = ((down * down + 2.0 * G * i.above_rim_m).sqrt() - down) / G;
    (depth, speed, i.past_fascia_m + out * time * skew.to_radians().cos())
}

/// Works out where the water lands.
///
/// # Errors
/// What is wrong with which figure.
pub fn overshoot(i: &OvershootInput) -> Result<Overshoot, String> {
    let (pitch, size) = match i.leaves {
        Leaves::Sheet { width_m, pitch } => (pitch, width_m),
        Leaves::Stream { area_m2, pitch, .. } => (pitch, area_m2),
    };
    if !(pitch > 0.0 && pitch <= 10.0) {
        return Err(format!("Water does not run off a pitch of {pitch}. Type a rise over run above 0."));
    }
    if !(0.0..=1e5).contains(&size) || !(0.0..=MOST_RAIN).contains(&i.rain_mm_h) {
        return Err("The roof behind the edge and the rain cannot be below zero, nor the rain above 2000 mm/h.".into());
    }
    if !(0.005..=0.2).contains(&i.roughness) {
        return Err(format!("A roughness of {} is no roof's. Type 0.005 to 0.2, for example 0.02 for shingles.", i.roughness));
    }
    let sizes = [("past the fascia", i.past_fascia_m), ("above the rim", i.above_rim_m), ("across the trough", i.catch_m)];
    if let Some((what, v)) = sizes.iter().find(|(_, v)| !(0.0..=2.0).contains(v)) {
        return Err(format!("{v} m {what} cannot be. Type metres from 0 to 2."));
    }
    let (depth, speed_m_s, lands_m) = lands(i, i.rain_mm_h);
    let over = |rain: f64| lands(i, rain).2 > i.catch_m;
    // More rain flies farther, so the place where it begins is found by halving.
    let flies_over_from_mm_h = over(MOST_RAIN).then(|| {
        let (mut low, mut high) = (0.0, MOST_RAIN);
        for _ in 0..50 {
            let middle = (low + high) / 2.0;
            if over(middle) { high = middle } else { low = middle }
        }
        high
    });
    Ok(Overshoot { depth_mm: depth * 1000.0, speed_m_s, lands_m, caught: lands_m <= i.catch_m, flies_over_from_mm_h })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn sheet(rain: f64, pitch: f64) -> OvershootInput {
        OvershootInput {
            leaves: Leaves::Sheet { width_m: 5.0, pitch },
            rain_mm_h: rain,
            roughness: 0.02,
            past_fascia_m: 0.03,
            above_rim_m: 0.03,
            catch_m: 0.1,
        }
    }

    fn stream(rain: f64, area: f64, sides: [f64; 2]) -> OvershootInput {
        OvershootInput { leaves: Leaves::Stream { area_m2: area, pitch: 0.35, sides, skew_deg: 45.0 }, ..sheet(rain, 0.5) }
    }

    #[test]
    fn a_sheet_by_hand() {
        // 5 m at 132 mm/h is 0.183 L/s for each metre; along a slope of 0.447: (0.02 · 1.833e-4 / √0.447)^0.6 = 0.697 mm.
        let o = overshoot(&sheet(132.0, 0.5)).unwrap();
        assert!((o.depth_mm - 0.697).abs() < 0.001 && (o.speed_m_s - 0.263).abs() < 0.001, "{o:?}");
        // It leaves at 0.235 out and 0.118 down: 67 ms to fall 30 mm, 16 mm out.
        assert!((o.lands_m - 0.0459).abs() < 2e-4 && o.caught, "{o:?}");
    }

    #[test]
    fn what_cannot_be_is_said() {
        assert!(overshoot(&sheet(132.0, 0.0)).unwrap_err().contains("pitch"));
        assert!(overshoot(&OvershootInput { catch_m: -0.1, ..sheet(132.0, 0.5) }).unwrap_err().contains("across the trough"));
        assert!(overshoot(&OvershootInput { roughness: 2.0, ..sheet(132.0, 0.5) }).unwrap_err().contains("roughness"));
        assert!(overshoot(&OvershootInput { rain_mm_h: f64::NAN, ..sheet(132.0, 0.5) }).is_err());
    }

    proptest! {
        /// Depth times speed is the flow: nothing is made or lost at the edge.
        #[test]
        fn flow_is_kept(rain in 1.0..400.0_f64, area in 1.0..200.0_f64, pitch in 0.05..2.0_f64, a in 0.1..1.0_f64, b in 0.1..1.0_f64) {
            let s = overshoot(&sheet(rain, pitch)).unwrap();
            prop_assert!((s.depth_mm / 1000.0 * s.speed_m_s / (5.0 * rain / 3.6e6) - 1.0).abs() < 1e-9);
            let v = overshoot(&stream(rain, area, [a, b])).unwrap();
            let section = (v.depth_mm / 1000.0).powi(2) * (1.0 / a + 1.0 / b) / 2.0;
            prop_assert!((section * v.speed_m_s / (area * rain / 3.6e6) - 1.0).abs() < 1e-9);
        }

        /// More rain flies farther, a valley farther than its slope, and it first flies over where it just misses.
        #[test]
        fn more_rain_flies_farther(rain in 10.0..300.0_f64, area in 5.0..120.0_f64) {
            let (less, more) = (overshoot(&stream(rain, area, [0.35, 0.35])).unwrap(), overshoot(&stream(rain * 1.3, area, [0.35, 0.35])).unwrap());
            prop_assert!(more.lands_m > less.lands_m);
            if let Some(from) = less.flies_over_from_mm_h {
                let just = overshoot(&stream(from, area, [0.35, 0.35])).unwrap();
                prop_assert!((just.lands_m - 0.1).abs() < 1e-6);
                prop_assert_eq!(less.caught, rain <= from);
            }
        }
    }

    /// Thin sheets are laminar and run slower than Manning says; thick ones are not. The two meet without a step.
    #[test]
    fn a_thin_sheet_is_a_laminar_film() {
        let at = |rain: f64, width_m: f64| uniform(Leaves::Sheet { width_m, pitch: 0.5 }, 0.01, rain);
        let (y, v) = at(10.0, 2.0);
        let q = 2.0 * 10.0 / 3.6e6;
        let sine = 0.5 / 0.5_f64.hypot(1.0);
        assert!((y - (3.0 * VISCOSITY * q / (G * sine)).cbrt()).abs() < 1e-12 && (v * y - q).abs() < 1e-15);
        let (thick, _) = at(500.0, 10.0);
        assert!((thick - (0.01 * 10.0 * 500.0 / 3.6e6 / sine.sqrt()).powf(0.6)).abs() < 1e-12);
        let depths: Vec<f64> = (1..2000).map(|r| at(f64::from(r), 8.0).0).collect();
        assert!(depths.windows(2).all(|w| w[1] > w[0] && w[1] < 1.6 * w[0] + 1e-5), "deeper with more rain, and nowhere at once");
    }
}
