//! How long a count after a storm takes: rates with exact ranges, slopes compared, costs and the squares that would settle them; and
//! which of the storms on record it was.
#![allow(missing_docs, reason = "a benchmark")]

use divan::{Bencher, black_box};
use envelope::storm::events::{StormEvent, StormSide, WhichStormInput, which_storm};
use envelope::storm::hail::{HailCost, HailInput, HailSlope, SQUARE_M2, hail};

/// So many slopes with so many squares, all a little different; the dearer side of undecided, so that more squares are asked for.
fn count(slopes: usize, squares: usize) -> HailInput {
    let one = |s: usize| HailSlope {
        name: format!("S{s}"),
        azimuth_deg: Some(360.0 * s as f64 / slopes as f64),
        counts_per_square: (0..squares).map(|q| (5 + (s * 7 + q * 3) % 6) as u32).collect(),
        areas_m2: None,
    };
    let cost = HailCost {
        slope_area_squares: (0..slopes).map(|s| (format!("S{s}"), 8.0 + s as f64)).collect(),
        repair_per_hit: 55.0,
        repair_fixed: 240.0,
        replace_per_square: 460.0,
        difficulty_factor: 1.0,
        currency: "crowns".into(),
    };
    HailInput { slopes: (0..slopes).map(one).collect(), square_area_m2: SQUARE_M2, confidence: 0.95, cost: Some(cost) }
}

const SIZES: [(usize, usize); 3] = [(4, 2), (8, 5), (16, 20)];

#[divan::bench(args = [0, 1, 2])]
fn rates_and_costs(bencher: Bencher, size: usize) {
    let input = count(SIZES[size].0, SIZES[size].1);
    bencher.bench(|| hail(black_box(&input)).unwrap());
}

/// Ten years of storms against four slopes.
#[divan::bench(args = [5, 50, 200])]
fn which_of_so_many(bencher: Bencher, storms: usize) {
    let visit = jiff::civil::date(2026, 11, 25);
    let event = |k: usize| StormEvent {
        id: format!("E{k}"),
        on: visit.checked_sub(jiff::ToSpan::days(15 * k as i64 + 9)).unwrap(),
        hail_mm: (!k.is_multiple_of(3)).then_some(8.0 + (k % 7) as f64 * 4.0),
        gust_m_s: Some(15.0 + (k % 5) as f64 * 3.0),
        from_deg: Some((k * 37 % 360) as f64),
        km: (k % 9) as f64,
    };
    let side = |k: usize| StormSide {
        name: format!("S{k}"),
        faces_deg: Some(90.0 * k as f64),
        pitch: Some(0.6),
        count: 3 + 4 * k as u32,
        looked_at: 9.29,
    };
    let input = WhichStormInput {
        units: envelope::measure::Units::Metric,
        events: (0..storms).map(event).collect(),
        visit,
        slopes: (0..4).map(side).collect(),
        metals: vec![],
        largest_mm: Some(21.0),
        fresh: 6,
        oxidised: 1,
        covering_age: Some([9.0, 12.0, 16.0]),
        dated: vec![],
        crease_from_deg: Some(190.0),
        spatter_from_deg: Some(200.0),
    };
    bencher.bench(|| which_storm(black_box(&input)).unwrap());
}
