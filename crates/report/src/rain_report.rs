//! Rainwater in the report: the plan with its flows, every eave, every gutter, a long section of each that fails.

use account::Case;
use drawing::{FlatState, Look, flat_svg, flow_svg, section_svg};
use envelope::roof::access::capital;
use envelope::round::NoteKind;
use envelope::site::Zone;
use serde_json::{Value, json};

/// Everything the report says of rainwater; null while there is no roof or nothing was entered.
pub(crate) fn rain_data(case: &Case) -> Value {
    let view = case.view();
    let (Some(roof), Some(kept)) = (&view.roof, &view.rainwater) else { return Value::Null };
    let a = case.rain();
    let u = case.practice().units;
    let look = Look::PRINT.in_units(u);
    let Some(plan) = flow_svg(roof, case.brief(), a, None, look) else { return Value::Null };
    let eaves: Vec<Value> = a
        .eaves
        .iter()
        .map(|e| {
            let hangs = e.gutter.clone().unwrap_or_else(|| "none".into());
            json!([e.label, u.area(e.sheet_m2 + e.burst_m2), u.flow(e.l_min), hangs])
        })
        .collect();
    let gutters: Vec<Value> = a
        .gutters
        .iter()
        .map(|g| {
            let outlets: Vec<String> = g
                .outlets
                .iter()
                .map(|o| format!("{} from its left end, {}, let go {}", u.length(o.x_m, 1), u.flow(o.l_min), o.ends))
                .collect();
            let fails = g.run.as_ref().filter(|r| r.spilt_l_s > 0.0 || g.offered.iter().any(|o| o.condition == "gutter-standing-water"));
            let flights: Vec<&str> = g.flights.iter().filter(|f| !f.result.caught).map(|f| f.sentence.as_str()).collect();
            let allowed: Vec<Value> = g
                .allowed
                .iter()
                .map(|a| json!([a.name, a.l_s.map_or("–".into(), |l| u.flow_s(l)), if a.followed { "followed" } else { "" }]))
                .collect();
            let section = fails.map(|r| section_svg(r, &g.id, look));
            json!({ "id": g.id, "sentence": g.sentence, "outlets": outlets, "flights": flights, "allowed": allowed, "section": section })
        })
        .collect();
    let flats: Vec<Value> = a
        .flats
        .iter()
        .map(|f| {
            let outlets: Vec<String> = f
                .outlets
                .iter()
                .map(|o| {
                    let state = if o.blocked { "blocked when seen" } else { o.ends.as_str() };
                    format!("{}: {}, {} over its sill, {state}", capital(&o.name), u.flow(o.l_min), u.depth(o.head_m))
                })
                .collect();
            let worst = if f.blocked.as_ref().is_some_and(|b| b.depth_m > f.rain.depth_m) { FlatState::Blocked } else { FlatState::Rain };
            json!({
                "label": capital(&f.label), "sentence": f.sentence, "caution": f.caution, "outlets": outlets,
                "plan": kept.flats.iter().find(|k| k.mass == f.mass).and_then(|k| flat_svg(k, f, worst, look)), "state": if worst == FlatState::Blocked { "with its outlets blocked" } else { "in the design rain" },
            })
        })
        .collect();
    json!({
        "flats": flats, "plan": plan, "plan_alt": format!("Roof plan with its flows. {}", a.balance), "design": a.design, "balance": a.balance,
        "eaves": eaves, "gutters": gutters, "doubts": a.doubts, "school": view.practice.rule("gutter-sizing").words(),
    "checks": a.checks,
        // What the hose has to show; one that was kept on the round already prints with its place.
        "hose": a.gutters.iter().flat_map(|g| &g.offered).filter(|o| o.limitation && view.notes.iter().all(|n| n.body.text != o.line)).map(|o| o.line.clone()).collect::<Vec<_>>(),
        "kept": view.notes.iter().filter(|n| n.body.kind == NoteKind::Recommendation && n.body.place.zone == Zone::Edge).map(|n| n.body.text.clone()).collect::<Vec<_>>(),
    })
}
