//! Exact ranges and tests for counts. Nothing here is an approximation unless its name says so.
//!
//! Garwood (1936) for a rate, Clopper and Pearson (1934) for a share, Fisher's exact test for two shares, the exact multinomial for
//! counts over several places, Jeffreys' prior where a chance of a rate is asked for.

use statrs::function::beta::beta_reg;
use statrs::function::gamma::{gamma_lr, gamma_ur, ln_gamma};

/// More ways to spread the counts than this are not listed one by one.
pub(crate) const MOST_WAYS: f64 = 3e6;
/// Two ways are equally likely when the logarithms of their chances differ by less: sums of logarithms round.
const EVEN: f64 = 1e-7;

/// Where a rising function passes a level, between two places.
fn passes(level: f64, mut low: f64, mut high: f64, f: impl Fn(f64) -> f64) -> f64 {
    // 200 halvings end at neighbouring numbers.
    for _ in 0..200 {
        let mid = f64::midpoint(low, high);
        if mid <= low || mid >= high {
            break;
        }
        if f(mid) < level { low = mid } else { high = mid }
    }
    f64::midpoint(low, high)
}

/// The value under which a gamma variable of this shape lies with chance `p`.
fn gamma_at(shape: f64, p: f64) -> f64 {
    if shape <= 0.0 || p <= 0.0 {
        return 0.0;
    }
    let mut high = shape + 1.0;
    while gamma_lr(shape, high) < p {
        high *= 2.0;
    }
    passes(p, 0.0, high, |x| if x > 0.0 { gamma_lr(shape, x) } else { 0.0 })
}

/// The exact range of a mean count (Garwood): what was counted may be a fraction when it is what is expected of more squares.
pub(crate) fn mean_count(counted: f64, confidence: f64) -> [f64; 2] {
    let tail = f64::midpoint(1.0, -confidence);
    [gamma_at(counted, tail), gamma_at(counted + 1.0, 1.0 - tail)]
}

/// The chance that a mean count is above a figure, after so many were counted (Jeffreys' prior).
pub(crate) fn mean_above(counted: u32, figure: f64) -> f64 {
    if figure <= 0.0 { 1.0 } else { gamma_ur(f64::from(counted) + 0.5, figure) }
}

/// The exact range of a share (Clopper and Pearson): `k` of `n`.
pub(crate) fn share(k: u32, n: u32, confidence: f64) -> [f64; 2] {
    let tail = f64::midpoint(1.0, -confidence);
    let (kf, nf) = (f64::from(k), f64::from(n));
    let low = if k == 0 { 0.0 } else { passes(tail, 0.0, 1.0, |x| beta_reg(kf, nf - kf + 1.0, x)) };
    let high = if k >= n { 1.0 } else { passes(1.0 - tail, 0.0, 1.0, |x| beta_reg(kf + 1.0, nf - kf, x)) };
    [low, high]
}

fn ln_ways(n: u32, k: u32) -> f64 {
    let l = |x: u32| ln_gamma(f64::from(x) + 1.0);
    l(n) - l(k) - l(n - k)
}

/// The chance of `k` or more of `n`, each with chance `p`.
pub(crate) fn at_least(k: u32, n: u32, p: f64) -> f64 {
    if k == 0 {
        return 1.0;
    }
    if k > n {
        return 0.0;
    }
    if p <= 0.0 || p >= 1.0 {
        return f64::from(u8::from(p >= 1.0));
    }
    beta_reg(f64::from(k), f64::from(n - k) + 1.0, p)
}

/// Fisher's exact test, both sides: `k` of `n` in one place and `j` of `m` in the other, if the share were the same in both.
pub(crate) fn fisher(k: u32, n: u32, j: u32, m: u32) -> f64 {
    let hits = k + j;
    let ln = |i: u32| ln_ways(n, i) + ln_ways(m, hits - i) - ln_ways(n + m, hits);
    let seen = ln(k);
    let ways = hits.saturating_sub(m)..=hits.min(n);
    ways.map(ln).filter(|l| *l <= seen + EVEN).map(f64::exp).sum::<f64>().min(1.0)
}

/// How unlike an even spread the counts are.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Spread {
    /// The chance of a spread no likelier than this one.
    pub by_chance: f64,
    /// The chance of one with Pearson's figure as great.
    pub by_pearson: f64,
    /// The chance of one with as great a likelihood ratio.
    pub by_ratio: f64,
}

/// The exact multinomial test: counts over places with these shares. None when there are too many ways to list.
pub(crate) fn spread(counts: &[u32], shares: &[f64]) -> Option<Spread> {
    let n: u32 = counts.iter().sum();
    // C(n + k - 1, k - 1) ways.
    let ways = (1..counts.len()).fold(1.0, |w, i| w * (f64::from(n) + i as f64) / i as f64);
    if ways > MOST_WAYS {
        return None;
    }
    let ln_fact: Vec<f64> = (0..=n).map(|i| ln_gamma(f64::from(i) + 1.0)).collect();
    let ln_share: Vec<f64> = shares.iter().map(|s| s.ln()).collect();
    let expected: Vec<f64> = shares.iter().map(|s| s * f64::from(n)).collect();
    // What one place adds to the logarithm of the chance, to Pearson's figure and to half the likelihood ratio.
    let of = |place: usize, c: u32| {
        let cf = f64::from(c);
        let chance = cf * ln_share[place] - ln_fact[c as usize];
        let e = expected[place];
        let (pearson, ratio) = if e > 0.0 { ((cf - e).powi(2) / e, if c > 0 { cf * (cf / e).ln() } else { 0.0 }) } else { (0.0, 0.0) };
        [chance, pearson, ratio]
    };
    let add = |a: [f64; 3], b: [f64; 3]| [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
    let start = [ln_fact[n as usize], 0.0, 0.0];
    let seen = counts.iter().enumerate().fold(start, |a, (i, c)| add(a, of(i, *c)));
    let mut out = Spread { by_chance: 0.0, by_pearson: 0.0, by_ratio: 0.0 };
    let table: Vec<Vec<[f64; 3]>> = (0..counts.len()).map(|i| (0..=n).map(|c| of(i, c)).collect()).collect();
    walk(&table, 0, n, start, &add, &mut |w| {
        let p = w[0].exp();
        if w[0] <= seen[0] + EVEN {
            out.by_chance += p;
        }
        if w[1] >= seen[1] - EVEN * seen[1].max(1.0) {
            out.by_pearson += p;
        }
        if w[2] >= seen[2] - EVEN * seen[2].abs().max(1.0) {
            out.by_ratio += p;
        }
    });
    Some(Spread { by_chance: out.by_chance.min(1.0), by_pearson: out.by_pearson.min(1.0), by_ratio: out.by_ratio.min(1.0) })
}

/// Every way to spread what is left over the places from this one on.
fn walk(
    table: &[Vec<[f64; 3]>],
    place: usize,
    left: u32,
    so_far: [f64; 3],
    add: &impl Fn([f64; 3], [f64; 3]) -> [f64; 3],
    each: &mut impl FnMut([f64; 3]),
) {
    if place + 1 == table.len() {
        each(add(so_far, table[place][left as usize]));
        return;
    }
    for c in 0..=left {
        walk(table, place + 1, left - c, add(so_far, table[place][c as usize]), add, each);
    }
}

/// Pearson's figure, and the chance of one as great by the chi-square curve: an approximation.
pub(crate) fn pearson(counts: &[u32], shares: &[f64]) -> (f64, f64) {
    let n: u32 = counts.iter().sum();
    let figure: f64 = counts
        .iter()
        .zip(shares)
        .map(|(c, s)| (f64::from(*c), s * f64::from(n)))
        .filter(|(_, e)| *e > 0.0)
        .map(|(c, e)| (c - e).powi(2) / e)
        .sum();
    let freedom = counts.len().saturating_sub(1) as f64;
    (figure, if figure > 0.0 && freedom > 0.0 { gamma_ur(freedom / 2.0, figure / 2.0) } else { 1.0 })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn near(a: f64, b: f64) {
        assert!((a - b).abs() <= 1e-9 * b.abs().max(1.0), "{a} is not {b}");
    }

    #[test]
    fn figures_from_the_tables() {
        // Three of none counted: the rule of three, exactly -ln 0.025 for both tails.
        near(mean_count(0.0, 0.95)[1], -(0.025_f64).ln());
        // One of one half and half, by hand: 1 - 0.025^(1/10).
        near(share(0, 10, 0.95)[1], 1.0 - 0.025_f64.powf(0.1));
        near(share(10, 10, 0.95)[0], 0.025_f64.powf(0.1));
        // Fisher's tea: four of four against none of four is one way of 70, both ends.
        near(fisher(4, 4, 0, 4), 2.0 / 70.0);
        near(at_least(3, 3, 0.5), 0.125);
    }

    proptest! {
        /// A share of the whole is a chance, its range holds it, and turning the question round turns the range round.
        #[test]
        fn a_share_and_its_counterpart(n in 1u32..400, part in 0.0..=1.0_f64) {
            let k = (part * f64::from(n)) as u32;
            let ([a, b], [c, d]) = (share(k, n, 0.95), share(n - k, n, 0.95));
            let s = f64::from(k) / f64::from(n);
            prop_assert!((0.0..=s).contains(&a) && (s..=1.0).contains(&b));
            prop_assert!((a - (1.0 - d)).abs() < 1e-9 && (b - (1.0 - c)).abs() < 1e-9);
        }
        /// The listed ways are all ways: their chances add up to one, whatever the shares.
        #[test]
        fn every_way_is_listed(counts in prop::collection::vec(0u32..9, 2..5), weights in prop::collection::vec(0.1..4.0_f64, 5)) {
            let w = &weights[..counts.len()];
            let sum: f64 = w.iter().sum();
            let shares: Vec<f64> = w.iter().map(|x| x / sum).collect();
            let all = spread(&counts, &shares).unwrap();
            for p in [all.by_chance, all.by_pearson, all.by_ratio] {
                prop_assert!(p > 0.0 && p <= 1.0 + 1e-12);
            }
            // The likeliest way of all leaves nothing less likely out.
            let n: u32 = counts.iter().sum();
            let even = vec![1.0 / counts.len() as f64; counts.len()];
            let each = n.div_ceil(counts.len() as u32);
            let best = spread(&vec![each; counts.len()], &even).unwrap();
            prop_assert!((best.by_chance - 1.0).abs() < 1e-9);
        }
        /// Two places: the multinomial is Fisher's cousin, the binomial, counted by hand.
        #[test]
        fn two_places_are_a_binomial(k in 0u32..30, j in 0u32..30, s in 0.1..0.9_f64) {
            let n = k + j;
            let ln = |i: u32| ln_ways(n, i) + f64::from(i) * s.ln() + f64::from(n - i) * (1.0 - s).ln();
            let by_hand: f64 = (0..=n).map(ln).filter(|l| *l <= ln(k) + EVEN).map(f64::exp).sum();
            prop_assert!((spread(&[k, j], &[s, 1.0 - s]).unwrap().by_chance - by_hand.min(1.0)).abs() < 1e-9);
            let tail: f64 = (k..=n).map(ln).map(f64::exp).sum();
            prop_assert!((at_least(k, n, s) - tail.min(1.0)).abs() < 1e-9);
        }
        /// Renaming which place is which, or asking for what was not hit, changes nothing.
        #[test]
        fn fisher_both_ways(k in 0u32..20, n in 20u32..60, j in 0u32..20, m in 20u32..60) {
            let p = fisher(k, n, j, m);
            prop_assert!(p > 0.0 && p <= 1.0);
            prop_assert!((p - fisher(j, m, k, n)).abs() < 1e-9 && (p - fisher(n - k, n, m - j, m)).abs() < 1e-9);
        }
    }
}
