//! The ground of a job: readings, what follows from them, one storm over the whole place, and the instruments that read it.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::body;
use crate::http::events::{event, events};
use crate::http::file::file;
use crate::http::{Ask, Put, id};
use crate::keep::keep;
use crate::state::Zeroed;
use account::Case;
use actix_web::web::Bytes;
use actix_web::{HttpResponse, get, post, put, web};
use drawing::{GroundOver, Look, ground_svg, transect_svg};
use envelope::ground::after::{Mending, compare, mending};
use envelope::ground::rain_test::{Lasts, RainStep, RainTest, Wanted as Storm, rain_test};
use envelope::ground::read::{stick_words, zeroed_words};
use envelope::ground::record::Ground;
use envelope::ground::survey::{GroundAccount, GroundInput, Survey, survey};
use envelope::rain::compare::Compared;
use envelope::rain::record::Rainwater;
use exchange::{Columns, FileUnit, ReadingsFile, ground_geojson, read_readings_csv, read_readings_geojson, readings_csv};
use futures_util::stream;
use instruments::AltimeterReading;
use ledger::{Kind, Record};
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_ground)
        .service(save_ground)
        .service(try_ground)
        .service(run_rain_test)
        .service(show_mending)
        .service(read_readings)
        .service(readings_as_csv)
        .service(readings_as_geojson)
        .service(read_altimeter)
        .service(zero_altimeter)
        .service(read_stick);
}

/// The ground with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct GroundPage {
    /// As it is kept; empty while nothing was read.
    ground: Ground,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from it.
    account: GroundAccount,
    /// The plan, for the page; none while there is no surface.
    plan: Option<String>,
    /// A profile of each transect, for the page.
    profiles: Vec<String>,
    /// Return periods a storm can be run for, years.
    storms: Vec<f64>,
    /// What runs through the point that was asked for, in a sentence.
    point: Option<String>,
}

/// What to look at.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub(crate) struct GroundLook {
    /// A point of the ground, east of the plan's origin: its way out is drawn.
    x: Option<f64>,
    /// The same, north.
    y: Option<f64>,
}

fn page(case: &Case, i: &GroundInput, s: &Survey, look: &GroundLook) -> GroundPage {
    let from = look.x.zip(look.y).map(|(x, y)| [x, y]);
    let mut storms: Vec<f64> = i.rainwater.rains.iter().chain([&i.rainwater.storm]).filter_map(|r| r.years).collect();
    storms.sort_by(f64::total_cmp);
    storms.dedup();
    GroundPage {
        rev: case.whole().ground.as_ref().map(|g| g.rev),
        plan: ground_svg(s, &i.ground, GroundOver { from, levels: None }, Look::PAGE.in_units(case.practice().units)),
        profiles: s.account.transects.iter().map(|t| transect_svg(t, Look::PAGE.in_units(case.practice().units))).collect(),
        point: from.map(|p| s.drains(p, case.practice().units)),
        ground: i.ground.clone(),
        account: s.account.clone(),
        storms,
    }
}

/// The ground of a job and what follows from it.
#[utoipa::path(tag = "ground", params(GroundLook), responses((status = 200, body = GroundPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/ground")]
pub(crate) async fn show_ground(
    app: web::Data<App>,
    path: web::Path<String>,
    look: web::Query<GroundLook>,
) -> Result<web::Json<GroundPage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, case.ground(), case.survey(), &look))).await.map(web::Json)
}

/// Keeps readings and what belongs to them.
#[utoipa::path(tag = "ground", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Ground>, responses((status = 200, body = Record<Ground>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/ground")]
pub(crate) async fn save_ground(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Ground>>,
) -> Result<web::Json<Record<Ground>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Ground.only_id(&job);
    keep(app, ask, job, entity, put.into_inner(), |_, _| Ok(())).await
}

/// A change of the ground or of the gutters that is tried.
#[derive(Debug, Deserialize, ToSchema)]
pub(crate) struct TriedGround {
    /// The ground as it would be; as it is kept when it is not given.
    ground: Option<Ground>,
    /// Rain and gutters as they would be; as they are kept when they are not given.
    rainwater: Option<Rainwater>,
    /// The return period of the storm.
    years: Option<f64>,
}

/// A change with every wet place before and after.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct GroundTrial {
    /// The page as it would be.
    page: GroundPage,
    /// Before and after in a sentence.
    sentence: String,
    /// Figures before and after.
    rows: Vec<Compared>,
    /// What is changed at the gutters, in words.
    changes: Vec<String>,
}

/// What would follow from another ground or other gutters; nothing is kept.
#[utoipa::path(tag = "ground", request_body = TriedGround, responses((status = 200, body = GroundTrial), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/ground/try")]
pub(crate) async fn try_ground(
    app: web::Data<App>,
    path: web::Path<String>,
    tried: web::Json<TriedGround>,
) -> Result<web::Json<GroundTrial>, ApiError> {
    let job = id(&path, "job")?;
    let TriedGround { ground, rainwater, years } = tried.into_inner();
    if let Some(g) = &ground {
        g.check()?;
    }
    if let Some(r) = &rainwater {
        r.check()?;
    }
    let case = app.case_in_background(job).await?;
    app.work
        .heavy(move |wanted| {
            let after = case.ground_input(ground.unwrap_or_else(|| case.ground_kept()), rainwater);
            let then = survey(&after);
            let storm = |s: &Survey, i: &GroundInput| -> Result<RainTest, ApiError> {
                rain_test(s, i, Storm { years, ..Storm::default() }, &mut |_| !wanted.is_over())
                    .map_err(|e| ApiError::field("years", e.to_string()))
            };
            let (sentence, rows) = compare(&storm(case.survey(), case.ground())?, &storm(&then, &after)?, case.practice().units);
            let told = envelope::rain::compare::changes([&case.ground().rainwater, &after.rainwater], case.rain());
            let changes = told.into_iter().map(|c| c.words).collect();
            Ok(GroundTrial { page: page(&case, &after, &then, &GroundLook::default()), sentence, rows, changes })
        })
        .await
        .map(web::Json)
}

/// Which storm.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct Which {
    /// The return period; the design rain's when it is not given.
    years: Option<f64>,
    /// How long it rains: an hour, or a day.
    #[serde(default)]
    lasts: Lasts,
}

impl Which {
    fn storm(&self) -> Storm {
        Storm { years: self.years, lasts: self.lasts }
    }
}

/// One message of the storm as it is worked out.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "is", rename_all = "lowercase")]
#[allow(clippy::large_enum_variant, reason = "few are made and each is sent at once")]
pub(crate) enum StormMessage {
    /// The next moment.
    Step(RainStep),
    /// The whole, when it is through.
    Done(RainTest),
    /// Why it cannot be run.
    Failed {
        /// In words, with what to do.
        message: String,
    },
}

/// Runs a storm over the whole place; each moment is sent as it is worked out. Closing the connection stops it.
#[utoipa::path(tag = "ground", params(Which), responses((status = 200, body = StormMessage, content_type = "text/event-stream"), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/ground/rain-test")]
pub(crate) async fn run_rain_test(
    app: web::Data<App>,
    path: web::Path<String>,
    which: web::Query<Which>,
) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let storm = which.storm();
    let case = app.case_in_background(job).await?;
    // A short queue: the storm waits for who watches it, and stops when nobody does.
    let (send, receive) = tokio::sync::mpsc::channel::<Bytes>(4);
    app.work
        .telling(move || {
            let tell = |m: &StormMessage| send.blocking_send(event(m)).is_ok();
            let storm = rain_test(case.survey(), case.ground(), storm, &mut |s| tell(&StormMessage::Step(s.clone())));
            tell(&match storm {
                Ok(t) => StormMessage::Done(t),
                Err(e) => StormMessage::Failed { message: e.to_string() },
            });
        })
        .await?;
    Ok(events(stream::unfold(receive, |mut receive| async move { receive.recv().await.map(|b| (b, receive)) })))
}

/// What would mend each place where water stands against a wall, in the order the practice tries it.
#[utoipa::path(tag = "ground", params(Which), responses((status = 200, body = [Mending]), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/ground/mending")]
pub(crate) async fn show_mending(
    app: web::Data<App>,
    path: web::Path<String>,
    which: web::Query<Which>,
) -> Result<web::Json<Vec<Mending>>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work
        .heavy(move |_| {
            let found = match which.years {
                None if which.lasts == Lasts::Hour => case.mending().map(<[Mending]>::to_vec).map_err(Clone::clone),
                _ => mending(case.survey(), case.ground(), which.storm()),
            };
            found.map_err(|e| ApiError::field("years", e.to_string()))
        })
        .await
        .map(web::Json)
}

/// How to read a file of readings.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct FileRead {
    /// "csv" or "geojson".
    form: String,
    /// The unit of bare numbers; metres when it is not given.
    #[serde(default)]
    unit: FileUnit,
    /// The column of the reading's name.
    id: Option<String>,
    /// The column of the place along.
    along: Option<String>,
    /// The column of the distance out.
    out: Option<String>,
    /// The column of the height.
    height: Option<String>,
    /// The column of the face.
    face: Option<String>,
}

/// A file of readings is no larger, bytes: some five million rows.
const MOST_FILE: u64 = 512 << 20;

/// Reads a file of readings, row by row; nothing is kept. What is wrong is named by its line.
#[utoipa::path(tag = "ground", params(FileRead), request_body(content = String, content_type = "text/csv"), responses((status = 200, body = ReadingsFile), (status = 413, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/ground/readings")]
pub(crate) async fn read_readings(
    app: web::Data<App>,
    path: web::Path<String>,
    how: web::Query<FileRead>,
    body: web::Payload,
) -> Result<web::Json<ReadingsFile>, ApiError> {
    let job = id(&path, "job")?;
    let how = how.into_inner();
    app.case_in_background(job).await?;
    let file = body::spooled(body, MOST_FILE, "file of readings").await?;
    app.work
        .heavy(move |_| {
            let file = std::io::BufReader::new(file);
            let columns = Columns { id: how.id, along: how.along, out: how.out, height: how.height, face: how.face };
            let read = match how.form.as_str() {
                "csv" => read_readings_csv(file, how.unit, &columns),
                "geojson" => read_readings_geojson(file, how.unit),
                _ => return Err(ApiError::field("form", "Send csv or geojson.")),
            };
            read.map_err(|e| ApiError::field("file", e.to_string()))
        })
        .await
        .map(web::Json)
}

/// A file made of the readings, under the job's name.
async fn download(
    app: web::Data<App>,
    path: web::Path<String>,
    media: &str,
    ending: &str,
    make: fn(&GroundAccount) -> Result<Vec<u8>, ApiError>,
) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let made = case.clone();
    let bytes = app.work.heavy(move |_| make(&made.survey().account)).await?;
    Ok(file(bytes, media, &case.whole().job.body.name, ending))
}

/// The readings as CSV, in metres of the plan.
#[utoipa::path(tag = "ground", responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/ground.csv")]
pub(crate) async fn readings_as_csv(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let make = |a: &GroundAccount| {
        let mut out = Vec::new();
        readings_csv(a, &mut out).map_err(|e| ApiError::internal(&e))?;
        Ok(out)
    };
    download(app, path, "text/csv; charset=utf-8", "-ground.csv", make).await
}

/// Readings and ponds as GeoJSON, in metres of the plan.
#[utoipa::path(tag = "ground", responses((status = 200, body = String, content_type = "application/geo+json"), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/ground.geojson")]
pub(crate) async fn readings_as_geojson(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "application/geo+json", "-ground.geojson", |a| Ok(ground_geojson(a).into_bytes())).await
}

/// Where the altimeter's cell lies: coordinates of the plan.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct CellAt {
    /// To the right of the front left corner, metres.
    along: f64,
    /// To the rear of it, metres.
    out: f64,
}

/// The altimeter was zeroed.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub(crate) struct ZeroOn {
    /// The reading it lies on.
    spot: String,
}

/// What zeroing showed.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct ZeroSaid {
    /// In words: what it drifted since it was last zeroed here, if it was.
    words: String,
    /// The drift, mm; none the first time.
    drift_mm: Option<f64>,
    /// It is not real.
    simulated: bool,
}

/// Zeroes the simulated altimeter on a reading; doing it again on the same one shows its drift.
#[utoipa::path(tag = "ground", request_body = ZeroOn, responses((status = 200, body = ZeroSaid), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/altimeter/zero")]
pub(crate) async fn zero_altimeter(
    app: web::Data<App>,
    path: web::Path<String>,
    on: web::Json<ZeroOn>,
) -> Result<web::Json<ZeroSaid>, ApiError> {
    let job = id(&path, "job")?;
    let spot = on.into_inner().spot;
    block(move || {
        let case = app.case(&job)?;
        let at = case.survey().account.readings.iter().find(|r| r.id == spot);
        let at = at.ok_or_else(|| {
            ApiError::field("spot", "There is no such reading to lay the cell on. Type the first height, then zero on it.")
        })?;
        let (height_mm, units) = (at.z_m * 1000.0, case.practice().units);
        let mut all = app.zeroed.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let before = all.insert(job, Zeroed { spot: spot.clone(), height_mm, at: std::time::Instant::now() });
        let drift_mm = before.filter(|b| b.spot == spot).map(|b| {
            let hours = b.at.elapsed().as_secs_f64() / 3600.0;
            let shown = app.altimeter.reading(at.at, height_mm, 30.0, hours).mm.unwrap_or(height_mm);
            shown - height_mm
        });
        let words = zeroed_words(&spot, height_mm, drift_mm, units);
        Ok(ZeroSaid { words, drift_mm, simulated: true })
    })
    .await
    .map(web::Json)
}

/// The simulated altimeter, live: a reading four times a second until it is steady for a while, lost, or nobody listens.
#[utoipa::path(tag = "ground", params(CellAt), responses((status = 200, body = AltimeterReading, content_type = "text/event-stream"), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/altimeter")]
pub(crate) async fn read_altimeter(app: web::Data<App>, path: web::Path<String>, at: web::Query<CellAt>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let place = [at.along, at.out];
    if !place.iter().all(|v| v.is_finite() && v.abs() < 300.0) {
        return Err(ApiError::field("along", "The hose does not reach there. Type metres on the plan."));
    }
    let zeroed = app.zeroed.lock().unwrap_or_else(std::sync::PoisonError::into_inner).get(&job).cloned();
    let Some(zeroed) = zeroed else { return Err(ApiError::field("along", "Zero the altimeter on a reading first.")) };
    let of = app.clone();
    let ground_mm = block(move || Ok(of.case(&job)?.survey().height_mm(place).unwrap_or(zeroed.height_mm))).await?;
    /// Readings a second, and how long it is listened to.
    const EVERY: Duration = Duration::from_millis(250);
    const LONGEST: u32 = 80;
    let readings = stream::unfold((app, 0_u32), move |(app, n)| async move {
        if n >= LONGEST {
            return None;
        }
        actix_web::rt::time::sleep(EVERY).await;
        let seconds = f64::from(n + 1) * EVERY.as_secs_f64();
        let r = app.altimeter.reading(place, ground_mm, seconds, zeroed.at.elapsed().as_secs_f64() / 3600.0);
        Some((event(&r), (app, n + 1)))
    });
    Ok(events(readings))
}

/// Where the slope stick is laid.
#[derive(Debug, Deserialize, IntoParams)]
pub(crate) struct StickAt {
    /// The reading its near end lies on.
    spot: String,
    /// Its length, metres.
    length: f64,
}

/// What the slope stick shows.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct StickShows {
    /// Fall outward, per cent; negative when it tips back.
    percent: f64,
    /// In words.
    words: String,
    /// Its far end, metres out from the face.
    out_m: f64,
    /// The height there, metres from the floor, as the near reading and the stick give it.
    height_m: f64,
    /// It is not real.
    simulated: bool,
}

/// How long a slope stick can be, metres.
const STICK_M: std::ops::RangeInclusive<f64> = 0.3..=3.0;

/// The simulated slope stick, laid outward from a reading that is placed by a face.
#[utoipa::path(tag = "ground", params(StickAt), responses((status = 200, body = StickShows), (status = 422, body = ApiError)))]
#[get("/jobs/{job}/slope-stick")]
pub(crate) async fn read_stick(
    app: web::Data<App>,
    path: web::Path<String>,
    at: web::Query<StickAt>,
) -> Result<web::Json<StickShows>, ApiError> {
    let job = id(&path, "job")?;
    let StickAt { spot, length } = at.into_inner();
    block(move || {
        let case = app.case(&job)?;
        if !STICK_M.contains(&length) {
            let [least, most] = [STICK_M.start(), STICK_M.end()].map(|m| case.practice().units.length(*m, 1));
            return Err(ApiError::field("length", format!("A slope stick is {least} to {most} long. Type its length.")));
        }
        let none = || ApiError::field("spot", "Lay the stick on a reading that is placed by a face: it points straight out from it.");
        let [from, to] = case.survey().stick(case.ground(), &spot, length).ok_or_else(none)?;
        let percent = instruments::slope_stick_percent(from, to, length);
        let (words, near) = (stick_words(percent, length, case.practice().units), from / 1000.0);
        let out_m = case.ground().ground.out_of(&spot).ok_or_else(none)? + length;
        Ok(StickShows { percent, words, out_m, height_m: near - percent / 100.0 * length, simulated: true })
    })
    .await
    .map(web::Json)
}
