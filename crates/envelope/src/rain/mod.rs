//! Rain: the design intensity of a place, for any duration between five minutes and an hour, and where roof water goes.

pub mod design;
pub mod runoff;
