//! `calc which-storm`: which of the storms on record left these marks, or is older than all of them. Nothing is matched by date alone.
//!
//! Each storm starts from how near it passed. Where the marks lie, how large they are, how fresh, how old the covering is, dated
//! pictures and creases each make a storm likelier or less likely by a factor that is said in bits. All figures here are rules of
//! practice; they are in one place so that they can be argued with.

use super::wind::apart;
use crate::measure::Units;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// The chance, before anything is looked at, that no storm on record left the marks.
const UNLISTED: f64 = 0.15;
/// How far from its recorded track a storm still reaches, km: the chance falls as a bell of this width.
const REACH_KM: f64 = 6.0;
/// Hail falls about so fast, m/s; the wind leans it over.
const FALL_M_S: f64 = 20.0;
/// More than was ever measured: a slip of the keys, or another unit.
const MOST_HAIL_MM: f64 = 250.0;
const MOST_GUST_M_S: f64 = 140.0;
/// A storm farther off is another place's.
const FARTHEST_KM: f64 = 1000.0;
/// A gust stands for so much steady wind while the hail falls.
const GUST_SHARE: f64 = 0.6;
/// Every slope is hit a little: stones bounce and wind turns.
const STRAY: f64 = 0.12;
/// More hits than this say no more of the direction: they came in the same few minutes.
const EFFECTIVE_HITS: f64 = 20.0;
/// A mark is about three quarters as wide as its stone, and scatters so much (logarithm).
const MARK_OF_STONE: f64 = 0.75;
const MARK_SCATTER: f64 = 0.35;
/// What an unknown storm's stones are, mm, and their scatter (logarithm).
const UNKNOWN_STONE_MM: f64 = 20.0;
const UNKNOWN_SCATTER: f64 = 0.8;
/// A storm on record without hail still may have had some that nobody reported.
const UNREPORTED_HAIL: f64 = 0.05;
/// Half of all marks look fresh no longer after so many days.
const FRESH_DAYS: f64 = 180.0;
/// At first nearly all look fresh, and old ones hardly ever.
const FRESH_AT_FIRST: f64 = 0.95;
const FRESH_WHEN_OLD: f64 = 0.04;
/// What *older than all of these* is taken for.
const OLD_DAYS: f64 = 5.0 * 365.25;
/// A picture or a witness is right so often.
const DATED_RIGHT: f64 = 0.95;
/// Creases scatter so much about the wind that made them, degrees.
const CREASE_SCATTER_DEG: f64 = 40.0;
/// A spatter mark points so truly at where its hail came from, degrees, and half of them are washed off after so many days.
const SPATTER_SCATTER_DEG: f64 = 35.0;
const SPATTER_DAYS: f64 = 120.0;
/// Hardly a spatter mark lasts longer; some stand under an eave.
const SPATTER_WHEN_OLD: f64 = 0.02;
/// From here on one storm is named.
const NAMED: f64 = 0.8;
/// A storm this unlikely is at odds with something.
const AT_ODDS_BITS: f64 = -3.0;
const MOST: usize = 200;

/// A storm on record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormEvent {
    /// Short and lasting.
    pub id: String,
    /// Its day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Largest hail reported, mm; none when none was.
    #[serde(default)]
    pub hail_mm: Option<f64>,
    /// Strongest gust, m/s.
    #[serde(default)]
    pub gust_m_s: Option<f64>,
    /// Where it came from, degrees.
    #[serde(default)]
    pub from_deg: Option<f64>,
    /// How far off it passed, km.
    #[serde(default)]
    pub km: f64,
}

/// Marks on one side of something: a slope, or metal on a wall.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StormSide {
    /// What.
    pub name: String,
    /// The way it faces, degrees; none on a flat roof.
    #[serde(default)]
    pub faces_deg: Option<f64>,
    /// Rise over run; none on a wall.
    #[serde(default)]
    pub pitch: Option<f64>,
    /// Marks counted.
    pub count: u32,
    /// On how much of it, in any unit that is the same for all of its kind: squares, pieces.
    pub looked_at: f64,
}

/// A day something was seen, or was not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Dated {
    /// The day.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// The marks were there.
    pub there: bool,
    /// Who says so.
    #[serde(default)]
    pub source: String,
}

/// Input of `calc which-storm`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WhichStormInput {
    /// The units its reader wants.
    #[serde(default)]
    pub units: Units,
    /// Storms on record.
    pub events: Vec<StormEvent>,
    /// The day of the visit.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub visit: Date,
    /// Slopes with their hits.
    #[serde(default)]
    pub slopes: Vec<StormSide>,
    /// Soft metal and the like on walls, with its dents.
    #[serde(default)]
    pub metals: Vec<StormSide>,
    /// The largest mark, mm.
    #[serde(default)]
    pub largest_mm: Option<f64>,
    /// Marks that look fresh.
    #[serde(default)]
    pub fresh: u32,
    /// Marks that look old: oxidised, grey.
    #[serde(default)]
    pub oxidised: u32,
    /// Age of the covering at the visit, years: 10 %, median, 90 %.
    #[serde(default)]
    pub covering_age: Option<[f64; 3]>,
    /// Dated pictures and statements.
    #[serde(default)]
    pub dated: Vec<Dated>,
    /// Where the creases say the wind came from.
    #[serde(default)]
    pub crease_from_deg: Option<f64>,
    /// Where spatter marks say the hail came from; none where there is no such mark.
    #[serde(default)]
    pub spatter_from_deg: Option<f64>,
}

/// One thing that speaks for a storm, or against it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StormFactor {
    /// What.
    pub what: String,
    /// How much, bits, against a storm of which nothing is known; below nought it speaks against.
    pub bits: f64,
    /// Why, in words.
    pub words: String,
}

/// How likely a storm is the one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RankedStorm {
    /// Which; none for *older than all of these*.
    pub event: Option<String>,
    /// "hail of 12 June 2026".
    pub words: String,
    /// How likely.
    pub p: f64,
    /// Why.
    pub factors: Vec<StormFactor>,
}

/// What `calc which-storm` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WhichStormOut {
    /// Storms, likeliest first, with *older than all of these, or not on record* among them.
    pub ranked: Vec<RankedStorm>,
    /// What follows, in words.
    pub words: String,
    /// Something beside dates and distance was weighed.
    pub told_apart: bool,
    /// What cannot be right together.
    pub conflicts: Vec<String>,
}

/// Why nothing can be said.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct StormError {
    /// Which field is wrong, where one is.
    pub field: String,
    /// What to do.
    pub message: String,
}

impl StormEvent {
    /// What is wrong with it.
    pub(crate) fn wrong(&self, visit: Date) -> Option<(&'static str, String)> {
        let too = |x: Option<f64>, most: f64| x.is_some_and(|x| !(0.0..=most).contains(&x));
        if self.on > visit {
            return Some(("on", format!("The storm of {} is after the visit on {visit}. Check the date.", self.on)));
        }
        if too(self.hail_mm, MOST_HAIL_MM) {
            return Some((
                "hail_mm",
                format!("Hail of that size has never been measured. Type at most {}.", Units::MetricUs.depth(MOST_HAIL_MM / 1000.0)),
            ));
        }
        if too(self.gust_m_s, MOST_GUST_M_S) {
            return Some((
                "gust_m_s",
                format!("A gust like that has never been measured. Type at most {}.", Units::MetricUs.gust(MOST_GUST_M_S)),
            ));
        }
        if self.from_deg.is_some_and(|d| !(-360.0..=720.0).contains(&d)) {
            return Some(("from_deg", "Type the direction as degrees from 0 to 360.".into()));
        }
        (!(0.0..=FARTHEST_KM).contains(&self.km))
            .then(|| ("km", format!("Type how far off it passed, from 0 to {}.", Units::MetricUs.far(FARTHEST_KM))))
    }
    fn words(&self) -> String {
        let day = self.on.strftime("%-d %B %Y");
        match self.hail_mm {
            Some(_) => format!("hail of {day}"),
            None => format!("wind of {day}"),
        }
    }
    /// The way hail travels in it: a unit vector, east, north, down.
    fn way(&self) -> Option<[f64; 3]> {
        let from = self.from_deg?.to_radians();
        let lean = GUST_SHARE * self.gust_m_s.unwrap_or_default() / FALL_M_S;
        let long = lean.hypot(1.0);
        Some([-from.sin() * lean / long, -from.cos() * lean / long, 1.0 / long])
    }
}

impl StormSide {
    /// Outward direction: east, north, up.
    fn normal(&self) -> [f64; 3] {
        match (self.faces_deg, self.pitch) {
            (Some(d), Some(p)) => {
                let long = p.hypot(1.0);
                [d.to_radians().sin() * p / long, d.to_radians().cos() * p / long, 1.0 / long]
            }
            (Some(d), None) => [d.to_radians().sin(), d.to_radians().cos(), 0.0],
            (None, _) => [0.0, 0.0, 1.0],
        }
    }
}

/// How likely the counts are, as shares of the sides, if hail came this way; the logarithm, for the hits that count.
fn ln_shares(sides: &[StormSide], way: [f64; 3]) -> f64 {
    let weight = |s: &StormSide| {
        let n = s.normal();
        let meets = (-way[0] * n[0] - way[1] * n[1] + way[2] * n[2]).max(0.0);
        (meets + STRAY) * s.looked_at
    };
    let all: f64 = sides.iter().map(weight).sum();
    let total: f64 = sides.iter().map(|s| f64::from(s.count)).sum();
    let each = if total > EFFECTIVE_HITS { EFFECTIVE_HITS / total } else { 1.0 };
    sides.iter().map(|s| each * f64::from(s.count) * (weight(s) / all).ln()).sum()
}

fn bell(x: f64, middle: f64, scatter: f64) -> f64 {
    let z = (x - middle) / scatter;
    (-0.5 * z * z).exp() / scatter
}

fn compass(deg: f64) -> &'static str {
    const NAMES: [&str; 8] = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];
    NAMES[((deg.rem_euclid(360.0) / 45.0).round() as usize) % 8]
}

/// Where the marks lie, against a storm of which nothing is known: the mean over eight directions.
fn direction(sides: &[StormSide], e: &StormEvent, what: &str) -> Option<StormFactor> {
    let way = e.way()?;
    let looked: Vec<StormSide> = sides.iter().filter(|s| s.looked_at > 0.0).cloned().collect();
    if looked.len() < 2 || looked.iter().all(|s| s.count == 0) {
        return None;
    }
    let unknown: f64 = (0..8)
        .map(|k| {
            let any = StormEvent { from_deg: Some(45.0 * f64::from(k)), ..e.clone() };
            ln_shares(&looked, any.way().unwrap_or(way)).exp() / 8.0
        })
        .sum();
    let bits = (ln_shares(&looked, way) - unknown.ln()) / std::f64::consts::LN_2;
    let from = compass(e.from_deg?);
    let words = if bits >= 0.0 {
        format!("{what} lie as a storm from the {from} leaves them")
    } else {
        format!("{what} do not lie as a storm from the {from} leaves them")
    };
    Some(StormFactor { what: "direction".into(), bits, words })
}

fn size(mark_mm: f64, e: &StormEvent, units: Units) -> StormFactor {
    let unknown = bell(mark_mm.ln(), (UNKNOWN_STONE_MM * MARK_OF_STONE).ln(), UNKNOWN_SCATTER);
    let (likely, words) = match e.hail_mm {
        Some(mm) if mm > 0.0 => (
            bell(mark_mm.ln(), (mm * MARK_OF_STONE).ln(), MARK_SCATTER),
            format!(
                "the largest mark is {}; stones of {} leave about {}",
                units.depth(mark_mm / 1000.0),
                units.depth(mm / 1000.0),
                units.depth(mm * MARK_OF_STONE / 1000.0)
            ),
        ),
        _ => (UNREPORTED_HAIL * unknown, "no hail was reported in it".to_owned()),
    };
    // Far out in its tail a bell says more than anybody knows of hail.
    let bits = (likely / unknown).log2().max(-6.0);
    StormFactor { what: "size".into(), bits, words }
}

fn looks_fresh(days: f64) -> f64 {
    FRESH_WHEN_OLD + (FRESH_AT_FIRST - FRESH_WHEN_OLD) * 0.5_f64.powf(days.max(0.0) / FRESH_DAYS)
}

/// Counts of fresh and oxidised marks; they are not independent, so they weigh as their share of three.
fn fresh(i: &WhichStormInput, days: f64) -> f64 {
    let all = f64::from(i.fresh + i.oxidised);
    if all <= 0.0 {
        return 0.0;
    }
    let (f, o) = (3.0 * f64::from(i.fresh) / all, 3.0 * f64::from(i.oxidised) / all);
    let p = looks_fresh(days);
    f * p.log2() + o * (1.0 - p).log2()
}

/// How much likelier a direction read off the building is under a storm from `from` than under one from anywhere, bits, and how far
/// the two are apart.
fn points_at(said: f64, from: f64, scatter: f64) -> (f64, f64) {
    let off = apart(said, from);
    let any = (0..180).map(|k| bell(f64::from(k), 0.0, scatter) / 180.0).sum::<f64>();
    ((bell(off, 0.0, scatter) / any).log2().max(-6.0), off)
}

/// The chance that a spatter mark is still there.
fn spatter_lasts(days: f64) -> f64 {
    SPATTER_WHEN_OLD + (1.0 - SPATTER_WHEN_OLD) * 0.5_f64.powf(days.max(0.0) / SPATTER_DAYS)
}

/// The mean of something over marks of any age within five years.
fn any_age(of: impl Fn(f64) -> f64) -> f64 {
    (0..60).map(|m| of(f64::from(m) * 30.4)).sum::<f64>() / 60.0
}

/// The chance that the covering lay there so many years before the visit.
fn lay_there(age: [f64; 3], years: f64) -> f64 {
    // Two half bells through the three figures.
    const TENTH: f64 = 1.2816;
    let scatter = if years <= age[1] { (age[1] - age[0]) / TENTH } else { (age[2] - age[1]) / TENTH };
    let z = (age[1] - years) / scatter.max(0.05);
    0.5 * libm::erfc(-z / std::f64::consts::SQRT_2)
}

fn years(from: Date, to: Date) -> f64 {
    const DAYS: f64 = 365.2425;
    from.until(to).map_or(0.0, |s| f64::from(s.get_days()) / DAYS)
}

fn check(i: &WhichStormInput) -> Result<(), StormError> {
    let err = |field: String, message: String| Err(StormError { field, message });
    if [i.events.len(), i.slopes.len(), i.metals.len(), i.dated.len()].iter().any(|n| *n > MOST) {
        return err("events".into(), format!("The most of each is {MOST}."));
    }
    let mut seen = std::collections::BTreeSet::new();
    for e in &i.events {
        if e.id.trim().is_empty() || !seen.insert(&e.id) {
            return err(
                "events".into(),
                format!("Give each storm a short name of its own; \u{201c}{}\u{201d} is empty or there twice.", e.id),
            );
        }
        if let Some((part, m)) = e.wrong(i.visit) {
            return err(format!("events.{}.{part}", e.id), m);
        }
    }
    for s in i.slopes.iter().chain(&i.metals) {
        if !(0.0..=1e6).contains(&s.looked_at)
            || s.faces_deg.is_some_and(|d| !d.is_finite())
            || s.pitch.is_some_and(|p| !(0.0..=12.0).contains(&p))
        {
            return err("slopes".into(), format!("{}: how much was looked at, its direction or its pitch cannot be.", s.name));
        }
    }
    if i.largest_mm.is_some_and(|m| !(0.1..=super::record::MOST_MARK_M * 1000.0).contains(&m)) {
        return err(
            "largest_mm".into(),
            format!("A mark that large is no hail. Type at most {}.", Units::MetricUs.depth(super::record::MOST_MARK_M)),
        );
    }
    if i.covering_age.is_some_and(|[a, b, c]| !(0.0 <= a && a <= b && b <= c && c <= 200.0)) {
        return err("covering_age".into(), "The covering's age must be three rising figures, years: 10 %, median, 90 %.".into());
    }
    if i.spatter_from_deg.is_some_and(|d| !(-360.0..=720.0).contains(&d)) {
        return err("spatter_from_deg".into(), "Type where the spatter came from as degrees from 0 to 360.".into());
    }
    if let Some(d) = i.dated.iter().find(|d| d.on > i.visit) {
        return err("dated".into(), format!("The picture or statement of {} is after the visit.", d.on));
    }
    Ok(())
}

/// What speaks for one storm.
fn factors(i: &WhichStormInput, e: &StormEvent) -> Vec<StormFactor> {
    let mut out = vec![];
    let mut add = |what: &str, bits: f64, words: String| out.push(StormFactor { what: what.into(), bits, words });
    let days = 365.2425 * years(e.on, i.visit);
    add("distance", -(e.km / REACH_KM).powi(2) / std::f64::consts::LN_2, format!("it passed {} off", i.units.far(e.km)));
    if i.fresh + i.oxidised > 0 {
        // Against marks of any age within five years.
        let any = any_age(|d| fresh(i, d).exp2()).log2();
        let seen = format!("{} look fresh, {} old; it was {days:.0} days before the visit", i.fresh, i.oxidised);
        add("freshness", fresh(i, days) - any, seen);
    }
    if let Some(age) = i.covering_age {
        let p = lay_there(age, years(e.on, i.visit));
        let say = if p > 0.5 { "the covering lay there by then" } else { "the covering was most likely not there yet" };
        add("covering", p.max(1e-3).log2(), format!("{say} ({:.0} %)", p * 100.0));
    }
    for d in &i.dated {
        let before = e.on > d.on;
        // Marks seen before the storm are not its own; marks not there after it neither.
        let against = before == d.there;
        let p = if against { 1.0 - DATED_RIGHT } else { 1.0 };
        if against {
            let say = if d.there { "the marks were there" } else { "the marks were not there yet" };
            let who = if d.source.is_empty() { String::new() } else { format!(", by {}", d.source) };
            add("dated", p.log2(), format!("{say} on {}{who}", d.on));
        }
    }
    out.extend(direction(&i.slopes, e, "the hits on the slopes"));
    out.extend(direction(&i.metals, e, "the dents on the faces"));
    if let Some(mm) = i.largest_mm {
        out.push(size(mm, e, i.units));
    }
    if let (Some(c), Some(f), Some(_)) = (i.crease_from_deg, e.from_deg, e.gust_m_s) {
        let (bits, off) = points_at(c, f, CREASE_SCATTER_DEG);
        out.push(StormFactor { what: "creases".into(), bits, words: format!("the creases and its gust are {off:.0}\u{b0} apart") });
    }
    if let Some(s) = i.spatter_from_deg {
        if let (Some(f), Some(_)) = (e.from_deg, e.hail_mm) {
            let (bits, off) = points_at(s, f, SPATTER_SCATTER_DEG);
            out.push(StormFactor { what: "spatter".into(), bits, words: format!("the spatter and its wind are {off:.0}\u{b0} apart") });
        }
        let bits = spatter_lasts(days).log2() - any_age(spatter_lasts).log2();
        let words = format!("spatter is washed off in some months; it was {days:.0} days before the visit");
        out.push(StormFactor { what: "spatter age".into(), bits, words });
    }
    out
}

/// Ranks the storms on record.
///
/// # Errors
/// What is wrong with which figure, and what to do.
pub fn which_storm(i: &WhichStormInput) -> Result<WhichStormOut, StormError> {
    check(i)?;
    let n = i.events.len() as f64;
    let mut ranked: Vec<RankedStorm> = i
        .events
        .iter()
        .map(|e| {
            let factors = factors(i, e);
            let p = (1.0 - UNLISTED) / n * factors.iter().map(|f| f.bits).sum::<f64>().exp2();
            RankedStorm { event: Some(e.id.clone()), words: e.words(), p, factors }
        })
        .collect();
    // Of a storm nobody knows only what ages speaks. It is as likely some years old as of any age: a storm that is on no record may be
    // a recent one.
    let mut older = vec![];
    let mut aged = |what: &str, bits: f64, words: &str| {
        let bits = f64::midpoint(bits.exp2(), 1.0).log2();
        older.push(StormFactor { what: what.into(), bits, words: words.into() });
    };
    if i.fresh + i.oxidised > 0 {
        let bits = fresh(i, OLD_DAYS) - any_age(|d| fresh(i, d).exp2()).log2();
        aged("freshness", bits, "older marks look otherwise; one that is on no record may be recent");
    }
    if i.spatter_from_deg.is_some() {
        let bits = spatter_lasts(OLD_DAYS).log2() - any_age(spatter_lasts).log2();
        aged("spatter age", bits, "old spatter is washed off; a storm that is on no record may be recent");
    }
    let p = UNLISTED * older.iter().map(|f| f.bits).sum::<f64>().exp2();
    ranked.push(RankedStorm { event: None, words: "older than all of these, or not on record".into(), p, factors: older });
    let all: f64 = ranked.iter().map(|r| r.p).sum();
    for r in &mut ranked {
        r.p /= all;
    }
    ranked.sort_by(|a, b| b.p.total_cmp(&a.p).then_with(|| a.event.cmp(&b.event)));
    let beside = |f: &StormFactor| !matches!(f.what.as_str(), "distance" | "covering");
    let told_apart = ranked.iter().any(|r| r.event.is_some() && r.factors.iter().any(beside));
    let first = &ranked[0];
    // Nobody is surer of a storm than this.
    let sure = if first.p > 0.99 { "over 99 %".to_owned() } else { format!("{:.0} %", first.p * 100.0) };
    let words = if i.events.is_empty() {
        "No storm is on record here. Ask the weather office.".to_owned()
    } else if !told_apart {
        "Nothing but dates and distance is known, and a date alone names no storm. Count squares, look at soft metal, note what is fresh."
            .to_owned()
    } else if first.p < NAMED {
        format!("No storm stands out; the likeliest is {}, {sure}.", first.words)
    } else if first.event.is_none() {
        format!("The marks are older than all of these, or from a storm that is not on record, {sure}.")
    } else {
        format!("Most likely the {}, {sure}.", first.words)
    };
    let conflicts = first
        .factors
        .iter()
        .filter(|f| f.bits < AT_ODDS_BITS)
        .map(|f| format!("{} is likeliest, yet {}.", crate::roof::access::capital(&first.words), f.words))
        .collect();
    Ok(WhichStormOut { ranked, words, told_apart, conflicts })
}
