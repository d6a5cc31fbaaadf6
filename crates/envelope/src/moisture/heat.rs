//! Pictures of heat: what differs from the wall around it, and whether the picture may be used for that at all.
//!
//! A wall has a slope of temperature of its own; a plane is taken away that the patches cannot pull (least absolute differences, then
//! Tukey's biweight). What is left is measured in robust spreads. A patch says that something is different there, never what.

use super::map::{MAD_TO_SPREAD, median};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// A patch differs by more than so many robust spreads.
const SPREADS: f64 = 3.0;
/// And by at least this, where the practice says nothing else, K.
pub const LEAST_K: f64 = 0.5;
/// And is larger than so many cells.
const LEAST_CELLS: usize = 9;
/// Where Tukey's biweight stops looking, in spreads.
const TUKEY: f64 = 4.685;
/// Inside and outside must differ by so much, K.
pub const LEAST_DIFFERENCE_K: f64 = 5.0;
/// Sun on a face counts for so long, hours.
pub const SUN_HOURS: f64 = 4.0;
/// The most cells a picture may have.
const MOST_CELLS: usize = 2_000_000;
/// Pictures with fewer figures than this share of their cells are not worked out.
const LEAST_KNOWN: f64 = 0.5;

/// Input of `heat`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HeatInput {
    /// Side of a cell on the wall, metres.
    pub cell_m: f64,
    /// Temperatures, °C, row by row from the top; none where the camera gave none.
    pub grid: Vec<Vec<Option<f64>>>,
    /// The least difference that counts, K.
    #[serde(default)]
    pub least_k: Option<f64>,
}

/// A patch that differs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Patch {
    /// How many cells.
    pub cells: usize,
    /// Its area, m².
    pub area_m2: f64,
    /// How much it differs at most, K; always positive.
    pub depth_k: f64,
    /// Colder than the wall around it, or warmer.
    pub cold: bool,
    /// Its middle from the left, metres.
    pub x: f64,
    /// Its middle from the top, metres.
    pub y: f64,
    /// Its outline on the wall: left, top, right, bottom, metres.
    pub bounds: [f64; 4],
}

/// What a picture shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Heat {
    /// Patches, the largest first.
    pub patches: Vec<Patch>,
    /// The plane that was taken away: at the top left, and its change for each metre to the right and down, °C and K/m.
    pub background: [f64; 3],
    /// Robust spread of what is left, K.
    pub spread_k: f64,
    /// Cells without a figure.
    pub gaps: usize,
    /// What should be looked at again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// Why a picture gives nothing.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct HeatError(String);

/// What it was like when the picture was taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HeatConditions {
    /// Inside, °C.
    pub inside_c: f64,
    /// Outside, °C.
    pub outside_c: f64,
    /// How long ago the sun was on the outside of this face, hours; none when it was not.
    #[serde(default)]
    pub sun_hours_ago: Option<f64>,
    /// The outside of the face was wet.
    #[serde(default)]
    pub wet: bool,
    /// Wind stood on it.
    #[serde(default)]
    pub windy: bool,
}

impl HeatConditions {
    /// Why the picture is not usable for moisture, each in a sentence; nothing when it is.
    #[must_use]
    pub fn against(&self) -> Vec<String> {
        let mut out = Vec::new();
        let d = (self.inside_c - self.outside_c).abs();
        if d < LEAST_DIFFERENCE_K {
            out.push(format!("Inside and outside differed by {d:.1} K only; under {LEAST_DIFFERENCE_K:.0} K a wet place hardly shows."));
        }
        if let Some(h) = self.sun_hours_ago.filter(|h| *h < SUN_HOURS) {
            out.push(format!("The sun was on this face {h:.0} hours before; its warmth still draws patches."));
        }
        if self.wet {
            out.push("The outside of this face was wet: it cools by drying, whatever is behind it.".into());
        }
        if self.windy {
            out.push("Wind stood on this face and carried its warmth away unevenly.".into());
        }
        out
    }
}

/// A weighted plane through cells; the last one where the cells do not span a plane.
fn plane(cells: &[[f64; 3]], weight: impl Fn(f64) -> f64, last: [f64; 3]) -> [f64; 3] {
    let (mut m, mut v) = ([[0.0; 3]; 3], [0.0; 3]);
    for [x, y, t] in cells {
        let w = weight(t - last[0] - last[1] * x - last[2] * y);
        let row = [1.0, *x, *y];
        for i in 0..3 {
            for j in 0..3 {
                m[i][j] += w * row[i] * row[j];
            }
            v[i] += w * row[i] * t;
        }
    }
    let det = |m: &[[f64; 3]; 3]| {
        m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) - m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0])
            + m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0])
    };
    let d = det(&m);
    let scale = m[0][0] * m[1][1].max(1e-12) * m[2][2].max(1e-12);
    if d.abs() <= 1e-12 * scale.abs() {
        return last;
    }
    std::array::from_fn(|k| {
        let mut n = m;
        for i in 0..3 {
            n[i][k] = v[i];
        }
        det(&n) / d
    })
}

/// Finds what differs in a picture of heat.
///
/// # Errors
/// [`HeatError`] when the grid is not one or hardly has figures.
pub fn heat(i: &HeatInput) -> Result<Heat, HeatError> {
    let err = |m: String| Err(HeatError(m));
    if !(i.cell_m > 0.0 && i.cell_m <= 10.0) {
        return err("Say how large a cell is on the wall, in metres: more than nought, at most 10.".into());
    }
    let least = i.least_k.unwrap_or(LEAST_K);
    if !(least.is_finite() && least > 0.0) {
        return err("The least difference that counts is more than nought.".into());
    }
    let (rows, cols) = (i.grid.len(), i.grid.first().map_or(0, Vec::len));
    if rows < 3 || cols < 3 {
        return err(format!("A picture of {rows} rows and {cols} columns shows no patch; it takes at least 3 by 3."));
    }
    if rows.saturating_mul(cols) > MOST_CELLS {
        return err(format!("{rows} by {cols} cells are more than a thermal camera gives; the most is {MOST_CELLS}."));
    }
    if let Some(k) = i.grid.iter().position(|r| r.len() != cols) {
        return err(format!(
            "Row {} has {} figures, the first one {cols}. Every row needs as many; leave a gap empty (null).",
            k + 1,
            i.grid[k].len()
        ));
    }
    let mut cells = Vec::with_capacity(rows * cols);
    for (r, row) in i.grid.iter().enumerate() {
        for (c, t) in row.iter().enumerate() {
            match t {
                Some(t) if !(-60.0..=400.0).contains(t) => {
                    return err(format!("Row {}, column {} has {t} °C, which no wall has. Was it in another scale?", r + 1, c + 1));
                }
                Some(t) => cells.push([(c as f64 + 0.5) * i.cell_m, (r as f64 + 0.5) * i.cell_m, *t]),
                None => {}
            }
        }
    }
    let gaps = rows * cols - cells.len();
    if (cells.len() as f64) < LEAST_KNOWN * (rows * cols) as f64 {
        return err(format!("{gaps} of {} cells have no figure; more than half must.", rows * cols));
    }
    let mut p = plane(&cells, |_| 1.0, [median(&cells.iter().map(|c| c[2]).collect::<Vec<_>>()).unwrap_or_default(), 0.0, 0.0]);
    for _ in 0..30 {
        p = plane(&cells, |r| 1.0 / r.abs().max(1e-3), p);
    }
    let left = |p: &[f64; 3], c: &[f64; 3]| c[2] - p[0] - p[1] * c[0] - p[2] * c[1];
    let spread_of = |p: &[f64; 3]| {
        let r: Vec<f64> = cells.iter().map(|c| left(p, c)).collect();
        let m = median(&r).unwrap_or_default();
        MAD_TO_SPREAD * median(&r.iter().map(|v| (v - m).abs()).collect::<Vec<_>>()).unwrap_or_default()
    };
    let scale = spread_of(&p).max(1e-3);
    for _ in 0..10 {
        p = plane(
            &cells,
            |r| {
                let u = r / (TUKEY * scale);
                if u.abs() < 1.0 { (1.0 - u * u).powi(2) } else { 0.0 }
            },
            p,
        );
    }
    let spread_k = spread_of(&p);
    let limit = (SPREADS * spread_k).max(least);
    let off: Vec<Vec<Option<f64>>> = i
        .grid
        .iter()
        .enumerate()
        .map(|(r, row)| {
            row.iter()
                .enumerate()
                .map(|(c, t)| t.map(|t| left(&p, &[(c as f64 + 0.5) * i.cell_m, (r as f64 + 0.5) * i.cell_m, t])))
                .collect()
        })
        .collect();
    let mut patches = patches(&off, limit, i.cell_m);
    patches.sort_by(|a, b| b.cells.cmp(&a.cells).then(a.x.total_cmp(&b.x)).then(a.y.total_cmp(&b.y)));
    let mut doubts = Vec::new();
    if gaps > 0 {
        doubts.push(format!("{gaps} cells have no figure; what lies there is not seen, and no patch reaches across it."));
    }
    Ok(Heat { patches, background: p, spread_k, gaps, doubts })
}

/// Cells of one sign beyond the limit that share a side.
fn patches(off: &[Vec<Option<f64>>], limit: f64, cell: f64) -> Vec<Patch> {
    let beyond = |r: usize, c: usize| off[r][c].filter(|d| d.abs() >= limit);
    let mut seen = BTreeSet::new();
    let mut out = Vec::new();
    for r0 in 0..off.len() {
        for c0 in 0..off[0].len() {
            let Some(first) = beyond(r0, c0) else { continue };
            if !seen.insert((r0, c0)) {
                continue;
            }
            let mut of = vec![(r0, c0)];
            let mut k = 0;
            while let Some(&(r, c)) = of.get(k) {
                k += 1;
                let around = [(r.wrapping_sub(1), c), (r + 1, c), (r, c.wrapping_sub(1)), (r, c + 1)];
                for (r, c) in around.into_iter().filter(|(r, c)| *r < off.len() && *c < off[0].len()) {
                    if beyond(r, c).is_some_and(|d| d.signum() == first.signum()) && seen.insert((r, c)) {
                        of.push((r, c));
                    }
                }
            }
            if of.len() <= LEAST_CELLS {
                continue;
            }
            let n = of.len() as f64;
            let depth_k = of.iter().filter_map(|(r, c)| off[*r][*c]).map(f64::abs).fold(0.0, f64::max);
            let (rows, cols) = (of.iter().map(|x| x.0), of.iter().map(|x| x.1));
            let edge = |v: Option<usize>, plus: f64| (v.unwrap_or(0) as f64 + plus) * cell;
            out.push(Patch {
                cells: of.len(),
                area_m2: n * cell * cell,
                depth_k,
                cold: first < 0.0,
                x: cols.clone().map(|c| c as f64 + 0.5).sum::<f64>() / n * cell,
                y: rows.clone().map(|r| r as f64 + 0.5).sum::<f64>() / n * cell,
                bounds: [edge(cols.clone().min(), 0.0), edge(rows.clone().min(), 0.0), edge(cols.max(), 1.0), edge(rows.max(), 1.0)],
            });
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// A wall with a slope of temperature, some ripple, and one patch.
    fn wall(rows: usize, cols: usize, slope: (f64, f64), patch: Option<(usize, usize, usize, usize, f64)>) -> Vec<Vec<Option<f64>>> {
        (0..rows)
            .map(|r| {
                (0..cols)
                    .map(|c| {
                        let ripple = 0.05 * ((r * 7 + c * 13) as f64).sin();
                        let dip = patch.filter(|p| r >= p.0 && r < p.0 + p.2 && c >= p.1 && c < p.1 + p.3).map_or(0.0, |p| p.4);
                        Some(18.0 + slope.0 * c as f64 + slope.1 * r as f64 + ripple + dip)
                    })
                    .collect()
            })
            .collect()
    }

    #[test]
    fn gaps_and_grids_that_are_none() {
        let mut g = wall(20, 20, (0.0, 0.0), None);
        g[3][4] = None;
        let h = heat(&HeatInput { cell_m: 0.05, grid: g.clone(), least_k: None }).unwrap();
        assert_eq!((h.gaps, h.patches.len()), (1, 0));
        assert!(h.doubts[0].contains("no figure"));
        g[7].pop();
        assert!(heat(&HeatInput { cell_m: 0.05, grid: g, least_k: None }).unwrap_err().to_string().starts_with("Row 8 has 19 figures"));
        let empty = vec![vec![None; 10]; 10];
        assert!(heat(&HeatInput { cell_m: 0.05, grid: empty, least_k: None }).is_err());
        let hot = vec![vec![Some(1e9); 10]; 10];
        assert!(heat(&HeatInput { cell_m: 0.05, grid: hot, least_k: None }).is_err());
    }

    #[test]
    fn conditions_come_first() {
        let good = HeatConditions { inside_c: 21.0, outside_c: 4.0, sun_hours_ago: None, wet: false, windy: false };
        assert!(good.against().is_empty());
        let bad = HeatConditions { outside_c: 18.0, sun_hours_ago: Some(2.0), wet: true, windy: true, ..good };
        assert_eq!(bad.against().len(), 4);
    }

    proptest! {
        /// One patch is found with its cells, its sign and its place, whatever slope the wall has; a wall without one shows none.
        #[test]
        fn a_patch_is_found_whatever_the_slope(sx in -0.2..0.2_f64, sy in -0.2..0.2_f64, r in 0_usize..20, c in 0_usize..25, h in 4_usize..9, w in 4_usize..9, dip in 1.0..4.0_f64, cold: bool) {
            let dip = if cold { -dip } else { dip };
            let bare = heat(&HeatInput { cell_m: 0.1, grid: wall(30, 36, (sx, sy), None), least_k: None }).unwrap();
            prop_assert!(bare.patches.is_empty(), "{:?}", bare.patches);
            let one = heat(&HeatInput { cell_m: 0.1, grid: wall(30, 36, (sx, sy), Some((r, c, h, w, dip))), least_k: None }).unwrap();
            prop_assert_eq!(one.patches.len(), 1);
            let p = &one.patches[0];
            prop_assert_eq!((p.cells, p.cold), (h * w, cold));
            prop_assert!((p.depth_k - dip.abs()).abs() < 0.2);
            prop_assert!((p.x - (c as f64 + w as f64 / 2.0) * 0.1).abs() < 1e-9 && (p.y - (r as f64 + h as f64 / 2.0) * 0.1).abs() < 1e-9);
        }
    }
}
