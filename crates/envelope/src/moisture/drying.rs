//! The same place again on other days: does it dry, how fast, and when will it be dry?
//!
//! What is wet dries toward its dry level as an exponential: m(t) = end + (m0 - end) e^(-t/tau). Start and rate are fitted by least
//! squares; the rate's range is that of the fit (Student's t, 90 %), and never narrower than the instrument's own step
//! allows. A range that reaches nought or below means the readings do not show that it dries. What is read several times
//! on one day counts by its wettest reading.

use super::record::Scale;
use serde::{Deserialize, Serialize};

/// Readings nearer to the dry level than this are dry, in the readings' own measure, where nothing else is said.
const WITHIN: f64 = 1.0;
/// Student's t for a two-sided range of 90 %, by degrees of freedom from one.
const T_90: [f64; 10] = [6.314, 2.920, 2.353, 2.132, 2.015, 1.943, 1.895, 1.860, 1.833, 1.812];
/// The same for many.
const T_90_MANY: f64 = 1.645;
/// Rates that are tried: from one that gets twenty times wetter over the days that were read to one that dries in an hour, 1/day.
const SLOWEST_TIMES_SPAN: f64 = -3.0;
const FASTEST_PER_DAY: f64 = 24.0;
/// Later than this nobody says when, days.
const FARTHEST_DAYS: f64 = 3650.0;

/// A reading of one place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DayReading {
    /// Days since some day.
    pub day: f64,
    /// What it showed.
    pub value: f64,
}

/// Input of `drying`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DryingInput {
    /// What the dry references show.
    pub dry_level: f64,
    /// The place's readings.
    pub readings: Vec<DayReading>,
    /// So near to the dry level it is dry; one where nothing is said.
    #[serde(default)]
    pub within: Option<f64>,
    /// The instrument's own step: the least error of a reading; that of pins in wood where nothing is said.
    #[serde(default)]
    pub step: Option<f64>,
}

/// Whether it dries.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Dries {
    /// The whole range of the rate is above nought.
    Yes,
    /// It is dry already.
    Dry,
    /// The range reaches nought: something may still feed it.
    NotShown,
    /// It gets wetter: the whole range lies below nought.
    Wetter,
    /// Two readings tell a rate, but not how sure it is.
    TooFew,
}

/// How a place dries.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Drying {
    /// The time in which what is too much falls to 37 %, days; none where it does not fall.
    pub tau_days: Option<f64>,
    /// Its range; the upper end is missing where the rate's range reaches nought.
    pub range: Option<[Option<f64>; 2]>,
    /// Rate, 1/day, and its range.
    pub rate_per_day: f64,
    /// The range of the rate.
    pub rate_range: Option<[f64; 2]>,
    /// The day on which it will be dry, as days are counted in the readings; none where it does not dry.
    pub dry_on_day: Option<f64>,
    /// Whether it dries, shown beyond chance.
    pub dries: bool,
    /// The same with its reasons apart.
    pub verdict: Dries,
    /// The fitted value on the first day.
    pub start: f64,
}

/// Why nothing can be said.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct DryingError(String);

/// The best start for a rate, and what is left.
fn at_rate(rate: f64, r: &[(f64, f64)]) -> (f64, f64) {
    let (mut top, mut below) = (0.0, 0.0);
    for (t, e) in r {
        let x = libm::exp(-rate * t);
        top += e * x;
        below += x * x;
    }
    let start = top / below;
    (start, r.iter().map(|(t, e)| (e - start * libm::exp(-rate * t)).powi(2)).sum())
}

/// One row for each time, in order, with the wettest reading of it: by how much it was over the dry level.
fn by_time(i: &DryingInput) -> Vec<(f64, f64)> {
    let mut rows: Vec<(f64, f64)> = i.readings.iter().map(|r| (r.day, r.value - i.dry_level)).collect();
    rows.sort_by(|a, b| a.0.total_cmp(&b.0).then(b.1.total_cmp(&a.1)));
    rows.dedup_by_key(|r| r.0);
    rows
}

/// Fits how a place dries.
///
/// # Errors
/// [`DryingError`] with fewer than two readings on different days or figures that cannot be.
pub fn drying(i: &DryingInput) -> Result<Drying, DryingError> {
    let err = |m: &str| Err(DryingError(m.into()));
    let within = i.within.unwrap_or(WITHIN);
    if !(i.dry_level.is_finite() && within.is_finite() && within > 0.0) {
        return err("Say what the dry references show, and how near to it is dry.");
    }
    if i.readings.iter().any(|r| !(r.day.is_finite() && r.value.is_finite())) {
        return err("A reading is missing its day or its figure.");
    }
    let step = i.step.unwrap_or(Scale::Wood.step());
    if !(step.is_finite() && step > 0.0) {
        return err("The step of an instrument is more than nought: the least it tells apart.");
    }
    let rows = by_time(i);
    let (Some(first), Some(last)) = (rows.first().copied(), rows.last().copied()) else { return err("There is no reading yet.") };
    if last.0 - first.0 < 1.0 / 24.0 {
        return err("Read the same place again on another day: one day does not show drying.");
    }
    let r: Vec<(f64, f64)> = rows.iter().map(|(t, e)| (t - first.0, *e)).collect();
    // A coarse look over all rates, then golden section around the best: the sum of squares may have more than one dip.
    let span = last.0 - first.0;
    let steps = 240;
    let rate_of = |k: f64| {
        let x = k / f64::from(steps);
        if x < 0.25 { SLOWEST_TIMES_SPAN / span * (1.0 - x / 0.25) } else { FASTEST_PER_DAY * ((x - 0.25) / 0.75).powi(4) }
    };
    let best =
        (0..=steps).min_by(|a, b| at_rate(rate_of(f64::from(*a)), &r).1.total_cmp(&at_rate(rate_of(f64::from(*b)), &r).1)).unwrap_or(0);
    let (mut lo, mut hi) = (rate_of(f64::from((best - 1).max(0))), rate_of(f64::from((best + 1).min(steps))));
    let golden = (5.0_f64.sqrt() - 1.0) / 2.0;
    for _ in 0..120 {
        let (a, b) = (hi - golden * (hi - lo), lo + golden * (hi - lo));
        if at_rate(a, &r).1 < at_rate(b, &r).1 { hi = b } else { lo = a }
    }
    let rate = f64::midpoint(lo, hi);
    let (start, left) = at_rate(rate, &r);
    let n = r.len();
    let rate_range = (n > 2).then(|| {
        let s2 = (left / (n - 2) as f64).max(step * step);
        // Gauss-Newton: the information about the rate, with the start fitted beside it.
        let (mut aa, mut ab, mut bb) = (0.0, 0.0, 0.0);
        for (t, _) in &r {
            let x = libm::exp(-rate * t);
            let (da, db) = (x, -start * t * x);
            aa += da * da;
            ab += da * db;
            bb += db * db;
        }
        let info = bb - ab * ab / aa;
        let se = if info > 0.0 { (s2 / info).sqrt() } else { f64::INFINITY };
        let t = T_90.get(n - 3).copied().unwrap_or(T_90_MANY);
        [rate - t * se, rate + t * se]
    });
    // A whole day of dry readings: a dry spot that was read beside a wet one on the same day hides nothing.
    let last_wet = rows.iter().rev().find(|x| x.1 > within).map_or(f64::NEG_INFINITY, |x| x.0);
    let dry_now = last_wet <= last.0 - 1.0;
    let verdict = match rate_range {
        _ if dry_now => Dries::Dry,
        None => Dries::TooFew,
        Some([lo, _]) if lo > 0.0 => Dries::Yes,
        Some([_, hi]) if hi < 0.0 => Dries::Wetter,
        Some(_) => Dries::NotShown,
    };
    let tau = |rate: f64| (rate > 1e-9).then(|| 1.0 / rate);
    let dries = matches!(verdict, Dries::Yes | Dries::Dry);
    let when = if verdict == Dries::Yes && start > within {
        Some(first.0 + libm::log(start / within) / rate).filter(|d| d - first.0 < FARTHEST_DAYS)
    } else if dry_now {
        // From the beginning of the dry days it ends with: what was dry before it got wet again does not count.
        rows.iter().find(|x| x.0 >= last_wet + 1.0).map(|x| x.0)
    } else {
        None
    };
    Ok(Drying {
        tau_days: tau(rate),
        range: rate_range.map(|[lo, hi]| [tau(hi), tau(lo)]),
        rate_per_day: rate,
        rate_range,
        dry_on_day: when,
        dries,
        verdict,
        start: start + i.dry_level,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn of(dry_level: f64, rows: &[(f64, f64)]) -> DryingInput {
        DryingInput {
            dry_level,
            readings: rows.iter().map(|(day, value)| DayReading { day: *day, value: *value }).collect(),
            within: None,
            step: None,
        }
    }

    #[test]
    fn a_wall_that_is_still_fed_does_not_dry() {
        let d = drying(&of(12.0, &[(0.0, 24.0), (3.0, 22.0), (7.0, 25.0), (14.0, 23.5)])).unwrap();
        assert_eq!(d.verdict, Dries::NotShown);
        assert!(!d.dries && d.dry_on_day.is_none());
        assert_eq!(d.range.unwrap()[1], None, "the slow end is open");
        let d = drying(&of(12.0, &[(0.0, 18.0), (3.0, 21.0), (7.0, 25.0), (10.0, 28.2)])).unwrap();
        assert_eq!(d.verdict, Dries::Wetter);
    }

    /// What reads the same on every day, or differs by less than an instrument can tell, is shown neither to dry nor to get wetter.
    #[test]
    fn what_stays_wet_is_not_shown_to_dry() {
        for (dry, rows) in [
            (12.0, [(0.0, 40.0), (10.0, 40.0), (20.0, 40.0)]),
            (10.0, [(0.0, 20.0), (10.0, 20.0), (20.0, 20.0)]),
            (10.0, [(0.0, 20.0), (10.0, 20.1), (20.0, 20.2)]),
            (10.0, [(0.0, 20.2), (10.0, 20.1), (20.0, 20.0)]),
        ] {
            let d = drying(&of(dry, &rows)).unwrap();
            assert_eq!((d.verdict, d.dries, d.dry_on_day), (Dries::NotShown, false, None), "{rows:?}");
        }
        // What falls by far more than a reading scatters is.
        assert_eq!(drying(&of(12.0, &[(0.0, 40.0), (10.0, 26.0), (20.0, 19.0)])).unwrap().verdict, Dries::Yes);
    }

    /// Dry is what it ends with, from the first of those days on; what it read before it got wet says nothing.
    #[test]
    fn dry_is_the_last_run_of_dry_days() {
        let d = drying(&of(10.0, &[(0.0, 11.0), (5.0, 20.0), (9.0, 24.0), (30.0, 11.0), (33.0, 10.5)])).unwrap();
        assert_eq!((d.verdict, d.dry_on_day), (Dries::Dry, Some(30.0)));
        // One day counts by its wettest reading, so that a dry spot read beside it hides nothing.
        for day in [[(9.0, 10.0), (9.0, 22.0)], [(9.0, 22.0), (9.0, 10.0)], [(9.2, 22.0), (9.9, 10.0)]] {
            let d = drying(&of(10.0, &[&[(0.0, 24.0)], &day[..]].concat())).unwrap();
            assert_ne!(d.verdict, Dries::Dry, "{day:?}");
        }
    }

    #[test]
    fn too_little_is_said_so() {
        assert!(drying(&of(12.0, &[])).is_err());
        assert!(drying(&of(12.0, &[(1.0, 20.0), (1.0, 21.0)])).is_err());
        let d = drying(&of(12.0, &[(0.0, 24.0), (5.0, 18.0)])).unwrap();
        assert_eq!(d.verdict, Dries::TooFew);
        assert!(d.range.is_none() && !d.dries);
    }

    proptest! {
        /// The order in which readings are given changes nothing, and a constant series is never shown to dry.
        #[test]
        fn order_says_nothing(mut rows in proptest::collection::vec(((0_u8..6).prop_map(f64::from), 5.0..60.0_f64), 3..9), by in 0_usize..9, level in 14.0..90.0_f64) {
            let one = drying(&of(10.0, &rows));
            let by = by % rows.len();
            rows.rotate_left(by);
            rows.reverse();
            prop_assert_eq!(&one, &drying(&of(10.0, &rows)));
            let same: Vec<(f64, f64)> = rows.iter().map(|(day, _)| (*day, level)).collect();
            if let Ok(d) = drying(&of(10.0, &same)) {
                prop_assert!(!d.dries && d.verdict != Dries::Wetter, "{:?}", d);
            }
        }

        /// What was made with a rate is found with it, wherever the days are counted from, and the range holds it.
        #[test]
        fn the_rate_is_found(tau in 1.0..30.0_f64, dry in 5.0..15.0_f64, over in 5.0..20.0_f64, from in -50.0..50.0_f64) {
            let rows: Vec<(f64, f64)> = (0..6).map(|k| {
                let t = f64::from(k) * tau / 3.0;
                (from + t, dry + over * (-t / tau).exp())
            }).collect();
            let d = drying(&DryingInput { step: Some(1e-6), ..of(dry, &rows) }).unwrap();
            prop_assert!((d.tau_days.unwrap() - tau).abs() < 1e-3 * tau, "{:?}", d);
            prop_assert!(d.dries);
            let when = d.dry_on_day.unwrap();
            prop_assert!((when - (from + tau * over.ln())).abs() < 0.01 * tau || when <= rows[5].0, "{:?}", d);
        }
    }
}
