//! The level book: backsights, foresights and turning points, reduced to heights, with what does not close shared out.
//!
//! Height of instrument = height + backsight; height = height of instrument − reading (a negative reading is an inverted rod).
//! What the loop misses by is shared out evenly by set-ups.

use serde::{Deserialize, Serialize};

/// One line of the book.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct LevelRow {
    /// The point the rod stands on.
    pub point: String,
    /// Backsight: opens a set-up.
    pub bs_m: Option<f64>,
    /// Intermediate sight.
    pub is_m: Option<f64>,
    /// Foresight: ends a set-up.
    pub fs_m: Option<f64>,
}

/// Input of `calc level`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LevelInput {
    /// Height of the first point.
    pub start_elevation_m: f64,
    /// Known height of the last point; none when the book does not close on one.
    #[serde(default)]
    pub close_elevation_m: Option<f64>,
    /// Allowed misclosure for one set-up, millimetres; grows with the root of their number.
    #[serde(default = "ten")]
    pub tolerance_mm_per_sqrt_setup: f64,
    /// The lines in the order they were read.
    pub rows: Vec<LevelRow>,
}

/// Millimetres for the root of the set-ups; rule of practice.
fn ten() -> f64 {
    10.0
}

/// Height of the line of sight of a set-up.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetUp {
    /// From 1.
    pub setup: usize,
    /// Height of instrument.
    pub hi_m: f64,
}

/// What a point of the book is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum LevelKind {
    /// Read on the way.
    Intermediate,
    /// The instrument moved while the rod stood here.
    Turning,
    /// The last one.
    Closing,
}

/// A height from the book.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelPoint {
    /// Its name.
    pub point: String,
    /// What it is.
    pub kind: LevelKind,
    /// The set-up it was read from.
    pub setup: usize,
    /// As read.
    pub raw_elevation_m: f64,
    /// With its share of the misclosure.
    pub adjusted_by_setup_m: f64,
    /// The same, intermediates by the set-up before: the school that shifts heights of instrument.
    pub adjusted_hi_rule_m: f64,
}

/// The book, reduced.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelBook {
    /// How often the instrument was set up.
    pub setups: usize,
    /// Their lines of sight.
    pub heights_of_instrument: Vec<SetUp>,
    /// The heights.
    pub points: Vec<LevelPoint>,
    /// All backsights.
    pub sum_bs_m: f64,
    /// All foresights.
    pub sum_fs_m: f64,
    /// Computed less known; none when nothing is closed on.
    pub closure_error_m: Option<f64>,
    /// What is allowed.
    pub tolerance_m: f64,
    /// It is within that.
    pub within_tolerance: Option<bool>,
}

/// Why a book cannot be reduced: the line, from 1, and what to do.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("Line {line}: {message}")]
pub struct LevelError {
    /// From 1.
    pub line: usize,
    /// What is wrong and what to do.
    pub message: String,
}

/// A rod is no longer than this, metres.
const LONGEST_ROD_M: f64 = 10.0;

/// Reduces a level book.
///
/// # Errors
/// [`LevelError`] names the line.
pub fn level(input: &LevelInput) -> Result<LevelBook, LevelError> {
    let wrong = |line: usize, message: &str| LevelError { line, message: message.to_owned() };
    if input.rows.len() < 2 {
        return Err(wrong(1, "A book needs a backsight on a known point and at least one reading after it."));
    }
    if !(input.start_elevation_m.is_finite() && input.close_elevation_m.is_none_or(f64::is_finite)) {
        return Err(wrong(1, "The height of the known point is missing."));
    }
    let mut out = LevelBook {
        setups: 0,
        heights_of_instrument: vec![],
        points: vec![],
        sum_bs_m: 0.0,
        sum_fs_m: 0.0,
        closure_error_m: None,
        tolerance_m: 0.0,
        within_tolerance: None,
    };
    let (mut height, mut sight) = (input.start_elevation_m, None::<f64>);
    for (k, r) in input.rows.iter().enumerate() {
        let line = k + 1;
        let last = line == input.rows.len();
        if let Some(v) = [r.bs_m, r.is_m, r.fs_m].into_iter().flatten().find(|v| !v.is_finite() || v.abs() > LONGEST_ROD_M) {
            return Err(wrong(line, &format!("A rod is not read at {v} m. Were these feet, or millimetres?")));
        }
        if r.is_m.is_some() && (r.bs_m.is_some() || r.fs_m.is_some()) {
            return Err(wrong(line, "An intermediate sight stands alone. Give the backsight or foresight its own line, or leave it out."));
        }
        let add = |out: &mut LevelBook, kind: LevelKind, z: f64| {
            out.points.push(LevelPoint {
                point: r.point.clone(),
                kind,
                setup: out.setups,
                raw_elevation_m: z,
                adjusted_by_setup_m: z,
                adjusted_hi_rule_m: z,
            });
        };
        if let Some(v) = r.is_m.or(r.fs_m) {
            let Some(hi) = sight else {
                return Err(wrong(
                    line,
                    "Nothing was sighted back to before it: a turning point is missing. Add the backsight that opens this set-up.",
                ));
            };
            let z = hi - v;
            if r.fs_m.is_some() {
                out.sum_fs_m += v;
                height = z;
                sight = None;
                add(&mut out, if last { LevelKind::Closing } else { LevelKind::Turning }, z);
                // The backsight to it stands in the same line, or opens the next.
                let next = input.rows.get(k + 1).is_some_and(|n| n.bs_m.is_some() && n.fs_m.is_none() && n.point == r.point);
                if !last && r.bs_m.is_none() && !next {
                    return Err(wrong(
                        line + 1,
                        &format!(
                            "After the foresight on {} the instrument moved, and nothing sights back to it: a turning point is missing.",
                            r.point
                        ),
                    ));
                }
            } else {
                add(&mut out, LevelKind::Intermediate, z);
            }
        }
        if let Some(v) = r.bs_m {
            if sight.is_some() {
                return Err(wrong(line, "A second backsight without a foresight between: the turning point before it is missing."));
            }
            if last {
                return Err(wrong(line, "The book ends with a backsight. Read a foresight on the last point."));
            }
            out.sum_bs_m += v;
            out.setups += 1;
            let hi = height + v;
            sight = Some(hi);
            out.heights_of_instrument.push(SetUp { setup: out.setups, hi_m: hi });
        }
        if r.bs_m.is_none() && r.is_m.is_none() && r.fs_m.is_none() {
            return Err(wrong(line, "There is no reading in it."));
        }
    }
    let n = out.setups as f64;
    out.tolerance_m = input.tolerance_mm_per_sqrt_setup / 1000.0 * n.sqrt();
    let closes = out.points.last().filter(|p| p.kind == LevelKind::Closing).map(|p| p.raw_elevation_m);
    if let Some(error) = closes.zip(input.close_elevation_m).map(|(z, known)| z - known) {
        out.closure_error_m = Some(error);
        out.within_tolerance = Some(error.abs() <= out.tolerance_m + 1e-12);
        for p in &mut out.points {
            let k = p.setup as f64;
            p.adjusted_by_setup_m = p.raw_elevation_m - error * k / n;
            let back = if p.kind == LevelKind::Intermediate { k - 1.0 } else { k };
            p.adjusted_hi_rule_m = p.raw_elevation_m - error * back / n;
        }
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn row(point: &str, bs: Option<f64>, is: Option<f64>, fs: Option<f64>) -> LevelRow {
        LevelRow { point: point.into(), bs_m: bs, is_m: is, fs_m: fs }
    }

    fn book(rows: Vec<LevelRow>) -> LevelInput {
        LevelInput { start_elevation_m: 100.0, close_elevation_m: Some(100.0), tolerance_mm_per_sqrt_setup: 10.0, rows }
    }

    #[test]
    fn what_is_missing_is_named_by_its_line() {
        let e = level(&book(vec![row("BM", Some(1.0), None, None), row("A", None, None, Some(1.2)), row("B", None, Some(1.0), None)]))
            .unwrap_err();
        assert!(e.line == 3 && e.message.contains("turning point is missing"), "{e}");
        let e = level(&book(vec![row("BM", Some(1.0), None, None), row("A", Some(1.2), None, None), row("B", None, None, Some(1.0))]))
            .unwrap_err();
        assert!(e.line == 2 && e.message.contains("second backsight"), "{e}");
        assert!(
            level(&book(vec![row("BM", Some(5.0), None, None), row("A", None, None, Some(49.2))])).unwrap_err().message.contains("feet")
        );
        assert!(
            level(&book(vec![row("BM", Some(1.0), None, None), row("A", None, None, None)])).unwrap_err().message.contains("no reading")
        );
        assert!(level(&book(vec![row("BM", Some(1.0), None, None)])).is_err());
        assert!(level(&book(vec![row("A", None, Some(1.0), None), row("B", None, None, Some(1.0))])).unwrap_err().line == 1);
    }

    proptest! {
        /// A loop read without error closes, whatever the ground and however often the instrument moves; an error in one
        /// reading is the misclosure, and the adjusted loop closes again.
        #[test]
        fn a_loop_closes(heights in prop::collection::vec(98.0..102.0_f64, 2..12), lifts in prop::collection::vec(1.0..2.0_f64, 12), slip in -0.02..0.02_f64) {
            let mut at = 100.0;
            let mut rows = Vec::new();
            let n = heights.len();
            for (k, z) in heights.iter().chain([&100.0]).enumerate() {
                let hi = at + lifts[k % lifts.len()];
                let first = k == 0;
                if first { rows.push(row("BM", Some(hi - at), None, None)) }
                else { rows.last_mut().map(|r: &mut LevelRow| r.bs_m = Some(hi - at)).unwrap() }
                rows.push(row(if k == n { "BM" } else { "P" }, None, None, Some(hi - z)));
                at = *z;
            }
            let closed = level(&book(rows.clone())).unwrap();
            prop_assert!(closed.closure_error_m.unwrap().abs() < 1e-9);
            prop_assert!((closed.sum_bs_m - closed.sum_fs_m).abs() < 1e-9);
            rows.last_mut().unwrap().fs_m = rows.last().unwrap().fs_m.map(|v| v - slip);
            let off = level(&book(rows)).unwrap();
            prop_assert!((off.closure_error_m.unwrap() - slip).abs() < 1e-9);
            prop_assert!((off.points.last().unwrap().adjusted_by_setup_m - 100.0).abs() < 1e-9);
            prop_assert_eq!(off.within_tolerance, Some(slip.abs() <= 0.01 * (off.setups as f64).sqrt() + 1e-12));
        }
    }
}
