//! Cracks of a wall nobody saw: which of its ends was written first changes nothing, nor does looking at the wall in a mirror.

use crate::house::{House, any_house, case, kept, side};
use envelope::site::Face;
use envelope::wall::cracks::Speaks;
use ledger::WholeJob;
use proptest::prelude::*;
use serde_json::{Value, json};

/// A crack by its two ends, along the face and over its foot, with what was read of it on two days a year apart.
#[derive(Debug, Clone)]
struct Crack {
    pattern: &'static str,
    ends: [[f64; 2]; 2],
    displaced: bool,
    /// Millimetres at the top and at the foot.
    widths: [f64; 2],
    grows: f64,
}

fn any_crack() -> impl Strategy<Value = Crack> {
    let pattern = prop::sample::select(vec!["diagonal", "stair-stepped", "vertical", "horizontal", "map", "corner-spall"]);
    (pattern, [0.02..0.98_f64, 0.02..0.98_f64], [0.1..1.2_f64, 1.3..2.4_f64], any::<bool>(), [3_u32..20, 3_u32..20], -2_i32..12).prop_map(
        |(pattern, x, z, displaced, widths, grows)| Crack {
            pattern,
            ends: [[x[0], z[0]], [x[1], z[1]]],
            displaced,
            widths: widths.map(|w| f64::from(w) / 10.0),
            grows: f64::from(grows) / 10.0,
        },
    )
}

fn told(h: &House, c: &Crack, mirrored: bool, turned: bool) -> WholeJob {
    let long = side(h, Face::Rear);
    let mut ends = c.ends.map(|[x, z]| [if mirrored { 1.0 - x } else { x } * long, z]);
    if turned {
        ends.reverse();
    }
    let m = |v: f64| format!("{v:.6} m");
    let read = |on: &str, at: &str, mm: f64| json!({ "on": on, "at": at, "width": format!("{:.1} mm", mm.max(0.0)) });
    let readings: Vec<Value> = [("2025-11-18", 0.0), ("2026-11-18", c.grows)]
        .iter()
        .flat_map(|(on, more)| [read(on, "upper", c.widths[0] + more), read(on, "lower", c.widths[1] + more)])
        .collect();
    let crack = json!({ "id": "C1", "face": "rear", "pattern": c.pattern, "displaced": c.displaced, "edges": "fresh", "readings": readings,
        "from_x": m(ends[0][0]), "from_z": m(ends[0][1]), "to_x": m(ends[1][0]), "to_z": m(ends[1][1]) });
    WholeJob { walls: kept("walls", json!({ "cracks": [crack] })), ..h.whole() }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    #[test]
    fn a_crack_says_the_same_whichever_end_comes_first_and_in_a_mirror(h in any_house(), c in any_crack()) {
        let read = |mirrored, turned| {
            let c = case(told(&h, &c, mirrored, turned));
            let w = c.walls();
            let one = &w.cracks[0];
            let signs = &w.reader.as_ref().unwrap().signs[0];
            (one.length_m, one.widest_m, signs.speaks, signs.why.clone())
        };
        let (plain, turned, mirrored) = (read(false, false), read(false, true), read(true, false));
        let long = side(&h, Face::Rear);
        let length = ((c.ends[0][0] - c.ends[1][0]) * long).hypot(c.ends[0][1] - c.ends[1][1]);
        for other in [&plain, &turned, &mirrored] {
            prop_assert!((other.0 - length).abs() < 1e-5, "{} and not {length}", other.0);
            prop_assert_eq!(other.1, plain.1);
        }
        prop_assert_eq!((&turned.2, &turned.3), (&plain.2, &plain.3));
        let side_of = |why: &str| why.replace("left", "LEFT").replace("right", "left").replace("LEFT", "right");
        // At the very middle of a wall, or all but upright, a hair decides.
        let middle = (c.ends[0][0] + c.ends[1][0]) / 2.0;
        if (middle - 0.5).abs() > 1e-6 {
            prop_assert_eq!((&mirrored.2, side_of(&mirrored.3)), (&plain.2, plain.3.clone()));
        }
        // Nothing speaks for the middle going down and for its lifting at once.
        prop_assert!(!(plain.2[1] == Speaks::For && plain.2[2] == Speaks::For), "{:?}", plain);
    }

    // The widest is the widest of the last day, and what grew in a year is said with its sign; the card's own doubt is in the range.
    #[test]
    fn how_a_crack_moves_is_what_was_read(h in any_house(), c in any_crack()) {
        let least = c.widths[0].min(c.widths[1]);
        prop_assume!(least + c.grows >= 0.1);
        let case = case(told(&h, &c, false, false));
        let one = &case.walls().cracks[0];
        let widest = (c.widths[0].max(c.widths[1]) + c.grows) / 1000.0;
        prop_assert!(one.widest_m.is_some_and(|w| (w - widest).abs() < 1e-6), "{:?} and not {widest}", one.widest_m);
        prop_assert_eq!(one.trends.len(), 2);
        for t in &one.trends {
            prop_assert!((t.mm_a_year - c.grows).abs() < 0.002, "{t:?} and not {}", c.grows);
            prop_assert!(t.range[0] < t.mm_a_year && t.mm_a_year < t.range[1]);
            prop_assert_eq!(t.moving, t.range[0] > 0.0 || t.range[1] < 0.0);
            // 1.96 times a tenth of a millimetre on each of two days.
            prop_assert_eq!(t.moving, c.grows.abs() > 0.2772, "{:?}", t);
        }
        prop_assert_eq!(one.sentence.contains(" Moving: "), one.trends[0].moving, "{}", one.sentence);
        prop_assert_eq!(one.sentence.contains("\u{2212}"), c.grows < 0.0 || one.trends[0].range[0] < -1e-9 , "{}", one.sentence);
    }
}
