//! Going up or not: what decides, what the ladder must be, how to tread, and what is printed when a roof was not walked.
//!
//! Rules of practice, never permission: local rules for work at height and the person on the ladder decide. Staying off wins
//! over everything else.

use super::covering::{Feet, covering};
use super::record::{GoingUp, Landing};
use crate::practice::Practice;
use serde::{Deserialize, Serialize};

/// Input of `calc access`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AccessInput {
    /// Rise over run.
    pub pitch: f64,
    /// The covering, by name.
    #[serde(default)]
    pub covering: Option<String>,
    /// Height of the drip edge above the ground, metres.
    pub eave_m: f64,
    /// What was met on the day.
    #[serde(default)]
    pub going_up: GoingUp,
    /// Age of the covering, years, when something is known of it.
    #[serde(default)]
    pub age_years: Option<f64>,
    /// The practice; the usual schools when it is not given.
    #[serde(default)]
    pub practice: Option<Practice>,
}

/// How a roof is looked at, from the most to the least.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Decision {
    /// Walk it.
    Walk,
    /// From the ladder at the eave.
    Ladder,
    /// From the ground: pole, drone or glass.
    Ground,
    /// Keep off and away.
    StayOff,
}

impl Decision {
    /// What to do, in words.
    pub fn words(self) -> &'static str {
        match self {
            Decision::Walk => "Walk it",
            Decision::Ladder => "Look from the ladder at the eave; do not step off it",
            Decision::Ground => "Look from the ground: pole, drone or field glass",
            Decision::StayOff => "Stay off, and off the ladder too",
        }
    }
    fn seen(self) -> &'static str {
        match self {
            Decision::Walk => "was walked",
            Decision::Ladder => "was looked at from a ladder at the eave and not walked",
            Decision::Ground | Decision::StayOff => "was looked at from the ground only",
        }
    }
}

/// One thing that speaks for keeping lower.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AccessReason {
    /// The most it allows.
    pub allows: Decision,
    /// Why.
    pub why: String,
}

/// What the ladder must be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ladder {
    /// Height of the landing, metres.
    pub landing_m: f64,
    /// Length that is needed, metres.
    pub length_m: f64,
    /// From the foot to below the landing, metres.
    pub foot_m: f64,
    /// How far it stands above the landing, metres.
    pub above_m: f64,
    /// The figures as a sentence.
    pub words: String,
}

/// Whether to go up.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Access {
    /// The most that is advised.
    pub decision: Decision,
    /// The same in words.
    pub words: String,
    /// Everything that speaks for it.
    pub reasons: Vec<AccessReason>,
    /// What the ladder must be; none when nobody should be on one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ladder: Option<Ladder>,
    /// How to tread, when it is walked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tread: Option<String>,
    /// What is printed as a limitation; empty when it is walked and nobody was overruled.
    pub limitation: String,
    /// Where people can be hurt.
    pub cautions: Vec<String>,
    /// The school that was followed.
    pub school: String,
}

/// Decides.
///
/// # Errors
/// What is wrong with a figure.
pub fn access(input: &AccessInput) -> Result<Access, String> {
    if !(0.0..=12.0).contains(&input.pitch) {
        return Err(format!("A pitch of {} cannot be. Type rise over run, for example 0.5.", input.pitch));
    }
    if !(0.0..=200.0).contains(&input.eave_m) {
        return Err(format!("An eave {} m above the ground cannot be. Type metres from 0 to 200.", input.eave_m));
    }
    let material = match &input.covering {
        Some(key) => Some(covering(key).ok_or_else(|| format!("\u{201c}{key}\u{201d} is not a covering Trowel knows."))?),
        None => None,
    };
    let usual = Practice::default();
    let practice = input.practice.as_ref().unwrap_or(&usual);
    let (up, rule, ladder_rule) = (&input.going_up, practice.rule("roof-access"), practice.rule("ladder"));
    let u = practice.units;
    let mut reasons = Vec::new();
    let mut because = |met: bool, allows: Decision, why: String| {
        if met {
            reasons.push(AccessReason { allows, why });
        }
    };
    let lines_m = ladder_rule.named("lines").unwrap_or(3.0);
    let highest = ladder_rule.named("highest").unwrap_or(f64::INFINITY);
    because(up.frost, Decision::StayOff, "Frost, ice or snow on the roof and the rungs.".into());
    because(up.windy, Decision::StayOff, "Wind that pushes a person off balance.".into());
    because(up.lines, Decision::StayOff, format!("Lines overhead: ladder and person keep {} away.", u.length(lines_m, 1)));
    because(up.landing == Landing::Nowhere, Decision::Ground, "Nowhere for a ladder to stand.".into());
    because(
        input.eave_m > highest,
        Decision::Ground,
        format!("The eave is {} up; above {} a ladder is no work for one person.", u.length(input.eave_m, 1), u.length(highest, 1)),
    );
    because(up.wet, Decision::Ladder, "Wet: it is slippery.".into());
    because(up.mossy, Decision::Ladder, "Moss: it is slippery when it looks dry.".into());
    because(up.brittle, Decision::Ladder, "It breaks or gives underfoot.".into());
    because(rule.id() == Some("ladder"), Decision::Ladder, "The practice never leaves the ladder.".into());
    let protected = rule.id() == Some("protected");
    because(protected && !up.protected, Decision::Ladder, "The practice walks with fall protection, and none is at hand.".into());
    let limit = if up.loose { rule.named("loose").unwrap_or(0.5).min(rule.figure()) } else { rule.figure() };
    because(
        input.pitch > limit + 1e-9 && rule.id() != Some("ladder"),
        Decision::Ladder,
        format!(
            "The pitch, {:.1}:12, is above the practice's limit of {:.1}:12{}.",
            input.pitch * 12.0,
            limit * 12.0,
            if up.loose { " with loose granules" } else { "" }
        ),
    );
    if let Some(c) = material {
        // Half its typical life has weathered a shake.
        let weathered = input.age_years.is_none_or(|a| a > c.median / 2.0);
        let (met, why) = match c.feet {
            Feet::Never => (true, format!("{} cannot be walked.", capital(&c.name))),
            Feet::Ask => (!protected, format!("{} breaks underfoot; the practice has not said it is walked.", capital(&c.name))),
            Feet::NewOnly => (weathered, format!("{} that have weathered split underfoot.", capital(&c.name))),
            Feet::SoundOnly | Feet::Tile => (false, String::new()),
        };
        because(met, Decision::Ladder, why);
    }
    reasons.sort_by_key(|r| std::cmp::Reverse(r.allows));
    let decision = reasons.iter().map(|r| r.allows).max().unwrap_or(Decision::Walk);
    let ladder = (decision <= Decision::Ladder).then(|| {
        let (ratio, above) = (ladder_rule.figure().max(1.0), ladder_rule.named("above").unwrap_or(0.9));
        let length = (input.eave_m + above) * (1.0 + 1.0 / (ratio * ratio)).sqrt();
        let foot = input.eave_m / ratio;
        Ladder {
            landing_m: input.eave_m,
            length_m: length,
            foot_m: foot,
            above_m: above,
            words: format!(
                "A ladder of at least {}, its foot {} out ({ratio:.0}:1), standing {} above the eave at {}.",
                u.length(length, 1),
                u.length(foot, 2),
                u.length(above, 1),
                u.length(input.eave_m, 1)
            ),
        }
    });
    let mut cautions = Vec::new();
    if ladder.is_some() {
        cautions.push("Set it on firm, level ground, try the locks, tie the top, and have somebody at the foot. Local rules for work at height decide.".to_owned());
    }
    if up.landing == Landing::Uncertain && ladder.is_some() {
        cautions.push("The ground is soft or slopes: level and foot the ladder, or do without it.".into());
    }
    if up.lines {
        cautions.push("Every line is live until the utility says otherwise. Ask it to cover or switch off; nobody else does.".into());
    }
    if decision == Decision::Walk {
        cautions.push("Keep away from edges, skylights and soft places; a skylight does not carry a person.".into());
    }
    if material.is_some_and(|c| c.key == "fibre-cement-shake") {
        cautions.push("Old fibre-cement may hold asbestos: do not break, drill or brush it. A licensed laboratory says what it is.".into());
    }
    let overruled = up.overruled.trim();
    let because_of = reasons.first().map(|r| r.why.trim_end_matches('.')).unwrap_or_default();
    let limitation = match decision {
        Decision::Walk => String::new(),
        d if overruled.is_empty() => format!("The roof {}. {because_of}.", d.seen()),
        _ => format!("Going up was advised against ({}). It was done all the same: {overruled}", lower(because_of)),
    };
    Ok(Access {
        decision,
        words: decision.words().to_owned(),
        reasons,
        ladder,
        tread: material.filter(|_| decision == Decision::Walk || !overruled.is_empty()).map(|c| c.tread.clone()),
        limitation,
        cautions,
        school: rule.words(),
    })
}

/// With a capital first letter, as a sentence begins.
pub fn capital(text: &str) -> String {
    let mut c = text.chars();
    c.next().map_or_else(String::new, |first| first.to_uppercase().chain(c).collect())
}

fn lower(text: &str) -> String {
    let mut c = text.chars();
    c.next().map_or_else(String::new, |first| first.to_lowercase().chain(c).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn of(pitch: f64, covering: &str, up: GoingUp, practice: Option<&str>) -> Access {
        let practice = practice.map(|s| Practice::from_toml(&format!("name = \"x\"\n[choice.roof-access]\nschool = \"{s}\"")).unwrap());
        access(&AccessInput { pitch, covering: Some(covering.into()), eave_m: 2.7, going_up: up, age_years: Some(3.0), practice }).unwrap()
    }
    fn dry() -> GoingUp {
        GoingUp::default()
    }

    #[test]
    fn a_dry_low_sound_roof_is_walked() {
        let a = of(0.5, "asphalt-laminated", dry(), None);
        assert_eq!((a.decision, a.limitation.as_str()), (Decision::Walk, ""));
        assert!(a.tread.is_some());
        // 2.7 m and 0.9 m above it, at four to one
        let l = a.ladder.unwrap();
        assert!((l.length_m - 3.6 * (17.0_f64).sqrt() / 4.0).abs() < 1e-9 && (l.foot_m - 0.675).abs() < 1e-9);
    }

    #[test]
    fn what_keeps_a_person_down() {
        let ladder = |a: Access| a.decision == Decision::Ladder;
        assert!(ladder(of(0.75, "asphalt-laminated", dry(), None)), "above 8:12");
        assert!(ladder(of(7.0 / 12.0, "asphalt-laminated", GoingUp { loose: true, ..dry() }, None)), "above 6:12 on loose granules");
        assert!(ladder(of(0.4, "slate", dry(), None)));
        assert!(ladder(of(0.4, "clay-tile", dry(), None)));
        assert!(ladder(of(0.2, "asphalt-laminated", dry(), Some("ladder"))));
        assert!(ladder(of(0.75, "asphalt-laminated", dry(), Some("protected"))), "no anchors at hand");
        assert_eq!(of(0.75, "asphalt-laminated", GoingUp { protected: true, ..dry() }, Some("protected")).decision, Decision::Walk);
        assert_eq!(of(0.3, "wood-shake", dry(), None).decision, Decision::Walk, "new shakes carry");
    }

    #[test]
    fn staying_off_is_never_overruled_in_silence() {
        let a = of(
            0.2,
            "asphalt-laminated",
            GoingUp { frost: true, overruled: "Leak over the ward; two people, tied on.".into(), ..dry() },
            None,
        );
        assert_eq!(a.decision, Decision::StayOff, "a reason does not change the advice");
        assert!(a.ladder.is_none());
        assert!(a.limitation.contains("advised against") && a.limitation.contains("Leak over the ward"), "{}", a.limitation);
    }

    #[test]
    fn tile_is_trodden_over_the_lap() {
        assert!(of(0.4, "concrete-tile", dry(), None).tread.unwrap().contains("lower third"));
    }

    proptest! {
        /// One more danger never lets a person higher.
        #[test]
        fn no_danger_helps(pitch in 0.0..1.5_f64, flags in prop::collection::vec(any::<bool>(), 7), more in 0_usize..7) {
            let up = |f: &[bool]| GoingUp { mossy: f[0], wet: f[1], frost: f[2], loose: f[3], brittle: f[4], windy: f[5], lines: f[6], ..dry() };
            let mut worse = flags.clone();
            worse[more] = true;
            let (a, b) = (of(pitch, "asphalt-laminated", up(&flags), None), of(pitch, "asphalt-laminated", up(&worse), None));
            prop_assert!(b.decision >= a.decision);
            prop_assert_eq!(a.decision == Decision::Walk, a.limitation.is_empty());
            if worse[2] || worse[5] || worse[6] {
                prop_assert_eq!(b.decision, Decision::StayOff);
            }
        }
    }
}
