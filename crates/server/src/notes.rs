//! Notes: a line as typed, or a note as corrected by hand.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::{Ask, Base, Put, id};
use crate::keep::{all, keep, take_out};
use crate::moisture::read_in;
use crate::storm::counted_in;
use crate::walls::checked_in;
use actix_web::{delete, post, put, web};
use envelope::round::{Before, Context, Elsewhere, Entered, Note, enter};
use envelope::site::Place;
use envelope::storm::said::square_said;
use ledger::{Change, Composed, Kind, Now, Record, Stored};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
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
    /// One note for each finding; none when the line only corrects or moves on.
    notes: Vec<Record<Note>>,
    /// Where the walk has moved on to.
    #[serde(skip_serializing_if = "Option::is_none")]
    moved: Option<Place>,
    /// What was done to the note before, in words.
    #[serde(skip_serializing_if = "Option::is_none")]
    corrected: Option<String>,
    /// What it changed beside the notes, in words: a test square it counted, answers it gave before cladding, a reading it kept.
    #[serde(skip_serializing_if = "Option::is_none")]
    counted: Option<String>,
    /// Notes that went to another height than the one that was set, with the way back.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    elsewhere: Vec<Elsewhere>,
}

/// What a retry of a line hears again beside the notes.
#[derive(Debug, Serialize, Deserialize)]
struct Told {
    moved: Option<Place>,
    corrected: Option<String>,
    #[serde(default)]
    counted: Option<String>,
    #[serde(default)]
    elsewhere: Vec<Elsewhere>,
}

/// Keeps a line as one note for each finding in it.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Line, responses((status = 200, body = Kept), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/lines")]
pub(crate) async fn keep_line(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    line: web::Json<Line>,
) -> Result<web::Json<Kept>, ApiError> {
    let job = id(&path, "job")?;
    let line = line.into_inner();
    if line.at.len() > 40 {
        return Err(ApiError::field("at", "This is not a time."));
    }
    // Only a count of a test square needs to know the roof.
    let case = match square_said(&line.line) {
        Some(_) => Some(app.case_in_background(job.clone()).await?),
        None => None,
    };
    block(move || {
        let compose = |now: &Now<'_>| -> Result<_, ApiError> {
            let (brief, practice) = (now.job()?.body.brief, now.practice()?);
            let (front, units, own_words) = (brief.front_faces, brief.units_under(&practice), practice.own_word);
            let context = Context { place: line.place.clone(), front, own_words, units };
            let entered = Entered { line: &line.line, conditions: &line.conditions, done_right: line.done_right, at: &line.at };
            let (last, named) = (now.last_note(false)?, now.last_note(true)?);
            let entry = enter(&entered, &context, last.as_ref().map(|n| &n.body), named.as_ref().map(|n| &n.body))?;
            let mut changes = match (entry.before, last) {
                (Before::Goes, Some(last)) => vec![Change::delete(Kind::Note, &last.id, last.rev)],
                (Before::Becomes(note), Some(last)) => vec![Change::put(&last.id, Some(last.rev), &*note)?],
                _ => vec![],
            };
            for (i, note) in entry.notes.iter().enumerate() {
                changes.push(Change::put(&Uuid::new_v5(&ask.id, i.to_string().as_bytes()).to_string(), None, note)?);
            }
            let told = entry.notes.first().map_or(&line.place, |n| &n.place);
            let counted = match &case {
                Some(case) => counted_in(case, now, &line.line, told.face)?,
                None => None,
            };
            let checked = checked_in(now, &job, &line.line, told)?;
            let read = read_in(now, &job, &line.line, told, app.ledger.today())?;
            let (also, words): (Vec<Change>, Vec<String>) = counted.into_iter().chain(checked).chain(read).unzip();
            changes.extend(also);
            let counted = (!words.is_empty()).then(|| words.join(" "));
            Ok(Composed {
                changes,
                files: vec![],
                told: Told { moved: entry.moved, corrected: entry.told, counted, elsewhere: entry.elsewhere },
            })
        };
        let (stored, told) = app.ledger.change(&app.request(&ask), &job, &(&ask.what, &line), compose)?;
        let notes = all(stored.into_iter().filter(|s| s.kind == Kind::Note).collect())?;
        Ok(Kept { notes, moved: told.moved, corrected: told.corrected, counted: told.counted, elsewhere: told.elsewhere })
    })
    .await
    .map(web::Json)
}

/// Keeps a note as corrected by hand.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Note>, responses((status = 200, body = Record<Note>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/notes/{note}")]
pub(crate) async fn save_note(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<Note>>,
) -> Result<web::Json<Record<Note>>, ApiError> {
    let (job, note) = path.into_inner();
    let (job, note) = (id(&job, "job")?, id(&note, "note")?);
    keep(app, ask, job, note, put.into_inner(), |_, _| Ok(())).await
}

/// Deletes a note; undo brings it back.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/notes/{note}")]
pub(crate) async fn remove_note(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, note) = path.into_inner();
    take_out(app, ask, id(&job, "job")?, Kind::Note, id(&note, "note")?, base.base).await
}
