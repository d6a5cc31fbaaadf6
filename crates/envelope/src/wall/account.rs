//! Everything that follows from walls as they were met: each detail with its water, what must not be covered, masonry, cracks.

use super::cracks;
use super::detail::detail_account;
pub use super::figures::{
    Booked, BookedShown, Clearance, DetailAccount, FaultShown, FloorAccount, FloorShown, FormShown, LapShown, MasonryAccount, MendingShown,
    SizeShown, WallAccount, WallInput, WayIn,
};
use super::floor::{FloorPlane, plane};
use super::laps::LapVerdict;
use super::matrix::{self, DoNotCover};
use super::record::MasonryRecord;
use super::said;
use super::templates::{FORMS, Form};
use crate::measure::Units;
use crate::rain::account::Offered;
use crate::roof::record::metres;
use crate::site::{Place, Zone};

/// Works walls out.
pub fn wall_account(i: &WallInput) -> WallAccount {
    let details: Vec<DetailAccount> = i.walls.details.iter().map(|d| detail_account(d, i)).collect();
    let u = i.practice.units;
    let floor = (!i.walls.floor.is_empty()).then(|| floor_account(i));
    let mut do_not_cover = matrix::do_not_cover(&i.walls, &i.items);
    for (d, a) in i.walls.details.iter().zip(&details).filter(|(d, a)| !d.covered && a.verdict.is_some_and(|v| v != LapVerdict::Right)) {
        let key = format!("detail.{}", d.id);
        do_not_cover.push(DoNotCover {
            what: a.name.clone(),
            text: a.verdict.map(|v| v.words().to_owned()).unwrap_or_default(),
            // The same condition as the note it offers.
            condition: a.offered.as_ref().map_or(d.template.form().condition, |o| &o.condition).to_owned(),
            place: a.place.clone(),
            again: i.walls.again.get(&key).copied(),
            noted: false,
            key,
        });
    }
    for e in &mut do_not_cover {
        e.noted = i.notes.iter().any(|n| n.condition.as_deref() == Some(&e.condition) && same_place(&n.place, &e.place));
    }
    let mut clearances: Vec<&Clearance> = i.clearances.iter().collect();
    clearances.sort_by(|a, b| (a.stands_m - a.asked_m).total_cmp(&(b.stands_m - b.asked_m)));
    WallAccount {
        matrix: matrix::matrix(&i.walls, &i.items),
        do_not_cover,
        told: said::told(&i.walls, &i.notes, &i.items),
        rows: matrix::rows(&i.walls),
        offered_rows: offered_rows(i),
        masonry: i.walls.masonry.iter().filter_map(|m| masonry(m, i)).collect(),
        clearances: clearances
            .into_iter()
            .map(|c| {
                let place = format!("{}, {} from its left end", c.face.name(), u.length(c.station_m, 1));
                let (stands, asked) = (u.depth(c.stands_m), u.depth(c.asked_m));
                if c.stands_m < c.asked_m {
                    format!("{place}: the cladding stands {stands} over the ground; {asked} are asked.")
                } else {
                    format!("{place}: {stands} clear, as asked ({asked}).")
                }
            })
            .collect(),
        cracks: i.walls.cracks.iter().filter_map(|c| cracks::crack(c, &|m| u.fine(m), &|m| u.length(m, 2))).collect(),
        reader: cracks::read_all(&i.walls.cracks, &i.walls.signs, floor.as_ref().and_then(|f| f.plane.as_ref()), &|f| {
            i.face_m.get(&f).copied()
        }),
        floor,
        booked: i
            .booked
            .iter()
            .filter(|b| i.walls.floor.iter().all(|p| p.id != b.point))
            .map(|b| BookedShown { point: b.point.clone(), typed: u.first().typed_height(b.height_m) })
            .collect(),
        ways_in: details.iter().filter_map(|d| d.way_in.clone()).collect(),
        details,
        forms: FORMS.iter().map(shown).collect(),
    }
}

fn shown(f: &Form) -> FormShown {
    FormShown {
        template: f.template,
        name: f.name.into(),
        sizes: f.sizes.iter().map(|s| SizeShown { key: s.key.into(), words: s.words.into(), usual_m: s.usual_m }).collect(),
        faults: f.faults.iter().map(|f| FaultShown { key: f.key.into(), words: f.words.into() }).collect(),
    }
}

/// The same face and height, and the same opening where one is named.
fn same_place(a: &Place, b: &Place) -> bool {
    a.face == b.face && a.zone == b.zone && (b.station.is_none() || a.station == b.station)
}

fn offered_rows(i: &WallInput) -> Vec<Offered> {
    let rows = matrix::rows(&i.walls);
    i.walls
        .fasteners
        .iter()
        .zip(rows)
        .filter(|(f, _)| f.overdriven > 0)
        .map(|(f, r)| {
            let row = if f.row.trim().is_empty() { String::new() } else { format!(" {}", f.row.trim()) };
            let under = if f.under_window { ", under a window" } else { "" };
            let line = format!("fasteners{row}{under}: {}", r.words);
            Offered { condition: "wrb-fastener-overdriven".into(), line, place: Place::outside(f.face, Zone::UpperWall), limitation: false }
        })
        .collect()
}

fn masonry(m: &MasonryRecord, i: &WallInput) -> Option<MasonryAccount> {
    let u = i.practice.units;
    let length = metres("The length", &m.length).ok()?;
    let apart = i.practice.rule("weep-spacing").figure();
    let gaps = (length / apart - 1e-9).ceil().max(1.0) as u32;
    let needs = gaps + 1;
    let missing = needs.saturating_sub(m.weeps);
    let sum = format!("{} at most {} apart: {gaps} spaces, so {needs} weeps; {} are open", u.length(length, 2), u.depth(apart), m.weeps);
    let weeps = if missing > 0 { format!("{sum}, {missing} are missing.") } else { format!("{sum}: enough.") };
    let name = if m.name.trim().is_empty() { m.id.clone() } else { m.name.trim().to_owned() };
    let base = Place::outside(m.face, Zone::Base);
    let mut offered = vec![];
    let mut offer = |condition: &str, line: String, zone: Zone| {
        offered.push(Offered { condition: condition.into(), line, place: Place { zone, ..base.clone() }, limitation: false });
    };
    if m.weeps == 0 {
        offer("brick-weeps-absent", format!("{name}: no open weep over {}", u.length(length, 1)), Zone::Base);
    } else if missing > 0 {
        offer("brick-weeps-absent", format!("{name}: {} of {needs} weeps open", m.weeps), Zone::Base);
    } else {
        offer("brick-weeps-ok", format!("{name}: {} weeps open over {}", m.weeps, u.length(length, 1)), Zone::Base);
    }
    let mut more = vec![];
    if m.stray_holes > 0 {
        more.push(format!("{} open holes that are no weeps: seal those, never the weeps.", m.stray_holes));
        offer("brick-stray-hole", format!("{name}: {} stray holes", m.stray_holes), Zone::UpperWall);
    }
    if m.painted {
        more.push("Painted: it dries slower, and weeps are easily painted shut.".to_owned());
    }
    let mut joints: Vec<f64> = m.joints().filter_map(Result::ok).collect();
    joints.sort_by(f64::total_cmp);
    let rule = i.practice.rule("movement-joint");
    let (said, absent) = joints_said(length, &joints, rule.figure(), rule.named("corner").unwrap_or(0.0), u);
    if absent {
        offer("brick-joint-absent", format!("{name}: {}", said.trim_end_matches('.')), Zone::UpperWall);
    }
    let joints = format!("{said} ({})", rule.words());
    Some(MasonryAccount { id: m.id.clone(), needs, missing, weeps, joints, more, offered })
}

/// What movement joints a wall has against what it needs; whether some are missing. `apart` nought: none are asked for.
fn joints_said(length: f64, joints: &[f64], apart: f64, corner: f64, u: Units) -> (String, bool) {
    if apart <= 0.0 || length <= apart + 1e-9 {
        return ("No movement joint is needed over this length.".to_owned(), false);
    }
    let mut ends = vec![0.0];
    ends.extend_from_slice(joints);
    ends.push(length);
    let widest = ends.windows(2).map(|w| w[1] - w[0]).fold(0.0, f64::max);
    let first = joints.first().map_or(length, |j| j.min(length - joints.last().copied().unwrap_or(*j)));
    if joints.is_empty() {
        (format!("No movement joint over {}; at most {} are usual.", u.length(length, 1), u.length(apart, 1)), true)
    } else if widest > apart + 1e-9 {
        (format!("{} without a joint at its widest; at most {} are usual.", u.length(widest, 1), u.length(apart, 1)), true)
    } else if corner > 0.0 && first > corner + 1e-9 {
        (format!("The joint nearest to a corner is {} from it; {} are usual.", u.length(first, 1), u.length(corner, 1)), true)
    } else {
        (format!("Joints at most {} apart: enough.", u.length(widest, 1)), false)
    }
}

fn floor_account(i: &WallInput) -> FloorAccount {
    let u = i.practice.units;
    let p = match plane(&i.walls.floor) {
        Ok(p) => p,
        Err(e) => return FloorAccount { plane: None, points: shown_heights(i, None), sentence: e, right: true },
    };
    let (tilt, bend) = (i.practice.rule("floor-tilt"), i.practice.rule("floor-bend"));
    let tilted = p.tilt_pct > 100.0 * tilt.figure() + 1e-9;
    let bent = p.bend_one_in.is_some_and(|n| 1.0 / n > bend.figure() + 1e-12);
    let bends = match (p.bend_one_in, &p.bends_between) {
        (Some(n), Some([a, b])) => format!(
            "; beside its plane it bends by 1/{n:.0} of the distance between {a} and {b}{}",
            if bent { ", more than the practice allows" } else { "" }
        ),
        _ => String::new(),
    };
    let sentence = format!(
        "The floor tilts {:.2} %{}; it departs from its plane by {} at {}{bends}. Limits: {}; {}.",
        p.tilt_pct,
        if tilted { ", more than the practice allows" } else { "" },
        u.depth(p.departure_m.abs()),
        p.departs_at,
        tilt.words(),
        bend.words()
    );
    FloorAccount { right: !tilted && !bent, points: shown_heights(i, Some(&p)), plane: Some(p), sentence }
}

fn shown_heights(i: &WallInput, plane: Option<&FloorPlane>) -> Vec<FloorShown> {
    let read = i.walls.floor.iter().filter_map(|p| Some((p.id.clone(), p.read().ok()?)));
    read.map(|(id, [x_m, y_m, height_m])| FloorShown { id, x_m, y_m, height_m, off_m: plane.map(|p| height_m - p.at(x_m, y_m)) }).collect()
}
