//! Rain: the design intensity of a place, for any duration between five minutes and an hour, and where roof water goes.

pub mod account;
pub mod design;
pub mod record;
pub mod runoff;
