//! A copy of everything while work goes on, and a look whether all is sound.

use crate::LedgerError;
use crate::store::{Kind, Ledger};
use rusqlite::Connection;
use serde::Serialize;
use serde_json::Value;
use std::fs::File;
use std::io::{self, Write};
use std::path::Path;
use zip::write::SimpleFileOptions;

/// What a check found. Empty lists are good news.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct CheckReport {
    /// Jobs that were looked at.
    pub jobs: usize,
    /// Picture files that were read and compared.
    pub files: usize,
    /// Everything that is wrong, in sentences.
    pub problems: Vec<String>,
}

impl Ledger {
    /// Writes a zip with the database and every picture file, consistent in itself, while the ledger stays in use. To go
    /// back to it, unpack it into an empty data folder. The file appears only when it is whole.
    ///
    /// # Errors
    /// What the disk says, or a damaged picture.
    pub fn backup(&self, to: &Path) -> Result<u64, LedgerError> {
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
        zip.start_file("trowel.db", deflated).map_err(zip_error)?;
        io::copy(&mut File::open(copy.path())?, &mut zip)?;
        for hash in &hashes {
            zip.start_file(format!("pictures/{}/{hash}", &hash[..2]), deflated.compression_method(zip::CompressionMethod::Stored))
                .map_err(zip_error)?;
            zip.write_all(&self.folder.get(hash)?)?;
        }
        zip.finish().map_err(zip_error)?;
        out.as_file().sync_all()?;
        let bytes = out.as_file().metadata()?.len();
        out.persist(to).map_err(|e| LedgerError::from(e.error))?;
        Ok(bytes)
    }

    /// Looks whether the database is sound, every reference leads somewhere, every picture file is what was stored, and
    /// every entity is what the journal says it should be.
    ///
    /// # Errors
    /// Only when looking itself fails; what is found wrong is in the report.
    pub fn check(&self) -> Result<CheckReport, LedgerError> {
        let c = self.read();
        let mut report =
            CheckReport { jobs: c.query_row("SELECT count(*) FROM job", [], |r| r.get::<_, i64>(0))? as usize, ..Default::default() };
        c.pragma_query(None, "integrity_check", |r| {
            let line: String = r.get(0)?;
            if line != "ok" {
                report.problems.push(format!("The database is damaged: {line}"));
            }
            Ok(())
        })?;
        c.pragma_query(None, "foreign_key_check", |r| {
            report.problems.push(format!("A row of {} names something that is not there.", r.get::<_, String>(0)?));
            Ok(())
        })?;
        let mut q = c.prepare("SELECT hash, bytes FROM blob")?;
        for row in q.query_map([], |r| Ok((r.get::<_, String>(0)?, r.get::<_, i64>(1)?)))? {
            let (hash, _) = row?;
            report.files += 1;
            if let Err(e) = self.folder.get(&hash) {
                report.problems.push(format!("{e} ({hash})"));
            }
        }
        for kind in Kind::ALL {
            let table = kind.table();
            let mut q = c.prepare(&format!(
                "SELECT e.id, e.rev, e.deleted, e.body, j.rev, j.after FROM {table} e
                 LEFT JOIN journal j ON j.seq = (SELECT max(seq) FROM journal WHERE kind = '{table}' AND entity = e.id)"
            ))?;
            let mut rows = q.query([])?;
            while let Some(r) = rows.next()? {
                let (id, rev, deleted): (String, i64, bool) = (r.get(0)?, r.get(1)?, r.get(2)?);
                let (journal_rev, after): (Option<i64>, Option<String>) = (r.get(4)?, r.get(5)?);
                let value = |t: &str| serde_json::from_str::<Value>(t).ok();
                let same = match (&after, deleted) {
                    (Some(after), false) => value(after) == value(&r.get::<_, String>(3)?),
                    (None, true) => true,
                    _ => false,
                };
                if journal_rev != Some(rev) || !same {
                    report.problems.push(format!("The {kind} {id} is not what its history says."));
                }
            }
        }
        Ok(report)
    }
}
