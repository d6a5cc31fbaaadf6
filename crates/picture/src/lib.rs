//! Reading a picture from outside: what it is, which way up, when and in which direction it was taken; smaller copies.
//!
//! A crate of its own because it must be optimised even in development builds, and nothing else needs to be.
//! Left out: other formats, colour management, editing.

use envelope::site::{Bearing, Face, Place};
use exif::{In, Tag, Value};
use fast_image_resize::{FilterType, ResizeAlg, ResizeOptions, Resizer};
use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits};
use ledger::{Blob, LARGEST_EDGE, Picture};
use std::io::Cursor;

/// Longer side of the picture for viewing.
const DISPLAY_SIDE: u32 = 1600;
/// Longer side of the picture for print: 58 mm of paper at 260 pixels to the inch; the typesetter holds all of them at once.
const PRINT_SIDE: u32 = 600;
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
    /// At most 600 pixels on its longer side.
    pub print: Blob,
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

/// What is known of a picture beside its file.
#[derive(Debug, Clone, Default)]
pub struct Known {
    /// The file's name as it came.
    pub name: String,
    /// The line under it.
    pub caption: String,
    /// The note it belongs to.
    pub note_id: Option<String>,
    /// Where it was taken.
    pub place: Option<Place>,
    /// The direction the front faces, so that the heading can propose a face.
    pub front: Option<Bearing>,
}

impl Ingested {
    /// The entity to be kept, and the files it names.
    pub fn into_picture(self, known: Known) -> (Picture, [Blob; 4]) {
        let heading = self.heading.and_then(|h| Bearing::new(h).ok());
        let picture = Picture {
            note_id: known.note_id,
            place: known.place,
            name: known.name,
            caption: known.caption,
            original: self.original.to_ref(),
            display: self.display.to_ref(),
            print: Some(self.print.to_ref()),
            thumb: self.thumb.to_ref(),
            width: self.width,
            height: self.height,
            taken_at: self.taken_at,
            heading: self.heading,
            proposed_face: heading.zip(known.front).map(|(h, f)| Face::in_picture(h, f)),
            has_location: self.has_location,
            marks: vec![],
            range: None,
        };
        (picture, [self.original, self.display, self.print, self.thumb])
    }
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
    if width.max(height) > LARGEST_EDGE || u64::from(width) * u64::from(height) > pixels {
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
    let shown = smaller(&image, DISPLAY_SIDE);
    let display = jpeg(&shown, DISPLAY_QUALITY)?;
    // The smaller copies are made from the larger one: a quarter of the work, and no difference to see.
    let print = jpeg(&smaller(&shown, PRINT_SIDE), DISPLAY_QUALITY)?;
    let thumb = jpeg(&smaller(&shown, THUMB_SIDE), THUMB_QUALITY)?;
    let said = said(&bytes);
    Ok(Ingested {
        original: Blob::new(media, bytes),
        display: Blob::new("image/jpeg", display),
        print: Blob::new("image/jpeg", print),
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

/// The same picture, its longer side so long at most.
fn smaller(image: &DynamicImage, side: u32) -> DynamicImage {
    let (width, height) = (image.width(), image.height());
    let longer = width.max(height);
    if longer <= side {
        return image.clone();
    }
    let scaled = |edge: u32| (f64::from(edge) * f64::from(side) / f64::from(longer)).round().max(1.0) as u32;
    let (w, h) = (scaled(width), scaled(height));
    let mut out = DynamicImage::new(w, h, image.color());
    let how = ResizeOptions::new().resize_alg(ResizeAlg::Convolution(FilterType::CatmullRom));
    match Resizer::new().resize(image, &mut out, &how) {
        Ok(()) => out,
        // A kind of pixel it does not know is made smaller in its own time.
        Err(_) => image.resize_exact(w, h, image::imageops::FilterType::CatmullRom),
    }
}

fn jpeg(image: &DynamicImage, quality: u8) -> Result<Vec<u8>, PictureError> {
    let mut out = Vec::new();
    let mut encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, quality);
    let encoded = match image {
        DynamicImage::ImageRgb8(rgb) => encoder.encode_image(rgb),
        seen_through if seen_through.color().has_alpha() => encoder.encode_image(&on_white(&seen_through.to_rgba8())),
        other => encoder.encode_image(&other.to_rgb8()),
    };
    encoded.map_err(|_| PictureError::Damaged)?;
    Ok(out)
}

/// Transparency is laid on white: print has no other ground.
fn on_white(rgba: &image::RgbaImage) -> image::RgbImage {
    let mut rgb = image::RgbImage::new(rgba.width(), rgba.height());
    for (to, from) in rgb.pixels_mut().zip(rgba.pixels()) {
        let a = u32::from(from[3]);
        for c in 0..3 {
            to[c] = ((u32::from(from[c]) * a + 255 * (255 - a) + 127) / 255) as u8;
        }
    }
    rgb
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
    use image::{Rgb, RgbImage, Rgba, RgbaImage};
    use proptest::prelude::*;

    fn file(image: &DynamicImage, format: ImageFormat) -> Vec<u8> {
        let mut out = Cursor::new(Vec::new());
        image.write_to(&mut out, format).unwrap();
        out.into_inner()
    }

    #[test]
    fn camera_times() {
        assert_eq!(camera_time("2026:09:14 10:05:00").as_deref(), Some("2026-09-14T10:05:00"));
        assert_eq!(camera_time("0000:00:00 00:00:00"), None);
        assert_eq!(camera_time("    :  :     :  :  "), None);
    }

    #[test]
    fn copies_keep_the_shape_and_are_never_larger_than_meant() {
        let tall = DynamicImage::ImageRgb8(RgbImage::from_pixel(900, 3600, Rgb([120, 90, 60])));
        let i = ingest(file(&tall, ImageFormat::Png), u64::MAX).unwrap();
        let display = image::load_from_memory(&i.display.bytes).unwrap();
        let thumb = image::load_from_memory(&i.thumb.bytes).unwrap();
        assert_eq!((i.width, i.height), (900, 3600));
        assert_eq!((display.width(), display.height()), (400, DISPLAY_SIDE));
        assert_eq!((thumb.width(), thumb.height()), (80, THUMB_SIDE));
    }

    /// Bytes of a JPEG with a note of how the camera was held, as cameras write it.
    fn held(jpeg: &[u8], orientation: u8) -> Vec<u8> {
        // One directory of one entry: the orientation (0x0112), a short, once.
        let tiff = [b"MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0".as_slice(), &[orientation], b"\0\0\0\0\0\0"].concat();
        let length = (2 + 6 + tiff.len() as u16).to_be_bytes();
        [&jpeg[..2], b"\xff\xe1", &length, b"Exif\0\0", &tiff, &jpeg[2..]].concat()
    }

    /// Where the red spot of a picture is, as parts of its width and height.
    fn spot(image: &RgbImage) -> [f64; 2] {
        let red = |p: &Rgb<u8>| f64::from(p[0].saturating_sub(p[1].max(p[2])).saturating_sub(60));
        let (mut all, mut x, mut y) = (0.0, 0.0, 0.0);
        for (px, py, p) in image.enumerate_pixels() {
            all += red(p);
            x += red(p) * (f64::from(px) + 0.5);
            y += red(p) * (f64::from(py) + 0.5);
        }
        [x / all / f64::from(image.width()), y / all / f64::from(image.height())]
    }

    /// Holds every copy of a picture with one red spot to it; wide, high and the spot as it is seen upright.
    fn kept(orientation: u8, [wide, high]: [u32; 2], [x, y]: [f64; 2]) -> Result<(), TestCaseError> {
        let at = [x * f64::from(wide), y * f64::from(high)];
        let near = |px: u32, py: u32| (f64::from(px) - at[0]).powi(2) + (f64::from(py) - at[1]).powi(2) < 40.0 * 40.0;
        let upright = RgbImage::from_fn(wide, high, |px, py| Rgb(if near(px, py) { [230, 20, 20] } else { [90, 110, 120] }));
        // As the sensor saw it: what turns it upright, undone.
        let turned = match Orientation::from_exif(orientation).unwrap() {
            Orientation::Rotate90 => Orientation::Rotate270,
            Orientation::Rotate270 => Orientation::Rotate90,
            back => back,
        };
        let mut seen = DynamicImage::ImageRgb8(upright);
        seen.apply_orientation(turned);
        let i = ingest(held(&file(&seen, ImageFormat::Jpeg), orientation), u64::MAX).unwrap();
        prop_assert_eq!((i.width, i.height), (wide, high));
        for (copy, side) in [(&i.display, DISPLAY_SIDE), (&i.print, PRINT_SIDE), (&i.thumb, THUMB_SIDE)] {
            let shown = image::load_from_memory(&copy.bytes).unwrap().into_rgb8();
            prop_assert_eq!(shown.width().max(shown.height()), side);
            let found = spot(&shown);
            for (f, of, pixels) in [(found[0], x, shown.width()), (found[1], y, shown.height())] {
                prop_assert!((f - of).abs() * f64::from(pixels) < 1.0, "{orientation}: {found:?} of {x}, {y} at {side}");
            }
        }
        Ok(())
    }

    // A mark is put on the copy for viewing and printed on that for print: a place must be the same place on each, however the camera
    // was held.
    proptest! {
        #![proptest_config(ProptestConfig { cases: 6, ..ProptestConfig::default() })]

        #[test]
        fn a_place_is_the_same_on_every_copy_held_level(orientation in 1_u8..=4, size in [1610_u32..2200, 500_u32..1800], spot in [0.1..0.9_f64, 0.1..0.9_f64]) {
            kept(orientation, size, spot)?;
        }

        #[test]
        fn a_place_is_the_same_on_every_copy_held_on_its_side(orientation in 5_u8..=8, size in [1610_u32..2200, 500_u32..1800], spot in [0.1..0.9_f64, 0.1..0.9_f64]) {
            kept(orientation, size, spot)?;
        }
    }

    /// Grey, deep and transparent pictures keep their tone when they are made smaller.
    #[test]
    fn every_kind_of_pixel_keeps_its_tone() {
        let rgb = DynamicImage::ImageRgb8(RgbImage::from_pixel(1800, 700, Rgb([180, 90, 40])));
        let half = DynamicImage::ImageRgba8(RgbaImage::from_pixel(1800, 700, Rgba([180, 90, 40, 128])));
        let grey = 108; // Rec. 709: 0.2126 R + 0.7152 G + 0.0722 B.
        for (kind, image, tone) in [
            ("8 bits", rgb.clone(), [180, 90, 40]),
            ("16 bits", DynamicImage::ImageRgb16(rgb.to_rgb16()), [180, 90, 40]),
            ("grey", DynamicImage::ImageLuma8(rgb.to_luma8()), [grey; 3]),
            ("deep grey", DynamicImage::ImageLuma16(rgb.to_luma16()), [grey; 3]),
            ("half seen through", half.clone(), [217, 172, 147]),
            ("half seen through, 16 bits", DynamicImage::ImageRgba16(half.to_rgba16()), [217, 172, 147]),
        ] {
            let i = ingest(file(&image, ImageFormat::Png), u64::MAX).unwrap();
            for copy in [&i.display, &i.print, &i.thumb] {
                let shown = image::load_from_memory(&copy.bytes).unwrap().to_rgb8();
                for at in [(0, 0), (shown.width() / 2, shown.height() / 2), (shown.width() - 1, shown.height() - 1)] {
                    let p = shown.get_pixel(at.0, at.1).0;
                    assert!(p.iter().zip(tone).all(|(a, b)| a.abs_diff(b) <= 3), "{kind} at {at:?}: {p:?}, and not {tone:?}");
                }
            }
        }
    }

    #[test]
    fn a_small_picture_is_not_blown_up() {
        let small = DynamicImage::ImageRgb8(RgbImage::from_pixel(20, 10, Rgb([1, 2, 3])));
        let i = ingest(file(&small, ImageFormat::Jpeg), u64::MAX).unwrap();
        assert_eq!(image::load_from_memory(&i.display.bytes).unwrap().width(), 20);
        assert_eq!(i.original.bytes, file(&small, ImageFormat::Jpeg), "the original is untouched");
    }

    #[test]
    fn what_is_transparent_prints_on_white() {
        let clear = DynamicImage::ImageRgba8(RgbaImage::from_pixel(16, 16, Rgba([0, 0, 0, 0])));
        let i = ingest(file(&clear, ImageFormat::Png), u64::MAX).unwrap();
        let p = image::load_from_memory(&i.display.bytes).unwrap().to_rgb8().get_pixel(8, 8).0;
        assert!(p.iter().all(|c| *c > 250), "{p:?}");
    }

    #[test]
    fn webp_is_read_too() {
        let image = DynamicImage::ImageRgb8(RgbImage::from_pixel(30, 20, Rgb([200, 10, 10])));
        assert_eq!(ingest(file(&image, ImageFormat::WebP), u64::MAX).unwrap().original.media, "image/webp");
    }

    #[test]
    fn too_many_pixels_are_named() {
        let image = DynamicImage::ImageRgb8(RgbImage::new(100, 100));
        let e = ingest(file(&image, ImageFormat::Png), 9_999).unwrap_err();
        assert_eq!(e.to_string(), "This picture has 100 x 100 pixels, more than can be opened here. Make it smaller and attach it again.");
    }

    /// Wherever a file is cut, it is refused or read; it never passes for something else and never panics.
    #[test]
    fn a_file_cut_anywhere_does_no_harm() {
        let image = DynamicImage::ImageRgb8(RgbImage::from_fn(64, 48, |x, y| Rgb([x as u8, y as u8, 7])));
        for format in [ImageFormat::Jpeg, ImageFormat::Png, ImageFormat::WebP] {
            let whole = file(&image, format);
            for cut in (0..whole.len().saturating_sub(12)).step_by(7) {
                assert!(ingest(whole[..cut].to_vec(), u64::MAX).is_err(), "{format:?} cut at {cut} of {}", whole.len());
            }
        }
    }

    #[test]
    fn the_heading_proposes_a_face_only_when_the_front_is_known() {
        let image = DynamicImage::ImageRgb8(RgbImage::new(8, 8));
        let ingested = || Ingested { heading: Some(20.0), ..ingest(file(&image, ImageFormat::Png), u64::MAX).unwrap() };
        let front = Bearing::new(200.0).ok();
        assert_eq!(ingested().into_picture(Known { front, ..Known::default() }).0.proposed_face, Some(Face::Front));
        assert_eq!(ingested().into_picture(Known::default()).0.proposed_face, None);
    }
}
