//! Moisture and tracing of a whole job: rooms on the building's plan, maps, patches, and the list gathered from the benches.

use envelope::moisture::account::{MoistureInput, PatchState, moisture_account};
use envelope::moisture::map::Class;
use envelope::trace::form::Shows;
use proptest::prelude::*;
use serde_json::json;
use std::collections::BTreeSet;

/// A house of 10 by 8 m whose front faces south, with one room in its front right corner.
fn house(more: &serde_json::Value) -> MoistureInput {
    let mut moisture = json!({
        "rooms": [{ "id": "K1", "name": "kitchen", "x": "5.7 m", "y": "0.3 m", "height": "2.5 m",
            "walls": [{ "length": "4 m" }, { "length": "3 m" }, { "length": "4 m" }, { "length": "3 m" }] }],
    });
    moisture.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    serde_json::from_value(json!({
        "moisture": moisture, "front_faces": 180.0,
        "roof": { "masses": [{ "id": "A", "name": "main", "length": "10 m", "depth": "8 m", "form": "gable", "pitch": { "how": "level-and-stick", "level": "24 in", "drop": "12 in" }, "eave": "2.7 m", "overhang": "0.4 m" }] },
    }))
    .unwrap()
}

fn read(id: &str, wall: usize, along: f64, up: f64, value: f64, dry: bool, on: &str) -> serde_json::Value {
    json!({ "id": id, "at": { "room": "K1", "part": "wall", "wall": wall, "along": format!("{along} m"), "up": format!("{up} m") },
        "scale": "relative", "material": "plaster", "value": value, "on": on, "dry": dry })
}

#[test]
fn a_room_lies_on_the_plan_and_knows_its_outer_walls() {
    let a = moisture_account(&house(&json!({})));
    let room = &a.rooms[0];
    assert!((room.area_m2 - 12.0).abs() < 1e-9 && a.doubts.is_empty(), "{:?}", a.doubts);
    // Front and right are outside; they face south and east. The inner walls face nowhere.
    let faces: Vec<Option<f64>> = room.sides.iter().map(|s| s.faces_deg).collect();
    assert_eq!(faces, [Some(180.0), Some(90.0), None, None]);
    // Seen from inside, the left end of the front wall is its right corner on the plan.
    let left = room.sides[0].left;
    assert!((left[0] - 9.7).abs() < 1e-9 && (left[1] - 0.3).abs() < 1e-9, "{left:?}");
}

#[test]
fn what_is_read_wet_is_offered_where_it_is() {
    let day = "2026-11-18";
    let readings = [
        read("P1", 1, 1.0, 0.1, 60.0, false, day),
        read("P2", 1, 2.0, 0.1, 20.0, false, day),
        read("P3", 1, 1.0, 0.6, 17.0, false, day),
        read("P4", 2, 1.0, 1.0, 15.0, true, day),
        read("P5", 3, 1.0, 1.0, 16.0, true, day),
        read("P6", 3, 2.0, 1.0, 14.0, true, day),
    ];
    let a = moisture_account(&house(&json!({ "readings": readings })));
    let m = &a.maps[0];
    assert_eq!(m.references, [15.0, 16.0, 14.0], "references hold wherever they were taken");
    assert_eq!(m.readings.iter().map(|r| r.class).collect::<Vec<_>>(), [Some(Class::Wet), Some(Class::Raised), Some(Class::Dry)]);
    let s = &a.spots[0];
    assert_eq!((s.shows, s.on.faces_deg), (Shows::Skirting, Some(180.0)));
    assert!((s.on.x_m - 8.7).abs() < 1e-9 && (s.on.y_m - 0.3).abs() < 1e-9 && (s.on.z_m - 0.1).abs() < 1e-9, "{:?}", s.on);
    // The same figures of another instrument are no references for it.
    let mut other = house(&json!({ "readings": readings }));
    for r in other.moisture.readings.iter_mut().filter(|r| r.dry) {
        r.material = envelope::moisture::record::Material::Masonry;
    }
    let a = moisture_account(&other);
    assert!(a.maps[0].map.is_none() && a.spots.is_empty());
    assert!(a.left[0].contains("no judgement"), "{:?}", a.left);
}

#[test]
fn a_relative_figure_typed_as_per_cent_is_asked_about_and_one_beyond_the_scale_is_refused() {
    let mut r = read("P1", 1, 1.0, 0.1, 45.0, false, "2026-11-18");
    r["scale"] = json!("wood");
    let a = moisture_account(&house(&json!({ "readings": [r] })));
    assert!(a.maps[0].doubts[0].contains("Is it a relative reading?"), "{:?}", a.maps[0].doubts);
    let bad = house(&json!({ "readings": [read("P1", 1, 1.0, 0.1, 450.0, false, "2026-11-18")] }));
    assert_eq!(bad.moisture.check().unwrap_err().field, "readings.P1.value");
    let nowhere = house(&json!({ "readings": [read("P1", 7, 1.0, 0.1, 45.0, false, "2026-11-18")] }));
    assert!(nowhere.moisture.check().unwrap_err().message.contains("there is no wall 7"));
}

/// A cold patch is nothing until the meter was in it and beside it; the meter decides.
#[test]
fn a_patch_waits_for_the_meter() {
    let grid: Vec<Vec<f64>> = (0..20)
        .map(|r| {
            (0..30)
                .map(|c| if (4..9).contains(&r) && (10..16).contains(&c) { 16.0 } else { 18.0 + 0.01 * f64::from((r * 7 + c * 3) % 5) })
                .collect()
        })
        .collect();
    let with = |inside: f64, readings: bool, outside_c: f64| {
        let day = "2026-11-18";
        // The patch lies 1.0 to 1.6 m from the left and 1.1 to 1.6 m up.
        let read_at = [
            read("P1", 1, 1.3, 1.3, inside, false, day),
            read("P2", 1, 2.5, 0.5, 15.0, false, day),
            read("P3", 2, 1.0, 1.0, 15.0, true, day),
            read("P4", 2, 1.5, 1.0, 14.0, true, day),
            read("P5", 2, 2.0, 1.0, 16.0, true, day),
        ];
        let picture = json!({ "id": "T1", "at": { "room": "K1", "part": "wall", "wall": 1, "along": "0 m", "up": "0 m" }, "cell_m": 0.1, "grid": grid,
            "conditions": { "inside_c": 20.0, "outside_c": outside_c }, "on": day });
        moisture_account(&house(&json!({ "heat": [picture], "readings": if readings { read_at.to_vec() } else { vec![] } })))
    };
    let bare = with(0.0, false, 4.0);
    assert_eq!(bare.heat[0].patches[0].state, PatchState::Unconfirmed);
    assert!(bare.left[0].contains("a contact reading inside it"), "{:?}", bare.left);
    assert_eq!(with(60.0, true, 4.0).heat[0].patches[0].state, PatchState::Wet);
    let dry = with(15.0, true, 4.0);
    assert_eq!(dry.heat[0].patches[0].state, PatchState::Dry);
    assert!(dry.heat[0].patches[0].sentence.contains("a duct") && dry.left.is_empty());
    let p = &dry.heat[0].patches[0].bounds;
    assert!((p[0] - 1.0).abs() < 1e-9 && (p[1] - 1.1).abs() < 1e-9 && (p[3] - 1.6).abs() < 1e-9, "{p:?}");
    // Inside and outside too alike: the picture is not used, and says why.
    let alike = with(60.0, true, 17.0);
    assert!(alike.heat[0].patches.is_empty() && alike.heat[0].against[0].contains("3.0 K only"));
}

/// What fell after the record ends is not known: a sighting since then is not taken for one in dry weather.
#[test]
fn a_sighting_after_the_record_ends_gives_no_factor() {
    use envelope::trace::account::{TraceOn, trace_account};
    use envelope::trace::record::Trace;
    let house = house(&json!({}));
    let moisture = moisture_account(&house);
    let rain = envelope::rain::account::rain_account(&serde_json::from_value(json!({ "roof": house.roof, "rainwater": {} })).unwrap());
    let ground = envelope::ground::survey::survey(&serde_json::from_value(json!({ "ground": {}, "roof": house.roof })).unwrap()).account;
    let seen_at = |at: &str| {
        let kept: Trace = serde_json::from_value(json!({
            "spots": [{ "id": "S1", "name": "damp", "at": { "room": "K1", "part": "wall", "wall": 1, "along": "1 m", "up": "0.1 m" }, "shows": "skirting" }],
            "rain": { "from": "2026-10-01T00:00", "until": "2026-11-01T00:00", "hours": [{ "t": "2026-10-20T05:00", "mm": 4.0, "wind_m_s": 6.0, "wind_from_deg": 180.0 }] },
            "seen": [{ "id": "W1", "spot": "S1", "at": at, "state": "wet" }],
        }))
        .unwrap();
        kept.check().unwrap();
        let on = TraceOn {
            kept: &kept,
            moisture: (&house.moisture, &moisture),
            roof: &house.roof,
            shape: None,
            details: &[],
            notes: &[],
            ways_in: &[],
            rainwater: (&envelope::rain::record::Rainwater::default(), &rain),
            ground: &ground,
            front: house.front_faces,
            visit: "2026-11-20T23:00",
            practice: &house.practice,
        };
        trace_account(&on).result.unwrap().spots.remove(0)
    };
    let known = seen_at("2026-10-20T09:00");
    assert!(known.doubts.iter().all(|d| !d.contains("hole")) && known.candidates.iter().any(|c| c.factors.rain != 0.0));
    for blind in ["2026-11-15T09:00", "2026-10-03T09:00"] {
        let s = seen_at(blind);
        assert!(
            s.doubts[0].contains("hole in the days before") && s.candidates.iter().all(|c| c.factors.rain == 0.0),
            "{blind}: {:?}",
            s.doubts
        );
    }
}

const DAYS: [&str; 3] = ["2026-10-05", "2026-10-19", "2026-11-18"];

/// An attic is held against the room that holds most water: from there it would come, whichever room was read first.
#[test]
fn an_attic_is_held_against_the_wettest_room() {
    let air = |id: &str, place: &str, room: &str, rh: f64| json!({ "id": id, "place": place, "room": room, "t_c": 20.0, "rh_pct": rh, "on": DAYS[2] });
    let (attic, dry, wet) = (air("A1", "attic", "", 50.0), air("A2", "room", "K1", 30.0), air("A3", "room", "K2", 70.0));
    let says = |air: [&serde_json::Value; 3]| moisture_account(&house(&json!({ "air": air }))).air_says;
    let said = says([&attic, &dry, &wet]);
    assert_eq!(said.len(), 1, "{said:?}");
    assert!(said[0].starts_with("Attic: the air inside holds") && said[0].ends_with("moisture can come from there."), "{said:?}");
    assert_eq!(said, says([&wet, &attic, &dry]));
    // Against the dry room alone it is the other way round.
    assert!(says([&attic, &dry, &dry])[0].contains("gives water to there"));
}

/// A ceiling has no up: its places are told as they are typed.
#[test]
fn a_place_is_told_the_way_its_surface_is_measured() {
    let day = |part: &str, on: &str, id: &str, value: f64| {
        let mut r = read(id, 0, 1.2, 0.6, value, false, on);
        r["at"]["part"] = json!(part);
        if part == "wall" {
            r["at"]["wall"] = json!(1);
        }
        r
    };
    for (part, way) in [("wall", "0.60 m up"), ("ceiling", "0.60 m toward the rear"), ("floor", "0.60 m toward the rear")] {
        let mut readings = vec![day(part, DAYS[0], "P1", 60.0), day(part, DAYS[1], "P2", 50.0)];
        readings.extend((0..3).map(|k| read(&format!("R{k}"), 3, 1.0 + f64::from(k), 1.0, 12.0, true, DAYS[0])));
        let a = moisture_account(&house(&json!({ "readings": readings })));
        assert!(a.drying[0].name.ends_with(&format!("1.20 m from the left, {way}")), "{}", a.drying[0].name);
        let ends = format!("Wettest 1.2 m from the left, {}.", way.replace("0.60", "0.6"));
        let said: Vec<&str> = a.maps.iter().map(|m| m.sentence.as_str()).collect();
        assert!(said.iter().any(|s| s.ends_with(&ends)), "{said:?}");
    }
}

/// A row of places read on three days, a little beside where they were read before, in the order the seed gives.
fn row_of_places(places: usize, step: f64, beside: &[f64], seed: u64) -> MoistureInput {
    let mut readings = vec![];
    for (d, day) in DAYS.into_iter().enumerate() {
        for k in 0..places {
            // To a tenth of a millimetre: no tape says more.
            let along = ((0.3 + step * k as f64 + beside[(d * places + k) % beside.len()]) * 1e4).round() / 1e4;
            // Which place it is can be told from the figure: each dries in its own tens.
            readings.push(read(&format!("P{d}x{k}"), 1, along, 0.1, 40.0 + 10.0 * k as f64 - 2.0 * d as f64, false, day));
        }
    }
    readings.sort_by_key(|r| r["id"].as_str().unwrap().bytes().fold(seed, |h, b| (h ^ u64::from(b)).wrapping_mul(0x100_0000_01b3)));
    readings.extend((0..3).map(|k| read(&format!("R{k}"), 3, 1.0 + f64::from(k), 1.0, 12.0, true, DAYS[0])));
    house(&json!({ "readings": readings }))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    // However near to one another places are read, each goes on with its own readings, in whatever order they were kept.
    #[test]
    fn a_place_goes_on_with_its_own_readings(places in 1_usize..7, step in 0.02..0.3_f64, shift in prop::collection::vec(-0.4..0.4_f64, 18), seed in any::<u64>()) {
        // Read again within two fifths of the way to the middle between two places, and within 2 cm.
        let beside: Vec<f64> = shift.iter().map(|s| s * (0.5 * step).min(0.04)).collect();
        let a = moisture_account(&row_of_places(places, step, &beside, seed));
        prop_assert_eq!(a.drying.len(), places, "{:?}", a.drying.iter().map(|d| &d.name).collect::<Vec<_>>());
        for d in &a.drying {
            let own = (d.readings[0].value / 10.0).floor();
            prop_assert_eq!(d.readings.iter().map(|r| r.day).collect::<Vec<_>>(), [0.0, 14.0, 44.0]);
            prop_assert_eq!(d.readings.iter().map(|r| r.value - 10.0 * own).collect::<Vec<_>>(), [0.0, -2.0, -4.0]);
        }
        let other = moisture_account(&row_of_places(places, step, &beside, seed.wrapping_add(1)));
        let told = |a: &envelope::moisture::account::MoistureAccount| a.drying.iter().map(|d| format!("{} {:?} {}", d.name, d.readings, d.sentence)).collect::<BTreeSet<_>>();
        prop_assert_eq!(told(&a), told(&other), "the order in which they were kept says nothing");
    }

    // One spot read three times on a day is one place with three readings of that day.
    #[test]
    fn a_spot_that_is_read_again_on_the_same_day_is_one_place(times in 1_usize..4, value in 20.0..80.0_f64) {
        let mut readings = vec![];
        for (d, day) in DAYS.into_iter().enumerate() {
            readings.extend((0..times).map(|n| read(&format!("P{d}x{n}"), 1, 1.0, 0.1, value - d as f64, false, day)));
        }
        readings.push(read("R1", 3, 1.0, 1.0, 12.0, true, DAYS[0]));
        readings.push(read("R2", 3, 2.0, 1.0, 12.0, true, DAYS[0]));
        readings.push(read("R3", 3, 3.0, 1.0, 12.0, true, DAYS[0]));
        let a = moisture_account(&house(&json!({ "readings": readings })));
        prop_assert_eq!(a.drying.len(), 1);
        prop_assert_eq!(a.drying[0].readings.len(), 3 * times);
    }
}

/// Frost forms on a surface that dew would leave dry, with the point at which it does; on ice no mould is foretold.
#[test]
fn what_the_air_does_at_a_frozen_surface() {
    let air =
        |rh: f64, surface: f64| json!({ "id": "A1", "place": "attic", "t_c": 0.0, "rh_pct": rh, "surface_c": surface, "on": "2026-01-18" });
    let told = |air| moisture_account(&house(&json!({ "air": [air] }))).air.remove(0);
    let frost = told(air(46.0, -10.0));
    assert!(frost.wrong && frost.sentence.starts_with("Dew point -10.3 °C, frost point -9.1 °C. Frost forms"), "{}", frost.sentence);
    let near = told(air(40.0, -10.0));
    assert!(!near.wrong && near.sentence.contains("94 %: no condensation"), "{}", near.sentence);
}

/// A series takes as many dry references as a map does: with fewer nothing is said to be dry.
#[test]
fn a_series_takes_three_dry_references() {
    let days = ["2026-11-01", "2026-11-08", "2026-11-15"];
    let series = |references: usize| {
        let wet = days.iter().zip([60.0, 40.0, 25.0]).enumerate().map(|(k, (on, v))| read(&format!("P{k}"), 1, 1.0, 0.1, v, false, on));
        let dry = (0..references).map(|k| read(&format!("D{k}"), 3, 1.0 + k as f64 * 0.3, 1.0, 15.0, true, days[0]));
        moisture_account(&house(&json!({ "readings": wet.chain(dry).collect::<Vec<_>>() }))).drying.len()
    };
    assert_eq!([2, 3].map(series), [0, 1]);
}
