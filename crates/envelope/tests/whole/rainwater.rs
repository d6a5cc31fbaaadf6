//! Rainwater from the ridge to where it is let go: what follows from a roof with its gutters.

use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use envelope::rain::runoff::way_down;
use envelope::roof::shape::{RoofInput, shape};
use proptest::prelude::*;
use serde_json::{Value, json};

fn mass(id: &str, more: Value) -> Value {
    let mut m = json!({ "id": id, "name": id, "length": "18 m", "depth": "9 m", "form": "hip", "pitch": { "how": "typed", "text": "6:12" },
        "eave": "2.9 m", "overhang": "0.45 m", "covering": "asphalt-laminated" });
    for (k, v) in more.as_object().unwrap() {
        m[k] = v.clone();
    }
    m
}

fn input(gutters: Value) -> Value {
    let wing = json!({ "length": "7 m", "depth": "8 m", "form": "gable", "ridge": "front-to-rear",
        "against": { "mass": "A", "face": "rear", "from_left": "3.5 m", "runs_on": true } });
    json!({ "roof": { "masses": [mass("A", json!({})), mass("B", wing)] }, "front_faces": 200, "remedies": true,
        "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 }, "gutters": gutters } })
}

fn of(json: Value) -> RainAccount {
    let i: RainAccountInput = serde_json::from_value(json).unwrap();
    i.roof.check().unwrap();
    i.rainwater.check().unwrap();
    rain_account(&i)
}

/// A half round of 100 mm under the longer piece of the rear eave.
fn rear_left(levels: &str, inside: &str, outlets: Value) -> Value {
    json!([{ "id": "G1", "name": "rear left", "eave": "A.+v#2", "form": "half-round", "width": "100 mm", "levels": levels, "inside": inside, "outlets": outlets }])
}

#[test]
fn every_litre_is_accounted_for() {
    let a = of(input(json!([])));
    let r = a.runoff.as_ref().unwrap();
    let eaves: f64 = a.eaves.iter().map(|e| e.sheet_m2 + e.burst_m2).sum();
    assert!((eaves - r.total_plan_m2).abs() < 1e-6, "{eaves} of {}", r.total_plan_m2);
    assert!((a.eaves.iter().map(|e| e.l_min).sum::<f64>() - r.total_plan_m2 * 132.0 / 60.0).abs() < 1e-6);
    // What comes along an eave in strips is its sheet.
    for e in &r.eave_sheet {
        let strips: f64 = e.along.iter().map(|s| (s.to_m - s.from_m) * (s.width_from_m + s.width_to_m) / 2.0).sum();
        assert!((strips - e.sheet_total_m2).abs() < 1e-6, "{}: {strips} and {}", e.edge, e.sheet_total_m2);
        assert!(e.along.iter().all(|s| s.from_m >= -1e-6 && s.to_m <= e.length_m + 1e-6));
    }
    assert!(a.eaves.iter().any(|e| e.label == "rear eave of the A, piece 2 from the left" && (e.length_m - 7.5).abs() < 1e-6));
    assert!(
        a.balance.ends_with(": 0 L/min through downspouts, 0 L/min spilt from gutters, 551 L/min off eaves without a gutter."),
        "{}",
        a.balance
    );
}

#[test]
fn a_gutter_that_falls_the_wrong_way_is_seen_and_mended() {
    let outlet = json!([{ "from_left": "7.4 m", "bore": "75 mm", "ends": "ground", "distance": "0.3 m" }]);
    let a = of(input(rear_left("0 0, 7.5 -12 mm", "debris", outlet.clone())));
    let g = &a.gutters[0];
    let run = g.run.as_ref().unwrap();
    assert!((a.sums.spilt - run.spilt_l_s * 60.0).abs() < 1e-9 && a.sums.held < 1e-9, "over the brim to the ground: {:?}", a.sums);
    assert!(g.sentence.contains("spills") && g.sentence.contains("12 mm of water stay in it"), "{}", g.sentence);
    let conditions: Vec<&str> = g.offered.iter().map(|o| o.condition.as_str()).collect();
    assert_eq!(&conditions[..2], ["gutter-overflow-marks", "gutter-standing-water"]);
    assert!(conditions.contains(&"downspout-at-wall"), "{conditions:?}");
    let first = &g.remedies[0];
    assert!(first.ends_it && g.remedies.windows(2).all(|w| w[0].ends_it >= w[1].ends_it), "{:?}", g.remedies);
    assert!(g.remedies.iter().filter(|r| r.ends_it).is_sorted_by_key(|r| r.cost as i64), "the cheapest that ends it comes first");
    assert!(first.sentence.starts_with("Before: spills") && first.spilt_l_min == 0.0 && first.stands_mm <= 5.0);
    // The order follows the costs that were given.
    let mut dear = input(rear_left("0 0, 7.5 -12 mm", "debris", outlet));
    dear["rainwater"]["costs"] = json!({ "one-more-outlet": 5000.0 });
    let words = of(dear).gutters[0].remedies[0].words.clone();
    assert!(words.contains("refit") && !words.contains("outlet and downspout"), "an outlet has become dear: {words}");
}

#[test]
fn what_is_missing_is_said() {
    let a = of(input(rear_left("0 0, 7.5 10 mm", "clean", json!([]))));
    assert!(a.gutters[0].sentence.contains("no outlet") && a.gutters[0].offered[0].condition == "gutter-outlets-short");
    let gone = of(input(json!([{ "id": "G1", "eave": "Z.+v#1", "form": "half-round", "width": "100 mm" }])));
    assert!(gone.gutters[0].problem.as_deref().unwrap().contains("no such eave"));
    let far = of(input(rear_left("0 0", "clean", json!([{ "from_left": "12 m", "bore": "75 mm" }]))));
    assert!(far.gutters[0].problem.as_deref().unwrap().contains("not on this run"));
    let mut dry = input(json!([]));
    dry["rainwater"]["storm"] = json!({ "i5": "5.2", "i60": "1.3" });
    assert!(of(dry).doubts[0].contains("inches per hour"), "25.4 times too little is asked about");
    let two = json!([{ "id": "G1", "eave": "A.+v#1", "width": "100 mm" }, { "id": "G2", "eave": "A.+v#1", "width": "100 mm" }]);
    let twice: RainAccountInput = serde_json::from_value(input(two)).unwrap();
    assert!(twice.rainwater.check().unwrap_err().message.contains("Two gutters"));
}

#[test]
fn more_rain_never_spills_less() {
    let mut spilt = -1.0;
    for at in [20.0, 60.0, 132.0, 196.0, 300.0] {
        let mut i = input(rear_left("0 0, 7.5 10 mm", "aged", json!([{ "from_left": "7.4 m", "bore": "75 mm" }])));
        i["at_mm_h"] = json!(at);
        i["remedies"] = json!(false);
        let run = of(i).gutters[0].run.clone().unwrap();
        assert!(run.spilt_l_s >= spilt && (run.outlets_l_s[0] + run.spilt_l_s - run.in_l_s).abs() < 1e-6, "at {at}");
        spilt = run.spilt_l_s;
    }
}

#[test]
fn a_drop_is_followed_to_the_valley_and_out() {
    let masses = json!({ "masses": [
        { "id": "A", "centre_m": [8, 4.5], "len_u_m": 16, "len_v_m": 9, "eave_height_m": 3.0, "pitch": 0.5, "overhang_m": 0.5, "form": "gable", "ridge_along": "u" },
        { "id": "B", "centre_m": [5, -0.8], "len_u_m": 6, "len_v_m": 7.6, "eave_height_m": 3.0, "pitch": 0.5, "overhang_m": 0.5, "form": "gable", "ridge_along": "v" }
    ] });
    let input: RoofInput = serde_json::from_value(masses).unwrap();
    let s = shape(&input).unwrap();
    // South of the ridge, above the west valley: straight south to it, then down it to its foot at the inner corner.
    let way = way_down(&s, [3.0, 3.5]);
    assert_eq!(way.len(), 3, "{way:?}");
    assert!((way[1][0] - 3.0).abs() < 1e-9 && (way[2][0] - 1.5).abs() < 1e-6 && (way[2][1] + 0.5).abs() < 1e-6, "{way:?}");
    // Beside the valley: straight to the eave.
    let out = way_down(&s, [12.0, 2.0]);
    assert!(out.len() == 2 && (out[1][1] + 0.5).abs() < 1e-9, "{out:?}");
}

/// A house of two storeys with a lower wing in front of its left half: upper eaves over the wing's roof, walls above it.
fn storeys(gutters: Value) -> Value {
    let wing = json!({ "length": "5 m", "depth": "4 m", "form": "gable", "ridge": "front-to-rear", "eave": "2.8 m",
        "against": { "mass": "A", "face": "front", "from_left": "1 m" } });
    json!({ "roof": { "masses": [mass("A", json!({ "length": "12 m", "eave": "6 m", "form": "gable" })), mass("B", wing)] }, "front_faces": 180,
        "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 }, "gutters": gutters } })
}

fn closes(a: &RainAccount) {
    let s = a.sums;
    let out = s.outlets + s.spilt + s.free + s.held;
    assert!((s.roof + s.walls - out).abs() < 1e-6 * s.roof, "{s:?}");
}

#[test]
fn walls_above_a_roof_count_half_in_the_wind() {
    let a = of(storeys(json!([])));
    let r = a.runoff.as_ref().unwrap();
    assert!(a.walls_m2 > 5.0 && a.walls_m2 < 15.0, "half of a wall of about five by three metres and more: {}", a.walls_m2);
    assert!((a.sums.roof - r.total_plan_m2 * 2.2).abs() < 1e-6 && (a.sums.walls - a.walls_m2 * 2.2).abs() < 1e-6);
    assert!(a.arrivals.iter().all(|x| x.from.contains("wall")) && !a.arrivals.is_empty());
    assert!(a.balance.contains("off walls in the wind"), "{}", a.balance);
    closes(&a);
    // The upper eave over the wing is named, says how far it drops, and is offered.
    let over = a.eaves.iter().find(|e| e.drops_m.is_some()).expect("an eave over a lower roof");
    assert!(over.key.ends_with("/1") && over.drops_m.unwrap() > 1.0 && over.label.contains("over the lower roof"), "{over:?}");
    assert!(a.offered.iter().any(|o| o.line.contains("splash on the roof below")), "{:?}", a.offered);
}

#[test]
fn a_gutter_over_a_lower_roof_takes_its_water_off_it() {
    let free = of(storeys(json!([])));
    let over = free.eaves.iter().find(|e| e.drops_m.is_some()).unwrap();
    let outlet = |ends: &str| json!([{ "from_left": "0.2 m", "bore": "100 mm", "ends": ends, "distance": "2 m" }]);
    let hang = |ends: &str| {
        of(storeys(
            json!([{ "id": "G1", "eave": over.key, "form": "half-round", "width": "150 mm", "levels": "0 0, 5 25 mm", "outlets": outlet(ends) }]),
        ))
    };
    let (ground, onto) = (hang("ground"), hang("lower-roof"));
    assert!(ground.gutters[0].problem.is_none(), "{:?}", ground.gutters[0].problem);
    closes(&ground);
    closes(&onto);
    let wing = |a: &RainAccount| a.eaves.iter().filter(|e| e.key.starts_with("B.")).map(|e| e.l_min).sum::<f64>();
    // Nothing spills: all of it leaves by the downspout, or runs down it onto the wing after all.
    assert!(ground.gutters[0].run.as_ref().unwrap().spilt_l_s == 0.0, "{}", ground.gutters[0].sentence);
    assert!((wing(&free) - wing(&ground) - over.l_min).abs() < 0.01 * over.l_min, "{} {} {}", wing(&free), wing(&ground), over.l_min);
    assert!((wing(&onto) - wing(&free)).abs() < 0.01 * over.l_min);
    assert!(onto.gutters[0].outlets[0].onto.is_some() && onto.arrivals.iter().any(|x| x.from == "downspout of G1"));
    assert!(onto.gutters[0].offered.iter().any(|o| o.condition == "downspout-onto-roof"));
}

#[test]
fn water_that_goes_round_is_refused_and_a_buried_pipe_is_to_be_tried() {
    let names: Vec<String> = of(storeys(json!([]))).eaves.iter().map(|e| e.key.clone()).collect();
    let gutter = |id: &str, eave: &str, onto: &str| {
        json!({ "id": id, "eave": eave, "form": "half-round", "width": "125 mm",
            "outlets": [{ "from_left": "0.1 m", "bore": "75 mm", "ends": "lower-roof", "onto": onto }] })
    };
    let (a, b) = (names[0].as_str(), names[1].as_str());
    let ring = of(storeys(json!([gutter("G1", a, b), gutter("G2", b, a)])));
    assert!(ring.gutters.iter().all(|g| g.problem.as_deref().is_some_and(|p| p.contains("in a ring"))), "{:?}", ring.gutters[0].problem);
    closes(&ring);
    let line = of(storeys(json!([gutter("G2", b, a), { "id": "G1", "eave": a, "width": "125 mm",
        "outlets": [{ "from_left": "0.1 m", "bore": "75 mm", "ends": "buried-pipe" }] }])));
    assert!(line.gutters.iter().all(|g| g.problem.is_none()), "one into the other is no ring");
    closes(&line);
    let tries: Vec<&str> = line.gutters[1].offered.iter().filter(|o| o.limitation).map(|o| o.line.as_str()).collect();
    assert!(tries.len() == 1 && tries[0].contains("Run a hose"), "{tries:?}");
    let far = of(input(rear_left("0 0", "clean", json!([{ "from_left": "3 m", "bore": "75 mm", "ends": "lower-roof" }]))));
    assert!(far.doubts.iter().any(|d| d.contains("no lower roof lies within two metres")), "{:?}", far.doubts);
}

#[test]
fn a_narrow_trough_is_flown_over_at_the_valley_and_a_diverter_is_among_the_changes() {
    let outlet = json!([{ "from_left": "7.4 m", "bore": "75 mm", "ends": "ground", "distance": "2 m" }]);
    let mut i = input(rear_left("0 0, 7.5 10 mm", "clean", outlet));
    let wide = of(i.clone());
    assert!(wide.gutters[0].flights.len() == 2 && wide.gutters[0].flights[1].what == "the valley", "{:?}", wide.gutters[0].flights);
    i["rainwater"]["gutters"][0]["past_fascia"] = json!("90 mm");
    i["rainwater"]["gutters"][0]["above_rim"] = json!("60 mm");
    let tucked = of(i.clone());
    let g = &tucked.gutters[0];
    assert!(g.flights.iter().all(|f| !f.result.caught) && g.flights[1].result.lands_m > g.flights[0].result.lands_m);
    assert!(g.offered.iter().any(|o| o.condition == "gutter-capture-short" && o.line.contains("valley flies over G1")), "{:?}", g.offered);
    i["rainwater"]["gutters"][0]["past_fascia"] = json!("110 mm");
    assert!(of(i).gutters[0].flights[0].sentence.contains("behind the drip line"));
    assert!(g.remedies.iter().any(|r| r.change.contains("diverter")), "{:?}", g.remedies);
}

#[test]
fn the_practice_chooses_what_allows_and_what_may_stand() {
    let outlet = json!([{ "from_left": "7.4 m", "bore": "100 mm" }]);
    let with = |choice: Value| {
        let mut i = input(rear_left("0 0, 7.5 -8 mm", "clean", outlet.clone()));
        i["practice"] = json!({ "name": "x", "choice": choice });
        of(i).gutters[0].clone()
    };
    let usual = with(json!({}));
    assert_eq!(usual.allowed.iter().map(|a| a.followed).collect::<Vec<_>>(), [true, false, false]);
    let carried = usual.run.as_ref().map(|r| r.in_l_s * r.spills_from_mm_h.unwrap() / 132.0);
    assert!(usual.allowed[0].l_s == carried && usual.allowed[1..].iter().all(|a| a.l_s.is_some()), "{:?}", usual.allowed);
    let table = with(json!({ "gutter-sizing": { "school": "plumbing-table" } }));
    assert!(table.sentence.contains("plumbing-code table, which this practice follows, allows"), "{}", table.sentence);
    let holds = |g: &envelope::rain::account::GutterAccount| g.offered.iter().any(|o| o.condition == "gutter-standing-water");
    assert!(
        holds(&usual) && !holds(&with(json!({ "gutter-fall": { "school": "near-level" } }))),
        "8 mm may stand in the one and not the other"
    );
}

#[test]
fn a_change_is_compared_and_no_change_changes_nothing() {
    use envelope::rain::compare::compare;
    let outlet = |x: &str| json!([{ "from_left": x, "bore": "75 mm", "distance": "2 m" }]);
    let kept = |i: &Value| serde_json::from_value::<RainAccountInput>(i.clone()).unwrap().rainwater;
    let one = input(rear_left("0 0, 7.5 -12 mm", "debris", outlet("7.4 m")));
    let two = input(rear_left("0 40 mm, 7.5 0", "clean", outlet("0.1 m")));
    let (a, b) = (kept(&one), kept(&two));
    let (before, after) = (of(one), of(two));
    let same = compare([&a, &a], [&before, &before], Default::default());
    assert!(same.sentence == "Nothing changes." && same.rows.len() == 1);
    assert!(same.changes.is_empty() && same.gutter.is_none());
    let c = compare([&a, &b], [&before, &after], Default::default());
    let row = |what: &str| c.rows.iter().find(|r| r.what == what).unwrap_or_else(|| panic!("{what} in {:?}", c.rows));
    let (was, is) = (before.gutters[0].run.as_ref().unwrap(), after.gutters[0].run.as_ref().unwrap());
    assert_eq!((row("spills in all").before, row("spills in all").after), (Some(was.spilt_l_s * 60.0), Some(is.spilt_l_s * 60.0)));
    assert!(row("G1 spills from").after > row("G1 spills from").before && c.sentence.starts_with("Before, "), "{}", c.sentence);
    assert_eq!(c.changes, ["G1: clean it, refit it to levels 0 40 mm, 7.5 0, outlet of 75 mm at 0.1 m, one outlet less"]);
    assert_eq!((c.gutter.as_deref(), c.face), (Some("G1"), Some(envelope::site::Face::Rear)));
    // The gutter taken down: its figures have no after, and the eave pours; it is told where it hung.
    let none = input(json!([]));
    let gone = compare([&b, &kept(&none)], [&after, &of(none)], Default::default());
    assert_eq!(
        (gone.changes.as_slice(), gone.gutter.as_deref(), gone.face),
        (["take G1 down".to_owned()].as_slice(), Some("G1"), Some(envelope::site::Face::Rear))
    );
    assert!(gone.rows.iter().any(|r| r.what == "G1 spills from" && r.after.is_none()));
    assert!(gone.rows.iter().any(|r| r.what.contains("pours free") && r.before.is_none()));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Whatever hangs wherever and ends however: every litre of roof and walls is let go, spilt, poured or held.
    #[test]
    fn no_litre_is_made_or_lost(picks in prop::collection::vec((0..9_usize, 0..5_usize, 0.0..1.0_f64, 40.0..160.0_f64, -20.0..30.0_f64), 0..5), rain in 20.0..250.0_f64) {
        let names: Vec<(String, f64)> = of(storeys(json!([]))).eaves.iter().map(|e| (e.key.clone(), e.length_m)).collect();
        let mut gutters: Vec<Value> = Vec::new();
        for (k, (eave, ends, part, bore, fall)) in picks.into_iter().enumerate() {
            let (eave, long) = &names[eave % names.len()];
            if gutters.iter().any(|g| g["eave"] == *eave) { continue }
            let ends = ["ground", "lower-roof", "pipe-to-daylight", "buried-pipe", "nowhere"][ends];
            gutters.push(json!({ "id": format!("G{k}"), "eave": eave, "form": "half-round", "width": "110 mm", "levels": format!("0 0, {long:.2} {fall:.0} mm"),
                "outlets": [{ "from_left": format!("{:.2} m", part * long), "bore": format!("{bore:.0} mm"), "ends": ends }] }));
        }
        let mut i = storeys(json!(gutters));
        i["at_mm_h"] = json!(rain);
        let a = of(i);
        closes(&a);
        prop_assert!(a.gutters.iter().all(|g| g.problem.as_deref().is_none_or(|p| p.contains("ring") || p.contains("deeper than the trough"))), "{:?}", a.gutters);
    }
}

#[test]
fn a_gutter_goes_round_the_corners_of_a_hip_roof_and_its_outlets_serve_every_side() {
    let hip = json!([mass("A", json!({ "length": "12 m", "depth": "8 m", "overhang": "0.4 m" }))]);
    let of_gutters = |gutters: Value| {
        let mut i = input(gutters);
        i["roof"]["masses"] = hip.clone();
        serde_json::from_value::<RainAccountInput>(i).unwrap()
    };
    let round = |order: [&str; 3]| {
        json!([{ "id": "G1", "eave": "A.-v#1", "round": order, "width": "150 mm", "levels": "0 0", "inside": "clean",
            "outlets": [{ "from_left": "0.1 m", "bore": "100 mm" }, { "from_left": "21 m", "bore": "100 mm" }] }])
    };
    let a = rain_account(&of_gutters(round(["A.+u#1", "A.+v#1", "A.-u#1"])));
    let g = &a.gutters[0];
    let run = g.run.as_ref().unwrap_or_else(|| panic!("{}", g.sentence));
    let length = 2.0 * (12.8 + 8.8);
    assert!((run.surface.last().unwrap()[0] - length).abs() < 0.3, "it goes all the way round");
    // The whole roof comes to it, and two outlets are enough for four sides.
    let roof = a.runoff.as_ref().unwrap().total_plan_m2;
    assert!((run.in_l_s - roof * a.design_mm_h / 3600.0).abs() < 1e-6);
    assert!((run.outlets_l_s.iter().sum::<f64>() + run.spilt_l_s - run.in_l_s).abs() < 1e-4 * run.in_l_s);
    assert!(run.outlets_l_s.iter().all(|q| *q > 0.2 * run.in_l_s), "{:?}", run.outlets_l_s);
    assert!(a.eaves.iter().all(|e| e.gutter.as_deref() == Some("G1")) && a.sums.free == 0.0);
    assert_eq!((g.outlets[0].eave.as_str(), g.outlets[1].eave.as_str()), ("A.-v#1", "A.+u#1"));
    // Eaves that do not follow one another are no run.
    let wrong = rain_account(&of_gutters(round(["A.+v#1", "A.+u#1", "A.-u#1"])));
    assert!(wrong.gutters[0].sentence.contains("does not begin where"), "{}", wrong.gutters[0].sentence);
    let twice = of_gutters(json!([{ "id": "G1", "eave": "A.-v#1", "round": ["A.-v#1"], "width": "150 mm" }]));
    assert!(twice.rainwater.check().unwrap_err().message.contains("one eave"));
}

/// A wing before a tall house and one behind it: walls above both. Wind wets those that look into it, and never two that look away
/// from each other.
#[test]
fn wind_comes_from_one_direction_at_a_time() {
    let wing = |id: &str, face: &str, length: &str| {
        let at = json!({ "length": length, "depth": "4 m", "form": "gable", "ridge": "front-to-rear", "eave": "2.8 m",
            "against": { "mass": "A", "face": face, "from_left": "1 m" } });
        mass(id, at)
    };
    let wet = |from: Option<f64>| {
        let mut i = storeys(json!([]));
        i["roof"]["masses"] = json!([
            mass("A", json!({ "length": "12 m", "eave": "6 m", "form": "gable" })),
            wing("B", "front", "5 m"),
            wing("C", "rear", "8 m")
        ]);
        i["driving_rain_from"] = json!(from);
        let a = of(i);
        closes(&a);
        assert!((a.sums.walls - a.walls_m2 * a.design_mm_h / 60.0).abs() < 1e-6, "what is counted runs somewhere");
        a.walls_m2
    };
    let [north, east, south] = [0.0, 90.0, 180.0].map(|d| wet(Some(d)));
    assert!(south > 3.0 && north > 1.2 * south, "the longer wall lies behind: {north} {south}");
    assert!(east < 1e-6, "no wall above a roof looks east: {east}");
    assert!((wet(Some(45.0)) - north * 0.5_f64.sqrt()).abs() < 1e-6, "a wall aslant to the wind gets less");
    // Nothing known: the direction that brings most, and still only one.
    assert!((wet(None) - north).abs() < 1e-6);
}

#[test]
fn a_school_that_names_its_return_period_is_given_that_storm_or_none() {
    let with = |rains: Value| {
        let mut i = input(json!([]));
        i["practice"] = json!({ "name": "x", "units": "metric", "choice": { "design-rain": { "school": "hundred-year-hour" } } });
        i["rainwater"]["rains"] = rains;
        of(i)
    };
    let none = with(json!([]));
    assert!(none.design_mm_h == 0.0 && none.doubts.iter().any(|d| d.contains("100-year storm")), "{:?}", none.doubts);
    let given = with(json!([{ "i5": "196 mm/h", "i60": "52 mm/h", "years": 100 }]));
    assert!((given.design_mm_h - 52.0).abs() < 0.5, "the hundred years' hour, not the ten years': {}", given.design_mm_h);
}
