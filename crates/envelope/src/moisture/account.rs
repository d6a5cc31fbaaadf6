//! Everything that follows from moisture as it is kept.

use super::indoors::{airs, rain_or_room};
use super::map::{Class, MapInput, MapReading, MoistureMap, map};
use super::patches::pictures;
use super::record::{Instrument, Material, Moisture, MoistureReading, Scale};
use super::series::days;
use super::surface::{Building, MassAt, OnBuilding, OnSurface, SurfacePart, room_shape};
use crate::practice::Practice;
use crate::roof::record::Roof;
use crate::site::Bearing;
use crate::trace::form::Shows;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

pub use super::figures::{
    AirAccount, HeatAccount, MoistureAccount, PatchAccount, PatchState, PlaceDrying, ReadAt, RoomAccount, RoomSide, SurfaceMap, WetSpot,
};

/// A room whose walk misses its start by more is taped again, metres.
const MISS_M: f64 = 0.1;
/// What lies lower on a wall shows at the skirting; what lies lower than the next is low on it.
const SKIRTING_M: f64 = 0.2;
const LOW_M: f64 = 1.2;

/// Input of the account.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MoistureInput {
    /// As it is kept.
    pub moisture: Moisture,
    /// The building.
    #[serde(default)]
    pub roof: Roof,
    /// Where its front faces.
    #[serde(default)]
    pub front_faces: Option<Bearing>,
    /// What holds.
    #[serde(default)]
    pub practice: Practice,
}

/// From which figure a material is raised and from which it is wet, where the practice judges by material; none where it judges against
/// dry places, and for figures that only compare.
fn limits(scale: Scale, material: Material, practice: &Practice) -> Option<[f64; 2]> {
    /// What is raised begins at this share of what is wet.
    const RAISED_OF_WET: f64 = 0.8;
    if scale == Scale::Relative || practice.rule("moisture-scale").id() != Some("absolute") {
        return None;
    }
    let key = match material {
        Material::Softwood | Material::Hardwood | Material::WoodBoard => "wet-wood",
        Material::GypsumBoard => "wet-board",
        Material::Plaster | Material::Masonry | Material::Concrete => "wet-masonry",
    };
    let wet = practice.rule(key).figure() * 100.0;
    Some([RAISED_OF_WET * wet, wet])
}

impl MoistureInput {
    /// Where a place is on the building.
    ///
    /// # Errors
    /// Why it is nowhere.
    pub fn place(&self, at: &OnSurface) -> Result<OnBuilding, String> {
        building(&self.moisture, &self.roof, self.front_faces).place(at)
    }
}

/// The building that places are put on.
pub(crate) fn building<'a>(moisture: &'a Moisture, roof: &Roof, front: Option<Bearing>) -> Building<'a> {
    let masses = roof.placed(front).map_or_else(
        |_| Vec::new(),
        |p| {
            let each = p.masses.iter().zip(&p.standing);
            each.map(|(m, s)| MassAt { id: m.id.clone(), standing: *s, eave_m: m.eave_height_m, pitch: m.pitch }).collect()
        },
    );
    Building { moisture, masses, front_deg: front.map_or(180.0, Bearing::degrees) }
}

pub(crate) fn surface_name(at: &OnSurface, of: &Moisture) -> String {
    let Some(room) = of.rooms.iter().find(|r| r.id == at.room) else {
        let face = at.face.map_or("outside", |f| f.name());
        return if at.part == SurfacePart::Roof { format!("{face} slope") } else { format!("{face} wall, outside") };
    };
    match at.part {
        SurfacePart::Ceiling => format!("{}, ceiling", room.name),
        SurfacePart::Floor => format!("{}, floor", room.name),
        _ => format!("{}, wall {}", room.name, at.wall),
    }
}

fn rooms(b: &Building<'_>, u: crate::measure::Units, todo: &mut Vec<String>) -> Vec<RoomAccount> {
    b.moisture
        .rooms
        .iter()
        .map(|r| {
            let empty = |problem| RoomAccount {
                id: r.id.clone(),
                name: r.name.clone(),
                corners: vec![],
                sides: vec![],
                area_m2: 0.0,
                height_m: Moisture::length(&r.height),
                missed_m: 0.0,
                problem,
            };
            match room_shape(r) {
                Err(e) => empty(Some(e)),
                Ok(s) => {
                    if s.walk.linear_misclosure_m > MISS_M {
                        todo.push(format!(
                            "The walk round {} misses its start by {}: tape it again.",
                            r.name,
                            u.depth(s.walk.linear_misclosure_m)
                        ));
                    }
                    let sides = (1..=s.corners.len())
                        .map(|k| {
                            let (a, z) = s.wall(k);
                            let length = (z[0] - a[0]).hypot(z[1] - a[1]);
                            let at = OnSurface {
                                room: r.id.clone(),
                                wall: k,
                                along: format!("{}", length / 2.0),
                                up: "1".into(),
                                ..OnSurface::default()
                            };
                            RoomSide {
                                wall: k,
                                left: z,
                                right: a,
                                length_m: length,
                                faces_deg: b.place(&at).ok().and_then(|p| p.faces_deg),
                            }
                        })
                        .collect();
                    RoomAccount {
                        corners: s.corners.clone(),
                        sides,
                        area_m2: s.walk.area_adjusted_m2,
                        height_m: s.height_m,
                        missed_m: s.walk.linear_misclosure_m,
                        ..empty(None)
                    }
                }
            }
        })
        .collect()
}

fn size(at: &OnSurface, rooms: &[RoomAccount]) -> (Option<f64>, Option<f64>) {
    let Some(r) = rooms.iter().find(|r| r.id == at.room) else { return (None, None) };
    match at.part {
        SurfacePart::Wall => (r.sides.iter().find(|s| s.wall == at.wall).map(|s| s.length_m), Some(r.height_m)),
        _ => {
            let span = |k: usize| {
                let v = r.corners.iter().map(|c| c[k]);
                v.clone().reduce(f64::max).zip(v.reduce(f64::min)).map(|(a, b)| a - b)
            };
            (span(0), span(1))
        }
    }
}

type Group<'a> = BTreeMap<(Date, OnSurface, Instrument, Scale, Material), Vec<&'a MoistureReading>>;

fn maps(i: &MoistureInput, rooms: &[RoomAccount]) -> Vec<SurfaceMap> {
    let u = i.practice.units;
    let mut groups: Group<'_> = BTreeMap::new();
    for r in &i.moisture.readings {
        groups.entry((r.on, r.at.surface(), r.instrument, r.scale, r.material)).or_default().push(r);
    }
    let mut out: Vec<SurfaceMap> = Vec::new();
    for ((on, surface, instrument, scale, material), readings) in groups {
        // References of the same day hold wherever they were taken, for the same instrument, scale and material.
        let same = |r: &&MoistureReading| r.dry && r.on == on && r.instrument == instrument && r.scale == scale && r.material == material;
        let references: Vec<f64> = i.moisture.readings.iter().filter(same).map(|r| r.value).collect();
        if readings.iter().all(|r| r.dry) {
            continue;
        }
        let at: Vec<[f64; 2]> = readings.iter().map(|r| r.at.read().unwrap_or_default()).collect();
        let limits = limits(scale, material, &i.practice);
        let input = MapInput {
            references: references.clone(),
            limits,
            step: Some(scale.step()),
            readings: readings.iter().zip(&at).map(|(r, p)| MapReading { x_m: p[0], y_m: p[1], value: r.value }).collect(),
        };
        let (map, why_not) = match map(&input) {
            Ok(m) => (Some(m), None),
            Err(e) => (None, Some(e.to_string())),
        };
        let (wide_m, high_m) = size(&surface, rooms);
        let map = map.map(|mut m| {
            // The next reading is taken on the surface, not beyond its end.
            if let Some(n) = m.next.as_mut() {
                n.x_m = n.x_m.clamp(0.0, wide_m.unwrap_or(f64::INFINITY));
                n.y_m = n.y_m.clamp(0.0, high_m.unwrap_or(f64::INFINITY));
            }
            m
        });
        let name = surface_name(&surface, &i.moisture);
        let mut doubts: Vec<String> = map.iter().flat_map(|m| m.doubts.clone()).collect();
        for r in &readings {
            if let Some(over) = scale.doubtful_over().filter(|o| r.value > *o) {
                doubts.push(format!(
                    "{} shows {} %, over {over:.0} %, more than pins tell in wood. Is it a relative reading?",
                    r.id, r.value
                ));
            }
        }
        for (r, p) in readings.iter().zip(&at) {
            let beyond = |v: f64, most: Option<f64>| most.is_some_and(|m| v < -0.05 || v > m + 0.05);
            if beyond(p[0], wide_m) || beyond(p[1], high_m) {
                doubts.push(format!(
                    "{} lies beyond the {}. Look at its place.",
                    r.id,
                    if surface.part == SurfacePart::Wall { "wall" } else { "room" }
                ));
            }
        }
        if scale == Scale::Relative && i.practice.rule("moisture-scale").id() == Some("absolute") {
            doubts.push("The practice judges by material, but a relative figure only compares: it is judged against dry places.".into());
        }
        let against = map.as_ref().map_or_else(String::new, |k| match limits {
            Some([raised, wet]) => {
                format!("By material: {} is raised from {raised:.0} %, wet from {wet:.0} % ({}).", material.name(), scale.name())
            }
            None => {
                let n = references.len();
                let places = if n == 1 { "place" } else { "places" };
                format!("Against {n} dry {places}: middle {}, spread {:.1} ({}, {}).", k.median, k.spread, scale.name(), material.name())
            }
        });
        let sentence = map.as_ref().map_or_else(|| why_not.clone().unwrap_or_default(), |m| say_map(m, surface.part, u));
        let key = format!(
            "{}|{}|{}|{}|{on}|{instrument:?}|{scale:?}|{material:?}",
            surface.room,
            surface.mass,
            surface.face.map_or("", |f| f.name()),
            surface.wall
        );
        out.push(SurfaceMap {
            key: format!("{key}|{:?}", surface.part),
            name,
            wide_m,
            high_m,
            instrument,
            scale,
            material,
            on,
            readings: readings
                .iter()
                .zip(&at)
                .enumerate()
                .map(|(k, (r, p))| ReadAt {
                    id: r.id.clone(),
                    x_m: p[0],
                    y_m: p[1],
                    value: r.value,
                    level: map.as_ref().map(|m| m.levels[k]),
                    class: map.as_ref().map(|m| m.class[k]),
                    dry: r.dry,
                })
                .collect(),
            references,
            against,
            map,
            why_not,
            sentence,
            doubts,
            surface,
        });
    }
    out.sort_by(|a, b| b.on.cmp(&a.on).then_with(|| a.key.cmp(&b.key)));
    // What was only read again on an earlier day, without references of that day, is in the series and no map.
    let latest = |s: &OnSurface| out.iter().find(|m| m.surface == *s).map(|m| m.on);
    let keep: Vec<bool> = out.iter().map(|m| m.map.is_some() || Some(m.on) == latest(&m.surface)).collect();
    let mut keep = keep.into_iter();
    out.retain(|_| keep.next().unwrap_or(true));
    out
}

fn say_map(m: &MoistureMap, part: SurfacePart, u: crate::measure::Units) -> String {
    let n = |c: Class| m.class.iter().filter(|k| **k == c).count();
    if n(Class::Wet) + n(Class::Raised) == 0 {
        return format!("All {} readings are dry.", m.class.len());
    }
    let mut s = format!("{} wet, {} raised, {} dry.", n(Class::Wet), n(Class::Raised), n(Class::Dry));
    if m.area_m2 > 0.0 {
        s.push_str(&format!(" The wet edge encloses {} of the {} that were read.", u.area(m.area_m2), u.area(m.hull_m2)));
    }
    if let Some(h) = m.highest {
        s.push_str(&format!(" Wettest {}.", part.at(&u.length(h.x_m, 1), &u.length(h.y_m, 1))));
    }
    s
}

pub(crate) fn shows(at: &OnSurface, high_m: Option<f64>) -> Shows {
    let up = at.read().map_or(0.0, |p| p[1]);
    match at.part {
        SurfacePart::Ceiling => Shows::Ceiling,
        SurfacePart::Floor => Shows::Floor,
        SurfacePart::Roof => Shows::Deck,
        SurfacePart::Wall if up <= SKIRTING_M => Shows::Skirting,
        SurfacePart::Wall if up <= high_m.map_or(LOW_M, |h| h.min(2.0 * LOW_M) / 2.0) => Shows::WallLow,
        SurfacePart::Wall => Shows::WallHigh,
    }
}

fn spots(b: &Building<'_>, maps: &[SurfaceMap]) -> Vec<WetSpot> {
    let mut out: Vec<WetSpot> = Vec::new();
    for m in maps {
        // Only the latest day of a surface: the maps come the latest first.
        let wettest = m.readings.iter().filter(|r| r.class.is_some_and(|c| c != Class::Dry)).max_by(|a, b| a.value.total_cmp(&b.value));
        let Some(r) = wettest else { continue };
        if out.iter().any(|s| s.at.surface() == m.surface) {
            continue;
        }
        let at = OnSurface { along: format!("{}", r.x_m), up: format!("{}", r.y_m), ..m.surface.clone() };
        let Ok(on) = b.place(&at) else { continue };
        let dry = m.map.as_ref().map_or(0.0, |k| k.median);
        out.push(WetSpot {
            shows: shows(&at, m.high_m),
            at,
            on,
            name: m.name.clone(),
            read: if m.references.len() < super::map::LEAST_REFERENCES {
                format!("{} by material", r.value)
            } else {
                format!("{} where dry places read {dry}", r.value)
            },
            seen: m.on,
        });
    }
    out
}

/// Works out everything that follows.
#[must_use]
pub fn moisture_account(i: &MoistureInput) -> MoistureAccount {
    let b = building(&i.moisture, &i.roof, i.front_faces);
    let mut left = Vec::new();
    let rooms = rooms(&b, i.practice.units, &mut left);
    let maps = maps(i, &rooms);
    // Of earlier days nothing can be read any more.
    let latest = maps.first().map(|m| m.on);
    for m in maps.iter().filter(|m| m.map.is_none() && Some(m.on) == latest) {
        left.push(format!("{}: {}", m.name, m.sentence));
    }
    let (air, mut air_says) = airs(i);
    air_says.extend(rain_or_room(i, &air, &maps));
    let heat = pictures(i, &maps, &mut left);
    let mut doubts = Vec::new();
    if i.front_faces.is_none() && !i.moisture.rooms.is_empty() {
        doubts.push("Where the front faces is not known: walls are placed, but not turned to the wind.".into());
    }
    if b.masses.is_empty() && !i.moisture.rooms.is_empty() {
        doubts.push("The building is not measured yet: no wall of a room is known as an outer wall.".into());
    }
    MoistureAccount {
        outlines: b.masses.iter().map(|m| m.standing.corners()).collect(),
        spots: spots(&b, &maps),
        drying: days(i, &maps),
        rooms,
        maps,
        air,
        air_says,
        heat,
        left,
        doubts,
    }
}
