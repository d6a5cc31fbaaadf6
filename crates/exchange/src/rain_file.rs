//! A rain record as a table: one row for each reading of a gauge, with a head that names time, rain and, where it has one, the wind.

use envelope::trace::form::RainHour;
use envelope::trace::record::RainKept;
use jiff::civil::DateTime;
use jiff::{ToSpan, Unit};
use std::collections::BTreeMap;
use std::io::Read;

/// Rows of a file: a year of five-minute readings.
const MOST_ROWS: usize = 110_000;
/// More falls in no hour anywhere, mm.
const MOST_MM: f64 = 400.0;
/// No wind is stronger, m/s.
const MOST_WIND: f64 = 120.0;

/// Which column is which, by the beginning of its head.
struct Columns {
    time: usize,
    rain: usize,
    rain_to_mm: f64,
    wind: Option<(usize, f64)>,
    from: Option<usize>,
}

fn columns(head: &csv::StringRecord) -> Result<Columns, String> {
    let names: Vec<String> = head.iter().map(|h| h.trim().trim_start_matches('\u{feff}').to_lowercase()).collect();
    let at = |begins: &[&str]| names.iter().position(|n| begins.iter().any(|b| n.starts_with(b)));
    let missing =
        |what: &str, example: &str| format!("No column is headed as {what}. Name it in the first row, as \u{201c}{example}\u{201d}.");
    let time = at(&["time", "date", "hour"]).ok_or_else(|| missing("the time", "time"))?;
    let rain = at(&["rain", "precip"]).ok_or_else(|| missing("the rain", "rain mm"))?;
    let rain_to_mm =
        if names[rain].split(|c: char| !c.is_alphanumeric()).any(|w| matches!(w, "in" | "inch" | "inches")) { 25.4 } else { 1.0 };
    let from = names.iter().position(|n| n.contains("dir") || n.contains("from"));
    let wind = names.iter().enumerate().position(|(k, n)| n.starts_with("wind") && Some(k) != from);
    let wind = wind.map(|k| {
        let unit = |u: &str| names[k].contains(u);
        (
            k,
            if unit("mph") {
                0.447_04
            } else if unit("km/h") || unit("kmh") || unit("kph") {
                1.0 / 3.6
            } else {
                1.0
            },
        )
    });
    Ok(Columns { time, rain, rain_to_mm, wind, from })
}

/// Reads a rain record. Readings closer than an hour are added up to hours; their wind is averaged. Where the table also has rows without
/// rain it is taken for a whole record, and hours it leaves out are holes; a table of wet hours alone can have no holes.
///
/// # Errors
/// The row that cannot be read, with what to do.
pub fn rain_file(file: impl Read, source: &str) -> Result<RainKept, String> {
    let mut csv = csv::ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(file);
    let broken = |e: csv::Error| format!("This is no table that can be read: {e}. Save it as CSV in UTF-8.");
    let columns = columns(&csv.headers().map_err(broken)?.clone())?;
    // By hour: rain, and the wind as a vector with its strength and how many.
    let mut hours: BTreeMap<DateTime, (f64, [f64; 2], f64, f64)> = BTreeMap::new();
    let mut dry_rows = 0;
    for (k, row) in csv.records().enumerate() {
        let (row, line) = (row.map_err(broken)?, k + 2);
        if k >= MOST_ROWS {
            return Err(format!("The table has more than {MOST_ROWS} rows. Cut it to the year before the visit."));
        }
        if row.iter().all(str::is_empty) {
            continue;
        }
        let field = |at: usize| row.get(at).unwrap_or_default();
        let figure = |at: usize, what: &str, least: f64, most: f64| match field(at) {
            "" => Ok(0.0),
            t => t.parse::<f64>().ok().filter(|v| (least..=most).contains(v)).ok_or_else(|| {
                format!("Row {line}: \u{201c}{}\u{201d} is no {what}. Type a figure alone.", t.chars().take(20).collect::<String>())
            }),
        };
        let text = field(columns.time).replace(' ', "T");
        let text = text.trim_end_matches('Z');
        let t: DateTime = text.parse().map_err(|_| {
            format!(
                "Row {line}: \u{201c}{}\u{201d} is no date and time. Write it as 2026-11-18 10:00.",
                field(columns.time).chars().take(30).collect::<String>()
            )
        })?;
        let hour = t.with().minute(0).second(0).subsec_nanosecond(0).build().map_err(|e| e.to_string())?;
        let mm = columns.rain_to_mm * figure(columns.rain, "rain", 0.0, MOST_MM)?;
        let wind = columns.wind.map_or(Ok(0.0), |(at, k)| Ok::<f64, String>(k * figure(at, "wind", 0.0, MOST_WIND / k)?))?;
        let from = columns.from.map_or(Ok(0.0), |at| figure(at, "direction in degrees", 0.0, 360.0))?.to_radians();
        dry_rows += usize::from(mm == 0.0);
        let h = hours.entry(hour).or_default();
        h.0 += mm;
        h.1 = [h.1[0] + wind * from.sin(), h.1[1] + wind * from.cos()];
        h.2 += wind;
        h.3 += 1.0;
    }
    let (Some(first), Some(last)) = (hours.keys().next().copied(), hours.keys().next_back().copied()) else {
        return Err("The table has no row. Save the record with one row for each hour.".into());
    };
    let mut holes = vec![];
    if dry_rows > 0 {
        for (a, b) in hours.keys().zip(hours.keys().skip(1)) {
            let after = a.checked_add(1.hour()).map_err(|e| e.to_string())?;
            if after < *b {
                holes.push([after.to_string(), b.to_string()]);
            }
        }
    }
    let kept: Vec<RainHour> = hours
        .iter()
        .filter(|(_, (mm, _, wind, _))| *mm > 0.0 || *wind > 0.0)
        .map(|(t, (mm, way, wind, n))| RainHour {
            t: t.to_string(),
            mm: (mm * 1000.0).round() / 1000.0,
            wind_m_s: wind / n,
            wind_from_deg: way[0].atan2(way[1]).to_degrees().rem_euclid(360.0),
        })
        .collect();
    let until = last.checked_add(1.hour()).and_then(|t| t.round(Unit::Hour)).map_err(|e| e.to_string())?;
    Ok(RainKept { source: source.to_owned(), from: first.to_string(), until: until.to_string(), hours: kept, holes })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn read(text: &str) -> Result<RainKept, String> {
        rain_file(text.as_bytes(), "gauge")
    }

    #[test]
    fn hours_are_added_up_and_what_is_left_out_is_a_hole() {
        let r = read("time,rain mm,wind m/s,wind from\n2026-11-01 10:00,1.5,4,200\n2026-11-01 10:30,0.5,4,220\n2026-11-01 11:00,0,0,\n2026-11-01 15:00,2,,\n").unwrap();
        assert_eq!(r.hours.len(), 2);
        assert_eq!((r.hours[0].t.as_str(), r.hours[0].mm, r.hours[0].wind_m_s), ("2026-11-01T10:00:00", 2.0, 4.0));
        assert!((r.hours[0].wind_from_deg - 210.0).abs() < 1e-9);
        assert_eq!(r.holes, [["2026-11-01T12:00:00".to_owned(), "2026-11-01T15:00:00".to_owned()]]);
        assert_eq!((r.from.as_str(), r.until.as_str()), ("2026-11-01T10:00:00", "2026-11-01T16:00:00"));
        // A table of wet hours alone says nothing of the hours between.
        assert!(read("date,precipitation in\n2026-11-01T10:00,0.1\n2026-11-03T10:00,0.2\n").unwrap().holes.is_empty());
        let inches = read("date,precipitation in,wind mph\n2026-11-01T10:00,1,10\n").unwrap();
        assert!((inches.hours[0].mm - 25.4).abs() < 1e-9 && (inches.hours[0].wind_m_s - 4.4704).abs() < 1e-9);
    }

    #[test]
    fn a_bad_row_is_named() {
        assert!(read("time,rain\n2026-11-01 10:00,much\n").unwrap_err().starts_with("Row 2:"));
        assert!(read("time,rain\n2026-11-01 10:00,1\nyesterday,1\n").unwrap_err().starts_with("Row 3:"));
        assert!(read("time,rain\n2026-11-01 10:00,-1\n").unwrap_err().starts_with("Row 2:"));
        assert!(read("when,how much\n1,2\n").unwrap_err().contains("No column"));
        assert!(read("time,rain\n").unwrap_err().contains("no row"));
        assert!(read("").is_err());
    }

    proptest! {
        /// Water is neither made nor lost: the hours hold what the rows hold, whatever their order.
        #[test]
        fn the_hours_hold_what_the_rows_hold(rows in proptest::collection::vec((0u32..2000, 0u32..500), 1..60)) {
            let mut text = String::from("time,rain mm\n");
            for (minutes, tenths) in &rows {
                let t = jiff::civil::date(2026, 10, 1).at(0, 0, 0, 0).checked_add((i64::from(*minutes) * 7).minutes()).unwrap();
                text.push_str(&format!("{t},{}\n", f64::from(*tenths) / 10.0));
            }
            let r = read(&text).unwrap();
            let fell: f64 = rows.iter().map(|(_, t)| f64::from(*t) / 10.0).sum();
            prop_assert!((r.hours.iter().map(|h| h.mm).sum::<f64>() - fell).abs() < 1e-6);
            prop_assert!(r.hours.windows(2).all(|h| h[0].t < h[1].t));
        }
    }
}
