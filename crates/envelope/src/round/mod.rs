//! What was said or typed on the walk.

mod entry;
mod line;
mod note;
mod picture_mark;
mod sorting;
mod timed_text;
pub mod track;
mod vocabulary;
mod walk;
mod wanted;

pub use entry::{Before, Elsewhere, Entered, Entry, EntryError, enter};
pub use line::{Candidate, Context, Correction, Fragment, FragmentKind, ReadNote, Reading, read};
pub use note::{Certainty, Extent, Note, NoteError, NoteKind};
pub use picture_mark::{MOST_MARKS, PictureMark, Shape};
pub use sorting::{Proposal, propose};
pub use timed_text::{LARGEST_WALK_FILE, Sentence, WalkFileError, decode, sentences};
pub use vocabulary::{Component, OwnWord, Vocabulary, vocabulary};
pub use walk::{USUALLY_SURE, Walk, WalkInput, WalkNote, read_walk};
pub use wanted::{Range, Wanted, wanted};

/// What the program that trains the reader of talk needs; nobody else.
pub mod learning {
    pub use super::line::talk::{
        BUCKETS, Before, DamagedWeights, Heard, Model, Proposal, STEP, Said, TIED, Tied, class_id, class_of, classes, hear, propose,
        reading, soften,
    };
    pub use super::timed_text::sentences;
    pub use super::walk::{before_each, read_walk_by};

    /// Whether each condition, by class, says that something is right.
    pub fn goods() -> Vec<bool> {
        super::vocabulary::vocabulary().conditions.iter().map(|c| c.good).collect()
    }
}
