//! A job as one account, for houses nobody made. One program, so that it is linked once.

mod house;
mod trace;
