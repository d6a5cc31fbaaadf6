use super::*;
use crate::finding::catalogue;
use crate::round::vocabulary::vocabulary;
use crate::site::Surface;
use proptest::prelude::*;

fn here(face: Face, zone: Zone) -> Context {
    Context { place: Place::outside(face, zone), front: Bearing::new(180.0).ok(), own_words: vec![], units: Default::default() }
}

/// Lines as people type them on site, where they stand, and the condition that is meant.
const LINES: &[(&str, Zone, &str)] = &[
    ("stair crack 1/16 x 4' under kitchen window", Zone::Base, "brick-stair-crack"),
    ("moss on lower third", Zone::Roof, "roof-growth-moss"),
    ("torn boot", Zone::Roof, "pipe-boot-torn"),
    ("pipe jack cracked", Zone::Roof, "pipe-boot-torn"),
    ("no cricket behind chimney, stack 45 in wide", Zone::Roof, "chimney-cricket-short"),
    ("no kick-out", Zone::Roof, "kickout-missing"),
    ("gutter end no downspout", Zone::Edge, "gutter-outlets-short"),
    ("fascia rot 2ft", Zone::Edge, "soffit-fascia-damaged"),
    ("gutter holding water, back-pitched 1/2 in", Zone::Edge, "gutter-standing-water"),
    ("gutters overflowed, tiger stripes 6 ft", Zone::Edge, "gutter-overflow-marks"),
    ("downspout dumps at wall", Zone::Ground, "downspout-at-wall"),
    ("downspout torn elbow", Zone::Edge, "downspout-torn"),
    ("no gutter", Zone::Edge, "gutter-absent"),
    ("gutter clean", Zone::Edge, "gutter-ok"),
    ("stucco hairline crack off the window corner", Zone::UpperWall, "stucco-crack"),
    ("paint peeling on trim", Zone::Openings, "trim-finish-failed"),
    ("caulk missing at window 3 ft", Zone::Openings, "wall-sealant-open"),
    ("no vacuum breaker on hose bib", Zone::Openings, "hose-tap-unprotected"),
    ("dryer vent lint", Zone::Openings, "dryer-outlet-faulty"),
    ("soil high at siding 1 in", Zone::Base, "soil-high-at-cladding"),
    ("mulch up to siding", Zone::Base, "mulch-against-wall"),
    ("parging off 2x4 ft", Zone::Base, "parge-loose"),
    ("slab tips back 1%", Zone::Ground, "flatwork-toward-wall"),
    ("negative grade 2 in over 10 ft", Zone::Ground, "grade-toward-wall"),
    ("standing water in yard", Zone::Ground, "ponding-in-yard"),
    ("sprinkler head too close 4 in", Zone::Ground, "spray-head-close"),
    ("limb on roof", Zone::Roof, "limb-contact"),
    ("ivy on wall", Zone::Base, "shrub-against-wall"),
    ("ceiling stain 12 in reads wet", Zone::Inside, "ceiling-stain"),
    ("head flashing reversed, tape behind", Zone::Openings, "flash-tape-lap-reversed"),
    ("house wrap torn 3 in", Zone::UpperWall, "wrb-hole"),
    ("overdriven nails whole row", Zone::UpperWall, "wrb-fastener-overdriven"),
    ("slab lip 1 1/2 in", Zone::Base, "slab-edge-lip"),
    ("hail hits 6", Zone::Roof, "hail-bruise"),
    ("dents in vents", Zone::Roof, "hail-dent-metal"),
    ("efflorescence 2 ft high", Zone::Base, "masonry-white-stain"),
    ("cable end rust", Zone::Base, "cable-end-open"),
    ("door weatherstrip torn", Zone::Openings, "door-seal-torn"),
    ("swale works, good", Zone::Ground, "site-drain-ok"),
    ("slopes away 5 %", Zone::Ground, "grade-away-ok"),
    ("dead corner, no way out", Zone::Ground, "blind-corner-trap"),
    ("skylight corner not sealed", Zone::Roof, "skylight-frame-open"),
    ("leaves packed in valley 3 ft", Zone::Roof, "roof-debris-dam"),
    ("no step flashing at wall, caulk instead", Zone::Roof, "wall-flashing-missing"),
    ("light fixture not sealed", Zone::Openings, "fixture-unsealed"),
    // A pronoun stands for the part that was named before it.
    ("light fixture loose, gap behind it 1/4 in", Zone::Openings, "fixture-unsealed"),
    ("stone veneer hollow, gap behind it", Zone::UpperWall, "stone-loose-missing"),
    ("meter box, gap behind it, not foamed", Zone::Openings, "fixture-unsealed"),
    ("W2 head lap reversed", Zone::Openings, "flash-tape-lap-reversed"),
    ("W3 head flange over the wrap", Zone::Openings, "flash-tape-lap-reversed"),
    ("no end dams on the sill pan", Zone::Openings, "sill-pan-corner-loose"),
    ("ledge membrane pinned to the wall", Zone::Base, "ledge-membrane-misplaced"),
    ("gap at W2 not foamed", Zone::Openings, "fixture-unsealed"),
    ("butt joint in the wrap not taped", Zone::UpperWall, "wrb-seam-open"),
];

#[test]
fn lines_as_typed_on_site_find_their_condition() {
    let mut wrong = Vec::new();
    for (line, zone, meant) in LINES {
        let r = read(line, &here(Face::Rear, *zone));
        if r.notes[0].condition.as_deref() != Some(*meant) {
            wrong.push(format!("{line}: {:?}", r.notes[0].candidates.iter().map(|c| (&c.condition, c.confidence)).collect::<Vec<_>>()));
        }
    }
    assert!(wrong.is_empty(), "{} of {} read otherwise:\n{}", wrong.len(), LINES.len(), wrong.join("\n"));
}

/// A person who reads a condition's name off the page and types it gets that condition.
#[test]
fn every_condition_is_found_by_its_name() {
    let missed: Vec<_> = catalogue()
        .rows()
        .iter()
        .filter(|row| {
            read(&row.name.to_lowercase(), &here(Face::Rear, vocabulary().conditions[catalogue().order(&row.id).unwrap()].zones[0])).notes
                [0]
            .condition
            .as_ref()
                != Some(&row.id)
        })
        .map(|row| {
            (
                &row.id,
                read(&row.name.to_lowercase(), &here(Face::Rear, Zone::Roof)).notes.iter().map(|n| n.condition.clone()).collect::<Vec<_>>(),
            )
        })
        .collect();
    assert!(missed.is_empty(), "{missed:#?}");
}

#[test]
fn two_findings_in_a_line_become_two_notes() {
    let r = read("gutter end no downspout, fascia rot 2ft", &here(Face::Rear, Zone::Edge));
    let got: Vec<_> = r.notes.iter().map(|n| (n.condition.as_deref().unwrap(), n.text.as_str(), n.measures.len())).collect();
    assert_eq!(got, [("gutter-outlets-short", "gutter end no downspout", 0), ("soffit-fascia-damaged", "fascia rot 2ft", 1)]);
}

#[test]
fn places_are_read_only_where_they_are_places() {
    let at = |line: &str| {
        let n = read(line, &here(Face::Rear, Zone::Edge)).notes.remove(0);
        (n.place.face.unwrap(), n.place.zone)
    };
    assert_eq!(at("w upper sprinkler 3in spray on siding"), (Face::Left, Zone::UpperWall));
    assert_eq!(at("left side stucco crack"), (Face::Left, Zone::Edge));
    assert_eq!(at("north gutter sagging"), (Face::Rear, Zone::Edge));
    assert_eq!(at("front gutter sagging"), (Face::Front, Zone::Edge));
    assert_eq!(at("right here gutter sagging"), (Face::Rear, Zone::Edge));
    assert_eq!(at("gutter done right"), (Face::Rear, Zone::Edge));
    assert_eq!(at("gutter back-pitched"), (Face::Rear, Zone::Edge));
    assert_eq!(at("nails left on roof"), (Face::Rear, Zone::Roof));
    assert_eq!(at("w/ rust on gutter"), (Face::Rear, Zone::Edge));
}

#[test]
fn without_a_known_front_compass_words_stay_text() {
    let context = Context { front: None, ..here(Face::Rear, Zone::Edge) };
    let n = read("north gutter sagging", &context).notes.remove(0);
    assert_eq!((n.place.face, n.left_over.contains("north")), (Some(Face::Rear), true));
}

#[test]
fn a_station_is_kept_and_does_not_become_the_part() {
    let n = read("stair crack 1/16 x 4' under kitchen window", &here(Face::Rear, Zone::Base)).notes.remove(0);
    assert_eq!(n.place.station.as_deref(), Some("under kitchen window"));
    assert_eq!(n.place.zone, Zone::Base);
    assert_eq!(n.measures.len(), 2);
}

#[test]
fn a_station_belongs_to_its_own_finding() {
    let r = read("stucco crack under kitchen window, hose bib no vacuum breaker", &here(Face::Rear, Zone::UpperWall));
    let stations: Vec<_> = r.notes.iter().map(|n| n.place.station.as_deref()).collect();
    assert_eq!(stations, [Some("under kitchen window"), None]);
}

#[test]
fn what_is_inside_goes_inside_behind_the_face() {
    let n = read("ceiling stain 12 in in treatment room", &here(Face::Rear, Zone::Roof)).notes.remove(0);
    assert_eq!((n.place.zone, n.place.face, n.place.surface), (Zone::Inside, Some(Face::Rear), Some(Surface::Ceiling)));
}

#[test]
fn no_in_front_of_something_bad_makes_it_good() {
    let n = read("no cracks in brick", &here(Face::Left, Zone::Base)).notes.remove(0);
    assert_eq!((n.condition.as_deref(), n.kind), (Some("wall-no-movement-ok"), NoteKind::Good));
}

#[test]
fn praise_without_a_known_condition_is_still_done_right() {
    let n = read("valley lining done right", &here(Face::Rear, Zone::Roof)).notes.remove(0);
    assert_eq!((n.kind, n.component.as_deref()), (NoteKind::Good, Some("valley")));
}

#[test]
fn extent_and_certainty_are_read() {
    let n = read("maybe rust on the valley all along, several pinholes", &here(Face::Rear, Zone::Roof)).notes.remove(0);
    assert_eq!((n.extent, n.certainty), (Some(Extent::Along), Certainty::Suspected));
}

#[test]
fn unknown_words_stay_and_are_named() {
    let n = read("gutter sagging by the gazunderflap thing", &here(Face::Rear, Zone::Edge)).notes.remove(0);
    assert!(n.text.contains("gazunderflap"));
    assert_eq!(n.condition.as_deref(), Some("gutter-standing-water"));
    let odd = read("gazunderflap wonky", &here(Face::Rear, Zone::Edge)).notes.remove(0);
    assert_eq!((odd.kind, odd.left_over.as_str()), (NoteKind::Remark, "gazunderflap wonky"));
}

#[test]
fn small_talk_is_no_finding() {
    for line in ["lovely morning", "client wants coffee", "batteries changed in the torch", "hello 123"] {
        assert_eq!(read(line, &here(Face::Rear, Zone::Roof)).notes[0].condition, None, "{line}");
    }
}

#[test]
fn a_whole_reading_as_a_person_would_see_it() {
    let r = read("gutter end no downspout, fascia rot 2 ft", &here(Face::Rear, Zone::Edge));
    let shown: Vec<String> =
        r.fragments.iter().filter(|f| f.kind != FragmentKind::Rest).map(|f| format!("{:?} [{}] {}", f.kind, f.text, f.meaning)).collect();
    insta::assert_snapshot!(shown.join("\n"));
}

#[test]
fn a_line_of_a_hundred_thousand_characters_is_kept_whole() {
    let line = "torn boot ".repeat(10_000);
    let r = read(&line, &here(Face::Rear, Zone::Roof));
    assert_eq!(r.notes[0].text.trim().len(), line.trim().len());
    assert_eq!(r.fragments.iter().map(|f| f.text.len()).sum::<usize>(), line.len());
}

/// Lines with slips of the keys or of the ear, and what was meant.
const SLIPS: &[(&str, Zone, &str)] = &[
    ("guter end no downspuot", Zone::Edge, "gutter-outlets-short"),
    ("facia rot 2ft", Zone::Edge, "soffit-fascia-damaged"),
    ("stuco hairline crack", Zone::UpperWall, "stucco-crack"),
    ("eflorescence 2 ft high", Zone::Base, "masonry-white-stain"),
    ("down spout dumps at wall", Zone::Ground, "downspout-at-wall"),
    ("crick it too small behind the chimney", Zone::Roof, "chimney-cricket-short"),
    ("flushing at the chimney lifted", Zone::Roof, "chimney-flashing-open"),
    ("skylite corner not sealed", Zone::Roof, "skylight-frame-open"),
    ("sofit vents painted shut", Zone::Edge, "soffit-vent-clogged"),
    ("no calk at the trim", Zone::Openings, "wall-sealant-open"),
    ("over driven nails whole row", Zone::UpperWall, "wrb-fastener-overdriven"),
    ("weak holes clogged", Zone::Base, "brick-weeps-absent"),
];

#[test]
fn slips_are_mended_on_the_vocabulary_only() {
    for (line, zone, meant) in SLIPS {
        let r = read(line, &here(Face::Rear, *zone));
        assert_eq!(r.notes[0].condition.as_deref(), Some(*meant), "{line}");
        assert!(r.fragments.iter().any(|f| f.confidence < 1.0 && f.read_as.is_some()), "{line}: not marked {:?}", r.fragments);
        assert!(r.notes[0].text == *line, "the words stay as typed");
    }
    // Ordinary words and numbers are left alone, however near.
    for line in ["the latter was better", "matters of tenure", "1/61 in", "cable television man came"] {
        let r = read(line, &here(Face::Rear, Zone::Edge));
        assert!(r.fragments.iter().all(|f| f.read_as.is_none()), "{line}: {:?}", r.fragments);
    }
}

/// Ten typical notes as tersely as they can be typed, with what they must be read as; the keys are counted in the README.
const TERSE: [(&str, Zone, &str); 10] = [
    ("gtr end no ds", Zone::Edge, "gutter-outlets-short"),
    ("fascia rot 2ft", Zone::Edge, "soffit-fascia-damaged"),
    ("torn boot", Zone::Roof, "pipe-boot-torn"),
    ("moss", Zone::Roof, "roof-growth-moss"),
    ("ssc 1/16 x 4'", Zone::Base, "brick-stair-crack"),
    ("no kickout", Zone::Roof, "kickout-missing"),
    ("stucco crk 1/8", Zone::UpperWall, "stucco-crack"),
    ("slab tips back 1%", Zone::Ground, "flatwork-toward-wall"),
    ("no z at W2", Zone::UpperWall, "window-head-flashing-absent"),
    ("wdw fogged", Zone::Openings, "glass-seal-failed"),
];

#[test]
fn ten_typical_notes_take_few_keys() {
    for (line, zone, meant) in TERSE {
        assert_eq!(read(line, &here(Face::Rear, zone)).notes[0].condition.as_deref(), Some(meant), "{line}");
    }
    // N, the line, Enter.
    let keys: usize = TERSE.iter().map(|(l, _, _)| l.chars().count() + 2).sum();
    assert_eq!(keys, 134, "the README says so");
}

#[test]
fn a_word_heard_wrong_is_mended_only_beside_words_of_the_trade() {
    let read_as = |line: &str| read(line, &here(Face::Rear, Zone::UpperWall)).fragments.iter().find_map(|f| f.read_as.clone());
    assert_eq!(read_as("stain on the cable wall").as_deref(), Some("gabl"));
    assert_eq!(read_as("the cable guy was here"), None);
}

#[test]
fn corrections_speak_of_the_note_before() {
    let at = |line: &str| read(line, &here(Face::Rear, Zone::Edge));
    for line in ["take that back", "scratch that", "never mind, it's only dirt"] {
        let r = at(line);
        assert_eq!((r.notes.len(), r.correction), (0, Some(Correction::DropLast)), "{line}");
    }
    let west = Some(Correction::MoveLast { face: Some(Face::Left), zone: None });
    assert_eq!(at("no, west").correction, west);
    assert_eq!(at("sorry, the west side").correction, west);
    assert_eq!(at("not here, meant the left side").correction, west);
    let Some(Correction::RemeasureLast { measures }) = at("make that six inches").correction else { panic!("no new reading") };
    assert_eq!(measures[0].si, 0.1524);
    assert_eq!(at("no cracks in the stucco").correction, None);
    assert_eq!(at("no gutter").correction, None);
}

#[test]
fn a_line_may_correct_itself() {
    let n = read("crack 1/8 in, no wait, 1/4 in in the stucco", &here(Face::Rear, Zone::UpperWall)).notes;
    assert_eq!((n.len(), n[0].measures[0].text.as_str()), (1, "1/4 in"));
    let moved = read("gutter sagging on the left side, sorry, right side", &here(Face::Rear, Zone::Edge)).notes;
    assert_eq!(moved[0].place.face, Some(Face::Right));
    let other = read("torn boot, scratch that, torn shingle", &here(Face::Rear, Zone::Roof)).notes;
    assert_eq!((other.len(), other[0].condition.as_deref()), (1, Some("shingle-torn")));
}

#[test]
fn moving_on_moves_the_where_and_makes_no_note() {
    let moved = |line: &str| {
        let r = read(line, &here(Face::Rear, Zone::Edge));
        assert!(r.notes.is_empty(), "{line}");
        r.moved.map(|p| (p.face.unwrap(), p.zone))
    };
    assert_eq!(moved("now the north side"), Some((Face::Rear, Zone::Edge)));
    assert_eq!(moved("now the west side"), Some((Face::Left, Zone::Edge)));
    assert_eq!(moved("going up on the roof"), Some((Face::Rear, Zone::Roof)));
    assert_eq!(moved("around the corner"), Some((Face::Right, Zone::Edge)));
    assert_eq!(moved("left side"), Some((Face::Left, Zone::Edge)));
    let both = read("now the front, gutter sagging", &here(Face::Rear, Zone::Edge));
    assert_eq!((both.notes.len(), both.notes[0].place.face, both.moved.unwrap().face), (1, Some(Face::Front), Some(Face::Front)));
}

#[test]
fn what_could_not_be_seen_is_a_limitation_with_its_reason() {
    let n = |line: &str| read(line, &here(Face::Rear, Zone::Base)).notes.remove(0);
    let locked = n("could not get in, gate was locked");
    assert_eq!((locked.kind, locked.limit), (NoteKind::Limitation, Some(LimitReason::Locked)));
    assert_eq!(n("boxes stacked against the wall, couldn't see behind").limit, Some(LimitReason::StoredGoods));
    // Words of a condition are no limit.
    assert_eq!(n("soil too high at the siding").kind, NoteKind::Defect);
}

#[test]
fn another_trades_matter_is_a_side_note() {
    let n = read("breaker is double tapped in the box", &here(Face::Rear, Zone::Openings)).notes.remove(0);
    assert_eq!((n.kind, n.trade.as_deref(), n.condition), (NoteKind::Side, Some("Electrician"), None));
}

#[test]
fn own_words_are_read_and_checked() {
    let mut context = here(Face::Rear, Zone::Edge);
    context.own_words = vec![
        OwnWord { said: "weepy lid".into(), means: "gutter-loose-leaking".into() },
        OwnWord { said: "snood".into(), means: "gutter".into() },
    ];
    let n = read("weepy lid 2 ft", &context).notes.remove(0);
    assert_eq!(n.condition.as_deref(), Some("gutter-loose-leaking"));
    assert_eq!(read("snood sagging", &context).notes[0].component.as_deref(), Some("gutter"));
    assert!(OwnWord { said: " ".into(), means: "gutter".into() }.check().is_err());
    assert!(OwnWord { said: "snood".into(), means: "hat".into() }.check().is_err());
    assert!(context.own_words.iter().all(|w| w.check().is_ok()));
}

#[test]
fn measures_that_do_not_go_together_are_doubted() {
    let r = read("gap 6 in by 2 percent", &here(Face::Rear, Zone::Base));
    assert_eq!(r.doubts.len(), 1);
    assert!(r.doubts[0].contains("6 in") && r.notes[0].measures.len() == 2, "{:?}", r.doubts);
}

proptest! {
    /// The pieces are the line, whatever is typed; nothing is lost, nothing panics.
    #[test]
    fn the_pieces_are_the_line(line in "\\PC{0,120}") {
        let r = read(&line, &here(Face::Front, Zone::Base));
        prop_assert_eq!(r.fragments.iter().map(|f| f.text.as_str()).collect::<String>(), line.clone());
        let says_nothing = line.trim().is_empty() || r.moved.is_some() || r.correction.is_some();
        prop_assert!(says_nothing || !r.notes.is_empty());
    }

    /// The same for lines made of the trade's own words.
    #[test]
    fn known_words_in_any_order_do_no_harm(words in prop::collection::vec(prop::sample::select(&["gutter", "no", "crack", "1/2", "in", "under", "left", "right", "side", ",", "and", "good", "not", "12 ft", "window", "N", "w/o", "roof", "stain", "all along", "-", "'", "ceiling"][..]), 0..14)) {
        let line = words.join(" ");
        let r = read(&line, &here(Face::Front, Zone::Base));
        prop_assert_eq!(r.fragments.iter().map(|f| f.text.as_str()).collect::<String>(), line);
        for n in &r.notes {
            prop_assert!(n.candidates.len() <= 3);
            prop_assert!(n.condition.is_none() || n.condition.as_ref() == n.candidates.first().map(|c| &c.condition));
        }
    }
}
