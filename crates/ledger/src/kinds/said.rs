use super::{Entity, Kind, Refused, text};
use envelope::years::leaving::SaidThing;
use serde_json::Value;

impl Entity for SaidThing {
    const KIND: Kind = Kind::Said;
    fn check(&self) -> Result<(), Refused> {
        SaidThing::check(self).map_err(|e| Refused::new(e.field, e.message))
    }
    fn label(body: &Value) -> String {
        text(body, "text")
    }
}
