//! What a kind of visit expects where, how much of it is answered, and the shortest way round to the rest.

use super::{CellReport, CellState, Face, Item, ItemKind, Zone};
use crate::job::VisitKind;
use crate::round::Note;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::OnceLock;

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Row {
    key: String,
    visits: Vec<VisitKind>,
    #[serde(default)]
    each: Vec<ItemKind>,
    zone: Option<Zone>,
    words: String,
    #[serde(default)]
    components: Vec<String>,
    #[serde(default)]
    conditions: Vec<String>,
    /// Answered when something of these kinds is counted on the face.
    #[serde(default)]
    counted: Vec<ItemKind>,
    /// A zone that was only marked as seen does not answer it.
    #[serde(default)]
    own_note: bool,
}

fn rows() -> &'static [Row] {
    #[derive(Deserialize)]
    struct File {
        expect: Vec<Row>,
    }
    static ROWS: OnceLock<Vec<Row>> = OnceLock::new();
    ROWS.get_or_init(|| toml::from_str::<File>(include_str!("expected.toml")).expect("the embedded expectations are tested").expect)
}

/// How an expectation stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ExpectationState {
    /// Not looked at yet.
    Open,
    /// Looked at.
    Answered,
    /// Could not be seen.
    Limited,
}

/// Something a visit expects at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Expectation {
    /// Stable name of what is expected.
    pub key: String,
    /// The face.
    pub face: Face,
    /// How high.
    pub zone: Zone,
    /// The item, by name on its face.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub item: Option<String>,
    /// What to look at.
    pub words: String,
    /// How it stands.
    pub state: ExpectationState,
}

/// Everything a visit expects, face by face clockwise from the front, and how it stands.
pub fn expected(visit: VisitKind, items: &[Item], notes: &[&Note], cells: &[CellReport]) -> Vec<Expectation> {
    let mut out = Vec::new();
    for face in Face::ALL {
        for row in rows().iter().filter(|r| r.visits.contains(&visit)) {
            let about = |n: &&Note| {
                n.component.as_ref().is_some_and(|c| row.components.contains(c))
                    || n.condition.as_ref().is_some_and(|c| row.conditions.contains(c))
            };
            let cell = |zone: Zone| cells.iter().find(|c| c.cell == super::Cell::Outside(face, zone)).map(|c| c.state);
            for item in items.iter().filter(|i| i.face == face && row.each.contains(&i.kind)) {
                let here = |n: &&&Note| n.place.face == Some(face) && n.place.station.as_deref().is_some_and(|s| names(s, &item.name));
                let zone = item.kind.zone();
                let state = if item.seen.contains(&row.key) || notes.iter().filter(here).any(about) {
                    ExpectationState::Answered
                } else if cell(zone) == Some(CellState::Limited) {
                    ExpectationState::Limited
                } else {
                    ExpectationState::Open
                };
                out.push(Expectation { key: row.key.clone(), face, zone, item: Some(item.name.clone()), words: row.words.clone(), state });
            }
            if let Some(zone) = row.zone {
                let here = |n: &&&Note| n.place.face == Some(face) && n.place.zone == zone;
                let counted = items.iter().any(|i| i.face == face && row.counted.contains(&i.kind));
                let state = match cell(zone) {
                    _ if counted || notes.iter().filter(here).any(about) => ExpectationState::Answered,
                    Some(CellState::Limited) => ExpectationState::Limited,
                    Some(CellState::Seen) if !row.own_note => ExpectationState::Answered,
                    _ => ExpectationState::Open,
                };
                out.push(Expectation { key: row.key.clone(), face, zone, item: None, words: row.words.clone(), state });
            }
        }
    }
    out
}

/// Whether a station names an item: "W2", "at W2, upper corner".
fn names(station: &str, item: &str) -> bool {
    station.split(|c: char| !c.is_alphanumeric()).any(|w| w.eq_ignore_ascii_case(item))
}

/// Something still to be looked at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Left {
    /// The face; none for the inside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<Face>,
    /// How high.
    pub zone: Zone,
    /// The item, by name on its face.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub item: Option<String>,
    /// What to look at, in words.
    pub words: String,
}

/// The faces in the order of the shortest way round to all of `todo` from where one stands. The building is walked round,
/// never through; both ways are tried, and clockwise is taken when they are equal.
pub fn way_round(here: Face, todo: &BTreeSet<Face>) -> Vec<Face> {
    let n = Face::ALL.len();
    let at = Face::ALL.iter().position(|f| *f == here).expect("every face is in the list");
    let walk = |step: usize| -> (usize, Vec<Face>) {
        let order: Vec<(usize, Face)> = (0..n).map(|k| (k, Face::ALL[(at + k * step) % n])).filter(|(_, f)| todo.contains(f)).collect();
        (order.last().map_or(0, |l| l.0), order.into_iter().map(|o| o.1).collect())
    };
    // Some sets are reached sooner by turning back once: on a ring of four only {one side, the other} from between them.
    let both_sides = || -> (usize, Vec<Face>) {
        let (a, b) = (Face::ALL[(at + 1) % n], Face::ALL[(at + n - 1) % n]);
        let opposite = Face::ALL[(at + 2) % n];
        if todo.contains(&opposite) || !todo.contains(&a) || !todo.contains(&b) {
            return (usize::MAX, vec![]);
        }
        (3, [here, a, b].into_iter().filter(|f| todo.contains(f)).collect())
    };
    let (clockwise, anticlockwise, back) = (walk(1), walk(n - 1), both_sides());
    [clockwise, anticlockwise, back].into_iter().min_by_key(|w| w.0).expect("there are three ways").1
}

/// What is left to look at, in the order of the shortest way round from `here`; on each face from the roof down, items
/// from the left end; the inside last.
pub fn left(here: Face, cells: &[CellReport], expectations: &[Expectation], items: &[Item]) -> Vec<Left> {
    let mut all: Vec<(Left, (usize, Zone, bool, f64))> = Vec::new();
    let open_cells = cells.iter().filter(|c| c.expected && c.state == CellState::Untouched);
    let open = expectations.iter().filter(|e| e.state == ExpectationState::Open);
    let todo: BTreeSet<Face> = open_cells
        .clone()
        .filter_map(|c| if let super::Cell::Outside(f, _) = c.cell { Some(f) } else { None })
        .chain(open.clone().map(|e| e.face))
        .collect();
    let way = way_round(here, &todo);
    let turn = |face: Option<Face>| face.and_then(|f| way.iter().position(|w| *w == f)).unwrap_or(way.len());
    for c in open_cells {
        let (face, zone) = match c.cell {
            super::Cell::Outside(f, z) => (Some(f), z),
            super::Cell::Inside => (None, Zone::Inside),
        };
        all.push((Left { face, zone, item: None, words: c.name.clone() }, (turn(face), zone, false, 0.0)));
    }
    for e in open {
        let item = items.iter().find(|i| i.face == e.face && Some(&i.name) == e.item.as_ref());
        let number = e.item.as_deref().and_then(|n| n.get(1..)).and_then(|n| n.parse::<f64>().ok()).unwrap_or(0.0);
        let along = item.and_then(|i| i.from_left_m).unwrap_or(1000.0 + number);
        let place = e
            .item
            .as_ref()
            .map_or_else(|| format!("{}, {}", e.face.name(), e.zone.name().to_lowercase()), |i| format!("{}, {i}", e.face.name()));
        let words = format!("{place}: {}", e.words);
        all.push((Left { face: Some(e.face), zone: e.zone, item: e.item.clone(), words }, (turn(Some(e.face)), e.zone, true, along)));
    }
    all.sort_by(|(_, a), (_, b)| a.0.cmp(&b.0).then(a.1.cmp(&b.1)).then(a.2.cmp(&b.2)).then(a.3.total_cmp(&b.3)));
    all.into_iter().map(|(l, _)| l).collect()
}

#[cfg(test)]
mod tests {
    use super::super::{Mark, coverage};
    use super::*;
    use crate::round::{Context, read, vocabulary};
    use crate::site::{Place, next_names};
    use proptest::prelude::*;

    fn item(face: Face, kind: ItemKind, name: &str) -> Item {
        Item { face, kind, name: name.into(), label: String::new(), from_left_m: None, seen: vec![] }
    }

    fn cells(marks: &[Mark]) -> Vec<CellReport> {
        coverage([], marks, |_| true).cells
    }

    #[test]
    fn every_row_names_parts_and_conditions_there_are() {
        let parts: Vec<&str> = vocabulary().components().iter().map(|c| c.key.as_str()).collect();
        for r in rows() {
            assert!(r.components.iter().all(|c| parts.contains(&c.as_str())), "{}", r.key);
            assert!(r.conditions.iter().all(|c| crate::finding::catalogue().get(c).is_some()), "{}", r.key);
            assert!(r.zone.is_some() == r.each.is_empty(), "{}: items or a zone", r.key);
        }
    }

    #[test]
    fn each_opening_is_asked_for_and_answered_by_name() {
        let items = [item(Face::Front, ItemKind::Window, "W1"), item(Face::Front, ItemKind::Window, "W2")];
        let here = Context::at(Place::outside(Face::Front, Zone::UpperWall), None);
        let note = read("W2 sill pan corner cut", &here).notes.remove(0).into_note(String::new());
        assert_eq!((note.place.station.as_deref(), note.place.zone), (Some("W2"), Zone::Openings));
        let all = expected(VisitKind::BeforeCladding, &items, &[&note], &cells(&[]));
        let pans: Vec<_> = all.iter().filter(|e| e.key == "sill-pan").map(|e| (e.item.as_deref().unwrap(), e.state)).collect();
        assert_eq!(pans, [("W1", ExpectationState::Open), ("W2", ExpectationState::Answered)]);
        assert!(expected(VisitKind::StormAssessment, &items, &[&note], &cells(&[])).iter().all(|e| e.key != "sill-pan"));
    }

    #[test]
    fn a_storm_asks_for_a_note_on_every_slope_and_a_glance_is_not_enough() {
        let seen = Mark { cell: "rear.roof".parse().unwrap(), state: super::super::MarkState::Seen };
        let all = expected(VisitKind::StormAssessment, &[], &[], &cells(&[seen]));
        let square = |f: Face| all.iter().find(|e| e.key == "test-square" && e.face == f).unwrap().state;
        assert_eq!((square(Face::Rear), square(Face::Front)), (ExpectationState::Open, ExpectationState::Open));
    }

    #[test]
    fn names_go_on_from_the_last_and_are_never_given_twice() {
        let items = [item(Face::Left, ItemKind::Door, "D1"), item(Face::Left, ItemKind::Door, "D4")];
        assert_eq!(next_names(&items, Face::Left, ItemKind::Door, 2), ["D5", "D6"]);
        assert_eq!(next_names(&items, Face::Rear, ItemKind::Door, 1), ["D1"]);
        assert!(item(Face::Left, ItemKind::Door, "W1").check().is_err());
    }

    proptest! {
        /// The way visits each face that is left once, and no other order of walking the ring is shorter.
        #[test]
        fn the_way_round_is_whole_and_shortest(start in 0_usize..4, mask in 0_u8..16) {
            let todo: BTreeSet<Face> = (0..4).filter(|i| mask & (1 << i) != 0).map(|i| Face::ALL[i]).collect();
            let here = Face::ALL[start];
            let way = way_round(here, &todo);
            prop_assert_eq!(way.iter().copied().collect::<BTreeSet<_>>(), todo.clone());
            prop_assert_eq!(way.len(), todo.len());
            let at = |f: Face| Face::ALL.iter().position(|x| *x == f).unwrap() as i32;
            let steps = |order: &[Face]| {
                let mut from = start as i32;
                order.iter().map(|f| { let d = (at(*f) - from).rem_euclid(4); from = at(*f); d.min(4 - d) }).sum::<i32>()
            };
            // every order of at most four faces
            fn orders(rest: Vec<Face>) -> Vec<Vec<Face>> {
                if rest.is_empty() { return vec![vec![]]; }
                (0..rest.len()).flat_map(|i| { let mut r = rest.clone(); let f = r.remove(i); orders(r).into_iter().map(move |mut o| { o.insert(0, f); o }) }).collect()
            }
            let best = orders(todo.into_iter().collect()).iter().map(|o| steps(o)).min().unwrap();
            prop_assert_eq!(steps(&way), best);
        }
    }
}
