//! A job that is brought in: seen by nobody before it is whole, in nobody's way, and gone without a trace when it cannot be finished.

use envelope::job::Job;
use envelope::round::{Context, Note, read};
use envelope::site::{Face, Place, Zone};
use ledger::{Blob, BlobRef, Change, Composed, FixedClock, Ledger, LedgerError, Picture, Request, take};
use rusqlite::Connection;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use tempfile::TempDir;
use uuid::Uuid;

const HERE: &str = "job-1";
const COMING: &str = "job-2";
/// Several parts, and the last one not full.
const NOTES: usize = 1130;

fn open(dir: &Path) -> Ledger {
    Ledger::open(dir, Arc::new(FixedClock("2026-11-23T08:00:00Z".parse().unwrap()))).unwrap()
}
fn request() -> Request {
    Request { id: Uuid::new_v4(), who: "Ida Marrow".into() }
}
fn note(line: &str) -> Note {
    read(line, &Context::at(Place::outside(Face::Rear, Zone::Edge), None)).notes.remove(0).into_note("2026-11-23T08:00:00Z".into())
}
fn with_a_job() -> (TempDir, Ledger) {
    let dir = TempDir::new().unwrap();
    let ledger = open(dir.path());
    ledger.apply(&request(), HERE, &[Change::put(HERE, None, &Job::named("Thistlewick")).unwrap()], &[]).unwrap();
    (dir, ledger)
}
fn changes() -> Vec<Change> {
    let body = note("gutter sagging heliotrope");
    let job = Change::put(COMING, None, &Job::named("Heron")).unwrap();
    std::iter::once(job).chain((0..NOTES).map(|k| Change::put(&format!("n{k}"), None, &body).unwrap())).collect()
}
fn bring(ledger: &Ledger, request: &Request, changes: Vec<Change>) -> Result<usize, LedgerError> {
    ledger.bring_in(request, COMING, &"a bundle", |_| Ok::<_, LedgerError>(Composed::just(changes))).map(|(stored, ())| stored.len())
}
fn rows(dir: &TempDir, of: &str) -> i64 {
    let c = Connection::open(dir.path().join("trowel.db")).unwrap();
    c.query_row(&format!("SELECT count(*) FROM {of} WHERE job_id = '{COMING}'"), [], |r| r.get(0)).unwrap()
}
/// Pictures among the notes, each with three files of its own.
fn with_pictures(ledger: &Ledger, many: usize) -> (Vec<Change>, Vec<BlobRef>) {
    let (mut out, mut files) = (changes(), vec![]);
    for k in 0..many {
        let blobs: Vec<Blob> = ["o", "d", "t"].iter().map(|part| Blob::new("image/jpeg", format!("{part}{k}").into_bytes())).collect();
        let refs = ledger.store(&blobs).unwrap();
        let body =
            serde_json::json!({ "original": refs[0], "display": refs[1], "thumb": refs[2], "width": 4, "height": 3, "name": "a.jpg" });
        let picture: Picture = serde_json::from_value(body).unwrap();
        out.insert(1 + k * 90, Change::put(&format!("p{k}"), None, &picture).unwrap());
        files.extend(refs);
    }
    (out, files)
}

fn nothing_is_left(dir: &TempDir) {
    for table in ["note", "journal", "touched", "words"] {
        assert_eq!(rows(dir, table), 0, "{table}");
    }
    let c = Connection::open(dir.path().join("trowel.db")).unwrap();
    assert!(!c.prepare("SELECT 1 FROM job WHERE id = ?1").unwrap().exists([COMING]).unwrap());
}

#[test]
fn others_write_between_its_parts_and_see_all_of_it_or_nothing() {
    let (dir, ledger) = with_a_job();
    let done = AtomicBool::new(false);
    let whole = std::thread::scope(|s| {
        let writing = s.spawn(|| {
            let mut k = 0;
            while !done.load(Ordering::Relaxed) {
                k += 1;
                ledger.apply(&request(), HERE, &[Change::put(&format!("h{k}"), None, &note("moss")).unwrap()], &[]).unwrap();
            }
        });
        let looking = s.spawn(|| {
            while !done.load(Ordering::Relaxed) {
                match ledger.job(COMING) {
                    Ok(job) => assert_eq!(job.notes.len(), NOTES),
                    Err(LedgerError::NotFound { .. }) => {}
                    Err(e) => panic!("{e}"),
                }
                assert!(matches!(ledger.jobs().unwrap().len(), 1 | 2));
            }
        });
        let whole = bring(&ledger, &request(), changes());
        done.store(true, Ordering::Relaxed);
        writing.join().unwrap();
        looking.join().unwrap();
        whole
    });
    assert_eq!(whole.unwrap(), NOTES + 1);
    assert_eq!(ledger.job(COMING).unwrap().notes.len(), NOTES);
    // Somebody else's change stands between the first and the last of its rows: it did not wait for the whole.
    let c = Connection::open(dir.path().join("trowel.db")).unwrap();
    let between: i64 = c
        .query_row(
            "SELECT count(*) FROM journal WHERE job_id = ?1 AND seq > (SELECT min(seq) FROM journal WHERE job_id = ?2)
             AND seq < (SELECT max(seq) FROM journal WHERE job_id = ?2)",
            [HERE, COMING],
            |r| r.get(0),
        )
        .unwrap();
    assert!(between > 0);
    // It is one change, the one the job began with: undo does not take it apart.
    assert!(matches!(ledger.undo(&request(), COMING), Err(LedgerError::NothingToUndo)));
}

#[test]
fn the_same_request_brings_it_in_once() {
    let (_dir, ledger) = with_a_job();
    let key = request();
    assert_eq!(bring(&ledger, &key, changes()).unwrap(), NOTES + 1);
    assert_eq!(bring(&ledger, &key, changes()).unwrap(), NOTES + 1);
    assert_eq!(ledger.job(COMING).unwrap().job.rev, 1);
    // Another request for a job that is here does not write over it.
    assert!(matches!(bring(&ledger, &request(), changes()), Err(LedgerError::Stale { .. })));
}

#[test]
fn two_who_bring_the_same_job_in_are_not_mixed() {
    let (_dir, ledger) = with_a_job();
    let both: Vec<_> = std::thread::scope(|s| {
        let one = || bring(&ledger, &request(), changes());
        [s.spawn(one), s.spawn(one)].map(|t| t.join().unwrap()).into_iter().collect()
    });
    assert_eq!(both.iter().filter(|r| r.is_ok()).count(), 1, "{both:?}");
    assert_eq!(ledger.job(COMING).unwrap().notes.len(), NOTES);
}

#[test]
fn what_cannot_be_finished_leaves_nothing() {
    let (dir, ledger) = with_a_job();
    ledger.apply(&request(), HERE, &[Change::put("theirs", None, &note("moss")).unwrap()], &[]).unwrap();
    // The last note has the name of another job's: found out only when it is written, after all the parts before it.
    let mut bad = changes();
    bad.push(Change::put("theirs", None, &note("moss")).unwrap());
    assert!(matches!(bring(&ledger, &request(), bad), Err(LedgerError::NotFound { .. })));
    nothing_is_left(&dir);
    assert!(ledger.search("heliotrope", None, 10).unwrap().is_empty());
    assert_eq!(ledger.job(HERE).unwrap().notes.len(), 1);
    // And it can be brought in afterwards.
    assert_eq!(bring(&ledger, &request(), changes()).unwrap(), NOTES + 1);
}

#[test]
fn pictures_come_with_their_files_and_go_with_them() {
    let (dir, ledger) = with_a_job();
    let blobs = || {
        Connection::open(dir.path().join("trowel.db")).unwrap().query_row("SELECT count(*) FROM blob", [], |r| r.get::<_, i64>(0)).unwrap()
    };
    let bring = |changes: Vec<Change>, files: Vec<BlobRef>| {
        ledger
            .bring_in(&request(), COMING, &"a bundle", |_| Ok::<_, LedgerError>(Composed { changes, files, told: () }))
            .map(|(s, ())| s.len())
    };
    let (mut bad, files) = with_pictures(&ledger, 9);
    bad.push(Change::put(HERE, Some(9), &Job::named("x")).unwrap());
    assert!(bring(bad, files.clone()).is_err());
    nothing_is_left(&dir);
    assert_eq!(blobs(), 0);
    // A file that went missing meanwhile is noticed, and nothing of the job stays.
    let (good, files) = with_pictures(&ledger, 9);
    ledger.forget(&files[3..4]).unwrap();
    assert!(matches!(bring(good, files), Err(LedgerError::BlobMissing { .. })));
    nothing_is_left(&dir);
    let (good, files) = with_pictures(&ledger, 9);
    assert_eq!(bring(good, files).unwrap(), NOTES + 10);
    assert_eq!((blobs(), ledger.job(COMING).unwrap().pictures.len()), (27, 9));
}

#[test]
fn a_half_that_a_crash_left_is_taken_out_by_who_has_the_folder() {
    let (dir, ledger) = with_a_job();
    let c = Connection::open(dir.path().join("trowel.db")).unwrap();
    let (job, body) = (serde_json::to_string(&Job::named("Heron")).unwrap(), serde_json::to_string(&note("moss heliotrope")).unwrap());
    c.execute("INSERT INTO job (id, rev, deleted, body) VALUES (?1, 0, 1, ?2)", [COMING, &job]).unwrap();
    c.execute("INSERT INTO note (id, job_id, rev, body) VALUES ('n0', ?1, 1, ?2)", [COMING, &body]).unwrap();
    // Until then nobody can make a job of the same name around it.
    let put = Change::put(COMING, None, &Job::named("Other")).unwrap();
    assert!(matches!(ledger.apply(&request(), COMING, &[put], &[]), Err(LedgerError::Coming)));
    assert!(matches!(ledger.job(COMING), Err(LedgerError::NotFound { .. })));
    drop((c, ledger));
    // Whoever only opens the folder beside a server does not disturb what it is bringing in.
    let serving = take(dir.path()).unwrap();
    let ledger = open(dir.path());
    assert_eq!(rows(&dir, "note"), 1);
    ledger.tidy(&serving).unwrap();
    nothing_is_left(&dir);
    assert_eq!(bring(&ledger, &request(), changes()).unwrap(), NOTES + 1);
}

#[test]
fn a_job_that_was_deleted_stays_whole_until_it_is_written_over() {
    let (_dir, ledger) = with_a_job();
    bring(&ledger, &request(), changes()).unwrap();
    let rev = ledger.job(COMING).unwrap().job.rev;
    ledger.apply(&request(), COMING, &[Change::delete(ledger::Kind::Job, COMING, rev)], &[]).unwrap();
    // Brought in again and refused: what was deleted can still be brought back, with every note as it was.
    let mut bad = changes();
    bad.push(Change::put(HERE, Some(99), &Job::named("x")).unwrap());
    assert!(bring(&ledger, &request(), bad).is_err());
    ledger.undo(&request(), COMING).unwrap();
    assert_eq!(ledger.job(COMING).unwrap().notes.len(), NOTES);
}
