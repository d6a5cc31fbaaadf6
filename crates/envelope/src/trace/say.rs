//! Why an explanation stands where it stands, in sentences made from the figures.

use super::form::{Agreement, SeenAs, Spot, TestKind, TraceCandidate, Wetness};
use super::place::{From, origin};
use super::weighing::Case;
use super::weights::Origin;
use crate::measure::Units;

/// Nearer than this is "straight" above or below, metres.
const STRAIGHT_M: f64 = 0.3;

/// Parts of a sentence in a row: a, b and c.
pub(crate) fn in_a_row(parts: &[String]) -> String {
    match parts {
        [] => String::new(),
        [one] => one.clone(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}

/// How the spot lies from the candidate.
pub(super) fn place(c: &TraceCandidate, s: &Spot, f: &From, u: Units) -> String {
    let m = |v: f64| u.length(v.abs(), 1);
    let name = at_start(c.called());
    let side = if f.side.abs() < STRAIGHT_M { "in line with it".to_owned() } else { format!("{} to the side", m(f.side)) };
    if f.other_wall {
        return format!("{name} is on another wall than the spot.");
    }
    match origin(c) {
        Origin::RoofDetail | Origin::RoofField if f.along < -STRAIGHT_M => {
            format!("{name} lies {} down the slope of the spot; water does not run up.", m(f.along))
        }
        Origin::RoofDetail | Origin::RoofField if f.along < STRAIGHT_M => format!("{name} lies over the spot, {side}."),
        Origin::RoofDetail | Origin::RoofField => format!("{name} lies {} up the slope of the spot, {side}.", m(f.along)),
        Origin::EaveEnd | Origin::WallOpening | Origin::WallField if f.drop < -STRAIGHT_M => {
            format!("{name} lies {} below the spot; water in a wall falls.", m(f.drop))
        }
        Origin::EaveEnd | Origin::WallOpening | Origin::WallField if f.drop < STRAIGHT_M => {
            format!("{name} lies at the spot's height, {side}.")
        }
        Origin::EaveEnd | Origin::WallOpening | Origin::WallField => format!("{name} lies {} above the spot, {side}.", m(f.drop)),
        Origin::GutterSpill => {
            format!("The water of {} lands at the wall, {side}; the spot lies {} above the floor.", within(c.called()), m(s.z_m))
        }
        Origin::Pond | Origin::LetGo | Origin::SprayHead => {
            let away = if f.along.abs() < STRAIGHT_M { "against the wall".to_owned() } else { format!("{} from it", m(f.along)) };
            format!("{name} is {away}, {side}.")
        }
        Origin::Plumbing | Origin::Condensation => {
            let off = if c.faces_deg.is_some() { f.side.abs() } else { f.along.abs() };
            if off < STRAIGHT_M { format!("{name} is at the spot.") } else { format!("{name} is {} from the spot.", m(off)) }
        }
    }
}

pub(super) fn state(c: &TraceCandidate) -> String {
    match c.state {
        SeenAs::Open => "It was found open.",
        SeenAs::Doubtful => "It was found doubtful.",
        SeenAs::Unseen => "It was not seen.",
        SeenAs::Sound => "It was found sound, which speaks against it.",
    }
    .into()
}

/// How the sightings agree.
pub(super) fn rain(c: &TraceCandidate, a: &Agreement) -> Option<String> {
    let (fed, unfed) = (a.fed_wet + a.fed_dry, a.unfed_wet + a.unfed_dry);
    if fed + unfed == 0 {
        return None;
    }
    let what = match origin(c) {
        Origin::RoofDetail | Origin::RoofField | Origin::EaveEnd | Origin::LetGo => "rain",
        Origin::WallOpening | Origin::WallField => "rain driven onto its wall",
        Origin::GutterSpill => "a cloudburst that fills its gutter",
        Origin::Pond => "rain enough to make it stand",
        Origin::SprayHead => "its running",
        Origin::Plumbing | Origin::Condensation => {
            let n = fed + unfed;
            return Some(format!("It needs no rain; the spot was wet in {} of {n} sightings.", a.fed_wet + a.unfed_wet));
        }
    };
    let mut out = Vec::new();
    if fed > 0 {
        out.push(format!("after {what} the spot showed in {} of {fed} sightings", a.fed_wet));
    }
    if unfed > 0 {
        out.push(match a.unfed_wet {
            0 => format!("without it in none of {unfed}"),
            n => format!("without it still in {n} of {unfed}"),
        });
    }
    let mut s = in_a_row(&out);
    if let Some(first) = s.get(..1) {
        s = first.to_uppercase() + &s[1..];
    }
    Some(format!("{s}."))
}

/// What the tests on it showed.
pub(super) fn tests(i: usize, case: &Case<'_>) -> Vec<String> {
    case.trials
        .iter()
        .filter(|(t, _)| t.on == i)
        .map(|(t, r)| {
            let what = match t.kind {
                TestKind::Hose => format!("A hose on it for {:.0} min", t.minutes),
                TestKind::Dye => "Dye in its water".into(),
                TestKind::Pressure => "Pressure on the pipe".into(),
                TestKind::Meter => "The meter along the line".into(),
                TestKind::CutOut => "Opening up".into(),
            };
            let shown = if *r == Wetness::Wet { "showed wet at the spot" } else { "left the spot dry" };
            let less = if t.kind == TestKind::Hose && !t.cleared && *r == Wetness::Wet {
                "; what lies below was not cleared first, so it counts for less"
            } else {
                ""
            };
            format!("{what} {shown}{less}.")
        })
        .collect()
}

/// A name within a sentence: without the capital it has in a list, unless it is one like G3.
pub(super) fn within(name: &str) -> String {
    let mut chars = name.chars();
    match (chars.next(), chars.next()) {
        (Some(a), Some(b)) if a.is_uppercase() && b.is_lowercase() => a.to_lowercase().collect::<String>() + &name[a.len_utf8()..],
        _ => name.to_owned(),
    }
}

/// A name at the start of a sentence.
pub(super) fn at_start(name: &str) -> String {
    name.chars().next().map_or_else(String::new, |a| a.to_uppercase().collect::<String>() + &name[a.len_utf8()..])
}

/// A test that is not made yet, within a sentence.
pub(super) fn planned(t: &super::form::NextTest, on: &str) -> String {
    let on = within(on);
    match t.test {
        TestKind::Hose => format!("a hose on {on} for {:.0} min", t.runs_minutes),
        TestKind::Dye => format!("dye at {on}"),
        TestKind::Pressure => format!("pressure on {on}"),
        TestKind::Meter => format!("a meter at {on}"),
        TestKind::CutOut => format!("opening up at {on}"),
    }
}
