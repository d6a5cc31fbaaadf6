//! A gutter as it hangs: its levels along the run, its outlets, water from the eave above and from valley feet.
//!
//! The whole run is one water: an outlet takes what the head over it allows and never more than its pipe, what it cannot take runs
//! on or ponds, and what stands above the brim goes over along the stretch where it does. So in = out + spilt is a law that the
//! result may break, and a test that it does not.

use super::begins::{BEGINS, Beginnings, Begins, begins_to_spill, deepest};
use super::downspout::Bore;
use super::flow::{Drain, Flowing, Trough, flowing};
use super::section::Section;
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
    /// Its sill above the floor there, metres: an overflow.
    #[serde(default)]
    pub up_m: f64,
}

/// Water from the eave along a stretch: plan area for each metre, at its ends.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AlongGutter {
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
    pub along: Vec<AlongGutter>,
    /// Water at points.
    #[serde(default)]
    pub bursts: Vec<Burst>,
    /// Corners the run goes round, from the left end, metres.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub corners_m: Vec<f64>,
    /// Rain, mm/h.
    pub rain_mm_h: f64,
}

/// What goes over the brim along a stretch.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spill {
    /// From the left end, metres.
    pub from_m: f64,
    /// To.
    pub to_m: f64,
    /// Litres per second over this stretch.
    pub l_s: f64,
}

/// What keeps a run from carrying more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Governed {
    /// The trough itself, or the head over its outlets.
    Gutter,
    /// A pipe that runs a third full.
    Downspout,
    /// There is no outlet.
    NoOutlet,
}

/// The water in a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Run {
    /// Place, height of the floor, depth of the water: from the left end to the right.
    pub surface: Vec<[f64; 3]>,
    /// Depth to the rim, metres.
    pub rim_m: f64,
    /// Where flow to the left turns to flow to the right.
    pub divides_m: Vec<f64>,
    /// What each outlet takes, litres per second.
    pub outlets_l_s: Vec<f64>,
    /// What comes in, litres per second.
    pub in_l_s: f64,
    /// What goes over the brim, litres per second.
    pub spilt_l_s: f64,
    /// Of that, over the left, the middle and the right third.
    pub spilt_by_third_l_s: [f64; 3],
    /// Where it goes over: each stretch at most half a metre long.
    pub spills: Vec<Spill>,
    /// Greatest depth, metres, above the brim where it spills.
    pub deepest_m: f64,
    /// Where it stands deepest.
    pub deepest_at_m: f64,
    /// The rain from which a thousandth of what comes in goes over, mm/h; none when it has no outlet.
    pub spills_from_mm_h: Option<f64>,
    /// Where it first spills.
    pub first_spill_at_m: Option<f64>,
    /// What keeps it from carrying more.
    pub governed_by: Governed,
    /// Water left standing when the rain is over: greatest depth, metres, and where.
    pub stands_m: f64,
    /// Where it stands.
    pub stands_at_m: f64,
}

/// A burst spreads over this much of the run.
const SPREAD_M: f64 = 0.2;
/// Places at which the floor is looked at for water that stays.
const TABLE: usize = 400;
/// An eave and the run under it end at one place; their lengths were taped apart.
const OFF_END_M: f64 = 0.01;
/// What the cutting of a roof leaves over in a length that is nothing, metres.
const NOISE: f64 = 1e-9;
/// More than any run has.
const MOST_OUTLETS: usize = 20;
const MOST_CORNERS: usize = 20;

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
        if !(0.0..=10.0).contains(&o.up_m) {
            return Err(format!("The sill of an outlet cannot stand {} m above the floor. Type 0 or more.", o.up_m));
        }
        if !(-1e-9..=i.length_m + 1e-9).contains(&o.x_m) {
            return Err(format!("An outlet {:.2} m from the left end is not on this run of {:.2} m.", o.x_m, i.length_m));
        }
    }
    if !i.levels.windows(2).all(|w| w[0][0] < w[1][0]) || i.levels.iter().flatten().any(|v| !v.is_finite()) {
        return Err("The levels go from the left end to the right, each at its own place.".into());
    }
    if i.corners_m.len() > MOST_CORNERS || i.corners_m.iter().any(|c| !(*c > 0.0 && *c < i.length_m)) {
        return Err(format!("A corner lies within the run, more than 0 and less than {:.2} m from its left end.", i.length_m));
    }
    let on_run = |x: f64| (-OFF_END_M..=i.length_m + OFF_END_M).contains(&x);
    let stretch =
        |a: &AlongGutter| on_run(a.from_m) && on_run(a.to_m) && a.to_m - a.from_m >= -NOISE && a.width_from_m.min(a.width_to_m) >= -NOISE;
    if !i.along.iter().all(stretch) || !i.bursts.iter().all(|b| on_run(b.x_m) && b.area_m2 >= 0.0) {
        return Err(format!(
            "Water comes in between the ends of the run, 0 and {:.2} m, from left to right, and none is taken away. Check the stretches and points.",
            i.length_m
        ));
    }
    if i.levels.iter().any(|l| l[1].abs() > 10.0) {
        return Err("A gutter does not rise or fall by more than 10 m. Check the levels.".into());
    }
    Ok(())
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

/// Plan area that has come in from the left end up to a place, m².
fn area_upto(i: &RunInput, x: f64) -> f64 {
    let eave = i.along.iter().map(|a| {
        let to = x.clamp(a.from_m, a.to_m.max(a.from_m));
        let share = if a.to_m > a.from_m { (to - a.from_m) / (a.to_m - a.from_m) } else { 0.0 };
        (to - a.from_m) * (a.width_from_m + (a.width_to_m - a.width_from_m) * share / 2.0)
    });
    let bursts = i.bursts.iter().map(|b| {
        let (from, wide) = spread(i, b.x_m, SPREAD_M);
        b.area_m2 * ((x - from) / wide).clamp(0.0, 1.0)
    });
    eave.sum::<f64>() + bursts.sum::<f64>()
}

/// A width about a place, moved inside the run at its ends: where it begins, and how wide it is.
fn spread(i: &RunInput, x: f64, wide: f64) -> (f64, f64) {
    let wide = wide.min(i.length_m);
    ((x - wide / 2.0).clamp(0.0, i.length_m - wide), wide)
}

impl RunOutlet {
    fn drain(&self, i: &RunInput) -> Drain {
        let (from, wide) = spread(i, self.x_m, self.bore.round_mm() / 1000.0);
        // Both laws are powers of the head: what they give for one millimetre says all of them.
        let (weir, orifice) = self.bore.outlet(1.0, self.strainer);
        Drain {
            from,
            to: from + wide,
            weir: weir / 1000.0 * 1000.0_f64.powf(1.5),
            orifice: orifice / 1000.0 * 1000.0_f64.sqrt(),
            most: self.bore.pipe_l_s() / 1000.0,
            up: self.up_m,
        }
    }
}

/// Water that stays in the hollows of the floor when the rain is over: an outlet empties its own place.
fn standing(i: &RunInput) -> (f64, f64) {
    let at = |k: usize| i.length_m * k as f64 / TABLE as f64;
    let floor: Vec<f64> = (0..=TABLE).map(|k| bed(&i.levels, at(k))).collect();
    let sill = |k: usize| {
        let there = i.outlets.iter().filter(|o| (o.x_m - at(k)).abs() <= i.length_m / TABLE as f64);
        there.map(|o| o.up_m).min_by(f64::total_cmp)
    };
    // Over each place the water stands as high as the lower of the two ways out to an outlet; ends are closed by the rim.
    let rim = i.section.depth();
    let mut level = vec![f64::MAX; TABLE + 1];
    for order in [(0..=TABLE).collect::<Vec<_>>(), (0..=TABLE).rev().collect()] {
        let mut over = f64::MAX;
        for k in order {
            over = match sill(k) {
                Some(up) => over.max(floor[k]).min(floor[k] + up),
                None => over.max(floor[k]),
            };
            level[k] = level[k].min(over);
        }
    }
    let deep = |k: usize| (level[k] - floor[k]).clamp(0.0, rim);
    let k = (0..=TABLE).max_by(|a, b| deep(*a).total_cmp(&deep(*b))).unwrap_or(0);
    (deep(k), at(k))
}

/// Where flow to the left turns to flow to the right, each of more than a fiftieth of all that comes.
fn divides(f: &Flowing, comes: f64) -> Vec<f64> {
    const WORTH: f64 = 0.02;
    let mut out = Vec::new();
    // Extremes between changes of sign: a divide stands where a strong flow to the left is followed by a strong one to the right.
    let faces: Vec<f64> = std::iter::once(0.0)
        .chain(f.dx.iter().scan(0.0, |x, dx| {
            *x += dx;
            Some(*x)
        }))
        .collect();
    let mut left = 0.0_f64;
    let mut turned: Option<f64> = None;
    for k in 1..f.through.len() {
        let (before, now) = (f.through[k - 1], f.through[k]);
        if now < 0.0 {
            left = if before > 0.0 { now } else { left.min(now) };
            turned = None;
        } else if before < 0.0 {
            turned = Some(faces[k - 1] + (faces[k] - faces[k - 1]) * (-before / (now - before)));
        }
        if let Some(x) = turned
            && left < -WORTH * comes
            && now > WORTH * comes
        {
            out.push(x);
            (turned, left) = (None, 0.0);
        }
    }
    out
}

/// What goes over, in stretches.
fn spills(f: &Flowing) -> Vec<Spill> {
    const STRETCH_M: f64 = 0.5;
    const HAIR_M: f64 = 1e-9;
    let mut out: Vec<Spill> = Vec::new();
    for ((x, dx), over) in f.x.iter().zip(&f.dx).zip(&f.over) {
        let (from_m, to_m, l_s) = (x - dx / 2.0, x + dx / 2.0, over * 1000.0);
        if l_s <= 0.0 {
            continue;
        }
        // Five cells of 10 cm are one stretch, whichever way the last digit of their sum is rounded.
        match out.last_mut().filter(|s| (s.to_m - from_m).abs() < HAIR_M && to_m - s.from_m <= STRETCH_M + HAIR_M) {
            Some(s) => (s.to_m, s.l_s) = (to_m, s.l_s + l_s),
            None => out.push(Spill { from_m, to_m, l_s }),
        }
    }
    out
}

/// Works a run out.
///
/// # Errors
/// What is wrong with which figure.
pub fn run(input: &RunInput) -> Result<Run, String> {
    run_with(input, &Beginnings::default())
}

/// The same, where it may be known already from which rain on the run spills; what is found is kept there.
///
/// # Errors
/// What is wrong with which figure.
pub fn run_with(input: &RunInput, known: &Beginnings) -> Result<Run, String> {
    let begins = known.of(input, || {
        check(input)?;
        with_trough(input, |trough| {
            let area = area_upto(input, input.length_m);
            Ok(if input.outlets.is_empty() || area <= 0.0 { None } else { begins_to_spill(trough, area) })
        })
    })?;
    // From the water at its brim to the water now, whether or not that was known before: the answer is the same.
    worked(input, begins.as_ref().as_ref(), begins.as_ref().as_ref().map(|b| &b.state)).map(|w| w.0)
}

/// The water in a run at its rain, without asking from which rain on it would spill, and its state; `near` is one at a rain nearby.
pub(crate) fn run_now(input: &RunInput, near: Option<&Flowing>) -> Result<(Run, Flowing), String> {
    worked(input, None, near)
}

/// The run as the equations of its water see it.
fn with_trough<T>(input: &RunInput, of: impl FnOnce(&Trough<'_>) -> T) -> T {
    let floor = |x: f64| bed(&input.levels, x);
    let upto = |x: f64| area_upto(input, x);
    let ends = |x: f64, wide: f64| {
        let (from, wide) = spread(input, x, wide);
        [from, from + wide]
    };
    of(&Trough {
        section: input.section,
        length: input.length_m,
        n: input.manning_n,
        bed: &floor,
        area: &upto,
        drains: input.outlets.iter().map(|o| o.drain(input)).collect(),
        bursts: input.bursts.iter().map(|b| ends(b.x_m, SPREAD_M)).map(|[a, b]| (a, b)).collect(),
        corners: input.corners_m.clone(),
        stops: input
            .along
            .iter()
            .flat_map(|a| [a.from_m, a.to_m])
            .chain(input.bursts.iter().flat_map(|b| ends(b.x_m, SPREAD_M)))
            .chain(input.levels.iter().map(|l| l[0]))
            .collect(),
    })
}

fn worked(input: &RunInput, begins: Option<&Begins>, near: Option<&Flowing>) -> Result<(Run, Flowing), String> {
    check(input)?;
    let area = area_upto(input, input.length_m);
    let rim = input.section.depth();
    let (stands_m, stands_at_m) = standing(input);
    let floor = |x: f64| bed(&input.levels, x);
    let now = with_trough(input, |trough| flowing(trough, input.rain_mm_h / 3.6e6, near))
        .ok_or("No steady water surface was found for this run. Check its levels and sizes; a step in the floor may be too high.")?;
    let comes = area * input.rain_mm_h / 3.6e6;
    // A run that does not spill is governed by what first makes it spill.
    let spilt: f64 = if input.rain_mm_h > 0.0 { now.over.iter().sum() } else { 0.0 };
    let judged = if spilt > BEGINS * comes { Some(&now) } else { begins.map(|b| &b.state) };
    let most = |o: &RunOutlet| o.bore.pipe_l_s() / 1000.0;
    let at_its_most = |f: &Flowing| f.taken.iter().zip(&input.outlets).any(|(t, o)| *t >= most(o) * (1.0 - 1e-6));
    let over_first = |f: &Flowing| {
        let k = (0..f.over.len()).max_by(|a, b| (f.over[*a] / f.dx[*a]).total_cmp(&(f.over[*b] / f.dx[*b])))?;
        (f.over[k] > 0.0).then(|| f.x[k])
    };
    let (deepest_at_m, deepest_m) = deepest(&now);
    let mut spilt_by_third_l_s = [0.0; 3];
    for (x, over) in now.x.iter().zip(&now.over) {
        spilt_by_third_l_s[((x / input.length_m * 3.0) as usize).min(2)] += over * 1000.0;
    }
    let first_spill_at_m = match begins {
        Some(Begins { state: f, .. }) => over_first(f).or(Some(deepest(f).0)),
        None if input.outlets.is_empty() => over_first(&now).or(Some(deepest_at_m)),
        None => over_first(&now),
    };
    let run = Run {
        surface: now.x.iter().zip(&now.y).map(|(x, y)| [*x, floor(*x), *y]).collect(),
        rim_m: rim,
        divides_m: divides(&now, comes),
        outlets_l_s: now.taken.iter().map(|t| t * 1000.0).collect(),
        in_l_s: comes * 1000.0,
        spilt_l_s: spilt * 1000.0,
        spilt_by_third_l_s,
        spills: spills(&now),
        deepest_m,
        deepest_at_m,
        spills_from_mm_h: begins.map(|b| b.rain_mm_h),
        first_spill_at_m,
        governed_by: match judged {
            _ if input.outlets.is_empty() => Governed::NoOutlet,
            Some(f) if at_its_most(f) => Governed::Downspout,
            _ => Governed::Gutter,
        },
        stands_m,
        stands_at_m,
    };
    Ok((run, now))
}

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
            outlets: outlets
                .iter()
                .map(|x| RunOutlet { x_m: *x, bore: Bore::Round { diameter_mm: 300.0 }, strainer: false, up_m: 0.0 })
                .collect(),
            along: vec![AlongGutter { from_m: 0.0, to_m: 9.0, width_from_m: 6.0, width_to_m: 6.0 }],
            bursts: vec![],
            corners_m: vec![],
            rain_mm_h: 125.0,
        }
    }

    #[test]
    fn one_outlet_at_the_end_is_the_plain_channel() {
        let r = run(&level(&[9.0], 0.0)).unwrap();
        // The reference's level rectangle stands 54.75 mm at the closed end over a free drop; an outlet of 300 mm begins to draw
        // the water down that much sooner.
        assert!((r.deepest_m - 0.054_753_9).abs() < 3e-3 && r.deepest_at_m < 0.1, "{}", r.deepest_m);
        assert!((r.in_l_s - 1.875).abs() < 1e-9 && r.spilt_l_s == 0.0);
        // and 4.85 L/s when it is full, unless the pipe is the smaller
        assert!((r.spills_from_mm_h.unwrap() / 125.0 * 1.875 - 4.8535).abs() < 0.35, "{:?}", r.spills_from_mm_h);
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
        assert!((none.spilt_l_s / none.in_l_s - 1.0).abs() < 1e-5, "without an outlet all of it spills");
        assert_eq!((none.spills_from_mm_h, none.governed_by), (None, Governed::NoOutlet));
    }

    #[test]
    fn a_small_pipe_governs() {
        let mut r = level(&[9.0], 0.02);
        r.outlets[0].bore = Bore::Round { diameter_mm: 40.0 };
        let small = run(&r).unwrap();
        assert!(small.spilt_l_s > 0.0 && small.governed_by == Governed::Downspout);
        assert!(
            (small.outlets_l_s[0] / Bore::Round { diameter_mm: 40.0 }.pipe_l_s() - 1.0).abs() < 1e-5,
            "it runs a third full and no more"
        );
    }

    #[test]
    fn a_small_outlet_beside_a_large_one_makes_nothing_spill() {
        let mut i = level(&[0.0, 9.0], 0.0);
        i.outlets[0].bore = Bore::Round { diameter_mm: 25.0 };
        i.outlets[1].bore = Bore::Round { diameter_mm: 100.0 };
        let r = run(&i).unwrap();
        assert_eq!(r.spilt_l_s, 0.0, "what the small one cannot take runs to the large one");
        assert!(r.outlets_l_s[1] > 4.0 * r.outlets_l_s[0] && r.deepest_m < r.rim_m, "{:?} {}", r.outlets_l_s, r.deepest_m);
    }

    /// A box gutter with an overflow: it is dry while the other outlet works, and holds the water without it.
    #[test]
    fn an_overflow_works_when_it_must() {
        let mut i = level(&[0.0, 9.0], 0.0);
        for o in &mut i.outlets {
            o.bore = Bore::Round { diameter_mm: 100.0 };
        }
        i.outlets[1].up_m = 0.07;
        i.rain_mm_h = 40.0;
        let both = run(&i).unwrap();
        assert!(both.outlets_l_s[1] < 1e-9 && both.stands_m < 1e-9, "{both:?}");
        assert!((both.outlets_l_s[0] / both.in_l_s - 1.0).abs() < 1e-4);
        i.outlets.remove(0);
        let alone = run(&i).unwrap();
        assert!((alone.outlets_l_s[0] / alone.in_l_s - 1.0).abs() < 1e-4 && alone.spilt_l_s == 0.0, "{alone:?}");
        // What lies under its sill stays, and over it stands the head it needs.
        assert!((alone.stands_m - 0.07).abs() < 1e-9 && alone.deepest_m > 0.07 && alone.deepest_m < alone.rim_m);
        let head = i.outlets[0].bore.head_mm(alone.in_l_s, false) / 1000.0;
        let over = alone.surface.iter().filter(|p| p[0] > 8.95).map(|p| p[2]).fold(0.0, f64::max);
        assert!((over - 0.07 - head).abs() < 0.012, "{over} over a sill at 0.07 with a head of {head}");
    }

    #[test]
    fn a_corner_costs_depth_and_loses_no_water() {
        let straight = level(&[9.0], 0.0);
        let bent = RunInput { corners_m: vec![6.0], ..straight.clone() };
        let (a, b) = (run(&straight).unwrap(), run(&bent).unwrap());
        assert!(b.deepest_m > a.deepest_m && b.deepest_m < a.deepest_m * 1.1, "{} and {}", a.deepest_m, b.deepest_m);
        assert!((b.outlets_l_s[0] / b.in_l_s - 1.0).abs() < 1e-5);
        assert!(b.spills_from_mm_h < a.spills_from_mm_h);
    }

    #[test]
    fn still_water_over_an_uneven_floor_stays_still() {
        // No outlet and next to no rain: what stands in the hollows is level, whatever the floor.
        let mut i = level(&[], 0.0);
        i.levels = vec![[0.0, 0.02], [3.0, 0.0], [5.0, 0.03], [9.0, 0.01]];
        i.rain_mm_h = 40.0;
        let r = run(&i).unwrap();
        let top = |p: &[f64; 3]| p[1] + p[2];
        let within: Vec<f64> = r.surface.iter().filter(|p| p[0] > 0.3 && p[0] < 8.7).map(top).collect();
        let (low, high) = within.iter().fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(high - low < 0.012, "{low} to {high}");
        assert!((r.spilt_l_s / r.in_l_s - 1.0).abs() < 1e-5);
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
        assert!(bad(&|i| i.levels = vec![[0.0, -30.0], [9.0, 0.0]]).contains("more than 10 m"));
        assert!(bad(&|i| i.corners_m = vec![9.5]).contains("within the run"));
        assert!(bad(&|i| i.along[0].from_m = -3.0).contains("between the ends"));
        assert!(bad(&|i| i.along[0].width_to_m = -1.0).contains("none is taken away"));
        assert!(bad(&|i| i.bursts = vec![Burst { x_m: 12.0, area_m2: 3.0 }]).contains("between the ends"));
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
            prop_assert!(((r.outlets_l_s.iter().sum::<f64>() + r.spilt_l_s) / r.in_l_s - 1.0).abs() < 1e-4, "water is neither made nor lost");
            prop_assert!((r.spills.iter().map(|s| s.l_s).sum::<f64>() - r.spilt_l_s).abs() < 1e-3 * r.in_l_s);
            prop_assert!((r.spilt_by_third_l_s.iter().sum::<f64>() - r.spilt_l_s).abs() < 1e-9);
            // Nothing goes over where the water stays under the brim, and it never stands far above it.
            for s in &r.spills {
                let top = r.surface.iter().filter(|p| p[0] >= s.from_m && p[0] <= s.to_m).map(|p| p[2]).fold(0.0, f64::max);
                prop_assert!(top > r.rim_m);
            }
            prop_assert!((r.in_l_s - (54.0 + burst) * rain / 3600.0).abs() < 1e-9);
            let mut more = i.clone();
            more.rain_mm_h *= 1.3;
            prop_assert!(run(&more).unwrap().deepest_m >= r.deepest_m - 1e-4);
            let mut mirrored = i.clone();
            mirrored.outlets[0].x_m = 9.0 - x;
            mirrored.levels = i.levels.iter().rev().map(|l| [9.0 - l[0], l[1]]).collect();
            mirrored.bursts[0].x_m = 0.0;
            let m = run(&mirrored).unwrap();
            prop_assert!((m.deepest_m - r.deepest_m).abs() < 1e-3, "{} {}", m.deepest_m, r.deepest_m);
            prop_assert!((m.spilt_l_s - r.spilt_l_s).abs() < 0.01 * r.in_l_s);
            prop_assert!((m.stands_m - r.stands_m).abs() < 1e-9);
        }
    }
}
