//! What it costs to keep a note: through HTTP with the commit on disk, through the ledger, and as a bare insert into
//! SQLite with the same settings, all in one run on the same disk.
#![allow(missing_docs, reason = "a benchmark")]

use divan::Bencher;
use ledger::{Change, Ledger, Request, SystemClock};
use server::App;
use std::net::TcpListener;
use std::sync::Arc;
use tempfile::TempDir;
use uuid::Uuid;

fn main() {
    divan::main();
}

const JOB: &str = "0190aaaa-0000-7000-8000-00000000000a";
const LINE: &str = r#"{"line":"gutter end no downspout","place":{"face":"rear","zone":"edge"}}"#;

fn ledger(dir: &TempDir) -> Ledger {
    let l = Ledger::open(dir.path(), Arc::new(SystemClock)).unwrap();
    let request = Request { id: Uuid::new_v4(), who: "bench".into() };
    l.apply(&request, JOB, &[Change::put(JOB, None, &envelope::job::Job::named("bench")).unwrap()], &[]).unwrap();
    l
}

#[divan::bench(sample_count = 300)]
fn a_line_through_http(b: Bencher<'_, '_>) {
    let dir = TempDir::new().unwrap();
    let app = Arc::new(App::new(Arc::new(ledger(&dir)), "bench"));
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let url = format!("http://{}/api/jobs/{JOB}/lines", listener.local_addr().unwrap());
    std::thread::spawn(move || actix_web::rt::System::new().block_on(server::serve(app, listener)));
    let client = reqwest::blocking::Client::new();
    b.bench_local(|| {
        let r = client
            .post(&url)
            .header("idempotency-key", Uuid::new_v4().to_string())
            .header("content-type", "application/json")
            .body(LINE)
            .send()
            .unwrap();
        assert!(r.status().is_success());
        r.bytes().unwrap()
    });
}

#[divan::bench(sample_count = 300)]
fn a_note_through_the_ledger(b: Bencher<'_, '_>) {
    let dir = TempDir::new().unwrap();
    let l = ledger(&dir);
    let context =
        envelope::round::Context::at(envelope::site::Place::outside(envelope::site::Face::Rear, envelope::site::Zone::Edge), None);
    let note = envelope::round::read("gutter end no downspout", &context).notes.remove(0).into_note(String::new());
    b.bench_local(|| {
        let request = Request { id: Uuid::new_v4(), who: "bench".into() };
        l.apply(&request, JOB, &[Change::put(&Uuid::new_v4().to_string(), None, &note).unwrap()], &[]).unwrap()
    });
}

#[divan::bench(sample_count = 300)]
fn a_bare_insert(b: Bencher<'_, '_>) {
    let dir = TempDir::new().unwrap();
    let c = rusqlite::Connection::open(dir.path().join("bare.db")).unwrap();
    c.execute_batch(
        "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; CREATE TABLE note (id TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT;",
    )
    .unwrap();
    b.bench_local(|| c.execute("INSERT INTO note (id, body) VALUES (?1, ?2)", [Uuid::new_v4().to_string().as_str(), LINE]).unwrap());
}
