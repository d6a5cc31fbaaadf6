//! Results against numbers that were computed by somebody else, at the tolerances they state.

use envelope::calc::run;
use serde_json::Value;

/// Holds every expected figure against what came out: numbers within the tolerance their name asks for, the rest equal.
fn hold(path: &str, expected: &Value, got: &Value, tolerance: &dyn Fn(&str) -> (f64, f64)) {
    match (expected, got) {
        (Value::Object(e), _) => e.iter().for_each(|(k, v)| hold(&format!("{path}.{k}"), v, &got[k], tolerance)),
        (Value::Array(e), Value::Array(g)) => {
            assert_eq!(e.len(), g.len(), "{path}");
            e.iter().zip(g).enumerate().for_each(|(i, (e, g))| hold(&format!("{path}[{i}]"), e, g, tolerance));
        }
        (Value::Number(e), Value::Number(g)) => {
            let (e, g) = (e.as_f64().unwrap(), g.as_f64().unwrap());
            let (absolute, relative) = tolerance(path);
            assert!((e - g).abs() <= absolute + relative * e.abs(), "{path}: {g} instead of {e}");
        }
        (e, g) => assert_eq!(e, g, "{path}"),
    }
}

fn cases(file: &str) -> Vec<Value> {
    let all: Value = serde_json::from_str(file).unwrap();
    all["cases"].as_array().unwrap().clone()
}

fn answer(name: &str, case: &Value) -> Value {
    let out = run(name, &case["input"].to_string()).unwrap_or_else(|e| panic!("{}: {e}", case["id"]));
    serde_json::from_str(&out).unwrap()
}

#[test]
fn perimeters() {
    let all = cases(include_str!("../reference/A_traverse.json"));
    assert!(all.len() >= 5);
    for c in all {
        // Coordinates to a micrometre, areas to ten square millimetres, ratios to a millionth.
        let tolerance = |path: &str| match path {
            p if p.contains("ratio") => (0.0, 1e-6),
            p if p.contains("area") => (1e-5, 0.0),
            _ => (1e-6, 0.0),
        };
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("traverse", &c), &tolerance);
    }
}

#[test]
fn age_and_life() {
    let all = cases(include_str!("../reference/L_life2.json"));
    assert!(all.len() >= 6);
    for c in all {
        let tolerance = |path: &str| if path.contains(".p_") { (0.01, 0.0) } else { (0.3, 0.0) };
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("life", &c), &tolerance);
    }
}

/// Hits in test squares: rates, ranges, slopes compared, costs compared.
#[test]
fn hail_in_test_squares() {
    let all = cases(include_str!("../reference/I_hail.json"));
    assert!(all.len() >= 2);
    for c in all {
        let tolerance = |path: &str| match path {
            p if p.contains("rate_per") => (0.0, 1e-8),
            p if p.contains("ci95") => (1e-6, 0.0),
            p if p.contains("cost") => (1e-6, 0.0),
            p if p.contains("break_even_hits") => (1e-6, 0.0),
            _ => (1e-7, 0.0),
        };
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("hail", &c), &tolerance);
    }
}

/// A gutter that spills: each figure at the tolerance its case states.
#[test]
fn gutters_that_spill() {
    let all = cases(include_str!("../reference/D2_spill.json"));
    assert!(all.len() >= 8);
    for c in all {
        let (id, e, got) = (c["id"].as_str().unwrap(), &c["expected"], answer("gutter-run", &c));
        let figure = |v: &Value| v.as_f64().unwrap();
        let list = |v: &Value| v.as_array().unwrap().iter().map(|x| x.as_f64().unwrap()).collect::<Vec<_>>();
        let comes = figure(&e["in_l_s"]);
        let near = |what: &str, g: f64, e: f64, by: f64| assert!((g - e).abs() <= by, "{id} {what}: {g} instead of {e}");
        near("in", figure(&got["in_l_s"]), comes, 0.005 * comes);
        for (k, (g, e)) in list(&got["outlets_l_s"]).iter().zip(list(&e["outlets_l_s"])).enumerate() {
            near(&format!("outlet {k}"), *g, e, 0.03 * comes);
        }
        near("spilt", figure(&got["spilt_l_s"]), figure(&e["spilt_l_s"]), 0.03 * comes);
        for (k, (g, e)) in list(&got["spilt_by_third_l_s"]).iter().zip(list(&e["spilt_by_third_l_s"])).enumerate() {
            near(&format!("third {k}"), *g, e, 0.05 * comes);
        }
        let deepest = figure(&e["deepest_m"]);
        near("deepest", figure(&got["deepest_m"]), deepest, f64::max(0.003, 0.03 * deepest));
        let length = figure(&c["input"]["length_m"]);
        let within = |x: f64, w: &[f64]| x >= w[0] - 0.03 * length && x <= w[1] + 0.03 * length;
        let stretches = |v: &Value| v.as_array().unwrap().iter().map(list).collect::<Vec<_>>();
        let at = figure(&got["deepest_at_m"]);
        assert!(stretches(&e["deepest_within_m"]).iter().any(|w| within(at, w)), "{id}: deepest at {at}");
        for w in stretches(&e["divide_within_m"]) {
            assert!(list(&got["divides_m"]).iter().any(|d| within(*d, &w)), "{id}: no divide within {w:?} but {:?}", got["divides_m"]);
        }
        match e["spills_from_mm_h"].as_f64() {
            Some(from) => near("spills from", figure(&got["spills_from_mm_h"]), from, 0.03 * from),
            None => assert!(got["spills_from_mm_h"].is_null(), "{id}"),
        }
        let out: f64 = list(&got["outlets_l_s"]).iter().sum();
        near("balance", out + figure(&got["spilt_l_s"]), figure(&got["in_l_s"]), 0.01 * comes);
    }
}

/// Storms over grids of heights: volumes to 2 % or 2 L, depths to 2 mm, shares to 0.02, times to 3 minutes.
#[test]
fn storms_on_the_ground() {
    let all = cases(include_str!("../reference/F4_storm.json"));
    assert!(all.len() >= 8);
    for c in all {
        let (id, e, got) = (c["id"].as_str().unwrap(), &c["expected"], answer("storm", &c));
        let figure = |v: &Value| v.as_f64().unwrap();
        let list = |v: &Value| v.as_array().unwrap().clone();
        let volume = |what: &str, g: f64, e: f64| assert!((g - e).abs() <= f64::max(0.02 * e, 0.002), "{id} {what}: {g} instead of {e}");
        for (k, v) in e["balance"].as_object().unwrap().iter().filter(|(k, _)| *k != "error_pct") {
            volume(k, figure(&got["balance"][k]), figure(v));
        }
        assert!(figure(&got["balance"]["error_pct"]) < 0.02, "{id}");
        for t in list(&e["times"]) {
            let at = list(&got["times"]).into_iter().find(|g| (figure(&g["min"]) - figure(&t["min"])).abs() < 1e-9).unwrap();
            volume(&format!("minute {}", t["min"]), figure(&at["standing_m3"]), figure(&t["standing_m3"]));
        }
        let tiny = |p: &Value| figure(&p["peak_m3"]) < 0.003 || figure(&p["peak_depth_m"]) < 0.003;
        for p in list(&e["ponds"]) {
            let Some(q) = list(&got["ponds"]).into_iter().find(|g| g["id"] == p["id"]) else {
                assert!(tiny(&p), "{id}: no pond {}", p["id"]);
                continue;
            };
            let name = &p["id"];
            volume(&format!("{name} peak"), figure(&q["peak_m3"]), figure(&p["peak_m3"]));
            let near = |what: &str, by: f64| {
                assert!((figure(&q[what]) - figure(&p[what])).abs() <= by, "{id} {name} {what}: {} instead of {}", q[what], p[what])
            };
            near("peak_depth_m", 0.002);
            near("peak_min", 3.0);
            match p["gone_min"].as_f64() {
                Some(_) => near("gone_min", 3.0),
                None => assert!(q["gone_min"].is_null(), "{id} {name}"),
            }
            let area = figure(&q["area_m2"]);
            assert!(area >= figure(&p["area_ok_m2"][0]) - 1e-6 && area <= figure(&p["area_ok_m2"][1]) + 1e-6, "{id} {name} area {area}");
            for (whose, share) in p["shares_at_peak"].as_object().unwrap() {
                let g = q["shares_at_peak"][whose].as_f64().unwrap_or(0.0);
                assert!((g - figure(share)).abs() <= 0.02, "{id} {name} {whose}: {g} instead of {share}");
            }
        }
        for q in list(&got["ponds"]) {
            assert!(tiny(&q) || list(&e["ponds"]).iter().any(|p| p["id"] == q["id"]), "{id}: {} stands too much", q["id"]);
        }
        for (row, (g, e)) in list(&got["depth_at_peak"]).iter().zip(list(&e["depth_at_peak"])).enumerate() {
            for (col, (g, e)) in list(g).iter().zip(list(&e)).enumerate() {
                match (g.as_f64(), e.as_f64()) {
                    (Some(g), Some(e)) => assert!((g - e).abs() <= 0.002, "{id} depth at {row},{col}: {g} instead of {e}"),
                    (g, e) => assert_eq!(g, e, "{id} at {row},{col}"),
                }
            }
        }
    }
}

/// Facets are compared by name, edges by what they join and where: their names and order are arbitrary.
#[test]
fn roofs() {
    let all = cases(include_str!("../reference/B_roof.json"));
    assert!(all.len() >= 4);
    for c in all {
        let (title, expected, got) = (c["id"].as_str().unwrap(), &c["expected"], answer("roof", &c));
        let near = |_: &str| (0.001, 0.0);
        for key in ["plan_area_m2", "true_area_m2", "edge_totals", "step_lower_side_totals"] {
            hold(&format!("{title}.{key}"), &expected[key], &got[key], &near);
        }
        assert_eq!(got["edge_totals"].as_object().unwrap().len(), expected["edge_totals"].as_object().unwrap().len(), "{title}");
        let exact = |_: &str| (1e-8, 1e-8);
        hold(&format!("{title}.planes"), &expected["planes"], &got["planes"], &exact);
        let list = |v: &Value, key: &str| v[key].as_array().unwrap().clone();
        assert_eq!(list(expected, "facets").len(), list(&got, "facets").len(), "{title}");
        for e in list(expected, "facets") {
            let found = list(&got, "facets").into_iter().find(|g| g["id"] == e["id"]);
            hold(&format!("{title}.{}", e["id"]), &e, &found.unwrap_or_else(|| panic!("{title}: no {}", e["id"])), &near);
        }
        assert_eq!(list(expected, "edges").len(), list(&got, "edges").len(), "{title}");
        for e in list(expected, "edges") {
            let same = |g: &Value| {
                ["kind", "facet", "other"].iter().all(|k| g[*k] == e[*k])
                    && ["p0", "p1"].iter().all(|k| (0..2).all(|i| (g[*k][i].as_f64().unwrap() - e[*k][i].as_f64().unwrap()).abs() < 1e-3))
            };
            let found = list(&got, "edges").into_iter().find(same).unwrap_or_else(|| panic!("{title}: no {e}"));
            let mut e = e.clone();
            e.as_object_mut().unwrap().remove("id");
            hold(&format!("{title} {}", e["kind"]), &e, &found, &near);
        }
    }
}

#[test]
fn design_rain() {
    for c in cases(include_str!("../reference/E_rain.json")) {
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("rain", &c), &|_| (0.0, 1e-6));
    }
}

/// Edges are found by kind and place: their names are arbitrary.
#[test]
fn runoff() {
    let all = cases(include_str!("../reference/C_runoff.json"));
    assert!(all.len() >= 4);
    for c in all {
        let (title, expected, got) = (c["id"].as_str().unwrap(), &c["expected"], answer("runoff", &c));
        let list = |v: &Value| v.as_array().unwrap().clone();
        let place =
            |a: &Value, b: &Value, key: &str| (0..2).all(|i| (a[key][i].as_f64().unwrap() - b[key][i].as_f64().unwrap()).abs() < 1e-3);
        let same = |what: &str, e: &[Value], g: &[Value], keys: &[&str]| {
            assert_eq!(e.len(), g.len(), "{title} {what}: {g:?}");
            for e in e {
                let found = g.iter().find(|g| keys.iter().all(|k| place(e, g, k)) && e["kind"] == g["kind"]);
                let mut e = e.clone();
                ["edge", "note"].iter().for_each(|k| drop(e.as_object_mut().unwrap().remove(*k)));
                hold(&format!("{title} {what}"), &e, found.unwrap_or_else(|| panic!("{title} {what}: no {e}")), &|_| (0.002, 0.0));
            }
        };
        for (facet, edges) in expected["facet_to_edges"].as_object().unwrap() {
            same(facet, &list(edges), &list(&got["facet_to_edges"][facet]), &["p0", "p1"]);
        }
        for key in ["eave_sheet", "channels", "crossing"] {
            same(key, &list(&expected[key]), &list(&got[key]), &["p0", "p1"]);
        }
        same("point_discharges", &list(&expected["point_discharges"]), &list(&got["point_discharges"]), &["at"]);
        hold(title, &expected["flat_receives_m2"], &got["flat_receives_m2"], &|_| (0.002, 0.0));
        hold(title, &expected["total_plan_m2"], &got["total_plan_m2"], &|_| (0.002, 0.0));
    }
}

#[test]
fn gutters() {
    let all = cases(include_str!("../reference/D_gutter.json"));
    assert!(all.len() >= 5);
    for c in all {
        let interior = c["expected"]["control"] == "interior critical section";
        let length = c["input"]["length_m"].as_f64().unwrap();
        let tolerance = |path: &str| match path {
            p if p.contains("x_of_y_max") => (0.02 * length, 0.0),
            p if p.contains("y_up") || p.contains("y_upstream") || p.contains("profile[0]") => (0.0, if interior { 0.05 } else { 0.01 }),
            p if p.contains("capacity") => (0.0, 0.01),
            p if p.contains("control_x") => (0.01, 0.01),
            _ => (0.0, 0.005),
        };
        let mut expected = c["expected"].clone();
        // Of the profile the first place is the closed end, with its own tolerance; a full gutter's closed end likewise.
        let capacity_end = expected.as_object_mut().unwrap().remove("capacity_y_upstream_m").unwrap();
        let got = answer("gutter", &c);
        let title = c["id"].as_str().unwrap();
        hold(title, &expected, &got, &tolerance);
        hold(&format!("{title} brim"), &capacity_end, &got["capacity_y_upstream_m"], &|_| (0.0, 0.05));
    }
}

#[test]
fn downspouts() {
    let file: Value = serde_json::from_str(include_str!("../reference/D_gutter.json")).unwrap();
    let all = file["downspouts"].as_array().unwrap();
    assert!(all.len() >= 2);
    for c in all {
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("downspout", c), &|_| (0.0, 0.005));
    }
}

#[test]
fn level_books_and_transects() {
    for (name, file, least) in
        [("level", include_str!("../reference/F1_level.json"), 2), ("transect", include_str!("../reference/F2_transect.json"), 3)]
    {
        let all = cases(file);
        assert!(all.len() >= least);
        for c in all {
            // The hollow of the second transect was sampled, not solved: it misses the peak by some 1e-8 m.
            hold(c["id"].as_str().unwrap(), &c["expected"], &answer(name, &c), &|_| (1e-6, 0.0));
        }
    }
}

#[test]
fn surfaces() {
    let all = cases(include_str!("../reference/F3_surface.json"));
    assert!(all.len() >= 2);
    for c in all {
        let got = answer("surface", &c);
        let mut expected = c["expected"].clone();
        // What drains past a point depends on the method; the range over methods is what holds.
        for (name, e) in expected["flow_accumulation"].as_object_mut().unwrap() {
            let range = e.as_object_mut().unwrap().remove("check").unwrap()["range_over_methods_m2"].clone();
            let v = got["flow_accumulation"][name]["d8_area_m2"].as_f64().unwrap();
            assert!(v >= range[0].as_f64().unwrap() * 0.9 && v <= range[1].as_f64().unwrap() * 1.1, "{name}: {v} in {range}");
            e.as_object_mut().unwrap().remove("d8_area_m2");
        }
        let tolerance = |path: &str| match path {
            p if p.contains("volume") => (1e-9, 1e-4),
            _ => (1e-6, 0.0),
        };
        hold(c["id"].as_str().unwrap(), &expected, &got, &tolerance);
    }
}

/// Laps: exact, to two thousandths of a millimetre; what must be refused is.
#[test]
fn laps_of_wall_details() {
    let all = cases(include_str!("../reference/J_laps.json"));
    assert!(all.len() >= 10);
    for c in all {
        if c["expect_error"] == true {
            let line = run("laps", &c["input"].to_string()).unwrap_err().to_string();
            assert!(line.contains("overlap") && !line.contains('\n'), "{line}");
        } else {
            hold(c["id"].as_str().unwrap(), &c["expected"], &answer("laps", &c), &|_| (2e-6, 0.0));
        }
    }
}

/// Evidence weighed: exact.
#[test]
fn evidence_is_weighed() {
    let all = cases(include_str!("../reference/H_evidence.json"));
    assert!(all.len() >= 2);
    for c in all {
        hold(c["id"].as_str().unwrap(), &c["expected"], &answer("weigh", &c), &|_| (1e-8, 1e-8));
    }
}
