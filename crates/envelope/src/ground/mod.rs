//! The ground: readings, falls along the walls, where water stands, and one storm over the whole place.

pub mod after;
pub mod level;
pub mod rain_test;
pub mod read;
pub mod record;
pub mod surface;
pub mod surface_calc;
pub mod survey;
pub mod transect;
