//! Water that is drawn is the water that was computed: in a gutter, on a flat roof, along the eaves.

use crate::sheet::{GRAIN, Point, all, covers, curve, ends, far, figure, middle, rings};
use drawing::{FlatState, Look, flat_hour_svg, flat_svg, flow_svg, section_svg};
use envelope::rain::account::{RainAccount, RainAccountInput, rain_account};
use proptest::prelude::*;
use roxmltree::{Document, Node};
use serde_json::{Value, json};

/// The tone of water in print, and of nothing else.
pub(crate) const BLUE: &str = "#1E5FA8";

pub(crate) fn rained(masses: Value, gutters: Value, flats: Value) -> (RainAccountInput, RainAccount) {
    let rainwater = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": gutters, "flats": flats });
    let input = RainAccountInput {
        roof: serde_json::from_value(json!({ "masses": masses })).unwrap(),
        rainwater: serde_json::from_value(rainwater).unwrap(),
        front_faces: None,
        driving_rain_from: None,
        practice: Default::default(),
        at_mm_h: None,
        remedies: false,
    };
    let a = rain_account(&input);
    (input, a)
}

fn blue(attribute: &'static str) -> impl Fn(&Node<'_, '_>) -> bool {
    move |n| n.attribute(attribute) == Some(BLUE)
}

/// The area under a line of points, by trapezoids.
fn under(points: impl Iterator<Item = Point> + Clone) -> f64 {
    points.clone().zip(points.skip(1)).map(|(p, q)| (q[0] - p[0]) * (p[1] + q[1]) / 2.0).sum()
}

fn gable(length: f64, depth: f64) -> Value {
    json!([{ "id": "A", "name": "house", "length": format!("{length:.2} m"), "depth": format!("{depth:.2} m"), "form": "gable",
        "pitch": { "how": "typed", "text": "6:12" }, "eave": "3 m", "overhang": "0.3 m" }])
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, ..ProptestConfig::default() })]

    /// A long section is drawn with two scales. By both of them the blue covers the water that stands in the gutter, the brim lies its
    /// height over the floor, and every divide is where it is.
    #[test]
    fn a_section_holds_the_water_of_its_gutter(length in 6.0..16.0_f64, depth in 4.0..10.0_f64, wide in 80.0..150.0_f64, falls in -25.0..25.0_f64, bore in 50.0..100.0_f64) {
        let gutter = json!([{ "id": "G1", "eave": "A.-v#1", "width": format!("{wide:.0} mm"), "levels": format!("0 0, {length:.2} {falls:.0} mm"),
            "outlets": [{ "from_left": format!("{:.2} m", length / 2.0), "bore": format!("{bore:.0} mm") }] }]);
        let (_, a) = rained(gable(length, depth), gutter, json!([]));
        let g = &a.gutters[0];
        prop_assume!(g.run.is_some());
        let run = g.run.as_ref().unwrap();
        let svg = section_svg(run, "G1", Look::PRINT);
        let sheet = Document::parse(&svg).unwrap();
        let lines: Vec<Vec<Point>> = all(&sheet, "polyline").map(curve).collect();
        let [surface, floor, brim] = &lines[..3] else { panic!("surface, floor and brim") };
        let reach = run.surface.iter().map(|p| p[0]).fold(0.0, f64::max);
        let begins = run.surface[0][0];
        let kx = (floor.last().unwrap()[0] - floor[0][0]) / (run.surface.last().unwrap()[0] - begins);
        let kz = (floor[0][1] - brim[0][1]) / run.rim_m;
        let water: f64 = all(&sheet, "path").filter(blue("fill")).flat_map(rings).map(|r| covers(&r)).sum();
        let stands = under(run.surface.iter().map(|p| [p[0], p[2]]));
        let doubt = (kx * reach + 4.0 * kz * run.deepest_m) * GRAIN * 2.0 + stands * kx * kz * 0.01;
        prop_assert!((water - stands * kx * kz).abs() < doubt, "{} drawn, {stands} computed", water / kx / kz);
        for ((f, b), s) in floor.iter().zip(brim).zip(surface) {
            prop_assert!((f[1] - b[1] - run.rim_m * kz).abs() <= 2.0 * GRAIN && s[1] <= f[1] + GRAIN, "nothing lies under the floor");
        }
        let divides: Vec<[Point; 2]> = all(&sheet, "line").map(ends).collect();
        prop_assert_eq!(divides.len(), run.divides_m.len());
        for (l, x) in divides.iter().zip(&run.divides_m) {
            prop_assert!((l[0][0] - floor[0][0] - (x - begins) * kx).abs() <= 2.0 * GRAIN, "divide {x}: {:?} from {}", l, floor[0][0]);
        }
        // It is said to spill where lines fall over its front, and only there.
        let falls = all(&sheet, "path").filter(blue("stroke")).count();
        prop_assert_eq!(falls > 0, run.spills.iter().any(|s| s.l_s > 0.0));
        prop_assert_eq!(svg.contains("spills "), falls > 0);
    }

    /// Along the eaves the wider line carries more; what pours without a gutter is broken; each is told with what it carries.
    #[test]
    fn the_wider_line_carries_more(length in 6.0..16.0_f64, depth in 4.0..10.0_f64, hip in any::<bool>()) {
        let mut masses = gable(length, depth);
        if hip {
            masses[0]["form"] = json!("hip");
        }
        let gutter = json!([{ "id": "G1", "eave": "A.-v#1", "width": "120 mm", "outlets": [{ "from_left": "1 m", "bore": "80 mm" }] }]);
        let (input, a) = rained(masses, gutter, json!([]));
        let svg = flow_svg(&input.roof, &Default::default(), &a, Some([length / 2.0, depth / 3.0]), Look::PRINT).unwrap();
        let sheet = Document::parse(&svg).unwrap();
        let mut told: Vec<(f64, f64)> = Vec::new();
        for e in &a.eaves {
            let group = sheet.descendants().find(|n| n.attribute("data-edge") == Some(&e.edge.to_string())).unwrap();
            let line = group.children().find(blue("stroke")).unwrap();
            prop_assert_eq!(line.attribute("stroke-dasharray").is_some(), e.gutter.is_none());
            told.push((e.l_min, figure(line, "stroke-width")));
        }
        told.sort_by(|p, q| p.0.total_cmp(&q.0));
        prop_assert!(told.windows(2).all(|w| w[0].1 <= w[1].1 + 1e-9), "{told:?}");
        // The roof's share is all there is: what the eaves carry adds up to the rain on the roof.
        let carried: f64 = a.eaves.iter().map(|e| e.l_min).sum();
        prop_assert!((carried / (a.sums.roof) - 1.0).abs() < 1e-6);
        // One drop: where the page says it was let go, and on by the same scale.
        let root = sheet.root_element();
        let k = figure(root, "data-k");
        let drop = all(&sheet, "polyline").filter(blue("stroke")).map(curve).next().unwrap();
        let at = |east: f64, north: f64| [figure(root, "data-margin") + (east - figure(root, "data-west")) * k, figure(root, "data-margin") + (figure(root, "data-north") - north) * k];
        prop_assert!(far([drop[0], at(length / 2.0, depth / 3.0)]) < 2.0 * GRAIN);
    }

    /// A flat roof under its blocked outlets: deeper water lies within shallower, all of it within the border, and turned as the roof is.
    #[test]
    fn standing_water_lies_within_the_border(length in 3.0..12.0_f64, depth in 3.0..9.0_f64, up in 0.0..60.0_f64) {
        let masses = json!([{ "id": "A", "name": "flat", "length": format!("{length:.2} m"), "depth": format!("{depth:.2} m"), "form": "flat",
            "pitch": { "how": "typed", "text": "0:12" }, "eave": "3 m", "overhang": "0 m" }]);
        let out = json!({ "kind": "scupper", "face": "rear", "from_left": "1 m", "size": "300 x 100 mm", "up": format!("{up:.0} mm"), "distance": "1 m" });
        let flat = json!([{ "mass": "A", "parapets": { "front": "300 mm", "rear": "300 mm", "left": "300 mm", "right": "300 mm" }, "outlets": [out] }]);
        let (input, a) = rained(masses, json!([]), flat);
        let (kept, f) = (&input.rainwater.flats[0], &a.flats[0]);
        prop_assert_eq!(&f.problem, &None);
        for state in [FlatState::Rain, FlatState::Blocked, FlatState::After] {
            let water = match state {
                FlatState::Rain => &f.rain,
                FlatState::Blocked => f.blocked.as_ref().unwrap(),
                FlatState::After => &f.stays,
            };
            let svg = flat_svg(kept, f, state, Look::PRINT).unwrap();
            let sheet = Document::parse(&svg).unwrap();
            let border: Vec<[Point; 2]> = all(&sheet, "line").map(ends).filter(|l| far(*l) > 20.0).collect();
            let k = border.iter().map(|l| far(*l)).fold(0.0, f64::max) / f.border.iter().map(|b| far(b.ends_m)).fold(0.0, f64::max);
            let corners: Vec<Point> = border.iter().flatten().copied().collect();
            let reach = |i: usize| corners.iter().map(|p| p[i]).fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
            let (x, y) = (reach(0), reach(1));
            prop_assert!(((x.1 - x.0) * (y.1 - y.0) / k / k / f.plan_m2 - 1.0).abs() < 0.02, "the border holds the roof");
            let drawn: Vec<Vec<Vec<Point>>> = all(&sheet, "path").filter(blue("fill")).map(rings).collect();
            prop_assert_eq!(drawn.len(), water.outlines.len());
            for (d, o) in drawn.iter().zip(&water.outlines) {
                let (paper, roof): (f64, f64) = (d.iter().map(|r| covers(r)).sum(), o.rings.iter().map(|r| covers(r)).sum());
                prop_assert!((paper / k / k - roof).abs() < 0.05 + 0.02 * roof, "{paper} {roof}");
                for p in d.iter().flatten() {
                    prop_assert!(p[0] > x.0 - 1.0 && p[0] < x.1 + 1.0 && p[1] > y.0 - 1.0 && p[1] < y.1 + 1.0, "{p:?} is off the roof");
                }
            }
            // Where all of it stands under water, all of it is drawn so: the edge of the water is the edge of the roof.
            if water.pools.iter().map(|p| p.area_m2).sum::<f64>() > 0.999 * f.plan_m2 {
                let paper = drawn.iter().map(|d| d.iter().map(|r| covers(r)).sum()).fold(0.0, f64::max);
                prop_assert!((paper / k / k / f.plan_m2 - 1.0).abs() < 0.01, "{} of {}", paper / k / k, f.plan_m2);
            }
            let mut by_depth: Vec<(f64, f64)> = water.outlines.iter().map(|o| (o.depth_m, o.rings.iter().map(|r| covers(r)).sum())).collect();
            by_depth.sort_by(|p, q| p.0.total_cmp(&q.0));
            prop_assert!(by_depth.windows(2).all(|w| w[1].1 <= w[0].1 + 1e-6), "{by_depth:?}");
            // The outlet is shown on the border, and barred when nothing passes.
            let open = all(&sheet, "circle").filter(blue("fill")).map(middle).count();
            prop_assert_eq!(open, usize::from(state != FlatState::Blocked));
        }
    }

    /// The course of an hour: what the curve covers is the depth through time, its top is the deepest, the rain ends at sixty minutes.
    #[test]
    fn an_hour_is_drawn_to_scale(length in 3.0..12.0_f64, depth in 3.0..9.0_f64, size in 60.0..300.0_f64) {
        let masses = json!([{ "id": "A", "name": "flat", "length": format!("{length:.2} m"), "depth": format!("{depth:.2} m"), "form": "flat",
            "pitch": { "how": "typed", "text": "0:12" }, "eave": "3 m", "overhang": "0 m" }]);
        let out = json!({ "kind": "scupper", "face": "front", "from_left": "1 m", "size": format!("{size:.0} x 100 mm"), "distance": "1 m" });
        let (_, a) = rained(masses, json!([]), json!([{ "mass": "A", "parapets": { "front": "300 mm", "rear": "300 mm", "left": "300 mm", "right": "300 mm" }, "outlets": [out] }]));
        let f = &a.flats[0];
        prop_assume!(f.hour.is_some());
        let hour = f.hour.as_ref().unwrap();
        let svg = flat_hour_svg(f, Look::PRINT).unwrap();
        let sheet = Document::parse(&svg).unwrap();
        let course = all(&sheet, "polyline").map(curve).next().unwrap();
        prop_assert_eq!(course.len(), hour.course.len());
        // Ticks say how many units a minute is; the word at the left how deep the top of the sheet is.
        let tick = |m: &str| all(&sheet, "text").find(|t| t.text() == Some(m)).map(|t| figure(t, "x")).unwrap();
        let per_minute = (tick("60 min") - tick("0 min")) / 60.0;
        let base = course[0][1].max(course[course.len() - 1][1]);
        let top = course.iter().map(|p| p[1]).fold(f64::MAX, f64::min);
        let deepest = hour.course.iter().map(|m| m.depth_mm).fold(0.0, f64::max);
        prop_assume!(deepest > 1.0 && hour.course[0].depth_mm < 0.01);
        let per_mm = (base - top) / deepest;
        let paper = under(course.iter().map(|p| [p[0], base - p[1]]));
        let water = under(hour.course.iter().map(|m| [m.minute, m.depth_mm]));
        prop_assert!((paper / per_minute / per_mm / water - 1.0).abs() < 0.03, "{} {water}", paper / per_minute / per_mm);
        let end = all(&sheet, "line").filter(|l| l.attribute("stroke-dasharray").is_some()).map(ends).next().unwrap();
        prop_assert!((end[0][0] - tick("60 min")).abs() <= GRAIN + 1e-9);
        // No litre is made or lost in it.
        prop_assert!((hour.came_l - hour.outlets_l - hour.edges_l - hour.stays_l).abs() < 1e-6 * hour.came_l.max(1.0) + 0.01, "{hour:?}");
    }
}
