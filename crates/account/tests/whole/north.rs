//! A building is the same building whichever way its front looks: what is named, measured and drained goes by its own faces. Only the
//! sun and the wind know where north is.

use crate::house::{FACES, House, any_house, between, case, on_plan, side, with_ground, with_rainwater};
use account::Case;
use ledger::WholeJob;
use proptest::prelude::*;
use serde_json::{Value, json};

/// Levels round the house that fall away from it, but for a hollow before the rear wall.
fn levels(h: &House, hollow: f64) -> Value {
    let mut spots = vec![];
    for face in FACES {
        for part in [0.0, 0.25, 0.5, 0.75, 1.0] {
            for (out, falls) in [(0.0, 0.0), (1.0, 40.0), (2.5, 90.0), (4.0, 130.0)] {
                let sunk = if face.name() == "Rear" && part == 0.5 && out == 1.0 { hollow } else { 0.0 };
                spots.push(json!({ "id": format!("P{}", spots.len()), "height": format!("{:.1} mm", -200.0 - falls - sunk),
                    "at": { "mass": "A", "face": face, "along": format!("{:.4} m", side(h, face) * part), "out": format!("{out} m") } }));
            }
        }
    }
    json!({ "spots": spots })
}

fn whole(h: &House, hollow: f64) -> WholeJob {
    let gutters = json!([{ "id": "G1", "name": "front", "eave": "A.-v#1", "width": "100 mm", "levels": format!("0 0, {} -15 mm", h.length),
        "outlets": [{ "from_left": format!("{} m", h.length - 1.0), "bore": "75 mm", "distance": "0.5 m" }] }]);
    with_ground(with_rainwater(h.whole(), gutters), levels(h, hollow))
}

/// Two figures are one, but for what is left of sums that were added in another order.
fn alike(a: f64, b: f64) -> bool {
    (a - b).abs() <= 1e-6 * (1.0 + a.abs())
}

fn slopes(c: &Case) -> Vec<(String, f64, f64, Option<f64>)> {
    let (a, shape) = (c.roof(), c.roof().shape.as_ref().unwrap());
    let of = |id: &str| shape.facets.iter().find(|f| f.id == id).unwrap();
    a.slopes.iter().map(|s| (s.label.clone(), of(&s.facet).true_area_m2, of(&s.facet).pitch, of(&s.facet).downslope_azimuth_deg)).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn north_changes_no_name_no_area_and_no_litre(h in any_house(), by in 1_u32..360, hollow in 150.0..400.0_f64) {
        let other = House { front: (h.front + f64::from(by)).rem_euclid(360.0), ..h.clone() };
        let (one, two) = (case(whole(&h, hollow)), case(whole(&other, hollow)));
        for (a, b) in slopes(&one).iter().zip(slopes(&two)) {
            prop_assert!(a.0 == b.0 && alike(a.1, b.1) && alike(a.2, b.2), "{a:?} {b:?}");
            prop_assert!(a.3.zip(b.3).is_none_or(|(x, y)| between(x + f64::from(by), y) < 1e-6), "{a:?} {b:?} turned by {by}");
        }
        let words = |c: &Case| c.roof().details.iter().map(|d| (d.words.clone(), d.place.face)).collect::<Vec<_>>();
        prop_assert_eq!(words(&one), words(&two));
        // The water of the roof.
        let eaves = |c: &Case| c.rain().eaves.iter().map(|e| (e.key.clone(), e.label.clone(), e.face)).collect::<Vec<_>>();
        prop_assert_eq!(eaves(&one), eaves(&two));
        for (a, b) in one.rain().eaves.iter().zip(&two.rain().eaves) {
            prop_assert!(alike(a.length_m, b.length_m) && alike(a.l_min, b.l_min), "{}: {} {}", a.label, a.l_min, b.l_min);
        }
        let (a, b) = (one.rain().sums, two.rain().sums);
        prop_assert!(alike(a.roof, b.roof) && (a.spilt - b.spilt).abs() < 1e-3 && (a.outlets - b.outlets).abs() < 1e-3, "{a:?} {b:?}");
        // What stands on the ground, and before which wall.
        let (a, b) = (&one.survey().account, &two.survey().account);
        prop_assert_eq!(a.ponds.len(), b.ponds.len());
        prop_assert!(!a.ponds.is_empty(), "the hollow holds water");
        for (p, q) in a.ponds.iter().zip(&b.ponds) {
            prop_assert!(alike(p.volume_m3, q.volume_m3) && alike(p.catchment_m2, q.catchment_m2), "{} {}", p.volume_m3, q.volume_m3);
            prop_assert_eq!(p.walls.iter().map(|w| w.face).collect::<Vec<_>>(), q.walls.iter().map(|w| w.face).collect::<Vec<_>>());
            for (w, v) in p.walls.iter().zip(&q.walls) {
                prop_assert!((w.from_m - v.from_m).abs() < 1e-3 && (w.to_m - v.to_m).abs() < 1e-3, "{w:?} {v:?}");
            }
        }
    }

    // What the eaves let go is what rains on the roof, and what the roof covers is its walls with the overhang round them.
    #[test]
    fn the_roof_of_a_block_covers_it_and_sheds_what_it_covers(h in any_house()) {
        let c = case(h.whole());
        let covers = (h.length + 0.8) * (h.depth + 0.8);
        let shape = c.roof().shape.as_ref().unwrap();
        prop_assert!(alike(shape.plan_area_m2, covers), "{} and not {covers}", shape.plan_area_m2);
        prop_assert!(alike(shape.true_area_m2, covers * h.pitch.hypot(1.0)), "{} on {}", shape.true_area_m2, h.pitch);
        let outline: f64 = {
            let ring: Vec<[f64; 2]> = FACES.iter().map(|f| on_plan(&h, *f, -0.4, 0.4)).collect();
            let twice: f64 = (0..4).map(|k| ring[k][0] * ring[(k + 1) % 4][1] - ring[(k + 1) % 4][0] * ring[k][1]).sum();
            twice.abs() / 2.0
        };
        prop_assert!(outline > 0.0 && alike(outline, covers), "{outline} {covers}");
    }
}
