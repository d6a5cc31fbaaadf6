//! The roof drawn: plan, elevations, age and life. The same marks on the screen, in a file and in print.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::roof::account::{Account, Slope};
use envelope::roof::details::DetailState;
use envelope::roof::elevation::Elevation;
use envelope::roof::life::Life;
use envelope::roof::perimeter::Traverse;
use envelope::roof::shape::{Edge, EdgeKind, Facet, RoofShape};

/// Room round a drawing, for its lengths, its north and its scale.
const MARGIN: f64 = 26.0;
const WIDTH: f64 = 580.0;
const HIGHEST: f64 = 470.0;

/// How a covering is hatched: courses lie across the slope, seams run down it. Each is a tile of a pattern whose y runs
/// down the slope.
fn hatch(s: &mut Svg, covering: Option<&str>, id: &str, turn: f64) {
    let (w, h, marks) = match covering.unwrap_or_default() {
        "asphalt-three-tab" => (18.0, 9.0, "M0 0H18M6 0V9M12 0V9"),
        "asphalt-laminated" => (26.0, 18.0, "M0 0H26M0 9H26M5 0V9M16 0V9M10 9V18M22 9V18"),
        "wood-shake" | "fibre-cement-shake" => (20.0, 20.0, "M0 0H20M0 10H20M3 0V10M8 0V10M15 0V10M5 10V20M11 10V20M18 10V20"),
        "slate" => (16.0, 16.0, "M0 0H16M0 8H16M8 0V8M0 8V16"),
        "concrete-tile" | "clay-tile" => (10.0, 12.0, "M0 0Q5 5 10 0M0 0V12"),
        "standing-seam" => (16.0, 16.0, "M0 0V16M2 0V16"),
        "exposed-fastener-metal" => (12.0, 12.0, "M0 0V12M6 5V6"),
        "" => (40.0, 40.0, ""),
        _ => (24.0, 24.0, "M4 4h1M16 10h1M8 18h1"),
    };
    let look = s.look;
    s.pattern(id, [w, h], turn, |s| {
        s.rect([0.0, 0.0], [w, h], &Style::new().fill(look.plaster));
        s.mark(marks, &Style::new().hollow().stroke(look.ink_soft, 0.5).faint(0.55));
    });
}

/// The plan's own scale: where a point east and north lies on the drawing.
pub(crate) struct Frame {
    k: f64,
    west: f64,
    north: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
}

impl Frame {
    pub(crate) fn of(shape: &RoofShape) -> Frame {
        Frame::over(shape.facets.iter().flat_map(|f| &f.parts).flat_map(|p| &p.outer).copied())
    }
    /// A frame that holds all of some points.
    pub(crate) fn over(points: impl Iterator<Item = [f64; 2]>) -> Frame {
        let all: Vec<[f64; 2]> = points.collect();
        let least = |k: usize| all.iter().map(|p| p[k]).fold(f64::MAX, f64::min);
        let most = |k: usize| all.iter().map(|p| p[k]).fold(f64::MIN, f64::max);
        let (w, h) = ((most(0) - least(0)).max(1.0), (most(1) - least(1)).max(1.0));
        let k = ((WIDTH - 2.0 * MARGIN) / w).min((HIGHEST - 2.0 * MARGIN) / h).min(60.0);
        Frame { k, west: least(0), north: most(1), width: w * k + 2.0 * MARGIN, height: h * k + 2.0 * MARGIN + 18.0 }
    }
    /// What the page needs to turn a point of the drawing back into a place.
    pub(crate) fn data(&self) -> Style {
        Style::new().data("data-k", self.k).data("data-west", self.west).data("data-north", self.north).data("data-margin", MARGIN)
    }
    /// So many units to so many metres.
    pub(crate) fn length(&self, metres: f64) -> f64 {
        metres * self.k
    }
    pub(crate) fn at(&self, p: [f64; 2]) -> [f64; 2] {
        [MARGIN + (p[0] - self.west) * self.k, MARGIN + (self.north - p[1]) * self.k]
    }
}

fn stroke(e: &Edge, look: Look) -> Style {
    let (width, dash) = match e.kind {
        EdgeKind::Ridge => (3.0, ""),
        EdgeKind::Hip => (1.8, ""),
        EdgeKind::Valley => (1.8, "9 3 2 3"),
        EdgeKind::PitchBreak | EdgeKind::FlatJunction => (1.4, "5 3"),
        EdgeKind::Rake | EdgeKind::HighEdge => (1.5, ""),
        k if k.is_step() => (2.6, "2 2"),
        _ => (1.5, ""),
    };
    Style::new().stroke(look.ink, width).dash(dash).round()
}

/// Slopes by number, as the table lists them.
/// The number of a facet as it stands on the plan.
pub fn number(account: &Account, facet: &str) -> String {
    account.slopes.iter().position(|s| s.facet == facet).map_or_else(String::new, |k| format!("S{}", k + 1))
}

/// A ratio as roofers say it.
pub fn in_twelve(pitch_in_12: f64) -> String {
    if (pitch_in_12 - pitch_in_12.round()).abs() < 0.02 { format!("{pitch_in_12:.0}:12") } else { format!("{pitch_in_12:.1}:12") }
}

fn down(f: &Facet) -> Option<[f64; 2]> {
    f.downslope_azimuth_deg.map(|a| [a.to_radians().sin(), -a.to_radians().cos()])
}

/// The roof plan, north up. `None` while there is no shape.
pub fn plan_svg(account: &Account, look: Look) -> Option<String> {
    let shape = account.shape.as_ref()?;
    let frame = Frame::of(shape);
    let mut s = Svg::new(look);
    roof_base(&mut s, &frame, account, shape);
    for e in &shape.edges {
        let (p, q) = (frame.at(e.p0), frame.at(e.p1));
        let name = format!("{}, {}", e.kind.name(), look.units.length(e.true_m, 2));
        s.group(&Style::button("data-edge", &e.id.to_string(), &name), |s| {
            // A wide unseen line, so that a finger finds it.
            s.line(p, q, &Style::new().stroke("transparent", 16.0));
            s.line(p, q, &stroke(e, look));
        });
    }
    for f in &shape.facets {
        facet_label(&mut s, &frame, account, f);
    }
    for e in &shape.edges {
        edge_label(&mut s, &frame, shape, e);
    }
    for f in &account.fittings {
        let side = (f.width_m.unwrap_or(0.25) * frame.k).clamp(7.0, 60.0);
        let [x, y] = frame.at(f.at);
        let deep = side.min(18.0);
        let style = Style::new().turned(-f.turned_deg, [x, y]).fill(look.plaster).stroke(look.ink, 1.5);
        s.titled(&f.name, |s| s.rect([x - side / 2.0, y - deep / 2.0], [side, deep], &style));
    }
    for d in &account.details {
        let [x, y] = frame.at(d.at);
        let tone = if d.state == DetailState::Open { look.copper } else { look.ink };
        s.group(&Style::button("data-detail", &d.key, &d.words), |s| {
            s.circle([x, y], 14.0, &Style::new().unseen());
            s.circle([x, y], 6.0, &Style::new().fill(look.plaster).stroke(tone, 1.5));
            let line = |tone, width| Style::new().hollow().stroke(tone, width);
            match d.state {
                DetailState::Open => {}
                DetailState::Right => s.sign([x - 3.4, y + 0.5], "l2.6 3l4.6 -6", &line(look.verdigris, 2.0)),
                DetailState::Wrong => s.sign([x - 3.0, y - 3.0], "l6 6m0 -6l-6 6", &line(look.ink, 2.0)),
                DetailState::NotSeen => s.sign([x - 3.0, y + 3.0], "l6 -6m-3 7l5 -5m-9 1l5 -5", &line(look.ink_soft, 1.2)),
            }
        });
    }
    Some(s.done(frame.width, frame.height, "Roof plan, north up"))
}

/// Facets, walls, north and scale: what every plan of the roof lies on.
pub(crate) fn roof_base(s: &mut Svg, frame: &Frame, account: &Account, shape: &RoofShape) {
    let look = s.look;
    s.defs(|s| {
        for (k, f) in shape.facets.iter().enumerate() {
            let covering = account.slopes.iter().find(|x| x.facet == f.id).and_then(|x| x.covering.as_deref());
            hatch(s, covering, &format!("roof-hatch-{k}"), f.downslope_azimuth_deg.map_or(0.0, |a| a - 180.0));
        }
    });
    for (k, f) in shape.facets.iter().enumerate() {
        let label = account.slopes.iter().find(|x| x.facet == f.id).map_or(f.id.as_str(), |x| x.label.as_str());
        let name = format!("{label}: {}, {}", look.units.area(f.true_area_m2), in_twelve(f.pitch_in_12));
        s.group(&Style::button("data-facet", &f.id, &name), |s| {
            for part in &f.parts {
                let rings: Vec<Vec<[f64; 2]>> =
                    std::iter::once(&part.outer).chain(&part.holes).map(|r| r.iter().map(|p| frame.at(*p)).collect()).collect();
                s.path(&rings, &Style::new().pattern(&format!("roof-hatch-{k}")).holes());
            }
        });
    }
    for m in &account.masses {
        let ring = m.walls.iter().map(|p| frame.at(*p)).collect();
        s.path(&[ring], &Style::new().hollow().stroke(look.ink_soft, 1.0).dash("4 4").still());
    }
    if account.oriented {
        s.north([frame.width - 16.0, frame.height - 24.0]);
    }
    s.scale_bar([MARGIN, frame.height - 12.0], frame.k, frame.width / 4.0);
}

pub(crate) fn halo(look: Look) -> Style {
    Style::new().fill(look.ink).halo(look.plaster, 3.5).joined().still()
}

fn facet_label(s: &mut Svg, frame: &Frame, account: &Account, f: &Facet) {
    let look = s.look;
    let [x, y] = frame.at(f.middle);
    if let Some([dx, dy]) = down(f) {
        // The arrow points where the water runs; the words stand beside its tail.
        // Words are wider than high: sideways the arrow starts farther out.
        let out = 13.0 + 22.0 * dx.abs();
        let (tip, tail) = ([x + dx * (out + 16.0), y + 2.0 + dy * (out + 16.0)], [x + dx * out, y + 2.0 + dy * out]);
        let side = [-dy * 4.0, dx * 4.0];
        let back = [tip[0] - dx * 8.0, tip[1] - dy * 8.0];
        let style = Style::new().stroke(look.ink, 1.5).still();
        s.line(tail, tip, &style);
        s.curve(&[[back[0] + side[0], back[1] + side[1]], tip, [back[0] - side[0], back[1] - side[1]]], &style);
    }
    let middle = Style::new().middle().and(&halo(look));
    s.text([x, y - 3.0], &format!("{} · {}", number(account, &f.id), in_twelve(f.pitch_in_12)), &Style::new().weight(600).and(&middle));
    s.text([x, y + 10.0], &look.units.area(f.true_area_m2), &middle);
}

/// Its length along an edge, on the outside of a border.
fn edge_label(s: &mut Svg, frame: &Frame, shape: &RoofShape, e: &Edge) {
    let (p, q) = (frame.at(e.p0), frame.at(e.p1));
    let drawn = (q[0] - p[0]).hypot(q[1] - p[1]);
    if drawn < 30.0 {
        return;
    }
    let (ux, uy) = ((q[0] - p[0]) / drawn, (q[1] - p[1]) / drawn);
    let middle = [(p[0] + q[0]) / 2.0, (p[1] + q[1]) / 2.0];
    let mut off = [uy * 9.0, -ux * 9.0];
    if e.kind.is_border()
        && let Some(f) = shape.facets.iter().find(|f| f.id == e.facet)
    {
        let inward = frame.at(f.middle);
        if (inward[0] - middle[0]) * off[0] + (inward[1] - middle[1]) * off[1] > 0.0 {
            off = [-off[0], -off[1]];
        }
    }
    let mut turn = uy.atan2(ux).to_degrees();
    if turn > 90.0 || turn <= -90.0 {
        turn += 180.0;
    }
    let at = [middle[0] + off[0], middle[1] + off[1]];
    let style = Style::new().middle().level().size(10.5).family("Atkinson Hyperlegible Mono").turned(turn, at).and(&halo(s.look));
    s.text(at, &s.look.units.bare_length(e.true_m), &style);
}

/// One elevation, standing before the face.
pub fn elevation_svg(e: &Elevation, account: &Account, look: Look) -> String {
    let k = (230.0 / e.width_m.max(1.0)).min(22.0);
    let (width, height) = (e.width_m * k + 20.0, e.height_m * k + 34.0);
    let at = |p: &[f64; 2]| [10.0 + p[0] * k, 10.0 + (e.height_m - p[1]) * k];
    let mut s = Svg::new(look);
    let face = e.face.name();
    let covering = |facet: &str| account.slopes.iter().find(|x| x.facet == facet).and_then(|x| x.covering.as_deref());
    s.defs(|s| {
        for (n, o) in e.outlines.iter().enumerate() {
            if let Some(f) = &o.facet {
                hatch(s, covering(f), &format!("{face}-hatch-{n}"), 0.0);
            }
        }
    });
    for (n, o) in e.outlines.iter().enumerate() {
        let ring: Vec<[f64; 2]> = o.points.iter().map(at).collect();
        match &o.facet {
            Some(f) => {
                let style = Style::new().pattern(&format!("{face}-hatch-{n}")).stroke(look.ink, 1.2);
                s.group(&Style::button("data-facet", f, &number(account, f)), |s| s.path(&[ring], &style));
            }
            None => s.path(&[ring], &Style::new().fill(look.plaster_low).stroke(look.ink, 1.2)),
        }
    }
    let ground = 10.0 + e.height_m * k;
    s.line([0.0, ground], [width, ground], &Style::new().stroke(look.ink, 2.0));
    s.text(
        [10.0, height - 6.0],
        &format!("{face}: {} wide, {} to the ridge", look.units.length(e.width_m, 1), look.units.length(e.height_m, 1)),
        &Style::new().fill(look.ink_soft),
    );
    s.done(width, height, &format!("{face} elevation"))
}

/// Age and what is left as curves with their ranges, and the evidence as a ladder of what moved the answer.
pub fn life_svg(slope: &Slope, life: &Life, look: Look) -> String {
    let mut s = Svg::new(look);
    let (width, left, right) = (760.0, 14.0, 746.0);
    // What is overdue lies to the left of the visit, among the ages.
    let reach = |years: f64| (years.max(0.0) * 1.35 + 2.0).min(80.0);
    let (back, on) = (reach(life.age[2].max(-life.remaining[0])), reach(life.remaining[2]));
    let k = (right - left) / (back + on);
    let now = left + back * k;
    let base = 112.0;
    let peak = life.curves.age.iter().chain(&life.curves.remaining).fold(1e-9_f64, |a, b| a.max(*b));
    // Ages lie to the left of the visit, what is left to the right: one line of years.
    let curve = |chances: &[f64], from: f64, way: f64| -> Vec<[f64; 2]> {
        chances
            .iter()
            .enumerate()
            .map(|(n, c)| [now + way * (from + n as f64 * 0.5 + 0.25) * k, base - (c / peak).sqrt() * 74.0])
            .filter(|p| p[0] >= left && p[0] <= right)
            .collect()
    };
    let ink = Style::new().stroke(look.ink, 1.5);
    for (spread, way, name) in [(life.age, -1.0, "laid"), (life.remaining, 1.0, "worn out in")] {
        let (a, b) = (now + way * spread[0] * k, now + way * spread[2] * k);
        s.rect([a.min(b), 30.0], [(a - b).abs(), base - 30.0], &Style::new().fill(look.ochre).faint(0.18));
        let m = now + way * spread[1] * k;
        s.line([m, 26.0], [m, base], &Style::new().stroke(look.ochre, 1.5).dash("4 3"));
        let ago = if way < 0.0 { " ago" } else { "" };
        let words = match spread {
            [_, middle, _] if middle < 0.0 => format!("overdue by {:.0} years ({:.0} to {:.0} left)", -middle, spread[0], spread[2]),
            _ => format!("{name} {:.0} years{ago} ({:.0} to {:.0})", spread[1], spread[0], spread[2]),
        };
        // The two stand apart even where the years lie over one another.
        let apart = if way < 0.0 { m.min(now - 20.0) } else { m.max(now + 20.0) };
        s.text(
            [apart.clamp(left + 80.0, right - 100.0), if way < 0.0 { 18.0 } else { 8.0 }],
            &words,
            &Style::new().middle().fill(look.ochre),
        );
    }
    s.curve(&curve(&life.curves.age, 0.0, -1.0), &ink);
    s.curve(&curve(&life.curves.remaining, life.curves.remaining_from, 1.0), &ink);
    s.line([left, base], [right, base], &ink);
    s.line([now, 24.0], [now, base + 6.0], &ink);
    s.text([now, base + 20.0], "the visit", &Style::new().middle().fill(look.ink));
    let mut tick = 5.0;
    while tick < 80.0 {
        for x in [now - tick * k, now + tick * k] {
            if x > left + 6.0 && x < right - 6.0 && (x - now).abs() > 40.0 {
                s.line([x, base], [x, base + 5.0], &ink);
                s.text([x, base + 19.0], &format!("{tick:.0}"), &Style::new().middle().fill(look.ink_soft).size(11.0));
            }
        }
        tick += if k < 8.0 { 10.0 } else { 5.0 };
    }
    // The ladder: each piece with what is left without it and with it.
    let top = base + 44.0;
    let (from, to) = (470.0, 740.0);
    let most = life.evidence.iter().map(|e| e.remaining_without).fold(life.remaining[1], f64::max).max(1.0) * 1.1;
    let least = life.evidence.iter().map(|e| e.remaining_without).fold(life.remaining[1].min(0.0), f64::min);
    let x = |years: f64| from + (to - from) * (years - least) / (most - least);
    let soft = Style::new().fill(look.ink_soft);
    if life.evidence.is_empty() {
        return s.done(width, base + 26.0, &format!("Age and remaining life, {}", slope.label));
    }
    s.text([left, top], "What each piece moved: years left without it, and with all", &soft);
    let with = x(life.remaining[1]);
    let foot = top + 14.0 + life.evidence.len() as f64 * 24.0;
    s.line([with, top - 10.0], [with, foot], &Style::new().stroke(look.ochre, 1.5).dash("4 3"));
    for (n, e) in life.evidence.iter().enumerate() {
        let y = top + 22.0 + n as f64 * 24.0;
        /// As many letters as stand beside the ladder.
        const ROOM: usize = 72;
        let short: String = e.what.chars().take(ROOM).collect();
        let words = if short.len() < e.what.len() { format!("{short}…") } else { short };
        s.text([left, y + 4.0], &words, &Style::new().fill(look.ink));
        let without = x(e.remaining_without);
        s.line([without, y], [with, y], &Style::new().stroke(look.ink, 5.0));
        s.circle([without, y], 4.0, &Style::new().fill(look.plaster).stroke(look.ink, 1.5));
        let moved = format!("{:+.1} y", e.moved_by);
        let (at, anchor) = if without > to - 46.0 { (without.min(with) - 8.0, "end") } else { (without.max(with) + 8.0, "start") };
        s.text([at, y + 4.0], &moved, &Style::new().anchor(anchor).fill(look.ink).size(11.0));
    }
    s.done(width, foot + 8.0, &format!("Age and remaining life, {}", slope.label))
}

/// The perimeter as it was walked, and with its miss spread along it; the wall that is doubted stands out.
pub fn perimeter_svg(t: &Traverse, look: Look) -> String {
    let all = || t.raw_points_m.iter().chain(&t.adjusted_points_m);
    let least = |k: usize| all().map(|p| p[k]).fold(f64::MAX, f64::min);
    let most = |k: usize| all().map(|p| p[k]).fold(f64::MIN, f64::max);
    let (w, h) = ((most(0) - least(0)).max(0.1), (most(1) - least(1)).max(0.1));
    let k = (360.0 / w).min(240.0 / h);
    let at = |p: &[f64; 2]| [30.0 + (p[0] - least(0)) * k, 24.0 + (most(1) - p[1]) * k];
    let mut s = Svg::new(look);
    let n = t.adjusted_points_m.len();
    for i in 0..n {
        let (p, q) = (at(&t.adjusted_points_m[i]), at(&t.adjusted_points_m[(i + 1) % n]));
        let doubted = t.doubtful_wall == Some(i + 1);
        let (colour, width) = if doubted { (look.ochre, 4.0) } else { (look.ink, 1.8) };
        s.line(p, q, &Style::new().stroke(colour, width));
        let (dx, dy) = (q[0] - p[0], q[1] - p[1]);
        let long = dx.hypot(dy).max(1.0);
        // Numbers stand on the right of the walk: outside, when the turns are to the left.
        let out = if t.orientation == "ccw" { 1.0 } else { -1.0 };
        let middle = [(p[0] + q[0]) / 2.0 - dy / long * 13.0 * out, (p[1] + q[1]) / 2.0 + dx / long * 13.0 * out + 4.0];
        s.text(middle, &(i + 1).to_string(), &Style::new().middle().fill(look.ink_soft));
    }
    let raw: Vec<[f64; 2]> = t.raw_points_m.iter().map(at).collect();
    s.curve(&raw, &Style::new().stroke(look.ink_soft, 1.0).dash("4 4"));
    if let (Some(a), Some(b)) = (raw.first(), raw.last()) {
        s.circle(*a, 4.0, &Style::new().fill(look.copper));
        s.line(*b, *a, &Style::new().stroke(look.ochre, 2.5));
    }
    let height = h * k + 62.0;
    s.scale_bar([30.0, height - 8.0], k, 100.0);
    s.done(w * k + 60.0, height, "The walls as they were walked")
}
