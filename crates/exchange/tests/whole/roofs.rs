//! Roofs in files: what is written holds all of the roof, and what comes back is what went out.

use envelope::job::Brief;
use envelope::practice::Practice;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::record::Roof;
use exchange::{read_roof_geojson, roof_dxf, roof_geojson};
use proptest::prelude::*;
use serde_json::{Value, json};

fn mass(id: &str, more: Value) -> Value {
    let mut m = json!({ "id": id, "name": id, "length": "14 m", "depth": "8 m", "form": "hip", "pitch": { "how": "typed", "text": "7:12" },
        "eave": "2.8 m", "overhang": "0.4 m", "covering": "slate" });
    for (k, v) in more.as_object().unwrap() {
        m[k] = v.clone();
    }
    m
}

/// A hip with a gable wing behind it and a flat porch before it, turned with its front.
fn house(front: f64) -> (Roof, Account, Brief) {
    let against = |face: &str| json!({ "mass": "A", "face": face, "from_left": "3 m", "runs_on": face == "rear" });
    let masses = json!([
        mass("A", json!({})),
        mass("B", json!({ "length": "5 m", "depth": "4 m", "form": "gable", "ridge": "front-to-rear", "against": against("rear") })),
        mass(
            "C",
            json!({ "length": "4 m", "depth": "2 m", "form": "flat", "eave": "2.4 m", "overhang": "0.2 m", "against": against("front") })
        ),
    ]);
    let roof: Roof = serde_json::from_value(json!({ "masses": masses })).unwrap();
    let brief: Brief = serde_json::from_value(json!({ "front_faces": front })).unwrap();
    let input =
        AccountInput { roof: roof.clone(), brief: brief.clone(), practice: Practice::usual("p"), today: "2026-11-20".parse().unwrap() };
    let account = account(&input, &[]);
    (roof, account, brief)
}

/// A ring of corners in degrees, metres from a place on the globe.
fn outline(corners: &[[f64; 2]], latitude: f64) -> String {
    let degrees = |[x, y]: [f64; 2]| {
        let north = latitude + y / 111_320.0;
        json!([12.0 + x / (111_320.0 * latitude.to_radians().cos()), north])
    };
    let ring: Vec<Value> = corners.iter().map(|p| degrees(*p)).collect();
    json!({ "type": "FeatureCollection", "features": [{ "type": "Feature", "properties": {}, "geometry": { "type": "Polygon", "coordinates": [ring] } }] }).to_string()
}

fn metres(text: &str) -> f64 {
    text.strip_suffix(" m").unwrap().parse().unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Wherever on the globe it stands and however it is turned, a rectangle becomes a mass of its sides, the length along the front.
    #[test]
    fn a_rectangle_keeps_its_sides(long in 6.0..30.0_f64, part in 0.3..0.9_f64, turn in -40.0..40.0_f64, latitude in -60.0..65.0_f64, from in 0_usize..4, other_way: bool) {
        let deep = long * part;
        let (s, c) = turn.to_radians().sin_cos();
        let at = |x: f64, y: f64| [x * c - y * s, x * s + y * c];
        let mut ring = [at(0.0, 0.0), at(long, 0.0), at(long, deep), at(0.0, deep)];
        if other_way {
            ring.reverse();
        }
        ring.rotate_left(from);
        let mut closed = ring.to_vec();
        closed.push(ring[0]);
        let brief: Brief = serde_json::from_value(json!({ "front_faces": 180 })).unwrap();
        let roof = read_roof_geojson(&outline(&closed, latitude), &brief).unwrap();
        let m = &roof.masses[0];
        prop_assert!((metres(&m.length) - long).abs() < 0.02 && (metres(&m.depth) - deep).abs() < 0.02, "{} x {} of {long} x {deep}", m.length, m.depth);
    }

    /// What goes out as GeoJSON comes back mass by mass, and its facets add up to the roof.
    #[test]
    fn masses_come_back_as_they_went(front in 0.0..360.0_f64) {
        let (roof, account, brief) = house(front);
        let text = roof_geojson(&roof, &account);
        prop_assert_eq!(&read_roof_geojson(&text, &brief).unwrap().masses, &roof.masses);
        let read: Value = serde_json::from_str(&text).unwrap();
        let of = |kind: &str| read["features"].as_array().unwrap().iter().filter(|f| f["properties"]["kind"] == kind).cloned().collect::<Vec<_>>();
        let shape = account.shape.as_ref().unwrap();
        let areas: f64 = of("facet").iter().map(|f| f["properties"]["plan_area_m2"].as_f64().unwrap()).sum();
        prop_assert!((areas - shape.plan_area_m2).abs() < 1e-6);
        prop_assert_eq!((of("mass").len(), of("edge").len(), of("detail").len()), (3, shape.edges.len(), account.details.len()));
    }
}

#[test]
fn four_corners_that_are_no_rectangle_are_refused() {
    let brief = Brief::default();
    let first = [0.0, 0.0];
    for (what, ring) in [
        ("a kite whose fourth side is as long as the first", vec![first, [10.0, 0.0], [10.0, 5.0], [20.0, 5.0], first]),
        ("the same, straight on", vec![first, [10.0, 0.0], [10.0, 5.0], [10.0, 15.0], first]),
        ("a trapezium", vec![first, [10.0, 0.0], [10.0, 5.0], [3.0, 5.0], first]),
        ("out of square", vec![first, [10.0, 0.0], [11.0, 5.0], [1.0, 5.0], first]),
        ("five corners", vec![first, [10.0, 0.0], [10.0, 5.0], [5.0, 7.0], [0.0, 5.0], first]),
        ("a ring that ends elsewhere", vec![first, [10.0, 0.0], [10.0, 5.0], [0.0, 5.0], [4.0, 9.0]]),
        ("no width", vec![first, [10.0, 0.0], [10.0, 0.0], first, first]),
    ] {
        let said = read_roof_geojson(&outline(&ring, 48.0), &brief).unwrap_err().to_string();
        assert!(said.starts_with("Outline 1 is not a rectangle"), "{what}: {said}");
    }
    assert!(read_roof_geojson("{", &brief).unwrap_err().to_string().contains("not GeoJSON"));
    let empty = json!({ "type": "FeatureCollection", "features": [] }).to_string();
    assert!(read_roof_geojson(&empty, &brief).unwrap_err().to_string().contains("no outline"));
}

/// Read back by another program's eyes: every edge with its length in space, every wall and facet closed, each on its layer.
#[test]
fn the_drawing_holds_every_edge_at_its_length() {
    use dxf::entities::EntityType;
    let (_, account, _) = house(200.0);
    let shape = account.shape.as_ref().unwrap();
    let bytes = roof_dxf(&account).unwrap();
    let drawing = dxf::Drawing::load(&mut bytes.as_slice()).unwrap();
    let mut lengths = std::collections::BTreeMap::<String, f64>::new();
    let (mut walls, mut facets) = (0, 0);
    for e in drawing.entities() {
        match &e.specific {
            EntityType::Line(l) => {
                let (dx, dy, dz) = (l.p2.x - l.p1.x, l.p2.y - l.p1.y, l.p2.z - l.p1.z);
                *lengths.entry(e.common.layer.to_lowercase()).or_default() += (dx * dx + dy * dy + dz * dz).sqrt();
            }
            EntityType::LwPolyline(p) => {
                assert!(p.is_closed() && p.vertices.len() >= 3);
                *if e.common.layer == "WALLS" { &mut walls } else { &mut facets } += 1;
            }
            _ => {}
        }
    }
    let parts: usize = shape.facets.iter().flat_map(|f| &f.parts).map(|p| 1 + p.holes.len()).sum();
    assert_eq!((walls, facets), (3, parts));
    assert!(lengths.len() > 3);
    for (kind, total) in &shape.edge_totals {
        assert!((lengths[kind] - total.true_m).abs() < 1e-6, "{kind}: {} of {}", lengths[kind], total.true_m);
    }
    assert_eq!(lengths.len(), shape.edge_totals.len());
}
