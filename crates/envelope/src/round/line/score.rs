//! Which condition a clause, or the whole line, speaks of.

use super::reader::{Match, Reader};
use crate::round::vocabulary::Sense;
use crate::site::Zone;
use rustc_hash::FxHashMap;

const ALONE: f64 = 16.0;
const PHRASE: f64 = 9.0;
const PHRASE_WORD: f64 = 2.0;
const SINGLE_WORD_PHRASE: f64 = 5.0;
const FURTHER_PHRASE: f64 = 2.0;
const STATE: f64 = 3.0;
const MOST_STATES: usize = 3;
const PART: f64 = 4.0;
const HERE: f64 = 1.5;
/// A part remembered from the sentence before, or named only to say where, speaks less than one named here.
const PART_BEFORE: f64 = 2.0;
const PART_IN_STATION: f64 = 2.0;
/// The part that is named is none of the condition's; more when the words could be said of many things.
const OTHER_PART: f64 = 4.0;
const OTHER_PART_SHARED: f64 = 9.0;
/// In talk the part that is named first is the subject; one named after it speaks less.
const LATER_PART: f64 = 2.5;
/// A word of state that is common in talk.
const WEAK_STATE: f64 = 1.0;
/// The covering that is named is the condition's, or another.
const COVERING: f64 = 2.0;
/// In talk, what follows in a sentence is a finding of its own only when it is this clear.
const OWN_IN_TALK: f64 = 7.5;
/// A part with a word of state reaches this; a single loose word does not.
pub(super) const CHOSEN: f64 = 7.0;
/// Offered, but not chosen.
const OFFERED: f64 = 5.0;
/// The score at which confidence is full.
pub(super) const SURE: f64 = 20.0;

/// What was found for one clause or for the whole line.
#[derive(Default, Clone)]
pub(super) struct Scored {
    /// Condition index and score, best first.
    pub(super) ranked: Vec<(usize, f64)>,
    pub(super) praised: bool,
}

impl Scored {
    pub(super) fn best(&self) -> Option<(usize, f64)> {
        self.ranked.first().copied().filter(|(_, s)| *s >= CHOSEN)
    }
}

impl Reader<'_> {
    pub(super) fn score(&self, clause: Option<usize>, zone: Zone, stations: &[Match]) -> Scored {
        let mut named: Vec<Match> = self.parts(clause);
        // "On this side we have bushes": the side is where, not what.
        let side = |m: &Match| m.len == 1 && ["sid", "fac", "elevation"].contains(&self.items[m.first].stem.as_str());
        if self.memory.is_some() {
            named.retain(|m| !side(m));
        }
        // "It's full of leaves": in talk the part may have been named before.
        if named.is_empty()
            && let Some(c) = self.memory.and_then(|m| m.component)
        {
            named.push(Match { sense: Sense::Component(c), first: self.items.len(), len: 0 });
        }
        // "Light loose, gap behind it": in a line a pronoun stands for the part that was named last before it.
        if named.is_empty() && self.memory.is_none() {
            named.extend(clause.and_then(|c| self.meant_before(c)));
        }
        let outside_station: Vec<Match> = named.iter().filter(|m| !Self::within(m, stations)).copied().collect();
        let scored = self.score_with(clause, zone, &outside_station, &named);
        if scored.best().is_some() || !outside_station.is_empty() { scored } else { self.score_with(clause, zone, &named, &named) }
    }

    /// A pronoun stands in a clause, or anywhere in the line, that can mean a part named before it.
    fn says_it(&self, clause: Option<usize>) -> bool {
        const PRONOUNS: [&str; 4] = ["it", "its", "them", "they"];
        self.items.iter().any(|i| clause.is_none_or(|c| i.clause == c) && PRONOUNS.contains(&i.stem.as_str()))
    }

    /// The part a pronoun of a clause stands for: the last one that was named in an earlier clause.
    fn meant_before(&self, clause: usize) -> Option<Match> {
        let earlier = |m: &&Match| matches!(m.sense, Sense::Component(_)) && self.items[m.first].clause < clause;
        let part = self.matches.iter().filter(earlier).max_by_key(|m| m.first).filter(|_| self.says_it(Some(clause)))?;
        Some(Match { sense: part.sense, first: self.items.len(), len: 0 })
    }

    fn score_with(&self, clause: Option<usize>, zone: Zone, parts: &[Match], everywhere: &[Match]) -> Scored {
        #[derive(Default)]
        struct Tally {
            phrase: f64,
            phrases: usize,
            states: Vec<usize>,
            /// Positions of single-word phrases: such a word does not count as a word of state again.
            words: Vec<usize>,
            /// A set phrase is also the part's name.
            named: bool,
            /// A set phrase that only this condition lists.
            distinct: bool,
        }
        let keys = |of: &[Match]| -> Vec<usize> {
            of.iter().filter_map(|m| if let Sense::Component(c) = m.sense { Some(c) } else { None }).collect()
        };
        let (named, in_station) = (keys(parts), keys(everywhere));
        let remembered = parts.iter().all(|m| m.len == 0);
        let covering = self.matches.iter().find_map(|m| match m.sense {
            Sense::Covering(c) if self.in_clause(m, clause) => Some(c),
            _ => None,
        });
        let mut tallies: FxHashMap<usize, Tally> = FxHashMap::default();
        let mut praised = false;
        for m in self.matches.iter().filter(|m| self.in_clause(m, clause)) {
            let (said, weight) = match &m.sense {
                Sense::Alone(c) => (c, ALONE + m.len as f64),
                Sense::Phrase(c) if m.len > 1 => (c, PHRASE + PHRASE_WORD * m.len as f64),
                Sense::Phrase(c) => (c, SINGLE_WORD_PHRASE),
                Sense::State(c) => (c, 0.0),
                Sense::Praise => {
                    // "Okay, so" praises nothing.
                    let opens = m.first == 0 || self.items[m.first - 1].clause != self.items[m.first].clause;
                    if self.memory.is_some()
                        && m.len == 1
                        && opens
                        && ["okay", "ok"].contains(&self.surface(&self.items[m.first]).to_lowercase().as_str())
                    {
                        continue;
                    }
                    praised |= !self.matches.iter().any(|n| n.sense == Sense::Negation && n.first + 1 == m.first);
                    continue;
                }
                _ => continue,
            };
            let denied = self.denied(m);
            let of = &self.v.conditions[*said];
            let found = if denied && !of.good { &of.right[..] } else { std::slice::from_ref(said) };
            for c in found.iter().copied() {
                // A word that names the part is no fault of it: "slab" alone says nothing of a slab.
                let k = &self.v.conditions[c];
                let names_part = matches!(m.sense, Sense::Phrase(_))
                    && m.len == 1
                    && parts.iter().any(|p| p.first == m.first && matches!(p.sense, Sense::Component(x) if k.components.contains(&x)));
                // "Everything looks good" praises no part in particular.
                let bare_praise = self.memory.is_some()
                    && k.good
                    && !named.iter().any(|x| k.components.contains(x))
                    && (m.first..m.first + m.len).all(|i| {
                        const SMALL: [&str; 6] = ["look", "is", "are", "order", "shap", "in"];
                        let praise = self.matches.iter().any(|p| p.sense == Sense::Praise && p.first <= i && i < p.first + p.len);
                        praise || SMALL.contains(&self.items[i].stem.as_str())
                    });
                let weight = if names_part || bare_praise { 0.0 } else { weight };
                let t = tallies.entry(c).or_default();
                t.named |= names_part;
                t.distinct |= match m.sense {
                    Sense::Alone(_) => true,
                    Sense::Phrase(_) => {
                        let stems = || self.items[m.first..m.first + m.len].iter().map(|i| i.number).collect::<Vec<u32>>();
                        m.len > 1 && !self.v.is_shared(&stems())
                    }
                    _ => false,
                };
                if weight > 0.0 {
                    t.phrases += 1;
                    t.phrase = t.phrase.max(weight);
                }
                if weight > 0.0 && m.len == 1 {
                    t.words.push(m.first);
                }
                if (weight == 0.0 || denied) && !t.states.contains(&m.first) {
                    t.states.push(m.first);
                }
            }
        }
        let mut ranked: Vec<(usize, f64)> = tallies
            .into_iter()
            .filter_map(|(c, t)| {
                let k = &self.v.conditions[c];
                let part = k.components.iter().any(|x| named.contains(x));
                // One word that is both the part and its state says too little: "slope" is no fault of a slope.
                let here = |p: &&Match| matches!(p.sense, Sense::Component(x) if k.components.contains(&x));
                if t.phrase == 0.0 && !t.named && t.states.iter().all(|s| parts.iter().filter(here).all(|p| p.first == *s)) {
                    return None;
                }
                let mut s = t.phrase + FURTHER_PHRASE * t.phrases.saturating_sub(1).min(3) as f64;
                if part || t.phrase > 0.0 {
                    // In talk a word that names the part, or that everybody uses, is hardly a word of state.
                    let names = |at: usize| parts.iter().filter(here).any(|p| p.first <= at && at < p.first + p.len);
                    let weight = |at: usize| match self.memory {
                        Some(_) if names(at) => 0.0,
                        Some(_) if !k.good && self.v.is_weak(&self.items[at].stem) => WEAK_STATE,
                        _ => STATE,
                    };
                    let mut each: Vec<f64> = t.states.iter().filter(|s| !t.words.contains(s)).map(|s| weight(*s)).collect();
                    each.sort_by(|a, b| b.total_cmp(a));
                    s += each.iter().take(MOST_STATES).sum::<f64>();
                }
                s += match (part && s > 0.0, remembered) {
                    (true, true) => PART_BEFORE,
                    (true, false) if self.memory.is_some() && !named.first().is_some_and(|f| k.components.contains(f)) => LATER_PART,
                    (true, false) => PART,
                    _ => 0.0,
                };
                s += if s > 0.0 && !part && k.components.iter().any(|x| in_station.contains(x)) { PART_IN_STATION } else { 0.0 };
                s += if s > 0.0
                    && part
                    && in_station.len() > named.len()
                    && k.components.iter().filter(|x| in_station.contains(x)).count() > 1
                {
                    PART_IN_STATION
                } else {
                    0.0
                };
                // The zone is set by hand on the wheel; in talk only the roof and the inside are places one is in.
                let placed = self.memory.is_none() || matches!(zone, Zone::Roof | Zone::Inside);
                s += if s > 0.0 && placed && k.zones.contains(&zone) { HERE } else { 0.0 };
                let of_another = t.phrase < ALONE && !part && !named.is_empty();
                if of_another && self.memory.is_none() && self.says_it(clause) {
                    // "Gap behind it" is said of what "it" stands for, however much it sounds like another part's.
                    s -= OTHER_PART_SHARED + OTHER_PART;
                } else if of_another && !remembered {
                    // Who types is terse and names the part that matters; talk names many.
                    s -= match (self.memory.is_some(), t.distinct) {
                        (true, true) | (false, false) => OTHER_PART,
                        (true, false) => OTHER_PART_SHARED,
                        (false, true) => 0.0,
                    };
                }
                s += match (covering, k.covering) {
                    (Some(a), Some(b)) if a == b => COVERING,
                    (Some(_), Some(_)) => -COVERING,
                    _ => 0.0,
                };
                // A fault in plain words speaks against praise of the same part.
                if self.memory.is_some() && k.good && self.faulted(clause) && !t.distinct {
                    s -= OTHER_PART;
                }
                // Praise speaks against a fault that rests on loose words only.
                let loose_fault = praised && !k.good && !k.on_record && t.phrase <= SINGLE_WORD_PHRASE;
                (s >= OFFERED && !loose_fault).then_some((c, s))
            })
            .collect();
        ranked.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
        Scored { ranked, praised }
    }

    /// Which clauses make a note together. A clause with a condition of its own is a note; the others join the one before.
    pub(super) fn groups(&self, zone: Zone, stations: &[Match]) -> Vec<(Vec<usize>, Scored)> {
        let whole = self.score(None, zone, stations);
        let all: Vec<usize> = (0..self.clauses).collect();
        let own: Vec<(usize, Scored)> =
            all.iter().map(|c| (*c, self.score(Some(*c), zone, stations))).filter(|(_, s)| s.best().is_some()).collect();
        let mut groups: Vec<(Vec<usize>, Scored)> = Vec::new();
        for (c, s) in own {
            match groups.last_mut() {
                Some((clauses, before)) if self.adds_detail(c, &s, before) || !self.stands_alone(c, &s) => clauses.push(c),
                _ => groups.push((vec![c], s)),
            }
        }
        if groups.len() < 2 {
            if whole.praised {
                return vec![(all, whole)];
            }
            let better = groups.first().and_then(|(_, s)| s.best()).filter(|own| whole.best().is_none_or(|w| w.1 < own.1));
            let scored = if better.is_some() { groups.remove(0).1 } else { whole };
            return vec![(all, scored)];
        }
        for c in all {
            if groups.iter().any(|(clauses, _)| clauses.contains(&c)) {
                continue;
            }
            let before = groups.iter().rposition(|(clauses, _)| clauses[0] < c).unwrap_or(0);
            groups[before].0.push(c);
        }
        for (clauses, _) in &mut groups {
            clauses.sort_unstable();
        }
        groups
    }

    /// A bad word that is not denied.
    fn faulted(&self, clause: Option<usize>) -> bool {
        self.matches.iter().any(|m| {
            matches!(m.sense, Sense::State(_) | Sense::Phrase(_))
                && m.len == 1
                && self.in_clause(m, clause)
                && self.v.is_bad(&self.items[m.first].stem)
                && !self.denied(m)
        })
    }

    /// In talk a loose word beside a part is no finding of its own behind another one.
    fn stands_alone(&self, clause: usize, scored: &Scored) -> bool {
        let strong = self
            .matches
            .iter()
            .any(|m| matches!(m.sense, Sense::Alone(_) | Sense::Phrase(_)) && m.len > 1 && self.in_clause(m, Some(clause)));
        self.memory.is_none() || strong || scored.best().is_some_and(|(_, s)| s >= OWN_IN_TALK)
    }

    /// A clause goes on about the finding before it when it can mean the same, or when it names no part of its own and has
    /// no word that carries a condition alone.
    fn adds_detail(&self, clause: usize, scored: &Scored, before: &Scored) -> bool {
        let same = before.best().is_some_and(|(c, _)| scored.ranked.iter().any(|(r, s)| *r == c && *s >= CHOSEN));
        let own_subject = !self.parts(Some(clause)).is_empty()
            || self.matches.iter().any(|m| matches!(m.sense, Sense::Alone(_)) && self.in_clause(m, Some(clause)));
        same || !own_subject
    }
}
