//! How fast a recorded walk is read, weights and all. 100,000 words in a second is the aim.
#![allow(missing_docs, reason = "a benchmark")]

use divan::counter::ItemsCount;
use divan::{Bencher, black_box};
use envelope::round::{WalkInput, read_walk};

const WALKS: [&str; 3] = [
    include_str!("../../tests/walks/clinic.vtt"),
    include_str!("../../tests/walks/heron.txt"),
    include_str!("../../tests/walks/quarry-row.srt"),
];

#[divan::bench]
fn three_walks(b: Bencher<'_, '_>) {
    let inputs = WALKS.map(|w| WalkInput { walk: w.to_owned(), ..WalkInput::default() });
    let words: usize = WALKS.iter().flat_map(|w| w.lines()).filter(|l| !l.contains("-->")).map(|l| l.split_whitespace().count()).sum();
    b.counter(ItemsCount::new(words)).bench(|| {
        for i in &inputs {
            black_box(read_walk(i).unwrap());
        }
    });
}
