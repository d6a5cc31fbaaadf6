//! Forms set against one another: what each asks for, how it looks from each face, and that no face is special.

use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::details::{DetailKind, DetailState, cricket_height};
use envelope::roof::elevation::{Elevation, Outline};
use envelope::roof::record::{Roof, metres};
use envelope::roof::walked::walls;
use envelope::site::{Face, Zone};
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeMap;

const FACES: [&str; 4] = ["front", "left", "rear", "right"];

fn mass(id: &str, more: Value) -> Value {
    let mut m = json!({ "id": id, "name": id, "length": "10 m", "depth": "10 m", "form": "hip", "pitch": { "how": "typed", "text": "6:12" },
        "eave": "3 m", "overhang": "0", "covering": "asphalt-laminated" });
    for (k, v) in more.as_object().unwrap() {
        m[k] = v.clone();
    }
    m
}

fn of(masses: Value, front: f64) -> Account {
    let roof: Roof = serde_json::from_value(json!({ "masses": masses })).unwrap();
    roof.check().unwrap();
    let brief = serde_json::from_value(json!({ "front_faces": front, "visited_on": "2026-11-18" })).unwrap();
    account(&AccountInput { roof, brief, practice: Default::default(), today: "2026-11-20".parse().unwrap() }, &[])
}

fn kinds(a: &Account, kind: DetailKind) -> usize {
    a.details.iter().filter(|d| d.kind == kind).count()
}

/// What stands against a turned mass turns with it: however the main is turned, the roof is the same roof.
#[test]
fn a_wing_turns_with_the_mass_it_stands_against() {
    let roof = |turned: f64| {
        of(
            json!([mass("A", json!({ "turned_deg": turned })), wing("left", json!({})), wing("rear", json!({ "id": "C", "name": "C" }))]),
            180.0,
        )
    };
    let straight = roof(0.0);
    for by in [7.0, 30.0, -45.0, 90.0] {
        let a = roof(by);
        let (s, t) = (straight.shape.as_ref().unwrap(), a.shape.as_ref().unwrap());
        assert!((s.plan_area_m2 - t.plan_area_m2).abs() < 1e-9 && s.facets.len() == t.facets.len() && s.edges.len() == t.edges.len());
        for (kind, l) in &s.edge_totals {
            assert!((l.true_m - t.edge_totals[kind].true_m).abs() < 1e-6, "{kind}");
        }
        for f in &s.facets {
            let g = t.facets.iter().find(|g| g.id == f.id).unwrap();
            let way = (f.downslope_azimuth_deg.unwrap() - by - g.downslope_azimuth_deg.unwrap()).rem_euclid(360.0);
            assert!(way.min(360.0 - way) < 1e-6, "{} looks {way} otherwise", f.id);
        }
    }
}

/// A wing of 4 by 3 in the middle of a face, its ridge running out from it.
fn wing(face: &str, more: Value) -> Value {
    let sideways = matches!(face, "left" | "right");
    let (length, depth) = if sideways { ("3 m", "4 m") } else { ("4 m", "3 m") };
    let mut m = json!({ "length": length, "depth": depth, "form": "gable", "ridge": if sideways { "across" } else { "front-to-rear" },
        "against": { "mass": "A", "face": face, "from_left": "3 m", "runs_on": true } });
    for (k, v) in more.as_object().unwrap() {
        m[k] = v.clone();
    }
    mass("B", m)
}

#[test]
fn no_face_is_special() {
    // A square main block: the same wing at any face is the same building, turned.
    let all: Vec<Account> = FACES.iter().map(|f| of(json!([mass("A", json!({})), wing(f, json!({}))]), 180.0)).collect();
    let first = all[0].shape.as_ref().unwrap();
    for (a, face) in all.iter().zip(FACES) {
        let s = a.shape.as_ref().unwrap();
        assert!((s.true_area_m2 - first.true_area_m2).abs() < 1e-6, "{face}");
        for (kind, l) in &first.edge_totals {
            assert!((s.edge_totals[kind].true_m - l.true_m).abs() < 1e-6, "{face} {kind}");
        }
        assert_eq!((kinds(a, DetailKind::ValleyLining), a.details.len()), (2, all[0].details.len()), "{face}");
        let place = a.details.iter().find(|d| d.kind == DetailKind::ValleyLining).unwrap().place.face.unwrap();
        assert_eq!(place.name().to_lowercase(), face, "the valleys lie on the slope they run into");
        // Two metres of half width on 6:12 reach two metres in: ridge and valleys meet there.
        assert!((s.edge_totals["valley"].plan_m - 2.0 * 2.0 * std::f64::consts::SQRT_2).abs() < 1e-6);
    }
}

#[test]
fn every_form_runs_on_as_far_as_it_must() {
    let built = |more: Value| of(json!([mass("A", json!({})), wing("rear", more)]), 180.0);
    let meets = |a: &Account, kind: &str| a.shape.as_ref().unwrap().edge_totals.get(kind).map(|l| l.plan_m);
    // A flat roof at 3.5 m meets the slope a metre in: a straight line of its own width.
    let flat = built(json!({ "form": "flat", "eave": "3.5 m", "covering": "epdm" }));
    assert!((meets(&flat, "flat_junction").unwrap() - 4.0).abs() < 1e-6, "{:?}", flat.doubts);
    // A shed of 3:12 that rises to the wall from 2.5 m is at 3.25 m there and gains 3:12 on the main slope.
    let shed = built(json!({ "form": "shed", "falls_to": "rear", "eave": "2.5 m", "pitch": { "how": "typed", "text": "3:12" } }));
    assert!((meets(&shed, "pitch_break").unwrap() - 4.0).abs() < 1e-6, "{:?}", shed.doubts);
    let hip = built(json!({ "form": "hip" }));
    assert_eq!(kinds(&hip, DetailKind::ValleyLining), 2);
    // Its inner end is wholly within the main roof: one hip end shows, with its two hips, and four of the main block.
    assert_eq!(hip.shape.as_ref().unwrap().edges.iter().filter(|e| e.kind.name() == "hip").count(), 6);
    for (more, words) in [
        (json!({ "eave": "6 m" }), "stands higher than the roof"),
        (json!({ "form": "shed", "falls_to": "front" }), "falls toward"),
        (json!({ "ridge": "across" }), "falls toward"),
    ] {
        assert!(built(more).doubts[0].contains(words));
    }
    let into_gable = of(json!([mass("A", json!({ "form": "gable", "ridge": "front-to-rear" })), wing("rear", json!({}))]), 180.0);
    assert!(into_gable.doubts[0].contains("no slope to run into"), "{:?}", into_gable.doubts);
}

#[test]
fn lower_roofs_ask_for_their_wall() {
    let under = |more: Value| of(json!([mass("A", json!({ "eave": "6 m" })), wing("front", more)]), 180.0);
    let ends = json!({ "mass": "A", "face": "front", "from_left": "3 m" });
    let away = under(json!({ "form": "shed", "falls_to": "front", "against": ends, "overhang": "0.3" }));
    assert_eq!((kinds(&away, DetailKind::HeadwallFlashing), kinds(&away, DetailKind::SplashZone)), (1, 1));
    let toward = under(json!({ "form": "shed", "falls_to": "rear", "against": ends, "overhang": "0.3" }));
    assert_eq!((kinds(&toward, DetailKind::Backwater), kinds(&toward, DetailKind::HeadwallFlashing)), (1, 0));
    let level = under(json!({ "form": "flat", "covering": "epdm", "against": ends, "overhang": "0.3" }));
    assert_eq!(kinds(&level, DetailKind::HeadwallFlashing), 1);
    let along = under(json!({ "form": "shed", "falls_to": "left", "against": ends, "overhang": "0.3" }));
    assert_eq!((kinds(&along, DetailKind::StepFlashing), kinds(&along, DetailKind::KickOut)), (1, 1));
    let kick = along.details.iter().find(|d| d.kind == DetailKind::KickOut).unwrap();
    assert_eq!((kick.place.zone, kick.state), (Zone::Edge, DetailState::Open));
    assert!(kick.conditions.contains(&"kickout-missing".to_owned()));
}

#[test]
fn wide_curbs_need_a_cricket_and_narrow_ones_do_not() {
    let with = |kind: &str, width: &str, practice: &str| {
        let roof = json!({ "masses": [mass("A", json!({}))], "fittings": [{ "id": "F1", "kind": kind, "mass": "A", "face": "rear", "width": width }] });
        let roof: Roof = serde_json::from_value(roof).unwrap();
        let practice = envelope::practice::Practice::from_toml(&format!("name = \"x\"\n{practice}")).unwrap();
        let a = account(&AccountInput { roof, brief: Default::default(), practice, today: "2026-11-20".parse().unwrap() }, &[]);
        kinds(&a, DetailKind::Cricket)
    };
    assert_eq!((with("curb", "0.8 m", ""), with("chimney", "30 in", ""), with("skylight", "31 in", "")), (1, 0, 1));
    assert_eq!(with("pipe", "0.9 m", ""), 0, "a pipe sheds water by itself");
    assert_eq!(with("chimney", "0.4 m", "[choice.cricket-width]\nschool = \"any\""), 1);
    assert!((cricket_height(0.9, 5.0 / 12.0) - 0.9 * (1.0 / 6.0 + 1.0 / 4.0) / 2.0).abs() < 1e-12, "half way between two rows");
}

#[test]
fn elevations_show_what_stands_before_one() {
    let a = of(json!([mass("A", json!({ "overhang": "0.5" })), wing("front", json!({ "overhang": "0.5" }))]), 200.0);
    let e = |face: Face| a.elevations.iter().find(|e| e.face == face).unwrap();
    // The main block is 11 m wide with its overhangs and 2.5 m of roof above its walls of 3 m.
    for face in [Face::Front, Face::Rear] {
        assert!((e(face).width_m - 11.0).abs() < 1e-6 && (e(face).height_m - 5.5).abs() < 1e-6, "{face:?}: {}", e(face).width_m);
    }
    // From the side the wing adds its depth and its own overhang beyond the main one's.
    assert!((e(Face::Left).width_m - (10.5 + 3.0 + 0.5)).abs() < 1e-6);
    // The gable wall of the wing stands nearest and is drawn last of the walls at the front; from behind it is hidden first.
    let order = |face: Face| e(face).outlines.iter().filter(|o| o.facet.is_none()).map(|o| o.mass.as_str()).collect::<Vec<_>>();
    assert_eq!((order(Face::Front), order(Face::Rear)), (vec!["A", "B"], vec!["B", "A"]));
    let gable = e(Face::Front).outlines.iter().rfind(|o| o.facet.is_none()).unwrap();
    assert_eq!(gable.points.len(), 5, "a gable wall has a peak");
    // Nobody sees the slope on the far side.
    assert!(e(Face::Front).outlines.iter().all(|o| o.facet.as_deref() != Some("A.+v")));
    // Which way the front looks turns the plan and leaves the elevations.
    let turned = of(json!([mass("A", json!({ "overhang": "0.5" })), wing("front", json!({ "overhang": "0.5" }))]), 37.0);
    for (x, y) in a.elevations.iter().zip(&turned.elevations) {
        assert!((x.width_m - y.width_m).abs() < 1e-6 && x.outlines.len() == y.outlines.len(), "{:?}", x.face);
    }
}

/// One stands straight before a wall, however it is turned on the lot: it is drawn as long as it is, and not as it is seen askew.
#[test]
fn a_turned_block_is_seen_straight() {
    let seen = |deg: f64| alone(json!({ "turned_deg": deg, "overhang": "0.5", "form": "hip" })).elevations;
    // Each piece by its name: how far it reaches on each side, and how much it covers.
    let pieces = |e: &Elevation| -> BTreeMap<Option<String>, [f64; 5]> {
        let covers = |p: &[[f64; 2]]| {
            (0..p.len()).map(|i| (p[i], p[(i + 1) % p.len()])).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>().abs() / 2.0
        };
        let reach = |o: &Outline, k: usize| o.points.iter().map(|p| p[k]).fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
        let piece = |o: &Outline| [reach(o, 0).0, reach(o, 0).1, reach(o, 1).0, reach(o, 1).1, covers(&o.points)];
        e.outlines.iter().map(|o| (o.facet.clone(), piece(o))).collect()
    };
    let straight = seen(0.0);
    for deg in [20.0, -70.0, 90.0, 145.5] {
        for (a, b) in straight.iter().zip(seen(deg)) {
            let (p, q) = (pieces(a), pieces(&b));
            assert!(p.len() > 1 && p.keys().eq(q.keys()), "{:?} turned by {deg}: {q:?}", a.face);
            let apart = p.values().flatten().zip(q.values().flatten()).map(|(x, y)| (x - y).abs()).fold(0.0, f64::max);
            assert!(apart < 1e-6, "{:?} turned by {deg}: {p:?} and {q:?}", a.face);
        }
    }
    // What stands askew to the longest wall is shorter there.
    let both = |deg: f64| of(json!([mass("A", json!({})), wing("front", json!({ "turned_deg": deg }))]), 180.0);
    let wall = |a: &Account, mass: &str| {
        let front = a.elevations.iter().find(|e| e.face == Face::Front).unwrap();
        let x = front.outlines.iter().find(|o| o.mass == mass && o.facet.is_none()).unwrap().points.iter().map(|p| p[0]);
        x.clone().fold(f64::MIN, f64::max) - x.fold(f64::MAX, f64::min)
    };
    let (square, askew) = (both(0.0), both(30.0));
    assert!((wall(&square, "A") - wall(&askew, "A")).abs() < 1e-9);
    assert!((wall(&askew, "B") - wall(&square, "B") * 30_f64.to_radians().cos()).abs() < 1e-6);
}

fn alone(more: Value) -> Account {
    of(json!([mass("A", more)]), 180.0)
}

fn plan_of(a: &Account, kind: &str) -> f64 {
    a.shape.as_ref().unwrap().edge_totals.get(kind).map_or(0.0, |l| l.plan_m)
}

#[test]
fn no_two_slopes_are_called_alike() {
    let broken = json!({ "form": "gambrel", "depth": "8 m", "pitch": { "how": "typed", "text": "18:12" }, "break_at": "4.5 m", "upper_pitch": "6:12" });
    let barn = alone(broken.clone());
    let pitch = |a: &Account, id: &str| a.shape.as_ref().unwrap().facets.iter().find(|f| f.id == id).unwrap().pitch;
    for (place, steep) in [("below", 1.5), ("above", 0.5)] {
        let label = format!("front slope of the {} {place} the break", barn.masses[0].name);
        let slope = barn.slopes.iter().find(|s| s.label == label).unwrap_or_else(|| panic!("{label}"));
        assert!((pitch(&barn, &slope.facet) - steep).abs() < 1e-9, "{label}");
    }
    // Masses that share a name, one of them broken: three slopes to a side.
    let twins = of(
        json!([mass("A", broken), mass("B", json!({ "form": "gable", "against": { "mass": "A", "face": "right", "from_left": "0 m" } }))]),
        180.0,
    );
    for a in [&barn, &twins] {
        let mut labels: Vec<&str> = a.slopes.iter().map(|s| s.label.as_str()).collect();
        let all = labels.len();
        labels.sort_unstable();
        labels.dedup();
        assert!(all >= 4 && labels.len() == all, "{labels:?}");
    }
}

#[test]
fn roofs_that_break_have_the_area_and_the_lines_that_geometry_gives() {
    let steep = json!({ "form": "gambrel", "depth": "8 m", "pitch": { "how": "typed", "text": "18:12" }, "break_at": "4.5 m", "upper_pitch": "6:12" });
    let barn = alone(steep.clone());
    let s = barn.shape.as_ref().unwrap();
    // A metre in plan at 18:12 below, three at 6:12 above, on both sides of ten metres.
    let by_hand = 2.0 * 10.0 * (3.25_f64.sqrt() + 3.0 * 1.25_f64.sqrt());
    assert!((s.true_area_m2 - by_hand).abs() < 1e-6 && (s.plan_area_m2 - 80.0).abs() < 1e-6);
    assert!((plan_of(&barn, "pitch_break") - 20.0).abs() < 1e-6 && (plan_of(&barn, "ridge") - 10.0).abs() < 1e-6);
    // Seen from its end: up the steep part, over the break, to the ridge and down.
    let end = barn.elevations.iter().find(|e| e.face == Face::Left).unwrap();
    let wall = end.outlines.iter().find(|o| o.facet.is_none()).unwrap();
    let mut tops: Vec<f64> = wall.points.iter().map(|p| (p[1] * 1e6).round() / 1e6).collect();
    tops.sort_by(f64::total_cmp);
    assert_eq!(tops, [0.0, 0.0, 3.0, 3.0, 4.5, 4.5, 6.0]);
    let mut ring = steep.clone();
    ring["form"] = json!("mansard");
    ring["depth"] = json!("10 m");
    let mansard = alone(ring);
    assert!((plan_of(&mansard, "pitch_break") - 32.0).abs() < 1e-6, "a ring of eight metres a side");
    assert!(plan_of(&mansard, "hip") > 0.0 && plan_of(&mansard, "rake") == 0.0);
}

#[test]
fn half_hips_and_sides_of_their_own_move_the_ridge() {
    let half = alone(json!({ "form": "half-hip", "length": "12 m", "depth": "8 m", "ends_from": "4 m" }));
    // Ridge at 5 m: the ends come up from 4 m in two metres, so four of twelve are gone.
    assert!((plan_of(&half, "ridge") - 8.0).abs() < 1e-6);
    assert!((half.shape.as_ref().unwrap().plan_area_m2 - 96.0).abs() < 1e-6);
    let uneven = alone(
        json!({ "form": "gable", "length": "12 m", "depth": "8 m", "faces": { "front": { "eave": "4 m" }, "rear": { "overhang": "0.5 m" } } }),
    );
    let s = uneven.shape.as_ref().unwrap();
    // Three metres in from the higher front both slopes stand at 5.5 m.
    let ridge = s.edges.iter().find(|e| e.id.starts_with('e') && e.z0_m > 5.4).unwrap();
    assert!((ridge.z0_m - 5.5).abs() < 1e-6 && (ridge.p0[1] - 3.0).abs() < 1e-6, "{ridge:?}");
    assert!((s.plan_area_m2 - 12.0 * 8.5).abs() < 1e-6);
}

#[test]
fn a_dormer_stands_alike_on_every_slope_and_dies_into_it() {
    let dormer = |face: &str, form: &str| {
        let sideways = matches!(face, "left" | "right");
        let (length, depth) = if sideways { ("1 m", "4 m") } else { ("4 m", "1 m") };
        let mut m = json!({ "length": length, "depth": depth, "form": form, "ridge": if sideways { "across" } else { "front-to-rear" },
            "eave": "4.2 m", "against": { "mass": "A", "face": face, "from_left": "3 m", "inward": "1 m", "runs_on": true } });
        if form == "shed" {
            (m["falls_to"], m["pitch"]) = (json!(face), json!({ "how": "typed", "text": "2:12" }));
            // It dies into the slope before the hips on either side.
            m["eave"] = json!("4 m");
        }
        of(json!([mass("A", json!({})), mass("D", m)]), 180.0)
    };
    for form in ["gable", "shed", "hip"] {
        let all: Vec<Account> = FACES.iter().map(|f| dormer(f, form)).collect();
        let first = all[0].shape.as_ref().unwrap();
        for (a, face) in all.iter().zip(FACES) {
            let s = a.shape.as_ref().unwrap();
            assert!((s.plan_area_m2 - 100.0).abs() < 1e-6, "{form} {face}: it covers what it stands on and nothing more");
            assert!((s.true_area_m2 - first.true_area_m2).abs() < 1e-6, "{form} {face}");
            assert!(a.doubts.is_empty(), "{form} {face}: {:?}", a.doubts);
            // It is seen before the slope it stands on, and its wall goes down to that slope only.
            let seen = a.elevations.iter().find(|e| e.face.name().to_lowercase() == face).unwrap();
            let at = |mass: &str, roof: bool| seen.outlines.iter().rposition(|o| o.mass == mass && o.facet.is_some() == roof);
            assert!(at("D", false) > at("A", true), "{form} {face}");
            // Slopes to the sides are seen along their edge.
            assert!(form == "gable" || at("D", true) > at("D", false), "{form} {face}");
            let foot = seen.outlines[at("D", false).unwrap()].points.iter().map(|p| p[1]).fold(f64::MAX, f64::min);
            assert!((foot - 3.5).abs() < 1e-6, "{form} {face}: {foot}");
        }
        // Its cheeks run down the slope it stands on.
        assert_eq!(kinds(&all[0], DetailKind::StepFlashing), 2, "{form}");
    }
    // A gable's ridge at 5.2 m dies into 6:12 from 3 m at 4.4 m in: 3.4 m behind its wall.
    let s = dormer("front", "gable").shape.unwrap();
    let ridge = s.edges.iter().filter(|e| (e.z0_m - 5.2).abs() < 1e-6 && (e.z1_m - 5.2).abs() < 1e-6).map(|e| e.plan_m).sum::<f64>();
    assert!((ridge - 3.4).abs() < 1e-6, "{ridge}");
}

#[test]
fn an_upper_storey_is_set_in_from_the_corner_and_has_walls_on_the_roof_below() {
    let upper = json!({ "length": "6 m", "depth": "5 m", "eave": "7 m", "against": { "mass": "A", "face": "front", "from_left": "1 m", "inward": "2 m" } });
    let a = of(json!([mass("A", json!({ "form": "flat", "covering": "epdm" })), mass("U", upper)]), 180.0);
    let s = a.shape.as_ref().unwrap();
    assert!((s.plan_area_m2 - 100.0).abs() < 1e-6 && a.doubts.is_empty(), "{:?}", a.doubts);
    let steps: f64 = s.step_lower_side_totals.values().map(|l| l.plan_m).sum();
    assert!((steps - 22.0).abs() < 1e-6, "its walls all round");
}

#[test]
fn a_form_that_cannot_be_says_which_figure_is_wrong() {
    let wrong = |more: Value| {
        let roof: Roof = serde_json::from_value(json!({ "masses": [mass("A", more)] })).unwrap();
        let e = roof.check().unwrap_err();
        (e.field, e.message)
    };
    assert_eq!(wrong(json!({ "form": "gambrel", "upper_pitch": "4:12" })).0, "masses.A.break_at");
    assert_eq!(wrong(json!({ "form": "mansard", "break_at": "4 m" })).0, "masses.A.upper_pitch");
    let steeper = wrong(json!({ "form": "gambrel", "break_at": "4 m", "upper_pitch": "12:12" }));
    assert!(steeper.1.contains("less steep above than below"), "{steeper:?}");
    assert_eq!(wrong(json!({ "form": "half-hip" })).0, "masses.A.ends_from");
    let end = wrong(json!({ "form": "gable", "faces": { "left": { "eave": "3 m" } } }));
    assert!(end.0 == "masses.A.faces.left.eave" && end.1.contains("has no slope"), "{end:?}");
    // One that rises over the ridge dies into nothing: it is said, and it stays as deep as it was typed.
    let high = json!({ "length": "4 m", "depth": "2 m", "form": "gable", "ridge": "front-to-rear", "eave": "9 m",
        "against": { "mass": "A", "face": "front", "from_left": "3 m", "inward": "1 m", "runs_on": true } });
    let a = of(json!([mass("A", json!({})), mass("D", high)]), 180.0);
    assert!(a.doubts.iter().any(|d| d.contains("higher than the roof")), "{:?}", a.doubts);
    let own: f64 = a.shape.as_ref().unwrap().facets.iter().filter(|f| f.id.starts_with("D.")).map(|f| f.plan_area_m2).sum();
    assert!((own - 8.0).abs() < 1e-6, "{own}");
    // A dormer lower than the roof it stands on, or beyond its walls, is asked about.
    let low = json!({ "length": "4 m", "depth": "2 m", "form": "flat", "eave": "3.2 m", "covering": "epdm",
        "against": { "mass": "A", "face": "front", "from_left": "8 m", "inward": "1 m" } });
    let a = of(json!([mass("A", json!({})), mass("D", low)]), 180.0);
    assert!(
        a.doubts.iter().any(|d| d.contains("under the roof")) && a.doubts.iter().any(|d| d.contains("beyond its walls")),
        "{:?}",
        a.doubts
    );
}

#[test]
fn lengths_as_people_type_them() {
    for (text, m) in [("5.4", 5.4), ("5.4 m", 5.4), ("18 ft", 5.4864), ("210 in", 5.334), ("540 cm", 5.4), ("0", 0.0)] {
        assert!((metres("", text).unwrap() - m).abs() < 1e-9, "{text}");
    }
    for text in ["", "ft", "-3", "1e9", "NaN", "5 %", "5 kg"] {
        assert!(metres("The eave", text).unwrap_err().starts_with("The eave"), "{text}");
    }
}

proptest! {
    /// What is written down as walls is read as it was meant, in either unit and with any turn.
    #[test]
    fn walls_come_back(list in prop::collection::vec((1_u32..4000, any::<bool>(), prop::option::of(1_u32..180), any::<bool>()), 1..12)) {
        let text: Vec<String> = list.iter().map(|(cm, left, angle, feet)| {
            let length = if *feet { format!("{} ft", cm) } else { format!("{:.2}", f64::from(*cm) / 100.0) };
            let turn = angle.map_or(String::new(), |a| a.to_string());
            format!("{length} {}{turn}", if *left { "L" } else { "R" })
        }).collect();
        // Over a thousand metres is no wall.
        prop_assume!(list.iter().all(|(cm, _, _, feet)| !feet || *cm < 3200));
        let read = walls(&text.join(" ")).unwrap();
        prop_assert_eq!(read.len(), list.len());
        for (w, (cm, left, angle, feet)) in read.iter().zip(&list) {
            let metres = if *feet { f64::from(*cm) * 0.3048 } else { f64::from(*cm) / 100.0 };
            let turn = f64::from(angle.unwrap_or(90)) * if *left { 1.0 } else { -1.0 };
            prop_assert!((w.length_m - metres).abs() < 1e-9 && (w.turn_after_deg - turn).abs() < 1e-12, "{w:?}");
        }
    }

    /// A wider chimney and a steeper slope never need a lower cricket.
    #[test]
    fn crickets_grow(width in 0.1..4.0_f64, pitch in 0.05..2.0_f64) {
        prop_assert!(cricket_height(width * 1.1, pitch) > cricket_height(width, pitch));
        prop_assert!(cricket_height(width, pitch * 1.1) >= cricket_height(width, pitch) - 1e-12);
        prop_assert!(cricket_height(width, pitch) <= width / 2.0 + 1e-12);
    }
}
