//! What is kept of a picture beside its bytes.

use envelope::round::PictureMark;
use envelope::site::{Face, Place};
use serde::{Deserialize, Serialize};
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

/// How near a picture was taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Range {
    /// Shows the fault.
    Close,
    /// Shows where it is.
    Wide,
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
