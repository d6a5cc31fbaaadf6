//! Elevation sketches: the building seen from each face, from the same masses as the plan. Nearer parts are drawn later.

use super::mass::{Along, Form, Mass};
use super::record::{Standing, side_of, to_north};
use super::shape::RoofShape;
use crate::plane::{Linear, area};
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

/// To the right, as seen by someone who stands before a face, and toward them; both in the building's own frame.
fn looking(face: Face) -> ([f64; 2], [f64; 2]) {
    match face {
        Face::Front => ([1.0, 0.0], [0.0, -1.0]),
        Face::Rear => ([-1.0, 0.0], [0.0, 1.0]),
        Face::Left => ([0.0, -1.0], [-1.0, 0.0]),
        Face::Right => ([0.0, 1.0], [1.0, 0.0]),
    }
}

fn along(a: [f64; 2], p: [f64; 2]) -> f64 {
    a[0] * p[0] + a[1] * p[1]
}

/// The four elevations.
pub(crate) fn elevations(masses: &[Mass], standing: &[Standing], shape: &RoofShape, front: Option<Bearing>) -> Vec<Elevation> {
    Face::ALL.into_iter().map(|face| elevation(face, masses, standing, shape, front)).collect()
}

fn elevation(face: Face, masses: &[Mass], standing: &[Standing], shape: &RoofShape, front: Option<Bearing>) -> Elevation {
    let (right, toward) = looking(face);
    let (right, toward) = (to_north(right, front), to_north(toward, front));
    // How near, and what.
    let mut found: Vec<(f64, Outline)> = Vec::new();
    for (m, s) in masses.iter().zip(standing) {
        let (a, b) = (to_north(s.point(face, 0.0, 0.0), front), to_north(s.point(face, s.side(face), 0.0), front));
        let (x0, x1) = (along(right, a), along(right, b));
        let eave = m.eave_height_m;
        let rise = |half: f64| eave + m.pitch * half;
        let top: Vec<[f64; 2]> = match m.form {
            Form::Gable if !m.sides().contains(&side_of(face)) => {
                let half = if m.ridge() == Along::U { m.len_v_m } else { m.len_u_m } / 2.0;
                vec![[x1, eave], [(x0 + x1) / 2.0, rise(half)], [x0, eave]]
            }
            Form::Shed if !m.sides().contains(&side_of(face)) => {
                let z = m.downslope.map(|side| m.plane(side));
                let at = |p: [f64; 2]| z.map_or(eave, |z: Linear| z.at(p));
                vec![[x1, at(b)], [x0, at(a)]]
            }
            _ => vec![[x1, eave], [x0, eave]],
        };
        let points = [[x0, 0.0], [x1, 0.0]].into_iter().chain(top).collect();
        found.push((along(toward, a), Outline { mass: m.id.clone(), facet: None, points }));
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
            let near = part.outer.iter().map(|p| along(toward, *p)).fold(f64::MIN, f64::max);
            let mass = f.id.split('.').next().unwrap_or_default().to_owned();
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
