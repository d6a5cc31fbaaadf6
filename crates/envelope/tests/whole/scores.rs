//! How good a tracing is on houses whose truth is known. Shared by the test that holds the figures and the program that sets them.

use envelope::trace::form::TraceInput;
use envelope::trace::{Asked, Weights};
use serde::Deserialize;
use std::collections::BTreeMap;

/// A house with what really feeds its spots; nothing listed when the list of a spot is empty.
#[derive(Deserialize)]
pub(crate) struct House {
    pub(crate) input: TraceInput,
    pub(crate) expected: Truth,
}

#[derive(Deserialize)]
pub(crate) struct Truth {
    pub(crate) truth: BTreeMap<String, Vec<String>>,
}

#[derive(Deserialize)]
struct File {
    cases: Vec<House>,
}

pub(crate) fn houses() -> Vec<House> {
    let text = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/reference/K_leaks.json")).unwrap();
    serde_json::from_str::<File>(&text).unwrap().cases
}

/// What was claimed of one spot: every candidate's probability and that of something not listed, each with whether it is true.
pub(crate) struct Claims {
    pub(crate) all: Vec<(f64, bool)>,
    /// The probability of just the true explanation.
    pub(crate) exact: f64,
}

pub(crate) fn claims(h: &House, w: &Weights) -> Vec<Claims> {
    let asked = Asked::new(&h.input).unwrap();
    claims_of(h, asked.explanations(&asked.follow(w), w))
}

pub(crate) fn claims_of(h: &House, of: Vec<Vec<(Vec<usize>, f64)>>) -> Vec<Claims> {
    h.input
        .spots
        .iter()
        .zip(of)
        .map(|(s, of)| {
            let truth = &h.expected.truth[&s.id];
            let id = |i: &usize| &h.input.candidates[*i].id;
            let sum = |has: &dyn Fn(&[usize]) -> bool| of.iter().filter(|e| has(&e.0)).map(|e| e.1).sum::<f64>();
            let listed = (0..h.input.candidates.len()).map(|i| (sum(&|c| c.contains(&i)), truth.contains(id(&i))));
            Claims {
                all: listed.chain([(sum(&<[usize]>::is_empty), truth.is_empty())]).collect(),
                exact: sum(&|c| c.len() == truth.len() && c.iter().all(|i| truth.contains(id(i)))).max(1e-9),
            }
        })
        .collect()
}

/// First guess right; a true one in the first three; how far what is said of first guesses is off, in tenths; mean binary logarithm of
/// the claim on the truth.
pub(crate) struct Score {
    pub(crate) spots: usize,
    pub(crate) first: f64,
    pub(crate) three: f64,
    pub(crate) off: f64,
    pub(crate) log2: f64,
    /// The same of just the true explanation.
    pub(crate) exact: f64,
}

pub(crate) fn score(of: &[Claims]) -> Score {
    let n = of.len() as f64;
    let (mut first, mut three, mut log2) = (0.0, 0.0, 0.0);
    let mut tenths = [(0.0, 0.0); 10];
    for c in of {
        let mut all = c.all.clone();
        all.sort_by(|a, b| b.0.total_cmp(&a.0));
        first += f64::from(u8::from(all[0].1));
        three += f64::from(u8::from(all.iter().take(3).any(|a| a.1)));
        log2 += all.iter().filter(|a| a.1).map(|a| a.0).fold(1e-9, f64::max).log2();
        let k = ((all[0].0 * 10.0) as usize).min(9);
        tenths[k].0 += all[0].0;
        tenths[k].1 += f64::from(u8::from(all[0].1));
    }
    let exact = of.iter().map(|c| c.exact.log2()).sum::<f64>() / n;
    let off = tenths.iter().map(|t| (t.0 - t.1).abs()).sum::<f64>() / n;
    Score { spots: of.len(), first: first / n, three: three / n, off, log2: log2 / n, exact }
}
