//! What the weights make of each sentence of a walk, with what was said before it.

use super::MAYBE_FROM;
use crate::cores::both;
use crate::round::Sentence;
use crate::round::line::talk::{self, Before, Model};

/// What the weights make of a sentence, and what was said just before it.
pub(super) struct Proposed {
    pub(super) before: Before,
    pub(super) proposals: Vec<talk::Proposal>,
}

/// What the weights make of every sentence: that needs nothing but the words, so half of them is left to a second core.
pub(super) fn proposals(model: &Model, sentences: &[Sentence]) -> Vec<Proposed> {
    let all: Vec<(&Sentence, Before)> = sentences.iter().zip(before_each(sentences)).collect();
    let read = |part: &[(&Sentence, Before)]| -> Vec<Proposed> {
        let of = |(s, before): &(&Sentence, Before)| Proposed {
            before: before.clone(),
            proposals: talk::propose(model, &s.text, before, MAYBE_FROM),
        };
        part.iter().map(of).collect()
    };
    let (first, second) = all.split_at(all.len() / 2);
    let (mut out, rest) = both(|| read(first), || read(second));
    out.extend(rest);
    out
}

/// What was said before each sentence.
pub fn before_each(sentences: &[Sentence]) -> Vec<Before> {
    /// Longer ago, and it is another thought.
    const SAME_BREATH_S: f64 = 20.0;
    let (mut said, mut then) = (Before::default(), None);
    let before = |s: &Sentence| {
        if matches!((then, s.t_s), (Some(then), Some(now)) if now - then > SAME_BREATH_S) {
            said = Before::default();
        }
        then = s.t_s;
        let now = said.then(&s.text);
        std::mem::replace(&mut said, now)
    };
    sentences.iter().map(before).collect()
}
