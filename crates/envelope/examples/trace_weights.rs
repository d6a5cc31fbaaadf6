//! Scores the weights of the tracing on the simulated houses, and with `fit` sets them again.
//!
//! `cargo run --release -p envelope --example trace_weights` scores the figures of practice and what ships.
//! `… --example trace_weights -- fit` sets them on all houses but a sixth and scores that sixth, six times over; then sets them on all
//! and prints them. It starts from the figures of practice and moves whole groups of them, only for what it costs.

#[path = "../tests/whole/scores.rs"]
mod scores;

use envelope::trace::{Asked, Followed, Weights};
use scores::{Claims, House, claims, claims_of, houses, score};

/// What moving a group by one (a natural logarithm, or a bit and a half) costs. Of 1, 3, 8, 12 and 20 the held-back houses liked 8 to
/// 20 alike.
const PENALTY: f64 = 12.0;
/// What moving a figure by itself costs on top of that.
const OWN_PENALTY: f64 = 30.0;
const STEPS: usize = 20;
/// Houses are held back by so many parts in turn.
const PARTS: usize = 6;

/// The figures of practice everything starts from.
fn practice() -> Weights {
    toml::from_str(include_str!("../src/trace/practice.toml")).expect("the figures of practice are read by a test too")
}

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

/// A house that was read once.
struct Ready<'a> {
    house: &'a House,
    asked: Asked<'a>,
}

fn ready<'a>(of: &[&'a House]) -> Vec<Ready<'a>> {
    of.iter().map(|h| Ready { house: h, asked: Asked::new(&h.input).unwrap() }).collect()
}

/// Half of the true explanation, half of every claim.
fn loss(houses: &[Ready<'_>], by: &[Followed], w: &Weights) -> f64 {
    let one = |(p, is): &(f64, bool)| {
        let p = p.clamp(1e-6, 1.0 - 1e-6);
        if *is { -p.ln() } else { -(1.0 - p).ln() }
    };
    let of = houses.iter().zip(by).flat_map(|(h, by)| claims_of(h.house, h.asked.explanations(by, w)));
    of.map(|c| 0.5 * -c.exact.ln() + 0.5 * c.all.iter().map(one).sum::<f64>()).sum()
}

/// Whether a figure changes what the record says.
fn of_the_record(name: &str) -> bool {
    const SAID: [&str; 15] = [
        "rain_loss",
        "rain_power",
        "wind_power",
        "wall_calm",
        "burst_times",
        "spill_sharp",
        "pond_sharp",
        "shows_from",
        "shows_spread",
        "_lag_h",
        "_dry_h",
        "dry_spread",
        "_wet_chance",
        "duty_spread",
        "cold_",
    ];
    (SAID.iter().any(|s| name.contains(s)) || name.ends_with("_sharp") || name == "false_dry_chance") && name != "cold_side_m"
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

/// Figures that move together: what is common to a kind of figure, which the houses can tell, and not what differs within it, which
/// they are too few for. With every figure free the houses that were set on came out better and those that were held back worse.
fn group(name: &str) -> &str {
    if let Some((head, _)) = name.split_once('.') {
        return head;
    }
    match name {
        "state_open_bits" | "state_doubtful_bits" => "state_seen",
        "unlisted_roof_bits" | "unlisted_wall_bits" | "unlisted_base_bits" => "unlisted",
        "roof_side_m" | "roof_near_m" | "roof_far_m" | "roof_up_m" => "place roof",
        "wall_side_m" | "wall_drop_m" | "storey_m" | "beyond_storey_m" | "wall_up_m" | "eave_side_m" | "eave_drop_m" => "place wall",
        "floor_in_m" | "spill_side_m" | "pond_side_m" | "let_go_side_m" | "spray_side_m" | "base_out_m" | "base_up_m" | "spill_up_m" => {
            "place base"
        }
        "pipe_side_m" | "pipe_drop_m" | "cold_side_m" => "place rival",
        "roof_sharp" | "wall_sharp" | "base_sharp" => "sharp",
        "shows_spread" | "dry_spread" | "duty_spread" => "spread",
        "roof_lag_h" | "wall_lag_h" | "base_lag_h" => "lag",
        "roof_dry_h" | "wall_dry_h" | "base_dry_h" | "spray_dry_h" => "dry",
        "pipe_wet_chance" | "cold_wet_chance" => "rival wet",
        "roof_false_wet_chance" | "wall_false_wet_chance" | "base_false_wet_chance" | "false_dry_chance" => "false",
        "hose_roof_min" | "hose_wall_min" | "hose_base_min" => "hose_min",
        "hose_false_chance" | "hose_uncleared_chance" | "hose_below_chance" | "other_false_chance" => "hose_false",
        other => other,
    }
}

fn moved(from: &Weights, by: &[f64], of: &[usize]) -> Weights {
    let mut w = from.clone();
    let mut k = 0;
    w.each(&mut |name, x| {
        *x = back(name, measure(name, *x) + by[of[k]]);
        k += 1;
    });
    w
}

/// First whole groups, from the figures of practice; then each figure by itself from there, held more tightly.
fn fit(houses: &[&House]) -> Weights {
    let houses = ready(houses);
    let groups = settle(&houses, &practice(), &|name| group(name).to_owned(), PENALTY);
    settle(&houses, &groups, &str::to_owned, OWN_PENALTY)
}

/// Moves figures against their slope, those of one name together: each its own step, longer while the slope keeps its sign, shorter when it
/// turns.
fn settle(houses: &[Ready<'_>], from: &Weights, name_of: &dyn Fn(&str) -> String, penalty: f64) -> Weights {
    let (mut groups, mut of, mut record): (Vec<String>, Vec<usize>, Vec<bool>) = Default::default();
    from.clone().each(&mut |name, _| {
        let g = name_of(name);
        let k = groups.iter().position(|x| *x == g).unwrap_or_else(|| {
            groups.push(g);
            record.push(false);
            groups.len() - 1
        });
        record[k] |= of_the_record(name);
        of.push(k);
    });
    let n = groups.len();
    let follow = |w: &Weights| -> Vec<Followed> { houses.iter().map(|h| h.asked.follow(w)).collect() };
    let pull = |by: &[f64]| penalty / 2.0 * by.iter().map(|v| v * v).sum::<f64>();
    let (mut by, mut step, mut last) = (vec![0.0; n], vec![0.05; n], vec![0.0_f64; n]);
    let mut best = (f64::INFINITY, by.clone());
    for _ in 0..STEPS {
        let w = moved(from, &by, &of);
        let followed = follow(&w);
        let here = loss(houses, &followed, &w) + pull(&by);
        if here < best.0 {
            best = (here, by.clone());
        }
        let slope: Vec<f64> = (0..n)
            .map(|k| {
                let mut other = by.clone();
                other[k] += 1e-3;
                let w = moved(from, &other, &of);
                let there = if record[k] { loss(houses, &follow(&w), &w) } else { loss(houses, &followed, &w) };
                (there + pull(&other) - here) / 1e-3
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
    moved(from, &best.1, &of)
}

fn main() {
    let all = houses();
    let every: Vec<&House> = all.iter().collect();
    say("figures of practice", &of(&every, &practice()));
    say("as it ships", &of(&every, Weights::standard()));
    if std::env::args().nth(1).as_deref() != Some("fit") {
        return;
    }
    let part = |q: usize, back: bool| -> Vec<&House> {
        all.iter().enumerate().filter(|(k, _)| (k % PARTS == q) == back).map(|(_, h)| h).collect()
    };
    let held: Vec<Claims> = std::thread::scope(|s| {
        let work: Vec<_> = (0..PARTS).map(|q| s.spawn(move || of(&part(q, true), &fit(&part(q, false))))).collect();
        work.into_iter().flat_map(|w| w.join().expect("a part that cannot be fitted fails the whole")).collect()
    });
    say("held back", &held);
    let mut w = fit(&every);
    say("set on all", &of(&every, &w));
    w.each(&mut |name, x| println!("{name} = {x:.3}"));
}
