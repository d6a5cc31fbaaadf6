//! Every computation as JSON in, JSON out: the same for the command line and over HTTP.

use crate::ground::level::{LevelBook, LevelInput};
use crate::ground::rain_test::{RainTest, RainTestInput};
use crate::ground::surface_calc::{SurfaceFigures, SurfaceInput};
use crate::ground::survey::{GroundAccount, GroundInput};
use crate::ground::transect::{Transect, TransectInput};
use crate::gutter::channel::{Channel, ChannelInput};
use crate::gutter::downspout::{Downspout, DownspoutInput};
use crate::gutter::run::{Run, RunInput};
use crate::measure::{self, Measure};
use crate::rain::account::{RainAccount, RainAccountInput};
use crate::rain::design::{Rain, RainInput};
use crate::rain::overshoot::{Overshoot, OvershootInput};
use crate::rain::runoff::Runoff;
use crate::roof::access::{Access, AccessInput};
use crate::roof::account::{Account, AccountInput};
use crate::roof::life::{Life, LifeInput};
use crate::roof::perimeter::{Traverse, TraverseInput};
use crate::roof::pitch::{Pitch, PitchRead};
use crate::roof::shape::{RoofInput, RoofShape};
use crate::round::{self, Context, Reading, Walk, WalkInput};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

/// Input of `measure`.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MeasureInput {
    /// One measure as typed.
    pub text: String,
}

/// Input of `note`.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NoteInput {
    /// The line as typed.
    pub line: String,
    /// The place that is set, and the front's direction.
    #[serde(flatten)]
    pub context: Context,
}

/// Why a calculation gave nothing.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CalcError {
    /// No calculation has this name.
    #[error("There is no calculation called \"{0}\". There are: {names}.", names = NAMES.join(", "))]
    Unknown(String),
    /// The input is not what it takes.
    #[error("The input cannot be read: {0}")]
    Input(String),
    /// The input was read, and has no answer.
    #[error("{0}")]
    Refused(String),
}

/// The calculations there are.
pub const NAMES: [&str; 21] = [
    "measure",
    "note",
    "round",
    "traverse",
    "roof",
    "pitch",
    "access",
    "roof-account",
    "life",
    "rain",
    "runoff",
    "gutter",
    "gutter-run",
    "downspout",
    "rainwater",
    "overshoot",
    "level",
    "transect",
    "surface",
    "ground",
    "rain-test",
];

/// Reads one measure.
///
/// # Errors
/// [`CalcError::Refused`] with what is wrong with the text.
pub fn measure(input: &MeasureInput) -> Result<Measure, CalcError> {
    measure::parse(&input.text).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Reads a note line at a place.
///
/// # Errors
/// [`CalcError::Refused`] when the place cannot be.
pub fn note(input: &NoteInput) -> Result<Reading, CalcError> {
    input.context.place.check().map_err(|e| CalcError::Refused(e.to_string()))?;
    Ok(round::read(&input.line, &input.context))
}

/// Reads a whole walk.
///
/// # Errors
/// [`CalcError::Refused`] when there is nothing to read.
pub fn round(input: &WalkInput) -> Result<Walk, CalcError> {
    round::read_walk(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out a perimeter as it was taped.
///
/// # Errors
/// [`CalcError::Refused`] for a walk that no building has.
pub fn traverse(input: &TraverseInput) -> Result<Traverse, CalcError> {
    crate::roof::perimeter::traverse(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out the facets and edges of a roof.
///
/// # Errors
/// [`CalcError::Refused`] for masses that cannot be built.
pub fn roof(input: &RoofInput) -> Result<RoofShape, CalcError> {
    crate::roof::shape::shape(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out a pitch, however it was had.
///
/// # Errors
/// [`CalcError::Refused`] with what is wrong with the figures.
pub fn pitch(input: &PitchRead) -> Result<Pitch, CalcError> {
    crate::roof::pitch::pitch(input).map_err(CalcError::Refused)
}

/// Decides whether to go up.
///
/// # Errors
/// [`CalcError::Refused`] for figures that cannot be.
pub fn access(input: &AccessInput) -> Result<Access, CalcError> {
    crate::roof::access::access(input).map_err(CalcError::Refused)
}

/// Works out everything that follows from a roof as it is kept.
///
/// # Errors
/// [`CalcError::Refused`] for a roof that cannot be kept.
pub fn roof_account(input: &AccountInput) -> Result<Account, CalcError> {
    input.roof.check().map_err(|e| CalcError::Refused(e.to_string()))?;
    Ok(crate::roof::account::account(input, &[]))
}

/// Weighs age and remaining life of a covering.
///
/// # Errors
/// [`CalcError::Refused`] when the pieces cannot be true together.
pub fn life(input: &LifeInput) -> Result<Life, CalcError> {
    crate::roof::life::life(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out the intensity law of a place.
///
/// # Errors
/// [`CalcError::Refused`] for figures that make none.
pub fn rain(input: &RainInput) -> Result<Rain, CalcError> {
    crate::rain::design::rain(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out where roof water goes.
///
/// # Errors
/// [`CalcError::Refused`] for masses that cannot be built.
pub fn runoff(input: &RoofInput) -> Result<Runoff, CalcError> {
    crate::rain::runoff::runoff(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out how deep the water stands in a gutter.
///
/// # Errors
/// [`CalcError::Refused`] with what is wrong with which figure.
pub fn gutter(input: &ChannelInput) -> Result<Channel, CalcError> {
    crate::gutter::channel::channel(input).map_err(CalcError::Refused)
}

/// Works out a gutter as it hangs: levels, several outlets, bursts.
///
/// # Errors
/// [`CalcError::Refused`] with what is wrong with which figure.
pub fn gutter_run(input: &RunInput) -> Result<Run, CalcError> {
    crate::gutter::run::run(input).map_err(CalcError::Refused)
}

/// Works out where water that leaves a roof's edge lands.
///
/// # Errors
/// [`CalcError::Refused`] for what cannot be.
pub fn overshoot(input: &OvershootInput) -> Result<Overshoot, CalcError> {
    crate::rain::overshoot::overshoot(input).map_err(CalcError::Refused)
}

/// Reduces a level book.
///
/// # Errors
/// [`CalcError::Refused`] names the line.
pub fn level(input: &LevelInput) -> Result<LevelBook, CalcError> {
    crate::ground::level::level(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works a transect of the ground out.
///
/// # Errors
/// [`CalcError::Refused`] for what cannot be.
pub fn transect(input: &TransectInput) -> Result<Transect, CalcError> {
    crate::ground::transect::transect(input).map_err(CalcError::Refused)
}

/// Works a surface out: what stands on it and what runs.
///
/// # Errors
/// [`CalcError::Refused`] for readings no surface goes through.
pub fn surface(input: &SurfaceInput) -> Result<SurfaceFigures, CalcError> {
    crate::ground::surface_calc::surface(input).map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out everything that follows from the readings of the ground.
///
/// # Errors
/// [`CalcError::Refused`] for what cannot be kept.
pub fn ground(input: &GroundInput) -> Result<GroundAccount, CalcError> {
    checked(input)?;
    Ok(crate::ground::survey::survey(input).account)
}

/// Runs one storm over a whole place.
///
/// # Errors
/// [`CalcError::Refused`] for what cannot be kept, and while there is no surface or no rain.
pub fn rain_test(input: &RainTestInput) -> Result<RainTest, CalcError> {
    checked(&input.place)?;
    let survey = crate::ground::survey::survey(&input.place);
    crate::ground::rain_test::rain_test(&survey, &input.place, input.years, &mut |_| true).map_err(|e| CalcError::Refused(e.to_string()))
}

fn checked(input: &GroundInput) -> Result<(), CalcError> {
    let all = input.roof.check().and_then(|()| input.rainwater.check()).and_then(|()| input.ground.check());
    all.map_err(|e| CalcError::Refused(e.to_string()))
}

/// Works out everything that follows from rain, roof and gutters.
///
/// # Errors
/// [`CalcError::Refused`] for what cannot be kept.
pub fn rainwater(input: &RainAccountInput) -> Result<RainAccount, CalcError> {
    input.roof.check().and_then(|()| input.rainwater.check()).map_err(|e| CalcError::Refused(e.to_string()))?;
    Ok(crate::rain::account::rain_account(input))
}

/// Works out what a downspout takes.
///
/// # Errors
/// [`CalcError::Refused`] with what is wrong with which figure.
pub fn downspout(input: &DownspoutInput) -> Result<Downspout, CalcError> {
    crate::gutter::downspout::downspout(input).map_err(CalcError::Refused)
}

/// Runs a calculation by name.
///
/// # Errors
/// [`CalcError`] says in one line what is wrong.
pub fn run(name: &str, json: &str) -> Result<String, CalcError> {
    match name {
        "measure" => with(json, measure),
        "note" => with(json, note),
        // A walk as text is no JSON: given as it is, it is the walk.
        "round" if !json.trim_start().starts_with('{') => {
            let input = WalkInput { walk: json.to_owned(), front: None, place: None, own_words: vec![] };
            serde_json::to_string_pretty(&round(&input)?).map_err(|e| CalcError::Refused(e.to_string()))
        }
        "round" => with(json, round),
        "traverse" => with(json, traverse),
        "roof" => with(json, roof),
        "pitch" => with(json, pitch),
        "access" => with(json, access),
        "roof-account" => with(json, roof_account),
        "life" => with(json, life),
        "rain" => with(json, rain),
        "runoff" => with(json, runoff),
        "gutter" => with(json, gutter),
        "gutter-run" => with(json, gutter_run),
        "rainwater" => with(json, rainwater),
        "overshoot" => with(json, overshoot),
        "level" => with(json, level),
        "transect" => with(json, transect),
        "surface" => with(json, surface),
        "ground" => with(json, ground),
        "rain-test" => with(json, rain_test),
        "downspout" => with(json, downspout),
        other => Err(CalcError::Unknown(other.chars().take(40).collect())),
    }
}

fn with<I: DeserializeOwned, O: Serialize>(json: &str, f: impl Fn(&I) -> Result<O, CalcError>) -> Result<String, CalcError> {
    let input = serde_json::from_str(json).map_err(|e| CalcError::Input(e.to_string()))?;
    serde_json::to_string_pretty(&f(&input)?).map_err(|e| CalcError::Refused(e.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_measure_as_json() {
        insta::assert_snapshot!(run("measure", r#"{"text":"6 1/2\""}"#).unwrap(), @r#"
        {
          "quantity": "length",
          "value": 6.5,
          "exact": "13/2",
          "unit": "in",
          "si": 0.1651,
          "bound": "exactly",
          "unit_assumed": false,
          "rule": false,
          "text": "6 1/2\""
        }
        "#);
    }

    #[test]
    fn a_note_at_a_place_as_json() {
        let out = run("note", r#"{"line":"torn boot","place":{"face":"rear","zone":"roof"}}"#).unwrap();
        let r: Reading = serde_json::from_str(&out).unwrap();
        assert_eq!(r.notes[0].condition.as_deref(), Some("pipe-boot-torn"));
    }

    #[test]
    fn bad_input_is_one_clear_line() {
        for (name, json) in [
            ("mesure", "{}"),
            ("measure", "{"),
            ("measure", r#"{"txt":1}"#),
            ("measure", r#"{"text":"blue"}"#),
            ("note", r#"{"line":"x","place":{"zone":"roof"}}"#),
        ] {
            let line = run(name, json).unwrap_err().to_string();
            assert!(!line.contains('\n') && line.len() > 20, "{line}");
        }
    }
}
