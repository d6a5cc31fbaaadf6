//! Moisture of a job: rooms, readings, air, pictures of heat, and the simulated meters.

use crate::ApiError;
use crate::App;
use crate::http::events::{event, events};
use crate::http::{Ask, Put, block, id};
use crate::keep::keep;
use account::Case;
use actix_web::{HttpResponse, get, post, put, web};
use drawing::{Look, drying_svg, moisture_svg, rooms_svg};
use envelope::moisture::account::{MoistureAccount, moisture_account};
use envelope::moisture::record::Moisture;
use envelope::moisture::surface::OnSurface;
use envelope::site::Face;
use futures_util::stream;
use instruments::{AirShown, MeterReading, MeterScale};
use ledger::{Kind, Record};
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_moisture).service(save_moisture).service(read_meter).service(read_air).service(take_heat).service(read_heat_file);
}

/// Moisture with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct MoisturePage {
    /// As it is kept; empty while nothing was read.
    moisture: Moisture,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from it.
    account: MoistureAccount,
    /// Rooms on the plan; none while there is nothing to draw.
    plan: Option<String>,
    /// A drawing of each map, in their order.
    maps: Vec<String>,
    /// A drawing of each place that was read on several days.
    drying: Vec<String>,
}

fn page(case: &Case, moisture: Moisture) -> MoisturePage {
    let account =
        if moisture == case.moisture_kept() { case.moisture().clone() } else { moisture_account(&case.moisture_input(moisture.clone())) };
    let look = Look::PAGE.in_units(case.practice().units);
    MoisturePage {
        rev: case.whole().moisture.as_ref().map(|m| m.rev),
        plan: rooms_svg(&account, look),
        maps: account.maps.iter().map(|m| moisture_svg(m, &account.heat, look)).collect(),
        drying: account.drying.iter().map(|d| drying_svg(d, look)).collect(),
        moisture,
        account,
    }
}

/// Moisture of a job and what follows from it.
#[utoipa::path(tag = "moisture", responses((status = 200, body = MoisturePage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/moisture")]
pub(crate) async fn show_moisture(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<MoisturePage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, case.moisture_kept()))).await.map(web::Json)
}

/// Keeps moisture as it was read.
#[utoipa::path(tag = "moisture", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Moisture>, responses((status = 200, body = Record<Moisture>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/moisture")]
pub(crate) async fn save_moisture(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Moisture>>,
) -> Result<web::Json<Record<Moisture>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Moisture.only_id(&job);
    let put = put.into_inner();
    put.body.check()?;
    keep(app, ask, job, entity, put, |_, _| Ok(())).await
}

/// Where an instrument is put.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub(crate) struct MeterAt {
    /// The room; empty outside.
    #[serde(default)]
    room: String,
    /// "wall", "ceiling" or "floor".
    #[serde(default)]
    part: String,
    /// Which wall of the room.
    #[serde(default)]
    wall: usize,
    /// Outside: which face.
    #[serde(default)]
    face: Option<Face>,
    /// From the left, as typed.
    #[serde(default)]
    along: String,
    /// Up, as typed.
    #[serde(default)]
    up: String,
    /// "percent" or "relative".
    #[serde(default)]
    scale: String,
}

impl MeterAt {
    fn on(&self) -> Result<OnSurface, ApiError> {
        let part = serde_json::from_value(serde_json::Value::from(if self.part.is_empty() { "wall" } else { &self.part }))
            .map_err(|_| ApiError::field("part", "Choose wall, ceiling or floor."))?;
        let zero = |t: &str| if t.trim().is_empty() { "0".to_owned() } else { t.to_owned() };
        Ok(OnSurface {
            room: self.room.clone(),
            part,
            wall: self.wall,
            mass: String::new(),
            face: self.face,
            along: zero(&self.along),
            up: zero(&self.up),
        })
    }
}

fn placed(app: &App, job: &str, on: &OnSurface) -> Result<[f64; 3], ApiError> {
    let case = app.case(job)?;
    let p = case.moisture_input(case.moisture_kept()).place(on).map_err(|m| ApiError::field("along", &m))?;
    Ok([p.x_m, p.y_m, p.z_m])
}

/// What the simulated moisture meter shows at a place, four times a second for twenty seconds.
#[utoipa::path(tag = "moisture", params(MeterAt), responses((status = 200, description = "Readings as server-sent events", body = MeterReading, content_type = "text/event-stream"), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/moisture/meter")]
pub(crate) async fn read_meter(app: web::Data<App>, path: web::Path<String>, at: web::Query<MeterAt>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let on = at.on()?;
    let scale = if at.scale == "relative" { MeterScale::Relative } else { MeterScale::Percent };
    let of = app.clone();
    let place = block(move || placed(&of, &job, &on)).await?;
    const EVERY: Duration = Duration::from_millis(250);
    const LONGEST: u32 = 80;
    let readings = stream::unfold((app, 0_u32), move |(app, n)| async move {
        if n >= LONGEST {
            return None;
        }
        actix_web::rt::time::sleep(EVERY).await;
        let seconds = f64::from(n + 1) * EVERY.as_secs_f64();
        Some((event(&app.meters.moisture(place, scale, seconds)), (app, n + 1)))
    });
    Ok(events(readings))
}

/// What the simulated thermo-hygrometer shows at a place.
#[utoipa::path(tag = "moisture", params(MeterAt), responses((status = 200, body = AirShown), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/moisture/air")]
pub(crate) async fn read_air(
    app: web::Data<App>,
    path: web::Path<String>,
    at: web::Query<MeterAt>,
) -> Result<web::Json<AirShown>, ApiError> {
    let job = id(&path, "job")?;
    let on = at.on()?;
    block(move || Ok(app.meters.air(placed(&app, &job, &on)?))).await.map(web::Json)
}

/// A picture of heat.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct HeatTaken {
    /// Temperatures, °C, row by row from the top.
    grid: Vec<Vec<Option<f64>>>,
    /// Side of a cell, metres.
    cell_m: f64,
    /// Where it is from.
    source: String,
}

/// A picture of the simulated thermal camera, from a lower left corner on, 3.6 m by 3 m.
#[utoipa::path(tag = "moisture", params(MeterAt), responses((status = 200, body = HeatTaken), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/moisture/camera")]
pub(crate) async fn take_heat(
    app: web::Data<App>,
    path: web::Path<String>,
    at: web::Query<MeterAt>,
) -> Result<web::Json<HeatTaken>, ApiError> {
    let job = id(&path, "job")?;
    let on = at.on()?;
    block(move || {
        let case = app.case(&job)?;
        let input = case.moisture_input(case.moisture_kept());
        let place = |along: f64, up: f64| {
            let moved = |t: &str, by: f64| envelope::roof::record::metres("The place", t).map(|v| format!("{}", v + by));
            let at = OnSurface { along: moved(&on.along, along)?, up: moved(&on.up, up)?, ..on.clone() };
            input.place(&at).map(|p| [p.x_m, p.y_m, p.z_m])
        };
        let of = |along, up| place(along, up).map_err(|m| ApiError::field("along", &m));
        let (corner, right, up) = (of(0.0, 0.0)?, of(1.0, 0.0)?, of(0.0, 1.0)?);
        let minus = |a: [f64; 3]| std::array::from_fn(|k| a[k] - corner[k]);
        let cell_m = 0.1;
        let grid = app.meters.heat(corner, minus(right), minus(up), cell_m, [36, 30]);
        Ok(HeatTaken { grid, cell_m, source: "simulated thermal camera".into() })
    })
    .await
    .map(web::Json)
}

/// A picture of heat as a table: figures parted by commas, semicolons or tabs, a row to a line.
#[derive(Debug, Deserialize, ToSchema)]
pub(crate) struct HeatFile {
    /// The text of the file.
    text: String,
    /// Side of a cell, metres.
    cell_m: f64,
}

/// Reads a picture of heat from a table; nothing is kept.
#[utoipa::path(tag = "moisture", request_body = HeatFile, responses((status = 200, body = HeatTaken), (status = 422, body = ApiError)))]
#[post("/moisture/heat-file")]
pub(crate) async fn read_heat_file(file: web::Json<HeatFile>) -> Result<web::Json<HeatTaken>, ApiError> {
    block(move || {
        let grid = exchange::heat_grid(&file.text).map_err(|m| ApiError::field("text", &m))?;
        let input = envelope::moisture::heat::HeatInput { cell_m: file.cell_m, grid: grid.clone(), least_k: None };
        envelope::moisture::heat::heat(&input).map_err(|e| ApiError::field("text", e.to_string()))?;
        Ok(HeatTaken { grid, cell_m: file.cell_m, source: "file".into() })
    })
    .await
    .map(web::Json)
}
