//! Rainwater from the ridge to where it is let go: what follows from a roof with its gutters.

use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use envelope::rain::runoff::way_down;
use envelope::roof::shape::{RoofInput, shape};
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
    assert!(a.balance.ends_with("off eaves without a gutter."), "{}", a.balance);
}

#[test]
fn a_gutter_that_falls_the_wrong_way_is_seen_and_mended() {
    let outlet = json!([{ "from_left": "7.4 m", "bore": "75 mm", "ends": "ground", "distance": "0.3 m" }]);
    let a = of(input(rear_left("0 0, 7.5 -12 mm", "debris", outlet.clone())));
    let g = &a.gutters[0];
    assert!(g.sentence.contains("spills") && g.sentence.contains("12 mm of water stay in it"), "{}", g.sentence);
    let conditions: Vec<&str> = g.offered.iter().map(|o| o.condition.as_str()).collect();
    assert_eq!(conditions, ["gutter-overflow-marks", "gutter-standing-water", "downspout-at-wall"]);
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
        assert!(run.spilt_l_s >= spilt && (run.outlets_l_s[0] + run.spilt_l_s - run.in_l_s).abs() < 1e-9, "at {at}");
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
