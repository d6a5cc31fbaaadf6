//! Rainwater in the report: the plan with its flows, every eave, every gutter, a long section of each that fails.

use crate::rain_svg::{flow_svg, section_svg};
use crate::svg::Look;
use crate::view::JobView;
use envelope::rain::account::{RainAccountInput, rain_account};
use serde_json::{Value, json};

/// Everything the report says of rainwater; null while there is no roof or nothing was entered.
pub(crate) fn rain_data(view: &JobView) -> Value {
    let (Some(roof), Some(rainwater)) = (&view.roof, &view.rainwater) else { return Value::Null };
    let brief = &view.job.body.brief;
    let input = RainAccountInput {
        roof: roof.clone(),
        rainwater: rainwater.clone(),
        front_faces: brief.front_faces,
        practice: view.practice.clone(),
        at_mm_h: None,
        remedies: false,
    };
    let a = rain_account(&input);
    let Some(plan) = flow_svg(roof, brief, &a, None, Look::PRINT) else { return Value::Null };
    let eaves: Vec<Value> = a
        .eaves
        .iter()
        .map(|e| {
            let hangs = e.gutter.clone().unwrap_or_else(|| "none".into());
            json!([e.label, format!("{:.1}", e.sheet_m2 + e.burst_m2), format!("{:.0}", e.l_min), format!("{:.1}", e.gpm), hangs])
        })
        .collect();
    let gutters: Vec<Value> = a
        .gutters
        .iter()
        .map(|g| {
            let outlets: Vec<String> =
                g.outlets.iter().map(|o| format!("{:.1} m from its left end, {:.0} L/min, let go {}", o.x_m, o.l_min, o.ends)).collect();
            let fails = g.run.as_ref().filter(|r| r.spilt_l_s > 0.0 || g.offered.iter().any(|o| o.condition == "gutter-standing-water"));
            json!({ "id": g.id, "sentence": g.sentence, "outlets": outlets, "section": fails.map(|r| section_svg(r, &g.id, Look::PRINT)) })
        })
        .collect();
    json!({
        "plan": plan, "plan_alt": format!("Roof plan with its flows. {}", a.balance), "design": a.design, "balance": a.balance,
        "eaves": eaves, "gutters": gutters, "doubts": a.doubts, "school": view.practice.rule("gutter-sizing").words(),
        "hose": a.gutters.iter().flat_map(|g| g.outlets.iter().filter(|o| o.ends.contains("unknown end")).map(|_| format!("{}: its downspout ends in a buried pipe of unknown end. Run a hose into it and look where it comes out.", g.id))).collect::<Vec<_>>(),
    })
}
