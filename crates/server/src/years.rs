//! The building over the years: its page, its calendar and reserve, and the return visit.

use crate::http::file::file;
use crate::http::{Ask, Base, Put, block, id};
use crate::keep::{keep, one, take_out_if};
use crate::{ApiError, App, Code};
use account::{BuildingAccount, Case, building_account, return_changes, returned};
use actix_web::http::header;
use actix_web::{HttpResponse, delete, get, post, put, web};
use drawing::{Look, reserve_svg};
use envelope::job::Job;
use envelope::years::again::{ReturnAccount, ReturnKept};
use envelope::years::building::{Building, same_address};
use exchange::{reserve_csv, upkeep_ics};
use jiff::civil::Date;
use ledger::{Change, Composed, Kind, Record, Stored};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(list_buildings)
        .service(show_building)
        .service(save_building)
        .service(remove_building)
        .service(join_building)
        .service(leave_building)
        .service(same_house)
        .service(calendar)
        .service(reserve_table)
        .service(start_return)
        .service(show_return)
        .service(save_return)
        .service(old_picture);
}

/// A building in the list.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct BuildingRow {
    id: String,
    name: String,
    address: String,
    /// Jobs that belong to it.
    visits: usize,
}

/// Every building, by name.
#[utoipa::path(tag = "buildings", responses((status = 200, body = Vec<BuildingRow>)))]
#[get("/buildings")]
pub(crate) async fn list_buildings(app: web::Data<App>) -> Result<web::Json<Vec<BuildingRow>>, ApiError> {
    block(move || {
        let one = |b: Record<Building>| -> Result<BuildingRow, ApiError> {
            let visits = app.ledger.jobs_of_building(&b.id)?.len();
            Ok(BuildingRow { id: b.id, name: b.body.name, address: b.body.address, visits })
        };
        app.ledger.buildings()?.into_iter().map(one).collect()
    })
    .await
    .map(web::Json)
}

/// A building with everything that follows from its visits.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct BuildingPage {
    building: Record<Building>,
    account: BuildingAccount,
    /// What is put by and what may be spent.
    curve: Option<String>,
}

fn worked_out(app: &App, building: &str) -> Result<(Record<Building>, BuildingAccount), ApiError> {
    let kept: Record<Building> = app.ledger.get(building, building)?;
    let cases: Vec<Arc<Case>> = app.ledger.jobs_of_building(building)?.iter().map(|j| app.case(j)).collect::<Result<_, _>>()?;
    let account = building_account(&kept.body, &cases, app.ledger.today());
    Ok((kept, account))
}

/// A building: time line, series, places, upkeep, reserve.
#[utoipa::path(tag = "buildings", responses((status = 200, body = BuildingPage), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/buildings/{building}")]
pub(crate) async fn show_building(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<BuildingPage>, ApiError> {
    let building = id(&path, "building")?;
    let at = app.clone();
    app.work
        .heavy(move |_| {
            let (building, account) = worked_out(&at, &building)?;
            let curve = account.reserve.as_ref().and_then(|r| reserve_svg(r, Look::PAGE));
            Ok(BuildingPage { building, account, curve })
        })
        .await
        .map(web::Json)
}

/// Keeps a building.
#[utoipa::path(tag = "buildings", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Building>, responses((status = 200, body = Record<Building>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/buildings/{building}")]
pub(crate) async fn save_building(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Building>>,
) -> Result<web::Json<Record<Building>>, ApiError> {
    let building = id(&path, "building")?;
    keep(app, ask, building.clone(), building, put.into_inner(), |_, _| Ok(())).await
}

/// Deletes a building no job belongs to; undo brings it back.
#[utoipa::path(tag = "buildings", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/buildings/{building}")]
pub(crate) async fn remove_building(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let building = id(&path, "building")?;
    let empty = {
        let building = building.clone();
        // Asked where it is taken out: a visit may join it meanwhile.
        move |now: &ledger::Now<'_>| match now.jobs_of_building(&building)?.is_empty() {
            true => Ok(()),
            false => Err(ApiError::new(Code::Conflict, "Visits belong to this building. Take them out of it first.")),
        }
    };
    take_out_if(app, ask, building.clone(), Kind::Building, building, base.base, empty).await
}

async fn belongs(app: web::Data<App>, ask: Ask, job: String, building: Option<String>) -> Result<web::Json<Record<Job>>, ApiError> {
    block(move || {
        let compose = |now: &ledger::Now<'_>| -> Result<_, ApiError> {
            if let Some(b) = &building {
                now.building(b)?;
            }
            let kept = now.job()?;
            Ok(Composed::just(vec![Change::put(&kept.id, Some(kept.rev), &Job { building: building.clone(), ..kept.body })?]))
        };
        let (stored, ()) = app.ledger.change(&app.request(&ask), &job, &(&ask.what, &building), compose)?;
        one(stored)
    })
    .await
    .map(web::Json)
}

/// Says that a job is a visit of this building. Undo on the job takes it back.
#[utoipa::path(tag = "buildings", params(("idempotency-key" = uuid::Uuid, Header)), responses((status = 200, body = Record<Job>), (status = 404, body = ApiError), (status = 409, body = ApiError)))]
#[post("/buildings/{building}/jobs/{job}")]
pub(crate) async fn join_building(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
) -> Result<web::Json<Record<Job>>, ApiError> {
    let (building, job) = (id(&path.0, "building")?, id(&path.1, "job")?);
    belongs(app, ask, job, Some(building)).await
}

/// Takes a job out of its building; nothing of the job is lost.
#[utoipa::path(tag = "buildings", params(("idempotency-key" = uuid::Uuid, Header)), responses((status = 200, body = Record<Job>), (status = 404, body = ApiError), (status = 409, body = ApiError)))]
#[delete("/buildings/{building}/jobs/{job}")]
pub(crate) async fn leave_building(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
) -> Result<web::Json<Record<Job>>, ApiError> {
    let job = id(&path.1, "job")?;
    belongs(app, ask, job, None).await
}

/// Another visit of what may be the same house.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct OtherVisit {
    job: String,
    name: String,
    visit: String,
    #[schema(value_type = Option<String>, format = Date)]
    visited_on: Option<Date>,
    /// The building it belongs to.
    building: Option<String>,
}

/// The building of a job, and other jobs at the same address: to be asked, never to be guessed.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct SameHouse {
    building: Option<Record<Building>>,
    same_address: Vec<OtherVisit>,
}

/// The building of a job, and what has the same address.
#[utoipa::path(tag = "buildings", responses((status = 200, body = SameHouse), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/building")]
pub(crate) async fn same_house(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<SameHouse>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        let own: Record<Job> = app.ledger.get(&job, &job)?;
        // A building that was deleted is none.
        let building = own.body.building.as_ref().and_then(|b| app.ledger.get::<Building>(b, b).ok());
        let others = app
            .ledger
            .addresses()?
            .into_iter()
            .filter(|(other, address, _)| *other != job && same_address(address, &own.body.brief.address));
        let one = |(other, _, _): (String, String, Option<String>)| -> Result<OtherVisit, ApiError> {
            let kept: Record<Job> = app.ledger.get(&other, &other)?;
            let b = &kept.body.brief;
            Ok(OtherVisit {
                job: other,
                visit: b.visit.name().to_owned(),
                visited_on: b.visited_on,
                name: kept.body.name.clone(),
                building: kept.body.building,
            })
        };
        Ok(SameHouse { building, same_address: others.map(one).collect::<Result<_, _>>()? })
    })
    .await
    .map(web::Json)
}

/// The seasons' list as a calendar.
#[utoipa::path(tag = "buildings", responses((status = 200, content_type = "text/calendar", body = String), (status = 404, body = ApiError)))]
#[get("/buildings/{building}/upkeep.ics")]
pub(crate) async fn calendar(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let building = id(&path, "building")?;
    let at = app.clone();
    let (text, name) = app
        .work
        .heavy(move |_| {
            let (kept, account) = worked_out(&at, &building)?;
            let b = kept.body;
            Ok((upkeep_ics(&b.name, &b.address, &account.upkeep, at.ledger.today()), b.name))
        })
        .await?;
    Ok(file(text.into_bytes(), "text/calendar; charset=utf-8", &name, "-upkeep.ics"))
}

/// The reserve as a table.
#[utoipa::path(tag = "buildings", responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = ApiError), (status = 409, body = ApiError)))]
#[get("/buildings/{building}/reserve.csv")]
pub(crate) async fn reserve_table(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let building = id(&path, "building")?;
    let at = app.clone();
    let (bytes, name) = app
        .work
        .heavy(move |_| {
            let (kept, account) = worked_out(&at, &building)?;
            let plan = account.reserve.ok_or_else(|| ApiError::new(Code::Conflict, account.problem.unwrap_or_default()))?;
            Ok((reserve_csv(&plan).map_err(|e| ApiError::internal(&e))?, kept.body.name))
        })
        .await?;
    Ok(file(bytes, "text/csv; charset=utf-8", &name, "-reserve.csv"))
}

/// A return visit with what it comes to.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct ReturnPage {
    kept: ReturnKept,
    rev: i64,
    account: ReturnAccount,
}

/// The job a return visit is kept under.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct StartReturn {
    /// A new id.
    id: uuid::Uuid,
}

/// Starts a return visit of a job: a new job with every recommendation as a line to answer. What does not change between visits (the
/// roof, the gutters, what was counted) is taken along.
#[utoipa::path(tag = "return", params(("idempotency-key" = uuid::Uuid, Header)), request_body = StartReturn, responses((status = 200, body = Record<Job>), (status = 404, body = ApiError), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/return")]
pub(crate) async fn start_return(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    start: web::Json<StartReturn>,
) -> Result<web::Json<Record<Job>>, ApiError> {
    let earlier = id(&path, "job")?;
    let case = app.case_in_background(earlier).await?;
    let new = start.id.to_string();
    block(move || {
        let compose = |_: &ledger::Now<'_>| -> Result<_, ApiError> { Ok(Composed::just(return_changes(&case, &new)?)) };
        let (stored, ()) = app.ledger.change(&app.request(&ask), &new, &(&ask.what, &start.id), compose)?;
        let job = stored.into_iter().find(|s| s.kind == Kind::Job).ok_or_else(|| ApiError::internal(&"no job"))?;
        Ok(job.typed()?)
    })
    .await
    .map(web::Json)
}

/// A return visit.
#[utoipa::path(tag = "return", responses((status = 200, body = ReturnPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/return")]
pub(crate) async fn show_return(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<ReturnPage>, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    block(move || {
        let none = || ApiError::new(Code::NotFound, "This job stands on no earlier visit. Start a return visit from that one's report.");
        let kept = case.whole().again.clone().ok_or_else(none)?;
        let account = returned(&case).ok_or_else(none)?;
        Ok(ReturnPage { kept: kept.body, rev: kept.rev, account })
    })
    .await
    .map(web::Json)
}

/// Keeps the answers of a return visit.
#[utoipa::path(tag = "return", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<ReturnKept>, responses((status = 200, body = Record<ReturnKept>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/return")]
pub(crate) async fn save_return(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<ReturnKept>>,
) -> Result<web::Json<Record<ReturnKept>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Return.only_id(&job);
    keep(app, ask, job, entity, put.into_inner(), |body, now| {
        let taken: std::collections::BTreeSet<String> = now.all::<ledger::Picture>()?.into_iter().map(|p| p.id).collect();
        match body.lines.iter().find(|l| l.now.as_ref().is_some_and(|p| !taken.contains(p))) {
            Some(l) => Err(ApiError::field(&format!("lines.{}.now", l.id), "That picture is not of this visit. Choose one that is.")),
            None => Ok(()),
        }
    })
    .await
}

/// A picture of the earlier visit, as the return visit names it.
#[utoipa::path(tag = "return", responses((status = 200, content_type = "image/jpeg", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/return/pictures/{hash}")]
pub(crate) async fn old_picture(app: web::Data<App>, path: web::Path<(String, String)>) -> Result<HttpResponse, ApiError> {
    let (job, hash) = path.into_inner();
    let case = app.case_in_background(id(&job, "job")?).await?;
    let bytes = block(move || {
        let named = case.whole().again.iter().flat_map(|a| &a.body.lines).flat_map(|l| &l.then).any(|p| p.hash == hash);
        let gone = || ApiError::new(Code::NotFound, "The picture of the earlier visit is not here any more.");
        if named { app.ledger.blob(&hash).map_err(|_| gone()) } else { Err(gone()) }
    })
    .await?;
    let media = if bytes.starts_with(b"\x89PNG") { "image/png" } else { "image/jpeg" };
    Ok(HttpResponse::Ok().insert_header((header::CONTENT_TYPE, media)).body(bytes))
}
