//! Rainwater of a job: where it goes, how the gutters stand, what would end the spilling.

use crate::ApiError;
use crate::api::{ChangeId, Put, id};
use crate::jobs::record;
use crate::state::{App, block};
use actix_web::{get, post, put, web};
use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use envelope::rain::compare::{Comparison, changes, compare};
use envelope::rain::record::Rainwater;
use envelope::rain::remedy::COSTS;
use instruments::IntensityTable;
use ledger::{Change, Record, WholeJob};
use report::{Look, flow_svg, section_svg};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(show_rainwater).service(save_rainwater).service(try_rainwater).service(ask_weather);
}

/// The id of a job's rainwater: a job has one.
pub(crate) fn rainwater_id(job: &str) -> String {
    format!("{job}:rainwater")
}

/// Rainwater with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct RainPage {
    /// As it is kept; empty while nothing was entered.
    rainwater: Rainwater,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from it.
    account: RainAccount,
    /// The plan with its flows, for the page; none while there is no roof.
    plan: Option<String>,
    /// A long section of each gutter, for the page; empty where it could not be worked out.
    sections: Vec<String>,
    /// What changes cost.
    costs: Vec<ChangeCost>,
    /// Before and after, when a change is tried.
    comparison: Option<Comparison>,
}

/// What a change costs, an estimate that can be changed.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct ChangeCost {
    /// Its name.
    change: &'static str,
    /// In words.
    words: &'static str,
    /// What it usually costs.
    usual: f64,
}

/// What to look at.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub(crate) struct Looking {
    /// Another rain than the design rain, mm/h.
    at: Option<f64>,
    /// Changes that would end the spilling are searched for as well; this takes longer.
    remedies: Option<bool>,
    /// A point of the roof, east of the plan's origin: its way down is drawn.
    x: Option<f64>,
    /// The same, north.
    y: Option<f64>,
}

fn page(whole: &WholeJob, rainwater: Rainwater, look: &Looking) -> Result<RainPage, ApiError> {
    if look.at.is_some_and(|v| !(0.0..=1000.0).contains(&v)) {
        return Err(ApiError::field("at", "Choose a rain from 0 to 1000 mm/h."));
    }
    let input = RainAccountInput {
        roof: whole.roof.as_ref().map(|r| r.body.clone()).unwrap_or_default(),
        rainwater,
        front_faces: whole.job.body.brief.front_faces,
        practice: whole.practice.clone(),
        at_mm_h: look.at,
        remedies: look.remedies.unwrap_or(false),
    };
    let account = rain_account(&input);
    let drop = look.x.zip(look.y).map(|(x, y)| [x, y]);
    Ok(RainPage {
        rev: whole.rainwater.as_ref().map(|r| r.rev),
        plan: flow_svg(&input.roof, &whole.job.body.brief, &account, drop, Look::PAGE),
        sections: account.gutters.iter().map(|g| g.run.as_ref().map_or_else(String::new, |r| section_svg(r, &g.id, Look::PAGE))).collect(),
        rainwater: input.rainwater,
        costs: COSTS.iter().map(|(change, words, usual)| ChangeCost { change, words, usual: *usual }).collect(),
        comparison: None,
        account,
    })
}

/// Rainwater of a job and what follows from it.
#[utoipa::path(tag = "rainwater", params(Looking), responses((status = 200, body = RainPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/rainwater")]
pub(crate) async fn show_rainwater(
    app: web::Data<App>,
    path: web::Path<String>,
    look: web::Query<Looking>,
) -> Result<web::Json<RainPage>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        let whole = app.ledger.job(&job)?;
        let kept = whole.rainwater.as_ref().map(|r| r.body.clone()).unwrap_or_default();
        page(&whole, kept, &look)
    })
    .await
    .map(web::Json)
}

/// What would follow from other gutters or another rain; nothing is kept.
#[utoipa::path(tag = "rainwater", request_body = Rainwater, params(Looking), responses((status = 200, body = RainPage), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/rainwater/try")]
pub(crate) async fn try_rainwater(
    app: web::Data<App>,
    path: web::Path<String>,
    look: web::Query<Looking>,
    tried: web::Json<Rainwater>,
) -> Result<web::Json<RainPage>, ApiError> {
    let job = id(&path, "job")?;
    let tried = tried.into_inner();
    block(move || {
        tried.check()?;
        let whole = app.ledger.job(&job)?;
        let kept = whole.rainwater.as_ref().map(|r| r.body.clone()).unwrap_or_default();
        let before = page(&whole, kept.clone(), &look)?.account;
        let mut after = page(&whole, tried, &look)?;
        after.comparison = Some(Comparison { changes: changes(&kept, &after.rainwater), ..compare(&before, &after.account) });
        Ok(after)
    })
    .await
    .map(web::Json)
}

/// Keeps rain and gutters as they were met.
#[utoipa::path(tag = "rainwater", params(("idempotency-key" = String, Header)), request_body = Put<Rainwater>, responses((status = 200, body = Record<Rainwater>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/rainwater")]
pub(crate) async fn save_rainwater(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    put: web::Json<Put<Rainwater>>,
) -> Result<web::Json<Record<Rainwater>>, ApiError> {
    let job = id(&path, "job")?;
    let Put { base, body } = put.into_inner();
    block(move || {
        body.check()?;
        // What only the roof can tell: an outlet beyond the end, a floor below its outlet, an eave that is not there.
        let shown = page(&app.ledger.job(&job)?, body.clone(), &Looking { at: Some(100.0), ..Looking::default() })?;
        if let Some((g, problem)) = shown.account.gutters.iter().find_map(|g| Some((g, g.problem.clone()?))) {
            return Err(ApiError::field(&format!("gutters.{}.outlets", g.id), format!("{}: {problem}", g.id)));
        }
        record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&rainwater_id(&job), base, &body)?], &[])?)
    })
    .await
    .map(web::Json)
}

/// The intensity table of the job's place, from the simulated weather office. Takes as long as an office does.
#[utoipa::path(tag = "rainwater", responses((status = 200, body = IntensityTable), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/rainwater/weather")]
pub(crate) async fn ask_weather(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<IntensityTable>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.weather.intensities(&app.ledger.job(&job)?.job.body.brief.address))).await.map(web::Json)
}
