//! One shape for everything that goes wrong: a code, a sentence that says what to do, the field.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use envelope::calc::CalcError;
use exchange::BundleError;
use ledger::{LedgerError, Stored};
use report::ReportError;
use serde::{Deserialize, Serialize};
use std::fmt;
use utoipa::ToSchema;

/// What kind of fault.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Code {
    /// The request cannot be read.
    BadRequest,
    /// A field cannot be kept.
    Invalid,
    /// It is not here.
    NotFound,
    /// It was changed elsewhere; both versions are given.
    Stale,
    /// It is here already, or was used for something else.
    Conflict,
    /// Too big.
    TooLarge,
    /// Not a picture that can be read.
    Picture,
    /// Not a bundle that can be read.
    Bundle,
    /// Sent from another site.
    OtherOrigin,
    /// The disk is full.
    DiskFull,
    /// The data folder can only be read.
    ReadOnly,
    /// The access key is asked for.
    Key,
    /// Too much is being worked out at once.
    Busy,
    /// It was given up because it took too long.
    TooLong,
    /// It was given up because it came too slowly.
    TooSlow,
    /// Something here failed.
    Internal,
}

/// An error as it is answered.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ApiError {
    /// What kind of fault.
    pub code: Code,
    /// What is wrong and what to do, in a sentence.
    pub message: String,
    /// The field, as it is called in the request.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<String>,
    /// The version that is kept, when yours was stale.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub theirs: Option<Box<Stored>>,
}

impl ApiError {
    /// An error without a field.
    pub fn new(code: Code, message: impl Into<String>) -> ApiError {
        ApiError { code, message: message.into(), field: None, theirs: None }
    }
    /// A field that cannot be kept.
    pub fn field(field: &str, message: impl Into<String>) -> ApiError {
        ApiError { field: Some(field.to_owned()), ..ApiError::new(Code::Invalid, message) }
    }
    /// Something here failed: the cause goes to the log, a plain sentence to the page.
    pub fn internal(cause: &dyn fmt::Display) -> ApiError {
        tracing::error!(%cause, "request failed");
        ApiError::new(Code::Internal, "Something failed here, and nothing was changed. Try again; the log of the server says more.")
    }
    /// As a response.
    pub fn into_response(self) -> HttpResponse {
        self.error_response()
    }
    pub(crate) fn from_json(e: actix_web::error::JsonPayloadError) -> ApiError {
        use actix_web::error::JsonPayloadError as J;
        match e {
            J::Overflow { .. } | J::OverflowKnownLength { .. } => {
                ApiError::new(Code::TooLarge, "This is more text than a request may hold. Split it.")
            }
            J::ContentType => {
                ApiError::new(Code::BadRequest, "The request must be JSON. Send it with the header Content-Type: application/json.")
            }
            J::Deserialize(e) => ApiError::new(
                Code::BadRequest,
                format!("The request is not what is asked for here: {e}. Compare it with the description at /interface."),
            ),
            J::Payload(e) if super::slow::is_too_slow(&e) => {
                ApiError::new(Code::TooSlow, "The request came too slowly and was given up. Nothing was changed; send it again.")
            }
            _ => ApiError::new(Code::BadRequest, "The request did not arrive whole. Nothing was changed; send it again."),
        }
    }
    /// What is wrong with an address or with what is asked behind its question mark.
    pub(crate) fn from_address(e: &dyn fmt::Display) -> ApiError {
        let said = e.to_string();
        let said = said.trim_start_matches("Query deserialize error: ").trim_start_matches("Path deserialize error: ");
        ApiError::new(Code::BadRequest, format!("The address cannot be read: {said}. Compare it with the description at /interface."))
    }
    fn status(&self) -> StatusCode {
        match self.code {
            Code::BadRequest | Code::Invalid | Code::Picture | Code::Bundle => StatusCode::UNPROCESSABLE_ENTITY,
            Code::NotFound => StatusCode::NOT_FOUND,
            Code::Stale | Code::Conflict => StatusCode::CONFLICT,
            Code::TooLarge => StatusCode::PAYLOAD_TOO_LARGE,
            Code::OtherOrigin | Code::ReadOnly => StatusCode::FORBIDDEN,
            Code::Key => StatusCode::UNAUTHORIZED,
            Code::Busy => StatusCode::SERVICE_UNAVAILABLE,
            Code::TooLong => StatusCode::GATEWAY_TIMEOUT,
            Code::TooSlow => StatusCode::REQUEST_TIMEOUT,
            Code::DiskFull => StatusCode::INSUFFICIENT_STORAGE,
            Code::Internal => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }
}

impl fmt::Display for ApiError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for ApiError {}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        self.status()
    }
    fn error_response(&self) -> HttpResponse {
        /// Seconds to wait before asking again.
        const COME_BACK: (&str, &str) = ("retry-after", "2");
        let mut answer = HttpResponse::build(self.status());
        if self.code == Code::Busy {
            answer.insert_header(COME_BACK);
        }
        answer.json(self)
    }
}

impl From<LedgerError> for ApiError {
    fn from(e: LedgerError) -> Self {
        let message = e.to_string();
        match e {
            LedgerError::NotFound { .. } => ApiError::new(Code::NotFound, message),
            LedgerError::Stale { theirs } => ApiError { theirs: Some(theirs), ..ApiError::new(Code::Stale, message) },
            LedgerError::Reused | LedgerError::NothingToUndo | LedgerError::NothingToRedo | LedgerError::AlreadyHere => {
                ApiError::new(Code::Conflict, message)
            }
            LedgerError::Coming => ApiError::new(Code::Busy, message),
            LedgerError::DiskFull => ApiError::new(Code::DiskFull, message),
            LedgerError::ReadOnly => ApiError::new(Code::ReadOnly, message),
            LedgerError::Refused { field, .. } => ApiError::field(&field, message),
            LedgerError::BlobMissing { .. } | LedgerError::BlobDamaged { .. } => {
                tracing::error!(cause = %message, "picture file");
                ApiError::new(Code::Internal, message)
            }
            other => ApiError::internal(&other),
        }
    }
}

impl From<std::io::Error> for ApiError {
    fn from(e: std::io::Error) -> Self {
        LedgerError::from(e).into()
    }
}

impl From<envelope::round::EntryError> for ApiError {
    fn from(e: envelope::round::EntryError) -> Self {
        match e {
            envelope::round::EntryError::Note(e) => ApiError::field(e.field, e.message),
            other => ApiError::field("line", other.to_string()),
        }
    }
}

impl From<envelope::roof::record::RoofError> for ApiError {
    fn from(e: envelope::roof::record::RoofError) -> Self {
        ApiError::field(&e.field, e.message)
    }
}

impl From<envelope::practice::PracticeError> for ApiError {
    fn from(e: envelope::practice::PracticeError) -> Self {
        let message = e.to_string();
        ApiError::field(&e.field, message)
    }
}

impl From<envelope::round::WalkFileError> for ApiError {
    fn from(e: envelope::round::WalkFileError) -> Self {
        let code = if matches!(e, envelope::round::WalkFileError::TooLarge { .. }) { Code::TooLarge } else { Code::Invalid };
        ApiError::new(code, e.to_string())
    }
}

impl From<CalcError> for ApiError {
    fn from(e: CalcError) -> Self {
        let code = if matches!(e, CalcError::Unknown(_)) { Code::NotFound } else { Code::Invalid };
        ApiError::new(code, e.to_string())
    }
}

impl From<ReportError> for ApiError {
    fn from(e: ReportError) -> Self {
        match e {
            ReportError::NoPage(_) => ApiError::new(Code::NotFound, e.to_string()),
            other => ApiError::internal(&other),
        }
    }
}

impl From<BundleError> for ApiError {
    fn from(e: BundleError) -> Self {
        match e {
            BundleError::Ledger(e) => e.into(),
            BundleError::TooBig => ApiError::new(Code::TooLarge, e.to_string()),
            other => ApiError::new(Code::Bundle, other.to_string()),
        }
    }
}

impl From<picture::PictureError> for ApiError {
    fn from(e: picture::PictureError) -> Self {
        let code = if matches!(e, picture::PictureError::TooManyPixels { .. }) { Code::TooLarge } else { Code::Picture };
        ApiError::new(code, e.to_string())
    }
}
