//! The ground in the report: the plan with its contours and standing water, transects that fail, the levels, the storm in
//! sentences, and what would mend it.

use account::Case;
use drawing::{GroundOver, Look, ground_svg, transect_svg};
use envelope::round::NoteKind;
use envelope::site::Zone;
use serde_json::{Value, json};

/// Everything the report says of the ground; null while nothing was read.
pub(crate) fn ground_data(case: &Case) -> Value {
    let view = case.view();
    let Some(ground) = &view.ground else { return Value::Null };
    let s = case.survey();
    let a = &s.account;
    let u = case.practice().units;
    let look = Look::PRINT.in_units(u);
    let storm = case.storm();
    let fails: Vec<Value> = a
        .transects
        .iter()
        .filter(|t| !t.right && t.result.is_some())
        .map(|t| {
            let remedies: Vec<Value> =
                t.remedies.iter().map(|r| json!({ "words": r.sentence, "possible": r.possible, "digs": r.digs })).collect();
            json!({ "sentence": t.sentence, "svg": transect_svg(t, look), "remedies": remedies })
        })
        .collect();
    /// More readings than this fill pages nobody reads; the file has them all.
    const MOST_PRINTED: usize = 120;
    let levels: Vec<Value> = a
        .readings
        .iter()
        .take(MOST_PRINTED)
        .map(|r| {
            let (top, how) = (json!(r.top), json!(r.how));
            json!([r.id, u.length(r.at[0], 2), u.length(r.at[1], 2), u.depth(r.z_m), top, how])
        })
        .collect();
    let mends: Vec<Value> = case
        .mending()
        .unwrap_or_default()
        .iter()
        .map(|m| {
            let rows: Vec<Value> = m.remedies.iter().map(|r| json!({ "words": r.words, "sentence": r.sentence, "digs": r.digs })).collect();
            json!({ "place": m.place, "school": m.school, "remedies": rows })
        })
        .collect();
    let digs = a.transects.iter().flat_map(|t| &t.remedies).any(|r| r.digs)
        || mends.iter().any(|m| m["remedies"].as_array().is_some_and(|r| r.iter().any(|x| x["digs"] == true)));
    let zones = [Zone::Ground, Zone::Base];
    json!({
        "plan": ground_svg(s, ground, GroundOver::default(), look),
        "plan_alt": format!("Plan of the ground with contours from the finished floor. {}", a.faces.iter().map(|f| f.sentence.as_str()).collect::<Vec<_>>().join(" ")),
        "faces": a.faces.iter().map(|f| &f.sentence).collect::<Vec<_>>(),
        "ponds": a.ponds.iter().map(|p| format!("{}: {}, {} deep and {} when it runs over. {}", p.id, p.place, u.depth(p.depth_m), u.water(p.volume_m3), p.way_out)).collect::<Vec<_>>(),
        "transects": fails, "levels": levels, "left_out": a.readings.len().saturating_sub(MOST_PRINTED),
        "book": a.book_says,
        "storm": storm.as_ref().ok().map(|t| t.storm.clone()),
        "wet": storm.as_ref().map(|t| t.wet.iter().map(|w| json!({ "sentence": w.sentence, "from": w.from.iter().map(|f| format!("{:.0} % {}", f.share * 100.0, f.origin)).collect::<Vec<_>>().join(", ") })).collect::<Vec<_>>()).unwrap_or_default(),
        "ways_in": storm.as_ref().map(|t| t.ways_in.iter().map(|w| w.sentence.clone()).collect::<Vec<_>>()).unwrap_or_default(),
        "if_blocked": storm.as_ref().ok().and_then(|t| t.if_blocked.as_ref()).map(|b| b.words.clone()),
        "dry": storm.as_ref().map(|t| t.dry.clone()).unwrap_or_default(),
        "balance": storm.as_ref().map_or_else(ToString::to_string, |t| t.balance.clone()),
        "mends": mends, "digs": digs,
        "nearby": a.nearby.iter().map(|n| &n.sentence).collect::<Vec<_>>(),
        "kept": view.notes.iter().filter(|n| n.body.kind == NoteKind::Recommendation && zones.contains(&n.body.place.zone)).map(|n| n.body.text.clone()).collect::<Vec<_>>(),
        "doubts": a.doubts,
    })
}
