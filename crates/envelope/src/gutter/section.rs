//! The cross-section of a gutter. Above the rim its walls are taken to go on upright, so that a depth beyond the rim has a
//! meaning: the water is spilling there.

use super::dual::Dual;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// A cross-section, metres.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "shape", rename_all = "snake_case")]
pub enum Section {
    /// Upright walls.
    Rect {
        /// Width.
        width_m: f64,
        /// To the rim.
        depth_m: f64,
    },
    /// A half circle.
    HalfRound {
        /// Across the rim.
        diameter_m: f64,
    },
    /// Sloping walls, alike on both sides; the usual stand-in for an ornamental front.
    Trapezoid {
        /// Width of the floor.
        bottom_m: f64,
        /// Width at the rim.
        top_m: f64,
        /// To the rim.
        depth_m: f64,
    },
}

impl Section {
    /// To the rim, metres.
    pub fn depth(self) -> f64 {
        match self {
            Section::Rect { depth_m, .. } | Section::Trapezoid { depth_m, .. } => depth_m,
            Section::HalfRound { diameter_m } => diameter_m / 2.0,
        }
    }
    /// Width at the rim, metres.
    pub fn top(self) -> f64 {
        match self {
            Section::Rect { width_m, .. } => width_m,
            Section::HalfRound { diameter_m } => diameter_m,
            Section::Trapezoid { top_m, .. } => top_m,
        }
    }
    /// Checks that it can hold water.
    ///
    /// # Errors
    /// What is wrong with which figure.
    pub fn check(self) -> Result<(), String> {
        let figures: &[(&str, f64)] = match &self {
            Section::Rect { width_m, depth_m } => &[("The width", *width_m), ("The depth", *depth_m)],
            Section::HalfRound { diameter_m } => &[("The diameter", *diameter_m)],
            Section::Trapezoid { bottom_m, top_m, depth_m } => {
                &[("The floor", *bottom_m), ("The width at the rim", *top_m), ("The depth", *depth_m)]
            }
        };
        // A millimetre is no gutter, ten metres is a canal.
        match figures.iter().find(|(_, v)| !(0.001..=10.0).contains(v)) {
            Some((what, v)) => Err(format!("{what} cannot be {v} m. Type a size above 0, for example 0.125 m.")),
            None => Ok(()),
        }
    }
    /// Area, wetted perimeter and width of the surface at a depth.
    pub(crate) fn wet(self, y: f64) -> (f64, f64, f64) {
        let y = Dual::of(y.max(1e-9));
        (self.area(y).v, self.perimeter(y).v, self.width(y).v.max(1e-9))
    }
    /// Depth within the section, and above the rim.
    fn parts(self, y: Dual) -> (Dual, Dual) {
        let rim = self.depth();
        if y.v > rim { (Dual::of(rim), y - Dual::of(rim)) } else { (y, Dual::of(0.0)) }
    }
    /// Area at a depth, with its derivatives; upright walls above the rim.
    pub(super) fn area(self, y: Dual) -> Dual {
        let (y, above) = self.parts(y);
        let of = Dual::of;
        let within = match self {
            Section::Rect { width_m, .. } => y * of(width_m),
            Section::Trapezoid { bottom_m, top_m, depth_m } => y * (of(bottom_m) + y * of((top_m - bottom_m) / (2.0 * depth_m))),
            Section::HalfRound { diameter_m } => {
                let r = diameter_m / 2.0;
                let up = of(r) - y;
                (up / of(r)).acos() * of(r * r) - up * (y * (of(diameter_m) - y)).sqrt()
            }
        };
        within + above * of(self.top())
    }
    /// Wetted perimeter.
    pub(super) fn perimeter(self, y: Dual) -> Dual {
        let (y, above) = self.parts(y);
        let of = Dual::of;
        let within = match self {
            Section::Rect { width_m, .. } => of(width_m) + y * of(2.0),
            Section::Trapezoid { bottom_m, top_m, depth_m } => {
                of(bottom_m) + y * of(2.0 * ((top_m - bottom_m) / (2.0 * depth_m)).hypot(1.0))
            }
            Section::HalfRound { diameter_m } => ((of(diameter_m / 2.0) - y) / of(diameter_m / 2.0)).acos() * of(diameter_m),
        };
        within + above * of(2.0)
    }
    /// Width of the surface.
    pub(super) fn width(self, y: Dual) -> Dual {
        let (y, _) = self.parts(y);
        let of = Dual::of;
        match self {
            Section::Rect { width_m, .. } => of(width_m),
            Section::Trapezoid { bottom_m, top_m, depth_m } => of(bottom_m) + y * of((top_m - bottom_m) / depth_m),
            Section::HalfRound { diameter_m } => (y * (of(diameter_m) - y)).sqrt() * of(2.0),
        }
    }
    /// First moment of the area about the surface, m³: pressure over specific weight. Its derivative by the depth is the area.
    pub(super) fn moment(self, y: Dual) -> Dual {
        let (within, above) = self.parts(y);
        let of = Dual::of;
        let moment = match self {
            Section::Rect { width_m, .. } => within * within * of(width_m / 2.0),
            Section::Trapezoid { bottom_m, top_m, depth_m } => {
                within * within * (of(bottom_m / 2.0) + within * of((top_m - bottom_m) / (6.0 * depth_m)))
            }
            Section::HalfRound { diameter_m } => {
                // Two thirds of the half chord cubed lies below the middle; less what lies above the surface.
                let half = (within * (of(diameter_m) - within)).sqrt();
                half * half * half * of(2.0 / 3.0) - self.area(within) * (of(diameter_m / 2.0) - within)
            }
        };
        if above.v > 0.0 { moment + self.area(within) * above + above * above * of(self.top() / 2.0) } else { moment }
    }
    /// Area to the rim, mm².
    pub fn full_area_mm2(self) -> f64 {
        match self {
            Section::HalfRound { diameter_m } => PI * diameter_m * diameter_m / 8.0 * 1e6,
            s => s.wet(s.depth()).0 * 1e6,
        }
    }
    /// Pressure force over specific weight plus momentum, m³: the larger of two depths at one flow holds the smaller back.
    pub(crate) fn force(self, y: f64, q: f64) -> f64 {
        let y = Dual::of(y);
        let (a, moment) = (self.area(y).v, self.moment(y).v);
        q * q / (super::G * a) + moment
    }
    /// The depth at which a flow is critical.
    pub(crate) fn critical(self, q: f64) -> f64 {
        if q <= 0.0 {
            return 0.0;
        }
        // In logarithms A³/T against depth is nearly straight, so a few steps settle it.
        let wanted = (q * q / super::G).ln();
        let mut y = self.depth() / 2.0;
        for _ in 0..60 {
            let (a, _, t) = self.wet(y);
            let step = (wanted - (a * a * a / t).ln()) * a / (3.0 * t * y);
            y *= step.clamp(-1.0, 1.0).exp();
            if step.abs() < 1e-13 {
                break;
            }
        }
        y
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn full_sections_and_beyond_the_rim() {
        let half = Section::HalfRound { diameter_m: 0.125 };
        assert!((half.full_area_mm2() - 6135.923).abs() < 0.01);
        let (a, p, t) = half.wet(0.0625);
        assert!((a * 1e6 - half.full_area_mm2()).abs() < 1e-3 && (p - PI * 0.0625).abs() < 1e-9 && (t - 0.125).abs() < 1e-9);
        assert!((half.wet(0.0725).0 - a - 0.00125).abs() < 1e-9, "the walls go on upright");
        let front = Section::Trapezoid { bottom_m: 0.076, top_m: 0.127, depth_m: 0.089 };
        assert!((front.full_area_mm2() - 9033.5).abs() < 1e-6);
    }

    #[test]
    fn the_moment_grows_by_the_area_and_the_area_by_the_width() {
        for s in [
            Section::HalfRound { diameter_m: 0.125 },
            Section::Rect { width_m: 0.12, depth_m: 0.09 },
            Section::Trapezoid { bottom_m: 0.076, top_m: 0.127, depth_m: 0.089 },
        ] {
            for y in [0.004, 0.03, 0.0615, 0.07, 0.12] {
                let (a, _, t) = s.wet(y);
                let d = Dual::var(y, 0);
                assert!((s.moment(d).d[0] - a).abs() < 1e-7 && (s.area(d).d[0] - t).abs() < 1e-6, "{s:?} {y}");
                // The derivatives that are carried are those of small steps, above the rim too.
                let by_steps = |f: &dyn Fn(Dual) -> Dual| (f(Dual::of(y + 1e-7)).v - f(Dual::of(y - 1e-7)).v) / 2e-7;
                assert!((by_steps(&|y| s.moment(y)) - a).abs() < 1e-6, "{s:?} {y}");
                assert!((by_steps(&|y| s.perimeter(y)) - s.perimeter(d).d[0]).abs() < 1e-3 * s.perimeter(d).d[0], "{s:?} {y}");
            }
        }
    }

    #[test]
    fn critical_depth_of_a_rectangle_in_closed_form() {
        let s = Section::Rect { width_m: 0.125, depth_m: 0.1 };
        let q: f64 = 0.001875;
        assert!((s.critical(q) - ((q / 0.125).powi(2) / crate::gutter::G).cbrt()).abs() < 1e-12);
        assert_eq!(s.critical(0.0), 0.0);
        // Force is least at the critical depth.
        let y = s.critical(q);
        assert!(s.force(y * 1.1, q) > s.force(y, q) && s.force(y * 0.9, q) > s.force(y, q));
    }
}
