//! Coverings follow one another: each serves its life, waits a while worn out, and is replaced. From a known start this gives
//! the chance that the present one began so many years ago.
//!
//! Renewal theory on a grid of quarter years: with survival S and the chance r of being replaced after k cells, the chance u of
//! a renewal at cell m is the sum of r(k)·u(m−k), and the sum of u(m)·S(j−m) over m is 1 for every j.

/// Width of a cell of age or life, years.
pub(super) const CELL: f64 = 0.25;

pub(super) fn normal(x: f64, mean: f64, sd: f64) -> f64 {
    (-0.5 * ((x - mean) / sd).powi(2)).exp() / (sd * (2.0 * std::f64::consts::PI).sqrt())
}

/// The chance of a standard normal below z.
fn below(z: f64) -> f64 {
    libm::erfc(-z / std::f64::consts::SQRT_2) / 2.0
}

/// A known start: the chance that it was so many cells ago. May be less than one: the work was perhaps not done.
pub(super) struct Start {
    pub(super) mass: Vec<f64>,
}

impl Start {
    /// From permit to roof: at most half a year, mostly a month.
    pub(super) fn permit(elapsed: f64, n: usize) -> Start {
        const MODE: f64 = 1.0 / 12.0;
        const MOST: f64 = 0.5;
        let lag_below = |x: f64| match x {
            x if x <= 0.0 => 0.0,
            x if x <= MODE => x * x / (MOST * MODE),
            x if x < MOST => 1.0 - (MOST - x).powi(2) / (MOST * (MOST - MODE)),
            _ => 1.0,
        };
        Start::by(elapsed, n, lag_below)
    }
    /// An invoice is written about when the work ends.
    pub(super) fn invoice(elapsed: f64, n: usize) -> Start {
        const SD: f64 = 0.1;
        Start::by(elapsed, n, |x| below(x / SD))
    }
    fn by(elapsed: f64, n: usize, lag_below: impl Fn(f64) -> f64) -> Start {
        let at = |i: usize| lag_below(elapsed - CELL * i as f64);
        Start { mass: (0..n).map(|i| at(i) - at(i + 1)).collect() }
    }
    /// The building itself, known to a quarter year.
    pub(super) fn building(age: f64, n: usize) -> Start {
        const SD: f64 = 0.25;
        let mass: Vec<f64> = (0..n).map(|i| normal(CELL * (i as f64 + 0.5), age, SD)).collect();
        let all: f64 = mass.iter().sum();
        Start { mass: mass.into_iter().map(|m| m / all).collect() }
    }
}

/// Lives, waits and what follows from them.
pub(super) struct Renewal {
    /// Chance of each cell of life.
    pub(super) life: Vec<f64>,
    /// Chance that a covering is still on after so many cells.
    survival: Vec<f64>,
    /// Chance of a renewal so many cells after a start.
    renewed: Vec<f64>,
    /// Chance that a worn-out covering waits so many cells.
    waits: Vec<f64>,
}

impl Renewal {
    /// Lives by Weibull about a median, waits by an exponential, ages up to the oldest there can be; years.
    pub(super) fn new(median: f64, shape: f64, wait: f64, oldest: f64) -> Renewal {
        let n = ((oldest / CELL).round() as usize).max(1);
        let m = (3.0 * median / CELL).round() as usize;
        let scale = median / std::f64::consts::LN_2.powf(1.0 / shape);
        let worn_by = |t: f64| 1.0 - (-(t / scale).powf(shape)).exp();
        let life: Vec<f64> = (0..m).map(|j| worn_by(CELL * (j + 1) as f64) - worn_by(CELL * j as f64)).collect();
        let all: f64 = life.iter().sum();
        let life: Vec<f64> = life.into_iter().map(|f| f / all).collect();
        let waits: Vec<f64> = (0..n).map(|k| (-(CELL * k as f64) / wait).exp()).collect();
        // S(i) over all lives: those that last, and those that wait. The waiting part decays from cell to cell.
        let decay = (-CELL / wait).exp();
        let (mut waiting, mut lasting) = (0.0, 1.0);
        let mut survival = Vec::with_capacity(n);
        for i in 0..n {
            if i > 0 {
                let worn = life.get(i - 1).copied().unwrap_or(0.0);
                waiting = (waiting + worn) * decay;
                lasting -= worn;
            }
            survival.push(waiting + f64::max(lasting, 0.0));
        }
        let replaced: Vec<f64> = (1..n).map(|k| survival[k - 1] - survival[k]).collect();
        let mut renewed = vec![1.0];
        for i in 1..n {
            renewed.push((1..=i).map(|k| replaced[k - 1] * renewed[i - k]).sum());
        }
        Renewal { life, survival, renewed, waits }
    }
    /// Cells of age.
    pub(super) fn ages(&self) -> usize {
        self.survival.len()
    }
    /// Cells of life.
    pub(super) fn lives(&self) -> usize {
        self.life.len()
    }
    /// The chance that a covering is still on at this age, whatever its life.
    pub(super) fn lasts(&self, age: usize) -> f64 {
        self.survival[age]
    }
    /// The chance that a covering of this life is still on at this age.
    pub(super) fn stays(&self, age: usize, life: usize) -> f64 {
        if life >= age { 1.0 } else { self.waits[age - life] }
    }
    /// The chance that the last renewal since a start was so many cells ago, before anything is said of its survival.
    pub(super) fn from(&self, start: &Start) -> Vec<f64> {
        let n = self.ages();
        let some: Vec<(usize, f64)> = start.mass.iter().copied().enumerate().filter(|(_, s)| *s > 1e-18).collect();
        (0..n).map(|i| some.iter().filter(|(j, _)| *j >= i).map(|(j, s)| s * self.renewed[j - i]).sum()).collect()
    }
    /// The same for every age, when nothing is known of the start.
    pub(super) fn any_time(&self) -> f64 {
        1.0 / self.survival.iter().sum::<f64>()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_normal_is_what_tables_say() {
        for (z, p) in [(0.0, 0.5), (1.0, 0.841_344_746), (-1.96, 0.024_997_895), (3.0, 0.998_650_102)] {
            assert!((below(z) - p).abs() < 1e-8, "{z}");
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

        // Some covering is on at every moment: exactly one renewal is the last.
        #[test]
        fn one_covering_is_always_on(median in 8.0..60.0f64, wait in 0.5..8.0f64, oldest in 5.0..120.0f64) {
            let r = Renewal::new(median, 5.0, wait, oldest);
            for j in 0..r.ages() {
                let all: f64 = (0..=j).map(|m| r.renewed[m] * r.survival[j - m]).sum();
                prop_assert!((all - 1.0).abs() < 1e-9, "{j}: {all}");
            }
            prop_assert!((r.life.iter().sum::<f64>() - 1.0).abs() < 1e-12);
            // The survival that is summed cell by cell is the one that the joint weights use.
            for i in [0, r.ages() / 3, r.ages() - 1] {
                let direct: f64 = (0..r.lives()).map(|j| r.life[j] * r.stays(i, j)).sum();
                prop_assert!((direct - r.survival[i]).abs() < 1e-9);
            }
        }
    }
}
