//! Before cladding: openings by checks, faces by checks, fasteners by row, and what must be seen again before it is closed up.

use super::record::Walls;
use crate::site::{Cell, Expectation, ExpectationState, Face, Item, ItemKind, Mark, MarkState, Place, Zone};
use serde::{Deserialize, Serialize};

/// Something that is looked at.
pub struct Check {
    /// Its name.
    pub key: &'static str,
    /// As it is said.
    pub words: &'static str,
    /// What is looked for.
    pub looks: &'static str,
    /// At every opening; else at every face.
    pub each: bool,
    /// How high.
    pub zone: Zone,
    /// What it is noted as when it is wrong.
    pub condition: &'static str,
    /// What it answers of the round's list, when it does.
    pub answers: Option<&'static str>,
}

const fn check(
    key: &'static str,
    words: &'static str,
    looks: &'static str,
    each: bool,
    zone: Zone,
    condition: &'static str,
    answers: Option<&'static str>,
) -> Check {
    Check { key, words, looks, each, zone, condition, answers }
}

/// Every check, openings first.
pub const CHECKS: &[Check] = &[
    check(
        "head-lap",
        "Head lap",
        "the barrier lies over the head flange or its flashing",
        true,
        Zone::Openings,
        "flash-tape-lap-reversed",
        Some("head-flashing"),
    ),
    check(
        "jambs",
        "Jambs",
        "side tapes over the flange, under the head",
        true,
        Zone::Openings,
        "flash-tape-lap-reversed",
        Some("jamb-laps"),
    ),
    check(
        "sill-pan",
        "Sill pan",
        "there, falling out or with a back dam, over the sheet below",
        true,
        Zone::Openings,
        "sill-pan-corner-loose",
        Some("sill-pan"),
    ),
    check(
        "pan-corners",
        "Pan corners",
        "folded or patched, not cut through",
        true,
        Zone::Openings,
        "sill-pan-corner-loose",
        Some("pan-corners"),
    ),
    check("flange", "Flange", "sealed at sides and head, open at the foot", true, Zone::Openings, "fixture-unsealed", Some("opening-seal")),
    check("gap", "Gap", "foamed or backed between frame and wall", true, Zone::Openings, "fixture-unsealed", None),
    check("holes", "Holes", "none in the barrier, or patched like shingles", false, Zone::UpperWall, "wrb-hole", None),
    check("sleeves", "Sleeves", "flanged, lapped under the sheet above, sealed", false, Zone::Openings, "service-pipe-gap", None),
    check("joints", "Joints", "upper sheet over lower, taped", false, Zone::UpperWall, "wrb-seam-open", Some("barrier-laps")),
    check("slab-edge", "Slab edge", "not standing proud of the sheathing", false, Zone::Base, "slab-edge-lip", None),
    check("base-lap", "Base lap", "the barrier over the base sheet or flashing", false, Zone::Base, "wrb-seam-open", Some("base-sheet")),
    check(
        "ledge",
        "Ledge sheet",
        "laid on the ledge, behind the barrier, not pinned to the wall",
        false,
        Zone::Base,
        "ledge-membrane-misplaced",
        None,
    ),
];

/// What was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum WallFound {
    /// Done right.
    Right,
    /// Not.
    Wrong,
    /// It could not be seen.
    NotSeen,
    /// There is none here.
    NotHere,
}

/// An answer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Checked {
    /// What was found.
    pub found: WallFound,
    /// In words.
    #[serde(default)]
    pub text: String,
}

/// What became of something that had to be seen again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Again {
    /// Mended, and seen.
    Mended,
    /// Said to be mended; nobody saw it.
    MendedUnseen,
    /// Closed up before anybody saw it.
    CoveredUnseen,
    /// As it was.
    StillWrong,
}

impl Again {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            Again::Mended => "mended",
            Again::MendedUnseen => "said to be mended, not seen",
            Again::CoveredUnseen => "covered unseen",
            Again::StillWrong => "still wrong",
        }
    }
}

/// A row of fasteners that was counted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FastenerRow {
    /// Short and lasting: F1, F2 …
    pub id: String,
    /// Its face.
    pub face: Face,
    /// Which row.
    #[serde(default)]
    pub row: String,
    /// It is the row under a window, where most water comes by.
    #[serde(default)]
    pub under_window: bool,
    /// Fasteners looked at.
    pub counted: u32,
    /// Of these, driven below the face.
    pub overdriven: u32,
}

impl FastenerRow {
    pub(super) fn check(&self) -> Result<(), String> {
        if self.counted > 100_000 {
            return Err("That many fasteners were not counted. Type the number that was looked at.".into());
        }
        if self.overdriven > self.counted {
            return Err(format!("{} overdriven are more than the {} that were looked at.", self.overdriven, self.counted));
        }
        Ok(())
    }
}

/// Quantile of the normal distribution for a 95 % range.
const Z95: f64 = 1.959_963_984_540_054;

/// The 95 % range of a share that was counted (Wilson 1927): it stays within 0 and 1 and is honest for small counts.
pub fn wilson(of: u32, n: u32) -> Option<[f64; 2]> {
    if n == 0 {
        return None;
    }
    let (n, p) = (f64::from(n), f64::from(of) / f64::from(n));
    let z2 = Z95 * Z95;
    let middle = (p + z2 / (2.0 * n)) / (1.0 + z2 / n);
    let half = Z95 / (1.0 + z2 / n) * (p * (1.0 - p) / n + z2 / (4.0 * n * n)).sqrt();
    Some([(middle - half).max(0.0), (middle + half).min(1.0)])
}

/// A row with its share.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RowShare {
    /// Which row.
    pub id: String,
    /// Share that is overdriven.
    pub share: Option<f64>,
    /// Its 95 % range.
    pub range: Option<[f64; 2]>,
    /// All of it in words.
    pub words: String,
}

/// An opening with its answers, in the order of the checks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MatrixRow {
    /// The face.
    pub face: Face,
    /// The opening by name; empty for the face itself.
    pub item: String,
    /// "Front, W1 living room".
    pub words: String,
    /// Keys of its cells, one for each check of its kind.
    pub keys: Vec<String>,
}

/// A check as the page asks it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckAsked {
    /// Its name.
    pub key: String,
    /// As it is said.
    pub words: String,
    /// What is looked for.
    pub looks: String,
}

/// Openings and faces by checks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Matrix {
    /// Checks of an opening.
    pub opening_checks: Vec<CheckAsked>,
    /// Openings, face by face.
    pub openings: Vec<MatrixRow>,
    /// Checks of a face.
    pub face_checks: Vec<CheckAsked>,
    /// Faces.
    pub faces: Vec<MatrixRow>,
    /// "41 of 68 answered: 35 right, 6 wrong."
    pub sentence: String,
}

/// Something that must be seen again before it is closed up.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DoNotCover {
    /// Its lasting name.
    pub key: String,
    /// "Front, W2: head lap".
    pub what: String,
    /// In the words that were typed.
    pub text: String,
    /// What it is noted as.
    pub condition: String,
    /// Where.
    pub place: Place,
    /// What became of it.
    pub again: Option<Again>,
    /// Its kind of thing is noted at this place.
    pub noted: bool,
}

pub(super) fn face_key(face: Face) -> String {
    face.name().to_lowercase()
}

fn asked(each: bool) -> Vec<CheckAsked> {
    let of = CHECKS.iter().filter(|c| c.each == each);
    of.map(|c| CheckAsked { key: c.key.into(), words: c.words.into(), looks: c.looks.into() }).collect()
}

/// Openings and faces with the keys of their cells, as they were counted on the round.
pub(super) fn matrix(walls: &Walls, items: &[Item]) -> Matrix {
    let keys = |of: &str, each: bool| CHECKS.iter().filter(|c| c.each == each).map(|c| format!("{of}.{}", c.key)).collect::<Vec<_>>();
    let mut openings = vec![];
    for face in Face::ALL {
        for i in items.iter().filter(|i| i.face == face && matches!(i.kind, ItemKind::Window | ItemKind::Door)) {
            let label = if i.label.is_empty() { String::new() } else { format!(" {}", i.label) };
            openings.push(MatrixRow {
                face,
                item: i.name.clone(),
                words: format!("{}, {}{label}", face.name(), i.name),
                keys: keys(&format!("{}.{}", face_key(face), i.name), true),
            });
        }
    }
    let faces: Vec<MatrixRow> = Face::ALL
        .into_iter()
        .map(|face| MatrixRow { face, item: String::new(), words: face.name().into(), keys: keys(&face_key(face), false) })
        .collect();
    let all: Vec<&String> = openings.iter().chain(&faces).flat_map(|r| &r.keys).collect();
    let found = |f: WallFound| all.iter().filter(|k| walls.answers.get(**k).is_some_and(|a| a.found == f)).count();
    let (right, wrong, unseen, none) =
        (found(WallFound::Right), found(WallFound::Wrong), found(WallFound::NotSeen), found(WallFound::NotHere));
    let part = |n: usize, words: &str| if n > 0 { format!(", {n} {words}") } else { String::new() };
    let sentence = format!(
        "{} of {} answered: {right} right, {wrong} wrong{}{}.",
        right + wrong + unseen + none,
        all.len(),
        part(unseen, "not seen"),
        part(none, "not there")
    );
    Matrix { opening_checks: asked(true), openings, face_checks: asked(false), faces, sentence }
}

/// The place of an answer, by its key.
pub(super) fn place_of(key: &str) -> Option<(Face, Option<&str>, &'static Check)> {
    let parts: Vec<&str> = key.split('.').collect();
    let face = Face::ALL.into_iter().find(|f| face_key(*f) == parts[0])?;
    let check = CHECKS.iter().find(|c| Some(&c.key) == parts.last())?;
    Some((face, (parts.len() == 3).then(|| parts[1]), check))
}

/// Everything that is wrong, in the order of faces, openings and checks.
pub(super) fn do_not_cover(walls: &Walls, items: &[Item]) -> Vec<DoNotCover> {
    let m = matrix(walls, items);
    let mut out = vec![];
    for key in m.openings.iter().chain(&m.faces).flat_map(|r| &r.keys) {
        let (Some(a), Some((face, item, check))) = (walls.answers.get(key), place_of(key)) else { continue };
        if a.found != WallFound::Wrong {
            continue;
        }
        let at = item.map(|i| format!(" {i}")).unwrap_or_default();
        out.push(DoNotCover {
            what: format!(
                "{}{}: {}",
                face.name(),
                if at.is_empty() { String::new() } else { format!(",{at}") },
                check.words.to_lowercase()
            ),
            text: a.text.clone(),
            condition: check.condition.into(),
            place: Place { station: item.map(str::to_owned), ..Place::outside(face, check.zone) },
            again: walls.again.get(key).copied(),
            noted: false,
            key: key.clone(),
        });
    }
    out
}

/// Rows with their shares.
pub(super) fn rows(walls: &Walls) -> Vec<RowShare> {
    walls
        .fasteners
        .iter()
        .map(|f| {
            let range = wilson(f.overdriven, f.counted);
            let share = (f.counted > 0).then(|| f64::from(f.overdriven) / f64::from(f.counted));
            let words = match (share, range) {
                (Some(s), Some([low, high])) => format!(
                    "{} of {} overdriven: {:.0} %; of all in such rows {:.0} to {:.0} % (95 %)",
                    f.overdriven,
                    f.counted,
                    100.0 * s,
                    100.0 * low,
                    100.0 * high
                ),
                _ => "none looked at".to_owned(),
            };
            RowShare { id: f.id.clone(), share, range, words }
        })
        .collect()
}

/// The places a whole matrix has seen: a face's openings, its upper wall or its base, once every check there is answered. A face
/// without an opening has no openings to look at. Where every answer is that it could not be seen, nobody saw the place: it stays open
/// until somebody says why.
pub fn seen(walls: &Walls, items: &[Item]) -> Vec<Mark> {
    let m = matrix(walls, items);
    let seen = |keys: &[&String]| {
        let found: Vec<Option<WallFound>> = keys.iter().map(|k| walls.answers.get(*k).map(|a| a.found)).collect();
        found.iter().all(Option::is_some) && found.iter().any(|f| *f != Some(WallFound::NotSeen))
    };
    let mut out = vec![];
    for face in Face::ALL {
        let openings: Vec<&String> = m.openings.iter().filter(|r| r.face == face).flat_map(|r| &r.keys).collect();
        let own = |zone: Zone| -> Vec<String> {
            CHECKS.iter().filter(|c| !c.each && c.zone == zone).map(|c| format!("{}.{}", face_key(face), c.key)).collect()
        };
        let (upper, base) = (own(Zone::UpperWall), own(Zone::Base));
        let whole = [
            (Zone::Openings, seen(&openings)),
            (Zone::UpperWall, seen(&upper.iter().collect::<Vec<_>>())),
            (Zone::Base, seen(&base.iter().collect::<Vec<_>>())),
        ];
        let marks = whole.into_iter().filter(|(_, whole)| *whole);
        out.extend(marks.map(|(zone, _)| Mark { cell: Cell::Outside(face, zone), state: MarkState::Seen }));
    }
    out
}

/// What the matrix answers of the round's list. A note there stands as it was; an answer here answers what is open.
pub fn settle(expected: &mut [Expectation], walls: &Walls) {
    for (key, a) in &walls.answers {
        let Some((face, item, check)) = place_of(key) else { continue };
        let state = match a.found {
            WallFound::Right | WallFound::Wrong | WallFound::NotHere => ExpectationState::Answered,
            WallFound::NotSeen => ExpectationState::Limited,
        };
        for e in expected.iter_mut().filter(|e| e.face == face && Some(e.key.as_str()) == check.answers && e.item.as_deref() == item) {
            if e.state == ExpectationState::Open {
                e.state = state;
            }
        }
    }
    for f in walls.fasteners.iter().filter(|f| f.counted > 0) {
        for e in expected.iter_mut().filter(|e| e.face == f.face && e.key == "barrier-fasteners" && e.state == ExpectationState::Open) {
            e.state = ExpectationState::Answered;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Published values of the Wilson range: 0 of 10, 5 of 10, 10 of 10, 1 of 20.
    #[test]
    fn ranges_of_counted_shares() {
        for (k, n, low, high) in [(0, 10, 0.0, 0.2775), (5, 10, 0.2366, 0.7634), (10, 10, 0.7225, 1.0), (1, 20, 0.0089, 0.2361)] {
            let [a, b] = wilson(k, n).unwrap();
            assert!((a - low).abs() < 1e-4 && (b - high).abs() < 1e-4, "{k} of {n}: {a} to {b}");
        }
        assert_eq!(wilson(0, 0), None);
    }

    #[test]
    fn every_check_names_a_condition_there_is() {
        for c in CHECKS {
            assert!(crate::finding::catalogue().get(c.condition).is_some(), "{}", c.condition);
        }
    }
}
