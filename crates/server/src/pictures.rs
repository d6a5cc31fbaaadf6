//! Attaching, changing, showing pictures.

use crate::api::{Base, ChangeId, Put, id};
use crate::jobs::{delete_one, record};
use crate::state::{App, block};
use crate::{ApiError, Code};
use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use envelope::job::{Job, SHORT_TEXT};
use envelope::round::{MOST_MARKS, Note, PictureMark, Proposal, propose};
use envelope::site::Place;
use futures_util::StreamExt;
use ledger::{Blob, Change, Kind, Picture, Range, Record, Stored, WholeJob};
use picture::{Known, ingest, orientation};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(attach).service(save_picture).service(remove_picture).service(show_picture);
}

/// What comes with a picture's bytes.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct Attach {
    /// The file's name.
    #[serde(default)]
    name: String,
    /// The note it belongs to.
    note: Option<String>,
}

/// Reads a body up to a size, without holding more than that.
pub(crate) async fn body(mut payload: web::Payload, most: usize, what: &str) -> Result<Vec<u8>, ApiError> {
    let mut out = Vec::new();
    while let Some(chunk) = payload.next().await {
        let chunk = chunk.map_err(|e| ApiError::new(Code::BadRequest, format!("The {what} did not arrive whole: {e}. Send it again.")))?;
        if out.len() + chunk.len() > most {
            return Err(ApiError::new(
                Code::TooLarge,
                format!("This {what} is larger than {} MB. Make it smaller and try again.", most >> 20),
            ));
        }
        out.extend_from_slice(&chunk);
    }
    Ok(out)
}

/// A picture that came, and where it may belong.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Attached {
    /// As it is kept.
    picture: Record<Picture>,
    /// The same file was here already; nothing was added.
    duplicate: bool,
    /// Where a picture without a note may belong.
    proposal: Proposal,
}

/// Where a picture may belong, from its time and heading and the notes of the job.
fn proposal(whole: &WholeJob, p: &Picture) -> Proposal {
    let zone = jiff::tz::TimeZone::system();
    let notes = whole.notes.iter().filter_map(|n| {
        let at = n.body.at.parse::<jiff::Timestamp>().ok()?.to_zoned(zone.clone()).datetime();
        Some((n.id.as_str(), at, &n.body))
    });
    let heading = p.heading.and_then(|h| envelope::site::Bearing::new(h).ok());
    propose(p.taken_at.as_deref().and_then(|t| t.parse().ok()), heading, whole.job.body.brief.front_faces, notes)
}

/// Attaches a picture; the request body is the file itself. A file that is in the job already is not kept twice.
#[utoipa::path(tag = "pictures", params(("idempotency-key" = String, Header), Attach), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = Attached), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/pictures")]
pub(crate) async fn attach(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    query: web::Query<Attach>,
    payload: web::Payload,
) -> Result<web::Json<Attached>, ApiError> {
    let job = id(&path, "job")?;
    let note = query.note.as_deref().map(|n| id(n, "note")).transpose()?;
    let bytes = body(payload, app.limits.picture_bytes, "picture").await?;
    let name: String = query.name.chars().filter(|c| !c.is_control()).take(SHORT_TEXT).collect();
    block(move || {
        let whole = app.ledger.job(&job)?;
        let entity = Uuid::new_v5(&change.0, b"picture").to_string();
        // Told apart before it is opened: most of a folder that is read in again is here already.
        let hash = Blob::new("application/octet-stream", bytes.clone()).hash;
        if let Some(here) = whole.pictures.iter().find(|p| p.body.original.hash == hash && p.id != entity) {
            return Ok(Attached { duplicate: true, proposal: proposal(&whole, &here.body), picture: here.clone() });
        }
        let front = whole.job.body.brief.front_faces;
        let place = note.as_deref().map(|n| app.ledger.get::<Note>(&job, n)).transpose()?.map(|n| n.body.place);
        let (picture, blobs) =
            ingest(bytes, app.limits.picture_pixels)?.into_picture(Known { name, caption: String::new(), note_id: note, place, front });
        let picture: Record<Picture> =
            record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&entity, None, &picture)?], &blobs)?)?;
        Ok(Attached { duplicate: false, proposal: proposal(&whole, &picture.body), picture })
    })
    .await
    .map(web::Json)
}

/// What can be changed of a picture.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct PictureChange {
    /// The note it belongs to.
    #[serde(default)]
    note_id: Option<String>,
    /// Where it was taken.
    #[serde(default)]
    place: Option<Place>,
    /// The line under it.
    #[serde(default)]
    caption: String,
    /// Marks drawn over it.
    #[serde(default)]
    marks: Vec<PictureMark>,
    /// How near it was taken.
    #[serde(default)]
    range: Option<Range>,
}

/// Changes caption, place or note of a picture.
#[utoipa::path(tag = "pictures", params(("idempotency-key" = String, Header)), request_body = Put<PictureChange>, responses((status = 200, body = Record<Picture>), (status = 409, body = ApiError)))]
#[put("/jobs/{job}/pictures/{picture}")]
pub(crate) async fn save_picture(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    put: web::Json<Put<PictureChange>>,
) -> Result<web::Json<Record<Picture>>, ApiError> {
    let (job, entity) = path.into_inner();
    let (job, entity) = (id(&job, "job")?, id(&entity, "picture")?);
    let Put { base, body } = put.into_inner();
    if body.caption.chars().count() > SHORT_TEXT * 5 {
        return Err(ApiError::field("caption", "The caption is too long. Use a sentence."));
    }
    if body.marks.len() > MOST_MARKS {
        return Err(ApiError::field("marks", format!("{} marks on one picture; the most is {MOST_MARKS}.", body.marks.len())));
    }
    if let Some(e) = body.marks.iter().find_map(|m| m.check().err()) {
        return Err(ApiError::field("marks", e));
    }
    if let Some(place) = &body.place {
        place.check().map_err(|e| ApiError::field("place", e.to_string()))?;
    }
    block(move || {
        if let Some(note) = &body.note_id {
            app.ledger.get::<Note>(&job, note)?;
        }
        let before = app.ledger.get::<Picture>(&job, &entity)?;
        let after = Picture {
            note_id: body.note_id,
            place: body.place,
            caption: body.caption,
            marks: body.marks,
            range: body.range,
            ..before.body
        };
        record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&entity, base.or(Some(before.rev)), &after)?], &[])?)
    })
    .await
    .map(web::Json)
}

/// Takes a picture out of the job; undo brings it back.
#[utoipa::path(tag = "pictures", params(("idempotency-key" = String, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/pictures/{picture}")]
pub(crate) async fn remove_picture(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, entity) = path.into_inner();
    delete_one(app, id(&job, "job")?, Kind::Picture, id(&entity, "picture")?, change, base.base).await
}

/// Which copy of a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum Copy {
    /// As it came; without location unless the brief keeps it.
    Original,
    /// Upright, for viewing.
    Display,
    /// Small.
    Thumb,
}

/// A picture's bytes.
#[utoipa::path(tag = "pictures", responses((status = 200, content_type = "image/jpeg", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/pictures/{picture}/{copy}")]
pub(crate) async fn show_picture(
    app: web::Data<App>,
    req: HttpRequest,
    path: web::Path<(String, String, Copy)>,
) -> Result<HttpResponse, ApiError> {
    let (job, entity, copy) = path.into_inner();
    let (job, entity) = (id(&job, "job")?, id(&entity, "picture")?);
    let etag = |hash: &str| format!("\"{hash}\"");
    let seen = req.headers().get(header::IF_NONE_MATCH).and_then(|v| v.to_str().ok()).map(str::to_owned);
    let (wanted, bytes) = block(move || {
        let p = app.ledger.get::<Picture>(&job, &entity)?.body;
        let wanted = match copy {
            Copy::Original => p.original,
            Copy::Display => p.display,
            Copy::Thumb => p.thumb,
        };
        let bytes = app.ledger.blob(&wanted.hash)?;
        let keep = copy != Copy::Original || !p.has_location || app.ledger.get::<Job>(&job, &job)?.body.brief.keep_location;
        let bytes = if keep { bytes } else { report::upright_only(&bytes, orientation(&bytes)).ok_or(picture::PictureError::Damaged)? };
        Ok((wanted, bytes))
    })
    .await?;
    let mut answer = HttpResponse::Ok();
    answer.insert_header((header::CONTENT_TYPE, wanted.media));
    if copy == Copy::Original {
        return Ok(answer.insert_header((header::CONTENT_DISPOSITION, "attachment")).body(bytes));
    }
    let tag = etag(&wanted.hash);
    answer.insert_header((header::ETAG, tag.clone())).insert_header((header::CACHE_CONTROL, "private, max-age=31536000, immutable"));
    if seen == Some(tag) {
        return Ok(answer.status(actix_web::http::StatusCode::NOT_MODIFIED).finish());
    }
    Ok(answer.body(bytes))
}
