//! From which rain on a run spills. It is a question of the run alone, whatever rain is looked at: so it is answered once for each run,
//! and whoever looks along the scale of rain, or changes one gutter of six, waits only for what is new.

use super::flow::{Flowing, Trough, flowing};
use super::run::RunInput;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// So much of what comes in goes over when a run begins to spill.
pub(super) const BEGINS: f64 = 1e-3;

/// The rain from which a run spills, mm/h, and the water then.
#[derive(Debug)]
pub(super) struct Begins {
    pub(super) rain_mm_h: f64,
    pub(super) state: Flowing,
}

/// What was found of runs before. None past any rain that falls, without an outlet, or where no steady water was found.
#[derive(Debug, Default)]
pub struct Beginnings(Mutex<HashMap<String, Arc<Option<Begins>>>>);

impl Beginnings {
    /// More runs than a building has, with changes tried on each; past them all are forgotten.
    const MOST: usize = 500;

    /// What is known of a run, or found now and kept. What is refused is not kept.
    pub(super) fn of(&self, run: &RunInput, find: impl FnOnce() -> Result<Option<Begins>, String>) -> Result<Arc<Option<Begins>>, String> {
        // The rain is not part of the question. A figure that JSON cannot write is none, and is refused by whoever looks for it.
        let key = serde_json::to_string(&RunInput { rain_mm_h: 0.0, ..run.clone() }).unwrap_or_default();
        let known = || self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let before = known().get(&key).cloned();
        if let Some(found) = before {
            return Ok(found);
        }
        // The search takes milliseconds: others do not wait for it, and two at once find the same.
        let found = Arc::new(find()?);
        let mut all = known();
        if all.len() >= Beginnings::MOST {
            all.clear();
        }
        all.insert(key, found.clone());
        Ok(found)
    }
}

/// Where it stands deepest, and how deep.
pub(super) fn deepest(f: &Flowing) -> (f64, f64) {
    let k = (0..f.y.len()).max_by(|a, b| f.y[*a].total_cmp(&f.y[*b])).unwrap_or(0);
    (f.x[k], f.y[k])
}

/// The rain from which a run spills, and the water then. None past any rain that falls, or where no steady water was found.
pub(super) fn begins_to_spill(trough: &Trough<'_>, area: f64) -> Option<Begins> {
    /// The search begins at a hard rain, mm/h, always the same: where it ends must not depend on which rain was looked at first.
    const FIRST: f64 = 120.0;
    /// More rain than falls on earth, mm/h.
    const MOST_RAIN: f64 = 100_000.0;
    /// The rain is found to this share.
    const FOUND: f64 = 0.004;
    /// Near enough to the beginning: three tenths of a thousandth that goes over.
    const AT_IT: f64 = 0.3;
    /// Never more than fourfold the rain at once, ln 4.
    const LARGEST: f64 = 1.4;
    /// Depth goes about as rain to two thirds, and what goes over grows as the rain does, until two of each say more.
    const DEPTH: f64 = 2.0 / 3.0;
    const OVER: f64 = 1.0;
    let rim = trough.section.depth();
    let (mut rain, mut state) = (FIRST, flowing(trough, FIRST / 3.6e6, None)?);
    // What was tried under the brim: the logarithm of the rain and of the depth beside the brim; and over it: that of the rain, and the
    // share that goes over. The nearest two of each, the nearest last.
    let (mut under, mut over): (Vec<[f64; 2]>, Vec<[f64; 2]>) = (Vec::new(), Vec::new());
    for _ in 0..40 {
        let share = state.over.iter().sum::<f64>() / (area * rain / 3.6e6);
        if (share / BEGINS - 1.0).abs() < AT_IT {
            break;
        }
        let x = rain.ln();
        if share > BEGINS {
            over.push([x, share])
        } else {
            under.push([x, (deepest(&state).1 / rim).ln().min(0.0)])
        }
        // From two that were tried, or one and how it usually goes, to where the figure is `to`.
        let leads = |tried: &[[f64; 2]], usual: f64, to: f64| {
            let [x, v] = *tried.last()?;
            let before = tried.len().checked_sub(2).map(|k| tried[k]);
            let slope = before.map(|b| (v - b[1]) / (x - b[0])).filter(|s| *s > usual / 20.0).unwrap_or(usual);
            Some(x + (to - v) / slope)
        };
        let (up, down) = (leads(&under, DEPTH, 0.0), leads(&over, OVER, BEGINS));
        let next = match (under.last(), over.last()) {
            (Some(a), Some(b)) => {
                let (a, b) = (a[0], b[0]);
                if b - a < FOUND {
                    break;
                }
                // Two over the brim say it best: from there on it is a line. Else the brim as it is seen from below.
                let said = if over.len() > 1 || under.len() < 2 { down } else { up };
                said.filter(|x| *x > a && *x < b).unwrap_or(f64::midpoint(a, b)).clamp(a + (b - a) * 0.05, b - (b - a) * 0.05)
            }
            // A little more than that is tried, so that the beginning is passed.
            (Some(a), None) => (up.unwrap_or(x) + 0.02).clamp(a[0] + 0.02, a[0] + LARGEST),
            (None, _) => (down.unwrap_or(x) - 0.005).clamp(x - LARGEST, x - 0.005),
        };
        rain = next.exp();
        if rain > MOST_RAIN {
            return None;
        }
        state = flowing(trough, rain / 3.6e6, Some(&state))?;
    }
    Some(Begins { rain_mm_h: rain, state })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::gutter::downspout::Bore;
    use crate::gutter::run::{AlongGutter, RunOutlet, run, run_with};
    use crate::gutter::section::Section;
    use proptest::prelude::*;
    use proptest::strategy::ValueTree;

    fn any_run() -> impl Strategy<Value = RunInput> {
        (3.0..14.0_f64, -0.02..0.04_f64, 40.0..110.0_f64, 0.0..1.0_f64, 1.0..8.0_f64).prop_map(|(length_m, fall, bore, at, width)| {
            RunInput {
                section: Section::HalfRound { diameter_m: 0.125 },
                length_m,
                levels: vec![[0.0, fall], [length_m, 0.0]],
                manning_n: 0.014,
                outlets: vec![RunOutlet { x_m: at * length_m, bore: Bore::Round { diameter_mm: bore }, strainer: false, up_m: 0.0 }],
                along: vec![AlongGutter { from_m: 0.0, to_m: length_m, width_from_m: width, width_to_m: width }],
                bursts: vec![],
                corners_m: vec![],
                rain_mm_h: 100.0,
            }
        })
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

        /// At the rain from which it is said to spill about a thousandth goes over: three hundredths less and it is less, three hundredths more and it is
        /// more.
        #[test]
        fn it_begins_where_it_is_said_to(i in any_run()) {
            let Some(from) = run(&i).unwrap().spills_from_mm_h.filter(|r| *r < 1500.0) else { return Ok(()) };
            let share = |rain: f64| {
                let r = run(&RunInput { rain_mm_h: rain, ..i.clone() }).unwrap();
                r.spilt_l_s / r.in_l_s
            };
            prop_assert!(share(from * 0.97) < BEGINS, "{} at {from}", share(from * 0.97));
            prop_assert!(share(from * 1.03) > BEGINS, "{} at {from}", share(from * 1.03));
        }

        /// What is known changes no answer, whatever was asked before.
        #[test]
        fn what_is_known_changes_nothing(i in any_run(), j in any_run(), rain in 5.0..400.0_f64) {
            let known = Beginnings::default();
            run_with(&j, &known).unwrap();
            run_with(&RunInput { rain_mm_h: rain / 2.0, ..i.clone() }, &known).unwrap();
            let at = RunInput { rain_mm_h: rain, ..i.clone() };
            prop_assert_eq!(run_with(&at, &known).unwrap(), run(&at).unwrap());
            prop_assert!(known.0.lock().unwrap().len() <= 2, "one entry for each run, whatever the rain");
        }
    }

    #[test]
    fn what_is_refused_is_not_kept() {
        let known = Beginnings::default();
        let mut runner = proptest::test_runner::TestRunner::deterministic();
        let mut i = any_run().new_tree(&mut runner).unwrap().current();
        i.outlets[0].x_m = 99.0;
        assert!(run_with(&i, &known).unwrap_err().contains("not on this run"));
        i.outlets[0].x_m = f64::NAN;
        assert!(run_with(&i, &known).is_err() && known.0.lock().unwrap().is_empty());
    }

    /// In a drizzle some cells of a run that falls away are dry but for a film; its water is kept all the same.
    #[test]
    fn a_drizzle_comes_to_rest() {
        let mut runner = proptest::test_runner::TestRunner::deterministic();
        for rain in [0.05, 0.4, 1.0, 1.3] {
            for _ in 0..6 {
                let i = RunInput { rain_mm_h: rain, ..any_run().new_tree(&mut runner).unwrap().current() };
                let r = run(&i).unwrap();
                assert!(
                    (r.outlets_l_s[0] / r.in_l_s - 1.0).abs() < 2e-3 && r.spilt_l_s == 0.0,
                    "{} of {} at {rain}",
                    r.outlets_l_s[0],
                    r.in_l_s
                );
            }
        }
    }
}
