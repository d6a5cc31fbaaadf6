//! Walls of a job: details with their water, what was looked at before cladding, cladding that stands.

use crate::ApiError;
use crate::App;
use crate::http::{Ask, Put, id};
use crate::keep::keep;
use account::Case;
use actix_web::{get, post, put, web};
use drawing::{Look, cracks_svg, floor_svg, laps_svg};
use envelope::job::VisitKind;
use envelope::site::{Face, Item, Place};
use envelope::wall::account::{WallAccount, wall_account};
use envelope::wall::record::Walls;
use envelope::wall::said::{checks_said, put_in};
use ledger::{Change, Kind, Now, Record};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_walls).service(save_walls).service(try_walls);
}

/// Walls with everything that follows from them.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct WallsPage {
    /// As they are kept; empty while nothing was met.
    walls: Walls,
    /// The revision a change must name.
    rev: Option<i64>,
    /// What follows from them.
    account: WallAccount,
    /// Each detail with its water, sound and aged; empty where it could not be worked out.
    drawings: Vec<String>,
    /// The faces that have cracks, to scale.
    elevations: Vec<String>,
    /// Heights of the floor in plan; a height is put where it is tapped.
    floor: String,
}

fn page(case: &Case, walls: Walls) -> WallsPage {
    let kept = case.walls_kept();
    let account = if walls == kept { case.walls().clone() } else { wall_account(&case.wall_input(walls.clone())) };
    let look = Look::PAGE.in_units(case.practice().units);
    WallsPage {
        rev: case.whole().walls.as_ref().map(|w| w.rev),
        drawings: account.details.iter().map(|d| laps_svg(d, look).unwrap_or_default()).collect(),
        elevations: Face::ALL.into_iter().filter_map(|f| cracks_svg(f, &walls, &account, case.roof(), look)).collect(),
        floor: {
            let long = |face| case.wall_input(Walls::default()).face_m.get(&face).copied();
            floor_svg(account.floor.as_ref(), long(Face::Front), long(Face::Left), look)
        },
        walls,
        account,
    }
}

/// Answers that a line tells before cladding, put into the matrix: the change, and what was done in words. Nothing on other visits, or
/// when the line tells no answer.
pub(crate) fn checked_in(now: &Now<'_>, job: &str, line: &str, place: &Place) -> Result<Option<(Change, String)>, ApiError> {
    if now.job()?.body.brief.visit != VisitKind::BeforeCladding {
        return Ok(None);
    }
    let items: Vec<Item> = now.all::<Item>()?.into_iter().map(|i| i.body).collect();
    let said = checks_said(line, place, &items);
    let id = Kind::Walls.only_id(job);
    let kept = now.find::<Walls>(&id)?;
    let (rev, mut walls) = kept.map_or((None, Walls::default()), |k| (Some(k.rev), k.body));
    let Some(words) = put_in(&mut walls, said) else { return Ok(None) };
    walls.check()?;
    Ok(Some((Change::put(&id, rev, &walls)?, words)))
}

/// Walls of a job and what follows from them.
#[utoipa::path(tag = "walls", responses((status = 200, body = WallsPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/walls")]
pub(crate) async fn show_walls(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<WallsPage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case, case.walls_kept()))).await.map(web::Json)
}

/// What would follow from other laps or answers; nothing is kept.
#[utoipa::path(tag = "walls", request_body = Walls, responses((status = 200, body = WallsPage), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/walls/try")]
pub(crate) async fn try_walls(
    app: web::Data<App>,
    path: web::Path<String>,
    tried: web::Json<Walls>,
) -> Result<web::Json<WallsPage>, ApiError> {
    let job = id(&path, "job")?;
    let tried = tried.into_inner();
    tried.check()?;
    let case = app.case_in_background(job).await?;
    tried.check_against(case.brief().year_built)?;
    app.work.heavy(move |_| Ok(page(&case, tried))).await.map(web::Json)
}

/// Keeps walls as they were met.
#[utoipa::path(tag = "walls", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Walls>, responses((status = 200, body = Record<Walls>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/walls")]
pub(crate) async fn save_walls(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Walls>>,
) -> Result<web::Json<Record<Walls>>, ApiError> {
    let job = id(&path, "job")?;
    let entity = Kind::Walls.only_id(&job);
    let put = put.into_inner();
    put.body.check()?;
    let built = app.case_in_background(job.clone()).await?.brief().year_built;
    keep(app, ask, job, entity, put, move |walls, _| Ok(walls.check_against(built)?)).await
}
