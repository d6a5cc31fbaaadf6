//! The catalogue of conditions: embedded data, read once, every row checked.

use super::Urgency;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::OnceLock;

/// What a condition does with water.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum WaterRole {
    /// Brings water.
    Source,
    /// Gathers much of it in one place.
    Concentrator,
    /// Lets it travel behind or toward.
    Path,
    /// Lets it in.
    Entry,
    /// Holds it against the building.
    Reservoir,
    /// Shows that water or movement was there, without being its cause.
    Evidence,
    /// Decides whether moisture can leave.
    Drying,
    /// Nothing to do with water.
    None,
}

/// One row of the catalogue.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Condition {
    /// Stable name; `-ok` is done right, `-record` a plain fact.
    pub id: String,
    /// The part of the building it belongs to.
    pub group: String,
    /// The name a reader sees.
    pub name: String,
    /// What the inspector sees.
    pub sees: String,
    /// What to read or count, with the unit people use on site.
    pub measure: String,
    /// What it does with water.
    pub role: WaterRole,
    /// Where urgency starts.
    pub urgency: Urgency,
    /// Someone can be hurt by it.
    #[serde(default)]
    pub hazard: bool,
    /// What makes it worse or better.
    pub shifts: String,
    /// Why it comes about.
    pub cause: String,
    /// What follows if it is left.
    pub consequence: String,
    /// What to do.
    pub recommendation: String,
    /// Who does it.
    pub trade: String,
    /// Belongs to another trade: a side note, outside the envelope findings.
    #[serde(default)]
    pub side: bool,
    /// Met in field practice; otherwise added from general building knowledge.
    #[serde(default)]
    pub seen_in_practice: bool,
    /// The conditions that say the same place is right.
    #[serde(default)]
    pub right: Vec<String>,
}

impl Condition {
    /// Recorded because it is done right.
    pub fn is_ok(&self) -> bool {
        self.id.ends_with("-ok")
    }
}

/// All conditions, in the order water meets the building.
#[derive(Debug)]
pub struct Catalogue {
    rows: Vec<Condition>,
    by_id: HashMap<String, usize>,
}

impl Catalogue {
    /// Every row in order.
    pub fn rows(&self) -> &[Condition] {
        &self.rows
    }
    /// The row with this id.
    pub fn get(&self, id: &str) -> Option<&Condition> {
        self.by_id.get(id).map(|i| &self.rows[*i])
    }
    /// The place of a row in the order water meets the building.
    pub fn order(&self, id: &str) -> Option<usize> {
        self.by_id.get(id).copied()
    }
}

#[derive(Deserialize)]
struct File {
    condition: Vec<Condition>,
}

/// The embedded catalogue.
pub fn catalogue() -> &'static Catalogue {
    static CATALOGUE: OnceLock<Catalogue> = OnceLock::new();
    CATALOGUE.get_or_init(|| {
        let file: File = toml::from_str(include_str!("conditions.toml")).expect("the embedded catalogue is tested");
        let by_id = file.condition.iter().enumerate().map(|(i, c)| (c.id.clone(), i)).collect();
        Catalogue { rows: file.condition, by_id }
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_row_is_whole() {
        let c = catalogue();
        assert_eq!(c.rows().len(), 170);
        let ids: HashSet<_> = c.rows().iter().map(|r| &r.id).collect();
        assert_eq!(ids.len(), 170, "an id stands twice");
        for r in c.rows() {
            assert!(r.id.chars().all(|ch| ch.is_ascii_lowercase() || ch.is_ascii_digit() || ch == '-'), "{}", r.id);
            for (field, text) in [
                ("name", &r.name),
                ("sees", &r.sees),
                ("measure", &r.measure),
                ("shifts", &r.shifts),
                ("cause", &r.cause),
                ("consequence", &r.consequence),
                ("recommendation", &r.recommendation),
                ("trade", &r.trade),
                ("group", &r.group),
            ] {
                assert!(!text.trim().is_empty(), "{} has no {field}", r.id);
            }
            for sentence in [&r.cause, &r.consequence, &r.recommendation] {
                assert!(sentence.ends_with('.') && sentence.starts_with(char::is_uppercase), "{}: {sentence}", r.id);
            }
            for other in &r.right {
                assert!(
                    c.get(other).is_some_and(|o| o.urgency == Urgency::Record),
                    "{}: {other} is not a row that says nothing is wrong",
                    r.id
                );
            }
        }
    }

    #[test]
    fn done_right_and_plain_facts_are_for_the_record() {
        for r in catalogue().rows() {
            if r.is_ok() || r.id.ends_with("-record") {
                assert_eq!(r.urgency, Urgency::Record, "{}", r.id);
                assert!(!r.hazard, "{}", r.id);
            }
        }
    }

    #[test]
    fn the_wording_is_plain_and_not_alarming() {
        let loud = ["danger!", "severe", "catastroph", "immediately", "must be", "failure to", "!", "critical", "liab"];
        for r in catalogue().rows() {
            let all = format!("{} {} {}", r.cause, r.consequence, r.recommendation).to_lowercase();
            for word in loud {
                assert!(!all.contains(word), "{} says {word}", r.id);
            }
            assert!(all.len() < 360, "{} says too much", r.id);
        }
    }

    #[test]
    fn where_work_can_hurt_the_caution_stands_in_the_row() {
        for (id, word) in [
            ("mould-growth", "undisturbed"),
            ("fixture-missing", "Do not touch"),
            ("vent-height-wrong", "asbestos"),
            ("chimney-masonry-shedding", "stay out"),
            ("retaining-wall-wet-bowed", "engineer"),
            ("crawl-standing-water", "Power off"),
            ("flat-roof-drain-blocked", "Do not step"),
            ("wind-missing-covering", "Stay off"),
            ("limb-contact", "overhead lines"),
        ] {
            let r = catalogue().get(id).unwrap();
            assert!(format!("{} {}", r.consequence, r.recommendation).contains(word), "{id} lacks its caution");
        }
    }
}
