//! The journal: one row for each entity a change touches. Written only here, and only beside the entity itself.

use crate::LedgerError;
use crate::kinds::Kind;
use crate::row::Stored;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use uuid::Uuid;

/// Who asks for a change, under which key. The same key is the same change, however often it is sent.
#[derive(Debug, Clone)]
pub struct Request {
    /// Made by whoever asks, once for each action and kept for its retries.
    pub id: Uuid,
    /// Who.
    pub who: String,
}

/// What all rows of one request share.
pub(crate) struct Entry<'a> {
    pub(crate) request: &'a Request,
    pub(crate) step: usize,
    pub(crate) fingerprint: &'a str,
    pub(crate) at: &'a str,
    pub(crate) undoes: Option<&'a str>,
    /// The job is being brought in: it is not there yet for anybody else.
    pub(crate) coming: bool,
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
    } else if kind != Kind::Building {
        tx.prepare_cached(
            "INSERT INTO touched (job_id, seq, at) VALUES (?1, ?2, ?3)
             ON CONFLICT (job_id) DO UPDATE SET seq = excluded.seq, at = excluded.at, summary = NULL",
        )?
        .execute(params![job_id, tx.last_insert_rowid(), e.at])?;
    }
    Ok(())
}

/// What a request was answered, beside the entities it changed.
pub(crate) fn answer(tx: &Transaction<'_>, request: &Request, fingerprint: &str, told: &impl Serialize) -> Result<(), LedgerError> {
    tx.prepare_cached("INSERT INTO request (id, fingerprint, told) VALUES (?1, ?2, ?3)")?.execute(params![
        request.id.to_string(),
        fingerprint,
        serde_json::to_string(told)?
    ])?;
    Ok(())
}

/// The answer a request already got, if it was applied before: the entities as they were then, and what was told with them.
pub(crate) fn answered<A: DeserializeOwned>(
    c: &Connection,
    request: &Request,
    fingerprint: &str,
) -> Result<Option<(Vec<Stored>, A)>, LedgerError> {
    let id = request.id.to_string();
    let said: Option<(String, String)> = c
        .prepare_cached("SELECT fingerprint, told FROM request WHERE id = ?1")?
        .query_row([&id], |r| Ok((r.get(0)?, r.get(1)?)))
        .optional()?;
    let Some((was, told)) = said else { return Ok(None) };
    let told = match serde_json::from_str(&told) {
        Ok(told) if was == fingerprint => told,
        _ => return Err(LedgerError::Reused),
    };
    let mut q = c.prepare_cached("SELECT job_id, kind, entity, rev, before, after FROM journal WHERE request = ?1 ORDER BY step")?;
    let mut rows = q.query([id])?;
    let mut out = Vec::new();
    while let Some(r) = rows.next()? {
        let (before, after): (Option<String>, Option<String>) = (r.get(4)?, r.get(5)?);
        let body = after.as_ref().or(before.as_ref()).map_or(Ok(Value::Null), |b| serde_json::from_str(b))?;
        let kind = Kind::from_table(&r.get::<_, String>(1)?)?;
        out.push(Stored { kind, id: r.get(2)?, job_id: r.get(0)?, rev: r.get(3)?, deleted: after.is_none(), body });
    }
    Ok(Some((out, told)))
}

/// A change in words.
pub(crate) fn sentence(kind: Kind, before: Option<&Value>, after: Option<&Value>) -> String {
    let what = after.or(before).map(|body| kind.label(body)).unwrap_or_default();
    let did = match (before, after) {
        (None, _) => "added",
        (Some(_), Some(_)) => "changed",
        (Some(_), None) => "deleted",
    };
    let short: String = what.chars().take(80).collect();
    let noun = kind.noun();
    if short.is_empty() { format!("{noun} {did}") } else { format!("{noun} {did}: {short}") }
}
