use super::*;
use crate::finding::catalogue;
use crate::round::vocabulary::vocabulary;
use crate::site::Surface;
use proptest::prelude::*;

fn here(face: Face, zone: Zone) -> Context {
    Context { place: Place::outside(face, zone), front: Bearing::new(180.0).ok(), own_words: vec![] }
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

proptest! {
    /// The pieces are the line, whatever is typed; nothing is lost, nothing panics.
    #[test]
    fn the_pieces_are_the_line(line in "\\PC{0,120}") {
        let r = read(&line, &here(Face::Front, Zone::Base));
        prop_assert_eq!(r.fragments.iter().map(|f| f.text.as_str()).collect::<String>(), line.clone());
        prop_assert_eq!(r.notes.is_empty(), line.trim().is_empty());
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
