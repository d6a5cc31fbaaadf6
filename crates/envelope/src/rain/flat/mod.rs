//! Flat roofs: parapets, falls, drains and scuppers; what stands on them in the rain and after it.

pub(crate) mod account;
mod deck;
pub mod figures;
pub(crate) mod pools;
pub mod record;

pub(crate) use deck::facets_of;

#[cfg(test)]
mod tests;
