use super::{Entity, Kind, Refused, text};
use envelope::job::SHORT_TEXT;
use envelope::site::{Cell, Mark, MarkState};
use serde_json::Value;

impl Entity for Mark {
    const KIND: Kind = Kind::Mark;
    fn check(&self) -> Result<(), Refused> {
        match &self.state {
            MarkState::Limited { detail, .. } if detail.chars().count() > SHORT_TEXT => {
                Err(Refused::new("detail", "The reason is too long. A few words are enough; a note can say more."))
            }
            _ => Ok(()),
        }
    }
    fn label(body: &Value) -> String {
        text(body, "cell")
    }
}

/// The id of the mark on a cell: a cell has one.
pub fn mark_id(job_id: &str, cell: Cell) -> String {
    format!("{job_id}:{cell}")
}
