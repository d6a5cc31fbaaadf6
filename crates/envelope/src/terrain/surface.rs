//! The surface of the ground: a triangulation of the readings, laid on a grid, with buildings as walls; where water stands on
//! it and which way it runs.
//!
//! Triangles are Delaunay's, held by the breaklines that were given. Cells inside a building are walls and carry no water; cells
//! outside the readings are not known. Known cells at the border let water out. Hollows are filled from the border inward
//! (priority flood over eight neighbours); every cell then has a way out that never rises, and what was filled is what stands.

use spade::{ConstrainedDelaunayTriangulation, HasPosition, Point2, Triangulation};
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// A reading: x, y and height, metres.
pub type Spot = [f64; 3];

#[derive(Debug, Clone, Copy)]
struct Vertex {
    at: Point2<f64>,
    z: f64,
}

impl HasPosition for Vertex {
    type Scalar = f64;
    fn position(&self) -> Point2<f64> {
        self.at
    }
}

/// What a cell is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cell {
    /// Ground whose height is known.
    Ground,
    /// Inside a building.
    Wall,
    /// Outside the readings: nothing is said of it.
    Unknown,
}

/// Why a surface cannot be had.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum SurfaceError {
    /// Too few readings, or all on one line.
    #[error("A surface needs at least three readings that do not lie on one line. Read a point off to the side.")]
    OnALine,
    /// Two heights at one place.
    #[error("Two readings stand at {x:.2}, {y:.2} with different heights, {a:.3} and {b:.3} m. Take one away.")]
    Twice {
        /// Where, east.
        x: f64,
        /// Where, north.
        y: f64,
        /// One height.
        a: f64,
        /// The other.
        b: f64,
    },
    /// A figure that is none.
    #[error("{0}")]
    Figure(String),
}

/// Readings and breaklines, and the grid they are laid on.
#[derive(Debug, Clone, PartialEq)]
pub struct Lay {
    /// West and south border of the grid.
    pub origin: [f64; 2],
    /// Cells from west to east.
    pub nx: usize,
    /// Cells from south to north.
    pub ny: usize,
    /// Width of a cell, metres.
    pub cell: f64,
    /// Outlines of buildings.
    pub footprints: Vec<Vec<[f64; 2]>>,
}

/// A surface on a grid; row 0 in the south.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid {
    /// How it lies.
    pub lay: Lay,
    /// What each cell is.
    pub cells: Vec<Cell>,
    /// Height of the ground in the middle of each cell; also under buildings, NaN where it is not known.
    pub z: Vec<f64>,
}

/// Readings nearer than this are one place, metres.
const SAME_PLACE_M: f64 = 1e-3;
/// Heights that differ by less are one height, metres.
const SAME_HEIGHT_M: f64 = 1e-3;
/// More than any machine should hold for one building.
pub const MOST_CELLS: usize = 20_000_000;

fn inside(ring: &[[f64; 2]], p: [f64; 2]) -> bool {
    crate::roof::shape::inside(ring, p)
}

impl Lay {
    /// Middle of a cell.
    pub fn middle(&self, k: usize) -> [f64; 2] {
        let (row, col) = (k / self.nx, k % self.nx);
        [self.origin[0] + (col as f64 + 0.5) * self.cell, self.origin[1] + (row as f64 + 0.5) * self.cell]
    }
    /// The cell over a point.
    pub fn cell_at(&self, p: [f64; 2]) -> Option<usize> {
        let (x, y) = ((p[0] - self.origin[0]) / self.cell, (p[1] - self.origin[1]) / self.cell);
        let within = x >= 0.0 && y >= 0.0 && x < self.nx as f64 && y < self.ny as f64;
        within.then(|| y as usize * self.nx + x as usize)
    }
    /// The up to eight cells around a cell, with their distance in cells.
    pub fn around(&self, k: usize) -> impl Iterator<Item = (usize, f64)> + use<> {
        around(self.nx, self.ny, k)
    }
    /// A cell on the rim of the grid.
    pub(crate) fn on_rim(&self, k: usize) -> bool {
        let (row, col) = (k / self.nx, k % self.nx);
        row == 0 || col == 0 || row + 1 == self.ny || col + 1 == self.nx
    }
}

/// The up to eight cells around a cell of a grid, with their distance in cells.
pub(crate) fn around(nx: usize, ny: usize, k: usize) -> impl Iterator<Item = (usize, f64)> {
    let (row, col) = ((k / nx) as isize, (k % nx) as isize);
    const STEPS: [(isize, isize); 8] = [(0, 1), (1, 0), (0, -1), (-1, 0), (1, 1), (1, -1), (-1, -1), (-1, 1)];
    STEPS.iter().filter_map(move |(dr, dc)| {
        let (r, c) = (row + dr, col + dc);
        let within = r >= 0 && c >= 0 && r < ny as isize && c < nx as isize;
        within.then(|| (r as usize * nx + c as usize, if dr * dc == 0 { 1.0 } else { std::f64::consts::SQRT_2 }))
    })
}

/// Lays readings on a grid. Breaklines are pairs of places in `spots` between which an edge of a triangle must run; one that
/// crosses another is left out, and counted in the second answer.
///
/// # Errors
/// [`SurfaceError`] for readings no surface goes through.
pub fn lay(spots: &[Spot], breaklines: &[[usize; 2]], lay: Lay) -> Result<(Grid, usize), SurfaceError> {
    let figure = |m: &str| Err(SurfaceError::Figure(m.to_owned()));
    if !(lay.cell > 0.0 && lay.cell.is_finite()) || lay.nx == 0 || lay.ny == 0 {
        return figure("The grid needs a cell above 0, for example 0.25 m, and an area to cover.");
    }
    if lay.nx.saturating_mul(lay.ny) > MOST_CELLS {
        return figure("That is more than twenty million cells. Choose larger cells, or a smaller area.");
    }
    if spots.iter().flatten().any(|v| !v.is_finite() || v.abs() > 1e6) {
        return figure("A reading is not a number, or a thousand kilometres away. Check its figures.");
    }
    if breaklines.iter().flatten().any(|k| *k >= spots.len()) {
        return figure("A breakline names a reading that is not there.");
    }
    let mut t = ConstrainedDelaunayTriangulation::<Vertex>::new();
    let mut handles = Vec::with_capacity(spots.len());
    // Readings one above the other are found in their order along x, not by comparing each with each.
    let mut order: Vec<usize> = (0..spots.len()).collect();
    order.sort_by(|a, b| spots[*a][0].total_cmp(&spots[*b][0]));
    for (n, k) in order.iter().enumerate() {
        let a = spots[*k];
        for o in order[n + 1..].iter().take_while(|o| spots[**o][0] - a[0] < SAME_PLACE_M) {
            let b = spots[*o];
            if (b[1] - a[1]).abs() < SAME_PLACE_M && (b[2] - a[2]).abs() > SAME_HEIGHT_M {
                return Err(SurfaceError::Twice { x: a[0], y: a[1], a: a[2], b: b[2] });
            }
        }
    }
    for s in spots {
        let v = Vertex { at: Point2::new(s[0], s[1]), z: s[2] };
        handles.push(t.insert(v).map_err(|_| SurfaceError::Figure("A reading lies where no surface can be drawn.".into()))?);
    }
    let mut crossed = 0;
    for [a, b] in breaklines {
        if handles[*a] == handles[*b] {
            continue;
        }
        if t.can_add_constraint(handles[*a], handles[*b]) {
            t.add_constraint(handles[*a], handles[*b]);
        } else {
            crossed += 1;
        }
    }
    if t.num_inner_faces() == 0 {
        return Err(SurfaceError::OnALine);
    }
    let n = lay.nx * lay.ny;
    let (mut cells, mut z) = (vec![Cell::Unknown; n], vec![f64::NAN; n]);
    // Each triangle gives its height to the cells whose middle it covers, row by row.
    for face in t.inner_faces() {
        let v = face.vertices().map(|v| *v.data());
        let p = v.map(|v| [v.at.x, v.at.y]);
        let double = (p[1][0] - p[0][0]) * (p[2][1] - p[0][1]) - (p[2][0] - p[0][0]) * (p[1][1] - p[0][1]);
        if double.abs() < 1e-12 {
            continue;
        }
        let gx = ((v[1].z - v[0].z) * (p[2][1] - p[0][1]) - (v[2].z - v[0].z) * (p[1][1] - p[0][1])) / double;
        let gy = ((v[2].z - v[0].z) * (p[1][0] - p[0][0]) - (v[1].z - v[0].z) * (p[2][0] - p[0][0])) / double;
        let row_of = |y: f64| (y - lay.origin[1]) / lay.cell - 0.5;
        let ys = p.map(|q| q[1]);
        let (low, high) = (ys[0].min(ys[1]).min(ys[2]), ys[0].max(ys[1]).max(ys[2]));
        let (first, last) = (row_of(low).ceil().max(0.0), row_of(high).floor().min(lay.ny as f64 - 1.0));
        if first > last {
            continue;
        }
        for row in first as usize..=last as usize {
            let y = lay.origin[1] + (row as f64 + 0.5) * lay.cell;
            let (mut from, mut to) = (f64::MAX, f64::MIN);
            for (a, b) in [(p[0], p[1]), (p[1], p[2]), (p[2], p[0])] {
                if y < a[1].min(b[1]) || y > a[1].max(b[1]) {
                    continue;
                }
                let level = (b[1] - a[1]).abs() < 1e-12;
                let xs = if level { [a[0], b[0]] } else { [a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]); 2] };
                from = from.min(xs[0]).min(xs[1]);
                to = to.max(xs[0]).max(xs[1]);
            }
            if from > to {
                continue;
            }
            let cols = |x: f64| (x - lay.origin[0]) / lay.cell - 0.5;
            // A middle on an edge belongs to either triangle: both give the same height there.
            let (first, last) = ((cols(from) - 1e-9).ceil().max(0.0), (cols(to) + 1e-9).floor());
            if last < 0.0 {
                continue;
            }
            for col in (first as usize)..=(last as usize).min(lay.nx - 1) {
                let x = lay.origin[0] + (col as f64 + 0.5) * lay.cell;
                let k = row * lay.nx + col;
                z[k] = v[0].z + gx * (x - p[0][0]) + gy * (y - p[0][1]);
                cells[k] = Cell::Ground;
            }
        }
    }
    for ring in &lay.footprints {
        let (low, high) = ring
            .iter()
            .fold(([f64::MAX; 2], [f64::MIN; 2]), |(l, h), p| ([l[0].min(p[0]), l[1].min(p[1])], [h[0].max(p[0]), h[1].max(p[1])]));
        let index = |v: f64, o: f64, n: usize| (((v - o) / lay.cell).floor().max(0.0) as usize).min(n - 1);
        for row in index(low[1], lay.origin[1], lay.ny)..=index(high[1], lay.origin[1], lay.ny) {
            for col in index(low[0], lay.origin[0], lay.nx)..=index(high[0], lay.origin[0], lay.nx) {
                let k = row * lay.nx + col;
                if inside(ring, lay.middle(k)) {
                    cells[k] = Cell::Wall;
                }
            }
        }
    }
    Ok((Grid { lay, cells, z }, crossed))
}

/// Water on a grid: what stands, and which way it runs.
#[derive(Debug, Clone, PartialEq)]
pub struct Flooded {
    /// Height of the ground, filled to where it runs over.
    pub filled: Vec<f64>,
    /// The next cell on the way out; itself where water leaves the known ground.
    pub next: Vec<u32>,
    /// Known cells from the outlets inward: each comes after its `next`.
    pub order: Vec<u32>,
    /// By cell: which pond it belongs to, or none.
    pub pond: Vec<u32>,
    /// The ponds.
    pub ponds: Vec<Hollow>,
}

/// A hollow of the ground.
#[derive(Debug, Clone, PartialEq)]
pub struct Hollow {
    /// Its cells, from the deepest.
    pub cells: Vec<u32>,
    /// The level at which it runs over.
    pub brim: f64,
    /// The cell where it runs over.
    pub spills_at: u32,
}

/// No pond.
pub const DRY: u32 = u32::MAX;

/// Heights in the order of a heap: `f64::total_cmp` on known heights.
#[derive(Clone, Copy, PartialEq)]
struct Level(f64);
impl Eq for Level {}
impl PartialOrd for Level {
    fn partial_cmp(&self, o: &Level) -> Option<std::cmp::Ordering> {
        Some(self.cmp(o))
    }
}
impl Ord for Level {
    fn cmp(&self, o: &Level) -> std::cmp::Ordering {
        self.0.total_cmp(&o.0)
    }
}

/// Fills the hollows of a grid from its border inward, and gives every cell its way out.
pub fn flood(g: &Grid) -> Flooded {
    let n = g.cells.len();
    let (mut filled, mut next, mut order) = (g.z.clone(), vec![DRY; n], Vec::new());
    let known = |k: usize| g.cells[k] == Cell::Ground;
    let mut heap: BinaryHeap<Reverse<(Level, u32)>> = BinaryHeap::new();
    for k in (0..n).filter(|k| known(*k)) {
        if g.at_edge(k) {
            next[k] = k as u32;
            heap.push(Reverse((Level(g.z[k]), k as u32)));
        }
    }
    while let Some(Reverse((level, k))) = heap.pop() {
        order.push(k);
        for (o, _) in g.lay.around(k as usize) {
            if known(o) && next[o] == DRY {
                filled[o] = g.z[o].max(level.0);
                next[o] = k;
                heap.push(Reverse((Level(filled[o]), o as u32)));
            }
        }
    }
    // Ground that no way leads out of (a court closed in by walls) is one hollow without a brim.
    let mut out = Flooded { filled, next, order, pond: vec![DRY; n], ponds: Vec::new() };
    steepest(g, &mut out);
    ponds(g, &mut out);
    out
}

/// Outside hollows water takes the steepest of its ways down, not the one the flood came by.
fn steepest(g: &Grid, f: &mut Flooded) {
    for k in 0..g.cells.len() {
        // Only dry ground from which there is a way out chooses.
        if g.cells[k] != Cell::Ground || f.next[k] == DRY || f.next[k] as usize == k || f.filled[k] > g.z[k] {
            continue;
        }
        let fall = |(o, d): (usize, f64)| (f.filled[k] - f.filled[o]) / d;
        let down =
            g.lay.around(k).filter(|(o, _)| g.cells[*o] == Cell::Ground && f.next[*o] != DRY).max_by(|a, b| fall(*a).total_cmp(&fall(*b)));
        if let Some(d) = down.filter(|d| fall(*d) > 0.0) {
            f.next[k] = d.0 as u32;
        }
    }
    // The order follows the ways: a cell is placed once all that run into it are, so downstream comes first when it is turned.
    let mut feeds = vec![0_u8; g.cells.len()];
    for k in &f.order {
        let n = f.next[*k as usize];
        if n != *k {
            feeds[n as usize] += 1;
        }
    }
    let mut ready: Vec<u32> = f.order.iter().copied().filter(|k| feeds[*k as usize] == 0).collect();
    f.order.clear();
    while let Some(k) = ready.pop() {
        f.order.push(k);
        let n = f.next[k as usize];
        if n != k {
            feeds[n as usize] -= 1;
            if feeds[n as usize] == 0 {
                ready.push(n);
            }
        }
    }
    f.order.reverse();
}

fn ponds(g: &Grid, f: &mut Flooded) {
    let n = g.cells.len();
    let closed = |k: usize| g.cells[k] == Cell::Ground && f.next[k] == DRY;
    let under = |k: usize| closed(k) || (g.cells[k] == Cell::Ground && f.filled[k] > g.z[k]);
    let mut found: Vec<Hollow> = Vec::new();
    for start in 0..n {
        if !under(start) || f.pond[start] != DRY {
            continue;
        }
        let id = found.len() as u32;
        let mut cells = vec![start as u32];
        f.pond[start] = id;
        let mut at = 0;
        while at < cells.len() {
            for (o, _) in g.lay.around(cells[at] as usize) {
                // Water that stands at another level is another pond, even where the two touch.
                let same = closed(start) || (f.filled[o] - f.filled[start]).abs() < 1e-9;
                if under(o) && f.pond[o] == DRY && closed(o) == closed(start) && same {
                    f.pond[o] = id;
                    cells.push(o as u32);
                }
            }
            at += 1;
        }
        let brim = if closed(start) { f64::INFINITY } else { f.filled[start] };
        let leaves = cells.iter().find(|k| f.next[**k as usize] != DRY && f.pond[f.next[**k as usize] as usize] != id);
        let spills_at = leaves.map_or(DRY, |k| f.next[*k as usize]);
        cells.sort_by(|a, b| g.z[*a as usize].total_cmp(&g.z[*b as usize]));
        found.push(Hollow { cells, brim, spills_at });
    }
    f.ponds = found;
}

impl Grid {
    /// Area of a cell, m².
    pub fn cell_m2(&self) -> f64 {
        self.lay.cell * self.lay.cell
    }
    /// Cells at the edge of what is known.
    pub(crate) fn at_edge(&self, k: usize) -> bool {
        self.lay.on_rim(k) || self.lay.around(k).any(|(o, _)| self.cells[o] == Cell::Unknown)
    }
    /// Cells at a wall.
    pub fn at_wall(&self, k: usize) -> bool {
        self.lay.around(k).any(|(o, d)| d == 1.0 && self.cells[o] == Cell::Wall)
    }
}

impl Flooded {
    /// Water over the ground, metres.
    pub fn depth(&self, g: &Grid, k: usize) -> f64 {
        if g.cells[k] == Cell::Ground && self.next[k] != DRY { (self.filled[k] - g.z[k]).max(0.0) } else { 0.0 }
    }
    /// Plan area that drains through each cell, its own with it, m².
    pub fn accumulation(&self, g: &Grid) -> Vec<f64> {
        let mut out = vec![0.0; g.cells.len()];
        for k in self.order.iter().rev() {
            let k = *k as usize;
            out[k] += g.cell_m2();
            let next = self.next[k] as usize;
            if next != k {
                out[next] += out[k];
            }
        }
        out
    }
    /// The way out from a cell, cell by cell; it ends where it leaves the known ground, or in ground closed in by walls.
    pub fn way_out(&self, from: usize) -> Vec<usize> {
        let mut out = vec![from];
        let mut k = from;
        while self.next[k] != DRY && self.next[k] as usize != k && out.len() <= self.next.len() {
            k = self.next[k] as usize;
            out.push(k);
        }
        out
    }
}

impl Hollow {
    /// Volume it holds at a level, m³.
    pub fn volume(&self, g: &Grid, level: f64) -> f64 {
        self.cells.iter().map(|k| (level - g.z[*k as usize]).max(0.0)).sum::<f64>() * g.cell_m2()
    }
    /// The level at which it holds a volume; its brim when it is more than it holds.
    pub fn level(&self, g: &Grid, volume: f64) -> f64 {
        let a = g.cell_m2();
        let mut held = 0.0;
        let mut level = g.z[self.cells[0] as usize];
        for (n, k) in self.cells.iter().enumerate().skip(1) {
            let z = g.z[*k as usize];
            let more = (z - level) * n as f64 * a;
            if held + more >= volume {
                return (level + (volume - held) / (n as f64 * a)).min(self.brim);
            }
            held += more;
            level = z;
        }
        (level + (volume - held) / (self.cells.len() as f64 * a)).min(self.brim)
    }
    /// What it holds when it runs over, m³.
    pub fn capacity(&self, g: &Grid) -> f64 {
        if self.brim.is_finite() { self.volume(g, self.brim) } else { f64::INFINITY }
    }
}
