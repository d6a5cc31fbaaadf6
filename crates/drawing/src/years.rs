//! What is put by and what may be spent, year by year.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::years::reserve::ReserveOut;

const WIDE: f64 = 640.0;
const HIGH: f64 = 220.0;
const LEFT: f64 = 64.0;
const BELOW: f64 = 26.0;

/// A round figure a little over `x`, for the end of a scale.
fn round_up(x: f64) -> f64 {
    let power = 10f64.powf(x.max(1.0).log10().floor());
    [1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0, 6.0, 8.0, 10.0].into_iter().map(|k| k * power).find(|r| *r >= x).unwrap_or(10.0 * power)
}

/// Spent by each year's end: the range of one in ten to nine in ten, its middle, and what the level contribution has brought.
pub fn reserve_svg(plan: &ReserveOut, look: Look) -> Option<String> {
    let top = round_up(plan.years.iter().map(|y| y.spent[2].max(y.put_by)).fold(0.0, f64::max));
    let n = plan.years.len();
    if n == 0 || plan.level <= 0.0 {
        return None;
    }
    let mut s = Svg::new(look);
    let x = |k: f64| LEFT + (WIDE - LEFT - 12.0) * k / n as f64;
    let y = |m: f64| 10.0 + (HIGH - 10.0 - BELOW) * (1.0 - m / top);
    let soft = look.ink_soft;
    for part in 0..=4 {
        let m = top * f64::from(part) / 4.0;
        s.line([LEFT, y(m)], [WIDE - 12.0, y(m)], &Style::new().stroke(soft, 0.5).faint(0.5));
        s.text([LEFT - 6.0, y(m) + 4.0], &format!("{m:.0}"), &Style::new().end().size(11.0).fill(soft));
    }
    // Each year is a step: money is spent in it and stays spent.
    let steps = |q: &dyn Fn(usize) -> f64| -> Vec<[f64; 2]> {
        let mut out = vec![[x(0.0), y(0.0)]];
        for k in 0..n {
            out.push([x(k as f64), y(q(k))]);
            out.push([x(k as f64 + 1.0), y(q(k))]);
        }
        out
    };
    let (low, high) = (steps(&|k| plan.years[k].spent[0]), steps(&|k| plan.years[k].spent[2]));
    let band: Vec<[f64; 2]> = low.iter().copied().chain(high.iter().rev().copied()).collect();
    s.path(&[band], &Style::new().fill(look.noted).faint(0.5));
    s.curve(&steps(&|k| plan.years[k].spent[1]), &Style::new().stroke(look.ink, 2.0));
    let put: Vec<[f64; 2]> = (0..=n).map(|k| [x(k as f64), y(plan.level * k as f64)]).collect();
    s.curve(&put, &Style::new().stroke(look.verdigris, 2.0).dash("6 4"));
    let every = if n > 24 {
        5
    } else if n > 10 {
        2
    } else {
        1
    };
    for (k, year) in plan.years.iter().enumerate().filter(|(k, _)| k % every == 0) {
        s.text([x(k as f64 + 0.5), HIGH - 8.0], &year.year.to_string(), &Style::new().middle().size(11.0).fill(soft));
    }
    Some(s.done(WIDE, HIGH, &plan.sentence))
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::years::reserve::{ReserveInput, ReserveThing, reserve};

    #[test]
    fn the_curve_stays_inside_and_is_there_only_when_there_is_money() {
        let thing = ReserveThing { name: "Roof".into(), cost: 12_345.0, due: [2.0, 6.0, 11.0], again_after: None };
        let plan = |things| reserve(&ReserveInput { from_year: 2027, years: 20, things }).unwrap();
        assert!(reserve_svg(&plan(vec![]), Look::PAGE).is_none());
        let svg = reserve_svg(&plan(vec![thing]), Look::PAGE).unwrap();
        let numbers = svg.split("points=\"").skip(1).flat_map(|p| p.split('"').next().unwrap().split([' ', ',']));
        for n in numbers.filter_map(|n| n.parse::<f64>().ok()) {
            assert!((0.0..=WIDE).contains(&n), "{n}");
        }
        assert!(svg.contains("2027") && !svg.contains("NaN"));
    }

    #[test]
    fn scales_end_on_round_figures() {
        assert_eq!([1.0, 1.3, 230.0, 9_600.0].map(round_up), [1.0, 1.6, 240.0, 10_000.0]);
    }
}
