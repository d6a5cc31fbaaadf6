//! The same place on several days.

use super::account::{MoistureInput, surface_name};
use super::drying::{DayReading, Dries, Drying, DryingInput, drying};
use super::figures::{PlaceDrying, SurfaceMap};
use super::map::{LEAST_REFERENCES, median};
use super::record::MoistureReading;
use super::surface::OnSurface;
use crate::plane::length;
use jiff::civil::Date;
use std::collections::BTreeMap;

/// Readings nearer than this on different days are of one place, metres.
const SAME_PLACE_M: f64 = 0.06;
/// Readings of one day nearer than this are the same spot read twice, metres.
const ONE_SPOT_M: f64 = 0.001;

/// A place that was read, from its first day on.
struct Place<'a> {
    surface: OnSurface,
    at: [f64; 2],
    of: Vec<&'a MoistureReading>,
}

/// Which readings of different days are of one place: each finds the nearest place of the days before, the nearest pairs first. What is
/// read beside one another on one day is two places, however near.
fn places(i: &MoistureInput) -> Vec<Place<'_>> {
    type Read<'a> = (OnSurface, [f64; 2], &'a MoistureReading);
    let mut by_day: BTreeMap<Date, Vec<Read<'_>>> = BTreeMap::new();
    for r in i.moisture.readings.iter().filter(|r| !r.dry) {
        by_day.entry(r.on).or_default().push((r.at.surface(), r.at.read().unwrap_or_default(), r));
    }
    let mut places: Vec<Place<'_>> = Vec::new();
    for readings in by_day.into_values() {
        let known = places.len();
        let alike = |p: &Place<'_>, s: &OnSurface, r: &MoistureReading| {
            p.surface == *s && p.of[0].instrument == r.instrument && p.of[0].scale == r.scale && p.of[0].material == r.material
        };
        let mut pairs: Vec<(f64, usize, usize)> = readings
            .iter()
            .enumerate()
            .flat_map(|(n, (s, at, r))| {
                let near = places.iter().enumerate().filter(|(_, p)| alike(p, s, r)).map(|(k, p)| (length(p.at, *at), k));
                near.filter(|(d, _)| *d < SAME_PLACE_M).map(move |(d, k)| (d, n, k)).collect::<Vec<_>>()
            })
            .collect();
        // Half way between two places it is of the one farther left, then lower.
        let place = |p: [f64; 2], q: [f64; 2]| p[0].total_cmp(&q[0]).then(p[1].total_cmp(&q[1]));
        pairs.sort_by(|a, b| {
            a.0.total_cmp(&b.0).then_with(|| place(places[a.2].at, places[b.2].at)).then_with(|| place(readings[a.1].1, readings[b.1].1))
        });
        // Where each place was read on this day, and which place each reading is of.
        let (mut read_at, mut place_of) = (BTreeMap::<usize, [f64; 2]>::new(), vec![None; readings.len()]);
        for (_, n, k) in pairs {
            let at = readings[n].1;
            if place_of[n].is_none() && read_at.get(&k).is_none_or(|o| length(*o, at) < ONE_SPOT_M) {
                place_of[n] = Some(k);
                read_at.insert(k, at);
            }
        }
        for (n, (surface, at, r)) in readings.into_iter().enumerate() {
            let again = || places[known..].iter().position(|p| alike(p, &surface, r) && length(p.at, at) < ONE_SPOT_M).map(|k| known + k);
            match place_of[n].or_else(again) {
                Some(k) => places[k].of.push(r),
                None => places.push(Place { surface, at, of: vec![r] }),
            }
        }
    }
    places
}

pub(super) fn days(i: &MoistureInput, maps: &[SurfaceMap]) -> Vec<PlaceDrying> {
    let u = i.practice.units;
    let mut out = Vec::new();
    for Place { surface, at: p, of } in places(i) {
        let (Some(first), Some(last)) = (of.first(), of.last()) else { continue };
        if first.on == last.on {
            continue;
        }
        let refs: Vec<f64> = maps
            .iter()
            .filter(|m| m.instrument == first.instrument && m.scale == first.scale && m.material == first.material)
            .flat_map(|m| m.references.iter().copied())
            .collect();
        // As many as a map asks for: fewer are no level.
        let Some(dry_level) = median(&refs).filter(|_| refs.len() >= LEAST_REFERENCES) else { continue };
        let from = first.on;
        let since = |d: Date| f64::from(from.until(d).map_or(0, |s| s.get_days()));
        let readings: Vec<DayReading> = of.iter().map(|r| DayReading { day: since(r.on), value: r.value }).collect();
        let d = drying(&DryingInput { dry_level, readings: readings.clone(), within: None, step: Some(first.scale.step()) });
        let name = format!("{}, {}", surface_name(&surface, &i.moisture), surface.part.at(&u.length(p[0], 2), &u.length(p[1], 2)));
        let (sentence, still_fed) = match &d {
            Err(e) => (e.to_string(), false),
            Ok(d) => say_drying(d, from),
        };
        out.push(PlaceDrying { name, readings, from, dry_level, drying: d.ok(), sentence, still_fed });
    }
    out
}

fn say_drying(d: &Drying, from: Date) -> (String, bool) {
    let tau = |v: Option<f64>| v.map_or_else(|| "no end".to_owned(), |v| format!("{v:.0}"));
    match d.verdict {
        Dries::Dry => ("It is dry.".into(), false),
        Dries::TooFew => ("Two days tell a rate, but not how sure it is. Read it once more.".into(), false),
        Dries::Wetter => ("It gets wetter: something feeds it.".into(), true),
        Dries::NotShown => ("It is not shown to dry: what it reads may be chance, and something may still feed it.".into(), true),
        Dries::Yes => {
            let range = d.range.map_or_else(String::new, |[lo, hi]| format!(" (range {} to {})", tau(lo), tau(hi)));
            let when = d
                .dry_on_day
                .and_then(|day| from.checked_add(jiff::Span::new().days(day.ceil() as i64)).ok())
                .map_or_else(String::new, |on| format!(" It should be dry about {on}."));
            (format!("It dries: what is too much falls to a third in about {} days{range}.{when}", tau(d.tau_days)), false)
        }
    }
}
