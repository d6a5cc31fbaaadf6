//! A roof as it is kept, and everything that follows from it.

use envelope::practice::Practice;
use envelope::roof::access::Decision;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::details::{DetailKind, DetailState};
use envelope::roof::record::Roof;
use envelope::round::{Context, Note, read};
use envelope::site::{Bearing, Face, Place, Zone};
use proptest::prelude::*;
use serde_json::{Value, json};

fn mass(id: &str, name: &str, more: Value) -> Value {
    let mut m = json!({ "id": id, "name": name, "length": "18 m", "depth": "9 m", "form": "hip", "pitch": { "how": "typed", "text": "6:12" },
        "eave": "2.9 m", "overhang": "0.45 m", "covering": "asphalt-laminated" });
    for (k, v) in more.as_object().unwrap() {
        m[k] = v.clone();
    }
    m
}

/// A T of a hip with a gable wing behind it and a chimney on its rear slope.
fn tee() -> Value {
    json!({ "masses": [
        mass("A", "main", json!({})),
        mass("B", "wing", json!({ "length": "7 m", "depth": "8 m", "form": "gable", "ridge": "front-to-rear",
            "against": { "mass": "A", "face": "rear", "from_left": "3.5 m", "runs_on": true } })),
    ], "fittings": [{ "id": "F1", "kind": "chimney", "name": "stack", "mass": "A", "face": "rear", "width": "1.15 m", "from_left": "14 m", "up": "2 m" }] })
}

fn roof(json: Value) -> Roof {
    serde_json::from_value(json).unwrap()
}

fn input(roof: Roof, practice: &str) -> AccountInput {
    let brief = json!({ "visited_on": "2026-11-18", "year_built": 1967, "front_faces": 200 });
    AccountInput {
        roof,
        brief: serde_json::from_value(brief).unwrap(),
        practice: Practice::from_toml(&format!("name = \"x\"\n{practice}")).unwrap(),
        today: "2026-11-20".parse().unwrap(),
    }
}

fn of(json: Value) -> Account {
    let roof = roof(json);
    roof.check().unwrap();
    account(&input(roof, ""), &[])
}

fn refused(change: impl Fn(&mut Value)) -> String {
    let mut json = tee();
    change(&mut json);
    let roof: Roof = serde_json::from_value(json).unwrap();
    let i = input(roof, "");
    let dates = |r: &Roof| r.check_dates(&i.brief, i.today);
    i.roof.check().and_then(|()| dates(&i.roof)).unwrap_err().to_string()
}

#[test]
fn a_wing_runs_on_into_the_main_roof_and_asks_for_its_valleys() {
    let a = of(tee());
    let s = a.shape.as_ref().unwrap();
    // Ridge of the wing 1.75 m above the eaves: it meets the main slope 3.5 m in.
    assert!((s.edge_totals["valley"].plan_m - 2.0 * 3.95 * std::f64::consts::SQRT_2).abs() < 1e-6);
    let labels: Vec<&str> = a.slopes.iter().map(|s| s.label.as_str()).collect();
    assert!(labels.contains(&"rear slope of the main") && labels.contains(&"left slope of the wing"), "{labels:?}");
    let kinds = |k: DetailKind| a.details.iter().filter(|d| d.kind == k).count();
    assert_eq!(
        (kinds(DetailKind::ValleyLining), kinds(DetailKind::ValleyFoot), kinds(DetailKind::Cricket), kinds(DetailKind::KickOut)),
        (2, 2, 1, 0)
    );
    let cricket = a.details.iter().find(|d| d.kind == DetailKind::Cricket).unwrap();
    // 1.15 m on 6:12: a quarter of the width
    assert!(cricket.size.as_deref().unwrap().starts_with("288 mm"), "{:?}", cricket.size);
    assert_eq!(cricket.place.face, Some(Face::Rear));
    assert!(a.details.iter().filter(|d| d.kind == DetailKind::ValleyFoot).all(|d| d.place.zone == Zone::Edge));
    assert!(a.doubts.is_empty(), "{:?}", a.doubts);
    insta::assert_snapshot!(a.details.iter().map(|d| format!("{}: {} [{:?}]", d.key, d.words, d.state)).collect::<Vec<_>>().join("\n"));
}

#[test]
fn what_was_said_on_the_round_answers_a_detail() {
    let said = |face, line: &str| -> Note {
        let place = Place::outside(face, Zone::Roof);
        read(line, &Context::at(place, Bearing::new(200.0).ok())).notes.remove(0).into_note(String::new())
    };
    let notes = [
        said(Face::Rear, "valley lining done right"),
        said(Face::Rear, "no cricket behind the flue stack"),
        said(Face::Rear, "leaves packed in valley"),
    ];
    let a = account(&input(roof(tee()), ""), &notes.iter().collect::<Vec<_>>());
    let state = |k: DetailKind| a.details.iter().find(|d| d.kind == k).map(|d| d.state);
    assert_eq!(state(DetailKind::ValleyLining), Some(DetailState::Right), "leaves lie anywhere; they do not make the lining wrong");
    assert_eq!(state(DetailKind::Cricket), Some(DetailState::Wrong));
    assert_eq!(state(DetailKind::ChimneyFlashing), Some(DetailState::Open));
    let mut answered = tee();
    answered["answers"] = json!({ "cricket:F1": { "found": "right" } });
    let b = account(&input(roof(answered), ""), &notes.iter().collect::<Vec<_>>());
    assert_eq!(b.details.iter().find(|d| d.kind == DetailKind::Cricket).unwrap().state, DetailState::Right, "what was said here holds");
}

#[test]
fn steps_kick_outs_and_low_pitches() {
    let mut json = tee();
    json["masses"][0]["eave"] = json!("5.4 m");
    json["masses"][0]["form"] = json!("gable");
    json["masses"][1] = mass(
        "B",
        "garage",
        json!({ "length": "6 m", "depth": "9 m", "form": "gable", "ridge": "across", "eave": "2.4 m", "covering": "concrete-tile",
        "pitch": { "how": "typed", "text": "2:12" }, "against": { "mass": "A", "face": "right", "from_left": "0" } }),
    );
    json["fittings"] = json!([{ "id": "F1", "kind": "pipe", "mass": "B", "face": "front" }]);
    let a = of(json);
    let kinds = |k: DetailKind| a.details.iter().filter(|d| d.kind == k).count();
    // The garage's two slopes run along the gable wall, each with its eave ending there.
    assert_eq!((kinds(DetailKind::StepFlashing), kinds(DetailKind::KickOut)), (2, 2));
    assert_eq!((kinds(DetailKind::PipeBoot), kinds(DetailKind::TileFlashing), kinds(DetailKind::LowPitch)), (1, 1, 1));
    let tile = a.slopes.iter().find(|s| s.covering.as_deref() == Some("concrete-tile")).unwrap();
    assert!(tile.modifiers.iter().any(|m| m.what.contains("low pitch")));
    let layer = tile.layer.as_ref().unwrap();
    assert!(layer.name == "underlayment" && layer.life.remaining[1] < tile.life.as_ref().unwrap().remaining[1], "it ages first");
}

#[test]
fn age_and_life_as_sentences_years_and_money() {
    let mut json = tee();
    json["papers"] =
        json!([{ "kind": "permit", "on": "2013-10-22", "source": "office" }, { "kind": "stated", "years": 10.0, "first_hand": true }]);
    json["wear"] = json!({ "A.-v": { "ridge-cap": 4, "granule-loss": 4, "mat-showing": 4 } });
    json["setting"] = json!({ "climate": "freeze-thaw", "past_hail": true, "cost_per_square": { "asphalt-laminated": 500.0 } });
    let a = of(json.clone());
    let c = &a.coverings[0];
    assert!(c.sentence.contains("years old; likely") && c.sentence.contains("less on the front slope of the main"), "{}", c.sentence);
    assert_eq!(c.worst, "front slope of the main");
    assert!((c.cost - c.squares * 500.0).abs() < 1e-9 && (c.squares - a.shape.as_ref().unwrap().squares).abs() < 1e-9);
    assert!(c.plan_year >= 2026 && c.ready_from <= c.plan_year);
    let front = a.slopes.iter().find(|s| s.face == Face::Front).unwrap();
    // 24 years, frost 0.93, sun 0.94, hail 0.85
    assert!((front.median_life_years.unwrap() - 24.0 * 0.93 * 0.94 * 0.85).abs() < 1e-9);
    assert!(front.life.as_ref().unwrap().evidence[0].what.starts_with("Permit of 2013-10-22, 13.1 years"));
    let school =
        |id: &str| account(&input(roof(json.clone()), &format!("[choice.roof-life]\nschool = \"{id}\"")), &[]).slopes[3].left.unwrap();
    let schools = &a.slopes[3].life.as_ref().unwrap().schools;
    assert_eq!((school("typical"), school("condition"), school("combined")), (schools.typical, schools.condition, schools.combined));
    json["papers"][0]["set_aside"] = json!(true);
    let b = of(json.clone());
    assert!(b.papers[0].ends_with("set aside") && b.slopes[0].life.as_ref().unwrap().age[1] < a.slopes[0].life.as_ref().unwrap().age[1]);
    json["setting"]["fails_early"] = json!({ "A": "Its mat lets go after ten years." });
    let spent = of(json);
    assert!(spent.coverings[0].sentence.contains("spent") && spent.coverings[0].plan_year == 2026);
}

#[test]
fn papers_and_wear_at_odds_are_named_and_so_is_the_impossible() {
    let mut json = tee();
    json["papers"] = json!([{ "kind": "permit", "on": "2024-10-22" }]);
    json["wear"] = json!({ "A.-v": { "ridge-cap": 4, "granule-loss": 4, "mat-showing": 4 } });
    assert!(of(json.clone()).coverings[0].conflicts[0].contains("cannot both be right"));
    json["papers"] = json!([
        { "kind": "picture", "on": "2020-01-01", "there": false, "masses": ["A"] },
        { "kind": "picture", "on": "2015-01-01", "there": true }
    ]);
    let a = of(json);
    let problem = a.slopes[0].problem.as_deref().unwrap();
    assert!(problem.contains("cannot be true together"), "{problem}");
    assert!(a.coverings.iter().all(|c| !c.sentence.contains("main")) && a.shape.is_some(), "the rest still stands");
}

#[test]
fn every_bad_input_says_what_to_do() {
    /// What is said, and what was done to the roof.
    type Case<'a> = (&'a str, &'a dyn Fn(&mut Value));
    let cases: [Case<'_>; 17] = [
        ("would not touch", &|j| j["masses"][1]["against"]["from_left"] = json!("25 m")),
        ("needs a pitch above zero", &|j| j["masses"][0]["pitch"]["text"] = json!("0 %")),
        ("larger than the mass", &|j| j["masses"][1]["overhang"] = json!("7.5 m")),
        ("which is not above it", &|j| j["masses"][0]["against"] = json!({ "mass": "B", "face": "rear", "from_left": "0" })),
        ("the length", &|j| j["masses"][0]["length"] = json!("eighteen")),
        ("the length is nothing", &|j| j["masses"][0]["length"] = json!("0")),
        ("is no length", &|j| j["masses"][0]["depth"] = json!("5 %")),
        ("not a covering", &|j| j["masses"][0]["covering"] = json!("thatch")),
        ("falls to one side", &|j| j["masses"][0]["form"] = json!("shed")),
        ("Two masses are called A", &|j| j["masses"][1]["id"] = json!("A")),
        ("stands on no mass", &|j| j["fittings"][0]["mass"] = json!("Z")),
        ("after the visit", &|j| j["papers"] = json!([{ "kind": "permit", "on": "2027-01-01" }])),
        ("the building from 1967", &|j| j["papers"] = json!([{ "kind": "permit", "on": "1950-01-01" }])),
        ("cannot have gone away", &|j| {
            j["papers"] =
                json!([{ "kind": "picture", "on": "2020-01-01", "there": false }, { "kind": "picture", "on": "2015-01-01", "there": true }])
        }),
        ("years from 0 to 60", &|j| j["papers"] = json!([{ "kind": "range", "low_years": 12.0, "high_years": 8.0 }])),
        ("graded from 0 to 4", &|j| j["wear"] = json!({ "A.-v": { "moss": 5 } })),
        ("Wall 2", &|j| j["perimeter"] = json!("18 L nine L 18 L 9")),
    ];
    for (words, change) in cases {
        let said = refused(change);
        assert!(said.contains(words), "{said}");
    }
}

#[test]
fn a_porch_that_stands_too_high_is_doubted() {
    let mut json = tee();
    let porch = json!({ "length": "4 m", "depth": "2.4 m", "form": "shed", "falls_to": "front", "pitch": { "how": "typed", "text": "3:12" },
        "eave": "2.5 m", "overhang": "0.3 m", "against": { "mass": "A", "face": "front", "from_left": "7 m" } });
    json["masses"].as_array_mut().unwrap().push(mass("C", "porch", porch));
    let a = of(json.clone());
    assert!(a.doubts.iter().any(|d| d.contains("3.10 m") && d.contains("cannot end against the wall")), "{:?}", a.doubts);
    json["masses"][2]["against"]["runs_on"] = json!(true);
    let b = of(json.clone());
    assert!(b.doubts.is_empty() && b.shape.unwrap().edge_totals.contains_key("pitch_break"));
    json["perimeter"] = json!("18 L 9 L 18 L 9");
    assert!(of(json).doubts.iter().any(|d| d.contains("A part is missing")), "the tape went round the main block only");
}

#[test]
fn a_weathered_shake_is_not_walked() {
    let json = json!({ "masses": [mass("A", "hall", json!({ "form": "gable", "covering": "wood-shake", "pitch": { "how": "heights", "low": "3.1", "high": "6.1", "run": "3.75" } }))],
        "papers": [{ "kind": "permit", "on": "2008-09-02" }] });
    let a = of(json);
    assert_eq!(a.masses[0].access.decision, Decision::Ladder);
    assert_eq!(a.masses[0].access.reasons.len(), 2, "too steep, and split underfoot");
    assert!(a.masses[0].access.limitation.contains("not walked"));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// Wherever a wing stands, whatever it measures: either it is refused with a reason, or the areas add up, every detail has
    /// its own name, and each slope of the list is a facet of the drawing.
    #[test]
    fn any_wing_anywhere(length in 1.0..12.0_f64, depth in 1.0..12.0_f64, left in 0.0..20.0_f64, eave in 2.0..5.0_f64, face in 0_usize..4, form in 0_usize..4, runs_on in any::<bool>()) {
        let (form, face) = (["hip", "gable", "shed", "flat"][form], ["front", "left", "rear", "right"][face]);
        let mut json = tee();
        json["masses"][1] = mass("B", "wing", json!({ "length": format!("{length:.2}"), "depth": format!("{depth:.2} m"), "eave": format!("{eave:.2}"),
            "form": form, "falls_to": "left", "overhang": "0.2",
            "against": { "mass": "A", "face": face, "from_left": format!("{left:.1}"), "runs_on": runs_on } }));
        let r = roof(json);
        match r.check() {
            Err(e) => prop_assert!(e.message.len() > 20),
            Ok(()) => {
                let a = account(&input(r, ""), &[]);
                let s = a.shape.unwrap();
                prop_assert_eq!(a.slopes.len(), s.facets.len());
                let sum: f64 = s.facets.iter().map(|f| f.plan_area_m2).sum();
                prop_assert!((sum - s.plan_area_m2).abs() < 1e-9);
                let mut keys: Vec<&String> = a.details.iter().map(|d| &d.key).collect();
                keys.sort();
                keys.dedup();
                prop_assert_eq!(keys.len(), a.details.len());
                prop_assert_eq!(a.elevations.len(), 4);
                let high = s.edges.iter().map(|e| e.z0_m.max(e.z1_m)).fold(0.0, f64::max);
                prop_assert!(a.elevations.iter().all(|e| e.height_m <= high + 1e-6 && e.width_m > 0.0));
            }
        }
    }
}
