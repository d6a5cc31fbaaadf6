//! `calc laps`: a wall detail as flat pieces that lie over each other, and where every drop goes that runs down it.
//!
//! The rule is one: each piece must lie over the piece below it, or a seal has to do the work, and seals age. A detail is
//! therefore always worked out twice, *sound* and *aged*. The result is exact: what a drop does changes only where the line of
//! a mark passes (a corner, a crossing, a point of the sill), so that one drop speaks for each strip between two marks.
//!
//! Read on in `detail` (what is refused), `path` (the rules of a drop), `cuts` (the strips), `mending`, `order`.

mod cuts;
mod detail;
mod mending;
mod order;
mod path;

use detail::Detail;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

pub use detail::{LapsError, MOST_PIECES};
pub use mending::LapMending;
pub use path::{End, PathPoint, Wet};

/// Lengths closer than this are one, metres: far below what is built, far above the noise of the arithmetic.
pub(crate) const TINY_M: f64 = 1e-9;

/// What a piece is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum PieceKind {
    /// Wood that must stay dry.
    Sheathing,
    /// A sheet that sheds water.
    Barrier,
    /// Tape over a joint.
    Tape,
    /// The fin of a window or door, or of a sleeve.
    Flange,
    /// Bent metal.
    Flashing,
    /// The pan under a sill.
    Pan,
    /// A sheet that sticks by itself.
    Membrane,
    /// What is seen.
    Cladding,
    /// Boards round an opening.
    Trim,
    /// Framing: wet, it rots.
    Frame,
}

impl PieceKind {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            PieceKind::Sheathing => "sheathing",
            PieceKind::Barrier => "water barrier",
            PieceKind::Tape => "tape",
            PieceKind::Flange => "flange",
            PieceKind::Flashing => "flashing",
            PieceKind::Pan => "sill pan",
            PieceKind::Membrane => "membrane",
            PieceKind::Cladding => "cladding",
            PieceKind::Trim => "trim",
            PieceKind::Frame => "framing",
        }
    }
}

/// Which way a sill pan falls.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum PanSlope {
    /// Outward.
    Out,
    /// Not at all.
    Level,
    /// Into the house.
    In,
}

/// Left or right, seen from outside.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum PanSide {
    /// Toward smaller x.
    Left,
    /// Toward larger x.
    Right,
}

/// How a sill pan is made.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Pan {
    /// Its fall.
    pub slope: PanSlope,
    /// Turned up at the back.
    #[serde(default)]
    pub back_dam: bool,
    /// Turned up at both ends.
    #[serde(default)]
    pub end_dams: bool,
    /// Corners that were cut and not closed.
    #[serde(default)]
    pub open_corners: Vec<PanSide>,
}

/// A flat piece, seen from outside: x to the right, z up, metres.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Piece {
    /// Short and lasting.
    pub id: String,
    /// What it is.
    pub kind: PieceKind,
    /// Left edge.
    pub x0: f64,
    /// Right edge.
    pub x1: f64,
    /// Bottom edge.
    pub z0: f64,
    /// Top edge.
    pub z1: f64,
    /// Its bottom edge throws water clear.
    #[serde(default)]
    pub drip: bool,
    /// It takes what falls in the opening.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pan: Option<Pan>,
}

/// Which of two pieces lies outside the other.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Over {
    /// The one that is seen.
    pub outer: String,
    /// The one under it.
    pub inner: String,
}

/// An edge of a piece.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum PieceEdge {
    /// The upper one.
    Top,
    /// The lower one.
    Bottom,
    /// The left one, seen from outside.
    Left,
    /// The right one.
    Right,
}

impl PieceEdge {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            PieceEdge::Top => "top edge",
            PieceEdge::Bottom => "bottom edge",
            PieceEdge::Left => "left edge",
            PieceEdge::Right => "right edge",
        }
    }
}

/// What closes an edge.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum SealKind {
    /// Ages.
    Tape,
    /// Ages.
    Sealant,
    /// Stuck all over: taken to hold.
    Adhered,
}

impl SealKind {
    /// Whether it is still counted on once it has aged. Rule of practice.
    pub fn outlasts(self) -> bool {
        self == SealKind::Adhered
    }
}

/// An edge that is closed onto whatever lies directly under it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Seal {
    /// Whose edge.
    pub piece: String,
    /// Which edge.
    pub edge: PieceEdge,
    /// By what.
    pub kind: SealKind,
}

/// A hole through the sheathing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Hole {
    /// Left.
    pub x0: f64,
    /// Right.
    pub x1: f64,
    /// The sill.
    pub z0: f64,
    /// The head.
    pub z1: f64,
}

/// Input of `calc laps`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LapsInput {
    /// Left end of where water arrives, metres.
    pub x0: f64,
    /// Right end.
    pub x1: f64,
    /// Where it arrives.
    pub top: f64,
    /// Where the detail ends.
    pub bottom: f64,
    /// Sideways run for each metre of fall, to the right positive.
    #[serde(default)]
    pub drift: f64,
    /// The pieces, in any order.
    pub pieces: Vec<Piece>,
    /// For every two pieces that overlap: which is outside.
    #[serde(default)]
    pub over: Vec<Over>,
    /// Edges that are closed.
    #[serde(default)]
    pub seals: Vec<Seal>,
    /// A hole through the sheathing.
    #[serde(default)]
    pub opening: Option<Hole>,
    /// Laps that cannot be reached without opening the wall.
    #[serde(default)]
    pub covered: Vec<Over>,
    /// The order in which pieces were put on, as far as it is known.
    #[serde(default)]
    pub installed: Option<Vec<String>>,
    /// The least lap by the kind of the upper piece, metres; a barrier asks for 50 mm unless something else is given.
    #[serde(default)]
    pub lap_minimum: BTreeMap<PieceKind, f64>,
}

/// The least lap of a barrier over what is below it, metres; rule of practice, `lap-minimum` in the practice.
pub const BARRIER_LAP_M: f64 = 0.05;

/// Drops that do the same.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Strip {
    /// From here, at the top.
    pub x_from: f64,
    /// To here.
    pub x_to: f64,
    /// Where they end.
    pub end: End,
    /// They end outside or drained, and have wetted nothing that must stay dry.
    pub right: bool,
    /// What they touched that must stay dry.
    pub wets: Vec<Wet>,
    /// The way of the one in the middle.
    pub path: Vec<PathPoint>,
}

/// The detail in one state of its seals.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LapState {
    /// From left to right.
    pub strips: Vec<Strip>,
    /// Share of the width whose water does not go right.
    pub share_in: f64,
}

/// What is to be said of a detail.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum LapVerdict {
    /// It sheds water by itself.
    Right,
    /// It sheds water as long as tape or sealant hold.
    OnlyWhileSealed,
    /// Water gets in with every seal sound.
    Wrong,
}

impl LapVerdict {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            LapVerdict::Right => "right",
            LapVerdict::OnlyWhileSealed => "right only while the seals hold",
            LapVerdict::Wrong => "wrong",
        }
    }
}

/// Two pieces one above the other that overlap.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lap {
    /// The higher one.
    pub upper: String,
    /// The lower one.
    pub lower: String,
    /// How far they overlap, metres.
    pub lap_m: f64,
    /// Which is outside.
    pub outer: String,
    /// The higher one is.
    pub shingled: bool,
    /// Less than the kind of the upper one asks for.
    pub short: bool,
}

/// What `calc laps` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LapsOut {
    /// Every seal holds.
    pub sound: LapState,
    /// Tape and sealant no longer hold.
    pub aged: LapState,
    /// What follows.
    pub verdict: LapVerdict,
    /// Every lap.
    pub laps: Vec<Lap>,
    /// The fewest reversals that end it; empty when nothing is to be ended, or three do not.
    pub mending: Vec<LapMending>,
    /// The search for them was ended before it was through: there may be others.
    pub mending_unfinished: bool,
    /// In which order the pieces go on.
    pub order: Vec<String>,
    /// Pieces woven in a ring that no one place shows: they have no order.
    pub woven: Vec<String>,
    /// The first piece that was put on before one it lies over.
    pub installed_too_early: Option<String>,
}

/// Follows every drop down a detail.
///
/// # Errors
/// [`LapsError`] names the piece or pair that cannot be.
pub fn laps(input: &LapsInput) -> Result<LapsOut, LapsError> {
    let detail = Detail::of(input)?;
    let cuts = cuts::cuts(&detail)?;
    let state = |aged: bool| {
        let mut not_right = 0.0;
        let strips = cuts
            .windows(2)
            .map(|w| {
                let drop = path::follow(&detail, 0.5 * (w[0] + w[1]), aged, path::Keep::Path);
                let right = drop.right();
                if !right {
                    not_right += w[1] - w[0];
                }
                Strip { x_from: rounded(w[0]), x_to: rounded(w[1]), end: drop.end, right, wets: drop.wets(), path: drop.path }
            })
            .collect();
        LapState { strips, share_in: rounded(not_right / (input.x1 - input.x0)) }
    };
    let (sound, aged) = (state(false), state(true));
    let wrong = |s: &LapState| s.strips.iter().any(|s| !s.right);
    let verdict = match (wrong(&sound), wrong(&aged)) {
        (true, _) => LapVerdict::Wrong,
        (false, true) => LapVerdict::OnlyWhileSealed,
        (false, false) => LapVerdict::Right,
    };
    let (mending, mending_unfinished) = if wrong(&aged) { mending::mending(&detail, &cuts) } else { (vec![], false) };
    let (order, woven) = order::order(&detail);
    Ok(LapsOut {
        laps: laps_of(&detail),
        installed_too_early: input.installed.as_deref().and_then(|i| order::too_early(&detail, i)),
        sound,
        aged,
        verdict,
        mending,
        mending_unfinished,
        order,
        woven,
    })
}

/// Every pair that is stacked: the lower one's top between the upper one's bottom and top, and its bottom below.
fn laps_of(detail: &Detail) -> Vec<Lap> {
    let p = detail.pieces;
    let mut out = vec![];
    for (a, b) in detail.pairs() {
        for (upper, lower) in [(a, b), (b, a)] {
            let (u, l) = (&p[upper], &p[lower]);
            if !(u.z0 < l.z1 && l.z1 < u.z1 && l.z0 < u.z0) {
                continue;
            }
            let shingled = detail.outside(upper, lower);
            let lap_m = l.z1 - u.z0;
            let least = detail.least_lap(u.kind);
            out.push(Lap {
                upper: u.id.clone(),
                lower: l.id.clone(),
                lap_m: rounded(lap_m),
                outer: if shingled { u.id.clone() } else { l.id.clone() },
                shingled,
                short: least.is_some_and(|m| lap_m < m - TINY_M),
            });
        }
    }
    out.sort_by(|a, b| (&a.upper, &a.lower).cmp(&(&b.upper, &b.lower)));
    out
}

/// To a thousandth of a millimetre; no negative nought.
fn rounded(v: f64) -> f64 {
    (v * 1e6).round() / 1e6 + 0.0
}
