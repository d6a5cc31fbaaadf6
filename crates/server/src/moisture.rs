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
use envelope::moisture::said::{ReadingTold, as_reading, reading_said, told};
use envelope::moisture::surface::OnSurface;
use envelope::site::{Face, Place};
use futures_util::stream;
use instruments::{AirShown, MeterReading, MeterScale};
use ledger::{Change, Kind, Now, Record};
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_moisture)
        .service(save_moisture)
        .service(read_meter)
        .service(read_air)
        .service(take_heat)
        .service(read_heat_file)
        .service(read_heat_picture);
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
    /// Readings that notes tell and that stand on no map yet.
    told: Vec<ReadingTold>,
}

fn page(case: &Case, moisture: Moisture) -> MoisturePage {
    let account =
        if moisture == case.moisture_kept() { case.moisture().clone() } else { moisture_account(&case.moisture_input(moisture.clone())) };
    let look = Look::PAGE.in_units(case.practice().units);
    MoisturePage {
        rev: case.whole().moisture.as_ref().map(|m| m.rev),
        plan: rooms_svg(&account, look),
        maps: account.maps.iter().map(|m| moisture_svg(m, &account.heat, look)).collect(),
        told: told(&moisture, case.whole().notes.iter().map(|n| (n.id.as_str(), &n.body)), case.brief().visited_on.unwrap_or(case.today())),
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

/// How the greys of a picture of heat are temperatures.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct HeatGrey {
    /// Side of a pixel on the wall, metres.
    cell_m: f64,
    /// Temperature of grey 0, °C.
    zero_c: f64,
    /// Degrees from one grey to the next.
    step_c: f64,
}

/// Reads a picture of heat from a PNG of 16 bits of grey; nothing is kept. What has more cells than are kept is averaged.
#[utoipa::path(tag = "moisture", params(HeatGrey), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = HeatTaken), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/moisture/heat-picture")]
pub(crate) async fn read_heat_picture(grey: web::Query<HeatGrey>, payload: web::Payload) -> Result<web::Json<HeatTaken>, ApiError> {
    const LARGEST: usize = 32 << 20;
    let bytes = crate::http::body::small(payload, LARGEST, "picture of heat").await?;
    block(move || {
        let most = envelope::moisture::record::MOST_KEPT_CELLS;
        let exchange::HeatCells { grid, side } =
            exchange::heat_png(&bytes, grey.zero_c, grey.step_c, most).map_err(|m| ApiError::field("picture", &m))?;
        let cell_m = grey.cell_m * f64::from(side);
        let input = envelope::moisture::heat::HeatInput { cell_m, grid: grid.clone(), least_k: None };
        envelope::moisture::heat::heat(&input).map_err(|e| ApiError::field("picture", e.to_string()))?;
        let source = if side > 1 { format!("picture, {side} by {side} pixels to a cell") } else { "picture".into() };
        Ok(HeatTaken { grid, cell_m, source })
    })
    .await
    .map(web::Json)
}

/// A reading that a line tells with all of its place, put among the readings: the change, and what was done in words. Nothing while no
/// moisture is kept, or where something of the place was not said: such a reading is offered on its bench.
pub(crate) fn read_in(
    now: &Now<'_>,
    job: &str,
    line: &str,
    place: &Place,
    today: jiff::civil::Date,
) -> Result<Option<(Change, String)>, ApiError> {
    let id = Kind::Moisture.only_id(job);
    let Some(kept) = now.find::<Moisture>(&id)? else { return Ok(None) };
    let mut moisture = kept.body;
    let on = now.job()?.body.brief.visited_on.unwrap_or(today);
    let Some(reading) = reading_said(line, place, &moisture.rooms).filter(|s| s.placed).map(|s| as_reading(&s, &moisture, on)) else {
        return Ok(None);
    };
    let room = moisture.rooms.iter().find(|r| r.id == reading.at.room);
    let there = match (room, reading.at.face) {
        (Some(r), _) if reading.at.wall > 0 => format!("{}, wall {}", r.name, reading.at.wall),
        (Some(r), _) => r.name.clone(),
        (None, face) => face.map_or("outside", Face::name).to_owned(),
    };
    let words = format!("Kept as {}: {} ({}), {there}.", reading.id, reading.value, reading.scale.name());
    moisture.readings.push(reading);
    moisture.check()?;
    Ok(Some((Change::put(&id, Some(kept.rev), &moisture)?, words)))
}
