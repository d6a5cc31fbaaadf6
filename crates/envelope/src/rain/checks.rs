//! What the water says of a gutter: the sentence, the look-ups beside it, and what is wrong, offered at its place.

use super::eaves::{Eave, Falling};
use super::figures::{EaveAccount, Flight, MIN, Offered, RainAccount};
use super::overshoot::{Leaves, OvershootInput, overshoot};
use super::record::{Ends, GutterRecord};
use crate::gutter::run::{Governed, Run, RunInput};
use crate::gutter::tables::Allowed;
use crate::measure::Units;
use crate::plane::length;
use crate::practice::Practice;
use crate::roof::covering::covering;
use crate::roof::record::{Roof, metres};
use crate::roof::shape::EdgeKind;
use crate::site::{Place, Zone};

/// What a gutter may hold after rain, metres, by the practice.
pub(crate) fn may_stand_m(practice: &Practice) -> f64 {
    practice.rule("gutter-fall").named("stands").unwrap_or(0.005)
}

pub(crate) fn sentence(r: &Run, rain: f64, allowed: &[Allowed], practice: &Practice) -> String {
    let u = practice.units;
    let mut out = match (r.spilt_l_s > 0.0, r.spills_from_mm_h) {
        (_, None) => "It has no outlet: everything spills.".to_owned(),
        (true, Some(from)) => format!(
            "In {} it spills {} of {}, from {} on{}.",
            u.rain(rain),
            u.flow(r.spilt_l_s * MIN),
            u.flow(r.in_l_s * MIN),
            u.rain(from),
            match (r.governed_by, r.first_spill_at_m) {
                (Governed::Downspout, _) => ", because its downspout takes no more".to_owned(),
                (_, Some(x)) => format!(", first {} from its left end", u.length(x, 1)),
                _ => String::new(),
            }
        ),
        (false, Some(from)) => {
            format!("It carries {} with {} to spare and spills from {} on.", u.rain(rain), u.depth(r.rim_m - r.deepest_m), u.rain(from))
        }
    };
    if r.stands_m > may_stand_m(practice) {
        out.push_str(&format!(
            " {} of water stay in it after the rain, {} from its left end.",
            u.depth(r.stands_m),
            u.length(r.stands_at_m, 1)
        ));
    }
    // A practice that follows a look-up is told what it says, beside the water surface.
    if let Some(a) = allowed.iter().find(|a| a.followed && a.school != "profile") {
        let says = match a.l_s {
            None => "knows no gutter so small".to_owned(),
            Some(l) if l < r.in_l_s => format!("allows {} of the {} that come: too small by it", u.flow_s(l), u.flow_s(r.in_l_s)),
            Some(l) => format!("allows {}, and {} come", u.flow_s(l), u.flow_s(r.in_l_s)),
        };
        out.push_str(&format!(" The {}, which this practice follows, {says}.", a.name));
    }
    out
}

pub(crate) fn ends(e: Ends, distance: &str) -> String {
    let far = if distance.trim().is_empty() { String::new() } else { format!(", {} from the wall", distance.trim()) };
    match e {
        Ends::Ground => format!("on the ground{far}"),
        Ends::LowerRoof => "on a lower roof".into(),
        Ends::PipeToDaylight => format!("in a pipe to daylight{far}"),
        Ends::BuriedPipe => "in a buried pipe of unknown end".into(),
        Ends::Nowhere => "nowhere: there is no downspout".into(),
    }
}

/// Where the covering reaches and hangs when nobody measured it; rules of practice.
const USUAL_PAST_FASCIA_M: f64 = 0.03;
const USUAL_ABOVE_RIM_M: f64 = 0.03;

/// Whether the trough catches what leaves the edge above it: the sheet where it is longest, and each valley.
pub(crate) fn flights(g: &GutterRecord, eave: &Eave, falling: &Falling<'_>, run: &RunInput, roof: &Roof, u: Units) -> Vec<Flight> {
    let (edge, shape) = (falling.edge(eave), falling.shape);
    let (Some(f), Some(sheet)) = (shape.facets.iter().find(|f| f.id == edge.facet), falling.sheet(eave)) else { return vec![] };
    let roughness = |facet: &str| {
        let mass = facet.split(['.', '|']).next().unwrap_or_default();
        let key = roof.masses.iter().find(|m| m.id == mass).and_then(|m| m.covering.as_deref());
        key.and_then(covering).map_or(0.02, |c| c.roughness)
    };
    let usual = |text: &str, usual: f64| if text.trim().is_empty() { usual } else { metres("", text).unwrap_or(usual) };
    let of = |leaves: Leaves, facet: &str| OvershootInput {
        leaves,
        rain_mm_h: run.rain_mm_h,
        roughness: roughness(facet),
        past_fascia_m: usual(&g.past_fascia, USUAL_PAST_FASCIA_M),
        above_rim_m: usual(&g.above_rim, USUAL_ABOVE_RIM_M),
        catch_m: run.section.top(),
    };
    let mut out = Vec::new();
    let mut keep = |what: &str, x_m: f64, i: &OvershootInput| {
        let Ok(result) = overshoot(i) else { return };
        let ends = match result.flies_over_from_mm_h {
            _ if i.past_fascia_m >= i.catch_m => "the trough lies behind the drip line".to_owned(),
            Some(from) if !result.caught => format!("it flies over, from {} on", u.rain(from)),
            Some(from) => format!("caught; it would fly over from {} on", u.rain(from)),
            None => "caught".to_owned(),
        };
        let sentence = format!(
            "{}: {} deep at {}, lands {} from the back of a trough of {}: {ends} (estimate).",
            crate::roof::access::capital(what),
            u.fine(result.depth_mm / 1000.0),
            u.speed(result.speed_m_s),
            u.depth(result.lands_m),
            u.depth(i.catch_m)
        );
        out.push(Flight { what: what.into(), x_m, catch_m: i.catch_m, result, sentence });
    };
    let widest = sheet.along.iter().flat_map(|a| [(a.from_m, a.width_from_m), (a.to_m, a.width_to_m)]).max_by(|a, b| a.1.total_cmp(&b.1));
    if let Some((x, width_m)) = widest.filter(|w| w.1 > 0.0 && f.pitch > 0.0) {
        keep("the sheet of the slope", x, &of(Leaves::Sheet { width_m, pitch: f.pitch }, &f.id));
    }
    let outward = falling.outward(eave);
    for b in falling.bursts(sheet) {
        let ends_here = |e: &&crate::roof::shape::Edge| {
            let (foot, z) = if e.z0_m < e.z1_m { (e.p0, e.z1_m - e.z0_m) } else { (e.p1, e.z0_m - e.z1_m) };
            e.kind == EdgeKind::Valley && length(foot, b.at) < super::eaves::AT_END_M && z > 1e-6
        };
        let Some(v) = shape.edges.iter().find(ends_here) else { continue };
        let (head, foot) = if v.z0_m < v.z1_m { (v.p1, v.p0) } else { (v.p0, v.p1) };
        let d = [(foot[0] - head[0]) / v.plan_m, (foot[1] - head[1]) / v.plan_m];
        // How steep each side falls toward the valley, straight across it.
        let across = |id: &str| {
            let h = shape.facets.iter().find(|f| f.id == id).map_or([0.0; 3], |f| f.height);
            (h[1] * d[1] - h[2] * d[0]).abs()
        };
        let sides = [across(&v.facet), across(v.other.as_deref().unwrap_or_default())];
        let skew_deg = (d[0] * outward[0] + d[1] * outward[1]).clamp(-1.0, 1.0).acos().to_degrees();
        // The whole stream flies, whoever shares it below.
        let whole: f64 = falling
            .runoff
            .point_discharges
            .iter()
            .filter(|p| length(p.at, b.at) < 1e-3)
            .map(|p| p.plan_area_m2)
            .sum::<f64>()
            .max(b.area_m2);
        let pitch = (v.z0_m - v.z1_m).abs() / v.plan_m;
        keep("the valley", b.x_m, &of(Leaves::Stream { area_m2: whole, pitch, sides, skew_deg }, &v.facet));
    }
    out
}

/// Bursts and ends this near to one another belong together, metres.
const NEAR_END_M: f64 = 0.3;
/// Less than this at an end cap drips, litres per minute.
const SPLASH_L_MIN: f64 = 5.0;

/// What is wrong with a gutter.
pub(crate) fn offered(
    g: &GutterRecord,
    eave: &EaveAccount,
    run: &RunInput,
    r: &Run,
    flights: &[Flight],
    practice: &Practice,
) -> Vec<Offered> {
    // A line that is offered is typed as it stands, so it says each figure once.
    let u = practice.units.first();
    let mut out = Vec::new();
    let place = |zone: Zone, x: Option<f64>| Place { station: Some(g.id.clone()), from_left_m: x, ..Place::outside(eave.face, zone) };
    let mut offer =
        |condition: &str, line: String, place: Place| out.push(Offered { condition: condition.into(), line, place, limitation: false });
    if r.spills_from_mm_h.is_none() {
        offer("gutter-outlets-short", format!("{} has no outlet, everything spills", g.id), place(Zone::Edge, None));
    } else if r.spilt_l_s > 0.0 {
        let line = format!("{} spills {} in the design rain", g.id, u.flow(r.spilt_l_s * MIN));
        offer(
            if r.governed_by == Governed::Downspout { "gutter-outlets-short" } else { "gutter-overflow-marks" },
            line,
            place(Zone::Edge, r.first_spill_at_m),
        );
    }
    if r.stands_m > may_stand_m(practice) {
        offer(
            "gutter-standing-water",
            format!("{} holds {} of water after rain, falls away from its outlet", g.id, u.depth(r.stands_m)),
            place(Zone::Edge, Some(r.stands_at_m)),
        );
    }
    for f in flights.iter().filter(|f| !f.result.caught) {
        let line = format!("{} flies over {}, lands {} out, trough {} wide", f.what, g.id, u.depth(f.result.lands_m), u.depth(f.catch_m));
        offer("gutter-capture-short", line, place(Zone::Edge, Some(f.x_m)));
    }
    for end in [0.0, run.length_m] {
        let comes: f64 =
            run.bursts.iter().filter(|b| (b.x_m - end).abs() < NEAR_END_M).map(|b| b.area_m2).sum::<f64>() * run.rain_mm_h / 60.0;
        let outlet = run.outlets.iter().any(|o| (o.x_m - end).abs() < NEAR_END_M);
        if comes > SPLASH_L_MIN && !outlet {
            let line = format!("valley throws {} against the end cap of {}, splash past its end", u.flow(comes), g.id);
            offer("gutter-capture-short", line, place(Zone::Edge, Some(end)));
        }
    }
    let rule = practice.rule("discharge-distance");
    for o in &g.outlets {
        let near = metres("", &o.distance).ok().filter(|d| o.ends == Ends::Ground && *d < rule.figure());
        if let Some(d) = near {
            let line = format!("downspout of {} lets go {} from wall, should be {}", g.id, u.length(d, 2), u.length(rule.figure(), 2));
            offer("downspout-at-wall", line, place(Zone::Ground, None));
        }
        if o.ends == Ends::LowerRoof {
            offer("downspout-onto-roof", format!("downspout of {} ends on a lower roof", g.id), place(Zone::Roof, None));
        }
        if o.ends == Ends::Nowhere {
            offer("gutter-outlets-short", format!("{} has an outlet without a downspout", g.id), place(Zone::Edge, None));
        }
    }
    if g.outlets.iter().any(|o| o.ends == Ends::BuriedPipe) {
        out.push(Offered {
            condition: String::new(),
            line: format!("{}: its downspout ends in a buried pipe of unknown end. Run a hose into it and look where it comes out.", g.id),
            place: place(Zone::Ground, None),
            limitation: true,
        });
    }
    out
}

/// What is wrong where no gutter hangs: eaves that pour free, onto the ground or onto a roof below.
pub(crate) fn offered_free(a: &RainAccount, behind: &dyn Fn(&EaveAccount) -> bool, units: Units) -> Vec<Offered> {
    let u = units.first();
    /// A porch roof or less pours without harm, m².
    const SMALL_M2: f64 = 4.0;
    /// Water that falls so far wears the covering below it.
    const SPLASH_M: f64 = 0.3;
    a.eaves
        .iter()
        .filter(|e| e.gutter.is_none() && e.sheet_m2 + e.burst_m2 > SMALL_M2 && !behind(e))
        .filter_map(|e| {
            let line = match e.drops_m {
                None => format!("no gutter at the {}, {} pour free", e.label, u.flow(e.l_min)),
                Some(d) if d > SPLASH_M => {
                    format!("no gutter at the {}, {} fall {} and splash on the roof below", e.label, u.flow(e.l_min), u.length(d, 1))
                }
                Some(_) => return None,
            };
            let place = Place::outside(e.face, Zone::Edge);
            Some(Offered { condition: "gutter-absent".into(), line, place, limitation: false })
        })
        .collect()
}

/// Feet of walls where a kick-out must turn the water: what comes there, in words.
pub(crate) fn kick_outs(falling: &Falling<'_>, rain: f64, units: Units) -> Vec<String> {
    let feet = falling.runoff.point_discharges.iter().filter(|p| p.along_wall_m2 > 0.0 && p.plan_area_m2 * rain / 60.0 > 0.5);
    feet.map(|p| {
        let near = falling.eaves.iter().min_by(|a, b| {
            let off = |e: &Eave| {
                let edge = falling.edge(e);
                length(edge.p0, p.at).min(length(edge.p1, p.at))
            };
            off(a).total_cmp(&off(b))
        });
        format!(
            "At the foot of a wall, by the {}, {} run against the cladding unless a kick-out turns them. Look for it on the Roof bench.",
            near.map_or("eave", |e| e.label.as_str()),
            units.flow(p.plan_area_m2 * rain / 60.0)
        )
    })
    .collect()
}
