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

/// The demo clinic's Rainwater page at another rain each time, as its slider asks for it: account, plan and six sections.
#[divan::bench(sample_count = 100)]
fn the_rainwater_page_at_another_rain(b: Bencher<'_, '_>) {
    #[derive(serde::Deserialize)]
    struct Demo {
        brief: envelope::job::Brief,
        roof: envelope::roof::record::Roof,
        rainwater: envelope::rain::record::Rainwater,
    }
    let d: Demo = toml::from_str(include_str!("../../../demo/jobs/1-thistlewick.toml")).unwrap();
    let dir = TempDir::new().unwrap();
    let l = ledger(&dir);
    let job = envelope::job::Job { brief: d.brief, ..envelope::job::Job::named("bench") };
    let rev = l.job(JOB).unwrap().job.rev;
    let changes = [
        Change::put(JOB, Some(rev), &job).unwrap(),
        Change::put(JOB, None, &d.roof).unwrap(),
        Change::put(JOB, None, &d.rainwater).unwrap(),
    ];
    l.apply(&Request { id: Uuid::new_v4(), who: "bench".into() }, JOB, &changes, &[]).unwrap();
    let app = Arc::new(App::new(Arc::new(l), "bench"));
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let url = format!("http://{}/api/jobs/{JOB}/rainwater", listener.local_addr().unwrap());
    std::thread::spawn(move || actix_web::rt::System::new().block_on(server::serve(app, listener)));
    let client = reqwest::blocking::Client::new();
    let mut n = 0;
    b.bench_local(|| {
        n += 1;
        let r = client.get(format!("{url}?at={}", 40 + n * 37 % 100)).send().unwrap();
        assert!(r.status().is_success());
        r.bytes().unwrap().len()
    });
}

/// Notes in the large job.
const MANY: usize = 10_000;

fn note(n: usize) -> envelope::round::Note {
    use envelope::site::{Face, Place, Zone};
    let place = Place::outside(Face::ALL[n % 4], Zone::OUTSIDE[n / 4 % 6]);
    envelope::round::read("gutter sagging 2 in", &envelope::round::Context::at(place, None)).notes.remove(0).into_note(String::new())
}

/// A server on a job of ten thousand notes, and its address.
fn large(dir: &TempDir) -> String {
    let l = ledger(dir);
    for chunk in (0..MANY).collect::<Vec<_>>().chunks(500) {
        let changes: Vec<Change> = chunk.iter().map(|n| Change::put(&Uuid::new_v4().to_string(), None, &note(*n)).unwrap()).collect();
        l.apply(&Request { id: Uuid::new_v4(), who: "bench".into() }, JOB, &changes, &[]).unwrap();
    }
    let app = Arc::new(App::new(Arc::new(l), "bench"));
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let url = format!("http://{}/api/jobs/{JOB}", listener.local_addr().unwrap());
    std::thread::spawn(move || actix_web::rt::System::new().block_on(server::serve(app, listener)));
    url
}

fn put(client: &reqwest::blocking::Client, url: &str, body: &str) {
    let url = format!("{url}/notes/{}", Uuid::new_v4());
    let key = Uuid::new_v4().to_string();
    let r = client.put(url).header("idempotency-key", key).header("content-type", "application/json").body(body.to_owned()).send().unwrap();
    assert!(r.status().is_success());
}

fn body() -> String {
    serde_json::json!({ "base": null, "body": note(1) }).to_string()
}

/// The page of the large job, worked out again because a note came.
#[divan::bench(sample_count = 15, sample_size = 1)]
fn ten_thousand_notes_opened_after_a_change(b: Bencher<'_, '_>) {
    let dir = TempDir::new().unwrap();
    let url = large(&dir);
    let client = reqwest::blocking::Client::new();
    b.with_inputs(|| put(&client, &url, &body())).bench_local_values(|()| client.get(&url).send().unwrap().bytes().unwrap());
}

/// Two thousand notes by fifty writers into the large job; the longest of a hundred is printed.
#[divan::bench(sample_count = 3, sample_size = 1)]
fn fifty_writers_two_thousand_notes(b: Bencher<'_, '_>) {
    let dir = TempDir::new().unwrap();
    let url = large(&dir);
    let body = body();
    b.bench_local(|| {
        let mut took: Vec<std::time::Duration> = std::thread::scope(|s| {
            let writers: Vec<_> = (0..50)
                .map(|_| {
                    s.spawn(|| {
                        let client = reqwest::blocking::Client::new();
                        let one = |()| {
                            let began = std::time::Instant::now();
                            put(&client, &url, &body);
                            began.elapsed()
                        };
                        std::iter::repeat_n((), 40).map(one).collect::<Vec<_>>()
                    })
                })
                .collect();
            writers.into_iter().flat_map(|w| w.join().unwrap()).collect()
        });
        took.sort();
        println!("median {:?}, 99th of a hundred {:?}", took[took.len() / 2], took[took.len() * 99 / 100]);
    });
}
