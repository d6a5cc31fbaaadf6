use super::{Entity, Kind, Refused};
use envelope::round::track::TrackStop;
use serde_json::Value;

impl Entity for TrackStop {
    const KIND: Kind = Kind::Stop;
    fn check(&self) -> Result<(), Refused> {
        TrackStop::check(self).map_err(|e| Refused::new("at", e.to_string()))?;
        match &self.place {
            Some(place) => place.check().map_err(|e| Refused::new("place", e.to_string())),
            None => Ok(()),
        }
    }
    fn label(body: &Value) -> String {
        let of = |key: &str| body["place"][key].as_str().unwrap_or_default().to_owned();
        match (body["place"].is_null(), of("face"), of("zone")) {
            (true, ..) => "the recording is over".into(),
            (_, face, zone) if face.is_empty() => zone,
            (_, face, zone) => format!("{face}, {zone}"),
        }
    }
}
