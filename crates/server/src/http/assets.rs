//! The page itself: files that were built into the binary, compressed beforehand, named by their content.

use super::policy::POLICY;
use super::{ApiError, Code};
use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;
use uuid::Uuid;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Dist;

/// Where the page says which style key this visit uses.
const NONCE: &str = "__NONCE__";

fn media(path: &str) -> &'static str {
    match path.rsplit('.').next() {
        Some("js") => "text/javascript; charset=utf-8",
        Some("css") => "text/css; charset=utf-8",
        Some("woff2") => "font/woff2",
        Some("svg") => "image/svg+xml",
        Some("json" | "webmanifest") => "application/json",
        Some("html") => "text/html; charset=utf-8",
        _ => "application/octet-stream",
    }
}

/// Files by name; every other address is the page, which knows its own routes.
pub(crate) async fn serve(req: HttpRequest) -> HttpResponse {
    let path = req.path().trim_start_matches('/');
    if path.is_empty() || path == "index.html" || Dist::get(path).is_none() {
        let looks_like_a_file = path != "index.html" && path.rsplit('/').next().is_some_and(|n| n.contains('.'));
        return if looks_like_a_file { ApiError::new(Code::NotFound, "There is no such file.").into_response() } else { page() };
    }
    let accepts = req.headers().get(header::ACCEPT_ENCODING).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let packed = [("br", ".br"), ("gzip", ".gz")]
        .into_iter()
        .filter(|(name, _)| accepts.contains(name))
        .find_map(|(name, ending)| Dist::get(&format!("{path}{ending}")).map(|f| (f, Some(name))));
    let (file, encoding) = match packed.or_else(|| Dist::get(path).map(|f| (f, None))) {
        Some(found) => found,
        None => return ApiError::new(Code::NotFound, "There is no such file.").into_response(),
    };
    let mut answer = HttpResponse::Ok();
    // Names hold a hash of the content, so a file under a name never changes.
    answer
        .insert_header((header::CONTENT_TYPE, media(path)))
        .insert_header((header::CACHE_CONTROL, "public, max-age=31536000, immutable"))
        .insert_header((header::VARY, "accept-encoding"));
    if let Some(name) = encoding {
        answer.insert_header((header::CONTENT_ENCODING, name));
    }
    answer.body(file.data.into_owned())
}

fn page() -> HttpResponse {
    let Some(file) = Dist::get("index.html") else {
        return HttpResponse::ServiceUnavailable()
            .content_type("text/plain; charset=utf-8")
            .body("This program was built without its page. Run cargo xtask demo, which builds both.");
    };
    let nonce = Uuid::new_v4().simple().to_string();
    let html = String::from_utf8_lossy(&file.data).replace(NONCE, &nonce);
    HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CONTENT_SECURITY_POLICY, POLICY.replace("style-src 'self'", &format!("style-src 'self' 'nonce-{nonce}'"))))
        .body(html)
}
