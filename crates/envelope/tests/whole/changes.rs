//! Nothing that differs between two records of rainwater goes untold: whatever is typed, it can be kept as a change.

use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use envelope::rain::compare::changes;
use envelope::rain::record::Rainwater;
use serde_json::{Value, json};

/// A record in which every field that can be typed is.
fn full() -> Value {
    let outlet = |x: &str| json!({ "from_left": x, "bore": "75 mm", "strainer": false, "up": "20 mm", "ends": "ground", "distance": "1 m", "onto": "A.+v" });
    let gutter = |id: &str| {
        json!({ "id": id, "name": "rear", "eave": "A.+v", "round": ["A.-u"], "form": "half-round", "width": "125 mm", "depth": "62 mm", "levels": "0 0",
            "inside": "clean", "past_fascia": "30 mm", "above_rim": "30 mm", "outlets": [outlet("1 m"), outlet("6 m")] })
    };
    let way_out = |kind: &str, face: Value| {
        json!({ "kind": kind, "overflow": false, "face": face, "from_left": "2 m", "from_front": "3 m", "size": "100 mm", "up": "50 mm", "strainer": true,
            "blocked": false, "ends": "ground", "distance": "1 m", "onto": "A.+v" })
    };
    let storm = |i5: &str| json!({ "i5": i5, "i60": "34 mm/h", "years": 10.0, "source": "the office" });
    json!({ "storm": storm("132 mm/h"), "rains": [storm("160 mm/h")], "costs": { "clean": 120.0 }, "gutters": [gutter("G1"), gutter("G2")],
        "flats": [{ "mass": "C", "parapets": { "front": "0.4 m", "rear": "0.4 m" }, "fall": "1 %", "toward": "rear",
            "heights": [{ "from_left": "1 m", "from_front": "1 m", "height": "-5 mm" }],
            "outlets": [way_out("inner-drain", Value::Null), way_out("scupper", json!("rear"))] }] })
}

/// Where in a value its leaves are.
fn leaves(v: &Value, at: &str, out: &mut Vec<String>) {
    match v {
        Value::Object(o) => o.iter().for_each(|(k, v)| leaves(v, &format!("{at}/{k}"), out)),
        Value::Array(a) => a.iter().enumerate().for_each(|(k, v)| leaves(v, &format!("{at}/{k}"), out)),
        _ => out.push(at.to_owned()),
    }
}

fn read(v: &Value) -> Option<Rainwater> {
    serde_json::from_value(v.clone()).ok()
}

fn account() -> RainAccount {
    let i: RainAccountInput = serde_json::from_value(json!({ "roof": { "masses": [] }, "rainwater": {} })).unwrap();
    rain_account(&i)
}

/// Other values a leaf may have: the first that can be read is taken.
fn others(now: &Value) -> Vec<Value> {
    let words = ["7 m", "front", "left", "box", "k-style", "debris", "aged", "scupper", "inner-drain", "lower-roof", "nowhere"];
    let mut all = vec![json!(!now.as_bool().unwrap_or_default()), json!(now.as_f64().unwrap_or_default() + 1.0)];
    all.extend(words.iter().map(|w| json!(w)));
    all.retain(|v| v != now);
    all
}

#[test]
fn whatever_is_typed_is_told() {
    let (start, account) = (full(), account());
    let before = read(&start).expect("the record is one");
    assert!(changes([&before, &before], &account).is_empty(), "nothing is told of nothing");
    let mut paths = vec![];
    leaves(&start, "", &mut paths);
    assert!(paths.len() > 70, "{}", paths.len());
    for path in paths {
        let typed = others(start.pointer(&path).unwrap()).into_iter().find_map(|v| {
            let mut changed = start.clone();
            *changed.pointer_mut(&path)? = v;
            read(&changed).filter(|r| *r != before)
        });
        let after = typed.unwrap_or_else(|| panic!("{path} can be nothing else"));
        let told = changes([&before, &after], &account);
        assert!(!told.is_empty(), "{path} is changed and not told");
        // It is told at the gutter it is at, and at none where it is at none.
        let of = path.strip_prefix("/gutters/").map(|rest| &before.gutters[rest[..1].parse::<usize>().unwrap()].id);
        if !path.ends_with("/id") && !path.ends_with("/mass") {
            assert_eq!(told.iter().map(|c| c.gutter.as_ref()).collect::<Vec<_>>(), vec![of], "{path}: {told:?}");
        }
    }
}

#[test]
fn a_flat_roof_that_is_mended_says_how() {
    let (start, account) = (full(), account());
    let before = read(&start).unwrap();
    let told = |change: &dyn Fn(&mut Value)| {
        let mut v = start.clone();
        change(&mut v["flats"][0]);
        changes([&before, &read(&v).unwrap()], &account).into_iter().map(|c| c.words).collect::<Vec<_>>()
    };
    assert_eq!(told(&|f| f["outlets"][0]["blocked"] = json!(true)), ["flat roof of C: drain blocked"]);
    assert_eq!(told(&|f| f["outlets"][1]["size"] = json!("300 x 100 mm")), ["flat roof of C: scupper of 300 x 100 mm in place of 100 mm"]);
    assert_eq!(told(&|f| f["toward"] = json!("left")), ["flat roof of C: a fall of 1 % to the left"]);
    assert_eq!(told(&|f| f["fall"] = json!("")), ["flat roof of C: level"]);
    let added = |f: &mut Value| {
        let mut more = f["outlets"][1].clone();
        (more["from_left"], more["overflow"]) = (json!("5 m"), json!(true));
        f["outlets"].as_array_mut().unwrap().push(more);
    };
    assert_eq!(told(&added), ["flat roof of C: overflow of 100 mm"]);
    assert_eq!(told(&|f| f["outlets"] = json!([])), ["flat roof of C: 2 outlets less"]);
}
