//! The weather office: how hard it rains at a place, by return period.

use super::record::{RainRecord, recorded};
use super::storms::{StormRecord, storms};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::ToSchema;

/// A row of the intensity table.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct IntensityRow {
    /// Once in so many years.
    pub years: f64,
    /// Over 5 minutes, mm/h.
    pub i5_mm_h: f64,
    /// Over 60 minutes, mm/h.
    pub i60_mm_h: f64,
}

/// What the office said.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct IntensityTable {
    /// The table; empty when it has none for the place, or did not answer.
    pub rows: Vec<IntensityRow>,
    /// In words, with what to do.
    pub words: String,
    /// Where it is from; always says when it is simulated.
    pub source: String,
    /// It is not real.
    pub simulated: bool,
}

/// An office that keeps rain records.
pub trait WeatherOffice: Send + Sync {
    /// The intensity table of a place. May take its time: not to be called where others wait.
    fn intensities(&self, address: &str) -> IntensityTable;
    /// Hourly rain and wind of a place between two days. May take its time.
    fn record(&self, address: &str, from: Date, until: Date) -> RainRecord;
    /// Storms with hail or hard wind near a place between two days. May take its time.
    fn storms(&self, address: &str, from: Date, until: Date) -> StormRecord;
}

/// The stand-in that ships with the application.
#[derive(Debug)]
pub struct SimulatedWeather {
    delay: Duration,
}

pub(crate) const SOURCE: &str = "Simulated weather office of Ostermoor";
/// The demo town's table; invented.
const TABLE: [IntensityRow; 2] =
    [IntensityRow { years: 10.0, i5_mm_h: 132.0, i60_mm_h: 34.0 }, IntensityRow { years: 100.0, i5_mm_h: 196.0, i60_mm_h: 52.0 }];

impl SimulatedWeather {
    /// The office, answering after `delay`.
    pub fn new(delay: Duration) -> SimulatedWeather {
        SimulatedWeather { delay }
    }
}

impl WeatherOffice for SimulatedWeather {
    fn intensities(&self, address: &str) -> IntensityTable {
        let say = |rows: Vec<IntensityRow>, words: &str| IntensityTable {
            rows,
            words: words.to_owned(),
            source: SOURCE.to_owned(),
            simulated: true,
        };
        std::thread::sleep(self.delay);
        let place = address.to_lowercase();
        if place.contains("weir cottages") {
            // The line to this district is down.
            std::thread::sleep(self.delay * 2);
            return say(vec![], "The office did not answer. Enter the figures of the local table.");
        }
        if place.contains("ostermoor") {
            say(TABLE.to_vec(), "Intensities for Ostermoor.")
        } else {
            say(vec![], "The office keeps no table for this place. Enter the local figures.")
        }
    }

    fn record(&self, address: &str, from: Date, until: Date) -> RainRecord {
        std::thread::sleep(self.delay);
        let place = address.to_lowercase();
        let none = |words: &str| RainRecord { hours: vec![], holes: vec![], words: words.to_owned(), ..recorded(until, until) };
        if place.contains("weir cottages") {
            std::thread::sleep(self.delay * 2);
            return none("The office did not answer. Ask again later; until then place, state and tests speak alone.");
        }
        if place.contains("ostermoor") {
            recorded(from, until)
        } else {
            none("The office keeps no record for this place. Place, state and tests speak alone.")
        }
    }

    fn storms(&self, address: &str, from: Date, until: Date) -> StormRecord {
        std::thread::sleep(self.delay);
        let place = address.to_lowercase();
        let none = |words: &str| StormRecord { storms: vec![], words: words.to_owned(), source: SOURCE.to_owned(), simulated: true };
        if place.contains("weir cottages") {
            std::thread::sleep(self.delay * 2);
            return none("The office did not answer. Ask again later, or enter the storms people speak of.");
        }
        if place.contains("ostermoor") {
            storms(SOURCE, from, until)
        } else {
            none("The office keeps no storms for this place. Enter those people speak of, with who says so.")
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_record_names_its_hole_and_keeps_to_the_days_that_are_asked() {
        let office = SimulatedWeather::new(Duration::ZERO);
        let day = |m, d| jiff::civil::date(2026, m, d);
        let all = office.record("14 Tannery Lane, Ostermoor", day(10, 1), day(11, 17));
        assert!(all.simulated && all.hours.len() > 80 && all.holes.len() == 1);
        assert!(all.hours.iter().all(|h| h.t.as_str() < "2026-10-15T20:00" || h.t.as_str() >= "2026-10-16T09:00"), "nothing in the hole");
        assert!(office.record("Ostermoor", day(11, 1), day(11, 2)).hours.iter().all(|h| h.t.starts_with("2026-11-0")));
        assert!(office.record("elsewhere", day(10, 1), day(11, 1)).hours.is_empty());
    }

    #[test]
    fn the_town_is_known_and_nothing_else() {
        let office = SimulatedWeather::new(Duration::ZERO);
        let here = office.intensities("14 Tannery Lane, Ostermoor");
        assert!(here.simulated && here.rows.len() == 2 && here.rows[0].i5_mm_h > here.rows[0].i60_mm_h);
        assert!(here.rows[1].i5_mm_h > here.rows[0].i5_mm_h, "rarer rain is harder");
        assert!(office.intensities("elsewhere").rows.is_empty());
        assert!(office.intensities("2 Weir Cottages, Ostermoor").words.contains("did not answer"));
    }
}
