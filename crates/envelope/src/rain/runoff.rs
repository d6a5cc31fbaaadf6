//! Where roof water goes: the plan area that drains to every piece of every edge, exactly.
//!
//! Water runs straight down each facet to the first edge below. At an eave it leaves; over a lower roof it drops and runs on;
//! in a valley, or along a wall that a facet falls to, it gathers and leaves at the lower end as one point. A facet is cut into
//! strips that run down it, between the corners of its outline: each strip drains to one edge, and areas are those of
//! trapezia, not of pixels. Nothing is made or lost: what leaves is the plan area of the roof.

pub use super::flows::{Crossing, EaveSheet, Gathering, PointDischarge, Runoff, ToEdge};
use crate::gutter::run::AlongGutter;
use crate::plane::{Point, length};
use crate::roof::mass::MassError;
use crate::roof::shape::{Edge, EdgeKind, Facet, RoofInput, RoofShape, inside, shape};
use std::collections::{BTreeMap, BTreeSet};

/// Works out the runoff of a roof.
///
/// # Errors
/// [`MassError`] for masses that cannot be built.
pub fn runoff(input: &RoofInput) -> Result<Runoff, MassError> {
    Ok(runoff_of(&shape(input)?))
}

/// One water per metre along a stretch of an edge: from `t0` to `t1` of its length, growing evenly from `d0` to `d1`.
#[derive(Debug, Clone, Copy)]
struct Stretch {
    t0: f64,
    t1: f64,
    d0: f64,
    d1: f64,
}

impl Stretch {
    fn area(self, edge: f64) -> f64 {
        (self.t1 - self.t0) * (self.d0 + self.d1) / 2.0 * edge
    }
    fn at(self, t: f64) -> f64 {
        let span = self.t1 - self.t0;
        if span.abs() < 1e-15 { self.d0 } else { self.d0 + (self.d1 - self.d0) * (t - self.t0) / span }
    }
    fn part(self, t0: f64, t1: f64) -> Stretch {
        Stretch { t0, t1, d0: self.at(t0), d1: self.at(t1) }
    }
}

/// An outline piece of a facet in its own frame: `a` across the slope, `b` up it; `a0 < a1`.
struct Side {
    edge: usize,
    a0: f64,
    b0: f64,
    a1: f64,
    b1: f64,
}

impl Side {
    fn up(&self, a: f64) -> f64 {
        self.b0 + (self.b1 - self.b0) * (a - self.a0) / (self.a1 - self.a0)
    }
}

/// A strip of a facet that runs down it, with the outline pieces that cross it from the lowest up.
struct Strip {
    from: f64,
    to: f64,
    sides: Vec<usize>,
}

/// A facet cut into strips.
struct Cut {
    across: Point,
    sides: Vec<Side>,
    strips: Vec<Strip>,
}

/// Corners this near in a facet's own frame make no strip of their own.
const NARROW_M: f64 = 1e-7;
/// A look this far beyond a point tells what lies there.
const BEYOND_M: f64 = 1e-3;

impl Cut {
    fn of(shape: &RoofShape, f: &Facet) -> Option<Cut> {
        let [_, gx, gy] = f.height;
        let g = gx.hypot(gy);
        if g < 1e-9 {
            return None;
        }
        let up = [gx / g, gy / g];
        let across = [up[1], -up[0]];
        let put = |p: Point| (across[0] * p[0] + across[1] * p[1], up[0] * p[0] + up[1] * p[1]);
        let mut sides = Vec::new();
        let mut stops = Vec::new();
        for (k, e) in shape.edges.iter().enumerate().filter(|(_, e)| e.facet == f.id || e.other.as_deref() == Some(&f.id)) {
            let ((a0, b0), (a1, b1)) = (put(e.p0), put(e.p1));
            stops.extend([a0, a1]);
            if (a1 - a0).abs() > NARROW_M {
                sides.push(if a0 < a1 { Side { edge: k, a0, b0, a1, b1 } } else { Side { edge: k, a0: a1, b0: b1, a1: a0, b1: b0 } });
            }
        }
        stops.sort_by(f64::total_cmp);
        stops.dedup_by(|x, y| (*x - *y).abs() < NARROW_M);
        let strips = stops
            .windows(2)
            .map(|w| {
                let middle = (w[0] + w[1]) / 2.0;
                let mut over: Vec<usize> = (0..sides.len()).filter(|k| sides[*k].a0 < middle && sides[*k].a1 > middle).collect();
                over.sort_by(|x, y| sides[*x].up(middle).total_cmp(&sides[*y].up(middle)));
                Strip { from: w[0], to: w[1], sides: over }
            })
            .collect();
        Some(Cut { across, sides, strips })
    }

    /// The outline piece first met on the way down from a point.
    fn below(&self, p: Point) -> Option<&Side> {
        let a = self.across[0] * p[0] + self.across[1] * p[1];
        let b = -self.across[1] * p[0] + self.across[0] * p[1];
        // A point on the line between two strips may have a way down in either; rounding decides in which it seems to lie.
        let near = self.strips.iter().filter(|s| a >= s.from - NARROW_M && a <= s.to + NARROW_M);
        near.filter_map(|strip| {
            let at = a.clamp(strip.from, strip.to);
            strip.sides.iter().rev().map(|k| &self.sides[*k]).find(|s| s.up(at) < b - NARROW_M * 10.0)
        })
        .max_by(|x, y| x.up(a.clamp(x.a0, x.a1)).total_cmp(&y.up(a.clamp(y.a0, y.a1))))
    }

    fn point(&self, a: f64, b: f64) -> Point {
        [self.across[0] * a - self.across[1] * b, self.across[1] * a + self.across[0] * b]
    }
}

struct Work<'a> {
    shape: &'a RoofShape,
    cuts: BTreeMap<&'a str, Option<Cut>>,
    to_edge: BTreeMap<(&'a str, usize), f64>,
    own: BTreeMap<usize, f64>,
    above: BTreeMap<usize, f64>,
    channel: BTreeMap<usize, f64>,
    crossing: BTreeMap<usize, f64>,
    sheets: BTreeMap<usize, Vec<Stretch>>,
    points: Vec<PointDischarge>,
    flat: BTreeMap<String, f64>,
    landed: Vec<(String, Point, f64)>,
    hung: &'a BTreeSet<String>,
}

/// Works out the runoff of a shape.
pub fn runoff_of(shape: &RoofShape) -> Runoff {
    runoff_with(shape, &BTreeSet::new())
}

/// Works out the runoff of a shape where gutters hang under some eaves over a lower roof: their water leaves there, as a sheet,
/// and does not drop on.
pub fn runoff_with(shape: &RoofShape, hung: &BTreeSet<String>) -> Runoff {
    let mut w = Work {
        shape,
        hung,
        cuts: shape.facets.iter().map(|f| (f.id.as_str(), Cut::of(shape, f))).collect(),
        to_edge: BTreeMap::new(),
        own: BTreeMap::new(),
        above: BTreeMap::new(),
        channel: BTreeMap::new(),
        crossing: BTreeMap::new(),
        sheets: BTreeMap::new(),
        points: Vec::new(),
        flat: BTreeMap::new(),
        landed: Vec::new(),
    };
    for f in &shape.facets {
        let Some(cut) = &w.cuts[f.id.as_str()] else {
            *w.flat.entry(f.id.clone()).or_default() += f.plan_area_m2;
            continue;
        };
        // From the lowest up, outlines come in pairs: water between two runs to the lower of them.
        let mut found: Vec<(usize, Stretch)> = Vec::new();
        for strip in &cut.strips {
            for pair in strip.sides.chunks_exact(2) {
                let (low, high) = (&cut.sides[pair[0]], &cut.sides[pair[1]]);
                let e = &shape.edges[low.edge];
                let t = |a: f64| along(e, cut.point(a, low.up(a)));
                // Area over an even step across the slope, per metre of the edge.
                let lean = (strip.to - strip.from) / (e.plan_m * (t(strip.to) - t(strip.from)).abs());
                let d = |a: f64| (high.up(a) - low.up(a)) * lean;
                let (mut s0, mut s1) = ((t(strip.from), d(strip.from)), (t(strip.to), d(strip.to)));
                if s0.0 > s1.0 {
                    (s0, s1) = (s1, s0);
                }
                found.push((low.edge, Stretch { t0: s0.0, t1: s1.0, d0: s0.1, d1: s1.1 }));
            }
        }
        for (edge, s) in found {
            *w.to_edge.entry((f.id.as_str(), edge)).or_default() += s.area(shape.edges[edge].plan_m);
            w.arrive(&f.id, edge, s, true, 0);
        }
    }
    w.done()
}

/// The way water leaves a facet over one of its edges: down its slope, or off a flat roof straight over the edge.
pub(crate) fn outward_of(shape: &RoofShape, e: &Edge) -> Point {
    let Some(f) = shape.facets.iter().find(|f| f.id == e.facet) else { return [0.0, -1.0] };
    if f.height[1].hypot(f.height[2]) > 1e-9 {
        return [-f.height[1], -f.height[2]];
    }
    let d = length(e.p0, e.p1).max(1e-9);
    let side = [(e.p1[1] - e.p0[1]) / d, -(e.p1[0] - e.p0[0]) / d];
    let middle = on(e, 0.5);
    let beyond = [middle[0] + side[0] * BEYOND_M, middle[1] + side[1] * BEYOND_M];
    let inward = facet_at(shape, beyond).is_some_and(|o| o.id == f.id);
    if inward { side.map(|v| -v) } else { side }
}

/// Whether the first end of an edge is the left one, to somebody who stands below it and looks at the roof.
pub fn starts_left(shape: &RoofShape, e: &Edge) -> bool {
    let down = outward_of(shape, e);
    // Looking up the slope, the left hand points along (down.y, −down.x).
    let along = [e.p1[0] - e.p0[0], e.p1[1] - e.p0[1]];
    along[0] * down[1] - along[1] * down[0] < 0.0
}

/// The way a drop takes from a point of the roof: its corners, and whether it leaves.
pub(crate) struct Descent {
    pub(crate) points: Vec<Point>,
    /// How high it runs off the roof; none when it stays on it: a flat roof, a level valley.
    pub(crate) leaves: Option<f64>,
    /// The flat facet it comes to lie on, and where.
    pub(crate) lies: Option<(String, Point)>,
}

/// The way a drop takes from a point of the roof down to where it leaves it: straight down each slope, along valleys and
/// walls, over onto lower roofs.
pub fn way_down(shape: &RoofShape, from: [f64; 2]) -> Vec<[f64; 2]> {
    descent(shape, from, &BTreeSet::new()).points
}

/// The facet that lies under a point.
pub(crate) fn facet_at(shape: &RoofShape, p: Point) -> Option<&Facet> {
    let covers = |f: &&Facet| f.parts.iter().any(|part| inside(&part.outer, p) && !part.holes.iter().any(|h| inside(h, p)));
    shape.facets.iter().find(covers)
}

/// [`way_down`] that ends in gutters hung under eaves over a lower roof as well.
pub(crate) fn descent(shape: &RoofShape, from: Point, hung: &BTreeSet<String>) -> Descent {
    let mut out = Descent { points: vec![from], leaves: None, lies: None };
    let mut at = from;
    let mut foot_z = None;
    for _ in 0..MOST_STOREYS {
        let Some(f) = facet_at(shape, at) else {
            out.leaves = foot_z;
            break;
        };
        let Some(cut) = Cut::of(shape, f) else {
            out.lies = Some((f.id.clone(), at));
            break;
        };
        let Some(side) = cut.below(at) else { break };
        let a = cut.across[0] * at[0] + cut.across[1] * at[1];
        let met = cut.point(a, side.up(a.clamp(side.a0, side.a1)));
        out.points.push(met);
        let e = &shape.edges[side.edge];
        if e.kind.is_border() || (e.facet == f.id && hung.contains(&e.id)) {
            out.leaves = Some(height_on(e, met));
            break;
        }
        // Down the valley or wall, or on over the edge.
        let lower = e.other.as_deref() == Some(&f.id) && e.kind.is_step();
        let (z0, z1) = if lower { (e.lower_z0_m.unwrap_or(0.0), e.lower_z1_m.unwrap_or(0.0)) } else { (e.z0_m, e.z1_m) };
        let gathers = e.kind == EdgeKind::Valley || lower;
        let (from, to) = if gathers {
            if (z0 - z1).abs() < 1e-6 {
                break;
            }
            let foot = if z0 < z1 { e.p0 } else { e.p1 };
            out.points.push(foot);
            foot_z = Some(z0.min(z1));
            (met, foot)
        } else {
            (at, met)
        };
        let d = length(from, to).max(1e-9);
        at = [to[0] + (to[0] - from[0]) / d * BEYOND_M, to[1] + (to[1] - from[1]) / d * BEYOND_M];
    }
    out
}

/// Water this much higher or lower is on another roof, metres.
pub(crate) const STOREY_M: f64 = 0.2;

/// Height of an edge, on its own facet, beside a point.
pub(crate) fn height_on(e: &Edge, p: Point) -> f64 {
    e.z0_m + (e.z1_m - e.z0_m) * along(e, p).clamp(0.0, 1.0)
}

/// How far along an edge a point lies, from 0 to 1.
fn along(e: &Edge, p: Point) -> f64 {
    let d = [e.p1[0] - e.p0[0], e.p1[1] - e.p0[1]];
    ((p[0] - e.p0[0]) * d[0] + (p[1] - e.p0[1]) * d[1]) / (d[0] * d[0] + d[1] * d[1])
}

fn on(e: &Edge, t: f64) -> Point {
    [e.p0[0] + t * (e.p1[0] - e.p0[0]), e.p0[1] + t * (e.p1[1] - e.p0[1])]
}

/// Roofs over roofs over roofs: deeper than this is a mistake, not a building.
const MOST_STOREYS: usize = 64;

impl<'a> Work<'a> {
    fn edge(&self, k: usize) -> &'a Edge {
        &self.shape.edges[k]
    }

    /// Water of a facet leaves the roof at an edge, or goes into a gutter there.
    fn leaves(&self, facet: &str, k: usize) -> bool {
        let e = self.edge(k);
        e.kind.is_border() || (e.facet == facet && self.hung.contains(&e.id))
    }

    /// The heights of an edge as the facet sees it whose water arrives.
    fn heights(&self, k: usize, facet: &str) -> (f64, f64) {
        let e = self.edge(k);
        if e.other.as_deref() == Some(facet) && e.kind.is_step() {
            (e.lower_z0_m.unwrap_or(e.z0_m), e.lower_z1_m.unwrap_or(e.z1_m))
        } else {
            (e.z0_m, e.z1_m)
        }
    }

    /// Water of a facet arrives along a stretch of an edge.
    fn arrive(&mut self, facet: &str, k: usize, s: Stretch, own: bool, storey: usize) {
        let e = self.edge(k);
        let area = s.area(e.plan_m);
        let upper = e.facet == facet;
        match e.kind {
            _ if self.leaves(facet, k) => {
                self.sheets.entry(k).or_default().push(s);
                *if own { self.own.entry(k) } else { self.above.entry(k) }.or_default() += area;
            }
            EdgeKind::PitchBreak | EdgeKind::FlatJunction => {
                *self.crossing.entry(k).or_default() += area;
                let onto = if upper { e.other.as_deref().unwrap_or_default() } else { e.facet.as_str() };
                self.land(onto, k, s, storey + 1);
            }
            kind if kind.is_step() && upper => {
                *self.crossing.entry(k).or_default() += area;
                self.land(e.other.as_deref().unwrap_or_default(), k, s, storey + 1);
            }
            // A valley, a wall that the facet falls to; a ridge or hip gathers nothing but rounding.
            _ => self.gather(facet, k, area, storey),
        }
    }

    /// Water lands on a facet along a stretch of an edge and runs on down it.
    fn land(&mut self, facet: &'a str, k: usize, s: Stretch, storey: usize) {
        let e = self.edge(k);
        if storey > MOST_STOREYS {
            return self.trap(on(e, (s.t0 + s.t1) / 2.0), s.area(e.plan_m), "has no way down");
        }
        let Some(Some(cut)) = self.cuts.get(facet) else {
            // A line of water is told in pieces of about half a metre.
            let pieces = ((s.t1 - s.t0) * e.plan_m / 0.5).ceil().max(1.0) as usize;
            for k in 0..pieces {
                let t = |k: usize| s.t0 + (s.t1 - s.t0) * k as f64 / pieces as f64;
                let piece = s.part(t(k), t(k + 1));
                self.stays_on(facet, on(e, f64::midpoint(piece.t0, piece.t1)), piece.area(e.plan_m));
            }
            return;
        };
        let put = |t: f64| {
            let p = on(e, t);
            cut.across[0] * p[0] + cut.across[1] * p[1]
        };
        let (a0, a1) = (put(s.t0), put(s.t1));
        // An edge that runs straight down the facet: what lands on it is one line of water, wherever it runs to.
        if (a1 - a0).abs() < NARROW_M {
            let area = s.area(e.plan_m);
            return self.run(facet, on(e, (s.t0 + s.t1) / 2.0), area, storey + 1);
        }
        let t_at = |a: f64| s.t0 + (s.t1 - s.t0) * (a - a0) / (a1 - a0);
        let mut next: Vec<(usize, Stretch)> = Vec::new();
        let mut stays = 0.0;
        for strip in &cut.strips {
            let (from, to) = (strip.from.max(a0.min(a1)), strip.to.min(a0.max(a1)));
            if to - from < NARROW_M {
                continue;
            }
            let (mut ta, mut tb) = (t_at(from), t_at(to));
            if ta > tb {
                (ta, tb) = (tb, ta);
            }
            let part = s.part(ta, tb);
            let here = strip.sides.iter().position(|i| cut.sides[*i].edge == k);
            // Where the facet lies above the line, the line itself is its foot: water stays on it.
            let Some(below) = here.and_then(|i| if i % 2 == 1 { Some(&cut.sides[strip.sides[i - 1]]) } else { None }) else {
                stays += part.area(e.plan_m);
                continue;
            };
            let target = self.edge(below.edge);
            let t = |a: f64| along(target, cut.point(a, below.up(a)));
            let (t0, t1) = (t(from), t(to));
            // The same water on another line: density goes with the ratio of lengths.
            let ratio = (tb - ta) * e.plan_m / ((t1 - t0).abs() * target.plan_m);
            let (da, db) = (s.at(t_at(from)) * ratio, s.at(t_at(to)) * ratio);
            let moved = if t0 < t1 { Stretch { t0, t1, d0: da, d1: db } } else { Stretch { t0: t1, t1: t0, d0: db, d1: da } };
            next.push((below.edge, moved));
        }
        if stays > 0.0 {
            self.gather(facet, k, stays, storey + 1);
        }
        for (edge, moved) in next {
            self.arrive(facet, edge, moved, false, storey + 1);
        }
    }

    /// Water gathers in a valley or along a wall and leaves at its lower end.
    fn gather(&mut self, facet: &str, k: usize, area: f64, storey: usize) {
        *self.channel.entry(k).or_default() += area;
        let e = self.edge(k);
        let (z0, z1) = self.heights(k, facet);
        let middle = on(e, 0.5);
        if (z0 - z1).abs() < 1e-6 || storey > MOST_STOREYS {
            return self.trap(middle, area, &format!("level {}", e.kind.name()));
        }
        let (foot, head) = if z0 < z1 { (e.p0, e.p1) } else { (e.p1, e.p0) };
        let d = length(head, foot);
        let beyond = [foot[0] + (foot[0] - head[0]) / d * BEYOND_M, foot[1] + (foot[1] - head[1]) / d * BEYOND_M];
        // Another valley or wall may take it on from here.
        let goes_on = (0..self.shape.edges.len()).find(|i| {
            let o = self.edge(*i);
            *i != k && o.kind == EdgeKind::Valley && {
                let top = if o.z0_m > o.z1_m { o.p0 } else { o.p1 };
                length(top, foot) < BEYOND_M && (o.z0_m - o.z1_m).abs() > 1e-6
            }
        });
        if let Some(next) = goes_on {
            let of = self.edge(next).facet.clone();
            return self.gather(&of, next, area, storey + 1);
        }
        let along_wall_m2 = if e.kind == EdgeKind::Valley { 0.0 } else { area };
        let note = format!("{} {area:.4} m2 (by {})", if e.kind == EdgeKind::Valley { "valley_foot" } else { "wall_foot" }, e.id);
        match facet_at(self.shape, beyond) {
            None => self.points.push(PointDischarge { at: foot, z_m: z0.min(z1), plan_area_m2: area, trapped: false, along_wall_m2, note }),
            Some(f) => self.run(&f.id, beyond, area, storey + 1),
        }
    }

    /// A point of water runs straight down a facet.
    fn run(&mut self, facet: &str, from: Point, area: f64, storey: usize) {
        let Some(Some(cut)) = self.cuts.get(facet) else {
            return self.stays_on(facet, from, area);
        };
        let Some(side) = cut.below(from).filter(|_| storey <= MOST_STOREYS) else {
            return self.trap(from, area, "has no way down");
        };
        let a = cut.across[0] * from[0] + cut.across[1] * from[1];
        let at = cut.point(a, side.up(a.clamp(side.a0, side.a1)));
        let (k, e) = (side.edge, self.edge(side.edge));
        let upper = e.facet == facet;
        match e.kind {
            _ if self.leaves(facet, k) => {
                self.points.push(PointDischarge {
                    at,
                    z_m: height_on(e, at),
                    plan_area_m2: area,
                    trapped: false,
                    along_wall_m2: 0.0,
                    note: format!("point {area:.4} m2 reached {}", e.id),
                });
            }
            EdgeKind::PitchBreak | EdgeKind::FlatJunction => {
                let onto = if upper { e.other.clone().unwrap_or_default() } else { e.facet.clone() };
                self.run(&onto, at, area, storey + 1);
            }
            kind if kind.is_step() && upper => {
                let onto = e.other.clone().unwrap_or_default();
                self.run(&onto, at, area, storey + 1);
            }
            _ => self.gather(facet, k, area, storey + 1),
        }
    }

    /// Water comes to a flat facet from above.
    fn stays_on(&mut self, facet: &str, at: Point, area: f64) {
        *self.flat.entry(facet.to_owned()).or_default() += area;
        self.landed.push((facet.to_owned(), at, area));
    }

    /// The sheet along an edge in metres from its left end, seen from outside.
    fn along(&self, k: usize) -> Vec<AlongGutter> {
        let e = self.edge(k);
        let turned = !starts_left(self.shape, e);
        let place = |t: f64| e.plan_m * if turned { 1.0 - t } else { t };
        let stretches = self.sheets.get(&k).into_iter().flatten();
        let mut out: Vec<AlongGutter> = stretches
            .map(|s| {
                let ((from_m, width_from_m), (to_m, width_to_m)) = ((place(s.t0), s.d0), (place(s.t1), s.d1));
                if turned {
                    AlongGutter { from_m: to_m, to_m: from_m, width_from_m: width_to_m, width_to_m: width_from_m }
                } else {
                    AlongGutter { from_m, to_m, width_from_m, width_to_m }
                }
            })
            .collect();
        out.sort_by(|a, b| a.from_m.total_cmp(&b.from_m));
        out
    }

    fn trap(&mut self, at: Point, area: f64, why: &str) {
        let z_m = facet_at(self.shape, at).map_or(0.0, |f| f.height[0] + f.height[1] * at[0] + f.height[2] * at[1]);
        self.points.push(PointDischarge {
            at,
            z_m,
            plan_area_m2: area,
            trapped: true,
            along_wall_m2: 0.0,
            note: format!("{area:.4} m2: {why}"),
        });
    }

    fn done(self) -> Runoff {
        let edge = |k: usize| &self.shape.edges[k];
        let mut facet_to_edges: BTreeMap<String, Vec<ToEdge>> = BTreeMap::new();
        for ((f, k), area) in &self.to_edge {
            let e = edge(*k);
            let to = ToEdge { edge: e.id.clone(), kind: e.kind, p0: e.p0, p1: e.p1, plan_area_m2: *area };
            facet_to_edges.entry((*f).to_owned()).or_default().push(to);
        }
        let mut eaves: Vec<usize> = self.own.keys().chain(self.above.keys()).copied().collect();
        eaves.sort_unstable();
        eaves.dedup();
        let eave_sheet = eaves
            .into_iter()
            .map(|k| {
                let (e, own, above) = (edge(k), self.own.get(&k).copied().unwrap_or(0.0), self.above.get(&k).copied().unwrap_or(0.0));
                EaveSheet {
                    edge: e.id.clone(),
                    facet: e.facet.clone(),
                    p0: e.p0,
                    p1: e.p1,
                    length_m: e.plan_m,
                    own_facet_m2: own,
                    from_roofs_above_m2: above,
                    sheet_total_m2: own + above,
                    along: self.along(k),
                }
            })
            .collect();
        let channels = self
            .channel
            .iter()
            .map(|(k, total)| {
                let e = edge(*k);
                Gathering { edge: e.id.clone(), kind: e.kind, p0: e.p0, p1: e.p1, total_at_lower_end_m2: *total }
            })
            .collect();
        let crossing = self
            .crossing
            .iter()
            .map(|(k, area)| {
                let e = edge(*k);
                Crossing { edge: e.id.clone(), kind: e.kind, p0: e.p0, p1: e.p1, area_crossing_m2: *area }
            })
            .collect();
        // Bursts at one point are one burst.
        let mut points: Vec<PointDischarge> = Vec::new();
        for p in self.points {
            match points.iter_mut().find(|o| length(o.at, p.at) < BEYOND_M && (o.z_m - p.z_m).abs() < STOREY_M && o.trapped == p.trapped) {
                Some(o) => {
                    o.plan_area_m2 += p.plan_area_m2;
                    o.along_wall_m2 += p.along_wall_m2;
                    o.note = format!("{}; {}", o.note, p.note);
                }
                None => points.push(p),
            }
        }
        Runoff {
            facet_to_edges,
            eave_sheet,
            channels,
            crossing,
            point_discharges: points,
            flat_receives_m2: self.flat,
            landed: self.landed,
            total_plan_m2: self.shape.plan_area_m2,
        }
    }
}
