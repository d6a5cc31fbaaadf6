//! The roof: areas, lengths and directions can be taken off the plan and the elevations.

use crate::sheet::{GRAIN, Point, all, covers, curve, ends, far, figure, keyed, middle, rings, scale, slack};
use drawing::{Look, elevation_svg, perimeter_svg, plan_svg};
use envelope::measure::Units;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::perimeter::{TraverseInput, traverse};
use envelope::roof::walked::walls;
use proptest::prelude::*;
use roxmltree::Document;
use serde_json::{Value, json};

const FORMS: [&str; 6] = ["hip", "gable", "half-hip", "gambrel", "mansard", "shed"];

/// A main part and a wing against it, or the main part alone where the wing cannot stand there.
fn built(form: usize, size: [f64; 2], pitch: f64, overhang: f64, wing: (usize, [f64; 2], f64)) -> Account {
    let mass = |id: &str, form: usize, size: [f64; 2], eave: &str| {
        json!({ "id": id, "name": id, "length": format!("{:.2} m", size[0]), "depth": format!("{:.2} m", size[1]), "form": FORMS[form],
            "pitch": { "how": "typed", "text": format!("{pitch:.1}:12") }, "eave": eave, "overhang": format!("{overhang:.2} m") })
    };
    let main = mass("A", form, size, "5 m");
    let (wing_form, wing_size, left) = wing;
    let mut side = mass("B", wing_form, wing_size, "3 m");
    side["against"] = json!({ "mass": "A", "face": "front", "from_left": format!("{left:.2} m") });
    side["falls_to"] = json!("front");
    let roof = |masses: Vec<Value>| serde_json::from_value::<envelope::roof::record::Roof>(json!({ "masses": masses })).unwrap();
    let both = roof(vec![main.clone(), side]);
    let roof = if both.check().is_ok() { both } else { roof(vec![main]) };
    let input = AccountInput { roof, brief: Default::default(), practice: Default::default(), today: "2026-11-23".parse().unwrap() };
    account(&input, &[])
}

/// A house that says what was built when a law does not hold for it, and not all that follows from it.
struct House {
    told: String,
    account: Account,
}

impl std::fmt::Debug for House {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.told)
    }
}

impl std::ops::Deref for House {
    type Target = Account;
    fn deref(&self) -> &Account {
        &self.account
    }
}

fn any_house() -> impl Strategy<Value = House> {
    let wing = (0..6_usize, [2.0..6.0_f64, 2.0..6.0_f64], 0.0..8.0_f64);
    (0..6_usize, [6.0..20.0_f64, 5.0..12.0_f64], 2.0..14.0_f64, 0.0..0.8_f64, wing)
        .prop_map(|(form, size, pitch, overhang, wing)| House {
            told: format!("{} of {size:.2?} at {pitch:.1}:12, {overhang:.2} over, with {} {wing:.2?}", FORMS[form], FORMS[wing.0]),
            account: built(form, size, pitch, overhang, wing),
        })
        .prop_filter("a roof that has a shape", |h| h.shape.is_some())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// Every slope covers on the paper what it covers seen from above, and together they cover the roof. In feet the bar is another
    /// and the roof the same.
    #[test]
    fn areas_can_be_taken_off_the_plan(house in any_house()) {
        let shape = house.shape.as_ref().unwrap();
        for units in [Units::Metric, Units::Us] {
            let svg = plan_svg(&house, Look::PRINT.in_units(units)).unwrap();
            let sheet = Document::parse(&svg).unwrap();
            let k = scale(&sheet);
            let mut sum = 0.0;
            for f in &shape.facets {
                let paths = keyed(&sheet, "data-facet", &f.id).children().filter(|n| n.has_tag_name("path"));
                let drawn: Vec<_> = paths.flat_map(rings).collect();
                prop_assert_eq!(drawn.len(), f.parts.iter().map(|p| 1 + p.holes.len()).sum::<usize>());
                // What is cut out of a part is drawn the other way round, or at least as a ring of its own.
                let mut at = 0;
                let mut area = 0.0;
                for p in &f.parts {
                    area += covers(&drawn[at]) - drawn[at + 1..=at + p.holes.len()].iter().map(|h| covers(h)).sum::<f64>();
                    at += 1 + p.holes.len();
                }
                let off: f64 = drawn.iter().map(|r| slack(r)).sum();
                // The bar itself is read to a tenth of a unit.
                let doubt = off + area * 2.0 * GRAIN / 20.0;
                prop_assert!((area - f.plan_area_m2 * k * k).abs() < doubt, "{}: {} drawn, {} computed", f.id, area / k / k, f.plan_area_m2);
                sum += area / k / k;
            }
            prop_assert!((sum / shape.plan_area_m2 - 1.0).abs() < 0.03, "{sum} of {}", shape.plan_area_m2);
        }
    }

    /// Every edge is as long on the paper as it is seen from above, and is told with its true length, which is never shorter.
    #[test]
    fn edges_are_as_long_as_they_are(house in any_house()) {
        let shape = house.shape.as_ref().unwrap();
        let svg = plan_svg(&house, Look::PRINT).unwrap();
        let sheet = Document::parse(&svg).unwrap();
        let k = scale(&sheet);
        for e in &shape.edges {
            let group = keyed(&sheet, "data-edge", &e.id.to_string());
            let lines: Vec<[Point; 2]> = group.children().filter(|n| n.has_tag_name("line")).map(ends).collect();
            prop_assert!(lines.len() == 2 && lines[0] == lines[1], "what is pressed lies on what is seen");
            let seen = far([e.p0, e.p1]);
            prop_assert!((far(lines[0]) - seen * k).abs() < 2.0 * GRAIN + seen * k * 0.012, "{}: {} of {seen}", e.id, far(lines[0]) / k);
            prop_assert!(e.true_m > seen - 1e-9);
            let name = group.attribute("aria-label").unwrap();
            prop_assert!(name.ends_with(&Units::Metric.length(e.true_m, 2)), "{name}");
        }
    }

    /// The arrow on each slope points where its water runs.
    #[test]
    fn arrows_point_down_the_slope(house in any_house()) {
        let shape = house.shape.as_ref().unwrap();
        let svg = plan_svg(&house, Look::PRINT).unwrap();
        let sheet = Document::parse(&svg).unwrap();
        let down: Vec<f64> = shape.facets.iter().filter_map(|f| f.downslope_azimuth_deg).collect();
        let arrows: Vec<Vec<Point>> = all(&sheet, "polyline").map(curve).collect();
        prop_assert_eq!(arrows.len(), down.len());
        for (arrow, azimuth) in arrows.iter().zip(down) {
            let back = [(arrow[0][0] + arrow[2][0]) / 2.0, (arrow[0][1] + arrow[2][1]) / 2.0];
            let (east, south) = (arrow[1][0] - back[0], arrow[1][1] - back[1]);
            let off = (east.atan2(-south).to_degrees() - azimuth).rem_euclid(360.0);
            prop_assert!(off.min(360.0 - off) < 2.0, "{azimuth}: {off} beside it");
        }
    }

    /// An elevation has one scale for heights and widths, and stands on its ground.
    #[test]
    fn elevations_are_not_stretched(house in any_house()) {
        for e in &house.elevations {
            let svg = elevation_svg(e, &house, Look::PRINT);
            let sheet = Document::parse(&svg).unwrap();
            // What hatches a slope is drawn once, in a corner of its own.
            let shown = |n: &roxmltree::Node<'_, '_>| n.ancestors().all(|a| !a.has_tag_name("pattern"));
            let points: Vec<Point> = all(&sheet, "path").filter(shown).flat_map(rings).flatten().collect();
            prop_assert_eq!(points.len(), e.outlines.iter().map(|o| o.points.len()).sum::<usize>());
            let reach = |i: usize| points.iter().map(|p| p[i]).fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
            let ((left, right), (top, foot)) = (reach(0), reach(1));
            let (kx, ky) = ((right - left) / e.width_m, (foot - top) / e.height_m);
            prop_assert!((kx / ky - 1.0).abs() < 0.02, "{} across, {} up", kx, ky);
            let ground = all(&sheet, "line").map(ends).map(|l| l[0][1]).fold(f64::MIN, f64::max);
            prop_assert!((ground - foot).abs() <= GRAIN + 1e-9, "the walls end at {foot}, the ground lies at {ground}");
        }
    }

    /// The walls as they were walked: the drawing covers what the account says, and each wall bears its number in turn.
    #[test]
    fn a_walk_covers_what_it_says(a in 4.0..20.0_f64, b in 4.0..15.0_f64, off in -0.2..0.2_f64, left in any::<bool>()) {
        let turn = if left { "L" } else { "R" };
        let t = traverse(&TraverseInput { heading0_deg: 0.0, walls: walls(&format!("{a:.2} {turn} {b:.2} {turn} {:.2} {turn} {b:.2} {turn}", a + off)).unwrap() }).unwrap();
        let svg = perimeter_svg(&t, Look::PRINT);
        let sheet = Document::parse(&svg).unwrap();
        let k = scale(&sheet);
        // Walls are drawn first, one after the other.
        let drawn: Vec<[Point; 2]> = all(&sheet, "line").map(ends).take(4).collect();
        let ring: Vec<Point> = drawn.iter().map(|l| l[0]).collect();
        for (n, l) in drawn.iter().enumerate() {
            prop_assert!(far([l[1], drawn[(n + 1) % 4][0]]) <= GRAIN * 1.5, "wall {n} does not meet the next");
            prop_assert!((far(*l) / k - t.adjusted_wall_lengths_m[n]).abs() < 0.02 * a + 0.02, "wall {n}");
        }
        prop_assert!((covers(&ring) / k / k / t.area_adjusted_m2 - 1.0).abs() < 0.025);
        let numbers: Vec<&str> = all(&sheet, "text").filter_map(|n| n.text()).filter(|t| t.parse::<u8>().is_ok()).collect();
        prop_assert_eq!(numbers, ["1", "2", "3", "4"]);
        // The number of a wall stands outside what is walked round.
        let within = |p: Point| (0..4).filter(|i| {
            let (a, b) = (ring[*i], ring[(*i + 1) % 4]);
            (a[1] > p[1]) != (b[1] > p[1]) && p[0] < (b[0] - a[0]) * (p[1] - a[1]) / (b[1] - a[1]) + a[0]
        }).count() % 2 == 1;
        for n in all(&sheet, "text").filter(|n| n.text().is_some_and(|t| t.parse::<u8>().is_ok())) {
            let foot = [figure(n, "x"), figure(n, "y") - 4.0];
            prop_assert!(!within(foot), "{:?} stands inside", n.text());
        }
        let start = all(&sheet, "circle").map(middle).next().unwrap();
        prop_assert!(far([start, ring[0]]) < 3.0 * GRAIN + k * t.linear_misclosure_m);
    }
}
