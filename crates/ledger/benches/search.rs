//! The list and the search of a practice with 10,000 jobs and 1,000,000 notes: fills a folder once, then asks, and prints
//! the median and the 99th percentile. The aim is an answer within 50 ms at the 99th percentile.
#![allow(missing_docs, reason = "a benchmark")]

use envelope::round::{Context, read};
use envelope::site::{Face, Place, Zone};
use ledger::{Ledger, SystemClock};
use rusqlite::{Connection, params};
use std::hint::black_box;
use std::sync::Arc;
use std::time::{Duration, Instant};

const JOBS: usize = 10_000;
const NOTES: usize = 1_000_000;
const ASKED: usize = 2_000;

const LINES: [&str; 12] = [
    "gutter end no downspout, by the {w}",
    "fascia rot 2 ft near the {w}",
    "stair crack 1/16 x 4 ft under the {w}",
    "torn boot above the {w}",
    "moss on the lower third over the {w}",
    "spray head 6 in from wall at the {w}",
    "soil too high at siding, 1 in left, beside the {w}",
    "caulk missing at window head 2 ft, {w}",
    "slab tips back to the wall 1 % at the {w}",
    "efflorescence 18 in high behind the {w}",
    "stucco hairline crack off the window corner, {w}",
    "gutter clean, free flowing, {w}",
];
const WORDS: [&str; 40] = [
    "kitchen", "porch", "garage", "meter", "bath", "laundry", "chimney", "gate", "den", "hall", "steps", "deck", "fence", "shed", "well",
    "office", "kennel", "surgery", "store", "stair", "bay", "dormer", "wing", "entry", "drive", "tap", "panel", "hatch", "swale", "bank",
    "oak", "hedge", "planter", "walk", "ramp", "dock", "slip", "loft", "tower", "bench",
];

fn fill(path: &std::path::Path) -> rusqlite::Result<()> {
    let mut c = Connection::open(path)?;
    c.pragma_update(None, "synchronous", "OFF")?;
    let bodies: Vec<serde_json::Value> = LINES
        .iter()
        .map(|l| {
            let note = read(l, &Context::at(Place::outside(Face::Rear, Zone::Edge), None)).notes.remove(0).into_note(String::new());
            serde_json::to_value(note).expect("a note is JSON")
        })
        .collect();
    let tx = c.transaction()?;
    {
        let mut job = tx.prepare("INSERT INTO job (id, rev, body) VALUES (?1, 1, ?2)")?;
        let mut touched = tx.prepare("INSERT INTO touched (job_id, seq, at, summary) VALUES (?1, ?2, '2026-11-23T08:00:00Z', ?3)")?;
        for j in 0..JOBS {
            let name = format!("{} {} {j}", WORDS[j % 40], WORDS[j / 40 % 40]);
            let body = serde_json::json!({ "name": name, "brief": { "address": format!("{} Lane", WORDS[j * 7 % 40]) } });
            job.execute(params![format!("job-{j}"), body.to_string()])?;
            touched.execute(params![format!("job-{j}"), j as i64, serde_json::json!({ "name": name }).to_string()])?;
        }
        let mut note = tx.prepare("INSERT INTO note (id, job_id, rev, body) VALUES (?1, ?2, 1, ?3)")?;
        for n in 0..NOTES {
            let mut body = bodies[n % LINES.len()].clone();
            let text = LINES[n % LINES.len()].replace("{w}", &format!("{} {}", WORDS[n * 13 % 40], WORDS[n / 40 % 40]));
            body["text"] = text.into();
            note.execute(params![format!("note-{n}"), format!("job-{}", n % JOBS), body.to_string()])?;
        }
    }
    tx.commit()
}

fn told(what: &str, mut times: Vec<Duration>) {
    times.sort();
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    println!("{what}: median {:.2?}, 99th percentile {:.2?}, slowest {:.2?} of {}", at(0.5), at(0.99), at(1.0), times.len());
}

fn main() {
    let dir = tempfile::tempdir().expect("a folder");
    drop(Ledger::open(dir.path(), Arc::new(SystemClock)).expect("a new folder"));
    let start = Instant::now();
    fill(&dir.path().join("trowel.db")).expect("filled");
    println!("{JOBS} jobs and {NOTES} notes written in {:.1?}", start.elapsed());
    let ledger = Ledger::open(dir.path(), Arc::new(SystemClock)).expect("opens");
    let queries = |i: usize| match i % 5 {
        0 => WORDS[i * 11 % 40].to_owned(),
        1 => format!("gutter {}", WORDS[i * 17 % 40]),
        2 => format!("{} {}", WORDS[i * 3 % 40], WORDS[i * 29 % 40]),
        3 => "crack window".to_owned(),
        // What is typed so far: two letters, then more.
        _ => LINES[i % LINES.len()].chars().take(2 + i % 6).collect(),
    };
    let mut list = Vec::new();
    let mut search = Vec::new();
    for i in 0..ASKED {
        let words = queries(i);
        let t = Instant::now();
        black_box(ledger.search(&words, None, 50).expect("an answer"));
        search.push(t.elapsed());
        let t = Instant::now();
        black_box(ledger.listed(i % 200 * 50, 50).expect("an answer"));
        list.push(t.elapsed());
    }
    told("search", search);
    told("page of the list", list);
}
