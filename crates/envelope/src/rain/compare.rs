//! Before and after a change, side by side: what is changed, what spills, how deep, and what comes to each place where water is let go.

mod changed;

pub use changed::{Changed, changes};

use super::figures::{GutterAccount, MIN, RainAccount};
use super::record::Rainwater;
use crate::measure::Units;
use crate::site::Face;
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
    /// What is changed, in words.
    pub changes: Vec<String>,
    /// The gutter the first change is at; none where it is at none.
    pub gutter: Option<String>,
    /// The face the first change is at.
    pub face: Option<Face>,
    /// Before and after in a sentence.
    pub sentence: String,
    /// What differs, and all that spills.
    pub rows: Vec<Compared>,
}

fn spilt(a: &RainAccount) -> f64 {
    super::sum(a.gutters.iter().filter_map(|g| g.run.as_ref()).map(|r| r.spilt_l_s * MIN))
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
    for f in a.flats.iter().filter(|f| f.problem.is_none()) {
        out.push((format!("{} stands at its deepest", f.label), "mm", f.rain.depth_m * 1000.0));
        if let Some(blocked) = &f.blocked {
            out.push((format!("{} with its outlets blocked", f.label), "mm", blocked.depth_m * 1000.0));
        }
        out.push((format!("{} holds after rain", f.label), "mm", f.stays.depth_m * 1000.0));
    }
    for e in a.eaves.iter().filter(|e| e.gutter.is_none() && e.drops_m.is_none()) {
        out.push((format!("{} pours free", e.label), "L/min", e.l_min));
    }
    out
}

/// How deep water stands on each flat roof on which a change tells, before and after, in a sentence each.
fn on_flats(before: &RainAccount, after: &RainAccount, u: Units) -> Vec<String> {
    /// A change smaller than this is none, metres.
    const SAME_M: f64 = 0.0005;
    let of = |a: &RainAccount, mass: &str| a.flats.iter().find(|f| f.mass == mass && f.problem.is_none()).map(|f| f.rain.depth_m);
    let both = after.flats.iter().filter_map(|f| Some((&f.label, of(before, &f.mass)?, of(after, &f.mass)?)));
    let tells = both.filter(|(_, was, is)| (was - is).abs() > SAME_M);
    tells
        .map(|(label, was, is)| format!("In the rain the {label} holds {} at its deepest before, {} after.", u.depth(was), u.depth(is)))
        .collect()
}

/// Compares two accounts of one roof.
///
/// What differs between the two records is told first, then what follows from it.
pub fn compare(records: [&Rainwater; 2], accounts: [&RainAccount; 2], u: Units) -> Comparison {
    let [before, after] = accounts;
    let told = changes(records, after);
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
    let flats = on_flats(before, after, u);
    let spills = if (a - b).abs() < SAME {
        // Where no gutter hangs none can spill.
        (flats.is_empty() || !after.gutters.is_empty()).then(|| format!("{} spill before and after.", u.flow(a)))
    } else {
        Some(format!("Before, {} spill in {}; after, {}.", u.flow(a), u.rain(after.design_mm_h), u.flow(b)))
    };
    let sentence = match (rows.len(), told.is_empty()) {
        (1, true) => "Nothing changes.".to_owned(),
        (1, false) => "It changes no figure.".to_owned(),
        _ => spills.into_iter().chain(flats).collect::<Vec<_>>().join(" "),
    };
    let first = told.first();
    let gutter = first.and_then(|c| c.gutter.clone());
    let hung = |of: &Rainwater| of.gutters.iter().find(|g| Some(&g.id) == gutter.as_ref()).map(|g| g.eave.clone());
    let eave = hung(records[1]).or_else(|| hung(records[0]));
    let face = eave.and_then(|key| after.eaves.iter().chain(&before.eaves).find(|e| e.key == key).map(|e| e.face));
    Comparison { gutter, face, changes: told.into_iter().map(|c| c.words).collect(), sentence, rows }
}
