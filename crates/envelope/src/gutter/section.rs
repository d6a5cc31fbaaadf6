//! The cross-section of a gutter. Above the rim its walls are taken to go on upright, so that a depth beyond the rim has a
//! meaning: the water is spilling there.

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

/// What a depth comes to in a section: area, m²; width of the surface, m; first moment of the area about the surface, m³ (pressure
/// over specific weight); wetted perimeter, m. The area grows by the width, the moment by the area.
#[derive(Debug, Clone, Copy)]
pub(super) struct AtDepth {
    pub(super) area: f64,
    pub(super) width: f64,
    pub(super) moment: f64,
    pub(super) perimeter: f64,
    /// How the width and the perimeter grow by the depth.
    pub(super) widens: f64,
    pub(super) wets: f64,
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
        let at = self.at(y.max(1e-9));
        (at.area, at.perimeter, at.width.max(1e-9))
    }
    /// All that a depth comes to, with how each grows by the depth. Above the rim the walls go on upright.
    pub(super) fn at(self, depth: f64) -> AtDepth {
        let rim = self.depth();
        let (y, above) = if depth > rim { (rim, depth - rim) } else { (depth, 0.0) };
        let (area, width, moment, perimeter, widens, wets) = match self {
            Section::Rect { width_m, .. } => (y * width_m, width_m, y * y * width_m / 2.0, width_m + 2.0 * y, 0.0, 2.0),
            Section::Trapezoid { bottom_m, top_m, depth_m } => {
                let side = (top_m - bottom_m) / (2.0 * depth_m);
                let wets = 2.0 * side.hypot(1.0);
                let area = y * (bottom_m + y * side);
                let moment = y * y * (bottom_m / 2.0 + y * side / 3.0);
                (area, bottom_m + 2.0 * y * side, moment, bottom_m + y * wets, 2.0 * side, wets)
            }
            Section::HalfRound { diameter_m } => {
                let r = diameter_m / 2.0;
                let up = r - y;
                let half = (y * (diameter_m - y)).max(0.0).sqrt();
                let angle = (up / r).clamp(-1.0, 1.0).acos();
                let area = angle * r * r - up * half;
                // Two thirds of the half chord cubed lies below the middle; less what lies above the surface.
                let moment = half * half * half * (2.0 / 3.0) - area * up;
                let steep = 1.0 / half.max(1e-12);
                (area, 2.0 * half, moment, angle * diameter_m, 2.0 * up * steep, diameter_m * steep)
            }
        };
        if above > 0.0 {
            let top = self.top();
            let moment = moment + area * above + above * above * top / 2.0;
            return AtDepth { area: area + above * top, width, moment, perimeter: perimeter + 2.0 * above, widens: 0.0, wets: 2.0 };
        }
        AtDepth { area, width, moment, perimeter, widens, wets }
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
        let at = self.at(y);
        q * q / (super::G * at.area) + at.moment
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
                let at = s.at(y);
                // What is said to be how a figure grows is what small steps find, above the rim too.
                let by_steps = |f: &dyn Fn(AtDepth) -> f64| (f(s.at(y + 1e-7)) - f(s.at(y - 1e-7))) / 2e-7;
                for (found, said, of) in [
                    (by_steps(&|a| a.moment), at.area, "moment"),
                    (by_steps(&|a| a.area), at.width, "area"),
                    (by_steps(&|a| a.width), at.widens, "width"),
                    (by_steps(&|a| a.perimeter), at.wets, "perimeter"),
                ] {
                    assert!((found - said).abs() < 1e-6 + 1e-3 * said.abs(), "{s:?} {y} {of}: {found} and {said}");
                }
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
