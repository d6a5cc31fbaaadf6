//! Drawings measured against the figures they are drawn from, for buildings nobody made. One program, so that it is linked once.

mod plan;
mod said;
mod sheet;
mod water;
