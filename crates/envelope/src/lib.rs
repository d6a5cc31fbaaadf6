//! The rules of inspecting the outside of a building, and their computation.
//!
//! This crate is pure: no files, no clock, no network, no randomness, no SQL, no screens.
//! Everything it needs comes as an argument, and everything it returns carries its unit and its reasons.
//!
//! | question | where |
//! |---|---|
//! | what length, slope or area did the person type? | [`measure`] |
//! | where on the building is that, and what has been seen? | [`site`] |
//! | which condition is it, and when must it be dealt with? | [`finding`] |
//! | what did a note line say? | [`round`] |
//! | any of these, as JSON? | [`calc`] |
//! | what was asked of this visit, by whom? | [`job`] |
//!
//! | what roof is it, how old, what must exist on it? | [`roof`] |
//! | where does its water go, and what carries it? | [`rain`], [`gutter`] |
//! | heights on a grid, and the hollows in them | [`terrain`] |
//! | how does the ground fall, and where does water stand? | [`ground`] |
//! | does each piece of a wall lie over the one below? | [`wall`] |
//! | what did this storm do, and what not? | [`storm`] |
//! | what speaks for which explanation, and what to look at next? | [`trace`] |
//! | what became of it, what keeps coming back, what to look after and to put by? | [`years`] |

pub mod calc;
mod cores;
pub mod finding;
pub mod ground;
pub mod gutter;
pub mod job;
pub mod measure;
pub mod moisture;
mod plane;
pub mod practice;
pub mod rain;
pub mod roof;
pub mod round;
pub mod site;
pub mod storm;
pub mod terrain;
mod text;
pub mod trace;
pub mod wall;
pub mod years;
