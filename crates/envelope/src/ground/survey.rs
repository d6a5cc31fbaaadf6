//! Everything that follows from the readings: where they are, what falls the wrong way, where water stands and against what.

use super::level::{LevelBook, level};
use super::record::{Ground, How, LineKind, NearbyKind, Spotted, Top, signed};
use super::surface::{Cell, DRY, Flooded, Grid, Lay, flood, lay};
use super::transect::{Outward, Transect, TransectInput, transect};
use crate::job::Brief;
use crate::measure::Quantity;
use crate::practice::{Practice, Verdict, judge_note, kind_of};
use crate::rain::record::Rainwater;
use crate::roof::record::{Roof, Standing, metres, to_north};
use crate::round::Note;
use crate::site::Face;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, VecDeque};

/// Input of the ground's computations.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct GroundInput {
    /// The ground as it is kept.
    pub ground: Ground,
    /// The roof as it is kept: where the building stands.
    #[serde(default)]
    pub roof: Roof,
    /// Rain and gutters as they are kept.
    #[serde(default)]
    pub rainwater: Rainwater,
    /// The brief: what the walls are made of, and which way the front looks.
    #[serde(default)]
    pub brief: Brief,
    /// The practice; the usual schools when it is not given.
    #[serde(default)]
    pub practice: Practice,
    /// Notes of the round: trunks, spray heads and the like that were told with their distance stand on the plan as well.
    #[serde(default)]
    pub notes: Vec<Note>,
}

/// A reading, placed and levelled.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpotHeight {
    /// Its name.
    pub id: String,
    /// In the building's frame: right of the front left corner, and behind it, metres.
    pub at: [f64; 2],
    /// East and north of that corner.
    pub north: [f64; 2],
    /// Above the finished floor, metres.
    pub z_m: f64,
    /// What the ground is there.
    pub top: Top,
    /// How it was had.
    pub how: How,
}

/// A remedy for ground that falls short, with its figures, or why it cannot be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundRemedy {
    /// "fill", "swale", "drain", "lower".
    pub kind: String,
    /// It can be done with the figures there are.
    pub possible: bool,
    /// What would be done, with figures; or why not.
    pub sentence: String,
    /// Somebody digs: buried services are located first.
    pub digs: bool,
}

/// A transect on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundTransect {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// From the face's left end, metres.
    pub station_m: f64,
    /// What was asked.
    pub input: TransectInput,
    /// The lower edge of the cladding above the floor; none when it was not measured.
    pub cladding_m: Option<f64>,
    /// What came out; none when it could not be worked out.
    pub result: Option<Transect>,
    /// The result as a sentence, with its school.
    pub sentence: String,
    /// The ground falls as it should and the cladding stands clear.
    pub right: bool,
    /// What would mend it, as the practice orders it.
    pub remedies: Vec<GroundRemedy>,
}

/// A face of a mass, seen from the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundFace {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// Soil to bring between the first and the last transect, by average end areas, m³; none with one transect.
    pub fill_m3: Option<f64>,
    /// The face in a sentence.
    pub sentence: String,
    /// Nothing is wrong with it.
    pub right: bool,
}

/// Where a pond stands against a wall.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WallContact {
    /// The mass.
    pub mass: String,
    /// The face.
    pub face: Face,
    /// Between these places from the face's left end, metres.
    pub from_m: f64,
    /// To.
    pub to_m: f64,
    /// Wall that stands in water, metres.
    pub length_m: f64,
    /// The deepest at it, metres.
    pub depth_m: f64,
    /// From the water to the lower edge of the cladding, metres; below 0 the cladding stands in water.
    pub clearance_m: Option<f64>,
}

/// Where water stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pond {
    /// A, B … from the largest.
    pub id: String,
    /// "rear of the main, left end".
    pub place: String,
    /// The face it lies at.
    pub face: Face,
    /// The level at which it runs over, above the floor, metres; none when it never does.
    pub brim_m: Option<f64>,
    /// Its depth then.
    pub depth_m: f64,
    /// What it holds then, m³.
    pub volume_m3: f64,
    /// Its area then, m².
    pub area_m2: f64,
    /// Ground that drains into it, m², its own with it.
    pub catchment_m2: f64,
    /// Where it stands against walls.
    pub walls: Vec<WallContact>,
    /// Where it runs over, or that it does not.
    pub way_out: String,
    /// Brim-full it is gone after so many hours; none when nothing seeps away.
    pub empties_h: Option<f64>,
    /// The deepest place, in the building's frame.
    pub deepest_at: [f64; 2],
}

/// Something nearby, judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NearbyAccount {
    /// Its name.
    pub id: String,
    /// What it is.
    pub kind: NearbyKind,
    /// East and north.
    pub north: [f64; 2],
    /// It concerns what lies within this distance, metres.
    pub reach_m: f64,
    /// From it to the nearest wall, metres.
    pub from_wall_m: f64,
    /// It is as far as the practice asks.
    pub right: bool,
    /// Judged, with its school.
    pub sentence: String,
}

/// The ground, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundAccount {
    /// The readings.
    pub readings: Vec<SpotHeight>,
    /// The level book; none while there is none, or when it cannot be reduced.
    pub book: Option<LevelBook>,
    /// The book in a sentence.
    pub book_says: String,
    /// The transects.
    pub transects: Vec<GroundTransect>,
    /// The faces that have any.
    pub faces: Vec<GroundFace>,
    /// Where water would stand.
    pub ponds: Vec<Pond>,
    /// Ground whose height is known, m².
    pub known_m2: f64,
    /// What stands and runs nearby.
    pub nearby: Vec<NearbyAccount>,
    /// What should be looked at again.
    pub doubts: Vec<String>,
}

/// The account with the surface it was read from.
#[derive(Debug, Clone)]
pub struct Survey {
    /// On the page.
    pub account: GroundAccount,
    /// The surface; none while there are too few readings.
    pub surface: Option<Surfaced>,
    pub(crate) place: Placing,
}

/// The surface with what lies on it.
#[derive(Debug, Clone)]
pub struct Surfaced {
    /// The ground.
    pub grid: Grid,
    /// Brim-full.
    pub water: Flooded,
    /// By cell: nothing seeps through it.
    pub paved: Vec<bool>,
    /// By cell: beyond the lot line.
    pub neighbour: Vec<bool>,
    /// By cell: under the roof, no rain falls on it.
    pub roofed: Vec<bool>,
    /// Hollows worth a name, by the number of the hollow: the pond of the account.
    pub named: BTreeMap<u32, usize>,
}

/// Where the building stands.
#[derive(Debug, Clone)]
pub(crate) struct Placing {
    pub(crate) ids: Vec<String>,
    pub(crate) names: Vec<String>,
    pub(crate) standing: Vec<Standing>,
    pub(crate) front: Option<crate::site::Bearing>,
}

impl Placing {
    fn mass(&self, id: &str) -> Option<usize> {
        if id.is_empty() { (!self.ids.is_empty()).then_some(0) } else { self.ids.iter().position(|i| i == id) }
    }

    /// In the building's frame.
    pub(crate) fn point(&self, at: &Spotted) -> Result<[f64; 2], String> {
        let (along, out) = (signed("The place along", &at.along)?, signed("The distance out", &at.out)?);
        let Some(face) = at.face else { return Ok([along, out]) };
        let k = self.mass(&at.mass).ok_or("There is no such mass on the roof. Type coordinates, or measure the building first.")?;
        Ok(self.standing[k].point(face, along, -out))
    }

    /// The side of the building that lies nearest: mass, face, place from its left end, distance.
    pub(crate) fn nearest_side(&self, p: [f64; 2]) -> Option<(usize, Face, f64, f64)> {
        let sides = self.standing.iter().enumerate().flat_map(|(k, s)| {
            Face::ALL.map(|f| {
                let (a, b) = (s.point(f, 0.0, 0.0), s.point(f, s.side(f), 0.0));
                let q = crate::plane::nearest(p, a, b);
                (k, f, crate::plane::length(a, q), crate::plane::length(p, q))
            })
        });
        // A wall that another mass hides cannot be near to anything outside.
        let shown = sides.filter(|(k, f, x, _)| {
            let out = self.standing[*k].point(*f, *x, -0.02);
            !self.standing.iter().any(|s| out[0] > s.x && out[0] < s.x + s.length && out[1] > s.y && out[1] < s.y + s.depth)
        });
        shown.min_by(|a, b| a.3.total_cmp(&b.3))
    }

    /// "rear of the main, left end".
    pub(crate) fn words(&self, k: usize, face: Face, x: f64) -> String {
        let part = x / self.standing[k].side(face);
        let end = if part < 1.0 / 3.0 {
            "left end"
        } else if part > 2.0 / 3.0 {
            "right end"
        } else {
            "middle"
        };
        format!("{} of the {}, {end}", face.name().to_lowercase(), self.names[k])
    }

    fn inside(&self, p: [f64; 2]) -> Option<usize> {
        /// A reading on the wall line is outside.
        const WALL_M: f64 = 0.02;
        let within =
            |s: &Standing| p[0] > s.x + WALL_M && p[0] < s.x + s.length - WALL_M && p[1] > s.y + WALL_M && p[1] < s.y + s.depth - WALL_M;
        self.standing.iter().position(within)
    }

    fn outlines(&self) -> Vec<Vec<[f64; 2]>> {
        let ring = |s: &Standing| vec![[s.x, s.y], [s.x + s.length, s.y], [s.x + s.length, s.y + s.depth], [s.x, s.y + s.depth]];
        self.standing.iter().map(ring).collect()
    }

    /// From east and north into the building's frame.
    pub(crate) fn to_building(&self, p: [f64; 2]) -> [f64; 2] {
        let (s, c) = crate::roof::record::turn_of(self.front).to_radians().sin_cos();
        [p[0] * c + p[1] * s, -p[0] * s + p[1] * c]
    }
}

impl Survey {
    /// A point of the building's frame, east and north.
    pub fn north(&self, p: [f64; 2]) -> [f64; 2] {
        to_north(p, self.place.front)
    }
    /// A point east and north, in the building's frame.
    pub fn building(&self, p: [f64; 2]) -> [f64; 2] {
        self.place.to_building(p)
    }
    /// Outlines of the masses, east and north.
    pub fn outlines(&self) -> Vec<Vec<[f64; 2]>> {
        self.place.outlines().into_iter().map(|r| r.into_iter().map(|p| self.north(p)).collect()).collect()
    }
}

/// A pond shallower than this is wet ground, metres.
const POND_M: f64 = 0.005;
/// A pond that holds less is a puddle, m³.
const PUDDLE_M3: f64 = 0.005;
/// A reading this near to the wall is the ground at the wall, metres.
const AT_WALL_M: f64 = 0.2;

/// Works the ground out.
pub fn survey(i: &GroundInput) -> Survey {
    let mut doubts = Vec::new();
    let placed = i.roof.placed(i.brief.front_faces).ok();
    let place = Placing {
        ids: i.roof.masses.iter().map(|m| m.id.clone()).collect(),
        names: i.roof.masses.iter().map(|m| if m.name.is_empty() { m.id.clone() } else { m.name.clone() }).collect(),
        standing: placed.map(|p| p.standing).unwrap_or_default(),
        front: i.brief.front_faces,
    };
    if i.roof.masses.iter().any(|m| m.turned_deg != 0.0) {
        doubts.push(
            "A mass that is turned stands on the ground as if it were not: readings beside it are placed by its unturned faces.".into(),
        );
    }
    let (book, book_says) = book_of(&i.ground);
    let readings = readings(i, &place, book.as_ref(), &mut doubts);
    let transects = transects(i, &place, &readings);
    let (surface, ponds) = match surfaced(i, &place, &readings, &mut doubts) {
        Some((s, p)) => (Some(s), p),
        None => (None, vec![]),
    };
    let faces = faces(&transects, &ponds, &place);
    let known_m2 = surface.as_ref().map_or(0.0, |s| s.grid.cells.iter().filter(|c| **c == Cell::Ground).count() as f64 * s.grid.cell_m2());
    let nearby = nearby(i, &place, &mut doubts);
    Survey { account: GroundAccount { readings, book, book_says, transects, faces, ponds, known_m2, nearby, doubts }, surface, place }
}

fn book_of(g: &Ground) -> (Option<LevelBook>, String) {
    if g.book.lines.is_empty() {
        return (None, String::new());
    }
    let reduced = g.book.input().map_err(|(k, m)| format!("Line {k}: {m}")).and_then(|i| level(&i).map_err(|e| e.to_string()));
    match reduced {
        Err(e) => (None, e),
        Ok(b) => {
            let says = match (b.closure_error_m, b.within_tolerance) {
                (Some(e), Some(true)) => format!(
                    "The book closes within {:.1} mm over {} set-ups; {:.1} mm are allowed. Shared out by set-ups.",
                    e.abs() * 1000.0,
                    b.setups,
                    b.tolerance_m * 1000.0
                ),
                (Some(e), _) => format!(
                    "The book misses its start by {:.1} mm over {} set-ups; {:.1} mm are allowed. Read it again before it is believed.",
                    e.abs() * 1000.0,
                    b.setups,
                    b.tolerance_m * 1000.0
                ),
                _ => "The book does not return to where it began: what it misses by is not known.".to_owned(),
            };
            (Some(b), says)
        }
    }
}

fn readings(i: &GroundInput, place: &Placing, book: Option<&LevelBook>, doubts: &mut Vec<String>) -> Vec<SpotHeight> {
    let mut out: Vec<SpotHeight> = Vec::new();
    for s in &i.ground.spots {
        let z = if s.height.trim().is_empty() {
            let booked = book.and_then(|b| b.points.iter().rev().find(|p| p.point == s.id)).map(|p| p.adjusted_by_setup_m);
            let Some(z) = booked else {
                doubts.push(format!("{} has no height: the level book does not give it one.", s.id));
                continue;
            };
            z
        } else {
            match signed("The height", &s.height) {
                Ok(z) => z,
                Err(e) => {
                    doubts.push(format!("{}: {e}", s.id));
                    continue;
                }
            }
        };
        let at = match place.point(&s.at) {
            Ok(p) => p,
            Err(e) => {
                doubts.push(format!("{}: {e}", s.id));
                continue;
            }
        };
        if let Some(k) = place.inside(at) {
            doubts.push(format!("{} lies inside the {}. It is left out; check its place.", s.id, place.names[k]));
            continue;
        }
        out.push(SpotHeight { id: s.id.clone(), at, north: to_north(at, place.front), z_m: z, top: s.top, how: s.how });
    }
    // Feet among metres: a reading a metre and more off all its neighbours.
    let mut heights: Vec<f64> = out.iter().map(|r| r.z_m).collect();
    heights.sort_by(f64::total_cmp);
    if heights.len() >= 5 {
        let middle = heights[heights.len() / 2];
        let mut off: Vec<f64> = heights.iter().map(|h| (h - middle).abs()).collect();
        off.sort_by(f64::total_cmp);
        let usual = off[off.len() / 2].max(0.1);
        for r in out.iter().filter(|r| (r.z_m - middle).abs() > 12.0 * usual) {
            doubts.push(format!("{} is {:.2} m from the others. Was it read in another unit?", r.id, (r.z_m - middle).abs()));
        }
    }
    out
}

fn transects(i: &GroundInput, place: &Placing, readings: &[SpotHeight]) -> Vec<GroundTransect> {
    // By mass, face and station to the centimetre.
    type Line<'a> = Vec<(f64, &'a SpotHeight)>;
    let mut lines: BTreeMap<(usize, Face, i64), Line<'_>> = BTreeMap::new();
    for s in i.ground.spots.iter() {
        let Some(r) = readings.iter().find(|r| r.id == s.id) else { continue };
        let (Some(face), Some(k)) = (s.at.face, place.mass(&s.at.mass)) else { continue };
        let (Ok(along), Ok(out)) = (signed("", &s.at.along), signed("", &s.at.out)) else { continue };
        lines.entry((k, face, (along * 100.0).round() as i64)).or_default().push((out, r));
    }
    let mut out = Vec::new();
    for ((k, face, station), mut points) in lines {
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|a, b| (a.0 - b.0).abs() < 1e-3);
        if points.len() < 2 || points[0].0 > AT_WALL_M {
            continue;
        }
        out.push(one_transect(i, place, k, face, station as f64 / 100.0, &points));
    }
    out
}

fn cladding_line(i: &GroundInput, place: &Placing, k: usize, face: Face) -> Option<f64> {
    let line = i.ground.cladding.iter().find(|c| c.face == face && place.mass(&c.mass) == Some(k))?;
    signed("", &line.bottom).ok()
}

/// What the cladding of a mass must stand clear of the ground by, and which cladding it is.
fn clearance_asked(i: &GroundInput, place: &Placing, k: usize, paved: bool) -> (f64, String) {
    let rule = i.practice.rule("cladding-clearance");
    let name = place.names[k].to_lowercase();
    let walls = &i.brief.walls;
    let material = walls.iter().find(|w| w.part.to_lowercase().contains(&name)).or(walls.first()).map(|w| w.material.to_lowercase());
    let kind = material.as_deref().and_then(kind_of);
    let by_kind = kind.and_then(|(_, figures)| rule.named(figures[usize::from(paved && figures.len() > 1)]));
    // While nobody said what the wall is, wood's figure is the cautious one.
    let usual = rule.named(if paved { "wood_paving_m" } else { "wood_soil_m" }).unwrap_or(0.15);
    (rule.own.or(by_kind).unwrap_or(usual), kind.map_or("a cladding nobody named yet".into(), |(n, _)| n.to_owned()))
}

fn one_transect(i: &GroundInput, place: &Placing, k: usize, face: Face, station_m: f64, points: &[(f64, &SpotHeight)]) -> GroundTransect {
    let paved: Vec<bool> = points.iter().map(|p| p.1.top == Top::Paving).collect();
    let hard = paved.iter().take_while(|p| **p).count();
    // Paving ends half way to the first reading on soil.
    let hard_width = match hard {
        0 => 0.0,
        n if n == points.len() => points[n - 1].0.max(99.0),
        n => (points[n - 1].0 + points[n].0) / 2.0,
    };
    let wall = points[0].1.z_m;
    let cladding_m = cladding_line(i, place, k, face);
    let (asked, kind) = clearance_asked(i, place, k, paved[0]);
    /// Room enough that the cladding stands in nobody's way while it was not measured.
    const NOT_MEASURED_M: f64 = 1.0;
    let (soil, paving) = (i.practice.rule("soil-fall"), i.practice.rule("hard-fall"));
    let input = TransectInput {
        wall_side_elevation_m: wall,
        points: points[1..].iter().map(|(d, r)| Outward { distance_m: *d, elevation_m: r.z_m }).collect(),
        cladding_clearance_m: cladding_m.map_or(NOT_MEASURED_M, |c| c - wall),
        clearance_required_m: asked,
        hard_width_from_wall_m: hard_width,
        slope_soft: soil.figure(),
        slope_hard: paving.figure(),
        reach_m: soil.named("over_m").unwrap_or(3.048),
    };
    let mut out = GroundTransect {
        mass: place.ids[k].clone(),
        face,
        station_m,
        cladding_m,
        result: None,
        sentence: String::new(),
        right: false,
        remedies: vec![],
        input,
    };
    match transect(&out.input) {
        Err(e) => out.sentence = e,
        Ok(t) => {
            let school = if hard_width > 0.0 { paving.words() } else { soil.words() };
            let falls = if t.fall_found_m >= 0.0 { "falls away" } else { "falls to the wall" };
            let mut s = format!(
                "{} {:.1} m from the left end: the ground {falls} {:.1} % over {:.2} m",
                place.words(k, face, station_m).split(',').next().map(crate::roof::access::capital).unwrap_or_default(),
                station_m,
                t.slope_found.abs() * 100.0,
                t.reach_used_m
            );
            if t.deficit_m > 5e-4 {
                s.push_str(&format!(
                    "; {:.0} mm are asked ({school}), {:.0} are missing",
                    t.required_fall_m * 1000.0,
                    t.deficit_m * 1000.0
                ));
            } else {
                s.push_str(&format!(", as asked ({school})"));
            }
            match cladding_m {
                Some(_) if t.clearance_already_short => s.push_str(&format!(
                    "; {kind} stands {:.0} mm over the ground and should stand {:.0}",
                    out.input.cladding_clearance_m * 1000.0,
                    asked * 1000.0
                )),
                Some(_) => {}
                None => s.push_str("; the lower edge of the cladding was not measured"),
            }
            s.push('.');
            out.sentence = s;
            out.right = t.deficit_m <= 5e-4 && !t.clearance_already_short;
            out.remedies = remedies(&out.input, &t, i);
            out.result = Some(t);
        }
    }
    out
}

/// Fill, swale, drain and lowering with their figures, each possible or not and why.
fn remedies(i: &TransectInput, t: &Transect, g: &GroundInput) -> Vec<GroundRemedy> {
    if t.deficit_m <= 5e-4 {
        return vec![];
    }
    let mm = |m: f64| format!("{:.0} mm", m * 1000.0);
    // Water led away must end lower than it began: the lowest reading there is.
    let lowest = g.ground.spots.iter().filter_map(|s| signed("", &s.height).ok()).fold(f64::MAX, f64::min);
    let remedy = |kind: &str, possible: bool, digs: bool, sentence: String| GroundRemedy { kind: kind.into(), possible, sentence, digs };
    let mut out = Vec::new();
    let fill = if t.feasible {
        format!(
            "Raise the ground {} at the wall, to nothing at {:.2} m: {:.2} m³ for each metre of wall.",
            mm(t.fill_at_wall_m),
            t.reach_used_m,
            t.fill_volume_m3_per_m
        )
    } else if t.fill_at_wall_m > 0.0 {
        format!("Raising alone does not do it: the cladding allows {} of the {} that are missing.", mm(t.fill_at_wall_m), mm(t.deficit_m))
    } else {
        format!(
            "The ground cannot be raised: the cladding stands {} over it and needs {}.",
            mm(i.cladding_clearance_m),
            mm(i.clearance_required_m)
        )
    };
    out.push(remedy("fill", t.feasible, false, fill));
    if t.feasible {
        return out;
    }
    // A swale two thirds of the way out, with the fall that is asked down to its bottom.
    let away = t.reach_used_m * 2.0 / 3.0;
    let mut profile = vec![Outward { distance_m: 0.0, elevation_m: i.wall_side_elevation_m }];
    profile.extend(&i.points);
    let slope = t.required_fall_m / t.reach_used_m;
    let invert = t.wall_side_elevation_after_m - slope * away;
    let depth = super::transect::height(&profile, away) - invert;
    /// Deeper than this it is a ditch that wants a rail, metres.
    const DEEPEST_SWALE_M: f64 = 0.45;
    let drains = lowest < invert - 0.01;
    let why = if depth > DEEPEST_SWALE_M {
        ", too deep beside a wall"
    } else if drains {
        ""
    } else {
        "; no reading lies lower, so its way out is not known"
    };
    out.push(remedy(
        "swale",
        depth <= DEEPEST_SWALE_M && drains,
        true,
        format!("A swale {away:.1} m out with its bottom {} below the ground there{why}.", mm(depth.max(0.0))),
    ));
    /// Of the channel, its grate and its bed, metres.
    const CHANNEL_M: f64 = 0.12;
    let channel = i.wall_side_elevation_m - CHANNEL_M;
    let drains = lowest < channel - 0.01;
    let ends = if drains {
        "led to ground that lies lower".to_owned()
    } else {
        "but no reading lies lower than its bottom: it would need a pump or a drain of the street".to_owned()
    };
    out.push(remedy("drain", drains, true, format!("A channel drain at the foot of the wall, {} deep, {ends}.", mm(CHANNEL_M))));
    let drains = lowest < t.elevation_at_reach_m - t.remaining_deficit_m - 0.01;
    let volume = t.remaining_deficit_m * t.reach_used_m / 2.0;
    let way = if drains { "" } else { "; no reading lies lower, so its way out is not known" };
    out.push(remedy(
        "lower",
        drains,
        true,
        format!(
            "Lower the ground by {} at {:.2} m, to nothing at the wall: {volume:.2} m³ to take away for each metre{way}.",
            mm(t.remaining_deficit_m),
            t.reach_used_m
        ),
    ));
    out
}

fn faces(transects: &[GroundTransect], ponds: &[Pond], place: &Placing) -> Vec<GroundFace> {
    let mut keys: Vec<(String, Face)> = transects.iter().map(|t| (t.mass.clone(), t.face)).collect();
    keys.dedup();
    keys.into_iter()
        .map(|(mass, face)| {
            let of: Vec<&GroundTransect> = transects.iter().filter(|t| t.mass == mass && t.face == face).collect();
            let area = |t: &GroundTransect| t.result.as_ref().map_or(0.0, |r| r.fill_volume_m3_per_m);
            let fill_m3 =
                (of.len() > 1).then(|| of.windows(2).map(|w| (area(w[0]) + area(w[1])) / 2.0 * (w[1].station_m - w[0].station_m)).sum());
            let wrong = of.iter().filter(|t| !t.right).count();
            let wet: Vec<&Pond> = ponds.iter().filter(|p| p.walls.iter().any(|w| w.mass == mass && w.face == face)).collect();
            let name = place.mass(&mass).map_or(String::new(), |k| place.names[k].clone());
            let falls = of.iter().filter_map(|t| t.result.as_ref()).map(|r| r.slope_found * 100.0);
            let (low, high) = falls.fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
            let percent = if (high - low).abs() < 0.05 { format!("{low:.1} %") } else { format!("{low:.1} to {high:.1} %") };
            let stations = if of.len() == 1 { "one station".to_owned() } else { format!("{} stations", of.len()) };
            let mut sentence = format!("{} of the {name}: ", face.name());
            if wrong == 0 && wet.is_empty() {
                sentence.push_str(&format!("the ground falls away {percent} at {stations}, and no water stands against it. Clean."));
            } else {
                if wrong > 0 {
                    sentence.push_str(&format!("{wrong} of {stations} fall short ({percent}). "));
                }
                for p in &wet {
                    sentence.push_str(&format!("Pond {} stands against it. ", p.id));
                }
                if let Some(v) = fill_m3.filter(|v| *v > 0.005) {
                    sentence.push_str(&format!("{v:.2} m³ of soil between the first and the last station would help."));
                }
            }
            GroundFace { mass, face, fill_m3, sentence: sentence.trim_end().to_owned(), right: wrong == 0 && wet.is_empty() }
        })
        .collect()
}

fn surfaced(i: &GroundInput, place: &Placing, readings: &[SpotHeight], doubts: &mut Vec<String>) -> Option<(Surfaced, Vec<Pond>)> {
    if readings.len() < 3 {
        return None;
    }
    let (low, high) = readings
        .iter()
        .fold(([f64::MAX; 2], [f64::MIN; 2]), |(l, h), r| ([l[0].min(r.at[0]), l[1].min(r.at[1])], [h[0].max(r.at[0]), h[1].max(r.at[1])]));
    let cell = i.ground.cell_m();
    // A margin of cells nobody read: where a wall stands on the border of the readings, it is the wall that is met there.
    const MARGIN: f64 = 2.0;
    let (low, high) = (low.map(|v| v - MARGIN * cell), high.map(|v| v + MARGIN * cell));
    let count = |k: usize| (((high[k] - low[k]) / cell).ceil() as usize).max(1);
    let layout = Lay { origin: low, nx: count(0), ny: count(1), cell, footprints: place.outlines() };
    let spots: Vec<[f64; 3]> = readings.iter().map(|r| [r.at[0], r.at[1], r.z_m]).collect();
    let index = |id: &str| readings.iter().position(|r| r.id == id);
    let mut breaks = Vec::new();
    for l in &i.ground.lines {
        let ends: Vec<usize> = l.spots.iter().filter_map(|s| index(s)).collect();
        breaks.extend(ends.windows(2).map(|w| [w[0], w[1]]));
    }
    let (grid, crossed) = match lay(&spots, &breaks, layout) {
        Ok(g) => g,
        Err(e) => {
            doubts.push(e.to_string());
            return None;
        }
    };
    if crossed > 0 {
        doubts.push(format!("{crossed} pieces of lines cross others and are left out."));
    }
    let water = flood(&grid);
    let paved = nearest_tops(&grid, readings);
    let lot: Vec<[[f64; 2]; 2]> = i
        .ground
        .lines
        .iter()
        .filter(|l| l.kind == LineKind::LotLine)
        .flat_map(|l| {
            let at: Vec<[f64; 2]> = l.spots.iter().filter_map(|s| index(s)).map(|k| readings[k].at).collect();
            at.windows(2).map(|w| [w[0], w[1]]).collect::<Vec<_>>()
        })
        .collect();
    let neighbour = (0..grid.cells.len())
        .map(|k| {
            let p = grid.lay.middle(k);
            let home = place.nearest_side(p).map(|(m, f, x, _)| place.standing[m].point(f, x, 0.0));
            home.is_some_and(|h| lot.iter().any(|l| crosses(p, h, l[0], l[1])))
        })
        .collect();
    let roofed = roofed(i, place, &grid);
    let mut s = Surfaced { grid, water, paved, neighbour, roofed, named: BTreeMap::new() };
    let ponds = ponds(i, place, &mut s);
    Some((s, ponds))
}

/// Whether two pieces of lines cross.
fn crosses(a: [f64; 2], b: [f64; 2], c: [f64; 2], d: [f64; 2]) -> bool {
    let side = |p: [f64; 2], q: [f64; 2], r: [f64; 2]| (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    side(a, b, c) * side(a, b, d) < 0.0 && side(c, d, a) * side(c, d, b) < 0.0
}

/// Each cell is what the reading nearest to it is, found by spreading from the readings.
fn nearest_tops(g: &Grid, readings: &[SpotHeight]) -> Vec<bool> {
    let mut top: Vec<Option<bool>> = vec![None; g.cells.len()];
    let mut queue = VecDeque::new();
    for r in readings {
        let near = [
            r.at[0].clamp(g.lay.origin[0], g.lay.origin[0] + (g.lay.nx as f64 - 0.5) * g.lay.cell),
            r.at[1].clamp(g.lay.origin[1], g.lay.origin[1] + (g.lay.ny as f64 - 0.5) * g.lay.cell),
        ];
        if let Some(k) = g.lay.cell_at(near) {
            top[k] = Some(r.top == Top::Paving);
            queue.push_back(k);
        }
    }
    while let Some(k) = queue.pop_front() {
        for (o, _) in g.lay.around(k) {
            if top[o].is_none() && g.cells[o] != Cell::Wall {
                top[o] = top[k];
                queue.push_back(o);
            }
        }
    }
    top.into_iter().map(|t| t.unwrap_or(false)).collect()
}

fn roofed(i: &GroundInput, place: &Placing, g: &Grid) -> Vec<bool> {
    use crate::roof::shape::{RoofInput, shape};
    let shape = i.roof.placed(i.brief.front_faces).ok().and_then(|p| shape(&RoofInput { masses: p.masses }).ok());
    let Some(s) = shape else { return vec![false; g.cells.len()] };
    let at = |k: usize| to_north(g.lay.middle(k), place.front);
    (0..g.cells.len()).map(|k| g.cells[k] == Cell::Ground && crate::rain::runoff::facet_at(&s, at(k)).is_some()).collect()
}

/// The walls a pond stands against at a level.
pub(crate) fn contacts(i: &GroundInput, place: &Placing, s: &Surfaced, hollow: usize, level: f64) -> Vec<WallContact> {
    let mut found: BTreeMap<(usize, Face), (f64, f64, usize, f64)> = BTreeMap::new();
    for k in s.water.ponds[hollow].cells.iter().map(|k| *k as usize) {
        let depth = level - s.grid.z[k];
        if depth <= 1e-4 || !s.grid.at_wall(k) {
            continue;
        }
        let Some((m, f, x, _)) = place.nearest_side(s.grid.lay.middle(k)) else { continue };
        let e = found.entry((m, f)).or_insert((x, x, 0, 0.0));
        *e = (e.0.min(x), e.1.max(x), e.2 + 1, e.3.max(depth));
    }
    found
        .into_iter()
        .map(|((m, face), (from_m, to_m, n, depth_m))| WallContact {
            mass: place.ids[m].clone(),
            face,
            from_m,
            to_m,
            length_m: n as f64 * s.grid.lay.cell,
            depth_m,
            clearance_m: cladding_line(i, place, m, face).map(|c| c - level),
        })
        .collect()
}

fn ponds(i: &GroundInput, place: &Placing, s: &mut Surfaced) -> Vec<Pond> {
    let through = s.water.accumulation(&s.grid);
    let mut order: Vec<(usize, f64)> = (0..s.water.ponds.len())
        .map(|k| {
            let p = &s.water.ponds[k];
            (k, if p.brim.is_finite() { p.volume(&s.grid, p.brim) } else { f64::MAX })
        })
        .filter(|(k, v)| {
            let p = &s.water.ponds[*k];
            *v > PUDDLE_M3 && p.brim - s.grid.z[p.cells[0] as usize] > POND_M
        })
        .collect();
    order.sort_by(|a, b| b.1.total_cmp(&a.1));
    let mut out = Vec::new();
    for (n, (k, _)) in order.into_iter().enumerate() {
        let hollow = &s.water.ponds[k];
        let deepest = hollow.cells[0] as usize;
        let at = s.grid.lay.middle(deepest);
        let closed = !hollow.brim.is_finite();
        // Closed in by walls it fills until something gives; one brick course is looked at.
        let level = if closed { s.grid.z[deepest] + 0.1 } else { hollow.brim };
        let volume = hollow.volume(&s.grid, level);
        let area = hollow.cells.iter().filter(|c| s.grid.z[**c as usize] < level).count() as f64 * s.grid.cell_m2();
        let seeps: f64 = hollow.cells.iter().filter(|c| !s.paved[**c as usize]).count() as f64 * s.grid.cell_m2();
        let rate = seeps * i.ground.loss_mm_h() / 1000.0;
        let catchment = if closed {
            hollow.cells.len() as f64 * s.grid.cell_m2()
        } else {
            // All that runs over its brim came into it.
            let leaves = |c: &&u32| s.water.pond[s.water.next[**c as usize] as usize] != k as u32;
            hollow.cells.iter().filter(leaves).map(|c| through[*c as usize]).sum()
        };
        let walls = contacts(i, place, s, k, level);
        let side = walls
            .iter()
            .max_by(|a, b| a.length_m.total_cmp(&b.length_m))
            .and_then(|w| place.mass(&w.mass).map(|m| (m, w.face, (w.from_m + w.to_m) / 2.0)));
        let side = side.or_else(|| place.nearest_side(at).map(|(m, f, x, _)| (m, f, x)));
        let (words, face) = side.map_or(("the open ground".to_owned(), Face::Front), |(m, f, x)| (place.words(m, f, x), f));
        let way_out = if closed || hollow.spills_at == DRY {
            "It has no way out.".to_owned()
        } else {
            let p = s.grid.lay.middle(hollow.spills_at as usize);
            let beside = place.nearest_side(p).map_or(String::new(), |(m, f, x, d)| format!(" {d:.1} m off the {}", place.words(m, f, x)));
            format!("It runs over{beside}.")
        };
        let id = char::from(b'A' + (n % 26) as u8).to_string();
        out.push(Pond {
            id,
            place: words,
            face,
            brim_m: (!closed).then_some(level),
            depth_m: level - s.grid.z[deepest],
            volume_m3: volume,
            area_m2: area,
            catchment_m2: catchment,
            walls,
            way_out,
            empties_h: (rate > 0.0).then(|| volume / rate),
            deepest_at: at,
        });
        s.named.insert(k as u32, n);
        /// More ponds than this are a field.
        const MOST_PONDS: usize = 26;
        if out.len() == MOST_PONDS {
            break;
        }
    }
    out
}

/// Things nearby that were told on the round with their distance from the wall; at the middle of the face when nobody said
/// where along it.
fn told(i: &GroundInput, place: &Placing) -> Vec<NearbyAccount> {
    const TOLD: [(&str, NearbyKind); 4] = [
        ("tree-near-foundation", NearbyKind::Trunk),
        ("spray-head-close", NearbyKind::SprayHead),
        ("spray-wets-wall", NearbyKind::SprayHead),
        ("retaining-wall-wet-bowed", NearbyKind::RetainingWall),
    ];
    let one = |n: &Note| -> Option<NearbyAccount> {
        let kind = TOLD.iter().find(|t| n.condition.as_deref() == Some(t.0))?.1;
        let judged = judge_note(n, &i.brief, &i.practice)?;
        let away = n.measures.iter().find(|m| m.quantity == Quantity::Length)?.si;
        let (s, face) = (place.standing.first()?, n.place.face?);
        let at = s.point(face, n.place.from_left_m.unwrap_or(s.side(face) / 2.0), -away);
        let reach_m = match kind {
            NearbyKind::Trunk => i.practice.rule("tree-setback").figure(),
            NearbyKind::SprayHead => i.practice.rule("sprinkler-setback").figure(),
            _ => away,
        };
        let along = if n.place.from_left_m.is_none() { ", somewhere along the face" } else { "" };
        Some(NearbyAccount {
            id: format!("round {}", n.place.station.as_deref().unwrap_or(&n.text)),
            kind,
            north: to_north(at, place.front),
            reach_m,
            from_wall_m: away,
            right: judged.verdict == Verdict::Meets,
            sentence: format!("Told on the round, {} face{along}: {}.", face.name().to_lowercase(), judged.sum),
        })
    };
    i.notes.iter().filter_map(one).collect()
}

fn nearby(i: &GroundInput, place: &Placing, doubts: &mut Vec<String>) -> Vec<NearbyAccount> {
    let mut out = told(i, place);
    for n in &i.ground.nearby {
        let at = match place.point(&n.at) {
            Ok(p) => p,
            Err(e) => {
                doubts.push(format!("{}: {e}", n.id));
                continue;
            }
        };
        let far = place.nearest_side(at).map_or(f64::INFINITY, |s| s.3);
        let height = metres("", &n.height).ok();
        let (what, key, reach) = match n.kind {
            NearbyKind::Trunk => {
                let rule = i.practice.rule("tree-setback");
                let share = rule.named("share_of_height").filter(|_| rule.own.is_none()).unwrap_or(0.0);
                ("trunk", "tree-setback", rule.figure().max(share * height.unwrap_or(0.0)))
            }
            NearbyKind::SprayHead => ("spray head", "sprinkler-setback", i.practice.rule("sprinkler-setback").figure()),
            NearbyKind::RetainingWall => {
                ("retaining wall", "retaining-influence", i.practice.rule("retaining-influence").figure() * height.unwrap_or(0.0))
            }
            NearbyKind::Drain => ("drain", "", 0.0),
        };
        let right = far >= reach;
        let sentence = if key.is_empty() {
            format!(
                "{} {}: drain {far:.1} m from the wall; water that comes to it is taken away.",
                n.id,
                place.nearest_side(at).map_or(String::new(), |(m, f, x, _)| place.words(m, f, x))
            )
        } else {
            let rule = i.practice.rule(key);
            let verdict = if right { "far enough".to_owned() } else { format!("nearer than {reach:.2} m") };
            let refer =
                if n.kind == NearbyKind::RetainingWall && !right { "; it can affect the foundation: an engineer should look" } else { "" };
            format!("{}: {what} {far:.2} m from the wall, {verdict} ({}){refer}.", n.id, rule.words())
        };
        out.push(NearbyAccount {
            id: n.id.clone(),
            kind: n.kind,
            north: to_north(at, place.front),
            reach_m: reach,
            from_wall_m: if far.is_finite() { far } else { 0.0 },
            right,
            sentence,
        });
    }
    out
}
