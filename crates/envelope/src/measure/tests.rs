use super::*;
use proptest::prelude::*;

/// What a person wrote, and what it means: quantity, exact value in the unit, unit, SI value.
/// SI values worked by hand from 25.4 mm to the inch.
const WRITTEN: &[(&str, Quantity, &str, &str, f64)] = &[
    ("1/16", Quantity::Length, "1/16", "in", 0.0015875),
    ("1/16 in", Quantity::Length, "1/16", "in", 0.0015875),
    ("6 1/2\"", Quantity::Length, "13/2", "in", 0.1651),
    ("6-1/2 in", Quantity::Length, "13/2", "in", 0.1651),
    ("6½ in", Quantity::Length, "13/2", "in", 0.1651),
    ("6.5 inches", Quantity::Length, "13/2", "in", 0.1651),
    ("six and a half inches", Quantity::Length, "13/2", "in", 0.1651),
    ("3'4\"", Quantity::Length, "40", "in", 1.016),
    ("3’4”", Quantity::Length, "40", "in", 1.016),
    ("3 ft 4 1/2 in", Quantity::Length, "81/2", "in", 1.0287),
    ("three foot four", Quantity::Length, "40", "in", 1.016),
    ("half an inch", Quantity::Length, "1/2", "in", 0.0127),
    ("a quarter inch", Quantity::Length, "1/4", "in", 0.00635),
    ("inch and a quarter", Quantity::Length, "5/4", "in", 0.03175),
    ("three-eighths of an inch", Quantity::Length, "3/8", "in", 0.009525),
    ("a thirty-second of an inch", Quantity::Length, "1/32", "in", 0.00079375),
    ("about 12 ft", Quantity::Length, "12", "ft", 3.6576),
    ("two feet", Quantity::Length, "2", "ft", 0.6096),
    ("2-ft", Quantity::Length, "2", "ft", 0.6096),
    ("50 mm", Quantity::Length, "50", "mm", 0.05),
    ("1.2m", Quantity::Length, "6/5", "m", 1.2),
    ("5 centimetres", Quantity::Length, "5", "cm", 0.05),
    ("2x4 ft", Quantity::Area, "8", "sq ft", 0.74322432),
    ("2 ft x 4 ft", Quantity::Area, "8", "sq ft", 0.74322432),
    ("ten by ten feet", Quantity::Area, "100", "sq ft", 9.290304),
    ("40 sq ft", Quantity::Area, "40", "sq ft", 3.7161216),
    ("40 sq. ft", Quantity::Area, "40", "sq ft", 3.7161216),
    ("3 squares", Quantity::Area, "3", "square", 27.870912),
    ("12 m2", Quantity::Area, "12", "m²", 12.0),
    ("12 m²", Quantity::Area, "12", "m²", 12.0),
    ("4/12", Quantity::Slope, "4", "x:12", 0.333_333_333_333),
    ("6:12", Quantity::Slope, "6", "x:12", 0.5),
    ("four in twelve", Quantity::Slope, "4", "x:12", 0.333_333_333_333),
    ("1:40", Quantity::Slope, "1/40", "1:1", 0.025),
    ("1/4 in per ft", Quantity::Slope, "1/4", "in/ft", 0.020_833_333_333),
    ("1 inch a foot", Quantity::Slope, "1", "in/ft", 0.083_333_333_333),
    ("5%", Quantity::Share, "5", "%", 0.05),
    ("-1 %", Quantity::Share, "-1", "%", -0.01),
    ("two percent", Quantity::Share, "2", "%", 0.02),
    ("45°", Quantity::Angle, "45", "°", std::f64::consts::FRAC_PI_4),
    ("80 psi", Quantity::Pressure, "80", "psi", 551_580.583_453),
    ("13 years", Quantity::Time, "13", "yr", 410_248_800.0),
    ("48 h", Quantity::Time, "48", "h", 172_800.0),
    ("132 mm/h", Quantity::Intensity, "132", "mm/h", 3.666_666_666_667e-5),
    ("4 of 9", Quantity::Count, "4", "ea", 4.0),
    ("two of nine", Quantity::Count, "2", "ea", 2.0),
    ("1,200 mm", Quantity::Length, "1200", "mm", 1.2),
];

#[test]
fn measures_as_people_write_and_say_them() {
    for (text, quantity, exact, unit, si) in WRITTEN {
        let m = parse(text).unwrap_or_else(|e| panic!("{text}: {e}"));
        assert_eq!((m.quantity, m.exact.to_string().as_str(), m.unit.symbol()), (*quantity, *exact, *unit), "{text}");
        assert!((m.si - si).abs() <= 1e-9 * si.abs().max(1.0), "{text}: {} is not {si}", m.si);
    }
}

#[test]
fn ranges_keep_both_ends_in_order() {
    for (text, low, high) in [
        ("10 to 13 years", "10", "13"),
        ("8-10 in", "8", "10"),
        ("between 5 and 6 in", "5", "6"),
        ("10 to 8 mm", "8", "10"),
        ("1/8 to 1/4", "1/8", "1/4"),
    ] {
        let m = scan(text).remove(0).measure;
        let upper = m.upper.unwrap_or_else(|| panic!("{text} has no far end"));
        assert_eq!((m.exact.to_string().as_str(), upper.exact.to_string().as_str()), (low, high), "{text}");
        assert!(upper.si >= m.si);
    }
}

#[test]
fn a_crack_has_a_width_and_a_length() {
    let found = scan("stair crack 1/16 x 4' under kitchen window");
    let texts: Vec<_> = found.iter().map(|f| (f.measure.text.as_str(), f.measure.unit)).collect();
    assert_eq!(texts, [("1/16", Unit::Inch), ("4'", Unit::Foot)]);
    assert!(found[0].measure.unit_assumed && !found[1].measure.unit_assumed);
}

#[test]
fn numbers_that_are_no_measures_are_left_alone() {
    for text in [
        "14 Tannery Lane",
        "$40",
        "40 dollars",
        "window 3",
        "R30",
        "half of the wall",
        "one",
        "a quarter of the roof",
        "W2",
        "12345678901234 mm",
        "under the window",
        "hail hits 3 in the test square",
        "2 in total",
        "all of it",
        "5/0 in",
        "",
    ] {
        assert_eq!(scan(text), [], "{text}");
    }
}

#[test]
fn how_sharp_a_figure_is() {
    let bound = |s| scan(s)[0].measure.bound;
    assert_eq!(bound("about 3 in"), Bound::About);
    assert_eq!(bound("~3 in"), Bound::About);
    assert_eq!(bound("at least 3 in"), Bound::AtLeast);
    assert_eq!(bound("<3 in"), Bound::AtMost);
    assert_eq!(bound("under 3 in"), Bound::AtMost);
    assert_eq!(bound("over 3 in"), Bound::AtLeast);
    assert_eq!(scan("12 mm over 7.5 m")[1].measure.bound, Bound::Exactly);
    assert_eq!(bound("3 in"), Bound::Exactly);
}

#[test]
fn a_rule_is_not_a_reading() {
    let found = scan("clearance only 2 in, should be 6 in");
    assert_eq!(found.iter().map(|f| f.measure.rule).collect::<Vec<_>>(), [false, true]);
}

#[test]
fn what_cannot_be_read_is_said_with_a_way_out() {
    let messages: Vec<String> = ["", "blue", "3 in of blue"].iter().map(|s| parse(s).unwrap_err().to_string()).collect();
    insta::assert_snapshot!(messages.join("\n"), @r#"
    Type a measure, for example 6 1/2 in, 3'4", 50 mm, 2 % or 6:12.
    "blue" has no measure in it. Write a number and its unit, for example 6 1/2 in, 50 mm, 2 % or 6:12.
    "of blue" beside the measure was not understood. Write one number with its unit.
    "#);
}

#[test]
fn a_measure_shows_both_units_only_when_that_says_something() {
    let shown: Vec<String> =
        ["2 ft", "50 mm", "1/16", "6:12", "10 to 13 years", "2x4 ft"].iter().map(|s| parse(s).unwrap().both(Units::Metric)).collect();
    assert_eq!(shown, ["2 ft (0.61 m)", "50 mm", "1/16 (1.59 mm)", "6:12 (50 %)", "10 to 13 years", "2x4 ft (0.743 m²)"]);
}

proptest! {
    /// Writing a tape reading and reading it back gives the same fraction.
    #[test]
    fn a_tape_reading_survives_being_written(whole in 0_i64..500, sixteenths in 1_i64..16) {
        let text = format!("{whole} {sixteenths}/16 in");
        let m = parse(&text).unwrap();
        prop_assert_eq!(m.exact, Exact::new(whole * 16 + sixteenths, 16).unwrap());
        prop_assert!((m.si - (whole as f64 + sixteenths as f64 / 16.0) * 0.0254).abs() < 1e-9);
    }

    /// The same length in different units is the same length.
    #[test]
    fn units_agree(mm in 1_i64..1_000_000) {
        let metres = parse(&format!("{}.{:03} m", mm / 1000, mm % 1000)).unwrap();
        let millimetres = parse(&format!("{mm} mm")).unwrap();
        prop_assert!((metres.si - millimetres.si).abs() < 1e-9);
    }

    /// Feet and inches together are their sum.
    #[test]
    fn feet_and_inches_add(feet in 0_i64..200, inches in 0_i64..12) {
        let both = parse(&format!("{feet}'{inches}\"")).unwrap();
        prop_assert!((both.si - feet as f64 * 0.3048 - inches as f64 * 0.0254).abs() < 1e-9);
    }

    /// No text makes the reader panic, spans lie inside the text and do not overlap, and no value is NaN.
    #[test]
    fn any_text_is_read_without_harm(text in "\\PC{0,80}") {
        let found = scan(&text);
        for f in &found {
            prop_assert!(text.get(f.span.start..f.span.end).is_some());
            prop_assert!(f.measure.si.is_finite());
        }
        prop_assert!(found.windows(2).all(|w| !w[0].span.overlaps(w[1].span)));
    }

    /// Measure-like text too.
    #[test]
    fn any_measure_like_text_is_read_without_harm(text in "[0-9./: x'\"%½to infmae,-]{0,40}") {
        for f in scan(&text) {
            prop_assert!(f.measure.si.is_finite());
        }
    }

    /// A kept measure reads back from JSON as it was.
    #[test]
    fn json_keeps_a_measure(n in 1_i64..1000, d in 1_usize..6) {
        let m = parse(&format!("{n}/{} in", 1 << d)).unwrap();
        let back: Measure = serde_json::from_str(&serde_json::to_string(&m).unwrap()).unwrap();
        prop_assert_eq!(back, m);
    }
}

#[test]
fn figures_of_speech_and_loose_numbers() {
    let read = |text: &str| {
        let m = scan(text).into_iter().next().unwrap_or_else(|| panic!("nothing in {text}")).measure;
        (m.quantity, (m.si * 1e6).round() / 1e6, m.bound)
    };
    let inch = 0.0254;
    let near = |x: f64| (x * 1e6_f64).round() / 1e6;
    for (text, quantity, si, bound) in [
        ("a couple of inches", Quantity::Length, 2.0 * inch, Bound::About),
        ("hairline", Quantity::Length, inch / 64.0, Bound::AtMost),
        ("two fingers", Quantity::Length, 1.5 * inch, Bound::About),
        ("an arm's length", Quantity::Length, 24.0 * inch, Bound::About),
        ("an inch and a quarter", Quantity::Length, 1.25 * inch, Bound::Exactly),
        ("a foot or so", Quantity::Length, 12.0 * inch, Bound::About),
        ("better than six feet", Quantity::Length, 72.0 * inch, Bound::AtLeast),
        ("no more than 3 in", Quantity::Length, 3.0 * inch, Bound::AtMost),
        ("a sixteenth", Quantity::Length, inch / 16.0, Bound::Exactly),
        ("two point four metres", Quantity::Length, 2.4, Bound::Exactly),
        ("a hundred and ten feet", Quantity::Length, 110.0 * 12.0 * inch, Bound::Exactly),
        ("five, six inches", Quantity::Length, 5.0 * inch, Bound::Exactly),
        ("half an inch in ten feet", Quantity::Slope, 0.5 / 120.0, Bound::Exactly),
        ("four twelve", Quantity::Slope, 4.0 / 12.0, Bound::Exactly),
        ("6 pitch", Quantity::Slope, 0.5, Bound::Exactly),
        ("six by six", Quantity::Area, 36.0 * inch * inch, Bound::Exactly),
        ("half a dozen", Quantity::Count, 6.0, Bound::Exactly),
        ("reads 18", Quantity::Reading, 18.0, Bound::Exactly),
    ] {
        assert_eq!(read(text), (quantity, near(si), bound), "{text}");
    }
    for text in [
        "10:30",
        "at 2:45 pm",
        "three hundred dollars",
        "three thousand bucks",
        "a half of the wall",
        "a meter box",
        "sistered two by six",
        "a quarter of the roof",
    ] {
        assert!(scan(text).is_empty(), "{text}: {:?}", scan(text));
    }
}
