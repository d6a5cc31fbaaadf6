//! The journal: what was changed, by whom, when, before and after; and going back.

use crate::LedgerError;
use crate::store::{self, Kind, Ledger, Record, Request, Stored, WholeJob};
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// What all rows of one request share.
pub(crate) struct Entry<'a> {
    pub(crate) request: &'a Request,
    pub(crate) step: usize,
    pub(crate) fingerprint: &'a str,
    pub(crate) at: &'a str,
    pub(crate) undoes: Option<&'a str>,
}

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

#[allow(clippy::too_many_arguments, reason = "one row of the journal")]
pub(crate) fn write(
    tx: &Transaction<'_>,
    job_id: &str,
    kind: Kind,
    id: &str,
    rev: i64,
    before: Option<&Value>,
    after: Option<&Value>,
    e: &Entry<'_>,
) -> Result<(), LedgerError> {
    tx.prepare_cached(
        "INSERT INTO journal (request, step, fingerprint, at, who, job_id, kind, entity, rev, before, after, undoes)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12)",
    )?
    .execute(params![
        e.request.id.to_string(),
        e.step as i64,
        e.fingerprint,
        e.at,
        e.request.who,
        job_id,
        kind.table(),
        id,
        rev,
        before.map(Value::to_string),
        after.map(Value::to_string),
        e.undoes
    ])?;
    if kind == Kind::Practice {
        // What every job says may have changed with it.
        tx.execute("UPDATE touched SET summary = NULL", [])?;
    } else {
        tx.prepare_cached(
            "INSERT INTO touched (job_id, seq, at) VALUES (?1, ?2, ?3)
             ON CONFLICT (job_id) DO UPDATE SET seq = excluded.seq, at = excluded.at, summary = NULL",
        )?
        .execute(params![job_id, tx.last_insert_rowid(), e.at])?;
    }
    Ok(())
}

/// The answer a request already got, if it was applied before.
pub(crate) fn already(tx: &Connection, request: &Request, fingerprint: &str) -> Result<Option<Vec<Stored>>, LedgerError> {
    let mut q =
        tx.prepare_cached("SELECT fingerprint, job_id, kind, entity, rev, before, after FROM journal WHERE request = ?1 ORDER BY step")?;
    let mut rows = q.query([request.id.to_string()])?;
    let mut out = Vec::new();
    while let Some(r) = rows.next()? {
        if r.get_ref(0)?.as_str().ok() != Some(fingerprint) {
            return Err(LedgerError::Reused);
        }
        let (before, after): (Option<String>, Option<String>) = (r.get(5)?, r.get(6)?);
        let body = after.as_ref().or(before.as_ref()).map_or(Ok(Value::Null), |b| serde_json::from_str(b))?;
        out.push(Stored {
            kind: kind(&r.get::<_, String>(2)?)?,
            id: r.get(3)?,
            job_id: r.get(1)?,
            rev: r.get(4)?,
            deleted: after.is_none(),
            body,
        });
    }
    Ok((!out.is_empty()).then_some(out))
}

fn kind(name: &str) -> Result<Kind, LedgerError> {
    Kind::from_table(name).ok_or_else(|| LedgerError::Unreadable(format!("unknown kind {name}")))
}

/// A change in words.
fn sentence(kind: Kind, before: Option<&Value>, after: Option<&Value>) -> String {
    let said = after.or(before);
    let text = |key: &str| said.and_then(|v| v[key].as_str()).unwrap_or_default();
    let what = match kind {
        Kind::Job => text("name"),
        Kind::Note => text("text"),
        Kind::Mark => text("cell"),
        Kind::Picture | Kind::Item | Kind::Practice => text("name"),
        Kind::Roof => "measured",
        Kind::Rainwater => "gutters",
        Kind::Ground => "readings",
    };
    let did = match (before, after) {
        (None, _) => "added",
        (Some(_), Some(_)) => "changed",
        (Some(_), None) => "deleted",
    };
    let noun = match kind {
        Kind::Job => "Job",
        Kind::Note => "Note",
        Kind::Mark => "Mark",
        Kind::Picture => "Picture",
        Kind::Item => "Counted",
        Kind::Practice => "Practice",
        Kind::Roof => "Roof",
        Kind::Rainwater => "Rainwater",
        Kind::Ground => "Ground",
    };
    let short: String = what.chars().take(80).collect();
    if short.is_empty() { format!("{noun} {did}") } else { format!("{noun} {did}: {short}") }
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
            let kind = kind(&r.get::<_, String>(3)?)?;
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

    /// Takes back the last change of a job that is not taken back yet. Making the job itself is not undone; deleting it is.
    ///
    /// # Errors
    /// [`LedgerError::NothingToUndo`], or what SQLite says.
    pub fn undo(&self, request: &Request, job_id: &str) -> Result<Undone, LedgerError> {
        // A change stands unless something takes it back that was not itself taken back by a redo.
        let last = "SELECT request FROM journal j
             WHERE job_id = ?1 AND undoes IS NULL
               AND NOT EXISTS (SELECT 1 FROM journal u WHERE u.undoes = j.request
                   AND NOT EXISTS (SELECT 1 FROM journal r WHERE r.undoes = u.request))
               AND request <> (SELECT request FROM journal WHERE job_id = ?1 ORDER BY seq LIMIT 1)
             ORDER BY seq DESC LIMIT 1";
        self.reverse(request, job_id, last, LedgerError::NothingToUndo, "Taken back")
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
               AND NOT EXISTS (SELECT 1 FROM journal n WHERE n.job_id = ?1 AND n.undoes IS NULL AND n.seq > u.seq)
             ORDER BY u.seq DESC LIMIT 1";
        self.reverse(request, job_id, last, LedgerError::NothingToRedo, "Done again")
    }

    /// Puts every entity of one request back to what it was before it.
    fn reverse(&self, request: &Request, job_id: &str, which: &str, nothing: LedgerError, did: &str) -> Result<Undone, LedgerError> {
        let at = self.now();
        let fingerprint = format!("{did} {job_id}");
        self.write(|tx| {
            if let Some(entities) = already(tx, request, &fingerprint)? {
                return Ok(Undone { sentence: format!("Already {}.", did.to_lowercase()), entities });
            }
            let last: Option<String> = tx.query_row(which, [job_id], |r| r.get(0)).optional()?;
            let last = last.ok_or(nothing)?;
            let mut q = tx.prepare_cached("SELECT kind, entity, before, after FROM journal WHERE request = ?1 ORDER BY step DESC")?;
            let steps: Vec<(String, String, Option<String>, Option<String>)> =
                q.query_map([&last], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?)))?.collect::<Result<_, _>>()?;
            let mut entities = Vec::new();
            let mut said = String::new();
            for (step, (kind_name, id, before, after)) in steps.into_iter().enumerate() {
                let kind = kind(&kind_name)?;
                let value = |t: Option<String>| t.map(|t| serde_json::from_str::<Value>(&t)).transpose();
                let (before, after) = (value(before)?, value(after)?);
                said = sentence(kind, before.as_ref(), after.as_ref());
                let now = store::current(tx, kind, &id)?;
                let live = now.as_ref().filter(|s| !s.deleted).map(|s| s.body.clone());
                let entry = Entry { request, step, fingerprint: &fingerprint, at: &at, undoes: Some(&last) };
                entities.push(store::set(tx, job_id, kind, &id, now.as_ref(), before.as_ref(), live.as_ref(), &entry)?);
            }
            Ok(Undone { sentence: format!("{did}: {}", said.to_lowercase()), entities })
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
        let (mut job, mut notes, mut marks, mut pictures, mut items, mut roof, mut rainwater, mut ground) =
            (None, vec![], vec![], vec![], vec![], None, None, None);
        let mut changed_at = String::new();
        fn typed<T: serde::de::DeserializeOwned>(id: String, rev: i64, body: &str) -> Result<Record<T>, LedgerError> {
            let body = serde_json::from_str(body).map_err(|e| LedgerError::Unreadable(format!("{id}: {e}")))?;
            Ok(Record { id, rev, body })
        }
        while let Some(r) = rows.next()? {
            let (id, rev, after): (String, i64, Option<String>) = (r.get(1)?, r.get(2)?, r.get(3)?);
            changed_at = changed_at.max(r.get(4)?);
            let Some(body) = after else { continue };
            match kind(&r.get::<_, String>(0)?)? {
                Kind::Job => job = Some(typed(id, rev, &body)?),
                Kind::Note => notes.push(typed(id, rev, &body)?),
                Kind::Mark => marks.push(typed(id, rev, &body)?),
                Kind::Picture => pictures.push(typed(id, rev, &body)?),
                Kind::Item => items.push(typed(id, rev, &body)?),
                Kind::Roof => roof = Some(typed(id, rev, &body)?),
                Kind::Rainwater => rainwater = Some(typed(id, rev, &body)?),
                Kind::Ground => ground = Some(typed(id, rev, &body)?),
                Kind::Practice => {}
            }
        }
        let job = job.ok_or_else(|| LedgerError::NotFound { kind: Kind::Job, id: job_id.to_owned() })?;
        let practice = store::practice_of(&c, &job)?;
        Ok(WholeJob { job, notes, marks, pictures, items, roof, rainwater, ground, practice, changed_at })
    }
}
