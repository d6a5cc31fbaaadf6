//! Everything that is drawn of the clinic obeys the same few laws, whatever is in it.

use crate::{case, drawings};
use drawing::Look;
use envelope::measure::Units;
use roxmltree::{Document, Node};
use std::collections::BTreeSet;

const SHAPES: [&str; 12] = ["g", "title", "text", "path", "polyline", "line", "circle", "ellipse", "rect", "defs", "pattern", "clipPath"];

fn elements<'a>(drawing: &'a Document<'_>) -> impl Iterator<Item = Node<'a, 'a>> {
    drawing.root_element().descendants().filter(|n| n.is_element() && *n != drawing.root_element())
}

/// Names that would be markup if anything let them, wherever a person can name something that is drawn.
fn hostile(whole: &mut ledger::WholeJob) {
    let name = |n: &mut String| n.insert_str(0, "<script>\"&'</text>\u{202e}");
    let roof = &mut whole.roof.as_mut().unwrap().body;
    roof.fittings.iter_mut().for_each(|f| name(&mut f.name));
    let rain = &mut whole.rainwater.as_mut().unwrap().body;
    rain.gutters.iter_mut().for_each(|g| name(&mut g.name));
    whole.walls.as_mut().unwrap().body.details.iter_mut().for_each(|d| name(&mut d.at));
    let moisture = &mut whole.moisture.as_mut().unwrap().body;
    moisture.rooms.iter_mut().for_each(|r| name(&mut r.name));
    let trace = &mut whole.trace.as_mut().unwrap().body;
    trace.spots.iter_mut().for_each(|s| name(&mut s.name));
}

#[test]
fn every_drawing_is_whole_holds_only_marks_and_has_no_figure_that_is_none() {
    for units in [Units::Metric, Units::Us] {
        let case = case(|whole| {
            hostile(whole);
            whole.job.body.brief.units = Some(units);
        });
        let all = drawings(&case, Look::PAGE);
        let kinds: BTreeSet<&str> = all.iter().map(|(what, _)| *what).collect();
        assert!(kinds.len() >= 18, "only {kinds:?} are drawn, so little was tried");
        for (what, svg) in &all {
            let read = Document::parse(svg).unwrap_or_else(|e| panic!("{what}: {e}\n{svg}"));
            assert!(read.root_element().attribute("aria-label").is_some_and(|l| l.len() > 3), "{what} has no name");
            for e in elements(&read) {
                assert!(SHAPES.contains(&e.tag_name().name()), "{what} holds {:?}", e.tag_name());
                for a in e.attributes() {
                    assert!(!a.name().starts_with("on") && a.name() != "href", "{what}: {}", a.name());
                    let figures = ["NaN", "inf"].iter().any(|f| a.value().contains(f)) && !a.name().starts_with("aria");
                    assert!(!figures, "{what}: {}=\"{}\"", a.name(), a.value());
                }
            }
        }
    }
}

/// What can be chosen is reached by keys, has a name, and no two of a drawing are the same.
#[test]
fn whatever_can_be_chosen_has_a_name_and_a_key_of_its_own() {
    let case = case(|_| ());
    let mut chosen = 0;
    for (what, svg) in drawings(&case, Look::PAGE) {
        let read = Document::parse(&svg).unwrap();
        let mut keys = BTreeSet::new();
        for b in elements(&read).filter(|e| e.attribute("role") == Some("button")) {
            chosen += 1;
            assert_eq!((b.tag_name().name(), b.attribute("tabindex")), ("g", Some("-1")), "{what}");
            assert!(b.attribute("aria-label").is_some_and(|l| !l.trim().is_empty()), "{what}");
            let key: Vec<&str> = b.attributes().filter(|a| a.name().starts_with("data-")).map(|a| a.value()).collect();
            assert_eq!(key.len(), 1, "{what}");
            assert!(keys.insert((b.attributes().find(|a| a.name().starts_with("data-")).unwrap().name(), key[0])), "{what}: {key:?} twice");
            assert!(b.descendants().count() > 1, "{what}: {key:?} cannot be hit");
        }
        // What is filled with a pattern or cut to a shape has it in the same drawing.
        let ids: BTreeSet<&str> = elements(&read).filter_map(|e| e.attribute("id")).collect();
        for value in elements(&read).flat_map(|e| e.attributes()).map(|a| a.value()).filter_map(|v| v.strip_prefix("url(#")) {
            assert!(ids.contains(value.trim_end_matches(')')), "{what}: {value} is not there");
        }
    }
    assert!(chosen > 60, "only {chosen} things can be chosen");
}

/// The page and the print are one drawing: they differ in their tones and in nothing else.
#[test]
fn page_and_print_differ_only_in_their_tones() {
    let case = case(|_| ());
    let (page, print) = (drawings(&case, Look::PAGE), drawings(&case, Look::PRINT));
    let tone = |v: &str| v.starts_with('#') || v.starts_with("var(");
    let mut compared = 0;
    for ((what, a), (_, b)) in page.iter().zip(&print) {
        let (a, b) = (Document::parse(a).unwrap(), Document::parse(b).unwrap());
        let (a, b): (Vec<_>, Vec<_>) = (a.descendants().collect(), b.descendants().collect());
        assert_eq!(a.len(), b.len(), "{what}");
        for (a, b) in a.iter().zip(&b) {
            assert_eq!((a.tag_name(), a.text()), (b.tag_name(), b.text()), "{what}");
            assert_eq!(a.attributes().len(), b.attributes().len(), "{what}");
            for (a, b) in a.attributes().zip(b.attributes()) {
                compared += 1;
                assert_eq!(a.name(), b.name(), "{what}");
                assert!(a.value() == b.value() || tone(a.value()) && tone(b.value()), "{what}: {} against {}", a.value(), b.value());
            }
        }
    }
    assert_eq!(page.len(), print.len());
    assert!(compared > 10_000, "only {compared} attributes");
}
