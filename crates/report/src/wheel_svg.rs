//! The wheel for print, from the same shapes as on the screen. In ink and tone, so that it survives a black-and-white copy.

use envelope::site::{Cell, CellState, Coverage, Wheel};
use std::fmt::Write;

const INK: &str = "#1B2329";
const INK_SOFT: &str = "#4A545B";
const SEEN: &str = "#D3E2DC";
const NOTED: &str = "#E9D9C6";
const VERDIGRIS: &str = "#1F6F63";

/// The wheel as SVG.
pub(crate) fn wheel_svg(wheel: &Wheel, coverage: &Coverage) -> String {
    let half = wheel.side / 2.0;
    let mut s = format!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="-{half} -{half} {side} {side}" font-family="Atkinson Hyperlegible Next" font-size="13">
<defs><pattern id="h" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line x1="0" y1="0" x2="0" y2="6" stroke="{INK_SOFT}" stroke-width="1.4"/></pattern></defs>"##,
        side = wheel.side
    );
    for shape in &wheel.cells {
        let Some(cell) = coverage.cells.iter().find(|c| c.cell == shape.cell) else { continue };
        let (fill, stroke) = match cell.state {
            CellState::Untouched if cell.expected => ("none", format!(r#"stroke="{INK_SOFT}" stroke-width="0.9" stroke-dasharray="3 3""#)),
            CellState::Untouched => ("none", String::new()),
            CellState::Seen => (SEEN, String::new()),
            CellState::Noted => (NOTED, String::new()),
            CellState::Limited => ("url(#h)", String::new()),
        };
        let _ = write!(s, r#"<path d="{}" fill="{fill}" {stroke}/>"#, shape.path);
        let (x, y) = (shape.x, shape.y);
        if cell.notes > 0 {
            if cell.state == CellState::Limited {
                let _ = write!(s, r##"<circle cx="{x:.1}" cy="{y:.1}" r="7.5" fill="#fff"/>"##);
            }
            let _ = write!(
                s,
                r#"<text x="{x:.1}" y="{:.1}" text-anchor="middle" font-weight="700" fill="{INK}">{}</text>"#,
                y + 4.5,
                cell.notes
            );
        } else if cell.state == CellState::Seen {
            let _ = write!(s, r#"<path d="M{:.1} {y:.1}l3 3l5 -6" fill="none" stroke="{VERDIGRIS}" stroke-width="1.8"/>"#, x - 4.0);
        } else if cell.cell == Cell::Inside && cell.expected {
            let _ = write!(s, r#"<text x="{x:.1}" y="{:.1}" text-anchor="middle" fill="{INK_SOFT}">inside</text>"#, y + 4.5);
        }
    }
    for l in &wheel.labels {
        // Labels at the sides are turned along the rim so that they stay inside the square.
        let angle = if l.x.abs() > l.y.abs() { if l.x > 0.0 { 90 } else { -90 } } else { 0 };
        let _ = write!(
            s,
            r#"<text x="{x:.1}" y="{y:.1}" transform="rotate({angle} {x:.1} {y:.1})" text-anchor="middle" dominant-baseline="middle" fill="{INK}">{}</text>"#,
            l.text,
            x = l.x,
            y = l.y,
        );
    }
    if wheel.oriented {
        let (x, y) = (-half + 14.0, -half + 34.0);
        let _ = write!(
            s,
            r#"<path d="M{x} {y}v-20l-4 7m4 -7l4 7" fill="none" stroke="{INK}" stroke-width="1.5"/><text x="{x}" y="{}" text-anchor="middle" fill="{INK}">N</text>"#,
            y + 15.0
        );
    }
    s.push_str("</svg>");
    s
}
