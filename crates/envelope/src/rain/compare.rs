//! Before and after a change, side by side: what spills, how deep, and what comes to each place where water is let go.

use super::figures::{GutterAccount, MIN, RainAccount};
use super::record::{Inside, Rainwater};
use crate::measure::Units;
use serde::{Deserialize, Serialize};

/// One figure before and after.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Compared {
    /// Where and what.
    pub what: String,
    /// Its unit.
    pub unit: String,
    /// Before; none where there was nothing.
    pub before: Option<f64>,
    /// After; none where there is nothing any more.
    pub after: Option<f64>,
}

/// A change, compared.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Comparison {
    /// What is changed, in words; filled by [`changes`].
    pub changes: Vec<String>,
    /// Before and after in a sentence.
    pub sentence: String,
    /// What differs, and all that spills.
    pub rows: Vec<Compared>,
}

fn spilt(a: &RainAccount) -> f64 {
    a.gutters.iter().filter_map(|g| g.run.as_ref()).map(|r| r.spilt_l_s * MIN).fold(0.0, |a, b| a + b)
}

fn figures(a: &RainAccount) -> Vec<(String, &'static str, f64)> {
    let mut out = vec![("spills in all".to_owned(), "L/min", spilt(a))];
    let of = |g: &GutterAccount, what: &str| format!("{} {what}", g.id);
    for g in &a.gutters {
        let Some(r) = &g.run else { continue };
        out.push((of(g, "spills"), "L/min", r.spilt_l_s * MIN));
        out.push((of(g, "stands at its deepest"), "mm", r.deepest_m * 1000.0));
        if let Some(from) = r.spills_from_mm_h {
            out.push((of(g, "spills from"), "mm/h", from));
        }
        out.push((of(g, "holds after rain"), "mm", r.stands_m * 1000.0));
        for (k, o) in g.outlets.iter().enumerate() {
            out.push((of(g, &format!("outlet {} lets go {}", k + 1, o.ends)), "L/min", o.l_min));
        }
    }
    for e in a.eaves.iter().filter(|e| e.gutter.is_none() && e.drops_m.is_none()) {
        out.push((format!("{} pours free", e.label), "L/min", e.l_min));
    }
    out
}

/// Compares two accounts of one roof.
pub fn compare(before: &RainAccount, after: &RainAccount, u: Units) -> Comparison {
    /// A change smaller than this is none, in each figure's own unit.
    const SAME: f64 = 0.05;
    let (was, is) = (figures(before), figures(after));
    let mut rows: Vec<Compared> = was
        .iter()
        .map(|(what, unit, v)| Compared {
            what: what.clone(),
            unit: (*unit).into(),
            before: Some(*v),
            after: is.iter().find(|o| o.0 == *what).map(|o| o.2),
        })
        .collect();
    let new = is.iter().filter(|(what, _, _)| was.iter().all(|o| o.0 != *what));
    rows.extend(new.map(|(what, unit, v)| Compared { what: what.clone(), unit: (*unit).into(), before: None, after: Some(*v) }));
    let differs = |r: &Compared| r.before.zip(r.after).is_none_or(|(a, b)| (a - b).abs() > SAME);
    let mut first = true;
    // The first row is all that spills, and always shown.
    rows.retain(|r| std::mem::take(&mut first) || differs(r));
    let (a, b) = (spilt(before), spilt(after));
    let sentence = if rows.len() == 1 {
        "Nothing changes.".to_owned()
    } else if (a - b).abs() < SAME {
        format!("{} spill before and after.", u.flow(a))
    } else {
        format!("Before, {} spill in {}; after, {}.", u.flow(a), u.rain(after.design_mm_h), u.flow(b))
    };
    Comparison { changes: vec![], sentence, rows }
}

/// What was changed between two records, in words: one for each gutter that differs.
pub fn changes(before: &Rainwater, after: &Rainwater) -> Vec<String> {
    let mut out = Vec::new();
    for g in &after.gutters {
        let Some(was) = before.gutters.iter().find(|o| o.id == g.id) else {
            out.push(format!("hang {}, {} wide", g.id, g.width));
            continue;
        };
        let mut parts: Vec<String> = Vec::new();
        if was.inside != g.inside {
            parts.push(match g.inside {
                Inside::Clean => "clean it".into(),
                Inside::Aged => "aged inside".into(),
                Inside::Debris => "debris in it".into(),
            });
        }
        if (&was.form, &was.width, &was.depth) != (&g.form, &g.width, &g.depth) {
            parts.push(format!("{} wide", g.width));
        }
        if was.levels != g.levels {
            parts.push(format!("refit it to levels {}", g.levels));
        }
        if (&was.past_fascia, &was.above_rim, &was.eave, &was.round) != (&g.past_fascia, &g.above_rim, &g.eave, &g.round) {
            parts.push("hang it elsewhere".into());
        }
        let added = g.outlets.iter().filter(|o| was.outlets.iter().all(|w| w.from_left != o.from_left));
        parts.extend(added.map(|o| format!("outlet of {} at {}", o.bore, o.from_left)));
        for o in &g.outlets {
            let Some(w) = was.outlets.iter().find(|w| w.from_left == o.from_left) else { continue };
            if w.bore != o.bore {
                parts.push(format!("outlet of {} in place of {}", o.bore, w.bore));
            }
            if (w.ends, &w.distance, &w.onto) != (o.ends, &o.distance, &o.onto) {
                parts.push(format!("let go {}", super::checks::ends(o.ends, &o.distance)));
            }
        }
        if was.outlets.iter().any(|w| g.outlets.iter().all(|o| o.from_left != w.from_left)) {
            parts.push("one outlet less".into());
        }
        if !parts.is_empty() {
            out.push(format!("{}: {}", g.id, parts.join(", ")));
        }
    }
    out.extend(before.gutters.iter().filter(|g| after.gutters.iter().all(|o| o.id != g.id)).map(|g| format!("take {} down", g.id)));
    if before.storm != after.storm {
        out.push("another rain".into());
    }
    out
}
