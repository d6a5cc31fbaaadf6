//! What requests share: the id of a change, its base revision.

use crate::ApiError;
use actix_web::{FromRequest, HttpRequest, dev::Payload};
use serde::{Deserialize, Serialize};
use std::future::{Ready, ready};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// The header that names a change. The same id twice is applied once.
pub(crate) const CHANGE_ID: &str = "idempotency-key";

/// The id of a change, made by the client.
pub(crate) struct ChangeId(pub(crate) Uuid);

impl FromRequest for ChangeId {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(req: &HttpRequest, _: &mut Payload) -> Self::Future {
        let id = req.headers().get(CHANGE_ID).and_then(|v| v.to_str().ok()).and_then(|v| Uuid::parse_str(v).ok());
        ready(id.map(ChangeId).ok_or_else(|| {
            ApiError::field(CHANGE_ID, "A change needs an Idempotency-Key header holding a UUID, so that a retry is applied once.")
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

/// An id in an address.
pub(crate) fn id(text: &str, what: &str) -> Result<String, ApiError> {
    Uuid::parse_str(text)
        .map(|u| u.to_string())
        .map_err(|_| ApiError::field(what, format!("\u{201c}{}\u{201d} is not an id.", text.chars().take(40).collect::<String>())))
}
