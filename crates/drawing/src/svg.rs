//! The few marks every drawing is made of. One drawing serves the screen, the download and print: only the look differs.

use crate::palette::Look;
use envelope::measure::Units;
use std::fmt::{Display, Formatter, Write};

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

/// How a mark looks and what it tells the page: attributes in the order they were said. Every value escapes itself.
#[derive(Debug, Clone, Default)]
pub(crate) struct Style(Vec<(&'static str, String)>);

impl Style {
    /// Nothing said: a shape is black, words are ink.
    pub(crate) fn new() -> Style {
        Style::default()
    }
    /// What was said of it before holds no longer: an attribute that stands twice is no drawing at all.
    fn with(mut self, name: &'static str, value: impl Display) -> Style {
        let value = escape(&value.to_string());
        match self.0.iter_mut().find(|(n, _)| *n == name) {
            Some(said) => said.1 = value,
            None => self.0.push((name, value)),
        }
        self
    }
    fn says(&self, name: &str) -> bool {
        self.0.iter().any(|(n, _)| *n == name)
    }
    /// With what another says as well.
    pub(crate) fn and(mut self, other: &Style) -> Style {
        self.0.retain(|(name, _)| !other.says(name));
        self.0.extend(other.0.iter().cloned());
        self
    }
    /// With it where it holds.
    pub(crate) fn when(self, holds: bool, change: impl FnOnce(Style) -> Style) -> Style {
        if holds { change(self) } else { self }
    }
    pub(crate) fn fill(self, tone: &str) -> Style {
        self.with("fill", tone)
    }
    /// Only the line of it.
    pub(crate) fn hollow(self) -> Style {
        self.fill("none")
    }
    /// Not seen, and yet found by a finger.
    pub(crate) fn unseen(self) -> Style {
        self.fill("transparent")
    }
    /// Filled with a pattern of the same drawing.
    pub(crate) fn pattern(self, id: &str) -> Style {
        self.with("fill", format_args!("url(#{id})"))
    }
    /// Rings within rings are holes.
    pub(crate) fn holes(self) -> Style {
        self.with("fill-rule", "evenodd")
    }
    pub(crate) fn solid(self, share: f64) -> Style {
        self.with("fill-opacity", short(share))
    }
    pub(crate) fn stroke(self, tone: &str, width: f64) -> Style {
        self.with("stroke", tone).with("stroke-width", short(width))
    }
    /// Broken: drawn and left out by turns, as `"4 3"`; whole where there are none.
    pub(crate) fn dash(self, turns: &str) -> Style {
        self.when(!turns.is_empty(), |s| s.with("stroke-dasharray", turns))
    }
    pub(crate) fn round(self) -> Style {
        self.with("stroke-linecap", "round")
    }
    pub(crate) fn joined(self) -> Style {
        self.with("stroke-linejoin", "round")
    }
    pub(crate) fn faint(self, share: f64) -> Style {
        self.with("opacity", short(share))
    }
    pub(crate) fn size(self, px: f64) -> Style {
        self.with("font-size", short(px))
    }
    pub(crate) fn weight(self, weight: u16) -> Style {
        self.with("font-weight", weight)
    }
    pub(crate) fn family(self, name: &str) -> Style {
        self.with("font-family", name)
    }
    /// Which end of the words stands at their point.
    pub(crate) fn anchor(self, end: &str) -> Style {
        self.with("text-anchor", end)
    }
    pub(crate) fn middle(self) -> Style {
        self.anchor("middle")
    }
    pub(crate) fn end(self) -> Style {
        self.anchor("end")
    }
    /// At half its height on its point.
    pub(crate) fn level(self) -> Style {
        self.with("dominant-baseline", "middle")
    }
    /// A rim of the ground's tone around words, so that they can be read over lines.
    pub(crate) fn halo(self, tone: &str, width: f64) -> Style {
        self.stroke(tone, width).with("paint-order", "stroke")
    }
    /// Turned about a point, degrees clockwise.
    pub(crate) fn turned(self, degrees: f64, at: [f64; 2]) -> Style {
        self.with("transform", format_args!("rotate({degrees:.1} {:.1} {:.1})", at[0], at[1]))
    }
    pub(crate) fn spun(self, degrees: f64) -> Style {
        self.with("transform", format_args!("rotate({degrees:.1})"))
    }
    /// Lets the pointer through to what lies under it.
    pub(crate) fn still(self) -> Style {
        self.with("pointer-events", "none")
    }
    pub(crate) fn hidden(self) -> Style {
        self.with("visibility", "hidden")
    }
    /// Not read aloud: said elsewhere.
    pub(crate) fn mute(self) -> Style {
        self.with("aria-hidden", "true")
    }
    /// For the page that shows it; `name` begins with `data-`.
    pub(crate) fn data(self, name: &'static str, value: impl Display) -> Style {
        self.with(name, value)
    }
    pub(crate) fn clip(self, id: &str) -> Style {
        self.with("clip-path", format_args!("url(#{id})"))
    }
    /// Something to see, with a name.
    pub(crate) fn image(name: &'static str, id: &str, label: &str) -> Style {
        Style::new().with("role", "img").data(name, id).with("aria-label", label)
    }
    /// Something that can be chosen, by pointer and keys.
    pub(crate) fn button(name: &'static str, id: &str, label: &str) -> Style {
        Style::new().with("role", "button").with("tabindex", -1).data(name, id).with("aria-label", label)
    }
}

/// A number with two decimals at most.
fn short(x: f64) -> f64 {
    (x * 100.0).round() / 100.0
}

impl Display for Style {
    fn fmt(&self, f: &mut Formatter<'_>) -> std::fmt::Result {
        self.0.iter().try_for_each(|(name, value)| write!(f, r#" {name}="{value}""#))
    }
}

/// A drawing in the making.
pub(crate) struct Svg {
    body: String,
    pub(crate) look: Look,
}

impl Svg {
    pub(crate) fn new(look: Look) -> Svg {
        Svg { body: String::new(), look }
    }
    fn element(&mut self, name: &str, shape: std::fmt::Arguments<'_>, style: &Style) {
        let _ = write!(self.body, "<{name}{shape}{style}/>");
    }
    fn around(&mut self, name: &str, style: &Style, inside: impl FnOnce(&mut Svg)) {
        let _ = write!(self.body, "<{name}{style}>");
        inside(self);
        let _ = write!(self.body, "</{name}>");
    }
    /// What belongs together.
    pub(crate) fn group(&mut self, style: &Style, inside: impl FnOnce(&mut Svg)) {
        self.around("g", style, inside);
    }
    /// What belongs together and says so under a pointer.
    pub(crate) fn titled(&mut self, words: &str, inside: impl FnOnce(&mut Svg)) {
        self.group(&Style::new(), |s| {
            s.title(words);
            inside(s);
        });
    }
    /// What the group it stands in says under a pointer.
    pub(crate) fn title(&mut self, words: &str) {
        let _ = write!(self.body, "<title>{}</title>", escape(words));
    }
    /// What is used by name elsewhere in the drawing.
    pub(crate) fn defs(&mut self, inside: impl FnOnce(&mut Svg)) {
        self.around("defs", &Style::new(), inside);
    }
    /// A pattern that repeats every `size`, turned by degrees.
    pub(crate) fn pattern(&mut self, id: &str, size: [f64; 2], turn: f64, inside: impl FnOnce(&mut Svg)) {
        let style = Style::new()
            .with("id", id)
            .with("width", size[0])
            .with("height", size[1])
            .with("patternUnits", "userSpaceOnUse")
            .with("patternTransform", format_args!("rotate({turn:.1})"));
        self.around("pattern", &style, inside);
    }
    /// Marks within a rectangle of the drawing, from its corner; what reaches over it is cut off.
    pub(crate) fn within(&mut self, id: &str, size: [f64; 2], inside: impl FnOnce(&mut Svg)) {
        self.around("clipPath", &Style::new().with("id", id), |s| s.rect([0.0, 0.0], size, &Style::new()));
        self.group(&Style::new().clip(id), inside);
    }
    pub(crate) fn line(&mut self, p: [f64; 2], q: [f64; 2], style: &Style) {
        self.element("line", format_args!(r#" x1="{:.1}" y1="{:.1}" x2="{:.1}" y2="{:.1}""#, p[0], p[1], q[0], q[1]), style);
    }
    pub(crate) fn circle(&mut self, at: [f64; 2], r: f64, style: &Style) {
        self.element("circle", format_args!(r#" cx="{:.1}" cy="{:.1}" r="{r:.1}""#, at[0], at[1]), style);
    }
    pub(crate) fn ellipse(&mut self, at: [f64; 2], r: [f64; 2], style: &Style) {
        self.element("ellipse", format_args!(r#" cx="{:.1}" cy="{:.1}" rx="{:.1}" ry="{:.1}""#, at[0], at[1], r[0], r[1]), style);
    }
    pub(crate) fn rect(&mut self, at: [f64; 2], size: [f64; 2], style: &Style) {
        self.element("rect", format_args!(r#" x="{:.1}" y="{:.1}" width="{:.1}" height="{:.1}""#, at[0], at[1], size[0], size[1]), style);
    }
    pub(crate) fn path(&mut self, rings: &[Vec<[f64; 2]>], style: &Style) {
        let mut d = String::new();
        for ring in rings {
            for (i, p) in ring.iter().enumerate() {
                let _ = write!(d, "{}{:.1} {:.1}", if i == 0 { "M" } else { "L" }, p[0], p[1]);
            }
            d.push('Z');
        }
        self.mark(&d, style);
    }
    /// A path by its own data.
    pub(crate) fn mark(&mut self, data: &str, style: &Style) {
        self.element("path", format_args!(r#" d="{}""#, escape(data)), style);
    }
    /// A path from a point on, by data in steps from there.
    pub(crate) fn sign(&mut self, at: [f64; 2], steps: &str, style: &Style) {
        self.mark(&format!("M{:.1} {:.1}{steps}", at[0], at[1]), style);
    }
    pub(crate) fn curve(&mut self, points: &[[f64; 2]], style: &Style) {
        let list: Vec<String> = points.iter().map(|p| format!("{:.1},{:.1}", p[0], p[1])).collect();
        self.element("polyline", format_args!(r#" points="{}" fill="none""#, list.join(" ")), style);
    }
    /// Words at a point. A word without a tone of its own is ink: what is left black cannot be read in the dark.
    pub(crate) fn text(&mut self, at: [f64; 2], text: &str, style: &Style) {
        let style = style.clone().when(!style.says("fill"), |s| s.fill(self.look.ink));
        let _ = write!(self.body, r#"<text x="{:.1}" y="{:.1}"{style}>{}</text>"#, at[0], at[1], escape(text));
    }
    /// North, drawn at a point.
    pub(crate) fn north(&mut self, at: [f64; 2]) {
        let ink = self.look.ink;
        self.sign(at, "v-26l-5 9m5 -9l5 9", &Style::new().hollow().stroke(ink, 1.5));
        self.text([at[0], at[1] + 13.0], "N", &Style::new().middle().fill(ink));
    }
    /// A bar of round length, `k` units to the metre.
    pub(crate) fn scale_bar(&mut self, at: [f64; 2], k: f64, room: f64) {
        const ROUND: [f64; 9] = [0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0];
        let (unit, m) = if self.look.units.first() == Units::Us { ("ft", 0.3048) } else { ("m", 1.0) };
        let round = ROUND.into_iter().rev().find(|l| l * m * k <= room).unwrap_or(0.5);
        let length = round * m;
        let (ink, end) = (self.look.ink, at[0] + length * k);
        let stroke = Style::new().stroke(ink, 1.5);
        self.line(at, [end, at[1]], &stroke);
        for x in [at[0], end] {
            self.line([x, at[1] - 4.0], [x, at[1] + 4.0], &stroke);
        }
        self.text([end + 6.0, at[1] + 4.0], &format!("{round} {unit}"), &Style::new().fill(ink));
    }
    /// The marks without a drawing around them.
    pub(crate) fn marks(self) -> String {
        self.body
    }
    /// The whole, around its middle.
    pub(crate) fn done_around(self, side: f64, name: &str) -> String {
        let half = side / 2.0;
        self.whole(format_args!("-{half} -{half} {side} {side}"), name, &Style::new())
    }
    /// The whole, so wide and so high.
    pub(crate) fn done(self, width: f64, height: f64, name: &str) -> String {
        self.done_with(width, height, name, &Style::new())
    }
    /// The same, with data for the page.
    pub(crate) fn done_with(self, width: f64, height: f64, name: &str, data: &Style) -> String {
        self.whole(format_args!("0 0 {width:.0} {height:.0}"), name, data)
    }
    fn whole(self, view: std::fmt::Arguments<'_>, name: &str, data: &Style) -> String {
        format!(
            r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="{view}"{data} role="group" aria-label="{}" {FONT}>{}</svg>"#,
            escape(name),
            self.body
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use roxmltree::Document;

    const HOSTILE: &str = "<script>alert(\"1 & 2\")</script>\u{0}\u{202e}'>";
    /// The same without what no drawing may hold.
    const KEPT: &str = "<script>alert(\"1 & 2\")</script>'>";

    #[test]
    fn whatever_a_person_typed_stays_text_wherever_it_goes() {
        let mut s = Svg::new(Look::PRINT);
        s.defs(|s| s.pattern(HOSTILE, [4.0, 4.0], 0.0, |_| ()));
        s.within(HOSTILE, [5.0, 5.0], |_| ());
        s.group(&Style::button("data-piece", HOSTILE, HOSTILE), |s| s.title(HOSTILE));
        s.text([1.0, 2.0], HOSTILE, &Style::new().fill(HOSTILE).family(HOSTILE).dash(HOSTILE).data("data-of", HOSTILE));
        s.mark(HOSTILE, &Style::new().pattern(HOSTILE));
        let out = s.done_with(10.0, 10.0, HOSTILE, &Style::new().data("data-of", HOSTILE));
        let read = Document::parse(&out).unwrap();
        assert_eq!(read.root_element().attribute("aria-label"), Some(KEPT));
        assert_eq!(read.root_element().attribute("data-of"), Some(KEPT));
        let named: Vec<&str> = read.descendants().filter(|n| n.is_element()).map(|n| n.tag_name().name()).collect();
        assert_eq!(named, ["svg", "defs", "pattern", "clipPath", "rect", "g", "g", "title", "text", "path"]);
        let of = |name: &str| read.descendants().find(|n| n.has_tag_name(name)).unwrap();
        assert_eq!((of("title").text(), of("text").text()), (Some(KEPT), Some(KEPT)));
        assert_eq!((of("pattern").attribute("id"), of("path").attribute("d")), (Some(KEPT), Some(KEPT)));
        for name in ["fill", "font-family", "stroke-dasharray", "data-of"] {
            assert_eq!(of("text").attribute(name), Some(KEPT), "{name}");
        }
        // What is named is what is used.
        let used = format!("url(#{KEPT})");
        assert_eq!(of("path").attribute("fill"), Some(used.as_str()));
    }

    /// What is opened is closed, however deep, and what is chosen can be reached and has a name.
    #[test]
    fn groups_within_groups_end_where_they_should() {
        fn nest(s: &mut Svg, deep: usize) {
            s.circle([1.0, 1.0], 1.0, &Style::new().hollow());
            if deep > 0 {
                s.group(&Style::button("data-piece", &deep.to_string(), "Turn"), |s| nest(s, deep - 1));
                s.titled("why", |s| nest(s, deep - 1));
            }
            s.line([0.0, 0.0], [1.0, 1.0], &Style::new());
        }
        let mut s = Svg::new(Look::PAGE);
        nest(&mut s, 6);
        let out = s.done_around(10.0, "nested");
        let read = Document::parse(&out).unwrap();
        let count = |name: &str| read.descendants().filter(|n| n.has_tag_name(name)).count();
        // A tree of two branches, six deep.
        assert_eq!((count("circle"), count("line"), count("g"), count("title")), (127, 127, 126, 63));
        for g in read.descendants().filter(|n| n.attribute("role") == Some("button")) {
            assert_eq!((g.attribute("tabindex"), g.attribute("aria-label")), (Some("-1"), Some("Turn")));
        }
    }

    #[test]
    fn a_style_says_what_it_was_told_once_and_in_that_order() {
        let soft = Style::new().fill("red").halo("white", 3.0);
        let said = Style::new().middle().and(&soft).when(true, Style::hidden).when(false, Style::mute).dash("");
        assert_eq!(
            said.to_string(),
            r#" text-anchor="middle" fill="red" stroke="white" stroke-width="3" paint-order="stroke" visibility="hidden""#
        );
        // The last word holds, whichever way it is said.
        let over = soft.clone().stroke("black", 1.0).and(&Style::new().fill("blue"));
        assert_eq!(over.to_string(), r#" stroke="black" stroke-width="1" paint-order="stroke" fill="blue""#);
        // Numbers are no longer than they need to be.
        let width = |w: f64| Style::new().stroke("red", w).to_string();
        assert!(width(2.0).ends_with(r#""2""#) && width(1.0 / 3.0).ends_with(r#""0.33""#) && width(0.004).ends_with(r#""0""#));
    }

    #[test]
    fn a_word_without_a_tone_is_ink_in_the_theme_it_stands_in() {
        for look in [Look::PAGE, Look::PRINT] {
            let mut s = Svg::new(look);
            s.text([1.0, 2.0], "plain", &Style::new().size(9.0));
            s.text([1.0, 2.0], "soft", &Style::new().fill(look.ink_soft));
            let out = s.done(10.0, 10.0, "x");
            assert!(out.contains(&format!(r#"font-size="9" fill="{}">plain"#, look.ink)), "{out}");
            assert!(out.contains(&format!(r#"fill="{}">soft"#, look.ink_soft)) && out.matches("fill=").count() == 2, "{out}");
        }
    }

    /// The bar is as long as it says, and fits its room, at any scale and in either unit.
    #[test]
    fn the_bar_is_as_long_as_it_says() {
        for units in [Units::Metric, Units::Us] {
            for k in [0.8, 3.7, 21.0, 88.0, 400.0] {
                let mut s = Svg::new(Look::PRINT.in_units(units));
                s.scale_bar([10.0, 20.0], k, 120.0);
                let out = s.done(200.0, 40.0, "bar");
                let read = Document::parse(&out).unwrap();
                let line = read.descendants().find(|n| n.has_tag_name("line")).unwrap();
                let at = |name: &str| line.attribute(name).unwrap().parse::<f64>().unwrap();
                let said = read.descendants().find(|n| n.has_tag_name("text")).unwrap().text().unwrap();
                let (figure, unit) = said.split_once(' ').unwrap();
                let metres = figure.parse::<f64>().unwrap() * if unit == "ft" { 0.3048 } else { 1.0 };
                assert_eq!(unit, if units == Units::Us { "ft" } else { "m" });
                assert!((at("x2") - at("x1") - metres * k).abs() < 0.06, "{said} at {k}");
                assert!(at("x2") - at("x1") <= 120.0 || figure == "0.5", "{said} at {k}");
            }
        }
    }
}
