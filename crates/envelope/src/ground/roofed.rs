//! What roof, gutters and downspouts let go in each step of a storm.

use super::survey::GroundInput;
use crate::cores::both;
use crate::rain::account::{Asked, EaveAccount, RainAccount, RainAccountInput, rain_on};
use crate::rain::record::{Ends, Rainwater};
use crate::roof::record::metres;
use crate::roof::shape::{RoofInput, shape};
use std::cell::RefCell;

/// A step without rain is worked out as next to none, mm/h.
const DRIZZLE_MM_H: f64 = 1e-6;

/// Water the roof lets go in one step, before it is said where it lands.
pub(super) struct Roofed {
    /// Over brims: the gutter, the place, litres.
    pub(super) brims: Vec<(String, [f64; 2], f64)>,
    /// Out of downspouts: the gutter, its eave, the outlet, how far from the wall, litres.
    pub(super) outlets: Vec<(String, usize, [f64; 2], f64, f64)>,
    /// Off eaves without a gutter: the eave, litres.
    pub(super) free: Vec<(usize, f64)>,
    pub(super) eaves: Vec<EaveAccount>,
    pub(super) spilt_l_min: f64,
    pub(super) outlets_l_min: f64,
    pub(super) roof: f64,
    pub(super) walls: f64,
    pub(super) held: f64,
    /// Off flat roofs into pipes inside the building, litres.
    pub(super) piped: f64,
    /// Into a pipe whose end nobody knows: gutter, eave, where the downspout stands, litres.
    pub(super) buried: Vec<(String, usize, [f64; 2], f64)>,
}

impl Roofed {
    /// What the account of one intensity comes to over so many minutes.
    fn of(a: RainAccount, rainwater: &Rainwater, minutes: f64) -> Roofed {
        let mut out = Roofed {
            brims: vec![],
            outlets: vec![],
            free: vec![],
            eaves: vec![],
            spilt_l_min: a.sums.spilt,
            outlets_l_min: a.sums.outlets,
            roof: a.sums.roof * minutes,
            walls: a.sums.walls * minutes,
            held: a.sums.held * minutes,
            piped: 0.0,
            buried: vec![],
        };
        for g in &a.gutters {
            let Some(record) = rainwater.gutters.iter().find(|r| r.id == g.id) else { continue };
            out.brims.extend(g.spills.iter().filter(|s| !s.onto_roof).map(|s| (g.id.clone(), s.at, s.l_min * minutes)));
            let pipes = record.outlets.iter().filter(|o| o.ends != Ends::Nowhere);
            for (o, kept) in g.outlets.iter().zip(pipes).filter(|(o, _)| o.onto.is_none()) {
                let litres = o.l_min * minutes;
                let Some(eave) = a.eaves.iter().position(|e| e.key == o.eave) else { continue };
                if kept.ends == Ends::BuriedPipe {
                    out.buried.push((g.id.clone(), eave, o.at, litres));
                    continue;
                }
                out.outlets.push((g.id.clone(), eave, o.at, metres("", &kept.distance).unwrap_or(0.0), litres));
            }
        }
        // Drains and scuppers of flat roofs let go where a downspout would: at the wall that is nearest.
        for flat in &a.flats {
            let Some(record) = rainwater.flats.iter().find(|r| r.mass == flat.mass) else { continue };
            for (o, kept) in flat.outlets.iter().zip(&record.outlets).filter(|(o, _)| o.onto.is_none() && o.l_min > 0.0) {
                let comes_out = kept.ends == Ends::Ground || kept.ends == Ends::PipeToDaylight && !kept.distance.trim().is_empty();
                if !comes_out {
                    out.piped += o.l_min * minutes;
                    continue;
                }
                let off = |e: &EaveAccount| crate::plane::length(o.at, crate::plane::nearest(o.at, e.ends_m[0], e.ends_m[1]));
                let Some(eave) = (0..a.eaves.len()).min_by(|x, y| off(&a.eaves[*x]).total_cmp(&off(&a.eaves[*y]))) else { continue };
                let litres = o.l_min * minutes;
                out.outlets.push((flat.label.clone(), eave, o.at, metres("", &kept.distance).unwrap_or(0.0), litres));
            }
        }
        let working = |id: &Option<String>| a.gutters.iter().any(|g| Some(&g.id) == id.as_ref() && g.run.is_some());
        let pours = |e: &EaveAccount| !working(&e.gutter) && e.drops_m.is_none() && e.l_min > 0.0;
        out.free = a.eaves.iter().enumerate().filter(|(_, e)| pours(e)).map(|(k, e)| (k, e.l_min * minutes)).collect();
        out.eaves = a.eaves;
        out
    }
}

/// What the roof lets go at each rain in so many minutes, by two threads. The rains go up, every second one to each thread: strong
/// rain, which takes longer, is shared, and each gutter's water is looked for from where it stood in the rain before.
pub(super) fn at_every_rain(input: &GroundInput, rains: &[f64], minutes: f64) -> Vec<Roofed> {
    let placed = input.roof.placed(input.brief.front_faces);
    let shape = placed.ok().and_then(|p| shape(&RoofInput { masses: p.masses }).ok());
    let sheds = RainAccountInput {
        roof: input.roof.clone(),
        rainwater: input.rainwater.clone(),
        front_faces: input.brief.front_faces,
        driving_rain_from: input.brief.driving_rain_from,
        practice: input.practice.clone(),
        at_mm_h: None,
        remedies: false,
    };
    let shed = |rain: f64, asked: Asked<'_>| {
        let at = RainAccountInput { at_mm_h: Some(rain.max(DRIZZLE_MM_H)), ..sheds.clone() };
        Roofed::of(rain_on(shape.as_ref(), &at, asked), &input.rainwater, minutes)
    };
    let mut rising: Vec<usize> = (0..rains.len()).collect();
    rising.sort_by(|a, b| rains[*a].total_cmp(&rains[*b]));
    let half = |from: usize| {
        let before = RefCell::default();
        rising.iter().skip(from).step_by(2).map(|k| (*k, shed(rains[*k], Asked::Flows(&before)))).collect::<Vec<_>>()
    };
    let (even, odd) = both(|| half(0), || half(1));
    let mut all: Vec<(usize, Roofed)> = even.into_iter().chain(odd).collect();
    all.sort_by_key(|a| a.0);
    all.into_iter().map(|a| a.1).collect()
}
