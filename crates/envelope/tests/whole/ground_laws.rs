//! Laws of the ground: whatever the terrain, water is neither made nor lost and never stands below the ground.

use envelope::terrain::flood::{DRY, Flooded, flood};
use envelope::terrain::surface::{Cell, Grid, Lay, Spot, SurfaceError, lay};
use proptest::prelude::*;

fn layout(side: f64, cell: f64, footprints: Vec<Vec<[f64; 2]>>) -> Lay {
    let n = (side / cell).round() as usize;
    Lay { origin: [0.0, 0.0], nx: n, ny: n, cell, footprints }
}

fn square(x: f64, y: f64, side: f64) -> Vec<[f64; 2]> {
    vec![[x, y], [x + side, y], [x + side, y + side], [x, y + side]]
}

/// Readings on a lattice of a function, a little beyond the grid on every side.
fn readings(side: f64, step: f64, f: &dyn Fn(f64, f64) -> f64) -> Vec<Spot> {
    let n = (side / step).round() as i64 + 1;
    let at = |k: i64| k as f64 * step;
    (-1..=n).flat_map(|r| (-1..=n).map(move |c| (at(c), at(r)))).map(|(x, y)| [x, y, f(x, y)]).collect()
}

fn worked(spots: &[Spot], lay_out: Lay) -> (Grid, Flooded) {
    let (g, _) = lay(spots, &[], lay_out).unwrap();
    let f = flood(&g);
    (g, f)
}

fn volume(g: &Grid, f: &Flooded) -> f64 {
    (0..g.cells.len()).map(|k| f.depth(g, k)).sum::<f64>() * g.cell_m2()
}

#[test]
fn a_tilted_plane_has_no_pond() {
    for (gx, gy) in [(0.01, 0.0), (-0.02, 0.013), (0.0, -0.05), (0.004, 0.004)] {
        let (g, f) = worked(&readings(10.0, 1.0, &|x, y| gx * x + gy * y), layout(10.0, 0.25, vec![]));
        assert!(f.ponds.is_empty() || volume(&g, &f) < 1e-9, "{gx} {gy}");
        // All that falls on it leaves at the border.
        let through = f.accumulation(&g);
        let leaves: f64 = (0..g.cells.len()).filter(|k| f.next[*k] as usize == *k).map(|k| through[k]).sum();
        assert!((leaves - 100.0).abs() < 1e-9, "{leaves}");
    }
}

#[test]
fn a_bowl_holds_the_volume_of_its_formula_and_finer_grids_come_nearer() {
    // A paraboloid z = r²/8 about the middle of 10 m, flat outside r = 4: brim at 2 m, volume π r⁴ / 16.
    let bowl = |x: f64, y: f64| ((x - 5.0).hypot(y - 5.0).min(4.0)).powi(2) / 8.0;
    let formula = std::f64::consts::PI * 4.0_f64.powi(4) / 16.0;
    let off = |cell: f64, step: f64| {
        let (g, f) = worked(&readings(10.0, step, &bowl), layout(10.0, cell, vec![]));
        (volume(&g, &f) / formula - 1.0).abs()
    };
    let (coarse, middle, fine) = (off(0.5, 0.5), off(0.25, 0.25), off(0.1, 0.1));
    assert!(fine < middle && middle < coarse && fine < 0.01, "{coarse} {middle} {fine}");
}

#[test]
fn a_court_closed_in_by_walls_has_no_way_out() {
    let ring = [square(2.0, 2.0, 6.0)];
    let (mut g, _) = lay(&readings(10.0, 1.0, &|x, _| 0.01 * x), &[], layout(10.0, 0.25, ring.to_vec())).unwrap();
    for k in 0..g.cells.len() {
        let [x, y] = g.lay.middle(k);
        if x > 3.0 && x < 7.0 && y > 3.0 && y < 7.0 {
            g.cells[k] = Cell::Ground;
        }
    }
    let f = flood(&g);
    let inner = g.lay.cell_at([5.0, 5.0]).unwrap();
    assert!(f.next[inner] == DRY && f.pond[inner] != DRY && f.way_out(inner) == [inner]);
    let court = &f.ponds[f.pond[inner] as usize];
    assert!(court.brim.is_infinite() && court.capacity(&g).is_infinite());
    assert!((court.volume(&g, court.level(&g, 0.5)) - 0.5).abs() < 1e-9, "it fills however much comes");
}

#[test]
fn readings_no_surface_goes_through_are_named() {
    let on = |spots: &[Spot]| lay(spots, &[], layout(4.0, 0.5, vec![])).unwrap_err();
    assert_eq!(on(&[[0.0, 0.0, 1.0], [1.0, 1.0, 1.0], [3.0, 3.0, 1.0]]), SurfaceError::OnALine);
    assert_eq!(on(&[[0.0, 0.0, 1.0]]), SurfaceError::OnALine);
    let twice = on(&[[0.0, 0.0, 1.0], [4.0, 0.0, 1.0], [0.0, 4.0, 1.0], [4.0, 0.0, 1.2]]);
    assert!(twice.to_string().contains("different heights, 1.000 and 1.200"), "{twice}");
    assert!(on(&[[0.0, f64::NAN, 1.0], [4.0, 0.0, 1.0], [0.0, 4.0, 1.0]]).to_string().contains("not a number"));
    assert!(lay(&[[0.0; 3]], &[[0, 9]], layout(4.0, 0.5, vec![])).unwrap_err().to_string().contains("breakline"));
    let huge = Lay { origin: [0.0; 2], nx: 100_000, ny: 100_000, cell: 0.001, footprints: vec![] };
    assert!(lay(&[[0.0; 3]], &[], huge).unwrap_err().to_string().contains("larger cells"));
}

#[test]
fn a_breakline_holds_and_nothing_is_said_outside_the_readings() {
    // A kerb between two readings across a saddle: the triangles must follow it.
    let spots = [[0.0, 0.0, 0.0], [4.0, 0.0, 0.0], [4.0, 4.0, 0.0], [0.0, 4.0, 0.0], [2.0, 0.2, 1.0], [2.0, 3.8, 1.0]];
    let (g, left_out) = lay(&spots, &[[4, 5]], layout(4.0, 0.25, vec![])).unwrap();
    assert_eq!(left_out, 0);
    assert!((g.z[g.lay.cell_at([1.99, 2.0]).unwrap()] - 1.0).abs() < 0.1, "along the kerb the ground is as high as the kerb");
    let crossing = lay(&spots, &[[4, 5], [0, 2]], layout(4.0, 0.25, vec![])).unwrap();
    assert_eq!(crossing.1, 1, "a line that crosses another is left out and counted");
    let wide = Lay { origin: [-2.0, -2.0], nx: 32, ny: 32, cell: 0.25, footprints: vec![] };
    let (g, _) = lay(&spots, &[], wide).unwrap();
    let known = |p: [f64; 2]| g.cells[g.lay.cell_at(p).unwrap()];
    assert_eq!((known([-1.0, 2.0]), known([2.0, 2.0]), known([5.0, 5.0])), (Cell::Unknown, Cell::Ground, Cell::Unknown));
    assert!(g.z[g.lay.cell_at([-1.0, 2.0]).unwrap()].is_nan());
}

/// The heights to which the same ground fills by the plain way: from the border inward over a heap, the lowest first.
fn by_a_heap(g: &Grid) -> Vec<f64> {
    use std::{cmp::Reverse, collections::BinaryHeap};
    // Heights from 0 on sort as their bits do.
    let bits = |z: f64| (z + 100.0).to_bits();
    let ground = |k: usize| g.cells[k] == Cell::Ground;
    let edge = |k: usize| g.lay.around(k).count() < 8 || g.lay.around(k).any(|(o, _)| g.cells[o] == Cell::Unknown);
    let mut filled = vec![f64::INFINITY; g.cells.len()];
    let mut heap = BinaryHeap::new();
    for k in (0..g.cells.len()).filter(|k| ground(*k) && edge(*k)) {
        filled[k] = g.z[k];
        heap.push(Reverse((bits(g.z[k]), k)));
    }
    while let Some(Reverse((_, k))) = heap.pop() {
        for (o, _) in g.lay.around(k).filter(|(o, _)| ground(*o)) {
            if filled[o] == f64::INFINITY {
                filled[o] = g.z[o].max(filled[k]);
                heap.push(Reverse((bits(filled[o]), o)));
            }
        }
    }
    filled
}

/// Larger than what one core takes alone, with level steps, courts and ground that is not known: the bands of the cores must not show.
#[test]
fn many_cells_fill_as_by_a_heap() {
    for terraces in [0.0, 0.05] {
        let rough = |x: f64, y: f64| 0.02 * x + 0.2 * (x / 2.3).sin() * (y / 1.7).cos() + 0.02 * (x * y).sin();
        let stepped = |x: f64, y: f64| if terraces > 0.0 { (rough(x, y) / terraces).round() * terraces } else { rough(x, y) };
        let (mut g, _) = lay(&readings(40.0, 1.0, &rough), &[], layout(40.0, 0.1, vec![square(8.0, 9.0, 12.0)])).unwrap();
        for k in 0..g.cells.len() {
            let [x, y] = g.lay.middle(k);
            g.z[k] = stepped(x, y);
            if x > 12.0 && x < 15.0 && y > 12.0 && y < 15.0 {
                g.cells[k] = Cell::Ground;
            }
            if (x - 33.0).hypot(y - 30.0) < 2.0 {
                g.cells[k] = Cell::Unknown;
            }
        }
        let (f, filled) = (flood(&g), by_a_heap(&g));
        let mut closed = 0;
        for k in (0..g.cells.len()).filter(|k| g.cells[*k] == Cell::Ground) {
            if filled[k] == f64::INFINITY {
                assert_eq!(f.next[k], DRY);
                closed += 1;
            } else {
                assert_eq!(f.filled[k], filled[k], "cell {k} of {} across", g.lay.nx);
            }
        }
        assert_eq!(closed, 900, "the court of 3 x 3 m");
        // Every way ends outside, and no cell comes before the one it runs to.
        let mut place = vec![usize::MAX; g.cells.len()];
        for (n, k) in f.order.iter().enumerate() {
            place[*k as usize] = n;
        }
        assert_eq!(f.order.len() + closed, g.cells.iter().filter(|c| **c == Cell::Ground).count());
        assert!(f.order.iter().all(|k| f.next[*k as usize] == *k || place[f.next[*k as usize] as usize] < place[*k as usize]));
        let through = f.accumulation(&g);
        let leaves: f64 = f.order.iter().filter(|k| f.next[**k as usize] == **k).map(|k| through[*k as usize]).sum();
        assert!((leaves - f.order.len() as f64 * g.cell_m2()).abs() < 1e-6);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Random ground with a building in it: filled is never below the ground, no pit is left, every drop has a way that never
    /// rises, what leaves is what fell, and each pond's level gives its volume back.
    #[test]
    fn whatever_the_ground(heights in prop::collection::vec(0.0..0.4_f64, 100), bx in 1.0..4.0_f64, by in 1.0..4.0_f64) {
        let f = |x: f64, y: f64| heights[(((x + 1.0) * 1.1) as usize).min(9) * 10 + (((y + 1.0) * 1.1) as usize).min(9)];
        let (g, w) = worked(&readings(8.0, 1.0, &f), layout(8.0, 0.25, vec![square(bx, by, 2.5)]));
        let ground: Vec<usize> = (0..g.cells.len()).filter(|k| g.cells[*k] == Cell::Ground).collect();
        prop_assert_eq!(w.order.len(), ground.len());
        let filled = by_a_heap(&g);
        prop_assert!(ground.iter().all(|k| w.filled[*k] == filled[*k]), "by the plain way it fills to the same heights");
        for k in &ground {
            let next = w.next[*k] as usize;
            prop_assert!(w.filled[*k] >= g.z[*k] && w.filled[next] <= w.filled[*k] + 1e-12);
            prop_assert!(next == *k || g.lay.around(*k).any(|(o, _)| o == next));
        }
        let through = w.accumulation(&g);
        let leaves: f64 = ground.iter().filter(|k| w.next[**k] as usize == **k).map(|k| through[*k]).sum();
        prop_assert!((leaves - ground.len() as f64 * g.cell_m2()).abs() < 1e-6);
        let all: f64 = w.ponds.iter().map(|p| p.volume(&g, p.brim)).sum();
        prop_assert!((all - volume(&g, &w)).abs() < 1e-9, "ponds together are all that stands");
        for p in &w.ponds {
            for share in [0.1, 0.5, 0.9] {
                let v = p.capacity(&g) * share;
                prop_assert!((p.volume(&g, p.level(&g, v)) - v).abs() < 1e-9);
            }
            prop_assert!(p.cells.iter().all(|k| g.z[*k as usize] < p.brim));
        }
    }

    /// Mirrored or turned by a quarter, the same ground holds the same water.
    #[test]
    fn turned_and_mirrored(heights in prop::collection::vec(0.0..0.4_f64, 81)) {
        let step = |k: usize| k as f64;
        let spots: Vec<Spot> = (0..81).map(|k| [step(k % 9) + 0.013 * ((k * 7) % 5) as f64, step(k / 9) + 0.017 * ((k * 3) % 7) as f64, heights[k]]).collect();
        let of = |turn: &dyn Fn(Spot) -> Spot| {
            let turned: Vec<Spot> = spots.iter().map(|s| turn(*s)).collect();
            let (g, w) = worked(&turned, layout(8.0, 0.25, vec![]));
            (volume(&g, &w), g.cells.iter().filter(|c| **c == Cell::Ground).count())
        };
        let (as_read, n) = of(&|s| s);
        for turned in [of(&|[x, y, z]| [8.0 - x, y, z]), of(&|[x, y, z]| [y, 8.0 - x, z]), of(&|[x, y, z]| [x, y, z + 30.0])] {
            prop_assert!((turned.0 - as_read).abs() < 1e-6 && turned.1 == n, "{turned:?} and {as_read} on {n}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 100, ..ProptestConfig::default() })]

    // A level that is set down anywhere shows the ground under it, and not that of the middle of some cell.
    #[test]
    fn a_plane_is_as_high_as_it_is_at_every_point(gx in -0.1..0.1_f64, gy in -0.1..0.1_f64, turn in 0.0..360.0_f64, u in 0.0..1.0_f64, v in 0.0..1.0_f64) {
        let z = |x: f64, y: f64| 1.3 + gx * x + gy * y;
        // Four readings at the corners of a square of 6 m that stands askew on a larger grid: its border cuts through the cells.
        let (s, c) = turn.to_radians().sin_cos();
        let put = |a: f64, b: f64| { let (a, b) = (a * 6.0 - 3.0, b * 6.0 - 3.0); [6.0 + a * c - b * s, 6.0 + a * s + b * c] };
        let spots: Vec<Spot> = [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)].map(|(a, b)| put(a, b)).map(|[x, y]| [x, y, z(x, y)]).to_vec();
        let (g, _) = lay(&spots, &[], layout(12.0, 0.25, vec![])).unwrap();
        let [x, y] = put(u, v);
        let found = g.height_at([x, y]);
        prop_assert!(found.is_some_and(|f| (f - z(x, y)).abs() < 1e-9), "{found:?} and not {} at {x}, {y}", z(x, y));
        // Three cells outside of what was read it says nothing.
        let [x, y] = put(u, 1.0 + 0.75 / 6.0);
        prop_assert_eq!(g.height_at([x, y]), None);
    }

    // On rough ground it is never higher or lower than the cells around it, and at the middle of a cell it is that cell's.
    #[test]
    fn rough_ground_lies_between_its_cells(a in 0.5..3.0_f64, b in 0.5..3.0_f64, x in 1.0..9.0_f64, y in 1.0..9.0_f64) {
        let (g, _) = lay(&readings(10.0, 0.5, &|x, y| (a * x).sin() * (b * y).cos()), &[], layout(10.0, 0.25, vec![])).unwrap();
        let own = g.lay.cell_at([x, y]).unwrap();
        let around = || g.lay.around(own).map(|(k, _)| g.z[k]).chain([g.z[own]]);
        let (low, high) = (around().fold(f64::MAX, f64::min), around().fold(f64::MIN, f64::max));
        let z = g.height_at([x, y]).unwrap();
        prop_assert!(z >= low - 1e-12 && z <= high + 1e-12, "{low} {z} {high}");
        prop_assert!((g.height_at(g.lay.middle(own)).unwrap() - g.z[own]).abs() < 1e-12);
    }
}
