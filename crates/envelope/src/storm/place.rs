//! Where a test square lies: drawn by a kept seed inside the slope, before anyone looks, so that a second person finds the same place.
//!
//! Everything is worked out in the slope's own frame (along the eave, up the slope, true lengths), so that neither turning the house
//! nor renaming its parts moves a square.

use crate::plane::Point;
use crate::roof::shape::{Facet, inside};

/// So many draws, and the slope has no room.
const MOST_DRAWS: u32 = 20_000;
/// Closer than this is the same line.
const TOUCH_M: f64 = 1e-6;

/// A slope seen square on: lengths along it are true.
pub(super) struct Frame {
    right: Point,
    up: Point,
    /// True length of a metre of plan up the slope.
    stretch: f64,
    low: Point,
    high: Point,
    /// Outline and holes of each part.
    parts: Vec<Vec<Vec<Point>>>,
}

/// A rectangle in the frame of its slope.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Rect {
    pub low: Point,
    pub high: Point,
}

impl Rect {
    fn wider(self, by: f64) -> Rect {
        Rect { low: self.low.map(|x| x - by), high: self.high.map(|x| x + by) }
    }
    /// The same place, but for rounding.
    pub(super) fn lies_as(self, o: Rect) -> bool {
        (0..2).all(|k| (self.low[k] - o.low[k]).abs() < TOUCH_M && (self.high[k] - o.high[k]).abs() < TOUCH_M)
    }
    /// They share more than an edge.
    pub(super) fn overlaps(self, o: Rect) -> bool {
        (0..2).all(|k| self.low[k] < o.high[k] - TOUCH_M && o.low[k] < self.high[k] - TOUCH_M)
    }
    /// Some of the line from `a` to `b` lies within.
    fn meets(self, a: Point, b: Point) -> bool {
        let (mut from, mut to) = (0.0_f64, 1.0_f64);
        for k in 0..2 {
            let d = b[k] - a[k];
            if d.abs() < 1e-12 {
                if a[k] <= self.low[k] || a[k] >= self.high[k] {
                    return false;
                }
                continue;
            }
            let (t, u) = ((self.low[k] - a[k]) / d, (self.high[k] - a[k]) / d);
            from = from.max(t.min(u));
            to = to.min(t.max(u));
        }
        from < to
    }
    fn middle(self) -> Point {
        [0, 1].map(|k| f64::midpoint(self.low[k], self.high[k]))
    }
}

impl Frame {
    pub(super) fn of(facet: &Facet) -> Frame {
        // A flat roof has no up; its own north will do.
        let (down, stretch) = match facet.downslope_azimuth_deg {
            Some(a) => ([a.to_radians().sin(), a.to_radians().cos()], facet.pitch.hypot(1.0)),
            None => ([0.0, -1.0], 1.0),
        };
        let mut frame =
            Frame { right: [-down[1], down[0]], up: [-down[0], -down[1]], stretch, low: [f64::MAX; 2], high: [f64::MIN; 2], parts: vec![] };
        for part in &facet.parts {
            let rings = std::iter::once(&part.outer).chain(&part.holes);
            frame.parts.push(rings.map(|r| r.iter().map(|p| frame.in_frame(*p)).collect()).collect());
        }
        for p in frame.parts.iter().flatten().flatten() {
            frame.low = [frame.low[0].min(p[0]), frame.low[1].min(p[1])];
            frame.high = [frame.high[0].max(p[0]), frame.high[1].max(p[1])];
        }
        frame
    }

    pub(super) fn in_frame(&self, p: Point) -> Point {
        [p[0] * self.right[0] + p[1] * self.right[1], (p[0] * self.up[0] + p[1] * self.up[1]) * self.stretch]
    }
    pub(super) fn on_the_plan(&self, q: Point) -> Point {
        let (u, v) = (q[0], q[1] / self.stretch);
        [u * self.right[0] + v * self.up[0], u * self.right[1] + v * self.up[1]]
    }
    /// A rectangle by its lower left corner, from the left end and the low edge of the slope.
    pub(super) fn rect(&self, left: f64, low: f64, size: [f64; 2]) -> Rect {
        let low = [self.low[0] + left, self.low[1] + low];
        Rect { low, high: [low[0] + size[0], low[1] + size[1]] }
    }
    /// Its lower left corner, from the left end and the low edge.
    pub(super) fn corner(&self, r: Rect) -> [f64; 2] {
        [r.low[0] - self.low[0], r.low[1] - self.low[1]]
    }
    /// The corners on the plan: lower left, lower right, upper right, upper left.
    pub(super) fn on_plan(&self, r: Rect) -> [Point; 4] {
        [r.low, [r.high[0], r.low[1]], r.high, [r.low[0], r.high[1]]].map(|q| self.on_the_plan(q))
    }
    /// It lies wholly on one part of the slope, this far from everything that ends it.
    pub(super) fn holds(&self, r: Rect, margin: f64) -> bool {
        let wide = r.wider(margin);
        self.parts.iter().any(|rings| {
            let holds = |ring: &Vec<Point>| inside(ring, r.middle());
            let (outer, holes) = (&rings[0], &rings[1..]);
            holds(outer)
                && !holes.iter().any(holds)
                && !rings.iter().any(|ring| ring.iter().zip(ring.iter().cycle().skip(1)).any(|(a, b)| wide.meets(*a, *b)))
        })
    }

    /// Draws a place: the first that lies on the slope, away from its edges and from what `taken` forbids. Every place that fits is as
    /// likely as any other.
    pub(super) fn draw(&self, seed: u32, size: [f64; 2], margin: f64, taken: &dyn Fn(Rect) -> bool) -> Option<Rect> {
        let room = [0, 1].map(|k| self.high[k] - self.low[k] - size[k]);
        if room.iter().any(|r| *r < 2.0 * margin) {
            return None;
        }
        let mut random = SplitMix(u64::from(seed));
        (0..MOST_DRAWS).find_map(|_| {
            let (a, b) = (random.unit(), random.unit());
            let r = self.rect(a * room[0], b * room[1], size);
            (self.holds(r, margin) && !taken(r)).then_some(r)
        })
    }
}

/// SplitMix64 (Steele, Lea and Flood 2014): small, and the same on every machine.
struct SplitMix(u64);

impl SplitMix {
    fn unit(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^= z >> 31;
        // 53 bits: as many as a double keeps.
        (z >> 11) as f64 / (1u64 << 53) as f64
    }
}
