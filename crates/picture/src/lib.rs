//! Reading a picture from outside: what it is, which way up, when and in which direction it was taken; smaller copies.
//!
//! A crate of its own because it must be optimised even in development builds, and nothing else needs to be.
//! Left out: other formats, colour management, editing.

use exif::{In, Tag, Value};
use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits};
use ledger::Blob;
use std::io::Cursor;

/// Longer side of the picture for viewing and print.
const DISPLAY_SIDE: u32 = 1600;
/// Longer side of the small picture.
const THUMB_SIDE: u32 = 320;
const DISPLAY_QUALITY: u8 = 82;
const THUMB_QUALITY: u8 = 76;
/// Memory a decoder may ask for.
const DECODE_BYTES: u64 = 768 << 20;

/// Why a picture cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum PictureError {
    /// Not a picture, or a kind that is not read.
    #[error("This file is not a JPEG, PNG or WebP picture. Save it as one of these and attach it again.")]
    Kind,
    /// Damaged.
    #[error("This picture is damaged or was cut short and cannot be opened. Attach the original file again.")]
    Damaged,
    /// Too many pixels.
    #[error("This picture has {width} x {height} pixels, more than can be opened here. Make it smaller and attach it again.")]
    TooManyPixels {
        /// Pixels across.
        width: u32,
        /// Pixels down.
        height: u32,
    },
}

/// A picture that was read.
#[derive(Debug)]
pub struct Ingested {
    /// The bytes as they came.
    pub original: Blob,
    /// Upright, at most 1600 pixels on its longer side, without metadata.
    pub display: Blob,
    /// Small.
    pub thumb: Blob,
    /// Width of the upright picture.
    pub width: u32,
    /// Height of the upright picture.
    pub height: u32,
    /// Local time without a zone, as the camera says.
    pub taken_at: Option<String>,
    /// Degrees clockwise from north.
    pub heading: Option<f64>,
    /// It says where on earth it was taken.
    pub has_location: bool,
}

fn kind(bytes: &[u8]) -> Result<(ImageFormat, &'static str), PictureError> {
    match image::guess_format(bytes) {
        Ok(ImageFormat::Jpeg) => Ok((ImageFormat::Jpeg, "image/jpeg")),
        Ok(ImageFormat::Png) => Ok((ImageFormat::Png, "image/png")),
        Ok(ImageFormat::WebP) => Ok((ImageFormat::WebP, "image/webp")),
        _ => Err(PictureError::Kind),
    }
}

fn decode(bytes: &[u8], pixels: u64) -> Result<(DynamicImage, Orientation), PictureError> {
    let (format, _) = kind(bytes)?;
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    limits.max_alloc = Some(DECODE_BYTES);
    reader.limits(limits.clone());
    let mut decoder = reader.into_decoder().map_err(|_| PictureError::Damaged)?;
    let (width, height) = decoder.dimensions();
    if u64::from(width) * u64::from(height) > pixels {
        return Err(PictureError::TooManyPixels { width, height });
    }
    let orientation = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    if format == ImageFormat::Jpeg && !jpeg_is_whole(bytes) {
        return Err(PictureError::Damaged);
    }
    let image = DynamicImage::from_decoder(decoder).map_err(|_| PictureError::Damaged)?;
    Ok((image, orientation))
}

/// Whether the last scan of a JPEG ends. Decoders fill what is missing with grey; a cut picture should not pass for whole.
fn jpeg_is_whole(bytes: &[u8]) -> bool {
    let last = |marker: u8| bytes.windows(2).rposition(|w| w == [0xff, marker]);
    let (scan, end) = (last(0xda), last(0xd9));
    scan.is_some() && end > scan
}

/// Reads a picture file.
///
/// # Errors
/// [`PictureError`]: not a picture, damaged, or too large.
pub fn ingest(bytes: Vec<u8>, pixels: u64) -> Result<Ingested, PictureError> {
    let (_, media) = kind(&bytes)?;
    let (mut image, orientation) = decode(&bytes, pixels)?;
    image.apply_orientation(orientation);
    let (width, height) = (image.width(), image.height());
    let display = jpeg(&smaller(&image, DISPLAY_SIDE), DISPLAY_QUALITY)?;
    let thumb = jpeg(&smaller(&image, THUMB_SIDE), THUMB_QUALITY)?;
    let said = said(&bytes);
    Ok(Ingested {
        original: Blob::new(media, bytes),
        display: Blob::new("image/jpeg", display),
        thumb: Blob::new("image/jpeg", thumb),
        width,
        height,
        taken_at: said.taken_at,
        heading: said.heading,
        has_location: said.has_location,
    })
}

/// Opens a picture that comes with a bundle, to see that it is one.
///
/// # Errors
/// As [`ingest`].
pub fn check(bytes: &[u8], pixels: u64) -> Result<(), PictureError> {
    decode(bytes, pixels).map(|_| ())
}

/// The way a picture file says it must be turned, 1 to 8.
pub fn orientation(bytes: &[u8]) -> u16 {
    decode_orientation(bytes).map_or(1, |o| u16::from(o.to_exif()))
}

fn decode_orientation(bytes: &[u8]) -> Option<Orientation> {
    let (format, _) = kind(bytes).ok()?;
    ImageReader::with_format(Cursor::new(bytes), format).into_decoder().ok()?.orientation().ok()
}

fn smaller(image: &DynamicImage, side: u32) -> DynamicImage {
    if image.width().max(image.height()) <= side {
        image.clone()
    } else {
        image.resize(side, side, image::imageops::FilterType::CatmullRom)
    }
}

fn jpeg(image: &DynamicImage, quality: u8) -> Result<Vec<u8>, PictureError> {
    // Transparency is laid on white: print has no other ground.
    let rgba = image.to_rgba8();
    let mut rgb = image::RgbImage::new(rgba.width(), rgba.height());
    for (to, from) in rgb.pixels_mut().zip(rgba.pixels()) {
        let a = u32::from(from[3]);
        for c in 0..3 {
            to[c] = ((u32::from(from[c]) * a + 255 * (255 - a) + 127) / 255) as u8;
        }
    }
    let mut out = Vec::new();
    image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, quality).encode_image(&rgb).map_err(|_| PictureError::Damaged)?;
    Ok(out)
}

#[derive(Default)]
struct Said {
    taken_at: Option<String>,
    heading: Option<f64>,
    has_location: bool,
}

/// What the file's metadata says. Anything unreadable counts as not said.
fn said(bytes: &[u8]) -> Said {
    // Another kind of metadata (XMP) can hold a position too.
    let in_xmp = bytes.windows(8).any(|w| w == b"GPSLatit");
    let Ok(exif) = exif::Reader::new().read_from_container(&mut Cursor::new(bytes)) else {
        return Said { has_location: in_xmp, ..Said::default() };
    };
    let ascii = |tag| match exif.get_field(tag, In::PRIMARY).map(|f| &f.value) {
        Some(Value::Ascii(lines)) => lines.first().map(|l| String::from_utf8_lossy(l).into_owned()),
        _ => None,
    };
    let rational = |tag| match exif.get_field(tag, In::PRIMARY).map(|f| &f.value) {
        Some(Value::Rational(v)) => v.first().map(|r| r.to_f64()),
        _ => None,
    };
    let taken_at = ascii(Tag::DateTimeOriginal).or_else(|| ascii(Tag::DateTime)).and_then(|t| camera_time(&t));
    let heading = rational(Tag::GPSImgDirection).filter(|h| (0.0..=360.0).contains(h));
    let has_location = in_xmp || exif.get_field(Tag::GPSLatitude, In::PRIMARY).is_some();
    Said { taken_at, heading, has_location }
}

/// "2026:09:14 10:05:00" as "2026-09-14T10:05:00".
fn camera_time(text: &str) -> Option<String> {
    jiff::civil::DateTime::strptime("%Y:%m:%d %H:%M:%S", text.trim()).ok().map(|t| t.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn camera_times() {
        assert_eq!(camera_time("2026:09:14 10:05:00").as_deref(), Some("2026-09-14T10:05:00"));
        assert_eq!(camera_time("0000:00:00 00:00:00"), None);
        assert_eq!(camera_time("    :  :     :  :  "), None);
    }
}
