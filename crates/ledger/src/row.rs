//! Rows of entities as they are kept, and reading them.

use crate::LedgerError;
use crate::kinds::{Entity, Kind};
use crate::record::{Raw, Record, raw};
use rusqlite::{Connection, OptionalExtension};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// An entity as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Stored {
    /// Which kind.
    pub kind: Kind,
    /// Its id.
    pub id: String,
    /// The job it belongs to.
    pub job_id: String,
    /// Goes up by one with each change.
    pub rev: i64,
    /// Deleted; undo brings it back.
    pub deleted: bool,
    /// The entity.
    #[schema(value_type = Object)]
    pub body: Value,
}

impl Stored {
    /// As the type it is of.
    ///
    /// # Errors
    /// When it is of another form.
    pub fn typed<T: Entity>(self) -> Result<Record<T>, LedgerError> {
        let body = serde_json::from_value(self.body).map_err(|e| LedgerError::Unreadable(format!("{}: {e}", self.id)))?;
        Ok(Record { id: self.id, rev: self.rev, body })
    }
}

/// The live rows of a kind in a job, in the order they were made.
pub(crate) fn of_job(c: &Connection, kind: Kind, job_id: &str) -> Result<Vec<Raw>, LedgerError> {
    let sql = format!("SELECT id, rev, body FROM {} WHERE job_id = ?1 AND deleted = 0 ORDER BY rowid", kind.table());
    Ok(c.prepare_cached(&sql)?.query_map([job_id], raw)?.collect::<Result<_, _>>()?)
}

/// One live entity of a job.
pub(crate) fn find<T: Entity>(c: &Connection, job_id: &str, id: &str) -> Result<Option<Record<T>>, LedgerError> {
    let sql = format!("SELECT id, rev, body FROM {} WHERE id = ?1 AND job_id = ?2 AND deleted = 0", T::KIND.table());
    c.prepare_cached(&sql)?.query_row([id, job_id], raw).optional()?.map(Raw::typed).transpose()
}

/// An entity as it stands, deleted or not, whatever it belongs to.
pub(crate) fn current(c: &Connection, kind: Kind, id: &str) -> Result<Option<Stored>, LedgerError> {
    let sql = format!("SELECT id, job_id, rev, deleted, body FROM {} WHERE id = ?1", kind.table());
    let row =
        c.prepare_cached(&sql)?.query_row([id], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?, r.get::<_, String>(4)?))).optional()?;
    row.map(|(id, job_id, rev, deleted, body)| Ok(Stored { kind, id, job_id, rev, deleted, body: serde_json::from_str(&body)? }))
        .transpose()
}
