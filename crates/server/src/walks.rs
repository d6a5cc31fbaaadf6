//! A walk that is recorded elsewhere: where somebody stood meanwhile, and its text once it comes in.

use crate::ApiError;
use crate::App;
use crate::http::{Ask, Put, id};
use crate::keep::keep;
use actix_web::{post, put, web};
use envelope::round::track::{TrackStop, run};
use envelope::round::{LARGEST_WALK_FILE, Walk, WalkInput, decode, read_walk as read_whole};
use ledger::Record;
use serde::{Deserialize, Serialize};
use utoipa::IntoParams;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(save_stop).service(read_walk);
}

/// Keeps a place that was chosen while a walk is recorded elsewhere, or that the recording is over.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<TrackStop>, responses((status = 200, body = Record<TrackStop>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/track/{stop}")]
pub(crate) async fn save_stop(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<TrackStop>>,
) -> Result<web::Json<Record<TrackStop>>, ApiError> {
    let (job, stop) = path.into_inner();
    keep(app, ask, id(&job, "job")?, id(&stop, "stop")?, put.into_inner(), |_, _| Ok(())).await
}

/// What a walk is laid on.
#[derive(Debug, Clone, Default, Serialize, Deserialize, IntoParams)]
pub(crate) struct Laid {
    /// The walk of the track that was recorded, by when it began, RFC 3339; places are as they were said without one.
    #[serde(default)]
    track: Option<String>,
    /// When the recording began by the wheel's clock, RFC 3339; found from what was said without one.
    #[serde(default)]
    began: Option<String>,
}

/// Reads a whole walk for the review list; nothing is kept. The request body is the walk as text: WebVTT, SRT or plain lines.
#[utoipa::path(tag = "round", params(Laid), request_body(content = String, content_type = "text/plain"), responses((status = 200, body = Walk), (status = 404, body = ApiError), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/walk")]
pub(crate) async fn read_walk(
    app: web::Data<App>,
    path: web::Path<String>,
    laid: web::Query<Laid>,
    payload: web::Payload,
) -> Result<web::Json<Walk>, ApiError> {
    let job = id(&path, "job")?;
    let bytes = crate::http::body::small(payload, LARGEST_WALK_FILE, "walk file").await?;
    let case = app.case_in_background(job).await?;
    app.work
        .heavy(move |_| {
            let Laid { track, began } = laid.into_inner();
            let stops: Vec<TrackStop> = case.whole().track.iter().map(|s| s.body.clone()).collect();
            let track: Vec<TrackStop> = track.iter().flat_map(|began| run(&stops, began)).cloned().collect();
            Ok(read_whole(&WalkInput {
                walk: decode(&bytes)?,
                front: case.brief().front_faces,
                own_words: case.whole().practice.own_word.clone(),
                units: case.practice().units,
                sure_from: Some(case.practice().rule("talk-sure").figure()),
                track,
                began,
                ..WalkInput::default()
            })?)
        })
        .await
        .map(web::Json)
}
