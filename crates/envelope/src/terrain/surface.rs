//! The surface of the ground: a triangulation of the readings, laid on a grid, with buildings as walls.
//!
//! Triangles are Delaunay's, held by the breaklines that were given. Cells inside a building are walls and carry no water; cells
//! outside the readings are not known. Known cells at the border let water out.

use spade::{ConstrainedDelaunayTriangulation, HasPosition, Point2, Triangulation};

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

/// The eight around a cell, the four that share a side first: rows and columns away.
pub(crate) const STEPS: [(isize, isize); 8] = [(0, 1), (1, 0), (0, -1), (-1, 0), (1, 1), (1, -1), (-1, -1), (-1, 1)];

/// The up to eight cells around a cell of a grid, with their distance in cells.
pub(crate) fn around(nx: usize, ny: usize, k: usize) -> impl Iterator<Item = (usize, f64)> {
    let (row, col) = ((k / nx) as isize, (k % nx) as isize);
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

/// The height over the origin of the plane that lies nearest to points (least squares); none where they lie on one line.
fn plane_at_origin(points: &[[f64; 3]]) -> Option<f64> {
    let n = points.len() as f64;
    let mean = [0, 1, 2].map(|k| points.iter().map(|p| p[k]).sum::<f64>() / n);
    let sum = |i: usize, k: usize| points.iter().map(|p| (p[i] - mean[i]) * (p[k] - mean[k])).sum::<f64>();
    let (xx, xy, yy, xz, yz) = (sum(0, 0), sum(0, 1), sum(1, 1), sum(0, 2), sum(1, 2));
    let det = xx * yy - xy * xy;
    // Middles of cells stand whole steps apart.
    (det > 1e-6).then(|| mean[2] - (mean[0] * (xz * yy - yz * xy) + mean[1] * (yz * xx - xz * xy)) / det)
}

impl Grid {
    /// Area of a cell, m².
    pub fn cell_m2(&self) -> f64 {
        self.lay.cell * self.lay.cell
    }
    /// The height at a point: between the middles of the four cells around it. Where one of them is not known, on the plane through those
    /// that are, no farther than a cell beyond them; none farther out.
    pub fn height_at(&self, p: [f64; 2]) -> Option<f64> {
        let known = |col: f64, row: f64| {
            let within = col >= 0.0 && row >= 0.0 && col < self.lay.nx as f64 && row < self.lay.ny as f64;
            within.then(|| self.z[row as usize * self.lay.nx + col as usize]).filter(|z| z.is_finite())
        };
        let [u, v] = [0, 1].map(|i| (p[i] - self.lay.origin[i]) / self.lay.cell - 0.5);
        let (col, row) = (u.floor(), v.floor());
        let (right, up) = (u - col, v - row);
        let four = [known(col, row), known(col + 1.0, row), known(col, row + 1.0), known(col + 1.0, row + 1.0)];
        if let [Some(a), Some(b), Some(c), Some(d)] = four {
            return Some((a + (b - a) * right) * (1.0 - up) + (c + (d - c) * right) * up);
        }
        let (col, row) = (u.round(), v.round());
        let near = |reach: i32| {
            let around = (-reach..=reach).flat_map(move |r| (-reach..=reach).map(move |c| (col + f64::from(c), row + f64::from(r))));
            around.filter_map(|(c, r)| Some([c - u, r - v, known(c, r)?])).collect::<Vec<_>>()
        };
        if near(1).is_empty() { None } else { plane_at_origin(&near(2)).or_else(|| known(col, row)) }
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
