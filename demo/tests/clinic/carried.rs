//! What a change did not touch is carried over to the next case. It must be what it would be if everything were worked out again.

use crate::loaded;
use account::{Case, Cases};
use envelope::measure::Units;
use envelope::storm::record::StormVisit;
use envelope::trace::record::Trace;
use envelope::wall::record::Walls;
use ledger::{Change, Kind, Request};
use serde_json::{Value, json};

/// Everything dear that a case says.
pub(crate) fn all(case: &Case) -> Value {
    json!([
        case.roof(),
        case.rain(),
        case.survey().account,
        case.storm().unwrap(),
        case.walls(),
        case.findings(),
        case.moisture(),
        case.trace(),
        case.damage()
    ])
}

#[test]
fn a_case_after_any_change_says_what_a_new_one_says() {
    let (_folder, ledger) = loaded();
    let job = ledger.jobs().unwrap()[0].job.id.clone();
    let cases = Cases::default();
    let request = || Request { id: uuid::Uuid::new_v4(), who: "Ida Marrow".into() };

    type Made = fn(&ledger::WholeJob) -> Change;
    // One change of each kind, each of which changes what follows from it.
    let changes: [(&str, Made); 10] = [
        ("the brief", |w| {
            let mut job = w.job.body.clone();
            job.brief.units = Some(Units::Us);
            Change::put(&w.job.id, Some(w.job.rev), &job).unwrap()
        }),
        ("the roof", |w| {
            let r = w.roof.as_ref().unwrap();
            let mut roof = r.body.clone();
            roof.masses[0].eave = "3.4 m".into();
            Change::put(&r.id, Some(r.rev), &roof).unwrap()
        }),
        ("the rainwater", |w| {
            let r = w.rainwater.as_ref().unwrap();
            let mut rain = r.body.clone();
            rain.storm.i5 = "150 mm/h".into();
            Change::put(&r.id, Some(r.rev), &rain).unwrap()
        }),
        ("the ground", |w| {
            let g = w.ground.as_ref().unwrap();
            let mut ground = g.body.clone();
            ground.spots.truncate(ground.spots.len() - 1);
            Change::put(&g.id, Some(g.rev), &ground).unwrap()
        }),
        ("a note", |w| {
            let n = &w.notes[0];
            Change::delete(Kind::Note, &n.id, n.rev)
        }),
        ("a mark", |w| {
            let m = &w.marks[0];
            Change::delete(Kind::Mark, &m.id, m.rev)
        }),
        ("the walls", |w| {
            let r = w.walls.as_ref().unwrap();
            Change::put(&r.id, Some(r.rev), &Walls { details: vec![], ..r.body.clone() }).unwrap()
        }),
        ("the moisture", |w| {
            let m = w.moisture.as_ref().unwrap();
            let mut moisture = m.body.clone();
            moisture.readings.retain(|r| r.id != "P10");
            Change::put(&m.id, Some(m.rev), &moisture).unwrap()
        }),
        ("the count after a storm", |w| {
            let soft = json!({ "soft": [{ "id": "M1", "face": "rear", "what": "gutter", "count": 3 }] });
            Change::put(&Kind::Storm.only_id(&w.job.id), None, &serde_json::from_value::<StormVisit>(soft).unwrap()).unwrap()
        }),
        ("the tracing", |w| {
            let t = w.trace.as_ref().unwrap();
            Change::put(&t.id, Some(t.rev), &Trace { tests: vec![], ..t.body.clone() }).unwrap()
        }),
    ];
    for (what, change) in &changes {
        let before = cases.get(&ledger, &job).unwrap();
        all(&before);
        let change = change(before.whole());
        ledger.apply(&request(), &job, &[change], &[]).unwrap();
        let after = cases.get(&ledger, &job).unwrap();
        let fresh = Case::new(ledger.job(&job).unwrap(), ledger.today());
        assert_eq!(all(&after), all(&fresh), "after a change of {what}");
        // What nothing touched is the same thing, not one that is like it.
        let carried = std::ptr::eq(before.survey(), after.survey());
        assert_eq!(
            carried,
            ["a mark", "the walls", "the moisture", "the tracing", "the count after a storm"].contains(what),
            "after a change of {what}"
        );
    }
}
