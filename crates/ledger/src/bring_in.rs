//! Bringing in a whole job: in parts, so that whoever writes into another job meanwhile waits for one part and not for all of it.
//!
//! While the parts are written the job's row is a placeholder: revision 0 and deleted. A deleted job is shown, searched and changed by
//! nobody, so nothing of it is seen before the last part, which sets the job itself and answers the request. A job that was given up
//! half way, or cut off by a crash, is taken out again whole.

use crate::change::{Composed, Now, fingerprint, one};
use crate::journal::{self, Entry, Request};
use crate::kinds::{BlobRef, Kind};
use crate::row::Stored;
use crate::{InUse, Ledger, LedgerError};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use serde::de::DeserializeOwned;
use std::sync::PoisonError;

/// Entities are written so many at a time.
const PART: usize = 200;
/// Between two parts whoever waits for the writer gets it: a lock that is taken again at once would not let them in.
const LET_IN: std::time::Duration = std::time::Duration::from_millis(1);

/// What no other writes while it is there: the job is being brought in.
struct Coming<'a> {
    ledger: &'a Ledger,
    job_id: String,
}

impl Drop for Coming<'_> {
    fn drop(&mut self) {
        self.ledger.coming.lock().unwrap_or_else(PoisonError::into_inner).remove(&self.job_id);
    }
}

impl Ledger {
    /// Brings a job in, as [`Ledger::change`] would, but in parts where the job was never here. One that was here and deleted is written
    /// over at once: what was deleted can still be brought back, and stays whole until it cannot. The first change is the job itself.
    ///
    /// # Errors
    /// As for [`Ledger::change`]; [`LedgerError::Coming`] while the same job is being brought in. Nothing of the job is left then.
    pub fn bring_in<A, E>(
        &self,
        request: &Request,
        job_id: &str,
        asked: &impl Serialize,
        compose: impl FnOnce(&Now<'_>) -> Result<Composed<A>, E>,
    ) -> Result<(Vec<Stored>, A), E>
    where
        A: Serialize + DeserializeOwned,
        E: From<LedgerError>,
    {
        self.writable()?;
        let _alone = self.coming(job_id)?;
        let was_here = |c: &Connection| c.prepare_cached("SELECT 1 FROM job WHERE id = ?1").and_then(|mut q| q.exists([job_id]));
        if was_here(&self.read()).map_err(LedgerError::from)? {
            return self.change(request, job_id, asked, compose);
        }
        let (fingerprint, at) = (fingerprint(job_id, asked)?, self.now());
        let composed = {
            let c = self.read();
            if let Some(done) = journal::answered(&c, request, &fingerprint)? {
                return Ok(done);
            }
            // Nobody changes a job that is not there: what is composed beside the writer stays true.
            let tx = c.unchecked_transaction().map_err(LedgerError::from)?;
            compose(&Now { tx: &tx, job_id, at: &at })?
        };
        self.in_parts(request, job_id, &fingerprint, &at, &composed).map_err(E::from).map(|stored| (stored, composed.told))
    }

    /// Takes out what a crash left half brought in. Only whoever has the folder to itself may: for others a half may still be growing.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn tidy(&self, _held: &InUse) -> Result<(), LedgerError> {
        self.write(|tx| take_out_halves(tx, None))
    }

    fn coming(&self, job_id: &str) -> Result<Coming<'_>, LedgerError> {
        if self.coming.lock().unwrap_or_else(PoisonError::into_inner).insert(job_id.to_owned()) {
            Ok(Coming { ledger: self, job_id: job_id.to_owned() })
        } else {
            Err(LedgerError::Coming)
        }
    }

    fn in_parts<A: Serialize>(
        &self,
        request: &Request,
        job_id: &str,
        fingerprint: &str,
        at: &str,
        composed: &Composed<A>,
    ) -> Result<Vec<Stored>, LedgerError> {
        let (root, rest) = match composed.changes.split_first() {
            Some((root, rest)) if root.kind == Kind::Job && root.id == job_id => (root, rest),
            _ => return Err(LedgerError::NotFound { kind: Kind::Job, id: job_id.to_owned() }),
        };
        let entry = |step: usize| Entry { request, step, fingerprint, at, undoes: None, coming: true };
        self.write(|tx| {
            // Somebody may have begun a job of this name in the meantime.
            tx.prepare_cached("INSERT INTO job (id, rev, deleted, body) VALUES (?1, 0, 1, ?2) ON CONFLICT (id) DO NOTHING")?
                .execute(params![job_id, root.body.as_ref().map(ToString::to_string)])
                .map_err(LedgerError::from)
                .and_then(|placed| if placed == 1 { Ok(()) } else { Err(LedgerError::AlreadyHere) })
        })?;
        let write = || -> Result<Vec<Stored>, LedgerError> {
            let mut out = Vec::with_capacity(composed.changes.len());
            for (k, part) in rest.chunks(PART).enumerate() {
                self.write(|tx| -> Result<(), LedgerError> {
                    for (i, change) in part.iter().enumerate() {
                        // A file is named where a picture of it is written: never by itself.
                        if change.kind == Kind::Picture {
                            let body = change.body.as_ref().map(ToString::to_string).unwrap_or_default();
                            let of: Vec<BlobRef> = composed.files.iter().filter(|f| body.contains(&f.hash)).cloned().collect();
                            self.name_files(tx, &of)?;
                        }
                        out.push(one(tx, job_id, change, &entry(1 + k * PART + i))?);
                    }
                    Ok(())
                })?;
                std::thread::sleep(LET_IN);
            }
            self.write(|tx| -> Result<(), LedgerError> {
                self.name_files(tx, &composed.files)?;
                out.insert(0, one(tx, job_id, root, &entry(0))?);
                journal::answer(tx, request, fingerprint, &composed.told)
            })?;
            Ok(out)
        };
        write().inspect_err(|_| {
            // What cannot be taken out now is taken out when the folder is served again.
            let _ = self.write(|tx| take_out_halves(tx, Some(job_id)));
        })
    }
}

/// Takes out jobs that were not brought in to their end: the one that is named, or every one.
pub(crate) fn take_out_halves(c: &Connection, job_id: Option<&str>) -> Result<(), LedgerError> {
    let halves: Vec<String> = c
        .prepare("SELECT id FROM job WHERE rev = 0 AND deleted = 1 AND (?1 IS NULL OR id = ?1)")?
        .query_map([job_id], |r| r.get(0))?
        .collect::<Result<_, _>>()?;
    for id in halves {
        for table in Kind::ALL.iter().filter(|k| !k.is_root()).map(|k| k.table()) {
            // Their words leave the search with the first step.
            c.execute(&format!("UPDATE {table} SET deleted = 1 WHERE job_id = ?1"), [&id])?;
            c.execute(&format!("DELETE FROM {table} WHERE job_id = ?1"), [&id])?;
        }
        c.execute(
            "DELETE FROM blob WHERE hash NOT IN (SELECT original FROM picture UNION SELECT display FROM picture
             UNION SELECT thumb FROM picture UNION SELECT body ->> '$.print.hash' FROM picture WHERE body ->> '$.print.hash' IS NOT NULL)",
            [],
        )?;
        c.execute("DELETE FROM journal WHERE job_id = ?1", [&id])?;
        c.execute("DELETE FROM touched WHERE job_id = ?1", [&id])?;
        c.execute("DELETE FROM job WHERE id = ?1", [&id])?;
    }
    Ok(())
}

/// Whether a job's row is the placeholder of one that is being brought in.
pub(crate) fn is_placeholder(c: &Connection, job_id: &str) -> Result<bool, LedgerError> {
    let rev: Option<i64> =
        c.prepare_cached("SELECT rev FROM job WHERE id = ?1 AND deleted = 1")?.query_row([job_id], |r| r.get(0)).optional()?;
    Ok(rev == Some(0))
}
