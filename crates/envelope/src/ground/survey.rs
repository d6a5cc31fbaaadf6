//! Everything that follows from the readings: where they are, what falls the wrong way, where water stands and against what.

use super::level::{LevelBook, level};
use super::record::{Ground, LineKind, Top};
use crate::measure::Units;
use crate::roof::record::to_north;
use crate::roof::typed::signed;
use crate::terrain::flood::flood;
use crate::terrain::surface::{Cell, Grid, Lay, lay};
use std::collections::BTreeMap;

use super::falls::{faces, transects};
pub use super::figures::{
    GroundAccount, GroundFace, GroundInput, GroundRemedy, GroundTransect, NearbyAccount, Pond, SpotHeight, Surfaced, Survey, WallContact,
};
pub(crate) use super::placing::Placing;
use super::standing::ponds;
use super::surroundings::nearby;

/// Works the ground out.
pub fn survey(i: &GroundInput) -> Survey {
    let mut doubts = Vec::new();
    let placed = i.roof.placed(i.brief.front_faces).ok();
    let place = Placing {
        ids: i.roof.masses.iter().map(|m| m.id.clone()).collect(),
        names: i.roof.masses.iter().map(|m| if m.name.is_empty() { m.id.clone() } else { m.name.clone() }).collect(),
        standing: placed.map(|p| p.standing).unwrap_or_default(),
        front: i.brief.front_faces,
    };
    let (book, book_says) = book_of(&i.ground, i.practice.units);
    let readings = readings(i, &place, book.as_ref(), &mut doubts);
    let transects = transects(i, &place, &readings);
    let (surface, ponds) = match surfaced(i, &place, &readings, &mut doubts) {
        Some((s, p)) => (Some(s), p),
        None => (None, vec![]),
    };
    let faces = faces(&transects, &ponds, &place, i.practice.units);
    let known_m2 = surface.as_ref().map_or(0.0, |s| s.grid.cells.iter().filter(|c| **c == Cell::Ground).count() as f64 * s.grid.cell_m2());
    let nearby = nearby(i, &place, &mut doubts);
    Survey { account: GroundAccount { readings, book, book_says, transects, faces, ponds, known_m2, nearby, doubts }, surface, place }
}

fn book_of(g: &Ground, u: Units) -> (Option<LevelBook>, String) {
    if g.book.lines.is_empty() {
        return (None, String::new());
    }
    let reduced = g.book.input().map_err(|(k, m)| format!("Line {k}: {m}")).and_then(|i| level(&i).map_err(|e| e.to_string()));
    match reduced {
        Err(e) => (None, e),
        Ok(b) => {
            let says = match (b.closure_error_m, b.within_tolerance) {
                (Some(e), Some(true)) => format!(
                    "The book closes within {} over {} set-ups; {} are allowed. Shared out by set-ups.",
                    u.fine(e.abs()),
                    b.setups,
                    u.fine(b.tolerance_m)
                ),
                (Some(e), _) => format!(
                    "The book misses its start by {} over {} set-ups; {} are allowed. Read it again before it is believed.",
                    u.fine(e.abs()),
                    b.setups,
                    u.fine(b.tolerance_m)
                ),
                _ => "The book does not return to where it began: what it misses by is not known.".to_owned(),
            };
            (Some(b), says)
        }
    }
}

fn readings(i: &GroundInput, place: &Placing, book: Option<&LevelBook>, doubts: &mut Vec<String>) -> Vec<SpotHeight> {
    let mut out: Vec<SpotHeight> = Vec::new();
    // A book that misses its start by more than is allowed gives no heights.
    let misses = book.is_some_and(|b| b.within_tolerance == Some(false));
    let mut unused: Vec<&str> = Vec::new();
    for s in &i.ground.spots {
        let z = if s.height.trim().is_empty() {
            if misses {
                unused.push(&s.id);
                continue;
            }
            let booked = book.and_then(|b| b.points.iter().rev().find(|p| p.point == s.id)).map(|p| p.adjusted_by_setup_m);
            let Some(z) = booked else {
                doubts.push(format!("{} has no height: the level book does not give it one.", s.id));
                continue;
            };
            z
        } else {
            match signed("The height", &s.height) {
                Ok(z) => z,
                Err(e) => {
                    doubts.push(format!("{}: {e}", s.id));
                    continue;
                }
            }
        };
        let at = match place.point(&s.at) {
            Ok(p) => p,
            Err(e) => {
                doubts.push(format!("{}: {e}", s.id));
                continue;
            }
        };
        if let Some(k) = place.inside(at) {
            doubts.push(format!("{} lies inside the {}. It is left out; check its place.", s.id, place.names[k]));
            continue;
        }
        out.push(SpotHeight { id: s.id.clone(), at, north: to_north(at, place.front), z_m: z, top: s.top, how: s.how });
    }
    if !unused.is_empty() {
        doubts.push(format!(
            "The level book misses its start by more than is allowed, so the heights of {} are not used. Read it again, or type them.",
            unused.join(", ")
        ));
    }
    // Feet among metres: a reading a metre and more off all its neighbours.
    let mut heights: Vec<f64> = out.iter().map(|r| r.z_m).collect();
    heights.sort_by(f64::total_cmp);
    if heights.len() >= 5 {
        let middle = heights[heights.len() / 2];
        let mut off: Vec<f64> = heights.iter().map(|h| (h - middle).abs()).collect();
        off.sort_by(f64::total_cmp);
        let usual = off[off.len() / 2].max(0.1);
        for r in out.iter().filter(|r| (r.z_m - middle).abs() > 12.0 * usual) {
            doubts.push(format!(
                "{} is {} from the others. Was it read in another unit?",
                r.id,
                i.practice.units.length((r.z_m - middle).abs(), 2)
            ));
        }
    }
    out
}

fn surfaced(i: &GroundInput, place: &Placing, readings: &[SpotHeight], doubts: &mut Vec<String>) -> Option<(Surfaced, Vec<Pond>)> {
    if readings.len() < 3 {
        return None;
    }
    let (low, high) = readings
        .iter()
        .fold(([f64::MAX; 2], [f64::MIN; 2]), |(l, h), r| ([l[0].min(r.at[0]), l[1].min(r.at[1])], [h[0].max(r.at[0]), h[1].max(r.at[1])]));
    let cell = i.ground.cell_m();
    // A margin of cells nobody read: where a wall stands on the border of the readings, it is the wall that is met there.
    const MARGIN: f64 = 2.0;
    let (low, high) = (low.map(|v| v - MARGIN * cell), high.map(|v| v + MARGIN * cell));
    let count = |k: usize| (((high[k] - low[k]) / cell).ceil() as usize).max(1);
    let layout = Lay { origin: low, nx: count(0), ny: count(1), cell, footprints: place.outlines() };
    let spots: Vec<[f64; 3]> = readings.iter().map(|r| [r.at[0], r.at[1], r.z_m]).collect();
    let index = |id: &str| readings.iter().position(|r| r.id == id);
    let mut breaks = Vec::new();
    for l in &i.ground.lines {
        let ends: Vec<usize> = l.spots.iter().filter_map(|s| index(s)).collect();
        breaks.extend(ends.windows(2).map(|w| [w[0], w[1]]));
    }
    let (grid, crossed) = match lay(&spots, &breaks, layout) {
        Ok(g) => g,
        Err(e) => {
            doubts.push(e.to_string());
            return None;
        }
    };
    if crossed > 0 {
        doubts.push(format!("{crossed} pieces of lines cross others and are left out."));
    }
    let water = flood(&grid);
    let paved = nearest_tops(&grid, readings);
    let lot: Vec<[[f64; 2]; 2]> = i
        .ground
        .lines
        .iter()
        .filter(|l| l.kind == LineKind::LotLine)
        .flat_map(|l| {
            let at: Vec<[f64; 2]> = l.spots.iter().filter_map(|s| index(s)).map(|k| readings[k].at).collect();
            at.windows(2).map(|w| [w[0], w[1]]).collect::<Vec<_>>()
        })
        .collect();
    let neighbour = (0..grid.cells.len())
        .map(|k| {
            let p = grid.lay.middle(k);
            let home = place.nearest_side(p).map(|(m, f, x, _)| place.standing[m].point(f, x, 0.0));
            home.is_some_and(|h| lot.iter().any(|l| crosses(p, h, l[0], l[1])))
        })
        .collect();
    let roofed = roofed(i, place, &grid);
    let mut s = Surfaced { grid, water, paved, neighbour, roofed, named: BTreeMap::new() };
    let ponds = ponds(i, place, &mut s);
    Some((s, ponds))
}

/// Whether two pieces of lines cross.
fn crosses(a: [f64; 2], b: [f64; 2], c: [f64; 2], d: [f64; 2]) -> bool {
    let side = |p: [f64; 2], q: [f64; 2], r: [f64; 2]| (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    side(a, b, c) * side(a, b, d) < 0.0 && side(c, d, a) * side(c, d, b) < 0.0
}

/// Each cell is what the reading nearest to it is, as one walks around the walls. Of two as near the one farther west, then south.
fn nearest_tops(g: &Grid, readings: &[SpotHeight]) -> Vec<bool> {
    /// A step to the side and across a corner: 7/5 is near to the root of two, and whole steps need no heap.
    const STEP: [usize; 2] = [5, 7];
    const RING: usize = STEP[1] + 1;
    let mut by_place: Vec<&SpotHeight> = readings.iter().collect();
    by_place.sort_by(|a, b| a.at[0].total_cmp(&b.at[0]).then(a.at[1].total_cmp(&b.at[1])));
    let mut far = vec![usize::MAX; g.cells.len()];
    let mut paved = vec![false; g.cells.len()];
    // Cells by how far they are from their reading; only so many steps are under way at once.
    let mut ring: [Vec<usize>; RING] = std::array::from_fn(|_| Vec::new());
    for r in by_place {
        let near = [
            r.at[0].clamp(g.lay.origin[0], g.lay.origin[0] + (g.lay.nx as f64 - 0.5) * g.lay.cell),
            r.at[1].clamp(g.lay.origin[1], g.lay.origin[1] + (g.lay.ny as f64 - 0.5) * g.lay.cell),
        ];
        if let Some(k) = g.lay.cell_at(near) {
            let m = g.lay.middle(k);
            let off = (STEP[0] as f64 * (m[0] - r.at[0]).hypot(m[1] - r.at[1]) / g.lay.cell).round().min(STEP[1] as f64) as usize;
            if off < far[k] {
                (far[k], paved[k]) = (off, r.top == Top::Paving);
                ring[off].push(k);
            }
        }
    }
    let mut at = 0;
    while ring.iter().any(|cells| !cells.is_empty()) {
        for k in std::mem::take(&mut ring[at % RING]) {
            if far[k] != at {
                continue;
            }
            for (o, d) in g.lay.around(k) {
                let next = at + STEP[usize::from(d > 1.0)];
                if next < far[o] && g.cells[o] != Cell::Wall {
                    (far[o], paved[o]) = (next, paved[k]);
                    ring[next % RING].push(o);
                }
            }
        }
        at += 1;
    }
    paved
}

fn roofed(i: &GroundInput, place: &Placing, g: &Grid) -> Vec<bool> {
    use crate::roof::shape::{RoofInput, shape};
    let shape = i.roof.placed(i.brief.front_faces).ok().and_then(|p| shape(&RoofInput { masses: p.masses }).ok());
    let Some(s) = shape else { return vec![false; g.cells.len()] };
    let at = |k: usize| to_north(g.lay.middle(k), place.front);
    (0..g.cells.len()).map(|k| g.cells[k] == Cell::Ground && crate::rain::runoff::facet_at(&s, at(k)).is_some()).collect()
}
