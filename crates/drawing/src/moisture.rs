//! Moisture: a surface with its readings and the map between them, rooms on the plan, and how a place dries.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::moisture::account::{HeatAccount, MoistureAccount, PatchState, PlaceDrying, SurfaceMap};
use envelope::moisture::map::{Class, RAISED, WET};
use envelope::moisture::surface::SurfacePart;

/// The part of a triangle with a level at or over one, and under another.
fn band(t: &[[f64; 3]; 3], from: f64, to: f64) -> Vec<[f64; 2]> {
    let cut = |ring: Vec<[f64; 3]>, keep: &dyn Fn(f64) -> bool, level: f64| {
        let mut out = Vec::new();
        for k in 0..ring.len() {
            let (a, b) = (ring[k], ring[(k + 1) % ring.len()]);
            if keep(a[2]) {
                out.push(a);
            }
            if keep(a[2]) != keep(b[2]) {
                let s = (level - a[2]) / (b[2] - a[2]);
                out.push([a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1]), level]);
            }
        }
        out
    };
    let over = cut(t.to_vec(), &|l| l >= from, from);
    cut(over, &|l| l <= to, to).into_iter().map(|p| [p[0], p[1]]).collect()
}

/// A surface with its readings, the map between them, and the pictures of heat that were taken of it.
pub fn moisture_svg(m: &SurfaceMap, heat: &[HeatAccount], look: Look) -> String {
    let of: Vec<&HeatAccount> = heat.iter().filter(|h| h.surface == m.surface && h.on == m.on && h.against.is_empty()).collect();
    let xs = m.readings.iter().map(|r| r.x_m).chain(of.iter().flat_map(|h| [h.at[0], h.at[0] + h.size[0]]));
    let ys = m.readings.iter().map(|r| r.y_m).chain(of.iter().flat_map(|h| [h.at[1], h.at[1] + h.size[1]]));
    let wide = m.wide_m.unwrap_or_else(|| xs.clone().fold(0.0, f64::max) + 0.4).max(0.5);
    let high = m.high_m.unwrap_or_else(|| ys.clone().fold(0.0, f64::max) + 0.4).max(0.5);
    let k = (640.0 / wide).min(340.0 / high).min(220.0);
    let (width, height) = (wide * k + 40.0, high * k + 56.0);
    let at = |p: [f64; 2]| [20.0 + p[0] * k, 16.0 + (high - p[1]) * k];
    let mut s = Svg::new(look);
    let frame = [[0.0, 0.0], [wide, 0.0], [wide, high], [0.0, high]].map(at).to_vec();
    s.path(&[frame], &Style::new().fill(look.plaster_low).stroke(look.ink, 1.5));
    if let Some(map) = &m.map {
        for (from, to, fill, solid) in [(RAISED, WET, look.ochre, 0.28), (WET, f64::INFINITY, look.water, 0.45)] {
            let rings: Vec<Vec<[f64; 2]>> = map
                .triangles
                .iter()
                .map(|t| band(&t.corners, from, to).into_iter().map(at).collect::<Vec<_>>())
                .filter(|r: &Vec<[f64; 2]>| r.len() > 2)
                .collect();
            if !rings.is_empty() {
                s.path(&rings, &Style::new().fill(fill).solid(solid));
            }
        }
        for line in &map.edge {
            let line: Vec<[f64; 2]> = line.iter().map(|p| at(*p)).collect();
            s.curve(&line, &Style::new().stroke(look.ink, 1.5));
        }
    }
    for h in of {
        for p in &h.patches {
            let ring = [[p.bounds[0], p.bounds[1]], [p.bounds[2], p.bounds[1]], [p.bounds[2], p.bounds[3]], [p.bounds[0], p.bounds[3]]]
                .map(at)
                .to_vec();
            let style = match p.state {
                PatchState::Unconfirmed => Style::new().stroke(look.ochre, 2.0).dash("6 4"),
                PatchState::Wet => Style::new().stroke(look.water, 2.0),
                PatchState::Dry => Style::new().stroke(look.ink_soft, 1.5).dash("2 4"),
            };
            s.titled(&p.sentence, |s| s.path(&[ring], &Style::new().hollow().and(&style)));
            let word = match p.state {
                PatchState::Unconfirmed => "cold, not confirmed",
                PatchState::Wet => "confirmed",
                PatchState::Dry => "cold but dry",
            };
            let top = at([p.bounds[0], p.bounds[3]]);
            let halo = Style::new().fill(look.ink).halo(look.plaster_low, 3.0);
            s.text([top[0] + 2.0, top[1] - 4.0], word, &halo);
        }
    }
    for r in &m.readings {
        let p = at([r.x_m, r.y_m]);
        let fill = match r.class {
            Some(Class::Wet) => look.water,
            Some(Class::Raised) => look.ochre,
            _ => look.plaster,
        };
        s.circle(p, 4.0, &Style::new().fill(fill).stroke(look.ink, 1.5));
        let words = if r.dry { format!("{} dry", r.value) } else { format!("{}", r.value) };
        let halo = Style::new().fill(look.ink).halo(look.plaster_low, 3.0);
        s.text([p[0] + 7.0, p[1] + 4.0], &words, &halo);
    }
    if let Some(n) = m.map.as_ref().and_then(|k| k.next) {
        let p = at([n.x_m, n.y_m]);
        s.titled("take one here", |s| {
            s.sign([p[0], p[1] - 8.0], "v16m-8 -8h16", &Style::new().stroke(look.copper, 2.0).hollow());
        });
    }
    s.scale_bar([22.0, height - 14.0], k, 120.0);
    s.done(width, height, &format!("{}, {}", m.name, m.on))
}

/// Rooms and the building around them, from above, front at the bottom.
pub fn rooms_svg(a: &MoistureAccount, look: Look) -> Option<String> {
    let rings = a.outlines.iter().chain(a.rooms.iter().map(|r| &r.corners));
    let (lo, hi) = bounds(rings.flatten().copied())?;
    let k = (560.0 / (hi[0] - lo[0]).max(1.0)).min(300.0 / (hi[1] - lo[1]).max(1.0)).min(90.0);
    let (width, height) = ((hi[0] - lo[0]) * k + 40.0, (hi[1] - lo[1]) * k + 56.0);
    let at = |p: [f64; 2]| [20.0 + (p[0] - lo[0]) * k, 16.0 + (hi[1] - p[1]) * k];
    let mut s = Svg::new(look);
    for o in &a.outlines {
        s.path(&[o.iter().map(|p| at(*p)).collect()], &Style::new().fill(look.plaster_low).stroke(look.ink, 2.0));
    }
    for r in a.rooms.iter().filter(|r| !r.corners.is_empty()) {
        s.path(&[r.corners.iter().map(|p| at(*p)).collect()], &Style::new().fill(look.plaster).stroke(look.ink_soft, 1.5));
        let n = r.corners.len() as f64;
        let m = [0, 1].map(|k| r.corners.iter().map(|c| c[k]).sum::<f64>() / n);
        let p = at(m);
        s.text(p, &r.name, &Style::new().middle().fill(look.ink));
        for w in &r.sides {
            let q = at([f64::midpoint(w.left[0], w.right[0]), f64::midpoint(w.left[1], w.right[1])]);
            let inward = [q[0] + (p[0] - q[0]) * 0.12, q[1] + (p[1] - q[1]) * 0.12 + 4.0];
            s.text(inward, &w.wall.to_string(), &Style::new().middle().fill(look.ink_soft));
        }
    }
    for w in &a.spots {
        let p = at([w.on.x_m, w.on.y_m]);
        s.titled(&w.name, |s| s.circle(p, 5.0, &Style::new().fill(look.water)));
    }
    s.scale_bar([22.0, height - 14.0], k, 120.0);
    Some(s.done(width, height, "Rooms, with the numbers of their walls; the front is below"))
}

pub(crate) fn bounds(points: impl Iterator<Item = [f64; 2]>) -> Option<([f64; 2], [f64; 2])> {
    points.fold(None, |b, p| {
        let (lo, hi) = b.unwrap_or((p, p));
        Some(([lo[0].min(p[0]), lo[1].min(p[1])], [hi[0].max(p[0]), hi[1].max(p[1])]))
    })
}

/// A place on several days, with the fitted curve and the dry level.
pub fn drying_svg(d: &PlaceDrying, look: Look) -> String {
    let (width, height) = (420.0, 190.0);
    let last = d.readings.iter().map(|r| r.day).fold(1.0, f64::max) * 1.25;
    let most = d.readings.iter().map(|r| r.value).fold(d.dry_level, f64::max) * 1.1;
    let at = |day: f64, v: f64| [44.0 + (width - 64.0) * day / last, 12.0 + (height - 48.0) * (1.0 - v / most.max(1.0))];
    let mut s = Svg::new(look);
    let axis = Style::new().stroke(look.ink, 1.5);
    s.line(at(0.0, 0.0), at(last, 0.0), &axis);
    s.line(at(0.0, 0.0), at(0.0, most), &axis);
    s.line(at(0.0, d.dry_level), at(last, d.dry_level), &Style::new().stroke(look.ink_soft, 1.0).dash("4 3"));
    let end = at(last, d.dry_level);
    s.text([end[0] - 2.0, end[1] - 4.0], "dry", &Style::new().end().fill(look.ink_soft));
    if let Some(f) = &d.drying {
        let line: Vec<[f64; 2]> = (0..=40)
            .map(|k| {
                let t = last * f64::from(k) / 40.0;
                at(t, (d.dry_level + (f.start - d.dry_level) * (-f.rate_per_day * t).exp()).clamp(0.0, most))
            })
            .collect();
        s.curve(&line, &Style::new().stroke(look.ochre, 1.5).dash("6 4"));
    }
    for r in &d.readings {
        let p = at(r.day, r.value);
        s.circle(p, 4.0, &Style::new().fill(look.water));
        s.text([p[0] + 6.0, p[1] - 5.0], &format!("{}", r.value), &Style::new().fill(look.ink));
        s.text([p[0], height - 20.0], &format!("{:.0}", r.day), &Style::new().middle().fill(look.ink_soft));
    }
    s.text([width - 20.0, height - 4.0], "days", &Style::new().end().fill(look.ink_soft));
    s.done(width, height, &format!("{}: {}", d.name, d.sentence))
}

/// How a surface is looked at, in words, for its caption.
pub fn seen_from(part: SurfacePart) -> &'static str {
    match part {
        SurfacePart::Wall => "seen from inside",
        SurfacePart::Ceiling | SurfacePart::Floor => "from above, front at the bottom",
        SurfacePart::Roof => "from above the eave",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bands_of_a_triangle_add_up_to_it() {
        let area = |p: &[[f64; 2]]| {
            (0..p.len()).map(|k| (p[k], p[(k + 1) % p.len()])).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>().abs() / 2.0
        };
        let t = [[0.0, 0.0, 1.0], [4.0, 0.0, 5.0], [1.0, 3.0, 3.0]];
        let parts = [f64::NEG_INFINITY, RAISED, WET, f64::INFINITY];
        let sum: f64 = parts.windows(2).map(|w| area(&band(&t, w[0], w[1]))).sum();
        assert!((sum - 6.0).abs() < 1e-9, "{sum}");
        assert!(band(&t, 6.0, f64::INFINITY).is_empty());
    }
}
