//! How long the roof takes: a house, ten masses, a hundred; and the life of one slope.

use divan::{Bencher, black_box};
use envelope::roof::life::{AgeEvidence, LifeInput, RoofPart, Wear, life};
use envelope::roof::mass::{Form, Mass};
use envelope::roof::shape::{RoofInput, shape};

/// A street of hips that overlap their neighbours, every third one turned.
fn masses(n: usize) -> RoofInput {
    let masses = (0..n)
        .map(|i| Mass {
            id: format!("M{i}"),
            centre_m: [(i % 10) as f64 * 8.0, (i / 10) as f64 * 7.0],
            len_u_m: 10.0 + (i % 4) as f64,
            len_v_m: 8.0 + (i % 3) as f64,
            rot_deg: if i % 3 == 0 { 15.0 } else { 0.0 },
            eave_height_m: 2.7 + (i % 5) as f64 * 0.2,
            pitch: 0.5,
            overhang_m: 0.4,
            form: if i % 2 == 0 { Form::Hip } else { Form::Gable },
            ridge_along: None,
            downslope: None,
            sides: std::collections::BTreeMap::new(),
        })
        .collect();
    RoofInput { masses }
}

#[divan::bench(args = [1, 3, 10, 100])]
fn roof_of(bencher: Bencher, n: usize) {
    let input = masses(n);
    bencher.bench(|| shape(black_box(&input)).unwrap());
}

#[divan::bench]
fn life_of_a_slope(bencher: Bencher) {
    let input = LifeInput {
        median_life_years: 22.0,
        building_age_years: Some(59.0),
        age_evidence: vec![
            AgeEvidence::Permit { elapsed_years: 13.0, right: 0.95, part: RoofPart::Whole },
            AgeEvidence::Stated { years: 10.0, first_hand: true, who: None },
        ],
        wear: [("ridge-cap", 3), ("granule-loss", 2), ("edge-wear", 2)].map(|(i, grade)| Wear { indicator: i.into(), grade }).to_vec(),
        wait_years: 3.0,
        shape: 5.0,
    };
    bencher.bench(|| life(black_box(&input)).unwrap());
}
