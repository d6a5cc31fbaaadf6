//! Keeping and reading entities: one door for every change.

use crate::blobs::{Blob, Folder};
use crate::clock::Clock;
use crate::journal;
use crate::schema::migrations;
use crate::{LedgerError, Picture};
use envelope::ground::record::Ground;
use envelope::job::Job;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::record::Roof;
use envelope::round::Note;
use envelope::site::{Item, Mark};
use rusqlite::{Connection, OptionalExtension, Row, Transaction, TransactionBehavior, params};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::fmt;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard};
use utoipa::ToSchema;
use uuid::Uuid;

/// The kinds of entity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A job with its brief.
    Job,
    /// A note.
    Note,
    /// Seen or limited.
    Mark,
    /// A picture.
    Picture,
    /// An opening, fitting or gutter run that was counted.
    Item,
    /// What a practice follows.
    Practice,
    /// The roof of a job: one at most.
    Roof,
    /// Rain and gutters of a job: one at most.
    Rainwater,
    /// The ground of a job: one at most.
    Ground,
}

impl Kind {
    pub(crate) const ALL: [Kind; 9] =
        [Kind::Job, Kind::Note, Kind::Mark, Kind::Picture, Kind::Item, Kind::Practice, Kind::Roof, Kind::Rainwater, Kind::Ground];
    /// The table, and the word in messages.
    pub(crate) fn table(self) -> &'static str {
        match self {
            Kind::Job => "job",
            Kind::Note => "note",
            Kind::Mark => "mark",
            Kind::Picture => "picture",
            Kind::Item => "item",
            Kind::Practice => "practice",
            Kind::Roof => "roof",
            Kind::Rainwater => "rainwater",
            Kind::Ground => "ground",
        }
    }
    /// Stands by itself: its id is the id of what it belongs to.
    pub(crate) fn is_root(self) -> bool {
        matches!(self, Kind::Job | Kind::Practice)
    }
    pub(crate) fn from_table(name: &str) -> Option<Kind> {
        Kind::ALL.into_iter().find(|k| k.table() == name)
    }
}

impl fmt::Display for Kind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.table())
    }
}

/// Something the ledger keeps.
pub trait Entity: Serialize + DeserializeOwned {
    /// Which kind.
    const KIND: Kind;
}
impl Entity for Job {
    const KIND: Kind = Kind::Job;
}
impl Entity for Note {
    const KIND: Kind = Kind::Note;
}
impl Entity for Mark {
    const KIND: Kind = Kind::Mark;
}
impl Entity for Picture {
    const KIND: Kind = Kind::Picture;
}
impl Entity for Item {
    const KIND: Kind = Kind::Item;
}
impl Entity for Practice {
    const KIND: Kind = Kind::Practice;
}
impl Entity for Roof {
    const KIND: Kind = Kind::Roof;
}
impl Entity for Rainwater {
    const KIND: Kind = Kind::Rainwater;
}
impl Entity for Ground {
    const KIND: Kind = Kind::Ground;
}

/// Who asks, and the id they gave the request.
#[derive(Debug, Clone)]
pub struct Request {
    /// Made by whoever asks; the same id is applied once.
    pub id: Uuid,
    /// The person.
    pub who: String,
}

/// A change to one entity.
#[derive(Debug, Clone, Serialize)]
pub struct Change {
    kind: Kind,
    id: String,
    /// The revision it was made on; `None` makes a new entity. Not part of what makes two requests the same: a retry may be
    /// put together after the first try was applied.
    #[serde(skip_serializing)]
    base: Option<i64>,
    /// The entity after the change; `None` deletes it.
    body: Option<Value>,
}

impl Change {
    /// Keeps an entity: a new one without `base`, or a change of revision `base`.
    ///
    /// # Errors
    /// When the entity cannot be written as JSON.
    pub fn put<T: Entity>(id: &str, base: Option<i64>, body: &T) -> Result<Change, LedgerError> {
        Ok(Change { kind: T::KIND, id: id.to_owned(), base, body: Some(serde_json::to_value(body)?) })
    }
    /// Deletes revision `base` of an entity.
    pub fn delete(kind: Kind, id: &str, base: i64) -> Change {
        Change { kind, id: id.to_owned(), base: Some(base), body: None }
    }
}

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

/// A job in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct JobRow {
    /// The job.
    pub job: Record<Job>,
    /// When anything in it last changed.
    pub changed_at: String,
}

/// A job with everything in it.
#[derive(Debug, Clone, PartialEq)]
pub struct WholeJob {
    /// The job.
    pub job: Record<Job>,
    /// Notes in the order they were entered.
    pub notes: Vec<Record<Note>>,
    /// Marks on cells.
    pub marks: Vec<Record<Mark>>,
    /// Pictures in the order they came.
    pub pictures: Vec<Record<Picture>>,
    /// Openings, fittings and gutter runs in the order they were counted.
    pub items: Vec<Record<Item>>,
    /// The roof, once something of it was measured.
    pub roof: Option<Record<Roof>>,
    /// Rain and gutters, once something of them was entered.
    pub rainwater: Option<Record<Rainwater>>,
    /// The ground, once something of it was read.
    pub ground: Option<Record<Ground>>,
    /// The practice the brief names, or the usual one.
    pub practice: Practice,
    /// When anything in it last changed.
    pub changed_at: String,
}

/// The ledger: one data folder.
pub struct Ledger {
    writer: Mutex<Connection>,
    reader: Mutex<Connection>,
    pub(crate) folder: Folder,
    pub(crate) root: PathBuf,
    clock: Arc<dyn Clock>,
}

impl fmt::Debug for Ledger {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Ledger").field("root", &self.root).finish_non_exhaustive()
    }
}

/// How long a connection waits for another process before it gives up.
const BUSY: std::time::Duration = std::time::Duration::from_secs(10);

fn connect(file: &Path) -> Result<Connection, LedgerError> {
    let c = Connection::open(file)?;
    c.busy_timeout(BUSY)?;
    c.pragma_update(None, "journal_mode", "WAL")?;
    c.pragma_update(None, "synchronous", "FULL")?;
    c.pragma_update(None, "foreign_keys", true)?;
    Ok(c)
}

/// A lock poisoned by a panic elsewhere still guards a sound connection: every change is a transaction.
fn lock(m: &Mutex<Connection>) -> MutexGuard<'_, Connection> {
    m.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
}

impl Ledger {
    /// Opens a data folder, making it or bringing it up to date.
    ///
    /// # Errors
    /// [`LedgerError::Newer`] when a newer version wrote it; otherwise what the disk or SQLite says.
    pub fn open(root: &Path, clock: Arc<dyn Clock>) -> Result<Ledger, LedgerError> {
        std::fs::create_dir_all(root)?;
        let file = root.join("trowel.db");
        let mut writer = connect(&file)?;
        migrations().to_latest(&mut writer)?;
        Ok(Ledger {
            writer: Mutex::new(writer),
            reader: Mutex::new(connect(&file)?),
            folder: Folder::open(root)?,
            root: root.to_owned(),
            clock,
        })
    }

    /// The time, as the ledger writes it.
    pub fn now(&self) -> String {
        self.clock.now().to_string()
    }

    pub(crate) fn read(&self) -> MutexGuard<'_, Connection> {
        lock(&self.reader)
    }

    /// Runs one write transaction.
    pub(crate) fn write<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T, LedgerError>) -> Result<T, LedgerError> {
        let mut c = lock(&self.writer);
        let tx = c.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let out = work(&tx)?;
        tx.commit()?;
        Ok(out)
    }

    /// Applies changes to one job together, or none of them. The same request again gives the same answer and changes
    /// nothing. Blobs are on disk before the entities that name them.
    ///
    /// # Errors
    /// [`LedgerError::Stale`] when a base is not the current revision, [`LedgerError::NotFound`], [`LedgerError::Reused`],
    /// or what the disk says.
    pub fn apply(&self, request: &Request, job_id: &str, changes: &[Change], blobs: &[Blob]) -> Result<Vec<Stored>, LedgerError> {
        for blob in blobs {
            self.folder.put(blob)?;
        }
        let fingerprint = crate::blobs::hash(&serde_json::to_vec(&(job_id, changes))?);
        let at = self.now();
        self.write(|tx| {
            if let Some(done) = journal::already(tx, request, &fingerprint)? {
                return Ok(done);
            }
            for blob in blobs {
                tx.execute(
                    "INSERT INTO blob (hash, bytes, media) VALUES (?1, ?2, ?3) ON CONFLICT (hash) DO NOTHING",
                    params![blob.hash, blob.bytes.len() as i64, blob.media],
                )?;
            }
            let mut out = Vec::with_capacity(changes.len());
            for (step, change) in changes.iter().enumerate() {
                let entry = journal::Entry { request, step, fingerprint: &fingerprint, at: &at, undoes: None };
                out.push(one(tx, job_id, change, &entry)?);
            }
            Ok(out)
        })
    }

    /// Every job, last changed first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn jobs(&self) -> Result<Vec<JobRow>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached(
            "SELECT id, rev, body, (SELECT max(at) FROM journal WHERE job_id = job.id) AS changed FROM job WHERE deleted = 0 ORDER BY changed DESC, id",
        )?;
        let rows = q.query_map([], |r| Ok((raw(r)?, r.get::<_, String>(3)?)))?;
        rows.map(|row| {
            let (r, changed_at) = row?;
            Ok(JobRow { job: r.typed()?, changed_at })
        })
        .collect()
    }

    /// A job with everything in it, read at one moment.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`], or what SQLite says.
    pub fn job(&self, id: &str) -> Result<WholeJob, LedgerError> {
        let mut c = self.read();
        let tx = c.transaction()?;
        let job = tx
            .query_row("SELECT id, rev, body FROM job WHERE id = ?1 AND deleted = 0", [id], raw)
            .optional()?
            .ok_or_else(|| LedgerError::NotFound { kind: Kind::Job, id: id.to_owned() })?
            .typed()?;
        let changed_at = tx.query_row("SELECT max(at) FROM journal WHERE job_id = ?1", [id], |r| r.get(0))?;
        let practice = practice_of(&tx, &job)?;
        let (notes, marks) = (of_job(&tx, id)?, of_job(&tx, id)?);
        Ok(WholeJob {
            job,
            notes,
            marks,
            pictures: of_job(&tx, id)?,
            items: of_job(&tx, id)?,
            roof: of_job(&tx, id)?.pop(),
            rainwater: of_job(&tx, id)?.pop(),
            ground: of_job(&tx, id)?.pop(),
            practice,
            changed_at,
        })
    }

    /// Every practice, by name.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn practices(&self) -> Result<Vec<Record<Practice>>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached("SELECT id, rev, body FROM practice WHERE deleted = 0 ORDER BY name")?;
        let rows = q.query_map([], raw)?;
        rows.map(|r| r?.typed()).collect()
    }

    /// The practice of a job: the one its brief names, or the usual one under that name.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`], or what SQLite says.
    pub fn practice_of(&self, job_id: &str) -> Result<Practice, LedgerError> {
        let job = self.get::<Job>(job_id, job_id)?;
        practice_of(&self.read(), &job)
    }

    /// One entity.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`] also when it belongs to another job.
    pub fn get<T: Entity>(&self, job_id: &str, id: &str) -> Result<Record<T>, LedgerError> {
        let c = self.read();
        let sql = format!("SELECT id, rev, body FROM {} WHERE id = ?1 AND job_id = ?2 AND deleted = 0", T::KIND.table());
        c.query_row(&sql, [id, job_id], raw).optional()?.ok_or_else(|| LedgerError::NotFound { kind: T::KIND, id: id.to_owned() })?.typed()
    }

    /// The revision an entity of a job stands at, unless it is deleted.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn live_revision(&self, kind: Kind, job_id: &str, id: &str) -> Result<Option<i64>, LedgerError> {
        Ok(current(&self.read(), kind, id)?.filter(|s| !s.deleted && s.job_id == job_id).map(|s| s.rev))
    }

    /// Whether a live job has this id.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn has_job(&self, id: &str) -> Result<bool, LedgerError> {
        Ok(current(&self.read(), Kind::Job, id)?.is_some_and(|s| !s.deleted))
    }

    /// Lets the database grow to so many pages only, as a full disk would; 0 means not at all.
    ///
    /// # Errors
    /// What SQLite says.
    #[doc(hidden)]
    pub fn limit_pages_for_test(&self, pages: i64) -> Result<(), LedgerError> {
        let c = lock(&self.writer);
        // SQLite never sets the limit below the present size.
        c.query_row(&format!("PRAGMA max_page_count = {}", pages.max(1)), [], |_| Ok(()))?;
        Ok(())
    }

    /// The bytes of a picture file, checked against their hash.
    ///
    /// # Errors
    /// [`LedgerError::BlobMissing`] and [`LedgerError::BlobDamaged`].
    pub fn blob(&self, hash: &str) -> Result<Vec<u8>, LedgerError> {
        self.folder.get(hash)
    }
}

struct Raw {
    id: String,
    rev: i64,
    body: String,
}

fn raw(r: &Row<'_>) -> rusqlite::Result<Raw> {
    Ok(Raw { id: r.get(0)?, rev: r.get(1)?, body: r.get(2)? })
}

impl Raw {
    fn typed<T: DeserializeOwned>(self) -> Result<Record<T>, LedgerError> {
        let body = serde_json::from_str(&self.body).map_err(|e| LedgerError::Unreadable(format!("{}: {e}", self.id)))?;
        Ok(Record { id: self.id, rev: self.rev, body })
    }
}

fn of_job<T: Entity>(c: &Connection, job_id: &str) -> Result<Vec<Record<T>>, LedgerError> {
    let mut q =
        c.prepare_cached(&format!("SELECT id, rev, body FROM {} WHERE job_id = ?1 AND deleted = 0 ORDER BY rowid", T::KIND.table()))?;
    let rows = q.query_map([job_id], raw)?;
    rows.map(|r| r?.typed()).collect()
}

pub(crate) fn current(c: &Connection, kind: Kind, id: &str) -> Result<Option<Stored>, LedgerError> {
    let sql = format!("SELECT id, job_id, rev, deleted, body FROM {} WHERE id = ?1", kind.table());
    let row =
        c.prepare_cached(&sql)?.query_row([id], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?, r.get::<_, String>(4)?))).optional()?;
    row.map(|(id, job_id, rev, deleted, body)| Ok(Stored { kind, id, job_id, rev, deleted, body: serde_json::from_str(&body)? }))
        .transpose()
}

pub(crate) fn practice_of(c: &Connection, job: &Record<Job>) -> Result<Practice, LedgerError> {
    let name = &job.body.brief.practice;
    let found =
        c.prepare_cached("SELECT id, rev, body FROM practice WHERE name = ?1 AND deleted = 0")?.query_row([name], raw).optional()?;
    Ok(found.map(Raw::typed::<Practice>).transpose()?.map_or_else(|| Practice::usual(name), |r| r.body))
}

/// Applies one change and writes its journal row.
fn one(tx: &Transaction<'_>, job_id: &str, change: &Change, entry: &journal::Entry<'_>) -> Result<Stored, LedgerError> {
    let now = current(tx, change.kind, &change.id)?;
    let live = now.as_ref().filter(|s| !s.deleted);
    let not_found = || LedgerError::NotFound { kind: change.kind, id: change.id.clone() };
    match (change.base, live, &now) {
        // The id belongs to another job: nothing here may touch it.
        (_, _, Some(s)) if s.job_id != job_id => return Err(not_found()),
        (Some(base), Some(s), _) if s.rev == base => {}
        (Some(_) | None, Some(s), _) => return Err(LedgerError::Stale { theirs: Box::new(s.clone()) }),
        (Some(_), None, _) => return Err(not_found()),
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
    entry: &journal::Entry<'_>,
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
