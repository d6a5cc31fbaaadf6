//! A flat roof as it was met: its parapets, its heights, and what lets its water out, in the person's own units.

use super::pools::Mouth;
use crate::gutter::downspout::Bore;
use crate::job::{SHORT_TEXT, too_long};
use crate::rain::record::{Ends, bore};
use crate::roof::pitch::{PitchRead, pitch};
use crate::roof::record::{RoofError, metres};
use crate::roof::typed::signed;
use crate::site::Face;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A height that was read on a flat roof.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct RoofHeight {
    /// From the left wall, seen from the front.
    pub from_left: String,
    /// From the front wall.
    pub from_front: String,
    /// Above the roof's edge at the wall line; below it with a minus.
    pub height: String,
}

/// What lets water off a flat roof.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum WayOut {
    /// A drain in the roof, with a pipe inside the building.
    #[default]
    InnerDrain,
    /// An opening through the parapet.
    Scupper,
}

/// An outlet of a flat roof.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct RoofOutlet {
    /// What it is.
    pub kind: WayOut,
    /// Meant for when the others are blocked.
    pub overflow: bool,
    /// Of a scupper: the face whose parapet it goes through.
    pub face: Option<Face>,
    /// Of a scupper from the left end of that face, seen from outside; of a drain from the left wall, seen from the front.
    pub from_left: String,
    /// Of a drain: from the front wall.
    pub from_front: String,
    /// `100 mm`; of a scupper its width and height, `200 x 100 mm`.
    pub size: String,
    /// Its sill above the roof there; flush while it is empty.
    pub up: String,
    /// A strainer lies over it.
    pub strainer: bool,
    /// It was blocked when it was seen.
    pub blocked: bool,
    /// Where its water goes.
    pub ends: Ends,
    /// From the wall to where it lets go.
    pub distance: String,
    /// On a lower roof: the eave its water comes to, by name.
    pub onto: String,
}

/// A flat roof, as it is kept.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct FlatRoof {
    /// The mass whose roof it is.
    pub mass: String,
    /// Height of the parapet above the roof, by face; none there while it is empty.
    pub parapets: BTreeMap<Face, String>,
    /// Its fall, `1/4 in per ft` or `2 %`; level while it is empty.
    pub fall: String,
    /// The face it falls to.
    pub toward: Option<Face>,
    /// Heights that were read on it: low places, crickets.
    pub heights: Vec<RoofHeight>,
    /// What lets its water out.
    pub outlets: Vec<RoofOutlet>,
}

/// Steeper than this is no flat roof: 1:12 is a low slope.
const STEEPEST: f64 = 0.1;
/// More than any roof has.
const MOST_HEIGHTS: usize = 400;
const MOST_OUTLETS: usize = 60;

impl RoofOutlet {
    /// The opening.
    pub(crate) fn mouth(&self) -> Result<Mouth, String> {
        let read = bore(&self.size)?;
        Ok(match (self.kind, read) {
            (WayOut::InnerDrain, bore) => Mouth::Drain { bore, strainer: self.strainer },
            (WayOut::Scupper, Bore::Rectangular { width_mm, length_mm }) => {
                Mouth::Scupper { width_m: width_mm / 1000.0, height_m: length_mm / 1000.0 }
            }
            // A round opening through a wall is taken as a square of the same area.
            (WayOut::Scupper, Bore::Round { diameter_mm }) => {
                let side = diameter_mm / 1000.0 * (std::f64::consts::PI / 4.0).sqrt();
                Mouth::Scupper { width_m: side, height_m: side }
            }
        })
    }

    /// Its sill above the roof, metres.
    pub(crate) fn up_m(&self) -> Result<f64, String> {
        if self.up.trim().is_empty() { Ok(0.0) } else { metres("The height of the sill", &self.up) }
    }
}

impl FlatRoof {
    /// Rise over run of its fall.
    pub(crate) fn fall(&self) -> Result<f64, String> {
        let text = self.fall.trim();
        if text.is_empty() {
            return Ok(0.0);
        }
        let read = crate::measure::parse(text).ok().filter(|m| {
            use crate::measure::Quantity::{Share, Slope};
            matches!(m.quantity, Slope | Share)
        });
        let rise = match read {
            Some(m) => m.si,
            None => pitch(&PitchRead::Typed { text: text.to_owned() }).map_err(|e| format!("The fall: {e}"))?.pitch,
        };
        if (0.0..=STEEPEST).contains(&rise) {
            Ok(rise)
        } else {
            Err(format!("A fall of {:.0} % is no flat roof. Type up to {:.0} %, or make the mass a shed.", rise * 100.0, STEEPEST * 100.0))
        }
    }

    /// Height of its parapet at a face, metres; none while nothing is typed.
    pub(crate) fn parapet(&self, face: Face) -> Result<Option<f64>, String> {
        match self.parapets.get(&face).map(|t| t.trim()).filter(|t| !t.is_empty()) {
            Some(text) => metres("The parapet", text).map(|m| Some(m).filter(|m| *m > 0.0)),
            None => Ok(None),
        }
    }

    /// Checks what can be checked without the roof.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub(crate) fn check(&self) -> Result<(), RoofError> {
        let err = |part: String, message: String| RoofError { field: format!("flats.{}.{part}", self.mass), message };
        if self.mass.is_empty() || too_long(&self.mass, SHORT_TEXT).is_some() {
            return Err(err("mass".into(), "Choose the mass whose flat roof it is.".into()));
        }
        for face in Face::ALL {
            self.parapet(face).map_err(|m| err(format!("parapets.{}", face.name().to_lowercase()), m))?;
        }
        let fall = self.fall().map_err(|m| err("fall".into(), m))?;
        if fall > 0.0 && self.toward.is_none() {
            return Err(err("toward".into(), "It falls, but to which face? Choose one, or leave the fall empty.".into()));
        }
        if self.heights.len() > MOST_HEIGHTS || self.outlets.len() > MOST_OUTLETS {
            return Err(err(
                "outlets".into(),
                format!("At most {MOST_HEIGHTS} heights and {MOST_OUTLETS} outlets are kept of one roof. Take some away."),
            ));
        }
        for (k, h) in self.heights.iter().enumerate() {
            for (part, what, text) in
                [("from_left", "The place from the left", &h.from_left), ("from_front", "The place from the front", &h.from_front)]
            {
                metres(what, text).map_err(|m| err(format!("heights.{k}.{part}"), m))?;
            }
            signed("The height", &h.height).map_err(|m| err(format!("heights.{k}.height"), m))?;
        }
        for (k, o) in self.outlets.iter().enumerate() {
            let at = |part: &str| format!("outlets.{k}.{part}");
            o.mouth().map_err(|m| err(at("size"), m))?;
            o.up_m().map_err(|m| err(at("up"), m))?;
            metres("The place from the left", &o.from_left).map_err(|m| err(at("from_left"), m))?;
            match o.kind {
                WayOut::InnerDrain => drop(metres("The place from the front", &o.from_front).map_err(|m| err(at("from_front"), m))?),
                WayOut::Scupper if o.face.is_none() => {
                    return Err(err(at("face"), "Which parapet does the scupper go through? Choose its face.".into()));
                }
                WayOut::Scupper => {}
            }
            if !o.distance.trim().is_empty() {
                metres("The distance from the wall", &o.distance).map_err(|m| err(at("distance"), m))?;
            }
            if too_long(&o.onto, SHORT_TEXT).is_some() {
                return Err(err(at("onto"), "Choose an eave of this roof.".into()));
            }
        }
        Ok(())
    }

    /// "drain 1", "overflow scupper 2": outlets of a kind are numbered as they stand in the list.
    pub(crate) fn outlet_name(&self, k: usize) -> String {
        let o = &self.outlets[k];
        let same = |p: &&RoofOutlet| p.kind == o.kind && p.overflow == o.overflow;
        let n = self.outlets[..=k].iter().filter(same).count();
        let kind = if o.kind == WayOut::Scupper { "scupper" } else { "drain" };
        if o.overflow { format!("overflow {kind} {n}") } else { format!("{kind} {n}") }
    }
}
