//! A transect: the ground from the wall outward, the fall it has, the fall it should have, and what would give it.
//!
//! Required is so much on paving and so much on soil, within the reach. Where it falls short, the ground is raised at the wall,
//! never above what the cladding needs to stand clear; the finished profile runs straight from there to the ground at the reach,
//! bent where paving ends. Volumes are for each metre of wall.

use serde::{Deserialize, Serialize};

/// A height on the way out.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Outward {
    /// From the wall.
    pub distance_m: f64,
    /// Height of the ground.
    pub elevation_m: f64,
}

/// Input of `calc transect`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TransectInput {
    /// Ground at the wall.
    pub wall_side_elevation_m: f64,
    /// Ground farther out, from the wall.
    pub points: Vec<Outward>,
    /// From the ground at the wall to the cladding.
    pub cladding_clearance_m: f64,
    /// What it should be.
    pub clearance_required_m: f64,
    /// Paving from the wall so far out.
    #[serde(default)]
    pub hard_width_from_wall_m: f64,
    /// Fall soil should have.
    #[serde(default = "soft")]
    pub slope_soft: f64,
    /// Fall paving should have.
    #[serde(default = "hard")]
    pub slope_hard: f64,
    /// Over this distance, or to the last point if that is nearer.
    #[serde(default = "reach")]
    pub reach_m: f64,
}

fn soft() -> f64 {
    0.05
}
fn hard() -> f64 {
    0.02
}
/// Ten feet.
fn reach() -> f64 {
    3.05
}

/// A transect, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Transect {
    /// The distance judged.
    pub reach_used_m: f64,
    /// The last point is nearer than the reach.
    pub short_transect: bool,
    /// Ground there.
    pub elevation_at_reach_m: f64,
    /// Fall it should have.
    pub required_fall_m: f64,
    /// Fall it has; negative when it tips to the wall.
    pub fall_found_m: f64,
    /// The same, per unit of length.
    pub slope_found: f64,
    /// What is missing.
    pub deficit_m: f64,
    /// How far the ground may be raised at the wall.
    pub fill_limit_at_wall_m: f64,
    /// The cladding stands too low already.
    pub clearance_already_short: bool,
    /// Raising at the wall gives all that is missing.
    pub feasible: bool,
    /// How far it would be raised.
    pub fill_at_wall_m: f64,
    /// What would still be missing.
    pub remaining_deficit_m: f64,
    /// Ground at the wall afterwards.
    pub wall_side_elevation_after_m: f64,
    /// Clearance afterwards.
    pub clearance_after_m: f64,
    /// Fall afterwards.
    pub fall_after_m: f64,
    /// The same, per unit of length.
    pub slope_after: f64,
    /// Soil to bring, for each metre of wall.
    pub fill_volume_m3_per_m: f64,
    /// Soil to take away, for each metre of wall.
    pub cut_volume_m3_per_m: f64,
    /// Somewhere it rises on the way out.
    pub rises_away_from_wall_somewhere: bool,
    /// Water would stand this deep along it, the wall closed.
    pub deepest_hollow_m: f64,
    /// The finished profile, when something is placed: distance and height.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub finished: Vec<Outward>,
}

/// Height along a profile that starts at the wall; level beyond its end.
pub(crate) fn height(profile: &[Outward], x: f64) -> f64 {
    let k = profile.partition_point(|p| p.distance_m < x);
    match (k.checked_sub(1).map(|k| profile[k]), profile.get(k)) {
        (Some(a), Some(b)) => a.elevation_m + (b.elevation_m - a.elevation_m) * (x - a.distance_m) / (b.distance_m - a.distance_m),
        (None, Some(b)) => b.elevation_m,
        (Some(a), None) => a.elevation_m,
        (None, None) => 0.0,
    }
}

/// Works a transect out.
///
/// # Errors
/// What is wrong with which figure.
pub fn transect(i: &TransectInput) -> Result<Transect, String> {
    let figures = [i.wall_side_elevation_m, i.cladding_clearance_m, i.clearance_required_m, i.hard_width_from_wall_m, i.reach_m];
    if !figures.iter().all(|v| v.is_finite()) || !(0.0..=1.0).contains(&i.slope_soft) || !(0.0..=1.0).contains(&i.slope_hard) {
        return Err("Heights and distances are metres; falls go from 0 to 1, for example 0.05.".into());
    }
    if !(i.reach_m > 0.0 && i.hard_width_from_wall_m >= 0.0) {
        return Err("The reach is above 0, and paving begins at the wall: its width is 0 or more.".into());
    }
    if i.points.is_empty() {
        return Err("A transect needs the ground at the wall and at least one point farther out.".into());
    }
    let mut profile = vec![Outward { distance_m: 0.0, elevation_m: i.wall_side_elevation_m }];
    profile.extend(&i.points);
    if let Some(w) = profile.windows(2).find(|w| !(w[1].distance_m > w[0].distance_m && w[1].elevation_m.is_finite())) {
        return Err(format!(
            "The points go outward from the wall, each at its own distance: {} m comes after {} m.",
            w[1].distance_m, w[0].distance_m
        ));
    }
    let last = profile[profile.len() - 1].distance_m;
    let d = i.reach_m.min(last);
    let z_d = height(&profile, d);
    let paved = i.hard_width_from_wall_m.min(d);
    let required = i.slope_hard * paved + i.slope_soft * (d - paved);
    let found = i.wall_side_elevation_m - z_d;
    let deficit = (required - found).max(0.0);
    let limit = i.cladding_clearance_m - i.clearance_required_m;
    let fill = deficit.min(limit.max(0.0));
    let wall_after = i.wall_side_elevation_m + fill;
    let fall_after = found + fill;
    let mut stops: Vec<f64> = profile.iter().map(|p| p.distance_m).filter(|x| *x < d).chain([d]).collect();
    let mut finished = Vec::new();
    if fill > 0.0 {
        finished.push(Outward { distance_m: 0.0, elevation_m: wall_after });
        if paved > 0.0 && paved < d {
            // Paving takes its part of the fall there will be.
            let share = if required > 0.0 { i.slope_hard * paved / required } else { paved / d };
            finished.push(Outward { distance_m: paved, elevation_m: wall_after - fall_after * share });
            stops.push(paved);
        }
        finished.push(Outward { distance_m: d, elevation_m: z_d });
    }
    stops.sort_by(f64::total_cmp);
    let (mut fill_volume, mut cut_volume) = (0.0, 0.0);
    for w in stops.windows(2).filter(|_| fill > 0.0) {
        let gap = |x: f64| height(&finished, x) - height(&profile, x);
        let (a, b, long) = (gap(w[0]), gap(w[1]), w[1] - w[0]);
        if a * b >= 0.0 {
            let area = (a + b) / 2.0 * long;
            if area > 0.0 { fill_volume += area } else { cut_volume -= area }
        } else {
            // The two profiles cross between: a triangle on either side.
            let t = a / (a - b);
            let (left, right) = (a * t * long / 2.0, b * (1.0 - t) * long / 2.0);
            fill_volume += left.max(0.0) + right.max(0.0);
            cut_volume -= left.min(0.0) + right.min(0.0);
        }
    }
    let within: Vec<Outward> = stops.iter().map(|x| Outward { distance_m: *x, elevation_m: height(&profile, *x) }).collect();
    // From the reach, where water leaves, back to the wall: it stands as high as the highest ground on its way.
    let (mut brim, mut hollow) = (f64::MIN, 0.0_f64);
    for p in within.iter().rev() {
        brim = brim.max(p.elevation_m);
        hollow = hollow.max(brim - p.elevation_m);
    }
    Ok(Transect {
        reach_used_m: d,
        short_transect: last < i.reach_m,
        elevation_at_reach_m: z_d,
        required_fall_m: required,
        fall_found_m: found,
        slope_found: found / d,
        deficit_m: deficit,
        fill_limit_at_wall_m: limit,
        clearance_already_short: limit < 0.0,
        feasible: deficit <= limit.max(0.0) + 1e-12,
        fill_at_wall_m: fill,
        remaining_deficit_m: deficit - fill,
        wall_side_elevation_after_m: wall_after,
        clearance_after_m: i.cladding_clearance_m - fill,
        fall_after_m: fall_after,
        slope_after: fall_after / d,
        fill_volume_m3_per_m: fill_volume,
        cut_volume_m3_per_m: cut_volume,
        rises_away_from_wall_somewhere: within.windows(2).any(|w| w[1].elevation_m > w[0].elevation_m + 1e-12),
        deepest_hollow_m: hollow,
        finished,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn soil(points: &[(f64, f64)], clearance: f64) -> TransectInput {
        TransectInput {
            wall_side_elevation_m: 0.0,
            points: points.iter().map(|(d, z)| Outward { distance_m: *d, elevation_m: *z }).collect(),
            cladding_clearance_m: clearance,
            clearance_required_m: 0.15,
            hard_width_from_wall_m: 0.0,
            slope_soft: 0.05,
            slope_hard: 0.02,
            reach_m: 3.05,
        }
    }

    #[test]
    fn what_cannot_be_is_said() {
        assert!(transect(&soil(&[], 0.3)).unwrap_err().contains("farther out"));
        assert!(transect(&soil(&[(2.0, 0.0), (1.0, 0.0)], 0.3)).unwrap_err().contains("go outward"));
        assert!(transect(&TransectInput { reach_m: 0.0, ..soil(&[(1.0, 0.0)], 0.3) }).is_err());
        assert!(transect(&TransectInput { slope_soft: 5.0, ..soil(&[(1.0, 0.0)], 0.3) }).unwrap_err().contains("0.05"));
    }

    #[test]
    fn a_short_lot_is_judged_to_its_line() {
        let t = transect(&soil(&[(2.0, -0.1)], 0.3)).unwrap();
        assert!(t.short_transect && (t.required_fall_m - 0.1).abs() < 1e-12 && t.deficit_m < 1e-12 && t.finished.is_empty());
    }

    proptest! {
        /// What is raised and what stays missing make up the deficit; soil placed less soil taken is the area between the
        /// profiles, summed in small slices; the cladding keeps its distance; lifting everything changes no sum.
        #[test]
        fn sums_close(z in prop::collection::vec(-0.3..0.2_f64, 3), clearance in 0.0..0.5_f64, paved in 0.0..4.0_f64, up in -50.0..50.0_f64) {
            let mut i = soil(&[(0.6, z[0]), (1.5, z[1]), (3.05, z[2])], clearance);
            i.hard_width_from_wall_m = paved;
            let t = transect(&i).unwrap();
            prop_assert!((t.fill_at_wall_m + t.remaining_deficit_m - t.deficit_m).abs() < 1e-12);
            prop_assert!(t.fill_at_wall_m == 0.0 || t.clearance_after_m >= 0.15 - 1e-12);
            let mut profile = vec![Outward { distance_m: 0.0, elevation_m: 0.0 }];
            profile.extend(&i.points);
            let n = 20_000;
            let gap = |k: usize| { let x = 3.05 * (k as f64 + 0.5) / f64::from(n); height(&t.finished, x) - height(&profile, x) };
            let slices: f64 = if t.finished.is_empty() { 0.0 } else { (0..n as usize).map(gap).sum::<f64>() * 3.05 / f64::from(n) };
            prop_assert!((t.fill_volume_m3_per_m - t.cut_volume_m3_per_m - slices).abs() < 1e-5, "{t:?} {slices}");
            prop_assert!(t.fill_volume_m3_per_m >= 0.0 && t.cut_volume_m3_per_m >= 0.0);
            let mut lifted = i.clone();
            lifted.wall_side_elevation_m += up;
            lifted.points.iter_mut().for_each(|p| p.elevation_m += up);
            let l = transect(&lifted).unwrap();
            prop_assert!((l.fill_volume_m3_per_m - t.fill_volume_m3_per_m).abs() < 1e-9 && (l.deepest_hollow_m - t.deepest_hollow_m).abs() < 1e-9);
            prop_assert_eq!(l.feasible, t.feasible);
        }
    }
}
