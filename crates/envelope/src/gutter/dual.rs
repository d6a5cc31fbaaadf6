//! A number that carries its derivatives by others: by the depth and the flow of its own cell, or by those of the two cells at a
//! face, which is what Newton's method asks for.

use std::ops::{Add, Div, Mul, Neg, Sub};

#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Dual<const N: usize = 2> {
    pub(super) v: f64,
    pub(super) d: [f64; N],
}

impl Dual {
    /// Of the first of two cells.
    pub(super) fn first(self) -> Dual<4> {
        Dual { v: self.v, d: [self.d[0], self.d[1], 0.0, 0.0] }
    }
    /// Of the second of two cells.
    pub(super) fn second(self) -> Dual<4> {
        Dual { v: self.v, d: [0.0, 0.0, self.d[0], self.d[1]] }
    }
}

impl<const N: usize> Dual<N> {
    pub(super) const fn of(v: f64) -> Dual<N> {
        Dual { v, d: [0.0; N] }
    }
    pub(super) fn var(v: f64, k: usize) -> Dual<N> {
        let mut d = [0.0; N];
        d[k] = 1.0;
        Dual { v, d }
    }
    /// So many times itself.
    pub(super) fn by(self, part: f64) -> Dual<N> {
        Dual { v: self.v * part, d: self.d.map(|d| d * part) }
    }
    /// A function of one number, by its value and its derivative there.
    pub(super) fn map(self, v: f64, slope: f64) -> Dual<N> {
        Dual { v, d: self.d.map(|d| d * slope) }
    }
    pub(super) fn sqrt(self) -> Dual<N> {
        let r = self.v.max(0.0).sqrt();
        self.map(r, 0.5 / r.max(1e-12))
    }
    /// To the power of one and a half, and of four thirds: by roots, which are many times quicker than logarithms.
    pub(super) fn three_halves(self) -> Dual<N> {
        let r = self.v.max(0.0).sqrt();
        self.map(self.v.max(0.0) * r, 1.5 * r)
    }
    pub(super) fn four_thirds(self) -> Dual<N> {
        let r = cube_root(self.v);
        self.map(self.v * r, 4.0 / 3.0 * r)
    }
    pub(super) fn abs(self) -> Dual<N> {
        if self.v < 0.0 { -self } else { self }
    }
    /// Itself, or a least value that does not depend on anything.
    pub(super) fn max(self, least: f64) -> Dual<N> {
        if self.v < least { Dual::of(least) } else { self }
    }
}

/// The cube root of a figure above zero: a first guess from its exponent, and Halley's steps, each of which triples the figures that
/// are right. Half as long as the library's, which is right to the last bit for every number there is.
fn cube_root(x: f64) -> f64 {
    /// Two thirds of the exponent's bias, and what makes the guess least wrong.
    const GUESS: u64 = 0x2A9F_7893_0000_0000;
    let mut y = f64::from_bits(x.to_bits() / 3 + GUESS);
    for _ in 0..3 {
        let cube = y * y * y;
        y *= (cube + 2.0 * x) / (2.0 * cube + x);
    }
    y
}

impl<const N: usize> Add for Dual<N> {
    type Output = Dual<N>;
    fn add(self, o: Dual<N>) -> Dual<N> {
        Dual { v: self.v + o.v, d: std::array::from_fn(|k| self.d[k] + o.d[k]) }
    }
}
impl<const N: usize> Sub for Dual<N> {
    type Output = Dual<N>;
    fn sub(self, o: Dual<N>) -> Dual<N> {
        Dual { v: self.v - o.v, d: std::array::from_fn(|k| self.d[k] - o.d[k]) }
    }
}
#[allow(clippy::suspicious_arithmetic_impl, reason = "the rule of products adds")]
impl<const N: usize> Mul for Dual<N> {
    type Output = Dual<N>;
    fn mul(self, o: Dual<N>) -> Dual<N> {
        Dual { v: self.v * o.v, d: std::array::from_fn(|k| self.d[k] * o.v + self.v * o.d[k]) }
    }
}
#[allow(clippy::suspicious_arithmetic_impl, reason = "the rule of quotients subtracts and multiplies")]
impl<const N: usize> Div for Dual<N> {
    type Output = Dual<N>;
    fn div(self, o: Dual<N>) -> Dual<N> {
        let part = 1.0 / o.v;
        let v = self.v * part;
        Dual { v, d: std::array::from_fn(|k| (self.d[k] - v * o.d[k]) * part) }
    }
}
impl<const N: usize> Neg for Dual<N> {
    type Output = Dual<N>;
    fn neg(self) -> Dual<N> {
        Dual { v: -self.v, d: self.d.map(|d| -d) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_cube_root_cubed_is_itself(exponent in -12.0..12.0_f64) {
            let x = 10.0_f64.powf(exponent);
            prop_assert!((cube_root(x) / x.cbrt() - 1.0).abs() < 4.0 * f64::EPSILON);
        }

        // The derivative that is carried is the one that small steps find.
        #[test]
        fn derivatives_are_those_of_small_steps(x in 0.1..3.0f64, y in 0.1..3.0f64) {
            let f = |x: Dual<4>, y: Dual<4>| (x * y + x.sqrt() / y).three_halves() - x.four_thirds() * (y / x).four_thirds() - (x - y).abs() * y.map(y.v.sin(), y.v.cos());
            let both = f(Dual::var(x, 0), Dual::var(y, 3));
            let h = 1e-6;
            let at = |x: f64, y: f64| f(Dual::of(x), Dual::of(y)).v;
            prop_assume!((x - y).abs() > 1e-3);
            prop_assert!((both.d[0] - (at(x + h, y) - at(x - h, y)) / (2.0 * h)).abs() < 1e-4 * (1.0 + both.d[0].abs()));
            prop_assert!((both.d[3] - (at(x, y + h) - at(x, y - h)) / (2.0 * h)).abs() < 1e-4 * (1.0 + both.d[3].abs()));
            prop_assert_eq!((both.d[1], both.d[2]), (0.0, 0.0));
        }
    }
}
