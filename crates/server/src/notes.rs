//! Notes: a line as typed, or a note as corrected by hand.

use crate::ApiError;
use crate::api::{Base, ChangeId, Put, id};
use crate::jobs::{delete_one, record};
use crate::state::{App, block};
use actix_web::{delete, post, put, web};
use envelope::finding::catalogue;
use envelope::round::{Context, Note, NoteKind, ReadNote, read};
use envelope::site::Place;
use ledger::{Change, Kind, Record, Stored};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(keep_line).service(save_note).service(remove_note);
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
    /// One note for each finding.
    notes: Vec<Record<Note>>,
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
        let whole = app.ledger.get::<envelope::job::Job>(&job, &job)?;
        let text = if done_right && line.trim().is_empty() { "Done right".to_owned() } else { line };
        let mut read = read(&text, &Context::at(place, whole.body.brief.front_faces)).notes;
        if read.is_empty() {
            return Err(ApiError::field("line", "An empty line says nothing. Type what you see."));
        }
        let mut changes = Vec::new();
        for (i, note) in read.drain(..).enumerate() {
            let note = corrected(note, conditions.get(i), done_right).into_note(at.clone());
            note.check()?;
            // Ids follow from the request, so that a retry makes the same notes.
            let id = Uuid::new_v5(&change.0, i.to_string().as_bytes()).to_string();
            changes.push(Change::put(&id, None, &note)?);
        }
        let stored = app.ledger.apply(&app.request(change.0), &job, &changes, &[])?;
        Ok(Kept { notes: stored.into_iter().map(|s| record(vec![s])).collect::<Result<Vec<_>, _>>()? })
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
