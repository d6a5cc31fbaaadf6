//! Where water stands on a surface when all of it runs over, and which way it runs.
//!
//! Every cell runs down to a bottom or out over the border; what runs to one bottom is a basin. The lowest pass by which a basin is
//! joined to the outside (Kruskal's minimum spanning tree over the passes between basins) is the height at which it runs over, and no
//! cell of it is filled to another: whoever stands in a basin can go down to its bottom, and from there no way out is lower. So the
//! heap of a priority flood is needed for the passes only, and all that is done for every cell is done row by row, by every core.

use super::joined::Joined;
use super::surface::{Cell, Grid, STEPS};
use crate::cores::both;
use std::collections::VecDeque;

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

/// No pond, no way out, no basin.
pub const DRY: u32 = u32::MAX;
/// No way down, but water or level ground ends here at ground of the same height that may have one.
const AT_EDGE: u32 = u32::MAX - 1;
/// The basin of all that runs out over the border.
const OUTSIDE: u32 = 0;

/// Heights of the ground alone, so that nothing runs elsewhere: infinite at a wall, not a number where the ground is not known.
struct Heights<'g> {
    g: &'g Grid,
    z: Vec<f64>,
}

/// Of the eight around a cell, the ones that come later row by row: every pair of neighbours is seen from one of them once.
const LATER: [usize; 4] = [0, 1, 4, 5];

/// Works something out for every cell, by rows, in as many bands as there are cores.
fn by_rows<T: Send>(nx: usize, out: &mut [T], of: &(impl Fn(usize, usize, usize) -> T + Sync)) {
    let band = |first_row: usize, cells: &mut [T]| {
        for (r, row) in cells.chunks_mut(nx).enumerate() {
            let row_at = first_row + r;
            for (col, cell) in row.iter_mut().enumerate() {
                *cell = of(row_at, col, row_at * nx + col);
            }
        }
    };
    let rows = rows_of_a_band(nx, out.len() / nx);
    std::thread::scope(|s| {
        let mut bands = out.chunks_mut(rows * nx).enumerate();
        let own = bands.next();
        for (n, cells) in bands {
            s.spawn(move || band(n * rows, cells));
        }
        if let Some((_, cells)) = own {
            band(0, cells);
        }
    });
}

/// How many rows each core takes; all of them where dividing costs more than it saves.
fn rows_of_a_band(nx: usize, ny: usize) -> usize {
    /// Cells below which a thread is not worth starting.
    const WORTH: usize = 50_000;
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    ny.div_ceil(cores.min(nx * ny / WORTH).max(1)).max(1)
}

impl<'g> Heights<'g> {
    fn of(g: &'g Grid) -> Heights<'g> {
        let mut z = vec![0.0; g.z.len()];
        by_rows(g.lay.nx, &mut z, &|_, _, k| match g.cells[k] {
            Cell::Ground => g.z[k],
            Cell::Wall => f64::INFINITY,
            Cell::Unknown => f64::NAN,
        });
        Heights { g, z }
    }

    fn is_ground(&self, k: usize) -> bool {
        self.z[k] < f64::INFINITY
    }

    /// The eight around a cell; the cell itself in the place of one beyond the grid.
    #[inline(always)]
    fn ring(&self, row: usize, col: usize, k: usize) -> [usize; 8] {
        let (nx, ny) = (self.g.lay.nx, self.g.lay.ny);
        if row > 0 && col > 0 && row + 1 < ny && col + 1 < nx {
            // In the order of the steps; this is asked for every cell, several times.
            return [k + 1, k + nx, k - 1, k - nx, k + nx + 1, k + nx - 1, k - nx - 1, k - nx + 1];
        }
        let mut ring = [k; 8];
        for (o, (dr, dc)) in ring.iter_mut().zip(STEPS) {
            let (r, c) = (row.wrapping_add_signed(dr), col.wrapping_add_signed(dc));
            if r < ny && c < nx {
                *o = r * nx + c;
            }
        }
        ring
    }

    /// The same, for a cell whose row is not at hand.
    fn around(&self, k: u32) -> [usize; 8] {
        let nx = self.g.lay.nx as u32;
        self.ring((k / nx) as usize, (k % nx) as usize, k as usize)
    }

    /// The lowest neighbour of every cell that is lower than itself, or none; itself where water leaves.
    fn downhill(&self) -> Vec<u32> {
        let g = self.g;
        let mut down = vec![DRY; self.z.len()];
        by_rows(g.lay.nx, &mut down, &|row, col, k| {
            if !self.is_ground(k) {
                return DRY;
            }
            let ring = self.ring(row, col, k);
            let rim = row == 0 || col == 0 || row + 1 == g.lay.ny || col + 1 == g.lay.nx;
            if rim || ring.iter().any(|o| self.z[*o].is_nan()) {
                return k as u32;
            }
            let (mut low, mut at) = (self.z[k], DRY);
            for o in ring {
                if self.z[o] < low {
                    (low, at) = (self.z[o], o as u32);
                }
            }
            at
        });
        down
    }

    /// By cell: the basin it drains to, and how many basins there are, the outside with them. Level ground without a lower
    /// neighbour is one bottom.
    fn basins(&self, down: &[u32]) -> (Vec<u32>, usize) {
        let mut basin = vec![DRY; down.len()];
        let mut count = OUTSIDE + 1;
        let (mut path, mut level): (Vec<u32>, Vec<u32>) = (Vec::new(), Vec::new());
        for start in (0..down.len()).filter(|k| self.is_ground(*k)) {
            path.clear();
            let mut k = start as u32;
            let found = loop {
                let at = k as usize;
                if basin[at] != DRY {
                    break basin[at];
                }
                path.push(k);
                let next = down[at];
                if next == k {
                    break OUTSIDE;
                }
                if next != DRY {
                    k = next;
                    continue;
                }
                basin[at] = count;
                level.push(k);
                while let Some(c) = level.pop() {
                    for o in self.around(c) {
                        if down[o] == DRY && basin[o] == DRY && self.z[o] == self.z[at] {
                            basin[o] = count;
                            level.push(o as u32);
                        }
                    }
                }
                count += 1;
                break count - 1;
            };
            for k in &path {
                basin[*k as usize] = found;
            }
        }
        (basin, count as usize)
    }

    /// The level at which each basin runs over to the outside; infinite where no way leads there.
    fn levels(&self, basin: &[u32], count: usize) -> Vec<f64> {
        let mut passes = self.passes(basin);
        passes.sort_unstable_by(|p, q| p.height.total_cmp(&q.height));
        let mut level = vec![f64::INFINITY; count];
        level[OUTSIDE as usize] = f64::NEG_INFINITY;
        let mut joined = Joined::apart(count);
        // The members of a group in a ring.
        let mut ring: Vec<u32> = (0..count as u32).collect();
        for p in passes {
            let (a, b) = (joined.root(p.a), joined.root(p.b));
            if a == b {
                continue;
            }
            // The outside stays the root of its group, and of the rest the first.
            let (stays, joins) = (a.min(b), a.max(b));
            if stays == OUTSIDE {
                let mut m = joins;
                loop {
                    level[m as usize] = p.height;
                    m = ring[m as usize];
                    if m == joins {
                        break;
                    }
                }
            } else {
                ring.swap(stays as usize, joins as usize);
            }
            joined.join(joins, stays);
        }
        level
    }

    /// Where two basins touch, and at which height one crosses there.
    fn passes(&self, basin: &[u32]) -> Vec<Pass> {
        let (nx, ny) = (self.g.lay.nx, self.g.lay.ny);
        let of_rows = |rows: std::ops::Range<usize>| {
            let mut out = Vec::new();
            for row in rows {
                for col in 0..nx {
                    let k = row * nx + col;
                    if !self.is_ground(k) {
                        continue;
                    }
                    let ring = self.ring(row, col, k);
                    for o in LATER.map(|n| ring[n]) {
                        if basin[o] != basin[k] && self.is_ground(o) {
                            out.push(Pass { height: self.z[k].max(self.z[o]), a: basin[k], b: basin[o] });
                        }
                    }
                }
            }
            out
        };
        let rows = rows_of_a_band(nx, ny);
        std::thread::scope(|s| {
            let bands: Vec<_> = (0..ny).step_by(rows).map(|first| s.spawn(move || of_rows(first..(first + rows).min(ny)))).collect();
            // A panic of another thread is this one's.
            bands.into_iter().flat_map(|b| b.join().unwrap_or_else(|e| std::panic::resume_unwind(e))).collect()
        })
    }
}

/// A place where water can cross from one basin to another.
struct Pass {
    height: f64,
    a: u32,
    b: u32,
}

/// Fills the hollows of a grid to where they run over, and gives every cell its way out.
pub fn flood(g: &Grid) -> Flooded {
    let heights = Heights::of(g);
    let down = heights.downhill();
    let (basin, count) = heights.basins(&down);
    let level = heights.levels(&basin, count);
    let nx = g.lay.nx;
    // Ground that no way leads out of (a court closed in by walls) is one hollow without a brim.
    let runs_out = |k: usize| heights.is_ground(k) && level[basin[k] as usize] < f64::INFINITY;
    let mut filled = vec![0.0; g.z.len()];
    by_rows(nx, &mut filled, &|_, _, k| if runs_out(k) { g.z[k].max(level[basin[k] as usize]) } else { g.z[k] });
    // Water takes the steepest of its ways down.
    let mut next = vec![DRY; g.z.len()];
    by_rows(nx, &mut next, &|row, col, k| {
        if !runs_out(k) {
            return DRY;
        }
        if down[k] as usize == k {
            return k as u32;
        }
        let (mut best, mut at) = (0.0, DRY);
        for (n, o) in heights.ring(row, col, k).into_iter().enumerate() {
            let fall = filled[k] - filled[o];
            if fall > 0.0 && heights.is_ground(o) {
                let fall = if n < 4 { fall } else { fall / std::f64::consts::SQRT_2 };
                if fall >= best {
                    (best, at) = (fall, o as u32);
                }
            } else if fall == 0.0 && at == DRY && o != k && heights.z[o] == filled[o] {
                at = AT_EDGE;
            }
        }
        at
    });
    // Which cells stand under one water, and how it leads on over them, are two things: each to its own core.
    let ways = || {
        over_level(&heights, &runs_out, &filled, &mut next);
        downstream_first(&next)
    };
    let (order, (pond, cells)) = both(ways, || ponds(&heights, &runs_out, &filled));
    let hollow = |(id, cells): (usize, Vec<u32>)| {
        let first = cells[0] as usize;
        let leaves = cells.iter().map(|k| next[*k as usize]).find(|n| *n != DRY && pond[*n as usize] != id as u32);
        Hollow { brim: if runs_out(first) { filled[first] } else { f64::INFINITY }, spills_at: leaves.unwrap_or(DRY), cells }
    };
    let ponds = cells.into_iter().enumerate().map(hollow).collect();
    Flooded { filled, next, order, pond, ponds }
}

/// Over standing water and level ground the shortest way to where it leads on.
fn over_level(heights: &Heights<'_>, runs_out: &impl Fn(usize) -> bool, filled: &[f64], next: &mut [u32]) {
    let level = |k: usize, o: usize| filled[o] == filled[k] && next[o] < AT_EDGE;
    let at_edge = (0..next.len()).filter(|k| next[*k] == AT_EDGE);
    let edge: Vec<(u32, u32)> =
        at_edge.map(|k| (k as u32, heights.around(k as u32).into_iter().find(|o| level(k, *o)).map_or(DRY, |o| o as u32))).collect();
    // Those at the edge first, all of them before any that lies farther in.
    let mut ring: VecDeque<u32> = VecDeque::with_capacity(edge.len());
    for (k, o) in edge {
        next[k as usize] = o;
        if o != DRY {
            ring.push_back(k);
        }
    }
    while let Some(k) = ring.pop_front() {
        let level = filled[k as usize];
        for o in heights.around(k) {
            if next[o] == DRY && filled[o] == level && runs_out(o) {
                next[o] = k;
                ring.push_back(o as u32);
            }
        }
    }
}

/// The cells that have a way out, each after the one it runs to.
fn downstream_first(next: &[u32]) -> Vec<u32> {
    let mut feeds = vec![0_u8; next.len()];
    let mut count = 0;
    for (k, n) in next.iter().enumerate().filter(|(_, n)| **n != DRY) {
        count += 1;
        if *n as usize != k {
            feeds[*n as usize] += 1;
        }
    }
    // From every cell that nothing runs to, down to where another way comes in that was not walked yet.
    let mut order = Vec::with_capacity(count);
    let sources: Vec<u32> = (0..next.len()).filter(|k| next[*k] != DRY && feeds[*k] == 0).map(|k| k as u32).collect();
    for mut k in sources {
        loop {
            order.push(k);
            let n = next[k as usize];
            if n == k {
                break;
            }
            feeds[n as usize] -= 1;
            if feeds[n as usize] > 0 {
                break;
            }
            k = n;
        }
    }
    order.reverse();
    order
}

/// Levels that differ by less are one, metres.
const SAME_LEVEL_M: f64 = 1e-9;

/// By cell the pond it belongs to, and the cells of each from the deepest: what lies under water at one level and touches.
fn ponds(heights: &Heights<'_>, runs_out: &(impl Fn(usize) -> bool + Sync), filled: &[f64]) -> (Vec<u32>, Vec<Vec<u32>>) {
    let z = &heights.z;
    // Ground closed in is under water that never runs over.
    let stands = |k: usize| if runs_out(k) { filled[k] } else { f64::INFINITY };
    let mut pond = vec![DRY; z.len()];
    let mut all: Vec<Vec<u32>> = Vec::new();
    for start in 0..z.len() {
        if pond[start] != DRY || !heights.is_ground(start) || stands(start) <= z[start] {
            continue;
        }
        let (id, level) = (all.len() as u32, stands(start));
        let mut cells = vec![start as u32];
        pond[start] = id;
        let mut at = 0;
        while at < cells.len() {
            for o in heights.around(cells[at]) {
                // Water that stands at another level is another pond, even where the two touch; what rounding puts between two
                // brims of level ground is no other level.
                let as_high = stands(o) == level || (stands(o) - level).abs() < SAME_LEVEL_M;
                if pond[o] == DRY && z[o] < stands(o) && as_high {
                    pond[o] = id;
                    cells.push(o as u32);
                }
            }
            at += 1;
        }
        all.push(cells);
    }
    for cells in &mut all {
        let mut by_height: Vec<(f64, u32)> = cells.iter().map(|k| (z[*k as usize], *k)).collect();
        by_height.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        cells.clear();
        cells.extend(by_height.into_iter().map(|c| c.1));
    }
    (pond, all)
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
