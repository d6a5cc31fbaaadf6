//! The list of jobs and the search: answers that must stay quick with ten thousand jobs and a million notes.

use crate::LedgerError;
use crate::store::Ledger;
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::HashSet;
use utoipa::ToSchema;

/// A job in the list, in the order of the last change.
#[derive(Debug, Clone, PartialEq)]
pub struct Listed {
    /// The job.
    pub job_id: String,
    /// The change it was last touched by.
    pub seq: i64,
    /// When.
    pub changed_at: String,
    /// Its row as it was worked out after that change; none until it is worked out again.
    pub summary: Option<Value>,
}

/// A note, or a job's own name and address, that holds the words searched for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Hit {
    /// The job.
    pub job_id: String,
    /// The job's name.
    pub job: String,
    /// The note; none when it is the job's name or address.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note_id: Option<String>,
    /// The words around, with what was searched for between \u{2039} and \u{203a}.
    pub snippet: String,
}

impl Ledger {
    /// A page of the list, last changed first, and how many jobs there are.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn listed(&self, from: usize, most: usize) -> Result<(Vec<Listed>, usize), LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached(
            "SELECT t.job_id, t.seq, t.at, t.summary FROM touched t JOIN job j ON j.id = t.job_id AND j.deleted = 0
             ORDER BY t.seq DESC LIMIT ?1 OFFSET ?2",
        )?;
        let rows = q.query_map(params![most as i64, from as i64], |r| {
            Ok((r.get::<_, String>(0)?, r.get::<_, i64>(1)?, r.get::<_, String>(2)?, r.get::<_, Option<String>>(3)?))
        })?;
        let mut out = Vec::new();
        for row in rows {
            let (job_id, seq, changed_at, summary) = row?;
            let summary = summary.map(|s| serde_json::from_str(&s)).transpose()?;
            out.push(Listed { job_id, seq, changed_at, summary });
        }
        let all: i64 = c.prepare_cached("SELECT count(*) FROM job WHERE deleted = 0")?.query_row([], |r| r.get(0))?;
        Ok((out, all as usize))
    }

    /// Keeps a worked-out row of the list, unless the job has changed since.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn keep_summary(&self, job_id: &str, seq: i64, summary: &Value) -> Result<(), LedgerError> {
        self.write(|tx| {
            tx.prepare_cached("UPDATE touched SET summary = ?3 WHERE job_id = ?1 AND seq = ?2")?.execute(params![
                job_id,
                seq,
                summary.to_string()
            ])?;
            Ok(())
        })
    }

    /// Notes and jobs that hold every word, the newest first. The last word may be a beginning, unless it is a word by itself. `job` limits it to one job.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn search(&self, words: &str, job: Option<&str>, most: usize) -> Result<Vec<Hit>, LedgerError> {
        let Some(whole) = fts_query(words) else { return Ok(vec![]) };
        let c = self.read();
        // Whole words first: a beginning is looked for only when they do not fill the answer, and the last word is none that
        // stands somewhere by itself.
        let mut rows = matching(&c, &whole, job, most)?;
        if rows.len() < most && !is_word(&c, words)? {
            let known: HashSet<i64> = rows.iter().map(|r| r.0).collect();
            let more = matching(&c, &format!("{whole}*"), job, most)?;
            rows.extend(more.into_iter().filter(|r| !known.contains(&r.0)));
            rows.sort_by_key(|r| std::cmp::Reverse(r.0));
            rows.truncate(most);
        }
        let mut out = Vec::new();
        for (_, job_id, note_id, snippet) in rows {
            let name: Option<String> = c
                .prepare_cached("SELECT body ->> '$.name' FROM job WHERE id = ?1 AND deleted = 0")?
                .query_row([&job_id], |r| r.get(0))
                .optional()?;
            if let Some(job) = name {
                out.push(Hit { job_id, job, note_id, snippet });
            }
        }
        Ok(out)
    }
}

/// Shorter words are as often a beginning as a word.
const WORD_BY_ITSELF: usize = 4;

/// Whether the last word is one that stands somewhere as it is.
fn is_word(c: &Connection, words: &str) -> Result<bool, LedgerError> {
    let last = words.split(|c: char| !c.is_alphanumeric()).rfind(|w| !w.is_empty()).unwrap_or("").to_lowercase();
    if last.chars().count() < WORD_BY_ITSELF {
        return Ok(false);
    }
    Ok(c.prepare_cached("SELECT 1 FROM words_known WHERE term = ?1")?.exists([last])?)
}

type Matching = (i64, String, Option<String>, String);

/// The newest rows that match. A word that is on half of all notes is answered from the newest end, not by ranking half a
/// million rows.
fn matching(c: &Connection, query: &str, job: Option<&str>, most: usize) -> Result<Vec<Matching>, LedgerError> {
    let mut q = c.prepare_cached(
        "SELECT rowid, job_id, note_id, snippet(words, 0, '\u{2039}', '\u{203a}', '\u{2026}', 12) FROM words
         WHERE words MATCH ?1 AND (?2 IS NULL OR job_id = ?2) ORDER BY rowid DESC LIMIT ?3",
    )?;
    let rows = q.query_map(params![query, job, most as i64], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Words as a person types them, as a query that cannot be anything else: every word quoted.
fn fts_query(words: &str) -> Option<String> {
    const MOST_WORDS: usize = 12;
    let mut said: Vec<&str> = words.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).take(MOST_WORDS).collect();
    // The first letter of the next word says nothing yet, and stands at the beginning of a million words.
    if said.len() > 1 && said.last().is_some_and(|w| w.chars().count() == 1) {
        said.pop();
    }
    let words: Vec<String> = said.iter().map(|w| format!("\"{w}\"")).collect();
    (!words.is_empty()).then(|| words.join(" "))
}
