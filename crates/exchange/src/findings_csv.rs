//! The findings as CSV (RFC 4180), one row each, in the order they are dealt with. Numbers are those of the report; what is not
//! numbered there has none here.

use account::Case;
use envelope::round::Note;
use std::collections::HashMap;

/// The table could not be written.
#[derive(Debug, thiserror::Error)]
#[error("The table could not be written: {0}")]
pub struct CsvError(#[from] csv::Error);

impl From<std::io::Error> for CsvError {
    fn from(e: std::io::Error) -> Self {
        CsvError(e.into())
    }
}

const HEADER: [&str; 18] = [
    "number",
    "urgency",
    "hazard",
    "kind",
    "finding",
    "condition",
    "place",
    "face",
    "zone",
    "measures",
    "si_values",
    "extent_and_certainty",
    "noted",
    "cause",
    "consequence",
    "next_step",
    "trade",
    "urgency_set_by_hand",
];

/// A text that a spreadsheet would take for a formula gets an apostrophe in front.
fn harmless(text: &str) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r']) { format!("'{text}") } else { text.to_owned() }
}

fn key<T: serde::Serialize>(value: T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// Writes the table.
///
/// # Errors
/// When a row cannot be written.
pub fn findings_csv(case: &Case) -> Result<Vec<u8>, CsvError> {
    let mut w = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    w.write_record(HEADER)?;
    let notes: HashMap<&str, &Note> = case.whole().notes.iter().map(|n| (n.id.as_str(), &n.body)).collect();
    for f in case.findings() {
        let Some(note) = notes.get(f.note_id.as_str()) else { continue };
        let si: Vec<String> = note.measures.iter().map(|m| format!("{} {}", m.si, m.quantity.si_unit()).trim().to_owned()).collect();
        w.write_record([
            f.number.map(|n| n.to_string()).unwrap_or_default(),
            f.urgency_words.clone(),
            if f.hazard { "hazard".into() } else { String::new() },
            key(f.kind),
            harmless(&f.title),
            note.condition.clone().unwrap_or_default(),
            harmless(&f.place),
            note.place.face.map(key).unwrap_or_default(),
            key(note.place.zone),
            harmless(&f.measures.join("; ")),
            si.join("; "),
            f.remarks.join("; "),
            harmless(&note.text),
            f.cause.clone().unwrap_or_default(),
            f.consequence.clone().unwrap_or_default(),
            f.recommendation.clone().unwrap_or_default(),
            f.trade.clone().unwrap_or_default(),
            harmless(f.by_hand.as_deref().unwrap_or_default()),
        ])?;
    }
    w.flush()?;
    w.into_inner().map_err(|e| CsvError::from(e.into_error()))
}
