//! A perimeter as it is walked with a tape: each wall's length and the turn after it. The walk never closes quite; how far it
//! misses, and the outline with the miss spread along it by the compass rule.
//!
//! Source: the compass (Bowditch) rule of plane surveying. x to the right, y up, headings counterclockwise from x, turns to
//! the left positive.

use serde::{Deserialize, Serialize};

/// One wall of the walk.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Wall {
    /// Metres.
    pub length_m: f64,
    /// Degrees turned after it, to the left positive.
    pub turn_after_deg: f64,
}

/// A walk round a building.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TraverseInput {
    /// Direction of the first wall, degrees counterclockwise from x.
    #[serde(default)]
    pub heading0_deg: f64,
    /// The walls in the order they are walked.
    pub walls: Vec<Wall>,
}

/// The outline after the angles were made to close first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Balanced {
    /// How far the walk misses its start, metres.
    pub linear_misclosure_m: f64,
    /// Perimeter over the miss; none when it closes.
    pub misclosure_ratio_1_in: Option<f64>,
    /// The outline, closed by the compass rule.
    pub adjusted_points_m: Vec<[f64; 2]>,
    /// Its area.
    pub area_adjusted_m2: f64,
    /// Directions of the walls.
    pub headings_deg: Vec<f64>,
    /// The miss along x.
    pub closure_error_x_m: f64,
    /// The miss along y.
    pub closure_error_y_m: f64,
}

/// A walk, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Traverse {
    /// Sum of the lengths as taped.
    pub perimeter_m: f64,
    /// Sum of the turns; 360 to the left or to the right when they close.
    pub sum_turns_deg: f64,
    /// What the turns miss of a full turn.
    pub angular_misclosure_deg: f64,
    /// Directions of the walls, 0 up to 360.
    pub headings_deg: Vec<f64>,
    /// Corners as taped, from the start to where the walk ends.
    pub raw_points_m: Vec<[f64; 2]>,
    /// Where the walk ends, less where it began, along x.
    pub closure_error_x_m: f64,
    /// The same along y.
    pub closure_error_y_m: f64,
    /// How far the walk misses its start.
    pub linear_misclosure_m: f64,
    /// Perimeter over the miss; none when it closes.
    pub misclosure_ratio_1_in: Option<f64>,
    /// Corners with the miss spread along the walk.
    pub adjusted_points_m: Vec<[f64; 2]>,
    /// Lengths between them.
    pub adjusted_wall_lengths_m: Vec<f64>,
    /// "ccw" or "cw".
    pub orientation: String,
    /// Area with its sign: counterclockwise positive.
    pub signed_area_adjusted_m2: f64,
    /// Area.
    pub area_adjusted_m2: f64,
    /// Area of the corners as taped, without the last.
    pub area_raw_dropped_last_point_m2: f64,
    /// Area of the corners as taped, with the last.
    pub area_raw_all_points_m2: f64,
    /// The outline does not cross itself.
    pub simple_polygon: bool,
    /// With the angles made to close first; only when they do not by themselves.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub with_angles_balanced_first: Option<Balanced>,
    /// The wall, counted from one, whose length would explain most of the miss.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doubtful_wall: Option<usize>,
    /// What should be looked at again, in words.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<String>,
}

/// Why a walk gives no outline.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TraverseError {
    /// Too few walls.
    #[error("{0} walls enclose nothing. Tape at least three.")]
    TooFew(usize),
    /// Nobody tapes so many.
    #[error("{0} walls are more than a building has; the most is {MOST_WALLS}.")]
    TooMany(usize),
    /// A length that cannot be.
    #[error("Wall {wall} cannot be {length} m long. Type a length above 0 and up to 1000 m.")]
    Length {
        /// Counted from one.
        wall: usize,
        /// As given.
        length: f64,
    },
    /// An angle that cannot be.
    #[error("The turn after wall {0} is not between -180° and 180°.")]
    Turn(usize),
    /// The first direction is no number.
    #[error("The first wall's direction is no angle.")]
    Heading,
    /// The lengths lie along one line.
    #[error("The walk goes to and fro and encloses nothing. Check the turns.")]
    Nothing,
}

const MOST_WALLS: usize = 1_000;
/// Below this miss a walk closes; a tape is read to the millimetre, arithmetic to far less.
const CLOSED_M: f64 = 1e-9;
/// Turns that miss by less are closed: the noise of adding degrees.
const ANGLES_CLOSED_DEG: f64 = 1e-9;

type Point = [f64; 2];

fn shoelace(points: &[Point]) -> f64 {
    let n = points.len();
    (0..n).map(|i| points[i][0] * points[(i + 1) % n][1] - points[(i + 1) % n][0] * points[i][1]).sum::<f64>() / 2.0
}

fn walk(walls: &[Wall], headings: &[f64]) -> Vec<Point> {
    let mut at = [0.0, 0.0];
    let mut out = vec![at];
    for (w, h) in walls.iter().zip(headings) {
        let (s, c) = h.to_radians().sin_cos();
        at = [at[0] + w.length_m * c, at[1] + w.length_m * s];
        out.push(at);
    }
    out
}

fn headings(first: f64, turns: impl Iterator<Item = f64>, n: usize) -> Vec<f64> {
    let mut h = first;
    let mut out = Vec::with_capacity(n);
    for turn in turns.take(n) {
        // Snapped to the noise of adding degrees, so that a right angle stays one.
        let near = (h * 1e9).round() / 1e9;
        out.push(near.rem_euclid(360.0));
        h += turn;
    }
    out
}

/// Corners with the miss taken back in proportion to the way walked; the last, which is the start again, left out.
fn compass_rule(raw: &[Point], walls: &[Wall], perimeter: f64) -> Vec<Point> {
    let end = raw[raw.len() - 1];
    let mut walked = 0.0;
    raw[..walls.len()]
        .iter()
        .zip(walls)
        .map(|(p, w)| {
            let share = walked / perimeter;
            walked += w.length_m;
            [p[0] - end[0] * share, p[1] - end[1] * share]
        })
        .collect()
}

fn crosses(a: Point, b: Point, c: Point, d: Point) -> bool {
    let side = |p: Point, q: Point, r: Point| (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    let (d1, d2, d3, d4) = (side(c, d, a), side(c, d, b), side(a, b, c), side(a, b, d));
    let within = |p: Point, q: Point, r: Point| (0..2).all(|k| r[k] >= p[k].min(q[k]) - 1e-12 && r[k] <= p[k].max(q[k]) + 1e-12);
    d1 * d2 < 0.0 && d3 * d4 < 0.0
        || d1 == 0.0 && within(c, d, a)
        || d2 == 0.0 && within(c, d, b)
        || d3 == 0.0 && within(a, b, c)
        || d4 == 0.0 && within(a, b, d)
}

fn is_simple(points: &[Point]) -> bool {
    let n = points.len();
    let edge = |i: usize| (points[i], points[(i + 1) % n]);
    (0..n).all(|i| {
        (i + 1..n).all(|j| {
            let neighbours = j == i + 1 || i == 0 && j == n - 1;
            let ((a, b), (c, d)) = (edge(i), edge(j));
            neighbours || !crosses(a, b, c, d)
        })
    })
}

/// Works out a walk.
///
/// # Errors
/// [`TraverseError`] for walks that no building has.
pub fn traverse(input: &TraverseInput) -> Result<Traverse, TraverseError> {
    let walls = &input.walls;
    let n = walls.len();
    if n < 3 {
        return Err(TraverseError::TooFew(n));
    }
    if n > MOST_WALLS {
        return Err(TraverseError::TooMany(n));
    }
    if !input.heading0_deg.is_finite() {
        return Err(TraverseError::Heading);
    }
    for (i, w) in walls.iter().enumerate() {
        if !(w.length_m > 0.0 && w.length_m <= 1000.0) {
            return Err(TraverseError::Length { wall: i + 1, length: w.length_m });
        }
        if !(-180.0..=180.0).contains(&w.turn_after_deg) {
            return Err(TraverseError::Turn(i + 1));
        }
    }
    let perimeter: f64 = walls.iter().map(|w| w.length_m).sum();
    let sum_turns: f64 = walls.iter().map(|w| w.turn_after_deg).sum();
    let full = if sum_turns < 0.0 { -360.0 } else { 360.0 };
    let off = ((sum_turns - full) * 1e9).round() / 1e9;
    let turns = || walls.iter().map(|w| w.turn_after_deg);
    let directions = headings(input.heading0_deg, turns(), n);
    let raw = walk(walls, &directions);
    let end = raw[n];
    let miss = end[0].hypot(end[1]);
    let adjusted = compass_rule(&raw, walls, perimeter);
    let signed = shoelace(&adjusted);
    if signed.abs() < 1e-9 {
        return Err(TraverseError::Nothing);
    }
    let ratio = |miss: f64| (miss >= CLOSED_M).then(|| perimeter / miss);
    let balanced = (off.abs() > ANGLES_CLOSED_DEG).then(|| {
        let share = off / n as f64;
        let directions = headings(input.heading0_deg, turns().map(|t| t - share), n);
        let raw = walk(walls, &directions);
        let end = raw[n];
        let miss = end[0].hypot(end[1]);
        let adjusted = compass_rule(&raw, walls, perimeter);
        Balanced {
            linear_misclosure_m: miss,
            misclosure_ratio_1_in: ratio(miss),
            area_adjusted_m2: shoelace(&adjusted).abs(),
            adjusted_points_m: adjusted,
            headings_deg: directions,
            closure_error_x_m: end[0],
            closure_error_y_m: end[1],
        }
    });
    let simple = is_simple(&adjusted);
    let doubtful = doubtful_wall(&directions, end, miss);
    let shortest = walls.iter().map(|w| w.length_m).fold(f64::INFINITY, f64::min);
    let mut doubts = Vec::new();
    if !simple {
        doubts.push("The outline crosses itself. Look for a turn to the wrong side.".to_owned());
    }
    if miss > shortest {
        doubts.push(format!("The walk misses its start by {miss:.2} m, more than the shortest wall. A wall may be missing; tape it again before using the outline."));
    }
    Ok(Traverse {
        perimeter_m: perimeter,
        sum_turns_deg: sum_turns,
        angular_misclosure_deg: off,
        headings_deg: directions,
        closure_error_x_m: end[0],
        closure_error_y_m: end[1],
        linear_misclosure_m: miss,
        misclosure_ratio_1_in: ratio(miss),
        adjusted_wall_lengths_m: (0..n)
            .map(|i| {
                let (a, b) = (adjusted[i], adjusted[(i + 1) % n]);
                (b[0] - a[0]).hypot(b[1] - a[1])
            })
            .collect(),
        orientation: if signed > 0.0 { "ccw" } else { "cw" }.into(),
        signed_area_adjusted_m2: signed,
        area_adjusted_m2: signed.abs(),
        area_raw_dropped_last_point_m2: shoelace(&raw[..n]).abs(),
        area_raw_all_points_m2: shoelace(&raw).abs(),
        simple_polygon: simple,
        with_angles_balanced_first: balanced,
        doubtful_wall: doubtful,
        doubts,
        adjusted_points_m: adjusted,
        raw_points_m: raw,
    })
}

/// The wall that runs most nearly along the miss: taping it wrong by the miss would explain all but the cross part. None when
/// the walk closes to a centimetre, which is what a tape gives.
fn doubtful_wall(headings: &[f64], end: Point, miss: f64) -> Option<usize> {
    const TAPED_M: f64 = 0.01;
    if miss <= TAPED_M {
        return None;
    }
    let along = |h: &f64| {
        let (s, c) = h.to_radians().sin_cos();
        ((end[0] * c + end[1] * s) / miss).abs()
    };
    headings.iter().enumerate().max_by(|a, b| along(a.1).total_cmp(&along(b.1)).then(b.0.cmp(&a.0))).map(|(i, _)| i + 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn input(walls: &[(f64, f64)]) -> TraverseInput {
        TraverseInput { heading0_deg: 0.0, walls: walls.iter().map(|(l, t)| Wall { length_m: *l, turn_after_deg: *t }).collect() }
    }

    #[test]
    fn walks_that_no_building_has_are_refused() {
        let e = |walls: &[(f64, f64)]| traverse(&input(walls)).unwrap_err();
        assert_eq!(e(&[(1.0, 90.0), (1.0, 90.0)]), TraverseError::TooFew(2));
        assert!(matches!(e(&[(1.0, 90.0), (0.0, 90.0), (1.0, 90.0)]), TraverseError::Length { wall: 2, .. }));
        assert!(matches!(e(&[(1.0, 90.0), (f64::NAN, 90.0), (1.0, 90.0)]), TraverseError::Length { wall: 2, .. }));
        assert_eq!(e(&[(1.0, 900.0), (1.0, 90.0), (1.0, 90.0)]), TraverseError::Turn(1));
        assert_eq!(e(&[(1.0, 180.0), (1.0, 180.0), (1.0, 180.0), (1.0, 180.0)]), TraverseError::Nothing);
    }

    #[test]
    fn a_wall_taped_short_is_named() {
        let t = traverse(&input(&[(18.0, 90.0), (9.0, 90.0), (17.6, 90.0), (9.0, 90.0)])).unwrap();
        assert!((t.linear_misclosure_m - 0.4).abs() < 1e-9);
        assert!(matches!(t.doubtful_wall, Some(1 | 3)), "one of the two long walls");
    }

    #[test]
    fn an_outline_that_crosses_itself_is_said() {
        let t = traverse(&input(&[(4.0, 90.0), (4.0, 90.0), (2.0, 90.0), (6.0, -90.0), (2.0, -90.0), (2.0, -90.0)])).unwrap();
        assert!(!t.simple_polygon && !t.doubts.is_empty());
    }

    proptest! {
        /// Turning the whole walk changes nothing but the frame; adjusted corners close; a longer building has more area.
        #[test]
        fn only_the_frame_turns(w in 2.0..40.0_f64, h in 2.0..40.0_f64, slip in -0.2..0.2_f64, by in -360.0..360.0_f64) {
            let walls = [(w + slip, 90.0), (h, 90.0), (w, 90.0), (h, 90.0)];
            let a = traverse(&input(&walls)).unwrap();
            let b = traverse(&TraverseInput { heading0_deg: by, ..input(&walls) }).unwrap();
            prop_assert!((a.area_adjusted_m2 - b.area_adjusted_m2).abs() < 1e-6);
            prop_assert!((a.linear_misclosure_m - b.linear_misclosure_m).abs() < 1e-6);
            let total: f64 = a.adjusted_wall_lengths_m.iter().sum();
            prop_assert!((total - a.perimeter_m).abs() <= a.linear_misclosure_m + 1e-9);
        }
    }
}
