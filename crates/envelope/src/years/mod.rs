//! What comes after the visit: what was said of it, the return, the building over the years, what to look after and what to put by.

pub mod again;
pub mod building;
pub mod leaving;
pub mod reserve;
pub mod upkeep;
