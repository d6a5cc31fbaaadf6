//! The roof of a job: what was measured, what follows from it, its drawings and files.

use crate::ApiError;
use crate::api::{ChangeId, Put, id};
use crate::jobs::record;
use crate::out::file;
use crate::pictures::body;
use crate::state::{App, block};
use actix_web::{HttpResponse, get, post, put, web};
use envelope::finding::catalogue;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::covering::{Covering, Sign, coverings, signs};
use envelope::roof::record::{Answer, Roof};
use envelope::round::{Note, NoteKind};
use instruments::Lookup;
use jiff::civil::Date;
use ledger::{Change, LedgerError, Record, WholeJob};
use report::{Look, elevation_svg, life_svg, perimeter_svg, plan_svg, read_roof_geojson, wear_svg};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(show_roof).service(save_roof).service(answer_detail).service(look_up);
    cfg.service(plan_file).service(roof_geojson).service(roof_dxf).service(read_geojson).service(wear_drawing).service(roof_choices);
}

/// The id of a job's roof: a job has one.
pub(crate) fn roof_id(job: &str) -> String {
    format!("{job}:roof")
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

/// The day to count from while the brief names none.
fn today(app: &App) -> Date {
    app.ledger.now().parse::<jiff::Timestamp>().map(|t| t.to_zoned(jiff::tz::TimeZone::UTC).date()).unwrap_or(Date::constant(2000, 1, 1))
}

fn worked(app: &App, whole: &WholeJob) -> (Roof, Account) {
    let roof = whole.roof.as_ref().map(|r| r.body.clone()).unwrap_or_default();
    let input = AccountInput { roof, brief: whole.job.body.brief.clone(), practice: whole.practice.clone(), today: today(app) };
    let notes: Vec<&Note> = whole.notes.iter().map(|n| &n.body).collect();
    let a = account(&input, &notes);
    (input.roof, a)
}

fn page(app: &App, job: &str) -> Result<RoofPage, ApiError> {
    let whole = app.ledger.job(job)?;
    let (roof, account) = worked(app, &whole);
    Ok(RoofPage {
        rev: whole.roof.as_ref().map(|r| r.rev),
        perimeter: account.perimeter.as_ref().map(|t| perimeter_svg(t, Look::PAGE)),
        plan: plan_svg(&account, Look::PAGE),
        elevations: account.elevations.iter().map(|e| elevation_svg(e, &account, Look::PAGE)).collect(),
        lives: account.slopes.iter().map(|s| s.life.as_ref().map_or_else(String::new, |l| life_svg(s, l, Look::PAGE))).collect(),
        roof,
        account,
    })
}

/// The roof of a job and what follows from it.
#[utoipa::path(tag = "roof", responses((status = 200, body = RoofPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof")]
pub(crate) async fn show_roof(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<RoofPage>, ApiError> {
    let job = id(&path, "job")?;
    block(move || page(&app, &job)).await.map(web::Json)
}

/// Keeps the roof as it was measured.
#[utoipa::path(tag = "roof", params(("idempotency-key" = String, Header)), request_body = Put<Roof>, responses((status = 200, body = Record<Roof>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/roof")]
pub(crate) async fn save_roof(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    put: web::Json<Put<Roof>>,
) -> Result<web::Json<Record<Roof>>, ApiError> {
    let job = id(&path, "job")?;
    let Put { base, body } = put.into_inner();
    block(move || {
        body.check()?;
        let whole = app.ledger.job(&job)?;
        body.check_dates(&whole.job.body.brief, today(&app))?;
        record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&roof_id(&job), base, &body)?], &[])?)
    })
    .await
    .map(web::Json)
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
#[utoipa::path(tag = "roof", params(("idempotency-key" = String, Header)), request_body = DetailAnswer, responses((status = 200, body = Record<Roof>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/roof/answers")]
pub(crate) async fn answer_detail(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    given: web::Json<DetailAnswer>,
) -> Result<web::Json<Record<Roof>>, ApiError> {
    let job = id(&path, "job")?;
    let DetailAnswer { base, key, answer, at } = given.into_inner();
    block(move || {
        let whole = app.ledger.job(&job)?;
        let Some(kept) = &whole.roof else {
            return Err(ApiError::field("key", "No roof was measured yet, so nothing must exist on it."));
        };
        let mut roof = kept.body.clone();
        let (_, account) = worked(&app, &whole);
        let Some(detail) = account.details.iter().find(|d| d.key == key) else {
            return Err(ApiError::field("key", "This detail is no longer on the roof. Look at the list again."));
        };
        let mut changes = Vec::new();
        match answer {
            None => {
                roof.answers.remove(&key);
            }
            Some(Answer::Wrong { condition, .. }) => {
                let Some(row) = catalogue().get(&condition) else {
                    return Err(ApiError::field("answer", "Choose what is wrong from the catalogue of conditions."));
                };
                let note_id = Uuid::new_v5(&change.0, b"note").to_string();
                let mut note =
                    envelope::round::read(&row.name, &envelope::round::Context::at(detail.place.clone(), whole.job.body.brief.front_faces))
                        .notes
                        .into_iter()
                        .next()
                        .map_or_else(|| empty_note(detail.place.clone(), &at), |n| n.into_note(at.clone()));
                note.place = detail.place.clone();
                note.kind = NoteKind::Defect;
                note.condition = Some(condition.clone());
                note.text = format!("{}: {}", detail.words, row.name.to_lowercase());
                note.check()?;
                changes.push(Change::put(&note_id, None, &note)?);
                roof.answers.insert(key, Answer::Wrong { condition, note_id: Some(note_id) });
            }
            Some(other) => {
                roof.answers.insert(key, other);
            }
        }
        roof.check()?;
        changes.insert(0, Change::put(&roof_id(&job), Some(base), &roof)?);
        record(app.ledger.apply(&app.request(change.0), &job, &changes, &[])?)
    })
    .await
    .map(web::Json)
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
    make: fn(&Roof, &Account) -> Result<Vec<u8>, ApiError>,
) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let (bytes, name) = block(move || {
        let whole = app.ledger.job(&job)?;
        let (roof, account) = worked(&app, &whole);
        if account.shape.is_none() {
            return Err(LedgerError::NotFound { kind: ledger::Kind::Roof, id: job }.into());
        }
        Ok((make(&roof, &account)?, whole.job.body.name))
    })
    .await?;
    Ok(file(bytes, media, &name, ending))
}

/// The roof plan as an SVG file.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "image/svg+xml", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.svg")]
pub(crate) async fn plan_file(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "image/svg+xml", "-roof.svg", |_, a| Ok(plan_svg(a, Look::PRINT).unwrap_or_default().into_bytes())).await
}

/// Masses, facets, edges and details as GeoJSON, in metres.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "application/geo+json", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.geojson")]
pub(crate) async fn roof_geojson(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "application/geo+json", "-roof.geojson", |r, a| Ok(report::roof_geojson(r, a).into_bytes())).await
}

/// Facets, edges and walls as a DXF drawing, in metres.
#[utoipa::path(tag = "roof", responses((status = 200, content_type = "image/vnd.dxf", body = Vec<u8>), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/roof.dxf")]
pub(crate) async fn roof_dxf(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    download(app, path, "image/vnd.dxf", "-roof.dxf", |_, a| report::roof_dxf(a).map_err(|e| ApiError::internal(&e))).await
}

/// Reads masses from a GeoJSON file; nothing is kept.
#[utoipa::path(tag = "roof", request_body(content = Vec<u8>, content_type = "application/geo+json"), responses((status = 200, body = Roof), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/roof/geojson")]
pub(crate) async fn read_geojson(app: web::Data<App>, path: web::Path<String>, payload: web::Payload) -> Result<web::Json<Roof>, ApiError> {
    let job = id(&path, "job")?;
    /// More than any roof.
    const MOST_BYTES: usize = 8 << 20;
    let bytes = body(payload, MOST_BYTES, "GeoJSON file").await?;
    block(move || {
        let whole = app.ledger.job(&job)?;
        let read = read_roof_geojson(&String::from_utf8_lossy(&bytes), &whole.job.body.brief)
            .map_err(|e| ApiError::field("file", e.to_string()))?;
        // What is not in the file stays as it is.
        let kept = whole.roof.map(|r| r.body).unwrap_or_default();
        Ok(Roof { masses: read.masses, ..kept })
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
