//! Cracks on the sketch of a face, to scale.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::roof::account::Account;
use envelope::site::Face;
use envelope::wall::account::WallAccount;
use envelope::wall::cracks::Pattern;
use envelope::wall::record::Walls;

/// A face with its cracks. `None` while it has none.
pub fn cracks_svg(face: Face, walls: &Walls, account: &WallAccount, roof: &Account, look: Look) -> Option<String> {
    let cracks: Vec<_> =
        walls.cracks.iter().filter(|c| c.face == face).filter_map(|c| Some((c, account.cracks.iter().find(|a| a.id == c.id)?))).collect();
    if cracks.is_empty() {
        return None;
    }
    let seen = roof.elevations.iter().find(|e| e.face == face);
    // Cracks are measured from the left end of the wall; the drawing of a face begins at the roof's edge.
    let wall = seen.map(|e| e.outlines.iter().filter(|o| o.facet.is_none()).flat_map(|o| &o.points).map(|p| p[0]).fold(f64::MAX, f64::min));
    let left = wall.filter(|x| *x < f64::MAX).unwrap_or(0.0);
    let reach = |k: usize| cracks.iter().flat_map(|(_, a)| a.ends).map(|p| p[k]).fold(0.0, f64::max);
    let (wide, high) =
        seen.map_or((reach(0) + 0.5, reach(1).max(2.4) + 0.3), |e| (e.width_m.max(left + reach(0)), e.height_m.max(reach(1))));
    let k = (620.0 / wide.max(1.0)).min(80.0).min(260.0 / high);
    let (width, height) = (wide * k + 20.0, high * k + 44.0);
    let at = |p: [f64; 2]| [10.0 + p[0] * k, 10.0 + (high - p[1]) * k];
    let mut s = Svg::new(look);
    for o in seen.iter().flat_map(|e| &e.outlines) {
        let fill = if o.facet.is_none() { look.plaster_low } else { look.plaster };
        let ring: Vec<[f64; 2]> = o.points.iter().map(|p| at(*p)).collect();
        s.path(&[ring], &Style::new().fill(fill).stroke(look.ink_soft, 1.0));
    }
    let ground = 10.0 + high * k;
    s.line([0.0, ground], [width, ground], &Style::new().stroke(look.ink, 2.0));
    for (c, a) in cracks {
        let [p, q] = a.ends.map(|e| [e[0] + left, e[1]]);
        let points = match c.pattern {
            Pattern::StairStepped => steps(p, q),
            _ => vec![p, q],
        };
        let wide = a.widest_m.map_or(1.5, |w| (1.0 + 1000.0 * w).min(5.0));
        let drawn: Vec<[f64; 2]> = points.into_iter().map(at).collect();
        s.titled(&a.sentence, |s| s.curve(&drawn, &Style::new().stroke(look.copper, wide).joined()));
        let top = if p[1] > q[1] { at(p) } else { at(q) };
        let words = a.widest_m.map_or_else(|| c.id.clone(), |w| format!("{} {}", c.id, look.units.fine(w)));
        let halo = Style::new().fill(look.ink).halo(look.plaster, 3.0).weight(600);
        s.text([top[0] + 5.0, top[1] - 3.0], &words, &halo);
    }
    s.scale_bar([12.0, height - 12.0], k, 120.0);
    Some(s.done(width, height, &format!("{} with its cracks, to scale", face.name())))
}

/// Along the joints: level and upright by turns.
fn steps(p: [f64; 2], q: [f64; 2]) -> Vec<[f64; 2]> {
    let n = (((q[1] - p[1]).abs() / 0.2).round() as usize).clamp(2, 12);
    let mut out = vec![p];
    for i in 1..=n {
        let f = i as f64 / n as f64;
        let before = out[out.len() - 1];
        let next = [p[0] + f * (q[0] - p[0]), p[1] + f * (q[1] - p[1])];
        out.push([next[0], before[1]]);
        out.push(next);
    }
    out
}
