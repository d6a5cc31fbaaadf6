//! From a note to a finding a reader can act on: what, why, when, who; and the order they are dealt with.

use super::{Condition, Facts, Suggestion, Urgency, catalogue, suggest};
use crate::finding::{Effect, Reason};
use crate::job::Brief;
use crate::practice::{Judged, Practice, Verdict, judge_note};
use crate::round::{Note, NoteKind};
use crate::site::Zone;
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
    /// A reading held against the practice's rule, with the sum.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub judged: Option<Judged>,
    /// What a *next cycle* finding is done with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bundle: Option<String>,
    /// The practice's scope of report prints it.
    pub in_report: bool,
    /// Where it stands in the report.
    pub section: ReportPart,
    /// Its number, the same wherever it is shown; only findings that ask for something have one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub number: Option<usize>,
}

/// Where a finding stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ReportPart {
    /// Something is to be done, watched or known: these are numbered.
    Findings,
    /// Done right.
    Good,
    /// For another trade.
    Side,
    /// What could not be seen.
    Limits,
    /// Not in the report, by the practice's scope.
    LeftOut,
}

/// The one selection of findings that page, print and table share.
fn section(kind: NoteKind, in_report: bool) -> ReportPart {
    match kind {
        _ if !in_report => ReportPart::LeftOut,
        NoteKind::Good => ReportPart::Good,
        NoteKind::Side => ReportPart::Side,
        NoteKind::Limitation => ReportPart::Limits,
        NoteKind::Defect | NoteKind::Measurement | NoteKind::Remark | NoteKind::Recommendation => ReportPart::Findings,
    }
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

/// What the practice's rule does to the step: a reading that is as asked makes a finding one step less pressing; one that is
/// not says why it stays.
fn by_rule(s: &mut Suggestion, condition: &Condition, judged: &Judged, facts: &Facts) {
    // A distance that is kept does not make water that was seen coming in wait.
    let later = judged.verdict == Verdict::Meets && !facts.water_active && !s.hazard && !condition.is_ok() && s.step < Urgency::Watch;
    if later {
        s.step = Urgency::ALL[s.step as usize + 1];
    }
    let effect = if later { Effect::Later } else { Effect::Stays };
    let text = match judged.verdict {
        Verdict::Meets => "By the practice's rule it is as asked.",
        Verdict::Fails => "By the practice's rule it is not as asked.",
        Verdict::Refer => "By the practice's rule it is to be referred.",
        Verdict::Unknown => return,
    };
    s.reasons.push(Reason { text: text.into(), effect, step: s.step });
}

/// What work a finding can wait for.
fn cycle(group: &str) -> &'static str {
    match group.split(':').next().unwrap_or(group) {
        "Roof" | "Ridge, hip and valley" | "Roof penetrations and flashings" | "Chimneys and skylights" | "Roof edge" | "Storm damage" => {
            "With the next re-roof"
        }
        "Gutters and downspouts" => "With the next work on the gutters",
        "Soffit, fascia and trim" | "Cladding" | "Openings" | "Wall penetrations" => "With the next repaint",
        _ => "With the next work there",
    }
}

/// The place with both names of its face; the practice says which comes first.
fn place_words(note: &Note, brief: &Brief, practice: &Practice) -> String {
    let words = note.place.words(practice.units);
    let (Some(face), Some(front)) = (note.place.face, brief.front_faces) else { return words };
    let point = face.azimuth(front).point();
    match practice.rule("face-naming").id() {
        Some("compass") if note.place.zone != Zone::Inside => {
            words.replacen(face.name(), &format!("{point} ({})", face.name().to_lowercase()), 1)
        }
        _ if note.place.zone != Zone::Inside => words.replacen(face.name(), &format!("{} ({point})", face.name()), 1),
        _ => words,
    }
}

/// Whether the practice's scope prints it: all that was seen, or what a reader must act on.
fn in_scope(kind: NoteKind, urgency: Urgency, hazard: bool, practice: &Practice) -> bool {
    practice.rule("report-scope").id() != Some("material")
        || hazard
        || matches!(kind, NoteKind::Limitation | NoteKind::Side)
        || kind == NoteKind::Defect && urgency <= Urgency::NextCycle
}

/// Judges one note.
pub fn judge(note_id: &str, note: &Note, brief: &Brief, practice: &Practice) -> Finding {
    let condition = note.condition.as_deref().and_then(|id| catalogue().get(id));
    let judged = judge_note(note, brief, practice);
    let suggestion = condition.map(|c| {
        let mut s = suggest(c, &facts(note, brief));
        if let Some(j) = &judged {
            by_rule(&mut s, c, j, &facts(note, brief));
        }
        s
    });
    let hazard = suggestion.as_ref().map_or(note.facts.hazard == Some(true), |s| s.hazard);
    let suggested = suggestion.as_ref().map_or(if hazard { Urgency::Now } else { Urgency::Record }, |s| s.step);
    let urgency = note.urgency_by_hand.as_ref().map_or(suggested, |h| h.step);
    let mut remarks = Vec::new();
    remarks.extend(note.extent.map(|e| e.words().to_owned()));
    if note.certainty != Default::default() {
        remarks.push(note.certainty.words().to_owned());
    }
    let in_report = in_scope(note.kind, urgency, hazard, practice);
    let worded = |f: fn(&super::Condition) -> &String| condition.map(|c| f(c).clone());
    Finding {
        note_id: note_id.to_owned(),
        kind: note.kind,
        title: condition.map_or_else(|| first_line(&note.text), |c| c.name.clone()),
        place: place_words(note, brief, practice),
        urgency,
        hazard,
        urgency_words: urgency.words().to_owned(),
        ticks: urgency.ticks(),
        by_hand: note.urgency_by_hand.as_ref().map(|h| h.reason.clone()),
        suggestion,
        measures: note
            .measures
            .iter()
            .map(|m| if m.rule { format!("asked: {}", m.both(practice.units)) } else { m.both(practice.units) })
            .collect(),
        remarks,
        cause: worded(|c| &c.cause),
        consequence: worded(|c| &c.consequence),
        recommendation: worded(|c| &c.recommendation),
        trade: worded(|c| &c.trade).or_else(|| note.trade.clone()),
        judged,
        bundle: condition.filter(|_| urgency == Urgency::NextCycle).map(|c| cycle(&c.group).to_owned()),
        in_report,
        section: section(note.kind, in_report),
        number: None,
    }
}

fn first_line(text: &str) -> String {
    const MOST: usize = 80;
    let line = text.lines().find(|l| !l.trim().is_empty()).unwrap_or("").trim();
    if line.chars().count() <= MOST { line.to_owned() } else { format!("{}…", line.chars().take(MOST).collect::<String>().trim_end()) }
}

/// Judges every note and puts them in the order they are dealt with: soonest first, danger to people before the rest of
/// a step, then the way water meets the building, then as entered; and numbers those that ask for something.
pub fn findings<'a>(notes: impl IntoIterator<Item = (&'a str, &'a Note)>, brief: &Brief, practice: &Practice) -> Vec<Finding> {
    let mut rows: Vec<_> = notes
        .into_iter()
        .enumerate()
        .map(|(i, (id, n))| {
            let row = n.condition.as_deref().and_then(|c| catalogue().order(c)).unwrap_or(usize::MAX);
            (row, i, judge(id, n, brief, practice))
        })
        .collect();
    rows.sort_by_key(|(row, i, f)| (f.urgency, !f.hazard, *row, *i));
    let mut numbers = 1..;
    let number = |mut f: Finding| {
        f.number = (f.section == ReportPart::Findings).then(|| numbers.next()).flatten();
        f
    };
    rows.into_iter().map(|(_, _, f)| f).map(number).collect()
}

/// Findings that wait for the same work.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bundled {
    /// "With the next re-roof".
    pub with: String,
    /// The notes.
    pub notes: Vec<String>,
}

/// *Next cycle* findings by the work they wait for.
pub fn bundled(findings: &[Finding]) -> Vec<Bundled> {
    let mut out: Vec<Bundled> = Vec::new();
    for (with, note) in findings.iter().filter_map(|f| Some((f.bundle.clone()?, f.note_id.clone()))) {
        match out.iter_mut().find(|b| b.with == with) {
            Some(b) => b.notes.push(note),
            None => out.push(Bundled { with, notes: vec![note] }),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::HandSet;
    use crate::round::{Context, read};
    use crate::site::{Bearing, Face, Place};

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
            ("d", note("stucco crack", Face::Rear, Zone::UpperWall)),
        ];
        let f = findings(notes.iter().map(|(i, n)| (*i, n)), &Brief::default(), &Practice::default());
        let order: Vec<_> = f.iter().map(|f| (f.note_id.as_str(), f.urgency.words())).collect();
        assert_eq!(order, [("b", "Now"), ("c", "Before next rain"), ("d", "This season"), ("a", "For the record")]);
        assert!(f[0].hazard);
    }

    #[test]
    fn the_weather_side_is_worked_out_from_the_brief() {
        let brief = Brief { front_faces: Bearing::new(200.0).ok(), driving_rain_from: Bearing::new(225.0).ok(), ..Brief::default() };
        assert_eq!(
            judge("x", &note("stucco crack", Face::Front, Zone::UpperWall), &brief, &Practice::default()).urgency,
            Urgency::BeforeNextRain
        );
        assert_eq!(
            judge("x", &note("stucco crack", Face::Rear, Zone::UpperWall), &brief, &Practice::default()).urgency,
            Urgency::ThisSeason
        );
    }

    #[test]
    fn the_persons_choice_wins_and_the_suggestion_stays_in_view() {
        let mut n = note("stucco crack", Face::Rear, Zone::UpperWall);
        n.urgency_by_hand = Some(HandSet { step: Urgency::Watch, reason: "sealed last month".into() });
        let f = judge("x", &n, &Brief::default(), &Practice::default());
        assert_eq!((f.urgency, f.suggestion.unwrap().step), (Urgency::Watch, Urgency::ThisSeason));
        assert_eq!(f.by_hand.as_deref(), Some("sealed last month"));
    }

    #[test]
    fn a_note_without_a_condition_is_called_by_its_words() {
        let n = note("zzz odd thing by the gate", Face::Left, Zone::Ground);
        assert_eq!(judge("x", &n, &Brief::default(), &Practice::default()).title, "zzz odd thing by the gate");
    }

    #[test]
    fn a_reading_as_the_practice_asks_makes_it_less_pressing() {
        let near = note("downspout dumps at wall, outlet 1.5 m away", Face::Left, Zone::Ground);
        let usual = judge("x", &near, &Brief::default(), &Practice::default());
        let four = Practice::from_toml("name = \"x\"\n[choice.discharge-distance]\nschool = \"four-feet\"").unwrap();
        let mild = judge("x", &near, &Brief::default(), &four);
        assert!(mild.urgency > usual.urgency, "{:?} {:?}", mild.urgency, usual.urgency);
        let d = crate::practice::differences(&[usual], &[mild]);
        assert!(d.len() == 1 && d[0].before.contains("closer by 300 mm") && d[0].after.contains("300 mm to spare"), "{d:?}");
    }

    #[test]
    fn a_short_report_keeps_what_must_be_acted_on() {
        let short = Practice::from_toml("name = \"x\"\n[choice.report-scope]\nschool = \"material\"").unwrap();
        let printed = |line: &str, zone: Zone| judge("x", &note(line, Face::Rear, zone), &Brief::default(), &short).in_report;
        assert!(printed("torn shingle", Zone::Roof) && printed("wires hanging, light missing", Zone::Openings));
        assert!(!printed("gutter clean", Zone::Edge));
        assert!(judge("x", &note("gutter clean", Face::Rear, Zone::Edge), &Brief::default(), &Practice::default()).in_report);
    }

    #[test]
    fn both_names_of_a_face_are_shown() {
        let brief = Brief { front_faces: Bearing::new(200.0).ok(), ..Brief::default() };
        let n = note("stucco crack", Face::Rear, Zone::UpperWall);
        assert_eq!(judge("x", &n, &brief, &Practice::default()).place, "Rear (NNE), upper wall");
        let compass = Practice::from_toml("name = \"x\"\n[choice.face-naming]\nschool = \"compass\"").unwrap();
        assert_eq!(judge("x", &n, &brief, &compass).place, "NNE (rear), upper wall");
    }
}
