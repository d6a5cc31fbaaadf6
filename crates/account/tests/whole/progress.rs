//! What was seen and what was not: counted by face, by zone and by place, each place once.

use crate::house::{FACES, any_house, case, note, record};
use envelope::finding::Urgency;
use envelope::round::{Range, Wanted, wanted};
use envelope::site::{Cell, CellState, Face, LimitReason, Mark, MarkState, Zone};
use proptest::prelude::*;

fn any_mark() -> impl Strategy<Value = (usize, usize, bool)> {
    (0..4_usize, 0..6_usize, any::<bool>())
}

const ZONES: [Zone; 6] = [Zone::Roof, Zone::Edge, Zone::UpperWall, Zone::Openings, Zone::Base, Zone::Ground];

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    #[test]
    fn every_place_is_counted_once_by_face_and_once_by_zone(h in any_house(), marks in prop::collection::vec(any_mark(), 0..12), noted in prop::option::of(any_mark())) {
        let mut whole = h.whole();
        let mut cells = std::collections::BTreeMap::new();
        for (f, z, limited) in marks {
            cells.insert(Cell::Outside(FACES[f], ZONES[z]), limited);
        }
        for (cell, limited) in &cells {
            let state = if *limited { MarkState::Limited { reason: LimitReason::TooSteep, detail: String::new() } } else { MarkState::Seen };
            whole.marks.push(record(&cell.to_string(), Mark { cell: *cell, state }));
        }
        if let Some((f, z, _)) = noted {
            whole.notes.push(note("n1", FACES[f], ZONES[z], None, "Paint is peeling"));
        }
        let c = case(whole);
        let v = c.view();
        let of = |names: Vec<&str>| {
            let rows = v.progress.iter().filter(|p| names.contains(&p.what.as_str()));
            rows.fold((0, 0), |(done, of), p| (done + p.done, of + p.of))
        };
        let by_face = of(Face::ALL.iter().map(|f| f.name()).collect());
        let by_zone = of(ZONES.iter().map(|z| z.name()).collect());
        prop_assert_eq!(by_face, by_zone);
        prop_assert!(v.progress.iter().all(|p| p.done <= p.of && p.of > 0));
        let expected = v.coverage.cells.iter().filter(|c| c.expected && matches!(c.cell, Cell::Outside(..)));
        prop_assert_eq!(by_face.1, expected.count() + v.expectations.len());
        // What is left is what nobody looked at, could not look at, or noted anything of.
        let untouched: Vec<&str> =
            v.coverage.cells.iter().filter(|c| c.expected && c.state == CellState::Untouched).map(|c| c.name.as_str()).collect();
        prop_assert_eq!(v.closing.gap.places.iter().map(String::as_str).collect::<Vec<_>>(), untouched.clone());
        for cell in cells.keys() {
            let name = v.coverage.cells.iter().find(|c| c.cell == *cell).map(|c| c.name.as_str());
            prop_assert!(name.is_some_and(|n| !untouched.contains(&n)), "{cell} was looked at");
        }
        let said = match untouched.len() {
            0 => String::new(),
            1 => "One place was not looked at.".to_owned(),
            n => format!("{n} places were not looked at."),
        };
        prop_assert_eq!(&v.closing.gap.sentence, &said);
    }

    // A picture that nobody said the kind of may be either: what is missing is what no choice of them could make up for.
    #[test]
    fn a_finding_that_presses_wants_a_close_and_a_wide_picture(h in any_house(), taken in prop::collection::vec(prop::option::of(any::<bool>()), 0..4)) {
        let mut whole = h.whole();
        whole.notes = vec![note("n1", Face::Rear, Zone::Roof, None, "Pipe boot is split"), note("n2", Face::Rear, Zone::Base, None, "Paint is peeling")];
        let c = case(whole);
        prop_assert!(c.findings().iter().any(|f| f.note_id == "n1" && f.urgency <= Urgency::BeforeNextRain), "{:?}", c.findings());
        let ranges: Vec<Option<Range>> = taken.iter().map(|t| t.map(|close| if close { Range::Close } else { Range::Wide })).collect();
        let out = wanted(c.findings(), ranges.iter().map(|r| ("n1", *r)));
        // Every way in which the unsaid could be told apart.
        let unsaid = ranges.iter().filter(|r| r.is_none()).count();
        let least = (0..1_u32 << unsaid)
            .map(|choice| {
                let mut k = 0;
                let told: Vec<Range> = ranges
                    .iter()
                    .map(|r| {
                        r.unwrap_or_else(|| {
                            k += 1;
                            if choice >> (k - 1) & 1 == 1 { Range::Close } else { Range::Wide }
                        })
                    })
                    .collect();
                usize::from(!told.contains(&Range::Close)) + usize::from(!told.contains(&Range::Wide))
            })
            .min()
            .unwrap();
        let ours: Vec<&Wanted> = out.iter().filter(|w| w.note_id == "n1").collect();
        prop_assert_eq!(ours.len(), usize::from(least > 0), "{:?} of {:?}: {:?}", ours, ranges, c.findings());
        if least == 2 {
            prop_assert_eq!(ours[0].missing.as_str(), "a close and a wide one");
        }
        prop_assert!(out.iter().all(|w| w.note_id == "n1"), "peeling paint can wait");
    }
}
