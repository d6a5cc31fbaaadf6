//! The report of 300 findings with 300 pictures: time to set and write it, its size, and the memory at the peak.
#![allow(missing_docs, reason = "a benchmark")]

use envelope::finding::catalogue;
use envelope::job::Job;
use envelope::round::{Context, read};
use envelope::site::{Face, Place, Zone};
use ledger::{Change, Ledger, Request, SystemClock};
use std::io::Cursor;
use std::sync::Arc;
use std::time::Instant;
use tempfile::TempDir;
use uuid::Uuid;

const JOB: &str = "0190aaaa-0000-7000-8000-00000000000a";
const FINDINGS: usize = 300;

/// A picture of a phone's size, different for each finding, with the grain that real pictures have.
fn photo(n: usize) -> Vec<u8> {
    let mut state = n as u32 + 1;
    let image = image::RgbImage::from_fn(1600, 1200, |x, y| {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        let grain = (state >> 28) as u8;
        image::Rgb([(x / 7) as u8 + grain, (y / 5) as u8 + grain, (n % 200) as u8 + grain])
    });
    let mut out = Cursor::new(Vec::new());
    image.write_to(&mut out, image::ImageFormat::Jpeg).unwrap();
    out.into_inner()
}

/// High-water mark of this process, in MiB, where the system tells.
fn peak() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find(|l| l.starts_with("VmHWM"))?;
    Some(line.split_whitespace().nth(1)?.parse::<u64>().ok()? / 1024)
}

fn main() {
    let dir = TempDir::new().unwrap();
    let ledger = Ledger::open(dir.path(), Arc::new(SystemClock)).unwrap();
    let request = || Request { id: Uuid::new_v4(), who: "bench".into() };
    ledger.apply(&request(), JOB, &[Change::put(JOB, None, &Job::named("Three hundred findings")).unwrap()], &[]).unwrap();
    let rows = catalogue().rows();
    for n in 0..FINDINGS {
        let place = Place::outside(Face::ALL[n % 4], Zone::OUTSIDE[n % 6]);
        let mut note = read("6 in x 4 ft, several", &Context::at(place, None)).notes.remove(0).into_note(String::new());
        note.condition = Some(rows[n % rows.len()].id.clone());
        note.kind = envelope::round::NoteKind::Defect;
        let id = Uuid::new_v4().to_string();
        let known = picture::Known { name: format!("{n}.jpg"), note_id: Some(id.clone()), ..Default::default() };
        let (p, blobs) = picture::ingest(photo(n), u64::MAX).unwrap().into_picture(known);
        let changes = [Change::put(&id, None, &note).unwrap(), Change::put(&Uuid::new_v4().to_string(), None, &p).unwrap()];
        ledger.apply(&request(), JOB, &changes, &blobs).unwrap();
    }
    let before = peak();
    let began = Instant::now();
    let set =
        report::typeset(&account::Case::new(ledger.job(JOB).unwrap(), ledger.today()), &ledger, &report::ReportWanted::default()).unwrap();
    let setting = began.elapsed();
    let made = set.pdf().unwrap();
    println!(
        "report of {FINDINGS} findings with {FINDINGS} pictures of 1600 x 1200: {} pages, set in {:.2} s, written in {:.2} s, {:.1} MB, peak memory {:?} MiB (before: {before:?} MiB)",
        set.pages(),
        setting.as_secs_f64(),
        (began.elapsed() - setting).as_secs_f64(),
        made.bytes.len() as f64 / 1e6,
        peak(),
    );
}
