//! What was acknowledged is kept: jobs, notes, marks and pictures in SQLite, with a journal from which everything can be
//! read back and undone.
//!
//! - Every change is one transaction with one [`journal`] row for each entity it touches: who, when, before and after.
//! - Every entity has a revision; a change made on an old one is refused with both versions ([`LedgerError::Stale`]).
//! - Every change carries an id made by whoever asks for it; the same request twice is applied once.
//! - Pictures lie outside the database under the hash of their bytes, and the hash is checked on every read.
//!
//! Left out: accounts, synchronising between machines.

mod backup;
mod blobs;
mod bring_in;
mod change;
mod check;
mod clock;
mod error;
mod history;
mod journal;
mod kinds;
mod leaving;
mod list;
mod pool;
mod record;
mod row;
mod schema;
mod store;

pub use backup::{Backup, Restored, restore};
pub use blobs::Blob;
pub use change::{Change, Composed, Now};
pub use check::{CheckReport, Mended};
pub use clock::{Clock, FixedClock, SystemClock};
pub use error::LedgerError;
pub use history::{HistoryRow, Undone};
pub use journal::Request;
pub use kinds::{BlobRef, Entity, Kind, LARGEST_EDGE, Picture, Refused, Version, WholeJob, mark_id};
pub use leaving::{Export, Exported};
pub use list::{Hit, Listed};
pub use record::Record;
pub use row::Stored;
pub use store::{InUse, JobRow, Ledger, take};
