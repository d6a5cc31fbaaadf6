//! What left the house, and whose jobs belong to which building.

use crate::LedgerError;
use crate::change::Now;
use crate::record::{Raw, Record, raw};
use crate::store::Ledger;
use envelope::years::building::Building;
use envelope::years::leaving::ClientLink;
use rusqlite::{Transaction, params};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Something that left the house: downloaded, or sent.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Export {
    /// "report.pdf", "client's page", "bundle".
    pub what: String,
    /// Its bytes.
    pub bytes: u64,
    /// SHA-256 of them, so that it can be told later which it was.
    pub sha256: String,
    /// Whom it was sent to; none when it was downloaded.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<String>,
    /// The subject it was sent under.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
}

/// An export as it was written down.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Exported {
    /// When, RFC 3339.
    pub at: String,
    /// By whom.
    pub who: String,
    /// What.
    #[serde(flatten)]
    pub export: Export,
}

fn write(tx: &Transaction<'_>, job_id: &str, at: &str, who: &str, export: &Export) -> Result<(), LedgerError> {
    tx.prepare_cached("INSERT INTO export (job_id, at, who, body) VALUES (?1, ?2, ?3, ?4)")?.execute(params![
        job_id,
        at,
        who,
        serde_json::to_string(export)?
    ])?;
    Ok(())
}

/// The jobs that belong to a building.
pub(crate) fn jobs_of_building(c: &rusqlite::Connection, building: &str) -> Result<Vec<String>, LedgerError> {
    let mut q = c.prepare_cached("SELECT id FROM job WHERE building = ?1 AND deleted = 0")?;
    let rows = q.query_map([building], |r| r.get(0))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

impl Now<'_> {
    /// Writes down what is sent by the request that is being answered: a retry of it writes nothing again.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn exported(&self, who: &str, export: &Export) -> Result<(), LedgerError> {
        write(self.tx, self.job_id, self.at, who, export)
    }
}

impl Ledger {
    /// Writes down what left the house.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn exported(&self, who: &str, job_id: &str, export: &Export) -> Result<(), LedgerError> {
        let at = self.now();
        self.write(|tx| write(tx, job_id, &at, who, export))
    }

    /// What left the house, the newest first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn exports(&self, job_id: &str, most: usize) -> Result<Vec<Exported>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached("SELECT at, who, body FROM export WHERE job_id = ?1 ORDER BY seq DESC LIMIT ?2")?;
        let rows = q.query_map(params![job_id, most as i64], |r| Ok((r.get(0)?, r.get(1)?, r.get::<_, String>(2)?)))?;
        rows.map(|r| {
            let (at, who, body) = r?;
            Ok(Exported { at, who, export: serde_json::from_str(&body)? })
        })
        .collect()
    }

    /// Every building, by name.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn buildings(&self) -> Result<Vec<Record<Building>>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached("SELECT id, rev, body FROM building WHERE deleted = 0 ORDER BY body ->> '$.name'")?;
        let rows = q.query_map([], raw)?;
        rows.map(|r| r?.typed()).collect()
    }

    /// Jobs that belong to a building.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn jobs_of_building(&self, building: &str) -> Result<Vec<String>, LedgerError> {
        jobs_of_building(&self.read(), building)
    }

    /// Addresses of every job, and the building it belongs to: for finding those of the same house.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn addresses(&self) -> Result<Vec<(String, String, Option<String>)>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached("SELECT id, coalesce(body ->> '$.brief.address', ''), building FROM job WHERE deleted = 0")?;
        let rows = q.query_map([], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The link a key was made for, with its job: by what the key is known by.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn link_by_hash(&self, key_hash: &str) -> Result<Option<(String, Record<ClientLink>)>, LedgerError> {
        let c = self.read();
        let sql = "SELECT l.id, l.rev, l.body, l.job_id FROM link l JOIN job j ON j.id = l.job_id AND j.deleted = 0
                   WHERE l.deleted = 0 AND l.body ->> '$.key_hash' = ?1";
        let mut q = c.prepare_cached(sql)?;
        let mut rows = q.query([key_hash])?;
        let Some(r) = rows.next()? else { return Ok(None) };
        let (row, job): (Raw, String) = (raw(r)?, r.get(3)?);
        Ok(Some((job, row.typed()?)))
    }
}
