//! Where on the building: faces, zones, places; what has been seen of them; the wheel that shows it.

mod bearing;
mod coverage;
mod expected;
mod item;
mod progress;
mod wheel;

pub use bearing::{Bearing, BearingError};
pub use coverage::{Cell, CellReport, CellState, Coverage, LimitReason, Mark, MarkState, Tally, coverage};
pub use expected::{Expectation, ExpectationState, Left, expected, left, way_round};
pub use item::{Item, ItemKind, next_names};
pub use progress::{Gap, Progress, progress};
pub use wheel::{Wheel, WheelCell, WheelLabel, wheel};

use crate::measure::Units;
use serde::{Deserialize, Serialize};

/// A face of the building, named as seen standing outside, facing the front.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Face {
    /// The street or entry side.
    Front,
    /// On the left hand.
    Left,
    /// Behind.
    Rear,
    /// On the right hand.
    Right,
}

impl Face {
    /// Clockwise seen from above, from the front: the way most rounds are walked.
    pub const ALL: [Face; 4] = [Face::Front, Face::Left, Face::Rear, Face::Right];

    /// The name on the page.
    pub fn name(self) -> &'static str {
        match self {
            Face::Front => "Front",
            Face::Left => "Left",
            Face::Rear => "Rear",
            Face::Right => "Right",
        }
    }
    /// Degrees clockwise from the direction the front faces.
    pub fn turn(self) -> f64 {
        match self {
            Face::Front => 0.0,
            Face::Left => 90.0,
            Face::Rear => 180.0,
            Face::Right => 270.0,
        }
    }
    /// The direction this face looks, when the front looks `front`.
    pub fn azimuth(self, front: Bearing) -> Bearing {
        front.turned(self.turn())
    }
    /// The face that looks most nearly in a direction.
    pub fn nearest(direction: Bearing, front: Bearing) -> Face {
        Face::ALL
            .into_iter()
            .min_by(|a, b| a.azimuth(front).apart(direction).total_cmp(&b.azimuth(front).apart(direction)))
            .expect("there are four faces")
    }
    /// The face in a picture: whoever takes it looks along `heading`, toward the wall, so the wall looks back.
    pub fn in_picture(heading: Bearing, front: Bearing) -> Face {
        Face::nearest(heading.turned(180.0), front)
    }
}

/// How high, in the order water meets it; `Inside` is behind all of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Zone {
    /// Covering, ridge, valley, chimney, what goes through.
    Roof,
    /// Eave, rake, gutter, soffit, fascia.
    Edge,
    /// Wall above the openings.
    UpperWall,
    /// Windows, doors, fittings.
    Openings,
    /// Foot of the wall and the foundation.
    Base,
    /// What lies in front of the wall.
    Ground,
    /// Attic, rooms, under the floor.
    Inside,
}

impl Zone {
    /// The zones of a face, from the ridge to the ground.
    pub const OUTSIDE: [Zone; 6] = [Zone::Roof, Zone::Edge, Zone::UpperWall, Zone::Openings, Zone::Base, Zone::Ground];

    /// The name on the page.
    pub fn name(self) -> &'static str {
        match self {
            Zone::Roof => "Roof",
            Zone::Edge => "Edge and gutter",
            Zone::UpperWall => "Upper wall",
            Zone::Openings => "Openings",
            Zone::Base => "Base of wall",
            Zone::Ground => "Ground",
            Zone::Inside => "Inside",
        }
    }
}

/// The surface a wet spot inside is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Surface {
    /// Overhead.
    Ceiling,
    /// Inner face of a wall.
    Wall,
    /// Underfoot.
    Floor,
}

/// A place on the building.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Place {
    /// The face; inside, the face the room backs onto, when known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<Face>,
    /// How high, or inside.
    pub zone: Zone,
    /// Where along the face, in words: "under the kitchen window".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub station: Option<String>,
    /// Metres from the left end of the face, seen from outside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from_left_m: Option<f64>,
    /// The room, for places inside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub room: Option<String>,
    /// The surface, for places inside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surface: Option<Surface>,
}

/// Why a place cannot be one.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PlaceError {
    /// Outside, a face is needed.
    #[error("A place outside needs its face. Choose front, left, rear or right.")]
    NoFace,
    /// A distance that no face has.
    #[error("{0} m from the left end is not on a face. Type a distance from 0 to 1000 m (3280 ft).")]
    Distance(f64),
}

impl Place {
    /// A place outside, without a station.
    pub fn outside(face: Face, zone: Zone) -> Place {
        Place { face: Some(face), zone, station: None, from_left_m: None, room: None, surface: None }
    }
    /// Checks that the place can exist.
    ///
    /// # Errors
    /// [`PlaceError`] for a place outside without a face, and for a distance that no face has.
    pub fn check(&self) -> Result<(), PlaceError> {
        match self.from_left_m {
            Some(m) if !(0.0..=1000.0).contains(&m) => Err(PlaceError::Distance(m)),
            _ if self.zone != Zone::Inside && self.face.is_none() => Err(PlaceError::NoFace),
            _ => Ok(()),
        }
    }
    /// The cell of the round this place belongs to.
    pub fn cell(&self) -> Cell {
        match (self.zone, self.face) {
            (Zone::Inside, _) | (_, None) => Cell::Inside,
            (zone, Some(face)) => Cell::Outside(face, zone),
        }
    }
    /// The place in words: "Rear, edge and gutter, at the downspout".
    pub fn words(&self, units: Units) -> String {
        let mut parts = Vec::new();
        match (self.zone, self.face) {
            (Zone::Inside, face) => {
                parts.push("Inside".to_owned());
                parts.extend(self.room.clone());
                parts.extend(self.surface.map(|s| format!("{s:?}").to_lowercase()));
                parts.extend(face.map(|f| format!("behind the {} face", f.name().to_lowercase())));
            }
            (zone, face) => {
                parts.extend(face.map(|f| f.name().to_owned()));
                parts.push(zone.name().to_lowercase());
            }
        }
        parts.extend(self.station.clone());
        parts.extend(self.from_left_m.map(|m| format!("{} from its left end", units.length(m, 1))));
        parts.join(", ")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn faces_turn_the_way_the_vocabulary_says() {
        // front south: left is west, rear north, right east
        let south = Bearing::new(180.0).unwrap();
        let points: Vec<&str> = Face::ALL.iter().map(|f| f.azimuth(south).point()).collect();
        assert_eq!(points, ["S", "W", "N", "E"]);
    }

    #[test]
    fn a_picture_taken_looking_north_shows_the_south_face() {
        let front = Bearing::new(200.0).unwrap();
        assert_eq!(Face::in_picture(Bearing::new(20.0).unwrap(), front), Face::Front);
        assert_eq!(Face::in_picture(Bearing::new(200.0).unwrap(), front), Face::Rear);
        assert_eq!(Face::in_picture(Bearing::new(290.0).unwrap(), front), Face::Right);
    }

    #[test]
    fn a_place_reads_as_a_person_would_say_it() {
        let mut p = Place::outside(Face::Rear, Zone::Edge);
        p.station = Some("at the downspout".into());
        p.from_left_m = Some(11.8);
        assert_eq!(p.words(Units::Metric), "Rear, edge and gutter, at the downspout, 11.8 m from its left end");
        let inside = Place {
            face: Some(Face::Rear),
            zone: Zone::Inside,
            station: None,
            from_left_m: None,
            room: Some("treatment room".into()),
            surface: Some(Surface::Ceiling),
        };
        assert_eq!(inside.words(Units::Metric), "Inside, treatment room, ceiling, behind the rear face");
    }

    #[test]
    fn places_that_cannot_be_are_refused() {
        let none = Place { face: None, ..Place::outside(Face::Front, Zone::Base) };
        assert_eq!(none.check(), Err(PlaceError::NoFace));
        let far = Place { from_left_m: Some(f64::NAN), ..Place::outside(Face::Front, Zone::Base) };
        assert!(far.check().is_err());
    }

    proptest! {
        /// Turning the whole building turns the answer with it.
        #[test]
        fn turning_the_building_changes_only_the_frame(front in 0.0..360.0_f64, heading in 0.0..360.0_f64, by in 0.0..360.0_f64) {
            let b = |d: f64| Bearing::new(d.rem_euclid(360.0)).unwrap();
            let apart = |f: Face, front: f64| f.azimuth(b(front)).apart(b(heading + 180.0 + front - front));
            let here = Face::in_picture(b(heading), b(front));
            let there = Face::in_picture(b(heading + by), b(front + by));
            // at an exact corner either neighbour is right
            prop_assume!(Face::ALL.iter().all(|f| *f == here || (apart(*f, front) - apart(here, front)).abs() > 1e-6));
            prop_assert_eq!(here, there);
        }
    }
}
