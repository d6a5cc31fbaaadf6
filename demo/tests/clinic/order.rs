//! The order in which things were kept says nothing, nor what they are called for short: somebody who began at the other end of the house,
//! or calls a reading otherwise, gets the same house.

use crate::loaded;
use account::Case;
use ledger::{Record, WholeJob};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::BTreeSet;
use std::sync::LazyLock;

/// Turned around, or begun from its middle.
type Turn = fn(&mut Vec<Value>);

/// Turns every list of things of a body around but those whose order means something: masses stand against those before them, a book
/// of levels is read down.
fn turn<T: Serialize + DeserializeOwned>(kept: &mut Option<Record<T>>, by: Turn) -> usize {
    let Some(kept) = kept else { return 0 };
    let mut body = serde_json::to_value(&kept.body).unwrap();
    let mut turned = 0;
    for (name, list) in body.as_object_mut().unwrap() {
        if let Value::Array(list) = list
            && name != "masses"
            && list.iter().all(Value::is_object)
        {
            by(list);
            turned += usize::from(list.len() > 1);
        }
    }
    kept.body = serde_json::from_value(body).unwrap();
    turned
}

/// Lists as sets, and figures to a millionth: sums that are added up the other way round differ in their last digit.
fn as_set(v: Value) -> Value {
    match v {
        Value::Array(all) => {
            let mut all: Vec<Value> = all.into_iter().map(as_set).collect();
            all.sort_by_cached_key(Value::to_string);
            Value::Array(all)
        }
        Value::Object(all) => Value::Object(all.into_iter().map(|(k, v)| (k, as_set(v))).collect()),
        Value::Number(n) if n.is_f64() => {
            let v = n.as_f64().unwrap();
            let digit = 10_f64.powf((v.abs().max(1e-6).log10() - 6.0).ceil());
            Value::from((v / digit).round() * digit + 0.0)
        }
        v => v,
    }
}

/// Where two accounts differ, and how.
fn differ(what: &str, a: &Value, b: &Value, out: &mut Vec<String>) {
    match (a, b) {
        (Value::Array(x), Value::Array(y)) if x.len() == y.len() => {
            x.iter().zip(y).for_each(|(x, y)| differ(&format!("{what}[]"), x, y, out))
        }
        (Value::Object(x), Value::Object(y)) if x.keys().eq(y.keys()) => {
            x.iter().zip(y).for_each(|((k, x), (_, y))| differ(&format!("{what}.{k}"), x, y, out));
        }
        (Value::Number(x), Value::Number(y)) if (x.as_f64().unwrap() - y.as_f64().unwrap()).abs() <= 1e-5 * x.as_f64().unwrap().abs() => {}
        _ if a == b => {}
        _ => out.push(format!("{what}: {a:.200} and {b:.200}")),
    }
}

/// The jobs of the demo as they were kept, and what is told of each.
static KEPT: LazyLock<Vec<(WholeJob, Case, Told)>> = LazyLock::new(|| {
    let (_folder, ledger) = loaded();
    let jobs = ledger.jobs().unwrap().into_iter().map(|j| ledger.job(&j.job.id).unwrap());
    jobs.map(|whole| {
        let case = Case::new(whole.clone(), ledger.today());
        let told = told(&case);
        (whole, case, told)
    })
    .collect()
});

type Told = Vec<(&'static str, Value)>;

fn told(c: &Case) -> Told {
    fn of(account: &impl Serialize) -> Value {
        as_set(serde_json::to_value(account).unwrap())
    }
    vec![
        ("roof", of(c.roof())),
        ("rain", of(c.rain())),
        ("ground", of(&c.survey().account)),
        ("walls", of(c.walls())),
        ("moisture", of(c.moisture())),
        ("trace", of(c.trace())),
        ("storm", of(c.damage())),
        ("progress", of(&c.view().coverage)),
    ]
}

#[test]
fn the_order_in_which_things_were_kept_says_nothing() {
    let turns: [(&str, Turn); 2] = [
        ("turned around", |v| v.reverse()),
        ("begun in the middle", |v| {
            let half = v.len() / 2;
            v.rotate_left(half);
        }),
    ];
    let (mut turned, mut wrong) = (0, Vec::new());
    for (kept, plain, as_kept) in &*KEPT {
        for (how, by) in turns {
            let mut w = kept.clone();
            turned += turn(&mut w.roof, by) + turn(&mut w.rainwater, by) + turn(&mut w.ground, by) + turn(&mut w.walls, by);
            turned += turn(&mut w.moisture, by) + turn(&mut w.trace, by) + turn(&mut w.storm, by);
            if how == "turned around" {
                w.notes.reverse();
                w.items.reverse();
                w.pictures.reverse();
            }
            let other = Case::new(w, plain.today());
            for ((what, a), (_, b)) in as_kept.iter().zip(told(&other)) {
                differ(&format!("{} {how}: {what}", kept.job.body.name), a, &b, &mut wrong);
            }
            let finding = |c: &Case| c.findings().iter().map(|f| format!("{:?}", (&f.title, &f.place, f.urgency))).collect::<BTreeSet<_>>();
            assert_eq!(finding(plain), finding(&other));
        }
    }
    assert!(turned > 40, "only {turned} lists were turned");
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.join("\n"));
}

/// The short names of things: what stands as an "id" anywhere in a body.
fn short_names(v: &Value, out: &mut BTreeSet<String>) {
    match v {
        Value::Array(all) => all.iter().for_each(|v| short_names(v, out)),
        Value::Object(all) => {
            out.extend(all.get("id").and_then(Value::as_str).map(str::to_owned));
            all.values().for_each(|v| short_names(v, out));
        }
        _ => {}
    }
}

/// Every short name in a text called otherwise, also where it is part of a longer name ("spill:G1").
fn called(text: &str, names: &BTreeSet<String>) -> String {
    let mut out = String::new();
    let mut rest = text;
    while !rest.is_empty() {
        let word = rest.find(|c: char| !c.is_alphanumeric()).unwrap_or(rest.len());
        let (token, after) = rest.split_at(word.max(rest.chars().next().map_or(1, char::len_utf8)).min(rest.len()));
        out.push_str(token);
        if names.contains(token) {
            out.push('x');
        }
        rest = after;
    }
    out
}

fn otherwise(v: Value, names: &BTreeSet<String>) -> Value {
    match v {
        Value::String(s) => called(&s, names).into(),
        Value::Array(all) => all.into_iter().map(|v| otherwise(v, names)).collect(),
        Value::Object(all) => Value::Object(all.into_iter().map(|(k, v)| (called(&k, names), otherwise(v, names))).collect()),
        v => v,
    }
}

fn rename<T: Serialize + DeserializeOwned>(kept: &mut Option<Record<T>>, names: &BTreeSet<String>) {
    if let Some(kept) = kept {
        kept.body = serde_json::from_value(otherwise(serde_json::to_value(&kept.body).unwrap(), names)).unwrap();
    }
}

#[test]
fn what_things_are_called_for_short_says_nothing() {
    let (mut renamed, mut wrong) = (0, Vec::new());
    for (kept, plain, as_kept) in &*KEPT {
        let mut names = BTreeSet::new();
        let body = |v: Result<Value, serde_json::Error>| v.unwrap();
        for v in [
            body(serde_json::to_value(&kept.roof)),
            body(serde_json::to_value(&kept.rainwater)),
            body(serde_json::to_value(&kept.ground)),
            body(serde_json::to_value(&kept.walls)),
            body(serde_json::to_value(&kept.moisture)),
            body(serde_json::to_value(&kept.trace)),
            body(serde_json::to_value(&kept.storm)),
        ] {
            short_names(&v["body"], &mut names);
        }
        // What masses and ponds are called is not theirs to choose.
        names.retain(|n| n.len() > 1 && n.bytes().any(|b| b.is_ascii_digit()));
        renamed += names.len();
        let mut w = kept.clone();
        rename(&mut w.roof, &names);
        rename(&mut w.rainwater, &names);
        rename(&mut w.ground, &names);
        rename(&mut w.walls, &names);
        rename(&mut w.moisture, &names);
        rename(&mut w.trace, &names);
        rename(&mut w.storm, &names);
        let other = Case::new(w, plain.today());
        for ((what, a), (_, b)) in as_kept.iter().zip(told(&other)) {
            differ(&format!("{}: {what}", kept.job.body.name), &as_set(otherwise(a.clone(), &names)), &as_set(b), &mut wrong);
        }
    }
    assert!(renamed > 60, "only {renamed} are called otherwise");
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.join("\n"));
}
