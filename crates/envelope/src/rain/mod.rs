//! Rain: the design intensity of a place, for any duration between five minutes and an hour, and where roof water goes.

pub mod account;
pub mod checks;
pub mod compare;
pub mod design;
pub(crate) mod eaves;
mod figures;
pub mod flat;
mod flows;
pub mod overshoot;
pub mod record;
pub mod remedy;
pub mod runoff;

/// A sum that is nought for nothing. The standard one is −0 then, and nobody wants to read that.
pub(crate) fn sum(figures: impl Iterator<Item = f64>) -> f64 {
    figures.fold(0.0, |a, b| a + b)
}
