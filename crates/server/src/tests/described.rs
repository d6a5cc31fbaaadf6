//! The description of the interface is whole and true, and the command line says what HTTP says.

use super::roof_and_ground::{measured, yard};
use super::*;

#[::core::prelude::v1::test]
fn every_code_has_its_status() {
    use crate::{ApiError, Code};
    use actix_web::ResponseError;
    let all = [
        (Code::BadRequest, 422),
        (Code::Invalid, 422),
        (Code::NotFound, 404),
        (Code::Stale, 409),
        (Code::Conflict, 409),
        (Code::TooLarge, 413),
        (Code::Picture, 422),
        (Code::Bundle, 422),
        (Code::OtherOrigin, 403),
        (Code::DiskFull, 507),
        (Code::Internal, 500),
    ];
    for (code, status) in all {
        assert_eq!(ApiError::new(code, "x").status_code(), StatusCode::from_u16(status).unwrap());
    }
}

#[::core::prelude::v1::test]
fn the_description_is_whole() {
    let d = serde_json::to_value(crate::openapi()).unwrap();
    let mut ids = Vec::new();
    for (path, methods) in d["paths"].as_object().unwrap() {
        for (method, op) in methods.as_object().unwrap() {
            ids.push(op["operationId"].as_str().unwrap().to_owned());
            assert!(
                op["summary"].as_str().or(op["description"].as_str()).is_some_and(|s| s.len() > 8),
                "{method} {path} does not say what it does"
            );
        }
    }
    let all = ids.len();
    ids.sort();
    ids.dedup();
    assert_eq!(ids.len(), all, "an operation id stands twice");
}

#[::core::prelude::v1::test]
fn the_bundle_schema_leads_nowhere_outside_itself() {
    let schema: Value = serde_json::from_str(&crate::bundle_schema()).unwrap();
    fn walk(v: &Value, defs: &serde_json::Map<String, Value>) {
        match v {
            Value::Object(m) => {
                if let Some(r) = m.get("$ref").and_then(Value::as_str) {
                    let name = r.strip_prefix("#/$defs/").unwrap_or_else(|| panic!("{r} leads outside"));
                    assert!(defs.contains_key(name), "{name} is not described");
                }
                m.values().for_each(|v| walk(v, defs));
            }
            Value::Array(l) => l.iter().for_each(|v| walk(v, defs)),
            _ => {}
        }
    }
    walk(&schema, schema["$defs"].as_object().unwrap());
    assert!(schema["$defs"]["Bundle"]["properties"]["notes"].is_object());
}

/// Every calculation of the command line answers over HTTP with the same JSON; a new one without a route fails here.
/// What the description says is there and is not: properties that are required, or have a default and so are typed as always there.
fn absent(v: &Value, schema: &Value, all: &Value, at: &str, out: &mut Vec<String>) {
    let schema = match schema["$ref"].as_str() {
        Some(name) => &all[name.rsplit('/').next().unwrap()],
        None => schema,
    };
    for part in schema["allOf"].as_array().into_iter().flatten() {
        absent(v, part, all, at, out);
    }
    if let Some(object) = v.as_object() {
        for (name, property) in schema["properties"].as_object().into_iter().flatten() {
            let required = schema["required"].as_array().is_some_and(|r| r.iter().any(|n| n == name));
            // An option that is left out reads as one that is null.
            let nullable = property["type"].as_array().is_some_and(|t| t.iter().any(|t| t == "null")) || property["oneOf"].is_array();
            match object.get(name) {
                Some(v) => absent(v, property, all, &format!("{at}.{name}"), out),
                None if required || property.get("default").is_some() && !nullable => out.push(format!("{at}.{name}")),
                None => {}
            }
        }
        if schema["additionalProperties"].is_object() {
            object.values().for_each(|v| absent(v, &schema["additionalProperties"], all, &format!("{at}.*"), out));
        }
    }
    for v in v.as_array().into_iter().flatten() {
        absent(v, &schema["items"], all, &format!("{at}[]"), out);
    }
}

/// The page is typed by the description: what it calls always there must be sent, or a bench breaks on it.
#[actix_web::test]
async fn what_the_description_calls_always_there_is_always_sent() {
    let b = bench().await;
    let described: Value = serde_json::to_value(crate::openapi()).unwrap();
    let gutter = json!({ "id": "G1", "eave": "A.+v#1", "width": "100 mm", "outlets": [{ "from_left": "0 m", "bore": "75 mm" }] });
    let rainwater = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [gutter] });
    let walls = json!({ "details": [{ "id": "L1", "template": "window", "face": "front" }], "masonry": [{ "id": "M1", "face": "front", "length": "4 m" }],
        "fasteners": [{ "id": "F1", "face": "left", "counted": 3, "overdriven": 1 }], "signs": [{ "id": "S1", "face": "left", "kind": "door-binds" }],
        "cracks": [{ "id": "C1", "face": "rear", "pattern": "map", "from_x": "1 m", "from_z": "0 m", "to_x": "2 m", "to_z": "1 m" }] });
    let at = |along: &str| json!({ "room": "K1", "part": "wall", "wall": 1, "along": along, "up": "0.1 m" });
    let wall = || json!({ "length": "3 m" });
    let read =
        |id: &str, along: &str, value: f64, dry: bool, on: &str| json!({ "id": id, "at": at(along), "value": value, "dry": dry, "on": on });
    let moisture = json!({ "rooms": [{ "id": "K1", "name": "kitchen", "height": "2.5 m", "walls": [wall(), wall(), wall(), wall()] }],
        "readings": [read("P1", "1 m", 28.0, false, "2026-11-18"), read("P2", "2 m", 9.0, true, "2026-11-18"), read("P3", "2.5 m", 10.0, true, "2026-11-18"),
            read("P4", "2.8 m", 9.5, true, "2026-11-18"), read("P5", "1 m", 27.0, false, "2026-11-10")],
        "air": [{ "id": "A1", "room": "K1", "t_c": 20.0, "rh_pct": 50.0, "surface_c": 15.0, "on": "2026-11-18" }],
        "heat": [{ "id": "T1", "at": at("0 m"), "cell_m": 0.1, "grid": [[18.0, 18.0, 18.0], [18.0, 18.1, 18.0], [18.0, 18.0, 18.0]],
            "conditions": { "inside_c": 20.0, "outside_c": 4.0 }, "on": "2026-11-18" }] });
    let trace = json!({ "spots": [{ "id": "S1", "name": "damp", "at": at("1 m"), "shows": "skirting" }], "seen": [{ "id": "W1", "spot": "S1", "at": "2026-11-18T10:00", "state": "wet" }] });
    let square = json!({ "id": "Q1", "slope": "A.-v", "seed": 4, "wide": "1 m", "high": "1 m", "counted": true, "hits": [{ "id": "h1", "x": 0.5, "y": 0.5, "size": "20 mm" }] });
    let storm = json!({ "squares": [square], "soft": [{ "id": "M1", "face": "rear", "what": "gutter", "count": 3, "largest": "9 mm", "fresh": "fresh" }],
        "seen": [{ "id": "A.-v", "how": "hand" }], "wind": [{ "id": "W1", "slope": "A.-v", "part": "edge", "units": 20, "creased": 3, "from_deg": 200.0 }, { "id": "W2", "slope": "A.-v", "part": "field", "units": 20 }],
        "seals": [{ "id": "S1", "slope": "A.-v", "tried": 4, "failed": 1 }], "lifts": [{ "id": "L1", "slope": "A.-v", "tried": 4, "failed": 1 }],
        "events": [{ "id": "E1", "on": "2026-06-12", "hail_mm": 25.0, "gust_m_s": 20.0, "from_deg": 200.0, "km": 2.0 }],
        "costs": { "repair_per_hit": 20.0, "repair_fixed": 100.0, "replace_per_square": 400.0, "difficulty": 1.0 } });
    for (page, body) in [
        ("roof", measured()),
        ("rainwater", rainwater),
        ("ground", yard()),
        ("walls", walls),
        ("moisture", moisture),
        ("trace", trace),
        ("storm", storm),
    ] {
        b.change(Method::PUT, &format!("/api/jobs/{JOB}/{page}"), &json!({ "base": null, "body": body })).await;
    }
    for page in ["", "/roof", "/rainwater", "/ground", "/walls", "/moisture", "/trace", "/storm"] {
        let answer = b.get(&format!("/api/jobs/{JOB}{page}")).await.json();
        let described_as =
            &described["paths"][format!("/jobs/{{job}}{page}")]["get"]["responses"]["200"]["content"]["application/json"]["schema"];
        assert!(described_as.is_object(), "{page} is described");
        let mut out = Vec::new();
        absent(&answer, described_as, &described["components"]["schemas"], page, &mut out);
        assert_eq!(out, Vec::<String>::new(), "{page}: typed as always there, and not sent");
    }
}

/// A form is known by its name alone: two of one name would silently be one of them.
#[actix_web::test]
async fn no_two_forms_share_a_name() {
    let (mut met, mut twice) = (std::collections::BTreeMap::new(), std::collections::BTreeSet::new());
    for c in envelope::calc::CALCS {
        for (name, schema) in (c.describe)().schemas {
            let form = serde_json::to_value(&schema).unwrap();
            let before = met.insert(name.clone(), form.clone());
            if before.is_some_and(|b| b != form) {
                twice.insert(name);
            }
        }
    }
    assert!(met.len() > 100 && twice.is_empty(), "two forms are called {twice:?}");
}

#[actix_web::test]
async fn the_command_line_and_http_say_the_same() {
    let b = bench().await;
    let masses = json!({ "masses": [{ "id": "A", "centre_m": [6, 4], "len_u_m": 12, "len_v_m": 8, "eave_height_m": 2.7, "pitch": 0.5, "overhang_m": 0.5, "form": "hip" }] });
    let channel = json!({ "shape": "rect", "width_m": 0.125, "depth_m": 0.1, "length_m": 9.0, "slope": 0.0, "manning_n": 0.012, "catchment_width_m": 6.0, "rain_mm_h": 125 });
    let run = json!({ "section": { "shape": "half_round", "diameter_m": 0.125 }, "length_m": 8.0, "levels": [[0.0, 0.0]], "manning_n": 0.012,
        "outlets": [{ "x_m": 8.0, "shape": "round", "diameter_mm": 75.0 }], "along": [{ "from_m": 0.0, "to_m": 8.0, "width_from_m": 4.0, "width_to_m": 4.0 }], "rain_mm_h": 100.0 });
    let samples: Vec<(&str, Value)> = vec![
        ("measure", json!({ "text": "6 1/2 in" })),
        ("note", json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" } })),
        ("round", json!({ "walk": "WEBVTT\n\n00:02.000 --> 00:04.000\nNow the rear. Torn boot.\n" })),
        (
            "traverse",
            json!({ "walls": [{ "length_m": 18.0, "turn_after_deg": 90.0 }, { "length_m": 9.0, "turn_after_deg": 90.0 }, { "length_m": 18.0, "turn_after_deg": 90.0 }, { "length_m": 9.0, "turn_after_deg": 90.0 }] }),
        ),
        ("roof", masses.clone()),
        ("pitch", json!({ "how": "level-and-stick", "level": "24 in", "drop": "12 in" })),
        ("access", json!({ "pitch": 0.5, "covering": "slate", "eave_m": 2.7 })),
        ("roof-account", json!({ "roof": measured(), "today": "2026-11-23" })),
        ("life", json!({ "median_life_years": 24.0, "age_evidence": [{ "kind": "permit", "elapsed_years": 13.0 }] })),
        ("rain", json!({ "i5_mm_h": 132.0, "i60_mm_h": 34.0 })),
        (
            "laps",
            json!({ "x0": 0, "x1": 1, "top": 2, "bottom": 0, "pieces": [{ "id": "a", "kind": "barrier", "x0": 0, "x1": 1, "z0": 0, "z1": 1.05 }, { "id": "b", "kind": "barrier", "x0": 0, "x1": 1, "z0": 0.97, "z1": 2 }], "over": [{ "outer": "b", "inner": "a" }] }),
        ),
        ("walls", json!({ "walls": { "details": [{ "id": "L1", "template": "window", "face": "front", "faults": ["head-reversed"] }] } })),
        ("air", json!({ "t_c": 20.0, "rh_pct": 50.0, "surface_c": 12.0, "out_c": 2.0 })),
        ("wood-reading", json!({ "reading_pct": 16.0, "t_c": 5.0 })),
        (
            "moisture-map",
            json!({ "references": [10.0, 10.5, 9.8], "step": 0.5, "readings": [{ "x_m": 0.0, "y_m": 0.0, "value": 10.0 }, { "x_m": 1.0, "y_m": 0.0, "value": 20.0 }, { "x_m": 0.0, "y_m": 1.0, "value": 14.0 }] }),
        ),
        (
            "drying",
            json!({ "dry_level": 10.0, "readings": [{ "day": 0.0, "value": 20.0 }, { "day": 4.0, "value": 15.0 }, { "day": 9.0, "value": 12.0 }] }),
        ),
        ("heat", json!({ "cell_m": 0.1, "grid": [[18.0, 18.1, 18.0], [18.0, null, 18.1], [18.1, 18.0, 18.0]] })),
        (
            "trace",
            json!({ "visit": "2026-11-18T10:00", "front_deg": 200.0, "spots": [{ "id": "s", "x_m": 1.0, "y_m": 1.0, "z_m": 2.5, "shows": "ceiling" }],
            "candidates": [{ "id": "c", "kind": "roof-field", "x_m": 1.0, "y_m": 2.0, "z_m": 3.2, "downslope_deg": 200.0, "state": "open" }] }),
        ),
        (
            "hail",
            json!({ "slopes": [{ "name": "N", "azimuth_deg": 0, "counts_per_square": [4, 6] }, { "name": "S", "azimuth_deg": 180, "counts_per_square": [12] }] }),
        ),
        (
            "wind",
            json!({ "parts": [{ "slope": "N", "part": "edge", "units": 20, "creased": 3 }, { "slope": "N", "part": "field", "units": 60 }] }),
        ),
        ("hit", json!({ "signs": { "rim": "raised", "bare": "granules-in" } })),
        (
            "which-storm",
            json!({ "visit": "2026-11-25", "fresh": 3, "events": [{ "id": "E1", "on": "2026-10-07", "hail_mm": 25.0, "gust_m_s": 24.0, "from_deg": 225.0, "km": 2.0 }] }),
        ),
        ("reserve", json!({ "from_year": 2027, "years": 3, "things": [{ "name": "roof", "cost": 9000.0, "due": [1.0, 2.0, 4.0] }] })),
        ("weigh", json!({ "hypotheses": ["a"], "prior": { "a": 1.0 }, "evidence": {} })),
        ("runoff", masses),
        ("gutter", channel),
        ("gutter-run", run),
        ("downspout", json!({ "shape": "round", "diameter_mm": 80.0, "head_at_outlet_mm": 30, "rain_mm_h": 120 })),
        ("rainwater", json!({ "roof": measured(), "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h" } } })),
        (
            "overshoot",
            json!({ "leaves": { "as": "sheet", "width_m": 5.0, "pitch": 0.5 }, "rain_mm_h": 132.0, "roughness": 0.02, "past_fascia_m": 0.03, "above_rim_m": 0.03, "catch_m": 0.1 }),
        ),
        (
            "storm",
            json!({ "cell_m": 0.5, "heights": [[0.1, 0.0, 0.1], [0.1, 0.05, null]], "loss_mm_h": 4.0, "border": "open", "rain": [{ "minutes": 5.0, "mm_h": 60.0 }] }),
        ),
        ("level", json!({ "start_elevation_m": 0.0, "rows": [{ "point": "sill", "bs_m": 1.4 }, { "point": "P1", "fs_m": 1.6 }] })),
        (
            "transect",
            json!({ "wall_side_elevation_m": 0.0, "points": [{ "distance_m": 3.0, "elevation_m": -0.1 }], "cladding_clearance_m": 0.2, "clearance_required_m": 0.15 }),
        ),
        ("surface", json!({ "domain_m": [2.0, 2.0], "cell_m": 0.5, "spots_xyz_m": [[-1, -1, 0.0], [4, -1, 0.1], [-1, 4, 0.2]] })),
        ("ground", json!({ "roof": measured(), "ground": yard() })),
        (
            "rain-test",
            json!({ "place": { "roof": measured(), "ground": yard(), "rainwater": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h" } } } }),
        ),
    ];
    let mut named: Vec<&str> = samples.iter().map(|s| s.0).collect();
    let mut there = envelope::calc::names();
    named.sort_unstable();
    there.sort_unstable();
    assert_eq!(named, there, "every calculation is tried");
    for (name, input) in samples {
        let printed: Value =
            serde_json::from_str(&envelope::calc::run(name, &input.to_string()).unwrap_or_else(|e| panic!("{name}: {e}"))).unwrap();
        let answered = b.change(Method::POST, &format!("/api/calc/{name}"), &input).await;
        assert_eq!(answered.status, 200, "{name}");
        assert_eq!(answered.json(), printed, "{name}");
        let bad = b.change(Method::POST, &format!("/api/calc/{name}"), &json!({ "nothing": "of the kind" })).await.status;
        assert!((400..500).contains(&bad), "{name} took nonsense: {bad}");
    }
}

#[actix_web::test]
async fn calculations_answer_as_on_the_command_line() {
    let b = Bench::new();
    let input = json!({ "text": "6 1/2 in" });
    let over_http =
        b.send(Method::POST, "/api/calc/measure", &[("content-type", "application/json")], input.to_string().into_bytes()).await.json();
    let on_line: Value = serde_json::from_str(&envelope::calc::run("measure", &input.to_string()).unwrap()).unwrap();
    assert_eq!(over_http, on_line);
    let bad = b.send(Method::POST, "/api/calc/measure", &[("content-type", "application/json")], b"{\"text\":\"blue\"}".to_vec()).await;
    assert_eq!(bad.fault().0, 422);
}
