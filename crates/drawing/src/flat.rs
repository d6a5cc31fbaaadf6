//! A flat roof drawn: its parapets, its outlets, and the water on it; and how deep it stood in an hour's storm. Water is blue, and
//! nothing else is.

use crate::palette::Look;
use crate::roof::Frame;
use crate::svg::{Style, Svg};
use envelope::rain::flat::figures::{FlatAccount, RoofWater};
use envelope::rain::flat::record::FlatRoof;

/// Which state of a flat roof is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FlatState {
    /// In the design rain, as it was met.
    Rain,
    /// The same with its outlets blocked.
    Blocked,
    /// After the rain.
    After,
}

/// Water on the plan: the deeper, the darker.
pub(crate) fn standing(s: &mut Svg, at: &dyn Fn([f64; 2]) -> [f64; 2], water: &RoofWater) {
    let tone = s.look.water;
    for o in &water.outlines {
        let rings: Vec<Vec<[f64; 2]>> = o.rings.iter().map(|r| r.iter().map(|p| at(*p)).collect()).collect();
        s.path(&rings, &Style::new().fill(tone).holes().faint(0.28));
    }
}

/// The plan of a flat roof in one of its states, seen with its front below, as its places are measured; none while it could not be
/// worked out.
pub fn flat_svg(kept: &FlatRoof, a: &FlatAccount, state: FlatState, look: Look) -> Option<String> {
    if a.problem.is_some() || a.border.is_empty() {
        return None;
    }
    let (water, words) = match state {
        FlatState::Rain => (&a.rain, "in the design rain"),
        FlatState::Blocked => (a.blocked.as_ref()?, "with its outlets blocked"),
        FlatState::After => (&a.stays, "after the rain"),
    };
    let (sin, cos) = (-a.turned_deg).to_radians().sin_cos();
    let turned = |p: [f64; 2]| [p[0] * cos - p[1] * sin, p[0] * sin + p[1] * cos];
    let frame = Frame::over(a.border.iter().flat_map(|b| b.ends_m).map(turned));
    let at = |p: [f64; 2]| frame.at(turned(p));
    let mut s = Svg::new(look);
    standing(&mut s, &at, water);
    for b in &a.border {
        let [p, q] = b.ends_m.map(at);
        let style = match (b.wall, b.parapet_m) {
            (true, _) => Style::new().stroke(look.ink, 5.0).dash("2 2"),
            (_, Some(_)) => Style::new().stroke(look.ink, 5.0),
            _ => Style::new().stroke(look.ink, 1.2),
        };
        s.line(p, q, &style);
    }
    let halo = Style::new().halo(look.plaster, 3.5).weight(600);
    for p in water.pools.iter().take(6) {
        let [x, y] = at(p.at);
        s.sign([x, y], "m-4 0h8m-4 -4v8", &Style::new().stroke(look.water, 1.5));
        let (anchor, dx) = if x > frame.width * 0.7 { ("end", -7.0) } else { ("start", 7.0) };
        s.text([x + dx, y - 6.0], &look.units.depth(p.depth_m), &Style::new().anchor(anchor).fill(look.water).and(&halo));
    }
    let middle = [frame.width / 2.0, (frame.height - 18.0) / 2.0];
    let mut words_at: Vec<[f64; 2]> = Vec::new();
    // Told in the order they are kept.
    for (o, overflow) in a.outlets.iter().zip(kept.outlets.iter().map(|o| o.overflow)) {
        let [x, y] = at(o.at);
        // A gate: two posts, and between them the way the water takes; a bar across it where nothing passes.
        let upright = (x - middle[0]).abs() / middle[0] > (y - middle[1]).abs() / middle[1];
        let (posts, bar) = if upright { ("m-6 -7h12m-12 14h12", "m0 -7v14") } else { ("m-7 -6v12m14 0v-12", "m-7 0h14") };
        s.titled(&format!("{}, {}", o.name, o.ends), |s| {
            s.sign([x, y], posts, &Style::new().hollow().stroke(look.ink, 2.5));
            if o.blocked || state == FlatState::Blocked && !overflow {
                s.sign([x, y], bar, &Style::new().stroke(look.ink, 2.5));
            } else {
                s.circle([x, y], 3.0, &Style::new().fill(look.water));
            }
        });
        let flow = if state == FlatState::Rain { format!("{}: {}", o.name, look.units.flow(o.l_min)) } else { o.name.clone() };
        // Words stay on the sheet, inside the border.
        let (anchor, dx) = if x > middle[0] { ("end", -12.0) } else { ("start", 12.0) };
        let dy = if y > middle[1] { -10.0 } else { 18.0 };
        // Where two stand in a row their words do too, one above the other.
        let before = words_at.iter().filter(|w: &&[f64; 2]| (w[1] - y).abs() < 12.0 && (w[0] - x).abs() < 340.0).count() as f64;
        words_at.push([x, y]);
        let dy = dy * (1.0 + 1.6 * before);
        s.text([x + dx, y + dy], &flow, &Style::new().anchor(anchor).fill(look.ink).and(&halo));
    }
    if state == FlatState::Rain {
        for p in a.spills.iter().filter(|p| p.l_min > 0.5) {
            let [x, y] = at(p.at);
            s.circle([x, y], 3.5, &Style::new().hollow().stroke(look.water, 2.0));
        }
    }
    s.text([middle[0], frame.height - 22.0], "front", &Style::new().middle().fill(look.ink_soft));
    Some(s.done(frame.width, frame.height, &format!("The {} {words}, its front below", a.label)))
}

/// How deep it stood through an hour of the design storm and the hour after; none while no law of the rain is known.
pub fn flat_hour_svg(a: &FlatAccount, look: Look) -> Option<String> {
    let h = a.hour.as_ref()?;
    let (left, right, base, top) = (46.0, 668.0, 92.0, 14.0);
    let last = h.course.last().map_or(120.0, |m| m.minute).max(60.0);
    let most = h.course.iter().map(|m| m.depth_mm).fold(5.0, f64::max);
    let at = |minute: f64, mm: f64| [left + (right - left) * minute / last, base - (base - top) * mm / most];
    let mut s = Svg::new(look);
    let curve: Vec<[f64; 2]> = h.course.iter().map(|m| at(m.minute, m.depth_mm)).collect();
    let mut area = curve.clone();
    area.extend([at(last, 0.0), at(0.0, 0.0)]);
    s.path(&[area], &Style::new().fill(look.water).faint(0.28));
    s.curve(&curve, &Style::new().stroke(look.water, 2.0));
    s.line([left, base], [right, base], &Style::new().stroke(look.ink, 1.5));
    let soft = Style::new().fill(look.ink_soft).size(11.0);
    let ends = at(60.0, 0.0)[0];
    s.line([ends, top], [ends, base], &Style::new().stroke(look.ink_soft, 1.0).dash("3 3"));
    s.text([ends + 4.0, top + 8.0], "the rain ends", &soft);
    s.text([left - 6.0, top + 8.0], &look.units.depth(most / 1000.0), &Style::new().end().and(&soft));
    for minute in [0.0, 30.0, 60.0, 90.0, 120.0].into_iter().filter(|m| *m <= last + 1e-6) {
        let x = at(minute, 0.0)[0];
        s.line([x, base], [x, base + 4.0], &Style::new().stroke(look.ink, 1.0));
        s.text([x, base + 17.0], &format!("{minute:.0} min"), &Style::new().middle().and(&soft));
    }
    Some(s.done(690.0, 114.0, &format!("Greatest depth on the {} through an hour's storm and the hour after it", a.label)))
}
