//! The few marks every drawing is made of. One drawing serves the screen, the download and print: only the look differs.

use crate::palette::Look;
use envelope::measure::Units;
use std::fmt::Write;

/// Text that may stand in XML, whatever a person typed.
pub(crate) fn escape(text: &str) -> String {
    text.chars()
        .filter(|c| !c.is_control() && !turns_text(*c))
        .map(|c| match c {
            '&' => "&amp;".to_owned(),
            '<' => "&lt;".to_owned(),
            '>' => "&gt;".to_owned(),
            '"' => "&quot;".to_owned(),
            c => c.to_string(),
        })
        .collect()
}

/// Marks that turn the direction of what follows: a name that holds them would reverse its neighbours.
fn turns_text(c: char) -> bool {
    matches!(c, '\u{061c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

const FONT: &str = r#"font-family="Atkinson Hyperlegible Next, Atkinson Hyperlegible, sans-serif" font-size="12""#;

/// A drawing in the making.
pub(crate) struct Svg {
    body: String,
    pub(crate) look: Look,
}

impl Svg {
    pub(crate) fn new(look: Look) -> Svg {
        Svg { body: String::new(), look }
    }
    /// Marks as they stand.
    pub(crate) fn raw(&mut self, marks: &str) {
        self.body.push_str(marks);
    }
    pub(crate) fn line(&mut self, p: [f64; 2], q: [f64; 2], style: &str) {
        let _ = write!(self.body, r#"<line x1="{:.1}" y1="{:.1}" x2="{:.1}" y2="{:.1}" {style}/>"#, p[0], p[1], q[0], q[1]);
    }
    pub(crate) fn path(&mut self, rings: &[Vec<[f64; 2]>], style: &str) {
        let mut d = String::new();
        for ring in rings {
            for (i, p) in ring.iter().enumerate() {
                let _ = write!(d, "{}{:.1} {:.1}", if i == 0 { "M" } else { "L" }, p[0], p[1]);
            }
            d.push('Z');
        }
        let _ = write!(self.body, r#"<path d="{d}" {style}/>"#);
    }
    pub(crate) fn curve(&mut self, points: &[[f64; 2]], style: &str) {
        let list: Vec<String> = points.iter().map(|p| format!("{:.1},{:.1}", p[0], p[1])).collect();
        let _ = write!(self.body, r#"<polyline points="{}" fill="none" {style}/>"#, list.join(" "));
    }
    /// Words at a point. A word without a tone of its own is ink: what is left black cannot be read in the dark.
    pub(crate) fn text(&mut self, at: [f64; 2], text: &str, style: &str) {
        let tone = if style.contains("fill=") { String::new() } else { format!(r#" fill="{}""#, self.look.ink) };
        let style = if style.is_empty() { String::new() } else { format!(" {style}") };
        let _ = write!(self.body, r#"<text x="{:.1}" y="{:.1}"{style}{tone}>{}</text>"#, at[0], at[1], escape(text));
    }
    /// North, drawn at a point.
    pub(crate) fn north(&mut self, at: [f64; 2]) {
        let ink = self.look.ink;
        let (x, y) = (at[0], at[1]);
        let _ = write!(self.body, r#"<path d="M{x:.1} {y:.1}v-26l-5 9m5 -9l5 9" fill="none" stroke="{ink}" stroke-width="1.5"/>"#);
        self.text([x, y + 13.0], "N", &format!(r#"text-anchor="middle" fill="{ink}""#));
    }
    /// A bar of round length, `k` units to the metre.
    pub(crate) fn scale_bar(&mut self, at: [f64; 2], k: f64, room: f64) {
        const ROUND: [f64; 9] = [0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0];
        let (unit, m) = if self.look.units.first() == Units::Us { ("ft", 0.3048) } else { ("m", 1.0) };
        let round = ROUND.into_iter().rev().find(|l| l * m * k <= room).unwrap_or(0.5);
        let length = round * m;
        let (ink, end) = (self.look.ink, at[0] + length * k);
        let stroke = format!(r#"stroke="{ink}" stroke-width="1.5""#);
        self.line(at, [end, at[1]], &stroke);
        for x in [at[0], end] {
            self.line([x, at[1] - 4.0], [x, at[1] + 4.0], &stroke);
        }
        self.text([end + 6.0, at[1] + 4.0], &format!("{round} {unit}"), &format!(r#"fill="{ink}""#));
    }
    /// The whole, around its middle.
    pub(crate) fn done_around(self, side: f64, name: &str) -> String {
        let half = side / 2.0;
        format!(
            r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="-{half} -{half} {side} {side}" role="group" aria-label="{}" {FONT}>{}</svg>"#,
            escape(name),
            self.body
        )
    }
    /// The whole, so wide and so high.
    pub(crate) fn done(self, width: f64, height: f64, name: &str) -> String {
        self.done_with(width, height, name, "")
    }
    /// The same, with data for the page.
    pub(crate) fn done_with(self, width: f64, height: f64, name: &str, data: &str) -> String {
        format!(
            r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:.0} {height:.0}" {data} role="group" aria-label="{}" {FONT}>{}</svg>"#,
            escape(name),
            self.body
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_person_typed_stays_text() {
        let mut s = Svg::new(Look::PRINT);
        s.text([1.0, 2.0], "<script>alert(\"1 & 2\")</script>\u{0}", "");
        let out = s.done(10.0, 10.0, "a\"b");
        assert!(out.contains("&lt;script&gt;alert(&quot;1 &amp; 2&quot;)") && !out.contains("<script"));
        assert!(out.contains(r#"aria-label="a&quot;b""#));
    }

    #[test]
    fn a_word_without_a_tone_is_ink_in_the_theme_it_stands_in() {
        for look in [Look::PAGE, Look::PRINT] {
            let mut s = Svg::new(look);
            s.text([1.0, 2.0], "plain", r#"font-size="9""#);
            s.text([1.0, 2.0], "soft", &format!(r#"fill="{}""#, look.ink_soft));
            let out = s.done(10.0, 10.0, "x");
            assert!(out.contains(&format!(r#"font-size="9" fill="{}">plain"#, look.ink)), "{out}");
            assert!(out.contains(&format!(r#"fill="{}">soft"#, look.ink_soft)) && out.matches("fill=").count() == 2, "{out}");
        }
    }
}
