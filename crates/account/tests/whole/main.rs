//! A job as one account, for houses nobody made. One program, so that it is linked once.

mod ground;
mod house;
mod inside;
mod progress;
mod trace;
