//! How water gets from a candidate to a spot: how likely it is to show just there.
//!
//! On a roof it runs down the slope and along framing before it drops: a little way down, little sideways, hardly ever up. In a wall it
//! falls, spreads a few decimetres and shows at heads, sills and floors. At the base it comes in near where it stands. Nothing climbs,
//! but capillarity at the base by decimetres.

use super::form::{CandidateKind, Shows, Spot, TraceCandidate};
use super::weights::{Origin, Weights};

/// Walls whose directions differ by more are different walls, degrees.
const OTHER_WALL_DEG: f64 = 45.0;
/// A place is never thought quite impossible: somebody may have measured from the wrong corner.
const LEAST: f64 = 1e-5;
/// Freedom of the spread sideways: heavier tails than the bell curve, because framing leads water astray.
const TAILS: f64 = 4.0;

/// A kind that ends against no wall.
pub(super) const fn origin_of(kind: CandidateKind) -> Origin {
    match kind {
        CandidateKind::RoofDetail => Origin::RoofDetail,
        CandidateKind::RoofField => Origin::RoofField,
        CandidateKind::WallOpening => Origin::WallOpening,
        CandidateKind::WallField => Origin::WallField,
        CandidateKind::GutterSpill => Origin::GutterSpill,
        CandidateKind::Pond => Origin::Pond,
        CandidateKind::LetGo => Origin::LetGo,
        CandidateKind::SprayHead => Origin::SprayHead,
        CandidateKind::Plumbing => Origin::Plumbing,
        CandidateKind::Condensation => Origin::Condensation,
    }
}

pub(super) fn origin(c: &TraceCandidate) -> Origin {
    match c.kind {
        CandidateKind::RoofDetail if c.faces_deg.is_some() => Origin::EaveEnd,
        kind => origin_of(kind),
    }
}

/// How usual it is that an origin shows in such a way: one where it is just how it shows, nought where it cannot.
pub(super) const fn usual(o: Origin, s: Shows) -> f64 {
    // Ceiling, deck, wall high, window head, window corner, wall low, skirting, floor.
    let row: [f64; 8] = match o {
        Origin::RoofDetail | Origin::RoofField => [1.0, 1.0, 0.6, 0.1, 0.05, 0.03, 0.02, 0.02],
        Origin::EaveEnd => [0.4, 0.3, 1.0, 0.5, 0.3, 0.4, 0.3, 0.1],
        Origin::WallOpening => [0.02, 0.01, 0.5, 1.0, 1.0, 1.0, 0.8, 0.4],
        Origin::WallField => [0.02, 0.01, 0.4, 0.2, 0.2, 1.0, 1.0, 0.5],
        Origin::GutterSpill => [0.01, 0.01, 0.05, 0.05, 0.05, 0.8, 1.0, 0.5],
        Origin::Pond => [0.0, 0.0, 0.01, 0.01, 0.02, 0.8, 1.0, 1.0],
        Origin::LetGo => [0.0, 0.0, 0.01, 0.01, 0.02, 0.3, 1.0, 1.0],
        Origin::SprayHead => [0.0, 0.0, 0.02, 0.02, 0.1, 1.0, 1.0, 1.0],
        Origin::Plumbing => [1.0, 0.1, 0.3, 0.1, 0.1, 0.8, 0.8, 0.8],
        Origin::Condensation => [1.0, 0.3, 1.0, 0.7, 1.0, 0.4, 0.4, 0.1],
    };
    row[s as usize]
}

/// Where a spot lies from a candidate.
#[derive(Debug, Clone, Copy)]
pub(super) struct From {
    /// Down its slope, or out of its wall; the distance in plan where it has no direction, metres.
    pub along: f64,
    /// Across that.
    pub side: f64,
    /// Below it.
    pub drop: f64,
    /// On a wall that faces another way.
    pub other_wall: bool,
}

/// How two directions differ, 0 to 180 degrees.
pub(super) fn apart(a: f64, b: f64) -> f64 {
    ((a - b + 180.0).rem_euclid(360.0) - 180.0).abs()
}

/// The spot as seen from the candidate.
pub(super) fn from(c: &TraceCandidate, s: &Spot, front_deg: f64) -> From {
    let (dx, dy) = (s.x_m - c.x_m, s.y_m - c.y_m);
    let toward = if matches!(c.kind, CandidateKind::RoofDetail | CandidateKind::RoofField) && c.faces_deg.is_none() {
        c.downslope_deg
    } else {
        c.faces_deg
    };
    let (along, side) = toward.map_or_else(
        || (dx.hypot(dy), 0.0),
        |deg| {
            let a = (deg - front_deg - 180.0).to_radians();
            let (ux, uy) = (a.sin(), a.cos());
            (dx * ux + dy * uy, dx * uy - dy * ux)
        },
    );
    let other_wall = c.faces_deg.zip(s.faces_deg).is_some_and(|(a, b)| apart(a, b) > OTHER_WALL_DEG);
    From { along, side, drop: c.z_m - s.z_m, other_wall }
}

/// Logarithm of a spread with heavy tails.
fn spread(x: f64, scale: f64) -> f64 {
    -(TAILS + 1.0) / 2.0 * (1.0 + x * x / (TAILS * scale * scale)).ln()
}

fn bell(x: f64, scale: f64) -> f64 {
    -0.5 * (x / scale).powi(2)
}

/// Thins below, and hardly goes above.
fn falls(drop: f64, far: f64, up: f64) -> f64 {
    if drop < 0.0 { bell(drop, up) } else { -drop / far }
}

/// How well the place fits, as a natural logarithm of a density without its scale; its scale is in how common the kind is.
pub(super) fn fit(c: &TraceCandidate, s: &Spot, front_deg: f64, w: &Weights) -> f64 {
    let o = origin(c);
    let f = from(c, s, front_deg);
    // On a floor or ceiling behind a wall the distance in from the wall counts; on the wall itself it is the wall's thickness.
    let inward = if s.faces_deg.is_none() && c.faces_deg.is_some() { -f.along.abs() / w.floor_in_m } else { 0.0 };
    let ln = match o {
        Origin::RoofDetail | Origin::RoofField => {
            let along = if f.along < 0.0 { bell(f.along, w.roof_up_m) } else { -(f.along - w.roof_near_m).max(0.0) / w.roof_far_m };
            along + spread(f.side, w.roof_side_m) + bell(f.drop.min(0.0), w.roof_up_m)
        }
        Origin::EaveEnd => spread(f.side, w.eave_side_m) + falls(f.drop, w.eave_drop_m, w.wall_up_m) + inward,
        Origin::WallOpening => spread(f.side, w.wall_side_m) + falls(f.drop, w.opening_drop_m, w.wall_up_m) + inward,
        Origin::WallField => spread(f.side, w.wall_side_m) + falls(f.drop, w.field_drop_m, w.wall_up_m) + inward,
        Origin::GutterSpill => spread(f.side, w.spill_side_m) - s.z_m.max(0.0) / w.spill_up_m + inward,
        Origin::Pond | Origin::LetGo | Origin::SprayHead => {
            let side = match o {
                Origin::Pond => w.pond_side_m,
                Origin::LetGo => w.let_go_side_m,
                _ => w.spray_side_m,
            };
            spread(f.side, side) - f.along.abs() / w.base_out_m - (-f.drop).max(0.0) / w.base_up_m
        }
        Origin::Plumbing => {
            let around = if c.faces_deg.is_some() { spread(f.side, w.pipe_side_m) + inward } else { spread(f.along, w.pipe_side_m) };
            around + falls(f.drop, w.pipe_drop_m, w.wall_up_m)
        }
        Origin::Condensation => {
            let around = if c.faces_deg.is_some() { spread(f.side, w.cold_side_m) + inward } else { spread(f.along, w.cold_side_m * 2.0) };
            around + spread(f.drop, w.cold_side_m)
        }
    };
    if f.other_wall { LEAST.ln() } else { (ln.exp() + LEAST).ln() }
}
