//! How long the rain takes: one gutter with a good fall and one with a bad one, two outlets, a
//! hundred gutters, and a plain channel with its capacity.

use divan::{Bencher, black_box};
use envelope::gutter::begins::Beginnings;
use envelope::gutter::channel::{ChannelInput, channel};
use envelope::gutter::downspout::Bore;
use envelope::gutter::run::{AlongGutter, RunInput, RunOutlet, run};
use envelope::gutter::section::Section;
use envelope::rain::account::{RainAccountInput, rain_account, rain_account_with};

#[path = "../../tests/whole/explicit.rs"]
mod explicit;

fn gutter(outlets: &[f64], fall: f64) -> RunInput {
    RunInput {
        section: Section::HalfRound { diameter_m: 0.1 },
        length_m: 8.0,
        levels: vec![[0.0, fall], [8.0, 0.0]],
        manning_n: 0.016,
        outlets: outlets
            .iter()
            .map(|x| RunOutlet { x_m: *x, bore: Bore::Round { diameter_mm: 75.0 }, strainer: false, up_m: 0.0 })
            .collect(),
        along: vec![AlongGutter { from_m: 0.0, to_m: 8.0, width_from_m: 4.0, width_to_m: 4.0 }],
        bursts: vec![],
        corners_m: vec![],
        rain_mm_h: 132.0,
    }
}

/// With the rain at which it first spills, which takes several surfaces.
#[divan::bench(args = [0.02, -0.012])]
fn one_outlet(bencher: Bencher, fall: f64) {
    let input = gutter(&[8.0], fall);
    bencher.bench(|| run(black_box(&input)).unwrap());
}

#[divan::bench]
fn two_outlets(bencher: Bencher) {
    let input = gutter(&[0.0, 8.0], 0.0);
    bencher.bench(|| run(black_box(&input)).unwrap());
}

#[divan::bench]
fn a_hundred_gutters(bencher: Bencher) {
    let input = gutter(&[8.0], 0.02);
    bencher.bench(|| (0..100).map(|_| run(black_box(&input)).unwrap().deepest_m).sum::<f64>());
}

#[derive(serde::Deserialize)]
struct Demo {
    brief: envelope::job::Brief,
    roof: envelope::roof::record::Roof,
    rainwater: envelope::rain::record::Rainwater,
}

fn clinic() -> RainAccountInput {
    let d: Demo = toml::from_str(include_str!("../../../../demo/jobs/1-thistlewick.toml")).unwrap();
    RainAccountInput {
        roof: d.roof,
        rainwater: d.rainwater,
        front_faces: d.brief.front_faces,
        driving_rain_from: d.brief.driving_rain_from,
        practice: Default::default(),
        at_mm_h: Some(90.0),
        remedies: false,
    }
}

/// The whole demo roof with its six gutters, as it is opened: from which rain on each spills is looked for.
#[divan::bench]
fn the_clinic_for_the_first_time(bencher: Bencher) {
    let i = clinic();
    bencher.bench(|| rain_account(black_box(&i)).gutters.len());
}

/// The same as the slider asks for it: the runs are known, the rain is another each time.
#[divan::bench]
fn the_clinic_at_another_rain(bencher: Bencher) {
    let (i, known) = (clinic(), Beginnings::default());
    rain_account_with(&i, &known);
    let rains = std::cell::Cell::new(0);
    let next = || {
        rains.set(rains.get() + 1);
        RainAccountInput { at_mm_h: Some(40.0 + f64::from(rains.get() * 37 % 100)), ..i.clone() }
    };
    bencher.with_inputs(next).bench_local_values(|i| rain_account_with(&i, &known).gutters.len());
}

/// One surface and its brim, as the reference cases ask for them.
#[divan::bench]
fn a_channel_with_its_capacity(bencher: Bencher) {
    let input = ChannelInput {
        section: Section::Rect { width_m: 0.125, depth_m: 0.1 },
        length_m: 9.0,
        slope: 0.0,
        manning_n: 0.012,
        catchment_width_m: 6.0,
        rain_mm_h: 125.0,
    };
    bencher.bench(|| channel(black_box(&input)).unwrap());
}

/// The same level channel by stepping through time; that 200 cells come within 2 % of the solver is held in `gutter_laws`.
#[divan::bench(args = [50, 100, 200], sample_count = 5)]
fn brute_force_in_time(bencher: Bencher, cells: usize) {
    let brute = explicit::Brute { width: 0.125, length: 9.0, fall: 0.0, roughness: 0.012, inflow: 6.0 * 125.0 / 3.6e6 };
    bencher.bench(|| explicit::settled(black_box(&brute), cells));
}
