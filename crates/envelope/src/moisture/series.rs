//! The same place on several days.

use super::account::{MoistureInput, surface_name};
use super::drying::{DayReading, Dries, Drying, DryingInput, drying};
use super::figures::{PlaceDrying, SurfaceMap};
use super::map::median;
use super::record::MoistureReading;
use super::surface::OnSurface;
use jiff::civil::Date;

/// Readings nearer than this on different days are of one place, metres.
const SAME_PLACE_M: f64 = 0.06;

pub(super) fn days(i: &MoistureInput, maps: &[SurfaceMap]) -> Vec<PlaceDrying> {
    let u = i.practice.units;
    let mut places: Vec<(OnSurface, [f64; 2], Vec<&MoistureReading>)> = Vec::new();
    for r in i.moisture.readings.iter().filter(|r| !r.dry) {
        let (s, p) = (r.at.surface(), r.at.read().unwrap_or_default());
        let same = |(t, q, of): &&mut (OnSurface, [f64; 2], Vec<&MoistureReading>)| {
            *t == s
                && (q[0] - p[0]).hypot(q[1] - p[1]) < SAME_PLACE_M
                && of[0].instrument == r.instrument
                && of[0].scale == r.scale
                && of[0].material == r.material
        };
        match places.iter_mut().find(same) {
            Some((_, _, of)) => of.push(r),
            None => places.push((s, p, vec![r])),
        }
    }
    let mut out = Vec::new();
    for (surface, p, mut of) in places {
        of.sort_by_key(|r| r.on);
        let (Some(first), Some(last)) = (of.first(), of.last()) else { continue };
        if first.on == last.on {
            continue;
        }
        let refs: Vec<f64> = maps
            .iter()
            .filter(|m| m.instrument == first.instrument && m.scale == first.scale && m.material == first.material)
            .flat_map(|m| m.references.iter().copied())
            .collect();
        let Some(dry_level) = median(&refs) else { continue };
        let from = first.on;
        let since = |d: Date| f64::from(from.until(d).map_or(0, |s| s.get_days()));
        let readings: Vec<DayReading> = of.iter().map(|r| DayReading { day: since(r.on), value: r.value }).collect();
        let d = drying(&DryingInput { dry_level, readings: readings.clone(), within: None });
        let name = format!("{}, {} from the left, {} up", surface_name(&surface, &i.moisture), u.length(p[0], 1), u.length(p[1], 1));
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
