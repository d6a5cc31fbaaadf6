//! A whole walk as it was talked, read into notes in order: the where is carried along, corrections are followed,
//! what is told twice is kept once, and talk that is no finding gives no note.

use super::line::{Context, Correction, Memory, ReadNote, Reading, read_with};
use super::note::{Certainty, Extent, NoteKind};
use super::timed_text::{self, Sentence, WalkFileError};
use super::vocabulary::{OwnWord, vocabulary};
use crate::measure::Units;
use crate::measure::{Measure, Quantity};
use crate::site::{Bearing, Face, LimitReason, Place, Surface, Zone};
use serde::{Deserialize, Serialize};

/// A walk to be read.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WalkInput {
    /// The walk as text: WebVTT, SRT, or plain lines with or without `[m:ss]` marks.
    pub walk: String,
    /// The direction the front faces. Without it, faces said by compass are named by compass.
    #[serde(default)]
    pub front: Option<Bearing>,
    /// Where the walk starts, when known.
    #[serde(default)]
    pub place: Option<Place>,
    /// Words the practice has added.
    #[serde(default)]
    pub own_words: Vec<OwnWord>,
    /// The units its reader wants.
    #[serde(default)]
    pub units: Units,
}

/// One note as read from the walk.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WalkNote {
    /// Seconds from the start of the recording, when the file says.
    pub t_s: Option<f64>,
    /// The face, by its house name; by compass when it is not known which way the front faces.
    pub face: Option<String>,
    /// How high, or inside.
    pub zone: Zone,
    /// Where along the face, in words.
    pub station: Option<String>,
    /// The room, for places inside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub room: Option<String>,
    /// The surface, for places inside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surface: Option<Surface>,
    /// The part, from the vocabulary.
    pub component: Option<String>,
    /// The condition, from the catalogue.
    pub condition: Option<String>,
    /// What kind of note.
    pub kind: NoteKind,
    /// Readings.
    pub measures: Vec<Measure>,
    /// How much of the place.
    pub extent: Option<Extent>,
    /// How sure.
    pub certainty: Certainty,
    /// Why it could not be seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limit: Option<LimitReason>,
    /// The trade to ask, for a side note.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trade: Option<String>,
    /// 0 to 1; a weight for ordering, not a probability.
    pub confidence: f64,
    /// At most two other conditions it may be.
    pub others: Vec<String>,
    /// The words.
    pub text: String,
    /// Words that were not understood.
    pub left_over: String,
}

/// A walk, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Walk {
    /// The notes in the order they were said.
    pub notes: Vec<WalkNote>,
    /// Sentences read.
    pub sentences: usize,
    /// Sentences that gave no note and moved nothing: talk.
    pub talk: usize,
    /// What was taken back or did not go together, in words.
    pub remarks: Vec<String>,
}

/// The same finding said again within this time is one note. Rule of practice.
const RETOLD_WITHIN_S: f64 = 60.0;
/// The same without times: within this many sentences.
const RETOLD_WITHIN: usize = 8;
/// A part that was named stays in mind for this many sentences.
const REMEMBERED_FOR: usize = 2;
/// The front's direction while none is known: only used to keep compass faces apart.
const ASSUMED_FRONT_DEG: f64 = 180.0;

struct Kept {
    note: ReadNote,
    t_s: Option<f64>,
    sentence: usize,
    by_compass: bool,
}

/// Reads a walk.
///
/// # Errors
/// [`WalkFileError`] when there is nothing to read.
pub fn read_walk(input: &WalkInput) -> Result<Walk, WalkFileError> {
    let sentences = timed_text::sentences(&input.walk)?;
    let mut w = Walker {
        context: Context {
            place: input.place.clone().unwrap_or(Place { face: None, ..Place::outside(Face::Front, Zone::Base) }),
            front: input.front.or_else(|| Bearing::new(ASSUMED_FRONT_DEG).ok()),
            own_words: input.own_words.clone(),
            units: input.units,
        },
        front_known: input.front.is_some(),
        by_compass: false,
        memory: Memory::default(),
        since_named: 0,
        kept: Vec::new(),
        remarks: Vec::new(),
        summing_up: false,
        talk: 0,
        replaced: None,
    };
    for (i, s) in sentences.iter().enumerate() {
        w.hear(i, s);
    }
    let front_known = w.front_known;
    let notes = w.kept.into_iter().map(|k| k.into_walk_note(front_known)).collect();
    Ok(Walk { notes, sentences: sentences.len(), talk: w.talk, remarks: w.remarks })
}

struct Walker {
    context: Context,
    front_known: bool,
    by_compass: bool,
    memory: Memory,
    since_named: usize,
    kept: Vec<Kept>,
    remarks: Vec<String>,
    summing_up: bool,
    talk: usize,
    /// When the note that a correction replaces was first said.
    replaced: Option<(Option<f64>, usize)>,
}

impl Walker {
    fn hear(&mut self, index: usize, s: &Sentence) {
        let lower = s.text.to_lowercase();
        self.learn_front(&lower);
        self.summing_up |=
            ["to sum up", "in summary", "to recap", "quick recap", "so overall", "summing up", "to summarise", "to summarize"]
                .iter()
                .any(|c| lower.contains(c));
        let r = read_with(&s.text, &self.context, Some(&self.memory));
        let before = self.context.place.face;
        self.remarks.extend(r.doubts.iter().cloned());
        let mut did = self.correct(&r, s);
        let mut found = false;
        for note in &r.notes {
            if note.place.face != before {
                self.context.place.face = note.place.face;
                self.by_compass = says_compass(&lower);
            }
            if worth_keeping(note) && (note.condition.is_some() || !r.again) {
                found = true;
                self.keep(note.clone(), index, s.t_s, r.again);
            }
        }
        if r.again && !found && r.correction.is_none() {
            found = self.repeat(&r, index, s);
        }
        if let Some(place) = &r.moved {
            if place.face != self.context.place.face || place.face != before {
                self.by_compass = says_compass(&lower);
            }
            self.context.place = Place { station: None, from_left_m: None, ..place.clone() };
            did = true;
        }
        self.remember(&r);
        self.talk += usize::from(!did && !found);
    }

    fn remember(&mut self, r: &Reading) {
        let named = r.notes.iter().rev().find_map(|n| n.component.as_deref());
        let index = named.and_then(|key| vocabulary().components().iter().position(|c| c.key == key));
        self.since_named = if index.is_some() && index != self.memory.component { 0 } else { self.since_named + 1 };
        if index.is_some() {
            self.memory.component = index;
        }
        if self.since_named > REMEMBERED_FOR || r.moved.is_some() {
            self.memory.component = None;
            self.since_named = 0;
        }
    }

    /// "The front of the house faces south".
    fn learn_front(&mut self, lower: &str) {
        if self.front_known || !["front", "house", "building", "entry", "clinic"].iter().any(|w| lower.contains(w)) {
            return;
        }
        let words: Vec<&str> = lower.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).collect();
        let Some(at) = words.iter().position(|w| matches!(*w, "faces" | "facing")) else { return };
        let degrees = words[at + 1..].iter().take(2).find_map(|w| compass_degrees(w));
        if let Some(front) = degrees.and_then(|d| Bearing::new(d).ok()) {
            self.context.front = Some(front);
            self.front_known = true;
        }
    }

    fn correct(&mut self, r: &Reading, s: &Sentence) -> bool {
        let Some(correction) = &r.correction else { return false };
        let mut say =
            |what: &str, text: &str| self.remarks.push(format!("\u{201c}{}\u{201d}: {what} \u{201c}{text}\u{201d}.", s.text.trim()));
        match correction {
            Correction::DropLast => {
                if let Some(gone) = self.kept.pop() {
                    say("took back", &gone.note.text);
                }
            }
            // Only what speaks of the same thing is replaced; the new note is kept below.
            Correction::ReplaceLast => {
                let new = r.notes.first();
                let same = |k: &Kept| {
                    new.is_some_and(|n| {
                        n.condition.is_some() && n.condition == k.note.condition || n.component.is_some() && n.component == k.note.component
                    })
                };
                const REACH: usize = 3;
                if let Some(i) = self.kept.iter().rposition(same).filter(|i| self.kept.len() - i <= REACH) {
                    say("replaced", &self.kept[i].note.text.clone());
                    let old = self.kept.remove(i);
                    self.replaced = Some((old.t_s, old.sentence));
                }
            }
            Correction::MoveLast { .. } | Correction::RemeasureLast { .. } => {
                if let Some(last) = self.kept.last_mut() {
                    let note = &mut last.note;
                    correction.put_right(&mut note.place, &mut note.measures);
                    if matches!(correction, Correction::MoveLast { .. }) {
                        last.by_compass = says_compass(&s.text.to_lowercase());
                        say("moved", &last.note.text);
                    } else {
                        say("measured again", &last.note.text);
                    }
                }
            }
        }
        true
    }

    fn keep(&mut self, note: ReadNote, index: usize, t_s: Option<f64>, again: bool) {
        let (t_s, index) = self.replaced.take().unwrap_or((t_s, index));
        let near = |k: &Kept| match (k.t_s, t_s) {
            (Some(a), Some(b)) => b - a <= RETOLD_WITHIN_S,
            _ => index.saturating_sub(k.sentence) <= RETOLD_WITHIN,
        };
        let summing_up = self.summing_up;
        let told = self.kept.iter_mut().rev().find(|k| {
            let same_place = k.note.place.face == note.place.face && (k.note.place.zone == note.place.zone || k.note.condition.is_some());
            let same_thing = k.note.kind == note.kind
                && k.note.condition == note.condition
                && (k.note.component == note.component
                    || note.condition.is_some() && (k.note.component.is_none() || note.component.is_none()))
                && (note.condition.is_some() || note.component.is_some());
            let stations = k.note.place.station.is_none() || note.place.station.is_none() || k.note.place.station == note.place.station;
            same_thing && (summing_up || same_place && stations && near(k) && !again)
        });
        if let Some(k) = told {
            if !summing_up {
                for m in &note.measures {
                    if !k.note.measures.iter().any(|o| o.quantity == m.quantity && o.si == m.si) {
                        k.note.measures.push(m.clone());
                    }
                }
                k.note.extent = k.note.extent.or(note.extent);
                k.note.place.station = k.note.place.station.take().or(note.place.station);
                if k.note.certainty == Certainty::Seen {
                    k.note.certainty = note.certainty;
                }
            }
            return;
        }
        self.kept.push(Kept { note, t_s, sentence: index, by_compass: self.by_compass });
    }

    /// "Same here": the last finding, at the place of now.
    fn repeat(&mut self, r: &Reading, index: usize, s: &Sentence) -> bool {
        let Some(last) = self.kept.iter().rev().find(|k| k.note.condition.is_some()) else { return false };
        let place = r.moved.clone().or_else(|| r.notes.first().map(|n| n.place.clone())).unwrap_or_else(|| self.context.place.clone());
        let said = r.notes.first();
        let note = ReadNote {
            place: Place { zone: last.note.place.zone, room: last.note.place.room.clone(), ..place },
            measures: said.map(|n| n.measures.clone()).unwrap_or_default(),
            extent: said.and_then(|n| n.extent),
            text: s.text.trim().to_owned(),
            left_over: said.map(|n| n.left_over.clone()).unwrap_or_default(),
            ..last.note.clone()
        };
        self.keep(note, index, s.t_s, true);
        true
    }
}

impl Kept {
    fn into_walk_note(self, front_known: bool) -> WalkNote {
        let n = self.note;
        let face = n.place.face.map(|f| {
            if self.by_compass && !front_known {
                let assumed = Bearing::new(ASSUMED_FRONT_DEG).expect("180 is a direction");
                ["north", "east", "south", "west"][(f.azimuth(assumed).degrees() / 90.0).round() as usize % 4].to_owned()
            } else {
                f.name().to_lowercase()
            }
        });
        let best = n.candidates.first().filter(|c| n.condition.as_ref() == Some(&c.condition));
        WalkNote {
            t_s: self.t_s,
            face,
            zone: n.place.zone,
            station: n.place.station,
            room: n.place.room,
            surface: n.place.surface,
            component: n.component,
            condition: n.condition,
            kind: n.kind,
            measures: n.measures,
            extent: n.extent,
            certainty: n.certainty,
            limit: n.limit,
            trade: n.trade,
            confidence: best.map_or(0.5, |c| c.confidence),
            others: n.candidates.iter().skip(1).map(|c| c.condition.clone()).collect(),
            text: n.text,
            left_over: n.left_over,
        }
    }
}

fn worth_keeping(n: &ReadNote) -> bool {
    let readings = n.measures.iter().any(|m| !m.rule && m.quantity != Quantity::Count);
    match n.kind {
        NoteKind::Remark => false,
        NoteKind::Measurement => n.condition.is_some() || n.component.is_some() && readings,
        NoteKind::Good => n.condition.is_some() || n.component.is_some(),
        NoteKind::Defect => n.measures.is_empty() || n.measures.iter().any(|m| !m.rule) || n.confidence() > SURE_DESPITE_RULE,
        NoteKind::Limitation | NoteKind::Side | NoteKind::Recommendation => true,
    }
}

/// A sentence that only states a rule ("should be six inches") is a finding when its words are this clear besides.
const SURE_DESPITE_RULE: f64 = 0.6;

impl ReadNote {
    fn confidence(&self) -> f64 {
        self.candidates.first().map_or(0.0, |c| c.confidence)
    }
}

fn compass_degrees(word: &str) -> Option<f64> {
    Some(match word {
        "north" => 0.0,
        "northeast" => 45.0,
        "east" => 90.0,
        "southeast" => 135.0,
        "south" => 180.0,
        "southwest" => 225.0,
        "west" => 270.0,
        "northwest" => 315.0,
        _ => return None,
    })
}

fn says_compass(lower: &str) -> bool {
    lower
        .split(|c: char| !c.is_alphanumeric())
        .any(|w| compass_degrees(w).is_some() || matches!(w, "northern" | "southern" | "eastern" | "western"))
}
