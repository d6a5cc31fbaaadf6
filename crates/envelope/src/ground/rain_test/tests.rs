//! A long rain gives the same answer in longer steps.

use super::*;
use crate::ground::survey::survey;

#[derive(serde::Deserialize)]
struct Demo {
    brief: crate::job::Brief,
    roof: crate::roof::record::Roof,
    rainwater: crate::rain::record::Rainwater,
    ground: crate::ground::record::Ground,
}

#[test]
fn a_day_of_rain_in_longer_steps_wets_the_same_walls() {
    let d: Demo = toml::from_str(include_str!("../../../../../demo/jobs/1-thistlewick.toml")).unwrap();
    let i =
        GroundInput { ground: d.ground, roof: d.roof, rainwater: d.rainwater, brief: d.brief, practice: Default::default(), notes: vec![] };
    let s = survey(&i);
    let mut storm = Prepared::new(&s, &i, Wanted { lasts: Lasts::Day, ..Wanted::default() }).unwrap();
    let long = storm.run(&Otherwise::default(), &mut |_| true).unwrap();
    storm.ground_s = GROUND_S;
    let short = storm.run(&Otherwise::default(), &mut |_| true).unwrap();
    assert!(long.wet.len() >= 2 && long.wet.iter().any(|w| w.wall_metre_hours > 10.0));
    for (a, b) in long.wet.iter().zip(&short.wet) {
        assert_eq!(a.pond, b.pond);
        assert!((a.volume_m3 / b.volume_m3 - 1.0).abs() < 0.01, "{}: {} and {}", a.pond, a.volume_m3, b.volume_m3);
        assert!((a.wall_metre_hours - b.wall_metre_hours).abs() <= 0.01 * b.wall_metre_hours);
        assert!((a.fullest_min - b.fullest_min).abs() <= GROUND_DAY_S / 60.0);
    }
    assert!(long.litres.misses().abs() < 1e-5 && short.litres.misses().abs() < 1e-5);
}
