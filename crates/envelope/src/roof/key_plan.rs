//! The key plan: the house's own outline from above, its slopes as they lie and its heights as bands around it, so that a place on a
//! sheet is found by the shape one stands before. The same cells as the wheel, which serves a house whose roof is not drawn.

use super::facets::{Edge, EdgeKind, Facet, RoofShape};
use super::shape::inside;
use crate::plane::{area, centroid, length};
use crate::site::{Bearing, Cell, Face, Wheel, WheelCell, WheelLabel, Zone};
use std::collections::BTreeMap;

/// A building from above with the cells of the round, and the lines of its roof if it has its own outline.
#[derive(Debug, Clone, PartialEq)]
pub struct KeyPlan {
    /// The cells and the names of the faces, in the square of the wheel.
    pub places: Wheel,
    /// It is the house's own outline, and not the wheel.
    pub own: bool,
    /// Ridges, hips and valleys in the same square; a flat roof has none, nor has the wheel.
    pub lines: Vec<[[f64; 2]; 2]>,
}

/// Half of the square that is kept for the house itself.
const HOUSE: f64 = 104.0;
/// Depth of a band.
const BAND: f64 = 12.0;
/// White between neighbours.
const GAP: f64 = 1.6;
/// Depth of the roof beside a verge, where no slope faces.
const VERGE: f64 = 11.0;
/// Half of the plate that stands for the rooms.
const ROOMS: f64 = 13.0;
/// A side shorter than this part of the longest of its face is a corner of it, and has no bands of its own.
const SHORT: f64 = 0.35;
/// Ends nearer than this are one corner, metres.
const SAME: f64 = 1e-6;
/// How far to step off an edge to see on which side of it the roof lies, metres.
const STEP: f64 = 1e-4;

impl KeyPlan {
    /// The wheel as a key plan.
    pub fn of_wheel(wheel: &Wheel) -> KeyPlan {
        KeyPlan { places: wheel.clone(), own: false, lines: vec![] }
    }
}

/// A side of the outline, the roof on its left.
struct Side {
    p: [f64; 2],
    q: [f64; 2],
    face: Face,
}

impl Side {
    /// One metre outward.
    fn outward(&self) -> [f64; 2] {
        let l = length(self.p, self.q).max(SAME);
        [(self.q[1] - self.p[1]) / l, -(self.q[0] - self.p[0]) / l]
    }
}

fn covered(shape: &RoofShape, p: [f64; 2]) -> bool {
    shape.facets.iter().flat_map(|f| &f.parts).any(|part| inside(&part.outer, p) && !part.holes.iter().any(|h| inside(h, p)))
}

/// The sides water or wind can pass: those with roof on one side only.
fn sides(shape: &RoofShape, facing: Bearing) -> Vec<Side> {
    let side = |e: &Edge| {
        let mut s = Side { p: e.p0, q: e.p1, face: Face::Front };
        let middle = [(s.p[0] + s.q[0]) / 2.0, (s.p[1] + s.q[1]) / 2.0];
        let n = s.outward();
        let at = |d: f64| covered(shape, [middle[0] + n[0] * d, middle[1] + n[1] * d]);
        match (at(-STEP), at(STEP)) {
            (true, false) => {}
            (false, true) => std::mem::swap(&mut s.p, &mut s.q),
            _ => return None,
        }
        let [x, y] = s.outward();
        s.face = Face::nearest(Bearing::new(x.atan2(y).to_degrees().rem_euclid(360.0)).ok()?, facing);
        Some(s)
    };
    let on_rim =
        |e: &&Edge| e.other.is_none() && matches!(e.kind, EdgeKind::Eave | EdgeKind::FlatEdge | EdgeKind::HighEdge | EdgeKind::Rake);
    shape.edges.iter().filter(on_rim).filter_map(side).collect()
}

/// The corner of two sides, moved `by` outward: where both of their parallels meet. A side that goes straight on has no bend.
fn moved(at: [f64; 2], a: [f64; 2], b: [f64; 2], by: f64) -> [f64; 2] {
    let share = 1.0 + a[0] * b[0] + a[1] * b[1];
    if share < 0.2 {
        return [at[0] + by * b[0], at[1] + by * b[1]];
    }
    [at[0] + by * (a[0] + b[0]) / share, at[1] + by * (a[1] + b[1]) / share]
}

/// The strip beside a side from `near` to `far`, metres outward; none where its neighbours leave no room for it.
fn strip(all: &[Side], i: usize, near: f64, far: f64) -> Option<Vec<[f64; 2]>> {
    let s = &all[i];
    let n = s.outward();
    let before = all.iter().find(|o| length(o.q, s.p) < SAME).map_or(n, Side::outward);
    let after = all.iter().find(|o| length(o.p, s.q) < SAME).map_or(n, Side::outward);
    let row = |d: f64| [moved(s.p, before, n, d), moved(s.q, n, after, d)];
    let ([a, b], [c, d]) = (row(near), row(far));
    let ahead = |p: [f64; 2], q: [f64; 2]| (q[0] - p[0]) * (s.q[0] - s.p[0]) + (q[1] - p[1]) * (s.q[1] - s.p[1]) > 0.0;
    (ahead(a, b) && ahead(c, d)).then(|| vec![a, b, d, c])
}

/// Where the numbers of a strip stand: along it, each height farther on, so that those of neighbours do not touch.
fn along(strip: &[[f64; 2]], zone: Zone) -> [f64; 2] {
    let [a, b, d, c] = strip else { return centroid(strip) };
    let step = Zone::OUTSIDE.iter().position(|z| *z == zone).unwrap_or(0) as f64;
    let t = (step + 0.5) / Zone::OUTSIDE.len() as f64;
    [0, 1].map(|k| f64::midpoint(a[k] + (b[k] - a[k]) * t, c[k] + (d[k] - c[k]) * t))
}

/// The key plan of a roof that is drawn, in true direction when the front's is known; none where a face has no side.
pub fn key_plan(shape: &RoofShape, front: Option<Bearing>) -> Option<KeyPlan> {
    let facing = front.unwrap_or(Bearing::new(180.0).ok()?);
    let all = sides(shape, facing);
    let ends = || all.iter().flat_map(|s| [s.p, s.q]);
    let span = |k: usize| ends().map(|p| p[k]).fold((f64::MAX, f64::MIN), |(l, h), x| (l.min(x), h.max(x)));
    let ((x0, x1), (y0, y1)) = (span(0), span(1));
    let far = (x1 - x0).max(y1 - y0) / 2.0;
    if !(far.is_finite() && far > SAME) {
        return None;
    }
    let scale = HOUSE / far;
    let middle = [(x0 + x1) / 2.0, (y0 + y1) / 2.0];
    let to = |p: [f64; 2]| [(p[0] - middle[0]) * scale, (middle[1] - p[1]) * scale];
    let mut found: BTreeMap<Cell, Vec<Vec<[f64; 2]>>> = BTreeMap::new();
    let longest = |face: Face| all.iter().filter(|s| s.face == face).map(|s| length(s.p, s.q)).fold(0.0, f64::max);
    for (i, s) in all.iter().enumerate().filter(|(_, s)| length(s.p, s.q) >= SHORT * longest(s.face)) {
        for (k, zone) in Zone::OUTSIDE.into_iter().enumerate().skip(1) {
            let near = (k as f64 - 1.0) * BAND + GAP;
            if let Some(ring) = strip(&all, i, near / scale, (near + BAND - GAP) / scale) {
                found.entry(Cell::Outside(s.face, zone)).or_default().push(ring.into_iter().map(to).collect());
            }
        }
    }
    let looks = |f: &Facet| Some(Face::nearest(Bearing::new(f.downslope_azimuth_deg?.rem_euclid(360.0)).ok()?, facing));
    let slopes = |face: Face| shape.facets.iter().filter(move |f| looks(f) == Some(face));
    let mut numbers: BTreeMap<Face, [f64; 2]> = BTreeMap::new();
    for face in Face::ALL {
        let mut rings: Vec<Vec<[f64; 2]>> = slopes(face).flat_map(|f| &f.parts).map(|p| p.outer.clone()).collect();
        if let Some(widest) = slopes(face).max_by(|a, b| a.plan_area_m2.total_cmp(&b.plan_area_m2)) {
            numbers.insert(face, to(widest.middle));
        } else {
            let verge = |i: usize| strip(&all, i, -VERGE / scale, 0.0);
            rings = (0..all.len()).filter(|i| all[*i].face == face).filter_map(verge).collect();
        }
        found.entry(Cell::Outside(face, Zone::Roof)).or_default().extend(rings.into_iter().map(|r| r.into_iter().map(to).collect()));
    }
    let mut most = found.values().flatten().flatten().flat_map(|p| p.map(f64::abs)).fold(0.0, f64::max);
    let mut cells: Vec<WheelCell> = vec![];
    let mut labels = vec![];
    for face in Face::ALL {
        for zone in Zone::OUTSIDE {
            let rings = found.remove(&Cell::Outside(face, zone)).filter(|r| !r.is_empty())?;
            let widest = rings.iter().max_by(|a, b| area(a).abs().total_cmp(&area(b).abs()))?;
            let [x, y] = match numbers.get(&face) {
                Some(at) if zone == Zone::Roof => *at,
                _ => along(widest, zone),
            };
            cells.push(WheelCell { cell: Cell::Outside(face, zone), path: rings.iter().map(|r| path(r)).collect(), x, y });
        }
        let direction = face.azimuth(facing);
        let a = direction.degrees().to_radians();
        let out = [a.sin(), -a.cos()];
        let reach = ends().map(to).map(|p| p[0] * out[0] + p[1] * out[1]).fold(0.0, f64::max) + 5.0 * BAND + 12.0;
        let [x, y] = [out[0] * reach, out[1] * reach];
        most = most.max(x.abs() + 12.0).max(y.abs() + 12.0);
        let said = front.map(|_| format!("{:.0}° {}", direction.degrees(), direction.point())).unwrap_or_default();
        labels.push(WheelLabel { face, text: face.name().to_owned(), direction: said, x, y });
    }
    // What lies on another is drawn later: a verge over the slope it borders.
    cells.sort_by_key(|c| matches!(c.cell, Cell::Outside(face, Zone::Roof) if slopes(face).next().is_none()));
    let of = |kinds: &[EdgeKind]| shape.edges.iter().filter(|e| kinds.contains(&e.kind)).map(|e| [to(e.p0), to(e.p1)]).collect::<Vec<_>>();
    let lines = of(&[EdgeKind::Ridge, EdgeKind::Hip, EdgeKind::Valley]);
    // Rooms are under the roof: a plate on it, in its middle or on a line of it, wherever it is clearest of the slopes' own numbers.
    let middles = lines.iter().map(|[p, q]: &[[f64; 2]; 2]| [0, 1].map(|k| f64::midpoint(p[k], q[k])));
    let back = |p: &[f64; 2]| [p[0] / scale + middle[0], middle[1] - p[1] / scale];
    let clear = |p: &[f64; 2]| numbers.values().map(|n| length(*n, *p)).fold(f64::MAX, f64::min);
    let over = std::iter::once([0.0, 0.0]).chain(middles).filter(|p| covered(shape, back(p)));
    let [x, y] = over.max_by(|a, b| clear(a).total_cmp(&clear(b))).unwrap_or_default();
    let plate = [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[i, j]| [x + i * ROOMS, y + j * ROOMS]);
    cells.push(WheelCell { cell: Cell::Inside, path: path(&plate), x, y });
    Some(KeyPlan {
        places: Wheel { side: 2.0 * most, oriented: front.is_some(), cells, labels, turn: facing.turned(180.0).degrees() },
        own: true,
        lines,
    })
}

fn path(ring: &[[f64; 2]]) -> String {
    format!("M{}Z", ring.iter().map(|p| format!("{:.2} {:.2}", p[0], p[1])).collect::<Vec<_>>().join("L"))
}
