//! What was said of a report once it left: at the walk-back, and from the client's page; the links it can be read under; and what is
//! missing before it may go out.

use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// A report is due so many days after the visit, unless the brief says another day.
pub const DUE_DAYS: i64 = 1;

/// What somebody said of a finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SaidKind {
    /// They asked.
    Asked,
    /// They knew of it.
    Knew,
    /// They want to be shown the place.
    ShowMe,
    /// It was shown and said.
    Told,
    /// A question from the client's page.
    Question,
}

/// Something that was said of a report, with its time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SaidThing {
    /// When, RFC 3339.
    pub at: String,
    /// The finding it is about; the whole report when there is none.
    #[serde(default)]
    pub note_id: Option<String>,
    /// What kind of thing.
    pub kind: SaidKind,
    /// In words.
    #[serde(default)]
    pub text: String,
    /// The answer, once there is one.
    #[serde(default)]
    pub answer: String,
}

/// Longest question from a client's page.
pub const LONGEST_QUESTION: usize = 2000;

/// Why it is not kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LeavingError {
    /// The field.
    pub field: &'static str,
    /// What is wrong and what to do.
    pub message: String,
}

impl SaidThing {
    /// Checks every field.
    ///
    /// # Errors
    /// The first that cannot be kept.
    pub fn check(&self) -> Result<(), LeavingError> {
        if self.at.parse::<Timestamp>().is_err() {
            return Err(LeavingError { field: "at", message: "Say when it was said.".into() });
        }
        if matches!(self.kind, SaidKind::Question | SaidKind::Asked) && self.text.trim().is_empty() {
            return Err(LeavingError { field: "text", message: "Type what was asked; a question needs words.".into() });
        }
        for (field, text, most) in [("text", &self.text, LONGEST_QUESTION), ("answer", &self.answer, LONG_TEXT)] {
            if let Some(message) = too_long(text, most) {
                return Err(LeavingError { field, message });
            }
        }
        Ok(())
    }
}

/// A link under which the client's page is read. The key itself is not kept: only what it is known again by.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ClientLink {
    /// SHA-256 of the key, in hexadecimal.
    pub key_hash: String,
    /// Whom it was made for.
    #[serde(default)]
    pub to: String,
    /// When it was made, RFC 3339.
    pub made_at: String,
    /// The last day it opens.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub until: Date,
    /// It was withdrawn: when.
    #[serde(default)]
    pub withdrawn_at: Option<String>,
}

impl ClientLink {
    /// It opens the page on this day.
    #[must_use]
    pub fn opens(&self, today: Date) -> bool {
        self.withdrawn_at.is_none() && today <= self.until
    }
    /// Checks every field.
    ///
    /// # Errors
    /// The first that cannot be kept.
    pub fn check(&self) -> Result<(), LeavingError> {
        if self.key_hash.len() != 64 || !self.key_hash.chars().all(|c| c.is_ascii_hexdigit() && !c.is_ascii_uppercase()) {
            return Err(LeavingError { field: "key_hash", message: "A link is known by the SHA-256 of its key.".into() });
        }
        if self.made_at.parse::<Timestamp>().is_err() {
            return Err(LeavingError { field: "made_at", message: "Say when the link was made.".into() });
        }
        match too_long(&self.to, SHORT_TEXT) {
            Some(message) => Err(LeavingError { field: "to", message }),
            None => Ok(()),
        }
    }
}

/// One thing that is missing before a report may go out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MissingThing {
    /// What, and what to do.
    pub words: String,
    /// The finding it belongs to.
    pub note_id: Option<String>,
    /// It must not go out like this.
    pub stops: bool,
}

/// How a report stands against the day it is due.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DueAccount {
    /// The day; none while nobody knows when the visit was.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub on: Option<Date>,
    /// "Due tomorrow", "two days late".
    pub words: String,
    /// It is late.
    pub late: bool,
    /// What is missing.
    pub missing: Vec<MissingThing>,
}

/// How many days until (or since) a day, in words.
#[must_use]
pub fn due_words(today: Date, due: Option<Date>) -> (String, bool) {
    let Some(due) = due else { return ("Say on the brief when the visit was: the report is due a day later.".into(), false) };
    let days = (due - today).get_days();
    match days {
        0 => ("Due today".into(), false),
        1 => ("Due tomorrow".into(), false),
        d if d > 1 => (format!("Due in {d} days"), false),
        -1 => ("One day late".into(), true),
        d => (format!("{} days late", -d), true),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn a_link_opens_until_its_day_and_not_once_it_was_withdrawn() {
        let link = ClientLink {
            key_hash: "0".repeat(64),
            to: "the owner".into(),
            made_at: "2026-11-26T08:00:00Z".into(),
            until: date(2026, 12, 10),
            withdrawn_at: None,
        };
        assert!(link.check().is_ok() && link.opens(date(2026, 12, 10)) && !link.opens(date(2026, 12, 11)));
        let gone = ClientLink { withdrawn_at: Some("2026-11-27T08:00:00Z".into()), ..link.clone() };
        assert!(!gone.opens(date(2026, 11, 28)));
        assert_eq!(ClientLink { key_hash: "key".into(), ..link }.check().unwrap_err().field, "key_hash");
    }

    #[test]
    fn a_question_says_something_and_no_more_than_a_page() {
        let said = |kind, text: &str| SaidThing {
            at: "2026-11-26T08:00:00Z".into(),
            note_id: None,
            kind,
            text: text.into(),
            answer: String::new(),
        };
        assert!(said(SaidKind::Knew, "").check().is_ok());
        assert_eq!(said(SaidKind::Question, " ").check().unwrap_err().field, "text");
        assert_eq!(said(SaidKind::Question, &"a".repeat(LONGEST_QUESTION + 1)).check().unwrap_err().field, "text");
        let undated = SaidThing { at: "yesterday".into(), ..said(SaidKind::Knew, "") };
        assert_eq!(undated.check().unwrap_err().field, "at");
    }

    #[test]
    fn days_are_counted_in_words() {
        let today = date(2026, 11, 26);
        for (due, words, late) in [
            (26, "Due today", false),
            (27, "Due tomorrow", false),
            (29, "Due in 3 days", false),
            (25, "One day late", true),
            (20, "6 days late", true),
        ] {
            assert_eq!(due_words(today, Some(date(2026, 11, due))), (words.to_owned(), late));
        }
    }
}
