//! How old a covering is and how long it will last: two unknowns, age and service life, weighed together on a grid by papers,
//! statements, dated pictures and wear. Remaining life is life less age.
//!
//! The model is stated in full in the reference notes beside the tests; grades, medians and error rates are rules of
//! practice, and every result is an estimate with its range.

use super::evidence::MOST_PIECES;
pub use super::evidence::{AgeEvidence, Curves, Life, LifeError, LifeInput, Moved, Schools, Spread, Wear};

const CELLS: usize = 240;
/// Width of an age cell, years.
const AGE_CELL: f64 = 0.25;
/// Width of a life cell, years.
const LIFE_CELL: f64 = 0.5;
/// Weibull shape of service lives.
const SHAPE: f64 = 5.0;
/// Sd of the age of an original roof about the building's age, years.
const ORIGINAL_SD: f64 = 0.25;
const PERMIT_RIGHT: f64 = 0.95;
/// From permit to roof: at most half a year, mostly a month.
const LAG_MODE: f64 = 1.0 / 12.0;
const LAG_MOST: f64 = 0.5;
const THETA: [f64; 4] = [0.30, 0.50, 0.68, 0.85];
const THETA_WIDTH: f64 = 0.07;
/// Ridge caps wear sooner.
const RIDGE_CAP_SHIFT: f64 = -0.08;

fn age_of(i: usize) -> f64 {
    AGE_CELL * (i as f64 + 0.5)
}
fn life_of(j: usize) -> f64 {
    LIFE_CELL * (j as f64 + 0.5)
}

fn normal(x: f64, mean: f64, sd: f64) -> f64 {
    (-0.5 * ((x - mean) / sd).powi(2)).exp() / sd
}

/// Chance that the lag from permit to roof is less than `x` years: a triangle from 0 over a month to half a year.
fn lag_below(x: f64) -> f64 {
    match x {
        x if x <= 0.0 => 0.0,
        x if x <= LAG_MODE => x * x / (LAG_MOST * LAG_MODE),
        x if x < LAG_MOST => 1.0 - (LAG_MOST - x).powi(2) / (LAG_MOST * (LAG_MOST - LAG_MODE)),
        _ => 1.0,
    }
}

fn normalised(mut cells: Vec<f64>) -> Vec<f64> {
    let sum: f64 = cells.iter().sum();
    if sum > 0.0 {
        cells.iter_mut().for_each(|c| *c /= sum);
    }
    cells
}

fn base_prior(input: &LifeInput) -> Vec<f64> {
    let median = input.median_life_years;
    let (original, top) = match input.building_age_years {
        Some(b) => (0.6 * (1.0 - b / (1.3 * median)).max(0.0), b.min(1.5 * median)),
        None => (0.0, 1.5 * median),
    };
    let allowed = |a: f64| input.building_age_years.is_none_or(|b| a <= b + 0.5);
    let at_building = normalised(
        (0..CELLS)
            .map(age_of)
            .map(|a| input.building_age_years.filter(|_| allowed(a)).map_or(0.0, |b| normal(a, b, ORIGINAL_SD)))
            .collect(),
    );
    let rest = normalised((0..CELLS).map(age_of).map(|a| if a < top.max(AGE_CELL) && allowed(a) { 1.0 } else { 0.0 }).collect());
    at_building.iter().zip(&rest).map(|(o, r)| original * o + (1.0 - original) * r).collect()
}

/// How well each age fits the papers; the base prior, or what stands in its place, times every further piece.
fn age_factor(input: &LifeInput) -> Vec<f64> {
    let base = base_prior(input);
    let mut factor = base.clone();
    if let Some(elapsed) =
        input.age_evidence.iter().find_map(|e| if let AgeEvidence::Permit { elapsed_years } = e { Some(*elapsed_years) } else { None })
    {
        for (i, f) in factor.iter_mut().enumerate() {
            let (newer, older) = (elapsed - age_of(i) - AGE_CELL / 2.0, elapsed - age_of(i) + AGE_CELL / 2.0);
            *f = PERMIT_RIGHT * (lag_below(older) - lag_below(newer)) + (1.0 - PERMIT_RIGHT) * base[i];
        }
    }
    let flat = 1.0 / CELLS as f64;
    let mut times = |shape: Vec<f64>, wrong: f64| {
        for (f, s) in factor.iter_mut().zip(normalised(shape)) {
            *f *= (1.0 - wrong) * s + wrong * flat;
        }
    };
    for e in &input.age_evidence {
        match e {
            AgeEvidence::Permit { .. } => {}
            AgeEvidence::Stated { years, first_hand } => {
                let (sd, wrong) = if *first_hand { (1.5, 0.05) } else { (3.0, 0.15) };
                times((0..CELLS).map(|i| normal(age_of(i), *years, sd)).collect(), wrong);
            }
            AgeEvidence::Range { low_years, high_years } => {
                let soft = |a: f64| (1.0 - (low_years - a).max(a - high_years).max(0.0)).max(0.0);
                times((0..CELLS).map(|i| soft(age_of(i))).collect(), 0.05);
            }
            AgeEvidence::Pictures { .. } => {}
        }
    }
    for e in &input.age_evidence {
        if let AgeEvidence::Pictures { absent_years, present_years } = e {
            for (i, f) in factor.iter_mut().enumerate() {
                let a = age_of(i);
                if absent_years.is_some_and(|y| a > y) || present_years.is_some_and(|y| a < y) {
                    *f = 0.0;
                }
            }
        }
    }
    factor
}

fn life_prior(median: f64) -> Vec<f64> {
    let scale = median / std::f64::consts::LN_2.powf(1.0 / SHAPE);
    let below = |t: f64| 1.0 - (-(t / scale).powf(SHAPE)).exp();
    (0..CELLS).map(|j| below(LIFE_CELL * (j as f64 + 1.0)) - below(LIFE_CELL * j as f64)).collect()
}

/// How well one sign's grade fits, as a logarithm; `decay` is `exp(−u / width)` of the used share u, the same for all signs.
fn sign_fits(sign: &Wear, decay: f64, risen: &[f64; 4]) -> f64 {
    let at_least = |grade: u8| match grade {
        0 => 1.0,
        g @ 1..=4 => 1.0 / (1.0 + decay * risen[g as usize - 1]),
        _ => 0.0,
    };
    (at_least(sign.grade) - at_least(sign.grade + 1)).ln()
}

/// A cell of age and the cells of life beyond it; the same order everywhere below.
fn cells() -> impl Iterator<Item = (usize, usize)> {
    // Life j ends beyond age i from j = i / 2 on: see `life_of` and `age_of`.
    (0..CELLS).flat_map(|i| (i.div_ceil(2)..CELLS).map(move |j| (i, j)))
}

/// Everything that does not change while one piece of evidence after the other is left out: the price of a logarithm is paid
/// once.
struct Grid {
    life: Vec<f64>,
    /// For each sign, how well it fits, cell by cell.
    signs: Vec<Vec<f64>>,
}

impl Grid {
    fn of(input: &LifeInput) -> Grid {
        let decays: Vec<f64> = cells().map(|(i, j)| (-age_of(i) / life_of(j) / THETA_WIDTH).exp()).collect();
        let signs = input.wear.iter().map(|w| {
            let shift = if w.indicator == "ridge-cap" { RIDGE_CAP_SHIFT } else { 0.0 };
            let risen = THETA.map(|t| ((t + shift) / THETA_WIDTH).exp());
            decays.iter().map(|d| sign_fits(w, *d, &risen)).collect()
        });
        let signs = signs.collect();
        Grid { life: life_prior(input.median_life_years), signs }
    }

    /// The joint posterior with these ages and the signs that are asked for; none when nothing is possible.
    fn weigh(&self, ages: &[f64], with: impl Fn(usize) -> bool) -> Option<Posterior> {
        let used: Vec<&Vec<f64>> = self.signs.iter().enumerate().filter(|(k, _)| with(*k)).map(|(_, s)| s).collect();
        // Signs go together: each counts less the more there are.
        let power = 1.0 / (1.0 + 0.5 * (used.len() as f64 - 1.0));
        let mut p = Posterior { age: vec![0.0; CELLS], life: vec![0.0; CELLS], remaining: vec![0.0; CELLS * 2] };
        for (k, (i, j)) in cells().enumerate() {
            if ages[i] <= 0.0 {
                continue;
            }
            let fits: f64 = used.iter().map(|s| s[k]).sum();
            let w = ages[i] * self.life[j] * if used.is_empty() { 1.0 } else { (fits * power).exp() };
            p.age[i] += w;
            p.life[j] += w;
            p.remaining[2 * j - i] += w;
        }
        let total: f64 = p.age.iter().sum();
        /// Less than this is the noise of multiplying, not a chance.
        const NOTHING: f64 = 1e-300;
        if total.is_nan() || total <= NOTHING {
            return None;
        }
        for cells in [&mut p.age, &mut p.life, &mut p.remaining] {
            cells.iter_mut().for_each(|c| *c /= total);
        }
        Some(p)
    }
}

struct Posterior {
    /// Mass by age cell, by life cell, and by remaining life in quarter years from an eighth on.
    age: Vec<f64>,
    life: Vec<f64>,
    remaining: Vec<f64>,
}

fn weigh(input: &LifeInput) -> Option<Posterior> {
    Grid::of(input).weigh(&age_factor(input), |_| true)
}

fn spread(cells: &[f64], value: impl Fn(usize) -> f64) -> Spread {
    [0.1, 0.5, 0.9].map(|q| {
        let mut sum = 0.0;
        let at = cells.iter().position(|c| {
            sum += c;
            sum >= q - 1e-12
        });
        value(at.unwrap_or(cells.len() - 1))
    })
}

/// A cell of remaining life: life less age always ends on an odd eighth.
fn remaining_of(k: usize) -> f64 {
    AGE_CELL * (k as f64 + 0.5)
}

fn moments(cells: &[f64], value: impl Fn(usize) -> f64) -> (f64, f64) {
    let mean: f64 = cells.iter().enumerate().map(|(i, c)| c * value(i)).sum();
    let var: f64 = cells.iter().enumerate().map(|(i, c)| c * (value(i) - mean).powi(2)).sum();
    (mean, var.sqrt())
}

fn check(input: &LifeInput) -> Result<(), LifeError> {
    let years = |what, value: f64, least: f64, most: f64| {
        if (least..=most).contains(&value) { Ok(()) } else { Err(LifeError::Years { what, value, least, most }) }
    };
    years("The typical life", input.median_life_years, 1.0, 100.0)?;
    if let Some(b) = input.building_age_years {
        years("The building's age", b, 0.0, 1000.0)?;
    }
    for e in &input.age_evidence {
        match e {
            AgeEvidence::Permit { elapsed_years } => {
                years("The permit's age", *elapsed_years, 0.0, 60.0)?;
                if let Some(building) = input.building_age_years.filter(|b| *elapsed_years > b + 1.0) {
                    return Err(LifeError::BeforeTheBuilding { permit: *elapsed_years, building });
                }
            }
            AgeEvidence::Stated { years: y, .. } => years("The age that was stated", *y, 0.0, 60.0)?,
            AgeEvidence::Range { low_years, high_years } => {
                years("The range's lower end", *low_years, 0.0, 60.0)?;
                years("The range's upper end", *high_years, *low_years, 60.0)?;
            }
            AgeEvidence::Pictures { absent_years, present_years } => {
                for y in [absent_years, present_years].into_iter().flatten() {
                    years("A picture's age", *y, 0.0, 200.0)?;
                }
                if let (Some(absent), Some(present)) = (absent_years, present_years)
                    && present > absent
                {
                    return Err(LifeError::Pictures { present: *present, absent: *absent });
                }
            }
        }
    }
    if input.age_evidence.len() > MOST_PIECES || input.wear.len() > MOST_PIECES {
        return Err(LifeError::TooMany);
    }
    match input.wear.iter().find(|w| w.grade > 4) {
        Some(w) => Err(LifeError::Grade(w.indicator.chars().take(40).collect(), w.grade)),
        None => Ok(()),
    }
}

/// Weighs everything that is known of a covering.
///
/// # Errors
/// [`LifeError`] for figures that cannot be, and when the pieces cannot be true together.
pub fn life(input: &LifeInput) -> Result<Life, LifeError> {
    check(input)?;
    let grid = Grid::of(input);
    let ages = age_factor(input);
    let p = grid.weigh(&ages, |_| true).ok_or_else(|| LifeError::Impossible(at_odds(input)))?;
    let remaining = spread(&p.remaining, remaining_of);
    let left = |p: Option<Posterior>| p.map_or(remaining, |p| spread(&p.remaining, remaining_of));
    let mut evidence = Vec::new();
    for i in 0..input.age_evidence.len() {
        let mut without = input.clone();
        let piece = without.age_evidence.remove(i);
        evidence.push((piece.words(), left(grid.weigh(&age_factor(&without), |_| true))[1]));
    }
    for (i, sign) in input.wear.iter().enumerate() {
        evidence.push((format!("{}, grade {}", sign.indicator.replace('-', " "), sign.grade), left(grid.weigh(&ages, |k| k != i))[1]));
    }
    let papers = grid.weigh(&ages, |_| false);
    let condition = grid.weigh(&age_factor(&LifeInput { age_evidence: vec![], ..input.clone() }), |_| true);
    let conflict = conflict(input, papers.as_ref(), condition.as_ref());
    let age = spread(&p.age, age_of);
    let whole = |y: f64| y.round() as i64;
    let sentence = format!(
        "{} to {} years old; likely {} to {} left (estimate).",
        whole(age[0]),
        whole(age[2]).max(whole(age[0])),
        whole(remaining[0]),
        whole(remaining[2])
    );
    Ok(Life {
        age,
        life: spread(&p.life, life_of),
        remaining,
        age_mean: moments(&p.age, age_of).0,
        remaining_mean: moments(&p.remaining, remaining_of).0,
        p_last: [1.0, 3.0, 5.0, 10.0]
            .into_iter()
            .map(|y: f64| (format!("{y}"), p.remaining.iter().enumerate().filter(|(k, _)| remaining_of(*k) > y).map(|(_, c)| c).sum()))
            .collect(),
        evidence: evidence
            .into_iter()
            .map(|(what, without)| Moved { what, remaining_without: without, moved_by: remaining[1] - without })
            .collect(),
        schools: Schools { combined: remaining, typical: left(papers), condition: left(condition) },
        curves: Curves { age: by_half_year(&p.age), remaining: by_half_year(&p.remaining) },
        conflict,
        sentence,
    })
}

/// The fewest pieces that already cannot be true together, in words: every piece that can be left out is left out.
fn at_odds(input: &LifeInput) -> String {
    let mut rest = input.clone();
    let possible = |i: &LifeInput| weigh(i).is_some();
    let mut k = 0;
    while k < rest.age_evidence.len() {
        let mut fewer = rest.clone();
        fewer.age_evidence.remove(k);
        if possible(&fewer) { k += 1 } else { rest = fewer }
    }
    let without_building = LifeInput { building_age_years: None, ..rest.clone() };
    if rest.building_age_years.is_some() && !possible(&without_building) {
        rest = without_building;
    }
    let said = rest.age_evidence.iter().map(AgeEvidence::words);
    said.chain(rest.building_age_years.map(|b| format!("a building of {b} years"))).collect::<Vec<_>>().join("; ")
}

/// Chances by half years, for drawing.
fn by_half_year(quarters: &[f64]) -> Vec<f64> {
    quarters.chunks(2).map(|c| c.iter().sum()).collect()
}

/// Papers and wear are held against one another by the age each alone would give; more than two standard deviations apart
/// they cannot both be right.
fn conflict(input: &LifeInput, by_paper: Option<&Posterior>, by_wear: Option<&Posterior>) -> Option<String> {
    if input.age_evidence.is_empty() || input.wear.is_empty() {
        return None;
    }
    let (by_paper, by_wear) = (by_paper?, by_wear?);
    let ((m1, s1), (m2, s2)) = (moments(&by_paper.age, age_of), moments(&by_wear.age, age_of));
    // The papers' long tail of error would hide the conflict: what counts is what they say when they are right.
    let median = spread(&by_paper.age, age_of)[1];
    let apart = (median - m2).abs() / s2.hypot(s1.min(1.5));
    (apart > 2.0).then(|| {
        format!(
            "The papers alone say about {:.0} years ({m1:.0} on average), the wear alone about {m2:.0}: they cannot both be right.",
            median
        )
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn input(evidence: Vec<AgeEvidence>, wear: &[(&str, u8)]) -> LifeInput {
        LifeInput {
            median_life_years: 24.0,
            building_age_years: Some(33.0),
            age_evidence: evidence,
            wear: wear.iter().map(|(i, g)| Wear { indicator: (*i).into(), grade: *g }).collect(),
        }
    }

    #[test]
    fn what_cannot_be_is_said() {
        let e = |i: LifeInput| life(&i).unwrap_err().to_string();
        assert!(e(input(vec![AgeEvidence::Permit { elapsed_years: 40.0 }], &[])).contains("One of the two is wrong"));
        assert!(e(input(vec![AgeEvidence::Permit { elapsed_years: -1.0 }], &[])).contains("cannot be -1"));
        let pictures = |absent, present| AgeEvidence::Pictures { absent_years: Some(absent), present_years: Some(present) };
        assert!(e(input(vec![pictures(5.0, 9.0)], &[])).contains("cannot have gone away"));
        let both = e(input(vec![pictures(12.0, 9.0), pictures(6.0, 3.0)], &[]));
        assert!(both.contains("not there 6 years ago") && both.contains("there 9 years ago"), "{both}");
        let lone = e(input(vec![pictures(12.0, 9.0), AgeEvidence::Stated { years: 8.0, first_hand: true }, pictures(6.0, 3.0)], &[]));
        assert!(!lone.contains("says 8 years") && !lone.contains("building"), "only what is at odds is named: {lone}");
        assert!(e(input(vec![], &[("moss", 7)])).contains("0 to 4"));
    }

    #[test]
    fn papers_and_wear_that_disagree_are_named() {
        let heavy = [("ridge-cap", 4), ("granule-loss", 4), ("mat-showing", 4)];
        let at_odds = life(&input(vec![AgeEvidence::Permit { elapsed_years: 2.0 }], &heavy)).unwrap();
        assert!(at_odds.conflict.is_some());
        let agree = life(&input(vec![AgeEvidence::Permit { elapsed_years: 12.0 }], &[("granule-loss", 2)])).unwrap();
        assert_eq!(agree.conflict, None);
    }

    #[test]
    fn each_piece_tells_what_it_moved_and_the_schools_stand_side_by_side() {
        let l = life(&input(vec![AgeEvidence::Permit { elapsed_years: 13.0 }], &[("granule-loss", 3)])).unwrap();
        assert_eq!(l.evidence.len(), 2);
        assert!(l.evidence[1].moved_by < 0.0, "heavy wear takes years away");
        assert_eq!(l.schools.combined, l.remaining);
        assert!(l.schools.condition != l.schools.typical);
        assert!(l.sentence.ends_with("left (estimate)."));
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

        /// Probability is neither made nor lost, and more wear never leaves more years.
        #[test]
        fn masses_add_up_and_wear_takes_years(permit in 0.0..30.0_f64, grade in 0_u8..4) {
            let of = |g: u8| input(vec![AgeEvidence::Permit { elapsed_years: permit }], &[("granule-loss", g)]);
            let p = weigh(&of(grade)).unwrap();
            for cells in [&p.age, &p.life, &p.remaining] {
                prop_assert!((cells.iter().sum::<f64>() - 1.0).abs() < 1e-9);
            }
            let mean = |g: u8| life(&of(g)).unwrap().remaining_mean;
            prop_assert!(mean(grade + 1) <= mean(grade) + 1e-9);
        }
    }
}
