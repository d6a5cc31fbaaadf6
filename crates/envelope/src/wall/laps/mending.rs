//! The fewest laps to turn until no water gets in once the seals have aged.
//!
//! How a drop ends depends only on the pairs that were asked for on its way. A set of reversals that mends the detail must hold
//! one of those of any drop that goes wrong, and one more of any that still goes wrong after it: so the search follows the
//! drops instead of trying every set, and finds all smallest sets all the same.

use super::Over;
use super::detail::Detail;
use super::path::{Keep, follow};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// As many reversals as are tried together.
const MOST_REVERSALS: usize = 3;
/// As many looks at a piece as the search is worth, drops by pieces.
const MOST_LOOKS: usize = 10_000_000;

/// Laps to turn, as they should be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LapMending {
    /// The pairs after turning them.
    pub reverse: Vec<Over>,
    /// Share of the width whose water gets in afterwards, with aged seals.
    pub share_in_after: f64,
    /// Something of it is covered: the wall must be opened.
    pub opens_wall: bool,
}

type Pair = (usize, usize);

struct Search<'a> {
    detail: Detail<'a>,
    /// The middles of the strips, those first that went wrong at first.
    drops: Vec<f64>,
    turned: Vec<Pair>,
    met: BTreeSet<Vec<Pair>>,
    found: BTreeSet<Vec<Pair>>,
    looks: usize,
}

impl Search<'_> {
    fn wrong(&mut self, x: f64) -> bool {
        self.looks += self.detail.pieces.len();
        !follow(&self.detail, x, true, Keep::End).right()
    }
    fn spent(&self) -> bool {
        self.looks > MOST_LOOKS
    }

    fn search(&mut self, left: usize) {
        let mut key = self.turned.clone();
        key.sort_unstable();
        if self.spent() || !self.met.insert(key.clone()) {
            return;
        }
        let ring = self.turned.iter().find_map(|(a, b)| self.detail.ring_through(*a, *b));
        let next: Vec<Pair> = if let Some([a, b, c]) = ring {
            [(a, b), (b, c), (c, a)].map(|(p, q)| (p.min(q), p.max(q))).to_vec()
        } else {
            let drops = std::mem::take(&mut self.drops);
            let wrong = drops.iter().copied().find(|x| self.spent() || self.wrong(*x));
            self.drops = drops;
            let Some(x) = wrong else {
                self.found.insert(key);
                return;
            };
            if left == 0 {
                return;
            }
            follow(&self.detail, x, true, Keep::Asked).asked
        };
        if left == 0 {
            return;
        }
        let next: BTreeSet<Pair> = next.into_iter().filter(|p| !self.turned.contains(p)).collect();
        for (a, b) in next {
            self.detail.turn(a, b);
            self.turned.push((a, b));
            self.search(left - 1);
            self.turned.pop();
            self.detail.turn(a, b);
        }
    }
}

/// All smallest sets that mend the detail, those first that open nothing; and whether the search was given up.
pub(super) fn mending(detail: &Detail, cuts: &[f64]) -> (Vec<LapMending>, bool) {
    let middles = cuts.windows(2).map(|w| 0.5 * (w[0] + w[1]));
    let (wrong, fine): (Vec<f64>, Vec<f64>) = middles.partition(|x| !follow(detail, *x, true, Keep::End).right());
    let drops = wrong.into_iter().chain(fine).collect();
    let mut s = Search { detail: detail.clone(), drops, turned: vec![], met: BTreeSet::new(), found: BTreeSet::new(), looks: 0 };
    for size in 1..=MOST_REVERSALS {
        s.met.clear();
        s.search(size);
        if !s.found.is_empty() || s.spent() {
            break;
        }
    }
    let spent = s.spent();
    let covered: BTreeSet<Pair> = detail
        .input
        .covered
        .iter()
        .filter_map(|o| Some((detail.index_of(&o.outer)?, detail.index_of(&o.inner)?)))
        .map(|(a, b)| (a.min(b), a.max(b)))
        .collect();
    let mut out: Vec<LapMending> = s
        .found
        .iter()
        .map(|set| {
            let mut reverse: Vec<Over> = set
                .iter()
                .map(|(a, b)| {
                    let (outer, inner) = if detail.outside(*a, *b) { (b, a) } else { (a, b) };
                    Over { outer: detail.pieces[*outer].id.clone(), inner: detail.pieces[*inner].id.clone() }
                })
                .collect();
            reverse.sort();
            // What is found leaves no strip wrong: that is how it was found.
            LapMending { reverse, share_in_after: 0.0, opens_wall: set.iter().any(|p| covered.contains(p)) }
        })
        .collect();
    out.sort_by(|a, b| (a.opens_wall, &a.reverse).cmp(&(b.opens_wall, &b.reverse)));
    (out, spent)
}
