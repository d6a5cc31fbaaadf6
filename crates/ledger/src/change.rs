//! Changing what is kept: one door, one transaction, one answer for each request.

use crate::LedgerError;
use crate::blobs::{Blob, hash};
use crate::bring_in::is_placeholder;
use crate::journal::{self, Entry, Request};
use crate::kinds::{BlobRef, Entity, Kind, bounded};
use crate::record::{Raw, Record, raw};
use crate::row::{Stored, current, find, of_job};
use crate::store::{Ledger, practice_of};
use envelope::job::Job;
use envelope::practice::Practice;
use envelope::round::Note;
use envelope::years::building::Building;
use rusqlite::{OptionalExtension, Transaction, params};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use uuid::Uuid;

/// One change of one entity.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Change {
    pub(crate) kind: Kind,
    pub(crate) id: String,
    /// The revision it was made on; `None` makes a new entity. Not part of what makes two requests the same: a retry may be
    /// put together after the first try was applied.
    #[serde(skip_serializing)]
    base: Option<i64>,
    /// The entity after the change; `None` deletes it.
    pub(crate) body: Option<Value>,
}

impl Change {
    /// Keeps an entity: a new one without `base`, or a change of revision `base`. This is the one door: nothing is kept that
    /// did not pass the entity's own check, and no text that nobody could have typed.
    ///
    /// # Errors
    /// [`LedgerError::Refused`] with the field; an id that is a UUID in another spelling than its usual one.
    pub fn put<T: Entity>(id: &str, base: Option<i64>, body: &T) -> Result<Change, LedgerError> {
        let refuse = |field: String, message: String| LedgerError::Refused { kind: T::KIND, field, message };
        if Uuid::parse_str(id).is_ok_and(|u| u.to_string() != id) {
            return Err(refuse("id".into(), "Ids are written in lower case with four dashes. Write it so.".into()));
        }
        let written = serde_json::to_value(body)?;
        body.check().and_then(|()| bounded(&written, &mut Vec::new())).map_err(|r| refuse(r.field, r.message))?;
        Ok(Change { kind: T::KIND, id: id.to_owned(), base, body: Some(written) })
    }
    /// Deletes revision `base` of an entity.
    pub fn delete(kind: Kind, id: &str, base: i64) -> Change {
        Change { kind, id: id.to_owned(), base: Some(base), body: None }
    }
}

/// A job as it stands inside the transaction that is about to change it.
#[derive(Debug)]
pub struct Now<'a> {
    pub(crate) tx: &'a Transaction<'a>,
    pub(crate) job_id: &'a str,
    /// The moment the change is written under, RFC 3339.
    pub at: &'a str,
}

impl Now<'_> {
    /// The job.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`].
    pub fn job(&self) -> Result<Record<Job>, LedgerError> {
        self.get(self.job_id)
    }
    /// What it follows.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn practice(&self) -> Result<Practice, LedgerError> {
        Ok(practice_of(self.tx, &self.job()?)?.0)
    }
    /// A building; it is no part of the job.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`].
    pub fn building(&self, id: &str) -> Result<Record<Building>, LedgerError> {
        find(self.tx, id, id)?.ok_or_else(|| LedgerError::NotFound { kind: Kind::Building, id: id.to_owned() })
    }
    /// The jobs that belong to a building.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn jobs_of_building(&self, building: &str) -> Result<Vec<String>, LedgerError> {
        crate::leaving::jobs_of_building(self.tx, building)
    }
    /// One entity of the job.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`].
    pub fn get<T: Entity>(&self, id: &str) -> Result<Record<T>, LedgerError> {
        find(self.tx, self.job_id, id)?.ok_or_else(|| LedgerError::NotFound { kind: T::KIND, id: id.to_owned() })
    }
    /// One entity of the job, if it is there.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn find<T: Entity>(&self, id: &str) -> Result<Option<Record<T>>, LedgerError> {
        find(self.tx, self.job_id, id)
    }
    /// Every entity of a kind, in the order they were made.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn all<T: Entity>(&self) -> Result<Vec<Record<T>>, LedgerError> {
        of_job(self.tx, T::KIND, self.job_id)?.into_iter().map(Raw::typed).collect()
    }
    /// The note entered last; with `named`, the last that has a condition.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn last_note(&self, named: bool) -> Result<Option<Record<Note>>, LedgerError> {
        self.tx
            .prepare_cached(
                "SELECT id, rev, body FROM note WHERE job_id = ?1 AND deleted = 0 AND (?2 = 0 OR body ->> '$.condition' IS NOT NULL)
                 ORDER BY rowid DESC LIMIT 1",
            )?
            .query_row(params![self.job_id, named], raw)
            .optional()?
            .map(Raw::typed)
            .transpose()
    }
    /// The picture of this job that came with these bytes.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn picture_of(&self, original: &str) -> Result<Option<Record<crate::Picture>>, LedgerError> {
        self.tx
            .prepare_cached("SELECT id, rev, body FROM picture WHERE job_id = ?1 AND original = ?2 AND deleted = 0 ORDER BY rowid LIMIT 1")?
            .query_row([self.job_id, original], raw)
            .optional()?
            .map(Raw::typed)
            .transpose()
    }
    /// The live revision to change an entity on, whatever kind it is.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn revision(&self, kind: Kind, id: &str) -> Result<Option<i64>, LedgerError> {
        Ok(current(self.tx, kind, id)?.filter(|s| !s.deleted && s.job_id == self.job_id).map(|s| s.rev))
    }
}

/// What a change comes to: the changes, files they name, and what is told beside the entities.
#[derive(Debug)]
pub struct Composed<A> {
    /// Applied together, in this order.
    pub changes: Vec<Change>,
    /// Files the entities name; [`Ledger::store`] has put them on disk.
    pub files: Vec<BlobRef>,
    /// Kept with the request, so that a retry hears the same.
    pub told: A,
}

impl Composed<()> {
    /// Changes with nothing more to tell.
    pub fn just(changes: Vec<Change>) -> Composed<()> {
        Composed { changes, files: vec![], told: () }
    }
}

/// What makes two requests the same.
pub(crate) fn fingerprint(job_id: &str, asked: &impl Serialize) -> Result<String, LedgerError> {
    Ok(hash(&serde_json::to_vec(&(job_id, asked))?))
}

impl Ledger {
    /// Changes one job. The request's key is looked up first: the same key with the same `asked` gives the same answer,
    /// whatever has happened since. Otherwise `compose` sees the job as it stands and says what to change, inside the one
    /// transaction that then writes it: nothing can come between.
    ///
    /// # Errors
    /// What `compose` refuses; [`LedgerError::Stale`] when a base is not the current revision, [`LedgerError::NotFound`] also when
    /// the job was deleted, [`LedgerError::Reused`], or what the disk says.
    pub fn change<A, E>(
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
        let fingerprint = fingerprint(job_id, asked)?;
        let at = self.now();
        self.write(|tx| {
            if let Some(done) = journal::answered(tx, request, &fingerprint)? {
                return Ok(done);
            }
            let Composed { changes, files, told } = compose(&Now { tx, job_id, at: &at })?;
            self.name_files(tx, &files)?;
            let mut out = Vec::with_capacity(changes.len());
            for (step, change) in changes.iter().enumerate() {
                out.push(one(
                    tx,
                    job_id,
                    change,
                    &Entry { request, step, fingerprint: &fingerprint, at: &at, undoes: None, coming: false },
                )?);
            }
            journal::answer(tx, request, &fingerprint, &told)?;
            Ok((out, told))
        })
    }

    /// The answer a request already got, for what is dear to compose.
    ///
    /// # Errors
    /// [`LedgerError::Reused`], or what SQLite says.
    pub fn answered<A: DeserializeOwned>(
        &self,
        request: &Request,
        job_id: &str,
        asked: &impl Serialize,
    ) -> Result<Option<(Vec<Stored>, A)>, LedgerError> {
        journal::answered(&self.read(), request, &fingerprint(job_id, asked)?)
    }

    /// Applies changes that are known beforehand, together or not at all.
    ///
    /// # Errors
    /// As for [`Ledger::change`].
    pub fn apply(&self, request: &Request, job_id: &str, changes: &[Change], blobs: &[Blob]) -> Result<Vec<Stored>, LedgerError> {
        let files = self.store(blobs)?;
        let compose = |_: &Now<'_>| Ok(Composed { changes: changes.to_vec(), files, told: () });
        self.change(request, job_id, &changes, compose).map(|(stored, ())| stored)
    }

    /// Puts files on disk, before a change names them. Files may be large, so this is done outside any transaction.
    ///
    /// # Errors
    /// What the disk says.
    pub fn store(&self, blobs: &[Blob]) -> Result<Vec<BlobRef>, LedgerError> {
        self.writable()?;
        blobs.iter().map(|b| self.folder.put(b).map(|()| b.to_ref())).collect()
    }

    /// Takes files off the disk again that no change came to name.
    ///
    /// # Errors
    /// What the disk says.
    pub fn forget(&self, files: &[BlobRef]) -> Result<(), LedgerError> {
        // Under the writer's lock, so that no row that names one of them is being written.
        self.write(|tx| {
            for f in files {
                if !tx.prepare_cached("SELECT 1 FROM blob WHERE hash = ?1")?.exists([&f.hash])? {
                    self.folder.remove(&f.hash)?;
                }
            }
            Ok(())
        })
    }

    pub(crate) fn name_files(&self, tx: &Transaction<'_>, files: &[BlobRef]) -> Result<(), LedgerError> {
        for f in files {
            // Somebody who stored the same bytes and failed may have taken them away.
            if !self.folder.path(&f.hash).is_file() {
                return Err(LedgerError::BlobMissing { hash: f.hash.clone() });
            }
            tx.prepare_cached("INSERT INTO blob (hash, bytes, media) VALUES (?1, ?2, ?3) ON CONFLICT (hash) DO NOTHING")?
                .execute(params![f.hash, f.bytes as i64, f.media])?;
        }
        Ok(())
    }
}

/// Applies one change and writes its journal row.
pub(crate) fn one(tx: &Transaction<'_>, job_id: &str, change: &Change, entry: &Entry<'_>) -> Result<Stored, LedgerError> {
    let now = current(tx, change.kind, &change.id)?;
    let live = now.as_ref().filter(|s| !s.deleted);
    let not_found = |kind: Kind, id: &str| LedgerError::NotFound { kind, id: id.to_owned() };
    // Nothing is written into a job that is not there, or not there any more.
    let live_job = || tx.prepare_cached("SELECT 1 FROM job WHERE id = ?1 AND deleted = 0")?.exists([job_id]);
    if !entry.coming && change.kind == Kind::Job && is_placeholder(tx, &change.id)? {
        return Err(LedgerError::Coming);
    }
    if !change.kind.is_root() && !entry.coming && !live_job()? {
        return Err(not_found(Kind::Job, job_id));
    }
    match (change.base, live, &now) {
        // The id belongs to another job: nothing here may touch it.
        (_, _, Some(s)) if s.job_id != job_id => return Err(not_found(change.kind, &change.id)),
        (Some(base), Some(s), _) if s.rev == base => {}
        (Some(_) | None, Some(s), _) => return Err(LedgerError::Stale { theirs: Box::new(s.clone()) }),
        (Some(_), None, _) => return Err(not_found(change.kind, &change.id)),
        (None, None, _) => {}
    }
    let before = live.map(|s| s.body.clone());
    set(tx, job_id, change.kind, &change.id, now.as_ref(), change.body.as_ref(), before.as_ref(), entry)
}

/// Sets an entity to a state and writes the journal row; `None` for a state means "not there".
#[allow(clippy::too_many_arguments, reason = "one place writes entity and journal row together")]
pub(crate) fn set(
    tx: &Transaction<'_>,
    job_id: &str,
    kind: Kind,
    id: &str,
    now: Option<&Stored>,
    after: Option<&Value>,
    before: Option<&Value>,
    entry: &Entry<'_>,
) -> Result<Stored, LedgerError> {
    let rev = now.map_or(1, |s| s.rev + 1);
    let table = kind.table();
    match (now, after) {
        (None, Some(body)) if kind.is_root() => tx
            .prepare_cached(&format!("INSERT INTO {table} (id, rev, body) VALUES (?1, ?2, ?3)"))?
            .execute(params![id, rev, body.to_string()])?,
        (None, Some(body)) => tx
            .prepare_cached(&format!("INSERT INTO {table} (id, job_id, rev, body) VALUES (?1, ?2, ?3, ?4)"))?
            .execute(params![id, job_id, rev, body.to_string()])?,
        (Some(_), Some(body)) => tx
            .prepare_cached(&format!("UPDATE {table} SET rev = ?2, deleted = 0, body = ?3 WHERE id = ?1"))?
            .execute(params![id, rev, body.to_string()])?,
        (_, None) => tx.prepare_cached(&format!("UPDATE {table} SET rev = ?2, deleted = 1 WHERE id = ?1"))?.execute(params![id, rev])?,
    };
    journal::write(tx, job_id, kind, id, rev, before, after, entry)?;
    let body = after.or(now.map(|s| &s.body)).cloned().unwrap_or(Value::Null);
    Ok(Stored { kind, id: id.to_owned(), job_id: job_id.to_owned(), rev, deleted: after.is_none(), body })
}
