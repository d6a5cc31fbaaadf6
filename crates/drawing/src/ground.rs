//! The ground drawn: the plan with its contours and the water that stands on it, and the profile of a transect.

use crate::palette::Look;
use crate::roof::Frame;
use crate::svg::{Style, Svg};
use envelope::ground::record::{Ground, LineKind, NearbyKind};
use envelope::ground::survey::{GroundTransect, Surfaced, Survey};
use envelope::measure::Units;
use envelope::terrain::surface::Cell;

/// Bands a pond is drawn in, from its deepest place to its brim; the page fills them as the water rises.
const BANDS: usize = 12;
/// More readings than this are dots without figures.
const MOST_FIGURES: usize = 160;

/// What is drawn over the plan.
#[derive(Debug, Clone, Copy, Default)]
pub struct GroundOver<'a> {
    /// A point whose way out is drawn, east and north.
    pub from: Option<[f64; 2]>,
    /// Ponds are filled so high, by name; brim-full where nothing is said.
    pub levels: Option<&'a [(String, f64)]>,
}

/// The plan of the ground, north up. `None` while there is no surface.
pub fn ground_svg(survey: &Survey, ground: &Ground, over: GroundOver<'_>, look: Look) -> Option<String> {
    let surfaced = survey.surface.as_ref()?;
    let account = &survey.account;
    let outlines = survey.outlines();
    let all = account.readings.iter().map(|r| r.north).chain(outlines.iter().flatten().copied());
    let circles = account.nearby.iter().flat_map(|n| [-1.0, 1.0].map(|s| [n.north[0] + s * n.reach_m, n.north[1] + s * n.reach_m]));
    let frame = Frame::over(all.chain(circles));
    let at = |building: [f64; 2]| frame.at(survey.north(building));
    let mut s = Svg::new(look);
    contours(&mut s, surfaced, &at);
    ponds(&mut s, survey, surfaced, over.levels, &at);
    for ring in &outlines {
        let ring: Vec<[f64; 2]> = ring.iter().map(|p| frame.at(*p)).collect();
        s.path(&[ring], &Style::new().fill(look.plaster_low).stroke(look.ink, 2.0));
    }
    for l in &ground.lines {
        let points: Vec<[f64; 2]> =
            l.spots.iter().filter_map(|id| account.readings.iter().find(|r| r.id == *id)).map(|r| frame.at(r.north)).collect();
        let (width, dash) = match l.kind {
            LineKind::Kerb => (2.5, ""),
            LineKind::Swale => (1.5, "10 3 2 3"),
            LineKind::LotLine => (1.2, "14 4 2 4 2 4"),
            LineKind::Bend => (1.0, "3 3"),
        };
        s.curve(&points, &Style::new().stroke(look.ink, width).dash(dash));
    }
    // Figures that would lie on one another are left out; choosing the reading still says its height.
    let mut written: Vec<[f64; 2]> = account.ponds.iter().filter_map(|p| middle_of(survey, surfaced, &p.id)).map(&at).collect();
    let mut free = |p: [f64; 2]| {
        const ROOM: [f64; 2] = [24.0, 9.0];
        let clear = written.iter().all(|w| (w[0] - p[0]).abs() > ROOM[0] || (w[1] - p[1]).abs() > ROOM[1]);
        if clear {
            written.push(p);
        }
        clear
    };
    for r in &account.readings {
        let [x, y] = frame.at(r.north);
        s.group(&Style::button("data-piece", &r.id, &format!("{}, {}", r.id, look.units.depth(r.z_m))), |s| {
            s.circle([x, y], 9.0, &Style::new().unseen());
            s.sign([x - 3.0, y], "h6m-3 -3v6", &Style::new().stroke(look.ink, 1.2));
        });
        if account.readings.len() <= MOST_FIGURES && free([x, y]) {
            let style = Style::new().fill(look.ink_soft).size(8.5).still();
            s.text([x + 4.0, y - 3.0], &look.units.bare_depth(r.z_m), &style);
        }
    }
    for n in &account.nearby {
        let [x, y] = frame.at(n.north);
        let reach = frame.length(n.reach_m);
        let tone = if n.right { look.ink_soft } else { look.ochre };
        if reach > 3.0 {
            s.circle([x, y], reach, &Style::new().hollow().stroke(tone, 1.2).dash("4 4"));
        }
        let mark = match n.kind {
            NearbyKind::Trunk => "m-5 0a5 5 0 1 0 10 0a5 5 0 1 0 -10 0m2 0h6m-3 -3v6",
            NearbyKind::SprayHead => "m0 5v-5m-6 -5l6 5l6 -5m-6 5v-8",
            NearbyKind::RetainingWall => "m-8 3h16m-14 0v-6h4v6m4 0v-6h4v6",
            NearbyKind::Drain => "m-5 -5h10v10h-10zm0 5h10m-5 -5v10",
        };
        s.titled(&n.sentence, |s| s.sign([x, y], mark, &Style::new().hollow().stroke(look.ink, 1.5)));
    }
    if let Some(from) = over.from {
        let cell = surfaced.grid.lay.cell_at(survey.building(from)).filter(|k| surfaced.grid.cells[*k] == Cell::Ground);
        if let Some(k) = cell {
            let way: Vec<[f64; 2]> = surfaced.water.way_out(k).into_iter().map(|c| at(surfaced.grid.lay.middle(c))).collect();
            s.curve(&way, &Style::new().stroke(look.water, 3.0).dash("2 5").round());
            let [x, y] = at(surfaced.grid.lay.middle(k));
            s.circle([x, y], 5.0, &Style::new().fill(look.water));
        }
    }
    for p in &account.ponds {
        let [x, y] = at(middle_of(survey, surfaced, &p.id).unwrap_or(p.deepest_at));
        let halo = Style::new().middle().fill(look.ink).halo(look.plaster, 3.5).weight(600).still();
        s.text([x, y + 4.0], &format!("{} {}", p.id, look.units.depth(p.depth_m)), &halo);
    }
    s.north([frame.width - 22.0, frame.height - 30.0]);
    s.scale_bar([30.0, frame.height - 14.0], frame.length(1.0), 150.0);
    Some(s.done_with(frame.width, frame.height, "The ground with its contours and the water that stands on it, north up", &frame.data()))
}

/// The middle of a pond, in the building's frame.
fn middle_of(survey: &Survey, surfaced: &Surfaced, id: &str) -> Option<[f64; 2]> {
    let (hollow, _) = surfaced.named.iter().find(|(_, n)| survey.account.ponds[**n].id == id)?;
    let cells = &surfaced.water.ponds[*hollow as usize].cells;
    let sum = cells.iter().map(|k| surfaced.grid.lay.middle(*k as usize)).fold([0.0; 2], |s, p| [s[0] + p[0], s[1] + p[1]]);
    Some(sum.map(|v| v / cells.len() as f64))
}

/// A step between contours that gives no more than a dozen of them, metres: round in the reader's units.
fn interval(low: f64, high: f64, units: Units) -> f64 {
    const METRIC: [f64; 8] = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.0];
    // Half an inch to six feet.
    const US: [f64; 8] = [0.0127, 0.0254, 0.0508, 0.1016, 0.1524, 0.3048, 0.6096, 1.8288];
    let round = if units.first() == Units::Us { US } else { METRIC };
    round.into_iter().find(|i| (high - low) / i <= 14.0).unwrap_or(round[7])
}

fn contours(s: &mut Svg, surfaced: &Surfaced, at: &dyn Fn([f64; 2]) -> [f64; 2]) {
    let g = &surfaced.grid;
    let (nx, ny) = (g.lay.nx, g.lay.ny);
    let known = |k: usize| g.cells[k] == Cell::Ground;
    let (low, high) = (0..g.z.len()).filter(|k| known(*k)).fold((f64::MAX, f64::MIN), |(l, h), k| (l.min(g.z[k]), h.max(g.z[k])));
    if low >= high || nx < 2 || ny < 2 {
        return;
    }
    /// Far below any ground: what is not known is cut off again below.
    const NOT_KNOWN_M: f64 = -1e6;
    let heights: Vec<f64> = (0..g.z.len()).map(|k| if known(k) { g.z[k] } else { NOT_KNOWN_M }).collect();
    let step = interval(low, high, s.look.units);
    let first = (low / step).ceil();
    let levels: Vec<f64> = (0..).map(|k| (first + f64::from(k)) * step).take_while(|l| *l < high).collect();
    let Ok(lines) = contour::ContourBuilder::new(nx, ny, true).lines(&heights, &levels) else { return };
    // A line stands only where all four middles around it are ground.
    let stands = |p: [f64; 2], q: [f64; 2]| {
        let corner = |i: usize| (p[i] + q[i]) / 2.0 - 0.5;
        let (x, y) = (corner(0), corner(1));
        let inside = x > 0.0 && y > 0.0 && x < (nx - 1) as f64 && y < (ny - 1) as f64;
        inside && {
            let k = y as usize * nx + x as usize;
            [k, k + 1, k + nx, k + nx + 1].into_iter().all(known)
        }
    };
    let origin = g.lay.middle(0);
    let place = |p: [f64; 2]| at([origin[0] + (p[0] - 0.5) * g.lay.cell, origin[1] + (p[1] - 0.5) * g.lay.cell]);
    for line in &lines {
        let level = line.threshold();
        let mut pieces: Vec<Vec<[f64; 2]>> = Vec::new();
        for ring in line.geometry() {
            let points: Vec<[f64; 2]> = ring.coords().map(|c| [c.x, c.y]).collect();
            let mut open = false;
            for pair in points.windows(2) {
                let goes_on = stands(pair[0], pair[1]);
                match pieces.last_mut().filter(|_| goes_on && open) {
                    Some(piece) => piece.push(pair[1]),
                    None if goes_on => pieces.push(pair.to_vec()),
                    None => {}
                }
                open = goes_on;
            }
        }
        let bold = (level / (step * 5.0)).round() * step * 5.0 - level;
        let width = if bold.abs() < step * 0.01 { 1.1 } else { 0.6 };
        let style = Style::new().stroke(s.look.ink_soft, width).faint(0.7);
        for piece in &pieces {
            s.curve(&piece.iter().map(|p| place(*p)).collect::<Vec<_>>(), &style);
        }
        // Written once for each level, half way along its longest piece.
        if let Some(longest) = pieces.iter().max_by_key(|p| p.len()) {
            let halo = Style::new().size(8.0).fill(s.look.ink_soft).halo(s.look.plaster, 2.5);
            s.text(place(longest[longest.len() / 2]), &s.look.units.bare_depth(level), &halo);
        }
    }
}

fn ponds(s: &mut Svg, survey: &Survey, surfaced: &Surfaced, levels: Option<&[(String, f64)]>, at: &dyn Fn([f64; 2]) -> [f64; 2]) {
    let g = &surfaced.grid;
    let half = g.lay.cell / 2.0;
    for (hollow, pond) in &surfaced.named {
        let (hollow, pond) = (&surfaced.water.ponds[*hollow as usize], &survey.account.ponds[*pond]);
        let bottom = g.z[hollow.cells[0] as usize];
        let brim = pond.brim_m.unwrap_or(bottom + pond.depth_m);
        let filled = levels.map_or(brim, |l| l.iter().find(|(id, _)| *id == pond.id).map_or(bottom, |(_, v)| *v));
        let name = format!("{}: {}, up to {} deep", pond.id, pond.place, s.look.units.depth(pond.depth_m));
        s.group(&Style::image("data-pond", &pond.id, &name), |s| {
            for band in 0..BANDS {
                let edge = |n: usize| bottom + (brim - bottom) * n as f64 / BANDS as f64;
                let (from, to) = (edge(band), edge(band + 1));
                let last = band + 1 == BANDS;
                let mut cells: Vec<usize> = hollow
                    .cells
                    .iter()
                    .map(|k| *k as usize)
                    .filter(|k| g.z[*k] < brim && g.z[*k] >= from - 1e-12 && (g.z[*k] < to || last))
                    .collect();
                cells.sort_unstable();
                // Neighbours in a row are one piece.
                let mut rings: Vec<Vec<[f64; 2]>> = Vec::new();
                let mut k = 0;
                while k < cells.len() {
                    let first = cells[k];
                    while k + 1 < cells.len() && cells[k + 1] == cells[k] + 1 && cells[k + 1] / g.lay.nx == first / g.lay.nx {
                        k += 1;
                    }
                    let (p, q) = (g.lay.middle(first), g.lay.middle(cells[k]));
                    let corners =
                        [[p[0] - half, p[1] - half], [q[0] + half, q[1] - half], [q[0] + half, q[1] + half], [p[0] - half, p[1] + half]];
                    rings.push(corners.into_iter().map(at).collect());
                    k += 1;
                }
                if !rings.is_empty() {
                    let opacity = 0.75 - 0.5 * band as f64 / BANDS as f64;
                    let fill = Style::new().fill(s.look.water).faint(opacity).data("data-from", format_args!("{from:.4}"));
                    s.path(&rings, &fill.when(from >= filled, Style::hidden));
                }
            }
        });
    }
}

/// The profile of a transect: wall, floor and cladding at the left, the ground, what is asked, and what would be placed.
pub fn transect_svg(t: &GroundTransect, look: Look) -> String {
    let (left, right, top, bottom) = (70.0, 650.0, 26.0, 176.0);
    let far = t.input.points.last().map_or(1.0, |p| p.distance_m).max(0.5);
    let wall = t.input.wall_side_elevation_m;
    let asked = t.result.as_ref().map(|r| wall - r.required_fall_m);
    let heights = t.input.points.iter().map(|p| p.elevation_m).chain([wall, 0.0]).chain(t.cladding_m).chain(asked);
    let (low, high) = heights.fold((f64::MAX, f64::MIN), |(l, h), z| (l.min(z), h.max(z)));
    let at = |x: f64, z: f64| [left + (right - left) * x / far, bottom - (bottom - top) * (z - low) / (high - low).max(0.05)];
    let mut s = Svg::new(look);
    let soft = Style::new().fill(look.ink_soft).size(11.0);
    // The wall, cut, with its floor; the cladding stands in front of it.
    let base = at(0.0, low)[1] + 10.0;
    s.path(
        &[vec![[left - 26.0, 8.0], [left - 8.0, 8.0], [left - 8.0, base], [left - 26.0, base]]],
        &Style::new().fill(look.plaster_low).stroke(look.ink, 1.2),
    );
    if let Some(c) = t.cladding_m {
        let y = at(0.0, c)[1];
        s.path(&[vec![[left - 8.0, 8.0], [left, 8.0], [left, y], [left - 8.0, y]]], &Style::new().fill(look.plaster).stroke(look.ink, 1.0));
        s.text([left + 5.0, y - 2.0], "cladding ends", &soft);
    }
    let floor = at(0.0, 0.0)[1];
    s.line([left - 66.0, floor], [left - 26.0, floor], &Style::new().stroke(look.ink, 2.0));
    s.text([left - 66.0, floor - 4.0], "floor", &soft);
    let mut profile = vec![at(0.0, wall)];
    profile.extend(t.input.points.iter().map(|p| at(p.distance_m, p.elevation_m)));
    let mut solid = profile.clone();
    solid.extend([at(far, low), at(0.0, low)].map(|p| [p[0], p[1] + 14.0]));
    s.path(&[solid], &Style::new().fill(look.plaster_low).faint(0.9));
    if let Some(r) = &t.result {
        if r.deepest_hollow_m > 5e-4 {
            // Water the profile would hold, the wall closed.
            let reach = r.reach_used_m;
            let brim = |x: f64| {
                t.input
                    .points
                    .iter()
                    .filter(|p| p.distance_m >= x && p.distance_m <= reach)
                    .map(|p| p.elevation_m)
                    .fold(r.elevation_at_reach_m, f64::max)
            };
            let n = 60;
            let xs: Vec<f64> = (0..=n).map(|k| reach * f64::from(k) / f64::from(n)).collect();
            let ground = |x: f64| height(t, x);
            let mut water: Vec<[f64; 2]> = xs.iter().map(|x| at(*x, brim(*x).max(ground(*x)))).collect();
            water.extend(xs.iter().rev().map(|x| at(*x, ground(*x))));
            s.path(&[water], &Style::new().fill(look.water).faint(0.4));
        }
        let copper = |dash: &str| Style::new().stroke(look.copper, 2.0).dash(dash);
        s.line(at(0.0, wall), at(r.reach_used_m, wall - r.required_fall_m), &copper("6 4"));
        if r.deficit_m > 5e-4 {
            let [x, y] = at(r.reach_used_m, wall - r.required_fall_m);
            let [_, y2] = at(r.reach_used_m, r.elevation_at_reach_m);
            let ink = Style::new().stroke(look.ink, 1.2);
            s.line([x, y], [x, y2], &ink);
            s.line([x - 4.0, y], [x + 4.0, y], &ink);
            s.line([x - 4.0, y2], [x + 4.0, y2], &ink);
            s.text(
                [x - 6.0, (y + y2) / 2.0 + 4.0],
                &format!("{} missing", look.units.depth(r.deficit_m)),
                &Style::new().end().fill(look.ink).weight(600),
            );
        }
        let finished: Vec<[f64; 2]> = r.finished.iter().map(|p| at(p.distance_m, p.elevation_m)).collect();
        s.curve(&finished, &copper(""));
        let [x, _] = at(r.reach_used_m, low);
        s.text([x, bottom + 32.0], &look.units.length(r.reach_used_m, 2), &Style::new().middle().and(&soft));
    }
    s.curve(&profile, &Style::new().stroke(look.ink, 2.5));
    for (p, [x, y]) in std::iter::once((0.0, wall)).chain(t.input.points.iter().map(|p| (p.distance_m, p.elevation_m))).zip(&profile) {
        s.circle([*x, *y], 2.5, &Style::new().fill(look.ink));
        s.text([*x, y + 15.0], &look.units.bare_depth(p.1), &Style::new().middle().and(&soft));
    }
    s.done(
        680.0,
        bottom + 40.0,
        &format!(
            "Profile of the ground {} from the left end; heights from the floor, drawn larger than lengths",
            look.units.length(t.station_m, 1)
        ),
    )
}

fn height(t: &GroundTransect, x: f64) -> f64 {
    let mut before = (0.0, t.input.wall_side_elevation_m);
    for p in &t.input.points {
        if p.distance_m >= x {
            let k = (x - before.0) / (p.distance_m - before.0).max(1e-9);
            return before.1 + k * (p.elevation_m - before.1);
        }
        before = (p.distance_m, p.elevation_m);
    }
    before.1
}
