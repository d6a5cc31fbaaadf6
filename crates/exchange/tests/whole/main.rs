//! What comes from outside and goes there. One program, so that it is built and linked once.

mod from_outside;
mod readings;
mod roofs;
