//! Walls as a whole: the demo's details in words, masonry and fasteners by their sums, what goes on the list, what is refused.

use envelope::calc::run;
use envelope::wall::account::{WallAccount, WallInput, wall_account};
use envelope::wall::laps::LapVerdict;
use serde_json::{Value, json};

fn of(walls: Value) -> WallAccount {
    of_items(walls, json!([]))
}

fn of_items(walls: Value, items: Value) -> WallAccount {
    let input: WallInput =
        serde_json::from_value(json!({ "walls": walls, "items": items, "face_m": { "rear": 18.0, "front": 18.0 } })).unwrap();
    input.walls.check().unwrap();
    wall_account(&input)
}

/// Every template with each of its faults, as a person reads it.
#[test]
fn every_detail_in_words() {
    let forms = of(json!({})).forms;
    let mut said = String::new();
    for f in forms {
        let faults: Vec<Vec<&str>> = std::iter::once(vec![]).chain(f.faults.iter().map(|x| vec![x.key.as_str()])).collect();
        for (k, faults) in faults.iter().enumerate() {
            let a = of(json!({ "details": [{ "id": "L1", "template": f.template, "face": "rear", "at": "W3", "faults": faults }] }));
            let d = &a.details[0];
            let name = if k == 0 { f.name.clone() } else { format!("  {}", f.faults[k - 1].words) };
            said.push_str(&format!("{name}: {}", d.sentence));
            for m in &d.mending {
                said.push_str(&format!(" {}", m.words));
            }
            if let Some(o) = &d.offered {
                said.push_str(&format!(" [{}: {}]", o.condition, o.line));
            }
            said.push('\n');
            assert_eq!(d.way_in.is_some(), d.verdict != Some(LapVerdict::Right));
        }
    }
    insta::assert_snapshot!(said);
}

#[test]
fn a_lap_that_is_turned_is_turned_back_by_its_mending() {
    let turned = |turned: Value, covered: bool| {
        of(json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "turned": turned, "covered": covered }] }))
            .details
            .remove(0)
    };
    let right = turned(json!([]), false);
    assert_eq!((right.verdict, right.sound, right.offered), (Some(LapVerdict::Right), 0.0, None));
    let wrong = turned(json!([{ "outer": "window", "inner": "upper-sheet" }]), false);
    assert_eq!(wrong.verdict, Some(LapVerdict::Wrong));
    assert_eq!(wrong.mending[0].words, "Lap the upper sheet over the window.");
    // Closed up, it cannot be reached.
    let closed = turned(json!([{ "outer": "window", "inner": "upper-sheet" }]), true);
    assert!(closed.mending[0].opens_wall && closed.mending[0].words.contains("must be opened"));
    // Whatever is turned, and in whatever order, it can be worked out, and turning it back gives what was.
    let all: Vec<(String, String)> = right.laps.iter().map(|l| (l.outer.clone(), l.inner.clone())).collect();
    for (outer, inner) in &all {
        let one = turned(json!([{ "outer": inner, "inner": outer }]), false);
        assert!(one.problem.is_none(), "{outer} over {inner}: {:?}", one.problem);
        assert!(one.laps.iter().any(|l| l.outer == *inner && l.inner == *outer && l.turned), "{outer} over {inner}");
        let back = turned(json!([{ "outer": inner, "inner": outer }, { "outer": outer, "inner": inner }]), false);
        assert!(back.problem.is_none() && back.laps.iter().any(|l| l.outer == *outer && l.inner == *inner));
    }
    let every: Vec<Value> = all.iter().map(|(o, i)| json!({ "outer": i, "inner": o })).collect();
    assert!(turned(json!(every), false).problem.is_none());
}

#[test]
fn masonry_by_its_sum() {
    let wall = |length: &str, weeps: u32, joints: &str| {
        of(json!({ "masonry": [{ "id": "M1", "face": "front", "length": length, "weeps": weeps, "joints": joints, "stray_holes": 2 }] }))
            .masonry
            .remove(0)
    };
    // 4 m at most 838 mm apart: five spaces, six weeps.
    let porch = wall("4 m", 4, "");
    assert_eq!((porch.needs, porch.missing), (6, 2));
    assert!(
        porch.weeps.contains("5 spaces, so 6 weeps; 4 are open, 2 are missing") && porch.joints.starts_with("No movement joint is needed")
    );
    assert!(porch.more[0].contains("never the weeps"));
    // Exactly three spaces need four, not five.
    assert_eq!(wall("2.514 m", 4, "").needs, 4);
    assert!(wall("20 m", 25, "").joints.starts_with("No movement joint over 20.0 m"));
    assert!(wall("20 m", 25, "2 m, 9 m").joints.starts_with("11.0 m without a joint"));
    assert!(wall("20 m", 25, "5 m, 10 m, 15 m").joints.starts_with("The joint nearest to a corner is 5.0 m"));
    assert!(wall("20 m", 25, "2.5 m, 10 m, 17.5 m").joints.starts_with("Joints at most 7.5 m apart"));
}

#[test]
fn heights_of_the_level_book_are_offered_until_they_are_taken() {
    let with = |units: &str, floor: Value| {
        let input = json!({ "walls": { "floor": floor }, "booked": [{ "point": "F1", "height_m": -0.0127 }, { "point": "F2", "height_m": 0.1524 }],
            "practice": { "name": "x", "units": units } });
        wall_account(&serde_json::from_value(input).unwrap()).booked.into_iter().map(|b| (b.point, b.typed)).collect::<Vec<_>>()
    };
    let offered = |of: &[(&str, &str)]| of.iter().map(|(p, t)| ((*p).to_owned(), (*t).to_owned())).collect::<Vec<_>>();
    assert_eq!(with("metric", json!([])), offered(&[("F1", "-12.7 mm"), ("F2", "152.4 mm")]));
    assert_eq!(with("us", json!([{ "id": "F2", "x": "1 m", "y": "1 m", "height": "0 mm" }])), offered(&[("F1", "-0.500 in")]));
    // What is offered can be kept as it is.
    let floor = json!([{ "id": "F1", "x": "0 m", "y": "0 m", "height": "-0.500 in" }]);
    serde_json::from_value::<envelope::wall::record::Walls>(json!({ "floor": floor })).unwrap().check().unwrap();
}

#[test]
fn what_is_wrong_goes_on_the_list_and_stays_there_with_what_became_of_it() {
    let items = json!([{ "face": "front", "kind": "window", "name": "W1" }, { "face": "front", "kind": "penetration", "name": "P1" }]);
    let walls = json!({
        "answers": { "front.W1.head-lap": { "found": "wrong", "text": "reversed" }, "front.W1.jambs": { "found": "right" }, "rear.slab-edge": { "found": "wrong" },
            "front.W9.head-lap": { "found": "wrong" } },
        "again": { "front.W1.head-lap": "covered-unseen" },
        "details": [{ "id": "L1", "template": "wall-base", "face": "rear", "faults": ["proud"] }, { "id": "L2", "template": "wall-base", "face": "left" }]
    });
    let a = of_items(walls, items);
    assert_eq!(a.matrix.openings.len(), 1, "a pipe is no opening");
    let list: Vec<(&str, Option<&str>)> = a.do_not_cover.iter().map(|e| (e.what.as_str(), e.again.map(|g| g.words()))).collect();
    assert_eq!(
        list,
        [("Front, W1: head lap", Some("covered unseen")), ("Rear: slab edge", None), ("Wall base over the slab edge, rear", None)],
        "an opening that is not counted any more is not asked for"
    );
    // The list and the note that a detail offers name the same condition.
    let pan = of(json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "faults": ["no-pan"] }] }));
    assert_eq!(pan.do_not_cover[0].condition, "sill-pan-corner-loose");
    assert_eq!(pan.details[0].offered.as_ref().map(|o| o.condition.as_str()), Some("sill-pan-corner-loose"));
    assert!(a.matrix.sentence.starts_with("3 of 30 answered: 1 right, 2 wrong"), "{}", a.matrix.sentence);
}

/// Answers are none of them lost or counted twice, whatever is answered.
#[test]
fn fasteners_by_row_with_their_range() {
    let a = of(
        json!({ "fasteners": [{ "id": "F1", "face": "left", "row": "under W1", "under_window": true, "counted": 24, "overdriven": 19 }, { "id": "F2", "face": "left", "counted": 0, "overdriven": 0 }] }),
    );
    assert_eq!(a.rows[0].words, "19 of 24 overdriven: 79 %; of all in such rows 60 to 91 % (95 %)");
    assert_eq!((a.rows[1].words.as_str(), a.offered_rows.len()), ("none looked at", 1));
    assert!(a.offered_rows[0].line.contains("under a window"));
}

#[test]
fn what_cannot_be_is_refused_by_its_field() {
    let crack = |x: &str, width: &str| {
        json!({ "cracks": [{ "id": "C1", "face": "rear", "pattern": "diagonal", "from_x": x, "from_z": "0", "to_x": "2 m", "to_z": "1 m",
        "readings": [{ "on": "2026-11-18", "at": "middle", "width": width }] }] })
    };
    let cases = [
        json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "sizes": { "width": "15 m" } }] }),
        json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "sizes": { "colour": "1 m" } }] }),
        json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "faults": ["haunted"] }] }),
        json!({ "details": [{ "id": "L1", "template": "window", "face": "rear" }, { "id": "L1", "template": "door", "face": "rear" }] }),
        json!({ "answers": { "front.W1.colour": { "found": "right" } } }),
        json!({ "answers": { "roof.slab-edge": { "found": "right" } } }),
        json!({ "fasteners": [{ "id": "F1", "face": "left", "counted": 10, "overdriven": 11 }] }),
        json!({ "masonry": [{ "id": "M1", "face": "front", "length": "blue" }] }),
        json!({ "masonry": [{ "id": "M1", "face": "front", "length": "4 m", "joints": "5 m" }] }),
        crack("left", "1 mm"),
        crack("1 m", "1 m"),
        json!({ "floor": [{ "id": "H1", "x": "1 m", "y": "1 m", "height": "12" }] }),
        json!({ "signs": [{ "id": "", "face": "rear", "kind": "door-binds" }] }),
    ];
    let said: Vec<String> = cases.iter().map(|c| run("walls", &json!({ "walls": c }).to_string()).unwrap_err().to_string()).collect();
    insta::assert_snapshot!(said.join("\n"));
    let old: envelope::wall::record::Walls = serde_json::from_value(crack("1 m", "1 mm")).unwrap();
    assert!(old.check_against(Some(2027)).unwrap_err().message.contains("before the house was built in 2027"));
    assert!(old.check_against(Some(1967)).is_ok() && old.check_against(None).is_ok());
}

#[test]
fn what_notes_tell_of_open_cells_is_offered_and_never_twice() {
    let items = json!([{ "face": "rear", "kind": "window", "name": "W1" }, { "face": "rear", "kind": "window", "name": "W2" }]);
    let note = |text: &str, station: Option<&str>| json!({ "text": text, "kind": "defect", "place": { "face": "rear", "zone": "openings", "station": station } });
    let told = |answers: Value, notes: Value| {
        let input = json!({ "walls": { "answers": answers }, "items": items, "notes": notes });
        let read: WallInput = serde_json::from_value(input).unwrap();
        wall_account(&read).told.into_iter().map(|t| (t.words, t.answer.text)).collect::<Vec<_>>()
    };
    let notes = json!([note("head lap reversed", Some("W2")), note("W1 jambs right", None), note("W2 is filthy", None)]);
    let both = [("Rear, W2: head lap wrong", "head lap reversed"), ("Rear, W1: jambs right", "")];
    assert_eq!(told(json!({}), notes.clone()), both.map(|(w, t)| (w.to_owned(), t.to_owned())));
    // An answer in the matrix stands, whatever the notes say.
    let answered = json!({ "rear.W2.head-lap": { "found": "right" } });
    assert_eq!(told(answered, notes.clone()).len(), 1);
    // The last word on a cell is the one that is offered.
    let more = json!([note("W1 jambs right", None), note("W1 jambs wrong", None)]);
    assert_eq!(told(json!({}), more), [("Rear, W1: jambs wrong".to_owned(), "W1 jambs wrong".to_owned())]);
}

#[test]
fn heights_are_drawn_as_far_as_they_can_be_read() {
    let floor = |heights: [&str; 5]| {
        let places = [("0 m", "0 m"), ("8 m", "0 m"), ("8 m", "6 m"), ("0 m", "6 m"), ("4 m", "3 m")];
        let points: Vec<Value> = places
            .iter()
            .zip(heights)
            .enumerate()
            .map(|(k, ((x, y), h))| json!({ "id": format!("H{k}"), "x": x, "y": y, "height": h }))
            .collect();
        let input: WallInput = serde_json::from_value(json!({ "walls": { "floor": points } })).unwrap();
        wall_account(&input).floor.unwrap()
    };
    let f = floor(["0 mm", "8 mm", "8 mm", "0 mm", "-1 mm"]);
    // What departs adds up to nothing (least squares), and each height is the plane and what departs from it.
    let plane = f.plane.as_ref().unwrap();
    assert!(f.points.iter().filter_map(|p| p.off_m).sum::<f64>().abs() < 1e-12);
    for p in &f.points {
        assert!((plane.at(p.x_m, p.y_m) + p.off_m.unwrap() - p.height_m).abs() < 1e-12);
    }
    assert!((plane.departure_m + 0.004).abs() < 1e-9, "{}", plane.departure_m);
    // One that cannot be read is left out of the drawing, and there is no plane to compare with.
    let g = floor(["0 mm", "8 mm", "much", "0 mm", "-1 mm"]);
    assert_eq!((g.points.len(), g.plane.is_none(), g.points[0].off_m), (4, true, None));
}

#[test]
fn pictures_of_a_detail_are_few_and_have_names() {
    let with = |pictures: Vec<String>| {
        let walls = json!({ "details": [{ "id": "L1", "template": "window", "face": "rear", "pictures": pictures }] });
        serde_json::from_value::<envelope::wall::record::Walls>(walls).unwrap().check().map_err(|e| e.field)
    };
    assert_eq!(with(vec!["p1".into(), "p2".into()]), Ok(()));
    assert_eq!(with(vec!["p".into(); 13]), Err("details.L1.pictures".to_owned()));
    assert_eq!(with(vec!["p".repeat(1000)]), Err("details.L1.pictures".to_owned()));
}
