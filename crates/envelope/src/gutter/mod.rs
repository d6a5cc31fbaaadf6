//! Gutters: channels with water coming in all along, their outlets and downspouts.

pub mod begins;
pub mod channel;
pub mod downspout;
mod dual;
pub(crate) mod flow;
pub mod run;
pub mod section;
mod surface;
pub mod tables;

/// Acceleration of gravity, m/s².
pub const G: f64 = 9.806_65;
