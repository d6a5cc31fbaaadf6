//! A sentence read once, so that each of its stretches is only a range of what was found in it.

use super::features::{Groups, bucket, bucket_of, groups, is_small};
use crate::round::line::reader::Reader;
use crate::round::line::{Context, Memory};
use crate::round::vocabulary::{Cue, Sense, stem};
use crate::site::{Face, Place, Zone};
use crate::text::lower_case;
use std::ops::Range;

/// A word as it is written, with what clings to it.
#[derive(Debug)]
struct Written {
    /// Bytes of the text.
    bytes: Range<usize>,
    /// The first of its words without signs, among those of the text.
    first: usize,
    /// A clause ends behind it.
    ends: bool,
    /// A clause may begin with it.
    joins: bool,
}

/// A word without signs, as its stem.
#[derive(Debug)]
pub(super) struct Atom {
    pub(super) stem: String,
    /// It only joins others.
    pub(super) small: bool,
    /// Where its own features begin.
    alone: usize,
    /// Where the pairs that it ends begin.
    pairs: usize,
}

/// Two words of a text together.
#[derive(Debug, Clone, Copy)]
pub(super) struct Pair {
    /// The first of the two; the second is the one the pair is kept with.
    pub(super) first: usize,
    pub(super) bucket: u32,
}

/// What the rules found at a place of the text, as far as it weighs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Sight {
    Part(usize),
    Praise,
    Cue(Cue),
    /// What speaks for a condition.
    Speaks {
        class: usize,
        by: By,
    },
}

/// How something speaks for a condition.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum By {
    /// By its name, or a word that carries it alone.
    Name,
    /// By a set phrase.
    Phrase,
    /// By a set phrase of one word.
    Word,
    /// By a word of state.
    State,
}

#[derive(Debug, Clone, Copy)]
pub(super) struct Seen {
    pub(super) what: Sight,
    pub(super) start: usize,
    pub(super) end: usize,
    pub(super) clause: usize,
    /// Something bad that a word from this byte on denies.
    pub(super) denied_by: Option<usize>,
}

/// Words of content stand together with so many before them.
pub(super) const REACH: usize = 4;

/// A sentence with what was said just before it where no full stop parts them, read once.
pub struct Said<'a> {
    text: &'a str,
    /// The words as they are written, and the first that belongs to the sentence itself.
    written: Vec<Written>,
    own: usize,
    pub(super) atoms: Vec<Atom>,
    alone: Vec<u32>,
    pairs: Vec<Pair>,
    /// Groups of words that say much the same: from word, to behind word, group.
    pub(super) groups: Vec<(usize, usize, usize)>,
    /// In the order they stand.
    pub(super) seen: Vec<Seen>,
    /// Where measures stand, and in which clause.
    pub(super) measures: Vec<(usize, usize, usize)>,
    pub(super) reader: Reader<'a>,
}

/// Where a stretch of talk is looked at from: nowhere in particular, and with nothing in mind.
pub(super) struct Nowhere {
    context: Context,
    memory: Memory,
}

impl Nowhere {
    pub(super) fn new() -> Nowhere {
        Nowhere { context: Context::at(Place::outside(Face::Front, Zone::Base), None), memory: Memory::default() }
    }
}

/// What was said before and a sentence as one text, and where the sentence begins in it.
pub(super) fn behind(before: &str, sentence: &str) -> (String, usize) {
    let (before, sentence) = (before.trim(), sentence.trim());
    if before.is_empty() || is_ended(before) {
        return (sentence.to_owned(), 0);
    }
    (format!("{before} {sentence}"), before.len() + 1)
}

pub(super) fn is_ended(text: &str) -> bool {
    text.trim_end().trim_end_matches(['"', '\u{201d}']).ends_with(['.', '!', '?'])
}

/// Words with what clings to them: cut at white space and at long dashes.
fn written_words(text: &str) -> Vec<Written> {
    const DASH: char = '\u{2014}';
    let mut out: Vec<Written> = vec![];
    for word in text.split(|c: char| c.is_whitespace() || c == DASH).filter(|w| !w.is_empty()) {
        let start = word.as_ptr() as usize - text.as_ptr() as usize;
        let end = start + word.len();
        out.push(Written {
            bytes: start..end,
            first: 0,
            ends: word.ends_with([',', ';', ':', '.', '!']) || text[end..].trim_start().starts_with(DASH),
            joins: ["and", "but", "except", "though", "plus", "then", "also"].iter().any(|j| word.eq_ignore_ascii_case(j)),
        });
    }
    out
}

impl<'a> Said<'a> {
    /// Reads a text whose sentence begins at byte `own`.
    pub(super) fn new(text: &'a str, own: usize, nowhere: &'a Nowhere) -> Said<'a> {
        let mut written = written_words(text);
        let (mut atoms, mut alone, mut pairs): (Vec<Atom>, Vec<u32>, Vec<Pair>) = (vec![], vec![], vec![]);
        let mut content: Vec<usize> = vec![];
        let mut piece = String::new();
        for w in &mut written {
            w.first = atoms.len();
            for part in text[w.bytes.clone()].split(|c: char| !c.is_alphanumeric()).filter(|p| !p.is_empty()) {
                let stem = stem_of(part);
                let (i, small) = (atoms.len(), is_small(&stem));
                let (from_alone, from_pairs) = (alone.len(), pairs.len());
                own_features(&stem, &mut piece, &mut alone);
                if let Some(last) = atoms.last() {
                    pairs.push(Pair { first: i - 1, bucket: bucket_of('b', &last.stem, &stem) });
                }
                if !small {
                    pairs.extend(content.iter().rev().take(REACH).map(|k| {
                        let (x, y) = if atoms[*k].stem <= stem { (&atoms[*k].stem, &stem) } else { (&stem, &atoms[*k].stem) };
                        Pair { first: *k, bucket: bucket_of('p', x, y) }
                    }));
                    content.push(i);
                }
                atoms.push(Atom { stem, small, alone: from_alone, pairs: from_pairs });
            }
        }
        let groups = groups_in(groups(), &atoms);
        let mut reader = Reader::looked(text, &nowhere.context, Some(&nowhere.memory));
        reader.mute_faces();
        let seen = seen(&reader);
        let measures = reader.measures.iter().map(|m| (m.span.start, m.span.end, reader.clause_at(m.span))).collect();
        let own = written.iter().position(|w| w.bytes.start >= own).unwrap_or(written.len());
        Said { text, written, own, atoms, alone, pairs, groups, seen, measures, reader }
    }

    /// The words of the sentence itself.
    pub fn sentence(&self) -> Range<usize> {
        self.own..self.written.len()
    }

    /// The last words of the text, at most so many.
    pub(super) fn last(&self, words: usize) -> Range<usize> {
        self.written.len().saturating_sub(words)..self.written.len()
    }

    /// Whether something said before is part of the text.
    pub(super) fn goes_on(&self) -> bool {
        self.own > 0
    }

    /// The words as they were said, without signs in front of them or behind.
    pub fn text(&self, words: &Range<usize>) -> &'a str {
        &self.text[self.bytes(words)]
    }

    pub(super) fn bytes(&self, words: &Range<usize>) -> Range<usize> {
        if words.is_empty() { 0..0 } else { self.written[words.start].bytes.start..self.written[words.end - 1].bytes.end }
    }

    /// The words without signs that stand in a range of written ones.
    pub(super) fn atoms_in(&self, words: &Range<usize>) -> Range<usize> {
        let at = |i: usize| self.written.get(i).map_or(self.atoms.len(), |w| w.first);
        at(words.start)..at(words.end)
    }

    /// Features of one word by itself.
    pub(super) fn alone(&self, atom: usize) -> &[u32] {
        let end = self.atoms.get(atom + 1).map_or(self.alone.len(), |a| a.alone);
        &self.alone[self.atoms[atom].alone..end]
    }

    /// Pairs that a word ends.
    pub(super) fn pairs(&self, atom: usize) -> &[Pair] {
        let end = self.atoms.get(atom + 1).map_or(self.pairs.len(), |a| a.pairs);
        &self.pairs[self.atoms[atom].pairs..end]
    }

    /// Stretches that may each hold a finding: the sentence, its clauses, where nothing is punctuated pieces of a dozen words, neighbouring
    /// clauses together, and what goes on from a caption that ended in mid-sentence. As ranges of its words; each once.
    pub fn stretches(&self) -> Vec<Range<usize>> {
        let all = self.sentence();
        let mut out = vec![all.clone()];
        let clauses = self.clauses();
        let several = clauses.len() > 1;
        for c in if several { &clauses[..] } else { std::slice::from_ref(&all) } {
            if c.len() > LONG {
                out.extend((c.start..c.end - PIECE / 2).step_by(STEP).map(|s| s..(s + PIECE).min(c.end)));
            } else if several && c.len() >= 2 {
                out.push(c.clone());
            }
        }
        // Neighbouring clauses together: a part and what is wrong with it are often told apart.
        out.extend(clauses.windows(2).filter(|_| clauses.len() > 2).map(|p| p[0].start..p[1].end));
        // Where captions cut a sentence, windows that reach back over the cut and end here; each is heard once, where it ends.
        if self.goes_on() {
            for long in ACROSS_WORDS {
                for end in (self.own + 2..=all.end.min(self.own + long)).step_by(ACROSS_STEP) {
                    let start = end.saturating_sub(long);
                    if start + 2 <= self.own {
                        out.push(start..end);
                    }
                }
            }
        }
        let mut once: Vec<Range<usize>> = Vec::with_capacity(out.len());
        for s in out {
            if !once.contains(&s) {
                once.push(s);
            }
        }
        once
    }

    fn clauses(&self) -> Vec<Range<usize>> {
        let all = self.sentence();
        let (mut out, mut start) = (vec![], all.start);
        let mut part_end = all.start;
        for i in all.clone() {
            if i >= part_end {
                part_end = (i..all.end).find(|j| self.written[*j].ends).map_or(all.end, |j| j + 1);
            }
            // A word or two in front of "and" are no clause.
            if self.written[i].joins && i >= start + 3 && part_end - i >= 4 {
                out.push(start..i);
                start = i;
            }
            if i + 1 == part_end {
                out.push(start..part_end);
                start = part_end;
            }
        }
        out
    }
}

const LONG: usize = 15;
const PIECE: usize = 11;
const STEP: usize = 5;
/// Windows over the ends of captions have so many words, and lie so far apart.
const ACROSS_WORDS: [usize; 3] = [7, 11, 15];
const ACROSS_STEP: usize = 2;

/// The stem of a word; of all figures the same.
fn stem_of(word: &str) -> String {
    if word.bytes().all(|c| c.is_ascii_digit()) { "#".to_owned() } else { stem(&lower_case(word)) }
}

/// The stems of a text's words.
pub(super) fn words_of(text: &str) -> Vec<String> {
    text.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(stem_of).collect()
}

/// The word, and pieces of four letters of a longer one, its ends marked.
fn own_features(word: &str, marked: &mut String, out: &mut Vec<u32>) {
    const SHORTEST: usize = 5;
    const PIECE: usize = 4;
    out.push(bucket('w', word));
    if word.len() >= SHORTEST {
        marked.clear();
        marked.push('<');
        marked.push_str(word);
        marked.push('>');
        // The piece that begins with a letter ends where the fourth letter behind it begins.
        let ends = marked.char_indices().map(|(at, _)| at).chain([marked.len()]).skip(PIECE);
        out.extend(marked.char_indices().zip(ends).map(|((start, _), end)| bucket('c', &marked[start..end])));
    }
}

fn groups_in(all: &Groups, atoms: &[Atom]) -> Vec<(usize, usize, usize)> {
    let mut out = vec![];
    for i in 0..atoms.len() {
        for (rest, group) in all.beginning_with(&atoms[i].stem) {
            let end = i + 1 + rest.len();
            if end <= atoms.len() && atoms[i + 1..end].iter().zip(rest).all(|(a, r)| a.stem == *r) {
                out.push((i, end, *group));
            }
        }
    }
    out
}

/// What weighs of what the rules found, in order.
fn seen(r: &Reader<'_>) -> Vec<Seen> {
    let mut out: Vec<Seen> = r
        .matches
        .iter()
        .filter_map(|m| {
            let what = match m.sense {
                Sense::Component(c) => Sight::Part(c),
                Sense::Praise => Sight::Praise,
                Sense::Cue(c @ (Cue::Elsewhere | Cue::General | Cue::Conditional | Cue::Pointing)) => Sight::Cue(c),
                Sense::Alone(class) => Sight::Speaks { class, by: By::Name },
                Sense::Phrase(class) => Sight::Speaks { class, by: if m.len > 1 { By::Phrase } else { By::Word } },
                Sense::State(class) => Sight::Speaks { class, by: By::State },
                _ => return None,
            };
            let speaks = matches!(what, Sight::Speaks { .. });
            let denied_by = if speaks { r.denying(m).map(|n| r.items[n].span.start) } else { None };
            let span = r.span(m);
            Some(Seen { what, start: span.start, end: span.end, clause: r.items[m.first].clause, denied_by })
        })
        .collect();
    out.sort_by_key(|s| (s.start, s.end));
    out
}
