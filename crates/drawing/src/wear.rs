//! What each grade of wear looks like, drawn for each covering: a patch of the covering in its courses, with the wear on it.
//! Sketches, not measurements: more marks, larger ones, for a higher grade.

use crate::palette::Look;
use crate::svg::{Style, Svg};

const W: f64 = 132.0;
const H: f64 = 88.0;

/// The same scatter every time, so that a grade is recognised again.
struct Scatter(u64);

impl Scatter {
    fn of(text: &str) -> Scatter {
        Scatter(text.bytes().fold(0xcbf2_9ce4_8422_2325, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3)))
    }
    /// Between 0 and 1.
    fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 40) as f64 / (1_u64 << 24) as f64
    }
    fn within(&mut self, from: f64, to: f64) -> f64 {
        from + self.next() * (to - from)
    }
}

/// How a covering lies: height of a course, width of a unit, and whether every other course is offset.
fn lie(covering: &str) -> (f64, f64, f64) {
    match covering {
        "asphalt-three-tab" => (22.0, 22.0, 11.0),
        "asphalt-laminated" => (22.0, 33.0, 17.0),
        "wood-shake" | "fibre-cement-shake" => (29.0, 17.0, 8.0),
        "slate" => (22.0, 22.0, 11.0),
        "concrete-tile" | "clay-tile" => (29.0, 22.0, 0.0),
        "standing-seam" | "exposed-fastener-metal" => (H, 33.0, 0.0),
        _ => (44.0, 132.0, 0.0),
    }
}

/// A grade of a sign on a covering; `None` when there is no such covering, sign or grade.
pub fn wear_svg(covering: &str, sign: &str, grade: u8, look: Look) -> Option<String> {
    let known = envelope::roof::covering::covering(covering).filter(|c| c.signs.iter().any(|s| s == sign))?;
    let words = envelope::roof::covering::signs().iter().find(|s| s.key == sign)?.looks.get(usize::from(grade))?;
    let mut s = Svg::new(look);
    let mut dice = Scatter::of(&format!("{covering} {sign}"));
    s.rect([0.0, 0.0], [W, H], &Style::new().fill(look.plaster_low));
    let g = f64::from(grade);
    if sign == "ridge-cap" {
        ridge(&mut s, &mut dice, g)
    } else {
        field(&mut s, covering, sign, &mut dice, g)
    }
    s.rect([0.75, 0.75], [W - 1.5, H - 1.5], &Style::new().hollow().stroke(look.ink, 1.5));
    Some(s.done(W, H, &format!("{}, grade {grade}: {words}", known.name)))
}

fn field(s: &mut Svg, covering: &str, sign: &str, dice: &mut Scatter, g: f64) {
    let look = s.look;
    let ink = Style::new().stroke(look.ink, 1.2).round();
    let (course, unit, offset) = lie(covering);
    let rows = (H / course).ceil() as usize;
    let columns = (W / unit).ceil() as usize + 1;
    let tile = covering.ends_with("-tile");
    for row in 0..rows {
        let (top, foot) = (row as f64 * course, ((row + 1) as f64 * course).min(H));
        let shift = if row % 2 == 1 { -offset } else { 0.0 };
        for column in 0..columns {
            let x = column as f64 * unit + shift;
            // How many units are touched by the wear, and how much, grows with the grade.
            let reached = |n: usize| (n as f64 * g / 4.5 + 0.7).floor();
            let unit_number = row * columns + column;
            let touched = reached(unit_number + 1) > reached(unit_number);
            let (slip, curl) = match sign {
                "cracked-units" if touched && g > 1.0 => (g * 1.6, 0.0),
                "edge-wear" if touched => (0.0, g * 1.9),
                "seal-release" if touched => (0.0, g * 1.2),
                _ => (0.0, 0.0),
            };
            let missing = sign == "cracked-units" && g > 3.5 && touched && dice.next() < 0.4;
            if missing {
                s.rect([x, top + 2.0], [unit, foot - top - 2.0], &Style::new().fill(look.ink_soft).faint(0.75));
                continue;
            }
            s.line([x, top + slip], [x, foot + slip], &ink);
            let y = foot + slip;
            if tile {
                s.sign([x, y], &format!("q{:.1} {:.1} {unit:.1} 0", unit / 2.0, 9.0 - curl), &Style::new().hollow().and(&ink));
            } else {
                // Curled: the middle of the lower edge lifts, with the dark gap beneath.
                s.sign(
                    [x, y],
                    &format!("q{:.1} {:.1} {unit:.1} 0", unit / 2.0, -2.0 * curl),
                    &Style::new().fill(if curl > 0.0 { look.ink_soft } else { "none" }).and(&ink),
                );
            }
            if touched && matches!(sign, "cracked-units" | "brittleness") {
                let (cx, reach) = (x + unit * dice.within(0.2, 0.8), course.min(30.0) * (0.4 + g * 0.12));
                let mid = [cx + dice.within(-3.0, 3.0), y - reach / 2.0];
                s.curve(&[[cx, y], mid, [cx + dice.within(-5.0, 5.0), y - reach]], &ink);
                if g > 2.0 {
                    s.curve(&[mid, [mid[0] + dice.within(-8.0, 8.0), mid[1] + dice.within(-6.0, 2.0)]], &ink);
                }
            }
            if sign == "seal-release" && touched {
                s.curve(
                    &[[x + 2.0, y - 3.0], [x + unit / 2.0, y - 5.0 - g], [x + unit - 2.0, y - 3.0]],
                    &Style::new().and(&ink).dash("3 2"),
                );
            }
        }
    }
    let mut spots = |many: f64, size: (f64, f64), style: &Style, s: &mut Svg| {
        for _ in 0..many as usize {
            let (x, y, r) = (dice.within(5.0, W - 5.0), dice.within(5.0, H - 5.0), dice.within(size.0, size.1));
            s.ellipse([x, y], [r, r * 0.62], style);
        }
    };
    match sign {
        "granule-loss" => {
            spots(220.0 - g * 48.0, (0.5, 0.9), &Style::new().fill(look.ink), s);
            spots(g * 4.0, (3.0, 4.0 + g * 3.0), &Style::new().fill(look.plaster).stroke(look.ink_soft, 0.8), s);
        }
        "mat-showing" => spots(g * g * 1.7, (2.0 + g, 4.0 + g * 2.6), &Style::new().fill(look.ink_soft).faint(0.85), s),
        _ => {}
    }
    if sign == "moss" && g > 0.0 {
        // It starts at the laps, where water stays longest.
        for row in 1..=rows {
            let y = (row as f64 * course).min(H - 2.0);
            for _ in 0..(g * g * 1.6) as usize {
                let (x, r) = (dice.within(2.0, W - 2.0), dice.within(1.5, 1.5 + g * 1.7));
                s.sign([x - r, y], &format!("a{r:.1} {r:.1} 0 0 1 {:.1} 0z", 2.0 * r), &Style::new().fill(look.verdigris));
            }
        }
    }
}

/// The crest seen from the side of the slope: caps lapped along it, worn over the bend.
fn ridge(s: &mut Svg, dice: &mut Scatter, g: f64) {
    let look = s.look;
    let ink = Style::new().stroke(look.ink, 1.2).round();
    for k in 0..5 {
        let x = k as f64 * 26.0 + 2.0;
        s.path(&[vec![[x, 62.0], [x + 6.0, 26.0], [x + 28.0, 26.0], [x + 24.0, 62.0]]], &Style::new().fill(look.plaster).and(&ink));
        let touched = dice.next() < g / 4.2;
        if g >= 1.0 {
            let many = (g * 5.0) as usize;
            for _ in 0..many {
                let at = [x + 6.0 + dice.within(0.0, 20.0), 26.0 + dice.within(0.0, 4.0 + g)];
                s.circle(at, 0.6 + g * 0.25, &Style::new().fill(look.ink_soft));
            }
        }
        if g >= 3.0 && touched || g >= 4.0 {
            let cx = x + 6.0 + dice.within(6.0, 16.0);
            s.curve(
                &[[cx, 24.0], [cx + dice.within(-3.0, 3.0), 38.0], [cx + dice.within(-5.0, 5.0), 38.0 + g * 5.0]],
                &Style::new().stroke(look.ink, 2.4),
            );
        }
    }
    s.line([0.0, 62.0], [W, 62.0], &ink);
    s.line([0.0, 76.0], [W, 76.0], &ink);
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::roof::covering::coverings;

    #[test]
    fn every_grade_of_every_sign_is_drawn_and_differs() {
        for c in coverings() {
            for sign in &c.signs {
                let drawn: Vec<String> = (0..=4).map(|g| wear_svg(&c.key, sign, g, Look::PRINT).unwrap()).collect();
                // Without its label: the marks themselves must differ.
                let marks = |s: &str| s.split_once("<rect").unwrap().1.to_owned();
                for g in 1..5 {
                    assert_ne!(marks(&drawn[g]), marks(&drawn[g - 1]), "{} {sign}: grade {g} looks like {}", c.key, g - 1);
                }
            }
        }
    }

    #[test]
    fn what_is_not_there_is_not_drawn() {
        assert!(wear_svg("asphalt-laminated", "moss", 5, Look::PRINT).is_none());
        assert!(wear_svg("standing-seam", "mat-showing", 1, Look::PRINT).is_none());
        assert!(wear_svg("thatch", "moss", 1, Look::PRINT).is_none());
    }
}
