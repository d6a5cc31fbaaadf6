//! Every point of practice with every one of its schools: each can be followed, is named in what it judges, and an own figure
//! moves the judgement the way it should.

use envelope::job::{Brief, PartMaterial};
use envelope::practice::{Choice, FigureKind, Judged, Practice, Verdict, judge_note, points};
use envelope::round::{Context, Note, read};
use envelope::site::{Face, Place, Zone};
use proptest::prelude::*;

fn with(key: &str, choice: Choice) -> Practice {
    let mut p = Practice::usual("Plumb & Daylight");
    p.choice.insert(key.into(), choice);
    p
}

fn school(key: &str, id: &str) -> Practice {
    with(key, Choice { school: Some(id.into()), ..Choice::default() })
}

fn own(key: &str, figure: &str) -> Practice {
    with(key, Choice { own: Some(figure.into()), reason: "short lots".into(), ..Choice::default() })
}

fn note(line: &str, zone: Zone) -> Note {
    read(line, &Context::at(Place::outside(Face::Rear, zone), None)).notes.remove(0).into_note(String::new())
}

fn brief() -> Brief {
    Brief { walls: vec![PartMaterial { part: "main".into(), material: "stucco on block".into() }], ..Brief::default() }
}

fn judge(line: &str, zone: Zone, p: &Practice) -> Judged {
    judge_note(&note(line, zone), &brief(), p).unwrap_or_else(|| panic!("{line} is not judged"))
}

#[test]
fn every_school_of_every_point_can_be_followed_and_survives_the_file() {
    for point in points() {
        for s in &point.school {
            let p = school(&point.key, &s.id);
            assert_eq!(p.check(), Ok(()), "{} {}", point.key, s.id);
            assert_eq!(Practice::from_toml(&p.to_toml()).unwrap(), p);
            assert_eq!(p.rule(&point.key).words(), s.name);
        }
        let figure = match point.unit {
            FigureKind::Length => "333 mm",
            FigureKind::Slope => "3 %",
            FigureKind::Count => "1.7",
            FigureKind::Intensity => "111 mm/h",
            FigureKind::None => continue,
        };
        let p = own(&point.key, figure);
        assert_eq!(p.check(), Ok(()), "{}", point.key);
        assert!(p.rule(&point.key).figure() > 0.0 && p.rule(&point.key).words().contains("short lots"));
    }
}

/// One line for each point that judges something, and the verdicts of its schools in order.
#[test]
fn schools_differ_where_they_should() {
    use Verdict::{Fails, Meets, Refer};
    let cases: [(&str, &str, Zone, &[Verdict]); 11] = [
        ("soil-fall", "slopes away 3 %", Zone::Ground, &[Fails, Meets, Meets]),
        ("hard-fall", "flatwork slopes away 1.5 %", Zone::Ground, &[Fails, Meets]),
        ("discharge-distance", "downspout dumps at wall, outlet 1.5 m away", Zone::Edge, &[Fails, Meets, Fails]),
        ("sprinkler-setback", "sprinkler head too close 6 in", Zone::Ground, &[Fails, Meets, Meets]),
        ("tree-setback", "tree trunk 5 m from wall, 9 m tall", Zone::Ground, &[Meets, Fails, Meets]),
        ("retaining-influence", "retaining wall 1.5 m away, 1.2 m high, leaning", Zone::Ground, &[Refer, Meets]),
        ("corner-spall", "corner pop 4 in", Zone::Base, &[Meets, Refer]),
        ("crack-width", "stair-step crack 1/32 in in the brick", Zone::UpperWall, &[Meets, Refer]),
        ("cricket-width", "no cricket behind chimney, stack 20 in wide", Zone::Roof, &[Meets, Fails]),
        ("overhead-line", "service drop over the roof 0.5 m clear", Zone::Roof, &[Refer]),
        ("tile-repair", "glued tile, caulked tile repair", Zone::Roof, &[Fails, Meets]),
    ];
    for (key, line, zone, verdicts) in cases {
        let point = points().iter().find(|p| p.key == key).unwrap();
        let got: Vec<Verdict> = point.school.iter().map(|s| judge(line, zone, &school(key, &s.id)).verdict).collect();
        assert_eq!(got, verdicts, "{key}: {line}");
        for s in &point.school {
            let j = judge(line, zone, &school(key, &s.id));
            assert_eq!((j.point.as_str(), j.school.as_str()), (key, s.name.as_str()), "a result names its school");
        }
    }
}

#[test]
fn clearance_follows_the_cladding_and_what_lies_below_it() {
    let usual = Practice::usual("x");
    for (line, verdict) in [
        ("soil too high at siding, 4 in left", Verdict::Fails),
        ("soil too high at stucco, 4.5 in left", Verdict::Meets),
        ("soil too high at the brick, 2 in left", Verdict::Fails),
        ("good clearance 8 in at the siding", Verdict::Meets),
    ] {
        assert_eq!(judge(line, Zone::Base, &usual).verdict, verdict, "{line}");
    }
    // Without a word of it in the note, the brief says what the wall is.
    assert!(judge("good clearance 5 in", Zone::Base, &usual).sum.contains("stucco"));
}

#[test]
fn what_lacks_a_figure_says_which() {
    let usual = Practice::usual("x");
    let unknown = |line: &str| {
        let j = judge(line, Zone::Ground, &usual);
        assert_eq!(j.verdict, Verdict::Unknown, "{line}");
        j.sum
    };
    assert!(unknown("tree trunk 5 m from wall").contains("mature height"));
    assert!(unknown("retaining wall 2 m away, leaning").contains("its height"));
    // A rule that was only quoted is no reading.
    assert!(judge_note(&note("downspout should be 6 ft from wall", Zone::Ground), &brief(), &usual).is_none());
}

proptest! {
    /// Asking for more never turns a fault into none.
    #[test]
    fn a_stricter_own_figure_is_never_milder(got in 1_u32..4000, ask in 1_u32..4000, more in 0_u32..4000) {
        let line = format!("downspout dumps at wall, outlet {got} mm away");
        let fails = |mm: u32| judge(&line, Zone::Edge, &own("discharge-distance", &format!("{mm} mm"))).verdict == Verdict::Fails;
        prop_assert!(!fails(ask) || fails(ask + more));
        prop_assert_eq!(fails(ask), got < ask);
    }

    /// More fall is never worse, and the drop that is missing closes the gap.
    #[test]
    fn more_fall_is_never_worse(tenths in 1_u32..100) {
        let verdict = |t: u32| judge(&format!("slopes away {}.{} %", t / 10, t % 10), Zone::Ground, &Practice::usual("x")).verdict;
        prop_assert_eq!(verdict(tenths) == Verdict::Meets, tenths >= 50);
    }

    /// Whatever stands in a practice file, reading it ends in a practice or in words, never otherwise.
    #[test]
    fn any_file_is_read_without_harm(text in "\\PC{0,200}", key in "[a-z-]{1,20}", value in "\\PC{0,30}") {
        let _ = Practice::from_toml(&text);
        let made = format!("name = \"x\"\n[choice.{key}]\nown = {value:?}\nreason = \"y\"");
        if let Err(e) = Practice::from_toml(&made) {
            prop_assert!(e.to_string().len() > 10);
        }
    }
}
