//! Heights of a floor in plan: where each was read, and how it lies beside the best plane.

use crate::palette::Look;
use crate::roof::halo;
use crate::svg::{Style, Svg};
use envelope::wall::account::FloorAccount;

/// A floor is at least so wide and deep on the sheet while nothing is known of it, metres.
const LEAST_M: f64 = 4.0;
const MARGIN: f64 = 34.0;
const LARGEST: f64 = 420.0;

/// The floor seen from above, the front wall at the bottom. A disc lies above the plane, a ring below it, the larger the farther; the
/// arrow shows the way the plane falls. The page puts a height where it is tapped, so it is drawn before the first one as well.
pub fn floor_svg(floor: Option<&FloorAccount>, wide_m: Option<f64>, deep_m: Option<f64>, look: Look) -> String {
    let points = floor.map_or(&[][..], |f| &f.points);
    let reach = |of: fn(&envelope::wall::account::FloorShown) -> f64| points.iter().map(of).fold(LEAST_M, f64::max);
    let wide = wide_m.unwrap_or(0.0).max(reach(|p| p.x_m));
    let deep = deep_m.unwrap_or(0.0).max(reach(|p| p.y_m));
    let k = LARGEST / wide.max(deep);
    let (w, h) = (wide * k, deep * k);
    let at = |x: f64, y: f64| [MARGIN + x * k, MARGIN + (deep - y) * k];
    let mut s = Svg::new(look);
    s.path(&[vec![at(0.0, 0.0), at(wide, 0.0), at(wide, deep), at(0.0, deep)]], &Style::new().fill(look.field).stroke(look.ink, 2.5));
    let soft = Style::new().middle().fill(look.ink_soft);
    s.text([MARGIN + w / 2.0, MARGIN + h + 16.0], "front wall", &soft);
    // What is not known is not dimensioned.
    if wide_m.is_some() {
        s.text([MARGIN + w / 2.0, MARGIN - 9.0], &look.units.length(wide, 1), &soft);
    }
    let plane = floor.and_then(|f| f.plane.as_ref());
    if let Some(p) = plane.filter(|p| p.tilt_pct > 0.0) {
        let turned = p.falls_toward_deg.to_radians();
        let (dx, dy) = (turned.sin(), -turned.cos());
        let (from, long) = ([MARGIN + w / 2.0, MARGIN + h / 2.0], w.min(h) * 0.3);
        let tip = [from[0] + dx * long, from[1] + dy * long];
        let style = Style::new().stroke(look.water, 2.0).hollow();
        s.line(from, tip, &style);
        for side in [0.5, -0.5_f64] {
            let (c, n) = ((2.64 * side.signum()).cos(), (2.64 * side.signum()).sin());
            s.line(tip, [tip[0] + 12.0 * (dx * c - dy * n), tip[1] + 12.0 * (dx * n + dy * c)], &style);
        }
    }
    let most = points.iter().filter_map(|p| p.off_m).map(f64::abs).fold(1e-9, f64::max);
    for p in points {
        let [x, y] = at(p.x_m, p.y_m);
        let r = p.off_m.map_or(5.0, |o| 4.0 + 7.0 * o.abs() / most);
        let fill = if p.off_m.is_some_and(|o| o > 0.0) { look.ink } else { look.plaster };
        let off = p.off_m.map_or(String::new(), |o| {
            let side = if o < 0.0 { "below" } else { "above" };
            format!(", {} {side} the plane", look.units.fine(o.abs()))
        });
        let name = format!("{}: {}{off}", p.id, look.units.fine(p.height_m));
        s.group(&Style::button("data-height", &p.id, &name), |s| {
            s.title(&name);
            s.circle([x, y], 16.0, &Style::new().unseen());
            s.circle([x, y], r, &Style::new().fill(fill).stroke(look.ink, 1.8));
        });
        let right = p.x_m > wide * 0.8;
        let (dx, anchor) = if right { (-r - 4.0, "end") } else { (r + 4.0, "start") };
        s.text([x + dx, y - 2.0], &p.id, &Style::new().anchor(anchor).weight(600).size(16.0).and(&halo(look)));
        s.text([x + dx, y + 13.0], &look.units.fine(p.height_m), &Style::new().anchor(anchor).size(14.0).and(&halo(look)));
    }
    let said = floor.map_or("No height is read yet.", |f| f.sentence.as_str());
    let data = Style::new().data("data-k", k).data("data-west", "0").data("data-north", deep).data("data-margin", MARGIN);
    s.done_with(w + 2.0 * MARGIN, h + 2.0 * MARGIN, &format!("Floor heights in plan. {said}"), &data)
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::wall::account::wall_account;
    use serde_json::json;

    fn floor(points: &[(f64, f64, f64)]) -> FloorAccount {
        let of = |(k, (x, y, z)): (usize, &(f64, f64, f64))| json!({ "id": format!("H{}", k + 1), "x": format!("{x} m"), "y": format!("{y} m"), "height": format!("{z} mm") });
        let floor: Vec<_> = points.iter().enumerate().map(of).collect();
        wall_account(&serde_json::from_value(json!({ "walls": { "floor": floor } })).unwrap()).floor.unwrap()
    }

    #[test]
    fn heights_lie_where_they_were_read_and_what_is_low_is_a_ring() {
        let f = floor(&[(0.0, 0.0, 0.0), (8.0, 0.0, 0.0), (8.0, 6.0, 0.0), (0.0, 6.0, 0.0), (4.0, 3.0, -20.0)]);
        let svg = floor_svg(Some(&f), Some(8.0), Some(6.0), Look::PAGE);
        assert_eq!(svg.matches("data-height=").count(), 5);
        // The middle is a ring at the middle of the sheet, the corners are discs.
        let k = LARGEST / 8.0;
        let middle = format!(r#"cx="{:.1}" cy="{:.1}" r="11.0" fill="{}""#, MARGIN + 4.0 * k, MARGIN + 3.0 * k, Look::PAGE.plaster);
        assert!(svg.contains(&middle), "{svg}");
        assert_eq!(svg.matches(&format!(r#"fill="{}" stroke="{}" stroke-width="1.8""#, Look::PAGE.ink, Look::PAGE.ink)).count(), 4);
        assert!(svg.contains("below the plane"));
    }

    #[test]
    fn a_floor_without_a_height_can_be_tapped() {
        let svg = floor_svg(None, None, None, Look::PAGE);
        assert!(svg.contains(r#"data-north="4""#) && svg.contains("No height is read yet"), "{svg}");
        assert!(!svg.contains("data-height"));
    }
}
