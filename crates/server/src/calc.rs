//! Calculations over HTTP: the same JSON as on the command line.

use crate::ApiError;
use actix_web::{post, web};
use envelope::calc::{self, MeasureInput, NoteInput};
use envelope::ground::level::{LevelBook, LevelInput};
use envelope::ground::rain_test::{RainTest, RainTestInput};
use envelope::ground::surface_calc::{SurfaceFigures, SurfaceInput};
use envelope::ground::survey::{GroundAccount, GroundInput};
use envelope::ground::transect::{Transect, TransectInput};
use envelope::gutter::channel::{Channel, ChannelInput};
use envelope::gutter::downspout::{Downspout, DownspoutInput};
use envelope::gutter::run::{Run, RunInput};
use envelope::measure::Measure;
use envelope::rain::account::{RainAccount, RainAccountInput};
use envelope::rain::design::{Rain, RainInput};
use envelope::rain::overshoot::{Overshoot, OvershootInput};
use envelope::rain::runoff::Runoff;
use envelope::roof::access::{Access, AccessInput};
use envelope::roof::account::{Account, AccountInput};
use envelope::roof::life::{Life, LifeInput};
use envelope::roof::perimeter::{Traverse, TraverseInput};
use envelope::roof::pitch::{Pitch, PitchRead};
use envelope::roof::shape::{RoofInput, RoofShape};
use envelope::round::{Reading, Walk, WalkInput};

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(measure)
        .service(note)
        .service(round)
        .service(traverse)
        .service(roof)
        .service(pitch)
        .service(access)
        .service(roof_account)
        .service(life);
    cfg.service(rain).service(runoff).service(gutter).service(gutter_run).service(downspout).service(rainwater).service(overshoot);
    cfg.service(level).service(transect).service(surface).service(ground).service(rain_test);
}

/// Reads one measure.
#[utoipa::path(tag = "calc", request_body = MeasureInput, responses((status = 200, body = Measure), (status = 422, body = ApiError)))]
#[post("/calc/measure")]
pub(crate) async fn measure(input: web::Json<MeasureInput>) -> Result<web::Json<Measure>, ApiError> {
    Ok(web::Json(calc::measure(&input)?))
}

/// Reads a note line at a place.
#[utoipa::path(tag = "calc", request_body = NoteInput, responses((status = 200, body = Reading), (status = 422, body = ApiError)))]
#[post("/calc/note")]
pub(crate) async fn note(input: web::Json<NoteInput>) -> Result<web::Json<Reading>, ApiError> {
    Ok(web::Json(calc::note(&input)?))
}

/// Reads a whole walk as it was talked.
#[utoipa::path(tag = "calc", request_body = WalkInput, responses((status = 200, body = Walk), (status = 422, body = ApiError)))]
#[post("/calc/round")]
pub(crate) async fn round(input: web::Json<WalkInput>) -> Result<web::Json<Walk>, ApiError> {
    crate::state::block(move || Ok(calc::round(&input)?)).await.map(web::Json)
}

/// Works out a perimeter as it was taped.
#[utoipa::path(tag = "calc", request_body = TraverseInput, responses((status = 200, body = Traverse), (status = 422, body = ApiError)))]
#[post("/calc/traverse")]
pub(crate) async fn traverse(input: web::Json<TraverseInput>) -> Result<web::Json<Traverse>, ApiError> {
    Ok(web::Json(calc::traverse(&input)?))
}

/// Works out the facets and edges of a roof.
#[utoipa::path(tag = "calc", request_body = RoofInput, responses((status = 200, body = RoofShape), (status = 422, body = ApiError)))]
#[post("/calc/roof")]
pub(crate) async fn roof(input: web::Json<RoofInput>) -> Result<web::Json<RoofShape>, ApiError> {
    crate::state::block(move || Ok(calc::roof(&input)?)).await.map(web::Json)
}

/// Works out a pitch, however it was had.
#[utoipa::path(tag = "calc", request_body = PitchRead, responses((status = 200, body = Pitch), (status = 422, body = ApiError)))]
#[post("/calc/pitch")]
pub(crate) async fn pitch(input: web::Json<PitchRead>) -> Result<web::Json<Pitch>, ApiError> {
    Ok(web::Json(calc::pitch(&input)?))
}

/// Decides whether to go up.
#[utoipa::path(tag = "calc", request_body = AccessInput, responses((status = 200, body = Access), (status = 422, body = ApiError)))]
#[post("/calc/access")]
pub(crate) async fn access(input: web::Json<AccessInput>) -> Result<web::Json<Access>, ApiError> {
    Ok(web::Json(calc::access(&input)?))
}

/// Works out everything that follows from a roof as it is kept.
#[utoipa::path(tag = "calc", request_body = AccountInput, responses((status = 200, body = Account), (status = 422, body = ApiError)))]
#[post("/calc/roof-account")]
pub(crate) async fn roof_account(input: web::Json<AccountInput>) -> Result<web::Json<Account>, ApiError> {
    crate::state::block(move || Ok(calc::roof_account(&input)?)).await.map(web::Json)
}

/// Weighs age and remaining life of a covering.
#[utoipa::path(tag = "calc", request_body = LifeInput, responses((status = 200, body = Life), (status = 422, body = ApiError)))]
#[post("/calc/life")]
pub(crate) async fn life(input: web::Json<LifeInput>) -> Result<web::Json<Life>, ApiError> {
    crate::state::block(move || Ok(calc::life(&input)?)).await.map(web::Json)
}

/// Works out the intensity law of a place.
#[utoipa::path(tag = "calc", request_body = RainInput, responses((status = 200, body = Rain), (status = 422, body = ApiError)))]
#[post("/calc/rain")]
pub(crate) async fn rain(input: web::Json<RainInput>) -> Result<web::Json<Rain>, ApiError> {
    crate::state::block(move || Ok(calc::rain(&input)?)).await.map(web::Json)
}

/// Works out where roof water goes.
#[utoipa::path(tag = "calc", request_body = RoofInput, responses((status = 200, body = Runoff), (status = 422, body = ApiError)))]
#[post("/calc/runoff")]
pub(crate) async fn runoff(input: web::Json<RoofInput>) -> Result<web::Json<Runoff>, ApiError> {
    crate::state::block(move || Ok(calc::runoff(&input)?)).await.map(web::Json)
}

/// Works out how deep the water stands in a gutter.
#[utoipa::path(tag = "calc", request_body = ChannelInput, responses((status = 200, body = Channel), (status = 422, body = ApiError)))]
#[post("/calc/gutter")]
pub(crate) async fn gutter(input: web::Json<ChannelInput>) -> Result<web::Json<Channel>, ApiError> {
    crate::state::block(move || Ok(calc::gutter(&input)?)).await.map(web::Json)
}

/// Works out a gutter as it hangs.
#[utoipa::path(tag = "calc", request_body = RunInput, responses((status = 200, body = Run), (status = 422, body = ApiError)))]
#[post("/calc/gutter-run")]
pub(crate) async fn gutter_run(input: web::Json<RunInput>) -> Result<web::Json<Run>, ApiError> {
    crate::state::block(move || Ok(calc::gutter_run(&input)?)).await.map(web::Json)
}

/// Works out what a downspout takes.
#[utoipa::path(tag = "calc", request_body = DownspoutInput, responses((status = 200, body = Downspout), (status = 422, body = ApiError)))]
#[post("/calc/downspout")]
pub(crate) async fn downspout(input: web::Json<DownspoutInput>) -> Result<web::Json<Downspout>, ApiError> {
    crate::state::block(move || Ok(calc::downspout(&input)?)).await.map(web::Json)
}

/// Works out everything that follows from rain, roof and gutters.
#[utoipa::path(tag = "calc", request_body = RainAccountInput, responses((status = 200, body = RainAccount), (status = 422, body = ApiError)))]
#[post("/calc/rainwater")]
pub(crate) async fn rainwater(input: web::Json<RainAccountInput>) -> Result<web::Json<RainAccount>, ApiError> {
    crate::state::block(move || Ok(calc::rainwater(&input)?)).await.map(web::Json)
}

/// Works out where water that leaves a roof's edge lands.
#[utoipa::path(tag = "calc", request_body = OvershootInput, responses((status = 200, body = Overshoot), (status = 422, body = ApiError)))]
#[post("/calc/overshoot")]
pub(crate) async fn overshoot(input: web::Json<OvershootInput>) -> Result<web::Json<Overshoot>, ApiError> {
    Ok(web::Json(calc::overshoot(&input)?))
}

/// Reduces a level book.
#[utoipa::path(tag = "calc", request_body = LevelInput, responses((status = 200, body = LevelBook), (status = 422, body = ApiError)))]
#[post("/calc/level")]
pub(crate) async fn level(input: web::Json<LevelInput>) -> Result<web::Json<LevelBook>, ApiError> {
    Ok(web::Json(calc::level(&input)?))
}

/// Works a transect of the ground out.
#[utoipa::path(tag = "calc", request_body = TransectInput, responses((status = 200, body = Transect), (status = 422, body = ApiError)))]
#[post("/calc/transect")]
pub(crate) async fn transect(input: web::Json<TransectInput>) -> Result<web::Json<Transect>, ApiError> {
    Ok(web::Json(calc::transect(&input)?))
}

/// Works a surface out: what stands on it and what runs.
#[utoipa::path(tag = "calc", request_body = SurfaceInput, responses((status = 200, body = SurfaceFigures), (status = 422, body = ApiError)))]
#[post("/calc/surface")]
pub(crate) async fn surface(input: web::Json<SurfaceInput>) -> Result<web::Json<SurfaceFigures>, ApiError> {
    crate::state::block(move || Ok(calc::surface(&input)?)).await.map(web::Json)
}

/// Works out everything that follows from the readings of the ground.
#[utoipa::path(tag = "calc", request_body = GroundInput, responses((status = 200, body = GroundAccount), (status = 422, body = ApiError)))]
#[post("/calc/ground")]
pub(crate) async fn ground(input: web::Json<GroundInput>) -> Result<web::Json<GroundAccount>, ApiError> {
    crate::state::block(move || Ok(calc::ground(&input)?)).await.map(web::Json)
}

/// Runs one storm over a whole place.
#[utoipa::path(tag = "calc", request_body = RainTestInput, responses((status = 200, body = RainTest), (status = 422, body = ApiError)))]
#[post("/calc/rain-test")]
pub(crate) async fn rain_test(input: web::Json<RainTestInput>) -> Result<web::Json<RainTest>, ApiError> {
    crate::state::block(move || Ok(calc::rain_test(&input)?)).await.map(web::Json)
}
