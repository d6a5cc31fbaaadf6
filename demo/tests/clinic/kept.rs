//! What is put into the ledger.

use crate::loaded;
use account::Case;
use demo::{SCENES, draw, load};
use std::collections::BTreeSet;

#[test]
fn every_scene_is_kept_and_says_when_it_was_taken() {
    let (_folder, ledger) = loaded();
    let mut scenes = BTreeSet::new();
    for job in ledger.jobs().unwrap() {
        let day = job.job.body.brief.visited_on.unwrap().to_string();
        for p in ledger.job(&job.job.id).unwrap().pictures.iter().map(|p| &p.body) {
            assert_eq!((p.width, p.height), (960, 720), "{}", p.name);
            assert!(p.taken_at.as_ref().is_some_and(|t| t.starts_with(&day)) && p.caption.len() > " (sample)".len(), "{p:?}");
            scenes.insert(p.name.clone());
        }
    }
    assert_eq!(scenes, SCENES.iter().map(|s| format!("{s}.jpg")).collect());
}

#[test]
fn a_scene_says_where_its_camera_looked() {
    let (jpeg, _) = draw(SCENES[0], "2026-11-18 10:31", Some(201.5)).unwrap();
    let taken = picture::ingest(jpeg, 10_000_000).unwrap();
    assert_eq!((taken.taken_at.as_deref(), taken.heading), (Some("2026-11-18T10:31:00"), Some(201.5)));
    assert!(draw("no such scene", "2026-11-18 10:31", None).is_none());
}

#[test]
fn loading_twice_changes_nothing() {
    let (_folder, ledger) = loaded();
    let before = ledger.jobs().unwrap();
    assert_eq!(load(&ledger).unwrap(), 0);
    assert_eq!(ledger.jobs().unwrap(), before);
    let case = Case::new(ledger.job(&before[0].job.id).unwrap(), ledger.today());
    assert_eq!(case.whole().job.body.name, "Thistlewick Animal Clinic");
    assert_eq!(case.view().coverage.sentence, "23 of 25 places seen, 1 could not be, 1 still to do.");
    assert_eq!(ledger.check().unwrap().problems, Vec::<String>::new());
}
