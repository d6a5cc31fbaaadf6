//! Marks on a picture as a drawing of the picture's own size, to be laid over it.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::round::{PictureMark, Shape};

/// Copper with a light edge, so that it is seen on any picture, in any theme.
const INK: &str = Look::PRINT.copper;
const EDGE: &str = Look::PRINT.plaster;

/// The drawing, in pixels of the upright picture.
pub fn marks_svg(marks: &[PictureMark], width: u32, height: u32) -> String {
    let (w, h) = (width.max(1), height.max(1));
    let each: String = marks.iter().map(|m| mark_svg(m, w, h)).collect();
    format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" viewBox=\"0 0 {w} {h}\">{each}</svg>")
}

/// One mark, to stand in a drawing of the picture's size.
pub fn mark_svg(m: &PictureMark, width: u32, height: u32) -> String {
    let (w, h) = (f64::from(width.max(1)), f64::from(height.max(1)));
    let unit = w.max(h) / 200.0;
    let mut s = Svg::new(Look::PRINT);
    let (x1, y1, x2, y2) = (m.from[0] * w, m.from[1] * h, m.to[0] * w, m.to[1] * h);
    if let Some(path) = path(m.shape, [x1, y1, x2, y2], unit) {
        for (tone, thick) in [(EDGE, 3.0), (INK, 1.5)] {
            s.mark(&path, &Style::new().hollow().stroke(tone, thick * unit).round());
        }
    }
    if !m.text.is_empty() {
        let (x, y) = match m.shape {
            Shape::Line => ((x1 + x2) / 2.0, (y1 + y2) / 2.0 - 2.5 * unit),
            Shape::Text => (x1, y1),
            Shape::Ring => (x1.min(x2), y1.min(y2) - 2.0 * unit),
            Shape::Arrow => (x1, y1 - 2.0 * unit),
        };
        let at = [x, y.max(7.0 * unit)];
        let words = Style::new().family("Atkinson Hyperlegible Next").weight(700).size(7.0 * unit);
        s.text(at, &m.text, &words.clone().fill(EDGE).stroke(EDGE, 2.0 * unit).joined());
        s.text(at, &m.text, &words.fill(INK));
    }
    s.marks()
}

/// The lines of a mark; words have none.
fn path(shape: Shape, [x1, y1, x2, y2]: [f64; 4], unit: f64) -> Option<String> {
    let length = (x2 - x1).hypot(y2 - y1).max(1e-9);
    let (dx, dy) = ((x2 - x1) / length, (y2 - y1) / length);
    Some(match shape {
        Shape::Ring => {
            let (cx, cy, rx, ry) = ((x1 + x2) / 2.0, (y1 + y2) / 2.0, ((x2 - x1) / 2.0).abs().max(unit), ((y2 - y1) / 2.0).abs().max(unit));
            format!("M{:.1} {cy:.1}A{rx:.1} {ry:.1} 0 1 0 {:.1} {cy:.1}A{rx:.1} {ry:.1} 0 1 0 {:.1} {cy:.1}Z", cx - rx, cx + rx, cx - rx)
        }
        Shape::Arrow => {
            let head = 5.0 * unit;
            let barb = |turn: f64| {
                let (c, s) = (turn.cos(), turn.sin());
                (x2 - head * (dx * c - dy * s), y2 - head * (dx * s + dy * c))
            };
            let ((ax, ay), (bx, by)) = (barb(0.45), barb(-0.45));
            format!("M{x1:.1} {y1:.1}L{x2:.1} {y2:.1}M{ax:.1} {ay:.1}L{x2:.1} {y2:.1}L{bx:.1} {by:.1}")
        }
        Shape::Line => {
            let (tx, ty) = (-dy * 3.0 * unit, dx * 3.0 * unit);
            format!(
                "M{x1:.1} {y1:.1}L{x2:.1} {y2:.1}M{:.1} {:.1}L{:.1} {:.1}M{:.1} {:.1}L{:.1} {:.1}",
                x1 - tx,
                y1 - ty,
                x1 + tx,
                y1 + ty,
                x2 - tx,
                y2 - ty,
                x2 + tx,
                y2 + ty
            )
        }
        Shape::Text => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_drawing_has_every_mark_and_no_markup_from_outside() {
        let mark = |shape, text: &str| PictureMark { shape, from: [0.1, 0.2], to: [0.5, 0.6], text: text.into() };
        let svg = marks_svg(
            &[mark(Shape::Ring, ""), mark(Shape::Arrow, "here"), mark(Shape::Line, "14\""), mark(Shape::Text, "<script>")],
            1600,
            1200,
        );
        assert_eq!(svg.matches("<path").count(), 6, "two strokes of each but the words");
        assert!(svg.contains("14&quot;") && svg.contains("&lt;script&gt;") && !svg.contains("<script"));
    }

    /// The page lays each mark over the picture by itself; together they are what is printed.
    #[test]
    fn marks_one_by_one_are_the_whole() {
        let mark = |shape, text: &str| PictureMark { shape, from: [0.9, 0.01], to: [0.2, 0.6], text: text.into() };
        let marks = [mark(Shape::Ring, "a"), mark(Shape::Arrow, ""), mark(Shape::Line, "14 in"), mark(Shape::Text, "b")];
        let whole = marks_svg(&marks, 640, 480);
        let each: String = marks.iter().map(|m| mark_svg(m, 640, 480)).collect();
        assert!(whole.contains(&each) && whole.ends_with(&format!("{each}</svg>")));
        // Words beside a mark at the upper edge are not cut off, and a mark of a picture without size is drawn all the same.
        assert!(mark_svg(&marks[0], 640, 480).contains("y=\"22.4\""), "{}", mark_svg(&marks[0], 640, 480));
        assert!(mark_svg(&marks[1], 0, 0).contains("<path"));
    }
}
