//! Distances, clearances, falls and widths, judged by the practice with the sum shown.

use super::{Practice, Rule};
use crate::job::Brief;
use crate::measure::{Measure, Quantity, Units, scan};
use crate::round::Note;
use serde::{Deserialize, Serialize};

/// What the practice's rule says of a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    /// As it should be.
    Meets,
    /// Not as it should be.
    Fails,
    /// For an engineer or another trade to judge.
    Refer,
    /// A figure is missing.
    Unknown,
}

/// A reading, judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Judged {
    /// The point of practice.
    pub point: String,
    /// The school in force, in words.
    pub school: String,
    /// What the rule says.
    pub verdict: Verdict,
    /// The sum in words: reading, rule, difference.
    pub sum: String,
}

/// Words behind a figure that say it is how tall something is.
const HEIGHT: [&str; 6] = ["tall", "high", "height", "mature", "grown", "grows"];

/// Readings of one note with the words around them.
struct Said<'a> {
    text: String,
    measures: Vec<(Measure, bool)>,
    note: &'a Note,
}

impl<'a> Said<'a> {
    fn of(note: &'a Note) -> Said<'a> {
        let text = note.text.to_lowercase();
        let found = scan(&note.text);
        // A reading corrected by hand stands in the note; where it is said decides what it is.
        let measures = note
            .measures
            .iter()
            .filter(|m| !m.rule)
            .map(|m| {
                let at = found.iter().find(|f| f.measure.text == m.text).map(|f| f.span);
                let after = at.map_or("", |s| note.text.get(s.end..).unwrap_or(""));
                let before = at.map_or("", |s| note.text.get(..s.start).unwrap_or(""));
                let next: Vec<&str> = after.split_whitespace().take(2).collect();
                let prior: Vec<&str> = before.split_whitespace().rev().take(2).collect();
                let says = |w: &&str| HEIGHT.contains(&w.to_lowercase().trim_matches(|c: char| !c.is_alphanumeric()));
                let ends = next.first().is_some_and(|w| w.ends_with([',', ';']) && !says(w));
                (m.clone(), !ends && next.iter().any(says) || !before.trim_end().ends_with(',') && prior.iter().any(says))
            })
            .collect();
        Said { text, measures, note }
    }
    fn length(&self) -> Option<&Measure> {
        self.measures.iter().find(|(m, tall)| m.quantity == Quantity::Length && !tall).map(|(m, _)| m)
    }
    fn height(&self) -> Option<&Measure> {
        self.measures.iter().find(|(m, tall)| m.quantity == Quantity::Length && *tall).map(|(m, _)| m)
    }
    fn narrowest(&self) -> Option<&Measure> {
        self.measures.iter().filter(|(m, _)| m.quantity == Quantity::Length).map(|(m, _)| m).min_by(|a, b| a.si.total_cmp(&b.si))
    }
    fn fall(&self) -> Option<f64> {
        let direct = self.measures.iter().find(|(m, _)| matches!(m.quantity, Quantity::Slope | Quantity::Share)).map(|(m, _)| m.si);
        // "2 in over 10 ft": a small length and a long one
        let mut lengths: Vec<f64> = self.measures.iter().filter(|(m, _)| m.quantity == Quantity::Length).map(|(m, _)| m.si).collect();
        lengths.sort_by(f64::total_cmp);
        direct.or(match lengths[..] {
            [drop, run] if run > 0.5 && drop < run / 4.0 => Some(drop / run),
            _ => None,
        })
    }
    fn says(&self, words: &[&str]) -> bool {
        let mut all = self.text.split(|c: char| !c.is_alphanumeric());
        all.any(|w| words.contains(&w))
    }
    /// The first length that is a distance to an outlet: what stands in a clause about water that stands, or a gap, measures that.
    fn distance(&self) -> Option<&Measure> {
        const OF_ANOTHER: [&str; 9] = ["standing", "stands", "deep", "depth", "pond", "ponding", "gap", "crack", "wide"];
        let another = |m: &Measure| {
            let clause = self.text.split([',', ';']).find(|c| c.contains(&m.text.to_lowercase())).unwrap_or("");
            clause.split(|c: char| !c.is_alphanumeric()).any(|w| OF_ANOTHER.contains(&w))
        };
        self.measures.iter().find(|(m, tall)| m.quantity == Quantity::Length && !tall && !another(m)).map(|(m, _)| m)
    }
    /// It says that the ground falls "to the house": the way with what it leads to. "Next to the house" is a place, and what rises to the
    /// house falls away from it.
    fn falls_to_house(&self) -> bool {
        const TO: [&str; 5] = ["to", "into", "against", "toward", "towards"];
        const HOUSE: [&str; 11] =
            ["house", "wall", "walls", "building", "foundation", "home", "garage", "porch", "door", "siding", "cladding"];
        let words: Vec<&str> = self.text.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).collect();
        let small = |w: &str| ["the", "a", "our", "their", "this", "my"].contains(&w);
        const NO_WAY: [&str; 7] = ["next", "close", "near", "adjacent", "up", "tight", "attached"];
        let leads = |i: usize| words[i + 1..].iter().find(|w| !small(w)).is_some_and(|w| HOUSE.contains(w));
        let way = |i: usize| !i.checked_sub(1).is_some_and(|b| NO_WAY.contains(&words[b]));
        !self.says(&["away", "out", "not", "never", "rises", "climbs", "uphill"])
            && (0..words.len()).any(|i| TO.contains(&words[i]) && way(i) && leads(i))
    }
    /// It says that the ground falls "in". The `in` of "6 in over 10 ft" is inches, and what goes away does not come in.
    fn falls_in(&self) -> bool {
        let units: usize =
            self.measures.iter().map(|(m, _)| m.text.split(|c: char| !c.is_alphanumeric()).filter(|w| *w == "in").count()).sum();
        let said = self.text.split(|c: char| !c.is_alphanumeric()).filter(|w| *w == "in").count();
        said > units && !self.says(&["away", "out"])
    }
    fn is(&self, conditions: &[&str], components: &[&str]) -> bool {
        self.note.condition.as_deref().is_some_and(|c| conditions.contains(&c))
            || self.note.component.as_deref().is_some_and(|c| components.contains(&c))
    }
}

/// A distance to something nearby, in the reader's first units: sentences hold several, and brackets behind each would bury them.
fn metres(m: f64, practice: &Practice) -> String {
    match practice.units.first() {
        Units::Us => Units::Us.length(m, 2),
        _ if m.abs() < 0.9995 => format!("{:.0} mm", m * 1000.0),
        _ => format!("{} m", trimmed(m, 2)),
    }
}

/// The reading was taken in the reader's own units.
fn speaks(m: &Measure, practice: &Practice) -> bool {
    m.unit.is_metric() == (practice.units.first() == Units::Metric)
}

/// What the person said, and the same in the reader's units behind it when those are others.
fn own_words(m: &Measure, show: fn(f64, &Practice) -> String, practice: &Practice) -> String {
    if speaks(m, practice) { m.text.clone() } else { format!("{} ({})", m.text, show(m.si, practice)) }
}

fn trimmed(v: f64, digits: usize) -> String {
    let text = format!("{v:.digits$}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

fn percent(v: f64) -> String {
    format!("{} %", trimmed(v * 100.0, 1))
}

fn judged(rule: &Rule<'_>, verdict: Verdict, sum: String) -> Option<Judged> {
    Some(Judged { point: rule.point.key.clone(), school: rule.words(), verdict, sum })
}

/// What a distance is held against: at least `needed`.
fn at_least(practice: &Practice, rule: &Rule<'_>, what: &str, got: &Measure, needed: f64, why: &str) -> Option<Judged> {
    let said = own_words(got, metres, practice);
    let short = needed - got.si;
    let why = if why.is_empty() { format!("at least {}", metres(needed, practice)) } else { why.to_owned() };
    // A tape is read to the millimetre; what is short by less is as asked.
    const READ_TO_M: f64 = 0.0005;
    if short > READ_TO_M {
        judged(rule, Verdict::Fails, format!("{what} {said}; {why}; closer by {}", metres(short, practice)))
    } else {
        judged(rule, Verdict::Meets, format!("{what} {said}; {why}; enough, with {} to spare", metres(-short, practice)))
    }
}

/// Judges the readings of a note by the practice; `None` when no point is about them.
pub fn judge_note(note: &Note, brief: &Brief, practice: &Practice) -> Option<Judged> {
    let s = Said::of(note);
    tree(&s, practice)
        .or_else(|| overhead_line(&s, practice))
        .or_else(|| retaining_wall(&s, practice))
        .or_else(|| spray_head(&s, practice))
        .or_else(|| discharge(&s, practice))
        .or_else(|| cricket(&s, practice))
        .or_else(|| corner(&s, practice))
        .or_else(|| crack(&s, practice))
        .or_else(|| fall(&s, practice))
        .or_else(|| clearance(&s, brief, practice))
        .or_else(|| mended_tile(&s, practice))
}

fn tree(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["tree-near-foundation"], &["tree"]).then_some(())?;
    let got = s.length()?;
    let rule = practice.rule("tree-setback");
    if rule.id() == Some("keep") {
        return judged(&rule, Verdict::Meets, format!("trunk {} from wall; the tree is kept: watch, prune, alter the building", got.text));
    }
    let Some(share) = rule.named("share_of_height").filter(|_| rule.own.is_none()) else {
        return at_least(practice, &rule, "trunk", got, rule.figure(), "").map(from_wall);
    };
    let floor = rule.figure();
    match s.height() {
        Some(h) => {
            let half = share * h.si;
            let why = if half >= floor {
                format!(
                    "half of {} mature height = {}",
                    if speaks(h, practice) { trim_words(&h.text) } else { metres(h.si, practice) },
                    metres(half, practice)
                )
            } else {
                format!(
                    "half of the mature height is {}, less than the {} that is always asked",
                    metres(half, practice),
                    metres(floor, practice)
                )
            };
            at_least(practice, &rule, "trunk", got, half.max(floor), &why).map(from_wall)
        }
        None if got.si < floor => {
            at_least(practice, &rule, "trunk", got, floor, &format!("at least {} for any tree", metres(floor, practice))).map(from_wall)
        }
        None => judged(
            &rule,
            Verdict::Unknown,
            format!("trunk {} from wall; type the mature height (\u{201c}9 m tall\u{201d}) to judge it", got.text),
        ),
    }
}

fn trim_words(text: &str) -> String {
    text.trim_start_matches("about ").to_owned()
}

fn from_wall(mut j: Judged) -> Judged {
    if let Some((head, rest)) = j.sum.split_once(';') {
        j.sum = format!("{head} from wall;{rest}");
    }
    j
}

fn overhead_line(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    let line = s.text.contains("overhead line") || s.text.contains("service drop") || s.text.contains("power line");
    line.then_some(())?;
    let rule = practice.rule("overhead-line");
    let got = s.length()?;
    let keep = "keep away and refer to the utility in any case";
    at_least(practice, &rule, "line", got, rule.figure(), "").map(|mut j| {
        j.verdict = if j.verdict == Verdict::Fails { Verdict::Refer } else { j.verdict };
        j.sum = format!("{}; {keep}", j.sum);
        j
    })
}

fn retaining_wall(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["retaining-wall-wet-bowed"], &["retaining-wall"]).then_some(())?;
    let (got, height) = (s.length()?, s.height());
    let rule = practice.rule("retaining-influence");
    let Some(h) = height else {
        return judged(
            &rule,
            Verdict::Unknown,
            format!("retaining wall {} from the foundation; type its height (\u{201c}1.2 m high\u{201d}) to judge it", got.text),
        );
    };
    let reach = rule.figure() * h.si;
    let times = trimmed(rule.figure(), 2);
    let why = format!("{times} × its height of {} = {}", metres(h.si, practice), metres(reach, practice));
    if got.si < reach {
        judged(
            &rule,
            Verdict::Refer,
            format!("retaining wall {} from the foundation; {why}; it can affect the foundation: an engineer should look", got.text),
        )
    } else {
        judged(&rule, Verdict::Meets, format!("retaining wall {} from the foundation; {why}; far enough", got.text))
    }
}

fn spray_head(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["spray-head-close", "spray-wets-wall"], &["irrigation-head"]).then_some(())?;
    let rule = practice.rule("sprinkler-setback");
    if rule.id() == Some("dry-wall") {
        let wets = s.note.condition.as_deref() == Some("spray-wets-wall") || s.says(&["wets", "hits", "overspray", "soaks"]);
        return if wets {
            judged(&rule, Verdict::Fails, "the spray wets the wall; it must never".into())
        } else {
            judged(&rule, Verdict::Meets, "the wall was not seen wet; the distance does not matter".into())
        };
    }
    at_least(practice, &rule, "spray head", s.length()?, rule.figure(), "").map(from_wall)
}

fn discharge(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    let downspout =
        s.is(&["downspout-at-wall"], &["downspout"]) || s.is(&[], &["gutter"]) && s.says(&["dumps", "discharges", "outlet", "empties"]);
    let ends = s.says(&[
        "wall",
        "foundation",
        "extended",
        "extension",
        "discharges",
        "dumps",
        "away",
        "out",
        "outlet",
        "ends",
        "empties",
        "paving",
    ]);
    (downspout && ends).then_some(())?;
    let rule = practice.rule("discharge-distance");
    at_least(practice, &rule, "outlet", s.distance()?, rule.figure(), "").map(from_wall)
}

fn cricket(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["chimney-cricket-short"], &["cricket"]).then_some(())?;
    let got = s.measures.iter().map(|(m, _)| m).find(|m| m.quantity == Quantity::Length)?;
    let rule = practice.rule("cricket-width");
    let limit = rule.figure();
    let wide = own_words(got, metres, practice);
    if got.si > limit {
        let by = if limit > 0.0 {
            format!("wider than {} by {}", metres(limit, practice), metres(got.si - limit, practice))
        } else {
            "every width needs one".into()
        };
        judged(&rule, Verdict::Fails, format!("stack {wide} wide; {by}; it needs a cricket"))
    } else {
        judged(&rule, Verdict::Meets, format!("stack {wide} wide; not wider than {}; it needs no cricket", metres(limit, practice)))
    }
}

fn corner(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["corner-pop"], &[]).then_some(())?;
    let rule = practice.rule("corner-spall");
    let crosses = s.text.contains("across the wall") || s.text.contains("through the wall");
    let size = s.length();
    match size {
        Some(m) if m.si <= rule.figure() && !crosses => {
            judged(&rule, Verdict::Meets, format!("broken corner {}; within {}; cosmetic", m.text, metres(rule.figure(), practice)))
        }
        Some(m) => judged(
            &rule,
            Verdict::Refer,
            format!(
                "broken corner {}; {}; an engineer should look",
                m.text,
                if crosses { "it crosses the wall".to_owned() } else { format!("more than {}", metres(rule.figure(), practice)) }
            ),
        ),
        None => judged(&rule, Verdict::Unknown, "type the size of the broken corner to judge it".into()),
    }
}

fn crack(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    const CRACKS: [&str; 4] = ["stucco-crack", "brick-stair-crack", "brick-vertical-crack", "foundation-crack"];
    s.is(&CRACKS, &[]).then_some(())?;
    let width = s.narrowest().filter(|m| m.si < 0.05)?;
    let rule = practice.rule("crack-width");
    let (seal, refer) = (rule.named("seal_m").unwrap_or(0.0), rule.figure());
    let stepped = s.note.condition.as_deref() == Some("brick-stair-crack")
        || s.says(&["step", "stepped", "steps", "stair", "displaced", "offset", "proud"]);
    let said = own_words(width, crack_width, practice);
    // A sixteenth of an inch is the limit itself.
    let eps = 1e-9;
    if rule.id() == Some("stepped") && stepped {
        return judged(&rule, Verdict::Refer, format!("crack {said} wide; it steps; an engineer should look"));
    }
    if width.si > refer + eps {
        judged(&rule, Verdict::Refer, format!("crack {said} wide; over {}; an engineer should look", crack_width(refer, practice)))
    } else if width.si > seal + eps && stepped {
        judged(
            &rule,
            Verdict::Refer,
            format!("crack {said} wide; over {} and it steps or displaces; an engineer should look", crack_width(seal, practice)),
        )
    } else if width.si > seal + eps {
        judged(
            &rule,
            Verdict::Fails,
            format!(
                "crack {said} wide; between {} and {} without a step; seal it and measure again",
                crack_width(seal, practice),
                crack_width(refer, practice)
            ),
        )
    } else {
        judged(&rule, Verdict::Meets, format!("crack {said} wide; not over {}; seal and watch", crack_width(seal, practice)))
    }
}

/// The width of a crack.
fn crack_width(m: f64, practice: &Practice) -> String {
    match practice.units.first() {
        Units::Us => Units::Us.reading(Quantity::Length, m),
        _ => format!("{} mm", trimmed(m * 1000.0, 1)),
    }
}

fn fall(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    const SOIL: [&str; 3] = ["grade-flat-at-wall", "grade-toward-wall", "grade-away-ok"];
    let hard = s.is(&["flatwork-toward-wall"], &["flatwork"]);
    (hard || s.is(&SOIL, &["grade"])).then_some(())?;
    let fall = s.fall()?;
    let toward = s.is(&["grade-toward-wall", "flatwork-toward-wall"], &[])
        || s.says(&["toward", "towards", "back", "negative"])
        || s.falls_in()
        || s.falls_to_house();
    let rule = practice.rule(if hard { "hard-fall" } else { "soil-fall" });
    let what = if hard { "paving" } else { "ground" };
    let needed = rule.figure();
    let away = if toward { -fall } else { fall };
    let has = if away < 0.0 {
        format!("{what} falls {} toward the wall", percent(-away))
    } else {
        format!("{what} falls {} away", percent(away))
    };
    let ask = if needed > 0.0 { format!("{} away is asked", percent(needed)) } else { "any fall away is asked".to_owned() };
    if away + 1e-9 < needed || away <= 0.0 {
        let rise = rule
            .named("over_m")
            .map(|over| format!("; {} missing over {}", metres((needed - away) * over, practice), metres(over, practice)))
            .unwrap_or_default();
        judged(&rule, Verdict::Fails, format!("{has}; {ask}{rise}"))
    } else {
        judged(&rule, Verdict::Meets, format!("{has}; {ask}; enough"))
    }
}

fn clearance(s: &Said<'_>, brief: &Brief, practice: &Practice) -> Option<Judged> {
    s.is(&["soil-high-at-cladding", "soil-clearance-ok", "mulch-against-wall", "stone-hides-base"], &["soil", "mulch"]).then_some(())?;
    let got = s.length()?;
    let rule = practice.rule("cladding-clearance");
    let paving = s.says(&["paving", "slab", "walk", "concrete", "patio", "drive"]) && !s.says(&["soil", "mulch", "bark", "dirt"]);
    let materials = brief.walls.iter().map(|w| w.material.to_lowercase()).collect::<Vec<_>>();
    // What the note says of the cladding comes before what the brief says of the walls.
    let named = kind_of(&s.text).or_else(|| materials.iter().find_map(|m| kind_of(m)));
    if let Some(own) = rule.own {
        return at_least(practice, &rule, "clearance", got, own, "");
    }
    let Some((cladding, figures)) = named else {
        return judged(
            &rule,
            Verdict::Unknown,
            format!("clearance {}; type the cladding (siding, stucco, stone, brick) to judge it", got.text),
        );
    };
    let figure = figures[usize::from(paving && figures.len() > 1)];
    let ground = if paving { "paving" } else { "soil" };
    let needed = rule.named(figure)?;
    at_least(practice, &rule, "clearance", got, needed, &format!("{cladding} over {ground} asks {}", metres(needed, practice)))
}

/// The cladding a text names, with the figures that hold over soil and over paving.
pub(crate) fn kind_of(text: &str) -> Option<(&'static str, &'static [&'static str])> {
    const KINDS: [(&str, &[&str], &[&str]); 3] = [
        ("stucco or stone", &["stucco", "render", "stone"], &["stucco_soil_m", "stucco_paving_m"]),
        ("masonry below the weeps", &["brick", "masonry", "weep"], &["masonry_m"]),
        (
            "wood or fibre cement",
            &["siding", "wood", "cedar", "fibre", "fiber", "plank", "board", "cladding"],
            &["wood_soil_m", "wood_paving_m"],
        ),
    ];
    KINDS.iter().find(|(_, words, _)| words.iter().any(|w| text.contains(w))).map(|(name, _, figures)| (*name, *figures))
}

fn mended_tile(s: &Said<'_>, practice: &Practice) -> Option<Judged> {
    s.is(&["tile-glued-repair"], &[]).then_some(())?;
    let rule = practice.rule("tile-repair");
    let parted = s.says(&["parted", "apart", "open", "opened", "loose"]);
    match rule.id() {
        Some("accept") if !parted => judged(&rule, Verdict::Meets, "the mend is sound; watch it".into()),
        _ => judged(&rule, Verdict::Fails, "a mended tile is temporary; replace it with a whole one".into()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::PartMaterial;
    use crate::round::{Context, read};
    use crate::site::{Face, Place, Zone};
    use proptest::prelude::*;

    fn judge_in(line: &str, zone: Zone, practice: &Practice) -> Option<Judged> {
        let note = read(line, &Context::at(Place::outside(Face::Right, zone), None)).notes.remove(0).into_note(String::new());
        let brief =
            Brief { walls: vec![PartMaterial { part: "wing".into(), material: "fibre-cement lap siding".into() }], ..Brief::default() };
        judge_note(&note, &brief, practice)
    }

    fn with(key: &str, school: &str) -> Practice {
        let mut p = Practice::usual("x");
        p.choice.insert(key.into(), crate::practice::Choice { school: Some(school.into()), ..Default::default() });
        p.check().unwrap();
        p
    }

    #[test]
    fn inches_are_no_way_in() {
        let usual = Practice::default();
        let falls = |text: &str| judge_in(text, Zone::Ground, &usual).unwrap_or_else(|| panic!("{text} is not judged"));
        let away = falls("ground slopes away 6 in over 10 ft");
        assert!(away.verdict == Verdict::Meets && away.sum.contains("5 % away"), "{}", away.sum);
        assert!(falls("ground slopes in 3 % at the wall").sum.contains("toward the wall"));
        // The way is read with what it leads to.
        assert!(falls("patio slab slopes to the house about 2 percent").sum.contains("toward the wall"));
        for line in ["walk falls 2 % away, out to the garage", "walk next to the house falls 2 %", "walk rises 2 % to the house"] {
            assert!(falls(line).sum.contains("paving falls 2 % away"), "{line}: {}", falls(line).sum);
        }
        // An inch of water is no distance of an outlet from the wall.
        assert!(judge_in("downspout has no outlet, water standing an inch", Zone::Ground, &usual).is_none());
    }

    #[test]
    fn each_distance_is_judged_with_its_sum() {
        let usual = Practice::usual("x");
        let lines = [
            ("tree trunk 2.4 m from wall, 9 m mature height", Zone::Ground),
            ("tree trunk 8 ft from wall", Zone::Ground),
            ("tree 5 m from wall", Zone::Ground),
            ("spray head 6 in from wall, too close", Zone::Ground),
            ("downspout dumps 0.3 m from wall", Zone::Ground),
            ("downspouts well extended, 2.4 m from wall", Zone::Ground),
            ("retaining wall 1.5 m away, 1.2 m high, leaning", Zone::Ground),
            ("no cricket behind the flue stack, 1.15 m wide", Zone::Roof),
            ("soil too high at siding, 1 in left, should be 6 in", Zone::Base),
            ("good clearance 8 in", Zone::Base),
            ("stucco crack 1/16 x 14 in", Zone::UpperWall),
            ("stair-step crack 1/8 in x 4 ft in the brick", Zone::UpperWall),
            ("stucco crack 3/8 in", Zone::UpperWall),
            ("slab tips back to the wall 1 %", Zone::Ground),
            ("negative grade 2 in over 10 ft", Zone::Ground),
            ("slopes away 5 %", Zone::Ground),
            ("corner pop 6 in", Zone::Base),
        ];
        let told: Vec<String> = lines
            .iter()
            .map(|(l, z)| judge_in(l, *z, &usual).map_or(format!("{l}: not judged"), |j| format!("{:?} {}", j.verdict, j.sum)))
            .collect();
        insta::assert_snapshot!(told.join("\n"));
    }

    #[test]
    fn another_school_judges_otherwise_and_is_named() {
        let line = "tree trunk 5 m from wall, 9 m tall";
        let usual = judge_in(line, Zone::Ground, &Practice::usual("x")).unwrap();
        let fixed = judge_in(line, Zone::Ground, &with("tree-setback", "fixed")).unwrap();
        let keep = judge_in(line, Zone::Ground, &with("tree-setback", "keep")).unwrap();
        assert_eq!((usual.verdict, fixed.verdict, keep.verdict), (Verdict::Meets, Verdict::Fails, Verdict::Meets));
        assert!(fixed.school.contains("25 ft") && fixed.sum.contains("closer by 2.62 m"), "{fixed:?}");
        let dry = judge_in("spray head 3 in from wall", Zone::Ground, &with("sprinkler-setback", "dry-wall")).unwrap();
        assert_eq!(dry.verdict, Verdict::Meets);
        let any = judge_in("no cricket behind chimney, stack 20 in wide", Zone::Roof, &with("cricket-width", "any")).unwrap();
        assert_eq!(any.verdict, Verdict::Fails);
    }

    proptest! {
        /// Standing further off never makes a distance worse.
        #[test]
        fn further_off_is_never_worse(a in 1_u32..20_000, more in 0_u32..20_000) {
            let usual = Practice::usual("x");
            let fails = |mm: u32| judge_in(&format!("spray head {mm} mm from wall, too close"), Zone::Ground, &usual).unwrap().verdict == Verdict::Fails;
            prop_assert!(!fails(a + more) || fails(a));
        }
    }
}
