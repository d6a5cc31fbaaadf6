//! The ledger from outside. One program, so that it is built and linked once.

mod bring_in;
mod ledger;
mod safekeeping;
