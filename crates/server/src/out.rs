//! What leaves and what comes in: report, table, bundle.

use crate::http::file::{file, spooled};
use crate::http::{Ask, block, body, id};
use crate::{ApiError, App};
use actix_web::http::header;
use actix_web::{HttpResponse, get, post, web};
use envelope::job::Job;
use exchange::{findings_csv, pack, take_in};
use ledger::Record;
use report::{Cut, ReportWanted};
use serde::Serialize;
use sha2::{Digest, Sha256};
use std::io::{Seek, SeekFrom};
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(overview).service(page).service(pdf).service(csv).service(export_bundle).service(import_bundle);
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

/// Sets the report, or another cut of it, and says how long it is.
#[utoipa::path(tag = "report", params(ReportWanted), responses((status = 200, body = Overview), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/jobs/{job}/report")]
pub(crate) async fn overview(
    app: web::Data<App>,
    path: web::Path<String>,
    wanted: web::Query<ReportWanted>,
) -> Result<web::Json<Overview>, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let at = app.clone();
    app.work
        .heavy(move |_| {
            let set = at.typeset(&case, &wanted)?;
            let key = case.key();
            let version = format!("{}-{}-{}", key.version.seq, key.version.practice, key.today);
            Ok(Overview { pages: set.pages(), version, warnings: set.warnings().to_vec() })
        })
        .await
        .map(web::Json)
}

/// Pixels for each point of a page on the screen.
const PREVIEW_SCALE: f64 = 1.6;

/// One page of the report as it will print.
#[utoipa::path(tag = "report", params(ReportWanted), responses((status = 200, content_type = "image/png", body = Vec<u8>), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/jobs/{job}/report/pages/{page}")]
pub(crate) async fn page(
    app: web::Data<App>,
    path: web::Path<(String, usize)>,
    wanted: web::Query<ReportWanted>,
) -> Result<HttpResponse, ApiError> {
    let (job, number) = path.into_inner();
    let case = app.case_in_background(id(&job, "job")?).await?;
    let at = app.clone();
    let png = app.work.heavy(move |_| Ok(at.typeset(&case, &wanted)?.page_png(number, PREVIEW_SCALE)?)).await?;
    Ok(HttpResponse::Ok().insert_header((header::CONTENT_TYPE, "image/png")).body(png))
}

/// The report, or another cut of it, as PDF.
#[utoipa::path(tag = "report", params(ReportWanted), responses((status = 200, content_type = "application/pdf", body = Vec<u8>), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/jobs/{job}/report.pdf")]
pub(crate) async fn pdf(app: web::Data<App>, path: web::Path<String>, wanted: web::Query<ReportWanted>) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let (at, of) = (app.clone(), case.clone());
    let ending = match wanted.cut {
        Cut::Full => ".pdf".to_owned(),
        Cut::Note => "-note.pdf".to_owned(),
        Cut::Insurer => "-insurer.pdf".to_owned(),
        Cut::Trade => {
            let trade: String = wanted.trade.iter().flat_map(|t| t.chars()).filter(|c| c.is_alphanumeric()).take(40).collect();
            format!("-{trade}.pdf")
        }
    };
    let what = format!("report{ending}");
    let made = app
        .work
        .heavy(move |_| {
            let made = at.typeset(&of, &wanted)?.pdf()?;
            at.left(&of.whole().job.id, &what, &made.bytes)?;
            Ok(made)
        })
        .await?;
    for warning in &made.warnings {
        tracing::warn!(%warning, "report");
    }
    Ok(file(made.bytes, "application/pdf", &case.whole().job.body.name, &ending))
}

/// The findings as CSV.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "text/csv", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/findings.csv")]
pub(crate) async fn csv(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let of = case.clone();
    let bytes = block(move || {
        let bytes = findings_csv(&of).map_err(|e| ApiError::internal(&e))?;
        app.left(&of.whole().job.id, "findings.csv", &bytes)?;
        Ok(bytes)
    })
    .await?;
    Ok(file(bytes, "text/csv; charset=utf-8", &case.whole().job.body.name, "-findings.csv"))
}

/// The whole job as a bundle. A picture whose file is damaged is left out and named in it.
#[utoipa::path(tag = "report", responses((status = 200, content_type = "application/zip", body = Vec<u8>), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/jobs/{job}/bundle.zip")]
pub(crate) async fn export_bundle(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let (at, of) = (app.clone(), case.clone());
    let made = app
        .work
        .heavy(move |_| {
            let mut out = tempfile::tempfile()?;
            for name in pack(of.whole(), &crate::bundle_schema(), |h| at.ledger.blob(h), &mut out)? {
                tracing::warn!(name, "a picture could not be read and was left out of the bundle");
            }
            out.seek(SeekFrom::Start(0))?;
            let mut sum = Sha256::new();
            let bytes = std::io::copy(&mut out, &mut sum)?;
            at.left_file(&of.whole().job.id, "bundle.zip", bytes, &sum.finalize())?;
            out.seek(SeekFrom::Start(0))?;
            Ok(out)
        })
        .await?;
    spooled(made, "application/zip", &case.whole().job.body.name, ".trowel.zip")
}

/// Reads a bundle in; the request body is the file itself.
#[utoipa::path(tag = "report", params(("idempotency-key" = uuid::Uuid, Header)), request_body(content = Vec<u8>, content_type = "application/zip"),
    responses((status = 200, body = Record<Job>), (status = 409, body = ApiError), (status = 413, body = ApiError), (status = 422, body = ApiError), (status = 503, body = ApiError)))]
#[post("/bundles")]
pub(crate) async fn import_bundle(app: web::Data<App>, ask: Ask, payload: web::Payload) -> Result<web::Json<Record<Job>>, ApiError> {
    let bundle = body::spooled(payload, app.limits.bundle_bytes, "bundle").await?;
    let at = app.clone();
    app.work
        .heavy(move |_| Ok(take_in(&at.ledger, &at.request(&ask), bundle, at.limits.bundle, at.limits.picture_pixels)?))
        .await
        .map(web::Json)
}
