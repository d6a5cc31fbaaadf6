//! Exact numbers: decimals, fractions and number words, read without rounding.

use crate::text::{Kind, Span, Token};
use num_rational::Ratio;
use num_traits::ToPrimitive;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use std::fmt;
use std::sync::LazyLock;

/// An exact fraction of two whole numbers, written `13/2` (or `6` when whole).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Exact(pub(crate) Ratio<i64>);

impl Exact {
    /// Builds a fraction; `None` when the denominator is nought.
    pub fn new(numerator: i64, denominator: i64) -> Option<Exact> {
        (denominator != 0).then(|| Exact(Ratio::new(numerator, denominator)))
    }
    /// The nearest floating-point number.
    pub fn to_f64(self) -> f64 {
        self.0.to_f64().unwrap_or(f64::NAN)
    }
}

impl fmt::Display for Exact {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(&self.0, f)
    }
}

impl Serialize for Exact {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Exact {
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let text = String::deserialize(d)?;
        let (n, m) = text.split_once('/').unwrap_or((&text, "1"));
        match (n.parse(), m.parse()) {
            (Ok(n), Ok(m)) => Exact::new(n, m),
            _ => None,
        }
        .ok_or_else(|| serde::de::Error::custom(format!("\"{text}\" is not a fraction such as 13/2")))
    }
}

#[cfg(feature = "schema")]
impl utoipa::PartialSchema for Exact {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        <String as utoipa::PartialSchema>::schema()
    }
}
#[cfg(feature = "schema")]
impl utoipa::ToSchema for Exact {}

/// A number found in the line, and the index of the token after it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Number {
    pub(super) value: Ratio<i64>,
    pub(super) next: usize,
    pub(super) span: Span,
    /// Written with a fraction of a power of two, as a tape is read: such a number without a unit means inches.
    pub(super) tape_fraction: bool,
    /// Said in words; such a number needs a unit to be a reading ("one", "half").
    pub(super) in_words: bool,
    /// Exactly `a/b`, whose `b` may be the 12 of a pitch.
    pub(super) bare_fraction: Option<(i64, i64)>,
    /// A loose word for a number: "a couple", "a few".
    pub(super) loose: bool,
    /// A dozen counts things by itself.
    pub(super) dozen: bool,
}

const ONES: [(&str, i64); 28] = [
    ("zero", 0),
    ("one", 1),
    ("two", 2),
    ("three", 3),
    ("four", 4),
    ("five", 5),
    ("six", 6),
    ("seven", 7),
    ("eight", 8),
    ("nine", 9),
    ("ten", 10),
    ("eleven", 11),
    ("twelve", 12),
    ("thirteen", 13),
    ("fourteen", 14),
    ("fifteen", 15),
    ("sixteen", 16),
    ("seventeen", 17),
    ("eighteen", 18),
    ("nineteen", 19),
    ("twenty", 20),
    ("thirty", 30),
    ("forty", 40),
    ("fifty", 50),
    ("sixty", 60),
    ("seventy", 70),
    ("eighty", 80),
    ("ninety", 90),
];

const PARTS: [(&str, i64); 14] = [
    ("half", 2),
    ("halves", 2),
    ("quarter", 4),
    ("quarters", 4),
    ("eighth", 8),
    ("eighths", 8),
    ("sixteenth", 16),
    ("sixteenths", 16),
    ("third", 3),
    ("thirds", 3),
    ("fifth", 5),
    ("fifths", 5),
    ("thirty-second", 32),
    ("sixty-fourth", 64),
];

pub(super) fn word_value(word: &str) -> Option<i64> {
    static ALL: LazyLock<FxHashMap<&str, i64>> = LazyLock::new(|| ONES.into_iter().collect());
    ALL.get(word).copied()
}

fn part_value(word: &str) -> Option<i64> {
    static ALL: LazyLock<FxHashMap<&str, i64>> = LazyLock::new(|| PARTS.into_iter().collect());
    ALL.get(word).copied()
}

/// Reads a number that starts at token `i`.
pub(super) fn read(t: &[Token], i: usize) -> Option<Number> {
    match &t.get(i)?.kind {
        Kind::Number(Some(n)) => digits(t, i, *n),
        Kind::Number(None) => None,
        Kind::Fraction(f) => Some(Number {
            value: *f,
            next: i + 1,
            span: t[i].span,
            tape_fraction: on_a_tape(*f.denom()),
            in_words: false,
            bare_fraction: None,
            loose: false,
            dozen: false,
        }),
        Kind::Word(_) => words(t, i),
        Kind::Sign(_) => None,
    }
}

fn on_a_tape(denominator: i64) -> bool {
    matches!(denominator, 2 | 4 | 8 | 16 | 32 | 64)
}

fn slash_fraction(t: &[Token], i: usize) -> Option<(i64, i64)> {
    let (n, slash, d) = (t.get(i)?.number()?, t.get(i + 1)?.sign()?, t.get(i + 2)?.number()?);
    (slash == '/' && t[i + 1].glued && t[i + 2].glued && n.is_integer() && d.is_integer() && *d.numer() != 0)
        .then(|| (*n.numer(), *d.numer()))
}

fn digits(t: &[Token], i: usize, n: Ratio<i64>) -> Option<Number> {
    let plain = |value, next: usize, tape, bare| Number {
        value,
        next,
        span: t[i].span.join(t[next - 1].span),
        tape_fraction: tape,
        in_words: false,
        bare_fraction: bare,
        loose: false,
        dozen: false,
    };
    if let Some((a, b)) = slash_fraction(t, i) {
        return Some(plain(Ratio::new(a, b), i + 3, on_a_tape(b) && a < b, Some((a, b))));
    }
    // 6 1/2, 6-1/2, 6½: the fraction must be less than one, or it is another number.
    let hyphen = usize::from(t.get(i + 1).is_some_and(|s| s.sign() == Some('-') && s.glued));
    if n.is_integer() {
        if let Some((a, b)) = slash_fraction(t, i + 1 + hyphen).filter(|(a, b)| a < b && on_a_tape(*b)) {
            return Some(plain(n + Ratio::new(a, b), i + 4 + hyphen, true, None));
        }
        if let Some(Kind::Fraction(f)) = t.get(i + 1).map(|t| &t.kind) {
            return Some(plain(n + f, i + 2, on_a_tape(*f.denom()), None));
        }
        // "6 and a half"
        if let Some((f, next)) = and_a_part(t, i + 1) {
            return Some(plain(n + f, next, true, None));
        }
    }
    Some(plain(n, i + 1, false, None))
}

/// `and a half`, `and three quarters` from token `i`.
pub(super) fn and_a_part(t: &[Token], i: usize) -> Option<(Ratio<i64>, usize)> {
    (t.get(i)?.word()? == "and").then_some(())?;
    let (f, next) = part_phrase(t, i + 1)?;
    Some((f, next))
}

/// `half`, `a quarter`, `three quarters`, `five-eighths`, `a thirty-second`.
fn part_phrase(t: &[Token], i: usize) -> Option<(Ratio<i64>, usize)> {
    let first = t.get(i)?.word()?;
    let (count, mut j) = match first {
        "a" | "an" => (1, i + 1),
        w => match word_value(w).filter(|n| (1..=15).contains(n)) {
            Some(n) => (n, i + 1),
            None => (1, i),
        },
    };
    if t.get(j).and_then(Token::sign) == Some('-') {
        j += 1;
    }
    let word = t.get(j)?.word()?;
    // "thirty-second" and "sixty-fourth" are three tokens
    if let (Some('-'), Some(second)) = (t.get(j + 1).and_then(Token::sign), t.get(j + 2).and_then(Token::word))
        && let Some(d) = part_value(&format!("{word}-{}", second.trim_end_matches('s')))
    {
        return Some((Ratio::new(count, d), j + 3));
    }
    Some((Ratio::new(count, part_value(word)?), j + 1))
}

/// A whole number that starts at token `i`, in digits or in words, and the index after it.
pub(crate) fn whole_number(t: &[Token], i: usize) -> Option<(i64, usize)> {
    let n = read(t, i).filter(|n| n.value.is_integer() && !n.loose)?;
    Some((*n.value.numer(), n.next))
}

fn words(t: &[Token], i: usize) -> Option<Number> {
    let said = |value, next: usize, tape| Number {
        value,
        next,
        span: t[i].span.join(t[next - 1].span),
        tape_fraction: tape,
        in_words: true,
        bare_fraction: None,
        loose: false,
        dozen: false,
    };
    if let Some((value, next)) = dozen(t, i) {
        return Some(Number { dozen: true, ..said(value, next, false) });
    }
    if let Some((value, next)) = loose(t, i) {
        return Some(Number { loose: true, ..said(value, next, false) });
    }
    if let Some((f, next)) = part_phrase(t, i) {
        return Some(said(f, next, true));
    }
    let (whole, mut next) = cardinal(t, i)?;
    let mut value = Ratio::from_integer(whole);
    // "two point four", "zero point two five"
    if t.get(next).and_then(Token::word) == Some("point") {
        let digit = |j: usize| t.get(j).and_then(Token::word).and_then(word_value).filter(|d| *d < 10);
        let mut place = 10;
        let mut at = next + 1;
        while let Some(d) = digit(at).filter(|_| place <= 10_000) {
            value += Ratio::new(d, place);
            place *= 10;
            at += 1;
            next = at;
        }
    }
    if let Some((f, after)) = and_a_part(t, next) {
        value += f;
        next = after;
    }
    Some(said(value, next, false))
}

/// `a dozen`, `half a dozen`, `two dozen`.
fn dozen(t: &[Token], i: usize) -> Option<(Ratio<i64>, usize)> {
    let w = |j: usize| t.get(j).and_then(Token::word);
    let (count, at) = match (w(i)?, w(i + 1)) {
        ("half", Some("a")) => (Ratio::new(1, 2), i + 2),
        ("a" | "one", _) => (Ratio::from_integer(1), i + 1),
        ("dozen", _) => (Ratio::from_integer(1), i),
        (n, _) => (Ratio::from_integer(word_value(n)?), i + 1),
    };
    matches!(w(at)?, "dozen").then(|| (count * 12, at + 1))
}

/// `a couple of`, `couple`, `a few`: said for about two and about three, and a reading only before a unit.
fn loose(t: &[Token], i: usize) -> Option<(Ratio<i64>, usize)> {
    let w = |j: usize| t.get(j).and_then(Token::word);
    let at = i + usize::from(w(i) == Some("a"));
    let value = match w(at)? {
        "couple" => 2,
        "few" if at > i => 3,
        _ => return None,
    };
    let of = usize::from(w(at + 1) == Some("of"));
    Some((Ratio::from_integer(value), at + 1 + of))
}

/// `seven`, `twenty-five`, `a hundred and ten`, `three thousand`.
pub(super) fn cardinal(t: &[Token], i: usize) -> Option<(i64, usize)> {
    let w = |j: usize| t.get(j).and_then(Token::word);
    let scale = |j: usize| match w(j) {
        Some("hundred") => Some(100),
        Some("thousand") => Some(1000),
        _ => None,
    };
    let (mut value, mut next) = match below_hundred(t, i) {
        Some(found) => found,
        None if matches!(w(i), Some("a" | "one")) && scale(i + 1).is_some() => (1, i + 1),
        None => return None,
    };
    let mut scaled = false;
    while let Some(by) = scale(next) {
        value *= by;
        next += 1;
        scaled = true;
    }
    if scaled {
        let and = usize::from(w(next) == Some("and"));
        // "a hundred and a half" is not a hundred and one
        if let Some((more, after)) = below_hundred(t, next + and) {
            let (more, after) = if scale(after) == Some(100) { (more * 100, after + 1) } else { (more, after) };
            if more < value {
                value += more;
                next = after;
            }
        }
    }
    Some((value, next))
}

fn below_hundred(t: &[Token], i: usize) -> Option<(i64, usize)> {
    let value = word_value(t.get(i)?.word()?)?;
    // "twenty five", "twenty-five"
    let hyphen = usize::from(t.get(i + 1).is_some_and(|s| s.sign() == Some('-') && s.glued));
    if (20..100).contains(&value)
        && let Some(ones) = t.get(i + 1 + hyphen).and_then(Token::word).and_then(word_value).filter(|n| (1..10).contains(n))
    {
        return Some((value + ones, i + 2 + hyphen));
    }
    Some((value, i + 1))
}
