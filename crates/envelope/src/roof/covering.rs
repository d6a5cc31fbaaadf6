//! Coverings: what is typical of each, as data.

use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// How a person may stand on a covering.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Feet {
    /// While it is sound and dry.
    SoundOnly,
    /// Only while it has not weathered.
    NewOnly,
    /// On the lower third, over the lap.
    Tile,
    /// Not unless the practice says so.
    Ask,
    /// Never.
    Never,
}

/// A layer that ages on its own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Layer {
    /// "underlayment", "fastener washers".
    pub name: String,
    /// Typical life, years.
    pub median: f64,
    /// Why it counts by itself.
    pub why: String,
}

/// One covering. Lives and costs are estimates.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Covering {
    /// Stable name.
    pub key: String,
    /// The trade's name.
    pub name: String,
    /// Typical service life, median, years.
    pub median: f64,
    /// How a person may stand on it.
    pub feet: Feet,
    /// The signs of wear it shows.
    pub signs: Vec<String>,
    /// How to tread on it.
    pub tread: String,
    /// Manning's roughness for water running down it; rule of practice.
    pub roughness: f64,
    /// What a square of it costs to renew, until somebody says otherwise; a made-up figure of the demo town.
    pub cost_per_square: f64,
    /// A layer that ages on its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub layer: Option<Layer>,
}

/// A sign of wear.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Sign {
    /// Stable name.
    pub key: String,
    /// In words.
    pub name: String,
    /// What each grade from 0 to 4 looks like.
    pub looks: Vec<String>,
}

#[derive(Debug, Deserialize)]
struct File {
    covering: Vec<Covering>,
    sign: Vec<Sign>,
}

fn file() -> &'static File {
    static FILE: OnceLock<File> = OnceLock::new();
    FILE.get_or_init(|| toml::from_str(include_str!("coverings.toml")).expect("the embedded coverings are tested"))
}

/// Every covering.
pub fn coverings() -> &'static [Covering] {
    &file().covering
}

/// Every sign of wear.
pub fn signs() -> &'static [Sign] {
    &file().sign
}

/// A covering by its name.
pub fn covering(key: &str) -> Option<&'static Covering> {
    coverings().iter().find(|c| c.key == key)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_data_hangs_together() {
        assert_eq!(coverings().len(), 13);
        for c in coverings() {
            assert!(c.median >= 10.0 && c.cost_per_square > 0.0 && (0.01..=0.03).contains(&c.roughness), "{}", c.key);
            assert!(c.signs.iter().all(|s| signs().iter().any(|k| k.key == *s)), "{}", c.key);
            assert_eq!(coverings().iter().filter(|o| o.key == c.key).count(), 1);
        }
        assert!(signs().iter().all(|s| s.looks.len() == 5));
    }
}
