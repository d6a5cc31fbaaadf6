//! What was said or typed on the walk.

mod entry;
mod line;
mod note;
mod picture_mark;
mod sorting;
mod timed_text;
mod vocabulary;
mod walk;
mod wanted;

pub use entry::{Before, Entered, Entry, EntryError, enter};
pub use line::{Candidate, Context, Correction, Fragment, FragmentKind, ReadNote, Reading, read};
pub use note::{Certainty, Extent, Note, NoteError, NoteKind};
pub use picture_mark::{MOST_MARKS, PictureMark, Shape};
pub use sorting::{Proposal, propose};
pub use timed_text::{LARGEST_WALK_FILE, Sentence, WalkFileError, decode, sentences};
pub use vocabulary::{Component, OwnWord, Vocabulary, vocabulary};
pub use walk::{Walk, WalkInput, WalkNote, read_walk};
pub use wanted::{Range, Wanted, wanted};
