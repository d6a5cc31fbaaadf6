//! Rainwater of a job: where it goes, how the gutters stand, what would end the spilling.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::{Ask, Put, id};
use crate::keep::keep;
use account::Case;
use actix_web::{get, post, put, web};
use drawing::{FlatState, Look, flat_hour_svg, flat_svg, flow_svg, section_svg};
use envelope::rain::account::RainAccount;
use envelope::rain::compare::{Comparison, compare};
use envelope::rain::record::{NamedRain, Rainwater};
use envelope::rain::remedy::COSTS;
use envelope::roof::record::RoofForm;
use instruments::IntensityTable;
use ledger::{Kind, Record};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_rainwater).service(save_rainwater).service(try_rainwater).service(ask_weather);
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
    /// Drawings of each flat roof, for the page.
    flats: Vec<FlatDrawings>,
    /// The masses with a flat roof.
    flat_masses: Vec<FlatMass>,
    /// Rains that can be looked at by name.
    rains: Vec<NamedRain>,
    /// What changes cost.
    costs: Vec<ChangeCost>,
    /// Before and after, when a change is tried.
    comparison: Option<Comparison>,
}

/// A flat roof drawn; empty where it could not be worked out.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct FlatDrawings {
    /// In the design rain.
    rain: Option<String>,
    /// With its outlets blocked.
    blocked: Option<String>,
    /// After the rain.
    after: Option<String>,
    /// Its depth through an hour's storm.
    hour: Option<String>,
}

/// A mass with a flat roof.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct FlatMass {
    /// Its short name.
    mass: String,
    /// What people call it.
    name: String,
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

fn page(case: &Case, rainwater: Rainwater, look: &Looking) -> Result<RainPage, ApiError> {
    if look.at.is_some_and(|v| !(0.0..=1000.0).contains(&v)) {
        return Err(ApiError::field("at", "Choose a rain from 0 to 1000 mm/h."));
    }
    let remedies = look.remedies.unwrap_or(false);
    let as_met = look.at.is_none() && !remedies && rainwater == case.rainwater_kept();
    let account = if as_met { case.rain().clone() } else { case.rain_of(&case.rain_input(rainwater.clone(), look.at, remedies)) };
    let drop = look.x.zip(look.y).map(|(x, y)| [x, y]);
    Ok(RainPage {
        rev: case.whole().rainwater.as_ref().map(|r| r.rev),
        plan: flow_svg(&case.roof_kept(), case.brief(), &account, drop, Look::PAGE.in_units(case.practice().units)),
        sections: account
            .gutters
            .iter()
            .map(|g| g.run.as_ref().map_or_else(String::new, |r| section_svg(r, &g.id, Look::PAGE.in_units(case.practice().units))))
            .collect(),
        flats: account
            .flats
            .iter()
            .map(|f| {
                let look = Look::PAGE.in_units(case.practice().units);
                let kept = rainwater.flats.iter().find(|k| k.mass == f.mass);
                let of = |state| kept.and_then(|k| flat_svg(k, f, state, look));
                FlatDrawings {
                    rain: of(FlatState::Rain),
                    blocked: of(FlatState::Blocked),
                    after: of(FlatState::After),
                    hour: flat_hour_svg(f, look),
                }
            })
            .collect(),
        flat_masses: {
            let roof = case.roof_kept();
            let flat = roof.masses.iter().filter(|m| m.form == RoofForm::Flat);
            flat.map(|m| FlatMass { mass: m.id.clone(), name: m.name.clone() }).collect()
        },
        rains: rainwater.named_rains(),
        rainwater,
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
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| page(&case, case.rainwater_kept(), &look)).await.map(web::Json)
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
    tried.check()?;
    let case = app.case_in_background(job).await?;
    app.work
        .heavy(move |_| {
            let kept = case.rainwater_kept();
            let before = page(&case, kept.clone(), &look)?.account;
            let mut after = page(&case, tried, &look)?;
            after.comparison = Some(compare([&kept, &after.rainwater], [&before, &after.account], case.practice().units));
            Ok(after)
        })
        .await
        .map(web::Json)
}

/// Keeps rain and gutters as they were met.
#[utoipa::path(tag = "rainwater", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Rainwater>, responses((status = 200, body = Record<Rainwater>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/rainwater")]
pub(crate) async fn save_rainwater(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Rainwater>>,
) -> Result<web::Json<Record<Rainwater>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Rainwater.only_id(&job);
    // What only the roof can tell: an outlet beyond the end, a floor below its outlet, an eave that is not there. It may become
    // so by a later change of the roof, so that it is no matter for the door of the ledger.
    let put = put.into_inner();
    put.body.check()?;
    let case = app.case_in_background(job.clone()).await?;
    let body = put.body.clone();
    let problem = app
        .work
        .heavy(move |_| {
            /// Any rain shows what cannot be worked out at all.
            const SOME_RAIN: f64 = 100.0;
            let a = case.rain_of(&case.rain_input(body, Some(SOME_RAIN), false));
            let gutters =
                a.gutters.iter().filter_map(|g| Some((format!("gutters.{}.outlets", g.id), format!("{}: {}", g.id, g.problem.clone()?))));
            let flats = a.flats.iter().filter_map(|f| Some((format!("flats.{}.mass", f.mass), f.problem.clone()?)));
            Ok(gutters.chain(flats).next())
        })
        .await?;
    keep(app, ask, job, entity, put, move |_, _| match problem {
        Some((field, why)) => Err(ApiError::field(&field, why)),
        None => Ok(()),
    })
    .await
}

/// The intensity table of the job's place, from the simulated weather office. Takes as long as an office does.
#[utoipa::path(tag = "rainwater", responses((status = 200, body = IntensityTable), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/rainwater/weather")]
pub(crate) async fn ask_weather(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<IntensityTable>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.weather.intensities(&app.ledger.job(&job)?.job.body.brief.address))).await.map(web::Json)
}
