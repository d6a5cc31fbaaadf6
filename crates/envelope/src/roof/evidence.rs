//! What is known of a covering's age, and what follows from it, as figures.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

pub(super) const MOST_PIECES: usize = 50;

/// What is known of one slope's covering.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LifeInput {
    /// Typical service life, with all modifiers taken in, years.
    pub median_life_years: f64,
    /// Age of the building, when known.
    #[serde(default)]
    pub building_age_years: Option<f64>,
    /// Papers, statements, pictures.
    #[serde(default)]
    pub age_evidence: Vec<AgeEvidence>,
    /// Wear, graded sign by sign.
    #[serde(default)]
    pub wear: Vec<Wear>,
    /// How long a worn-out covering stays on until somebody replaces it, on average, years.
    #[serde(default = "usual_wait")]
    pub wait_years: f64,
    /// Weibull shape of service lives.
    #[serde(default = "usual_shape")]
    pub shape: f64,
}

/// A wait of three years on average; rule of practice.
pub(super) fn usual_wait() -> f64 {
    3.0
}
/// Lives of coverings scatter by about a quarter; rule of practice.
pub(super) fn usual_shape() -> f64 {
    5.0
}
/// A paper means what it says nineteen times in twenty: the work was done, and on this roof. Rule of practice.
pub(super) fn usually_right() -> f64 {
    0.95
}

/// Which part of the roof a paper speaks of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RoofPart {
    /// All of it.
    #[default]
    Whole,
    /// The slope that is asked about.
    ThisSlope,
    /// Another part: it says nothing here.
    Other,
}

/// A piece of evidence on the age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum AgeEvidence {
    /// A permit so many years before the visit: the work follows within half a year.
    Permit {
        /// Years since its date.
        elapsed_years: f64,
        /// The chance that it means what it says: the work was done, and on this roof.
        #[serde(default = "usually_right")]
        right: f64,
        /// The part of the roof it speaks of.
        #[serde(default)]
        part: RoofPart,
    },
    /// An invoice so many years before the visit: the work stood by then.
    Invoice {
        /// Years since its date.
        elapsed_years: f64,
        /// The chance that it means what it says.
        #[serde(default = "usually_right")]
        right: f64,
        /// The part of the roof it speaks of.
        #[serde(default)]
        part: RoofPart,
    },
    /// Somebody's word.
    Stated {
        /// The age they gave.
        #[serde(alias = "age_years")]
        years: f64,
        /// By somebody who was there.
        #[serde(default)]
        first_hand: bool,
        /// Who said it: the same person counts once.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        who: Option<String>,
    },
    /// A range somebody gave.
    Range {
        /// From.
        low_years: f64,
        /// To.
        high_years: f64,
        /// Who said it: the same person counts once.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        who: Option<String>,
    },
    /// Dated pictures: the covering was not there so long ago, and was there so long ago.
    Pictures {
        /// Years before the visit at which it was not there yet.
        #[serde(default)]
        absent_years: Option<f64>,
        /// Years before the visit at which it was there.
        #[serde(default)]
        present_years: Option<f64>,
    },
}

/// One sign of wear on a slope.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Wear {
    /// "ridge-cap", "granule-loss", "mat-showing", "edge-wear", "brittleness", "seal-release", "cracked-units", "moss".
    pub indicator: String,
    /// None 0, slight 1, plain 2, heavy 3, spent 4.
    pub grade: u8,
}

/// 10 %, median, 90 %, years.
pub type Spread = [f64; 3];

/// What one piece of evidence did.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Moved {
    /// The piece, in words.
    pub what: String,
    /// Remaining life without it, median, years.
    pub remaining_without: f64,
    /// What it moved the median by, years.
    pub moved_by: f64,
}

/// The three schools side by side.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Schools {
    /// Documents, typical life and wear together.
    pub combined: [f64; 3],
    /// Typical life less age: no wear.
    pub typical: [f64; 3],
    /// Condition only: no documents.
    pub condition: [f64; 3],
}

/// Chances by half years: each covers `[n/2, (n+1)/2)` years from where the list begins, which is now for the age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Curves {
    /// Of the age.
    pub age: Vec<f64>,
    /// Where the chances of what is left begin, years: below nought what is overdue.
    pub remaining_from: f64,
    /// Of what is left.
    pub remaining: Vec<f64>,
}

/// Chances as they are said: "over 99 %", never certain.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Chances {
    /// Of lasting longer than 1, 3, 5 and 10 years.
    pub last: Vec<String>,
    /// That it is overdue.
    pub overdue: String,
    /// That it is the building's first covering; none while the building's age is not known.
    pub original: Option<String>,
}

/// Age, life and what is left.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Life {
    /// Age.
    pub age: [f64; 3],
    /// Service life.
    pub life: [f64; 3],
    /// What is left; below nought it is overdue.
    pub remaining: [f64; 3],
    /// Mean age.
    pub age_mean: f64,
    /// Mean service life.
    pub life_mean: f64,
    /// Mean of what is left.
    pub remaining_mean: f64,
    /// Chance that it is overdue.
    pub p_overdue: f64,
    /// Chance that it is the building's first covering; none while the building's age is not known.
    pub p_original: Option<f64>,
    /// Chance that it lasts longer than so many years.
    pub p_last: BTreeMap<String, f64>,
    /// What each piece of evidence did, in the order given.
    pub evidence: Vec<Moved>,
    /// The three schools.
    pub schools: Schools,
    /// The chances as they are said.
    pub chances: Chances,
    /// Chances for drawing.
    pub curves: Curves,
    /// What cannot both be right, in words.
    pub conflicts: Vec<String>,
    /// The result as a sentence.
    pub sentence: String,
}

/// The answer, or that there is none because the pieces cannot be true together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Weighed {
    /// The pieces cannot be true together.
    pub contradiction: bool,
    /// What follows from them otherwise.
    #[serde(flatten)]
    pub life: Option<Life>,
}

/// Why there is no answer.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LifeError {
    /// A figure that cannot be.
    #[error("{what} cannot be {value}. Type years between {least} and {most}.")]
    Years {
        /// Which figure.
        what: &'static str,
        /// As given.
        value: f64,
        /// Least allowed.
        least: f64,
        /// Most allowed.
        most: f64,
    },
    /// A grade that is none.
    #[error("\"{0}\" is graded {1}; grades go from 0 to 4.")]
    Grade(String, u8),
    /// A sign nobody knows the meaning of.
    #[error(
        "\"{0}\" is no sign of wear that is known. Use ridge-cap, granule-loss, mat-showing, edge-wear, brittleness, seal-release, cracked-units or moss."
    )]
    Sign(String),
    /// A chance that is none.
    #[error("A paper is right with a chance from 0 to 1, not {0}.")]
    Chance(f64),
    /// A paper from before the building stood.
    #[error("The paper is {permit} years old and the building {building}. One of the two is wrong.")]
    BeforeTheBuilding {
        /// Years since the paper.
        permit: f64,
        /// Age of the building.
        building: f64,
    },
    /// Pictures in an order that cannot be.
    #[error(
        "The pictures say it was there {present} years ago and not there {absent} years ago: it cannot have gone away. Check their dates."
    )]
    Pictures {
        /// Years ago it was there.
        present: f64,
        /// Years ago it was not.
        absent: f64,
    },
    /// More than anybody collects.
    #[error("More than {MOST_PIECES} pieces of evidence of one kind cannot be weighed. Keep the best.")]
    TooMany,
    /// Everything together is impossible.
    #[error("These cannot be true together: {0}. Take out the one you trust least.")]
    Impossible(String),
}

impl AgeEvidence {
    /// A paper that speaks of this roof: years since its date, and the chance that it is right.
    pub(super) fn document(&self) -> Option<(f64, f64)> {
        match self {
            AgeEvidence::Permit { elapsed_years, right, part } | AgeEvidence::Invoice { elapsed_years, right, part } => {
                (*part != RoofPart::Other).then_some((*elapsed_years, *right))
            }
            _ => None,
        }
    }

    pub(super) fn words(&self) -> String {
        let whose = |who: &Option<String>, otherwise: &str| who.as_deref().filter(|w| !w.trim().is_empty()).unwrap_or(otherwise).to_owned();
        match self {
            AgeEvidence::Permit { elapsed_years, .. } => format!("permit {elapsed_years} years ago"),
            AgeEvidence::Invoice { elapsed_years, .. } => format!("invoice {elapsed_years} years ago"),
            AgeEvidence::Stated { years, first_hand, who } => {
                format!("{} says {years} years", whose(who, if *first_hand { "somebody who was there" } else { "somebody" }))
            }
            AgeEvidence::Range { low_years, high_years, who } => {
                format!("{} says {low_years} to {high_years} years", whose(who, "somebody"))
            }
            AgeEvidence::Pictures { absent_years, present_years } => {
                let mut parts = Vec::new();
                parts.extend(absent_years.map(|y| format!("not there {y} years ago")));
                parts.extend(present_years.map(|y| format!("there {y} years ago")));
                format!("pictures: {}", parts.join(", "))
            }
        }
    }
}

impl Wear {
    pub(super) fn words(&self) -> String {
        format!("{}, grade {}", self.indicator.replace('-', " "), self.grade)
    }
}
