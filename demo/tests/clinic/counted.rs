//! What the account of a house counts adds up, and is worked out anew exactly when something it stands on changed.

use crate::{case, loaded};
use account::{Cases, building_account, counted, return_from};
use envelope::finding::{ReportPart, Urgency};
use envelope::practice::Practice;
use envelope::site::{Cell, CellState};
use ledger::{Change, Request};
use std::collections::BTreeSet;
use std::sync::Arc;

fn request() -> Request {
    Request { id: uuid::Uuid::new_v4(), who: "Ida Marrow".into() }
}

#[test]
fn findings_are_numbered_once_through_and_stand_in_one_place_each() {
    let case = case(|_| ());
    let view = case.view();
    let numbers: Vec<usize> = view.findings.iter().filter_map(|f| f.number).collect();
    assert_eq!(numbers, (1..=numbers.len()).collect::<Vec<_>>(), "in order, none twice and none left out");
    assert!(numbers.len() > 15, "only {} findings, so little was tried", numbers.len());
    // Soonest first, as they are numbered.
    let main: Vec<_> = view.findings.iter().filter(|f| f.section == ReportPart::Findings).collect();
    assert!(main.windows(2).all(|w| w[0].urgency <= w[1].urgency));
    let by_cell = case.by_cell();
    let told: usize = by_cell.values().map(Vec::len).sum();
    let ids: BTreeSet<&str> = by_cell.values().flatten().map(|f| f.note_id.as_str()).collect();
    assert_eq!((told, ids.len()), (view.findings.len(), view.findings.len()));
    for (cell, list) in &by_cell {
        for f in list {
            let note = view.notes.iter().find(|n| n.id == f.note_id).unwrap();
            assert_eq!(note.body.place.cell(), *cell, "{}", f.title);
        }
    }
}

/// The first page says of the whole what the whole says of itself.
#[test]
fn the_first_page_counts_what_is_there() {
    let case = case(|_| ());
    let (view, front) = (case.view(), case.front());
    let main: Vec<_> = view.findings.iter().filter(|f| f.section == ReportPart::Findings).collect();
    let said = counted(&main);
    assert!(front.answer.contains(&said), "{:?}", front.answer);
    let figures: Vec<usize> = said.split(|c: char| !c.is_ascii_digit()).filter(|w| !w.is_empty()).map(|w| w.parse().unwrap()).collect();
    assert_eq!(figures[0], figures[1..].iter().sum::<usize>(), "{said}");
    assert_eq!(figures[0], main.len());
    // Every danger, and whatever is first is one of the findings under its own number.
    assert_eq!(front.dangers.len(), main.iter().filter(|f| f.hazard).count());
    for thing in front.first.iter().chain(&front.dangers) {
        let finding = view.findings.iter().find(|f| f.note_id == thing.note_id).unwrap();
        assert_eq!((Some(thing.number), &thing.title), (finding.number, &finding.title));
    }
    let now = main.iter().filter(|f| f.urgency == Urgency::Now).count();
    assert!(front.first.len() >= now.min(5), "what is to be done now is named first");
    let of = |state: CellState| view.coverage.cells.iter().filter(|c| c.expected && c.state == state).count();
    assert_eq!((front.unseen.limited, front.unseen.untouched), (of(CellState::Limited), of(CellState::Untouched)));
}

#[test]
fn every_place_is_counted_once_whichever_way_it_is_counted() {
    let case = case(|_| ());
    let view = case.view();
    let cells: BTreeSet<String> = view.coverage.cells.iter().map(|c| c.cell.to_string()).collect();
    let all: BTreeSet<String> = Cell::all().into_iter().map(|c| c.to_string()).collect();
    assert_eq!(cells, all);
    let tally = &view.coverage.tally;
    assert_eq!(tally.expected, view.coverage.cells.iter().filter(|c| c.expected).count());
    assert_eq!(tally.seen + tally.noted + tally.limited + tally.untouched, tally.expected);
    assert_eq!(view.coverage.cells.iter().map(|c| c.notes).sum::<usize>(), view.notes.len());
    // What is left to look at is the same from every face, in another order.
    let from: Vec<BTreeSet<String>> =
        view.left.iter().map(|l| l.left.iter().map(|x| serde_json::to_string(x).unwrap()).collect()).collect();
    assert!(from.windows(2).all(|w| w[0] == w[1]), "{from:#?}");
    assert_eq!(view.closing.gap.places.is_empty(), view.closing.gap.sentence.is_empty());
}

#[test]
fn the_same_case_is_given_while_nothing_changes_and_another_when_anything_does() {
    let (_folder, ledger) = loaded();
    let jobs: Vec<String> = ledger.jobs().unwrap().into_iter().map(|j| j.job.id).collect();
    let cases = Cases::default();
    let get = |job: &str| cases.get(&ledger, job).unwrap();
    let first = get(&jobs[0]);
    assert!(Arc::ptr_eq(&first, &get(&jobs[0])));
    // Another job's change is not this one's.
    let other = get(&jobs[1]);
    let note = &other.whole().notes[0];
    let change = Change::put(&note.id, Some(note.rev), &envelope::round::Note { text: "seen again".into(), ..note.body.clone() }).unwrap();
    ledger.apply(&request(), &jobs[1], &[change], &[]).unwrap();
    assert!(Arc::ptr_eq(&first, &get(&jobs[0])));
    let changed = get(&jobs[1]);
    assert!(!Arc::ptr_eq(&other, &changed) && changed.view().notes.iter().any(|n| n.body.text == "seen again"));
    // A practice is everybody's.
    let practice = Practice { name: "another".into(), ..first.practice().clone() };
    let id = uuid::Uuid::new_v4().to_string();
    ledger.apply(&request(), &id, &[Change::put(&id, None, &practice).unwrap()], &[]).unwrap();
    let after = get(&jobs[0]);
    assert!(!Arc::ptr_eq(&first, &after));
    assert_ne!(first.key(), after.key());
    // What was handed out stays what it was.
    assert!(first.practice().name != "another");
}

/// Chances are chances, money that is spent is not spent again, and what is expected of all years is what is expected at their end.
#[test]
fn the_reserve_of_the_building_adds_up() {
    let (_folder, ledger) = loaded();
    let building = ledger.buildings().unwrap().remove(0);
    let cases = Cases::default();
    let visits: Vec<_> = ledger.jobs_of_building(&building.id).unwrap().iter().map(|j| cases.get(&ledger, j).unwrap()).collect();
    assert!(visits.len() >= 2);
    let a = building_account(&building.body, &visits, ledger.today());
    let plan = a.reserve.expect("the demo's building has a plan");
    let mut expected = 0.0;
    for y in &plan.years {
        expected += y.expected;
        assert!((0.0..=1.0).contains(&y.chance), "{}: {}", y.year, y.chance);
        assert!(y.what.iter().all(|w| (0.0..=1.0).contains(&w.chance) && w.chance <= y.chance + 1e-9), "{}", y.year);
        assert!(y.spent[0] <= y.spent[1] + 1e-6 && y.spent[1] <= y.spent[2] + 1e-6, "{}", y.year);
        assert!((y.spent_mean - expected).abs() < 1e-6 * expected.max(1.0), "{}: {} against {expected}", y.year, y.spent_mean);
    }
    for w in plan.years.windows(2) {
        assert_eq!(w[1].year, w[0].year + 1);
        assert!((0..3).all(|k| w[1].spent[k] >= w[0].spent[k] - 1e-6), "what is spent stays spent");
        assert!((w[1].put_by - w[0].put_by - plan.level).abs() < 1e-6, "the same every year");
    }
    // In nine of ten cases there is enough at every year's end.
    assert!(plan.years.iter().all(|y| y.put_by + 1e-6 >= y.spent[2]));
    // Visits stand in the order of their days, whatever order they come in.
    let turned: Vec<_> = visits.iter().rev().cloned().collect();
    assert_eq!(
        serde_json::to_value(building_account(&building.body, &turned, ledger.today())).unwrap()["time_line"],
        serde_json::to_value(&a.time_line).unwrap()
    );
}

/// A return visit asks about every recommendation of the earlier one, once, under its own number.
#[test]
fn a_return_visit_takes_every_recommendation_along() {
    let case = case(|_| ());
    let kept = return_from(&case);
    let asked: BTreeSet<usize> = kept.lines.iter().map(|l| l.number).collect();
    assert_eq!(asked.len(), kept.lines.len());
    for l in &kept.lines {
        let f = case.view().findings.iter().find(|f| f.number == Some(l.number)).unwrap();
        assert_eq!((&l.title, l.hazard), (&f.title, f.hazard));
        assert!(l.became.is_none(), "nothing is answered before anybody was there");
    }
    assert!(kept.lines.len() > 10);
}

/// Nobody wants to read "-0": a sum of nothing, a slope that does not fall that way.
#[test]
fn no_figure_is_less_than_nought_by_nothing() {
    fn look(v: &serde_json::Value, at: &str, found: &mut std::collections::BTreeSet<String>) {
        match v {
            serde_json::Value::Number(n) if n.as_f64().is_some_and(|x| x == 0.0 && x.is_sign_negative()) => {
                found.insert(at.to_owned());
            }
            serde_json::Value::Array(all) => all.iter().for_each(|x| look(x, at, found)),
            serde_json::Value::Object(all) => all.iter().for_each(|(k, x)| look(x, &format!("{at}/{k}"), found)),
            _ => {}
        }
    }
    let case = crate::case(|_| ());
    let mut found = std::collections::BTreeSet::new();
    look(&crate::carried::all(&case), "", &mut found);
    assert!(found.is_empty(), "{found:#?}");
}
