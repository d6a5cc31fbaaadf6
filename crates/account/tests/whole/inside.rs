//! What is read inside, through time: a wall that dries as walls do is said to dry, and one that is fed is said to be fed.

use crate::house::{any_house, case, with_inside};
use proptest::prelude::*;
use serde_json::{Value, json};

/// Readings of one place on days from the first of June, and of a dry one beside it.
fn readings(values: &[(u32, f64)], dry: f64) -> Value {
    let at = |along: &str| json!({ "room": "", "part": "wall", "wall": 0, "mass": "A", "face": "rear", "along": along, "up": "0.3 m" });
    let one = |id: String, along: &str, day: u32, value: f64, dry: bool| {
        json!({ "id": id, "at": at(along), "instrument": "pinless", "scale": "relative", "material": "gypsum-board", "value": (value * 10.0).round() / 10.0,
            "on": format!("2026-06-{:02}", day + 1), "dry": dry })
    };
    let mut all: Vec<Value> = values.iter().enumerate().map(|(k, (day, v))| one(format!("P{k}"), "2 m", *day, *v, false)).collect();
    all.extend((0..3).map(|k| one(format!("D{k}"), &format!("{} m", 4 + k), 0, dry, true)));
    json!({ "readings": all })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, ..ProptestConfig::default() })]

    #[test]
    fn what_dries_is_said_to_dry_and_how_fast(h in any_house(), tau in 8.0..14.0_f64, over in 50.0..70.0_f64) {
        let values: Vec<(u32, f64)> = [0, 3, 7, 12, 18].map(|d| (d, 12.0 + over * (-f64::from(d) / tau).exp())).to_vec();
        let c = case(with_inside(h.whole(), readings(&values, 12.0), json!({})));
        let [place] = c.moisture().drying.as_slice() else { panic!("{:?}", c.moisture().drying) };
        prop_assert!(place.sentence.starts_with("It dries") && !place.still_fed, "{}", place.sentence);
        let found = place.drying.as_ref().and_then(|d| d.tau_days).unwrap();
        prop_assert!((found / tau - 1.0).abs() < 0.15, "{found} days and not {tau}: {}", place.sentence);
    }

    #[test]
    fn what_gets_wetter_is_fed(h in any_house(), a_day in 1.0..3.0_f64) {
        let values: Vec<(u32, f64)> = [0, 4, 9, 15].map(|d| (d, 30.0 + a_day * f64::from(d))).to_vec();
        let c = case(with_inside(h.whole(), readings(&values, 12.0), json!({})));
        let [place] = c.moisture().drying.as_slice() else { panic!("{:?}", c.moisture().drying) };
        prop_assert!(place.still_fed && place.sentence == "It gets wetter: something feeds it.", "{}", place.sentence);
    }

    // The air that holds more water gives it: never both, and nothing is said of next to nothing.
    #[test]
    fn moisture_goes_from_the_air_that_holds_more(h in any_house(), attic in (5.0..30.0_f64, 20.0..95.0_f64), outside in (-5.0..25.0_f64, 20.0..95.0_f64)) {
        // Magnus over water, and what a kilogram of air holds at it.
        let holds = |(t, rh): (f64, f64)| {
            let e = rh / 100.0 * 611.2 * (17.62 * t / (243.12 + t)).exp();
            622.0 * e / (101_325.0 - e)
        };
        let air = |id: &str, place: &str, (t, rh): (f64, f64)| json!({ "id": id, "place": place, "t_c": t, "rh_pct": rh, "on": "2026-06-01" });
        let c = case(with_inside(h.whole(), json!({ "air": [air("A1", "attic", attic), air("A2", "outside", outside)] }), json!({})));
        let more = holds(attic) - holds(outside);
        prop_assume!((more.abs() - 0.5).abs() > 0.05);
        let said: Vec<&String> = c.moisture().air_says.iter().filter(|s| s.starts_with("Attic")).collect();
        if more.abs() < 0.5 {
            prop_assert!(said.is_empty(), "{said:?} where it is {more} g/kg");
            return Ok(());
        }
        let [one] = said.as_slice() else { panic!("{said:?} where it is {more} g/kg") };
        prop_assert_eq!(one.contains("its air holds"), more > 0.0, "{} where it is {}", one, more);
        prop_assert_eq!(one.contains("moisture can come from there"), more < 0.0);
    }
}
