//! Walls: whether each piece lies over the one below, what must be seen before it is closed up, and cladding that stands.
//!
//! [`laps`] follows every drop down a detail; [`templates`] builds the usual details; [`record`] is what is kept and [`account`]
//! what follows from it; [`matrix`] is what is looked at before cladding, [`said`] what a line tells of it; [`cracks`] and [`floor`] are what a standing wall tells.

pub mod account;
pub mod cracks;
mod detail;
mod figures;
pub mod floor;
pub mod laps;
pub mod matrix;
pub mod record;
pub mod said;
pub mod templates;
