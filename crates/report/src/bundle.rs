//! The whole job in one file: a zip with `bundle.json`, its schema, and the pictures. Open, and read back in anywhere.

use crate::strip::upright_only;
use envelope::ground::record::Ground;
use envelope::job::Job;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::record::Roof;
use envelope::round::Note;
use envelope::site::{Item, Mark};
use ledger::{Blob, BlobRef, LedgerError, Picture, WholeJob};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::io::{Cursor, Read, Write};
use utoipa::ToSchema;
use uuid::Uuid;
use zip::write::SimpleFileOptions;

/// The version this program writes; it reads this and older ones.
pub const BUNDLE_VERSION: u32 = 4;
const FORMAT: &str = "trowel-bundle";

/// An entity in a bundle.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BundleItem<T> {
    /// Its id.
    pub id: String,
    /// The entity.
    pub body: T,
}

/// What `bundle.json` holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Bundle {
    /// Always "trowel-bundle".
    pub format: String,
    /// The version of this form.
    pub version: u32,
    /// The job.
    pub job: BundleItem<Job>,
    /// Its notes, in the order they were entered.
    pub notes: Vec<BundleItem<Note>>,
    /// Its marks.
    pub marks: Vec<BundleItem<Mark>>,
    /// Its pictures; their bytes are in `pictures/`, named by their SHA-256.
    pub pictures: Vec<BundleItem<Picture>>,
    /// Openings, fittings and gutter runs; since form 2.
    #[serde(default)]
    pub items: Vec<BundleItem<Item>>,
    /// Its roof; since form 3.
    #[serde(default)]
    pub roof: Option<Roof>,
    /// Its rain and gutters; since form 3.
    #[serde(default)]
    pub rainwater: Option<Rainwater>,
    /// Its ground; since form 4.
    #[serde(default)]
    pub ground: Option<Ground>,
    /// What its practice followed; since form 2. For reading: a practice of this name that is here already is kept as it is.
    #[serde(default)]
    pub practice: Option<Practice>,
}

/// How much a bundle may hold.
#[derive(Debug, Clone, Copy)]
pub struct BundleLimits {
    /// Files.
    pub files: usize,
    /// Bytes of one file, unpacked.
    pub file_bytes: u64,
    /// Bytes of all files, unpacked.
    pub all_bytes: u64,
}

impl Default for BundleLimits {
    fn default() -> Self {
        BundleLimits { files: 20_000, file_bytes: 64 << 20, all_bytes: 2 << 30 }
    }
}

/// Why a bundle cannot be read, or written.
#[derive(Debug, thiserror::Error)]
pub enum BundleError {
    /// Not a zip.
    #[error("This file is not a bundle: it is not a zip, or it was cut short. Export the job again.")]
    NotZip,
    /// No bundle.json, or another format.
    #[error("This zip holds no Trowel job. Choose a file that was exported as a bundle.")]
    NoJob,
    /// Written by a newer version.
    #[error(
        "This bundle was written by a newer version of Trowel (form {0}; this one reads up to {BUNDLE_VERSION}). Update, then read it in again."
    )]
    Newer(u32),
    /// The JSON does not hold what it should.
    #[error("The bundle cannot be read: {0}")]
    Json(String),
    /// Something in it cannot be kept.
    #[error("The bundle holds something that cannot be kept: {0}")]
    Content(String),
    /// A path that leads out of the bundle.
    #[error("The bundle names a file outside itself (\"{0}\"). It was not made by Trowel; nothing was read.")]
    Path(String),
    /// A picture is not in it.
    #[error("A picture is missing from the bundle ({0}). Export the job again.")]
    Missing(String),
    /// A picture is not what its name says.
    #[error("A picture in the bundle was changed or damaged ({0}). Export the job again.")]
    WrongHash(String),
    /// Too much.
    #[error("The bundle unpacks to more than is allowed. Nothing was read.")]
    TooBig,
    /// The ledger could not give a picture.
    #[error(transparent)]
    Ledger(#[from] LedgerError),
    /// Writing failed.
    #[error("The bundle could not be written: {0}")]
    Write(String),
}

/// A bundle that has been read and checked.
#[derive(Debug)]
pub struct Unpacked {
    /// The job with everything in it.
    pub bundle: Bundle,
    /// The picture files.
    pub blobs: Vec<Blob>,
}

/// Packs a job. Unless the brief says to keep it, location is taken out of pictures that hold it; the way they must be
/// turned stays. `schema` is the published description of `bundle.json`.
///
/// # Errors
/// When a picture cannot be read or the file cannot be written.
pub fn pack(
    whole: &WholeJob,
    schema: &str,
    read: impl Fn(&str) -> Result<Vec<u8>, LedgerError>,
    orientation: impl Fn(&[u8]) -> u16,
) -> Result<Vec<u8>, BundleError> {
    let item = |id: &str| id.to_owned();
    let keep = whole.job.body.brief.keep_location;
    let mut files: HashMap<String, Vec<u8>> = HashMap::new();
    let mut pictures = Vec::new();
    for p in &whole.pictures {
        let mut body = p.body.clone();
        let original = read(&body.original.hash)?;
        if body.has_location && !keep {
            let clean = upright_only(&original, orientation(&original))
                .ok_or_else(|| BundleError::Write(format!("location could not be taken out of {}", body.name)))?;
            let blob = Blob::new(&body.original.media, clean);
            body.original = blob.to_ref();
            body.has_location = false;
            files.insert(blob.hash, blob.bytes);
        } else {
            files.insert(body.original.hash.clone(), original);
        }
        for r in [&body.display, &body.thumb].into_iter().chain(&body.print) {
            files.insert(r.hash.clone(), read(&r.hash)?);
        }
        pictures.push(BundleItem { id: item(&p.id), body });
    }
    let bundle = Bundle {
        format: FORMAT.into(),
        version: BUNDLE_VERSION,
        job: BundleItem { id: item(&whole.job.id), body: whole.job.body.clone() },
        notes: whole.notes.iter().map(|n| BundleItem { id: item(&n.id), body: n.body.clone() }).collect(),
        marks: whole.marks.iter().map(|m| BundleItem { id: item(&m.id), body: m.body.clone() }).collect(),
        pictures,
        items: whole.items.iter().map(|i| BundleItem { id: item(&i.id), body: i.body.clone() }).collect(),
        roof: whole.roof.as_ref().map(|r| r.body.clone()),
        rainwater: whole.rainwater.as_ref().map(|r| r.body.clone()),
        ground: whole.ground.as_ref().map(|g| g.body.clone()),
        practice: Some(whole.practice.clone()),
    };
    write(&bundle, schema, files).map_err(|e| BundleError::Write(e.to_string()))
}

fn write(bundle: &Bundle, schema: &str, files: HashMap<String, Vec<u8>>) -> Result<Vec<u8>, Box<dyn std::error::Error>> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let text = SimpleFileOptions::default();
    zip.start_file("bundle.json", text)?;
    zip.write_all(&serde_json::to_vec_pretty(bundle)?)?;
    zip.start_file("bundle.schema.json", text)?;
    zip.write_all(schema.as_bytes())?;
    let mut files: Vec<_> = files.into_iter().collect();
    files.sort();
    for (hash, bytes) in files {
        zip.start_file(format!("pictures/{hash}"), text.compression_method(zip::CompressionMethod::Stored))?;
        zip.write_all(&bytes)?;
    }
    Ok(zip.finish()?.into_inner())
}

/// Reads a bundle and checks all of it before anything is kept.
///
/// # Errors
/// Everything that can be wrong with a file from elsewhere.
pub fn unpack(bytes: &[u8], limits: BundleLimits) -> Result<Unpacked, BundleError> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|_| BundleError::NotZip)?;
    if zip.len() > limits.files {
        return Err(BundleError::TooBig);
    }
    let mut files: HashMap<String, Vec<u8>> = HashMap::new();
    let mut left = limits.all_bytes;
    for i in 0..zip.len() {
        let mut file = zip.by_index(i).map_err(|_| BundleError::NotZip)?;
        let name = file.name().to_owned();
        if file.enclosed_name().is_none() || name.contains(['\\', '\0']) {
            return Err(BundleError::Path(name.chars().take(80).collect()));
        }
        if file.is_dir() {
            continue;
        }
        // The sizes written in a zip may lie; what counts is what comes out.
        let most = limits.file_bytes.min(left);
        let mut out = Vec::new();
        file.by_ref().take(most + 1).read_to_end(&mut out).map_err(|_| BundleError::NotZip)?;
        if out.len() as u64 > most {
            return Err(BundleError::TooBig);
        }
        left -= out.len() as u64;
        files.insert(name, out);
    }
    let json = files.get("bundle.json").ok_or(BundleError::NoJob)?;
    let bundle = parse(json)?;
    check(&bundle)?;
    let mut blobs: HashMap<String, Blob> = HashMap::new();
    for p in &bundle.pictures {
        for r in p.body.files() {
            if !blobs.contains_key(&r.hash) {
                blobs.insert(r.hash.clone(), blob(r, &files)?);
            }
        }
    }
    Ok(Unpacked { bundle, blobs: blobs.into_values().collect() })
}

fn parse(json: &[u8]) -> Result<Bundle, BundleError> {
    #[derive(Deserialize)]
    struct Head {
        format: String,
        version: u32,
    }
    // The version is read first, so that a newer form is named as such and not as a fault.
    let head: Head = serde_json::from_slice(json).map_err(|_| BundleError::NoJob)?;
    if head.format != FORMAT {
        return Err(BundleError::NoJob);
    }
    if head.version > BUNDLE_VERSION {
        return Err(BundleError::Newer(head.version));
    }
    serde_json::from_slice(json).map_err(|e| BundleError::Json(e.to_string()))
}

fn check(b: &Bundle) -> Result<(), BundleError> {
    let content = |what: String| Err(BundleError::Content(what));
    if let Err(e) = b.job.body.check() {
        return content(format!("{}: {e}", e.field));
    }
    let ids = std::iter::once(&b.job.id)
        .chain(b.notes.iter().map(|n| &n.id))
        .chain(b.pictures.iter().map(|p| &p.id))
        .chain(b.items.iter().map(|i| &i.id));
    for id in ids {
        if Uuid::parse_str(id).is_err() {
            return content(format!("\"{}\" is not an id", id.chars().take(60).collect::<String>()));
        }
    }
    for n in &b.notes {
        if let Err(e) = n.body.check() {
            return content(format!("note {}, {}: {e}", n.id, e.field));
        }
    }
    for i in &b.items {
        if let Err(e) = i.body.check() {
            return content(format!("item {}: {e}", i.id));
        }
    }
    if let Some(Err(e)) = b.roof.as_ref().map(Roof::check) {
        return content(format!("roof, {}: {e}", e.field));
    }
    if let Some(Err(e)) = b.rainwater.as_ref().map(Rainwater::check) {
        return content(format!("rainwater, {}: {e}", e.field));
    }
    if let Some(Err(e)) = b.ground.as_ref().map(Ground::check) {
        return content(format!("ground, {}: {e}", e.field));
    }
    if let Some(Err(e)) = b.practice.as_ref().map(|p| p.check()).filter(|_| b.practice.as_ref().is_some_and(|p| !p.name.is_empty())) {
        return content(format!("practice, {e}"));
    }
    for p in &b.pictures {
        if p.body.note_id.as_ref().is_some_and(|note| !b.notes.iter().any(|n| &n.id == note)) {
            return content(format!("picture {} belongs to a note that is not in it", p.id));
        }
        if p.body.marks.len() > envelope::round::MOST_MARKS {
            return content(format!("picture {} has too many marks", p.id));
        }
        if let Some(e) = p.body.marks.iter().find_map(|m| m.check().err()) {
            return content(format!("picture {}: {e}", p.id));
        }
        if p.body.files().any(|r| !matches!(r.media.as_str(), "image/jpeg" | "image/png" | "image/webp")) {
            return content(format!("picture {} is not a JPEG, PNG or WebP", p.id));
        }
    }
    Ok(())
}

fn blob(r: &BlobRef, files: &HashMap<String, Vec<u8>>) -> Result<Blob, BundleError> {
    let short: String = r.hash.chars().take(16).collect();
    let bytes = files.get(&format!("pictures/{}", r.hash)).ok_or_else(|| BundleError::Missing(short.clone()))?;
    let blob = Blob::new(&r.media, bytes.clone());
    if blob.hash == r.hash { Ok(blob) } else { Err(BundleError::WrongHash(short)) }
}
