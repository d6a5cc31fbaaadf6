//! The trained weights, and what they make of what was heard.

use super::Before;
use super::classes;
use super::features::{BUCKETS, Heard, SHARED, TIED, Tied};
use super::said::{REACH, Said};
use crate::round::vocabulary::vocabulary;
use std::ops::Range;
use std::sync::OnceLock;

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
        MODEL.get_or_init(|| Model::read(include_bytes!("../../../../talk/weights.bin")).expect("the shipped weights are tested"))
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

    /// The chance of each class.
    pub fn chances(&self, heard: &Heard) -> Vec<f64> {
        let mut steps = vec![0i32; classes()];
        heard.features.iter().for_each(|f| self.add(*f, 1, &mut steps));
        let mut score = vec![];
        self.scores(&steps, &heard.tied, &mut score);
        soften(&mut score, f64::from(self.temper));
        score
    }

    /// Adds the weights of a feature, so many times, in steps.
    fn add(&self, feature: u32, times: i32, to: &mut [i32]) {
        let f = feature as usize;
        for (class, w) in &self.rows[self.begins[f] as usize..self.begins[f + 1] as usize] {
            to[usize::from(*class)] += times * i32::from(*w);
        }
    }

    /// The score of each class: what its features weigh, and what speaks for it by name.
    fn scores(&self, steps: &[i32], tied: &Tied, score: &mut Vec<f64>) {
        let dot = |t: &[f64], by: &[f32]| t.iter().zip(by).map(|(a, b)| a * f64::from(*b)).sum::<f64>();
        let (shared, own) = self.tied.split_at(SHARED);
        let of_all = tied.shared.each_ref().map(|t| dot(t, shared));
        let by_name = vocabulary().conditions.iter().map(|k| of_all[usize::from(!k.good)]).chain([0.0]);
        score.clear();
        score.extend(self.bias.iter().zip(steps).zip(by_name).map(|((b, n), r)| f64::from(*b) + f64::from(*n) * f64::from(STEP) + r));
        for (c, t) in &tied.spoken {
            score[*c] += dot(t, own);
        }
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

/// No condition of these scores, *no finding* last, has a chance above this: the sum of what is exponential is at least what it were if all
/// but the greatest were equal (Jensen).
fn best_chance_below(score: &[f64], temper: f64) -> f64 {
    let none = score.len() - 1;
    let best = score[..none].iter().copied().fold(f64::MIN, f64::max);
    let top = best.max(score[none]);
    let others = score.len() as f64 - 1.0;
    let mean = (score.iter().sum::<f64>() - top) / others;
    let of = |s: f64| libm::exp((s - top) * temper);
    of(best) / (1.0 + others * of(mean))
}

/// The stretches of one sentence, weighed. Weights add up: what the words of a stretch weigh by themselves is the difference of two sums
/// from the beginning of the text on, less the pairs that reach over its first word.
pub(super) struct Weighing<'a> {
    model: &'a Model,
    said: &'a Said<'a>,
    before: &'a Before,
    /// What the words up to each weigh with their pairs, class by class.
    sums: Vec<i32>,
    /// What the words said before weigh.
    of_before: Vec<i32>,
    steps: Vec<i32>,
    /// The scores of the last stretch.
    score: Vec<f64>,
}

impl<'a> Weighing<'a> {
    pub(super) fn new(model: &'a Model, said: &'a Said<'a>, before: &'a Before) -> Weighing<'a> {
        let n = classes();
        let mut sums = vec![0i32; n * (said.atoms.len() + 1)];
        for i in 0..said.atoms.len() {
            let (done, next) = sums.split_at_mut(n * (i + 1));
            let sum = &mut next[..n];
            sum.copy_from_slice(&done[n * i..]);
            said.alone(i).iter().chain(said.pairs(i).iter().map(|p| &p.bucket)).for_each(|f| model.add(*f, 1, sum));
        }
        let mut of_before = vec![0i32; n];
        before.features.iter().for_each(|f| model.add(*f, 1, &mut of_before));
        Weighing { model, said, before, sums, of_before, steps: vec![0; n], score: vec![] }
    }

    /// The chances of a stretch where any condition has at least this one; nothing otherwise.
    pub(super) fn chances(&mut self, words: &Range<usize>, least: f64) -> Option<&[f64]> {
        let n = classes();
        let atoms = self.said.atoms_in(words);
        let (from, to) = (&self.sums[n * atoms.start..][..n], &self.sums[n * atoms.end..][..n]);
        self.steps.iter_mut().zip(from.iter().zip(to)).for_each(|(s, (a, b))| *s = b - a);
        // Only the first words of content reach so far back.
        let mut content = 0;
        for i in atoms.clone() {
            if content == REACH {
                break;
            }
            let over = self.said.pairs(i).iter().filter(|p| p.first < atoms.start);
            over.for_each(|p| self.model.add(p.bucket, -1, &mut self.steps));
            content += usize::from(!self.said.atoms[i].small);
        }
        if words.start == self.said.sentence().start {
            self.steps.iter_mut().zip(&self.of_before).for_each(|(s, b)| *s += b);
        }
        let sights = self.said.sights(words);
        sights.each(atoms.len(), &self.before.parts, |f| self.model.add(f, 1, &mut self.steps));
        self.model.scores(&self.steps, &self.said.tied(&sights, &self.before.parts), &mut self.score);
        let temper = f64::from(self.model.temper);
        if best_chance_below(&self.score, temper) < least {
            return None;
        }
        soften(&mut self.score, temper);
        Some(&self.score)
    }
}
