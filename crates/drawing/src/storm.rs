//! The count after a storm: the roof with squares and hits to scale, one square seen square on, rates with their ranges on one scale.

use crate::palette::Look;
use crate::roof::{Frame, halo, number, roof_base};
use crate::svg::{Style, Svg};
use envelope::roof::account::Account;
use envelope::site::{Cell, Wheel, Zone};
use envelope::storm::figures::{SquareOut, StormAccount};
use envelope::storm::hits::HitVerdict;
use envelope::storm::record::{Fresh, SoftKept, SoftThing, SquareKept};

/// A mark: a sure hit is filled, a doubtful one is a ring, what is no hail is a cross. The form says it, no tone has to.
fn mark(s: &mut Svg, at: [f64; 2], r: f64, verdict: HitVerdict, title: &str) {
    let (ink, under) = (s.look.ink, s.look.plaster);
    let [x, y] = at;
    s.titled(title, |s| match verdict {
        HitVerdict::Hit => s.circle([x, y], r, &Style::new().fill(ink)),
        HitVerdict::Doubtful => {
            s.circle([x, y], r, &Style::new().fill(under).stroke(ink, 1.6));
        }
        HitVerdict::NotHail => {
            s.line([x - r, y - r], [x + r, y + r], &Style::new().stroke(ink, 1.6));
            s.line([x - r, y + r], [x + r, y - r], &Style::new().stroke(ink, 1.6));
        }
    });
}

/// The roof with its squares and hits, and an arrow where the likeliest storm came from. `None` while there is no roof.
pub fn storm_plan_svg(roof: &Account, a: &StormAccount, from_deg: Option<f64>, look: Look) -> Option<String> {
    let shape = roof.shape.as_ref()?;
    let frame = Frame::of(shape);
    let mut s = Svg::new(look);
    roof_base(&mut s, &frame, roof, shape);
    for e in &shape.edges {
        s.line(frame.at(e.p0), frame.at(e.p1), &Style::new().stroke(look.ink, 1.4).round());
    }
    for q in a.squares.iter().filter(|q| !q.corners.is_empty()) {
        let ring: Vec<[f64; 2]> = q.corners.iter().map(|p| frame.at(*p)).collect();
        s.group(&Style::button("data-square", &q.id, &format!("{}: {}", q.id, q.words)), |s| {
            s.path(&[ring], &Style::new().fill(look.plaster).stroke(look.copper, 2.0).when(!q.counted, |s| s.dash("5 3")));
        });
        for m in &q.marks {
            if let Some(at) = m.at {
                mark(&mut s, frame.at(at), 2.4, m.verdict, &m.words);
            }
        }
    }
    for f in &shape.facets {
        // The number stands by the low edge, clear of most squares.
        let low = f.downslope_azimuth_deg.map_or([0.0, 0.0], |d| [d.to_radians().sin(), d.to_radians().cos()]);
        let foot = f
            .parts
            .iter()
            .flat_map(|p| &p.outer)
            .map(|p| (p[0] - f.middle[0]) * low[0] + (p[1] - f.middle[1]) * low[1])
            .fold(0.0, f64::max);
        let [x, y] = frame.at([f.middle[0] + low[0] * foot * 0.8, f.middle[1] + low[1] * foot * 0.8]);
        s.text([x, y + 4.0], &number(roof, &f.id), &Style::new().middle().weight(600).and(&halo(look)));
    }
    for q in a.squares.iter().filter(|q| !q.corners.is_empty()) {
        let top = q.corners.iter().map(|p| frame.at(*p)).reduce(|a, b| if b[1] < a[1] { b } else { a }).unwrap_or_default();
        let said = if q.counted { format!("{} · {}", q.id, q.sure + q.doubtful) } else { q.id.clone() };
        s.text([top[0], top[1] - 4.0], &said, &Style::new().middle().and(&halo(look)));
    }
    if let Some(d) = from_deg.filter(|_| roof.oriented) {
        // It blows from there toward the middle of the drawing.
        let (east, south) = (d.to_radians().sin(), -d.to_radians().cos());
        let middle = [frame.width / 2.0, (frame.height - 18.0) / 2.0];
        let reach = (middle[0] / east.abs().max(1e-6)).min(middle[1] / south.abs().max(1e-6)) - 4.0;
        let tail = [middle[0] + east * reach, middle[1] + south * reach];
        let tip = [tail[0] - east * 34.0, tail[1] - south * 34.0];
        let side = [-south * 5.0, east * 5.0];
        let back = [tip[0] + east * 10.0, tip[1] + south * 10.0];
        let style = Style::new().stroke(look.ink, 2.6);
        s.line(tail, tip, &style);
        s.curve(&[[back[0] + side[0], back[1] + side[1]], tip, [back[0] - side[0], back[1] - side[1]]], &style);
        let anchor = if tail[0] > middle[0] { "end" } else { "start" };
        let y = if south < 0.0 { tail[1] + 4.0 } else { tail[1] - 4.0 };
        s.text(
            [tail[0] + if anchor == "end" { -10.0 } else { 10.0 }, y.clamp(12.0, frame.height - 30.0)],
            "the storm",
            &Style::new().anchor(anchor).and(&halo(look)),
        );
    }
    Some(s.done(
        frame.width,
        frame.height,
        "Plan of the roof with test squares to scale; filled is a sure hit, a ring a doubtful one, a cross no hail",
    ))
}

/// The height a soft thing is met at.
fn height_of(what: SoftThing) -> Zone {
    match what {
        SoftThing::Cap | SoftThing::Vent => Zone::Roof,
        SoftThing::Gutter | SoftThing::Downspout => Zone::Edge,
        SoftThing::Other => Zone::UpperWall,
        SoftThing::Screen | SoftThing::Frame => Zone::Openings,
        SoftThing::Fins => Zone::Ground,
    }
}

/// Soft metal and other things on the wheel, by face and height: how many dents, filled where they are fresh, a ring where they are
/// oxidised; nought where something was looked at without one. The likeliest storm and the spatter point in from where they came.
/// `None` while nothing was looked at.
pub fn soft_wheel_svg(wheel: &Wheel, soft: &[SoftKept], storm_from: Option<f64>, look: Look) -> Option<String> {
    if soft.is_empty() {
        return None;
    }
    let mut s = Svg::new(look);
    let mut told = vec![];
    for shape in wheel.cells.iter().filter(|c| c.cell != Cell::Inside) {
        let here: Vec<&SoftKept> = soft.iter().filter(|m| Cell::Outside(m.face, height_of(m.what)) == shape.cell).collect();
        let fill = if here.is_empty() { look.plaster } else { look.noted };
        s.mark(&shape.path, &Style::new().fill(fill).stroke(look.plaster_line, 1.0));
    }
    // Counts stand above all cells.
    for shape in wheel.cells.iter().filter(|c| c.cell != Cell::Inside) {
        let here: Vec<&SoftKept> = soft.iter().filter(|m| Cell::Outside(m.face, height_of(m.what)) == shape.cell).collect();
        let (Cell::Outside(face, _), false) = (shape.cell, here.is_empty()) else { continue };
        let n: u32 = here.iter().map(|m| m.count).sum();
        let style = Style::new().middle().weight(700).size(13.0).fill(look.ink);
        s.text([shape.x, shape.y + 4.5], &n.to_string(), &style);
        let at = crate::wheel::beside([shape.x, shape.y], crate::wheel::ASIDE);
        let some = |f: Fresh| here.iter().any(|m| m.count > 0 && m.fresh == f);
        if some(Fresh::Fresh) {
            mark(&mut s, at, 3.2, HitVerdict::Hit, "fresh");
        } else if some(Fresh::Oxidised) {
            mark(&mut s, at, 3.2, HitVerdict::Doubtful, "oxidised");
        }
        let things = here.iter().map(|m| m.what.name()).collect::<Vec<_>>().join(", ");
        told.push(format!("{} {}: {n}", face.name().to_lowercase(), things));
    }
    crate::wheel::names(&mut s, wheel, 13);
    if wheel.oriented {
        let half = wheel.side / 2.0;
        s.north([-half + 14.0, -half + 34.0]);
        let mut arrow = |deg: f64, [from, to]: [f64; 2], dash: &str| {
            let out = [deg.to_radians().sin(), -deg.to_radians().cos()];
            let at = |r: f64| [out[0] * r, out[1] * r];
            let (tail, tip, back, side) = (at(from), at(to), at(to + 8.0), [-out[1] * 4.5, out[0] * 4.5]);
            s.line(tail, tip, &Style::new().stroke(look.ink, 2.4).dash(dash));
            let head = [[back[0] + side[0], back[1] + side[1]], tip, [back[0] - side[0], back[1] - side[1]]];
            s.curve(&head, &Style::new().stroke(look.ink, 2.4));
            tail
        };
        // The storm points in at the rim, spatter in the middle: they may come from the same side.
        let spatter: Vec<f64> = soft.iter().filter_map(|m| m.spatter_from_deg).collect();
        for d in &spatter {
            arrow(*d, [24.0, -20.0], "4 3");
        }
        let tail = storm_from.map(|d| arrow(d, [half - 8.0, half - 40.0], ""));
        if !spatter.is_empty() {
            s.text([0.0, 34.0], "spatter", &Style::new().middle().size(11.0).and(&halo(look)));
        }
        if let Some([x, y]) = tail {
            let (anchor, dx) = if x > 0.0 { ("end", -9.0) } else { ("start", 9.0) };
            s.text([x + dx, y.clamp(12.0 - half, half - 4.0)], "the storm", &Style::new().anchor(anchor).size(12.0).and(&halo(look)));
        }
    }
    Some(s.done_around(wheel.side, &format!("Dents in soft metal by face and height: {}", told.join("; "))))
}

/// A square seen square on, with its marks. The page puts a mark where it is tapped.
pub fn square_svg(q: &SquareKept, a: &SquareOut, look: Look) -> String {
    const MARGIN: f64 = 22.0;
    const LARGEST: f64 = 300.0;
    // A square nobody can read the sides of is drawn as a usual one.
    let [wide, high] = if a.size_m.iter().all(|x| *x > 0.0) { a.size_m } else { [3.048; 2] };
    let k = LARGEST / wide.max(high);
    let (w, h) = (wide * k, high * k);
    let mut s = Svg::new(look);
    let ring = vec![[MARGIN, MARGIN], [MARGIN + w, MARGIN], [MARGIN + w, MARGIN + h], [MARGIN, MARGIN + h]];
    s.path(&[ring], &Style::new().fill(look.field).stroke(look.copper, 2.0));
    // A line for every foot, or for every quarter of a metre.
    let step = if matches!(look.units, envelope::measure::Units::Us) { 0.3048 } else { 0.25 };
    let faint = Style::new().stroke(look.plaster_line, 0.7);
    for n in 1..(wide / step).ceil() as usize {
        let x = MARGIN + n as f64 * step * k;
        s.line([x, MARGIN], [x, MARGIN + h], &faint);
    }
    for n in 1..(high / step).ceil() as usize {
        let y = MARGIN + h - n as f64 * step * k;
        s.line([MARGIN, y], [MARGIN + w, y], &faint);
    }
    for (m, hit) in a.marks.iter().zip(&q.hits) {
        let r = m.size_m.map_or(4.0, |d| (d / 2.0 * k).clamp(3.0, 14.0));
        let at = [MARGIN + hit.x * w, MARGIN + (1.0 - hit.y) * h];
        mark(&mut s, at, r, m.verdict, &format!("{}: {}", m.id, m.words));
        s.text([at[0] + r + 2.0, at[1] - r], &m.id, &Style::new().size(10.0).and(&halo(look)));
    }
    let soft = Style::new().middle().fill(look.ink_soft);
    s.text([MARGIN + w / 2.0, MARGIN - 7.0], "up the slope", &soft);
    s.text([MARGIN + w / 2.0, MARGIN + h + 15.0], &look.units.length(wide, 2), &soft);
    let data = Style::new()
        .data("data-left", MARGIN)
        .data("data-top", MARGIN)
        .data("data-wide", format_args!("{:.2}", w))
        .data("data-high", format_args!("{:.2}", h));
    s.done_with(w + 2.0 * MARGIN, h + 2.0 * MARGIN, &format!("{}: {}", q.id, a.words), &data)
}

/// Rates with their ranges, slopes in compass order on one scale. `None` while nothing was counted.
pub fn rates_svg(a: &StormAccount, look: Look) -> Option<String> {
    const LABEL: f64 = 190.0;
    const SPAN: f64 = 330.0;
    const ROW: f64 = 34.0;
    let rows: Vec<_> = a.slopes.iter().filter_map(|s| Some((s, s.rate_sure.as_ref()?, s.rate_all.as_ref()?))).collect();
    if rows.is_empty() {
        return None;
    }
    let most = rows.iter().map(|(_, _, all)| all.ci95_per_100sqft[1]).fold(1.0, f64::max);
    let evens = rows.iter().filter_map(|(s, ..)| Some(s.even_sure.as_ref()?.break_even_hits_per_100sqft));
    // A break-even far beyond what was found would press everything else together; it is then said, not drawn.
    let most = evens.filter(|e| *e < 2.5 * most).fold(most, f64::max) * 1.06;
    let x = |v: f64| LABEL + v / most * SPAN;
    let height = 22.0 + rows.len() as f64 * ROW + 26.0;
    let mut s = Svg::new(look);
    let soft = Style::new().fill(look.ink_soft);
    let step = [1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0].into_iter().find(|s| most / s <= 7.0).unwrap_or(1000.0);
    let foot = 22.0 + rows.len() as f64 * ROW;
    for n in 0..=(most / step) as usize {
        let v = n as f64 * step;
        s.line([x(v), 16.0], [x(v), foot], &Style::new().stroke(look.plaster_line, 1.0));
        s.text([x(v), foot + 13.0], &format!("{v:.0}"), &Style::new().middle().and(&soft));
    }
    s.text([LABEL + SPAN, 11.0], "hits on 100 sq ft, with 95 % ranges", &Style::new().end().and(&soft));
    for (n, (slope, sure, all)) in rows.iter().enumerate() {
        let y = 22.0 + (n as f64 + 0.5) * ROW;
        s.text([0.0, y + 4.0], &slope.label, &Style::new());
        for (rate, dy, filled) in [(sure, -5.0, true), (all, 6.0, false)] {
            // Without a doubtful hit both are one.
            if !filled && all.count == sure.count {
                continue;
            }
            let [low, high] = rate.ci95_per_100sqft;
            let y = if all.count == sure.count { y } else { y + dy };
            s.line([x(low), y], [x(high), y], &Style::new().stroke(look.ink, 2.0));
            let fill = if filled { look.ink } else { look.plaster };
            s.titled(
                &format!(
                    "{}: {:.1}, {low:.1} to {high:.1}",
                    if filled { "sure hits" } else { "with doubtful ones" },
                    rate.rate_per_100sqft
                ),
                |s| s.circle([x(rate.rate_per_100sqft), y], 4.5, &Style::new().fill(fill).stroke(look.ink, 1.6)),
            );
        }
        if let Some(even) = slope.even_sure.as_ref().map(|e| e.break_even_hits_per_100sqft).filter(|e| *e <= most) {
            s.line([x(even), y - ROW / 2.0 + 3.0], [x(even), y + ROW / 2.0 - 3.0], &Style::new().stroke(look.copper, 2.4).dash("5 3"));
        }
    }
    Some(s.done(
        LABEL + SPAN + 14.0,
        height,
        "Hits by slope: filled dots count sure hits, rings with doubtful ones; the dashed line is where a new covering costs less",
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::storm::figures::SquareMark;

    /// Sure, doubtful and no hail are told apart by form, and a mark stands where it was tapped.
    #[test]
    fn marks_stand_where_they_lie() {
        let q: SquareKept = serde_json::from_value(
            serde_json::json!({ "id": "Q1", "slope": "A.-v", "seed": 1, "wide": "2 m", "high": "1 m", "counted": true,
            "hits": [{ "id": "h1", "x": 0.0, "y": 1.0 }, { "id": "h2", "x": 1.0, "y": 0.0 }, { "id": "h3", "x": 0.5, "y": 0.5 }] }),
        )
        .unwrap();
        let mark = |id: &str, verdict| SquareMark { id: id.into(), at: None, size_m: None, verdict, words: "<why>".into() };
        let a = SquareOut {
            id: "Q1".into(),
            slope: "A.-v".into(),
            corners: vec![],
            from_left_m: None,
            from_low_m: None,
            place_words: None,
            size_m: [2.0, 1.0],
            counted: true,
            sure: 1,
            doubtful: 1,
            not_hail: 1,
            largest_m: None,
            marks: vec![mark("h1", HitVerdict::Hit), mark("h2", HitVerdict::Doubtful), mark("h3", HitVerdict::NotHail)],
            words: "1 sure, 1 doubtful.".into(),
            problem: None,
        };
        let svg = square_svg(&q, &a, Look::PRINT);
        let doc = circles(&svg);
        // Upper left corner, lower right corner of a square twice as wide as high.
        assert!(doc.contains(&("22.0".into(), "22.0".into())) && doc.contains(&("322.0".into(), "172.0".into())), "{doc:?}");
        assert_eq!(svg.matches("<circle").count(), 2, "what is no hail is no disc");
        assert!(svg.contains("&lt;why&gt;") && !svg.contains("<why>"));
    }

    /// Every thing that was looked at stands in the cell of its face and height, with its own count and a form for its age.
    #[test]
    fn soft_metal_stands_at_its_face_and_height() {
        let soft: Vec<SoftKept> = serde_json::from_value(serde_json::json!([
            { "id": "M1", "face": "front", "what": "gutter", "count": 14, "fresh": "fresh", "spatter_from_deg": 180.0 },
            { "id": "M2", "face": "front", "what": "downspout", "count": 3, "fresh": "oxidised" },
            { "id": "M3", "face": "left", "what": "vent", "count": 0 },
            { "id": "M4", "face": "rear", "what": "screen", "count": 2, "fresh": "oxidised" },
        ]))
        .unwrap();
        let wheel = envelope::site::wheel(envelope::site::Bearing::new(200.0).ok());
        let svg = soft_wheel_svg(&wheel, &soft, Some(225.0), Look::PRINT).unwrap();
        let at = |key: &str| wheel.cells.iter().find(|c| c.cell.to_string() == key).map(|c| (c.x, c.y + 4.5)).unwrap();
        let says = |key: &str, n: &str| {
            let (x, y) = at(key);
            svg.split("<text").any(|t| t.contains(&format!("{x:.1}")) && t.contains(&format!("{y:.1}")) && t.contains(&format!(">{n}<")))
        };
        assert!(says("front.edge", "17") && says("left.roof", "0") && says("rear.openings", "2"), "{svg}");
        assert_eq!(svg.matches("<circle").count(), 2, "what has no dent has no age");
        assert!(svg.contains(">the storm<") && svg.contains(">spatter<"));
        assert!(svg.contains("front gutter, downspout: 17; left vent: 0"), "{svg}");
        assert_eq!(soft_wheel_svg(&wheel, &[], None, Look::PRINT), None);
        // Without a direction of the front there is none of a storm either.
        let still = soft_wheel_svg(&envelope::site::wheel(None), &soft, Some(225.0), Look::PRINT).unwrap();
        assert!(!still.contains(">the storm<"));
    }

    fn circles(svg: &str) -> Vec<(String, String)> {
        svg.split("<circle ")
            .skip(1)
            .map(|c| {
                let of = |name: &str| c.split(&format!("{name}=\"")).nth(1).unwrap().split('"').next().unwrap().to_owned();
                (of("cx"), of("cy"))
            })
            .collect()
    }
}
