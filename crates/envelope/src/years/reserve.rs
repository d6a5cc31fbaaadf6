//! What to put by: yearly cost from what things cost and how long they may last, as chances and not as one date.
//!
//! Each thing falls due in a year nobody knows. Its years left are given as three figures (one in ten fall short of the first, one in
//! ten exceed the last) and are read as two half-normal curves that meet at the middle, cut at today. Things fall due independently of
//! each other; sums are worked out exactly on a grid of money, so that chances add up to one and nothing is drawn at random.

use serde::{Deserialize, Serialize};

/// Years a plan looks ahead at most.
pub const MOST_YEARS: u16 = 60;
/// Steps of money between nothing and everything that may be spent.
const STEPS: usize = 4000;
/// One in ten lie beyond so many standard deviations of a normal curve.
const TENTH: f64 = 1.281_551_565_544_8;
const MOST_THINGS: usize = 100;

/// One thing that will have to be paid.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReserveThing {
    /// What it is.
    pub name: String,
    /// What it costs each time, in the practice's money of today.
    pub cost: f64,
    /// Years until it falls due: one in ten sooner, the middle, one in ten later. Below nought is overdue.
    pub due: [f64; 3],
    /// It comes again after so many years; never within the plan when it is not said.
    #[serde(default)]
    pub again_after: Option<f64>,
}

/// What `calc reserve` takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReserveInput {
    /// The first year.
    pub from_year: i16,
    /// How many years.
    pub years: u16,
    /// What will have to be paid.
    pub things: Vec<ReserveThing>,
}

/// One year of the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReserveYear {
    /// Which.
    pub year: i16,
    /// What is to be expected of it, on average.
    pub expected: f64,
    /// The chance that anything falls due in it.
    pub chance: f64,
    /// What has been spent by its end: one in ten less, the middle, one in ten more.
    pub spent: [f64; 3],
    /// The same, on average.
    pub spent_mean: f64,
    /// What the level contribution has brought by its end.
    pub put_by: f64,
    /// What may fall due in it, likeliest first.
    pub what: Vec<ReserveShare>,
}

/// What one thing adds to a year.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReserveShare {
    /// Its name.
    pub name: String,
    /// The chance that it falls due in the year.
    pub chance: f64,
}

/// What `calc reserve` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReserveOut {
    /// Year by year.
    pub years: Vec<ReserveYear>,
    /// Paid in every year from the first, so much is enough in nine of ten cases at every year's end.
    pub level: f64,
    /// In words.
    pub sentence: String,
}

/// Area under the standard normal curve left of `x`.
fn normal(x: f64) -> f64 {
    0.5 * libm::erfc(-x / std::f64::consts::SQRT_2)
}

/// The chance that it has fallen due by `t`: two halves that meet at the middle.
fn by(t: f64, [low, mid, high]: [f64; 3]) -> f64 {
    let spread = if t < mid { mid - low } else { high - mid } / TENTH;
    if spread <= 0.0 {
        return f64::from(t >= mid);
    }
    normal((t - mid) / spread)
}

/// Chances that a thing falls due in each year of the plan; what is overdue falls due in the first.
fn first_due(t: &ReserveThing, years: u16) -> Vec<f64> {
    let at = |k: u16| if k == 0 { 0.0 } else { by(f64::from(k), t.due) };
    (0..years).map(|k| at(k + 1) - at(k)).collect()
}

/// Chance of each year's payment, its repeats counted.
fn payments(t: &ReserveThing, first: &[f64]) -> Vec<f64> {
    let mut out = vec![0.0; first.len()];
    for (k, p) in first.iter().enumerate() {
        for again in repeats(t, k, first.len()) {
            out[again] += p;
        }
    }
    out
}

/// The years it is paid in, when it first falls due in year `first`.
fn repeats(t: &ReserveThing, first: usize, years: usize) -> impl Iterator<Item = usize> {
    let every = t.again_after;
    (0..)
        .map_while(move |m: u32| match every {
            Some(e) => Some(first + (f64::from(m) * e).round() as usize),
            None if m == 0 => Some(first),
            None => None,
        })
        .take_while(move |y| *y < years)
}

/// Sums of money with their chances, on a grid.
struct Sums {
    step: f64,
    chance: Vec<f64>,
}

impl Sums {
    /// A grid that holds `most`, with room for one step that each thing is shared over.
    fn nothing(most: f64, things: usize) -> Sums {
        let mut chance = vec![0.0; STEPS + 1];
        chance[0] = 1.0;
        Sums { step: (most / (STEPS - things) as f64).max(1e-9), chance }
    }
    /// Adds a thing of which `spent` says what it has cost, with which chance. A sum between two steps is shared between them, so that
    /// the mean stays exact.
    fn add(&mut self, spent: &[(f64, f64)]) {
        let mut next = vec![0.0; self.chance.len()];
        for (cost, p) in spent.iter().filter(|(_, p)| *p > 0.0) {
            let at = cost / self.step;
            let (low, part) = (at.floor() as usize, at.fract());
            for (k, q) in self.chance.iter().enumerate().filter(|(_, q)| **q > 0.0) {
                for (shift, share) in [(low, 1.0 - part), (low + 1, part)] {
                    if share > 0.0 {
                        next[(k + shift).min(STEPS)] += q * p * share;
                    }
                }
            }
        }
        self.chance = next;
    }
    fn mean(&self) -> f64 {
        self.chance.iter().enumerate().map(|(k, p)| k as f64 * p).sum::<f64>() * self.step
    }
    fn quantile(&self, share: f64) -> f64 {
        let mut sum = 0.0;
        for (k, p) in self.chance.iter().enumerate() {
            sum += p;
            if sum >= share - 1e-12 {
                return k as f64 * self.step;
            }
        }
        STEPS as f64 * self.step
    }
}

fn check(i: &ReserveInput) -> Result<(), String> {
    if !(1..=MOST_YEARS).contains(&i.years) {
        return Err(format!("A plan looks 1 to {MOST_YEARS} years ahead."));
    }
    if i.things.len() > MOST_THINGS {
        return Err(format!("{} things are more than one plan holds; the most is {MOST_THINGS}.", i.things.len()));
    }
    for t in &i.things {
        let n = &t.name;
        if n.trim().is_empty() {
            return Err("Everything in the plan needs a name.".into());
        }
        if !(0.0..=1e9).contains(&t.cost) {
            return Err(format!("{n}: a cost is nought or more."));
        }
        if !t.due.iter().all(|d| (-200.0..=500.0).contains(d)) || t.due[0] > t.due[1] || t.due[1] > t.due[2] {
            return Err(format!("{n}: give the years until it falls due as soonest, middle and latest, in that order."));
        }
        if t.again_after.is_some_and(|e| !(1.0..=500.0).contains(&e)) {
            return Err(format!("{n}: what comes again comes after a year at least."));
        }
    }
    Ok(())
}

/// Works a plan out.
///
/// # Errors
/// What cannot be planned with, in words.
pub fn reserve(i: &ReserveInput) -> Result<ReserveOut, String> {
    check(i)?;
    let years = usize::from(i.years);
    let first: Vec<Vec<f64>> = i.things.iter().map(|t| first_due(t, i.years)).collect();
    let paid: Vec<Vec<f64>> = i.things.iter().zip(&first).map(|(t, f)| payments(t, f)).collect();
    let most: f64 = i.things.iter().map(|t| t.cost * repeats(t, 0, years).count() as f64).sum();
    let mut out: Vec<ReserveYear> = vec![];
    for y in 0..years {
        let mut sums = Sums::nothing(most, i.things.len());
        for (t, f) in i.things.iter().zip(&first) {
            // So often it has been paid by the end of this year, by the year it first fell due in; or not at all.
            let mut spent: Vec<(f64, f64)> = (0..=y).map(|k| (t.cost * repeats(t, k, y + 1).count() as f64, f[k])).collect();
            spent.push((0.0, 1.0 - spent.iter().map(|s| s.1).sum::<f64>()));
            sums.add(&spent);
        }
        let mut what: Vec<ReserveShare> = i
            .things
            .iter()
            .zip(&paid)
            .map(|(t, p)| ReserveShare { name: t.name.clone(), chance: p[y] })
            .filter(|s| s.chance >= 0.01)
            .collect();
        what.sort_by(|a, b| b.chance.total_cmp(&a.chance));
        out.push(ReserveYear {
            year: i.from_year + y as i16,
            expected: i.things.iter().zip(&paid).map(|(t, p)| t.cost * p[y]).sum(),
            chance: 1.0 - paid.iter().map(|p| 1.0 - p[y]).product::<f64>(),
            spent: [0.1, 0.5, 0.9].map(|q| sums.quantile(q)),
            spent_mean: sums.mean(),
            put_by: 0.0,
            what,
        });
    }
    let level = out.iter().zip(1..).map(|(y, n)| y.spent[2] / f64::from(n)).fold(0.0, f64::max);
    for (y, n) in out.iter_mut().zip(1..) {
        y.put_by = level * f64::from(n);
    }
    let sentence = match out.last() {
        Some(last) if most > 0.0 => format!(
            "{level:.0} a year, paid in from {}, is enough in nine of ten cases; by the end of {} between {:.0} and {:.0} will have been spent (money of today; an estimate).",
            i.from_year, last.year, last.spent[0], last.spent[2]
        ),
        _ => "Nothing with a cost is in the plan yet.".to_owned(),
    };
    Ok(ReserveOut { years: out, level, sentence })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn things() -> impl Strategy<Value = Vec<ReserveThing>> {
        let one = (1.0..50_000.0_f64, -5.0..40.0_f64, 0.0..15.0_f64, 0.0..15.0_f64, prop::option::of(2.0..30.0_f64));
        let one = one.prop_map(|(cost, mid, a, b, again_after)| ReserveThing {
            name: "x".into(),
            cost,
            due: [mid - a, mid, mid + b],
            again_after,
        });
        prop::collection::vec(one, 0..6)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// Money is neither made nor lost: the years' expectations add up to the mean of what is spent. Sums only grow, chances are
        /// chances, the range holds the middle, and what is put by covers nine of ten at every year's end.
        #[test]
        fn the_years_add_up(things in things(), years in 1u16..40) {
            let out = reserve(&ReserveInput { from_year: 2027, years, things }).unwrap();
            let mut sum = 0.0;
            for (k, y) in out.years.iter().enumerate() {
                sum += y.expected;
                prop_assert!((sum - y.spent_mean).abs() <= 1e-6 * sum.max(1.0), "{sum} {}", y.spent_mean);
                prop_assert!((0.0..=1.0 + 1e-12).contains(&y.chance));
                prop_assert!(y.spent[0] <= y.spent[1] && y.spent[1] <= y.spent[2] && y.spent[2] <= y.put_by + 1e-6);
                if k > 0 {
                    let before = &out.years[k - 1];
                    prop_assert!((0..3).all(|q| before.spent[q] <= y.spent[q] + 1e-9));
                }
            }
        }

        /// Order and names are no matter, and twice the costs is twice the plan.
        #[test]
        fn twice_the_costs(things in things()) {
            let plan = |t: Vec<ReserveThing>| reserve(&ReserveInput { from_year: 2027, years: 20, things: t }).unwrap();
            let one = plan(things.clone());
            let two = plan(things.iter().rev().map(|t| ReserveThing { cost: 2.0 * t.cost, ..t.clone() }).collect());
            for (a, b) in one.years.iter().zip(&two.years) {
                prop_assert!((2.0 * a.expected - b.expected).abs() < 1e-6 * b.expected.max(1.0));
            }
        }
    }

    /// By hand: due in 9.5 years for sure is paid in the tenth year and not before.
    #[test]
    fn a_date_that_is_known() {
        let thing = |again_after| ReserveThing { name: "gutter".into(), cost: 1000.0, due: [9.5; 3], again_after };
        let plan = |again| reserve(&ReserveInput { from_year: 2030, years: 30, things: vec![thing(again)] }).unwrap();
        let one = plan(None);
        let paid: Vec<i16> = one.years.iter().filter(|y| y.expected > 0.5).map(|y| y.year).collect();
        assert_eq!(paid, [2039]);
        assert_eq!(one.years[8].spent, [0.0; 3]);
        assert!((one.years[9].spent[0] - 1000.0).abs() < 1.0 && (one.level - 100.0).abs() < 0.1);
        let paid: Vec<i16> = plan(Some(8.0)).years.iter().filter(|y| y.expected > 0.5).map(|y| y.year).collect();
        assert_eq!(paid, [2039, 2047, 2055]);
    }

    /// One in ten fall due before the first figure, half before the middle, nine of ten before the last.
    #[test]
    fn the_three_figures_mean_what_they_say() {
        let due = [6.0, 10.0, 18.0];
        for (t, share) in [(6.0, 0.1), (10.0, 0.5), (18.0, 0.9)] {
            assert!((by(t, due) - share).abs() < 1e-6, "{t}");
        }
    }

    #[test]
    fn what_cannot_be_planned_is_refused_in_words() {
        let thing = |cost, due| ReserveThing { name: "roof".into(), cost, due, again_after: None };
        let said = |years, things| reserve(&ReserveInput { from_year: 2027, years, things }).unwrap_err();
        assert!(said(0, vec![]).contains("1 to 60"));
        assert!(said(10, vec![thing(-1.0, [1.0, 2.0, 3.0])]).contains("nought or more"));
        assert!(said(10, vec![thing(1.0, [3.0, 2.0, 1.0])]).contains("in that order"));
        assert!(said(10, vec![thing(f64::NAN, [1.0, 2.0, 3.0])]).contains("nought or more"));
        let never = reserve(&ReserveInput { from_year: 2027, years: 5, things: vec![] }).unwrap();
        assert!(never.sentence.contains("Nothing with a cost") && never.level == 0.0);
    }
}
