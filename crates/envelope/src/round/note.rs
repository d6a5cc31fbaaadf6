//! A note: kept the moment it is entered, thin or whole.

use crate::finding::{Facts, HandSet, catalogue};
use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::measure::Measure;
use crate::site::{LimitReason, Place};
use serde::{Deserialize, Serialize};

/// What a note says.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum NoteKind {
    /// Something to be dealt with.
    Defect,
    /// Done right.
    Good,
    /// A reading or a plain fact.
    Measurement,
    /// Something that could not be seen or tried.
    Limitation,
    /// Free text.
    Remark,
    /// Belongs to another trade.
    Side,
    /// Something to do, said without a fault.
    Recommendation,
}

/// How much of the place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Extent {
    /// One spot.
    One,
    /// Two.
    Two,
    /// A few, here and there.
    Few,
    /// Many.
    Many,
    /// All along.
    Along,
    /// About half.
    Half,
    /// Most of it.
    Most,
    /// Everywhere, typical.
    All,
}

impl Extent {
    /// The words in print.
    pub fn words(self) -> &'static str {
        match self {
            Extent::One => "one spot",
            Extent::Two => "two spots",
            Extent::Few => "a few",
            Extent::Many => "many",
            Extent::Along => "all along",
            Extent::Half => "about half",
            Extent::Most => "most of it",
            Extent::All => "throughout",
        }
    }
}

/// How sure the person is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Certainty {
    /// Seen.
    #[default]
    Seen,
    /// Suspected, not confirmed.
    Suspected,
    /// Confirmed by a test or a reading.
    Confirmed,
    /// Told by somebody else.
    Told,
}

impl Certainty {
    /// The words in print.
    pub fn words(self) -> &'static str {
        match self {
            Certainty::Seen => "seen",
            Certainty::Suspected => "suspected, not confirmed",
            Certainty::Confirmed => "confirmed",
            Certainty::Told => "told by others",
        }
    }
}

/// One note.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Note {
    /// Where.
    pub place: Place,
    /// What it says.
    pub kind: NoteKind,
    /// The person's own words.
    #[serde(default)]
    pub text: String,
    /// The condition, from the catalogue.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// The part, from the vocabulary.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub component: Option<String>,
    /// Readings.
    #[serde(default)]
    pub measures: Vec<Measure>,
    /// How much of the place.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub extent: Option<Extent>,
    /// How sure.
    #[serde(default)]
    pub certainty: Certainty,
    /// What is known on site beyond the condition.
    #[serde(default)]
    pub facts: Facts,
    /// The trade to ask, for a side note.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trade: Option<String>,
    /// Why it could not be seen, for a limitation.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limit: Option<LimitReason>,
    /// Urgency set by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub urgency_by_hand: Option<HandSet>,
    /// When it was entered, RFC 3339.
    #[serde(default)]
    pub at: String,
}

/// Why a note cannot be kept as it is.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct NoteError {
    /// The field, as it is called in JSON.
    pub field: &'static str,
    /// What is wrong and what to do.
    pub message: String,
}

/// Measures that anyone takes for one note.
const MOST_MEASURES: usize = 40;

impl Note {
    /// Checks every field.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), NoteError> {
        let err = |field, message: String| Err(NoteError { field, message });
        if let Err(e) = self.place.check() {
            return err("place", e.to_string());
        }
        if let Some(message) = too_long(&self.text, LONG_TEXT) {
            return err("text", message);
        }
        if self.text.trim().is_empty() && self.condition.is_none() {
            return err("text", "An empty note says nothing. Type what you see, or choose a condition.".into());
        }
        for text in [&self.place.station, &self.place.room, &self.trade].into_iter().flatten() {
            if let Some(message) = too_long(text, SHORT_TEXT) {
                return err("place", message);
            }
        }
        if let Some(id) = self.condition.as_ref().filter(|id| catalogue().get(id).is_none()) {
            return err("condition", format!("\u{201c}{id}\u{201d} is not in the catalogue. Choose a condition from the list."));
        }
        if self.measures.len() > MOST_MEASURES {
            return err("measures", format!("{} measures in one note; the most is {MOST_MEASURES}. Split the note.", self.measures.len()));
        }
        match &self.urgency_by_hand {
            Some(h) if h.reason.trim().is_empty() => err("urgency_by_hand", "Say in a few words why you set the urgency by hand.".into()),
            Some(h) if too_long(&h.reason, SHORT_TEXT * 5).is_some() => {
                err("urgency_by_hand", "The reason is too long. Use a sentence.".into())
            }
            _ => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::Urgency;
    use crate::site::{Face, Zone};

    fn note() -> Note {
        Note {
            place: Place::outside(Face::Front, Zone::Base),
            kind: NoteKind::Remark,
            text: "x".into(),
            condition: None,
            component: None,
            measures: vec![],
            extent: None,
            certainty: Certainty::Seen,
            facts: Facts::default(),
            trade: None,
            limit: None,
            urgency_by_hand: None,
            at: String::new(),
        }
    }

    #[test]
    fn bad_notes_are_refused_with_the_field() {
        let field = |f: fn(&mut Note)| {
            let mut n = note();
            f(&mut n);
            n.check().unwrap_err().field
        };
        assert_eq!(note().check(), Ok(()));
        assert_eq!(field(|n| n.text = "  ".into()), "text");
        assert_eq!(field(|n| n.text = "a".repeat(100_000)), "text");
        assert_eq!(field(|n| n.condition = Some("roof-on-fire".into())), "condition");
        assert_eq!(field(|n| n.place.face = None), "place");
        assert_eq!(field(|n| n.urgency_by_hand = Some(HandSet { step: Urgency::Watch, reason: " ".into() })), "urgency_by_hand");
    }

    #[test]
    fn any_script_and_emoji_are_kept() {
        let n = Note { text: "裂縫 🏠 שלום".into(), ..note() };
        assert_eq!(n.check(), Ok(()));
        assert_eq!(serde_json::from_str::<Note>(&serde_json::to_string(&n).unwrap()).unwrap(), n);
    }
}
