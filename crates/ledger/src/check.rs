//! A look whether all is sound, and mending what is derived.

use crate::LedgerError;
use crate::kinds::Kind;
use crate::store::Ledger;
use rusqlite::Connection;
use serde::Serialize;
use serde_json::Value;
use std::collections::HashSet;

/// What a check found. No problems is good news.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct CheckReport {
    /// Jobs that were looked at.
    pub jobs: usize,
    /// Picture files that were read and compared.
    pub files: usize,
    /// Everything that is wrong, in sentences that say what to do.
    pub problems: Vec<String>,
}

/// What was rebuilt.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct Mended {
    /// What was done, in sentences; empty when there was nothing to do.
    pub done: Vec<String>,
}

/// One part of the check.
type Look = fn(&Ledger, &Connection, &mut CheckReport) -> Result<(), LedgerError>;

const FROM_BACKUP: &str = "Go back to a backup with trowel restore, or export what is whole.";
const BY_MENDING: &str = "trowel check --mend puts it right.";

impl Ledger {
    /// Looks whether the database is sound, every reference leads somewhere, every picture file is what was stored, every
    /// entity reads as what it is and is what the journal says, and everything derived from them is there. One fault does not
    /// hide the next.
    ///
    /// # Errors
    /// Only when the folder cannot be looked at; what is found wrong is in the report.
    pub fn check(&self) -> Result<CheckReport, LedgerError> {
        let c = self.read();
        let mut report = CheckReport::default();
        let looks: [(&str, Look); 5] = [
            ("the pages of the database", pages),
            ("the jobs", jobs),
            ("the picture files", files),
            ("the entities and their history", entities),
            ("search and list", derived),
        ];
        for (what, look) in looks {
            if let Err(e) = look(self, &c, &mut report) {
                report.problems.push(format!("Looking at {what} broke off: {e} {FROM_BACKUP}"));
            }
        }
        Ok(report)
    }

    /// Rebuilds what is derived and nothing else: the search, the rows of the list, and files no picture names are taken away.
    ///
    /// # Errors
    /// What the disk or SQLite says; nothing is half done then.
    pub fn mend(&self) -> Result<Mended, LedgerError> {
        self.write(|tx| {
            let mut done = Vec::new();
            if search_is_off(tx)? {
                tx.execute_batch(
                    "DELETE FROM words; DELETE FROM worded;
                     INSERT INTO words (text, job_id, note_id)
                         SELECT (body ->> '$.text') || ' ' || coalesce(replace(body ->> '$.condition', '-', ' '), ''), job_id, id FROM note WHERE deleted = 0 ORDER BY rowid;
                     INSERT INTO words (text, job_id, note_id)
                         SELECT (body ->> '$.name') || ' ' || coalesce(body ->> '$.brief.address', ''), id, NULL FROM job WHERE deleted = 0 ORDER BY rowid;
                     INSERT INTO worded (id, word_row) SELECT coalesce(note_id, job_id), rowid FROM words;",
                )?;
                done.push("The search was built again.".to_owned());
            }
            let listed = "SELECT count(*) FROM job WHERE id NOT IN (SELECT job_id FROM touched)";
            if tx.query_row(listed, [], |r| r.get::<_, i64>(0))? > 0 {
                tx.execute_batch(
                    "INSERT INTO touched (job_id, seq, at) SELECT job_id, max(seq), max(at) FROM journal
                     WHERE job_id IN (SELECT id FROM job) AND job_id NOT IN (SELECT job_id FROM touched) GROUP BY job_id",
                )?;
                done.push("The list of jobs was built again.".to_owned());
            }
            let orphans = self.orphans(tx)?;
            for name in &orphans {
                self.folder.remove(name)?;
            }
            if !orphans.is_empty() {
                done.push(format!("{} files that no picture names were taken away.", orphans.len()));
            }
            Ok(Mended { done })
        })
    }

    /// Files that lie in the picture folder and are named by no row.
    fn orphans(&self, c: &Connection) -> Result<Vec<String>, LedgerError> {
        let known: HashSet<String> = c.prepare("SELECT hash FROM blob")?.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
        Ok(self.folder.names()?.into_iter().filter(|n| !known.contains(n)).collect())
    }
}

fn pages(_: &Ledger, c: &Connection, report: &mut CheckReport) -> Result<(), LedgerError> {
    c.pragma_query(None, "integrity_check", |r| {
        let line: String = r.get(0)?;
        if line != "ok" {
            report.problems.push(format!("The database is damaged: {line}. {FROM_BACKUP}"));
        }
        Ok(())
    })?;
    c.pragma_query(None, "foreign_key_check", |r| {
        report.problems.push(format!("A row of {} names something that is not there. {FROM_BACKUP}", r.get::<_, String>(0)?));
        Ok(())
    })?;
    Ok(())
}

fn jobs(ledger: &Ledger, c: &Connection, report: &mut CheckReport) -> Result<(), LedgerError> {
    report.jobs = c.query_row("SELECT count(*) FROM job", [], |r| r.get::<_, i64>(0))? as usize;
    let lying = ledger.folder.names()?.len();
    if report.jobs == 0 && lying > 0 {
        report
            .problems
            .push(format!("The database is empty, but {lying} picture files lie beside it: it was emptied or replaced. {FROM_BACKUP}"));
    }
    Ok(())
}

fn files(ledger: &Ledger, c: &Connection, report: &mut CheckReport) -> Result<(), LedgerError> {
    let mut q = c.prepare("SELECT hash FROM blob ORDER BY hash")?;
    for hash in q.query_map([], |r| r.get::<_, String>(0))? {
        let hash = hash?;
        report.files += 1;
        if let Err(e) = ledger.folder.get(&hash) {
            report.problems.push(format!("{e} ({hash})"));
        }
    }
    // With an empty database every file is one nobody names; that is said once, and is no matter for mending.
    let orphans = if report.jobs == 0 { vec![] } else { ledger.orphans(c)? };
    if !orphans.is_empty() {
        report.problems.push(format!("{} files lie in the picture folder that no picture names. {BY_MENDING}", orphans.len()));
    }
    Ok(())
}

fn entities(_: &Ledger, c: &Connection, report: &mut CheckReport) -> Result<(), LedgerError> {
    for &kind in Kind::ALL {
        let table = kind.table();
        let mut q = c.prepare(&format!(
            "SELECT e.id, e.rev, e.deleted, e.body, j.rev, j.after FROM {table} e
             LEFT JOIN journal j ON j.seq = (SELECT max(seq) FROM journal WHERE kind = '{table}' AND entity = e.id)"
        ))?;
        let mut rows = q.query([])?;
        while let Some(r) = rows.next()? {
            let (id, rev, deleted, body): (String, i64, bool, String) = (r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?);
            let (journal_rev, after): (Option<i64>, Option<String>) = (r.get(4)?, r.get(5)?);
            let value = |t: &str| serde_json::from_str::<Value>(t).ok();
            let same = match (&after, deleted) {
                (Some(after), false) => value(after) == value(&body),
                (None, true) => true,
                _ => false,
            };
            if journal_rev != Some(rev) || !same {
                report.problems.push(format!("The {kind} {id} is not what its history says. {FROM_BACKUP}"));
            }
            if let Err(e) = kind.reads(&body) {
                report.problems.push(format!("The {kind} {id} cannot be read: {e}. {FROM_BACKUP}"));
            }
        }
    }
    Ok(())
}

fn search_is_off(c: &Connection) -> Result<bool, LedgerError> {
    let one = |sql: &str| c.query_row(sql, [], |r| r.get::<_, i64>(0));
    let live = one("SELECT (SELECT count(*) FROM note WHERE deleted = 0) + (SELECT count(*) FROM job WHERE deleted = 0)")?;
    Ok(one("SELECT count(*) FROM words")? != live || one("SELECT count(*) FROM worded")? != live)
}

fn derived(_: &Ledger, c: &Connection, report: &mut CheckReport) -> Result<(), LedgerError> {
    if search_is_off(c)? {
        report.problems.push(format!("The search does not know every job and note. {BY_MENDING}"));
    }
    let missing: i64 = c.query_row("SELECT count(*) FROM job WHERE id NOT IN (SELECT job_id FROM touched)", [], |r| r.get(0))?;
    if missing > 0 {
        report.problems.push(format!("{missing} jobs are not in the list. {BY_MENDING}"));
    }
    Ok(())
}
