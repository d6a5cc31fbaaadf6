//! What is read off the ground of a house nobody made: on a slope that is known everywhere, every instrument must say that slope.

use crate::house::{FACES, any_house, case, on_plan, side, with_ground};
use proptest::prelude::*;
use serde_json::{Value, json};

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    // A stick that is laid out from a wall shows how the ground falls away from that wall, whichever way the wall looks.
    #[test]
    fn a_stick_shows_the_fall_straight_out_from_its_wall(h in any_house(), east in -60.0..60.0_f64, rear in -60.0..60.0_f64, long in 0.5..2.0_f64) {
        // Millimetres to the metre, right and rear.
        let height = |p: [f64; 2]| -300.0 + east * p[0] + rear * p[1];
        let mut spots: Vec<Value> = Vec::new();
        for face in FACES {
            for along in [0.0, 0.5, 1.0] {
                for out in [0.0, 1.0, 3.0] {
                    let along = side(&h, face) * along;
                    let z = height(on_plan(&h, face, along, out));
                    spots.push(json!({ "id": format!("{}{}", face.name(), spots.len()), "height": format!("{z:.3} mm"),
                        "at": { "mass": "A", "face": face, "along": format!("{along:.4} m"), "out": format!("{out} m") } }));
                }
            }
        }
        let c = case(with_ground(h.whole(), json!({ "spots": spots })));
        prop_assert!(c.survey().surface.is_some(), "{:?}", c.survey().account.doubts);
        for (k, face) in FACES.into_iter().enumerate() {
            // The middle of the wall, a metre out.
            let id = format!("{}{}", face.name(), k * 9 + 4);
            let [near, far] = c.survey().stick(c.ground(), &id, long).unwrap();
            let middle = side(&h, face) / 2.0;
            let (here, there) = (height(on_plan(&h, face, middle, 1.0)), height(on_plan(&h, face, middle, 1.0 + long)));
            prop_assert!((near - here).abs() < 0.01, "{id}: {near} and not {here}");
            prop_assert!((far - there).abs() < 0.05, "{id}: {far} and not {there} over {long} m");
        }
    }
}
