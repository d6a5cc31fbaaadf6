//! Laws of standing water, on land that is made up.

use super::pools::{Course, Mouth, Pools, Sill, ends_in};
use crate::gutter::downspout::Bore;
use crate::terrain::hollows::{Hollows, Land};
use proptest::prelude::*;

/// A field of bumps of so many cells a side, open at its border or closed in by a brim.
fn bumps(n: usize, seed: u64, height_m: f64, brim_m: Option<f64>) -> Land {
    let side = n + 2;
    let mut state = seed.wrapping_mul(2).wrapping_add(1);
    let mut next = || {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 40) as f64 / f64::from(1 << 24)
    };
    // A few waves, so that hollows are larger than a cell.
    let waves: Vec<[f64; 4]> = (0..4).map(|_| [next() * 1.2 - 0.6, next() * 1.2 - 0.6, next() * 6.3, next()]).collect();
    let (mut z, mut open) = (vec![0.0; side * side], vec![false; side * side]);
    for k in 0..side * side {
        let (x, y) = ((k % side) as f64, (k / side) as f64);
        let h: f64 = waves.iter().map(|w| w[3] * (w[0] * x + w[1] * y + w[2]).sin()).sum();
        z[k] = (h * height_m * 1e5).round() / 1e5;
        if k % side == 0 || k / side == 0 || k % side == side - 1 || k / side == side - 1 {
            (z[k], open[k]) = (brim_m.map_or(z[k] - 1e-6, |b| 4.0 * height_m + b), true);
        }
    }
    Land { nx: side, ny: side, cell_m: 0.5, z, open }
}

#[derive(Debug)]
struct World {
    land: Land,
    hollows: Hollows,
    sills: Vec<Sill>,
    /// By leaf, m³/s; and what passes over the border without a stay.
    comes: Vec<f64>,
    passes: f64,
}

fn world(n: usize, seed: u64, brim_m: Option<f64>, outlets: &[(usize, f64)], rain_mm_h: f64) -> World {
    let land = bumps(n, seed, 0.02, brim_m);
    let hollows = Hollows::of(&land);
    let mut comes = vec![0.0; hollows.leaves];
    let mut passes = 0.0;
    for k in (0..land.z.len()).filter(|k| !land.open[*k]) {
        let q = rain_mm_h / 3.6e6 * land.cell_m2();
        match ends_in(&land, &hollows, k) {
            Ok(leaf) => comes[leaf] += q,
            Err(_) => passes += q,
        }
    }
    let side = n + 2;
    let sills = outlets
        .iter()
        .enumerate()
        .map(|(i, (at, up))| {
            let cell = (1 + at / n % n) * side + 1 + at % n;
            let leaf = Some(hollows.basin[cell]).filter(|b| *b != u32::MAX).map(|b| b as usize);
            let mouth = if i % 2 == 0 {
                Mouth::Scupper { width_m: 0.2, height_m: 0.05 }
            } else {
                Mouth::Drain { bore: Bore::Round { diameter_mm: 75.0 }, strainer: true }
            };
            Sill { leaf, height_m: land.z[cell] + up, mouth, shut: false }
        })
        .collect();
    World { land, hollows, sills, comes, passes }
}

fn worlds() -> impl Strategy<Value = World> {
    let outlets = proptest::collection::vec((0_usize..400, 0.0..0.03_f64), 0..5);
    let brim = proptest::option::of(0.01..0.3_f64);
    (6_usize..20, any::<u64>(), brim, outlets, 5.0..300.0_f64)
        .prop_map(|(n, seed, brim, outlets, rain)| world(n, seed, brim, &outlets, rain))
}

#[test]
fn an_opening_takes_more_the_higher_water_stands_and_never_jumps() {
    let mouths = [
        Mouth::Scupper { width_m: 0.3, height_m: 0.1 },
        Mouth::Drain { bore: Bore::Round { diameter_mm: 100.0 }, strainer: false },
        Mouth::Drain { bore: Bore::Round { diameter_mm: 100.0 }, strainer: true },
    ];
    for m in mouths {
        assert!(m.takes(0.0) == 0.0 && m.takes(-1.0) == 0.0);
        for k in 1..600 {
            let (a, b) = (m.takes(f64::from(k - 1) * 1e-3), m.takes(f64::from(k) * 1e-3));
            assert!(b >= a && b - a < 2e-3, "{m:?} at {k} mm: {a} to {b}");
        }
    }
    // Ten centimetres wide, four deep: by the standard 100 · 40^1.5 / 24,000 litres a second.
    let q = Mouth::Scupper { width_m: 0.1, height_m: 0.1 }.takes(0.04);
    assert!((q * 1000.0 - 100.0 * 40.0_f64.powf(1.5) / 24_000.0).abs() < 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]

    /// Whatever the roof: in rain that does not change, what comes leaves, or is said to stay.
    #[test]
    fn steady_water_is_neither_made_nor_lost(w in worlds()) {
        let pools = Pools::new(&w.land, &w.hollows, &w.sills);
        let s = pools.steady(&w.comes);
        let came: f64 = w.comes.iter().sum();
        let went: f64 = s.outlets.iter().sum::<f64>() + s.edges.iter().map(|e| e.1).sum::<f64>() + s.stays;
        prop_assert!((came - went).abs() <= 1e-9 * came.max(1e-6), "{} came, {} went", came, went);
        for p in &s.pools {
            let brim = w.hollows.nodes[p.node].brim.map_or(f64::INFINITY, |b| b.height);
            prop_assert!(p.level_m <= brim + 1e-12, "water stands above its brim");
        }
        // No two stand as one and apart.
        for a in &s.pools {
            let mut up = w.hollows.nodes[a.node].whole;
            while let Some(n) = up {
                prop_assert!(s.pools.iter().all(|b| b.node != n));
                up = w.hollows.nodes[n].whole;
            }
        }
    }

    /// In a storm of any course as well, at every step.
    #[test]
    fn a_storm_is_neither_made_nor_lost(w in worlds(), course in proptest::collection::vec(0.0..3.0_f64, 1..40), seconds in 1.0..600.0_f64) {
        let pools = Pools::new(&w.land, &w.hollows, &w.sills);
        let mut c = Course::new(&pools);
        let mut came = 0.0;
        for strong in course {
            let comes: Vec<f64> = w.comes.iter().map(|q| q * strong * seconds).collect();
            came += comes.iter().sum::<f64>();
            c.step(seconds, &comes);
            let there = c.by_outlet.iter().sum::<f64>() + c.by_edge + c.standing();
            prop_assert!((came - there).abs() <= 1e-9 * came.max(1e-6), "{} came, {} are there", came, there);
            prop_assert!(c.by_outlet.iter().all(|q| *q >= 0.0) && c.standing() >= 0.0);
        }
    }

    /// A storm that goes on for ever comes to rest where steady rain does: two ways to one answer.
    #[test]
    fn a_long_storm_is_steady_rain(w in worlds()) {
        let pools = Pools::new(&w.land, &w.hollows, &w.sills);
        let s = pools.steady(&w.comes);
        prop_assume!(s.stays == 0.0);
        let mut c = Course::new(&pools);
        let step = |c: &mut Course<'_, '_>, seconds: f64| {
            let comes: Vec<f64> = w.comes.iter().map(|q| q * seconds).collect();
            c.step(seconds, &comes);
        };
        // What runs over waits for the next step: the shorter the steps, the nearer to water that never waits.
        for (steps, seconds) in [(300, 600.0), (3000, 20.0), (1500, 2.0), (500, 1.0)] {
            for _ in 0..steps {
                step(&mut c, seconds);
            }
        }
        let before: Vec<f64> = c.by_outlet.clone();
        for _ in 0..200 {
            step(&mut c, 1.0);
        }
        let all: f64 = w.comes.iter().sum::<f64>() + w.passes;
        for (k, q) in s.outlets.iter().enumerate() {
            let now = (c.by_outlet[k] - before[k]) / 200.0;
            prop_assert!((now - q).abs() <= 0.01 * all, "outlet {}: {} in the long storm, {} steady", k, now, q);
        }
    }

    /// More rain stands nowhere lower, and nothing leaves less of it.
    #[test]
    fn more_rain_stands_no_lower(w in worlds(), more in 1.0..5.0_f64) {
        let pools = Pools::new(&w.land, &w.hollows, &w.sills);
        let level = |s: &super::pools::Standing| {
            let mut by_leaf = vec![f64::NEG_INFINITY; w.hollows.leaves];
            for p in &s.pools {
                let mut below = vec![p.node];
                while let Some(n) = below.pop() {
                    match w.hollows.nodes[n].parts {
                        None => by_leaf[n] = p.level_m,
                        Some(parts) => below.extend(parts),
                    }
                }
            }
            by_leaf
        };
        let less = level(&pools.steady(&w.comes));
        let much: Vec<f64> = w.comes.iter().map(|q| q * more).collect();
        for (a, b) in less.iter().zip(level(&pools.steady(&much))) {
            prop_assert!(b >= a - 1e-9);
        }
    }
}
