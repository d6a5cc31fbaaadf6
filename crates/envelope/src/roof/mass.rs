//! Masses: the rectangles a roof is made of, each with its planes.

use crate::plane::{Convex, Linear, Point};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

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
    /// Toward +u, above the break of its slope.
    #[serde(rename = "+u2")]
    PlusUHigh,
    /// Toward −u, above the break.
    #[serde(rename = "-u2")]
    MinusUHigh,
    /// Toward +v, above the break.
    #[serde(rename = "+v2")]
    PlusVHigh,
    /// Toward −v, above the break.
    #[serde(rename = "-v2")]
    MinusVHigh,
}

impl Side {
    /// The four sides, in the order planes are listed.
    pub const ROUND: [Side; 4] = [Side::PlusU, Side::MinusU, Side::PlusV, Side::MinusV];

    /// `+u`, `-u`, `+v`, `-v`, `flat`; with a `2` above the break of a slope.
    pub fn key(self) -> &'static str {
        match self {
            Side::PlusU => "+u",
            Side::MinusU => "-u",
            Side::PlusV => "+v",
            Side::MinusV => "-v",
            Side::Flat => "flat",
            Side::PlusUHigh => "+u2",
            Side::MinusUHigh => "-u2",
            Side::PlusVHigh => "+v2",
            Side::MinusVHigh => "-v2",
        }
    }
    /// The outward direction in local coordinates.
    pub(crate) fn outward(self) -> Point {
        match self.wall() {
            Side::PlusU => [1.0, 0.0],
            Side::MinusU => [-1.0, 0.0],
            Side::PlusV => [0.0, 1.0],
            Side::MinusV => [0.0, -1.0],
            _ => [0.0, 0.0],
        }
    }
    /// The wall it falls to, whether below or above the break.
    pub(crate) fn wall(self) -> Side {
        match self {
            Side::PlusUHigh => Side::PlusU,
            Side::MinusUHigh => Side::MinusU,
            Side::PlusVHigh => Side::PlusV,
            Side::MinusVHigh => Side::MinusV,
            other => other,
        }
    }
    /// The same above the break.
    fn high(self) -> Side {
        match self {
            Side::PlusU => Side::PlusUHigh,
            Side::MinusU => Side::MinusUHigh,
            Side::PlusV => Side::PlusVHigh,
            Side::MinusV => Side::MinusVHigh,
            other => other,
        }
    }
    /// The side across from it.
    fn across(self) -> Side {
        match self.wall() {
            Side::PlusU => Side::MinusU,
            Side::MinusU => Side::PlusU,
            Side::PlusV => Side::MinusV,
            Side::MinusV => Side::PlusV,
            other => other,
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

/// What differs at one side of a mass. What is not said is as it is for the whole.
///
/// On a side that the form gives no slope (the end of a gable, of a shed) an eave height makes one from there on: a half-hip.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct SideOf {
    /// Height of its plane at the wall line, metres.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub eave_height_m: Option<f64>,
    /// Its pitch, rise over run; below the break where it has one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pitch: Option<f64>,
    /// Its overhang, metres.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub overhang_m: Option<f64>,
    /// From this height on it is less steep, metres: a gambrel, a mansard.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub break_height_m: Option<f64>,
    /// Its pitch above the break.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub upper_pitch: Option<f64>,
}

/// One mass: a rectangle of walls with its roof.
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
    /// What differs by side.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub sides: BTreeMap<Side, SideOf>,
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
    /// A side that is none.
    #[error("{0}: what differs by side is said of +u, -u, +v or -v, and a flat roof differs by its overhang only.")]
    NoSide(String),
    /// A break that is none.
    #[error(
        "{mass}: its slope to {side} breaks at {height} m, which must lie above its eave ({eave} m), and be less steep above than below."
    )]
    Break {
        /// Which mass.
        mass: String,
        /// Which side.
        side: &'static str,
        /// As given.
        height: f64,
        /// Where its slope begins.
        eave: f64,
    },
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
        for (side, s) in &self.sides {
            if !Side::ROUND.contains(side) || self.form == Form::Flat && (SideOf { overhang_m: None, ..s.clone() }) != SideOf::default() {
                return Err(MassError::NoSide(self.id.clone()));
            }
            let given =
                |what, value: Option<f64>, least: f64, most: f64, range| value.map_or(Ok(()), |v| figure(what, v, least, most, range));
            given("an eave height", s.eave_height_m, -100.0, 1000.0, "metres above the ground, up to 1000")?;
            given("a pitch", s.pitch, 1e-3, STEEPEST, "rise over run above 0, up to 12")?;
            given("an upper pitch", s.upper_pitch, 1e-3, STEEPEST, "rise over run above 0, up to 12")?;
            given("an overhang", s.overhang_m, 0.0, 20.0, "metres from 0 to 20")?;
            let eave = self.eave_of(*side);
            let breaks = match (s.break_height_m, s.upper_pitch) {
                (None, None) => None,
                (Some(at), Some(upper)) if at > eave && at <= 1000.0 && upper < self.pitch_of(*side) => None,
                (at, _) => Some(at.unwrap_or(eave)),
            };
            if let Some(height) = breaks {
                return Err(MassError::Break { mass: self.id.clone(), side: side.key(), height, eave });
            }
        }
        let least = self.len_u_m.min(self.len_v_m);
        let overhang = Side::ROUND.into_iter().map(|s| self.overhang_of(s)).fold(self.overhang_m, f64::max);
        if overhang > least {
            return Err(MassError::Overhang { mass: self.id.clone(), overhang, least });
        }
        match (self.form, self.downslope) {
            (Form::Flat, _) => Ok(()),
            (f, _) if self.pitch <= 0.0 => Err(MassError::NoPitch(self.id.clone(), f.name())),
            (Form::Shed, side) if side.is_none_or(|s| !Side::ROUND.contains(&s)) => Err(MassError::NoDownslope(self.id.clone())),
            _ => Ok(()),
        }
    }

    /// The height of the plane that falls to a wall, at the wall line, metres.
    pub(crate) fn eave_of(&self, side: Side) -> f64 {
        self.sides.get(&side.wall()).and_then(|s| s.eave_height_m).unwrap_or(self.eave_height_m)
    }

    /// The pitch of the plane that falls to a wall, below its break.
    pub(crate) fn pitch_of(&self, side: Side) -> f64 {
        self.sides.get(&side.wall()).and_then(|s| s.pitch).unwrap_or(self.pitch)
    }

    /// How far the roof stands out over a wall, metres.
    pub(crate) fn overhang_of(&self, side: Side) -> f64 {
        self.sides.get(&side.wall()).and_then(|s| s.overhang_m).unwrap_or(self.overhang_m)
    }

    /// Where a slope breaks, and how steep it is above.
    fn break_of(&self, side: Side) -> Option<(f64, f64)> {
        self.sides.get(&side.wall()).and_then(|s| s.break_height_m.zip(s.upper_pitch))
    }

    /// From wall to wall, seen from a side, metres.
    pub(crate) fn across(&self, side: Side) -> f64 {
        if matches!(side.wall(), Side::PlusU | Side::MinusU) { self.len_u_m } else { self.len_v_m }
    }

    /// How high the slope to a side stands so far in from its wall, were it alone.
    pub(crate) fn height_in(&self, side: Side, inward: f64) -> f64 {
        let low = self.eave_of(side) + self.pitch_of(side) * inward;
        self.break_of(side).map_or(low, |(at, pitch)| low.min(at + pitch * (inward - (at - self.eave_of(side)) / self.pitch_of(side))))
    }

    /// Which plane of a slope lies so far in from its wall: that below its break, or that above it.
    pub(crate) fn side_at(&self, side: Side, inward: f64) -> Side {
        let above = |(at, _): &(f64, f64)| self.eave_of(side) + self.pitch_of(side) * inward > *at;
        if self.break_of(side).as_ref().is_some_and(above) { side.high() } else { side }
    }

    /// From a wall to the ridge or top its slope rises to, in the middle of that wall, on the plan, metres.
    pub(crate) fn reach(&self, side: Side) -> f64 {
        let (whole, other) = (self.across(side), side.across());
        if !self.slopes().contains(&other) {
            return whole;
        }
        // Both rise inward, so they meet once.
        let (mut near, mut far) = (0.0, whole);
        for _ in 0..60 {
            let middle = f64::midpoint(near, far);
            if self.height_in(side, middle) < self.height_in(other, whole - middle) { near = middle } else { far = middle }
        }
        f64::midpoint(near, far)
    }

    /// How far in from a wall its slope comes up to a line that stands at a height over the wall and rises inward; none when it never
    /// does.
    pub(crate) fn meets(&self, side: Side, height: f64, rises: f64) -> Option<f64> {
        let (eave, pitch) = (self.eave_of(side), self.pitch_of(side));
        let low = (pitch > rises).then(|| ((height - eave) / (pitch - rises)).max(0.0));
        match (low, self.break_of(side)) {
            (Some(by), Some((at, _))) if eave + pitch * by <= at => Some(by),
            (_, Some((at, upper))) => {
                let start = (at - eave) / pitch;
                (upper > rises).then(|| (height + rises * start - at) / (upper - rises) + start)
            }
            (low, None) => low,
        }
    }

    /// A local direction in plan.
    pub(crate) fn turned(&self, d: Point) -> Point {
        let (s, c) = self.rot_deg.to_radians().sin_cos();
        // A quarter turn is exact, whatever the sine of pi says.
        let (s, c) = if (self.rot_deg / 90.0).fract() == 0.0 { (s.round(), c.round()) } else { (s, c) };
        [d[0] * c - d[1] * s, d[0] * s + d[1] * c]
    }

    /// The rectangle of its walls.
    pub(crate) fn walls(&self) -> Convex {
        self.rectangle(|_| 0.0)
    }

    /// What its roof covers, and a little more on all sides.
    pub(crate) fn covered(&self, more: f64) -> Convex {
        self.rectangle(|side| self.overhang_of(side) + more)
    }

    fn rectangle(&self, beyond: impl Fn(Side) -> f64) -> Convex {
        let (u, v) = (self.len_u_m / 2.0, self.len_v_m / 2.0);
        let [east, west, north, south] = Side::ROUND.map(beyond);
        let (u0, u1, v0, v1) = (-u - west, u + east, -v - south, v + north);
        Convex(
            [[u0, v0], [u1, v0], [u1, v1], [u0, v1]]
                .map(|p| self.turned(p))
                .iter()
                .map(|p| [self.centre_m[0] + p[0], self.centre_m[1] + p[1]])
                .collect(),
        )
    }

    /// The walls its slopes fall to.
    pub(crate) fn slopes(&self) -> Vec<Side> {
        let mut own = self.usual_slopes();
        // A slope at an end that the form leaves upright: a half-hip.
        let more = self.sides.iter().filter(|(_, s)| s.eave_height_m.is_some()).map(|(side, _)| *side);
        let more: Vec<Side> = more.filter(|side| !own.contains(side)).collect();
        own.extend(more);
        own
    }

    /// Its planes: a slope that breaks has two.
    pub(crate) fn sides(&self) -> Vec<Side> {
        let slopes = self.slopes();
        let high = slopes.iter().filter(|s| self.break_of(**s).is_some()).map(|s| s.high());
        slopes.iter().copied().chain(high).collect()
    }

    fn usual_slopes(&self) -> Vec<Side> {
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
        let half = if side == Side::Flat { 0.0 } else { self.across(side) / 2.0 };
        let (eave, low) = (self.eave_of(side), if side == Side::Flat { 0.0 } else { self.pitch_of(side) });
        // Above its break a slope goes on from there; were it to go down to the wall, it would stand higher there.
        let (eave, pitch) = match self.break_of(side).filter(|_| side != side.wall()) {
            Some((at, upper)) => (at - upper * (at - eave) / low, upper),
            None => (eave, low),
        };
        let rise = eave + pitch * (half + self.centre_m[0] * n[0] + self.centre_m[1] * n[1]);
        Linear { a: -pitch * n[0], b: -pitch * n[1], c: rise }
    }

    /// Its planes, each over the part of its plan where it is the lowest.
    pub(crate) fn cells(&self) -> Vec<(Side, Linear, Convex)> {
        let whole = self.covered(0.0);
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
