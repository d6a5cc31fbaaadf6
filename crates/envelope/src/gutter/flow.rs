//! Water along a whole run at once: one-dimensional flow with water coming in from the eave, outlets that take what the head over
//! them allows, and water that goes over the brim where it stands above it.
//!
//! The Saint-Venant equations in conservation form over cells of their own widths, first order, with hydrostatic reconstruction
//! at the faces (Audusse et al. 2004), so that still water over an uneven floor stays still. The state is marched from a nearly
//! empty trough with implicit steps that grow: Newton's method with exact derivatives by dual numbers, a block tridiagonal system
//! each step. What is reached is the steady state; in = out + spilt holds to what is left of the steps, and is tested, not assumed.

use super::G;
use super::dual::Dual;
use super::section::Section;

/// Where water leaves through the floor.
#[derive(Debug, Clone)]
pub(super) struct Drain {
    /// The stretch of the run it lies under, metres.
    pub(super) from: f64,
    pub(super) to: f64,
    /// As a weir: m³/s for a metre of head to the power 1.5; as an orifice: for the square root of a metre of head.
    pub(super) weir: f64,
    pub(super) orifice: f64,
    /// What its pipe takes at most, m³/s.
    pub(super) most: f64,
    /// Its sill above the floor, metres.
    pub(super) up: f64,
}

/// What is solved.
pub(super) struct Trough<'a> {
    pub(super) section: Section,
    pub(super) length: f64,
    pub(super) n: f64,
    /// Height of the floor.
    pub(super) bed: &'a dyn Fn(f64) -> f64,
    /// Plan area that has come in from the left end up to a place, m².
    pub(super) area: &'a dyn Fn(f64) -> f64,
    pub(super) drains: Vec<Drain>,
    /// Stretches where much comes in at once.
    pub(super) bursts: Vec<(f64, f64)>,
    /// Corners.
    pub(super) corners: Vec<f64>,
    /// Places where the inflow or the floor changes: faces of cells.
    pub(super) stops: Vec<f64>,
}

/// The steady state of a run.
#[derive(Debug, Clone)]
pub(crate) struct Flowing {
    /// Middles of the cells, their widths, depths, and what goes over the brim of each, m³/s.
    pub(super) x: Vec<f64>,
    pub(super) dx: Vec<f64>,
    pub(super) y: Vec<f64>,
    pub(super) over: Vec<f64>,
    /// Flow through the faces, from the left end to the right, m³/s.
    pub(super) through: Vec<f64>,
    /// What each drain takes, m³/s.
    pub(super) taken: Vec<f64>,
    q: Vec<f64>,
}

/// Side weir over the front: two thirds of 0.6, times the root of 2 g (the domain's rule for spilling gutters).
const SIDE_WEIR: f64 = 2.0 / 3.0 * 0.6;
/// At rest: what comes in goes out, to this share; and more missing than that is no answer.
const AT_REST: f64 = 1e-5;
const UNKNOWN: f64 = 0.01;
/// A film so thin is dry.
const DRY_M: f64 = 1e-5;
/// Every metre gets at least this part of what a metre gets on average, so that no cell is ever quite dry.
const DEW: f64 = 1e-6;
/// A rain so thin is worked out as this, m/s, and what flows scaled back: what a film of micrometres does is noise.
const THIN: f64 = 0.5 / 3.6e6;
/// A corner of a right angle costs about half of the velocity head; rule of practice for mitred channels.
const CORNER_LOSS: f64 = 0.5;

/// Faces of the cells: small at the drains, larger away from them.
fn faces(t: &Trough<'_>) -> Vec<f64> {
    /// Cells where nothing happens, for each run.
    const COARSE: f64 = 110.0;
    /// Cells over a drain, and how fast they may grow away from one.
    const OVER: f64 = 8.0;
    const GROWTH: f64 = 0.16;
    /// No cell is smaller, metres.
    const LEAST: f64 = 0.004;
    let coarse = (t.length / COARSE).min(0.12);
    let size = |x: f64| {
        t.drains.iter().map(|d| (d.from, d.to)).chain(t.bursts.iter().copied()).fold(coarse, |size, (from, to)| {
            let off = (from - x).max(x - to).max(0.0);
            size.min(((to - from) / OVER).max(LEAST) + GROWTH * off)
        })
    };
    let mut stops: Vec<f64> =
        t.stops.iter().copied().chain(t.drains.iter().flat_map(|d| [d.from, d.to])).chain(t.corners.iter().copied()).collect();
    stops.extend([0.0, t.length, t.length / 3.0, t.length * 2.0 / 3.0]);
    stops.retain(|x| (0.0..=t.length).contains(x));
    stops.sort_by(f64::total_cmp);
    stops.dedup_by(|a, b| (*a - *b).abs() < LEAST / 2.0);
    // Of two that are one the first stays; at the end it is the end that must, or the water of the last millimetre is lost.
    if let Some(last) = stops.last_mut() {
        *last = t.length;
    }
    let mut out = vec![0.0];
    for w in stops.windows(2) {
        let (a, b) = (w[0], w[1]);
        // As many cells as the sizes on the way ask for, spread so that each has its own.
        let mut steps = Vec::new();
        let mut x = a;
        while x < b - 1e-12 {
            // A cell may be no larger than what is asked at either of its ends.
            let h = size(x).min(size((x + size(x)).min(b))).max(LEAST / 2.0);
            steps.push(h);
            x += h;
        }
        let stretch = (b - a) / steps.iter().sum::<f64>();
        let mut x = a;
        for h in &steps[..steps.len().saturating_sub(1)] {
            x += h * stretch;
            out.push(x);
        }
        out.push(b);
    }
    out
}

/// A cell with what does not change.
struct Cell {
    dx: f64,
    z: f64,
    /// Water coming in, m³/s.
    comes: f64,
    /// The drain under it, and the part of that drain.
    drain: Option<(usize, f64)>,
    corner: bool,
}

/// A cell at one moment; derivatives by its own depth and flow.
struct Now {
    y: Dual,
    q: Dual,
    cut: Cut,
    leaves: Dual,
}

struct Solver<'a> {
    t: &'a Trough<'a>,
    cells: Vec<Cell>,
    middles: Vec<f64>,
}

/// What goes over the brim at a depth, m³/s for each metre.
fn spill(section: Section, y: Dual) -> Dual {
    let over = y - Dual::of(section.depth());
    if over.v <= 0.0 { Dual::of(0.0) } else { over.three_halves().by(SIDE_WEIR * (2.0 * G).sqrt()) }
}

impl Drain {
    /// What it takes at a depth, before its pipe is asked.
    fn takes(&self, y: Dual) -> Dual {
        if y.v <= self.up {
            return Dual::of(0.0);
        }
        let y = y - Dual::of(self.up);
        let (weir, orifice) = (y.three_halves().by(self.weir), y.sqrt().by(self.orifice));
        if weir.v < orifice.v { weir } else { orifice }
    }
}

/// All that a depth comes to in a section, worked out once for a cell and a step.
#[derive(Clone, Copy)]
struct Cut {
    area: Dual,
    moment: Dual,
    width: Dual,
    perimeter: Dual,
}

impl Cut {
    fn of(section: Section, y: Dual) -> Cut {
        let at = section.at(y.v);
        Cut {
            area: y.map(at.area, at.width),
            moment: y.map(at.moment, at.area),
            width: y.map(at.width, at.widens),
            perimeter: y.map(at.perimeter, at.wets),
        }
    }
}

/// A cell as one of its faces sees it.
#[derive(Clone, Copy)]
struct Side {
    y: Dual,
    q: Dual,
    z: f64,
    cut: Cut,
}

impl Side {
    /// What of it stands over a sill: the same cut where the floor itself is the sill.
    fn over(&self, section: Section, sill: f64) -> Cut {
        if self.z >= sill { self.cut } else { Cut::of(section, (self.y + Dual::of(self.z - sill)).max(DRY_M / 10.0)) }
    }
}

/// A side of a face: what flows, its momentum with the pressure, the area over the sill, its speed and that of a wave, and the pressure
/// that the step of the floor carries.
struct Told {
    mass: Dual,
    force: Dual,
    area: Dual,
    speed: Dual,
    celerity: Dual,
    carried: Dual,
}

impl Side {
    fn told(&self, section: Section, sill: f64) -> Told {
        let over = self.over(section, sill);
        let speed = self.q / self.cut.area;
        let mass = over.area * speed;
        let pressure = over.moment.by(G);
        Told {
            mass,
            force: mass * speed + pressure,
            area: over.area,
            speed,
            celerity: (over.area / over.width).by(G).sqrt(),
            carried: self.cut.moment.by(G) - pressure,
        }
    }
}

/// Mass, and momentum as the left and the right cell feel it, through a face (Harten, Lax and van Leer).
fn through_face(section: Section, left: &Side, right: &Side) -> [Dual<4>; 3] {
    let sill = left.z.max(right.z);
    let (l, r) = (left.told(section, sill), right.told(section, sill));
    let least = |a: Dual, b: Dual| if a.v < b.v { a.first() } else { b.second() };
    let most = |a: Dual, b: Dual| if a.v > b.v { a.first() } else { b.second() };
    let (sl, sr) = (least(l.speed - l.celerity, r.speed - r.celerity), most(l.speed + l.celerity, r.speed + r.celerity));
    let (mass, force) = if sl.v >= 0.0 {
        (l.mass.first(), l.force.first())
    } else if sr.v <= 0.0 {
        (r.mass.second(), r.force.second())
    } else {
        let (ml, mr) = (l.mass.first(), r.mass.second());
        let part = Dual::of(1.0) / (sr - sl);
        let (from_left, from_right, both) = (sr * part, sl * part, sl * sr * part);
        (
            from_left * ml - from_right * mr + both * (r.area.second() - l.area.first()),
            from_left * l.force.first() - from_right * r.force.second() + both * (mr - ml),
        )
    };
    [mass, force + l.carried.first(), force + r.carried.second()]
}

/// At a closed end the water meets itself mirrored.
fn at_wall(s: &Side, outward: f64) -> Dual {
    let u = s.q / s.cut.area;
    let speed = Dual::of(u.v.abs()) + (s.cut.area / s.cut.width).by(G).sqrt();
    s.cut.moment.by(G) + s.q * u + (speed * s.q).by(outward)
}

type Block = [[f64; 2]; 2];

fn product(a: &Block, b: &Block) -> Block {
    [
        [a[0][0] * b[0][0] + a[0][1] * b[1][0], a[0][0] * b[0][1] + a[0][1] * b[1][1]],
        [a[1][0] * b[0][0] + a[1][1] * b[1][0], a[1][0] * b[0][1] + a[1][1] * b[1][1]],
    ]
}
fn times(a: &Block, v: [f64; 2]) -> [f64; 2] {
    [a[0][0] * v[0] + a[0][1] * v[1], a[1][0] * v[0] + a[1][1] * v[1]]
}
fn inverse(a: &Block) -> Option<Block> {
    let det = a[0][0] * a[1][1] - a[0][1] * a[1][0];
    (det.is_finite() && det != 0.0).then(|| [[a[1][1] / det, -a[0][1] / det], [-a[1][0] / det, a[0][0] / det]])
}

impl<'a> Solver<'a> {
    fn new(t: &'a Trough<'a>, rain: f64) -> Solver<'a> {
        let f = faces(t);
        let dew = DEW * rain * (t.area)(t.length) / t.length;
        let mut middles = Vec::with_capacity(f.len() - 1);
        let cells = f
            .windows(2)
            .map(|w| {
                let (a, b) = (w[0], w[1]);
                let middle = (a + b) / 2.0;
                middles.push(middle);
                let drain = t.drains.iter().position(|d| middle > d.from && middle < d.to);
                Cell {
                    dx: b - a,
                    z: (t.bed)(middle),
                    comes: ((t.area)(b) - (t.area)(a)).max(0.0) * rain + dew * (b - a),
                    drain: drain.map(|k| (k, (b - a) / (t.drains[k].to - t.drains[k].from))),
                    corner: t.corners.iter().any(|c| *c >= a && *c < b),
                }
            })
            .collect();
        Solver { t, cells, middles }
    }

    /// What each drain would take of itself at these depths.
    fn wanted(&self, y: &[f64]) -> Vec<f64> {
        let mut out = vec![0.0; self.t.drains.len()];
        for (c, y) in self.cells.iter().zip(y) {
            if let Some((k, part)) = c.drain {
                out[k] += self.t.drains[k].takes(Dual::of(*y)).v * part;
            }
        }
        out
    }

    /// What leaves a cell over the brim and through its drain.
    fn leaves(&self, i: usize, y: Dual, wanted: &[f64]) -> Dual {
        let c = &self.cells[i];
        let over = spill(self.t.section, y).by(c.dx);
        let Some((k, part)) = c.drain else { return over };
        let d = &self.t.drains[k];
        let takes = d.takes(y).by(part);
        // Past what the pipe takes its places share that out as they would have shared what they wanted.
        over + if wanted[k] > d.most { Dual::of(takes.v / wanted[k] * d.most) } else { takes }
    }

    /// A cell as its left (−1) or right (1) face sees it: within a cell the flow grows by what comes and leaves, so that at the
    /// faces of a steady state it has no step.
    fn seen(&self, i: usize, now: &Now, side: f64) -> Side {
        let grows = Dual::of(self.cells[i].comes) - now.leaves;
        Side { y: now.y, q: now.q + grows.by(side / 2.0), z: self.cells[i].z, cut: now.cut }
    }

    /// Every cell as it stands, with its own derivatives.
    fn now(&self, y: &[f64], q: &[f64]) -> Vec<Now> {
        let wanted = self.wanted(y);
        let one = |(i, (y, q)): (usize, (&f64, &f64))| {
            let y = Dual::var(*y, 0);
            Now { y, q: Dual::var(*q, 1), cut: Cut::of(self.t.section, y), leaves: self.leaves(i, y, &wanted) }
        };
        y.iter().zip(q).enumerate().map(one).collect()
    }

    /// One implicit step; the largest change of depth beside the depth itself, or none when it cannot be made.
    fn step(&self, y: &mut [f64], q: &mut [f64], dt: f64) -> Option<f64> {
        let (s, n) = (self.t.section, self.cells.len());
        let now = self.now(y, q);
        let mut rhs = vec![[0.0; 2]; n];
        let mut below: Vec<Block> = vec![[[0.0; 2]; 2]; n];
        let mut on: Vec<Block> = vec![[[0.0; 2]; 2]; n];
        let mut above: Vec<Block> = vec![[[0.0; 2]; 2]; n];
        let put = |block: &mut Block, row: usize, d: &[f64], sign: f64| {
            block[row][0] += sign * d[0];
            block[row][1] += sign * d[1];
        };
        for i in 0..=n {
            if i == 0 || i == n {
                let (k, outward) = if i == 0 { (0, -1.0) } else { (n - 1, 1.0) };
                let force = at_wall(&self.seen(k, &now[k], outward), outward);
                rhs[k][1] -= outward * force.v;
                put(&mut on[k], 1, &force.d, outward);
                continue;
            }
            let (left, right) = (self.seen(i - 1, &now[i - 1], 1.0), self.seen(i, &now[i], -1.0));
            let [mass, to_left, to_right] = through_face(s, &left, &right);
            for (row, flux_left, flux_right) in [(0, &mass, &mass), (1, &to_left, &to_right)] {
                rhs[i - 1][row] -= flux_left.v;
                rhs[i][row] += flux_right.v;
                put(&mut on[i - 1], row, &flux_left.d[..2], 1.0);
                put(&mut above[i - 1], row, &flux_left.d[2..], 1.0);
                put(&mut below[i], row, &flux_right.d[..2], -1.0);
                put(&mut on[i], row, &flux_right.d[2..], -1.0);
            }
        }
        for (i, (c, now)) in self.cells.iter().zip(&now).enumerate() {
            let (dq, a, leaves, p) = (now.q, now.cut.area, now.leaves, now.cut.perimeter);
            let u = dq / a;
            let friction = u * dq.abs() * (p / a).four_thirds();
            let mut loses = friction.by(self.t.n * self.t.n * G * c.dx) + u * leaves;
            if c.corner {
                loses = loses + (dq * u.abs()).by(CORNER_LOSS / 2.0);
            }
            rhs[i][0] += c.comes - leaves.v;
            rhs[i][1] -= loses.v;
            put(&mut on[i], 0, &leaves.d, 1.0);
            put(&mut on[i], 1, &loses.d, 1.0);
            on[i][0][0] += now.cut.width.v * c.dx / dt;
            on[i][1][1] += c.dx / dt;
        }
        // Down the blocks and up again.
        let mut gain: Vec<Block> = Vec::with_capacity(n);
        for i in 0..n {
            let mut pivot = on[i];
            if i > 0 {
                let lower = product(&below[i], &gain[i - 1]);
                for r in 0..2 {
                    for k in 0..2 {
                        pivot[r][k] -= lower[r][k];
                    }
                }
                let carried = times(&below[i], rhs[i - 1]);
                rhs[i] = [rhs[i][0] - carried[0], rhs[i][1] - carried[1]];
            }
            let inverse = inverse(&pivot)?;
            gain.push(product(&inverse, &above[i]));
            rhs[i] = times(&inverse, rhs[i]);
        }
        for i in (0..n.saturating_sub(1)).rev() {
            let carried = times(&gain[i], rhs[i + 1]);
            rhs[i] = [rhs[i][0] - carried[0], rhs[i][1] - carried[1]];
        }
        let mut most = 0.0_f64;
        for i in 0..n {
            let [dy, dq] = rhs[i];
            if !dy.is_finite() || !dq.is_finite() {
                return None;
            }
            most = most.max(dy.abs() / (y[i] + 0.002));
        }
        /// A depth may change by so much of itself in one step.
        const LARGEST: f64 = 0.8;
        if most > LARGEST {
            return None;
        }
        // What a dry cell would still lose it has not: it is at rest.
        let mut moved = 0.0_f64;
        for i in 0..n {
            let before = y[i];
            y[i] = (before + rhs[i][0]).max(DRY_M);
            q[i] += rhs[i][1];
            if y[i] <= DRY_M * 1.01 {
                q[i] = 0.0;
            }
            moved = moved.max((y[i] - before).abs() / (before + 0.002));
        }
        Some(moved)
    }

    /// Marches from a nearly empty trough, or from a state nearby, to the steady state.
    /// Also says whether nothing moved any more. Steps grow to `longest`, seconds: a jump that wanders from cell to cell under long steps comes to rest under short ones.
    fn settle(&self, near: Option<&Flowing>, longest: f64, most_steps: usize) -> Option<(Flowing, bool)> {
        let n = self.cells.len();
        /// A film to begin with, metres.
        const FILM_M: f64 = 0.003;
        let (mut y, mut q) = match near.filter(|f| f.y.len() == n) {
            Some(f) => (f.y.clone(), f.q.clone()),
            None => (vec![FILM_M; n], vec![0.0; n]),
        };
        // From a state nearby a long step is taken at once; one that is too long is taken again, shorter.
        let mut dt = if near.is_some() { 100.0 } else { 0.1 };
        let (mut kept_y, mut kept_q) = (y.clone(), q.clone());
        let mut still = 0;
        for _ in 0..most_steps {
            kept_y.copy_from_slice(&y);
            kept_q.copy_from_slice(&q);
            match self.step(&mut y, &mut q, dt) {
                None => {
                    y.copy_from_slice(&kept_y);
                    q.copy_from_slice(&kept_q);
                    dt /= 4.0;
                    if dt < 1e-6 {
                        return None;
                    }
                }
                Some(change) => {
                    dt = (dt
                        * if change < 0.05 {
                            3.0
                        } else if change < 0.25 {
                            1.25
                        } else {
                            0.8
                        })
                    .min(longest);
                    still = if change < 1e-6 * dt.min(1.0) && dt > 0.9 * longest.min(50.0) { still + 1 } else { 0 };
                    if still >= 2 {
                        break;
                    }
                }
            }
        }
        Some((self.told(y, q), still >= 2))
    }

    /// What comes in and does not go out, as a share of what comes.
    fn missing(&self, f: &Flowing) -> f64 {
        let comes: f64 = self.cells.iter().map(|c| c.comes).sum();
        let goes: f64 = f.taken.iter().chain(&f.over).sum();
        (comes - goes).abs() / comes.max(1e-12)
    }

    fn told(&self, y: Vec<f64>, q: Vec<f64>) -> Flowing {
        let s = self.t.section;
        let wanted = self.wanted(&y);
        let taken = wanted.iter().zip(&self.t.drains).map(|(w, d)| w.min(d.most)).collect();
        let over = self.cells.iter().zip(&y).map(|(c, y)| spill(s, Dual::of(*y)).v * c.dx).collect();
        let n = self.cells.len();
        let mut through = vec![0.0; n + 1];
        let now = self.now(&y, &q);
        for (i, t) in through.iter_mut().enumerate().take(n).skip(1) {
            *t = through_face(s, &self.seen(i - 1, &now[i - 1], 1.0), &self.seen(i, &now[i], -1.0))[0].v;
        }
        Flowing { x: self.middles.clone(), dx: self.cells.iter().map(|c| c.dx).collect(), y, over, through, taken, q }
    }
}

/// The steady state of a trough at a rain, metres a second; `near` is one that is nearly the same. None when no steady state
/// was found, which no run of a house has shown.
pub(super) fn flowing(t: &Trough<'_>, rain: f64, near: Option<&Flowing>) -> Option<Flowing> {
    if rain * (t.area)(t.length) <= 0.0 {
        let f = faces(t);
        let (x, dx): (Vec<f64>, Vec<f64>) = f.windows(2).map(|w| ((w[0] + w[1]) / 2.0, w[1] - w[0])).unzip();
        let dry = vec![0.0; x.len()];
        return Some(Flowing {
            y: dry.clone(),
            over: dry.clone(),
            q: dry,
            through: vec![0.0; x.len() + 1],
            taken: vec![0.0; t.drains.len()],
            x,
            dx,
        });
    }
    let solver = Solver::new(t, rain.max(THIN));
    // Long steps first; shorter ones only for what does not come to rest.
    let ways: [(Option<&Flowing>, f64, usize); 4] = [(near, 1e5, 300), (None, 1e5, 500), (None, 2.0, 1500), (None, 0.2, 6000)];
    let mut best: Option<(f64, Flowing)> = None;
    for (from, longest, steps) in ways.into_iter().skip(usize::from(near.is_none())) {
        let Some((f, rests)) = solver.settle(from, longest, steps) else { continue };
        let missing = solver.missing(&f);
        if best.as_ref().is_none_or(|b| missing < b.0) {
            best = Some((missing, f));
        }
        // What is at rest stays where it is under shorter steps: in thin rain the film of dry cells is what is missing.
        if best.as_ref().is_some_and(|b| b.0 < if rests { UNKNOWN } else { AT_REST }) {
            break;
        }
    }
    let (_, mut found) = best.filter(|b| b.0 < UNKNOWN)?;
    // Without the dew, and with what a thinner rain brings.
    let part = (rain / THIN).min(1.0) / (1.0 + DEW);
    for flow in [&mut found.over, &mut found.through, &mut found.taken] {
        flow.iter_mut().for_each(|q| *q *= part);
    }
    Some(found)
}
