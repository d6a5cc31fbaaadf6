//! Walls: whether each piece lies over the one below, what must be seen before it is closed up, and cladding that stands.

pub mod laps;
