//! How long a detail takes: a wall of sheets in courses with one course turned, of 10, 100 and 1,000 pieces.

use divan::{Bencher, black_box};
use envelope::wall::laps::{LapsInput, Over, Piece, PieceKind, laps};

fn wall(courses: usize, by: usize, drift: f64) -> LapsInput {
    let (high, wide) = (1.0 / courses as f64, 1.0 / by as f64);
    let (mut pieces, mut over) = (vec![], vec![]);
    let id = |c: usize, k: usize| format!("p{c}-{k}");
    for c in 0..courses {
        for k in 0..by {
            let (x, z) = (k as f64 * wide, c as f64 * high);
            let (x0, x1, z0, z1) = (x - 0.1 * wide, x + wide, z - 0.3 * high, z + high);
            pieces.push(Piece { id: id(c, k), kind: PieceKind::Barrier, x0, x1, z0, z1, drip: false, pan: None });
            if k > 0 {
                over.push(Over { outer: id(c, k), inner: id(c, k - 1) });
            }
            for below in [k.checked_sub(1), Some(k), (k + 1 < by).then_some(k + 1)].into_iter().flatten().filter(|_| c > 0) {
                // One course is tucked under the one below, all along.
                let pair = (id(c, k), id(c - 1, below));
                let (outer, inner) = if c == courses / 2 { (pair.1, pair.0) } else { pair };
                over.push(Over { outer, inner });
            }
        }
    }
    LapsInput {
        x0: 0.0,
        x1: 1.0,
        top: 1.0,
        bottom: 0.0,
        drift,
        pieces,
        over,
        seals: vec![],
        opening: None,
        covered: vec![],
        installed: None,
        lap_minimum: Default::default(),
    }
}

const SIZES: [(usize, usize); 3] = [(5, 2), (20, 5), (50, 20)];

#[divan::bench(args = [0, 1, 2])]
fn straight(bencher: Bencher, size: usize) {
    let input = wall(SIZES[size].0, SIZES[size].1, 0.0);
    bencher.bench(|| laps(black_box(&input)).unwrap());
}

/// With wind from the side the lines of the marks spread out, and there are many more strips.
#[divan::bench(args = [0, 1])]
fn with_drift(bencher: Bencher, size: usize) {
    let input = wall(SIZES[size].0, SIZES[size].1, 0.1);
    bencher.bench(|| laps(black_box(&input)).unwrap());
}
