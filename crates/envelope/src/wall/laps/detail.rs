//! A detail that can be worked out: every piece there, every overlap told, no ring at any one place.

use super::{BARRIER_LAP_M, LapsInput, Over, Piece, PieceEdge, PieceKind, TINY_M};
use std::collections::{BTreeMap, HashMap};

/// As many pieces as are looked at.
pub const MOST_PIECES: usize = 2000;

/// Why a detail cannot be worked out.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LapsError {
    /// Not a number, or beyond what is built.
    #[error("{0} must be a number of metres from -1000 to 1000.")]
    NoNumber(String),
    /// Nothing between top and bottom, or between the sides.
    #[error("{0}")]
    NoDetail(&'static str),
    /// Two pieces with one name, or none.
    #[error("Give every piece a name of its own: \"{0}\" is there twice.")]
    Twice(String),
    /// A piece without a name.
    #[error("Give every piece a name.")]
    Nameless,
    /// Left is not left of right, or bottom not below top.
    #[error("{0} has no size: give a left edge left of its right one, and a bottom below its top.")]
    NoSize(String),
    /// Outside the detail.
    #[error("{0} lies outside the detail: nothing of it is between top and bottom where water can come.")]
    Outside(String),
    /// The sill is at the bottom.
    #[error("The sill must lie above the bottom of the detail, or water has nowhere to run out to.")]
    SillTooLow,
    /// An id that no piece has.
    #[error("{place} names \"{id}\", and there is no such piece.")]
    Unknown {
        /// Where it stands.
        place: &'static str,
        /// What it says.
        id: String,
    },
    /// Over itself.
    #[error("{0} cannot lie over itself.")]
    Itself(String),
    /// Two pieces, each over the other.
    #[error("{0} and {1} are each said to lie over the other: keep one of the two.")]
    Both(String, String),
    /// Two pieces overlap, and it is not said how.
    #[error("{0} and {1} overlap, but over does not say which is outer.")]
    Missing(String, String),
    /// At one place, each over the next and the last over the first.
    #[error("{0}, {1} and {2} lie over each other in a ring at one place: turn one of the three laps.")]
    Ring(String, String, String),
    /// More than can be worked out at once.
    #[error("{0}")]
    TooMuch(String),
}

/// Square of bits: row `a`, column `b` is set when `a` lies outside `b`.
#[derive(Debug, Clone)]
struct Outer {
    words: usize,
    bits: Vec<u64>,
}

impl Outer {
    fn new(n: usize) -> Outer {
        let words = n.div_ceil(64);
        Outer { words, bits: vec![0; n * words] }
    }
    fn get(&self, a: usize, b: usize) -> bool {
        self.bits[a * self.words + b / 64] >> (b % 64) & 1 == 1
    }
    fn set(&mut self, a: usize, b: usize, on: bool) {
        let word = &mut self.bits[a * self.words + b / 64];
        *word = if on { *word | 1 << (b % 64) } else { *word & !(1 << (b % 64)) };
    }
    fn row(&self, a: usize) -> &[u64] {
        &self.bits[a * self.words..(a + 1) * self.words]
    }
}

/// A checked detail. Which pair lies how can be turned, which is how mending is searched for.
#[derive(Debug, Clone)]
pub(super) struct Detail<'a> {
    pub(super) input: &'a LapsInput,
    pub(super) pieces: &'a [Piece],
    index: HashMap<&'a str, usize>,
    outer: Outer,
    /// By piece and edge: sound, aged.
    seals: BTreeMap<(usize, PieceEdge), (bool, bool)>,
}

impl<'a> Detail<'a> {
    pub(super) fn of(input: &'a LapsInput) -> Result<Detail<'a>, LapsError> {
        check_numbers(input)?;
        let pieces = &input.pieces[..];
        let mut index = HashMap::with_capacity(pieces.len());
        for (i, p) in pieces.iter().enumerate() {
            if p.id.trim().is_empty() {
                return Err(LapsError::Nameless);
            }
            if index.insert(p.id.as_str(), i).is_some() {
                return Err(LapsError::Twice(p.id.clone()));
            }
            within(input, &p.id, [p.x0, p.x1, p.z0, p.z1])?;
        }
        if let Some(o) = &input.opening {
            within(input, "The opening", [o.x0, o.x1, o.z0, o.z1])?;
            if o.z0 <= input.bottom + TINY_M {
                return Err(LapsError::SillTooLow);
            }
        }
        let mut d = Detail { input, pieces, index, outer: Outer::new(pieces.len()), seals: BTreeMap::new() };
        for o in &input.over {
            let (a, b) = d.pair_of("over", o)?;
            if d.overlap(a, b) {
                if d.outside(b, a) {
                    return Err(LapsError::Both(o.outer.clone(), o.inner.clone()));
                }
                d.outer.set(a, b, true);
            }
        }
        for a in 0..pieces.len() {
            for b in a + 1..pieces.len() {
                if d.overlap(a, b) && !d.told(a, b) {
                    return Err(LapsError::Missing(pieces[a].id.clone(), pieces[b].id.clone()));
                }
            }
        }
        if let Some([a, b, c]) = d.ring() {
            let id = |i: usize| pieces[i].id.clone();
            return Err(LapsError::Ring(id(a), id(b), id(c)));
        }
        for s in &input.seals {
            let i = d.piece("seals", &s.piece)?;
            let held = d.seals.entry((i, s.edge)).or_default();
            *held = (true, held.1 || s.kind.outlasts());
        }
        for o in &input.covered {
            d.pair_of("covered", o)?;
        }
        for id in input.installed.iter().flatten() {
            d.piece("installed", id)?;
        }
        Ok(d)
    }

    fn piece(&self, place: &'static str, id: &str) -> Result<usize, LapsError> {
        self.index.get(id).copied().ok_or_else(|| LapsError::Unknown { place, id: id.chars().take(40).collect() })
    }
    fn pair_of(&self, place: &'static str, o: &Over) -> Result<(usize, usize), LapsError> {
        let (a, b) = (self.piece(place, &o.outer)?, self.piece(place, &o.inner)?);
        if a == b { Err(LapsError::Itself(o.outer.clone())) } else { Ok((a, b)) }
    }
    pub(super) fn index_of(&self, id: &str) -> Option<usize> {
        self.index.get(id).copied()
    }

    /// The rectangles share area.
    fn overlap(&self, a: usize, b: usize) -> bool {
        let (a, b) = (&self.pieces[a], &self.pieces[b]);
        a.x1.min(b.x1) - a.x0.max(b.x0) > TINY_M && a.z1.min(b.z1) - a.z0.max(b.z0) > TINY_M
    }
    /// `a` lies outside `b`; false for pieces that do not overlap.
    pub(super) fn outside(&self, a: usize, b: usize) -> bool {
        self.outer.get(a, b)
    }
    /// The two overlap.
    pub(super) fn told(&self, a: usize, b: usize) -> bool {
        self.outside(a, b) || self.outside(b, a)
    }
    /// Every pair that overlaps, the smaller index first.
    pub(super) fn pairs(&self) -> impl Iterator<Item = (usize, usize)> + '_ {
        let n = self.pieces.len();
        (0..n).flat_map(move |a| (a + 1..n).filter(move |b| self.told(a, *b)).map(move |b| (a, b)))
    }
    /// Puts the one of two pieces outside that was inside.
    pub(super) fn turn(&mut self, a: usize, b: usize) {
        let (ab, ba) = (self.outside(a, b), self.outside(b, a));
        self.outer.set(a, b, ba);
        self.outer.set(b, a, ab);
    }
    /// The edge of a piece is closed onto what is under it.
    pub(super) fn sealed(&self, piece: usize, edge: PieceEdge, aged: bool) -> bool {
        self.seals.get(&(piece, edge)).is_some_and(|(sound, outlasts)| if aged { *outlasts } else { *sound })
    }
    pub(super) fn least_lap(&self, kind: PieceKind) -> Option<f64> {
        let usual = (kind == PieceKind::Barrier).then_some(BARRIER_LAP_M);
        self.input.lap_minimum.get(&kind).copied().or(usual)
    }

    /// Three pieces at one place, each over the next and the last over the first. Pieces that overlap two by two share one
    /// place, and an order of pieces that is not one holds such three; so this finds every ring that any place shows.
    fn ring(&self) -> Option<[usize; 3]> {
        let n = self.pieces.len();
        let mut under = Outer::new(n);
        for (a, b) in self.pairs() {
            let (o, i) = if self.outside(a, b) { (a, b) } else { (b, a) };
            under.set(i, o, true);
        }
        for (a, b) in self.pairs() {
            let (o, i) = if self.outside(a, b) { (a, b) } else { (b, a) };
            // c under i, and o under c.
            for (w, (x, y)) in self.outer.row(i).iter().zip(under.row(o)).enumerate() {
                if x & y != 0 {
                    return Some([o, i, w * 64 + (x & y).trailing_zeros() as usize]);
                }
            }
        }
        None
    }
    /// A ring that the pair is part of.
    pub(super) fn ring_through(&self, a: usize, b: usize) -> Option<[usize; 3]> {
        let (o, i) = if self.outside(a, b) { (a, b) } else { (b, a) };
        (0..self.pieces.len()).find(|c| self.outside(i, *c) && self.outside(*c, o)).map(|c| [o, i, c])
    }
}

/// Largest figure, metres: a bound against slips of the keyboard and overflow.
const FAR_M: f64 = 1000.0;

fn check_numbers(input: &LapsInput) -> Result<(), LapsError> {
    if input.pieces.len() > MOST_PIECES {
        return Err(LapsError::TooMuch(format!(
            "{} pieces are too many for one detail: at most {MOST_PIECES} are followed. Cut the wall into details.",
            input.pieces.len()
        )));
    }
    let sizes = input.lap_minimum.iter().map(|(k, v)| (format!("lap_minimum of {}", k.words()), *v));
    let frame = [("x0", input.x0), ("x1", input.x1), ("top", input.top), ("bottom", input.bottom), ("drift", input.drift)];
    let frame = frame.into_iter().map(|(n, v)| (n.to_owned(), v));
    let each = |id: &str, r: [f64; 4]| ["x0", "x1", "z0", "z1"].map(|n| format!("{n} of {id}")).into_iter().zip(r);
    let pieces = input.pieces.iter().flat_map(|p| each(&p.id, [p.x0, p.x1, p.z0, p.z1]));
    let hole = input.opening.iter().flat_map(|o| each("the opening", [o.x0, o.x1, o.z0, o.z1]));
    for (name, v) in frame.chain(sizes).chain(pieces).chain(hole) {
        if !(-FAR_M..=FAR_M).contains(&v) {
            return Err(LapsError::NoNumber(name.chars().take(60).collect()));
        }
    }
    if input.lap_minimum.values().any(|v| *v < 0.0) {
        return Err(LapsError::NoDetail("A least lap cannot be below nothing."));
    }
    if input.x1 - input.x0 <= TINY_M {
        return Err(LapsError::NoDetail("The detail has no width: give x0 left of x1."));
    }
    if input.top - input.bottom <= TINY_M {
        return Err(LapsError::NoDetail("The detail has no height: give a bottom below its top."));
    }
    Ok(())
}

/// Has a size, and something of it lies where water can come: between bottom and top, in the width with what the drift adds.
fn within(input: &LapsInput, what: &str, [x0, x1, z0, z1]: [f64; 4]) -> Result<(), LapsError> {
    if x1 - x0 <= TINY_M || z1 - z0 <= TINY_M {
        return Err(LapsError::NoSize(what.to_owned()));
    }
    let carried = input.drift * (input.top - input.bottom);
    let (left, right) = (input.x0 + carried.min(0.0), input.x1 + carried.max(0.0));
    let inside = x1.min(right) - x0.max(left) > TINY_M && z1.min(input.top) - z0.max(input.bottom) > TINY_M;
    if inside { Ok(()) } else { Err(LapsError::Outside(what.to_owned())) }
}
