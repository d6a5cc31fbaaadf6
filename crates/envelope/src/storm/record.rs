//! A storm assessment as it is kept: squares with their hits, soft metal, wind, seals, what was broken, what is not from this storm,
//! the storms on record, costs.

use super::events::StormEvent;
use super::square::mark_size;
pub use super::square::{DrawnAt, HitKept, MOST_MARK_M, MarkKind, SquareKept, SquareMoved};
use super::wind::{SlopePart, WindPart};
use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::roof::record::{RoofError, own_name};
use crate::site::Face;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

const MOST: usize = 200;

/// How a slope or a square was looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum HowSeen {
    /// By hand, standing on it or beside it.
    #[default]
    Hand,
    /// By hand, from the ladder at the eave.
    Ladder,
    /// A camera on a pole.
    Pole,
    /// A field glass.
    Glass,
    /// Pictures from a drone.
    Drone,
    /// Not at all.
    NotReached,
}

impl HowSeen {
    /// A thumb was on it.
    #[must_use]
    pub fn by_hand(self) -> bool {
        matches!(self, HowSeen::Hand | HowSeen::Ladder)
    }
    /// In a sentence.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            HowSeen::Hand => "looked at by hand",
            HowSeen::Ladder => "looked at from the ladder",
            HowSeen::Pole => "looked at with a camera on a pole",
            HowSeen::Glass => "looked at through a glass",
            HowSeen::Drone => "looked at on pictures from a drone",
            HowSeen::NotReached => "not reached",
        }
    }
}

/// How a slope was looked at, and why so.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SlopeSeen {
    /// Its facet.
    pub id: String,
    /// How.
    pub how: HowSeen,
    /// Why: "over the walking limit".
    #[serde(default)]
    pub why: String,
}

/// What soft metal or other thing was looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SoftThing {
    /// A chimney or pipe cap.
    Cap,
    /// A roof vent.
    Vent,
    /// A gutter.
    #[default]
    Gutter,
    /// A downspout.
    Downspout,
    /// An insect screen.
    Screen,
    /// The frame of a window or door.
    Frame,
    /// The fins of a cooling unit.
    Fins,
    /// Something else.
    Other,
}

impl SoftThing {
    /// In a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            SoftThing::Cap => "cap",
            SoftThing::Vent => "vent",
            SoftThing::Gutter => "gutter",
            SoftThing::Downspout => "downspout",
            SoftThing::Screen => "screen",
            SoftThing::Frame => "frame",
            SoftThing::Fins => "fins of a cooling unit",
            SoftThing::Other => "other thing",
        }
    }
}

/// How old marks look.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Fresh {
    /// Bright.
    Fresh,
    /// Oxidised, dirty.
    Oxidised,
    /// Not to be told.
    #[default]
    Unknown,
}

/// Marks on soft metal and other things of one face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SoftKept {
    /// Short and lasting: M1 …
    pub id: String,
    /// On which face.
    pub face: Face,
    /// What.
    pub what: SoftThing,
    /// How many marks; none found is a finding too.
    pub count: u32,
    /// The largest, as typed.
    #[serde(default)]
    pub largest: String,
    /// How old they look.
    #[serde(default)]
    pub fresh: Fresh,
    /// Where spatter marks say the hail came from, degrees.
    #[serde(default)]
    pub spatter_from_deg: Option<f64>,
}

/// Units of one part of one slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WindKept {
    /// Short and lasting: W1 …
    pub id: String,
    /// The facet.
    pub slope: String,
    /// Which part of it.
    pub part: SlopePart,
    /// How many were looked at.
    pub units: u32,
    /// With a crease line.
    #[serde(default)]
    pub creased: u32,
    /// Lifted, without a crease.
    #[serde(default)]
    pub lifted: u32,
    /// Gone.
    #[serde(default)]
    pub missing: u32,
    /// Unsealed, without a crease.
    #[serde(default)]
    pub unsealed: u32,
    /// Where its creases say the wind came from, degrees.
    #[serde(default)]
    pub from_deg: Option<f64>,
}

impl WindKept {
    /// As it is worked out, under the name of its slope.
    #[must_use]
    pub fn part(&self, slope: &str) -> WindPart {
        let WindKept { part, units, creased, lifted, missing, unsealed, .. } = *self;
        WindPart { slope: slope.to_owned(), part, units, creased, lifted, missing, unsealed }
    }
}

/// Something tried by hand on so many units of a slope.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Tried {
    /// Short and lasting.
    pub id: String,
    /// The facet.
    pub slope: String,
    /// How many were tried.
    pub tried: u32,
    /// How many came up, or broke.
    pub failed: u32,
}

/// What fell or formed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Fell {
    /// A limb or a tree.
    #[default]
    Limb,
    /// Ice or snow.
    Ice,
    /// Debris that flew.
    Debris,
}

/// One spot that was opened.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Opened {
    /// Short and lasting.
    pub id: String,
    /// What fell.
    pub what: Fell,
    /// Where, in words.
    pub place: String,
    /// What it opened, in words.
    pub opened: String,
    /// It is covered for now.
    #[serde(default)]
    pub covered: bool,
}

/// Why something is not from this storm.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum NotFrom {
    /// Feet.
    #[default]
    Foot,
    /// Wear.
    Wear,
    /// Bad nailing.
    Nailing,
    /// An old mend.
    Mend,
    /// Something else.
    Other,
}

impl NotFrom {
    /// In a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            NotFrom::Foot => "old foot damage",
            NotFrom::Wear => "wear",
            NotFrom::Nailing => "bad nailing",
            NotFrom::Mend => "an old mend",
            NotFrom::Other => "something else",
        }
    }
}

/// Something that is not from this storm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NotThis {
    /// Short and lasting.
    pub id: String,
    /// What it is.
    pub what: NotFrom,
    /// Where, in words.
    pub place: String,
    /// Why it is not from this storm.
    pub why: String,
    /// How many.
    #[serde(default)]
    pub count: u32,
}

/// A dated picture or statement.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DatedKept {
    /// Short and lasting.
    pub id: String,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// The marks were there.
    pub there: bool,
    /// Who says so.
    #[serde(default)]
    pub source: String,
}

/// Costs, when they are asked for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormCosts {
    /// In what money.
    #[serde(default)]
    pub currency: String,
    /// Mending one hit.
    pub repair_per_hit: f64,
    /// Coming at all.
    pub repair_fixed: f64,
    /// A new covering, for each square of 100 sq ft.
    pub replace_per_square: f64,
    /// How much harder than usual.
    pub difficulty: f64,
}

/// A storm assessment.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct StormVisit {
    /// How slopes were looked at.
    pub seen: Vec<SlopeSeen>,
    /// Test squares.
    pub squares: Vec<SquareKept>,
    /// Soft metal and other things.
    pub soft: Vec<SoftKept>,
    /// Wind, by part of the slope.
    pub wind: Vec<WindKept>,
    /// Seals tried by hand.
    pub seals: Vec<Tried>,
    /// Units lifted to see whether a mend breaks its neighbours.
    pub lifts: Vec<Tried>,
    /// Spots that were opened.
    pub opened: Vec<Opened>,
    /// What is not from this storm.
    pub not_this: Vec<NotThis>,
    /// Who gave the storms; says so when it is simulated.
    pub events_source: String,
    /// Storms on record.
    pub events: Vec<StormEvent>,
    /// Dated pictures and statements.
    pub dated: Vec<DatedKept>,
    /// Costs, when they are asked for.
    pub costs: Option<StormCosts>,
    /// Spare or matching material is at hand.
    pub material_at_hand: Option<bool>,
}

impl StormVisit {
    /// Checks what can be checked of it by itself.
    ///
    /// # Errors
    /// The field that is wrong, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| Err(RoofError { field, message });
        let at = |field: String| move |message: String| RoofError { field, message };
        let lengths = [
            self.seen.len(),
            self.squares.len(),
            self.soft.len(),
            self.wind.len(),
            self.seals.len(),
            self.lifts.len(),
            self.opened.len(),
            self.not_this.len(),
            self.events.len(),
            self.dated.len(),
        ];
        if lengths.iter().any(|n| *n > MOST) {
            return err("squares".into(), format!("That is more than one job keeps here; the most of each is {MOST}."));
        }
        let mut ids = BTreeSet::new();
        let named = self.seen.iter().map(|x| ("seen", &x.id));
        let named = named.chain(self.squares.iter().map(|x| ("squares", &x.id)));
        let named = named.chain(self.soft.iter().map(|x| ("soft", &x.id)));
        let named = named.chain(self.wind.iter().map(|x| ("wind", &x.id)));
        let named = named.chain(self.seals.iter().map(|x| ("seals", &x.id)));
        let named = named.chain(self.lifts.iter().map(|x| ("lifts", &x.id)));
        let named = named.chain(self.opened.iter().map(|x| ("opened", &x.id)));
        let named = named.chain(self.not_this.iter().map(|x| ("not_this", &x.id)));
        let named = named.chain(self.events.iter().map(|x| ("events", &x.id)));
        for (of, id) in named.chain(self.dated.iter().map(|x| ("dated", &x.id))) {
            own_name(&mut ids, of, id)?;
        }
        let texts = self.seen.iter().map(|s| (format!("seen.{}.why", s.id), &s.why));
        let texts = texts.chain(
            self.opened.iter().flat_map(|o| [("place", &o.place), ("opened", &o.opened)].map(|(p, t)| (format!("opened.{}.{p}", o.id), t))),
        );
        let texts = texts.chain(
            self.not_this.iter().flat_map(|o| [("place", &o.place), ("why", &o.why)].map(|(p, t)| (format!("not_this.{}.{p}", o.id), t))),
        );
        let texts = texts.chain(self.dated.iter().map(|d| (format!("dated.{}.source", d.id), &d.source)));
        for (field, text) in texts.chain([("events_source".to_owned(), &self.events_source)]) {
            if let Some(m) = too_long(text, LONG_TEXT) {
                return err(field, m);
            }
        }
        for q in &self.squares {
            q.check().map_err(|(part, m)| RoofError { field: format!("squares.{}.{part}", q.id), message: m })?;
        }
        for s in &self.soft {
            if s.count > 100_000 {
                return err(format!("soft.{}.count", s.id), "That many marks on one thing cannot be.".into());
            }
            mark_size(&s.largest).map_err(at(format!("soft.{}.largest", s.id)))?;
            if s.spatter_from_deg.is_some_and(|d| !(0.0..=360.0).contains(&d)) {
                return err(format!("soft.{}.spatter_from_deg", s.id), "Type where it came from as degrees from 0 to 360.".into());
            }
        }
        let mut rows = BTreeSet::new();
        for w in &self.wind {
            if let Some((part, m)) = w.part(&w.slope).wrong() {
                return err(format!("wind.{}.{part}", w.id), m);
            }
            if !rows.insert((&w.slope, w.part)) {
                return err(
                    format!("wind.{}.part", w.id),
                    format!("The {} of this slope are there twice. Put the two together.", w.part.name()),
                );
            }
            if w.from_deg.is_some_and(|d| !(0.0..=360.0).contains(&d)) {
                return err(format!("wind.{}.from_deg", w.id), "Type where the wind came from as degrees from 0 to 360.".into());
            }
        }
        for (of, t) in self.seals.iter().map(|t| ("seals", t)).chain(self.lifts.iter().map(|t| ("lifts", t))) {
            if t.tried == 0 || t.tried > 100_000 {
                return err(format!("{of}.{}.tried", t.id), "Say how many were tried.".into());
            }
            if t.failed > t.tried {
                return err(format!("{of}.{}.failed", t.id), format!("{} of {} cannot be.", t.failed, t.tried));
            }
        }
        for o in &self.opened {
            if o.place.trim().is_empty() {
                return err(format!("opened.{}.place", o.id), "Say where it fell, in a few words.".into());
            }
        }
        for o in &self.not_this {
            if o.why.trim().is_empty() {
                return err(format!("not_this.{}.why", o.id), "Say why it is not from this storm.".into());
            }
        }
        if let Some(c) = &self.costs {
            for (part, x, least) in [
                ("repair_per_hit", c.repair_per_hit, 0.01),
                ("replace_per_square", c.replace_per_square, 0.01),
                ("difficulty", c.difficulty, 0.1),
                ("repair_fixed", c.repair_fixed, 0.0),
            ] {
                if !(least..=1e7).contains(&x) {
                    return err(format!("costs.{part}"), "Type a cost above nought, or take the costs away.".into());
                }
            }
            if let Some(m) = too_long(&c.currency, SHORT_TEXT) {
                return err("costs.currency".into(), m);
            }
        }
        Ok(())
    }

    /// Checks what only the day of the visit can tell.
    ///
    /// # Errors
    /// A storm in the future, or one that cannot be.
    pub fn check_dates(&self, visit: Date) -> Result<(), RoofError> {
        for e in &self.events {
            if let Some((part, message)) = e.wrong(visit) {
                return Err(RoofError { field: format!("events.{}.{part}", e.id), message });
            }
        }
        match self.dated.iter().find(|d| d.on > visit) {
            Some(d) => Err(RoofError {
                field: format!("dated.{}.on", d.id),
                message: format!("{} is after the visit on {visit}. Check the date.", d.on),
            }),
            None => Ok(()),
        }
    }
}
