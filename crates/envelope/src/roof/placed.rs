//! The masses of a roof placed against one another: where each stands, how far its roof runs on, what it stands on, and what differs by
//! side, in metres.

use super::covering::covering;
use super::mass::{Along, Form, Mass, Side, SideOf};
use super::pitch::{PitchRead, pitch};
use super::record::{Against, MassRecord, RidgeWay, Roof, RoofError, RoofForm};
use super::typed::{metres, some_metres};
use crate::site::{Bearing, Face};
use std::collections::{BTreeMap, BTreeSet};

/// A mass, placed in the building's own frame: its corner nearest to the front left, and its sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Standing {
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) length: f64,
    pub(crate) depth: f64,
}

impl Standing {
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
    /// A point in the building's frame: so far from a face's left end, seen from outside, and so far in from it.
    pub(crate) fn point(&self, face: Face, from_left: f64, inward: f64) -> [f64; 2] {
        match face {
            Face::Front => [self.x + from_left, self.y + inward],
            Face::Rear => [self.x + self.length - from_left, self.y + self.depth - inward],
            Face::Left => [self.x + inward, self.y + self.depth - from_left],
            Face::Right => [self.x + self.length - inward, self.y + from_left],
        }
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
            let mut standing = Standing { x: 0.0, y: 0.0, length, depth };
            let (mut grown, mut toward, mut on) = (0.0, None, None);
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
                let corner = other.point(a.face, from_left, inward.unwrap_or(0.0));
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
            let built = build(m, standing, slope, eave, overhang, grown, toward, front, sides);
            built.check().map_err(|e| at("form", e.to_string()))?;
            out.masses.push(built);
            out.standing.push(standing);
            out.on.push(on);
        }
        Ok(out)
    }
}

/// A mass in metres. One that runs on is longer by `grown` toward the mass it stands against.
#[allow(clippy::too_many_arguments, reason = "one place turns a record into a mass")]
fn build(
    m: &MassRecord,
    s: Standing,
    slope: f64,
    eave: f64,
    overhang: f64,
    grown: f64,
    against: Option<Face>,
    front: Option<Bearing>,
    sides: BTreeMap<Side, SideOf>,
) -> Mass {
    let (mut x, mut y, mut length, mut depth) = (s.x, s.y, s.length, s.depth);
    match against {
        Some(Face::Front) => depth += grown,
        Some(Face::Rear) => (y, depth) = (y - grown, depth + grown),
        Some(Face::Left) => length += grown,
        Some(Face::Right) => (x, length) = (x - grown, length + grown),
        None => {}
    }
    Mass {
        id: m.id.clone(),
        centre_m: to_north([x + length / 2.0, y + depth / 2.0], front),
        len_u_m: length,
        len_v_m: depth,
        rot_deg: turn_of(front) + m.turned_deg,
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
