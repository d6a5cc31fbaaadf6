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
}

/// A piece of evidence on the age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum AgeEvidence {
    /// A permit or invoice so many years before the visit.
    Permit {
        /// Years since its date.
        elapsed_years: f64,
    },
    /// Somebody's word.
    Stated {
        /// The age they gave.
        #[serde(alias = "age_years")]
        years: f64,
        /// By somebody who was there.
        #[serde(default)]
        first_hand: bool,
    },
    /// A range somebody gave.
    Range {
        /// From.
        low_years: f64,
        /// To.
        high_years: f64,
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

/// Chances by half years from now on: each covers `[n/2, (n+1)/2)` years.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Curves {
    /// Of the age.
    pub age: Vec<f64>,
    /// Of what is left.
    pub remaining: Vec<f64>,
}

/// Age, life and what is left.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Life {
    /// Age.
    pub age: [f64; 3],
    /// Service life.
    pub life: [f64; 3],
    /// What is left.
    pub remaining: [f64; 3],
    /// Mean age.
    pub age_mean: f64,
    /// Mean of what is left.
    pub remaining_mean: f64,
    /// Chance that it lasts longer than so many years.
    pub p_last: BTreeMap<String, f64>,
    /// What each piece of evidence did, in the order given.
    pub evidence: Vec<Moved>,
    /// The three schools.
    pub schools: Schools,
    /// Chances for drawing.
    pub curves: Curves,
    /// Papers and wear that cannot both be right, in words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub conflict: Option<String>,
    /// The result as a sentence.
    pub sentence: String,
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
    /// A permit from before the building stood.
    #[error("The permit is {permit} years old and the building {building}. One of the two is wrong.")]
    BeforeTheBuilding {
        /// Years since the permit.
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
    pub(super) fn words(&self) -> String {
        match self {
            AgeEvidence::Permit { elapsed_years } => format!("permit {elapsed_years} years ago"),
            AgeEvidence::Stated { years, first_hand } => {
                format!("{} says {years} years", if *first_hand { "somebody who was there" } else { "somebody" })
            }
            AgeEvidence::Range { low_years, high_years } => format!("said to be {low_years} to {high_years} years"),
            AgeEvidence::Pictures { absent_years, present_years } => {
                let mut parts = Vec::new();
                parts.extend(absent_years.map(|y| format!("not there {y} years ago")));
                parts.extend(present_years.map(|y| format!("there {y} years ago")));
                format!("pictures: {}", parts.join(", "))
            }
        }
    }
}
