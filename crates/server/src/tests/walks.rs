//! A walk that is recorded elsewhere: its places are kept with their time, are no changes that undo takes back, and its text finds them.

use super::{Bench, JOB};
use actix_web::http::Method;
use serde_json::{Value, json};

const WALK: &str = "[0:20] Round to the left side.\n[1:00] Gutter is sagging.\n[5:10] Now the rear.\n[6:00] Shingles are curling.\n\
    [9:10] Now the right side.\n[9:40] Siding touches the soil.\n";

fn stop(k: u32) -> String {
    format!("/api/jobs/{JOB}/track/0190aaaa-0000-7000-8000-00000000ab{k:02}")
}

async fn walked() -> Bench {
    let b = super::bench().await;
    b.line("mortar cracked").await;
    // The recorder was started 40 s before the wheel was turned to the left side.
    let places = [("10:00:40", "left", "edge"), ("10:05:20", "rear", "roof"), ("10:09:20", "right", "base")];
    for (k, (at, face, zone)) in (1..).zip(places) {
        let body = json!({ "base": null, "body": { "at": format!("2026-11-20T{at}Z"), "place": { "face": face, "zone": zone } } });
        assert_eq!(b.change(Method::PUT, &stop(k), &body).await.status, 200);
    }
    let over = json!({ "base": null, "body": { "at": "2026-11-20T10:15:00Z", "place": null } });
    assert_eq!(b.change(Method::PUT, &stop(9), &over).await.status, 200);
    b
}

fn faces(walk: &Value) -> Vec<(String, String)> {
    let one = |n: &Value| (n["face"].as_str().unwrap_or("-").to_owned(), n["zone"].as_str().unwrap().to_owned());
    walk["notes"].as_array().unwrap().iter().map(one).collect()
}

#[actix_web::test]
async fn the_text_of_a_recording_is_laid_on_the_track() {
    let b = walked().await;
    let run = b.view().await["track"][0].clone();
    assert_eq!((run["places"].as_u64(), run["ended"].as_str()), (Some(3), Some("2026-11-20T10:15:00Z")));
    let path = format!("/api/jobs/{JOB}/walk");
    let laid = b.bytes(&format!("{path}?track={}", run["began"].as_str().unwrap()), WALK.into()).await.json();
    assert_eq!((laid["track"]["found"].as_bool(), laid["track"]["agree"].as_u64()), (Some(true), Some(3)), "{}", laid["track"]);
    let pair = |f: &str, z: &str| (f.to_owned(), z.to_owned());
    assert_eq!(faces(&laid), [pair("left", "edge"), pair("rear", "roof"), pair("right", "base")]);
    // Told a beginning an hour off, nothing is where the wheel stood, and it says so.
    let off = b.bytes(&format!("{path}?track={}&began=2026-11-20T09:00:00Z", run["began"].as_str().unwrap()), WALK.into()).await.json();
    assert_eq!((off["track"]["found"].as_bool(), off["track"]["agree"].as_u64()), (Some(false), Some(0)));
    let alone = b.bytes(&path, WALK.into()).await.json();
    assert!(alone.get("track").is_none());
    let wrong = b.bytes(&format!("{path}?track={}&began=ten", run["began"].as_str().unwrap()), WALK.into()).await;
    assert_eq!(wrong.status, 422);
}

#[actix_web::test]
async fn places_are_not_taken_back_by_undo_and_go_with_the_bundle() {
    let b = walked().await;
    let undone = b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &Value::Null).await.json();
    assert!(undone["sentence"].as_str().unwrap().contains("mortar cracked"), "{undone}");
    let view = b.view().await;
    assert_eq!((view["notes"].as_array().unwrap().len(), view["track"][0]["places"].as_u64()), (0, Some(3)));
    // A place chosen after an undo does not stand in the way of doing it again.
    let body = json!({ "base": null, "body": { "at": "2026-11-20T11:00:00Z", "place": { "face": "rear", "zone": "base" } } });
    assert_eq!(b.change(Method::PUT, &stop(10), &body).await.status, 200);
    assert_eq!(b.change(Method::POST, &format!("/api/jobs/{JOB}/redo"), &Value::Null).await.status, 200);
    assert_eq!(b.view().await["notes"].as_array().unwrap().len(), 1);
    let bundle = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let other = Bench::new();
    let taken = other.bytes("/api/bundles", bundle).await;
    assert_eq!(taken.status, 200, "{}", String::from_utf8_lossy(&taken.body));
    let there = other.view().await;
    assert_eq!(there["track"], b.view().await["track"]);
    assert_eq!(there["track"].as_array().unwrap().len(), 2);
}

#[actix_web::test]
async fn a_place_without_a_time_is_refused() {
    let b = super::bench().await;
    for body in
        [json!({ "at": "noon", "place": null }), json!({ "at": "2026-11-20T10:00:00Z", "place": { "face": "top", "zone": "roof" } })]
    {
        let r = b.change(Method::PUT, &stop(1), &json!({ "base": null, "body": body })).await;
        assert!(matches!(r.status, 400 | 422), "{}", r.status);
    }
    assert_eq!(b.view().await["track"], json!([]));
}
