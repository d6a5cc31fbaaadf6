//! From a wet spot back to where the water came in: evidence weighed openly.

mod feed;
pub mod form;
mod next;
mod place;
mod say;
mod tracing;
pub mod weigh;
mod weighing;
mod weights;

pub use tracing::{trace, trace_with};
pub use weights::{ByOrigin, Weights};
