//! From a wet spot back to where the water came in: evidence weighed openly.

pub mod account;
mod feed;
pub mod form;
pub mod gather;
mod next;
mod place;
pub mod record;
pub(crate) mod say;
mod tracing;
pub mod weigh;
mod weighing;
mod weights;

pub use tracing::{Asked, Followed, trace, trace_with};
pub use weights::{ByOrigin, Weights};
