//! Laws of a storm over any ground: water is neither made nor lost, turning the ground turns the answer, more never means less.

use envelope::ground::storm_calc::{BorderOf, Losses, RainPiece, StormDrain, StormInput, StormOut, StormSource, storm};
use proptest::prelude::*;

/// Rough ground of whole centimetres, so that equal heights and equal brims are common; a few cells are no land.
fn ground() -> impl Strategy<Value = Vec<Vec<Option<f64>>>> {
    (4_usize..9, 4_usize..9).prop_flat_map(|(ny, nx)| {
        prop::collection::vec(prop::collection::vec(prop::option::weighted(0.93, (0_i32..8).prop_map(|c| f64::from(c) / 100.0)), nx), ny)
    })
}

fn input(heights: Vec<Vec<Option<f64>>>) -> StormInput {
    StormInput {
        cell_m: 0.5,
        heights,
        loss_mm_h: Losses::Same(4.0),
        border: BorderOf::All("open".into()),
        rain: vec![RainPiece { minutes: 5.0, mm_h: 40.0 }, RainPiece { minutes: 10.0, mm_h: 90.0 }],
        after_min: 30.0,
        sources: vec![],
        drains: vec![],
        origins: None,
    }
}

fn run(i: &StormInput) -> StormOut {
    storm(i).unwrap()
}

fn land(i: &StormInput) -> usize {
    i.heights.iter().flatten().flatten().count()
}

#[test]
fn two_bowls_in_a_level_trough_lose_nothing() {
    // Two bowls joined by level ground at their brim, closed all round: all that falls stands.
    let mut rows = vec![vec![Some(0.10); 12]; 5];
    for r in rows.iter_mut().take(4).skip(1) {
        for c in [2, 3, 8, 9] {
            r[c] = Some(0.02);
        }
    }
    let i = StormInput { loss_mm_h: Losses::Same(0.0), border: BorderOf::All("closed".into()), ..input(rows) };
    let o = run(&i);
    let fell = land(&i) as f64 * 0.25 * (5.0 * 40.0 + 10.0 * 90.0) / 60.0 / 1000.0;
    assert!((o.balance.rain_m3 - fell).abs() < 1e-9 && (o.balance.standing_end_m3 - fell).abs() < 1e-9, "{:?}", o.balance);
    assert_eq!(o.balance.left_m3, 0.0);
}

#[test]
fn closing_the_far_side_never_empties_the_near_one() {
    let row = |r: usize| (0..10).map(|c| Some(0.05 * c as f64 / 9.0 + if r == 0 { 0.0 } else { 0.02 })).collect::<Vec<_>>();
    let heights: Vec<Vec<Option<f64>>> = (0..6).map(row).collect();
    let open = StormInput { border: BorderOf::At((0..6).map(|r| [r, 9]).collect()), ..input(heights) };
    let closed = StormInput { border: BorderOf::All("closed".into()), ..open.clone() };
    assert!(run(&closed).balance.standing_end_m3 >= run(&open).balance.standing_end_m3);
}

#[test]
fn no_soil_takes_more_than_it_can() {
    let i = StormInput { loss_mm_h: Losses::Same(25.0), border: BorderOf::All("closed".into()), ..input(vec![vec![Some(0.0); 6]; 6]) };
    let most = land(&i) as f64 * 0.25 * 25.0 / 1000.0 * 45.0 / 60.0;
    let o = run(&i);
    assert!(o.balance.soaked_m3 <= most + 1e-9 && o.balance.soaked_m3 > 0.9 * most, "{} of {most}", o.balance.soaked_m3);
}

#[test]
fn drains_across_a_slope_take_what_comes_to_them() {
    let heights: Vec<Vec<Option<f64>>> = (0..8).map(|_| (0..20).map(|c| Some(0.4 - 0.02 * c as f64)).collect()).collect();
    let mut i = StormInput { loss_mm_h: Losses::Same(0.0), ..input(heights) };
    i.border = BorderOf::At((0..8).map(|r| [r, 19]).collect());
    let without = run(&i).balance.left_m3;
    i.drains = (0..8).map(|row| StormDrain { row, col: 15, l_s: 5.0 }).collect();
    let with = run(&i).balance;
    assert!(with.left_m3 < 0.3 * without && (with.drained_m3 + with.left_m3 - without).abs() < 1e-9, "{with:?} of {without}");
}

#[test]
fn what_is_no_storm_is_refused_with_what_to_do() {
    let bad = |f: &dyn Fn(&mut StormInput)| {
        let mut i = input(vec![vec![Some(0.0); 4]; 4]);
        f(&mut i);
        storm(&i).unwrap_err()
    };
    assert!(bad(&|i| i.heights = vec![]).contains("rows of the same length"));
    assert!(bad(&|i| i.heights[1] = vec![Some(0.0)]).contains("rows of the same length"));
    assert!(bad(&|i| i.cell_m = 0.0).contains("metres from 0.01"));
    assert!(bad(&|i| i.loss_mm_h = Losses::Same(-1.0)).contains("0 or more"));
    assert!(bad(&|i| i.border = BorderOf::All("wall".into())).contains("not \"wall\""));
    assert!(bad(&|i| i.border = BorderOf::At(vec![[9, 9]])).contains("9,9"));
    assert!(bad(&|i| i.rain[0].mm_h = f64::NAN).contains("Rain is 0 to 2000"));
    assert!(bad(&|i| i.drains = vec![StormDrain { row: 9, col: 0, l_s: 1.0 }]).contains("The drain"));
    assert!(bad(&|i| i.sources = vec![StormSource { id: "spout".into(), row: 0, col: 9, l_min: 1.0 }]).contains("The source spout"));
    assert!(bad(&|i| i.origins = Some(vec![])).contains("rows like those"));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn water_is_neither_made_nor_lost(heights in ground(), open in any::<bool>(), spout in 0.0..60.0f64, drain in 0.0..3.0f64) {
        let mut i = input(heights);
        i.border = BorderOf::All(if open { "open" } else { "closed" }.into());
        let cells: Vec<(usize, usize)> = i.heights.iter().enumerate()
            .flat_map(|(r, row)| row.iter().enumerate().filter(|(_, h)| h.is_some()).map(move |(c, _)| (r, c))).collect();
        if let (Some((r, c)), Some((s, d))) = (cells.first(), cells.last()) {
            i.sources = vec![StormSource { id: "spout".into(), row: *r, col: *c, l_min: spout }];
            i.drains = vec![StormDrain { row: *s, col: *d, l_s: drain }];
        }
        let o = run(&i);
        prop_assert!(o.balance.error_pct < 1e-6, "{:?}", o.balance);
        let fell = land(&i) as f64 * 0.25 * (5.0 * 40.0 + 10.0 * 90.0) / 60.0 / 1000.0;
        prop_assert!((o.balance.rain_m3 - fell).abs() < 1e-9, "rain falls on land only");
        prop_assert!(open || o.balance.left_m3 == 0.0, "nothing leaves a closed place");
        for p in &o.ponds {
            prop_assert!((p.shares_at_peak.values().sum::<f64>() - 1.0).abs() < 0.01, "{:?}", p);
        }
        // No place is wetter than the deepest water there is, and what stands has room: depth times area holds it.
        let volume: f64 = o.depth_at_peak.iter().flatten().flatten().sum::<f64>() * 0.25;
        let most = o.times.iter().map(|t| t.standing_m3).fold(0.0, f64::max);
        prop_assert!(volume >= most - 1e-6, "{volume} m³ of room for {most}");
    }

    /// The same ground seen from the other side, where no two heights are equal and so nothing hangs on the order of cells.
    #[test]
    fn turned_ground_turns_the_answer(heights in prop::collection::vec(prop::collection::vec((0.0..0.08f64).prop_map(Some), 7), 6)) {
        let i = input(heights);
        let turned: Vec<Vec<Option<f64>>> = i.heights.iter().rev().map(|r| r.iter().rev().copied().collect()).collect();
        let (a, b) = (run(&i), run(&StormInput { heights: turned, ..i.clone() }));
        for (x, y) in [
            (a.balance.soaked_m3, b.balance.soaked_m3),
            (a.balance.left_m3, b.balance.left_m3),
            (a.balance.standing_end_m3, b.balance.standing_end_m3),
        ] {
            prop_assert!((x - y).abs() < 1e-9, "{:?} and {:?}", a.balance, b.balance);
        }
        let depths = |o: &StormOut| o.depth_at_peak.iter().flatten().flatten().copied().collect::<Vec<f64>>();
        for (x, y) in depths(&a).iter().zip(depths(&b).iter().rev()) {
            prop_assert!((x - y).abs() < 1e-9);
        }
    }

    /// Where nothing leaves and nothing soaks, everything that falls stands, whatever the hollows.
    #[test]
    fn a_closed_paved_court_keeps_everything(heights in ground()) {
        let i = StormInput { loss_mm_h: Losses::Same(0.0), border: BorderOf::All("closed".into()), ..input(heights) };
        let o = run(&i);
        prop_assert!((o.balance.standing_end_m3 - o.balance.rain_m3).abs() < 1e-9 * (1.0 + o.balance.rain_m3), "{:?}", o.balance);
        // It only grows.
        prop_assert!(o.times.windows(2).all(|w| w[1].standing_m3 >= w[0].standing_m3 - 1e-9));
    }
}
