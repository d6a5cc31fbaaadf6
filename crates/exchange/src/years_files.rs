//! What to look after as a calendar (RFC 5545), what to put by as a table.

use envelope::years::reserve::ReserveOut;
use envelope::years::upkeep::UpkeepTask;
use icalendar::{Calendar, Component, Event, EventLike};
use jiff::civil::Date;

/// The seasons' list as a calendar: each task once a year, from the day after `today` on.
pub fn upkeep_ics(building: &str, address: &str, tasks: &[UpkeepTask], today: Date) -> String {
    let mut calendar = Calendar::new();
    calendar.name(&format!("Upkeep: {building}"));
    for t in tasks {
        let this = Date::new(today.year(), t.month, t.day).ok().filter(|d| *d > today);
        let Some(first) = this.or_else(|| Date::new(today.year() + 1, t.month, t.day).ok()) else { continue };
        let mut text = vec![t.why.clone()];
        text.extend(t.because.iter().map(|b| format!("Found: {b}.")));
        text.extend(t.caution.iter().map(|c| format!("Caution: {c}")));
        let mut event = Event::new();
        let next = first.tomorrow().unwrap_or(first);
        event
            .summary(&t.words)
            .description(&text.join(" "))
            .location(address)
            .uid(&format!("{}-{}@trowel.invalid", t.id, digest(building)))
            .add_property("DTSTAMP", format!("{}T000000Z", plain(today)));
        event.append_property(icalendar::Property::new("DTSTART", plain(first)).add_parameter("VALUE", "DATE").done());
        event.append_property(icalendar::Property::new("DTEND", plain(next)).add_parameter("VALUE", "DATE").done());
        event.add_property("RRULE", "FREQ=YEARLY");
        calendar.push(event.done());
    }
    calendar.done().to_string()
}

fn plain(d: Date) -> String {
    d.strftime("%Y%m%d").to_string()
}

/// A short name of a text that is the same on every machine (FNV-1a), so that a calendar read in twice replaces its entries.
fn digest(text: &str) -> String {
    let hash = text.bytes().fold(0xcbf2_9ce4_8422_2325_u64, |h, b| (h ^ u64::from(b)).wrapping_mul(0x100_0000_01b3));
    format!("{hash:016x}")
}

/// The reserve as a table, year by year.
///
/// # Errors
/// What the writer says.
pub fn reserve_csv(plan: &ReserveOut) -> Result<Vec<u8>, csv::Error> {
    let mut w = csv::Writer::from_writer(vec![]);
    w.write_record(["year", "expected", "chance", "spent_10", "spent_50", "spent_90", "spent_mean", "put_by", "what"])?;
    for y in &plan.years {
        let what: Vec<String> = y.what.iter().map(|s| format!("{} ({:.0} %)", s.name, s.chance * 100.0)).collect();
        let money = |x: f64| format!("{x:.2}");
        w.write_record([
            y.year.to_string(),
            money(y.expected),
            format!("{:.4}", y.chance),
            money(y.spent[0]),
            money(y.spent[1]),
            money(y.spent[2]),
            money(y.spent_mean),
            money(y.put_by),
            what.join("; "),
        ])?;
    }
    w.into_inner().map_err(|e| csv::Error::from(e.into_error()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::years::reserve::{ReserveInput, ReserveThing, reserve};
    use jiff::civil::date;

    fn task(month: i8, day: i8, words: &str) -> UpkeepTask {
        UpkeepTask {
            id: format!("t{month}"),
            season: "Autumn".into(),
            month,
            day,
            words: words.into(),
            why: "Leaves are down; rain comes.".into(),
            because: vec!["Outlet blocked, rear".into()],
            caution: Some("From the ground.".into()),
        }
    }

    /// Read back by the library's own reader: each once a year, never in the past, signs of the format in a text do no harm.
    #[test]
    fn the_calendar_is_read_back() {
        let text = upkeep_ics(
            "Clinic",
            "14 Lane; Town",
            &[task(11, 15, "Clear gutters; look, and\nlook again"), task(12, 1, "x")],
            date(2026, 11, 26),
        );
        let back: Calendar = text.parse().unwrap();
        let events: Vec<&Event> = back.components.iter().filter_map(|c| c.as_event()).collect();
        assert_eq!(events.len(), 2);
        let start = |e: &Event| e.property_value("DTSTART").unwrap().to_owned();
        assert_eq!((start(events[0]), start(events[1])), ("20271115".to_owned(), "20261201".to_owned()));
        assert!(events.iter().all(|e| e.property_value("RRULE") == Some("FREQ=YEARLY")));
        assert!(events[0].get_description().unwrap().contains("Caution"));
        assert!(text.lines().all(|l| l.len() <= 76), "lines are folded");
        let again = upkeep_ics("Clinic", "", &[task(11, 15, "Clear gutters")], date(2027, 1, 1)).parse::<Calendar>().unwrap();
        let uid = |e: &Event| e.get_uid().unwrap().to_owned();
        assert_eq!(uid(events[0]), uid(again.components[0].as_event().unwrap()));
    }

    #[test]
    fn the_table_has_every_year_and_adds_up() {
        let thing = ReserveThing { name: "Roof; \"main\"".into(), cost: 12_000.0, due: [3.0, 6.0, 9.0], again_after: None };
        let plan = reserve(&ReserveInput { from_year: 2027, years: 25, things: vec![thing] }).unwrap();
        let bytes = reserve_csv(&plan).unwrap();
        let mut r = csv::Reader::from_reader(&bytes[..]);
        let rows: Vec<csv::StringRecord> = r.records().map(Result::unwrap).collect();
        assert_eq!(rows.len(), 25);
        let sum: f64 = rows.iter().map(|r| r[1].parse::<f64>().unwrap()).sum();
        assert!((sum - 12_000.0).abs() < 1.0, "{sum}");
    }
}
