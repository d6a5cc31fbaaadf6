//! What a line that was entered does to the notes of a job: new notes, and what it says of the note before.

use super::{Context, Correction, Note, NoteError, NoteKind, ReadNote, Reading, read};
use crate::finding::catalogue;
use crate::measure::Units;
use crate::site::Place;
use serde::{Deserialize, Serialize};

/// A line as entered, with what was put right by hand before it was kept.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Entered<'a> {
    /// The line.
    pub line: &'a str,
    /// Conditions chosen by hand, one for each note the line is read as; an empty text means "none of these".
    pub conditions: &'a [Option<String>],
    /// The one gesture "done right": whatever the line says is recorded as right.
    pub done_right: bool,
    /// When, RFC 3339.
    pub at: &'a str,
}

/// What happens to the note before.
#[derive(Debug, Clone, PartialEq)]
pub enum Before {
    /// It stays.
    Stays,
    /// It is taken back.
    Goes,
    /// It becomes this.
    Becomes(Box<Note>),
}

/// What an entered line comes to.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// New notes, in the order they were said.
    pub notes: Vec<Note>,
    /// What happens to the note before.
    pub before: Before,
    /// The same in words.
    pub told: Option<String>,
    /// Where the walk has moved on to.
    pub moved: Option<Place>,
    /// Notes that went to another height than the one that was set.
    pub elsewhere: Vec<Elsewhere>,
}

/// A note that went where its part is, since the height that was set can never hold it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Elsewhere {
    /// Which of the notes of the line.
    pub note: usize,
    /// The place that was set: where one key puts it.
    pub set: Place,
    /// "Brick weeps are never met at the roof: kept at the base of the wall."
    pub words: String,
}

/// Why a line makes no entry.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum EntryError {
    /// Nothing was said.
    #[error("An empty line says nothing. Type what you see.")]
    Empty,
    /// A correction with nothing to correct.
    #[error("There is no note before this one to correct.")]
    NothingBefore,
    /// A note that cannot be kept.
    #[error(transparent)]
    Note(#[from] NoteError),
}

/// Reads a line and works out what it does. `last` is the note entered before it, `last_named` the last one that has a
/// condition: "same here" repeats that.
///
/// # Errors
/// An empty line, a correction of nothing, a note that cannot be kept.
pub fn enter(entered: &Entered<'_>, context: &Context, last: Option<&Note>, last_named: Option<&Note>) -> Result<Entry, EntryError> {
    let line = if entered.done_right && entered.line.trim().is_empty() { "Done right" } else { entered.line };
    let mut reading = read(line, context);
    if reading.notes.is_empty() && reading.moved.is_none() && reading.correction.is_none() {
        return Err(EntryError::Empty);
    }
    let (before, told) = match last {
        Some(last) => correct(&reading, last, context.units),
        None if reading.correction.is_some() && reading.notes.is_empty() => return Err(EntryError::NothingBefore),
        None => (Before::Stays, None),
    };
    if let Before::Becomes(note) = &before {
        note.check()?;
    }
    repeat(&mut reading, last_named);
    let mut notes = Vec::new();
    let mut elsewhere = vec![];
    for (i, note) in reading.notes.into_iter().enumerate() {
        let set = note.instead_of.clone();
        let note = by_hand(note, entered.conditions.get(i), entered.done_right).into_note(entered.at.to_owned());
        note.check()?;
        if let Some(set) = set {
            let name = note.condition.as_deref().and_then(|id| catalogue().get(id)).map_or(note.text.as_str(), |c| &c.name);
            let words = format!(
                "\u{201c}{name}\u{201d} is not met at {}: kept at {}.",
                set.words(context.units).to_lowercase(),
                note.place.words(context.units).to_lowercase()
            );
            elsewhere.push(Elsewhere { note: i, set, words });
        }
        notes.push(note);
    }
    Ok(Entry { notes, before, told, moved: reading.moved, elsewhere })
}

/// The condition a person chose instead of the one that was read.
fn by_hand(mut note: ReadNote, chosen: Option<&Option<String>>, done_right: bool) -> ReadNote {
    if let Some(Some(id)) = chosen {
        note.condition = Some(id.clone()).filter(|id| !id.is_empty());
        note.kind = match note.condition.as_deref().and_then(|id| catalogue().get(id)) {
            Some(c) if c.is_ok() => NoteKind::Good,
            Some(c) if c.side => NoteKind::Side,
            Some(_) => NoteKind::Defect,
            None => NoteKind::Remark,
        };
    }
    if done_right && note.kind != NoteKind::Good {
        // A fault that was read is turned into the row that says the same place is right, when there is exactly one.
        let right = note.condition.as_deref().and_then(|id| catalogue().get(id)).map(|c| c.right.clone()).unwrap_or_default();
        note.condition = <[String; 1]>::try_from(right).ok().map(|[id]| id);
        note.kind = NoteKind::Good;
    }
    note
}

/// What a line says about the note before.
fn correct(reading: &Reading, last: &Note, units: Units) -> (Before, Option<String>) {
    let Some(correction) = &reading.correction else { return (Before::Stays, None) };
    let name: String = last.text.chars().take(60).collect();
    let same = reading
        .notes
        .first()
        .is_some_and(|n| n.condition.is_some() && n.condition == last.condition || n.component.is_some() && n.component == last.component);
    let mut note = last.clone();
    match correction {
        Correction::ReplaceLast if !same => (Before::Stays, None),
        Correction::DropLast | Correction::ReplaceLast => (Before::Goes, Some(format!("Taken back: {name}"))),
        Correction::MoveLast { .. } => {
            correction.put_right(&mut note.place, &mut note.measures);
            let told = format!("Moved to {}: {name}", note.place.words(units).to_lowercase());
            (Before::Becomes(Box::new(note)), Some(told))
        }
        Correction::RemeasureLast { .. } => {
            correction.put_right(&mut note.place, &mut note.measures);
            (Before::Becomes(Box::new(note)), Some(format!("Measured again: {name}")))
        }
    }
}

/// "Same here": a line that names no condition of its own repeats the last one.
fn repeat(reading: &mut Reading, last_named: Option<&Note>) {
    let (true, Some(last)) = (reading.again, last_named) else { return };
    for n in reading.notes.iter_mut().filter(|n| n.condition.is_none()) {
        n.condition = last.condition.clone();
        n.kind = last.kind;
        n.component = n.component.take().or_else(|| last.component.clone());
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::{Face, Zone};

    fn at(face: Face) -> Context {
        Context::at(Place::outside(face, Zone::Edge), None)
    }

    fn said(line: &str) -> Entered<'_> {
        Entered { line, at: "2026-11-24T09:00:00Z", ..Entered::default() }
    }

    fn first(line: &str) -> Note {
        enter(&said(line), &at(Face::Rear), None, None).unwrap().notes.remove(0)
    }

    #[test]
    fn a_correction_changes_the_note_before_and_nothing_else() {
        let last = first("gutter sagging 2 ft");
        let e = enter(&said("scratch that"), &at(Face::Rear), Some(&last), Some(&last)).unwrap();
        assert_eq!((e.before, e.notes.len()), (Before::Goes, 0));
        let e = enter(&said("no, left side"), &at(Face::Rear), Some(&last), Some(&last)).unwrap();
        let Before::Becomes(moved) = e.before else { panic!("{:?}", e.before) };
        assert_eq!((moved.place.face, &moved.measures), (Some(Face::Left), &last.measures));
        assert!(e.told.unwrap().starts_with("Moved to left"));
        assert_eq!(enter(&said("scratch that"), &at(Face::Rear), None, None), Err(EntryError::NothingBefore));
        assert_eq!(enter(&said("   "), &at(Face::Rear), Some(&last), None), Err(EntryError::Empty));
    }

    #[test]
    fn what_the_height_cannot_hold_goes_where_its_part_is_and_says_so() {
        let typed = |line: &str, zone: Zone| enter(&said(line), &Context::at(Place::outside(Face::Left, zone), None), None, None).unwrap();
        let e = typed("no weep holes in the brick", Zone::Roof);
        assert_eq!((e.notes[0].place.zone, e.notes[0].place.face), (Zone::Base, Some(Face::Left)));
        assert_eq!((e.elsewhere[0].note, e.elsewhere[0].set.zone), (0, Zone::Roof));
        assert!(
            e.elsewhere[0].words.contains("is not met at") && e.elsewhere[0].words.contains("kept at left"),
            "{}",
            e.elsewhere[0].words
        );
        // What can be there stays, and what is said stands.
        for (line, zone) in [
            ("downspout ends at the wall", Zone::Ground),
            ("dents in the gutter", Zone::UpperWall),
            ("moss on the shingles", Zone::Edge),
            ("base of the wall, moss on the shingles", Zone::Roof),
            ("something odd about this", Zone::Roof),
        ] {
            let e = typed(line, zone);
            assert!(e.elsewhere.is_empty(), "{line}: {:?}", e.elsewhere);
        }
        // What is told inside is told at its own place: nothing was overruled.
        let e = typed("brown stain on the ceiling", Zone::Edge);
        assert_eq!((e.notes[0].place.zone, e.elsewhere.len()), (Zone::Inside, 0));
    }

    #[test]
    fn same_here_repeats_what_had_a_name_at_the_place_that_is_set() {
        let last = first("gutter sagging");
        let e = enter(&said("same here"), &at(Face::Left), Some(&last), Some(&last)).unwrap();
        assert_eq!((&e.notes[0].condition, e.notes[0].place.face), (&last.condition, Some(Face::Left)));
    }

    #[test]
    fn done_right_turns_a_fault_into_the_row_that_says_it_is_right() {
        let right = Entered { done_right: true, ..said("gutter sagging") };
        let note = enter(&right, &at(Face::Rear), None, None).unwrap().notes.remove(0);
        assert_eq!(note.kind, NoteKind::Good);
        let nothing = Entered { done_right: true, ..said("") };
        assert_eq!(enter(&nothing, &at(Face::Rear), None, None).unwrap().notes.len(), 1);
        let chosen = Entered { conditions: &[Some(String::new())], ..said("gutter sagging") };
        let note = enter(&chosen, &at(Face::Rear), None, None).unwrap().notes.remove(0);
        assert_eq!((note.kind, note.condition), (NoteKind::Remark, None));
    }
}
