//! Server-sent events: what is told as it is worked out or read.

use actix_web::HttpResponse;
use actix_web::web::Bytes;
use futures_util::Stream;
use serde::Serialize;

/// One message.
pub(crate) fn event(data: &impl Serialize) -> Bytes {
    Bytes::from(format!("data: {}\n\n", serde_json::to_string(data).unwrap_or_default()))
}

/// An answer that goes on while there are messages.
pub(crate) fn events(of: impl Stream<Item = Bytes> + 'static) -> HttpResponse {
    use futures_util::StreamExt;
    HttpResponse::Ok()
        .content_type("text/event-stream")
        .insert_header(("cache-control", "no-store"))
        .streaming(of.map(Ok::<Bytes, std::convert::Infallible>))
}
