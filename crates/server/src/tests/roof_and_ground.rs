//! Roof, rainwater and ground, through the door: kept, looked at, refused and taken back.

use super::*;

pub(super) fn measured() -> Value {
    json!({ "perimeter": "12 L 8 L 12 L 8", "masses": [
        { "id": "A", "name": "main", "length": "12 m", "depth": "8 m", "form": "hip", "pitch": { "how": "typed", "text": "6:12" }, "eave": "2.7 m", "overhang": "0.5", "covering": "asphalt-laminated" },
        { "id": "B", "name": "wing", "length": "16 ft", "depth": "4 m", "form": "gable", "ridge": "front-to-rear", "pitch": { "how": "typed", "text": "6:12" }, "eave": "2.7 m", "overhang": "0.5", "covering": "asphalt-laminated",
          "against": { "mass": "A", "face": "rear", "from_left": "3 m", "runs_on": true } }
    ] })
}

#[actix_web::test]
async fn a_roof_is_measured_answered_and_taken_back() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    let empty = b.get(&roof).await.json();
    assert!(empty["rev"].is_null() && empty["plan"].is_null());
    assert_eq!(b.get(&format!("{roof}.dxf")).await.fault().0, 404);
    let kept = b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await.json();
    assert_eq!(kept["rev"], 1);
    let page = b.get(&roof).await.json();
    assert!(page["plan"].as_str().unwrap().starts_with("<svg") && page["elevations"].as_array().unwrap().len() == 4);
    let key = page["account"]["details"].as_array().unwrap().iter().find(|d| d["kind"] == "valley-lining").unwrap()["key"].clone();
    let expected =
        |v: &Value| v["expectations"].as_array().unwrap().iter().filter(|e| e["key"].as_str().unwrap().starts_with("roof ")).count();
    assert_eq!(
        expected(&b.view().await),
        page["account"]["details"].as_array().unwrap().len(),
        "what the shape asks for is counted on the round"
    );

    // Wrong: the answer and its note come and go together.
    let answers = format!("{roof}/answers");
    let wrong = json!({ "base": 1, "key": key, "answer": { "found": "wrong", "condition": "valley-lining-open" } });
    assert_eq!(b.change(Method::POST, &answers, &wrong).await.status, 200);
    let v = b.view().await;
    assert_eq!(
        (v["notes"][0]["body"]["condition"].as_str(), v["notes"][0]["body"]["place"]["face"].as_str()),
        (Some("valley-lining-open"), Some("rear"))
    );
    assert_eq!(b.change(Method::POST, &answers, &wrong).await.fault().0, 409, "an older revision");
    let other = json!({ "base": 2, "key": "valley-lining:X/Y", "answer": { "found": "right" } });
    assert_eq!(b.change(Method::POST, &answers, &other).await.fault().2, "key");
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    let v = b.view().await;
    assert_eq!(v["notes"], json!([]));
    assert_eq!(v["roof"]["answers"], json!({}), "no answer is left");

    // What cannot be is refused and changes nothing.
    let mut bad = measured();
    bad["masses"][0]["length"] = json!("twelve");
    assert_eq!(b.change(Method::PUT, &roof, &json!({ "base": 3, "body": bad })).await.fault().2, "masses.A.length");
    assert_eq!(b.get(&roof).await.json()["roof"]["masses"][0]["length"], "12 m");
}

#[actix_web::test]
async fn a_roof_leaves_as_open_files_and_comes_back() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await;
    assert!(String::from_utf8(b.get(&format!("{roof}.svg")).await.body).unwrap().contains("#1B2329"), "a file knows its own colours");
    let geo = b.get(&format!("{roof}.geojson")).await.body;
    let back = b.bytes(&format!("{roof}/geojson"), geo).await.json();
    assert_eq!(back["masses"], b.get(&roof).await.json()["roof"]["masses"]);
    for bad in ["{", r#"{"type":"FeatureCollection","features":[]}"#] {
        assert_eq!(b.bytes(&format!("{roof}/geojson"), bad.into()).await.fault().2, "file");
    }
    assert_eq!(b.get(&format!("{roof}.dxf")).await.status, 200);
    // The bundle brings the roof along.
    let zip = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let job = b.view().await["job"].clone();
    b.change(Method::DELETE, &format!("/api/jobs/{JOB}?base={}", job["rev"]), &json!({})).await;
    assert_eq!(b.bytes("/api/bundles", zip).await.status, 200);
    assert_eq!(b.get(&roof).await.json()["roof"]["perimeter"], "12 L 8 L 12 L 8");
}

#[actix_web::test]
async fn the_records_office_says_that_it_is_simulated() {
    let b = bench().await;
    let ask = format!("/api/jobs/{JOB}/roof/records");
    assert_eq!(b.get(&ask).await.json()["outcome"], "unknown-address");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "address": "14 Tannery Lane, Ostermoor" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    let found = b.get(&ask).await.json();
    assert_eq!((found["simulated"].as_bool(), found["permits"].as_array().map(Vec::len)), (Some(true), Some(3)));
    assert_eq!(b.get("/api/wear?covering=wood-shake&sign=moss&grade=9").await.fault().0, 422);
    assert!(b.get("/api/wear?covering=wood-shake&sign=moss&grade=3").await.json().as_str().unwrap().contains("cushions"));
}

#[actix_web::test]
async fn gutters_are_hung_looked_at_and_taken_back() {
    let b = bench().await;
    let rain = format!("/api/jobs/{JOB}/rainwater");
    assert!(b.get(&rain).await.json()["plan"].is_null(), "no roof, no water");
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    let body = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "gutters": [{ "id": "G1", "eave": "A.-v#1", "form": "half-round", "width": "125 mm",
        "levels": "0 0, 12 40 mm", "outlets": [{ "from_left": "12 m", "bore": "80 mm" }] }] });
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": null, "body": body })).await.status, 200);
    let page = b.get(&rain).await.json();
    let run = |p: &Value, key: &str| p["account"]["gutters"][0]["run"][key].as_f64().unwrap();
    assert!(run(&page, "in_l_s") > 0.5 && page["sections"][0].as_str().unwrap().contains("Long section"));
    assert!(page["plan"].as_str().unwrap().contains("data-west"));
    let burst = b.get(&format!("{rain}?at=900")).await.json();
    assert!(run(&burst, "spilt_l_s") > run(&page, "spilt_l_s"));
    assert_eq!(b.get(&format!("{rain}?at=-3")).await.fault().2, "at");
    // Trying keeps nothing; what cannot hang is refused and changes nothing.
    let mut other = body.clone();
    other["gutters"][0]["width"] = json!("200 mm");
    let tried = b.change(Method::POST, &format!("{rain}/try"), &other).await.json();
    assert!(run(&tried, "rim_m") > run(&page, "rim_m"));
    let told = &tried["comparison"];
    assert_eq!((&told["changes"], &told["gutter"], &told["face"]), (&json!(["G1: 200 mm wide"]), &json!("G1"), &json!("front")));
    other["gutters"][0]["outlets"][0]["from_left"] = json!("20 m");
    assert!(b.change(Method::PUT, &rain, &json!({ "base": 1, "body": other })).await.fault().2.starts_with("gutters.G1"));
    assert_eq!(b.get(&rain).await.json()["rainwater"]["gutters"][0]["width"], "125 mm");
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.get(&rain).await.json()["rainwater"]["gutters"], json!([]));
    assert_eq!(b.get(&format!("{rain}/weather")).await.json()["simulated"], true);
}

#[actix_web::test]
async fn a_flat_roof_is_kept_drawn_and_refused_where_it_cannot_be() {
    let b = bench().await;
    let (roof, rain) = (format!("/api/jobs/{JOB}/roof"), format!("/api/jobs/{JOB}/rainwater"));
    let mut masses = measured();
    masses["masses"][1] = json!({ "id": "B", "name": "shop", "length": "5 m", "depth": "4 m", "form": "flat", "eave": "2.4 m", "overhang": "0",
        "against": { "mass": "A", "face": "rear", "from_left": "3 m" } });
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": masses })).await;
    assert_eq!(b.get(&rain).await.json()["flat_masses"], json!([{ "mass": "B", "name": "shop" }]));
    let scupper = json!({ "kind": "scupper", "face": "rear", "from_left": "2 m", "size": "200 x 100 mm", "distance": "1 m" });
    let flat = json!({ "mass": "B", "parapets": { "rear": "10 in", "left": "10 in", "right": "10 in" }, "outlets": [scupper] });
    let body = json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "flats": [flat] });
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": null, "body": body })).await.status, 200);
    let page = b.get(&rain).await.json();
    let a = &page["account"]["flats"][0];
    assert!(a["rain"]["depth_m"].as_f64().unwrap() > 0.01 && a["problem"].is_null(), "{a}");
    assert!((a["blocked"]["depth_m"].as_f64().unwrap() - 0.254).abs() < 1e-3, "it fills to its parapet: {}", a["blocked"]);
    for drawn in ["rain", "blocked", "after", "hour"] {
        assert!(page["flats"][0][drawn].as_str().unwrap().starts_with("<svg"), "{drawn}");
    }
    // What is tried on it is told, so that it can be kept; nothing is kept by trying.
    let mut blocked = body.clone();
    blocked["flats"][0]["outlets"][0]["blocked"] = json!(true);
    let tried = b.change(Method::POST, &format!("{rain}/try"), &blocked).await.json();
    assert_eq!(tried["comparison"]["changes"], json!(["flat roof of the shop: scupper blocked"]));
    assert_eq!(b.get(&rain).await.json()["rainwater"]["flats"][0]["outlets"][0]["blocked"], false);
    // A scupper that is not on the roof is refused at its field, and what was kept stays.
    let mut off = body.clone();
    off["flats"][0]["outlets"][0]["from_left"] = json!("9 m");
    let fault = b.change(Method::PUT, &rain, &json!({ "base": 1, "body": off })).await.fault();
    assert_eq!((fault.0, fault.2.as_str()), (422, "flats.B.mass"));
    off["flats"][0]["outlets"][0]["from_left"] = json!("left of the pipe");
    assert_eq!(b.change(Method::PUT, &rain, &json!({ "base": 1, "body": off })).await.fault().2, "flats.B.outlets.0.from_left");
    assert_eq!(b.get(&rain).await.json()["rainwater"]["flats"][0]["outlets"][0]["from_left"], "2 m");
    // The report prints it.
    let pdf = b.get(&format!("/api/jobs/{JOB}/report.pdf")).await;
    assert_eq!(pdf.status, 200);
    assert!(pdf.body.starts_with(b"%PDF"));
}

/// A front yard that tips to the house, closed in by higher ground.
pub(super) fn yard() -> Value {
    let spot = |id: &str, along: f64, out: f64, mm: f64| json!({ "id": id, "at": { "face": "front", "along": format!("{along:.2} m"), "out": format!("{out:.2} m") }, "height": format!("{mm:.0} mm") });
    let mut spots = Vec::new();
    for (c, along) in [-1.5, 2.0, 6.0, 10.0, 13.5].into_iter().enumerate() {
        for (r, (out, mm)) in [(0.0, -200.0), (1.5, -190.0), (3.1, -150.0), (4.0, -100.0)].into_iter().enumerate() {
            // The ends are banked up.
            spots.push(spot(&format!("P{c}{r}"), along, out, if c % 4 == 0 { -100.0 } else { mm }));
        }
    }
    json!({ "spots": spots, "soil": "clay", "cladding": [{ "face": "front", "bottom": "-120 mm" }] })
}

/// The messages of an event stream.
fn messages(body: &[u8]) -> Vec<Value> {
    String::from_utf8_lossy(body).split("\n\n").filter_map(|m| serde_json::from_str(m.strip_prefix("data: ")?).ok()).collect()
}

#[actix_web::test]
async fn the_ground_is_read_stormed_changed_and_taken_back() {
    let b = bench().await;
    let ground = format!("/api/jobs/{JOB}/ground");
    assert!(b.get(&ground).await.json()["plan"].is_null(), "nothing was read");
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    let failed = messages(&b.get(&format!("{ground}/rain-test")).await.body);
    assert!(
        failed.len() == 1 && failed[0]["is"] == "failed" && failed[0]["message"].as_str().unwrap().contains("three heights"),
        "{failed:?}"
    );
    b.change(
        Method::PUT,
        &format!("/api/jobs/{JOB}/rainwater"),
        &json!({ "base": null, "body": { "storm": { "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 } } }),
    )
    .await;
    assert_eq!(b.change(Method::PUT, &ground, &json!({ "base": null, "body": yard() })).await.status, 200);
    let page = b.get(&ground).await.json();
    assert_eq!(
        (page["storms"].clone(), page["account"]["transects"].as_array().unwrap().len(), page["profiles"].as_array().unwrap().len()),
        (json!([10.0]), 5, 5)
    );
    assert!(page["plan"].as_str().unwrap().contains("data-pond=\"A\""), "{}", page["account"]["ponds"]);
    // The storm comes step by step, and the last message is the whole.
    let storm = messages(&b.get(&format!("{ground}/rain-test?years=10")).await.body);
    let (steps, done) = storm.split_at(storm.len() - 1);
    assert!(steps.len() > 12 && steps.iter().all(|s| s["is"] == "step") && done[0]["is"] == "done");
    let wet = done[0]["wet"][0].clone();
    assert!(wet["sentence"].as_str().unwrap().contains("against") && wet["walls"][0]["face"] == "front", "{wet}");
    let mend = b.get(&format!("{ground}/mending")).await.json();
    assert_eq!(mend[0]["remedies"].as_array().unwrap().last().unwrap()["stage"], "barrier");
    assert_eq!(b.get(&format!("{ground}/mending?years=37")).await.fault().2, "years");
    // A point: what drains through it, or that nothing is known there.
    let near = b.get(&format!("{ground}?x=5.3&y=-3")).await.json();
    assert!(near["point"].as_str().unwrap().contains("m² drain through this point"), "{}", near["point"]);
    assert!(b.get(&format!("{ground}?x=6&y=80")).await.json()["point"].as_str().unwrap().contains("not known"));
    // A change is tried and compared; nothing of it is kept.
    let mut better = yard();
    better["nearby"] = json!([{ "id": "D1", "kind": "drain", "at": { "face": "front", "along": "6 m", "out": "0.3 m" } }]);
    let tried = b.change(Method::POST, &format!("{ground}/try"), &json!({ "ground": better })).await.json();
    assert!(tried["sentence"].as_str().unwrap().contains("; after, 0 L."), "{}", tried["sentence"]);
    assert_eq!(b.get(&ground).await.json()["ground"]["nearby"], json!([]));
    let mut bad = yard();
    bad["spots"][0]["height"] = json!("-22000 mm and so on");
    let fault = b.change(Method::PUT, &ground, &json!({ "base": 1, "body": bad })).await.fault();
    assert_eq!((fault.0, fault.2.as_str()), (422, "spots.P00.height"));
    // Out as files and in again; what is wrong is named by its line.
    let csv = b.get(&format!("{ground}.csv")).await.body;
    let back = b.bytes(&format!("{ground}/readings?form=csv"), csv).await.json();
    assert_eq!((back["rows"].as_u64(), back["bad_rows"].as_u64()), (Some(20), Some(0)));
    let geo = b.get(&format!("{ground}.geojson")).await.body;
    assert_eq!(b.bytes(&format!("{ground}/readings?form=geojson"), geo).await.json()["spots"].as_array().unwrap().len(), 20);
    let odd = "name,x,y,z\nA,1,2,-0.2\nB,one,2,-0.2\nC,3,2\nD,4,2,-44\n";
    let read = b.bytes(&format!("{ground}/readings?form=csv"), odd.into()).await.json();
    let lines: Vec<u64> = read["bad"].as_array().unwrap().iter().map(|r| r["line"].as_u64().unwrap()).collect();
    assert_eq!((lines, read["spots"][0]["id"].as_str()), (vec![3, 4, 5], Some("A")));
    assert!(
        b.bytes(&format!("{ground}/readings?form=csv"), "a,b\n1,2\n".into()).await.json()["message"]
            .as_str()
            .unwrap()
            .contains("No column is the")
    );
    assert_eq!(b.bytes(&format!("{ground}/readings?form=geojson"), "{".into()).await.status, 422);
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.get(&ground).await.json()["ground"]["spots"], json!([]));
}

#[actix_web::test]
async fn the_altimeter_is_zeroed_read_live_and_says_that_it_is_simulated() {
    let b = bench().await;
    let hose = format!("/api/jobs/{JOB}/altimeter");
    assert!(b.get(&format!("{hose}?along=1&out=-1")).await.json()["message"].as_str().unwrap().contains("Zero the altimeter"));
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/roof"), &json!({ "base": null, "body": measured() })).await;
    b.change(Method::PUT, &format!("/api/jobs/{JOB}/ground"), &json!({ "base": null, "body": yard() })).await;
    assert_eq!(b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "nowhere" })).await.fault().2, "spot");
    let first = b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "P10" })).await.json();
    assert!(first["drift_mm"].is_null() && first["simulated"] == true);
    let again = b.change(Method::POST, &format!("{hose}/zero"), &json!({ "spot": "P10" })).await.json();
    assert!(again["drift_mm"].as_f64().unwrap().abs() < 2.0 && again["words"].as_str().unwrap().starts_with("Back on P10"));
    assert_eq!(b.get(&format!("{hose}?along=4000&out=0")).await.fault().2, "along");
    // The stick, from the same ground: 10 mm up over 1.5 m.
    let stick = format!("/api/jobs/{JOB}/slope-stick");
    let shows = b.get(&format!("{stick}?spot=P10&length=1.2")).await.json();
    assert!(
        (shows["percent"].as_f64().unwrap() + 0.7).abs() < 0.25
            && shows["simulated"] == true
            && shows["words"].as_str().unwrap().contains("back to the wall"),
        "{shows}"
    );
    assert_eq!(b.get(&format!("{stick}?spot=P10&length=40")).await.fault().2, "length");
    assert_eq!(b.get(&format!("{stick}?spot=nowhere&length=1")).await.fault().2, "spot");
    // What is refused is said in the job's own units.
    let job = b.view().await["job"].clone();
    let us = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "units": "us" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &us).await;
    let said = b.get(&format!("{stick}?spot=P10&length=40")).await.json()["message"].clone();
    assert!(said.as_str().is_some_and(|m| m.contains("9 ft 10 in") && !m.contains(" m ")), "{said}");
}

#[actix_web::test]
async fn a_roof_that_cannot_be_reached_by_its_papers_is_refused_and_kept_as_it_was() {
    let b = bench().await;
    let roof = format!("/api/jobs/{JOB}/roof");
    let job = b.view().await["job"].clone();
    let brief = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "year_built": 1967, "visited_on": "2026-11-18" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &brief).await;
    b.change(Method::PUT, &roof, &json!({ "base": null, "body": measured() })).await;
    for (papers, field) in [
        (json!([{ "kind": "permit", "on": "2031-01-01" }]), "papers.0.on"),
        (json!([{ "kind": "invoice", "on": "1960-01-01" }]), "papers.0.on"),
        (
            json!([{ "kind": "picture", "on": "2020-01-01", "there": false }, { "kind": "picture", "on": "2010-01-01", "there": true }]),
            "papers",
        ),
        (json!([{ "kind": "stated", "years": 90.0 }]), "papers.0.years"),
    ] {
        let mut body = measured();
        body["papers"] = papers;
        let fault = b.change(Method::PUT, &roof, &json!({ "base": 1, "body": body })).await.fault();
        assert_eq!((fault.0, fault.2.as_str()), (422, field));
    }
    assert_eq!(b.get(&roof).await.json()["rev"], 1);
    // Changing the brief later does not lose the roof: it says what no longer fits.
    let mut body = measured();
    body["papers"] = json!([{ "kind": "permit", "on": "2013-10-22" }]);
    b.change(Method::PUT, &roof, &json!({ "base": 1, "body": body })).await;
    let job = b.view().await["job"].clone();
    let later = json!({ "base": job["rev"], "body": { "name": "Clinic", "brief": { "year_built": 2020, "visited_on": "2026-11-18" } } });
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &later).await;
    let page = b.get(&roof).await.json();
    assert!(page["plan"].is_string(), "the drawing stays");
    assert!(page["account"]["slopes"][0]["problem"].as_str().unwrap().contains("One of the two is wrong"));
}
