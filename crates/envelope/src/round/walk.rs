//! A whole walk as it was talked, read into notes in order: the where is carried along, corrections are followed,
//! what is told twice is kept once, and talk that is no finding gives no note.

use super::line::talk::{self, Before, Model};
use super::line::{Candidate, Context, Correction, Memory, ReadNote, Reading, read_with};
use super::note::{Certainty, Extent, NoteKind};
use super::timed_text::{self, Sentence, WalkFileError};
use super::track::{Track, TrackFit, TrackStop};
use super::vocabulary::{OwnWord, vocabulary};
use crate::finding::catalogue;
use crate::measure::Units;
use crate::measure::{Measure, Quantity};
use crate::site::{Bearing, Face, LimitReason, Place, Surface, Zone};
use serde::{Deserialize, Serialize};

mod laid;
mod proposed;

use laid::lay;
pub use proposed::before_each;
use proposed::{Proposed, proposals};

/// A walk to be read.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
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
    /// From which chance a finding is proposed; below it, it is a *maybe*. The usual limit where nothing is said.
    #[serde(default)]
    pub sure_from: Option<f64>,
    /// Where somebody stood meanwhile, as it was chosen on the wheel: what is said takes its place from there.
    #[serde(default)]
    pub track: Vec<TrackStop>,
    /// When the recording began, RFC 3339, by the clock of the track. Without it, it is found from the sentences that name a place.
    #[serde(default)]
    pub began: Option<String>,
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
    /// How likely it is that this was told: of what is said to be 80 % sure, 80 % should be right. 0.5 where nothing is weighed.
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
    /// What may have been told, and is too unsure to be proposed: to be looked at, never dropped in silence.
    pub maybe: Vec<WalkNote>,
    /// Sentences read.
    pub sentences: usize,
    /// Sentences that gave no note and moved nothing: talk.
    pub talk: usize,
    /// What was taken back or did not go together, in words.
    pub remarks: Vec<String>,
    /// How it was laid on the track, where there was one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub track: Option<TrackFit>,
}

/// From here on a finding is proposed, where the practice sets no other limit.
pub const USUALLY_SURE: f64 = 0.42;
/// Below this nothing is even a *maybe*.
const MAYBE_FROM: f64 = 0.2;
/// What the rules found is proposed already when the weights give it this share of the limit.
const AGREED: f64 = 0.6;
/// Who sums up tells what was told: something new must be this clear.
const NEW_IN_SUMMARY: f64 = 0.9;
/// Words of a sentence that tells again what was told, wherever that was.
const RETOLD: [&str; 14] = [
    "already said",
    "said already",
    "said that already",
    "like i said",
    "as i said",
    "as i was saying",
    "did i say",
    "did i mention",
    "i mentioned",
    "as mentioned",
    "i told you about",
    "said before",
    "back on that",
    "have that already",
];
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
    read_walk_by(input, Model::shipped())
}

/// Reads a walk by other weights than those that ship: to measure them on walks they were not trained on.
///
/// # Errors
/// [`WalkFileError`] when there is nothing to read.
pub fn read_walk_by(input: &WalkInput, model: &Model) -> Result<Walk, WalkFileError> {
    let sentences = timed_text::sentences(&input.walk)?;
    let track = Track::new(&input.track)?;
    let laid = track.as_ref().map(|t| lay(t, &sentences, input)).transpose()?;
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
        retelling: false,
        talk: 0,
        replaced: None,
        model,
        sure_from: input.sure_from.unwrap_or(USUALLY_SURE).clamp(MAYBE_FROM, 1.0),
        maybe: Vec::new(),
    };
    let mut stood = None;
    let proposed = proposals(model, &sentences);
    for (i, (s, proposed)) in sentences.iter().zip(&proposed).enumerate() {
        // Who has gone on since the sentence before is where the wheel says, until the words say otherwise.
        if let (Some(track), Some(t), Some((Some(began), _))) = (&track, s.t_s, &laid) {
            let stop = track.stop_at(t + began);
            if stop != stood {
                stood = stop;
                w.stand(stop.and_then(|s| track.place(s)));
            }
        }
        w.hear(i, s, proposed);
    }
    let front_known = w.front_known;
    let told: Vec<(Option<String>, Option<Face>)> = w.kept.iter().map(|k| (k.note.condition.clone(), k.note.place.face)).collect();
    let notes = w.kept.into_iter().map(|k| k.into_walk_note(front_known)).collect();
    // A condition that was told on this face is no maybe of it.
    let maybe = w.maybe.into_iter().filter(|k| !told.contains(&(k.note.condition.clone(), k.note.place.face)));
    Ok(Walk {
        notes,
        maybe: maybe.map(|k| k.into_walk_note(front_known)).collect(),
        sentences: sentences.len(),
        talk: w.talk,
        remarks: w.remarks,
        track: laid.map(|(_, fit)| fit),
    })
}

struct Walker<'a> {
    model: &'a Model,
    sure_from: f64,
    maybe: Vec<Kept>,
    context: Context,
    front_known: bool,
    by_compass: bool,
    memory: Memory,
    since_named: usize,
    kept: Vec<Kept>,
    remarks: Vec<String>,
    summing_up: bool,
    /// This sentence tells again what was told.
    retelling: bool,
    talk: usize,
    /// When the note that a correction replaces was first said.
    replaced: Option<(Option<f64>, usize)>,
}

impl Walker<'_> {
    /// Somebody stands elsewhere, by the wheel.
    fn stand(&mut self, at: Option<&Place>) {
        if let Some(place) = at {
            self.context.place = place.clone();
            self.by_compass = false;
        }
    }

    fn hear(&mut self, index: usize, s: &Sentence, proposed: &Proposed) {
        let lower = s.text.to_lowercase();
        self.learn_front(&lower);
        self.summing_up |=
            ["to sum up", "in summary", "to recap", "quick recap", "so overall", "summing up", "to summarise", "to summarize"]
                .iter()
                .any(|c| lower.contains(c));
        self.retelling = RETOLD.iter().any(|c| lower.contains(c));
        let r = read_with(&s.text, &self.context, Some(&self.memory));
        let before = self.context.place.face;
        self.remarks.extend(r.doubts.iter().cloned());
        let mut did = self.correct(&r, s);
        let mut found = false;
        let notes = self.weigh(&r, index, s, proposed);
        for note in &notes {
            // What only the weights propose says nothing of where one goes.
            let by_rule = r.notes.iter().any(|n| n.condition == note.condition);
            if by_rule && note.place.face != before {
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

    /// What was read by rule and what the weights make of the sentence, together: rules say where, how much and what kind, the weights
    /// which condition and how sure that is.
    fn weigh(&mut self, r: &Reading, index: usize, s: &Sentence, proposed: &Proposed) -> Vec<ReadNote> {
        /// A window over the ends of captions reaches back so many.
        const CAPTIONS_BACK: usize = 3;
        let Proposed { before, proposals } = proposed;
        let chance = |id: &str| proposals.iter().find(|p| talk::class_id(p.class) == Some(id)).map_or(0.0, |p| p.p);
        let finding = |n: &ReadNote| n.condition.is_some() && !matches!(n.kind, NoteKind::Limitation | NoteKind::Side);
        let mut out: Vec<ReadNote> = vec![];
        let mut maybe: Vec<ReadNote> = vec![];
        for n in &r.notes {
            let Some(id) = n.condition.clone().filter(|_| finding(n)) else {
                out.push(n.clone());
                continue;
            };
            let p = chance(&id);
            // What is proposed for other words may have pushed it off the list; how sure it is stands by itself.
            let own = || self.model.chance(&n.text, &Before::default(), &id).max(self.model.chance(&s.text, before, &id));
            let said = self.certain(n.clone(), &id, if p > 0.0 { p } else { own() }, proposals);
            if p >= AGREED * self.sure_from { out.push(said) } else { maybe.push(said) }
        }
        for p in proposals {
            let Some(id) = talk::class_id(p.class) else { continue };
            if out.iter().chain(&maybe).any(|n| n.condition.as_deref() == Some(id)) {
                continue;
            }
            // A window back over the end of a caption tells again what was noted there.
            let noted = |k: &Kept| index - k.sentence <= CAPTIONS_BACK && k.note.condition.as_deref() == Some(id);
            if p.across && self.kept.iter().rev().any(noted) {
                continue;
            }
            let note = self.proposed(p, id, proposals, r, s);
            let least = if self.summing_up { NEW_IN_SUMMARY } else { self.sure_from };
            if p.p >= least {
                // What a rule read on the same words without knowing the condition is this.
                out.retain(|n| {
                    n.condition.is_some()
                        || !matches!(n.kind, NoteKind::Remark | NoteKind::Measurement | NoteKind::Good | NoteKind::Recommendation)
                        || !(p.text.contains(&n.text) || n.text.contains(&p.text))
                });
                out.push(note);
            } else {
                maybe.push(note);
            }
        }
        let by_compass = self.by_compass;
        self.maybe.extend(maybe.into_iter().map(|note| Kept { note, t_s: s.t_s, sentence: index, by_compass }));
        out
    }

    /// A note with how sure its condition is, and what else it may be.
    fn certain(&self, mut note: ReadNote, id: &str, p: f64, proposals: &[talk::Proposal]) -> ReadNote {
        let named = |id: &str, p: f64| Candidate {
            condition: id.to_owned(),
            name: catalogue().get(id).map(|c| c.name.clone()).unwrap_or_default(),
            confidence: (p * 100.0).round() / 100.0,
        };
        let others = proposals.iter().filter_map(|o| Some(named(talk::class_id(o.class)?, o.p))).filter(|o| o.condition != id);
        note.candidates = std::iter::once(named(id, p)).chain(others).take(3).collect();
        note
    }

    /// A note from what the weights propose: where, how much and what part, as the rules read the same words.
    fn proposed(&self, p: &talk::Proposal, id: &str, proposals: &[talk::Proposal], whole: &Reading, s: &Sentence) -> ReadNote {
        let v = vocabulary();
        let known = &v.conditions[p.class];
        // The whole sentence was read already.
        let part = (p.text != s.text).then(|| read_with(&p.text, &self.context, Some(&self.memory)));
        let r = part.as_ref().unwrap_or(whole);
        // Where it is may be said in another part of the sentence than what it is.
        let said = |r: &Reading| r.moved.clone().or_else(|| r.notes.first().map(|n| n.place.clone()));
        let mut place = said(whole).or_else(|| said(r)).unwrap_or_else(|| self.context.place.clone());
        // What is named has a natural height: weep holes are not on the roof because the wheel stands there.
        let inside = known.zones == [Zone::Inside];
        if inside && place.zone != Zone::Inside {
            place = Place { zone: Zone::Inside, face: None, from_left_m: None, ..place };
        } else if !inside && !known.zones.is_empty() && !known.zones.contains(&place.zone) {
            place.zone = known.zones[0];
            place.face = place.face.or(self.context.place.face);
        }
        let first = r.notes.first();
        let note = ReadNote {
            place,
            kind: if known.good {
                NoteKind::Good
            } else if known.side {
                NoteKind::Side
            } else if known.fact {
                NoteKind::Measurement
            } else {
                NoteKind::Defect
            },
            condition: Some(id.to_owned()),
            candidates: vec![],
            component: first.and_then(|n| n.component.clone()),
            measures: r.notes.iter().flat_map(|n| n.measures.clone()).collect(),
            extent: first.and_then(|n| n.extent),
            certainty: first.map_or(Certainty::Seen, |n| n.certainty),
            limit: None,
            trade: None,
            text: p.text.clone(),
            left_over: first.map(|n| n.left_over.clone()).unwrap_or_default(),
            instead_of: None,
        };
        self.certain(note, id, p.p, proposals)
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
        let summing_up = self.summing_up || self.retelling && !again;
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
