//! `calc hail`: rates of hits with their exact ranges, slopes compared, and whether mending or a new covering costs less.

use super::chance::{at_least, mean_above, mean_count, pearson, spread};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

pub use crate::roof::shape::SQUARE_M2;
const USUAL_CONFIDENCE: f64 = 0.95;
/// Below this a spread over slopes is not taken for chance. A convention, stated in the result.
const UNLIKELY: f64 = 0.05;
/// More squares than this are not asked for: nobody would count them.
const MOST_COUNT: u32 = 10_000;
const MOST_SQUARES: usize = 200;

fn square() -> f64 {
    SQUARE_M2
}
fn confidence() -> f64 {
    USUAL_CONFIDENCE
}

/// A slope with its test squares.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HailSlope {
    /// Its name; each only once.
    pub name: String,
    /// The way it falls, degrees clockwise from north; none on a flat roof.
    #[serde(default)]
    pub azimuth_deg: Option<f64>,
    /// Hits in each of its squares.
    pub counts_per_square: Vec<u32>,
    /// The area of each, m², where they are not all of the one size.
    #[serde(default)]
    pub areas_m2: Option<Vec<f64>>,
}

impl HailSlope {
    /// The area of each square, m².
    fn areas(&self, i: &HailInput) -> Vec<f64> {
        self.areas_m2.clone().unwrap_or_else(|| vec![i.square_area_m2; self.counts_per_square.len()])
    }
}

/// What mending and renewing cost here. No opinion on who pays.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HailCost {
    /// Area of each slope in test squares, by name.
    pub slope_area_squares: BTreeMap<String, f64>,
    /// Mending one hit.
    pub repair_per_hit: f64,
    /// Coming at all.
    pub repair_fixed: f64,
    /// A new covering, for each square.
    pub replace_per_square: f64,
    /// How much harder mending is here than usual: 1 is usual.
    pub difficulty_factor: f64,
    /// In what money.
    #[serde(default)]
    pub currency: String,
}

/// Input of `calc hail`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HailInput {
    /// The slopes.
    pub slopes: Vec<HailSlope>,
    /// Area of one square, m².
    #[serde(default = "square")]
    pub square_area_m2: f64,
    /// How sure the ranges are.
    #[serde(default = "confidence")]
    pub confidence: f64,
    /// Costs, when they are asked for.
    #[serde(default)]
    pub cost: Option<HailCost>,
}

/// The rate of a slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlopeRate {
    /// Which.
    pub slope: String,
    /// The way it falls.
    pub azimuth_deg: Option<f64>,
    /// Hits in all its squares.
    pub count: u32,
    /// How many squares.
    pub squares: usize,
    /// What they cover, m².
    pub area_m2: f64,
    /// Hits for each 100 sq ft.
    pub rate_per_100sqft: f64,
    /// Its exact range (Garwood).
    pub ci95_per_100sqft: [f64; 2],
    /// Hits for each m².
    pub rate_per_m2: f64,
    /// Its range.
    pub ci95_per_m2: [f64; 2],
    /// The chance of squares as unlike each other on one evenly hit slope; none with one square.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub within_slope_p_exact: Option<f64>,
}

/// Whether the slopes were hit alike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Directional {
    /// The chance of a spread no likelier than this one, if all were hit alike; none when there are too many ways to list them.
    pub p_exact_probability_order: Option<f64>,
    /// The same by Pearson's figure.
    pub p_exact_pearson_order: Option<f64>,
    /// The same by the likelihood ratio.
    pub p_exact_likelihood_ratio_order: Option<f64>,
    /// Pearson's figure.
    pub pearson_chi2: f64,
    /// What the chi-square curve says of it: near only when the counts are not small.
    pub p_chi2_asymptotic: f64,
    /// The exact chance is under one in twenty; where it was not listed, the curve's.
    pub directional_at_5_percent: bool,
    /// The slope with the highest rate; none without a hit.
    pub highest_slope: Option<String>,
    /// The chance that this slope alone would have as many, if all were hit alike.
    pub highest_vs_rest_one_sided_p: f64,
    /// The same, since the highest of several was picked.
    pub highest_vs_rest_bonferroni_p: f64,
}

/// Mending or a new covering, on one slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BreakEven {
    /// Which.
    pub slope: String,
    /// Its area, squares.
    pub area_squares: f64,
    /// Above this many hits for each 100 sq ft a new covering costs less.
    pub break_even_hits_per_100sqft: f64,
    /// The least whole count in one square that does.
    pub smallest_whole_count_favouring_replacement: u32,
    /// What mending all hits costs at the rate that was found.
    pub repair_cost_at_rate: f64,
    /// What a new covering costs.
    pub replace_cost: f64,
    /// `repair`, `replace`, or undecided while the range holds the break-even.
    pub verdict: String,
    /// What the rate alone would say.
    pub verdict_on_point_estimate: String,
    /// The chance that the true rate is above the break-even (Jeffreys' prior).
    pub probability_rate_above_break_even: f64,
    /// So many more squares would be expected to settle it, if they are hit as those counted; none when it is settled, or when more
    /// than 200 in all would be needed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub more_squares: Option<u32>,
}

/// What `calc hail` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HailOut {
    /// Slopes, as they were given.
    pub slopes: Vec<SlopeRate>,
    /// All hits.
    pub total: u32,
    /// Slopes compared; none with one slope.
    pub directional: Option<Directional>,
    /// Costs compared, when they were given.
    pub break_even: Vec<BreakEven>,
}

/// Why nothing can be said.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct HailError(String);

fn check(i: &HailInput) -> Result<(), HailError> {
    let err = |m: String| Err(HailError(m));
    if i.slopes.is_empty() {
        return err("No slope was given. Name at least one with its squares.".into());
    }
    if i.slopes.len() > MOST_SQUARES {
        return err(format!("{} slopes are more than one roof has; the most is {MOST_SQUARES}.", i.slopes.len()));
    }
    let mut names = std::collections::BTreeSet::new();
    for s in &i.slopes {
        if s.name.trim().is_empty() || !names.insert(&s.name) {
            return err(format!("Give each slope a name of its own; \u{201c}{}\u{201d} is empty or there twice.", s.name));
        }
        if s.counts_per_square.is_empty() {
            return err(format!("{} has no test square. Count at least one, or leave the slope out and say why.", s.name));
        }
        if s.counts_per_square.len() > MOST_SQUARES {
            return err(format!("{} has {} squares; the most is {MOST_SQUARES}.", s.name, s.counts_per_square.len()));
        }
        if let Some(c) = s.counts_per_square.iter().find(|c| **c > MOST_COUNT) {
            return err(format!("{}: {c} hits in one square cannot be. The most is {MOST_COUNT}.", s.name));
        }
        if let Some(a) = &s.areas_m2
            && (a.len() != s.counts_per_square.len() || !a.iter().all(|x| (0.01..=1000.0).contains(x)))
        {
            return err(format!("{}: give each of its squares one area, m², more than nought.", s.name));
        }
        if s.azimuth_deg.is_some_and(|a| !(-360.0..=720.0).contains(&a)) {
            return err(format!("{}: its direction is no bearing. Type degrees from 0 to 360.", s.name));
        }
    }
    if !(0.01..=1000.0).contains(&i.square_area_m2) {
        return err(format!("A square of {} m² cannot be. The usual one has 9.29 m².", i.square_area_m2));
    }
    if !(0.5..=0.9999).contains(&i.confidence) {
        return err(format!("A confidence of {} cannot be used. Type one from 0.5 to 0.9999, for example 0.95.", i.confidence));
    }
    let Some(c) = &i.cost else { return Ok(()) };
    let money = |what: &str, x: f64, least: f64| {
        if (least..=1e9).contains(&x) && x.is_finite() {
            Ok(())
        } else {
            Err(HailError(format!(
                "The cost \u{201c}{what}\u{201d} is {x}. It must be more than nought; leave costs out when they are not asked for."
            )))
        }
    };
    money("mending one hit", c.repair_per_hit, 1e-9)?;
    money("a new covering for each square", c.replace_per_square, 1e-9)?;
    money("how much harder it is", c.difficulty_factor, 1e-3)?;
    if !(0.0..=1e9).contains(&c.repair_fixed) {
        return err(format!("The cost of coming at all is {}. Type nought or more.", c.repair_fixed));
    }
    for s in &i.slopes {
        match c.slope_area_squares.get(&s.name) {
            None => return err(format!("The area of {} is missing among the costs.", s.name)),
            Some(a) if !(1e-6..=1e6).contains(a) => return err(format!("The area of {} is {a} squares, which cannot be.", s.name)),
            Some(_) => {}
        }
    }
    Ok(())
}

fn rate(s: &HailSlope, i: &HailInput) -> SlopeRate {
    let squares = s.counts_per_square.len();
    let count: u32 = s.counts_per_square.iter().sum();
    // Whatever its size, a square's hits are said for 100 sq ft and for a square metre.
    let areas = s.areas(i);
    let area: f64 = areas.iter().sum();
    let hundreds = area / SQUARE_M2;
    let range = mean_count(f64::from(count), i.confidence);
    SlopeRate {
        slope: s.name.clone(),
        azimuth_deg: s.azimuth_deg,
        count,
        squares,
        area_m2: area,
        rate_per_100sqft: f64::from(count) / hundreds,
        ci95_per_100sqft: range.map(|r| r / hundreds),
        rate_per_m2: f64::from(count) / area,
        ci95_per_m2: range.map(|r| r / area),
        within_slope_p_exact: (squares > 1)
            .then(|| spread(&s.counts_per_square, &areas.iter().map(|a| a / area).collect::<Vec<_>>()).map(|p| p.by_chance))
            .flatten(),
    }
}

/// The area that was looked at, in squares of 100 sq ft.
fn hundreds(s: &SlopeRate) -> f64 {
    s.area_m2 / SQUARE_M2
}

fn directional(slopes: &[SlopeRate]) -> Option<Directional> {
    if slopes.len() < 2 {
        return None;
    }
    let counts: Vec<u32> = slopes.iter().map(|s| s.count).collect();
    let looked: f64 = slopes.iter().map(|s| s.area_m2).sum();
    let shares: Vec<f64> = slopes.iter().map(|s| s.area_m2 / looked).collect();
    let exact = spread(&counts, &shares);
    let (figure, curve) = pearson(&counts, &shares);
    let total: u32 = counts.iter().sum();
    // The first of equals, so that the answer does not turn on rounding.
    let highest = (0..slopes.len()).fold(0, |best, k| if slopes[k].rate_per_m2 > slopes[best].rate_per_m2 { k } else { best });
    let alone = at_least(counts[highest], total, shares[highest]);
    Some(Directional {
        p_exact_probability_order: exact.map(|e| e.by_chance),
        p_exact_pearson_order: exact.map(|e| e.by_pearson),
        p_exact_likelihood_ratio_order: exact.map(|e| e.by_ratio),
        pearson_chi2: figure,
        p_chi2_asymptotic: curve,
        directional_at_5_percent: exact.map_or(curve, |e| e.by_chance) < UNLIKELY,
        highest_slope: (total > 0).then(|| slopes[highest].slope.clone()),
        highest_vs_rest_one_sided_p: alone,
        highest_vs_rest_bonferroni_p: (alone * slopes.len() as f64).min(1.0),
    })
}

/// So many more squares, hit as those counted, and the range would lie on one side.
fn more_squares(count: u32, squares: usize, per_square: f64, confidence: f64) -> Option<u32> {
    let rate = f64::from(count) / squares as f64;
    let settles = |more: u32| {
        let n = squares as f64 + f64::from(more);
        let [low, high] = mean_count(rate * n, confidence).map(|m| m / n);
        low > per_square || high < per_square
    };
    // No more than can be given back to this calculation.
    let most = (MOST_SQUARES - squares) as u32;
    if !settles(most) {
        return None;
    }
    // The range narrows with every square, so the least number is found by halving.
    let (mut no, mut yes) = (0, most);
    while yes - no > 1 {
        let mid = u32::midpoint(no, yes);
        if settles(mid) { yes = mid } else { no = mid }
    }
    Some(yes)
}

fn break_even(s: &SlopeRate, c: &HailCost, i: &HailInput) -> BreakEven {
    let area = c.slope_area_squares.get(&s.slope).copied().unwrap_or_default();
    let replace_cost = c.replace_per_square * area;
    let each = c.repair_per_hit * c.difficulty_factor * area;
    let even = ((replace_cost - c.repair_fixed) / each).max(0.0);
    let [low, high] = s.ci95_per_100sqft;
    let point = if s.rate_per_100sqft > even { "replace" } else { "repair" };
    let verdict = if low > even {
        "replace".to_owned()
    } else if high < even {
        "repair".to_owned()
    } else {
        format!("undecided at {} percent", (i.confidence * 1e4).round() / 1e2)
    };
    let settled = low > even || high < even;
    BreakEven {
        slope: s.slope.clone(),
        area_squares: area,
        break_even_hits_per_100sqft: even,
        // A count that costs the same favours neither.
        smallest_whole_count_favouring_replacement: (even.floor() + 1.0).min(f64::from(u32::MAX)) as u32,
        repair_cost_at_rate: c.repair_fixed + each * s.rate_per_100sqft,
        replace_cost,
        verdict,
        verdict_on_point_estimate: point.to_owned(),
        probability_rate_above_break_even: mean_above(s.count, even * hundreds(s)),
        more_squares: if settled { None } else { more_squares(s.count, s.squares, even * hundreds(s) / s.squares as f64, i.confidence) },
    }
}

/// Rates, slopes compared, costs compared.
///
/// # Errors
/// What is wrong with which figure, and what to do.
pub fn hail(input: &HailInput) -> Result<HailOut, HailError> {
    check(input)?;
    let slopes: Vec<SlopeRate> = input.slopes.iter().map(|s| rate(s, input)).collect();
    Ok(HailOut {
        total: slopes.iter().map(|s| s.count).sum(),
        directional: directional(&slopes),
        break_even: input.cost.iter().flat_map(|c| slopes.iter().map(move |s| break_even(s, c, input))).collect(),
        slopes,
    })
}
