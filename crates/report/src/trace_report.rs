//! Moisture and tracing in the report: maps with their references, patches that were not confirmed, drying, and the trace of each spot.

use account::{Case, percent};
use drawing::{Look, drying_svg, moisture_svg, rain_svg, trace_plan_svg, trace_section_svg};
use envelope::moisture::record::Moisture;
use envelope::trace::form::{TestKind, Wetness};
use envelope::trace::record::Trace;
use serde_json::{Value, json};

/// Reasons are printed for what is at least so likely.
const PRINTED: f64 = 0.05;

/// Everything the report says of moisture; null while nothing was read.
pub(crate) fn moisture_data(case: &Case) -> Value {
    let kept = case.moisture_kept();
    if kept == (Moisture { rooms: kept.rooms.clone(), ..Moisture::default() }) {
        return Value::Null;
    }
    let a = case.moisture();
    let look = Look::PRINT.in_units(case.practice().units);
    let maps: Vec<Value> = a
        .maps
        .iter()
        .map(|m| {
            let against = if m.against.is_empty() { String::new() } else { format!("{} ", m.against) };
            json!({ "name": m.name, "on": m.on.to_string(), "sentence": m.sentence, "svg": moisture_svg(m, &a.heat, look), "against": against, "doubts": m.doubts })
        })
        .collect();
    let heat: Vec<String> = a
        .heat
        .iter()
        .flat_map(|h| {
            let own = if h.against.is_empty() {
                h.patches.iter().map(|p| p.sentence.clone()).collect::<Vec<_>>()
            } else {
                vec![format!("Not usable for moisture. {}", h.against.join(" "))]
            };
            own.into_iter().map(|s| format!("{} {}: {s}", h.id, h.name)).collect::<Vec<_>>()
        })
        .collect();
    json!({
        "maps": maps, "heat": heat, "left": a.left,
        "drying": a.drying.iter().map(|d| json!({ "name": d.name, "sentence": d.sentence, "svg": drying_svg(d, look) })).collect::<Vec<_>>(),
        "air": a.air.iter().map(|x| format!("{}: {}", x.name, x.sentence)).chain(a.air_says.clone()).collect::<Vec<_>>(),
    })
}

/// Everything the report says of tracing; null while there is no spot.
pub(crate) fn trace_data(case: &Case) -> Value {
    let kept: Trace = case.trace_kept();
    if kept.spots.is_empty() {
        return Value::Null;
    }
    let a = case.trace();
    let look = Look::PRINT.in_units(case.practice().units);
    let called = |id: &str| a.list.iter().find(|g| g.candidate.id == id).map_or_else(|| id.to_owned(), |g| g.candidate.called().to_owned());
    let days = kept.days();
    let spots: Vec<Value> = kept
        .spots
        .iter()
        .map(|s| {
            let traced = a.result.iter().flat_map(|r| &r.spots).find(|t| t.id == s.id);
            let ranking: Vec<Value> = traced
                .iter()
                .flat_map(|t| &t.ranking)
                .filter(|r| r.p >= PRINTED)
                .map(|r| {
                    let name: Vec<String> = r.causes.iter().map(|c| called(c)).collect();
                    json!({ "name": name.join(" with "), "p": percent(r.p), "because": r.because })
                })
                .collect();
            let tests: Vec<String> = kept
                .tests
                .iter()
                .filter(|t| t.spot == s.id)
                .map(|t| {
                    let what = match t.kind {
                        TestKind::Hose => "Hose on",
                        TestKind::Dye => "Dye at",
                        TestKind::Pressure => "Pressure on",
                        TestKind::Meter => "Meter at",
                        TestKind::CutOut => "Opened up at",
                    };
                    let shown = if t.result == Wetness::Wet { "the spot got wet" } else { "the spot stayed dry" };
                    format!("{what} {}, {:.0} min: {shown}.", called(&t.candidate), t.minutes)
                })
                .collect();
            json!({
                "name": s.name,
                "stop": traced.map_or_else(|| a.problem.clone().unwrap_or_default(), |t| t.stop.because.clone()),
                "watch": traced.and_then(|t| t.stop.watch.clone()),
                "ranking": ranking,
                "unlisted": traced.map_or_else(String::new, |t| percent(t.unlisted)),
                "plan": trace_plan_svg(a, &s.id, look), "section": trace_section_svg(a, &s.id, look), "rain": rain_svg(&kept, &s.id, &days, look),
                "tests": tests,
                "doubts": traced.map(|t| t.doubts.clone()).unwrap_or_default(),
            })
        })
        .collect();
    let struck: Vec<String> = a.list.iter().filter_map(|g| Some(format!("{}: {}", g.candidate.called(), g.struck.as_ref()?))).collect();
    json!({ "spots": spots, "untried": a.untried, "struck": struck, "cautions": a.cautions })
}
