//! A place on a wall, a ceiling, a floor or a roof, and where that is on the building: inside and outside share coordinates.

use super::record::{Moisture, Room};
use crate::roof::perimeter::{Traverse, TraverseInput, Wall, traverse};
use crate::roof::record::{Standing, metres};
use crate::roof::typed::signed;
use crate::site::Face;
use serde::{Deserialize, Serialize};

/// What a place lies on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SurfacePart {
    /// A wall: of a room seen from inside, of a face seen from outside.
    #[default]
    Wall,
    /// The ceiling of a room: from its first corner to the right and toward the rear.
    Ceiling,
    /// The floor of a room, likewise.
    Floor,
    /// A slope of the roof over a face: from the left end of the wall and up from the wall line, on the plan.
    Roof,
}

impl SurfacePart {
    /// A place on it in words: from the left, and the way its second measure goes; each figure as it is shown.
    pub(super) fn at(self, along: &str, second: &str) -> String {
        let way = match self {
            SurfacePart::Wall => "up",
            SurfacePart::Ceiling | SurfacePart::Floor => "toward the rear",
            SurfacePart::Roof => "up the slope, on the plan",
        };
        format!("{along} from the left, {second} {way}")
    }
}

/// A place on a surface.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct OnSurface {
    /// The room; empty outside.
    pub room: String,
    /// What of it.
    pub part: SurfacePart,
    /// Which wall of the room, from one.
    pub wall: usize,
    /// Outside: which part of the building; the first where nothing is said.
    pub mass: String,
    /// Outside: which face.
    pub face: Option<Face>,
    /// From the left, as typed.
    pub along: String,
    /// Up, or the other way on ceilings, floors and roofs, as typed.
    pub up: String,
}

/// Where a place is on the building.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OnBuilding {
    /// To the right, seen from the front, metres.
    pub x_m: f64,
    /// Toward the rear.
    pub y_m: f64,
    /// Above the ground floor.
    pub z_m: f64,
    /// The outward direction of the wall, degrees; none on ceilings, floors and inner walls.
    pub faces_deg: Option<f64>,
    /// Of a roof: where it falls to.
    pub downslope_deg: Option<f64>,
}

/// Compass direction of a direction on the plan.
pub(crate) fn compass(dx: f64, dy: f64, front_deg: f64) -> f64 {
    (front_deg + 180.0 + dx.atan2(dy).to_degrees()).rem_euclid(360.0)
}

impl OnSurface {
    /// The surface alone, without the place on it.
    #[must_use]
    pub fn surface(&self) -> OnSurface {
        OnSurface { along: String::new(), up: String::new(), ..self.clone() }
    }

    /// Place on the surface, metres.
    ///
    /// # Errors
    /// The field that cannot be read, with what to do.
    pub fn read(&self) -> Result<[f64; 2], (&'static str, String)> {
        let along = signed("The place from the left", &self.along).map_err(|e| ("along", e))?;
        let what = if self.part == SurfacePart::Wall { "The height" } else { "The place the other way" };
        let up = signed(what, &self.up).map_err(|e| ("up", e))?;
        Ok([along, up])
    }

    /// Checks a place against the rooms that are kept.
    pub(crate) fn check(&self, of: &Moisture) -> Result<(), (&'static str, String)> {
        self.read()?;
        if self.room.trim().is_empty() {
            return match (self.part, self.face) {
                (SurfacePart::Wall | SurfacePart::Roof, Some(_)) => Ok(()),
                (SurfacePart::Wall | SurfacePart::Roof, None) => Err(("face", "Say which face it is on, or which room.".into())),
                _ => Err(("room", "Say in which room it is.".into())),
            };
        }
        let Some(room) = of.rooms.iter().find(|r| r.id == self.room) else {
            return Err(("room", format!("There is no room called {}.", self.room)));
        };
        match self.part {
            SurfacePart::Roof => Err(("part", "A roof is not in a room.".into())),
            SurfacePart::Wall if self.wall == 0 || self.wall > room.walls.len() => {
                Err(("wall", format!("{} has {} walls; there is no wall {}.", room.name, room.walls.len(), self.wall)))
            }
            _ => Ok(()),
        }
    }
}

/// A room with its corners.
#[derive(Debug, Clone)]
pub(crate) struct RoomShape {
    pub(crate) corners: Vec<[f64; 2]>,
    pub(crate) walk: Traverse,
    pub(crate) floor_m: f64,
    pub(crate) height_m: f64,
}

impl RoomShape {
    /// Start and end of a wall, from one, as walked.
    pub(crate) fn wall(&self, k: usize) -> ([f64; 2], [f64; 2]) {
        let n = self.corners.len();
        (self.corners[(k - 1) % n], self.corners[k % n])
    }
}

/// The corners of a room on the building's plan.
pub(crate) fn room_shape(r: &Room) -> Result<RoomShape, String> {
    let walls: Vec<Wall> = r
        .walls
        .iter()
        .enumerate()
        .map(|(k, w)| Ok(Wall { length_m: metres(&format!("Wall {}", k + 1), &w.length)?, turn_after_deg: w.turn_deg()? }))
        .collect::<Result<_, String>>()?;
    let walk = traverse(&TraverseInput { heading0_deg: 0.0, walls }).map_err(|e| e.to_string())?;
    let at = |text: &str| if text.trim().is_empty() { Ok(0.0) } else { signed("The place of the room", text) };
    let (x, y) = (at(&r.x)?, at(&r.y)?);
    Ok(RoomShape {
        corners: walk.adjusted_points_m.iter().map(|p| [p[0] + x, p[1] + y]).collect(),
        floor_m: at(&r.floor)?,
        height_m: metres("The height of the room", &r.height)?,
        walk,
    })
}

/// The building that places are put on.
#[derive(Debug, Clone)]
pub(crate) struct Building<'a> {
    pub(crate) moisture: &'a Moisture,
    pub(crate) masses: Vec<MassAt>,
    pub(crate) front_deg: f64,
}

/// A part of the building with what its walls and slopes need.
#[derive(Debug, Clone)]
pub(crate) struct MassAt {
    pub(crate) id: String,
    pub(crate) standing: Standing,
    pub(crate) eave_m: f64,
    pub(crate) pitch: f64,
}

/// A wall of a room that lies so near to the outside is an outer wall, metres.
const WALL_THICKNESS_M: f64 = 0.7;

impl Building<'_> {
    pub(crate) fn inside(&self, p: [f64; 2]) -> bool {
        self.masses.iter().any(|m| m.standing.holds(p, 0.0))
    }

    /// Outward direction of a face of the building, degrees.
    pub(crate) fn faces(&self, face: Face) -> f64 {
        let (dx, dy) = match face {
            Face::Front => (0.0, -1.0),
            Face::Rear => (0.0, 1.0),
            Face::Left => (-1.0, 0.0),
            Face::Right => (1.0, 0.0),
        };
        compass(dx, dy, self.front_deg)
    }

    /// The same of one mass, which may be turned.
    pub(crate) fn faces_of(&self, m: &MassAt, face: Face) -> f64 {
        (self.faces(face) - m.standing.turned_deg).rem_euclid(360.0)
    }

    /// Where a place is.
    pub(crate) fn place(&self, at: &OnSurface) -> Result<OnBuilding, String> {
        let [along, up] = at.read().map_err(|e| e.1)?;
        if at.room.trim().is_empty() {
            let face = at.face.ok_or("Say which face it is on.")?;
            let m = if at.mass.is_empty() { self.masses.first() } else { self.masses.iter().find(|m| m.id == at.mass) }
                .ok_or("The building has no such part. Measure it on the Roof bench first.")?;
            let roof = at.part == SurfacePart::Roof;
            let p = m.standing.point(face, along, if roof { up } else { 0.0 });
            return Ok(OnBuilding {
                x_m: p[0],
                y_m: p[1],
                z_m: if roof { m.eave_m + m.pitch * up } else { up },
                faces_deg: (!roof).then(|| self.faces_of(m, face)),
                downslope_deg: roof.then(|| self.faces_of(m, face)),
            });
        }
        let room = self.moisture.rooms.iter().find(|r| r.id == at.room).ok_or("There is no such room.")?;
        let shape = room_shape(room)?;
        if at.part != SurfacePart::Wall {
            let p = shape.corners[0];
            let z = shape.floor_m + if at.part == SurfacePart::Ceiling { shape.height_m } else { 0.0 };
            return Ok(OnBuilding { x_m: p[0] + along, y_m: p[1] + up, z_m: z, faces_deg: None, downslope_deg: None });
        }
        if at.wall == 0 || at.wall > shape.corners.len() {
            return Err(format!("{} has no wall {}.", room.name, at.wall));
        }
        // Walked to the left round the room, a wall's left end, seen from inside, is where it ends.
        let (a, b) = shape.wall(at.wall);
        let l = (b[0] - a[0]).hypot(b[1] - a[1]).max(1e-9);
        let d = [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
        let p = [b[0] - d[0] * along, b[1] - d[1] * along];
        let out = [d[1], -d[0]];
        let beyond = [p[0] + out[0] * WALL_THICKNESS_M, p[1] + out[1] * WALL_THICKNESS_M];
        let outer = !self.masses.is_empty() && !self.inside(beyond);
        Ok(OnBuilding {
            x_m: p[0],
            y_m: p[1],
            z_m: shape.floor_m + up,
            faces_deg: outer.then(|| compass(out[0], out[1], self.front_deg)),
            downslope_deg: None,
        })
    }
}
