use super::{Entity, Kind, Refused, text};
use envelope::site::Item;
use serde_json::Value;

impl Entity for Item {
    const KIND: Kind = Kind::Item;
    fn check(&self) -> Result<(), Refused> {
        Item::check(self).map_err(|e| Refused::new("name", e))
    }
    fn label(body: &Value) -> String {
        text(body, "name")
    }
}
