//! What the ledger promises, seen from outside.

use envelope::job::Job;
use envelope::round::{Context, Note, read};
use envelope::site::{Cell, Face, Mark, MarkState, Place, Zone};
use ledger::{Blob, Change, FixedClock, Kind, Ledger, LedgerError, Picture, Request};
use proptest::prelude::*;
use rusqlite::Connection;
use std::path::Path;
use std::sync::Arc;
use tempfile::TempDir;
use uuid::Uuid;

const JOB: &str = "job-1";

struct Fixture {
    ledger: Ledger,
    dir: TempDir,
}

fn open(dir: &Path) -> Ledger {
    Ledger::open(dir, Arc::new(FixedClock("2026-11-23T08:00:00Z".parse().unwrap()))).unwrap()
}

fn request() -> Request {
    Request { id: Uuid::new_v4(), who: "Ida Marrow".into() }
}

fn fixture() -> Fixture {
    let dir = TempDir::new().unwrap();
    let ledger = open(dir.path());
    ledger.apply(&request(), JOB, &[Change::put(JOB, None, &Job::named("Thistlewick")).unwrap()], &[]).unwrap();
    Fixture { ledger, dir }
}

fn note(line: &str) -> Note {
    let context = Context::at(Place::outside(Face::Rear, Zone::Edge), None);
    read(line, &context).notes.remove(0).into_note("2026-11-23T08:00:00Z".into())
}

fn picture(note_id: Option<&str>, bytes: &[u8]) -> (Picture, Vec<Blob>) {
    let blobs: Vec<Blob> = [b'o', b'd', b't'].iter().map(|k| Blob::new("image/jpeg", [bytes, &[*k]].concat())).collect();
    let picture = Picture {
        note_id: note_id.map(str::to_owned),
        place: None,
        name: "a.jpg".into(),
        caption: String::new(),
        original: blobs[0].to_ref(),
        display: blobs[1].to_ref(),
        thumb: blobs[2].to_ref(),
        width: 4,
        height: 3,
        taken_at: None,
        heading: None,
        proposed_face: None,
        has_location: false,
        print: None,
        marks: vec![],
        range: None,
    };
    (picture, blobs)
}

impl Fixture {
    fn put_note(&self, id: &str, base: Option<i64>, line: &str) -> Result<i64, LedgerError> {
        let change = Change::put(id, base, &note(line))?;
        self.ledger.apply(&request(), JOB, &[change], &[]).map(|s| s[0].rev)
    }
    fn texts(&self) -> Vec<String> {
        self.ledger.job(JOB).unwrap().notes.into_iter().map(|n| n.body.text).collect()
    }
    fn undo(&self) -> Result<String, LedgerError> {
        self.ledger.undo(&request(), JOB).map(|u| u.sentence)
    }
    fn raw(&self) -> Connection {
        Connection::open(self.dir.path().join("trowel.db")).unwrap()
    }
}

#[test]
fn what_is_kept_is_there_after_opening_again() {
    let f = fixture();
    f.put_note("n1", None, "gutter sagging").unwrap();
    let before = f.ledger.job(JOB).unwrap();
    let Fixture { ledger, dir } = f;
    drop(ledger);
    assert_eq!(open(dir.path()).job(JOB).unwrap(), before);
}

#[test]
fn a_stale_write_is_refused_with_the_other_version() {
    let f = fixture();
    f.put_note("n1", None, "gutter sagging").unwrap();
    f.put_note("n1", Some(1), "gutter sagging 2 in").unwrap();
    let Err(LedgerError::Stale { theirs }) = f.put_note("n1", Some(1), "gutter fine") else { panic!("must be refused") };
    assert_eq!((theirs.rev, theirs.body["text"].as_str()), (2, Some("gutter sagging 2 in")));
    assert_eq!(f.texts(), ["gutter sagging 2 in"]);
    // making it anew is refused as well
    assert!(matches!(f.put_note("n1", None, "again"), Err(LedgerError::Stale { .. })));
}

#[test]
fn the_same_request_is_applied_once() {
    let f = fixture();
    let r = request();
    let change = [Change::put("n1", None, &note("torn boot")).unwrap()];
    let first = f.ledger.apply(&r, JOB, &change, &[]).unwrap();
    assert_eq!(f.ledger.apply(&r, JOB, &change, &[]).unwrap(), first);
    assert_eq!(f.ledger.history(JOB, 100).unwrap().len(), 2);
    let other = [Change::put("n2", None, &note("moss")).unwrap()];
    assert!(matches!(f.ledger.apply(&r, JOB, &other, &[]), Err(LedgerError::Reused)));
    assert_eq!(f.texts(), ["torn boot"]);
}

#[test]
fn a_change_is_whole_or_not_at_all() {
    let f = fixture();
    let changes = [Change::put("n1", None, &note("moss")).unwrap(), Change::put("n2", Some(7), &note("torn boot")).unwrap()];
    assert!(matches!(f.ledger.apply(&request(), JOB, &changes, &[]), Err(LedgerError::NotFound { .. })));
    assert!(f.texts().is_empty());
    assert_eq!(f.ledger.history(JOB, 100).unwrap().len(), 1);
}

#[test]
fn an_entity_of_another_job_cannot_be_touched() {
    let f = fixture();
    f.put_note("n1", None, "moss").unwrap();
    f.ledger.apply(&request(), "job-2", &[Change::put("job-2", None, &Job::named("Heron")).unwrap()], &[]).unwrap();
    let grab = [Change::put("n1", Some(1), &note("mine now")).unwrap()];
    assert!(matches!(f.ledger.apply(&request(), "job-2", &grab, &[]), Err(LedgerError::NotFound { .. })));
    assert!(matches!(f.ledger.get::<Note>("job-2", "n1"), Err(LedgerError::NotFound { .. })));
    assert_eq!(f.texts(), ["moss"]);
}

#[test]
fn undo_walks_back_through_everything_and_stops_at_the_job() {
    let f = fixture();
    f.put_note("n1", None, "gutter sagging").unwrap();
    f.put_note("n1", Some(1), "gutter sagging 2 in").unwrap();
    let cell: Cell = "rear.base".parse().unwrap();
    f.ledger.apply(&request(), JOB, &[Change::put("m", None, &Mark { cell, state: MarkState::Seen }).unwrap()], &[]).unwrap();
    f.ledger.apply(&request(), JOB, &[Change::delete(Kind::Note, "n1", 2)], &[]).unwrap();
    assert!(f.texts().is_empty());
    assert_eq!(f.undo().unwrap(), "Taken back: note deleted: gutter sagging 2 in");
    assert_eq!(f.texts(), ["gutter sagging 2 in"]);
    assert_eq!(f.undo().unwrap(), "Taken back: mark added: rear.base");
    assert_eq!(f.undo().unwrap(), "Taken back: note changed: gutter sagging 2 in");
    assert_eq!(f.texts(), ["gutter sagging"]);
    f.undo().unwrap();
    assert!(matches!(f.undo(), Err(LedgerError::NothingToUndo)));
    assert_eq!(f.ledger.job(JOB).unwrap().job.body.name, "Thistlewick");
    // what was undone can be made again, and undone again
    f.put_note("n1", None, "moss").unwrap();
    f.undo().unwrap();
    assert!(f.texts().is_empty());
    assert_eq!(f.ledger.check().unwrap().problems, Vec::<String>::new());
}

#[test]
fn a_deleted_job_comes_back_by_undo() {
    let f = fixture();
    f.ledger.apply(&request(), JOB, &[Change::delete(Kind::Job, JOB, 1)], &[]).unwrap();
    assert!(matches!(f.ledger.job(JOB), Err(LedgerError::NotFound { .. })));
    assert!(f.ledger.jobs().unwrap().is_empty());
    f.undo().unwrap();
    assert_eq!(f.ledger.jobs().unwrap().len(), 1);
}

#[test]
fn history_reads_as_sentences_with_before_and_after() {
    let f = fixture();
    f.put_note("n1", None, "torn boot").unwrap();
    f.put_note("n1", Some(1), "torn boot 1/4 in").unwrap();
    f.undo().unwrap();
    let rows = f.ledger.history(JOB, 10).unwrap();
    let shown: Vec<String> = rows
        .iter()
        .map(|r| format!("{} {}{}{}", r.who, r.sentence, if r.undo { " (undo)" } else { "" }, if r.undone { " (undone)" } else { "" }))
        .collect();
    insta::assert_snapshot!(shown.join("\n"), @"
    Ida Marrow Note changed: torn boot (undo)
    Ida Marrow Note changed: torn boot 1/4 in (undone)
    Ida Marrow Note added: torn boot
    Ida Marrow Job added: Thistlewick
    ");
    assert_eq!(rows[1].before.as_ref().unwrap()["text"], "torn boot");
}

#[test]
fn a_picture_file_is_checked_on_every_read() {
    let f = fixture();
    let (p, blobs) = picture(None, b"sample");
    f.ledger.apply(&request(), JOB, &[Change::put("p1", None, &p).unwrap()], &blobs).unwrap();
    let hash = &p.original.hash;
    assert_eq!(f.ledger.blob(hash).unwrap(), b"sampleo");
    let file = f.dir.path().join("pictures").join(&hash[..2]).join(hash);
    std::fs::write(&file, b"samplex").unwrap();
    assert!(matches!(f.ledger.blob(hash), Err(LedgerError::BlobDamaged { .. })));
    assert_eq!(f.ledger.check().unwrap().problems.len(), 1);
    // attaching the same bytes again mends the file
    f.ledger.apply(&request(), JOB, &[Change::put("p2", None, &p).unwrap()], &blobs).unwrap();
    assert_eq!(f.ledger.blob(hash).unwrap(), b"sampleo");
    std::fs::remove_file(&file).unwrap();
    assert!(matches!(f.ledger.blob(hash), Err(LedgerError::BlobMissing { .. })));
}

#[test]
fn a_picture_cannot_name_a_note_or_file_that_is_not_there() {
    let f = fixture();
    let (p, blobs) = picture(Some("nowhere"), b"x");
    assert!(matches!(f.ledger.apply(&request(), JOB, &[Change::put("p1", None, &p).unwrap()], &blobs), Err(LedgerError::Sql(_))));
    let (p, _) = picture(None, b"never stored");
    assert!(matches!(f.ledger.apply(&request(), JOB, &[Change::put("p1", None, &p).unwrap()], &[]), Err(LedgerError::Sql(_))));
    assert!(f.ledger.job(JOB).unwrap().pictures.is_empty());
}

#[test]
fn a_database_from_a_newer_version_is_left_alone() {
    let f = fixture();
    f.raw().pragma_update(None, "user_version", 99).unwrap();
    let Fixture { ledger, dir } = f;
    drop(ledger);
    let e = Ledger::open(dir.path(), Arc::new(ledger::SystemClock)).unwrap_err();
    assert!(matches!(e, LedgerError::Newer), "{e}");
}

#[test]
fn a_full_disk_changes_nothing_and_says_so() {
    let f = fixture();
    f.put_note("n1", None, "moss").unwrap();
    let before = f.ledger.job(JOB).unwrap();
    f.ledger.limit_pages_for_test(0).unwrap();
    let long = "gutter ".repeat(2_000);
    let e = f.put_note("n2", None, &long).unwrap_err();
    assert!(matches!(e, LedgerError::DiskFull), "{e}");
    f.ledger.limit_pages_for_test(1_000_000).unwrap();
    assert_eq!(f.ledger.job(JOB).unwrap(), before);
    f.put_note("n2", None, &long).unwrap();
    assert_eq!(f.ledger.check().unwrap().problems, Vec::<String>::new());
}

#[test]
fn a_save_cut_off_in_the_middle_leaves_no_trace() {
    let f = fixture();
    f.put_note("n1", None, "moss").unwrap();
    // Another process writes half a change and is stopped before its commit: its copy of the folder is what a crash leaves.
    let c = f.raw();
    c.execute_batch("BEGIN IMMEDIATE; UPDATE note SET body = '{\"half\":1}', rev = 2 WHERE id = 'n1';").unwrap();
    let copy = TempDir::new().unwrap();
    for name in ["trowel.db", "trowel.db-wal"] {
        let from = f.dir.path().join(name);
        if from.exists() {
            std::fs::copy(from, copy.path().join(name)).unwrap();
        }
    }
    let after = open(copy.path());
    assert_eq!(after.job(JOB).unwrap().notes[0].body.text, "moss");
    assert_eq!(after.check().unwrap().problems, Vec::<String>::new());
}

#[test]
fn a_backup_unpacks_to_the_same_job() {
    let f = fixture();
    f.put_note("n1", None, "torn boot").unwrap();
    let (p, blobs) = picture(Some("n1"), b"bytes");
    f.ledger.apply(&request(), JOB, &[Change::put("p1", None, &p).unwrap()], &blobs).unwrap();
    let file = f.dir.path().join("copy.zip");
    assert!(f.ledger.backup(&file).unwrap().bytes > 0);
    let there = TempDir::new().unwrap();
    zip::ZipArchive::new(std::fs::File::open(&file).unwrap()).unwrap().extract(there.path()).unwrap();
    let again = open(there.path());
    assert_eq!(again.job(JOB).unwrap(), f.ledger.job(JOB).unwrap());
    assert_eq!(again.blob(&p.original.hash).unwrap(), b"byteso");
    assert_eq!(again.check().unwrap().problems, Vec::<String>::new());
}

#[test]
fn check_notices_an_entity_changed_behind_the_journals_back() {
    let f = fixture();
    f.put_note("n1", None, "torn boot").unwrap();
    f.raw().execute("UPDATE note SET body = '{}' WHERE id = 'n1'", []).unwrap();
    let problems = f.ledger.check().unwrap().problems;
    assert!(problems[0].starts_with("The note n1 is not what its history says. Go back to a backup"), "{problems:?}");
    assert!(problems[1].starts_with("The note n1 cannot be read: missing field"), "a body of the wrong form is named as well");
}

#[test]
fn errors_say_what_to_do() {
    let hash = "h".to_owned();
    let all = [
        LedgerError::NotFound { kind: Kind::Note, id: "n".into() },
        LedgerError::Reused,
        LedgerError::NothingToUndo,
        LedgerError::AlreadyHere,
        LedgerError::Coming,
        LedgerError::BlobMissing { hash: hash.clone() },
        LedgerError::BlobDamaged { hash },
        LedgerError::DiskFull,
        LedgerError::Newer,
    ];
    insta::assert_snapshot!(all.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n"), @"
    This note is not here. It may have been deleted; undo brings it back.
    This request was already used for another change. Reload the page and try again.
    There is nothing left to undo in this job.
    This job is already here. Open it, or delete it before reading it in again.
    This job is being read in right now. Wait a moment, then look whether it is there.
    The file of a picture is missing from the picture folder. Attach the good file again, or go back to a backup.
    The file of a picture was damaged on disk. Attach the good file again, or go back to a backup.
    The disk is full, so nothing was changed. Free some space and try again.
    This data folder was written by a newer version of Trowel. Install that version, or start with another folder.
    ");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Whatever is done to a job, undoing it all leads back to where it began, and the history accounts for every state.
    #[test]
    fn undoing_everything_leads_back(steps in prop::collection::vec((0_usize..3, 0_usize..4), 1..14)) {
        let f = fixture();
        f.put_note("kept", None, "moss").unwrap();
        let start = f.texts();
        let mut done = 0;
        for (what, which) in steps {
            let id = format!("n{which}");
            let here = f.ledger.job(JOB).unwrap().notes.iter().find(|n| n.id == id).map(|n| n.rev);
            let ok = match (what, here) {
                (0 | 1, base) => f.put_note(&id, base, &format!("torn boot {done}")).is_ok(),
                (_, Some(rev)) => f.ledger.apply(&request(), JOB, &[Change::delete(Kind::Note, &id, rev)], &[]).is_ok(),
                _ => false,
            };
            done += usize::from(ok);
        }
        for _ in 0..done {
            f.undo().unwrap();
        }
        prop_assert_eq!(f.texts(), start);
        prop_assert_eq!(f.ledger.check().unwrap().problems, Vec::<String>::new());
    }
}

#[test]
fn redo_does_again_what_was_taken_back_until_something_else_is_changed() {
    let f = fixture();
    let redo = || f.ledger.redo(&request(), JOB).map(|u| u.sentence);
    f.put_note("n1", None, "moss").unwrap();
    f.put_note("n2", None, "torn boot").unwrap();
    assert!(matches!(redo(), Err(LedgerError::NothingToRedo)));
    f.undo().unwrap();
    f.undo().unwrap();
    assert!(f.texts().is_empty());
    assert_eq!(redo().unwrap(), "Done again: note added: moss", "its own words, not those of what took it back");
    assert_eq!(f.texts(), ["moss"]);
    f.undo().unwrap();
    assert_eq!(redo().unwrap(), "Done again: note added: moss");
    redo().unwrap();
    assert_eq!(f.texts(), ["moss", "torn boot"]);
    assert!(matches!(redo(), Err(LedgerError::NothingToRedo)));
    // Undone once more, and then changed: what was taken back is gone for redo, not from the history.
    f.undo().unwrap();
    f.put_note("n3", None, "moss again").unwrap();
    assert!(matches!(redo(), Err(LedgerError::NothingToRedo)));
    f.undo().unwrap();
    f.undo().unwrap();
    assert!(f.texts().is_empty());
    assert!(f.ledger.history(JOB, 100).unwrap().len() > 8);
}

#[test]
fn a_job_can_be_seen_as_it_was() {
    let f = fixture();
    f.put_note("n1", None, "moss").unwrap();
    let then = f.ledger.history(JOB, 1).unwrap()[0].seq;
    let was = f.ledger.job(JOB).unwrap();
    f.put_note("n1", Some(1), "moss 2 ft").unwrap();
    f.put_note("n2", None, "torn boot").unwrap();
    f.ledger.apply(&request(), JOB, &[Change::delete(Kind::Note, "n1", 2)], &[]).unwrap();
    let at = f.ledger.job_at(JOB, then).unwrap();
    assert_eq!((at.notes, at.job), (was.notes, was.job));
    let now = f.ledger.history(JOB, 1).unwrap()[0].seq;
    let (at, is) = (f.ledger.job_at(JOB, now).unwrap(), f.ledger.job(JOB).unwrap());
    assert_eq!((at.notes, at.marks, at.items), (is.notes, is.marks, is.items));
    assert!(matches!(f.ledger.job_at(JOB, 0), Err(LedgerError::NotFound { .. })));
}

#[test]
fn words_are_found_wherever_they_are_and_follow_every_change() {
    let f = fixture();
    f.put_note("n1", None, "torn boot on the wing").unwrap();
    f.put_note("n2", None, "gutter sagging").unwrap();
    let found =
        |words: &str| f.ledger.search(words, None, 10).unwrap().into_iter().map(|h| h.note_id.unwrap_or_default()).collect::<Vec<_>>();
    assert_eq!(found("boot torn"), ["n1"]);
    assert_eq!(found("gut"), ["n2"], "a beginning of a word");
    assert_eq!(found("torn b"), ["n1"]);
    assert_eq!(found("torn z"), ["n1"], "one letter says nothing yet");
    assert_eq!(found("torn zz"), Vec::<String>::new());
    assert_eq!(found("standing water"), ["n2"], "by the condition it was read as");
    assert_eq!(found("hail bruise"), Vec::<String>::new());
    assert_eq!(found("thistle"), [""], "the job's own name");
    f.put_note("n2", Some(1), "gutter fine").unwrap();
    assert_eq!(found("sagging"), Vec::<String>::new());
    f.undo().unwrap();
    assert_eq!(found("sagging"), ["n2"]);
    f.ledger.apply(&request(), JOB, &[Change::delete(Kind::Note, "n1", 1)], &[]).unwrap();
    assert_eq!(found("boot"), Vec::<String>::new());
    // Whatever is typed is words, never a query.
    for odd in ["\"", "boot OR gutter)", "NEAR(", "*", "a:b", "", "'; DROP TABLE note"] {
        f.ledger.search(odd, None, 10).unwrap();
    }
    assert!(f.ledger.search("boot OR", None, 10).unwrap().is_empty());
}

#[test]
fn a_row_of_the_list_is_kept_until_the_job_changes() {
    let f = fixture();
    let row = || f.ledger.listed(0, 10).unwrap().0.remove(0);
    let first = row();
    assert_eq!(first.summary, None);
    f.ledger.keep_summary(JOB, first.seq, &serde_json::json!({ "name": "x" })).unwrap();
    assert!(row().summary.is_some());
    f.put_note("n1", None, "moss").unwrap();
    assert_eq!(row().summary, None);
    f.ledger.keep_summary(JOB, first.seq, &serde_json::json!({ "name": "old" })).unwrap();
    assert_eq!(row().summary, None, "a row worked out before the change is not kept");
    f.ledger.keep_summary(JOB, row().seq, &serde_json::json!({})).unwrap();
    let practice = envelope::practice::Practice::usual("Plumb & Daylight");
    f.ledger.apply(&request(), "p", &[Change::put("p", None, &practice).unwrap()], &[]).unwrap();
    assert_eq!(row().summary, None, "another practice may judge otherwise");
    assert_eq!(f.ledger.practices().unwrap()[0].body, practice);
}
