//! Bodies that come a byte at a time, or not at all, are given up: they would hold a connection for ever.

use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::error::PayloadError;
use actix_web::middleware::Next;
use actix_web::rt::time::{Instant, Sleep, sleep_until};
use actix_web::web::Bytes;
use actix_web::{Error, HttpMessage, web};
use futures_util::{Stream, StreamExt};
use std::pin::Pin;
use std::task::{Context, Poll};
use std::time::Duration;

/// How patient the server is with a body.
#[derive(Debug, Clone, Copy)]
pub struct Patience {
    /// It is read so long whatever its pace.
    pub grace: Duration,
    /// After that it must have come at this pace over all, bytes a second.
    pub pace: u64,
}

impl Default for Patience {
    fn default() -> Self {
        // A picture over a poor mobile line comes at some ten kilobytes a second.
        Patience { grace: Duration::from_secs(20), pace: 2_000 }
    }
}

const TOO_SLOW: &str = "too slow";

/// Whether a body was given up for its pace.
pub(crate) fn is_too_slow(e: &PayloadError) -> bool {
    matches!(e, PayloadError::Io(e) if e.kind() == std::io::ErrorKind::TimedOut)
}

struct Paced {
    inner: Payload,
    patience: Patience,
    began: Instant,
    come: u64,
    alarm: Pin<Box<Sleep>>,
}

impl Stream for Paced {
    type Item = Result<Bytes, PayloadError>;
    fn poll_next(mut self: Pin<&mut Self>, cx: &mut Context<'_>) -> Poll<Option<Self::Item>> {
        if let Poll::Ready(piece) = self.inner.poll_next_unpin(cx) {
            if let Some(Ok(bytes)) = &piece {
                self.come += bytes.len() as u64;
            }
            return Poll::Ready(piece);
        }
        // What has come buys time at the pace that is asked for.
        let until = self.began + self.patience.grace + Duration::from_secs_f64(self.come as f64 / self.patience.pace as f64);
        self.alarm.as_mut().reset(until);
        match self.alarm.as_mut().poll(cx) {
            Poll::Ready(()) => Poll::Ready(Some(Err(PayloadError::Io(std::io::Error::new(std::io::ErrorKind::TimedOut, TOO_SLOW))))),
            Poll::Pending => Poll::Pending,
        }
    }
}

/// Puts every body under the clock.
pub(crate) async fn paced(mut req: ServiceRequest, next: Next<impl MessageBody>) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let patience = req.app_data::<web::Data<crate::App>>().map(|a| a.limits.patience).unwrap_or_default();
    let inner = req.take_payload();
    if !matches!(inner, Payload::None) {
        let began = Instant::now();
        let paced = Paced { inner, patience, began, come: 0, alarm: Box::pin(sleep_until(began + patience.grace)) };
        let stream: Pin<Box<dyn Stream<Item = Result<Bytes, PayloadError>>>> = Box::pin(paced);
        req.set_payload(Payload::from(stream));
    }
    next.call(req).await
}
