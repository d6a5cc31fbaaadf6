//! Laws of counting: what a second person must find again, whoever names the slopes and whichever way the house is turned.

use envelope::calc::run;
use envelope::job::Brief;
use envelope::measure::Units;
use envelope::practice::Practice;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::record::Roof;
use envelope::storm::account::{StormOn, settle, storm_account};
use envelope::storm::events::{Dated, StormEvent, StormSide, WhichStormInput, which_storm};
use envelope::storm::hail::{HailInput, HailSlope, hail};
use envelope::storm::record::StormVisit;
use envelope::storm::wind::{SlopePart, WindInput, WindPart, wind};
use proptest::prelude::*;
use serde_json::{Value, json};

fn slope(name: &str, azimuth: f64, counts: &[u32]) -> HailSlope {
    HailSlope { name: name.into(), azimuth_deg: Some(azimuth), counts_per_square: counts.to_vec(), areas_m2: None }
}

fn input(slopes: Vec<HailSlope>) -> HailInput {
    HailInput { slopes, square_area_m2: 9.290304, confidence: 0.95, cost: None }
}

fn costed(counts: &[u32], per_hit: f64) -> Value {
    let out = run(
        "hail",
        &json!({ "slopes": [{ "name": "N", "counts_per_square": counts }], "cost": {
            "slope_area_squares": { "N": 8.0 }, "repair_per_hit": per_hit, "repair_fixed": 100.0, "replace_per_square": 400.0, "difficulty_factor": 1.0 } })
        .to_string(),
    )
    .unwrap();
    serde_json::from_str::<Value>(&out).unwrap()["break_even"][0].clone()
}

proptest! {
    /// Renaming the slopes, turning the house or telling them in another order changes no rate and no chance.
    #[test]
    fn names_and_turns_change_nothing(a in prop::collection::vec(0u32..30, 1..4), b in prop::collection::vec(0u32..30, 1..4), c in 0u32..30, turn in 0.0..360.0_f64) {
        let one = hail(&input(vec![slope("a", 10.0, &a), slope("b", 100.0, &b), slope("c", 190.0, &[c])])).unwrap();
        let two = hail(&input(vec![slope("x", 190.0 + turn, &[c]), slope("y", 10.0 + turn, &a), slope("z", 100.0 + turn, &b)])).unwrap();
        for (i, j) in [(0, 1), (1, 2), (2, 0)] {
            prop_assert_eq!(one.slopes[i].ci95_per_m2, two.slopes[j].ci95_per_m2);
            prop_assert_eq!(one.slopes[i].within_slope_p_exact, two.slopes[j].within_slope_p_exact);
        }
        let p = |o: &envelope::storm::hail::HailOut| o.directional.as_ref().unwrap().p_exact_probability_order.unwrap();
        prop_assert!((p(&one) - p(&two)).abs() < 1e-9);
        prop_assert!((0.0..=1.0).contains(&p(&one)));
        prop_assert_eq!(one.total, a.iter().sum::<u32>() + b.iter().sum::<u32>() + c);
    }

    /// Twice the squares at the same rate: the range lies within the old one. The rate lies in its range.
    #[test]
    fn more_squares_narrow_the_range(counts in prop::collection::vec(0u32..40, 1..5)) {
        let twice: Vec<u32> = counts.iter().chain(&counts).copied().collect();
        let one = hail(&input(vec![slope("n", 0.0, &counts)])).unwrap().slopes.remove(0);
        let two = hail(&input(vec![slope("n", 0.0, &twice)])).unwrap().slopes.remove(0);
        let ([a, b], [c, d]) = (one.ci95_per_100sqft, two.ci95_per_100sqft);
        prop_assert!(a <= one.rate_per_100sqft && one.rate_per_100sqft <= b);
        prop_assert!(a <= c + 1e-12 && d < b);
    }

    /// A square of half the size counts as half a square: 100 sq ft is 100 sq ft.
    #[test]
    fn the_size_of_the_square_is_no_matter(k in 0u32..40, part in 0.2..3.0_f64) {
        let mut s = slope("n", 0.0, &[k]);
        s.areas_m2 = Some(vec![9.290304 * part]);
        let out = hail(&input(vec![s])).unwrap().slopes.remove(0);
        prop_assert!((out.rate_per_100sqft * part - f64::from(k)).abs() < 1e-9);
        prop_assert!((out.rate_per_m2 * 9.290304 - out.rate_per_100sqft).abs() < 1e-9);
    }

    /// The squares that would settle it do: with so many more hit alike the range lies on one side, with one fewer it does not.
    #[test]
    fn as_many_more_as_it_says(counts in prop::collection::vec(0u32..20, 1..3), per_hit in 15.0..60.0_f64) {
        let now = costed(&counts, per_hit);
        if let Some(more) = now["more_squares"].as_u64() {
            prop_assert!(now["verdict"].as_str().unwrap().starts_with("undecided"));
            // Only whole hits can be counted; the law holds on multiples of the squares there are.
            let times = more.div_ceil(counts.len() as u64) + 1;
            let then: Vec<u32> = std::iter::repeat_n(counts.clone(), times as usize).flatten().collect();
            let after = costed(&then, per_hit);
            prop_assert!(!after["verdict"].as_str().unwrap().starts_with("undecided"), "{now} {after}");
        }
    }

    /// Of the units looked at each is harmed or not: shares lie in their ranges, and parts together are the whole.
    #[test]
    fn units_add_up(rows in prop::collection::vec((1u32..200, 0.0..0.5_f64, 0.0..0.5_f64), 4)) {
        let parts: Vec<WindPart> = SlopePart::ALL.into_iter().zip(&rows).map(|(part, (units, c, u))| WindPart {
            slope: "s".into(), part, units: *units, creased: (c * f64::from(*units)) as u32, lifted: 0, missing: 0, unsealed: (u * f64::from(*units)) as u32,
        }).collect();
        let i = WindInput { parts: parts.clone(), seals: vec![], crease_from_deg: vec![], gust_from_deg: None, least_width_m: None, eave_m: None, confidence: None };
        let out = wind(&i).unwrap();
        for p in &out.parts {
            prop_assert!(p.harmed.range[0] <= p.harmed.share && p.harmed.share <= p.harmed.range[1]);
        }
        let c = out.contrast.unwrap();
        prop_assert_eq!(c.outer.units + c.field.units, parts.iter().map(|p| p.units).sum::<u32>());
        prop_assert!((0.0..=1.0).contains(&c.p_exact));
    }

    /// Chances over the storms add up to one, whatever is known.
    #[test]
    fn some_storm_it_was(days in prop::collection::vec(1i64..3000, 0..5), fresh in 0u32..9, old in 0u32..9, mm in 2.0..80.0_f64, from in 0.0..360.0_f64, n in 0u32..30, s in 0u32..30, spatter in prop::option::of(0.0..360.0_f64)) {
        let visit = jiff::civil::date(2026, 11, 25);
        let events = days.iter().enumerate().map(|(k, d)| StormEvent {
            id: format!("E{k}"), on: visit.checked_sub(jiff::ToSpan::days(*d)).unwrap(), hail_mm: (k % 2 == 0).then_some(20.0), gust_m_s: Some(20.0),
            from_deg: Some(from), km: k as f64,
        }).collect();
        let side = |name: &str, deg: f64, count| StormSide { name: name.into(), faces_deg: Some(deg), pitch: Some(0.8), count, looked_at: 1.0 };
        let out = which_storm(&WhichStormInput {
            units: Units::Metric, events, visit, slopes: vec![side("n", 0.0, n), side("s", 180.0, s)], metals: vec![], largest_mm: Some(mm), fresh, oxidised: old,
            covering_age: Some([3.0, 5.0, 8.0]), dated: vec![Dated { on: jiff::civil::date(2025, 1, 1), there: false, source: String::new() }], crease_from_deg: Some(40.0),
            spatter_from_deg: spatter,
        }).unwrap();
        prop_assert!((out.ranked.iter().map(|r| r.p).sum::<f64>() - 1.0).abs() < 1e-9);
        prop_assert!(out.ranked.iter().all(|r| (0.0..=1.0).contains(&r.p)));
        prop_assert!(out.ranked.windows(2).all(|w| w[0].p >= w[1].p));
    }
}

#[test]
fn a_storm_is_told_by_where_how_large_and_how_fresh() {
    let visit = jiff::civil::date(2026, 11, 25);
    let event = |id: &str, on, mm: Option<f64>, from| StormEvent {
        id: id.into(),
        on,
        hail_mm: mm,
        gust_m_s: Some(22.0),
        from_deg: Some(from),
        km: 2.0,
    };
    let side = |name: &str, deg: f64, count| StormSide { name: name.into(), faces_deg: Some(deg), pitch: Some(0.8), count, looked_at: 1.0 };
    let base = WhichStormInput {
        units: Units::Metric,
        events: vec![
            event("E1", jiff::civil::date(2026, 10, 7), Some(28.0), 225.0),
            event("E2", jiff::civil::date(2024, 6, 2), Some(12.0), 20.0),
            event("E3", jiff::civil::date(2026, 10, 20), None, 225.0),
        ],
        visit,
        slopes: vec![],
        metals: vec![],
        largest_mm: None,
        fresh: 0,
        oxidised: 0,
        covering_age: None,
        dated: vec![],
        crease_from_deg: None,
        spatter_from_deg: None,
    };
    // Dates alone name nothing.
    let bare = which_storm(&base).unwrap();
    assert!(!bare.told_apart && bare.words.contains("a date alone names no storm"), "{}", bare.words);
    let told = WhichStormInput {
        slopes: vec![side("south-west slope", 225.0, 14), side("north-east slope", 45.0, 3)],
        largest_mm: Some(20.0),
        fresh: 6,
        ..base.clone()
    };
    let out = which_storm(&told).unwrap();
    assert_eq!(out.ranked[0].event.as_deref(), Some("E1"), "{:#?}", out.ranked);
    assert!(out.ranked[0].p > 0.8 && out.words.contains("hail of 7 October 2026"));
    // The same hits on the other side, smaller and oxidised: the old one.
    let old = WhichStormInput {
        slopes: vec![side("south-west slope", 225.0, 3), side("north-east slope", 45.0, 14)],
        largest_mm: Some(8.0),
        oxidised: 6,
        ..base.clone()
    };
    let before = which_storm(&old).unwrap();
    assert!(before.ranked[0].event.as_deref() == Some("E2") || before.ranked[0].event.is_none(), "{:#?}", before.ranked);
    // Marks on a picture from before cannot be from the storm after.
    let seen = WhichStormInput {
        dated: vec![Dated { on: jiff::civil::date(2026, 9, 1), there: true, source: "a picture".into() }],
        ..told.clone()
    };
    let p = |o: &envelope::storm::events::WhichStormOut, id: &str| o.ranked.iter().find(|r| r.event.as_deref() == Some(id)).unwrap().p;
    let then = which_storm(&seen).unwrap();
    assert!(p(&then, "E1") < p(&out, "E1") - 0.02, "{:#?}", then.ranked);
    assert!(
        then.ranked[0].event.as_deref() != Some("E1") || then.conflicts[0].contains("the marks were there on 2026-09-01, by a picture"),
        "{:?}",
        then.conflicts
    );
    // Spatter points at the storm that left it, and does not last for years.
    let aimed = |deg: f64| which_storm(&WhichStormInput { spatter_from_deg: Some(deg), ..base.clone() }).unwrap();
    assert!(p(&aimed(225.0), "E1") > p(&aimed(45.0), "E1") + 0.2, "{:#?}", aimed(225.0).ranked);
    let bits = |deg: f64, id: &str, what: &str| {
        let r = aimed(deg).ranked.into_iter().find(|r| r.event.as_deref() == Some(id)).unwrap();
        r.factors.iter().find(|f| f.what == what).map(|f| f.bits)
    };
    assert!(bits(20.0, "E2", "spatter").unwrap() > 1.0 && bits(20.0, "E2", "spatter age").unwrap() < -2.0);
    assert_eq!(bits(225.0, "E3", "spatter"), None, "no hail was reported in it: it left no spatter to point by");
    assert!(aimed(225.0).told_apart);
    // A covering laid after it cannot have been hit by it.
    let young = WhichStormInput { covering_age: Some([0.9, 1.0, 1.1]), ..old };
    assert!(p(&which_storm(&young).unwrap(), "E2") < 0.05);
}

#[test]
fn what_cannot_be_counted_is_refused_in_words() {
    let cost = |per_hit: f64| json!({ "slope_area_squares": { "N": 8 }, "repair_per_hit": per_hit, "repair_fixed": 0, "replace_per_square": 400, "difficulty_factor": 1 });
    let slope = |counts: Value| json!([{ "name": "N", "counts_per_square": counts }]);
    for (calc, body, says) in [
        ("hail", json!({ "slopes": [] }), "No slope"),
        ("hail", json!({ "slopes": slope(json!([])) }), "N has no test square"),
        ("hail", json!({ "slopes": slope(json!([4])), "cost": cost(0.0) }), "mending one hit"),
        ("hail", json!({ "slopes": slope(json!([4])), "square_area_m2": 0 }), "cannot be"),
        ("hail", json!({ "slopes": slope(json!([-1])) }), "cannot be read"),
        (
            "hail",
            json!({ "slopes": [{ "name": "N", "counts_per_square": [1] }, { "name": "N", "counts_per_square": [1] }] }),
            "there twice",
        ),
        ("wind", json!({}), "Nothing was looked at"),
        ("wind", json!({ "parts": [{ "slope": "N", "part": "edge", "units": 4, "creased": 3, "unsealed": 2 }] }), "5 of 4 units"),
        ("wind", json!({ "seals": [{ "slope": "N", "tried": 3, "open": 4 }] }), "4 of 3 seals"),
        ("hit", json!({ "signs": { "rim": "blue" } }), "sunk"),
        ("which-storm", json!({ "events": [{ "id": "E1", "on": "2027-01-01" }], "visit": "2026-11-25" }), "after the visit"),
        ("which-storm", json!({ "events": [], "visit": "2026-11-25", "spatter_from_deg": 1000 }), "0 to 360"),
        (
            "which-storm",
            json!({ "events": [{ "id": "E1", "on": "2026-01-01", "hail_mm": 300 }], "visit": "2026-11-25" }),
            "never been measured",
        ),
    ] {
        let said = run(calc, &body.to_string()).unwrap_err().to_string();
        assert!(said.contains(says), "{calc} {body}: {said}");
    }
}

fn roof(front: f64, letters: [&str; 2]) -> (Roof, Account) {
    let [a, b] = letters;
    let roof: Roof = serde_json::from_value(json!({
        "masses": [
            { "id": a, "name": "hall", "length": "14 m", "depth": "7.5 m", "form": "gable", "ridge": "across", "pitch": { "how": "typed", "text": "9:12" }, "eave": "3.1 m", "overhang": "0.4 m", "covering": "wood-shake" },
            { "id": b, "name": "porch", "length": "14 m", "depth": "2.6 m", "form": "shed", "falls_to": "front", "pitch": { "how": "typed", "text": "2:12" }, "eave": "2.3 m", "overhang": "0.3 m", "covering": "standing-seam", "against": { "mass": a, "face": "front", "from_left": "0 m" } },
        ],
    }))
    .unwrap();
    let brief: Brief = serde_json::from_value(json!({ "front_faces": front, "visited_on": "2026-11-25" })).unwrap();
    let input = AccountInput { roof: roof.clone(), brief, practice: Practice::usual("p"), today: jiff::civil::date(2026, 11, 25) };
    let out = account(&input, &[]);
    (roof, out)
}

fn on<'a>(kept: &'a StormVisit, roof: &'a Account, practice: &'a Practice, front: f64) -> StormOn<'a> {
    let front = serde_json::from_value(json!(front)).ok();
    StormOn {
        kept,
        roof,
        second_layer: false,
        front,
        visit: jiff::civil::date(2026, 11, 25),
        practice,
        noted: Default::default(),
        notes: vec![],
    }
}

/// What was counted says its share at its own row, whatever stands beside it; both slopes of a side that breaks are counted.
#[test]
fn each_row_says_its_own_share() {
    let barn = json!({ "masses": [{ "id": "A", "name": "barn", "length": "10 m", "depth": "8 m", "form": "gambrel", "ridge": "across", "pitch": { "how": "typed", "text": "18:12" },
        "break_at": "4.5 m", "upper_pitch": "6:12", "eave": "3 m", "overhang": "0 m", "covering": "wood-shake" }] });
    let input = |units: &str| AccountInput {
        roof: serde_json::from_value(barn.clone()).unwrap(),
        brief: serde_json::from_value(json!({ "front_faces": 180, "visited_on": "2026-11-25" })).unwrap(),
        practice: Practice::from_toml(&format!("name = \"p\"\nunits = \"{units}\"")).unwrap(),
        today: jiff::civil::date(2026, 11, 25),
    };
    let roof = account(&input("metric"), &[]);
    let front: Vec<&str> = roof.slopes.iter().filter(|s| s.label.starts_with("front")).map(|s| s.facet.as_str()).collect();
    let [one, two] = front.as_slice() else { panic!("{front:?}") };
    let row = |id: &str, slope: &str, units: u32, creased: u32| json!({ "id": id, "slope": slope, "part": "edge", "units": units, "creased": creased });
    let kept = |wind: Value| -> StormVisit {
        serde_json::from_value(json!({ "wind": wind, "seals": [{ "id": "S2", "slope": two, "tried": 10, "failed": 10 }] })).unwrap()
    };
    let practice = input("metric").practice;
    let say = |kept: &StormVisit, practice: &Practice| storm_account(&on(kept, &roof, practice, 180.0));
    let good = kept(json!([row("W1", one, 40, 3), row("W2", two, 20, 0)]));
    let out = say(&good, &practice);
    assert_eq!(out.problems, Vec::<String>::new(), "both slopes of the side are counted");
    let words: Vec<(&str, &str)> = out.row_words.iter().map(|r| (r.id.as_str(), r.words.as_str())).collect();
    // Clopper and Pearson: 3 of 40 is 1.57 to 20.39 %, 0 of 20 up to 1 - 0.025^(1/20), 10 of 10 from 0.025^(1/10).
    assert_eq!(
        words,
        [
            ("W1", "Harmed by wind: 3 of 40 (2 to 20 %)"),
            ("W2", "Harmed by wind: 0 of 20 (0 to 17 %)"),
            ("S2", "Open: 10 of 10 (69 to 100 %)")
        ]
    );
    // Eaves at 3 m, eight by ten: a tenth of eight is less than 0.9 m, and less than 0.4 of three.
    let zone = |out: &envelope::storm::account::StormAccount| out.zone_words.clone().unwrap();
    assert!(zone(&out).starts_with("Corners and edges are 0.9 m wide here"), "{}", zone(&out));
    let us = say(&good, &input("us").practice);
    assert!(zone(&us).starts_with("Corners and edges are 2 ft 11") && zone(&us).ends_with("in."), "{}", zone(&us));
    // A row that cannot be says nothing, and the others still say theirs.
    let odd = say(&kept(json!([row("W1", one, 2, 3), row("W2", two, 20, 0)])), &practice);
    assert_eq!(odd.row_words.iter().map(|r| r.id.as_str()).collect::<Vec<_>>(), ["W2", "S2"]);
    assert!(odd.problems.iter().any(|p| p.contains("3 of 2 units cannot be")), "{:?}", odd.problems);
}

fn square(id: &str, slope: &str, seed: u32) -> Value {
    json!({ "id": id, "slope": slope, "seed": seed, "wide": "10 ft", "high": "10 ft", "counted": true, "hits": [{ "id": "h1", "x": 0.25, "y": 0.75, "size": "22 mm" }] })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]
    /// The seed gives the same place, wherever the front looks and whatever the parts are called; the square lies on its slope, and
    /// squares of one slope never overlap.
    #[test]
    fn the_seed_gives_the_same_place(seeds in prop::array::uniform3(0u32..), front in 0.0..360.0_f64) {
        let p = Practice::usual("p");
        let kept = |a: &str| -> StormVisit {
            serde_json::from_value(json!({ "squares": [square("Q1", &format!("{a}.-v"), seeds[0]), square("Q2", &format!("{a}.-v"), seeds[1]), square("Q3", &format!("{a}.+v"), seeds[2])] })).unwrap()
        };
        let ((_, one), (_, two)) = (roof(front, ["A", "B"]), roof((front + 77.0) % 360.0, ["M", "K"]));
        let (k1, k2) = (kept("A"), kept("M"));
        let (x, y) = (storm_account(&on(&k1, &one, &p, front)), storm_account(&on(&k2, &two, &p, (front + 77.0) % 360.0)));
        prop_assert!(on(&k1, &one, &p, front).check().is_ok());
        for (a, b) in x.squares.iter().zip(&y.squares) {
            prop_assert!((a.from_left_m.unwrap() - b.from_left_m.unwrap()).abs() < 1e-6, "{:?} {:?}", a, b);
            prop_assert!((a.from_low_m.unwrap() - b.from_low_m.unwrap()).abs() < 1e-6);
            // 10 ft along the eave on the plan, and as the slope foreshortens it.
            let d = |i: usize, j: usize| ((a.corners[i][0] - a.corners[j][0]).powi(2) + (a.corners[i][1] - a.corners[j][1]).powi(2)).sqrt();
            prop_assert!((d(0, 1) - 3.048).abs() < 1e-6 && (d(1, 2) - 3.048 / 1.25).abs() < 1e-6);
        }
        let (q, r) = (&x.squares[0], &x.squares[1]);
        let apart = |a: f64, b: f64| (a - b).abs() >= 3.048 - 1e-6;
        prop_assert!(apart(q.from_left_m.unwrap(), r.from_left_m.unwrap()) || apart(q.from_low_m.unwrap(), r.from_low_m.unwrap()));
    }
}

/// The law that counting rests on: what was counted lies where it was counted, whatever is taken out, added or changed around it.
#[test]
fn a_counted_square_stays() {
    let mut p = Practice::usual("p");
    let (_, roof) = roof(140.0, ["A", "B"]);
    let visit = |squares: Vec<Value>| -> StormVisit { serde_json::from_value(json!({ "squares": squares })).unwrap() };
    let held = |before: &StormVisit, mut after: StormVisit, p: &Practice| {
        let places = on(&after, &roof, p, 140.0).places(&on(before, &roof, p, 140.0));
        for (q, at) in after.squares.iter_mut().zip(places) {
            q.drawn = at;
        }
        after
    };
    let place = |v: &StormVisit, id: &str, p: &Practice| {
        let out = storm_account(&on(v, &roof, p, 140.0));
        let q = out.squares.into_iter().find(|q| q.id == id).unwrap();
        ([q.from_left_m.unwrap(), q.from_low_m.unwrap()], q.place_words.unwrap())
    };
    // Two seeds of which the second would be drawn onto the first: found, not assumed.
    let alone = |seed: u32| place(&visit(vec![square("Q", "A.-v", seed)]), "Q", &p).0;
    let over = |a: [f64; 2], b: [f64; 2]| (0..2).all(|k| (a[k] - b[k]).abs() < 3.048);
    let second = (2u32..500).find(|s| over(alone(1), alone(*s))).unwrap();
    let (q1, q2) = (square("Q1", "A.-v", 1), square("Q2", "A.-v", second));

    let empty = StormVisit::default();
    let both = held(&empty, visit(vec![q1.clone(), q2.clone()]), &p);
    let (at, words) = place(&both, "Q2", &p);
    assert_ne!(at, alone(second));
    assert!(words.ends_with(&format!("drawn by the seed {second}")), "{words}");

    // The first is taken out; a client that never heard of kept places sends the second without its own.
    let left = held(&both, visit(vec![q2.clone()]), &p);
    let (still, words) = place(&left, "Q2", &p);
    assert_eq!(still, at);
    assert!(words.contains("have changed since"), "{words}");

    // Another margin, and a new square that has not been counted keeps clear.
    let choice = serde_json::from_value(json!({ "own": "0.6 m", "reason": "ours" })).unwrap();
    p.choice.insert("square-margin".into(), choice);
    let mut q3 = square("Q3", "A.-v", second);
    (q3["counted"], q3["hits"]) = (json!(false), json!([]));
    let more = held(&left, visit(vec![q3, q2.clone()]), &p);
    assert_eq!(place(&more, "Q2", &p).0, at);
    assert!(more.squares[0].drawn.is_none(), "nobody has counted it: its place is still free");
    assert!(!over(place(&more, "Q3", &p).0, at));

    // Moved and put back, it lies where it was counted; with another seed it is another square.
    let mut away = q2.clone();
    away["moved"] = json!({ "from_left": "1 m", "from_low": "1 m", "why": "a cable" });
    let back = held(&held(&more, visit(vec![away]), &p), visit(vec![q2.clone()]), &p);
    assert_eq!(place(&back, "Q2", &p).0, at);
    let other = held(&back, visit(vec![square("Q2", "A.-v", second + 1)]), &p);
    assert_ne!(place(&other, "Q2", &p).0, at);
}

#[test]
fn squares_that_cannot_lie_there() {
    let p = Practice::usual("p");
    let (_, roof) = roof(140.0, ["A", "B"]);
    let moved = |left: &str, low: &str| {
        let mut q = square("Q2", "A.-v", 2);
        q["moved"] = json!({ "from_left": left, "from_low": low, "why": "a vent pipe" });
        q
    };
    let with = |mut q: Value, field: &str, value: &str| {
        q[field] = json!(value);
        q
    };
    for (squares, says) in [
        (json!([square("Q1", "Z.-v", 1)]), "no slope"),
        (json!([moved("13 m", "1 m")]), "hang over the edge"),
        (json!([moved("2 m", "1 m"), (with(moved("3 m", "1 m"), "id", "Q3"))]), "overlaps Q2"),
        (json!([(with(square("Q1", "B.-v", 1), "high", "12 m"))]), "smaller"),
    ] {
        let kept: StormVisit = serde_json::from_value(json!({ "squares": squares })).unwrap();
        kept.check().unwrap();
        let said = on(&kept, &roof, &p, 140.0).check().unwrap_err().message;
        assert!(said.contains(says), "{said}");
        // What cannot lie there is still shown, and its marks are kept.
        let out = storm_account(&on(&kept, &roof, &p, 140.0));
        assert!(out.squares.iter().any(|q| q.problem.is_some()) || !out.problems.is_empty());
    }
    for (body, field) in [
        (
            json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "10 ft", "high": "10 ft", "hits": [{ "id": "h1", "x": 1.2, "y": 0.5 }] }] }),
            "squares.Q1.hits.h1.x",
        ),
        (
            json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "10 ft", "high": "10 ft", "hits": [{ "id": "h1", "x": 0.2, "y": 0.5, "size": "300 mm" }] }] }),
            "squares.Q1.hits.h1.size",
        ),
        (json!({ "squares": [square("Q1", "A.-v", 1), square("Q1", "A.+v", 1)] }), "squares.Q1.id"),
        (
            json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "10 ft", "high": "10 ft", "moved": { "from_left": "1 m", "from_low": "1 m", "why": " " } }] }),
            "squares.Q1.moved.why",
        ),
        (json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "0 m", "high": "10 ft" }] }), "squares.Q1.wide"),
        (
            json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "10 ft", "high": "10 ft", "how": "not-reached", "counted": true }] }),
            "squares.Q1.how",
        ),
        (
            json!({ "costs": { "repair_per_hit": 0.0, "repair_fixed": 0.0, "replace_per_square": 400.0, "difficulty": 1.0 } }),
            "costs.repair_per_hit",
        ),
        (json!({ "lifts": [{ "id": "L1", "slope": "A.-v", "tried": 5, "failed": 6 }] }), "lifts.L1.failed"),
        (json!({ "not_this": [{ "id": "N1", "what": "foot", "place": "", "why": "" }] }), "not_this.N1.why"),
    ] {
        let kept: StormVisit = serde_json::from_value(body.clone()).unwrap();
        assert_eq!(kept.check().unwrap_err().field, field, "{body}");
    }
    let late: StormVisit = serde_json::from_value(json!({ "events": [{ "id": "E1", "on": "2026-12-24" }] })).unwrap();
    assert_eq!(late.check_dates(jiff::civil::date(2026, 11, 25)).unwrap_err().field, "events.E1.on");
}

#[test]
fn a_whole_assessment_in_words() {
    let p = Practice::usual("p");
    let (_, roof) = roof(140.0, ["A", "B"]);
    let hits = |n: usize, signs: Value| -> Vec<Value> {
        (0..n).map(|k| json!({ "id": format!("h{k}"), "x": 0.1 + 0.08 * k as f64, "y": 0.5, "size": "18 mm", "signs": signs })).collect()
    };
    let mut north = square("Q1", "A.-v", 7);
    north["hits"] = json!(hits(9, json!({ "shape": "round", "edge": "sharp-fresh", "rim": "sunk" })));
    let mut south = square("Q2", "A.+v", 7);
    // From afar and without signs: each is doubtful.
    south["hits"] = json!(hits(3, json!({})));
    south["how"] = json!("drone");
    let kept: StormVisit = serde_json::from_value(json!({
        "squares": [north, south],
        "seen": [{ "id": "A.+v", "how": "drone", "why": "over the walking limit" }],
        "soft": [{ "id": "M1", "face": "front", "what": "gutter", "count": 6, "largest": "15 mm", "fresh": "fresh" }],
        "wind": [
            { "id": "W1", "slope": "A.-v", "part": "ridge", "units": 40, "creased": 9, "from_deg": 225.0 },
            { "id": "W2", "slope": "A.-v", "part": "field", "units": 200, "creased": 1, "unsealed": 12 },
        ],
        "lifts": [{ "id": "L1", "slope": "A.-v", "tried": 12, "failed": 7 }],
        "events": [{ "id": "E1", "on": "2026-10-07", "hail_mm": 25.0, "gust_m_s": 24.0, "from_deg": 230.0, "km": 1.0 }],
        "costs": { "repair_per_hit": 60.0, "repair_fixed": 150.0, "replace_per_square": 480.0, "difficulty": 1.5 },
    }))
    .unwrap();
    kept.check().unwrap();
    let out = storm_account(&on(&kept, &roof, &p, 140.0));
    let lines: Vec<String> = out
        .squares
        .iter()
        .map(|q| format!("{}: {}", q.id, q.words))
        .chain(out.slopes.iter().map(|s| format!("{} [{}]: {}", s.label, s.advice, s.verdict)))
        .chain([out.directional_words.clone()])
        .chain(out.soft.iter().map(|s| s.words.clone()))
        .chain(out.wind.iter().flat_map(|w| w.contrast.iter().map(|c| c.words.clone())))
        .chain(out.wind.iter().flat_map(|w| w.creases.iter().map(|c| c.words.clone())))
        .chain(out.which.iter().map(|w| w.words.clone()))
        .chain(out.mends.iter().map(|m| m.words.clone()))
        .chain(out.unreached.clone())
        .chain(out.offered.iter().map(|o| format!("offered: {} ({})", o.line, o.condition)))
        .collect();
    insta::assert_snapshot!(lines.join("\n"));
    let mut asked: Vec<envelope::site::Expectation> = ["test-square", "soft-metal"]
        .iter()
        .flat_map(|key| {
            ["front", "left"].map(|face| {
                serde_json::from_value(json!({ "key": key, "face": face, "zone": "roof", "words": "", "state": "open" })).unwrap()
            })
        })
        .collect();
    settle(&mut asked, &kept, &roof);
    assert_eq!(asked.iter().map(|e| format!("{:?}", e.state)).collect::<Vec<_>>(), ["Answered", "Open", "Answered", "Open"]);
}
