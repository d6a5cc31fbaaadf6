use super::{Entity, Kind, Refused};
use envelope::trace::record::Trace;
use serde_json::Value;

impl Entity for Trace {
    const KIND: Kind = Kind::Trace;
    fn check(&self) -> Result<(), Refused> {
        Trace::check(self).map_err(|e| Refused::new(&e.field, e.message))
    }
    fn label(_: &Value) -> String {
        "spots and what feeds them".to_owned()
    }
}
