//! A flat roof in the rain: how deep water stands, what each outlet takes, what goes over the edges, what stays and for how long, and
//! what it weighs.
//!
//! The flows are those of rain that does not change, as a gutter's are: what a roof holds back is not counted, so that the depth is on
//! the safe side. The hour of the design storm is followed in time, because what stays and for how long depends on it. What goes on is
//! brought to the gutters and roofs below, or leaves.

mod remedies;

use super::deck::{Deck, Rim, facets_of};
use super::figures::{FlatAccount, RoofBorder, RoofHour, RoofMoment, RoofOutletAccount, RoofPool, RoofRemedy, RoofWater, WaterOutline};
use super::pools::{Course, Mouth, Pool, Pools, Sill, ends_in};
use super::record::{FlatRoof, WayOut};
use crate::measure::Units;
use crate::practice::Practice;
use crate::rain::checks::ends;
use crate::rain::design::{Rain, STEP_H, hyetograph};
use crate::rain::eaves::{AT_END_M, Falling, Reach};
use crate::rain::figures::{MIN, Offered, SpillAccount};
use crate::rain::record::Ends;
use crate::rain::runoff::height_on;
use crate::rain::sum;
use crate::roof::access::capital;
use crate::roof::details::Names;
use crate::roof::mass::Mass;
use crate::roof::shape::{Edge, RoofShape};
use crate::site::{Face, Place, Zone};
use remedies::remedies;
use std::collections::BTreeMap;

/// Water this deep is a film, metres.
const FILM_M: f64 = 0.001;
/// One kilogram on a square metre is a millimetre of water.
const KG_M3: f64 = 1000.0;
/// Pools named on the page.
const MOST_POOLS: usize = 12;

/// A flat roof with everything that can be worked out once, whatever the rain.
pub(crate) struct Prepared {
    deck: Deck,
    sills: Vec<Sill>,
    places: Vec<(usize, [f64; 2])>,
    /// By leaf: the plan area of its own that drains into it, m².
    own_m2: Vec<f64>,
    /// By ring cell: the plan area that drains over it without a stay, m².
    over_m2: BTreeMap<usize, f64>,
}

/// Water that comes to a flat roof from elsewhere: a point of the plan, and the plan area it stands for.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Landing {
    /// The facet.
    pub(crate) facet: String,
    /// Where.
    pub(crate) at: [f64; 2],
    /// m².
    pub(crate) area_m2: f64,
}

impl Prepared {
    /// # Errors
    /// What stands in the way, in words.
    pub(crate) fn new(record: &FlatRoof, mass: &Mass, shape: &RoofShape) -> Result<Prepared, String> {
        let deck = Deck::new(record, mass, shape)?;
        let (mut sills, mut places) = (Vec::new(), Vec::new());
        for (k, o) in record.outlets.iter().enumerate() {
            let name = record.outlet_name(k);
            let (cell, at) = deck.place(o, &name)?;
            let height_m = deck.land.z[cell] + o.up_m()?;
            // Water that runs over an edge there never stands over it.
            let leaf = deck.leaf(cell);
            sills.push(Sill {
                leaf,
                height_m,
                mouth: o.mouth().map_err(|e| format!("{}: {e}", capital(&name)))?,
                shut: o.blocked || o.ends == Ends::Nowhere,
            });
            places.push((cell, at));
        }
        let mut out = Prepared { own_m2: vec![0.0; deck.hollows.leaves], over_m2: BTreeMap::new(), deck, sills, places };
        let cell_m2 = out.deck.land.cell_m2();
        for k in (0..out.deck.roof.len()).filter(|k| out.deck.roof[*k]) {
            match ends_in(&out.deck.land, &out.deck.hollows, k) {
                Ok(leaf) => out.own_m2[leaf] += cell_m2,
                Err(cell) => *out.over_m2.entry(cell).or_default() += cell_m2,
            }
        }
        Ok(out)
    }

    /// Plan areas by leaf and by ring cell, with what lands on it.
    fn areas(&self, landed: &[Landing]) -> (Vec<f64>, BTreeMap<usize, f64>) {
        let (mut leaves, mut over) = (self.own_m2.clone(), self.over_m2.clone());
        for l in landed {
            let Some(cell) = self.deck.cell_near(l.at) else { continue };
            match ends_in(&self.deck.land, &self.deck.hollows, cell) {
                Ok(leaf) => leaves[leaf] += l.area_m2,
                Err(cell) => *over.entry(cell).or_default() += l.area_m2,
            }
        }
        (leaves, over)
    }

    fn pool(&self, p: &Pool) -> RoofPool {
        let land = &self.deck.land;
        let node = &self.deck.hollows.nodes[p.node];
        let deepest = node.lowest as usize;
        let depth_m = (p.level_m - land.z[deepest]).max(0.0);
        RoofPool {
            at: self.deck.middle(deepest),
            from_walls_m: self.deck.in_frame(deepest),
            depth_m,
            area_m2: node.wetted(land, p.level_m - FILM_M) as f64 * land.cell_m2(),
            volume_m3: p.volume_m3,
            load_kg_m2: depth_m * KG_M3,
            over: p.over,
        }
    }

    fn water(&self, pools: &[Pool], over_l_min: f64, rises: bool) -> RoofWater {
        let mut level = vec![f64::NEG_INFINITY; self.deck.land.z.len()];
        for p in pools {
            for k in &self.deck.hollows.nodes[p.node].cells {
                level[*k as usize] = p.level_m;
            }
        }
        let mut told: Vec<RoofPool> = pools.iter().map(|p| self.pool(p)).filter(|p| p.depth_m >= FILM_M).collect();
        told.sort_by(|a, b| b.depth_m.total_cmp(&a.depth_m));
        let depth_m = told.first().map_or(0.0, |p| p.depth_m);
        let bands: Vec<f64> = if depth_m > 4.0 * FILM_M { vec![FILM_M, depth_m / 2.0] } else { vec![FILM_M] };
        let outline = |depth: f64| WaterOutline { depth_m: depth, rings: self.deck.outline(&|k| level[k] - self.deck.land.z[k] >= depth) };
        told.truncate(MOST_POOLS);
        RoofWater {
            outlines: if depth_m > 0.0 { bands.into_iter().map(outline).collect() } else { vec![] },
            pools: told,
            depth_m,
            load_kg_m2: depth_m * KG_M3,
            weighs_kg: sum(pools.iter().map(|p| p.volume_m3)) * KG_M3,
            over_l_min,
            rises,
        }
    }
}

/// What one flat roof comes to at one strength of rain: outlets and rims in litres per minute.
struct Flows {
    water: RoofWater,
    outlets: Vec<f64>,
    rims: Vec<(usize, f64)>,
    held_l_min: f64,
    levels: Vec<f64>,
}

fn flows(p: &Prepared, sills: &[Sill], areas: &(Vec<f64>, BTreeMap<usize, f64>), rain_mm_h: f64) -> Flows {
    let rate = rain_mm_h / 3.6e6;
    let pools = Pools::new(&p.deck.land, &p.deck.hollows, sills);
    let comes: Vec<f64> = areas.0.iter().map(|a| a * rate).collect();
    let standing = pools.steady(&comes);
    let mut rims: BTreeMap<usize, f64> = BTreeMap::new();
    for (cell, area) in &areas.1 {
        *rims.entry(*cell).or_default() += area * rate;
    }
    for (cell, q) in &standing.edges {
        *rims.entry(*cell).or_default() += q;
    }
    let l_min = |q: f64| q * 1000.0 * MIN;
    // Over an edge without a parapet water leaves as from any eave; what passes a parapet is counted as run over.
    let over = sum(rims.iter().filter(|(c, _)| p.deck.rims.get(c).is_some_and(|r| r.parapet)).map(|(_, q)| *q));
    let mut levels = vec![f64::NEG_INFINITY; p.deck.hollows.leaves];
    for pool in &standing.pools {
        let mut below = vec![pool.node];
        while let Some(n) = below.pop() {
            match p.deck.hollows.nodes[n].parts {
                None => levels[n] = pool.level_m,
                Some(parts) => below.extend(parts),
            }
        }
    }
    Flows {
        water: p.water(&standing.pools, l_min(over), standing.stays > 1e-9),
        outlets: standing.outlets.iter().map(|q| l_min(*q)).collect(),
        rims: rims.into_iter().map(|(c, q)| (c, l_min(q))).collect(),
        held_l_min: l_min(standing.stays),
        levels,
    }
}

/// The outlets with all but the overflows blocked.
fn blocked(record: &FlatRoof, sills: &[Sill]) -> Vec<Sill> {
    sills.iter().zip(&record.outlets).map(|(s, o)| Sill { shut: s.shut || !o.overflow, ..*s }).collect()
}

/// Rain over an hour where no law is known, mm/h.
const SOAKING_MM_H: f64 = 50.0;

/// An hour of the design storm, and until nothing leaves any more: its course, and what stays.
fn hour(p: &Prepared, sills: &[Sill], areas: &(Vec<f64>, BTreeMap<usize, f64>), law: Option<&Rain>) -> (RoofHour, Vec<Pool>) {
    const STEP_S: f64 = 5.0;
    /// Watched after the rain, minutes; in longer and longer steps.
    const WATCHED_MIN: f64 = 48.0 * 60.0;
    let pools = Pools::new(&p.deck.land, &p.deck.hollows, sills);
    let mut course = Course::new(&pools);
    let mut out = RoofHour {
        course: vec![RoofMoment { minute: 0.0, depth_mm: 0.0, litres: 0.0 }],
        deepest_m: 0.0,
        runs_off_min: None,
        came_l: 0.0,
        outlets_l: 0.0,
        edges_l: 0.0,
        stays_l: 0.0,
    };
    let deepest = |course: &Course<'_, '_>| {
        course.pools().iter().map(|q| q.level_m - p.deck.land.z[p.deck.hollows.nodes[q.node].lowest as usize]).fold(0.0, f64::max)
    };
    let passes: f64 = areas.1.values().sum();
    let (mut over, mut minute) = (0.0, 0.0);
    for mm_h in law.map_or_else(|| vec![SOAKING_MM_H; 12], hyetograph) {
        let m = mm_h / 3.6e6 * STEP_S;
        let comes: Vec<f64> = areas.0.iter().map(|a| a * m).collect();
        for n in 0..(STEP_H * 3600.0 / STEP_S) as usize {
            over += passes * m;
            out.came_l += (comes.iter().sum::<f64>() + passes * m) * 1000.0;
            course.step(STEP_S, &comes);
            minute += STEP_S / 60.0;
            if n % 6 == 5 {
                let depth = deepest(&course);
                out.deepest_m = out.deepest_m.max(depth);
                out.course.push(RoofMoment { minute, depth_mm: depth * 1000.0, litres: course.standing() * 1000.0 });
            }
        }
    }
    let ended = minute;
    let dry = vec![0.0; areas.0.len()];
    let mut next = ended + 1.0;
    while minute - ended < WATCHED_MIN {
        let seconds = match minute - ended {
            m if m < 60.0 => 15.0,
            m if m < 360.0 => 120.0,
            _ => 900.0,
        };
        let before = course.standing();
        course.step(seconds, &dry);
        minute += seconds / 60.0;
        // Less than a thimble a minute is no flow.
        if out.runs_off_min.is_none() && (before - course.standing()) * 60.0 / seconds < 2e-5 {
            out.runs_off_min = Some(minute - ended);
        }
        if minute >= next && minute - ended <= 60.0 {
            out.course.push(RoofMoment { minute, depth_mm: deepest(&course) * 1000.0, litres: course.standing() * 1000.0 });
            next += 1.0;
        }
    }
    out.outlets_l = course.by_outlet.iter().sum::<f64>() * 1000.0;
    out.edges_l = (course.by_edge + over) * 1000.0;
    out.stays_l = course.standing() * 1000.0;
    (out, course.pools())
}

/// What goes on from a flat roof to other roofs and eaves, and what leaves it, is worked in here.
pub(crate) struct Context<'c> {
    pub(crate) rain_mm_h: f64,
    pub(crate) law: Option<&'c Rain>,
    pub(crate) practice: &'c Practice,
    pub(crate) judged: bool,
    pub(crate) remedies: bool,
}

/// Works one flat roof out, and lets its water go on.
pub(crate) fn flat(
    record: &FlatRoof,
    prepared: Result<&Prepared, String>,
    falling: &mut Falling<'_>,
    names: &Names<'_>,
    cx: &Context<'_>,
    doubts: &mut Vec<String>,
) -> FlatAccount {
    let facets = facets_of(falling.shape, &record.mass);
    let label = facets.first().map_or_else(|| format!("flat roof of {}", record.mass), |f| names.facet(f));
    let of: Vec<&str> = facets.iter().map(|f| f.id.as_str()).collect();
    let mut out = FlatAccount {
        mass: record.mass.clone(),
        label,
        plan_m2: 0.0,
        from_above_m2: 0.0,
        turned_deg: 0.0,
        border: vec![],
        sentence: String::new(),
        problem: None,
        outlets: vec![],
        rain: RoofWater::default(),
        blocked: None,
        stays: RoofWater::default(),
        dries_h: 0.0,
        hour: None,
        spills: vec![],
        held_l_min: 0.0,
        offered: vec![],
        remedies: vec![],
        caution: String::new(),
    };
    let p = match prepared {
        Ok(p) => p,
        Err(e) => {
            out.sentence.clone_from(&e);
            out.problem = Some(e);
            return out;
        }
    };
    let (here, elsewhere): (Vec<Landing>, Vec<Landing>) =
        std::mem::take(&mut falling.landed).into_iter().partition(|l| of.contains(&l.facet.as_str()));
    falling.landed = elsewhere;
    out.plan_m2 = p.deck.plan_m2;
    out.turned_deg = p.deck.mass.rot_deg;
    out.border = border(record, p, falling.shape, &of);
    out.from_above_m2 = sum(here.iter().map(|l| l.area_m2));
    let areas = p.areas(&here);
    let f = flows(p, &p.sills, &areas, cx.rain_mm_h);
    out.held_l_min = f.held_l_min;
    for (k, o) in record.outlets.iter().enumerate() {
        let s = &p.sills[k];
        let bottom = s.leaf.map_or(s.height_m, |l| p.deck.land.z[p.deck.hollows.nodes[l].lowest as usize]);
        out.outlets.push(RoofOutletAccount {
            name: record.outlet_name(k),
            at: p.places[k].1,
            l_min: f.outlets[k],
            head_m: s.leaf.map_or(0.0, |l| (f.levels[l] - s.height_m).max(0.0)),
            sill_over_bottom_m: (s.height_m - bottom).max(0.0),
            ends: ends(o.ends, &o.distance),
            onto: None,
            blocked: o.blocked,
        });
    }
    if cx.judged {
        for (k, _) in p.sills.iter().enumerate().filter(|(_, s)| s.leaf.is_none() && !s.shut) {
            doubts.push(format!(
                "{}: the {} stands where water runs off over an edge and never stands, so it takes nothing. Check its place, the heights round it and the parapets.",
                capital(&out.label),
                record.outlet_name(k)
            ));
        }
    }
    goes_on(record, p, &f, falling, cx.rain_mm_h, &mut out, doubts);
    out.rain = f.water;
    if cx.judged {
        let (course, stays) = hour(p, &p.sills, &areas, cx.law);
        out.stays = p.water(&stays, 0.0, false);
        out.hour = cx.law.is_some().then_some(course);
        let has_main = record.outlets.iter().any(|o| !o.overflow);
        out.blocked = (has_main && cx.rain_mm_h > 0.0).then(|| flows(p, &blocked(record, &p.sills), &areas, cx.rain_mm_h).water);
        judge(record, p, &mut out, cx);
        if cx.remedies {
            out.remedies = remedies(record, p, &areas, &out, cx);
        }
    }
    out
}

/// The border of a flat roof, piece by piece.
fn border(record: &FlatRoof, p: &Prepared, shape: &RoofShape, of: &[&str]) -> Vec<RoofBorder> {
    let own = |id: Option<&str>| id.is_some_and(|id| of.contains(&id));
    let all = shape.edges.iter().enumerate().filter(|(_, e)| own(Some(&e.facet)) != own(e.other.as_deref()));
    all.map(|(k, e)| {
        let rim = p.deck.rims.values().find(|r| r.edge == k);
        RoofBorder { ends_m: [e.p0, e.p1], parapet_m: rim.and_then(|r| record.parapet(r.face).ok().flatten()), wall: rim.is_none() }
    })
    .collect()
}

/// Its water goes on: over edges to eaves and lower roofs, out of scuppers and drains.
fn goes_on(
    record: &FlatRoof,
    p: &Prepared,
    f: &Flows,
    falling: &mut Falling<'_>,
    rain: f64,
    out: &mut FlatAccount,
    doubts: &mut Vec<String>,
) {
    /// Cells of one edge within this are one place, metres.
    const TOGETHER_M: f64 = 0.5;
    let as_area = |l_min: f64| if rain > 0.0 { l_min * MIN / rain } else { 0.0 };
    /// Water over one piece of an edge: sums of places, weighed by what passes there.
    struct Passes {
        rim: Rim,
        at: [f64; 2],
        beyond: [f64; 2],
        l_min: f64,
    }
    let mut places: BTreeMap<(usize, bool, usize), Passes> = BTreeMap::new();
    for (cell, l_min) in f.rims.iter().filter(|(_, q)| *q > 0.0) {
        let Some(rim) = p.deck.rims.get(cell) else { continue };
        let e = &falling.shape.edges[rim.edge];
        let piece = (crate::plane::length(e.p0, rim.at) / TOGETHER_M) as usize;
        let blank = Passes { rim: *rim, at: [0.0; 2], beyond: [0.0; 2], l_min: 0.0 };
        let place = places.entry((rim.edge, rim.parapet, piece)).or_insert(blank);
        for k in 0..2 {
            place.at[k] += rim.at[k] * l_min;
            place.beyond[k] += rim.beyond[k] * l_min;
        }
        place.l_min += l_min;
    }
    for Passes { rim, at, beyond, l_min } in places.into_values() {
        let (at, beyond) = (at.map(|v| v / l_min), beyond.map(|v| v / l_min));
        let e = &falling.shape.edges[rim.edge];
        let at = clear_of_ends(e, at);
        let note = format!("off the {}", out.label);
        let hung = falling.hung.contains(&e.id);
        if rim.over_roof && !hung {
            falling.drop_at(beyond, as_area(l_min), &note);
        } else {
            falling.burst(at, height_on(e, at), as_area(l_min), &note);
        }
        if rim.parapet {
            out.spills.push(SpillAccount { at, l_min, onto_roof: true });
        }
    }
    for (k, o) in record.outlets.iter().enumerate().filter(|(k, _)| f.outlets[*k] > 0.0) {
        let area = as_area(f.outlets[k]);
        let note = format!("{} of the {}", record.outlet_name(k), out.label);
        if o.ends != Ends::LowerRoof {
            continue;
        }
        let named = falling.eave(&o.onto).map(|e| falling.edge(e));
        let below = o.face.filter(|_| o.kind == WayOut::Scupper).and_then(|face| beside(p, face, p.places[k].1));
        match (named, below) {
            (Some(edge), _) => {
                let at = crate::plane::nearest(p.places[k].1, edge.p0, edge.p1);
                falling.burst(at, height_on(edge, at), area, &note);
                out.outlets[k].onto = Some("the eave that was named".into());
            }
            (None, Some(q)) if crate::rain::runoff::facet_at(falling.shape, q).is_some() => {
                falling.drop_at(q, area, &note);
                out.outlets[k].onto = Some("the roof below".into());
            }
            _ => doubts.push(format!(
                "{}: no lower roof lies where the {} lets go. Name the eave its water comes to, or change where it ends.",
                capital(&out.label),
                record.outlet_name(k)
            )),
        }
    }
}

/// A place along an edge so far from its ends that what leaves there is not taken for a burst at the corner, which two eaves share.
fn clear_of_ends(e: &Edge, at: [f64; 2]) -> [f64; 2] {
    let clear = (AT_END_M * 1.1).min(e.plan_m / 2.0) / e.plan_m;
    let t = (crate::plane::length(e.p0, at) / e.plan_m).clamp(clear, 1.0 - clear);
    [e.p0[0] + t * (e.p1[0] - e.p0[0]), e.p0[1] + t * (e.p1[1] - e.p0[1])]
}

/// A point just outside the parapet a scupper goes through.
fn beside(p: &Prepared, face: Face, at: [f64; 2]) -> Option<[f64; 2]> {
    let near = |r: &&Rim| crate::plane::length(r.at, at);
    p.deck.rims.values().filter(|r| r.face == face).min_by(|a, b| near(a).total_cmp(&near(b))).map(|r| r.beyond)
}

fn depth_words(w: &RoofWater, u: Units) -> String {
    format!("{} deep at its deepest, {} there and {} in all", u.depth(w.depth_m), u.load(w.load_kg_m2), u.weight(w.weighs_kg))
}

/// The words of a flat roof, and what is wrong with it.
fn judge(record: &FlatRoof, p: &Prepared, out: &mut FlatAccount, cx: &Context<'_>) {
    let u = cx.practice.units;
    let ponding = cx.practice.rule("roof-ponding");
    let dries = ponding.named("dries_m_day").unwrap_or(0.004).max(1e-6);
    out.dries_h = out.stays.depth_m / dries * 24.0;
    let limit = cx.practice.rule("roof-load");
    let rain = u.rain(cx.rain_mm_h);
    let ways = record.outlets.iter().filter(|o| !o.blocked && o.ends != Ends::Nowhere).count();
    let closed = Face::ALL.iter().all(|f| record.parapet(*f).ok().flatten().is_some()) || p.deck.rims.values().all(|r| r.parapet);
    let mut said = Vec::new();
    if cx.rain_mm_h > 0.0 {
        said.push(match (out.rain.rises, out.rain.over_l_min > 0.0) {
            (true, _) => format!("In {rain} it has no way out: water rises for as long as it rains."),
            (_, true) if ways == 0 => {
                format!("It has no outlet: in {rain} it fills to its parapet, and {} go over it.", u.flow(out.rain.over_l_min))
            }
            (_, true) => format!("In {rain} its outlets take no more: {} go over the parapet.", u.flow(out.rain.over_l_min)),
            _ if out.rain.depth_m < FILM_M => format!("In {rain} it sheds everything."),
            _ => format!("In {rain} water stands {}.", depth_words(&out.rain, u)),
        });
    }
    if let Some(b) = out.blocked.as_ref() {
        said.push(match (b.rises, b.over_l_min > 0.0) {
            (true, _) => "With its outlets blocked it has no way out.".to_owned(),
            (_, true) => format!("With its outlets blocked it fills until it runs over its parapet: {}.", depth_words(b, u)),
            _ if b.depth_m < FILM_M => "With its outlets blocked it still sheds over its edges.".to_owned(),
            _ if record.outlets.iter().any(|o| o.overflow && !o.blocked) => {
                format!("With its outlets blocked the overflow holds it at {}.", depth_words(b, u))
            }
            _ => format!("With its outlets blocked it stands {}.", depth_words(b, u)),
        });
    }
    if out.stays.depth_m >= FILM_M {
        said.push(format!(
            "After rain {} stay, up to {} deep; at {} a day that is gone in {:.0} hours.",
            u.litres(out.stays.weighs_kg),
            u.depth(out.stays.depth_m),
            u.depth(dries),
            out.dries_h
        ));
    } else {
        said.push("Nothing stays after rain.".to_owned());
    }
    if let Some(min) = out.hour.as_ref().and_then(|h| h.runs_off_min).filter(|m| *m > 5.0) {
        said.push(format!("An hour's storm has run off {min:.0} minutes after it."));
    }
    if cx.rain_mm_h <= 0.0 {
        said.insert(0, "No rain to design for was given yet.".into());
    }
    out.sentence = said.join(" ");
    let worst = out.blocked.as_ref().map_or(0.0, |b| b.load_kg_m2).max(out.rain.load_kg_m2);
    if worst >= limit.figure() || out.rain.rises || out.blocked.as_ref().is_some_and(|b| b.rises) {
        out.caution = format!(
            "{} of water is {}, and this practice asks from {} on. Whether this roof carries it is for a structural engineer: ask before the next rain, keep people off it and from under it while water stands so deep, and open the way out from outside. A deck that sags holds more than this.",
            u.depth(worst / KG_M3),
            u.load(worst),
            u.load(limit.figure())
        );
    } else if worst > 0.0 {
        out.sentence.push_str(" Whether its deck carries that is for a structural engineer; one that sags holds more.");
    }
    let first = u.first();
    let mut offer = |condition: &str, line: String, face: Face| {
        let place = Place { station: Some(out.label.clone()), ..Place::outside(face, Zone::Roof) };
        out.offered.push(Offered { condition: condition.into(), line, place, limitation: false });
    };
    let front = Face::Front;
    if out.dries_h > ponding.figure() && out.stays.depth_m >= FILM_M {
        let area: f64 = out.stays.pools.iter().map(|p| p.area_m2).sum();
        offer(
            "flat-roof-ponding",
            format!("water stands {} deep on the {} after rain, {}", first.depth(out.stays.depth_m), out.label, first.area(area)),
            front,
        );
    }
    let shut = record.outlets.iter().filter(|o| o.blocked).count();
    if shut > 0 {
        let face = record.outlets.iter().find(|o| o.blocked).and_then(|o| o.face).unwrap_or(front);
        offer("flat-roof-drain-blocked", format!("{shut} of {} outlets blocked on the {}", record.outlets.len(), out.label), face);
    }
    if closed && !record.outlets.iter().any(|o| o.overflow) {
        offer("flat-roof-drain-blocked", format!("no overflow from the {}, parapets all round", out.label), front);
    }
    if out.rain.over_l_min > 0.0 {
        let line = format!("outlets of the {} too few, {} go over the parapet", out.label, first.flow(out.rain.over_l_min));
        offer("gutter-outlets-short", line, front);
    }
}

/// What the water of a flat roof may come to, over any of its edges and out of its outlets.
pub(crate) fn reaches(record: &FlatRoof, p: &Prepared, falling: &Falling<'_>) -> Vec<Reach> {
    let mut out: Vec<Reach> = Vec::new();
    for rim in p.deck.rims.values() {
        let e = &falling.shape.edges[rim.edge];
        if rim.over_roof && !falling.hung.contains(&e.id) {
            out.extend(falling.reach(rim.beyond));
        } else {
            let at = clear_of_ends(e, rim.at);
            out.push(Reach::Eave(at, height_on(e, at)));
        }
    }
    for (k, o) in record.outlets.iter().enumerate().filter(|(_, o)| o.ends == Ends::LowerRoof) {
        match falling.eave(&o.onto).map(|e| falling.edge(e)) {
            Some(edge) => {
                let at = crate::plane::nearest(p.places[k].1, edge.p0, edge.p1);
                out.push(Reach::Eave(at, height_on(edge, at)));
            }
            None => out.extend(o.face.and_then(|f| beside(p, f, p.places[k].1)).and_then(|q| falling.reach(q))),
        }
    }
    out
}
