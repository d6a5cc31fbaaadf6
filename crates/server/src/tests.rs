//! The assembled application, as the binary builds it, with good and bad requests.

use crate::http::{guard, slow};
use crate::{App, Limits, configure};
use actix_web::dev::ServiceResponse;
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::from_fn;
use actix_web::{App as ActixApp, test};
use exif::experimental::Writer;
use exif::{Field, In, Rational, Tag, Value as ExifValue};
use image::{ImageFormat, Rgb, RgbImage};
use img_parts::ImageEXIF;
use img_parts::jpeg::Jpeg;
use ledger::{FixedClock, Ledger};
use serde_json::{Value, json};
use std::cell::OnceCell;
use std::io::{Cursor, Write};
use std::pin::Pin;
use std::rc::Rc;
use std::sync::Arc;
use tempfile::TempDir;
use uuid::Uuid;
use zip::write::SimpleFileOptions;

mod attacks;
mod bench;
mod described;
mod fuzzed;
mod leaving;
mod pictures;
mod roof_and_ground;
mod walks;

use bench::*;

const JOB: &str = "0190aaaa-0000-7000-8000-00000000000a";

#[actix_web::test]
async fn a_line_becomes_notes_with_their_reasons() {
    let b = bench().await;
    let kept = b.line("gutter end no downspout, fascia rot 2 ft").await;
    assert_eq!((kept.status, kept.json()["notes"].as_array().unwrap().len()), (200, 2));
    let v = b.view().await;
    let said: Vec<_> =
        v["findings"].as_array().unwrap().iter().map(|f| (f["title"].as_str().unwrap(), f["urgency_words"].as_str().unwrap())).collect();
    assert_eq!(said, [("Too few or no outlets", "Before next rain"), ("Soffit, fascia or gable stained", "This season")]);
    assert_eq!(v["coverage"]["sentence"], "1 of 24 places seen, 23 still to do.");
}

#[actix_web::test]
async fn a_retried_line_is_kept_once() {
    let b = bench().await;
    let body = json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" } }).to_string().into_bytes();
    let headers = [("idempotency-key", "0190bbbb-0000-7000-8000-000000000001"), ("content-type", "application/json")];
    let path = format!("/api/jobs/{JOB}/lines");
    let first = b.send(Method::POST, &path, &headers, body.clone()).await;
    let again = b.send(Method::POST, &path, &headers, body).await;
    assert_eq!(first.body, again.body);
    assert_eq!(b.view().await["notes"].as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn corrections_by_hand_win_over_the_reading() {
    let b = bench().await;
    let body = json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" }, "conditions": ["roof-mastic-patch"] });
    let kept = b.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &body).await.json();
    assert_eq!(kept["notes"][0]["body"]["condition"], "roof-mastic-patch");
    let right = json!({ "line": "brick stair crack", "place": { "face": "rear", "zone": "base" }, "done_right": true });
    let kept = b.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &right).await.json();
    assert_eq!(
        (&kept["notes"][0]["body"]["kind"], &kept["notes"][0]["body"]["condition"]),
        (&json!("good"), &json!("wall-no-movement-ok"))
    );
}

#[actix_web::test]
async fn bad_requests_are_answered_in_one_shape() {
    let b = bench().await;
    let job = format!("/api/jobs/{JOB}");
    let fault = |a: Answer| a.fault();
    let f = |s: u16, c: &str, f: &str| (s, c.to_owned(), f.to_owned());
    assert_eq!(fault(b.line(&"long ".repeat(20_000)).await), f(422, "invalid", "text"));
    assert_eq!(fault(b.line("   ").await), f(422, "invalid", "line"));
    assert_eq!(fault(b.change(Method::PUT, &job, &json!({ "base": 1, "body": { "name": "" } })).await), f(422, "invalid", "name"));
    assert_eq!(
        fault(b.change(Method::PUT, &job, &json!({ "base": 1, "body": { "name": "x", "brief": { "storeys": 0 } } })).await),
        f(422, "invalid", "storeys")
    );
    assert_eq!(fault(b.change(Method::PUT, &job, &json!({ "body": { "name": 7 } })).await), f(422, "bad-request", ""));
    assert_eq!(fault(b.change(Method::PUT, "/api/jobs/../etc", &json!({})).await), f(404, "not-found", ""));
    assert_eq!(fault(b.change(Method::PUT, "/api/jobs/nonsense", &json!({ "body": { "name": "x" } })).await), f(422, "invalid", "job"));
    assert_eq!(fault(b.get("/api/jobs/0190aaaa-0000-7000-8000-00000000ffff").await), f(404, "not-found", ""));
    assert_eq!(
        fault(b.send(Method::PUT, &job, &[("content-type", "application/json")], b"{\"body\":{\"name\":\"x\"}}".to_vec()).await),
        f(422, "invalid", "idempotency-key")
    );
    assert_eq!(
        fault(
            b.change(Method::POST, &format!("{job}/lines"), &json!({ "line": "x".repeat(2 << 20), "place": { "zone": "inside" } })).await
        ),
        f(413, "too-large", "")
    );
    assert_eq!(fault(b.get(&format!("{job}/report/pages/900")).await), f(404, "not-found", ""));
    // nothing of this was kept
    let v = b.view().await;
    assert_eq!((v["notes"].as_array().unwrap().len(), &v["job"]["rev"]), (0, &json!(1)));
}

#[actix_web::test]
async fn any_script_emoji_and_control_characters_go_in_and_out() {
    let b = bench().await;
    let text = "裂縫 🏠 שלום \u{7} <script>alert(1)</script> ' OR 1=1 --";
    b.line(text).await;
    assert_eq!(b.view().await["notes"][0]["body"]["text"], text);
    let pdf = b.get(&format!("/api/jobs/{JOB}/report.pdf")).await;
    assert_eq!((pdf.status, &pdf.body[..5]), (200, &b"%PDF-"[..]));
    let overview = b.get(&format!("/api/jobs/{JOB}/report")).await.json();
    assert!(overview["warnings"][0].as_str().unwrap().contains("printed as □"), "{overview}");
    let csv = String::from_utf8(b.get(&format!("/api/jobs/{JOB}/findings.csv")).await.body).unwrap();
    assert!(csv.contains("裂縫 🏠 שלום"));
}

#[actix_web::test]
async fn a_text_that_a_spreadsheet_would_run_is_made_harmless() {
    let b = bench().await;
    b.line("=HYPERLINK(\"http://x\")").await;
    let csv = String::from_utf8(b.get(&format!("/api/jobs/{JOB}/findings.csv")).await.body).unwrap();
    assert!(csv.contains("'=HYPERLINK") && !csv.contains(",=HYPERLINK"));
}

#[actix_web::test]
async fn a_stale_change_is_answered_with_the_other_version() {
    let b = bench().await;
    let note = b.line("torn boot").await.json()["notes"][0].clone();
    let path = format!("/api/jobs/{JOB}/notes/{}", note["id"].as_str().unwrap());
    let with = |text: &str| {
        let mut body = note["body"].clone();
        body["text"] = json!(text);
        json!({ "base": note["rev"], "body": body })
    };
    assert_eq!(b.change(Method::PUT, &path, &with("first")).await.status, 200);
    let refused = b.change(Method::PUT, &path, &with("second")).await;
    assert_eq!(refused.fault(), (409, "stale".into(), String::new()));
    assert_eq!(refused.json()["theirs"]["body"]["text"], "first");
}

/// CRC-32 as PNG asks for it (ISO 3309).
fn crc(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0_u32, |mut c, b| {
        c ^= u32::from(*b);
        for _ in 0..8 {
            c = if c & 1 == 1 { 0xEDB8_8320 ^ (c >> 1) } else { c >> 1 };
        }
        c
    })
}

/// A bundle with some of its files changed.
fn altered(bundle: &[u8], change: impl Fn(&str, Vec<u8>) -> Option<(String, Vec<u8>)>, more: &[(&str, &[u8])]) -> Vec<u8> {
    let mut from = zip::ZipArchive::new(Cursor::new(bundle)).unwrap();
    let mut to = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for i in 0..from.len() {
        let mut file = from.by_index(i).unwrap();
        let mut bytes = Vec::new();
        std::io::copy(&mut file, &mut bytes).unwrap();
        if let Some((name, bytes)) = change(file.name(), bytes) {
            to.start_file(name, SimpleFileOptions::default()).unwrap();
            to.write_all(&bytes).unwrap();
        }
    }
    for (name, bytes) in more {
        to.start_file(*name, SimpleFileOptions::default()).unwrap();
        to.write_all(bytes).unwrap();
    }
    to.finish().unwrap().into_inner()
}

fn edit(bundle: &[u8], change: impl Fn(&mut Value)) -> Vec<u8> {
    altered(
        bundle,
        |name, bytes| {
            if name != "bundle.json" {
                return Some((name.to_owned(), bytes));
            }
            let mut json: Value = serde_json::from_slice(&bytes).unwrap();
            change(&mut json);
            Some((name.to_owned(), json.to_string().into_bytes()))
        },
        &[],
    )
}

#[actix_web::test]
async fn bad_bundles_are_refused_whole() {
    let b = bench().await;
    b.line("torn boot").await;
    b.picture(jpeg(80, 60)).await;
    let good = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let same = |name: &str, bytes: Vec<u8>| Some((name.to_owned(), bytes));
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("no zip", b"not a zip".to_vec(), "not a zip"),
        ("cut short", good[..good.len() / 2].to_vec(), "not a zip"),
        ("no job", altered(&good, |n, b| (n != "bundle.json").then(|| (n.to_owned(), b)), &[]), "holds no Trowel job"),
        (
            "missing picture",
            altered(&good, |n, b| (!n.starts_with("pictures/")).then(|| (n.to_owned(), b)), &[]),
            "missing from the bundle",
        ),
        (
            "wrong hash",
            altered(
                &good,
                |n, mut b| {
                    if n.starts_with("pictures/") {
                        b.push(0);
                    }
                    Some((n.to_owned(), b))
                },
                &[],
            ),
            "changed or damaged",
        ),
        ("path that escapes", altered(&good, same, &[("../../evil", b"x")]), "outside itself"),
        ("absolute path", altered(&good, same, &[("/etc/evil", b"x")]), "outside itself"),
        ("newer", edit(&good, |j| j["version"] = json!(99)), "newer version"),
        ("other format", edit(&good, |j| j["format"] = json!("else")), "holds no Trowel job"),
        ("bad id", edit(&good, |j| j["notes"][0]["id"] = json!("1; DROP")), "is not an id"),
        ("unknown condition", edit(&good, |j| j["notes"][0]["body"]["condition"] = json!("roof-on-fire")), "not in the catalogue"),
        ("stray note", edit(&good, |j| j["pictures"][0]["body"]["note_id"] = json!(Uuid::new_v4().to_string())), "note that is not in it"),
        ("wrong shape", edit(&good, |j| j["notes"] = json!(7)), "cannot be read"),
        ("bad name", edit(&good, |j| j["job"]["body"]["name"] = json!(" ")), "needs a name"),
    ];
    let other = Bench::new();
    for (name, bytes, says) in cases {
        let a = other.bytes("/api/bundles", bytes).await;
        let (status, _, _) = a.fault();
        let message = a.json()["message"].as_str().unwrap().to_owned();
        assert!(status == 422 && message.contains(says), "{name}: {status} {message}");
    }
    assert_eq!(other.get("/api/jobs").await.json()["jobs"], json!([]));
    let limits = exchange::BundleLimits { all_bytes: 200_000, ..Default::default() };
    let narrow = Bench::with(Limits { bundle: limits, ..Limits::default() }, vec![]);
    let bomb = altered(&good, same, &[("padding", &vec![0; 5_000_000])]);
    assert!(bomb.len() < 200_000, "the bomb is small outside");
    assert_eq!(narrow.bytes("/api/bundles", bomb).await.fault().1, "too-large");
    // the good one goes in after all that, and a second time it does not
    assert_eq!(other.bytes("/api/bundles", good.clone()).await.status, 200);
    assert_eq!(other.bytes("/api/bundles", good).await.fault().1, "conflict");
}

#[actix_web::test]
async fn a_job_that_was_deleted_can_be_read_in_again() {
    let b = bench().await;
    b.line("torn boot").await;
    b.picture(jpeg(80, 60)).await;
    let before = b.view().await;
    let bundle = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    assert_eq!(b.change(Method::DELETE, &format!("/api/jobs/{JOB}?base=1"), &json!({})).await.status, 200);
    assert_eq!(b.bytes("/api/bundles", bundle).await.status, 200);
    let after = b.view().await;
    assert_eq!(after["findings"], before["findings"]);
    assert_eq!(after["pictures"][0]["body"], before["pictures"][0]["body"]);
}

#[actix_web::test]
async fn closing_answers_what_is_open_and_undo_takes_it_back_as_one() {
    let b = bench().await;
    let close = json!({ "base": 1, "answers": [
        { "cell": "rear.roof", "state": "limited", "reason": "too-steep", "detail": "" }, { "cell": "rear.base", "state": "seen" } ] });
    let v = b.change(Method::POST, &format!("/api/jobs/{JOB}/close"), &close).await.json();
    assert_eq!(
        (&v["closing"]["closed"], &v["coverage"]["tally"]["limited"], &v["coverage"]["tally"]["untouched"]),
        (&json!(true), &json!(1), &json!(22))
    );
    assert!(v["closing"]["gap"]["sentence"].as_str().unwrap().starts_with("22 places were not looked at"));
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    let v = b.view().await;
    assert_eq!((&v["closing"]["closed"], &v["coverage"]["tally"]["untouched"]), (&json!(false), &json!(24)));
}

#[actix_web::test]
async fn closing_sent_twice_is_done_once() {
    let b = bench().await;
    let body = json!({ "base": 1, "answers": [{ "cell": "rear.base", "state": "seen" }] }).to_string().into_bytes();
    let headers = [("idempotency-key", "0190bbbb-0000-7000-8000-000000000002"), ("content-type", "application/json")];
    let path = format!("/api/jobs/{JOB}/close");
    let first = b.send(Method::POST, &path, &headers, body.clone()).await;
    let again = b.send(Method::POST, &path, &headers, body).await;
    assert_eq!((first.status, again.status), (200, 200), "{}", String::from_utf8_lossy(&again.body));
    assert_eq!(first.json(), again.json());
}

#[actix_web::test]
async fn every_answer_carries_its_guards() {
    let b = bench().await;
    for path in ["/api/jobs", "/api/nothing", "/assets/nothing.js"] {
        let a = b.get(path).await;
        let policy = a.headers.get("content-security-policy").and_then(|v| v.to_str().ok()).unwrap_or_default();
        assert!(
            policy.contains("default-src 'none'") && policy.contains("script-src 'self'") && !policy.contains("unsafe"),
            "{path}: {policy}"
        );
        assert_eq!(a.headers.get("x-content-type-options").unwrap(), "nosniff", "{path}");
    }
}

#[actix_web::test]
async fn changes_from_another_site_are_refused() {
    let b = bench().await;
    let path = format!("/api/jobs/{JOB}/undo");
    let id = Uuid::new_v4().to_string();
    let from = |origin: &'static str, site: &'static str| {
        [("host", "127.0.0.1:4310"), ("origin", origin), ("sec-fetch-site", site), ("idempotency-key", "x")]
    };
    for (origin, site) in [
        ("http://evil.example", "cross-site"),
        ("http://evil.example", "same-origin"),
        ("null", "same-origin"),
        ("http://127.0.0.1:4310", "cross-site"),
    ] {
        let mut h = from(origin, site);
        h[3].1 = Box::leak(id.clone().into_boxed_str());
        assert_eq!(b.send(Method::POST, &path, &h, vec![]).await.fault().1, "other-origin", "{origin} {site}");
    }
    let mut own = from("http://127.0.0.1:4310", "same-origin");
    own[3].1 = Box::leak(id.into_boxed_str());
    assert_eq!(
        b.send(Method::POST, &path, &own, vec![]).await.fault().1,
        "conflict",
        "own page: refused only because nothing is left to undo"
    );
    // another name that leads to this machine
    let strict = Bench::with(Limits::default(), vec!["127.0.0.1".into()]);
    assert_eq!(strict.send(Method::GET, "/api/jobs", &[("host", "rebound.example:4310")], vec![]).await.fault().1, "other-origin");
    assert_eq!(strict.send(Method::GET, "/api/jobs", &[("host", "127.0.0.1:9")], vec![]).await.status, 200);
}

#[actix_web::test]
async fn a_line_may_correct_the_note_before_it_or_only_move_on() {
    let b = bench().await;
    b.line("fascia rot 2 ft").await;
    let told = |a: Answer| a.json()["corrected"].as_str().unwrap_or_default().to_owned();
    assert_eq!(told(b.line("make that 3 ft").await), "Measured again: fascia rot 2 ft");
    assert_eq!(b.view().await["notes"][0]["body"]["measures"][0]["text"], "3 ft");
    assert!(told(b.line("no, left side").await).starts_with("Moved to left, edge and gutter"));
    let moved = b.line("now the front").await.json();
    assert_eq!((moved["moved"]["face"].as_str(), moved["notes"].as_array().map(Vec::len)), (Some("front"), Some(0)));
    assert_eq!(b.line("same here").await.json()["notes"][0]["body"]["condition"], "soffit-fascia-damaged");
    b.line("scratch that").await;
    b.line("scratch that").await;
    assert_eq!(b.view().await["notes"], json!([]));
    assert_eq!(b.line("scratch that").await.fault().2, "line");
    // One undo brings the note back with its reading and its place.
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.view().await["notes"][0]["body"]["place"]["face"], "left");
    let again = b.change(Method::POST, &format!("/api/jobs/{JOB}/redo"), &json!({})).await;
    assert_eq!((again.status, b.view().await["notes"].as_array().map(Vec::len)), (200, Some(0)));
}

#[actix_web::test]
async fn a_recorded_walk_is_read_and_nothing_is_kept() {
    let b = bench().await;
    let path = format!("/api/jobs/{JOB}/walk");
    let walk = |bytes: &[u8]| b.bytes(&path, bytes.to_vec());
    let read = walk(b"[0:05] Front first.\n[0:09] Gutter is full of leaves.\n[0:14] Nice ladder.\n").await.json();
    assert_eq!(
        (read["notes"][0]["t_s"].as_f64(), read["notes"][0]["face"].as_str(), read["talk"].as_u64()),
        (Some(9.0), Some("front"), Some(1))
    );
    assert_eq!(b.view().await["notes"], json!([]));
    assert_eq!(walk(b"gutter \xff\xfe").await.fault().0, 422);
    assert_eq!(walk(&vec![b'a'; 11_000_000]).await.fault().0, 413);
    assert_eq!(walk(b"").await.fault().0, 422);
}

#[actix_web::test]
async fn a_practice_is_tried_then_kept_and_then_judges() {
    let b = bench().await;
    b.line("downspout dumps at wall, outlet 1.5 m away").await;
    let judged = |v: &Value| v["findings"][0]["judged"]["verdict"].as_str().unwrap_or_default().to_owned();
    assert_eq!(judged(&b.view().await), "fails");
    let practice = json!({ "name": "Plumb & Daylight", "choice": { "discharge-distance": { "school": "four-feet" } } });
    let tried = b.change(Method::POST, &format!("/api/jobs/{JOB}/practice-tried"), &practice).await.json();
    assert!(tried[0]["after"].as_str().unwrap().contains("300 mm to spare"), "{tried}");
    assert_eq!(judged(&b.view().await), "fails", "trying keeps nothing");
    let id = "0190aaaa-0000-7000-8000-0000000000bb";
    let put = |body: &Value| json!({ "base": null, "body": body });
    assert_eq!(b.change(Method::PUT, &format!("/api/practices/{id}"), &put(&practice)).await.status, 200);
    let other = "0190aaaa-0000-7000-8000-0000000000bc";
    assert_eq!(b.change(Method::PUT, &format!("/api/practices/{other}"), &put(&practice)).await.fault().0, 409);
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Heron Boathouse", "brief": { "practice": "Plumb & Daylight" } } });
    assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await.status, 200);
    assert_eq!(judged(&b.view().await), "meets");
    let file = b.get(&format!("/api/practices/{id}/practice.toml")).await;
    let read = b.bytes("/api/practices/read", file.body.clone()).await.json();
    assert_eq!(read["choice"], practice["choice"]);
    for bad in
        ["name = \"x\"\n[choice.soil]\nschool = \"y\"", "nam = 1", "name = \"x\"\n[choice.tree-setback]\nown = \"5 %\"\nreason = \"z\""]
    {
        assert_eq!(b.bytes("/api/practices/read", bad.into()).await.fault().0, 422, "{bad}");
    }
}

#[actix_web::test]
async fn openings_are_counted_named_and_asked_for() {
    let b = bench().await;
    let items = format!("/api/jobs/{JOB}/items");
    let counted = b.change(Method::POST, &items, &json!({ "face": "rear", "kind": "window", "count": 2 })).await.json();
    assert_eq!((counted["items"][0]["body"]["name"].as_str(), counted["items"][1]["body"]["name"].as_str()), (Some("W1"), Some("W2")));
    assert_eq!(b.change(Method::POST, &items, &json!({ "face": "rear", "kind": "window", "count": 0 })).await.fault().2, "count");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Quarry Row", "brief": { "visit": "before-cladding" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    b.line("W2 sill pan corner cut").await;
    let v = b.view().await;
    let state = |item: &str| {
        let all = v["expectations"].as_array().unwrap();
        all.iter().find(|e| e["item"] == item && e["key"] == "sill-pan").map(|e| e["state"].as_str().unwrap().to_owned())
    };
    assert_eq!((state("W1").as_deref(), state("W2").as_deref()), (Some("open"), Some("answered")));
    let left = v["left"].as_array().unwrap().iter().find(|l| l["here"] == "rear").unwrap();
    assert_eq!(left["left"][0]["face"], "rear", "the way round starts where one stands");
    let sums: u64 = v["progress"].as_array().unwrap().iter().take(4).map(|p| p["of"].as_u64().unwrap()).sum();
    let asked = v["coverage"]["tally"]["expected"].as_u64().unwrap() + v["expectations"].as_array().unwrap().len() as u64;
    assert_eq!(sums, asked, "the faces add up to everything that is asked for");
}

#[actix_web::test]
async fn a_line_before_cladding_answers_the_matrix_and_undo_takes_both_back() {
    let b = bench().await;
    b.change(Method::POST, &format!("/api/jobs/{JOB}/items"), &json!({ "face": "rear", "kind": "window", "count": 2 })).await;
    let walls = format!("/api/jobs/{JOB}/walls");
    // On another visit a line is a line.
    let told = b.line("W2 head lap reversed").await.json();
    assert!(told.get("counted").is_none() && b.get(&walls).await.json()["rev"].is_null(), "{told}");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Quarry Row", "brief": { "visit": "before-cladding" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    // What was told before is offered, and not put in unasked.
    let page = b.get(&walls).await.json();
    assert_eq!((page["account"]["told"][0]["key"].as_str(), page["rev"].is_null()), (Some("rear.W2.head-lap"), true));
    let told = b.line("W1 jambs right, W1 head lap not seen").await.json();
    assert_eq!(told["counted"], "Into the matrix: Rear, W1: jambs right; Rear, W1: head lap not seen.");
    let page = b.get(&walls).await.json();
    assert_eq!(page["walls"]["answers"]["rear.W1.jambs"]["found"], "right");
    assert_eq!(page["walls"]["answers"]["rear.W1.head-lap"]["text"], "W1 jambs right, W1 head lap not seen");
    assert!(page["account"]["matrix"]["sentence"].as_str().unwrap().starts_with("2 of "), "{}", page["account"]["matrix"]["sentence"]);
    let notes = b.view().await["notes"].as_array().unwrap().len();
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert!(b.get(&walls).await.json()["walls"]["answers"].as_object().is_none_or(serde_json::Map::is_empty));
    assert!(b.view().await["notes"].as_array().unwrap().len() < notes);
}

#[actix_web::test]
async fn a_told_reading_goes_to_its_place_or_is_offered() {
    let b = bench().await;
    let moisture = format!("/api/jobs/{JOB}/moisture");
    let tell = async |line: &str| {
        let body = json!({ "line": line, "place": { "zone": "inside", "room": "store room" } });
        b.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &body).await.json()
    };
    // Without a room nothing is kept: the note is.
    assert!(tell("28 percent at the baseboard, 2 ft from the left, wall 2").await.get("counted").is_none());
    let wall = |l: &str| json!({ "length": l });
    let room =
        json!({ "id": "K1", "name": "store room", "height": "2.4 m", "walls": [wall("4 m"), wall("3 m"), wall("4 m"), wall("3 m")] });
    b.change(Method::PUT, &moisture, &json!({ "base": null, "body": { "rooms": [room] } })).await;
    // What was told before the room was taped is offered, whole.
    let page = b.get(&moisture).await.json();
    assert_eq!((page["told"][0]["placed"].as_bool(), page["told"][0]["reading"]["value"].as_f64()), (Some(true), Some(28.0)));
    let told = tell("31 percent at the baseboard, 3 ft from the left, wall 2").await;
    assert_eq!(told["counted"], "Kept as P1: 31 (wood moisture, %), store room, wall 2.");
    let page = b.get(&moisture).await.json();
    assert_eq!(page["moisture"]["readings"][0]["at"]["along"], "3 ft");
    assert_eq!(page["told"].as_array().unwrap().len(), 1, "what is on a map is not offered again");
    // The door is nowhere: the reading waits for its place.
    assert!(tell("26 percent at the baseboard, two feet left of the door").await.get("counted").is_none());
    let page = b.get(&moisture).await.json();
    let waits = page["told"].as_array().unwrap().iter().find(|t| t["reading"]["value"] == 26.0).unwrap();
    assert_eq!((waits["placed"].as_bool(), waits["reading"]["at"]["room"].as_str()), (Some(false), Some("K1")));
}

#[actix_web::test]
async fn heat_and_rain_are_read_from_open_files() {
    let b = bench().await;
    let grey = image::ImageBuffer::<image::Luma<u16>, Vec<u16>>::from_fn(300, 200, |x, _| image::Luma([29_000 + x as u16]));
    let mut png = std::io::Cursor::new(Vec::new());
    image::DynamicImage::ImageLuma16(grey).write_to(&mut png, image::ImageFormat::Png).unwrap();
    let path = "/api/moisture/heat-picture?cell_m=0.01&zero_c=-273.15&step_c=0.01";
    let taken = b.bytes(path, png.into_inner()).await.json();
    // 60,000 pixels are more than are kept: two by two of them make a cell, twice as wide.
    assert_eq!((taken["cell_m"].as_f64(), taken["grid"].as_array().unwrap().len()), (Some(0.02), 100));
    assert!((taken["grid"][0][0].as_f64().unwrap() - 16.855).abs() < 1e-9, "{}", taken["grid"][0][0]);
    assert_eq!(b.bytes(path, b"no picture".to_vec()).await.fault().2, "picture");
    let rain =
        b.bytes("/api/trace/rain-file?name=gauge.csv", b"time,rain mm\n2026-11-01 10:00,4\n2026-11-01 11:00,0\n".to_vec()).await.json();
    assert_eq!((rain["source"].as_str(), rain["hours"].as_array().unwrap().len()), (Some("gauge.csv"), 1));
    assert_eq!(b.bytes("/api/trace/rain-file?name=x", b"time,rain\n1,2\n".to_vec()).await.fault().2, "file");
}

#[actix_web::test]
async fn the_list_is_paged_and_searched_and_the_past_can_be_seen() {
    let b = bench().await;
    b.line("torn boot").await;
    let seq = b.get(&format!("/api/jobs/{JOB}/history")).await.json()[0]["seq"].as_i64().unwrap();
    b.line("fascia rot 2 ft").await;
    let list = b.get("/api/jobs?most=1").await.json();
    assert_eq!((list["all"].as_u64(), list["jobs"][0]["findings"].as_u64()), (Some(1), Some(2)));
    assert_eq!(b.get("/api/jobs?from=1").await.json()["jobs"], json!([]));
    assert_eq!(b.get("/api/search?words=fascia%20rot").await.json().as_array().map(Vec::len), Some(1));
    let then = b.get(&format!("/api/jobs/{JOB}/then/{seq}")).await.json();
    assert_eq!(then["notes"].as_array().map(Vec::len), Some(1));
    assert_eq!(b.get(&format!("/api/jobs/{JOB}/then/0")).await.fault().0, 404);
}
