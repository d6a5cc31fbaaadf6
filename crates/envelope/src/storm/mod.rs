//! Storm damage: counted so that a second person finds the same.
//!
//! `chance` has the exact ranges and tests. [`hail`] and [`wind`] are what follows from counts, [`hits`] tells a hit from what looks like
//! one, [`events`] asks which storm it was, `place` draws where a square lies, `square` is one as it is kept. [`said`] takes a count from what was told or marked. [`record`] is what is kept, [`account`] what follows.
//! None of it is an opinion on who pays.

pub mod account;
mod chance;
pub mod events;
pub mod figures;
mod follow;
pub mod hail;
pub mod hits;
mod place;
pub mod record;
pub mod said;
mod square;
pub mod wind;
