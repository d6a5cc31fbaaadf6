//! Jobs, marks, closing, undo and history.

use crate::api::{Base, ChangeId, Put, id};
use crate::state::{App, block};
use crate::{ApiError, Code};
use actix_web::{delete, get, post, put, web};
use envelope::job::{Job, VisitKind};
use envelope::site::{Cell, Mark, MarkState, Tally};
use jiff::civil::Date;
use ledger::{Change, HistoryRow, Hit, Kind, LedgerError, Record, Stored, Undone};
use report::{JobView, view};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
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
    /// "Report due in 3 days", "Report was due 2 days ago"; empty without a date or when closed.
    due: String,
    tally: Tally,
    coverage: String,
    findings: usize,
    hazards: usize,
    closed: bool,
    changed_at: String,
}

fn due_words(due: Option<Date>, today: Date) -> String {
    let Some(due) = due else { return String::new() };
    let days = today.until(due).map(|s| s.get_days()).unwrap_or(0);
    let plural = |n: i32| if n == 1 { "1 day".to_owned() } else { format!("{n} days") };
    match days {
        0 => "Report due today".into(),
        n if n > 0 => format!("Report due in {}", plural(n)),
        n => format!("Report was due {} ago", plural(-n)),
    }
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
fn summary(row: &ledger::Listed, v: &JobView) -> JobSummary {
    let b = &v.job.body.brief;
    JobSummary {
        name: v.job.body.name.clone(),
        address: b.address.clone(),
        visit: b.visit,
        visit_name: v.visit.clone(),
        visited_on: b.visited_on,
        report_due: b.report_due,
        due: String::new(),
        tally: v.coverage.tally,
        coverage: v.coverage.sentence.clone(),
        findings: v.findings.iter().filter(|f| f.kind == envelope::round::NoteKind::Defect).count(),
        hazards: v.findings.iter().filter(|f| f.hazard).count(),
        closed: v.closing.closed,
        changed_at: row.changed_at.clone(),
        id: v.job.id.clone(),
        rev: v.job.rev,
    }
}

/// Jobs, last changed first.
#[utoipa::path(tag = "jobs", params(Page), responses((status = 200, body = JobList)))]
#[get("/jobs")]
pub(crate) async fn list(app: web::Data<App>, page: web::Query<Page>) -> Result<web::Json<JobList>, ApiError> {
    block(move || {
        let today =
            app.ledger.now().parse::<jiff::Timestamp>().map_err(|e| ApiError::internal(&e))?.to_zoned(jiff::tz::TimeZone::system()).date();
        let (rows, all) = app.ledger.listed(page.from, page.most.unwrap_or(PAGE).min(PAGE * 4))?;
        let mut jobs = Vec::new();
        for row in rows {
            let kept = row.summary.as_ref().and_then(|s| serde_json::from_value::<JobSummary>(s.clone()).ok());
            let mut one = match kept {
                Some(s) => s,
                None => match app.ledger.job(&row.job_id) {
                    Ok(whole) => {
                        let s = summary(&row, &view(whole));
                        app.ledger.keep_summary(&row.job_id, row.seq, &serde_json::to_value(&s).map_err(|e| ApiError::internal(&e))?)?;
                        s
                    }
                    // A job that is deleted between the two looks is simply not in the list.
                    Err(LedgerError::NotFound { .. }) => continue,
                    Err(e) => return Err(e.into()),
                },
            };
            one.due = if one.closed { String::new() } else { due_words(one.report_due, today) };
            jobs.push(one);
        }
        Ok(JobList { jobs, all })
    })
    .await
    .map(web::Json)
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

/// A job, worked out.
#[utoipa::path(tag = "jobs", responses((status = 200, body = JobView), (status = 404, body = ApiError)))]
#[get("/jobs/{job}")]
pub(crate) async fn show(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<JobView>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(view(app.ledger.job(&job)?))).await.map(web::Json)
}

/// Keeps a job: makes it, or changes its name, brief or closing.
#[utoipa::path(tag = "jobs", params(("idempotency-key" = String, Header)), request_body = Put<Job>, responses((status = 200, body = Record<Job>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}")]
pub(crate) async fn save(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    put: web::Json<Put<Job>>,
) -> Result<web::Json<Record<Job>>, ApiError> {
    let job = id(&path, "job")?;
    let Put { base, body } = put.into_inner();
    body.check()?;
    block(move || {
        let stored = app.ledger.apply(&app.request(change.0), &job, &[Change::put(&job, base, &body)?], &[])?;
        record(stored)
    })
    .await
    .map(web::Json)
}

/// The single entity of an answer, typed.
pub(crate) fn record<T: serde::de::DeserializeOwned>(stored: Vec<Stored>) -> Result<Record<T>, ApiError> {
    let s = stored.into_iter().next().ok_or_else(|| ApiError::internal(&"an empty change"))?;
    let body = serde_json::from_value(s.body).map_err(|e| ApiError::internal(&e))?;
    Ok(Record { id: s.id, rev: s.rev, body })
}

/// Deletes a job; undo brings it back.
#[utoipa::path(tag = "jobs", params(("idempotency-key" = String, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}")]
pub(crate) async fn remove(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let job = id(&path, "job")?;
    delete_one(app, job.clone(), Kind::Job, job, change, base.base).await
}

/// Deletes one entity.
pub(crate) async fn delete_one(
    app: web::Data<App>,
    job: String,
    kind: Kind,
    entity: String,
    change: ChangeId,
    base: i64,
) -> Result<web::Json<Stored>, ApiError> {
    block(move || {
        let mut stored = app.ledger.apply(&app.request(change.0), &job, &[Change::delete(kind, &entity, base)], &[])?;
        stored.pop().ok_or_else(|| ApiError::internal(&"an empty change"))
    })
    .await
    .map(web::Json)
}

fn mark_id(job: &str, cell: Cell) -> String {
    format!("{job}:{cell}")
}

/// Marks a cell as seen or limited.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Put<MarkState>, responses((status = 200, body = Record<Mark>), (status = 409, body = ApiError)))]
#[put("/jobs/{job}/marks/{cell}")]
pub(crate) async fn mark(
    app: web::Data<App>,
    path: web::Path<(String, Cell)>,
    change: ChangeId,
    put: web::Json<Put<MarkState>>,
) -> Result<web::Json<Record<Mark>>, ApiError> {
    let (job, cell) = path.into_inner();
    let job = id(&job, "job")?;
    let Put { base, body } = put.into_inner();
    check_state(&body)?;
    block(move || {
        let set = Mark { cell, state: body };
        record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&mark_id(&job, cell), base, &set)?], &[])?)
    })
    .await
    .map(web::Json)
}

fn check_state(state: &MarkState) -> Result<(), ApiError> {
    match state {
        MarkState::Limited { detail, .. } if detail.chars().count() > envelope::job::SHORT_TEXT => {
            Err(ApiError::field("detail", "The reason is too long. A few words are enough; a note can say more."))
        }
        _ => Ok(()),
    }
}

/// Takes the mark off a cell.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/marks/{cell}")]
pub(crate) async fn unmark(
    app: web::Data<App>,
    path: web::Path<(String, Cell)>,
    change: ChangeId,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, cell) = path.into_inner();
    let job = id(&job, "job")?;
    let entity = mark_id(&job, cell);
    delete_one(app, job, Kind::Mark, entity, change, base.base).await
}

/// Answers for places that are still open, and whether the visit is closed with them.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
pub(crate) struct Close {
    /// The revision of the job.
    base: i64,
    /// Seen or limited, for as many open places as the person answered.
    #[serde(default)]
    answers: Vec<Mark>,
}

/// Closes the visit. Places left open are printed as a gap; they do not stop the report.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Close, responses((status = 200, body = JobView), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/close")]
pub(crate) async fn close(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    close: web::Json<Close>,
) -> Result<web::Json<JobView>, ApiError> {
    let job = id(&path, "job")?;
    let Close { base, answers } = close.into_inner();
    for a in &answers {
        check_state(&a.state)?;
    }
    block(move || {
        let whole = app.ledger.job(&job)?;
        let mut changes = Vec::new();
        for a in &answers {
            let entity = mark_id(&job, a.cell);
            let before = whole.marks.iter().find(|m| m.id == entity).map(|m| m.rev);
            changes.push(Change::put(&entity, before, a)?);
        }
        // The moment is part of the change and must not make a retry look like another one: it is the day that counts.
        let closed = Job { closed_at: Some(app.ledger.now().chars().take(10).collect()), ..whole.job.body.clone() };
        changes.push(Change::put(&job, Some(base), &closed)?);
        app.ledger.apply(&app.request(change.0), &job, &changes, &[])?;
        Ok(view(app.ledger.job(&job)?))
    })
    .await
    .map(web::Json)
}

/// Takes back the last change of a job.
#[utoipa::path(tag = "history", params(("idempotency-key" = String, Header)), responses((status = 200, body = Undone), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/undo")]
pub(crate) async fn undo(app: web::Data<App>, path: web::Path<String>, change: ChangeId) -> Result<web::Json<Undone>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.ledger.undo(&app.request(change.0), &job)?)).await.map(web::Json)
}

/// Does again what was last taken back.
#[utoipa::path(tag = "history", params(("idempotency-key" = String, Header)), responses((status = 200, body = Undone), (status = 409, body = ApiError)))]
#[post("/jobs/{job}/redo")]
pub(crate) async fn redo(app: web::Data<App>, path: web::Path<String>, change: ChangeId) -> Result<web::Json<Undone>, ApiError> {
    let job = id(&path, "job")?;
    block(move || Ok(app.ledger.redo(&app.request(change.0), &job)?)).await.map(web::Json)
}

/// A job as it was after a change of its history.
#[utoipa::path(tag = "history", responses((status = 200, body = JobView), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/then/{seq}")]
pub(crate) async fn show_then(app: web::Data<App>, path: web::Path<(String, i64)>) -> Result<web::Json<JobView>, ApiError> {
    let (job, seq) = path.into_inner();
    let job = id(&job, "job")?;
    block(move || Ok(view(app.ledger.job_at(&job, seq)?))).await.map(web::Json)
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
        assert_eq!(on("2026-11-24"), "Report due in 1 day");
        assert_eq!(on("2026-12-23"), "Report due in 30 days");
        assert_eq!(on("2026-11-21"), "Report was due 2 days ago");
        assert_eq!(due_words(None, today), "");
    }
}
