//! The falls along each face, whether they are as the practice asks, and what would mend those that are not.

use super::figures::{GroundFace, GroundInput, GroundRemedy, GroundTransect, Pond, SpotHeight};
use super::placing::Placing;
use super::record::Top;
use super::transect::{Outward, Transect, TransectInput, transect};
use crate::measure::Units;
use crate::practice::kind_of;
use crate::roof::typed::signed;
use crate::site::Face;
use std::collections::BTreeMap;

/// A reading this near to the wall is the ground at the wall, metres.
const AT_WALL_M: f64 = 0.2;

pub(super) fn transects(i: &GroundInput, place: &Placing, readings: &[SpotHeight]) -> Vec<GroundTransect> {
    // By mass, face and station to the centimetre.
    type Line<'a> = Vec<(f64, &'a SpotHeight)>;
    let mut lines: BTreeMap<(usize, Face, i64), Line<'_>> = BTreeMap::new();
    for s in i.ground.spots.iter() {
        let Some(r) = readings.iter().find(|r| r.id == s.id) else { continue };
        let (Some(face), Some(k)) = (s.at.face, place.mass(&s.at.mass)) else { continue };
        let (Ok(along), Ok(out)) = (signed("", &s.at.along), signed("", &s.at.out)) else { continue };
        lines.entry((k, face, (along * 100.0).round() as i64)).or_default().push((out, r));
    }
    let mut out = Vec::new();
    for ((k, face, station), mut points) in lines {
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|a, b| (a.0 - b.0).abs() < 1e-3);
        if points.len() < 2 || points[0].0 > AT_WALL_M {
            continue;
        }
        out.push(one_transect(i, place, k, face, station as f64 / 100.0, &points));
    }
    out
}

pub(super) fn cladding_line(i: &GroundInput, place: &Placing, k: usize, face: Face) -> Option<f64> {
    let line = i.ground.cladding.iter().find(|c| c.face == face && place.mass(&c.mass) == Some(k))?;
    signed("", &line.bottom).ok()
}

/// What the cladding of a mass must stand clear of the ground by, and which cladding it is.
pub(super) fn clearance_asked(i: &GroundInput, place: &Placing, k: usize, paved: bool) -> (f64, String) {
    let rule = i.practice.rule("cladding-clearance");
    let name = place.names[k].to_lowercase();
    let walls = &i.brief.walls;
    let material = walls.iter().find(|w| w.part.to_lowercase().contains(&name)).or(walls.first()).map(|w| w.material.to_lowercase());
    let kind = material.as_deref().and_then(kind_of);
    let by_kind = kind.and_then(|(_, figures)| rule.named(figures[usize::from(paved && figures.len() > 1)]));
    // While nobody said what the wall is, wood's figure is the cautious one.
    let usual = rule.named(if paved { "wood_paving_m" } else { "wood_soil_m" }).unwrap_or(0.15);
    (rule.own.or(by_kind).unwrap_or(usual), kind.map_or("a cladding nobody named yet".into(), |(n, _)| n.to_owned()))
}

fn one_transect(i: &GroundInput, place: &Placing, k: usize, face: Face, station_m: f64, points: &[(f64, &SpotHeight)]) -> GroundTransect {
    let paved: Vec<bool> = points.iter().map(|p| p.1.top == Top::Paving).collect();
    let hard = paved.iter().take_while(|p| **p).count();
    // Paving ends half way to the first reading on soil.
    let hard_width = match hard {
        0 => 0.0,
        n if n == points.len() => points[n - 1].0.max(99.0),
        n => (points[n - 1].0 + points[n].0) / 2.0,
    };
    let wall = points[0].1.z_m;
    let cladding_m = cladding_line(i, place, k, face);
    let (asked, kind) = clearance_asked(i, place, k, paved[0]);
    /// Room enough that the cladding stands in nobody's way while it was not measured.
    const NOT_MEASURED_M: f64 = 1.0;
    let (soil, paving) = (i.practice.rule("soil-fall"), i.practice.rule("hard-fall"));
    let input = TransectInput {
        wall_side_elevation_m: wall,
        points: points[1..].iter().map(|(d, r)| Outward { distance_m: *d, elevation_m: r.z_m }).collect(),
        cladding_clearance_m: cladding_m.map_or(NOT_MEASURED_M, |c| c - wall),
        clearance_required_m: asked,
        hard_width_from_wall_m: hard_width,
        slope_soft: soil.figure(),
        slope_hard: paving.figure(),
        reach_m: soil.named("over_m").unwrap_or(3.048),
    };
    let mut out = GroundTransect {
        mass: place.ids[k].clone(),
        face,
        station_m,
        cladding_m,
        result: None,
        sentence: String::new(),
        right: false,
        remedies: vec![],
        input,
    };
    let u = i.practice.units;
    match transect(&out.input) {
        Err(e) => out.sentence = e,
        Ok(t) => {
            let school = if hard_width > 0.0 { paving.words() } else { soil.words() };
            let falls = if t.fall_found_m >= 0.0 { "falls away" } else { "falls to the wall" };
            let mut s = format!(
                "{} {} from the left end: the ground {falls} {:.1} % over {}",
                place.words(k, face, station_m).split(',').next().map(crate::roof::access::capital).unwrap_or_default(),
                u.length(station_m, 1),
                t.slope_found.abs() * 100.0,
                u.length(t.reach_used_m, 2)
            );
            if t.deficit_m > 5e-4 {
                s.push_str(&format!("; {} are asked ({school}), {} are missing", u.depth(t.required_fall_m), u.depth(t.deficit_m)));
            } else {
                s.push_str(&format!(", as asked ({school})"));
            }
            match cladding_m {
                Some(_) if t.clearance_already_short => s.push_str(&format!(
                    "; {kind} stands {} over the ground and should stand {}",
                    u.depth(out.input.cladding_clearance_m),
                    u.depth(asked)
                )),
                Some(_) => {}
                None => s.push_str("; the lower edge of the cladding was not measured"),
            }
            s.push('.');
            out.sentence = s;
            out.right = t.deficit_m <= 5e-4 && !t.clearance_already_short;
            out.remedies = remedies(&out.input, &t, i);
            out.result = Some(t);
        }
    }
    out
}

/// Fill, swale, drain and lowering with their figures, each possible or not and why.
fn remedies(i: &TransectInput, t: &Transect, g: &GroundInput) -> Vec<GroundRemedy> {
    if t.deficit_m <= 5e-4 {
        return vec![];
    }
    let u = g.practice.units;
    let mm = |m: f64| u.depth(m);
    // Soil is bought by the length of wall: a metre of it, or ten feet.
    let first = u.first() == Units::Us;
    let soil = |m3_per_m: f64| u.soil(m3_per_m * if first { 3.048 } else { 1.0 });
    let along = || if first { "each 10 ft of wall".to_owned() } else { "each metre of wall".to_owned() };
    // Water led away must end lower than it began: the lowest reading there is.
    let lowest = g.ground.spots.iter().filter_map(|s| signed("", &s.height).ok()).fold(f64::MAX, f64::min);
    let remedy = |kind: &str, possible: bool, digs: bool, sentence: String| GroundRemedy { kind: kind.into(), possible, sentence, digs };
    let mut out = Vec::new();
    let fill = if t.feasible {
        format!(
            "Raise the ground {} at the wall, to nothing at {}: {} of soil for {}.",
            mm(t.fill_at_wall_m),
            u.length(t.reach_used_m, 2),
            soil(t.fill_volume_m3_per_m),
            along()
        )
    } else if t.fill_at_wall_m > 0.0 {
        format!("Raising alone does not do it: the cladding allows {} of the {} that are missing.", mm(t.fill_at_wall_m), mm(t.deficit_m))
    } else {
        format!(
            "The ground cannot be raised: the cladding stands {} over it and needs {}.",
            mm(i.cladding_clearance_m),
            mm(i.clearance_required_m)
        )
    };
    out.push(remedy("fill", t.feasible, false, fill));
    if t.feasible {
        return out;
    }
    // A swale two thirds of the way out, with the fall that is asked down to its bottom.
    let away = t.reach_used_m * 2.0 / 3.0;
    let mut profile = vec![Outward { distance_m: 0.0, elevation_m: i.wall_side_elevation_m }];
    profile.extend(&i.points);
    let slope = t.required_fall_m / t.reach_used_m;
    let invert = t.wall_side_elevation_after_m - slope * away;
    let depth = super::transect::height(&profile, away) - invert;
    /// Deeper than this it is a ditch that wants a rail, metres.
    const DEEPEST_SWALE_M: f64 = 0.45;
    let drains = lowest < invert - 0.01;
    let why = if depth > DEEPEST_SWALE_M {
        ", too deep beside a wall"
    } else if drains {
        ""
    } else {
        "; no reading lies lower, so its way out is not known"
    };
    out.push(remedy(
        "swale",
        depth <= DEEPEST_SWALE_M && drains,
        true,
        format!("A swale {} out with its bottom {} below the ground there{why}.", u.length(away, 1), mm(depth.max(0.0))),
    ));
    /// Of the channel, its grate and its bed, metres.
    const CHANNEL_M: f64 = 0.12;
    let channel = i.wall_side_elevation_m - CHANNEL_M;
    let drains = lowest < channel - 0.01;
    let ends = if drains {
        "led to ground that lies lower".to_owned()
    } else {
        "but no reading lies lower than its bottom: it would need a pump or a drain of the street".to_owned()
    };
    out.push(remedy("drain", drains, true, format!("A channel drain at the foot of the wall, {} deep, {ends}.", mm(CHANNEL_M))));
    let drains = lowest < t.elevation_at_reach_m - t.remaining_deficit_m - 0.01;
    let volume = t.remaining_deficit_m * t.reach_used_m / 2.0;
    let way = if drains { "" } else { "; no reading lies lower, so its way out is not known" };
    out.push(remedy(
        "lower",
        drains,
        true,
        format!(
            "Lower the ground by {} at {}, to nothing at the wall: {} to take away for {}{way}.",
            mm(t.remaining_deficit_m),
            u.length(t.reach_used_m, 2),
            soil(volume),
            along()
        ),
    ));
    out
}

/// What keeps a face whose ground falls away from being clean: readings that end too near, a hollow on the way, cladding that was not
/// measured.
fn not_known(of: &[&GroundTransect], u: Units) -> Vec<String> {
    /// A hollow shallower than the staff reads is none, metres.
    const HOLLOW_M: f64 = 0.005;
    let mut out = vec![];
    let at = |t: &GroundTransect| u.length(t.station_m, 1);
    for t in of {
        let Some(r) = &t.result else {
            out.push(format!("the ground at {} could not be worked out", at(t)));
            continue;
        };
        if r.short_transect {
            let (end, reach) = (u.length(r.reach_used_m, 2), u.length(t.input.reach_m, 2));
            out.push(format!("the readings at {} end {end} from the wall, and {reach} are judged", at(t)));
        }
        if r.deepest_hollow_m > HOLLOW_M {
            out.push(format!("a hollow {} deep lies on the way at {}", u.depth(r.deepest_hollow_m), at(t)));
        }
        if t.cladding_m.is_none() {
            out.push(format!("the lower edge of the cladding was not measured at {}", at(t)));
        }
    }
    out
}

pub(super) fn faces(transects: &[GroundTransect], ponds: &[Pond], place: &Placing, units: Units) -> Vec<GroundFace> {
    let mut keys: Vec<(String, Face)> = transects.iter().map(|t| (t.mass.clone(), t.face)).collect();
    keys.dedup();
    keys.into_iter()
        .map(|(mass, face)| {
            let of: Vec<&GroundTransect> = transects.iter().filter(|t| t.mass == mass && t.face == face).collect();
            let area = |t: &GroundTransect| t.result.as_ref().map_or(0.0, |r| r.fill_volume_m3_per_m);
            let fill_m3 =
                (of.len() > 1).then(|| of.windows(2).map(|w| (area(w[0]) + area(w[1])) / 2.0 * (w[1].station_m - w[0].station_m)).sum());
            let wrong = of.iter().filter(|t| !t.right).count();
            let wet: Vec<&Pond> = ponds.iter().filter(|p| p.walls.iter().any(|w| w.mass == mass && w.face == face)).collect();
            let name = place.mass(&mass).map_or(String::new(), |k| place.names[k].clone());
            let falls = of.iter().filter_map(|t| t.result.as_ref()).map(|r| r.slope_found * 100.0);
            let (low, high) = falls.fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
            let percent = if (high - low).abs() < 0.05 { format!("{low:.1} %") } else { format!("{low:.1} to {high:.1} %") };
            let stations = if of.len() == 1 { "one station".to_owned() } else { format!("{} stations", of.len()) };
            let mut sentence = format!("{} of the {name}: ", face.name());
            let missing = not_known(&of, units);
            let clean = wrong == 0 && wet.is_empty() && missing.is_empty();
            if clean {
                sentence.push_str(&format!("the ground falls away {percent} at {stations}, and no water stands against it. Clean."));
            } else if wrong == 0 && wet.is_empty() {
                sentence.push_str(&format!("the ground falls away {percent} at {stations}. Not clean yet: {}.", missing.join("; ")));
            } else {
                if wrong > 0 {
                    sentence.push_str(&format!("{wrong} of {stations} fall short ({percent}). "));
                }
                for p in &wet {
                    sentence.push_str(&format!("Pond {} stands against it. ", p.id));
                }
                if let Some(v) = fill_m3.filter(|v| *v > 0.005) {
                    sentence.push_str(&format!("{} of soil between the first and the last station would help.", units.soil(v)));
                }
            }
            GroundFace { mass, face, fill_m3, sentence: sentence.trim_end().to_owned(), right: clean }
        })
        .collect()
}
