use super::{Entity, Kind, Refused};
use envelope::rain::record::Rainwater;
use serde_json::Value;

impl Entity for Rainwater {
    const KIND: Kind = Kind::Rainwater;
    fn check(&self) -> Result<(), Refused> {
        Rainwater::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "gutters".to_owned()
    }
}
