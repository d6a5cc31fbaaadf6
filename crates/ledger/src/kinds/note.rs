use super::{Entity, Kind, Refused, text};
use envelope::round::Note;
use serde_json::Value;

impl Entity for Note {
    const KIND: Kind = Kind::Note;
    fn check(&self) -> Result<(), Refused> {
        Note::check(self).map_err(|e| Refused::new(e.field, e.message))
    }
    fn label(body: &Value) -> String {
        text(body, "text")
    }
}
