//! From a wet spot back to where the water came in: evidence weighed openly.

pub mod weigh;
