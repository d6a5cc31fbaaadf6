//! Damage, going back, folders that cannot be written into, and requests that are sent twice.

use envelope::job::Job;
use envelope::round::{Context, Note, read};
use envelope::site::{Face, Place, Zone};
use ledger::{Blob, Change, Composed, Kind, Ledger, LedgerError, Now, Picture, Request, SystemClock, restore, take};
use rusqlite::Connection;
use std::path::Path;
use std::sync::Arc;
use tempfile::TempDir;
use uuid::Uuid;

const JOB: &str = "job-1";

fn open(dir: &Path) -> Ledger {
    Ledger::open(dir, Arc::new(SystemClock)).unwrap()
}

fn request() -> Request {
    Request { id: Uuid::new_v4(), who: "Ida Marrow".into() }
}

fn note(line: &str) -> Note {
    let place = Place::outside(Face::Rear, Zone::Edge);
    read(line, &Context::at(place, None)).notes.remove(0).into_note("2026-11-23T08:00:00Z".into())
}

fn put(ledger: &Ledger, id: &str, line: &str) {
    ledger.apply(&request(), JOB, &[Change::put(id, None, &note(line)).unwrap()], &[]).unwrap();
}

fn picture(bytes: &[u8]) -> (Picture, Vec<Blob>) {
    let blobs: Vec<Blob> = [b'o', b'd', b't'].iter().map(|k| Blob::new("image/jpeg", [bytes, &[*k]].concat())).collect();
    let r = |i: usize| serde_json::to_value(blobs[i].to_ref()).unwrap();
    let json = serde_json::json!({ "name": "a.jpg", "original": r(0), "display": r(1), "thumb": r(2), "width": 4, "height": 3 });
    (serde_json::from_value(json).unwrap(), blobs)
}

/// A folder with a job, two notes and a picture.
fn folder() -> (TempDir, Ledger) {
    let dir = TempDir::new().unwrap();
    let ledger = open(dir.path());
    ledger.apply(&request(), JOB, &[Change::put(JOB, None, &Job::named("Thistlewick")).unwrap()], &[]).unwrap();
    put(&ledger, "n1", "torn boot");
    put(&ledger, "n2", "gutter sagging");
    let (p, blobs) = picture(b"sample");
    ledger.apply(&request(), JOB, &[Change::put("p1", None, &p).unwrap()], &blobs).unwrap();
    (dir, ledger)
}

fn raw(dir: &Path) -> Connection {
    Connection::open(dir.join("trowel.db")).unwrap()
}

fn picture_file(dir: &Path, n: usize) -> std::path::PathBuf {
    let hash = &picture(b"sample").1[n].hash;
    dir.join("pictures").join(&hash[..2]).join(hash)
}

#[test]
fn nothing_is_kept_that_does_not_pass_its_own_check() {
    let (mut p, _) = picture(b"x");
    let field = |p: &Picture| match Change::put("p", None, p) {
        Err(LedgerError::Refused { field, message, .. }) => {
            assert!(message.len() > 20, "{message}");
            field
        }
        other => panic!("{other:?}"),
    };
    p.caption = "x".repeat(300_000);
    assert_eq!(field(&p), "caption");
    p.caption.clear();
    p.width = 4_000_000_000;
    assert_eq!(field(&p), "width");
    p.width = 4;
    p.heading = Some(f64::NAN);
    assert_eq!(field(&p), "heading");
    p.heading = None;
    p.original.hash = "../../etc".into();
    assert_eq!(field(&p), "original");
    let spelled = Change::put("0190AAAA-0000-7000-8000-00000000000A", None, &note("moss"));
    assert!(matches!(spelled, Err(LedgerError::Refused { field, .. }) if field == "id"));
}

#[test]
fn a_request_is_answered_from_what_was_kept_and_composed_once() {
    let (_dir, ledger) = folder();
    let r = request();
    let mut composed = 0;
    let mut send = |line: &str| {
        ledger.change(&r, JOB, &line, |now: &Now<'_>| -> Result<_, LedgerError> {
            composed += 1;
            let last = now.last_note(false)?.expect("there are two");
            Ok(Composed { changes: vec![Change::delete(Kind::Note, &last.id, last.rev)], files: vec![], told: last.body.text })
        })
    };
    let first = send("scratch that").unwrap();
    assert_eq!(first.1, "gutter sagging");
    // Something else happens; the retry still hears the same, and takes nothing else back.
    put(&ledger, "n3", "moss");
    assert_eq!(send("scratch that").unwrap(), first);
    assert!(matches!(send("something else"), Err(LedgerError::Reused)));
    assert_eq!(composed, 1);
    assert_eq!(ledger.job(JOB).unwrap().notes.len(), 2);
}

#[test]
fn nothing_is_written_into_a_job_that_was_deleted() {
    let (_dir, ledger) = folder();
    ledger.apply(&request(), JOB, &[Change::delete(Kind::Job, JOB, 1)], &[]).unwrap();
    for job in [JOB, "never"] {
        let e = ledger.apply(&request(), job, &[Change::put("n9", None, &note("moss")).unwrap()], &[]).unwrap_err();
        assert!(matches!(e, LedgerError::NotFound { kind: Kind::Job, .. }), "{e}");
    }
    assert_eq!(ledger.undo(&request(), JOB).unwrap().sentence, "Taken back: job deleted: Thistlewick");
}

#[test]
fn the_state_of_a_job_changes_with_it_and_with_any_practice_and_with_nothing_else() {
    let (_dir, ledger) = folder();
    let first = ledger.version(JOB).unwrap();
    assert_eq!(ledger.job(JOB).unwrap().version, first);
    ledger.apply(&request(), "job-2", &[Change::put("job-2", None, &Job::named("Heron")).unwrap()], &[]).unwrap();
    assert_eq!(ledger.version(JOB).unwrap(), first, "another job is no matter");
    put(&ledger, "n3", "moss");
    let second = ledger.version(JOB).unwrap();
    assert!(second.seq > first.seq && second.practice == first.practice);
    let practice = envelope::practice::Practice::usual("Plumb & Daylight");
    ledger.apply(&request(), "p", &[Change::put("p", None, &practice).unwrap()], &[]).unwrap();
    let third = ledger.version(JOB).unwrap();
    assert!(third.practice > second.practice);
    ledger.apply(&request(), "p", &[Change::delete(Kind::Practice, "p", 1)], &[]).unwrap();
    assert!(ledger.version(JOB).unwrap().practice > third.practice, "taking one out is a change too");
}

#[test]
fn check_names_every_damage_says_what_to_do_and_one_does_not_hide_the_next() {
    let (dir, ledger) = folder();
    assert_eq!(ledger.check().unwrap().problems, Vec::<String>::new());
    let c = raw(dir.path());
    c.execute("UPDATE note SET body = '{\"text\":7}' WHERE id = 'n1'", []).unwrap();
    c.execute_batch("DELETE FROM words; DELETE FROM touched").unwrap();
    std::fs::write(picture_file(dir.path(), 0), b"broken").unwrap();
    std::fs::remove_file(picture_file(dir.path(), 2)).unwrap();
    std::fs::create_dir_all(dir.path().join("pictures/ab")).unwrap();
    std::fs::write(dir.path().join("pictures/ab/abc"), b"nobody's").unwrap();
    let problems = ledger.check().unwrap().problems;
    for (said, advice) in [
        ("damaged on disk", "Attach the good file again"),
        ("missing from the picture folder", "Attach the good file again"),
        ("1 files lie in the picture folder that no picture names", "check --mend"),
        ("The note n1 is not what its history says", "backup"),
        ("The note n1 cannot be read", "backup"),
        ("The search does not know every job and note", "check --mend"),
        ("1 jobs are not in the list", "check --mend"),
    ] {
        assert!(problems.iter().any(|p| p.contains(said) && p.contains(advice)), "{said}: {problems:#?}");
    }
}

#[test]
fn a_database_that_was_emptied_beside_its_pictures_is_not_sound() {
    let (dir, ledger) = folder();
    drop(ledger);
    for file in ["trowel.db", "trowel.db-wal", "trowel.db-shm"] {
        let _ = std::fs::remove_file(dir.path().join(file));
    }
    let emptied = open(dir.path());
    let problems = emptied.check().unwrap().problems;
    assert_eq!(problems.len(), 1, "{problems:?}");
    assert!(problems[0].starts_with("The database is empty, but 3 picture files lie beside it"));
}

#[test]
fn mending_rebuilds_what_is_derived_and_nothing_else() {
    let (dir, ledger) = folder();
    let before = ledger.job(JOB).unwrap();
    raw(dir.path()).execute_batch("DELETE FROM words; DELETE FROM worded; DELETE FROM touched").unwrap();
    std::fs::create_dir_all(dir.path().join("pictures/ab")).unwrap();
    std::fs::write(dir.path().join("pictures/ab/abc"), b"nobody's").unwrap();
    assert_eq!(ledger.mend().unwrap().done.len(), 3);
    assert_eq!(ledger.check().unwrap().problems, Vec::<String>::new());
    assert_eq!(ledger.job(JOB).unwrap(), before);
    assert_eq!(ledger.search("torn boot", None, 9).unwrap().len(), 1);
    assert!(ledger.mend().unwrap().done.is_empty(), "twice is once");
    // And it goes on from there.
    put(&ledger, "n4", "moss on the wing");
    assert_eq!(ledger.search("moss wing", None, 9).unwrap().len(), 1);
}

#[test]
fn a_backup_holds_what_is_whole_and_names_the_rest() {
    let (dir, ledger) = folder();
    std::fs::write(picture_file(dir.path(), 0), b"broken").unwrap();
    let made = ledger.backup(&dir.path().join("copy.zip")).unwrap();
    assert_eq!(made.left_out, [picture(b"sample").1[0].hash.clone()]);
    let (sound, _ledger) = folder();
    assert!(open(sound.path()).backup(&sound.path().join("copy.zip")).unwrap().left_out.is_empty());
}

#[test]
fn going_back_proves_the_backup_first_and_keeps_what_was_there() {
    let (dir, ledger) = folder();
    let file = dir.path().join("copy.zip");
    ledger.backup(&file).unwrap();
    let then = ledger.job(JOB).unwrap();
    put(&ledger, "n9", "written after the backup");
    drop(ledger);
    let clock = || Arc::new(SystemClock);

    // Cut short, or changed: nothing is replaced.
    let bytes = std::fs::read(&file).unwrap();
    let bad = dir.path().join("bad.zip");
    let flipped = |at: usize| {
        let mut b = bytes.clone();
        b[at] ^= 0x55;
        b
    };
    for (what, broken) in [("cut", bytes[..bytes.len() / 2].to_vec()), ("flipped", flipped(bytes.len() / 3)), ("no zip", b"hello".to_vec())]
    {
        std::fs::write(&bad, broken).unwrap();
        assert!(restore(&bad, dir.path(), clock()).is_err(), "{what}");
        assert_eq!(open(dir.path()).job(JOB).unwrap().notes.len(), 3, "{what} replaced something");
    }

    // While a server has the folder, nobody replaces it.
    let held = take(dir.path()).unwrap();
    assert!(matches!(restore(&file, dir.path(), clock()), Err(LedgerError::InUse)));
    drop(held);

    let done = restore(&file, dir.path(), clock()).unwrap();
    assert_eq!((done.jobs, done.files), (1, 3));
    let back = open(dir.path());
    assert_eq!(back.job(JOB).unwrap(), then);
    assert_eq!(back.check().unwrap().problems, Vec::<String>::new());
    let before = done.before.unwrap();
    assert_eq!(open(&before).job(JOB).unwrap().notes.len(), 3, "what was there is kept aside");
    // Into an empty folder as well.
    let fresh = TempDir::new().unwrap();
    assert_eq!(restore(&file, fresh.path(), clock()).unwrap().before, None);
    assert_eq!(open(fresh.path()).job(JOB).unwrap(), then);
}

#[test]
fn one_server_has_a_folder() {
    let dir = TempDir::new().unwrap();
    let first = take(dir.path()).unwrap();
    let e = take(dir.path()).unwrap_err();
    assert!(e.to_string().contains("--data"), "{e}");
    drop(first);
    take(dir.path()).unwrap();
}

/// Root may write anywhere, so that the folder is made read-only in the way that holds for root as well: a database opened so.
#[test]
fn a_folder_that_can_only_be_read_is_read() {
    let (dir, ledger) = folder();
    let before = ledger.job(JOB).unwrap();
    drop(ledger);
    raw(dir.path()).pragma_update(None, "journal_mode", "DELETE").unwrap();
    let copy = TempDir::new().unwrap();
    std::fs::copy(dir.path().join("trowel.db"), copy.path().join("trowel.db")).unwrap();
    let mut mode = std::fs::metadata(copy.path().join("trowel.db")).unwrap().permissions();
    mode.set_readonly(true);
    std::fs::set_permissions(copy.path().join("trowel.db"), mode).unwrap();
    let ledger = open(copy.path());
    assert_eq!(ledger.job(JOB).unwrap(), before);
    if ledger.is_for_reading_only() {
        let e = ledger.apply(&request(), JOB, &[Change::put("n9", None, &note("moss")).unwrap()], &[]).unwrap_err();
        assert!(matches!(e, LedgerError::ReadOnly), "{e}");
        assert_eq!(ledger.listed(0, 9).unwrap().1, 1);
    }
}
