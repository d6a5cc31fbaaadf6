//! Marks on a picture: kept as data beside the untouched original, drawn over it on screen and in print.

use crate::measure;
use serde::{Deserialize, Serialize};

/// What is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Shape {
    /// A ring in the box from the first point to the second.
    Ring,
    /// From the first point to the second, which it points at.
    Arrow,
    /// A dimension line with a measured length.
    Line,
    /// A few words at the first point.
    Text,
}

/// One mark. Points are parts of the upright picture's width and height, from the top left.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PictureMark {
    /// What is drawn.
    pub shape: Shape,
    /// First point.
    pub from: [f64; 2],
    /// Second point; for words the same as the first.
    pub to: [f64; 2],
    /// Words beside it; for a line the length that was measured, with its unit.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub text: String,
}

/// Marks anyone draws on one picture.
pub const MOST_MARKS: usize = 40;
const LONGEST_TEXT: usize = 60;

impl PictureMark {
    /// Checks that the mark can be drawn.
    ///
    /// # Errors
    /// What is wrong and what to do.
    pub fn check(&self) -> Result<(), String> {
        let inside = |p: [f64; 2]| p.iter().all(|v| (0.0..=1.0).contains(v));
        if !inside(self.from) || !inside(self.to) {
            return Err("A mark lies outside the picture. Draw it again inside.".into());
        }
        if self.text.chars().count() > LONGEST_TEXT {
            return Err(format!("The words of a mark are too long; the most is {LONGEST_TEXT} characters. Put the rest in the note."));
        }
        let apart = (self.from[0] - self.to[0]).abs().max((self.from[1] - self.to[1]).abs());
        match self.shape {
            Shape::Text if self.text.trim().is_empty() => Err("Type the words of the mark.".into()),
            Shape::Line if self.text.trim().is_empty() => Err("Type the length that was measured, for example 14 in or 350 mm.".into()),
            Shape::Line => measure::parse(&self.text).map_err(|e| e.to_string()).and_then(|m| {
                if m.quantity == measure::Quantity::Length {
                    Ok(())
                } else {
                    Err(format!("\u{201c}{}\u{201d} is not a length.", self.text))
                }
            }),
            Shape::Ring | Shape::Arrow if apart < 0.005 => Err("The mark is too small to see. Draw it larger.".into()),
            _ => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_that_cannot_be_drawn_are_refused() {
        let mark = |shape, to, text: &str| PictureMark { shape, from: [0.2, 0.2], to, text: text.into() }.check();
        assert_eq!(mark(Shape::Ring, [0.4, 0.5], ""), Ok(()));
        assert!(mark(Shape::Ring, [1.2, 0.5], "").unwrap_err().contains("outside"));
        assert!(mark(Shape::Ring, [f64::NAN, 0.5], "").is_err());
        assert!(mark(Shape::Ring, [0.2, 0.2], "").is_err());
        assert_eq!(mark(Shape::Line, [0.4, 0.5], "14 in"), Ok(()));
        assert!(mark(Shape::Line, [0.4, 0.5], "5 %").unwrap_err().contains("not a length"));
        assert!(mark(Shape::Line, [0.4, 0.5], "long").is_err());
        assert!(mark(Shape::Text, [0.2, 0.2], " ").is_err());
    }
}
