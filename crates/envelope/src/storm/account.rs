//! What follows from a storm assessment: where each square lies and what its marks are, rates and verdicts by slope, wind, which storm,
//! whether it can be mended, what could not be reached, and what to do now.

mod blown;
mod places;

use super::events::{Dated, StormEvent, StormSide, WhichStormInput, WhichStormOut, which_storm};
pub use super::figures::{Mend, MendVerdict, RowOf, RowWords, SlopeStorm, SoftFace, SquareMark, SquareOut, StormAccount};
use super::follow::{cautions, offered, unreached};
use super::hail::{HailCost, HailInput, HailOut, HailSlope, SQUARE_M2, hail};
use super::hits::{HitInput, HitVerdict, SURE, hit};
use super::place::{Frame, Rect};
use super::record::{DrawnAt, Fresh, HitKept, HowSeen, MarkKind, SquareKept, StormVisit, WindKept};
use super::said::uncounted;
use super::square::{mark_size, side};
use super::wind::{ExactShare, SealTried, WindInput, WindOut, WindPart, of, wind, zone_words};
use crate::plane;
use crate::practice::Practice;
use crate::roof::access::{Decision, capital};
use crate::roof::account::{Account, Slope};
use crate::roof::record::{RoofError, metres};
use crate::round::Note;
use crate::site::{Bearing, Expectation, ExpectationState, Face, Zone};
use jiff::civil::Date;
use places::Placed;
use std::collections::{BTreeMap, BTreeSet};

/// How sure all ranges are.
const CONFIDENCE: f64 = 0.95;
/// With less than this left, mending a covering is not worth it, years. A rule of practice.
const WORTH_MENDING_YEARS: f64 = 2.0;

/// What goes into the account.
pub struct StormOn<'a> {
    /// As it is kept, or as it is tried.
    pub kept: &'a StormVisit,
    /// What follows from the roof.
    pub roof: &'a Account,
    /// It lies over an older layer.
    pub second_layer: bool,
    /// The front's direction.
    pub front: Option<Bearing>,
    /// The day of the visit.
    pub visit: Date,
    /// The practice.
    pub practice: &'a Practice,
    /// What the round has noted: where, and which condition.
    pub noted: BTreeSet<(Option<Face>, Zone, String)>,
    /// The notes themselves, by their ids.
    pub notes: Vec<(&'a str, &'a Note)>,
}

/// What a mark counts as: signs decide where some were looked at; a thumb, where none were; else it is doubtful.
fn counts_as(h: &HitKept, by_hand: bool) -> (HitVerdict, String) {
    if h.kind == MarkKind::Other {
        return (HitVerdict::NotHail, "Not hail, told apart by eye.".into());
    }
    if h.signs.is_empty() {
        return match (h.unsure, by_hand) {
            (false, true) => (HitVerdict::Hit, "Counted as a hit by hand.".into()),
            (true, _) => (HitVerdict::Doubtful, "The person who saw it is not sure.".into()),
            (false, false) => (HitVerdict::Doubtful, "Seen from afar and no sign was noted: doubtful.".into()),
        };
    }
    match hit(&HitInput { signs: h.signs.clone() }) {
        Ok(o) => (o.verdict, o.words),
        Err(m) => (HitVerdict::Doubtful, m),
    }
}

impl SquareKept {
    /// `before`: the squares before it on its slope, which its drawing kept clear of.
    fn out(&self, on: &StormOn<'_>, placed: &Placed<'_>, before: &[Rect]) -> SquareOut {
        let frame = on.frame(&self.slope);
        let rect = placed.at.as_ref().ok().copied();
        let by_hand = self.how.by_hand();
        let marks: Vec<SquareMark> = self
            .hits
            .iter()
            .map(|h| {
                let (verdict, words) = counts_as(h, by_hand);
                let at =
                    frame.as_ref().zip(rect).map(|(f, r)| f.on_the_plan([0, 1].map(|k| r.low[k] + [h.x, h.y][k] * (r.high[k] - r.low[k]))));
                SquareMark { id: h.id.clone(), at, size_m: mark_size(&h.size).ok().flatten(), verdict, words }
            })
            .collect();
        let n = |v: HitVerdict| marks.iter().filter(|m| m.verdict == v).count() as u32;
        let (sure, doubtful) = (n(HitVerdict::Hit), n(HitVerdict::Doubtful));
        let (sure, doubtful) = if by_hand { (sure + self.unplaced, doubtful) } else { (sure, doubtful + self.unplaced) };
        let hits = marks.iter().filter(|m| m.verdict != HitVerdict::NotHail);
        let largest_m = hits.filter_map(|m| m.size_m).chain(mark_size(&self.largest).ok().flatten()).reduce(f64::max);
        let size = [&self.wide, &self.high].map(|t| metres("A side", t).unwrap_or_default());
        let units = on.practice.units;
        let not = n(HitVerdict::NotHail);
        let mut words = if !self.counted {
            "Not counted yet.".to_owned()
        } else {
            match (sure, doubtful) {
                (0, 0) => "No hit.".to_owned(),
                (s, 0) => format!("{s} {}.", if s == 1 { "hit" } else { "hits" }),
                (s, d) => format!("{s} sure, {d} doubtful."),
            }
        };
        if let Some(m) = largest_m {
            words += &format!(" Largest {}.", units.fine(m));
        }
        if not > 0 {
            words += &format!(" {not} told apart from hail.");
        }
        if self.counted && self.how != HowSeen::Hand {
            words += &format!(" {}.", capital(self.how.words()));
        }
        SquareOut {
            id: self.id.clone(),
            slope: self.slope.clone(),
            corners: frame.as_ref().zip(rect).map(|(f, r)| f.on_plan(r).to_vec()).unwrap_or_default(),
            from_left_m: frame.as_ref().zip(rect).map(|(f, r)| f.corner(r)[0]),
            from_low_m: frame.as_ref().zip(rect).map(|(f, r)| f.corner(r)[1]),
            place_words: frame.as_ref().zip(rect).map(|(f, r)| {
                let [left, low] = f.corner(r);
                let seed = self.seed;
                let whence = if self.moved.is_some() {
                    format!("moved from the place drawn by the seed {seed}")
                } else if self.drawn.is_some()
                    && !on.draw(self, f, size, &|r| before.iter().any(|b| b.overlaps(r))).is_ok_and(|again| again.lies_as(r))
                {
                    format!("drawn by the seed {seed} before it was counted; edges, fittings, squares or the margin have changed since")
                } else {
                    format!("drawn by the seed {seed}")
                };
                format!("{} from the left end, {} up the slope, {whence}", units.length(left, 2), units.length(low, 2))
            }),
            size_m: size,
            counted: self.counted,
            sure,
            doubtful,
            not_hail: not,
            largest_m,
            marks,
            words,
            problem: placed.at.as_ref().err().map(|e| e.message.clone()),
        }
    }
}

/// Rates over the slopes that have a counted square.
fn rates(on: &StormOn<'_>, squares: &[SquareOut], count: impl Fn(&SquareOut) -> u32) -> Option<HailOut> {
    let mut slopes = vec![];
    let mut area = BTreeMap::new();
    let facets = on.roof.shape.iter().flat_map(|s| &s.facets);
    for f in facets {
        let here: Vec<&SquareOut> = squares.iter().filter(|q| q.slope == f.id && q.counted && q.problem.is_none()).collect();
        if here.is_empty() {
            continue;
        }
        area.insert(f.id.clone(), f.true_area_m2 / SQUARE_M2);
        slopes.push(HailSlope {
            name: f.id.clone(),
            azimuth_deg: f.downslope_azimuth_deg,
            counts_per_square: here.iter().map(|q| count(q)).collect(),
            areas_m2: Some(here.iter().map(|q| q.size_m[0] * q.size_m[1]).collect()),
        });
    }
    let cost = on.kept.costs.as_ref().map(|c| HailCost {
        slope_area_squares: area,
        repair_per_hit: c.repair_per_hit,
        repair_fixed: c.repair_fixed,
        replace_per_square: c.replace_per_square,
        difficulty_factor: c.difficulty,
        currency: c.currency.clone(),
    });
    hail(&HailInput { slopes, square_area_m2: SQUARE_M2, confidence: CONFIDENCE, cost }).ok()
}

/// What a hit on a covering most likely is.
fn usual_mark(covering: Option<&str>) -> MarkKind {
    match covering.unwrap_or_default() {
        c if c.contains("shake") || c.contains("wood") => MarkKind::Split,
        c if c.contains("metal") || c.contains("seam") => MarkKind::Dent,
        c if c.contains("tile") || c.contains("slate") => MarkKind::Crack,
        _ => MarkKind::Bruise,
    }
}

/// What the verdict says for a slope, in words.
fn verdict_words(s: &SlopeStorm) -> String {
    let (Some(sure), Some(all)) = (&s.even_sure, &s.even_all) else { return String::new() };
    let at = format!("a new covering costs less from {:.1} hits a square up", sure.break_even_hits_per_100sqft);
    let say = |v: &str| match v {
        "repair" => "mending costs less",
        "replace" => "a new covering on this slope costs less",
        _ => "undecided",
    };
    if sure.verdict != all.verdict {
        return format!("It turns on the doubtful hits: without them {}, with them {}; {at}.", say(&sure.verdict), say(&all.verdict));
    }
    match (say(&sure.verdict), sure.more_squares) {
        // More squares than the slope has room for settle nothing.
        ("undecided", Some(n)) if f64::from(n) <= s.area_squares => {
            format!("Undecided: {n} more {} would be expected to settle it; {at}.", if n == 1 { "square" } else { "squares" })
        }
        ("undecided", _) => format!("Undecided, and more squares would hardly settle it; {at}."),
        (v, _) => format!("{}; {at}.", capital(v)),
    }
}

fn slopes(on: &StormOn<'_>, sure: Option<&HailOut>, all: Option<&HailOut>) -> Vec<SlopeStorm> {
    let facets = on.roof.shape.iter().flat_map(|s| &s.facets);
    let mut out: Vec<SlopeStorm> = facets
        .filter_map(|f| {
            let slope = on.slope(&f.id)?;
            let mass = f.id.split('.').next().unwrap_or_default();
            let access = on.roof.masses.iter().find(|m| m.id == mass).map(|m| &m.access);
            let seen = on.kept.seen.iter().find(|s| s.id == f.id);
            let rate = |h: Option<&HailOut>| h.and_then(|h| h.slopes.iter().find(|s| s.slope == f.id).cloned());
            let even = |h: Option<&HailOut>| h.and_then(|h| h.break_even.iter().find(|b| b.slope == f.id).cloned());
            let decision = access.map_or(Decision::Walk, |a| a.decision);
            let walked = seen.is_some_and(|s| s.how == HowSeen::Hand)
                || seen.is_none() && on.kept.squares.iter().any(|q| q.slope == f.id && q.counted && q.how == HowSeen::Hand);
            let against = (walked && decision != Decision::Walk).then(|| {
                format!(
                    "{} was looked at by hand, and the advice is: {}. If it was done from a lift or by somebody secured, say so as the reason.",
                    capital(&slope.label),
                    decision.words().to_lowercase()
                )
            });
            let mut s = SlopeStorm {
                facet: f.id.clone(),
                label: slope.label.clone(),
                face: slope.face,
                faces_deg: f.downslope_azimuth_deg,
                pitch: f.pitch,
                area_squares: f.true_area_m2 / SQUARE_M2,
                usual: usual_mark(slope.covering.as_deref()),
                decision,
                advice: decision.words().to_owned(),
                advice_why: access.map(|a| a.reasons.iter().filter(|r| r.allows == a.decision).map(|r| r.why.clone()).collect()).unwrap_or_default(),
                how: seen.map(|s| s.how),
                how_why: seen.map(|s| s.why.clone()).unwrap_or_default(),
                against: against.filter(|_| seen.is_none_or(|s| s.why.trim().is_empty())),
                rate_sure: rate(sure),
                rate_all: rate(all),
                even_sure: even(sure),
                even_all: even(all),
                verdict: String::new(),
            };
            s.verdict = verdict_words(&s);
            Some(s)
        })
        .collect();
    // In compass order, so that it does not turn on how parts are named.
    out.sort_by(|a, b| a.faces_deg.unwrap_or(999.0).total_cmp(&b.faces_deg.unwrap_or(999.0)).then_with(|| a.label.cmp(&b.label)));
    out
}

fn soft_faces(on: &StormOn<'_>) -> Vec<SoftFace> {
    Face::ALL
        .into_iter()
        .filter_map(|face| {
            let rows: Vec<_> = on.kept.soft.iter().filter(|s| s.face == face).collect();
            let things = rows.len() as u32;
            let count = rows.iter().map(|s| s.count).sum();
            let largest_m = rows.iter().filter_map(|s| mark_size(&s.largest).ok().flatten()).reduce(f64::max);
            let fresh = rows.iter().filter(|s| s.fresh == Fresh::Fresh).map(|s| s.count).sum();
            let oxidised = rows.iter().filter(|s| s.fresh == Fresh::Oxidised).map(|s| s.count).sum();
            if things == 0 {
                return None;
            }
            let mut words = match count {
                0 => format!("{}: no dent on {things} looked at", capital(face.name())),
                n => format!("{}: {n} dents on {things} looked at", capital(face.name())),
            };
            if let Some(m) = largest_m {
                words += &format!(", the largest {}", on.practice.units.fine(m));
            }
            for (n, say) in [(fresh, "fresh"), (oxidised, "oxidised")] {
                if n > 0 {
                    words += &format!(", {n} {say}");
                }
            }
            Some(SoftFace {
                face,
                faces_deg: on.front.map(|f| face.azimuth(f).degrees()),
                things,
                count,
                largest_m,
                fresh,
                oxidised,
                words,
            })
        })
        .collect()
}

fn which(on: &StormOn<'_>, slopes: &[SlopeStorm], squares: &[SquareOut], soft: &[SoftFace], crease: Option<f64>) -> Option<WhichStormOut> {
    if on.kept.events.is_empty() {
        return None;
    }
    let side = |s: &SlopeStorm| {
        let r = s.rate_sure.as_ref()?;
        Some(StormSide { name: s.label.clone(), faces_deg: s.faces_deg, pitch: Some(s.pitch), count: r.count, looked_at: r.area_m2 })
    };
    let oriented = on.roof.oriented;
    let largest = squares.iter().filter_map(|q| q.largest_m).chain(soft.iter().filter_map(|s| s.largest_m)).reduce(f64::max);
    // The covering that was hit decides: where several were, the youngest.
    let hit_age = slopes
        .iter()
        .filter(|s| s.rate_all.as_ref().is_some_and(|r| r.count > 0))
        .filter_map(|s| Some(on.slope(&s.facet)?.life.as_ref()?.age))
        .reduce(|a, b| if a[1] <= b[1] { a } else { b });
    which_storm(&WhichStormInput {
        units: on.practice.units,
        events: on.kept.events.clone(),
        visit: on.visit,
        slopes: if oriented { slopes.iter().filter_map(side).collect() } else { vec![] },
        metals: soft
            .iter()
            .filter(|s| s.faces_deg.is_some())
            .map(|s| StormSide {
                name: s.face.name().into(),
                faces_deg: s.faces_deg,
                pitch: None,
                count: s.count,
                looked_at: f64::from(s.things),
            })
            .collect(),
        largest_mm: largest.map(|m| m * 1000.0),
        fresh: soft.iter().map(|s| s.fresh).sum(),
        oxidised: soft.iter().map(|s| s.oxidised).sum(),
        covering_age: hit_age,
        dated: on.kept.dated.iter().map(|d| Dated { on: d.on, there: d.there, source: d.source.clone() }).collect(),
        crease_from_deg: crease,
        spatter_from_deg: super::wind::mean_way(&on.kept.soft.iter().filter_map(|s| s.spatter_from_deg).collect::<Vec<_>>()),
    })
    .ok()
}

/// Whether mending breaks the neighbours, slope by slope.
fn mends(on: &StormOn<'_>) -> Vec<Mend> {
    let most = on.practice.rule("lift-broken");
    on.kept
        .lifts
        .iter()
        .map(|t| {
            let label = on.slope(&t.slope).map_or(t.slope.as_str(), |s| &s.label);
            let broke = of(t.failed, t.tried, CONFIDENCE);
            let percent = |x: f64| format!("{:.0} %", x * 100.0);
            let range = format!("{} of {} lifted broke, {} to {}", t.failed, t.tried, percent(broke.range[0]), percent(broke.range[1]));
            let left = on.slope(&t.slope).and_then(|s| s.left).map(|l| l[1]);
            let spent = left.filter(|l| *l < WORTH_MENDING_YEARS);
            let limit = percent(most.figure());
            let (verdict, mut words) = if broke.range[0] > most.figure() {
                (MendVerdict::BreaksMore, format!("{}: mending breaks its neighbours ({range}; the limit is {limit}).", capital(label)))
            } else if let Some(l) = spent {
                (
                    MendVerdict::NotWorth,
                    format!("{}: about {l:.0} years are left of it; mending is hardly worth it ({range}).", capital(label)),
                )
            } else if broke.range[1] <= most.figure() {
                (MendVerdict::Mends, format!("{}: it can be mended ({range}; the limit is {limit}).", capital(label)))
            } else {
                (
                    MendVerdict::Open,
                    format!("{}: not settled whether it can be mended ({range}; the limit is {limit}). Lift more.", capital(label)),
                )
            };
            if on.second_layer {
                words += " It lies over an older layer, which makes mending harder.";
            }
            match on.kept.material_at_hand {
                Some(false) => words += " No matching material is at hand.",
                Some(true) => words += " Matching material is at hand.",
                None => {}
            }
            Mend { id: t.id.clone(), slope: t.slope.clone(), broke, left_years: left, verdict, words }
        })
        .collect()
}

/// Works an assessment out.
#[must_use]
pub fn storm_account(on: &StormOn<'_>) -> StormAccount {
    let placed: Vec<Placed<'_>> = on.placed().into_iter().flatten().collect();
    let before = |k: usize| {
        let there = placed[..k].iter().filter(|p| p.kept.slope == placed[k].kept.slope);
        there.filter_map(|p| p.at.as_ref().ok().copied()).collect::<Vec<_>>()
    };
    let squares: Vec<SquareOut> = placed.iter().enumerate().map(|(k, p)| p.kept.out(on, p, &before(k))).collect();
    let lost = on.kept.squares.iter().filter(|q| on.slope(&q.slope).is_none());
    let mut problems: Vec<String> =
        lost.map(|q| format!("{} lies on a slope the roof no longer has. Choose its slope again; its hits are kept.", q.id)).collect();
    if let Some(p) = &on.roof.problem {
        problems.push(p.clone());
    } else if on.roof.shape.is_none() {
        problems.push("Squares lie on the slopes of the Roof bench: measure the roof first.".into());
    }
    let sure = rates(on, &squares, |q| q.sure);
    let all = rates(on, &squares, |q| q.sure + q.doubtful);
    let slopes = slopes(on, sure.as_ref(), all.as_ref());
    let soft = soft_faces(on);
    let crease = super::wind::mean_way(&blown::creases(on.kept));
    let which = which(on, &slopes, &squares, &soft, crease);
    // The gust they are held against is that of the likeliest storm; the strongest on record where none is likeliest.
    let named = which.as_ref().and_then(|w| w.ranked.first()?.event.as_ref()).and_then(|id| on.kept.events.iter().find(|e| e.id == *id));
    let strength = |e: &StormEvent| e.gust_m_s.unwrap_or_default();
    let strongest = on.kept.events.iter().max_by(|a, b| strength(a).total_cmp(&strength(b)).then_with(|| b.id.cmp(&a.id)));
    let gust = named.or(strongest).filter(|e| e.gust_m_s.is_some());
    let blown = blown::blown(on, gust.and_then(|e| e.from_deg));
    problems.extend(blown.problem);
    StormAccount {
        which,
        mends: mends(on),
        offered: offered(on, &slopes, &soft),
        said: uncounted(on.kept, on.roof, &on.notes),
        unreached: unreached(&slopes),
        cautions: cautions(on, &slopes),
        directional: sure.as_ref().and_then(|h| h.directional.clone()),
        directional_words: direction_words(on, sure.as_ref()),
        sure_at: SURE,
        confidence: CONFIDENCE,
        squares,
        slopes,
        soft,
        wind: blown.wind,
        row_words: blown.rows,
        zone_words: blown.zone,
        problems,
    }
}

fn direction_words(on: &StormOn<'_>, sure: Option<&HailOut>) -> String {
    let Some(d) = sure.and_then(|h| h.directional.as_ref()) else {
        return String::new();
    };
    let Some(highest) = &d.highest_slope else {
        return "No sure hit on any slope.".into();
    };
    let name = on.slope(highest).map_or(highest.as_str(), |s| &s.label);
    let p = d.p_exact_probability_order.unwrap_or(d.p_chi2_asymptotic);
    let chance = if p < 0.001 { "less than one in a thousand".to_owned() } else { format!("{:.1} %", p * 100.0) };
    if d.directional_at_5_percent {
        format!("The slopes were not hit alike (chance of it otherwise: {chance}); the {name} most.")
    } else {
        format!("The slopes may have been hit alike (a spread like this has a chance of {chance}).")
    }
}

/// Squares answer what a visit after a storm expects on a slope, soft metal what it expects at an edge.
pub fn settle(expectations: &mut [Expectation], kept: &StormVisit, roof: &Account) {
    let counted = |face: Face| kept.squares.iter().any(|q| q.counted && roof.slopes.iter().any(|s| s.facet == q.slope && s.face == face));
    let out = |face: Face| {
        let mut on = roof.slopes.iter().filter(|s| s.face == face).peekable();
        on.peek().is_some() && on.all(|s| kept.seen.iter().any(|k| k.id == s.facet && k.how == HowSeen::NotReached))
    };
    for e in expectations.iter_mut().filter(|e| e.state == ExpectationState::Open) {
        match e.key.as_str() {
            "test-square" if counted(e.face) => e.state = ExpectationState::Answered,
            "test-square" if out(e.face) => e.state = ExpectationState::Limited,
            "soft-metal" if kept.soft.iter().any(|s| s.face == e.face) => e.state = ExpectationState::Answered,
            _ => {}
        }
    }
}
