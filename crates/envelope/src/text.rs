//! Cutting a typed line into words, numbers and signs, each with its place in the line.
//!
//! Shared by the measure reader and the note line, so that both speak of the same positions.

use num_rational::Ratio;

/// Bytes `start..end` of the line that was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Span {
    /// First byte.
    pub start: usize,
    /// One past the last byte.
    pub end: usize,
}

impl Span {
    /// The smallest span that holds both.
    pub(crate) fn join(self, other: Span) -> Span {
        Span { start: self.start.min(other.start), end: self.end.max(other.end) }
    }
    /// Whether the two share a byte.
    pub(crate) fn overlaps(self, other: Span) -> bool {
        self.start < other.end && other.start < self.end
    }
}

#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Kind {
    /// A run of letters, lower-cased; an apostrophe inside a word is kept out.
    Word(String),
    /// Digits with an optional decimal part, exact. `None` when too long to hold exactly.
    Number(Option<Ratio<i64>>),
    /// A single written fraction such as ½.
    Fraction(Ratio<i64>),
    /// Any other visible character.
    Sign(char),
}

#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Token {
    pub(crate) kind: Kind,
    pub(crate) span: Span,
    /// No white space stands between this token and the one before.
    pub(crate) glued: bool,
}

impl Token {
    pub(crate) fn word(&self) -> Option<&str> {
        match &self.kind {
            Kind::Word(w) => Some(w),
            _ => None,
        }
    }
    pub(crate) fn sign(&self) -> Option<char> {
        match self.kind {
            Kind::Sign(c) => Some(c),
            _ => None,
        }
    }
    pub(crate) fn number(&self) -> Option<Ratio<i64>> {
        match self.kind {
            Kind::Number(n) => n,
            _ => None,
        }
    }
}

/// Written fractions that keyboards and phones produce.
const VULGAR: [(char, i64, i64); 15] = [
    ('½', 1, 2),
    ('¼', 1, 4),
    ('¾', 3, 4),
    ('⅛', 1, 8),
    ('⅜', 3, 8),
    ('⅝', 5, 8),
    ('⅞', 7, 8),
    ('⅓', 1, 3),
    ('⅔', 2, 3),
    ('⅕', 1, 5),
    ('⅖', 2, 5),
    ('⅗', 3, 5),
    ('⅘', 4, 5),
    ('⅙', 1, 6),
    ('⅚', 5, 6),
];

/// Digits beyond these are not a reading anyone takes on a building, and would not stay exact.
const MOST_INTEGER_DIGITS: usize = 9;
const MOST_DECIMAL_DIGITS: usize = 6;

pub(crate) fn tokens(line: &str) -> Vec<Token> {
    let mut out: Vec<Token> = Vec::new();
    let mut rest = line.char_indices().peekable();
    while let Some((start, c)) = rest.next() {
        if c.is_whitespace() || c.is_control() {
            continue;
        }
        let mut end = start + c.len_utf8();
        let kind = if c.is_ascii_digit() {
            end = number_end(line, start);
            Kind::Number(exact(&line[start..end]))
        } else if let Some(&(_, n, d)) = VULGAR.iter().find(|v| v.0 == c) {
            Kind::Fraction(Ratio::new(n, d))
        } else if c.is_alphabetic() {
            end = line[start..].find(|c: char| !c.is_alphabetic()).map_or(line.len(), |n| start + n);
            Kind::Word(lower_case(&line[start..end]))
        } else {
            Kind::Sign(match c {
                '’' | '′' | '‘' => '\'',
                '“' | '”' | '″' => '"',
                '–' | '—' | '−' => '-',
                '×' => 'x',
                other => other,
            })
        };
        while rest.peek().is_some_and(|&(i, _)| i < end) {
            rest.next();
        }
        let glued = out.last().is_some_and(|t| t.span.end == start);
        out.push(Token { kind, span: Span { start, end }, glued });
    }
    out
}

/// In small letters.
pub(crate) fn lower_case(word: &str) -> String {
    if word.is_ascii() { word.to_ascii_lowercase() } else { word.to_lowercase() }
}

/// Where a run of digits ends: `12`, `6.5`, `1,200`; a full stop or comma at the end is not part of it.
fn number_end(line: &str, start: usize) -> usize {
    let b = line.as_bytes();
    let digits = |mut i: usize| {
        while i < b.len() && b[i].is_ascii_digit() {
            i += 1;
        }
        i
    };
    let mut end = digits(start);
    while end < b.len() && b[end] == b',' && digits(end + 1) == end + 4 {
        end += 4;
    }
    if end < b.len() && b[end] == b'.' && digits(end + 1) > end + 1 {
        end = digits(end + 1);
    }
    end
}

fn exact(digits: &str) -> Option<Ratio<i64>> {
    let plain = digits.replace(',', "");
    let (whole, part) = plain.split_once('.').unwrap_or((&plain, ""));
    if whole.len() > MOST_INTEGER_DIGITS || part.len() > MOST_DECIMAL_DIGITS {
        return None;
    }
    let denominator = 10_i64.pow(part.len() as u32);
    let numerator: i64 = format!("{whole}{part}").parse().ok()?;
    Some(Ratio::new(numerator, denominator))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_token_is_where_it_says() {
        let line = "gtr 6½\" at N — 1,200 mm, 3.5% schräg 你好";
        let words: Vec<&str> = tokens(line).iter().map(|t| &line[t.span.start..t.span.end]).collect();
        assert_eq!(words, ["gtr", "6", "½", "\"", "at", "N", "—", "1,200", "mm", ",", "3.5", "%", "schräg", "你好"]);
    }

    #[test]
    fn a_number_too_long_to_hold_exactly_is_marked() {
        assert_eq!(tokens("12345678901234")[0].kind, Kind::Number(None));
        assert_eq!(tokens("0.1")[0].number(), Some(Ratio::new(1, 10)));
    }
}
