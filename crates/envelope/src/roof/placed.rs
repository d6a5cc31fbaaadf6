//! The masses of a roof placed against one another: where each stands, how far its roof runs on, what it stands on, and what differs by
//! side, in metres.

use super::covering::covering;
use super::mass::{Along, Form, Mass, Side, SideOf};
use super::pitch::{PitchRead, pitch};
use super::record::{Against, MassRecord, RidgeWay, Roof, RoofError, RoofForm};
use super::typed::{metres, some_metres};
use crate::site::{Bearing, Face};
use std::collections::{BTreeMap, BTreeSet};

/// A mass, placed in the building's own frame: a rectangle with its sides straight, and how that is turned.
///
/// What stands against a turned mass turns with it: `turned_deg` and `moved` carry the straight rectangle to where it stands.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(crate) struct Standing {
    x: f64,
    y: f64,
    pub(crate) length: f64,
    pub(crate) depth: f64,
    /// Degrees counterclockwise, about the origin.
    pub(crate) turned_deg: f64,
    /// And then so far.
    moved: [f64; 2],
}

impl Standing {
    /// Not turned, its front left corner at a point.
    pub(crate) fn straight(x: f64, y: f64, length: f64, depth: f64) -> Standing {
        Standing { x, y, length, depth, ..Standing::default() }
    }
    /// The length of a face.
    pub(crate) fn side(&self, face: Face) -> f64 {
        if matches!(face, Face::Front | Face::Rear) { self.length } else { self.depth }
    }
    /// The same, so deep from the wall that looks to a face.
    fn deeper(self, face: Face, depth: f64) -> Standing {
        match face {
            Face::Front => Standing { depth, ..self },
            Face::Rear => Standing { y: self.y + self.depth - depth, depth, ..self },
            Face::Left => Standing { length: depth, ..self },
            Face::Right => Standing { x: self.x + self.length - depth, length: depth, ..self },
        }
    }
    /// The same, longer by `by` toward the mass it stands against: its roof runs on.
    fn grown(self, by: f64, against: Option<Face>) -> Standing {
        match against {
            Some(Face::Front) => Standing { depth: self.depth + by, ..self },
            Some(Face::Rear) => Standing { y: self.y - by, depth: self.depth + by, ..self },
            Some(Face::Left) => Standing { length: self.length + by, ..self },
            Some(Face::Right) => Standing { x: self.x - by, length: self.length + by, ..self },
            None => self,
        }
    }
    /// Where a point of the straight frame lies once it is turned.
    fn put(&self, p: [f64; 2]) -> [f64; 2] {
        let (s, c) = self.turned_deg.to_radians().sin_cos();
        [p[0] * c - p[1] * s + self.moved[0], p[0] * s + p[1] * c + self.moved[1]]
    }
    /// The point of the straight frame that lies at a point of the building's.
    fn back(&self, p: [f64; 2]) -> [f64; 2] {
        let d = [p[0] - self.moved[0], p[1] - self.moved[1]];
        if self.turned_deg == 0.0 {
            return d;
        }
        let (s, c) = self.turned_deg.to_radians().sin_cos();
        [d[0] * c + d[1] * s, d[1] * c - d[0] * s]
    }
    /// Turned about a point of its straight frame, and then as the mass it stands against is.
    fn turned_with(self, about: [f64; 2], deg: f64, against: Option<&Standing>) -> Standing {
        let (s, c) = deg.to_radians().sin_cos();
        let own = [about[0] - about[0] * c + about[1] * s, about[1] - about[0] * s - about[1] * c];
        let whole = against.copied().unwrap_or_default();
        Standing { turned_deg: whole.turned_deg + deg, moved: whole.put(own), ..self }
    }
    fn straight_point(&self, face: Face, from_left: f64, inward: f64) -> [f64; 2] {
        match face {
            Face::Front => [self.x + from_left, self.y + inward],
            Face::Rear => [self.x + self.length - from_left, self.y + self.depth - inward],
            Face::Left => [self.x + inward, self.y + self.depth - from_left],
            Face::Right => [self.x + self.length - inward, self.y + from_left],
        }
    }
    /// A point in the building's frame: so far from a face's left end, seen from outside, and so far in from it.
    pub(crate) fn point(&self, face: Face, from_left: f64, inward: f64) -> [f64; 2] {
        self.put(self.straight_point(face, from_left, inward))
    }
    /// How far a point lies from a face's left end, seen from outside, and how far in from it: [`Standing::point`] the other way.
    pub(crate) fn off_face(&self, face: Face, p: [f64; 2]) -> [f64; 2] {
        let q = self.back(p);
        match face {
            Face::Front => [q[0] - self.x, q[1] - self.y],
            Face::Rear => [self.x + self.length - q[0], self.y + self.depth - q[1]],
            Face::Left => [self.y + self.depth - q[1], q[0] - self.x],
            Face::Right => [q[1] - self.y, self.x + self.length - q[0]],
        }
    }
    /// A point lies within its walls, at least so far from each.
    pub(crate) fn holds(&self, p: [f64; 2], margin: f64) -> bool {
        let q = self.back(p);
        let within = |v: f64, low: f64, size: f64| v > low + margin && v < low + size - margin;
        within(q[0], self.x, self.length) && within(q[1], self.y, self.depth)
    }
    /// Its point nearest to another.
    pub(crate) fn nearest(&self, p: [f64; 2]) -> [f64; 2] {
        let q = self.back(p);
        self.put([q[0].clamp(self.x, self.x + self.length), q[1].clamp(self.y, self.y + self.depth)])
    }
    /// Its corners, counterclockwise from the front left.
    pub(crate) fn corners(&self) -> Vec<[f64; 2]> {
        [Face::Front, Face::Right, Face::Rear, Face::Left].map(|f| self.point(f, 0.0, 0.0)).to_vec()
    }
}

/// The side of a mass, in its own directions, that a face looks from.
pub(crate) fn side_of(face: Face) -> Side {
    match face {
        Face::Front => Side::MinusV,
        Face::Left => Side::MinusU,
        Face::Rear => Side::PlusV,
        Face::Right => Side::PlusU,
    }
}

/// Degrees the building's frame is turned counterclockwise from east and north. While the front's direction is not known it is
/// drawn as if the front looked south.
pub(crate) fn turn_of(front: Option<Bearing>) -> f64 {
    front.map_or(0.0, |f| 180.0 - f.degrees())
}

/// A point of the building's frame, east and north.
pub(crate) fn to_north(p: [f64; 2], front: Option<Bearing>) -> [f64; 2] {
    let (s, c) = turn_of(front).to_radians().sin_cos();
    [p[0] * c - p[1] * s, p[0] * s + p[1] * c]
}

/// The masses of a roof, placed and in metres, and what does not fit, in words.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Placed {
    pub(crate) masses: Vec<Mass>,
    pub(crate) standing: Vec<Standing>,
    /// What stands on the roof of another mass: which, and the face its own wall looks to.
    pub(crate) on: Vec<Option<(usize, Face)>>,
    pub(crate) doubts: Vec<String>,
}

impl Roof {
    /// The masses placed against one another, east and north when the front's direction is known.
    ///
    /// # Errors
    /// The first mass that cannot be built or placed.
    pub(crate) fn placed(&self, front: Option<Bearing>) -> Result<Placed, RoofError> {
        let mut out = Placed { masses: Vec::new(), standing: Vec::new(), on: Vec::new(), doubts: Vec::new() };
        let mut ids = BTreeSet::new();
        for m in &self.masses {
            let at = |part: &str, message: String| RoofError { field: format!("masses.{}.{part}", m.id), message };
            if !ids.insert(&m.id) {
                return Err(at("id", format!("Two masses are called {}. Give each its own letter.", m.id)));
            }
            let figure = |part: &str, what: &str, text: &str| some_metres(&format!("{}: {what}", m.name), text).map_err(|e| at(part, e));
            let (length, depth) = (figure("length", "the length", &m.length)?, figure("depth", "the depth", &m.depth)?);
            let eave = metres(&format!("{}: the eave height", m.name), &m.eave).map_err(|e| at("eave", e))?;
            let overhang = metres(&format!("{}: the overhang", m.name), &m.overhang).map_err(|e| at("overhang", e))?;
            let slope =
                if m.form == RoofForm::Flat { 0.0 } else { pitch(&m.pitch).map_err(|e| at("pitch", format!("{}: {e}", m.name)))?.pitch };
            let sides = sides_of(m)?;
            if let Some(c) = m.covering.as_ref().filter(|c| covering(c).is_none()) {
                return Err(at("covering", format!("\u{201c}{c}\u{201d} is not a covering Trowel knows.")));
            }
            let mut standing = Standing::straight(0.0, 0.0, length, depth);
            let (mut grown, mut toward, mut on, mut whole) = (0.0, None, None, None);
            if let Some(a) = &m.against {
                let Some(k) = self.masses.iter().position(|o| o.id == a.mass).filter(|k| *k < out.masses.len()) else {
                    return Err(at("against", format!("{} stands against {}, which is not above it in the list.", m.name, a.mass)));
                };
                let (other, name) = (out.standing[k], &self.masses[k].name);
                let from_left =
                    metres(&format!("{}: the distance from the left end", m.name), &a.from_left).map_err(|e| at("from_left", e))?;
                if from_left >= other.side(a.face) {
                    return Err(at(
                        "from_left",
                        format!(
                            "{} would stand {from_left:.2} m along the {} face of {name}, which is {:.2} m long: the two would not touch.",
                            m.name,
                            a.face.name().to_lowercase(),
                            other.side(a.face)
                        ),
                    ));
                }
                let inward = if a.inward.trim().is_empty() {
                    None
                } else {
                    Some(metres(&format!("{}: the way in from that face", m.name), &a.inward).map_err(|e| at("inward", e))?)
                };
                whole = Some(other);
                let corner = other.straight_point(a.face, from_left, inward.unwrap_or(0.0));
                // Outside it reaches away from its wall, on the roof inward from it.
                let away = inward.is_none();
                (standing.x, standing.y) = match a.face {
                    Face::Front => (corner[0], if away { corner[1] - depth } else { corner[1] }),
                    Face::Rear => (corner[0] - length, if away { corner[1] } else { corner[1] - depth }),
                    Face::Left => (if away { corner[0] - length } else { corner[0] }, corner[1] - depth),
                    Face::Right => (if away { corner[0] } else { corner[0] - length }, corner[1]),
                };
                let planes = (&out.masses[k], m, slope, eave);
                match runs_on(planes, &standing, a, inward) {
                    Ok(by) if a.runs_on => (grown, toward) = (by, Some(a.face)),
                    Err(why) if a.runs_on => out.doubts.push(why),
                    _ => {}
                }
                let ends = !a.runs_on && inward.is_none();
                if let Some(doubt) = ends.then(|| meets_roof(&out.masses[k], m, slope, eave, &standing, a, name)).flatten() {
                    out.doubts.push(doubt);
                }
                if inward.is_some() && grown > 0.0 {
                    // How deep a dormer is follows from where it dies into the slope; where it does not, it is as deep as was typed.
                    (standing, grown) = (standing.deeper(a.face, grown), 0.0);
                }
                if let Some(inward) = inward {
                    on = Some((k, a.face));
                    out.doubts.extend(stands_on(&out.masses[k], &out.standing[k], m, &standing, eave, a, inward));
                }
            }
            let grown = standing.grown(grown, toward);
            let middle = [grown.x + grown.length / 2.0, grown.y + grown.depth / 2.0];
            // Both turn about the middle of what is built.
            let (standing, grown) =
                (standing.turned_with(middle, m.turned_deg, whole.as_ref()), grown.turned_with(middle, m.turned_deg, whole.as_ref()));
            let built = build(m, grown, slope, eave, overhang, front, sides);
            built.check().map_err(|e| at("form", e.to_string()))?;
            out.masses.push(built);
            out.standing.push(standing);
            out.on.push(on);
        }
        Ok(out)
    }
}

/// A mass in metres.
fn build(m: &MassRecord, s: Standing, slope: f64, eave: f64, overhang: f64, front: Option<Bearing>, sides: BTreeMap<Side, SideOf>) -> Mass {
    Mass {
        id: m.id.clone(),
        centre_m: to_north(s.put([s.x + s.length / 2.0, s.y + s.depth / 2.0]), front),
        len_u_m: s.length,
        len_v_m: s.depth,
        rot_deg: turn_of(front) + s.turned_deg,
        eave_height_m: eave,
        pitch: slope,
        overhang_m: overhang,
        form: m.form.plain(),
        ridge_along: (m.form.plain() == Form::Gable).then_some(m.ridge_along()),
        downslope: m.falls_to.filter(|_| m.form == RoofForm::Shed).map(side_of),
        sides,
    }
}

impl MassRecord {
    fn ridge_along(&self) -> Along {
        if self.ridge == RidgeWay::Across { Along::U } else { Along::V }
    }

    /// Whether a face is an end of its ridge.
    fn is_end(&self, face: Face) -> bool {
        (self.ridge == RidgeWay::Across) == matches!(face, Face::Left | Face::Right)
    }
}

/// What differs by side, in metres.
fn sides_of(m: &MassRecord) -> Result<BTreeMap<Side, SideOf>, RoofError> {
    let at = |part: &str, message: String| RoofError { field: format!("masses.{}.{part}", m.id), message };
    let height = |part: &str, what: &str, text: &str| metres(&format!("{}: {what}", m.name), text).map_err(|e| at(part, e));
    let steep = |part: &str, text: &str| {
        pitch(&PitchRead::Typed { text: text.to_owned() }).map(|p| p.pitch).map_err(|e| at(part, format!("{}: {e}", m.name)))
    };
    let mut out: BTreeMap<Side, SideOf> = BTreeMap::new();
    for face in Face::ALL {
        let side = out.entry(side_of(face)).or_default();
        let end = m.form.plain() == Form::Gable && m.is_end(face);
        if m.form.breaks() && !end {
            side.break_height_m = Some(height("break_at", "the height of the break", &m.break_at)?);
            side.upper_pitch = Some(steep("upper_pitch", &m.upper_pitch)?);
        }
        if m.form == RoofForm::HalfHip && end {
            side.eave_height_m = Some(height("ends_from", "the height its ends slope from", &m.ends_from)?);
        }
        let Some(own) = m.faces.get(&face) else { continue };
        let part = |of: &str| format!("faces.{}.{of}", face.name().to_lowercase());
        if !own.overhang.trim().is_empty() {
            side.overhang_m = Some(height(&part("overhang"), "the overhang", &own.overhang)?);
        }
        let upright = end || m.form == RoofForm::Flat || m.form == RoofForm::Shed && m.falls_to != Some(face);
        if upright && !(own.eave.trim().is_empty() && own.pitch.trim().is_empty()) && !(end && m.form == RoofForm::HalfHip) {
            return Err(at(
                &part("eave"),
                format!(
                    "{}: the {} side has no slope, so it has no eave or pitch of its own. Leave them empty.",
                    m.name,
                    face.name().to_lowercase()
                ),
            ));
        }
        if !own.eave.trim().is_empty() {
            side.eave_height_m = Some(height(&part("eave"), "the eave height", &own.eave)?);
        }
        if !own.pitch.trim().is_empty() {
            side.pitch = Some(steep(&part("pitch"), &own.pitch)?);
        }
    }
    out.retain(|_, s| *s != SideOf::default());
    Ok(out)
}

/// What is odd about something that stands on another's roof.
fn stands_on(other: &Mass, under: &Standing, m: &MassRecord, s: &Standing, eave: f64, a: &Against, inward: f64) -> Vec<String> {
    let mut out = Vec::new();
    let beyond = s.x < under.x - 1e-6
        || s.y < under.y - 1e-6
        || s.x + s.length > under.x + under.length + 1e-6
        || s.y + s.depth > under.y + under.depth + 1e-6;
    if beyond {
        out.push(format!("{} stands on {} and reaches beyond its walls. Check where it stands and how long it is.", m.name, a.mass));
    }
    let side = side_of(a.face);
    let roof = if other.slopes().contains(&side) { other.height_in(side, inward) } else { other.eave_height_m };
    if eave <= roof {
        out.push(format!(
            "{}: its eave stands at {eave:.2} m where the roof under its wall stands at {roof:.2} m: it would be under the roof. Check the two heights.",
            m.name
        ));
    }
    out
}

/// How far a roof runs on into the slope it stands against, from the wall line.
///
/// Of something that stands on the roof, how deep it is from its own wall.
fn runs_on((other, m, slope, eave): (&Mass, &MassRecord, f64, f64), s: &Standing, a: &Against, inward: Option<f64>) -> Result<f64, String> {
    let face = a.face.name().to_lowercase();
    if !other.slopes().contains(&side_of(a.face)) {
        return Err(format!("{} cannot run on: the {face} side of {} has no slope to run into.", m.name, a.mass));
    }
    let across = if matches!(a.face, Face::Front | Face::Rear) { s.length } else { s.depth };
    let along = if inward.is_some() { 0.0 } else { s.depth + s.length - across };
    // The highest line of this roof that reaches the other, at the wall line; and how it goes on rising beyond.
    let (top, rises, more) = match m.form.plain() {
        // Running on makes it longer, so that its ridge stands half its width in, however short it was.
        Form::Hip => (eave + slope * across / 2.0, 0.0, across / 2.0),
        Form::Gable if (m.ridge == RidgeWay::FrontToRear) == matches!(a.face, Face::Front | Face::Rear) => {
            (eave + slope * across / 2.0, 0.0, 0.0)
        }
        Form::Shed if m.falls_to == Some(a.face) => (eave + slope * along, slope, 0.0),
        Form::Shed if m.falls_to.is_some_and(|f| (f.turn() - a.face.turn()).rem_euclid(180.0) != 0.0) => (eave + slope * across, 0.0, 0.0),
        Form::Flat => (eave, 0.0, 0.0),
        _ => {
            return Err(format!(
                "{} cannot run on: its roof falls toward {} there. Change the ridge, or let it end at the wall.",
                m.name, a.mass
            ));
        }
    };
    // A line that rises inward is met as if it had begun at the other's wall.
    let begins = inward.unwrap_or(0.0);
    let far = other.reach(side_of(a.face));
    let by = other.meets(side_of(a.face), top - rises * begins, rises).filter(|by| *by <= far + 1e-9);
    let Some(by) = by else {
        return Err(format!("{} stands higher than the roof of {} it should run into. Check the two heights.", m.name, a.mass));
    };
    let by = by - begins;
    // Nothing to run into: it ends below the other's eave.
    Ok(if by > 0.0 { by + more } else { 0.0 })
}

/// A mass that ends at a wall must do so below that wall's eave.
fn meets_roof(other: &Mass, m: &MassRecord, slope: f64, eave: f64, s: &Standing, a: &Against, name: &str) -> Option<String> {
    let along = if matches!(a.face, Face::Front | Face::Rear) { s.depth } else { s.length };
    let top = match m.form {
        RoofForm::Shed if m.falls_to == Some(a.face) => eave + slope * along,
        _ => eave,
    };
    let height = other.eave_of(side_of(a.face));
    (other.slopes().contains(&side_of(a.face)) && top > height + 1e-9).then(|| {
        format!(
            "{}: its top stands at {top:.2} m where the eave of {name} is at {:.2} m. It cannot end against the wall: let it run on, or check the two heights.",
            m.name, height
        )
    })
}
