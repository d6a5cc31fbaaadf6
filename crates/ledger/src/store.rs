//! Opening a data folder and reading from it.

use crate::LedgerError;
use crate::blobs::Folder;
use crate::clock::Clock;
use crate::kinds::{Entity, Kind, Version, WholeJob};
use crate::pool::{Reader, Readers};
use crate::record::{Raw, Record, raw};
use crate::row::{current, find, of_job};
use crate::schema::migrations;
use envelope::job::Job;
use envelope::practice::Practice;
use rusqlite::{Connection, OpenFlags, OptionalExtension, Transaction, TransactionBehavior};
use std::collections::HashSet;
use std::fmt;
use std::fs::File;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

/// A job in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct JobRow {
    /// The job.
    pub job: Record<Job>,
    /// When anything in it last changed.
    pub changed_at: String,
}

/// The ledger: one data folder.
pub struct Ledger {
    /// None when the folder can only be read.
    writer: Option<Mutex<Connection>>,
    readers: Readers,
    pub(crate) folder: Folder,
    pub(crate) root: PathBuf,
    clock: Arc<dyn Clock>,
    /// Jobs that are being brought in.
    pub(crate) coming: Mutex<HashSet<String>>,
}

impl fmt::Debug for Ledger {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Ledger").field("root", &self.root).finish_non_exhaustive()
    }
}

/// How long a connection waits for another process before it gives up.
const BUSY: std::time::Duration = std::time::Duration::from_secs(10);
/// Reads that run beside one another.
const READERS: usize = 4;
/// The database in a data folder.
pub(crate) const DATABASE: &str = "trowel.db";

fn connect(file: &Path) -> Result<Connection, LedgerError> {
    let c = Connection::open(file)?;
    c.busy_timeout(BUSY)?;
    c.pragma_update(None, "journal_mode", "WAL")?;
    c.pragma_update(None, "synchronous", "FULL")?;
    c.pragma_update(None, "foreign_keys", true)?;
    c.set_prepared_statement_cache_capacity(64);
    Ok(c)
}

/// A connection that writes nothing, not even the file that connections share.
fn connect_reading(file: &Path) -> Result<Connection, LedgerError> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_URI | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let path: String = file.display().to_string().chars().flat_map(escaped).collect();
    // `immutable` is true of a folder nobody can write into; without it SQLite wants to make its shared file beside the database.
    Ok(Connection::open_with_flags(format!("file:{path}?immutable=1"), flags)?)
}

/// A character of a path as it stands in a URI.
fn escaped(c: char) -> Vec<char> {
    match c {
        '%' | '?' | '#' => format!("%{:02X}", c as u32).chars().collect(),
        c => vec![c],
    }
}

/// A data folder that is in use by one server: given up when it is dropped.
#[derive(Debug)]
pub struct InUse {
    _file: File,
}

/// Takes a data folder for one server.
///
/// # Errors
/// [`LedgerError::InUse`] while another has it.
pub fn take(root: &Path) -> Result<InUse, LedgerError> {
    std::fs::create_dir_all(root)?;
    let file = match File::options().create(true).truncate(false).write(true).open(root.join("trowel.lock")) {
        Ok(file) => file,
        // A folder that cannot be written into is not fought over.
        Err(_) => File::open(root)?,
    };
    match file.try_lock() {
        Ok(()) => Ok(InUse { _file: file }),
        Err(std::fs::TryLockError::WouldBlock) => Err(LedgerError::InUse),
        // Some file systems know no locks; then nothing can be said.
        Err(std::fs::TryLockError::Error(_)) => Ok(InUse { _file: file }),
    }
}

impl Ledger {
    /// Opens a data folder, making it or bringing it up to date. A folder that cannot be written into is opened for reading.
    ///
    /// # Errors
    /// [`LedgerError::Newer`] when a newer version wrote it; otherwise what the disk or SQLite says.
    pub fn open(root: &Path, clock: Arc<dyn Clock>) -> Result<Ledger, LedgerError> {
        std::fs::create_dir_all(root)?;
        let file = root.join(DATABASE);
        let (folder, root) = (Folder::at(root), root.to_owned());
        let open = || -> Result<Connection, LedgerError> {
            let mut writer = connect(&file)?;
            migrations().to_latest(&mut writer)?;
            // The first write would fail; better to know now.
            writer.execute_batch("BEGIN IMMEDIATE; ROLLBACK")?;
            Ok(writer)
        };
        match open() {
            Ok(writer) => {
                let readers = Readers::new(READERS, || connect(&file))?;
                Ok(Ledger { writer: Some(Mutex::new(writer)), readers, folder, root, clock, coming: Mutex::default() })
            }
            Err(e) if e.is_for_reading_only() && file.is_file() => {
                let c = connect_reading(&file)?;
                let form: i64 = c.pragma_query_value(None, "user_version", |r| r.get(0))?;
                match form.cmp(&crate::schema::FORM) {
                    std::cmp::Ordering::Less => return Err(LedgerError::ReadOnly),
                    std::cmp::Ordering::Greater => return Err(LedgerError::Newer),
                    std::cmp::Ordering::Equal => {}
                }
                let readers = Readers::new(READERS, || connect_reading(&file))?;
                Ok(Ledger { writer: None, readers, folder, root, clock, coming: Mutex::default() })
            }
            Err(e) => Err(e),
        }
    }

    /// Whether the folder can only be read.
    pub fn is_for_reading_only(&self) -> bool {
        self.writer.is_none()
    }

    pub(crate) fn writable(&self) -> Result<(), LedgerError> {
        if self.writer.is_some() { Ok(()) } else { Err(LedgerError::ReadOnly) }
    }

    /// The time, as the ledger writes it.
    pub fn now(&self) -> String {
        self.clock.now().to_string()
    }

    /// The day it is where this machine stands. What is worked out counts from it.
    pub fn today(&self) -> jiff::civil::Date {
        self.clock.now().to_zoned(jiff::tz::TimeZone::system()).date()
    }

    pub(crate) fn read(&self) -> Reader<'_> {
        self.readers.take()
    }

    /// Runs one write transaction.
    pub(crate) fn write<T, E: From<LedgerError>>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T, E>) -> Result<T, E> {
        let writer = self.writer.as_ref().ok_or(LedgerError::ReadOnly)?;
        // A lock poisoned by a panic elsewhere still guards a sound connection: every change is a transaction.
        let mut c = writer.lock().unwrap_or_else(PoisonError::into_inner);
        let tx = c.transaction_with_behavior(TransactionBehavior::Immediate).map_err(LedgerError::from)?;
        let out = work(&tx)?;
        tx.commit().map_err(LedgerError::from)?;
        Ok(out)
    }

    /// Every job, last changed first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn jobs(&self) -> Result<Vec<JobRow>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached(
            "SELECT j.id, j.rev, j.body, t.at FROM job j JOIN touched t ON t.job_id = j.id WHERE j.deleted = 0 ORDER BY t.seq DESC",
        )?;
        let rows = q.query_map([], |r| Ok((raw(r)?, r.get::<_, String>(3)?)))?;
        rows.map(|row| {
            let (r, changed_at) = row?;
            Ok(JobRow { job: r.typed()?, changed_at })
        })
        .collect()
    }

    /// The state a job is in, without reading it.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`], or what SQLite says.
    pub fn version(&self, job_id: &str) -> Result<Version, LedgerError> {
        version(&self.read(), job_id)
    }

    /// A job with everything in it, read at one moment.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`], or what SQLite says.
    pub fn job(&self, id: &str) -> Result<WholeJob, LedgerError> {
        let mut c = self.read();
        let tx = c.transaction()?;
        let job: Record<Job> = find(&tx, id, id)?.ok_or_else(|| LedgerError::NotFound { kind: Kind::Job, id: id.to_owned() })?;
        let changed_at = tx.query_row("SELECT at FROM touched WHERE job_id = ?1", [id], |r| r.get(0))?;
        let practice = practice_of(&tx, &job)?.0;
        WholeJob::gather(job, practice, version(&tx, id)?, changed_at, |kind| of_job(&tx, kind, id))
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

    /// One entity.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`] also when it belongs to another job.
    pub fn get<T: Entity>(&self, job_id: &str, id: &str) -> Result<Record<T>, LedgerError> {
        find(&self.read(), job_id, id)?.ok_or_else(|| LedgerError::NotFound { kind: T::KIND, id: id.to_owned() })
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
        Ok(self.live_revision(Kind::Job, id, id)?.is_some())
    }

    /// Lets the database grow to so many pages only, as a full disk would; 0 means not at all.
    ///
    /// # Errors
    /// What SQLite says.
    #[doc(hidden)]
    pub fn limit_pages_for_test(&self, pages: i64) -> Result<(), LedgerError> {
        let c = self.writer.as_ref().ok_or(LedgerError::ReadOnly)?.lock().unwrap_or_else(PoisonError::into_inner);
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

pub(crate) fn version(c: &Connection, job_id: &str) -> Result<Version, LedgerError> {
    let seq = c.prepare_cached("SELECT seq FROM touched WHERE job_id = ?1")?.query_row([job_id], |r| r.get(0)).optional()?;
    let seq = seq.ok_or_else(|| LedgerError::NotFound { kind: Kind::Job, id: job_id.to_owned() })?;
    let practice = c.prepare_cached("SELECT coalesce(sum(rev), 0) FROM practice")?.query_row([], |r| r.get(0))?;
    Ok(Version { seq, practice })
}

/// What a job follows, and its revision; the usual practice under that name when there is none.
pub(crate) fn practice_of(c: &Connection, job: &Record<Job>) -> Result<(Practice, i64), LedgerError> {
    let name = &job.body.brief.practice;
    let found =
        c.prepare_cached("SELECT id, rev, body FROM practice WHERE name = ?1 AND deleted = 0")?.query_row([name], raw).optional()?;
    let found = found.map(Raw::typed::<Practice>).transpose()?;
    Ok(found.map_or_else(|| (Practice::usual(name), 0), |r| (r.body, r.rev)))
}
