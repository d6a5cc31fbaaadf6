//! One storm over the whole place: rain on the roof, through the gutters, over their brims and out of their ends, onto the ground,
//! into the hollows, and away. Every litre carries where it came from, because the cheapest mend is at its origin.
//!
//! The ground is a tree of hollows (see `hollows` and `waters`): what runs soaks on its way, hollows fill, run over into one another,
//! join and part again; a drain takes what comes to it. A change is run through roof, gutter and ground again, never subtracted.
//! What leaves the known ground is let go. All of it is an estimate for rain that is even within each step.

mod found;
#[cfg(test)]
mod tests;

use super::origin::Origin;
use super::record::{GroundEdge, NearbyKind};
use super::roofed::{Roofed, at_every_rain};
use super::standing::contacts_at;
pub use super::storm::{
    FromWhere, IfBlocked, Lasts, Litres, PondNow, RainStep, RainTest, RainTestError, RainTestInput, Wanted, WayInStood, WetPlace,
};
use super::survey::{GroundInput, Surfaced, Survey};
use super::waters::{Drain, Waters};
use crate::measure::Units;
use crate::rain::account::{EaveAccount, law_of};
use crate::rain::design::{STEP_H, hyetograph, hyetograph_of};
use crate::rain::record::Storm;
use crate::roof::record::{metres, to_north};
use crate::roof::typed::signed;
use crate::site::Face;
use crate::terrain::hollows::{Hollows, Land, NONE};
use crate::terrain::surface::Cell;
use std::collections::BTreeSet;

/// The place is watched for so many hours after the storm begins.
pub const WATCHED_H: f64 = 24.0;
/// Steps after the storm are longer: half an hour.
const AFTER_H: f64 = 0.5;

/// A long storm: a day in half hours.
const DAY_STEPS: usize = 48;
const DAY_STEP_H: f64 = 0.5;
/// The place is watched for so many hours after a long rain.
const AFTER_RAIN_H: f64 = 12.0;
/// A wall is wet from this depth on, metres.
const WET_WALL_M: f64 = 0.001;

/// The ponds of the account, each with its hollows.
fn watched(survey: &Survey, s: &Surfaced, hollows: &Hollows) -> Vec<Watched> {
    let mut out: Vec<Watched> = Vec::new();
    for (hollow, pond) in &s.named {
        let cells = &s.water.ponds[*hollow as usize].cells;
        let mut leaves: Vec<usize> = cells.iter().map(|k| hollows.basin[*k as usize]).filter(|b| *b != NONE).map(|b| b as usize).collect();
        leaves.sort_unstable();
        leaves.dedup();
        // A hollow whose bottom lies in another pond only drains past here.
        leaves.retain(|l| s.water.pond[hollows.nodes[*l].lowest as usize] == *hollow);
        leaves.sort_by(|a, b| {
            let z = |l: &usize| s.grid.z[hollows.nodes[*l].lowest as usize];
            z(a).total_cmp(&z(b))
        });
        let walls = cells.iter().map(|k| *k as usize).filter(|k| s.grid.at_wall(*k) && hollows.basin[*k] != NONE);
        let at_wall = walls.filter_map(|k| survey.place.nearest_side(s.grid.lay.middle(k)).map(|(m, f, _, _)| (k, m, f))).collect();
        if !leaves.is_empty() {
            out.push(Watched { pond: *pond, leaves, at_wall });
        }
    }
    out.sort_by_key(|w| w.pond);
    out
}

/// What is built otherwise than it was met; the place is run again with it.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct Otherwise {
    /// Gutters that spill no more: what went over the brim goes out of their outlets.
    pub(crate) no_spill: BTreeSet<String>,
    /// Gutters whose outlets are led away from the wall.
    pub(crate) led_out: BTreeSet<String>,
    /// Eaves that get a gutter, let go at the lower of their ends.
    pub(crate) hung: BTreeSet<String>,
    /// Spray heads that are moved or turned off.
    pub(crate) off: BTreeSet<String>,
    /// The neighbour's water is turned past the building.
    pub(crate) turned: bool,
    /// Ponds with a drain at their deepest place.
    pub(crate) drained: BTreeSet<String>,
    /// Buried pipes whose end nobody knows are blocked: their water comes up where it goes in.
    pub(crate) blocked: bool,
}

impl Otherwise {
    /// The same, with what ends an origin.
    pub(crate) fn mend(&mut self, origin: &Origin) {
        match origin {
            Origin::Rain => {}
            Origin::NeighboursRain => self.turned = true,
            Origin::Brim(g) => drop(self.no_spill.insert(g.clone())),
            Origin::Outlet(g) => drop(self.led_out.insert(g.clone())),
            Origin::Eave(e) => drop(self.hung.insert(e.clone())),
            Origin::SprayHead(h) => drop(self.off.insert(h.clone())),
        }
    }
}

const RAIN_HERE: usize = 0;
const RAIN_THERE: usize = 1;
/// Steps of the ground within a step of the storm, and after it, seconds.
const GROUND_S: f64 = 60.0;
/// Half hours of a long rain change slowly: five times as long a step wets the same walls for as long (a test holds it to 1 %).
const GROUND_DAY_S: f64 = 300.0;
const GROUND_AFTER_S: f64 = 300.0;

/// A pond of the account as the storm sees it.
struct Watched {
    /// Its number in the account.
    pond: usize,
    /// Its leaves in the tree of hollows, the one of its deepest cell first.
    leaves: Vec<usize>,
    /// Cells at a wall: the cell, the mass, the face.
    at_wall: Vec<(usize, usize, Face)>,
}

/// What a pond held when it held the most.
#[derive(Clone, Default)]
struct Fullest {
    volume: f64,
    minute: f64,
    of: Vec<f64>,
    /// By leaf of the pond.
    levels: Vec<f64>,
    over_from: Option<f64>,
    wall_metre_hours: f64,
}

/// One storm, ready to be run.
pub(crate) struct Prepared<'a> {
    survey: &'a Survey,
    s: &'a Surfaced,
    input: &'a GroundInput,
    land: Land,
    hollows: Hollows,
    loss: Vec<f64>,
    drains: Vec<usize>,
    watched: Vec<Watched>,
    intensities: Vec<f64>,
    /// Length of a step of the storm, hours.
    step_h: f64,
    /// Length of a step of the ground while it rains, seconds.
    ground_s: f64,
    words: String,
    /// What the roof lets go, step by step.
    roofed: Vec<Roofed>,
    /// How far from the wall water is let go when it is led away, metres.
    pub(crate) led_out_m: f64,
}

/// The ground as the storm meets it.
fn land_of(s: &Surfaced, closed: bool) -> Land {
    let g = &s.grid;
    let known = |k: usize| g.cells[k] == Cell::Ground;
    let z: Vec<f64> = (0..g.z.len()).map(|k| if known(k) { g.z[k] } else { f64::NAN }).collect();
    let open = (0..g.z.len()).map(|k| !closed && known(k) && g.at_edge(k)).collect();
    Land { nx: g.lay.nx, ny: g.lay.ny, cell_m: g.lay.cell, z, open }
}

impl<'a> Prepared<'a> {
    pub(crate) fn new(survey: &'a Survey, input: &'a GroundInput, wanted: Wanted) -> Result<Prepared<'a>, RainTestError> {
        let missing = |m: &str| RainTestError::Missing(m.to_owned());
        let s =
            survey.surface.as_ref().ok_or_else(|| missing("There is no surface yet: read at least three heights around the building."))?;
        let kept = &input.rainwater;
        let of_years = |y: f64| kept.rains.iter().chain([&kept.storm]).find(|r| r.years == Some(y));
        let storm: &Storm = wanted
            .years
            .map_or(Some(&kept.storm), of_years)
            .ok_or_else(|| missing("There is no rain of that return period. Take it from the weather office."))?;
        let law = law_of(storm).map_err(RainTestError::Missing)?;
        let (step_h, ground_s, intensities) = match wanted.lasts {
            Lasts::Hour => (STEP_H, GROUND_S, hyetograph(&law)),
            Lasts::Day => (DAY_STEP_H, GROUND_DAY_S, hyetograph_of(&law, DAY_STEPS, DAY_STEP_H)),
        };
        let depth: f64 = intensities.iter().map(|i| i * step_h).sum();
        let words = format!(
            "{}, {} in all, {} at its height{}.",
            wanted.lasts.words(),
            input.practice.units.rain_depth(depth),
            input.practice.units.rain(intensities.iter().copied().fold(0.0, f64::max)),
            storm.years.map(|y| format!(", once in {y:.0} years")).unwrap_or_default()
        );
        let at = |n: &super::record::NearbyRecord| survey.place.point(&n.at).ok().and_then(|p| s.grid.lay.cell_at(p));
        let land = land_of(s, input.ground.edge == GroundEdge::Closed);
        let drains =
            input.ground.nearby.iter().filter(|n| n.kind == NearbyKind::Drain).filter_map(at).filter(|k| land.is_land(*k)).collect();
        let hollows = Hollows::of(&land);
        let loss_m_s = input.ground.loss_mm_h() / 3.6e6;
        let loss = s.paved.iter().map(|p| if *p { 0.0 } else { loss_m_s }).collect();
        let watched = watched(survey, s, &hollows);
        // Led away means past the ground that the practice wants to fall away from the wall.
        let practice = &input.practice;
        let led_out_m = practice.rule("discharge-distance").figure().max(practice.rule("soil-fall").named("over_m").unwrap_or(0.0));
        let roofed = at_every_rain(input, &intensities, step_h * 60.0);
        Ok(Prepared { survey, s, input, land, hollows, loss, drains, watched, intensities, step_h, ground_s, words, roofed, led_out_m })
    }

    /// The cell a point of the plan lies over, or the ground next to it when that is a wall.
    fn lands(&self, north: [f64; 2]) -> Option<usize> {
        self.s.grid.lay.cell_at(self.survey.building(north)).and_then(|k| self.ground_near(k))
    }

    /// Where the water of one step lands, with what is built otherwise: origin, cell, litres.
    fn sources(&self, r: &Roofed, otherwise: &Otherwise) -> Vec<(Origin, Option<usize>, f64)> {
        let mut out: Vec<(Origin, Option<usize>, f64)> = Vec::new();
        let let_go = |gutter: &str, eave: usize, at: [f64; 2], distance: f64| {
            let away = if otherwise.led_out.contains(gutter) { distance.max(self.led_out_m) } else { distance };
            self.lands(self.let_go(&r.eaves[eave], at, away))
        };
        for (gutter, eave, at, distance, litres) in &r.outlets {
            out.push((Origin::Outlet(gutter.clone()), let_go(gutter, *eave, *at, *distance), *litres));
        }
        for (gutter, at, litres) in &r.brims {
            let outlets: Vec<_> = r.outlets.iter().filter(|o| o.0 == *gutter).collect();
            if !otherwise.no_spill.contains(gutter) || outlets.is_empty() {
                out.push((Origin::Brim(gutter.clone()), self.lands(*at), *litres));
                continue;
            }
            // What spills no more goes out of the outlets of that gutter, as much as each takes already.
            let all: f64 = outlets.iter().map(|o| o.4).sum();
            for (_, eave, at, distance, takes) in &outlets {
                let part = if all > 0.0 { takes / all } else { 1.0 / outlets.len() as f64 };
                out.push((Origin::Outlet(gutter.clone()), let_go(gutter, *eave, *at, *distance), litres * part));
            }
        }
        for (gutter, eave, at, litres) in r.buried.iter().filter(|_| otherwise.blocked) {
            out.push((Origin::Outlet(gutter.clone()), let_go(gutter, *eave, *at, 0.0), *litres));
        }
        for (k, litres) in &r.free {
            let e = &r.eaves[*k];
            let origin = || Origin::Eave(e.label.clone());
            if otherwise.hung.contains(&e.label) {
                // Its gutter lets go at the end where the ground lies lower.
                let at = |end: [f64; 2]| self.lands(self.let_go(e, end, self.led_out_m));
                let height = |c: &Option<usize>| c.map_or(f64::INFINITY, |k| self.s.grid.z[k]);
                let [a, b] = e.ends_m.map(at);
                out.push((origin(), if height(&a) <= height(&b) { a } else { b }, *litres));
                continue;
            }
            // An eave without a gutter pours along all of its length.
            const PIECES: usize = 16;
            for n in 0..PIECES {
                let t = (n as f64 + 0.5) / PIECES as f64;
                let at = [e.ends_m[0][0] * (1.0 - t) + e.ends_m[1][0] * t, e.ends_m[0][1] * (1.0 - t) + e.ends_m[1][1] * t];
                out.push((origin(), self.lands(at), litres / PIECES as f64));
            }
        }
        out
    }

    /// Where water let go so far from the wall lands: straight out from the face whose eave the gutter hangs under.
    fn let_go(&self, eave: &EaveAccount, outlet: [f64; 2], distance: f64) -> [f64; 2] {
        let place = &self.survey.place;
        let mass = eave.key.split(['.', '|']).next().unwrap_or_default();
        let Some(k) = place.ids.iter().position(|i| i == mass) else { return outlet };
        let s = &place.standing[k];
        // A turned mass lets go straight out from the side its eave is on, whatever the wheel calls it.
        let outlet = self.survey.building(outlet);
        let out = |f: &Face| s.off_face(*f, outlet)[1];
        let face = if s.turned_deg == 0.0 {
            eave.face
        } else {
            Face::ALL.into_iter().min_by(|a, b| out(a).total_cmp(&out(b))).unwrap_or(eave.face)
        };
        to_north(s.point(face, s.off_face(face, outlet)[0], -distance), place.front)
    }

    /// The cell itself, or the ground next to it when it is a wall: water let go at the foot of a wall runs beside it.
    fn ground_near(&self, k: usize) -> Option<usize> {
        if self.s.grid.cells[k] == Cell::Ground {
            return Some(k);
        }
        let near = self.s.grid.lay.around(k).map(|(o, _)| o).find(|o| self.s.grid.cells[*o] == Cell::Ground);
        near.filter(|_| self.s.grid.cells[k] == Cell::Wall)
    }

    /// Runs the storm; `on_step` sees every step and says whether to go on.
    pub(crate) fn run(&self, otherwise: &Otherwise, on_step: &mut dyn FnMut(&RainStep) -> bool) -> Result<RainTest, RainTestError> {
        let mut origins = vec![Origin::Rain, Origin::NeighboursRain];
        let mut number = |o: &Origin| {
            origins.iter().position(|k| k == o).unwrap_or_else(|| {
                origins.push(o.clone());
                origins.len() - 1
            })
        };
        type Comes = Vec<(usize, Option<usize>, f64)>;
        let by_step: Vec<Comes> = self
            .roofed
            .iter()
            .map(|r| self.sources(r, otherwise).into_iter().map(|(o, cell, litres)| (number(&o), cell, litres)).collect())
            .collect();
        let sprays: Vec<(usize, Option<usize>, f64, f64)> = self
            .input
            .ground
            .nearby
            .iter()
            .filter(|n| n.kind == NearbyKind::SprayHead && !otherwise.off.contains(&n.id))
            .map(|n| {
                let cell = self.survey.place.point(&n.at).ok().and_then(|p| self.s.grid.lay.cell_at(p)).and_then(|k| self.ground_near(k));
                (number(&Origin::SprayHead(n.id.clone())), cell, n.flow().unwrap_or_default(), n.lasts().unwrap_or_default())
            })
            .collect();
        let account = &self.survey.account;
        let deepest = |w: &Watched| self.hollows.nodes[w.leaves[0]].lowest as usize;
        let led = self.watched.iter().filter(|w| otherwise.drained.contains(&account.ponds[w.pond].id)).map(deepest);
        let drains = self.drains.iter().copied().chain(led).map(|cell| Drain { cell, takes: f64::INFINITY }).collect();
        let mut waters = Waters::new(&self.land, &self.hollows, &self.loss, drains, origins.len());
        let rains = |k: usize| {
            let there = self.s.neighbour[k];
            (!(self.s.roofed[k] || there && otherwise.turned)).then_some(if there { RAIN_THERE } else { RAIN_HERE })
        };
        let turned_m2 = if otherwise.turned {
            let theirs = (0..self.land.z.len()).filter(|k| self.land.is_land(*k) && !self.s.roofed[*k] && self.s.neighbour[*k]).count();
            theirs as f64 * self.land.cell_m2()
        } else {
            0.0
        };
        let mut fullest: Vec<Fullest> = vec![Fullest::default(); self.watched.len()];
        let mut all = Litres::default();
        let mut steps: Vec<RainStep> = Vec::new();
        let (mut carried, mut lost) = (0.0, 0.0);
        let watched_h = WATCHED_H.max(self.intensities.len() as f64 * self.step_h + AFTER_RAIN_H);
        let mut hours = 0.0;
        while hours < watched_h - 1e-9 {
            let step = steps.len();
            let storm = step < self.intensities.len();
            let dt = if storm { self.step_h } else { AFTER_H.min(watched_h - hours) };
            let rain_mm_h = if storm { self.intensities[step] } else { 0.0 };
            let mut comes: Comes = by_step.get(step).cloned().unwrap_or_default();
            for (origin, cell, flow, minutes) in &sprays {
                let runs = (minutes - hours * 60.0).clamp(0.0, dt * 60.0);
                all.spray += flow * runs;
                comes.push((*origin, *cell, flow * runs));
            }
            let (mut spilt_l_min, mut outlets_l_min) = (0.0, 0.0);
            if let Some(r) = self.roofed.get(step) {
                (spilt_l_min, outlets_l_min) = (r.spilt_l_min, r.outlets_l_min);
                all.roof += r.roof;
                all.walls += r.walls;
                all.held += r.held;
                carried += r.piped;
                carried += r.buried.iter().filter(|_| !otherwise.blocked).map(|b| b.3).sum::<f64>();
            }
            carried += turned_m2 * rain_mm_h * dt;
            lost += comes.iter().filter(|c| c.1.is_none()).map(|c| c.2).sum::<f64>();
            let pieces = (dt * 3600.0 / if storm { self.ground_s } else { GROUND_AFTER_S }).round().max(1.0);
            let sources: Vec<(usize, usize, f64)> =
                comes.iter().filter_map(|(o, cell, l)| cell.map(|k| (k, *o, l / 1000.0 / pieces))).filter(|s| s.2 > 0.0).collect();
            for _ in 0..pieces as usize {
                let seconds = dt * 3600.0 / pieces;
                waters.step(seconds, rain_mm_h / 3.6e6 * seconds, &rains, &sources);
                self.watch(&waters, &mut fullest, seconds / 3600.0);
            }
            hours += dt;
            all.ground = waters.went.rained * 1000.0 + turned_m2 * self.fell(hours);
            all.soaked = waters.went.soaked * 1000.0;
            all.left = waters.went.left * 1000.0 + lost;
            all.carried = carried + waters.went.drained * 1000.0;
            all.stands = waters.standing() * 1000.0;
            let ponds = self.watched.iter().map(|w| self.now(w, &waters)).collect();
            let now = RainStep { minute: hours * 60.0, rain_mm_h, spilt_l_min, outlets_l_min, ponds, litres: all };
            let go_on = on_step(&now);
            steps.push(now);
            if !go_on {
                return Err(RainTestError::Stopped);
            }
        }
        let wet = self.wet(&origins, &fullest, &waters, hours);
        Ok(RainTest {
            storm: self.words.clone(),
            dry: self.dry(&wet),
            ways_in: self.ways_in(&fullest),
            wet,
            steps,
            litres: all,
            balance: balance(&all, self.input.practice.units),
            if_blocked: None,
        })
    }

    /// The gutters whose water goes into pipes of unknown end, each once, and how much goes there in the storm, litres.
    fn buried(&self) -> (Vec<&str>, f64) {
        let all = || self.roofed.iter().flat_map(|r| &r.buried).filter(|b| b.3 > 0.0);
        let mut of: Vec<&str> = all().map(|b| b.0.as_str()).collect();
        of.sort_unstable();
        of.dedup();
        (of, all().map(|b| b.3).sum())
    }

    /// The same storm with the buried pipes blocked, held against that in which they carry off all they are given. None where there is
    /// no such pipe: with one, the truth lies between the two.
    fn if_blocked(&self, open: &RainTest) -> Result<Option<IfBlocked>, RainTestError> {
        let (of, litres) = self.buried();
        if of.is_empty() {
            return Ok(None);
        }
        let blocked = self.run(&Otherwise { blocked: true, ..Otherwise::default() }, &mut |_| true)?;
        let u = self.input.practice.units;
        let hours = |t: &RainTest| t.wet.iter().map(|w| w.wall_metre_hours).sum::<f64>();
        let deepest = |t: &RainTest| t.wet.iter().filter(|w| !w.walls.is_empty()).map(|w| w.depth_m).fold(0.0, f64::max);
        let pipes = if of.len() == 1 { "a pipe whose end nobody knows".to_owned() } else { "pipes whose ends nobody knows".to_owned() };
        let mut words = format!(
            "{} of {} go into {pipes}, and are taken to be carried off. Blocked, they come up at the foot of the downspout: ",
            u.water(litres / 1000.0),
            crate::trace::say::in_a_row(&of.iter().map(|g| (*g).to_owned()).collect::<Vec<_>>())
        );
        words.push_str(&match (deepest(open), deepest(&blocked)) {
            (_, b) if b <= 0.0 => "still nothing stands against a wall.".to_owned(),
            (a, b) if a <= 0.0 => format!("then {} stand against a wall, where now nothing does.", u.depth(b)),
            (a, b) if b > a + 1e-3 || hours(&blocked) > hours(open) * 1.05 => {
                format!("then {} stand against a wall instead of {}, and walls are wet for longer.", u.depth(b), u.depth(a))
            }
            _ => "walls are wet no deeper for it.".to_owned(),
        });
        words.push_str(" Run a hose into them and look where it comes out.");
        Ok(Some(IfBlocked { gutters: of.into_iter().map(str::to_owned).collect(), litres, words, wet: blocked.wet, taken: blocked.litres }))
    }

    /// Rain that fell until an hour of the storm, mm.
    fn fell(&self, hours: f64) -> f64 {
        let whole = |n: usize| (hours / self.step_h - n as f64).clamp(0.0, 1.0);
        self.intensities.iter().enumerate().map(|(n, i)| i * self.step_h * whole(n)).sum()
    }

    /// Keeps the fullest moment of every pond, and how much wall it wets for how long.
    fn watch(&self, waters: &Waters<'_>, fullest: &mut [Fullest], hours: f64) {
        for (w, f) in self.watched.iter().zip(fullest) {
            let (volume, of) = waters.held_by(&w.leaves);
            if volume > f.volume {
                f.minute = if volume > f.volume * 1.001 { waters.minutes } else { f.minute };
                (f.volume, f.of) = (volume, of);
                f.levels = w.leaves.iter().map(|l| waters.at_leaf(*l).1).collect();
            }
            let brim = self.survey.account.ponds[w.pond].brim_m.unwrap_or(f64::INFINITY);
            if waters.at_leaf(w.leaves[0]).1 >= brim - 1e-6 {
                f.over_from.get_or_insert(waters.minutes);
            }
            let level = |k: usize| waters.at_leaf(self.hollows.basin[k] as usize).1;
            let wet = w.at_wall.iter().filter(|(k, _, _)| level(*k) > self.land.z[*k] + WET_WALL_M).count();
            f.wall_metre_hours += wet as f64 * self.land.cell_m * hours;
        }
    }

    fn now(&self, w: &Watched, waters: &Waters<'_>) -> PondNow {
        let pond = &self.survey.account.ponds[w.pond];
        let (_, level, _) = waters.at_leaf(w.leaves[0]);
        let (volume, _) = waters.held_by(&w.leaves);
        let bottom = self.land.z[self.hollows.nodes[w.leaves[0]].lowest as usize];
        let dry = !level.is_finite();
        PondNow {
            id: pond.id.clone(),
            level_m: if dry { bottom } else { level },
            depth_m: if dry { 0.0 } else { level - bottom },
            volume_m3: volume,
            over: !dry && pond.brim_m.is_some_and(|b| level >= b - 1e-6),
        }
    }
}

fn balance(l: &Litres, u: Units) -> String {
    let m3 = |v: f64| u.water(v / 1000.0);
    format!(
        "In: {} on the roof and its walls, {} on the ground{}. Out: {} taken by the soil, {} left the known ground{}; {} still stand. The sums differ by {:.4} %.",
        m3(l.roof + l.walls),
        m3(l.ground),
        if l.spray > 0.0 { format!(", {} from spray heads", m3(l.spray)) } else { String::new() },
        m3(l.soaked),
        m3(l.left),
        if l.carried + l.held > 0.5 { format!(", {} in pipes or held on roofs", m3(l.carried + l.held)) } else { String::new() },
        m3(l.stands),
        (l.misses() * 100.0).abs()
    )
}

/// Runs a storm over a place; `on_step` sees every step as it is worked out and says whether to go on.
///
/// # Errors
/// [`RainTestError`] when something is missing, or somebody stopped it.
pub fn rain_test(
    survey: &Survey,
    input: &GroundInput,
    wanted: Wanted,
    on_step: &mut dyn FnMut(&RainStep) -> bool,
) -> Result<RainTest, RainTestError> {
    let storm = Prepared::new(survey, input, wanted)?;
    let open = storm.run(&Otherwise::default(), on_step)?;
    Ok(RainTest { if_blocked: storm.if_blocked(&open)?, ..open })
}
