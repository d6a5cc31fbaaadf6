//! Bodies that are not JSON: small ones in memory, large ones on disk as they come. Both bounded.

use super::{ApiError, Code, block};
use actix_web::web;
use futures_util::StreamExt;
use std::fs::File;
use std::io::{Seek, SeekFrom, Write};

fn too_large(what: &str, most: u64) -> ApiError {
    ApiError::new(Code::TooLarge, format!("This {what} is larger than {} MB. Make it smaller and try again.", most >> 20))
}

fn broken(what: &str, e: &actix_web::error::PayloadError) -> ApiError {
    if super::slow::is_too_slow(e) {
        return ApiError::new(Code::TooSlow, format!("The {what} came too slowly and was given up. Nothing was changed; send it again."));
    }
    ApiError::new(Code::BadRequest, format!("The {what} did not arrive whole. Nothing was changed; send it again."))
}

/// Reads a body up to a size, without holding more than that.
pub(crate) async fn small(mut payload: web::Payload, most: usize, what: &str) -> Result<Vec<u8>, ApiError> {
    let mut out = Vec::new();
    while let Some(piece) = payload.next().await {
        let piece = piece.map_err(|e| broken(what, &e))?;
        if out.len() + piece.len() > most {
            return Err(too_large(what, most as u64));
        }
        out.extend_from_slice(&piece);
    }
    Ok(out)
}

/// Takes a body to disk as it comes: memory holds one piece of it. The file has no name and is gone when it is dropped.
pub(crate) async fn spooled(mut payload: web::Payload, most: u64, what: &str) -> Result<File, ApiError> {
    let mut file = block(|| Ok(tempfile::tempfile()?)).await?;
    let mut size = 0;
    while let Some(piece) = payload.next().await {
        let piece = piece.map_err(|e| broken(what, &e))?;
        size += piece.len() as u64;
        if size > most {
            return Err(too_large(what, most));
        }
        file = block(move || {
            file.write_all(&piece)?;
            Ok(file)
        })
        .await?;
    }
    block(move || {
        file.seek(SeekFrom::Start(0))?;
        Ok(file)
    })
    .await
}
