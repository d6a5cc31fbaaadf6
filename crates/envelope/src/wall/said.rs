//! What is told before cladding, put into the matrix: "W2: head lap reversed, jambs right, could not see the sill pan".

use super::matrix::{CHECKS, Check, Checked, WallFound, face_key, place_of};
use super::record::Walls;
use crate::round::Note;
use crate::site::{Face, Item, ItemKind, Place};
use serde::{Deserialize, Serialize};

/// An answer as it was told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckSaid {
    /// The cell it answers.
    pub key: String,
    /// The answer.
    pub answer: Checked,
    /// "Front, W2: head lap wrong".
    pub words: String,
}

/// What each check is called on site, longest first: a pan's corner is not its pan.
const CALLED: &[(&str, &str)] = &[
    ("corners of the pan", "pan-corners"),
    ("corner of the pan", "pan-corners"),
    ("sill pan corners", "pan-corners"),
    ("sill pan corner", "pan-corners"),
    ("pan corners", "pan-corners"),
    ("pan corner", "pan-corners"),
    ("head flashing", "head-lap"),
    ("backer rod", "gap"),
    ("ledge sheet", "ledge"),
    ("brick ledge", "ledge"),
    ("side tapes", "jambs"),
    ("side tape", "jambs"),
    ("slab edge", "slab-edge"),
    ("base sheet", "base-lap"),
    ("head tape", "head-lap"),
    ("head flap", "head-lap"),
    ("base lap", "base-lap"),
    ("head lap", "head-lap"),
    ("sill pan", "sill-pan"),
    ("nail fin", "flange"),
    ("punctures", "holes"),
    ("sleeves", "sleeves"),
    ("flanges", "flange"),
    ("sleeve", "sleeves"),
    ("flange", "flange"),
    ("joints", "joints"),
    ("jambs", "jambs"),
    ("joint", "joints"),
    ("seams", "joints"),
    ("holes", "holes"),
    ("tears", "holes"),
    ("ledge", "ledge"),
    ("jamb", "jambs"),
    ("foam", "gap"),
    ("hole", "holes"),
    ("seam", "joints"),
    ("head", "head-lap"),
    ("tear", "holes"),
    ("pan", "sill-pan"),
    ("gap", "gap"),
];

/// Words of each answer. Longer ones are looked for first, so that "not right" is not right and "no holes" is.
const ANSWERS: &[(&str, WallFound)] = &[
    ("could not be seen", WallFound::NotSeen),
    ("could not see", WallFound::NotSeen),
    ("couldn't see", WallFound::NotSeen),
    ("can not see", WallFound::NotSeen),
    ("cannot see", WallFound::NotSeen),
    ("can't see", WallFound::NotSeen),
    ("cannot be seen", WallFound::NotSeen),
    ("not visible", WallFound::NotSeen),
    ("not seen", WallFound::NotSeen),
    ("covered up", WallFound::NotSeen),
    ("none here", WallFound::NotHere),
    ("not here", WallFound::NotHere),
    ("not fitted yet", WallFound::NotHere),
    ("not needed", WallFound::NotHere),
    ("no holes", WallFound::Right),
    ("no tears", WallFound::Right),
    ("no punctures", WallFound::Right),
    ("not sealed", WallFound::Wrong),
    ("not taped", WallFound::Wrong),
    ("not right", WallFound::Wrong),
    ("not lapped", WallFound::Wrong),
    ("not stuck", WallFound::Wrong),
    ("not proud", WallFound::Right),
    ("not cut", WallFound::Right),
    ("not torn", WallFound::Right),
    ("not pierced", WallFound::Right),
    ("wrong", WallFound::Wrong),
    ("reversed", WallFound::Wrong),
    ("backwards", WallFound::Wrong),
    ("missing", WallFound::Wrong),
    ("unsealed", WallFound::Wrong),
    ("untaped", WallFound::Wrong),
    ("pierced", WallFound::Wrong),
    ("drilled", WallFound::Wrong),
    ("torn", WallFound::Wrong),
    ("loose", WallFound::Wrong),
    ("cut", WallFound::Wrong),
    ("proud", WallFound::Wrong),
    ("bare", WallFound::Wrong),
    ("open", WallFound::Wrong),
    ("bad", WallFound::Wrong),
    ("right", WallFound::Right),
    ("correct", WallFound::Right),
    ("fine", WallFound::Right),
    ("good", WallFound::Right),
    ("ok", WallFound::Right),
    ("okay", WallFound::Right),
    ("sealed", WallFound::Right),
    ("taped", WallFound::Right),
    ("patched", WallFound::Right),
];

/// Whether these words stand in the line one after the other, from this one on.
fn stands(said: &[&str], at: usize, words: &str) -> Option<usize> {
    let words: Vec<&str> = words.split(' ').collect();
    said[at..].starts_with(&words).then_some(words.len())
}

/// The first of a list that begins at each word; later ones do not look into what an earlier one took.
fn all<'a, T: Copy>(said: &[&str], list: &'a [(&'a str, T)]) -> Vec<(usize, T)> {
    let (mut out, mut at) = (vec![], 0);
    while at < said.len() {
        let mut longest: Option<(usize, T)> = None;
        for (words, what) in list {
            if let Some(n) = stands(said, at, words).filter(|n| longest.is_none_or(|(m, _)| *n > m)) {
                longest = Some((n, *what));
            }
        }
        match longest {
            Some((n, what)) => {
                out.push((at, what));
                at += n;
            }
            None => at += 1,
        }
    }
    out
}

/// An opening of this face that a clause names: "W2", "window 2", "door one".
fn named<'a>(said: &[&str], face: Face, items: &'a [Item]) -> Option<&'a Item> {
    let number = |w: &str| {
        const NUMBERS: [&str; 9] = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine"];
        w.parse::<usize>().ok().or_else(|| NUMBERS.iter().position(|n| *n == w).map(|n| n + 1))
    };
    items.iter().filter(|i| i.face == face).find(|i| {
        let name = i.name.to_lowercase();
        let kind = match i.kind {
            ItemKind::Window => "window",
            ItemKind::Door => "door",
            _ => return false,
        };
        let count = name.trim_start_matches(|c: char| c.is_alphabetic()).parse::<usize>().ok();
        said.contains(&name.as_str()) || said.windows(2).any(|p| p[0] == kind && count.is_some() && number(p[1]) == count)
    })
}

/// The answers a line tells. A clause that names no check, no answer, two answers, or an opening's check without its opening, tells
/// none: it is better typed into the matrix than guessed there.
#[must_use]
pub fn checks_said(line: &str, place: &Place, items: &[Item]) -> Vec<CheckSaid> {
    let Some(face) = place.face else { return vec![] };
    let lower = line.to_lowercase().replace('\u{2019}', "'");
    let mut opening = place.station.as_deref().and_then(|s| items.iter().find(|i| i.face == face && i.name == s));
    let mut out: Vec<CheckSaid> = vec![];
    // "Head lap and jambs right": what was named and joined on by *and* has the answer of what follows.
    let mut pending: Vec<&str> = vec![];
    for (said, joined) in clauses(&lower) {
        if let Some(item) = named(&said, face, items) {
            opening = Some(item);
        }
        let (checks, answers) = (all(&said, CALLED), all(&said, ANSWERS));
        let before = std::mem::take(&mut pending);
        let [(at, key)] = checks.as_slice() else { continue };
        // A head that is named for something else: "the head of W2".
        if *key == "head-lap" && said.get(at + 1) == Some(&"of") {
            continue;
        }
        match answers.as_slice() {
            [(_, found)] => {
                for key in before.into_iter().chain([*key]) {
                    let Some(s) = answered(key, *found, face, opening, line) else { continue };
                    out.retain(|o| o.key != s.key);
                    out.push(s);
                }
            }
            [] if joined => pending = before.into_iter().chain([*key]).collect(),
            _ => {}
        }
    }
    out
}

/// Parts of a line that may each answer, as words, and whether *and* joins the next one on.
fn clauses(lower: &str) -> Vec<(Vec<&str>, bool)> {
    let mut out = vec![];
    for part in lower.split([',', ';', '.', ':']) {
        let mut words = vec![];
        for w in part.split_whitespace().map(|w| w.trim_matches(|c: char| !c.is_alphanumeric())).filter(|w| !w.is_empty()) {
            if matches!(w, "and" | "but") {
                out.push((std::mem::take(&mut words), w == "and"));
            } else {
                words.push(w);
            }
        }
        out.push((words, false));
    }
    out
}

/// An answer to a check, where it has a cell.
fn answered(key: &str, found: WallFound, face: Face, opening: Option<&Item>, line: &str) -> Option<CheckSaid> {
    let check: &Check = CHECKS.iter().find(|c| c.key == key)?;
    let (cell, at) = match (check.each, opening) {
        (true, Some(i)) => (format!("{}.{}.{}", face_key(face), i.name, check.key), format!(", {}", i.name)),
        (true, None) => return None,
        (false, _) => (format!("{}.{}", face_key(face), check.key), String::new()),
    };
    let said = match found {
        WallFound::Right => "right",
        WallFound::Wrong => "wrong",
        WallFound::NotSeen => "not seen",
        WallFound::NotHere => "none here",
    };
    let text = if found == WallFound::Right { String::new() } else { line.trim().to_owned() };
    let words = format!("{}{at}: {} {said}", face.name(), check.words.to_lowercase());
    Some(CheckSaid { key: cell, answer: Checked { found, text }, words })
}

/// Puts told answers into the matrix, and says what was put there and what stood there before.
pub fn put_in(walls: &mut Walls, said: Vec<CheckSaid>) -> Option<String> {
    let mut told = vec![];
    for s in said {
        let before = walls.answers.insert(s.key, s.answer.clone());
        let other = before.filter(|b| b.found != s.answer.found);
        told.push(if other.is_some() { format!("{} (answered otherwise before)", s.words) } else { s.words });
    }
    (!told.is_empty()).then(|| format!("Into the matrix: {}.", told.join("; ")))
}

/// What notes tell of cells that are still open, in the order they were said; the last word on a cell counts.
pub(super) fn told(walls: &Walls, notes: &[Note], items: &[Item]) -> Vec<CheckSaid> {
    let mut out: Vec<CheckSaid> = vec![];
    for s in notes.iter().flat_map(|n| checks_said(&n.text, &n.place, items)) {
        if !walls.answers.contains_key(&s.key) && place_of(&s.key).is_some() {
            out.retain(|o| o.key != s.key);
            out.push(s);
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::Zone;
    use proptest::prelude::*;

    fn items() -> Vec<Item> {
        let item = |name: &str, kind: ItemKind, face: Face| {
            serde_json::from_value(serde_json::json!({ "name": name, "kind": kind, "face": face })).unwrap()
        };
        vec![
            item("W1", ItemKind::Window, Face::Front),
            item("W2", ItemKind::Window, Face::Front),
            item("D1", ItemKind::Door, Face::Front),
            item("W2", ItemKind::Window, Face::Rear),
        ]
    }
    fn said(line: &str) -> Vec<(String, WallFound)> {
        let place = Place::outside(Face::Front, Zone::Openings);
        checks_said(line, &place, &items()).into_iter().map(|s| (s.key, s.answer.found)).collect()
    }
    fn one(key: &str, found: WallFound) -> Vec<(String, WallFound)> {
        vec![(key.to_owned(), found)]
    }

    #[test]
    fn lines_that_answer() {
        use WallFound::{NotHere, NotSeen, Right, Wrong};
        assert_eq!(said("W2 head lap reversed"), one("front.W2.head-lap", Wrong));
        assert_eq!(said("window two, pan corners cut"), one("front.W2.pan-corners", Wrong));
        assert_eq!(said("D1: sill pan not seen"), one("front.D1.sill-pan", NotSeen));
        assert_eq!(said("can\u{2019}t see the flange on w1"), one("front.W1.flange", NotSeen));
        assert_eq!(said("no holes"), one("front.holes", Right));
        assert_eq!(said("joints taped"), one("front.joints", Right));
        assert_eq!(said("joints not taped"), one("front.joints", Wrong));
        assert_eq!(said("slab edge proud"), one("front.slab-edge", Wrong));
        assert_eq!(said("ledge sheet none here"), one("front.ledge", NotHere));
        assert_eq!(
            said("W1 head lap right, jambs right and the pan is loose"),
            [("front.W1.head-lap".to_owned(), Right), ("front.W1.jambs".to_owned(), Right), ("front.W1.sill-pan".to_owned(), Wrong)]
        );
        assert_eq!(said("W2: head lap and jambs right"), [("front.W2.head-lap".to_owned(), Right), ("front.W2.jambs".to_owned(), Right)]);
        // The last word counts.
        assert_eq!(said("W1 jambs right, no, W1 jambs wrong"), one("front.W1.jambs", Wrong));
    }

    #[test]
    fn lines_that_do_not() {
        for line in [
            "head lap wrong",
            "W7 head lap wrong",
            "W2 head lap",
            "W2 right",
            "the head of W2 is rotten",
            "W2 sill pan and head lap",
            "W2 head lap right or wrong",
            "",
        ] {
            assert_eq!(said(line), [], "{line}");
        }
        let nowhere = Place { face: None, ..Place::outside(Face::Front, Zone::Openings) };
        assert_eq!(checks_said("W2 head lap wrong", &nowhere, &items()), []);
        // W1 is counted on the front only.
        assert_eq!(checks_said("W1 head lap wrong", &Place::outside(Face::Rear, Zone::Openings), &items()), []);
    }

    #[test]
    fn the_place_may_name_the_opening() {
        let place = Place { station: Some("W2".into()), ..Place::outside(Face::Rear, Zone::Openings) };
        let told = checks_said("head tape backwards", &place, &items());
        assert_eq!((told[0].key.as_str(), told[0].words.as_str()), ("rear.W2.head-lap", "Rear, W2: head lap wrong"));
        assert_eq!(told[0].answer.text, "head tape backwards");
    }

    #[test]
    fn what_stood_there_is_said() {
        let mut walls = Walls::default();
        let place = Place::outside(Face::Front, Zone::Openings);
        let put = |walls: &mut Walls, line: &str| put_in(walls, checks_said(line, &place, &items()));
        assert_eq!(put(&mut walls, "W1 jambs right").unwrap(), "Into the matrix: Front, W1: jambs right.");
        let again = put(&mut walls, "W1 jambs wrong").unwrap();
        assert!(again.contains("answered otherwise before"), "{again}");
        assert_eq!(put(&mut walls, "nothing of the kind"), None);
        assert!(walls.check().is_ok());
    }

    proptest! {
        /// Whatever is said, only cells that there are get an answer, and it can be kept.
        #[test]
        fn only_cells_that_there_are(line in "(W1|W2|D1|head|lap|pan|corner|right|wrong|not|seen|no|holes|,|and| ){0,14}") {
            let mut walls = Walls::default();
            let told = checks_said(&line, &Place::outside(Face::Front, Zone::Openings), &items());
            let keys: std::collections::BTreeSet<_> = told.iter().map(|s| s.key.clone()).collect();
            prop_assert_eq!(keys.len(), told.len());
            prop_assert!(told.iter().all(|s| place_of(&s.key).is_some()));
            put_in(&mut walls, told);
            prop_assert!(walls.check().is_ok());
        }
    }
}
