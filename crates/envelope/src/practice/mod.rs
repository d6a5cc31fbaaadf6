//! The practice: what practitioners disagree on, the schools behind each point, and which one this practice follows.
//!
//! A threshold is never a constant in the code: it stands in `points.toml` with its reason, and every result that rests on
//! one names the school. All of them are rules of practice, not law.

mod judged;
mod nearby;

pub use judged::{Difference, differences};
pub(crate) use nearby::kind_of;
pub use nearby::{Judged, Verdict, judge_note};

use crate::measure::{self, Quantity, Units};
use crate::round::OwnWord;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// What kind of figure a point takes for an own rule.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum FigureKind {
    /// A length.
    Length,
    /// A fall: percent, or rise over run.
    Slope,
    /// A plain factor.
    Count,
    /// Rain.
    Intensity,
    /// The point has no figure of its own.
    None,
}

impl FigureKind {
    /// An example to type.
    fn example(self) -> &'static str {
        match self {
            FigureKind::Length => "a length, for example 250 mm or 10 in",
            FigureKind::Slope => "a fall, for example 3 % or 1/4 in per ft",
            FigureKind::Count => "a plain number, for example 1.5",
            FigureKind::Intensity => "an intensity, for example 120 mm/h or 5 in/h",
            FigureKind::None => "no figure",
        }
    }

    /// An own figure in SI.
    fn read(self, text: &str) -> Result<f64, String> {
        let wrong =
            || format!("\u{201c}{}\u{201d} does not fit: this point takes {}.", text.chars().take(40).collect::<String>(), self.example());
        if self == FigureKind::None {
            return Err("This point has no figure; choose one of its schools.".into());
        }
        if self == FigureKind::Count {
            return text.trim().parse::<f64>().ok().filter(|v| v.is_finite() && *v >= 0.0).ok_or_else(wrong);
        }
        let m = measure::parse(text).map_err(|_| wrong())?;
        let fits = match self {
            FigureKind::Length => m.quantity == Quantity::Length,
            FigureKind::Slope => matches!(m.quantity, Quantity::Slope | Quantity::Share),
            FigureKind::Intensity => m.quantity == Quantity::Intensity,
            FigureKind::Count | FigureKind::None => false,
        };
        if fits && m.si >= 0.0 { Ok(m.si) } else { Err(wrong()) }
    }
}

/// One school of a point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct School {
    /// Stable name.
    pub id: String,
    /// The rule in words.
    pub name: String,
    /// Why some follow it.
    pub reason: String,
    /// Its figures in SI, by name; `figure` is the one an own rule replaces.
    #[serde(flatten)]
    pub figures: BTreeMap<String, f64>,
}

/// Something practitioners disagree on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Point {
    /// Stable name.
    pub key: String,
    /// What it is about.
    pub what: String,
    /// Why the first school is the one taken while nobody chooses.
    pub why: String,
    /// What an own figure must be.
    pub unit: FigureKind,
    /// The schools, the usual one first.
    pub school: Vec<School>,
}

/// Every point, in the order of the page.
pub fn points() -> &'static [Point] {
    #[derive(Deserialize)]
    struct File {
        point: Vec<Point>,
    }
    static POINTS: OnceLock<Vec<Point>> = OnceLock::new();
    POINTS.get_or_init(|| toml::from_str::<File>(include_str!("points.toml")).expect("the embedded points are tested").point)
}

/// What a practice follows on one point.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Choice {
    /// One of the point's schools.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub school: Option<String>,
    /// Or an own figure, with its unit as typed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub own: Option<String>,
    /// Why the own figure; needed with one.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub reason: String,
}

/// A practice: its name, what it follows, the words it adds.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Practice {
    /// What it is called.
    pub name: String,
    /// The units its people read.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub units: Units,
    /// What it follows, by point; points that are not named follow the first school.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub choice: BTreeMap<String, Choice>,
    /// Words it adds to the note line.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own_word: Vec<OwnWord>,
}

/// Why a practice cannot be kept.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{field}: {message}")]
pub struct PracticeError {
    /// Which part, as it is called in the file.
    pub field: String,
    /// What is wrong and what to do.
    pub message: String,
}

/// A school as it is in force: figures, and how it is named in results.
#[derive(Debug, Clone, PartialEq)]
pub struct Rule<'a> {
    /// The point.
    pub point: &'static Point,
    /// The school whose other figures hold.
    pub school: &'static School,
    /// The own figure in SI, when there is one.
    pub own: Option<f64>,
    /// The own figure as typed, and its reason.
    pub said: Option<(&'a str, &'a str)>,
}

impl Rule<'_> {
    /// The main figure in SI.
    pub fn figure(&self) -> f64 {
        self.own.or_else(|| self.school.figures.get("figure").copied()).unwrap_or(0.0)
    }
    /// A further figure of the school, in SI.
    pub fn named(&self, figure: &str) -> Option<f64> {
        self.school.figures.get(figure).copied()
    }
    /// How results name it.
    pub fn words(&self) -> String {
        match self.said {
            Some((figure, reason)) => format!("own figure {figure}: {reason}"),
            None => self.school.name.clone(),
        }
    }
    /// The school in force; none for an own figure.
    pub fn id(&self) -> Option<&'static str> {
        self.own.is_none().then_some(self.school.id.as_str())
    }
}

/// Most own words a practice may add.
const MOST_WORDS: usize = 2_000;

impl Practice {
    /// A practice that follows the first school everywhere.
    pub fn usual(name: &str) -> Practice {
        Practice { name: name.to_owned(), ..Practice::default() }
    }

    /// Reads a practice file.
    ///
    /// # Errors
    /// [`PracticeError`] names the line or the point, and what to do.
    pub fn from_toml(text: &str) -> Result<Practice, PracticeError> {
        let p: Practice = toml::from_str(text).map_err(|e| {
            let line = e.span().map_or(1, |s| text[..s.start.min(text.len())].matches('\n').count() + 1);
            PracticeError { field: format!("line {line}"), message: e.message().replace('\n', " ") }
        })?;
        p.check()?;
        Ok(p)
    }

    /// The practice as a file.
    pub fn to_toml(&self) -> String {
        let head = "# A practice of Trowel. Points that are not named follow their first school.\n\n";
        format!("{head}{}", toml::to_string_pretty(self).unwrap_or_default())
    }

    /// Checks every choice and word.
    ///
    /// # Errors
    /// The first that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), PracticeError> {
        let err = |field: &str, message: String| Err(PracticeError { field: field.to_owned(), message });
        if self.name.trim().is_empty() || self.name.chars().count() > crate::job::SHORT_TEXT {
            return err("name", "Give the practice a name of at most a line.".into());
        }
        for (key, c) in &self.choice {
            let Some(point) = points().iter().find(|p| p.key == *key) else {
                let near = points().iter().min_by_key(|p| strsim::osa_distance(&p.key, key)).map_or("", |p| p.key.as_str());
                return err(key, format!("There is no such point. Did you mean \u{201c}{near}\u{201d}?"));
            };
            match (&c.school, &c.own) {
                (Some(_), Some(_)) => return err(key, "Name a school or an own figure, not both.".into()),
                (None, None) => return err(key, "Name a school or an own figure.".into()),
                (Some(s), None) if !point.school.iter().any(|x| x.id == *s) => {
                    let known: Vec<&str> = point.school.iter().map(|x| x.id.as_str()).collect();
                    return err(
                        key,
                        format!(
                            "There is no school \u{201c}{}\u{201d} here. There are: {}.",
                            s.chars().take(40).collect::<String>(),
                            known.join(", ")
                        ),
                    );
                }
                (None, Some(figure)) => {
                    point.unit.read(figure).map_err(|message| PracticeError { field: key.clone(), message })?;
                    if c.reason.trim().is_empty() {
                        return err(key, "An own figure needs its reason: it is printed beside the results.".into());
                    }
                }
                _ => {}
            }
        }
        if self.own_word.len() > MOST_WORDS {
            return err("own_word", format!("{} own words; the most is {MOST_WORDS}.", self.own_word.len()));
        }
        for w in &self.own_word {
            w.check().map_err(|message| PracticeError {
                field: format!("own word \u{201c}{}\u{201d}", w.said.chars().take(40).collect::<String>()),
                message,
            })?;
        }
        Ok(())
    }

    /// What is in force on a point.
    ///
    /// # Panics
    /// When the point does not exist; the callers name points that a test checks.
    pub fn rule(&self, key: &str) -> Rule<'_> {
        let point = points().iter().find(|p| p.key == key).unwrap_or_else(|| panic!("no point {key}"));
        let choice = self.choice.get(key);
        let school =
            choice.and_then(|c| c.school.as_ref()).and_then(|s| point.school.iter().find(|x| x.id == *s)).unwrap_or(&point.school[0]);
        let said = choice.and_then(|c| c.own.as_deref().map(|o| (o, c.reason.as_str())));
        let own = said.and_then(|(figure, _)| point.unit.read(figure).ok());
        Rule { point, school, own, said: said.filter(|_| own.is_some()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_point_of_the_practice_has_schools_with_reasons() {
        assert_eq!(points().len(), 40);
        for p in points() {
            assert!(!p.school.is_empty() && !p.what.is_empty() && p.why.ends_with('.'), "{}", p.key);
            let mut ids: Vec<_> = p.school.iter().map(|s| &s.id).collect();
            ids.dedup();
            assert_eq!(ids.len(), p.school.len());
            assert!(p.school.iter().all(|s| s.reason.ends_with('.')), "{}", p.key);
        }
    }

    #[test]
    fn a_practice_survives_being_written_and_read() {
        let text = r#"
            name = "Plumb & Daylight"
            [choice.tree-setback]
            school = "fixed"
            [choice.sprinkler-setback]
            own = "10 in"
            reason = "Windy lake shore"
            [[own_word]]
            said = "snood"
            means = "gutter"
        "#;
        let p = Practice::from_toml(text).unwrap();
        assert_eq!(Practice::from_toml(&p.to_toml()), Ok(p.clone()));
        assert_eq!(p.rule("tree-setback").figure(), 7.62);
        assert!((p.rule("sprinkler-setback").figure() - 0.254).abs() < 1e-12);
        assert_eq!(p.rule("sprinkler-setback").words(), "own figure 10 in: Windy lake shore");
        assert_eq!(p.rule("discharge-distance").id(), Some("six-feet"));
    }

    #[test]
    fn a_bad_practice_file_is_refused_with_what_to_do() {
        for (text, says) in [
            ("nam = \"x\"", "unknown field"),
            ("name = \"x\"\n[choice.tree-setbak]\nschool = \"fixed\"", "tree-setback"),
            ("name = \"x\"\n[choice.tree-setback]\nschool = \"fixd\"", "half-height, fixed, keep"),
            ("name = \"x\"\n[choice.tree-setback]\nown = \"5 %\"\nreason = \"y\"", "takes a length"),
            ("name = \"x\"\n[choice.soil-fall]\nown = \"10 ft\"\nreason = \"y\"", "takes a fall"),
            ("name = \"x\"\n[choice.tree-setback]\nown = \"5 m\"", "needs its reason"),
            ("name = \"x\"\n[choice.roof-life]\nown = \"5 m\"\nreason = \"y\"", "no figure"),
            ("name = \" \"", "a name"),
            ("name = \"x\"\n[[own_word]]\nsaid = \"snood\"\nmeans = \"hat\"", "no part"),
        ] {
            let e = Practice::from_toml(text).unwrap_err().to_string();
            assert!(e.contains(says), "{text}: {e}");
        }
        assert_eq!(Practice::from_toml("name = \"x\"\nname = \"y\"").unwrap_err().field, "line 2");
    }
}
