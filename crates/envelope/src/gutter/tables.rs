//! The look-ups beside the computed water surface: a plumbing-code table and the eaves-gutter standard.

use super::channel::standard_capacity_l_s;
use super::section::Section;
use crate::rain::design::INCH_MM;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// Half-round gutters as plumbing codes list them: diameter in inches, and square feet of roof at one inch of rain an hour
/// when the gutter falls 1/16, 1/8, 1/4 and 1/2 inch in a foot.
const TABLE: [(f64, [f64; 4]); 7] = [
    (3.0, [680.0, 960.0, 1360.0, 1920.0]),
    (4.0, [1440.0, 2040.0, 2880.0, 4080.0]),
    (5.0, [2500.0, 3520.0, 5000.0, 7080.0]),
    (6.0, [3840.0, 5440.0, 7680.0, 11080.0]),
    (7.0, [5520.0, 7800.0, 11040.0, 15600.0]),
    (8.0, [7960.0, 11200.0, 14400.0, 22400.0]),
    (10.0, [14400.0, 20400.0, 28800.0, 40000.0]),
];
/// Falls of the table's columns, per unit of length.
const FALLS: [f64; 4] = [1.0 / 192.0, 1.0 / 96.0, 1.0 / 48.0, 1.0 / 24.0];
const SQUARE_FOOT_M2: f64 = 0.092_903_04;

/// What a look-up or a computation allows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Allowed {
    /// The school, as the practice names it.
    pub school: String,
    /// In words.
    pub name: String,
    /// What the gutter takes by it, litres per second; none where it gives nothing.
    pub l_s: Option<f64>,
    /// The practice follows it.
    pub followed: bool,
    /// What it looks at, and what it leaves out.
    pub why: String,
}

/// Litres per second a plumbing code's table allows a gutter that falls so much: the row of the next smaller half round of
/// equal area, the column of the next smaller fall. A flatter gutter than the table knows is read in its first column.
/// None when the gutter is smaller than any of its rows.
pub fn plumbing_table_l_s(section: Section, fall: f64) -> Option<f64> {
    let diameter_mm = match section {
        Section::HalfRound { diameter_m } => diameter_m * 1000.0,
        other => (8.0 * other.full_area_mm2() / PI).sqrt(),
    };
    // A 100 mm gutter is sold as a four inch one.
    const SOLD_AS: f64 = 1.02;
    let row = TABLE.iter().rev().find(|r| r.0 * INCH_MM <= diameter_mm * SOLD_AS)?.1;
    let column = FALLS.iter().rposition(|f| *f <= fall * (1.0 + 1e-9)).unwrap_or(0);
    Some(row[column] * SQUARE_FOOT_M2 * INCH_MM / 3600.0)
}

/// The three schools side by side. `computed_l_s` is what the water surface lets through before it spills.
pub fn schools(section: Section, fall: f64, computed_l_s: Option<f64>, followed: &str) -> Vec<Allowed> {
    /// The standard's own reserve.
    const RESERVE: f64 = 0.9;
    let of = |school: &str, name: &str, l_s: Option<f64>, why: &str| Allowed {
        school: school.into(),
        name: name.into(),
        l_s,
        followed: school == followed,
        why: why.into(),
    };
    vec![
        of(
            "profile",
            "water surface along the run",
            computed_l_s,
            "It knows the fall at every place, the outlets, the roughness and where the water comes in.",
        ),
        of(
            "eaves-formula",
            "eaves-gutter standard",
            Some(standard_capacity_l_s(section) * RESERVE),
            "It knows the section alone: a short level gutter with a free outlet, less a tenth.",
        ),
        of(
            "plumbing-table",
            "plumbing-code table",
            plumbing_table_l_s(section, fall),
            "It knows diameter and fall, in steps: a cautious look-up, about half of what a clean run carries.",
        ),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_read_down_and_never_up() {
        let round = |mm: f64| Section::HalfRound { diameter_m: mm / 1000.0 };
        // 1440 ft² at 1 in/h: 14.96 gallons a minute.
        let four = plumbing_table_l_s(round(101.6), 1.0 / 192.0).unwrap();
        assert!((four / crate::gutter::downspout::L_S_PER_GPM - 1440.0 / 96.25).abs() < 0.01, "{four}");
        assert_eq!(plumbing_table_l_s(round(120.0), 0.0), Some(four), "level, and not yet five inches");
        assert!(plumbing_table_l_s(round(127.0), 0.011).unwrap() > four * 2.0);
        assert_eq!(plumbing_table_l_s(round(50.0), 0.01), None);
        // More size and more fall never allow less.
        for w in TABLE.windows(2) {
            assert!(w[0].1.iter().zip(w[1].1).all(|(a, b)| *a < b) && w[0].1.is_sorted());
        }
    }

    #[test]
    fn one_school_is_followed() {
        let s = schools(Section::HalfRound { diameter_m: 0.125 }, 0.005, Some(2.0), "plumbing-table");
        assert_eq!(s.iter().filter(|a| a.followed).map(|a| a.school.as_str()).collect::<Vec<_>>(), ["plumbing-table"]);
    }

    #[test]
    fn the_table_is_more_cautious_than_the_water_surface_of_a_clean_long_run() {
        use crate::gutter::channel::{ChannelInput, channel};
        for diameter_m in [0.1016, 0.127, 0.1524] {
            let section = Section::HalfRound { diameter_m };
            let run = ChannelInput { section, length_m: 15.24, slope: FALLS[0], manning_n: 0.012, catchment_width_m: 5.0, rain_mm_h: 50.0 };
            let carries = channel(&run).unwrap().capacity_q_l_s;
            let share = plumbing_table_l_s(section, FALLS[0]).unwrap() / carries;
            assert!((0.4..0.8).contains(&share), "{diameter_m}: {share:.2} of {carries:.2} L/s");
        }
    }
}
