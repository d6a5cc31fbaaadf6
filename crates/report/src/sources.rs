//! Where the typesetter takes pictures from.

/// Where picture bytes come from.
pub trait PictureSource: Sync {
    /// The bytes with this hash, if they can be read.
    fn bytes(&self, hash: &str) -> Option<Vec<u8>>;
}

impl PictureSource for ledger::Ledger {
    fn bytes(&self, hash: &str) -> Option<Vec<u8>> {
        self.blob(hash).ok()
    }
}
