//! What another practice would change, before it is kept.

use crate::finding::Finding;
use serde::{Deserialize, Serialize};

/// One thing that another practice says otherwise.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Difference {
    /// The finding.
    pub note_id: String,
    /// What it is called, and where.
    pub title: String,
    /// As it is.
    pub before: String,
    /// As it would be.
    pub after: String,
}

fn told(f: &Finding) -> String {
    let judged = f.judged.as_ref().map(|j| format!(": {}", j.sum)).unwrap_or_default();
    let shown = if f.in_report { "" } else { " (left out of the report)" };
    format!("{}{judged}{shown}", f.urgency.words())
}

/// The findings of one job that two practices judge differently, in the order of the first.
pub fn differences(before: &[Finding], after: &[Finding]) -> Vec<Difference> {
    before
        .iter()
        .filter_map(|b| {
            let a = after.iter().find(|a| a.note_id == b.note_id)?;
            let (was, is) = (told(b), told(a));
            (was != is).then(|| Difference {
                note_id: b.note_id.clone(),
                title: format!("{} ({})", b.title, b.place),
                before: was,
                after: is,
            })
        })
        .collect()
}
