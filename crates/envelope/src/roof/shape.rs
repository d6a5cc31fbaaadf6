//! The shape of a roof: facets and edges of any number of masses, worked out by cutting convex pieces along planes.
//!
//! Each mass is the lowest of its planes over its plan; the roof is the highest of the masses. A facet is where one plane is on
//! top; planes that are level and steep alike and share a line are one facet. Every edge has one facet or two. Nothing is
//! rastered: areas and lengths are exact but for rounding (see the tolerances of the plane geometry).

pub use super::facets::{Edge, EdgeKind, Facet, Lengths, LowerSide, Part, Plane, RoofInput, RoofShape, Sense};
use super::mass::{Along, Form, MOST_MASSES, Mass, MassError, Side};
use crate::plane::{Convex, Linear, Point, SAME_POINT_M, area, centroid, length};
use rustc_hash::FxHashMap;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// A roofing square, 100 ft², in m².
pub const SQUARE_M2: f64 = 9.290_304;
/// Heights nearer than this are one height.
const SAME_HEIGHT_M: f64 = 1e-5;
/// Slopes nearer than this are one slope: a metre in a thousand kilometres.
const SAME_SLOPE: f64 = 1e-6;
/// A facet thinner than this is real, but hardly meant.
const SLIVER_M: f64 = 0.02;

struct Piece {
    plane: usize,
    shape: Convex,
}

/// Works out facets and edges.
///
/// # Errors
/// [`MassError`] for masses that cannot be built.
pub fn shape(input: &RoofInput) -> Result<RoofShape, MassError> {
    check(&input.masses)?;
    let masses = &input.masses;
    let cells: Vec<Vec<(Side, Linear, Convex)>> = masses.iter().map(Mass::cells).collect();
    // Planes, numbered through.
    let mut planes: Vec<(usize, Side, Linear)> = Vec::new();
    for (m, mass) in masses.iter().enumerate() {
        planes.extend(mass.sides().into_iter().map(|s| (m, s, mass.plane(s))));
    }
    let number = |m: usize, side: Side| planes.iter().position(|p| p.0 == m && p.1 == side).expect("every cell has its plane");
    let (pieces, shared) = on_top(&cells, &|m, s| number(m, s));
    let net = Net::of(&pieces);
    let facet_of = net.merged(&planes, &seen_together(&pieces, &shared));
    let names = names(masses, &planes, &facet_of);
    let facets = net.facets(&pieces, &planes, &facet_of, &names);
    let edges = net.edges(&pieces, &planes, &facet_of, &names);
    let mut totals: BTreeMap<String, Lengths> = BTreeMap::new();
    let mut steps: BTreeMap<String, Lengths> = BTreeMap::new();
    let add = |to: &mut BTreeMap<String, Lengths>, key: String, plan: f64, along: f64| {
        let sum = to.entry(key).or_default();
        sum.plan_m += plan;
        sum.true_m += along;
    };
    for e in &edges {
        add(&mut totals, word(&e.kind), e.plan_m, e.true_m);
        if let (Some(side), Some(lower)) = (e.lower_side, e.lower_true_m) {
            add(&mut steps, word(&side), e.plan_m, lower);
        }
    }
    let doubts = doubts(masses, &facets);
    let true_area: f64 = facets.iter().map(|f| f.true_area_m2).sum();
    Ok(RoofShape {
        planes: planes.iter().map(|(m, side, z)| Plane { mass: masses[*m].id.clone(), plane: *side, z0: z.c, gx: z.a, gy: z.b }).collect(),
        plan_area_m2: facets.iter().map(|f| f.plan_area_m2).sum(),
        true_area_m2: true_area,
        squares: true_area / SQUARE_M2,
        facets,
        edges,
        edge_totals: totals,
        step_lower_side_totals: steps,
        doubts,
    })
}

fn check(masses: &[Mass]) -> Result<(), MassError> {
    if masses.is_empty() {
        return Err(MassError::None);
    }
    if masses.len() > MOST_MASSES {
        return Err(MassError::TooMany(masses.len()));
    }
    masses.iter().try_for_each(Mass::check)?;
    let mut names = BTreeSet::new();
    masses.iter().find(|m| !names.insert(&m.id)).map_or(Ok(()), |m| Err(MassError::SameName(m.id.clone())))
}

/// The value of a name in JSON.
fn word<T: Serialize>(value: &T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

fn apart(a: [f64; 4], b: [f64; 4]) -> bool {
    a[2] < b[0] || b[2] < a[0] || a[3] < b[1] || b[3] < a[1]
}

/// Two planes that are one over a region.
struct Shared {
    first: usize,
    second: usize,
    over: Convex,
}

/// Planes that are one where it can be seen, and both show: they touch there, whichever of the two was given the region.
fn seen_together(pieces: &[Piece], shared: &[Shared]) -> Vec<(usize, usize)> {
    let shows = |plane: usize| pieces.iter().any(|p| p.plane == plane);
    let seen = |s: &&Shared| pieces.iter().any(|p| (p.plane == s.first || p.plane == s.second) && p.shape.and(&s.over).is_some());
    shared.iter().filter(|s| shows(s.first) && shows(s.second)).filter(seen).map(|s| (s.first, s.second)).collect()
}

/// The pieces of every cell that no other mass rises above.
fn on_top(cells: &[Vec<(Side, Linear, Convex)>], number: &dyn Fn(usize, Side) -> usize) -> (Vec<Piece>, Vec<Shared>) {
    let bounds: Vec<Vec<[f64; 4]>> = cells.iter().map(|c| c.iter().map(|(_, _, p)| p.bounds()).collect()).collect();
    let (mut out, mut shared) = (Vec::new(), Vec::new());
    for (m, own) in cells.iter().enumerate() {
        for ((side, z, cell), own_bounds) in own.iter().zip(&bounds[m]) {
            let mut left = vec![cell.clone()];
            for (n, theirs) in cells.iter().enumerate().filter(|(n, _)| *n != m) {
                for ((their_side, other, over), over_bounds) in theirs.iter().zip(&bounds[n]) {
                    if apart(*own_bounds, *over_bounds) {
                        continue;
                    }
                    let Some(both) = cell.and(over) else { continue };
                    let rise = other.minus(*z);
                    // One plane on both: the first mass has it, so that nothing is counted twice.
                    let level = both.0.iter().all(|p| rise.at(*p).abs() <= SAME_HEIGHT_M);
                    if level && n < m {
                        shared.push(Shared { first: number(n, *their_side), second: number(m, *side), over: both.clone() });
                    }
                    let hidden = if level { (n < m).then_some(both) } else { both.cut(rise).0 };
                    if let Some(hidden) = hidden {
                        left = left.into_iter().flat_map(|p| p.without(&hidden)).collect();
                    }
                }
            }
            let plane = number(m, *side);
            out.extend(left.into_iter().map(|shape| Piece { plane, shape }));
        }
    }
    (out, shared)
}

/// The pieces joined at common corners: every side between neighbouring corners, with the piece on its left and right.
struct Net {
    points: Vec<Point>,
    /// From the lower numbered corner to the higher: piece on the left, piece on the right.
    sides: BTreeMap<(usize, usize), [Option<usize>; 2]>,
    /// The plane of each piece.
    plane: Vec<usize>,
}

impl Net {
    fn of(pieces: &[Piece]) -> Net {
        let mut points: Vec<Point> = Vec::new();
        let mut near: FxHashMap<(i64, i64), Vec<usize>> = FxHashMap::default();
        let cell = |v: f64| (v / (4.0 * SAME_POINT_M)).floor() as i64;
        let mut number = |p: Point| {
            // Only the cells that a corner at the same place can lie in: one, or two where it stands at their border.
            let reached = |v: f64| cell(v - SAME_POINT_M)..=cell(v + SAME_POINT_M);
            let around = reached(p[0]).flat_map(|i| reached(p[1]).map(move |j| (i, j)));
            let found = around.filter_map(|c| near.get(&c)).flatten().find(|k| length(points[**k], p) <= SAME_POINT_M).copied();
            found.unwrap_or_else(|| {
                points.push(p);
                near.entry((cell(p[0]), cell(p[1]))).or_default().push(points.len() - 1);
                points.len() - 1
            })
        };
        let rings: Vec<Vec<usize>> = pieces
            .iter()
            .map(|p| {
                let mut ring: Vec<usize> = p.shape.0.iter().map(|c| number(*c)).collect();
                ring.dedup();
                if ring.len() > 1 && ring.first() == ring.last() {
                    ring.pop();
                }
                ring
            })
            .collect();
        // Corners from west to east, to find those that lie on a side quickly.
        let mut west: Vec<usize> = (0..points.len()).collect();
        west.sort_by(|a, b| points[*a][0].total_cmp(&points[*b][0]));
        let mut sides: BTreeMap<(usize, usize), [Option<usize>; 2]> = BTreeMap::new();
        for (k, ring) in rings.iter().enumerate().filter(|(_, r)| r.len() > 2) {
            for i in 0..ring.len() {
                let (a, b) = (ring[i], ring[(i + 1) % ring.len()]);
                let mut stops = corners_on(&points, &west, a, b);
                stops.push((length(points[a], points[b]), b));
                let mut from = a;
                for (_, to) in stops {
                    let slot = &mut sides.entry((from.min(to), from.max(to))).or_default()[usize::from(from > to)];
                    slot.get_or_insert(k);
                    from = to;
                }
            }
        }
        Net { points, sides, plane: pieces.iter().map(|p| p.plane).collect() }
    }

    /// Which facet each plane belongs to: planes alike that share a line are one, named by the first of them.
    fn merged(&self, planes: &[(usize, Side, Linear)], together: &[(usize, usize)]) -> Vec<usize> {
        let mut of: Vec<usize> = (0..planes.len()).collect();
        for (a, b) in together {
            let (keep, drop) = (of[*a].min(of[*b]), of[*a].max(of[*b]));
            of.iter_mut().filter(|f| **f == drop).for_each(|f| *f = keep);
        }
        for ((a, b), both) in &self.sides {
            let [Some(l), Some(r)] = both.map(|k| k.map(|k| self.plane[k])) else { continue };
            if of[l] == of[r] {
                continue;
            }
            let d = planes[l].2.minus(planes[r].2);
            let middle = self.middle(*a, *b);
            if d.slope() <= SAME_SLOPE && d.at(middle).abs() <= SAME_HEIGHT_M {
                let (keep, drop) = (of[l].min(of[r]), of[l].max(of[r]));
                of.iter_mut().filter(|f| **f == drop).for_each(|f| *f = keep);
            }
        }
        of
    }

    fn middle(&self, a: usize, b: usize) -> Point {
        let (p, q) = (self.points[a], self.points[b]);
        [(p[0] + q[0]) / 2.0, (p[1] + q[1]) / 2.0]
    }

    fn facets(&self, pieces: &[Piece], planes: &[(usize, Side, Linear)], of: &[usize], names: &BTreeMap<usize, String>) -> Vec<Facet> {
        let mut rings: BTreeMap<usize, Vec<(usize, usize)>> = BTreeMap::new();
        for ((a, b), both) in &self.sides {
            let [l, r] = both.map(|k| k.map(|k| of[self.plane[k]]));
            if l == r {
                continue;
            }
            if let Some(f) = l {
                rings.entry(f).or_default().push((*a, *b));
            }
            if let Some(f) = r {
                rings.entry(f).or_default().push((*b, *a));
            }
        }
        names
            .iter()
            .filter_map(|(f, id)| {
                let own = || pieces.iter().filter(|p| of[p.plane] == *f);
                let widest = own().max_by(|a, b| a.shape.area().total_cmp(&b.shape.area()))?;
                let plan: f64 = own().map(|p| p.shape.area()).sum();
                let z = planes[*f].2;
                let pitch = z.slope();
                let along = plan * (1.0 + pitch * pitch).sqrt();
                Some(Facet {
                    id: id.clone(),
                    plan_area_m2: plan,
                    true_area_m2: along,
                    squares: along / SQUARE_M2,
                    pitch,
                    pitch_in_12: pitch * 12.0,
                    degrees: pitch.atan().to_degrees(),
                    percent: pitch * 100.0,
                    downslope_azimuth_deg: (pitch > SAME_SLOPE).then(|| (-z.a).atan2(-z.b).to_degrees().rem_euclid(360.0)),
                    height: [z.c, z.a, z.b],
                    parts: self.parts(rings.remove(f).unwrap_or_default()),
                    middle: centroid(&widest.shape.0),
                })
            })
            .collect()
    }

    /// Closed outlines of directed sides, with what they enclose on the left; corners on straight lines are left out.
    fn parts(&self, sides: Vec<(usize, usize)>) -> Vec<Part> {
        let mut from: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        sides.iter().for_each(|(a, b)| from.entry(*a).or_default().push(*b));
        let mut loops: Vec<Vec<Point>> = Vec::new();
        while let Some((&start, _)) = from.iter().find(|(_, to)| !to.is_empty()) {
            let mut ring = vec![start];
            let mut at = start;
            let mut back: Option<f64> = None;
            while let Some(to) = from.get_mut(&at).filter(|to| !to.is_empty()) {
                let heading = |k: usize| (self.points[k][1] - self.points[at][1]).atan2(self.points[k][0] - self.points[at][0]);
                // Where two parts touch at a corner, the way nearest to the inside is taken, so that they stay two.
                let turn = |k: &usize| back.map_or(0.0, |b| (b - heading(*k)).rem_euclid(std::f64::consts::TAU));
                let i = (0..to.len()).min_by(|a, b| turn(&to[*a]).total_cmp(&turn(&to[*b]))).expect("there is one");
                let next = to.swap_remove(i);
                back = Some((self.points[at][1] - self.points[next][1]).atan2(self.points[at][0] - self.points[next][0]));
                at = next;
                if at == start {
                    break;
                }
                ring.push(at);
            }
            loops.push(straightened(ring.iter().map(|k| self.points[*k]).collect()));
        }
        loops.retain(|r| r.len() > 2);
        let (outer, holes): (Vec<_>, Vec<_>) = loops.into_iter().partition(|r| area(r) > 0.0);
        let mut parts: Vec<Part> = outer.into_iter().map(|outer| Part { outer, holes: vec![] }).collect();
        for hole in holes {
            let holding = parts.iter_mut().filter(|p| inside(&p.outer, hole[0])).min_by(|a, b| area(&a.outer).total_cmp(&area(&b.outer)));
            if let Some(p) = holding {
                p.holes.push(hole);
            }
        }
        parts
    }

    fn edges(&self, pieces: &[Piece], planes: &[(usize, Side, Linear)], of: &[usize], names: &BTreeMap<usize, String>) -> Vec<Edge> {
        let mut found: BTreeMap<Sort, Vec<(Point, Point)>> = BTreeMap::new();
        for ((a, b), both) in &self.sides {
            let [l, r] = both.map(|k| k.map(|k| of[pieces[k].plane]));
            if l == r {
                continue;
            }
            let (p, q) = (self.points[*a], self.points[*b]);
            let alone = |kind, facet| Sort { kind, facet, other: None, lower: None, sense: None };
            match (l, r) {
                (Some(f), Some(g)) => {
                    for (p, q) in split_where_level(p, q, planes[f].2.minus(planes[g].2)) {
                        found.entry(joint(p, q, f, g, planes, names)).or_default().push((p, q));
                    }
                }
                (Some(f), None) => found.entry(alone(border(p, q, planes[f].2), f)).or_default().push((p, q)),
                (None, Some(g)) => found.entry(alone(border(q, p, planes[g].2), g)).or_default().push((p, q)),
                (None, None) => {}
            }
        }
        let mut out = Vec::new();
        for (sort, sides) in found {
            for (p, q) in joined(sides) {
                let z = |f: usize, at: Point| planes[f].2.at(at);
                let (z0, z1, plan) = (z(sort.facet, p), z(sort.facet, q), length(p, q));
                let lower = sort.lower.and(sort.other).map(|g| (z(g, p), z(g, q)));
                out.push(Edge {
                    id: String::new(),
                    kind: sort.kind,
                    facet: names[&sort.facet].clone(),
                    other: sort.other.map(|g| names[&g].clone()),
                    p0: p,
                    p1: q,
                    z0_m: z0,
                    z1_m: z1,
                    plan_m: plan,
                    true_m: plan.hypot(z1 - z0),
                    lower_side: sort.lower,
                    lower_true_m: lower.map(|(a, b)| plan.hypot(b - a)),
                    lower_z0_m: lower.map(|l| l.0),
                    lower_z1_m: lower.map(|l| l.1),
                    sense: sort.sense,
                });
            }
        }
        let key = |e: &Edge| (e.kind, round(e.p0), round(e.p1));
        out.sort_by_key(key);
        for (i, e) in out.iter_mut().enumerate() {
            e.id = format!("e{i:02}");
        }
        out
    }
}

/// To a hundredth of a millimetre, so that rounding does not decide an order.
fn round(p: Point) -> (i64, i64) {
    ((p[0] * 1e5).round() as i64, (p[1] * 1e5).round() as i64)
}

/// Where two masses stand side by side, one may be the higher at one end and the lower at the other.
fn split_where_level(p: Point, q: Point, rise: Linear) -> Vec<(Point, Point)> {
    let (a, b) = (rise.at(p), rise.at(q));
    if a * b >= 0.0 || a.abs().min(b.abs()) <= SAME_HEIGHT_M {
        return vec![(p, q)];
    }
    let k = a / (a - b);
    let x = [p[0] + k * (q[0] - p[0]), p[1] + k * (q[1] - p[1])];
    vec![(p, x), (x, q)]
}

/// What makes two sides one edge, if they lie on one line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct Sort {
    kind: EdgeKind,
    facet: usize,
    other: Option<usize>,
    lower: Option<LowerSide>,
    sense: Option<Sense>,
}

/// How steeply a plane falls across the side from `p` to `q`, to its right: 1 is straight across, 0 along it.
fn falls_right(p: Point, q: Point, z: Linear) -> f64 {
    let s = length(p, q) * z.slope();
    if s == 0.0 { 0.0 } else { (-z.a * (q[1] - p[1]) + z.b * (q[0] - p[0])) / s }
}

/// Less across than along counts as along: a slope that meets a line within an eighth of a turn runs with it.
const ACROSS: f64 = std::f64::consts::FRAC_1_SQRT_2;
/// Runs along a line so exactly that no water crosses it.
const ALONG: f64 = 1e-6;

/// A border with the facet on its left.
fn border(p: Point, q: Point, z: Linear) -> EdgeKind {
    match falls_right(p, q, z) {
        _ if z.slope() <= SAME_SLOPE => EdgeKind::FlatEdge,
        out if out > ACROSS - ALONG => EdgeKind::Eave,
        out if out < ALONG - ACROSS => EdgeKind::HighEdge,
        _ => EdgeKind::Rake,
    }
}

/// A line with facet `f` on its left and `g` on its right.
fn joint(p: Point, q: Point, f: usize, g: usize, planes: &[(usize, Side, Linear)], names: &BTreeMap<usize, String>) -> Sort {
    let (zf, zg) = (planes[f].2, planes[g].2);
    let (dp, dq) = (zf.at(p) - zg.at(p), zf.at(q) - zg.at(q));
    if dp.abs() <= SAME_HEIGHT_M && dq.abs() <= SAME_HEIGHT_M {
        // Level with each other. Positive: water of f, of g runs to the line.
        let (from_f, from_g) = (falls_right(p, q, zf), -falls_right(p, q, zg));
        // Two planes meet in a level line when they fall the same way or the opposite one.
        let level = (zf.a * zg.b - zf.b * zg.a).abs() <= SAME_SLOPE * (zf.slope() * zg.slope()).max(SAME_SLOPE);
        // Left of the line the roof is f. Where it is the lower of the two, the roof bends down.
        let across = Linear::left_of(p, q).map_or(0.0, |l| l.a * (zf.a - zg.a) + l.b * (zf.b - zg.b));
        let sense = if across < 0.0 { Sense::Concave } else { Sense::Convex };
        let flat = zf.slope() <= SAME_SLOPE || zg.slope() <= SAME_SLOPE;
        let kind = match (from_f, from_g) {
            _ if flat => EdgeKind::FlatJunction,
            (a, b) if a * b < 0.0 && a.abs() > ALONG && b.abs() > ALONG => EdgeKind::PitchBreak,
            _ if sense == Sense::Convex => EdgeKind::Valley,
            _ if level => EdgeKind::Ridge,
            _ => EdgeKind::Hip,
        };
        let (facet, other) = if names[&f] <= names[&g] { (f, g) } else { (g, f) };
        return Sort { kind, facet, other: Some(other), lower: None, sense: Some(sense) };
    }
    let (upper, lower, kind, away) =
        if dp + dq > 0.0 { (f, g, border(p, q, zf), falls_right(p, q, zg)) } else { (g, f, border(q, p, zg), falls_right(q, p, zf)) };
    let lower_side = match away {
        _ if planes[lower].2.slope() <= SAME_SLOPE => LowerSide::FlatBelow,
        a if a > ACROSS - ALONG => LowerSide::Headwall,
        a if a < ALONG - ACROSS => LowerSide::Backwater,
        _ => LowerSide::Sidewall,
    };
    Sort { kind: kind.over_roof(), facet: upper, other: Some(lower), lower: Some(lower_side), sense: None }
}

/// Corners strictly between two, on the straight line, in order, with their distance from the first.
fn corners_on(points: &[Point], west: &[usize], a: usize, b: usize) -> Vec<(f64, usize)> {
    let (p, q) = (points[a], points[b]);
    let whole = length(p, q);
    let Some(line) = Linear::left_of(p, q) else { return vec![] };
    let (least, most) = (p[0].min(q[0]) - SAME_POINT_M, p[0].max(q[0]) + SAME_POINT_M);
    let (south, north) = (p[1].min(q[1]) - SAME_POINT_M, p[1].max(q[1]) + SAME_POINT_M);
    let first = west.partition_point(|k| points[*k][0] < least);
    let mut out: Vec<(f64, usize)> = west[first..]
        .iter()
        .take_while(|k| points[**k][0] <= most)
        .filter(|k| **k != a && **k != b && (south..=north).contains(&points[**k][1]))
        .filter(|k| line.at(points[**k]).abs() <= SAME_POINT_M)
        .map(|k| (((points[*k][0] - p[0]) * (q[0] - p[0]) + (points[*k][1] - p[1]) * (q[1] - p[1])) / whole, *k))
        .filter(|(d, _)| *d > 0.0 && *d < whole)
        .collect();
    out.sort_by(|x, y| x.0.total_cmp(&y.0));
    out
}

/// Sides on one line that touch, as one; each from west to east, then from south to north.
fn joined(sides: Vec<(Point, Point)>) -> Vec<(Point, Point)> {
    let mut rest: Vec<(Point, Point)> = sides.into_iter().map(|(p, q)| if round(p) <= round(q) { (p, q) } else { (q, p) }).collect();
    rest.sort_by_key(|(p, q)| (round(*p), round(*q)));
    let mut out: Vec<(Point, Point)> = Vec::new();
    for (p, q) in rest {
        let goes_on = out.iter_mut().find(|(a, b)| length(*b, p) <= 2.0 * SAME_POINT_M && straight(*a, *b, q));
        match goes_on {
            Some(last) => last.1 = q,
            None => out.push((p, q)),
        }
    }
    out
}

/// Whether `q` goes on from `p` in the direction from `o`.
fn straight(o: Point, p: Point, q: Point) -> bool {
    let (whole, rest) = (length(o, p), length(p, q));
    let cross = (p[0] - o[0]) * (q[1] - p[1]) - (p[1] - o[1]) * (q[0] - p[0]);
    let ahead = (p[0] - o[0]) * (q[0] - p[0]) + (p[1] - o[1]) * (q[1] - p[1]);
    // Either the direction is the same, or the middle lies within a corner's tolerance of the straight line.
    ahead > 0.0 && (cross / (whole * rest)).abs() * whole.min(rest) <= 4.0 * SAME_POINT_M
}

/// A ring without the corners that lie on straight lines. Each is held against the last one kept, so that two corners a hair
/// apart are never both taken away; the one farthest to the south-west is a true corner and stays.
fn straightened(mut ring: Vec<Point>) -> Vec<Point> {
    let first = (0..ring.len()).min_by_key(|i| round(ring[*i])).unwrap_or(0);
    ring.rotate_left(first);
    let mut out: Vec<Point> = Vec::with_capacity(ring.len());
    for (i, p) in ring.iter().enumerate() {
        let next = ring[(i + 1) % ring.len()];
        if out.last().is_none_or(|last| !straight(*last, *p, next)) {
            out.push(*p);
        }
    }
    out
}

/// Whether a point lies inside a ring.
pub(crate) fn inside(ring: &[Point], p: Point) -> bool {
    let n = ring.len();
    (0..n).fold(false, |odd, i| {
        let (a, b) = (ring[i], ring[(i + 1) % n]);
        let crosses = (a[1] > p[1]) != (b[1] > p[1]) && p[0] < (b[0] - a[0]) * (p[1] - a[1]) / (b[1] - a[1]) + a[0];
        odd ^ crosses
    })
}

/// The facets by their first plane, each with its name: its planes in the order of the masses.
fn names(masses: &[Mass], planes: &[(usize, Side, Linear)], of: &[usize]) -> BTreeMap<usize, String> {
    let mut out: BTreeMap<usize, Vec<String>> = BTreeMap::new();
    for (k, (m, side, _)) in planes.iter().enumerate() {
        out.entry(of[k]).or_default().push(format!("{}.{}", masses[*m].id, side.key()));
    }
    out.into_iter().map(|(f, n)| (f, n.join("|"))).collect()
}

fn doubts(masses: &[Mass], facets: &[Facet]) -> Vec<String> {
    let mut out = Vec::new();
    if masses.len() > 1 {
        let touching = |m: &Mass, n: &Mass| {
            // A hand's breadth of daylight between two eaves is still one building.
            const NEAR_M: f64 = 0.05;
            m.covered(NEAR_M).and(&n.covered(NEAR_M)).is_some()
        };
        let mut reached = BTreeSet::from([0]);
        let mut todo = vec![0];
        while let Some(m) = todo.pop() {
            let fresh: Vec<usize> = (0..masses.len()).filter(|n| !reached.contains(n) && touching(&masses[m], &masses[*n])).collect();
            reached.extend(&fresh);
            todo.extend(fresh);
        }
        let loose: Vec<&str> = (0..masses.len()).filter(|m| !reached.contains(m)).map(|m| masses[m].id.as_str()).collect();
        if !loose.is_empty() {
            out.push(format!("{} does not touch {}: check where it stands.", loose.join(", "), masses[0].id));
        }
    }
    for m in masses {
        if facets.iter().all(|f| !f.id.split('|').any(|n| n.split('.').next() == Some(&m.id))) {
            out.push(format!("{} lies wholly under the others and shows nowhere: check its height and place.", m.id));
        }
    }
    for f in facets {
        let thin = |p: &Part| {
            let around: f64 = (0..p.outer.len()).map(|i| length(p.outer[i], p.outer[(i + 1) % p.outer.len()])).sum();
            2.0 * area(&p.outer) / around < SLIVER_M
        };
        if f.parts.iter().any(thin) {
            out.push(format!("{} has a part narrower than 20 mm: two masses nearly line up there. Check their lengths.", f.id));
        }
    }
    out
}

/// The way a gable's ridge runs, in local directions.
impl Mass {
    /// The way the ridge of a gable or hip runs.
    pub fn ridge(&self) -> Along {
        match (self.form, self.ridge_along) {
            (Form::Gable, Some(a)) => a,
            _ if self.len_v_m > self.len_u_m && self.form == Form::Hip => Along::V,
            _ => Along::U,
        }
    }
}
