//! The assembled application, as the binary builds it, with good and bad requests.

use crate::http::{guard, slow};
use crate::{App, Limits, configure};
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
use std::io::{Cursor, Write};
use std::sync::Arc;
use tempfile::TempDir;
use uuid::Uuid;
use zip::write::SimpleFileOptions;

mod attacks;
mod fuzzed;
mod leaving;
mod walks;

const JOB: &str = "0190aaaa-0000-7000-8000-00000000000a";

/// An application on a data folder of its own.
struct Bench {
    app: Arc<App>,
    _dir: TempDir,
}

struct Answer {
    status: u16,
    headers: actix_web::http::header::HeaderMap,
    body: Vec<u8>,
}

impl Answer {
    fn json(&self) -> Value {
        serde_json::from_slice(&self.body).unwrap_or_else(|e| panic!("{e}: {}", String::from_utf8_lossy(&self.body)))
    }
    /// Status, code and field of a fault.
    fn fault(&self) -> (u16, String, String) {
        let j = self.json();
        let text = |k: &str| j[k].as_str().unwrap_or_default().to_owned();
        assert!(text("message").len() > 20, "a fault must say what to do: {j}");
        (self.status, text("code"), text("field"))
    }
}

impl Bench {
    fn new() -> Bench {
        Bench::with(Limits::default(), vec![])
    }
    fn with(limits: Limits, hosts: Vec<String>) -> Bench {
        let dir = TempDir::new().unwrap();
        let clock = FixedClock("2026-11-23T08:00:00Z".parse().unwrap());
        let ledger = Arc::new(Ledger::open(dir.path(), Arc::new(clock)).unwrap());
        let mut app = App::new(ledger, "Ida Marrow");
        app.limits = limits;
        app.hosts = hosts;
        Bench { app: Arc::new(app), _dir: dir }
    }
    async fn send(&self, method: Method, path: &str, headers: &[(&str, &str)], body: Vec<u8>) -> Answer {
        let service = test::init_service(
            ActixApp::new()
                .wrap(from_fn(slow::paced))
                .wrap(from_fn(guard::same_origin))
                .wrap(from_fn(guard::headers))
                .configure(configure(self.app.clone())),
        )
        .await;
        let mut req = test::TestRequest::with_uri(path).method(method).set_payload(body).insert_header(("host", "127.0.0.1"));
        for (k, v) in headers {
            req = req.insert_header((*k, *v));
        }
        let res = test::call_service(&service, req.to_request()).await;
        Answer { status: res.status().as_u16(), headers: res.headers().clone(), body: test::read_body(res).await.to_vec() }
    }
    async fn get(&self, path: &str) -> Answer {
        self.send(Method::GET, path, &[], vec![]).await
    }
    async fn change(&self, method: Method, path: &str, body: &Value) -> Answer {
        let id = Uuid::new_v4().to_string();
        self.send(method, path, &[("idempotency-key", &id), ("content-type", "application/json")], body.to_string().into_bytes()).await
    }
    async fn bytes(&self, path: &str, body: Vec<u8>) -> Answer {
        let id = Uuid::new_v4().to_string();
        self.send(Method::POST, path, &[("idempotency-key", &id)], body).await
    }
    async fn start_job(&self) -> Answer {
        self.change(
            Method::PUT,
            &format!("/api/jobs/{JOB}"),
            &json!({ "base": null, "body": { "name": "Heron Boathouse", "brief": { "front_faces": 200 } } }),
        )
        .await
    }
    async fn line(&self, line: &str) -> Answer {
        let body = json!({ "line": line, "place": { "face": "rear", "zone": "edge" } });
        self.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &body).await
    }
    async fn picture(&self, bytes: Vec<u8>) -> Answer {
        self.bytes(&format!("/api/jobs/{JOB}/pictures?name=a.jpg"), bytes).await
    }
    async fn view(&self) -> Value {
        self.get(&format!("/api/jobs/{JOB}")).await.json()
    }
}

async fn bench() -> Bench {
    let b = Bench::new();
    assert_eq!(b.start_job().await.status, 200);
    b
}

fn jpeg(width: u32, height: u32) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    RgbImage::from_fn(width, height, |x, _| Rgb([x as u8, 90, 40])).write_to(&mut out, ImageFormat::Jpeg).unwrap();
    out.into_inner()
}

/// A picture as a phone writes it: turned, with time, heading and place on earth.
fn phone_picture() -> Vec<u8> {
    let field = |tag, value| Field { tag, ifd_num: In::PRIMARY, value };
    let degrees =
        |d: u32| ExifValue::Rational(vec![Rational { num: d, denom: 1 }, Rational { num: 0, denom: 1 }, Rational { num: 0, denom: 1 }]);
    let fields = [
        field(Tag::Orientation, ExifValue::Short(vec![6])),
        field(Tag::DateTimeOriginal, ExifValue::Ascii(vec![b"2026:11:18 10:31:00".to_vec()])),
        field(Tag::GPSImgDirection, ExifValue::Rational(vec![Rational { num: 20, denom: 1 }])),
        field(Tag::GPSLatitudeRef, ExifValue::Ascii(vec![b"N".to_vec()])),
        field(Tag::GPSLatitude, degrees(12)),
    ];
    let mut writer = Writer::new();
    fields.iter().for_each(|f| writer.push_field(f));
    let mut exif = Cursor::new(Vec::new());
    writer.write(&mut exif, false).unwrap();
    let mut picture = Jpeg::from_bytes(jpeg(60, 40).into()).unwrap();
    picture.set_exif(Some(exif.into_inner().into()));
    picture.encoder().bytes().to_vec()
}

fn exif_of(bytes: &[u8]) -> Option<exif::Exif> {
    exif::Reader::new().read_from_container(&mut Cursor::new(bytes)).ok()
}

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

#[actix_web::test]
async fn a_phone_picture_is_turned_read_and_stripped() {
    let b = bench().await;
    let p = b.picture(phone_picture()).await.json()["picture"]["body"].clone();
    assert_eq!((&p["width"], &p["height"]), (&json!(40), &json!(60)), "a picture marked as turned is put upright");
    assert_eq!((&p["taken_at"], &p["heading"], &p["proposed_face"]), (&json!("2026-11-18T10:31:00"), &json!(20.0), &json!("front")));
    assert_eq!(p["has_location"], true);
    let id = b.view().await["pictures"][0]["id"].as_str().unwrap().to_owned();
    for copy in ["display", "thumb"] {
        assert!(exif_of(&b.get(&format!("/api/jobs/{JOB}/pictures/{id}/{copy}")).await.body).is_none(), "{copy} carries metadata");
    }
    let original = b.get(&format!("/api/jobs/{JOB}/pictures/{id}/original")).await.body;
    let exif = exif_of(&original).unwrap();
    assert!(exif.get_field(Tag::GPSLatitude, In::PRIMARY).is_none());
    assert_eq!(exif.get_field(Tag::Orientation, In::PRIMARY).and_then(|f| f.value.get_uint(0)), Some(6));
}

#[actix_web::test]
async fn location_leaves_with_a_bundle_only_when_the_brief_keeps_it() {
    for keep in [false, true] {
        let b = bench().await;
        let body = json!({ "base": 1, "body": { "name": "Heron", "brief": { "keep_location": keep } } });
        assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &body).await.status, 200);
        assert_eq!(b.picture(phone_picture()).await.status, 200);
        let zip = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
        let mut archive = zip::ZipArchive::new(Cursor::new(&zip)).unwrap();
        let mut located = 0;
        for i in 0..archive.len() {
            let mut bytes = Vec::new();
            std::io::copy(&mut archive.by_index(i).unwrap(), &mut bytes).unwrap();
            located += usize::from(exif_of(&bytes).is_some_and(|e| e.get_field(Tag::GPSLatitude, In::PRIMARY).is_some()));
        }
        assert_eq!(located, usize::from(keep));
        // and it reads back in
        let other = Bench::new();
        assert_eq!(other.bytes("/api/bundles", zip).await.status, 200);
    }
}

#[actix_web::test]
async fn hostile_pictures_are_refused_and_nothing_is_kept() {
    let b = bench().await;
    let mut cut = jpeg(400, 300);
    cut.truncate(cut.len() / 3);
    // A PNG that claims 60000 x 60000 pixels in a few bytes.
    let mut bomb = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR".to_vec();
    bomb.extend([0, 0, 0xEA, 0x60, 0, 0, 0xEA, 0x60, 8, 2, 0, 0, 0]);
    bomb.extend(crc(&bomb[12..]).to_be_bytes());
    bomb.extend(b"\0\0\0\x01IDAT\0");
    bomb.extend(crc(b"IDAT\0").to_be_bytes());
    bomb.extend(b"\0\0\0\0IEND\xaeB`\x82");
    for (name, bytes, expected) in [
        ("text", b"hello".to_vec(), (422, "picture")),
        ("nothing", vec![], (422, "picture")),
        ("a page", b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec(), (422, "picture")),
        ("cut short", cut, (422, "picture")),
        ("a bomb", bomb, (413, "too-large")),
        ("noise after a true beginning", [&b"\xff\xd8\xff\xe0"[..], &[7; 300]].concat(), (422, "picture")),
    ] {
        let (status, code, _) = b.picture(bytes).await.fault();
        assert_eq!((status, code.as_str()), expected, "{name}");
    }
    let small = Bench::with(Limits { picture_bytes: 1000, ..Limits::default() }, vec![]);
    small.start_job().await;
    assert_eq!(small.picture(jpeg(200, 200)).await.fault().1, "too-large");
    assert!(b.view().await["pictures"].as_array().unwrap().is_empty());
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
async fn pictures_are_cached_by_content() {
    let b = bench().await;
    b.picture(jpeg(80, 60)).await;
    let id = b.view().await["pictures"][0]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/jobs/{JOB}/pictures/{id}/thumb");
    let first = b.get(&path).await;
    let tag = first.headers.get("etag").unwrap().to_str().unwrap().to_owned();
    let again = b.send(Method::GET, &path, &[("if-none-match", &tag)], vec![]).await;
    assert_eq!((first.status, again.status, again.body.len()), (200, 304, 0));
}

#[actix_web::test]
async fn calculations_answer_as_on_the_command_line() {
    let b = Bench::new();
    let input = json!({ "text": "6 1/2 in" });
    let over_http =
        b.send(Method::POST, "/api/calc/measure", &[("content-type", "application/json")], input.to_string().into_bytes()).await.json();
    let on_line: Value = serde_json::from_str(&envelope::calc::run("measure", &input.to_string()).unwrap()).unwrap();
    assert_eq!(over_http, on_line);
    let bad = b.send(Method::POST, "/api/calc/measure", &[("content-type", "application/json")], b"{\"text\":\"blue\"}".to_vec()).await;
    assert_eq!(bad.fault().0, 422);
}

#[::core::prelude::v1::test]
fn every_code_has_its_status() {
    use crate::{ApiError, Code};
    use actix_web::ResponseError;
    let all = [
        (Code::BadRequest, 422),
        (Code::Invalid, 422),
        (Code::NotFound, 404),
        (Code::Stale, 409),
        (Code::Conflict, 409),
        (Code::TooLarge, 413),
        (Code::Picture, 422),
        (Code::Bundle, 422),
        (Code::OtherOrigin, 403),
        (Code::DiskFull, 507),
        (Code::Internal, 500),
    ];
    for (code, status) in all {
        assert_eq!(ApiError::new(code, "x").status_code(), StatusCode::from_u16(status).unwrap());
    }
}

#[::core::prelude::v1::test]
fn the_description_is_whole() {
    let d = serde_json::to_value(crate::openapi()).unwrap();
    let mut ids = Vec::new();
    for (path, methods) in d["paths"].as_object().unwrap() {
        for (method, op) in methods.as_object().unwrap() {
            ids.push(op["operationId"].as_str().unwrap().to_owned());
            assert!(
                op["summary"].as_str().or(op["description"].as_str()).is_some_and(|s| s.len() > 8),
                "{method} {path} does not say what it does"
            );
        }
    }
    let all = ids.len();
    ids.sort();
    ids.dedup();
    assert_eq!(ids.len(), all, "an operation id stands twice");
}

#[::core::prelude::v1::test]
fn the_bundle_schema_leads_nowhere_outside_itself() {
    let schema: Value = serde_json::from_str(&crate::bundle_schema()).unwrap();
    fn walk(v: &Value, defs: &serde_json::Map<String, Value>) {
        match v {
            Value::Object(m) => {
                if let Some(r) = m.get("$ref").and_then(Value::as_str) {
                    let name = r.strip_prefix("#/$defs/").unwrap_or_else(|| panic!("{r} leads outside"));
                    assert!(defs.contains_key(name), "{name} is not described");
                }
                m.values().for_each(|v| walk(v, defs));
            }
            Value::Array(l) => l.iter().for_each(|v| walk(v, defs)),
            _ => {}
        }
    }
    walk(&schema, schema["$defs"].as_object().unwrap());
    assert!(schema["$defs"]["Bundle"]["properties"]["notes"].is_object());
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
async fn a_picture_of_a_detail_is_no_loose_one() {
    let b = bench().await;
    let id = b.picture(phone_picture()).await.json()["picture"]["id"].as_str().unwrap().to_owned();
    let loose = || async { b.app.case_in_background(JOB.into()).await.unwrap().view().loose_pictures().count() };
    assert_eq!(loose().await, 1);
    let detail = json!({ "id": "L1", "template": "window", "face": "rear", "at": "W2", "faults": ["head-reversed"], "pictures": [id] });
    let put = json!({ "base": null, "body": { "details": [detail] } });
    assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}/walls"), &put).await.status, 200);
    let pdf = b.get(&format!("/api/jobs/{JOB}/report.pdf")).await;
    assert_eq!(pdf.status, 200);
    assert_eq!(loose().await, 0);
}

#[actix_web::test]
async fn a_picture_is_kept_once_marked_and_sorted() {
    let b = bench().await;
    let first = b.picture(phone_picture()).await.json();
    assert_eq!((first["duplicate"].as_bool(), first["proposal"]["face"].as_str()), (Some(false), Some("front")));
    let second = b.picture(phone_picture()).await.json();
    assert_eq!((second["duplicate"].as_bool(), &second["picture"]["id"]), (Some(true), &first["picture"]["id"]));
    assert_eq!(b.view().await["pictures"].as_array().map(Vec::len), Some(1));
    let id = first["picture"]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/jobs/{JOB}/pictures/{id}");
    let keep = async |marks: Value| {
        b.change(Method::PUT, &path, &json!({ "base": 1, "body": { "caption": "c", "marks": marks, "range": "close" } })).await
    };
    let ring = json!({ "shape": "ring", "from": [0.2, 0.2], "to": [0.6, 0.6] });
    assert_eq!(keep(json!([{ "shape": "ring", "from": [0.2, 0.2], "to": [1.6, 0.6] }])).await.fault().2, "marks");
    assert_eq!(keep(json!([{ "shape": "line", "from": [0.2, 0.2], "to": [0.6, 0.6], "text": "5 %" }])).await.fault().2, "marks");
    assert_eq!(keep(json!([ring])).await.status, 200);
    let kept = b.view().await["pictures"][0]["body"].clone();
    assert_eq!((kept["marks"][0]["shape"].as_str(), kept["range"].as_str()), (Some("ring"), Some("close")));
    // The original stays as it came.
    assert_eq!(kept["original"], first["picture"]["body"]["original"]);
    assert_eq!(b.get(&format!("/api/jobs/{JOB}/report.pdf")).await.status, 200);
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

fn measured() -> Value {
    json!({ "perimeter": "12 L 8 L 12 L 8", "masses": [
        { "id": "A", "name": "main", "length": "12 m", "depth": "8 m", "form": "hip", "pitch": { "how": "typed", "text": "6:12" }, "eave": "2.7 m", "overhang": "0.5", "covering": "asphalt-laminated" },
        { "id": "B", "name": "wing", "length": "16 ft", "depth": "4 m", "form": "gable", "ridge": "front-to-rear", "pitch": { "how": "typed", "text": "6:12" }, "eave": "2.7 m", "overhang": "0.5", "covering": "asphalt-laminated",
          "against": { "mass": "A", "face": "rear", "from_left": "3 m", "runs_on": true } }
    ] })
}

#[actix_web::test]
async fn a_roof_is_measured_answered_and_taken_back() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    let empty = b.get(&roof).await.json();
    assert!(empty["rev"].is_null() && empty["plan"].is_null());
    assert_eq!(b.get(&format!("{roof}.dxf")).await.fault().0, 404);
    let kept = b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await.json();
    assert_eq!(kept["rev"], 1);
    let page = b.get(&roof).await.json();
    assert!(page["plan"].as_str().unwrap().starts_with("<svg") && page["elevations"].as_array().unwrap().len() == 4);
    let key = page["account"]["details"].as_array().unwrap().iter().find(|d| d["kind"] == "valley-lining").unwrap()["key"].clone();
    let expected =
        |v: &Value| v["expectations"].as_array().unwrap().iter().filter(|e| e["key"].as_str().unwrap().starts_with("roof ")).count();
    assert_eq!(
        expected(&b.view().await),
        page["account"]["details"].as_array().unwrap().len(),
        "what the shape asks for is counted on the round"
    );

    // Wrong: the answer and its note come and go together.
    let answers = format!("{roof}/answers");
    let wrong = json!({ "base": 1, "key": key, "answer": { "found": "wrong", "condition": "valley-lining-open" } });
    assert_eq!(b.change(Method::POST, &answers, &wrong).await.status, 200);
    let v = b.view().await;
    assert_eq!(
        (v["notes"][0]["body"]["condition"].as_str(), v["notes"][0]["body"]["place"]["face"].as_str()),
        (Some("valley-lining-open"), Some("rear"))
    );
    assert_eq!(b.change(Method::POST, &answers, &wrong).await.fault().0, 409, "an older revision");
    let other = json!({ "base": 2, "key": "valley-lining:X/Y", "answer": { "found": "right" } });
    assert_eq!(b.change(Method::POST, &answers, &other).await.fault().2, "key");
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    let v = b.view().await;
    assert_eq!(v["notes"], json!([]));
    assert_eq!(v["roof"]["answers"], json!({}), "no answer is left");

    // What cannot be is refused and changes nothing.
    let mut bad = measured();
    bad["masses"][0]["length"] = json!("twelve");
    assert_eq!(b.change(Method::PUT, &roof, &json!({ "base": 3, "body": bad })).await.fault().2, "masses.A.length");
    assert_eq!(b.get(&roof).await.json()["roof"]["masses"][0]["length"], "12 m");
}

#[actix_web::test]
async fn a_roof_leaves_as_open_files_and_comes_back() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await;
    assert!(String::from_utf8(b.get(&format!("{roof}.svg")).await.body).unwrap().contains("#1B2329"), "a file knows its own colours");
    let geo = b.get(&format!("{roof}.geojson")).await.body;
    let back = b.bytes(&format!("{roof}/geojson"), geo).await.json();
    assert_eq!(back["masses"], b.get(&roof).await.json()["roof"]["masses"]);
    for bad in ["{", r#"{"type":"FeatureCollection","features":[]}"#] {
        assert_eq!(b.bytes(&format!("{roof}/geojson"), bad.into()).await.fault().2, "file");
    }
    assert_eq!(b.get(&format!("{roof}.dxf")).await.status, 200);
    // The bundle brings the roof along.
    let zip = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let job = b.view().await["job"].clone();
    b.change(Method::DELETE, &format!("/api/jobs/{JOB}?base={}", job["rev"]), &json!({})).await;
    assert_eq!(b.bytes("/api/bundles", zip).await.status, 200);
    assert_eq!(b.get(&roof).await.json()["roof"]["perimeter"], "12 L 8 L 12 L 8");
}

#[actix_web::test]
async fn the_records_office_says_that_it_is_simulated() {
    let b = bench().await;
    let ask = format!("/api/jobs/{JOB}/roof/records");
    assert_eq!(b.get(&ask).await.json()["outcome"], "unknown-address");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "address": "14 Tannery Lane, Ostermoor" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    let found = b.get(&ask).await.json();
    assert_eq!((found["simulated"].as_bool(), found["permits"].as_array().map(Vec::len)), (Some(true), Some(3)));
    assert_eq!(b.get("/api/wear?covering=wood-shake&sign=moss&grade=9").await.fault().0, 422);
    assert!(b.get("/api/wear?covering=wood-shake&sign=moss&grade=3").await.json().as_str().unwrap().contains("cushions"));
}

#[actix_web::test]
async fn gutters_are_hung_looked_at_and_taken_back() {
    let b = bench().await;
    let rain = format!("/api/jobs/{JOB}/rainwater");
    assert!(b.get(&rain).await.json()["plan"].is_null(), "no roof, no water");
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    let body = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [{ "id": "G1", "eave": "A.-v#1", "form": "half-round", "width": "125 mm",
        "levels": "0 0, 12 40 mm", "outlets": [{ "from_left": "12 m", "bore": "80 mm" }] }] });
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": null, "body": body })).await.status, 200);
    let page = b.get(&rain).await.json();
    let run = |p: &Value, key: &str| p["account"]["gutters"][0]["run"][key].as_f64().unwrap();
    assert!(run(&page, "in_l_s") > 0.5 && page["sections"][0].as_str().unwrap().contains("Long section"));
    assert!(page["plan"].as_str().unwrap().contains("data-west"));
    let burst = b.get(&format!("{rain}?at=900")).await.json();
    assert!(run(&burst, "spilt_l_s") > run(&page, "spilt_l_s"));
    assert_eq!(b.get(&format!("{rain}?at=-3")).await.fault().2, "at");
    // Trying keeps nothing; what cannot hang is refused and changes nothing.
    let mut other = body.clone();
    other["gutters"][0]["width"] = json!("200 mm");
    let tried = b.change(Method::POST, &format!("{rain}/try"), &other).await.json();
    assert!(run(&tried, "rim_m") > run(&page, "rim_m"));
    other["gutters"][0]["outlets"][0]["from_left"] = json!("20 m");
    assert!(b.change(Method::PUT, &rain, &json!({ "base": 1, "body": other })).await.fault().2.starts_with("gutters.G1"));
    assert_eq!(b.get(&rain).await.json()["rainwater"]["gutters"][0]["width"], "125 mm");
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.get(&rain).await.json()["rainwater"]["gutters"], json!([]));
    assert_eq!(b.get(&format!("{rain}/weather")).await.json()["simulated"], true);
}

#[actix_web::test]
async fn a_flat_roof_is_kept_drawn_and_refused_where_it_cannot_be() {
    let b = bench().await;
    let (roof, rain) = (format!("/api/jobs/{JOB}/roof"), format!("/api/jobs/{JOB}/rainwater"));
    let mut masses = measured();
    masses["masses"][1] = json!({ "id": "B", "name": "shop", "length": "5 m", "depth": "4 m", "form": "flat", "eave": "2.4 m", "overhang": "0",
        "against": { "mass": "A", "face": "rear", "from_left": "3 m" } });
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": masses })).await;
    assert_eq!(b.get(&rain).await.json()["flat_masses"], json!([{ "mass": "B", "name": "shop" }]));
    let scupper = json!({ "kind": "scupper", "face": "rear", "from_left": "2 m", "size": "200 x 100 mm", "distance": "1 m" });
    let flat = json!({ "mass": "B", "parapets": { "rear": "10 in", "left": "10 in", "right": "10 in" }, "outlets": [scupper] });
    let body = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "flats": [flat] });
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": null, "body": body })).await.status, 200);
    let page = b.get(&rain).await.json();
    let a = &page["account"]["flats"][0];
    assert!(a["rain"]["depth_m"].as_f64().unwrap() > 0.01 && a["problem"].is_null(), "{a}");
    assert!((a["blocked"]["depth_m"].as_f64().unwrap() - 0.254).abs() < 1e-3, "it fills to its parapet: {}", a["blocked"]);
    for drawn in ["rain", "blocked", "after", "hour"] {
        assert!(page["flats"][0][drawn].as_str().unwrap().starts_with("<svg"), "{drawn}");
    }
    // A scupper that is not on the roof is refused at its field, and what was kept stays.
    let mut off = body.clone();
    off["flats"][0]["outlets"][0]["from_left"] = json!("9 m");
    let fault = b.change(Method::PUT, &rain, &json!({ "base": 1, "body": off })).await.fault();
    assert_eq!((fault.0, fault.2.as_str()), (422, "flats.B.mass"));
    off["flats"][0]["outlets"][0]["from_left"] = json!("left of the pipe");
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": 1, "body": off })).await.fault().2, "flats.B.outlets.0.from_left");
    assert_eq!(b.get(&rain).await.json()["rainwater"]["flats"][0]["outlets"][0]["from_left"], "2 m");
    // The report prints it.
    let pdf = b.get(&format!("/api/jobs/{JOB}/report.pdf")).await;
    assert_eq!(pdf.status, 200);
    assert!(pdf.body.starts_with(b"%PDF"));
}

/// A front yard that tips to the house, closed in by higher ground.
fn yard() -> Value {
    let spot = |id: &str, along: f64, out: f64, mm: f64| json!({ "id": id, "at": { "face": "front", "along": format!("{along:.2} m"), "out": format!("{out:.2} m") }, "height": format!("{mm:.0} mm") });
    let mut spots = Vec::new();
    for (c, along) in [-1.5, 2.0, 6.0, 10.0, 13.5].into_iter().enumerate() {
        for (r, (out, mm)) in [(0.0, -200.0), (1.5, -190.0), (3.1, -150.0), (4.0, -100.0)].into_iter().enumerate() {
            // The ends are banked up.
            spots.push(spot(&format!("P{c}{r}"), along, out, if c % 4 == 0 { -100.0 } else { mm }));
        }
    }
    json!({ "spots": spots, "soil": "clay", "cladding": [{ "face": "front", "bottom": "-120 mm" }] })
}

/// The messages of an event stream.
fn messages(body: &[u8]) -> Vec<Value> {
    String::from_utf8_lossy(body).split("\n\n").filter_map(|m| serde_json::from_str(m.strip_prefix("data: ")?).ok()).collect()
}

#[actix_web::test]
async fn the_ground_is_read_stormed_changed_and_taken_back() {
    let b = bench().await;
    let ground = format!("/api/jobs/{JOB}/ground");
    assert!(b.get(&ground).await.json()["plan"].is_null(), "nothing was read");
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    let failed = messages(&b.get(&format!("{ground}/rain-test")).await.body);
    assert!(
        failed.len() == 1 && failed[0]["is"] == "failed" && failed[0]["message"].as_str().unwrap().contains("three heights"),
        "{failed:?}"
    );
    b.change(
        Method::PUT,
        &format!("/api/jobs/{JOB}/rainwater"),
        &json!({ "base": null, "body": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 } } }),
    )
    .await;
    assert_eq!(b.change(Method::PUT, &ground, &json!({ "base": null, "body": yard() })).await.status, 200);
    let page = b.get(&ground).await.json();
    assert_eq!(
        (page["storms"].clone(), page["account"]["transects"].as_array().unwrap().len(), page["profiles"].as_array().unwrap().len()),
        (json!([10.0]), 5, 5)
    );
    assert!(page["plan"].as_str().unwrap().contains("data-pond=\"A\""), "{}", page["account"]["ponds"]);
    // The storm comes step by step, and the last message is the whole.
    let storm = messages(&b.get(&format!("{ground}/rain-test?years=10")).await.body);
    let (steps, done) = storm.split_at(storm.len() - 1);
    assert!(steps.len() > 12 && steps.iter().all(|s| s["is"] == "step") && done[0]["is"] == "done");
    let wet = done[0]["wet"][0].clone();
    assert!(wet["sentence"].as_str().unwrap().contains("against") && wet["walls"][0]["face"] == "front", "{wet}");
    let mend = b.get(&format!("{ground}/mending")).await.json();
    assert_eq!(mend[0]["remedies"].as_array().unwrap().last().unwrap()["stage"], "barrier");
    assert_eq!(b.get(&format!("{ground}/mending?years=37")).await.fault().2, "years");
    // A point: what drains through it, or that nothing is known there.
    let near = b.get(&format!("{ground}?x=5.3&y=-3")).await.json();
    assert!(near["point"].as_str().unwrap().contains("m² drain through this point"), "{}", near["point"]);
    assert!(b.get(&format!("{ground}?x=6&y=80")).await.json()["point"].as_str().unwrap().contains("not known"));
    // A change is tried and compared; nothing of it is kept.
    let mut better = yard();
    better["nearby"] = json!([{ "id": "D1", "kind": "drain", "at": { "face": "front", "along": "6 m", "out": "0.3 m" } }]);
    let tried = b.change(Method::POST, &format!("{ground}/try"), &json!({ "ground": better })).await.json();
    assert!(tried["sentence"].as_str().unwrap().contains("; after, 0 L."), "{}", tried["sentence"]);
    assert_eq!(b.get(&ground).await.json()["ground"]["nearby"], json!([]));
    let mut bad = yard();
    bad["spots"][0]["height"] = json!("-22000 mm and so on");
    let fault = b.change(Method::PUT, &ground, &json!({ "base": 1, "body": bad })).await.fault();
    assert_eq!((fault.0, fault.2.as_str()), (422, "spots.P00.height"));
    // Out as files and in again; what is wrong is named by its line.
    let csv = b.get(&format!("{ground}.csv")).await.body;
    let back = b.bytes(&format!("{ground}/readings?form=csv"), csv).await.json();
    assert_eq!((back["rows"].as_u64(), back["bad_rows"].as_u64()), (Some(20), Some(0)));
    let geo = b.get(&format!("{ground}.geojson")).await.body;
    assert_eq!(b.bytes(&format!("{ground}/readings?form=geojson"), geo).await.json()["spots"].as_array().unwrap().len(), 20);
    let odd = "name,x,y,z\nA,1,2,-0.2\nB,one,2,-0.2\nC,3,2\nD,4,2,-44\n";
    let read = b.bytes(&format!("{ground}/readings?form=csv"), odd.into()).await.json();
    let lines: Vec<u64> = read["bad"].as_array().unwrap().iter().map(|r| r["line"].as_u64().unwrap()).collect();
    assert_eq!((lines, read["spots"][0]["id"].as_str()), (vec![3, 4, 5], Some("A")));
    assert!(
        b.bytes(&format!("{ground}/readings?form=csv"), "a,b\n1,2\n".into()).await.json()["message"]
            .as_str()
            .unwrap()
            .contains("No column is the")
    );
    assert_eq!(b.bytes(&format!("{ground}/readings?form=geojson"), "{".into()).await.status, 422);
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.get(&ground).await.json()["ground"]["spots"], json!([]));
}

#[actix_web::test]
async fn the_altimeter_is_zeroed_read_live_and_says_that_it_is_simulated() {
    let b = bench().await;
    let hose = format!("/api/jobs/{JOB}/altimeter");
    assert!(b.get(&format!("{hose}?along=1&out=-1")).await.json()["message"].as_str().unwrap().contains("Zero the altimeter"));
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/ground"), &json!({ "base": null, "body": yard() })).await;
    assert_eq!(b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "nowhere" })).await.fault().2, "spot");
    let first = b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "P10" })).await.json();
    assert!(first["drift_mm"].is_null() && first["simulated"] == true);
    let again = b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "P10" })).await.json();
    assert!(again["drift_mm"].as_f64().unwrap().abs() < 2.0 && again["words"].as_str().unwrap().starts_with("Back on P10"));
    assert_eq!(b.get(&format!("{hose}?along=4000&out=0")).await.fault().2, "along");
    // The stick, from the same ground: 10 mm up over 1.5 m.
    let stick = format!("/api/jobs/{JOB}/slope-stick");
    let shows = b.get(&format!("{stick}?spot=P10&length=1.2")).await.json();
    assert!(
        (shows["percent"].as_f64().unwrap() + 0.7).abs() < 0.25
            && shows["simulated"] == true
            && shows["words"].as_str().unwrap().contains("back to the wall"),
        "{shows}"
    );
    assert_eq!(b.get(&format!("{stick}?spot=P10&length=40")).await.fault().2, "length");
    assert_eq!(b.get(&format!("{stick}?spot=nowhere&length=1")).await.fault().2, "spot");
}

/// Every calculation of the command line answers over HTTP with the same JSON; a new one without a route fails here.
/// What the description says is there and is not: properties that are required, or have a default and so are typed as always there.
fn absent(v: &Value, schema: &Value, all: &Value, at: &str, out: &mut Vec<String>) {
    let schema = match schema["$ref"].as_str() {
        Some(name) => &all[name.rsplit('/').next().unwrap()],
        None => schema,
    };
    for part in schema["allOf"].as_array().into_iter().flatten() {
        absent(v, part, all, at, out);
    }
    if let Some(object) = v.as_object() {
        for (name, property) in schema["properties"].as_object().into_iter().flatten() {
            let required = schema["required"].as_array().is_some_and(|r| r.iter().any(|n| n == name));
            // An option that is left out reads as one that is null.
            let nullable = property["type"].as_array().is_some_and(|t| t.iter().any(|t| t == "null")) || property["oneOf"].is_array();
            match object.get(name) {
                Some(v) => absent(v, property, all, &format!("{at}.{name}"), out),
                None if required || property.get("default").is_some() && !nullable => out.push(format!("{at}.{name}")),
                None => {}
            }
        }
        if schema["additionalProperties"].is_object() {
            object.values().for_each(|v| absent(v, &schema["additionalProperties"], all, &format!("{at}.*"), out));
        }
    }
    for v in v.as_array().into_iter().flatten() {
        absent(v, &schema["items"], all, &format!("{at}[]"), out);
    }
}

/// The page is typed by the description: what it calls always there must be sent, or a bench breaks on it.
#[actix_web::test]
async fn what_the_description_calls_always_there_is_always_sent() {
    let b = bench().await;
    let described: Value = serde_json::to_value(crate::openapi()).unwrap();
    let gutter = json!({ "id": "G1", "eave": "A.+v#1", "width": "100 mm", "outlets": [{ "from_left": "0 m", "bore": "75 mm" }] });
    let rainwater = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [gutter] });
    let walls = json!({ "details": [{ "id": "L1", "template": "window", "face": "front" }], "masonry": [{ "id": "M1", "face": "front", "length": "4 m" }],
        "fasteners": [{ "id": "F1", "face": "left", "counted": 3, "overdriven": 1 }], "signs": [{ "id": "S1", "face": "left", "kind": "door-binds" }],
        "cracks": [{ "id": "C1", "face": "rear", "pattern": "map", "from_x": "1 m", "from_z": "0 m", "to_x": "2 m", "to_z": "1 m" }] });
    let at = |along: &str| json!({ "room": "K1", "part": "wall", "wall": 1, "along": along, "up": "0.1 m" });
    let wall = || json!({ "length": "3 m" });
    let read =
        |id: &str, along: &str, value: f64, dry: bool, on: &str| json!({ "id": id, "at": at(along), "value": value, "dry": dry, "on": on });
    let moisture = json!({ "rooms": [{ "id": "K1", "name": "kitchen", "height": "2.5 m", "walls": [wall(), wall(), wall(), wall()] }],
        "readings": [read("P1", "1 m", 28.0, false, "2026-11-18"), read("P2", "2 m", 9.0, true, "2026-11-18"), read("P3", "2.5 m", 10.0, true, "2026-11-18"),
            read("P4", "2.8 m", 9.5, true, "2026-11-18"), read("P5", "1 m", 27.0, false, "2026-11-10")],
        "air": [{ "id": "A1", "room": "K1", "t_c": 20.0, "rh_pct": 50.0, "surface_c": 15.0, "on": "2026-11-18" }],
        "heat": [{ "id": "T1", "at": at("0 m"), "cell_m": 0.1, "grid": [[18.0, 18.0, 18.0], [18.0, 18.1, 18.0], [18.0, 18.0, 18.0]],
            "conditions": { "inside_c": 20.0, "outside_c": 4.0 }, "on": "2026-11-18" }] });
    let trace = json!({ "spots": [{ "id": "S1", "name": "damp", "at": at("1 m"), "shows": "skirting" }], "seen": [{ "id": "W1", "spot": "S1", "at": "2026-11-18T10:00", "state": "wet" }] });
    let square = json!({ "id": "Q1", "slope": "A.-v", "seed": 4, "wide": "1 m", "high": "1 m", "counted": true, "hits": [{ "id": "h1", "x": 0.5, "y": 0.5, "size": "20 mm" }] });
    let storm = json!({ "squares": [square], "soft": [{ "id": "M1", "face": "rear", "what": "gutter", "count": 3, "largest": "9 mm", "fresh": "fresh" }],
        "seen": [{ "id": "A.-v", "how": "hand" }], "wind": [{ "id": "W1", "slope": "A.-v", "part": "edge", "units": 20, "creased": 3, "from_deg": 200.0 }, { "id": "W2", "slope": "A.-v", "part": "field", "units": 20 }],
        "seals": [{ "id": "S1", "slope": "A.-v", "tried": 4, "failed": 1 }], "lifts": [{ "id": "L1", "slope": "A.-v", "tried": 4, "failed": 1 }],
        "events": [{ "id": "E1", "on": "2026-06-12", "hail_mm": 25.0, "gust_m_s": 20.0, "from_deg": 200.0, "km": 2.0 }],
        "costs": { "repair_per_hit": 20.0, "repair_fixed": 100.0, "replace_per_square": 400.0, "difficulty": 1.0 } });
    for (page, body) in [
        ("roof", measured()),
        ("rainwater", rainwater),
        ("ground", yard()),
        ("walls", walls),
        ("moisture", moisture),
        ("trace", trace),
        ("storm", storm),
    ] {
        b.change(Method::PUT, &format!("/api/jobs/{JOB}/{page}"), &json!({ "base": null, "body": body })).await;
    }
    for page in ["", "/roof", "/rainwater", "/ground", "/walls", "/moisture", "/trace", "/storm"] {
        let answer = b.get(&format!("/api/jobs/{JOB}{page}")).await.json();
        let described_as =
            &described["paths"][format!("/jobs/{{job}}{page}")]["get"]["responses"]["200"]["content"]["application/json"]["schema"];
        assert!(described_as.is_object(), "{page} is described");
        let mut out = Vec::new();
        absent(&answer, described_as, &described["components"]["schemas"], page, &mut out);
        assert_eq!(out, Vec::<String>::new(), "{page}: typed as always there, and not sent");
    }
}

/// A form is known by its name alone: two of one name would silently be one of them.
#[actix_web::test]
async fn no_two_forms_share_a_name() {
    let (mut met, mut twice) = (std::collections::BTreeMap::new(), std::collections::BTreeSet::new());
    for c in envelope::calc::CALCS {
        for (name, schema) in (c.describe)().schemas {
            let form = serde_json::to_value(&schema).unwrap();
            let before = met.insert(name.clone(), form.clone());
            if before.is_some_and(|b| b != form) {
                twice.insert(name);
            }
        }
    }
    assert!(met.len() > 100 && twice.is_empty(), "two forms are called {twice:?}");
}

#[actix_web::test]
async fn the_command_line_and_http_say_the_same() {
    let b = bench().await;
    let masses = json!({ "masses": [{ "id": "A", "centre_m": [6, 4], "len_u_m": 12, "len_v_m": 8, "eave_height_m": 2.7, "pitch": 0.5, "overhang_m": 0.5, "form": "hip" }] });
    let channel = json!({ "shape": "rect", "width_m": 0.125, "depth_m": 0.1, "length_m": 9.0, "slope": 0.0, "manning_n": 0.012, "catchment_width_m": 6.0, "rain_mm_h": 125 });
    let run = json!({ "section": { "shape": "half_round", "diameter_m": 0.125 }, "length_m": 8.0, "levels": [[0.0, 0.0]], "manning_n": 0.012,
        "outlets": [{ "x_m": 8.0, "shape": "round", "diameter_mm": 75.0 }], "along": [{ "from_m": 0.0, "to_m": 8.0, "width_from_m": 4.0, "width_to_m": 4.0 }], "rain_mm_h": 100.0 });
    let samples: Vec<(&str, Value)> = vec![
        ("measure", json!({ "text": "6 1/2 in" })),
        ("note", json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" } })),
        ("round", json!({ "walk": "WEBVTT\n\n00:02.000 --> 00:04.000\nNow the rear. Torn boot.\n" })),
        (
            "traverse",
            json!({ "walls": [{ "length_m": 18.0, "turn_after_deg": 90.0 }, { "length_m": 9.0, "turn_after_deg": 90.0 }, { "length_m": 18.0, "turn_after_deg": 90.0 }, { "length_m": 9.0, "turn_after_deg": 90.0 }] }),
        ),
        ("roof", masses.clone()),
        ("pitch", json!({ "how": "level-and-stick", "level": "24 in", "drop": "12 in" })),
        ("access", json!({ "pitch": 0.5, "covering": "slate", "eave_m": 2.7 })),
        ("roof-account", json!({ "roof": measured(), "today": "2026-11-23" })),
        ("life", json!({ "median_life_years": 24.0, "age_evidence": [{ "kind": "permit", "elapsed_years": 13.0 }] })),
        ("rain", json!({ "i5_mm_h": 132.0, "i60_mm_h": 34.0 })),
        (
            "laps",
            json!({ "x0": 0, "x1": 1, "top": 2, "bottom": 0, "pieces": [{ "id": "a", "kind": "barrier", "x0": 0, "x1": 1, "z0": 0, "z1": 1.05 }, { "id": "b", "kind": "barrier", "x0": 0, "x1": 1, "z0": 0.97, "z1": 2 }], "over": [{ "outer": "b", "inner": "a" }] }),
        ),
        ("walls", json!({ "walls": { "details": [{ "id": "L1", "template": "window", "face": "front", "faults": ["head-reversed"] }] } })),
        ("air", json!({ "t_c": 20.0, "rh_pct": 50.0, "surface_c": 12.0, "out_c": 2.0 })),
        ("wood-reading", json!({ "reading_pct": 16.0, "t_c": 5.0 })),
        (
            "moisture-map",
            json!({ "references": [10.0, 10.5, 9.8], "step": 0.5, "readings": [{ "x_m": 0.0, "y_m": 0.0, "value": 10.0 }, { "x_m": 1.0, "y_m": 0.0, "value": 20.0 }, { "x_m": 0.0, "y_m": 1.0, "value": 14.0 }] }),
        ),
        (
            "drying",
            json!({ "dry_level": 10.0, "readings": [{ "day": 0.0, "value": 20.0 }, { "day": 4.0, "value": 15.0 }, { "day": 9.0, "value": 12.0 }] }),
        ),
        ("heat", json!({ "cell_m": 0.1, "grid": [[18.0, 18.1, 18.0], [18.0, null, 18.1], [18.1, 18.0, 18.0]] })),
        (
            "trace",
            json!({ "visit": "2026-11-18T10:00", "front_deg": 200.0, "spots": [{ "id": "s", "x_m": 1.0, "y_m": 1.0, "z_m": 2.5, "shows": "ceiling" }],
            "candidates": [{ "id": "c", "kind": "roof-field", "x_m": 1.0, "y_m": 2.0, "z_m": 3.2, "downslope_deg": 200.0, "state": "open" }] }),
        ),
        (
            "hail",
            json!({ "slopes": [{ "name": "N", "azimuth_deg": 0, "counts_per_square": [4, 6] }, { "name": "S", "azimuth_deg": 180, "counts_per_square": [12] }] }),
        ),
        (
            "wind",
            json!({ "parts": [{ "slope": "N", "part": "edge", "units": 20, "creased": 3 }, { "slope": "N", "part": "field", "units": 60 }] }),
        ),
        ("hit", json!({ "signs": { "rim": "raised", "bare": "granules-in" } })),
        (
            "which-storm",
            json!({ "visit": "2026-11-25", "fresh": 3, "events": [{ "id": "E1", "on": "2026-10-07", "hail_mm": 25.0, "gust_m_s": 24.0, "from_deg": 225.0, "km": 2.0 }] }),
        ),
        ("reserve", json!({ "from_year": 2027, "years": 3, "things": [{ "name": "roof", "cost": 9000.0, "due": [1.0, 2.0, 4.0] }] })),
        ("weigh", json!({ "hypotheses": ["a"], "prior": { "a": 1.0 }, "evidence": {} })),
        ("runoff", masses),
        ("gutter", channel),
        ("gutter-run", run),
        ("downspout", json!({ "shape": "round", "diameter_mm": 80.0, "head_at_outlet_mm": 30, "rain_mm_h": 120 })),
        ("rainwater", json!({ "roof": measured(), "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h" } } })),
        (
            "overshoot",
            json!({ "leaves": { "as": "sheet", "width_m": 5.0, "pitch": 0.5 }, "rain_mm_h": 132.0, "roughness": 0.02, "past_fascia_m": 0.03, "above_rim_m": 0.03, "catch_m": 0.1 }),
        ),
        (
            "storm",
            json!({ "cell_m": 0.5, "heights": [[0.1, 0.0, 0.1], [0.1, 0.05, null]], "loss_mm_h": 4.0, "border": "open", "rain": [{ "minutes": 5.0, "mm_h": 60.0 }] }),
        ),
        ("level", json!({ "start_elevation_m": 0.0, "rows": [{ "point": "sill", "bs_m": 1.4 }, { "point": "P1", "fs_m": 1.6 }] })),
        (
            "transect",
            json!({ "wall_side_elevation_m": 0.0, "points": [{ "distance_m": 3.0, "elevation_m": -0.1 }], "cladding_clearance_m": 0.2, "clearance_required_m": 0.15 }),
        ),
        ("surface", json!({ "domain_m": [2.0, 2.0], "cell_m": 0.5, "spots_xyz_m": [[-1, -1, 0.0], [4, -1, 0.1], [-1, 4, 0.2]] })),
        ("ground", json!({ "roof": measured(), "ground": yard() })),
        (
            "rain-test",
            json!({ "place": { "roof": measured(), "ground": yard(), "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h" } } } }),
        ),
    ];
    let mut named: Vec<&str> = samples.iter().map(|s| s.0).collect();
    let mut there = envelope::calc::names();
    named.sort_unstable();
    there.sort_unstable();
    assert_eq!(named, there, "every calculation is tried");
    for (name, input) in samples {
        let printed: Value =
            serde_json::from_str(&envelope::calc::run(name, &input.to_string()).unwrap_or_else(|e| panic!("{name}: {e}"))).unwrap();
        let answered = b.change(Method::POST, &format!("/api/calc/{name}"), &input).await;
        assert_eq!(answered.status, 200, "{name}");
        assert_eq!(answered.json(), printed, "{name}");
        let bad = b.change(Method::POST, &format!("/api/calc/{name}"), &json!({ "nothing": "of the kind" })).await.status;
        assert!((400..500).contains(&bad), "{name} took nonsense: {bad}");
    }
}

#[actix_web::test]
async fn a_roof_that_cannot_be_reached_by_its_papers_is_refused_and_kept_as_it_was() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "year_built": 1967, "visited_on": "2026-11-18" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await;
    for (papers, field) in [
        (json!([{ "kind": "permit", "on": "2031-01-01" }]), "papers.0.on"),
        (json!([{ "kind": "invoice", "on": "1960-01-01" }]), "papers.0.on"),
        (
            json!([{ "kind": "picture", "on": "2020-01-01", "there": false }, { "kind": "picture", "on": "2010-01-01", "there": true }]),
            "papers",
        ),
        (json!([{ "kind": "stated", "years": 90.0 }]), "papers.0.years"),
    ] {
        let mut body = measured();
        body["papers"] = papers;
        let fault = b.change(Method::PUT, &roof, &json!({ "base": 1, "body": body })).await.fault();
        assert_eq!((fault.0, fault.2.as_str()), (422, field));
    }
    assert_eq!(b.get(&roof).await.json()["rev"], 1);
    // Changing the brief later does not lose the roof: it says what no longer fits.
    let mut body = measured();
    body["papers"] = json!([{ "kind": "permit", "on": "2013-10-22" }]);
    b.change(Method::PUT, &roof, &json!({ "base": 1, "body": body })).await;
    let job = b.view().await["job"].clone();
    let later = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "year_built": 2020, "visited_on": "2026-11-18" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &later).await;
    let page = b.get(&roof).await.json();
    assert!(page["plan"].is_string(), "the drawing stays");
    assert!(page["account"]["slopes"][0]["problem"].as_str().unwrap().contains("One of the two is wrong"));
}
