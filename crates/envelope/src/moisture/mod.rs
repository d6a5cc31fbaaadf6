//! Moisture: readings against dry references, the map between them, drying, air and surfaces, and pictures of heat.

pub mod account;
pub mod air;
pub mod drying;
pub mod heat;
pub mod map;
pub mod record;
pub mod surface;
