//! What was said or typed on the walk.

mod line;
mod note;
mod vocabulary;

pub use line::{Candidate, Context, Fragment, FragmentKind, ReadNote, Reading, read};
pub use note::{Certainty, Extent, Note, NoteError, NoteKind};
pub use vocabulary::{Component, Vocabulary, vocabulary};
