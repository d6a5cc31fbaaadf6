//! Standing and running water in a storm, step by step: what runs soaks where it crosses dry ground and ends in what stands; what
//! stands soaks, is drained, runs over its brim, joins its neighbour and parts from it again. Every litre carries its origin.
//!
//! One water is one mixture, and so is all that crosses a cell in a step; soaking, drains, spilling and leaving take the mixture.

mod running;
#[cfg(test)]
mod tests;

use crate::terrain::hollows::{Hollows, Land, NONE};
use running::{Running, Whence};

/// Something that takes water at a cell.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Drain {
    pub(super) cell: usize,
    /// Cubic metres a second at most.
    pub(super) takes: f64,
}

/// A water that stands.
#[derive(Debug, Clone)]
struct Water {
    volume: f64,
    /// Cubic metres by origin.
    of: Vec<f64>,
}

/// Water, m³, by where it went.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub(super) struct Went {
    pub(super) rained: f64,
    pub(super) sources: f64,
    pub(super) soaked: f64,
    pub(super) drained: f64,
    pub(super) left: f64,
}

/// What is remembered of one node of the tree.
#[derive(Debug, Clone, Default)]
pub(super) struct Seen {
    /// The most it held, m³, and its highest level.
    pub(super) volume: f64,
    pub(super) level: f64,
    /// Minutes, volume and mixture whenever it was looked at while it held something.
    pub(super) history: Vec<(f64, f64, Vec<f64>)>,
    /// It stood over the brim between its parts by more than a film.
    pub(super) as_one: bool,
    /// When it first ran over, minutes.
    pub(super) over_from: Option<f64>,
}

/// A storm on its way.
pub(super) struct Waters<'a> {
    pub(super) land: &'a Land,
    pub(super) hollows: &'a Hollows,
    /// Loss of each cell, m/s.
    loss: &'a [f64],
    drains: Vec<Drain>,
    /// By cell: drains on it.
    drain_at: Vec<(u32, usize)>,
    origins: usize,
    /// By node; empty where it does not stand for itself now.
    water: Vec<Option<Water>>,
    /// By leaf: the node that stands for it.
    stands: Vec<usize>,
    pub(super) seen: Vec<Seen>,
    /// By leaf: the last minute it was a millimetre deep, and whether it is now.
    pub(super) last_wet: Vec<f64>,
    pub(super) wet_now: Vec<bool>,
    pub(super) went: Went,
    pub(super) minutes: f64,
    // Kept between steps so that nothing is asked for anew.
    running: Running,
    soil_left: Vec<f64>,
    drain_left: Vec<f64>,
    level: Vec<f64>,
}

/// Two waters that stand as one are one in the account when they rose so far over the brim between them, metres.
const AS_ONE_M: f64 = 0.0005;
/// Less is nothing, m³: a thousandth of a millilitre.
const NOTHING: f64 = 1e-12;
/// A place is wet from this depth on, metres.
const WET_M: f64 = 0.001;

impl<'a> Waters<'a> {
    pub(super) fn new(land: &'a Land, hollows: &'a Hollows, loss: &'a [f64], drains: Vec<Drain>, origins: usize) -> Waters<'a> {
        let mut drain_at: Vec<(u32, usize)> = drains.iter().enumerate().map(|(i, d)| (d.cell as u32, i)).collect();
        drain_at.sort_unstable();
        let n = land.z.len();
        let blank = Water { volume: 0.0, of: vec![0.0; origins] };
        Waters {
            land,
            hollows,
            loss,
            drain_left: vec![0.0; drains.len()],
            drains,
            drain_at,
            origins,
            water: (0..hollows.nodes.len()).map(|i| (i < hollows.leaves).then(|| blank.clone())).collect(),
            stands: (0..hollows.leaves).collect(),
            seen: vec![Seen { level: f64::NEG_INFINITY, ..Seen::default() }; hollows.nodes.len()],
            last_wet: vec![0.0; hollows.leaves],
            wet_now: vec![false; hollows.leaves],
            went: Went::default(),
            minutes: 0.0,
            running: Running::new(n, origins),
            soil_left: vec![0.0; n],
            level: vec![f64::NEG_INFINITY; hollows.nodes.len()],
        }
    }

    /// All that stands, m³.
    pub(super) fn standing(&self) -> f64 {
        self.water.iter().flatten().map(|w| w.volume).sum()
    }
    /// The node that stands for a leaf now, its level and what it holds.
    pub(super) fn at_leaf(&self, leaf: usize) -> (usize, f64, f64) {
        let node = self.stands[leaf];
        (node, self.level[node], self.water[node].as_ref().map_or(0.0, |w| w.volume))
    }

    /// The part of a standing water that lies over some leaves: all of it, unless it has joined with a hollow that is none of them.
    /// Two that run over at one height are one water then, and are two ponds in the account all the same.
    fn part_over(&self, node: usize, leaves: &[usize]) -> f64 {
        if self.stands.iter().enumerate().all(|(l, n)| *n != node || leaves.contains(&l)) {
            return 1.0;
        }
        let (n, level) = (&self.hollows.nodes[node], self.level[node]);
        let (mut own, mut all) = (0.0, 0.0);
        for k in n.cells[..n.wetted(self.land, level)].iter().map(|k| *k as usize) {
            let deep = level - self.land.z[k];
            all += deep;
            own += if leaves.contains(&(self.hollows.basin[k] as usize)) { deep } else { 0.0 };
        }
        if all > 0.0 { own / all } else { 1.0 }
    }

    /// What some hollows hold now, m³, and by origin; one that they share counts once.
    pub(super) fn held_by(&self, leaves: &[usize]) -> (f64, Vec<f64>) {
        let mut nodes: Vec<usize> = leaves.iter().map(|l| self.stands[*l]).collect();
        nodes.sort_unstable();
        nodes.dedup();
        let mut of = vec![0.0; self.origins];
        let mut volume = 0.0;
        for (n, w) in nodes.into_iter().filter_map(|n| Some((n, self.water[n].as_ref()?))) {
            let part = self.part_over(n, leaves);
            volume += w.volume * part;
            for (all, o) in of.iter_mut().zip(&w.of) {
                *all += o * part;
            }
        }
        (volume, of)
    }

    /// The node whose water a cell lies under, if it does.
    fn under(&self, k: usize) -> Option<usize> {
        let leaf = self.hollows.basin[k];
        (leaf != NONE).then(|| self.stands[leaf as usize]).filter(|n| self.level[*n] > self.land.z[k])
    }

    /// What the soil and the drains of a dry cell take of water that crosses it.
    fn crosses(&mut self, k: usize, mix: &mut [f64]) {
        let all: f64 = mix.iter().sum();
        if all > 0.0 {
            let stays = 1.0 - self.takes(k, all) / all;
            mix.iter_mut().for_each(|m| *m *= stays);
        }
    }

    /// How much of so much water the soil and the drains of a dry cell take.
    fn takes(&mut self, k: usize, all: f64) -> f64 {
        let soaks = self.soil_left[k].min(all);
        self.soil_left[k] -= soaks;
        let mut drained = 0.0;
        let from = self.drain_at.partition_point(|d| (d.0 as usize) < k);
        for at in from..self.drain_at.len() {
            let (cell, d) = self.drain_at[at];
            if cell as usize != k {
                break;
            }
            let takes = self.drain_left[d].min(all - soaks - drained);
            self.drain_left[d] -= takes;
            drained += takes;
        }
        self.went.soaked += soaks;
        self.went.drained += drained;
        soaks + drained
    }

    /// Lets water run from a cell until it stands or leaves. It crosses the cell itself.
    fn runs(&mut self, from: usize, mix: &mut [f64]) {
        let mut k = from;
        loop {
            if let Some(node) = self.under(k) {
                return self.arrives(node, mix);
            }
            self.crosses(k, mix);
            if mix.iter().sum::<f64>() <= NOTHING {
                return self.leave(mix);
            }
            if self.land.open[k] {
                return self.leave(mix);
            }
            let next = self.hollows.down[k] as usize;
            if next == k {
                let leaf = self.hollows.basin[k] as usize;
                return self.arrives(self.stands[leaf], mix);
            }
            k = next;
        }
    }

    fn leave(&mut self, mix: &[f64]) {
        self.went.left += mix.iter().sum::<f64>();
    }

    fn arrives(&mut self, node: usize, mix: &[f64]) {
        let Some(w) = &mut self.water[node] else { return };
        for (o, m) in w.of.iter_mut().zip(mix) {
            *o += m;
        }
        w.volume += mix.iter().sum::<f64>();
    }

    fn arrives_from(&mut self, node: usize, origin: usize, m3: f64) {
        let Some(w) = &mut self.water[node] else { return };
        w.of[origin] += m3;
        w.volume += m3;
    }

    fn set_level(&mut self, node: usize) {
        let (land, n) = (self.land, &self.hollows.nodes[node]);
        let volume = self.water[node].as_ref().map_or(0.0, |w| w.volume);
        self.level[node] = if volume <= NOTHING { f64::NEG_INFINITY } else { n.level(land, volume) };
    }

    /// Takes so much of a standing water, and says what it was by origin.
    fn take(&mut self, node: usize, amount: f64) -> Vec<f64> {
        let mut out = vec![0.0; self.origins];
        if let Some(w) = &mut self.water[node]
            && w.volume > 0.0
        {
            let part = (amount / w.volume).min(1.0);
            for (o, took) in w.of.iter_mut().zip(&mut out) {
                *took = *o * part;
                *o -= *took;
            }
            w.volume -= amount.min(w.volume);
        }
        out
    }

    fn soak(&mut self, node: usize) {
        let n = &self.hollows.nodes[node];
        let level = self.level[node];
        if level == f64::NEG_INFINITY {
            return;
        }
        let area = self.land.cell_m2();
        let mut soaks = 0.0;
        for k in n.cells[..n.wetted(self.land, level)].iter().map(|k| *k as usize) {
            let s = self.soil_left[k].min((level - self.land.z[k]) * area);
            self.soil_left[k] -= s;
            soaks += s;
        }
        self.went.soaked += self.take(node, soaks).iter().sum::<f64>();
    }

    /// Drains take what stands above their own cell; what joins two parts only down to the brim between them.
    fn drain(&mut self, node: usize) {
        let n = &self.hollows.nodes[node];
        let parting = n.parts.map_or(0.0, |p| p.iter().map(|c| self.hollows.nodes[*c].holds).sum());
        let mut taken = 0.0;
        for d in 0..self.drains.len() {
            let cell = self.drains[d].cell;
            let leaf = self.hollows.basin[cell];
            if self.drain_left[d] <= 0.0 || leaf == NONE || self.stands[leaf as usize] != node {
                continue;
            }
            let volume = self.water[node].as_ref().map_or(0.0, |w| w.volume);
            let above = volume - n.volume(self.land, self.land.z[cell]).max(parting);
            let takes = self.drain_left[d].min(above.max(0.0));
            if takes > 0.0 {
                self.drain_left[d] -= takes;
                taken += self.take(node, takes).iter().sum::<f64>();
            }
        }
        self.went.drained += taken;
    }

    /// Parts a water that fell to the brim between its parts; each keeps its own volume, the mixture is the same.
    fn part(&mut self, node: usize) -> bool {
        let Some(parts) = self.hollows.nodes[node].parts else { return false };
        let hold = parts.map(|p| self.hollows.nodes[p].holds);
        let Some(w) = &self.water[node] else { return false };
        let missing = hold[0] + hold[1] - w.volume;
        if missing <= NOTHING {
            return false;
        }
        let Some(w) = self.water[node].take() else { return false };
        // What is missing was lost over the whole surface, each part by its own.
        let area = parts.map(|p| self.hollows.nodes[p].cells.len() as f64);
        let share = |i: usize| (hold[i] - missing * area[i] / (area[0] + area[1])).max(0.0);
        let mut volumes = [share(0), share(1)];
        let scale = if volumes[0] + volumes[1] > 0.0 { w.volume / (volumes[0] + volumes[1]) } else { 0.0 };
        volumes = volumes.map(|v| v * scale);
        for (p, v) in parts.into_iter().zip(volumes) {
            let part = if w.volume > 0.0 { v / w.volume } else { 0.0 };
            self.water[p] = Some(Water { volume: v, of: w.of.iter().map(|o| o * part).collect() });
            self.stand_for(p);
            self.set_level(p);
        }
        self.level[node] = f64::NEG_INFINITY;
        for p in parts {
            self.part(p);
        }
        true
    }

    /// All leaves below a node are spoken for by it.
    fn stand_for(&mut self, node: usize) {
        let mut below = vec![node];
        while let Some(b) = below.pop() {
            match self.hollows.nodes[b].parts {
                None => self.stands[b] = node,
                Some(p) => below.extend(p),
            }
        }
    }

    fn full(&self, node: usize) -> bool {
        let holds = self.hollows.nodes[node].holds;
        self.water[node].as_ref().is_some_and(|w| w.volume >= holds - NOTHING.max(holds * 1e-12))
    }

    /// Joins a full water with the other part when that is full too.
    fn join(&mut self, node: usize) -> Option<usize> {
        let whole = self.hollows.nodes[node].whole?;
        let parts = self.hollows.nodes[whole].parts?;
        if !parts.iter().all(|p| self.full(*p)) {
            return None;
        }
        let [a, b] = parts.map(|p| self.water[p].take());
        let (a, b) = (a?, b?);
        let of = a.of.iter().zip(&b.of).map(|(x, y)| x + y).collect();
        self.water[whole] = Some(Water { volume: a.volume + b.volume, of });
        for p in parts {
            self.level[p] = f64::NEG_INFINITY;
        }
        self.stand_for(whole);
        self.set_level(whole);
        Some(whole)
    }

    /// What stands over the brims runs over them until nothing does.
    fn spill(&mut self, touched: &mut Vec<usize>) {
        /// More rounds than any yard needs; what is left then waits for the next step.
        const MOST_ROUNDS: usize = 10_000;
        for _ in 0..MOST_ROUNDS {
            let Some(node) = touched.pop() else { break };
            let Some(w) = &self.water[node] else { continue };
            let surplus = w.volume - self.hollows.nodes[node].holds;
            if surplus <= NOTHING {
                continue;
            }
            if let Some(whole) = self.join(node) {
                touched.push(whole);
                continue;
            }
            let Some(brim) = self.hollows.nodes[node].brim else { continue };
            self.seen[node].over_from.get_or_insert(self.minutes);
            let mut mix = self.take(node, surplus);
            self.set_level(node);
            let (over, beyond) = (brim.over as usize, brim.beyond as usize);
            if over != beyond {
                // The brim cell lies on this side: it is crossed, and the way goes on beyond it.
                self.crosses(over, &mut mix);
            }
            self.runs(beyond, &mut mix);
            // Where it arrived it may be drained, and may run on.
            let leaf = self.arrived_at(beyond);
            if let Some(to) = leaf {
                self.set_level(to);
                self.drain(to);
                self.set_level(to);
                touched.push(to);
            }
        }
    }

    /// The water that what runs from a cell ends in.
    fn arrived_at(&self, from: usize) -> Option<usize> {
        let leaf = self.hollows.basin[from];
        let mut k = from;
        loop {
            if let Some(node) = self.under(k) {
                return Some(node);
            }
            let next = self.hollows.down[k] as usize;
            if next == k {
                return (leaf != NONE).then(|| self.stands[leaf as usize]);
            }
            k = next;
        }
    }

    /// One step of so many seconds: rain on each cell, m, by origin, and sources: cell, origin, m³.
    pub(super) fn step(&mut self, seconds: f64, rain_m: f64, rains: &dyn Fn(usize) -> Option<usize>, sources: &[(usize, usize, f64)]) {
        let (n, area) = (self.land.z.len(), self.land.cell_m2());
        self.minutes += seconds / 60.0;
        for k in 0..n {
            self.soil_left[k] = self.loss[k] * seconds * area;
        }
        for (left, d) in self.drain_left.iter_mut().zip(&self.drains) {
            *left = d.takes * seconds;
        }
        let mut runs_at_all = false;
        if rain_m > 0.0 {
            runs_at_all = true;
            let wet = rain_m * area;
            for k in self.hollows.order.iter().map(|k| *k as usize) {
                if let Some(origin) = rains(k) {
                    self.running.add(k, origin, wet);
                    self.went.rained += wet;
                }
            }
        }
        for (cell, origin, m3) in sources {
            runs_at_all = true;
            self.running.add(*cell, *origin, *m3);
            self.went.sources += m3;
        }
        if runs_at_all {
            self.run_down();
        }
        let nodes: Vec<usize> = (0..self.water.len()).filter(|i| self.water[*i].as_ref().is_some_and(|w| w.volume > 0.0)).collect();
        let mut touched = Vec::new();
        for node in nodes {
            self.set_level(node);
            self.soak(node);
            self.drain(node);
            if self.part(node) {
                if let Some(parts) = self.hollows.nodes[node].parts {
                    for p in parts {
                        self.drain_below(p);
                    }
                }
            } else {
                self.set_level(node);
            }
            touched.push(node);
        }
        // The highest brims first.
        let height = |i: &usize| self.hollows.nodes[*i].brim.map_or(f64::INFINITY, |b| b.height);
        touched.sort_by(|a, b| height(a).total_cmp(&height(b)));
        self.spill(&mut touched);
        self.look();
    }

    /// After parting each part is drained by its own drains.
    fn drain_below(&mut self, node: usize) {
        if self.water[node].is_some() {
            self.drain(node);
            if !self.part(node) {
                self.set_level(node);
            }
        } else if let Some(parts) = self.hollows.nodes[node].parts {
            for p in parts {
                self.drain_below(p);
            }
        }
    }

    /// Running water goes down cell by cell, each after all that runs into it.
    fn run_down(&mut self) {
        let hollows = self.hollows;
        let mut mix = vec![0.0; self.origins];
        for k in hollows.order.iter().map(|k| *k as usize) {
            let (mut all, from) = self.running.take(k, &mut mix);
            if all <= 0.0 {
                continue;
            }
            let under = self.under(k);
            if under.is_none() {
                let takes = self.takes(k, all);
                match from {
                    Whence::Many => mix.iter_mut().for_each(|m| *m *= 1.0 - takes / all),
                    // All of it taken is nothing left, to the last digit.
                    _ => all -= takes,
                }
            }
            let next = hollows.down[k] as usize;
            let stands = under.or_else(|| (next == k && !self.land.open[k]).then(|| self.stands[hollows.basin[k] as usize]));
            match (stands, from) {
                (Some(node), Whence::One(o)) => self.arrives_from(node, usize::from(o), all),
                (Some(node), _) => self.arrives(node, &mix),
                (None, Whence::One(_)) if self.land.open[k] => self.went.left += all,
                (None, _) if self.land.open[k] => self.leave(&mix),
                (None, Whence::One(o)) if all > 0.0 => self.running.add(next, usize::from(o), all),
                (None, Whence::One(_)) => {}
                (None, _) => self.running.add_mix(next, &mix),
            }
        }
    }

    /// What is remembered at the end of a step.
    fn look(&mut self) {
        /// Waters smaller than this leave no history, m³: a litre.
        const WORTH: f64 = 5e-4;
        let whole_minute = (self.minutes - self.minutes.round()).abs() < 1e-6;
        for i in 0..self.water.len() {
            let Some(w) = &self.water[i] else { continue };
            if w.volume <= NOTHING {
                continue;
            }
            let seen = &mut self.seen[i];
            let level = self.level[i];
            seen.volume = seen.volume.max(w.volume);
            seen.level = seen.level.max(level);
            if let Some([a, _]) = self.hollows.nodes[i].parts {
                let between = self.hollows.nodes[a].brim.map_or(f64::INFINITY, |b| b.height);
                seen.as_one |= level > between + AS_ONE_M;
            }
            if whole_minute && w.volume > WORTH {
                seen.history.push((self.minutes, w.volume, w.of.clone()));
            }
        }
        for leaf in 0..self.stands.len() {
            let z = self.land.z[self.hollows.nodes[leaf].lowest as usize];
            let wet = self.level[self.stands[leaf]] - z >= WET_M;
            if wet {
                self.last_wet[leaf] = self.minutes;
            }
            self.wet_now[leaf] = wet;
        }
    }
}
