//! Moisture: readings against dry references, the map between them, drying, air and surfaces, and pictures of heat.

pub mod air;
pub mod drying;
pub mod heat;
pub mod map;
