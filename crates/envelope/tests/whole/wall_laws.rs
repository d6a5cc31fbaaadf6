//! Laws of what is looked at before cladding: no answer is lost or counted twice, and nobody is said to have seen what nobody saw.

use envelope::site::{Cell, Item, MarkState, Zone};
use envelope::wall::account::{WallInput, wall_account};
use envelope::wall::matrix::{seen, wilson};
use envelope::wall::record::Walls;
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeMap;

const FACES: [&str; 4] = ["front", "left", "rear", "right"];
const OF_OPENING: [&str; 6] = ["head-lap", "jambs", "sill-pan", "pan-corners", "flange", "gap"];
const OF_FACE: [(&str, Zone); 6] = [
    ("holes", Zone::UpperWall),
    ("sleeves", Zone::Openings),
    ("joints", Zone::UpperWall),
    ("slab-edge", Zone::Base),
    ("base-lap", Zone::Base),
    ("ledge", Zone::Base),
];
const FOUND: [&str; 4] = ["right", "wrong", "not-seen", "not-here"];

/// Openings by face, and an answer or none for every check there is.
#[derive(Debug, Clone)]
struct Looked {
    openings: Vec<(usize, String)>,
    answers: BTreeMap<String, usize>,
}

fn looked() -> impl Strategy<Value = Looked> {
    // Few answers are left out, and often one alone is given all round: else no place would ever be whole.
    let answer = prop_oneof![1 => Just(None), 12 => (0..4_usize).prop_map(Some), 12 => Just(Some(2))];
    (prop::collection::vec(0..4_usize, 0..4), prop::collection::vec(answer, 24 + 4 * 6)).prop_map(|(faces, given)| {
        let openings: Vec<(usize, String)> = faces.iter().enumerate().map(|(k, f)| (*f, format!("W{}", k + 1))).collect();
        let of_openings = openings.iter().flat_map(|(f, w)| OF_OPENING.map(|c| format!("{}.{w}.{c}", FACES[*f])));
        let of_faces = FACES.iter().flat_map(|f| OF_FACE.map(|(c, _)| format!("{f}.{c}")));
        let answers = of_faces.chain(of_openings).zip(&given).filter_map(|(key, found)| Some((key, (*found)?))).collect();
        Looked { openings, answers }
    })
}

fn walls(l: &Looked) -> (Walls, Vec<Item>) {
    let answers: serde_json::Map<String, Value> = l.answers.iter().map(|(k, f)| (k.clone(), json!({ "found": FOUND[*f] }))).collect();
    let items: Vec<Value> = l.openings.iter().map(|(f, name)| json!({ "face": FACES[*f], "kind": "window", "name": name })).collect();
    (serde_json::from_value(json!({ "answers": answers })).unwrap(), serde_json::from_value(json!(items)).unwrap())
}

/// The first whole number before a word, nought where the word does not stand.
fn told(sentence: &str, word: &str) -> usize {
    let before = sentence.split([',', ':']).find_map(|p| p.trim_end_matches('.').strip_suffix(word)).unwrap_or("0");
    before.trim().parse().unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    /// What is answered is right, wrong, not seen or not there, each once; all there is to answer is six checks for each opening and face.
    #[test]
    fn answers_add_up(l in looked()) {
        let (walls, items) = walls(&l);
        let input: WallInput = serde_json::from_value(json!({ "walls": walls, "items": items })).unwrap();
        let a = wall_account(&input);
        let s = &a.matrix.sentence;
        let head = s.split(" answered").next().unwrap();
        prop_assert_eq!(head, format!("{} of {}", l.answers.len(), 6 * (l.openings.len() + 4)));
        let of = |k: usize| l.answers.values().filter(|f| **f == k).count();
        prop_assert_eq!([" right", " wrong", " not seen", " not there"].map(|w| told(s, w)), [0, 1, 2, 3].map(of), "{}", s);
        // Everything that is wrong has to be seen again, once, and nothing else.
        let mut again: Vec<&String> = a.do_not_cover.iter().map(|d| &d.key).collect();
        again.sort();
        let wrong: Vec<&String> = l.answers.iter().filter(|(_, f)| **f == 1).map(|(k, _)| k).collect();
        prop_assert_eq!(again, wrong);
    }

    /// A place was seen when everything that is asked there is answered and somebody could see any of it.
    #[test]
    fn nobody_saw_what_could_not_be_seen(l in looked()) {
        let (walls, items) = walls(&l);
        let marked: Vec<Cell> = seen(&walls, &items).into_iter().inspect(|m| assert_eq!(m.state, MarkState::Seen)).map(|m| m.cell).collect();
        for (f, face) in FACES.iter().enumerate() {
            for zone in [Zone::Openings, Zone::UpperWall, Zone::Base] {
                let keys: Vec<String> = if zone == Zone::Openings {
                    l.openings.iter().filter(|o| o.0 == f).flat_map(|(_, w)| OF_OPENING.map(|c| format!("{face}.{w}.{c}"))).collect()
                } else {
                    OF_FACE.iter().filter(|c| c.1 == zone).map(|(c, _)| format!("{face}.{c}")).collect()
                };
                let answers: Vec<Option<&usize>> = keys.iter().map(|k| l.answers.get(k)).collect();
                let whole = answers.iter().all(Option::is_some) && answers.iter().any(|a| *a != Some(&2));
                let cell = marked.iter().filter(|c| matches!(c, Cell::Outside(g, z) if g.name().eq_ignore_ascii_case(face) && *z == zone)).count();
                prop_assert_eq!(cell, usize::from(whole && !keys.is_empty()), "{} {:?}: {:?}", face, zone, answers);
            }
        }
    }

    /// A counted share lies in its range, the range within nought and one; what is not overdriven has the range that is left; twice the
    /// count at the same share says it more closely.
    #[test]
    fn the_range_of_a_share(n in 1..5_000_u32, of in 0.0..=1.0_f64) {
        let k = (f64::from(n) * of).round() as u32;
        let ([low, high], share) = (wilson(k, n).unwrap(), f64::from(k) / f64::from(n));
        prop_assert!(0.0 <= low && low <= share + 1e-12 && share <= high + 1e-12 && high <= 1.0, "{low} {share} {high}");
        let [rest_low, rest_high] = wilson(n - k, n).unwrap();
        prop_assert!((rest_low - (1.0 - high)).abs() < 1e-9 && (rest_high - (1.0 - low)).abs() < 1e-9);
        let [closer_low, closer_high] = wilson(2 * k, 2 * n).unwrap();
        prop_assert!(closer_high - closer_low < high - low);
    }
}
