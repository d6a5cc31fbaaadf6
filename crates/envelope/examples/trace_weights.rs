//! Scores the weights of the tracing on the simulated houses, and with `fit` sets them again.
//!
//! `cargo run --release -p envelope --example trace_weights` scores what ships.
//! `… --example trace_weights -- fit` sets them on three quarters of the houses and scores the held-back quarter, four times over;
//! then sets them on all and prints them. It starts from what ships and moves a figure only for what it costs.

#[path = "../tests/scores/mod.rs"]
mod scores;

use envelope::trace::Weights;
use scores::{Claims, House, claims, houses, score};

/// What moving a figure by one (a natural logarithm, or a bit and a half) costs.
const PENALTY: f64 = 3.0;
const STEPS: usize = 24;

fn say(what: &str, of: &[Claims]) {
    let s = score(of);
    println!(
        "{what}: {} spots, first {:.3}, three {:.3}, off {:.3}, log2 {:.3}, exact {:.3}",
        s.spots, s.first, s.three, s.off, s.log2, s.exact
    );
}

fn of(houses: &[&House], w: &Weights) -> Vec<Claims> {
    houses.iter().flat_map(|h| claims(h, w)).collect()
}

/// Half of the true explanation, half of every claim.
fn loss(houses: &[&House], w: &Weights) -> f64 {
    let one = |(p, is): &(f64, bool)| {
        let p = p.clamp(1e-6, 1.0 - 1e-6);
        if *is { -p.ln() } else { -(1.0 - p).ln() }
    };
    of(houses, w).iter().map(|c| 0.5 * -c.exact.ln() + 0.5 * c.all.iter().map(one).sum::<f64>()).sum()
}

/// A figure in the measure it is moved in: bits as they are, chances as log odds, the rest as logarithms.
fn measure(name: &str, x: f64) -> f64 {
    if name.contains("_bits") {
        x * 0.7
    } else if name.contains("_chance") {
        (x / (1.0 - x)).ln()
    } else {
        x.ln()
    }
}

fn back(name: &str, y: f64) -> f64 {
    if name.contains("_bits") {
        y / 0.7
    } else if name.contains("_chance") {
        1.0 / (1.0 + (-y).exp())
    } else {
        y.exp()
    }
}

fn moved(from: &Weights, by: &[f64]) -> Weights {
    let mut w = from.clone();
    let mut k = 0;
    w.each(&mut |name, x| {
        *x = back(name, measure(name, *x) + by[k]);
        k += 1;
    });
    w
}

/// Each figure goes its own step against its slope, longer while the slope keeps its sign, shorter when it turns.
fn fit(houses: &[&House]) -> Weights {
    let from = Weights::standard();
    let mut n = 0;
    from.clone().each(&mut |_, _| n += 1);
    let cost = |by: &[f64]| loss(houses, &moved(from, by)) + PENALTY / 2.0 * by.iter().map(|v| v * v).sum::<f64>();
    let (mut by, mut step, mut last) = (vec![0.0; n], vec![0.05; n], vec![0.0_f64; n]);
    let mut best = (cost(&by), by.clone());
    for _ in 0..STEPS {
        let here = cost(&by);
        if here < best.0 {
            best = (here, by.clone());
        }
        let slope: Vec<f64> = (0..n)
            .map(|k| {
                let mut other = by.clone();
                other[k] += 1e-3;
                (cost(&other) - here) / 1e-3
            })
            .collect();
        for k in 0..n {
            let turned = slope[k] * last[k] < 0.0;
            step[k] = if turned { f64::max(step[k] / 2.0, 1e-3) } else { f64::min(step[k] * 1.2, 0.3) };
            last[k] = if turned { 0.0 } else { slope[k] };
            if !turned && slope[k] != 0.0 {
                by[k] -= slope[k].signum() * step[k];
            }
        }
    }
    moved(from, &best.1)
}

fn main() {
    let all = houses();
    let every: Vec<&House> = all.iter().collect();
    say("as it ships", &of(&every, Weights::standard()));
    if std::env::args().nth(1).as_deref() != Some("fit") {
        return;
    }
    let mut held = Vec::new();
    for q in 0..4 {
        let part = |back: bool| -> Vec<&House> { all.iter().enumerate().filter(|(k, _)| (k % 4 == q) == back).map(|(_, h)| h).collect() };
        let w = fit(&part(false));
        held.extend(of(&part(true), &w));
    }
    say("held back, from what ships", &held);
    let w = fit(&every);
    say("set on all", &of(&every, &w));
    let mut w = w;
    w.each(&mut |name, x| println!("{name} = {x:.3}"));
}
