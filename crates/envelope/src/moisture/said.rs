//! A reading that was told: "28 percent at the baseboard, two feet from the left, wall 2", with as much of its place as was said.

use super::record::{Instrument, Material, Moisture, MoistureReading, Room, Scale};
use super::surface::{OnSurface, SurfacePart};
use crate::measure::{self, Quantity};
use crate::round::Note;
use crate::site::{Place, Zone};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// A reading as it was said. What was not said of its place is empty, and has to be given before it can be kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingSaid {
    /// The place, as far as it was said.
    pub at: OnSurface,
    /// On which scale.
    pub scale: Scale,
    /// Of what; none when nothing was said of it.
    pub material: Option<Material>,
    /// What it showed.
    pub value: f64,
    /// Taken where it is surely dry.
    pub dry: bool,
    /// All of its place was said: it can be kept as it is.
    pub placed: bool,
}

/// A reading out of a note.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingTold {
    /// The note.
    pub note_id: String,
    /// Its words.
    pub text: String,
    /// Whether it says all that a reading needs; else its place waits for somebody.
    pub placed: bool,
    /// The reading it would be kept as.
    pub reading: MoistureReading,
}

/// Somebody speaks of a meter, or of what it reads.
const METER: [&str; 9] = ["meter", "moisture", "reads", "reading", "readings", "pin", "pins", "pinless", "probe"];
/// Parts of a room that are read.
const OF_A_ROOM: [&str; 12] =
    ["baseboard", "skirting", "drywall", "plaster", "plasterboard", "ceiling", "stud", "sill", "wall", "floor", "subfloor", "plate"];
/// What a share may be of that is no moisture.
const OTHER_SHARES: [&str; 16] = [
    "slope", "fall", "falls", "tips", "tilts", "slab", "grade", "humidity", "rh", "pitch", "roof", "granules", "cover", "covered", "sure",
    "level",
];
/// Height of a reading at the foot of a wall, as it would be typed.
const AT_THE_FOOT: &str = "5 cm";

fn number(w: &str) -> Option<usize> {
    const WORDS: [&str; 10] = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];
    const ORDER: [&str; 10] = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];
    w.parse().ok().or_else(|| WORDS.iter().chain(&ORDER).position(|n| *n == w).map(|k| k % 10 + 1))
}

/// The room a line or its place names; the only one there is, when the place is inside.
fn room_of<'a>(words: &[&str], place: &Place, rooms: &'a [Room]) -> Option<&'a Room> {
    let named = |r: &&Room| {
        let name: Vec<String> = r.name.to_lowercase().split_whitespace().map(str::to_owned).collect();
        let said = |w: &[&str]| !name.is_empty() && w.windows(name.len()).any(|p| p.iter().zip(&name).all(|(a, b)| a == b));
        let at: Vec<String> =
            place.room.iter().flat_map(|r| r.to_lowercase().split_whitespace().map(str::to_owned).collect::<Vec<_>>()).collect();
        said(words) || said(&at.iter().map(String::as_str).collect::<Vec<_>>())
    };
    rooms.iter().find(named).or_else(|| rooms.first().filter(|_| rooms.len() == 1 && place.zone == Zone::Inside))
}

/// Reads a reading. A line without a figure in per cent or "on the scale", with two of them, or about something else, tells none.
#[must_use]
pub fn reading_said(line: &str, place: &Place, rooms: &[Room]) -> Option<ReadingSaid> {
    let lower = line.to_lowercase().replace('\u{2019}', "'");
    let words: Vec<&str> = lower.split(|c: char| !c.is_alphanumeric() && c != '\'').filter(|w| !w.is_empty()).collect();
    let has = |all: &[&str]| words.iter().any(|w| all.contains(w));
    // Outside a share is mostly a fall: there somebody has to speak of the meter.
    let inside = place.zone == Zone::Inside || room_of(&words, place, rooms).is_some();
    if has(&OTHER_SHARES) || !(has(&METER) || inside && has(&OF_A_ROOM)) {
        return None;
    }
    let found = measure::scan(&lower);
    // A third may be a wall; only what is said in per cent is a reading.
    let in_percent = |f: &measure::Found| lower[f.span.start..f.span.end].contains(['%', 'p']);
    let mut shares = found.iter().filter(|f| f.measure.quantity == Quantity::Share && !f.idiom && in_percent(f));
    let (value, scale) = match (shares.next(), shares.next()) {
        (Some(f), None) => {
            let equivalent = has(&["plaster", "drywall", "plasterboard", "gypsum", "brick", "block", "concrete", "screed", "equivalent"]);
            // As it was said: a share of 0.28 is 28, not what is left of it in binary.
            ((f.measure.si * 1e8).round() / 1e6, if equivalent { Scale::WoodEquivalent } else { Scale::Wood })
        }
        (None, _) => (relative(&found)?, Scale::Relative),
        _ => return None,
    };
    let room = room_of(&words, place, rooms);
    let outside = room.is_none() && place.zone != Zone::Inside;
    let part = if has(&["ceiling"]) && room.is_some() {
        SurfacePart::Ceiling
    } else if has(&["floor", "subfloor"]) && room.is_some() && !has(&["above", "off", "over", "wall", "up"]) {
        SurfacePart::Floor
    } else {
        SurfacePart::Wall
    };
    let wall = words.windows(2).find_map(|p| match (p[0], p[1]) {
        ("wall", n) | (n, "wall") => number(n),
        _ => None,
    });
    let mut at = OnSurface {
        room: room.map(|r| r.id.clone()).unwrap_or_default(),
        part,
        wall: wall.filter(|_| part == SurfacePart::Wall && !outside).unwrap_or(0),
        face: place.face.filter(|_| outside),
        ..OnSurface::default()
    };
    for f in found.iter().filter(|f| f.measure.quantity == Quantity::Length && !f.idiom) {
        let typed = lower[f.span.start..f.span.end].trim().to_owned();
        let after: Vec<&str> = lower[f.span.end..].split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).take(4).collect();
        let before = lower[..f.span.start].split(|c: char| !c.is_alphanumeric()).rfind(|w| !w.is_empty()).unwrap_or("");
        if matches!(after.first(), Some(&("up" | "high" | "above" | "off"))) {
            at.up = typed;
        } else if after.contains(&"left") && after.first() != Some(&"left") {
            // "Two feet left of the door" is measured from a door, and where that is nobody said.
            at.along = typed;
        } else if before == "up" {
            at.up = typed;
        }
    }
    if at.up.is_empty() && part == SurfacePart::Wall && has(&["baseboard", "skirting", "plate", "foot"]) {
        at.up = AT_THE_FOOT.into();
    }
    let on_a_surface = if outside { at.face.is_some() } else { room.is_some() && (part != SurfacePart::Wall || at.wall > 0) };
    let placed = on_a_surface && at.read().is_ok() && room.is_none_or(|r| at.wall <= r.walls.len());
    let material = [
        (&["drywall", "plasterboard", "gypsum"][..], Material::GypsumBoard),
        (&["plaster"], Material::Plaster),
        (&["brick", "block", "masonry"], Material::Masonry),
        (&["concrete", "screed", "slab"], Material::Concrete),
        (&["osb", "plywood", "sheathing", "subfloor"], Material::WoodBoard),
        (&["oak", "hardwood"], Material::Hardwood),
        (&["stud", "joist", "sill", "plate", "skirting", "baseboard", "softwood"], Material::Softwood),
    ];
    let material = material.into_iter().find(|(w, _)| has(w)).map(|(_, m)| m);
    let dry =
        has(&["reference", "references"]) || lower.contains("surely dry") || lower.contains("known dry") || lower.contains("dry spot");
    Some(ReadingSaid { at, scale, material, value, dry, placed })
}

/// "Reads 65 on the scale": a number that only compares.
fn relative(found: &[measure::Found]) -> Option<f64> {
    let mut all = found.iter().filter(|f| f.measure.quantity == Quantity::Reading).map(|f| f.measure.si);
    all.next().filter(|v| (0.0..=100.0).contains(v) && all.next().is_none())
}

/// A reading that was told, as it is kept, once its place is whole ([`ReadingSaid::placed`]); material and instrument as the last of
/// its scale had them, where nothing was said.
#[must_use]
pub fn as_reading(said: &ReadingSaid, kept: &Moisture, on: Date) -> MoistureReading {
    let last = kept.readings.iter().rev().find(|r| r.scale == said.scale);
    let number = |r: &MoistureReading| r.id.strip_prefix('P').and_then(|n| n.parse::<usize>().ok());
    let usual = if said.scale == Scale::Wood { Material::Softwood } else { Material::GypsumBoard };
    MoistureReading {
        id: format!("P{}", kept.readings.iter().filter_map(number).max().unwrap_or(0) + 1),
        at: said.at.clone(),
        instrument: last.map_or(if said.scale == Scale::Relative { Instrument::Pinless } else { Instrument::Pin }, |l| l.instrument),
        scale: said.scale,
        material: said.material.or(last.map(|l| l.material)).unwrap_or(usual),
        value: said.value,
        on,
        dry: said.dry,
    }
}

/// Readings that notes tell and that are not kept: none of the same figure stands on that surface.
pub fn told<'a>(kept: &Moisture, notes: impl Iterator<Item = (&'a str, &'a Note)>, on: Date) -> Vec<ReadingTold> {
    let known = |s: &ReadingSaid| {
        kept.readings.iter().any(|r| {
            (r.value - s.value).abs() < 1e-9
                && r.at.room == s.at.room
                && (s.at.wall == 0 || r.at.wall == s.at.wall)
                && (s.at.face.is_none() || r.at.face == s.at.face)
        })
    };
    notes
        .filter_map(|(id, n)| Some((id, n, reading_said(&n.text, &n.place, &kept.rooms)?)))
        .filter(|(_, _, s)| !known(s))
        .map(|(id, n, said)| ReadingTold {
            note_id: id.to_owned(),
            text: n.text.clone(),
            placed: said.placed,
            reading: as_reading(&said, kept, on),
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::Face;
    use proptest::prelude::*;

    const DAY: Date = jiff::civil::date(2026, 11, 18);

    fn rooms() -> Vec<Room> {
        let room = |id: &str, name: &str| -> Room {
            let wall = |l: &str| serde_json::json!({ "length": l });
            serde_json::from_value(serde_json::json!({ "id": id, "name": name, "height": "2.4 m", "walls": [wall("4 m"), wall("3 m"), wall("4 m"), wall("3 m")] })).unwrap()
        };
        vec![room("K1", "treatment room"), room("K2", "store room")]
    }
    fn inside(room: Option<&str>) -> Place {
        Place { face: None, room: room.map(str::to_owned), ..Place::outside(Face::Front, Zone::Inside) }
    }
    fn said(line: &str, place: &Place) -> Option<ReadingSaid> {
        reading_said(line, place, &rooms())
    }

    #[test]
    fn a_reading_with_all_of_its_place_can_be_kept() {
        let s = said("28 percent at the baseboard, 2 ft from the left, wall 2", &inside(Some("store room"))).unwrap();
        assert_eq!((s.value, s.scale, s.placed, s.dry), (28.0, Scale::Wood, true, false));
        assert_eq!((s.at.room.as_str(), s.at.wall, s.at.along.as_str(), s.at.up.as_str()), ("K2", 2, "2 ft", AT_THE_FOOT));
        let kept = Moisture { rooms: rooms(), ..Moisture::default() };
        let r = as_reading(&s, &kept, DAY);
        assert_eq!((r.id.as_str(), r.material), ("P1", Material::Softwood));
        let with = Moisture { readings: vec![r], ..kept };
        assert!(with.check().is_ok());
        assert_eq!(as_reading(&s, &with, DAY).id, "P2");
        // The room may be named in the line, and the wall by its order.
        let s = said("treatment room, third wall, drywall 17 % 30 cm up and 1.2 m from the left, known dry", &inside(None)).unwrap();
        assert_eq!((s.at.room.as_str(), s.at.wall, s.scale, s.dry, s.placed), ("K1", 3, Scale::WoodEquivalent, true, true));
        assert_eq!((s.at.along.as_str(), s.at.up.as_str(), s.material), ("1.2 m", "30 cm", Some(Material::GypsumBoard)));
        let s = said("treatment room wall 2, drywall 14 percent 1 ft up, 3 ft from the left", &inside(None)).unwrap();
        assert_eq!((s.at.wall, s.at.up.as_str(), s.at.along.as_str(), s.placed), (2, "1 ft", "3 ft", true));
        // On a face, the place that is set says which.
        let s = said("meter reads 65 on the scale, 2 m from the left, 1 m up", &Place::outside(Face::Rear, Zone::Base)).unwrap();
        assert_eq!((s.value, s.scale, s.at.face, s.placed), (65.0, Scale::Relative, Some(Face::Rear), true));
    }

    #[test]
    fn what_was_not_said_is_not_made_up() {
        // A door's place is nobody's: the wall and the distance stay open.
        let s = said("28 percent at the baseboard, two feet left of the door", &inside(Some("treatment room"))).unwrap();
        assert_eq!((s.at.wall, s.at.along.as_str(), s.placed), (0, "", false));
        // There is no fifth wall.
        let s = said("28 % at the skirting, 1 m from the left, wall 5", &inside(Some("store room"))).unwrap();
        assert!(!s.placed);
        let outside = Place::outside(Face::Rear, Zone::Base);
        assert_eq!(said("slab tips back to the wall 1 %", &outside), None);
        assert_eq!(said("paint gone from 30 % of the wall", &outside), None);
        for line in [
            "ground falls 2 percent toward the wall",
            "humidity is 60 percent at the wall",
            "the wall is wet",
            "moss on 40 percent of the roof",
            "between 12 and 28 percent, 15 percent at the wall",
            "the meter reads 65 here and reads 12 there at the wall",
            "",
        ] {
            assert_eq!(said(line, &inside(Some("store room"))), None, "{line}");
        }
    }

    proptest! {
        /// Whatever is told, what is called placed can be kept.
        #[test]
        fn what_is_placed_can_be_kept(line in "(28 percent|reads 65 on the scale|wall|two|4|9|2 ft|from the left|up|at the baseboard|ceiling|store room|plaster|,| ){0,12}") {
            let kept = Moisture { rooms: rooms(), ..Moisture::default() };
            if let Some(r) = said(&line, &inside(Some("store room"))).filter(|s| s.placed).map(|s| as_reading(&s, &kept, DAY)) {
                let with = Moisture { readings: vec![r], ..kept };
                prop_assert!(with.check().is_ok(), "{:?}", with.check());
            }
        }
    }
}
