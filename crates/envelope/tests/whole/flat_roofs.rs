//! Flat roofs through the account of the rain: figures by hand, and water that goes on.

use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use envelope::rain::flat::figures::FlatAccount;
use envelope::rain::flat::record::FlatRoof;
use envelope::roof::record::Roof;
use proptest::prelude::*;
use serde_json::{Value, json};

fn mass(id: &str, form: &str, length: f64, depth: f64, eave: f64, overhang: f64) -> Value {
    json!({ "id": id, "name": id, "length": length.to_string(), "depth": depth.to_string(), "form": form, "eave": eave.to_string(),
            "overhang": overhang.to_string(), "pitch": { "how": "typed", "text": "6:12" } })
}

fn roof(masses: Vec<Value>) -> Roof {
    serde_json::from_value(json!({ "masses": masses })).unwrap()
}

fn input(roof: Roof, flats: Vec<Value>, gutters: Vec<Value>) -> RainAccountInput {
    let rainwater = json!({ "storm": { "i5": "120 mm/h", "i60": "40 mm/h" }, "flats": flats, "gutters": gutters });
    RainAccountInput {
        roof,
        rainwater: serde_json::from_value(rainwater).unwrap(),
        front_faces: None,
        driving_rain_from: None,
        practice: Default::default(),
        at_mm_h: None,
        remedies: true,
    }
}

/// One roof of 4 by 3 m.
fn alone(flat: Value) -> RainAccount {
    rain_account(&input(roof(vec![mass("A", "flat", 4.0, 3.0, 3.0, 0.0)]), vec![flat], vec![]))
}

fn only(a: &RainAccount) -> &FlatAccount {
    assert_eq!(a.flats.len(), 1);
    assert_eq!(a.flats[0].problem, None);
    &a.flats[0]
}

fn parapets(high: &str) -> Value {
    json!({ "front": high, "rear": high, "left": high, "right": high })
}

fn scupper(face: &str, from_left: &str, up: &str, overflow: bool) -> Value {
    json!({ "kind": "scupper", "face": face, "from_left": from_left, "size": "300 x 100 mm", "up": up, "overflow": overflow, "distance": "1 m" })
}

fn balanced(a: &RainAccount) {
    let s = a.sums;
    let (came, went) = (s.roof + s.walls, s.outlets + s.spilt + s.free + s.held);
    assert!((came - went).abs() < 1e-6 * came.max(1.0), "{came} came, {went} went: {s:?}");
}

/// A trial on a flat roof says what comes of it: the scupper by its weir, the blocked roof by its parapet.
#[test]
fn a_change_of_a_flat_roof_is_compared_by_how_deep_it_stands() {
    use envelope::measure::Units;
    use envelope::rain::compare::compare;
    let with = |blocked: bool, name: &str| {
        let mut out = scupper("rear", "2", "", false);
        (out["blocked"], out["onto"]) = (json!(blocked), json!(name));
        input(
            roof(vec![mass("A", "flat", 4.0, 3.0, 3.0, 0.0)]),
            vec![json!({ "mass": "A", "parapets": parapets("300 mm"), "outlets": [out] })],
            vec![],
        )
    };
    let told = |one: &RainAccountInput, two: &RainAccountInput, u: Units| {
        let (before, after) = (rain_account(one), rain_account(two));
        compare([&one.rainwater, &two.rainwater], [&before, &after], u)
    };
    let (open, blocked) = (with(false, ""), with(true, ""));
    let c = told(&open, &blocked, Units::Metric);
    // (0.4 · 24,000 / 300)^(2/3) is 10 mm over the sill; blocked it fills to the 300 mm of its parapet.
    let row = c.rows.iter().find(|r| r.what == "flat roof of the A stands at its deepest").unwrap();
    assert!((row.before.unwrap() - 10.08).abs() < 0.2 && (row.after.unwrap() - 300.0).abs() < 2.0, "{row:?}");
    assert_eq!(c.sentence, "In the rain the flat roof of the A holds 10 mm at its deepest before, 300 mm after.");
    assert!(
        told(&open, &blocked, Units::Us).sentence.contains("3/8 in at its deepest before"),
        "{}",
        told(&open, &blocked, Units::Us).sentence
    );
    // What is noted only is told as such.
    assert_eq!(told(&open, &with(false, "A.-v"), Units::Metric).sentence, "It changes no figure.");
    assert_eq!(told(&open, &open, Units::Metric).sentence, "Nothing changes.");
}

/// 12 m² at 120 mm/h are 0.4 L/s; over a sill 300 mm wide they stand (0.4 · 24,000 / 300)^(2/3) mm deep.
#[test]
fn a_scupper_holds_what_its_weir_needs() {
    let a = alone(json!({ "mass": "A", "parapets": parapets("300 mm"), "outlets": [scupper("rear", "2", "", false)] }));
    let f = only(&a);
    let hand = (0.4_f64 * 24_000.0 / 300.0).powf(2.0 / 3.0);
    assert!((f.rain.depth_m * 1000.0 - hand).abs() < 0.02, "{} by hand {hand}", f.rain.depth_m * 1000.0);
    assert!((f.rain.load_kg_m2 - hand).abs() < 0.02, "a millimetre is a kilogram on a square metre");
    assert!((f.rain.weighs_kg - hand * 12.0).abs() < 0.3);
    assert!((f.outlets[0].l_min - 24.0).abs() < 1e-6 && f.rain.over_l_min == 0.0);
    // Blocked, it fills to its parapet and runs over it, whatever that weighs.
    let b = f.blocked.as_ref().unwrap();
    assert!((b.depth_m - 0.3).abs() < 1e-4 && (b.over_l_min - 24.0).abs() < 1e-6, "{b:?}");
    assert!(f.caution.contains("structural engineer"));
    assert!(f.offered.iter().any(|o| o.line.starts_with("no overflow")), "{:?}", f.offered);
    balanced(&a);
}

#[test]
fn an_overflow_holds_a_blocked_roof() {
    let outlets = json!([scupper("rear", "2", "", false), scupper("rear", "3", "50 mm", true)]);
    let a = alone(json!({ "mass": "A", "parapets": parapets("300 mm"), "outlets": outlets }));
    let f = only(&a);
    let hand = 50.0 + (0.4_f64 * 24_000.0 / 300.0).powf(2.0 / 3.0);
    let b = f.blocked.as_ref().unwrap();
    assert!((b.depth_m * 1000.0 - hand).abs() < 0.02 && b.over_l_min == 0.0, "{b:?}");
    assert!((f.outlets[0].l_min - 24.0).abs() < 1e-6 && f.outlets[1].l_min == 0.0, "the overflow is dry while the other works");
    assert!(f.offered.is_empty(), "{:?}", f.offered);
    // A sill that stands up keeps what lies under it.
    let a = alone(json!({ "mass": "A", "parapets": parapets("300 mm"), "outlets": [scupper("rear", "2", "20 mm", false)] }));
    let f = only(&a);
    assert!((f.stays.depth_m - 0.02).abs() < 1e-4 && (f.stays.weighs_kg - 240.0).abs() < 1.5, "{:?}", f.stays);
    assert!((f.dries_h - 120.0).abs() < 1.0 && f.offered.iter().any(|o| o.condition == "flat-roof-ponding"));
}

/// A dish 20 mm deep in its middle holds a third of its base times its depth: 12 · 0.02 / 3 m³.
#[test]
fn a_dish_keeps_its_pyramid() {
    let a = alone(json!({ "mass": "A", "heights": [{ "from_left": "2", "from_front": "1.5", "height": "-20 mm" }] }));
    let f = only(&a);
    assert!((f.stays.weighs_kg - 80.0).abs() < 2.0, "{} kg", f.stays.weighs_kg);
    assert!((f.stays.depth_m - 0.02).abs() < 1e-3);
    let p = &f.stays.pools[0];
    assert!((p.from_walls_m[0] - 2.0).abs() < 0.1 && (p.from_walls_m[1] - 1.5).abs() < 0.1);
    assert!(f.remedies.iter().any(|r| r.words.starts_with("A drain") && r.stays_mm < 1.0), "{:?}", f.remedies);
    balanced(&a);
    // Without parapets all of it sheds over the edges, as off any eave.
    assert!((a.sums.free - 24.0).abs() < 1e-6, "{:?}", a.sums);
}

#[test]
fn a_roof_that_falls_sheds_to_that_side_alone() {
    let a = alone(
        json!({ "mass": "A", "fall": "2 %", "toward": "rear", "parapets": { "left": "200 mm", "right": "200 mm", "front": "200 mm" } }),
    );
    only(&a);
    let rear = a.eaves.iter().find(|e| e.key == "A.flat@rear#1").unwrap();
    assert!((rear.l_min - 24.0).abs() < 1e-6, "{:?}", a.eaves.iter().map(|e| (&e.key, e.l_min)).collect::<Vec<_>>());
    assert!(rear.label == "rear edge of the flat roof of the A");
    balanced(&a);
}

/// The pitched roof above pours on it, its scupper goes into the gutter of the roof below, the rest to the ground.
#[test]
fn its_water_comes_from_above_and_goes_on() {
    let mut wing = mass("B", "flat", 6.0, 4.0, 3.0, 0.0);
    wing["against"] = json!({ "mass": "A", "face": "front", "from_left": "2" });
    let mut porch = mass("C", "shed", 4.0, 2.0, 1.5, 0.3);
    porch["falls_to"] = json!("front");
    porch["against"] = json!({ "mass": "B", "face": "front", "from_left": "1" });
    let roof = roof(vec![mass("A", "gable", 12.0, 8.0, 5.0, 0.4), wing, porch]);
    let outlet = json!({ "kind": "scupper", "face": "front", "from_left": "3", "size": "200 x 100 mm", "ends": "lower-roof" });
    let flat = json!({ "mass": "B", "parapets": parapets("250 mm"), "outlets": [outlet] });
    let gutter = json!({ "id": "G1", "eave": "C.-v#1", "form": "box", "width": "150 mm", "depth": "120 mm",
                         "outlets": [{ "from_left": "0.1", "bore": "100 mm", "ends": "ground", "distance": "2 m" }] });
    let a = rain_account(&input(roof, vec![flat], vec![gutter]));
    let f = only(&a);
    balanced(&a);
    assert!(f.from_above_m2 > 20.0, "the main roof's front slope drops on it: {}", f.from_above_m2);
    assert_eq!(f.outlets[0].onto.as_deref(), Some("the roof below"));
    let through = f.outlets[0].l_min;
    assert!((through - (f.plan_m2 + f.from_above_m2) * 2.0).abs() < 1e-6, "all of it goes through the scupper");
    let g = &a.gutters[0];
    let came = g.run.as_ref().unwrap().in_l_s * 60.0;
    assert!(came > through, "the porch's gutter gets it on top of its own: {came}, {through}");
    assert!(a.arrivals.iter().any(|r| r.from == "scupper 1 of the flat roof of the B"), "{:?}", a.arrivals);
}

/// A gutter on the flat roof's edge takes what that edge sheds, and a gutter above whose downspout ends on it brings it more.
#[test]
fn gutters_above_and_below_a_flat_roof() {
    let mut wing = mass("B", "flat", 6.0, 4.0, 3.0, 0.0);
    wing["against"] = json!({ "mass": "A", "face": "front", "from_left": "2" });
    let roof = roof(vec![mass("A", "gable", 12.0, 8.0, 5.0, 0.4), wing]);
    let upper = json!({ "id": "G1", "eave": "A.-v/1", "form": "box", "width": "150 mm", "depth": "120 mm",
                        "outlets": [{ "from_left": "3", "bore": "100 mm", "ends": "lower-roof" }] });
    let lower = json!({ "id": "G2", "eave": "B.flat@front#1", "form": "box", "width": "200 mm", "depth": "150 mm",
                        "outlets": [{ "from_left": "0.1", "bore": "100 mm", "ends": "ground", "distance": "2 m" }] });
    let flat = json!({ "mass": "B", "fall": "2 %", "toward": "front", "parapets": { "left": "200 mm", "right": "200 mm" } });
    let a = rain_account(&input(roof, vec![flat], vec![lower, upper]));
    let f = only(&a);
    balanced(&a);
    let of = |id: &str| a.gutters.iter().find(|g| g.id == id).unwrap().run.as_ref().unwrap().in_l_s * 60.0;
    assert!(of("G1") > 1.0, "{:?}", a.gutters.iter().map(|g| &g.problem).collect::<Vec<_>>());
    assert!((of("G2") - (f.plan_m2 + f.from_above_m2) * 2.0).abs() < 1e-6, "the lower gutter gets all the flat roof gets");
    assert!(f.from_above_m2 * 2.0 >= of("G1") - 1e-6, "what the upper gutter lets go is among it");
}

#[test]
fn what_cannot_be_is_said_and_holds_its_water() {
    let a = alone(json!({ "mass": "Z" }));
    assert!(a.flats[0].problem.as_deref().unwrap().contains("gone"));
    balanced(&a);
    assert!((a.sums.held - 24.0).abs() < 1e-6);
    let a = alone(json!({ "mass": "A", "outlets": [{ "kind": "inner-drain", "from_left": "9", "from_front": "1", "size": "100 mm" }] }));
    assert!(a.flats[0].problem.as_deref().unwrap().contains("does not lie on this roof"));
    balanced(&a);
    let kept = |flat: Value| serde_json::from_value::<envelope::rain::record::Rainwater>(json!({ "flats": [flat] })).unwrap().check();
    assert!(kept(json!({ "mass": "A", "fall": "2 %" })).unwrap_err().message.contains("which face"));
    assert!(kept(json!({ "mass": "A", "fall": "6:12", "toward": "rear" })).unwrap_err().message.contains("no flat roof"));
    assert_eq!(kept(json!({ "mass": "A", "parapets": { "rear": "high" } })).unwrap_err().field, "flats.A.parapets.rear");
    assert!(
        kept(json!({ "mass": "A", "outlets": [{ "kind": "scupper", "from_left": "1", "size": "200 x 100 mm" }] }))
            .unwrap_err()
            .message
            .contains("parapet")
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Whatever is measured on it, however it is turned: no litre is made or lost, and turning it changes nothing.
    #[test]
    fn a_flat_roof_keeps_the_balance(
        (length, depth) in (3.0..14.0_f64, 3.0..12.0_f64),
        heights in proptest::collection::vec((0.05..0.95_f64, 0.05..0.95_f64, -0.06..0.06_f64), 0..6),
        walls in proptest::collection::vec(proptest::option::of(0.05..0.4_f64), 4),
        outlets in proptest::collection::vec((0.0..1.0_f64, 0.0..1.0_f64, 0_u8..5, 0.0..0.08_f64), 0..5),
        fall in 0.0..0.05_f64,
        front in proptest::option::of(0.0..360.0_f64),
    ) {
        let faces = ["front", "rear", "left", "right"];
        let mm = |m: f64| format!("{:.1} mm", m * 1000.0);
        let heights: Vec<Value> = heights
            .iter()
            .map(|(x, y, z)| json!({ "from_left": format!("{:.3}", x * length), "from_front": format!("{:.3}", y * depth), "height": if *z < 0.0 { format!("-{}", mm(-z)) } else { mm(*z) } }))
            .collect();
        let parapets: serde_json::Map<String, Value> =
            faces.iter().zip(&walls).filter_map(|(f, w)| w.map(|w| ((*f).to_owned(), json!(mm(w))))).collect();
        let outlets: Vec<Value> = outlets
            .iter()
            .map(|(x, y, kind, up)| match kind {
                0 => json!({ "kind": "inner-drain", "from_left": format!("{:.3}", x * length), "from_front": format!("{:.3}", y * depth), "size": "100 mm", "up": mm(*up), "strainer": true }),
                k => {
                    let along = if *k < 3 { length } else { depth };
                    json!({ "kind": "scupper", "face": faces[*k as usize - 1], "from_left": format!("{:.3}", x * along), "size": "200 x 80 mm", "up": mm(*up), "overflow": *up > 0.05 })
                }
            })
            .collect();
        let flat = json!({ "mass": "A", "parapets": parapets, "fall": format!("{:.2} %", fall * 100.0), "toward": "rear", "heights": heights, "outlets": outlets });
        let of = |front: Option<f64>| {
            let mut i = input(roof(vec![mass("A", "flat", length, depth, 3.0, 0.0)]), vec![flat.clone()], vec![]);
            i.front_faces = front.map(|f| serde_json::from_value(json!(f)).unwrap());
            rain_account(&i)
        };
        let a = of(front);
        prop_assert_eq!(&a.flats[0].problem, &None);
        let s = a.sums;
        prop_assert!((s.roof - s.outlets - s.spilt - s.free - s.held).abs() < 1e-6 * s.roof, "{:?}", s);
        let h = a.flats[0].hour.as_ref().unwrap();
        prop_assert!((h.came_l - h.outlets_l - h.edges_l - h.stays_l).abs() < 1e-6 * h.came_l, "{:?}", (h.came_l, h.outlets_l, h.edges_l, h.stays_l));
        prop_assert!((h.came_l - 40.0 * length * depth).abs() < 1e-3 * h.came_l, "an hour brings 40 mm");
        let straight = of(None);
        prop_assert!((straight.flats[0].rain.depth_m - a.flats[0].rain.depth_m).abs() < 2e-4);
        let weight = (straight.flats[0].rain.weighs_kg, a.flats[0].rain.weighs_kg);
        prop_assert!((weight.0 - weight.1).abs() < 0.01 * weight.0.max(10.0), "{:?}", weight);
    }
}

/// An outlet where nothing can ever stand is not passed over in silence; behind a parapet no gutter is missed, at a bare edge it is.
#[test]
fn what_takes_nothing_is_named_and_a_parapet_asks_for_no_gutter() {
    let drain = json!({ "kind": "inner-drain", "from_left": "2", "from_front": "1", "size": "100 mm" });
    let a = alone(json!({ "mass": "A", "fall": "2 %", "toward": "rear", "outlets": [drain] }));
    assert_eq!(only(&a).outlets[0].l_min, 0.0);
    assert!(a.doubts.iter().any(|d| d.contains("drain 1") && d.contains("Check its place")), "{:?}", a.doubts);
    let missed = |a: &RainAccount| a.offered.iter().filter(|o| o.condition == "gutter-absent").count();
    assert_eq!(missed(&a), 1, "{:?}", a.offered);
    let closed = alone(json!({ "mass": "A", "parapets": parapets("50 mm") }));
    assert!(closed.sums.free > 0.0 && missed(&closed) == 0, "it runs over its parapet, and no gutter hangs there: {:?}", closed.offered);
    assert!(closed.doubts.is_empty(), "{:?}", closed.doubts);
}

#[test]
fn the_record_reads_what_it_writes() {
    let flat = json!({ "mass": "A", "parapets": { "rear": "1 ft" }, "outlets": [scupper("rear", "2", "2 in", true)] });
    let read: FlatRoof = serde_json::from_value(flat).unwrap();
    let again: FlatRoof = serde_json::from_value(serde_json::to_value(&read).unwrap()).unwrap();
    assert_eq!(read, again);
}

/// Nobody wants to read "-0": what does not stand, fall or weigh anything is nought.
#[test]
fn a_dry_roof_weighs_nought_and_not_less() {
    fn look(v: &Value, at: &str, found: &mut Vec<String>) {
        match v {
            Value::Number(n) if n.as_f64().is_some_and(|x| x == 0.0 && x.is_sign_negative()) => found.push(at.to_owned()),
            Value::Array(all) => all.iter().for_each(|x| look(x, at, found)),
            Value::Object(all) => all.iter().for_each(|(k, x)| look(x, &format!("{at}/{k}"), found)),
            _ => {}
        }
    }
    // Its sills lie level with the roof, so that nothing stays; nothing rises over it, so that nothing falls on it.
    for up in ["", "40 mm"] {
        let flat = json!({ "mass": "A", "parapets": parapets("300 mm"), "outlets": [scupper("rear", "2", up, false)] });
        let a = alone(flat);
        let mut found = vec![];
        look(&serde_json::to_value(&a.flats).unwrap(), "", &mut found);
        assert!(found.is_empty(), "{found:?}");
        assert_eq!(only(&a).from_above_m2, 0.0);
    }
}
