//! Readings in files: nothing is read twice under one name, every row is told of, and what is written is read back.

use envelope::ground::record::{Ground, SpotRecord};
use envelope::ground::survey::{GroundInput, survey};
use envelope::job::Brief;
use envelope::practice::Practice;
use envelope::site::Face;
use exchange::{Columns, FileUnit, ReadingsFile, ground_geojson, read_readings_csv, read_readings_geojson, readings_csv};
use proptest::prelude::*;
use std::collections::BTreeSet;

fn csv(text: &str, unit: FileUnit) -> ReadingsFile {
    read_readings_csv(text.as_bytes(), unit, &Columns::default()).unwrap()
}

/// What a reading says in metres.
fn metres(s: &SpotRecord) -> [f64; 3] {
    [&s.at.along, &s.at.out, &s.height].map(|t| t.strip_suffix(" m").unwrap().parse().unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Names of the file stand; a row without one, or with one that is there already, gets a free one. No two are alike.
    #[test]
    fn no_name_is_given_twice(names in prop::collection::vec(prop_oneof![Just(""), Just("R1"), Just("R2"), Just("R3"), Just("R5"), Just("P1")], 1..12)) {
        let rows: String = names.iter().enumerate().map(|(k, n)| format!("{n},{k},1,-0.1\n")).collect();
        let file = csv(&format!("id,x,y,z\n{rows}"), FileUnit::M);
        let given: Vec<&str> = file.spots.iter().map(|s| s.id.as_str()).collect();
        prop_assert_eq!(given.len(), names.len());
        prop_assert_eq!(given.iter().collect::<BTreeSet<_>>().len(), names.len(), "{:?}", given);
        // The first of a name keeps it, unless a row before it had to take it.
        for (k, n) in names.iter().enumerate() {
            let before: BTreeSet<&str> = given[..k].iter().copied().collect();
            prop_assert!(n.is_empty() || before.contains(n) || given[k] == *n, "{:?} of {:?}", given, names);
        }
    }

    /// Every row is kept, left out or told of as one that cannot be read, whatever stands in it.
    #[test]
    fn every_row_is_told_of(rows in prop::collection::vec(prop::array::uniform3("[-0-9a-z.\" ']{0,6}"), 0..40)) {
        let text: String = rows.iter().map(|[a, b, c]| format!("{},{},{}\n", a.replace('"', ""), b.replace('"', ""), c.replace('"', ""))).collect();
        let file = csv(&format!("x,y,z\n{text}"), FileUnit::M);
        prop_assert_eq!(file.rows, file.spots.len() as u64 + file.thinned + file.bad_rows, "{}", file.words);
        prop_assert_eq!(file.bad.len() as u64, file.bad_rows.min(100));
        // What is kept can be kept: no figure that is none, and a name of its own.
        let ground = Ground { spots: file.spots, ..Ground::default() };
        prop_assert_eq!(ground.check(), Ok(()));
    }

    /// What is written of a survey is read back as it was, to the millimetre, as a table and as GeoJSON.
    #[test]
    fn what_is_written_is_read_back(heights in prop::collection::vec(-800_i32..300, 4..30)) {
        let text: String = heights.iter().enumerate().map(|(k, mm)| format!("{},{},{}\n", k % 6, k / 6, f64::from(*mm) / 1000.0)).collect();
        let spots = csv(&format!("x,y,z\n{text}"), FileUnit::M).spots;
        let input = GroundInput {
            ground: Ground { spots: spots.clone(), ..Ground::default() },
            roof: Default::default(),
            rainwater: Default::default(),
            brief: Brief::default(),
            practice: Practice::usual("p"),
            notes: vec![],
        };
        let account = survey(&input).account;
        prop_assert_eq!(account.readings.len(), spots.len());
        let mut table = Vec::new();
        readings_csv(&account, &mut table).unwrap();
        let back = [
            read_readings_csv(table.as_slice(), FileUnit::M, &Columns::default()).unwrap(),
            read_readings_geojson(ground_geojson(&account).as_bytes(), FileUnit::M).unwrap(),
        ];
        for file in back {
            prop_assert_eq!(file.bad_rows, 0, "{:?}", file.bad);
            prop_assert_eq!(file.spots.len(), spots.len());
            for (was, is) in spots.iter().zip(&file.spots) {
                prop_assert_eq!(&was.id, &is.id);
                for (a, b) in metres(was).into_iter().zip(metres(is)) {
                    prop_assert!((a - b).abs() < 1e-9, "{:?} {:?}", was, is);
                }
            }
        }
    }
}

#[test]
fn a_bare_figure_is_in_the_files_unit_and_one_with_its_own_is_in_that() {
    for (unit, x) in [(FileUnit::M, 2.0), (FileUnit::Mm, 2000.0), (FileUnit::Ft, 6.561_679_79), (FileUnit::In, 78.740_157_48)] {
        let file = csv(&format!("x,y,z\n{x},1 m,-6 in\n"), unit);
        let [along, out, z] = metres(&file.spots[0]);
        assert!((along - 2.0).abs() < 1e-9 && (out - 1.0).abs() < 1e-9 && (z + 0.152).abs() < 1e-9, "{unit:?}: {along} {out} {z}");
    }
    // In the wrong unit it is another lot, and the row says so.
    let wrong = csv("x,y,z\n2000,1,-0.1\n3,1,-100\n", FileUnit::M);
    assert_eq!((wrong.spots.len(), wrong.bad_rows), (0, 2));
    assert!(wrong.bad[0].message.contains("another lot") && wrong.bad[1].message.contains("a cliff"), "{:?}", wrong.bad);
    assert_eq!(wrong.words, "0 readings in 2 rows; 2 rows cannot be read.");
}

#[test]
fn columns_are_found_by_their_names_or_as_they_are_said() {
    let text = "Point,Station,Distance,Level,Side,Surface\nP1,1,2,-0.1,Rear,PAVING\nP2,3,2,-0.2,,soil\nP3,5,2,-0.2,attic,soil\n";
    let file = csv(text, FileUnit::M);
    let faces: Vec<Option<Face>> = file.spots.iter().map(|s| s.at.face).collect();
    assert_eq!(faces, [Some(Face::Rear), None]);
    assert_eq!((file.bad[0].line, file.bad[0].message.contains("is no face")), (4, true), "{:?}", file.bad);
    assert_eq!(serde_json::to_value(file.spots[0].top).unwrap(), "paving");
    let said = Columns { along: Some("distance".into()), out: Some("station".into()), ..Columns::default() };
    let turned = read_readings_csv(text.as_bytes(), FileUnit::M, &said).unwrap();
    assert_eq!(metres(&turned.spots[0])[..2], [2.0, 1.0]);
    let missing = read_readings_csv("a,b\n1,2\n".as_bytes(), FileUnit::M, &Columns::default()).unwrap_err().to_string();
    assert!(missing.contains("The file has: a, b"), "{missing}");
}

#[test]
fn points_without_a_height_are_told_and_lines_of_our_own_are_passed_over() {
    let point =
        |c: &str, more: &str| format!(r#"{{"type":"Feature","geometry":{{"type":"Point","coordinates":{c}}},"properties":{{{more}}}}}"#);
    let pond = r#"{"type":"Feature","geometry":{"type":"LineString","coordinates":[[0,0],[1,1]]},"properties":{"kind":"pond"}}"#;
    let line = r#"{"type":"Feature","geometry":{"type":"LineString","coordinates":[[0,0],[1,1]]},"properties":{}}"#;
    let all = [point("[1,1,-0.1]", r#""id":"A""#), point("[2,1]", r#""height":-0.2"#), point("[3,1]", ""), pond.into(), line.into()];
    let text = format!(r#"{{"type":"FeatureCollection","features":[{}]}}"#, all.join(","));
    let file = read_readings_geojson(text.as_bytes(), FileUnit::M).unwrap();
    let ids: Vec<&str> = file.spots.iter().map(|s| s.id.as_str()).collect();
    assert_eq!(ids, ["A", "R2"]);
    let told: Vec<(u64, bool)> = file.bad.iter().map(|b| (b.line, b.message.contains("no height"))).collect();
    assert_eq!(told, [(3, true), (5, false)], "{:?}", file.bad);
}
