//! What a grade of wear says of the share of a life that is used: thresholds by sign, as data in `wear.toml`.

use serde::Deserialize;
use std::sync::OnceLock;

#[derive(Debug, Deserialize)]
struct Row {
    key: String,
    #[serde(default)]
    also: Vec<String>,
    threshold: [f64; 4],
    width: f64,
    /// A faint sign counts by itself with this power, and not among the others.
    #[serde(default)]
    faint: Option<f64>,
}

/// A sign with its thresholds worked out.
#[derive(Debug)]
pub(super) struct Sign {
    names: Vec<String>,
    /// It says little, and is not counted among the others.
    pub(super) faint: bool,
    /// What it counts by itself, when faint.
    pub(super) power: f64,
    width: f64,
    threshold: [f64; 4],
    risen: [f64; 4],
    /// By grade, worked out when it is first asked for.
    tables: [OnceLock<Table>; 5],
}

/// Value and slope by step, so that neighbours lie together.
type Table = Vec<[f64; 2]>;

/// A grade of a sign, prepared to be asked for many shares: its logarithm and slope at even steps, and a cubic between them
/// (Hermite's). A share past the table is worked out by itself.
pub(super) struct Graded {
    sign: &'static Sign,
    grade: u8,
    at: &'static [[f64; 2]],
}

/// Steps of the table in a life, and how many lives it reaches. With curvature by the width of a step no finer than a twentieth of a
/// life, the cubic is off by less than a part in 10⁹.
const STEPS: f64 = 512.0;
const REACHES: usize = 3;

impl Graded {
    pub(super) fn new(sign: &'static Sign, grade: u8) -> Graded {
        let at = || {
            let steps = (0..=STEPS as usize * REACHES + 1).map(|k| k as f64 / STEPS);
            steps.map(|used| [sign.log_fit(grade, used), sign.slope(grade, used)]).collect()
        };
        Graded { sign, grade, at: sign.tables[usize::from(grade)].get_or_init(at) }
    }

    pub(super) fn log_fit(&self, used: f64) -> f64 {
        between(self.at, used).unwrap_or_else(|| self.sign.log_fit(self.grade, used))
    }
}

/// The cubic between two steps of a table; none past its end.
fn between(at: &[[f64; 2]], used: f64) -> Option<f64> {
    let k = (used * STEPS) as usize;
    let ([a, da], [b, db]) = (*at.get(k)?, *at.get(k + 1)?);
    let t = used * STEPS - k as f64;
    let (da, db) = (da / STEPS, db / STEPS);
    let rise = b - a;
    Some(a + t * (da + t * (3.0 * rise - 2.0 * da - db + t * (da + db - 2.0 * rise))))
}

impl Sign {
    /// How [`Sign::log_fit`] grows by the share.
    fn slope(&self, grade: u8, used: f64) -> f64 {
        let decay = (-used / self.width).exp();
        let g = grade as usize;
        // d/dx of −ln(1 + decay·risen) is the part of it that is not one, over the width.
        let part = |risen: f64| decay * risen / (1.0 + decay * risen) / self.width;
        let reached = if g == 0 { 0.0 } else { part(self.risen[g - 1]) };
        if g == 4 { reached } else { reached + part(self.risen[g]) - 1.0 / self.width }
    }

    /// How well a grade fits a used share of life, as a logarithm: ln of P(G ≥ g) − P(G ≥ g + 1), each a logistic step at its
    /// threshold. Written so that nothing cancels however far past its life a covering is.
    pub(super) fn log_fit(&self, grade: u8, used: f64) -> f64 {
        let decay = (-used / self.width).exp();
        let g = grade as usize;
        // sig(x) = 1 / (1 + decay·risen); 1 − sig(y) = decay·risen / (1 + decay·risen).
        let reached = if g == 0 { 1.0 } else { 1.0 + decay * self.risen[g - 1] };
        if g == 4 {
            return -reached.ln();
        }
        let not_yet = 1.0 + decay * self.risen[g];
        let apart = if g == 0 { 1.0 } else { 1.0 - ((self.threshold[g - 1] - self.threshold[g]) / self.width).exp() };
        (apart / (reached * not_yet)).ln() + (self.threshold[g] - used) / self.width
    }
}

fn all() -> &'static [Sign] {
    #[derive(Deserialize)]
    struct File {
        sign: Vec<Row>,
    }
    static ALL: OnceLock<Vec<Sign>> = OnceLock::new();
    ALL.get_or_init(|| {
        let rows = toml::from_str::<File>(include_str!("wear.toml")).expect("the embedded thresholds are tested").sign;
        let made = rows.into_iter().map(|r| Sign {
            names: std::iter::once(r.key).chain(r.also).collect(),
            faint: r.faint.is_some(),
            power: r.faint.unwrap_or(1.0),
            width: r.width,
            threshold: r.threshold,
            risen: r.threshold.map(|t| (t / r.width).exp()),
            tables: Default::default(),
        });
        made.collect()
    })
}

/// A sign by its name.
pub(super) fn sign(name: &str) -> Option<&'static Sign> {
    all().iter().find(|s| s.names.iter().any(|n| n == name))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn every_sign_of_every_covering_has_thresholds_that_rise() {
        for s in super::super::covering::signs() {
            let known = sign(&s.key).unwrap_or_else(|| panic!("{} has no thresholds", s.key));
            assert!(known.threshold.windows(2).all(|w| w[0] < w[1]) && known.width > 0.0, "{}", s.key);
        }
    }

    #[test]
    fn the_grades_of_a_sign_share_out_one() {
        for s in all() {
            for used in [0.0, 0.2, 0.55, 1.0, 1.4, 6.0] {
                let sum: f64 = (0..=4).map(|g| s.log_fit(g, used).exp()).sum();
                assert!((sum - 1.0).abs() < 1e-9, "{:?} at {used}: {sum}", s.names);
            }
        }
    }

    proptest! {
        /// What the table says is what working it out says, within it and past it; and the slope is that of small steps.
        #[test]
        fn a_table_of_a_sign_says_what_the_sign_says(k in 0_usize..100, grade in 0_u8..5, used in 0.0..4.0_f64) {
            let s = &all()[k % all().len()];
            let (worked, told) = (s.log_fit(grade, used), Graded::new(s, grade).log_fit(used));
            prop_assert!((worked - told).abs() < 1e-8 * (1.0 + worked.abs()), "{} and {}", worked, told);
            let steps = (s.log_fit(grade, used + 1e-6) - s.log_fit(grade, used - 1e-6)) / 2e-6;
            prop_assert!((steps - s.slope(grade, used)).abs() < 1e-4 * (1.0 + steps.abs()));
        }
    }
}
