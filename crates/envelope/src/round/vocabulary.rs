//! The words of the trade, as data, prepared for looking up by their first word.

use crate::finding::{Urgency, catalogue};
use crate::round::{Certainty, Extent};
use crate::site::{Face, Zone};
use serde::{Deserialize, Serialize};
use std::collections::{HashMap, HashSet};
use std::sync::OnceLock;

/// A part of the building that people name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Component {
    /// Stable name.
    pub key: String,
    /// What is said or typed for it.
    pub words: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Words {
    id: String,
    components: Vec<String>,
    states: Vec<String>,
    phrases: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Alone {
    words: Vec<String>,
    id: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct General {
    praise: Vec<String>,
    negation: Vec<String>,
    station: Vec<String>,
    inside_components: Vec<String>,
    bad_states: Vec<String>,
    filler: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    component: Vec<Component>,
    words: Vec<Words>,
    alone: Vec<Alone>,
    faces: HashMap<Face, Vec<String>>,
    zones: HashMap<Zone, Vec<String>>,
    extents: HashMap<String, Vec<String>>,
    certainties: HashMap<String, Vec<String>>,
    general: General,
}

/// Words that join two findings in a line; they are never part of an entry.
pub(super) const JOINING: [&str; 3] = ["and", "also", "plus"];

/// What a group of words can mean.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Sense {
    /// Index of a component.
    Component(usize),
    /// Index of a condition: a set phrase, or a word that carries it alone.
    Phrase(usize),
    Alone(usize),
    /// Index of a condition: a word of state.
    State(usize),
    Face(Face),
    Zone(Zone),
    Extent(Extent),
    Certainty(Certainty),
    Praise,
    Negation,
    Station,
}

/// One entry: its words, stemmed, and what it means.
#[derive(Debug)]
pub(super) struct Entry {
    pub(super) stems: Vec<String>,
    pub(super) sense: Sense,
}

/// One condition as the reader of note lines needs it.
#[derive(Debug)]
pub(super) struct Known {
    pub(super) id: String,
    pub(super) components: Vec<usize>,
    pub(super) good: bool,
    pub(super) side: bool,
    pub(super) zones: &'static [Zone],
    /// Conditions that say the same place is right.
    pub(super) right: Vec<usize>,
    pub(super) on_record: bool,
}

/// The vocabulary.
#[derive(Debug)]
pub struct Vocabulary {
    components: Vec<Component>,
    pub(super) conditions: Vec<Known>,
    pub(super) inside: Vec<bool>,
    bad: HashSet<String>,
    filler: HashSet<String>,
    by_first: HashMap<String, Vec<Entry>>,
}

/// The stem two forms of a word share: plurals and -ed, -ing endings off, doubled end letters single.
pub(super) fn stem(word: &str) -> String {
    let long = |w: &str, cut: usize| w.is_char_boundary(w.len() - cut) && w.len() - cut >= 3;
    let mut w = word.to_owned();
    for (end, cut) in [("ies", 3), ("ing", 3), ("ed", 2), ("es", 2), ("s", 1)] {
        if w.ends_with(end) && !w.ends_with("ss") && long(&w, cut) {
            w.truncate(w.len() - cut);
            break;
        }
    }
    if w.len() > 3 && w.ends_with(['e', 'y']) {
        w.pop();
    }
    let mut ends = w.chars().rev();
    if let (Some(a), Some(b)) = (ends.next(), ends.next())
        && a == b
        && w.len() > 3
        && !matches!(a, 's' | 'l')
    {
        w.pop();
    }
    w
}

/// The zones where a group of conditions is met; the current place speaks for a condition that belongs there.
fn zones_of(group: &str) -> &'static [Zone] {
    use Zone::*;
    let head = group.split(':').next().unwrap_or(group);
    match head {
        "Roof" | "Ridge, hip and valley" | "Roof penetrations and flashings" | "Chimneys and skylights" => &[Roof],
        "Storm damage" => &[Roof, Edge],
        "Roof edge" | "Gutters and downspouts" | "Soffit, fascia and trim" => &[Edge],
        "Cladding" | "Weather barrier before cladding" => &[UpperWall, Openings, Base],
        "Openings" | "Wall penetrations" => &[Openings, UpperWall],
        "Base of wall and foundation perimeter" => &[Base],
        "Ground and drainage" | "Irrigation and plants" => &[Ground],
        "Decks, balconies and attachments" => &[Base, Ground],
        "Interior evidence" => &[Inside],
        _ => &[],
    }
}

impl Vocabulary {
    /// Every component.
    pub fn components(&self) -> &[Component] {
        &self.components
    }

    /// The entries whose words stand at position `i`, longest first.
    pub(super) fn at<'a>(&'a self, stems: &'a [String], i: usize) -> impl Iterator<Item = (&'a Entry, usize)> + 'a {
        self.by_first.get(&stems[i]).into_iter().flatten().filter(move |e| stems[i..].starts_with(&e.stems)).map(|e| (e, e.stems.len()))
    }

    /// A word of state that is bad by itself.
    pub(super) fn is_bad(&self, stem: &str) -> bool {
        self.bad.contains(stem)
    }
    /// A small word that carries nothing.
    pub(super) fn is_filler(&self, stem: &str) -> bool {
        self.filler.contains(stem)
    }

    fn build(file: File) -> Vocabulary {
        let component_index: HashMap<&str, usize> = file.component.iter().enumerate().map(|(i, c)| (c.key.as_str(), i)).collect();
        let condition_index: HashMap<&str, usize> = file.words.iter().enumerate().map(|(i, w)| (w.id.as_str(), i)).collect();
        let mut entries: Vec<(String, Sense)> = Vec::new();
        for (i, c) in file.component.iter().enumerate() {
            entries.extend(c.words.iter().map(|w| (w.clone(), Sense::Component(i))));
            entries.push((c.key.replace('-', " "), Sense::Component(i)));
        }
        let mut conditions = Vec::new();
        for (i, w) in file.words.iter().enumerate() {
            let row = catalogue().get(&w.id).expect("tested: every id is in the catalogue");
            entries.extend(w.phrases.iter().map(|p| (p.clone(), Sense::Phrase(i))));
            entries.push((row.name.to_lowercase(), Sense::Alone(i)));
            entries.extend(w.states.iter().map(|s| (s.clone(), Sense::State(i))));
            conditions.push(Known {
                id: w.id.clone(),
                components: w.components.iter().map(|c| component_index[c.as_str()]).collect(),
                good: row.is_ok(),
                side: row.side,
                zones: zones_of(&row.group),
                right: row.right.iter().map(|r| condition_index[r.as_str()]).collect(),
                on_record: row.urgency == Urgency::Record,
            });
        }
        for a in &file.alone {
            entries.extend(a.words.iter().map(|w| (w.clone(), Sense::Alone(condition_index[a.id.as_str()]))));
        }
        for (face, words) in &file.faces {
            entries.extend(words.iter().map(|w| (w.clone(), Sense::Face(*face))));
        }
        for (zone, words) in &file.zones {
            entries.extend(words.iter().map(|w| (w.clone(), Sense::Zone(*zone))));
        }
        for (name, words) in &file.extents {
            let extent: Extent = serde_json::from_value(name.clone().into()).expect("tested: extents are known");
            entries.extend(words.iter().map(|w| (w.clone(), Sense::Extent(extent))));
        }
        for (name, words) in &file.certainties {
            let certainty: Certainty = serde_json::from_value(name.clone().into()).expect("tested: certainties are known");
            entries.extend(words.iter().map(|w| (w.clone(), Sense::Certainty(certainty))));
        }
        let plain = |words: &[String], sense: Sense| words.iter().map(|w| (w.clone(), sense)).collect::<Vec<_>>();
        entries.extend(plain(&file.general.praise, Sense::Praise));
        entries.extend(plain(&file.general.negation, Sense::Negation));
        entries.extend(plain(&file.general.station, Sense::Station));
        let mut by_first: HashMap<String, Vec<Entry>> = HashMap::new();
        for (words, sense) in entries {
            let stems: Vec<String> =
                words.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty() && !JOINING.contains(w)).map(stem).collect();
            if let Some(first) = stems.first() {
                let list = by_first.entry(first.clone()).or_default();
                if !list.iter().any(|e| e.stems == stems && e.sense == sense) {
                    list.push(Entry { stems, sense });
                }
            }
        }
        for list in by_first.values_mut() {
            list.sort_by_key(|e| std::cmp::Reverse(e.stems.len()));
        }
        let stems = |words: &[String]| words.iter().map(|w| stem(w)).collect();
        let (bad, filler) = (stems(&file.general.bad_states), stems(&file.general.filler));
        let inside = file.component.iter().map(|c| file.general.inside_components.contains(&c.key)).collect();
        Vocabulary { components: file.component, conditions, inside, bad, filler, by_first }
    }
}

/// The embedded vocabulary.
pub fn vocabulary() -> &'static Vocabulary {
    static VOCABULARY: OnceLock<Vocabulary> = OnceLock::new();
    VOCABULARY
        .get_or_init(|| Vocabulary::build(toml::from_str(include_str!("vocabulary.toml")).expect("the embedded vocabulary is tested")))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_and_catalogue_name_the_same_conditions() {
        let said: HashSet<_> = vocabulary().conditions.iter().map(|c| c.id.as_str()).collect();
        let known: HashSet<_> = catalogue().rows().iter().map(|r| r.id.as_str()).collect();
        assert_eq!(said, known);
        assert!(vocabulary().conditions.iter().all(|c| !c.components.is_empty() && !c.zones.is_empty()));
    }

    #[test]
    fn forms_of_a_word_share_a_stem() {
        for group in [
            &["crack", "cracks", "cracked", "cracking"][..],
            &["rot", "rots", "rotted", "rotting"],
            &["leave", "leaves"],
            &["damage", "damaged", "damages"],
            &["body", "bodies"],
        ] {
            let stems: HashSet<_> = group.iter().map(|w| stem(w)).collect();
            assert_eq!(stems.len(), 1, "{group:?} {stems:?}");
        }
        assert_ne!(stem("moss"), stem("mos"));
        assert_eq!(stem("é"), "é");
    }
}
