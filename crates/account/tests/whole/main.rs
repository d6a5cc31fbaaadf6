//! A job as one account, for houses nobody made. One program, so that it is linked once.

mod cracks;
mod ground;
mod house;
mod inside;
mod north;
mod progress;
mod trace;
