//! The roof and what carries it. So far: the perimeter as it is taped, and the age and life of a covering.
//!
//! Left for later: masses, facets and edges, details that must exist, access.

pub mod life;
pub mod perimeter;
