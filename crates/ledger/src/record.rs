//! An entity with its id and revision, and the row it is read from.

use crate::LedgerError;
use rusqlite::Row;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// An entity with its id and revision.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Record<T> {
    /// Its id.
    pub id: String,
    /// The revision a change must name.
    pub rev: i64,
    /// The entity.
    pub body: T,
}

/// A row before it is read as what it is.
pub(crate) struct Raw {
    pub(crate) id: String,
    pub(crate) rev: i64,
    pub(crate) body: String,
}

pub(crate) fn raw(r: &Row<'_>) -> rusqlite::Result<Raw> {
    Ok(Raw { id: r.get(0)?, rev: r.get(1)?, body: r.get(2)? })
}

impl Raw {
    pub(crate) fn typed<T: DeserializeOwned>(self) -> Result<Record<T>, LedgerError> {
        let body = serde_json::from_str(&self.body).map_err(|e| LedgerError::Unreadable(format!("{}: {e}", self.id)))?;
        Ok(Record { id: self.id, rev: self.rev, body })
    }
}
