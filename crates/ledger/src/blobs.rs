//! The picture folder: files named by the hash of their bytes.

use crate::LedgerError;
use sha2::{Digest, Sha256};
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};

/// Bytes to be kept, with their hash.
#[derive(Debug, Clone)]
pub struct Blob {
    /// SHA-256 in hexadecimal.
    pub hash: String,
    /// "image/jpeg" and so on.
    pub media: String,
    /// The bytes.
    pub bytes: Vec<u8>,
}

impl Blob {
    /// Bytes of a media type.
    pub fn new(media: &str, bytes: Vec<u8>) -> Blob {
        Blob { hash: hash(&bytes), media: media.to_owned(), bytes }
    }
    /// How an entity refers to it.
    pub fn to_ref(&self) -> crate::BlobRef {
        crate::BlobRef { hash: self.hash.clone(), media: self.media.clone(), bytes: self.bytes.len() as u64 }
    }
}

pub(crate) fn hash(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

/// The folder.
#[derive(Debug, Clone)]
pub(crate) struct Folder(PathBuf);

impl Folder {
    /// The folder below a data folder; it is made with the first file.
    pub(crate) fn at(root: &Path) -> Folder {
        Folder(root.join("pictures"))
    }

    pub(crate) fn path(&self, hash: &str) -> PathBuf {
        self.0.join(hash.get(..2).unwrap_or("__")).join(hash)
    }

    /// Writes the bytes if they are not there yet; they are on disk, name and all, when this returns.
    pub(crate) fn put(&self, blob: &Blob) -> Result<(), LedgerError> {
        let path = self.path(&blob.hash);
        if path.exists() && self.get(&blob.hash).is_ok() {
            return Ok(());
        }
        let folder = path.parent().expect("a blob lies in a folder");
        fs::create_dir_all(folder)?;
        let mut file = tempfile::NamedTempFile::new_in(folder)?;
        file.write_all(&blob.bytes)?;
        file.as_file().sync_all()?;
        file.persist(&path).map_err(|e| LedgerError::from(e.error))?;
        File::open(folder)?.sync_all()?;
        Ok(())
    }

    /// Takes a file away; one that is not there is no fault.
    pub(crate) fn remove(&self, hash: &str) -> Result<(), LedgerError> {
        match fs::remove_file(self.path(hash)) {
            Err(e) if e.kind() != std::io::ErrorKind::NotFound => Err(e.into()),
            _ => Ok(()),
        }
    }

    /// The names of all files that lie in the folder.
    pub(crate) fn names(&self) -> Result<Vec<String>, LedgerError> {
        let mut out = Vec::new();
        if !self.0.is_dir() {
            return Ok(out);
        }
        for folder in fs::read_dir(&self.0)? {
            let folder = folder?.path();
            if folder.is_dir() {
                for file in fs::read_dir(&folder)? {
                    out.push(file?.file_name().to_string_lossy().into_owned());
                }
            }
        }
        out.sort();
        Ok(out)
    }

    /// Reads the bytes and checks that they are what was stored.
    pub(crate) fn get(&self, hash_: &str) -> Result<Vec<u8>, LedgerError> {
        let bytes = match fs::read(self.path(hash_)) {
            Ok(bytes) => bytes,
            Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Err(LedgerError::BlobMissing { hash: hash_.to_owned() }),
            Err(e) => return Err(e.into()),
        };
        if hash(&bytes) == hash_ { Ok(bytes) } else { Err(LedgerError::BlobDamaged { hash: hash_.to_owned() }) }
    }
}
