//! `calc weigh`: a few explanations, what each makes likely, what was observed, and which test would tell most.
//!
//! Bayes as it stands in any textbook: the posterior is the prior times the likelihood of each thing observed, normalised. What was
//! not observed gives no factor. The worth of a test is how much it is expected to narrow what may be true, in bits.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Something that may be observed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Evidence {
    /// What it may show.
    pub states: Vec<String>,
    /// What it costs to look, minutes; none when it cannot be looked for at will.
    #[serde(default)]
    pub minutes: Option<f64>,
    /// How likely each state is under each explanation, in the order of the states.
    pub table: BTreeMap<String, Vec<f64>>,
}

/// Input of `calc weigh`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WeighInput {
    /// What may be true; one of them is.
    pub hypotheses: Vec<String>,
    /// How likely each was before.
    pub prior: BTreeMap<String, f64>,
    /// What may be observed.
    pub evidence: BTreeMap<String, Evidence>,
    /// What was, by name: its state.
    #[serde(default)]
    pub observed: BTreeMap<String, String>,
}

/// What a test would leave if it showed a state.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Branch {
    /// The state.
    pub state: String,
    /// How likely it is to show.
    pub probability: f64,
    /// What would be believed then; none where it cannot show.
    pub posterior: BTreeMap<String, f64>,
    /// How much would be open then, bits.
    pub entropy_bits: f64,
}

/// What a test that was not made is worth.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestWorth {
    /// How likely each state is.
    pub predictive: BTreeMap<String, f64>,
    /// How much it is expected to narrow, bits; never below nought.
    pub expected_gain_bits: f64,
    /// What it costs.
    pub minutes: Option<f64>,
    /// Gain for each minute; none without a cost.
    pub gain_per_minute: Option<f64>,
    /// What each outcome would leave.
    pub branches: Vec<Branch>,
}

/// What `calc weigh` answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WeighOut {
    /// How likely each is now; the prior where nothing can be true.
    pub posterior: BTreeMap<String, f64>,
    /// How much is open, bits.
    pub entropy_bits: f64,
    /// How much was before.
    pub prior_entropy_bits: f64,
    /// How likely all that was observed was.
    pub probability_of_evidence: f64,
    /// What was not observed.
    pub tests: BTreeMap<String, TestWorth>,
    /// Tests by what they tell.
    pub order_by_gain: Vec<String>,
    /// Tests by what they tell for their time; those without a cost are left out.
    pub order_by_gain_per_minute: Vec<String>,
    /// What was observed cannot be under any explanation.
    pub contradiction: bool,
}

/// Why nothing can be weighed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct WeighError(String);

/// Sums of chances may be off by so much: figures are typed with a few digits.
const SUM_OFF: f64 = 1e-6;

fn entropy<'a>(of: impl IntoIterator<Item = &'a f64>) -> f64 {
    of.into_iter().filter(|p| **p > 0.0).map(|p| -p * p.log2()).sum::<f64>() + 0.0
}

fn check(i: &WeighInput) -> Result<(), WeighError> {
    let err = |m: String| Err(WeighError(m));
    let chance = |p: &f64| (0.0..=1.0).contains(p);
    let mut seen = std::collections::BTreeSet::new();
    if i.hypotheses.is_empty() || !i.hypotheses.iter().all(|h| !h.trim().is_empty() && seen.insert(h)) {
        return err("Name at least one explanation, and each only once.".into());
    }
    if let Some(h) = i.hypotheses.iter().find(|h| !i.prior.get(*h).is_some_and(chance)) {
        return err(format!("{h} needs a prior from 0 to 1."));
    }
    if let Some(h) = i.prior.keys().find(|h| !i.hypotheses.contains(h)) {
        return err(format!("The prior names {h}, which is no explanation."));
    }
    let sum: f64 = i.prior.values().sum();
    if (sum - 1.0).abs() > SUM_OFF {
        return err(format!("The priors sum to {sum}, and must sum to 1."));
    }
    for (name, e) in &i.evidence {
        let mut states = std::collections::BTreeSet::new();
        if e.states.is_empty() || !e.states.iter().all(|s| states.insert(s)) {
            return err(format!("{name} needs at least one state, and each only once."));
        }
        if e.minutes.is_some_and(|m| !(m > 0.0 && m.is_finite())) {
            return err(format!("The minutes of {name} must be above 0."));
        }
        if let Some(h) = e.table.keys().find(|h| !i.hypotheses.contains(h)) {
            return err(format!("The table of {name} names {h}, which is no explanation."));
        }
        for h in &i.hypotheses {
            let Some(row) = e.table.get(h) else { return err(format!("The table of {name} says nothing of {h}.")) };
            let sum: f64 = row.iter().sum();
            if row.len() != e.states.len() || !row.iter().all(chance) || (sum - 1.0).abs() > SUM_OFF {
                return err(format!("The chances of {name} under {h} must be {} from 0 to 1 that sum to 1.", e.states.len()));
            }
        }
    }
    for (name, state) in &i.observed {
        let Some(e) = i.evidence.get(name) else { return err(format!("{name} was observed, but is not described.")) };
        if !e.states.contains(state) {
            return err(format!("{name} cannot be \"{state}\". Choose one of: {}.", e.states.join(", ")));
        }
    }
    Ok(())
}

/// Weighs what may be true.
///
/// # Errors
/// What is missing, or does not sum to one.
pub fn weigh(i: &WeighInput) -> Result<WeighOut, WeighError> {
    check(i)?;
    let prior: Vec<f64> = i.hypotheses.iter().map(|h| i.prior[h]).collect();
    let likely = |e: &Evidence, state: usize| -> Vec<f64> { i.hypotheses.iter().map(|h| e.table[h][state]).collect() };
    let mut joint = prior.clone();
    for (name, state) in &i.observed {
        let e = &i.evidence[name];
        let at = e.states.iter().position(|s| s == state).unwrap_or(0);
        joint.iter_mut().zip(likely(e, at)).for_each(|(p, l)| *p *= l);
    }
    let probability_of_evidence: f64 = joint.iter().sum();
    let contradiction = probability_of_evidence <= 0.0;
    // Where nothing can be true nothing was learnt; that it is so is said apart.
    let posterior: Vec<f64> = if contradiction { prior.clone() } else { joint.iter().map(|p| p / probability_of_evidence).collect() };
    let named = |p: &[f64]| -> BTreeMap<String, f64> { i.hypotheses.iter().cloned().zip(p.iter().copied()).collect() };
    let open = entropy(&posterior);
    let tests: BTreeMap<String, TestWorth> = i
        .evidence
        .iter()
        .filter(|(name, _)| !i.observed.contains_key(*name))
        .map(|(name, e)| {
            let branches: Vec<Branch> = e
                .states
                .iter()
                .enumerate()
                .map(|(k, state)| {
                    let joint: Vec<f64> = posterior.iter().zip(likely(e, k)).map(|(p, l)| p * l).collect();
                    let probability: f64 = joint.iter().sum();
                    let then: Vec<f64> = if probability > 0.0 { joint.iter().map(|p| p / probability).collect() } else { vec![] };
                    Branch { state: state.clone(), probability, entropy_bits: entropy(&then), posterior: named(&then) }
                })
                .collect();
            let left: f64 = branches.iter().map(|b| b.probability * b.entropy_bits).sum();
            let expected_gain_bits = (open - left).max(0.0);
            let worth = TestWorth {
                predictive: branches.iter().map(|b| (b.state.clone(), b.probability)).collect(),
                expected_gain_bits,
                minutes: e.minutes,
                gain_per_minute: e.minutes.map(|m| expected_gain_bits / m),
                branches,
            };
            (name.clone(), worth)
        })
        .collect();
    let order = |of: &dyn Fn(&TestWorth) -> Option<f64>| -> Vec<String> {
        let mut all: Vec<(&String, f64)> = tests.iter().filter_map(|(n, t)| Some((n, of(t)?))).collect();
        all.sort_by(|a, b| b.1.total_cmp(&a.1).then_with(|| a.0.cmp(b.0)));
        all.into_iter().map(|(n, _)| n.clone()).collect()
    };
    Ok(WeighOut {
        posterior: named(&posterior),
        entropy_bits: open,
        prior_entropy_bits: entropy(&prior),
        probability_of_evidence,
        order_by_gain: order(&|t| Some(t.expected_gain_bits)),
        order_by_gain_per_minute: order(&|t| t.gain_per_minute),
        contradiction,
        tests,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    prop_compose! {
        fn chances(n: usize)(raw in prop::collection::vec(0.0..1.0f64, n)) -> Vec<f64> {
            let sum: f64 = raw.iter().sum::<f64>() + 1e-9 * n as f64;
            raw.iter().map(|r| (r + 1e-9) / sum).collect()
        }
    }

    fn given() -> impl Strategy<Value = WeighInput> {
        (2..5usize, 1..4usize).prop_flat_map(|(h, e)| {
            let tables = prop::collection::vec(prop::collection::vec(chances(3), h), e);
            (chances(h), tables, prop::collection::vec(prop::option::of(0..3usize), e)).prop_map(move |(prior, tables, seen)| {
                let hypotheses: Vec<String> = (0..h).map(|k| format!("h{k}")).collect();
                let states: Vec<String> = ["a", "b", "c"].map(String::from).to_vec();
                let evidence = tables.into_iter().enumerate().map(|(k, rows)| {
                    let table = hypotheses.iter().cloned().zip(rows).collect();
                    (format!("e{k}"), Evidence { states: states.clone(), minutes: Some(5.0), table })
                });
                WeighInput {
                    prior: hypotheses.iter().cloned().zip(prior).collect(),
                    evidence: evidence.collect(),
                    observed: seen.iter().enumerate().filter_map(|(k, s)| Some((format!("e{k}"), states[(*s)?].clone()))).collect(),
                    hypotheses,
                }
            })
        })
    }

    proptest! {
        #[test]
        fn chances_sum_to_one_and_no_test_is_expected_to_make_things_worse(i in given()) {
            let out = weigh(&i).unwrap();
            prop_assert!((out.posterior.values().sum::<f64>() - 1.0).abs() < 1e-9);
            for t in out.tests.values() {
                prop_assert!((t.predictive.values().sum::<f64>() - 1.0).abs() < 1e-6 && t.expected_gain_bits >= 0.0);
                // Believing before is the mean of believing after.
                for h in &i.hypotheses {
                    let mean: f64 = t.branches.iter().map(|b| b.probability * b.posterior.get(h).copied().unwrap_or(0.0)).sum();
                    prop_assert!((mean - out.posterior[h]).abs() < 1e-6);
                }
            }
        }

        /// Seen one after another or at once, and beside evidence that prefers nothing: the same.
        #[test]
        fn order_and_idle_evidence_change_nothing(i in given()) {
            let at_once = weigh(&i).unwrap();
            let mut step = WeighInput { observed: BTreeMap::new(), ..i.clone() };
            for (name, state) in i.observed.iter().rev() {
                step.observed = [(name.clone(), state.clone())].into();
                step.prior = weigh(&step).unwrap().posterior;
            }
            let idle = Evidence { states: vec!["a".into(), "b".into()], minutes: None, table: i.hypotheses.iter().map(|h| (h.clone(), vec![0.3, 0.7])).collect() };
            let mut more = i.clone();
            more.evidence.insert("idle".into(), idle);
            more.observed.insert("idle".into(), "b".into());
            let with_idle = weigh(&more).unwrap();
            for h in &i.hypotheses {
                prop_assert!((step.prior[h] - at_once.posterior[h]).abs() < 1e-6 && (with_idle.posterior[h] - at_once.posterior[h]).abs() < 1e-9);
            }
        }
    }

    #[test]
    fn what_cannot_be_is_said_and_what_is_missing_refused() {
        let base = || WeighInput {
            hypotheses: vec!["roof".into(), "pipe".into()],
            prior: [("roof".into(), 0.5), ("pipe".into(), 0.5)].into(),
            evidence: [(
                "rain".into(),
                Evidence {
                    states: vec!["yes".into(), "no".into()],
                    minutes: None,
                    table: [("roof".into(), vec![1.0, 0.0]), ("pipe".into(), vec![1.0, 0.0])].into(),
                },
            )]
            .into(),
            observed: [("rain".into(), "no".into())].into(),
        };
        let out = weigh(&base()).unwrap();
        assert!(out.contradiction && out.posterior == base().prior && out.probability_of_evidence == 0.0);
        type Change = (&'static str, fn(&mut WeighInput));
        let wrong: [Change; 6] = [
            ("sum to 1", |i| i.prior.extend([("roof".into(), 0.7)])),
            ("needs a prior", |i| i.prior.retain(|h, _| h != "pipe")),
            ("says nothing of pipe", |i| drop(i.evidence.get_mut("rain").unwrap().table.remove("pipe"))),
            ("cannot be", |i| drop(i.observed.insert("rain".into(), "perhaps".into()))),
            ("not described", |i| drop(i.observed.insert("wind".into(), "yes".into()))),
            ("only once", |i| i.hypotheses.push("roof".into())),
        ];
        for (says, change) in wrong {
            let mut i = base();
            change(&mut i);
            let said = weigh(&i).unwrap_err().to_string();
            assert!(said.contains(says), "{said}");
        }
    }
}
