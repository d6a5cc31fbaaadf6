//! Where on the plan something lies that was placed by a face, a station and a distance.

use super::record::Spotted;
use crate::roof::record::Standing;
use crate::roof::typed::signed;
use crate::site::Face;

/// Where the building stands.
#[derive(Debug, Clone)]
pub(crate) struct Placing {
    pub(crate) ids: Vec<String>,
    pub(crate) names: Vec<String>,
    pub(crate) standing: Vec<Standing>,
    pub(crate) front: Option<crate::site::Bearing>,
}

impl Placing {
    pub(super) fn mass(&self, id: &str) -> Option<usize> {
        if id.is_empty() { (!self.ids.is_empty()).then_some(0) } else { self.ids.iter().position(|i| i == id) }
    }

    /// In the building's frame.
    pub(crate) fn point(&self, at: &Spotted) -> Result<[f64; 2], String> {
        let (along, out) = (signed("The place along", &at.along)?, signed("The distance out", &at.out)?);
        let Some(face) = at.face else { return Ok([along, out]) };
        let k = self.mass(&at.mass).ok_or("There is no such mass on the roof. Type coordinates, or measure the building first.")?;
        Ok(self.standing[k].point(face, along, -out))
    }

    /// The side of the building that lies nearest: mass, face, place from its left end, distance.
    pub(crate) fn nearest_side(&self, p: [f64; 2]) -> Option<(usize, Face, f64, f64)> {
        let sides = self.standing.iter().enumerate().flat_map(|(k, s)| {
            Face::ALL.map(|f| {
                let (a, b) = (s.point(f, 0.0, 0.0), s.point(f, s.side(f), 0.0));
                let q = crate::plane::nearest(p, a, b);
                (k, f, crate::plane::length(a, q), crate::plane::length(p, q))
            })
        });
        // A wall that another mass hides cannot be near to anything outside.
        let shown = sides.filter(|(k, f, x, _)| {
            let out = self.standing[*k].point(*f, *x, -0.02);
            !self.standing.iter().any(|s| s.holds(out, 0.0))
        });
        shown.min_by(|a, b| a.3.total_cmp(&b.3))
    }

    /// "rear of the main, left end".
    pub(crate) fn words(&self, k: usize, face: Face, x: f64) -> String {
        let part = x / self.standing[k].side(face);
        let end = if part < 1.0 / 3.0 {
            "left end"
        } else if part > 2.0 / 3.0 {
            "right end"
        } else {
            "middle"
        };
        format!("{} of the {}, {end}", face.name().to_lowercase(), self.names[k])
    }

    pub(super) fn inside(&self, p: [f64; 2]) -> Option<usize> {
        /// A reading on the wall line is outside.
        const WALL_M: f64 = 0.02;
        self.standing.iter().position(|s| s.holds(p, WALL_M))
    }

    pub(super) fn outlines(&self) -> Vec<Vec<[f64; 2]>> {
        self.standing.iter().map(Standing::corners).collect()
    }

    /// From east and north into the building's frame.
    pub(crate) fn to_building(&self, p: [f64; 2]) -> [f64; 2] {
        let (s, c) = crate::roof::record::turn_of(self.front).to_radians().sin_cos();
        [p[0] * c + p[1] * s, -p[0] * s + p[1] * c]
    }
}
