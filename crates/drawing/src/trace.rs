//! Tracing: the way from candidate to spot over plan and section, and the rain with the sightings on it.

use crate::moisture::bounds;
use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::trace::account::TraceAccount;
use envelope::trace::form::Wetness;
use envelope::trace::record::Trace;
use std::collections::BTreeMap;

fn p_of(a: &TraceAccount, spot: &str, candidate: &str) -> f64 {
    let of = a.result.iter().flat_map(|r| &r.spots).find(|s| s.id == spot);
    of.and_then(|s| s.candidates.iter().find(|c| c.id == candidate)).map_or(0.0, |c| c.p)
}

fn place(a: &TraceAccount, spot: &str) -> Option<[f64; 3]> {
    a.spots.iter().find(|s| s.kept.id == spot).and_then(|s| s.on).map(|o| [o.x_m, o.y_m, o.z_m])
}

/// The plan around a spot: candidates as large as they are likely, the ways of the likeliest in blue.
pub fn trace_plan_svg(a: &TraceAccount, spot: &str, look: Look) -> Option<String> {
    let s0 = place(a, spot)?;
    let near = |x: f64, y: f64| (x - s0[0]).hypot(y - s0[1]) < 6.0;
    let shown: Vec<_> = a.list.iter().filter(|g| g.struck.is_none() && near(g.candidate.x_m, g.candidate.y_m)).collect();
    let points = shown.iter().map(|g| [g.candidate.x_m, g.candidate.y_m]).chain([[s0[0] - 2.5, s0[1] - 2.0], [s0[0] + 2.5, s0[1] + 2.0]]);
    let (lo, hi) = bounds(points)?;
    let (lo, hi) = ([lo[0] - 0.8, lo[1] - 0.8], [hi[0] + 0.8, hi[1] + 0.8]);
    let k = (520.0 / (hi[0] - lo[0])).min(330.0 / (hi[1] - lo[1])).min(90.0);
    let (width, height) = ((hi[0] - lo[0]) * k + 20.0, (hi[1] - lo[1]) * k + 44.0);
    let at = |x: f64, y: f64| [10.0 + (x - lo[0]) * k, 10.0 + (hi[1] - y) * k];
    let mut s = Svg::new(look);
    s.within(&format!("trace-{spot}"), [width, height - 30.0], |s| {
        for o in &a.outlines {
            s.path(&[o.iter().map(|p| at(p[0], p[1])).collect()], &Style::new().fill(look.plaster_low).stroke(look.ink, 1.5));
        }
        for w in a.ways.iter().filter(|w| w.spot == spot) {
            let p = p_of(a, spot, &w.candidate);
            let line: Vec<[f64; 2]> = w.points.iter().map(|q| at(q[0], q[1])).collect();
            s.curve(&line, &Style::new().stroke(look.water, 1.0 + 4.0 * p).round().joined());
        }
    });
    for g in &shown {
        let p = p_of(a, spot, &g.candidate.id);
        let q = at(g.candidate.x_m, g.candidate.y_m);
        let r = 3.0 + 7.0 * p.sqrt();
        s.titled(&format!("{} {:.0} %", g.candidate.called(), p * 100.0), |s| {
            s.circle(q, r, &Style::new().fill(look.plaster).stroke(look.ink, 1.5))
        });
    }
    let halo = Style::new().fill(look.ink).halo(look.plaster, 3.0);
    let mut named: Vec<_> = shown.iter().map(|g| (p_of(a, spot, &g.candidate.id), g)).filter(|n| n.0 >= 0.08).collect();
    named.sort_by(|x, y| y.0.total_cmp(&x.0));
    for (n, (p, g)) in named.iter().take(3).enumerate() {
        let q = at(g.candidate.x_m, g.candidate.y_m);
        let right = q[0] > width * 0.6;
        let x = if right { q[0] - 12.0 } else { q[0] + 12.0 };
        let anchor = if right { "end" } else { "start" };
        s.text([x, q[1] - 4.0 + 8.0 * n as f64], &format!("{:.0} %", p * 100.0), &Style::new().anchor(anchor).weight(600).and(&halo));
    }
    let q = at(s0[0], s0[1]);
    s.sign([q[0] - 3.5, q[1] - 3.5], "l7 7m0 -7l-7 7", &Style::new().stroke(look.water, 3.0).hollow());
    s.text([q[0] + 10.0, q[1] + 16.0], "wet here", &halo);
    s.scale_bar([12.0, height - 12.0], k, 120.0);
    Some(s.done(width, height, "Plan: what may feed the spot, as large as it is likely, and the way of the likeliest"))
}

/// The section along the likeliest way: heights over distance from the candidate.
pub fn trace_section_svg(a: &TraceAccount, spot: &str, look: Look) -> Option<String> {
    let mut ways: Vec<_> = a.ways.iter().filter(|w| w.spot == spot).map(|w| (p_of(a, spot, &w.candidate), w)).collect();
    ways.sort_by(|x, y| y.0.total_cmp(&x.0));
    let (_, way) = ways.first()?;
    let along = |p: &[f64; 3]| (p[0] - way.points[0][0]).hypot(p[1] - way.points[0][1]);
    let points: Vec<[f64; 2]> = way.points.iter().map(|p| [along(p), p[2]]).collect();
    let far = points.iter().map(|p| p[0]).fold(1.2, f64::max) + 0.8;
    let high = points.iter().map(|p| p[1]).fold(f64::MIN, f64::max) + 0.6;
    let lowest = points.iter().map(|p| p[1]).fold(f64::MAX, f64::min);
    // What happens under a roof is drawn there; the floor only where the water comes near it.
    let floored = lowest < 1.5;
    let low = if floored { lowest.min(0.0) } else { lowest } - 0.4;
    let k = (300.0 / (far + 0.8)).min(300.0 / (high - low)).min(90.0);
    let (width, height) = ((far + 0.8) * k + 20.0, (high - low) * k + 44.0);
    let at = |p: [f64; 2]| [10.0 + (p[0] + 0.8) * k, 10.0 + (high - p[1]) * k];
    let mut s = Svg::new(look);
    let build = Style::new().stroke(look.ink, 1.5);
    if floored {
        let floor = at([0.0, 0.0]);
        s.line([4.0, floor[1]], [width - 4.0, floor[1]], &Style::new().stroke(look.ink, 2.0));
        s.text([width - 6.0, floor[1] - 4.0], "floor", &Style::new().end().fill(look.ink_soft));
    } else {
        // The slope the water runs down under, and the ceiling it shows on.
        let (a, b) = (points[0], points[1]);
        let slope = (b[1] - a[1]) / (b[0] - a[0]).max(0.1);
        let roof = |x: f64| at([x, a[1] + slope * (x - a[0]) + 0.08]);
        s.line(roof(-0.6), roof(far - 0.3), &build);
        let c = points[points.len() - 1];
        s.line(at([-0.6, c[1] - 0.03]), at([far - 0.2, c[1] - 0.03]), &build);
        let q = at([-0.6, c[1] - 0.03]);
        s.text([q[0], q[1] + 14.0], "ceiling", &Style::new().fill(look.ink_soft));
    }
    let line: Vec<[f64; 2]> = points.iter().map(|p| at(*p)).collect();
    s.curve(&line, &Style::new().stroke(look.water, 3.0).joined().round());
    let halo = Style::new().fill(look.ink).halo(look.plaster, 3.0);
    let (from, to) = (line[0], line[line.len() - 1]);
    s.circle(from, 6.0, &Style::new().fill(look.plaster).stroke(look.ink, 1.5));
    s.text([from[0] + 9.0, from[1] - 6.0], "comes in", &halo);
    s.sign([to[0] - 3.5, to[1] - 3.5], "l7 7m0 -7l-7 7", &Style::new().stroke(look.water, 3.0).hollow());
    s.text([to[0] + 9.0, to[1] + 14.0], "wet here", &halo);
    s.scale_bar([12.0, height - 12.0], k, 100.0);
    Some(s.done(width, height, "Section along the likeliest way"))
}

/// Days since some day, for the axis.
fn day_of(t: &str) -> Option<(String, f64)> {
    let (day, rest) = t.split_once('T')?;
    let (h, m) = rest.split_once(':').unwrap_or((rest, "0"));
    Some((day.to_owned(), h.parse::<f64>().ok()? + m.get(..2).unwrap_or("0").parse::<f64>().unwrap_or(0.0) / 60.0))
}

/// The rain as bars, day by day, with the spot's sightings on it and the holes of the record.
pub fn rain_svg(kept: &Trace, spot: &str, days: &[String], look: Look) -> Option<String> {
    if days.len() < 2 {
        return None;
    }
    let index: BTreeMap<&str, usize> = days.iter().enumerate().map(|(k, d)| (d.as_str(), k)).collect();
    let x_of = |t: &str| {
        let (day, h) = day_of(t)?;
        Some(*index.get(day.as_str())? as f64 + h / 24.0)
    };
    let (width, height, base) = (900.0, 170.0, 112.0);
    let at = |x: f64| 34.0 + (width - 48.0) * x / days.len() as f64;
    let most = kept.rain.hours.iter().map(|h| h.mm).fold(4.0, f64::max);
    let mut s = Svg::new(look);
    for [a, b] in &kept.rain.holes {
        if let (Some(a), Some(b)) = (x_of(a), x_of(b)) {
            let ring = vec![[at(a), 14.0], [at(b), 14.0], [at(b), base], [at(a), base]];
            s.path(&[ring], &Style::new().fill(look.plaster_line).stroke(look.ochre, 1.0).dash("3 3"));
            s.text([f64::midpoint(at(a), at(b)), 26.0], "no record", &Style::new().middle().fill(look.ink_soft));
        }
    }
    let wide = ((width - 48.0) / days.len() as f64 / 24.0).max(1.2);
    for h in &kept.rain.hours {
        let Some(x) = x_of(&h.t).map(at) else { continue };
        let top = base - (base - 34.0) * (h.mm / most).sqrt();
        s.rect([x, top], [wide, base - top], &Style::new().fill(look.water));
        if h.wind_m_s >= 6.0 {
            let t = base + 4.0;
            s.line([x, t], [x, t + h.wind_m_s], &Style::new().stroke(look.ink_soft, wide.min(2.0)));
        }
    }
    s.line([30.0, base], [width - 8.0, base], &Style::new().stroke(look.ink, 1.5));
    for (k, d) in days.iter().enumerate().step_by((days.len() / 12).max(1)) {
        let x = at(k as f64);
        s.line([x, base], [x, base + 4.0], &Style::new().stroke(look.ink, 1.0));
        s.text([x, height - 22.0], d.get(5..).unwrap_or(d), &Style::new().middle().fill(look.ink_soft));
    }
    for q in kept.seen.iter().filter(|q| q.spot == spot) {
        let Some(x) = x_of(&q.at).map(at) else { continue };
        let wet = q.state == Wetness::Wet;
        let fill = if wet { look.water } else { look.plaster };
        let word = if wet { "wet" } else { "dry" };
        s.line([x, 14.0], [x, base], &Style::new().stroke(look.ink_soft, 1.0).dash("2 3"));
        s.titled(&format!("{word}, {}", &q.at.replace('T', " ")), |s| {
            s.circle([x, 9.0], 6.0, &Style::new().fill(fill).stroke(look.ink, 1.5))
        });
    }
    s.text(
        [34.0, height - 5.0],
        "Bars: rain of each hour, drawn by its root. Strokes below: wind from 6 m/s on. Dots: seen wet (filled) or dry (open).",
        &Style::new().fill(look.ink_soft),
    );
    Some(s.done(width, height, "Rain record with the sightings of the spot"))
}
