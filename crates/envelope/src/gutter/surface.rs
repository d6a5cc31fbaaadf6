//! The water surface of one reach, from the divide where nothing flows yet to the outlet.
//!
//! Steady spatially varied flow with water coming in from the side:
//! `dy/dx = (S0 − Sf − 2Qq/(gA²)) / (1 − Q²T/(gA³))`. The term 2Qq/(gA²) is the push that brings the inflow up to speed.
//! Both sides of the fraction vanish where a steep reach becomes critical, so the curve is followed in the plane of place and
//! depth, `dx : dy = (1 − F²) : (S0 − Sf − 2Qq/(gA²))`, which is smooth there.

use super::G;
use super::section::Section;

/// A reach: x runs from the divide (0) to the outlet (`length`), metres.
pub(crate) struct Reach<'a> {
    pub(crate) section: Section,
    pub(crate) length: f64,
    /// Manning's roughness.
    pub(crate) n: f64,
    /// Fall toward the outlet at a place; negative where it falls back.
    pub(crate) fall: &'a dyn Fn(f64) -> f64,
    /// Water coming in at a place, m³/s for each metre.
    pub(crate) inflow: &'a dyn Fn(f64) -> f64,
    /// All that came in from the divide to a place, m³/s.
    pub(crate) flow: &'a dyn Fn(f64) -> f64,
    /// The depth the outlet itself needs, metres; the critical depth holds where it is more.
    pub(crate) head: f64,
}

/// A water surface on an even grid from the divide to the outlet.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Surface {
    pub(crate) x: Vec<f64>,
    pub(crate) y: Vec<f64>,
    /// Where the flow is held by a critical section within the reach; none when the outlet holds it.
    pub(crate) interior: Option<f64>,
}

impl Surface {
    pub(crate) fn at(&self, x: f64) -> f64 {
        let n = self.x.len() - 1;
        let step = self.x[n] / n as f64;
        let k = ((x / step) as usize).min(n - 1);
        let part = ((x - self.x[k]) / (self.x[k + 1] - self.x[k])).clamp(0.0, 1.0);
        self.y[k] + part * (self.y[k + 1] - self.y[k])
    }
    pub(crate) fn deepest(&self) -> (f64, f64) {
        let k = (0..self.y.len()).max_by(|a, b| self.y[*a].total_cmp(&self.y[*b])).unwrap_or(0);
        (self.x[k], self.y[k])
    }
}

/// Places of the grid.
pub(crate) const GRID: usize = 200;
/// Places at which a reach is asked whether it is steep.
const SCAN: usize = 60;
/// A step along the curve moves at most this share of the length and of the depth.
const STEP: f64 = 1.0 / 100.0;
/// A depth this much above or below the critical one has left it.
const OFF: f64 = 1e-4;

impl Reach<'_> {
    /// What drives the surface, and what it is divided by.
    fn terms(&self, x: f64, y: f64) -> (f64, f64) {
        let (a, p, t) = self.section.wet(y);
        let q = (self.flow)(x);
        let friction = if self.n > 0.0 { (self.n * q).powi(2) * p * p.cbrt() / (a * a * a * a.cbrt()) } else { 0.0 };
        let push = 2.0 * q * (self.inflow)(x) / (G * a * a);
        ((self.fall)(x) - friction - push, 1.0 - q * q * t / (G * a * a * a))
    }

    fn critical(&self, x: f64) -> f64 {
        self.section.critical((self.flow)(x))
    }

    /// What drives the surface on the line of critical depths: positive where the reach is steep.
    fn drive(&self, x: f64) -> f64 {
        self.terms(x, self.critical(x)).0
    }

    /// Follows the curve from a point, upstream or downstream, until `stop`.
    fn follow(&self, from: (f64, f64), way: f64, stop: impl Fn(f64, f64) -> bool) -> Vec<(f64, f64)> {
        let (mut x, mut y) = from;
        let mut out = vec![from];
        const MOST_STEPS: usize = 20_000;
        // The plane's own direction: one unit is a step of the length or of the depth, whichever is reached first.
        let rate = |x: f64, y: f64| {
            let (drive, divide) = self.terms(x.clamp(0.0, self.length), y.max(1e-7));
            let unit = (divide.abs() / (STEP * self.length)).max(drive.abs() / (STEP * y.max(1e-6))).max(1e-12);
            (divide / unit, drive / unit)
        };
        // Where the flow is faster than its waves, the same curve runs the other way along the parameter.
        let turn = |x: f64, y: f64| way * if self.terms(x, y).1 < 0.0 { -1.0 } else { 1.0 };
        let sign = turn(x, y);
        for _ in 0..MOST_STEPS {
            let k1 = rate(x, y);
            let k2 = rate(x + sign * k1.0 / 2.0, y + sign * k1.1 / 2.0);
            let k3 = rate(x + sign * k2.0 / 2.0, y + sign * k2.1 / 2.0);
            let k4 = rate(x + sign * k3.0, y + sign * k3.1);
            x += sign * (k1.0 + 2.0 * k2.0 + 2.0 * k3.0 + k4.0) / 6.0;
            y += sign * (k1.1 + 2.0 * k2.1 + 2.0 * k3.1 + k4.1) / 6.0;
            out.push((x, y));
            if stop(x, y) || !x.is_finite() || !y.is_finite() {
                break;
            }
        }
        out
    }

    /// The slope with which the surface passes through a critical section, from slow above to fast below.
    fn passing(&self, x: f64) -> f64 {
        let y = self.critical(x);
        let (hx, hy) = (self.length * 1e-5, y * 1e-5);
        let part = |f: &dyn Fn(f64, f64) -> f64| ((f(x + hx, y) - f(x - hx, y)) / (2.0 * hx), (f(x, y + hy) - f(x, y - hy)) / (2.0 * hy));
        let (nx, ny) = part(&|x, y| self.terms(x, y).0);
        let (dx, dy) = part(&|x, y| self.terms(x, y).1);
        // dy·s² + (dx − ny)·s − nx = 0
        let b = dx - ny;
        let root = (b * b + 4.0 * dy * nx).max(0.0).sqrt();
        (-b - root) / (2.0 * dy)
    }

    /// The water surface.
    pub(crate) fn surface(&self) -> Surface {
        let grid: Vec<f64> = (0..=GRID).map(|k| self.length * k as f64 / GRID as f64).collect();
        if (self.flow)(self.length) <= 0.0 {
            return Surface { y: vec![0.0; grid.len()], x: grid, interior: None };
        }
        // Places where the reach turns steep, from the outlet upstream; the flow is critical there if nothing below holds it up.
        let scan: Vec<f64> = (0..=SCAN).map(|k| self.length * k as f64 / SCAN as f64).collect();
        let drives: Vec<f64> = scan.iter().map(|x| if *x > 0.0 { self.drive(*x) } else { -1.0 }).collect();
        let turning = |k: &usize| drives[*k] > 0.0 && drives[k - 1] <= 0.0;
        let mut turns: Vec<f64> = (1..=SCAN).rev().filter(turning).map(|k| self.turning(scan[k - 1], scan[k])).collect();
        let mut y = vec![0.0; grid.len()];
        let last = self.critical(self.length);
        let outlet = last.max(self.head);
        let mut held = None;
        // Slow water, from the outlet up, or from each turn up.
        let mut start =
            if drives[SCAN] <= 0.0 || outlet > last * (1.0 + OFF) { Some((self.length, outlet.max(last * (1.0 + OFF)))) } else { None };
        let mut reached = self.length;
        loop {
            if let Some(from) = start {
                // Near the critical depth 1 − F² grows three times as fast as the depth.
                let low = |x: f64, y: f64| x <= 0.0 || self.terms(x, y).1 < 1.5 * OFF;
                let curve = self.follow(from, -1.0, low);
                let end = curve.last().map_or(0.0, |p| p.0.max(0.0));
                lay(&grid, &mut y, &curve, end, from.0);
                reached = end;
            }
            if reached <= 0.0 {
                break;
            }
            // Above the end of the slow water the reach is steep: it is critical at the next turn upstream.
            let Some(i) = turns.iter().position(|t| *t < reached) else { break };
            let at = turns.remove(i);
            turns.retain(|t| *t < at);
            let slope = self.passing(at);
            let step = (self.length * 2e-3).min(at * 0.2);
            let yc = self.critical(at);
            let below = self.follow((at + step, yc + slope * step), 1.0, |x, _| x >= self.length);
            let mut fast = vec![0.0; grid.len()];
            lay(&grid, &mut fast, &below, at, below.last().map_or(self.length, |p| p.0).min(self.length));
            for (k, x) in grid.iter().enumerate().filter(|(_, x)| **x >= at && **x <= self.length) {
                let q = (self.flow)(*x);
                // Where slow water from below is the stronger, it drowns the fast: the jump stands between.
                let drowned = y[k] > 0.0 && fast[k] > 0.0 && self.section.force(y[k], q) > self.section.force(fast[k], q);
                if !drowned && fast[k] > 0.0 {
                    y[k] = fast[k];
                }
            }
            held.get_or_insert(at);
            start = Some((at - step, (yc - slope * step).max(self.critical(at - step) * (1.0 + OFF))));
            reached = at;
        }
        // What no curve reached is at least critical.
        for k in 0..grid.len() {
            if y[k] <= 0.0 {
                y[k] = self.critical(grid[k]);
            }
        }
        let interior = held.filter(|_| y[GRID] < last * (1.0 + OFF));
        Surface { x: grid, y, interior }
    }

    /// Where the drive on the critical line is zero, between two places.
    fn turning(&self, mut low: f64, mut high: f64) -> f64 {
        low = low.max(self.length * 1e-6);
        for _ in 0..60 {
            let middle = (low + high) / 2.0;
            if self.drive(middle) > 0.0 { high = middle } else { low = middle }
        }
        high
    }
}

/// Lays a curve onto the grid between two places.
fn lay(grid: &[f64], y: &mut [f64], curve: &[(f64, f64)], from: f64, to: f64) {
    let mut sorted: Vec<(f64, f64)> = curve.iter().copied().filter(|p| p.0.is_finite() && p.1.is_finite()).collect();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    if sorted.is_empty() {
        return;
    }
    for (k, x) in grid.iter().enumerate().filter(|(_, x)| **x >= from - 1e-12 && **x <= to + 1e-12) {
        let i = sorted.partition_point(|p| p.0 < *x);
        y[k] = match (i.checked_sub(1).map(|i| sorted[i]), sorted.get(i)) {
            (Some(a), Some(b)) if b.0 > a.0 => a.1 + (b.1 - a.1) * (x - a.0) / (b.0 - a.0),
            (_, Some(b)) => b.1,
            (Some(a), None) => a.1,
            (None, None) => 0.0,
        };
    }
}
