//! Small simulated stand-ins for what is outside: offices that answer questions, instruments that give readings.
//!
//! Each is a trait with a simulated implementation that ships with the application, and each answer says that it is
//! simulated. They are slow, silent or wrong now and then, as the real ones are.

mod altimeter;
mod meters;
mod post;
mod record;
mod records;
mod storms;
mod weather;

pub use altimeter::{Altimeter, AltimeterReading, AltimeterState, SimulatedAltimeter, slope_stick_percent};
pub use meters::{AirShown, MeterReading, MeterScale, MeterState, Meters, SimulatedMeters};
pub use post::{Letter, PostError, PostOffice, SimulatedPost};
pub use record::{RainRecord, RecordedHour};
pub use records::{Lookup, Outcome, Permit, RecordsOffice, SimulatedRecords};
pub use storms::{RecordedStorm, StormRecord};
pub use weather::{IntensityRow, IntensityTable, SimulatedWeather, WeatherOffice};
