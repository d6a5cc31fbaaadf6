//! The statistical reader of talk: which condition a stretch of talk speaks of, and how sure that is.
//!
//! A linear model over words, pairs of words, pieces of words, groups of words that say much the same, what the rules found (parts, set
//! phrases, praise, denial) and what was said before. It is trained offline, from sentences of our own and from walks
//! (`cargo xtask learn`); the weights are data. It does not replace the rules: they read places, measures, kinds and corrections, and
//! what they find is among what the model weighs.
//!
//! A sentence is read once (`said`); each of its stretches is a range of what was found in it (`features`), and is weighed as the
//! difference of two sums (`model`).

mod features;
mod model;
mod said;

use crate::round::vocabulary::vocabulary;
use features::bucket;
pub use features::{BUCKETS, Heard, TIED, Tied};
use model::Weighing;
pub use model::{DamagedWeights, Model, STEP, soften};
pub use said::Said;
use said::{Nowhere, behind, is_ended};
use std::ops::Range;

/// The classes of the model: every condition by index, and behind them *no finding*.
pub fn classes() -> usize {
    vocabulary().conditions.len() + 1
}

/// The id of a class; none for *no finding*.
pub fn class_id(class: usize) -> Option<&'static str> {
    vocabulary().conditions.get(class).map(|c| c.id.as_str())
}

/// The class of a condition.
pub fn class_of(id: &str) -> Option<usize> {
    vocabulary().conditions.iter().position(|c| c.id == id)
}

/// What was said just before a stretch of talk, as it weighs on it.
#[derive(Debug, Clone, Default)]
pub struct Before {
    text: String,
    /// Its words; they weigh by themselves, apart from what is said now.
    features: Vec<u32>,
    /// The parts it names, or where it names none those that were named last.
    parts: Vec<usize>,
    /// So many sentences ago.
    since: usize,
}

/// A part that was named stays in mind for so many sentences more that name none.
pub(in crate::round) const IN_MIND: usize = 3;
/// So many words of what was said before are remembered while a sentence has not ended.
pub(in crate::round) const REMEMBERED: usize = 15;

impl Before {
    /// What a text is to what is said behind it.
    pub fn of(text: &str) -> Before {
        reading("", text, |said| Before::of_words(said, &said.sentence()))
    }

    fn of_words(said: &Said<'_>, words: &Range<usize>) -> Before {
        let atoms = &said.atoms[said.atoms_in(words)];
        Before {
            text: said.text(words).to_owned(),
            features: atoms.iter().filter(|a| !a.small).map(|a| bucket('q', &a.stem)).collect(),
            parts: said.sights(words).parts,
            since: 0,
        }
    }

    /// The same for what is said behind the sentence that follows: the last sentence, or the end of a run of captions that no full stop
    /// ends, and the part in mind.
    pub(in crate::round) fn then(&self, said: &Said<'_>) -> Before {
        let whole = !said.goes_on() || is_ended(said.text(&said.sentence()));
        let now = Before::of_words(said, &if whole { said.sentence() } else { said.last(REMEMBERED) });
        if now.parts.is_empty() && self.since < IN_MIND { Before { parts: self.parts.clone(), since: self.since + 1, ..now } } else { now }
    }

    /// The words.
    pub fn text(&self) -> &str {
        &self.text
    }
}

/// Reads a sentence with what was said before it, and lets it be looked at.
pub fn reading<R>(before: &str, sentence: &str, look: impl FnOnce(&Said<'_>) -> R) -> R {
    let (nowhere, (text, own)) = (Nowhere::new(), behind(before, sentence));
    look(&Said::new(&text, own, &nowhere))
}

/// What a text shows, with what was said just before it.
pub fn hear(text: &str, before: &Before) -> Heard {
    reading("", text, |said| said.heard(&said.sentence(), before))
}

impl Model {
    /// The chance that these words tell this condition.
    pub fn chance(&self, text: &str, before: &Before, condition: &str) -> f64 {
        class_of(condition).map_or(0.0, |class| self.chances(&hear(text, before))[class])
    }
}

/// What may be a finding in a sentence.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// The condition, by class.
    pub class: usize,
    /// How likely it is.
    pub p: f64,
    /// The stretch that speaks for it most.
    pub text: String,
    /// It begins in what was said before.
    pub across: bool,
}

/// What is put together from the ends of two captions is so much less sure. This and the share below were chosen by what walks left out of
/// the training gave (`cargo xtask learn --measure`), among few.
const ACROSS: f64 = 0.6;
/// Two proposals that share more of the shorter one's words than this speak of one thing.
const SAME_WORDS: f64 = 0.4;

/// What a sentence may tell, surest first. A condition is proposed once; what overlaps a surer proposal and only it speaks for is left out.
pub fn propose(model: &Model, sentence: &str, before: &Before, least: f64) -> Vec<Proposal> {
    reading(&before.text, sentence, |said| propose_of(model, said, before, least))
}

/// The same of a sentence that was read.
pub(in crate::round) fn propose_of(model: &Model, said: &Said<'_>, before: &Before, least: f64) -> Vec<Proposal> {
    let own = said.sentence();
    if own.is_empty() {
        return vec![];
    }
    let mut weighing = Weighing::new(model, said, before);
    let mut found: Vec<(usize, f64, Range<usize>)> = vec![];
    for words in said.stretches() {
        let share = if words.start < own.start { ACROSS } else { 1.0 };
        let Some(chances) = weighing.chances(&words, least / share) else { continue };
        for (class, p) in chances.iter().map(|p| p * share).enumerate().take(classes() - 1).filter(|(_, p)| *p >= least) {
            match found.iter_mut().find(|f| f.0 == class) {
                Some(f) if f.1 < p => *f = (class, p, words.clone()),
                Some(_) => {}
                None => found.push((class, p, words.clone())),
            }
        }
    }
    found.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
    // Two conditions on the same words: the surer one stands.
    let stems = |words: &Range<usize>, small: bool| {
        let mut all: Vec<&str> = said.atoms[said.atoms_in(words)].iter().filter(|a| small || !a.small).map(|a| a.stem.as_str()).collect();
        all.sort_unstable();
        all.dedup();
        all
    };
    let mut out: Vec<(usize, f64, Range<usize>)> = vec![];
    for f in found {
        let mine = stems(&f.2, false);
        let shared = out.iter().any(|o| {
            let theirs = stems(&o.2, true);
            let both = mine.iter().filter(|w| theirs.binary_search(w).is_ok()).count();
            both as f64 > SAME_WORDS * mine.len().min(theirs.len().max(1)) as f64
        });
        if !shared {
            out.push(f);
        }
    }
    out.into_iter()
        .map(|(class, p, words)| Proposal { class, p, text: said.text(&words).to_owned(), across: words.start < own.start })
        .collect()
}

#[cfg(test)]
mod tests;
