//! A copy of everything while work goes on, and going back to one.

use crate::LedgerError;
use crate::clock::Clock;
use crate::store::{DATABASE, Ledger, take};
use rusqlite::Connection;
use std::fs::File;
use std::io::{self, Write};
use std::path::Path;
use std::sync::Arc;
use zip::write::SimpleFileOptions;

/// A copy that was made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Backup {
    /// Its size.
    pub bytes: u64,
    /// Picture files that were damaged or missing and are not in it, by hash.
    pub left_out: Vec<String>,
}

impl Ledger {
    /// Writes a zip with the database and every whole picture file, consistent in itself, while the ledger stays in use.
    /// [`restore`] goes back to it. The file appears only when it is whole; what could not be read is named.
    ///
    /// # Errors
    /// What the disk says.
    pub fn backup(&self, to: &Path) -> Result<Backup, LedgerError> {
        let folder = to.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let copy = tempfile::NamedTempFile::new_in(folder)?;
        {
            // The copy of the database is taken first: every file it names is already in the folder and none is ever removed.
            let source = self.read();
            let mut target = Connection::open(copy.path())?;
            rusqlite::backup::Backup::new(&source, &mut target)?.run_to_completion(256, std::time::Duration::ZERO, None)?;
        }
        let hashes: Vec<String> = {
            let c = Connection::open(copy.path())?;
            let mut q = c.prepare("SELECT hash FROM blob ORDER BY hash")?;
            q.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?
        };
        let out = tempfile::NamedTempFile::new_in(folder)?;
        let mut zip = zip::ZipWriter::new(out.as_file());
        let zip_error = |e: zip::result::ZipError| LedgerError::Io(io::Error::other(e));
        let deflated = SimpleFileOptions::default().large_file(true);
        zip.start_file(DATABASE, deflated).map_err(zip_error)?;
        io::copy(&mut File::open(copy.path())?, &mut zip)?;
        let mut left_out = Vec::new();
        for hash in hashes {
            let bytes = match self.folder.get(&hash) {
                Ok(bytes) => bytes,
                Err(LedgerError::BlobMissing { .. } | LedgerError::BlobDamaged { .. }) => {
                    left_out.push(hash);
                    continue;
                }
                Err(e) => return Err(e),
            };
            zip.start_file(picture_name(&hash), deflated.compression_method(zip::CompressionMethod::Stored)).map_err(zip_error)?;
            zip.write_all(&bytes)?;
        }
        zip.finish().map_err(zip_error)?;
        out.as_file().sync_all()?;
        let bytes = out.as_file().metadata()?.len();
        out.persist(to).map_err(|e| LedgerError::from(e.error))?;
        Ok(Backup { bytes, left_out })
    }
}

fn picture_name(hash: &str) -> String {
    format!("pictures/{}/{hash}", &hash[..2])
}

/// What was there before a backup was put in its place is kept in this folder.
const BEFORE: &str = "before-restore";

/// What going back came to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Restored {
    /// Jobs in the backup.
    pub jobs: usize,
    /// Picture files in it.
    pub files: usize,
    /// Where what was there before lies now; none when the folder was empty.
    pub before: Option<std::path::PathBuf>,
}

/// Goes back to a backup. It is unpacked beside the data and proved whole before anything is replaced; what was there before is
/// kept in a folder of its own.
///
/// # Errors
/// [`LedgerError::Backup`] when the file is not a sound backup, [`LedgerError::InUse`] while a server has the folder.
pub fn restore(file: &Path, root: &Path, clock: Arc<dyn Clock>) -> Result<Restored, LedgerError> {
    let _held = take(root)?;
    let aside = tempfile::Builder::new().prefix(".restore-").tempdir_in(root)?;
    unpack(file, aside.path())?;
    let report = {
        let proved = Ledger::open(aside.path(), clock.clone())?;
        proved.check()?
    };
    if let Some(first) = report.problems.first() {
        let more = report.problems.len() - 1;
        return Err(LedgerError::Backup(format!("{first}{}", if more > 0 { format!(" And {more} more.") } else { String::new() })));
    }
    let parts = [DATABASE, "trowel.db-wal", "trowel.db-shm", "pictures"];
    let mut before = None;
    if parts.iter().any(|p| root.join(p).exists()) {
        let stamp = clock.now().strftime("%Y%m%d-%H%M%S").to_string();
        let kept = (0..)
            .map(|n| root.join(format!("{BEFORE}-{stamp}{}", if n == 0 { String::new() } else { format!("-{n}") })))
            .find(|p| !p.exists());
        let kept = kept.expect("some name is free");
        std::fs::create_dir(&kept)?;
        for p in parts.iter().filter(|p| root.join(p).exists()) {
            std::fs::rename(root.join(p), kept.join(p))?;
        }
        before = Some(kept);
    }
    for p in parts.iter().filter(|p| aside.path().join(p).exists()) {
        std::fs::rename(aside.path().join(p), root.join(p))?;
    }
    Ok(Restored { jobs: report.jobs, files: report.files, before })
}

fn unpack(file: &Path, to: &Path) -> Result<(), LedgerError> {
    let no = |what: &str| LedgerError::Backup(what.to_owned());
    let mut zip = zip::ZipArchive::new(File::open(file)?).map_err(|_| no("it is not a zip, or it was cut short."))?;
    let mut has_database = false;
    for i in 0..zip.len() {
        let mut entry = zip.by_index(i).map_err(|_| no("a file in it cannot be read."))?;
        let name = entry.name().to_owned();
        let hash = name.rsplit('/').next().unwrap_or_default();
        let is_picture = hash.len() == 64 && hash.bytes().all(|b| b.is_ascii_hexdigit()) && name == picture_name(hash);
        if name != DATABASE && !is_picture {
            return Err(no("it holds files that are no part of one."));
        }
        has_database |= name == DATABASE;
        let path = to.join(&name);
        std::fs::create_dir_all(path.parent().unwrap_or(to))?;
        let mut out = File::create(path)?;
        io::copy(&mut entry, &mut out).map_err(|_| no("a file in it is damaged."))?;
        out.sync_all()?;
    }
    if has_database { Ok(()) } else { Err(no("it holds no database.")) }
}
