//! One storm over the whole place: rain on the roof, through the gutters, over their brims and out of their ends, onto the ground,
//! into the hollows, and away. Every litre carries where it came from, because the cheapest mend is at its origin.
//!
//! The ground passes water on at once; a hollow fills from its deepest place, and when it is full it runs over to the next. Within
//! a hollow all water is mixed. Rain on soil counts less the soil's loss; standing water seeps away at the same rate. What
//! leaves the known ground is let go. All of it is an estimate for steady five-minute steps.

use super::origin::Origin;
use super::record::NearbyKind;
pub use super::storm::{FromWhere, Litres, PondNow, RainStep, RainTest, RainTestError, RainTestInput, WetPlace};
use super::surface::{Cell, DRY};
use super::survey::{GroundInput, Surfaced, Survey, contacts};
use crate::measure::Units;
use crate::rain::account::{EaveAccount, RainAccountInput, rain_account};
use crate::rain::design::{Rain, RainInput, rain};
use crate::rain::record::{Ends, Storm, intensity};
use crate::roof::record::{metres, to_north};
use crate::site::Face;
use std::collections::{BTreeMap, BTreeSet};

/// Five minutes, hours.
const STEP_H: f64 = 5.0 / 60.0;
/// Steps of the storm: one hour.
const STORM_STEPS: usize = 12;
/// The place is watched for so many hours after the storm begins.
pub const WATCHED_H: f64 = 24.0;
/// Steps after the storm are longer: half an hour.
const AFTER_H: f64 = 0.5;

/// Intensities of a storm of one hour in steps of five minutes: each duration from five minutes to sixty has the depth of the
/// law, the burst in the middle, the rest by turns before and after it.
pub fn hyetograph(law: &Rain) -> Vec<f64> {
    let depth = |n: usize| law.intensity(5.0 * n as f64) * 5.0 * n as f64 / 60.0;
    let blocks: Vec<f64> = (1..=STORM_STEPS).map(|n| (depth(n) - if n > 1 { depth(n - 1) } else { 0.0 }).max(0.0) / STEP_H).collect();
    let mut out = vec![0.0; STORM_STEPS];
    let middle = STORM_STEPS / 2;
    for (n, b) in blocks.iter().enumerate() {
        // 0, +1, −1, +2, −2 … about the middle.
        let away = n.div_ceil(2) as isize;
        let at = middle as isize + if n % 2 == 1 { -away } else { away };
        out[at.rem_euclid(STORM_STEPS as isize) as usize] = *b;
    }
    out
}

/// Water that arrives on the ground at one place in one step.
struct Source {
    origin: usize,
    cell: Option<usize>,
    litres: f64,
}

/// Where the water of a cell ends up: a hollow, or away.
type Node = u32;

struct Ways {
    /// By cell.
    to: Vec<Node>,
    /// By hollow: where it runs over to.
    over: Vec<Node>,
    /// Hollows from the highest brim down: each before those it runs over to.
    order: Vec<usize>,
    /// By hollow: ground that drains into it, by what it is: soil, paving, neighbour's soil, neighbour's paving, m².
    catch: Vec<[f64; 4]>,
    /// The same of ground that drains away.
    away: [f64; 4],
    /// Hollows with a drain in them.
    drained: BTreeSet<usize>,
}

fn ways(s: &Surfaced, drains: &[usize]) -> Ways {
    let n = s.grid.cells.len();
    let mut to = vec![DRY; n];
    for k in s.water.order.iter().map(|k| *k as usize) {
        let next = s.water.next[k] as usize;
        to[k] = if s.water.pond[k] != DRY {
            s.water.pond[k]
        } else if next == k {
            DRY
        } else {
            to[next]
        };
    }
    // Ground closed in by walls stands in no order.
    for k in (0..n).filter(|k| s.grid.cells[*k] == Cell::Ground && s.water.next[*k] == DRY) {
        to[k] = s.water.pond[k];
    }
    // A drain on sloping ground takes what comes past it.
    let over: Vec<Node> = s.water.ponds.iter().map(|p| if p.spills_at == DRY { DRY } else { to[p.spills_at as usize] }).collect();
    let mut order: Vec<usize> = (0..s.water.ponds.len()).collect();
    order.sort_by(|a, b| s.water.ponds[*b].brim.total_cmp(&s.water.ponds[*a].brim));
    let mut catch = vec![[0.0; 4]; s.water.ponds.len()];
    let mut away = [0.0; 4];
    for k in (0..n).filter(|k| s.grid.cells[*k] == Cell::Ground && !s.roofed[*k]) {
        let kind = usize::from(s.paved[k]) + 2 * usize::from(s.neighbour[k]);
        let to = if to[k] == DRY { &mut away } else { &mut catch[to[k] as usize] };
        to[kind] += s.grid.cell_m2();
    }
    let drained = drains.iter().map(|k| s.water.pond[*k]).filter(|p| *p != DRY).map(|p| p as usize).collect();
    Ways { to, over, order, catch, away, drained }
}

/// What is sent otherwise than it is built: origins whose water is led away, and hollows that are drained.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct Otherwise {
    pub(crate) led_away: BTreeSet<Origin>,
    pub(crate) drained: BTreeSet<String>,
}

const RAIN_HERE: usize = 0;
const RAIN_THERE: usize = 1;

/// One storm, ready to be stepped.
pub(crate) struct Prepared<'a> {
    survey: &'a Survey,
    s: &'a Surfaced,
    input: &'a GroundInput,
    ways: Ways,
    pub(crate) origins: Vec<Origin>,
    index: BTreeMap<Origin, usize>,
    intensities: Vec<f64>,
    words: String,
    /// By intensity step, once worked out: sources, and litres per minute spilt and let go, held, carried.
    known: Vec<Option<Roofed>>,
}

struct Roofed {
    sources: Vec<Source>,
    spilt_l_min: f64,
    outlets_l_min: f64,
    roof: f64,
    walls: f64,
    held: f64,
    carried: f64,
}

impl<'a> Prepared<'a> {
    pub(crate) fn new(survey: &'a Survey, input: &'a GroundInput, years: Option<f64>) -> Result<Prepared<'a>, RainTestError> {
        let missing = |m: &str| RainTestError::Missing(m.to_owned());
        let s =
            survey.surface.as_ref().ok_or_else(|| missing("There is no surface yet: read at least three heights around the building."))?;
        let kept = &input.rainwater;
        let of_years = |y: f64| kept.rains.iter().chain([&kept.storm]).find(|r| r.years == Some(y));
        let storm: &Storm = years
            .map_or(Some(&kept.storm), of_years)
            .ok_or_else(|| missing("There is no rain of that return period. Take it from the weather office."))?;
        let law = intensity("The rain over 5 minutes", &storm.i5)
            .and_then(|i5| Ok((i5, intensity("The rain over 60 minutes", &storm.i60)?)))
            .and_then(|(i5_mm_h, i60_mm_h)| {
                rain(&RainInput { return_period_years: storm.years, i5_mm_h, i60_mm_h }).map_err(|e| e.to_string())
            })
            .map_err(RainTestError::Missing)?;
        let intensities = hyetograph(&law);
        let depth: f64 = intensities.iter().map(|i| i * STEP_H).sum();
        let words = format!(
            "One hour, {} in all, {} at its height{}.",
            input.practice.units.rain_depth(depth),
            input.practice.units.rain(intensities.iter().copied().fold(0.0, f64::max)),
            storm.years.map(|y| format!(", once in {y:.0} years")).unwrap_or_default()
        );
        let at = |n: &super::record::NearbyRecord| survey.place.point(&n.at).ok().and_then(|p| s.grid.lay.cell_at(p));
        let drains: Vec<usize> = input.ground.nearby.iter().filter(|n| n.kind == NearbyKind::Drain).filter_map(at).collect();
        let mut out = Prepared {
            survey,
            s,
            input,
            ways: ways(s, &drains),
            origins: vec![Origin::Rain, Origin::NeighboursRain],
            index: BTreeMap::new(),
            known: intensities.iter().map(|_| None).collect(),
            intensities,
            words,
        };
        for (k, o) in out.origins.iter().enumerate() {
            out.index.insert(o.clone(), k);
        }
        Ok(out)
    }

    fn origin(&mut self, origin: Origin) -> usize {
        *self.index.entry(origin.clone()).or_insert_with(|| {
            self.origins.push(origin);
            self.origins.len() - 1
        })
    }

    /// What the roof lets go in one step, and where it lands.
    fn roof(&mut self, step: usize) {
        if self.known[step].is_some() {
            return;
        }
        let rain_mm_h = self.intensities[step];
        let a = rain_account(&RainAccountInput {
            roof: self.input.roof.clone(),
            rainwater: self.input.rainwater.clone(),
            front_faces: self.input.brief.front_faces,
            practice: self.input.practice.clone(),
            at_mm_h: Some(rain_mm_h.max(1e-6)),
            remedies: false,
        });
        let minutes = STEP_H * 60.0;
        let mut out = Roofed {
            sources: vec![],
            spilt_l_min: a.sums.spilt,
            outlets_l_min: a.sums.outlets,
            roof: a.sums.roof * minutes,
            walls: a.sums.walls * minutes,
            held: a.sums.held * minutes,
            carried: 0.0,
        };
        let lands = |north: [f64; 2]| self.s.grid.lay.cell_at(self.survey.building(north)).and_then(|k| self.ground_near(k));
        let mut add: Vec<(Origin, Option<usize>, f64)> = Vec::new();
        for g in &a.gutters {
            let Some(record) = self.input.rainwater.gutters.iter().find(|r| r.id == g.id) else { continue };
            let Some(eave) = a.eaves.iter().find(|e| e.key == record.eave) else { continue };
            for s in g.spills.iter().filter(|s| !s.onto_roof) {
                add.push((Origin::Brim(g.id.clone()), lands(s.at), s.l_min * minutes));
            }
            let pipes = record.outlets.iter().filter(|o| o.ends != Ends::Nowhere);
            for (o, kept) in g.outlets.iter().zip(pipes).filter(|(o, _)| o.onto.is_none()) {
                let litres = o.l_min * minutes;
                if kept.ends == Ends::BuriedPipe {
                    out.carried += litres;
                    continue;
                }
                add.push((Origin::Outlet(g.id.clone()), lands(self.let_go(eave, o.at, metres("", &kept.distance).unwrap_or(0.0))), litres));
            }
        }
        // An eave without a gutter pours along all of its length.
        let working = |id: &Option<String>| a.gutters.iter().any(|g| Some(&g.id) == id.as_ref() && g.run.is_some());
        for e in a.eaves.iter().filter(|e| !working(&e.gutter) && e.drops_m.is_none() && e.l_min > 0.0) {
            const PIECES: usize = 16;
            for k in 0..PIECES {
                let t = (k as f64 + 0.5) / PIECES as f64;
                let at = [e.ends_m[0][0] * (1.0 - t) + e.ends_m[1][0] * t, e.ends_m[0][1] * (1.0 - t) + e.ends_m[1][1] * t];
                add.push((Origin::Eave(e.label.clone()), lands(at), e.l_min * minutes / PIECES as f64));
            }
        }
        for (origin, cell, litres) in add {
            let origin = self.origin(origin);
            out.sources.push(Source { origin, cell, litres });
        }
        self.known[step] = Some(out);
    }

    /// Where water let go so far from the wall lands: straight out from the face whose eave the gutter hangs under.
    fn let_go(&self, eave: &EaveAccount, outlet: [f64; 2], distance: f64) -> [f64; 2] {
        let place = &self.survey.place;
        let mass = eave.key.split(['.', '|']).next().unwrap_or_default();
        let Some(k) = place.ids.iter().position(|i| i == mass) else { return outlet };
        let [x, y] = self.survey.building(outlet);
        let s = &place.standing[k];
        let at = match eave.face {
            Face::Front => [x, s.y - distance],
            Face::Rear => [x, s.y + s.depth + distance],
            Face::Left => [s.x - distance, y],
            Face::Right => [s.x + s.length + distance, y],
        };
        to_north(at, place.front)
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
    pub(crate) fn run(&mut self, otherwise: &Otherwise, on_step: &mut dyn FnMut(&RainStep) -> bool) -> Result<RainTest, RainTestError> {
        for k in 0..self.intensities.len() {
            // Every origin is known before the ponds are mixed, so that they can be summed by number.
            self.roof(k);
        }
        let sprays: Vec<(usize, Option<usize>, f64, f64)> = self
            .input
            .ground
            .nearby
            .iter()
            .filter(|n| n.kind == NearbyKind::SprayHead)
            .map(|n| {
                let number = |t: &str| t.trim().parse::<f64>().unwrap_or(0.0);
                let cell = self.survey.place.point(&n.at).ok().and_then(|p| self.s.grid.lay.cell_at(p)).and_then(|k| self.ground_near(k));
                (n.id.clone(), cell, number(&n.flow_l_min), number(&n.minutes))
            })
            .collect::<Vec<_>>()
            .into_iter()
            .map(|(id, cell, flow, minutes)| (self.origin(Origin::SprayHead(id)), cell, flow, minutes))
            .collect();
        let (grid, ponds, account) = (&self.s.grid, &self.s.water.ponds, &self.survey.account);
        let led_away: Vec<bool> = self.origins.iter().map(|o| otherwise.led_away.contains(o)).collect();
        let drained = |p: usize| {
            self.ways.drained.contains(&p)
                || self.s.named.get(&(p as u32)).is_some_and(|n| otherwise.drained.contains(&account.ponds[*n].id))
        };
        let capacity: Vec<f64> = ponds.iter().map(|p| p.capacity(grid) * 1000.0).collect();
        let loss = self.input.ground.loss_mm_h();
        let n = self.origins.len();
        let mut held: Vec<Vec<f64>> = vec![vec![0.0; n]; ponds.len()];
        let mut came: Vec<Vec<f64>> = vec![vec![0.0; n]; ponds.len()];
        let mut fullest: Vec<(f64, f64)> = vec![(0.0, 0.0); ponds.len()];
        let mut over_from: Vec<Option<f64>> = vec![None; ponds.len()];
        let mut gone: Vec<Option<f64>> = vec![None; ponds.len()];
        let mut all = Litres::default();
        let mut steps: Vec<RainStep> = Vec::new();
        let mut hours = 0.0;
        while hours < WATCHED_H - 1e-9 {
            let step = steps.len();
            let storm = step < STORM_STEPS;
            let dt = if storm { STEP_H } else { AFTER_H.min(WATCHED_H - hours) };
            let rain_mm_h = if storm { self.intensities[step] } else { 0.0 };
            let mut inflow: Vec<Vec<f64>> = vec![vec![0.0; n]; ponds.len()];
            let mut over = vec![false; ponds.len()];
            // Rain on the ground, less what soil takes at once.
            let depth = rain_mm_h * dt;
            let runs = [(depth - loss * dt).max(0.0), depth, (depth - loss * dt).max(0.0), depth];
            for (kinds, node) in self.ways.catch.iter().zip(0_u32..).chain([(&self.ways.away, DRY)]) {
                for (kind, area) in kinds.iter().enumerate() {
                    let origin = if kind >= 2 { RAIN_THERE } else { RAIN_HERE };
                    all.ground += area * depth;
                    all.soaked += area * (depth - runs[kind]);
                    if led_away[origin] {
                        all.carried += area * runs[kind];
                    } else if node == DRY {
                        all.left += area * runs[kind];
                    } else {
                        inflow[node as usize][origin] += area * runs[kind];
                    }
                }
            }
            let (mut spilt_l_min, mut outlets_l_min) = (0.0, 0.0);
            let mut place = |origin: usize, cell: Option<usize>, litres: f64, all: &mut Litres| {
                if led_away[origin] {
                    all.carried += litres;
                    return;
                }
                match cell.map_or(DRY, |k| self.ways.to[k]) {
                    DRY => all.left += litres,
                    p => inflow[p as usize][origin] += litres,
                }
            };
            if let Some(r) = self.known.get(step).and_then(Option::as_ref) {
                (spilt_l_min, outlets_l_min) = (r.spilt_l_min, r.outlets_l_min);
                all.roof += r.roof;
                all.walls += r.walls;
                all.held += r.held;
                all.carried += r.carried;
                for s in &r.sources {
                    place(s.origin, s.cell, s.litres, &mut all);
                }
            }
            for (origin, cell, flow, minutes) in &sprays {
                let runs = (minutes - hours * 60.0).clamp(0.0, dt * 60.0);
                all.spray += flow * runs;
                place(*origin, *cell, flow * runs, &mut all);
            }
            // From the highest brim down: what comes in, what seeps, what runs over.
            for p in self.ways.order.iter().copied() {
                for o in 0..n {
                    came[p][o] += inflow[p][o];
                    held[p][o] += inflow[p][o];
                }
                let now: f64 = held[p].iter().sum();
                if now <= 0.0 {
                    continue;
                }
                if drained(p) {
                    all.carried += now;
                    held[p].fill(0.0);
                    continue;
                }
                let level = ponds[p].level(grid, now / 1000.0);
                let wet = ponds[p].cells.iter().filter(|k| grid.z[**k as usize] < level && !self.s.paved[**k as usize]).count() as f64
                    * grid.cell_m2();
                let seeps = (wet * loss * dt).min(now);
                all.soaked += seeps;
                let rest = now - seeps;
                let runs_over = (rest - capacity[p]).max(0.0);
                for o in 0..n {
                    let part = held[p][o] / now;
                    held[p][o] = part * (rest - runs_over);
                    if runs_over > 0.0 {
                        match self.ways.over[p] {
                            DRY => all.left += part * runs_over,
                            next => inflow[next as usize][o] += part * runs_over,
                        }
                    }
                }
                if runs_over > 0.0 {
                    over[p] = true;
                    over_from[p].get_or_insert((hours + dt) * 60.0);
                }
                let stands = rest - runs_over;
                if stands > fullest[p].0 {
                    fullest[p] = (stands, (hours + dt) * 60.0);
                }
                /// A thousandth of what it held at most is wet ground.
                const GONE: f64 = 1e-3;
                if stands <= fullest[p].0 * GONE && fullest[p].0 > 0.0 {
                    gone[p].get_or_insert(hours + dt);
                } else {
                    gone[p] = None;
                }
            }
            hours += dt;
            all.stands = held.iter().flatten().sum();
            let named = self.s.named.iter().map(|(p, k)| {
                let litres: f64 = held[*p as usize].iter().sum();
                let hollow = &ponds[*p as usize];
                let level = hollow.level(grid, litres / 1000.0);
                PondNow {
                    id: account.ponds[*k].id.clone(),
                    level_m: level,
                    depth_m: if litres > 0.0 { level - grid.z[hollow.cells[0] as usize] } else { 0.0 },
                    volume_m3: litres / 1000.0,
                    over: over[*p as usize],
                }
            });
            let now = RainStep { minute: hours * 60.0, rain_mm_h, spilt_l_min, outlets_l_min, ponds: named.collect(), litres: all };
            let go_on = on_step(&now);
            steps.push(now);
            if !go_on {
                return Err(RainTestError::Stopped);
            }
        }
        let wet = self.wet(&came, &fullest, &over_from, &gone);
        Ok(RainTest {
            storm: self.words.clone(),
            dry: self.dry(&wet),
            wet,
            steps,
            litres: all,
            balance: balance(&all, self.input.practice.units),
        })
    }

    fn wet(&self, came: &[Vec<f64>], fullest: &[(f64, f64)], over_from: &[Option<f64>], gone: &[Option<f64>]) -> Vec<WetPlace> {
        let (grid, ponds, account) = (&self.s.grid, &self.s.water.ponds, &self.survey.account);
        let u = self.input.practice.units;
        let mut out: Vec<WetPlace> = Vec::new();
        for (p, k) in &self.s.named {
            let p = *p as usize;
            let (litres, when) = fullest[p];
            let level = ponds[p].level(grid, litres / 1000.0);
            let depth_m = level - grid.z[ponds[p].cells[0] as usize];
            /// Less than this wets shoes, metres.
            const WET_M: f64 = 0.003;
            if litres <= 0.0 || depth_m < WET_M {
                continue;
            }
            let walls = contacts(self.input, &self.survey.place, self.s, p, level);
            let all: f64 = came[p].iter().sum();
            let mut from: Vec<FromWhere> = came[p]
                .iter()
                .zip(&self.origins)
                .filter(|(v, _)| **v > 0.0)
                .map(|(v, o)| FromWhere { origin: o.words(), source: o.clone(), share: v / all, litres: *v })
                .collect();
            from.sort_by(|a, b| b.share.total_cmp(&a.share));
            let pond = &account.ponds[*k];
            let wall_m: f64 = walls.iter().map(|w| w.length_m).sum();
            let against = if walls.is_empty() { String::new() } else { format!(" against {} of wall", u.length(wall_m, 1)) };
            let mut sentence = format!(
                "{}: {} stand {} deep{against}",
                crate::roof::access::capital(&pond.place),
                u.water(litres / 1000.0),
                u.depth(depth_m)
            );
            if let Some(f) = from.first() {
                sentence.push_str(&format!("; {:.0} % of it came {}", f.share * 100.0, f.source.came()));
            }
            sentence.push('.');
            if let Some(c) = walls.iter().filter_map(|w| w.clearance_m).min_by(f64::total_cmp) {
                sentence.push_str(&if c < 0.0 {
                    format!(" The cladding stands {} in it.", u.depth(-c))
                } else {
                    format!(" The cladding stays {} above it.", u.depth(c))
                });
            }
            sentence.push_str(&match gone[p] {
                Some(h) => format!(" Gone after {h:.0} hours."),
                None => format!(" Some of it still stands after {WATCHED_H:.0} hours."),
            });
            out.push(WetPlace {
                pond: pond.id.clone(),
                place: pond.place.clone(),
                face: pond.face,
                sentence,
                volume_m3: litres / 1000.0,
                depth_m,
                walls,
                fullest_min: when,
                over_from_min: over_from[p],
                gone_h: gone[p],
                from,
            });
        }
        // Against a wall first, then by how much.
        out.sort_by(|a, b| a.walls.is_empty().cmp(&b.walls.is_empty()).then(b.volume_m3.total_cmp(&a.volume_m3)));
        out
    }

    fn dry(&self, wet: &[WetPlace]) -> Vec<String> {
        let stands = |f: &super::survey::GroundFace| wet.iter().any(|w| w.walls.iter().any(|c| c.mass == f.mass && c.face == f.face));
        let name = |mass: &str| {
            self.survey.place.ids.iter().position(|i| i == mass).map_or(mass.to_owned(), |k| self.survey.place.names[k].clone())
        };
        let faces = self.survey.account.faces.iter().filter(|f| !stands(f));
        faces.map(|f| format!("{} of the {}: stays clear of standing water in this storm.", f.face.name(), name(&f.mass))).collect()
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
    years: Option<f64>,
    on_step: &mut dyn FnMut(&RainStep) -> bool,
) -> Result<RainTest, RainTestError> {
    Prepared::new(survey, input, years)?.run(&Otherwise::default(), on_step)
}
