//! Convex polygons in plan, cut by half-planes: the only geometry the roof needs, and all of it exact but for rounding.
//!
//! Lengths are metres. Three tolerances, stated once: a corner within [`ON_LINE_M`] of a line is on it, a piece thinner than
//! [`THIN_M`] is nothing, and corners within [`SAME_POINT_M`] are one. A tape is read to the millimetre; these are a hundred
//! times finer and a thousand times coarser than the noise of the arithmetic.

/// A corner this near a line lies on it.
pub(crate) const ON_LINE_M: f64 = 1e-7;
/// A piece thinner than this is rounding, not roof.
pub(crate) const THIN_M: f64 = 1e-6;
/// Corners this near are the same corner.
pub(crate) const SAME_POINT_M: f64 = 1e-5;

/// A point in plan: x east, y north.
pub(crate) type Point = [f64; 2];

/// `a·x + b·y + c`; with `(a, b)` of length one it is the distance to the left of a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Linear {
    pub(crate) a: f64,
    pub(crate) b: f64,
    pub(crate) c: f64,
}

impl Linear {
    pub(crate) fn at(self, p: Point) -> f64 {
        self.a * p[0] + self.b * p[1] + self.c
    }
    pub(crate) fn minus(self, o: Linear) -> Linear {
        Linear { a: self.a - o.a, b: self.b - o.b, c: self.c - o.c }
    }
    /// Steepness.
    pub(crate) fn slope(self) -> f64 {
        (self.a * self.a + self.b * self.b).sqrt()
    }
    /// The distance to the line where it is zero, positive where it is.
    fn distance(self) -> Option<Linear> {
        let s = self.slope();
        (s > 0.0).then(|| Linear { a: self.a / s, b: self.b / s, c: self.c / s })
    }
    /// The line from `p` to `q`, positive on its left.
    pub(crate) fn left_of(p: Point, q: Point) -> Option<Linear> {
        let (dx, dy) = (q[0] - p[0], q[1] - p[1]);
        Linear { a: -dy, b: dx, c: dy * p[0] - dx * p[1] }.distance()
    }
}

/// Twice the area of a ring is the sum of its corner products; counterclockwise is positive. The corners are taken from the
/// first, so that a ring far from the origin loses nothing.
pub(crate) fn area(ring: &[Point]) -> f64 {
    let Some(o) = ring.first() else { return 0.0 };
    let sum: f64 = ring.windows(2).map(|w| (w[0][0] - o[0]) * (w[1][1] - o[1]) - (w[1][0] - o[0]) * (w[0][1] - o[1])).sum();
    sum / 2.0
}

pub(crate) fn length(p: Point, q: Point) -> f64 {
    // Plans are metres wide: nothing overflows, and the plain root is several times as quick as `hypot`.
    let (x, y) = (q[0] - p[0], q[1] - p[1]);
    (x * x + y * y).sqrt()
}

/// The point of a piece of a line that lies nearest to another.
pub(crate) fn nearest(p: Point, a: Point, b: Point) -> Point {
    let d = [b[0] - a[0], b[1] - a[1]];
    let l2 = d[0] * d[0] + d[1] * d[1];
    let t = if l2 > 0.0 { (((p[0] - a[0]) * d[0] + (p[1] - a[1]) * d[1]) / l2).clamp(0.0, 1.0) } else { 0.0 };
    [a[0] + t * d[0], a[1] + t * d[1]]
}

/// The middle of a ring's area.
pub(crate) fn centroid(ring: &[Point]) -> Point {
    let o = ring[0];
    let (mut x, mut y, mut twice) = (0.0, 0.0, 0.0);
    for w in ring.windows(2) {
        let (p, q) = ([w[0][0] - o[0], w[0][1] - o[1]], [w[1][0] - o[0], w[1][1] - o[1]]);
        let cross = p[0] * q[1] - q[0] * p[1];
        twice += cross;
        x += (p[0] + q[0]) * cross;
        y += (p[1] + q[1]) * cross;
    }
    if twice == 0.0 { o } else { [o[0] + x / (3.0 * twice), o[1] + y / (3.0 * twice)] }
}

/// A convex polygon, counterclockwise.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Convex(pub(crate) Vec<Point>);

impl Convex {
    /// What is left of a ring when it is more than rounding.
    fn of(ring: Vec<Point>) -> Option<Convex> {
        if ring.len() < 3 {
            return None;
        }
        let around: f64 = (0..ring.len()).map(|i| length(ring[i], ring[(i + 1) % ring.len()])).sum();
        (2.0 * area(&ring) / around > THIN_M).then_some(Convex(ring))
    }

    pub(crate) fn area(&self) -> f64 {
        area(&self.0)
    }

    /// Least and greatest corner.
    pub(crate) fn bounds(&self) -> [f64; 4] {
        self.0
            .iter()
            .fold([f64::MAX, f64::MAX, f64::MIN, f64::MIN], |b, p| [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])])
    }

    /// Cuts along the line where `l` is zero: the part where it is positive, and the other. What lies on one side of it is handed on as it
    /// is, since most cuts miss.
    pub(crate) fn cut(self, l: Linear) -> (Option<Convex>, Option<Convex>) {
        let Some(l) = l.distance() else {
            return if l.c > 0.0 { (Some(self), None) } else { (None, Some(self)) };
        };
        let side: Vec<f64> = self.0.iter().map(|p| Some(l.at(*p)).filter(|d| d.abs() > ON_LINE_M).unwrap_or(0.0)).collect();
        if side.iter().all(|d| *d >= 0.0) {
            return (Some(self), None);
        }
        if side.iter().all(|d| *d <= 0.0) {
            return (None, Some(self));
        }
        let n = self.0.len();
        let (mut plus, mut minus) = (Vec::with_capacity(n + 1), Vec::with_capacity(n + 1));
        for i in 0..n {
            let (p, q, s, t) = (self.0[i], self.0[(i + 1) % n], side[i], side[(i + 1) % n]);
            if s >= 0.0 {
                plus.push(p);
            }
            if s <= 0.0 {
                minus.push(p);
            }
            if s * t < 0.0 {
                let k = s / (s - t);
                let x = [p[0] + k * (q[0] - p[0]), p[1] + k * (q[1] - p[1])];
                plus.push(x);
                minus.push(x);
            }
        }
        (Convex::of(plus), Convex::of(minus))
    }

    fn sides(&self) -> impl Iterator<Item = Linear> + '_ {
        let n = self.0.len();
        (0..n).filter_map(move |i| Linear::left_of(self.0[i], self.0[(i + 1) % n]))
    }

    /// What both cover.
    pub(crate) fn and(&self, other: &Convex) -> Option<Convex> {
        other.sides().try_fold(self.clone(), |rest, side| rest.cut(side).0)
    }

    /// What only this covers, as convex pieces.
    pub(crate) fn without(self, other: &Convex) -> Vec<Convex> {
        let mut out = Vec::new();
        let mut rest = self;
        for side in other.sides() {
            let (inside, outside) = rest.cut(side);
            out.extend(outside);
            match inside {
                Some(i) => rest = i,
                None => return out,
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn square(x: f64, y: f64, side: f64, turn: f64) -> Convex {
        let (c, s) = (turn.cos() * side / 2.0, turn.sin() * side / 2.0);
        Convex([[-c + s, -s - c], [c + s, s - c], [c - s, s + c], [-c - s, -s + c]].iter().map(|p| [x + p[0], y + p[1]]).collect())
    }

    #[test]
    fn corners_of_a_square_cut_in_half() {
        let (left, right) = square(0.0, 0.0, 2.0, 0.0).cut(Linear { a: 1.0, b: 0.0, c: 0.0 });
        assert_eq!((left.unwrap().area(), right.unwrap().area()), (2.0, 2.0));
    }

    #[test]
    fn the_middle_of_a_triangle() {
        assert_eq!(centroid(&[[100.0, 100.0], [103.0, 100.0], [100.0, 106.0]]), [101.0, 102.0]);
    }

    proptest! {
        /// A polygon is what it shares with another and what it does not: areas add up, far from the origin too.
        #[test]
        fn both_and_only_this_make_the_whole(x in -3.0..3.0_f64, y in -3.0..3.0_f64, t in 0.0..3.0_f64, far in 0.0..1e5_f64) {
            let (a, b) = (square(far, far, 4.0, 0.3), square(far + x, far + y, 3.0, t));
            let both = a.and(&b).map_or(0.0, |c| c.area());
            let only: f64 = a.clone().without(&b).iter().map(Convex::area).sum();
            prop_assert!((both + only - 16.0).abs() < 1e-4, "{both} and {only}");
            prop_assert!((both - b.and(&a).map_or(0.0, |c| c.area())).abs() < 1e-4);
        }
    }
}
