//! Which hours could have fed a spot, and how wet it would be when somebody looked.

use super::form::{RainHour, TraceCandidate};
use super::place::apart;
use super::weights::{Origin, Weights};
use std::f64::consts::LN_2;

/// Wind under which nothing is driven onto a wall, and which an hour that is not listed has, m/s.
const CALM_M_S: f64 = 3.0;
/// The wind the driven rain is measured against, m/s.
const WIND_MEASURE_M_S: f64 = 4.0;
/// After so many hours without rain the nights are taken as clear.
const CLEAR_H: f64 = 48.0;
/// Hours of the day in which what a cold night brought is still seen.
const MORNING: std::ops::Range<f64> = 4.0..10.0;
/// The hours a pond looks back.
const POND_HOURS: usize = 24;

/// What may differ from spot to spot and is not known: how much makes it show (three, the middle one twice as likely), how fast it
/// dries (two).
pub(super) const UNKNOWNS: usize = 6;
const STEPS: [(f64, f64); 3] = [(-1.2, 0.25), (0.0, 0.5), (1.2, 0.25)];
const DRYING: [f64; 2] = [-1.0, 1.0];

/// How likely each of the unknown ways is.
pub(super) const fn share(k: usize) -> f64 {
    STEPS[k / 2].1 * 0.5
}

/// The record as one figure for each hour, without gaps.
#[derive(Debug, Clone)]
pub(super) struct Hours {
    /// The first hour, counted from some midnight.
    pub first: i64,
    pub mm: Vec<f64>,
    /// Wind and where from.
    pub wind: Vec<(f64, f64)>,
    /// Rain of the last 24 hours, this one with it.
    pub day: Vec<f64>,
}

impl Hours {
    /// From the rows of a record, to some hour.
    pub(super) fn new(rows: &[(i64, &RainHour)], last: i64) -> Self {
        let first = rows.iter().map(|r| r.0).min().unwrap_or(last).min(last);
        let n = usize::try_from(last - first).unwrap_or(0) + 1;
        let (mut mm, mut wind) = (vec![0.0; n], vec![(0.0, 0.0); n]);
        for (h, r) in rows {
            if let Some(i) = usize::try_from(h - first).ok().filter(|i| *i < n) {
                mm[i] = r.mm;
                wind[i] = (r.wind_m_s, r.wind_from_deg);
            }
        }
        let mut day = vec![0.0; n];
        let mut sum = 0.0;
        for i in 0..n {
            sum += mm[i];
            if i >= POND_HOURS {
                sum -= mm[i - POND_HOURS];
            }
            day[i] = f64::max(sum, 0.0);
        }
        Self { first, mm, wind, day }
    }
}

impl Hours {
    /// Hours since it last rained; many when it did not.
    fn since_rain(&self, t: f64) -> f64 {
        let i = usize::try_from(t.floor() as i64 - self.first).unwrap_or(0).min(self.mm.len() - 1);
        self.mm[..=i].iter().rev().position(|mm| *mm > 0.0).map_or(f64::INFINITY, |k| k as f64)
    }
}

fn logistic(x: f64) -> f64 {
    1.0 / (1.0 + (-x).exp())
}

/// What feeds the spot in one hour, in a measure of its kind.
fn hour(c: &TraceCandidate, o: Origin, at: &Hours, i: usize, w: &Weights) -> f64 {
    let mm = at.mm[i];
    // Most hours are dry, and but for ponds and spray heads nothing comes of them.
    if mm <= 0.0 && !matches!(o, Origin::Pond | Origin::SprayHead) {
        return 0.0;
    }
    let heavy = |mm: f64| (mm - w.rain_loss_mm).max(0.0).powf(w.rain_power);
    match o {
        Origin::RoofDetail | Origin::RoofField | Origin::EaveEnd | Origin::LetGo => heavy(mm),
        Origin::WallOpening | Origin::WallField => {
            let (speed, from) = at.wind[i];
            let driven = if speed < CALM_M_S {
                0.0
            } else {
                let onto = c.faces_deg.map_or(0.0, |f| apart(from, f).to_radians().cos().max(0.0));
                onto * (speed / WIND_MEASURE_M_S).powf(w.wind_power)
            };
            mm * (driven + w.wall_calm_share)
        }
        Origin::GutterSpill => {
            let over = mm * w.burst_times / c.from_mm_h.unwrap_or(25.0).max(0.1);
            mm * logistic(w.spill_sharp * over.ln())
        }
        Origin::Pond => {
            let day = at.day[i];
            if day <= 0.0 { 0.0 } else { logistic(w.pond_sharp * (day / c.from_mm.unwrap_or(10.0).max(0.1)).ln()) }
        }
        Origin::SprayHead => {
            let of_day = (at.first + i64::try_from(i).unwrap_or(0)).rem_euclid(24) as f64;
            c.hours
                .map_or(0.0, |[from, to]| f64::from(if from <= to { of_day >= from && of_day < to } else { of_day >= from || of_day < to }))
        }
        Origin::Plumbing | Origin::Condensation => 0.0,
    }
}

fn lag_and_drying(o: Origin, w: &Weights) -> (f64, f64) {
    match o {
        Origin::RoofDetail | Origin::RoofField => (w.roof_lag_h, w.roof_dry_h),
        Origin::EaveEnd | Origin::WallOpening | Origin::WallField => (w.wall_lag_h, w.wall_dry_h),
        Origin::GutterSpill | Origin::Pond | Origin::LetGo => (w.base_lag_h, w.base_dry_h),
        Origin::SprayHead => (w.base_lag_h, w.spray_dry_h),
        Origin::Plumbing | Origin::Condensation => (1.0, 1.0),
    }
}

/// How likely the spot is wet at each time, for each of the unknown ways, if this candidate feeds it. Times in hours since the same
/// midnight as the record.
pub(super) fn wet_chance(c: &TraceCandidate, o: Origin, at: &Hours, times: &[f64], w: &Weights) -> Vec<[f64; UNKNOWNS]> {
    if matches!(o, Origin::Plumbing | Origin::Condensation) {
        let often = if o == Origin::Plumbing { w.pipe_wet_chance } else { w.cold_wet_chance };
        let odds = (often / (1.0 - often)).ln();
        let weather = |t: f64| {
            if o == Origin::Plumbing {
                return 0.0;
            }
            let clear = at.since_rain(t) >= CLEAR_H;
            let morning = MORNING.contains(&t.rem_euclid(24.0));
            LN_2 * (f64::from(clear) * w.cold_clear_bits + f64::from(morning) * w.cold_morning_bits)
        };
        return times.iter().map(|t| std::array::from_fn(|k| logistic(odds + weather(*t) + w.duty_spread * STEPS[k / 2].0))).collect();
    }
    let feeds: Vec<f64> = (0..at.mm.len()).map(|i| hour(c, o, at, i, w)).collect();
    let (lag, dry) = lag_and_drying(o, w);
    let from = w.shows_from.of(o);
    let (sharp, false_wet) = match o {
        Origin::RoofDetail | Origin::RoofField | Origin::EaveEnd => (w.roof_sharp, w.roof_false_wet_chance),
        Origin::WallOpening | Origin::WallField => (w.wall_sharp, w.wall_false_wet_chance),
        _ => (w.base_sharp, w.base_false_wet_chance),
    };
    let mut order: Vec<usize> = (0..times.len()).collect();
    order.sort_by(|a, b| times[*a].total_cmp(&times[*b]));
    let mut out = vec![[0.0; UNKNOWNS]; times.len()];
    for (d, by) in DRYING.iter().enumerate() {
        // Water arrives over the lag and goes over the drying time: the difference of two exponentials, each kept as one running sum.
        let tau = dry * (w.dry_spread * by).exp();
        let rise = 1.0 / (1.0 / tau + 1.0 / lag);
        let (fall_h, rise_h) = ((-1.0 / tau).exp(), (-1.0 / rise).exp());
        let (mut slow, mut fast) = (0.0_f64, 0.0_f64);
        let mut next = order.iter().peekable();
        for (i, u) in feeds.iter().enumerate() {
            let begins = (at.first + i64::try_from(i).unwrap_or(0)) as f64;
            while let Some(&&s) = next.peek() {
                let part = times[s] - begins;
                if part >= 1.0 && i + 1 < feeds.len() {
                    break;
                }
                let part = part.max(0.0);
                let m = if part == 0.0 {
                    slow - fast
                } else {
                    let half = part.min(1.0) * u;
                    (slow * (-part / tau).exp() + half * (-part / 2.0 / tau).exp())
                        - (fast * (-part / rise).exp() + half * (-part / 2.0 / rise).exp())
                }
                .max(1e-9);
                for (k, (step, _)) in STEPS.iter().enumerate() {
                    let x = sharp * (m.ln() - from.ln() - w.shows_spread * step);
                    out[s][k * 2 + d] = logistic(x);
                }
                next.next();
            }
            slow = slow * fall_h + u * (-0.5 / tau).exp();
            fast = fast * rise_h + u * (-0.5 / rise).exp();
        }
    }
    for p in out.iter_mut().flatten() {
        *p = false_wet + (1.0 - false_wet - w.false_dry_chance) * *p;
    }
    out
}
