//! A name is what somebody on the roof finds a thing by: no two things of a roof share one.

use envelope::rain::account::{RainAccountInput, rain_account};
use envelope::roof::account::{AccountInput, account};
use envelope::roof::details::DetailKind;
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// A roof of a main block and what stands against it, of every form; sometimes nobody thought of a second name.
fn roof() -> impl Strategy<Value = Value> {
    let form = prop::sample::select(vec!["gable", "hip", "half-hip", "gambrel", "mansard", "shed", "flat"]);
    let wing = (form.clone(), prop::sample::select(vec!["left", "rear", "right"]), any::<bool>(), any::<bool>());
    (form, wing, any::<bool>()).prop_map(|(main, (wing, face, across, runs_on), alike)| {
        let broken = |form: &str, eave: f64| match form {
            "gambrel" | "mansard" => json!({ "break_at": format!("{} m", eave + 1.5), "upper_pitch": "4:12", "pitch": { "how": "typed", "text": "14:12" } }),
            "half-hip" => json!({ "ends_from": format!("{} m", eave + 1.0) }),
            _ => json!({}),
        };
        let mass = |id: &str, name: &str, form: &str, eave: f64, more: Value| {
            let mut m = json!({ "id": id, "name": name, "length": "12 m", "depth": "9 m", "form": form, "ridge": "across", "falls_to": "front",
                "pitch": { "how": "typed", "text": "6:12" }, "eave": format!("{eave} m"), "overhang": "0.3 m", "covering": "asphalt-laminated" });
            for part in [broken(form, eave), more] {
                for (k, v) in part.as_object().expect("parts are objects") {
                    m[k] = v.clone();
                }
            }
            m
        };
        let second = json!({ "length": "5 m", "depth": "4 m", "ridge": if across { "across" } else { "front-to-rear" }, "falls_to": face,
            "against": { "mass": "A", "face": face, "from_left": "2 m", "runs_on": runs_on } });
        json!({ "masses": [mass("A", "main", main, 4.0, json!({})), mass("B", if alike { "main" } else { "wing" }, wing, 3.0, second)] })
    })
}

fn apart<'a>(names: impl Iterator<Item = &'a str>) -> Result<usize, TestCaseError> {
    let mut seen = BTreeSet::new();
    for n in names {
        prop_assert!(seen.insert(n.to_owned()), "two are called {n}");
    }
    Ok(seen.len())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    #[test]
    fn no_two_things_of_a_roof_share_a_name(roof in roof(), front in 0.0..360.0_f64) {
        let input = json!({ "roof": roof, "brief": { "front_faces": front, "visited_on": "2026-11-18" }, "today": "2026-11-20" });
        let input: AccountInput = serde_json::from_value(input).unwrap();
        prop_assume!(input.roof.check().is_ok());
        let a = account(&input, &[]);
        let facets = a.shape.as_ref().map_or(0, |s| s.facets.len());
        prop_assert_eq!(apart(a.slopes.iter().map(|s| s.label.as_str()))?, facets);
        apart(a.details.iter().map(|d| d.words.as_str()))?;
        // What lies between two slopes says which two.
        for d in a.details.iter().filter(|d| matches!(d.kind, DetailKind::PitchBreak | DetailKind::ValleyLining)) {
            let (one, other) = d.place.station.as_ref().and_then(|s| s.split_once(" to ")).expect("it lies between two");
            prop_assert!(!one.ends_with(other), "{}", d.words);
        }
        let rain: RainAccountInput = serde_json::from_value(json!({ "roof": roof, "front_faces": front,
            "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 }, "gutters": [] } })).unwrap();
        let rain = rain_account(&rain);
        let eaves = apart(rain.eaves.iter().map(|e| e.label.as_str()))?;
        prop_assert_eq!(eaves, rain.eaves.len());
    }
}

/// Of the two slopes of a side only one has an eave, which needs no more of a name than that of a plain roof.
#[test]
fn a_gambrel_tells_its_slopes_apart_and_not_its_eaves() {
    let roof = json!({ "masses": [{ "id": "A", "name": "barn", "length": "10 m", "depth": "8 m", "form": "gambrel", "ridge": "across",
        "pitch": { "how": "typed", "text": "18:12" }, "break_at": "4.5 m", "upper_pitch": "6:12", "eave": "3 m", "overhang": "0 m" }] });
    let input = json!({ "roof": roof, "brief": { "front_faces": 180 }, "today": "2026-11-20" });
    let a = account(&serde_json::from_value(input).unwrap(), &[]);
    let breaks: Vec<&str> = a.details.iter().filter(|d| d.kind == DetailKind::PitchBreak).map(|d| d.words.as_str()).collect();
    let side = |s: &str| format!("Pitch break, {s} slope of the barn below the break to {s} slope of the barn above the break");
    assert_eq!(breaks, [side("front"), side("rear")]);
    let rain = json!({ "roof": roof, "front_faces": 180, "rainwater": { "storm": { "i5": "132 mm/h" }, "gutters": [] } });
    let rain = rain_account(&serde_json::from_value(rain).unwrap());
    let eaves: Vec<&str> = rain.eaves.iter().map(|e| e.label.as_str()).collect();
    assert_eq!(eaves, ["rear eave of the barn", "front eave of the barn"]);
}
