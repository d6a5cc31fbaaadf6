//! The roof and what carries it: its shape, what must exist on it, whether to go up, how old it is and how long it will last.

pub mod access;
pub mod account;
pub mod covering;
pub mod details;
pub mod elevation;
mod evidence;
mod facets;
mod figures;
pub mod key_plan;
pub mod life;
pub mod mass;
pub mod perimeter;
pub mod pitch;
mod placed;
pub mod record;
mod renewal;
pub mod shape;
pub(crate) mod typed;
pub mod walked;
mod wear;
