//! Masses: the rectangles a roof is made of, each with its planes.

use crate::plane::{Convex, Linear, Point};
use serde::{Deserialize, Serialize};

/// Local directions of a mass: u along its first length, v along its second.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Along {
    /// Along u.
    U,
    /// Along v.
    V,
}

/// A side of a mass, and the plane that falls to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Side {
    /// Toward +u.
    #[serde(rename = "+u")]
    PlusU,
    /// Toward −u.
    #[serde(rename = "-u")]
    MinusU,
    /// Toward +v.
    #[serde(rename = "+v")]
    PlusV,
    /// Toward −v.
    #[serde(rename = "-v")]
    MinusV,
    /// A flat roof falls to no side.
    #[serde(rename = "flat")]
    Flat,
}

impl Side {
    /// The four sides, in the order planes are listed.
    pub const ROUND: [Side; 4] = [Side::PlusU, Side::MinusU, Side::PlusV, Side::MinusV];

    /// `+u`, `-u`, `+v`, `-v`, `flat`.
    pub fn key(self) -> &'static str {
        match self {
            Side::PlusU => "+u",
            Side::MinusU => "-u",
            Side::PlusV => "+v",
            Side::MinusV => "-v",
            Side::Flat => "flat",
        }
    }
    /// The outward direction in local coordinates.
    pub(crate) fn outward(self) -> Point {
        match self {
            Side::PlusU => [1.0, 0.0],
            Side::MinusU => [-1.0, 0.0],
            Side::PlusV => [0.0, 1.0],
            Side::MinusV => [0.0, -1.0],
            Side::Flat => [0.0, 0.0],
        }
    }
}

/// The form of a mass.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Form {
    /// Falls to all four sides.
    Hip,
    /// Two slopes from a ridge.
    Gable,
    /// One slope.
    Shed,
    /// Level.
    Flat,
}

/// One mass: a rectangle of walls with a roof of one pitch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Mass {
    /// A short name, used in the names of its facets.
    pub id: String,
    /// Middle of the rectangle: east and north, metres.
    pub centre_m: [f64; 2],
    /// Length along u between the walls, metres.
    pub len_u_m: f64,
    /// Length along v between the walls, metres.
    pub len_v_m: f64,
    /// u is east turned counterclockwise by this, degrees.
    #[serde(default)]
    pub rot_deg: f64,
    /// Height of the roof plane at the wall line, metres. At the drip edge it is pitch times overhang lower.
    pub eave_height_m: f64,
    /// Rise over run.
    #[serde(default)]
    pub pitch: f64,
    /// Beyond the walls on every side, metres.
    #[serde(default)]
    pub overhang_m: f64,
    /// The form.
    pub form: Form,
    /// Of a gable: the way its ridge runs; u when it is not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ridge_along: Option<Along>,
    /// Of a shed: the side it falls to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub downslope: Option<Side>,
}

/// Why a mass cannot be.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum MassError {
    /// A roof of nothing.
    #[error("There is no mass. A roof needs at least one: its length, width, pitch and form.")]
    None,
    /// Too many to be a building.
    #[error("{0} masses are more than a building has; the most is {MOST_MASSES}.")]
    TooMany(usize),
    /// The same name twice.
    #[error("Two masses are called \"{0}\". Give each its own name.")]
    SameName(String),
    /// No name.
    #[error("A mass needs a name of 1 to 40 characters without \".\" and \"|\", for example A.")]
    Name,
    /// A figure that cannot be.
    #[error("{mass}: {what} cannot be {value}. Type {range}.")]
    Figure {
        /// Which mass.
        mass: String,
        /// Which figure.
        what: &'static str,
        /// As given.
        value: f64,
        /// What can be.
        range: &'static str,
    },
    /// A form that needs a pitch.
    #[error("{0}: a {1} needs a pitch above zero. Type the pitch, or choose flat.")]
    NoPitch(String, &'static str),
    /// A shed that falls nowhere.
    #[error("{0}: a shed falls to one side. Say which: +u, -u, +v or -v.")]
    NoDownslope(String),
    /// More overhang than building.
    #[error("{mass}: an overhang of {overhang} m is larger than the mass ({least} m). Check the two.")]
    Overhang {
        /// Which mass.
        mass: String,
        /// As given.
        overhang: f64,
        /// Its shorter side.
        least: f64,
    },
}

/// More than any building has.
pub const MOST_MASSES: usize = 400;
/// Steeper than this is a wall.
const STEEPEST: f64 = 12.0;

impl Form {
    /// "hip", "gable", "shed", "flat roof".
    pub fn name(self) -> &'static str {
        match self {
            Form::Hip => "hip",
            Form::Gable => "gable",
            Form::Shed => "shed",
            Form::Flat => "flat roof",
        }
    }
}

impl Mass {
    /// Checks that it can be built.
    ///
    /// # Errors
    /// The first thing that cannot be, with what to do.
    pub fn check(&self) -> Result<(), MassError> {
        let count = self.id.chars().count();
        if count == 0 || count > 40 || self.id.contains(['.', '|']) {
            return Err(MassError::Name);
        }
        let figure = |what, value: f64, least: f64, most: f64, range| {
            if (least..=most).contains(&value) { Ok(()) } else { Err(MassError::Figure { mass: self.id.clone(), what, value, range }) }
        };
        figure("its place", self.centre_m[0], -1e5, 1e5, "metres east and north, within 100 km")?;
        figure("its place", self.centre_m[1], -1e5, 1e5, "metres east and north, within 100 km")?;
        figure("a length", self.len_u_m, 0.1, 1000.0, "a length from 0.1 to 1000 m")?;
        figure("a length", self.len_v_m, 0.1, 1000.0, "a length from 0.1 to 1000 m")?;
        figure("the turn", self.rot_deg, -3600.0, 3600.0, "degrees")?;
        figure("the eave height", self.eave_height_m, -100.0, 1000.0, "metres above the ground, up to 1000")?;
        figure("the pitch", self.pitch, 0.0, STEEPEST, "rise over run from 0 to 12, for example 0.5 for 6 in 12")?;
        figure("the overhang", self.overhang_m, 0.0, 20.0, "metres from 0 to 20")?;
        let least = self.len_u_m.min(self.len_v_m);
        if self.overhang_m > least {
            return Err(MassError::Overhang { mass: self.id.clone(), overhang: self.overhang_m, least });
        }
        match (self.form, self.downslope) {
            (Form::Flat, _) => Ok(()),
            (f, _) if self.pitch <= 0.0 => Err(MassError::NoPitch(self.id.clone(), f.name())),
            (Form::Shed, None | Some(Side::Flat)) => Err(MassError::NoDownslope(self.id.clone())),
            _ => Ok(()),
        }
    }

    /// A local direction in plan.
    pub(crate) fn turned(&self, d: Point) -> Point {
        let (s, c) = self.rot_deg.to_radians().sin_cos();
        // A quarter turn is exact, whatever the sine of pi says.
        let (s, c) = if (self.rot_deg / 90.0).fract() == 0.0 { (s.round(), c.round()) } else { (s, c) };
        [d[0] * c - d[1] * s, d[0] * s + d[1] * c]
    }

    /// The rectangle of its walls, or with the overhang added on all sides.
    pub(crate) fn rectangle(&self, overhang: f64) -> Convex {
        let (u, v) = (self.len_u_m / 2.0 + overhang, self.len_v_m / 2.0 + overhang);
        Convex(
            [[-u, -v], [u, -v], [u, v], [-u, v]]
                .map(|p| self.turned(p))
                .iter()
                .map(|p| [self.centre_m[0] + p[0], self.centre_m[1] + p[1]])
                .collect(),
        )
    }

    /// The sides its planes fall to.
    pub(crate) fn sides(&self) -> Vec<Side> {
        match (self.form, self.ridge_along) {
            (Form::Hip, _) => Side::ROUND.to_vec(),
            (Form::Gable, Some(Along::V)) => vec![Side::PlusU, Side::MinusU],
            (Form::Gable, _) => vec![Side::PlusV, Side::MinusV],
            (Form::Shed, _) => self.downslope.into_iter().collect(),
            (Form::Flat, _) => vec![Side::Flat],
        }
    }

    /// The height of the plane that falls to a side.
    pub(crate) fn plane(&self, side: Side) -> Linear {
        let n = self.turned(side.outward());
        let half = match side {
            Side::PlusU | Side::MinusU => self.len_u_m / 2.0,
            Side::PlusV | Side::MinusV => self.len_v_m / 2.0,
            Side::Flat => 0.0,
        };
        let pitch = if side == Side::Flat { 0.0 } else { self.pitch };
        let rise = self.eave_height_m + pitch * (half + self.centre_m[0] * n[0] + self.centre_m[1] * n[1]);
        Linear { a: -pitch * n[0], b: -pitch * n[1], c: rise }
    }

    /// Its planes, each over the part of its plan where it is the lowest.
    pub(crate) fn cells(&self) -> Vec<(Side, Linear, Convex)> {
        let whole = self.rectangle(self.overhang_m);
        let planes: Vec<(Side, Linear)> = self.sides().into_iter().map(|s| (s, self.plane(s))).collect();
        planes
            .iter()
            .filter_map(|(side, z)| {
                let others = planes.iter().filter(|(s, _)| s != side);
                let cell = others.map(|(_, o)| o.minus(*z)).try_fold(whole.clone(), |rest, higher| rest.cut(higher).0)?;
                Some((*side, *z, cell))
            })
            .collect()
    }
}
