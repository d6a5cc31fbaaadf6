//! Where water stands on a surface when all of it runs over, and which way it runs.
//!
//! Hollows are filled from the border inward (priority flood over eight neighbours); every cell then has a way out that never rises,
//! and what was filled is what stands.

use super::surface::{Cell, Grid};
use std::cmp::Reverse;
use std::collections::BinaryHeap;

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
