//! The whole job in one file: a zip with `bundle.json`, its schema, and the pictures. Open, and read back in anywhere.

use crate::strip::upright_only;
use envelope::ground::record::Ground;
use envelope::job::Job;
use envelope::moisture::record::Moisture;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::record::Roof;
use envelope::round::Note;
use envelope::round::track::TrackStop;
use envelope::site::{Item, Mark};
use envelope::storm::record::StormVisit;
use envelope::trace::record::Trace;
use envelope::wall::record::Walls;
use envelope::years::again::ReturnKept;
use envelope::years::leaving::SaidThing;
use ledger::{Blob, BlobRef, LedgerError, Picture, WholeJob};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};
use std::io::{self, Read, Seek, SeekFrom, Write};
use utoipa::ToSchema;
use uuid::Uuid;
use zip::write::SimpleFileOptions;

/// The version this program writes; it reads this and older ones.
pub const BUNDLE_VERSION: u32 = 9;
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
    /// Its walls; since form 5.
    #[serde(default)]
    pub walls: Option<Walls>,
    /// Its rooms and readings; since form 6.
    #[serde(default)]
    pub moisture: Option<Moisture>,
    /// Its wet spots and what was tried; since form 6.
    #[serde(default)]
    pub trace: Option<Trace>,
    /// Its count after a storm; since form 7.
    #[serde(default)]
    pub storm: Option<StormVisit>,
    /// What became of what an earlier visit recommended; since form 8.
    #[serde(default)]
    pub again: Option<ReturnKept>,
    /// What was said of the report; since form 8. Links under which it is read belong to the server and are not in it.
    #[serde(default)]
    pub said: Vec<BundleItem<SaidThing>>,
    /// Places chosen on the wheel while a walk was recorded elsewhere; since form 9.
    #[serde(default)]
    pub track: Vec<BundleItem<TrackStop>>,
    /// What its practice followed; since form 2. For reading: a practice of this name that is here already is kept as it is.
    #[serde(default)]
    pub practice: Option<Practice>,
    /// Pictures whose files could not be read when it was written, by name; they are not in it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub left_out: Vec<String>,
}

/// How much a bundle may hold.
#[derive(Debug, Clone, Copy)]
pub struct BundleLimits {
    /// Files.
    pub files: usize,
    /// Bytes of `bundle.json`.
    pub json_bytes: u64,
    /// Bytes of one picture file, unpacked.
    pub file_bytes: u64,
    /// Bytes of all files, unpacked.
    pub all_bytes: u64,
}

impl Default for BundleLimits {
    fn default() -> Self {
        BundleLimits { files: 20_000, json_bytes: 32 << 20, file_bytes: 64 << 20, all_bytes: 2 << 30 }
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
    /// The same thing twice.
    #[error("The bundle holds {0} twice. Export the job again.")]
    Twice(String),
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

/// Writes a job as a bundle. Unless the brief says to keep it, location is taken out of pictures that hold it; the way they
/// must be turned stays. Pictures whose files are damaged are left out and named in it. `schema` is the published description
/// of `bundle.json`.
///
/// # Errors
/// When the file cannot be written.
pub fn pack(
    whole: &WholeJob,
    schema: &str,
    read: impl Fn(&str) -> Result<Vec<u8>, LedgerError>,
    out: impl Write + Seek,
) -> Result<Vec<String>, BundleError> {
    let failed = |e: &dyn std::fmt::Display| BundleError::Write(e.to_string());
    let mut zip = zip::ZipWriter::new(out);
    let text = SimpleFileOptions::default();
    let keep = whole.job.body.brief.keep_location;
    let (mut pictures, mut left_out) = (Vec::new(), Vec::new());
    let mut written = HashSet::new();
    for p in &whole.pictures {
        let Some((body, files)) = files_of(&p.body, keep, &read)? else {
            left_out.push(p.body.name.clone());
            continue;
        };
        for (hash, bytes) in files {
            if written.insert(hash.clone()) {
                zip.start_file(format!("pictures/{hash}"), text.compression_method(zip::CompressionMethod::Stored))
                    .map_err(|e| failed(&e))?;
                zip.write_all(&bytes).map_err(|e| failed(&e))?;
            }
        }
        pictures.push(BundleItem { id: p.id.clone(), body });
    }
    let bundle = Bundle {
        format: FORMAT.into(),
        version: BUNDLE_VERSION,
        job: BundleItem { id: whole.job.id.clone(), body: whole.job.body.clone() },
        notes: whole.notes.iter().map(|n| BundleItem { id: n.id.clone(), body: n.body.clone() }).collect(),
        marks: whole.marks.iter().map(|m| BundleItem { id: m.id.clone(), body: m.body.clone() }).collect(),
        pictures,
        items: whole.items.iter().map(|i| BundleItem { id: i.id.clone(), body: i.body.clone() }).collect(),
        roof: whole.roof.as_ref().map(|r| r.body.clone()),
        rainwater: whole.rainwater.as_ref().map(|r| r.body.clone()),
        ground: whole.ground.as_ref().map(|g| g.body.clone()),
        walls: whole.walls.as_ref().map(|w| w.body.clone()),
        moisture: whole.moisture.as_ref().map(|m| m.body.clone()),
        trace: whole.trace.as_ref().map(|t| t.body.clone()),
        storm: whole.storm.as_ref().map(|s| s.body.clone()),
        again: whole.again.as_ref().map(|a| a.body.clone()),
        said: whole.said.iter().map(|s| BundleItem { id: s.id.clone(), body: s.body.clone() }).collect(),
        track: whole.track.iter().map(|s| BundleItem { id: s.id.clone(), body: s.body.clone() }).collect(),
        practice: Some(whole.practice.clone()),
        left_out: left_out.clone(),
    };
    zip.start_file("bundle.json", text).map_err(|e| failed(&e))?;
    serde_json::to_writer_pretty(&mut zip, &bundle).map_err(|e| failed(&e))?;
    zip.start_file("bundle.schema.json", text).map_err(|e| failed(&e))?;
    zip.write_all(schema.as_bytes()).map_err(|e| failed(&e))?;
    zip.finish().map_err(|e| failed(&e))?;
    Ok(left_out)
}

type Files = BTreeMap<String, Vec<u8>>;

/// A picture as it leaves, with its files; none when one of them cannot be read.
fn files_of(
    picture: &Picture,
    keep_location: bool,
    read: &impl Fn(&str) -> Result<Vec<u8>, LedgerError>,
) -> Result<Option<(Picture, Files)>, BundleError> {
    let mut body = picture.clone();
    let mut files = Files::new();
    for r in picture.files() {
        match read(&r.hash) {
            Ok(bytes) => files.insert(r.hash.clone(), bytes),
            Err(LedgerError::BlobMissing { .. } | LedgerError::BlobDamaged { .. }) => return Ok(None),
            Err(e) => return Err(e.into()),
        };
    }
    if body.has_location && !keep_location {
        let original = files.remove(&picture.original.hash).unwrap_or_default();
        let clean = upright_only(&original, picture::orientation(&original))
            .ok_or_else(|| BundleError::Write(format!("location could not be taken out of {}", body.name)))?;
        let blob = Blob::new(&body.original.media, clean);
        body.original = blob.to_ref();
        body.has_location = false;
        files.insert(blob.hash, blob.bytes);
    }
    Ok(Some((body, files)))
}

/// A bundle that was opened and checked; its pictures are read one by one.
pub struct Opened<R> {
    /// The job with everything in it, ids in their usual spelling.
    pub bundle: Bundle,
    zip: zip::ZipArchive<R>,
    limits: BundleLimits,
    left: u64,
}

impl<R> std::fmt::Debug for Opened<R> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Opened").field("job", &self.bundle.job.id).finish_non_exhaustive()
    }
}

/// How many files the zip says it holds, from its last record: known before its directory is read into memory.
fn count(file: &mut (impl Read + Seek)) -> io::Result<Option<u16>> {
    /// The last record, and the longest comment after it.
    const TAIL: u64 = 22 + 0xFFFF;
    let size = file.seek(SeekFrom::End(0))?;
    file.seek(SeekFrom::Start(size.saturating_sub(TAIL)))?;
    let mut tail = Vec::new();
    file.take(TAIL).read_to_end(&mut tail)?;
    let at = tail.windows(4).rposition(|w| w == b"PK\x05\x06");
    Ok(at.and_then(|at| Some(u16::from_le_bytes([*tail.get(at + 10)?, *tail.get(at + 11)?]))))
}

/// Opens a bundle and checks all of it but the bytes of its pictures. Sizes are counted before anything is unpacked, and again
/// while it is: what a zip says of itself may be a lie.
///
/// # Errors
/// Everything that can be wrong with a file from elsewhere.
pub fn open<R: Read + Seek>(mut file: R, limits: BundleLimits) -> Result<Opened<R>, BundleError> {
    let said = count(&mut file).map_err(|_| BundleError::NotZip)?.ok_or(BundleError::NotZip)?;
    // 65,535 stands for "more than fits here": more than any bundle holds.
    if usize::from(said) > limits.files || said == u16::MAX {
        return Err(BundleError::TooBig);
    }
    let mut zip = zip::ZipArchive::new(file).map_err(|_| BundleError::NotZip)?;
    if zip.len() > limits.files {
        return Err(BundleError::TooBig);
    }
    let mut declared: u64 = 0;
    for i in 0..zip.len() {
        let entry = zip.by_index_raw(i).map_err(|_| BundleError::NotZip)?;
        let name = entry.name();
        if entry.enclosed_name().is_none() || name.contains(['\\', '\0']) {
            return Err(BundleError::Path(name.chars().take(80).collect()));
        }
        declared = declared.saturating_add(entry.size());
    }
    if declared > limits.all_bytes {
        return Err(BundleError::TooBig);
    }
    let json = read_entry(&mut zip, "bundle.json", limits.json_bytes)?.ok_or(BundleError::NoJob)?;
    let mut bundle = parse(&json)?;
    let left = limits.all_bytes.saturating_sub(json.len() as u64);
    check(&mut bundle)?;
    Ok(Opened { bundle, zip, limits, left })
}

fn read_entry<R: Read + Seek>(zip: &mut zip::ZipArchive<R>, name: &str, most: u64) -> Result<Option<Vec<u8>>, BundleError> {
    let mut entry = match zip.by_name(name) {
        Ok(entry) => entry,
        Err(zip::result::ZipError::FileNotFound) => return Ok(None),
        Err(_) => return Err(BundleError::NotZip),
    };
    if entry.size() > most {
        return Err(BundleError::TooBig);
    }
    let mut out = Vec::new();
    entry.by_ref().take(most + 1).read_to_end(&mut out).map_err(|_| BundleError::NotZip)?;
    if out.len() as u64 > most { Err(BundleError::TooBig) } else { Ok(Some(out)) }
}

impl<R: Read + Seek> Opened<R> {
    /// The picture files it names, each once.
    pub fn files(&self) -> Vec<BlobRef> {
        let mut seen = HashSet::new();
        self.bundle.pictures.iter().flat_map(|p| p.body.files()).filter(|r| seen.insert(r.hash.clone())).cloned().collect()
    }

    /// The bytes of one of them, checked against its name.
    ///
    /// # Errors
    /// When it is missing, not what its name says, or larger than is allowed.
    pub fn file(&mut self, r: &BlobRef) -> Result<Blob, BundleError> {
        let short: String = r.hash.chars().take(16).collect();
        let most = self.limits.file_bytes.min(self.left);
        let bytes = read_entry(&mut self.zip, &format!("pictures/{}", r.hash), most)?.ok_or_else(|| BundleError::Missing(short.clone()))?;
        self.left -= bytes.len() as u64;
        let blob = Blob::new(&r.media, bytes);
        if blob.hash == r.hash { Ok(blob) } else { Err(BundleError::WrongHash(short)) }
    }
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

/// An id in its usual spelling, so that it is found again by whoever asks for it.
fn usual(id: &mut String) -> Result<(), BundleError> {
    let parsed =
        Uuid::parse_str(id).map_err(|_| BundleError::Content(format!("\"{}\" is not an id", id.chars().take(60).collect::<String>())))?;
    *id = parsed.to_string();
    Ok(())
}

/// What must hold between the parts; each part by itself is checked where it is kept.
fn check(b: &mut Bundle) -> Result<(), BundleError> {
    usual(&mut b.job.id)?;
    b.notes.iter_mut().try_for_each(|n| usual(&mut n.id))?;
    b.items.iter_mut().try_for_each(|i| usual(&mut i.id))?;
    b.pictures.iter_mut().try_for_each(|p| usual(&mut p.id))?;
    b.pictures.iter_mut().filter_map(|p| p.body.note_id.as_mut()).try_for_each(usual)?;
    let mut ids = HashSet::new();
    let all = b
        .notes
        .iter()
        .map(|n| ("a note", &n.id))
        .chain(b.items.iter().map(|i| ("an item", &i.id)))
        .chain(b.pictures.iter().map(|p| ("a picture", &p.id)));
    for (what, id) in all {
        if !ids.insert((what, id)) {
            return Err(BundleError::Twice(format!("{what} ({id})")));
        }
    }
    let mut cells = HashSet::new();
    if let Some(m) = b.marks.iter().find(|m| !cells.insert(m.body.cell)) {
        return Err(BundleError::Twice(format!("the mark on {}", m.body.cell.words())));
    }
    for p in &b.pictures {
        if p.body.note_id.as_ref().is_some_and(|note| !ids.contains(&("a note", note))) {
            return Err(BundleError::Content(format!("picture {} belongs to a note that is not in it", p.id)));
        }
    }
    Ok(())
}
