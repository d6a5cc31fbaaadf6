//! The ground of the demo clinic and of small invented yards: where water stands, whose it is, and what would mend it.

use envelope::ground::after::{compare, mending};
use envelope::ground::origin::Stage;
use envelope::ground::rain_test::{RainTest, RainTestError, Wanted, WetPlace, rain_test};
use envelope::ground::record::{Ground, LowOpening, LowOpeningKind};
use envelope::ground::survey::{GroundInput, Survey, survey};
use envelope::rain::design::hyetograph;
use envelope::rain::design::{RainInput, rain};
use envelope::rain::record::Ends;
use envelope::site::Face;
use proptest::prelude::*;
use serde::Deserialize;
use serde_json::{Value, json};

#[derive(Deserialize)]
struct Demo {
    brief: envelope::job::Brief,
    roof: envelope::roof::record::Roof,
    rainwater: envelope::rain::record::Rainwater,
    ground: Ground,
}

fn clinic() -> GroundInput {
    let d: Demo = toml::from_str(include_str!("../../../../demo/jobs/1-thistlewick.toml")).unwrap();
    d.ground.check().unwrap();
    GroundInput { ground: d.ground, roof: d.roof, rainwater: d.rainwater, brief: d.brief, practice: Default::default(), notes: vec![] }
}

fn stormed(i: &GroundInput, years: Option<f64>) -> (Survey, RainTest) {
    let s = survey(i);
    let t = rain_test(&s, i, Wanted { years, ..Wanted::default() }, &mut |_| true).unwrap();
    (s, t)
}

#[test]
fn the_clinics_yard_ponds_against_the_store_room_and_says_whose_water_it_is() {
    let (s, t) = stormed(&clinic(), None);
    let yard = t
        .wet
        .iter()
        .find(|w| w.face == Face::Rear || w.walls.iter().any(|c| c.face == Face::Rear && c.mass == "A"))
        .expect("the rear-left yard stands in water");
    assert!(yard.walls.iter().any(|c| c.mass == "A" && c.face == Face::Rear && c.length_m > 2.0), "{yard:?}");
    let over: f64 = yard.from.iter().filter(|f| f.origin.starts_with("over the brim of")).map(|f| f.share).sum();
    assert!(over > 0.05 && yard.from.iter().any(|f| f.origin.contains("G3")), "{:?}", yard.from);
    // The neighbour's bank sends water to the right side.
    let right =
        t.wet.iter().find(|w| w.walls.iter().any(|c| c.mass == "A" && c.face == Face::Right)).expect("the right side stands in water");
    assert!(right.from.iter().any(|f| f.origin.contains("neighbour") && f.share > 0.1), "{:?}", right.from);
    // The front is clean and says so.
    assert!(s.account.faces.iter().any(|f| f.mass == "A" && f.face == Face::Front && f.right && f.sentence.ends_with("Clean.")));
    assert!(t.dry.iter().any(|d| d.starts_with("Front of the main")), "{:?}", t.dry);
    assert!(t.litres.misses().abs() < 1e-6, "{:?}", t.litres);
    assert!(s.account.book.as_ref().is_some_and(|b| b.within_tolerance == Some(true)), "{}", s.account.book_says);
}

#[test]
fn a_threshold_in_standing_water_is_named_and_one_above_it_says_by_how_much() {
    let mut i = clinic();
    let (_, t) = stormed(&i, None);
    let wall = t.wet.iter().flat_map(|w| &w.walls).find(|c| c.mass == "A" && c.face == Face::Rear && c.length_m > 2.0).unwrap().clone();
    let way = |id: &str, face: Face, height: &str| LowOpening {
        id: id.into(),
        kind: LowOpeningKind::Threshold,
        mass: "A".into(),
        face,
        along: format!("{:.2} m", f64::midpoint(wall.from_m, wall.to_m)),
        width: "0.9 m".into(),
        height: height.into(),
    };
    i.ground.ways_in = vec![
        way("W1", Face::Rear, "0.5 m"),
        way("W2", Face::Rear, "-1 m"),
        way("W3", Face::Front, "-1 m"),
        LowOpening { mass: "Z".into(), ..way("W4", Face::Rear, "-1 m") },
    ];
    i.ground.check().unwrap();
    let (_, t) = stormed(&i, None);
    // The lowest comes first, what no water stands before last.
    assert_eq!(t.ways_in.iter().map(|w| w.id.as_str()).collect::<Vec<_>>(), ["W2", "W1", "W3", "W4"]);
    let [low, high, dry] = [&t.ways_in[0], &t.ways_in[1], &t.ways_in[2]];
    assert!(low.margin_m.unwrap() < 0.0 && low.sentence.contains("under water") && high.sentence.contains("above the water"));
    assert!((high.margin_m.unwrap() - low.margin_m.unwrap() - 1.5).abs() < 1e-9, "one water, two heights");
    assert!(t.ways_in[3].sentence.contains("no wall") && !t.ways_in[3].clear, "what lies on no wall is not called dry");
    assert!(!low.clear && high.clear && dry.clear);
    assert!(dry.level_m.is_none() && dry.sentence.contains("no water stands"));
    assert!((-1.0..0.5).contains(&low.level_m.unwrap()));
}

/// The same building, called turned: its front said to look otherwise by so much, and its first mass turned back by it. What stands
/// against that turns with it, readings at its faces too; only the grid lies otherwise.
#[test]
fn a_turned_building_stands_on_the_ground_as_it_is() {
    let straight = clinic();
    let mut turned = straight.clone();
    let by = 9.0_f64;
    let front = straight.brief.front_faces.unwrap().degrees();
    turned.brief.front_faces = Some(envelope::site::Bearing::new(front + by).unwrap());
    turned.roof.masses[0].turned_deg = by;
    assert!(straight.roof.masses.len() > 1);
    // What was placed by coordinates stays where it was in the world: turned about the first mass's middle.
    let m = &straight.roof.masses[0];
    let metres =
        |t: &str| envelope::roof::record::metres("", t.trim_start_matches('-')).unwrap() * if t.starts_with('-') { -1.0 } else { 1.0 };
    let middle = [metres(&m.length) / 2.0, metres(&m.depth) / 2.0];
    let (sin, cos) = by.to_radians().sin_cos();
    let spots = turned.ground.spots.iter_mut().map(|p| &mut p.at).chain(turned.ground.nearby.iter_mut().map(|n| &mut n.at));
    for at in spots.filter(|at| at.face.is_none()) {
        let d = [metres(&at.along) - middle[0], metres(&at.out) - middle[1]];
        at.along = format!("{:.4} m", middle[0] + d[0] * cos - d[1] * sin);
        at.out = format!("{:.4} m", middle[1] + d[0] * sin + d[1] * cos);
    }
    let ((s, a), (t, b)) = (stormed(&straight, None), stormed(&turned, None));
    assert!(t.account.doubts.iter().all(|d| !d.contains("turned")), "{:?}", t.account.doubts);
    let sentences = |s: &Survey| s.account.transects.iter().map(|t| t.sentence.clone()).collect::<Vec<_>>();
    assert_eq!(sentences(&s), sentences(&t));
    let faces = |t: &RainTest| {
        let mut all: Vec<(String, Face)> =
            t.wet.iter().flat_map(|w| &w.walls).filter(|c| c.length_m > 1.0).map(|c| (c.mass.clone(), c.face)).collect();
        all.sort_by_key(|c| format!("{c:?}"));
        all.dedup();
        all
    };
    assert_eq!(faces(&a), faces(&b), "the same walls stand in water");
    let deepest = |t: &RainTest| t.wet.iter().filter(|w| !w.walls.is_empty()).map(|w| w.depth_m).fold(0.0, f64::max);
    assert!((deepest(&a) - deepest(&b)).abs() < 0.02, "{} and {}", deepest(&a), deepest(&b));
    // The roof is the same to the last litre; on the ground cells of a grid are cut otherwise.
    assert!((a.litres.roof - b.litres.roof).abs() < 1e-6 * a.litres.roof);
    assert!((a.litres.ground - b.litres.ground).abs() < 0.03 * a.litres.ground, "{} and {}", a.litres.ground, b.litres.ground);
    assert!(b.litres.misses().abs() < 1e-6);
}

#[test]
fn a_buried_pipe_is_worked_out_both_ways() {
    let mut i = clinic();
    let known = stormed(&i, None).1;
    assert!(known.if_blocked.is_none(), "every pipe of the clinic ends where it is seen");
    for o in i.rainwater.gutters.iter_mut().flat_map(|g| &mut g.outlets) {
        o.ends = Ends::BuriedPipe;
    }
    let (_, open) = stormed(&i, None);
    let b = open.if_blocked.clone().expect("the end of the pipes is not known");
    assert!(b.litres > 100.0 && !b.gutters.is_empty(), "{b:?}");
    assert!(open.litres.misses().abs() < 1e-6 && b.taken.misses().abs() < 1e-6, "neither case makes or loses water");
    // What the pipes took is on the ground now, and nowhere else is anything changed but there.
    assert!(b.taken.carried <= open.litres.carried - b.litres + 1e-6 * b.litres + 1.0, "{} {}", b.taken.carried, open.litres.carried);
    assert!((b.taken.roof - open.litres.roof).abs() < 1e-9 && (b.taken.ground - open.litres.ground).abs() < 1e-6);
    let of = |wet: &[WetPlace]| wet.iter().map(|w| w.volume_m3).sum::<f64>();
    assert!(of(&b.wet) > of(&open.wet), "{} {}", of(&b.wet), of(&open.wet));
    assert!(b.words.contains("whose end") && b.words.contains("Blocked, they come up") && b.words.contains("hose"), "{}", b.words);
}

#[test]
fn more_rain_is_never_less_water_and_every_moment_balances() {
    let i = clinic();
    let (_, ten) = stormed(&i, Some(10.0));
    let (_, hundred) = stormed(&i, Some(100.0));
    let most = |t: &RainTest| t.wet.iter().map(|w| w.volume_m3).sum::<f64>();
    assert!(most(&hundred) >= most(&ten) && hundred.litres.roof > ten.litres.roof);
    for s in ten.steps.iter().chain(&hundred.steps) {
        assert!(s.litres.misses().abs() < 1e-6, "minute {}: {:?}", s.minute, s.litres);
    }
    assert!((ten.steps.last().unwrap().minute - 24.0 * 60.0).abs() < 1e-6);
    for w in &ten.wet {
        assert!((w.from.iter().map(|f| f.share).sum::<f64>() - 1.0).abs() < 1e-9, "shares of {} are all of it", w.pond);
    }
}

#[test]
fn what_the_roof_sends_away_does_not_stand_in_the_yard() {
    let i = clinic();
    let (s, before) = stormed(&i, None);
    let mend = mending(&s, &i, Wanted::default()).unwrap();
    let yard = mend.iter().find(|m| m.remedies.iter().any(|r| r.words.contains("G3"))).expect("the yard can be mended at G3");
    // Upstream first, the barrier last and with its reason; each on top of those before it takes more away.
    let stages: Vec<Stage> = yard.remedies.iter().map(|r| r.stage).collect();
    assert!(stages.is_sorted() && stages.last() == Some(&Stage::Barrier), "{stages:?}");
    let after: Vec<f64> = yard.remedies.iter().filter_map(|r| r.after_mm).collect();
    assert!(after.windows(2).all(|w| w[1] <= w[0] + 1e-9) && *after.last().unwrap() == 0.0, "{after:?}");
    assert!(yard.remedies.last().unwrap().sentence.contains("comes last"));
    // A real change, compared: the outlets of the yard led six metres away, the gutters cleaned.
    let mut mended = i.clone();
    for g in &mut mended.rainwater.gutters {
        for o in &mut g.outlets {
            o.distance = "9 m".into();
        }
    }
    let (_, led) = stormed(&mended, None);
    let (sentence, rows) = compare(&before, &led, Default::default());
    assert!(sentence.starts_with("Before, ") && rows.iter().any(|r| r.after < r.before), "{sentence} {rows:?}");
    assert!(compare(&before, &before, Default::default()).0.contains("before and after"));
}

#[test]
fn a_storm_can_be_stopped_and_says_what_is_missing() {
    let i = clinic();
    let s = survey(&i);
    let mut seen = 0;
    let stopped = rain_test(&s, &i, Wanted::default(), &mut |_| {
        seen += 1;
        seen < 3
    });
    assert_eq!((stopped.unwrap_err(), seen), (RainTestError::Stopped, 3));
    let bare = GroundInput { ground: Ground::default(), ..i.clone() };
    assert!(rain_test(&survey(&bare), &bare, Wanted::default(), &mut |_| true).unwrap_err().to_string().contains("at least three heights"));
    let mut dry = i.clone();
    dry.rainwater.storm.i5 = String::new();
    assert!(rain_test(&s, &dry, Wanted::default(), &mut |_| true).unwrap_err().to_string().contains("rain over 5 minutes"));
    assert!(
        rain_test(&s, &i, Wanted { years: Some(37.0), ..Wanted::default() }, &mut |_| true)
            .unwrap_err()
            .to_string()
            .contains("return period")
    );
}

#[test]
fn the_storm_has_the_depths_of_its_law() {
    let law = rain(&RainInput { return_period_years: None, i5_mm_h: 132.0, i60_mm_h: 34.0 }).unwrap();
    let h = hyetograph(&law);
    assert!((h.iter().sum::<f64>() / 12.0 - 34.0).abs() < 1e-6, "an hour of it is the hour's rain");
    assert!((h[6] - 132.0).abs() < 1e-9, "its height is the five minutes' rain, in the middle");
    // Every window about the height holds the depth of the law.
    let (low, high) = (5, 7);
    assert!((h[low..=high].iter().sum::<f64>() / 3.0 - law.intensity(15.0)).abs() < 1e-6);
    assert!(h[..=6].is_sorted() && h[6..].iter().rev().is_sorted());
}

fn yard(spots: Value, more: Value) -> GroundInput {
    let mut v = json!({ "brief": { "front_faces": 180, "walls": [{ "part": "main", "material": "stucco" }] },
        "roof": { "masses": [{ "id": "A", "name": "main", "length": "10 m", "depth": "8 m", "form": "gable", "pitch": { "how": "typed", "text": "6:12" },
            "eave": "3 m", "overhang": "0.4 m", "covering": "asphalt-laminated" }] },
        "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 } },
        "ground": { "spots": spots, "cladding": [{ "face": "front", "bottom": "-50 mm" }] } });
    for (k, x) in more.as_object().unwrap() {
        v["ground"][k] = x.clone();
    }
    serde_json::from_value(v).unwrap()
}

fn spot(id: &str, along: f64, out: f64, mm: f64) -> Value {
    json!({ "id": id, "at": { "face": "front", "along": format!("{along:.2} m"), "out": format!("{out:.2} m") }, "height": format!("{mm:.1} mm") })
}

#[test]
fn a_transect_is_made_of_readings_at_one_station() {
    let i = yard(
        json!([
            spot("a", 2.0, 0.0, -200.0),
            spot("b", 2.0, 1.5, -190.0),
            spot("c", 2.0, 3.1, -190.0),
            spot("d", 7.0, 0.0, -200.0),
            spot("e", 7.0, 3.1, -380.0)
        ]),
        json!({}),
    );
    let s = survey(&i).account;
    assert_eq!(s.transects.len(), 2);
    let (bad, good) = (&s.transects[0], &s.transects[1]);
    assert!(!bad.right && bad.sentence.contains("falls to the wall") && bad.sentence.contains("5 %"), "{}", bad.sentence);
    // 150 mm to the stucco and 100 asked: 50 of the 162 missing may be placed, so other ways are named; each that digs says so.
    let kinds: Vec<(&str, bool, bool)> = bad.remedies.iter().map(|r| (r.kind.as_str(), r.possible, r.digs)).collect();
    assert_eq!(kinds, [("fill", false, false), ("swale", true, true), ("drain", true, true), ("lower", true, true)]);
    assert!(bad.remedies[0].sentence.contains("50 mm of the 162"), "{}", bad.remedies[0].sentence);
    assert!(good.right && good.remedies.is_empty(), "{}", good.sentence);
    let face = &s.faces[0];
    assert!((face.fill_m3.unwrap() - bad.result.as_ref().unwrap().fill_volume_m3_per_m / 2.0 * 5.0).abs() < 1e-9, "average end areas");
    assert!(!face.right && face.sentence.contains("1 of 2 stations fall short"), "{}", face.sentence);
}

#[test]
fn what_was_told_on_the_round_stands_on_the_plan_with_its_circle() {
    use envelope::round::{Context, read};
    use envelope::site::{Place, Zone};
    let told =
        |line: &str| read(line, &Context::at(Place::outside(Face::Left, Zone::Ground), None)).notes.remove(0).into_note(String::new());
    let mut i = clinic();
    let before = survey(&i).account.nearby.len();
    i.notes = vec![told("tree trunk 2 m from wall, 9 m tall"), told("sprinkler head too close 6 in"), told("vegetation against the wall")];
    let a = survey(&i).account;
    assert_eq!(a.nearby.len(), before + 2, "what has no distance has no place");
    let tree = a.nearby.iter().find(|n| n.sentence.contains("trunk")).unwrap();
    assert!(
        !tree.right && (tree.from_wall_m - 2.0).abs() < 1e-9 && tree.sentence.contains("Told on the round, left face"),
        "{}",
        tree.sentence
    );
}

#[test]
fn readings_that_cannot_be_are_left_out_and_named() {
    let inside = json!({ "id": "in", "at": { "along": "5 m", "out": "4 m" }, "height": "0" });
    let far = spot("feet", 5.0, 2.0, -22_000.0);
    let i = yard(
        json!([
            spot("a", 1.0, 0.0, -200.0),
            spot("b", 3.0, 2.0, -220.0),
            spot("c", 5.0, 3.0, -240.0),
            spot("d", 8.0, 0.5, -210.0),
            inside,
            far
        ]),
        json!({}),
    );
    i.ground.check().unwrap();
    let s = survey(&i).account;
    assert!(
        s.doubts.iter().any(|d| d.contains("in lies inside the main"))
            && s.doubts.iter().any(|d| d.contains("feet is 2") && d.contains("another unit")),
        "{:?}",
        s.doubts
    );
    assert!(s.readings.iter().all(|r| r.id != "in"));
    let two = yard(json!([spot("a", 1.0, 0.0, -200.0), spot("b", 1.0, 0.0, -250.0), spot("c", 5.0, 3.0, -240.0)]), json!({}));
    assert!(survey(&two).account.doubts.iter().any(|d| d.contains("different heights")));
    let booked = yard(
        json!([{ "id": "K", "at": { "along": "-2 m", "out": "0 m" } }]),
        json!({ "book": { "lines": [{ "point": "sill", "back": "1.4 m" }, { "point": "K", "between": "1.6 m" }, { "point": "T", "fore": "1.5 m" }, { "point": "K", "between": "1.2 m" }] } }),
    );
    let s = survey(&booked).account;
    assert!(s.book.is_none() && s.book_says.contains("turning point is missing"), "{}", s.book_says);
}

/// Two hollows run over at one place into the same low ground. Full, they are one water, and each still holds no more than it can.
#[test]
fn two_ponds_over_one_brim_each_hold_their_own() {
    let low = [(10, -480.424), (16, -429.004), (17, -470.926), (21, -371.083), (22, -289.830)];
    let height = |k: usize| low.iter().find(|l| l.0 == k).map_or(-100.0, |l| l.1);
    let spots: Vec<Value> = (0..30).map(|k| spot(&format!("P{k}"), (k % 6) as f64 * 2.4 - 1.0, (k / 6) as f64 * 1.5, height(k))).collect();
    let (s, t) = stormed(&yard(json!(spots), json!({ "soil": "clay", "cell": "0.5 m" })), None);
    let hollows = &s.surface.as_ref().unwrap().water.ponds;
    let one_brim = hollows.iter().any(|a| hollows.iter().filter(|b| b.brim == a.brim && b.spills_at == a.spills_at).count() > 1);
    assert!(one_brim, "the case this test is about");
    let pond = &s.account.ponds[0];
    let fullest = t.steps.iter().flat_map(|step| &step.ponds).filter(|p| p.id == pond.id).map(|p| p.volume_m3).fold(0.0, f64::max);
    assert!((fullest / pond.volume_m3 - 1.0).abs() < 1e-9, "{fullest} in {}", pond.volume_m3);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// A random yard in front of a house: every litre that fell is somewhere, at every moment.
    #[test]
    fn no_litre_is_made_or_lost(heights in prop::collection::vec(-500.0..-100.0_f64, 30), clay in any::<bool>(), flow in 0.0..20.0_f64, drain in any::<bool>()) {
        let mut spots: Vec<Value> = (0..30).map(|k| spot(&format!("P{k}"), (k % 6) as f64 * 2.4 - 1.0, (k / 6) as f64 * 1.5, heights[k])).collect();
        spots[3]["top"] = json!("paving");
        spots[9]["top"] = json!("paving");
        let mut nearby = vec![json!({ "id": "S", "kind": "spray-head", "at": { "along": "4 m", "out": "-3 m" }, "flow_l_min": format!("{flow}"), "minutes": "20" })];
        if drain { nearby.push(json!({ "id": "D", "kind": "drain", "at": { "along": "6 m", "out": "-2 m" } })); }
        let i = yard(json!(spots), json!({ "soil": if clay { "clay" } else { "sand" }, "nearby": nearby, "cell": "0.5 m" }));
        prop_assert_eq!(i.ground.check(), Ok(()));
        let (s, t) = stormed(&i, None);
        for step in &t.steps {
            prop_assert!(step.litres.misses().abs() < 1e-6, "{:?}", step.litres);
            for p in &step.ponds {
                let pond = s.account.ponds.iter().find(|o| o.id == p.id).unwrap();
                prop_assert!(p.volume_m3 <= pond.volume_m3 * (1.0 + 1e-9) && p.depth_m <= pond.depth_m + 1e-9, "never above its brim");
            }
        }
        prop_assert!((t.litres.spray - flow * 20.0).abs() < 1e-6);
    }
}
