//! What is typed is read, or refused at its own field: nothing that is no figure is kept as one, and whoever is refused is told where.

use crate::loaded;
use envelope::ground::record::Ground;
use envelope::rain::record::Rainwater;
use envelope::roof::record::Roof;
use ledger::{Change, Entity, LedgerError, WholeJob};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// Every text of a body with the way to it.
fn texts(v: &Value, way: &mut Vec<String>, out: &mut Vec<(Vec<String>, String)>) {
    match v {
        Value::String(s) => out.push((way.clone(), s.clone())),
        Value::Array(all) => {
            for (k, v) in all.iter().enumerate() {
                way.push(k.to_string());
                texts(v, way, out);
                way.pop();
            }
        }
        Value::Object(all) => {
            for (k, v) in all {
                way.push(k.clone());
                texts(v, way, out);
                way.pop();
            }
        }
        _ => {}
    }
}

fn pointer(way: &[String]) -> String {
    way.iter().map(|w| format!("/{}", w.replace('~', "~0").replace('/', "~1"))).collect()
}

/// What the ledger's door says of a body with another text in it; None where its form already refuses it.
fn with<T: Entity>(body: &Value, way: &[String], text: &str) -> Option<Result<(), (String, String)>> {
    let mut body = body.clone();
    *body.pointer_mut(&pointer(way)).unwrap() = text.into();
    let read: T = serde_json::from_value(body).ok()?;
    Some(match Change::put("0190aaaa-0000-7000-8000-00000000000a", None, &read) {
        Ok(_) => Ok(()),
        Err(LedgerError::Refused { field, message, .. }) => Err((field, message)),
        Err(e) => panic!("{e}"),
    })
}

/// A refusal names the field or what it is part of, and the thing it belongs to where there are several: by its id, by its number in the
/// list, or by the mass it lies at.
fn names(field: &str, body: &Value, way: &[String]) -> bool {
    let parts: Vec<&str> = field.split('.').collect();
    let things = (1..way.len()).filter(|n| way[*n].parse::<usize>().is_ok());
    let known = |n: usize| {
        let of = body.pointer(&pointer(&way[..=n])).unwrap();
        let number = way[n].parse::<usize>().unwrap();
        let by = ["id", "mass", "row", "facet"].into_iter().find_map(|k| of.get(k)?.as_str());
        [number, number + 1].iter().any(|n| parts.contains(&n.to_string().as_str())) || by.is_some_and(|by| parts.contains(&by))
    };
    let within = |n: usize| way[n + 1..].iter().any(|k| parts.contains(&k.as_str()));
    let last = things.clone().next_back();
    parts[0] == way[0]
        && last.map_or_else(|| way.len() == 1 || within(0), |last| known(last) || things.clone().any(|n| known(n) && within(n)))
}

fn tried<T: Entity>(what: &str, body: &T, wrong: &mut BTreeSet<String>) -> usize {
    Change::put("0190aaaa-0000-7000-8000-00000000000a", None, body).unwrap_or_else(|e| panic!("the {what} to begin with: {e}"));
    let body = serde_json::to_value(body).unwrap();
    let mut all = Vec::new();
    texts(&body, &mut Vec::new(), &mut all);
    let mut refused = 0;
    let mut seen = BTreeMap::<String, usize>::new();
    for (way, text) in &all {
        let shape = way.iter().map(|w| if w.parse::<usize>().is_ok() { "*" } else { w }).collect::<Vec<_>>().join(".");
        // Of a list with many things a few are as good as all.
        let times = seen.entry(shape.clone()).or_default();
        *times += 1;
        if *times > 4 {
            continue;
        }
        let figure = text.bytes().any(|b| b.is_ascii_digit()) && envelope::measure::parse(text).is_ok();
        // No figure, one that nothing about a house has, and one of another quantity. What is said in words is words.
        let figure = figure && way.last().is_none_or(|w| w != "words");
        for bad in ["about so", "900 km", "-900 km", "35 °C", ""].into_iter().filter(|_| figure) {
            match with::<T>(&body, way, bad) {
                Some(Ok(())) if !bad.is_empty() => drop(wrong.insert(format!("{what} {shape}: \"{bad}\" is kept where \"{text}\" stood"))),
                Some(Err((field, message))) => {
                    refused += 1;
                    if !names(&field, &body, way) {
                        wrong.insert(format!("{what} {shape}: \"{bad}\" refused at {field}"));
                    }
                    if !message.ends_with(['.', '?']) || message.len() > 300 {
                        wrong.insert(format!("{what} {shape}: {message}"));
                    }
                }
                _ => {}
            }
        }
        // Nothing is kept that nobody could have typed.
        if let Some(Ok(())) = with::<T>(&body, way, &"x".repeat(20_001)) {
            wrong.insert(format!("{what} {shape}: 20,001 letters are kept"));
        }
    }
    refused
}

#[test]
fn what_is_no_figure_is_refused_at_its_own_field() {
    let (_folder, ledger) = loaded();
    let mut wrong = BTreeSet::new();
    let mut refused = 0;
    for job in ledger.jobs().unwrap() {
        let WholeJob { job, roof, rainwater, ground, walls, moisture, trace, storm, again, .. } = ledger.job(&job.job.id).unwrap();
        refused += tried("job", &job.body, &mut wrong);
        refused += roof.map_or(0, |r| tried("roof", &r.body, &mut wrong));
        refused += rainwater.map_or(0, |r| tried("rainwater", &r.body, &mut wrong));
        refused += ground.map_or(0, |r| tried("ground", &r.body, &mut wrong));
        refused += walls.map_or(0, |r| tried("walls", &r.body, &mut wrong));
        refused += moisture.map_or(0, |r| tried("moisture", &r.body, &mut wrong));
        refused += trace.map_or(0, |r| tried("trace", &r.body, &mut wrong));
        refused += storm.map_or(0, |r| tried("storm", &r.body, &mut wrong));
        refused += again.map_or(0, |r| tried("return", &r.body, &mut wrong));
    }
    assert!(refused > 300, "only {refused} were refused");
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.into_iter().collect::<Vec<_>>().join("\n"));
}

/// What no job of the demo has: broken slopes, what differs at a face, flat roofs with parapets, ways in, a wind.
#[test]
fn what_the_demo_has_not_is_refused_at_its_own_field_as_well() {
    use serde_json::{from_value, json};
    let at = json!({ "mass": "A", "face": "front", "along": "1 m", "out": "2 m" });
    let roof: Roof = from_value(json!({ "perimeter": "12 L 8 L 12 L 8 L", "masses": [
        { "id": "A", "name": "barn", "length": "12 m", "depth": "8 m", "form": "gambrel", "ridge": "across", "pitch": { "how": "typed", "text": "14:12" },
            "break_at": "4.5 m", "upper_pitch": "4:12", "eave": "3 m", "overhang": "0.3 m",
            "faces": { "rear": { "eave": "3.1 m", "pitch": "12:12", "overhang": "0.5 m" } } },
        { "id": "B", "name": "wing", "length": "5 m", "depth": "4 m", "form": "half-hip", "ridge": "front-to-rear", "ends_from": "3.4 m",
            "pitch": { "how": "typed", "text": "6:12" }, "eave": "2.6 m", "overhang": "0.3 m", "against": { "mass": "A", "face": "front", "from_left": "2 m" } }],
        "fittings": [{ "id": "F1", "kind": "curb", "mass": "A", "face": "front", "width": "0.8 m", "from_left": "4 m", "up": "1 m" }] }))
    .unwrap();
    let rainwater: Rainwater = from_value(json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" },
        "gutters": [{ "id": "G1", "eave": "A.-v#1", "form": "half-round", "width": "125 mm", "depth": "60 mm", "levels": "0 0, 12 -20 mm",
            "past_fascia": "20 mm", "above_rim": "30 mm", "outlets": [{ "from_left": "0.3 m", "bore": "75 mm", "distance": "1 m", "up": "5 mm" }] }],
        "flats": [{ "mass": "C", "fall": "2 %", "toward": "rear", "parapets": { "front": "300 mm", "rear": "250 mm" },
            "heights": [{ "from_left": "1 m", "from_front": "1 m", "height": "-20 mm" }],
            "outlets": [{ "kind": "inner-drain", "from_left": "2 m", "from_front": "1.5 m", "size": "100 mm", "up": "10 mm", "distance": "1 m" },
                { "kind": "scupper", "face": "rear", "from_left": "2 m", "size": "300 x 100 mm", "up": "50 mm", "overflow": true, "distance": "1 m" }] }] }))
    .unwrap();
    let ground: Ground = from_value(json!({ "spots": [{ "id": "P1", "at": at, "height": "-150 mm" }], "cell": "0.5 m", "loss": "10 mm/h",
        "cladding": [{ "mass": "A", "face": "front", "bottom": "-60 mm" }],
        "ways_in": [{ "id": "W1", "kind": "vent", "mass": "A", "face": "front", "along": "2 m", "width": "0.4 m", "height": "-0.1 m" }],
        "nearby": [{ "id": "N1", "kind": "retaining-wall", "at": at, "height": "1.2 m" }, { "id": "N2", "kind": "spray-head", "at": at, "flow_l_min": "9", "minutes": "12" }] }))
    .unwrap();
    let mut wrong = BTreeSet::new();
    let refused = tried("roof", &roof, &mut wrong) + tried("rainwater", &rainwater, &mut wrong) + tried("ground", &ground, &mut wrong);
    assert!(refused > 120, "only {refused} were refused");
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.into_iter().collect::<Vec<_>>().join("\n"));
}
