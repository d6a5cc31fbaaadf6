//! Cracks: how wide over time, and what all signs together speak for. It never says what failed: it says what to measure next.

use super::floor::{FloorPlane, Lowest};
use crate::job::{LONG_TEXT, too_long};
use crate::roof::record::metres;
use crate::site::Face;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// As many readings of one crack as are kept.
pub const MOST_READINGS: usize = 200;

/// How a crack runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Pattern {
    /// Along the joints, in steps.
    StairStepped,
    /// Up and down.
    Vertical,
    /// Level.
    Horizontal,
    /// Aslant.
    Diagonal,
    /// A net of fine lines.
    Map,
    /// A piece off a corner, no wider than a hand spans.
    CornerSpall,
}

impl Pattern {
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            Pattern::StairStepped => "stair-stepped",
            Pattern::Vertical => "vertical",
            Pattern::Horizontal => "horizontal",
            Pattern::Diagonal => "diagonal",
            Pattern::Map => "map-like",
            Pattern::CornerSpall => "a spall at a corner",
        }
    }
}

/// How its edges look.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Edges {
    /// Not looked at.
    #[default]
    Unknown,
    /// Clean and sharp.
    Fresh,
    /// Painted over or rounded: it was there before the paint.
    Painted,
}

/// Where along a crack a width was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum CrackAt {
    /// At its upper or left end.
    Upper,
    /// Halfway.
    Middle,
    /// At its lower or right end.
    Lower,
}

/// A width on a day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WidthReading {
    /// The day, as a pencil mark or a picture gives it.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = Date))]
    pub on: Date,
    /// Where.
    pub at: CrackAt,
    /// How wide, as typed.
    pub width: String,
}

/// A crack.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CrackRecord {
    /// Short and lasting: C1, C2 …
    pub id: String,
    /// Its face.
    pub face: Face,
    /// How it runs.
    pub pattern: Pattern,
    /// Where it begins, from the left end of the face and above its foot, as typed.
    pub from_x: String,
    /// Above the foot.
    pub from_z: String,
    /// Where it ends.
    pub to_x: String,
    /// Above the foot.
    pub to_z: String,
    /// One side stands out before the other.
    #[serde(default)]
    pub displaced: bool,
    /// Its edges.
    #[serde(default)]
    pub edges: Edges,
    /// Widths over time.
    #[serde(default)]
    pub readings: Vec<WidthReading>,
    /// In one's own words.
    #[serde(default)]
    pub text: String,
}

/// No crack that is read with a card is wider, metres.
const WIDEST_M: f64 = 0.3;

impl CrackRecord {
    /// Its ends in metres: from the left end and above the foot.
    fn ends(&self) -> Result<[[f64; 2]; 2], (&'static str, String)> {
        let read = |part: &'static str, what: &str, text: &str| metres(what, text).map_err(|m| (part, m));
        Ok([
            [read("from_x", "Where it begins", &self.from_x)?, read("from_z", "How high it begins", &self.from_z)?],
            [read("to_x", "Where it ends", &self.to_x)?, read("to_z", "How high it ends", &self.to_z)?],
        ])
    }
    pub(super) fn check(&self) -> Result<(), (&'static str, String)> {
        self.ends()?;
        if let Some(m) = too_long(&self.text, LONG_TEXT) {
            return Err(("text", m));
        }
        for r in &self.readings {
            let w = metres("The width", &r.width).map_err(|m| ("readings", m))?;
            if w > WIDEST_M {
                return Err(("readings", format!("A crack {} wide is a gap. Was it in another unit?", r.width.trim())));
            }
        }
        Ok(())
    }
}

/// Another sign.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SignKind {
    /// A door or window binds.
    DoorBinds,
    /// Trim opened at a corner or at the eave.
    TrimOpened,
}

/// Another sign that something moved, at a place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SignRecord {
    /// Short and lasting: S1, S2 …
    pub id: String,
    /// Its face.
    pub face: Face,
    /// What it is.
    pub kind: SignKind,
    /// From the left end of the face, as typed; empty when not read.
    #[serde(default)]
    pub from_left: String,
    /// In one's own words.
    #[serde(default)]
    pub text: String,
}

/// How a crack moves at one place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Trend {
    /// Where along it.
    pub at: CrackAt,
    /// Readings it rests on.
    pub readings: usize,
    /// Millimetres a year, opening positive.
    pub mm_a_year: f64,
    /// Its 95 % range.
    pub range: [f64; 2],
    /// The range excludes nought.
    pub moving: bool,
}

/// What a width read with a card is good for, metres, one standard deviation. Rule of practice.
const CARD_M: f64 = 0.0001;
const DAYS_A_YEAR: f64 = 365.25;

/// Two-sided 95 % quantiles of Student's t for 1, 2, 3 … degrees of freedom; the normal one beyond.
const T95: [f64; 30] = [
    12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.160, 2.145, 2.131, 2.120, 2.110, 2.101, 2.093,
    2.086, 2.080, 2.074, 2.069, 2.064, 2.060, 2.056, 2.052, 2.048, 2.045, 2.042,
];

/// Width over dated readings of one place: least squares. Its range comes from the spread about the line, and is never less than
/// what the card is good for; with two readings there is no spread, and the card alone gives it. None without two days.
pub fn trend(at: CrackAt, readings: &[(Date, f64)]) -> Option<Trend> {
    let first = readings.iter().map(|r| r.0).min()?;
    let t: Vec<f64> = readings.iter().map(|r| f64::from((r.0 - first).get_days()) / DAYS_A_YEAR).collect();
    let n = readings.len() as f64;
    let mean_t = t.iter().sum::<f64>() / n;
    let mean_w = readings.iter().map(|r| r.1).sum::<f64>() / n;
    let spread: f64 = t.iter().map(|v| (v - mean_t).powi(2)).sum();
    if spread <= 0.0 {
        return None;
    }
    let slope = t.iter().zip(readings).map(|(v, r)| (v - mean_t) * (r.1 - mean_w)).sum::<f64>() / spread;
    let left: f64 = t.iter().zip(readings).map(|(v, r)| (r.1 - mean_w - slope * (v - mean_t)).powi(2)).sum();
    let known = 1.959_964 * CARD_M;
    let free = readings.len() - 2;
    let seen = if free == 0 { 0.0 } else { T95.get(free - 1).copied().unwrap_or(1.96) * (left / free as f64).sqrt() };
    let half = known.max(seen) / spread.sqrt();
    let mm = |v: f64| 1000.0 * v;
    let range = [mm(slope - half), mm(slope + half)];
    Some(Trend { at, readings: readings.len(), mm_a_year: mm(slope), range, moving: range[0] > 0.0 || range[1] < 0.0 })
}

/// A crack, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CrackAccount {
    /// Which.
    pub id: String,
    /// From end to end, metres.
    pub length_m: f64,
    /// Its ends: from the left end of the face and above its foot, metres.
    pub ends: [[f64; 2]; 2],
    /// Widest of the last readings, metres.
    pub widest_m: Option<f64>,
    /// How it moves, place by place.
    pub trends: Vec<Trend>,
    /// In words.
    pub sentence: String,
}

/// A movement that signs can speak for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Movement {
    /// One end goes down.
    CornerDown,
    /// The middle goes down between the ends.
    MiddleDown,
    /// The middle lifts, or both ends go down.
    MiddleUp,
    /// The face leans out.
    LeansOut,
}

impl Movement {
    /// Every movement.
    pub const ALL: [Movement; 4] = [Movement::CornerDown, Movement::MiddleDown, Movement::MiddleUp, Movement::LeansOut];
    /// As it is said.
    pub fn words(self) -> &'static str {
        match self {
            Movement::CornerDown => "a corner going down",
            Movement::MiddleDown => "the middle going down",
            Movement::MiddleUp => "the middle lifting",
            Movement::LeansOut => "the face leaning out",
        }
    }
    /// What would tell it from the others.
    pub fn measure_next(self) -> &'static str {
        match self {
            Movement::CornerDown => {
                "Read floor heights at that corner and along both walls from it, and again after a dry and a wet season; look at what water reaches its soil."
            }
            Movement::MiddleDown => {
                "Read floor heights along a line through the middle, and again after a season; ask what bears on the middle."
            }
            Movement::MiddleUp => {
                "Read floor heights along a line through the middle, and again after a dry and a wet season; look for water under the middle and for soil that swells."
            }
            Movement::LeansOut => {
                "Hang a plumb line at three places along the face and read it again after a season; look for ties and for what pushes from inside."
            }
        }
    }
}

/// What a sign says of a movement.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Speaks {
    /// It is what this movement makes.
    For,
    /// It is not.
    Against,
    /// It may be either.
    Open,
}

/// A sign beside the four movements.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SignRead {
    /// "C1, rear, stair-stepped".
    pub sign: String,
    /// Why it is read so.
    pub why: String,
    /// One for each movement, in their order.
    pub speaks: [Speaks; 4],
}

/// All signs beside four movements.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CrackReader {
    /// The movements.
    pub movements: Vec<String>,
    /// The signs.
    pub signs: Vec<SignRead>,
    /// What they come to.
    pub sentence: String,
    /// What to measure next, and whom to ask.
    pub next: Vec<String>,
}

fn last_widths(c: &CrackRecord) -> BTreeMap<CrackAt, f64> {
    let mut by: BTreeMap<CrackAt, (Date, f64)> = BTreeMap::new();
    for r in &c.readings {
        let Ok(w) = metres("The width", &r.width) else { continue };
        let e = by.entry(r.at).or_insert((r.on, w));
        if r.on >= e.0 {
            *e = (r.on, w);
        }
    }
    by.into_iter().map(|(at, (_, w))| (at, w)).collect()
}

/// Works a crack out. `shown` turns a fine length into words.
pub(super) fn crack(c: &CrackRecord, shown: &dyn Fn(f64) -> String, long: &dyn Fn(f64) -> String) -> Option<CrackAccount> {
    let ends = c.ends().ok()?;
    let length_m = (ends[0][0] - ends[1][0]).hypot(ends[0][1] - ends[1][1]);
    let widest_m = last_widths(c).into_values().reduce(f64::max);
    let trends: Vec<Trend> = [CrackAt::Upper, CrackAt::Middle, CrackAt::Lower]
        .into_iter()
        .filter_map(|at| {
            let of: Vec<(Date, f64)> =
                c.readings.iter().filter(|r| r.at == at).filter_map(|r| Some((r.on, metres("The width", &r.width).ok()?))).collect();
            trend(at, &of)
        })
        .collect();
    let width = widest_m.map(|w| format!(", {} at its widest", shown(w))).unwrap_or_default();
    let edges = match c.edges {
        Edges::Unknown => "",
        Edges::Fresh => ", edges fresh",
        Edges::Painted => ", edges painted: older than the paint",
    };
    let moved = match trends.iter().max_by(|a, b| a.mm_a_year.abs().total_cmp(&b.mm_a_year.abs())) {
        None => " How it moves is not known: read its width again at the same pencil mark.".to_owned(),
        Some(t) => {
            let per = |mm: f64| format!("{}{}", if mm < 0.0 { "\u{2212}" } else { "" }, shown(mm.abs() / 1000.0));
            let range = format!("{} a year, {} to {} (95 %, {} readings)", per(t.mm_a_year), per(t.range[0]), per(t.range[1]), t.readings);
            if t.moving { format!(" Moving: {range}.") } else { format!(" Not shown to move: {range}, which holds nought.") }
        }
    };
    let displaced = if c.displaced { ", one side standing out" } else { "" };
    let sentence = format!("{}, {}, {}{width}{displaced}{edges}.{moved}", c.face.name(), c.pattern.words(), long(length_m));
    Some(CrackAccount { id: c.id.clone(), length_m, ends, widest_m, trends, sentence })
}

use Speaks::{Against, For, Open};

/// A crack that leans less sideways rises to neither end, metres.
const UPRIGHT_M: f64 = 0.05;
/// The part of a face at each end that is its end, not its middle. Rule of practice.
const OUTER: f64 = 1.0 / 3.0;
/// So near to a corner an upright crack may come from the other face turning out, metres. Rule of practice.
const CORNER_M: f64 = 1.0;

/// How one crack speaks. A wall cracks square to the way it is stretched: a part that goes down pulls a crack open that rises
/// toward it; what goes down at its ends opens at the top, what sags opens at the foot. Rules of the trade, not of this job.
fn read_crack(c: &CrackRecord, ends: [[f64; 2]; 2], face_m: Option<f64>) -> ([Speaks; 4], String) {
    let widths = last_widths(c);
    let (low, high) = if ends[0][1] <= ends[1][1] { (ends[0], ends[1]) } else { (ends[1], ends[0]) };
    let middle = 0.5 * (low[0] + high[0]);
    match c.pattern {
        Pattern::Diagonal | Pattern::StairStepped => {
            let Some(l) = face_m.filter(|l| *l > 0.0) else {
                return ([Open; 4], "the length of the face is not known, so which end it rises to is not either".into());
            };
            let run = high[0] - low[0];
            if run.abs() < UPRIGHT_M {
                return ([Open; 4], "it hardly rises to either side".into());
            }
            let toward_right = run > 0.0;
            let on_right = middle > 0.5 * l;
            let to_end = toward_right == on_right;
            let near_end = middle.min(l - middle) < OUTER * l;
            let side = if toward_right { "right" } else { "left" };
            if to_end {
                let corner = if near_end { For } else { Open };
                ([corner, Against, For, Open], format!("it rises toward the {side} end: that end goes down, or the middle lifts"))
            } else {
                ([Against, For, Against, Open], "it rises away from the nearer end, toward the middle: the middle goes down".into())
            }
        }
        Pattern::Vertical => match (widths.get(&CrackAt::Upper), widths.get(&CrackAt::Lower)) {
            (Some(u), Some(d)) if u - d > 2.0 * CARD_M => {
                let at_end = face_m.is_some_and(|l| middle.min(l - middle) < CORNER_M);
                (
                    [For, Against, For, if at_end { For } else { Open }],
                    "it is wider at its top: what lies beside it turns down and outward".into(),
                )
            }
            (Some(u), Some(d)) if d - u > 2.0 * CARD_M => ([Against, For, Against, Open], "it is wider at its foot: the wall sags".into()),
            (Some(_), Some(_)) => {
                ([Against, Against, Against, Open], "it is as wide above as below: heat and drying make such cracks".into())
            }
            _ => ([Open; 4], "its width was not read at top and foot".into()),
        },
        Pattern::Horizontal => {
            if c.displaced {
                ([Open, Open, Open, For], "one side stands out along a level joint: the face is pushed".into())
            } else {
                ([Open, Open, Open, Open], "a level joint opened; hang a plumb line to see whether the face leans".into())
            }
        }
        Pattern::Map => ([Open; 4], "a net of fine lines is of the coat, not of the wall".into()),
        Pattern::CornerSpall => {
            ([Open; 4], "a piece that a hand spans came off the corner: rust, frost or a knock, not the wall moving".into())
        }
    }
}

/// A spall that fits a hand's span is told from a crack that crosses the wall, metres.
pub const HAND_M: f64 = 0.22;

/// Reads all signs together.
pub(super) fn read_all(
    cracks: &[CrackRecord],
    signs: &[SignRecord],
    floor: Option<&FloorPlane>,
    face_m: &dyn Fn(Face) -> Option<f64>,
) -> Option<CrackReader> {
    let mut read: Vec<SignRead> = vec![];
    for c in cracks {
        let Ok(ends) = c.ends() else { continue };
        let (speaks, mut why) = read_crack(c, ends, face_m(c.face));
        let length = (ends[0][0] - ends[1][0]).hypot(ends[0][1] - ends[1][1]);
        if c.pattern == Pattern::CornerSpall && length > HAND_M {
            why = "longer than a hand spans: look whether it is a crack that crosses the wall".into();
        }
        read.push(SignRead { sign: format!("{}, {}, {}", c.id, c.face.name().to_lowercase(), c.pattern.words()), why, speaks });
    }
    for s in signs {
        let at = metres("The place", &s.from_left).ok().zip(face_m(s.face)).map(|(x, l)| x / l);
        let outer = at.map(|f| !(OUTER..=1.0 - OUTER).contains(&f));
        let (name, speaks, why) = match (s.kind, outer) {
            (SignKind::DoorBinds, Some(true)) => ("binds", [For, Open, For, Open], "its opening near the end is out of square"),
            (SignKind::DoorBinds, Some(false)) => ("binds", [Open, For, For, Open], "its opening in the middle is out of square"),
            (SignKind::DoorBinds, None) => ("binds", [Open; 4], "where along the face is not known"),
            (SignKind::TrimOpened, Some(true)) => {
                ("trim opened", [For, Open, Open, For], "corner trim parts when an end goes down or the face leans")
            }
            (SignKind::TrimOpened, _) => {
                ("trim opened", [Open, Open, Open, For], "trim parts when the face leans; away from an end it says little else")
            }
        };
        read.push(SignRead { sign: format!("{}, {}, {name}", s.id, s.face.name().to_lowercase()), why: why.into(), speaks });
    }
    if let Some(f) = floor {
        let (speaks, why) = match f.lowest {
            Lowest::Corner => ([For, Against, Open, Open], "the floor lies lowest at a corner"),
            Lowest::Middle => ([Against, For, Against, Open], "the floor lies lowest in the middle"),
            Lowest::Elsewhere => ([Open; 4], "the floor departs from its plane nowhere in particular"),
        };
        read.push(SignRead { sign: "floor heights".into(), why: why.into(), speaks });
    }
    if read.is_empty() {
        return None;
    }
    let count = |m: usize, s: Speaks| read.iter().filter(|r| r.speaks[m] == s).count();
    let mut best: Vec<usize> = (0..4).filter(|m| count(*m, For) > 0).collect();
    best.sort_by_key(|m| std::cmp::Reverse(count(*m, For) as i64 - count(*m, Against) as i64));
    let lead = best.first().map(|m| count(*m, For) as i64 - count(*m, Against) as i64);
    best.retain(|m| Some(count(*m, For) as i64 - count(*m, Against) as i64) == lead && lead > Some(0));
    let sentence = if best.is_empty() {
        "The signs do not agree on a movement, or speak for none.".to_owned()
    } else {
        let each: Vec<String> = best
            .iter()
            .map(|m| format!("{} ({} for, {} against)", Movement::ALL[*m].words(), count(*m, For), count(*m, Against)))
            .collect();
        format!("The signs speak most for {}. That is a lead to measure, not a finding.", each.join(" and for "))
    };
    let mut next: Vec<String> = best.iter().map(|m| Movement::ALL[*m].measure_next().to_owned()).collect();
    if cracks.iter().any(|c| c.readings.len() < 2 && !matches!(c.pattern, Pattern::Map | Pattern::CornerSpall)) {
        next.push("Put a pencil mark with a date at each end of every crack and read its width again there.".into());
    }
    next.push("Whether the structure needs work is for a structural engineer to say.".into());
    Some(CrackReader { movements: Movement::ALL.iter().map(|m| m.words().to_owned()).collect(), signs: read, sentence, next })
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use proptest::prelude::*;

    #[test]
    fn two_readings_rest_on_the_card_and_more_on_their_own_spread() {
        let year = |y: i16| date(y, 3, 1);
        // 0.3 mm in a year; the card is good for 0.1 mm each time: the range is 1.96 times 0.1 times the root of 2.
        let two = trend(CrackAt::Middle, &[(year(2024), 0.0010), (year(2025), 0.0013)]).unwrap();
        assert!((two.mm_a_year - 0.3).abs() < 1e-3 && (two.range[0] - (0.3 - 0.2772)).abs() < 2e-3 && two.moving, "{two:?}");
        let little = trend(CrackAt::Middle, &[(year(2024), 0.0010), (year(2025), 0.0012)]).unwrap();
        assert!(!little.moving);
        let scattered =
            trend(CrackAt::Middle, &[(year(2022), 0.001), (year(2023), 0.003), (year(2024), 0.001), (year(2025), 0.003)]).unwrap();
        assert!(!scattered.moving && scattered.range[1] - scattered.range[0] > 1.0, "{scattered:?}");
        assert!(trend(CrackAt::Middle, &[(year(2024), 0.001), (year(2024), 0.002)]).is_none() && trend(CrackAt::Upper, &[]).is_none());
    }

    fn crack_at(pattern: Pattern, from: (f64, f64), to: (f64, f64)) -> CrackRecord {
        let m = |v: f64| format!("{v:.3} m");
        CrackRecord {
            id: "C1".into(),
            face: Face::Rear,
            pattern,
            from_x: m(from.0),
            from_z: m(from.1),
            to_x: m(to.0),
            to_z: m(to.1),
            displaced: false,
            edges: Edges::Fresh,
            readings: vec![],
            text: String::new(),
        }
    }

    proptest! {
        /// Seen in a mirror a wall moves the same way, and from which end a crack was written down does not matter.
        #[test]
        fn a_mirror_changes_nothing(x0 in 0.1..9.9f64, z0 in 0.0..2.5f64, x1 in 0.1..9.9f64, z1 in 0.0..2.5f64) {
            let l = Some(10.0);
            let speaks = |c: &CrackRecord| read_crack(c, c.ends().unwrap(), l).0;
            let c = crack_at(Pattern::Diagonal, (x0, z0), (x1, z1));
            let turned = crack_at(Pattern::Diagonal, (x1, z1), (x0, z0));
            let mirrored = crack_at(Pattern::Diagonal, (10.0 - x0, z0), (10.0 - x1, z1));
            // Which end is the higher one, which half it is in, whether it leans and whether it is near an end must not hang on a millimetre.
            let middle = 0.5 * (x0 + x1);
            prop_assume!((z0 - z1).abs() > 0.01 && (middle - 5.0).abs() > 0.01);
            prop_assume!(((x0 - x1).abs() - UPRIGHT_M).abs() > 0.01 && (middle.min(10.0 - middle) - OUTER * 10.0).abs() > 0.01);
            prop_assert_eq!(speaks(&c), speaks(&turned));
            prop_assert_eq!(speaks(&c), speaks(&mirrored));
        }
    }

    #[test]
    fn a_crack_rises_toward_the_part_that_goes_down() {
        let read = |c: &CrackRecord, l: Option<f64>| read_crack(c, c.ends().unwrap(), l).0;
        let to_the_right_end = crack_at(Pattern::StairStepped, (8.0, 0.2), (9.5, 1.8));
        assert_eq!(read(&to_the_right_end, Some(10.0)), [For, Against, For, Open]);
        let to_the_middle = crack_at(Pattern::StairStepped, (8.0, 0.2), (6.5, 1.8));
        assert_eq!(read(&to_the_middle, Some(10.0)), [Against, For, Against, Open]);
        assert_eq!(read(&to_the_middle, None), [Open; 4], "without the length of the face nothing is said");
        let all = read_all(std::slice::from_ref(&to_the_right_end), &[], None, &|_| Some(10.0)).unwrap();
        assert!(all.sentence.contains("a corner going down") && all.next.last().unwrap().contains("structural engineer"));
        assert!(!all.sentence.contains("fail") && read_all(&[], &[], None, &|_| None).is_none());
    }
}
