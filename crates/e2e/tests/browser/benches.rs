//! Each bench from its first field to what it comes to.

use crate::Ways;
use anyhow::Result;
use e2e::{Browser, Server, kept_as, type_into};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

#[tokio::test]
async fn a_roof_from_the_tape_to_the_details_and_back() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Quarry Row").await?;
    b.driver.goto(format!("{}/jobs/{job}/roof", server.address)).await?;
    b.sees("Nothing measured yet").await?;
    type_into(&b, "Walls as walked", "7 L 11.5 L 7.03 L 11.5 L").await?;
    b.sees("misses its start by 30 mm").await?;
    b.press("Add the main mass").await?;
    b.sees("squares.").await?;
    // A length that cannot be is said beside its field, and the drawing stays.
    type_into(&b, "Length, left to right", "seven").await?;
    b.sees("main: the length").await?;
    type_into(&b, "Length, left to right", "7 m").await?;
    type_into(&b, "Depth, front to rear", "11.5 m").await?;
    b.sees("95.9 m² seen from above").await?;
    let page = server.json(&format!("/api/jobs/{job}/roof")).await?;
    // 7.8 by 12.3 with the overhang
    assert!((page["account"]["shape"]["plan_area_m2"].as_f64().unwrap_or_default() - 7.8 * 12.3).abs() < 1e-6, "{}", page["roof"]);

    // Choosing a slope in the drawing chooses it in the list and on the wheel.
    b.driver
        .execute("document.querySelector('[data-facet=\"A.+v\"]').dispatchEvent(new MouseEvent('click', { bubbles: true }))", vec![])
        .await?;
    b.css("tr[data-chosen=true]").await?;
    b.css("[data-cell='rear.roof'][aria-pressed=true]").await?;

    // A detail that is wrong becomes a note; undo takes back both.
    b.part("Details").await?;
    b.press("Wrong …").await?;
    b.css("[role=dialog]").await?;
    b.press_in_dialog("Drip edge absent").await?;
    b.sees("Open again").await?;
    assert_eq!(server.json(&format!("/api/jobs/{job}")).await?["roof"]["answers"].as_object().map(|a| a.len()), Some(1));
    b.press("Undo").await?;
    b.until("![...document.querySelectorAll('main button')].some(b => b.textContent === 'Open again')").await?;

    // Wear is graded against drawings; the office answers and says it is simulated.
    b.press("Age and life").await?;
    b.press("Granule loss").await?;
    b.driver.execute("[...document.querySelectorAll('[aria-label=\"granule loss\"] button')][3].click()", vec![]).await?;
    b.sees("3: bare patches on many").await?;
    b.press("Ask the records office (simulated)").await?;
    b.sees("Simulated records office of Ostermoor").await?;

    // Keep off: frost, and no way past it without a printed reason.
    b.press("Going up").await?;
    b.bench("Frost, ice or snow").await?.click().await?;
    b.sees("stay off, and off the ladder too").await?;
    b.sees("Going up all the same").await?;
    b.close().await
}

#[tokio::test]
async fn rain_from_the_roof_to_a_note_and_a_recommendation() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Thistlewick").await?;
    b.driver.goto(format!("{}/jobs/{job}/rainwater", server.address)).await?;
    b.sees("Of 573 L/min on the roof").await?;
    b.sees("12 mm of water stay in it after the rain").await?;
    let view = format!("/api/jobs/{job}");
    let before = server.json(&view).await?["notes"].as_array().map_or(0, Vec::len);
    let note = "[...document.querySelectorAll('[aria-label=\"Gutter G3\"] li')].find(l => l.textContent.startsWith('G3 holds')).querySelector('button').click()";
    b.driver.execute(note, vec![]).await?;
    b.sees("Noted on the round.").await?;
    let now = server.json(&view).await?["notes"].as_array().map_or(0, Vec::len);
    assert_eq!(now, before + 1, "offered, and added only when asked");
    // Another rain is looked at without being kept.
    let slide = "const r = document.querySelector('input[type=range]'); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(r, 20); r.dispatchEvent(new Event('input', { bubbles: true }))";
    b.driver.execute(slide, vec![]).await?;
    b.sees("Back to the design rain (132 mm/h)").await?;
    b.sees("0 L/min spilt from gutters").await?;
    b.press("Back to the design rain (132 mm/h)").await?;
    b.press("Search for the smallest change that ends the spilling").await?;
    b.sees("Keep as recommendation").await?;
    let keep = "document.querySelector('[aria-label=\"Gutter G3\"] [aria-label=\"What would end it\"] button').click()";
    b.driver.execute(keep, vec![]).await?;
    b.sees("Kept as a recommendation.").await?;
    let kept = server.json(&view).await?;
    let last = kept["notes"].as_array().and_then(|n| n.last()).map(|n| n["body"].clone()).unwrap_or_default();
    let text = last["text"].as_str().unwrap_or_default();
    assert!(last["kind"] == "recommendation" && text.contains("Before: spills") && text.contains("After:"), "{last}");
    // A change is tried beside what was met, and nothing of it is kept until somebody says so.
    let met = server.json(&format!("{view}/rainwater")).await?["rainwater"].clone();
    b.press("Try a change").await?;
    b.driver
        .execute(
            "[...document.querySelectorAll('[aria-label=\"Gutter G3\"] button')].find(x => x.textContent === 'Change').click()",
            vec![],
        )
        .await?;
    type_into(&b, "Levels: place from the left", "0 0, 7.5 38 mm").await?;
    b.sees("G3: refit it to levels 0 0, 7.5 38 mm.").await?;
    b.sees("G3 outlet 1 lets go").await?;
    assert_eq!(server.json(&format!("{view}/rainwater")).await?["rainwater"], met);
    b.press("Keep as a recommendation").await?;
    b.sees("Kept as a recommendation.").await?;
    let kept = server.json(&view).await?;
    let last = kept["notes"].as_array().and_then(|n| n.last()).map(|n| n["body"].clone()).unwrap_or_default();
    let text = last["text"].as_str().unwrap_or_default();
    assert!(
        last["kind"] == "recommendation"
            && text.starts_with("G3: refit it")
            && text.contains("G3 spills from 3")
            && text.contains(" mm/h to "),
        "{last}"
    );
    assert_eq!(server.json(&format!("{view}/rainwater")).await?["rainwater"], met, "what was met stays");
    b.close().await
}

#[tokio::test]
async fn a_storm_over_the_ground_and_a_change_that_is_kept_as_a_recommendation() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Thistlewick").await?;
    b.driver.goto(format!("{}/jobs/{job}/ground", server.address)).await?;
    b.shows("Front of the main: the ground falls away").await?;
    // The storm plays, says who gets wet and whose water it is, and can be stepped.
    b.press("Storm of once in 10 years").await?;
    b.shows("of wall").await?;
    b.shows("over the brim of G3").await?;
    b.shows("The sums differ by 0.0000 %").await?;
    b.driver.execute("const r = document.querySelector('main input[type=range]'); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(r, 0); r.dispatchEvent(new Event('input', { bubbles: true }))", vec![]).await?;
    b.shows("5 min:").await?;
    let shown = "return document.querySelectorAll('[data-pond] [visibility=visible]').length";
    let dry = b.driver.execute(shown, vec![]).await?.json().as_u64().unwrap_or(99);
    b.driver.execute("const r = document.querySelector('main input[type=range]'); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(r, 11); r.dispatchEvent(new Event('input', { bubbles: true }))", vec![]).await?;
    b.shows("60 min:").await?;
    let wet = b.driver.execute(shown, vec![]).await?.json().as_u64().unwrap_or(0);
    assert!(wet > dry, "{dry} bands of water at first, {wet} after the storm");
    // A change across gutters and ground: an outlet led farther out; what was read stays.
    let view = format!("/api/jobs/{job}");
    let read = server.json(&format!("{view}/ground")).await?["ground"].clone();
    b.press("Try a change").await?;
    type_into(&b, "G3 lets go so far from the wall", "9 m").await?;
    b.shows("G3: let go on the ground, 9 m from the wall").await?;
    b.press("Keep as a recommendation").await?;
    b.shows("Kept as a recommendation.").await?;
    let kept = server.json(&view).await?;
    let last = kept["notes"].as_array().and_then(|n| n.last()).map(|n| n["body"].clone()).unwrap_or_default();
    assert!(last["kind"] == "recommendation" && last["text"].as_str().unwrap_or_default().contains("9 m from the wall"), "{last}");
    assert_eq!(server.json(&format!("{view}/ground")).await?["ground"], read);
    // What would end it: upstream first.
    b.press("What would end it, cheapest and farthest upstream first").await?;
    b.shows("A barrier on the wall").await?;
    b.shows("Call before digging").await?;
    // A reading from the hose, taken when it is steady.
    b.driver
        .execute("[...document.querySelectorAll('[aria-label=Readings] tbody button')].find(x => x.textContent === 'P2').click()", vec![])
        .await?;
    b.shows("Reading P2").await?;
    b.press("Zero on P2").await?;
    b.shows("Zeroed on P2").await?;
    b.press("Lay the cell here and read").await?;
    b.press("Take it").await?;
    b.shows("altimeter").await?;
    b.until("document.title.includes('Thistlewick')").await?;
    let spot = |g: &Value| g["spots"].as_array().and_then(|s| s.iter().find(|s| s["id"] == "P2").cloned()).unwrap_or_default();
    for _ in 0..40 {
        if spot(&server.json(&format!("{view}/ground")).await?["ground"])["how"] == "altimeter" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert_eq!(spot(&server.json(&format!("{view}/ground")).await?["ground"])["how"], "altimeter");
    b.close().await
}

/// Walls before cladding, by keys alone; a lap turned and turned back; a crack that cannot be; the list in the report.
#[tokio::test]
async fn walls_from_the_matrix_to_the_list_and_a_lap_turned_at_once() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Quarry Row").await?;
    let walls = format!("/api/jobs/{job}/walls");
    b.driver.goto(format!("{}/jobs/{job}/walls", server.address)).await?;
    b.sees("not there.").await?;

    // Into the grid, along its cells with arrows, and one key for each answer.
    b.css("[data-key='front.W1.head-lap']").await?.click().await?;
    b.keys(Key::Right).await?;
    b.until("document.activeElement?.dataset.key === 'front.W1.jambs'").await?;
    b.keys("w").await?;
    b.until("document.activeElement?.dataset.found === 'wrong'").await?;
    b.keys(Key::Down).await?;
    b.until("document.activeElement?.dataset.key === 'front.W2.jambs'").await?;
    b.keys("n").await?;
    b.until("document.activeElement?.dataset.found === 'not-seen'").await?;
    b.css("#note-line:not(:focus)").await?;
    let kept = kept_as(&server, &walls, |v| v["walls"]["answers"]["front.W2.jambs"]["found"] == "not-seen").await?;
    assert_eq!(kept["walls"]["answers"]["front.W1.jambs"]["found"], "wrong");
    let on_list = |page: &Value| page["account"]["do_not_cover"].as_array().into_iter().flatten().any(|e| e["key"] == "front.W1.jambs");
    assert!(on_list(&kept));

    // What is wrong goes on the list; what becomes of it is kept.
    b.part("Do not cover").await?;
    b.sees("Front, W1: jambs").await?;

    // A detail: right, then a lap turned makes it wrong at once, then turned back.
    b.press("Laps").await?;
    b.bench("Flanged window, front W1").await?.click().await?;
    b.sees("Right: every drop runs off or drains").await?;
    b.press("upper sheet over window, 102 mm").await?;
    b.sees("water gets in over").await?;
    b.sees("Lap the upper sheet over the window.").await?;
    let verdict = |v: &Value| v["account"]["details"].as_array().and_then(|d| Some(d.iter().find(|d| d["id"] == "L2")?["verdict"].clone()));
    kept_as(&server, &walls, |v| verdict(v) == Some(json!("wrong"))).await?;
    b.press("Turn all laps back").await?;
    b.sees("Right: every drop runs off or drains").await?;

    // A size that no window has is said beside its field, and what was there stays.
    type_into(&b, "Opening, width", "15 m").await?;
    b.sees("Was it in another unit?").await?;
    b.shows("Right: every drop").await?;
    type_into(&b, "Opening, width", "1.4 m").await?;

    // A crack read before the house stood is refused with both years.
    let bad = json!({ "cracks": [{ "id": "C1", "face": "rear", "pattern": "map", "from_x": "1 m", "from_z": "0 m", "to_x": "2 m", "to_z": "1 m",
        "readings": [{ "on": "1950-01-01", "at": "middle", "width": "1 mm" }] }] });
    let answer = reqwest::Client::new().post(format!("{}{walls}/try", server.address)).json(&bad).send().await?;
    assert_eq!(answer.status().as_u16(), 422);
    assert!(answer.text().await?.contains("before the house was built in 2026"));
    let pdf = server.bytes(&format!("/api/jobs/{job}/report.pdf")).await?;
    assert!(pdf.starts_with(b"%PDF"));
    b.close().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_wet_skirting_is_read_against_dry_places_and_traced_back() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Quarry Row").await?;
    let (moisture, trace) = (format!("/api/jobs/{job}/moisture"), format!("/api/jobs/{job}/trace"));

    // An empty bench says what to do; a room is taped, and drawn at once.
    b.driver.goto(format!("{}/jobs/{job}/moisture", server.address)).await?;
    b.sees("Tape the room that is wet").await?;
    b.press("Tape a room").await?;
    b.sees("12.0 m²").await?;
    b.bench("Place and walls").await?.click().await?;
    type_into(&b, "Called", "kitchen").await?;
    kept_as(&server, &moisture, |v| v["moisture"]["rooms"][0]["name"] == "kitchen").await?;

    // A figure alone has no judgement; three dry places give it one.
    b.press("Readings").await?;
    let read = async |along: &str, value: &str| -> Result<()> {
        type_into(&b, "From the left", along).await?;
        type_into(&b, "It shows", value).await?;
        b.press("Take the reading").await
    };
    read("1.0 m", "61").await?;
    b.sees("no judgement. Take three").await?;
    b.bench("This place is surely dry: a reference").await?.click().await?;
    for (along, value) in [("0.5 m", "14"), ("2.5 m", "16"), ("3.5 m", "15")] {
        read(along, value).await?;
    }
    b.sees("1 wet, 0 raised, 3 dry").await?;
    let kept = kept_as(&server, &moisture, |v| v["moisture"]["readings"].as_array().is_some_and(|r| r.len() == 4)).await?;
    assert_eq!(kept["account"]["maps"][0]["references"], json!([14.0, 16.0, 15.0]));

    // What was read wet is offered for tracing; nothing is typed twice.
    b.driver.goto(format!("{}/jobs/{job}/trace", server.address)).await?;
    b.sees("61 where dry places read 15").await?;
    b.press("Trace it").await?;
    b.sees("something that is not on the list").await?;
    let kept = kept_as(&server, &trace, |v| v["trace"]["spots"][0]["id"] == "S1").await?;
    assert_eq!(kept["trace"]["seen"][0]["state"], "wet");
    let pipe = |v: &Value| {
        let of = v["account"]["result"]["spots"][0]["candidates"].as_array()?;
        of.iter().find(|c| c["id"] == "pipe:S1")?["p"].as_f64()
    };
    let before = pipe(&kept).unwrap();

    // A test is run with a clock and answered by one key; the ranking follows.
    b.driver
        .execute(
            "[...document.querySelectorAll('li')].find(l => l.textContent.startsWith('Pressure on')).querySelector('button').click()",
            vec![],
        )
        .await?;
    b.sees("The spot is wet (W)").await?;
    b.keys("d").await?;
    let kept = kept_as(&server, &trace, |v| v["trace"]["tests"][0]["result"] == "dry").await?;
    assert!(pipe(&kept).unwrap() < before, "{:?} {before}", pipe(&kept));

    // A contradiction is refused with both words, and the report holds what is kept.
    let bad = json!({ "spots": kept["trace"]["spots"], "seen": [
        { "id": "W1", "spot": "S1", "at": "2026-11-01T10:00", "state": "wet" }, { "id": "W2", "spot": "S1", "at": "2026-11-01T10:00", "state": "dry" }] });
    let answer = reqwest::Client::new().post(format!("{}{trace}/try", server.address)).json(&bad).send().await?;
    assert_eq!(answer.status().as_u16(), 422);
    assert!(answer.text().await?.contains("both wet and dry"));
    assert!(server.bytes(&format!("/api/jobs/{job}/report.pdf")).await?.starts_with(b"%PDF"));
    b.close().await
}

#[tokio::test]
async fn what_is_tried_on_a_flat_roof_outlives_another_bench_and_is_kept_as_a_recommendation() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.new_job("Gull Shop", "Heron").await?;
    let view = format!("/api/jobs/{job}");
    let put = async |what: &str, body: Value| -> Result<()> {
        let url = format!("{}{view}/{what}", server.address);
        let sent =
            reqwest::Client::new().put(url).header("idempotency-key", format!("0190cccc-0000-7000-8000-0000000000{:02}", what.len()));
        sent.json(&json!({ "base": null, "body": body })).send().await?.error_for_status()?;
        Ok(())
    };
    put("roof", json!({ "masses": [{ "id": "A", "name": "shop", "length": "9 m", "depth": "6 m", "form": "flat", "eave": "3 m", "overhang": "0 m", "covering": "epdm" }] })).await?;
    let scupper = json!({ "kind": "scupper", "face": "rear", "from_left": "4 m", "size": "200 x 100 mm", "distance": "1 m" });
    let walls = json!({ "front": "0.3 m", "left": "0.3 m", "rear": "0.3 m", "right": "0.3 m" });
    let flat = json!({ "mass": "A", "parapets": walls, "fall": "1 %", "toward": "rear", "outlets": [scupper] });
    put("rainwater", json!({ "storm": { "i5": "132 mm/h", "i60": "34 mm/h" }, "flats": [flat] })).await?;
    b.driver.goto(format!("{}/jobs/{job}/rainwater", server.address)).await?;
    b.press("Try a change").await?;
    b.press("Change").await?;
    b.bench("It was blocked").await?.click().await?;
    b.sees("flat roof of the shop: scupper blocked.").await?;
    // Another bench and back: the trial is as it was, and what was met is as it was met.
    b.press("Ground").await?;
    b.until("document.querySelector('main h1')?.textContent === 'Ground'").await?;
    b.press("Rainwater").await?;
    b.sees("flat roof of the shop: scupper blocked.").await?;
    let kept = server.json(&format!("{view}/rainwater")).await?["rainwater"]["flats"][0]["outlets"][0].clone();
    assert_eq!(kept["blocked"], false);
    b.press("Keep as a recommendation").await?;
    let now = kept_as(&server, &view, |v| v["notes"].as_array().is_some_and(|n| n.len() == 1)).await?;
    let note = &now["notes"][0]["body"];
    assert_eq!((&note["kind"], &note["place"]["zone"]), (&json!("recommendation"), &json!("roof")), "{note}");
    let told = |what: &str| note["text"].as_str().is_some_and(|t| t.contains(what));
    assert!(told("scupper blocked") && told("In the rain the flat roof of the shop holds"), "{note}");
    b.press("Try a change").await?;
    b.close().await
}
