//! The one palette: names are materials, and say what a tone is for. The page's tokens, the drawings and the print template are
//! made from this table; `cargo xtask types` writes the page's copy.

use envelope::measure::Units;

macro_rules! palette {
    ($( $(#[doc = $doc:literal])+ $field:ident $name:literal $daylight:literal $attic:literal; )*) => {
        /// A tone in both themes.
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub struct Tone {
            /// As the page calls it.
            pub name: &'static str,
            /// In daylight.
            pub daylight: &'static str,
            /// In the dark.
            pub attic: &'static str,
        }

        /// Every tone.
        pub const TONES: &[Tone] = &[$( Tone { name: $name, daylight: $daylight, attic: $attic } ),*];

        /// The tones of a drawing: one drawing serves the page, a file and print, and only this differs.
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub struct Look {
            $( $(#[doc = $doc])+ pub $field: &'static str, )*
            /// The units its figures are in.
            pub units: Units,
        }

        const DAYLIGHT: Look = Look { $( $field: $daylight ),*, units: Units::Metric };

        impl Look {
            /// In the page, which knows its theme.
            pub const PAGE: Look = Look { $( $field: concat!("var(--", $name, ")") ),*, units: Units::Metric };

            /// The same, its figures in the reader's units. A drawing has no room for two figures at one place: the first stands.
            pub fn in_units(self, units: Units) -> Look {
                Look { units: units.first(), ..self }
            }
        }
    };
}

palette! {
    /// The ground of everything.
    plaster "plaster" "#FBFAF7" "#12181C";
    /// A ground that lies lower.
    plaster_low "plasterLow" "#F2EFE8" "#1B2328";
    /// A line that only divides.
    plaster_line "plasterLine" "#E4DFD3" "#2A353C";
    /// Where one types.
    field "field" "#FFFFFF" "#0D1215";
    /// Text, and lines that mean something.
    ink "ink" "#1B2329" "#EDEAE2";
    /// Text of second rank.
    ink_soft "inkSoft" "#4A545B" "#B9C0C2";
    /// What is chosen, and the main action.
    copper "copper" "#9A4B1F" "#E39A63";
    /// Text on copper.
    on_copper "onCopper" "#FFFFFF" "#12181C";
    /// Done, right.
    verdigris "verdigris" "#1F6F63" "#6FC3B2";
    /// Danger to people, and nothing else.
    brick "brick" "#9C2F2A" "#F08C82";
    /// Estimated, unconfirmed.
    ochre "ochre" "#7A5600" "#E3BC59";
    /// Water, and nothing else.
    water "water" "#1E5FA8" "#7FB6F0";
    /// A place that was seen.
    seen "seen" "#D3E2DC" "#24403B";
    /// A place with notes.
    noted "noted" "#E9D9C6" "#4A3726";
}

impl Look {
    /// On paper, and for a file that stands alone: paper is white.
    pub const PRINT: Look = Look { plaster: "#FFFFFF", ..DAYLIGHT };
}

/// The page's tokens.
pub fn tokens() -> String {
    let theme = |of: fn(&Tone) -> &'static str| -> String { TONES.iter().map(|t| format!("\t{}: \"{}\",\n", t.name, of(t))).collect() };
    format!(
        "// Made by `cargo xtask types` from the palette of crates/drawing. Change it there.\nexport const daylight = {{\n{}}};\n\nexport const attic: typeof daylight = {{\n{}}};\n",
        theme(|t| t.daylight),
        theme(|t| t.attic)
    )
}

/// The palette as custom properties of a style sheet, for a page that stands alone: dark where its reader's device is, light on paper.
pub fn css_tones() -> String {
    let theme = |of: fn(&Tone) -> &'static str| TONES.iter().map(|t| format!("--{}:{};", t.name, of(t))).collect::<String>();
    let (light, dark) = (theme(|t| t.daylight), theme(|t| t.attic));
    format!(":root{{color-scheme:light dark;{light}}}@media screen and (prefers-color-scheme:dark){{:root{{{dark}}}}}")
}

/// The palette as definitions of the typesetter, in daylight.
pub fn typst_tones() -> String {
    TONES.iter().map(|t| format!("#let {} = rgb(\"{}\")\n", t.name, t.daylight)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Relative luminance of a tone (WCAG 2.2).
    fn luminance(hex: &str) -> f64 {
        let part = |i: usize| {
            let c = f64::from(u8::from_str_radix(&hex[i..i + 2], 16).unwrap()) / 255.0;
            if c <= 0.04045 { c / 12.92 } else { ((c + 0.055) / 1.055).powf(2.4) }
        };
        0.2126 * part(1) + 0.7152 * part(3) + 0.0722 * part(5)
    }

    fn contrast(a: &str, b: &str) -> f64 {
        let (a, b) = (luminance(a), luminance(b));
        (a.max(b) + 0.05) / (a.min(b) + 0.05)
    }

    /// Text reaches 7:1, secondary text 4.5:1, lines that mean something 3:1, on every ground it stands on, in both themes.
    #[test]
    fn every_tone_can_be_read_on_every_ground() {
        for theme in [|t: &Tone| t.daylight, |t: &Tone| t.attic] {
            let tone = |name: &str| theme(TONES.iter().find(|t| t.name == name).unwrap());
            for ground in ["plaster", "plasterLow", "field", "seen", "noted"] {
                assert!(contrast(tone("ink"), tone(ground)) >= 7.0, "ink on {ground}");
            }
            for ground in ["plaster", "plasterLow", "field"] {
                for text in ["inkSoft", "copper", "verdigris", "brick", "ochre", "water"] {
                    let is = contrast(tone(text), tone(ground));
                    assert!(is >= 4.5, "{text} on {ground}: {is:.2}");
                }
            }
            assert!(contrast(tone("onCopper"), tone("copper")) >= 4.5);
        }
    }
}
