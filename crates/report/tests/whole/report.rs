//! What leaves the building, looked at as its reader does.

use crate::fixture::{Fixture, empty, mark, note, record, with_roof};
use account::Case;
use drawing::Look;
use envelope::job::{Job, VisitKind};
use envelope::measure::Units;
use envelope::practice::Practice;
use envelope::round::Range;
use envelope::round::{Note, NoteKind, PictureMark, Shape};
use envelope::site::{Cell, Face, Item, ItemKind, MarkState, Zone};
use exchange::{Bundle, BundleError, BundleLimits, findings_csv};
use ledger::{Blob, Picture, Record, WholeJob};
use proptest::prelude::*;
use report::PictureSource;
use std::collections::HashMap;
use std::io::Cursor;
use uuid::Uuid;

pub(crate) fn view(whole: WholeJob) -> account::JobView {
    Case::new(whole, "2026-11-23".parse().unwrap()).view().clone()
}

fn pack(whole: &WholeJob, schema: &str, read: impl Fn(&str) -> Result<Vec<u8>, ledger::LedgerError>) -> Result<Vec<u8>, BundleError> {
    let mut out = Cursor::new(Vec::new());
    exchange::pack(whole, schema, read, &mut out)?;
    Ok(out.into_inner())
}

struct Unpacked {
    bundle: Bundle,
    blobs: Vec<Blob>,
}

fn unpack(bytes: &[u8], limits: BundleLimits) -> Result<Unpacked, BundleError> {
    let mut opened = exchange::open(Cursor::new(bytes), limits)?;
    let blobs = opened.files().iter().map(|r| opened.file(r)).collect::<Result<_, _>>()?;
    Ok(Unpacked { bundle: opened.bundle, blobs })
}

#[test]
fn the_report_says_what_was_asked_seen_found_and_not_seen_in_that_order() {
    let text = Fixture::new().text();
    let mut from = 0;
    for said in [
        "Heron Boathouse",
        "3 findings: 1 now, 1 before next rain, 1 this season.",
        "What was asked",
        "Which marks are from the storm?",
        "What was seen, and what was not",
        "rear, roof could not be seen: it was too steep",
        "Findings, soonest first",
        "1. Fixture gone, box open",
        "Hazard.",
        "2. Too few or no outlets",
        "3. Shakes cracked through",
        "Next step.",
        "Why then:",
        "Done right",
        "Gutters sized and clear",
        "For other trades",
        "Flue or vent short",
        "Limits",
        "The visit was not closed",
        "Rules of practice used",
        "licensed trade decide",
    ] {
        let at =
            text[from..].find(said).unwrap_or_else(|| panic!("\"{said}\" does not stand after {}", &text[from.saturating_sub(80)..from]));
        from += at;
    }
    assert!(!text.contains("None") && !text.contains("none,"), "a missing value was printed");
}

#[test]
fn the_pdf_meets_its_standard_and_is_the_same_twice() {
    let mut f = Fixture::new();
    f.attach(2, 40);
    let first = f.set().pdf().unwrap();
    assert_eq!(first.warnings, Vec::<String>::new());
    assert!(first.bytes.windows(7).any(|w| w == b"pdfuaid"), "it does not say PDF/UA");
    assert_eq!(first.bytes, f.set().pdf().unwrap().bytes);
}

#[test]
fn a_picture_that_cannot_be_read_is_left_out_and_said() {
    let mut f = Fixture::new();
    f.attach(2, 40);
    f.attach(2, 80);
    let lost = f.whole.pictures[0].body.display.hash.clone();
    assert!(f.text().contains("sample 40"));
    f.files.remove(&lost);
    let text = f.text();
    assert!(!text.contains("sample 40") && text.contains("sample 80"));
    assert!(text.contains("The picture 40.png could not be read and was left out."));
}

#[test]
fn a_round_that_is_not_whole_says_so_and_a_whole_one_does_too() {
    let mut f = Fixture::new();
    assert!(f.text().contains("17 places were not looked at."));
    f.whole.marks = Cell::all().into_iter().map(|c| mark(&c.to_string(), MarkState::Seen)).collect();
    let text = f.text();
    assert!(text.contains("Every place this visit asks for was seen.") && !text.contains("not looked at:"));
}

#[test]
fn characters_without_a_sign_are_replaced_and_counted() {
    let mut f = Fixture::new();
    f.whole.notes[1].body.text = "gutter 裂縫, Ωμέγα, \u{7}bell".into();
    let made = f.set().pdf().unwrap();
    assert_eq!(made.warnings, ["2 characters have no sign in the report's fonts and are printed as □. The bundle keeps them."]);
    assert!(f.text().contains("Ωμέγα"));
}

#[test]
fn an_empty_job_still_makes_a_report() {
    let whole = empty(Job::named("x"));
    let f = Fixture { whole, files: HashMap::new() };
    assert!(f.text().contains("Nothing was found that needs doing."));
    assert!(f.set().pages() >= 2);
}

#[test]
fn pages_are_drawn_and_counted_from_one() {
    let set = Fixture::new().set();
    let png = image::load_from_memory(&set.page_png(1, 1.0).unwrap()).unwrap();
    // A4 in points: 595 x 842
    assert_eq!((png.width(), png.height()), (595, 842));
    assert!(set.page_png(0, 1.0).is_err() && set.page_png(set.pages() + 1, 1.0).is_err());
}

#[test]
fn the_table_reads_back_with_one_row_for_each_finding() {
    let f = Fixture::new();
    let bytes = findings_csv(&f.case()).unwrap();
    let mut table = csv::Reader::from_reader(bytes.as_slice());
    let rows: Vec<csv::StringRecord> = table.records().map(Result::unwrap).collect();
    let shown: Vec<String> = rows.iter().map(|r| [&r[0], &r[1], &r[2], &r[5], &r[7], &r[8], &r[9], &r[10]].join(" | ")).collect();
    insta::assert_snapshot!(shown.join("\n"), @"
    1 | Now | hazard | fixture-missing | rear | openings |  | 
    2 | Before next rain |  | gutter-outlets-short | rear | edge |  | 
    3 | This season |  | shake-cracked | front | roof | 3 in (76.2 mm) | 0.0762 m
     | This season |  | vent-height-wrong | left | roof |  | 
     | For the record |  | gutter-ok | left | edge |  | 
    ");
}

#[test]
fn every_note_is_judged_once_and_in_one_list() {
    let v = view(Fixture::new().whole);
    let mut judged: Vec<&str> = v.findings.iter().map(|f| f.note_id.as_str()).collect();
    judged.sort_unstable();
    let mut noted: Vec<&str> = v.notes.iter().map(|n| n.id.as_str()).collect();
    noted.sort_unstable();
    assert_eq!(judged, noted);
    assert!(v.findings.windows(2).all(|w| w[0].urgency <= w[1].urgency));
    assert_eq!(v.findings.iter().filter(|f| f.kind == NoteKind::Side).count(), 1);
}

fn with_texts(texts: &[String]) -> Fixture {
    let mut f = Fixture::new();
    f.whole.notes = texts
        .iter()
        .enumerate()
        .map(|(i, t)| {
            let mut n = note(i as u128 + 1, Face::ALL[i % 4], Zone::OUTSIDE[i % 6], "torn boot 1/8 in");
            n.body.text = format!("{t}.");
            n
        })
        .collect();
    if !f.whole.notes.is_empty() {
        f.attach(1, 7);
    }
    f
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// A bundle brings the same job, whatever was typed.
    #[test]
    fn a_bundle_brings_the_same_job(texts in prop::collection::vec("\\PC{0,40}", 0..6)) {
        let f = with_texts(&texts);
        let missing = |h: &str| ledger::LedgerError::BlobMissing { hash: h.to_owned() };
        let zip = pack(&f.whole, "{}", |h| f.bytes(h).ok_or_else(|| missing(h))).unwrap();
        let out = unpack(&zip, BundleLimits::default()).unwrap();
        prop_assert_eq!(&out.bundle.job.body, &f.whole.job.body);
        let bodies = |n: &[Record<Note>]| n.iter().map(|r| (r.id.clone(), r.body.clone())).collect::<Vec<_>>();
        prop_assert_eq!(out.bundle.notes.iter().map(|n| (n.id.clone(), n.body.clone())).collect::<Vec<_>>(), bodies(&f.whole.notes));
        let pictures: Vec<Picture> = out.bundle.pictures.iter().map(|p| p.body.clone()).collect();
        prop_assert_eq!(pictures, f.whole.pictures.iter().map(|p| p.body.clone()).collect::<Vec<_>>());
        let all_there = out.blobs.iter().all(|b: &Blob| f.files.get(&b.hash) == Some(&b.bytes));
        prop_assert!(all_there && out.blobs.len() == f.files.len());
    }

    /// A bundle with any one byte changed is refused or brings the same job: nothing altered passes unseen.
    #[test]
    fn a_changed_byte_does_not_pass(at in any::<prop::sample::Index>(), flip in 1_u8..=255) {
        let f = with_texts(&["moss on the north slope".to_owned()]);
        let missing = |h: &str| ledger::LedgerError::BlobMissing { hash: h.to_owned() };
        let mut zip = pack(&f.whole, "{}", |h| f.bytes(h).ok_or_else(|| missing(h))).unwrap();
        let at = at.index(zip.len());
        zip[at] ^= flip;
        if let Ok(out) = unpack(&zip, BundleLimits::default()) {
            prop_assert_eq!(&out.bundle.notes[0].body, &f.whole.notes[0].body);
            let whole = out.blobs.iter().all(|b| f.files.get(&b.hash) == Some(&b.bytes));
            prop_assert!(whole);
        }
    }

    /// Whatever is typed, a report can be set.
    #[test]
    fn any_text_can_be_set(texts in prop::collection::vec("\\PC{0,60}|[#$*_`@<>\\[\\]{}\\\\/ ]{0,20}", 1..4)) {
        let f = with_texts(&texts);
        prop_assert!(f.set().pdf().is_ok());
    }
}

#[test]
fn marks_on_a_picture_are_printed_with_it_and_said_aloud() {
    let mut f = Fixture::new();
    f.attach(2, 40);
    let plain = f.set().pdf().unwrap();
    let mark = |shape, text: &str| PictureMark { shape, from: [0.2, 0.2], to: [0.7, 0.6], text: text.into() };
    f.whole.pictures[0].body.marks = vec![mark(Shape::Ring, ""), mark(Shape::Line, "14 in"), mark(Shape::Arrow, "here")];
    let marked = f.set().pdf().unwrap();
    assert_eq!(marked.warnings, Vec::<String>::new(), "a drawing over a picture still meets the standard");
    assert_ne!(plain.bytes, marked.bytes);
}

#[test]
fn a_reading_is_printed_with_its_sum_and_the_school_it_rests_on() {
    let mut f = Fixture::new();
    f.whole.notes.push(note(6, Face::Right, Zone::Ground, "tree trunk 2.4 m from wall, 9 m mature height"));
    let text = f.text();
    assert!(text.contains("trunk 2.4 m from wall; half of 9 m mature height = 4.5 m; closer by 2.1 m"), "{text}");
    assert!(text.contains("(Rule: The greater of 3 m and half the mature height)"));
    assert!(text.contains("Trunk to wall: The greater of 3 m and half the mature height."));
    f.whole.practice =
        Practice::from_toml("name = \"Plumb & Daylight\"\n[choice.tree-setback]\nown = \"2 m\"\nreason = \"small trees only\"").unwrap();
    let own = f.text();
    assert!(own.contains("400 mm to spare") && own.contains("own figure 2 m: small trees only"), "{own}");
    assert!(own.contains("These are rules of practice of Plumb & Daylight, not law."));
}

#[test]
fn a_practice_of_material_defects_prints_those_and_says_what_is_left_out() {
    let mut f = Fixture::new();
    f.whole.practice = Practice::from_toml("name = \"x\"\n[choice.report-scope]\nschool = \"material\"").unwrap();
    let text = f.text();
    assert!(text.contains("1. Fixture gone, box open") && !text.contains("Gutters sized and clear"));
    assert!(text.contains("One note that needs nothing done is left out"), "{text}");
}

#[test]
fn what_a_visit_asks_for_and_nobody_looked_at_is_printed() {
    let mut f = Fixture::new();
    f.whole.job.body.brief.visit = VisitKind::BeforeCladding;
    let item = |n: u128, name: &str| {
        record(
            n,
            Item { face: Face::Rear, kind: ItemKind::Window, name: name.into(), label: String::new(), from_left_m: None, seen: vec![] },
        )
    };
    f.whole.items = vec![item(20, "W2"), item(21, "W1")];
    f.whole.items[0].body.seen = vec!["sill-pan".into(), "head-flashing".into(), "jamb-laps".into(), "opening-seal".into()];
    let v = view(f.whole.clone());
    assert_eq!(v.items.iter().map(|i| i.body.name.as_str()).collect::<Vec<_>>(), ["W1", "W2"], "in order along the face");
    let text = f.text();
    assert!(text.contains("Rear, W1: sill pan") && !text.contains("Rear, W2: sill pan"), "{text}");
}

#[test]
fn progress_adds_up_and_every_way_round_holds_the_same() {
    let mut f = Fixture::new();
    f.whole.job.body.brief.visit = VisitKind::StormAssessment;
    let v = view(f.whole.clone());
    let sum =
        |names: &[&str]| v.progress.iter().filter(|p| names.contains(&p.what.as_str())).fold((0, 0), |a, p| (a.0 + p.done, a.1 + p.of));
    let faces = sum(&["Front", "Left", "Rear", "Right"]);
    let zones = sum(&["Roof", "Edge and gutter", "Upper wall", "Openings", "Base of wall", "Ground"]);
    assert_eq!(faces, zones);
    assert_eq!(faces.1 - faces.0, v.left[0].left.len(), "what is left is what is not done");
    for way in &v.left {
        let mut words: Vec<_> = way.left.iter().map(|l| &l.words).collect();
        let mut first: Vec<_> = v.left[0].left.iter().map(|l| &l.words).collect();
        words.sort();
        first.sort();
        assert_eq!(words, first);
        assert_eq!(way.left[0].face, Some(way.here), "one begins where one stands while something is left there");
    }
}

#[test]
fn what_cannot_wait_wants_a_close_and_a_wide_picture() {
    let mut f = Fixture::new();
    let missing = |f: &Fixture| {
        let v = view(f.whole.clone());
        v.wanted_pictures.iter().find(|w| w.note_id == Uuid::from_u128(2).to_string()).map(|w| w.missing.clone())
    };
    assert_eq!(missing(&f).as_deref(), Some("a close and a wide one"));
    f.attach(2, 40);
    assert_eq!(missing(&f).as_deref(), Some("a second one, close or wide"));
    f.whole.pictures[0].body.range = Some(Range::Close);
    assert_eq!(missing(&f).as_deref(), Some("a wide one"));
    f.attach(2, 80);
    f.whole.pictures[1].body.range = Some(Range::Wide);
    assert_eq!(missing(&f), None);
    // What can wait asks for none.
    assert!(view(f.whole).wanted_pictures.iter().all(|w| w.note_id != Uuid::from_u128(1).to_string()));
}

#[test]
fn what_waits_for_other_work_is_bundled_under_it() {
    let mut f = Fixture::new();
    f.whole.notes = vec![
        note(1, Face::Rear, Zone::Roof, "moss on lower third"),
        note(2, Face::Rear, Zone::Roof, "no cricket behind chimney, stack 45 in wide"),
        note(3, Face::Rear, Zone::Edge, "drip edge missing"),
    ];
    let v = view(f.whole.clone());
    let ids: Vec<String> = (1..=3).map(|n| Uuid::from_u128(n).to_string()).collect();
    assert_eq!(v.bundles.len(), 1);
    assert_eq!(v.bundles[0].with, "With the next re-roof");
    let mut notes = v.bundles[0].notes.clone();
    notes.sort();
    assert_eq!(notes, ids);
    assert!(f.text().contains("What can wait for other work"));
}

#[test]
fn the_roof_stands_in_the_report_with_its_limits() {
    let f = with_roof();
    let text = f.text();
    for words in [
        "The roof",
        "squares of 100",
        "rear slope of the",
        "years old; likely",
        "Permit of 2010-05-01",
        "Headwall flashing",
        "not walked",
        "it was covered",
    ] {
        assert!(text.contains(words), "{words} is missing:\n{text}");
    }
    assert_eq!(f.set().pdf().unwrap().warnings, Vec::<String>::new(), "still PDF/UA-1");
}

#[test]
fn the_ground_stands_in_the_report() {
    let mut f = with_roof();
    let spot = |id: usize, along: f64, out: f64, mm: f64| serde_json::json!({ "id": format!("P{id}"), "at": { "face": "front", "along": format!("{along:.1} m"), "out": format!("{out:.1} m") }, "height": format!("{mm:.0} mm") });
    let rows = [(0.0, -200.0), (1.5, -190.0), (3.1, -150.0)];
    let spots: Vec<_> = (0..12)
        .map(|k| {
            let (out, mm) = rows[k % 3];
            // Banked up at both ends.
            spot(k, [-1.5, 3.0, 8.0, 15.0][k / 3], out, if k / 3 % 3 == 0 { -100.0 } else { mm })
        })
        .collect();
    f.whole.ground = Some(record(79, serde_json::from_value(serde_json::json!({ "spots": spots, "soil": "clay" })).unwrap()));
    f.whole.rainwater =
        Some(record(78, serde_json::from_value(serde_json::json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" } })).unwrap()));
    let text = f.text();
    for words in [
        "The ground",
        "One storm over the whole place",
        "against",
        "What would end it",
        "A barrier on the wall",
        "have buried services located",
        "Where the ground falls short",
        "Levels",
        "The sums differ by 0.0000 %",
    ] {
        assert!(text.contains(words), "{words} is missing:\n{text}");
    }
    assert_eq!(f.set().pdf().unwrap().warnings, Vec::<String>::new(), "still PDF/UA-1");
}

#[test]
fn ground_is_drawn_with_its_water_in_blue_and_filled_as_far_as_is_said() {
    use envelope::ground::survey::{GroundInput, survey};
    let f = with_roof();
    let at = |along: f64, out: f64| serde_json::json!({ "face": "front", "along": format!("{along} m"), "out": format!("{out} m") });
    let heights = [
        (0.0, 0.0, -200.0),
        (9.0, 0.0, -200.0),
        (0.0, 4.0, -100.0),
        (9.0, 4.0, -100.0),
        (-2.0, 2.0, -100.0),
        (12.0, 2.0, -100.0),
        (4.0, 2.0, -260.0),
    ];
    let spots: Vec<_> = heights
        .iter()
        .enumerate()
        .map(|(k, (a, o, mm))| serde_json::json!({ "id": format!("P{k}<b>"), "at": at(*a, *o), "height": format!("{mm} mm") }))
        .collect();
    let ground: envelope::ground::record::Ground =
        serde_json::from_value(serde_json::json!({ "spots": spots, "nearby": [{ "id": "T", "kind": "trunk", "at": at(2.0, 2.0) }] }))
            .unwrap();
    let view = view(f.whole);
    let input = GroundInput {
        ground: ground.clone(),
        roof: view.roof.clone().unwrap(),
        rainwater: Default::default(),
        brief: Default::default(),
        practice: Default::default(),
        notes: vec![],
    };
    let s = survey(&input);
    let pond = s.account.ponds.first().expect("a hollow");
    let drawn = |level: f64| {
        let levels = [(pond.id.clone(), level)];
        drawing::ground_svg(&s, &ground, drawing::GroundOver { from: None, levels: Some(&levels) }, Look::PRINT).unwrap()
    };
    let (full, half, dry) = (drawn(pond.brim_m.unwrap()), drawn(pond.brim_m.unwrap() - pond.depth_m / 2.0), drawn(-9.0));
    let hidden = |svg: &str| svg.matches("visibility=\"hidden\"").count();
    assert!(
        hidden(&full) == 0 && hidden(&half) > 0 && hidden(&dry) > hidden(&half),
        "{} {} {}",
        hidden(&full),
        hidden(&half),
        hidden(&dry)
    );
    assert!(full.contains("#1E5FA8") && full.contains("data-pond=\"A\"") && !full.contains("<b>") && full.contains("P0&lt;b&gt;"));
    assert!(full.contains("stroke-dasharray=\"4 4\""), "the trunk has its circle of concern");
    let empty = survey(&GroundInput { ground: Default::default(), ..input });
    assert!(drawing::ground_svg(&empty, &ground, drawing::GroundOver::default(), Look::PRINT).is_none());
}

#[test]
fn a_long_file_of_readings_is_read_row_by_row_and_thinned() {
    use exchange::{Columns, FileUnit, read_readings_csv, read_readings_geojson};
    use std::io::Read;
    /// Rows that are made as they are read: nothing of the file is ever in memory.
    struct Endless(u64, Vec<u8>);
    impl Read for Endless {
        fn read(&mut self, to: &mut [u8]) -> std::io::Result<usize> {
            if self.1.is_empty() && self.0 < 200_000 {
                let k = self.0;
                self.0 += 1;
                self.1 = if k == 0 {
                    b"Point,East,North,Level\n".to_vec()
                } else {
                    format!("R{k},{:.2},{:.2},-0.{}\n", (k % 400) as f64 / 20.0, (k / 400) as f64 / 20.0, k % 9).into_bytes()
                };
            }
            let n = to.len().min(self.1.len());
            to[..n].copy_from_slice(&self.1[..n]);
            self.1.drain(..n);
            Ok(n)
        }
    }
    let r = read_readings_csv(Endless(0, vec![]), FileUnit::M, &Columns::default()).unwrap();
    assert_eq!((r.rows, r.bad_rows), (199_999, 0));
    assert!(r.spots.len() <= envelope::ground::record::MOST_SPOTS && r.spots.len() as u64 + r.thinned == r.rows);
    assert_eq!(r.taken.height.as_deref(), Some("Level"));
    // Units, columns by name, and rows that say their own unit.
    let text = "a,b,c\n1,2,-120 mm\n10,20,-0.5\n";
    let said = Columns { along: Some("a".into()), out: Some("b".into()), height: Some("c".into()), ..Columns::default() };
    let feet = read_readings_csv(text.as_bytes(), FileUnit::Ft, &said).unwrap();
    assert_eq!(
        (feet.spots[0].at.along.as_str(), feet.spots[0].height.as_str(), feet.spots[1].height.as_str()),
        ("0.305 m", "-0.120 m", "-0.152 m")
    );
    let points = r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"id":"K"},"geometry":{"type":"Point","coordinates":[1,2,-0.2]}},
        {"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1,2]}},{"type":"Feature","properties":{},"geometry":null}]}"#;
    let geo = read_readings_geojson(points.as_bytes(), FileUnit::M).unwrap();
    assert_eq!((geo.spots.len(), geo.bad.iter().map(|b| b.line).collect::<Vec<_>>()), (1, vec![2, 3]));
    assert!(read_readings_geojson("[1]".as_bytes(), FileUnit::M).is_err());
}

#[test]
fn rainwater_stands_in_the_report() {
    let mut f = with_roof();
    let gutter = serde_json::json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [{ "id": "G1", "eave": "A.-v#1", "width": "100 mm",
        "levels": "0 0, 13 30 mm", "outlets": [{ "from_left": "13 m", "bore": "75 mm", "ends": "buried-pipe" }] }] });
    f.whole.rainwater = Some(record(78, serde_json::from_value(gutter).unwrap()));
    let text = f.text();
    for words in ["Rainwater", "132 mm/h over 5 minutes", "it spills", "off eaves without a gutter", "Run a hose into it"] {
        assert!(text.contains(words), "{words} is missing:\n{text}");
    }
    assert_eq!(f.set().pdf().unwrap().warnings, Vec::<String>::new(), "still PDF/UA-1");
    // The same in gallons and inches, once the job's reader wants them.
    f.whole.job.body.brief.units = Some(Units::Us);
    let us = f.text();
    for words in ["5.20 in/h over 5 minutes", "gpm through downspouts", "Gallons per minute at each eave", "sq ft"] {
        assert!(us.contains(words), "{words} is missing:\n{us}");
    }
    for words in ["mm/h", "L/min", "m²"] {
        assert!(!us.contains(words), "{words} is left:\n{us}");
    }
}
