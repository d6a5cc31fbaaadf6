//! Where what a drop does can change: the marks of a detail, projected up the line of a drop.

use super::TINY_M;
use super::detail::{Detail, LapsError};
use super::path::{OPEN_CORNER_M, OPEN_END_M};

/// As many looks at a piece as one answer is worth: strips by pieces.
const MOST_LOOKS: usize = 12_000_000;

/// The places of the top at which the width is cut, both ends included.
pub(super) fn cuts(d: &Detail) -> Result<Vec<f64>, LapsError> {
    let i = d.input;
    // Rectangles as [left, right, bottom, top], cut to the height of the detail.
    let cut = |x0: f64, x1: f64, z0: f64, z1: f64| [x0, x1, z0.max(i.bottom), z1.min(i.top)];
    let mut rects: Vec<[f64; 4]> = d.pieces.iter().map(|p| cut(p.x0, p.x1, p.z0, p.z1)).collect();
    rects.extend(i.opening.map(|o| cut(o.x0, o.x1, o.z0, o.z1)));

    let mut out = vec![i.x0, i.x1];
    let mut add = |x: f64| {
        if x > i.x0 && x < i.x1 {
            out.push(x);
        }
    };
    // What begins a fall: the head of the opening, and the foot of each piece that ends over it.
    let falls: Vec<f64> = i
        .opening
        .iter()
        .flat_map(|o| {
            let over = move |r: &&[f64; 4]| r[0] < o.x1 && o.x0 < r[1] && o.z0 < r[2] && r[2] < o.z1;
            let feet = rects[..d.pieces.len()].iter().filter(over).map(|r| r[2]);
            feet.chain([o.z1.min(i.top)]).collect::<Vec<_>>()
        })
        .collect();
    let mut mark = |x: f64, z: f64| {
        add(x - i.drift * (i.top - z));
        if let Some(o) = i.opening.filter(|o| z <= o.z0 + TINY_M) {
            falls.iter().for_each(|l| add(x - i.drift * (o.z0 - z) - i.drift * (i.top - l)));
        }
    };
    for a in &rects {
        for x in [a[0], a[1]] {
            for b in &rects {
                for z in [b[2], b[3]] {
                    if b[0] <= x && x <= b[1] && a[2] <= z && z <= a[3] {
                        mark(x, z);
                    }
                }
            }
        }
    }
    if let Some(o) = i.opening.filter(|_| d.pieces.iter().any(|p| p.pan.is_some())) {
        for gap in [OPEN_END_M, OPEN_CORNER_M] {
            mark(o.x0 + gap, o.z0);
            mark(o.x1 - gap, o.z0);
        }
    }
    out.sort_by(f64::total_cmp);
    out.dedup_by(|b, a| *b - *a <= TINY_M);
    // The right end stays itself.
    if let Some(last) = out.last_mut() {
        *last = i.x1;
    }
    let looks = out.len() * d.pieces.len();
    if looks > MOST_LOOKS {
        return Err(LapsError::TooMuch(format!(
            "{} pieces cross in {} strips: too much to follow every drop. Cut the wall into smaller details.",
            d.pieces.len(),
            out.len() - 1
        )));
    }
    Ok(out)
}
