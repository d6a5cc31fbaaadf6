//! Moisture: readings against dry references, the map between them, drying, air and surfaces, and pictures of heat.

pub mod account;
pub mod air;
pub mod drying;
mod figures;
pub mod heat;
mod indoors;
pub mod map;
mod patches;
pub mod record;
pub mod said;
mod series;
pub mod surface;
