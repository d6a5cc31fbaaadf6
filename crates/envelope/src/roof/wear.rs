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
}

impl Sign {
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
}
