//! A flat roof on a grid: its heights, its edges with and without parapets, and the hollows between them.
//!
//! The grid lies with the walls of its mass, so that edges are straight. Around it lies one ring of cells that stand for the edge: as high
//! as the parapet, or a hair below the roof where there is none, and open, so that what passes them has left. A wall that rises beside
//! the roof closes it. The cells together are as large as the roof is on the plan.

use super::record::{FlatRoof, RoofOutlet, WayOut};
use crate::plane::{Point, length, nearest};
use crate::roof::mass::Mass;
use crate::roof::record::{Standing, metres};
use crate::roof::shape::{EdgeKind, Facet, RoofShape, inside};
use crate::roof::typed::signed;
use crate::site::Face;
use crate::terrain::hollows::{Hollows, Land, NONE};
use crate::terrain::surface::{Lay, lay};
use std::collections::BTreeMap;

/// About so many cells for a roof: one of 200 m² is cut into pieces of a foot.
const CELLS: f64 = 3_000.0;
const FINEST_M: f64 = 0.05;
const COARSEST_M: f64 = 0.5;
/// Water stands no higher at an edge without a parapet, metres.
const HAIR_M: f64 = 1e-6;
/// Heights are kept to this, metres.
const SAME_M: f64 = 1e-5;
/// A corner that was read counts for the corner itself when it is this near, metres.
const CORNER_M: f64 = 0.5;

/// A cell of the ring: where its water leaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Rim {
    /// The edge of the roof, by its number in the shape.
    pub(super) edge: usize,
    /// The point of that edge.
    pub(super) at: Point,
    /// A little beyond it.
    pub(super) beyond: Point,
    /// A lower roof lies below.
    pub(super) over_roof: bool,
    /// A parapet stands there.
    pub(super) parapet: bool,
    pub(super) face: Face,
}

/// A flat roof, laid out.
pub(super) struct Deck {
    pub(super) land: Land,
    pub(super) hollows: Hollows,
    /// Cells of the roof itself, not of its ring.
    pub(super) roof: Vec<bool>,
    pub(super) rims: BTreeMap<usize, Rim>,
    pub(super) plan_m2: f64,
    /// Side of a cell as it is laid, metres.
    pub(super) cell_m: f64,
    /// How far it reaches along its mass and across.
    size: [f64; 2],
    /// The corner of the grid in the mass's own frame: from its left and front walls.
    origin: Point,
    /// The mass.
    pub(super) mass: Mass,
}

/// The face a step of the grid looks to.
const STEPS: [(isize, isize, Face); 4] = [(1, 0, Face::Right), (-1, 0, Face::Left), (0, 1, Face::Rear), (0, -1, Face::Front)];

/// The flat facets of a roof a mass has to do with.
pub(crate) fn facets_of<'s>(shape: &'s RoofShape, mass: &str) -> Vec<&'s Facet> {
    let of = |f: &&Facet| f.downslope_azimuth_deg.is_none() && crate::roof::details::Names::masses(&f.id).any(|m| m == mass);
    shape.facets.iter().filter(of).collect()
}

impl Deck {
    /// # Errors
    /// What stands in the way, in words.
    pub(super) fn new(record: &FlatRoof, mass: &Mass, shape: &RoofShape) -> Result<Deck, String> {
        let facets = facets_of(shape, &record.mass);
        let plan_m2: f64 = facets.iter().map(|f| f.plan_area_m2).sum();
        if facets.is_empty() || plan_m2 <= 0.0 {
            return Err("Its mass has no flat roof that lies open. Choose a mass whose form is flat.".into());
        }
        let mut frame = Frame { mass: mass.clone(), origin: [0.0, 0.0] };
        let (mut low, mut high) = ([f64::MAX; 2], [f64::MIN; 2]);
        for p in facets.iter().flat_map(|f| &f.parts).flat_map(|p| &p.outer) {
            let q = frame.local(*p);
            for k in 0..2 {
                (low[k], high[k]) = (low[k].min(q[k]), high[k].max(q[k]));
            }
        }
        let size = [high[0] - low[0], high[1] - low[1]];
        // Whole cells along the shorter side, so that its edges are met exactly.
        let about = (size[0] * size[1] / CELLS).sqrt().clamp(FINEST_M, COARSEST_M);
        let shorter = size[0].min(size[1]);
        let cell = shorter / (shorter / about).ceil().max(1.0);
        let count = |k: usize| (size[k] / cell).round().max(1.0) as usize + 2;
        let (nx, ny) = (count(0), count(1));
        frame.origin = [low[0] - cell, low[1] - cell];
        let middle = |k: usize| frame.north([(k % nx) as f64 + 0.5, (k / nx) as f64 + 0.5].map(|v| v * cell));
        let on_roof =
            |p: Point| facets.iter().any(|f| f.parts.iter().any(|part| inside(&part.outer, p) && !part.holes.iter().any(|h| inside(h, p))));
        let roof: Vec<bool> =
            (0..nx * ny).map(|k| k % nx > 0 && k / nx > 0 && k % nx + 1 < nx && k / nx + 1 < ny && on_roof(middle(k))).collect();
        let cells = roof.iter().filter(|r| **r).count();
        if cells == 0 {
            return Err("Its flat roof is too narrow to be worked out. Check the length and depth of its mass on the Roof bench.".into());
        }
        let heights = Heights::of(record, &frame, facets[0].height[0], [low, high])?;
        let mut z = heights.on_grid(&frame, [nx, ny], cell, [0.0, 0.0])?;
        // Between a cell and the next one, where edges lie.
        let between = [heights.on_grid(&frame, [nx, ny], cell, [0.5, 0.0])?, heights.on_grid(&frame, [nx, ny], cell, [0.0, 0.5])?];
        for (z, on) in z.iter_mut().zip(&roof) {
            // Heights nearer than a reading can tell are one height, so that rounding digs no hollows.
            *z = if *on { (*z / SAME_M).round() * SAME_M } else { f64::NAN };
        }
        let mut rims: BTreeMap<usize, Rim> = BTreeMap::new();
        let mut tops: Vec<(usize, f64)> = Vec::new();
        let edges: Vec<usize> = (0..shape.edges.len())
            .filter(|k| facets.iter().any(|f| shape.edges[*k].facet == f.id || shape.edges[*k].other.as_deref() == Some(&f.id)))
            .collect();
        for k in (0..nx * ny).filter(|k| roof[*k]) {
            for (dx, dy, face) in STEPS {
                let o = (k as isize + dx + dy * nx as isize) as usize;
                if roof[o] {
                    continue;
                }
                let (p, q) = (middle(k), middle(o));
                let border = [f64::midpoint(p[0], q[0]), f64::midpoint(p[1], q[1])];
                let near = |e: &usize| length(border, nearest(border, shape.edges[*e].p0, shape.edges[*e].p1));
                let Some(edge) = edges.iter().copied().min_by(|a, b| near(a).total_cmp(&near(b))) else { continue };
                let e = &shape.edges[edge];
                let upper = facets.iter().any(|f| f.id == e.facet);
                let over_roof = match e.kind {
                    EdgeKind::FlatEdge => false,
                    EdgeKind::FlatEdgeOverRoof if upper => true,
                    // A slope that falls away from it takes its water; one that rises from it closes it.
                    EdgeKind::FlatJunction => {
                        let beyond = if upper { e.other.as_deref() } else { Some(e.facet.as_str()) };
                        let other = shape.facets.iter().find(|f| Some(f.id.as_str()) == beyond);
                        let at = |f: &Facet| f.height[0] + f.height[1] * q[0] + f.height[2] * q[1];
                        if other.is_none_or(|f| at(f) >= facets[0].height[0]) {
                            continue;
                        }
                        true
                    }
                    _ => continue,
                };
                let parapet = record.parapet(face)?;
                let border_z = between[usize::from(dx == 0)][if dx + dy > 0 { k } else { o }];
                let top = border_z + parapet.unwrap_or(-HAIR_M);
                let at = nearest(border, e.p0, e.p1);
                let beyond = [at[0] + (q[0] - p[0]) / cell * 0.05, at[1] + (q[1] - p[1]) / cell * 0.05];
                let rim = Rim { edge, at, beyond, over_roof, parapet: parapet.is_some(), face };
                // A ring cell in an inner corner is passed where it is lowest.
                match tops.iter_mut().find(|(c, _)| *c == o) {
                    Some((_, t)) if *t <= top => {}
                    Some((_, t)) => {
                        *t = top;
                        rims.insert(o, rim);
                    }
                    None => {
                        tops.push((o, top));
                        rims.insert(o, rim);
                    }
                }
            }
        }
        let mut open = vec![false; nx * ny];
        for (k, top) in tops {
            (z[k], open[k]) = (top, true);
        }
        // The cells are as large as the roof, however the last row was cut.
        let land = Land { nx, ny, cell_m: (plan_m2 / cells as f64).sqrt(), z, open };
        let hollows = Hollows::of(&land);
        Ok(Deck { land, hollows, roof, rims, plan_m2, cell_m: cell, size, origin: frame.origin, mass: frame.mass })
    }

    fn frame(&self) -> Frame {
        Frame { mass: self.mass.clone(), origin: self.origin }
    }

    /// Middle of a cell, on the plan.
    pub(super) fn middle(&self, k: usize) -> Point {
        self.frame().north([((k % self.land.nx) as f64 + 0.5) * self.cell_m, ((k / self.land.nx) as f64 + 0.5) * self.cell_m])
    }

    /// Middle of a cell, from the left and the front wall of the mass.
    pub(super) fn in_frame(&self, k: usize) -> Point {
        let (x, y) = (((k % self.land.nx) as f64 + 0.5) * self.cell_m, ((k / self.land.nx) as f64 + 0.5) * self.cell_m);
        [self.origin[0] + x, self.origin[1] + y]
    }

    /// The cell of the roof nearest to a point of the plan.
    pub(super) fn cell_near(&self, p: Point) -> Option<usize> {
        let q = self.frame().local(p);
        let place = |k: usize| length(self.in_frame(k), q);
        (0..self.roof.len()).filter(|k| self.roof[*k]).min_by(|a, b| place(*a).total_cmp(&place(*b)))
    }

    /// Where an outlet stands: its cell, and its point on the plan.
    ///
    /// # Errors
    /// It does not lie on this roof.
    pub(super) fn place(&self, o: &RoofOutlet, name: &str) -> Result<(usize, Point), String> {
        let left = metres("The place from the left", &o.from_left)?;
        let standing = Standing::straight(0.0, 0.0, self.mass.len_u_m, self.mass.len_v_m);
        let (at, off) = match (o.kind, o.face) {
            (WayOut::InnerDrain, _) => ([left, metres("The place from the front", &o.from_front)?], self.cell_m),
            (WayOut::Scupper, face) => (standing.point(face.unwrap_or(Face::Front), left, 0.0), self.mass.overhang_m + 2.0 * self.cell_m),
        };
        let p = Frame { mass: self.mass.clone(), origin: [0.0, 0.0] }.north(at);
        let cell = self.cell_near(p).ok_or("Nothing of this roof lies open. Check its masses on the Roof bench.")?;
        if length(self.in_frame(cell), at) > off + self.cell_m {
            return Err(format!(
                "The {name} does not lie on this roof. Check its place: the roof is {:.1} by {:.1} m.",
                standing.length, standing.depth
            ));
        }
        Ok((cell, p))
    }

    /// Outlines of the cells that lie so deep under water, on the plan; `level` gives each leaf its water.
    pub(super) fn outline(&self, wet: &dyn Fn(usize) -> bool) -> Vec<Vec<Point>> {
        let nx = self.land.nx;
        let is = |k: usize| self.roof[k] && wet(k);
        // Directed sides with the water on their left, from corner to corner.
        let mut next: BTreeMap<(usize, usize), Vec<(usize, usize)>> = BTreeMap::new();
        for k in (0..self.roof.len()).filter(|k| is(*k)) {
            let (x, y) = (k % nx, k / nx);
            let sides = [
                ((x, y), (x + 1, y), k - nx),
                ((x + 1, y), (x + 1, y + 1), k + 1),
                ((x + 1, y + 1), (x, y + 1), k + nx),
                ((x, y + 1), (x, y), k - 1),
            ];
            for (a, b, o) in sides {
                if !is(o) {
                    next.entry(a).or_default().push(b);
                }
            }
        }
        let frame = self.frame();
        // The cells fit one side of the roof exactly and the other nearly: their last line is the roof's edge, not a little beside it.
        let line = |n: usize, of: usize, side: f64| if n + 1 == of { self.cell_m + side } else { n as f64 * self.cell_m };
        let corner = |c: (usize, usize)| frame.north([line(c.0, nx, self.size[0]), line(c.1, self.land.ny, self.size[1])]);
        let mut out = Vec::new();
        while let Some((&start, _)) = next.iter().next() {
            let mut ring = vec![start];
            let mut at = start;
            while let Some(ways) = next.get_mut(&at) {
                let Some(to) = ways.pop() else { break };
                if ways.is_empty() {
                    next.remove(&at);
                }
                if to == start {
                    break;
                }
                ring.push(to);
                at = to;
            }
            // Corners only.
            let n = ring.len();
            let straight = |i: usize| {
                let (a, b, c) = (ring[(i + n - 1) % n], ring[i], ring[(i + 1) % n]);
                (a.0 == b.0 && b.0 == c.0) || (a.1 == b.1 && b.1 == c.1)
            };
            out.push((0..n).filter(|i| !straight(*i)).map(|i| corner(ring[i])).collect());
        }
        out
    }

    /// The leaf of a cell, if it drains into one.
    pub(super) fn leaf(&self, k: usize) -> Option<usize> {
        Some(self.hollows.basin[k]).filter(|l| *l != NONE).map(|l| l as usize)
    }
}

/// The mass's own frame: x from its left wall, y from its front wall; the grid begins at `origin`.
struct Frame {
    mass: Mass,
    origin: Point,
}

impl Frame {
    fn local(&self, p: Point) -> Point {
        let (s, c) = self.mass.rot_deg.to_radians().sin_cos();
        let d = [p[0] - self.mass.centre_m[0], p[1] - self.mass.centre_m[1]];
        [d[0] * c + d[1] * s + self.mass.len_u_m / 2.0, d[1] * c - d[0] * s + self.mass.len_v_m / 2.0]
    }
    /// A point of the grid, in metres from its corner, on the plan.
    fn north(&self, p: Point) -> Point {
        let (s, c) = self.mass.rot_deg.to_radians().sin_cos();
        let d = [self.origin[0] + p[0] - self.mass.len_u_m / 2.0, self.origin[1] + p[1] - self.mass.len_v_m / 2.0];
        [self.mass.centre_m[0] + d[0] * c - d[1] * s, self.mass.centre_m[1] + d[0] * s + d[1] * c]
    }
}

/// Heights of a roof: its fall, and on it what was read, by Delaunay's triangles between the readings and the corners.
struct Heights {
    z0: f64,
    fall: f64,
    toward: Option<Face>,
    size: [f64; 2],
    /// What was read, above the fall.
    spots: Vec<[f64; 3]>,
}

impl Heights {
    fn of(record: &FlatRoof, frame: &Frame, z0: f64, [low, high]: [Point; 2]) -> Result<Heights, String> {
        let size = [frame.mass.len_u_m, frame.mass.len_v_m];
        let mut out = Heights { z0, fall: record.fall()?, toward: record.toward, size, spots: Vec::new() };
        for h in &record.heights {
            let q = [metres("The place from the left", &h.from_left)?, metres("The place from the front", &h.from_front)?];
            if q[0] < low[0] - CORNER_M || q[1] < low[1] - CORNER_M || q[0] > high[0] + CORNER_M || q[1] > high[1] + CORNER_M {
                return Err(format!(
                    "The height at {} from the left and {} from the front does not lie on this roof, which is {:.1} by {:.1} m.",
                    h.from_left.trim(),
                    h.from_front.trim(),
                    size[0],
                    size[1]
                ));
            }
            let above = signed("The height", &h.height)? - out.base(q);
            out.spots.push([q[0], q[1], above]);
        }
        if out.spots.is_empty() {
            return Ok(out);
        }
        // Corners nobody read keep the fall that was said.
        let read = out.spots.clone();
        for corner in [[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]] {
            let away = |s: &[f64; 3]| length([s[0], s[1]], corner);
            let near = read.iter().filter(|s| away(s) < CORNER_M).min_by(|a, b| away(a).total_cmp(&away(b)));
            let out_by = |k: usize| if corner[k] == low[k] { corner[k] - HAIR_M } else { corner[k] + HAIR_M };
            out.spots.push([out_by(0), out_by(1), near.map_or(0.0, |s| s[2])]);
        }
        Ok(out)
    }

    /// The fall alone; the higher edge stands at the height of the roof's edge.
    fn base(&self, q: Point) -> f64 {
        -self.fall
            * match self.toward {
                Some(Face::Front) => self.size[1] - q[1],
                Some(Face::Rear) => q[1],
                Some(Face::Left) => self.size[0] - q[0],
                Some(Face::Right) => q[0],
                None => 0.0,
            }
    }

    /// In the middle of every cell of a grid that lies `shift` cells on.
    fn on_grid(&self, frame: &Frame, [nx, ny]: [usize; 2], cell: f64, shift: [f64; 2]) -> Result<Vec<f64>, String> {
        let origin = [frame.origin[0] + shift[0] * cell, frame.origin[1] + shift[1] * cell];
        let at = |k: usize| [origin[0] + ((k % nx) as f64 + 0.5) * cell, origin[1] + ((k / nx) as f64 + 0.5) * cell];
        let above = if self.spots.is_empty() {
            None
        } else {
            Some(lay(&self.spots, &[], Lay { origin, nx, ny, cell, footprints: vec![] }).map_err(|e| e.to_string())?.0)
        };
        let read = |k: usize| above.as_ref().map_or(0.0, |g| g.z[k]);
        Ok((0..nx * ny).map(|k| self.z0 + self.base(at(k)) + if read(k).is_nan() { 0.0 } else { read(k) }).collect())
    }
}
