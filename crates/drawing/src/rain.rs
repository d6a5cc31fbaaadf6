//! Rainwater drawn: the flows on the roof plan, and the long section of a gutter. Water is blue, and nothing else is.

use crate::palette::Look;
use crate::roof::{Frame, roof_base};
use crate::svg::{Style, Svg};
use envelope::gutter::run::Run;
use envelope::job::Brief;
use envelope::rain::account::RainAccount;
use envelope::rain::runoff::way_down;
use envelope::roof::account::{AccountInput, account};
use envelope::roof::record::Roof;
use jiff::civil::Date;

/// The roof plan with the water on it: lines as wide as the flow along eaves, valleys and walls, discs at bursts, and the way
/// down of one drop. `None` while there is no roof.
pub fn flow_svg(roof: &Roof, brief: &Brief, rain: &RainAccount, drop: Option<[f64; 2]>, look: Look) -> Option<String> {
    let runoff = rain.runoff.as_ref()?;
    // Only the shape is asked for: papers and wear need not be weighed again.
    let bare = Roof { papers: vec![], wear: Default::default(), ..roof.clone() };
    let input = AccountInput { roof: bare, brief: brief.clone(), practice: Default::default(), today: Date::constant(2000, 1, 1) };
    let a = account(&input, &[]);
    let shape = a.shape.as_ref()?;
    let frame = Frame::of(shape);
    let mut s = Svg::new(look);
    roof_base(&mut s, &frame, &a, shape);
    for e in &shape.edges {
        s.line(frame.at(e.p0), frame.at(e.p1), &Style::new().stroke(look.ink, 1.0));
    }
    for f in &rain.flats {
        crate::flat::standing(&mut s, &|p| frame.at(p), &f.rain);
        for o in &f.outlets {
            let [x, y] = frame.at(o.at);
            let words = format!("{}: {}", o.name, look.units.flow(o.l_min));
            s.titled(&words, |s| s.circle([x, y], 4.0, &Style::new().fill(look.water).stroke(look.ink, 1.5)));
        }
    }
    let most = rain.eaves.iter().map(|e| e.l_min).fold(1.0, f64::max);
    let wide = |l_min: f64| 1.5 + 8.0 * (l_min / most).sqrt();
    let per = rain.design_mm_h / 60.0;
    for c in &runoff.channels {
        let width = wide(c.total_at_lower_end_m2 * per);
        let style = Style::new().stroke(look.water, width).round().faint(0.75);
        s.line(frame.at(c.p0), frame.at(c.p1), &style);
    }
    for e in &rain.eaves {
        let Some(edge) = shape.edges.iter().find(|x| x.id == e.edge) else { continue };
        let (p, q) = (frame.at(edge.p0), frame.at(edge.p1));
        let name = format!("{}: {}", e.label, look.units.flow(e.l_min));
        s.group(&Style::button("data-edge", &e.edge.to_string(), &name), |s| {
            s.line(p, q, &Style::new().stroke("transparent", 18.0));
            // An eave without a gutter pours: its line is broken.
            s.line(p, q, &Style::new().stroke(look.water, wide(e.l_min)).when(e.gutter.is_none(), |s| s.dash("3 5")));
        });
        let middle = [(p[0] + q[0]) / 2.0, (p[1] + q[1]) / 2.0 - 7.0];
        let halo = Style::new().middle().fill(look.water).halo(look.plaster, 3.5).still().weight(600);
        s.text(middle, &look.units.bare_flow(e.l_min), &halo);
    }
    for p in &runoff.point_discharges {
        let [x, y] = frame.at(p.at);
        let r = 3.0 + wide(p.plan_area_m2 * per) / 1.6;
        let fill = if p.trapped { "none" } else { look.water };
        let words = look.units.flow(p.plan_area_m2 * per);
        s.titled(&words, |s| s.circle([x, y], r, &Style::new().fill(fill).stroke(look.water, 2.0)));
    }
    if let Some(from) = drop {
        let way: Vec<[f64; 2]> = way_down(shape, from).iter().map(|p| frame.at(*p)).collect();
        s.curve(&way, &Style::new().stroke(look.water, 3.0).dash("2 5").round());
        if let Some(from) = way.first() {
            s.circle(*from, 5.0, &Style::new().fill(look.water));
        }
    }
    Some(s.done_with(frame.width, frame.height, "Where the water goes, north up", &frame.data()))
}

/// The long section of a gutter: floor, water, brim, divides, where it spills. Heights are drawn larger than lengths.
pub fn section_svg(r: &Run, name: &str, look: Look) -> String {
    let (width, left, right) = (680.0, 46.0, 660.0);
    let length = r.surface.iter().map(|p| p[0]).fold(0.0, f64::max).max(0.1);
    let floor = r.surface.iter().map(|p| p[1]).fold(f64::MAX, f64::min);
    let top = r.surface.iter().map(|p| p[1] + p[2].max(r.rim_m)).fold(f64::MIN, f64::max);
    let k = 110.0 / (top - floor).max(1e-3);
    let base = 150.0;
    let at = |x: f64, z: f64| [left + (right - left) * x / length, base - (z - floor) * k];
    let mut s = Svg::new(look);
    let surface: Vec<[f64; 2]> = r.surface.iter().map(|p| at(p[0], p[1] + p[2])).collect();
    let mut water = surface.clone();
    water.extend(r.surface.iter().rev().map(|p| at(p[0], p[1])));
    s.path(&[water], &Style::new().fill(look.water).faint(0.35));
    s.curve(&surface, &Style::new().stroke(look.water, 2.0));
    let line = |d: f64| -> Vec<[f64; 2]> { r.surface.iter().map(|p| at(p[0], p[1] + d)).collect() };
    s.curve(&line(0.0), &Style::new().stroke(look.ink, 2.5));
    s.curve(&line(r.rim_m), &Style::new().stroke(look.ink, 1.2).dash("6 4"));
    let soft = Style::new().fill(look.ink_soft).size(11.0);
    let nearest = |x: f64| {
        let off = |p: &[f64; 3]| (p[0] - x).abs();
        r.surface.iter().min_by(|a, b| off(a).total_cmp(&off(b))).copied().unwrap_or([x, floor, 0.0])
    };
    for (n, d) in r.divides_m.iter().enumerate() {
        let p = nearest(*d);
        s.line(at(*d, p[1]), at(*d, p[1] + r.rim_m), &Style::new().stroke(look.ink_soft, 1.0).dash("2 3"));
        s.text([at(*d, 0.0)[0], 168.0], &format!("divide {}: {}", n + 1, look.units.length(*d, 1)), &Style::new().middle().and(&soft));
    }
    let anchor = |x: f64| if x > 560.0 { "end" } else { "start" };
    // Water goes over the front along every stretch where it stands above the brim: the more, the longer the falling lines.
    let most = r.spills.iter().map(|p| p.l_s / (p.to_m - p.from_m)).fold(1e-9, f64::max);
    for p in &r.spills {
        let (x, strong) = ((p.from_m + p.to_m) / 2.0, p.l_s / (p.to_m - p.from_m) / most);
        if strong < 0.02 {
            continue;
        }
        let [px, py] = at(x, nearest(x)[1] + r.rim_m);
        let long = 5.0 + 12.0 * strong;
        s.sign([px, py], &format!("q2 2 2 {long:.1}"), &Style::new().hollow().stroke(look.water, 1.0 + 1.5 * strong));
    }
    if let Some(strongest) = r.spills.iter().max_by(|a, b| a.l_s.total_cmp(&b.l_s)) {
        let x = (strongest.from_m + strongest.to_m) / 2.0;
        let [px, py] = at(x, nearest(x)[1] + r.rim_m);
        let words = format!("spills {}", look.units.flow(r.spilt_l_s * 60.0));
        s.text([px, py - 8.0], &words, &Style::new().anchor(anchor(px)).fill(look.ink).weight(600));
    }
    let [dx, dy] = at(r.deepest_at_m, nearest(r.deepest_at_m)[1]);
    s.text(
        [dx + if dx > 560.0 { -4.0 } else { 4.0 }, dy - 8.0],
        &format!("{} deep", look.units.depth(r.deepest_m)),
        &Style::new().anchor(anchor(dx)).fill(look.ink),
    );
    let brim = at(0.0, r.surface.first().map_or(floor, |p| p[1]) + r.rim_m);
    s.text([left - 40.0, brim[1] + 4.0], "brim", &soft);
    s.text([left, 184.0], "left end", &soft);
    s.text([right, 184.0], &look.units.length(length, 2), &Style::new().end().and(&soft));
    s.done(width, 192.0, &format!("Long section of {name}: heights drawn larger than lengths"))
}
