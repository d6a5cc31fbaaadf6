//! What leaves and what comes in: report, table, bundle.

use crate::ApiError;
use crate::api::{ChangeId, id};
use crate::pictures::body;
use crate::state::{App, block};
use actix_web::http::header::{self, ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, post, web};
use envelope::job::Job;
use ledger::{Change, Kind, Ledger, LedgerError, Record, Request};
use report::{Unpacked, findings_csv, pack, unpack, view};
use serde::Serialize;
use utoipa::ToSchema;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(overview).service(page).service(pdf).service(csv).service(export_bundle).service(take_in);
}

/// A file to be saved under the job's name.
pub(crate) fn file(bytes: Vec<u8>, media: &str, name: &str, ending: &str) -> HttpResponse {
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).take(80).collect();
    let name = format!("{}{ending}", plain.trim_matches('-'));
    let disposition = ContentDisposition { disposition: DispositionType::Attachment, parameters: vec![DispositionParam::Filename(name)] };
    HttpResponse::Ok().insert_header((header::CONTENT_TYPE, media)).insert_header(disposition).body(bytes)
}

/// What a report will be.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Overview {
    /// Pages.
    pages: usize,
    /// Changes when the report would.
    version: String,
    /// What the reader should know, such as a picture that could not be read.
    warnings: Vec<String>,
}

/// Sets the report and says how long it is.
#[utoipa::path(tag = "report", responses((status = 200, body = Overview), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/report")]
pub(crate) async fn overview(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<Overview>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        let set = app.report(&job)?;
        Ok(Overview { pages: set.pages(), version: app.ledger.job(&job)?.changed_at, warnings: set.warnings().to_vec() })
    })
    .await
    .map(web::Json)
}

/// Pixels for each point of a page on the screen.
const PREVIEW_SCALE: f64 = 1.6;

/// One page of the report as it will print.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "image/png", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/report/pages/{page}")]
pub(crate) async fn page(app: web::Data<App>, path: web::Path<(String, usize)>) -> Result<HttpResponse, ApiError> {
    let (job, number) = path.into_inner();
    let job = id(&job, "job")?;
    let png = block(move || Ok(app.report(&job)?.page_png(number, PREVIEW_SCALE)?)).await?;
    Ok(HttpResponse::Ok().insert_header((header::CONTENT_TYPE, "image/png")).body(png))
}

/// The report as PDF.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "application/pdf", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/report.pdf")]
pub(crate) async fn pdf(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let (made, name) = block(move || {
        let name = app.ledger.get::<Job>(&job, &job)?.body.name;
        Ok((app.report(&job)?.pdf()?, name))
    })
    .await?;
    for warning in &made.warnings {
        tracing::warn!(%warning, "report");
    }
    Ok(file(made.bytes, "application/pdf", &name, ".pdf"))
}

/// The findings as CSV.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "text/csv", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/findings.csv")]
pub(crate) async fn csv(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let (bytes, name) = block(move || {
        let v = view(app.ledger.job(&job)?);
        Ok((findings_csv(&v).map_err(|e| ApiError::internal(&e))?, v.job.body.name))
    })
    .await?;
    Ok(file(bytes, "text/csv; charset=utf-8", &name, "-findings.csv"))
}

/// The whole job as a bundle.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "application/zip", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/bundle.zip")]
pub(crate) async fn export_bundle(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let (bytes, name) = block(move || {
        let whole = app.ledger.job(&job)?;
        let bytes = pack(&whole, &crate::bundle_schema(), |h| app.ledger.blob(h), picture::orientation)?;
        Ok((bytes, whole.job.body.name))
    })
    .await?;
    Ok(file(bytes, "application/zip", &name, ".trowel.zip"))
}

/// Checks a bundle whole and keeps it as one change.
///
/// # Errors
/// Whatever is wrong with the bundle; [`LedgerError::AlreadyHere`] when the job is. Nothing is kept then.
pub fn import(ledger: &Ledger, request: &Request, bytes: &[u8], limits: &crate::Limits) -> Result<Record<Job>, ApiError> {
    let Unpacked { bundle, blobs } = unpack(bytes, limits.bundle)?;
    for blob in &blobs {
        picture::check(&blob.bytes, limits.picture_pixels)?;
    }
    let job = bundle.job.id.clone();
    if ledger.has_job(&job)? {
        return Err(LedgerError::AlreadyHere.into());
    }
    // Ids of a job that was deleted here are used again on top of what was deleted.
    let mut changes = vec![Change::put(&job, None, &bundle.job.body)?];
    for n in &bundle.notes {
        changes.push(Change::put(&n.id, free(ledger, &job, Kind::Note, &n.id)?, &n.body)?);
    }
    for m in &bundle.marks {
        let mark = format!("{job}:{}", m.body.cell);
        changes.push(Change::put(&mark, free(ledger, &job, Kind::Mark, &mark)?, &m.body)?);
    }
    for i in &bundle.items {
        changes.push(Change::put(&i.id, free(ledger, &job, Kind::Item, &i.id)?, &i.body)?);
    }
    if let Some(roof) = &bundle.roof {
        let entity = crate::roof::roof_id(&job);
        changes.push(Change::put(&entity, free(ledger, &job, Kind::Roof, &entity)?, roof)?);
    }
    if let Some(rainwater) = &bundle.rainwater {
        let entity = crate::rainwater::rainwater_id(&job);
        changes.push(Change::put(&entity, free(ledger, &job, Kind::Rainwater, &entity)?, rainwater)?);
    }
    if let Some(ground) = &bundle.ground {
        let entity = crate::ground::ground_id(&job);
        changes.push(Change::put(&entity, free(ledger, &job, Kind::Ground, &entity)?, ground)?);
    }
    for p in &bundle.pictures {
        changes.push(Change::put(&p.id, free(ledger, &job, Kind::Picture, &p.id)?, &p.body)?);
    }
    let stored = ledger.apply(request, &job, &changes, &blobs)?;
    crate::jobs::record(stored.into_iter().take(1).collect())
}

/// The revision to build on: entities of a deleted job are still there.
fn free(ledger: &Ledger, job: &str, kind: Kind, id: &str) -> Result<Option<i64>, LedgerError> {
    ledger.live_revision(kind, job, id)
}

/// Reads a bundle in; the request body is the file itself.
#[utoipa::path(tag = "report", params(("idempotency-key" = String, Header)), request_body(content = Vec<u8>, content_type = "application/zip"),
    responses((status = 200, body = Record<Job>), (status = 409, body = ApiError), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/bundles")]
pub(crate) async fn take_in(app: web::Data<App>, change: ChangeId, payload: web::Payload) -> Result<web::Json<Record<Job>>, ApiError> {
    let bytes = body(payload, app.limits.bundle_bytes, "bundle").await?;
    block(move || import(&app.ledger, &app.request(change.0), &bytes, &app.limits)).await.map(web::Json)
}
