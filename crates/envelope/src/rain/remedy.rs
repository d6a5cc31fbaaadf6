//! The smallest change that ends the spilling: changes are tried one by one and in pairs, and ranked by what they cost.

use super::checks::may_stand_m;
use super::figures::{MIN, Remedy};
use super::record::{GutterRecord, Inside, Rainwater};
use crate::gutter::begins::Beginnings;
use crate::gutter::downspout::Bore;
use crate::gutter::run::{AlongGutter, Run, RunInput, RunOutlet, run_with};
use crate::gutter::section::Section;
use crate::measure::Units;
use crate::practice::Practice;

/// What the changes usually cost; made-up figures of the demo town, editable.
pub const COSTS: [(&str, &str, f64); 6] = [
    ("clean", "clean it", 60.0),
    ("larger-outlet", "a larger outlet and downspout", 160.0),
    ("refit-fall", "refit its fall", 180.0),
    ("diverter", "diverter above a valley foot", 90.0),
    ("one-more-outlet", "one more outlet and downspout", 240.0),
    ("next-size", "hang the next size up", 640.0),
];

/// A diverter lays a valley's water over so much of the eave, metres; rule of practice.
const DIVERTED_M: f64 = 2.0;
/// Sizes of gutters and pipes go up by about a quarter.
const UP: f64 = 1.25;

/// One change: its name, what would be done, and what it makes of a run.
struct Change<'a> {
    name: &'static str,
    words: String,
    make: Box<dyn Fn(&RunInput) -> RunInput + 'a>,
}

fn changes<'a>(g: &GutterRecord, now: &RunInput, good_fall: f64, u: Units, known: &Beginnings) -> Vec<Change<'a>> {
    let mut out: Vec<Change<'a>> = Vec::new();
    let mut add = |name: &'static str, words: String, make: Box<dyn Fn(&RunInput) -> RunInput + 'a>| out.push(Change { name, words, make });
    if g.inside != Inside::Clean {
        add("clean", "clean it".into(), Box::new(|i| RunInput { manning_n: Inside::Clean.roughness(), ..i.clone() }));
    }
    if !now.outlets.is_empty() {
        let larger = |i: &RunInput| {
            let outlets = i.outlets.iter().map(|o| RunOutlet { bore: wider(o.bore), strainer: false, ..o.clone() }).collect();
            RunInput { outlets, ..i.clone() }
        };
        add("larger-outlet", "fit outlets and downspouts of the next size, without strainers".into(), Box::new(larger));
    }
    if good_fall > 0.0 {
        let words = format!("refit it to fall 1 in {:.0} to its nearest outlet", 1.0 / good_fall);
        add("refit-fall", words, Box::new(move |i| RunInput { levels: refitted(i, good_fall), ..i.clone() }));
    }
    if !now.bursts.is_empty() {
        let words = format!("set a diverter above the valley foot that lays its water over {} of the eave", u.length(DIVERTED_M, 0));
        add("diverter", words, Box::new(diverted));
    }
    let usual = RunOutlet { x_m: 0.0, bore: Bore::Round { diameter_mm: 75.0 }, strainer: false, up_m: 0.0 };
    // One more like those there are, and no overflow.
    let like = RunOutlet { up_m: 0.0, ..now.outlets.first().cloned().unwrap_or(usual) };
    if let Some(x) = best_place(now, &like, known) {
        let more = move |i: &RunInput| {
            let mut more = i.clone();
            more.outlets.push(RunOutlet { x_m: x, ..like.clone() });
            more
        };
        add("one-more-outlet", format!("add an outlet and downspout {} from its left end", u.length(x, 1)), Box::new(more));
    }
    add("next-size", "hang the next size up".into(), Box::new(|i| RunInput { section: larger(i.section), ..i.clone() }));
    out
}

/// The place of one more outlet after which the run takes the most rain.
fn best_place(now: &RunInput, like: &RunOutlet, known: &Beginnings) -> Option<f64> {
    /// Eighths of the run are near enough: a downspout must find a corner or a pier anyway.
    const PLACES: usize = 8;
    /// Two outlets nearer than this are one.
    const APART_M: f64 = 0.5;
    (0..=PLACES)
        .map(|k| now.length_m * k as f64 / PLACES as f64)
        .filter(|x| now.outlets.iter().all(|o| (o.x_m - x).abs() > APART_M))
        .filter_map(|x| {
            let mut i = now.clone();
            i.outlets.push(RunOutlet { x_m: x, ..like.clone() });
            run_with(&i, known).ok().map(|r| (x, r.spills_from_mm_h.unwrap_or(0.0)))
        })
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .map(|best| best.0)
}

fn diverted(i: &RunInput) -> RunInput {
    let mut out = i.clone();
    for b in std::mem::take(&mut out.bursts) {
        let long = DIVERTED_M.min(i.length_m);
        let from = (b.x_m - long / 2.0).clamp(0.0, i.length_m - long);
        out.along.push(AlongGutter { from_m: from, to_m: from + long, width_from_m: b.area_m2 / long, width_to_m: b.area_m2 / long });
    }
    out
}

/// The floor falling evenly to the nearest outlet from everywhere.
fn refitted(i: &RunInput, good_fall: f64) -> Vec<[f64; 2]> {
    let mut outlets: Vec<f64> = i.outlets.iter().map(|o| o.x_m).collect();
    outlets.sort_by(f64::total_cmp);
    let mut stops = vec![0.0, i.length_m];
    stops.extend(&outlets);
    stops.extend(outlets.windows(2).map(|w| (w[0] + w[1]) / 2.0));
    stops.sort_by(f64::total_cmp);
    stops.dedup_by(|a, b| (*a - *b).abs() < 1e-6);
    let nearest = |x: f64| outlets.iter().map(|o| (o - x).abs()).fold(f64::MAX, f64::min);
    stops.into_iter().map(|x| [x, if outlets.is_empty() { 0.0 } else { nearest(x) * good_fall }]).collect()
}

fn larger(s: Section) -> Section {
    match s {
        Section::Rect { width_m, depth_m } => Section::Rect { width_m: width_m * UP, depth_m: depth_m * UP },
        Section::HalfRound { diameter_m } => Section::HalfRound { diameter_m: diameter_m * UP },
        Section::Trapezoid { bottom_m, top_m, depth_m } => {
            Section::Trapezoid { bottom_m: bottom_m * UP, top_m: top_m * UP, depth_m: depth_m * UP }
        }
    }
}

fn wider(b: Bore) -> Bore {
    match b {
        Bore::Round { diameter_mm } => Bore::Round { diameter_mm: diameter_mm * UP },
        Bore::Rectangular { width_mm, length_mm } => Bore::Rectangular { width_mm: width_mm * UP, length_mm: length_mm * UP },
    }
}

/// Changes worth showing.
const SHOWN: usize = 6;

/// Tries the changes one by one and in pairs; the cheapest that ends the spilling comes first.
pub(crate) fn remedies(
    g: &GutterRecord,
    now: &RunInput,
    before: &Run,
    kept: &Rainwater,
    practice: &Practice,
    known: &Beginnings,
) -> Vec<Remedy> {
    let cost = |change: &str| kept.costs.get(change).copied().unwrap_or_else(|| COSTS.iter().find(|c| c.0 == change).map_or(0.0, |c| c.2));
    let stands = may_stand_m(practice);
    let changes = changes(g, now, practice.rule("gutter-fall").figure(), practice.units.first(), known);
    let u = practice.units.first();
    let mut out: Vec<Remedy> = Vec::new();
    let mut attempt = |names: String, words: String, price: f64, i: &RunInput| {
        let Ok(r) = run_with(i, known) else { return };
        let figure = |s: Option<f64>| s.map_or("at once".to_owned(), |v| format!("from {}", u.rain(v)));
        let says = |r: &Run| format!("spills {}, {}, {} stay", u.flow(r.spilt_l_s * MIN), figure(r.spills_from_mm_h), u.depth(r.stands_m));
        out.push(Remedy {
            change: names,
            words: crate::roof::access::capital(&words),
            cost: price,
            spills_from_mm_h: r.spills_from_mm_h,
            spilt_l_min: r.spilt_l_s * MIN,
            stands_mm: r.stands_m * 1000.0,
            ends_it: r.spilt_l_s <= 0.0 && r.stands_m <= stands,
            sentence: format!("Before: {}. After: {}.", says(before), says(&r)),
        });
    };
    for c in &changes {
        attempt(c.name.into(), c.words.clone(), cost(c.name), &(c.make)(now));
    }
    for (k, a) in changes.iter().enumerate() {
        for b in &changes[k + 1..] {
            // An outlet first, so that the fall is set toward the nearest of all of them.
            let both = if b.name == "one-more-outlet" { (a.make)(&(b.make)(now)) } else { (b.make)(&(a.make)(now)) };
            attempt(format!("{}+{}", a.name, b.name), format!("{} and {}", a.words, b.words), cost(a.name) + cost(b.name), &both);
        }
    }
    // A pair that holds a single change which already ends it is more than is needed.
    let enough: Vec<String> = out.iter().filter(|r| r.ends_it && !r.change.contains('+')).map(|r| r.change.clone()).collect();
    out.retain(|r| !r.change.contains('+') || !r.change.split('+').any(|c| enough.iter().any(|e| e == c)));
    out.sort_by(|a, b| b.ends_it.cmp(&a.ends_it).then(a.cost.total_cmp(&b.cost)));
    out.truncate(SHOWN);
    out
}
