use super::{Entity, Kind, Refused};
use envelope::roof::record::Roof;
use serde_json::Value;

impl Entity for Roof {
    const KIND: Kind = Kind::Roof;
    fn check(&self) -> Result<(), Refused> {
        Roof::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "measured".to_owned()
    }
}
