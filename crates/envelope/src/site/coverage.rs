//! What has been seen of the building: nothing is forgotten, nothing is claimed that was not looked at.

use super::{Face, Zone};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fmt;
use std::str::FromStr;

/// One place to look at on the round: a zone of a face, or the inside as a whole.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum Cell {
    /// A zone of a face.
    Outside(Face, Zone),
    /// Attic, rooms, under the floor.
    Inside,
}

#[cfg(feature = "schema")]
impl utoipa::PartialSchema for Cell {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        <String as utoipa::PartialSchema>::schema()
    }
}
#[cfg(feature = "schema")]
impl utoipa::ToSchema for Cell {}

/// A cell key that names no cell.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a place of the round. Write face.zone, for example rear.edge, or inside.")]
pub struct CellError(String);

fn key<T: Serialize>(value: T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

impl fmt::Display for Cell {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Cell::Outside(face, zone) => write!(f, "{}.{}", key(face), key(zone)),
            Cell::Inside => f.write_str("inside"),
        }
    }
}

impl FromStr for Cell {
    type Err = CellError;
    fn from_str(s: &str) -> Result<Cell, CellError> {
        Cell::all().into_iter().find(|c| c.to_string() == s).ok_or_else(|| CellError(s.chars().take(40).collect()))
    }
}

impl TryFrom<String> for Cell {
    type Error = CellError;
    fn try_from(s: String) -> Result<Cell, CellError> {
        s.parse()
    }
}

impl From<Cell> for String {
    fn from(c: Cell) -> String {
        c.to_string()
    }
}

impl Cell {
    /// Its height.
    pub fn zone(self) -> Zone {
        match self {
            Cell::Outside(_, zone) => zone,
            Cell::Inside => Zone::Inside,
        }
    }
    /// Every cell, face by face from the front clockwise, from the roof down, and the inside last.
    pub fn all() -> Vec<Cell> {
        let mut cells: Vec<Cell> =
            Face::ALL.into_iter().flat_map(|f| Zone::OUTSIDE.into_iter().map(move |z| Cell::Outside(f, z))).collect();
        cells.push(Cell::Inside);
        cells
    }
    /// The cell in words: "Rear, edge and gutter".
    pub fn words(self) -> String {
        match self {
            Cell::Outside(face, zone) => format!("{}, {}", face.name(), zone.name().to_lowercase()),
            Cell::Inside => "Inside".to_owned(),
        }
    }
}

/// Why a place could not be seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum LimitReason {
    /// No key, gate shut.
    Locked,
    /// Beyond the walking limit.
    TooSteep,
    /// Would break underfoot.
    Brittle,
    /// Slippery or under snow.
    WetOrIcy,
    /// Goods in front.
    StoredGoods,
    /// Plants in front.
    Growth,
    /// Behind finishes or insulation.
    Covered,
    /// Work not finished.
    NotYetBuilt,
    /// Belongs to someone else.
    OtherOwner,
    /// A danger to people.
    Unsafe,
    /// Rain, wind or dark.
    Weather,
    /// Ran out of time.
    Time,
}

impl LimitReason {
    /// The reason as printed after "could not be seen:".
    pub fn sentence(self) -> &'static str {
        match self {
            LimitReason::Locked => "it was locked",
            LimitReason::TooSteep => "it was too steep to walk and not all of it shows from the ladder",
            LimitReason::Brittle => "the covering would have broken underfoot",
            LimitReason::WetOrIcy => "it was wet or icy",
            LimitReason::StoredGoods => "stored goods stood in front",
            LimitReason::Growth => "plants stood in front",
            LimitReason::Covered => "it was covered",
            LimitReason::NotYetBuilt => "it was not built yet",
            LimitReason::OtherOwner => "it belongs to another owner",
            LimitReason::Unsafe => "it was not safe to reach",
            LimitReason::Weather => "the weather did not allow it",
            LimitReason::Time => "there was no time left on this visit",
        }
    }
}

/// What the person said about a cell as a whole.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "state", rename_all = "kebab-case")]
pub enum MarkState {
    /// Looked at, nothing to note.
    Seen,
    /// Could not be seen, or not all of it.
    Limited {
        /// Why.
        reason: LimitReason,
        /// More, in the person's words.
        #[serde(default)]
        detail: String,
    },
}

/// A mark set on a cell.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mark {
    /// The cell it is set on.
    pub cell: Cell,
    /// What was said.
    #[serde(flatten)]
    pub state: MarkState,
}

/// How a cell stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum CellState {
    /// Not looked at yet.
    Untouched,
    /// Looked at, nothing to note.
    Seen,
    /// Has notes.
    Noted,
    /// Could not be seen.
    Limited,
}

/// How one cell stands, with its notes counted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellReport {
    /// Which cell.
    pub cell: Cell,
    /// In words.
    pub name: String,
    /// How it stands.
    pub state: CellState,
    /// Notes here.
    pub notes: usize,
    /// Why it could not be seen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<LimitReason>,
    /// The printed sentence of the limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<String>,
    /// This kind of visit asks for it.
    pub expected: bool,
}

/// Counts of expected cells by state; they add up to `expected`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tally {
    /// Places this visit asks for.
    pub expected: usize,
    /// Seen, nothing to note.
    pub seen: usize,
    /// With notes.
    pub noted: usize,
    /// Could not be seen.
    pub limited: usize,
    /// Still open.
    pub untouched: usize,
}

/// The state of the whole round.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Coverage {
    /// Every cell in walking order.
    pub cells: Vec<CellReport>,
    /// Counts.
    pub tally: Tally,
    /// "17 of 25 places seen, 2 could not be, 6 still to do."
    pub sentence: String,
}

/// Works out how the round stands.
///
/// Notes count before marks: a place with a note has been looked at. A limit stays a limit beside notes, because part
/// of the place was not seen. `expected` says which cells this kind of visit asks for.
pub fn coverage<'a>(
    noted: impl IntoIterator<Item = Cell>,
    marks: impl IntoIterator<Item = &'a Mark>,
    expected: impl Fn(Cell) -> bool,
) -> Coverage {
    let mut notes: BTreeMap<Cell, usize> = BTreeMap::new();
    for cell in noted {
        *notes.entry(cell).or_default() += 1;
    }
    let marks: BTreeMap<Cell, &MarkState> = marks.into_iter().map(|m| (m.cell, &m.state)).collect();
    let cells: Vec<CellReport> = Cell::all()
        .into_iter()
        .map(|cell| {
            let count = notes.get(&cell).copied().unwrap_or(0);
            let (state, reason, limit) = match (marks.get(&cell), count) {
                (Some(MarkState::Limited { reason, detail }), _) => {
                    let more = if detail.trim().is_empty() { String::new() } else { format!(" ({})", detail.trim()) };
                    (CellState::Limited, Some(*reason), Some(format!("{} could not be seen: {}{more}.", cell.words(), reason.sentence())))
                }
                (_, 1..) => (CellState::Noted, None, None),
                (Some(MarkState::Seen), 0) => (CellState::Seen, None, None),
                (None, 0) => (CellState::Untouched, None, None),
            };
            CellReport { cell, name: cell.words(), state, notes: count, reason, limit, expected: expected(cell) }
        })
        .collect();
    let count = |s: CellState| cells.iter().filter(|c| c.expected && c.state == s).count();
    let tally = Tally {
        expected: cells.iter().filter(|c| c.expected).count(),
        seen: count(CellState::Seen),
        noted: count(CellState::Noted),
        limited: count(CellState::Limited),
        untouched: count(CellState::Untouched),
    };
    let mut sentence = format!("{} of {} places seen", tally.seen + tally.noted, tally.expected);
    if tally.limited > 0 {
        sentence += &format!(", {} could not be", tally.limited);
    }
    sentence += &if tally.untouched > 0 { format!(", {} still to do.", tally.untouched) } else { ". The round is whole.".to_owned() };
    Coverage { cells, tally, sentence }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn mark(cell: &str, limited: bool) -> Mark {
        let state = if limited { MarkState::Limited { reason: LimitReason::Locked, detail: "side gate".into() } } else { MarkState::Seen };
        Mark { cell: cell.parse().unwrap(), state }
    }

    #[test]
    fn cell_keys_go_there_and_back() {
        for cell in Cell::all() {
            assert_eq!(cell.to_string().parse::<Cell>(), Ok(cell));
        }
        assert_eq!(Cell::all().len(), 25);
        assert!("rear.attic".parse::<Cell>().is_err());
    }

    #[test]
    fn a_note_counts_as_seen_and_a_limit_stays_a_limit() {
        let rear_edge: Cell = "rear.edge".parse().unwrap();
        let marks = [mark("rear.edge", true), mark("front.roof", false)];
        let c = coverage([rear_edge, rear_edge], &marks, |_| true);
        let row = c.cells.iter().find(|r| r.cell == rear_edge).unwrap();
        assert_eq!((row.state, row.notes), (CellState::Limited, 2));
        assert_eq!(row.limit.as_deref(), Some("Rear, edge and gutter could not be seen: it was locked (side gate)."));
        assert_eq!(c.sentence, "1 of 25 places seen, 1 could not be, 23 still to do.");
    }

    proptest! {
        /// The states of the expected cells add up to what is expected, whatever was marked.
        #[test]
        fn states_add_up(noted in prop::collection::vec(0_usize..25, 0..40), seen in prop::collection::vec((0_usize..25, any::<bool>()), 0..40), outside_only in any::<bool>()) {
            let all = Cell::all();
            let marks: Vec<Mark> = seen.iter().map(|(i, l)| mark(&all[*i].to_string(), *l)).collect();
            let c = coverage(noted.iter().map(|i| all[*i]), &marks, |c| !outside_only || c != Cell::Inside);
            let t = c.tally;
            prop_assert_eq!(t.seen + t.noted + t.limited + t.untouched, t.expected);
            prop_assert_eq!(c.cells.iter().map(|c| c.notes).sum::<usize>(), noted.len());
        }
    }
}
