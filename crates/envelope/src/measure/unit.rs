//! Units people use on site, each with its exact SI factor, and how an SI value is shown.

use crate::text::Token;
use num_rational::Ratio;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// What kind of thing was measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Quantity {
    /// Metres.
    Length,
    /// Square metres.
    Area,
    /// Rise over run, a plain ratio.
    Slope,
    /// Part of a whole, a plain ratio.
    Share,
    /// Radians.
    Angle,
    /// Pascals.
    Pressure,
    /// Seconds.
    Time,
    /// Cubic metres a second.
    Flow,
    /// Metres a second of rain.
    Intensity,
    /// How many.
    Count,
    /// A figure on an instrument's own scale.
    Reading,
}

impl Quantity {
    /// The SI unit of [`super::Measure::si`]; empty for plain ratios and counts.
    pub fn si_unit(self) -> &'static str {
        match self {
            Quantity::Length => "m",
            Quantity::Area => "m²",
            Quantity::Angle => "rad",
            Quantity::Pressure => "Pa",
            Quantity::Time => "s",
            Quantity::Flow => "m³/s",
            Quantity::Intensity => "m/s",
            Quantity::Slope | Quantity::Share | Quantity::Count | Quantity::Reading => "",
        }
    }
}

macro_rules! units {
    ($( $variant:ident, $symbol:literal, $quantity:ident, $num:literal / $den:literal, metric $metric:literal, $doc:literal, [$($word:literal),*]; )*) => {
        /// A unit as used on site.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub enum Unit { $( #[doc = $doc] #[serde(rename = $symbol)] $variant, )* }

        /// Every unit: symbol, quantity, exact SI factor, and the words for it.
        const TABLE: &[(Unit, &str, Quantity, i64, i64, bool, &[&str])] = &[
            $( (Unit::$variant, $symbol, Quantity::$quantity, $num, $den, $metric, &[$($word),*]), )*
        ];
    };
}

// Factors: the international inch is 25.4 mm exactly (1959 agreement); the US gallon is 231 cubic inches;
// the pound-force per square inch follows from 0.45359237 kg and 9.80665 m/s².
units! {
    Millimetre, "mm", Length, 1 / 1000, metric true, "Millimetre.", ["mm", "millimetre", "millimetres", "millimeter", "millimeters", "mil", "mils"];
    Centimetre, "cm", Length, 1 / 100, metric true, "Centimetre.", ["cm", "centimetre", "centimetres", "centimeter", "centimeters"];
    Metre, "m", Length, 1 / 1, metric true, "Metre.", ["m", "metre", "metres", "meter", "meters"];
    Inch, "in", Length, 254 / 10000, metric false, "Inch, 25.4 mm.", ["in", "inch", "inches", "ins"];
    Foot, "ft", Length, 3048 / 10000, metric false, "Foot, 12 inches.", ["ft", "foot", "feet", "lf", "footer"];
    Yard, "yd", Length, 9144 / 10000, metric false, "Yard, 3 feet.", ["yd", "yard", "yards"];
    SquareMillimetre, "mm²", Area, 1 / 1000000, metric true, "Square millimetre.", ["mm²", "sqmm"];
    SquareCentimetre, "cm²", Area, 1 / 10000, metric true, "Square centimetre.", ["cm²", "sqcm"];
    SquareMetre, "m²", Area, 1 / 1, metric true, "Square metre.", ["m²", "sqm"];
    SquareInch, "sq in", Area, 64516 / 100000000, metric false, "Square inch.", ["sqin", "si"];
    SquareFoot, "sq ft", Area, 9290304 / 100000000, metric false, "Square foot.", ["sqft", "sf"];
    SquareYard, "sq yd", Area, 83612736 / 100000000, metric false, "Square yard.", ["sqyd"];
    Square, "square", Area, 9290304 / 1000000, metric false, "Roofing square, 100 square feet.", ["sq", "square", "squares"];
    Pitch, "x:12", Slope, 1 / 12, metric false, "Rise in a run of twelve.", [];
    RiseOverRun, "1:1", Slope, 1 / 1, metric true, "Rise over run.", [];
    InchPerFoot, "in/ft", Slope, 1 / 12, metric false, "Inches in a foot.", [];
    MillimetrePerMetre, "mm/m", Slope, 1 / 1000, metric true, "Millimetres in a metre.", [];
    Percent, "%", Share, 1 / 100, metric true, "Hundredths.", ["percent", "pct"];
    Degree, "°", Angle, 0 / 1, metric true, "Degree of arc.", ["degree", "degrees", "deg"];
    Psi, "psi", Pressure, 0 / 1, metric false, "Pound-force per square inch.", ["psi"];
    Kilopascal, "kPa", Pressure, 1000 / 1, metric true, "Kilopascal.", ["kpa"];
    Bar, "bar", Pressure, 100000 / 1, metric true, "Bar.", ["bar", "bars"];
    Second, "s", Time, 1 / 1, metric true, "Second.", ["sec", "second", "seconds"];
    Minute, "min", Time, 60 / 1, metric true, "Minute.", ["min", "mins", "minute", "minutes"];
    Hour, "h", Time, 3600 / 1, metric true, "Hour.", ["h", "hr", "hrs", "hour", "hours"];
    Day, "d", Time, 86400 / 1, metric true, "Day.", ["day", "days"];
    Week, "wk", Time, 604800 / 1, metric true, "Week.", ["wk", "week", "weeks"];
    Month, "mo", Time, 2629800 / 1, metric true, "Month, a twelfth of a year.", ["month", "months"];
    Year, "yr", Time, 31557600 / 1, metric true, "Julian year, 365.25 days.", ["yr", "yrs", "year", "years"];
    LitrePerMinute, "L/min", Flow, 1 / 60000, metric true, "Litre a minute.", ["lpm"];
    GallonPerMinute, "gpm", Flow, 231 / 3661417, metric false, "US gallon a minute.", ["gpm"];
    MillimetrePerHour, "mm/h", Intensity, 1 / 3600000, metric true, "Millimetre of rain an hour.", [];
    InchPerHour, "in/h", Intensity, 254 / 36000000, metric false, "Inch of rain an hour.", [];
    Each, "ea", Count, 1 / 1, metric true, "How many.", ["ea", "each", "places", "spots", "pieces", "locations"];
    Scale, "on the scale", Reading, 1 / 1, metric true, "A figure on an instrument's own scale.", [];
}

impl Unit {
    fn row(self) -> &'static (Unit, &'static str, Quantity, i64, i64, bool, &'static [&'static str]) {
        TABLE.iter().find(|r| r.0 == self).expect("every unit has a row")
    }
    /// The symbol used in print and in exports.
    pub fn symbol(self) -> &'static str {
        self.row().1
    }
    /// What the unit measures.
    pub fn quantity(self) -> Quantity {
        self.row().2
    }
    /// Already SI or unit-free, so that a converted value would say nothing new.
    pub fn is_metric(self) -> bool {
        self.row().5
    }
    /// Converts a value in this unit to SI.
    pub fn to_si(self, value: Ratio<i64>) -> f64 {
        let v = *value.numer() as f64 / *value.denom() as f64;
        match self {
            Unit::Degree => v.to_radians(),
            Unit::Psi => v * 0.453_592_37 * 9.806_65 / (0.0254 * 0.0254),
            Unit::GallonPerMinute => v * 231.0 * 0.0254_f64.powi(3) / 60.0,
            _ => {
                let (_, _, _, n, d, ..) = self.row();
                v * *n as f64 / *d as f64
            }
        }
    }
    /// The exact factor to SI; for units whose factor is a fraction of whole numbers.
    pub(super) fn exact_factor(self) -> Ratio<i64> {
        let (_, _, _, n, d, ..) = self.row();
        Ratio::new(*n, *d)
    }
    /// The area unit of a length unit.
    pub(super) fn squared(self) -> Option<Unit> {
        Some(match self {
            Unit::Inch => Unit::SquareInch,
            Unit::Foot => Unit::SquareFoot,
            Unit::Yard => Unit::SquareYard,
            Unit::Millimetre => Unit::SquareMillimetre,
            Unit::Centimetre => Unit::SquareCentimetre,
            Unit::Metre => Unit::SquareMetre,
            _ => return None,
        })
    }
}

fn by_word(word: &str) -> Option<Unit> {
    static ALL: LazyLock<FxHashMap<&str, Unit>> = LazyLock::new(|| TABLE.iter().flat_map(|r| r.6.iter().map(|w| (*w, r.0))).collect());
    ALL.get(word).copied()
}

/// Reads a unit at token `i`; gives the index after it.
pub(super) fn read(t: &[Token], i: usize) -> Option<(Unit, usize)> {
    let token = t.get(i)?;
    let word = |j: usize| t.get(j).and_then(Token::word);
    let sign = |j: usize| t.get(j).and_then(Token::sign);
    match token.sign() {
        // 6"  and  6''  are inches, 6' is feet
        Some('\'') if sign(i + 1) == Some('\'') && t[i + 1].glued => return Some((Unit::Inch, i + 2)),
        Some('\'') => return Some((Unit::Foot, i + 1)),
        Some('"') => return Some((Unit::Inch, i + 1)),
        Some('%') => return Some((Unit::Percent, i + 1)),
        Some('°') => return Some((Unit::Degree, i + 1)),
        // "two-foot", "6-inch"
        Some('-') if token.glued && word(i + 1).is_some() => return read(t, i + 1),
        _ => {}
    }
    let first = token.word()?;
    match first {
        "sq" | "square" => {
            let dot = usize::from(sign(i + 1) == Some('.'));
            if let Some(area) = word(i + 1 + dot).and_then(by_word).and_then(Unit::squared) {
                return Some((area, i + 2 + dot));
            }
        }
        "linear" | "running" => {
            return word(i + 1).and_then(by_word).filter(|u| u.quantity() == Quantity::Length).map(|u| (u, i + 2));
        }
        "per" if word(i + 1) == Some("cent") => return Some((Unit::Percent, i + 2)),
        "litre" | "litres" | "liter" | "liters" | "l" => {
            return (matches!(sign(i + 1), Some('/')) || matches!(word(i + 1), Some("a" | "per")))
                .then(|| word(i + 2).filter(|w| w.starts_with("min")).map(|_| (Unit::LitrePerMinute, i + 3)))
                .flatten();
        }
        _ => {}
    }
    let unit = by_word(first)?;
    // m2, ft2, m²
    if let (Some(area), Some(next)) = (unit.squared(), t.get(i + 1))
        && next.glued
        && (next.sign() == Some('²') || next.number() == Some(Ratio::from_integer(2)))
    {
        return Some((area, i + 2));
    }
    // inch a foot, in/ft, mm per m, mm/h
    let over = matches!(sign(i + 1), Some('/')) || matches!(word(i + 1), Some("per" | "a" | "an"));
    if over {
        let joined = match (unit, word(i + 2).and_then(by_word)) {
            (Unit::Inch, Some(Unit::Foot)) => Some(Unit::InchPerFoot),
            (Unit::Millimetre, Some(Unit::Metre)) => Some(Unit::MillimetrePerMetre),
            (Unit::Millimetre, Some(Unit::Hour)) => Some(Unit::MillimetrePerHour),
            (Unit::Inch, Some(Unit::Hour)) => Some(Unit::InchPerHour),
            _ => None,
        };
        if let Some(u) = joined {
            return Some((u, i + 3));
        }
    }
    Some((unit, i + 1))
}

/// Three significant figures at most, no trailing noughts beyond what was meant.
pub(super) fn figures(value: f64) -> String {
    let digits = if value == 0.0 { 0 } else { (2 - value.abs().log10().floor() as i32).clamp(0, 4) as usize };
    let text = format!("{value:.digits$}");
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').to_owned() } else { text }
}

/// An SI value in the unit a person would choose.
pub(super) fn show_si(quantity: Quantity, si: f64) -> String {
    match quantity {
        Quantity::Length if si.abs() < 0.1 => format!("{} mm", figures(si * 1000.0)),
        Quantity::Length => format!("{si:.2} m"),
        Quantity::Area if si.abs() < 0.01 => format!("{} cm²", figures(si * 1e4)),
        Quantity::Area => format!("{} m²", figures(si)),
        Quantity::Slope | Quantity::Share => format!("{} %", figures(si * 100.0)),
        Quantity::Angle => format!("{}°", figures(si.to_degrees())),
        Quantity::Pressure => format!("{} kPa", figures(si / 1000.0)),
        Quantity::Time if si < 90.0 => format!("{} s", figures(si)),
        Quantity::Time if si < 5400.0 => format!("{} min", figures(si / 60.0)),
        Quantity::Time if si < 2.0 * 86400.0 => format!("{} h", figures(si / 3600.0)),
        Quantity::Time if si < 100.0 * 86400.0 => format!("{} days", figures(si / 86400.0)),
        Quantity::Time => format!("{} years", figures(si / 31_557_600.0)),
        Quantity::Flow => format!("{} L/min", figures(si * 60_000.0)),
        Quantity::Intensity => format!("{} mm/h", figures(si * 3_600_000.0)),
        Quantity::Count | Quantity::Reading => figures(si),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_word_names_one_unit_only() {
        let mut words: Vec<_> = TABLE.iter().flat_map(|r| r.6).collect();
        let all = words.len();
        words.sort();
        words.dedup();
        assert_eq!(words.len(), all);
    }

    #[test]
    fn factors_agree_with_their_definitions() {
        let one = Ratio::from_integer(1);
        // 1 US gallon = 231 in³ = 3.785411784 L exactly
        assert!((Unit::GallonPerMinute.to_si(one) * 60_000.0 - 3.785_411_784).abs() < 1e-12);
        // 1 psi = 6894.757293168 Pa
        assert!((Unit::Psi.to_si(one) - 6_894.757_293_168).abs() < 1e-6);
        assert!((Unit::Square.to_si(one) - 100.0 * Unit::SquareFoot.to_si(one)).abs() < 1e-12);
        assert!((Unit::Foot.to_si(one) - 12.0 * Unit::Inch.to_si(one)).abs() < 1e-12);
    }

    #[test]
    fn values_are_shown_as_a_person_would_write_them() {
        let shown: Vec<String> = [
            (Quantity::Length, 0.6096),
            (Quantity::Length, 0.0015875),
            (Quantity::Area, 0.7432),
            (Quantity::Share, 0.05),
            (Quantity::Time, 13.0 * 31_557_600.0),
            (Quantity::Length, 0.0),
        ]
        .iter()
        .map(|(q, v)| show_si(*q, *v))
        .collect();
        assert_eq!(shown, ["0.61 m", "1.59 mm", "0.743 m²", "5 %", "13 years", "0 mm"]);
    }
}
