//! Everything that follows from the rain, the roof and the gutters: what every eave sheds, how each gutter stands in the
//! design rain, what each outlet lets go and where, what is wrong, and what would end it.

use super::checks::{ends, flights, kick_outs, offered, offered_free, sentence};
use super::design::{Rain, RainInput, rain};
use super::eaves::{Eave, Falling, Legs, Reach, eaves_of};
use super::figures::MIN;
pub use super::figures::{Arrival, EaveAccount, Flight, GutterAccount, Offered, OutletAccount, RainAccount, Remedy, SpillAccount, Sums};
use super::flat::account::{Context, Prepared, flat, reaches};
use super::flat::figures::FlatAccount;
use super::flat::record::FlatRoof;
use super::record::{Ends, GutterRecord, OutletRecord, Rainwater, Storm, bore, intensity};
use super::remedy::remedies;
use super::runoff::{STOREY_M, height_on};
use crate::gutter::begins::Beginnings;
use crate::gutter::flow::Flowing;
use crate::gutter::run::{AlongGutter, Burst, RunInput, RunOutlet, Spill, run_now, run_with};
use crate::gutter::tables::{drains_over, schools};
use crate::measure::Units;
use crate::plane::{Point, length};
use crate::practice::Practice;
use crate::roof::details::Names;
use crate::roof::record::{Roof, metres};
use crate::roof::shape::{Edge, Facet, RoofInput, RoofShape, shape};
use crate::site::Bearing;
use serde::{Deserialize, Serialize};
use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};

/// Input of `calc rainwater`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RainAccountInput {
    /// The roof as it is kept.
    pub roof: Roof,
    /// Rain and gutters as they are kept.
    pub rainwater: Rainwater,
    /// The direction the front faces.
    #[serde(default)]
    pub front_faces: Option<Bearing>,
    /// The direction driving rain comes from; without it the one that brings most is taken.
    #[serde(default)]
    pub driving_rain_from: Option<Bearing>,
    /// The practice; the usual schools when it is not given.
    #[serde(default)]
    pub practice: Practice,
    /// Another rain than the design rain, mm/h: for looking along the scale.
    #[serde(default)]
    pub at_mm_h: Option<f64>,
    /// Changes are searched for; left out while only looking.
    #[serde(default)]
    pub remedies: bool,
}

/// The intensity law of the storm, or what stands in its way.
pub(crate) fn law_of(storm: &Storm) -> Result<Rain, String> {
    let i5_mm_h = intensity("The rain over 5 minutes", &storm.i5)?;
    let i60_mm_h = intensity("The rain over 60 minutes", &storm.i60)?;
    rain(&RainInput { return_period_years: storm.years, i5_mm_h, i60_mm_h }).map_err(|e| e.to_string())
}

/// What is asked of the gutters.
#[derive(Clone, Copy)]
pub(crate) enum Asked<'k> {
    /// Everything; from which rain on a run spills may be known.
    All(&'k Beginnings),
    /// The flows alone, nothing judged: each gutter begins from its water at the rain that was asked before, and leaves its own here.
    Flows(&'k RefCell<BTreeMap<String, Flowing>>),
}

impl Asked<'_> {
    fn judged(self) -> bool {
        matches!(self, Asked::All(_))
    }
}

/// Works rainwater out.
pub fn rain_account(input: &RainAccountInput) -> RainAccount {
    rain_account_with(input, &Beginnings::default())
}

/// The same, with what is known of runs; what is found is kept there.
pub fn rain_account_with(input: &RainAccountInput, known: &Beginnings) -> RainAccount {
    let placed = input.roof.placed(input.front_faces);
    rain_on(placed.ok().and_then(|p| shape(&RoofInput { masses: p.masses }).ok()).as_ref(), input, Asked::All(known))
}

/// Works rainwater out on a roof whose shape is known.
pub(crate) fn rain_on(shape: Option<&RoofShape>, input: &RainAccountInput, asked: Asked<'_>) -> RainAccount {
    let rule = input.practice.rule("design-rain");
    // A school that names its return period is given that storm, or none.
    let asked_years = (rule.id() == Some("hundred-year-hour")).then_some(100.0);
    let rainwater = &input.rainwater;
    let known = rainwater.rains.iter().chain([&rainwater.storm]);
    let of_years = asked_years.and_then(|y| known.clone().find(|r| r.years == Some(y)));
    let storm = of_years.unwrap_or(&rainwater.storm);
    let refused = asked_years.is_some() && of_years.is_none();
    let (law, mut doubts) = match law_of(storm) {
        Ok(l) => {
            let doubts = l.doubts.clone();
            (Some(l), doubts)
        }
        Err(e) => (None, vec![e]),
    };
    if refused {
        doubts.push(
            "This practice designs for the 100-year storm, and it was not given: take it from the weather office. Until then nothing is judged."
                .to_owned(),
        );
    }
    let own = rule.own.map(|v| v * 3.6e6);
    let minutes = if rule.id() == Some("hundred-year-hour") { 60.0 } else { 5.0 };
    let design_mm_h = input.at_mm_h.or(own).or_else(|| law.as_ref().filter(|_| !refused).map(|l| l.intensity(minutes))).unwrap_or(0.0);
    let years = storm.years.map(|y| format!(", once in {y:.0} years")).unwrap_or_default();
    let design = if design_mm_h > 0.0 {
        format!("{} over {minutes:.0} minutes{years}; {}", input.practice.units.rain(design_mm_h), rule.words().to_lowercase())
    } else if refused {
        "The storm that this practice designs for was not given yet.".to_owned()
    } else {
        "No rain was given yet.".to_owned()
    };
    let mut out = RainAccount {
        law,
        design_mm_h,
        design,
        runoff: None,
        starts: BTreeMap::new(),
        eaves: vec![],
        gutters: vec![],
        flats: vec![],
        arrivals: vec![],
        walls_m2: 0.0,
        offered: vec![],
        checks: vec![],
        sums: Sums::default(),
        balance: String::new(),
        doubts: vec![],
    };
    if let Some(s) = shape {
        on_roof(&mut out, s, input, asked, &mut doubts);
    }
    out.doubts = doubts;
    out
}

fn on_roof(out: &mut RainAccount, s: &RoofShape, input: &RainAccountInput, asked: Asked<'_>, doubts: &mut Vec<String>) {
    let judged = asked.judged();
    let names = Names::new(&input.roof, input.front_faces, &s.facets);
    let kept = &input.rainwater.gutters;
    let eaves_with: BTreeSet<&str> = kept.iter().flat_map(GutterRecord::eaves).collect();
    let flats = prepared_flats(s, input);
    let worked = flats.iter().filter(|(_, p)| p.is_ok());
    let decks: BTreeSet<String> = worked.flat_map(|(f, _)| super::flat::facets_of(s, &f.mass)).map(|f| f.id.clone()).collect();
    let mut falling = Falling::new(s, eaves_of(s, &names, &decks), &eaves_with);
    falling.with_decks(decks);
    out.starts = s.facets.iter().map(|f| (f.id.clone(), f.middle)).collect();
    // Without the front's direction the plan is not north up, and a compass direction says nothing in it.
    let wind = input.driving_rain_from.filter(|_| input.front_faces.is_some()).map(|b| {
        let (east, north) = b.degrees().to_radians().sin_cos();
        [east, north]
    });
    out.walls_m2 = falling.wall_rain(wind);
    let rain = out.design_mm_h;
    let (order, ring) = downhill(kept, &flats, &falling);
    let mut done: BTreeMap<&str, GutterAccount> = BTreeMap::new();
    let mut flats_done: BTreeMap<&str, FlatAccount> = BTreeMap::new();
    let law = out.law.clone();
    let cx = Context { rain_mm_h: rain, law: law.as_ref(), practice: &input.practice, judged, remedies: input.remedies };
    for piece in order {
        let g = match piece {
            Piece::Gutter(g) => g,
            Piece::Flat(record, prepared) => {
                flats_done.insert(&record.mass, flat(record, prepared.as_ref().map_err(Clone::clone), &mut falling, &names, &cx, doubts));
                continue;
            }
        };
        let account = gutter(g, &mut falling, rain, input, asked, doubts);
        for o in g.outlets.iter().filter(|o| judged && o.ends == Ends::Ground && o.distance.trim().is_empty()) {
            let at = if o.from_left.trim().is_empty() { String::new() } else { format!(" at {}", o.from_left.trim()) };
            doubts.push(format!(
                "{}: how far from the wall does its outlet{at} let go? Until that is measured its water is taken to fall at the wall.",
                g.id
            ));
        }
        done.insert(&g.id, account);
    }
    if !ring.is_empty() {
        let called: Vec<String> = ring
            .iter()
            .map(|p| match p {
                Piece::Gutter(g) => g.id.clone(),
                Piece::Flat(f, _) => format!("the flat roof of {}", names.mass(&f.mass)),
            })
            .collect();
        let problem =
            format!("The downspouts of {} run in a ring: water would go round for ever. Choose where one of them ends.", called.join(", "));
        for piece in ring {
            match piece {
                Piece::Gutter(g) => drop(done.insert(&g.id, GutterAccount::refused(g, problem.clone()))),
                Piece::Flat(f, _) => {
                    drop(flats_done.insert(&f.mass, flat(f, Err(problem.clone()), &mut falling, &names, &cx, doubts)));
                }
            }
        }
    }
    out.flats = flats.iter().filter_map(|(f, _)| flats_done.remove(f.mass.as_str())).collect();
    out.gutters = kept.iter().filter_map(|g| done.remove(g.id.as_str())).collect();
    let hangs = |e: &Eave| kept.iter().find(|g| g.eaves().any(|k| k == e.key)).map(|g| g.id.as_str());
    out.eaves = falling.eaves.iter().map(|e| falling.account(e, rain, hangs(e))).collect();
    out.arrivals = falling.extra.iter().map(|p| Arrival { from: p.note.clone(), at: p.at, l_min: p.plan_area_m2 * rain / 60.0 }).collect();
    out.checks = kick_outs(&falling, rain, input.practice.units);
    // Behind a parapet no gutter is missed.
    let parapets: Vec<[Point; 2]> = out.flats.iter().flat_map(|f| &f.border).filter(|b| b.parapet_m.is_some()).map(|b| b.ends_m).collect();
    let behind = |e: &EaveAccount| parapets.contains(&e.ends_m);
    out.offered = if rain > 0.0 { offered_free(out, &behind, input.practice.units) } else { vec![] };
    (out.sums, out.balance) = balance(out, &falling, input.practice.units);
    out.runoff = Some(falling.runoff);
}

impl GutterAccount {
    fn refused(g: &GutterRecord, problem: String) -> GutterAccount {
        GutterAccount {
            id: g.id.clone(),
            sentence: problem.clone(),
            run: None,
            problem: Some(problem),
            outlets: vec![],
            allowed: vec![],
            flights: vec![],
            spills: vec![],
            offered: vec![],
            remedies: vec![],
        }
    }
}

/// Where an outlet that ends on a lower roof brings its water: the point on the roof, or of the eave that was named.
enum Brought {
    Roof(Point),
    /// With its height.
    Eave(Point, f64),
}

fn brought(o: &OutletRecord, eave: &Eave, x_m: f64, falling: &Falling<'_>) -> Option<Brought> {
    if o.onto.is_empty() {
        return falling.roof_below(eave, x_m).map(Brought::Roof);
    }
    let edge = falling.edge(falling.eave(&o.onto)?);
    let p = crate::plane::nearest(falling.point(eave, x_m), edge.p0, edge.p1);
    Some(Brought::Eave(p, height_on(edge, p)))
}

/// What water goes through on its way: a gutter, or a flat roof.
#[derive(Clone, Copy)]
enum Piece<'g> {
    Gutter(&'g GutterRecord),
    Flat(&'g FlatRoof, &'g Result<Prepared, String>),
}

type Flats<'r> = Vec<(&'r FlatRoof, Result<Prepared, String>)>;

/// The flat roofs that are kept, laid out.
fn prepared_flats<'r>(s: &RoofShape, input: &'r RainAccountInput) -> Flats<'r> {
    let flats = &input.rainwater.flats;
    let placed = if flats.is_empty() { None } else { input.roof.placed(input.front_faces).ok() };
    let of = |f: &FlatRoof| {
        let mass = placed.as_ref().and_then(|p| p.masses.iter().find(|m| m.id == f.mass));
        Prepared::new(f, mass.ok_or("The mass whose flat roof this was is gone. Choose another, or take it away.")?, s)
    };
    flats.iter().map(|f| (f, of(f))).collect()
}

/// Gutters and flat roofs so that each comes after all that bring it water; those that bring water to one another in a ring apart.
fn downhill<'g>(kept: &'g [GutterRecord], flats: &'g Flats<'_>, falling: &Falling<'_>) -> (Vec<Piece<'g>>, Vec<Piece<'g>>) {
    let pieces: Vec<Piece<'g>> = flats.iter().map(|(f, p)| Piece::Flat(f, p)).chain(kept.iter().map(Piece::Gutter)).collect();
    let reached = |piece: &Piece<'_>| -> Vec<Reach> {
        let g = match piece {
            Piece::Gutter(g) => g,
            Piece::Flat(f, p) => return p.as_ref().map(|p| reaches(f, p, falling)).unwrap_or_default(),
        };
        let Ok(legs) = falling.legs(g.eaves()) else { return vec![] };
        let mut out: Vec<Reach> = Vec::new();
        for o in g.outlets.iter().filter(|o| o.ends == Ends::LowerRoof) {
            let x = metres("", &o.from_left).unwrap_or(0.0);
            let (leg, x) = legs.at(x);
            out.extend(match brought(o, &falling.eaves[leg.eave], x, falling) {
                Some(Brought::Roof(p)) => falling.reach(p),
                Some(Brought::Eave(p, z)) => Some(Reach::Eave(p, z)),
                None => None,
            });
        }
        for leg in legs.0.iter().filter(|l| falling.eaves[l.eave].over_roof) {
            // It may spill anywhere along its brim.
            let eave = &falling.eaves[leg.eave];
            let places = (0..=4).filter_map(|k| spilt_onto(falling, eave, leg.length_m * k as f64 / 4.0));
            out.extend(places.filter_map(|p| falling.reach(p)));
        }
        out
    };
    let meets = |t: &Piece<'_>, all: &[Reach]| match t {
        Piece::Gutter(t) => {
            let edges: Vec<&Edge> = t.eaves().filter_map(|k| falling.eave(k)).map(|e| falling.edge(e)).collect();
            let near = |e: &Edge, p: Point, z: f64| {
                length(p, crate::plane::nearest(p, e.p0, e.p1)) < super::eaves::AT_END_M && (height_on(e, p) - z).abs() < STOREY_M
            };
            all.iter().any(|r| matches!(r, Reach::Eave(p, z) if edges.iter().any(|e| near(e, *p, *z))))
        }
        Piece::Flat(f, _) => {
            let own = super::flat::facets_of(falling.shape, &f.mass);
            all.iter().any(|r| matches!(r, Reach::Lies(facet) if own.iter().any(|o| o.id == *facet)))
        }
    };
    let next: Vec<BTreeSet<usize>> = pieces
        .iter()
        .map(|p| {
            let all = reached(p);
            (0..pieces.len()).filter(|k| meets(&pieces[*k], &all)).collect()
        })
        .collect();
    let mut left: Vec<usize> = (0..pieces.len()).collect();
    let mut order = Vec::new();
    // A piece is ready when nothing that is left brings it water.
    while let Some(at) = left.iter().position(|k| left.iter().all(|o| !next[*o].contains(k))) {
        order.push(pieces[left.remove(at)]);
    }
    (order, left.into_iter().map(|k| pieces[k]).collect())
}

/// A point of the roof below, just outside a brim.
fn spilt_onto(falling: &Falling<'_>, eave: &Eave, x_m: f64) -> Option<Point> {
    const BESIDE_M: f64 = 0.1;
    let (p, out) = (falling.point(eave, x_m), falling.outward(eave));
    let q = [p[0] + BESIDE_M * out[0], p[1] + BESIDE_M * out[1]];
    // A roof at its own height is a neighbour across the corner, not a roof below.
    let brim = height_on(falling.edge(eave), p);
    let z = |f: &Facet| f.height[0] + f.height[1] * q[0] + f.height[2] * q[1];
    super::runoff::facet_at(falling.shape, q).filter(|f| z(f) < brim - STOREY_M).map(|_| q)
}

fn gutter(
    g: &GutterRecord,
    falling: &mut Falling<'_>,
    rain: f64,
    input: &RainAccountInput,
    asked: Asked<'_>,
    doubts: &mut Vec<String>,
) -> GutterAccount {
    let judged = asked.judged();
    let legs = match falling.legs(g.eaves()) {
        Ok(legs) => legs,
        Err(e) => return GutterAccount::refused(g, e),
    };
    let work = |i: &RunInput| match asked {
        Asked::All(known) => run_with(i, known),
        Asked::Flows(before) => {
            let near = before.borrow_mut().remove(&g.id);
            let (run, state) = run_now(i, near.as_ref())?;
            before.borrow_mut().insert(g.id.clone(), state);
            Ok(run)
        }
    };
    let worked = run_input(g, &legs, falling, rain).and_then(|i| work(&i).map(|r| (i, r)));
    let (run_input, worked) = match worked {
        Ok(w) => w,
        Err(e) => return GutterAccount::refused(g, e),
    };
    let eave = &falling.eaves[legs.0[0].eave];
    // A place of the gutter: its eave, and how far along that eave.
    let under = |x_m: f64| {
        let (leg, x) = legs.at(x_m);
        (&falling.eaves[leg.eave], x)
    };
    let on_plan = |x_m: f64| {
        let (eave, x) = under(x_m);
        falling.point(eave, x)
    };
    let fall = least_fall(&run_input);
    let carried = worked.spills_from_mm_h.filter(|_| rain > 0.0).map(|c| worked.in_l_s * c / rain);
    let outlets: Vec<f64> = run_input.outlets.iter().map(|o| o.x_m).collect();
    let drains = drains_over(run_input.length_m, &outlets, &run_input.corners_m);
    let allowed = schools(run_input.section, fall, drains, carried, input.practice.rule("gutter-sizing").id().unwrap_or("profile"));
    let mut flown = Vec::new();
    for leg in legs.0.iter().filter(|_| judged) {
        let of_leg = flights(g, &falling.eaves[leg.eave], falling, &run_input, &input.roof, input.practice.units);
        flown.extend(of_leg.into_iter().map(|f| Flight { x_m: f.x_m + leg.from_m, ..f }));
    }
    let flights = flown;
    let page = falling.account(eave, rain, Some(&g.id));
    let over = |s: &Spill| (s.from_m + s.to_m) / 2.0;
    let spills_onto: Vec<Option<Point>> = worked
        .spills
        .iter()
        .map(|s| {
            let (eave, x) = under(over(s));
            spilt_onto(falling, eave, x)
        })
        .collect();
    let mut out = GutterAccount {
        id: g.id.clone(),
        sentence: if judged { sentence(&worked, rain, &allowed, &input.practice) } else { String::new() },
        problem: None,
        outlets: g
            .outlets
            .iter()
            .filter(|o| o.ends != Ends::Nowhere)
            .zip(worked.outlets_l_s.iter().zip(&run_input.outlets))
            .map(|(o, (q, i))| OutletAccount {
                x_m: i.x_m,
                l_min: q * MIN,
                ends: ends(o.ends, &o.distance),
                at: on_plan(i.x_m),
                eave: under(i.x_m).0.key.clone(),
                onto: None,
            })
            .collect(),
        offered: if judged { offered(g, &page, &run_input, &worked, &flights, &input.practice) } else { vec![] },
        remedies: match asked {
            Asked::All(known)
                if input.remedies && (worked.spilt_l_s > 0.0 || worked.stands_m > super::checks::may_stand_m(&input.practice)) =>
            {
                remedies(g, &run_input, &worked, &input.rainwater, &input.practice, known)
            }
            _ => vec![],
        },
        allowed,
        flights,
        spills: worked
            .spills
            .iter()
            .zip(&spills_onto)
            .map(|(s, roof)| SpillAccount { at: on_plan(over(s)), l_min: s.l_s * MIN, onto_roof: roof.is_some() })
            .collect(),
        run: None,
    };
    // What goes on over the roof is a plan area in this rain to the gutters below.
    let as_area = |l_s: f64| if rain > 0.0 { l_s * 3600.0 / rain } else { 0.0 };
    let ways: Vec<Option<Brought>> = g
        .outlets
        .iter()
        .filter(|o| o.ends != Ends::Nowhere)
        .zip(&run_input.outlets)
        .map(|(o, i)| {
            let (eave, x) = under(i.x_m);
            if o.ends == Ends::LowerRoof { brought(o, eave, x, falling) } else { None }
        })
        .collect();
    let note = format!("downspout of {}", g.id);
    let lower: Vec<bool> = g.outlets.iter().filter(|o| o.ends != Ends::Nowhere).map(|o| o.ends == Ends::LowerRoof).collect();
    for (k, way) in ways.into_iter().enumerate() {
        let area = as_area(worked.outlets_l_s[k]);
        match way {
            Some(Brought::Roof(p)) => {
                let stays = !falling.drop_at(p, area, &note);
                out.outlets[k].onto = Some(if stays { "a flat roof".into() } else { "the roof below".into() });
            }
            Some(Brought::Eave(p, z)) => {
                falling.burst(p, z, area, &note);
                out.outlets[k].onto = Some("the eave that was named".into());
            }
            None if lower[k] => doubts.push(format!(
                "{}: no lower roof lies within two metres of its outlet. Name the eave its water comes to, or change where it ends.",
                g.id
            )),
            None => {}
        }
    }
    for (s, onto) in worked.spills.iter().zip(spills_onto) {
        if let Some(p) = onto {
            falling.drop_at(p, as_area(s.l_s), &format!("spilt from {}", g.id));
        }
    }
    out.run = Some(worked);
    out
}

/// The least fall toward an outlet anywhere along a run, for look-ups that know one fall; 0 where it falls away.
fn least_fall(i: &RunInput) -> f64 {
    let nearest = |x: f64| i.outlets.iter().map(|o| o.x_m).min_by(|a, b| (a - x).abs().total_cmp(&(b - x).abs()));
    let fall = |w: &[[f64; 2]]| {
        let middle = (w[0][0] + w[1][0]) / 2.0;
        let toward = nearest(middle).map_or(0.0, |o| if o > middle { 1.0 } else { -1.0 });
        toward * (w[0][1] - w[1][1]) / (w[1][0] - w[0][0])
    };
    let least = i.levels.windows(2).map(fall).fold(f64::MAX, f64::min);
    if least == f64::MAX { 0.0 } else { least.max(0.0) }
}

fn run_input(g: &GutterRecord, legs: &Legs, falling: &Falling<'_>, rain: f64) -> Result<RunInput, String> {
    /// The last hand's breadth is the end itself, metres.
    const HAND_M: f64 = 0.25;
    let length_m = legs.length();
    let (mut along, mut bursts) = (Vec::new(), Vec::new());
    for leg in &legs.0 {
        let sheet = falling.sheet(&falling.eaves[leg.eave]).ok_or("This eave sheds nothing.")?;
        let moved = |a: &AlongGutter| AlongGutter { from_m: a.from_m + leg.from_m, to_m: a.to_m + leg.from_m, ..*a };
        along.extend(sheet.along.iter().map(moved));
        bursts.extend(falling.bursts(sheet).iter().map(|b| Burst { x_m: b.x_m + leg.from_m, area_m2: b.area_m2 }));
    }
    let mut outlets = Vec::new();
    for o in g.outlets.iter().filter(|o| o.ends != Ends::Nowhere) {
        let x = metres("The place of the outlet", &o.from_left)?;
        let x_m = if x > length_m && x < length_m + HAND_M { length_m } else { x };
        let up_m = if o.up.trim().is_empty() { 0.0 } else { metres("The sill of the outlet", &o.up)? };
        outlets.push(RunOutlet { x_m, bore: bore(&o.bore)?, strainer: o.strainer, up_m });
    }
    Ok(RunInput {
        section: g.section()?,
        length_m,
        levels: g.floor()?,
        manning_n: g.inside.roughness(),
        outlets,
        along,
        bursts,
        corners_m: legs.corners(),
        rain_mm_h: rain,
    })
}

fn balance(a: &RainAccount, falling: &Falling<'_>, u: Units) -> (Sums, String) {
    if a.design_mm_h <= 0.0 {
        return (Sums::default(), String::new());
    }
    let per = a.design_mm_h / 60.0;
    let r = &falling.runoff;
    // A gutter that could not be worked out pours like an eave without one.
    let works = |id: &Option<String>| a.gutters.iter().any(|g| Some(&g.id) == id.as_ref() && g.run.is_some());
    let trapped = super::sum(r.point_discharges.iter().filter(|p| p.trapped).map(|p| p.plan_area_m2));
    // What lies on a flat roof that was worked out has gone on, or is said to be held there.
    let flat: f64 = r.flat_receives_m2.iter().filter(|(f, _)| !falling.decks.contains(*f)).map(|(_, m2)| m2).sum();
    let failed = a.flats.iter().filter(|f| f.problem.is_some()).flat_map(|f| super::flat::facets_of(falling.shape, &f.mass));
    let failed: f64 = failed.filter(|f| falling.decks.contains(&f.id)).map(|f| f.plan_area_m2).sum();
    let lies: f64 = falling.landed.iter().map(|l| l.area_m2).sum();
    let rises: f64 = a.flats.iter().map(|f| f.held_l_min).sum();
    let off_flats = super::sum(a.flats.iter().flat_map(|f| &f.outlets).filter(|o| o.onto.is_none()).map(|o| o.l_min));
    let sums = Sums {
        roof: r.total_plan_m2 * per,
        walls: a.walls_m2 * per,
        outlets: off_flats + a.gutters.iter().flat_map(|g| &g.outlets).filter(|o| o.onto.is_none()).map(|o| o.l_min).sum::<f64>(),
        spilt: super::sum(a.gutters.iter().flat_map(|g| &g.spills).filter(|s| !s.onto_roof).map(|s| s.l_min)),
        free: super::sum(a.eaves.iter().filter(|e| !works(&e.gutter) && e.drops_m.is_none()).map(|e| e.l_min)),
        held: (flat + failed + lies + trapped + falling.extra_held_m2) * per + rises,
    };
    let mut parts = vec![
        format!("{} through {}", u.flow(sums.outlets), if a.flats.is_empty() { "downspouts" } else { "downspouts, drains and scuppers" }),
        format!("{} spilt from gutters", u.flow(sums.spilt)),
        format!("{} off eaves without a gutter", u.flow(sums.free)),
    ];
    if sums.held > 0.5 {
        parts.push(format!("{} held on flat roofs and in level valleys", u.flow(sums.held)));
    }
    let walls = if sums.walls > 0.5 { format!(" and {} off walls in the wind", u.flow(sums.walls)) } else { String::new() };
    (sums, format!("Of {} on the roof{walls}: {}.", u.flow(sums.roof), parts.join(", ")))
}
