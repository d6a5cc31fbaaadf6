//! The note line: one line as typed or said on the walk, read into places, parts, conditions, measures, extent and certainty.
//!
//! No fixed order is asked for. Words that are not known stay in the note's text; nothing is thrown away. The reader is
//! deterministic and its vocabulary is data. Slips of the keys and of speech recognition are mended on the vocabulary
//! only, never on numbers, and what was mended is marked with how sure it is.
//!
//! How a condition is chosen: set phrases outweigh single words, a part that is named must fit, the place that is set
//! speaks for conditions that are met there, and "no" in front of something bad makes it good. The weights are ours; the
//! tests hold what they must achieve.

use super::note::{Certainty, Extent, Note, NoteKind};
use super::vocabulary::{Cue, OwnWord};
use crate::finding::Facts;
use crate::measure::Measure;
use crate::measure::Units;
use crate::site::{Bearing, Face, LimitReason, Place, Zone};
use crate::text::Span;
use reader::Reader;
use serde::{Deserialize, Serialize};

mod notes;
mod order;
mod place;
mod reader;
mod score;
pub(super) mod talk;

pub(super) use reader::Memory;

/// What is set before the line is typed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Context {
    /// The place chosen on the wheel.
    pub place: Place,
    /// The direction the front faces, so that "north" can be read.
    #[serde(default)]
    pub front: Option<Bearing>,
    /// Words the practice has added.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own_words: Vec<OwnWord>,
    /// The units its reader wants.
    #[serde(default)]
    pub units: Units,
}

impl Context {
    /// A place, with the direction the front faces when it is known.
    pub fn at(place: Place, front: Option<Bearing>) -> Context {
        Context { place, front, own_words: vec![], units: Units::Metric }
    }
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
    /// Words that take something back.
    Correction,
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
    /// 1 when read as it stands, less when a slip was mended.
    pub confidence: f64,
    /// What was taken for a slip of the keys or of the ear, as it was read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_as: Option<String>,
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
    /// Why it could not be seen, for a limitation that says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limit: Option<LimitReason>,
    /// The trade to ask, for a note that belongs to another one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trade: Option<String>,
    /// The words of this note.
    pub text: String,
    /// Words that were not understood.
    pub left_over: String,
    /// The place that was set, where what is told is never found there and the note went to where it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub instead_of: Option<Place>,
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
            trade: self.trade,
            limit: self.limit,
            urgency_by_hand: None,
            at,
        }
    }
}

/// What a line says about the note before it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "what", rename_all = "kebab-case")]
pub enum Correction {
    /// It goes: "scratch that", "take that back".
    DropLast,
    /// It belongs elsewhere: "no, west", "I meant the left side".
    MoveLast {
        /// The face that was meant.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        face: Option<Face>,
        /// The zone that was meant.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        zone: Option<Zone>,
    },
    /// This line stands in its place: "I mean the fascia is rotted".
    ReplaceLast,
    /// Its reading was another: "make that six inches".
    RemeasureLast {
        /// The readings that were meant.
        measures: Vec<Measure>,
    },
}

impl Correction {
    /// Puts a note's place or readings right; the others take a note away and change nothing here.
    pub fn put_right(&self, place: &mut Place, measures: &mut Vec<Measure>) {
        match self {
            Correction::MoveLast { face, zone } => put(place, *face, *zone),
            Correction::RemeasureLast { measures: new } => replace_measures(measures, new),
            Correction::DropLast | Correction::ReplaceLast => {}
        }
    }
}

/// A line, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reading {
    /// One note for each finding in the line; none for an empty line, a correction, or a line that only moves on.
    pub notes: Vec<ReadNote>,
    /// The line in pieces.
    pub fragments: Vec<Fragment>,
    /// What it says about the note before.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub correction: Option<Correction>,
    /// The finding before is met again here: "same here", "another one".
    #[serde(default)]
    pub again: bool,
    /// The place the walk has moved on to: "now the north side".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub moved: Option<Place>,
    /// What does not go together, in words.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// Longest line that is read for meaning; what is beyond is kept as text.
const LONGEST: usize = 2_000;

/// Reads a note line.
pub fn read(line: &str, context: &Context) -> Reading {
    let cut = line.char_indices().nth(LONGEST).map_or(line.len(), |(i, _)| i);
    let mut reading = read_with(&line[..cut], context, None);
    if cut < line.len() {
        if let Some(last) = reading.notes.last_mut() {
            last.text = line.to_owned();
        }
        reading.fragments.push(Fragment::rest(line, cut, line.len()));
    }
    reading
}

/// Reads a line as typed, or a sentence as said with what is remembered of the talk before it.
pub(super) fn read_with(line: &str, context: &Context, memory: Option<&Memory>) -> Reading {
    let reader = Reader::new(line, context, memory);
    corrected(&reader, line, context, memory).unwrap_or_else(|| reader.reading())
}

impl Fragment {
    fn rest(line: &str, start: usize, end: usize) -> Fragment {
        Fragment {
            span: Span { start, end },
            kind: FragmentKind::Rest,
            text: line[start..end].to_owned(),
            meaning: String::new(),
            confidence: 1.0,
            read_as: None,
        }
    }

    fn moved_by(mut self, offset: usize) -> Fragment {
        self.span = Span { start: self.span.start + offset, end: self.span.end + offset };
        self
    }
}

/// The line as a correction, of the note before or of its own beginning.
fn corrected(r: &Reader, line: &str, context: &Context, memory: Option<&Memory>) -> Option<Reading> {
    let (cue, span) = r.correction_cue()?;
    let (before, after) = (&line[..span.start], &line[span.end..]);
    let first = read_with(before, context, memory);
    let said_before = first.notes.iter().any(|n| n.condition.is_some() || n.kind == NoteKind::Good);
    let mut here = context.clone();
    if let Some(place) = first.notes.first().map(|n| &n.place).or(first.moved.as_ref()) {
        here.place = place.clone();
    }
    let mut second = read_with(after, &here, memory);
    let found =
        second.notes.iter().any(|n| n.condition.is_some() || matches!(n.kind, NoteKind::Good | NoteKind::Limitation | NoteKind::Side));
    let place = r.said_place(span.end);
    let measures: Vec<Measure> = second.notes.iter().flat_map(|n| n.measures.clone()).collect();

    let mut fragments = vec![];
    if !before.is_empty() {
        fragments.extend(first.fragments.clone());
    }
    let mut words = Fragment::rest(line, span.start, span.end);
    words.kind = FragmentKind::Correction;
    fragments.push(words);
    fragments.extend(second.fragments.drain(..).map(|f| f.moved_by(span.end)));
    let done = |notes: Vec<ReadNote>, correction: Option<Correction>, moved: Option<Place>| {
        Some(Reading { notes, fragments: fragments.clone(), correction, again: false, moved, doubts: second.doubts.clone() })
    };
    let there = |face: Option<Face>, zone: Option<Zone>| {
        let mut p = context.place.clone();
        put(&mut p, face, zone);
        Some(p)
    };
    match cue {
        // What was said in this line goes, or else the note before.
        Cue::Drop => {
            // "Scratch that, it's only dirt" says why, not what.
            let bare = after.trim_start_matches([',', '.', ' ']).to_lowercase();
            let explains = ["it", "that", "those", "they", "these", "this", "i "].iter().any(|w| bare.starts_with(w));
            let notes = if found && !explains { second.notes.clone() } else { vec![] };
            done(notes, (!said_before).then_some(Correction::DropLast), second.moved.clone().or(first.moved))
        }
        Cue::Misplaced => {
            let (face, zone) = place?;
            let mut notes = first.notes;
            if said_before {
                notes.iter_mut().for_each(|n| put(&mut n.place, face, zone));
                return done(notes, None, None);
            }
            // "no, west": said where one stands
            let stands = before.is_empty() && span.end - span.start == 2;
            done(vec![], Some(Correction::MoveLast { face, zone }), if stands { there(face, zone) } else { None })
        }
        Cue::Replace if said_before => {
            if found {
                return done(second.notes.clone(), None, second.moved.clone());
            }
            let mut notes = first.notes;
            if let Some((face, zone)) = place {
                notes.iter_mut().for_each(|n| put(&mut n.place, face, zone));
            }
            let last = notes.last_mut()?;
            if place.is_none() && measures.is_empty() {
                return None;
            }
            replace_measures(&mut last.measures, &measures);
            done(notes, None, None)
        }
        // "left, sorry, right side gutter sagging": only the place was said before
        Cue::Replace if found => {
            let strong = before.trim().is_empty() && r.is_strong(span);
            done(second.notes.clone(), strong.then_some(Correction::ReplaceLast), second.moved.clone().or(first.moved))
        }
        // "crack 1/8, no wait, 1/4 in the stucco": the line as it was meant
        Cue::Replace
            if !measures.is_empty()
                && r.measures.iter().any(|m| m.span.end <= span.start && m.measure.quantity == measures[0].quantity) =>
        {
            let wrong = r.measures.iter().rfind(|m| m.span.end <= span.start && m.measure.quantity == measures[0].quantity)?.span;
            let meant = format!("{}{} {}", &line[..wrong.start], &line[wrong.end..span.start], after.trim_start_matches([',', ' ']));
            let read = read_with(&meant, context, memory);
            done(read.notes, None, read.moved)
        }
        Cue::Replace if before.trim().trim_end_matches([',', '.']).is_empty() || first.notes.is_empty() => match place {
            Some((face, zone)) => done(vec![], Some(Correction::MoveLast { face, zone }), there(face, zone)),
            None if !measures.is_empty() => done(vec![], Some(Correction::RemeasureLast { measures }), None),
            None => None,
        },
        _ => None,
    }
}

/// Sets what was said of a place and keeps the rest.
fn put(place: &mut Place, face: Option<Face>, zone: Option<Zone>) {
    place.face = face.or(place.face);
    place.zone = zone.unwrap_or(place.zone);
}

/// Puts each reading in place of the last one of its quantity, or adds it.
fn replace_measures(old: &mut Vec<Measure>, new: &[Measure]) {
    for m in new {
        match old.iter_mut().rfind(|o| o.quantity == m.quantity) {
            Some(o) => *o = m.clone(),
            None => old.push(m.clone()),
        }
    }
}

#[cfg(test)]
mod tests;
