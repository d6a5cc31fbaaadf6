//! Notes: a line as typed, or a note as corrected by hand.

use crate::ApiError;
use crate::api::{Base, ChangeId, Put, id};
use crate::jobs::{delete_one, record};
use crate::state::{App, block};
use actix_web::{delete, post, put, web};
use envelope::finding::catalogue;
use envelope::round::{Context, Correction, Note, NoteKind, ReadNote, Reading, Walk, WalkInput, decode, read, read_walk as read_whole};
use envelope::site::Place;
use ledger::{Change, Kind, Record, Stored};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(keep_line).service(save_note).service(remove_note).service(read_walk);
}

/// A line as typed, with what was corrected by hand before it was kept.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct Line {
    /// The line.
    pub(crate) line: String,
    /// The place chosen on the wheel.
    pub(crate) place: Place,
    /// Conditions chosen by hand, one for each note the line was read as; an empty text means "none of these".
    #[serde(default)]
    pub(crate) conditions: Vec<Option<String>>,
    /// The one gesture "done right": whatever the line says is recorded as right.
    #[serde(default)]
    pub(crate) done_right: bool,
    /// When it was typed, RFC 3339.
    #[serde(default)]
    pub(crate) at: String,
}

/// What a line became.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Kept {
    /// One note for each finding; none when the line only corrects or moves on.
    notes: Vec<Record<Note>>,
    /// Where the walk has moved on to.
    #[serde(skip_serializing_if = "Option::is_none")]
    moved: Option<Place>,
    /// What was done to the note before, in words.
    #[serde(skip_serializing_if = "Option::is_none")]
    corrected: Option<String>,
}

/// The condition a person chose instead of the one that was read.
fn corrected(mut note: ReadNote, by_hand: Option<&Option<String>>, done_right: bool) -> ReadNote {
    if let Some(Some(id)) = by_hand {
        note.condition = Some(id.clone()).filter(|id| !id.is_empty());
        note.kind = match note.condition.as_deref().and_then(|id| catalogue().get(id)) {
            Some(c) if c.is_ok() => NoteKind::Good,
            Some(c) if c.side => NoteKind::Side,
            Some(_) => NoteKind::Defect,
            None => NoteKind::Remark,
        };
    }
    if done_right && note.kind != NoteKind::Good {
        // A fault that was read is turned into the row that says the same place is right, when there is exactly one.
        let right = note.condition.as_deref().and_then(|id| catalogue().get(id)).map(|c| c.right.clone()).unwrap_or_default();
        note.condition = <[String; 1]>::try_from(right).ok().map(|[id]| id);
        note.kind = NoteKind::Good;
    }
    note
}

/// Keeps a line as one note for each finding in it.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Line, responses((status = 200, body = Kept), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/lines")]
pub(crate) async fn keep_line(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    line: web::Json<Line>,
) -> Result<web::Json<Kept>, ApiError> {
    let job = id(&path, "job")?;
    let Line { line, place, conditions, done_right, at } = line.into_inner();
    if at.len() > 40 {
        return Err(ApiError::field("at", "This is not a time."));
    }
    block(move || {
        let whole = app.ledger.job(&job)?;
        let text = if done_right && line.trim().is_empty() { "Done right".to_owned() } else { line };
        let context = Context { place, front: whole.job.body.brief.front_faces, own_words: whole.practice.own_word.clone() };
        let mut reading = read(&text, &context);
        if reading.notes.is_empty() && reading.moved.is_none() && reading.correction.is_none() {
            return Err(ApiError::field("line", "An empty line says nothing. Type what you see."));
        }
        let mut changes = Vec::new();
        // A retry finds the note before changed by the first try: the answer of the first try is given again.
        let told = match last_note(&whole, &change) {
            Some(last) => correct(&reading, last, &mut changes)?,
            None if reading.correction.is_some() && reading.notes.is_empty() => {
                return Err(ApiError::field("line", "There is no note before this one to correct."));
            }
            None => None,
        };
        repeat(&mut reading, &whole);
        for (i, note) in reading.notes.drain(..).enumerate() {
            let note = corrected(note, conditions.get(i), done_right).into_note(at.clone());
            note.check()?;
            // Ids follow from the request, so that a retry makes the same notes.
            let id = Uuid::new_v5(&change.0, i.to_string().as_bytes()).to_string();
            changes.push(Change::put(&id, None, &note)?);
        }
        let mut notes = Vec::new();
        if !changes.is_empty() {
            let stored = app.ledger.apply(&app.request(change.0), &job, &changes, &[])?;
            for s in stored.into_iter().filter(|s| !s.deleted) {
                notes.push(record(vec![s])?);
            }
        }
        Ok(Kept { notes, moved: reading.moved, corrected: told })
    })
    .await
    .map(web::Json)
}

/// The note a correction speaks of: the last one entered before this request.
fn last_note<'a>(whole: &'a ledger::WholeJob, change: &ChangeId) -> Option<&'a Record<Note>> {
    let own: Vec<String> = (0..8).map(|i: u32| Uuid::new_v5(&change.0, i.to_string().as_bytes()).to_string()).collect();
    whole.notes.iter().rev().find(|n| !own.contains(&n.id))
}

/// What a line says about the note before, as a change to it.
fn correct(reading: &Reading, last: &Record<Note>, changes: &mut Vec<Change>) -> Result<Option<String>, ApiError> {
    let Some(correction) = &reading.correction else { return Ok(None) };
    let mut note = last.body.clone();
    let name: String = note.text.chars().take(60).collect();
    let new = reading.notes.first();
    let same = new
        .is_some_and(|n| n.condition.is_some() && n.condition == note.condition || n.component.is_some() && n.component == note.component);
    let told = match correction {
        Correction::ReplaceLast if !same => return Ok(None),
        Correction::DropLast | Correction::ReplaceLast => {
            changes.push(Change::delete(Kind::Note, &last.id, last.rev));
            return Ok(Some(format!("Taken back: {name}")));
        }
        Correction::MoveLast { .. } => {
            correction.put_right(&mut note.place, &mut note.measures);
            format!("Moved to {}: {name}", note.place.words().to_lowercase())
        }
        Correction::RemeasureLast { .. } => {
            correction.put_right(&mut note.place, &mut note.measures);
            format!("Measured again: {name}")
        }
    };
    note.check()?;
    changes.push(Change::put(&last.id, Some(last.rev), &note)?);
    Ok(Some(told))
}

/// "Same here": a line that names no condition of its own repeats the last one.
fn repeat(reading: &mut Reading, whole: &ledger::WholeJob) {
    let last = whole.notes.iter().rev().find(|n| n.body.condition.is_some());
    let (true, Some(last)) = (reading.again, last) else { return };
    for n in reading.notes.iter_mut().filter(|n| n.condition.is_none()) {
        n.condition = last.body.condition.clone();
        n.kind = last.body.kind;
        n.component = n.component.take().or_else(|| last.body.component.clone());
    }
}

/// Reads a whole walk for the review list; nothing is kept. The request body is the walk as text: WebVTT, SRT or plain lines.
#[utoipa::path(tag = "round", request_body(content = String, content_type = "text/plain"), responses((status = 200, body = Walk), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/walk")]
pub(crate) async fn read_walk(app: web::Data<App>, path: web::Path<String>, payload: web::Payload) -> Result<web::Json<Walk>, ApiError> {
    let job = id(&path, "job")?;
    let bytes = crate::pictures::body(payload, envelope::round::LARGEST_WALK_FILE, "walk file").await?;
    block(move || {
        let whole = app.ledger.job(&job)?;
        let front = whole.job.body.brief.front_faces;
        Ok(read_whole(&WalkInput { walk: decode(&bytes)?, front, place: None, own_words: whole.practice.own_word.clone() })?)
    })
    .await
    .map(web::Json)
}

/// Keeps a note as corrected by hand.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Put<Note>, responses((status = 200, body = Record<Note>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/notes/{note}")]
pub(crate) async fn save_note(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    put: web::Json<Put<Note>>,
) -> Result<web::Json<Record<Note>>, ApiError> {
    let (job, note) = path.into_inner();
    let (job, note) = (id(&job, "job")?, id(&note, "note")?);
    let Put { base, body } = put.into_inner();
    body.check()?;
    block(move || record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&note, base, &body)?], &[])?)).await.map(web::Json)
}

/// Deletes a note; undo brings it back.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/notes/{note}")]
pub(crate) async fn remove_note(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, note) = path.into_inner();
    delete_one(app, id(&job, "job")?, Kind::Note, id(&note, "note")?, change, base.base).await
}
