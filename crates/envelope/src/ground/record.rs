//! The ground as it is kept: readings with their places, the level book, breaklines, cladding lines, and what stands nearby, in
//! the person's own units. Heights are above one datum, the finished floor.

use super::level::{LevelInput, LevelRow};
use crate::job::{SHORT_TEXT, too_long};
use crate::measure::{self, Quantity};
use crate::rain::record::intensity;
use crate::roof::record::{RoofError, metres};
use crate::roof::typed::signed;
use crate::site::Face;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Where something is: by a face, or by coordinates of the plan.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Spotted {
    /// The mass whose face is meant; the first one while it is empty.
    pub mass: String,
    /// The face; none when the coordinates are typed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub face: Option<Face>,
    /// From the face's left end, seen from outside. Of coordinates: to the right of the front left corner.
    pub along: String,
    /// Straight out from the face. Of coordinates: to the rear of the front left corner.
    pub out: String,
}

/// What the ground is made of at a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Top {
    /// Lawn, bed, bare soil.
    #[default]
    Soil,
    /// Slab, walk, apron: nothing seeps through it.
    Paving,
}

/// How a height was had.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum How {
    /// Typed.
    #[default]
    Typed,
    /// From the level book, by its point.
    Book,
    /// From the hydrostatic altimeter.
    Altimeter,
    /// From a slope stick laid out from another reading.
    Stick,
    /// From a file.
    File,
}

/// A reading.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct SpotRecord {
    /// Short and lasting: P1, P2 …
    pub id: String,
    /// Where.
    pub at: Spotted,
    /// Above the finished floor; below it is negative. Empty when the book has it.
    pub height: String,
    /// What the ground is there.
    pub top: Top,
    /// How the height was had.
    pub how: How,
}

/// A line of the level book, as written.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct BookLine {
    /// The point.
    pub point: String,
    /// Backsight.
    pub back: String,
    /// Intermediate sight.
    pub between: String,
    /// Foresight.
    pub fore: String,
}

/// The level book.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct BookRecord {
    /// Height of the first point above the finished floor.
    pub start: String,
    /// Its lines.
    pub lines: Vec<BookLine>,
}

/// What a line on the ground is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum LineKind {
    /// Kerb, edging, edge of a bed.
    Kerb,
    /// The bottom of a swale.
    Swale,
    /// The lot line: beyond it is the neighbour's.
    LotLine,
    /// Any other bend of the ground.
    Bend,
}

/// What is at the edge of the readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum GroundEdge {
    /// The ground goes on: water that comes to it leaves.
    #[default]
    Open,
    /// Garden walls or kerbs all round: nothing leaves over it.
    Closed,
}

/// A line through readings.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LineRecord {
    /// What it is.
    pub kind: LineKind,
    /// The readings it runs through, in order.
    pub spots: Vec<String>,
}

/// Where the cladding of a face ends above the ground.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CladdingLine {
    /// The mass; the first one while it is empty.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub mass: String,
    /// The face.
    pub face: Face,
    /// Its lower edge above the finished floor; below it is negative.
    pub bottom: String,
}

/// How fast soil takes water.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Soil {
    /// Sand and gravel.
    Sand,
    /// Loam.
    #[default]
    Loam,
    /// Clay.
    Clay,
}

impl Soil {
    /// Loss rate once it is wet, mm/h; rule of practice, an estimate.
    pub fn loss_mm_h(self) -> f64 {
        match self {
            Soil::Sand => 25.0,
            Soil::Loam => 8.0,
            Soil::Clay => 1.5,
        }
    }
    /// In words.
    pub fn name(self) -> &'static str {
        match self {
            Soil::Sand => "sand",
            Soil::Loam => "loam",
            Soil::Clay => "clay",
        }
    }
}

/// What stands or runs nearby.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum NearbyKind {
    /// A trunk.
    Trunk,
    /// A spray head.
    SprayHead,
    /// A retaining wall.
    RetainingWall,
    /// A drain or gully that takes water away.
    Drain,
}

/// Something nearby.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NearbyRecord {
    /// Short and lasting.
    pub id: String,
    /// What it is.
    pub kind: NearbyKind,
    /// Where.
    pub at: Spotted,
    /// Height of a wall or of a grown tree.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub height: String,
    /// Of a spray head: what it throws, `2 gpm`; bare in litres per minute.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub flow_l_min: String,
    /// Of a spray head: how long it runs at a time; bare in minutes.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub minutes: String,
}

/// More than anything nearby does, in litres a minute or in minutes.
const MOST_OF_A_SPRAY: f64 = 1e5;

/// A figure of a quantity as typed: bare in its usual unit, or in a unit of its own. Nothing is none of it.
fn figure(text: &str, quantity: Quantity, usual: f64, example: &str) -> Result<f64, String> {
    let text = text.trim();
    if text.is_empty() {
        return Ok(0.0);
    }
    let read = match text.parse::<f64>() {
        Ok(bare) => Some(bare),
        Err(_) => measure::parse(text).ok().filter(|m| m.quantity == quantity).map(|m| m.si / usual),
    };
    read.filter(|v| (0.0..=MOST_OF_A_SPRAY).contains(v)).ok_or_else(|| format!("Type a figure of 0 or more, for example {example}."))
}

impl NearbyRecord {
    /// What a spray head throws, litres a minute. A bare figure is in litres a minute.
    ///
    /// # Errors
    /// What to type instead.
    pub fn flow(&self) -> Result<f64, String> {
        figure(&self.flow_l_min, Quantity::Flow, 1.0 / 60_000.0, "7.5 L/min or 2 gpm")
    }
    /// How long it runs at a time, minutes. A bare figure is in minutes.
    ///
    /// # Errors
    /// What to type instead.
    pub fn lasts(&self) -> Result<f64, String> {
        figure(&self.minutes, Quantity::Time, 60.0, "20 or 2 h")
    }
}

/// A way in low on a wall.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum LowOpeningKind {
    /// A door's threshold.
    Threshold,
    /// A window's sill.
    Sill,
    /// The rim of a window well: over it the well fills.
    WindowWell,
    /// A vent to a crawl space or under a floor.
    Vent,
}

impl LowOpeningKind {
    /// In words.
    pub fn name(self) -> &'static str {
        match self {
            LowOpeningKind::Threshold => "threshold",
            LowOpeningKind::Sill => "sill",
            LowOpeningKind::WindowWell => "rim of the window well",
            LowOpeningKind::Vent => "vent",
        }
    }
}

/// A way in low on a wall, with the height at which water comes in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LowOpening {
    /// Short and lasting: W1, W2 …
    pub id: String,
    /// What it is.
    pub kind: LowOpeningKind,
    /// The mass; the first one while it is empty.
    #[serde(default)]
    pub mass: String,
    /// The face.
    pub face: Face,
    /// From the face's left end to its middle, seen from outside.
    pub along: String,
    /// How wide it is; a metre while it is empty.
    #[serde(default)]
    pub width: String,
    /// Its lowest edge above the finished floor; below it is negative.
    pub height: String,
}

/// The ground, as it is kept.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Ground {
    /// The readings.
    pub spots: Vec<SpotRecord>,
    /// The level book.
    pub book: BookRecord,
    /// Lines through readings.
    pub lines: Vec<LineRecord>,
    /// Lower edges of claddings.
    pub cladding: Vec<CladdingLine>,
    /// The soil.
    pub soil: Soil,
    /// Its loss rate when somebody knows it better, `10 mm/h`.
    pub loss: String,
    /// Width of a cell of the grid; 0.25 m while it is empty.
    pub cell: String,
    /// What stands and runs nearby.
    pub nearby: Vec<NearbyRecord>,
    /// What is at the edge of the readings.
    pub edge: GroundEdge,
    /// Thresholds, sills, wells and vents that water could reach.
    pub ways_in: Vec<LowOpening>,
}

/// More readings than anybody takes by hand; files may bring more, thinned to the grid.
pub const MOST_SPOTS: usize = 20_000;
/// Readings farther from the building than this are in another unit, metres.
const FAR_M: f64 = 300.0;
/// The ground differs by less than this around a building, metres.
const HIGH_M: f64 = 30.0;

impl BookRecord {
    /// The book in metres.
    pub(crate) fn input(&self) -> Result<LevelInput, (usize, String)> {
        let start = if self.start.trim().is_empty() { 0.0 } else { signed("The first point", &self.start).map_err(|e| (1, e))? };
        let mut rows = Vec::new();
        for (k, l) in self.lines.iter().enumerate() {
            let read = |what: &str, t: &str| if t.trim().is_empty() { Ok(None) } else { signed(what, t).map(Some).map_err(|e| (k + 1, e)) };
            rows.push(LevelRow {
                point: l.point.trim().to_owned(),
                bs_m: read("The backsight", &l.back)?,
                is_m: read("The sight", &l.between)?,
                fs_m: read("The foresight", &l.fore)?,
            });
        }
        // It closes on its start when it ends there.
        let closes = rows.len() > 1 && rows.first().map(|r| &r.point) == rows.last().map(|r| &r.point);
        Ok(LevelInput { start_elevation_m: start, close_elevation_m: closes.then_some(start), tolerance_mm_per_sqrt_setup: 10.0, rows })
    }
}

impl Ground {
    /// How far a reading lies out from its face, metres; none when it is not placed by one.
    pub fn out_of(&self, spot: &str) -> Option<f64> {
        let at = &self.spots.iter().find(|s| s.id == spot)?.at;
        at.face.and_then(|_| signed("", &at.out).ok())
    }
    /// Width of a cell, metres.
    pub(crate) fn cell_m(&self) -> f64 {
        /// A quarter of a metre tells a downspout from its neighbour and is quick enough to play with.
        const USUAL_M: f64 = 0.25;
        metres("", &self.cell).unwrap_or(USUAL_M)
    }
    /// Loss rate of the soil, mm/h.
    pub(crate) fn loss_mm_h(&self) -> f64 {
        intensity("", &self.loss).unwrap_or_else(|_| self.soil.loss_mm_h())
    }

    /// Checks what can be checked without the building.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| RoofError { field, message };
        /// More than any place has.
        const MOST_LINES: usize = 500;
        if self.spots.len() > MOST_SPOTS {
            return Err(err(
                "spots".into(),
                format!("{} readings are more than Trowel keeps; thin them to {MOST_SPOTS}.", self.spots.len()),
            ));
        }
        if self.lines.len() > MOST_LINES
            || self.nearby.len() > MOST_LINES
            || self.ways_in.len() > MOST_LINES
            || self.book.lines.len() > MOST_SPOTS
        {
            return Err(err("lines".into(), "That is more than a place has. Keep what matters.".into()));
        }
        let place = |of: &str, at: &Spotted| -> Result<(), RoofError> {
            for (part, text) in [("along", &at.along), ("out", &at.out)] {
                let v = signed("The place", text).map_err(|m| err(format!("{of}.at.{part}"), m))?;
                if v.abs() > FAR_M {
                    return Err(err(format!("{of}.at.{part}"), format!("{} is another lot. Was it in another unit?", text.trim())));
                }
            }
            Ok(())
        };
        let booked: BTreeSet<&str> = self.book.lines.iter().map(|l| l.point.trim()).collect();
        let mut ids = BTreeSet::new();
        for s in &self.spots {
            let of = format!("spots.{}", s.id);
            if s.id.is_empty() || too_long(&s.id, SHORT_TEXT).is_some() || !ids.insert(s.id.as_str()) {
                return Err(err(format!("{of}.id"), "Each reading has its own short name: P1, P2 and so on.".into()));
            }
            place(&of, &s.at)?;
            if s.height.trim().is_empty() {
                if !booked.contains(s.id.as_str()) {
                    let m = format!("{} has no height, and the level book does not know it. Type its height, or book it.", s.id);
                    return Err(err(format!("{of}.height"), m));
                }
                continue;
            }
            let z = signed("The height", &s.height).map_err(|m| err(format!("{of}.height"), m))?;
            if z.abs() > HIGH_M {
                return Err(err(format!("{of}.height"), format!("{} from the floor is a cliff. Was it in another unit?", s.height.trim())));
            }
        }
        for (k, l) in self.lines.iter().enumerate() {
            if l.spots.len() < 2 {
                return Err(err(format!("lines.{k}"), "A line runs through at least two readings.".into()));
            }
            if let Some(s) = l.spots.iter().find(|s| !ids.contains(s.as_str())) {
                return Err(err(format!("lines.{k}"), format!("There is no reading {s}. Read it first, or leave it out of the line.")));
            }
        }
        for c in &self.cladding {
            signed("The lower edge", &c.bottom).map_err(|m| err(format!("cladding.{}.{}", c.mass, c.face.name().to_lowercase()), m))?;
        }
        let mut names = BTreeSet::new();
        for n in &self.nearby {
            let of = format!("nearby.{}", n.id);
            if n.id.is_empty() || !names.insert(&n.id) {
                return Err(err(format!("{of}.id"), "Each thing nearby has its own short name: N1, N2 and so on.".into()));
            }
            place(&of, &n.at)?;
            n.flow().map_err(|m| err(format!("{of}.flow_l_min"), m))?;
            n.lasts().map_err(|m| err(format!("{of}.minutes"), m))?;
            if !n.height.trim().is_empty() {
                metres("The height", &n.height).map_err(|m| err(format!("{of}.height"), m))?;
            }
        }
        let mut names = BTreeSet::new();
        for w in &self.ways_in {
            let at = |part: &str, message: String| err(format!("ways_in.{}.{part}", w.id), message);
            if w.id.is_empty() || too_long(&w.id, SHORT_TEXT).is_some() || !names.insert(&w.id) {
                return Err(at("id", "Each way in has its own short name: W1, W2 and so on.".into()));
            }
            metres("The distance from the left end", &w.along).map_err(|m| at("along", m))?;
            if !w.width.trim().is_empty() {
                metres("The width", &w.width).map_err(|m| at("width", m))?;
            }
            let z = signed("The height", &w.height).map_err(|m| at("height", m))?;
            if z.abs() > HIGH_M {
                return Err(at("height", format!("{} from the floor is no way in. Was it in another unit?", w.height.trim())));
            }
        }
        if !self.loss.trim().is_empty() {
            intensity("The loss rate", &self.loss).map_err(|m| err("loss".into(), m))?;
        }
        if !self.cell.trim().is_empty() {
            let cell = metres("The cell", &self.cell).map_err(|m| err("cell".into(), m))?;
            if !(0.05..=1.0).contains(&cell) {
                return Err(err("cell".into(), "Cells go from 0.05 to 1 m; 0.1 to 0.5 is usual.".into()));
            }
        }
        if !self.book.lines.is_empty() {
            self.book.input().map_err(|(k, m)| err(format!("book.{k}"), format!("Line {k}: {m}")))?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_kept_is_named() {
        let spot = |id: &str, along: &str, height: &str| SpotRecord {
            id: id.into(),
            at: Spotted { along: along.into(), out: "1 m".into(), ..Spotted::default() },
            height: height.into(),
            ..SpotRecord::default()
        };
        let with = |spots: Vec<SpotRecord>| Ground { spots, ..Ground::default() }.check();
        assert_eq!(with(vec![spot("P1", "2 m", "-120 mm")]), Ok(()));
        assert!(with(vec![spot("P1", "2 m", "")]).unwrap_err().message.contains("the level book does not know it"));
        assert!(with(vec![spot("P1", "2 m", "-120 mm"), spot("P1", "3 m", "0")]).unwrap_err().message.contains("own short name"));
        assert!(with(vec![spot("P1", "800 m", "0")]).unwrap_err().message.starts_with("800 m is another lot."));
        assert!(with(vec![spot("P1", "2000 ft", "0")]).unwrap_err().message.starts_with("2000 ft is another lot."), "as it was typed");
        assert!(with(vec![spot("P1", "4500 ft", "0")]).unwrap_err().message.ends_with("from 0 to 1000 m (3280 ft)."));
        assert!(with(vec![spot("P1", "2 m", "-120")]).is_err(), "a bare number has no unit");
        let line = Ground {
            spots: vec![spot("P1", "2 m", "0")],
            lines: vec![LineRecord { kind: LineKind::Kerb, spots: vec!["P1".into(), "P9".into()] }],
            ..Ground::default()
        };
        assert!(line.check().unwrap_err().message.contains("no reading P9"));
        assert!(Ground { cell: "3 m".into(), ..Ground::default() }.check().unwrap_err().message.contains("0.1 to 0.5"));
    }

    #[test]
    fn a_spray_head_is_told_in_either_unit() {
        let with = |flow: &str, minutes: &str| NearbyRecord {
            id: "N1".into(),
            kind: NearbyKind::SprayHead,
            at: Spotted { along: "1 m".into(), out: "1 m".into(), ..Spotted::default() },
            height: String::new(),
            flow_l_min: flow.into(),
            minutes: minutes.into(),
        };
        for (flow, minutes, l_min, min) in
            [("", "", 0.0, 0.0), ("12", "20", 12.0, 20.0), ("7.5 L/min", "1.5 min", 7.5, 1.5), ("2 gpm", "2 h", 2.0 * 3.785411784, 120.0)]
        {
            let n = with(flow, minutes);
            let (f, m) = (n.flow().unwrap(), n.lasts().unwrap());
            assert!((f - l_min).abs() < 1e-9 && (m - min).abs() < 1e-9, "{flow} {minutes}: {f} {m}");
        }
        let wrong = |flow: &str, minutes: &str| {
            let e = Ground { nearby: vec![with(flow, minutes)], ..Ground::default() }.check().unwrap_err();
            (e.field, e.message)
        };
        for none in ["much", "-3", "3 ft", "nan", "1e9"] {
            let (field, said) = wrong(none, "");
            assert_eq!((field.as_str(), said.contains("2 gpm")), ("nearby.N1.flow_l_min", true), "{none}: {said}");
            assert_eq!(wrong("", none).0, "nearby.N1.minutes", "{none}");
        }
        let low = CladdingLine { mass: "A".into(), face: Face::Rear, bottom: "low".into() };
        assert_eq!(Ground { cladding: vec![low], ..Ground::default() }.check().unwrap_err().field, "cladding.A.rear");
    }

    #[test]
    fn a_way_in_has_a_place_and_a_height() {
        let with = |along: &str, height: &str| {
            let w = LowOpening {
                id: "W1".into(),
                kind: LowOpeningKind::Threshold,
                mass: String::new(),
                face: Face::Rear,
                along: along.into(),
                width: String::new(),
                height: height.into(),
            };
            Ground { ways_in: vec![w], ..Ground::default() }.check().map_err(|e| e.field)
        };
        assert_eq!(with("2 m", "-20 mm"), Ok(()));
        assert_eq!(with("here", "-20 mm"), Err("ways_in.W1.along".into()));
        assert_eq!(with("2 m", "50 m"), Err("ways_in.W1.height".into()));
    }

    #[test]
    fn heights_below_the_floor() {
        assert!((signed("", "-120 mm").unwrap() + 0.12).abs() < 1e-12);
        assert!((signed("", "−4 3/4 in").unwrap() + 4.75 * 0.0254).abs() < 1e-12);
        assert_eq!(signed("", "0"), Ok(0.0));
        assert!((signed("", "+0.2 m").unwrap() - 0.2).abs() < 1e-12);
    }
}
