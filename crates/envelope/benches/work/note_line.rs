//! How fast a note line is read. 100,000 words in under a second is the aim.
#![allow(missing_docs, reason = "a benchmark")]

use divan::counter::ItemsCount;
use divan::{Bencher, black_box};
use envelope::measure;
use envelope::round::{Context, read};
use envelope::site::{Face, Place, Zone};

const LINES: [&str; 6] = [
    "gutter end no downspout, fascia rot 2ft",
    "stair crack 1/16 x 4' under kitchen window",
    "w upper sprinkler 3in spray on siding",
    "no cricket behind the flue stack, 1.15 m wide",
    "overdriven nails whole row below the window, 1/8 in deep",
    "half-round gutter dumps at wall onto the paving, 0.3 m from it",
];

#[divan::bench]
fn one_line(b: Bencher<'_, '_>) {
    let context = Context::at(Place::outside(Face::Rear, Zone::Edge), None);
    b.bench(|| read(black_box(LINES[0]), &context));
}

#[divan::bench]
fn a_hundred_thousand_words(b: Bencher<'_, '_>) {
    let context = Context::at(Place::outside(Face::Rear, Zone::Edge), None);
    let words: usize = LINES.iter().map(|l| l.split_whitespace().count()).sum();
    let rounds = 100_000 / words;
    b.counter(ItemsCount::new(rounds * words)).bench(|| {
        for _ in 0..rounds {
            for line in LINES {
                black_box(read(line, &context));
            }
        }
    });
}

#[divan::bench]
fn one_measure(b: Bencher<'_, '_>) {
    b.bench(|| measure::parse(black_box("6 1/2 in")));
}
