//! The report from outside. One program, so that it is built and linked once.

mod cuts;
mod fixture;
mod report;
