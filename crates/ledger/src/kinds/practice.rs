use super::{Entity, Kind, Refused, text};
use envelope::practice::Practice;
use serde_json::Value;

impl Entity for Practice {
    const KIND: Kind = Kind::Practice;
    fn check(&self) -> Result<(), Refused> {
        Practice::check(self).map_err(|e| Refused::new(&e.field, e.to_string()))
    }
    fn label(body: &Value) -> String {
        text(body, "name")
    }
}
