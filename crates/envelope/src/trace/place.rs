//! How water gets from a candidate to a spot: how likely it is to show just there.
//!
//! On a roof it runs down the slope and along framing before it drops: a little way down, little sideways, hardly ever up. In a wall it
//! falls, spreads a few decimetres and shows at heads, sills and floors. At the base it comes in near where it stands. Nothing climbs,
//! but capillarity at the base by decimetres.

use super::form::{CandidateKind, Shows, Spot, TraceCandidate};
use super::weighing::low;
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

/// How far down a slope water runs before it drops: hardly at once, mostly about as far as the next piece of framing, seldom much
/// farther; a gamma density, one where it is highest. Places are noted to a step or so, so just above its way in is not yet impossible.
fn run(along: f64, w: &Weights) -> f64 {
    const NOTED_M: f64 = 0.2;
    let most = w.roof_near_m + NOTED_M;
    let gamma = |run: f64| {
        let a = (run + NOTED_M) / most;
        most / w.roof_far_m * (a.ln() + 1.0 - a)
    };
    if along < 0.0 { gamma(0.0) + bell(along, w.roof_up_m) } else { gamma(along) }
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
        Origin::RoofDetail | Origin::RoofField => run(f.along, w) + spread(f.side, w.roof_side_m) + bell(f.drop.min(0.0), w.roof_up_m),
        Origin::EaveEnd => spread(f.side, w.eave_side_m) + falls(f.drop, w.eave_drop_m, w.wall_up_m) + inward,
        // In a wall water stops where something holds it up: just below its way in at a head or a corner, else at the floor, wherever
        // in the storey it came in.
        Origin::WallOpening | Origin::WallField => {
            let down = if f.drop < 0.0 {
                bell(f.drop, w.wall_up_m)
            } else if low(s.shows) {
                -(f.drop - w.storey_m).max(0.0) / w.beyond_storey_m
            } else {
                -f.drop / w.wall_drop_m
            };
            spread(f.side, w.wall_side_m) + down + inward
        }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn water_runs_a_piece_down_the_slope_before_it_drops_and_never_up() {
        let w = Weights::standard();
        assert!(run(w.roof_near_m, w).abs() < 1e-9, "likeliest there");
        let down: Vec<f64> = (0..60).map(|k| run(w.roof_near_m + f64::from(k) * 0.1, w)).collect();
        assert!(down.windows(2).all(|p| p[1] < p[0]), "thinner the farther");
        assert!(run(0.0, w) > run(-0.1, w) && run(-0.1, w) > run(-0.3, w) && run(-0.5, w) < -10.0);
        assert!((run(0.0, w) - run(-1e-9, w)).abs() < 1e-6, "without a step");
    }

    #[test]
    fn in_a_wall_it_falls_to_the_floor_and_shows_there_wherever_in_the_storey_it_came_in() {
        let w = Weights::standard();
        let at = |z: f64, shows: Shows| {
            let c: TraceCandidate = serde_json::from_value(serde_json::json!({
                "id": "c", "kind": "wall-opening", "x_m": 3.0, "y_m": 0.0, "z_m": z, "faces_deg": 200.0, "downslope_deg": null,
                "state": "unseen", "from_mm_h": null, "from_mm": null, "hours": null
            }))
            .unwrap();
            let s = Spot { id: "s".into(), x_m: 3.0, y_m: 0.0, z_m: 0.1, faces_deg: Some(200.0), shows };
            fit(&c, &s, 200.0, w)
        };
        assert!((at(0.9, Shows::Skirting) - at(1.9, Shows::Skirting)).abs() < 1e-9);
        assert!(at(4.5, Shows::Skirting) < at(1.9, Shows::Skirting) - 3.0, "not through a floor");
        // At a head it shows just below its way in.
        assert!(at(1.5, Shows::WindowHead) < at(0.2, Shows::WindowHead) - 2.0);
        assert!(at(-1.0, Shows::Skirting) < -5.0, "nothing climbs");
    }
}
