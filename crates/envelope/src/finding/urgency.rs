//! When a finding must be dealt with, and why then.
//!
//! Urgency starts at the condition's own step and moves one step for each thing that is known on site. The person's own
//! choice wins, with its reason kept beside ours. Rule of practice throughout; no standard sets these steps.

use super::catalogue::{Condition, WaterRole};
use serde::{Deserialize, Serialize};

/// Six steps, soonest first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Urgency {
    /// Before anything else happens.
    Now,
    /// Before the next rain.
    BeforeNextRain,
    /// Within the season.
    ThisSeason,
    /// With the next re-roof or repaint.
    NextCycle,
    /// Look again later.
    Watch,
    /// Noted and explained, nothing more.
    Record,
}

impl Urgency {
    /// Soonest first.
    pub const ALL: [Urgency; 6] =
        [Urgency::Now, Urgency::BeforeNextRain, Urgency::ThisSeason, Urgency::NextCycle, Urgency::Watch, Urgency::Record];

    /// The words on the gauge.
    pub fn words(self) -> &'static str {
        match self {
            Urgency::Now => "Now",
            Urgency::BeforeNextRain => "Before next rain",
            Urgency::ThisSeason => "This season",
            Urgency::NextCycle => "Next cycle",
            Urgency::Watch => "Watch",
            Urgency::Record => "For the record",
        }
    }
    /// Ticks filled on the gauge, five to none.
    pub fn ticks(self) -> u8 {
        5 - self as u8
    }
    fn sooner(self) -> Urgency {
        Urgency::ALL[(self as usize).saturating_sub(1)]
    }
}

/// What is known on site about one note, beyond its condition.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct Facts {
    /// Water is confirmed active here.
    pub water_active: bool,
    /// A finished room, structure or electrical equipment lies behind.
    pub sensitive_behind: bool,
    /// The place faces the driving rain.
    pub driving_rain: bool,
    /// Much water arrives here: the figure, as a sentence part ("41 m² of roof").
    #[serde(skip_serializing_if = "Option::is_none")]
    pub much_water: Option<String>,
    /// The part is near the end of its life.
    pub end_of_life: bool,
    /// Someone can be hurt; unset takes the condition's own word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hazard: Option<bool>,
}

/// Which way a reason moves the step.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Effect {
    /// Where it starts.
    Start,
    /// One step sooner.
    Sooner,
    /// One step later.
    Later,
    /// To the front.
    ToNow,
    /// Known, but changes nothing here.
    Stays,
}

/// One reason, in words.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reason {
    /// The sentence.
    pub text: String,
    /// What it did.
    pub effect: Effect,
    /// The step after it.
    pub step: Urgency,
}

/// A step set by hand.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HandSet {
    /// The step chosen.
    pub step: Urgency,
    /// Why, in the person's words.
    pub reason: String,
}

/// A suggested step with its reasons.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suggestion {
    /// The step.
    pub step: Urgency,
    /// Someone can be hurt.
    pub hazard: bool,
    /// Why, in order.
    pub reasons: Vec<Reason>,
}

/// Suggests when a condition must be dealt with.
pub fn suggest(condition: &Condition, facts: &Facts) -> Suggestion {
    let mut s = Suggestion { step: condition.urgency, hazard: facts.hazard.unwrap_or(condition.hazard), reasons: Vec::new() };
    let start = format!("{} starts at \u{201c}{}\u{201d}.", condition.name, condition.urgency.words());
    s.reasons.push(Reason { text: start, effect: Effect::Start, step: s.step });
    let wets = !matches!(condition.role, WaterRole::None | WaterRole::Drying);
    let rain_gets_in = matches!(condition.role, WaterRole::Entry | WaterRole::Path);
    let on_record = condition.urgency == Urgency::Record;

    let sooner = |s: &mut Suggestion, known: bool, counts: bool, text: String| {
        if !known {
            return;
        }
        let next = s.step.sooner();
        let moves = counts && !on_record && next != s.step;
        if moves {
            s.step = next;
        }
        s.reasons.push(Reason { text, effect: if moves { Effect::Sooner } else { Effect::Stays }, step: s.step });
    };
    sooner(&mut s, facts.water_active, wets, "Water is confirmed active here.".into());
    if let Some(figure) = &facts.much_water {
        sooner(&mut s, true, wets, format!("Much water arrives here: {figure}."));
    }
    sooner(
        &mut s,
        facts.sensitive_behind,
        wets,
        "What lies behind is sensitive: a finished room, structure or electrical equipment.".into(),
    );
    sooner(&mut s, facts.driving_rain, rain_gets_in, "The place faces the driving rain.".into());

    if facts.end_of_life {
        // Waiting for the next cycle only serves where water is not already on its way in.
        let serves = s.step == Urgency::ThisSeason && !facts.water_active;
        if serves {
            s.step = Urgency::NextCycle;
        }
        let text = if serves {
            "The part is near the end of its life: with its replacement will serve."
        } else {
            "The part is near the end of its life, but this cannot wait for its replacement."
        };
        let effect = if serves { Effect::Later } else { Effect::Stays };
        if serves || s.step < Urgency::ThisSeason {
            s.reasons.push(Reason { text: text.into(), effect, step: s.step });
        }
    }
    if s.hazard {
        s.step = Urgency::Now;
        s.reasons.push(Reason { text: "Someone can be hurt.".into(), effect: Effect::ToNow, step: s.step });
    }
    s
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::catalogue;
    use proptest::prelude::*;

    fn of(id: &str, facts: Facts) -> Suggestion {
        suggest(catalogue().get(id).unwrap(), &facts)
    }

    #[test]
    fn each_reason_moves_one_step() {
        let crack = "stucco-crack";
        assert_eq!(of(crack, Facts::default()).step, Urgency::ThisSeason);
        assert_eq!(of(crack, Facts { driving_rain: true, ..Facts::default() }).step, Urgency::BeforeNextRain);
        let both = of(crack, Facts { driving_rain: true, water_active: true, ..Facts::default() });
        assert_eq!((both.step, both.reasons.len()), (Urgency::Now, 3));
    }

    #[test]
    fn what_is_done_right_stays_on_record() {
        let s = of("gutter-ok", Facts { water_active: true, sensitive_behind: true, driving_rain: true, ..Facts::default() });
        assert_eq!(s.step, Urgency::Record);
        assert!(s.reasons[1..].iter().all(|r| r.effect == Effect::Stays));
    }

    #[test]
    fn a_worn_part_may_wait_unless_water_is_active() {
        let old = Facts { end_of_life: true, ..Facts::default() };
        assert_eq!(of("stucco-crack", old.clone()).step, Urgency::NextCycle);
        assert_eq!(of("stucco-crack", Facts { water_active: true, ..old }).step, Urgency::BeforeNextRain);
    }

    #[test]
    fn danger_to_people_is_always_now_and_can_be_denied_by_hand() {
        let trip = of("flatwork-settled", Facts::default());
        assert!(trip.hazard && trip.step == Urgency::Now);
        let no = of("flatwork-settled", Facts { hazard: Some(false), ..Facts::default() });
        assert!(!no.hazard && no.step == Urgency::ThisSeason);
    }

    #[test]
    fn reasons_read_as_sentences() {
        let s = of("downspout-at-wall", Facts { much_water: Some("41 m² of roof".into()), sensitive_behind: true, ..Facts::default() });
        let text: Vec<String> = s.reasons.iter().map(|r| format!("{} → {}", r.text, r.step.words())).collect();
        insta::assert_snapshot!(text.join("\n"), @"
        Downspout ends at wall starts at “This season”. → This season
        Much water arrives here: 41 m² of roof. → Before next rain
        What lies behind is sensitive: a finished room, structure or electrical equipment. → Now
        ");
    }

    proptest! {
        /// Knowing one thing more that speaks for haste never makes a finding later.
        #[test]
        fn more_water_is_never_later(row in 0_usize..170, a in any::<bool>(), b in any::<bool>(), c in any::<bool>(), more in 0..3) {
            let condition = &catalogue().rows()[row];
            let less = Facts { water_active: a, sensitive_behind: b, driving_rain: c, ..Facts::default() };
            let mut facts = less.clone();
            match more { 0 => facts.water_active = true, 1 => facts.sensitive_behind = true, _ => facts.driving_rain = true }
            prop_assert!(suggest(condition, &facts).step <= suggest(condition, &less).step);
        }

        /// The last reason's step is the step that is suggested.
        #[test]
        fn the_reasons_lead_to_the_step(row in 0_usize..170, a in any::<bool>(), b in any::<bool>(), c in any::<bool>(), d in any::<bool>(), h in any::<Option<bool>>()) {
            let facts = Facts { water_active: a, sensitive_behind: b, driving_rain: c, end_of_life: d, hazard: h, much_water: None };
            let s = suggest(&catalogue().rows()[row], &facts);
            prop_assert_eq!(s.reasons.last().unwrap().step, s.step);
            prop_assert!(!s.hazard || s.step == Urgency::Now);
        }
    }
}
