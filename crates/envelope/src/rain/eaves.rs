//! The eaves of a roof, and the water that comes to each: as a sheet from its slope, as bursts from valleys, walls, and
//! from gutters higher up.

use super::figures::EaveAccount;
use super::flat::account::Landing;
use super::runoff::{
    EaveSheet, PointDischarge, Runoff, STOREY_M, descent, facet_at, height_on, outward_of, runoff_of, runoff_with, starts_left,
};
use crate::gutter::downspout::L_S_PER_GPM;
use crate::plane::{Point, length};
use crate::roof::details::Names;
use crate::roof::shape::{Edge, EdgeKind, Facet, RoofShape};
use crate::site::Face;
use std::collections::{BTreeMap, BTreeSet};

/// An eave under the name it keeps.
pub(crate) struct Eave {
    /// Facet and number from the left: `A.+v#1`; one over a lower roof `A.+v/1`.
    pub(crate) key: String,
    pub(crate) edge: usize,
    pub(crate) label: String,
    pub(crate) face: Face,
    /// Nothing hangs there unless somebody hangs it: water drops onto the roof below.
    pub(crate) over_roof: bool,
}

/// Every eave that water leaves by, in a lasting order.
pub(crate) fn eaves_of(s: &RoofShape, names: &Names<'_>, decks: &BTreeSet<String>) -> Vec<Eave> {
    let dry = runoff_of(s);
    let borders = dry.eave_sheet.iter().map(|e| (e.edge.as_str(), false));
    let steps = dry.crossing.iter().filter(|c| c.kind == EdgeKind::EaveOverRoof).map(|c| (c.edge.as_str(), true));
    let mut out: Vec<(f64, Eave)> = Vec::new();
    let flat = s.edges.iter().filter(|e| decks.contains(&e.facet)).filter_map(|e| match e.kind {
        EdgeKind::FlatEdge => Some((e.id.as_str(), false)),
        EdgeKind::FlatEdgeOverRoof => Some((e.id.as_str(), true)),
        _ => None,
    });
    let here: Vec<(usize, &Facet, bool)> = borders
        .chain(steps)
        .chain(flat)
        .filter_map(|(id, over_roof)| {
            let k = s.edges.iter().position(|e| e.id == id)?;
            Some((k, s.facets.iter().find(|f| f.id == s.edges[k].facet)?, over_roof))
        })
        .collect();
    // Told apart among those that have an eave: of the two slopes of a gambrel's side the upper has none.
    let with: Vec<&Facet> = s.facets.iter().filter(|f| here.iter().any(|(_, g, _)| g.id == f.id)).collect();
    let called: BTreeMap<&str, String> = with.iter().map(|f| f.id.as_str()).zip(names.told_apart(&with)).collect();
    for (k, f, over_roof) in here {
        let edge = &s.edges[k];
        let left = if starts_left(s, edge) { edge.p0 } else { edge.p1 };
        // Order along the eave, from the left, to tell pieces of one slope apart.
        let along = left[0] * f.height[2] - left[1] * f.height[1];
        let flat = decks.contains(&f.id);
        let face = if flat { names.face_toward(outward_of(s, edge)) } else { names.face(f) };
        let side = face.name().to_lowercase();
        let (key, of) = if flat {
            (format!("{}@{side}", f.id), format!("{side} edge of the {}", called[f.id.as_str()]))
        } else {
            (f.id.clone(), called[f.id.as_str()].replacen("slope", "eave", 1))
        };
        let label = of + if over_roof { " over the lower roof" } else { "" };
        // A flat roof has no way down: its pieces are ordered by their place along the edge.
        let along = if flat {
            let out = outward_of(s, edge);
            out[0] * left[1] - out[1] * left[0]
        } else {
            along
        };
        out.push((along, Eave { key, edge: k, label, face, over_roof }));
    }
    out.sort_by(|a, b| a.1.over_roof.cmp(&b.1.over_roof).then(a.1.key.cmp(&b.1.key)).then(a.0.total_cmp(&b.0)));
    let mut list: Vec<Eave> = out.into_iter().map(|o| o.1).collect();
    let mut pieces: BTreeMap<(String, bool), usize> = BTreeMap::new();
    for e in &list {
        *pieces.entry((e.key.clone(), e.over_roof)).or_default() += 1;
    }
    let mut so_far: BTreeMap<(String, bool), usize> = BTreeMap::new();
    for e in &mut list {
        let of = (e.key.clone(), e.over_roof);
        let n = so_far.entry(of.clone()).or_default();
        *n += 1;
        if pieces[&of] > 1 {
            e.label = format!("{}, piece {n} from the left", e.label);
        }
        e.key = format!("{}{}{n}", e.key, if e.over_roof { '/' } else { '#' });
    }
    list
}

/// One stretch of a gutter, under one eave.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Leg {
    /// Which of the eaves.
    pub(crate) eave: usize,
    /// Where along the gutter it begins and how long it is, metres.
    pub(crate) from_m: f64,
    pub(crate) length_m: f64,
}

/// A gutter on its eaves: one leg, or several round corners.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Legs(pub(crate) Vec<Leg>);

impl Legs {
    /// The leg a place of the gutter lies on, and the place from the left end of that eave.
    pub(crate) fn at(&self, x_m: f64) -> (Leg, f64) {
        let k = self.0.iter().rposition(|l| x_m >= l.from_m).unwrap_or(0);
        (self.0[k], (x_m - self.0[k].from_m).min(self.0[k].length_m))
    }
    pub(crate) fn length(&self) -> f64 {
        self.0.iter().map(|l| l.length_m).sum()
    }
    /// The corners between them.
    pub(crate) fn corners(&self) -> Vec<f64> {
        self.0.iter().skip(1).map(|l| l.from_m).collect()
    }
}

/// How near a burst must come to an eave's end to fall into its gutter, metres.
pub(crate) const AT_END_M: f64 = 0.25;

/// How far along an eave a point lies that is on it, from 0 to 1.
fn along_edge(e: &EaveSheet, p: Point) -> Option<f64> {
    let d = [e.p1[0] - e.p0[0], e.p1[1] - e.p0[1]];
    let l2 = d[0] * d[0] + d[1] * d[1];
    let t = ((p[0] - e.p0[0]) * d[0] + (p[1] - e.p0[1]) * d[1]) / l2;
    let off = ((p[0] - e.p0[0]) * d[1] - (p[1] - e.p0[1]) * d[0]).abs() / l2.sqrt();
    ((0.0..=1.0).contains(&t) && off < 1e-3).then_some(t)
}

/// A burst on the page of one eave: where along it from the left, its point, and the plan area that is its share.
pub(crate) struct Share {
    pub(crate) x_m: f64,
    pub(crate) at: Point,
    pub(crate) area_m2: f64,
}

/// What water from a point of the roof comes to.
pub(crate) enum Reach {
    /// An eave, at a point of it and its height.
    Eave(Point, f64),
    /// A flat facet that is worked out.
    Lies(String),
}

/// All the water of a roof on its way to the eaves.
pub(crate) struct Falling<'a> {
    pub(crate) shape: &'a RoofShape,
    pub(crate) eaves: Vec<Eave>,
    /// Edges over a lower roof that carry a gutter.
    pub(crate) hung: BTreeSet<String>,
    pub(crate) runoff: Runoff,
    /// Water that comes otherwise than as rain on the roof: off walls, out of downspouts, over brims. As plan area.
    pub(crate) extra: Vec<PointDischarge>,
    /// Of it, what stays on the roof.
    pub(crate) extra_held_m2: f64,
    /// What comes to lie on flat facets that are worked out, until that is done.
    pub(crate) landed: Vec<Landing>,
    /// Those facets.
    pub(crate) decks: BTreeSet<String>,
}

impl<'a> Falling<'a> {
    pub(crate) fn new(shape: &'a RoofShape, eaves: Vec<Eave>, gutters: &BTreeSet<&str>) -> Falling<'a> {
        let hung: BTreeSet<String> =
            eaves.iter().filter(|e| e.over_roof && gutters.contains(e.key.as_str())).map(|e| shape.edges[e.edge].id.clone()).collect();
        let runoff = runoff_with(shape, &hung);
        Falling { shape, eaves, hung, runoff, extra: vec![], extra_held_m2: 0.0, landed: vec![], decks: BTreeSet::new() }
    }

    /// These flat facets are worked out: what lies on them goes on. Their edges are eaves, whose water comes as bursts.
    pub(crate) fn with_decks(&mut self, decks: BTreeSet<String>) {
        let here = self.runoff.landed.iter().filter(|(f, _, _)| decks.contains(f));
        self.landed = here.map(|(f, at, area)| Landing { facet: f.clone(), at: *at, area_m2: *area }).collect();
        for e in &self.eaves {
            let edge = &self.shape.edges[e.edge];
            if decks.contains(&edge.facet) && (!e.over_roof || self.hung.contains(&edge.id)) {
                self.runoff.eave_sheet.push(EaveSheet {
                    edge: edge.id.clone(),
                    facet: edge.facet.clone(),
                    p0: edge.p0,
                    p1: edge.p1,
                    length_m: edge.plan_m,
                    own_facet_m2: 0.0,
                    from_roofs_above_m2: 0.0,
                    sheet_total_m2: 0.0,
                    along: vec![],
                });
            }
        }
        self.decks = decks;
    }

    pub(crate) fn eave(&self, key: &str) -> Option<&Eave> {
        self.eaves.iter().find(|e| e.key == key)
    }

    pub(crate) fn edge(&self, e: &Eave) -> &'a Edge {
        &self.shape.edges[e.edge]
    }

    pub(crate) fn sheet(&self, e: &Eave) -> Option<&EaveSheet> {
        let id = &self.shape.edges[e.edge].id;
        self.runoff.eave_sheet.iter().find(|s| s.edge == *id)
    }

    /// The bursts that come to an eave: each shared by all the eaves that meet at its foot.
    pub(crate) fn bursts(&self, sheet: &EaveSheet) -> Vec<Share> {
        let edge_of = |id: &str| self.shape.edges.iter().find(|e| e.id == id);
        let left_first = edge_of(&sheet.edge).is_some_and(|e| starts_left(self.shape, e));
        // A point that lies on the eave itself, or at one of its corners, at its height.
        let meets = |e: &EaveSheet, p: &PointDischarge| {
            (length(e.p0, p.at) < AT_END_M || length(e.p1, p.at) < AT_END_M || along_edge(e, p.at).is_some())
                && edge_of(&e.edge).is_some_and(|edge| (height_on(edge, p.at) - p.z_m).abs() < STOREY_M)
        };
        let points = self.runoff.point_discharges.iter().filter(|p| !p.trapped).chain(&self.extra);
        points
            .filter(|p| meets(sheet, p))
            .map(|p| {
                let sharing = self.runoff.eave_sheet.iter().filter(|o| meets(o, p)).count().max(1);
                let end = if length(sheet.p0, p.at) < length(sheet.p1, p.at) { 0.0 } else { 1.0 };
                let t = along_edge(sheet, p.at).unwrap_or(end);
                Share { x_m: sheet.length_m * if left_first { t } else { 1.0 - t }, at: p.at, area_m2: p.plan_area_m2 / sharing as f64 }
            })
            .collect()
    }

    /// The legs of a gutter that hangs under these eaves, in order from left to right.
    ///
    /// # Errors
    /// An eave that is not there, sheds nothing, or does not begin where the one before it ends.
    pub(crate) fn legs<'k>(&self, keys: impl Iterator<Item = &'k str>) -> Result<Legs, String> {
        /// Two eaves meet at a corner when their ends lie this near to one another, metres.
        const MEET_M: f64 = 0.6;
        let mut out: Vec<Leg> = Vec::new();
        let mut from_m = 0.0;
        for key in keys {
            let gone = || "There is no such eave on this roof any more. Choose where it hangs.".to_owned();
            let eave = self.eaves.iter().position(|e| e.key == key).ok_or_else(gone)?;
            let length_m = self.sheet(&self.eaves[eave]).ok_or("This eave sheds nothing.")?.length_m;
            if let Some(last) = out.last() {
                let (end, begin) = (self.point(&self.eaves[last.eave], last.length_m), self.point(&self.eaves[eave], 0.0));
                if length(end, begin) > MEET_M {
                    return Err(format!(
                        "The {} does not begin where the {} ends. Name the eaves of one gutter from left to right, seen from outside.",
                        self.eaves[eave].label, self.eaves[last.eave].label
                    ));
                }
            }
            out.push(Leg { eave, from_m, length_m });
            from_m += length_m;
        }
        Ok(Legs(out))
    }

    /// The point of an eave so far from its left end.
    pub(crate) fn point(&self, e: &Eave, x_m: f64) -> Point {
        let edge = self.edge(e);
        let (a, b) = if starts_left(self.shape, edge) { (edge.p0, edge.p1) } else { (edge.p1, edge.p0) };
        let t = (x_m / edge.plan_m).clamp(0.0, 1.0);
        [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])]
    }

    /// Straight out from an eave, away from the roof above it; one metre long.
    pub(crate) fn outward(&self, e: &Eave) -> Point {
        let edge = self.edge(e);
        let (a, b) = if starts_left(self.shape, edge) { (edge.p0, edge.p1) } else { (edge.p1, edge.p0) };
        // Seen from outside the left end is at the left: outward is a quarter turn from left to right.
        let d = length(a, b).max(1e-9);
        [(b[1] - a[1]) / d, -(b[0] - a[0]) / d]
    }

    /// What water dropped onto the roof at a point comes to; none where it stays.
    pub(crate) fn reach(&self, from: Point) -> Option<Reach> {
        let way = descent(self.shape, from, &self.hung);
        match (way.leaves, way.lies) {
            (Some(z), _) => way.points.last().map(|p| Reach::Eave(*p, z)),
            (None, Some((facet, _))) => self.decks.contains(&facet).then_some(Reach::Lies(facet)),
            _ => None,
        }
    }

    /// Water dropped onto the roof at a point runs on; where it comes to an eave it is a burst there. `false` when it stays.
    pub(crate) fn drop_at(&mut self, from: Point, area_m2: f64, note: &str) -> bool {
        let way = descent(self.shape, from, &self.hung);
        let Some((at, z_m)) = way.points.last().copied().zip(way.leaves) else {
            if let Some((facet, at)) = way.lies.filter(|(f, _)| self.decks.contains(f)) {
                self.landed.push(Landing { facet, at, area_m2 });
                return true;
            }
            self.extra_held_m2 += area_m2;
            return false;
        };
        self.burst(at, z_m, area_m2, note);
        true
    }

    /// A burst at a point of an eave.
    pub(crate) fn burst(&mut self, at: Point, z_m: f64, area_m2: f64, note: &str) {
        let same = |p: &&mut PointDischarge| length(p.at, at) < 1e-3 && (p.z_m - z_m).abs() < STOREY_M && p.note == note;
        match self.extra.iter_mut().find(same) {
            Some(p) => p.plan_area_m2 += area_m2,
            None => {
                self.extra.push(PointDischarge { at, z_m, plan_area_m2: area_m2, trapped: false, along_wall_m2: 0.0, note: note.into() })
            }
        }
    }

    /// Wind drives rain against walls that stand on a roof: half of a wall's area counts as roof, as much of it as it turns to the
    /// wind. Wind comes from one direction at a time, so that opposed walls are never added: from `wind`, a unit vector to where it
    /// comes from, or from the point of the compass that brings most. Gives the area, m².
    pub(crate) fn wall_rain(&mut self, wind: Option<[f64; 2]>) -> f64 {
        /// Directions that are tried where none is known.
        const POINTS: usize = 16;
        /// Each piece of wall this long is followed down by itself.
        const PIECE_M: f64 = 0.5;
        const MOST_PIECES: f64 = 12.0;
        /// The part of a wall that wind-driven rain counts for; rule of practice.
        const SHARE: f64 = 0.5;
        let mut pieces: Vec<([f64; 2], [f64; 2], f64)> = vec![];
        for e in self.shape.edges.iter().filter(|e| e.kind.is_step()) {
            let (Some(l0), Some(l1), Some(lower)) = (e.lower_z0_m, e.lower_z1_m, e.other.as_deref()) else { continue };
            let n = (e.plan_m / PIECE_M).ceil().clamp(1.0, MOST_PIECES);
            for k in 0..n as usize {
                let t = (k as f64 + 0.5) / n;
                let high = (e.z0_m - l0) * (1.0 - t) + (e.z1_m - l1) * t;
                let area = high.max(0.0) * e.plan_m / n * SHARE;
                if area < 1e-6 {
                    continue;
                }
                let at = [e.p0[0] + t * (e.p1[0] - e.p0[0]), e.p0[1] + t * (e.p1[1] - e.p0[1])];
                let side = [(e.p1[1] - e.p0[1]) / e.plan_m * 2e-2, -(e.p1[0] - e.p0[0]) / e.plan_m * 2e-2];
                let either = [[at[0] + side[0], at[1] + side[1]], [at[0] - side[0], at[1] - side[1]]];
                let Some(from) = either.into_iter().find(|p| facet_at(self.shape, *p).is_some_and(|f| f.id == lower)) else { continue };
                let looks = [(from[0] - at[0]) / 2e-2, (from[1] - at[1]) / 2e-2];
                pieces.push((from, looks, area));
            }
        }
        let turned = |looks: [f64; 2], wind: [f64; 2]| (looks[0] * wind[0] + looks[1] * wind[1]).max(0.0);
        let all = |wind: [f64; 2]| pieces.iter().map(|(_, looks, area)| area * turned(*looks, wind)).sum::<f64>();
        let wind = wind.unwrap_or_else(|| {
            let points = (0..POINTS).map(|k| (k as f64 / POINTS as f64 * std::f64::consts::TAU).sin_cos()).map(|(x, y)| [x, y]);
            points.max_by(|a, b| all(*a).total_cmp(&all(*b))).unwrap_or([0.0, 1.0])
        });
        let sum = all(wind);
        for (from, looks, area) in pieces {
            let area = area * turned(looks, wind);
            if area > 1e-9 {
                self.drop_at(from, area, "wind-driven rain off a wall");
            }
        }
        sum
    }

    /// Where a downspout that comes down at a point of an eave meets a lower roof: straight below, or as far as elbows reach.
    pub(crate) fn roof_below(&self, e: &Eave, x_m: f64) -> Option<Point> {
        /// Elbows and a short leader reach this far.
        const REACHES_M: [f64; 6] = [0.1, 0.3, 0.6, 1.0, 1.5, 2.0];
        let (p, out) = (self.point(e, x_m), self.outward(e));
        let edge = self.edge(e);
        let z = edge.z0_m.min(edge.z1_m);
        let ways = [out, [out[0] - out[1], out[1] + out[0]], [out[0] + out[1], out[1] - out[0]], [-out[1], out[0]], [out[1], -out[0]]];
        REACHES_M
            .iter()
            .flat_map(|r| ways.map(|w| [p[0] + r * w[0], p[1] + r * w[1]]))
            .find(|q| facet_at(self.shape, *q).is_some_and(|f| f.height[0] + f.height[1] * q[0] + f.height[2] * q[1] < z - 0.1))
    }

    /// The eave on the page.
    pub(crate) fn account(&self, e: &Eave, rain: f64, gutter: Option<&str>) -> EaveAccount {
        let edge = self.edge(e);
        let sheet = self.sheet(e);
        let (sheet_m2, burst_m2) = match sheet {
            Some(s) => (s.sheet_total_m2, super::sum(self.bursts(s).iter().map(|b| b.area_m2))),
            // It drops on: the sheet is counted at the eave it comes to in the end.
            None => (super::sum(self.runoff.crossing.iter().filter(|c| c.edge == edge.id).map(|c| c.area_crossing_m2)), 0.0),
        };
        let l_min = (sheet_m2 + burst_m2) * rain / 60.0;
        let below = edge.lower_z0_m.zip(edge.lower_z1_m).map(|(a, b)| (edge.z0_m + edge.z1_m - a - b) / 2.0);
        EaveAccount {
            key: e.key.clone(),
            edge: edge.id.clone(),
            label: e.label.clone(),
            face: e.face,
            ends_m: [edge.p0, edge.p1],
            length_m: edge.plan_m,
            sheet_m2,
            burst_m2,
            l_min,
            gpm: l_min / 60.0 / L_S_PER_GPM,
            gutter: gutter.map(Into::into),
            drops_m: below.filter(|_| sheet.is_none()),
        }
    }
}
