use super::{Entity, Kind, Refused, text};
use envelope::years::leaving::ClientLink;
use serde_json::Value;

impl Entity for ClientLink {
    const KIND: Kind = Kind::Link;
    fn check(&self) -> Result<(), Refused> {
        ClientLink::check(self).map_err(|e| Refused::new(e.field, e.message))
    }
    fn label(body: &Value) -> String {
        format!("the client's page, for {}", text(body, "to"))
    }
}
