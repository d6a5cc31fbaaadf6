//! What to do about it: notes to offer, what could not be reached, where people can be hurt.

use super::account::StormOn;
use super::figures::{SlopeStorm, SoftFace};
use super::record::{Fell, HowSeen};
use crate::measure::Units;
use crate::rain::account::Offered;
use crate::roof::access::{Decision, capital};
use crate::site::{Face, Place, Zone};

/// What may go to the round as a note.
pub(super) fn offered(on: &StormOn<'_>, slopes: &[SlopeStorm], soft: &[SoftFace]) -> Vec<Offered> {
    let units: Units = on.practice.units;
    let offer = |condition: &str, line: String, face: Face, zone: Zone| Offered {
        condition: condition.into(),
        line,
        place: Place::outside(face, zone),
        limitation: false,
    };
    let hits = slopes.iter().filter_map(|s| {
        let r = s.rate_all.as_ref().filter(|r| r.count > 0)?;
        let squares = if r.squares == 1 { "test square" } else { "test squares" };
        let line = format!("hail hits on the {}: {} in {} {squares}", s.label, r.count, r.squares);
        Some(offer("hail-bruise", line, s.face, Zone::Roof))
    });
    let dents = soft.iter().filter(|s| s.count > 0).map(|s| {
        let size = s.largest_m.map(|m| format!(", largest {}", units.fine(m))).unwrap_or_default();
        offer("hail-dent-metal", format!("hail dents in soft metal: {}{size}", s.count), s.face, Zone::Edge)
    });
    let winds = on.kept.wind.iter().filter_map(|w| {
        let s = on.slope(&w.slope)?;
        let part = w.part.name();
        if w.missing > 0 {
            Some(offer("wind-missing-covering", format!("{} blown off, {part} of the {}", w.missing, s.label), s.face, Zone::Roof))
        } else if w.creased + w.lifted > 0 {
            let n = w.creased + w.lifted;
            Some(offer(
                "wind-lifted-covering",
                format!("{n} of {} creased or lifted by wind, {part} of the {}", w.units, s.label),
                s.face,
                Zone::Roof,
            ))
        } else {
            None
        }
    });
    let new = |o: &Offered| !on.noted.contains(&(o.place.face, o.place.zone, o.condition.clone()));
    hits.chain(dents).chain(winds).filter(new).collect()
}

/// What could not be reached or was only seen from afar, slope by slope.
pub(super) fn unreached(slopes: &[SlopeStorm]) -> Vec<String> {
    slopes
        .iter()
        .filter_map(|s| {
            let because = if s.how_why.trim().is_empty() { String::new() } else { format!(": {}", s.how_why.trim_end_matches('.')) };
            match s.how {
                Some(HowSeen::Hand) => None,
                Some(how) => Some(format!("{} was {}{because}.", capital(&s.label), how.words())),
                None if s.rate_all.is_none() => {
                    Some(format!("{} has no counted square, and nothing is said of how it was looked at.", capital(&s.label)))
                }
                None => None,
            }
        })
        .collect()
}

/// What danger there is, where it is.
pub(super) fn cautions(on: &StormOn<'_>, slopes: &[SlopeStorm]) -> Vec<String> {
    let mut out = vec![
        "Nobody goes up in wind, on a wet roof, or over the practice's pitch: look with a pole, a glass or a drone instead, and say so."
            .to_owned(),
    ];
    if slopes.iter().any(|s| s.decision > Decision::Walk) {
        out.push("Local rules for work at height decide who may go up, and how secured.".into());
    }
    let open = on.kept.opened.iter().any(|o| !o.covered) || on.kept.wind.iter().any(|w| w.missing > 0);
    if open {
        out.push(
            "The covering is open: have it covered before the next rain by somebody who works secured. Loose or wet pieces slide, edges give way, \
             lines may be down, glass lies about."
                .into(),
        );
    }
    if on.kept.opened.iter().any(|o| o.what == Fell::Limb) {
        out.push("A limb that lies on a roof or a line is under load: leave it to an arborist, and a line to the utility.".into());
    }
    out
}
