//! A post office: takes a letter with a file and keeps what was "sent". Nothing leaves the machine.

use lettre::Message;
use lettre::message::header::ContentType;
use lettre::message::{Attachment, Mailbox, MultiPart, SinglePart};
use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};

/// A letter with one file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Letter {
    /// The address it goes to.
    pub to: String,
    /// Its subject.
    pub subject: String,
    /// Its text.
    pub text: String,
    /// What the file is called.
    pub name: String,
    /// The file.
    pub file: Vec<u8>,
    /// What kind of file.
    pub media: String,
}

/// Why a letter is not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PostError {
    /// No address.
    #[error("\u{201c}{0}\u{201d} is no address for a letter. Write it as name@place.")]
    Address(String),
    /// The office did not take it.
    #[error("The post office did not take it: {0}. Nothing was sent; try again.")]
    NotTaken(String),
}

/// Sends letters.
pub trait PostOffice: Send + Sync {
    /// Takes a letter.
    ///
    /// # Errors
    /// [`PostError`]; nothing was sent then.
    fn send(&self, letter: &Letter) -> Result<(), PostError>;
}

/// A post office that puts every letter into a folder as an open mail file (RFC 5322), or keeps it in memory when it has none. Addresses
/// that begin with "nobody@" come back, as they do.
#[derive(Debug, Default)]
pub struct SimulatedPost {
    folder: Option<PathBuf>,
    kept: Mutex<Vec<Vec<u8>>>,
}

impl SimulatedPost {
    /// Keeps letters in a folder, which is made when the first comes.
    pub fn at(folder: PathBuf) -> SimulatedPost {
        SimulatedPost { folder: Some(folder), kept: Mutex::default() }
    }
    /// What was sent while there was no folder, as mail files.
    pub fn kept(&self) -> Vec<Vec<u8>> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }
}

fn mail(letter: &Letter) -> Result<Message, PostError> {
    let to: Mailbox = letter.to.trim().parse().map_err(|_| PostError::Address(letter.to.clone()))?;
    let from: Mailbox = "Trowel <out@trowel.invalid>".parse().map_err(|_| PostError::NotTaken("no sender".into()))?;
    let not_taken = |e: &dyn std::fmt::Display| PostError::NotTaken(e.to_string());
    let media = ContentType::parse(&letter.media).map_err(|e| not_taken(&e))?;
    let parts = MultiPart::mixed()
        .singlepart(SinglePart::plain(letter.text.clone()))
        .singlepart(Attachment::new(letter.name.clone()).body(letter.file.clone(), media));
    // A line end in a subject would begin a header of its own.
    let subject = letter.subject.replace(['\r', '\n'], " ");
    Message::builder().from(from).to(to).subject(subject).multipart(parts).map_err(|e| not_taken(&e))
}

impl PostOffice for SimulatedPost {
    fn send(&self, letter: &Letter) -> Result<(), PostError> {
        let bytes = mail(letter)?.formatted();
        if letter.to.trim().to_lowercase().starts_with("nobody@") {
            return Err(PostError::NotTaken("nobody lives there".into()));
        }
        let Some(folder) = &self.folder else {
            self.kept.lock().unwrap_or_else(PoisonError::into_inner).push(bytes);
            return Ok(());
        };
        let not_taken = |e: std::io::Error| PostError::NotTaken(e.to_string());
        std::fs::create_dir_all(folder).map_err(not_taken)?;
        // The next free number; two letters at once do not get the same one.
        for n in 1..1_000_000 {
            let path = folder.join(format!("{n:05}.eml"));
            match std::fs::OpenOptions::new().write(true).create_new(true).open(path) {
                Ok(mut file) => return std::io::Write::write_all(&mut file, &bytes).map_err(not_taken),
                Err(e) if e.kind() == std::io::ErrorKind::AlreadyExists => {}
                Err(e) => return Err(not_taken(e)),
            }
        }
        Err(PostError::NotTaken("the office is full".into()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn letter(to: &str, subject: &str) -> Letter {
        Letter {
            to: to.into(),
            subject: subject.into(),
            text: "Enclosed.".into(),
            name: "report.pdf".into(),
            file: b"%PDF-1.7".to_vec(),
            media: "application/pdf".into(),
        }
    }

    #[test]
    fn a_letter_is_kept_with_its_file_and_a_subject_makes_no_header() {
        let post = SimulatedPost::default();
        post.send(&letter("owner@clinic.example", "Report\r\nBcc: other@place.example")).unwrap();
        let text = String::from_utf8(post.kept().remove(0)).unwrap();
        assert!(text.contains("To: owner@clinic.example") && text.contains("report.pdf"));
        assert!(!text.lines().any(|l| l.starts_with("Bcc")), "{text}");
    }

    #[test]
    fn no_address_and_nobody_are_said_and_nothing_is_kept() {
        let post = SimulatedPost::default();
        assert!(matches!(post.send(&letter("the owner", "x")), Err(PostError::Address(_))));
        assert!(matches!(post.send(&letter("nobody@clinic.example", "x")), Err(PostError::NotTaken(_))));
        assert!(post.kept().is_empty());
    }

    #[test]
    fn every_letter_has_its_own_file() {
        let folder = tempfile::tempdir().unwrap();
        let post = SimulatedPost::at(folder.path().join("post"));
        for _ in 0..3 {
            post.send(&letter("a@b.example", "x")).unwrap();
        }
        assert_eq!(std::fs::read_dir(folder.path().join("post")).unwrap().count(), 3);
    }
}
