//! Directions on the compass.

use serde::{Deserialize, Serialize};

/// Degrees clockwise from true north, 0 up to 360.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(try_from = "f64", into = "f64")]
#[cfg_attr(feature = "schema", schema(value_type = f64, minimum = 0, maximum = 360))]
pub struct Bearing(f64);

/// A number that is no direction.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0} is not a direction. Type degrees from 0 (north) to 360, clockwise.")]
pub struct BearingError(String);

const POINTS: [&str; 16] = ["N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW"];

impl Bearing {
    /// A direction in degrees; 360 is north again.
    ///
    /// # Errors
    /// Refuses anything outside 0 to 360, and what is not a number.
    pub fn new(degrees: f64) -> Result<Bearing, BearingError> {
        if (0.0..=360.0).contains(&degrees) { Ok(Bearing(degrees % 360.0)) } else { Err(BearingError(degrees.to_string())) }
    }
    /// Degrees clockwise from north.
    pub fn degrees(self) -> f64 {
        self.0
    }
    /// Turned clockwise.
    pub fn turned(self, by: f64) -> Bearing {
        Bearing((self.0 + by).rem_euclid(360.0) % 360.0)
    }
    /// The smaller angle between two directions, 0 to 180 degrees.
    pub fn apart(self, other: Bearing) -> f64 {
        let d = (self.0 - other.0).rem_euclid(360.0);
        d.min(360.0 - d)
    }
    /// The nearest of the sixteen points: "NNE".
    pub fn point(self) -> &'static str {
        POINTS[((self.0 / 22.5).round() as usize) % 16]
    }
}

impl TryFrom<f64> for Bearing {
    type Error = BearingError;
    fn try_from(degrees: f64) -> Result<Self, BearingError> {
        Bearing::new(degrees)
    }
}

impl From<Bearing> for f64 {
    fn from(b: Bearing) -> f64 {
        b.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn points_and_bad_directions() {
        assert_eq!(Bearing::new(20.0).unwrap().point(), "NNE");
        assert_eq!(Bearing::new(200.0).unwrap().point(), "SSW");
        assert_eq!(Bearing::new(359.0).unwrap().point(), "N");
        assert_eq!(Bearing::new(360.0).unwrap().degrees(), 0.0);
        for bad in [-1.0, 361.0, f64::NAN, f64::INFINITY] {
            assert!(Bearing::new(bad).is_err(), "{bad}");
        }
        assert_eq!(Bearing::new(350.0).unwrap().apart(Bearing::new(10.0).unwrap()), 20.0);
    }
}
