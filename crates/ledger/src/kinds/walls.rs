use super::{Entity, Kind, Refused};
use envelope::wall::record::Walls;
use serde_json::Value;

impl Entity for Walls {
    const KIND: Kind = Kind::Walls;
    fn check(&self) -> Result<(), Refused> {
        Walls::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "details and checks".to_owned()
    }
}
