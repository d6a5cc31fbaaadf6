//! From a note to a finding a reader can act on: what, why, when, who; and the order they are dealt with.

use super::{Facts, Suggestion, Urgency, catalogue, suggest};
use crate::job::Brief;
use crate::round::{Note, NoteKind};
use serde::{Deserialize, Serialize};

/// A note, judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Finding {
    /// The note it comes from.
    pub note_id: String,
    /// What it says.
    pub kind: NoteKind,
    /// The condition's name, or the person's words.
    pub title: String,
    /// The place in words.
    pub place: String,
    /// When it must be dealt with: the person's choice, or else the suggestion.
    pub urgency: Urgency,
    /// Someone can be hurt.
    pub hazard: bool,
    /// The words on the gauge.
    pub urgency_words: String,
    /// Ticks on the gauge, five to none.
    pub ticks: u8,
    /// The person set the urgency, and why.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by_hand: Option<String>,
    /// What was suggested, with reasons; notes without a condition have none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suggestion: Option<Suggestion>,
    /// Readings, in the person's words and SI.
    pub measures: Vec<String>,
    /// Extent and certainty in words, where they say something.
    pub remarks: Vec<String>,
    /// Why it comes about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cause: Option<String>,
    /// What follows if it is left.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub consequence: Option<String>,
    /// What to do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub recommendation: Option<String>,
    /// Who does it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub trade: Option<String>,
}

/// Within this angle of the direction the rain comes from, a face takes it. Half a right angle either side: with four
/// faces, every direction has one or two faces that take it. Rule of practice.
const DRIVING_RAIN_WITHIN_DEGREES: f64 = 45.0;

/// What the brief adds to what is known at a note's place.
fn facts(note: &Note, brief: &Brief) -> Facts {
    let driven = match (note.place.face, brief.front_faces, brief.driving_rain_from) {
        (Some(face), Some(front), Some(from)) => face.azimuth(front).apart(from) <= DRIVING_RAIN_WITHIN_DEGREES,
        _ => false,
    };
    Facts { driving_rain: note.facts.driving_rain || driven, ..note.facts.clone() }
}

/// Judges one note.
pub fn judge(note_id: &str, note: &Note, brief: &Brief) -> Finding {
    let condition = note.condition.as_deref().and_then(|id| catalogue().get(id));
    let suggestion = condition.map(|c| suggest(c, &facts(note, brief)));
    let hazard = suggestion.as_ref().map_or(note.facts.hazard == Some(true), |s| s.hazard);
    let suggested = suggestion.as_ref().map_or(if hazard { Urgency::Now } else { Urgency::Record }, |s| s.step);
    let urgency = note.urgency_by_hand.as_ref().map_or(suggested, |h| h.step);
    let mut remarks = Vec::new();
    remarks.extend(note.extent.map(|e| e.words().to_owned()));
    if note.certainty != Default::default() {
        remarks.push(note.certainty.words().to_owned());
    }
    let worded = |f: fn(&super::Condition) -> &String| condition.map(|c| f(c).clone());
    Finding {
        note_id: note_id.to_owned(),
        kind: note.kind,
        title: condition.map_or_else(|| first_line(&note.text), |c| c.name.clone()),
        place: note.place.words(),
        urgency,
        hazard,
        urgency_words: urgency.words().to_owned(),
        ticks: urgency.ticks(),
        by_hand: note.urgency_by_hand.as_ref().map(|h| h.reason.clone()),
        suggestion,
        measures: note.measures.iter().map(|m| if m.rule { format!("asked: {}", m.both()) } else { m.both() }).collect(),
        remarks,
        cause: worded(|c| &c.cause),
        consequence: worded(|c| &c.consequence),
        recommendation: worded(|c| &c.recommendation),
        trade: worded(|c| &c.trade),
    }
}

fn first_line(text: &str) -> String {
    const MOST: usize = 80;
    let line = text.lines().find(|l| !l.trim().is_empty()).unwrap_or("").trim();
    if line.chars().count() <= MOST { line.to_owned() } else { format!("{}…", line.chars().take(MOST).collect::<String>().trim_end()) }
}

/// Judges every note and puts them in the order they are dealt with: soonest first, danger to people before the rest of
/// a step, then the way water meets the building, then as entered.
pub fn findings<'a>(notes: impl IntoIterator<Item = (&'a str, &'a Note)>, brief: &Brief) -> Vec<Finding> {
    let mut rows: Vec<_> = notes
        .into_iter()
        .enumerate()
        .map(|(i, (id, n))| {
            let row = n.condition.as_deref().and_then(|c| catalogue().order(c)).unwrap_or(usize::MAX);
            (row, i, judge(id, n, brief))
        })
        .collect();
    rows.sort_by_key(|(row, i, f)| (f.urgency, !f.hazard, *row, *i));
    rows.into_iter().map(|(_, _, f)| f).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::HandSet;
    use crate::round::{Context, read};
    use crate::site::{Bearing, Face, Place, Zone};

    fn note(line: &str, face: Face, zone: Zone) -> Note {
        let place = Place::outside(face, zone);
        read(line, &Context::at(place, None)).notes.remove(0).into_note(String::new())
    }

    #[test]
    fn soonest_first_and_danger_before_the_rest() {
        let notes = [
            ("a", note("gutter clean", Face::Rear, Zone::Edge)),
            ("b", note("wires hanging, light missing", Face::Rear, Zone::Openings)),
            ("c", note("torn shingle", Face::Rear, Zone::Roof)),
            ("d", note("stucco hairline crack", Face::Rear, Zone::UpperWall)),
        ];
        let f = findings(notes.iter().map(|(i, n)| (*i, n)), &Brief::default());
        let order: Vec<_> = f.iter().map(|f| (f.note_id.as_str(), f.urgency.words())).collect();
        assert_eq!(order, [("b", "Now"), ("c", "Before next rain"), ("d", "This season"), ("a", "For the record")]);
        assert!(f[0].hazard);
    }

    #[test]
    fn the_weather_side_is_worked_out_from_the_brief() {
        let brief = Brief { front_faces: Bearing::new(200.0).ok(), driving_rain_from: Bearing::new(225.0).ok(), ..Brief::default() };
        assert_eq!(judge("x", &note("stucco crack", Face::Front, Zone::UpperWall), &brief).urgency, Urgency::BeforeNextRain);
        assert_eq!(judge("x", &note("stucco crack", Face::Rear, Zone::UpperWall), &brief).urgency, Urgency::ThisSeason);
    }

    #[test]
    fn the_persons_choice_wins_and_the_suggestion_stays_in_view() {
        let mut n = note("stucco crack", Face::Rear, Zone::UpperWall);
        n.urgency_by_hand = Some(HandSet { step: Urgency::Watch, reason: "sealed last month".into() });
        let f = judge("x", &n, &Brief::default());
        assert_eq!((f.urgency, f.suggestion.unwrap().step), (Urgency::Watch, Urgency::ThisSeason));
        assert_eq!(f.by_hand.as_deref(), Some("sealed last month"));
    }

    #[test]
    fn a_note_without_a_condition_is_called_by_its_words() {
        let n = note("zzz odd thing by the gate", Face::Left, Zone::Ground);
        assert_eq!(judge("x", &n, &Brief::default()).title, "zzz odd thing by the gate");
    }
}
