//! Where water may come in is gathered from every bench: each thing once, at its own place, and looking the way its wall looks.

use crate::house::{FACES, House, any_house, between, case, looks, note, on_plan, side, with_ground, with_inside, with_rainwater};
use envelope::site::{Face, Zone};
use envelope::trace::account::TraceAccount;
use envelope::trace::form::{CandidateKind, SeenAs, TraceCandidate};
use envelope::trace::gather::FoundOn;
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// A spot on the outside of a wall, so that everything has something to lead to.
fn spot(face: Face) -> Value {
    json!({ "spots": [{ "id": "S1", "name": "damp", "shows": "wall-low", "at": { "room": "", "part": "wall", "wall": 0, "mass": "A", "face": face, "along": "1 m", "up": "0.3 m" } }] })
}

fn candidate<'a>(a: &'a TraceAccount, id: &str) -> &'a TraceCandidate {
    a.list.iter().map(|g| &g.candidate).find(|c| c.id == id).unwrap_or_else(|| panic!("{id} is not among {:?}", ids(a)))
}

fn ids(a: &TraceAccount) -> Vec<&str> {
    a.list.iter().map(|g| g.candidate.id.as_str()).collect()
}

fn any_face() -> impl Strategy<Value = Face> {
    prop::sample::select(FACES.to_vec())
}

fn near(c: &TraceCandidate, p: [f64; 2]) -> bool {
    (c.x_m - p[0]).hypot(c.y_m - p[1]) < 1e-6
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, ..ProptestConfig::default() })]

    // Whoever stands before a wall and says how far from its left end something is, means one point of the building.
    #[test]
    fn a_note_is_where_it_was_said_and_looks_as_its_wall_does(h in any_house(), face in any_face(), part in 0.0..1.0_f64) {
        let along = side(&h, face) * part;
        let rings = [
            (Zone::UpperWall, "Open joint in the cladding", -1.0),
            (Zone::Openings, "Open joint at the window", 1.6),
            (Zone::Base, "Crack in the stucco", 0.2),
        ];
        let notes: Vec<_> = rings.iter().enumerate().map(|(k, (zone, line, _))| note(&format!("n{k}"), face, *zone, Some(along), line)).collect();
        let listed: Vec<bool> = notes.iter().map(|n| n.body.condition.is_some()).collect();
        prop_assert_eq!(listed, vec![true; 3]);
        let mut whole = with_inside(h.whole(), json!({}), spot(face));
        whole.notes = notes;
        let c = case(whole);
        let a = c.trace();
        let mut heights = vec![];
        for (k, (zone, _, z)) in rings.iter().enumerate() {
            let id = format!("note:n{k}");
            let Some(g) = a.list.iter().find(|g| g.candidate.id == id) else { continue };
            let c = &g.candidate;
            prop_assert!(near(c, on_plan(&h, face, along, 0.0)), "{zone:?}: {c:?}, and not {:?}", on_plan(&h, face, along, 0.0));
            prop_assert!(c.faces_deg.is_some_and(|f| between(f, looks(&h, face)) < 1e-6), "{zone:?}: {:?} and not {}", c.faces_deg, looks(&h, face));
            if *z >= 0.0 {
                prop_assert!((c.z_m - z).abs() < 1e-9);
            }
            heights.push(c.z_m);
        }
        prop_assert!(!heights.is_empty(), "nothing of {:?}", c.notes().map(|n| &n.condition).collect::<Vec<_>>());
        prop_assert!(heights.is_sorted_by(|a, b| a > b), "rings lie one over the other: {heights:?}");
    }

    // A pipe lets water go where it comes down: at its own wall, and the nearer the surer, but not once it is led away.
    #[test]
    fn a_downspout_counts_by_how_far_its_water_is_led(h in any_house(), rear in any::<bool>(), part in 0.1..0.9_f64, distance_cm in 0_u32..300) {
        let told = f64::from(distance_cm) / 100.0;
        let (face, eave) = if rear { (Face::Rear, "A.+v#1") } else { (Face::Front, "A.-v#1") };
        // A gable's eave is as long as its wall and its rakes have none.
        let h = House { hip: false, ..h };
        let from_left = (h.length + 0.8) * part;
        let gutters = json!([{ "id": "G1", "name": "gutter", "eave": eave, "width": "125 mm", "levels": format!("0 0, {} -20 mm", h.length),
            "outlets": [{ "from_left": format!("{from_left:.3} m"), "bore": "75 mm", "distance": format!("{told} m") }] }]);
        let whole = with_inside(with_rainwater(h.whole(), gutters), json!({}), spot(face));
        let c = case(whole);
        prop_assume!(c.rain().gutters.first().is_some_and(|g| !g.outlets.is_empty()));
        let found: Vec<&TraceCandidate> = c.trace().list.iter().map(|g| &g.candidate).filter(|c| c.kind == CandidateKind::LetGo).collect();
        if told > 1.8 {
            prop_assert!(found.is_empty(), "led {told} m away");
            return Ok(());
        }
        let [one] = found.as_slice() else { panic!("{found:?}") };
        prop_assert_eq!(one.state, if told <= 0.6 { SeenAs::Open } else { SeenAs::Doubtful });
        let own = on_plan(&h, face, from_left - 0.4, 0.0);
        prop_assert!((one.x_m - own[0]).hypot(one.y_m - own[1]) < 0.45, "{one:?} and not by {own:?}");
        prop_assert!(one.faces_deg.is_some_and(|f| between(f, looks(&h, face)) < 1e-6), "{:?} and not {}", one.faces_deg, looks(&h, face));
        prop_assert_eq!(one.z_m, 0.0);
    }

    // A spray head wets the wall it stands before; behind a corner or far out it wets none.
    #[test]
    fn a_spray_head_wets_the_wall_it_stands_before(h in any_house(), face in any_face(), part in 0.2..0.8_f64, out_mm in 200_u32..7000) {
        let out = f64::from(out_mm) / 1000.0;
        let at = json!({ "mass": "A", "face": face, "along": format!("{:.3} m", side(&h, face) * part), "out": format!("{out:.3} m") });
        let levels: Vec<Value> = FACES.iter().enumerate().map(|(k, f)| json!({ "id": format!("P{k}"), "height": "-200 mm",
            "at": { "mass": "A", "face": f, "along": "1 m", "out": "2 m" } })).collect();
        let ground = json!({ "spots": levels, "nearby": [{ "id": "H1", "kind": "spray-head", "at": at, "flow_l_min": "9", "minutes": "12" }] });
        let c = case(with_inside(with_ground(h.whole(), ground), json!({}), spot(face)));
        let found = c.trace().list.iter().map(|g| &g.candidate).find(|c| c.kind == CandidateKind::SprayHead);
        if out_mm >= 4000 {
            prop_assert!(found.is_none(), "{out} m out");
            return Ok(());
        }
        let one = found.unwrap();
        prop_assert!((one.x_m - on_plan(&h, face, side(&h, face) * part, out)[0]).abs() < 2e-3);
        prop_assert!(one.faces_deg.is_some_and(|f| between(f, looks(&h, face)) < 1e-6), "{:?} and not {}", one.faces_deg, looks(&h, face));
    }

    // What needs no rain is always possible, beside the spot and on the same wall.
    #[test]
    fn a_pipe_and_the_rooms_own_air_are_always_on_the_list(h in any_house(), face in any_face()) {
        let c = case(with_inside(h.whole(), json!({}), spot(face)));
        let a = c.trace();
        let at = a.spots[0].on.unwrap();
        let normal = on_plan(&h, face, 0.0, 1.0);
        let wall = on_plan(&h, face, 0.0, 0.0);
        for (id, aside) in [("pipe:S1", 0.9), ("cold:S1", 0.35)] {
            let one = candidate(a, id);
            let by = [one.x_m - at.x_m, one.y_m - at.y_m];
            prop_assert!((by[0].hypot(by[1]) - aside).abs() < 1e-9);
            let off = by[0] * (normal[0] - wall[0]) + by[1] * (normal[1] - wall[1]);
            prop_assert!(off.abs() < 1e-6, "{id} lies {off} off the wall");
        }
    }

    // The building is the same building whichever way its front looks: places stay, directions turn with it, and so does the rain.
    #[test]
    fn north_moves_nothing(h in any_house(), by in 0_u32..360, face in any_face()) {
        let told = |h: &House| {
            let gutters = json!([{ "id": "G1", "eave": "A.-v#1", "width": "80 mm", "levels": format!("0 0, {} 20 mm", h.length), "inside": "debris",
                "outlets": [{ "from_left": format!("{} m", h.length / 2.0), "bore": "50 mm", "distance": "0.3 m" }] }]);
            let mut whole = with_inside(with_rainwater(h.whole(), gutters), json!({}), spot(face));
            whole.notes = vec![
                note("n1", face, Zone::Roof, None, "Ridge cap is cracked"),
                note("n2", Face::Rear, Zone::Base, Some(2.0), "Crack in the stucco"),
            ];
            case(whole)
        };
        let turned = House { front: (h.front + f64::from(by)).rem_euclid(360.0), ..h.clone() };
        let (one, other) = (told(&h), told(&turned));
        let (a, b) = (one.trace(), other.trace());
        prop_assert_eq!(ids(a), ids(b));
        for (c, d) in a.list.iter().zip(&b.list).map(|(a, b)| (&a.candidate, &b.candidate)) {
            prop_assert!((c.x_m - d.x_m).abs() + (c.y_m - d.y_m).abs() + (c.z_m - d.z_m).abs() < 1e-5, "{c:?} {d:?}");
            for (x, y) in [(c.faces_deg, d.faces_deg), (c.downslope_deg, d.downslope_deg)] {
                prop_assert_eq!(x.is_some(), y.is_some());
                prop_assert!(x.zip(y).is_none_or(|(x, y)| between(x + f64::from(by), y) < 1e-5), "{}: {x:?} {y:?}", c.id);
            }
        }
        let chances = |a: &TraceAccount| a.result.as_ref().map(|r| r.spots[0].candidates.iter().map(|c| (c.id.clone(), c.p)).collect::<Vec<_>>());
        let (p, q) = (chances(a), chances(b));
        prop_assert!(p.is_some());
        for ((i, x), (j, y)) in p.iter().flatten().zip(q.iter().flatten()) {
            prop_assert!(i == j && (x - y).abs() < 1e-6, "{i} {x}, {j} {y}");
        }
    }

    // Every name stands once; what is struck is weighed no more, and all that is left still adds up to one.
    #[test]
    fn what_is_struck_is_gone_and_favours_none_of_the_others(h in any_house(), face in any_face(), which in any::<prop::sample::Index>()) {
        let mut whole = with_inside(h.whole(), json!({}), spot(face));
        whole.notes = vec![note("n1", face, Zone::Base, None, "Crack in the stucco"), note("n2", face, Zone::Openings, None, "Open joint at the window")];
        let before = case(whole.clone());
        let all = ids(before.trace());
        let set: BTreeSet<&str> = all.iter().copied().collect();
        prop_assert_eq!(set.len(), all.len());
        let gone = all[which.index(all.len())].to_owned();
        let answers = json!([{ "candidate": gone, "struck": "opened up and dry" }]);
        whole.trace.as_mut().unwrap().body.answers = serde_json::from_value(answers).unwrap();
        let after = case(whole);
        let weighed = |a: &TraceAccount| {
            let spot = &a.result.as_ref().unwrap().spots[0];
            let sum: f64 = spot.ranking.iter().map(|r| r.p).sum();
            (spot.ranking.iter().map(|r| (r.causes.clone(), r.p)).collect::<Vec<_>>(), sum + spot.unlisted)
        };
        let ((was, one), (now, all)) = (weighed(before.trace()), weighed(after.trace()));
        prop_assert!((one - 1.0).abs() < 1e-9 && (all - 1.0).abs() < 1e-9, "{one} {all}");
        prop_assert!(now.iter().all(|r| !r.0.contains(&gone)));
        prop_assert_eq!(after.trace().list.iter().filter(|g| g.struck.is_some()).count(), 1);
        // Nothing was learnt of the others: none of them gains on another.
        let gains = now.iter().filter(|r| r.0.len() == 1).map(|(causes, p)| p / was.iter().find(|r| r.0 == *causes).map_or(f64::NAN, |r| r.1));
        let gains: Vec<f64> = gains.collect();
        prop_assert!(gains.iter().all(|g| (g / gains[0] - 1.0).abs() < 1e-6), "{gains:?}");
    }
}

/// What the roof's shape asks for stands as it was answered; what is wrong is not listed again as a note of it.
#[test]
fn a_detail_is_listed_as_it_was_answered() {
    let h = House { length: 12.0, depth: 8.0, eave: 3.0, pitch: 0.5, hip: true, turned: 0.0, front: 180.0 };
    let told = |found: Option<&str>| {
        let mut whole = with_inside(h.whole(), json!({}), spot(Face::Front));
        let roof = &mut whole.roof.as_mut().unwrap().body;
        roof.fittings =
            serde_json::from_value(json!([{ "id": "F1", "kind": "pipe", "mass": "A", "face": "front", "from_left": "5 m", "up": "2 m" }]))
                .unwrap();
        if let Some(found) = found {
            let more = match found {
                "wrong" => json!({ "found": found, "condition": "pipe-boot-torn" }),
                "not-seen" => json!({ "found": found, "reason": "covered" }),
                _ => json!({ "found": found }),
            };
            roof.answers = serde_json::from_value(json!({ "pipe-boot:F1": more })).unwrap();
        }
        whole.notes = vec![note("n1", Face::Front, Zone::Roof, None, "Pipe boot is split")];
        let c = case(whole);
        let a = c.trace();
        let boot = a.list.iter().find(|g| g.candidate.id == "detail:pipe-boot:F1").map(|g| (g.found_on, g.candidate.state));
        (boot, ids(a).contains(&"note:n1"))
    };
    // A note that it is split answers for it as well; either way it is one way in.
    let wrong = (Some((FoundOn::Roof, SeenAs::Open)), false);
    assert_eq!((told(None), told(Some("wrong"))), (wrong, wrong));
    let seen = |found: &str| told(Some(found)).0.map(|b| b.1);
    assert_eq!((seen("right"), seen("not-seen")), (Some(SeenAs::Sound), Some(SeenAs::Unseen)));
}
