//! What stands between the application and the rest of the browser.

use crate::{ApiError, App, Code};
use actix_web::body::{BoxBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{self, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::{Error, web};

/// Content policy of everything but the page itself, which adds its one-time style key.
pub(crate) const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; font-src 'self'; \
    connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

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

/// Refuses writes that another site sends, and any request under a name that is not ours.
pub(crate) async fn same_origin(req: ServiceRequest, next: Next<impl MessageBody + 'static>) -> Result<ServiceResponse<BoxBody>, Error> {
    match foreign(&req) {
        Some(why) => Ok(req.into_response(ApiError::new(Code::OtherOrigin, why).into_response())),
        None => Ok(next.call(req).await?.map_into_boxed_body()),
    }
}

fn foreign(req: &ServiceRequest) -> Option<&'static str> {
    let text = |name: &str| req.headers().get(name).and_then(|v| v.to_str().ok());
    let host = text("host").unwrap_or_default();
    let name = host.rsplit_once(':').filter(|(_, port)| port.chars().all(|c| c.is_ascii_digit())).map_or(host, |(n, _)| n);
    let allowed = req.app_data::<web::Data<App>>().map(|a| a.hosts.as_slice()).unwrap_or_default();
    if !allowed.is_empty() && !allowed.iter().any(|h| h == name) {
        return Some("This server does not answer under that name. Use the address it printed when it started.");
    }
    if matches!(*req.method(), Method::GET | Method::HEAD | Method::OPTIONS) {
        return None;
    }
    let other_site = text("sec-fetch-site").is_some_and(|s| !matches!(s, "same-origin" | "none"));
    let other_origin = text("origin").is_some_and(|o| o.split_once("://").is_none_or(|(_, h)| h != host));
    (other_site || other_origin).then_some("Changes are only taken from Trowel's own page.")
}
