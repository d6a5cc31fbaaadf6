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
