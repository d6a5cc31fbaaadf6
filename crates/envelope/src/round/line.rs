//! The note line: one line as typed on the walk, read into places, parts, conditions, measures, extent and certainty.
//!
//! No fixed order is asked for. Words that are not known stay in the note's text; nothing is thrown away. The reader is
//! deterministic and its vocabulary is data. This is the first depth of it: misspellings, speech slips, corrections and
//! moving on are left for later work.
//!
//! How a condition is chosen: set phrases outweigh single words, a part that is named must fit, the place that is set
//! speaks for conditions that are met there, and "no" in front of something bad makes it good. The weights below are
//! ours; the tests hold what they must achieve.

use super::note::{Certainty, Extent, Note, NoteKind};
use super::vocabulary::{JOINING, Sense, Vocabulary, stem, vocabulary};
use crate::finding::{Facts, catalogue};
use crate::measure::{self, Found, Measure};
use crate::site::{Bearing, Face, Place, Surface, Zone};
use crate::text::{self, Kind, Span, Token};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// What is set before the line is typed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Context {
    /// The place chosen on the wheel.
    pub place: Place,
    /// The direction the front faces, so that "north" can be read.
    #[serde(default)]
    pub front: Option<Bearing>,
}

/// What a piece of the line was understood as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum FragmentKind {
    /// A reading.
    Measure,
    /// What is wrong or right.
    Condition,
    /// A part of the building.
    Component,
    /// Where.
    Place,
    /// How much.
    Extent,
    /// How sure.
    Certainty,
    /// Words of praise.
    Praise,
    /// Kept in the note as it is.
    Rest,
}

/// A piece of the line. All pieces together, in order, are the line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fragment {
    /// Bytes of the line.
    pub span: Span,
    /// What it was understood as.
    pub kind: FragmentKind,
    /// The characters.
    pub text: String,
    /// What it means, in words; empty for the rest.
    pub meaning: String,
}

/// A condition that the line may mean.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Candidate {
    /// Catalogue id.
    pub condition: String,
    /// Its name.
    pub name: String,
    /// 0 to 1; a weight for ordering, not a probability.
    pub confidence: f64,
}

/// One note as read from the line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadNote {
    /// Where: the place that was set, changed by what the line says.
    pub place: Place,
    /// What kind of note.
    pub kind: NoteKind,
    /// The condition, when one stands out.
    pub condition: Option<String>,
    /// At most three readings, best first.
    pub candidates: Vec<Candidate>,
    /// The part.
    pub component: Option<String>,
    /// Readings.
    pub measures: Vec<Measure>,
    /// How much.
    pub extent: Option<Extent>,
    /// How sure.
    pub certainty: Certainty,
    /// The words of this note.
    pub text: String,
    /// Words that were not understood.
    pub left_over: String,
}

impl ReadNote {
    /// Makes it a note, entered at `at`.
    pub fn into_note(self, at: String) -> Note {
        Note {
            place: self.place,
            kind: self.kind,
            text: self.text,
            condition: self.condition,
            component: self.component,
            measures: self.measures,
            extent: self.extent,
            certainty: self.certainty,
            facts: Facts::default(),
            urgency_by_hand: None,
            at,
        }
    }
}

/// A line, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reading {
    /// One note for each finding in the line; none for an empty line.
    pub notes: Vec<ReadNote>,
    /// The line in pieces.
    pub fragments: Vec<Fragment>,
}

/// A word or number of the line, ready to be looked up.
struct Item {
    stem: String,
    span: Span,
    /// Part of a measure, or a break: never looked up.
    closed: bool,
    clause: usize,
    upper: bool,
}

/// An entry of the vocabulary found in the line.
#[derive(Clone, Copy)]
struct Match {
    sense: Sense,
    first: usize,
    len: usize,
}

const ALONE: f64 = 16.0;
const PHRASE: f64 = 9.0;
const PHRASE_WORD: f64 = 2.0;
const SINGLE_WORD_PHRASE: f64 = 5.0;
const FURTHER_PHRASE: f64 = 2.0;
const STATE: f64 = 3.0;
const MOST_STATES: usize = 3;
const PART: f64 = 4.0;
const HERE: f64 = 1.5;
/// A part with a word of state reaches this; a single loose word does not.
const CHOSEN: f64 = 7.0;
/// Offered, but not chosen.
const OFFERED: f64 = 5.0;
/// The score at which confidence is full.
const SURE: f64 = 20.0;
/// Longest line that is read for meaning; what is beyond is kept as text.
const LONGEST: usize = 2_000;

/// Reads a note line.
pub fn read(line: &str, context: &Context) -> Reading {
    let cut = line.char_indices().nth(LONGEST).map_or(line.len(), |(i, _)| i);
    let r = Reader::new(&line[..cut], context);
    let mut reading = r.reading();
    if cut < line.len() {
        if let Some(last) = reading.notes.last_mut() {
            last.text = line.to_owned();
        }
        let span = Span { start: cut, end: line.len() };
        reading.fragments.push(Fragment { span, kind: FragmentKind::Rest, text: line[cut..].to_owned(), meaning: String::new() });
    }
    reading
}

struct Reader<'a> {
    v: &'static Vocabulary,
    line: &'a str,
    context: &'a Context,
    items: Vec<Item>,
    matches: Vec<Match>,
    measures: Vec<Found>,
    clauses: usize,
}

/// What was found for one clause or for the whole line.
#[derive(Default, Clone)]
struct Scored {
    /// Condition index and score, best first.
    ranked: Vec<(usize, f64)>,
    praised: bool,
}

impl Scored {
    fn best(&self) -> Option<(usize, f64)> {
        self.ranked.first().copied().filter(|(_, s)| *s >= CHOSEN)
    }
}

impl<'a> Reader<'a> {
    fn new(line: &'a str, context: &'a Context) -> Self {
        let v = vocabulary();
        let tokens = text::tokens(line);
        let measures = measure_tokens(line, &tokens);
        let mut clause = 0;
        let mut items: Vec<Item> = Vec::new();
        for (i, t) in tokens.iter().enumerate() {
            let measured = measures.iter().any(|m| m.span.overlaps(t.span));
            match &t.kind {
                Kind::Word(w) if !measured && JOINING.contains(&w.as_str()) => clause += 1,
                Kind::Word(w) => {
                    let upper = line[t.span.start..].starts_with(char::is_uppercase);
                    items.push(Item { stem: stem(w), span: t.span, closed: measured, clause, upper });
                }
                Kind::Number(_) | Kind::Fraction(_) => {
                    items.push(Item {
                        stem: line[t.span.start..t.span.end].to_owned(),
                        span: t.span,
                        closed: measured,
                        clause,
                        upper: false,
                    });
                }
                Kind::Sign(',' | ';' | '.' | '!' | '?') if !measured => clause += 1,
                Kind::Sign('-' | '/' | '\'') if t.glued && tokens.get(i + 1).is_some_and(|n| n.glued) => {}
                Kind::Sign(_) => items.push(Item { stem: String::new(), span: t.span, closed: true, clause, upper: false }),
            }
        }
        let mut r = Reader { v, line, context, items, matches: Vec::new(), measures, clauses: clause + 1 };
        r.matches = r.all_matches();
        r.join_clauses();
        r
    }

    /// A name that runs across a comma or "and" holds its clauses together.
    fn join_clauses(&mut self) {
        for m in self.matches.iter().filter(|m| matches!(m.sense, Sense::Alone(_)) && m.len > 1) {
            let (from, to) = (self.items[m.first].clause, self.items[m.first + m.len - 1].clause);
            for item in self.items.iter_mut().filter(|i| from < i.clause && i.clause <= to) {
                item.clause = from;
            }
        }
    }

    fn all_matches(&self) -> Vec<Match> {
        let stems: Vec<String> = self.items.iter().map(|i| if i.closed { String::new() } else { i.stem.clone() }).collect();
        (0..stems.len())
            .filter(|i| !stems[*i].is_empty())
            .flat_map(|i| self.v.at(&stems, i).map(move |(e, len)| Match { sense: e.sense, first: i, len }))
            .collect()
    }

    fn span(&self, m: &Match) -> Span {
        self.items[m.first].span.join(self.items[m.first + m.len - 1].span)
    }

    fn in_clause(&self, m: &Match, clause: Option<usize>) -> bool {
        clause.is_none_or(|c| self.items[m.first..m.first + m.len].iter().all(|i| i.clause == c))
    }

    /// Parts that are named, longest match at each position, without those inside a longer one.
    fn parts(&self, clause: Option<usize>) -> Vec<Match> {
        let all: Vec<&Match> =
            self.matches.iter().filter(|m| matches!(m.sense, Sense::Component(_)) && self.in_clause(m, clause)).collect();
        all.iter()
            .filter(|m| !all.iter().any(|o| o.len > m.len && o.first <= m.first && m.first + m.len <= o.first + o.len))
            .map(|m| **m)
            .collect()
    }

    /// Where a position along the face is described: "under kitchen window". Set phrases win over it.
    fn stations(&self) -> Vec<Match> {
        let strong: Vec<&Match> =
            self.matches.iter().filter(|m| matches!(m.sense, Sense::Phrase(_) | Sense::Alone(_)) && m.len > 1).collect();
        let mut out: Vec<Match> = Vec::new();
        let mut i = 0;
        while i < self.items.len() {
            let begins = self.matches.iter().filter(|m| m.first == i && m.sense == Sense::Station).map(|m| m.len).max();
            let inside_phrase = strong.iter().any(|m| m.first <= i && i < m.first + m.len);
            let Some(len) = begins.filter(|_| !inside_phrase) else {
                i += 1;
                continue;
            };
            let stop = |j: usize| {
                let item = &self.items[j];
                item.closed
                    || item.clause != self.items[i].clause
                    || strong.iter().any(|m| m.first == j)
                    || self.matches.iter().any(|m| {
                        m.first == j && matches!(m.sense, Sense::Negation | Sense::Extent(_) | Sense::Certainty(_) | Sense::Station)
                    })
            };
            const MOST_WORDS: usize = 5;
            let end = (i + len..self.items.len().min(i + len + MOST_WORDS))
                .find(|j| stop(*j))
                .unwrap_or(self.items.len().min(i + len + MOST_WORDS));
            // A station needs a name; "over all" or a lone preposition is none.
            if self.items[i + len..end].iter().any(|it| !self.v.is_filler(&it.stem)) {
                out.push(Match { sense: Sense::Station, first: i, len: end - i });
                i = end;
            } else {
                i += len;
            }
        }
        out
    }

    fn within(m: &Match, outer: &[Match]) -> bool {
        outer.iter().any(|o| o.first <= m.first && m.first + m.len <= o.first + o.len)
    }

    /// "no cracks", "not torn": something bad that is denied just before.
    fn denied(&self, m: &Match) -> bool {
        const REACH: usize = 2;
        (m.first.saturating_sub(REACH)..m.first).any(|j| {
            self.items[j].clause == self.items[m.first].clause && self.matches.iter().any(|n| n.first == j && n.sense == Sense::Negation)
        }) && self.items[m.first..m.first + m.len].iter().any(|i| self.v.is_bad(&i.stem))
    }

    fn score(&self, clause: Option<usize>, zone: Zone, stations: &[Match]) -> Scored {
        let named: Vec<Match> = self.parts(clause);
        let outside_station: Vec<Match> = named.iter().filter(|m| !Self::within(m, stations)).copied().collect();
        let scored = self.score_with(clause, zone, &outside_station);
        if scored.best().is_some() || !outside_station.is_empty() { scored } else { self.score_with(clause, zone, &named) }
    }

    fn score_with(&self, clause: Option<usize>, zone: Zone, parts: &[Match]) -> Scored {
        #[derive(Default)]
        struct Tally {
            phrase: f64,
            phrases: usize,
            states: Vec<usize>,
            /// Positions of single-word phrases: such a word does not count as a word of state again.
            words: Vec<usize>,
            /// A set phrase is also the part's name.
            named: bool,
        }
        let named: Vec<usize> = parts.iter().filter_map(|m| if let Sense::Component(c) = m.sense { Some(c) } else { None }).collect();
        let mut tallies: HashMap<usize, Tally> = HashMap::new();
        let mut praised = false;
        for m in self.matches.iter().filter(|m| self.in_clause(m, clause)) {
            let denied = self.denied(m);
            let targets = |c: usize| -> Vec<usize> {
                if denied && !self.v.conditions[c].good { self.v.conditions[c].right.clone() } else { vec![c] }
            };
            let (found, weight) = match m.sense {
                Sense::Alone(c) => (targets(c), ALONE + m.len as f64),
                Sense::Phrase(c) if m.len > 1 => (targets(c), PHRASE + PHRASE_WORD * m.len as f64),
                Sense::Phrase(c) => (targets(c), SINGLE_WORD_PHRASE),
                Sense::State(c) => (targets(c), 0.0),
                Sense::Praise => {
                    praised |= !self.matches.iter().any(|n| n.sense == Sense::Negation && n.first + 1 == m.first);
                    continue;
                }
                _ => continue,
            };
            for c in found {
                // A word that names the part is no fault of it: "slab" alone says nothing of a slab.
                let k = &self.v.conditions[c];
                let names_part = matches!(m.sense, Sense::Phrase(_))
                    && m.len == 1
                    && parts.iter().any(|p| p.first == m.first && matches!(p.sense, Sense::Component(x) if k.components.contains(&x)));
                let weight = if names_part { 0.0 } else { weight };
                let t = tallies.entry(c).or_default();
                t.named |= names_part;
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
                    s += STATE * t.states.iter().filter(|s| !t.words.contains(s)).count().min(MOST_STATES) as f64;
                }
                s += if part && s > 0.0 { PART } else { 0.0 };
                s += if s > 0.0 && k.zones.contains(&zone) { HERE } else { 0.0 };
                // Praise speaks against a fault that rests on loose words only.
                let loose_fault = praised && !k.good && !k.on_record && t.phrase <= SINGLE_WORD_PHRASE;
                (s >= OFFERED && !loose_fault).then_some((c, s))
            })
            .collect();
        ranked.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
        Scored { ranked, praised }
    }

    fn reading(&self) -> Reading {
        if self.items.is_empty() {
            let rest = Fragment {
                span: Span { start: 0, end: self.line.len() },
                kind: FragmentKind::Rest,
                text: self.line.to_owned(),
                meaning: String::new(),
            };
            let note = || ReadNote {
                place: self.context.place.clone(),
                kind: NoteKind::Remark,
                condition: None,
                candidates: vec![],
                component: None,
                measures: vec![],
                extent: None,
                certainty: Certainty::Seen,
                text: self.line.trim().to_owned(),
                left_over: String::new(),
            };
            let blank = self.line.trim().is_empty();
            return Reading {
                notes: if blank { vec![] } else { vec![note()] },
                fragments: if self.line.is_empty() { vec![] } else { vec![rest] },
            };
        }
        let stations = self.stations();
        let (place, place_matches) = self.place(&stations);
        let groups = self.groups(place.zone, &stations);
        let mut pieces: Vec<(Span, FragmentKind, String)> = Vec::new();
        let notes =
            groups.iter().map(|(clauses, scored)| self.note(clauses, scored, &place, &place_matches, &stations, &mut pieces)).collect();
        for m in &self.measures {
            pieces.push((m.span, FragmentKind::Measure, m.measure.both()));
        }
        for m in &place_matches {
            pieces.push((self.span(m), FragmentKind::Place, place.words()));
        }
        Reading { notes, fragments: self.partition(pieces) }
    }

    /// Which clauses make a note together. A clause with a condition of its own is a note; the others join the one before.
    fn groups(&self, zone: Zone, stations: &[Match]) -> Vec<(Vec<usize>, Scored)> {
        let whole = self.score(None, zone, stations);
        let all: Vec<usize> = (0..self.clauses).collect();
        let own: Vec<(usize, Scored)> =
            all.iter().map(|c| (*c, self.score(Some(*c), zone, stations))).filter(|(_, s)| s.best().is_some()).collect();
        let mut groups: Vec<(Vec<usize>, Scored)> = Vec::new();
        for (c, s) in own {
            match groups.last_mut() {
                Some((clauses, before)) if self.adds_detail(c, &s, before) => clauses.push(c),
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

    /// A clause goes on about the finding before it when it can mean the same, or when it names no part of its own and has
    /// no word that carries a condition alone.
    fn adds_detail(&self, clause: usize, scored: &Scored, before: &Scored) -> bool {
        let same = before.best().is_some_and(|(c, _)| scored.ranked.iter().any(|(r, s)| *r == c && *s >= CHOSEN));
        let own_subject = !self.parts(Some(clause)).is_empty()
            || self.matches.iter().any(|m| matches!(m.sense, Sense::Alone(_)) && self.in_clause(m, Some(clause)));
        same || !own_subject
    }

    fn note(
        &self,
        clauses: &[usize],
        scored: &Scored,
        place: &Place,
        places: &[Match],
        stations: &[Match],
        pieces: &mut Vec<(Span, FragmentKind, String)>,
    ) -> ReadNote {
        let mine = |m: &Match| clauses.contains(&self.items[m.first].clause);
        let chosen = scored.best().map(|b| b.0);
        let known = chosen.map(|c| &self.v.conditions[c]);
        let parts: Vec<Match> = self.parts(None).into_iter().filter(|m| mine(m)).collect();
        let index = |m: &Match| if let Sense::Component(c) = m.sense { Some(c) } else { None };
        let part = parts
            .iter()
            .find(|m| known.is_some_and(|k| index(m).is_some_and(|c| k.components.contains(&c))))
            .or_else(|| parts.iter().find(|m| !Self::within(m, stations)))
            .copied();
        let mut good = known.is_some_and(|k| k.good);
        let mut extent = None;
        let mut certainty = Certainty::Seen;
        for m in self.matches.iter().filter(|m| mine(m)) {
            let span = self.span(m);
            match m.sense {
                Sense::Phrase(c) | Sense::Alone(c) | Sense::State(c)
                    if Some(c) == chosen || self.denied(m) && known.is_some_and(|k| k.good) =>
                {
                    pieces.push((
                        span,
                        FragmentKind::Condition,
                        catalogue().get(&self.v.conditions[chosen.unwrap_or(c)].id).map(|r| r.name.clone()).unwrap_or_default(),
                    ));
                }
                Sense::Extent(e) => {
                    extent.get_or_insert(e);
                    pieces.push((span, FragmentKind::Extent, e.words().into()));
                }
                Sense::Certainty(c) => {
                    certainty = c;
                    pieces.push((span, FragmentKind::Certainty, c.words().into()));
                }
                Sense::Praise if scored.praised => {
                    good |= chosen.is_none();
                    pieces.push((span, FragmentKind::Praise, "done right".into()));
                }
                _ => {}
            }
        }
        for m in parts.iter().filter(|m| !Self::within(m, stations) || part.is_some_and(|p| p.first == m.first)) {
            if let Some(c) = index(m) {
                pieces.push((self.span(m), FragmentKind::Component, self.v.components()[c].key.replace('-', " ")));
            }
        }
        let spans: Vec<Span> = self.items.iter().filter(|i| clauses.contains(&i.clause)).map(|i| i.span).collect();
        let in_note = |s: Span| spans.iter().any(|x| x.overlaps(s));
        let measures: Vec<Measure> = self.measures.iter().filter(|m| in_note(m.span)).map(|m| m.measure.clone()).collect();
        let text = if clauses.len() == self.clauses { self.line.trim().to_owned() } else { self.text_of(clauses) };
        let understood: Vec<Span> = pieces.iter().map(|p| p.0).chain(places.iter().chain(stations).map(|m| self.span(m))).collect();
        let left: Vec<&str> = self
            .items
            .iter()
            .filter(|i| {
                clauses.contains(&i.clause) && !i.closed && !self.v.is_filler(&i.stem) && !understood.iter().any(|s| s.overlaps(i.span))
            })
            .map(|i| &self.line[i.span.start..i.span.end])
            .collect();
        let kind = match known {
            Some(k) if k.good => NoteKind::Good,
            Some(k) if k.side => NoteKind::Side,
            Some(k) if k.on_record => NoteKind::Measurement,
            Some(_) => NoteKind::Defect,
            None if good => NoteKind::Good,
            None if !measures.is_empty() => NoteKind::Measurement,
            None => NoteKind::Remark,
        };
        let component = part.as_ref().and_then(index);
        let mut place = place.clone();
        let said: Vec<&str> = stations.iter().filter(|m| mine(m)).map(|m| &self.line[self.span(m).start..self.span(m).end]).collect();
        if !said.is_empty() {
            place.station = Some(said.join(", "));
        }
        ReadNote {
            place: self.inside(&place, component),
            kind,
            condition: known.map(|k| k.id.clone()),
            candidates: self.candidates(scored),
            component: component.map(|c| self.v.components()[c].key.clone()),
            measures,
            extent,
            certainty,
            text,
            left_over: left.join(" "),
        }
    }

    fn candidates(&self, scored: &Scored) -> Vec<Candidate> {
        scored
            .ranked
            .iter()
            .take(3)
            .map(|(c, s)| {
                let id = self.v.conditions[*c].id.clone();
                let name = catalogue().get(&id).map(|r| r.name.clone()).unwrap_or_default();
                Candidate { condition: id, name, confidence: ((s / SURE).min(1.0) * 100.0).round() / 100.0 }
            })
            .collect()
    }

    fn text_of(&self, clauses: &[usize]) -> String {
        let mut runs: Vec<Span> = Vec::new();
        for item in self.items.iter().filter(|i| clauses.contains(&i.clause)) {
            match runs.last_mut() {
                Some(last) if !self.line[last.end..item.span.start].contains([',', ';', '.']) => *last = last.join(item.span),
                _ => runs.push(item.span),
            }
        }
        // Take the signs that close a measure along: 4', 2".
        runs.iter()
            .map(|s| {
                let end = self.measures.iter().filter(|m| m.span.overlaps(*s)).map(|m| m.span.end).max().unwrap_or(s.end).max(s.end);
                self.line[s.start..end].trim()
            })
            .collect::<Vec<_>>()
            .join(", ")
    }

    /// A part that exists inside only takes the note inside, behind the face that is set.
    fn inside(&self, place: &Place, component: Option<usize>) -> Place {
        let mut place = place.clone();
        if let Some(c) = component.filter(|c| self.v.inside[*c]) {
            if place.zone != Zone::Inside {
                place.zone = Zone::Inside;
            }
            place.surface = place.surface.or(match self.v.components()[c].key.as_str() {
                "ceiling" => Some(Surface::Ceiling),
                "interior-wall" => Some(Surface::Wall),
                "carpet-edge" => Some(Surface::Floor),
                _ => None,
            });
        }
        place
    }

    fn place(&self, stations: &[Match]) -> (Place, Vec<Match>) {
        let mut place = self.context.place.clone();
        let mut used = Vec::new();
        let outside_station = |m: &Match| !Self::within(m, stations);
        let taken = |m: &Match| {
            self.matches.iter().any(|p| {
                matches!(p.sense, Sense::Phrase(_) | Sense::Alone(_))
                    && p.len > 1
                    && p.first <= m.first
                    && m.first < p.first + p.len
                    && p.len > m.len
            })
        };
        for m in self.matches.iter().filter(|m| outside_station(m) && !taken(m)) {
            match m.sense {
                Sense::Face(f) if self.is_face_word(m, f) => {
                    place.face = Some(f);
                    used.push(*m);
                }
                Sense::Zone(z) => {
                    place.zone = z;
                    used.push(*m);
                }
                _ => {}
            }
        }
        for (i, item) in self.items.iter().enumerate() {
            let m = Match { sense: Sense::Station, first: i, len: 1 };
            if let Some(f) = self.compass(i, item).filter(|_| outside_station(&m)) {
                place.face = Some(f);
                used.push(m);
            }
        }
        used.extend(stations.iter().copied());
        (place, used)
    }

    /// Words for a side that also mean other things count only beside a word for a face, or alone at the start.
    fn is_face_word(&self, m: &Match, face: Face) -> bool {
        let word = |i: Option<usize>| i.and_then(|i| self.items.get(i)).map_or("", |i| i.stem.as_str());
        let after = word(Some(m.first + m.len));
        let names_a_face =
            ["sid", "fac", "wall", "elevation", "corner", "gutter", "slop", "eav", "yard", "roof", "upper", "ground", "bas", "edg"]
                .contains(&after);
        let first = m.first == 0;
        match face {
            Face::Front | Face::Rear if self.items[m.first].stem != "back" => after != "of",
            Face::Right if first => !["her", "ther", "at", "now", "about", "under", "by", "of"].contains(&after),
            _ if first => !["of", "pitch", "fall", "in", "slop", "up", "out"].contains(&after),
            _ => names_a_face && !["don", "all", "lap", "flash", "vent", "of"].contains(&word(m.first.checked_sub(1))),
        }
    }

    /// "north", "NE", and at the start of the line "w": only when it is known which way the front faces.
    fn compass(&self, i: usize, item: &Item) -> Option<Face> {
        let front = self.context.front?;
        if item.closed {
            return None;
        }
        let degrees = match item.stem.as_str() {
            "north" | "northern" => 0.0,
            "east" | "eastern" => 90.0,
            "south" | "southern" => 180.0,
            "west" | "western" => 270.0,
            "northeast" => 45.0,
            "southeast" => 135.0,
            "southwest" => 225.0,
            "northwest" => 315.0,
            short if (item.upper || i == 0) && !self.line[item.span.end..].starts_with('/') => match short {
                "n" => 0.0,
                "e" => 90.0,
                "s" => 180.0,
                "w" => 270.0,
                "ne" => 45.0,
                "se" => 135.0,
                "sw" => 225.0,
                "nw" => 315.0,
                _ => return None,
            },
            _ => return None,
        };
        Some(Face::nearest(Bearing::new(degrees).ok()?, front))
    }

    /// Cuts the line into pieces that do not overlap; measures first, then conditions, parts, places and the rest.
    fn partition(&self, mut pieces: Vec<(Span, FragmentKind, String)>) -> Vec<Fragment> {
        pieces.sort_by(|a, b| a.1.cmp(&b.1).then((b.0.end - b.0.start).cmp(&(a.0.end - a.0.start))).then(a.0.start.cmp(&b.0.start)));
        let mut kept: Vec<(Span, FragmentKind, String)> = Vec::new();
        for p in pieces {
            if !kept.iter().any(|k| k.0.overlaps(p.0)) {
                kept.push(p);
            }
        }
        kept.sort_by_key(|p| p.0.start);
        let mut out = Vec::new();
        let mut at = 0;
        let rest = |start: usize, end: usize| Fragment {
            span: Span { start, end },
            kind: FragmentKind::Rest,
            text: self.line[start..end].to_owned(),
            meaning: String::new(),
        };
        for (span, kind, meaning) in kept {
            if span.start > at {
                out.push(rest(at, span.start));
            }
            out.push(Fragment { span, kind, text: self.line[span.start..span.end].to_owned(), meaning });
            at = span.end;
        }
        if at < self.line.len() {
            out.push(rest(at, self.line.len()));
        }
        out
    }
}

fn measure_tokens(line: &str, tokens: &[Token]) -> Vec<Found> {
    measure::scan_tokens(line, tokens)
}

#[cfg(test)]
mod tests;
