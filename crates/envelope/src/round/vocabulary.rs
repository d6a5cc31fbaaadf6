//! The words of the trade, as data, prepared for looking up by their first word.

mod file;

use self::file::File;
use crate::finding::{Urgency, catalogue};
use crate::round::{Certainty, Extent};
use crate::site::{Face, LimitReason, Zone};
use rustc_hash::{FxHashMap, FxHashSet};
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
    Cue(Cue),
    /// Could not be seen, with the reason when one is given.
    Limit(Option<LimitReason>),
    /// Index of another trade.
    Side(usize),
    Room,
    /// Index of a roof covering.
    Covering(usize),
}

/// Words about the telling, not about the building.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Cue {
    /// The where changes.
    Moving,
    /// To the next face, the way round.
    NextFace,
    /// The last note goes.
    Drop,
    /// What follows stands for what came before.
    Replace,
    /// The last note belongs to another place.
    Misplaced,
    /// Said of the work in general.
    General,
    /// About another place or day.
    Elsewhere,
    /// What might be.
    Conditional,
    /// Shown here and now.
    Pointing,
    /// The last finding again.
    Again,
    /// Somebody should do something.
    Recommend,
}

/// A word or group that recognition or quick typing yields, and what was meant.
#[derive(Debug)]
pub(super) struct Heard {
    /// As they are said, not their stems: "flushing" is misheard, "flush" is not.
    pub(super) words: Vec<String>,
    pub(super) meant: Vec<String>,
    near: HashSet<String>,
}

impl Heard {
    /// Whether the other words of the line allow the reading.
    pub(super) fn fits<'a>(&self, mut others: impl Iterator<Item = &'a str>) -> bool {
        self.near.is_empty() || others.any(|w| self.near.contains(w))
    }
}

/// One entry: the numbers of its stems, and what it means.
#[derive(Debug)]
pub(super) struct Entry {
    pub(super) stems: Vec<u32>,
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
    /// Where it can be met at all; empty where nothing is ruled out.
    pub(super) held_at: &'static [Zone],
    /// Conditions that say the same place is right.
    pub(super) right: Vec<usize>,
    pub(super) on_record: bool,
    /// A plain fact, neither good nor bad.
    pub(super) fact: bool,
    /// The covering it belongs to, by index, when it belongs to one only.
    pub(super) covering: Option<usize>,
}

/// A word that a practice adds, and what it stands for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OwnWord {
    /// What is said or typed: a word or a short group.
    pub said: String,
    /// A component key or a condition id.
    pub means: String,
}

impl OwnWord {
    /// Checks that the word can be looked up.
    ///
    /// # Errors
    /// What is wrong and what to do.
    pub fn check(&self) -> Result<(), String> {
        const MOST_WORDS: usize = 6;
        let words = stems_of(&self.said).len();
        if words == 0 || words > MOST_WORDS || self.said.chars().count() > 80 {
            return Err(format!(
                "\u{201c}{}\u{201d} cannot be an own word. Use one to {MOST_WORDS} words.",
                self.said.chars().take(40).collect::<String>()
            ));
        }
        match vocabulary().meaning(&self.means) {
            Some(_) => Ok(()),
            None => Err(format!(
                "\u{201c}{}\u{201d} is no part and no condition. Choose one from the lists.",
                self.means.chars().take(40).collect::<String>()
            )),
        }
    }
}

/// The vocabulary.
#[derive(Debug)]
pub struct Vocabulary {
    components: Vec<Component>,
    pub(super) conditions: Vec<Known>,
    /// For each component the conditions it may have, by index.
    about: Vec<Vec<usize>>,
    pub(super) inside: Vec<bool>,
    bad: FxHashSet<String>,
    filler: FxHashSet<String>,
    /// Every stem of every entry has a number, so that a line is looked up by numbers.
    numbers: FxHashMap<String, u32>,
    /// Entries by the number of their first stem.
    by_first: Vec<Vec<Entry>>,
    heard: FxHashMap<String, Vec<Heard>>,
    /// Every stem of every entry, by its first letter; what a misspelling may be corrected to.
    lexicon: FxHashMap<char, Vec<(String, bool)>>,
    ordinary: FxHashSet<&'static str>,
    breaks: FxHashSet<String>,
    trades: Vec<String>,
    component_zone: Vec<Option<Zone>>,
    weak: FxHashSet<String>,
    tools: FxHashSet<String>,
    /// Set phrases that several conditions list: they say little without a part.
    shared: FxHashSet<Vec<u32>>,
}

/// The stems of a phrase, without joining words.
pub(super) fn stems_of(words: &str) -> Vec<String> {
    let lower = words.to_lowercase();
    // "isn't" is read as "isn not", wherever it stands
    lower
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty() && !JOINING.contains(w))
        .map(|w| if w == "t" { stem("not") } else { stem(w) })
        .collect()
}

/// The stem two forms of a word share: plurals and -ed, -ing endings off, doubled end letters single.
pub(super) fn stem(word: &str) -> String {
    let long = |w: &str, cut: usize| w.is_char_boundary(w.len() - cut) && w.len() - cut >= 3;
    // Endings that make another word of it.
    match word {
        "siding" | "sidings" => return "siding".into(),
        "pane" | "panes" => return "pane".into(),
        _ => {}
    }
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

/// The heights at which a group of conditions can be met at all, beside those where it usually is: a downspout ends at the ground.
/// Empty where nothing is ruled out: a branch or a dent may be anywhere.
fn held_at(group: &str) -> &'static [Zone] {
    use Zone::*;
    match group.split(':').next().unwrap_or(group) {
        "Roof" | "Ridge, hip and valley" | "Roof penetrations and flashings" | "Chimneys and skylights" => &[Roof, Edge],
        "Roof edge" | "Gutters and downspouts" => &[Roof, Edge, UpperWall, Openings, Base, Ground],
        "Soffit, fascia and trim" => &[Edge, UpperWall, Openings, Base],
        "Cladding" | "Weather barrier before cladding" | "Openings" | "Wall penetrations" => &[Edge, UpperWall, Openings, Base],
        "Base of wall and foundation perimeter" | "Ground and drainage" => &[Base, Ground],
        "Decks, balconies and attachments" => &[UpperWall, Openings, Base, Ground],
        "Interior evidence" => &[Inside],
        _ => &[],
    }
}

impl Vocabulary {
    /// Every component.
    pub fn components(&self) -> &[Component] {
        &self.components
    }

    /// The conditions a component may have, by index.
    pub(super) fn about(&self, component: usize) -> &[usize] {
        &self.about[component]
    }

    /// The number of a stem; [`UNKNOWN`] for one that stands in no entry.
    pub(super) fn number(&self, stem: &str) -> u32 {
        self.numbers.get(stem).copied().unwrap_or(UNKNOWN)
    }

    /// The entries whose words stand at position `i` of numbered stems, longest first.
    pub(super) fn at<'a>(&'a self, stems: &'a [u32], i: usize) -> impl Iterator<Item = (&'a Entry, usize)> + 'a {
        let list = self.by_first.get(stems[i] as usize).map_or(&[][..], Vec::as_slice);
        list.iter().filter(move |e| stems[i..].starts_with(&e.stems)).map(|e| (e, e.stems.len()))
    }

    /// A word of state that is bad by itself.
    pub(super) fn is_bad(&self, stem: &str) -> bool {
        self.bad.contains(stem)
    }
    /// A small word that carries nothing.
    pub(super) fn is_filler(&self, stem: &str) -> bool {
        self.filler.contains(stem)
    }

    /// What a component key or condition id stands for.
    pub(super) fn meaning(&self, id: &str) -> Option<Sense> {
        let component = self.components.iter().position(|c| c.key == id).map(Sense::Component);
        component.or_else(|| self.conditions.iter().position(|c| c.id == id).map(Sense::Alone))
    }
    /// What a group that starts with this word may be misheard for, longest first.
    pub(super) fn heard(&self, word: &str) -> &[Heard] {
        self.heard.get(word).map_or(&[], Vec::as_slice)
    }
    /// Whether the stem stands anywhere in the vocabulary.
    pub(super) fn knows(&self, stem: &str) -> bool {
        self.numbers.contains_key(stem)
    }
    /// A word that starts a new thought in speech.
    pub(super) fn is_break(&self, word: &str) -> bool {
        self.breaks.contains(word)
    }
    /// The trade of a side note.
    pub(super) fn trade(&self, i: usize) -> &str {
        &self.trades[i]
    }
    /// A word of state so common in talk that it says little.
    pub(super) fn is_weak(&self, stem: &str) -> bool {
        self.weak.contains(stem)
    }
    /// A set phrase that more than one condition lists.
    pub(super) fn is_shared(&self, stems: &[u32]) -> bool {
        self.shared.contains(stems)
    }
    /// A thing praised in talk that is no part of a building.
    pub(super) fn is_tool(&self, stem: &str) -> bool {
        self.tools.contains(stem)
    }
    /// Where a part is met.
    pub(super) fn zone_of(&self, component: usize) -> Option<Zone> {
        self.component_zone[component]
    }

    /// The one stem of the vocabulary that a misspelt word is nearest to, with the number of slips. Ordinary English words
    /// are never corrected, numbers neither; two stems equally near are no answer.
    pub(super) fn closest(&self, word: &str, word_stem: &str) -> Option<(&str, usize)> {
        let letters = word_stem.chars().count();
        if letters < SHORTEST_CORRECTED || !word.chars().all(char::is_alphabetic) || self.ordinary.contains(word) || self.knows(word_stem) {
            return None;
        }
        let allowed = if word.chars().count() >= LONG_WORD { 2 } else { 1 };
        // Of two equally near, the name of a part is meant rather than a word of state.
        let mut best: Option<(&str, (usize, bool))> = None;
        let mut tied = false;
        for (candidate, part) in self.lexicon.get(&word_stem.chars().next()?)? {
            if candidate.len().abs_diff(word_stem.len()) > allowed {
                continue;
            }
            let slips = strsim::osa_distance(word_stem, candidate);
            let rank = (slips, !part);
            if slips > allowed || best.is_some_and(|b| b.1 < rank) {
                continue;
            }
            tied = best.is_some_and(|b| b.1 == rank);
            best = Some((candidate, rank));
        }
        best.filter(|_| !tied).map(|(c, (slips, _))| (c, slips))
    }

    fn build(file: File) -> Vocabulary {
        let component_index: HashMap<&str, usize> = file.component.iter().enumerate().map(|(i, c)| (c.key.as_str(), i)).collect();
        let condition_index: HashMap<&str, usize> = file.words.iter().enumerate().map(|(i, w)| (w.id.as_str(), i)).collect();
        let mut entries: Vec<(String, Sense)> = Vec::new();
        for (i, c) in file.component.iter().enumerate() {
            entries.extend(c.words.iter().map(|w| (w.clone(), Sense::Component(i))));
            entries.push((c.key.replace('-', " "), Sense::Component(i)));
        }
        let mut coverings: Vec<String> = file.coverings.keys().cloned().collect();
        coverings.sort();
        for (i, c) in coverings.iter().enumerate() {
            entries.extend(file.coverings[c].iter().map(|w| (w.clone(), Sense::Covering(i))));
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
                held_at: held_at(&row.group),
                right: row.right.iter().map(|r| condition_index[r.as_str()]).collect(),
                on_record: row.urgency == Urgency::Record,
                fact: row.id.ends_with("-record"),
                covering: coverings.iter().position(|c| row.id.starts_with(&format!("{c}-"))),
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
        let t = &file.talk;
        for (words, cue) in [
            (&t.moving, Cue::Moving),
            (&t.next_face, Cue::NextFace),
            (&t.drop, Cue::Drop),
            (&t.replace, Cue::Replace),
            (&t.elsewhere_place, Cue::Misplaced),
            (&t.general, Cue::General),
            (&t.elsewhere, Cue::Elsewhere),
            (&t.conditional, Cue::Conditional),
            (&t.pointing, Cue::Pointing),
            (&t.again, Cue::Again),
            (&t.recommend, Cue::Recommend),
        ] {
            entries.extend(plain(words, Sense::Cue(cue)));
        }
        for (reason, words) in &file.limits {
            entries.extend(plain(words, Sense::Limit(Some(*reason))));
        }
        entries.extend(plain(&file.unseen.words, Sense::Limit(None)));
        for (i, side) in file.side.iter().enumerate() {
            entries.extend(plain(&side.words, Sense::Side(i)));
        }
        entries.extend(plain(&file.rooms.words, Sense::Room));

        let mut by_first: Vec<Vec<Entry>> = Vec::new();
        // What a slip of the keys may be corrected to: names of parts, states and faces, not the small words of talk.
        let mut correctable: HashMap<String, bool> = HashMap::new();
        let mut numbers: FxHashMap<String, u32> = FxHashMap::default();
        for (words, sense) in entries {
            let stems = stems_of(&words);
            if matches!(sense, Sense::Component(_) | Sense::Phrase(_) | Sense::Alone(_) | Sense::State(_)) {
                let part = matches!(sense, Sense::Component(_));
                for s in stems.iter().filter(|s| s.len() >= SHORTEST_CORRECTED) {
                    *correctable.entry(s.clone()).or_default() |= part;
                }
            }
            let mut number = |s: String| {
                let next = numbers.len() as u32;
                *numbers.entry(s).or_insert(next)
            };
            let stems: Vec<u32> = stems.into_iter().map(&mut number).collect();
            if let Some(first) = stems.first().map(|f| *f as usize) {
                by_first.resize_with(by_first.len().max(first + 1), Vec::new);
                let list = &mut by_first[first];
                if !list.iter().any(|e| e.stems == stems && e.sense == sense) {
                    list.push(Entry { stems, sense });
                }
            }
        }
        for list in &mut by_first {
            list.sort_by_key(|e| std::cmp::Reverse(e.stems.len()));
        }
        let mut listed: FxHashMap<Vec<u32>, HashSet<usize>> = FxHashMap::default();
        for e in by_first.iter().flatten() {
            if let Sense::Phrase(c) = e.sense {
                listed.entry(e.stems.clone()).or_default().insert(c);
            }
        }
        let shared = listed.into_iter().filter(|(_, c)| c.len() > 1).map(|(s, _)| s).collect();
        let mut lexicon: FxHashMap<char, Vec<(String, bool)>> = FxHashMap::default();
        for (s, part) in correctable {
            if let Some(first) = s.chars().next() {
                lexicon.entry(first).or_default().push((s, part));
            }
        }
        lexicon.values_mut().for_each(|l| l.sort());
        let mut heard: FxHashMap<String, Vec<Heard>> = FxHashMap::default();
        for row in &file.heard {
            let meant = stems_of(&row.meant);
            for said in row.said.iter().filter(|s| stems_of(s) != meant) {
                let words: Vec<String> = said.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(str::to_owned).collect();
                let near = row.near.iter().flat_map(|w| stems_of(w)).collect();
                heard.entry(words[0].clone()).or_default().push(Heard { words, meant: meant.clone(), near });
            }
        }
        for list in heard.values_mut() {
            list.sort_by_key(|h| std::cmp::Reverse(h.words.len()));
        }
        let stems = |words: &[String]| words.iter().map(|w| stem(w)).collect();
        let (bad, filler) = (stems(&file.general.bad_states), stems(&file.general.filler));
        let inside: Vec<bool> = file.component.iter().map(|c| file.general.inside_components.contains(&c.key)).collect();
        let zone_of = |key: &String| file.part_zones.iter().find(|(_, parts)| parts.contains(key)).map(|(z, _)| *z);
        let component_zone = file.component.iter().map(|c| zone_of(&c.key)).collect();
        let mut about = vec![vec![]; file.component.len()];
        for (i, k) in conditions.iter().enumerate() {
            k.components.iter().for_each(|c: &usize| about[*c].push(i));
        }
        let (weak, tools) = (stems(&file.general.weak_states), stems(&file.general.tools));
        Vocabulary {
            components: file.component,
            conditions,
            about,
            inside,
            bad,
            filler,
            numbers,
            by_first,
            heard,
            lexicon,
            ordinary: include_str!("ordinary_words.txt").lines().collect(),
            breaks: file.talk.breaks.iter().cloned().collect(),
            trades: file.side.into_iter().map(|s| s.trade).collect(),
            component_zone,
            weak,
            tools,
            shared,
        }
    }
}

/// The number of what stands in no entry: no entry begins with it or holds it.
pub(super) const UNKNOWN: u32 = u32::MAX;
/// Shorter words are never corrected: too many of them are one slip apart.
const SHORTEST_CORRECTED: usize = 4;
/// From this many letters on, two slips are allowed.
const LONG_WORD: usize = 7;

/// The embedded vocabulary.
pub fn vocabulary() -> &'static Vocabulary {
    static VOCABULARY: OnceLock<Vocabulary> = OnceLock::new();
    VOCABULARY
        .get_or_init(|| Vocabulary::build(toml::from_str(include_str!("vocabulary.toml")).expect("the embedded vocabulary is tested")))
}

#[cfg(test)]
mod tests;
