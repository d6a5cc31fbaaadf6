//! Going back: the history of a job, undo and redo, the job as it was at any moment.

use crate::LedgerError;
use crate::change::set;
use crate::journal::{Entry, Request, answer, answered, sentence};
use crate::kinds::{Kind, Version, WholeJob};
use crate::record::{Raw, Record};
use crate::row::{Stored, current};
use crate::store::{Ledger, practice_of, version};
use envelope::job::Job;
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// One change, as a person reads it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HistoryRow {
    /// Running number.
    pub seq: i64,
    /// When, RFC 3339.
    pub at: String,
    /// Who.
    pub who: String,
    /// What kind of entity.
    pub kind: Kind,
    /// Its id.
    pub entity: String,
    /// "Note added: torn boot".
    pub sentence: String,
    /// It takes back an earlier change.
    pub undo: bool,
    /// It was taken back later.
    pub undone: bool,
    /// The entity before; absent when it was not there.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub before: Option<Value>,
    /// The entity after; absent when it is not there.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub after: Option<Value>,
}

/// What an undo took back.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Undone {
    /// What was taken back, in words.
    pub sentence: String,
    /// The entities as they are now.
    pub entities: Vec<Stored>,
}

impl Ledger {
    /// The history of a job, newest first, at most `most` rows.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn history(&self, job_id: &str, most: usize) -> Result<Vec<HistoryRow>, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached(
            "SELECT seq, at, who, kind, entity, before, after, undoes IS NOT NULL,
                    undoes IS NULL AND EXISTS (SELECT 1 FROM journal u WHERE u.undoes = j.request
                        AND NOT EXISTS (SELECT 1 FROM journal r WHERE r.undoes = u.request))
             FROM journal j WHERE job_id = ?1 ORDER BY seq DESC LIMIT ?2",
        )?;
        let mut rows = q.query(params![job_id, most as i64])?;
        let mut out = Vec::new();
        let value = |t: Option<String>| t.map(|t| serde_json::from_str::<Value>(&t)).transpose();
        while let Some(r) = rows.next()? {
            let (before, after) = (value(r.get(5)?)?, value(r.get(6)?)?);
            let kind = Kind::from_table(&r.get::<_, String>(3)?)?;
            let sentence = sentence(kind, before.as_ref(), after.as_ref());
            out.push(HistoryRow {
                seq: r.get(0)?,
                at: r.get(1)?,
                who: r.get(2)?,
                kind,
                entity: r.get(4)?,
                sentence,
                undo: r.get(7)?,
                undone: r.get(8)?,
                before,
                after,
            });
        }
        Ok(out)
    }

    /// Takes back the last change of a job that is not taken back yet. Making the job itself is not undone; deleting it is. Where
    /// somebody stood is no change that anybody would want back: places of a track are passed over.
    ///
    /// # Errors
    /// [`LedgerError::NothingToUndo`], or what SQLite says.
    pub fn undo(&self, request: &Request, job_id: &str) -> Result<Undone, LedgerError> {
        // A change stands unless something takes it back that was not itself taken back by a redo.
        let last = "SELECT request FROM journal j
             WHERE job_id = ?1 AND undoes IS NULL AND kind <> 'stop'
               AND NOT EXISTS (SELECT 1 FROM journal u WHERE u.undoes = j.request
                   AND NOT EXISTS (SELECT 1 FROM journal r WHERE r.undoes = u.request))
               AND request <> (SELECT request FROM journal WHERE job_id = ?1 ORDER BY seq LIMIT 1)
             ORDER BY seq DESC LIMIT 1";
        self.reverse(request, job_id, last, LedgerError::NothingToUndo, false)
    }

    /// Does again what was last taken back, as long as nothing else was changed since.
    ///
    /// # Errors
    /// [`LedgerError::NothingToRedo`], or what SQLite says.
    pub fn redo(&self, request: &Request, job_id: &str) -> Result<Undone, LedgerError> {
        // An undo takes back a change that stands by itself; a redo takes back an undo, and is never taken back.
        let last = "SELECT u.request FROM journal u
             WHERE u.job_id = ?1 AND u.undoes IS NOT NULL
               AND EXISTS (SELECT 1 FROM journal j WHERE j.request = u.undoes AND j.undoes IS NULL)
               AND NOT EXISTS (SELECT 1 FROM journal r WHERE r.undoes = u.request)
               AND NOT EXISTS (SELECT 1 FROM journal n WHERE n.job_id = ?1 AND n.undoes IS NULL AND n.kind <> 'stop' AND n.seq > u.seq)
             ORDER BY u.seq DESC LIMIT 1";
        self.reverse(request, job_id, last, LedgerError::NothingToRedo, true)
    }

    /// Puts every entity of one request back to what it was before it.
    fn reverse(&self, request: &Request, job_id: &str, which: &str, nothing: LedgerError, again: bool) -> Result<Undone, LedgerError> {
        let did = if again { "Done again" } else { "Taken back" };
        let at = self.now();
        let fingerprint = format!("{did} {job_id}");
        self.write(|tx| {
            if let Some((entities, sentence)) = answered(tx, request, &fingerprint)? {
                return Ok(Undone { sentence, entities });
            }
            let last: Option<String> = tx.query_row(which, [job_id], |r| r.get(0)).optional()?;
            let last = last.ok_or(nothing)?;
            let mut q = tx.prepare_cached("SELECT kind, entity, before, after FROM journal WHERE request = ?1 ORDER BY step DESC")?;
            let steps: Vec<(String, String, Option<String>, Option<String>)> =
                q.query_map([&last], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?)))?.collect::<Result<_, _>>()?;
            let mut entities = Vec::new();
            let mut said = String::new();
            for (step, (kind_name, id, before, after)) in steps.into_iter().enumerate() {
                let kind = Kind::from_table(&kind_name)?;
                let value = |t: Option<String>| t.map(|t| serde_json::from_str::<Value>(&t)).transpose();
                let (before, after) = (value(before)?, value(after)?);
                // Of a change that is done again its own words are said, not those of what took it back.
                said =
                    if again { sentence(kind, after.as_ref(), before.as_ref()) } else { sentence(kind, before.as_ref(), after.as_ref()) };
                let now = current(tx, kind, &id)?;
                let live = now.as_ref().filter(|s| !s.deleted).map(|s| s.body.clone());
                let entry = Entry { request, step, fingerprint: &fingerprint, at: &at, undoes: Some(&last), coming: false };
                entities.push(set(tx, job_id, kind, &id, now.as_ref(), before.as_ref(), live.as_ref(), &entry)?);
            }
            // Only the first letter is made small: what follows may be a name.
            let mut letters = said.chars();
            let first = letters.next().map(char::to_lowercase).into_iter().flatten();
            let sentence = format!("{did}: {}", first.chain(letters).collect::<String>());
            answer(tx, request, &fingerprint, &sentence)?;
            Ok(Undone { sentence, entities })
        })
    }

    /// A job as it was after the change numbered `seq`.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`] when the job was not there then.
    pub fn job_at(&self, job_id: &str, seq: i64) -> Result<WholeJob, LedgerError> {
        let c = self.read();
        let mut q = c.prepare_cached(
            "SELECT kind, entity, rev, after, at FROM journal j WHERE job_id = ?1 AND seq <= ?2
               AND seq = (SELECT max(seq) FROM journal l WHERE l.kind = j.kind AND l.entity = j.entity AND l.seq <= ?2)
             ORDER BY (SELECT min(seq) FROM journal f WHERE f.kind = j.kind AND f.entity = j.entity)",
        )?;
        let mut rows = q.query(params![job_id, seq])?;
        let mut by_kind: BTreeMap<Kind, Vec<Raw>> = BTreeMap::new();
        let mut changed_at = String::new();
        while let Some(r) = rows.next()? {
            changed_at = changed_at.max(r.get(4)?);
            if let Some(body) = r.get::<_, Option<String>>(3)? {
                let kind = Kind::from_table(&r.get::<_, String>(0)?)?;
                by_kind.entry(kind).or_default().push(Raw { id: r.get(1)?, rev: r.get(2)?, body });
            }
        }
        let job = by_kind.remove(&Kind::Job).and_then(|mut rows| rows.pop());
        let job: Record<Job> = job.ok_or_else(|| LedgerError::NotFound { kind: Kind::Job, id: job_id.to_owned() })?.typed()?;
        let practice = practice_of(&c, &job)?.0;
        let version = Version { seq, ..version(&c, job_id)? };
        WholeJob::gather(job, practice, version, changed_at, |kind| Ok(by_kind.remove(&kind).unwrap_or_default()))
    }
}
