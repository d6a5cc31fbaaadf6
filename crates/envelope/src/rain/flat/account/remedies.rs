//! What would help a flat roof: each change tried by itself, in the same rain.

use super::*;

/// Changes that are tried, each by itself.
pub(super) fn remedies(
    record: &FlatRoof,
    p: &Prepared,
    areas: &(Vec<f64>, BTreeMap<usize, f64>),
    now: &FlatAccount,
    cx: &Context<'_>,
) -> Vec<RoofRemedy> {
    /// A drain of this bore, and an overflow this high over the roof, are what is usually put in; rules of practice.
    const DRAIN_MM: f64 = 100.0;
    const OVERFLOW_M: f64 = 0.05;
    let u = cx.practice.units;
    let mut out = Vec::new();
    let mut tried = |words: String, sills: Vec<Sill>, main: &dyn Fn(usize) -> bool| {
        let f = flows(p, &sills, areas, cx.rain_mm_h);
        let shut: Vec<Sill> = sills.iter().enumerate().map(|(k, s)| Sill { shut: s.shut || main(k), ..*s }).collect();
        let b = flows(p, &shut, areas, cx.rain_mm_h).water;
        let stays = hour(p, &sills, areas, cx.law).1.iter().map(|q| p.pool(q).depth_m).fold(0.0, f64::max);
        let was_blocked = now.blocked.as_ref().map_or(now.rain.depth_m, |b| b.depth_m);
        let rows = [
            ("in the design rain", now.rain.depth_m, f.water.depth_m),
            ("with its outlets blocked", was_blocked, b.depth_m),
            ("after rain", now.stays.depth_m, stays),
        ];
        let differ = |r: &&(&str, f64, f64)| (r.1 - r.2).abs() >= FILM_M;
        let parts: Vec<String> =
            rows.iter().filter(differ).map(|(w, a, b)| format!("{w} {} before, {} after", u.depth(*a), u.depth(*b))).collect();
        if !parts.is_empty() {
            let sentence = format!("{}.", capital(&parts.join("; ")));
            out.push(RoofRemedy {
                words,
                sentence,
                depth_mm: f.water.depth_m * 1000.0,
                stays_mm: stays * 1000.0,
                blocked_mm: b.depth_m * 1000.0,
            });
        }
    };
    let n = record.outlets.len();
    let is_main = |k: usize| record.outlets.get(k).is_none_or(|o| !o.overflow);
    if record.outlets.iter().any(|o| o.blocked) {
        let cleared = p.sills.iter().zip(&record.outlets).map(|(s, o)| Sill { shut: o.ends == Ends::Nowhere, ..*s }).collect();
        tried("Clear what is blocked".into(), cleared, &is_main);
    }
    // At the deepest place after rain, or in it.
    let deepest = now.stays.pools.first().or(now.rain.pools.first());
    if let Some(cell) = deepest.and_then(|d| p.deck.cell_near(d.at)) {
        let [left, front] = deepest.map_or([0.0; 2], |d| d.from_walls_m);
        let mouth = Mouth::Drain { bore: crate::gutter::downspout::Bore::Round { diameter_mm: DRAIN_MM }, strainer: true };
        let drain = Sill { leaf: p.deck.leaf(cell), height_m: p.deck.land.z[cell], mouth, shut: false };
        let mut sills = p.sills.clone();
        sills.push(drain);
        let words = format!(
            "A drain of {} at the deepest place, {} from the left and {} from the front",
            u.depth(DRAIN_MM / 1000.0),
            u.length(left, 1),
            u.length(front, 1)
        );
        tried(words, sills, &is_main);
    }
    if !record.outlets.iter().any(|o| o.overflow) && p.deck.rims.values().any(|r| r.parapet) {
        // Beside the parapet, where the roof is lowest.
        let beside = |r: &(&usize, &Rim)| p.deck.cell_near(r.1.at).map_or(f64::MAX, |k| p.deck.land.z[k]);
        let lowest = p.deck.rims.iter().filter(|(_, r)| r.parapet).min_by(|a, b| beside(a).total_cmp(&beside(b)));
        if let Some((rim, cell)) = lowest.and_then(|(_, r)| Some((r, p.deck.cell_near(r.at)?))) {
            let mouth = Mouth::Scupper { width_m: 0.3, height_m: 0.1 };
            let mut sills = p.sills.clone();
            sills.push(Sill { leaf: p.deck.leaf(cell), height_m: p.deck.land.z[cell] + OVERFLOW_M, mouth, shut: false });
            let words = format!(
                "An overflow scupper through the {} parapet, {} wide and {} above the roof",
                rim.face.name().to_lowercase(),
                u.depth(0.3),
                u.depth(OVERFLOW_M)
            );
            tried(words, sills, &|k| k < n && is_main(k));
        }
    }
    out
}
