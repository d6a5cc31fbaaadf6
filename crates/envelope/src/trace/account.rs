//! Everything that follows from what is kept of tracing: the list, the weighing, and the ways from candidate to spot.

use super::form::{CandidateKind, Sighting, Spot, TestDone, TraceCandidate, TraceInput, TraceOut};
use super::gather::{Benches, Gathered, gathered};
use super::place::from;
use super::record::{SpotKept, Trace};
use super::say;
use super::tracing::trace;
use crate::ground::survey::GroundAccount;
use crate::moisture::account::{MoistureAccount, WetSpot, building};
use crate::moisture::record::Moisture;
use crate::moisture::surface::OnBuilding;
use crate::practice::Practice;
use crate::rain::account::RainAccount;
use crate::rain::record::Rainwater;
use crate::roof::details::Detail;
use crate::roof::record::Roof;
use crate::roof::shape::RoofShape;
use crate::round::Note;
use crate::site::Bearing;
use crate::wall::account::WayIn;
use serde::{Deserialize, Serialize};

/// Everything a tracing stands on.
#[derive(Debug, Clone, Copy)]
pub struct TraceOn<'a> {
    /// What is kept.
    pub kept: &'a Trace,
    /// Rooms and readings, and what follows from them.
    pub moisture: (&'a Moisture, &'a MoistureAccount),
    /// The roof.
    pub roof: &'a Roof,
    /// Its shape, where it could be worked out.
    pub shape: Option<&'a RoofShape>,
    /// What its shape asks for.
    pub details: &'a [Detail],
    /// Notes of the round, by their names.
    pub notes: &'a [(String, Note)],
    /// Laps that let water in.
    pub ways_in: &'a [WayIn],
    /// Gutters as they were met, and what follows.
    pub rainwater: (&'a Rainwater, &'a RainAccount),
    /// The ground.
    pub ground: &'a GroundAccount,
    /// Where the front faces.
    pub front: Option<Bearing>,
    /// When the visit is, as 2026-11-18T10:00.
    pub visit: &'a str,
    /// What holds.
    pub practice: &'a Practice,
}

/// A spot, placed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlacedSpot {
    /// As it is kept.
    pub kept: SpotKept,
    /// Where it is; none where that cannot be said.
    pub on: Option<OnBuilding>,
    /// Why not.
    pub problem: Option<String>,
}

/// The way water takes from a candidate to a spot.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WaterWay {
    /// The spot.
    pub spot: String,
    /// The candidate.
    pub candidate: String,
    /// Corners of the way: right, rear, up, metres.
    pub points: Vec<[f64; 3]>,
}

/// Tracing, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TraceAccount {
    /// The spots.
    pub spots: Vec<PlacedSpot>,
    /// Where water may come in, with what is struck.
    pub list: Vec<Gathered>,
    /// What was weighed; none while there is nothing to weigh.
    pub result: Option<TraceOut>,
    /// Why nothing was weighed.
    pub problem: Option<String>,
    /// The way of the likeliest candidates of each spot.
    pub ways: Vec<WaterWay>,
    /// Wet spots that were read and are not traced yet.
    pub offered: Vec<WetSpot>,
    /// What was not tried, for the report: tests that would still tell something.
    pub untried: Vec<String>,
    /// The building's outline, part by part.
    pub outlines: Vec<Vec<[f64; 2]>>,
    /// Cautions for what is about to be done.
    pub cautions: Vec<String>,
}

/// Ways are drawn of candidates that are at least so likely.
const DRAWN: f64 = 0.1;
/// A test that would make less clear than this is not named, bits.
const TELLS: f64 = 0.05;
/// Ladders are only named where something is this high, metres.
const LADDER_M: f64 = 2.0;

/// The way from a candidate to a spot.
fn way(c: &TraceCandidate, s: &Spot, front_deg: f64) -> Vec<[f64; 3]> {
    let (a, z) = ([c.x_m, c.y_m, c.z_m], [s.x_m, s.y_m, s.z_m]);
    let f = from(c, s, front_deg);
    match c.kind {
        // Down the slope under the covering, then straight down.
        CandidateKind::RoofDetail | CandidateKind::RoofField if c.faces_deg.is_none() => {
            let along = (f.along.max(0.0)).min(c.z_m - s.z_m).max(0.0);
            let over = [s.x_m, s.y_m, c.z_m - along * ((c.z_m - s.z_m) / (f.along.max(0.0) + (c.z_m - s.z_m) + 1e-9))];
            vec![a, over, z]
        }
        // Out of the gutter, down outside, and in at the foot.
        CandidateKind::GutterSpill => vec![a, [c.x_m, c.y_m, 0.0], [s.x_m, s.y_m, 0.0], z],
        // Down in the wall, then across.
        CandidateKind::WallOpening | CandidateKind::WallField | CandidateKind::RoofDetail => vec![a, [c.x_m, c.y_m, s.z_m], z],
        _ => vec![a, z],
    }
}

/// Gathers, weighs, and says what follows.
#[must_use]
pub fn trace_account(t: &TraceOn<'_>) -> TraceAccount {
    let b = building(t.moisture.0, t.roof, t.front);
    let spots: Vec<PlacedSpot> = t
        .kept
        .spots
        .iter()
        .map(|s| match b.place(&s.at) {
            Ok(on) => PlacedSpot { kept: s.clone(), on: Some(on), problem: None },
            Err(e) => PlacedSpot { kept: s.clone(), on: None, problem: Some(e) },
        })
        .collect();
    let placed: Vec<(SpotKept, OnBuilding)> = spots.iter().filter_map(|s| Some((s.kept.clone(), s.on?))).collect();
    let benches = Benches {
        building: &b,
        front: t.front,
        shape: t.shape,
        details: t.details,
        notes: t.notes,
        ways_in: t.ways_in,
        rainwater: t.rainwater.0,
        rain: t.rainwater.1,
        ground: t.ground,
        moisture: t.moisture.1,
        units: t.practice.units,
    };
    let list = gathered(&benches, t.kept, &placed);
    let candidates: Vec<TraceCandidate> = list.iter().filter(|g| g.struck.is_none()).map(|g| g.candidate.clone()).collect();
    let known = |id: &str| placed.iter().any(|p| p.0.id == id);
    let input = TraceInput {
        visit: t.visit.to_owned(),
        front_deg: b.front_deg,
        spots: placed
            .iter()
            .map(|(s, on)| Spot { id: s.id.clone(), x_m: on.x_m, y_m: on.y_m, z_m: on.z_m, faces_deg: on.faces_deg, shows: s.shows })
            .collect(),
        rain: t.kept.rain.hours.clone(),
        holes: holes(t.kept),
        seen: t
            .kept
            .seen
            .iter()
            .filter(|s| known(&s.spot))
            .map(|s| Sighting { spot: s.spot.clone(), t: s.at.clone(), state: s.state })
            .collect(),
        tests: t
            .kept
            .tests
            .iter()
            .filter(|x| known(&x.spot) && candidates.iter().any(|c| c.id == x.candidate))
            .map(|x| TestDone {
                kind: x.kind,
                candidate: x.candidate.clone(),
                minutes: x.minutes,
                spot: x.spot.clone(),
                result: x.result,
                cleared_below: x.cleared_below,
            })
            .collect(),
        units: t.practice.units,
        candidates,
    };
    let (result, problem) = if placed.is_empty() {
        (None, None)
    } else {
        match trace(&input) {
            Ok(r) => (Some(r), None),
            Err(e) => (None, Some(e.to_string())),
        }
    };
    let mut ways = Vec::new();
    let mut untried = Vec::new();
    for (s, spot) in result.iter().flat_map(|r| &r.spots).zip(&input.spots) {
        for c in s.candidates.iter().filter(|c| c.p >= DRAWN) {
            if let Some(k) = input.candidates.iter().find(|k| k.id == c.id) {
                ways.push(WaterWay { spot: s.id.clone(), candidate: c.id.clone(), points: way(k, spot, b.front_deg) });
            }
        }
        let tested = |id: &str| input.tests.iter().any(|x| x.candidate == id && x.spot == s.id);
        for n in s.next.iter().filter(|n| n.gain_bits >= TELLS && !tested(&n.candidate)).take(3) {
            if let Some(k) = input.candidates.iter().find(|k| k.id == n.candidate) {
                untried.push(format!("{}: {} was not tested.", spot_name(&placed, &s.id), say::within(k.called())));
            }
        }
    }
    let offered = t.moisture.1.spots.iter().filter(|w| !t.kept.spots.iter().any(|s| s.at.surface() == w.at.surface())).cloned().collect();
    let high = result.iter().flat_map(|r| &r.spots).flat_map(|s| s.next.first()).any(|n| n.ladder)
        || input.candidates.iter().any(|c| c.z_m > LADDER_M && c.kind != CandidateKind::Plumbing);
    TraceAccount {
        outlines: t.moisture.1.outlines.clone(),
        cautions: cautions(high, !placed.is_empty()),
        spots,
        list,
        result,
        problem,
        ways,
        offered,
        untried,
    }
}

fn spot_name(placed: &[(SpotKept, OnBuilding)], id: &str) -> String {
    placed.iter().find(|p| p.0.id == id).map_or_else(|| id.to_owned(), |p| p.0.name.clone())
}

/// What the record does not know: its own holes, everything before it begins and after it ends.
fn holes(kept: &Trace) -> Vec<[String; 2]> {
    let mut out = kept.rain.holes.clone();
    let before = if kept.rain.from.is_empty() { kept.seen.iter().map(|s| s.at.clone()).max() } else { Some(kept.rain.from.clone()) };
    if let Some(until) = before {
        out.push(["1971-01-01T00:00".into(), until]);
    }
    // What fell after the record ends is not known either: a sighting since then must not be taken for one in dry weather.
    if !kept.rain.until.is_empty() {
        out.push([kept.rain.until.clone(), "2999-01-01T00:00".into()]);
    }
    out
}

fn cautions(high: bool, any: bool) -> Vec<String> {
    let mut out = Vec::new();
    if any {
        out.push("Electricity and water: before a hose runs, have circuits near the spot switched off.".into());
        out.push(
            "Before anything is opened: old materials may hold asbestos, wet ones mould. Have them tested; leave it to those who may."
                .into(),
        );
        out.push("Dye marks finishes: try it where it does not show.".into());
    }
    if high {
        out.push(
            "A hose on a roof or high wall means a ladder: on firm ground, tied, with somebody at its foot; not in wind or wet.".into(),
        );
    }
    out
}
