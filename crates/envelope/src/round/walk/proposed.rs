//! What the weights make of each sentence of a walk, with what was said before it.

use super::MAYBE_FROM;
use crate::cores::both;
use crate::round::Sentence;
use crate::round::line::talk::{self, Before, IN_MIND, Model, Proposal, REMEMBERED, Said};
use std::ops::Range;

/// What the weights make of a sentence, and what was said just before it.
pub(super) struct Proposed {
    pub(super) before: Before,
    pub(super) proposals: Vec<Proposal>,
}

/// What the weights make of every sentence. That needs nothing but the words and what was said just before, so half of the sentences is
/// left to a second core.
pub(super) fn proposals(model: &Model, sentences: &[Sentence]) -> Vec<Proposed> {
    let half = sentences.len() / 2;
    let (mut out, rest) = both(|| proposals_of(model, sentences, 0..half), || proposals_of(model, sentences, half..sentences.len()));
    out.extend(rest);
    out
}

/// Nothing that was said longer ago than so many sentences weighs: each has a word at least.
const FORGOTTEN: usize = REMEMBERED + IN_MIND + 1;

fn proposals_of(model: &Model, sentences: &[Sentence], part: Range<usize>) -> Vec<Proposed> {
    let begin = part.start.saturating_sub(FORGOTTEN);
    let mut out = Vec::with_capacity(part.len());
    in_turn(&sentences[begin..part.end], |i, said, before| {
        if begin + i >= part.start {
            out.push(Proposed { proposals: talk::propose_of(model, said, &before, MAYBE_FROM), before });
        }
    });
    out
}

/// What was said before each sentence.
pub fn before_each(sentences: &[Sentence]) -> Vec<Before> {
    let mut out = vec![];
    in_turn(sentences, |_, _, before| out.push(before));
    out
}

/// Each sentence with what was said just before it.
fn in_turn(sentences: &[Sentence], mut look: impl FnMut(usize, &Said<'_>, Before)) {
    /// Longer ago, and it is another thought.
    const SAME_BREATH_S: f64 = 20.0;
    let (mut before, mut then) = (Before::default(), None);
    for (i, s) in sentences.iter().enumerate() {
        if matches!((then, s.t_s), (Some(then), Some(now)) if now - then > SAME_BREATH_S) {
            before = Before::default();
        }
        then = s.t_s;
        let now = before.text().to_owned();
        before = talk::reading(&now, &s.text, |said| {
            let next = before.then(said);
            look(i, said, before);
            next
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// Where a walk is divided between the cores changes nothing.
        #[test]
        fn each_part_is_heard_as_in_the_whole(walk in proptest::collection::vec("(the gutter |it |is loose |here |and the chimney |has no cap |rain ){1,5}[.]?", 2..40), at in 0usize..40) {
            let sentences: Vec<Sentence> = walk.into_iter().map(|text| Sentence { t_s: None, text }).collect();
            let (n, at) = (sentences.len(), at % sentences.len());
            let of = |part| proposals_of(Model::shipped(), &sentences, part);
            let (whole, parts) = (of(0..n), [of(0..at), of(at..n)].into_iter().flatten().collect::<Vec<_>>());
            prop_assert_eq!((whole.len(), parts.len()), (n, n));
            for (a, b) in whole.iter().zip(&parts) {
                prop_assert_eq!(&a.proposals, &b.proposals);
                prop_assert_eq!(a.before.text(), b.before.text());
            }
        }
    }
}
