//! The return visit: every recommendation becomes a line to answer, with what was seen then beside what is seen now.
//!
//! What was recommended is copied when the visit starts, as the report said it: a later change of the earlier visit must not change
//! what was promised.

use crate::job::{LONG_TEXT, SHORT_TEXT, too_long};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

const MOST_LINES: usize = 500;

/// What became of a recommendation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Became {
    /// Done, and right.
    DoneRight,
    /// Done, and wrong.
    DoneWrong,
    /// Not done.
    NotDone,
    /// Covered before anyone saw it.
    Covered,
    /// It no longer applies.
    NoLonger,
}

impl Became {
    /// Every answer, in the order of the page.
    pub const ALL: [Became; 5] = [Became::DoneRight, Became::DoneWrong, Became::NotDone, Became::Covered, Became::NoLonger];
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Became::DoneRight => "done right",
            Became::DoneWrong => "done wrong",
            Became::NotDone => "not done",
            Became::Covered => "covered before seen",
            Became::NoLonger => "no longer applies",
        }
    }
    /// Something is left to do.
    pub fn open(self) -> bool {
        matches!(self, Became::DoneWrong | Became::NotDone | Became::Covered)
    }
}

/// A picture of the earlier visit.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OldPicture {
    /// Its entity in the earlier job.
    pub id: String,
    /// The file to show.
    pub hash: String,
    /// Its caption.
    #[serde(default)]
    pub caption: String,
}

/// A figure that was read at a visit and can be read again.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SeriesValue {
    /// "crack", "height", "moisture", "life".
    pub kind: String,
    /// What was read, by the name it has at every visit.
    pub name: String,
    /// The figure, SI.
    pub value: f64,
    /// The figure in the reader's units.
    pub words: String,
    /// The day it was read, when it is known: a crack keeps the widths of earlier visits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub on: Option<jiff::civil::Date>,
}

/// One recommendation of the earlier visit, and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReturnLine {
    /// The note of the earlier visit, or the entry of its do-not-cover list.
    pub id: String,
    /// Its number in the earlier report.
    pub number: usize,
    /// What was found.
    pub title: String,
    /// Where.
    pub place: String,
    /// When it was to be done.
    pub when: String,
    /// What was recommended.
    #[serde(default)]
    pub step: String,
    /// Who was to do it.
    #[serde(default)]
    pub trade: String,
    /// It was not to be covered before it was seen again.
    #[serde(default)]
    pub do_not_cover: bool,
    /// It can hurt someone.
    #[serde(default)]
    pub hazard: bool,
    /// Pictures of then.
    #[serde(default)]
    pub then: Vec<OldPicture>,
    /// What became of it.
    #[serde(default)]
    pub became: Option<Became>,
    /// What was seen, as told.
    #[serde(default)]
    pub said: String,
    /// Who did it, as told.
    #[serde(default)]
    pub by: String,
    /// The picture of this visit that stands beside the old one.
    #[serde(default)]
    pub now: Option<String>,
}

/// A return visit.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReturnKept {
    /// The job of the earlier visit.
    pub of: String,
    /// What it was called.
    #[serde(default)]
    pub of_name: String,
    /// The day of the earlier visit.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub then_on: Option<jiff::civil::Date>,
    /// Everything was said to be mended before this visit; nobody asked when it is not said.
    #[serde(default)]
    pub said_mended: Option<bool>,
    /// Why it is visited although not everything was said to be mended.
    #[serde(default)]
    pub why_now: String,
    /// Recommendations.
    #[serde(default)]
    pub lines: Vec<ReturnLine>,
    /// What was read then.
    #[serde(default)]
    pub then: Vec<SeriesValue>,
}

/// Why a return visit is not kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReturnError {
    /// The field.
    pub field: String,
    /// What is wrong and what to do.
    pub message: String,
}

impl ReturnKept {
    /// Checks everything that can be checked by itself.
    ///
    /// # Errors
    /// The first field that cannot be kept.
    pub fn check(&self) -> Result<(), ReturnError> {
        let err = |field: String, message: String| Err(ReturnError { field, message });
        if uuid_like(&self.of).is_none() {
            return err(
                "of".into(),
                "A return visit stands on an earlier one. Start it from the building's page or from the job list.".into(),
            );
        }
        if self.lines.len() > MOST_LINES || self.then.len() > MOST_LINES {
            return err("lines".into(), format!("That is more than one visit answers; the most is {MOST_LINES}."));
        }
        if let Some(m) = too_long(&self.why_now, LONG_TEXT) {
            return err("why_now".into(), m);
        }
        let mut seen = BTreeSet::new();
        for l in &self.lines {
            let field = |part: &str| format!("lines.{}.{part}", l.id);
            if l.id.trim().is_empty() || !seen.insert(&l.id) {
                return err(field("id"), "Each recommendation stands once.".into());
            }
            for (part, text, most) in
                [("title", &l.title, SHORT_TEXT), ("by", &l.by, SHORT_TEXT), ("said", &l.said, LONG_TEXT), ("step", &l.step, LONG_TEXT)]
            {
                if let Some(m) = too_long(text, most) {
                    return err(field(part), m);
                }
            }
            if l.became == Some(Became::DoneWrong) && l.said.trim().is_empty() {
                return err(field("said"), "Say what is wrong with it: the person who did it will ask.".into());
            }
            if l.became == Some(Became::NoLonger) && l.said.trim().is_empty() {
                return err(field("said"), "Say why it no longer applies.".into());
            }
        }
        Ok(())
    }

    /// What is left to do, in the same order.
    pub fn left(&self) -> impl Iterator<Item = &ReturnLine> {
        self.in_order().into_iter().filter(|l| l.became.is_some_and(Became::open))
    }

    /// The lines in the order they are answered: what was not to be covered first, then as the earlier report had them.
    #[must_use]
    pub fn in_order(&self) -> Vec<&ReturnLine> {
        let mut out: Vec<&ReturnLine> = self.lines.iter().collect();
        out.sort_by_key(|l| (!l.do_not_cover, l.number));
        out
    }
}

/// An id as the ledger gives them: 36 signs, four dashes.
fn uuid_like(id: &str) -> Option<()> {
    let dashes: Vec<usize> = id.char_indices().filter(|(_, c)| *c == '-').map(|(k, _)| k).collect();
    (id.len() == 36 && dashes == [8, 13, 18, 23] && id.chars().all(|c| c == '-' || c.is_ascii_hexdigit())).then_some(())
}

/// A figure of then beside the same of now.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Beside {
    /// "crack", "height", "moisture", "life".
    pub kind: String,
    /// What was read.
    pub name: String,
    /// Then, in words.
    pub then: String,
    /// Now, in words; nothing when it was not read again.
    pub now: Option<String>,
    /// How it changed, in words.
    pub change: String,
}

/// How many recommendations got an answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BecameCount {
    /// The answer.
    pub became: Became,
    /// How many.
    pub lines: usize,
}

/// What a return visit comes to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReturnAccount {
    /// How many of each answer, in the order of the page.
    pub counts: Vec<BecameCount>,
    /// Not answered yet.
    pub open: usize,
    /// In one sentence.
    pub sentence: String,
    /// What to ask before it starts, and why; nothing once it was said.
    pub before: Option<String>,
    /// Ids of the lines in the order they are answered.
    pub order: Vec<String>,
    /// Figures of then and now.
    pub readings: Vec<Beside>,
    /// The letter: what is left, in the same order.
    pub letter: Vec<String>,
}

/// Works a return visit out. `now` is what was read at this visit; `fresh` are the titles and places of what is new.
#[must_use]
pub fn return_account(kept: &ReturnKept, now: &[SeriesValue], fresh: &[String]) -> ReturnAccount {
    let count = |b: Became| BecameCount { became: b, lines: kept.lines.iter().filter(|l| l.became == Some(b)).count() };
    let counts: Vec<BecameCount> = Became::ALL.into_iter().map(count).collect();
    let open = kept.lines.iter().filter(|l| l.became.is_none()).count();
    let mut parts: Vec<String> = counts.iter().filter(|c| c.lines > 0).map(|c| format!("{} {}", c.lines, c.became.words())).collect();
    if open > 0 {
        parts.push(format!("{open} not answered yet"));
    }
    let sentence = match kept.lines.len() {
        0 => "The earlier visit recommended nothing.".to_owned(),
        n => format!("Of {n} recommendations of the earlier visit: {}.", parts.join(", ")),
    };
    let before = match kept.said_mended {
        Some(true) => None,
        Some(false) if !kept.why_now.trim().is_empty() => None,
        _ => Some(
            "Ask first whether everything is said to be mended. A visit before that is paid for twice: what is open has to be looked at again."
                .to_owned(),
        ),
    };
    let readings = kept
        .then
        .iter()
        .map(|t| {
            // What was taken along from the earlier visit was not read at this one.
            let since = t.on.or(kept.then_on);
            let of_this_visit = |n: &&SeriesValue| n.on.is_none_or(|on| since.is_none_or(|then| on > then));
            let n = now.iter().filter(of_this_visit).find(|n| n.kind == t.kind && n.name == t.name);
            let change = match n {
                None => "not read again".to_owned(),
                Some(n) if n.words == t.words => "as it was".to_owned(),
                Some(n) if n.value > t.value => "more".to_owned(),
                Some(_) => "less".to_owned(),
            };
            Beside { kind: t.kind.clone(), name: t.name.clone(), then: t.words.clone(), now: n.map(|n| n.words.clone()), change }
        })
        .collect();
    let order = kept.in_order();
    ReturnAccount {
        counts,
        open,
        sentence,
        before,
        readings,
        letter: letter(&order, fresh),
        order: order.iter().map(|l| l.id.clone()).collect(),
    }
}

fn letter(order: &[&ReturnLine], fresh: &[String]) -> Vec<String> {
    let left: Vec<&&ReturnLine> = order.iter().filter(|l| l.became.is_some_and(Became::open)).collect();
    let mut out = vec![match left.len() {
        0 if order.iter().all(|l| l.became.is_some()) => "Nothing of what was recommended is left to do.".to_owned(),
        0 => "Nothing is known to be left; not everything has been answered.".to_owned(),
        1 => "One thing is left to do.".to_owned(),
        n => format!("{n} things are left to do."),
    }];
    for l in left {
        let said = l.said.trim().trim_end_matches('.');
        let said = if said.is_empty() { String::new() } else { format!(" {said}.") };
        let what = match l.became {
            Some(Became::DoneWrong) => "It was done, and has to be done again.",
            Some(Became::Covered) => {
                "It was covered before anyone saw it: it has to be opened, or the person who covered it states in writing what was done."
            }
            _ => "It has not been done.",
        };
        let step = if l.step.is_empty() { String::new() } else { format!(" {}", l.step) };
        let who = if l.trade.is_empty() { String::new() } else { format!(" ({})", l.trade) };
        out.push(format!("{}. {}, {}: {what}{said}{step}{who}", l.number, l.title, l.place));
    }
    out.extend(fresh.iter().map(|f| format!("New: {f}")));
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn line(id: &str, number: usize, became: Option<Became>) -> ReturnLine {
        ReturnLine {
            id: id.into(),
            number,
            title: format!("thing {number}"),
            place: "rear, edge".into(),
            when: "Now".into(),
            step: "Mend it.".into(),
            trade: "Roofer".into(),
            do_not_cover: false,
            hazard: false,
            then: vec![],
            became,
            said: "seen".into(),
            by: String::new(),
            now: None,
        }
    }
    fn kept(lines: Vec<ReturnLine>) -> ReturnKept {
        ReturnKept { of: "988f6cfd-aafc-5906-98a3-06c9ebbcbf72".into(), lines, ..Default::default() }
    }

    proptest! {
        /// Every recommendation is answered once or open; the letter tells each that is left, none that is not.
        #[test]
        fn lines_add_up(answers in prop::collection::vec(prop::option::of(0usize..5), 0..30), covers in prop::collection::vec(any::<bool>(), 30)) {
            let lines: Vec<ReturnLine> = answers.iter().enumerate().map(|(k, a)| ReturnLine { do_not_cover: covers[k], ..line(&format!("n{k}"), k + 1, a.map(|a| Became::ALL[a])) }).collect();
            let r = kept(lines.clone());
            prop_assert!(r.check().is_ok());
            let a = return_account(&r, &[], &[]);
            prop_assert_eq!(a.counts.iter().map(|c| c.lines).sum::<usize>() + a.open, lines.len());
            let left = lines.iter().filter(|l| l.became.is_some_and(Became::open)).count();
            prop_assert_eq!(a.letter.len(), left + 1);
            // What must not be covered comes first, and within that the order of the report.
            let key = |id: &String| { let l = lines.iter().find(|l| l.id == *id).unwrap(); (!l.do_not_cover, l.number) };
            prop_assert!(a.order.windows(2).all(|w| key(&w[0]) < key(&w[1])));
            prop_assert_eq!(a.order.len(), lines.len());
        }
    }

    #[test]
    fn a_return_without_a_first_visit_and_answers_without_a_reason_are_refused() {
        assert!(ReturnKept::default().check().unwrap_err().message.contains("earlier one"));
        for b in [Became::DoneWrong, Became::NoLonger] {
            let mut l = line("n1", 1, Some(b));
            l.said = "  ".into();
            assert_eq!(kept(vec![l]).check().unwrap_err().field, "lines.n1.said");
        }
        assert_eq!(kept(vec![line("n1", 1, None), line("n1", 2, None)]).check().unwrap_err().field, "lines.n1.id");
    }

    #[test]
    fn readings_stand_beside_each_other() {
        let value =
            |name: &str, value: f64| SeriesValue { kind: "crack".into(), name: name.into(), value, words: format!("{value} mm"), on: None };
        let mut r = kept(vec![]);
        r.then = vec![value("C1", 0.4), value("C2", 0.3), value("C3", 0.2)];
        let a = return_account(&r, &[value("C1", 0.6), value("C2", 0.3)], &["Open joint, rear".into()]);
        let change: Vec<&str> = a.readings.iter().map(|b| b.change.as_str()).collect();
        assert_eq!(change, ["more", "as it was", "not read again"]);
        assert_eq!(a.letter, ["Nothing of what was recommended is left to do.", "New: Open joint, rear"]);
        assert!(a.before.unwrap().contains("said to be mended"));
    }

    #[test]
    fn what_was_taken_along_is_not_read_again_whatever_is_known_of_the_visit() {
        let day = |d: i8| jiff::civil::date(2026, 11, d);
        let width =
            |mm: f64, on| SeriesValue { kind: "crack".into(), name: "C1".into(), value: mm, words: format!("{mm} mm"), on: Some(on) };
        for then_on in [None, Some(day(20))] {
            let kept = ReturnKept { then_on, then: vec![width(0.8, day(18))], ..ReturnKept::default() };
            let row = |now: SeriesValue| return_account(&kept, &[now], &[]).readings.remove(0);
            assert_eq!((row(width(0.8, day(18))).now, row(width(0.8, day(18))).change.as_str()), (None, "not read again"), "{then_on:?}");
            assert_eq!(row(width(1.1, day(25))).change, "more", "{then_on:?}");
        }
    }
}
