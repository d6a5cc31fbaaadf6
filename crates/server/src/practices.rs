//! Practices: reading, keeping, trying one out before it is kept.

use crate::App;
use crate::http::block;
use crate::http::{Ask, Base, Put, id};
use crate::keep::{keep, take_out};
use crate::{ApiError, Code};
use actix_web::http::header;
use actix_web::{HttpResponse, delete, get, post, put, web};
use envelope::finding::findings;
use envelope::practice::{Difference, Point, Practice, differences, points};
use ledger::{Kind, Record, Stored};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(practices)
        .service(practice_file)
        .service(read_practice)
        .service(save_practice)
        .service(remove_practice)
        .service(try_practice);
}

/// Every point with its schools, and the practices that are kept.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Practices {
    points: Vec<Point>,
    practices: Vec<Record<Practice>>,
}

/// Every point and every practice.
#[utoipa::path(tag = "practice", responses((status = 200, body = Practices)))]
#[get("/practices")]
pub(crate) async fn practices(app: web::Data<App>) -> Result<web::Json<Practices>, ApiError> {
    block(move || Ok(Practices { points: points().to_vec(), practices: app.ledger.practices()? })).await.map(web::Json)
}

/// A practice as a file.
#[utoipa::path(tag = "practice", responses((status = 200, content_type = "application/toml", body = String), (status = 404, body = ApiError)))]
#[get("/practices/{practice}/practice.toml")]
pub(crate) async fn practice_file(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let practice = id(&path, "practice")?;
    let text = block(move || Ok(app.ledger.get::<Practice>(&practice, &practice)?.body.to_toml())).await?;
    Ok(HttpResponse::Ok()
        .insert_header((header::CONTENT_TYPE, "application/toml; charset=utf-8"))
        .insert_header((header::CONTENT_DISPOSITION, "attachment; filename=\"practice.toml\""))
        .body(text))
}

/// Largest practice file.
const LARGEST_FILE: usize = 1 << 20;

/// Reads a practice file, without keeping it; the request body is the file.
#[utoipa::path(tag = "practice", request_body(content = String, content_type = "application/toml"), responses((status = 200, body = Practice), (status = 422, body = ApiError)))]
#[post("/practices/read")]
pub(crate) async fn read_practice(payload: web::Payload) -> Result<web::Json<Practice>, ApiError> {
    let bytes = crate::http::body::small(payload, LARGEST_FILE, "practice file").await?;
    let text = envelope::round::decode(&bytes)?;
    Ok(web::Json(Practice::from_toml(&text)?))
}

/// Keeps a practice.
#[utoipa::path(tag = "practice", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Practice>, responses((status = 200, body = Record<Practice>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/practices/{practice}")]
pub(crate) async fn save_practice(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Practice>>,
) -> Result<web::Json<Record<Practice>>, ApiError> {
    let practice = id(&path, "practice")?;
    let taken = |body: &Practice, app: &App, own: &str| -> Result<(), ApiError> {
        let other = app.ledger.practices()?.into_iter().any(|p| p.body.name == body.name && p.id != own);
        let why = format!("There is a practice called \u{201c}{}\u{201d} already. Choose another name.", body.name);
        if other { Err(ApiError::new(Code::Conflict, why)) } else { Ok(()) }
    };
    let (here, own) = (app.clone(), practice.clone());
    keep(app, ask, practice.clone(), practice, put.into_inner(), move |body, _| taken(body, &here, &own)).await
}

/// Deletes a practice; jobs that name it follow the usual schools. Undo brings it back.
#[utoipa::path(tag = "practice", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/practices/{practice}")]
pub(crate) async fn remove_practice(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let practice = id(&path, "practice")?;
    take_out(app, ask, practice.clone(), Kind::Practice, practice, base.base).await
}

/// What a practice would change in a job, before it is kept.
#[utoipa::path(tag = "practice", request_body = Practice, responses((status = 200, body = Vec<Difference>), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/practice-tried")]
pub(crate) async fn try_practice(
    app: web::Data<App>,
    path: web::Path<String>,
    tried: web::Json<Practice>,
) -> Result<web::Json<Vec<Difference>>, ApiError> {
    let job = id(&path, "job")?;
    tried.check()?;
    block(move || {
        let case = app.case(&job)?;
        let notes = case.whole().notes.iter().map(|n| (n.id.as_str(), &n.body));
        Ok(differences(case.findings(), &findings(notes, case.brief(), &tried)))
    })
    .await
    .map(web::Json)
}
