use super::{Entity, Kind, Refused};
use envelope::moisture::record::Moisture;
use serde_json::Value;

impl Entity for Moisture {
    const KIND: Kind = Kind::Moisture;
    fn check(&self) -> Result<(), Refused> {
        Moisture::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "rooms and readings".to_owned()
    }
}
