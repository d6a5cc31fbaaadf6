//! Which findings still want a picture.

use super::NoteKind;
use crate::finding::{Finding, Urgency};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// How near a picture was taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Range {
    /// Shows the fault.
    Close,
    /// Shows where it is.
    Wide,
}

/// A finding that wants pictures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wanted {
    /// The note.
    pub note_id: String,
    /// What is missing, in words: "a close one", "a wide one", "a close and a wide one".
    pub missing: String,
}

/// Findings that must be dealt with soon are shown twice: close, for what it is, and wide, for where it is. `taken` are the
/// pictures that belong to notes, with how near they were taken where that was said. Rule of practice.
pub fn wanted<'a>(findings: &[Finding], taken: impl IntoIterator<Item = (&'a str, Option<Range>)>) -> Vec<Wanted> {
    let mut of: HashMap<&str, Vec<Option<Range>>> = HashMap::new();
    for (note, range) in taken {
        of.entry(note).or_default().push(range);
    }
    let missing = |f: &Finding| {
        let taken = of.get(f.note_id.as_str()).map_or(&[][..], Vec::as_slice);
        let has = |range| taken.contains(&Some(range));
        // Two pictures of which nobody said how near they are may be the pair.
        let unsaid = taken.iter().filter(|r| r.is_none()).count();
        let lacking = usize::from(!has(Range::Close)) + usize::from(!has(Range::Wide));
        match (lacking.saturating_sub(unsaid), has(Range::Close), has(Range::Wide)) {
            (0, ..) => None,
            (_, false, true) => Some("a close one"),
            (_, true, false) => Some("a wide one"),
            (1, ..) => Some("a second one, close or wide"),
            _ => Some("a close and a wide one"),
        }
    };
    let soon = |f: &&Finding| f.kind == NoteKind::Defect && (f.urgency <= Urgency::BeforeNextRain || f.hazard);
    findings.iter().filter(soon).filter_map(|f| Some(Wanted { note_id: f.note_id.clone(), missing: missing(f)?.to_owned() })).collect()
}
