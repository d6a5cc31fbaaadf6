//! The weather office's hourly record: rain and wind, with the hours in which its gauge was out.

use super::weather::SOURCE;
use jiff::ToSpan;
use jiff::civil::{Date, DateTime, date};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// An hour.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RecordedHour {
    /// When it begins.
    pub t: String,
    /// Rain, mm.
    pub mm: f64,
    /// Mean wind, m/s.
    pub wind_m_s: f64,
    /// Where it comes from, degrees.
    pub wind_from_deg: f64,
}

/// What the office has.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RainRecord {
    /// Hours with rain or wind; empty when it has none for the place, or did not answer.
    pub hours: Vec<RecordedHour>,
    /// Stretches without a record.
    pub holes: Vec<[String; 2]>,
    /// From when.
    pub from: String,
    /// Until when.
    pub until: String,
    /// In words, with what to do.
    pub words: String,
    /// Where it is from; says that it is simulated.
    pub source: String,
    /// It is not real.
    pub simulated: bool,
}

/// A spell of weather: day and hour it begins, hours, mm in each, wind m/s, from where.
type Spell = (i8, i8, i8, i64, f64, f64, f64);
/// The demo town's autumn of 2026; invented. Long rain with wind from the south-west, cloudbursts in still air, and what lies between.
const AUTUMN: [Spell; 22] = [
    (9, 22, 4, 9, 1.4, 8.0, 225.0),
    (9, 25, 17, 1, 17.0, 2.5, 90.0),
    (9, 29, 1, 7, 0.8, 3.5, 340.0),
    (10, 2, 9, 11, 1.8, 9.0, 220.0),
    (10, 6, 15, 2, 11.0, 2.0, 120.0),
    (10, 9, 22, 6, 0.7, 4.0, 10.0),
    (10, 12, 3, 10, 1.5, 10.5, 230.0),
    (10, 15, 13, 4, 0.5, 3.2, 300.0),
    (10, 18, 18, 1, 21.0, 3.0, 80.0),
    (10, 21, 6, 8, 1.1, 7.0, 215.0),
    (10, 24, 10, 5, 0.6, 4.5, 30.0),
    (10, 27, 2, 13, 1.9, 11.0, 222.0),
    (10, 30, 20, 1, 14.0, 2.0, 140.0),
    (11, 1, 8, 6, 0.9, 3.6, 350.0),
    (11, 4, 5, 12, 1.6, 9.5, 228.0),
    (11, 6, 16, 1, 19.0, 2.2, 100.0),
    (11, 8, 11, 5, 0.6, 4.0, 320.0),
    (11, 10, 21, 9, 1.7, 10.0, 218.0),
    (11, 12, 14, 3, 0.7, 3.0, 60.0),
    (11, 14, 4, 10, 1.5, 9.0, 224.0),
    (11, 15, 17, 1, 16.0, 2.4, 110.0),
    (11, 17, 6, 12, 1.4, 9.0, 226.0),
];
/// The gauge was out.
const OUT: (DateTime, DateTime) = (date(2026, 10, 15).at(20, 0, 0, 0), date(2026, 10, 16).at(9, 0, 0, 0));

/// What the demo town's gauge wrote between two days.
pub(crate) fn recorded(from: Date, until: Date) -> RainRecord {
    let (a, z) = (from.at(0, 0, 0, 0), until.at(23, 59, 0, 0));
    let mut hours = Vec::new();
    for (month, day, hour, long, mm, wind, deg) in AUTUMN {
        let begins = date(2026, month, day).at(hour, 0, 0, 0);
        for k in 0..long {
            let t = begins.saturating_add(k.hours());
            if t < a || t > z || (t >= OUT.0 && t < OUT.1) {
                continue;
            }
            // It swells and falls off, and the wind veers a little.
            let part = (k as f64 + 0.5) / long as f64;
            let swell = 0.6 + 0.8 * (std::f64::consts::PI * part).sin();
            hours.push(RecordedHour {
                t: t.strftime("%Y-%m-%dT%H:00").to_string(),
                mm: (mm * swell * 10.0).round() / 10.0,
                wind_m_s: (wind * (0.85 + 0.3 * part) * 10.0).round() / 10.0,
                wind_from_deg: (deg + 12.0 * (part - 0.5)).rem_euclid(360.0).round(),
            });
        }
    }
    let holes = if OUT.0 >= a && OUT.0 <= z { vec![[OUT.0, OUT.1].map(|t| t.strftime("%Y-%m-%dT%H:00").to_string())] } else { vec![] };
    let words = if hours.is_empty() { "The office has no rain in these days." } else { "Hourly rain and wind of Ostermoor." };
    RainRecord {
        hours,
        holes,
        from: a.strftime("%Y-%m-%dT%H:%M").to_string(),
        until: z.strftime("%Y-%m-%dT%H:%M").to_string(),
        words: words.into(),
        source: SOURCE.into(),
        simulated: true,
    }
}
