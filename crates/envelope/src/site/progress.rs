//! How far the round is: what is answered of what is asked for, and what is still open.

use super::{Cell, CellState, Coverage, Expectation, ExpectationState, Face};
use serde::{Deserialize, Serialize};

/// How much of what is expected somewhere is answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Progress {
    /// A face, a zone or an item, in words.
    pub what: String,
    /// Looked at or limited.
    pub done: usize,
    /// Asked for.
    pub of: usize,
}

/// Progress by face, then by zone, then by item.
pub fn progress(coverage: &Coverage, expectations: &[Expectation]) -> Vec<Progress> {
    let mut out: Vec<Progress> = Vec::new();
    let mut count = |what: String, done: bool| match out.iter_mut().find(|p| p.what == what) {
        Some(p) => {
            p.of += 1;
            p.done += usize::from(done);
        }
        None => out.push(Progress { what, done: usize::from(done), of: 1 }),
    };
    let cells = || coverage.cells.iter().filter(|c| c.expected).map(|c| (c.cell, c.state != CellState::Untouched));
    let answered = |e: &Expectation| e.state != ExpectationState::Open;
    for face in Face::ALL {
        for (cell, done) in cells() {
            if matches!(cell, Cell::Outside(f, _) if f == face) {
                count(face.name().into(), done);
            }
        }
        expectations.iter().filter(|e| e.face == face).for_each(|e| count(face.name().into(), answered(e)));
    }
    for (cell, done) in cells() {
        if let Cell::Outside(_, zone) = cell {
            count(zone.name().into(), done);
        }
    }
    for e in expectations {
        count(e.zone.name().into(), answered(e));
    }
    for e in expectations.iter().filter(|e| e.item.is_some()) {
        count(format!("{} {}", e.face.name(), e.item.as_deref().unwrap_or_default()), answered(e));
    }
    out
}

/// Places that were asked for and not looked at: the report names them and never hides them.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Gap {
    /// "23 places were not looked at."; empty when there are none.
    pub sentence: String,
    /// Each in words.
    pub places: Vec<String>,
}

impl Coverage {
    /// The places that are still open.
    pub fn gap(&self) -> Gap {
        let open = self.cells.iter().filter(|c| c.expected && c.state == CellState::Untouched);
        let places: Vec<String> = open.map(|c| c.name.clone()).collect();
        let sentence = match places.len() {
            0 => String::new(),
            1 => "One place was not looked at.".into(),
            n => format!("{n} places were not looked at."),
        };
        Gap { sentence, places }
    }
}
