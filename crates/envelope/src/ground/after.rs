//! What a change does: every wet place before and after, and the remedies of the place in the order the practice tries them,
//! each with what it takes away.

use super::origin::Stage;
use super::rain_test::{Otherwise, Prepared, RainTest, RainTestError, Wanted, WetPlace};
use super::survey::{GroundInput, Survey};
use crate::measure::Units;
use crate::rain::compare::Compared;
use serde::{Deserialize, Serialize};

/// Something that would take water away from a wet place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WaterRemedy {
    /// "roof", "irrigation", "ground", "barrier".
    pub stage: Stage,
    /// What would be done.
    pub words: String,
    /// Its depth at the most, before, mm.
    pub before_mm: f64,
    /// After, mm; none where a barrier takes no water away.
    pub after_mm: Option<f64>,
    /// Before and after in a sentence, and why here in the order.
    pub sentence: String,
    /// Somebody digs: buried services are located first.
    pub digs: bool,
}

/// A wet place and what would mend it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mending {
    /// The pond.
    pub pond: String,
    /// Where.
    pub place: String,
    /// The school that orders them.
    pub school: String,
    /// In the order to try them.
    pub remedies: Vec<WaterRemedy>,
}

/// An origin that brings less than this is not worth a remedy.
const WORTH: f64 = 0.04;

fn wet_of<'t>(t: &'t RainTest, pond: &str) -> Option<&'t WetPlace> {
    t.wet.iter().find(|w| w.pond == pond)
}

/// Who gets more of the water than before, in words; empty when nobody does.
fn instead(before: &RainTest, after: &RainTest, pond: &str, u: Units) -> String {
    /// Less than this more is nothing anybody sees, metres.
    const WORSE_M: f64 = 0.005;
    let was = |w: &WetPlace| wet_of(before, &w.pond).map_or(0.0, |b| b.depth_m);
    let worse: Vec<String> = after
        .wet
        .iter()
        .filter(|w| w.pond != pond && w.depth_m > was(w) + WORSE_M)
        .map(|w| format!("{} ({} deeper)", w.place, u.depth(w.depth_m - was(w))))
        .collect();
    if worse.is_empty() { String::new() } else { format!(" More stands then at the {}.", worse.join(" and the ")) }
}

/// What would mend each wet place that stands against a wall: each change is run through roof, gutter and ground.
///
/// # Errors
/// [`RainTestError`] when the storm cannot be run.
pub fn mending(survey: &Survey, input: &GroundInput, wanted: Wanted) -> Result<Vec<Mending>, RainTestError> {
    let storm = Prepared::new(survey, input, wanted)?;
    let mut go_on = |_: &super::rain_test::RainStep| true;
    let before = storm.run(&Otherwise::default(), &mut go_on)?;
    let u = input.practice.units;
    let away = u.length(storm.led_out_m, 2);
    let rule = input.practice.rule("remedy-order");
    let together = rule.id() == Some("all-at-once");
    let mut out = Vec::new();
    let at_walls: Vec<&WetPlace> = before.wet.iter().filter(|w| !w.walls.is_empty()).collect();
    for w in at_walls {
        let was = w.depth_m * 1000.0;
        let mut remedies: Vec<WaterRemedy> = Vec::new();
        let mut so_far = Otherwise::default();
        let mut add =
            |stage: Stage, words: String, digs: bool, how: &Otherwise, why: &str, storm: &Prepared<'_>| -> Result<(), RainTestError> {
                let after = storm.run(how, &mut |_| true)?;
                let (depth, wall_h) = wet_of(&after, &w.pond).map_or((0.0, 0.0), |a| (a.depth_m * 1000.0, a.wall_metre_hours));
                let walls = if w.wall_metre_hours > 0.05 {
                    format!(" The wall is wet {:.0} % as long and as far.", 100.0 * wall_h / w.wall_metre_hours)
                } else {
                    String::new()
                };
                let sentence = format!(
                    "{why}{} before, {} after.{walls}{}",
                    u.depth(was / 1000.0),
                    u.depth(depth / 1000.0),
                    instead(&before, &after, &w.pond, u)
                );
                remedies.push(WaterRemedy { stage, words, before_mm: was, after_mm: Some(depth), sentence, digs });
                Ok(())
            };
        for stage in [Stage::Roof, Stage::Irrigation, Stage::Ground] {
            for f in w.from.iter().filter(|f| f.share > WORTH) {
                let Some((s, words)) = f.source.remedy(&away).filter(|(s, _)| *s == stage) else { continue };
                // Upstream first: each is seen on top of those before it. All at once: each by itself.
                let first = so_far == Otherwise::default();
                let mut how = if together { Otherwise::default() } else { so_far.clone() };
                how.mend(&f.source);
                let with = if together || first { "" } else { "With those above it: " };
                let why = format!("{:.0} % of what stands here. {with}", f.share * 100.0);
                add(s, crate::roof::access::capital(&words), s == Stage::Ground, &how, &why, &storm)?;
                so_far.mend(&f.source);
            }
        }
        let mut drained = if together { Otherwise::default() } else { so_far };
        drained.drained.insert(w.pond.clone());
        let lower = storm.lower_ground(&w.pond);
        let (words, why) = if lower {
            ("A drain at its deepest place, led to ground that lies lower", "")
        } else {
            ("A drain at its deepest place, with a pump", "No ground that was read lies lower than its bottom: a pipe would not empty it. ")
        };
        add(Stage::Ground, words.into(), true, &drained, why, &storm)?;
        remedies.push(WaterRemedy {
            stage: Stage::Barrier,
            words: "A barrier on the wall".into(),
            before_mm: was,
            after_mm: None,
            sentence: "It takes no water away, so it comes last: what still stands after the rest may be kept out of the wall by it."
                .into(),
            digs: true,
        });
        out.push(Mending { pond: w.pond.clone(), place: w.place.clone(), school: rule.words(), remedies });
    }
    Ok(out)
}

/// Every wet place before and after a change.
pub fn compare(before: &RainTest, after: &RainTest, u: Units) -> (String, Vec<Compared>) {
    let mut rows = Vec::new();
    let of = |w: &WetPlace| w.place.clone();
    let mut places: Vec<String> = before.wet.iter().map(of).collect();
    places.extend(after.wet.iter().map(of).filter(|p| !before.wet.iter().any(|w| w.place == *p)));
    places.dedup();
    let find = |t: &RainTest, place: &str| t.wet.iter().find(|w| w.place == place).cloned();
    for p in &places {
        let (b, a) = (find(before, p), find(after, p));
        let figure = |f: &dyn Fn(&WetPlace) -> f64| (b.as_ref().map_or(0.0, f), a.as_ref().map_or(0.0, f));
        for (what, unit, (was, is)) in [
            ("depth", "mm", figure(&|w| w.depth_m * 1000.0)),
            ("stands", "L", figure(&|w| w.volume_m3 * 1000.0)),
            ("wall in water", "m", figure(&|w| w.walls.iter().map(|c| c.length_m).sum())),
            ("wall wet, metres by hours", "m·h", figure(&|w| w.wall_metre_hours)),
        ] {
            if was != 0.0 || is != 0.0 {
                rows.push(Compared { what: format!("{p}: {what}"), unit: unit.into(), before: Some(was), after: Some(is) });
            }
        }
    }
    let stands = |t: &RainTest| t.wet.iter().filter(|w| !w.walls.is_empty()).map(|w| w.volume_m3 * 1000.0).fold(0.0, |a: f64, b| a + b);
    let (was, is) = (stands(before), stands(after));
    let sentence = if (was - is).abs() < 0.5 {
        format!("{} stand against walls before and after.", u.litres(was))
    } else {
        format!("Before, {} stand against walls; after, {}.", u.litres(was), u.litres(is))
    };
    (sentence, rows)
}
