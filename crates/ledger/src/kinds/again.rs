use super::{Entity, Kind, Refused, text};
use envelope::years::again::ReturnKept;
use serde_json::Value;

impl Entity for ReturnKept {
    const KIND: Kind = Kind::Return;
    fn check(&self) -> Result<(), Refused> {
        ReturnKept::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(body: &Value) -> String {
        format!("the return to {}", text(body, "of_name"))
    }
}
