use super::{Entity, Kind, Refused, text};
use envelope::years::building::Building;
use serde_json::Value;

impl Entity for Building {
    const KIND: Kind = Kind::Building;
    fn check(&self) -> Result<(), Refused> {
        Building::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(body: &Value) -> String {
        text(body, "name")
    }
}
