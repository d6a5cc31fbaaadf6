use super::{Entity, Kind, Refused};
use envelope::storm::record::StormVisit;
use serde_json::Value;

impl Entity for StormVisit {
    const KIND: Kind = Kind::Storm;
    fn check(&self) -> Result<(), Refused> {
        StormVisit::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "the count after the storm".to_owned()
    }
}
