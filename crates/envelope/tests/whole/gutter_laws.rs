//! Laws of gutters and downspouts, and a second way to the same water surface: plain small steps along the run.

use envelope::gutter::G;
use envelope::gutter::channel::{Channel, ChannelInput, channel};
use envelope::gutter::downspout::{Bore, DownspoutInput, downspout};
use envelope::gutter::run::{AlongGutter, Burst, Run, RunInput, RunOutlet, run};
use envelope::gutter::section::Section;
use proptest::prelude::*;

fn rect(width: f64, depth: f64, length: f64, slope: f64, n: f64, catchment: f64, rain: f64) -> ChannelInput {
    ChannelInput {
        section: Section::Rect { width_m: width, depth_m: depth },
        length_m: length,
        slope,
        manning_n: n,
        catchment_width_m: catchment,
        rain_mm_h: rain,
    }
}

fn of(i: &ChannelInput) -> Channel {
    channel(i).unwrap()
}

/// The depth at the closed end of a rectangle by explicit small steps upstream from just above the critical depth.
fn stepped(i: &ChannelInput, steps: usize) -> f64 {
    let Section::Rect { width_m: b, .. } = i.section else { panic!("only rectangles are stepped") };
    let q = i.catchment_width_m * i.rain_mm_h / 3.6e6;
    let slope = |x: f64, y: f64| {
        let (flow, a) = (q * x, b * y);
        let friction = (i.manning_n * flow).powi(2) * (b + 2.0 * y).powf(4.0 / 3.0) / a.powf(10.0 / 3.0);
        (i.slope - friction - 2.0 * flow * q / (G * a * a)) / (1.0 - flow * flow * b / (G * a * a * a))
    };
    // Steps grow away from the outlet, where the surface is steepest.
    let mut x = i.length_m;
    let mut y = ((q * x / b).powi(2) / G).cbrt() * 1.02;
    for k in 0..steps {
        let to = i.length_m * (1.0 - ((k + 1) as f64 / steps as f64).powi(3));
        let h = x - to;
        let k1 = slope(x, y);
        let k2 = slope(x - h / 2.0, y - h / 2.0 * k1);
        let k3 = slope(x - h / 2.0, y - h / 2.0 * k2);
        let k4 = slope(x - h, y - h * k3);
        y -= h * (k1 + 2.0 * k2 + 2.0 * k3 + k4) / 6.0;
        x = to;
    }
    y
}

#[test]
fn the_surface_agrees_with_plain_small_steps() {
    for (slope, n, rain) in [(0.0, 0.012, 125.0), (0.001, 0.016, 90.0), (-0.0008, 0.012, 60.0), (0.002, 0.025, 150.0)] {
        let i = rect(0.125, 0.1, 9.0, slope, n, 6.0, rain);
        let (fine, ours) = (stepped(&i, 40_000), of(&i).y_upstream_m);
        assert!((ours / fine - 1.0).abs() < 0.005, "slope {slope}: {ours} and {fine}");
        // The plain steps themselves have settled.
        assert!((stepped(&i, 20_000) / fine - 1.0).abs() < 0.001);
    }
}

#[test]
fn the_surface_agrees_with_brute_force_in_time() {
    use crate::explicit::{Brute, settled};
    for (fall, roughness, rain) in [(0.0, 0.0, 125.0), (0.0, 0.012, 125.0), (0.002, 0.016, 90.0)] {
        let i = rect(0.125, 0.1, 9.0, fall, roughness, 6.0, rain);
        let c = of(&i);
        let brute = Brute { width: 0.125, length: 9.0, fall, roughness, inflow: 6.0 * rain / 3.6e6 };
        let off = |cells: usize| (settled(&brute, cells)[0] / c.y_upstream_m - 1.0).abs();
        let (coarse, fine) = (off(50), off(200));
        assert!(fine < 0.02 && fine < coarse, "fall {fall}: off by {coarse:.4}, then {fine:.4}: finer cells come nearer");
    }
}

#[test]
fn what_no_gutter_is_says_what_to_do() {
    let bad = |f: &dyn Fn(&mut ChannelInput)| {
        let mut i = rect(0.125, 0.1, 9.0, 0.0, 0.012, 6.0, 125.0);
        f(&mut i);
        channel(&i).unwrap_err()
    };
    assert!(bad(&|i| i.length_m = 0.0).contains("The length"));
    assert!(bad(&|i| i.slope = -0.02).contains("Check the levels"));
    assert!(bad(&|i| i.manning_n = 3.0).contains("roughness"));
    assert!(bad(&|i| i.rain_mm_h = f64::NAN).contains("rain"));
    assert!(bad(&|i| i.section = Section::HalfRound { diameter_m: -0.1 }).contains("Type a size"));
    let pipe = |bore, head, rain| downspout(&DownspoutInput { bore, head_at_outlet_mm: head, strainer: false, rain_mm_h: rain });
    assert!(pipe(Bore::Round { diameter_mm: 0.0 }, 30.0, 100.0).unwrap_err().contains("for example 75"));
    assert!(pipe(Bore::Round { diameter_mm: 75.0 }, -1.0, 100.0).unwrap_err().contains("head"));
    assert!(pipe(Bore::Round { diameter_mm: 75.0 }, 30.0, 0.0).unwrap_err().contains("millimetres per hour"));
}

fn hung(outlets: &[f64], levels: Vec<[f64; 2]>, bursts: Vec<Burst>, rain: f64) -> RunInput {
    RunInput {
        section: Section::Trapezoid { bottom_m: 0.075, top_m: 0.125, depth_m: 0.09 },
        length_m: 12.0,
        levels,
        manning_n: 0.014,
        outlets: outlets
            .iter()
            .map(|x| RunOutlet { x_m: *x, bore: Bore::Round { diameter_mm: 90.0 }, strainer: false, up_m: 0.0 })
            .collect(),
        along: vec![AlongGutter { from_m: 0.0, to_m: 12.0, width_from_m: 3.0, width_to_m: 5.0 }],
        bursts,
        corners_m: vec![],
        rain_mm_h: rain,
    }
}

fn worked(i: &RunInput) -> Run {
    run(i).unwrap()
}

#[test]
fn three_outlets_share_all_that_comes() {
    let r = worked(&hung(&[0.0, 6.0, 12.0], vec![[0.0, 0.0]], vec![], 120.0));
    assert_eq!((r.divides_m.len(), r.outlets_l_s.len()), (2, 3));
    assert!(r.divides_m[0] > 0.0 && r.divides_m[0] < 6.0 && r.divides_m[1] > 6.0 && r.divides_m[1] < 12.0, "{:?}", r.divides_m);
    assert!(r.outlets_l_s[1] > r.outlets_l_s[0] && r.outlets_l_s[1] > r.outlets_l_s[2], "the middle one drains both sides");
    // 48 m² of roof at 120 mm/h
    assert!((r.in_l_s - 1.6).abs() < 1e-9 && (r.outlets_l_s.iter().sum::<f64>() - 1.6).abs() < 1e-4);
}

#[test]
fn outlets_are_answered_in_the_order_they_were_given() {
    let (a, b) =
        (worked(&hung(&[2.0, 12.0], vec![[0.0, 0.0]], vec![], 100.0)), worked(&hung(&[12.0, 2.0], vec![[0.0, 0.0]], vec![], 100.0)));
    assert!((a.outlets_l_s[0] - b.outlets_l_s[1]).abs() < 1e-9 && (a.outlets_l_s[1] - b.outlets_l_s[0]).abs() < 1e-9);
}

#[test]
fn a_sag_between_two_good_ends_holds_its_depth() {
    let sag = vec![[0.0, 0.0], [6.0, -0.015], [12.0, 0.0]];
    let r = worked(&hung(&[0.0, 12.0], sag.clone(), vec![], 80.0));
    assert!((r.stands_m - 0.015).abs() < 1e-3 && (r.stands_at_m - 6.0).abs() < 0.1, "{r:?}");
    assert!(worked(&hung(&[6.0], sag, vec![], 80.0)).stands_m < 1e-3, "an outlet at the lowest place empties it");
}

#[test]
fn a_burst_at_the_far_end_costs_more_than_at_the_outlet() {
    let at = |x: f64| worked(&hung(&[0.0], vec![[0.0, 0.0], [12.0, 0.03]], vec![Burst { x_m: x, area_m2: 20.0 }], 100.0));
    assert!(at(12.0).spills_from_mm_h < at(0.5).spills_from_mm_h);
    assert!(at(12.0).deepest_m > at(0.5).deepest_m);
}

#[test]
fn no_rain_no_water() {
    let r = worked(&hung(&[0.0], vec![[0.0, 0.0], [12.0, 0.03]], vec![], 0.0));
    assert!(r.in_l_s == 0.0 && r.spilt_l_s == 0.0 && r.deepest_m < 1e-12, "{r:?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// A level rectangle without friction stands √3 times its critical depth at the closed end, whatever its size.
    #[test]
    fn the_closed_form(width in 0.05..0.3_f64, length in 1.0..30.0_f64, rain in 20.0..300.0_f64) {
        let c = of(&rect(width, 0.5, length, 0.0, 0.0, 5.0, rain));
        prop_assert!((c.y_upstream_m / (3.0_f64.sqrt() * c.yc_outlet_m) - 1.0).abs() < 0.002, "{} {}", c.y_upstream_m, c.yc_outlet_m);
        prop_assert_eq!(Some(c.yc_outlet_m * 3.0_f64.sqrt()), c.closed_form_frictionless_y_up_m);
    }

    /// More rain, more roughness and less fall never leave the water shallower; the brim is where the capacity says.
    #[test]
    fn the_way_depth_goes(slope in -0.002..0.02_f64, n in 0.01..0.03_f64, rain in 40.0..250.0_f64) {
        let at = |slope: f64, n: f64, rain: f64| of(&rect(0.125, 0.1, 9.0, slope, n, 6.0, rain));
        let c = at(slope, n, rain);
        prop_assert!(at(slope, n, rain * 1.2).y_max_m >= c.y_max_m - 1e-6);
        prop_assert!(at(slope, n * 1.2, rain).y_max_m >= c.y_max_m - 1e-5);
        prop_assert!(at(slope - 0.001, n, rain).y_max_m >= c.y_max_m - 1e-5);
        let full = at(slope, n, c.capacity_inflow_m2_s * 3.6e6 / 6.0);
        prop_assert!((full.y_max_m - 0.1).abs() < 2e-4, "{}", full.y_max_m);
        prop_assert_eq!(c.overtops, c.y_max_m > 0.1);
    }

    /// A larger outlet and a higher head never take less; the head that is needed gives the flow back; a strainer halves it.
    #[test]
    fn outlets_and_pipes(d in 40.0..200.0_f64, head in 1.0..120.0_f64, q in 0.1..6.0_f64) {
        let bore = Bore::Round { diameter_mm: d };
        prop_assert!(bore.takes_l_s(head * 1.1, false) >= bore.takes_l_s(head, false));
        let larger = Bore::Round { diameter_mm: d * 1.1 };
        prop_assert!(larger.takes_l_s(head, false) >= bore.takes_l_s(head, false));
        prop_assert!((bore.takes_l_s(bore.head_mm(q, false), false) / q - 1.0).abs() < 1e-6);
        prop_assert!((bore.takes_l_s(head, true) * 2.0 / bore.takes_l_s(head, false) - 1.0).abs() < 1e-9);
        let w = downspout(&DownspoutInput { bore, head_at_outlet_mm: head, strainer: false, rain_mm_h: 120.0 }).unwrap();
        prop_assert!(w.leader_fill_7_24.us_q_l_s < w.leader_fill_1_3.us_q_l_s);
        prop_assert!((w.leader_fill_1_3.us_q_l_s / w.leader_fill_1_3.en_kb025_q_l_s - 1.0).abs() < 0.01, "both constants are one formula");
        prop_assert!((w.plan_area_served_m2 * 120.0 / 3600.0 - w.governing_q_l_s_fill_1_3).abs() < 1e-9);
    }

    /// Whatever hangs: in is out and spilt, divides lie between their outlets, and the drawing goes from end to end.
    #[test]
    fn whatever_hangs(x in 0.3..11.7_f64, second in any::<bool>(), tip in -0.03..0.04_f64, rain in 30.0..220.0_f64) {
        let mut outlets = vec![x];
        if second { outlets.push(12.0) }
        let r = worked(&hung(&outlets, vec![[0.0, 0.0], [12.0, -tip]], vec![Burst { x_m: 0.0, area_m2: 6.0 }], rain));
        prop_assert!(((r.outlets_l_s.iter().sum::<f64>() + r.spilt_l_s) / r.in_l_s - 1.0).abs() < 1e-4);
        prop_assert!((r.in_l_s - 54.0 * rain / 3600.0).abs() < 1e-9);
        prop_assert!(r.divides_m.iter().all(|d| (0.0..=12.0).contains(d)));
        prop_assert!(r.surface.first().unwrap()[0] < 0.2 && r.surface.last().unwrap()[0] > 11.8);
        prop_assert!(r.surface.windows(2).all(|w| w[1][0] >= w[0][0] - 1e-9), "from left to right");
        // A thousandth over the brim is where spilling begins; nearer than that to its rain either may be said.
        let from = r.spills_from_mm_h.unwrap();
        prop_assert!((rain / from - 1.0).abs() < 0.02 || (r.spilt_l_s > 1e-3 * r.in_l_s) == (from < rain), "{} from {from}", r.spilt_l_s);
    }
}
