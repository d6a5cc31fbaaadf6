//! A gutter as it hangs: its levels along the run, its outlets, water from the eave above and from valley feet.
//!
//! Between two outlets there is a divide where nothing flows; its place is found so that both sides stand equally deep there.
//! A closed end is a divide that cannot move. At an outlet the water stands at least as deep as the outlet needs for all that
//! comes to it. What cannot be carried spills: in = out + spilt.

use super::downspout::Bore;
use super::section::Section;
use super::surface::Reach;
use serde::{Deserialize, Serialize};

/// An outlet of a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RunOutlet {
    /// From the left end, metres.
    pub x_m: f64,
    /// Its bore.
    #[serde(flatten)]
    pub bore: Bore,
    /// A strainer lies over it.
    #[serde(default)]
    pub strainer: bool,
}

/// Water from the eave along a stretch: plan area for each metre, at its ends.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Along {
    /// From the left end, metres.
    pub from_m: f64,
    /// To.
    pub to_m: f64,
    /// Plan area for each metre at `from_m`, m.
    pub width_from_m: f64,
    /// The same at `to_m`.
    pub width_to_m: f64,
}

/// Water at one point, such as a valley foot.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Burst {
    /// From the left end, metres.
    pub x_m: f64,
    /// Plan area that arrives there, m².
    pub area_m2: f64,
}

/// Input of `calc gutter-run`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RunInput {
    /// The cross-section.
    pub section: Section,
    /// From end to end, metres.
    pub length_m: f64,
    /// Heights of the floor along the run, metres above any level: from the left end to the right.
    pub levels: Vec<[f64; 2]>,
    /// Manning's roughness.
    pub manning_n: f64,
    /// The outlets.
    pub outlets: Vec<RunOutlet>,
    /// Water from the eave.
    pub along: Vec<Along>,
    /// Water at points.
    #[serde(default)]
    pub bursts: Vec<Burst>,
    /// Rain, mm/h.
    pub rain_mm_h: f64,
}

/// The water in a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Run {
    /// Place, height of the floor, depth of the water: from the left end to the right.
    pub surface: Vec<[f64; 3]>,
    /// Depth to the rim, metres.
    pub rim_m: f64,
    /// Where nothing flows between outlets.
    pub divides_m: Vec<f64>,
    /// What each outlet gets, litres per second; no more than its pipe takes.
    pub outlets_l_s: Vec<f64>,
    /// What comes in, litres per second.
    pub in_l_s: f64,
    /// What spills, litres per second.
    pub spilt_l_s: f64,
    /// Greatest depth, metres, and where.
    pub deepest_m: f64,
    /// Where it stands deepest.
    pub deepest_at_m: f64,
    /// The rain at which it first spills, mm/h, and where; none when it has no outlet.
    pub spills_from_mm_h: Option<f64>,
    /// Where it first spills.
    pub first_spill_at_m: Option<f64>,
    /// What keeps it from carrying more: "gutter" or "downspout".
    pub governed_by: String,
    /// Water left standing when the rain is over: greatest depth, metres, and where.
    pub stands_m: f64,
    /// Where it stands.
    pub stands_at_m: f64,
}

/// A burst spreads over this much of the run.
const SPREAD_M: f64 = 0.2;
const TABLE: usize = 400;
/// More than any run has.
const MOST_OUTLETS: usize = 20;
/// Outlet and side agree to this depth.
const SAME_DEPTH_M: f64 = 1e-5;

/// Checks a run.
fn check(i: &RunInput) -> Result<(), String> {
    i.section.check()?;
    if !(0.1..=500.0).contains(&i.length_m) {
        return Err(format!("A run of {} m cannot be. Type metres from 0.1 to 500.", i.length_m));
    }
    if !(0.0..=0.2).contains(&i.manning_n) || !(0.0..=2000.0).contains(&i.rain_mm_h) {
        return Err("Roughness goes from 0 to 0.2 and rain from 0 to 2000 mm/h.".into());
    }
    if i.outlets.len() > MOST_OUTLETS || i.levels.len() > 200 || i.along.len() > 1000 || i.bursts.len() > 100 {
        return Err("This is more than a gutter has. Divide the run.".into());
    }
    for o in &i.outlets {
        o.bore.check()?;
        if !(-1e-9..=i.length_m + 1e-9).contains(&o.x_m) {
            return Err(format!("An outlet {:.2} m from the left end is not on this run of {:.2} m.", o.x_m, i.length_m));
        }
    }
    if !i.levels.windows(2).all(|w| w[0][0] < w[1][0]) || i.levels.iter().flatten().any(|v| !v.is_finite()) {
        return Err("The levels go from the left end to the right, each at its own place.".into());
    }
    let heights = i.levels.iter().map(|l| l[1]);
    let (low, high) = (heights.clone().fold(f64::MAX, f64::min), heights.fold(f64::MIN, f64::max));
    // A run that falls steadily to its outlet may fall more than its depth; one that dips below the outlet cannot.
    let lip = i.outlets.iter().map(|o| bed(&i.levels, o.x_m)).fold(f64::MAX, f64::min);
    if i.outlets.is_empty() || low >= lip - i.section.depth() || high - low <= i.section.depth() {
        Ok(())
    } else {
        Err(format!(
            "It falls {:.0} mm below its outlet, deeper than the trough: no water reaches the outlet. Check the levels.",
            (lip - low) * 1000.0
        ))
    }
}

/// Height of the floor at a place; level beyond the readings.
fn bed(levels: &[[f64; 2]], x: f64) -> f64 {
    let k = levels.partition_point(|l| l[0] < x);
    match (k.checked_sub(1).map(|k| levels[k]), levels.get(k)) {
        (Some(a), Some(b)) => a[1] + (b[1] - a[1]) * (x - a[0]) / (b[0] - a[0]),
        (None, Some(b)) => b[1],
        (Some(a), None) => a[1],
        (None, None) => 0.0,
    }
}

/// Fall per metre at a place, toward the right.
fn fall(levels: &[[f64; 2]], x: f64) -> f64 {
    let k = levels.partition_point(|l| l[0] <= x);
    match (k.checked_sub(1).map(|k| levels[k]), levels.get(k)) {
        (Some(a), Some(b)) => (a[1] - b[1]) / (b[0] - a[0]),
        _ => 0.0,
    }
}

/// Plan area that has come in from the left end up to each place of a table.
struct Inflow {
    step: f64,
    sums: Vec<f64>,
}

impl Inflow {
    fn of(i: &RunInput) -> Inflow {
        let step = i.length_m / TABLE as f64;
        let below = |x: f64| -> f64 {
            let eave: f64 = i
                .along
                .iter()
                .map(|a| {
                    let to = x.clamp(a.from_m, a.to_m);
                    let share = if a.to_m > a.from_m { (to - a.from_m) / (a.to_m - a.from_m) } else { 0.0 };
                    (to - a.from_m) * (a.width_from_m + (a.width_to_m - a.width_from_m) * share / 2.0)
                })
                .sum();
            let bursts: f64 = i
                .bursts
                .iter()
                .map(|b| {
                    let wide = SPREAD_M.min(i.length_m);
                    let from = (b.x_m - wide / 2.0).clamp(0.0, i.length_m - wide);
                    b.area_m2 * ((x - from) / wide).clamp(0.0, 1.0)
                })
                .sum();
            eave + bursts
        };
        Inflow { step, sums: (0..=TABLE).map(|k| below(k as f64 * step)).collect() }
    }
    fn upto(&self, x: f64) -> f64 {
        let at = (x / self.step).clamp(0.0, TABLE as f64);
        let k = (at as usize).min(TABLE - 1);
        self.sums[k] + (self.sums[k + 1] - self.sums[k]) * (at - k as f64)
    }
    fn width(&self, x: f64) -> f64 {
        let k = ((x / self.step) as usize).min(TABLE - 1);
        (self.sums[k + 1] - self.sums[k]) / self.step
    }
    fn all(&self) -> f64 {
        self.sums[TABLE]
    }
}

/// One side of an outlet: depths from the divide to the outlet.
fn side(i: &RunInput, inflow: &Inflow, rain: f64, divide: f64, outlet: f64, head: f64) -> Vec<[f64; 2]> {
    let length = (outlet - divide).abs();
    if length < 1e-6 {
        return vec![[outlet, head]];
    }
    let way = if outlet > divide { 1.0 } else { -1.0 };
    let place = |s: f64| divide + way * s;
    let per = rain / 3.6e6;
    let reach = Reach {
        section: i.section,
        length,
        n: i.manning_n,
        fall: &|s| way * fall(&i.levels, place(s)),
        inflow: &|s| inflow.width(place(s)).max(0.0) * per,
        flow: &|s| (inflow.upto(place(s)) - inflow.upto(divide)).abs() * per,
        head,
    };
    let surface = reach.surface();
    surface.x.iter().zip(&surface.y).map(|(s, y)| [place(*s), *y]).collect()
}

/// A run's depths at one rain, with its divides and what goes to each outlet (m³/s).
struct Solved {
    depths: Vec<[f64; 2]>,
    divides: Vec<f64>,
    flows: Vec<f64>,
}

/// Solves a run at a rain; `near` are the divides at a rain nearby, where they are known.
fn solve(i: &RunInput, inflow: &Inflow, outlets: &[&RunOutlet], rain: f64, near: Option<&[f64]>) -> Solved {
    let per = rain / 3.6e6;
    let n = outlets.len();
    // First guess: half way.
    let half_way = || outlets.windows(2).map(|w| (w[0].x_m + w[1].x_m) / 2.0).collect();
    let mut divides: Vec<f64> = near.map_or_else(half_way, <[f64]>::to_vec);
    let bounds = |divides: &[f64], k: usize| {
        let from = if k == 0 { 0.0 } else { divides[k - 1] };
        let to = if k == n - 1 { i.length_m } else { divides[k] };
        (from, to)
    };
    let flow = |divides: &[f64], k: usize| {
        let (from, to) = bounds(divides, k);
        (inflow.upto(to) - inflow.upto(from)) * per
    };
    let head = |q: f64, o: &RunOutlet| o.bore.head_mm(q * 1000.0, o.strainer) / 1000.0;
    // One divide settles at once; of several, each waits for its neighbours.
    let rounds = n.saturating_sub(1).min(2);
    for _ in 0..rounds {
        for k in 0..n - 1 {
            let (left, right) = (outlets[k], outlets[k + 1]);
            let depth = |divides: &[f64], of: usize, o: &RunOutlet| {
                let h = head(flow(divides, of), o);
                side(i, inflow, rain, divides[k], o.x_m, h).first().map_or(0.0, |p| p[1])
            };
            let mut moved = divides.clone();
            // The longer the left side, the deeper it stands at the divide, and the shallower the right one.
            divides[k] = between(left.x_m, right.x_m, divides[k], &mut |d| {
                moved[k] = d;
                depth(&moved, k, left) - depth(&moved, k + 1, right)
            });
        }
    }
    let mut depths = Vec::new();
    let flows: Vec<f64> = (0..n).map(|k| flow(&divides, k)).collect();
    for (k, o) in outlets.iter().enumerate() {
        let (from, to) = bounds(&divides, k);
        let h = head(flows[k], o);
        depths.extend(side(i, inflow, rain, from, o.x_m, h));
        let mut right = side(i, inflow, rain, to, o.x_m, h);
        right.reverse();
        depths.extend(right);
    }
    Solved { depths, divides, flows }
}

/// Water that stays in the hollows of the floor when the rain is over: an outlet empties its own place.
fn standing(i: &RunInput) -> (f64, f64) {
    let at = |k: usize| i.length_m * k as f64 / TABLE as f64;
    let floor: Vec<f64> = (0..=TABLE).map(|k| bed(&i.levels, at(k))).collect();
    let drains = |k: usize| i.outlets.iter().any(|o| (o.x_m - at(k)).abs() <= i.length_m / TABLE as f64);
    // Over each place the water stands as high as the lower of the two ways out to an outlet; ends are closed by the rim.
    let rim = i.section.depth();
    let mut level = vec![f64::MAX; TABLE + 1];
    for order in [(0..=TABLE).collect::<Vec<_>>(), (0..=TABLE).rev().collect()] {
        let mut over = f64::MAX;
        for k in order {
            over = if drains(k) { floor[k] } else { over.max(floor[k]) };
            level[k] = level[k].min(over);
        }
    }
    let deep = |k: usize| (level[k] - floor[k]).clamp(0.0, rim);
    let k = (0..=TABLE).max_by(|a, b| deep(*a).total_cmp(&deep(*b))).unwrap_or(0);
    (deep(k), at(k))
}

/// Works a run out.
///
/// # Errors
/// What is wrong with which figure.
pub fn run(input: &RunInput) -> Result<Run, String> {
    check(input)?;
    let inflow = Inflow::of(input);
    let all = inflow.all() * input.rain_mm_h / 3.6e6;
    let rim = input.section.depth();
    let (stands, stands_at) = standing(input);
    let mut outlets: Vec<&RunOutlet> = input.outlets.iter().collect();
    outlets.sort_by(|a, b| a.x_m.total_cmp(&b.x_m));
    if outlets.is_empty() {
        let lowest = input.levels.iter().min_by(|a, b| a[1].total_cmp(&b[1])).map_or(0.0, |l| l[0]);
        return Ok(Run {
            surface: (0..=TABLE / 4)
                .map(|k| input.length_m * k as f64 * 4.0 / TABLE as f64)
                .map(|x| [x, bed(&input.levels, x), rim])
                .collect(),
            rim_m: rim,
            divides_m: vec![],
            outlets_l_s: vec![],
            in_l_s: all * 1000.0,
            spilt_l_s: all * 1000.0,
            deepest_m: rim,
            deepest_at_m: lowest,
            spills_from_mm_h: None,
            first_spill_at_m: Some(lowest),
            governed_by: "no outlet".into(),
            stands_m: stands,
            stands_at_m: stands_at,
        });
    }
    let deepest = |s: &Solved| s.depths.iter().copied().max_by(|a, b| a[1].total_cmp(&b[1])).unwrap_or([0.0, 0.0]);
    let now = solve(input, &inflow, &outlets, input.rain_mm_h, None);
    // The rain that fills the pipes, and the one that reaches the brim; more rain never means less depth.
    let pipes = (0..outlets.len())
        .filter(|k| now.flows[*k] > 0.0)
        .map(|k| (outlets[k].bore.pipe_l_s() / 1000.0 / now.flows[k] * input.rain_mm_h, outlets[k].x_m))
        .min_by(|a, b| a.0.total_cmp(&b.0));
    let brim = (inflow.all() > 0.0).then(|| {
        let mut near = now.divides.clone();
        brim_full(input.rain_mm_h.max(1.0), |rain| {
            let s = solve(input, &inflow, &outlets, rain, Some(&near));
            near.clone_from(&s.divides);
            let [x, y] = deepest(&s);
            (y / rim, x)
        })
    });
    let first = match (pipes, brim) {
        (Some(p), Some(b)) if p.0 < b.0 => Some(p),
        (_, b) => b,
    };
    let pipe_first = first.is_some() && first == pipes;
    let spills_from = first.map(|f| f.0);
    let spilt = spills_from.map_or(0.0, |c| (1.0 - c / input.rain_mm_h).max(0.0)) * all;
    let kept = if all > 0.0 { 1.0 - spilt / all } else { 1.0 };
    let [deepest_at_m, deepest_m] = deepest(&now);
    // Outlets in the order they were given.
    let outlets_l_s = input
        .outlets
        .iter()
        .map(|o| outlets.iter().position(|p| std::ptr::eq(*p, o)).map_or(0.0, |k| now.flows[k] * kept * 1000.0))
        .collect();
    let every = (now.depths.len() / 240).max(1);
    Ok(Run {
        surface: now.depths.iter().step_by(every).chain(now.depths.last()).map(|[x, y]| [*x, bed(&input.levels, *x), *y]).collect(),
        rim_m: rim,
        divides_m: now.divides,
        outlets_l_s,
        in_l_s: all * 1000.0,
        spilt_l_s: spilt * 1000.0,
        deepest_m,
        deepest_at_m,
        spills_from_mm_h: spills_from,
        first_spill_at_m: first.map(|f| f.1),
        governed_by: if pipe_first { "downspout" } else { "gutter" }.into(),
        stands_m: stands,
        stands_at_m: stands_at,
    })
}

/// Where a rising function is zero between two places: false position from a guess outward, with the end that stays halved
/// so that both close in.
fn between(from: f64, to: f64, guess: f64, f: &mut dyn FnMut(f64) -> f64) -> f64 {
    let (mut low, mut high) = (from, to);
    let (mut at_low, mut at_high) = (None, None);
    let mut d = guess.clamp(from, to);
    let mut reach = (to - from) * 0.02;
    let mut stayed = 0;
    for _ in 0..24 {
        let v = f(d);
        if v.abs() < SAME_DEPTH_M || high - low < 1e-4 {
            break;
        }
        if v < 0.0 {
            (low, at_low) = (d, Some(v));
            at_high = at_high.map(|h: f64| if stayed < 0 { h / 2.0 } else { h });
            stayed = -1;
        } else {
            (high, at_high) = (d, Some(v));
            at_low = at_low.map(|l: f64| if stayed > 0 { l / 2.0 } else { l });
            stayed = 1;
        }
        d = match (at_low, at_high) {
            (Some(l), Some(h)) => low + (high - low) * -l / (h - l),
            // Only one side is known yet: step away from it, farther each time.
            (Some(_), None) => (low + reach).min(to),
            _ => (high - reach).max(from),
        };
        reach *= 4.0;
    }
    d
}

/// The brim is met to this share of its height.
const BRIM: f64 = 1e-4;

/// The rain that fills a run to its brim, and where; `filled` gives the greatest depth as a share of the brim and its place.
/// Depth grows nearly as a power of the rain, so the search goes in logarithms.
fn brim_full(guess: f64, mut filled: impl FnMut(f64) -> (f64, f64)) -> (f64, f64) {
    /// Depth over rain in logarithms while nothing better is known: that of a critical depth in a rectangle.
    const POWER: f64 = 2.0 / 3.0;
    let (mut low, mut high) = (None::<(f64, f64)>, None::<(f64, f64)>);
    let mut r = guess.ln();
    let mut place = 0.0;
    for _ in 0..40 {
        let (share, x) = filled(r.exp());
        let v = share.max(1e-9).ln();
        place = x;
        if v.abs() < BRIM {
            break;
        }
        if v < 0.0 {
            low = Some((r, v))
        } else {
            high = Some((r, v))
        }
        r = match (low, high) {
            (Some((a, va)), Some((b, vb))) => {
                if b - a < 1e-6 {
                    break;
                }
                // Kept off the ends, so that both close in.
                a + (b - a) * (-va / (vb - va)).clamp(0.05, 0.95)
            }
            // Never more than tenfold at once; past any rain there is no brim to meet.
            _ => (r - v / POWER).clamp(r - 2.3, r + 2.3),
        };
        if r > MOST_RAIN_LN {
            break;
        }
    }
    (r.exp(), place)
}

/// e to this is more rain than falls on earth, mm/h.
const MOST_RAIN_LN: f64 = 13.0;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn level(outlets: &[f64], fall: f64) -> RunInput {
        RunInput {
            section: Section::Rect { width_m: 0.125, depth_m: 0.1 },
            length_m: 9.0,
            levels: vec![[0.0, fall], [9.0, 0.0]],
            manning_n: 0.012,
            outlets: outlets.iter().map(|x| RunOutlet { x_m: *x, bore: Bore::Round { diameter_mm: 300.0 }, strainer: false }).collect(),
            along: vec![Along { from_m: 0.0, to_m: 9.0, width_from_m: 6.0, width_to_m: 6.0 }],
            bursts: vec![],
            rain_mm_h: 125.0,
        }
    }

    #[test]
    fn one_outlet_at_the_end_is_the_plain_channel() {
        let r = run(&level(&[9.0], 0.0)).unwrap();
        // The reference's level rectangle: 54.75 mm at the closed end.
        assert!((r.deepest_m - 0.054_753_9).abs() < 2e-4 && r.deepest_at_m < 0.1, "{r:?}");
        assert!((r.in_l_s - 1.875).abs() < 1e-9 && r.spilt_l_s == 0.0);
        // and 4.85 L/s when it is full, unless the pipe is the smaller
        assert!((r.spills_from_mm_h.unwrap() / 125.0 * 1.875 - 4.8535).abs() < 0.05, "{r:?}");
    }

    #[test]
    fn two_outlets_share_at_a_divide() {
        let r = run(&level(&[0.0, 9.0], 0.0)).unwrap();
        assert!((r.divides_m[0] - 4.5).abs() < 0.01, "{:?}", r.divides_m);
        assert!((r.outlets_l_s[0] - r.outlets_l_s[1]).abs() < 0.01);
        // Falling to the right, the divide moves to the left.
        assert!(run(&level(&[0.0, 9.0], 0.03)).unwrap().divides_m[0] < 4.0);
    }

    #[test]
    fn a_run_that_falls_away_from_its_outlet_holds_water() {
        let mut back = level(&[9.0], -0.012);
        let r = run(&back).unwrap();
        assert!((r.stands_m - 0.012).abs() < 1e-3 && r.stands_at_m < 0.1, "{r:?}");
        assert!(r.spills_from_mm_h.unwrap() < run(&level(&[9.0], 0.0)).unwrap().spills_from_mm_h.unwrap());
        back.outlets.clear();
        let none = run(&back).unwrap();
        assert!((none.spilt_l_s - none.in_l_s).abs() < 1e-12, "without an outlet all of it spills");
    }

    #[test]
    fn a_small_pipe_governs() {
        let mut r = level(&[9.0], 0.02);
        r.outlets[0].bore = Bore::Round { diameter_mm: 40.0 };
        let small = run(&r).unwrap();
        assert!(small.spilt_l_s > 0.0 && (small.outlets_l_s[0] + small.spilt_l_s - small.in_l_s).abs() < 1e-9, "{small:?}");
    }

    #[test]
    fn what_no_run_is() {
        let bad = |f: &dyn Fn(&mut RunInput)| {
            let mut i = level(&[9.0], 0.0);
            f(&mut i);
            run(&i).unwrap_err()
        };
        assert!(bad(&|i| i.outlets[0].x_m = 12.0).contains("not on this run"));
        assert!(bad(&|i| i.section = Section::Rect { width_m: 0.0, depth_m: 0.1 }).contains("The width cannot be 0"));
        assert!(bad(&|i| i.levels = vec![[0.0, -0.3], [9.0, 0.0]]).contains("deeper than the trough"));
        assert!(bad(&|i| i.levels = vec![[3.0, 0.0], [1.0, 0.0]]).contains("left end to the right"));
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

        /// In is out and spilt; more rain never means less depth; a mirrored run is mirrored.
        #[test]
        fn laws_of_a_run(x in 0.5..8.5_f64, fall in -0.02..0.03_f64, rain in 20.0..300.0_f64, burst in 0.0..12.0_f64) {
            let mut i = level(&[x], fall);
            i.outlets[0].bore = Bore::Round { diameter_mm: 75.0 };
            i.bursts = vec![Burst { x_m: 9.0, area_m2: burst }];
            i.rain_mm_h = rain;
            let r = run(&i).unwrap();
            prop_assert!((r.outlets_l_s.iter().sum::<f64>() + r.spilt_l_s - r.in_l_s).abs() < 1e-9);
            prop_assert!((r.in_l_s - (54.0 + burst) * rain / 3600.0).abs() < 1e-9);
            let mut more = i.clone();
            more.rain_mm_h *= 1.3;
            prop_assert!(run(&more).unwrap().deepest_m >= r.deepest_m - 1e-5);
            let mut mirrored = i.clone();
            mirrored.outlets[0].x_m = 9.0 - x;
            mirrored.levels = i.levels.iter().rev().map(|l| [9.0 - l[0], l[1]]).collect();
            mirrored.bursts[0].x_m = 0.0;
            let m = run(&mirrored).unwrap();
            prop_assert!((m.deepest_m - r.deepest_m).abs() < 1e-4, "{} {}", m.deepest_m, r.deepest_m);
            prop_assert!((m.stands_m - r.stands_m).abs() < 1e-9);
        }
    }
}
