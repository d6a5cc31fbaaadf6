//! A detail worked out and said: its template as it lies, the verdict with the way of the water, what it rests on, what would end it.

use super::figures::{DetailAccount, LapShown, MendingShown, WallInput, WayIn};
use super::laps::{End, LapMending, LapVerdict, LapsInput, LapsOut, Over, PathPoint, PieceKind, SealKind, Strip, laps};
use super::record::DetailRecord;
use super::templates::{Fault, build};
use crate::measure::Units;
use crate::practice::Practice;
use crate::rain::account::Offered;
use crate::site::Place;
use std::collections::BTreeMap;

/// The name of a piece in a sentence.
fn plain(id: &str) -> String {
    id.replace('-', " ")
}

/// A detail as it lies: its template at its sizes, with its faults, and the laps that were turned.
///
/// # Errors
/// A size that cannot be read.
fn built(d: &DetailRecord, practice: &Practice) -> Result<LapsInput, String> {
    let form = d.template.form();
    let mut sizes = BTreeMap::new();
    for s in form.sizes {
        let typed = d.sizes.get(s.key).map(|t| t.trim()).filter(|t| !t.is_empty());
        sizes.insert(s.key, typed.map_or(Ok(s.usual_m), |t| s.read(t))?);
    }
    let mut input = build(form, &|key| sizes.get(key).copied().unwrap_or(1.0), &|fault| d.faults.iter().any(|f| f == fault));
    if d.wind.drift() != 0.0 {
        input.drift = d.wind.drift();
    }
    for t in &d.turned {
        turn(&mut input.over, &t.outer, &t.inner);
    }
    if d.covered {
        input.covered = input.over.clone();
    }
    let there = |id: &String| input.pieces.iter().any(|p| p.id == *id);
    let installed: Vec<String> = d.installed.iter().filter(|id| there(id)).cloned().collect();
    if !installed.is_empty() {
        input.installed = Some(installed);
    }
    input.lap_minimum.insert(PieceKind::Barrier, practice.rule("lap-minimum").figure());
    Ok(input)
}

/// Puts one piece outside another, as a hand does it: the inner one is tucked under, and with it goes under whatever lies over the
/// outer one there. Otherwise the three would lie over each other in a ring.
fn turn(over: &mut [Over], outer: &str, inner: &str) {
    let mut under = vec![outer.to_owned()];
    let mut done: Vec<String> = vec![];
    while let Some(top) = under.pop() {
        if done.contains(&top) {
            continue;
        }
        if let Some(o) = over.iter_mut().find(|o| o.outer == inner && o.inner == top) {
            std::mem::swap(&mut o.outer, &mut o.inner);
        } else if top == outer && !over.iter().any(|o| o.outer == outer && o.inner == inner) {
            // The two do not overlap: there is nothing to turn.
            return;
        }
        // What lies over it, and still under the piece that was tucked in.
        let above = over.iter().filter(|o| o.inner == top).map(|o| o.outer.clone());
        let above: Vec<String> = above.filter(|a| over.iter().any(|o| o.outer == inner && o.inner == *a)).collect();
        under.extend(above);
        done.push(top);
    }
}

pub(super) fn detail_account(d: &DetailRecord, i: &WallInput) -> DetailAccount {
    let form = d.template.form();
    let at = if d.at.trim().is_empty() { String::new() } else { format!(" {}", d.at.trim()) };
    let name = format!("{}, {}{at}", form.name, d.face.name().to_lowercase());
    let place = Place { station: (!at.is_empty()).then(|| d.at.trim().to_owned()), ..Place::outside(d.face, form.zone) };
    let mut out = DetailAccount {
        id: d.id.clone(),
        name,
        place,
        input: None,
        problem: None,
        verdict: None,
        sound: 0.0,
        aged: 0.0,
        sentence: String::new(),
        rests_on: vec![],
        laps: vec![],
        mending: vec![],
        order: String::new(),
        too_early: None,
        offered: None,
        way_in: None,
        ways: [vec![], vec![]],
    };
    let input = match built(d, &i.practice) {
        Ok(input) => input,
        Err(e) => {
            out.problem = Some(e);
            return out;
        }
    };
    match laps(&input) {
        Err(e) => {
            out.problem = Some(e.to_string());
            out.laps = laps_shown(&input, None, d, i.practice.units);
        }
        Ok(r) => fill(&mut out, &input, &r, d, i),
    }
    out.input = Some(input);
    out
}

fn fill(out: &mut DetailAccount, input: &LapsInput, r: &LapsOut, d: &DetailRecord, i: &WallInput) {
    let form = d.template.form();
    out.verdict = Some(r.verdict);
    (out.sound, out.aged) = (r.sound.share_in, r.aged.share_in);
    out.rests_on = if r.verdict == LapVerdict::OnlyWhileSealed { rests_on(input) } else { vec![] };
    out.sentence = sentence(r, &out.rests_on);
    out.laps = laps_shown(input, Some(r), d, i.practice.units);
    out.mending = in_words(&r.mending, r, input);
    out.order = if r.order.is_empty() { String::new() } else { r.order.iter().map(|p| plain(p)).collect::<Vec<_>>().join(", then ") };
    out.too_early = r.installed_too_early.as_ref().map(|p| format!("The {} was put on before what it lies over.", plain(p)));
    out.ways = [ways(&r.sound.strips), ways(&r.aged.strips)];
    if r.verdict != LapVerdict::Right {
        let at = if d.at.trim().is_empty() { String::new() } else { format!("{}: ", d.at.trim()) };
        let faults: Vec<&Fault> = form.faults.iter().filter(|f| d.faults.iter().any(|k| k == f.key)).collect();
        let what = if faults.is_empty() { form.name.to_lowercase() } else { faults.iter().map(|f| f.words).collect::<Vec<_>>().join("; ") };
        let rests = if r.verdict == LapVerdict::Wrong {
            "wrong with every seal sound".to_owned()
        } else if out.rests_on.is_empty() {
            "right only while the seals hold".to_owned()
        } else {
            format!("right only while the seal at the {} holds", out.rests_on.join(" and at the "))
        };
        let line = format!("{at}{what}: {rests}");
        let condition = if faults.iter().any(|f| PAN_FAULTS.contains(&f.key)) { "sill-pan-corner-loose" } else { form.condition };
        out.offered = Some(Offered { condition: condition.into(), line, place: out.place.clone(), limitation: false });
        out.way_in = Some(WayIn {
            detail: d.id.clone(),
            place: out.place.clone(),
            words: out.name.clone(),
            condition: condition.into(),
            sound: out.sound,
            aged: out.aged,
            wind: d.wind,
        });
    }
}

/// Faults of an opening that are its pan's, whatever else stands in it.
const PAN_FAULTS: [&str; 5] = ["frame-leaks", "pan-corner", "no-pan", "no-end-dams", "foot-sealed"];

/// The ageing seals of which each alone keeps water out: without it, and with all others sound, some gets in.
fn rests_on(input: &LapsInput) -> Vec<String> {
    let ageing = (0..input.seals.len()).filter(|k| input.seals[*k].kind != SealKind::Adhered);
    ageing
        .filter(|k| {
            let mut without = input.clone();
            let gone = without.seals.remove(*k);
            // The same edge may be closed twice; then neither alone is what it rests on.
            let twice = without.seals.iter().any(|s| s.piece == gone.piece && s.edge == gone.edge);
            !twice && laps(&without).is_ok_and(|r| r.sound.strips.iter().any(|s| !s.right))
        })
        .map(|k| format!("{} of the {}", input.seals[k].edge.words(), plain(&input.seals[k].piece)))
        .collect()
}

/// The widest of the strips that do not go right.
fn worst(strips: &[Strip]) -> Option<&Strip> {
    strips.iter().filter(|s| !s.right).max_by(|a, b| (a.x_to - a.x_from).total_cmp(&(b.x_to - b.x_from)))
}

fn percent(share: f64) -> String {
    match 100.0 * share {
        p if p < 1.0 => "under 1 %".to_owned(),
        p => format!("{p:.0} %"),
    }
}

fn sentence(r: &LapsOut, rests_on: &[String]) -> String {
    match r.verdict {
        LapVerdict::Right => "Right: every drop runs off or drains, with aged seals as well.".to_owned(),
        LapVerdict::OnlyWhileSealed => {
            let seals =
                if rests_on.is_empty() { "its seals hold".to_owned() } else { format!("the {} stays closed", rests_on.join(" or the ")) };
            let way = worst(&r.aged.strips).map(|s| way(&s.path, s.end)).unwrap_or_default();
            format!("Right only while {seals}. Aged, water gets in over {} of its width: {way}.", percent(r.aged.share_in))
        }
        LapVerdict::Wrong => {
            let way = worst(&r.sound.strips).map(|s| way(&s.path, s.end)).unwrap_or_default();
            format!("Wrong with every seal sound: water gets in over {} of its width: {way}.", percent(r.sound.share_in))
        }
    }
}

/// The way of a drop in words: what it runs on, what it gets behind, how it ends.
fn way(path: &[PathPoint], end: End) -> String {
    let mut said: Vec<String> = vec![];
    let on = |p: &PathPoint| match p.on.as_str() {
        "sheathing" => "bare sheathing".to_owned(),
        id => format!("the {}", plain(id)),
    };
    if let Some(first) = path.first() {
        said.push(if first.on == "opening" { "it falls into the opening".into() } else { format!("it runs down {}", on(first)) });
    }
    for w in path.windows(2) {
        let (before, now) = (&w[0], &w[1]);
        if now.on == "opening" {
            if before.on != "opening" {
                said.push("falls into the opening".into());
            }
            continue;
        }
        let new: Vec<String> = now.behind.iter().filter(|b| !before.behind.contains(b)).map(|b| format!("the {}", plain(b))).collect();
        match (now.on != before.on, new.is_empty()) {
            (true, true) => said.push(format!("comes to {}", on(now))),
            (true, false) => said.push(format!("comes to {} behind {}", on(now), new.join(" and "))),
            (false, false) => said.push(format!("gets behind {}", new.join(" and "))),
            (false, true) => {}
        }
    }
    said.push(end.words().to_owned());
    let last = said.pop().unwrap_or_default();
    if said.is_empty() { last } else { format!("{} and {last}", said.join(", ")) }
}

/// One strip for each way that differs from its neighbour's: what the drawing shows.
fn ways(strips: &[Strip]) -> Vec<Strip> {
    let mut out: Vec<Strip> = vec![];
    let same = |a: &Strip, b: &Strip| {
        let of = |s: &Strip| s.path.iter().map(|p| (p.on.clone(), p.behind.clone())).collect::<Vec<_>>();
        a.end == b.end && a.wets == b.wets && of(a) == of(b)
    };
    for s in strips {
        match out.last_mut() {
            Some(l) if same(l, s) => {
                // The wider of two that do the same is shown, over the width of both.
                if s.x_to - s.x_from > l.x_to - l.x_from {
                    l.path.clone_from(&s.path);
                }
                l.x_to = s.x_to;
            }
            _ => out.push(s.clone()),
        }
    }
    out
}

fn laps_shown(input: &LapsInput, r: Option<&LapsOut>, d: &DetailRecord, u: Units) -> Vec<LapShown> {
    let find = |id: &str| input.pieces.iter().find(|p| p.id == id);
    let mut out: Vec<LapShown> = input
        .over
        .iter()
        .filter_map(|o| {
            let (outer, inner) = (find(&o.outer)?, find(&o.inner)?);
            let stacked = |up: &str, low: &str| r.and_then(|r| r.laps.iter().find(|l| l.upper == up && l.lower == low));
            let lap = stacked(&o.outer, &o.inner).or_else(|| stacked(&o.inner, &o.outer));
            let how = match lap {
                Some(l) => format!(", {}{}", u.depth(l.lap_m), if l.short { ", short" } else { "" }),
                None => String::new(),
            };
            let turned = d.turned.iter().any(|t| t.outer == o.outer && t.inner == o.inner);
            Some(LapShown {
                words: format!("{} over {}{how}", plain(&outer.id), plain(&inner.id)),
                outer: o.outer.clone(),
                inner: o.inner.clone(),
                shingled: lap.map(|l| l.shingled),
                short: lap.is_some_and(|l| l.short),
                turned,
            })
        })
        .collect();
    // Stacked laps first: those are the ones that shed water.
    out.sort_by_key(|l| l.shingled.is_none());
    out
}

fn in_words(mending: &[LapMending], r: &LapsOut, input: &LapsInput) -> Vec<MendingShown> {
    // Turning a lap so that the lower piece lies outside ends a leak on paper only: those come last.
    let kind = |id: &str| input.pieces.iter().find(|p| p.id == id).map(|p| p.kind);
    // A sheet is never put on over the boards or the framing it is to keep dry: no mending, though it would shed water.
    let can_be = |m: &&LapMending| {
        let dressed = |k: Option<PieceKind>| matches!(k, Some(PieceKind::Cladding | PieceKind::Trim | PieceKind::Frame));
        !m.reverse.iter().any(|o| kind(&o.outer) == Some(PieceKind::Barrier) && dressed(kind(&o.inner)))
    };
    let upside_down = |m: &LapMending| m.reverse.iter().any(|o| r.laps.iter().any(|l| l.upper == o.inner && l.lower == o.outer));
    let mut sets: Vec<&LapMending> = mending.iter().filter(can_be).filter(|m| !upside_down(m)).collect();
    if sets.is_empty() {
        sets = mending.iter().filter(can_be).collect();
    }
    sets.iter()
        .map(|m| {
            let each: Vec<String> = m.reverse.iter().map(|o| format!("the {} over the {}", plain(&o.outer), plain(&o.inner))).collect();
            let opens = if m.opens_wall { " The wall must be opened for it." } else { "" };
            MendingShown { words: format!("Lap {}.{opens}", each.join(", and ")), opens_wall: m.opens_wall }
        })
        .collect()
}
