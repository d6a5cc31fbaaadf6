//! What is drawn of the clinic, measured with a ruler against what is said of it.

#[path = "../../../crates/drawing/tests/whole/sheet.rs"]
#[allow(dead_code, reason = "each program uses its own part of it")]
mod sheet;

use self::sheet::{GRAIN, Point, all, covers, curve, ends, far, figure, keyed, middle, rings, scale};
use crate::case;
use drawing::{
    GroundOver, Look, drying_svg, ground_svg, moisture_svg, rain_svg, reserve_svg, rooms_svg, square_svg, trace_plan_svg, transect_svg,
};
use envelope::moisture::map::{RAISED, WET};
use envelope::years::reserve::{ReserveInput, ReserveThing, reserve};
use roxmltree::{Document, Node};

const BLUE: &str = "#1E5FA8";

fn blue(n: &Node<'_, '_>) -> bool {
    n.attribute("fill") == Some(BLUE)
}

/// A pond is drawn as large as it is said to be, in bands that rise from its bottom to its brim.
#[test]
fn ponds_cover_what_they_are_said_to() {
    let case = case(|_| ());
    let survey = case.survey();
    let svg = ground_svg(survey, &case.ground_kept(), GroundOver::default(), Look::PRINT).unwrap();
    let sheet = Document::parse(&svg).unwrap();
    let k = scale(&sheet);
    assert!((k / figure(sheet.root_element(), "data-k") - 1.0).abs() < 0.01, "the bar and what the page is told are one scale");
    assert!(!survey.account.ponds.is_empty());
    for pond in &survey.account.ponds {
        let bands: Vec<Node<'_, '_>> = keyed(&sheet, "data-pond", &pond.id).children().filter(blue).collect();
        let drawn: f64 = bands.iter().flat_map(|b| rings(*b)).map(|r| covers(&r)).sum::<f64>() / k / k;
        assert!((drawn / pond.area_m2 - 1.0).abs() < 0.06, "{}: {drawn} drawn, {} said", pond.id, pond.area_m2);
        let from: Vec<f64> = bands.iter().map(|b| figure(*b, "data-from")).collect();
        assert!(from.windows(2).all(|w| w[0] < w[1]), "{from:?}");
        let brim = pond.brim_m.unwrap();
        assert!(from[0] >= brim - pond.depth_m - 1e-4 && from[from.len() - 1] < brim, "{from:?} under {brim}");
    }
    // Readings lie where they were taken, by the same scale and the same north.
    let readings = &survey.account.readings;
    let at = |id: &str| keyed(&sheet, "data-piece", id).children().find(|n| n.has_tag_name("circle")).map(middle).unwrap();
    let (first, last) = (&readings[0], &readings[readings.len() - 1]);
    let (p, q) = (at(&first.id), at(&last.id));
    let east = (q[0] - p[0]) / k - (last.north[0] - first.north[0]);
    let north = (p[1] - q[1]) / k - (last.north[1] - first.north[1]);
    assert!(east.abs() < 0.1 && north.abs() < 0.1, "{east} {north}");
}

/// A profile: heights and lengths each have one scale; what is asked of the ground falls by what is asked.
#[test]
fn a_profile_keeps_its_two_scales() {
    let case = case(|_| ());
    let all_of = &case.survey().account.transects;
    assert!(all_of.len() > 1);
    let mut short = 0;
    for t in all_of {
        let svg = transect_svg(t, Look::PRINT);
        let sheet = Document::parse(&svg).unwrap();
        let dots: Vec<Point> = all(&sheet, "circle").map(middle).collect();
        let wall = (0.0, t.input.wall_side_elevation_m);
        let points: Vec<(f64, f64)> = std::iter::once(wall).chain(t.input.points.iter().map(|p| (p.distance_m, p.elevation_m))).collect();
        assert_eq!(dots.len(), points.len());
        let far_out = points.len() - 1;
        let kx = (dots[far_out][0] - dots[0][0]) / points[far_out].0;
        let (low, high) = (0..points.len())
            .fold((0, 0), |(l, h), i| (if points[i].1 < points[l].1 { i } else { l }, if points[i].1 > points[h].1 { i } else { h }));
        let kz = (dots[low][1] - dots[high][1]) / (points[high].1 - points[low].1);
        let paper = |x: f64, z: f64| [dots[0][0] + x * kx, dots[0][1] + (wall.1 - z) * kz];
        for (dot, (x, z)) in dots.iter().zip(&points) {
            assert!(far([*dot, paper(*x, *z)]) < 3.0 * GRAIN, "{x} {z}");
        }
        let Some(r) = &t.result else { continue };
        let asked = all(&sheet, "line").find(|l| l.attribute("stroke-dasharray") == Some("6 4")).map(ends).unwrap();
        assert!(far([asked[0], dots[0]]) < 2.0 * GRAIN);
        // The scale is known as well as the two heights lie apart that it is taken from.
        let known = 2.0 * GRAIN / (dots[low][1] - dots[high][1]) * (asked[1][1] - asked[0][1]).abs();
        assert!(far([asked[1], paper(r.reach_used_m, wall.1 - r.required_fall_m)]) < 4.0 * GRAIN + known, "{asked:?}");
        let missing = svg.contains(" missing<");
        assert_eq!(missing, r.deficit_m > 5e-4);
        short += usize::from(missing);
    }
    assert!(short > 0, "none of the clinic's profiles lacks fall, so little was tried");
}

/// The map of a surface: what is drawn wet is the part of its triangles whose level is wet, and each reading lies where it was taken.
#[test]
fn what_is_wet_on_the_map_is_wet() {
    let case = case(|_| ());
    let moisture = case.moisture();
    let mut mapped = 0;
    for m in &moisture.maps {
        let svg = moisture_svg(m, &moisture.heat, Look::PRINT);
        let sheet = Document::parse(&svg).unwrap();
        let k = scale(&sheet);
        let dots: Vec<Node<'_, '_>> = all(&sheet, "circle").collect();
        assert_eq!(dots.len(), m.readings.len());
        for (a, b) in m.readings.iter().zip(&dots).flat_map(|a| m.readings.iter().zip(&dots).map(move |b| (a, b))) {
            let (p, q) = (middle(*a.1), middle(*b.1));
            assert!(((q[0] - p[0]) / k - (b.0.x_m - a.0.x_m)).abs() < 0.03 && ((p[1] - q[1]) / k - (b.0.y_m - a.0.y_m)).abs() < 0.03);
        }
        let Some(map) = &m.map else { continue };
        mapped += 1;
        // A law of its own for the share of a triangle over a level: sampled, where the drawing cuts.
        let share = |t: &[[f64; 3]; 3], from: f64, to: f64| {
            const N: usize = 200;
            let mut inside = 0;
            for (i, j) in (0..N).flat_map(|i| (0..N - i).map(move |j| (i, j))) {
                let (u, v) = ((i as f64 + 1.0 / 3.0) / N as f64, (j as f64 + 1.0 / 3.0) / N as f64);
                let level = t[0][2] + u * (t[1][2] - t[0][2]) + v * (t[2][2] - t[0][2]);
                inside += usize::from(level >= from && level < to);
            }
            inside as f64 / (N * (N + 1) / 2) as f64 * covers(&t.map(|c| [c[0], c[1]]))
        };
        for (opacity, from, to) in [("0.28", RAISED, WET), ("0.45", WET, f64::INFINITY)] {
            let said: f64 = map.triangles.iter().map(|t| share(&t.corners, from, to)).sum();
            let paths = all(&sheet, "path").filter(|p| p.attributes().any(|a| a.value() == opacity));
            let drawn: f64 = paths.flat_map(rings).map(|r| covers(&r)).sum::<f64>() / k / k;
            assert!((drawn - said).abs() < 0.02 + 0.03 * said, "{} from {from}: {drawn} drawn, {said} by count", m.name);
        }
    }
    assert!(mapped > 0);
}

/// Rooms: each covers its floor, by the bar's scale.
#[test]
fn rooms_cover_their_floors() {
    let case = case(|_| ());
    let moisture = case.moisture();
    let svg = rooms_svg(moisture, Look::PRINT).unwrap();
    let sheet = Document::parse(&svg).unwrap();
    let k = scale(&sheet);
    let drawn: Vec<f64> = all(&sheet, "path").flat_map(rings).map(|r| covers(&r) / k / k).collect();
    let rooms: Vec<f64> = moisture.rooms.iter().filter(|r| !r.corners.is_empty()).map(|r| r.area_m2).collect();
    assert!(!rooms.is_empty() && drawn.len() >= rooms.len());
    for (d, a) in drawn[drawn.len() - rooms.len()..].iter().zip(&rooms) {
        assert!((d / a - 1.0).abs() < 0.03, "{d} drawn, {a} said");
    }
}

/// How a place dries: every reading lies on one scale of days and one of figures, and the dry level lies at its figure.
#[test]
fn a_place_dries_to_scale() {
    let case = case(|_| ());
    let moisture = case.moisture();
    assert!(!moisture.drying.is_empty());
    for d in &moisture.drying {
        let svg = drying_svg(d, Look::PRINT);
        let sheet = Document::parse(&svg).unwrap();
        let [left, right] = all(&sheet, "line").map(ends).next().unwrap();
        let dry = all(&sheet, "line").find(|l| l.attribute("stroke-dasharray").is_some()).map(ends).unwrap();
        let per_figure = (left[1] - dry[0][1]) / d.dry_level;
        let dots: Vec<Point> = all(&sheet, "circle").map(middle).collect();
        assert_eq!(dots.len(), d.readings.len());
        let last = d.readings.iter().zip(&dots).max_by(|a, b| a.0.day.total_cmp(&b.0.day)).unwrap();
        let per_day = (last.1[0] - left[0]) / last.0.day;
        for (r, p) in d.readings.iter().zip(&dots) {
            assert!((p[0] - left[0] - r.day * per_day).abs() < 3.0 * GRAIN && p[0] <= right[0], "day {}", r.day);
            assert!((left[1] - p[1] - r.value * per_figure).abs() < 0.5 + 0.02 * r.value * per_figure, "{} on day {}", r.value, r.day);
        }
    }
}

/// The likelier a candidate, the larger its circle, and the shares that are told are those of the account.
#[test]
fn circles_are_as_large_as_their_candidates_are_likely() {
    let case = case(|_| ());
    let (trace, kept) = (case.trace(), case.trace_kept());
    let mut told = 0;
    for spot in &kept.spots {
        let Some(svg) = trace_plan_svg(trace, &spot.id, Look::PRINT) else { continue };
        let sheet = Document::parse(&svg).unwrap();
        let of = trace.result.iter().flat_map(|r| &r.spots).find(|s| s.id == spot.id);
        let shares: Vec<f64> = of.iter().flat_map(|s| &s.candidates).map(|c| c.p).collect();
        let mut circles: Vec<(f64, f64)> = all(&sheet, "g")
            .filter_map(|g| {
                let title = g.children().find(|n| n.has_tag_name("title"))?.text()?;
                let share: f64 = title.strip_suffix(" %")?.rsplit(' ').next()?.parse().ok()?;
                Some((share, figure(g.children().find(|n| n.has_tag_name("circle"))?, "r")))
            })
            .collect();
        for (share, _) in &circles {
            assert!(*share < 0.5 || shares.iter().any(|p| (p * 100.0 - share).abs() <= 0.5 + 1e-9), "{share} of {shares:?}");
        }
        // Two may feed a spot together, and three are not weighed.
        assert!(circles.iter().map(|c| c.0).sum::<f64>() <= 200.0 + 0.5 * circles.len() as f64, "{circles:?}");
        circles.sort_by(|a, b| a.0.total_cmp(&b.0));
        // Whole percents: two that are told alike may differ by what half a percent is.
        assert!(circles.windows(2).all(|w| w[0].0 == w[1].0 || w[0].1 <= w[1].1 + GRAIN), "{circles:?}");
        told += circles.len();
    }
    assert!(told > 5, "{told}");
}

/// A bar for each hour of rain, as high as its root; the sightings of the spot stand on their hours.
#[test]
fn every_hour_of_rain_has_its_bar() {
    let case = case(|_| ());
    let kept = case.trace_kept();
    let spot = &kept.spots[0].id;
    let svg = rain_svg(&kept, spot, &kept.days(), Look::PRINT).unwrap();
    let sheet = Document::parse(&svg).unwrap();
    let bars: Vec<Node<'_, '_>> = all(&sheet, "rect").filter(blue).collect();
    assert_eq!(bars.len(), kept.rain.hours.len());
    let most = kept.rain.hours.iter().map(|h| h.mm).fold(4.0, f64::max);
    let full = bars.iter().map(|b| figure(*b, "height")).fold(0.0, f64::max)
        / (kept.rain.hours.iter().map(|h| h.mm).fold(0.0, f64::max) / most).sqrt();
    for (h, b) in kept.rain.hours.iter().zip(&bars) {
        assert!((figure(*b, "height") - full * (h.mm / most).sqrt()).abs() < 0.2, "{} mm", h.mm);
    }
    assert!(bars.windows(2).all(|w| figure(w[0], "x") <= figure(w[1], "x")), "hours follow one another");
    assert_eq!(all(&sheet, "circle").count(), kept.seen.iter().filter(|q| q.spot == *spot).count());
}

/// The reserve: a step for each year, the range around the middle, and the level line ends at what is put by.
#[test]
fn the_reserve_is_drawn_to_scale() {
    let things = vec![
        ReserveThing { name: "Roof".into(), cost: 18_000.0, due: [3.0, 7.0, 12.0], again_after: None },
        ReserveThing { name: "Gutters".into(), cost: 2_400.0, due: [1.0, 2.0, 4.0], again_after: None },
    ];
    let plan = reserve(&ReserveInput { from_year: 2027, years: 15, things }).unwrap();
    let svg = reserve_svg(&plan, Look::PRINT).unwrap();
    let sheet = Document::parse(&svg).unwrap();
    // The scale as it is written at the left.
    let marks: Vec<(f64, f64)> = all(&sheet, "text")
        .filter(|t| t.attribute("text-anchor") == Some("end"))
        .map(|t| (t.text().unwrap().parse().unwrap(), figure(t, "y") - 4.0))
        .collect();
    let (zero, top) = (marks[0], marks[marks.len() - 1]);
    let money = |y: f64| (zero.1 - y) / (zero.1 - top.1) * top.0;
    let lines: Vec<Vec<Point>> = all(&sheet, "polyline").map(curve).collect();
    let [middle_line, put] = &lines[..] else { panic!("the middle and what is put by") };
    let coarse = top.0 / (zero.1 - top.1) * 2.0 * GRAIN;
    for (k, y) in plan.years.iter().enumerate() {
        assert!((money(middle_line[2 * k + 2][1]) - y.spent[1]).abs() <= coarse, "{}", y.year);
        assert!((money(put[k + 1][1]) - plan.level * (k + 1) as f64).abs() <= coarse, "{}", y.year);
    }
    assert!(middle_line.windows(2).all(|w| w[1][1] <= w[0][1] + 1e-9), "what is spent stays spent");
    let band = all(&sheet, "path").flat_map(rings).next().unwrap();
    let (least, most) = band.iter().map(|p| money(p[1])).fold((f64::MAX, f64::MIN), |(l, h), m| (l.min(m), h.max(m)));
    assert!(least > -coarse && (most - plan.years.iter().map(|y| y.spent[2]).fold(0.0, f64::max)).abs() <= coarse);
}

/// A square bears a mark for each hit, in its form, where it was set.
#[test]
fn hits_lie_in_their_square() {
    let set: Vec<[f64; 2]> = (0..9).map(f64::from).map(|k| [0.1 + 0.1 * k, 0.9 - 0.08 * k]).collect();
    let hits: Vec<serde_json::Value> = set
        .iter()
        .enumerate()
        .map(|(k, [x, y])| serde_json::json!({ "id": format!("h{k}"), "x": x, "y": y, "size": "18 mm", "unsure": k % 3 == 1 }))
        .collect();
    let case = case(|whole| {
        let visit =
            serde_json::json!({ "squares": [{ "id": "Q1", "slope": "A.-v", "seed": 7, "wide": "10 ft", "high": "10 ft", "hits": hits }] });
        whole.storm = Some(ledger::Record { id: "storm".into(), rev: 1, body: serde_json::from_value(visit).unwrap() });
    });
    let (kept, damage) = (case.damage_kept(), case.damage());
    let svg = square_svg(&kept.squares[0], &damage.squares[0], Look::PRINT);
    let sheet = Document::parse(&svg).unwrap();
    let n = |name: &str| figure(sheet.root_element(), name);
    let dots: Vec<(Point, bool)> = all(&sheet, "circle").map(|c| (middle(c), c.attribute("stroke").is_none())).collect();
    assert_eq!(dots.len(), set.len());
    for (k, ([x, y], (dot, filled))) in set.iter().zip(&dots).enumerate() {
        let at = [n("data-left") + x * n("data-wide"), n("data-top") + (1.0 - y) * n("data-high")];
        assert!(far([*dot, at]) < 2.0 * GRAIN, "hit {k} is not at {at:?} but at {dot:?}");
        assert_eq!(*filled, k % 3 != 1, "a doubtful hit is a ring");
    }
    let counted = &damage.squares[0];
    assert_eq!((counted.sure, counted.doubtful), (6, 3));
}
