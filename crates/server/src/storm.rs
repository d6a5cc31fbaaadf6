//! The count after a storm: squares, soft metal, wind, which storm, what follows.

use crate::http::{Ask, Put, block, id};
use crate::keep::keep;
use crate::{ApiError, App, Code};
use account::Case;
use actix_web::{get, post, put, web};
use drawing::{Look, rates_svg, soft_wheel_svg, square_svg, storm_plan_svg};
use envelope::site::Face;
use envelope::storm::account::storm_account;
use envelope::storm::figures::StormAccount;
use envelope::storm::hits::{HailSign, signs};
use envelope::storm::record::StormVisit;
use envelope::storm::said::{FromPicture, count_said, hits_on_picture, square_said};
use instruments::StormRecord;
use jiff::ToSpan;
use ledger::{Change, Kind, Now, Record};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_damage).service(save_damage).service(try_damage).service(ask_storms).service(marked_hits);
}

/// How far back storms are asked for: a covering older than this has met many.
const YEARS_BACK: i32 = 10;

/// A square with its marks.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct SquareDrawn {
    /// Which.
    square: String,
    /// Seen square on, its lower side at the bottom.
    svg: String,
}

/// A count with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct StormPage {
    /// As it is kept; empty while nothing was counted.
    storm: StormVisit,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from it.
    account: StormAccount,
    /// The roof with squares and hits to scale.
    plan: Option<String>,
    /// Rates with their ranges on one scale.
    rates: Option<String>,
    /// Soft metal on the wheel; none while nothing was looked at.
    soft: Option<String>,
    /// Squares.
    drawn: Vec<SquareDrawn>,
    /// The signs that tell a hit from what looks like one.
    signs: &'static [HailSign],
}

fn page(case: &Case, storm: StormVisit) -> StormPage {
    let account = if storm == case.damage_kept() { case.damage().clone() } else { storm_account(&case.damage_on(&storm)) };
    let look = Look::PAGE.in_units(case.practice().units);
    let gust = account.which.as_ref().and_then(|w| w.ranked.first()?.event.clone());
    let from = storm.events.iter().find(|e| Some(&e.id) == gust.as_ref()).and_then(|e| e.from_deg);
    StormPage {
        rev: case.whole().storm.as_ref().map(|s| s.rev),
        plan: storm_plan_svg(case.roof(), &account, from, look),
        rates: rates_svg(&account, look),
        soft: soft_wheel_svg(&case.view().wheel, &storm.soft, from, look),
        drawn: storm
            .squares
            .iter()
            .zip(&account.squares)
            .filter(|(q, a)| q.id == a.id)
            .map(|(q, a)| SquareDrawn { square: q.id.clone(), svg: square_svg(q, a, look) })
            .collect(),
        signs: signs(),
        storm,
        account,
    }
}

/// The count of a job and what follows from it.
#[utoipa::path(tag = "storm", responses((status = 200, body = StormPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/storm")]
pub(crate) async fn show_damage(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<StormPage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, case.damage_kept()))).await.map(web::Json)
}

/// What would follow from another count; nothing is kept.
#[utoipa::path(tag = "storm", request_body = StormVisit, responses((status = 200, body = StormPage), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/storm/try")]
pub(crate) async fn try_damage(
    app: web::Data<App>,
    path: web::Path<String>,
    tried: web::Json<StormVisit>,
) -> Result<web::Json<StormPage>, ApiError> {
    let job = id(&path, "job")?;
    let tried = tried.into_inner();
    tried.check()?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, tried))).await.map(web::Json)
}

/// Keeps a count.
#[utoipa::path(tag = "storm", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<StormVisit>, responses((status = 200, body = Record<StormVisit>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/storm")]
pub(crate) async fn save_damage(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<StormVisit>>,
) -> Result<web::Json<Record<StormVisit>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Storm.only_id(&job);
    let put = put.into_inner();
    put.body.check()?;
    let case = app.case_in_background(job.clone()).await?;
    keep(app, ask, job, entity, put, move |storm, _| settle(&case, storm)).await
}

/// Checks a count against the roof and its dates, and keeps where each begun square lies.
fn settle(case: &Case, storm: &mut StormVisit) -> Result<(), ApiError> {
    storm.check_dates(case.brief().visited_on.unwrap_or(case.today()))?;
    let places = case.damage_on(storm).places(&case.damage_on(&case.damage_kept()));
    for (q, drawn) in storm.squares.iter_mut().zip(places) {
        q.drawn = drawn;
    }
    Ok(case.damage_on(storm).check()?)
}

/// A count that was told in a line, put into the square that waits for it: the change to the assessment, and what was done in words.
/// Nothing while no storm is assessed, or when the line tells no count.
pub(crate) fn counted_in(case: &Case, now: &Now<'_>, line: &str, face: Option<Face>) -> Result<Option<(Change, String)>, ApiError> {
    let (Some(said), Some(face)) = (square_said(line), face) else { return Ok(None) };
    let id = Kind::Storm.only_id(&case.whole().job.id);
    let Some(kept) = now.find::<StormVisit>(&id)? else { return Ok(None) };
    let mut storm = kept.body;
    let Some(words) = count_said(&mut storm, case.roof(), face, &said) else { return Ok(None) };
    settle(case, &mut storm)?;
    Ok(Some((Change::put(&id, Some(kept.rev), &storm)?, words)))
}

/// The hits that are marked on a picture of the job, as those of a square on a slope.
#[utoipa::path(tag = "storm", responses((status = 200, body = FromPicture), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/storm/squares/{square}/marks/{picture}")]
pub(crate) async fn marked_hits(
    app: web::Data<App>,
    path: web::Path<(String, String, String)>,
) -> Result<web::Json<FromPicture>, ApiError> {
    let (job, square, picture) = path.into_inner();
    let (job, picture) = (id(&job, "job")?, id(&picture, "picture")?);
    let case = app.case_in_background(job).await?;
    block(move || {
        let none = |what: &str| ApiError::new(Code::NotFound, format!("This job has no {what} of that name. It may have been taken out."));
        let p = case.whole().pictures.iter().find(|p| p.id == picture).ok_or_else(|| none("picture"))?;
        let q = case.damage_kept().squares.into_iter().find(|q| q.id == square).ok_or_else(|| none("square"))?;
        let usual = case.damage().slopes.iter().find(|s| s.facet == q.slope).map(|s| s.usual).unwrap_or_default();
        Ok(hits_on_picture(&picture, &p.body.marks, usual))
    })
    .await
    .map(web::Json)
}

/// Ten years of storms near the place, from the simulated weather office. Takes as long as an office does.
#[utoipa::path(tag = "storm", responses((status = 200, body = StormRecord), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/storm/events")]
pub(crate) async fn ask_storms(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<StormRecord>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        let case = app.case(&job)?;
        let until = case.brief().visited_on.unwrap_or(case.today());
        let from = until.checked_sub(YEARS_BACK.years()).unwrap_or(until);
        Ok(app.weather.storms(&case.brief().address, from, until))
    })
    .await
    .map(web::Json)
}
