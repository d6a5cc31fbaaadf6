//! `calc surface`: readings on a grid, with what stands and what runs, as plain figures.

use crate::terrain::flood::flood;
use crate::terrain::surface::{Cell, Lay, SurfaceError, lay};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A point to ask about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NamedPoint {
    /// What it is called.
    pub name: String,
    /// Where.
    pub at_m: [f64; 2],
    /// The largest value within this distance is taken.
    pub radius_m: f64,
}

/// Input of `calc surface`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SurfaceInput {
    /// East and north extent; the grid begins at 0, 0.
    pub domain_m: [f64; 2],
    /// Width of a cell.
    pub cell_m: f64,
    /// Outline of the building.
    #[serde(default)]
    pub footprint_m: Vec<[f64; 2]>,
    /// Points to ask about.
    #[serde(default)]
    pub named_points: Vec<NamedPoint>,
    /// Readings: x, y, height.
    pub spots_xyz_m: Vec<[f64; 3]>,
    /// Pairs of readings that an edge must join.
    #[serde(default)]
    pub breaklines: Vec<[usize; 2]>,
}

/// A place of the grid.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GridSample {
    /// From the west, from 0.
    pub col: usize,
    /// From the south, from 0.
    pub row: usize,
    /// Its middle.
    pub x: f64,
    /// Its middle.
    pub y: f64,
    /// Height of the ground; none outside the readings.
    pub z: Option<f64>,
    /// Inside the building.
    pub wall: bool,
}

/// Water that stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PondFigures {
    /// What it holds when it runs over.
    pub volume_m3: f64,
    /// Its area.
    pub area_m2: f64,
    /// Its depth.
    pub max_depth_m: f64,
    /// The deepest place.
    pub deepest_at_m: [f64; 2],
    /// The level at which it runs over.
    pub water_level_m: f64,
    /// It stands against the building.
    pub touches_building: bool,
}

/// What drains past a point.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Accumulated {
    /// Where.
    pub at_m: [f64; 2],
    /// Within this distance.
    pub radius_m: f64,
    /// Plan area, by the steepest of eight ways.
    pub d8_area_m2: f64,
}

/// A surface, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurfaceFigures {
    /// Cells from west to east.
    pub nx: usize,
    /// Cells from south to north.
    pub ny: usize,
    /// Width of a cell.
    pub cell_m: f64,
    /// Cells inside the building.
    pub building_cells: usize,
    /// Known ground.
    pub open_ground_m2: f64,
    /// Twelve places of the grid, to compare.
    pub grid_samples: Vec<GridSample>,
    /// All that stands.
    pub ponded_volume_m3: f64,
    /// The deepest.
    pub max_depth_m: f64,
    /// Area under more than a millimetre.
    pub ponded_area_over_1mm_m2: f64,
    /// Area under any water.
    pub ponded_area_any_m2: f64,
    /// Ponds deeper than a millimetre, largest first.
    pub ponds: Vec<PondFigures>,
    /// By the name of the point.
    pub flow_accumulation: BTreeMap<String, Accumulated>,
    /// Row, column and depth of cells under more than half a millimetre.
    pub depth_cells_row_col_m: Vec<[f64; 3]>,
    /// Breaklines left out because they cross others.
    pub breaklines_left_out: usize,
}

/// A pond counts from this depth, metres.
const POND_M: f64 = 1e-3;

/// Works a surface out.
///
/// # Errors
/// [`SurfaceError`] for readings no surface goes through.
pub fn surface(i: &SurfaceInput) -> Result<SurfaceFigures, SurfaceError> {
    let cells = |m: f64| if m > 0.0 && i.cell_m > 0.0 && m / i.cell_m < 1e7 { (m / i.cell_m).round() as usize } else { 0 };
    let footprints = if i.footprint_m.is_empty() { vec![] } else { vec![i.footprint_m.clone()] };
    let layout = Lay { origin: [0.0, 0.0], nx: cells(i.domain_m[0]), ny: cells(i.domain_m[1]), cell: i.cell_m, footprints };
    let (g, breaklines_left_out) = lay(&i.spots_xyz_m, &i.breaklines, layout)?;
    let f = flood(&g);
    let a = g.cell_m2();
    let depths: Vec<f64> = (0..g.cells.len()).map(|k| f.depth(&g, k)).collect();
    // Round figures hide what rounding made.
    let area = |over: f64| depths.iter().filter(|d| **d > over).count() as f64 * a;
    let mut ponds: Vec<PondFigures> = f
        .ponds
        .iter()
        .filter(|p| p.brim.is_finite())
        .filter_map(|p| {
            let deepest = p.cells[0] as usize;
            let deep: Vec<usize> = p.cells.iter().map(|k| *k as usize).filter(|k| depths[*k] > POND_M).collect();
            (!deep.is_empty()).then(|| PondFigures {
                volume_m3: deep.iter().map(|k| depths[*k]).sum::<f64>() * a,
                area_m2: deep.len() as f64 * a,
                max_depth_m: depths[deepest],
                deepest_at_m: g.lay.middle(deepest),
                water_level_m: p.brim,
                touches_building: deep.iter().any(|k| g.lay.around(*k).any(|(o, _)| g.cells[o] == Cell::Wall)),
            })
        })
        .collect();
    ponds.sort_by(|a, b| b.volume_m3.total_cmp(&a.volume_m3));
    let through = f.accumulation(&g);
    let named = i.named_points.iter().map(|p| {
        let near = |k: &usize| {
            let [x, y] = g.lay.middle(*k);
            (x - p.at_m[0]).hypot(y - p.at_m[1]) <= p.radius_m
        };
        let most = (0..through.len()).filter(near).map(|k| through[k]).fold(0.0, f64::max);
        (p.name.clone(), Accumulated { at_m: p.at_m, radius_m: p.radius_m, d8_area_m2: most })
    });
    let sample = |row: usize, col: usize| {
        let k = row * g.lay.nx + col;
        let [x, y] = g.lay.middle(k);
        GridSample { col, row, x, y, z: Some(g.z[k]).filter(|z| z.is_finite()), wall: g.cells[k] == Cell::Wall }
    };
    let (nx, ny) = (g.lay.nx, g.lay.ny);
    let rows = [2.min(ny - 1), ny / 2, ny.saturating_sub(3)];
    let columns = [1.min(nx - 1), nx / 3, 2 * nx / 3, nx.saturating_sub(2)];
    Ok(SurfaceFigures {
        nx,
        ny,
        cell_m: i.cell_m,
        building_cells: g.cells.iter().filter(|c| **c == Cell::Wall).count(),
        open_ground_m2: g.cells.iter().filter(|c| **c == Cell::Ground).count() as f64 * a,
        grid_samples: rows.iter().flat_map(|r| columns.map(|c| sample(*r, c))).collect(),
        ponded_volume_m3: depths.iter().sum::<f64>() * a,
        max_depth_m: depths.iter().copied().fold(0.0, f64::max),
        ponded_area_over_1mm_m2: area(POND_M),
        ponded_area_any_m2: area(1e-9),
        ponds,
        flow_accumulation: named.collect(),
        depth_cells_row_col_m: (0..depths.len())
            .filter(|k| depths[*k] > 5e-4)
            .map(|k| [(k / nx) as f64, (k % nx) as f64, depths[k]])
            .collect(),
        breaklines_left_out,
    })
}
