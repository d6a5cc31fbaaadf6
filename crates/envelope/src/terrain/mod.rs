//! Heights on a grid, and the hollows in them: what the ground and a flat roof have in common.

pub mod flood;
pub(crate) mod hollows;
mod joined;
pub mod surface;
