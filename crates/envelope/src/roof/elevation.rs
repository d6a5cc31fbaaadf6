//! Elevation sketches: the building seen from each face, from the same masses as the plan. Nearer parts are drawn later.

use super::mass::Mass;
use super::placed::Standing;
use super::record::{Placed, to_north};
use super::shape::RoofShape;
use crate::plane::{Point, area};
use crate::site::{Bearing, Face};
use serde::{Deserialize, Serialize};

/// A piece of an elevation: metres from the left end of the drawing, and above the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outline {
    /// The mass it belongs to.
    pub mass: String,
    /// The facet, for a piece of roof; none for a wall.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub facet: Option<String>,
    /// Its corners.
    pub points: Vec<[f64; 2]>,
}

/// The building seen from one face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Elevation {
    /// The face one stands before.
    pub face: Face,
    /// From the left end to the right, metres.
    pub width_m: f64,
    /// To the highest point, metres.
    pub height_m: f64,
    /// From the farthest to the nearest.
    pub outlines: Vec<Outline>,
}

/// To the right, as seen by someone who stands straight before the longest wall of a face, and toward them; both in the building's own
/// frame. A wall is drawn as long as it is; of a block that stands askew to it, what is seen.
fn looking(face: Face, placed: &Placed) -> ([f64; 2], [f64; 2]) {
    let on_ground = placed.standing.iter().zip(&placed.on).filter(|(_, on)| on.is_none()).map(|(s, _)| s);
    let longest = on_ground.fold(None, |l: Option<&Standing>, s| l.filter(|l| l.side(face) >= s.side(face)).or(Some(s)));
    let turned = longest.map_or(0.0, |s| s.turned_deg);
    let right = match face {
        Face::Front => [1.0, 0.0],
        Face::Rear => [-1.0, 0.0],
        Face::Left => [0.0, -1.0],
        Face::Right => [0.0, 1.0],
    };
    let (s, c) = turned.to_radians().sin_cos();
    let right = [right[0] * c - right[1] * s, right[0] * s + right[1] * c];
    (right, [right[1], -right[0]])
}

fn along(a: [f64; 2], p: [f64; 2]) -> f64 {
    a[0] * p[0] + a[1] * p[1]
}

/// The four elevations.
pub(crate) fn elevations(placed: &Placed, shape: &RoofShape, front: Option<Bearing>) -> Vec<Elevation> {
    Face::ALL.into_iter().map(|face| elevation(face, placed, shape, front)).collect()
}

/// The line of a roof over a wall from one end to the other: the lowest of its planes, with a corner wherever another takes over.
fn roof_line(m: &Mass, from: Point, to: Point) -> Vec<(f64, f64)> {
    let planes: Vec<(f64, f64)> = m.sides().into_iter().map(|s| m.plane(s)).map(|z| (z.at(from), z.at(to))).collect();
    let mut at = vec![0.0, 1.0];
    for (i, a) in planes.iter().enumerate() {
        for b in &planes[i + 1..] {
            let (d0, d1) = (a.0 - b.0, a.1 - b.1);
            if d0 * d1 < 0.0 {
                at.push(d0 / (d0 - d1));
            }
        }
    }
    at.sort_by(f64::total_cmp);
    at.dedup_by(|a, b| (*a - *b).abs() < 1e-9);
    let heights = |t: f64| planes.iter().map(move |p| p.0 + t * (p.1 - p.0));
    let lowest = |t: f64| heights(t).fold(f64::MAX, f64::min);
    // Planes that cross above the roof make no corner of it.
    let corner = |t: f64| t == 0.0 || t == 1.0 || heights(t).filter(|z| *z < lowest(t) + 1e-9).count() > 1;
    at.into_iter().filter(|t| corner(*t)).map(|t| (t, lowest(t))).collect()
}

/// What stands on a slope is seen before it, however far in: nearer than anything of what it stands on.
fn before(placed: &Placed, k: usize, face: Face, toward: Point) -> Option<f64> {
    let (under, on) = placed.on[k]?;
    let near = placed.masses[under].covered(0.0).0.iter().map(|p| along(toward, *p)).fold(f64::MIN, f64::max);
    // On a slope of a dormer: before that too.
    let near = before(placed, under, face, toward).map_or(near, |n| n.max(near));
    (on == face).then_some(near)
}

fn elevation(face: Face, placed: &Placed, shape: &RoofShape, front: Option<Bearing>) -> Elevation {
    const BEFORE_M: f64 = 1e-3;
    let (right, toward) = looking(face, placed);
    let (right, toward) = (to_north(right, front), to_north(toward, front));
    // How near, and what.
    let mut found: Vec<(f64, Outline)> = Vec::new();
    for (k, (m, s)) in placed.masses.iter().zip(&placed.standing).enumerate() {
        let (a, b) = (to_north(s.point(face, 0.0, 0.0), front), to_north(s.point(face, s.side(face), 0.0), front));
        let (x0, x1) = (along(right, a), along(right, b));
        // Down to the ground, or to the roof it stands on.
        let foot = |p: Point| placed.on[k].map_or(0.0, |(under, _)| roof_line(&placed.masses[under], p, p)[0].1);
        let top = roof_line(m, a, b).into_iter().rev().map(|(t, z)| [x0 + t * (x1 - x0), z]);
        let points = [[x0, foot(a)], [x1, foot(b)]].into_iter().chain(top).collect();
        let near = before(placed, k, face, toward).map_or_else(|| along(toward, a), |near| near + BEFORE_M);
        found.push((near, Outline { mass: m.id.clone(), facet: None, points }));
    }
    for f in &shape.facets {
        let [z0, gx, gy] = f.height;
        // A slope that falls away from the one who looks is behind its own ridge.
        if gx * toward[0] + gy * toward[1] > 1e-9 {
            continue;
        }
        for part in &f.parts {
            let points: Vec<[f64; 2]> = part.outer.iter().map(|p| [along(right, *p), z0 + gx * p[0] + gy * p[1]]).collect();
            if area(&points).abs() < 1e-3 {
                continue;
            }
            let mass = f.id.split('.').next().unwrap_or_default().to_owned();
            let own = placed.masses.iter().position(|m| m.id == mass).and_then(|k| before(placed, k, face, toward));
            let near =
                own.map_or_else(|| part.outer.iter().map(|p| along(toward, *p)).fold(f64::MIN, f64::max), |near| near + 2.0 * BEFORE_M);
            found.push((near, Outline { mass, facet: Some(f.id.clone()), points }));
        }
    }
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    let left = found.iter().flat_map(|(_, o)| &o.points).map(|p| p[0]).fold(f64::MAX, f64::min);
    let mut outlines: Vec<Outline> = found.into_iter().map(|f| f.1).collect();
    outlines.iter_mut().flat_map(|o| &mut o.points).for_each(|p| p[0] -= left);
    let most = |k: usize| outlines.iter().flat_map(|o| &o.points).map(|p| p[k]).fold(0.0, f64::max);
    Elevation { face, width_m: most(0), height_m: most(1), outlines }
}
