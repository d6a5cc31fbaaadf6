//! Taking location and other metadata out of a picture without touching its pixels.

use img_parts::jpeg::{Jpeg, markers};
use img_parts::png::Png;
use img_parts::webp::WebP;
use img_parts::{Bytes, DynImage, ImageEXIF};

/// The smallest EXIF block: how the picture must be turned, and nothing else. TIFF header (big-endian), one entry
/// (tag 0x0112, SHORT, one value), no next directory. EXIF 2.32, 4.6.
fn orientation_only(orientation: u16) -> Vec<u8> {
    let mut t = b"MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01".to_vec();
    t.extend(orientation.to_be_bytes());
    t.extend([0, 0, 0, 0, 0, 0]);
    t
}

/// Takes all metadata out but the way the picture is turned (1 to 8). Colour profiles stay. `None` when the format is not known.
pub fn upright_only(bytes: &[u8], orientation: u16) -> Option<Vec<u8>> {
    let mut image = strip(bytes)?;
    if (2..=8).contains(&orientation) {
        image.set_exif(Some(orientation_only(orientation).into()));
    }
    Some(image.encoder().bytes().to_vec())
}

/// Takes all metadata out. `None` when the format is not known.
pub fn strip_metadata(bytes: &[u8]) -> Option<Vec<u8>> {
    upright_only(bytes, 1)
}

fn strip(bytes: &[u8]) -> Option<DynImage> {
    let bytes = Bytes::copy_from_slice(bytes);
    let image = DynImage::from_bytes(bytes).ok()??;
    Some(match image {
        DynImage::Jpeg(j) => DynImage::Jpeg(strip_jpeg(j)),
        DynImage::Png(p) => DynImage::Png(strip_png(p)),
        DynImage::WebP(w) => DynImage::WebP(strip_webp(w)),
    })
}

/// Application segments and comments go, but JFIF, the colour profile and Adobe's colour transform.
fn strip_jpeg(mut j: Jpeg) -> Jpeg {
    j.segments_mut().retain(|s| {
        let m = s.marker();
        let app = (markers::APP0..=markers::APP15).contains(&m);
        !(m == markers::COM || app && !matches!(m, markers::APP0 | markers::APP2 | markers::APP14))
    });
    j
}

fn strip_png(mut p: Png) -> Png {
    p.chunks_mut().retain(|c| !matches!(&c.kind(), b"eXIf" | b"tEXt" | b"zTXt" | b"iTXt" | b"tIME"));
    p
}

fn strip_webp(mut w: WebP) -> WebP {
    w.set_exif(None);
    w.remove_chunks_by_id(*b"XMP ");
    w
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bytes_that_are_no_picture_are_not_touched() {
        assert_eq!(strip_metadata(b"hello"), None);
        assert_eq!(strip_metadata(b""), None);
    }
}
