//! Readings on a wall or ceiling: how far each lies over the dry references, and the surface between them, never beyond them.
//!
//! The level of a reading is its distance from the median of the dry references, in units of their spread (1.4826 times the median
//! absolute deviation, the spread of a bell curve seen through its middle, and at least the instrument's own step). Between readings
//! the level is linear on the triangles of their Delaunay triangulation; so the wet edge and its area are exact.

use serde::{Deserialize, Serialize};
use spade::{DelaunayTriangulation, HasPosition, Point2, Triangulation};

/// From the median absolute deviation to the spread of a bell curve.
pub(crate) const MAD_TO_SPREAD: f64 = 1.4826;
/// From this level a place is raised: the wet edge.
pub const RAISED: f64 = 2.0;
/// Over this level it is wet.
pub const WET: f64 = 4.0;
/// So many dry references at least.
pub const LEAST_REFERENCES: usize = 3;
/// Readings nearer than this are of one place, metres.
const SAME_M: f64 = 1e-3;
/// Walls and ceilings are not larger, metres.
const LARGEST_M: f64 = 1000.0;
/// Readings that are taken by hand.
const MOST_READINGS: usize = 5000;

/// A reading on the map.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MapReading {
    /// From the left, metres.
    pub x_m: f64,
    /// Height, or the other way on a ceiling, metres.
    pub y_m: f64,
    /// What it shows.
    pub value: f64,
}

/// Input of `moisture-map`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MapInput {
    /// Dry references of the same material, instrument and visit.
    pub references: Vec<f64>,
    /// The instrument's own step: the least spread.
    #[serde(default)]
    pub step: Option<f64>,
    /// Instead of references: from which figure this material is raised, and from which it is wet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limits: Option<[f64; 2]>,
    /// The readings.
    pub readings: Vec<MapReading>,
}

/// What a level means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Class {
    /// Under 2.
    Dry,
    /// 2 to 4.
    Raised,
    /// Over 4.
    Wet,
}

impl Class {
    /// What a level means.
    #[must_use]
    pub fn of(level: f64) -> Self {
        if level < RAISED {
            Self::Dry
        } else if level <= WET {
            Self::Raised
        } else {
            Self::Wet
        }
    }
}

/// A place with its level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelAt {
    /// From the left, metres.
    pub x_m: f64,
    /// Height, metres.
    pub y_m: f64,
    /// Level.
    pub level: f64,
}

/// Why a place is worth a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Worth {
    /// The readings stop where it is still wet: nothing bounds it there.
    Unbounded,
    /// The wet edge passes far from any reading.
    EdgeUnsure,
    /// Far from every reading.
    Unread,
}

/// Where to take the next one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextAt {
    /// From the left, metres.
    pub x_m: f64,
    /// Height, metres.
    pub y_m: f64,
    /// How far the nearest reading is, metres.
    pub nearest_m: f64,
    /// Why there.
    pub why: Worth,
}

/// A triangle between three readings, with its levels: the map, ready to be drawn.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MapTriangle {
    /// Corners: x, y and level.
    pub corners: [[f64; 3]; 3],
}

/// The map.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MoistureMap {
    /// Median of the references.
    pub median: f64,
    /// Their spread.
    pub spread: f64,
    /// Level of each reading.
    pub levels: Vec<f64>,
    /// What each means.
    pub class: Vec<Class>,
    /// Area with a level of two and more, inside the readings only, m².
    pub area_m2: f64,
    /// Area the readings enclose, m².
    pub hull_m2: f64,
    /// The wet edge, as lines; closed ones end where they begin.
    pub edge: Vec<Vec<[f64; 2]>>,
    /// Where the level is highest.
    pub highest: Option<LevelAt>,
    /// Where it is lowest among raised and wet readings.
    pub lowest_wet: Option<LevelAt>,
    /// Where to take the next reading.
    pub next: Option<NextAt>,
    /// The surface between the readings.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub triangles: Vec<MapTriangle>,
    /// What should be looked at again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// Why there is no map.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct MapError(String);

/// The middle of some figures; none of none.
#[must_use]
pub fn median(of: &[f64]) -> Option<f64> {
    let mut v = of.to_vec();
    v.sort_by(f64::total_cmp);
    let n = v.len();
    match n {
        0 => None,
        _ if n % 2 == 1 => Some(v[n / 2]),
        _ => Some(f64::midpoint(v[n / 2 - 1], v[n / 2])),
    }
}

struct Site {
    at: Point2<f64>,
    level: f64,
}

impl HasPosition for Site {
    type Scalar = f64;
    fn position(&self) -> Point2<f64> {
        self.at
    }
}

/// The part of a triangle at or over a level: its corners, in order.
fn over(t: &[[f64; 3]; 3], level: f64) -> Vec<[f64; 2]> {
    let mut out = Vec::with_capacity(4);
    for k in 0..3 {
        let (a, b) = (t[k], t[(k + 1) % 3]);
        if a[2] >= level {
            out.push([a[0], a[1]]);
        }
        if (a[2] >= level) != (b[2] >= level) {
            out.push(crossing(a, b, level));
        }
    }
    out
}

/// Where a level lies between two corners. Always from the lower corner, so that both triangles at an edge find the same point.
fn crossing(a: [f64; 3], b: [f64; 3], level: f64) -> [f64; 2] {
    let (a, b) = if (a[2], a[0], a[1]) <= (b[2], b[0], b[1]) { (a, b) } else { (b, a) };
    let s = (level - a[2]) / (b[2] - a[2]);
    [a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1])]
}

fn ring_area(ring: &[[f64; 2]]) -> f64 {
    crate::plane::area(ring).abs()
}

/// Joins pieces of a line end to end.
fn joined(mut pieces: Vec<[[f64; 2]; 2]>) -> Vec<Vec<[f64; 2]>> {
    let mut lines = Vec::new();
    while let Some([a, b]) = pieces.pop() {
        let mut line = std::collections::VecDeque::from([a, b]);
        loop {
            let (head, tail) = (line[0], line[line.len() - 1]);
            let Some(k) = pieces.iter().position(|p| p.iter().any(|e| *e == head || *e == tail)) else { break };
            let [c, d] = pieces.swap_remove(k);
            if c == tail {
                line.push_back(d);
            } else if d == tail {
                line.push_back(c);
            } else if c == head {
                line.push_front(d);
            } else {
                line.push_front(c);
            }
            if line[0] == line[line.len() - 1] {
                break;
            }
        }
        lines.push(line.into());
    }
    lines
}

/// Merges readings of one place: their mean counts.
fn places(i: &MapInput) -> Vec<MapReading> {
    let mut out: Vec<(MapReading, f64)> = Vec::new();
    for r in &i.readings {
        if let Some((p, n)) = out.iter_mut().find(|(p, _)| (p.x_m - r.x_m).hypot(p.y_m - r.y_m) < SAME_M) {
            p.value = (p.value * *n + r.value) / (*n + 1.0);
            *n += 1.0;
        } else {
            out.push((*r, 1.0));
        }
    }
    out.into_iter().map(|(p, _)| p).collect()
}

/// The next place: beyond a wet rim, on an unsure edge, or where nobody read.
fn next(t: &[MapTriangle], edge: &[Vec<[f64; 2]>], at: &[[f64; 2]], rim: &[[[f64; 3]; 2]]) -> Option<NextAt> {
    let nearest = |p: [f64; 2]| at.iter().map(|q| (q[0] - p[0]).hypot(q[1] - p[1])).fold(f64::INFINITY, f64::min);
    let worth = |p: [f64; 2], why| NextAt { x_m: p[0], y_m: p[1], nearest_m: nearest(p), why };
    let widest = |v: Vec<NextAt>| v.into_iter().max_by(|a, b| a.nearest_m.total_cmp(&b.nearest_m));
    let middle = t.iter().fold(([0.0, 0.0], 0.0), |(s, n), t| {
        let c = [0, 1].map(|k| t.corners.iter().map(|c| c[k]).sum::<f64>() / 3.0);
        ([s[0] + c[0], s[1] + c[1]], n + 1.0)
    });
    let middle = [middle.0[0] / f64::max(middle.1, 1.0), middle.0[1] / f64::max(middle.1, 1.0)];
    // A step outward from the middle of a rim whose both ends are wet; as far as its own half length, at least a hand's breadth.
    let open = rim.iter().filter(|r| r.iter().all(|c| c[2] >= RAISED)).map(|[a, b]| {
        let (m, half) = ([f64::midpoint(a[0], b[0]), f64::midpoint(a[1], b[1])], (a[0] - b[0]).hypot(a[1] - b[1]) / 2.0);
        let n = [b[1] - a[1], a[0] - b[0]];
        let l = n[0].hypot(n[1]).max(1e-9);
        let out = ((m[0] - middle[0]) * n[0] + (m[1] - middle[1]) * n[1]).signum();
        let step = half.max(0.1);
        worth([m[0] + out * n[0] / l * step, m[1] + out * n[1] / l * step], Worth::Unbounded)
    });
    widest(open.collect())
        .or_else(|| {
            let on = edge.iter().flat_map(|l| l.windows(2)).map(|w| [f64::midpoint(w[0][0], w[1][0]), f64::midpoint(w[0][1], w[1][1])]);
            widest(on.map(|p| worth(p, Worth::EdgeUnsure)).collect())
        })
        .or_else(|| {
            let inside = t.iter().map(|t| [0, 1].map(|k| t.corners.iter().map(|c| c[k]).sum::<f64>() / 3.0));
            widest(inside.map(|p| worth(p, Worth::Unread)).collect())
        })
}

/// Judges readings against dry references and draws the surface between them.
///
/// # Errors
/// [`MapError`] without three references or with figures that cannot be.
pub fn map(i: &MapInput) -> Result<MoistureMap, MapError> {
    let err = |m: String| Err(MapError(m));
    if let Some([raised, wet]) = i.limits
        && !(raised.is_finite() && wet.is_finite() && raised < wet)
    {
        return err("A material is wet from a higher figure than it is raised from. Look at the practice's figures.".into());
    }
    if i.limits.is_none() && i.references.len() < LEAST_REFERENCES {
        let n = i.references.len();
        return err(format!(
            "There {} so far: no judgement. Take {} at places that are surely dry, of the same material with the same instrument.",
            match n {
                0 => "are no dry references".to_owned(),
                1 => "is one dry reference".to_owned(),
                n => format!("are {n} dry references"),
            },
            if n == 0 { "three".to_owned() } else { format!("{} more", LEAST_REFERENCES - n) }
        ));
    }
    if i.readings.is_empty() {
        return err("There is no reading yet.".into());
    }
    if i.readings.len() > MOST_READINGS {
        return err(format!("{} readings on one wall are more than are taken by hand; the most is {MOST_READINGS}.", i.readings.len()));
    }
    if !i.references.iter().all(|v| v.is_finite()) || !i.readings.iter().all(|r| r.value.is_finite()) {
        return err("A reading is missing its figure.".into());
    }
    if i.readings.iter().any(|r| !(r.x_m.abs() <= LARGEST_M && r.y_m.abs() <= LARGEST_M)) {
        return err("A reading lies farther off than any wall is long. Places are in metres.".into());
    }
    let step = i.step.unwrap_or(0.0);
    if !(step.is_finite() && step >= 0.0) {
        return err("The step of an instrument is more than nought.".into());
    }
    let (middle, spread) = match i.limits {
        // Such that what is raised has level 2, and what is wet level 4.
        Some([raised, wet]) => {
            let spread = (wet - raised) / (WET - RAISED);
            (raised - RAISED * spread, spread)
        }
        None => {
            let middle = median(&i.references).unwrap_or_default();
            let off: Vec<f64> = i.references.iter().map(|v| (v - middle).abs()).collect();
            (middle, (MAD_TO_SPREAD * median(&off).unwrap_or_default()).max(step))
        }
    };
    if spread <= 0.0 {
        return err("The references are all the same: give the instrument's step, the least it can tell apart.".into());
    }
    let level = |v: f64| (v - middle) / spread;
    let levels: Vec<f64> = i.readings.iter().map(|r| level(r.value)).collect();
    let class: Vec<Class> = levels.iter().map(|l| Class::of(*l)).collect();
    let at = places(i);
    let mut mesh = DelaunayTriangulation::<Site>::new();
    for p in &at {
        mesh.insert(Site { at: Point2::new(p.x_m, p.y_m), level: level(p.value) })
            .map_err(|_| MapError("A reading has no place.".into()))?;
    }
    let corner = |s: &Site| [s.at.x, s.at.y, s.level];
    let triangles: Vec<MapTriangle> = mesh.inner_faces().map(|f| MapTriangle { corners: f.vertices().map(|v| corner(v.data())) }).collect();
    let mut pieces = Vec::new();
    let mut area_m2 = 0.0;
    for t in &triangles {
        area_m2 += ring_area(&over(&t.corners, RAISED));
        let cut: Vec<[f64; 2]> = (0..3)
            .map(|k| (t.corners[k], t.corners[(k + 1) % 3]))
            .filter(|(a, b)| (a[2] >= RAISED) != (b[2] >= RAISED))
            .map(|(a, b)| crossing(a, b, RAISED))
            .collect();
        if let [a, b] = cut[..]
            && a != b
        {
            pieces.push([a, b]);
        }
    }
    let edge = joined(pieces);
    let rim: Vec<[[f64; 3]; 2]> = if triangles.is_empty() {
        Vec::new()
    } else {
        mesh.convex_hull().map(|e| [corner(e.from().data()), corner(e.to().data())]).collect()
    };
    let spot = |p: &MapReading| LevelAt { x_m: p.x_m, y_m: p.y_m, level: level(p.value) };
    // Of places as high or as wet as one another: the lower, the wetter, the one farther left.
    let left = |a: &MapReading, b: &MapReading| a.x_m.total_cmp(&b.x_m);
    let (low, wet) =
        (|a: &MapReading, b: &MapReading| a.y_m.total_cmp(&b.y_m), |a: &MapReading, b: &MapReading| b.value.total_cmp(&a.value));
    let highest = at.iter().min_by(|a, b| wet(a, b).then(low(a, b)).then(left(a, b))).map(spot);
    let raised = at.iter().filter(|p| level(p.value) >= RAISED);
    let lowest_wet = raised.min_by(|a, b| low(a, b).then(wet(a, b)).then(left(a, b))).map(spot);
    let places: Vec<[f64; 2]> = at.iter().map(|p| [p.x_m, p.y_m]).collect();
    let next = next(&triangles, &edge, &places, &rim);
    let mut doubts = Vec::new();
    if i.limits.is_none() && levels.iter().all(|l| *l < -RAISED) {
        doubts.push("Every reading lies under the dry references: they are wetter than the wall. Take them elsewhere, or look whether scale and material are the same.".into());
    }
    Ok(MoistureMap {
        median: middle,
        spread,
        levels,
        class,
        area_m2,
        hull_m2: triangles.iter().map(|t| ring_area(&t.corners.map(|c| [c[0], c[1]]))).sum(),
        edge,
        highest,
        lowest_wet,
        next,
        triangles,
        doubts,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn input(references: &[f64], rows: &[(f64, f64, f64)]) -> MapInput {
        MapInput {
            references: references.to_vec(),
            step: Some(0.5),
            limits: None,
            readings: rows.iter().map(|(x_m, y_m, value)| MapReading { x_m: *x_m, y_m: *y_m, value: *value }).collect(),
        }
    }

    #[test]
    fn limits_by_material_are_the_levels_two_and_four() {
        let by = |limits: [f64; 2]| {
            map(&MapInput { limits: Some(limits), ..input(&[], &[(0.0, 0.0, 15.9), (1.0, 0.0, 16.0), (0.0, 1.0, 20.1)]) })
        };
        let m = by([16.0, 20.0]).unwrap();
        assert_eq!(m.class, [Class::Dry, Class::Raised, Class::Wet]);
        assert!((m.levels[1] - 2.0).abs() < 1e-12 && (m.levels[2] - 4.05).abs() < 1e-9, "{:?}", m.levels);
        // The edge is where the figure is 16, whatever dry places would read.
        assert!(m.edge.iter().flatten().any(|p| (p[0] - 1.0).abs() < 1e-9 && p[1].abs() < 1e-9), "{:?}", m.edge);
        assert!(by([20.0, 16.0]).is_err() && by([f64::NAN, 20.0]).is_err());
    }

    #[test]
    fn a_ramp_has_its_edge_where_it_must() {
        // Level 0 at the left, 4 at the right, 2 m apart and 1 m high: the edge stands in the middle, half of it is raised.
        let m = map(&input(&[10.0, 10.0, 10.0], &[(0.0, 0.0, 10.0), (0.0, 1.0, 10.0), (2.0, 0.0, 12.0), (2.0, 1.0, 12.0)])).unwrap();
        assert!((m.area_m2 - 1.0).abs() < 1e-9 && (m.hull_m2 - 2.0).abs() < 1e-9, "{m:?}");
        assert_eq!(m.edge.len(), 1);
        assert!(m.edge[0].iter().all(|p| (p[0] - 1.0).abs() < 1e-9));
        assert_eq!(m.class, [Class::Dry, Class::Dry, Class::Raised, Class::Raised], "four is raised, more than four is wet");
        let n = m.next.unwrap();
        assert_eq!(n.why, Worth::Unbounded);
        assert!(n.x_m > 2.0, "beyond the wet end: {n:?}");
    }

    #[test]
    fn without_references_no_judgement() {
        let e = map(&input(&[10.0], &[(0.0, 0.0, 10.0)])).unwrap_err().to_string();
        assert!(e.contains("is one dry reference so far: no judgement. Take 2 more"), "{e}");
        let e = map(&MapInput { step: None, ..input(&[10.0, 10.0, 10.0], &[(0.0, 0.0, 10.0)]) }).unwrap_err().to_string();
        assert!(e.contains("give the instrument's step"), "{e}");
    }

    #[test]
    fn references_wetter_than_the_wall_are_said() {
        let m = map(&input(&[30.0, 31.0, 30.0], &[(0.0, 0.0, 10.0), (1.0, 0.0, 11.0), (0.0, 1.0, 10.0)])).unwrap();
        assert!(m.doubts[0].contains("wetter than the wall"), "{:?}", m.doubts);
    }

    proptest! {
        /// Areas add up, the edge never leaves what the readings enclose, and neither order nor another zero of the scale changes anything.
        #[test]
        fn the_map_keeps_its_laws(rows in proptest::collection::vec((0.0..6.0_f64, 0.0..3.0_f64, 5.0..30.0_f64), 1..25), refs in proptest::collection::vec(8.0..12.0_f64, 3..7), shift in -5.0..5.0_f64) {
            let i = input(&refs, &rows);
            let m = map(&i).unwrap();
            prop_assert!(m.area_m2 >= 0.0 && m.area_m2 <= m.hull_m2 + 1e-9);
            let inside = |p: [f64; 2]| m.triangles.iter().any(|t| {
                let s: Vec<f64> = (0..3).map(|k| {
                    let (a, b) = (t.corners[k], t.corners[(k + 1) % 3]);
                    (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
                }).collect();
                s.iter().all(|v| *v >= -1e-6) || s.iter().all(|v| *v <= 1e-6)
            });
            for p in m.edge.iter().flatten() {
                prop_assert!(inside(*p), "{p:?}");
            }
            let mut turned = rows.clone();
            turned.reverse();
            let moved: Vec<(f64, f64, f64)> = turned.iter().map(|(x, y, v)| (*x, *y, v + shift)).collect();
            let refs2: Vec<f64> = refs.iter().rev().map(|v| v + shift).collect();
            let n = map(&input(&refs2, &moved)).unwrap();
            prop_assert!((n.area_m2 - m.area_m2).abs() < 1e-6, "{} {}", n.area_m2, m.area_m2);
        }

        /// What is wet at a higher level lies within what is wet at a lower one: more moisture never makes the map drier.
        #[test]
        fn a_wetter_reading_never_shrinks_the_map(rows in proptest::collection::vec((0.0..6.0_f64, 0.0..3.0_f64, 5.0..30.0_f64), 3..15), k in 0_usize..15, more in 0.0..10.0_f64) {
            let a = map(&input(&[10.0, 10.5, 9.5], &rows)).unwrap();
            let mut wetter = rows.clone();
            let k = k % rows.len();
            wetter[k].2 += more;
            let b = map(&input(&[10.0, 10.5, 9.5], &wetter)).unwrap();
            prop_assert!(b.area_m2 >= a.area_m2 - 1e-9);
        }
    }
}
