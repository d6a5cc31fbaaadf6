//! Tracing of a job: spots, the gathered list, the weighing, tests, and the rain record.

use crate::ApiError;
use crate::App;
use crate::http::{Ask, Put, block, id};
use crate::keep::keep;
use account::Case;
use actix_web::{get, post, put, web};
use drawing::{Look, rain_svg, trace_plan_svg, trace_section_svg};
use envelope::trace::account::TraceAccount;
use envelope::trace::record::{RainKept, Trace};
use instruments::RainRecord;
use jiff::ToSpan;
use ledger::{Kind, Record};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_trace).service(save_trace).service(try_trace).service(ask_rain).service(read_rain);
}

/// The drawings of one spot.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct SpotDrawn {
    /// Which spot.
    spot: String,
    /// Plan with the ways.
    plan: Option<String>,
    /// Section along the likeliest way.
    section: Option<String>,
    /// The rain with the sightings.
    rain: Option<String>,
}

/// Tracing with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct TracePage {
    /// As it is kept; empty while there is no spot.
    trace: Trace,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from it.
    account: TraceAccount,
    /// Drawings, spot by spot.
    drawn: Vec<SpotDrawn>,
}

fn page(case: &Case, trace: Trace) -> TracePage {
    let account = if trace == case.trace_kept() { case.trace().clone() } else { case.traced(&trace) };
    let look = Look::PAGE.in_units(case.practice().units);
    let days = trace.days();
    TracePage {
        rev: case.whole().trace.as_ref().map(|t| t.rev),
        drawn: trace
            .spots
            .iter()
            .map(|s| SpotDrawn {
                spot: s.id.clone(),
                plan: trace_plan_svg(&account, &s.id, look),
                section: trace_section_svg(&account, &s.id, look),
                rain: rain_svg(&trace, &s.id, &days, look),
            })
            .collect(),
        trace,
        account,
    }
}

/// Tracing of a job and what follows from it.
#[utoipa::path(tag = "trace", responses((status = 200, body = TracePage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/trace")]
pub(crate) async fn show_trace(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<TracePage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, case.trace_kept()))).await.map(web::Json)
}

/// What would follow from other answers or tests; nothing is kept.
#[utoipa::path(tag = "trace", request_body = Trace, responses((status = 200, body = TracePage), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/trace/try")]
pub(crate) async fn try_trace(
    app: web::Data<App>,
    path: web::Path<String>,
    tried: web::Json<Trace>,
) -> Result<web::Json<TracePage>, ApiError> {
    let job = id(&path, "job")?;
    let tried = tried.into_inner();
    tried.check()?;
    let case = app.case_in_background(job).await?;
    tried.check_against(&case.moisture_kept())?;
    app.work.heavy(move |_| Ok(page(&case, tried))).await.map(web::Json)
}

/// Keeps spots, answers and tests.
#[utoipa::path(tag = "trace", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Trace>, responses((status = 200, body = Record<Trace>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/trace")]
pub(crate) async fn save_trace(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Trace>>,
) -> Result<web::Json<Record<Trace>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Trace.only_id(&job);
    let put = put.into_inner();
    put.body.check()?;
    let rooms = app.case_in_background(job.clone()).await?.moisture_kept();
    keep(app, ask, job, entity, put, move |trace, _| Ok(trace.check_against(&rooms)?)).await
}

/// Eight weeks of hourly rain and wind before the visit, from the simulated weather office. Takes as long as an office does.
#[utoipa::path(tag = "trace", responses((status = 200, body = RainRecord), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/trace/rain")]
pub(crate) async fn ask_rain(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<RainRecord>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        let case = app.case(&job)?;
        let until = case.brief().visited_on.unwrap_or(case.today());
        let from = until.checked_sub(56.days()).unwrap_or(until);
        Ok(app.weather.record(&case.brief().address, from, until))
    })
    .await
    .map(web::Json)
}

/// Where a rain record is from.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct RainFrom {
    /// The file's name: it is kept as the source.
    name: String,
}

/// Reads a rain record from a table with a head: time, rain, and wind with its direction where there is any. Nothing is kept.
#[utoipa::path(tag = "trace", params(RainFrom), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = RainKept), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/trace/rain-file")]
pub(crate) async fn read_rain(from: web::Query<RainFrom>, payload: web::Payload) -> Result<web::Json<RainKept>, ApiError> {
    const LARGEST: usize = 8 << 20;
    let bytes = crate::http::body::small(payload, LARGEST, "rain record").await?;
    block(move || {
        let source: String = from.name.chars().filter(|c| !c.is_control()).take(120).collect();
        let record = exchange::rain_file(bytes.as_slice(), &source).map_err(|m| ApiError::field("file", &m))?;
        Trace { rain: record.clone(), ..Trace::default() }.check()?;
        Ok(record)
    })
    .await
    .map(web::Json)
}
