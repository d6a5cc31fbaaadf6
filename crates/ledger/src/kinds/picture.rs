//! What is kept of a picture beside its bytes.

use super::{Entity, Kind, Refused, text};
use envelope::job::SHORT_TEXT;
use envelope::round::{MOST_MARKS, PictureMark, Range};
use envelope::site::{Face, Place};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// A file in the picture folder.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct BlobRef {
    /// SHA-256 of the bytes, in hexadecimal.
    pub hash: String,
    /// "image/jpeg" or "image/png".
    pub media: String,
    /// Size.
    pub bytes: u64,
}

/// A picture of a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Picture {
    /// The note it belongs to, if any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note_id: Option<String>,
    /// Where it was taken, as far as known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<Place>,
    /// The file's name as it came.
    #[serde(default)]
    pub name: String,
    /// A line under the picture; also what a screen reader says.
    #[serde(default)]
    pub caption: String,
    /// The bytes as they came, untouched.
    pub original: BlobRef,
    /// Upright, without metadata, for viewing and print.
    pub display: BlobRef,
    /// Smaller, for print; pictures kept by earlier versions have none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub print: Option<BlobRef>,
    /// Small.
    pub thumb: BlobRef,
    /// Width of the upright picture in pixels.
    pub width: u32,
    /// Height of the upright picture in pixels.
    pub height: u32,
    /// When it was taken, as the camera says: local time without a zone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_at: Option<String>,
    /// Compass heading of the camera in degrees, if it says.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heading: Option<f64>,
    /// The face that heading points to, when the front's direction is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub proposed_face: Option<Face>,
    /// The original says where on earth it was taken; that leaves the building only if the person says so.
    #[serde(default)]
    pub has_location: bool,
    /// Marks drawn over it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<PictureMark>,
    /// How near it was taken, when said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub range: Option<Range>,
}

impl Picture {
    /// The files it names.
    pub fn files(&self) -> impl Iterator<Item = &BlobRef> {
        [&self.original, &self.display, &self.thumb].into_iter().chain(&self.print)
    }
    /// The copy for print.
    pub fn for_print(&self) -> &BlobRef {
        self.print.as_ref().unwrap_or(&self.display)
    }
}

/// No picture is wider or taller, in pixels: more than any camera makes.
pub const LARGEST_EDGE: u32 = 30_000;
/// A caption is a sentence or a few.
const LONGEST_CAPTION: usize = SHORT_TEXT * 5;

impl BlobRef {
    fn check(&self) -> Result<(), Refused> {
        let hash = self.hash.len() == 64 && self.hash.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'));
        let media = matches!(self.media.as_str(), "image/jpeg" | "image/png" | "image/webp");
        if hash && media {
            Ok(())
        } else {
            Err(Refused::new("original", "This is not a JPEG, PNG or WebP picture. Attach the file again."))
        }
    }
}

impl Entity for Picture {
    const KIND: Kind = Kind::Picture;
    fn check(&self) -> Result<(), Refused> {
        let refuse = |field: &str, message: String| Err(Refused::new(field, message));
        if self.caption.chars().count() > LONGEST_CAPTION {
            return refuse(
                "caption",
                format!("The caption is longer than {LONGEST_CAPTION} characters. Use a sentence; a note can say more."),
            );
        }
        if self.name.chars().count() > SHORT_TEXT {
            return refuse("name", format!("The name is longer than {SHORT_TEXT} characters. Shorten it."));
        }
        if self.marks.len() > MOST_MARKS {
            return refuse("marks", format!("{} marks on one picture; the most is {MOST_MARKS}.", self.marks.len()));
        }
        if let Some(e) = self.marks.iter().find_map(|m| m.check().err()) {
            return refuse("marks", e);
        }
        if let Some(place) = &self.place {
            place.check().map_err(|e| Refused::new("place", e.to_string()))?;
        }
        if !(1..=LARGEST_EDGE).contains(&self.width) || !(1..=LARGEST_EDGE).contains(&self.height) {
            return refuse("width", format!("A picture is 1 to {LARGEST_EDGE} pixels wide and tall. Attach the file again."));
        }
        if self.heading.is_some_and(|h| !(0.0..=360.0).contains(&h)) {
            return refuse("heading", "A compass heading is 0 to 360 degrees.".into());
        }
        if self.taken_at.as_ref().is_some_and(|t| t.parse::<jiff::civil::DateTime>().is_err()) {
            return refuse("taken_at", "When a picture was taken is written as 2026-11-24T09:30:00.".into());
        }
        self.files().try_for_each(BlobRef::check)
    }
    fn label(body: &Value) -> String {
        text(body, "name")
    }
}
