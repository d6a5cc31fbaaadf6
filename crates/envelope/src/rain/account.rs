//! Everything that follows from the rain, the roof and the gutters: what every eave sheds, how each gutter stands in the
//! design rain, what each outlet lets go and where, what is wrong, and what would end it.

use super::design::{INCH_MM, Rain, RainInput, rain};
use super::record::{Ends, GutterRecord, Inside, Rainwater, bore, intensity};
use super::runoff::{EaveSheet, Runoff, runoff_of, starts_left};
use crate::gutter::channel::standard_capacity_l_s;
use crate::gutter::downspout::L_S_PER_GPM;
use crate::gutter::run::{Burst, Run, RunInput, RunOutlet, run};
use crate::gutter::section::Section;
use crate::plane::length;
use crate::practice::Practice;
use crate::roof::details::Names;
use crate::roof::record::{Roof, metres};
use crate::roof::shape::{RoofInput, RoofShape, shape};
use crate::site::{Bearing, Face, Place, Zone};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// An eave and what it sheds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EaveAccount {
    /// Its lasting name: facet and number from the left.
    pub key: String,
    /// The edge of the drawing.
    pub edge: String,
    /// "rear eave of the main".
    pub label: String,
    /// The face it looks to.
    pub face: Face,
    /// Its length, metres.
    pub length_m: f64,
    /// Plan area that runs to it as a sheet, m².
    pub sheet_m2: f64,
    /// Plan area that arrives at its ends as a burst, m².
    pub burst_m2: f64,
    /// In the design rain, litres per minute.
    pub l_min: f64,
    /// The same, US gallons per minute.
    pub gpm: f64,
    /// The gutter that hangs there.
    pub gutter: Option<String>,
}

/// An outlet on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutletAccount {
    /// From the left end, metres.
    pub x_m: f64,
    /// What it gets in the design rain, litres per minute.
    pub l_min: f64,
    /// Where it lets go, in words.
    pub ends: String,
}

/// Something that is wrong, offered as a note at its place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Offered {
    /// The condition, from the catalogue.
    pub condition: String,
    /// The line it would become.
    pub line: String,
    /// Where.
    pub place: Place,
}

/// A change that was tried.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Remedy {
    /// Its name, by which its cost is kept.
    pub change: String,
    /// What would be done.
    pub words: String,
    /// What it costs, an estimate.
    pub cost: f64,
    /// The rain it spills from afterwards, mm/h.
    pub spills_from_mm_h: Option<f64>,
    /// What still spills in the design rain, litres per minute.
    pub spilt_l_min: f64,
    /// Water left standing afterwards, mm.
    pub stands_mm: f64,
    /// It ends the spilling in the design rain.
    pub ends_it: bool,
    /// Before and after in a sentence.
    pub sentence: String,
}

/// A gutter on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GutterAccount {
    /// Its name.
    pub id: String,
    /// The result as a sentence.
    pub sentence: String,
    /// The run, worked out; none when it could not be.
    pub run: Option<Run>,
    /// Why it could not be.
    pub problem: Option<String>,
    /// Its outlets.
    pub outlets: Vec<OutletAccount>,
    /// The table schools beside it, and why they differ.
    pub schools: String,
    /// What is wrong.
    pub offered: Vec<Offered>,
    /// What would end it, the cheapest that does first.
    pub remedies: Vec<Remedy>,
}

/// Rainwater, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RainAccount {
    /// The intensity law; none while no rain was given.
    pub law: Option<Rain>,
    /// The design rain, mm/h.
    pub design_mm_h: f64,
    /// The design rain in words, with its school.
    pub design: String,
    /// Where the water goes; none while there is no roof.
    pub runoff: Option<Runoff>,
    /// A point well inside each facet, by its name: where a drop starts when a slope is chosen without a pointer.
    pub starts: BTreeMap<String, [f64; 2]>,
    /// The eaves.
    pub eaves: Vec<EaveAccount>,
    /// The gutters.
    pub gutters: Vec<GutterAccount>,
    /// Where every litre of the design rain goes, in words.
    pub balance: String,
    /// What should be looked at again, in words.
    pub doubts: Vec<String>,
}

/// Litres per minute in a litre per second.
const MIN: f64 = 60.0;
/// A fall that empties a gutter: 1 in 200. Rule of practice.
const GOOD_FALL: f64 = 0.005;

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

/// Works rainwater out.
pub fn rain_account(input: &RainAccountInput) -> RainAccount {
    let storm = &input.rainwater.storm;
    let mut doubts = Vec::new();
    let figures = intensity("The rain over 5 minutes", &storm.i5).and_then(|a| Ok((a, intensity("The rain over 60 minutes", &storm.i60)?)));
    let law = match figures {
        Ok((i5_mm_h, i60_mm_h)) => match rain(&RainInput { return_period_years: storm.years, i5_mm_h, i60_mm_h }) {
            Ok(l) => Some(l),
            Err(e) => {
                doubts.push(e.to_string());
                None
            }
        },
        Err(e) => {
            doubts.push(e);
            None
        }
    };
    doubts.extend(law.iter().flat_map(|l| l.doubts.clone()));
    let rule = input.practice.rule("design-rain");
    let own = rule.own.map(|v| v * 3.6e6);
    let minutes = if rule.id() == Some("hundred-year-hour") { 60.0 } else { 5.0 };
    let design_mm_h = input.at_mm_h.or(own).or_else(|| law.as_ref().map(|l| l.intensity(minutes))).unwrap_or(0.0);
    let years = storm.years.map(|y| format!(", once in {y:.0} years")).unwrap_or_default();
    let design = if design_mm_h > 0.0 {
        format!(
            "{design_mm_h:.0} mm/h ({:.2} in/h) over {minutes:.0} minutes{years}; {}",
            design_mm_h / INCH_MM,
            rule.words().to_lowercase()
        )
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
        balance: String::new(),
        doubts,
    };
    let Ok(placed) = input.roof.placed(input.front_faces) else { return out };
    let Ok(s) = shape(&RoofInput { masses: placed.masses }) else { return out };
    let r = runoff_of(&s);
    out.starts = s.facets.iter().map(|f| (f.id.clone(), f.middle)).collect();
    let names = Names { roof: &input.roof, front: input.front_faces };
    out.eaves = eaves(&s, &r, &names, &input.rainwater, design_mm_h);
    for g in &input.rainwater.gutters {
        let account = gutter(g, &out, &s, &r, input);
        out.gutters.push(account);
    }
    out.balance = balance(&out, &r);
    out.runoff = Some(r);
    out
}

/// How near a burst must come to an eave's end to fall into its gutter, metres.
const AT_END_M: f64 = 0.25;

fn bursts<'a>(r: &'a Runoff, e: &'a EaveSheet) -> impl Iterator<Item = (&'a super::runoff::PointDischarge, usize)> {
    r.point_discharges.iter().filter(|p| !p.trapped).filter_map(move |p| {
        let near = |q: [f64; 2]| length(q, p.at) < AT_END_M;
        // A point that lies on the eave itself, or at one of its corners.
        let along = along_edge(e, p.at);
        (near(e.p0) || near(e.p1) || along.is_some()).then(|| {
            let sharing = r
                .eave_sheet
                .iter()
                .filter(|o| length(o.p0, p.at) < AT_END_M || length(o.p1, p.at) < AT_END_M || along_edge(o, p.at).is_some());
            (p, sharing.count().max(1))
        })
    })
}

fn along_edge(e: &EaveSheet, p: [f64; 2]) -> Option<f64> {
    let d = [e.p1[0] - e.p0[0], e.p1[1] - e.p0[1]];
    let l2 = d[0] * d[0] + d[1] * d[1];
    let t = ((p[0] - e.p0[0]) * d[0] + (p[1] - e.p0[1]) * d[1]) / l2;
    let off = ((p[0] - e.p0[0]) * d[1] - (p[1] - e.p0[1]) * d[0]).abs() / l2.sqrt();
    ((0.0..=1.0).contains(&t) && off < 1e-3).then_some(t)
}

fn eaves(s: &RoofShape, r: &Runoff, names: &Names<'_>, kept: &Rainwater, rain: f64) -> Vec<EaveAccount> {
    let mut out: Vec<(f64, EaveAccount)> = Vec::new();
    for e in &r.eave_sheet {
        let Some(f) = s.facets.iter().find(|f| f.id == e.facet) else { continue };
        let Some(edge) = s.edges.iter().find(|x| x.id == e.edge) else { continue };
        let burst: f64 = bursts(r, e).map(|(p, n)| p.plan_area_m2 / n as f64).sum();
        let l_min = (e.sheet_total_m2 + burst) * rain / 60.0;
        let left = if starts_left(s, edge) { e.p0 } else { e.p1 };
        // Order along the eave, from the left, to tell pieces of one slope apart.
        let down = [-f.height[1], -f.height[2]];
        let along = -(left[0] * down[1] - left[1] * down[0]);
        let label = names.facet(f).replacen("slope", "eave", 1);
        let account = EaveAccount {
            key: f.id.clone(),
            edge: e.edge.clone(),
            label,
            face: names.face(f),
            length_m: e.length_m,
            sheet_m2: e.sheet_total_m2,
            burst_m2: burst,
            l_min,
            gpm: l_min / MIN / L_S_PER_GPM,
            gutter: None,
        };
        out.push((along, account));
    }
    out.sort_by(|a, b| a.1.key.cmp(&b.1.key).then(a.0.total_cmp(&b.0)));
    let mut list: Vec<EaveAccount> = out.into_iter().map(|o| o.1).collect();
    for k in 0..list.len() {
        let same = |o: &EaveAccount| o.edge != list[k].edge && o.key.split('#').next() == list[k].key.split('#').next();
        let several = list.iter().any(same);
        let n = 1 + list[..k].iter().filter(|o| o.key.split('#').next() == Some(list[k].key.as_str())).count();
        list[k].key = format!("{}#{n}", list[k].key);
        if several {
            list[k].label = format!("{}, piece {n} from the left", list[k].label);
        }
    }
    for e in &mut list {
        e.gutter = kept.gutters.iter().find(|g| g.eave == e.key).map(|g| g.id.clone());
    }
    list
}

fn gutter(g: &GutterRecord, so_far: &RainAccount, s: &RoofShape, r: &Runoff, input: &RainAccountInput) -> GutterAccount {
    let mut out = GutterAccount {
        id: g.id.clone(),
        sentence: String::new(),
        run: None,
        problem: None,
        outlets: vec![],
        schools: String::new(),
        offered: vec![],
        remedies: vec![],
    };
    let Some(eave) = so_far.eaves.iter().find(|e| e.key == g.eave) else {
        out.problem = Some("There is no such eave on this roof any more. Choose where it hangs.".into());
        out.sentence = out.problem.clone().unwrap_or_default();
        return out;
    };
    let run_input = match run_input(g, eave, s, r, so_far.design_mm_h) {
        Ok(i) => i,
        Err(e) => {
            out.sentence.clone_from(&e);
            out.problem = Some(e);
            return out;
        }
    };
    match run(&run_input) {
        Err(e) => {
            out.sentence.clone_from(&e);
            out.problem = Some(e);
        }
        Ok(worked) => {
            out.sentence = sentence(&worked, so_far.design_mm_h);
            out.outlets = g
                .outlets
                .iter()
                .zip(&worked.outlets_l_s)
                .zip(&run_input.outlets)
                .map(|((o, q), i)| OutletAccount { x_m: i.x_m, l_min: q * MIN, ends: ends(o.ends, &o.distance) })
                .collect();
            out.schools = schools(run_input.section, &worked, &input.practice);
            out.offered = offered(g, eave, &worked, &input.practice);
            if input.remedies && (worked.spilt_l_s > 0.0 || worked.stands_m > STANDS_M) {
                out.remedies = remedies(g, &run_input, &worked, &input.rainwater);
            }
            out.run = Some(worked);
        }
    }
    out
}

fn run_input(g: &GutterRecord, eave: &EaveAccount, s: &RoofShape, r: &Runoff, rain: f64) -> Result<RunInput, String> {
    let sheet = r.eave_sheet.iter().find(|e| e.edge == eave.edge).ok_or("This eave sheds nothing.")?;
    let edge = s.edges.iter().find(|e| e.id == eave.edge).ok_or("This eave is not on the roof.")?;
    let left_first = starts_left(s, edge);
    let place = |p: [f64; 2]| {
        let t = along_edge(sheet, p).unwrap_or(if length(sheet.p0, p) < length(sheet.p1, p) { 0.0 } else { 1.0 });
        sheet.length_m * if left_first { t } else { 1.0 - t }
    };
    let mut outlets = Vec::new();
    for o in g.outlets.iter().filter(|o| o.ends != Ends::Nowhere) {
        let x = metres("The place of the outlet", &o.from_left)?;
        // The last hand's breadth is the end itself.
        let x_m = if x > sheet.length_m && x < sheet.length_m + AT_END_M { sheet.length_m } else { x };
        outlets.push(RunOutlet { x_m, bore: bore(&o.bore)?, strainer: o.strainer });
    }
    Ok(RunInput {
        section: g.section()?,
        length_m: sheet.length_m,
        levels: g.floor()?,
        manning_n: g.inside.roughness(),
        outlets,
        along: sheet.along.clone(),
        bursts: bursts(r, sheet).map(|(p, n)| Burst { x_m: place(p.at), area_m2: p.plan_area_m2 / n as f64 }).collect(),
        rain_mm_h: rain,
    })
}

/// Less standing water than this dries by itself, metres.
const STANDS_M: f64 = 0.005;

fn sentence(r: &Run, rain: f64) -> String {
    let mm = |m: f64| format!("{:.0} mm", m * 1000.0);
    let mut out = match (r.spilt_l_s > 0.0, r.spills_from_mm_h) {
        (_, None) => "It has no outlet: everything spills.".to_owned(),
        (true, Some(from)) => format!(
            "In {rain:.0} mm/h it spills {:.0} L/min of {:.0}, from {from:.0} mm/h on{}.",
            r.spilt_l_s * MIN,
            r.in_l_s * MIN,
            match (r.governed_by.as_str(), r.first_spill_at_m) {
                ("downspout", _) => ", because its downspout takes no more".to_owned(),
                (_, Some(x)) => format!(", first {x:.1} m from its left end"),
                _ => String::new(),
            }
        ),
        (false, Some(from)) => {
            format!("It carries {rain:.0} mm/h with {} to spare and spills from {from:.0} mm/h on.", mm(r.rim_m - r.deepest_m))
        }
    };
    if r.stands_m > STANDS_M {
        out.push_str(&format!(" {} of water stay in it after the rain, {:.1} m from its left end.", mm(r.stands_m), r.stands_at_m));
    }
    out
}

fn ends(e: Ends, distance: &str) -> String {
    let far = if distance.trim().is_empty() { String::new() } else { format!(", {} from the wall", distance.trim()) };
    match e {
        Ends::Ground => format!("on the ground{far}"),
        Ends::LowerRoof => "on a lower roof".into(),
        Ends::PipeToDaylight => format!("in a pipe to daylight{far}"),
        Ends::BuriedPipe => "in a buried pipe of unknown end".into(),
        Ends::Nowhere => "nowhere: there is no downspout".into(),
    }
}

/// What the two look-ups say beside the computed surface.
fn schools(section: Section, r: &Run, practice: &Practice) -> String {
    let standard = standard_capacity_l_s(section) * 0.9;
    // The plumbing-code half-round table implies about half of what a clean run carries.
    let computed = r.spills_from_mm_h.map(|c| r.in_l_s * c);
    let all = computed.map_or_else(
        || "none, it has no outlet".to_owned(),
        |_| {
            let carried = (r.in_l_s - r.spilt_l_s).max(0.0);
            format!("{carried:.2} L/s of {:.2} in this rain", r.in_l_s)
        },
    );
    format!(
        "Water surface along the run: {all}. Eaves-gutter standard formula: {standard:.2} L/s whatever the fall and outlets. A plumbing-code table allows about half of a clean run: a cautious look-up. They differ because only the surface knows the fall, the outlets and where the water comes in. The practice follows: {}.",
        practice.rule("gutter-sizing").words().to_lowercase()
    )
}

fn offered(g: &GutterRecord, eave: &EaveAccount, r: &Run, practice: &Practice) -> Vec<Offered> {
    let mut out = Vec::new();
    let place = |zone: Zone, x: Option<f64>| Place { station: Some(g.id.clone()), from_left_m: x, ..Place::outside(eave.face, zone) };
    let mut offer = |condition: &str, line: String, place: Place| out.push(Offered { condition: condition.into(), line, place });
    if r.spills_from_mm_h.is_none() {
        offer("gutter-outlets-short", format!("{} has no outlet, everything spills", g.id), place(Zone::Edge, None));
    } else if r.spilt_l_s > 0.0 {
        let line = format!("{} spills {:.0} L/min in the design rain", g.id, r.spilt_l_s * MIN);
        offer(
            if r.governed_by == "downspout" { "gutter-outlets-short" } else { "gutter-overflow-marks" },
            line,
            place(Zone::Edge, r.first_spill_at_m),
        );
    }
    if r.stands_m > STANDS_M {
        offer(
            "gutter-standing-water",
            format!("{} holds {:.0} mm of water after rain, falls away from its outlet", g.id, r.stands_m * 1000.0),
            place(Zone::Edge, Some(r.stands_at_m)),
        );
    }
    let rule = practice.rule("discharge-distance");
    for o in &g.outlets {
        let near = metres("", &o.distance).ok().filter(|d| o.ends == Ends::Ground && *d < rule.figure());
        if let Some(d) = near {
            let line = format!("downspout of {} lets go {:.2} m from wall, should be {:.2} m", g.id, d, rule.figure());
            offer("downspout-at-wall", line, place(Zone::Ground, None));
        }
        if o.ends == Ends::LowerRoof {
            offer("downspout-onto-roof", format!("downspout of {} ends on a lower roof", g.id), place(Zone::Roof, None));
        }
        if o.ends == Ends::Nowhere {
            offer("gutter-outlets-short", format!("{} has an outlet without a downspout", g.id), place(Zone::Edge, None));
        }
    }
    out
}

/// What the changes usually cost; made-up figures of the demo town, editable.
pub const COSTS: [(&str, f64); 4] = [("clean", 60.0), ("refit-fall", 180.0), ("one-more-outlet", 240.0), ("next-size", 640.0)];

/// Tries the changes one by one and in pairs; the cheapest that ends the spilling comes first.
fn remedies(g: &GutterRecord, now: &RunInput, before: &Run, kept: &Rainwater) -> Vec<Remedy> {
    let cost = |change: &str| kept.costs.get(change).copied().unwrap_or_else(|| COSTS.iter().find(|c| c.0 == change).map_or(0.0, |c| c.1));
    type Change<'a> = (&'static str, String, Box<dyn Fn(&RunInput) -> RunInput + 'a>);
    let mut changes: Vec<Change<'_>> = Vec::new();
    if g.inside != Inside::Clean {
        changes.push(("clean", "clean it".into(), Box::new(|i| RunInput { manning_n: Inside::Clean.roughness(), ..i.clone() })));
    }
    changes.push((
        "refit-fall",
        "refit it to fall 1 in 200 to its nearest outlet".into(),
        Box::new(|i| RunInput { levels: refitted(i), ..i.clone() }),
    ));
    let like = now.outlets.first().cloned().unwrap_or(RunOutlet {
        x_m: 0.0,
        bore: crate::gutter::downspout::Bore::Round { diameter_mm: 75.0 },
        strainer: false,
    });
    let best = [0.0, now.length_m / 2.0, now.length_m]
        .into_iter()
        .filter(|x| now.outlets.iter().all(|o| (o.x_m - x).abs() > 0.5))
        .filter_map(|x| {
            let mut i = now.clone();
            i.outlets.push(RunOutlet { x_m: x, ..like.clone() });
            run(&i).ok().map(|r| (x, r.spills_from_mm_h.unwrap_or(0.0)))
        })
        .max_by(|a, b| a.1.total_cmp(&b.1));
    if let Some((x, _)) = best {
        changes.push((
            "one-more-outlet",
            format!("add an outlet and downspout {x:.1} m from its left end"),
            Box::new(move |i| {
                let mut more = i.clone();
                more.outlets.push(RunOutlet { x_m: x, ..like.clone() });
                more
            }),
        ));
    }
    changes.push(("next-size", "hang the next size up".into(), Box::new(|i| RunInput { section: larger(i.section), ..i.clone() })));
    let mut out: Vec<Remedy> = Vec::new();
    let mut attempt = |names: String, words: String, price: f64, i: &RunInput| {
        let Ok(r) = run(i) else { return };
        let ends_it = r.spilt_l_s <= 0.0 && r.stands_m <= STANDS_M;
        let figure = |s: Option<f64>| s.map_or("at once".to_owned(), |v| format!("from {v:.0} mm/h"));
        let sentence = format!(
            "Before: spills {:.0} L/min, {}, {:.0} mm stay. After: {:.0} L/min, {}, {:.0} mm stay.",
            before.spilt_l_s * MIN,
            figure(before.spills_from_mm_h),
            before.stands_m * 1000.0,
            r.spilt_l_s * MIN,
            figure(r.spills_from_mm_h),
            r.stands_m * 1000.0
        );
        out.push(Remedy {
            change: names,
            words,
            cost: price,
            spills_from_mm_h: r.spills_from_mm_h,
            spilt_l_min: r.spilt_l_s * MIN,
            stands_mm: r.stands_m * 1000.0,
            ends_it,
            sentence,
        });
    };
    for (name, words, change) in &changes {
        attempt((*name).into(), crate::roof::access::capital(words), cost(name), &change(now));
    }
    for (k, (a, wa, first)) in changes.iter().enumerate() {
        for (b, wb, second) in &changes[k + 1..] {
            // An outlet first, so that the fall is set toward the nearest of all of them.
            let both = if *b == "one-more-outlet" { first(&second(now)) } else { second(&first(now)) };
            attempt(format!("{a}+{b}"), crate::roof::access::capital(&format!("{wa} and {wb}")), cost(a) + cost(b), &both);
        }
    }
    out.sort_by(|a, b| b.ends_it.cmp(&a.ends_it).then(a.cost.total_cmp(&b.cost)));
    out.truncate(5);
    out
}

/// The floor falling 1 in 200 to the nearest outlet from everywhere.
fn refitted(i: &RunInput) -> Vec<[f64; 2]> {
    let mut outlets: Vec<f64> = i.outlets.iter().map(|o| o.x_m).collect();
    outlets.sort_by(f64::total_cmp);
    let mut stops = vec![0.0, i.length_m];
    stops.extend(&outlets);
    stops.extend(outlets.windows(2).map(|w| (w[0] + w[1]) / 2.0));
    stops.sort_by(f64::total_cmp);
    stops.dedup_by(|a, b| (*a - *b).abs() < 1e-6);
    let nearest = |x: f64| outlets.iter().map(|o| (o - x).abs()).fold(f64::MAX, f64::min);
    stops.into_iter().map(|x| [x, if outlets.is_empty() { 0.0 } else { nearest(x) * GOOD_FALL }]).collect()
}

fn larger(s: Section) -> Section {
    // Sizes go up by about a quarter.
    const UP: f64 = 1.25;
    match s {
        Section::Rect { width_m, depth_m } => Section::Rect { width_m: width_m * UP, depth_m: depth_m * UP },
        Section::HalfRound { diameter_m } => Section::HalfRound { diameter_m: diameter_m * UP },
        Section::Trapezoid { bottom_m, top_m, depth_m } => {
            Section::Trapezoid { bottom_m: bottom_m * UP, top_m: top_m * UP, depth_m: depth_m * UP }
        }
    }
}

fn balance(a: &RainAccount, r: &Runoff) -> String {
    if a.design_mm_h <= 0.0 {
        return String::new();
    }
    let per = a.design_mm_h / 60.0;
    let all = r.total_plan_m2 * per;
    let free: f64 =
        a.eaves.iter().filter(|e| a.gutters.iter().all(|g| Some(&g.id) != e.gutter.as_ref() || g.run.is_none())).map(|e| e.l_min).sum();
    let let_go: f64 = a.gutters.iter().flat_map(|g| &g.outlets).map(|o| o.l_min).sum();
    let spilt: f64 = a.gutters.iter().filter_map(|g| g.run.as_ref()).map(|r| r.spilt_l_s * MIN).sum();
    let held = all - let_go - spilt - free;
    let mut parts = vec![
        format!("{let_go:.0} through downspouts"),
        format!("{spilt:.0} spilt from gutters"),
        format!("{free:.0} off eaves without a gutter"),
    ];
    if held > 0.5 {
        parts.push(format!("{held:.0} held on flat roofs and in level valleys"));
    }
    format!("Of {all:.0} L/min on the roof: {}.", parts.join(", "))
}
