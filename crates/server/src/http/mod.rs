//! Everything that is the same for every route: requests and their keys, bodies, files, streams, errors, work and its limits.

pub(crate) mod access;
pub(crate) mod assets;
pub(crate) mod body;
pub(crate) mod error;
pub(crate) mod events;
pub(crate) mod file;
pub(crate) mod guard;
pub(crate) mod policy;
pub(crate) mod request;
pub(crate) mod slow;
pub(crate) mod work;

pub(crate) use error::{ApiError, Code};
pub(crate) use request::{Ask, Base, Put, id};
pub(crate) use work::block;
