//! The weighing itself, for one spot: every single cause, every pair, and something that is not on the list.

use super::feed::{Hours, UNKNOWNS, share, wet_chance};
use super::form::{CandidateKind, SeenAs, Shows, Spot, TestKind, TraceCandidate, Wetness};
use super::place::{fit, from, origin, origin_of, usual};
use super::weights::{Origin, Weights};
use crate::measure::Units;
use std::f64::consts::LN_2;

/// How far below a hose the true cause may lie and be fed by it, metres, and how far to the side.
const BELOW_M: f64 = 0.1;
const BELOW_SIDE_M: f64 = 1.5;
/// How far out of its wall, and how far down its roof, metres.
const ON_WALL_M: f64 = 1.0;
const DOWN_ROOF_M: f64 = 4.0;
/// Beneath this share of the likeliest explanation a pair is not worked out: it cannot be seen in any figure that is shown.
const FAINT: f64 = 1e-9;
/// Kinds that show in such a way more seldom than this do not stand in for what is not listed.
const RARE: f64 = 0.05;

/// A test that was made or may be made, by the candidate's place in the list.
#[derive(Debug, Clone, Copy)]
pub(super) struct Trial {
    pub kind: TestKind,
    pub on: usize,
    pub minutes: f64,
    pub cleared: bool,
}

/// One spot with what is asked of it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Case<'a> {
    pub spot: &'a Spot,
    pub candidates: &'a [TraceCandidate],
    pub front_deg: f64,
    pub hours: &'a Hours,
    /// When somebody looked, and whether it was wet.
    pub seen: &'a [(f64, Wetness)],
    pub trials: &'a [(Trial, Wetness)],
    pub weights: &'a Weights,
    pub units: Units,
}

/// Natural logarithms, candidate by candidate.
#[derive(Debug, Clone, Copy)]
pub(super) struct Parts {
    pub state: f64,
    pub common: f64,
    pub place: f64,
    pub rain: f64,
    pub tests: f64,
}

/// What may be true.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Causes {
    One(usize),
    Two(usize, usize),
    NotListed,
}

impl Causes {
    /// The candidates it names, by their place in the list.
    pub(super) fn places(self) -> Vec<usize> {
        match self {
            Self::One(a) => vec![a],
            Self::Two(a, b) => vec![a, b],
            Self::NotListed => vec![],
        }
    }

    pub(super) fn has(self, i: usize) -> bool {
        match self {
            Self::One(a) => a == i,
            Self::Two(a, b) => a == i || b == i,
            Self::NotListed => false,
        }
    }
}

/// What was weighed.
#[derive(Debug, Clone)]
pub(super) struct Weighing {
    pub parts: Vec<Parts>,
    /// Rain and tests under something that is not listed.
    pub unlisted_rain: f64,
    pub unlisted_tests: f64,
    /// Each explanation with its probability; they add up to one.
    pub all: Vec<(Causes, f64)>,
}

impl Weighing {
    pub(super) fn marginal(&self, i: usize) -> f64 {
        self.all.iter().filter(|(c, _)| c.has(i)).map(|(_, p)| p).sum()
    }

    pub(super) fn unlisted(&self) -> f64 {
        self.all.iter().filter(|(c, _)| *c == Causes::NotListed).map(|(_, p)| p).sum()
    }
}

fn state(s: SeenAs, w: &Weights) -> f64 {
    LN_2 * match s {
        SeenAs::Open => w.state_open_bits,
        SeenAs::Doubtful => w.state_doubtful_bits,
        SeenAs::Unseen => 0.0,
        SeenAs::Sound => w.state_sound_bits,
    }
}

pub(super) const fn low(s: Shows) -> bool {
    matches!(s, Shows::WallLow | Shows::Skirting | Shows::Floor)
}

/// How likely a test shows wet at the spot under an explanation.
pub(super) fn wet_in_test(t: &Trial, causes: Causes, c: &Case<'_>) -> f64 {
    let w = c.weights;
    let on = &c.candidates[t.on];
    let feeds = causes.has(t.on);
    match t.kind {
        TestKind::Hose | TestKind::Dye => {
            let takes = match origin(on) {
                Origin::RoofDetail | Origin::RoofField => w.hose_roof_min,
                Origin::WallOpening | Origin::WallField | Origin::EaveEnd => w.hose_wall_min,
                _ => w.hose_base_min,
            };
            let astray = if t.kind == TestKind::Dye {
                w.other_false_chance
            } else if t.cleared {
                w.hose_false_chance
            } else if below(on, causes, c) {
                w.hose_below_chance
            } else {
                w.hose_uncleared_chance
            };
            if feeds { 1.0 - (1.0 - (1.0 - w.hose_miss_chance) * (1.0 - (-t.minutes / takes).exp())) * (1.0 - astray) } else { astray }
        }
        TestKind::Pressure | TestKind::Meter | TestKind::CutOut => {
            if feeds {
                1.0 - w.other_miss_chance
            } else {
                w.other_false_chance
            }
        }
    }
}

/// Whether one of the causes lies below a place, where water from it would pass.
fn below(on: &TraceCandidate, causes: Causes, c: &Case<'_>) -> bool {
    let is = |i: usize| passes(on, &c.candidates[i], c.front_deg);
    match causes {
        Causes::One(a) => is(a),
        Causes::Two(a, b) => is(a) || is(b),
        Causes::NotListed => false,
    }
}

/// Whether water let onto one place passes another on its way down.
pub(super) fn passes(on: &TraceCandidate, lower: &TraceCandidate, front_deg: f64) -> bool {
    if matches!(lower.kind, CandidateKind::Plumbing | CandidateKind::Condensation) || on.id == lower.id {
        return false;
    }
    let as_spot =
        Spot { id: String::new(), x_m: lower.x_m, y_m: lower.y_m, z_m: lower.z_m, faces_deg: lower.faces_deg, shows: Shows::WallLow };
    let f = from(on, &as_spot, front_deg);
    let reach = if on.faces_deg.is_some() { ON_WALL_M } else { DOWN_ROOF_M };
    f.drop > BELOW_M && f.side.abs() < BELOW_SIDE_M && f.along.abs() <= reach && !f.other_wall
}

/// How likely what was seen is, over everything that is not known of the spot.
fn seen_likely(p: &[[f64; UNKNOWNS]], seen: &[(f64, Wetness)]) -> f64 {
    let mut sum = 0.0;
    for k in 0..UNKNOWNS {
        sum += share(k) * seen.iter().zip(p).map(|((_, s), p)| if *s == Wetness::Wet { p[k] } else { 1.0 - p[k] }).product::<f64>();
    }
    sum.max(1e-300).ln()
}

fn pair_likely(a: &[[f64; UNKNOWNS]], b: &[[f64; UNKNOWNS]], seen: &[(f64, Wetness)]) -> f64 {
    let mut sum = 0.0;
    for k in 0..UNKNOWNS {
        for l in 0..UNKNOWNS {
            let mut p = share(k) * share(l);
            for ((_, s), (a, b)) in seen.iter().zip(a.iter().zip(b)) {
                let dry = (1.0 - a[k]) * (1.0 - b[l]);
                p *= if *s == Wetness::Wet { 1.0 - dry } else { dry };
            }
            sum += p;
        }
    }
    sum.max(1e-300).ln()
}

/// What something that is not on the list may be: one of each kind, just where it would show so, as common as its kind is.
fn stand_ins(spot: &Spot, front_deg: f64) -> Vec<(TraceCandidate, f64)> {
    let mut out = Vec::new();
    for kind in CandidateKind::ALL {
        if usual(origin_of(kind), spot.shows) < RARE {
            continue;
        }
        let walls: Vec<Option<f64>> = match kind {
            CandidateKind::RoofDetail | CandidateKind::RoofField | CandidateKind::Plumbing | CandidateKind::Condensation => vec![None],
            _ => spot.faces_deg.map_or_else(|| [0.0, 90.0, 180.0, 270.0].map(|turn| Some(front_deg + turn)).to_vec(), |f| vec![Some(f)]),
        };
        let each = 1.0 / walls.len() as f64;
        for faces_deg in walls {
            let c = TraceCandidate {
                id: String::new(),
                kind,
                x_m: spot.x_m,
                y_m: spot.y_m,
                z_m: spot.z_m,
                downslope_deg: None,
                faces_deg,
                state: SeenAs::Unseen,
                from_mm_h: None,
                from_mm: None,
                hours: Some([5.0, 6.0]),
                label: None,
                repair_minutes: None,
            };
            out.push((c, each));
        }
    }
    out
}

/// What the record says of a spot: how wet each candidate would have made it each time somebody looked, and how likely what was seen is
/// under something that is not listed, kind by kind.
pub(super) struct Watched {
    wet: Vec<Vec<[f64; UNKNOWNS]>>,
    unlisted: Vec<(Origin, f64, f64)>,
}

/// Follows the record for one spot.
pub(super) fn watched(c: &Case<'_>) -> Watched {
    let times: Vec<f64> = c.seen.iter().map(|s| s.0).collect();
    if times.is_empty() {
        return Watched { wet: vec![vec![]; c.candidates.len()], unlisted: vec![] };
    }
    let chance = |x: &TraceCandidate| wet_chance(x, origin(x), c.hours, &times, c.weights);
    Watched {
        wet: c.candidates.iter().map(chance).collect(),
        unlisted: stand_ins(c.spot, c.front_deg).iter().map(|(x, each)| (origin(x), *each, seen_likely(&chance(x), c.seen))).collect(),
    }
}

/// Weighs one spot.
pub(super) fn weigh(c: &Case<'_>) -> Weighing {
    weigh_watched(c, &watched(c))
}

/// Weighs one spot whose record was followed.
pub(super) fn weigh_watched(c: &Case<'_>, by: &Watched) -> Weighing {
    let w = c.weights;
    let shows = c.spot.shows;
    let unseen = c.seen.is_empty();
    let wet = &by.wet;
    let tests = |causes: Causes| -> f64 {
        c.trials
            .iter()
            .map(|(t, r)| {
                let p = wet_in_test(t, causes, c);
                if *r == Wetness::Wet { p.ln() } else { (1.0 - p).ln() }
            })
            .sum()
    };
    let parts: Vec<Parts> = c
        .candidates
        .iter()
        .enumerate()
        .map(|(i, x)| {
            let o = origin(x);
            Parts {
                state: state(x.state, w),
                common: LN_2 * w.common_bits.of(o) + w.shows_power * (usual(o, shows) + 1e-3).ln(),
                place: fit(x, c.spot, c.front_deg, w),
                rain: if unseen { 0.0 } else { seen_likely(&wet[i], c.seen) },
                tests: tests(Causes::One(i)),
            }
        })
        .collect();
    let (mut sum, mut weight) = (0.0, 0.0);
    for (o, each, ln) in &by.unlisted {
        let k = each * (LN_2 * w.common_bits.of(*o)).exp() * usual(*o, shows).powf(w.shows_power);
        sum += k * ln.exp();
        weight += k;
    }
    let unlisted_rain = if unseen { 0.0 } else { (sum / weight).max(1e-300).ln() };
    let unlisted_tests = tests(Causes::NotListed);
    let unlisted_bits = match shows {
        Shows::Ceiling | Shows::Deck => w.unlisted_roof_bits,
        Shows::Skirting | Shows::Floor => w.unlisted_base_bits,
        _ => w.unlisted_wall_bits,
    };
    let mut all = vec![(Causes::NotListed, unlisted_bits * LN_2 + unlisted_rain + unlisted_tests)];
    let prior: Vec<f64> = parts.iter().map(|p| p.state + p.common + p.place).collect();
    // What the list holds altogether, as singles and as pairs.
    let top = prior.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let odds = |power: i32| prior.iter().map(|p| (p - top).exp().powi(power)).sum::<f64>();
    let ones = odds(1);
    let singles = if prior.is_empty() { 0.0 } else { w.list_holds_chance * (top + ones.ln()) };
    let pairs = if prior.len() < 2 { 0.0 } else { w.pair_holds_chance * (2.0 * top + ((ones * ones - odds(2)) / 2.0).max(1e-300).ln()) };
    for (i, p) in parts.iter().enumerate() {
        all.push((Causes::One(i), prior[i] - singles + p.rain + p.tests));
    }
    let best = all.iter().map(|a| a.1).fold(f64::NEG_INFINITY, f64::max);
    let pair_bits = LN_2 * if low(shows) { w.pair_low_bits } else { w.pair_bits };
    for i in 0..parts.len() {
        for j in i + 1..parts.len() {
            let before = prior[i] + prior[j] - pairs + pair_bits;
            if before < best + FAINT.ln() {
                continue;
            }
            let rain = if unseen { 0.0 } else { pair_likely(&wet[i], &wet[j], c.seen) };
            all.push((Causes::Two(i, j), before + rain + tests(Causes::Two(i, j))));
        }
    }
    let best = all.iter().map(|a| a.1).fold(f64::NEG_INFINITY, f64::max);
    for a in &mut all {
        a.1 = (a.1 - best).exp();
    }
    let sum: f64 = all.iter().map(|a| a.1).sum();
    for a in &mut all {
        a.1 /= sum;
    }
    Weighing { parts, unlisted_rain, unlisted_tests, all }
}
