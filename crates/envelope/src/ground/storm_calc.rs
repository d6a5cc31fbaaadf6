//! `calc storm`: rain over heights on a grid, with what stands at every minute, whose water it was, and where all of it went.

use super::waters::{Drain, Waters};
use crate::terrain::hollows::{Hollows, Land, NONE};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Rain of one strength.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RainPiece {
    /// How long.
    pub minutes: f64,
    /// How strong, mm/h.
    pub mm_h: f64,
}

/// The same loss everywhere, or one for each cell, mm/h.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum Losses {
    /// Everywhere.
    Same(f64),
    /// Row by row from the south.
    Each(Vec<Vec<f64>>),
}

/// Where water leaves the grid.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum BorderOf {
    /// "open" all round, or "closed".
    All(String),
    /// Only at these cells, row and column.
    At(Vec<[usize; 2]>),
}

/// Water that comes in at a cell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormSource {
    /// What it is called.
    pub id: String,
    /// From the south, from 0.
    pub row: usize,
    /// From the west, from 0.
    pub col: usize,
    /// Litres a minute while the rain list lasts.
    pub l_min: f64,
}

/// Something that takes water at a cell.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormDrain {
    /// From the south, from 0.
    pub row: usize,
    /// From the west, from 0.
    pub col: usize,
    /// Litres a second at most.
    pub l_s: f64,
}

/// Input of `calc storm`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormInput {
    /// Side of a cell, metres.
    pub cell_m: f64,
    /// Heights in metres, row by row from the south; null where there is no land.
    pub heights: Vec<Vec<Option<f64>>>,
    /// What the soil takes, mm/h.
    pub loss_mm_h: Losses,
    /// Where water leaves.
    pub border: BorderOf,
    /// The rain.
    pub rain: Vec<RainPiece>,
    /// Dry minutes after it.
    #[serde(default)]
    pub after_min: f64,
    /// Water that comes in otherwise.
    #[serde(default)]
    pub sources: Vec<StormSource>,
    /// Drains.
    #[serde(default)]
    pub drains: Vec<StormDrain>,
    /// Whose rain falls on each cell; "rain" where nothing is said.
    #[serde(default)]
    pub origins: Option<Vec<Vec<Option<String>>>>,
}

/// Where all the water went, m³.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StormBalance {
    /// Rain on land.
    pub rain_m3: f64,
    /// Out of sources.
    pub sources_m3: f64,
    /// Taken by the soil.
    pub soaked_m3: f64,
    /// Taken by drains.
    pub drained_m3: f64,
    /// Over open cells.
    pub left_m3: f64,
    /// Standing at the end.
    pub standing_end_m3: f64,
    /// What is missing or too much, per cent of all that came.
    pub error_pct: f64,
}

/// What stands at a minute.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StandingAt {
    /// Minutes since the rain began.
    pub min: f64,
    /// On all the ground.
    pub standing_m3: f64,
}

/// One water that stood.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StoodWater {
    /// Row and column of its lowest cell.
    pub id: String,
    /// The most it held.
    pub peak_m3: f64,
    /// Its greatest depth.
    pub peak_depth_m: f64,
    /// When it first held all but a thousandth of that.
    pub peak_min: f64,
    /// Cells at least a millimetre deep at its highest.
    pub area_m2: f64,
    /// From when on none of its cells is a millimetre deep; none when some is at the end.
    pub gone_min: Option<f64>,
    /// Whose water it was then, as shares.
    pub shares_at_peak: BTreeMap<String, f64>,
}

/// A storm over a grid, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StormOut {
    /// Where all the water went.
    pub balance: StormBalance,
    /// Every whole minute.
    pub times: Vec<StandingAt>,
    /// Every water of a litre and a millimetre or more, the largest first.
    pub ponds: Vec<StoodWater>,
    /// Greatest depth of each cell, row by row from the south; null where there is no land.
    pub depth_at_peak: Vec<Vec<Option<f64>>>,
}

const RAIN: &str = "rain";
/// More cells than this take more memory than a calculation may.
const MOST_CELLS: usize = 4_000_000;
/// A month of minutes is no storm.
const MOST_MINUTES: f64 = 44_640.0;

fn wrong(what: &str) -> String {
    what.to_owned()
}

fn land_of(i: &StormInput) -> Result<Land, String> {
    let (ny, nx) = (i.heights.len(), i.heights.first().map_or(0, Vec::len));
    if nx == 0 || i.heights.iter().any(|r| r.len() != nx) {
        return Err(wrong("The heights are rows of the same length, from the south; there is no such grid here."));
    }
    if nx * ny > MOST_CELLS {
        return Err(format!("{} cells are more than {MOST_CELLS}. Choose larger cells.", nx * ny));
    }
    if !(0.01..=100.0).contains(&i.cell_m) {
        return Err(format!("A cell of {} m cannot be. Type metres from 0.01 to 100.", i.cell_m));
    }
    let z: Vec<f64> = i.heights.iter().flatten().map(|h| h.unwrap_or(f64::NAN)).collect();
    if z.iter().any(|v| v.is_infinite() || v.abs() > 1e5) {
        return Err(wrong("A height is more than a hundred kilometres. Are the heights metres?"));
    }
    let mut open = vec![false; nx * ny];
    match &i.border {
        BorderOf::All(w) if w == "closed" => {}
        BorderOf::All(w) if w == "open" => {
            for (k, o) in open.iter_mut().enumerate() {
                let (r, c) = (k / nx, k % nx);
                *o = !z[k].is_nan() && (r == 0 || c == 0 || r + 1 == ny || c + 1 == nx);
            }
        }
        BorderOf::All(w) => {
            return Err(format!(
                "The border is \"open\", \"closed\" or a list of cells, not \"{}\".",
                w.chars().take(40).collect::<String>()
            ));
        }
        BorderOf::At(cells) => {
            for [r, c] in cells {
                let k = Some(r * nx + c).filter(|k| *r < ny && *c < nx && !z[*k].is_nan());
                open[k.ok_or_else(|| format!("The open cell {r},{c} is no land of this grid."))?] = true;
            }
        }
    }
    Ok(Land { nx, ny, cell_m: i.cell_m, z, open })
}

fn loss_of(i: &StormInput, land: &Land) -> Result<Vec<f64>, String> {
    let mm_h: Vec<f64> = match &i.loss_mm_h {
        Losses::Same(v) => vec![*v; land.z.len()],
        Losses::Each(rows) if rows.len() == land.ny && rows.iter().all(|r| r.len() == land.nx) => rows.iter().flatten().copied().collect(),
        Losses::Each(_) => return Err(wrong("The losses are one figure, or rows like those of the heights.")),
    };
    match mm_h.iter().find(|v| !(0.0..=10_000.0).contains(*v)) {
        Some(v) => Err(format!("A loss of {v} mm/h cannot be. Type 0 or more.")),
        None => Ok(mm_h.into_iter().map(|v| v / 3.6e6).collect()),
    }
}

/// Runs a storm over a grid of heights.
///
/// # Errors
/// What is wrong with which figure.
pub fn storm(i: &StormInput) -> Result<StormOut, String> {
    let land = land_of(i)?;
    let loss = loss_of(i, &land)?;
    let rain_min: f64 = i.rain.iter().map(|r| r.minutes).sum();
    if i.rain.iter().any(|r| !(0.0..=MOST_MINUTES).contains(&r.minutes) || !(0.0..=2000.0).contains(&r.mm_h))
        || !(0.0..=MOST_MINUTES).contains(&(rain_min + i.after_min))
        || i.after_min < 0.0
    {
        return Err(format!("Rain is 0 to 2000 mm/h, and all of it with the dry minutes after it at most {MOST_MINUTES} minutes."));
    }
    let cell = |what: &str, row: usize, col: usize| {
        let k = Some(row * land.nx + col).filter(|k| row < land.ny && col < land.nx && land.is_land(*k));
        k.ok_or_else(|| format!("{what} at {row},{col} is not on land of this grid."))
    };
    let mut drains = Vec::new();
    for d in &i.drains {
        if !(0.0..=10_000.0).contains(&d.l_s) {
            return Err(format!("A drain of {} L/s cannot be. Type 0 or more.", d.l_s));
        }
        drains.push(Drain { cell: cell("The drain", d.row, d.col)?, takes: d.l_s / 1000.0 });
    }
    let mut names: Vec<String> = vec![RAIN.to_owned()];
    let number = |names: &mut Vec<String>, name: &str| {
        names.iter().position(|n| n == name).unwrap_or_else(|| {
            names.push(name.to_owned());
            names.len() - 1
        })
    };
    let mut whose = vec![0_usize; land.z.len()];
    if let Some(rows) = &i.origins {
        if rows.len() != land.ny || rows.iter().any(|r| r.len() != land.nx) {
            return Err(wrong("The origins are rows like those of the heights."));
        }
        for (w, name) in whose.iter_mut().zip(rows.iter().flatten()) {
            *w = name.as_deref().map_or(0, |n| number(&mut names, n));
        }
    }
    let mut sources = Vec::new();
    for s in &i.sources {
        if !(0.0..=100_000.0).contains(&s.l_min) {
            return Err(format!("A source of {} L/min cannot be. Type 0 or more.", s.l_min));
        }
        let from = number(&mut names, &s.id);
        sources.push((cell(&format!("The source {}", s.id), s.row, s.col)?, from, s.l_min / 60_000.0));
    }
    if names.len() > 64 {
        return Err(wrong("More than 64 origins cannot be told apart. Join some."));
    }
    let hollows = Hollows::of(&land);
    let mut waters = Waters::new(&land, &hollows, &loss, drains, names.len());
    // Short steps where they cost little; a minute holds everywhere.
    let minutes = rain_min + i.after_min;
    let step_s = [10.0, 20.0, 30.0].into_iter().find(|s| minutes * 60.0 / s * (land.z.len() as f64) < 4e7).unwrap_or(60.0);
    let mut times = vec![StandingAt { min: 0.0, standing_m3: 0.0 }];
    let mut pieces: Vec<(f64, f64, bool)> = i.rain.iter().map(|r| (r.minutes, r.mm_h, true)).collect();
    pieces.push((i.after_min, 0.0, false));
    let mut next_minute = 1.0;
    let mut ended = 0.0;
    for (lasts, mm_h, raining) in pieces {
        ended += lasts;
        while waters.minutes < ended - 1e-9 {
            // Steps end on whole minutes and where the rain changes.
            let left_s = (ended.min(next_minute) - waters.minutes) * 60.0;
            let seconds = if left_s < 1.5 * step_s { left_s } else { step_s };
            let comes: Vec<(usize, usize, f64)> =
                if raining { sources.iter().map(|(k, o, m3_s)| (*k, *o, m3_s * seconds)).collect() } else { vec![] };
            waters.step(seconds, mm_h / 3.6e6 * seconds, &|k| Some(whose[k]), &comes);
            if waters.minutes > next_minute - 1e-9 {
                times.push(StandingAt { min: next_minute, standing_m3: waters.standing() });
                next_minute += 1.0;
            }
        }
    }
    Ok(told(&land, &hollows, &waters, &names, times))
}

/// For each leaf, the largest water it was ever part of.
pub(super) fn as_one(hollows: &Hollows, waters: &Waters<'_>) -> Vec<usize> {
    (0..hollows.leaves)
        .map(|leaf| {
            let mut top = leaf;
            let mut at = leaf;
            while let Some(w) = hollows.nodes[at].whole {
                at = w;
                if waters.seen[at].as_one {
                    top = at;
                }
            }
            top
        })
        .collect()
}

fn told(land: &Land, hollows: &Hollows, waters: &Waters<'_>, names: &[String], times: Vec<StandingAt>) -> StormOut {
    let went = waters.went;
    let came = went.rained + went.sources;
    let standing = waters.standing();
    let missing = came - went.soaked - went.drained - went.left - standing;
    // The highest level each cell was ever under, its own water or any that took it in.
    let mut highest = vec![f64::NEG_INFINITY; hollows.leaves];
    for (leaf, h) in highest.iter_mut().enumerate() {
        let mut at = Some(leaf);
        while let Some(n) = at {
            *h = h.max(waters.seen[n].level);
            at = hollows.nodes[n].whole;
        }
    }
    let depth = |k: usize| {
        let leaf = hollows.basin[k];
        if leaf == NONE || land.open[k] { 0.0 } else { (highest[leaf as usize] - land.z[k]).max(0.0) }
    };
    let tops = as_one(hollows, waters);
    let mut by_top: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for (leaf, top) in tops.iter().enumerate() {
        by_top.entry(*top).or_default().push(leaf);
    }
    let mut ponds: Vec<StoodWater> = Vec::new();
    for (top, leaves) in by_top {
        let (seen, node) = (&waters.seen[top], &hollows.nodes[top]);
        let peak_depth_m = seen.level - land.z[node.lowest as usize];
        /// A litre and a millimetre make a water.
        const LEAST_M3: f64 = 0.001;
        const LEAST_M: f64 = 0.001;
        if seen.volume < LEAST_M3 || peak_depth_m < LEAST_M {
            continue;
        }
        let at_peak = seen.history.iter().find(|h| h.1 >= seen.volume * 0.999).or(seen.history.iter().max_by(|a, b| a.1.total_cmp(&b.1)));
        let area = node.cells.iter().filter(|k| seen.level - land.z[**k as usize] >= LEAST_M).count() as f64 * land.cell_m2();
        let wet = leaves.iter().any(|l| waters.wet_now[*l]);
        ponds.push(StoodWater {
            id: format!("{},{}", node.lowest as usize / land.nx, node.lowest as usize % land.nx),
            peak_m3: seen.volume,
            peak_depth_m,
            peak_min: at_peak.map_or(0.0, |h| h.0),
            area_m2: area,
            gone_min: (!wet).then(|| leaves.iter().map(|l| waters.last_wet[*l]).fold(0.0, f64::max)),
            shares_at_peak: at_peak
                .map(|(_, v, of)| names.iter().zip(of).map(|(n, m)| (n.clone(), m / v)).filter(|(_, s)| *s >= 0.0005).collect())
                .unwrap_or_default(),
        });
    }
    ponds.sort_by(|a, b| b.peak_m3.total_cmp(&a.peak_m3));
    StormOut {
        balance: StormBalance {
            rain_m3: went.rained,
            sources_m3: went.sources,
            soaked_m3: went.soaked,
            drained_m3: went.drained,
            left_m3: went.left,
            standing_end_m3: standing,
            error_pct: if came > 0.0 { 100.0 * missing.abs() / came } else { 0.0 },
        },
        times,
        ponds,
        depth_at_peak: (0..land.ny)
            .map(|r| (0..land.nx).map(|c| r * land.nx + c).map(|k| land.is_land(k).then(|| depth(k))).collect())
            .collect(),
    }
}
