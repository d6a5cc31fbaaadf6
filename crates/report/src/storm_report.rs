//! The count after a storm in the report: plan, rates with ranges, soft metal, wind, which storm, what is not from it, what was not
//! reached, and a statement of facts for an insurer without an opinion on cover.

use account::Case;
use drawing::{Look, rates_svg, soft_wheel_svg, storm_plan_svg};
use envelope::roof::access::capital;
use envelope::storm::figures::StormAccount;
use envelope::storm::record::{Fell, StormVisit};
use serde_json::{Value, json};

fn rate_row(s: &envelope::storm::figures::SlopeStorm) -> Option<Value> {
    let (sure, all) = (s.rate_sure.as_ref()?, s.rate_all.as_ref()?);
    let range = |r: [f64; 2]| format!("{:.1} to {:.1}", r[0], r[1]);
    Some(json!([
        capital(&s.label),
        format!("{}", sure.squares),
        format!("{:.1} ({})", sure.rate_per_100sqft, range(sure.ci95_per_100sqft)),
        format!("{:.1} ({})", all.rate_per_100sqft, range(all.ci95_per_100sqft)),
        s.how.map_or("", |h| h.words()),
    ]))
}

/// What an insurer is told: only what was counted, where, how and when.
fn statement(case: &Case, kept: &StormVisit, a: &StormAccount) -> Vec<String> {
    let day = |d: jiff::civil::Date| d.strftime("%-d %B %Y").to_string();
    let b = case.brief();
    let mut out = vec![];
    if let Some(on) = b.visited_on {
        out.push(format!("Looked at on {} at {}.", day(on), b.address));
    }
    let squares = kept.squares.iter().filter(|q| q.counted).count();
    if squares > 0 {
        let moved = kept.squares.iter().filter(|q| q.counted && q.moved.is_some()).count();
        let places = if moved == 0 {
            "all at places drawn by kept seeds".to_owned()
        } else {
            format!("{moved} of them moved, with the reason kept")
        };
        out.push(format!("{squares} test squares were counted, {places}."));
    }
    let of = |s: &envelope::storm::figures::SlopeStorm| {
        let r = s.rate_sure.as_ref()?;
        let doubtful = s.rate_all.as_ref().map_or(0, |x| x.count - r.count);
        let more = if doubtful > 0 { format!(" and {doubtful} doubtful") } else { String::new() };
        Some(format!(
            "{}: {} sure{more} in {} {}.",
            capital(&s.label),
            r.count,
            r.squares,
            if r.squares == 1 { "square" } else { "squares" }
        ))
    };
    out.extend(a.slopes.iter().filter_map(of));
    out.extend(a.soft.iter().map(|s| format!("{}.", s.words)));
    for w in &kept.wind {
        let slope = a.slopes.iter().find(|s| s.facet == w.slope).map_or(w.slope.as_str(), |s| &s.label);
        out.push(format!(
            "{}, {}: of {} looked at {} creased, {} lifted, {} gone, {} unsealed without a crease.",
            capital(slope),
            w.part.name(),
            w.units,
            w.creased,
            w.lifted,
            w.missing,
            w.unsealed
        ));
    }
    if let Some(w) = &a.which {
        out.push(w.words.clone());
    }
    out.extend(a.unreached.clone());
    out.push("This is a statement of what was counted. It is no opinion on cause beyond the figures, and none on cover.".into());
    out
}

/// Everything the report says of the storm; null while nothing was counted.
pub(crate) fn storm_data(case: &Case) -> Value {
    let kept = case.damage_kept();
    if kept == StormVisit::default() {
        return Value::Null;
    }
    let a = case.damage();
    let look = Look::PRINT.in_units(case.practice().units);
    let first = a.which.as_ref().and_then(|w| w.ranked.first());
    let from = first.and_then(|r| r.event.as_ref()).and_then(|id| kept.events.iter().find(|e| e.id == *id)).and_then(|e| e.from_deg);
    let squares: Vec<String> = a
        .squares
        .iter()
        .map(|q| {
            let place = q.place_words.as_ref().map_or_else(String::new, |p| format!(" {}.", capital(p)));
            let moved = kept.squares.iter().find(|k| k.id == q.id).and_then(|k| k.moved.as_ref());
            let why = moved.map_or_else(String::new, |m| format!(" Moved because: {}.", m.why.trim_end_matches('.')));
            format!("{}: {}{place}{why}", q.id, q.words)
        })
        .collect();
    let not_this: Vec<String> = kept
        .not_this
        .iter()
        .map(|n| {
            let count = if n.count > 0 { format!("{} \u{d7} ", n.count) } else { String::new() };
            let place = if n.place.trim().is_empty() { String::new() } else { format!(", {}", n.place) };
            let name = n.what.name();
            let what = if n.count > 0 { name.to_owned() } else { capital(name) };
            format!("{count}{what}{place}: {}.", n.why.trim_end_matches('.'))
        })
        .collect();
    let opened: Vec<String> = kept
        .opened
        .iter()
        .map(|o| {
            let what = match o.what {
                Fell::Limb => "Limb",
                Fell::Ice => "Ice",
                Fell::Debris => "Debris",
            };
            let open = if o.opened.trim().is_empty() { String::new() } else { format!(": {}", o.opened.trim_end_matches('.')) };
            format!("{what}, {}{open}. {}.", o.place, if o.covered { "Covered for now" } else { "Still open" })
        })
        .collect();
    let wind: Vec<String> =
        a.wind.iter().flat_map(|w| w.contrast.iter().map(|c| c.words.clone()).chain(w.creases.iter().map(|c| c.words.clone()))).collect();
    let money = |x: f64| format!("{x:.0} {}", kept.costs.as_ref().map_or("", |c| &c.currency)).trim().to_owned();
    let costs: Vec<Value> = a
        .slopes
        .iter()
        .filter_map(|s| {
            let e = s.even_sure.as_ref()?;
            Some(json!([
                capital(&s.label),
                format!("{:.1}", e.break_even_hits_per_100sqft),
                money(e.repair_cost_at_rate),
                money(e.replace_cost),
                s.verdict
            ]))
        })
        .collect();
    json!({
        "plan": storm_plan_svg(case.roof(), a, from, look), "rates_svg": rates_svg(a, look),
        "soft_svg": soft_wheel_svg(&case.view().wheel, &kept.soft, from, look),
        "rates": a.slopes.iter().filter_map(rate_row).collect::<Vec<_>>(), "directional": a.directional_words,
        "squares": squares, "soft": a.soft.iter().map(|s| format!("{}.", s.words)).collect::<Vec<_>>(),
        "wind": wind, "mends": a.mends.iter().map(|m| m.words.clone()).collect::<Vec<_>>(), "opened": opened,
        "which": a.which.as_ref().map_or("", |w| &w.words), "source": kept.events_source,
        "conflicts": a.which.as_ref().map(|w| w.conflicts.clone()).unwrap_or_default(),
        "reasons": first.map(|r| r.factors.iter().map(|f| format!("{} ({:+.1} bits)", capital(&f.words), f.bits)).collect::<Vec<_>>()).unwrap_or_default(),
        "not_this": not_this, "unreached": a.unreached, "costs": costs, "cautions": a.cautions,
        "statement": statement(case, &kept, a), "confidence": format!("{:.0} %", a.confidence * 100.0), "sure": format!("{:.0} %", a.sure_at * 100.0),
    })
}
