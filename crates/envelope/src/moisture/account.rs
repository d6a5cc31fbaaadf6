//! Everything that follows from moisture as it is kept.

use super::air::{Air, AirInput, air, wood_equilibrium_pct};
use super::drying::{DayReading, Dries, Drying, DryingInput, drying};
use super::heat::{Heat, HeatInput, Patch, heat};
use super::map::{Class, MapInput, MapReading, MoistureMap, map, median};
use super::record::{AirPlace, AirRecord, HeatPicture, Instrument, Material, Moisture, MoistureReading, Scale};
use super::surface::{Building, MassAt, OnBuilding, OnSurface, SurfacePart, room_shape};
use crate::practice::Practice;
use crate::roof::record::Roof;
use crate::site::Bearing;
use crate::trace::form::Shows;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Readings nearer than this on different days are of one place, metres.
const SAME_PLACE_M: f64 = 0.06;
/// A temperature factor from which a surface keeps warm enough: rule of practice for dwellings.
const WARM_FACTOR: f64 = 0.7;
/// Wood that reads so much over what the air gives it has other water, points of per cent.
const OVER_AIR_PCT: f64 = 4.0;
/// Air that holds so much more than other air gives it water, g/kg.
const MORE_WATER_G_KG: f64 = 0.5;
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

impl MoistureInput {
    /// Where a place is on the building.
    ///
    /// # Errors
    /// Why it is nowhere.
    pub fn place(&self, at: &OnSurface) -> Result<OnBuilding, String> {
        building(&self.moisture, &self.roof, self.front_faces).place(at)
    }
}

/// A wall of a room, on the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomSide {
    /// Which, from one.
    pub wall: usize,
    /// Its left end, seen from inside.
    pub left: [f64; 2],
    /// Its right end.
    pub right: [f64; 2],
    /// Its length, metres.
    pub length_m: f64,
    /// The direction it faces, when it is an outer wall.
    pub faces_deg: Option<f64>,
}

/// A room, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomAccount {
    /// Which.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Its corners on the building's plan.
    pub corners: Vec<[f64; 2]>,
    /// Its walls.
    pub sides: Vec<RoomSide>,
    /// Its area, m².
    pub area_m2: f64,
    /// Floor to ceiling, metres.
    pub height_m: f64,
    /// By how much the walk missed its start, metres.
    pub missed_m: f64,
    /// Why it could not be drawn.
    pub problem: Option<String>,
}

/// A reading with what it means.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadAt {
    /// Which.
    pub id: String,
    /// From the left, metres.
    pub x_m: f64,
    /// Up, metres.
    pub y_m: f64,
    /// What it showed.
    pub value: f64,
    /// Over the dry references, in their spreads; none without them.
    pub level: Option<f64>,
    /// What that means.
    pub class: Option<Class>,
    /// It is a reference itself.
    pub dry: bool,
}

/// A surface as it was read on a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurfaceMap {
    /// Lasting name.
    pub key: String,
    /// Which surface.
    pub surface: OnSurface,
    /// "Treatment room, ceiling".
    pub name: String,
    /// Its length, metres; none where it is not known.
    pub wide_m: Option<f64>,
    /// Its height.
    pub high_m: Option<f64>,
    /// With what.
    pub instrument: Instrument,
    /// On which scale.
    pub scale: Scale,
    /// Of what.
    pub material: Material,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Its readings.
    pub readings: Vec<ReadAt>,
    /// The dry references that hold for it.
    pub references: Vec<f64>,
    /// The map; none without references.
    pub map: Option<MoistureMap>,
    /// Why there is no judgement, with what to do.
    pub why_not: Option<String>,
    /// What it says.
    pub sentence: String,
    /// What should be looked at again.
    pub doubts: Vec<String>,
}

/// One place on several days.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceDrying {
    /// "Treatment room, ceiling, 1.2 m from the left".
    pub name: String,
    /// The readings: day and figure.
    pub readings: Vec<DayReading>,
    /// The first day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub from: Date,
    /// What the references show.
    pub dry_level: f64,
    /// How it dries; none when it cannot be said.
    pub drying: Option<Drying>,
    /// In words.
    pub sentence: String,
    /// Something may still feed it.
    pub still_fed: bool,
}

/// A reading of the air with what follows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AirAccount {
    /// Which.
    pub id: String,
    /// Where.
    pub name: String,
    /// What the air does.
    pub air: Air,
    /// In words.
    pub sentence: String,
    /// Mould can grow or water comes out.
    pub wrong: bool,
}

/// How a patch stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum PatchState {
    /// No contact reading yet, inside and outside of it.
    Unconfirmed,
    /// The meter agrees: wet.
    Wet,
    /// The meter disagrees: dry.
    Dry,
}

/// A patch with what the meter says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PatchAccount {
    /// As it was found.
    pub patch: Patch,
    /// Its middle on the surface: from the left and up, metres.
    pub at: [f64; 2],
    /// Its outline on the surface: left, low, right, high.
    pub bounds: [f64; 4],
    /// How it stands.
    pub state: PatchState,
    /// In words.
    pub sentence: String,
}

/// A picture of heat, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeatAccount {
    /// Which.
    pub id: String,
    /// Where.
    pub name: String,
    /// Its surface.
    pub surface: OnSurface,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Its lower left corner on the surface, metres.
    pub at: [f64; 2],
    /// Its size, metres.
    pub size: [f64; 2],
    /// Why it is not usable for moisture; empty when it is.
    pub against: Vec<String>,
    /// What it shows.
    pub heat: Option<Heat>,
    /// Its patches.
    pub patches: Vec<PatchAccount>,
}

/// A wet spot, offered for tracing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WetSpot {
    /// The surface it is on, with the place on it.
    pub at: OnSurface,
    /// Where that is.
    pub on: OnBuilding,
    /// How it shows.
    pub shows: Shows,
    /// "Treatment room, ceiling".
    pub name: String,
    /// What was read: "28 where dry places read 9".
    pub read: String,
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub seen: Date,
}

/// Moisture, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MoistureAccount {
    /// The rooms.
    pub rooms: Vec<RoomAccount>,
    /// The building's outline, part by part, for the plan.
    pub outlines: Vec<Vec<[f64; 2]>>,
    /// Surfaces as they were read, the latest day first.
    pub maps: Vec<SurfaceMap>,
    /// Places that were read on several days.
    pub drying: Vec<PlaceDrying>,
    /// The air.
    pub air: Vec<AirAccount>,
    /// What follows from several readings of the air together.
    pub air_says: Vec<String>,
    /// Pictures of heat.
    pub heat: Vec<HeatAccount>,
    /// What is left to do.
    pub left: Vec<String>,
    /// Wet spots, for tracing.
    pub spots: Vec<WetSpot>,
    /// What should be looked at again.
    pub doubts: Vec<String>,
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
        let input = MapInput {
            references: references.clone(),
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
        let sentence = map.as_ref().map_or_else(|| why_not.clone().unwrap_or_default(), |m| say_map(m, u));
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

fn say_map(m: &MoistureMap, u: crate::measure::Units) -> String {
    let n = |c: Class| m.class.iter().filter(|k| **k == c).count();
    if n(Class::Wet) + n(Class::Raised) == 0 {
        return format!("All {} readings are dry.", m.class.len());
    }
    let mut s = format!("{} wet, {} raised, {} dry.", n(Class::Wet), n(Class::Raised), n(Class::Dry));
    if m.area_m2 > 0.0 {
        s.push_str(&format!(" The wet edge encloses {} of the {} that were read.", u.area(m.area_m2), u.area(m.hull_m2)));
    }
    if let Some(h) = m.highest {
        s.push_str(&format!(" Wettest {} from the left, {} up.", u.length(h.x_m, 1), u.length(h.y_m, 1)));
    }
    s
}

fn days(i: &MoistureInput, maps: &[SurfaceMap]) -> Vec<PlaceDrying> {
    let u = i.practice.units;
    let mut places: Vec<(OnSurface, [f64; 2], Vec<&MoistureReading>)> = Vec::new();
    for r in i.moisture.readings.iter().filter(|r| !r.dry) {
        let (s, p) = (r.at.surface(), r.at.read().unwrap_or_default());
        let same = |(t, q, of): &&mut (OnSurface, [f64; 2], Vec<&MoistureReading>)| {
            *t == s
                && (q[0] - p[0]).hypot(q[1] - p[1]) < SAME_PLACE_M
                && of[0].instrument == r.instrument
                && of[0].scale == r.scale
                && of[0].material == r.material
        };
        match places.iter_mut().find(same) {
            Some((_, _, of)) => of.push(r),
            None => places.push((s, p, vec![r])),
        }
    }
    let mut out = Vec::new();
    for (surface, p, mut of) in places {
        of.sort_by_key(|r| r.on);
        let (Some(first), Some(last)) = (of.first(), of.last()) else { continue };
        if first.on == last.on {
            continue;
        }
        let refs: Vec<f64> = maps
            .iter()
            .filter(|m| m.instrument == first.instrument && m.scale == first.scale && m.material == first.material)
            .flat_map(|m| m.references.iter().copied())
            .collect();
        let Some(dry_level) = median(&refs) else { continue };
        let from = first.on;
        let since = |d: Date| f64::from(from.until(d).map_or(0, |s| s.get_days()));
        let readings: Vec<DayReading> = of.iter().map(|r| DayReading { day: since(r.on), value: r.value }).collect();
        let d = drying(&DryingInput { dry_level, readings: readings.clone(), within: None });
        let name = format!("{}, {} from the left, {} up", surface_name(&surface, &i.moisture), u.length(p[0], 1), u.length(p[1], 1));
        let (sentence, still_fed) = match &d {
            Err(e) => (e.to_string(), false),
            Ok(d) => say_drying(d, from),
        };
        out.push(PlaceDrying { name, readings, from, dry_level, drying: d.ok(), sentence, still_fed });
    }
    out
}

fn say_drying(d: &Drying, from: Date) -> (String, bool) {
    let tau = |v: Option<f64>| v.map_or_else(|| "no end".to_owned(), |v| format!("{v:.0}"));
    match d.verdict {
        Dries::Dry => ("It is dry.".into(), false),
        Dries::TooFew => ("Two days tell a rate, but not how sure it is. Read it once more.".into(), false),
        Dries::Wetter => ("It gets wetter: something feeds it.".into(), true),
        Dries::NotShown => ("It is not shown to dry: what it reads may be chance, and something may still feed it.".into(), true),
        Dries::Yes => {
            let range = d.range.map_or_else(String::new, |[lo, hi]| format!(" (range {} to {})", tau(lo), tau(hi)));
            let when = d
                .dry_on_day
                .and_then(|day| from.checked_add(jiff::Span::new().days(day.ceil() as i64)).ok())
                .map_or_else(String::new, |on| format!(" It should be dry about {on}."));
            (format!("It dries: what is too much falls to a third in about {} days{range}.{when}", tau(d.tau_days)), false)
        }
    }
}

fn air_name(a: &AirRecord, of: &Moisture) -> String {
    match a.place {
        AirPlace::Outside => "Outside".into(),
        AirPlace::Attic => "Attic".into(),
        AirPlace::Crawl => "Crawl space".into(),
        AirPlace::Room => of
            .rooms
            .iter()
            .find(|r| r.id == a.room)
            .map_or_else(|| if a.room.trim().is_empty() { "Room".to_owned() } else { a.room.clone() }, |r| r.name.clone()),
    }
}

/// The humidity at a surface from which mould can grow, %, under the practice.
fn mould_pct(p: &Practice) -> f64 {
    p.rule("mould-humidity").figure() * 100.0
}

fn airs(i: &MoistureInput) -> (Vec<AirAccount>, Vec<String>) {
    let of = &i.moisture;
    let mould = mould_pct(&i.practice);
    let outside = |on: Date| of.air.iter().find(|a| a.place == AirPlace::Outside && a.on == on);
    let worked = |a: &AirRecord| {
        let out_c = outside(a.on).filter(|_| a.place != AirPlace::Outside).map(|o| o.t_c);
        air(&AirInput { t_c: a.t_c, rh_pct: a.rh_pct, surface_c: a.surface_c, out_c, pressure_pa: None })
    };
    let mut accounts = Vec::new();
    let mut says = Vec::new();
    for a in &of.air {
        let Ok(w) = worked(a) else { continue };
        let name = air_name(a, of);
        let dew = w.dew_point_c.map_or_else(|| "Air without water.".to_owned(), |d| format!("Dew point {d:.1} °C."));
        let (surface, wrong) = match (w.condenses, w.surface_rh_pct) {
            (Some(true), _) => (" Water comes out on the surface.".to_owned(), true),
            (_, Some(rh)) if rh >= mould => (format!(" At the surface {rh:.0} %: over weeks mould can grow."), true),
            (_, Some(rh)) => (format!(" At the surface {rh:.0} %: no condensation."), false),
            _ => (String::new(), false),
        };
        let begins = w.condenses_below_out_c.map_or_else(String::new, |t| format!(" It would begin at {t:.0} °C outside."));
        let sentence = format!("{dew}{surface}{begins} Wood comes to {:.0} % in it.", w.wood_emc_pct);
        accounts.push(AirAccount { id: a.id.clone(), name, air: w, sentence, wrong });
    }
    // Which way the moisture comes: the air that holds more gives it.
    for a in of.air.iter().filter(|a| matches!(a.place, AirPlace::Attic | AirPlace::Crawl)) {
        let Ok(here) = worked(a) else { continue };
        let name = air_name(a, of);
        let room = of.air.iter().find(|r| r.place == AirPlace::Room && r.on == a.on);
        for (what, other) in [("outside", outside(a.on)), ("inside", room)] {
            let Some(there) = other.and_then(|o| worked(o).ok()) else { continue };
            let more = here.mixing_g_kg - there.mixing_g_kg;
            if more > MORE_WATER_G_KG {
                says.push(format!(
                    "{name}: its air holds {more:.1} g/kg more than {what}; it gives water to there, and gets it from elsewhere."
                ));
            } else if more < -MORE_WATER_G_KG {
                says.push(format!("{name}: the air {what} holds {:.1} g/kg more; moisture can come from there.", -more));
            }
        }
    }
    (accounts, says)
}

/// Rain or room: what air and wall say about what was found wet.
fn rain_or_room(i: &MoistureInput, airs: &[AirAccount], maps: &[SurfaceMap]) -> Vec<String> {
    let mut out = Vec::new();
    let mould = mould_pct(&i.practice);
    for a in i.moisture.air.iter().filter(|a| a.place == AirPlace::Room) {
        let Some(w) = airs.iter().find(|w| w.id == a.id) else { continue };
        let wet: Vec<&SurfaceMap> = maps
            .iter()
            .filter(|m| m.on == a.on && m.surface.room == a.room && m.map.as_ref().is_some_and(|k| k.class.contains(&Class::Wet)))
            .collect();
        if wet.is_empty() {
            continue;
        }
        let warm = w.air.f_rsi.is_none_or(|f| f >= WARM_FACTOR);
        if w.air.surface_rh_pct.is_some_and(|rh| rh < mould) && warm {
            out.push(format!(
                "{}: the coldest surface stays at {:.0} %; what is wet there is not condensation.",
                w.name,
                w.air.surface_rh_pct.unwrap_or_default()
            ));
        }
        for m in wet.iter().filter(|m| m.scale == Scale::Wood) {
            let emc = wood_equilibrium_pct(a.t_c, a.rh_pct);
            let most = m.readings.iter().map(|r| r.value).fold(0.0, f64::max);
            if most > emc + OVER_AIR_PCT {
                out.push(format!(
                    "{}: wood comes to {emc:.0} % in this air and reads {most:.0} %; that water is from elsewhere than the air.",
                    m.name
                ));
            }
        }
    }
    out
}

fn pictures(i: &MoistureInput, maps: &[SurfaceMap], left: &mut Vec<String>) -> Vec<HeatAccount> {
    i.moisture.heat.iter().map(|h| picture(i, h, maps, left)).collect()
}

fn picture(i: &MoistureInput, h: &HeatPicture, maps: &[SurfaceMap], left: &mut Vec<String>) -> HeatAccount {
    let least = i.practice.rule("heat-least").figure();
    let at = h.at.read().unwrap_or_default();
    let (rows, cols) = (h.grid.len() as f64, h.grid.first().map_or(0, Vec::len) as f64);
    let against = h.conditions.against();
    let name = surface_name(&h.at, &i.moisture);
    let found = heat(&HeatInput { cell_m: h.cell_m, grid: h.grid.clone(), least_k: Some(least) }).ok();
    let read: Vec<&ReadAt> = maps.iter().filter(|m| m.surface == h.at.surface() && m.on == h.on).flat_map(|m| &m.readings).collect();
    let patches = found.iter().filter(|_| against.is_empty()).flat_map(|f| &f.patches).map(|p| {
        let top = at[1] + rows * h.cell_m;
        let bounds = [at[0] + p.bounds[0], top - p.bounds[3], at[0] + p.bounds[2], top - p.bounds[1]];
        let within = |r: &&&ReadAt| r.x_m >= bounds[0] && r.x_m <= bounds[2] && r.y_m >= bounds[1] && r.y_m <= bounds[3];
        let inside: Vec<&&ReadAt> = read.iter().filter(within).collect();
        let beside = read.len() > inside.len();
        let judged: Vec<Class> = inside.iter().filter_map(|r| r.class).collect();
        let state = if judged.is_empty() || !beside {
            PatchState::Unconfirmed
        } else if judged.iter().any(|c| *c != Class::Dry) {
            PatchState::Wet
        } else {
            PatchState::Dry
        };
        let kind = if p.cold { "colder" } else { "warmer" };
        let what = format!("A patch of {}, {:.1} K {kind} than the wall around it", i.practice.units.area(p.area_m2), p.depth_k);
        let sentence = match state {
            PatchState::Unconfirmed => {
                let missing = if judged.is_empty() { "a contact reading inside it" } else { "a contact reading beside it" };
                left.push(format!("{name}: {missing} for the patch of picture {}.", h.id));
                format!("{what}. Not confirmed: it wants {missing}.")
            }
            PatchState::Wet => format!("{what}. The meter agrees: wet."),
            PatchState::Dry => format!("{what}. The meter finds it dry: look for air, a duct, missing insulation or a stud."),
        };
        PatchAccount { patch: p.clone(), at: [at[0] + p.x, top - p.y], bounds, state, sentence }
    });
    HeatAccount {
        id: h.id.clone(),
        name: name.clone(),
        surface: h.at.surface(),
        on: h.on,
        at,
        size: [cols * h.cell_m, rows * h.cell_m],
        patches: patches.collect(),
        against,
        heat: found,
    }
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
            read: format!("{} where dry places read {dry}", r.value),
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
        outlines: b
            .masses
            .iter()
            .map(|m| {
                let s = &m.standing;
                vec![[s.x, s.y], [s.x + s.length, s.y], [s.x + s.length, s.y + s.depth], [s.x, s.y + s.depth]]
            })
            .collect(),
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
