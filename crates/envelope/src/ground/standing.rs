//! Where water stands, and against which wall.

use super::falls::cladding_line;
use super::figures::{GroundInput, Pond, Surfaced, WallContact};
use super::placing::Placing;
use crate::site::Face;
use crate::terrain::flood::DRY;
use std::collections::BTreeMap;

/// A pond shallower than this is wet ground, metres.
pub(super) const POND_M: f64 = 0.005;

/// A pond that holds less is a puddle, m³.
pub(super) const PUDDLE_M3: f64 = 0.005;

/// The walls a pond stands against at a level.
pub(super) fn contacts(i: &GroundInput, place: &Placing, s: &Surfaced, hollow: usize, level: f64) -> Vec<WallContact> {
    let cells = s.water.ponds[hollow].cells.iter().map(|k| *k as usize).filter(|k| s.grid.at_wall(*k));
    let at_wall: Vec<(usize, usize, Face)> =
        cells.filter_map(|k| place.nearest_side(s.grid.lay.middle(k)).map(|(m, f, _, _)| (k, m, f))).collect();
    contacts_at(i, place, s, &at_wall, &|_| level)
}

/// The walls that cells beside them are wet against, each cell under its own level.
pub(super) fn contacts_at(
    i: &GroundInput,
    place: &Placing,
    s: &Surfaced,
    at_wall: &[(usize, usize, Face)],
    level: &dyn Fn(usize) -> f64,
) -> Vec<WallContact> {
    /// From the left, to the right, cells, the deepest and the highest water.
    type Stretch = (f64, f64, usize, f64, f64);
    let mut found: BTreeMap<(usize, Face), Stretch> = BTreeMap::new();
    for (k, m, f) in at_wall {
        let (top, depth) = (level(*k), level(*k) - s.grid.z[*k]);
        let along = place.nearest_side(s.grid.lay.middle(*k)).filter(|_| depth > 1e-4);
        let Some((_, _, x, _)) = along else { continue };
        let e = found.entry((*m, *f)).or_insert((x, x, 0, 0.0, f64::NEG_INFINITY));
        *e = (e.0.min(x), e.1.max(x), e.2 + 1, e.3.max(depth), e.4.max(top));
    }
    found
        .into_iter()
        .map(|((m, face), (from_m, to_m, n, depth_m, top))| WallContact {
            mass: place.ids[m].clone(),
            face,
            from_m,
            to_m,
            length_m: n as f64 * s.grid.lay.cell,
            depth_m,
            clearance_m: cladding_line(i, place, m, face).map(|c| c - top),
        })
        .collect()
}

pub(super) fn ponds(i: &GroundInput, place: &Placing, s: &mut Surfaced) -> Vec<Pond> {
    let through = s.water.accumulation(&s.grid);
    let mut order: Vec<(usize, f64)> = (0..s.water.ponds.len())
        .map(|k| {
            let p = &s.water.ponds[k];
            (k, if p.brim.is_finite() { p.volume(&s.grid, p.brim) } else { f64::MAX })
        })
        .filter(|(k, v)| {
            let p = &s.water.ponds[*k];
            *v > PUDDLE_M3 && p.brim - s.grid.z[p.cells[0] as usize] > POND_M
        })
        .collect();
    order.sort_by(|a, b| b.1.total_cmp(&a.1));
    let mut out = Vec::new();
    for (n, (k, _)) in order.into_iter().enumerate() {
        let hollow = &s.water.ponds[k];
        let deepest = hollow.cells[0] as usize;
        let at = s.grid.lay.middle(deepest);
        let closed = !hollow.brim.is_finite();
        // Closed in by walls it fills until something gives; one brick course is looked at.
        let level = if closed { s.grid.z[deepest] + 0.1 } else { hollow.brim };
        let volume = hollow.volume(&s.grid, level);
        let area = hollow.cells.iter().filter(|c| s.grid.z[**c as usize] < level).count() as f64 * s.grid.cell_m2();
        let seeps: f64 = hollow.cells.iter().filter(|c| !s.paved[**c as usize]).count() as f64 * s.grid.cell_m2();
        let rate = seeps * i.ground.loss_mm_h() / 1000.0;
        let catchment = if closed {
            hollow.cells.len() as f64 * s.grid.cell_m2()
        } else {
            // All that runs over its brim came into it.
            let leaves = |c: &&u32| s.water.pond[s.water.next[**c as usize] as usize] != k as u32;
            hollow.cells.iter().filter(leaves).map(|c| through[*c as usize]).sum()
        };
        let walls = contacts(i, place, s, k, level);
        let side = walls
            .iter()
            .max_by(|a, b| a.length_m.total_cmp(&b.length_m))
            .and_then(|w| place.mass(&w.mass).map(|m| (m, w.face, (w.from_m + w.to_m) / 2.0)));
        let side = side.or_else(|| place.nearest_side(at).map(|(m, f, x, _)| (m, f, x)));
        let (words, face) = side.map_or(("the open ground".to_owned(), Face::Front), |(m, f, x)| (place.words(m, f, x), f));
        let way_out = if closed || hollow.spills_at == DRY {
            "It has no way out.".to_owned()
        } else {
            let p = s.grid.lay.middle(hollow.spills_at as usize);
            let beside = place
                .nearest_side(p)
                .map_or(String::new(), |(m, f, x, d)| format!(" {} off the {}", i.practice.units.length(d, 1), place.words(m, f, x)));
            format!("It runs over{beside}.")
        };
        let id = char::from(b'A' + (n % 26) as u8).to_string();
        out.push(Pond {
            id,
            place: words,
            face,
            brim_m: (!closed).then_some(level),
            depth_m: level - s.grid.z[deepest],
            volume_m3: volume,
            area_m2: area,
            catchment_m2: catchment,
            walls,
            way_out,
            empties_h: (rate > 0.0).then(|| volume / rate),
            deepest_at: at,
        });
        s.named.insert(k as u32, n);
        /// More ponds than this are a field.
        const MOST_PONDS: usize = 26;
        if out.len() == MOST_PONDS {
            break;
        }
    }
    out
}
