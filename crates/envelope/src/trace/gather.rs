//! Where water may come in, gathered from every bench, so that nothing is typed twice.

use super::form::{CandidateKind, SeenAs, Shows, TraceCandidate};
use super::record::{SpotKept, Trace};
use crate::finding::{WaterRole, catalogue};
use crate::ground::record::NearbyKind;
use crate::ground::survey::GroundAccount;
use crate::moisture::account::MoistureAccount;
use crate::moisture::surface::{Building, OnBuilding};
use crate::rain::account::RainAccount;
use crate::rain::record::{Ends, Rainwater};
use crate::roof::details::{Detail, DetailKind, DetailState};
use crate::roof::record::{metres, turn_of};
use crate::roof::shape::RoofShape;
use crate::round::{Certainty, Note, NoteKind};
use crate::site::{Bearing, Face, Place, Zone};
use crate::wall::account::WayIn;
use serde::{Deserialize, Serialize};

/// Where a candidate was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum FoundOn {
    /// A note of the round.
    Round,
    /// A detail the roof's shape asks for.
    Roof,
    /// A gutter or downspout.
    Rainwater,
    /// Standing water or a spray head.
    Ground,
    /// A lap of a wall.
    Walls,
    /// A rival that needs no rain; always there.
    Rival,
    /// Put on the list by hand.
    Hand,
}

/// A candidate with where it is from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Gathered {
    /// As it is weighed.
    pub candidate: TraceCandidate,
    /// Where it was found.
    pub found_on: FoundOn,
    /// Why it is on the list.
    pub why: String,
    /// Why it is struck; none while it stands.
    pub struck: Option<String>,
    /// What the benches say of it.
    pub state_found: SeenAs,
}

/// What the benches know.
pub(super) struct Benches<'a> {
    pub(super) building: &'a Building<'a>,
    pub(super) front: Option<Bearing>,
    pub(super) shape: Option<&'a RoofShape>,
    pub(super) details: &'a [Detail],
    pub(super) notes: &'a [(String, Note)],
    pub(super) ways_in: &'a [WayIn],
    pub(super) rainwater: &'a Rainwater,
    pub(super) rain: &'a RainAccount,
    pub(super) ground: &'a GroundAccount,
    pub(super) moisture: &'a MoistureAccount,
    pub(super) units: crate::measure::Units,
}

/// A spill that only comes in rain no town has had is none, mm/h.
const NEVER_MM_H: f64 = 400.0;
/// A downspout let go farther away leaves the wall alone, metres; nearer than the second it is surely at it.
const LET_GO_M: f64 = 1.8;
const AT_WALL_M: f64 = 0.6;
/// Spray farther from a wall does not reach it, metres.
const SPRAY_M: f64 = 4.0;
/// Before dawn, where nobody said when it runs.
const SPRAY_HOURS: [f64; 2] = [5.0, 6.0];
/// Rain that a hollow's own ground gives up before any stands, mm, and the share of its fill at which it counts.
const POND_LOSS_MM: f64 = 4.0;
const POND_SHARE: f64 = 0.3;
/// What stands or spills along a stretch is placed at a spot that is at least so near, metres.
const NEAR_M: f64 = 4.0;
/// Pieces of a stretch that differ by less of what they spill run over evenly, share.
const EVENLY: f64 = 1e-3;
/// Nobody knows where the pipe or the cold place is: it is put so far beside the spot, where it just reaches it, metres.
const RIVAL_ASIDE_M: f64 = 0.9;
const COLD_ASIDE_M: f64 = 0.35;
/// Up from a ceiling to what runs over it, metres.
const ABOVE_CEILING_M: f64 = 0.3;
/// Heights of the rings of the round where nothing is known better, metres.
const OPENING_M: f64 = 1.6;
const BASE_M: f64 = 0.2;
const UNDER_EAVE_M: f64 = 0.4;
/// Up the slope where a note only says "roof".
const UP_THE_SLOPE_M: f64 = 1.5;

impl Benches<'_> {
    /// From the plan with north up into the building's frame.
    fn own(&self, p: [f64; 2]) -> [f64; 2] {
        let (s, c) = turn_of(self.front).to_radians().sin_cos();
        [p[0] * c + p[1] * s, -p[0] * s + p[1] * c]
    }

    /// The nearest point over the rooms: what gets in beyond the walls runs off the eave.
    fn over_rooms(&self, p: [f64; 2]) -> [f64; 2] {
        let near = |m: &crate::moisture::surface::MassAt| m.standing.nearest(p);
        self.building
            .masses
            .iter()
            .map(near)
            .min_by(|a, b| crate::plane::length(*a, p).total_cmp(&crate::plane::length(*b, p)))
            .unwrap_or(p)
    }

    /// Where the wall looks that lies nearest to a point of the building's frame.
    fn nearest(&self, p: [f64; 2]) -> Option<f64> {
        let sides = self.building.masses.iter().flat_map(|m| {
            Face::ALL.map(|f| {
                let (a, b) = (m.standing.point(f, 0.0, 0.0), m.standing.point(f, m.standing.side(f), 0.0));
                let middle = [f64::midpoint(a[0], b[0]), f64::midpoint(a[1], b[1])];
                let away = m.standing.point(f, m.standing.side(f) / 2.0, -0.1);
                let hidden = self.building.inside(away) && self.building.masses.len() > 1 && crate::plane::length(middle, p) > 0.1;
                (self.building.faces_of(m, f), crate::plane::length(p, crate::plane::nearest(p, a, b)) + f64::from(hidden) * 0.5)
            })
        });
        sides.min_by(|a, b| a.1.total_cmp(&b.1)).map(|nearest| nearest.0)
    }

    /// Where a place of the round is: its face and how high its ring lies.
    fn ring(&self, place: &Place) -> Option<OnBuilding> {
        let (face, b) = (place.face?, self.building);
        // The part that reaches farthest out on this face, as a person stands before it.
        let m = b.masses.iter().max_by(|a, c| {
            let out = |m: &crate::moisture::surface::MassAt| {
                let p = m.standing.point(face, 0.0, 0.0);
                match face {
                    Face::Front => -p[1],
                    Face::Rear => p[1],
                    Face::Left => -p[0],
                    Face::Right => p[0],
                }
            };
            m_long(a, face).total_cmp(&m_long(c, face)).then(out(a).total_cmp(&out(c)))
        })?;
        let along = place.from_left_m.unwrap_or(m.standing.side(face) / 2.0).clamp(0.0, m.standing.side(face));
        let (inward, z) = match place.zone {
            Zone::Roof => (UP_THE_SLOPE_M, m.eave_m + m.pitch * UP_THE_SLOPE_M),
            Zone::Edge => (0.0, m.eave_m),
            Zone::UpperWall => (0.0, m.eave_m - UNDER_EAVE_M),
            Zone::Openings => (0.0, OPENING_M),
            Zone::Base => (0.0, BASE_M),
            Zone::Ground => (0.0, 0.0),
            Zone::Inside => return None,
        };
        let p = m.standing.point(face, along, inward);
        let roof = matches!(place.zone, Zone::Roof | Zone::Edge);
        Some(OnBuilding {
            x_m: p[0],
            y_m: p[1],
            z_m: z,
            faces_deg: (!roof).then(|| b.faces_of(m, face)),
            downslope_deg: roof.then(|| b.faces_of(m, face)),
        })
    }
}

/// How far the nearest spot is from a point.
fn away(p: [f64; 2], spots: &[(SpotKept, OnBuilding)]) -> f64 {
    spots.iter().map(|(_, on)| (on.x_m - p[0]).hypot(on.y_m - p[1])).fold(f64::INFINITY, f64::min)
}

fn m_long(m: &crate::moisture::surface::MassAt, face: Face) -> f64 {
    m.standing.side(face)
}

fn put(id: String, kind: CandidateKind, on: OnBuilding, state: SeenAs, label: String, found_on: FoundOn, why: String) -> Gathered {
    Gathered {
        candidate: TraceCandidate {
            id,
            kind,
            x_m: on.x_m,
            y_m: on.y_m,
            z_m: on.z_m,
            downslope_deg: on.downslope_deg,
            faces_deg: on.faces_deg,
            state,
            from_mm_h: None,
            from_mm: None,
            hours: None,
            label: Some(label),
            repair_minutes: None,
        },
        found_on,
        why,
        struck: None,
        state_found: state,
    }
}

/// Everything the benches know that may let water in.
pub(super) fn gathered(b: &Benches<'_>, kept: &Trace, spots: &[(SpotKept, OnBuilding)]) -> Vec<Gathered> {
    let mut out = details(b);
    out.extend(noted(b));
    out.extend(laps(b));
    out.extend(gutters(b, spots));
    out.extend(ground(b, spots));
    out.extend(rivals(b, spots));
    for c in &kept.added {
        if let Ok(on) = b.building.place(&c.at) {
            out.push(put(format!("hand:{}", c.id), c.kind, on, c.state, c.name.clone(), FoundOn::Hand, "put on the list by hand".into()));
        }
    }
    for g in &mut out {
        let Some(a) = kept.answers.iter().find(|a| a.candidate == g.candidate.id) else { continue };
        if let Some(s) = a.state {
            g.candidate.state = s;
        }
        g.candidate.repair_minutes = a.repair_minutes;
        g.struck = Some(a.struck.trim().to_owned()).filter(|s| !s.is_empty());
    }
    out
}

/// Details that the roof's shape asks for. What lies along a whole eave or rake is only listed once somebody found it wrong.
fn details(b: &Benches<'_>) -> Vec<Gathered> {
    let mut out = Vec::new();
    for d in b.details {
        let all_along = matches!(
            d.kind,
            DetailKind::EaveMetal
                | DetailKind::RakeMetal
                | DetailKind::TileFlashing
                | DetailKind::LowPitch
                | DetailKind::SplashZone
                | DetailKind::PitchBreak
        );
        if all_along && d.state != DetailState::Wrong {
            continue;
        }
        let kick_out = d.kind == DetailKind::KickOut;
        let p = if kick_out { b.own(d.at) } else { b.over_rooms(b.own(d.at)) };
        let facet =
            d.facet.as_ref().zip(b.shape).and_then(|(id, s)| s.facets.iter().find(|f| f.id == *id || f.id.split('|').any(|p| p == id)));
        let z = facet.map(|f| f.height[0] + f.height[1] * d.at[0] + f.height[2] * d.at[1]);
        let eave = b.building.masses.first().map_or(2.5, |m| m.eave_m);
        let down = facet.and_then(|f| f.downslope_azimuth_deg).or_else(|| d.place.face.map(|f| b.building.faces(f)));
        let on = OnBuilding {
            x_m: p[0],
            y_m: p[1],
            z_m: z.unwrap_or(eave),
            downslope_deg: down,
            faces_deg: if kick_out { b.nearest(p) } else { None },
        };
        let state = match d.state {
            DetailState::Wrong => SeenAs::Open,
            DetailState::Right => SeenAs::Sound,
            DetailState::Open | DetailState::NotSeen => SeenAs::Unseen,
        };
        out.push(put(format!("detail:{}", d.key), CandidateKind::RoofDetail, on, state, d.words.clone(), FoundOn::Roof, d.why.clone()));
    }
    out
}

/// Notes whose condition gathers, leads or lets in water. What a wrong detail already stands for is not listed twice.
fn noted(b: &Benches<'_>) -> Vec<Gathered> {
    let mut out = Vec::new();
    for (id, n) in b.notes {
        let Some(c) = n.condition.as_deref().and_then(|c| catalogue().get(c)) else { continue };
        if n.kind != NoteKind::Defect || !matches!(c.role, WaterRole::Entry | WaterRole::Path | WaterRole::Concentrator) {
            continue;
        }
        let stood_for = |d: &Detail| d.state == DetailState::Wrong && d.place.face == n.place.face && d.conditions.contains(&c.id);
        if b.details.iter().any(stood_for) || n.place.zone == Zone::Ground || c.id.starts_with("gutter-") || c.id.starts_with("downspout-")
        {
            continue;
        }
        let Some(on) = b.ring(&n.place) else { continue };
        let of_details = b.details.iter().any(|d| d.conditions.contains(&c.id));
        let kind = match n.place.zone {
            Zone::Roof | Zone::Edge if of_details || c.id.contains("flashing") => CandidateKind::RoofDetail,
            Zone::Roof | Zone::Edge => CandidateKind::RoofField,
            Zone::Openings => CandidateKind::WallOpening,
            _ => CandidateKind::WallField,
        };
        let state = if n.certainty == Certainty::Suspected { SeenAs::Doubtful } else { SeenAs::Open };
        let label = n.place.station.as_ref().map_or_else(|| c.name.clone(), |s| format!("{}, {s}", c.name));
        out.push(put(format!("note:{id}"), kind, on, state, label, FoundOn::Round, c.cause.clone()));
    }
    out
}

/// Laps that let water in.
fn laps(b: &Benches<'_>) -> Vec<Gathered> {
    let mut out = Vec::new();
    for w in b.ways_in {
        let Some(on) = b.ring(&w.place) else { continue };
        let state = if w.sound > 0.0 { SeenAs::Open } else { SeenAs::Doubtful };
        let kind = if matches!(w.place.zone, Zone::Roof | Zone::Edge) { CandidateKind::RoofDetail } else { CandidateKind::WallOpening };
        let why = if w.sound > 0.0 { "a lap lets water in" } else { "right only while the seals hold" };
        let on = OnBuilding { faces_deg: on.faces_deg.or(on.downslope_deg), ..on };
        out.push(put(format!("lap:{}", w.detail), kind, on, state, w.words.clone(), FoundOn::Walls, why.into()));
    }
    out
}

/// Where most runs over. Of a stretch that runs over evenly the middle stands for all: which of its pieces is the largest by a hair says
/// nothing.
fn strongest(over: &[(f64, [f64; 2])]) -> Option<[f64; 2]> {
    let most = over.iter().map(|o| o.0).fold(0.0, f64::max);
    let even: Vec<_> = over.iter().filter(|o| o.0 >= most * (1.0 - EVENLY)).collect();
    even.get(even.len() / 2).map(|o| o.1)
}

/// Gutters that run over, and downspouts that are let go at a wall.
fn gutters(b: &Benches<'_>, spots: &[(SpotKept, OnBuilding)]) -> Vec<Gathered> {
    let mut out = Vec::new();
    let eave = |p: [f64; 2]| {
        let over = b.building.masses.iter().min_by(|a, c| {
            let far = |m: &crate::moisture::surface::MassAt| crate::plane::length(m.standing.nearest(p), p);
            far(a).total_cmp(&far(c))
        });
        over.map_or(2.5, |m| m.eave_m)
    };
    for (k, g) in b.rain.gutters.iter().enumerate() {
        let kept = b.rainwater.gutters.get(k);
        let name = kept.map(|g| g.name.trim()).filter(|n| !n.is_empty()).unwrap_or(&g.id);
        let from = g.run.as_ref().and_then(|r| r.spills_from_mm_h).filter(|v| *v < NEVER_MM_H);
        // Where it runs over along a stretch, the place nearest to a spot counts; the strongest where none is near.
        let over: Vec<(f64, [f64; 2])> = g.spills.iter().filter(|s| !s.onto_roof).map(|s| (s.l_min, b.own(s.at))).collect();
        let strongest = strongest(&over);
        let near = over
            .into_iter()
            .map(|o| o.1)
            .map(|p| (away(p, spots), p))
            .min_by(|a, c| a.0.total_cmp(&c.0))
            .filter(|n| n.0 < NEAR_M)
            .map(|n| n.1);
        if let (Some(from), Some(p)) = (from, near.or(strongest))
            && let Some(looks) = b.nearest(p)
        {
            let on = OnBuilding { x_m: p[0], y_m: p[1], z_m: eave(p), faces_deg: Some(looks), downslope_deg: None };
            let why = format!("runs over from {} on", b.units.rain(from));
            let mut c = put(
                format!("spill:{}", g.id),
                CandidateKind::GutterSpill,
                on,
                SeenAs::Open,
                format!("spill of {name}"),
                FoundOn::Rainwater,
                why,
            );
            c.candidate.from_mm_h = Some(from);
            out.push(c);
        }
        let Some(record) = kept else { continue };
        for (n, (o, at)) in record.outlets.iter().zip(&g.outlets).enumerate() {
            let far = metres("", &o.distance).ok();
            if !matches!(o.ends, Ends::Ground | Ends::Nowhere) || far.is_some_and(|d| d > LET_GO_M) {
                continue;
            }
            let p = b.own(at.at);
            let Some(looks) = b.nearest(p) else { continue };
            let state = if far.is_some_and(|d| d <= AT_WALL_M) { SeenAs::Open } else { SeenAs::Doubtful };
            let on = OnBuilding { x_m: p[0], y_m: p[1], z_m: 0.0, faces_deg: Some(looks), downslope_deg: None };
            let label = if record.outlets.len() > 1 { format!("downspout {} of {name}", n + 1) } else { format!("downspout of {name}") };
            out.push(put(
                format!("letgo:{}:{n}", g.id),
                CandidateKind::LetGo,
                on,
                state,
                label,
                FoundOn::Rainwater,
                "lets go near the wall".into(),
            ));
        }
    }
    out
}

/// Water that stands against walls, and spray heads.
fn ground(b: &Benches<'_>, spots: &[(SpotKept, OnBuilding)]) -> Vec<Gathered> {
    let mut out = Vec::new();
    for p in &b.ground.ponds {
        for (k, w) in p.walls.iter().enumerate() {
            let Some(m) = b.building.masses.iter().find(|m| m.id == w.mass) else { continue };
            // It stands along a stretch: the place nearest to a spot counts.
            let along = (0..=20).map(|n| w.from_m + (w.to_m - w.from_m) * f64::from(n) / 20.0).map(|x| m.standing.point(w.face, x, -0.1));
            let middle = m.standing.point(w.face, f64::midpoint(w.from_m, w.to_m), -0.1);
            let near = along.map(|p| (away(p, spots), p)).min_by(|a, c| a.0.total_cmp(&c.0)).filter(|n| n.0 < NEAR_M);
            let at = near.map_or(middle, |n| n.1);
            let on = OnBuilding { x_m: at[0], y_m: at[1], z_m: 0.0, faces_deg: Some(b.building.faces_of(m, w.face)), downslope_deg: None };
            let fill = 1000.0 * p.volume_m3 * POND_SHARE / p.catchment_m2.max(1.0) + POND_LOSS_MM;
            let mut c = put(
                format!("pond:{}:{k}", p.id),
                CandidateKind::Pond,
                on,
                SeenAs::Open,
                format!("standing water at the {} wall", w.face.name().to_lowercase()),
                FoundOn::Ground,
                "water stands against this wall".into(),
            );
            c.candidate.from_mm = Some(fill);
            out.push(c);
        }
    }
    for n in b.ground.nearby.iter().filter(|n| n.kind == NearbyKind::SprayHead && n.from_wall_m < SPRAY_M) {
        let p = b.own(n.north);
        let Some(looks) = b.nearest(p) else { continue };
        let on = OnBuilding { x_m: p[0], y_m: p[1], z_m: 0.0, faces_deg: Some(looks), downslope_deg: None };
        let state = if n.right { SeenAs::Sound } else { SeenAs::Doubtful };
        let mut c = put(
            format!("spray:{}", n.id),
            CandidateKind::SprayHead,
            on,
            state,
            format!("spray head {}", n.id.trim_start_matches("round spray head").trim_start_matches("round").trim()),
            FoundOn::Ground,
            "wets the wall when it runs".into(),
        );
        c.candidate.hours = Some(SPRAY_HOURS);
        out.push(c);
    }
    out
}

/// What needs no rain and is always possible: a pipe, and the room's own air.
fn rivals(b: &Benches<'_>, spots: &[(SpotKept, OnBuilding)]) -> Vec<Gathered> {
    let mut out = Vec::new();
    for (s, on) in spots {
        let overhead = matches!(s.shows, Shows::Ceiling | Shows::Deck);
        let aside = |by: f64| {
            // Along the wall the spot shows on, whichever way that runs.
            let a = on.faces_deg.map_or(0.0, |f| (f - b.building.front_deg - 180.0).to_radians());
            [on.x_m + by * a.cos(), on.y_m - by * a.sin()]
        };
        let [px, py] = aside(RIVAL_ASIDE_M);
        let z_m = on.z_m + if overhead { ABOVE_CEILING_M } else { 0.0 };
        let pipe = OnBuilding { x_m: px, y_m: py, z_m, downslope_deg: None, ..*on };
        let what = if overhead { "a pipe or drain above" } else { "a pipe or appliance in the wall" };
        out.push(put(
            format!("pipe:{}", s.id),
            CandidateKind::Plumbing,
            pipe,
            SeenAs::Unseen,
            format!("{what} ({})", s.name),
            FoundOn::Rival,
            "needs no rain".into(),
        ));
        let air = b
            .moisture
            .air
            .iter()
            .filter(|a| b.building.moisture.air.iter().any(|r| r.id == a.id && r.room == s.at.room && !r.room.is_empty()));
        let state = air.fold(SeenAs::Unseen, |state, a| match (a.air.condenses, a.wrong) {
            (Some(true), _) => SeenAs::Open,
            (_, true) => SeenAs::Doubtful,
            (Some(false), false) if state == SeenAs::Unseen => SeenAs::Sound,
            _ => state,
        });
        let [cx, cy] = aside(COLD_ASIDE_M);
        let cold = OnBuilding { x_m: cx, y_m: cy, downslope_deg: None, ..*on };
        out.push(put(
            format!("cold:{}", s.id),
            CandidateKind::Condensation,
            cold,
            state,
            format!("condensation ({})", s.name),
            FoundOn::Rival,
            "the room's own air on a cold surface".into(),
        ));
    }
    out
}
