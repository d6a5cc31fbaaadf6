//! Drawings beside the figures they are drawn from.

use crate::fixture::with_roof;
use crate::report::view;
use drawing::Look;

#[test]
fn a_drawing_is_sound_xml_whatever_the_names() {
    let f = with_roof();
    let v = view(f.whole.clone());
    let roof = v.roof.unwrap();
    let input = envelope::roof::account::AccountInput {
        roof: roof.clone(),
        brief: Default::default(),
        practice: Default::default(),
        today: "2026-11-23".parse().unwrap(),
    };
    let a = envelope::roof::account::account(&input, &[]);
    let plan = drawing::plan_svg(&a, Look::PRINT).unwrap();
    assert!(!plan.contains("<main>") && plan.matches("data-facet=").count() == 3);
    assert_eq!(plan.matches("data-edge=").count(), a.shape.as_ref().unwrap().edges.len());
    // Drawn in every form the page asks for.
    assert!(a.elevations.iter().all(|e| drawing::elevation_svg(e, &a, Look::PAGE).contains("var(--ink)")));
    let dxf = exchange::roof_dxf(&a).unwrap();
    let back = dxf::Drawing::load(&mut std::io::Cursor::new(dxf)).unwrap();
    let lines = back.entities().filter(|e| matches!(e.specific, dxf::entities::EntityType::Line(_))).count();
    assert_eq!(lines, a.shape.as_ref().unwrap().edges.len());
    // A rectangle in degrees from elsewhere becomes a mass of its size: a hundredth of a degree is 1113 m at the equator.
    let square = r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":{"type":"Polygon","coordinates":[[[0,0],[0.0001,0],[0.0001,0.00005],[0,0.00005],[0,0]]]}}]}"#;
    let read = exchange::read_roof_geojson(square, &Default::default()).unwrap();
    assert_eq!((read.masses[0].length.as_str(), read.masses[0].depth.as_str()), ("11.13 m", "5.57 m"));
    let bent = square.replace("[0.0001,0.00005]", "[0.0002,0.00005]");
    assert!(exchange::read_roof_geojson(&bent, &Default::default()).unwrap_err().to_string().contains("not a rectangle"));
}

#[test]
fn drawings_say_what_the_figures_say() {
    use envelope::roof::account::{AccountInput, account};
    let f = with_roof();
    let roof = view(f.whole.clone()).roof.unwrap();
    let a = account(
        &AccountInput { roof: roof.clone(), brief: Default::default(), practice: Default::default(), today: "2026-11-23".parse().unwrap() },
        &[],
    );
    let plan = drawing::plan_svg(&a, Look::PRINT).unwrap();
    // Each slope stands there with its pitch and area; each detail with its mark.
    for facet in &a.shape.as_ref().unwrap().facets {
        assert!(plan.contains(&format!(">{:.1} m²<", facet.true_area_m2)), "{}", facet.id);
    }
    assert!(plan.contains("9:12") && plan.contains("2:12"));
    assert_eq!(plan.matches("data-detail=").count(), a.details.len());
    // North is drawn only when it is known.
    assert!(!plan.contains(">N<"));
    let (slope, life) = a.slopes.iter().find_map(|s| Some((s, s.life.as_ref()?))).unwrap();
    let drawn = drawing::life_svg(slope, life, Look::PRINT);
    assert_eq!(drawn.matches("<circle").count(), life.evidence.len(), "one rung for each piece");
    assert!(
        drawn.contains(&format!("laid {:.0} years ago", life.age[1]))
            && drawn.contains(&format!("worn out in {:.0} years", life.remaining[1]))
    );
    let walls = envelope::roof::walked::walls("18 L 9 L 18.4 L 9 L").unwrap();
    let t = envelope::roof::perimeter::traverse(&envelope::roof::perimeter::TraverseInput { heading0_deg: 0.0, walls }).unwrap();
    let perimeter = drawing::perimeter_svg(&t, Look::PRINT);
    assert_eq!(t.doubtful_wall.is_some(), perimeter.contains(r##"stroke="#7A5600" stroke-width="4""##), "the doubted wall stands out");
    for n in 1..=4 {
        assert!(perimeter.contains(&format!(">{n}<")), "wall {n} has its number");
    }
}

#[test]
fn water_is_blue_and_only_water_is() {
    use envelope::rain::account::{RainAccountInput, rain_account};
    let roof = view(with_roof().whole).roof.unwrap();
    let rainwater = serde_json::json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [{ "id": "G1", "eave": "A.-v#1", "width": "80 mm",
        "levels": "0 0, 13 -20 mm", "inside": "debris", "outlets": [{ "from_left": "13 m", "bore": "60 mm" }] }] });
    let input = RainAccountInput {
        roof: roof.clone(),
        rainwater: serde_json::from_value(rainwater).unwrap(),
        front_faces: None,
        driving_rain_from: None,
        practice: Default::default(),
        at_mm_h: None,
        remedies: false,
    };
    let a = rain_account(&input);
    const BLUE: &str = "#1E5FA8";
    let flow = drawing::flow_svg(&roof, &Default::default(), &a, Some([0.0, 1.0]), Look::PRINT).unwrap();
    // A line for each eave, and the way of the drop.
    assert!(flow.matches(BLUE).count() > a.eaves.len() && flow.contains("<polyline"));
    for e in &a.eaves {
        assert!(flow.contains(&format!(">{:.0}<", e.l_min)), "{} has its figure", e.label);
    }
    let run = a.gutters[0].run.as_ref().unwrap();
    let section = drawing::section_svg(run, "G1", Look::PRINT);
    assert!(section.contains(BLUE) && section.contains(&format!("spills {:.0} L/min", run.spilt_l_s * 60.0)));
    assert!(section.contains(&format!("{:.0} mm deep", run.deepest_m * 1000.0)) && section.contains("brim"));
    // The dry drawings know no blue.
    let dry = envelope::roof::account::AccountInput {
        roof,
        brief: Default::default(),
        practice: Default::default(),
        today: "2026-11-23".parse().unwrap(),
    };
    let dry = envelope::roof::account::account(&dry, &[]);
    assert!(!drawing::plan_svg(&dry, Look::PRINT).unwrap().contains(BLUE));
    assert!(dry.elevations.iter().all(|e| !drawing::elevation_svg(e, &dry, Look::PRINT).contains(BLUE)));
}
