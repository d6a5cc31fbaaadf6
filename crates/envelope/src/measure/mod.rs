//! Lengths, areas, slopes, shares, times and counts as people write and say them.
//!
//! A measure keeps three things: the text as typed, the exact number in the unit that was used (a fraction, never a
//! rounded decimal), and the value in SI. Later arithmetic uses SI; the page shows the person their own words first.
//!
//! Use [`parse`] when the whole text should be one measure, [`scan`] to find measures inside a sentence.

mod number;
mod scan;
mod show;
mod unit;

pub use number::Exact;
pub(crate) use number::whole_number;
pub(crate) use scan::scan_tokens;
pub use scan::{Found, scan};
pub use show::Units;
pub use unit::{Quantity, Unit};

use serde::{Deserialize, Serialize};

/// How sharply the figure was given.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Bound {
    /// Read off a scale.
    #[default]
    Exactly,
    /// "about", "~", "roughly".
    About,
    /// "at least", "over", ">".
    AtLeast,
    /// "up to", "less than", "<".
    AtMost,
}

/// The far end of a range such as "10 to 13 years".
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Upper {
    /// In the measure's unit.
    pub value: f64,
    /// The same, exact.
    pub exact: Exact,
    /// In the SI unit of the quantity.
    pub si: f64,
}

/// One reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measure {
    /// What kind of thing was measured.
    pub quantity: Quantity,
    /// The number in `unit`, for machines that cannot read fractions.
    pub value: f64,
    /// The number in `unit`, exact, written `13/2`.
    pub exact: Exact,
    /// The unit the person used.
    pub unit: Unit,
    /// The value in the SI unit of the quantity ([`Quantity::si_unit`]); slopes and shares are plain ratios.
    pub si: f64,
    /// The far end, when a range was given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub upper: Option<Upper>,
    /// How sharply the figure was given.
    #[serde(default)]
    pub bound: Bound,
    /// No unit was typed and the usual one was taken: a bare `1/16` is read as inches.
    #[serde(default)]
    pub unit_assumed: bool,
    /// The figure is what ought to be ("should be 6 in"), not what is: a rule is never a reading.
    #[serde(default)]
    pub rule: bool,
    /// The characters that were read.
    pub text: String,
}

impl Measure {
    /// The value with a sensible unit and number of digits: `0.61 m`, `1 1/2 in`, `2 %`.
    pub fn shown(&self, units: Units) -> String {
        let low = units.reading(self.quantity, self.si);
        match &self.upper {
            Some(u) => format!("{low} to {}", units.reading(self.quantity, u.si)),
            None => low,
        }
    }

    /// The person's own words, with the value in the reader's units behind when it says something new.
    pub fn both(&self, units: Units) -> String {
        let same = |a: &str, b: &str| a.replace(' ', "").to_lowercase() == b.replace(' ', "").to_lowercase();
        let known = |u: Units| (u == Units::Metric) == self.unit.is_metric();
        let (metric, us) = (self.shown(Units::Metric), self.shown(Units::Us));
        // Own words in one of the reader's systems need only the other, if the reader wants it.
        let behind = match units {
            Units::Metric | Units::Us if known(units) => return self.text.clone(),
            Units::Metric => metric,
            Units::Us => us,
            Units::MetricUs | Units::UsMetric => {
                if self.unit.is_metric() {
                    us
                } else {
                    metric
                }
            }
        };
        let said = same(&behind, &self.text) || (self.unit.is_metric() && behind == self.shown(Units::Metric));
        if said { self.text.clone() } else { format!("{} ({behind})", self.text) }
    }
}

/// Why a text is not one measure.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum MeasureError {
    /// Nothing was typed.
    #[error("Type a measure, for example 6 1/2 in, 3'4\", 50 mm, 2 % or 6:12.")]
    Empty,
    /// No number with a unit was found.
    #[error("\"{0}\" has no measure in it. Write a number and its unit, for example 6 1/2 in, 50 mm, 2 % or 6:12.")]
    NoMeasure(String),
    /// More than any measure.
    #[error("This is {0} characters long; a measure is at most {LONGEST}. Write one number with its unit.")]
    TooLong(usize),
    /// Something is left beside the measure.
    #[error("\"{left}\" beside the measure was not understood. Write one number with its unit.")]
    LeftOver {
        /// What was not part of the measure.
        left: String,
    },
}

/// Characters of a field that holds one measure: more than any measure, in any spelling.
const LONGEST: usize = 200;

/// Reads a text that should be exactly one measure.
///
/// # Errors
/// [`MeasureError`] says what is missing or what is left over.
pub fn parse(text: &str) -> Result<Measure, MeasureError> {
    // Counted in bytes first, which costs nothing.
    if text.len() > LONGEST && text.chars().count() > LONGEST {
        return Err(MeasureError::TooLong(text.chars().count()));
    }
    let shown = |s: &str| s.trim().chars().take(60).collect::<String>();
    if text.trim().is_empty() {
        return Err(MeasureError::Empty);
    }
    let found = scan(text);
    let Some(first) = found.first() else { return Err(MeasureError::NoMeasure(shown(text))) };
    let (before, after) = (&text[..first.span.start], &text[first.span.end..]);
    let left = format!("{} {}", before.trim(), after.trim());
    if left.trim().is_empty() { Ok(first.measure.clone()) } else { Err(MeasureError::LeftOver { left: shown(&left) }) }
}

/// A whole number at a token, in digits or in words, and the token after it.
pub(crate) fn count_at(t: &[crate::text::Token], i: usize) -> Option<(u32, usize)> {
    let whole = t.get(i)?.number().filter(|n| n.is_integer()).map(|n| (n.to_integer(), i + 1));
    let (n, next) = whole.or_else(|| number::cardinal(t, i))?;
    Some((u32::try_from(n).ok()?, next))
}

#[cfg(test)]
mod tests;
