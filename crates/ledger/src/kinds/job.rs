use super::{Entity, Kind, Refused, text};
use envelope::job::Job;
use serde_json::Value;

impl Entity for Job {
    const KIND: Kind = Kind::Job;
    fn check(&self) -> Result<(), Refused> {
        Job::check(self).map_err(|e| Refused::new(e.field, e.message))
    }
    fn label(body: &Value) -> String {
        text(body, "name")
    }
}
