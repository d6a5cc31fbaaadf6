//! The ground: readings, falls along the walls, where water stands, and one storm over the whole place.

pub mod after;
mod falls;
mod figures;
pub mod level;
pub mod origin;
mod placing;
pub mod rain_test;
pub mod read;
pub mod record;
mod roofed;
mod standing;
mod storm;
pub mod storm_calc;
pub mod surface_calc;
mod surroundings;
pub mod survey;
pub mod transect;
mod waters;
