//! The reader's units: under feet and inches nothing that is said of the demo house may still be metric, and the other way round.

use crate::{case, drawings};
use account::Case;
use drawing::Look;
use envelope::measure::Units;
use serde_json::Value;

fn clinic(of_practice: Units, own: Option<Units>) -> Case {
    case(|whole| {
        whole.practice.units = of_practice;
        whole.job.body.brief.units = own;
    })
}

/// Typed or told by a person within a sentence: the name of a fitting, the stick the pitch was read with, the name of a school.
const ECHOED: [&str; 8] = [
    "porch 6 in",
    "spray head 6 in",
    "skylight 0.6 x 1.2 m",
    "12 in down from the end of a level of 24 in",
    "3.05 m (10 ft)",
    "300 mm (12 in)",
    "The greater of 3 m and half",
    "7.6 m (25 ft) apart and within 3 m (10 ft) of a corner",
];

/// What a person typed, and what echoes it, stands in the units it was typed in.
const TYPED: [&str; 12] = ["text", "said", "ends", "why", "school", "name", "allowed", "schools", "measures", "judged", "reason", "source"];

fn strings(v: &Value, key: &str, out: &mut Vec<String>) {
    match v {
        Value::String(s) if !TYPED.contains(&key) => out.push(s.clone()),
        Value::Array(a) => a.iter().for_each(|v| strings(v, key, out)),
        Value::Object(o) => o.iter().for_each(|(k, v)| strings(v, k, out)),
        _ => {}
    }
}

/// Everything that the benches and the report say of a job in words.
fn said(case: &Case) -> Vec<String> {
    let mut out = Vec::new();
    let mut rain = case.rain().clone();
    // What goes in is as typed.
    rain.law = None;
    for v in [
        serde_json::to_value(case.roof()).unwrap(),
        serde_json::to_value(rain).unwrap(),
        serde_json::to_value(&case.survey().account).unwrap(),
        serde_json::to_value(case.storm().unwrap()).unwrap(),
        serde_json::to_value(case.mending().unwrap()).unwrap(),
        serde_json::to_value(case.walls()).unwrap(),
    ] {
        strings(&v, "", &mut out);
    }
    out.extend(drawings(case, Look::PRINT).into_iter().map(|(_, svg)| svg));
    out.into_iter().map(|s| ECHOED.iter().fold(s, |s, e| s.replace(e, ""))).collect()
}

/// A figure followed by one of these units.
fn speaks<'a>(text: &'a str, units: &[&str]) -> Option<&'a str> {
    let mut words = text.split(|c: char| c.is_whitespace() || "<>\"();,".contains(c)).filter(|w| !w.is_empty()).peekable();
    while let Some(word) = words.next() {
        let number = word.trim_start_matches(['-', '+']).chars().all(|c| c.is_ascii_digit() || c == '.' || c == '/');
        if number && words.peek().is_some_and(|next| units.contains(&next.trim_end_matches(['.', ':']))) {
            return words.next();
        }
    }
    None
}

const METRIC: [&str; 8] = ["mm", "m", "m²", "m³", "L", "L/min", "L/s", "mm/h"];
const US: [&str; 8] = ["in", "ft", "sq", "cu", "gal", "gpm", "in/h", "ft/s"];

#[test]
fn everything_that_is_said_is_in_the_readers_units_and_in_no_others() {
    for (units, own, other) in [(Units::Us, US, METRIC), (Units::Metric, METRIC, US)] {
        let case = clinic(Units::Metric, Some(units));
        let all = said(&case);
        let wrong: Vec<&String> = all.iter().filter(|s| speaks(s, &other).is_some()).collect();
        assert!(wrong.is_empty(), "{units:?}:\n{wrong:#?}");
        let right = all.iter().filter(|s| speaks(s, &own).is_some()).count();
        assert!(right > 40, "{units:?}: only {right} strings have a figure, so nothing was tried");
    }
}

#[test]
fn a_job_without_units_of_its_own_follows_its_practice_and_one_with_them_does_not() {
    let with = |of_practice, own| clinic(of_practice, own).practice().units;
    assert_eq!(with(Units::UsMetric, None), Units::UsMetric);
    assert_eq!(with(Units::UsMetric, Some(Units::Metric)), Units::Metric);
}
