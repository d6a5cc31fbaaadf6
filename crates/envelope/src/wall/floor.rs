//! Heights of a floor: its best plane, how much it tilts, how far it bends.

use crate::measure::{self, Quantity};
use crate::roof::record::metres;
use serde::{Deserialize, Serialize};
use spade::{DelaunayTriangulation, HasPosition, Point2, Triangulation};

/// A height of a floor.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FloorPoint {
    /// Short and lasting: H1, H2 …
    pub id: String,
    /// From the left wall, seen from the front, as typed.
    pub x: String,
    /// From the front wall, as typed.
    pub y: String,
    /// Above or below the first one, as typed.
    pub height: String,
}

/// Farther apart than any two floors of one house, metres.
const MOST_HEIGHT_M: f64 = 10.0;

/// A length with its sign, metres.
pub(super) fn signed(what: &str, text: &str) -> Result<f64, String> {
    let t = text.trim();
    let (sign, rest) = match t.strip_prefix(['-', '\u{2212}']) {
        Some(rest) => (-1.0, rest),
        None => (1.0, t.strip_prefix('+').unwrap_or(t)),
    };
    if rest.trim().is_empty() {
        return Err(format!("{what} is missing. Type it as -12 mm or 1/2 in."));
    }
    match measure::parse(rest) {
        Ok(m) if m.quantity == Quantity::Length => Ok(sign * m.si),
        _ => metres(what, rest).map(|m| sign * m),
    }
}

impl FloorPoint {
    pub(super) fn read(&self) -> Result<[f64; 3], (&'static str, String)> {
        let x = metres("The place from the left", &self.x).map_err(|m| ("x", m))?;
        let y = metres("The place from the front", &self.y).map_err(|m| ("y", m))?;
        let z = signed("The height", &self.height).map_err(|m| ("height", m))?;
        if z.abs() > MOST_HEIGHT_M {
            return Err(("height", "A floor does not differ by more than 10 m. Was it in millimetres?".into()));
        }
        Ok([x, y, z])
    }
    pub(super) fn check(&self) -> Result<(), (&'static str, String)> {
        self.read().map(|_| ())
    }
}

/// What the heights of a floor say.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FloorPlane {
    /// The plane: its height at the corner the places are measured from, metres, and its rise for each metre to the right and to the rear.
    pub level: [f64; 3],
    /// Fall of the best plane, per cent.
    pub tilt_pct: f64,
    /// The way it falls, degrees from the front wall's normal, clockwise seen from above: 0 to the rear, 90 to the right.
    pub falls_toward_deg: f64,
    /// Largest departure from the plane, metres, below negative.
    pub departure_m: f64,
    /// Where.
    pub departs_at: String,
    /// The steepest step between neighbours after the plane is taken away: 1 in so many; none when it is flat.
    pub bend_one_in: Option<f64>,
    /// Between which two.
    pub bends_between: Option<[String; 2]>,
    /// Whether the lowest departure is at a corner of what was read, in its middle, or neither.
    pub lowest: Lowest,
}

impl FloorPlane {
    /// Its height at a place, metres.
    pub fn at(&self, x_m: f64, y_m: f64) -> f64 {
        self.level[0] + self.level[1] * x_m + self.level[2] * y_m
    }
}

/// Where a floor lies lowest, beside its plane.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Lowest {
    /// At a corner.
    Corner,
    /// In the middle.
    Middle,
    /// Along an edge, or nowhere in particular.
    Elsewhere,
}

#[derive(Debug, Clone, Copy)]
struct At {
    at: Point2<f64>,
    k: usize,
}
impl HasPosition for At {
    type Scalar = f64;
    fn position(&self) -> Point2<f64> {
        self.at
    }
}

/// What a level is good for between two readings, metres: below this a departure says nothing. Rule of practice.
const LEVEL_M: f64 = 0.003;

/// The largest; of those that are as large but for a hair the first.
fn foremost<T>(all: impl IntoIterator<Item = (f64, T)>) -> Option<(f64, T)> {
    const HAIR: f64 = 1e-9;
    all.into_iter().reduce(|most, next| if next.0 > most.0 + HAIR { next } else { most })
}

/// The best plane through the heights (least squares), and what departs from it. Needs three points that are not in one line.
///
/// # Errors
/// What is missing.
pub fn plane(points: &[FloorPoint]) -> Result<FloorPlane, String> {
    let p: Vec<[f64; 3]> = points.iter().map(|p| p.read().map_err(|(_, m)| m)).collect::<Result<_, _>>()?;
    let n = p.len() as f64;
    if p.len() < 3 {
        return Err("Three heights at least make a plane, and four begin to show a bend.".into());
    }
    let mean = |k: usize| p.iter().map(|q| q[k]).sum::<f64>() / n;
    let (mx, my, mz) = (mean(0), mean(1), mean(2));
    let sum = |f: &dyn Fn([f64; 3]) -> f64| p.iter().map(|q| f([q[0] - mx, q[1] - my, q[2] - mz])).sum::<f64>();
    let (xx, yy, xy) = (sum(&|q| q[0] * q[0]), sum(&|q| q[1] * q[1]), sum(&|q| q[0] * q[1]));
    let (xz, yz) = (sum(&|q| q[0] * q[2]), sum(&|q| q[1] * q[2]));
    let det = xx * yy - xy * xy;
    // In one line when the spread across it is below a hundredth of the spread along it.
    if det <= 1e-4 * (xx + yy) * (xx + yy) / 4.0 {
        return Err("All heights lie in one line: read some beside it.".into());
    }
    let (a, b) = ((xz * yy - yz * xy) / det, (yz * xx - xz * xy) / det);
    let off: Vec<f64> = p.iter().map(|q| q[2] - mz - a * (q[0] - mx) - b * (q[1] - my)).collect();
    // Four corners depart alike: of what differs by a hair only, the first by its name. P10 comes after P9.
    let mut named: Vec<usize> = (0..p.len()).collect();
    named.sort_by_key(|k| (points[*k].id.len(), &points[*k].id));
    let mut rank = vec![0; p.len()];
    named.iter().enumerate().for_each(|(r, k)| rank[*k] = r);
    let most = foremost(named.iter().map(|k| (off[*k].abs(), *k))).map_or(0, |m| m.1);
    let mut net: DelaunayTriangulation<At> = DelaunayTriangulation::new();
    for (k, q) in p.iter().enumerate() {
        net.insert(At { at: Point2::new(q[0], q[1]), k }).map_err(|_| "A place cannot be read.".to_owned())?;
    }
    let mut steps: Vec<(f64, [usize; 2])> = net
        .undirected_edges()
        .map(|e| {
            let [i, j] = e.vertices().map(|v| v.data().k);
            let apart = (p[i][0] - p[j][0]).hypot(p[i][1] - p[j][1]);
            ((off[i] - off[j]).abs() / apart, if rank[i] < rank[j] { [i, j] } else { [j, i] })
        })
        .collect();
    steps.sort_by_key(|(_, ends)| ends.map(|k| rank[k]));
    let bend = foremost(steps).filter(|(s, _)| *s > 1e-9);
    let id = |k: usize| points[k].id.clone();
    Ok(FloorPlane {
        level: [mz - a * mx - b * my, a, b],
        tilt_pct: 100.0 * a.hypot(b),
        falls_toward_deg: (-a).atan2(-b).to_degrees().rem_euclid(360.0),
        departure_m: off[most],
        departs_at: id(most),
        bend_one_in: bend.map(|(s, _)| 1.0 / s),
        bends_between: bend.map(|(_, [i, j])| [id(i), id(j)]),
        lowest: lowest(&p, &off),
    })
}

fn lowest(p: &[[f64; 3]], off: &[f64]) -> Lowest {
    let Some(k) = (0..p.len()).min_by(|i, j| off[*i].total_cmp(&off[*j])).filter(|k| off[*k] < -LEVEL_M) else {
        return Lowest::Elsewhere;
    };
    let part = |axis: usize| {
        let (low, high) = p.iter().fold((f64::MAX, f64::MIN), |(l, h), q| (l.min(q[axis]), h.max(q[axis])));
        (p[k][axis] - low) / (high - low).max(1e-9)
    };
    let (x, y) = (part(0), part(1));
    let end = |v: f64| !(0.2..=0.8).contains(&v);
    match (end(x), end(y)) {
        (true, true) => Lowest::Corner,
        (false, false) => Lowest::Middle,
        _ => Lowest::Elsewhere,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn floor(heights: &[(f64, f64, f64)]) -> Vec<FloorPoint> {
        let of = |(k, (x, y, z)): (usize, &(f64, f64, f64))| FloorPoint {
            id: format!("H{}", k + 1),
            x: format!("{x} m"),
            y: format!("{y} m"),
            height: format!("{:.4} mm", z * 1000.0),
        };
        heights.iter().enumerate().map(of).collect()
    }

    proptest! {
        /// A plane is found again whatever its tilt; adding one point off it shows as its departure.
        #[test]
        fn a_tilted_plane_has_no_bend(a in -0.03..0.03f64, b in -0.03..0.03f64) {
            let at = |x: f64, y: f64| (x, y, a * x + b * y);
            let p = plane(&floor(&[at(0.0, 0.0), at(8.0, 0.0), at(8.0, 6.0), at(0.0, 6.0), at(4.0, 3.0)])).unwrap();
            prop_assert!((p.tilt_pct - 100.0 * a.hypot(b)).abs() < 1e-3 && p.departure_m.abs() < 1e-6);
            prop_assert!(p.bend_one_in.is_none_or(|n| n > 1e5));
        }
    }

    #[test]
    fn a_corner_that_went_down_and_a_middle_that_did() {
        let corner = plane(&floor(&[(0.0, 0.0, -0.02), (8.0, 0.0, 0.0), (8.0, 6.0, 0.0), (0.0, 6.0, 0.0), (4.0, 3.0, 0.0)])).unwrap();
        assert_eq!((corner.lowest, corner.bends_between.is_some()), (Lowest::Corner, true));
        let middle = plane(&floor(&[(0.0, 0.0, 0.0), (8.0, 0.0, 0.0), (8.0, 6.0, 0.0), (0.0, 6.0, 0.0), (4.0, 3.0, -0.02)])).unwrap();
        assert_eq!(middle.lowest, Lowest::Middle);
        // By hand: the mean takes a fifth of it, so the corners are 4 mm up and the middle 16 mm down, 5 m away.
        assert!((middle.departure_m + 0.016).abs() < 1e-6 && (middle.bend_one_in.unwrap() - 250.0).abs() < 0.1, "{middle:?}");
        assert!(plane(&floor(&[(0.0, 0.0, 0.0), (4.0, 0.0, 0.0), (8.0, 0.0, 0.01)])).unwrap_err().contains("one line"));
        assert!(plane(&[]).is_err());
    }
}
