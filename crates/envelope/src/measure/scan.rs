//! Finding measures inside a sentence.

use super::number::{self, Number};
use super::unit::{self, Quantity, Unit};
use super::{Bound, Exact, Measure, Upper};
use crate::text::{self, Span, Token};
use num_rational::Ratio;
use num_traits::{CheckedAdd, CheckedMul, Signed, Zero};

/// A measure and where it stands in the text.
#[derive(Debug, Clone, PartialEq)]
pub struct Found {
    /// Bytes of the text.
    pub span: Span,
    /// What was read there.
    pub measure: Measure,
    /// A figure of speech ("hairline", "two fingers"): an estimate, whose words may mean something else besides.
    pub idiom: bool,
}

/// Every measure in a text, in order. Numbers without a unit are left alone, except where the way they are written
/// says the unit: `1/16` and `6 1/2` are inches, `6:12` is a pitch, `4 of 9` is a count.
pub fn scan(line: &str) -> Vec<Found> {
    scan_tokens(line, &text::tokens(line))
}

pub(crate) fn scan_tokens(line: &str, t: &[Token]) -> Vec<Found> {
    let mut out = Vec::new();
    let mut i = 0;
    while i < t.len() {
        match one(line, t, i) {
            Some((found, next)) => {
                out.push(found);
                i = next;
            }
            None => i += 1,
        }
    }
    out
}

/// Signs and words that make a number money, which is never a measure.
fn is_money(t: &[Token], i: usize, after: usize) -> bool {
    let before = i.checked_sub(1).and_then(|b| t[b].sign()).is_some_and(|c| matches!(c, '$' | '£' | '€' | '¥'));
    before
        || t.get(after).is_some_and(|x| {
            matches!(x.word(), Some("dollars" | "dollar" | "bucks" | "buck" | "euros" | "pounds" | "grand" | "k" | "cents"))
                || matches!(x.sign(), Some('$' | '£' | '€'))
        })
}

/// Words that say the figure ahead is what ought to be.
const RULE_CUES: [&str; 17] = [
    "should", "shouldn", "supposed", "minimum", "maximum", "required", "needs", "ideal", "requires", "need", "like", "want", "wants",
    "standard", "thumb", "closer", "book",
];
/// Words that say the figure ahead is what is.
const READING_CUES: [&str; 6] = ["is", "only", "got", "reads", "measures", "have"];

fn is_rule(t: &[Token], i: usize) -> bool {
    for token in t[i.saturating_sub(5)..i].iter().rev() {
        match token.word() {
            Some(w) if RULE_CUES.contains(&w) => return true,
            Some(w) if READING_CUES.contains(&w) => return false,
            _ if token.sign() == Some(',') => return false,
            _ => {}
        }
    }
    false
}

/// A qualifier just before token `i`: how sharp, and where it starts.
fn bound_before(t: &[Token], i: usize) -> (Bound, usize) {
    let w = |back: usize| i.checked_sub(back).and_then(|j| t[j].word());
    if let Some(j) = i.checked_sub(1) {
        match t[j].sign() {
            Some('~') => return (Bound::About, j),
            Some('<') => return (Bound::AtMost, j),
            Some('>') => return (Bound::AtLeast, j),
            _ => {}
        }
    }
    match (w(3), w(2), w(1)) {
        (Some("no" | "not"), Some("more" | "over"), Some("than")) => (Bound::AtMost, i - 3),
        (_, Some("at"), Some("least")) | (_, Some("more" | "better" | "greater"), Some("than")) | (_, Some("north"), Some("of")) => {
            (Bound::AtLeast, i - 2)
        }
        (_, Some("at"), Some("most"))
        | (_, Some("up"), Some("to"))
        | (_, Some("less"), Some("than"))
        | (_, Some("not"), Some("even" | "quite")) => (Bound::AtMost, i - 2),
        (_, Some("close"), Some("to")) | (_, Some("call"), Some("it")) => (Bound::About, i - 2),
        (_, Some("a"), Some("good")) => (Bound::AtLeast, i - 2),
        (
            _,
            _,
            Some(
                "about" | "around" | "roughly" | "approximately" | "approx" | "almost" | "nearly" | "circa" | "maybe" | "ballpark"
                | "barely",
            ),
        ) => (Bound::About, i - 1),
        // "12 mm over 7.5 m" is a run, not a bound.
        (_, _, Some("over")) if i >= 2 && (t[i - 2].number().is_some() || unit::read(t, i - 2).is_some()) => (Bound::Exactly, i),
        (_, _, Some("over")) => (Bound::AtLeast, i - 1),
        (_, _, Some("under" | "within")) => (Bound::AtMost, i - 1),
        _ => (Bound::Exactly, i),
    }
}

/// A qualifier that stands behind: "or so", "give or take", "-ish", "plus".
fn bound_after(t: &[Token], next: usize) -> Option<(Bound, usize)> {
    let w = |j: usize| t.get(j).and_then(Token::word);
    match (w(next), w(next + 1), w(next + 2)) {
        (Some("or"), Some("so"), _) => Some((Bound::About, next + 2)),
        (Some("or"), Some("more" | "better"), _) | (Some("at"), Some("least"), _) => Some((Bound::AtLeast, next + 2)),
        (Some("or"), Some("less"), _) | (Some("at"), Some("most"), _) => Some((Bound::AtMost, next + 2)),
        (Some("give"), Some("or"), Some("take")) => Some((Bound::About, next + 3)),
        (Some("ish"), _, _) => Some((Bound::About, next + 1)),
        (Some("plus"), _, _) => Some((Bound::AtLeast, next + 1)),
        _ if t.get(next)?.sign() == Some('-') && w(next + 1) == Some("ish") => Some((Bound::About, next + 2)),
        _ => None,
    }
}

/// Sizes named by what is at hand. Rule of practice; each is an estimate.
const IDIOMS: [(&[&str], Bound, i64, i64, Unit); 17] = [
    (&["hairline"], Bound::AtMost, 1, 64, Unit::Inch),
    (&["credit", "card"], Bound::About, 1, 32, Unit::Inch),
    (&["business", "card"], Bound::About, 1, 32, Unit::Inch),
    (&["coin", "thick"], Bound::About, 1, 16, Unit::Inch),
    (&["pencil", "wide"], Bound::About, 1, 4, Unit::Inch),
    (&["pencil", "fits"], Bound::About, 1, 4, Unit::Inch),
    (&["finger", "wide"], Bound::About, 3, 4, Unit::Inch),
    (&["fits", "a", "finger"], Bound::About, 3, 4, Unit::Inch),
    (&["two", "fingers"], Bound::About, 3, 2, Unit::Inch),
    (&["three", "fingers"], Bound::About, 9, 4, Unit::Inch),
    (&["hand", "wide"], Bound::About, 4, 1, Unit::Inch),
    (&["hand", "span"], Bound::About, 8, 1, Unit::Inch),
    (&["hand", "s", "span"], Bound::About, 8, 1, Unit::Inch),
    (&["arm", "s", "length"], Bound::About, 2, 1, Unit::Foot),
    (&["a", "stride"], Bound::About, 5, 2, Unit::Foot),
    (&["plate", "sized"], Bound::About, 10, 1, Unit::Inch),
    (&["dinner", "plate"], Bound::About, 10, 1, Unit::Inch),
];

fn idiom(line: &str, t: &[Token], i: usize) -> Option<(Found, usize)> {
    for (words, bound, n, d, unit) in IDIOMS {
        let mut at = i;
        let fits = words.iter().all(|w| {
            // "plate-sized" and "arm's length"
            let apostrophe = t.get(at).is_some_and(|x| x.sign() == Some('\''));
            at += usize::from(at > i && (apostrophe || t.get(at).is_some_and(|x| x.sign() == Some('-'))));
            let here = t.get(at).and_then(Token::word) == Some(w);
            at += 1;
            here
        });
        if fits {
            let span = t[i].span.join(t[at - 1].span);
            let measure = build(Ratio::new(n, d), None, unit, bound, true, false, &line[span.start..span.end])?;
            return Some((Found { span, measure, idiom: true }, at));
        }
    }
    None
}

struct Reading {
    value: Ratio<i64>,
    upper: Option<Ratio<i64>>,
    unit: Unit,
    assumed: bool,
    loose: bool,
    next: usize,
}

fn one(line: &str, t: &[Token], i: usize) -> Option<(Found, usize)> {
    // 5/0: the lower half of a fraction that cannot be is no number by itself
    if i > 0 && t[i].glued && t[i - 1].sign() == Some('/') && t[i].number().is_some() {
        return None;
    }
    let glued_into_word = t[i].glued && i > 0 && t[i - 1].word().is_some() && t[i].number().is_some();
    if glued_into_word {
        return None; // R30, W2: a name, not a number
    }
    if let Some(found) = idiom(line, t, i) {
        return Some(found);
    }
    let negative = t[i].word() == Some("minus") && t.get(i + 1).is_some_and(|n| n.number().is_some())
        || t[i].sign() == Some('-') && t.get(i + 1).is_some_and(|n| n.glued && n.number().is_some()) && (i == 0 || !t[i].glued);
    let first = if negative { i + 1 } else { i };
    let mut r = reading(t, first).or_else(|| on_a_scale(t, i, first))?;
    if is_money(t, first, r.next) {
        return None;
    }
    if negative {
        r.value = -r.value;
    }
    let (mut bound, from) = bound_before(t, i);
    if let Some((after, next)) = bound_after(t, r.next).filter(|_| bound == Bound::Exactly) {
        bound = after;
        r.next = next;
    }
    if r.loose && bound == Bound::Exactly {
        bound = Bound::About;
    }
    let span = t[from].span.join(t[r.next - 1].span);
    let measure = build(r.value, r.upper, r.unit, bound, r.assumed, is_rule(t, from), &line[span.start..span.end])?;
    Some((Found { span, measure, idiom: false }, r.next))
}

fn build(value: Ratio<i64>, upper: Option<Ratio<i64>>, unit: Unit, bound: Bound, assumed: bool, rule: bool, text: &str) -> Option<Measure> {
    // A range said backwards ("10 to 8") is put in order rather than refused.
    let (value, upper) = match upper {
        Some(u) if u < value => (u, Some(value)),
        other => (value, other),
    };
    let si = unit.to_si(value);
    si.is_finite().then(|| Measure {
        quantity: unit.quantity(),
        value: Exact(value).to_f64(),
        exact: Exact(value),
        unit,
        si,
        upper: upper.map(|u| Upper { value: Exact(u).to_f64(), exact: Exact(u), si: unit.to_si(u) }),
        bound,
        unit_assumed: assumed,
        rule,
        text: text.to_owned(),
    })
}

fn reading(t: &[Token], i: usize) -> Option<Reading> {
    let one = Ratio::from_integer(1);
    let whole = |value, unit, next| Some(Reading { value, upper: None, unit, assumed: false, loose: false, next });
    if t[i].word().is_some()
        && let Some((unit, next)) = unit::read(t, i)
    {
        // "inch and a quarter", "foot and a half", "inch a foot"
        return match unit.quantity() {
            Quantity::Length => number::and_a_part(t, next).and_then(|(part, after)| whole(one + part, unit, after)),
            Quantity::Slope => whole(one, unit, next),
            _ => None,
        };
    }
    // "an inch", "a foot": not "a meter", which may hang on the wall, nor "a yard", which may lie behind it
    if matches!(t[i].word(), Some("a" | "an")) && matches!(t.get(i + 1).and_then(Token::word), Some("inch" | "foot" | "metre")) {
        let (unit, next) = unit::read(t, i + 1)?;
        return match number::and_a_part(t, next).filter(|_| unit.quantity() == Quantity::Length) {
            Some((part, after)) => whole(one + part, unit, after),
            None => whole(one, unit, next),
        };
    }
    let n = number::read(t, i)?;
    let mut found = figure(t, i, &n)?;
    found.loose = n.loose;
    Some(found)
}

fn figure(t: &[Token], i: usize, n: &Number) -> Option<Reading> {
    if n.dozen && unit::read(t, n.next).is_none() {
        return Some(Reading { value: n.value, upper: None, unit: Unit::Each, assumed: true, loose: false, next: n.next });
    }
    pitch(t, i, n)
        .or_else(|| count_of(t, n))
        .or_else(|| area(t, n))
        .or_else(|| range(t, n))
        .or_else(|| feet_and_inches(t, n))
        .or_else(|| fall_in_a_run(t, n))
        .or_else(|| with_unit(t, n))
        .or_else(|| tape(t, n))
}

/// `half an inch in ten feet`, `20 mm in 3 m`: a small length in a long one is a slope.
fn fall_in_a_run(t: &[Token], n: &Number) -> Option<Reading> {
    let drop = with_unit(t, n).filter(|d| matches!(d.unit, Unit::Inch | Unit::Millimetre | Unit::Centimetre))?;
    (t.get(drop.next)?.word() == Some("in")).then_some(())?;
    let run_number = number::read(t, drop.next + 1)?;
    let run = with_unit(t, &run_number).filter(|r| matches!(r.unit, Unit::Foot | Unit::Metre))?;
    let in_units = |v: Ratio<i64>, u: Unit| -> Option<Ratio<i64>> { v.checked_mul(&u.exact_factor()) };
    let run_si = in_units(run.value, run.unit).filter(|r| !r.is_zero())?;
    let value = in_units(drop.value, drop.unit)? / run_si;
    Some(Reading { value, upper: None, unit: Unit::RiseOverRun, assumed: false, loose: false, next: run.next })
}

/// `reads 18`, `relative 60`, `delta of five`: a bare number behind a word for an instrument.
fn on_a_scale(t: &[Token], i: usize, first: usize) -> Option<Reading> {
    let w = |back: usize| i.checked_sub(back).and_then(|j| t[j].word());
    let cue = matches!(w(1), Some("reads" | "reading" | "relative"))
        || matches!((w(2), w(1)), (Some("reading" | "delta"), Some("of")) | (Some("meter"), Some("says")));
    let n = if cue { number::read(t, first)? } else { return None };
    (!n.tape_fraction).then_some(Reading { value: n.value, upper: None, unit: Unit::Scale, assumed: true, loose: false, next: n.next })
}

/// `6:12`, `6/12`, `4 in 12`, `1:40`.
fn pitch(t: &[Token], i: usize, n: &Number) -> Option<Reading> {
    let twelve = Ratio::from_integer(12);
    let slope = |rise: Ratio<i64>, run: Ratio<i64>, next| {
        (!run.is_zero()).then(|| {
            if run == twelve {
                Reading { value: rise, upper: None, unit: Unit::Pitch, assumed: false, loose: false, next }
            } else {
                Reading { value: rise / run, upper: None, unit: Unit::RiseOverRun, assumed: false, loose: false, next }
            }
        })
    };
    if let Some((rise, 12)) = n.bare_fraction {
        return unit::read(t, n.next).is_none().then(|| slope(Ratio::from_integer(rise), twelve, n.next)).flatten();
    }
    if t.get(n.next)?.sign() == Some(':') && t[n.next].glued {
        let run = number::read(t, n.next + 1).filter(|_| t[n.next + 1].glued)?;
        // 1:40 is a fall, 6:12 a pitch; 10:30 and 2:45 pm are clock times
        let after = t.get(run.next).and_then(Token::word);
        let clock = matches!(after, Some("am" | "pm" | "o")) || (run.value != twelve && n.value != Ratio::from_integer(1));
        return if clock { None } else { slope(n.value, run.value, run.next) };
    }
    if t.get(n.next).and_then(Token::word) == Some("pitch") && n.value <= Ratio::from_integer(24) {
        return slope(n.value, twelve, n.next + 1);
    }
    if n.in_words && t.get(n.next)?.word() == Some("twelve") && n.value < twelve && unit::read(t, n.next + 1).is_none() {
        return slope(n.value, twelve, n.next + 1);
    }
    if t.get(n.next)?.word() == Some("in") {
        let run = number::read(t, n.next + 1).filter(|r| r.value == twelve && r.bare_fraction.is_none())?;
        return (i < n.next).then(|| slope(n.value, twelve, run.next)).flatten();
    }
    None
}

/// `4 of 9`, `two of nine`, `four out of nine`.
fn count_of(t: &[Token], n: &Number) -> Option<Reading> {
    let mut j = n.next;
    if t.get(j)?.word() == Some("out") {
        j += 1;
    }
    let whole = |v: &Ratio<i64>| v.is_integer() && !v.is_negative();
    (t.get(j)?.word() == Some("of") && whole(&n.value)).then_some(())?;
    let total = number::read(t, j + 1).filter(|m| whole(&m.value) && m.value >= n.value)?;
    unit::read(t, total.next).is_none().then_some(Reading {
        value: n.value,
        upper: None,
        unit: Unit::Each,
        assumed: false,
        loose: false,
        next: total.next,
    })
}

/// `2x4 ft`, `2 ft x 4 ft`, `two by four feet`. A tape fraction in front (`1/16 x 4'`) is a width and a length, two measures.
fn area(t: &[Token], n: &Number) -> Option<Reading> {
    let own = unit::read(t, n.next).filter(|(u, _)| u.squared().is_some());
    let by = own.map_or(n.next, |(_, j)| j);
    let is_by = t.get(by).is_some_and(|x| x.sign() == Some('x') || matches!(x.word(), Some("x" | "by")));
    (is_by && !(n.tape_fraction && own.is_none())).then_some(())?;
    let second = number::read(t, by + 1)?;
    let Some((unit, next)) = unit::read(t, second.next) else { return bare_patch(t, n, &second, own.is_none()) };
    let square = unit.squared()?;
    if own.is_some_and(|(u, _)| u != unit) {
        return None;
    }
    Some(Reading { value: n.value.checked_mul(&second.value)?, upper: None, unit: square, assumed: false, loose: false, next })
}

/// `six by six` of something that is not timber: inches while small, feet from ten on; marked as assumed.
fn bare_patch(t: &[Token], n: &Number, second: &Number, bare: bool) -> Option<Reading> {
    const TIMBER: [&str; 13] =
        ["lumber", "stud", "studs", "sister", "sistered", "post", "posts", "joist", "joists", "rafter", "rafters", "timber", "board"];
    let timber = (second.next..t.len().min(second.next + 3)).any(|j| t[j].word().is_some_and(|w| TIMBER.contains(&w)));
    let ten = Ratio::from_integer(10);
    let dimension = n.value == Ratio::from_integer(2) && second.value >= Ratio::from_integer(3);
    (bare && n.in_words && second.in_words && !timber && !dimension).then_some(())?;
    let unit = if n.value >= ten && second.value >= ten { Unit::SquareFoot } else { Unit::SquareInch };
    Some(Reading { value: n.value.checked_mul(&second.value)?, upper: None, unit, assumed: true, loose: false, next: second.next })
}

/// `10 to 13 years`, `8-10 in`, `eight or ten inches`, `between 5 and 6 in`.
fn range(t: &[Token], n: &Number) -> Option<Reading> {
    // the unit may stand after the first number too: 8 in to 10 in
    let own = unit::read(t, n.next).filter(|(_, j)| t.get(*j).is_some_and(|x| x.word() == Some("to")));
    let link = own.map_or(n.next, |(_, j)| j);
    let x = t.get(link)?;
    let between = n.span.start > 0 && t.iter().take_while(|p| p.span.end <= n.span.start).last().and_then(Token::word) == Some("between");
    let mut linked = x.sign() == Some('-') || matches!(x.word(), Some("to" | "or")) || (between && x.word() == Some("and"));
    // "five, six inches": two neighbouring numbers with a pause
    let pause = own.is_none() && (x.sign() == Some(',') || n.in_words && x.word().and_then(number::word_value).is_some());
    let link = if x.word().is_some() && pause { link.wrapping_sub(1) } else { link };
    let upper = number::read(t, link.wrapping_add(1))?;
    let step = upper.value - n.value;
    let five = Ratio::from_integer(5);
    linked |= pause && !upper.tape_fraction && (step == Ratio::from_integer(1) || step == five && n.value >= five);
    linked.then_some(())?;
    let (unit, next) = match unit::read(t, upper.next) {
        Some(found) => found,
        None if upper.tape_fraction && n.tape_fraction => {
            return Some(Reading {
                value: n.value,
                upper: Some(upper.value),
                unit: Unit::Inch,
                assumed: true,
                loose: false,
                next: upper.next,
            });
        }
        None => return None,
    };
    Some(Reading { value: n.value, upper: Some(upper.value), unit, assumed: false, loose: false, next })
}

/// `3'4"`, `3 ft 4 1/2 in`, `three foot four`.
fn feet_and_inches(t: &[Token], n: &Number) -> Option<Reading> {
    let (_, after) = unit::read(t, n.next).filter(|(u, _)| *u == Unit::Foot)?;
    let dash = usize::from(t.get(after).and_then(Token::sign) == Some('-'));
    let inches = number::read(t, after + dash).filter(|m| m.value < Ratio::from_integer(12))?;
    let next = match unit::read(t, inches.next) {
        Some((Unit::Inch, next)) => next,
        // "three foot four": only said in words, a digit would start another measure
        None if n.in_words && inches.in_words => inches.next,
        None if inches.tape_fraction || t[n.next].sign() == Some('\'') && t[after].glued => inches.next,
        _ => return None,
    };
    let total = n.value.checked_mul(&Ratio::from_integer(12))?.checked_add(&inches.value)?;
    Some(Reading { value: total, upper: None, unit: Unit::Inch, assumed: false, loose: false, next })
}

fn with_unit(t: &[Token], n: &Number) -> Option<Reading> {
    // "half an inch", "a quarter of an inch"
    let mut at = n.next;
    if n.in_words {
        let w = |j: usize| t.get(j).and_then(Token::word);
        if w(at) == Some("of") && matches!(w(at + 1), Some("a" | "an")) {
            at += 2;
        } else if matches!(w(at), Some("a" | "an")) {
            at += 1;
        }
    }
    let (unit, next) = unit::read(t, at)?;
    // "3 in the test square", "2 in total": the preposition, not the unit.
    let preposition = matches!(
        t.get(next).and_then(Token::word),
        Some("the" | "a" | "an" | "this" | "that" | "each" | "all" | "total" | "every" | "one")
    );
    if t[at].word() == Some("in") && preposition {
        return None;
    }
    // "two in garage": after a number in words, "in" is taken for the preposition.
    if n.in_words && t[at].word() == Some("in") {
        return None;
    }
    // "one second", "first of two": a word number with a time that is an ordinal is not a reading
    if n.in_words && matches!(t[at].word(), Some("second" | "square" | "each")) {
        return None;
    }
    Some(Reading { value: n.value, upper: None, unit, assumed: false, loose: false, next })
}

/// A number written as a tape is read, without a unit: inches. Said in words only eighths and finer, since a half and a
/// quarter may be of anything.
fn tape(t: &[Token], n: &Number) -> Option<Reading> {
    let of = t.get(n.next).and_then(Token::word) == Some("of");
    let fine = n.in_words && *n.value.denom() >= 8 && !of;
    (n.tape_fraction && (!n.in_words || fine)).then_some(Reading {
        value: n.value,
        upper: None,
        unit: Unit::Inch,
        assumed: true,
        loose: false,
        next: n.next,
    })
}
