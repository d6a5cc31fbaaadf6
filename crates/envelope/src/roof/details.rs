//! Details that must exist: what the shape of a roof and what stands in it ask for, so that a person looks where water
//! concentrates. Each is a place, and is answered right, wrong or not seen.

use super::access::capital;
use super::covering::covering;
use super::mass::{Form, Side};
use super::record::{Answer, Fitting, FittingKind, Placed, Roof, metres, side_of, to_north};
use super::shape::{Edge, EdgeKind, Facet, LowerSide, RoofShape};
use crate::plane::length;
use crate::practice::Practice;
use crate::round::{Note, NoteKind};
use crate::site::{Bearing, Expectation, ExpectationState, Face, Place, Zone};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What kind of detail.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DetailKind {
    /// Lining of a valley.
    ValleyLining,
    /// Foot of a valley, where its water arrives as a burst.
    ValleyFoot,
    /// Kick-out where an eave ends against a wall.
    KickOut,
    /// Step flashing along a wall.
    StepFlashing,
    /// Flashing where a slope ends at a wall above it.
    HeadwallFlashing,
    /// A slope that falls to a wall.
    Backwater,
    /// Water crosses from one pitch to another.
    PitchBreak,
    /// Saddle behind a chimney or curb.
    Cricket,
    /// Flashing round a chimney.
    ChimneyFlashing,
    /// Boot at a pipe.
    PipeBoot,
    /// Flashing round a skylight.
    SkylightFlashing,
    /// Flashing round a curb.
    CurbFlashing,
    /// On tile: the flashing comes out on top of the tile below.
    TileFlashing,
    /// An upper eave pours onto a lower roof.
    SplashZone,
    /// Metal and underlayment at the eaves.
    EaveMetal,
    /// Metal and underlayment at the rakes.
    RakeMetal,
    /// A covering below its lowest pitch.
    LowPitch,
}

struct Sort {
    zone: Zone,
    why: &'static str,
    /// What is wrong when it is wrong.
    conditions: &'static [&'static str],
    /// Parts that speak of it when they are said to be right.
    components: &'static [&'static str],
}

impl DetailKind {
    fn sort(self) -> Sort {
        let sort = |zone, why, conditions, components| Sort { zone, why, conditions, components };
        match self {
            DetailKind::ValleyLining => sort(
                Zone::Roof,
                "Two slopes pour into it: it carries more water than any other line of the roof.",
                &["valley-lining-open", "roof-debris-dam"],
                &["valley"],
            ),
            DetailKind::ValleyFoot => sort(
                Zone::Edge,
                "The water of both slopes arrives here at once and shoots over the gutter.",
                &["gutter-overflow-marks", "gutter-capture-short"],
                &[],
            ),
            DetailKind::KickOut => {
                sort(Zone::Edge, "Without it the eave's water runs down behind the cladding.", &["kickout-missing"], &[])
            }
            DetailKind::StepFlashing => {
                sort(Zone::Roof, "Water runs along the wall the whole way down.", &["wall-flashing-missing"], &["roof-flashing"])
            }
            DetailKind::HeadwallFlashing => sort(
                Zone::Roof,
                "Rain off the wall lands at the top of this slope and must go over the covering.",
                &["wall-flashing-missing"],
                &["roof-flashing"],
            ),
            DetailKind::Backwater => sort(
                Zone::Roof,
                "The slope falls against a wall: water and leaves stand here unless something turns them.",
                &["roof-debris-dam", "wall-flashing-missing"],
                &[],
            ),
            DetailKind::PitchBreak => sort(
                Zone::Roof,
                "Water crosses from one pitch to another: the upper covering must lap well over the lower, with metal under it.",
                &["wall-flashing-missing", "roof-mastic-patch"],
                &[],
            ),
            DetailKind::Cricket => sort(
                Zone::Roof,
                "What is wider than the limit dams water, leaves and snow behind it.",
                &["chimney-cricket-short", "roof-debris-dam"],
                &["cricket"],
            ),
            DetailKind::ChimneyFlashing => sort(
                Zone::Roof,
                "Base and counter flashing keep water out on all four sides.",
                &["chimney-flashing-open", "roof-mastic-patch"],
                &["chimney"],
            ),
            DetailKind::PipeBoot => sort(
                Zone::Roof,
                "The collar dries out and splits long before the covering is worn.",
                &["pipe-boot-torn", "penetration-flashing-buried"],
                &["pipe-boot"],
            ),
            DetailKind::SkylightFlashing => sort(Zone::Roof, "Its uphill side dams water.", &["skylight-frame-open"], &["skylight"]),
            DetailKind::CurbFlashing => {
                sort(Zone::Roof, "Its uphill side dams water.", &["penetration-flashing-buried", "wall-flashing-missing"], &["roof-vent"])
            }
            DetailKind::TileFlashing => sort(
                Zone::Roof,
                "On tile the flashing must come out on top of the tile below, or its water runs onto the underlayment.",
                &["penetration-flashing-buried"],
                &[],
            ),
            DetailKind::SplashZone => sort(
                Zone::Roof,
                "An upper eave pours onto this slope and wears a strip of it.",
                &["downspout-onto-roof", "shingle-mat-showing"],
                &[],
            ),
            DetailKind::EaveMetal => sort(
                Zone::Edge,
                "Underlayment over the metal at the eaves, so that water on it drops into the gutter.",
                &["drip-edge-lap-wrong", "drip-edge-missing"],
                &["drip-edge"],
            ),
            DetailKind::RakeMetal => sort(
                Zone::Edge,
                "Metal over the underlayment at the rakes, so that wind does not drive rain under it.",
                &["drip-edge-lap-wrong", "drip-edge-missing", "tile-edge-closure-missing"],
                &["drip-edge"],
            ),
            DetailKind::LowPitch => sort(
                Zone::Roof,
                "Below its lowest pitch a covering lets wind drive water up under the laps; only what lies beneath keeps it out.",
                &["roof-mastic-patch", "flat-roof-ponding"],
                &[],
            ),
        }
    }
}

/// How a detail stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DetailState {
    /// Not looked at yet.
    Open,
    /// As it should be.
    Right,
    /// Wrong.
    Wrong,
    /// Could not be seen.
    NotSeen,
}

/// Something that must exist on this roof.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Detail {
    /// Lasting name: kind and what it joins.
    pub key: String,
    /// What kind.
    pub kind: DetailKind,
    /// What to look at.
    pub words: String,
    /// Why it matters.
    pub why: String,
    /// Where on the round.
    pub place: Place,
    /// Where on the plan.
    pub at: [f64; 2],
    /// The edge it lies on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge: Option<String>,
    /// The slope it lies on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub facet: Option<String>,
    /// How large it must be.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<String>,
    /// What may be wrong with it, from the catalogue.
    pub conditions: Vec<String>,
    /// How it stands.
    pub state: DetailState,
    /// Who says so, in words; empty while it is open.
    pub said: String,
}

impl Detail {
    /// The detail as something the round asks for.
    pub fn expectation(&self) -> Option<Expectation> {
        let state = match self.state {
            DetailState::Open => ExpectationState::Open,
            DetailState::Right | DetailState::Wrong => ExpectationState::Answered,
            DetailState::NotSeen => ExpectationState::Limited,
        };
        let (face, zone) = (self.place.face?, self.place.zone);
        Some(Expectation { key: format!("roof {}", self.key), face, zone, item: None, words: self.words.clone(), state })
    }
}

/// The height a cricket needs, as a share of the width, by pitch in twelve. Model-code table, read between its rows.
const CRICKET: [(f64, f64); 5] = [(3.0, 1.0 / 8.0), (4.0, 1.0 / 6.0), (6.0, 1.0 / 4.0), (8.0, 1.0 / 3.0), (12.0, 1.0 / 2.0)];

/// Height of a cricket behind something `width_m` wide on a slope of `pitch` (rise over run), metres. Beyond the ends of the
/// table its end holds.
pub fn cricket_height(width_m: f64, pitch: f64) -> f64 {
    let x = pitch * 12.0;
    let share = match CRICKET.iter().position(|(p, _)| x < *p) {
        Some(0) => CRICKET[0].1,
        None => CRICKET[CRICKET.len() - 1].1,
        Some(k) => {
            let ((x0, y0), (x1, y1)) = (CRICKET[k - 1], CRICKET[k]);
            y0 + (y1 - y0) * (x - x0) / (x1 - x0)
        }
    };
    width_m * share
}

/// What the names of a roof's parts are on the page.
pub(crate) struct Names<'a> {
    roof: &'a Roof,
    front: Option<Bearing>,
    facets: BTreeMap<&'a str, String>,
}

impl<'a> Names<'a> {
    /// The names of a roof with these facets, its front facing so.
    pub(crate) fn new(roof: &'a Roof, front: Option<Bearing>, facets: &'a [Facet]) -> Names<'a> {
        let mut names = Names { roof, front, facets: BTreeMap::new() };
        let all: Vec<&Facet> = facets.iter().collect();
        names.facets = facets.iter().map(|f| f.id.as_str()).zip(names.told_apart(&all)).collect();
        names
    }
    pub(crate) fn mass<'b>(&'b self, id: &'b str) -> &'b str {
        self.roof.masses.iter().find(|m| m.id == id).map_or(id, |m| m.name.as_str())
    }
    /// The face a facet falls to; the front for a flat one.
    pub(crate) fn face(&self, f: &Facet) -> Face {
        let front = self.front.unwrap_or_else(|| Bearing::new(180.0).expect("south is a direction"));
        let down = f.downslope_azimuth_deg.and_then(|a| Bearing::new(a.rem_euclid(360.0)).ok());
        down.map_or(Face::Front, |d| Face::nearest(d, front))
    }
    /// The face that looks the way of a vector on the plan.
    pub(crate) fn face_toward(&self, way: [f64; 2]) -> Face {
        let front = self.front.unwrap_or_else(|| Bearing::new(180.0).expect("south is a direction"));
        let bearing = Bearing::new(way[0].atan2(way[1]).to_degrees().rem_euclid(360.0)).ok();
        bearing.map_or(Face::Front, |b| Face::nearest(b, front))
    }
    pub(crate) fn masses(f: &str) -> impl Iterator<Item = &str> {
        f.split('|').filter_map(|p| p.split('.').next())
    }
    /// "rear slope of the main", and no other of this roof: a gambrel has two slopes to a side, and masses may share a name.
    pub(crate) fn facet(&self, f: &Facet) -> String {
        self.facets.get(f.id.as_str()).cloned().unwrap_or_else(|| self.plain(f))
    }
    fn plain(&self, f: &Facet) -> String {
        let mut of: Vec<&str> = Names::masses(&f.id).map(|m| self.mass(m)).collect();
        of.dedup();
        let of = of.join(" and the ");
        if f.downslope_azimuth_deg.is_some() {
            format!("{} slope of the {of}", self.face(f).name().to_lowercase())
        } else {
            format!("flat roof of the {of}")
        }
    }
    /// The names of some of its facets, in their order, no two alike, and no longer than that takes.
    pub(crate) fn told_apart(&self, all: &[&Facet]) -> Vec<String> {
        let plain: Vec<String> = all.iter().map(|f| self.plain(f)).collect();
        let high = |k: usize| all[k].height[0] + all[k].height[1] * all[k].middle[0] + all[k].height[2] * all[k].middle[1];
        let one = |k: usize| Names::masses(&all[k].id).collect::<Vec<_>>();
        (0..all.len())
            .map(|k| {
                let name = &plain[k];
                let mut alike: Vec<usize> = (0..all.len()).filter(|j| plain[*j] == *name).collect();
                alike.sort_by(|a, b| high(*a).total_cmp(&high(*b)));
                let place = alike.iter().position(|j| *j == k).unwrap_or_default();
                match (alike.as_slice(), place) {
                    ([_], _) => name.clone(),
                    ([a, b], 0) if one(*a) == one(*b) => format!("{name} below the break"),
                    ([a, b], _) if one(*a) == one(*b) => format!("{name} above the break"),
                    _ => format!("{name} ({} of {})", place + 1, alike.len()),
                }
            })
            .collect()
    }
}

/// Every detail that must exist, and how it stands by the answers given and the notes of the round.
pub(crate) fn details(
    roof: &Roof,
    placed: &Placed,
    shape: &RoofShape,
    front: Option<Bearing>,
    practice: &Practice,
    notes: &[&Note],
) -> Vec<Detail> {
    let names = Names::new(roof, front, &shape.facets);
    let u = practice.units;
    let facet = |id: &str| shape.facets.iter().find(|f| f.id == id);
    let mut out: Vec<Detail> = Vec::new();
    let mut add = |kind: DetailKind,
                   key: String,
                   words: String,
                   face: Face,
                   at: [f64; 2],
                   edge: Option<&Edge>,
                   on: Option<&str>,
                   size: Option<String>| {
        let sort = kind.sort();
        let key = format!("{}:{key}", serde_json::to_value(kind).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default());
        // Two of a kind between the same slopes are told apart by number, and so are two that read alike.
        let again = out.iter().filter(|d| d.key == key || d.key.starts_with(&format!("{key}#"))).count();
        let alike = out.iter().filter(|d| d.kind == kind && d.place.station.as_ref() == Some(&words)).count();
        out.push(Detail {
            key: if again > 0 { format!("{key}#{}", again + 1) } else { key },
            kind,
            words: if alike > 0 { format!("{} ({})", capital(&words), alike + 1) } else { capital(&words) },
            why: sort.why.to_owned(),
            place: Place { station: Some(words), ..Place::outside(face, sort.zone) },
            at,
            edge: edge.map(|e| e.id.clone()),
            facet: on.map(str::to_owned),
            size,
            conditions: sort.conditions.iter().map(|c| (*c).to_owned()).collect(),
            state: DetailState::Open,
            said: String::new(),
        });
    };
    for e in &shape.edges {
        let (Some(f), other) = (facet(&e.facet), e.other.as_deref().and_then(facet)) else { continue };
        let middle = [(e.p0[0] + e.p1[0]) / 2.0, (e.p0[1] + e.p1[1]) / 2.0];
        let Some(g) = other else { continue };
        let key = format!("{}/{}", f.id, g.id);
        let (of_f, of_g) = (names.facet(f), names.facet(g));
        match (e.kind, e.lower_side) {
            (EdgeKind::Valley, _) => {
                let large = if f.plan_area_m2 >= g.plan_area_m2 { f } else { g };
                let words = format!("valley lining, {of_f} to {of_g}");
                add(
                    DetailKind::ValleyLining,
                    key.clone(),
                    words,
                    names.face(large),
                    middle,
                    Some(e),
                    Some(&large.id),
                    Some(u.length(e.true_m, 2)),
                );
                let (foot, high) = if e.z0_m < e.z1_m { (e.p0, e.z1_m - e.z0_m) } else { (e.p1, e.z0_m - e.z1_m) };
                let at_eave = |b: &&Edge| b.kind == EdgeKind::Eave && (length(b.p0, foot) < 1e-3 || length(b.p1, foot) < 1e-3);
                if high > 1e-6
                    && let Some(eave) = shape.edges.iter().find(at_eave)
                {
                    let words = format!("foot of the valley, {of_f} to {of_g}");
                    let face = facet(&eave.facet).map_or(Face::Front, |f| names.face(f));
                    add(
                        DetailKind::ValleyFoot,
                        key,
                        words,
                        if face == names.face(large) { face } else { names.face(large) },
                        foot,
                        Some(eave),
                        None,
                        None,
                    );
                }
            }
            (EdgeKind::PitchBreak, _) => {
                add(
                    DetailKind::PitchBreak,
                    key,
                    format!("pitch break, {of_f} to {of_g}"),
                    names.face(f),
                    middle,
                    Some(e),
                    Some(&f.id),
                    Some(u.length(e.true_m, 2)),
                );
            }
            (_, Some(side)) => {
                let size = e.lower_true_m.map(|l| u.length(l, 2));
                let (kind, words) = match side {
                    LowerSide::Sidewall => (DetailKind::StepFlashing, format!("step flashing where the {of_g} runs along the wall")),
                    LowerSide::Headwall => (DetailKind::HeadwallFlashing, format!("headwall flashing at the top of the {of_g}")),
                    LowerSide::Backwater => (DetailKind::Backwater, format!("where the {of_g} falls to the wall")),
                    LowerSide::FlatBelow => (DetailKind::HeadwallFlashing, format!("upstand flashing of the {of_g}")),
                };
                add(kind, key.clone(), words, names.face(g), middle, Some(e), Some(&g.id), size);
                if side == LowerSide::Sidewall
                    && let (Some(a), Some(b)) = (e.lower_z0_m, e.lower_z1_m)
                {
                    let foot = if a < b { e.p0 } else { e.p1 };
                    let ends =
                        |o: &&Edge| o.kind == EdgeKind::Eave && o.facet == g.id && (length(o.p0, foot) < 1e-3 || length(o.p1, foot) < 1e-3);
                    if shape.edges.iter().any(|o| ends(&o)) {
                        add(
                            DetailKind::KickOut,
                            key.clone(),
                            format!("kick-out at the foot of the wall, {of_g}"),
                            names.face(g),
                            foot,
                            Some(e),
                            Some(&g.id),
                            None,
                        );
                    }
                }
                if e.kind == EdgeKind::EaveOverRoof {
                    add(
                        DetailKind::SplashZone,
                        key,
                        format!("splash zone on the {of_g} under the eave of the {of_f}"),
                        names.face(g),
                        middle,
                        Some(e),
                        Some(&g.id),
                        None,
                    );
                }
            }
            _ => {}
        }
    }
    for f in &roof.fittings {
        let (at, on, pitch) = where_on(f, placed, shape, roof, front);
        let name = if f.name.is_empty() { format!("{} {}", f.kind.name(), f.id) } else { f.name.clone() };
        let on_id = on.map(|f| f.id.as_str());
        let (kind, words) = match f.kind {
            FittingKind::Chimney => (DetailKind::ChimneyFlashing, format!("base and counter flashing of the {name}")),
            FittingKind::Pipe => (DetailKind::PipeBoot, format!("boot at the {name}")),
            FittingKind::Skylight => (DetailKind::SkylightFlashing, format!("flashing round the {name}, uphill side first")),
            FittingKind::Curb => (DetailKind::CurbFlashing, format!("flashing round the {name}, uphill side first")),
        };
        add(kind, f.id.clone(), words, f.face, at, None, on_id, None);
        let width = metres("", &f.width).ok();
        let rule = practice.rule("cricket-width");
        if let Some(w) = width.filter(|w| *w > rule.figure() && f.kind != FittingKind::Pipe) {
            let size = format!("{} high at the {name}, {} wide, on {:.1}:12", u.depth(cricket_height(w, pitch)), u.depth(w), pitch * 12.0);
            add(DetailKind::Cricket, f.id.clone(), format!("cricket behind the {name}"), f.face, at, None, on_id, Some(size));
        }
        let tile = roof.masses.iter().any(|m| m.id == f.mass && m.covering.as_deref().is_some_and(|c| c.ends_with("-tile")));
        if tile {
            add(
                DetailKind::TileFlashing,
                f.id.clone(),
                format!("flashing of the {name} out on top of the tile below"),
                f.face,
                at,
                None,
                on_id,
                None,
            );
        }
    }
    for (kind, edge, words) in [(DetailKind::EaveMetal, EdgeKind::Eave, "eaves"), (DetailKind::RakeMetal, EdgeKind::Rake, "rakes")] {
        for face in Face::ALL {
            let here: Vec<&Edge> =
                shape.edges.iter().filter(|e| e.kind == edge && facet(&e.facet).is_some_and(|f| names.face(f) == face)).collect();
            let Some(first) = here.iter().max_by(|a, b| a.true_m.total_cmp(&b.true_m)) else { continue };
            let at = [(first.p0[0] + first.p1[0]) / 2.0, (first.p0[1] + first.p1[1]) / 2.0];
            let sum: f64 = here.iter().map(|e| e.true_m).sum();
            let of = format!("edge metal at the {words} of the {} slopes", face.name().to_lowercase());
            add(kind, face.name().to_lowercase(), of, face, at, Some(first), None, Some(u.length(sum, 1)));
        }
    }
    let rule = practice.rule("min-pitch");
    for m in &roof.masses {
        let Some(least) = m.covering.as_deref().and_then(|c| rule.named(c)) else { continue };
        let own = shape.facets.iter().filter(|f| Names::masses(&f.id).any(|id| id == m.id));
        if let Some(on) = own.min_by(|a, b| a.pitch.total_cmp(&b.pitch)).filter(|f| f.pitch < least - 1e-9) {
            let name = m.covering.as_deref().and_then(covering).map_or("", |c| c.name.as_str());
            let words = format!("{name} on the {} below its lowest pitch", m.name);
            let size = format!("{:.2}:12 where at least {:.2}:12 is asked for", on.pitch * 12.0, least * 12.0);
            add(DetailKind::LowPitch, m.id.clone(), words, names.face(on), on.middle, None, Some(&on.id), Some(size));
        }
    }
    for d in &mut out {
        answer(d, roof, notes);
    }
    out
}

/// Conditions that lie anywhere on a slope: a note of one of them does not say which detail it lies at.
const ANYWHERE: [&str; 3] = ["roof-debris-dam", "roof-mastic-patch", "shingle-mat-showing"];

/// Where a fitting stands on the plan, the facet it stands on, and that facet's pitch.
pub(crate) fn where_on<'a>(
    f: &Fitting,
    placed: &Placed,
    shape: &'a RoofShape,
    roof: &Roof,
    front: Option<Bearing>,
) -> ([f64; 2], Option<&'a Facet>, f64) {
    let Some(k) = roof.masses.iter().position(|m| m.id == f.mass) else { return ([0.0; 2], None, 0.0) };
    let (s, m) = (placed.standing[k], &placed.masses[k]);
    let from_left = metres("", &f.from_left).unwrap_or(s.side(f.face) / 2.0);
    let up = metres("", &f.up).unwrap_or_else(|_| m.reach(side_of(f.face)) / 2.0);
    let at = to_north(s.point(f.face, from_left, up), front);
    let side = if m.form == Form::Flat { Side::Flat } else { m.side_at(side_of(f.face), up) };
    let own = format!("{}.{}", f.mass, side.key());
    let on = shape.facets.iter().find(|x| x.id.split('|').any(|p| p == own));
    (at, on, on.map_or(m.pitch, |x| x.pitch))
}

/// Answers a detail: what was said here first, then what the round says of it.
fn answer(d: &mut Detail, roof: &Roof, notes: &[&Note]) {
    if let Some(a) = roof.answers.get(&d.key) {
        (d.state, d.said) = match a {
            Answer::Right => (DetailState::Right, "Looked at: right.".into()),
            Answer::Wrong { condition, .. } => {
                let name = crate::finding::catalogue().get(condition).map_or(condition.as_str(), |c| c.name.as_str());
                (DetailState::Wrong, format!("Looked at: {}.", name.to_lowercase()))
            }
            Answer::NotSeen { reason } => (DetailState::NotSeen, format!("Could not be seen: {}.", reason.sentence())),
        };
        return;
    }
    let sort = d.kind.sort();
    let parts: Vec<&str> = d.facet.as_deref().map(|f| Names::masses(f).collect()).unwrap_or_default();
    let mass = |n: &Note| {
        let words: Vec<String> = n.text.to_lowercase().split(|c: char| !c.is_alphanumeric()).map(str::to_owned).collect();
        roof.masses.iter().any(|m| parts.contains(&m.id.as_str()) && words.contains(&m.name.to_lowercase()))
    };
    let here = |n: &&&Note| n.place.zone == sort.zone && (n.place.face == d.place.face || mass(n));
    let wrong = notes.iter().filter(here).find(|n| {
        n.kind == NoteKind::Defect && n.condition.as_deref().is_some_and(|c| !ANYWHERE.contains(&c) && sort.conditions.contains(&c))
    });
    let right = || {
        notes.iter().filter(here).find(|n| n.kind == NoteKind::Good && n.component.as_deref().is_some_and(|c| sort.components.contains(&c)))
    };
    let found = wrong.map(|n| (DetailState::Wrong, n)).or_else(|| right().map(|n| (DetailState::Right, n)));
    if let Some((state, n)) = found {
        (d.state, d.said) = (state, format!("Said on the round: \u{201c}{}\u{201d}", n.text.trim()));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn crickets_by_the_table_and_between_its_rows() {
        for (pitch, share) in
            [(12.0, 0.5), (8.0, 1.0 / 3.0), (6.0, 0.25), (4.0, 1.0 / 6.0), (3.0, 0.125), (2.0, 0.125), (18.0, 0.5), (10.0, 5.0 / 12.0)]
        {
            assert!((cricket_height(1.2, pitch / 12.0) - 1.2 * share).abs() < 1e-12, "{pitch}");
        }
    }
}
