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

/// The standard's factor for gutters that are long for their depth, of nominally level ones: length to the outlet over the depth of the
/// gutter, and the share that is left. Steeper ones are allowed more, which is not counted.
const LONG: [(f64, f64); 19] = [
    (50.0, 1.0),
    (75.0, 0.97),
    (100.0, 0.93),
    (125.0, 0.90),
    (150.0, 0.86),
    (175.0, 0.83),
    (200.0, 0.80),
    (225.0, 0.78),
    (250.0, 0.77),
    (275.0, 0.75),
    (300.0, 0.74),
    (325.0, 0.72),
    (350.0, 0.70),
    (375.0, 0.68),
    (400.0, 0.67),
    (425.0, 0.65),
    (450.0, 0.63),
    (475.0, 0.62),
    (500.0, 0.60),
];
/// What a corner between the water and its outlet leaves.
const AROUND_A_CORNER: f64 = 0.85;

/// What the eaves standard leaves of its formula for a gutter that drains over such a length to an outlet, perhaps around a corner. Between
/// its rows it is read straight across; none beyond the last, for which it gives nothing.
pub fn standard_share(section: Section, drains_over_m: f64, around_a_corner: bool) -> Option<f64> {
    let ratio = drains_over_m / section.depth();
    let bend = if around_a_corner { AROUND_A_CORNER } else { 1.0 };
    if ratio <= LONG[0].0 {
        return Some(bend);
    }
    let above = LONG.iter().position(|r| r.0 >= ratio)?;
    let ((a, from), (b, to)) = (LONG[above - 1], LONG[above]);
    Some(bend * (from + (to - from) * (ratio - a) / (b - a)))
}

/// The longest way to an outlet along a run: from an end, or from half way between two outlets, metres; and whether it goes round a corner.
pub fn drains_over(length_m: f64, outlets_m: &[f64], corners_m: &[f64]) -> Option<(f64, bool)> {
    let mut at: Vec<f64> = outlets_m.to_vec();
    at.sort_by(f64::total_cmp);
    let (first, last) = (*at.first()?, *at.last()?);
    let between = at.windows(2).flat_map(|w| {
        let middle = f64::midpoint(w[0], w[1]);
        [(w[0], middle), (middle, w[1])]
    });
    let ways: Vec<(f64, f64)> = [(0.0, first), (last, length_m)].into_iter().chain(between).collect();
    let longest = ways.iter().map(|w| w.1 - w.0).fold(0.0, f64::max);
    Some((longest, ways.iter().any(|w| corners_m.iter().any(|c| *c > w.0 && *c < w.1))))
}

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

/// The three schools side by side. `computed_l_s` is what the water surface lets through before it spills; `drains` is the longest way to an
/// outlet and whether it goes round a corner.
pub fn schools(section: Section, fall: f64, drains: Option<(f64, bool)>, computed_l_s: Option<f64>, followed: &str) -> Vec<Allowed> {
    /// The standard's own reserve.
    const RESERVE: f64 = 0.9;
    let of = |school: &str, name: &str, l_s: Option<f64>, why: &str| Allowed {
        school: school.into(),
        name: name.into(),
        l_s,
        followed: school == followed,
        why: why.into(),
    };
    let share = drains.map_or(Some(1.0), |(over, corner)| standard_share(section, over, corner));
    let mut why =
        "It knows the section, how long the gutter is for its depth, and corners: a level gutter with a free outlet, less a tenth."
            .to_owned();
    if let Some(s) = share.filter(|s| *s < 1.0) {
        why.push_str(&format!(" Length and corners leave {:.0} % here.", s * 100.0));
    }
    if share.is_none() {
        why.push_str(" This gutter is longer for its depth than the standard goes: it gives no figure.");
    }
    if !matches!(section, Section::HalfRound { .. }) {
        why.push_str(" Its factors for the shape of other sections are read off charts and are not counted: take it as an upper bound.");
    }
    vec![
        of(
            "profile",
            "water surface along the run",
            computed_l_s,
            "It knows the fall at every place, the outlets, the roughness and where the water comes in.",
        ),
        of("eaves-formula", "eaves-gutter standard", share.map(|s| standard_capacity_l_s(section) * RESERVE * s), &why),
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
        let s = schools(Section::HalfRound { diameter_m: 0.125 }, 0.005, None, Some(2.0), "plumbing-table");
        assert_eq!(s.iter().filter(|a| a.followed).map(|a| a.school.as_str()).collect::<Vec<_>>(), ["plumbing-table"]);
    }

    #[test]
    fn a_long_gutter_or_one_around_a_corner_takes_less_by_the_standard() {
        let half = Section::HalfRound { diameter_m: 0.1 };
        // Depth 50 mm: up to 2.5 m nothing is taken off, at 5 m seven in a hundred, beyond 25 m there is no figure.
        assert_eq!(standard_share(half, 2.5, false), Some(1.0));
        assert!((standard_share(half, 5.0, false).unwrap() - 0.93).abs() < 1e-12);
        assert!((standard_share(half, 5.0, true).unwrap() - 0.93 * 0.85).abs() < 1e-12);
        assert_eq!(standard_share(half, 26.0, false), None);
        assert!(LONG.windows(2).all(|w| w[0].0 < w[1].0 && w[0].1 > w[1].1));
        let all = schools(half, 0.0, Some((26.0, false)), None, "eaves-formula");
        assert!(all[1].l_s.is_none() && all[1].why.contains("no figure"));
        let boxed = schools(Section::Rect { width_m: 0.1, depth_m: 0.1 }, 0.0, Some((8.0, true)), None, "eaves-formula");
        assert!(boxed[1].why.contains("upper bound") && boxed[1].why.contains("leave"), "{}", boxed[1].why);
    }

    #[test]
    fn the_way_to_an_outlet_is_from_an_end_or_from_half_way() {
        assert_eq!(drains_over(10.0, &[0.0], &[]), Some((10.0, false)));
        assert_eq!(drains_over(10.0, &[10.0, 0.0], &[3.0]), Some((5.0, true)));
        assert_eq!(drains_over(12.0, &[2.0, 6.0], &[1.0]), Some((6.0, true)));
        assert_eq!(drains_over(12.0, &[2.0, 6.0], &[]), Some((6.0, false)));
        assert_eq!(drains_over(12.0, &[], &[]), None);
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
