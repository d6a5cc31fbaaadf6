//! What requests share: the key of a change, its base revision, ids in addresses.

use super::ApiError;
use actix_web::{FromRequest, HttpRequest, dev::Payload};
use serde::{Deserialize, Serialize};
use std::future::{Ready, ready};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// The header that names a change. The same key twice is applied once.
pub(crate) const KEY: &str = "idempotency-key";

/// A change that is asked for: its key, made by the client once for each action and kept for its retries, and what it is.
#[derive(Debug, Clone)]
pub(crate) struct Ask {
    /// The key.
    pub(crate) id: Uuid,
    /// Method and address: the same key means the same change only at the same place.
    pub(crate) what: String,
}

impl FromRequest for Ask {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(req: &HttpRequest, _: &mut Payload) -> Self::Future {
        let id = req.headers().get(KEY).and_then(|v| v.to_str().ok()).and_then(|v| Uuid::parse_str(v).ok());
        let what = format!("{} {}?{}", req.method(), req.path(), req.query_string());
        ready(id.map(|id| Ask { id, what }).ok_or_else(|| {
            ApiError::field(KEY, "A change needs an Idempotency-Key header holding a UUID, so that a retry is applied once.")
        }))
    }
}

/// An entity to be kept.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct Put<T> {
    /// The revision it was made on; absent for a new one.
    #[serde(default)]
    pub(crate) base: Option<i64>,
    /// The entity.
    pub(crate) body: T,
}

/// The revision to delete.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub(crate) struct Base {
    /// The revision that was seen.
    pub(crate) base: i64,
}

/// An id in an address, in its usual spelling.
pub(crate) fn id(text: &str, what: &str) -> Result<String, ApiError> {
    Uuid::parse_str(text)
        .map(|u| u.to_string())
        .map_err(|_| ApiError::field(what, format!("\u{201c}{}\u{201d} is not an id.", text.chars().take(40).collect::<String>())))
}
