//! The weather office's list of storms: hail as people reported it, gusts as the mast measured them.

use jiff::civil::{Date, date};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A storm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RecordedStorm {
    /// Its day.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// Largest hail that was reported, mm; none when none was.
    pub hail_mm: Option<f64>,
    /// Strongest gust, m/s.
    pub gust_m_s: Option<f64>,
    /// Where it came from, degrees.
    pub from_deg: Option<f64>,
    /// How far off its track passed, km.
    pub km: f64,
}

/// What the office has.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StormRecord {
    /// Storms, the latest first; empty when it has none, or did not answer.
    pub storms: Vec<RecordedStorm>,
    /// In words, with what to do.
    pub words: String,
    /// Where it is from; says that it is simulated.
    pub source: String,
    /// It is not real.
    pub simulated: bool,
}

/// Day, hail mm, gust m/s, from where, km off; invented. Nought stands for what was not reported.
const STORMS: [(Date, f64, f64, f64, f64); 7] = [
    (date(2026, 10, 7), 28.0, 26.0, 185.0, 1.5),
    (date(2026, 6, 19), 25.0, 17.0, 250.0, 3.0),
    (date(2026, 2, 11), 0.0, 31.0, 240.0, 0.0),
    (date(2025, 7, 30), 12.0, 15.0, 40.0, 6.0),
    (date(2024, 5, 23), 35.0, 21.0, 320.0, 14.0),
    (date(2022, 8, 4), 18.0, 24.0, 205.0, 2.0),
    (date(2019, 6, 28), 22.0, 19.0, 60.0, 4.0),
];

/// The storms of the demo town between two days.
pub(crate) fn storms(source: &str, from: Date, until: Date) -> StormRecord {
    let known = |x: f64| (x > 0.0).then_some(x);
    let storms: Vec<RecordedStorm> = STORMS
        .into_iter()
        .filter(|(on, ..)| (from..=until).contains(on))
        .map(|(on, hail, gust, deg, km)| RecordedStorm { on, hail_mm: known(hail), gust_m_s: known(gust), from_deg: known(deg), km })
        .collect();
    let words =
        if storms.is_empty() { "The office has no storm in these years." } else { "Storms near Ostermoor. Hail is as people reported it." };
    StormRecord { storms, words: words.into(), source: source.to_owned(), simulated: true }
}

#[cfg(test)]
mod tests {
    use crate::{SimulatedWeather, WeatherOffice};
    use jiff::civil::date;
    use std::time::Duration;

    #[test]
    fn the_office_keeps_to_the_years_that_are_asked_and_to_its_town() {
        let office = SimulatedWeather::new(Duration::ZERO);
        let all = office.storms("Lake Road, Ostermoor", date(2016, 1, 1), date(2026, 11, 25));
        assert!(all.simulated && all.storms.len() == super::STORMS.len());
        assert!(all.storms.windows(2).all(|w| w[0].on > w[1].on), "the latest first");
        assert!(
            office.storms("Ostermoor", date(2026, 1, 1), date(2026, 9, 1)).storms.iter().all(|s| s.on.year() == 2026 && s.on.month() < 9)
        );
        assert!(office.storms("elsewhere", date(2016, 1, 1), date(2026, 11, 25)).storms.is_empty());
        assert!(office.storms("2 Weir Cottages, Ostermoor", date(2016, 1, 1), date(2026, 11, 25)).words.contains("did not answer"));
    }
}
