//! Valid bodies, damaged a little: whatever comes, the answer is no fault of the server, and what is refused changes nothing.

use super::*;

/// The same numbers at every run.
struct Dice(u64);

impl Dice {
    fn roll(&mut self, n: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % n
    }
}

fn odd(dice: &mut Dice) -> Value {
    match dice.roll(14) {
        0 => Value::Null,
        1 => json!(-1),
        2 => json!(1e308),
        3 => json!(9_007_199_254_740_993_i64),
        4 => json!(""),
        5 => json!("x".repeat(5_000)),
        6 => json!("\u{202e}\u{0}\u{1f9f1}"),
        7 => json!([]),
        8 => json!({}),
        9 => json!([[[[]]]]),
        10 => json!("1/0 in"),
        11 => json!("NaN"),
        12 => json!(true),
        _ => json!("0190aaaa-0000-7000-8000-0000000000ee"),
    }
}

/// Changes one value somewhere: another value, taken out, doubled, or under another name.
fn damage(v: &mut Value, dice: &mut Dice) {
    let go_down = dice.roll(4) > 0;
    match v {
        Value::Object(map) if !map.is_empty() => {
            let keys: Vec<String> = map.keys().cloned().collect();
            let key = &keys[dice.roll(keys.len())];
            match dice.roll(6) {
                0 => drop(map.remove(key)),
                1 => drop(map.insert(format!("{key}s"), odd(dice))),
                2 => drop(map.insert(key.clone(), odd(dice))),
                _ => damage(&mut map[key], dice),
            }
        }
        Value::Array(list) if !list.is_empty() && go_down => {
            let at = dice.roll(list.len());
            if dice.roll(4) == 0 {
                let twice = list[at].clone();
                list.push(twice);
            } else {
                damage(&mut list[at], dice);
            }
        }
        other => *other = odd(dice),
    }
}

#[actix_web::test]
async fn damaged_bodies_are_answered_and_what_is_refused_changes_nothing() {
    let b = bench().await;
    b.line("gutter sagging 2 in").await;
    b.picture(jpeg(40, 30)).await;
    b.change(Method::POST, &format!("/api/jobs/{JOB}/items"), &json!({ "face": "rear", "kind": "window", "count": 1 })).await;
    let demo: toml::Value = toml::from_str(include_str!("../../../../demo/jobs/1-thistlewick.toml")).unwrap();
    let part = |key: &str| serde_json::to_value(&demo[key]).unwrap();
    let view = b.view().await;
    let at = |list: &str| view[list][0].clone();
    let put = |v: &Value| json!({ "base": v["rev"], "body": v["body"] });
    let (note, item, picture) = (at("notes"), at("items"), at("pictures"));
    let path = |kind: &str, v: &Value| format!("/api/jobs/{JOB}/{kind}/{}", v["id"].as_str().unwrap());
    let bodies = [
        (Method::PUT, format!("/api/jobs/{JOB}"), put(&view["job"])),
        (Method::PUT, path("notes", &note), put(&note)),
        (Method::PUT, path("items", &item), put(&item)),
        (
            Method::PUT,
            path("pictures", &picture),
            json!({ "base": 1, "body": { "caption": "a", "marks": [{ "shape": "ring", "from": [0.1, 0.1], "to": [0.2, 0.2], "text": "here" }] } }),
        ),
        (Method::PUT, format!("/api/jobs/{JOB}/roof"), json!({ "base": null, "body": part("roof") })),
        (Method::PUT, format!("/api/jobs/{JOB}/ground"), json!({ "base": null, "body": part("ground") })),
        (
            Method::POST,
            format!("/api/jobs/{JOB}/lines"),
            json!({ "line": "torn boot 1/4 in", "place": { "face": "rear", "zone": "roof" }, "conditions": [null] }),
        ),
        (
            Method::POST,
            format!("/api/jobs/{JOB}/close"),
            json!({ "base": 1, "answers": [{ "cell": "rear.roof", "state": "limited", "reason": "too-steep", "detail": "" }] }),
        ),
        (Method::POST, "/api/calc/roof-account".to_owned(), json!({ "roof": part("roof"), "brief": part("brief"), "today": "2026-11-23" })),
        (Method::POST, "/api/calc/note".to_owned(), json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" } })),
    ];
    let mut dice = Dice(20_261_126);
    let mut refused = 0;
    for round in 0..40 {
        for (method, path, body) in &bodies {
            let mut body = body.clone();
            for _ in 0..=dice.roll(2) {
                damage(&mut body, &mut dice);
            }
            let before = b.app.ledger.version(JOB).unwrap();
            let answer = b.change(method.clone(), path, &body).await;
            assert!(answer.status < 500, "{round}: {method} {path} {body}: {}", answer.json());
            if answer.status >= 400 {
                refused += 1;
                answer.fault();
                assert_eq!(b.app.ledger.version(JOB).unwrap(), before, "{method} {path} was refused and changed something");
            }
        }
    }
    assert!(refused > 100, "only {refused} were refused: the damage does not reach what is checked");
    // Whatever was taken can be looked at, printed and taken away.
    for path in ["", "/roof", "/rainwater", "/ground", "/report.pdf", "/findings.csv", "/bundle.zip"] {
        let answer = b.get(&format!("/api/jobs/{JOB}{path}")).await;
        assert!(answer.status < 500, "{path}: {}", String::from_utf8_lossy(&answer.body));
    }
    assert_eq!(b.app.ledger.check().unwrap().problems, Vec::<String>::new());
    let bundle = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let read = Bench::new().bytes("/api/bundles", bundle).await;
    assert_eq!(read.status, 200, "what was kept here is kept there: {}", read.json());
}
