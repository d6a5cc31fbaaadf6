//! One drop down a detail, by the rules of laps.
//!
//! A drop runs down a straight line and is always on the face of one piece or on the sheathing, in the gap outside it. What it
//! is *behind* is never remembered: it is the pieces that cover the place and lie outside the one it runs on.

use super::detail::Detail;
use super::{PanSide, PanSlope, PieceEdge, PieceKind, TINY_M, rounded};
use serde::{Deserialize, Serialize};
use std::cell::RefCell;

/// Where a drop ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum End {
    /// On the outside.
    Outside,
    /// Behind something, and out at the bottom.
    Drained,
    /// Behind a sealed edge: it cannot come out.
    Held,
    /// On the sheathing, at the bottom.
    Sheathing,
    /// On framing.
    Frame,
    /// In the house.
    Inside,
}

impl End {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            End::Outside => "runs off outside",
            End::Drained => "drains out behind",
            End::Held => "is held and cannot come out",
            End::Sheathing => "ends on the sheathing",
            End::Frame => "ends on the framing",
            End::Inside => "ends in the house",
        }
    }
}

/// What must stay dry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Wet {
    /// Framing.
    Frame,
    /// Sheathing, bare or a piece of it.
    Sheathing,
}

/// A place where something changes for a drop.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PathPoint {
    /// Metres.
    pub x: f64,
    /// Metres.
    pub z: f64,
    /// A piece, `sheathing` or `opening`.
    pub on: String,
    /// The pieces it is behind, by name.
    pub behind: Vec<String>,
}

/// What is kept of the way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Keep {
    /// Every point of it.
    Path,
    /// The pairs that were asked for: no other pair can change how it ends.
    Asked,
    /// Nothing but the end.
    End,
}

#[derive(Debug)]
pub(super) struct Drop {
    pub(super) end: End,
    sheathing: bool,
    frame: bool,
    pub(super) path: Vec<PathPoint>,
    pub(super) asked: Vec<(usize, usize)>,
}

impl Drop {
    pub(super) fn right(&self) -> bool {
        matches!(self.end, End::Outside | End::Drained) && !self.sheathing && !self.frame
    }
    pub(super) fn wets(&self) -> Vec<Wet> {
        [(self.frame, Wet::Frame), (self.sheathing, Wet::Sheathing)].into_iter().filter_map(|(w, t)| w.then_some(t)).collect()
    }
}

/// What the drop runs on: the sheathing, when it is none of the pieces.
type On = Option<usize>;

/// Where a line is inside the rectangle of a piece.
#[derive(Debug, Clone, Copy)]
struct Span {
    piece: usize,
    hi: f64,
    lo: f64,
    /// By which edge it comes in; none when it begins inside.
    enters: Option<PieceEdge>,
    /// By which edge it goes out; none when the rectangle reaches past the bottom.
    leaves: Option<PieceEdge>,
}

/// The heights at which a line is between two sides and two levels, with the edges it passes.
fn crossing(d: &Detail, x_top: f64, from: f64, [x0, x1, z0, z1]: [f64; 4]) -> Option<(f64, f64, Option<PieceEdge>, Option<PieceEdge>)> {
    let (top, bottom, drift) = (d.input.top, d.input.bottom, d.input.drift);
    let (mut hi, mut enters) = if z1 > from + TINY_M { (from, None) } else { (z1, Some(PieceEdge::Top)) };
    let (mut lo, mut leaves) = if z0 < bottom - TINY_M { (bottom, None) } else { (z0, Some(PieceEdge::Bottom)) };
    if drift == 0.0 {
        if !(x0..=x1).contains(&x_top) {
            return None;
        }
    } else {
        let height = |x: f64| top - (x - x_top) / drift;
        let (first, last, near, far) =
            if drift > 0.0 { (x0, x1, PieceEdge::Left, PieceEdge::Right) } else { (x1, x0, PieceEdge::Right, PieceEdge::Left) };
        if height(first) < hi {
            (hi, enters) = (height(first), Some(near));
        }
        if height(last) > lo {
            (lo, leaves) = (height(last), Some(far));
        }
    }
    (hi - lo > TINY_M).then_some((hi, lo, enters, leaves))
}

struct Walk<'d, 'a> {
    d: &'d Detail<'a>,
    aged: bool,
    keep: Keep,
    /// Where the line would begin at the top.
    x_top: f64,
    on: On,
    /// The pieces that cover the place just above, or just below once it is dealt with.
    cover: Vec<usize>,
    asked: RefCell<Vec<(usize, usize)>>,
    out: Drop,
}

impl Walk<'_, '_> {
    /// Whether `a` lies outside `b`; the sheathing lies inside everything.
    fn outside(&self, a: usize, b: On) -> bool {
        let Some(b) = b else { return true };
        if self.keep == Keep::Asked && self.d.told(a, b) {
            self.asked.borrow_mut().push((a.min(b), a.max(b)));
        }
        self.d.outside(a, b)
    }
    fn behind(&self) -> impl Iterator<Item = usize> + '_ {
        self.cover.iter().copied().filter(|q| Some(*q) != self.on && self.outside(*q, self.on))
    }
    /// Nothing that covers the place lies between what the drop runs on and a piece outside it.
    fn next_under(&self, q: usize) -> bool {
        !self.cover.iter().any(|r| *r != q && Some(*r) != self.on && self.outside(*r, self.on) && self.outside(q, Some(*r)))
    }
    fn outermost(&self, of: impl Iterator<Item = usize>) -> On {
        of.reduce(|best, q| if self.outside(q, Some(best)) { q } else { best })
    }
    fn x(&self, z: f64) -> f64 {
        self.x_top + self.d.input.drift * (self.d.input.top - z)
    }

    fn touch(&mut self) {
        match self.on.map(|p| self.d.pieces[p].kind) {
            None | Some(PieceKind::Sheathing) => self.out.sheathing = true,
            Some(PieceKind::Frame) => self.out.frame = true,
            Some(_) => {}
        }
    }
    fn point(&mut self, x: f64, z: f64, on: String, behind: Vec<String>) {
        if self.keep == Keep::Path {
            self.out.path.push(PathPoint { x: rounded(x), z: rounded(z), on, behind });
        }
    }
    /// The state as it is, told at a height; between two ends only when something changed.
    fn tell(&mut self, z: f64, always: bool) {
        if self.keep != Keep::Path {
            return;
        }
        let on = self.on.map_or_else(|| "sheathing".to_owned(), |p| self.d.pieces[p].id.clone());
        let mut behind: Vec<String> = self.behind().map(|q| self.d.pieces[q].id.clone()).collect();
        behind.sort();
        if always || self.out.path.last().is_none_or(|l| l.on != on || l.behind != behind) {
            self.point(self.x(z), z, on, behind);
        }
    }

    /// Runs down from a height: on what it is on, until it ends or falls in the opening.
    /// Gives the place where it falls in.
    fn run(&mut self, from: f64) -> Option<[f64; 2]> {
        let (d, bottom) = (self.d, self.d.input.bottom);
        let mut spans: Vec<Span> = Vec::new();
        for (piece, p) in d.pieces.iter().enumerate() {
            if let Some((hi, lo, enters, leaves)) = crossing(d, self.x_top, from, [p.x0, p.x1, p.z0, p.z1]) {
                spans.push(Span { piece, hi, lo, enters, leaves });
            }
        }
        let hole = d.input.opening.and_then(|o| crossing(d, self.x_top, from, [o.x0, o.x1, o.z0, o.z1]));
        let begins = from == d.input.top;
        self.cover = spans.iter().filter(|s| s.hi > from - TINY_M).map(|s| s.piece).collect();
        if begins {
            self.on = self.outermost(self.cover.clone().into_iter());
            if self.on.is_none() && hole.is_some_and(|h| h.0 > from - TINY_M) {
                return Some([self.x(from), from]);
            }
        } else {
            let entering: Vec<Span> = spans.iter().filter(|s| s.hi > from - TINY_M && s.enters.is_some()).copied().collect();
            self.enter(entering);
        }
        self.touch();
        self.tell(from, true);

        let mut levels: Vec<f64> = spans.iter().flat_map(|s| [s.hi, s.lo]).chain(hole.map(|h| h.0)).chain([bottom]).collect();
        levels.sort_by(|a, b| b.total_cmp(a));
        levels.dedup_by(|b, a| *a - *b <= TINY_M);
        // From top to bottom, each span is come to once and left once.
        let (mut comes, mut goes) = (spans.clone(), spans);
        comes.retain(|s| s.hi <= from - TINY_M);
        comes.sort_by(|a, b| b.hi.total_cmp(&a.hi));
        goes.sort_by(|a, b| b.lo.total_cmp(&a.lo));
        let (mut come, mut gone) = (0, 0);
        for z in levels.into_iter().filter(|z| *z < from - TINY_M) {
            let at = |v: f64| (v - z).abs() <= TINY_M;
            let last = z <= bottom + TINY_M;
            let before = gone;
            gone += goes[before..].iter().take_while(|s| s.lo >= z - TINY_M).count();
            let going = &goes[before..gone];
            let before = come;
            come += comes[before..].iter().take_while(|s| s.hi >= z - TINY_M).count();
            let entering = &comes[before..come];
            // Held: the edge it would come out under is closed onto what it runs on.
            let held = going.iter().any(|s| {
                Some(s.piece) != self.on
                    && s.leaves.is_some_and(|e| d.sealed(s.piece, e, self.aged))
                    && self.outside(s.piece, self.on)
                    && self.next_under(s.piece)
            });
            if held {
                return self.ends(End::Held, z);
            }
            if last {
                let end = match self.on.map(|p| d.pieces[p].kind) {
                    None | Some(PieceKind::Sheathing) => End::Sheathing,
                    Some(PieceKind::Frame) => End::Frame,
                    Some(_) if self.behind().next().is_none() => End::Outside,
                    Some(_) => End::Drained,
                };
                return self.ends(end, z);
            }
            let leaves = self.on.and_then(|p| going.iter().find(|s| s.piece == p)).copied();
            if let Some(s) = leaves
                && s.leaves == Some(PieceEdge::Bottom)
                && d.pieces[s.piece].drip
                && self.behind().next().is_none()
            {
                return self.ends(End::Outside, z);
            }
            self.cover.retain(|q| !going.iter().any(|s| s.piece == *q));
            self.cover.extend(entering.iter().map(|s| s.piece));
            let into_hole = hole.is_some_and(|h| h.0 > z - TINY_M && h.1 < z - TINY_M);
            if let Some(s) = leaves {
                let inside: Vec<usize> =
                    self.cover.iter().copied().filter(|q| d.told(*q, s.piece) && !self.outside(*q, Some(s.piece))).collect();
                self.on = self.outermost(inside.into_iter());
                if self.on.is_none() && into_hole {
                    return Some([self.x(z), z]);
                }
                self.touch();
            } else if self.on.is_none() && hole.is_some_and(|h| at(h.0)) {
                return Some([self.x(z), z]);
            }
            self.enter(entering.to_vec());
            self.tell(z, false);
        }
        None
    }

    /// Comes to the edges of pieces, the inner ones first: over what is sealed onto the face it runs on, behind the rest.
    fn enter(&mut self, mut entering: Vec<Span>) {
        entering.retain(|s| Some(s.piece) != self.on);
        entering.sort_by(|a, b| {
            let (out, inn) = (self.outside(a.piece, Some(b.piece)), self.outside(b.piece, Some(a.piece)));
            out.cmp(&inn)
        });
        for s in entering {
            let closed = s.enters.is_some_and(|e| self.d.sealed(s.piece, e, self.aged));
            if closed && self.outside(s.piece, self.on) && self.next_under(s.piece) {
                self.on = Some(s.piece);
                self.touch();
            }
        }
    }

    fn ends(&mut self, end: End, z: f64) -> Option<[f64; 2]> {
        self.out.end = end;
        if end == End::Frame {
            self.out.frame = true;
        }
        self.tell(z, true);
        None
    }

    /// Falls in the opening at a place: ends there, or gives the pan it runs out on.
    fn fall(&mut self, [x, z]: [f64; 2]) -> On {
        let d = self.d;
        let hole = d.input.opening?;
        self.point(x, z, "opening".to_owned(), vec![]);
        // Where the line comes in by a side, the place is just inside it.
        let nudged = x + d.input.drift.signum() * if d.input.drift == 0.0 { 0.0 } else { 2.0 * TINY_M };
        let under = |i: &usize| {
            let p = &d.pieces[*i];
            p.x0 < nudged && nudged < p.x1 && p.z0 < hole.z0 - TINY_M && p.z1 > hole.z0 - TINY_M
        };
        let pans: Vec<usize> = (0..d.pieces.len()).filter(|i| d.pieces[*i].pan.is_some()).filter(under).collect();
        let reached = self.outermost(pans.into_iter()).and_then(|i| Some((i, d.pieces[i].pan.as_ref()?)));
        let end = match reached {
            None => End::Inside,
            Some((_, pan)) => {
                let (left, right) = (x - hole.x0, hole.x1 - x);
                let open = |side: PanSide, gap: f64| pan.open_corners.contains(&side) && gap <= OPEN_CORNER_M + TINY_M;
                if open(PanSide::Left, left) || open(PanSide::Right, right) || !pan.end_dams && left.min(right) <= OPEN_END_M + TINY_M {
                    End::Frame
                } else if pan.slope == PanSlope::Out || pan.slope == PanSlope::Level && pan.back_dam {
                    return reached.map(|r| r.0);
                } else {
                    End::Inside
                }
            }
        };
        self.out.end = end;
        self.out.frame |= end == End::Frame;
        self.point(x, hole.z0, "opening".to_owned(), vec![]);
        None
    }
}

/// How far from the side an open corner of a pan loses what falls on it, metres; rule of practice.
pub(super) const OPEN_CORNER_M: f64 = 0.05;
/// How far from the side a pan without end dams does, metres; rule of practice.
pub(super) const OPEN_END_M: f64 = 0.02;

/// Follows the drop that arrives at a place of the top.
pub(super) fn follow(d: &Detail, x_start: f64, aged: bool, keep: Keep) -> Drop {
    let out = Drop { end: End::Outside, sheathing: false, frame: false, path: vec![], asked: vec![] };
    let mut w = Walk { d, aged, keep, x_top: x_start, on: None, cover: vec![], asked: RefCell::default(), out };
    if let Some(place) = w.run(d.input.top)
        && let Some(pan) = w.fall(place)
        && let Some(hole) = d.input.opening
    {
        w.on = Some(pan);
        w.x_top = place[0] - d.input.drift * (d.input.top - hole.z0);
        w.run(hole.z0);
    }
    w.out.asked = w.asked.into_inner();
    w.out
}
