//! A count that was told: "north slope, eight in the square, biggest an inch". And marks drawn on a picture, taken as the hits of a square.

use super::record::{HitKept, HowSeen, MarkKind, SquareKept, StormVisit};
use super::square::{MOST_HITS, mark_size};
use crate::measure::{self, Quantity};
use crate::roof::account::Account;
use crate::round::{Note, PictureMark, Shape};
use crate::site::Face;
use crate::text::{self, Token};
use serde::{Deserialize, Serialize};

/// A square's count as it was said.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SquareSaid {
    /// How many hits.
    pub hits: u32,
    /// The largest of them, as said; empty when nothing was said of it.
    pub largest: String,
}

/// A count that was said and stands in no square yet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SaidCount {
    /// The note.
    pub note_id: String,
    /// Its words.
    pub text: String,
    /// What it says.
    pub said: SquareSaid,
    /// The square it belongs to; none while none waits on that side.
    pub square: Option<String>,
}

/// What stands before a square that is a place; "per square" is a rate, "a square" a price, "is square" a shape.
const PLACE_BEFORE: [&str; 8] = ["the", "test", "this", "that", "my", "foot", "hail", "same"];
/// What makes a square a measure or a cut.
const NO_PLACE_AFTER: [&str; 12] = ["feet", "foot", "ft", "metres", "meters", "metre", "meter", "m", "inch", "inches", "yards", "cut"];
/// A count is a count: with one of these before it, it is a guess.
const GUESSED: [&str; 12] =
    ["about", "roughly", "around", "maybe", "perhaps", "probably", "nearly", "almost", "over", "under", "least", "than"];
const GUESSED_AFTER: [&str; 5] = ["or", "odd", "ish", "plus", "to"];
const NONE_THERE: [&str; 4] = ["none", "nothing", "zero", "nil"];
/// "The biggest one" is no count.
const ONE_OF_THEM: [&str; 8] = ["biggest", "largest", "this", "that", "the", "every", "each", "no"];
/// What a hit is called.
const HITS: [&str; 12] =
    ["hit", "hits", "bruise", "bruises", "mark", "marks", "dent", "dents", "strike", "strikes", "fracture", "fractures"];

fn word(t: &[Token], i: usize) -> Option<&str> {
    t.get(i).and_then(Token::word)
}

/// Reads a count of one test square. A guess, a rate, an area, or two counts at once are none.
#[must_use]
pub fn square_said(line: &str) -> Option<SquareSaid> {
    let t = text::tokens(line);
    let before = |i: usize, k: usize| i.checked_sub(k).and_then(|b| word(&t, b));
    let at = (0..t.len()).find(|&i| {
        let placed = i == 0 || t[i - 1].word().is_none() || before(i, 1).is_some_and(|w| PLACE_BEFORE.contains(&w));
        word(&t, i) == Some("square")
            && placed
            && before(i, 2) != Some("by")
            && !word(&t, i + 1).is_some_and(|w| NO_PLACE_AFTER.contains(&w))
    })?;
    let lengths: Vec<_> = measure::scan(line).into_iter().filter(|f| f.measure.quantity == Quantity::Length).collect();
    let in_length = |i: usize| lengths.iter().any(|f| f.span.overlaps(t[i].span));
    let mut counts: Vec<u32> = vec![];
    let mut i = 0;
    while i < t.len() {
        let Some((n, next)) = measure::count_at(&t, i) else {
            i += 1;
            continue;
        };
        // "Square two had nine": what follows the square at once is its name, unless hits follow.
        let name = i == at + 1 && !word(&t, next).is_some_and(|w| HITS.contains(&w) || w == "hail");
        let pronoun = n == 1 && before(i, 1).is_some_and(|w| ONE_OF_THEM.contains(&w));
        if !in_length(i) && !name && !pronoun {
            let guess = [1, 2].iter().any(|k| before(i, *k).is_some_and(|w| GUESSED.contains(&w)));
            let range = word(&t, next).is_some_and(|w| GUESSED_AFTER.contains(&w))
                || t.get(next).is_some_and(|x| x.sign() == Some('-')) && measure::count_at(&t, next + 1).is_some();
            if guess || range || n > MOST_HITS as u32 {
                return None;
            }
            counts.push(n);
        }
        i = next;
    }
    let none = |i: usize| match word(&t, i) {
        Some("no") => word(&t, i + 1).is_some_and(|w| HITS.contains(&w) || w == "hail" || w == "damage"),
        w => w.is_some_and(|w| NONE_THERE.contains(&w)),
    };
    let hits = match counts.as_slice() {
        [n] => *n,
        [] if (0..t.len()).any(none) => 0,
        _ => return None,
    };
    // What is as large as the square itself is the square: "eight in the ten foot square".
    let said = |f: &measure::Found| {
        let words = line[f.span.start..f.span.end].trim();
        words.strip_prefix("up to ").unwrap_or(words).to_owned()
    };
    let mut largest = lengths.iter().filter(|f| !f.idiom).map(said);
    let largest = largest.rfind(|w| mark_size(w).is_ok_and(|m| m.is_some())).unwrap_or_default();
    Some(SquareSaid { hits, largest: if hits == 0 { String::new() } else { largest } })
}

/// The square a count of a face belongs to: the first on that side that waits to be counted.
pub(super) fn waiting<'a>(kept: &'a StormVisit, roof: &Account, face: Face) -> Option<&'a SquareKept> {
    let on_face = |q: &SquareKept| roof.slopes.iter().any(|s| s.facet == q.slope && s.face == face);
    let out = |q: &SquareKept| kept.seen.iter().any(|s| s.id == q.slope && s.how == HowSeen::NotReached);
    kept.squares.iter().find(|q| on_face(q) && !q.begun() && !out(q))
}

/// Puts a count that was told into the square that waits for it, and says so; none when no square waits on that side.
pub fn count_said(kept: &mut StormVisit, roof: &Account, face: Face, said: &SquareSaid) -> Option<String> {
    let id = waiting(kept, roof, face)?.id.clone();
    let q = kept.squares.iter_mut().find(|q| q.id == id)?;
    (q.counted, q.unplaced) = (true, said.hits);
    q.largest.clone_from(&said.largest);
    let hits = match said.hits {
        0 => "no hit".to_owned(),
        1 => "1 hit".to_owned(),
        n => format!("{n} hits"),
    };
    let largest = if said.largest.is_empty() { String::new() } else { format!(", the largest {}", said.largest) };
    Some(format!("Counted in {id}: {hits}{largest}."))
}

/// Counts that were told on the round and stand in no square: each with the square that waits for it.
pub(super) fn uncounted(kept: &StormVisit, roof: &Account, notes: &[(&str, &Note)]) -> Vec<SaidCount> {
    let mut left = kept.clone();
    let mut out = vec![];
    for (id, n) in notes {
        let (Some(face), Some(said)) = (n.place.face, square_said(&n.text)) else { continue };
        let there = |q: &SquareKept| {
            q.counted && q.unplaced + q.hits.len() as u32 >= said.hits && roof.slopes.iter().any(|s| s.facet == q.slope && s.face == face)
        };
        if kept.squares.iter().any(there) {
            continue;
        }
        let square = waiting(&left, roof, face).map(|q| q.id.clone());
        if square.is_some() {
            count_said(&mut left, roof, face, &said);
        }
        out.push(SaidCount { note_id: (*id).to_owned(), text: n.text.clone(), said, square });
    }
    out
}

/// Hits taken from the marks of a picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FromPicture {
    /// The hits, without names.
    pub hits: Vec<HitKept>,
    /// Marks that lie outside the square and do not count.
    pub outside: usize,
    /// In words.
    pub words: String,
}

/// The hits that are marked on a picture: rings by their middle, arrows by their point, lines by their middle with the length that was
/// measured. A ring with the word *square* is the square's border; without one the picture's edge is taken for it. A question mark
/// beside a mark makes it doubtful.
#[must_use]
pub fn hits_on_picture(picture: &str, marks: &[PictureMark], usual: MarkKind) -> FromPicture {
    let is_border = |m: &&PictureMark| m.shape == Shape::Ring && m.text.trim().eq_ignore_ascii_case("square");
    let border = marks.iter().find(is_border);
    let (low, high) = border.map_or(([0.0, 0.0], [1.0, 1.0]), |b| {
        ([b.from[0].min(b.to[0]), b.from[1].min(b.to[1])], [b.from[0].max(b.to[0]), b.from[1].max(b.to[1])])
    });
    let mut outside = 0;
    let mut hits = vec![];
    for m in marks.iter().filter(|m| m.shape != Shape::Text && !is_border(m)) {
        let middle = [f64::midpoint(m.from[0], m.to[0]), f64::midpoint(m.from[1], m.to[1])];
        let p = if m.shape == Shape::Arrow { m.to } else { middle };
        let part = |k: usize| (p[k] - low[k]) / (high[k] - low[k]);
        // Pictures count from the top, squares from their lower side.
        let (x, y) = (part(0), 1.0 - part(1));
        if !(0.0..=1.0).contains(&x) || !(0.0..=1.0).contains(&y) {
            outside += 1;
            continue;
        }
        let size = m.text.trim().trim_end_matches('?').trim();
        let size = if mark_size(size).is_ok() { size.to_owned() } else { String::new() };
        let round = |v: f64| (v * 1e4).round() / 1e4;
        hits.push(HitKept {
            id: String::new(),
            x: round(x),
            y: round(y),
            size,
            kind: usual,
            unsure: m.text.contains('?'),
            signs: Default::default(),
            picture: picture.to_owned(),
        });
    }
    let words = match (hits.len(), border.is_some()) {
        (0, _) => {
            "No mark on this picture counts as a hit. Mark them with rings; a ring with the word square is the square's border.".to_owned()
        }
        (n, true) => format!("{n} marks within the border that is drawn."),
        (n, false) => format!("{n} marks; the picture's edge is taken for the square's."),
    };
    let left = match outside {
        0 => String::new(),
        1 => " One lies outside and does not count.".to_owned(),
        n => format!(" {n} lie outside and do not count."),
    };
    FromPicture { hits, outside, words: words + &left }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_count_is_read_as_people_tell_it() {
        let said = |t: &str| square_said(t).map(|s| (s.hits, s.largest));
        let is = |n: u32, l: &str| Some((n, l.to_owned()));
        assert_eq!(said("north slope, eight in the square, biggest an inch"), is(8, "an inch"));
        assert_eq!(said("11 hits in the test square on the rear, largest 3/4 in"), is(11, "3/4 in"));
        assert_eq!(said("in the square I count fourteen, up to 30 mm"), is(14, "30 mm"));
        assert_eq!(said("test square: 6 bruises"), is(6, ""));
        assert_eq!(said("square two had nine"), is(9, ""));
        assert_eq!(said("twenty-two in the square back here"), is(22, ""));
        assert_eq!(said("eight in the ten foot square, biggest half an inch"), is(8, "half an inch"));
        assert_eq!(said("nothing in the square on the lake side"), is(0, ""));
        assert_eq!(said("no hits in this square"), is(0, ""));
    }

    #[test]
    fn what_is_no_count_of_a_square_is_none() {
        for t in [
            "about eight in the square",
            "eight or nine in the square",
            "eight to ten in the square",
            "twenty five square feet missing",
            "eight hits per square",
            "they charge by the square, eight hundred a square",
            "eight in the first square and eleven in the second",
            "cut square at the end, 8 nails",
            "how many in the square?",
            "two squares of shingles gone",
            "the frame is square",
            "there is no way to get to the square",
            "biggest one in the square is an inch",
        ] {
            assert_eq!(square_said(t), None, "{t}");
        }
    }

    #[test]
    fn marks_on_a_picture_lie_in_the_square_they_were_drawn_in() {
        let mark = |shape, from: [f64; 2], to: [f64; 2], text: &str| PictureMark { shape, from, to, text: text.into() };
        let ring = |x: f64, y: f64, text: &str| mark(Shape::Ring, [x - 0.01, y - 0.01], [x + 0.01, y + 0.01], text);
        let marks = [
            mark(Shape::Ring, [0.2, 0.9], [0.6, 0.1], "Square"),
            ring(0.2 + 0.1, 0.9, "20 mm"),
            ring(0.4, 0.3, "?"),
            mark(Shape::Arrow, [0.9, 0.9], [0.5, 0.5], ""),
            mark(Shape::Line, [0.22, 0.5], [0.24, 0.5], "1 in"),
            mark(Shape::Text, [0.3, 0.3], [0.3, 0.3], "north"),
            ring(0.8, 0.5, ""),
        ];
        let got = hits_on_picture("p", &marks, MarkKind::Split);
        let at: Vec<_> = got.hits.iter().map(|h| (h.x, h.y, h.size.as_str(), h.unsure)).collect();
        assert_eq!(at, [(0.25, 0.0, "20 mm", false), (0.5, 0.75, "", true), (0.75, 0.5, "", false), (0.075, 0.5, "1 in", false)]);
        assert_eq!(got.outside, 1);
        assert!(got.hits.iter().all(|h| h.picture == "p" && h.kind == MarkKind::Split));
        let whole = hits_on_picture("p", &marks[1..], MarkKind::Bruise);
        assert_eq!((whole.hits.len(), whole.outside), (5, 0));
        assert!(hits_on_picture("p", &[], MarkKind::Bruise).words.contains("Mark them with rings"));
    }
}
