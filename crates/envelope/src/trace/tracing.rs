//! `calc trace`: every wet spot against every candidate, with what was seen, when, and in which rain.

use super::feed::{Hours, UNKNOWNS, share, wet_chance};
use super::form::{
    Agreement, NextTest, RainHour, RankedCause, Spot, StopRule, TraceCandidate, TraceError, TraceFactors, TraceInput, TraceOut,
    TracedCandidate, TracedSpot, Wetness,
};
use super::next::{entropy, next, repair};
use super::place::{from, origin};
use super::say;
use super::weighing::{Case, Causes, Trial, Watched, Weighing, watched, weigh, weigh_watched};
use super::weights::Weights;
use jiff::civil::DateTime;
use std::collections::{BTreeMap, BTreeSet};
use std::f64::consts::LN_2;

/// More than anybody lists, sees or tests at one building.
const MOST_SPOTS: usize = 60;
const MOST_CANDIDATES: usize = 200;
const MOST_SEEN: usize = 1000;
const MOST_TESTS: usize = 500;
/// Rows of a record: three years of hours.
const MOST_HOURS: usize = 27_000;
/// What lies farther back than this does not keep a spot wet, hours.
const REACH_BACK_H: f64 = 168.0;
/// The longest record that is looked through, hours.
const LONGEST_H: i64 = 27_000;
/// An hour of rain beyond the world's record is a slip, mm; so is such a wind, m/s.
const MOST_MM: f64 = 310.0;
const MOST_WIND: f64 = 90.0;
/// Houses are smaller, metres.
const FARTHEST_M: f64 = 1000.0;
/// Reasons are written for what is at least so likely, and for so many.
const WORTH_READING: f64 = 0.01;
const MOST_REASONS: usize = 8;
/// A sighting counts as fed when the spot would more likely than not be wet.
const FED: f64 = 0.5;
/// When to stop: the first over this, every rival under that.
const SURE: f64 = 0.9;
const RIVAL: f64 = 0.05;
/// Mending at once is only said of what is more likely than everything else together.
const LIKELY: f64 = 0.5;
/// Sightings nearer than this that say otherwise are asked about, hours.
const SOON_H: f64 = 1.0;
/// Place is shown beside a place that fits so badly (natural logarithm): a metre to the side and two along.
const EDGE_OF_REACH: f64 = -4.0;

/// Hours since a midnight long ago.
fn hour(what: &str, t: &str) -> Result<f64, TraceError> {
    let at: DateTime =
        t.parse().map_err(|_| TraceError(format!("{what} is at \"{t}\", which is no date and time. Write it as 2026-11-18T10:00.")))?;
    let zero = jiff::civil::date(1970, 1, 1).at(0, 0, 0, 0);
    Ok(at.duration_since(zero).as_secs_f64() / 3600.0)
}

fn degrees(what: &str, d: Option<f64>) -> Result<(), TraceError> {
    match d {
        Some(d) if !(-360.0..=360.0).contains(&d) => {
            Err(TraceError(format!("{what} has a direction of {d}°. Give it in degrees from north, 0 to 360.")))
        }
        _ => Ok(()),
    }
}

fn places(what: &str, at: [f64; 3]) -> Result<(), TraceError> {
    if at.iter().all(|v| v.abs() <= FARTHEST_M) {
        Ok(())
    } else {
        Err(TraceError(format!("{what} lies farther away than any building reaches. Places are in metres.")))
    }
}

/// What was read of the input beside the input itself.
struct Read<'a> {
    hours: Hours,
    seen: BTreeMap<&'a str, Vec<(f64, Wetness)>>,
    trials: BTreeMap<&'a str, Vec<(Trial, Wetness)>>,
    doubts: BTreeMap<&'a str, Vec<String>>,
}

fn check(i: &TraceInput) -> Result<(), TraceError> {
    let err = |m: String| Err(TraceError(m));
    if i.spots.is_empty() {
        return err("Say where it is wet: without a spot there is nothing to trace.".into());
    }
    for (n, most, what) in [
        (i.spots.len(), MOST_SPOTS, "spots"),
        (i.candidates.len(), MOST_CANDIDATES, "candidates"),
        (i.seen.len(), MOST_SEEN, "sightings"),
        (i.tests.len(), MOST_TESTS, "tests"),
        (i.rain.len(), MOST_HOURS, "hours of rain"),
    ] {
        if n > most {
            return err(format!("{n} {what} are more than can be weighed together; the most is {most}."));
        }
    }
    degrees("The front", Some(i.front_deg))?;
    if !i.front_deg.is_finite() {
        return err("Say where the front faces, in degrees from north.".into());
    }
    let mut ids = BTreeSet::new();
    for s in &i.spots {
        if s.id.trim().is_empty() || !ids.insert(&s.id) {
            return err(format!("Spot \"{}\" needs a name of its own.", s.id));
        }
        let what = format!("Spot {}", s.id);
        places(&what, [s.x_m, s.y_m, s.z_m])?;
        degrees(&what, s.faces_deg)?;
    }
    let mut ids = BTreeSet::new();
    for c in &i.candidates {
        if c.id.trim().is_empty() || !ids.insert(&c.id) {
            return err(format!("Candidate \"{}\" needs a name of its own.", c.id));
        }
        let what = format!("Candidate {}", c.id);
        places(&what, [c.x_m, c.y_m, c.z_m])?;
        degrees(&what, c.faces_deg)?;
        degrees(&what, c.downslope_deg)?;
        if [c.from_mm, c.from_mm_h, c.repair_minutes].iter().flatten().any(|v| !(v.is_finite() && *v > 0.0)) {
            return err(format!("{what} has an amount that is not more than nought."));
        }
        if c.hours.is_some_and(|h| h.iter().any(|v| !(0.0..=24.0).contains(v))) {
            return err(format!("{what} runs at hours that a day does not have; they lie between 0 and 24."));
        }
    }
    for r in &i.rain {
        if !(0.0..=MOST_MM).contains(&r.mm) || !(0.0..=MOST_WIND).contains(&r.wind_m_s) {
            return err(format!("The hour of {} has {} mm and {} m/s, which no hour has had.", r.t, r.mm, r.wind_m_s));
        }
        degrees(&format!("The wind of {}", r.t), Some(r.wind_from_deg))?;
    }
    for t in &i.tests {
        if !(0.0..=1440.0).contains(&t.minutes) {
            return err(format!("A test on {} ran for {} minutes; a day has 1440.", t.candidate, t.minutes));
        }
    }
    Ok(())
}

fn read<'a>(i: &'a TraceInput) -> Result<Read<'a>, TraceError> {
    let err = |m: String| Err(TraceError(m));
    check(i)?;
    let spot = |id: &str| i.spots.iter().find(|s| s.id == id).map(|s| s.id.as_str());
    let holes: Vec<(f64, f64)> = i
        .holes
        .iter()
        .map(|[a, b]| Ok((hour("A hole of the record", a)?, hour("A hole of the record", b)?)))
        .collect::<Result<_, TraceError>>()?;
    if let Some(k) = holes.iter().position(|(a, b)| a > b) {
        return err(format!("A hole of the record ends before it begins: {} to {}.", i.holes[k][0], i.holes[k][1]));
    }
    let mut seen: BTreeMap<&str, Vec<(f64, Wetness)>> = BTreeMap::new();
    let mut doubts: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    let mut last = hour("The visit", &i.visit)?;
    for s in &i.seen {
        let Some(id) = spot(&s.spot) else { return err(format!("Something was seen at \"{}\", which is no spot.", s.spot)) };
        let t = hour("A sighting", &s.t)?;
        let of = seen.entry(id).or_default();
        for (u, state) in of.iter() {
            if *state != s.state && (u - t).abs() < 1e-6 {
                return err(format!("Spot {id} was seen both wet and dry at {}. Keep the one that is right.", s.t));
            }
            if *state != s.state && (u - t).abs() < SOON_H {
                doubts
                    .entry(id)
                    .or_default()
                    .push(format!("Around {} the spot was seen wet and dry within an hour. Is it the same place?", s.t));
            }
        }
        let blind = holes.iter().any(|(a, b)| *b > t - REACH_BACK_H && *a < t);
        if blind {
            doubts
                .entry(id)
                .or_default()
                .push(format!("The rain record has a hole in the days before {}: that sighting gives no factor.", s.t.replace('T', " ")));
            continue;
        }
        of.push((t, s.state));
        last = last.max(t);
    }
    let mut rows: Vec<(i64, &RainHour)> = Vec::with_capacity(i.rain.len());
    let mut given = BTreeSet::new();
    for r in &i.rain {
        let h = hour("An hour of rain", &r.t)?.floor() as i64;
        if !given.insert(h) {
            return err(format!("The hour of {} stands twice in the rain record.", r.t));
        }
        rows.push((h, r));
    }
    let last = last.floor() as i64;
    rows.retain(|(h, _)| *h <= last && last - h < LONGEST_H);
    let mut trials: BTreeMap<&str, Vec<(Trial, Wetness)>> = BTreeMap::new();
    for t in &i.tests {
        let Some(id) = spot(&t.spot) else { return err(format!("A test watched \"{}\", which is no spot.", t.spot)) };
        let Some(on) = i.candidates.iter().position(|c| c.id == t.candidate) else {
            return err(format!("A test was made on \"{}\", which is no candidate.", t.candidate));
        };
        let trial = Trial { kind: t.kind, on, minutes: t.minutes, cleared: t.cleared_below };
        trials.entry(id).or_default().push((trial, t.result));
    }
    Ok(Read { hours: Hours::new(&rows, last), seen, trials, doubts })
}

/// Traces every spot.
///
/// # Errors
/// [`TraceError`] naming what cannot be weighed.
pub fn trace(i: &TraceInput) -> Result<TraceOut, TraceError> {
    trace_with(i, Weights::standard())
}

/// The same with other weights: for the program that sets them.
///
/// # Errors
/// As [`trace`].
pub fn trace_with(i: &TraceInput, weights: &Weights) -> Result<TraceOut, TraceError> {
    let mut r = read(i)?;
    let doubts: Vec<Vec<String>> = i.spots.iter().map(|s| r.doubts.remove(s.id.as_str()).unwrap_or_default()).collect();
    Ok(TraceOut { spots: i.spots.iter().zip(doubts).map(|(spot, doubts)| traced(&case(i, &r, spot, weights), doubts)).collect() })
}

/// A house asked many times under other weights: for the program that sets them. Nothing but probabilities: no reasons, no next test.
pub struct Asked<'a> {
    input: &'a TraceInput,
    read: Read<'a>,
}

/// What the record says of each spot under the weights it was followed with.
pub struct Followed(Vec<Watched>);

impl<'a> Asked<'a> {
    /// Reads a house.
    ///
    /// # Errors
    /// As [`trace`].
    pub fn new(input: &'a TraceInput) -> Result<Self, TraceError> {
        Ok(Self { input, read: read(input)? })
    }

    /// Follows the record hour by hour, which takes nearly all of the time and rests on the weights of rain and drying only.
    pub fn follow(&self, weights: &Weights) -> Followed {
        Followed(self.input.spots.iter().map(|s| watched(&case(self.input, &self.read, s, weights))).collect())
    }

    /// What may be true of each spot, with its probability. The causes are places in the list of candidates; none of them is something
    /// that is not on the list.
    pub fn explanations(&self, by: &Followed, weights: &Weights) -> Vec<Vec<(Vec<usize>, f64)>> {
        let of =
            |(s, by)| weigh_watched(&case(self.input, &self.read, s, weights), by).all.into_iter().map(|(c, p)| (c.places(), p)).collect();
        self.input.spots.iter().zip(&by.0).map(of).collect()
    }
}

fn case<'a>(i: &'a TraceInput, r: &'a Read<'a>, spot: &'a Spot, weights: &'a Weights) -> Case<'a> {
    let id = spot.id.as_str();
    Case {
        spot,
        candidates: &i.candidates,
        front_deg: i.front_deg,
        hours: &r.hours,
        seen: r.seen.get(id).map_or(&[], Vec::as_slice),
        trials: r.trials.get(id).map_or(&[], Vec::as_slice),
        weights,
        units: i.units,
    }
}

fn agreement(c: &TraceCandidate, case: &Case<'_>) -> Agreement {
    let times: Vec<f64> = case.seen.iter().map(|s| s.0).collect();
    if times.is_empty() {
        return Agreement::default();
    }
    let mut a = Agreement::default();
    for (p, (_, s)) in wet_chance(c, origin(c), case.hours, &times, case.weights).iter().zip(case.seen) {
        let p: f64 = (0..UNKNOWNS).map(|k| share(k) * p[k]).sum();
        *match (p >= FED, *s) {
            (true, Wetness::Wet) => &mut a.fed_wet,
            (true, Wetness::Dry) => &mut a.fed_dry,
            (false, Wetness::Wet) => &mut a.unfed_wet,
            (false, Wetness::Dry) => &mut a.unfed_dry,
        } += 1;
    }
    a
}

fn traced(case: &Case<'_>, mut doubts: Vec<String>) -> TracedSpot {
    let of = weigh(case);
    let name = |c: Causes| match c {
        Causes::One(a) => vec![case.candidates[a].id.clone()],
        Causes::Two(a, b) => vec![case.candidates[a].id.clone(), case.candidates[b].id.clone()],
        Causes::NotListed => vec![],
    };
    let mut all: Vec<(Causes, f64)> = of.all.iter().copied().filter(|a| a.0 != Causes::NotListed).collect();
    all.sort_by(|a, b| b.1.total_cmp(&a.1).then_with(|| name(a.0).cmp(&name(b.0))));
    let agreements: Vec<Agreement> = case.candidates.iter().map(|c| agreement(c, case)).collect();
    let reasons = |i: usize| -> Vec<String> {
        let c = &case.candidates[i];
        let f = from(c, case.spot, case.front_deg);
        let mut out = vec![say::place(c, case.spot, &f, case.units)];
        out.extend(say::rain(c, &agreements[i]));
        out.push(say::state(c));
        out.extend(say::tests(i, case));
        out
    };
    let ranking = all
        .iter()
        .enumerate()
        .map(|(k, (causes, p))| {
            let because = if k < MOST_REASONS && *p >= WORTH_READING {
                match *causes {
                    Causes::One(a) => reasons(a),
                    Causes::Two(a, b) => {
                        let mut v = vec!["One alone explains it less well than both.".to_owned()];
                        v.extend(reasons(a));
                        v.extend(reasons(b));
                        v
                    }
                    Causes::NotListed => vec![],
                }
            } else {
                vec![]
            };
            RankedCause { causes: name(*causes), p: *p, because }
        })
        .collect();
    let mut candidates: Vec<TracedCandidate> = case
        .candidates
        .iter()
        .enumerate()
        .map(|(i, c)| {
            let (f, q) = (from(c, case.spot, case.front_deg), &of.parts[i]);
            TracedCandidate {
                id: c.id.clone(),
                p: of.marginal(i),
                factors: TraceFactors {
                    state: q.state / LN_2,
                    place: (q.place - EDGE_OF_REACH) / LN_2,
                    rain: (q.rain - of.unlisted_rain) / LN_2,
                    tests: (q.tests - of.unlisted_tests) / LN_2,
                },
                agreement: agreements[i],
                along_m: f.along,
                side_m: f.side,
                drop_m: f.drop,
            }
        })
        .collect();
    candidates.sort_by(|a, b| b.p.total_cmp(&a.p).then_with(|| a.id.cmp(&b.id)));
    let tests = next(case, &of);
    if case.candidates.is_empty() {
        doubts.push("Nothing is on the list, or everything on it was struck: what feeds this spot is not known.".into());
    }
    if case.seen.is_empty() && case.trials.is_empty() {
        doubts.push("Nobody said yet when it was wet and when dry, and nothing was tested: only place and state speak.".into());
    }
    let stop = stop(case, &of, &candidates, &tests);
    TracedSpot {
        id: case.spot.id.clone(),
        ranking,
        would_change: would_change(case, &candidates, &tests),
        candidates,
        unlisted: of.unlisted(),
        open_bits: entropy(of.all.iter().map(|a| &a.1)),
        next: tests,
        stop,
        doubts,
    }
}

fn of_id<'a>(case: &Case<'a>, id: &str) -> Option<&'a TraceCandidate> {
    case.candidates.iter().find(|c| c.id == id)
}

fn pct(p: f64) -> String {
    format!("{:.0} %", p * 100.0)
}

/// What should be seen in the next rain like the one after which the spot was last wet.
fn watch(case: &Case<'_>, c: &TraceCandidate) -> Option<String> {
    if c.kind.without_rain() {
        return Some(format!("Once {} is mended the spot should dry and stay dry, rain or not.", say::within(c.called())));
    }
    let wet = case.seen.iter().filter(|s| s.1 == Wetness::Wet).map(|s| s.0).max_by(f64::total_cmp)?;
    let at = usize::try_from(wet.floor() as i64 - case.hours.first).ok()?.min(case.hours.day.len().checked_sub(1)?);
    let most = case.hours.day[at.saturating_sub(48)..=at].iter().copied().fold(0.0, f64::max);
    (most >= 1.0).then(|| {
        format!(
            "If it was right, the spot stays dry in the next rain like the one before it was last seen wet ({} in a day); if it shows again, the next on the list comes first.",
            case.units.rain_depth(most)
        )
    })
}

fn stop(case: &Case<'_>, of: &Weighing, ranked: &[TracedCandidate], tests: &[NextTest]) -> StopRule {
    let no = |because: String| StopRule { now: false, because, watch: None };
    let Some(first) = ranked.first() else {
        return no("Nothing on the list can be mended. Put on it what could reach the spot.".into());
    };
    let Some(c) = of_id(case, &first.id) else { return no(String::new()) };
    let rival = ranked.iter().skip(1).map(|r| r.p).fold(of.unlisted(), f64::max);
    if first.p > SURE && rival < RIVAL {
        return StopRule {
            now: true,
            because: format!(
                "{} stands at {} and nothing else over {}: mend it and watch the next rain.",
                say::at_start(c.called()),
                pct(first.p),
                pct(RIVAL)
            ),
            watch: watch(case, c),
        };
    }
    if let Some(t) = tests.first()
        && first.p >= LIKELY
        && repair(c) <= t.minutes
    {
        return StopRule {
            now: true,
            because: format!(
                "Mending {} takes {:.0} min, no more than the next test ({:.0} min), and it stands at {}: mend it and watch.",
                say::within(c.called()),
                repair(c),
                t.minutes,
                pct(first.p)
            ),
            watch: watch(case, c),
        };
    }
    if of.unlisted() > first.p {
        return no(format!(
            "Something that is not on the list is likelier ({}) than anything on it: look for it first.",
            pct(of.unlisted())
        ));
    }
    no(format!(
        "{} stands at {}, the next at {}: a test tells them apart cheaper than a wrong repair.",
        say::at_start(c.called()),
        pct(first.p),
        pct(rival)
    ))
}

fn would_change(case: &Case<'_>, ranked: &[TracedCandidate], tests: &[NextTest]) -> Vec<String> {
    let Some(first) = ranked.first() else { return vec![] };
    let mut out = Vec::new();
    let called = |id: &str| of_id(case, id).map_or_else(|| id.to_owned(), |c| say::within(c.called()));
    for t in tests {
        let other = |o: &super::form::TestOutcome| o.leads != [first.id.clone()] && o.chance > 0.005;
        let what = say::planned(t, &called(&t.candidate));
        for (o, shows) in [(&t.if_dry, "left the spot dry"), (&t.if_wet, "showed wet")] {
            if other(o) && out.len() < 3 {
                let leads = if o.leads.is_empty() {
                    "something not on the list".to_owned()
                } else {
                    say::in_a_row(&o.leads.iter().map(|l| called(l)).collect::<Vec<_>>())
                };
                out.push(format!("If {what} {shows}, {leads} would lead with {}.", pct(o.p)));
            }
        }
    }
    if out.is_empty() {
        out.push("No single test would put another first.".into());
    }
    out
}
