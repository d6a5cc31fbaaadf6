//! Tracing as it is kept: where it is wet, when it was seen wet or dry, the rain record, tests, and what a person says of the list.

use super::form::{CandidateKind, RainHour, SeenAs, Shows, TestKind, Wetness};
use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use crate::moisture::record::Moisture;
use crate::moisture::surface::OnSurface;
use crate::roof::record::{RoofError, own_name};
use jiff::ToSpan;
use jiff::civil::{Date, DateTime};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// More than anybody keeps of one building.
const MOST: usize = 200;
const MOST_HOURS: usize = 9000;

/// A wet spot.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SpotKept {
    /// Short and lasting: S1, S2 …
    pub id: String,
    /// "stain in the treatment room".
    pub name: String,
    /// Where.
    pub at: OnSurface,
    /// How it shows.
    pub shows: Shows,
    /// Since when, in words.
    #[serde(default)]
    pub since: String,
}

/// Hourly rain and wind, with where it is from.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct RainKept {
    /// Who gave it; says so when it is simulated.
    pub source: String,
    /// From when it knows.
    pub from: String,
    /// Until when.
    pub until: String,
    /// Hours with rain or wind; what is not listed was dry and calm.
    pub hours: Vec<RainHour>,
    /// Stretches it knows nothing of.
    pub holes: Vec<[String; 2]>,
}

/// A time somebody saw a spot.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SeenKept {
    /// Short and lasting.
    pub id: String,
    /// Which spot.
    pub spot: String,
    /// When, as 2026-11-18T10:00.
    pub at: String,
    /// Wet or dry.
    pub state: Wetness,
}

/// A test that was made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TestKept {
    /// Short and lasting.
    pub id: String,
    /// What kind.
    pub kind: TestKind,
    /// On which candidate.
    pub candidate: String,
    /// For how long, minutes.
    pub minutes: f64,
    /// Which spot was watched.
    pub spot: String,
    /// What it showed there.
    pub result: Wetness,
    /// What lies below was tested dry or covered first.
    #[serde(default)]
    pub cleared_below: bool,
}

/// What a person says of a candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CandidateAnswer {
    /// Which.
    pub candidate: String,
    /// How it stands, where that differs from what the benches say.
    #[serde(default)]
    pub state: Option<SeenAs>,
    /// Why it is struck off the list; empty while it stands.
    #[serde(default)]
    pub struck: String,
    /// What mending it takes, minutes; the usual figure where nothing is said.
    #[serde(default)]
    pub repair_minutes: Option<f64>,
}

/// A candidate that no bench knows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AddedCandidate {
    /// Short and lasting: C1, C2 …
    pub id: String,
    /// What it is.
    pub kind: CandidateKind,
    /// What it is called.
    pub name: String,
    /// Where.
    pub at: OnSurface,
    /// How it stands.
    pub state: SeenAs,
}

/// Tracing of a job.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Trace {
    /// Where it is wet.
    pub spots: Vec<SpotKept>,
    /// The rain.
    pub rain: RainKept,
    /// When it was seen.
    pub seen: Vec<SeenKept>,
    /// What was tried.
    pub tests: Vec<TestKept>,
    /// What is said of candidates.
    pub answers: Vec<CandidateAnswer>,
    /// What was put on the list by hand.
    pub added: Vec<AddedCandidate>,
}

fn time(what: &str, t: &str) -> Result<(), String> {
    t.parse::<DateTime>().map(|_| ()).map_err(|_| format!("{what}: \u{201c}{t}\u{201d} is no date and time. Write it as 2026-11-18T10:00."))
}

impl Trace {
    /// Checks what can be checked of it with the rooms that are kept.
    ///
    /// # Errors
    /// The field that is wrong, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        let err = |field: String, message: String| Err(RoofError { field, message });
        if [self.spots.len(), self.seen.len(), self.tests.len(), self.answers.len(), self.added.len()].iter().any(|n| *n > MOST) {
            return err("spots".into(), format!("That is more than one job keeps here; the most of each is {MOST}."));
        }
        if self.rain.hours.len() > MOST_HOURS || self.rain.holes.len() > MOST {
            return err("rain.hours".into(), format!("The record has more than {MOST_HOURS} hours. Ask for a shorter time."));
        }
        let mut ids = BTreeSet::new();
        let mut own = |of: &str, id: &str| own_name(&mut ids, of, id);
        for s in &self.spots {
            own("spots", &s.id)?;
            if s.name.trim().is_empty() {
                return err(format!("spots.{}.name", s.id), "Give the spot a name: where it is, in a few words.".into());
            }
            for (part, text) in [("name", &s.name), ("since", &s.since)] {
                if let Some(m) = too_long(text, LONG_TEXT) {
                    return err(format!("spots.{}.{part}", s.id), m);
                }
            }
            s.at.read().map_err(|(part, m)| RoofError { field: format!("spots.{}.at.{part}", s.id), message: m })?;
        }
        let spot = |id: &str| self.spots.iter().any(|s| s.id == id);
        for s in &self.seen {
            own("seen", &s.id)?;
            time("The sighting", &s.at).map_err(|m| RoofError { field: format!("seen.{}.at", s.id), message: m })?;
            if !spot(&s.spot) {
                return err(format!("seen.{}.spot", s.id), format!("There is no spot called {}.", s.spot));
            }
            if let Some(o) = self.seen.iter().find(|o| o.spot == s.spot && o.at == s.at && o.state != s.state) {
                let m = format!("{} was seen both wet and dry at {}. Keep the one that is right.", s.spot, o.at.replace('T', " "));
                return err(format!("seen.{}.state", s.id), m);
            }
        }
        for t in &self.tests {
            own("tests", &t.id)?;
            if !spot(&t.spot) {
                return err(format!("tests.{}.spot", t.id), format!("There is no spot called {}.", t.spot));
            }
            if !(0.0..=1440.0).contains(&t.minutes) {
                return err(format!("tests.{}.minutes", t.id), format!("{} minutes: a day has 1440.", t.minutes));
            }
            if let Some(m) = too_long(&t.candidate, LONG_TEXT) {
                return err(format!("tests.{}.candidate", t.id), m);
            }
        }
        for a in &self.answers {
            own("answers", &a.candidate)?;
            if let Some(m) = too_long(&a.struck, LONG_TEXT) {
                return err(format!("answers.{}.struck", a.candidate), m);
            }
            if a.repair_minutes.is_some_and(|m| !(m > 0.0 && m <= 100_000.0)) {
                return err(
                    format!("answers.{}.repair_minutes", a.candidate),
                    "Type what mending takes, in minutes, more than nought.".into(),
                );
            }
        }
        for c in &self.added {
            own("added", &c.id)?;
            if c.name.trim().is_empty() || too_long(&c.name, SHORT_TEXT).is_some() {
                return err(format!("added.{}.name", c.id), "Say in a few words what it is.".into());
            }
            c.at.read().map_err(|(part, m)| RoofError { field: format!("added.{}.at.{part}", c.id), message: m })?;
        }
        for h in &self.rain.hours {
            time("The hour of rain", &h.t).map_err(|m| RoofError { field: "rain.hours".into(), message: m })?;
            if !(0.0..=310.0).contains(&h.mm) || !(0.0..=90.0).contains(&h.wind_m_s) || !(0.0..=360.0).contains(&h.wind_from_deg) {
                return err(
                    "rain.hours".into(),
                    format!("The hour of {} has {} mm, {} m/s from {}°, which cannot be.", h.t, h.mm, h.wind_m_s, h.wind_from_deg),
                );
            }
        }
        for t in self.rain.holes.iter().flatten().chain([&self.rain.from, &self.rain.until].into_iter().filter(|t| !t.is_empty())) {
            time("The rain record", t).map_err(|m| RoofError { field: "rain.from".into(), message: m })?;
        }
        Ok(())
    }

    /// The days from the first to the last that the record or a sighting names, as many of the last as can be told apart in a drawing.
    #[must_use]
    pub fn days(&self) -> Vec<String> {
        const MOST: usize = 120;
        let of = |t: &String| t.get(..10).and_then(|d| d.parse::<Date>().ok());
        let all = self.rain.hours.iter().map(|h| &h.t).chain(self.seen.iter().map(|s| &s.at)).filter_map(of);
        let (Some(first), Some(last)) = (all.clone().min(), all.max()) else { return vec![] };
        let mut out = vec![];
        let mut day = last;
        while day >= first && out.len() < MOST {
            out.push(day.to_string());
            let Ok(before) = day.checked_sub(1.day()) else { break };
            day = before;
        }
        out.reverse();
        out
    }

    /// Checks places in rooms against the rooms that are kept.
    ///
    /// # Errors
    /// The place that is nowhere.
    pub fn check_against(&self, rooms: &Moisture) -> Result<(), RoofError> {
        let spots = self.spots.iter().map(|s| ("spots", &s.id, &s.at));
        for (of, id, at) in spots.chain(self.added.iter().map(|c| ("added", &c.id, &c.at))) {
            at.check(rooms).map_err(|(part, message)| RoofError { field: format!("{of}.{id}.at.{part}"), message })?;
        }
        Ok(())
    }
}
