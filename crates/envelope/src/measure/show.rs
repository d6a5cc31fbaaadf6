//! How a figure is shown: the one place that turns SI into the units a person reads.
//!
//! SI inside, the person's units outside. Whatever leaves `envelope` as text asks a [`Units`] for it; the page has the same
//! rules in `parts/units.ts`, and a table of cases (`shown.json`) holds the two to each other.

use super::Quantity;
use super::unit::{figures, show_si};
use serde::{Deserialize, Serialize};

/// The units a person reads, a setting of the practice that a job may change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Units {
    /// Metres, millimetres, litres.
    #[default]
    Metric,
    /// Feet and inches in fractions, gallons: US customary.
    Us,
    /// Metric, and US customary in brackets.
    MetricUs,
    /// US customary, and metric in brackets.
    UsMetric,
}

/// Metres in a foot, an inch, and what follows from them (international foot, 1959; US liquid gallon, 231 cubic inches).
const FOOT_M: f64 = 0.3048;
const INCH_M: f64 = 0.0254;
const GALLON_L: f64 = 3.785_411_784;
const MILE_M: f64 = 1609.344;
/// Kilograms in a pound.
const POUND_KG: f64 = 0.453_592_37;
const SQUARE_FOOT_M2: f64 = FOOT_M * FOOT_M;
const CUBIC_FOOT_M3: f64 = FOOT_M * FOOT_M * FOOT_M;

/// A number with so many places, and no minus before a nought.
fn fixed(value: f64, digits: usize) -> String {
    let text = format!("{value:.digits$}");
    if text.starts_with('-') && text.chars().all(|c| matches!(c, '-' | '.' | '0')) { text[1..].to_owned() } else { text }
}

/// Inches to the nearest `1/per`, as a tape reads: `6 1/2`, `3/8`, `0`.
fn inches(sixteenths: i64, per: i64) -> String {
    let (whole, mut part, mut per) = (sixteenths / per, sixteenths % per, per);
    while part != 0 && part % 2 == 0 {
        (part, per) = (part / 2, per / 2);
    }
    match (whole, part) {
        (w, 0) => w.to_string(),
        (0, p) => format!("{p}/{per}"),
        (w, p) => format!("{w} {p}/{per}"),
    }
}

/// Feet and inches to the nearest `1/per` of an inch.
fn tape(m: f64, per: i64, feet: bool) -> String {
    let all = (m.abs() / INCH_M * per as f64).round() as i64;
    let minus = if m < 0.0 && all > 0 { "-" } else { "" };
    let (ft, rest) = if feet { (all / (12 * per), all % (12 * per)) } else { (0, all) };
    match (ft, rest) {
        (0, rest) => format!("{minus}{} in", inches(rest, per)),
        (ft, 0) => format!("{minus}{ft} ft"),
        (ft, rest) => format!("{minus}{ft} ft {} in", inches(rest, per)),
    }
}

impl Units {
    /// Every setting, in the order of the page.
    pub const ALL: [Units; 4] = [Units::Metric, Units::Us, Units::MetricUs, Units::UsMetric];

    /// The setting's name on the page.
    pub fn name(self) -> &'static str {
        match self {
            Units::Metric => "Metric",
            Units::Us => "Feet and inches",
            Units::MetricUs => "Metric (feet and inches)",
            Units::UsMetric => "Feet and inches (metric)",
        }
    }

    /// Only what stands first: for a line that is typed, and where there is no room for two.
    pub fn first(self) -> Units {
        match self {
            Units::Metric | Units::MetricUs => Units::Metric,
            Units::Us | Units::UsMetric => Units::Us,
        }
    }

    fn show(self, metric: impl FnOnce() -> String, us: impl FnOnce() -> String) -> String {
        match self {
            Units::Metric => metric(),
            Units::Us => us(),
            Units::MetricUs => format!("{} ({})", metric(), us()),
            Units::UsMetric => format!("{} ({})", us(), metric()),
        }
    }

    /// A length along a building, metres. `digits` is how fine it is known: 2 for centimetres (the nearest half inch), 1 for
    /// decimetres (the nearest inch), 0 for metres (the nearest foot).
    pub fn length(self, m: f64, digits: usize) -> String {
        self.show(
            || format!("{} m", fixed(m, digits)),
            || match digits {
                0 => format!("{} ft", fixed(m / FOOT_M, 0)),
                1 => tape(m, 1, true),
                2 => tape(m, 2, true),
                _ => tape(m, 16, true),
            },
        )
    }

    /// A length among many others in a drawing, metres: metres without their unit, or feet and inches with their signs.
    pub fn bare_length(self, m: f64) -> String {
        match self.first() {
            Units::Us => {
                let inches = (m / INCH_M).round() as i64;
                format!("{}\u{2032} {}\u{2033}", inches / 12, inches % 12)
            }
            _ => fixed(m, 2),
        }
    }

    /// A depth, a gap, a rise at one place, metres: whole millimetres, or the nearest sixteenth of an inch.
    pub fn depth(self, m: f64) -> String {
        self.show(|| format!("{} mm", fixed(m * 1000.0, 0)), || tape(m, 16, m.abs() >= 3.0 * FOOT_M))
    }

    /// A height among many others in a drawing, metres: the number alone, millimetres or inches.
    pub fn bare_depth(self, m: f64) -> String {
        match self.first() {
            Units::Us => fixed(m / INCH_M, 1),
            _ => fixed(m * 1000.0, 0),
        }
    }

    /// A height with its sign, metres, as somebody would type it: read back, it is the same to a tenth of a millimetre.
    pub fn typed_height(self, m: f64) -> String {
        let sign = if m < 0.0 { "-" } else { "" };
        match self.first() {
            Units::Us => format!("{sign}{} in", fixed(m.abs() / INCH_M, 3)),
            _ => format!("{sign}{} mm", fixed(m.abs() * 1000.0, 1)),
        }
    }

    /// A depth that is read finer than a tape: tenths of a millimetre, hundredths of an inch.
    pub fn fine(self, m: f64) -> String {
        self.show(|| format!("{} mm", fixed(m * 1000.0, 1)), || format!("{} in", fixed(m / INCH_M, 2)))
    }

    /// An area, square metres.
    pub fn area(self, m2: f64) -> String {
        self.show(|| format!("{} m²", fixed(m2, 1)), || format!("{} sq ft", fixed(m2 / SQUARE_FOOT_M2, 0)))
    }

    /// Soil, cubic metres; cubic feet.
    pub fn soil(self, m3: f64) -> String {
        self.show(|| format!("{} m³", fixed(m3, 2)), || format!("{} cu ft", fixed(m3 / CUBIC_FOOT_M3, 1)))
    }

    /// A lot of water, cubic metres; gallons.
    pub fn water(self, m3: f64) -> String {
        self.show(|| format!("{} m³", fixed(m3, 2)), || format!("{} gal", fixed(m3 * 1000.0 / GALLON_L, 0)))
    }

    /// The load of water on a roof, kilograms on a square metre; pounds on a square foot.
    pub fn load(self, kg_m2: f64) -> String {
        self.show(|| format!("{} kg/m²", fixed(kg_m2, 0)), || format!("{} lb/sq ft", fixed(kg_m2 / POUND_KG * SQUARE_FOOT_M2, 1)))
    }

    /// A weight, kilograms; pounds.
    pub fn weight(self, kg: f64) -> String {
        self.show(|| format!("{} kg", fixed(kg, 0)), || format!("{} lb", fixed(kg / POUND_KG, 0)))
    }

    /// Some water, litres; gallons.
    pub fn litres(self, l: f64) -> String {
        self.show(|| format!("{} L", fixed(l, 0)), || format!("{} gal", fixed(l / GALLON_L, if l < 10.0 * GALLON_L { 1 } else { 0 })))
    }

    /// Running water, litres a minute; gallons a minute.
    pub fn flow(self, l_min: f64) -> String {
        self.show(
            || format!("{} L/min", fixed(l_min, 0)),
            || format!("{} gpm", fixed(l_min / GALLON_L, if l_min < 10.0 * GALLON_L { 1 } else { 0 })),
        )
    }

    /// Running water among many others in a drawing, the number alone: litres or gallons a minute.
    pub fn bare_flow(self, l_min: f64) -> String {
        match self.first() {
            Units::Us => fixed(l_min / GALLON_L, if l_min < 10.0 * GALLON_L { 1 } else { 0 }),
            _ => fixed(l_min, 0),
        }
    }

    /// Running water as the tables write it, litres a second; gallons a minute.
    pub fn flow_s(self, l_s: f64) -> String {
        self.show(|| format!("{} L/s", fixed(l_s, 2)), || format!("{} gpm", fixed(l_s * 60.0 / GALLON_L, 1)))
    }

    /// Rain, millimetres an hour; inches an hour.
    pub fn rain(self, mm_h: f64) -> String {
        self.show(|| format!("{} mm/h", fixed(mm_h, 0)), || format!("{} in/h", fixed(mm_h / 25.4, 2)))
    }

    /// Rain that fell, millimetres; inches.
    pub fn rain_depth(self, mm: f64) -> String {
        self.show(|| format!("{} mm", fixed(mm, 0)), || format!("{} in", fixed(mm / 25.4, 2)))
    }

    /// Water's or wind's speed, metres a second; feet a second.
    pub fn speed(self, m_s: f64) -> String {
        self.show(|| format!("{} m/s", fixed(m_s, 1)), || format!("{} ft/s", fixed(m_s / FOOT_M, 1)))
    }

    /// A gust, metres a second; miles an hour.
    pub fn gust(self, m_s: f64) -> String {
        self.show(|| format!("{} m/s", fixed(m_s, 0)), || format!("{} mph", fixed(m_s * 3600.0 / MILE_M, 0)))
    }

    /// How far off something was, kilometres; miles.
    pub fn far(self, km: f64) -> String {
        self.show(|| format!("{} km", fixed(km, 0)), || format!("{} mi", fixed(km * 1000.0 / MILE_M, 0)))
    }

    /// A temperature, degrees Celsius; Fahrenheit.
    pub fn temperature(self, c: f64, digits: usize) -> String {
        self.show(|| format!("{} \u{b0}C", fixed(c, digits)), || format!("{} \u{b0}F", fixed(c * 1.8 + 32.0, digits)))
    }

    /// A reading of any quantity with three figures at most, as it stands behind the person's own words.
    pub fn reading(self, quantity: Quantity, si: f64) -> String {
        let us = || match quantity {
            Quantity::Length if si.abs() >= 3.0 * FOOT_M => tape(si, 4, true),
            // Finer than a tape shows: a crack of a tenth of a millimetre.
            Quantity::Length if si.abs() < INCH_M / 16.0 => format!("{} in", figures(si / INCH_M)),
            Quantity::Length => tape(si, 16, false),
            Quantity::Area if si < 0.5 * SQUARE_FOOT_M2 => format!("{} sq in", figures(si / (INCH_M * INCH_M))),
            Quantity::Area => format!("{} sq ft", figures(si / SQUARE_FOOT_M2)),
            Quantity::Pressure => format!("{} psi", figures(si / 6_894.757_293_168)),
            Quantity::Flow => format!("{} gpm", figures(si * 60_000.0 / GALLON_L)),
            Quantity::Intensity => format!("{} in/h", figures(si * 3_600_000.0 / 25.4)),
            other => show_si(other, si),
        };
        let (metric, us) = (show_si(quantity, si), us());
        if metric == us { metric } else { self.show(|| metric, || us) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The cases that the page's formatter is held to as well (`web/src/parts/units.test.ts` reads the same file).
    #[test]
    fn every_case_of_the_common_table_is_shown_as_it_says() {
        #[derive(Deserialize)]
        struct Row {
            of: String,
            value: f64,
            #[serde(default)]
            digits: usize,
            metric: String,
            us: String,
        }
        let rows: Vec<Row> = serde_json::from_str(include_str!("shown.json")).unwrap();
        assert!(rows.len() > 30);
        for r in rows {
            let show = |u: Units| match r.of.as_str() {
                "length" => u.length(r.value, r.digits),
                "depth" => u.depth(r.value),
                "fine" => u.fine(r.value),
                "area" => u.area(r.value),
                "soil" => u.soil(r.value),
                "water" => u.water(r.value),
                "litres" => u.litres(r.value),
                "flow" => u.flow(r.value),
                "flowS" => u.flow_s(r.value),
                "rain" => u.rain(r.value),
                "rainDepth" => u.rain_depth(r.value),
                "speed" => u.speed(r.value),
                "gust" => u.gust(r.value),
                "far" => u.far(r.value),
                "temperature" => u.temperature(r.value, r.digits),
                other => panic!("{other}"),
            };
            assert_eq!((show(Units::Metric), show(Units::Us)), (r.metric.clone(), r.us.clone()), "{} {}", r.of, r.value);
            assert_eq!(show(Units::MetricUs), format!("{} ({})", r.metric, r.us));
            assert_eq!(show(Units::UsMetric), format!("{} ({})", r.us, r.metric));
        }
    }

    #[test]
    fn a_reading_is_shown_in_what_its_size_asks_for() {
        let us = |q, v| Units::Us.reading(q, v);
        assert_eq!(us(Quantity::Length, 0.1651), "6 1/2 in");
        assert_eq!(us(Quantity::Length, 3.6576), "12 ft");
        assert_eq!(us(Quantity::Length, 0.0003), "0.0118 in");
        assert_eq!(us(Quantity::Area, 0.0129032), "20 sq in");
        assert_eq!(us(Quantity::Area, 9.290304), "100 sq ft");
        assert_eq!(us(Quantity::Share, 0.02), "2 %");
        // What is the same in both is said once.
        assert_eq!(Units::MetricUs.reading(Quantity::Share, 0.02), "2 %");
        assert_eq!(Units::MetricUs.reading(Quantity::Length, 0.0508), "50.8 mm (2 in)");
    }

    proptest! {
        // What is shown, read again, is what was meant, within half of the last mark on the tape.
        #[test]
        fn what_is_shown_reads_back(m in -30.0..30.0f64) {
            for (text, off) in [
                (Units::Us.length(m, 2), 0.25 * INCH_M),
                (Units::Us.length(m, 1), 0.5 * INCH_M),
                (Units::Us.depth(m), INCH_M / 32.0),
                (Units::Metric.length(m, 2), 0.005),
                (Units::Metric.depth(m), 0.0005),
            ] {
                let read = crate::measure::parse(text.trim_start_matches('-')).unwrap();
                prop_assert!((read.si - m.abs()).abs() <= off + 1e-9, "{m}: {text} is {}", read.si);
            }
        }
    }
}
