use super::*;
use proptest::prelude::*;

fn input(evidence: Vec<AgeEvidence>, wear: &[(&str, u8)]) -> LifeInput {
    LifeInput {
        median_life_years: 24.0,
        building_age_years: Some(33.0),
        age_evidence: evidence,
        wear: wear.iter().map(|(i, g)| Wear { indicator: (*i).into(), grade: *g }).collect(),
        wait_years: 3.0,
        shape: 5.0,
    }
}
fn permit(elapsed_years: f64) -> AgeEvidence {
    AgeEvidence::Permit { elapsed_years, right: 0.95, part: RoofPart::Whole }
}
fn stated(years: f64, who: Option<&str>) -> AgeEvidence {
    AgeEvidence::Stated { years, first_hand: true, who: who.map(str::to_owned) }
}
fn pictures(absent: f64, present: f64) -> AgeEvidence {
    AgeEvidence::Pictures { absent_years: Some(absent), present_years: Some(present) }
}

#[test]
fn what_cannot_be_is_said() {
    let e = |i: LifeInput| life(&i).unwrap_err().to_string();
    assert!(e(input(vec![permit(40.0)], &[])).contains("One of the two is wrong"));
    assert!(e(input(vec![permit(-1.0)], &[])).contains("cannot be -1"));
    assert!(e(input(vec![pictures(5.0, 9.0)], &[])).contains("cannot have gone away"));
    let both = e(input(vec![pictures(12.0, 9.0), pictures(6.0, 3.0)], &[]));
    assert!(both.contains("not there 6 years ago") && both.contains("there 9 years ago"), "{both}");
    let lone = e(input(vec![pictures(12.0, 9.0), stated(8.0, None), pictures(6.0, 3.0)], &[]));
    assert!(!lone.contains("says 8 years") && !lone.contains("building"), "only what is at odds is named: {lone}");
    assert!(e(input(vec![], &[("moss", 7)])).contains("0 to 4"));
    assert!(e(input(vec![], &[("lichen", 2)])).contains("no sign of wear"));
    let answer = weighed(&input(vec![pictures(12.0, 9.0), pictures(6.0, 3.0)], &[])).unwrap();
    assert!(answer.contradiction && answer.life.is_none(), "what cannot be true together is an answer of the calculation");
}

#[test]
fn papers_pictures_and_wear_that_disagree_are_named() {
    let heavy = [("ridge-cap", 4), ("granule-loss", 4), ("mat-showing", 4)];
    let at_odds = life(&input(vec![permit(2.0)], &heavy)).unwrap();
    assert!(at_odds.conflicts[0].contains("wear alone"), "{:?}", at_odds.conflicts);
    let agree = life(&input(vec![permit(12.0)], &[("granule-loss", 2)])).unwrap();
    assert_eq!(agree.conflicts, Vec::<String>::new());
    let photographed = life(&input(vec![permit(5.0), pictures(20.0, 9.0)], &[])).unwrap();
    assert!(photographed.conflicts[0].contains("permit 5 years ago does not fit the dated pictures"), "{:?}", photographed.conflicts);
    assert!(photographed.age[0] >= 9.0, "pictures are bounds");
}

#[test]
fn each_piece_tells_what_it_moved_and_the_schools_stand_side_by_side() {
    let l = life(&input(vec![permit(13.0)], &[("granule-loss", 3)])).unwrap();
    assert_eq!(l.evidence.len(), 2);
    assert!(l.evidence[1].moved_by < 0.0, "heavy wear takes years away");
    assert_eq!(l.schools.combined, l.remaining);
    assert!(l.schools.condition != l.schools.typical);
    assert!(l.sentence.ends_with("left (estimate)."));
}

#[test]
fn the_same_person_counts_once_and_a_rumour_less_than_four_times() {
    let of = |e: Vec<AgeEvidence>| life(&input(e, &[])).unwrap();
    let spread = |l: &Life| l.age[2] - l.age[0];
    assert_eq!(of(vec![stated(20.0, Some("owner")), stated(12.0, Some("owner"))]).age, of(vec![stated(12.0, Some("owner"))]).age);
    let four = of((0..4).map(|k| stated(12.0, Some(&format!("neighbour {k}")))).collect());
    let one = of(vec![stated(12.0, None)]);
    assert!(spread(&four) <= spread(&one) && spread(&four) > spread(&one) / 2.0, "{:?} and {:?}", four.age, one.age);
}

#[test]
fn a_roof_may_be_overdue_and_says_so() {
    let worn: Vec<(&str, u8)> = ["ridge-cap", "granule-loss", "mat-showing", "edge-wear", "brittleness"].map(|s| (s, 4)).to_vec();
    let l = life(&LifeInput { median_life_years: 15.0, ..input(vec![permit(24.0)], &worn) }).unwrap();
    assert!(l.remaining[1] < 0.0 && l.p_overdue > 0.5, "{:?} {}", l.remaining, l.p_overdue);
    assert!(l.sentence.contains("overdue"), "{}", l.sentence);
    assert!(l.curves.remaining_from < 0.0);
    assert!((l.curves.remaining.iter().sum::<f64>() - 1.0).abs() < 1e-4);
}

#[test]
fn what_is_left_is_said_as_people_say_it() {
    for (left, says) in [
        ([6.0, 9.0, 12.0], "likely 6 to 12 left"),
        ([-4.0, -2.0, -1.0], "overdue by about 2 years (1 to 4)"),
        ([-5.0, -1.0, 2.0], "probably overdue, by about 1 years; at best 2 left, at worst overdue by 5"),
        ([-2.0, 1.0, 4.0], "likely up to 4 left, about 1; perhaps overdue already, by up to 2"),
    ] {
        assert_eq!(left_in_words(left), says);
    }
    assert_eq!(["over 99 %", "under 1 %", "50 %"].map(str::to_owned), [0.9999, 0.0001, 0.5].map(chance_in_words));
}

#[test]
fn a_paper_of_another_part_says_nothing_here() {
    let other = AgeEvidence::Permit { elapsed_years: 4.0, right: 0.95, part: RoofPart::Other };
    assert_eq!(life(&input(vec![other], &[])).unwrap().age, life(&input(vec![], &[])).unwrap().age);
}

/// A small generator of its own, so that the worlds are the same each time.
struct Dice(u64);
impl Dice {
    fn roll(&mut self) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 11) as f64 + 0.5) / (1u64 << 53) as f64
    }
    fn normal(&mut self) -> f64 {
        (-2.0 * self.roll().ln()).sqrt() * (std::f64::consts::TAU * self.roll()).cos()
    }
}

/// Roofs that were laid, wore out, waited and were renewed as the model says; then looked at, told of and sometimes on paper. Over
/// many of them 80 % of what is true lies in what is said.
#[test]
fn the_ranges_are_honest_over_simulated_roofs() {
    let mut dice = Dice(20_261_126);
    let (mut age_in, mut left_in, mut roofs) = (0, 0, 0);
    let thresholds = [0.30, 0.50, 0.68, 0.85];
    for _ in 0..1000 {
        let median = 14.0 + 20.0 * dice.roll();
        let building = 5.0 + 60.0 * dice.roll();
        let scale = median / std::f64::consts::LN_2.powf(0.2);
        // From the building on: one covering after another.
        let mut clock = building + 0.25 * dice.normal();
        let (age, life_of_it) = loop {
            let serves = scale * (-dice.roll().ln()).powf(0.2);
            let stays = serves - 3.0 * dice.roll().ln();
            if stays >= clock {
                break (clock.max(0.05), serves);
            }
            clock -= stays;
        };
        let used = age / life_of_it;
        let x = dice.roll();
        let grade = thresholds.iter().filter(|t| 1.0 / (1.0 + (-(used - **t) / 0.07).exp()) > x).count() as u8;
        let mut evidence = Vec::new();
        if dice.roll() < 0.5 {
            let said = if dice.roll() < 0.05 { building * dice.roll() } else { age + 1.5 * dice.normal() };
            evidence.push(stated(said.max(0.0), None));
        }
        let input = LifeInput {
            building_age_years: Some(building),
            ..LifeInput { median_life_years: median, ..input(evidence, &[("granule-loss", grade)]) }
        };
        let Some(walked) = Model::of(&input).walk() else { continue };
        roofs += 1;
        let p = walked.all;
        // Where the truth lies among the chances, a cell counted by its part.
        let place = |cells: &[f64], at: f64| {
            let k = (at.floor().max(0.0) as usize).min(cells.len() - 1);
            cells[..k].iter().sum::<f64>() + cells[k] * (at - k as f64).clamp(0.0, 1.0)
        };
        let within = |share: f64| (0.1..=0.9).contains(&share);
        age_in += usize::from(within(place(&p.age, age / CELL)));
        left_in += usize::from(within(place(&p.left, p.ages as f64 + (life_of_it - age) / CELL + 0.5)));
    }
    let share = |n: usize| n as f64 / f64::from(roofs);
    assert!(roofs > 990);
    for (what, n) in [("age", age_in), ("left", left_in)] {
        assert!((0.77..=0.83).contains(&share(n)), "{what}: {:.3} of {roofs} in their 80 % range", share(n));
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Probability is neither made nor lost, and more wear never leaves more years.
    #[test]
    fn masses_add_up_and_wear_takes_years(elapsed in 0.0..30.0_f64, grade in 0_u8..4) {
        let of = |g: u8| input(vec![permit(elapsed)], &[("granule-loss", g)]);
        let first = of(grade);
        let w = Model::of(&first).walk().unwrap();
        for cells in [&w.all.age, &w.all.life, &w.all.left, &w.without_wear] {
            prop_assert!((cells.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        }
        let l = life(&first).unwrap();
        prop_assert!((l.life_mean - l.age_mean - l.remaining_mean).abs() < 1e-6, "what is left is life less age");
        prop_assert!(life(&of(grade + 1)).unwrap().remaining_mean <= l.remaining_mean + 1e-9);
        for p in l.p_last.values().chain([&l.p_overdue]).chain(l.p_original.as_ref()) {
            prop_assert!((-1e-12..=1.0 + 1e-12).contains(p));
        }
    }

    /// What is not walked over, because it is next to nothing, changes nothing.
    #[test]
    fn skipping_what_is_negligible_changes_nothing(elapsed in 0.0..30.0_f64, grade in 0_u8..5, moss in 0_u8..5) {
        let i = input(vec![permit(elapsed), stated(9.0, None)], &[("edge-wear", grade), ("moss", moss)]);
        let model = Model::of(&i);
        let ages = model.ages(&i.age_evidence);
        let whole = model.over(&ages, None, &[], 0.0).unwrap();
        let fast = model.over(&ages, None, &[], NEGLIGIBLE).unwrap();
        for (a, b) in whole.all.left.iter().zip(&fast.all.left) {
            prop_assert!((a - b).abs() < 1e-6);
        }
    }
}
