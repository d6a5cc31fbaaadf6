//! Wind, as it was counted: what follows from the rows, each row's share in words, and how wide corners and edges are.

use super::*;

/// A share with its range, in words: "3 of 40 (2 to 20 %)".
pub(super) fn in_words(s: &ExactShare) -> String {
    let [low, high] = s.range.map(|x| format!("{:.0}", x * 100.0));
    format!("{} of {} ({low} to {high} %)", s.of, s.units)
}

/// The part of the account that is about wind.
pub(super) struct Blown {
    pub(super) wind: Option<WindOut>,
    pub(super) rows: Vec<RowWords>,
    pub(super) zone: Option<String>,
    /// Why nothing can be said although something was looked at.
    pub(super) problem: Option<String>,
}

/// A crease counts as often as it was found.
pub(super) fn creases(kept: &StormVisit) -> Vec<f64> {
    let of = |w: &WindKept| Some(std::iter::repeat_n(w.from_deg?, w.creased.min(500) as usize));
    kept.wind.iter().filter_map(of).flatten().take(500).collect()
}

/// The least width of the plan, by the walls of its largest mass.
fn least_width(roof: &Account) -> Option<f64> {
    roof.masses
        .iter()
        .filter(|m| m.walls.len() >= 4)
        .max_by(|a, b| plane::area(&a.walls).abs().total_cmp(&plane::area(&b.walls).abs()))
        .map(|m| plane::length(m.walls[0], m.walls[1]).min(plane::length(m.walls[1], m.walls[2])))
}

/// What follows from the rows; the gust is what creases are held against.
pub(super) fn blown(on: &StormOn<'_>, gust_from_deg: Option<f64>) -> Blown {
    let label = |facet: &str| on.slope(facet).map_or(facet, |s| &s.label).to_owned();
    let shape = on.roof.shape.as_ref();
    let eave = shape.and_then(|s| s.edges.iter().map(|e| e.z0_m.min(e.z1_m)).reduce(f64::min));
    let parts: Vec<WindPart> = on.kept.wind.iter().map(|w| w.part(&label(&w.slope))).collect();
    let seals: Vec<SealTried> =
        on.kept.seals.iter().map(|t| SealTried { slope: label(&t.slope), tried: t.tried, open: t.failed }).collect();
    let harmed = on.kept.wind.iter().zip(&parts).filter(|(_, p)| p.wrong().is_none()).map(|(kept, p)| RowWords {
        of: RowOf::Wind,
        id: kept.id.clone(),
        words: format!("Harmed by wind: {}", in_words(&of(p.harmed(), p.units, CONFIDENCE))),
    });
    let open = on.kept.seals.iter().zip(&seals).filter(|(_, s)| s.wrong().is_none()).map(|(kept, s)| RowWords {
        of: RowOf::Seals,
        id: kept.id.clone(),
        words: format!("Open: {}", in_words(&of(s.open, s.tried, CONFIDENCE))),
    });
    let rows = harmed.chain(open).collect();
    // Nothing looked at is no fault.
    let looked = !parts.is_empty() || !seals.is_empty();
    let out = wind(&WindInput {
        parts,
        seals,
        crease_from_deg: creases(on.kept),
        gust_from_deg,
        least_width_m: shape.and_then(|_| least_width(on.roof)),
        eave_m: eave.filter(|e| *e > 0.1),
        confidence: Some(CONFIDENCE),
    });
    let problem = out.as_ref().err().filter(|_| looked).map(ToString::to_string);
    let wind = out.ok();
    let zone = wind.as_ref().and_then(|w| w.zone_m).map(|m| zone_words(m, on.practice.units));
    Blown { wind, rows, zone, problem }
}
