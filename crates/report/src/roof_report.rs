//! The roof in the report: plan, slopes, age and life, going up, details answered.

use account::Case;
use drawing::{Look, elevation_svg, in_twelve, life_svg, number, plan_svg};
use envelope::measure::Units;
use envelope::roof::account::{Account, Slope};
use envelope::roof::details::DetailState;
use serde_json::{Value, json};

/// Everything the report says of the roof; null while there is no shape.
pub(crate) fn roof_data(case: &Case) -> Value {
    let view = case.view();
    if view.roof.is_none() {
        return Value::Null;
    }
    let a = case.roof();
    let u = case.practice().units;
    let look = Look::PRINT.in_units(u);
    let (Some(shape), Some(plan)) = (&a.shape, plan_svg(a, look)) else { return Value::Null };
    let slopes: Vec<Value> = a
        .slopes
        .iter()
        .zip(&shape.facets)
        .map(|(s, f)| {
            json!([
                number(a, &s.facet),
                s.label,
                s.covering_name,
                in_twelve(f.pitch_in_12),
                u.area(f.true_area_m2),
                format!("{:.1}", f.squares),
                s.life.as_ref().map_or_else(|| "–".into(), |l| spread(l.age)),
                left(s),
            ])
        })
        .collect();
    let said = |state: DetailState| -> Vec<String> {
        let of = |d: &&envelope::roof::details::Detail| d.state == state;
        a.details
            .iter()
            .filter(of)
            .map(|d| {
                [d.words.clone(), d.size.clone().unwrap_or_default(), d.said.clone()]
                    .into_iter()
                    .filter(|t| !t.is_empty())
                    .collect::<Vec<_>>()
                    .join(" · ")
            })
            .collect()
    };
    let access: Vec<Value> = a
        .masses
        .iter()
        .map(|m| json!({ "name": m.name, "words": m.access.words, "reasons": m.access.reasons.iter().map(|r| &r.why).collect::<Vec<_>>() }))
        .collect();
    let elevations: Vec<Value> = a.elevations.iter().map(|e| json!({ "name": e.face.name(), "svg": elevation_svg(e, a, look) })).collect();
    json!({
        "elevations": elevations,
        "plan": plan, "plan_alt": format!("Roof plan, north up: {} slopes, {} along them.", a.slopes.len(), u.area(shape.true_area_m2)),
        "area": format!("{} seen from above, {} along the slopes, {:.1} squares of 100 sq ft.", u.area(shape.plan_area_m2), u.area(shape.true_area_m2), shape.squares),
        "edges": shape.edge_totals.iter().map(|(k, l)| format!("{} {}", k.replace('_', " "), u.length(l.true_m, 1))).collect::<Vec<_>>().join(" · "),
        "slopes": slopes, "coverings": coverings(a, u), "papers": a.papers, "access": access,
        "access_school": view.practice.rule("roof-access").words(),
        "right": said(DetailState::Right), "wrong": said(DetailState::Wrong), "not_seen": said(DetailState::NotSeen), "open": said(DetailState::Open),
        "doubts": a.doubts,
        "limits": limits(a),
    })
}

/// What is printed as limits: how each mass was looked at, and reasons against the advice, each once.
fn limits(a: &Account) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    for l in a.masses.iter().filter(|m| !m.access.limitation.is_empty()).map(|m| format!("{}: {}", m.name, m.access.limitation)) {
        if !out.contains(&l) {
            out.push(l);
        }
    }
    out.extend(a.details.iter().filter(|d| d.state == DetailState::NotSeen).map(|d| format!("{}: {}", d.words, d.said)));
    out
}

fn spread(s: [f64; 3]) -> String {
    format!("{:.0} ({:.0}–{:.0})", s[1], s[0], s[2])
}

fn left(s: &Slope) -> String {
    match (&s.spent, s.left) {
        (Some(_), _) => "spent".into(),
        (None, Some(l)) if l[1] < 0.0 => format!("overdue ({:.0} to {:.0})", l[0], l[2]),
        (None, Some(l)) => spread(l),
        (None, None) => "–".into(),
    }
}

fn coverings(a: &Account, u: Units) -> Vec<Value> {
    a.coverings
        .iter()
        .map(|c| {
            let worst = a.slopes.iter().find(|s| s.label == c.worst);
            let drawing = worst.and_then(|s| s.life.as_ref().map(|l| life_svg(s, l, Look::PRINT.in_units(u))));
            let layers: Vec<String> = a
                .slopes
                .iter()
                .filter(|s| s.covering.as_ref() == Some(&c.covering))
                .filter_map(|s| s.layer.as_ref())
                .take(1)
                .map(|l| format!("Its {} counts by itself: {} years left. {}", l.name, spread(l.life.remaining), l.why))
                .collect();
            json!({
                "name": c.name, "sentence": c.sentence, "schools": c.schools, "conflicts": c.conflicts, "layers": layers,
                "worst": c.worst, "drawing": drawing, "drawing_alt": format!("Age and remaining life of the {} as curves, with what each piece of evidence moved.", c.worst),
                "plan": format!("Plan to renew in {}, be ready from {}. {:.1} squares at {:.0} are {:.0}: {:.0} a year until then (estimate).", c.plan_year, c.ready_from, c.squares, c.cost_per_square, c.cost, c.reserve_per_year),
                "spent": a.slopes.iter().filter(|s| s.covering.as_ref() == Some(&c.covering)).find_map(|s| s.spent.clone()),
            })
        })
        .collect()
}
