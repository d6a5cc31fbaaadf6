//! What can go wrong when something is kept or read.

use crate::kinds::Kind;
use crate::row::Stored;

/// Why the ledger refused or failed. Nothing is half done after any of these.
#[derive(Debug, thiserror::Error)]
pub enum LedgerError {
    /// There is no such entity, or it was deleted.
    #[error("This {kind} is not here. It may have been deleted; undo brings it back.")]
    NotFound {
        /// What was looked for.
        kind: Kind,
        /// Its id.
        id: String,
    },
    /// The entity was changed since it was read.
    #[error("This {} was changed elsewhere since you opened it. Both versions are here; choose which to keep.", theirs.kind)]
    Stale {
        /// The version that is kept now.
        theirs: Box<Stored>,
    },
    /// The same request id came with different content.
    #[error("This request was already used for another change. Reload the page and try again.")]
    Reused,
    /// The entity does not hold what it may hold.
    #[error("{message}")]
    Refused {
        /// What it is.
        kind: Kind,
        /// The field.
        field: String,
        /// What is wrong and what to do.
        message: String,
    },
    /// Nothing is left to undo.
    #[error("There is nothing left to undo in this job.")]
    NothingToUndo,
    /// Nothing was taken back, or something was changed since.
    #[error("There is nothing to do again in this job.")]
    NothingToRedo,
    /// A job with this id is here already.
    #[error("This job is already here. Open it, or delete it before reading it in again.")]
    AlreadyHere,
    /// The job is being brought in by somebody else.
    #[error("This job is being read in right now. Wait a moment, then look whether it is there.")]
    Coming,
    /// A picture's file is gone.
    #[error("The file of a picture is missing from the picture folder. Attach the good file again, or go back to a backup.")]
    BlobMissing {
        /// Hash of the file.
        hash: String,
    },
    /// A picture's file is not what was stored.
    #[error("The file of a picture was damaged on disk. Attach the good file again, or go back to a backup.")]
    BlobDamaged {
        /// Hash it should have.
        hash: String,
    },
    /// The disk is full.
    #[error("The disk is full, so nothing was changed. Free some space and try again.")]
    DiskFull,
    /// The folder can only be read.
    #[error(
        "This data folder can only be read, so nothing was changed. Give the folder and its files write permission, or start with a copy of it."
    )]
    ReadOnly,
    /// Another server has the folder.
    #[error("Another Trowel is serving this data folder already. Use that one, stop it first, or choose another folder with --data.")]
    InUse,
    /// A file is not a backup, or not a sound one.
    #[error("This is not a sound backup: {0} Nothing was replaced.")]
    Backup(String),
    /// The database was made by a newer version of the program.
    #[error("This data folder was written by a newer version of Trowel. Install that version, or start with another folder.")]
    Newer,
    /// The database could not be brought up to date.
    #[error("The data folder could not be brought up to date: {0}")]
    Migration(String),
    /// Something in the database cannot be read.
    #[error("A record in the data folder cannot be read: {0}. Run trowel check.")]
    Unreadable(String),
    /// SQLite said no.
    #[error("The database refused: {0}")]
    Sql(rusqlite::Error),
    /// A file could not be read or written.
    #[error("A file could not be read or written: {0}")]
    Io(std::io::Error),
}

impl LedgerError {
    /// Whether it says that the folder cannot be written into.
    pub(crate) fn is_for_reading_only(&self) -> bool {
        use rusqlite::ErrorCode::{CannotOpen, ReadOnly};
        match self {
            LedgerError::ReadOnly => true,
            LedgerError::Sql(e) => matches!(e.sqlite_error_code(), Some(ReadOnly | CannotOpen)),
            LedgerError::Io(e) => {
                matches!(e.kind(), std::io::ErrorKind::PermissionDenied | std::io::ErrorKind::ReadOnlyFilesystem)
            }
            _ => false,
        }
    }
}

impl From<rusqlite::Error> for LedgerError {
    fn from(e: rusqlite::Error) -> Self {
        match e.sqlite_error_code() {
            Some(rusqlite::ErrorCode::DiskFull) => LedgerError::DiskFull,
            _ => LedgerError::Sql(e),
        }
    }
}

impl From<std::io::Error> for LedgerError {
    fn from(e: std::io::Error) -> Self {
        match e.kind() {
            std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => LedgerError::DiskFull,
            _ => LedgerError::Io(e),
        }
    }
}

impl From<serde_json::Error> for LedgerError {
    fn from(e: serde_json::Error) -> Self {
        LedgerError::Unreadable(e.to_string())
    }
}

impl From<rusqlite_migration::Error> for LedgerError {
    fn from(e: rusqlite_migration::Error) -> Self {
        match e {
            rusqlite_migration::Error::MigrationDefinition(rusqlite_migration::MigrationDefinitionError::DatabaseTooFarAhead) => {
                LedgerError::Newer
            }
            rusqlite_migration::Error::RusqliteError { err, .. } => LedgerError::from(err),
            other => LedgerError::Migration(other.to_string()),
        }
    }
}
