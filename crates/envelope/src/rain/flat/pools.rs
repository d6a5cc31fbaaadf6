//! Standing water on a roof that hardly falls: which hollows fill, how high each stands over its outlets, what runs over into which,
//! and how long it takes to leave.
//!
//! Every hollow is a level pool; what it holds at a level follows from the grid. Outlets take what their head drives through them.
//! A pool that stands at its brim runs over into its neighbour, or over the edge of the roof; two that run over into one another are
//! one. Water is neither made nor lost: what comes in leaves by an outlet or an edge, or stands.

use crate::gutter::G;
use crate::gutter::downspout::Bore;
use crate::terrain::hollows::{Hollows, Land, NONE};

/// The opening water leaves by.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Mouth {
    /// An inner drain: a weir all round while shallow, an orifice when drowned; never more than its pipe takes at a third full.
    Drain {
        /// Its bore.
        bore: Bore,
        /// A strainer lies over it.
        strainer: bool,
    },
    /// An opening through a parapet, metres wide and high.
    Scupper {
        /// Along the parapet.
        width_m: f64,
        /// To its top.
        height_m: f64,
    },
}

/// Weir of an opening in a wall, by the drainage standard: L/s = b·h^1.5 / 24,000 in millimetres.
const WEIR: f64 = 31.622_776_601_683_793 / 24.0;
/// Contraction of a drowned opening in a wall; the usual figure.
const DROWNED: f64 = 0.6;

impl Mouth {
    /// What it takes at a head over its sill, m³/s.
    ///
    /// A drowned scupper's head is measured to the middle of its opening.
    pub(crate) fn takes(self, head_m: f64) -> f64 {
        let h = head_m.max(0.0);
        match self {
            Mouth::Drain { bore, strainer } => bore.takes_l_s(h * 1000.0, strainer).min(bore.pipe_l_s()) / 1000.0,
            Mouth::Scupper { width_m, height_m } => {
                let weir = WEIR * width_m * h.powf(1.5);
                if h <= height_m { weir } else { weir.min(DROWNED * width_m * height_m * (2.0 * G * (h - height_m / 2.0)).sqrt()) }
            }
        }
    }
}

/// An outlet in its hollow.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Sill {
    /// The hollow it stands in; none where its place drains over an edge.
    pub(crate) leaf: Option<usize>,
    /// The height water must pass, metres.
    pub(crate) height_m: f64,
    /// The opening.
    pub(crate) mouth: Mouth,
    /// Nothing goes through it.
    pub(crate) shut: bool,
}

/// Where what runs over a brim goes.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Over {
    Leaf(usize),
    /// The cell of the edge it leaves by.
    Edge(usize),
    /// Nowhere: walls close it in.
    Stays,
}

/// The hollows of a roof with their outlets.
pub(crate) struct Pools<'a> {
    land: &'a Land,
    hollows: &'a Hollows,
    sills: &'a [Sill],
    over: Vec<Over>,
    /// By node: its outlets.
    of: Vec<Vec<usize>>,
}

/// A pool, where it stands.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Pool {
    /// The node of the tree.
    pub(crate) node: usize,
    /// Its level, metres.
    pub(crate) level_m: f64,
    /// What it holds, m³.
    pub(crate) volume_m3: f64,
    /// It runs over its brim.
    pub(crate) over: bool,
}

/// Water under rain that does not change.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Standing {
    /// Every pool that holds something.
    pub(crate) pools: Vec<Pool>,
    /// By outlet, m³/s.
    pub(crate) outlets: Vec<f64>,
    /// Over an edge: the cell, m³/s.
    pub(crate) edges: Vec<(usize, f64)>,
    /// What has no way out and would rise for ever, m³/s.
    pub(crate) stays: f64,
}

/// Less is nothing, m³ or m³/s: a thousandth of a millilitre.
const NOTHING: f64 = 1e-12;
/// A pool without any brim is asked no higher than this above its bottom, metres.
const DEEPEST_M: f64 = 5.0;

/// Where water from a cell ends: the leaf of the tree, or the open cell it leaves by.
pub(crate) fn ends_in(land: &Land, hollows: &Hollows, from: usize) -> Result<usize, usize> {
    let leaf = hollows.basin[from];
    if leaf != NONE {
        return Ok(leaf as usize);
    }
    let mut k = from;
    while hollows.down[k] as usize != k && !land.open[k] {
        k = hollows.down[k] as usize;
    }
    Err(k)
}

impl<'a> Pools<'a> {
    pub(crate) fn new(land: &'a Land, hollows: &'a Hollows, sills: &'a [Sill]) -> Pools<'a> {
        let over = hollows.nodes.iter().map(|n| {
            n.brim.map_or(Over::Stays, |b| match ends_in(land, hollows, b.beyond as usize) {
                Ok(leaf) => Over::Leaf(leaf),
                Err(cell) => Over::Edge(cell),
            })
        });
        let mut of: Vec<Vec<usize>> = vec![Vec::new(); hollows.nodes.len()];
        for (k, s) in sills.iter().enumerate() {
            let mut at = s.leaf;
            while let Some(n) = at {
                of[n].push(k);
                at = hollows.nodes[n].whole;
            }
        }
        Pools { land, hollows, sills, over: over.collect(), of }
    }

    /// What an outlet takes while water stands at a level, m³/s.
    fn takes(&self, sill: usize, level: f64) -> f64 {
        let s = &self.sills[sill];
        if s.shut { 0.0 } else { s.mouth.takes(level - s.height_m) }
    }

    /// What all outlets of a node take at a level, m³/s.
    fn leaves_by(&self, node: usize, level: f64) -> f64 {
        self.of[node].iter().map(|k| self.takes(*k, level)).sum()
    }

    fn bottom(&self, node: usize) -> f64 {
        self.land.z[self.hollows.nodes[node].lowest as usize]
    }

    fn brim(&self, node: usize) -> f64 {
        self.hollows.nodes[node].brim.map_or(self.bottom(node) + DEEPEST_M, |b| b.height)
    }

    /// The least height at which water of a node leaves it: the lowest outlet that is open, or its brim.
    fn lowest_way(&self, node: usize) -> f64 {
        self.of[node].iter().filter(|k| !self.sills[**k].shut).map(|k| self.sills[*k].height_m).fold(self.brim(node), f64::min)
    }

    /// The level at which outlets take so much; the brim when they do not.
    fn level_for(&self, node: usize, comes: f64) -> f64 {
        let (mut low, mut high) = (self.lowest_way(node).max(self.bottom(node)), self.brim(node));
        if self.leaves_by(node, high) <= comes {
            return high;
        }
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if self.leaves_by(node, middle) < comes { low = middle } else { high = middle }
        }
        high
    }

    /// The pools when as much leaves as comes: by leaf, m³/s. Hollows below every outlet are full.
    pub(crate) fn steady(&self, comes: &[f64]) -> Standing {
        let n = self.hollows.nodes.len();
        let mut stands: Vec<usize> = (0..self.hollows.leaves).collect();
        let (mut inflow, mut excess);
        loop {
            let mut active: Vec<usize> = stands.clone();
            active.sort_unstable();
            active.dedup();
            let mut own = vec![0.0; n];
            for (leaf, q) in comes.iter().enumerate() {
                own[stands[leaf]] += q;
            }
            let most: Vec<f64> = (0..n).map(|i| self.leaves_by(i, self.brim(i))).collect();
            (inflow, excess) = (own.clone(), vec![0.0; n]);
            // What runs over comes on top elsewhere; without two that run into one another this ends after as many rounds as there
            // are pools in a row.
            let mut settled = false;
            for _ in 0..active.len() + 2 {
                let mut next = own.clone();
                for i in &active {
                    excess[*i] = if self.over[*i] == Over::Stays { 0.0 } else { (inflow[*i] - most[*i]).max(0.0) };
                    if let Over::Leaf(leaf) = self.over[*i] {
                        next[stands[leaf]] += excess[*i];
                    }
                }
                settled = next.iter().zip(&inflow).all(|(a, b)| (a - b).abs() <= NOTHING);
                inflow = next;
                if settled {
                    break;
                }
            }
            let both = |w: usize| self.hollows.nodes[w].parts.is_some_and(|p| p.iter().all(|i| active.contains(i) && excess[*i] > NOTHING));
            let joins = (0..n).find(|w| !settled && both(*w));
            match joins {
                Some(whole) => self.stand_for(whole, &mut stands),
                None => break,
            }
        }
        let mut active: Vec<usize> = stands;
        active.sort_unstable();
        active.dedup();
        let mut out = Standing { pools: Vec::new(), outlets: vec![0.0; self.sills.len()], edges: Vec::new(), stays: 0.0 };
        for i in active.into_iter().filter(|i| inflow[*i] > NOTHING) {
            let over = excess[i] > NOTHING;
            let level_m = if over { self.brim(i) } else { self.level_for(i, inflow[i]) };
            // What the level gives for the outlets is scaled to what comes, so that nothing is made by rounding.
            let all = self.leaves_by(i, level_m);
            let through = (inflow[i] - excess[i]).min(if self.over[i] == Over::Stays { all } else { f64::INFINITY });
            for k in &self.of[i] {
                out.outlets[*k] += if all > 0.0 { self.takes(*k, level_m) / all * through } else { 0.0 };
            }
            match self.over[i] {
                Over::Edge(cell) if over => out.edges.push((cell, excess[i])),
                Over::Stays => out.stays += inflow[i] - through,
                _ => {}
            }
            out.pools.push(Pool { node: i, level_m, volume_m3: self.hollows.nodes[i].volume(self.land, level_m), over });
        }
        out
    }

    /// All leaves below a node are spoken for by it.
    fn stand_for(&self, node: usize, stands: &mut [usize]) {
        let mut below = vec![node];
        while let Some(b) = below.pop() {
            match self.hollows.nodes[b].parts {
                None => stands[b] = node,
                Some(p) => below.extend(p),
            }
        }
    }
}

/// Water on its way through a storm.
pub(crate) struct Course<'p, 'a> {
    pools: &'p Pools<'a>,
    /// By node; none where it does not stand for itself now.
    volume: Vec<Option<f64>>,
    stands: Vec<usize>,
    /// What left by each outlet so far, m³.
    pub(crate) by_outlet: Vec<f64>,
    /// What left over edges so far, m³.
    pub(crate) by_edge: f64,
}

impl<'p, 'a> Course<'p, 'a> {
    pub(crate) fn new(pools: &'p Pools<'a>) -> Course<'p, 'a> {
        let leaves = pools.hollows.leaves;
        Course {
            volume: (0..pools.hollows.nodes.len()).map(|i| (i < leaves).then_some(0.0)).collect(),
            stands: (0..leaves).collect(),
            by_outlet: vec![0.0; pools.sills.len()],
            by_edge: 0.0,
            pools,
        }
    }

    /// What stands, m³.
    pub(crate) fn standing(&self) -> f64 {
        self.volume.iter().flatten().sum()
    }

    /// Every pool that holds something.
    pub(crate) fn pools(&self) -> Vec<Pool> {
        let p = self.pools;
        let held = self.volume.iter().enumerate().filter_map(|(i, v)| v.filter(|v| *v > NOTHING).map(|v| (i, v)));
        held.map(|(i, v)| {
            let node = &p.hollows.nodes[i];
            Pool { node: i, level_m: node.level(p.land, v), volume_m3: v, over: v >= node.holds - NOTHING }
        })
        .collect()
    }

    /// The least a node may fall to: its parts stand for themselves below that.
    fn parting(&self, node: usize) -> f64 {
        self.pools.hollows.nodes[node].parts.map_or(0.0, |p| p.iter().map(|c| self.pools.hollows.nodes[*c].holds).sum())
    }

    /// One step: what comes to each leaf in it, m³. The level at its end drives the outlets through all of it, so that no step is too long.
    pub(crate) fn step(&mut self, seconds: f64, comes: &[f64]) {
        let p = self.pools;
        for (leaf, m3) in comes.iter().enumerate() {
            if let Some(v) = &mut self.volume[self.stands[leaf]] {
                *v += m3;
            }
        }
        let mut active: Vec<usize> = (0..self.volume.len()).filter(|i| self.volume[*i].is_some_and(|v| v > NOTHING)).collect();
        active.sort_by(|a, b| p.brim(*b).total_cmp(&p.brim(*a)));
        // All are drained before any runs over: one that only stood full of what came in this step joins nobody.
        for i in &active {
            self.drain(*i, seconds);
        }
        let full: Vec<usize> = (0..self.volume.len()).filter(|i| self.volume[*i].is_some_and(|v| v > p.hollows.nodes[*i].holds)).collect();
        for i in full {
            self.spill(i);
        }
    }

    fn drain(&mut self, i: usize, seconds: f64) {
        let p = self.pools;
        let Some(before) = self.volume[i] else { return };
        let node = &p.hollows.nodes[i];
        let least = self.parting(i);
        let gone = |v: f64| p.leaves_by(i, node.level(p.land, v)) * seconds;
        if gone(before) <= 0.0 {
            return;
        }
        let (mut low, mut high) = (least.min(before), before);
        if low + gone(low) < before {
            for _ in 0..50 {
                let middle = f64::midpoint(low, high);
                if middle + gone(middle) < before { low = middle } else { high = middle }
            }
        }
        let after = low;
        let level = node.level(p.land, after);
        let all = p.leaves_by(i, level);
        if all > 0.0 {
            for k in &p.of[i] {
                self.by_outlet[*k] += (before - after) * p.takes(*k, level) / all;
            }
            self.volume[i] = Some(after);
        }
        // At the brim between its parts, with an outlet still below: each goes on by itself.
        let lower = p.leaves_by(i, level);
        if let Some(parts) = node.parts
            && lower > 0.0
            && self.volume[i].is_some_and(|v| v <= least + NOTHING.max(least * 1e-9))
        {
            let all = self.volume[i].take().unwrap_or(0.0);
            for part in parts {
                let holds = p.hollows.nodes[part].holds;
                self.volume[part] = Some(if least > 0.0 { all * holds / least } else { 0.0 });
                p.stand_for(part, &mut self.stands);
            }
            // The rest of the step is theirs.
            let left = seconds - (before - after) / lower.max(f64::MIN_POSITIVE);
            for part in parts.into_iter().filter(|_| left > 0.0) {
                self.drain(part, left);
            }
        }
    }

    /// What stands over a brim runs over it until nothing does.
    fn spill(&mut self, from: usize) {
        /// More rounds than any roof needs; what is left then waits for the next step.
        const MOST_ROUNDS: usize = 10_000;
        let p = self.pools;
        let mut touched = vec![from];
        for _ in 0..MOST_ROUNDS {
            let Some(i) = touched.pop() else { break };
            let Some(v) = self.volume[i] else { continue };
            let holds = p.hollows.nodes[i].holds;
            if v - holds <= NOTHING {
                continue;
            }
            let full = |part: &usize| self.volume[*part].is_some_and(|v| v >= p.hollows.nodes[*part].holds - NOTHING);
            if let Some(whole) = p.hollows.nodes[i].whole
                && p.hollows.nodes[whole].parts.is_some_and(|ps| ps.iter().all(full))
            {
                let parts = p.hollows.nodes[whole].parts.into_iter().flatten();
                self.volume[whole] = Some(parts.map(|c| self.volume[c].take().unwrap_or(0.0)).sum());
                p.stand_for(whole, &mut self.stands);
                touched.push(whole);
                continue;
            }
            match p.over[i] {
                Over::Stays => {}
                Over::Edge(_) => {
                    self.volume[i] = Some(holds);
                    self.by_edge += v - holds;
                }
                Over::Leaf(leaf) => {
                    self.volume[i] = Some(holds);
                    let to = self.stands[leaf];
                    if let Some(w) = &mut self.volume[to] {
                        *w += v - holds;
                    }
                    touched.push(to);
                }
            }
        }
    }
}
