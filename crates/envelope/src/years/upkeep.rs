//! What to look after in each season: from what the building has and what was found on it. Data, so that a practice can read it.

use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::OnceLock;

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct TaskData {
    id: String,
    month: i8,
    day: i8,
    words: String,
    why: String,
    #[serde(default)]
    shape: Vec<String>,
    #[serde(default)]
    found: Vec<String>,
    #[serde(default)]
    caution: Option<String>,
}

fn data() -> &'static [TaskData] {
    #[derive(Deserialize)]
    struct File {
        task: Vec<TaskData>,
    }
    static DATA: OnceLock<Vec<TaskData>> = OnceLock::new();
    DATA.get_or_init(|| toml::from_str::<File>(include_str!("upkeep.toml")).expect("tested").task)
}

/// What a building may have that asks for upkeep.
pub const SHAPES: [&str; 7] = ["gutters", "valley", "chimney", "skylight", "pipe", "roof", "yard-drain"];

/// Something to look after, once a year.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UpkeepTask {
    /// Stable name.
    pub id: String,
    /// "Spring".
    pub season: String,
    /// Month, 1 to 12.
    pub month: i8,
    /// Day of the month.
    pub day: i8,
    /// What to do.
    pub words: String,
    /// Why then.
    pub why: String,
    /// What was found that asks for it, in words; empty when the shape of the building alone does.
    pub because: Vec<String>,
    /// The caution where it can hurt someone.
    pub caution: Option<String>,
}

fn season(month: i8) -> &'static str {
    match month {
        3..=5 => "Spring",
        6..=8 => "Summer",
        9..=11 => "Autumn",
        _ => "Winter",
    }
}

/// The year's list: `has` is what the building has, `found` each condition with its title and place.
#[must_use]
pub fn upkeep(has: &BTreeSet<&str>, found: &[(String, String)]) -> Vec<UpkeepTask> {
    let mut out: Vec<UpkeepTask> = data()
        .iter()
        .filter_map(|t| {
            let mut because: Vec<String> = found.iter().filter(|(c, _)| t.found.contains(c)).map(|(_, words)| words.clone()).collect();
            because.dedup();
            let shaped = t.shape.iter().any(|s| has.contains(s.as_str()));
            (shaped || !because.is_empty()).then(|| UpkeepTask {
                id: t.id.clone(),
                season: season(t.month).to_owned(),
                month: t.month,
                day: t.day,
                words: t.words.clone(),
                why: t.why.clone(),
                because,
                caution: t.caution.clone(),
            })
        })
        .collect();
    out.sort_by_key(|t| (t.month, t.day));
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_list_is_whole_and_names_only_what_exists() {
        let conditions: BTreeSet<&str> = crate::finding::catalogue().rows().iter().map(|c| c.id.as_str()).collect();
        let mut ids = BTreeSet::new();
        for t in data() {
            assert!(ids.insert(&t.id), "{} twice", t.id);
            assert!(jiff::civil::Date::new(2027, t.month, t.day).is_ok(), "{}", t.id);
            assert!(!t.shape.is_empty() || !t.found.is_empty(), "{} is never asked for", t.id);
            assert!(t.shape.iter().all(|s| SHAPES.contains(&s.as_str())), "{}", t.id);
            for c in &t.found {
                assert!(conditions.contains(c.as_str()), "{}: {c}", t.id);
            }
        }
    }

    #[test]
    fn what_was_found_asks_and_says_so() {
        let found = vec![("stucco-crack".to_owned(), "Crack in stucco, rear".to_owned())];
        let list = upkeep(&BTreeSet::from(["gutters"]), &found);
        assert!(list.windows(2).all(|w| (w[0].month, w[0].day) <= (w[1].month, w[1].day)));
        let cracks = list.iter().find(|t| t.id == "cracks").unwrap();
        assert_eq!((cracks.season.as_str(), cracks.because.as_slice()), ("Autumn", &["Crack in stucco, rear".to_owned()][..]));
        assert!(list.iter().any(|t| t.id == "gutters-leaf-fall" && t.because.is_empty() && t.caution.is_some()));
        assert!(!list.iter().any(|t| t.id == "moss" || t.id == "skylights"));
        assert!(upkeep(&BTreeSet::new(), &[]).is_empty());
    }
}
