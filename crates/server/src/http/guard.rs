//! What stands between the application and the rest of the browser.

use super::policy::POLICY;
use super::{ApiError, Code, access};
use crate::App;
use actix_web::body::{BoxBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{self, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::{Error, web};

/// Sets the headers that every answer carries.
pub(crate) async fn headers(req: ServiceRequest, next: Next<impl MessageBody>) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let mut res = next.call(req).await?;
    let h = res.headers_mut();
    let mut set = |name: HeaderName, value: &'static str| {
        if !h.contains_key(&name) {
            h.insert(name, HeaderValue::from_static(value));
        }
    };
    set(header::CONTENT_SECURITY_POLICY, POLICY);
    set(header::X_CONTENT_TYPE_OPTIONS, "nosniff");
    set(header::REFERRER_POLICY, "no-referrer");
    set(header::X_FRAME_OPTIONS, "DENY");
    set(header::CACHE_CONTROL, "no-store");
    set(HeaderName::from_static("cross-origin-opener-policy"), "same-origin");
    set(HeaderName::from_static("cross-origin-resource-policy"), "same-origin");
    set(HeaderName::from_static("permissions-policy"), "geolocation=(), microphone=(), camera=(self)");
    Ok(res)
}

/// Refuses writes that another site sends, any request under a name that is not ours, and who has not shown the access key.
pub(crate) async fn same_origin(req: ServiceRequest, next: Next<impl MessageBody + 'static>) -> Result<ServiceResponse<BoxBody>, Error> {
    if let Some(why) = foreign(&req) {
        return Ok(req.into_response(ApiError::new(Code::OtherOrigin, why).into_response()));
    }
    match access::refused(&req) {
        Some(answer) => Ok(req.into_response(answer)),
        None => Ok(next.call(req).await?.map_into_boxed_body()),
    }
}

/// The name in a Host header, without its port.
fn name(host: &str) -> &str {
    host.rsplit_once(':').filter(|(_, port)| port.chars().all(|c| c.is_ascii_digit())).map_or(host, |(n, _)| n)
}

/// Whether this server answers under a name. This machine's own names always; the ones it was given; and, when it listens beyond
/// this machine, plain addresses: another site can point its name here, but not an address.
fn is_ours(app: &App, host: &str) -> bool {
    let name = name(host);
    let plain = name.trim_start_matches('[').trim_end_matches(']').parse::<std::net::IpAddr>();
    matches!(name, "localhost" | "127.0.0.1" | "[::1]") || app.hosts.iter().any(|h| h == name) || app.beyond_this_machine && plain.is_ok()
}

fn foreign(req: &ServiceRequest) -> Option<&'static str> {
    let text = |name: &str| req.headers().get(name).and_then(|v| v.to_str().ok());
    let host = text("host").unwrap_or_default();
    if req.app_data::<web::Data<App>>().is_some_and(|app| !is_ours(app, host)) {
        return Some(
            "This server does not answer under that name. Use the address it printed when it started, or name this one with --host.",
        );
    }
    if matches!(*req.method(), Method::GET | Method::HEAD | Method::OPTIONS) {
        return None;
    }
    let other_site = text("sec-fetch-site").is_some_and(|s| !matches!(s, "same-origin" | "none"));
    let other_origin = text("origin").is_some_and(|o| o.split_once("://").is_none_or(|(_, h)| h != host));
    (other_site || other_origin).then_some("Changes are only taken from Trowel's own page.")
}
