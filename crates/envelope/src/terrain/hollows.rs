//! Hollows inside hollows, as a tree: which cells drain where, at what height each hollow runs over and into which, and which two
//! become one water when both stand at the brim between them.
//!
//! Water runs by the heights of the ground alone, down the steepest of eight ways; over level ground the shortest way to a lower
//! place. A leaf of the tree is a hollow with one bottom; a branch is two that have joined. Brims are found in the order of their
//! heights (Kruskal's minimum spanning tree over the passes between basins), so that equal brims are no special case.

use super::joined::Joined;
use super::surface::around;
use std::collections::VecDeque;

/// No cell, no basin.
pub(crate) const NONE: u32 = u32::MAX;

/// Ground as water meets it.
#[derive(Debug, Clone)]
pub(crate) struct Land {
    pub(crate) nx: usize,
    pub(crate) ny: usize,
    /// Side of a cell, metres.
    pub(crate) cell_m: f64,
    /// Height; not a number where there is no land.
    pub(crate) z: Vec<f64>,
    /// Water that reaches it and is not taken there leaves.
    pub(crate) open: Vec<bool>,
}

impl Land {
    pub(crate) fn cell_m2(&self) -> f64 {
        self.cell_m * self.cell_m
    }
    pub(crate) fn is_land(&self, k: usize) -> bool {
        !self.z[k].is_nan()
    }
    /// The up to eight cells of land around one, with their distance in cells.
    pub(crate) fn around(&self, k: usize) -> impl Iterator<Item = (usize, f64)> + '_ {
        around(self.nx, self.ny, k).filter(|(o, _)| self.is_land(*o))
    }
}

/// How a hollow runs over.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Brim {
    /// Its height.
    pub(crate) height: f64,
    /// The cell that is crossed at its height, and the first one beyond it.
    pub(crate) over: u32,
    pub(crate) beyond: u32,
}

/// A hollow, or two that have joined.
#[derive(Debug, Clone)]
pub(crate) struct Node {
    /// The two it joins; none for a hollow with one bottom.
    pub(crate) parts: Option<[usize; 2]>,
    /// What it becomes part of when it stands at its brim and the other part does too.
    pub(crate) whole: Option<usize>,
    /// None where walls close it in and nothing leads out.
    pub(crate) brim: Option<Brim>,
    /// Its cells under the brim, from the lowest.
    pub(crate) cells: Vec<u32>,
    /// Volume under the height of each cell, m³.
    under: Vec<f64>,
    /// What it holds at its brim, m³.
    pub(crate) holds: f64,
    /// Its lowest cell: of equal ones the first row, then the first column.
    pub(crate) lowest: u32,
}

/// The tree, and the way of every cell.
#[derive(Debug, Clone)]
pub(crate) struct Hollows {
    /// The next cell on the way down; itself at a bottom or over an open cell.
    pub(crate) down: Vec<u32>,
    /// Cells of land so that each comes before the one it runs to.
    pub(crate) order: Vec<u32>,
    /// By cell: the leaf it drains to, or none where it drains over an open cell.
    pub(crate) basin: Vec<u32>,
    /// The leaves first.
    pub(crate) nodes: Vec<Node>,
    pub(crate) leaves: usize,
}

impl Node {
    /// Volume at a level, m³.
    pub(crate) fn volume(&self, land: &Land, level: f64) -> f64 {
        let n = self.cells.partition_point(|k| land.z[*k as usize] < level);
        if n == 0 { 0.0 } else { self.under[n - 1] + n as f64 * land.cell_m2() * (level - land.z[self.cells[n - 1] as usize]) }
    }
    /// The level at which it holds a volume; never over its brim.
    pub(crate) fn level(&self, land: &Land, volume: f64) -> f64 {
        let n = self.under.partition_point(|u| *u < volume).max(1);
        let z = land.z[self.cells[n - 1] as usize];
        let level = z + (volume - self.under[n - 1]) / (n as f64 * land.cell_m2());
        self.brim.map_or(level, |b| level.min(b.height))
    }
    /// How many of its cells lie under a level.
    pub(crate) fn wetted(&self, land: &Land, level: f64) -> usize {
        self.cells.partition_point(|k| land.z[*k as usize] < level)
    }
}

/// The way down of every cell: steepest first, then over level ground to the nearest lower place.
fn ways(land: &Land) -> Vec<u32> {
    let n = land.z.len();
    let mut down = vec![NONE; n];
    let mut level: VecDeque<usize> = VecDeque::new();
    for k in (0..n).filter(|k| land.is_land(*k)) {
        if land.open[k] {
            down[k] = k as u32;
            level.push_back(k);
            continue;
        }
        let mut best = (0.0, NONE);
        for (o, d) in land.around(k) {
            let fall = (land.z[k] - land.z[o]) / d;
            if fall > best.0 {
                best = (fall, o as u32);
            }
        }
        if best.1 != NONE {
            down[k] = best.1;
            level.push_back(k);
        }
    }
    // Level ground is reached from its lower edge inward, the nearest first.
    while let Some(k) = level.pop_front() {
        for (o, _) in land.around(k) {
            if down[o] == NONE && land.z[o] == land.z[k] {
                down[o] = k as u32;
                level.push_back(o);
            }
        }
    }
    down
}

impl Hollows {
    pub(crate) fn of(land: &Land) -> Hollows {
        let n = land.z.len();
        let mut down = ways(land);
        // What is left over is a bottom: level patches without a lower neighbour, each around its first cell.
        let mut basin = vec![NONE; n];
        let mut bottoms: Vec<u32> = Vec::new();
        for k in 0..n {
            if !land.is_land(k) || down[k] != NONE {
                continue;
            }
            let id = bottoms.len() as u32;
            bottoms.push(k as u32);
            down[k] = k as u32;
            basin[k] = id;
            let mut ring = VecDeque::from([k]);
            while let Some(c) = ring.pop_front() {
                for (o, _) in land.around(c) {
                    if down[o] == NONE && land.z[o] == land.z[k] {
                        down[o] = c as u32;
                        basin[o] = id;
                        ring.push_back(o);
                    }
                }
            }
        }
        let order = downstream(land, &down);
        // From the bottoms upward every cell drains to the basin of the next; over an open cell to none.
        for k in order.iter().rev().map(|k| *k as usize) {
            let next = down[k] as usize;
            if next != k {
                basin[k] = basin[next];
            }
        }
        let leaves = bottoms.len();
        let mut out = Hollows { down, order, basin, nodes: Vec::new(), leaves };
        out.grow(land, &bottoms);
        out
    }

    /// Joins basins over their passes, the lowest first.
    fn grow(&mut self, land: &Land, bottoms: &[u32]) {
        struct Pass {
            height: f64,
            a: u32,
            b: u32,
        }
        let outside = self.leaves;
        let mut passes: Vec<Pass> = Vec::new();
        for k in 0..land.z.len() {
            if !land.is_land(k) {
                continue;
            }
            for (o, _) in land.around(k).filter(|(o, _)| *o > k) {
                if self.basin[k] != self.basin[o] {
                    passes.push(Pass { height: land.z[k].max(land.z[o]), a: k as u32, b: o as u32 });
                }
            }
        }
        let out = |p: &Pass| self.basin[p.a as usize] == NONE || self.basin[p.b as usize] == NONE;
        // Of equal passes the one that leads out comes first: there is nothing to be filled beyond it.
        passes.sort_by(|p, q| p.height.total_cmp(&q.height).then(out(q).cmp(&out(p))));
        let node = |parts, lowest| Node { parts, whole: None, brim: None, cells: vec![], under: vec![], holds: f64::INFINITY, lowest };
        self.nodes = bottoms.iter().map(|b| node(None, *b)).collect();
        let mut joined = Joined::apart(outside + 1);
        // The node that stands for a group of basins; the group of the outside has none.
        let mut stands: Vec<Option<usize>> = (0..outside).map(Some).chain([None]).collect();
        let group = |joined: &mut Joined, basin: u32| joined.root(if basin == NONE { outside as u32 } else { basin });
        for p in passes {
            let (a, b) = (group(&mut joined, self.basin[p.a as usize]), group(&mut joined, self.basin[p.b as usize]));
            if a == b {
                continue;
            }
            let higher = if land.z[p.a as usize] >= land.z[p.b as usize] { p.a } else { p.b };
            let brim = |beyond: u32| Brim { height: p.height, over: higher, beyond };
            let (na, nb) = (stands[a as usize], stands[b as usize]);
            if let Some(x) = na {
                self.nodes[x].brim = Some(brim(p.b));
            }
            if let Some(y) = nb {
                self.nodes[y].brim = Some(brim(p.a));
            }
            joined.join(a, b);
            stands[b as usize] = match (na, nb) {
                (Some(x), Some(y)) => {
                    let whole = self.nodes.len();
                    let low = |x: usize| (self.nodes[x].lowest, land.z[self.nodes[x].lowest as usize]);
                    let (l, m) = (low(x), low(y));
                    let lowest = if l.1 < m.1 || (l.1 == m.1 && l.0 < m.0) { l.0 } else { m.0 };
                    self.nodes.push(node(Some([x, y]), lowest));
                    (self.nodes[x].whole, self.nodes[y].whole) = (Some(whole), Some(whole));
                    Some(whole)
                }
                _ => None,
            };
        }
        self.fill(land);
    }

    /// Gives every node its cells under the brim and what they hold.
    fn fill(&mut self, land: &Land) {
        let mut above: Vec<Vec<u32>> = vec![Vec::new(); self.nodes.len()];
        for (k, b) in self.basin.iter().enumerate().filter(|(_, b)| **b != NONE) {
            above[*b as usize].push(k as u32);
        }
        for i in 0..self.nodes.len() {
            // What lay over the brims of the parts may lie under this one.
            let mut cells = std::mem::take(&mut above[i]);
            if let Some([a, b]) = self.nodes[i].parts {
                cells.extend(self.nodes[a].cells.iter().chain(&self.nodes[b].cells));
            }
            let brim = self.nodes[i].brim.map_or(f64::INFINITY, |b| b.height);
            let (mut under, over): (Vec<u32>, Vec<u32>) = cells.into_iter().partition(|k| land.z[*k as usize] < brim);
            if let Some(w) = self.nodes[i].whole {
                above[w].extend(over);
            }
            under.sort_by(|a, b| land.z[*a as usize].total_cmp(&land.z[*b as usize]));
            if under.is_empty() {
                under.push(self.nodes[i].lowest);
            }
            let mut volume = 0.0;
            let mut below = Vec::with_capacity(under.len());
            for (n, k) in under.iter().enumerate() {
                if n > 0 {
                    volume += n as f64 * land.cell_m2() * (land.z[*k as usize] - land.z[under[n - 1] as usize]);
                }
                below.push(volume);
            }
            let node = &mut self.nodes[i];
            (node.cells, node.under) = (under, below);
            if brim.is_finite() {
                node.holds = node.volume(land, brim);
            }
        }
    }
}

/// Cells of land so that each comes before the one it runs to.
fn downstream(land: &Land, down: &[u32]) -> Vec<u32> {
    let mut feeds = vec![0_u8; down.len()];
    for k in (0..down.len()).filter(|k| land.is_land(*k) && down[*k] as usize != *k) {
        feeds[down[k] as usize] += 1;
    }
    let mut out: Vec<u32> = (0..down.len()).filter(|k| land.is_land(*k) && feeds[*k] == 0).map(|k| k as u32).collect();
    let mut at = 0;
    while at < out.len() {
        let next = down[out[at] as usize] as usize;
        if next != out[at] as usize {
            feeds[next] -= 1;
            if feeds[next] == 0 {
                out.push(next as u32);
            }
        }
        at += 1;
    }
    out
}

#[cfg(test)]
mod tests {
    use super::super::flood::{DRY, flood};
    use super::super::surface::{Cell, Grid, Lay};
    use super::*;
    use proptest::prelude::*;

    /// Steps of 10 cm, so that brims, bottoms and ways are often equally high; here and there ground that is not known, or a wall.
    fn any_ground() -> impl Strategy<Value = Grid> {
        (3_usize..14, 3_usize..14).prop_flat_map(|(nx, ny)| {
            let cell = prop_oneof![12 => (0_u32..8).prop_map(|z| (Cell::Ground, f64::from(z) * 0.1)), 1 => Just((Cell::Unknown, f64::NAN)), 2 => Just((Cell::Wall, 0.0))];
            proptest::collection::vec(cell, nx * ny).prop_map(move |cells| Grid {
                lay: Lay { origin: [0.0, 0.0], nx, ny, cell: 0.5, footprints: vec![] },
                z: cells.iter().map(|c| c.1).collect(),
                cells: cells.into_iter().map(|c| c.0).collect(),
            })
        })
    }

    /// The same ground as the tree takes it: water leaves over the border and beside ground that is not known.
    fn land(g: &Grid) -> Land {
        let (nx, ny) = (g.lay.nx, g.lay.ny);
        let is = |k: usize, what: Cell| g.cells[k] == what;
        let z: Vec<f64> = (0..g.z.len()).map(|k| if is(k, Cell::Ground) { g.z[k] } else { f64::NAN }).collect();
        let rim = |k: usize| k < nx || k >= nx * (ny - 1) || k.is_multiple_of(nx) || (k + 1).is_multiple_of(nx);
        let open = (0..z.len()).map(|k| is(k, Cell::Ground) && (rim(k) || around(nx, ny, k).any(|(o, _)| is(o, Cell::Unknown))));
        Land { nx, ny, cell_m: g.lay.cell, open: open.collect(), z }
    }

    /// The hollow a basin is part of when all have run over.
    fn whole(h: &Hollows, basin: u32) -> &Node {
        let mut node = &h.nodes[basin as usize];
        while let Some(w) = node.whole {
            node = &h.nodes[w];
        }
        node
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

        // Two ways to the same water: the tree, hollow by hollow, and the flood, all at once.
        #[test]
        fn a_tree_that_has_run_over_stands_as_the_flood_does(g in any_ground()) {
            let (land, f) = (land(&g), flood(&g));
            let h = Hollows::of(&land);
            for k in (0..g.z.len()).filter(|k| land.is_land(*k)) {
                match h.basin[k] {
                    NONE => prop_assert_eq!(f.filled[k], g.z[k], "cell {} runs out and holds nothing", k),
                    b => match whole(&h, b).brim {
                        Some(brim) => prop_assert_eq!(f.filled[k], g.z[k].max(brim.height), "cell {}", k),
                        None => prop_assert_eq!(f.next[k], DRY, "nothing leads out of the court of cell {}", k),
                    },
                }
            }
            let held: f64 = h.nodes.iter().filter(|n| n.whole.is_none() && n.brim.is_some()).map(|n| n.holds).sum();
            let filled: f64 = (0..g.z.len()).filter(|k| land.is_land(*k)).map(|k| f.filled[k] - g.z[k]).sum();
            prop_assert!((held - filled * land.cell_m2()).abs() < 1e-9, "{held} m³ in the tree, {} in the flood", filled * land.cell_m2());
        }

        // A hollow with two parts holds what they hold and what lies over the pass between them; its level gives its volume back.
        #[test]
        fn a_hollow_holds_its_parts_and_more(g in any_ground(), share in 0.0..1.0_f64) {
            let land = land(&g);
            let h = Hollows::of(&land);
            for n in &h.nodes {
                if let Some([a, b]) = n.parts {
                    let parts = h.nodes[a].holds + h.nodes[b].holds;
                    prop_assert!(n.holds >= parts - 1e-9, "{} m³ of parts of {} m³", parts, n.holds);
                    let pass = h.nodes[a].brim.unwrap().height;
                    prop_assert_eq!(h.nodes[b].brim.unwrap().height, pass);
                    prop_assert!((n.volume(&land, pass) - parts).abs() < 1e-9, "at the pass it holds what its parts do");
                }
                if let Some(brim) = n.brim {
                    let volume = share * n.holds;
                    let level = n.level(&land, volume);
                    prop_assert!((n.volume(&land, level) - volume).abs() < 1e-9 && level <= brim.height);
                    prop_assert!(n.cells.iter().all(|k| land.z[*k as usize] < brim.height || *k == n.lowest));
                }
            }
            // Each comes before the one it runs to, and none is left out.
            let mut place = vec![usize::MAX; land.z.len()];
            h.order.iter().enumerate().for_each(|(n, k)| place[*k as usize] = n);
            for k in (0..land.z.len()).filter(|k| land.is_land(*k)) {
                let next = h.down[k] as usize;
                prop_assert!(place[k] < usize::MAX && (next == k || place[k] < place[next]) && land.z[next] <= land.z[k]);
            }
        }
    }
}
