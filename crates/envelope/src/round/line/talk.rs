//! The statistical reader of talk: which condition a stretch of talk speaks of, and how sure that is.
//!
//! A linear model over words, pairs of words, pieces of words, groups of words that say much the same, what the rules found (parts, set
//! phrases, praise, denial) and what was said before. It is trained offline, from sentences of our own and from walks
//! (`cargo xtask learn`); the weights are data. It does not replace the rules: they read places, measures, kinds and corrections, and
//! what they find is among what the model weighs.

use super::reader::Reader;
use super::{Context, Memory};
use crate::round::vocabulary::{Cue, Sense, Vocabulary, stem, vocabulary};
use crate::site::{Face, Place, Zone};
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// Features share so many places.
pub const BUCKETS: usize = 1 << 18;
/// How many features speak of a condition and the words together, the same for all conditions.
pub const TIED: usize = 20;

/// One stretch of talk as the model sees it.
#[derive(Debug, Clone, Default)]
pub struct Heard {
    /// Features that are there, by bucket; each once.
    pub features: Vec<u32>,
    /// For each condition that something speaks for by name: its tied features. What holds for all others is in `rest`.
    pub tied: Vec<(usize, [f64; TIED])>,
    /// Tied features of a good condition nothing speaks for, and of any other.
    pub rest: [[f64; TIED]; 2],
}

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

/// FNV-1a: small, and the same on every machine.
fn hashed(kind: char, bytes: impl Iterator<Item = u8>) -> u32 {
    let mut h: u32 = 0x811c_9dc5;
    for b in std::iter::once(kind as u8).chain(bytes) {
        h = (h ^ u32::from(b)).wrapping_mul(0x0100_0193);
    }
    (h ^ (h >> 15)) & (BUCKETS as u32 - 1)
}

fn bucket(kind: char, text: &str) -> u32 {
    hashed(kind, text.bytes())
}

/// Of two things together, with a blank between them.
fn bucket_of(kind: char, a: &str, b: &str) -> u32 {
    hashed(kind, a.bytes().chain(std::iter::once(b' ')).chain(b.bytes()))
}

/// Words that join others and say nothing themselves.
const SMALL: [&str; 34] = [
    "the", "a", "an", "of", "to", "in", "on", "at", "it", "is", "s", "and", "that", "this", "there", "here", "i", "you", "we", "they",
    "so", "just", "for", "with", "by", "be", "been", "has", "have", "are", "was", "ve", "re", "ll",
];

struct Concepts {
    /// Groups by the words they begin with: the rest of the words, and the group.
    by_first: FxHashMap<String, Vec<(Vec<String>, String)>>,
}

fn concepts() -> &'static Concepts {
    static ALL: OnceLock<Concepts> = OnceLock::new();
    ALL.get_or_init(|| {
        let mut by_first: FxHashMap<String, Vec<(Vec<String>, String)>> = FxHashMap::default();
        for line in include_str!("../../../talk/concepts.txt").lines().filter(|l| !l.starts_with('#')) {
            let Some((name, words)) = line.split_once(':') else { continue };
            for w in words.split(',') {
                let mut stems = words_of(w).into_iter();
                if let Some(first) = stems.next() {
                    by_first.entry(first).or_default().push((stems.collect(), name.trim().to_owned()));
                }
            }
        }
        Concepts { by_first }
    })
}

fn words_of(text: &str) -> Vec<String> {
    text.to_lowercase()
        .replace(['\u{2019}', '\''], "'")
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty())
        .map(|w| if w.chars().all(|c| c.is_ascii_digit()) { "#".to_owned() } else { stem(w) })
        .collect()
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
const IN_MIND: usize = 3;

impl Before {
    /// What a text is to what is said behind it.
    pub fn of(text: &str) -> Before {
        let words = words_of(text);
        if words.is_empty() {
            return Before { text: text.to_owned(), ..Before::default() };
        }
        let (context, memory) = (Context::at(Place::outside(Face::Front, Zone::Base), None), Memory::default());
        let reader = Reader::new(text, &context, Some(&memory));
        Before {
            text: text.to_owned(),
            features: words.iter().filter(|w| !SMALL.contains(&w.as_str())).map(|w| bucket('q', w)).collect(),
            parts: reader.parts(None).iter().filter_map(|m| if let Sense::Component(c) = m.sense { Some(c) } else { None }).collect(),
            since: 0,
        }
    }

    /// The same for what is said behind the sentence that follows: the last sentence, or the end of a run of captions that no full stop
    /// ends, and the part in mind.
    pub fn then(&self, sentence: &str) -> Before {
        let now = Before::of(&said_before(&self.text, sentence));
        if now.parts.is_empty() && self.since < IN_MIND { Before { parts: self.parts.clone(), since: self.since + 1, ..now } } else { now }
    }

    /// What lasts of it through a sentence: the part, not the words.
    pub fn topic(&self) -> Before {
        Before { parts: self.parts.clone(), ..Before::default() }
    }

    /// The words.
    pub fn text(&self) -> &str {
        &self.text
    }
}

/// What a stretch of talk shows, with what was said just before it.
pub fn hear(text: &str, before: &Before) -> Heard {
    let v = vocabulary();
    let context = Context::at(Place::outside(Face::Front, Zone::Base), None);
    let memory = Memory::default();
    let reader = Reader::new(text, &context, Some(&memory));
    let words = words_of(text);
    // Each counts once, however often it is there: sorted and made single at the end.
    let mut f: Vec<u32> = Vec::with_capacity(32 * words.len());
    let content: Vec<&String> = words.iter().filter(|w| !SMALL.contains(&w.as_str())).collect();
    for w in &words {
        f.push(bucket('w', w));
        if w.len() >= 5 {
            let marked = format!("<{w}>");
            let ends: Vec<usize> = marked.char_indices().map(|(at, _)| at).chain([marked.len()]).collect();
            for piece in ends.windows(5) {
                f.push(bucket('c', &marked[piece[0]..piece[4]]));
            }
        }
    }
    for p in words.windows(2) {
        f.push(bucket_of('b', &p[0], &p[1]));
    }
    for (i, a) in content.iter().enumerate() {
        for b in content.iter().skip(i + 1).take(4) {
            let (x, y) = if a <= b { (a, b) } else { (b, a) };
            f.push(bucket_of('p', x, y));
        }
    }
    // Groups of words that say much the same, and the parts that are named: what is wrong, and with what.
    let mut groups: Vec<&str> = vec![];
    for i in 0..words.len() {
        for (rest, name) in concepts().by_first.get(&words[i]).into_iter().flatten() {
            if words[i + 1..].starts_with(rest) && !groups.contains(&name.as_str()) {
                groups.push(name);
            }
        }
    }
    let parts: Vec<usize> = reader
        .parts(None)
        .iter()
        .filter_map(|m| if let Sense::Component(c) = m.sense { Some(c) } else { None })
        .collect::<std::collections::BTreeSet<_>>()
        .into_iter()
        .collect();
    let keys: Vec<&str> = parts.iter().map(|c| v.components()[*c].key.as_str()).collect();
    for (i, g) in groups.iter().enumerate() {
        f.push(bucket('g', g));
        for h in groups.iter().skip(i + 1) {
            let (x, y) = if g <= h { (g, h) } else { (h, g) };
            f.push(bucket_of('h', x, y));
        }
        for k in &keys {
            f.push(bucket_of('k', g, k));
        }
    }
    for k in &keys {
        f.push(bucket('m', k));
    }
    let praised = reader.matches.iter().any(|m| m.sense == Sense::Praise) || groups.contains(&"good");
    let denies = groups.contains(&"deny");
    f.push(bucket(
        'x',
        match words.len() {
            0..=3 => "short",
            4..=8 => "middle",
            9..=16 => "long",
            _ => "longer",
        },
    ));
    for (is, name) in [
        (praised, "praise"),
        (denies, "deny"),
        (text.contains('?'), "asks"),
        (keys.is_empty(), "no part"),
        (!reader.measures.is_empty(), "measured"),
        (reader.asides.contains(&Cue::Elsewhere), "elsewhere"),
        (reader.asides.contains(&Cue::General), "in general"),
        (reader.asides.contains(&Cue::Conditional), "if"),
        (reader.asides.contains(&Cue::Pointing), "points"),
    ] {
        if is {
            f.push(bucket('x', name));
        }
    }
    f.extend(&before.features);
    for c in &before.parts {
        f.push(bucket('n', &v.components()[*c].key));
        f.extend(groups.iter().map(|g| bucket_of('j', g, &v.components()[*c].key)));
    }
    f.sort_unstable();
    f.dedup();
    Heard { features: f, ..tied(v, &reader, &parts, &before.parts, praised, denies) }
}

/// What speaks for conditions by name.
fn tied(v: &Vocabulary, reader: &Reader<'_>, parts: &[usize], before: &[usize], praised: bool, denies: bool) -> Heard {
    let mut spoken: BTreeMap<usize, [f64; TIED]> = BTreeMap::new();
    let base = |good: bool| {
        let mut t = [0.0; TIED];
        t[0] = 1.0;
        t[usize::from(good) + 1] = 1.0;
        t[if good { 3 } else { 4 }] = f64::from(u8::from(praised));
        t[if good { 5 } else { 6 }] = f64::from(u8::from(denies));
        t[7] = f64::from(u8::from(!parts.is_empty()));
        t
    };
    for (c, k) in v.conditions.iter().enumerate() {
        let named = k.components.iter().filter(|x| parts.contains(x)).count();
        let remembered = k.components.iter().any(|x| before.contains(x));
        if named == 0 && !remembered {
            continue;
        }
        let t = spoken.entry(c).or_insert_with(|| base(k.good));
        t[8] = f64::from(u8::from(named > 0));
        t[9] = f64::from(u8::from(named > 1));
        t[10] = f64::from(u8::from(named == 0 && remembered));
        t[11] = if named > 0 { 1.0 / parts.len() as f64 } else { 0.0 };
    }
    for m in &reader.matches {
        let (c, at, weight) = match m.sense {
            Sense::Alone(c) => (c, 12, 1.0),
            Sense::Phrase(c) if m.len > 1 => (c, 13, 1.0),
            Sense::Phrase(c) => (c, 14, 1.0),
            Sense::State(c) => (c, 15, 1.0),
            _ => continue,
        };
        let denied = reader.denied(m);
        let k = &v.conditions[c];
        let t = spoken.entry(c).or_insert_with(|| base(k.good));
        if denied && !k.good {
            t[16] = 1.0;
            for r in &k.right {
                spoken.entry(*r).or_insert_with(|| base(true))[17] = 1.0;
            }
        } else {
            t[at] = (t[at] + weight).min(2.0);
            if at == 15 && k.components.iter().any(|x| parts.contains(x)) {
                t[18] = 1.0;
            }
            if (at == 13 || at == 14) && k.components.iter().any(|x| parts.contains(x)) {
                t[19] = 1.0;
            }
        }
    }
    Heard { features: vec![], tied: spoken.into_iter().collect(), rest: [base(true), base(false)] }
}

/// The trained weights.
#[derive(Debug, Clone)]
pub struct Model {
    /// One for each class.
    pub bias: Vec<f32>,
    /// For what is the same for all conditions.
    pub tied: [f32; TIED],
    /// Classes and weights in steps, bucket after bucket: as small as they are kept, because looking them up takes the time.
    rows: Vec<(u8, i8)>,
    /// Where the rows of each bucket begin, and behind the last where they end.
    begins: Vec<u32>,
    /// The chances are sharpened or softened by this so that they are met.
    pub temper: f32,
}

/// Why weights cannot be read.
#[derive(Debug, thiserror::Error)]
#[error("the weights of the reader of talk are damaged; make them again with `cargo xtask learn`")]
pub struct DamagedWeights;

/// Weights are kept in steps of this.
pub const STEP: f32 = 1.0 / 24.0;

impl Model {
    /// The weights that ship.
    pub fn shipped() -> &'static Model {
        static MODEL: OnceLock<Model> = OnceLock::new();
        MODEL.get_or_init(|| Model::read(include_bytes!("../../../talk/weights.bin")).expect("the shipped weights are tested"))
    }

    /// Reads weights: classes, biases, tied weights, temper, then buckets in order, each by its distance from the one before.
    ///
    /// # Errors
    /// When the bytes are no weights, or for another catalogue.
    pub fn read(bytes: &[u8]) -> Result<Model, DamagedWeights> {
        let mut at = 0;
        let mut take = |n: usize| {
            let part = bytes.get(at..at + n).ok_or(DamagedWeights)?;
            at += n;
            Ok(part)
        };
        let float = |b: &[u8]| f32::from_le_bytes([b[0], b[1], b[2], b[3]]);
        if usize::from(u16::from_le_bytes(take(2)?.try_into().map_err(|_| DamagedWeights)?)) != classes() {
            return Err(DamagedWeights);
        }
        let bias = (0..classes()).map(|_| take(4).map(float)).collect::<Result<Vec<f32>, _>>()?;
        let mut tied = [0.0; TIED];
        for t in &mut tied {
            *t = float(take(4)?);
        }
        let temper = float(take(4)?);
        let n = u32::from_le_bytes(take(4)?.try_into().map_err(|_| DamagedWeights)?);
        let (mut all, mut begins) = (Vec::new(), Vec::with_capacity(BUCKETS + 1));
        let mut bucket = 0u32;
        for _ in 0..n {
            let head = take(3)?;
            bucket += u32::from(u16::from_le_bytes([head[0], head[1]]));
            let rows = (0..head[2]).map(|_| take(2).map(|p| (p[0], p[1] as i8))).collect::<Result<Vec<_>, _>>()?;
            if bucket as usize >= BUCKETS || rows.iter().any(|(class, _)| usize::from(*class) >= classes()) {
                return Err(DamagedWeights);
            }
            // A bucket that is there twice is damaged as well: buckets only go up.
            if begins.len() > bucket as usize {
                return Err(DamagedWeights);
            }
            begins.resize(bucket as usize + 1, all.len() as u32);
            all.extend(rows);
        }
        begins.resize(BUCKETS + 1, all.len() as u32);
        Ok(Model { bias, tied, rows: all, begins, temper })
    }

    /// The chance that these words tell this condition.
    pub fn chance(&self, text: &str, before: &Before, condition: &str) -> f64 {
        class_of(condition).map_or(0.0, |class| self.chances(&hear(text, before))[class])
    }
    /// The chance of each class.
    pub fn chances(&self, heard: &Heard) -> Vec<f64> {
        let mut steps = [0i32; 1 << 8];
        for f in &heard.features {
            let f = *f as usize;
            for (class, w) in &self.rows[self.begins[f] as usize..self.begins[f + 1] as usize] {
                steps[usize::from(*class)] += i32::from(*w);
            }
        }
        let mut score: Vec<f64> = self.bias.iter().zip(steps).map(|(b, n)| f64::from(*b) + f64::from(n) * f64::from(STEP)).collect();
        let dot = |t: &[f64; TIED]| t.iter().zip(&self.tied).map(|(a, b)| a * f64::from(*b)).sum::<f64>();
        let rest = [dot(&heard.rest[0]), dot(&heard.rest[1])];
        for (c, k) in vocabulary().conditions.iter().enumerate() {
            score[c] += rest[usize::from(!k.good)];
        }
        for (c, t) in &heard.tied {
            score[*c] += dot(t) - rest[usize::from(!vocabulary().conditions[*c].good)];
        }
        soften(&mut score, f64::from(self.temper));
        score
    }
}

/// Scores become chances.
pub fn soften(score: &mut [f64], temper: f64) {
    let top = score.iter().copied().fold(f64::MIN, f64::max);
    let mut sum = 0.0;
    for s in score.iter_mut() {
        *s = libm::exp((*s - top) * temper);
        sum += *s;
    }
    for s in score.iter_mut() {
        *s /= sum;
    }
}

/// Stretches of a sentence that may each hold a finding: the whole, its clauses, where nothing is punctuated pieces of a dozen words, and
/// what goes on from a caption that ended in mid-sentence.
pub fn stretches(sentence: &str, before: &str) -> Vec<String> {
    const LONG: usize = 15;
    const PIECE: usize = 11;
    const STEP: usize = 5;
    let mut out = vec![sentence.trim().to_owned()];
    let mut clauses: Vec<String> = vec![];
    for part in sentence.split([',', ';', ':', '.', '!', '\u{2014}']) {
        let words: Vec<&str> = part.split_whitespace().collect();
        let mut start = 0;
        for i in 1..words.len() {
            let joins = matches!(words[i].to_lowercase().as_str(), "and" | "but" | "except" | "though" | "plus" | "then" | "also");
            // A word or two in front of "and" are no clause.
            if joins && i - start >= 3 && words.len() - i >= 4 {
                clauses.push(words[start..i].join(" "));
                start = i;
            }
        }
        if words.len() > start {
            clauses.push(words[start..].join(" "));
        }
    }
    for c in clauses.iter().filter(|c| clauses.len() > 1 && c.split_whitespace().count() >= 2) {
        let words: Vec<&str> = c.split_whitespace().collect();
        if words.len() > LONG {
            for s in (0..words.len() - PIECE / 2).step_by(STEP) {
                out.push(words[s..(s + PIECE).min(words.len())].join(" "));
            }
        } else {
            out.push(c.clone());
        }
    }
    // Neighbouring clauses together: a part and what is wrong with it are often told apart.
    for p in clauses.windows(2).filter(|_| clauses.len() > 2) {
        out.push(p.join(", "));
    }
    let words: Vec<&str> = sentence.split_whitespace().collect();
    if clauses.len() <= 1 && words.len() > LONG {
        for s in (0..words.len() - PIECE / 2).step_by(STEP) {
            out.push(words[s..(s + PIECE).min(words.len())].join(" "));
        }
    }
    // Where captions cut a sentence, windows that reach back over the cut and end here; each is heard once, where it ends.
    if !before.trim().is_empty() && !is_ended(before) {
        let earlier: Vec<&str> = before.split_whitespace().collect();
        let all: Vec<&str> = earlier.iter().chain(&words).copied().collect();
        for long in ACROSS_WORDS {
            for end in (earlier.len() + 2..=all.len().min(earlier.len() + long)).step_by(ACROSS_STEP) {
                let start = end.saturating_sub(long);
                if start + 2 <= earlier.len() {
                    out.push(all[start..end].join(" "));
                }
            }
        }
    }
    out.dedup();
    out
}

/// Windows over the ends of captions have so many words, and lie so far apart.
const ACROSS_WORDS: [usize; 3] = [7, 11, 15];
const ACROSS_STEP: usize = 2;
/// So many words of what was said before are remembered while a sentence has not ended.
const REMEMBERED: usize = 15;
/// What is put together from the ends of two captions is so much less sure. This and the share below were chosen by what walks left out of
/// the training gave (`cargo xtask learn --measure`), among few.
const ACROSS: f64 = 0.6;

fn is_ended(text: &str) -> bool {
    text.trim_end().trim_end_matches(['"', '\u{201d}']).ends_with(['.', '!', '?'])
}

/// What was said just before what comes now: the last sentence, or the end of a run of captions that no full stop ends.
fn said_before(before: &str, sentence: &str) -> String {
    if is_ended(sentence) || is_ended(before) || before.trim().is_empty() {
        return sentence.to_owned();
    }
    let words: Vec<&str> = before.split_whitespace().chain(sentence.split_whitespace()).collect();
    words[words.len().saturating_sub(REMEMBERED)..].join(" ")
}

/// Two proposals that share more of the shorter one's words than this speak of one thing.
const SAME_WORDS: f64 = 0.4;

/// What may be a finding in a sentence.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// The condition, by class.
    pub class: usize,
    /// How likely it is.
    pub p: f64,
    /// The stretch that speaks for it most.
    pub text: String,
}

/// What a sentence may tell, surest first. A condition is proposed once; what overlaps a surer proposal and only it speaks for is left out.
pub fn propose(model: &Model, sentence: &str, before: &Before, least: f64) -> Vec<Proposal> {
    let all = stretches(sentence, &before.text);
    let across = all.len() - all.iter().rev().take_while(|s| !sentence.contains(s.as_str())).count()..all.len();
    let across = if is_ended(&before.text) { 0..0 } else { across };
    let topic = before.topic();
    let mut found: Vec<Proposal> = vec![];
    for (k, s) in all.iter().enumerate() {
        let mut chances = model.chances(&hear(s, if k <= 1 { before } else { &topic }));
        if across.contains(&k) {
            chances.iter_mut().for_each(|p| *p *= ACROSS);
        }
        for (class, p) in chances.iter().enumerate().take(classes() - 1).filter(|(_, p)| **p >= least) {
            match found.iter_mut().find(|f| f.class == class) {
                Some(f) if f.p < *p => *f = Proposal { class, p: *p, text: s.clone() },
                Some(_) => {}
                None => found.push(Proposal { class, p: *p, text: s.clone() }),
            }
        }
    }
    found.sort_by(|a, b| b.p.total_cmp(&a.p).then(a.class.cmp(&b.class)));
    // Two conditions on the same words: the surer one stands.
    let mut out: Vec<Proposal> = vec![];
    for f in found {
        let mine: FxHashSet<String> = words_of(&f.text).into_iter().filter(|w| !SMALL.contains(&w.as_str())).collect();
        let shared = out.iter().any(|o| {
            let theirs: FxHashSet<String> = words_of(&o.text).into_iter().collect();
            let both = mine.iter().filter(|w| theirs.contains(*w)).count();
            both as f64 > SAME_WORDS * mine.len().min(theirs.len().max(1)) as f64
        });
        if !shared {
            out.push(f);
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::{HashMap, HashSet};

    fn best(text: &str) -> (Option<&'static str>, f64) {
        let chances = Model::shipped().chances(&hear(text, &Before::default()));
        let (class, p) = chances.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).unwrap();
        (class_id(class), *p)
    }

    /// Sentences that stand neither in the corpus nor in a walk.
    #[test]
    fn what_it_has_never_heard() {
        for (said, id) in [
            ("the guttering on the porch has come away from its board", "gutter-loose-leaking"),
            ("can't see a single weep in that brickwork", "brick-weeps-absent"),
            ("rotten fascia above the bay, a pen goes straight in", "soffit-fascia-damaged"),
            ("those slates have slid, there's two hanging over the edge", "tile-broken-slipped"),
            ("the lawn tips down to the back wall", "grade-toward-wall"),
            ("somebody has tarred over the split in that lead", "roof-mastic-patch"),
            ("the pane in the stair window is misted between the two sheets of glass", "glass-seal-failed"),
            ("nine hail hits in the square on the east slope", "hail-bruise"),
        ] {
            let (found, p) = best(said);
            assert_eq!(found, Some(id), "{said}: {p:.2}");
        }
        for said in ["I had eggs for breakfast", "we'll start with the tall ladder", "his cousin built the place in eighty four"] {
            assert_eq!(best(said).0, None, "{said}");
        }
    }

    /// Every condition is taught by enough sentences, none of them twice, and none is taken from a walk.
    #[test]
    fn the_sentences_it_learns_from() {
        let dir = concat!(env!("CARGO_MANIFEST_DIR"), "/talk");
        let read = |d: &str| {
            let mut files: Vec<_> = std::fs::read_dir(d).unwrap().map(|e| e.unwrap().path()).filter(|p| !p.is_dir()).collect();
            files.sort();
            files
                .into_iter()
                .filter(|p| p.extension().is_some_and(|e| e == "txt" || e == "vtt"))
                .map(|p| (p.clone(), std::fs::read_to_string(p).unwrap()))
                .collect::<Vec<_>>()
        };
        let walks: String = read(&format!("{dir}/walks")).into_iter().map(|(_, t)| words_of(&t).join(" ")).collect::<Vec<_>>().join(" ");
        let (mut of, mut seen) = (HashMap::<String, usize>::new(), HashMap::new());
        for (path, text) in read(dir).into_iter().filter(|(p, _)| !p.ends_with("concepts.txt")) {
            let mut id = String::new();
            for line in text.lines().map(str::trim).filter(|l| !l.is_empty() && !l.starts_with('#')) {
                if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
                    assert!(name == "none" || class_of(name).is_some(), "{}: {name}", path.display());
                    id = name.to_owned();
                    continue;
                }
                *of.entry(id.clone()).or_default() += 1;
                if let Some(other) = seen.insert(line.to_lowercase(), id.clone()) {
                    assert_eq!(other, id, "\u{201c}{line}\u{201d} teaches two conditions");
                }
                let words = words_of(line);
                assert!(words.len() < 7 || !walks.contains(&words.join(" ")), "\u{201c}{line}\u{201d} stands in a walk");
            }
        }
        for c in &vocabulary().conditions {
            assert!(of.get(&c.id).is_some_and(|n| *n >= 5), "{}: {:?}", c.id, of.get(&c.id));
        }
        assert!(of["none"] >= 400, "{}", of["none"]);
    }

    #[test]
    fn damaged_weights_are_refused() {
        let bytes = include_bytes!("../../../talk/weights.bin");
        assert!(bytes.len() < 3_000_000, "{} bytes", bytes.len());
        assert!(Model::read(&bytes[..bytes.len() - 1]).is_err() && Model::read(&[]).is_err());
        let mut other = bytes.to_vec();
        other[0] ^= 1;
        assert!(Model::read(&other).is_err(), "weights for another catalogue");
        // A row for a class beyond the catalogue: the first row's class, after the head of counts and figures and of its bucket.
        let mut beyond = bytes.to_vec();
        let first = 2 + 4 * classes() + 4 * TIED + 4 + 4 + 3;
        assert!(beyond[first - 1] > 0 && usize::from(beyond[first]) < classes());
        beyond[first] = u8::try_from(classes()).unwrap();
        assert!(Model::read(&beyond).is_err(), "a class the catalogue has not");
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// Whatever is said: chances are chances and add up to one, the whole is among its stretches, and no condition is proposed twice.
        #[test]
        fn any_talk_has_chances(said in "[a-zA-Z ,.?'0-9\u{e9}]{0,160}", before in "[a-z ]{0,40}") {
            let chances = Model::shipped().chances(&hear(&said, &Before::of(&before)));
            prop_assert!((chances.iter().sum::<f64>() - 1.0).abs() < 1e-9);
            prop_assert!(chances.iter().all(|p| (0.0..=1.0).contains(p)));
            let all = stretches(&said, &before);
            prop_assert_eq!(all[0].as_str(), said.trim());
            let found = propose(Model::shipped(), &said, &Before::of(&before), 0.1);
            let classes: HashSet<usize> = found.iter().map(|f| f.class).collect();
            prop_assert_eq!(classes.len(), found.len());
            prop_assert!(found.windows(2).all(|w| w[0].p >= w[1].p));
        }
    }
}
