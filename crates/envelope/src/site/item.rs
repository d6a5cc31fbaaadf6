//! Openings, fittings and gutter runs of a face, counted as they are met: each is then a place of its own.

use super::{Face, Zone};
use serde::{Deserialize, Serialize};

/// What is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ItemKind {
    /// W1, W2 …
    Window,
    /// D1, D2 …
    Door,
    /// Pipe, duct, light, meter: P1, P2 …
    Penetration,
    /// From corner to corner along an eave: G1, G2 …
    GutterRun,
}

impl ItemKind {
    /// Every kind.
    pub const ALL: [ItemKind; 4] = [ItemKind::Window, ItemKind::Door, ItemKind::Penetration, ItemKind::GutterRun];

    /// The letter of its names.
    pub fn letter(self) -> char {
        match self {
            ItemKind::Window => 'W',
            ItemKind::Door => 'D',
            ItemKind::Penetration => 'P',
            ItemKind::GutterRun => 'G',
        }
    }
    /// The kind whose names start with a letter.
    pub(crate) fn by_letter(letter: &str) -> Option<ItemKind> {
        ItemKind::ALL.into_iter().find(|k| letter.len() == 1 && letter.starts_with(k.letter().to_ascii_lowercase()))
    }
    /// Where it is met.
    pub fn zone(self) -> Zone {
        if self == ItemKind::GutterRun { Zone::Edge } else { Zone::Openings }
    }
    /// One of them in words.
    pub fn name(self) -> &'static str {
        match self {
            ItemKind::Window => "window",
            ItemKind::Door => "door",
            ItemKind::Penetration => "penetration",
            ItemKind::GutterRun => "gutter run",
        }
    }
}

/// One thing counted on a face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Item {
    /// The face.
    pub face: Face,
    /// What it is.
    pub kind: ItemKind,
    /// `W1`: the letter of its kind and its number on the face, counted from the left end seen from outside.
    pub name: String,
    /// What people call it: "kitchen window".
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub label: String,
    /// Metres from the left end of the face.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from_left_m: Option<f64>,
    /// Expectations looked at here with nothing to note, by key.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub seen: Vec<String>,
}

impl Item {
    /// Its number on the face; 0 when the name holds none.
    pub fn number(&self) -> u32 {
        self.name.get(1..).and_then(|n| n.parse().ok()).unwrap_or(0)
    }
    /// Checks that the item can exist.
    ///
    /// # Errors
    /// What is wrong and what to do.
    pub fn check(&self) -> Result<(), String> {
        let number = self.name.strip_prefix(self.kind.letter()).and_then(|n| n.parse::<u32>().ok());
        if number.is_none_or(|n| n == 0 || n > 999) {
            return Err(format!("A {} is named {}1, {}2 and so on.", self.kind.name(), self.kind.letter(), self.kind.letter()));
        }
        if self.label.chars().count() > crate::job::SHORT_TEXT || self.seen.len() > 40 {
            return Err("The name is too long. A few words are enough.".into());
        }
        match self.from_left_m {
            Some(m) if !(0.0..=1000.0).contains(&m) => Err("The distance from the left end is between 0 and 1000 m (3280 ft).".into()),
            _ => Ok(()),
        }
    }
}

/// The names for `count` more of a kind on a face: the next numbers that were never given there.
pub fn next_names<'a>(items: impl IntoIterator<Item = &'a Item>, face: Face, kind: ItemKind, count: u32) -> Vec<String> {
    let used = items.into_iter().filter(|i| i.face == face && i.kind == kind).map(Item::number).max().unwrap_or(0);
    (used + 1..=used + count).map(|n| format!("{}{n}", kind.letter())).collect()
}
