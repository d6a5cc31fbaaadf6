//! Attaching, changing, showing pictures.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::body;
use crate::http::{Ask, Base, Put, id};
use crate::keep::{one, take_out};
use account::Case;
use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use drawing::mark_svg;
use envelope::job::{Job, SHORT_TEXT};
use envelope::round::{MOST_MARKS, Note, PictureMark, Proposal, Range, propose};
use envelope::site::Place;
use ledger::{Blob, Change, Composed, Kind, Now, Picture, Record, Stored};
use picture::{Known, ingest, orientation};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(attach).service(save_picture).service(remove_picture).service(show_picture).service(draw_marks);
}

/// Marks to be laid over a picture, and its size in pixels.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct MarksWanted {
    marks: Vec<PictureMark>,
    width: u32,
    height: u32,
}

/// The marks as they are printed, each by itself, also before they are kept and while one is not whole yet.
#[utoipa::path(tag = "pictures", request_body = MarksWanted, responses((status = 200, body = Vec<String>), (status = 422, body = ApiError)))]
#[post("/marks")]
pub(crate) async fn draw_marks(wanted: web::Json<MarksWanted>) -> Result<web::Json<Vec<String>>, ApiError> {
    let MarksWanted { marks, width, height } = wanted.into_inner();
    if marks.len() > MOST_MARKS {
        return Err(ApiError::field("marks", format!("A picture takes at most {MOST_MARKS} marks. Take some off.")));
    }
    Ok(web::Json(marks.iter().map(|m| mark_svg(m, width, height)).collect()))
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
fn proposal(case: &Case, p: &Picture) -> Proposal {
    let zone = jiff::tz::TimeZone::system();
    let notes = case.whole().notes.iter().filter_map(|n| {
        let at = n.body.at.parse::<jiff::Timestamp>().ok()?.to_zoned(zone.clone()).datetime();
        Some((n.id.as_str(), at, &n.body))
    });
    let heading = p.heading.and_then(|h| envelope::site::Bearing::new(h).ok());
    propose(p.taken_at.as_deref().and_then(|t| t.parse().ok()), heading, case.brief().front_faces, notes)
}

/// Attaches a picture; the request body is the file itself. A file that is in the job already is not kept twice.
#[utoipa::path(tag = "pictures", params(("idempotency-key" = uuid::Uuid, Header), Attach), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = Attached), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/pictures")]
pub(crate) async fn attach(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    query: web::Query<Attach>,
    payload: web::Payload,
) -> Result<web::Json<Attached>, ApiError> {
    let job = id(&path, "job")?;
    let note = query.note.as_deref().map(|n| id(n, "note")).transpose()?;
    let bytes = body::small(payload, app.limits.picture_bytes, "picture").await?;
    let name: String = query.name.chars().filter(|c| !c.is_control()).take(SHORT_TEXT).collect();
    let at = app.clone();
    app.work.heavy(move |_| attached(&at, &ask, &job, note.as_deref(), name, bytes)).await.map(web::Json)
}

/// What a retry of an attachment hears again: the picture, and whether it was here already.
type Told = (String, bool);

fn attached(app: &App, ask: &Ask, job: &str, note: Option<&str>, name: String, bytes: Vec<u8>) -> Result<Attached, ApiError> {
    let request = app.request(ask);
    let asked = (&ask.what, Blob::new("application/octet-stream", bytes.clone()).hash);
    let answer = |(id, duplicate): Told| -> Result<Attached, ApiError> {
        let (case, picture) = (app.case(job)?, app.ledger.get::<Picture>(job, &id)?);
        Ok(Attached { duplicate, proposal: proposal(&case, &picture.body), picture })
    };
    // Looked up before the picture is opened, which is what costs.
    if let Some((_, told)) = app.ledger.answered::<Told>(&request, job, &asked)? {
        return answer(told);
    }
    let case = app.case(job)?;
    let here = case.whole().pictures.iter().find(|p| p.body.original.hash == asked.1);
    // Most of a folder that is read in again is here already. One whose file was damaged is healed by the good one.
    let whole = |p: &Picture| p.files().all(|r| app.ledger.blob(&r.hash).is_ok());
    let (files, picture) = match here {
        Some(p) if whole(&p.body) => (vec![], None),
        _ => {
            let place = note.map(|n| app.ledger.get::<Note>(job, n)).transpose()?.map(|n| n.body.place);
            let note_id = note.map(str::to_owned);
            let front = case.brief().front_faces;
            let (picture, blobs) =
                ingest(bytes, app.limits.picture_pixels)?.into_picture(Known { name, caption: String::new(), note_id, place, front });
            (app.ledger.store(&blobs)?, Some(picture))
        }
    };
    let entity = Uuid::new_v5(&ask.id, b"picture").to_string();
    let compose = |now: &Now<'_>| -> Result<Composed<Told>, ApiError> {
        if let Some(p) = now.picture_of(&asked.1)? {
            return Ok(Composed { changes: vec![], files: files.clone(), told: (p.id, true) });
        }
        let Some(picture) = &picture else {
            return Err(ApiError::field("file", "The same picture was here and was just taken out. Attach it again."));
        };
        now.job()?;
        Ok(Composed { changes: vec![Change::put(&entity, None, picture)?], files: files.clone(), told: (entity.clone(), false) })
    };
    match app.ledger.change(&request, job, &asked, compose) {
        Ok((_, told)) => answer(told),
        Err(e) => {
            app.ledger.forget(&files)?;
            Err(e)
        }
    }
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
#[utoipa::path(tag = "pictures", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<PictureChange>, responses((status = 200, body = Record<Picture>), (status = 409, body = ApiError)))]
#[put("/jobs/{job}/pictures/{picture}")]
pub(crate) async fn save_picture(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<PictureChange>>,
) -> Result<web::Json<Record<Picture>>, ApiError> {
    let (job, entity) = path.into_inner();
    let (job, entity) = (id(&job, "job")?, id(&entity, "picture")?);
    let put = put.into_inner();
    block(move || {
        let compose = |now: &Now<'_>| -> Result<_, ApiError> {
            let body = put.body.clone();
            if let Some(note) = &body.note_id {
                now.get::<Note>(note)?;
            }
            let before = now.get::<Picture>(&entity)?;
            let after = Picture {
                note_id: body.note_id,
                place: body.place,
                caption: body.caption,
                marks: body.marks,
                range: body.range,
                ..before.body
            };
            Ok(Composed::just(vec![Change::put(&entity, put.base.or(Some(before.rev)), &after)?]))
        };
        one(app.ledger.change(&app.request(&ask), &job, &(&ask.what, &put), compose)?.0)
    })
    .await
    .map(web::Json)
}

/// Takes a picture out of the job; undo brings it back.
#[utoipa::path(tag = "pictures", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/pictures/{picture}")]
pub(crate) async fn remove_picture(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, entity) = path.into_inner();
    take_out(app, ask, id(&job, "job")?, Kind::Picture, id(&entity, "picture")?, base.base).await
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
        let bytes = if keep { bytes } else { exchange::upright_only(&bytes, orientation(&bytes)).ok_or(picture::PictureError::Damaged)? };
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
