//! The line cut into words, slips mended, and everything the vocabulary finds in it.

use super::{Context, Reading};
use crate::measure::{self, Bound, Exact, Found, Measure, Quantity, Unit};
use crate::round::vocabulary::{Cue, JOINING, Sense, UNKNOWN, Vocabulary, stem, stems_of, vocabulary};
use crate::site::{Face, Zone};
use crate::text::{self, Kind, Span, Token};
use std::borrow::Cow;
use std::ops::Range;

/// A word or number of the line, ready to be looked up.
#[derive(Clone)]
pub(super) struct Item {
    pub(super) stem: String,
    /// Its number in the vocabulary.
    pub(super) number: u32,
    /// It denies what follows.
    negates: bool,
    pub(super) span: Span,
    /// Part of a measure, a break, or talk that is no finding: never looked up.
    pub(super) closed: bool,
    pub(super) clause: usize,
    pub(super) upper: bool,
    /// How sure the word is: less than 1 when a slip was mended.
    pub(super) sure: f64,
    /// What a mended word was read as.
    pub(super) read_as: Option<String>,
    token: usize,
}

/// An entry of the vocabulary found in the line.
#[derive(Clone, Copy)]
pub(super) struct Match {
    pub(super) sense: Sense,
    pub(super) first: usize,
    pub(super) len: usize,
}

/// What is remembered of the talk before a sentence.
#[derive(Debug, Clone, Default)]
pub(in crate::round) struct Memory {
    /// The part last spoken of, for "it", "they", "this one".
    pub(in crate::round) component: Option<usize>,
}

/// How sure a word is after each kind of mending. Ours; only their order matters.
const HEARD: f64 = 0.7;
const JOINED: f64 = 0.9;
const ONE_SLIP: f64 = 0.8;
const TWO_SLIPS: f64 = 0.6;

pub(in crate::round) struct Reader<'a> {
    pub(super) v: &'static Vocabulary,
    pub(super) line: &'a str,
    pub(super) context: &'a Context,
    pub(super) items: Vec<Item>,
    pub(super) matches: Vec<Match>,
    pub(super) measures: Vec<Found>,
    pub(super) clauses: usize,
    /// Set when the line is a sentence of talk.
    pub(super) memory: Option<&'a Memory>,
}

impl<'a> Reader<'a> {
    pub(super) fn new(line: &'a str, context: &'a Context, memory: Option<&'a Memory>) -> Self {
        let mut r = Reader::looked(line, context, memory);
        if memory.is_some() {
            r.mute_talk();
            r.mute_faces();
        }
        r
    }

    /// The line with everything that stands in it, also what is said of something else than what is here.
    pub(super) fn looked(line: &'a str, context: &'a Context, memory: Option<&'a Memory>) -> Self {
        let v = vocabulary();
        let tokens = text::tokens(line);
        let measures = measure::scan_tokens(line, &tokens);
        let mut clause = 0;
        let mut items: Vec<Item> = Vec::new();
        for (i, t) in tokens.iter().enumerate() {
            let measured = measures.iter().any(|m| !m.idiom && m.span.overlaps(t.span));
            let item = |stem: String, closed: bool, clause: usize, upper: bool| Item {
                number: v.number(&stem),
                negates: false,
                stem,
                span: t.span,
                closed,
                clause,
                upper,
                sure: 1.0,
                read_as: None,
                token: i,
            };
            match &t.kind {
                Kind::Word(w) if !measured && JOINING.contains(&w.as_str()) => clause += 1,
                // "isn't": the end of it denies
                Kind::Word(w) if w == "t" && i >= 2 && t.glued && tokens[i - 1].sign() == Some('\'') => {
                    items.push(item(stem("not"), measured, clause, false));
                }
                Kind::Word(w) => {
                    clause += usize::from(memory.is_some() && !measured && v.is_break(w));
                    items.push(item(stem(w), measured, clause, line[t.span.start..].starts_with(char::is_uppercase)));
                }
                Kind::Number(_) | Kind::Fraction(_) => items.push(item(line[t.span.start..t.span.end].to_owned(), measured, clause, false)),
                Kind::Sign(',' | ';' | '.' | '!' | '?') if !measured => clause += 1,
                Kind::Sign('-' | '/' | '\'') if t.glued && tokens.get(i + 1).is_some_and(|n| n.glued) => {}
                Kind::Sign(_) => items.push(item(String::new(), true, clause, false)),
            }
        }
        let mut r = Reader { v, line, context, items, matches: Vec::new(), measures, clauses: clause + 1, memory };
        r.mend_heard();
        r.join_split_words();
        r.mend_misspelt(&tokens);
        r.matches = r.all_matches();
        for m in r.matches.iter().filter(|m| m.sense == Sense::Negation) {
            r.items[m.first].negates = true;
        }
        r.join_clauses();
        r.count_things(&tokens);
        r.keep_one_estimate();
        r
    }

    /// Puts what was meant in place of what speech recognition or a quick hand makes of it, where the other words allow.
    fn mend_heard(&mut self) {
        let mut i = 0;
        while i < self.items.len() {
            let said = self.surface(&self.items[i]);
            let word = if said.chars().any(char::is_uppercase) { Cow::Owned(said.to_lowercase()) } else { Cow::Borrowed(said) };
            let found = self.v.heard(&word).iter().find(|h| {
                let n = h.words.len();
                let here = self.items.get(i..i + n).is_some_and(|part| {
                    part.iter()
                        .zip(&h.words)
                        .all(|(item, w)| !item.closed && item.clause == self.items[i].clause && self.surface(item).eq_ignore_ascii_case(w))
                });
                let others =
                    self.items.iter().enumerate().filter(|(j, it)| !it.closed && (*j < i || *j >= i + n)).map(|(_, it)| it.stem.as_str());
                here && h.fits(others)
            });
            let Some(h) = found else {
                i += 1;
                continue;
            };
            let (n, meant) = (h.words.len(), &h.meant);
            let whole = self.items[i].span.join(self.items[i + n - 1].span);
            let said: Vec<Item> = meant
                .iter()
                .enumerate()
                .map(|(k, s)| Item {
                    stem: s.clone(),
                    number: self.v.number(s),
                    span: if n == meant.len() { self.items[i + k].span } else { whole },
                    sure: HEARD,
                    read_as: Some(meant.join(" ")),
                    ..self.items[i].clone()
                })
                .collect();
            let more = said.len();
            self.items.splice(i..i + n, said);
            i += more;
        }
    }

    /// "sky light", "fly ash": two words that are one in the vocabulary.
    fn join_split_words(&mut self) {
        const SHORTEST: usize = 7;
        let (mut i, mut word) = (0, String::new());
        while i + 1 < self.items.len() {
            let (a, b) = (&self.items[i], &self.items[i + 1]);
            let might = !a.closed
                && !b.closed
                && a.clause == b.clause
                && a.span.end - a.span.start + b.span.end - b.span.start >= SHORTEST
                && (a.number == UNKNOWN || b.number == UNKNOWN);
            i += 1;
            if !might {
                continue;
            }
            word.clear();
            word.extend([self.surface(a), self.surface(b)]);
            if !word.bytes().all(|c| c.is_ascii_lowercase()) {
                word = word.to_lowercase();
            }
            let joined = stem(&word);
            let number = self.v.number(&joined);
            if number != UNKNOWN && word.chars().all(char::is_alphabetic) {
                let span = a.span.join(b.span);
                let one = Item { stem: joined, number, span, sure: JOINED, read_as: Some(word.clone()), ..a.clone() };
                self.items.splice(i - 1..=i, [one]);
            }
        }
    }

    fn mend_misspelt(&mut self, tokens: &[Token]) {
        for i in 0..self.items.len() {
            let item = &self.items[i];
            if item.closed || item.number != UNKNOWN || item.read_as.is_some() {
                continue;
            }
            let Some(word) = tokens[item.token].word() else { continue };
            // Names keep their capital in the middle of a sentence.
            let name = item.upper && i > 0;
            let own = self.context.own_words.iter().any(|o| stems_of(&o.said).contains(&item.stem));
            if name || own {
                continue;
            }
            if let Some((meant, slips)) = self.v.closest(word, &item.stem) {
                let meant = meant.to_owned();
                let item = &mut self.items[i];
                item.sure = if slips == 1 { ONE_SLIP } else { TWO_SLIPS };
                item.read_as = Some(meant.clone());
                item.number = self.v.number(&meant);
                item.stem = meant;
            }
        }
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
        let stems: Vec<u32> = self.items.iter().map(|i| if i.closed { UNKNOWN } else { i.number }).collect();
        let own: Vec<(Vec<String>, Sense)> = self
            .context
            .own_words
            .iter()
            .filter_map(|o| Some((stems_of(&o.said), self.v.meaning(&o.means)?)))
            .filter(|(s, _)| !s.is_empty())
            .collect();
        // "flush with the slab" says what "flush with slab" says: a second look leaves the articles out.
        let bare: Vec<usize> =
            (0..stems.len()).filter(|i| self.items[*i].closed || !["the", "a", "an"].contains(&self.items[*i].stem.as_str())).collect();
        let bare_stems: Vec<u32> = bare.iter().map(|i| stems[*i]).collect();
        let mut out = Vec::new();
        for (k, i) in bare.iter().enumerate() {
            let long = self.v.at(&bare_stems, k).filter(|(_, len)| bare[k + len - 1] - i + 1 > *len);
            out.extend(long.map(|(e, len)| Match { sense: e.sense, first: *i, len: bare[k + len - 1] - i + 1 }));
        }
        for i in (0..stems.len()).filter(|i| !self.items[*i].closed) {
            out.extend(self.v.at(&stems, i).map(|(e, len)| Match { sense: e.sense, first: i, len }));
            let here = |words: &[String]| {
                self.items.get(i..i + words.len()).is_some_and(|of| of.iter().zip(words).all(|(it, w)| !it.closed && it.stem == *w))
            };
            out.extend(own.iter().filter(|(s, _)| here(s)).map(|(s, sense)| Match { sense: *sense, first: i, len: s.len() }));
        }
        out
    }

    /// `three cracked tiles`: a whole number in front of things of the trade is a count.
    fn count_things(&mut self, tokens: &[Token]) {
        const REACH: usize = 3;
        const NAMED_BY_NUMBER: [&str; 8] = ["number", "no", "figure", "unit", "plot", "window", "room", "gate"];
        let mut found = Vec::new();
        for i in 0..self.items.len() {
            let item = &self.items[i];
            let Some((value, next)) = measure::whole_number(tokens, item.token).filter(|_| !item.closed) else { continue };
            let names = i > 0 && NAMED_BY_NUMBER.contains(&self.items[i - 1].stem.as_str());
            if !(2..=500).contains(&value) || names {
                continue;
            }
            let end = (i + 1..self.items.len().min(i + 1 + REACH))
                .take_while(|j| self.items[*j].clause == item.clause && !self.items[*j].closed)
                .find(|j| {
                    let word = self.surface(&self.items[*j]);
                    let plural = word.ends_with('s') && !word.ends_with("ss");
                    plural
                        && self
                            .matches
                            .iter()
                            .any(|m| m.first == *j && matches!(m.sense, Sense::Component(_) | Sense::State(_) | Sense::Phrase(_)))
                });
            if let Some(j) = end.filter(|j| self.items[*j].token >= next) {
                let text = self.line[item.span.start..self.items[j].span.end].to_owned();
                let exact = Exact::new(value, 1).expect("the denominator is one");
                let measure = Measure {
                    quantity: Quantity::Count,
                    value: value as f64,
                    exact,
                    unit: Unit::Each,
                    si: value as f64,
                    upper: None,
                    bound: Bound::Exactly,
                    unit_assumed: true,
                    rule: false,
                    text,
                };
                found.push(Found { span: item.span, measure, idiom: true });
            }
        }
        self.measures.extend(found);
        self.measures.sort_by_key(|m| m.span.start);
    }

    /// A figure of speech gives way to a reading of the same quantity: "hairline crack, 1/16".
    fn keep_one_estimate(&mut self) {
        let read: Vec<(Quantity, usize)> =
            self.measures.iter().filter(|m| !m.idiom).map(|m| (m.measure.quantity, self.clause_at(m.span))).collect();
        let clauses: Vec<usize> = self.measures.iter().map(|m| self.clause_at(m.span)).collect();
        let mut i = 0;
        self.measures.retain(|m| {
            let clause = clauses[i];
            i += 1;
            let estimate = m.idiom && m.measure.quantity != Quantity::Count;
            !estimate || !read.iter().any(|(q, c)| *q == m.measure.quantity && c.abs_diff(clause) <= 1)
        });
    }

    pub(super) fn clause_at(&self, span: Span) -> usize {
        self.items.iter().find(|i| i.span.overlaps(span)).map_or(0, |i| i.clause)
    }

    /// From which clause on what these bytes say is no finding: what is done in general, elsewhere, or only in thought, or is asked.
    pub(super) fn aside_from(&self, bytes: &Range<usize>, question: bool) -> Option<usize> {
        let begin = self.items.partition_point(|i| i.span.start < bytes.start);
        let items = &self.items[begin..begin + self.items[begin..].partition_point(|i| i.span.start < bytes.end)];
        let (first, last) = (items.first()?, items.last()?);
        let matches = || self.matches.iter().filter(|m| m.first >= begin && m.first + m.len <= begin + items.len());
        let at = |cue: Cue| matches().filter(move |m| m.sense == Sense::Cue(cue)).map(|m| m.first);
        let last_pointing = at(Cue::Pointing).max();
        let elsewhere = at(Cue::Elsewhere).next().is_some();
        let general = at(Cue::General).min().filter(|g| last_pointing.is_none_or(|p| p < *g));
        let thought = at(Cue::Conditional).min().filter(|c| last_pointing.is_none_or(|p| p < *c));
        const ASKING: [&str; 14] = ["what", "is", "are", "was", "did", "do", "who", "where", "can", "could", "how", "why", "doe", "would"];
        let asks = || ASKING.contains(&first.stem.as_str());
        let named = || matches().any(|m| matches!(m.sense, Sense::Component(_)) && self.items[m.first].clause == first.clause);
        let tools = || matches().any(|m| m.sense == Sense::Praise) && items.iter().any(|i| self.v.is_tool(&i.stem)) && !named();
        // The sign behind a question begins a clause as well.
        let clauses = last.clause + 2 - first.clause;
        if question && (clauses < 3 || asks()) || elsewhere || general.is_some() || tools() {
            Some(first.clause)
        } else if question {
            // "painted over, though?" asks only about the last thing
            Some(last.clause.saturating_sub(1).max(first.clause + 1))
        } else {
            thought.map(|c| self.items[c].clause)
        }
    }

    /// Talk that is no finding keeps its words and gives no notes.
    fn mute_talk(&mut self) {
        let question = self.line.trim_end().ends_with('?');
        let elsewhere = self.has(Cue::Elsewhere);
        let Some(from) = self.aside_from(&(0..self.line.len()), question) else { return };
        for item in self.items.iter_mut().filter(|i| i.clause >= from) {
            item.closed = true;
        }
        let open: Vec<bool> = self.items.iter().map(|i| !i.closed).collect();
        const HABIT: [&str; 5] = ["always", "usually", "normally", "typically", "generally"];
        let habit = self.items.iter().any(|i| HABIT.contains(&self.surface(i).to_lowercase().as_str()));
        let keep_place = !question && !elsewhere && !habit;
        self.matches.retain(|m| {
            open[m.first]
                || keep_place && matches!(m.sense, Sense::Cue(Cue::Moving | Cue::NextFace) | Sense::Face(_) | Sense::Zone(_) | Sense::Room)
        });
        let closed: Vec<Span> = self.items.iter().filter(|i| i.clause >= from).map(|i| i.span).collect();
        self.measures.retain(|m| !closed.iter().any(|s| s.overlaps(m.span)));
    }

    /// A word that says where says nothing of how it is: "on to the right side" is no praise. "Right then" says neither.
    pub(super) fn mute_faces(&mut self) {
        const AFTER: [&str; 7] = ["then", "so", "okay", "well", "now", "ok", "let"];
        if self.items.first().is_some_and(|i| i.stem == "right") && self.items.get(1).is_some_and(|i| AFTER.contains(&i.stem.as_str())) {
            self.items[0].closed = true;
            self.matches.retain(|m| m.first > 0);
        }
        // "lapped right", "looks right" praise; "right plot", "right by the porch" say nothing of how it is.
        const BEFORE: [&str; 22] = [
            "is", "are", "s", "look", "lap", "flash", "don", "was", "all", "cut", "set", "install", "detail", "it", "tap", "fit", "not",
            "run", "hung", "seal", "be", "way",
        ];
        let loose: Vec<usize> = (0..self.items.len())
            .filter(|i| self.items[*i].stem == "right" && !i.checked_sub(1).is_some_and(|b| BEFORE.contains(&self.items[b].stem.as_str())))
            .collect();
        self.matches
            .retain(|m| m.len > 1 || !loose.contains(&m.first) || !matches!(m.sense, Sense::State(_) | Sense::Praise | Sense::Phrase(_)));
        let faces: Vec<usize> =
            self.matches.iter().filter(|m| matches!(m.sense, Sense::Face(f) if self.is_face_word(m, f))).map(|m| m.first).collect();
        let side = |i: usize| ["sid", "fac", "elevation", "wall"].contains(&self.items[i].stem.as_str());
        let of_face: Vec<usize> =
            faces.iter().flat_map(|f| [*f, f + 1]).filter(|i| faces.contains(i) || *i < self.items.len() && side(*i)).collect();
        self.matches
            .retain(|m| m.len > 1 || !of_face.contains(&m.first) || matches!(m.sense, Sense::Face(_) | Sense::Zone(_) | Sense::Cue(_)));
    }

    /// The characters of an item as they stand in the line.
    pub(super) fn surface(&self, item: &Item) -> &str {
        &self.line[item.span.start..item.span.end]
    }

    pub(super) fn span(&self, m: &Match) -> Span {
        self.items[m.first].span.join(self.items[m.first + m.len - 1].span)
    }

    /// How sure the words of a match are, and what they were read as when mended.
    pub(super) fn mending(&self, span: Span) -> (f64, Option<String>) {
        let over = self.items.iter().filter(|i| i.span.overlaps(span));
        let mended: Vec<&Item> = over.filter(|i| i.read_as.is_some()).collect();
        let sure = mended.iter().map(|i| i.sure).fold(1.0, f64::min);
        let mut words: Vec<&str> = mended.iter().filter_map(|i| i.read_as.as_deref()).collect();
        words.dedup();
        (sure, (!words.is_empty()).then(|| words.join(" ")))
    }

    pub(super) fn in_clause(&self, m: &Match, clause: Option<usize>) -> bool {
        clause.is_none_or(|c| self.items[m.first..m.first + m.len].iter().all(|i| i.clause == c))
    }

    pub(super) fn has(&self, cue: Cue) -> bool {
        self.matches.iter().any(|m| m.sense == Sense::Cue(cue))
    }

    /// Parts that are named, longest match at each position, without those inside a longer one.
    pub(super) fn parts(&self, clause: Option<usize>) -> Vec<Match> {
        let all: Vec<&Match> =
            self.matches.iter().filter(|m| matches!(m.sense, Sense::Component(_)) && self.in_clause(m, clause)).collect();
        all.iter()
            .filter(|m| !all.iter().any(|o| o.len > m.len && o.first <= m.first && m.first + m.len <= o.first + o.len))
            .map(|m| **m)
            .collect()
    }

    pub(super) fn within(m: &Match, outer: &[Match]) -> bool {
        outer.iter().any(|o| o.first <= m.first && m.first + m.len <= o.first + o.len)
    }

    /// "no cracks", "not torn": something bad that is denied just before.
    pub(super) fn denied(&self, m: &Match) -> bool {
        self.denying(m).is_some()
    }

    /// The word that denies something bad just behind it.
    pub(super) fn denying(&self, m: &Match) -> Option<usize> {
        const REACH: usize = 2;
        let clause = self.items[m.first].clause;
        let negates = |j: &usize| self.items[*j].clause == clause && self.items[*j].negates && !self.items[*j].closed;
        let by = (m.first.saturating_sub(REACH)..m.first).rev().find(negates)?;
        self.items[m.first..m.first + m.len].iter().any(|i| self.v.is_bad(&i.stem)).then_some(by)
    }

    /// The words that take something back, and where they stand.
    pub(super) fn correction_cue(&self) -> Option<(Cue, Span)> {
        let cue = |m: &Match| match m.sense {
            Sense::Cue(c @ (Cue::Drop | Cue::Replace | Cue::Misplaced)) => Some(c),
            _ => None,
        };
        // The longest of those that stand first; "no, west" is said with a bare no.
        let found = self.matches.iter().filter(|m| cue(m).is_some()).min_by_key(|m| (m.first, std::cmp::Reverse(m.len)));
        if let Some(m) = found {
            return Some((cue(m)?, self.span(m)));
        }
        let first = self.items.first().filter(|i| i.stem == "no")?;
        let rest = self.line[first.span.end..].trim_start();
        let said = self.said_place(first.span.end)?;
        let only_a_place = self.matches.iter().filter(|m| m.first > 0).all(|m| {
            matches!(m.sense, Sense::Face(_) | Sense::Zone(_) | Sense::Cue(_) | Sense::Negation)
                || matches!(m.sense, Sense::Component(_) | Sense::State(_))
                    && ["sid", "wall", "fac", "elevation"].contains(&self.items[m.first].stem.as_str())
        });
        (rest.starts_with(',') && only_a_place && (said.0.is_some() || said.1.is_some())).then_some((Cue::Misplaced, first.span))
    }

    /// Words of replacement that can only mean the note before.
    pub(super) fn is_strong(&self, span: Span) -> bool {
        let words = self.line[span.start..span.end].to_lowercase();
        !["sorry", "actually", "rather"].contains(&words.as_str())
    }

    /// A face or zone said behind byte `from`.
    pub(super) fn said_place(&self, from: usize) -> Option<(Option<Face>, Option<Zone>)> {
        let mut face = None;
        let mut zone = None;
        for m in self.matches.iter().filter(|m| self.span(m).start >= from) {
            match m.sense {
                Sense::Face(f) => face = face.or(Some(f)),
                Sense::Zone(z) => zone = zone.or(Some(z)),
                _ => {}
            }
        }
        for (i, item) in self.items.iter().enumerate().filter(|(_, it)| it.span.start >= from) {
            face = face.or(self.compass(i, item));
        }
        (face.is_some() || zone.is_some()).then_some((face, zone))
    }

    /// The whole line as notes, pieces, and what it says of the where.
    pub(super) fn reading(&self) -> Reading {
        if self.items.is_empty() {
            return self.wordless();
        }
        let stations = self.stations();
        let (place, place_matches) = self.place(&stations);
        let groups = self.groups(place.zone, &stations);
        let mut pieces = Vec::new();
        let mut notes: Vec<_> =
            groups.iter().map(|(clauses, scored)| self.note(clauses, scored, &place, &place_matches, &stations, &mut pieces)).collect();
        notes.iter_mut().for_each(super::order::put_in_order);
        for m in &self.measures {
            pieces.push((m.span, super::FragmentKind::Measure, m.measure.both(self.context.units)));
        }
        for m in &place_matches {
            pieces.push((self.span(m), super::FragmentKind::Place, place.words(self.context.units)));
        }
        let says_more = notes.iter().any(|n| {
            n.condition.is_some()
                || n.kind != super::NoteKind::Remark
                || self.memory.is_none() && self.says_more_than_a_place(n, &place_matches)
        });
        let went = !place_matches.is_empty() || self.has(Cue::NextFace);
        let moves = went && (place != self.context.place || !says_more) && (self.has(Cue::Moving) || self.has(Cue::NextFace) || !says_more);
        if moves && !says_more {
            notes.clear();
        }
        Reading {
            notes,
            fragments: self.partition(pieces),
            correction: None,
            again: self.has(Cue::Again),
            moved: moves.then_some(place),
            doubts: self.doubts(),
        }
    }

    fn says_more_than_a_place(&self, n: &super::ReadNote, places: &[Match]) -> bool {
        let cue = |i: usize| self.matches.iter().any(|m| m.first <= i && i < m.first + m.len && matches!(m.sense, Sense::Cue(_)));
        let only_place = self.items.iter().enumerate().all(|(i, it)| {
            it.closed
                || self.v.is_filler(&it.stem)
                || cue(i)
                || ["sid", "wall", "fac", "elevation"].contains(&it.stem.as_str())
                || places.iter().any(|m| m.first <= i && i < m.first + m.len)
        });
        !n.measures.is_empty() || !only_place || n.place.station.is_some()
    }

    fn doubts(&self) -> Vec<String> {
        let mut out = Vec::new();
        for pair in self.measures.windows(2) {
            let link = self.line[pair[0].span.end..pair[1].span.start.max(pair[0].span.end)].trim();
            if matches!(link, "by" | "x") && pair[0].measure.quantity != pair[1].measure.quantity {
                out.push(format!(
                    "\u{201c}{}\u{201d} by \u{201c}{}\u{201d} does not go together: write two lengths, or two readings with a comma between.",
                    pair[0].measure.text, pair[1].measure.text
                ));
            }
        }
        out
    }
}
