//! The building: one, with many visits. What belongs to it and not to a visit: repairs, papers, what things cost.

use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::site::{Face, Zone};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

const MOST: usize = 500;

/// What happened to a building between visits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Happened {
    /// Something was mended or renewed.
    #[default]
    Repair,
    /// A permit, an invoice, a statement.
    Paper,
    /// Hail, wind, flood.
    Storm,
    /// Anything else.
    Other,
}

impl Happened {
    /// In a word.
    pub fn words(self) -> &'static str {
        match self {
            Happened::Repair => "Repair",
            Happened::Paper => "Paper",
            Happened::Storm => "Storm",
            Happened::Other => "Other",
        }
    }
}

/// One entry of its history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BuildingEvent {
    /// Short and lasting: E1, E2 …
    pub id: String,
    /// The day; as near as it is known.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// What kind of thing.
    #[serde(default)]
    pub what: Happened,
    /// In words.
    #[serde(default)]
    pub text: String,
}

/// Something that costs money again and again, as typed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct KeptThing {
    /// Short and lasting: T1, T2 …
    pub id: String,
    /// What it is.
    #[serde(default)]
    pub name: String,
    /// What it costs each time.
    #[serde(default)]
    pub cost: f64,
    /// Years until it falls due, at the soonest.
    #[serde(default)]
    pub soonest: f64,
    /// In the middle.
    #[serde(default)]
    pub middle: f64,
    /// At the latest.
    #[serde(default)]
    pub latest: f64,
    /// It comes again after so many years.
    #[serde(default)]
    pub again_after: Option<f64>,
}

/// A building.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Building {
    /// What it is called.
    pub name: String,
    /// Street and town.
    #[serde(default)]
    pub address: String,
    /// What happened to it.
    #[serde(default)]
    pub events: Vec<BuildingEvent>,
    /// Years the reserve looks ahead.
    #[serde(default = "usual_years")]
    pub reserve_years: u16,
    /// What has to be paid beside the coverings.
    #[serde(default)]
    pub things: Vec<KeptThing>,
}

fn usual_years() -> u16 {
    20
}

/// Why a building is not kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BuildingError {
    /// The field.
    pub field: String,
    /// What is wrong and what to do.
    pub message: String,
}

impl Building {
    /// Checks every field.
    ///
    /// # Errors
    /// The first that cannot be kept.
    pub fn check(&self) -> Result<(), BuildingError> {
        let err = |field: String, message: String| Err(BuildingError { field, message });
        if self.name.trim().is_empty() {
            return err("name".into(), "A building needs a name. Type what you call the place.".into());
        }
        for (field, text) in [("name", &self.name), ("address", &self.address)] {
            if let Some(m) = too_long(text, SHORT_TEXT) {
                return err(field.into(), m);
            }
        }
        if self.events.len() > MOST || self.things.len() > MOST {
            return err("events".into(), format!("That is more than one building keeps; the most is {MOST}."));
        }
        if !(1..=super::reserve::MOST_YEARS).contains(&self.reserve_years) {
            return err("reserve_years".into(), format!("A reserve looks 1 to {} years ahead.", super::reserve::MOST_YEARS));
        }
        let mut seen = BTreeSet::new();
        for e in &self.events {
            let field = |part: &str| format!("events.{}.{part}", e.id);
            if e.id.trim().is_empty() || !seen.insert(&e.id) {
                return err(field("id"), "Give each entry a short name of its own.".into());
            }
            if e.text.trim().is_empty() {
                return err(field("text"), "Say what happened.".into());
            }
            if let Some(m) = too_long(&e.text, LONG_TEXT) {
                return err(field("text"), m);
            }
        }
        let mut seen = BTreeSet::new();
        for t in &self.things {
            let field = |part: &str| format!("things.{}.{part}", t.id);
            if t.id.trim().is_empty() || !seen.insert(&t.id) {
                return err(field("id"), "Give each thing a short name of its own.".into());
            }
            if t.name.trim().is_empty() {
                return err(field("name"), "Say what it is.".into());
            }
            if !(0.0..=1e9).contains(&t.cost) {
                return err(field("cost"), "A cost is nought or more.".into());
            }
            if !(t.soonest <= t.middle && t.middle <= t.latest && t.soonest >= -200.0 && t.latest <= 500.0) {
                return err(field("middle"), "Give the years until it falls due as soonest, middle and latest, in that order.".into());
            }
            if t.again_after.is_some_and(|e| !(1.0..=500.0).contains(&e)) {
                return err(field("again_after"), "What comes again comes after a year at least.".into());
            }
        }
        Ok(())
    }
}

/// Something that was seen at a place on a day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceSeen {
    /// The day of the visit.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub on: Option<Date>,
    /// The job.
    pub job: String,
    /// The face; none inside or when it is not known.
    pub face: Option<Face>,
    /// The height.
    pub zone: Zone,
    /// The condition, when one is named.
    pub condition: Option<String>,
    /// What was found.
    pub title: String,
    /// How it stood: "now", "done right".
    pub state: String,
    /// It is something to be dealt with.
    pub open: bool,
}

/// What was seen at one place over the years.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceHistory {
    /// "Rear, edge and gutter".
    pub place: String,
    /// What was seen, the oldest first.
    pub seen: Vec<PlaceSeen>,
}

/// Every place with its history, walked from the ridge down.
#[must_use]
pub fn place_history(mut seen: Vec<PlaceSeen>) -> Vec<PlaceHistory> {
    seen.sort_by(|a, b| (a.on, &a.title).cmp(&(b.on, &b.title)));
    let mut by: BTreeMap<(Zone, Option<Face>), Vec<PlaceSeen>> = BTreeMap::new();
    for s in seen {
        by.entry((s.zone, s.face)).or_default().push(s);
    }
    let name = |(zone, face): (Zone, Option<Face>)| match face {
        Some(f) => format!("{}, {}", f.name(), zone.name().to_lowercase()),
        None => zone.name().to_owned(),
    };
    by.into_iter().map(|(at, seen)| PlaceHistory { place: name(at), seen }).collect()
}

/// What keeps coming back: the same condition to be dealt with at the same place at two visits or more.
#[must_use]
pub fn comes_back(history: &[PlaceHistory]) -> Vec<String> {
    let mut out = vec![];
    for place in history {
        let mut by: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
        let mut title: BTreeMap<&str, &str> = BTreeMap::new();
        for s in place.seen.iter().filter(|s| s.open) {
            if let Some(c) = &s.condition {
                by.entry(c).or_default().insert(&s.job);
                title.insert(c, &s.title);
            }
        }
        for (c, jobs) in by.iter().filter(|(_, jobs)| jobs.len() > 1) {
            out.push(format!("{}, {}: found at {} visits.", title[c], place.place.to_lowercase(), jobs.len()));
        }
    }
    out
}

/// An address as it is compared: small letters, no signs, single spaces.
#[must_use]
pub fn same_address(a: &str, b: &str) -> bool {
    let plain = |t: &str| {
        let t: String = t.to_lowercase().chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
        t.split_whitespace().collect::<Vec<_>>().join(" ")
    };
    let (a, b) = (plain(a), plain(b));
    !a.is_empty() && a == b
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(on: &str, job: &str, face: Face, condition: &str, open: bool) -> PlaceSeen {
        PlaceSeen {
            on: on.parse().ok(),
            job: job.into(),
            face: Some(face),
            zone: Zone::Edge,
            condition: Some(condition.into()),
            title: condition.replace('-', " "),
            state: "now".into(),
            open,
        }
    }

    #[test]
    fn what_keeps_coming_back_is_told_once_and_only_when_it_does() {
        let all = vec![
            seen("2027-02-03", "b", Face::Rear, "gutter-clogged", true),
            seen("2026-11-18", "a", Face::Rear, "gutter-clogged", true),
            seen("2026-11-18", "a", Face::Left, "gutter-clogged", true),
            seen("2026-11-18", "a", Face::Rear, "gutter-sound", false),
            seen("2027-02-03", "b", Face::Rear, "gutter-sound", false),
        ];
        let n = all.len();
        let history = place_history(all);
        assert_eq!(history.iter().map(|h| h.seen.len()).sum::<usize>(), n);
        let rear = history.iter().find(|h| h.place.starts_with("Rear")).unwrap();
        assert!(rear.seen.windows(2).all(|w| w[0].on <= w[1].on));
        assert_eq!(comes_back(&history), ["gutter clogged, rear, edge and gutter: found at 2 visits."]);
    }

    #[test]
    fn addresses_are_compared_without_signs_and_never_when_empty() {
        assert!(same_address("14 Tannery Lane, Ostermoor", "14 tannery  lane Ostermoor."));
        assert!(!same_address("14 Tannery Lane", "41 Tannery Lane"));
        assert!(!same_address("", " , "));
    }

    #[test]
    fn a_building_says_what_it_cannot_keep() {
        let b = |v: serde_json::Value| serde_json::from_value::<Building>(v).unwrap().check().unwrap_err().field;
        use serde_json::json;
        assert_eq!(b(json!({ "name": " " })), "name");
        assert_eq!(b(json!({ "name": "x", "reserve_years": 0 })), "reserve_years");
        assert_eq!(b(json!({ "name": "x", "events": [{ "id": "E1", "on": "2026-01-01" }] })), "events.E1.text");
        assert_eq!(b(json!({ "name": "x", "things": [{ "id": "T1", "name": "y", "cost": -1.0 }] })), "things.T1.cost");
        assert_eq!(
            b(json!({ "name": "x", "things": [{ "id": "T1", "name": "y", "soonest": 3.0, "middle": 2.0, "latest": 4.0 }] })),
            "things.T1.middle"
        );
    }
}
