//! What leaves the house and who may read it: the client's page under its key, the post, the return visit, the building.

use super::{Bench, JOB};
use crate::http::{guard, slow};
use crate::{App, configure};
use actix_web::http::Method;
use actix_web::middleware::from_fn;
use actix_web::{App as ActixApp, test};
use instruments::{Letter, PostError, PostOffice};
use ledger::{FixedClock, Ledger};
use serde_json::{Value, json};
use sha2::{Digest, Sha256};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use uuid::Uuid;

const KEY: &str = "kkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkkk";
const LINK: &str = "0190aaaa-0000-7000-8000-0000000000c1";
const NEW: &str = "0190aaaa-0000-7000-8000-0000000000b2";
const HOUSE: &str = "0190aaaa-0000-7000-8000-0000000000d3";

fn known(key: &str) -> String {
    Sha256::digest(key.as_bytes()).iter().map(|b| format!("{b:02x}")).collect()
}

async fn with_job() -> Bench {
    let b = Bench::new();
    let body = json!({ "body": { "name": "Heron Boathouse", "brief": { "address": "3 Lake Lane", "recipient": "the owner", "inspector": "Ida Marrow", "visited_on": "2026-11-20" } } });
    assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &body).await.status, 200);
    for line in ["light missing, wires hanging", "gutter end no downspout"] {
        let entered = json!({ "line": line, "place": { "face": "rear", "zone": "edge" }, "at": "2026-11-20T09:00:00Z" });
        let r = b.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &entered).await;
        assert_eq!(r.status, 200, "{}", String::from_utf8_lossy(&r.body));
    }
    b
}

async fn link(b: &Bench, until: &str, base: Option<i64>, withdrawn: Option<&str>) -> super::Answer {
    let body = json!({ "base": base, "body": { "key_hash": known(KEY), "to": "the owner", "made_at": "2026-11-23T08:00:00Z", "until": until, "withdrawn_at": withdrawn } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/links/{LINK}"), &body).await
}

#[actix_web::test]
async fn a_client_reads_with_the_key_until_it_ends_or_is_withdrawn_and_nothing_else() {
    let b = with_job().await;
    let open = format!("/c/{KEY}");
    assert_eq!(b.get(&open).await.status, 404);
    assert_eq!(link(&b, "2026-11-22", None, None).await.fault().2, "until");
    assert_eq!(link(&b, "2026-12-24", None, None).await.status, 200);
    let page = b.get(&open).await;
    let text = String::from_utf8(page.body.clone()).unwrap();
    assert!(page.status == 200 && text.contains("Fixture gone, box open") && text.contains("data-questions"));
    let policy = page.headers.get("content-security-policy").unwrap().to_str().unwrap().to_owned();
    // Its own script and no other: the hash is of what stands in the page.
    let script = text.rsplit_once("<script>").unwrap().1.split_once("</script>").unwrap().0;
    use base64::Engine;
    let hash = base64::engine::general_purpose::STANDARD.encode(Sha256::digest(script.as_bytes()));
    assert!(policy.contains(&format!("script-src 'sha256-{hash}'")) && policy.contains("default-src 'none'"), "{policy}");
    // The key is not kept, and a guess of any length is nothing.
    assert!(!b.get(&format!("/api/jobs/{JOB}/leaving")).await.json().to_string().contains(KEY));
    for guess in ["a".repeat(43), "k".repeat(42), "k".repeat(44), known(KEY), "%2e%2e".into()] {
        assert_eq!(b.get(&format!("/c/{guess}")).await.status, 404, "{guess}");
    }
    assert_eq!(link(&b, "2026-12-24", Some(1), Some("2026-11-23T09:00:00Z")).await.status, 200);
    let gone = b.get(&open).await;
    assert!(gone.status == 404 && String::from_utf8_lossy(&gone.body).contains("not open any more"));
    // A job that is deleted takes its page with it.
    assert_eq!(link(&b, "2026-12-24", Some(2), None).await.status, 200);
    assert_eq!(b.get(&open).await.status, 200);
    let rev = b.get(&format!("/api/jobs/{JOB}")).await.json()["job"]["rev"].as_i64().unwrap();
    assert_eq!(b.change(Method::DELETE, &format!("/api/jobs/{JOB}?base={rev}"), &json!({})).await.status, 200);
    assert_eq!(b.get(&open).await.status, 404);
}

#[actix_web::test]
async fn a_link_is_over_the_day_after_its_last() {
    let dir = tempfile::TempDir::new().unwrap();
    let at = |t: &str| Ledger::open(dir.path(), Arc::new(FixedClock(t.parse().unwrap()))).unwrap();
    let first = Bench::of(App::new(Arc::new(at("2026-11-23T08:00:00Z")), "Ida Marrow"), tempfile::TempDir::new().unwrap());
    assert_eq!(first.change(Method::PUT, &format!("/api/jobs/{JOB}"), &json!({ "body": { "name": "x" } })).await.status, 200);
    assert_eq!(link(&first, "2026-11-24", None, None).await.status, 200);
    drop(first);
    for (day, status) in [("2026-11-24T23:00:00Z", 200), ("2026-11-25T01:00:00Z", 404)] {
        let b = Bench::of(App::new(Arc::new(at(day)), "Ida Marrow"), tempfile::TempDir::new().unwrap());
        assert_eq!(b.get(&format!("/c/{KEY}")).await.status, status, "{day}");
    }
}

#[actix_web::test]
async fn the_key_of_a_page_opens_nothing_of_a_server_that_asks_for_its_own() {
    let b = with_job().await;
    assert_eq!(link(&b, "2026-12-24", None, None).await.status, 200);
    let mut app = App::new(b.app.ledger.clone(), "Ida Marrow");
    app.access_key = Some("the server's".into());
    let app = Arc::new(app);
    let service = test::init_service(
        ActixApp::new()
            .wrap(from_fn(slow::paced))
            .wrap(from_fn(guard::same_origin))
            .wrap(from_fn(guard::headers))
            .configure(configure(app)),
    )
    .await;
    let status = async |path: &str| {
        let req = test::TestRequest::get()
            .uri(path)
            .insert_header(("host", "127.0.0.1"))
            .insert_header(("cookie", format!("trowel-access={KEY}")));
        test::call_service(&service, req.to_request()).await.status().as_u16()
    };
    assert_eq!(status(&format!("/c/{KEY}")).await, 200);
    for path in
        ["/api/jobs".to_owned(), format!("/api/jobs/{JOB}"), "/".into(), format!("/c/{KEY}/../../api/jobs"), format!("/c/{KEY}/jobs")]
    {
        assert!([401, 404].contains(&status(&path).await), "{path}");
    }
}

#[actix_web::test]
async fn a_question_comes_back_once_as_text_and_no_more_than_it_may() {
    let b = with_job().await;
    assert_eq!(link(&b, "2026-12-24", None, None).await.status, 200);
    let to = format!("/c/{KEY}/questions");
    let note = b.get(&format!("/api/jobs/{JOB}")).await.json()["notes"][0]["id"].as_str().unwrap().to_owned();
    let key = Uuid::new_v4().to_string();
    let ask = async |key: &str, body: Value| {
        b.send(Method::POST, &to, &[("idempotency-key", key), ("content-type", "application/json")], body.to_string().into_bytes()).await
    };
    let question = json!({ "note_id": note, "text": "<script>alert(1)</script> Who mends it?" });
    assert_eq!(ask(&key, question.clone()).await.status, 200);
    assert_eq!(ask(&key, question).await.status, 200);
    let said = b.get(&format!("/api/jobs/{JOB}/leaving")).await.json()["said"].clone();
    assert_eq!(said.as_array().unwrap().len(), 1);
    assert_eq!(said[0]["body"]["text"], "<script>alert(1)</script> Who mends it?");
    let page = String::from_utf8(b.get(&format!("/c/{KEY}")).await.body).unwrap();
    assert!(page.contains("&lt;script&gt;alert(1)&lt;/script&gt; Who mends it?") && !page.contains("<script>alert"));
    let fresh = || Uuid::new_v4().to_string();
    assert_eq!(ask(&fresh(), json!({ "text": "  " })).await.fault().2, "text");
    assert_eq!(ask(&fresh(), json!({ "text": "a".repeat(2001) })).await.fault().2, "text");
    assert_eq!(ask(&fresh(), json!({ "text": "whose?", "note_id": Uuid::new_v4() })).await.status, 404);
    assert_eq!(ask(&fresh(), json!({ "text": "x", "job": "other" })).await.status, 422);
    let foreign = [
        ("idempotency-key", "0190aaaa-0000-7000-8000-00000000000f"),
        ("content-type", "application/json"),
        ("origin", "https://other.example"),
    ];
    assert_eq!(b.send(Method::POST, &to, &foreign, br#"{"text":"x"}"#.to_vec()).await.status, 403);
    for n in 0..99 {
        assert_eq!(ask(&fresh(), json!({ "text": format!("question {n}") })).await.status, 200);
    }
    assert_eq!(ask(&fresh(), json!({ "text": "one more" })).await.status, 409);
}

/// The list of jobs and the report say the same day.
#[actix_web::test]
async fn a_report_is_due_on_one_day_wherever_it_is_said() {
    let b = with_job().await;
    let listed = b.get("/api/jobs").await.json()["jobs"][0].clone();
    let due = b.get(&format!("/api/jobs/{JOB}/leaving")).await.json()["due"].clone();
    assert_eq!((&listed["report_due"], &listed["due"]), (&json!("2026-11-21"), &json!("Report 2 days late")));
    assert_eq!((&due["on"], &due["words"]), (&json!("2026-11-21"), &json!("2 days late")));
}

/// A post office that can be asked what came.
#[derive(Default)]
struct Counted {
    letters: Mutex<Vec<Letter>>,
    tries: AtomicUsize,
}

impl PostOffice for &'static Counted {
    fn send(&self, letter: &Letter) -> Result<(), PostError> {
        if self.tries.fetch_add(1, Ordering::SeqCst) == 0 {
            return Err(PostError::NotTaken("closed".into()));
        }
        self.letters.lock().unwrap().push(letter.clone());
        Ok(())
    }
}

#[actix_web::test]
async fn a_report_is_sent_once_and_everything_that_leaves_is_written_down() {
    let b = with_job().await;
    let post: &'static Counted = Box::leak(Box::default());
    let mut app = App::new(b.app.ledger.clone(), "Ida Marrow");
    app.post = Box::new(post);
    let b = Bench::of(app, tempfile::TempDir::new().unwrap());
    let send = async |key: &str, to: &str| {
        let body = json!({ "to": to, "subject": "The report", "text": "Enclosed." }).to_string().into_bytes();
        b.send(Method::POST, &format!("/api/jobs/{JOB}/send"), &[("idempotency-key", key), ("content-type", "application/json")], body)
            .await
    };
    let key = Uuid::new_v4().to_string();
    assert_eq!(send(&key, "owner@boat.example").await.status, 422, "the office was closed");
    assert_eq!(send(&key, "owner@boat.example").await.status, 200, "the same request, sent again");
    let exports = send(&key, "owner@boat.example").await.json();
    assert_eq!((post.letters.lock().unwrap().len(), exports.as_array().unwrap().len()), (1, 1));
    let letter = post.letters.lock().unwrap()[0].clone();
    let sum: String = Sha256::digest(&letter.file).iter().map(|b| format!("{b:02x}")).collect();
    assert!(letter.file.starts_with(b"%PDF") && exports[0]["sha256"] == sum && exports[0]["to"] == "owner@boat.example");
    let before = b.get(&format!("/api/jobs/{JOB}")).await.json()["version"].clone();
    for path in ["report.pdf", "report.pdf?cut=note&paper=letter", "findings.csv", "bundle.zip", "client.html"] {
        assert_eq!(b.get(&format!("/api/jobs/{JOB}/{path}")).await.status, 200, "{path}");
    }
    let leaving = b.get(&format!("/api/jobs/{JOB}/leaving")).await.json();
    let what: Vec<&str> = leaving["exports"].as_array().unwrap().iter().map(|e| e["what"].as_str().unwrap()).collect();
    assert_eq!(what, ["client's page", "bundle.zip", "findings.csv", "report-note.pdf", "report.pdf", "report.pdf"]);
    // An export is no change of the job: nothing that undo could take back.
    assert_eq!(b.get(&format!("/api/jobs/{JOB}")).await.json()["version"], before);
    // What stops it stops it, unless a person says so.
    let mut brief = b.get(&format!("/api/jobs/{JOB}")).await.json()["job"].clone();
    brief["body"]["brief"]["recipient"] = json!("");
    assert_eq!(
        b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &json!({ "base": brief["rev"], "body": brief["body"] })).await.status,
        200
    );
    let stopped = send(&Uuid::new_v4().to_string(), "owner@boat.example").await;
    assert!(stopped.status == 409 && stopped.json()["message"].as_str().unwrap().contains("named to receive it"));
    assert_eq!(post.letters.lock().unwrap().len(), 1);
}

#[actix_web::test]
async fn a_return_visit_stands_on_an_earlier_one() {
    let b = with_job().await;
    let none = b.get(&format!("/api/jobs/{JOB}/return")).await;
    assert_eq!(none.fault().0, 404);
    let missing = b.change(Method::POST, &format!("/api/jobs/{NEW}/return"), &json!({ "id": HOUSE })).await;
    assert_eq!(missing.status, 404, "a return visit without a first");
    let made = b.change(Method::POST, &format!("/api/jobs/{JOB}/return"), &json!({ "id": NEW })).await.json();
    assert_eq!(made["body"]["brief"]["visit"], "return-visit");
    assert_eq!(b.change(Method::POST, &format!("/api/jobs/{JOB}/return"), &json!({ "id": NEW })).await.status, 409, "twice under one id");
    let page = b.get(&format!("/api/jobs/{NEW}/return")).await.json();
    assert_eq!(page["kept"]["lines"].as_array().unwrap().len(), 2);
    let mut kept = page["kept"].clone();
    kept["lines"][0]["became"] = json!("done-wrong");
    let put =
        async |kept: &Value| b.change(Method::PUT, &format!("/api/jobs/{NEW}/return"), &json!({ "base": page["rev"], "body": kept })).await;
    assert!(put(&kept).await.fault().2.ends_with(".said"));
    kept["lines"][0]["said"] = json!("wires pushed back in, no cover");
    kept["lines"][0]["now"] = json!(Uuid::new_v4());
    assert!(put(&kept).await.fault().2.ends_with(".now"), "a picture of another job");
    kept["lines"][0]["now"] = Value::Null;
    assert_eq!(put(&kept).await.status, 200);
    // The earlier visit may change or go: what was promised stays as it was said.
    let rev = b.get(&format!("/api/jobs/{JOB}")).await.json()["job"]["rev"].as_i64().unwrap();
    b.change(Method::DELETE, &format!("/api/jobs/{JOB}?base={rev}"), &json!({})).await;
    let page = b.get(&format!("/api/jobs/{NEW}/return")).await.json();
    assert!(page["account"]["letter"].to_string().contains("wires pushed back in"));
    assert_eq!(b.get(&format!("/api/jobs/{NEW}/return/pictures/{}", "0".repeat(64))).await.status, 404);
    assert_eq!(b.get(&format!("/api/jobs/{NEW}/report.pdf")).await.status, 200);
}

/// What is read again is there to be read: cracks with their widths, rooms, the points of the book. What was read then is not taken for now.
#[actix_web::test]
async fn a_return_visit_takes_along_what_is_read_again_and_nothing_that_was_read() {
    let b = with_job().await;
    let put = async |path: &str, base: Value, body: Value| {
        let got = b.change(Method::PUT, path, &json!({ "base": base, "body": body })).await;
        assert_eq!(got.status, 200, "{path}: {:?}", got.fault());
    };
    let width = |on: &str, w: &str| json!({ "on": on, "at": "middle", "width": w });
    let crack = |readings: Vec<Value>| {
        json!({ "cracks": [{ "id": "C1", "face": "rear", "pattern": "diagonal", "from_x": "1 m", "from_z": "1 m", "to_x": "2 m", "to_z": "2 m",
            "readings": readings }], "answers": {} })
    };
    put(&format!("/api/jobs/{JOB}/walls"), Value::Null, crack(vec![width("2026-11-18", "0.8 mm")])).await;
    let room = json!({ "id": "K1", "name": "store", "height": "2.4 m", "walls": [{ "length": "4 m" }, { "length": "3 m" }, { "length": "4 m" }, { "length": "3 m" }] });
    let reading = json!({ "id": "P1", "at": { "room": "K1", "part": "wall", "wall": 1, "along": "1 m", "up": "0.2 m" }, "value": 22.0, "on": "2026-11-18" });
    put(&format!("/api/jobs/{JOB}/moisture"), Value::Null, json!({ "rooms": [room], "readings": [reading] })).await;
    let line =
        |point: &str, back: &str, between: &str, fore: &str| json!({ "point": point, "back": back, "between": between, "fore": fore });
    let book = json!({ "start": "0 m", "lines": [line("BM", "1.2 m", "", ""), line("P1", "", "1.5 m", ""), line("BM", "", "", "1.2 m")] });
    put(&format!("/api/jobs/{JOB}/ground"), Value::Null, json!({ "book": book, "soil": "clay" })).await;

    assert_eq!(b.change(Method::POST, &format!("/api/jobs/{JOB}/return"), &json!({ "id": NEW })).await.status, 200);
    let walls = b.get(&format!("/api/jobs/{NEW}/walls")).await.json();
    assert_eq!(walls["walls"]["cracks"][0]["readings"], json!([width("2026-11-18", "0.8 mm")]), "a trend goes on");
    let moisture = b.get(&format!("/api/jobs/{NEW}/moisture")).await.json();
    assert_eq!(
        (moisture["moisture"]["rooms"].as_array().map(Vec::len), moisture["moisture"]["readings"].as_array().map(Vec::len)),
        (Some(1), Some(0))
    );
    let ground = b.get(&format!("/api/jobs/{NEW}/ground")).await.json();
    let points: Vec<&str> = ground["ground"]["book"]["lines"].as_array().unwrap().iter().map(|l| l["point"].as_str().unwrap()).collect();
    assert_eq!(points, ["BM", "P1", "BM"]);
    assert!(!ground["ground"]["book"].to_string().contains("1.5 m") && ground["ground"]["soil"] == "clay", "{ground}");

    let crack_row = async || {
        let page = b.get(&format!("/api/jobs/{NEW}/return")).await.json();
        page["account"]["readings"].as_array().unwrap().iter().find(|r| r["kind"] == "crack").cloned().unwrap()
    };
    let row = crack_row().await;
    assert_eq!((&row["now"], &row["change"]), (&Value::Null, &json!("not read again")));
    put(&format!("/api/jobs/{NEW}/walls"), walls["rev"].clone(), crack(vec![width("2026-11-18", "0.8 mm"), width("2026-11-22", "1.1 mm")]))
        .await;
    let row = crack_row().await;
    assert_eq!((&row["then"], &row["now"], &row["change"]), (&json!("0.8 mm"), &json!("1.1 mm"), &json!("more")));
}

#[actix_web::test]
async fn jobs_are_joined_when_a_person_says_so_and_undo_takes_it_back() {
    let b = with_job().await;
    let other = json!({ "body": { "name": "Boathouse again", "brief": { "address": "3 lake lane" } } });
    assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{NEW}"), &other).await.status, 200);
    let house = b.get(&format!("/api/jobs/{JOB}/building")).await.json();
    assert!(house["building"].is_null() && house["same_address"][0]["job"] == NEW, "asked, not joined: {house}");
    let join = async |job: &str| b.change(Method::POST, &format!("/api/buildings/{HOUSE}/jobs/{job}"), &json!({})).await.status;
    assert_eq!(join(JOB).await, 404, "no such building");
    assert_eq!(b.change(Method::PUT, &format!("/api/buildings/{HOUSE}"), &json!({ "body": { "name": "Boathouse" } })).await.status, 200);
    assert_eq!((join(JOB).await, join(NEW).await), (200, 200));
    let page = b.get(&format!("/api/buildings/{HOUSE}")).await.json();
    let visits = |p: &Value| p["account"]["time_line"].as_array().unwrap().iter().filter(|e| e["what"] == "Visit").count();
    assert_eq!(visits(&page), 2);
    // Merged by mistake.
    assert_eq!(b.change(Method::POST, &format!("/api/jobs/{NEW}/undo"), &json!({})).await.status, 200);
    assert_eq!(visits(&b.get(&format!("/api/buildings/{HOUSE}")).await.json()), 1);
    // What is said of the building itself is taken back by itself.
    let renamed = json!({ "base": 1, "body": { "name": "Shed" } });
    assert_eq!(b.change(Method::PUT, &format!("/api/buildings/{HOUSE}"), &renamed).await.status, 200);
    assert_eq!(b.change(Method::POST, &format!("/api/jobs/{HOUSE}/undo"), &json!({})).await.status, 200);
    assert_eq!(b.get(&format!("/api/buildings/{HOUSE}")).await.json()["building"]["body"]["name"], "Boathouse");
    let refused = b.change(Method::DELETE, &format!("/api/buildings/{HOUSE}?base=1"), &json!({})).await;
    assert_eq!(refused.status, 409, "a visit belongs to it");
    assert_eq!(b.change(Method::DELETE, &format!("/api/buildings/{HOUSE}/jobs/{JOB}"), &json!({})).await.status, 200);
    assert_eq!(b.change(Method::DELETE, &format!("/api/buildings/{HOUSE}?base=3"), &json!({})).await.status, 200);
    assert_eq!(b.get(&format!("/api/buildings/{HOUSE}")).await.status, 404);
    // The job does not mind that its building is gone.
    assert_eq!(b.get(&format!("/api/jobs/{JOB}/building")).await.json()["building"], Value::Null);
}

#[actix_web::test]
async fn upkeep_and_reserve_are_open_files() {
    let b = with_job().await;
    let house = json!({ "body": { "name": "Boathouse", "things": [{ "id": "T1", "name": "Gutter", "cost": 900, "soonest": 1, "middle": 3, "latest": 6 }] } });
    assert_eq!(b.change(Method::PUT, &format!("/api/buildings/{HOUSE}"), &house).await.status, 200);
    assert_eq!(b.change(Method::POST, &format!("/api/buildings/{HOUSE}/jobs/{JOB}"), &json!({})).await.status, 200);
    let ics = b.get(&format!("/api/buildings/{HOUSE}/upkeep.ics")).await;
    assert!(String::from_utf8_lossy(&ics.body).starts_with("BEGIN:VCALENDAR"));
    let csv = String::from_utf8(b.get(&format!("/api/buildings/{HOUSE}/reserve.csv")).await.body).unwrap();
    assert_eq!(csv.lines().count(), 21);
    let wrong = json!({ "base": 1, "body": { "name": "Boathouse", "things": [{ "id": "T1", "name": "Gutter", "cost": -1 }] } });
    assert_eq!(b.change(Method::PUT, &format!("/api/buildings/{HOUSE}"), &wrong).await.fault().2, "things.T1.cost");
}
