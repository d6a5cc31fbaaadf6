//! What weighs of a stretch of talk: features in buckets, and what speaks for conditions by name.

use super::Before;
use super::said::{By, Said, Seen, Sight, words_of};
use crate::round::vocabulary::{Cue, Vocabulary, vocabulary};
use rustc_hash::{FxHashMap, FxHashSet};
use std::ops::Range;
use std::sync::OnceLock;

/// Features share so many places.
pub const BUCKETS: usize = 1 << 18;
/// How many features speak of a condition and the words together, the same for all conditions.
pub const TIED: usize = 20;

/// One stretch of talk as the model sees it.
#[derive(Debug, Clone, Default)]
pub struct Heard {
    /// Features that are there, by bucket: of words as often as they are said, of the rest once.
    pub features: Vec<u32>,
    /// What holds for conditions by name.
    pub tied: Tied,
}

/// Of them so many hold for all good conditions alike, and for all others.
pub(super) const SHARED: usize = 8;

/// What the words and a condition have in common.
#[derive(Debug, Clone, Default)]
pub struct Tied {
    /// For each condition that something speaks for, by class in order: the features that are its own.
    pub(super) spoken: Vec<(usize, [f64; TIED - SHARED])>,
    /// What holds for all: good conditions, and the others.
    pub(super) shared: [[f64; SHARED]; 2],
}

impl Tied {
    /// All features of a class; a good one or another.
    pub fn of(&self, class: usize, good: bool) -> [f64; TIED] {
        let mut all = [0.0; TIED];
        all[..SHARED].copy_from_slice(&self.shared[usize::from(!good)]);
        if let Ok(at) = self.spoken.binary_search_by_key(&class, |s| s.0) {
            all[SHARED..].copy_from_slice(&self.spoken[at].1);
        }
        all
    }
}

/// FNV-1a: small, and the same on every machine.
fn hashed(kind: char, bytes: impl Iterator<Item = u8>) -> u32 {
    let mut h: u32 = 0x811c_9dc5;
    for b in std::iter::once(kind as u8).chain(bytes) {
        h = (h ^ u32::from(b)).wrapping_mul(0x0100_0193);
    }
    (h ^ (h >> 15)) & (BUCKETS as u32 - 1)
}

pub(super) fn bucket(kind: char, text: &str) -> u32 {
    hashed(kind, text.bytes())
}

/// Of two things together, with a blank between them.
pub(super) fn bucket_of(kind: char, a: &str, b: &str) -> u32 {
    hashed(kind, a.bytes().chain(std::iter::once(b' ')).chain(b.bytes()))
}

/// Words that join others and say nothing themselves.
pub(super) fn is_small(word: &str) -> bool {
    const SMALL: [&str; 34] = [
        "the", "a", "an", "of", "to", "in", "on", "at", "it", "is", "s", "and", "that", "this", "there", "here", "i", "you", "we", "they",
        "so", "just", "for", "with", "by", "be", "been", "has", "have", "are", "was", "ve", "re", "ll",
    ];
    static ALL: OnceLock<FxHashSet<&str>> = OnceLock::new();
    ALL.get_or_init(|| SMALL.into_iter().collect()).contains(word)
}

/// Groups of words that say much the same.
pub(super) struct Groups {
    /// By the words they begin with: the rest of the words, and the group.
    by_first: FxHashMap<String, Vec<(Vec<String>, usize)>>,
    good: usize,
    deny: usize,
    /// Buckets of groups, of two groups, and of a group with a part that is named now or was before.
    alone: Vec<u32>,
    pairs: Vec<u32>,
    with_part: Vec<u32>,
    with_part_before: Vec<u32>,
    /// Buckets of parts that are named now, and of those that were before.
    parts: Vec<u32>,
    parts_before: Vec<u32>,
}

impl Groups {
    pub(super) fn beginning_with(&self, word: &str) -> &[(Vec<String>, usize)] {
        self.by_first.get(word).map_or(&[], Vec::as_slice)
    }

    fn read(text: &str, v: &Vocabulary) -> Groups {
        let mut by_first: FxHashMap<String, Vec<(Vec<String>, usize)>> = FxHashMap::default();
        let mut names: Vec<&str> = vec![];
        for (name, words) in text.lines().filter(|l| !l.starts_with('#')).filter_map(|l| l.split_once(':')) {
            let group = names.len();
            names.push(name.trim());
            for w in words.split(',') {
                let mut stems = words_of(w).into_iter();
                if let Some(first) = stems.next() {
                    by_first.entry(first).or_default().push((stems.collect(), group));
                }
            }
        }
        let named = |name: &str| names.iter().position(|n| *n == name).expect("tested: the group is listed");
        let keys: Vec<&str> = v.components().iter().map(|c| c.key.as_str()).collect();
        let each = |kind: char, of: &[&str]| of.iter().map(|n| bucket(kind, n)).collect::<Vec<u32>>();
        let with = |kind: char| names.iter().flat_map(|g| keys.iter().map(move |k| bucket_of(kind, g, k))).collect::<Vec<u32>>();
        let sorted = |a: &str, b: &str| if a <= b { bucket_of('h', a, b) } else { bucket_of('h', b, a) };
        Groups {
            good: named("good"),
            deny: named("deny"),
            alone: each('g', &names),
            pairs: names.iter().flat_map(|a| names.iter().map(|b| sorted(a, b))).collect(),
            with_part: with('k'),
            with_part_before: with('j'),
            parts: each('m', &keys),
            parts_before: each('n', &keys),
            by_first,
        }
    }
}

pub(super) fn groups() -> &'static Groups {
    static ALL: OnceLock<Groups> = OnceLock::new();
    ALL.get_or_init(|| Groups::read(include_str!("../../../../talk/concepts.txt"), vocabulary()))
}

/// What the rules found in a stretch, as far as it is said of what is here.
pub(super) struct Sights {
    pub(super) parts: Vec<usize>,
    groups: Vec<usize>,
    praised: bool,
    denies: bool,
    measured: bool,
    cues: [bool; 4],
    asks: bool,
    /// Sights of the stretch, and from which clause on they are of something else.
    range: Range<usize>,
    from: usize,
    start: usize,
    end: usize,
}

const CUES: [(Cue, &str); 4] =
    [(Cue::Elsewhere, "elsewhere"), (Cue::General, "in general"), (Cue::Conditional, "if"), (Cue::Pointing, "points")];

impl Said<'_> {
    /// What the rules found in these words.
    pub(super) fn sights(&self, words: &Range<usize>) -> Sights {
        let (bytes, atoms) = (self.bytes(words), self.atoms_in(words));
        let text = self.text(words);
        let from = self.reader.aside_from(&bytes, text.trim_end().ends_with('?')).unwrap_or(usize::MAX);
        let first = self.seen.partition_point(|s| s.start < bytes.start);
        let range = first..first + self.seen[first..].partition_point(|s| s.start < bytes.end);
        let within = || self.seen[range.clone()].iter().filter(|s| s.end <= bytes.end);
        let mut parts: Vec<(usize, usize, usize)> = within()
            .filter(|s| s.clause < from)
            .filter_map(|s| if let Sight::Part(c) = s.what { Some((s.start, s.end, c)) } else { None })
            .collect();
        let all = parts.clone();
        parts.retain(|(start, end, _)| !all.iter().any(|(s, e, _)| s <= start && end <= e && e - s > end - start));
        let mut parts: Vec<usize> = parts.into_iter().map(|p| p.2).collect();
        parts.sort_unstable();
        parts.dedup();
        let mut found: Vec<usize> = vec![];
        for (_, _, g) in self.groups.iter().filter(|(first, end, _)| *first >= atoms.start && *end <= atoms.end) {
            if !found.contains(g) {
                found.push(*g);
            }
        }
        Sights {
            parts,
            praised: within().any(|s| s.what == Sight::Praise && s.clause < from) || found.contains(&groups().good),
            denies: found.contains(&groups().deny),
            groups: found,
            measured: self.measures.iter().any(|(s, e, clause)| *s >= bytes.start && *e <= bytes.end && *clause < from),
            cues: CUES.map(|(cue, _)| within().any(|s| s.what == Sight::Cue(cue))),
            asks: text.contains('?'),
            range,
            from,
            start: bytes.start,
            end: bytes.end,
        }
    }

    /// What weighs of these words, behind what was said before.
    pub fn heard(&self, words: &Range<usize>, before: &Before) -> Heard {
        let atoms = self.atoms_in(words);
        let mut f: Vec<u32> = Vec::with_capacity(32 * atoms.len());
        for i in atoms.clone() {
            f.extend(self.alone(i));
            f.extend(self.pairs(i).iter().filter(|p| p.first >= atoms.start).map(|p| p.bucket));
        }
        let sights = self.sights(words);
        if words.start == self.sentence().start {
            f.extend(&before.features);
        }
        sights.each(atoms.len(), &before.parts, |b| f.push(b));
        f.sort_unstable();
        Heard { features: f, tied: self.tied(&sights, &before.parts) }
    }

    /// What speaks for conditions by name.
    pub(super) fn tied(&self, sights: &Sights, before: &[usize]) -> Tied {
        let v = vocabulary();
        let flag = |is: bool| f64::from(u8::from(is));
        let shared = |good: bool| {
            let mut t = [0.0; SHARED];
            t[0] = 1.0;
            t[usize::from(good) + 1] = 1.0;
            t[if good { 3 } else { 4 }] = flag(sights.praised);
            t[if good { 5 } else { 6 }] = flag(sights.denies);
            t[7] = flag(!sights.parts.is_empty());
            t
        };
        let mut spoken: Vec<(usize, [f64; TIED - SHARED])> = Vec::with_capacity(32);
        let mut place = [u8::MAX; 256];
        let mut of = |class: usize, spoken: &mut Vec<(usize, [f64; TIED - SHARED])>| {
            if place[class] == u8::MAX {
                place[class] = spoken.len() as u8;
                spoken.push((class, [0.0; TIED - SHARED]));
            }
            usize::from(place[class])
        };
        let (named, named_again, named_before, share) = (0, 1, 2, 3);
        for part in &sights.parts {
            for class in v.about(*part) {
                let i = of(*class, &mut spoken);
                let t = &mut spoken[i].1;
                t[named_again] = t[named];
                t[named] = 1.0;
                t[share] = 1.0 / sights.parts.len() as f64;
            }
        }
        for part in before {
            for class in v.about(*part) {
                let i = of(*class, &mut spoken);
                let t = &mut spoken[i].1;
                t[named_before] = 1.0 - t[named];
            }
        }
        let (denied, right_of_denied, state_and_part, phrase_and_part) = (8, 9, 10, 11);
        for Seen { what, end, clause, denied_by, .. } in &self.seen[sights.range.clone()] {
            let Sight::Speaks { class, by } = *what else { continue };
            if *end > sights.end || *clause >= sights.from {
                continue;
            }
            let k = &v.conditions[class];
            let i = of(class, &mut spoken);
            if denied_by.is_some_and(|d| d >= sights.start) && !k.good {
                spoken[i].1[denied] = 1.0;
                for r in &k.right {
                    let i = of(*r, &mut spoken);
                    spoken[i].1[right_of_denied] = 1.0;
                }
                continue;
            }
            let t = &mut spoken[i].1;
            let at = 4 + by as usize;
            t[at] = (t[at] + 1.0).min(2.0);
            let with_part = || k.components.iter().any(|x| sights.parts.contains(x));
            match by {
                By::State if t[state_and_part] == 0.0 => t[state_and_part] = flag(with_part()),
                By::Phrase | By::Word if t[phrase_and_part] == 0.0 => t[phrase_and_part] = flag(with_part()),
                _ => {}
            }
        }
        spoken.sort_unstable_by_key(|s| s.0);
        Tied { spoken, shared: [shared(true), shared(false)] }
    }
}

impl Sights {
    /// The features that are there once however often they are said: groups, parts, how long it is and what kind of talk.
    pub(super) fn each(&self, words: usize, before: &[usize], mut push: impl FnMut(u32)) {
        static MARKS: OnceLock<[u32; 13]> = OnceLock::new();
        let marks = MARKS.get_or_init(|| {
            [
                "short", "middle", "long", "longer", "praise", "deny", "asks", "no part", "measured", CUES[0].1, CUES[1].1, CUES[2].1,
                CUES[3].1,
            ]
            .map(|name| bucket('x', name))
        });
        let g = groups();
        let (n, parts) = (g.alone.len(), g.parts.len());
        for (i, a) in self.groups.iter().enumerate() {
            push(g.alone[*a]);
            self.groups[i + 1..].iter().for_each(|b| push(g.pairs[a * n + b]));
            self.parts.iter().for_each(|p| push(g.with_part[a * parts + p]));
            before.iter().for_each(|p| push(g.with_part_before[a * parts + p]));
        }
        self.parts.iter().for_each(|p| push(g.parts[*p]));
        before.iter().for_each(|p| push(g.parts_before[*p]));
        push(
            marks[match words {
                0..=3 => 0,
                4..=8 => 1,
                9..=16 => 2,
                _ => 3,
            }],
        );
        let flags = [self.praised, self.denies, self.asks, self.parts.is_empty(), self.measured];
        for (is, mark) in flags.iter().chain(&self.cues).zip(&marks[4..]) {
            if *is {
                push(*mark);
            }
        }
    }
}
