//! Every computation as JSON in, JSON out: the same for the command line and over HTTP.

use crate::ground::level::{LevelBook, LevelInput};
use crate::ground::rain_test::{RainTest, RainTestInput, Wanted};
use crate::ground::storm_calc::{StormInput, StormOut};
use crate::ground::surface_calc::{SurfaceFigures, SurfaceInput};
use crate::ground::survey::{GroundAccount, GroundInput};
use crate::ground::transect::{Transect, TransectInput};
use crate::gutter::channel::{Channel, ChannelInput};
use crate::gutter::downspout::{Downspout, DownspoutInput};
use crate::gutter::run::{Run, RunInput};
use crate::measure::{self, Measure};
use crate::moisture::air::{Air, AirInput, Wood, WoodInput};
use crate::moisture::drying::{Drying, DryingInput};
use crate::moisture::heat::{Heat, HeatInput};
use crate::moisture::map::{MapInput, MoistureMap};
use crate::rain::account::{RainAccount, RainAccountInput};
use crate::rain::design::{Rain, RainInput};
use crate::rain::overshoot::{Overshoot, OvershootInput};
use crate::rain::runoff::Runoff;
use crate::roof::access::{Access, AccessInput};
use crate::roof::account::{Account, AccountInput};
use crate::roof::life::{LifeInput, Weighed};
use crate::roof::perimeter::{Traverse, TraverseInput};
use crate::roof::pitch::{Pitch, PitchRead};
use crate::roof::shape::{RoofInput, RoofShape};
use crate::round::{self, Context, Reading, Walk, WalkInput};
use crate::storm::events::{WhichStormInput, WhichStormOut};
use crate::storm::hail::{HailInput, HailOut};
use crate::storm::hits::{HitInput, HitOut};
use crate::storm::wind::{WindInput, WindOut};
use crate::trace::form::{TraceInput, TraceOut};
use crate::trace::weigh::{WeighInput, WeighOut};
use crate::wall::account::{WallAccount, WallInput};
use crate::wall::laps::{LapsInput, LapsOut};
use crate::years::reserve::{ReserveInput, ReserveOut};
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
    #[error("There is no calculation called \"{0}\". There are: {names}.", names = names().join(", "))]
    Unknown(String),
    /// The input is not what it takes.
    #[error("The input cannot be read: {0}")]
    Input(String),
    /// The input was read, and has no answer.
    #[error("{0}")]
    Refused(String),
}

/// One calculation: command line, HTTP, the description of the interface and the help are made from it.
pub struct Calc {
    /// What it is called.
    pub name: &'static str,
    /// What it does, in a line.
    pub about: &'static str,
    run: fn(&str) -> Result<String, CalcError>,
    /// The forms of its input and output.
    #[cfg(feature = "schema")]
    pub describe: fn() -> Described,
}

/// The forms of a calculation's input and output, with every form they lead to.
#[cfg(feature = "schema")]
pub struct Described {
    /// Name of the input's form.
    pub input: String,
    /// Name of the output's form.
    pub output: String,
    /// Forms by name.
    pub schemas: Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::schema::Schema>)>,
}

#[cfg(feature = "schema")]
fn described<I: utoipa::ToSchema, O: utoipa::ToSchema>() -> Described {
    let mut schemas = vec![(I::name().into_owned(), I::schema()), (O::name().into_owned(), O::schema())];
    I::schemas(&mut schemas);
    O::schemas(&mut schemas);
    Described { input: I::name().into_owned(), output: O::name().into_owned(), schemas }
}

/// What is wrong with the input, in words.
fn refused(e: impl std::fmt::Display) -> CalcError {
    CalcError::Refused(e.to_string())
}

macro_rules! calcs {
    ($( $(#[doc = $about:literal])+ $name:literal = $fun:ident($input:ident: &$in:ty) -> $out:ty $body:block )*) => {
        $(
            $(#[doc = $about])+
            ///
            /// # Errors
            /// [`CalcError::Refused`] with what is wrong with which figure.
            pub fn $fun($input: &$in) -> Result<$out, CalcError> $body
        )*

        /// Every calculation.
        pub const CALCS: &[Calc] = &[$(
            Calc {
                name: $name,
                about: concat!($($about),+).trim_ascii(),
                run: |json| with(json, $fun),
                #[cfg(feature = "schema")]
                describe: described::<$in, $out>,
            },
        )*];
    };
}

calcs! {
    /// Reads one measure.
    "measure" = measure(input: &MeasureInput) -> Measure {
        measure::parse(&input.text).map_err(refused)
    }

    /// Reads a note line at a place.
    "note" = note(input: &NoteInput) -> Reading {
        input.context.place.check().map_err(refused)?;
        Ok(round::read(&input.line, &input.context))
    }

    /// Reads a whole walk.
    "round" = round(input: &WalkInput) -> Walk {
        round::read_walk(input).map_err(refused)
    }

    /// Works out a perimeter as it was taped.
    "traverse" = traverse(input: &TraverseInput) -> Traverse {
        crate::roof::perimeter::traverse(input).map_err(refused)
    }

    /// Works out the facets and edges of a roof.
    "roof" = roof(input: &RoofInput) -> RoofShape {
        crate::roof::shape::shape(input).map_err(refused)
    }

    /// Works out a pitch, however it was had.
    "pitch" = pitch(input: &PitchRead) -> Pitch {
        crate::roof::pitch::pitch(input).map_err(CalcError::Refused)
    }

    /// Decides whether to go up.
    "access" = access(input: &AccessInput) -> Access {
        crate::roof::access::access(input).map_err(CalcError::Refused)
    }

    /// Works out everything that follows from a roof as it is kept.
    "roof-account" = roof_account(input: &AccountInput) -> Account {
        input.roof.check().map_err(refused)?;
        Ok(crate::roof::account::account(input, &[]))
    }

    /// Weighs age and remaining life of a covering.
    "life" = life(input: &LifeInput) -> Weighed {
        crate::roof::life::weighed(input).map_err(refused)
    }

    /// Works out the intensity law of a place.
    "rain" = rain(input: &RainInput) -> Rain {
        crate::rain::design::rain(input).map_err(refused)
    }

    /// Works out where roof water goes.
    "runoff" = runoff(input: &RoofInput) -> Runoff {
        crate::rain::runoff::runoff(input).map_err(refused)
    }

    /// Works out how deep the water stands in a gutter.
    "gutter" = gutter(input: &ChannelInput) -> Channel {
        crate::gutter::channel::channel(input).map_err(CalcError::Refused)
    }

    /// Works out a gutter as it hangs: levels, several outlets, bursts.
    "gutter-run" = gutter_run(input: &RunInput) -> Run {
        crate::gutter::run::run(input).map_err(CalcError::Refused)
    }

    /// Works out what a downspout takes.
    "downspout" = downspout(input: &DownspoutInput) -> Downspout {
        crate::gutter::downspout::downspout(input).map_err(CalcError::Refused)
    }

    /// Works out everything that follows from rain, roof and gutters.
    "rainwater" = rainwater(input: &RainAccountInput) -> RainAccount {
        input.roof.check().and_then(|()| input.rainwater.check()).map_err(refused)?;
        Ok(crate::rain::account::rain_account(input))
    }

    /// Runs a storm over a grid of heights.
    "storm" = storm(input: &StormInput) -> StormOut {
        crate::ground::storm_calc::storm(input).map_err(CalcError::Refused)
    }

    /// Follows every drop down the laps of a wall detail.
    "laps" = laps(input: &LapsInput) -> LapsOut {
        crate::wall::laps::laps(input).map_err(refused)
    }

    /// Works out everything that follows from walls as they were met.
    "walls" = walls(input: &WallInput) -> WallAccount {
        input.walls.check().map_err(refused)?;
        Ok(crate::wall::account::wall_account(input))
    }

    /// Works out dew point, surface humidity and what wood comes to in this air.
    "air" = air(input: &AirInput) -> Air {
        crate::moisture::air::air(input).map_err(refused)
    }

    /// Corrects what pins show in wood for temperature and species.
    "wood-reading" = wood_reading(input: &WoodInput) -> Wood {
        crate::moisture::air::wood_reading(input).map_err(refused)
    }

    /// Judges moisture readings against dry references and maps them.
    "moisture-map" = moisture_map(input: &MapInput) -> MoistureMap {
        crate::moisture::map::map(input).map_err(refused)
    }

    /// Fits how one place dries over days.
    "drying" = drying(input: &DryingInput) -> Drying {
        crate::moisture::drying::drying(input).map_err(refused)
    }

    /// Finds what differs in a picture of heat.
    "heat" = heat(input: &HeatInput) -> Heat {
        crate::moisture::heat::heat(input).map_err(refused)
    }

    /// Traces wet spots back to where the water came in.
    "trace" = trace(input: &TraceInput) -> TraceOut {
        crate::trace::trace(input).map_err(refused)
    }

    /// Weighs a few explanations against what was observed.
    "weigh" = weigh(input: &WeighInput) -> WeighOut {
        crate::trace::weigh::weigh(input).map_err(refused)
    }

    /// Works out where water that leaves a roof's edge lands.
    "overshoot" = overshoot(input: &OvershootInput) -> Overshoot {
        crate::rain::overshoot::overshoot(input).map_err(CalcError::Refused)
    }

    /// Reduces a level book.
    "level" = level(input: &LevelInput) -> LevelBook {
        crate::ground::level::level(input).map_err(refused)
    }

    /// Works a transect of the ground out.
    "transect" = transect(input: &TransectInput) -> Transect {
        crate::ground::transect::transect(input).map_err(CalcError::Refused)
    }

    /// Works a surface out: what stands on it and what runs.
    "surface" = surface(input: &SurfaceInput) -> SurfaceFigures {
        crate::ground::surface_calc::surface(input).map_err(refused)
    }

    /// Works out everything that follows from the readings of the ground.
    "ground" = ground(input: &GroundInput) -> GroundAccount {
        checked(input)?;
        Ok(crate::ground::survey::survey(input).account)
    }

    /// Counts hits in test squares: rates with exact ranges, slopes compared, mending against renewing.
    "hail" = hail(input: &HailInput) -> HailOut {
        crate::storm::hail::hail(input).map_err(refused)
    }

    /// Counts what wind harmed: shares with exact ranges, corners and edges against the field, creases against the gust.
    "wind" = wind(input: &WindInput) -> WindOut {
        crate::storm::wind::wind(input).map_err(refused)
    }

    /// Tells a hit from what looks like one, by its signs.
    "hit" = hit(input: &HitInput) -> HitOut {
        crate::storm::hits::hit(input).map_err(CalcError::Refused)
    }

    /// Ranks the storms on record by what speaks for each.
    "which-storm" = which_storm(input: &WhichStormInput) -> WhichStormOut {
        crate::storm::events::which_storm(input).map_err(refused)
    }

    /// What to put by: yearly cost with its range, from what things cost and how long they may last.
    "reserve" = reserve(input: &ReserveInput) -> ReserveOut {
        crate::years::reserve::reserve(input).map_err(CalcError::Refused)
    }

    /// Runs one storm over a whole place.
    "rain-test" = rain_test(input: &RainTestInput) -> RainTest {
        checked(&input.place)?;
        let survey = crate::ground::survey::survey(&input.place);
        crate::ground::rain_test::rain_test(&survey, &input.place, Wanted { years: input.years, lasts: input.lasts }, &mut |_| true).map_err(refused)
    }
}

fn checked(input: &GroundInput) -> Result<(), CalcError> {
    input.roof.check().and_then(|()| input.rainwater.check()).and_then(|()| input.ground.check()).map_err(refused)
}

/// What the calculations are called.
pub fn names() -> Vec<&'static str> {
    CALCS.iter().map(|c| c.name).collect()
}

/// Runs a calculation by name.
///
/// # Errors
/// [`CalcError`] says in one line what is wrong.
pub fn run(name: &str, json: &str) -> Result<String, CalcError> {
    // A walk as text is no JSON: given as it is, it is the walk.
    if name == "round" && !json.trim_start().starts_with('{') {
        let input = WalkInput { walk: json.to_owned(), ..WalkInput::default() };
        return serde_json::to_string_pretty(&round(&input)?).map_err(refused);
    }
    let calc = CALCS.iter().find(|c| c.name == name).ok_or_else(|| CalcError::Unknown(name.chars().take(40).collect()))?;
    (calc.run)(json)
}

fn with<I: DeserializeOwned, O: Serialize>(json: &str, f: impl Fn(&I) -> Result<O, CalcError>) -> Result<String, CalcError> {
    let input = serde_json::from_str(json).map_err(|e| CalcError::Input(e.to_string()))?;
    serde_json::to_string_pretty(&f(&input)?).map_err(refused)
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
