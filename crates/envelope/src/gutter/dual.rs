//! A number that carries its derivatives by four others: what Newton's method asks of the two cells at a face.

use std::ops::{Add, Div, Mul, Neg, Sub};

#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Dual {
    pub(super) v: f64,
    pub(super) d: [f64; 4],
}

impl Dual {
    pub(super) const fn of(v: f64) -> Dual {
        Dual { v, d: [0.0; 4] }
    }
    pub(super) fn var(v: f64, k: usize) -> Dual {
        let mut d = [0.0; 4];
        d[k] = 1.0;
        Dual { v, d }
    }
    /// The same with its first two derivatives behind: of the second of two cells.
    pub(super) fn second(self) -> Dual {
        Dual { v: self.v, d: [0.0, 0.0, self.d[0], self.d[1]] }
    }
    /// A function of one number, by its value and its derivative there.
    fn map(self, v: f64, slope: f64) -> Dual {
        Dual { v, d: self.d.map(|d| d * slope) }
    }
    pub(super) fn sqrt(self) -> Dual {
        let r = self.v.max(0.0).sqrt();
        self.map(r, 0.5 / r.max(1e-12))
    }
    /// To the power of one and a half, and of four and seven thirds: by roots, which are many times quicker than logarithms.
    pub(super) fn three_halves(self) -> Dual {
        let r = self.v.max(0.0).sqrt();
        self.map(self.v.max(0.0) * r, 1.5 * r)
    }
    pub(super) fn four_thirds(self) -> Dual {
        let r = self.v.cbrt();
        self.map(self.v * r, 4.0 / 3.0 * r)
    }
    pub(super) fn seven_thirds(self) -> Dual {
        let r = self.v.cbrt();
        self.map(self.v * self.v * r, 7.0 / 3.0 * self.v * r)
    }
    pub(super) fn abs(self) -> Dual {
        if self.v < 0.0 { -self } else { self }
    }
    pub(super) fn acos(self) -> Dual {
        let v = self.v.clamp(-1.0, 1.0);
        self.map(v.acos(), -1.0 / (1.0 - v * v).max(1e-18).sqrt())
    }
    /// Itself, or a least value that does not depend on anything.
    pub(super) fn max(self, least: f64) -> Dual {
        if self.v < least { Dual::of(least) } else { self }
    }
}

impl Add for Dual {
    type Output = Dual;
    fn add(self, o: Dual) -> Dual {
        Dual { v: self.v + o.v, d: std::array::from_fn(|k| self.d[k] + o.d[k]) }
    }
}
impl Sub for Dual {
    type Output = Dual;
    fn sub(self, o: Dual) -> Dual {
        Dual { v: self.v - o.v, d: std::array::from_fn(|k| self.d[k] - o.d[k]) }
    }
}
#[allow(clippy::suspicious_arithmetic_impl, reason = "the rule of products adds")]
impl Mul for Dual {
    type Output = Dual;
    fn mul(self, o: Dual) -> Dual {
        Dual { v: self.v * o.v, d: std::array::from_fn(|k| self.d[k] * o.v + self.v * o.d[k]) }
    }
}
#[allow(clippy::suspicious_arithmetic_impl, reason = "the rule of quotients subtracts and multiplies")]
impl Div for Dual {
    type Output = Dual;
    fn div(self, o: Dual) -> Dual {
        let v = self.v / o.v;
        Dual { v, d: std::array::from_fn(|k| (self.d[k] - v * o.d[k]) / o.v) }
    }
}
impl Neg for Dual {
    type Output = Dual;
    fn neg(self) -> Dual {
        Dual { v: -self.v, d: self.d.map(|d| -d) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        // The derivative that is carried is the one that small steps find.
        #[test]
        fn derivatives_are_those_of_small_steps(x in 0.1..3.0f64, y in 0.1..3.0f64) {
            let f = |x: Dual, y: Dual| (x * y + x.sqrt() / y).three_halves() - x.four_thirds() * y.seven_thirds() - (x - y).abs() * (y / Dual::of(4.0)).acos();
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
