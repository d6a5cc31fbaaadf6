use super::{Entity, Kind, Refused};
use envelope::ground::record::Ground;
use serde_json::Value;

impl Entity for Ground {
    const KIND: Kind = Kind::Ground;
    fn check(&self) -> Result<(), Refused> {
        Ground::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "readings".to_owned()
    }
}
