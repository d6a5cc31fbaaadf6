//! The roof of a job: what was measured, what follows from it, its drawings and files.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::body;
use crate::http::file::file;
use crate::http::{Ask, Put, id};
use crate::keep::{keep, one};
use account::Case;
use actix_web::{HttpResponse, get, post, put, web};
use drawing::{Look, elevation_svg, life_svg, perimeter_svg, plan_svg, wear_svg};
use envelope::finding::catalogue;
use envelope::roof::account::{Account, details_of};
use envelope::roof::covering::{Covering, Sign, coverings, signs};
use envelope::roof::record::{Answer, Roof};
use envelope::round::{Note, NoteKind};
use exchange::read_roof_geojson;
use instruments::Lookup;
use ledger::{Change, Composed, Kind, LedgerError, Now, Record};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_actix_web::service_config::ServiceConfig;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(show_roof).service(save_roof).service(answer_detail).service(look_up);
    cfg.service(plan_file).service(roof_geojson).service(roof_dxf).service(read_geojson).service(wear_drawing).service(roof_choices);
}

/// The roof of a job with everything that follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct RoofPage {
    /// The roof as it is kept; an empty one while nothing was measured.
    roof: Roof,
    /// The revision a change must name; none while nothing was measured.
    rev: Option<i64>,
    /// What follows from it.
    account: Account,
    /// The perimeter as it was walked, for the page.
    perimeter: Option<String>,
    /// The plan, for the page.
    plan: Option<String>,
    /// The elevations, for the page, in the order of the faces.
    elevations: Vec<String>,
    /// Age and remaining life drawn, slope by slope; empty where there is no answer.
    lives: Vec<String>,
}

fn page(case: &Case) -> RoofPage {
    let account = case.roof();
    RoofPage {
        rev: case.whole().roof.as_ref().map(|r| r.rev),
        perimeter: account.perimeter.as_ref().map(|t| perimeter_svg(t, Look::PAGE.in_units(case.practice().units))),
        plan: plan_svg(account, Look::PAGE.in_units(case.practice().units)),
        elevations: account.elevations.iter().map(|e| elevation_svg(e, account, Look::PAGE.in_units(case.practice().units))).collect(),
        lives: account
            .slopes
            .iter()
            .map(|s| s.life.as_ref().map_or_else(String::new, |l| life_svg(s, l, Look::PAGE.in_units(case.practice().units))))
            .collect(),
        roof: case.roof_kept(),
        account: account.clone(),
    }
}

/// The roof of a job and what follows from it.
#[utoipa::path(tag = "roof", responses((status = 200, body = RoofPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof")]
pub(crate) async fn show_roof(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<RoofPage>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job).await?;
    app.work.heavy(move |_| Ok(page(&case))).await.map(web::Json)
}

/// Keeps the roof as it was measured.
#[utoipa::path(tag = "roof", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Roof>, responses((status = 200, body = Record<Roof>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/roof")]
pub(crate) async fn save_roof(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Roof>>,
) -> Result<web::Json<Record<Roof>>, ApiError> {
    let job = id(&path, "job")?;
    let (entity, today) = (Kind::Roof.only_id(&job), app.ledger.today());
    keep(app, ask, job, entity, put.into_inner(), move |body, now| Ok(body.check_dates(&now.job()?.body.brief, today)?)).await
}

/// What was found at a detail.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct DetailAnswer {
    /// The revision of the roof it was seen on.
    base: i64,
    /// The detail.
    key: String,
    /// What was found; none opens it again.
    answer: Option<Answer>,
    /// When, RFC 3339.
    #[serde(default)]
    at: String,
}

/// Answers a detail. One that is wrong becomes a note at its place, together with the answer, so that undo takes back both.
#[utoipa::path(tag = "roof", params(("idempotency-key" = uuid::Uuid, Header)), request_body = DetailAnswer, responses((status = 200, body = Record<Roof>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/roof/answers")]
pub(crate) async fn answer_detail(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    given: web::Json<DetailAnswer>,
) -> Result<web::Json<Record<Roof>>, ApiError> {
    let job = id(&path, "job")?;
    let given = given.into_inner();
    block(move || {
        let request = app.request(&ask);
        let compose = |now: &Now<'_>| -> Result<_, ApiError> { Ok(Composed::just(answered(&given, &job, &ask, now)?)) };
        one(app.ledger.change(&request, &job, &(&ask.what, &given), compose)?.0)
    })
    .await
    .map(web::Json)
}

fn answered(given: &DetailAnswer, job: &str, ask: &Ask, now: &Now<'_>) -> Result<Vec<Change>, ApiError> {
    let DetailAnswer { base, key, answer, at } = given;
    let Some(kept) = now.find::<Roof>(&Kind::Roof.only_id(job))? else {
        return Err(ApiError::field("key", "No roof was measured yet, so nothing must exist on it."));
    };
    let mut roof = kept.body;
    let front = now.job()?.body.brief.front_faces;
    let said: Vec<Note> = now.all::<Note>()?.into_iter().map(|n| n.body).collect();
    let details = details_of(&roof, front, &now.practice()?, &said.iter().collect::<Vec<_>>());
    let Some(detail) = details.iter().find(|d| d.key == *key) else {
        return Err(ApiError::field("key", "This detail is no longer on the roof. Look at the list again."));
    };
    let mut changes = Vec::new();
    match answer {
        None => {
            roof.answers.remove(key);
        }
        Some(Answer::Wrong { condition, .. }) => {
            let Some(row) = catalogue().get(condition) else {
                return Err(ApiError::field("answer", "Choose what is wrong from the catalogue of conditions."));
            };
            let note_id = Uuid::new_v5(&ask.id, b"note").to_string();
            let mut note = envelope::round::read(&row.name, &envelope::round::Context::at(detail.place.clone(), front))
                .notes
                .into_iter()
                .next()
                .map_or_else(|| empty_note(detail.place.clone(), at), |n| n.into_note(at.clone()));
            note.place = detail.place.clone();
            note.kind = NoteKind::Defect;
            note.condition = Some(condition.clone());
            note.text = format!("{}: {}", detail.words, row.name.to_lowercase());
            changes.push(Change::put(&note_id, None, &note)?);
            roof.answers.insert(key.clone(), Answer::Wrong { condition: condition.clone(), note_id: Some(note_id) });
        }
        Some(other) => {
            roof.answers.insert(key.clone(), other.clone());
        }
    }
    changes.insert(0, Change::put(&kept.id, Some(*base), &roof)?);
    Ok(changes)
}

fn empty_note(place: envelope::site::Place, at: &str) -> Note {
    let json = serde_json::json!({ "place": place, "kind": "defect", "at": at });
    serde_json::from_value(json).expect("a place and a kind make a note")
}

/// Permits of the job's address, from the simulated records office. Takes as long as an office does.
#[utoipa::path(tag = "roof", responses((status = 200, body = Lookup), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof/records")]
pub(crate) async fn look_up(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<Lookup>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.records.permits(&app.ledger.job(&job)?.job.body.brief.address))).await.map(web::Json)
}

/// A file made of the roof, under the job's name.
async fn download(
    app: web::Data<App>,
    path: web::Path<String>,
    media: &str,
    ending: &str,
    make: fn(&Case, &Account) -> Result<Vec<u8>, ApiError>,
) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let made = case.clone();
    let bytes = app
        .work
        .heavy(move |_| {
            let account = made.roof();
            if account.shape.is_none() {
                return Err(LedgerError::NotFound { kind: Kind::Roof, id: made.whole().job.id.clone() }.into());
            }
            make(&made, account)
        })
        .await?;
    Ok(file(bytes, media, &case.whole().job.body.name, ending))
}

/// The roof plan as an SVG file.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "image/svg+xml", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.svg")]
pub(crate) async fn plan_file(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "image/svg+xml", "-roof.svg", |case, a| {
        Ok(plan_svg(a, Look::PRINT.in_units(case.practice().units)).unwrap_or_default().into_bytes())
    })
    .await
}

/// Masses, facets, edges and details as GeoJSON, in metres.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "application/geo+json", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.geojson")]
pub(crate) async fn roof_geojson(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "application/geo+json", "-roof.geojson", |case, a| Ok(exchange::roof_geojson(&case.roof_kept(), a).into_bytes()))
        .await
}

/// Facets, edges and walls as a DXF drawing, in metres.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "image/vnd.dxf", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.dxf")]
pub(crate) async fn roof_dxf(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "image/vnd.dxf", "-roof.dxf", |_, a| exchange::roof_dxf(a).map_err(|e| ApiError::internal(&e))).await
}

/// Reads masses from a GeoJSON file; nothing is kept.
#[utoipa::path(tag = "roof", request_body(content = Vec<u8>, content_type = "application/geo+json"), responses((status = 200, body = Roof), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/roof/geojson")]
pub(crate) async fn read_geojson(app: web::Data<App>, path: web::Path<String>, payload: web::Payload) -> Result<web::Json<Roof>, ApiError> {
    let job = id(&path, "job")?;
    /// More than any roof.
    const MOST_BYTES: usize = 8 << 20;
    let bytes = body::small(payload, MOST_BYTES, "GeoJSON file").await?;
    let case = app.case_in_background(job).await?;
    app.work
        .heavy(move |_| {
            let read =
                read_roof_geojson(&String::from_utf8_lossy(&bytes), case.brief()).map_err(|e| ApiError::field("file", e.to_string()))?;
            // What is not in the file stays as it is.
            Ok(Roof { masses: read.masses, ..case.roof_kept() })
        })
        .await
        .map(web::Json)
}

/// What a drawing is for.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub(crate) struct WearWanted {
    covering: String,
    sign: String,
    grade: u8,
}

/// What a grade of wear looks like on a covering.
#[utoipa::path(tag = "roof", params(WearWanted), responses((status = 200, body = String), (status = 422, body = ApiError)))]
#[get("/wear")]
pub(crate) async fn wear_drawing(wanted: web::Query<WearWanted>) -> Result<web::Json<String>, ApiError> {
    wear_svg(&wanted.covering, &wanted.sign, wanted.grade, Look::PAGE)
        .map(web::Json)
        .ok_or_else(|| ApiError::field("sign", "This covering shows no such sign, or the grade is not from 0 to 4."))
}

/// What can be chosen on the Roof bench.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct RoofChoices {
    coverings: Vec<Covering>,
    signs: Vec<Sign>,
}

/// Coverings and signs of wear.
#[utoipa::path(tag = "choices", responses((status = 200, body = RoofChoices)))]
#[get("/roof-choices")]
pub(crate) async fn roof_choices() -> web::Json<RoofChoices> {
    web::Json(RoofChoices { coverings: coverings().to_vec(), signs: signs().to_vec() })
}
