//! Drawings beside the figures they are drawn from: what is written on them is what was computed.

use crate::sheet::all;
use crate::water::BLUE;
use drawing::{Look, elevation_svg, flow_svg, life_svg, perimeter_svg, plan_svg, section_svg};
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::record::Roof;
use roxmltree::Document;
use serde_json::{Value, json};

/// A house whose name would be a tag if it were not escaped.
fn house() -> Value {
    json!({ "masses": [
        { "id": "A", "name": "<main>", "length": "12 m", "depth": "8 m", "form": "gable", "pitch": { "how": "typed", "text": "9:12" }, "eave": "2.7 m", "overhang": "0.5", "covering": "wood-shake" },
        { "id": "B", "name": "lean-to", "length": "5 m", "depth": "2 m", "form": "shed", "falls_to": "rear", "pitch": { "how": "typed", "text": "2:12" }, "eave": "2 m", "overhang": "0.2", "covering": "standing-seam",
          "against": { "mass": "A", "face": "rear", "from_left": "2 m" } }
    ], "papers": [{ "kind": "permit", "on": "2010-05-01" }] })
}

fn roof(masses: Value) -> Account {
    let roof: Roof = serde_json::from_value(masses).unwrap();
    account(&AccountInput { roof, brief: Default::default(), practice: Default::default(), today: "2026-11-23".parse().unwrap() }, &[])
}

#[test]
fn a_drawing_is_sound_xml_whatever_the_names() {
    let a = roof(house());
    let plan = plan_svg(&a, Look::PRINT).unwrap();
    let sheet = Document::parse(&plan).unwrap();
    let bearing = |key: &'static str| sheet.descendants().filter(|n| n.has_attribute(key)).count();
    assert_eq!((bearing("data-facet"), bearing("data-edge")), (3, a.shape.as_ref().unwrap().edges.len()));
    // Drawn in every form the page asks for.
    for e in &a.elevations {
        let svg = elevation_svg(e, &a, Look::PAGE);
        assert!(svg.contains("var(--ink)") && Document::parse(&svg).is_ok());
    }
}

#[test]
fn a_plan_says_what_the_figures_say() {
    let a = roof(house());
    let plan = plan_svg(&a, Look::PRINT).unwrap();
    // Each slope stands there with its pitch and area; each detail with its mark.
    for facet in &a.shape.as_ref().unwrap().facets {
        assert!(plan.contains(&format!(">{:.1} m²<", facet.true_area_m2)), "{}", facet.id);
    }
    assert!(plan.contains("9:12") && plan.contains("2:12"));
    assert_eq!(plan.matches("data-detail=").count(), a.details.len());
    // North is drawn only when it is known.
    assert!(!plan.contains(">N<"));
}

#[test]
fn a_life_has_a_rung_for_each_piece_and_its_two_figures() {
    let a = roof(house());
    let (slope, life) = a.slopes.iter().find_map(|s| Some((s, s.life.as_ref()?))).unwrap();
    let drawn = life_svg(slope, life, Look::PRINT);
    assert_eq!(all(&Document::parse(&drawn).unwrap(), "circle").count(), life.evidence.len());
    assert!(drawn.contains(&format!("laid {:.0} years ago", life.age[1])), "{:?}", life.age);
    assert!(drawn.contains(&format!("worn out in {:.0} years", life.remaining[1])), "{:?}", life.remaining);
}

#[test]
fn a_wall_that_is_doubted_stands_out() {
    let drawn = |told: &str| {
        let walls = envelope::roof::walked::walls(told).unwrap();
        let t = envelope::roof::perimeter::traverse(&envelope::roof::perimeter::TraverseInput { heading0_deg: 0.0, walls }).unwrap();
        let svg = perimeter_svg(&t, Look::PRINT);
        (t.doubtful_wall, svg.matches(r##"stroke="#7A5600" stroke-width="4""##).count())
    };
    assert_eq!(drawn("18 L 9 L 18 L 9 L"), (None, 0));
    let (doubted, marks) = drawn("18 L 9 L 18.4 L 9 L");
    assert_eq!((doubted.is_some(), marks), (true, 1));
}

#[test]
fn water_is_blue_and_only_water_is() {
    let gutter = json!([{ "id": "G1", "eave": "A.-v#1", "width": "80 mm", "levels": "0 0, 13 -20 mm", "inside": "debris",
        "outlets": [{ "from_left": "13 m", "bore": "60 mm" }] }]);
    let (input, a) = crate::water::rained(house()["masses"].clone(), gutter, json!([]));
    let flow = flow_svg(&input.roof, &Default::default(), &a, Some([0.0, 1.0]), Look::PRINT).unwrap();
    // A line for each eave, and the way of the drop.
    assert!(flow.matches(BLUE).count() > a.eaves.len() && flow.contains("<polyline"));
    for e in &a.eaves {
        assert!(flow.contains(&format!(">{:.0}<", e.l_min)), "{} has its figure", e.label);
    }
    let run = a.gutters[0].run.as_ref().unwrap();
    let section = section_svg(run, "G1", Look::PRINT);
    assert!(section.contains(BLUE) && section.contains(&format!("spills {:.0} L/min", run.spilt_l_s * 60.0)));
    assert!(section.contains(&format!("{:.0} mm deep", run.deepest_m * 1000.0)) && section.contains("brim"));
    // The dry drawings know no blue.
    let dry = roof(house());
    assert!(!plan_svg(&dry, Look::PRINT).unwrap().contains(BLUE));
    assert!(dry.elevations.iter().all(|e| !elevation_svg(e, &dry, Look::PRINT).contains(BLUE)));
}
