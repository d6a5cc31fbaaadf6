//! Pictures taken before the notes: which face and which note each belongs to, by compass heading and time.

use crate::round::Note;
use crate::site::{Bearing, Face};
use jiff::civil::DateTime;
use serde::{Deserialize, Serialize};

/// Notes further from a picture than this are not proposed. Rule of practice: one stop of the round.
const NEAR_MINUTES: i64 = 10;

/// Where a picture may belong, to be confirmed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Proposal {
    /// The face the camera looked at.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<Face>,
    /// The note nearest in time on that face.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note_id: Option<String>,
    /// Why, in words; empty when nothing is known.
    pub why: String,
}

/// Proposes a face and a note for a picture. Times are local, as cameras write them.
pub fn propose<'a>(
    taken_at: Option<DateTime>,
    heading: Option<Bearing>,
    front: Option<Bearing>,
    notes: impl IntoIterator<Item = (&'a str, DateTime, &'a Note)>,
) -> Proposal {
    let face = heading.zip(front).map(|(h, f)| Face::in_picture(h, f));
    let apart = |at: DateTime| {
        taken_at.and_then(|t| t.until(at).ok()).and_then(|s| s.total((jiff::Unit::Second, t_relative(at))).ok()).map(f64::abs)
    };
    let best = notes
        .into_iter()
        .filter(|(_, _, n)| face.is_none() || n.place.face.is_none() || n.place.face == face)
        .filter_map(|(id, at, _)| Some((id, apart(at)?)))
        .filter(|(_, s)| *s <= (NEAR_MINUTES * 60) as f64)
        .min_by(|a, b| a.1.total_cmp(&b.1));
    let mut why = Vec::new();
    if let (Some(h), Some(f)) = (heading, face) {
        why.push(format!("the camera looked {} ({:.0}°), at the {} face", h.point(), h.degrees(), f.name().to_lowercase()));
    }
    if let Some((_, s)) = best {
        why.push(if s < 90.0 { format!("{s:.0} s from the note") } else { format!("{:.0} min from the note", s / 60.0) });
    }
    Proposal { face, note_id: best.map(|(id, _)| id.to_owned()), why: why.join("; ") }
}

fn t_relative(at: DateTime) -> jiff::SpanRelativeTo<'static> {
    at.date().into()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::round::{Context, read};
    use crate::site::{Place, Zone};

    #[test]
    fn a_picture_goes_to_the_note_of_its_face_nearest_in_time() {
        let note = |face: Face| {
            read("gutter sagging", &Context::at(Place::outside(face, Zone::Edge), None)).notes.remove(0).into_note(String::new())
        };
        let (rear, left) = (note(Face::Rear), note(Face::Left));
        let at = |t: &str| format!("2026-11-18T{t}").parse::<DateTime>().unwrap();
        let notes = [("a", at("10:00:00"), &rear), ("b", at("10:04:00"), &left), ("c", at("10:08:00"), &rear)];
        let front = Bearing::new(200.0).ok();
        let looking = |degrees: f64, t: &str| propose(Some(at(t)), Bearing::new(degrees).ok(), front, notes);
        let p = looking(200.0, "10:05:00");
        assert_eq!(
            (p.face, p.note_id.as_deref(), p.why.as_str()),
            (Some(Face::Rear), Some("c"), "the camera looked SSW (200°), at the rear face; 3 min from the note")
        );
        assert_eq!(looking(200.0, "11:30:00").note_id, None);
        assert_eq!(propose(Some(at("10:04:20")), None, front, notes).note_id.as_deref(), Some("b"));
        assert_eq!(propose(None, None, None, notes), Proposal::default());
    }
}
