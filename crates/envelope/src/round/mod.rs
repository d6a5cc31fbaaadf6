//! What was said or typed on the walk.

mod line;
mod note;
mod picture_mark;
mod sorting;
mod transcript;
mod vocabulary;
mod walk;

pub use line::{Candidate, Context, Correction, Fragment, FragmentKind, ReadNote, Reading, read};
pub use note::{Certainty, Extent, Note, NoteError, NoteKind};
pub use picture_mark::{MOST_MARKS, PictureMark, Shape};
pub use sorting::{Proposal, propose};
pub use transcript::{LARGEST_TRANSCRIPT, Sentence, TranscriptError, decode, sentences};
pub use vocabulary::{Component, OwnWord, Vocabulary, vocabulary};
pub use walk::{Walk, WalkInput, WalkNote, read_walk};
