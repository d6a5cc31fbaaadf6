//! Jobs, marks, closing, undo and history.

use crate::App;
use crate::http::block;
use crate::http::{Ask, Base, Put, id};
use crate::keep::{keep, take_out};
use crate::{ApiError, Code};
use account::{Case, JobView};
use actix_web::{HttpResponse, delete, get, post, put, web};
use drawing::Look;
use envelope::job::{Job, VisitKind};
use envelope::site::{Cell, Mark, MarkState, Tally};
use jiff::civil::Date;
use ledger::{Change, Composed, HistoryRow, Hit, Kind, Record, Stored, Undone, mark_id};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(list)
        .service(show)
        .service(save)
        .service(remove)
        .service(mark)
        .service(unmark)
        .service(close)
        .service(undo)
        .service(redo)
        .service(history)
        .service(show_then)
        .service(search);
}

/// A job in the list.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub(crate) struct JobSummary {
    id: String,
    rev: i64,
    name: String,
    address: String,
    visit: VisitKind,
    visit_name: String,
    #[schema(value_type = Option<String>, format = Date)]
    visited_on: Option<Date>,
    #[schema(value_type = Option<String>, format = Date)]
    report_due: Option<Date>,
    /// "Report due in 3 days", "Report 2 days late"; empty without a date or when closed.
    due: String,
    tally: Tally,
    coverage: String,
    findings: usize,
    hazards: usize,
    closed: bool,
    changed_at: String,
    /// The version of the program that worked it out: another one works it out anew.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    made_by: String,
}

/// Written into the rows of the list that are kept.
const MADE_BY: &str = concat!(env!("CARGO_PKG_VERSION"), "-2");

fn due_words(due: Option<Date>, today: Date) -> String {
    due.map_or_else(String::new, |d| format!("Report {}", envelope::years::leaving::due_words(today, Some(d)).0.to_lowercase()))
}

/// A page of the list.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct JobList {
    /// Last changed first.
    jobs: Vec<JobSummary>,
    /// How many jobs there are in all.
    all: usize,
}

/// Which page of the list.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub(crate) struct Page {
    /// Jobs to skip.
    #[serde(default)]
    from: usize,
    /// Jobs wanted.
    most: Option<usize>,
}

/// Jobs in one page of the list.
const PAGE: usize = 50;

/// What the list keeps of a job, worked out once for each change.
fn summary(v: &JobView) -> JobSummary {
    let b = &v.job.body.brief;
    JobSummary {
        name: v.job.body.name.clone(),
        address: b.address.clone(),
        visit: b.visit,
        visit_name: v.visit.clone(),
        visited_on: b.visited_on,
        report_due: account::due_on(b),
        due: String::new(),
        tally: v.coverage.tally,
        coverage: v.coverage.sentence.clone(),
        findings: v.findings.iter().filter(|f| f.kind == envelope::round::NoteKind::Defect).count(),
        hazards: v.findings.iter().filter(|f| f.hazard).count(),
        closed: v.closing.closed,
        changed_at: v.changed_at.clone(),
        made_by: MADE_BY.to_owned(),
        id: v.job.id.clone(),
        rev: v.job.rev,
    }
}

/// Jobs, last changed first.
#[utoipa::path(tag = "jobs", params(Page), responses((status = 200, body = JobList)))]
#[get("/jobs")]
pub(crate) async fn list(app: web::Data<App>, page: web::Query<Page>) -> Result<web::Json<JobList>, ApiError> {
    block(move || {
        let today = app.ledger.today();
        let (rows, all) = app.ledger.listed(page.from, page.most.unwrap_or(PAGE).min(PAGE * 4))?;
        let mut jobs = Vec::new();
        for row in rows {
            let kept = row.summary.as_ref().and_then(|s| serde_json::from_value::<JobSummary>(s.clone()).ok());
            let mut one = match kept.filter(|s| s.made_by == MADE_BY) {
                Some(s) => s,
                None => match app.case(&row.job_id) {
                    Ok(case) => {
                        let s = summary(case.view());
                        let kept = serde_json::to_value(&s).map_err(|e| ApiError::internal(&e))?;
                        // A full disk, or a folder that can only be read, does not keep anybody from reading the list.
                        if let Err(e) = app.ledger.keep_summary(&row.job_id, row.seq, &kept) {
                            tracing::warn!(%e, "a row of the list was not kept");
                        }
                        s
                    }
                    // A job that is deleted between the two looks is simply not in the list.
                    Err(ApiError { code: Code::NotFound, .. }) => continue,
                    // One that cannot be read is in the list all the same, and says so.
                    Err(e) => unreadable(&row, &e),
                },
            };
            one.due = if one.closed { String::new() } else { due_words(one.report_due, today) };
            one.made_by.clear();
            jobs.push(one);
        }
        Ok(JobList { jobs, all })
    })
    .await
    .map(web::Json)
}

/// The row of a job that cannot be read.
fn unreadable(row: &ledger::Listed, e: &ApiError) -> JobSummary {
    tracing::error!(job = row.job_id, %e, "a job cannot be read");
    JobSummary {
        id: row.job_id.clone(),
        rev: 0,
        name: "A job that cannot be read".into(),
        address: String::new(),
        visit: VisitKind::default(),
        visit_name: String::new(),
        visited_on: None,
        report_due: None,
        due: String::new(),
        tally: Tally::default(),
        coverage: "Something in it is damaged. Run trowel check on the data folder; it says what to do.".into(),
        findings: 0,
        hazards: 0,
        closed: false,
        changed_at: row.changed_at.clone(),
        made_by: String::new(),
    }
}

/// What to search for.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub(crate) struct Search {
    /// Words; the last may be a beginning.
    words: String,
    /// Only in this job.
    job: Option<String>,
}

/// Answers to one search.
const MOST_HITS: usize = 50;

/// Notes and jobs that hold every word, newest first.
#[utoipa::path(tag = "jobs", params(Search), responses((status = 200, body = Vec<Hit>)))]
#[get("/search")]
pub(crate) async fn search(app: web::Data<App>, query: web::Query<Search>) -> Result<web::Json<Vec<Hit>>, ApiError> {
    let job = query.job.as_deref().map(|j| id(j, "job")).transpose()?;
    let words: String = query.words.chars().take(200).collect();
    block(move || Ok(app.ledger.search(&words, job.as_deref(), MOST_HITS)?)).await.map(web::Json)
}

/// A job, worked out, with its wheel drawn for the page.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct JobPage {
    #[serde(flatten)]
    view: JobView,
    /// The wheel, for the page.
    wheel_drawing: String,
}

impl JobPage {
    fn of(case: &Case) -> JobPage {
        let view = case.view().clone();
        JobPage { wheel_drawing: drawing::wheel_svg(&view.wheel, &view.coverage, &case.by_cell(), Look::PAGE), view }
    }
}

/// A job, worked out.
#[utoipa::path(tag = "jobs", responses((status = 200, body = JobPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}")]
pub(crate) async fn show(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let job = id(&path, "job")?;
    let page = block(move || {
        let case = app.case(&job)?;
        app.page(&case, || Ok(serde_json::to_vec(&JobPage::of(&case)).map_err(|e| ApiError::internal(&e))?.into()))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("application/json").body(page))
}

/// Keeps a job: makes it, or changes its name, brief or closing.
#[utoipa::path(tag = "jobs", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Job>, responses((status = 200, body = Record<Job>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}")]
pub(crate) async fn save(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    put: web::Json<Put<Job>>,
) -> Result<web::Json<Record<Job>>, ApiError> {
    let job = id(&path, "job")?;
    keep(app, ask, job.clone(), job, put.into_inner(), |_, _| Ok(())).await
}

/// Deletes a job; undo brings it back.
#[utoipa::path(tag = "jobs", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}")]
pub(crate) async fn remove(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let job = id(&path, "job")?;
    take_out(app, ask, job.clone(), Kind::Job, job, base.base).await
}

/// Marks a cell as seen or limited.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<MarkState>, responses((status = 200, body = Record<Mark>), (status = 409, body = ApiError)))]
#[put("/jobs/{job}/marks/{cell}")]
pub(crate) async fn mark(
    app: web::Data<App>,
    path: web::Path<(String, Cell)>,
    ask: Ask,
    put: web::Json<Put<MarkState>>,
) -> Result<web::Json<Record<Mark>>, ApiError> {
    let (job, cell) = path.into_inner();
    let job = id(&job, "job")?;
    let Put { base, body } = put.into_inner();
    let entity = mark_id(&job, cell);
    keep(app, ask, job, entity, Put { base, body: Mark { cell, state: body } }, |_, _| Ok(())).await
}

/// Takes the mark off a cell.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/marks/{cell}")]
pub(crate) async fn unmark(
    app: web::Data<App>,
    path: web::Path<(String, Cell)>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, cell) = path.into_inner();
    let job = id(&job, "job")?;
    let entity = mark_id(&job, cell);
    take_out(app, ask, job, Kind::Mark, entity, base.base).await
}

/// Answers for places that are still open, and whether the visit is closed with them.
#[derive(Debug, Clone, Deserialize, Serialize, ToSchema)]
pub(crate) struct Close {
    /// The revision of the job.
    base: i64,
    /// Seen or limited, for as many open places as the person answered.
    #[serde(default)]
    answers: Vec<Mark>,
}

/// Closes the visit. Places left open are printed as a gap; they do not stop the report.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Close, responses((status = 200, body = JobPage), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/close")]
pub(crate) async fn close(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    close: web::Json<Close>,
) -> Result<web::Json<JobPage>, ApiError> {
    let job = id(&path, "job")?;
    let close = close.into_inner();
    block(move || {
        app.ledger.change(&app.request(&ask), &job, &(&ask.what, &close), |now| -> Result<_, ApiError> {
            let mut changes = Vec::new();
            for a in &close.answers {
                let entity = mark_id(&job, a.cell);
                changes.push(Change::put(&entity, now.revision(Kind::Mark, &entity)?, a)?);
            }
            let closed = Job { closed_at: Some(now.at.chars().take(10).collect()), ..now.job()?.body };
            changes.push(Change::put(&job, Some(close.base), &closed)?);
            Ok(Composed::just(changes))
        })?;
        Ok(JobPage::of(&*app.case(&job)?))
    })
    .await
    .map(web::Json)
}

/// Takes back the last change of a job.
#[utoipa::path(tag = "history", params(("idempotency-key" = uuid::Uuid, Header)), responses((status = 200, body = Undone), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/undo")]
pub(crate) async fn undo(app: web::Data<App>, path: web::Path<String>, ask: Ask) -> Result<web::Json<Undone>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.ledger.undo(&app.request(&ask), &job)?)).await.map(web::Json)
}

/// Does again what was last taken back.
#[utoipa::path(tag = "history", params(("idempotency-key" = uuid::Uuid, Header)), responses((status = 200, body = Undone), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/redo")]
pub(crate) async fn redo(app: web::Data<App>, path: web::Path<String>, ask: Ask) -> Result<web::Json<Undone>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.ledger.redo(&app.request(&ask), &job)?)).await.map(web::Json)
}

/// A job as it was after a change of its history.
#[utoipa::path(tag = "history", responses((status = 200, body = JobPage), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/then/{seq}")]
pub(crate) async fn show_then(app: web::Data<App>, path: web::Path<(String, i64)>) -> Result<web::Json<JobPage>, ApiError> {
    let (job, seq) = path.into_inner();
    let job = id(&job, "job")?;
    block(move || Ok(JobPage::of(&Case::new(app.ledger.job_at(&job, seq)?, app.ledger.today())))).await.map(web::Json)
}

/// Rows of history in one answer.
const MOST_HISTORY: usize = 500;

/// The history of a job, newest first.
#[utoipa::path(tag = "history", responses((status = 200, body = Vec<HistoryRow>)))]
#[get("/jobs/{job}/history")]
pub(crate) async fn history(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<Vec<HistoryRow>>, ApiError> {
    let job = id(&path, "job")?;
    block(move || {
        if !app.ledger.has_job(&job)? {
            return Err(ApiError::new(Code::NotFound, "This job is not here."));
        }
        Ok(app.ledger.history(&job, MOST_HISTORY)?)
    })
    .await
    .map(web::Json)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn due_reads_as_a_person_says_it() {
        let today: Date = "2026-11-23".parse().unwrap();
        let on = |d: &str| due_words(Some(d.parse().unwrap()), today);
        assert_eq!(on("2026-11-23"), "Report due today");
        assert_eq!(on("2026-11-24"), "Report due tomorrow");
        assert_eq!(on("2026-12-23"), "Report due in 30 days");
        assert_eq!(on("2026-11-21"), "Report 2 days late");
        assert_eq!(due_words(None, today), "");
    }
}
