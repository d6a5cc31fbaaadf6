//! Answers that are files, to be saved under the job's name.

use super::ApiError;
use actix_web::HttpResponse;
use actix_web::http::header::{self, ContentDisposition, DispositionParam, DispositionType};
use futures_util::stream;
use std::fs::File;
use std::io::Read;

fn disposition(name: &str, ending: &str) -> ContentDisposition {
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).take(80).collect();
    let name = format!("{}{ending}", plain.trim_matches('-'));
    ContentDisposition { disposition: DispositionType::Attachment, parameters: vec![DispositionParam::Filename(name)] }
}

/// A file to be saved under the job's name.
pub(crate) fn file(bytes: Vec<u8>, media: &str, name: &str, ending: &str) -> HttpResponse {
    HttpResponse::Ok().insert_header((header::CONTENT_TYPE, media)).insert_header(disposition(name, ending)).body(bytes)
}

/// The same for a file that was made on disk: memory holds one piece of it.
pub(crate) fn spooled(file: File, media: &str, name: &str, ending: &str) -> Result<HttpResponse, ApiError> {
    /// One piece.
    const PIECE: usize = 64 << 10;
    let size = file.metadata()?.len();
    let pieces = stream::unfold(file, |mut file| async move {
        let read = actix_web::web::block(move || {
            let mut piece = vec![0; PIECE];
            file.read(&mut piece).map(|n| {
                piece.truncate(n);
                (piece, file)
            })
        })
        .await;
        match read {
            Ok(Ok((piece, _))) if piece.is_empty() => None,
            Ok(Ok((piece, file))) => Some((Ok(actix_web::web::Bytes::from(piece)), file)),
            Ok(Err(e)) => {
                tracing::error!(%e, "a file could not be sent whole");
                None
            }
            Err(_) => None,
        }
    });
    let pieces: std::pin::Pin<Box<dyn futures_util::Stream<Item = Result<actix_web::web::Bytes, std::convert::Infallible>>>> =
        Box::pin(pieces);
    Ok(HttpResponse::Ok()
        .insert_header((header::CONTENT_TYPE, media))
        .insert_header(disposition(name, ending))
        .body(actix_web::body::SizedStream::new(size, pieces)))
}
