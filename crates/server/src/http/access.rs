//! The access key: asked for once in each browser when the server listens beyond this machine. Accounts come later.

use super::policy::POLICY;
use super::{ApiError, Code};
use crate::App;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::ServiceRequest;
use actix_web::http::header;
use actix_web::{HttpResponse, web};
use serde::Deserialize;

const COOKIE: &str = "trowel-access";

/// A key for one start of the server: as long as an id, nobody guesses it.
pub fn new_key() -> String {
    uuid::Uuid::new_v4().simple().to_string()
}

/// Compares without telling by its time how much was right.
fn same(a: &str, b: &str) -> bool {
    a.len() == b.len() && a.bytes().zip(b.bytes()).fold(0, |d, (x, y)| d | (x ^ y)) == 0
}

/// The page of a client, or its questions, and nothing below or beside them.
fn is_clients(path: &str) -> bool {
    let parts: Vec<&str> = path.split('/').collect();
    matches!(parts.as_slice(), ["", "c", key] | ["", "c", key, "questions"] if key.len() == crate::leaving::KEY_SIGNS)
}

/// The answer to somebody who has not shown the key, if one is asked for. A client's page has a key of its own.
pub(crate) fn refused(req: &ServiceRequest) -> Option<HttpResponse> {
    let key = req.app_data::<web::Data<App>>()?.access_key.clone()?;
    let shown = req.cookie(COOKIE).is_some_and(|c| same(c.value(), &key));
    if shown || req.path() == "/enter" || is_clients(req.path()) {
        return None;
    }
    if req.path().starts_with("/api") {
        return Some(
            ApiError::new(
                Code::Key,
                "This server asks for its access key. Open its first page and type the key it printed when it started.",
            )
            .into_response(),
        );
    }
    Some(ask(""))
}

fn ask(wrong: &str) -> HttpResponse {
    let body = format!(
        "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>Trowel</title>\
         <h1>Trowel</h1><p>{wrong}This server is open to others on the network. Type the access key it printed when it started.</p>\
         <form method=\"post\" action=\"/enter\"><label>Access key <input name=\"key\" type=\"password\" autofocus required></label> <button>Enter</button></form></html>"
    );
    HttpResponse::Unauthorized()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CONTENT_SECURITY_POLICY, POLICY.replace("form-action 'none'", "form-action 'self'")))
        .body(body)
}

/// What was typed.
#[derive(Deserialize)]
pub(crate) struct Typed {
    key: String,
}

/// Takes the key once and remembers the browser.
pub(crate) async fn enter(app: web::Data<App>, typed: web::Form<Typed>) -> HttpResponse {
    match &app.access_key {
        Some(key) if same(typed.key.trim(), key) => {
            let cookie = Cookie::build(COOKIE, key.clone()).path("/").http_only(true).same_site(SameSite::Strict).finish();
            HttpResponse::SeeOther().cookie(cookie).insert_header((header::LOCATION, "/")).finish()
        }
        Some(_) => ask("That is not the key. "),
        None => HttpResponse::SeeOther().insert_header((header::LOCATION, "/")).finish(),
    }
}
