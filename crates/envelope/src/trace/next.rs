//! Which test tells most for its time, and when to stop.

use super::form::{CandidateKind, NextTest, TestKind, TestOutcome, TraceCandidate, Wetness};
use super::place::origin;
use super::weighing::{Case, Causes, Trial, Weighing, passes, wet_in_test};
use super::weights::Origin;

/// A hose runs for so many times the time in which most shows.
const RUN_TIMES: f64 = 2.0;
/// Setting up a hose, minutes; rule of practice.
const SET_UP_MIN: f64 = 8.0;
/// A ladder more, minutes.
const LADDER_MIN: f64 = 10.0;
/// Above this a hose takes a ladder, metres.
const LADDER_FROM_M: f64 = 2.0;
/// Pressure on a pipe; a meter along a line, minutes.
const PRESSURE_MIN: f64 = 25.0;
const METER_MIN: f64 = 10.0;

/// Bits that are open.
pub(super) fn entropy<'a>(of: impl Iterator<Item = &'a f64>) -> f64 {
    of.filter(|p| **p > 0.0).map(|p| -p * p.log2()).sum::<f64>() + 0.0
}

/// What mending a kind takes where nobody said, minutes; rule of practice, to be overruled at the candidate.
pub(super) const fn usual_repair(o: Origin) -> f64 {
    match o {
        Origin::RoofDetail => 180.0,
        Origin::RoofField | Origin::EaveEnd | Origin::Pond => 240.0,
        Origin::WallOpening => 120.0,
        Origin::WallField => 90.0,
        Origin::GutterSpill => 60.0,
        Origin::LetGo => 30.0,
        Origin::SprayHead => 10.0,
        Origin::Plumbing => 150.0,
        Origin::Condensation => 60.0,
    }
}

pub(super) fn repair(c: &TraceCandidate) -> f64 {
    c.repair_minutes.unwrap_or_else(|| usual_repair(origin(c)))
}

/// The test that fits a candidate, how long the water runs, the whole time, and whether it takes a ladder.
fn plan(c: &TraceCandidate, case: &Case<'_>) -> (TestKind, f64, f64, bool) {
    let w = case.weights;
    match c.kind {
        CandidateKind::Plumbing => (TestKind::Pressure, 0.0, PRESSURE_MIN, false),
        CandidateKind::Condensation => (TestKind::Meter, 0.0, METER_MIN, false),
        _ => {
            let takes = match origin(c) {
                Origin::RoofDetail | Origin::RoofField => w.hose_roof_min,
                Origin::WallOpening | Origin::WallField | Origin::EaveEnd => w.hose_wall_min,
                _ => w.hose_base_min,
            };
            let runs = (takes * RUN_TIMES / 5.0).ceil() * 5.0;
            let ladder = c.z_m > LADDER_FROM_M && !matches!(c.kind, CandidateKind::GutterSpill);
            (TestKind::Hose, runs, runs + SET_UP_MIN + if ladder { LADDER_MIN } else { 0.0 }, ladder)
        }
    }
}

fn outcome(case: &Case<'_>, all: &[(Causes, f64)], chance: f64) -> TestOutcome {
    let sum: f64 = all.iter().map(|a| a.1).sum();
    let best = all.iter().max_by(|a, b| a.1.total_cmp(&b.1));
    let name = |i: usize| case.candidates[i].id.clone();
    let leads = match best.map(|b| b.0) {
        Some(Causes::One(a)) => vec![name(a)],
        Some(Causes::Two(a, b)) => vec![name(a), name(b)],
        Some(Causes::NotListed) | None => vec![],
    };
    TestOutcome { chance, leads, p: if sum > 0.0 { best.map_or(0.0, |b| b.1 / sum) } else { 0.0 } }
}

/// Every test that could be made at this spot, the most telling for its time first.
pub(super) fn next(case: &Case<'_>, of: &Weighing) -> Vec<NextTest> {
    let before = entropy(of.all.iter().map(|a| &a.1));
    let dry_tested = |i: usize| case.trials.iter().any(|(t, r)| t.on == i && *r == Wetness::Dry);
    let mut out: Vec<NextTest> = case
        .candidates
        .iter()
        .enumerate()
        .map(|(i, c)| {
            let (kind, runs, minutes, ladder) = plan(c, case);
            let clear_first: Vec<usize> = if kind == TestKind::Hose {
                (0..case.candidates.len()).filter(|j| passes(c, &case.candidates[*j], case.front_deg) && !dry_tested(*j)).collect()
            } else {
                vec![]
            };
            let trial = Trial { kind, on: i, minutes: runs, cleared: clear_first.is_empty() };
            let (mut wet, mut dry) = (Vec::with_capacity(of.all.len()), Vec::with_capacity(of.all.len()));
            for (causes, p) in &of.all {
                let w = wet_in_test(&trial, *causes, case);
                wet.push((*causes, p * w));
                dry.push((*causes, p * (1.0 - w)));
            }
            let left = |v: &[(Causes, f64)]| {
                let sum: f64 = v.iter().map(|a| a.1).sum();
                let parts: Vec<f64> = v.iter().map(|a| a.1 / sum.max(1e-300)).collect();
                (sum, sum * entropy(parts.iter()))
            };
            let ((pw, hw), (pd, hd)) = (left(&wet), left(&dry));
            // Rounding may leave a hair under nought where a test tells nothing.
            let gain_bits = (before - hw - hd).max(0.0);
            NextTest {
                test: kind,
                candidate: c.id.clone(),
                minutes,
                runs_minutes: runs,
                ladder,
                gain_bits,
                bits_per_minute: gain_bits / minutes,
                if_wet: outcome(case, &wet, pw),
                if_dry: outcome(case, &dry, pd),
                clear_first: clear_first.iter().map(|j| case.candidates[*j].id.clone()).collect(),
            }
        })
        .collect();
    out.sort_by(|a, b| b.bits_per_minute.total_cmp(&a.bits_per_minute).then_with(|| a.candidate.cmp(&b.candidate)));
    out
}
