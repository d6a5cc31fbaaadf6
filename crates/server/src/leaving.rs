//! What leaves the house: the first page, what is missing before it may go out, the post, the client's page under its key, what was
//! said of the report.

use crate::http::{Ask, Put, block, id};
use crate::keep::keep;
use crate::{ApiError, App, Code};
use account::{DueAccount, FrontPage, due};
use actix_web::http::header;
use actix_web::{HttpResponse, get, post, put, web};
use base64::Engine;
use envelope::years::leaving::{ClientLink, LONGEST_QUESTION, SaidKind, SaidThing};
use instruments::Letter;
use ledger::{Change, Composed, Export, Exported, Kind, Record};
use report::{CLIENT_SCRIPT, ReportWanted, client_page, trades};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(leaving).service(say).service(save_link).service(send).service(client_file);
}

/// What is open under a key, outside of everything else.
pub(crate) fn configure_open(cfg: &mut web::ServiceConfig) {
    cfg.route("/c/{key}", web::get().to(open_page)).route("/c/{key}/questions", web::post().to(question));
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

impl App {
    /// Writes down what left the house. A folder that can only be read exports all the same.
    pub(crate) fn left(&self, job: &str, what: &str, bytes: &[u8]) -> Result<(), ApiError> {
        self.left_file(job, what, bytes.len() as u64, &Sha256::digest(bytes))
    }
    /// The same of a file that was read once already.
    pub(crate) fn left_file(&self, job: &str, what: &str, bytes: u64, sha256: &[u8]) -> Result<(), ApiError> {
        if self.ledger.is_for_reading_only() {
            return Ok(());
        }
        let export = Export { what: what.to_owned(), bytes, sha256: hex(sha256), to: None, subject: None };
        Ok(self.ledger.exported(&self.who, job, &export)?)
    }
}

/// A trade this report has work for.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct TradeWork {
    name: String,
    findings: usize,
}

/// Everything around the report that is not in it.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Leaving {
    /// The first page.
    front: FrontPage,
    /// What is missing, and when it is due.
    due: DueAccount,
    /// Work lists there are.
    trades: Vec<TradeWork>,
    /// What was said of it.
    said: Vec<Record<SaidThing>>,
    /// Links of the client's page.
    links: Vec<Record<ClientLink>>,
    /// What left the house, the newest first.
    exports: Vec<Exported>,
    /// A letter to copy or to send.
    letter: String,
    /// Its subject.
    subject: String,
}

/// Exports shown.
const SHOWN: usize = 50;

fn letter(case: &account::Case) -> (String, String) {
    let b = case.brief();
    let name = &case.whole().job.body.name;
    let day = b.visited_on.map_or_else(String::new, |d| format!(" of {}", d.strftime("%-d %B %Y")));
    let front = case.front();
    let first: Vec<String> =
        front.first.iter().map(|f| format!("{}. {}, {}: {} ({})", f.number, f.title, f.place, f.when.to_lowercase(), f.who)).collect();
    let mut text = format!("Enclosed is the report on {name}, {}{day}.\n\n{}\n", case.view().visit.to_lowercase(), front.answer.join("\n"));
    if !first.is_empty() {
        text += &format!("\nTo be done first:\n{}\n", first.join("\n"));
    }
    text += &format!("\n{}\n\n{}\n", front.unseen.sentence, [b.inspector.as_str(), b.practice.as_str()].join("\n").trim());
    (format!("{}: {name}", case.view().visit), text)
}

/// The first page, what is missing, what was said, what was sent.
#[utoipa::path(tag = "leaving", responses((status = 200, body = Leaving), (status = 404, body = ApiError)))]
#[get("/jobs/{job}/leaving")]
pub(crate) async fn leaving(app: web::Data<App>, path: web::Path<String>) -> Result<web::Json<Leaving>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job.clone()).await?;
    let at = app.clone();
    app.work
        .heavy(move |_| {
            let (subject, letter) = letter(&case);
            Ok(Leaving {
                front: case.front().clone(),
                due: due(&case),
                trades: trades(case.view()).into_iter().map(|(name, findings)| TradeWork { name, findings }).collect(),
                said: case.whole().said.clone(),
                links: case.whole().links.clone(),
                exports: at.ledger.exports(&job, SHOWN)?,
                letter,
                subject,
            })
        })
        .await
        .map(web::Json)
}

/// Keeps what somebody said of the report, or its answer.
#[utoipa::path(tag = "leaving", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<SaidThing>, responses((status = 200, body = Record<SaidThing>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/said/{said}")]
pub(crate) async fn say(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<SaidThing>>,
) -> Result<web::Json<Record<SaidThing>>, ApiError> {
    let (job, said) = (id(&path.0, "job")?, id(&path.1, "said")?);
    keep(app, ask, job, said, put.into_inner(), |body, now| match &body.note_id {
        Some(n) => Ok(now.get::<envelope::round::Note>(n).map(drop)?),
        None => Ok(()),
    })
    .await
}

/// Keeps a link of the client's page: makes it, or withdraws it. The page that makes it keeps the key; the server only what it is known by.
#[utoipa::path(tag = "leaving", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<ClientLink>, responses((status = 200, body = Record<ClientLink>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/links/{link}")]
pub(crate) async fn save_link(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<ClientLink>>,
) -> Result<web::Json<Record<ClientLink>>, ApiError> {
    let (job, link) = (id(&path.0, "job")?, id(&path.1, "link")?);
    let today = app.ledger.today();
    keep(app, ask, job, link, put.into_inner(), move |body, _| {
        if body.withdrawn_at.is_none() && body.until < today {
            return Err(ApiError::field("until", "That day is past: the link would never open. Choose a later one."));
        }
        Ok(())
    })
    .await
}

/// A letter as it is to be sent.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct Send {
    /// The address.
    to: String,
    /// Its subject.
    subject: String,
    /// Its text.
    text: String,
    /// It is to go although something is missing that should not be.
    #[serde(default)]
    anyway: bool,
}

/// Sends the report by the (simulated) post office and writes it down.
#[utoipa::path(tag = "leaving", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Send, responses((status = 200, body = Vec<Exported>), (status = 409, body = ApiError), (status = 422, body = ApiError), (status = 503, body = ApiError)))]
#[post("/jobs/{job}/send")]
pub(crate) async fn send(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    wanted: web::Json<Send>,
) -> Result<web::Json<Vec<Exported>>, ApiError> {
    let job = id(&path, "job")?;
    let case = app.case_in_background(job.clone()).await?;
    let at = app.clone();
    let wanted = wanted.into_inner();
    app.work
        .heavy(move |_| {
            let stops: Vec<String> = due(&case).missing.into_iter().filter(|m| m.stops).map(|m| m.words).collect();
            if !stops.is_empty() && !wanted.anyway {
                return Err(ApiError::new(Code::Conflict, format!("It must not go out like this: {}", stops.join(" "))));
            }
            let file = at.typeset(&case, &ReportWanted::default())?.pdf()?.bytes;
            let export = Export {
                what: "report.pdf".into(),
                bytes: file.len() as u64,
                sha256: hex(&Sha256::digest(&file)),
                to: Some(wanted.to.trim().to_owned()),
                subject: Some(wanted.subject.clone()),
            };
            let (to, subject, text) = (wanted.to.clone(), wanted.subject.clone(), wanted.text.clone());
            let letter = Letter { to, subject, text, name: "report.pdf".into(), file, media: "application/pdf".into() };
            // A retry of the same request is answered as before: no second letter.
            at.ledger.change(&at.request(&ask), &job, &(&ask.what, &wanted), |now| -> Result<_, ApiError> {
                at.post.send(&letter).map_err(|e| ApiError::field("to", e.to_string()))?;
                now.exported(&at.who, &export)?;
                Ok(Composed::just(vec![]))
            })?;
            Ok(at.ledger.exports(&job, SHOWN)?)
        })
        .await
        .map(web::Json)
}

/// The client's page as one file, to be handed over.
#[utoipa::path(tag = "leaving", responses((status = 200, content_type = "text/html", body = String), (status = 404, body = ApiError), (status = 503, body = ApiError)))]
#[get("/jobs/{job}/client.html")]
pub(crate) async fn client_file(app: web::Data<App>, path: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let case = app.case_in_background(id(&path, "job")?).await?;
    let (at, of) = (app.clone(), case.clone());
    let bytes = app
        .work
        .heavy(move |_| {
            let bytes = client_page(&of, &*at.ledger, None).into_bytes();
            at.left(&of.whole().job.id, "client's page", &bytes)?;
            Ok(bytes)
        })
        .await?;
    Ok(crate::http::file::file(bytes, "text/html; charset=utf-8", &case.whole().job.body.name, ".html"))
}

/// What the client's page may do: show itself, run its own script, send a question back. Nothing else.
fn policy() -> String {
    let hash = base64::engine::general_purpose::STANDARD.encode(Sha256::digest(CLIENT_SCRIPT.as_bytes()));
    format!(
        "default-src 'none'; script-src 'sha256-{hash}'; style-src 'unsafe-inline'; img-src data:; font-src data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
    )
}

/// Says in a page of its own why there is nothing.
fn nothing(words: &str) -> HttpResponse {
    let body = format!(
        "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>Not here</title><h1>Not here</h1><p>{words}</p></html>"
    );
    HttpResponse::NotFound().content_type("text/html; charset=utf-8").body(body)
}

const UNKNOWN: &str = "There is no report at this address. Check that the whole address was copied, or ask your inspector.";
const OVER: &str = "This address is not open any more. Ask your inspector for a new one.";

/// Signs of a key: 32 bytes as an address writes them. Anything else is not looked up.
pub(crate) const KEY_SIGNS: usize = 43;

/// The job a key opens today.
fn opened(app: &App, key: &str) -> Result<Result<String, &'static str>, ApiError> {
    if key.len() != KEY_SIGNS {
        return Ok(Err(UNKNOWN));
    }
    let found = app.ledger.link_by_hash(&hex(&Sha256::digest(key.as_bytes())))?;
    Ok(match found {
        None => Err(UNKNOWN),
        Some((_, link)) if !link.body.opens(app.ledger.today()) => Err(OVER),
        Some((job, _)) => Ok(job),
    })
}

/// The client's page under its key.
async fn open_page(app: web::Data<App>, key: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let (at, asked) = (app.clone(), key.to_string());
    let job = match block(move || opened(&at, &asked)).await? {
        Ok(job) => job,
        Err(words) => return Ok(nothing(words)),
    };
    let case = app.case_in_background(job).await?;
    let at = app.clone();
    let to = format!("/c/{key}/questions");
    let page = app.work.heavy(move |_| Ok(client_page(&case, &*at.ledger, Some(&to)))).await?;
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CONTENT_SECURITY_POLICY, policy()))
        .insert_header(("x-robots-tag", "noindex"))
        .body(page))
}

/// A question from the client's page.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Question {
    /// The finding it is about.
    #[serde(default)]
    note_id: Option<String>,
    /// What is asked.
    text: String,
}

/// Questions one report takes from its pages.
const MOST_QUESTIONS: usize = 100;

/// Takes a question back to the inspector.
async fn question(app: web::Data<App>, key: web::Path<String>, ask: Ask, asked: web::Json<Question>) -> Result<HttpResponse, ApiError> {
    let asked = asked.into_inner();
    block(move || {
        let job = opened(&app, &key)?.map_err(|words| ApiError::new(Code::NotFound, words))?;
        if asked.text.chars().count() > LONGEST_QUESTION {
            return Err(ApiError::field("text", format!("A question has at most {LONGEST_QUESTION} characters. Shorten it.")));
        }
        let request = ledger::Request { id: ask.id, who: "the client's page".to_owned() };
        app.ledger.change(&request, &job, &("question", &asked), |now| -> Result<_, ApiError> {
            if now.all::<SaidThing>()?.iter().filter(|s| s.body.kind == SaidKind::Question).count() >= MOST_QUESTIONS {
                return Err(ApiError::new(Code::Conflict, "This report has been asked a great deal. Call your inspector."));
            }
            if let Some(n) = &asked.note_id {
                now.get::<envelope::round::Note>(n)?;
            }
            let said = SaidThing {
                at: now.at.to_owned(),
                note_id: asked.note_id.clone(),
                kind: SaidKind::Question,
                text: asked.text.trim().to_owned(),
                answer: String::new(),
            };
            // The request names it: a retry is the same question.
            Ok(Composed::just(vec![Change::put(&ask.id.to_string(), None, &said)?]))
        })?;
        Ok(serde_json::json!({ "kept": Kind::Said }))
    })
    .await
    .map(|told| HttpResponse::Ok().json(told))
}
