//! A mark on a covering: from hail, or from what looks like it. Signs are weighed; under four chances in five a hit is *doubtful*.

use crate::trace::weigh::{Evidence, WeighInput, weigh};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// Under this a hit is doubtful, and from it up a lookalike is taken for what it is. From the specification of counting.
pub const SURE: f64 = 0.8;

/// A sign that may be looked at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HailSign {
    /// Its name.
    pub id: String,
    /// On the page.
    pub words: String,
    /// What it may show.
    pub states: Vec<String>,
    /// The same in words.
    pub state_words: Vec<String>,
    /// How likely each state is under each explanation.
    pub table: BTreeMap<String, Vec<f64>>,
}

#[derive(Deserialize)]
struct Signs {
    prior: BTreeMap<String, f64>,
    sign: Vec<HailSign>,
}

fn data() -> &'static Signs {
    static SIGNS: OnceLock<Signs> = OnceLock::new();
    SIGNS.get_or_init(|| toml::from_str(include_str!("signs.toml")).expect("signs.toml is checked by a test"))
}

/// Every sign, in the order one looks.
#[must_use]
pub fn signs() -> &'static [HailSign] {
    &data().sign
}

/// Input of `calc hit`: what was seen of one mark, sign by sign.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HitInput {
    /// HailSign and state; what was not looked at is left out.
    pub signs: BTreeMap<String, String>,
}

/// What a mark is taken for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum HitVerdict {
    /// A hit.
    Hit,
    /// May be one.
    Doubtful,
    /// Something else.
    NotHail,
}

/// What a mark is, as far as its signs say.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HitOut {
    /// How likely each explanation is.
    pub chances: BTreeMap<String, f64>,
    /// What it is taken for.
    pub verdict: HitVerdict,
    /// The likeliest explanation.
    pub likeliest: String,
    /// In words.
    pub words: String,
}

/// An explanation in words.
#[must_use]
pub fn mark_name(id: &str) -> &'static str {
    match id {
        "hail" => "hail",
        "blister" => "a blister",
        "foot-scuff" => "a foot's scuff",
        "nail-pop" => "a nail that rose",
        "tree-rub" => "a branch rubbing",
        "old-loss" => "old loss of granules",
        "made-so" => "made so",
        _ => "something else",
    }
}

/// Weighs the signs of a mark.
///
/// # Errors
/// The sign or state that is not known, with those that are.
pub fn hit(input: &HitInput) -> Result<HitOut, String> {
    let Signs { prior, sign } = data();
    for (s, state) in &input.signs {
        let Some(known) = sign.iter().find(|k| k.id == *s) else {
            let all: Vec<&str> = sign.iter().map(|k| k.id.as_str()).collect();
            return Err(format!("\u{201c}{s}\u{201d} is no sign. There are: {}.", all.join(", ")));
        };
        if !known.states.contains(state) {
            return Err(format!("{}: \u{201c}{state}\u{201d} is not one of {}.", known.words, known.states.join(", ")));
        }
    }
    let evidence = sign.iter().map(|s| (s.id.clone(), Evidence { states: s.states.clone(), minutes: None, table: s.table.clone() }));
    let weighed = weigh(&WeighInput {
        hypotheses: prior.keys().cloned().collect(),
        prior: prior.clone(),
        evidence: evidence.collect(),
        observed: input.signs.clone(),
    })
    .map_err(|e| e.to_string())?;
    let chances = weighed.posterior;
    let likeliest = chances.iter().fold(("", -1.0), |best, (k, p)| if *p > best.1 { (k.as_str(), *p) } else { best });
    let p_hail = chances.get("hail").copied().unwrap_or_default();
    let verdict = match likeliest {
        ("hail", p) if p >= SURE => HitVerdict::Hit,
        (_, p) if p >= SURE => HitVerdict::NotHail,
        _ if p_hail < 1.0 - SURE && !input.signs.is_empty() => HitVerdict::NotHail,
        _ => HitVerdict::Doubtful,
    };
    let percent = |p: f64| format!("{:.0} %", p * 100.0);
    let words = match verdict {
        HitVerdict::Hit => format!("Hail, {}.", percent(p_hail)),
        HitVerdict::NotHail => format!("Not hail ({}): most likely {}, {}.", percent(p_hail), mark_name(likeliest.0), percent(likeliest.1)),
        HitVerdict::Doubtful if likeliest.0 == "hail" => format!("Doubtful: hail, {}.", percent(p_hail)),
        HitVerdict::Doubtful => {
            format!("Doubtful: hail {}, {} {}.", percent(p_hail), mark_name(likeliest.0), percent(likeliest.1))
        }
    };
    Ok(HitOut { verdict, likeliest: likeliest.0.to_owned(), words, chances })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn seen(signs: &[(&str, &str)]) -> HitOut {
        hit(&HitInput { signs: signs.iter().map(|(a, b)| ((*a).to_owned(), (*b).to_owned())).collect() }).unwrap()
    }

    #[test]
    fn the_table_is_whole() {
        let all: Vec<&String> = data().prior.keys().collect();
        assert!((data().prior.values().sum::<f64>() - 1.0).abs() < 1e-9);
        for s in signs() {
            assert_eq!(s.states.len(), s.state_words.len(), "{}", s.id);
            assert_eq!(s.table.keys().collect::<Vec<_>>(), all, "{}", s.id);
            for (h, row) in &s.table {
                assert_eq!(row.len(), s.states.len(), "{} {h}", s.id);
                assert!((row.iter().sum::<f64>() - 1.0).abs() < 1e-9, "{} {h}", s.id);
            }
        }
    }

    #[test]
    fn each_lookalike_is_told_by_its_own_signs() {
        for (signs, verdict, likeliest) in [
            (&[("shape", "round"), ("rim", "sunk"), ("mat", "soft"), ("bare", "bright")][..], HitVerdict::Hit, "hail"),
            (&[("shape", "round"), ("rim", "raised"), ("bare", "granules-in")], HitVerdict::NotHail, "blister"),
            (&[("shape", "long"), ("where", "walking-line"), ("mat", "firm")], HitVerdict::NotHail, "foot-scuff"),
            (&[("rim", "raised"), ("where", "over-fastener")], HitVerdict::NotHail, "nail-pop"),
            (&[("shape", "strokes"), ("where", "under-branch")], HitVerdict::NotHail, "tree-rub"),
            (&[("bare", "dull"), ("rim", "flat"), ("mat", "firm")], HitVerdict::NotHail, "old-loss"),
            (&[("where", "repeats"), ("bare", "none")], HitVerdict::NotHail, "made-so"),
            (&[("edge", "sharp-fresh"), ("shape", "round")], HitVerdict::Hit, "hail"),
            (&[("shape", "round"), ("rim", "flat")], HitVerdict::Doubtful, "hail"),
            (&[], HitVerdict::Doubtful, "hail"),
        ] {
            let out = seen(signs);
            assert_eq!((out.verdict, out.likeliest.as_str()), (verdict, likeliest), "{signs:?}: {}", out.words);
        }
    }

    #[test]
    fn what_is_no_sign_is_refused() {
        let bad = HitInput { signs: [("colour".to_owned(), "red".to_owned())].into() };
        assert!(hit(&bad).unwrap_err().contains("There are: shape"));
        let bad = HitInput { signs: [("rim".to_owned(), "blue".to_owned())].into() };
        assert!(hit(&bad).unwrap_err().contains("sunk"));
    }

    proptest! {
        /// Whatever was seen, the chances are chances and add up to one.
        #[test]
        fn chances_add_up(picks in prop::collection::vec(0usize..6, 7)) {
            let signs = signs().iter().zip(&picks).filter_map(|(s, k)| s.states.get(*k).map(|st| (s.id.clone(), st.clone())));
            let out = hit(&HitInput { signs: signs.collect() }).unwrap();
            prop_assert!((out.chances.values().sum::<f64>() - 1.0).abs() < 1e-9);
            prop_assert!(out.chances.values().all(|p| (0.0..=1.0).contains(p)));
        }
    }
}
