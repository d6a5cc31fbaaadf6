//! How long the ground takes: a surface at 0.1 m over 60 x 60 m, grids of one, four and sixteen million cells, and the storm of
//! the demo clinic. Bytes for each cell are printed once, counted from what a flooded grid holds.

use divan::{Bencher, black_box, counter::ItemsCount};
use envelope::ground::rain_test::{Lasts, Wanted, rain_test};
use envelope::ground::survey::{GroundInput, survey};
use envelope::terrain::flood::{Flooded, flood};
use envelope::terrain::surface::{Grid, Lay, Spot, lay};
use serde::Deserialize;

/// What a flooded grid keeps for each of its cells, bytes.
pub(crate) fn kept_for_a_cell() -> usize {
    let (g, f) = flooded(1000, 0.06);
    (g.cells.len() * (1 + 8) + f.filled.len() * 8 + (f.next.len() + f.order.len() + f.pond.len()) * 4) / g.cells.len()
}

/// Uneven ground that is the same every time: waves over a gentle fall, with a house in the middle.
fn spots(side: f64) -> Vec<Spot> {
    let n = 80;
    let at = |k: i32| side * (f64::from(k) - 1.0) / f64::from(n - 2);
    (0..n)
        .flat_map(|r| (0..n).map(move |c| (at(c), at(r))))
        .map(|(x, y)| [x, y, 0.01 * x + 0.15 * (x / 3.0).sin() * (y / 4.0).cos()])
        .collect()
}

fn layout(n: usize, cell: f64) -> Lay {
    let side = n as f64 * cell;
    let (a, b) = (side * 0.4, side * 0.6);
    Lay { origin: [0.0, 0.0], nx: n, ny: n, cell, footprints: vec![vec![[a, a], [b, a], [b, b], [a, b]]] }
}

fn flooded(n: usize, cell: f64) -> (Grid, Flooded) {
    let (g, _) = lay(&spots(n as f64 * cell), &[], layout(n, cell)).unwrap();
    let f = flood(&g);
    (g, f)
}

/// Triangles, grid, hollows and ways of 60 x 60 m at 0.1 m: 360,000 cells.
#[divan::bench(sample_count = 10)]
fn sixty_metres_at_a_tenth(bencher: Bencher) {
    bencher.counter(ItemsCount::new(360_000_usize)).bench(|| black_box(flooded(600, 0.1)).1.ponds.len());
}

#[divan::bench(args = [1000, 2000, 4000], sample_count = 3)]
fn cells(bencher: Bencher, n: usize) {
    bencher.counter(ItemsCount::new(n * n)).bench(|| black_box(flooded(n, 0.06)).1.ponds.len());
}

#[derive(Deserialize)]
struct Demo {
    brief: envelope::job::Brief,
    roof: envelope::roof::record::Roof,
    rainwater: envelope::rain::record::Rainwater,
    ground: envelope::ground::record::Ground,
}

fn clinic() -> GroundInput {
    let d: Demo = toml::from_str(include_str!("../../../../demo/jobs/1-thistlewick.toml")).unwrap();
    GroundInput { ground: d.ground, roof: d.roof, rainwater: d.rainwater, brief: d.brief, practice: Default::default(), notes: vec![] }
}

/// Everything the Ground bench shows at once.
#[divan::bench(sample_count = 10)]
fn the_clinics_survey(bencher: Bencher) {
    let i = clinic();
    bencher.bench(|| survey(black_box(&i)).account.ponds.len());
}

/// One storm: twelve times roof and gutters, each from where its water stood in the rain before, then a day of ponds.
#[divan::bench(sample_count = 10)]
fn the_clinics_storm(bencher: Bencher) {
    let i = clinic();
    let s = survey(&i);
    bencher.bench(|| rain_test(&s, black_box(&i), Wanted::default(), &mut |_| true).unwrap().wet.len());
}

/// The same for a day of rain in half hours.
#[divan::bench(sample_count = 10)]
fn the_clinics_day_of_rain(bencher: Bencher) {
    let i = clinic();
    let s = survey(&i);
    let day = Wanted { lasts: Lasts::Day, ..Wanted::default() };
    bencher.bench(|| rain_test(&s, black_box(&i), day, &mut |_| true).unwrap().wet.len());
}
