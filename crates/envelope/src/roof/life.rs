//! How old a covering is and how long it will last: two unknowns, age and service life, weighed together on a grid by papers,
//! statements, dated pictures and wear. Remaining life is life less age, and below nought once the covering is overdue.
//!
//! Coverings follow one another: a worn-out one stays on until somebody replaces it, so that what came before the present one
//! follows from the lives and waits themselves (see [`renewal`](super::renewal)). The model is stated in full beside its reference
//! cases; thresholds, medians and error rates are rules of practice, and every result is an estimate with its range.

use super::evidence::MOST_PIECES;
pub use super::evidence::{AgeEvidence, Chances, Curves, Life, LifeError, LifeInput, Moved, RoofPart, Schools, Spread, Wear, Weighed};
use super::renewal::{CELL, Renewal, Start, normal};
use super::wear::{Graded, Sign, sign};
use crate::cores::both;

/// The middle of a cell of age or of life, years.
fn middle(i: usize) -> f64 {
    CELL * (i as f64 + 0.5)
}

/// What each age is worth by the papers and the building, and how much of it is the building's first covering.
struct Ages {
    weight: Vec<f64>,
    original: Vec<f64>,
}

/// Somebody's words on the age, and who said them.
fn spoken(e: &AgeEvidence) -> Option<Option<&str>> {
    match e {
        AgeEvidence::Stated { who, .. } | AgeEvidence::Range { who, .. } => Some(who.as_deref().map(str::trim).filter(|w| !w.is_empty())),
        _ => None,
    }
}

/// How well an age fits what one person said, for each cell.
fn fits(e: &AgeEvidence, n: usize) -> Vec<f64> {
    let flat = 1.0 / n as f64;
    let mixed = |wrong: f64, shape: &dyn Fn(f64) -> f64| (0..n).map(|i| (1.0 - wrong) * CELL * shape(middle(i)) + wrong * flat).collect();
    match e {
        AgeEvidence::Stated { years, first_hand, .. } => {
            let (sd, wrong) = if *first_hand { (1.5, 0.05) } else { (3.0, 0.15) };
            mixed(wrong, &|a| normal(a, *years, sd))
        }
        AgeEvidence::Range { low_years, high_years, .. } => {
            let soft = |a: f64| (1.0 - (low_years - a).max(a - high_years).max(0.0)).max(0.0);
            mixed(0.05, &|a| soft(a) / (high_years - low_years + 1.0))
        }
        _ => vec![1.0; n],
    }
}

/// The window that dated pictures leave: there since, not there before.
fn window(evidence: &[AgeEvidence]) -> (f64, f64) {
    evidence.iter().fold((0.0, f64::INFINITY), |(low, high), e| match e {
        AgeEvidence::Pictures { absent_years, present_years } => {
            (present_years.map_or(low, |p| p.max(low)), absent_years.map_or(high, |a| a.min(high)))
        }
        _ => (low, high),
    })
}

impl Ages {
    fn of(input: &LifeInput, evidence: &[AgeEvidence], renewal: &Renewal) -> Ages {
        let n = renewal.ages();
        let (mut weight, mut original) = (vec![0.0; n], vec![0.0; n]);
        let mut left = 1.0;
        let mut take = |start: &Start, share: f64, first: bool| {
            for (w, g) in weight.iter_mut().zip(renewal.from(start)) {
                *w += share * g;
            }
            if first {
                for (o, s) in original.iter_mut().zip(&start.mass) {
                    *o += share * s;
                }
            }
        };
        // Newest first: each is right with its own probability, and only what is left is asked of the next.
        let mut documents: Vec<(&AgeEvidence, f64, f64)> =
            evidence.iter().filter_map(|e| e.document().map(|(y, right)| (e, y, right))).collect();
        documents.sort_by(|a, b| a.1.total_cmp(&b.1));
        for (e, elapsed, right) in documents {
            let start = if matches!(e, AgeEvidence::Permit { .. }) { Start::permit(elapsed, n) } else { Start::invoice(elapsed, n) };
            take(&start, left * right, input.building_age_years.is_some_and(|b| elapsed >= b - 1.0));
            left -= left * right * start.mass.iter().sum::<f64>();
        }
        match input.building_age_years {
            Some(b) => take(&Start::building(b, n), left, true),
            None => {
                let even = renewal.any_time();
                weight.iter_mut().for_each(|w| *w += left * even);
            }
        }
        // One person counts once, by the last thing said; several are tempered, since they have talked to one another.
        let mut people: Vec<(Option<&str>, &AgeEvidence)> = Vec::new();
        for e in evidence {
            let Some(who) = spoken(e) else { continue };
            match people.iter_mut().find(|(w, _)| who.is_some() && *w == who) {
                Some(same) => same.1 = e,
                None => people.push((who, e)),
            }
        }
        if !people.is_empty() {
            let power = 1.0 / (1.0 + 0.5 * (people.len() as f64 - 1.0));
            let said: Vec<Vec<f64>> = people.iter().map(|(_, e)| fits(e, n)).collect();
            for i in 0..n {
                let f = said.iter().map(|s| s[i]).product::<f64>().powf(power);
                weight[i] *= f;
                original[i] *= f;
            }
        }
        let (low, high) = window(evidence);
        if low > 0.0 || high.is_finite() {
            for i in 0..n {
                let (from, to) = (CELL * i as f64, CELL * (i + 1) as f64);
                let share = ((to.min(high) - from.max(low)) / CELL).clamp(0.0, 1.0);
                weight[i] *= share;
                original[i] *= share;
            }
        }
        Ages { weight, original }
    }
}

/// Several signs of one slope say much the same: each counts less the more there are.
fn tempered(signs: usize) -> f64 {
    1.0 / (1.0 + 0.5 * (signs as f64 - 1.0))
}

/// Chances of age, life and what is left; cells of a quarter year.
#[derive(Debug, Clone)]
struct Posterior {
    age: Vec<f64>,
    life: Vec<f64>,
    /// By life less age: index `ages` is nought.
    left: Vec<f64>,
    ages: usize,
    original: f64,
}

/// Chances of what is left alone.
type Left = Vec<f64>;

/// Everything that is asked of one slope, from one walk over the grid.
struct Walked {
    all: Posterior,
    /// Without the signs, with the building alone, without each piece and without each sign.
    without_wear: Left,
    without_papers: Option<Left>,
    without_piece: Vec<Left>,
    without_sign: Vec<Left>,
    /// Chances of age by the papers alone, and by the signs alone.
    by_papers: Option<Vec<f64>>,
    by_signs: Option<Vec<f64>>,
}

fn sum(cells: &[f64]) -> f64 {
    cells.iter().sum()
}

fn normalised(mut cells: Left) -> Option<Left> {
    /// Less than this is the noise of multiplying, not a chance.
    const NOTHING: f64 = 1e-300;
    let all = sum(&cells);
    (all > NOTHING).then(|| {
        cells.iter_mut().for_each(|c| *c /= all);
        cells
    })
}

/// A cell whose prior is this small a part of the largest is not walked, unless nothing larger fits.
const NEGLIGIBLE: f64 = 1e-14;

struct Model<'a> {
    renewal: Renewal,
    signs: Vec<(&'static Sign, u8)>,
    input: &'a LifeInput,
}

impl<'a> Model<'a> {
    fn of(input: &'a LifeInput) -> Model<'a> {
        let counted = input.age_evidence.iter().filter_map(|e| e.document().map(|(y, _)| y)).fold(0.0, f64::max);
        let present = window(&input.age_evidence).0;
        let oldest = input.building_age_years.map_or((3.0 * input.median_life_years).max(counted + 1.0).max(present + 1.0), |b| b + 1.0);
        Model {
            renewal: Renewal::new(input.median_life_years, input.shape, input.wait_years, oldest),
            signs: input.wear.iter().filter_map(|w| Some((sign(&w.indicator)?, w.grade))).collect(),
            input,
        }
    }

    fn ages(&self, evidence: &[AgeEvidence]) -> Ages {
        Ages::of(self.input, evidence, &self.renewal)
    }

    /// Weighs everything; none when nothing is possible.
    fn walk(&self) -> Option<Walked> {
        let ages = self.ages(&self.input.age_evidence);
        let pieces = &self.input.age_evidence;
        let papers = (!pieces.is_empty()).then(|| self.ages(&[]).weight);
        let without: Vec<Vec<f64>> = (0..pieces.len())
            .map(|k| {
                let fewer: Vec<AgeEvidence> = pieces.iter().enumerate().filter(|(i, _)| *i != k).map(|(_, e)| e.clone()).collect();
                self.ages(&fewer).weight
            })
            .collect();
        self.over(&ages, papers.as_deref(), &without, NEGLIGIBLE).or_else(|| self.over(&ages, papers.as_deref(), &without, 0.0))
    }

    fn over(&self, ages: &Ages, papers: Option<&[f64]>, without: &[Vec<f64>], least: f64) -> Option<Walked> {
        let (n, m) = (self.renewal.ages(), self.renewal.lives());
        let alternatives: Vec<&[f64]> = papers.into_iter().chain(without.iter().map(Vec::as_slice)).collect();
        let top = |cells: &[f64]| cells.iter().copied().fold(0.0, f64::max);
        let most_life = top(&self.renewal.life);
        let most = top(&ages.weight) * most_life;
        let step = Step {
            ages,
            mosts: alternatives.iter().map(|a| top(a) * most_life).collect(),
            alternatives,
            graded: self.signs.iter().map(|(s, grade)| Graded::new(s, *grade)).collect(),
            most,
            least,
        };
        // Every second age to each thread: the heavy ones lie together.
        let (even, odd) = both(|| self.sums(&step, (0..n).step_by(2)), || self.sums(&step, (1..n).step_by(2)));
        let mut sums = even.with(odd);
        let total = sum(&sums.left);
        // What was not walked over must be nothing beside what was.
        const NOTHING_BESIDE: f64 = 1e6;
        if least > 0.0 && total < NOTHING_BESIDE * least * most * (n * m) as f64 {
            return None;
        }
        let left = normalised(sums.left)?;
        let by_age = |weight: &[f64]| weight.iter().zip(&sums.fits).map(|(w, f)| w * f).collect::<Vec<f64>>();
        let age: Vec<f64> = by_age(&ages.weight).into_iter().map(|c| c / total).collect();
        sums.life.iter_mut().for_each(|c| *c /= total);
        let original = by_age(&ages.original).iter().sum::<f64>() / total;
        // What the papers say of the age needs no sign, and what the signs say none of the papers.
        let by_papers = normalised(ages.weight.iter().enumerate().map(|(i, w)| w * self.renewal.lasts(i)).collect());
        let by_signs = papers.and_then(|p| normalised(by_age(p)));
        let mut others = sums.others.into_iter().map(|o| normalised(o).unwrap_or_else(|| left.clone()));
        let without_papers = papers.and_then(|_| others.next());
        Some(Walked {
            without_papers,
            without_piece: others.collect(),
            without_wear: normalised(sums.dry).unwrap_or_else(|| left.clone()),
            without_sign: sums.fewer.into_iter().map(|f| normalised(f).unwrap_or_else(|| left.clone())).collect(),
            by_papers,
            by_signs,
            all: Posterior { age, life: sums.life, left, ages: n, original },
        })
    }

    /// Walks over some ages and every life.
    fn sums(&self, step: &Step<'_>, some: impl Iterator<Item = usize>) -> Sums {
        let r = &self.renewal;
        let (n, m) = (r.ages(), r.lives());
        let blank = || vec![0.0; n + m];
        let mut out = Sums {
            fits: vec![0.0; n],
            life: vec![0.0; m],
            left: blank(),
            dry: blank(),
            others: vec![blank(); step.alternatives.len()],
            fewer: vec![blank(); self.signs.len()],
        };
        let strong = self.signs.iter().filter(|(s, _)| !s.faint).count();
        let (power, one_less) = (tempered(strong), tempered(strong.saturating_sub(1).max(1)));
        let mut logs = vec![0.0; self.signs.len()];
        for i in some {
            let weight = step.ages.weight[i];
            if weight <= 0.0 && step.alternatives.iter().all(|a| a[i] <= 0.0) {
                continue;
            }
            // The largest prior of this age that is worth walking over.
            let worth = step.alternatives.iter().zip(&step.mosts).map(|(a, most)| (a[i], *most)).chain([(weight, step.most)]);
            let worth = worth.filter(|(a, _)| *a > 0.0).map(|(a, most)| step.least * most / a).fold(f64::INFINITY, f64::min);
            for j in 0..m {
                let prior = r.life[j] * r.stays(i, j);
                if prior <= 0.0 || prior <= worth {
                    continue;
                }
                let used = middle(i) / middle(j);
                let at = n + j - i;
                let (mut loud, mut faint) = (0.0, 0.0);
                for ((log, g), (s, _)) in logs.iter_mut().zip(&step.graded).zip(&self.signs) {
                    *log = g.log_fit(used);
                    if s.faint { faint += s.power * *log } else { loud += *log }
                }
                let fit = if logs.is_empty() { 1.0 } else { (power * loud + faint).exp() };
                let fits = prior * fit;
                out.fits[i] += fits;
                out.life[j] += weight * fits;
                out.left[at] += weight * fits;
                out.dry[at] += weight * prior;
                for (other, a) in out.others.iter_mut().zip(&step.alternatives) {
                    other[at] += a[i] * fits;
                }
                if weight > 0.0 {
                    for ((left, log), (s, _)) in out.fewer.iter_mut().zip(&logs).zip(&self.signs) {
                        let log = if s.faint { power * loud + faint - s.power * log } else { one_less * (loud - log) + faint };
                        left[at] += weight * prior * log.exp();
                    }
                }
            }
        }
        out
    }
}

/// What a walk needs at every cell.
struct Step<'a> {
    ages: &'a Ages,
    /// What else each age may be worth, and the most of each.
    alternatives: Vec<&'a [f64]>,
    mosts: Vec<f64>,
    graded: Vec<Graded>,
    most: f64,
    least: f64,
}

/// What a walk adds up: by age how well it fits whatever it is worth, by life, and by life less age.
struct Sums {
    fits: Vec<f64>,
    life: Vec<f64>,
    left: Left,
    dry: Left,
    others: Vec<Left>,
    fewer: Vec<Left>,
}

impl Sums {
    /// Both together.
    fn with(mut self, other: Sums) -> Sums {
        let Sums { fits, life, left, dry, others, fewer } = other;
        let own = [&mut self.fits, &mut self.life, &mut self.left, &mut self.dry];
        let own = own.into_iter().chain(&mut self.others).chain(&mut self.fewer);
        for (mine, theirs) in own.zip([fits, life, left, dry].into_iter().chain(others).chain(fewer)) {
            mine.iter_mut().zip(theirs).for_each(|(a, b)| *a += b);
        }
        self
    }
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

fn mean(cells: &[f64], value: impl Fn(usize) -> f64) -> f64 {
    cells.iter().enumerate().map(|(i, c)| c * value(i)).sum()
}

/// Chance of more than so many years; what lies on the line counts half.
fn more_than(left: &[f64], ages: usize, years: f64) -> f64 {
    let line = |k: usize| CELL * (k as f64 - ages as f64) - years;
    left.iter()
        .enumerate()
        .map(|(k, c)| {
            if line(k) > 1e-9 {
                *c
            } else if line(k) > -1e-9 {
                c / 2.0
            } else {
                0.0
            }
        })
        .sum()
}

fn check(input: &LifeInput) -> Result<(), LifeError> {
    let years = |what, value: f64, least: f64, most: f64| {
        if (least..=most).contains(&value) { Ok(()) } else { Err(LifeError::Years { what, value, least, most }) }
    };
    years("The typical life", input.median_life_years, 1.0, 150.0)?;
    years("The wait until somebody renews it", input.wait_years, 0.1, 30.0)?;
    years("The shape of the lives", input.shape, 1.0, 20.0)?;
    if let Some(b) = input.building_age_years {
        years("The building's age", b, 0.0, 1000.0)?;
    }
    for e in &input.age_evidence {
        match e {
            AgeEvidence::Permit { elapsed_years, right, .. } | AgeEvidence::Invoice { elapsed_years, right, .. } => {
                years("The paper's age", *elapsed_years, 0.0, 1000.0)?;
                if !(0.0..=1.0).contains(right) {
                    return Err(LifeError::Chance(*right));
                }
                if let Some(building) = input.building_age_years.filter(|b| *elapsed_years > b + 1.0) {
                    return Err(LifeError::BeforeTheBuilding { permit: *elapsed_years, building });
                }
            }
            AgeEvidence::Stated { years: y, .. } => years("The age that was stated", *y, 0.0, 1000.0)?,
            AgeEvidence::Range { low_years, high_years, .. } => {
                years("The range's lower end", *low_years, 0.0, 1000.0)?;
                years("The range's upper end", *high_years, *low_years, 1000.0)?;
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
    for w in &input.wear {
        if sign(&w.indicator).is_none() {
            return Err(LifeError::Sign(w.indicator.chars().take(40).collect()));
        }
        if w.grade > 4 {
            return Err(LifeError::Grade(w.indicator.chars().take(40).collect(), w.grade));
        }
    }
    Ok(())
}

/// Weighs everything that is known of a covering. What cannot be true together is an answer too, with no figures.
///
/// # Errors
/// [`LifeError`] for figures that cannot be.
pub fn weighed(input: &LifeInput) -> Result<Weighed, LifeError> {
    match life(input) {
        Ok(life) => Ok(Weighed { contradiction: false, life: Some(life) }),
        Err(LifeError::Impossible(_)) => Ok(Weighed { contradiction: true, life: None }),
        Err(e) => Err(e),
    }
}

/// Weighs everything that is known of a covering.
///
/// # Errors
/// [`LifeError`] for figures that cannot be, and when the pieces cannot be true together.
pub fn life(input: &LifeInput) -> Result<Life, LifeError> {
    check(input)?;
    let model = Model::of(input);
    let walked = model.walk().ok_or_else(|| LifeError::Impossible(at_odds(input)))?;
    let p = &walked.all;
    let years_left = |k: usize| CELL * (k as f64 - p.ages as f64);
    let of = |left: &Left| spread(left, years_left);
    let remaining = of(&p.left);
    let pieces = input.age_evidence.iter().map(AgeEvidence::words).zip(&walked.without_piece);
    let signs = input.wear.iter().map(Wear::words).zip(&walked.without_sign);
    let evidence: Vec<Moved> = pieces
        .chain(signs)
        .map(|(what, left)| {
            let without = of(left)[1];
            Moved { what, remaining_without: without, moved_by: remaining[1] - without }
        })
        .collect();
    let age = spread(&p.age, middle);
    // Half years, aligned to the visit.
    let from = (0..p.left.len()).find(|k| p.left[*k] > 1e-6).unwrap_or(p.ages);
    let before = p.ages.saturating_sub(from).div_ceil(2) * 2;
    const WITHIN: [f64; 4] = [1.0, 3.0, 5.0, 10.0];
    let lasts = WITHIN.map(|y| more_than(&p.left, p.ages, y));
    let p_overdue = 1.0 - more_than(&p.left, p.ages, 0.0);
    let p_original = input.building_age_years.map(|_| p.original);
    Ok(Life {
        chances: Chances {
            last: lasts.map(chance_in_words).to_vec(),
            overdue: chance_in_words(p_overdue),
            original: p_original.map(chance_in_words),
        },
        age,
        life: spread(&p.life, middle),
        remaining,
        age_mean: mean(&p.age, middle),
        life_mean: mean(&p.life, middle),
        remaining_mean: mean(&p.left, years_left),
        p_last: WITHIN.iter().zip(lasts).map(|(y, p)| (format!("{y}"), p)).collect(),
        p_overdue,
        p_original,
        evidence,
        schools: Schools {
            combined: remaining,
            typical: of(&walked.without_wear),
            condition: walked.without_papers.as_ref().map_or(remaining, of),
        },
        curves: Curves {
            age: by_half_year(&p.age),
            remaining_from: -(CELL * before as f64),
            remaining: by_half_year(&p.left[p.ages - before.min(p.ages)..]),
        },
        conflicts: conflicts(input, &walked),
        sentence: format!("{} old; {} (estimate).", ages_in_words(age), left_in_words(remaining)),
    })
}

fn whole(y: f64) -> i64 {
    y.round() as i64
}

fn ages_in_words(age: Spread) -> String {
    let (a, b) = (whole(age[0]), whole(age[2]));
    if a == b { format!("About {a} years") } else { format!("{a} to {b} years") }
}

/// What is left in words: years, or overdue by so many. The one place that says it.
pub fn left_in_words(left: Spread) -> String {
    let [low, middle, high] = left.map(whole);
    match (low, high) {
        (_, high) if high < 0 => format!("overdue by about {} years ({} to {})", -middle, -high, -low),
        (low, high) if low < 0 && middle < 0 => {
            format!("probably overdue, by about {} years; at best {high} left, at worst overdue by {}", -middle, -low)
        }
        (low, high) if low < 0 => format!("likely up to {high} left, about {middle}; perhaps overdue already, by up to {}", -low),
        (low, high) if low == high => format!("likely about {low} left"),
        (low, high) => format!("likely {low} to {high} left"),
    }
}

/// A chance as it is said: never certain, never nothing.
fn chance_in_words(p: f64) -> String {
    match p * 100.0 {
        c if c > 99.0 => "over 99 %".into(),
        c if c < 1.0 => "under 1 %".into(),
        c => format!("{c:.0} %"),
    }
}

/// The fewest pieces that already cannot be true together, in words: every piece that can be left out is left out.
fn at_odds(input: &LifeInput) -> String {
    let mut rest = input.clone();
    let possible = |i: &LifeInput| Model::of(i).walk().is_some();
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
    quarters.chunks(2).map(sum).collect()
}

/// What cannot both be right, each in a sentence: pictures against papers, papers against wear.
fn conflicts(input: &LifeInput, walked: &Walked) -> Vec<String> {
    let mut out = Vec::new();
    let (low, high) = window(&input.age_evidence);
    for e in &input.age_evidence {
        let Some((elapsed, _)) = e.document() else { continue };
        /// Work follows a permit within half a year, and stands before it is paid.
        const AFTER_YEARS: f64 = 0.5;
        if elapsed < low - AFTER_YEARS || elapsed - AFTER_YEARS > high {
            out.push(format!(
                "The {} does not fit the dated pictures: on one of them the covering is as it should not be. Look at both dates again.",
                e.words()
            ));
        }
    }
    if input.age_evidence.is_empty() || input.wear.is_empty() {
        return out;
    }
    // By the age each alone would give: more than two standard deviations apart they cannot both be right.
    let (Some(by_paper), Some(by_wear)) = (&walked.by_papers, &walked.by_signs) else { return out };
    let sd = |cells: &[f64], m: f64| cells.iter().enumerate().map(|(i, c)| c * (middle(i) - m).powi(2)).sum::<f64>().sqrt();
    let (m1, m2) = (mean(by_paper, middle), mean(by_wear, middle));
    // The papers' long tail of error would hide the conflict: what counts is what they say when they are right.
    let median = spread(by_paper, middle)[1];
    let apart = (median - m2).abs() / sd(by_wear, m2).hypot(sd(by_paper, m1).min(1.5));
    if apart > 2.0 {
        out.push(format!(
            "The papers alone say about {median:.0} years ({m1:.0} on average), the wear alone about {m2:.0}: they cannot both be right."
        ));
    }
    out
}

#[cfg(test)]
mod tests;
