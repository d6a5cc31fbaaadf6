//! A count after a storm, through the real interface.

use anyhow::{Context, Result};
use e2e::{Browser, Server, kept_as, type_into};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

/// A square is drawn before anyone looks, counted by keys and by pointer, moved with a reason; the storm is asked for; the report holds it.
#[tokio::test]
async fn a_square_is_drawn_counted_and_counted_again() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Thistlewick").await?;
    let storm = format!("/api/jobs/{job}/storm");
    b.driver.goto(format!("{}/jobs/{job}/storm", server.address)).await?;
    b.press("Draw a square").await?;
    b.sees("drawn by the seed").await?;
    let first = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["id"] == "Q1").await?;
    let place = |v: &Value| (v["account"]["squares"][0]["from_left_m"].as_f64(), v["account"]["squares"][0]["from_low_m"].as_f64());
    assert!(place(&first).0.is_some());

    // By keys: a hit, a doubtful one, one that is no hail.
    b.driver.execute("document.querySelector('[role=application]').focus()", vec![]).await?;
    b.keys(Key::Right + Key::Up + Key::Enter).await?;
    b.keys(Key::Left + Key::Left).await?;
    b.keys("d").await?;
    b.keys(Key::Down + Key::Down).await?;
    b.keys("n").await?;
    b.sees("1 sure, 1 doubtful. 1 told apart from hail").await?;
    // By pointer, a quarter in from the left and from below.
    let tap = "const p = document.querySelector('[role=application]'); const r = p.getBoundingClientRect(); const d = p.previousSibling.querySelector('svg'); const b = d.viewBox.baseVal; const n = k => Number(d.dataset[k]); const x = r.left + (n('left') + 0.25 * n('wide')) / b.width * r.width; const y = r.top + (n('top') + 0.75 * n('high')) / b.height * r.height; p.dispatchEvent(new PointerEvent('pointerup', { bubbles: true, clientX: x, clientY: y }));";
    b.driver.execute(tap, vec![]).await?;
    let kept = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["hits"].as_array().is_some_and(|h| h.len() == 4)).await?;
    let hits = &kept["storm"]["squares"][0]["hits"];
    assert!(
        (hits[3]["x"].as_f64().unwrap_or(9.0) - 0.25).abs() < 0.01 && (hits[3]["y"].as_f64().unwrap_or(9.0) - 0.25).abs() < 0.01,
        "{hits}"
    );
    assert_eq!((hits[0]["x"].as_f64(), hits[0]["y"].as_f64()), (Some(0.55), Some(0.55)));
    assert_eq!(kept["account"]["squares"][0]["sure"], 2);
    // Counting moved nothing: a second person finds the same place.
    assert_eq!(place(&kept), place(&first));

    // A size that cannot be is said beside the field, and nothing is lost.
    type_into(&b, "Size", "300 mm").await?;
    b.sees("is no hail: the largest on record").await?;
    type_into(&b, "Size", "22 mm").await?;
    kept_as(&server, &storm, |v| v["storm"]["squares"][0]["hits"][3]["size"] == "22 mm").await?;

    // A moved square needs a reason; off the slope it is refused.
    b.press("Move it, with a reason").await?;
    type_into(&b, "Why it was moved", "a vent pipe stands there").await?;
    let moved = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["moved"]["why"] == "a vent pipe stands there").await?;
    let left = moved["storm"]["squares"][0]["moved"]["from_left"].as_str().unwrap_or_default().to_owned();
    type_into(&b, "From the left end", "90 m").await?;
    b.sees("hang over the edge of its slope").await?;
    type_into(&b, "From the left end", &left).await?;
    b.until("!document.querySelector('main [role=alert]')").await?;

    // The office is asked; a storm is ranked by more than its date.
    b.press("Which storm").await?;
    b.press("Ask the weather office (simulated)").await?;
    kept_as(&server, &storm, |v| v["storm"]["events"].as_array().is_some_and(|e| e.len() > 3)).await?;
    let shares: f64 =
        server.json(&storm).await?["account"]["which"]["ranked"].as_array().into_iter().flatten().filter_map(|r| r["p"].as_f64()).sum();
    assert!((shares - 1.0).abs() < 1e-9);

    // Hits outside and overlapping squares are refused by the server too, and the report holds what is kept.
    let mut bad = server.json(&storm).await?["storm"].clone();
    bad["squares"][0]["hits"][0]["x"] = json!(1.5);
    let answer = reqwest::Client::new().post(format!("{}{storm}/try", server.address)).json(&bad).send().await?;
    assert_eq!(answer.status().as_u16(), 422);
    assert!(answer.text().await?.contains("outside its square"));
    assert!(server.bytes(&format!("/api/jobs/{job}/report.pdf")).await?.starts_with(b"%PDF"));
    b.close().await
}

/// A count that is told stands in the square that waits for it, and undo takes both back; marks on a picture are taken as hits.
#[tokio::test]
async fn a_square_is_counted_by_word_and_from_a_picture() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Thistlewick").await?;
    let (view, storm) = (format!("/api/jobs/{job}"), format!("/api/jobs/{job}/storm"));
    b.driver.goto(format!("{}/jobs/{job}/storm", server.address)).await?;
    b.press("Draw a square").await?;
    let drawn = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["id"] == "Q1").await?;
    let slope = drawn["storm"]["squares"][0]["slope"].clone();
    let face = drawn["account"]["slopes"].as_array().into_iter().flatten().find(|s| s["facet"] == slope).map(|s| s["face"].clone());
    let face = face.and_then(|f| f.as_str().map(str::to_owned)).unwrap_or_default();
    let notes = |v: &Value| v["notes"].as_array().map_or(0, Vec::len);
    let before = notes(&server.json(&view).await?);

    // A guess counts nothing; a count does, and says so.
    b.css("#note-line").await?.send_keys(format!("{face} slope, about eight in the square") + Key::Enter).await?;
    kept_as(&server, &view, |v| notes(v) == before + 1).await?;
    assert_eq!(server.json(&storm).await?["storm"]["squares"][0]["counted"], false);
    b.css("#note-line").await?.send_keys(format!("{face} slope, eight in the square, biggest an inch") + Key::Enter).await?;
    b.sees("Counted in Q1: 8 hits, the largest an inch.").await?;
    let counted = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["unplaced"] == 8).await?;
    assert_eq!(notes(&server.json(&view).await?), before + 2);
    let largest = counted["account"]["squares"][0]["largest_m"].as_f64().unwrap_or_default();
    assert!((largest - 0.0254).abs() < 1e-6 && counted["account"]["squares"][0]["sure"] == 8, "{}", counted["account"]["squares"]);
    b.press("Undo").await?;
    kept_as(&server, &storm, |v| v["storm"]["squares"][0]["counted"] == false).await?;
    assert_eq!(notes(&server.json(&view).await?), before + 1, "undo takes the note and the count back together");

    // A note that came another way, as from a recorded walk, is offered and never counted unasked.
    let note = json!({ "base": null, "body": { "place": { "face": face, "zone": "roof" }, "kind": "remark", "text": "six in the square", "measures": [], "at": "2026-11-26T10:00:00Z" } });
    let id = "0190bbbb-0000-7000-8000-00000000000a";
    let put = reqwest::Client::new().put(format!("{}{view}/notes/{id}", server.address)).header("idempotency-key", id).json(&note);
    put.send().await?.error_for_status()?;
    b.driver.refresh().await?;
    b.press("Count it in Q1").await?;
    let waits = |v: &Value| v["account"]["said"].as_array().into_iter().flatten().any(|s| s["note_id"] == id);
    kept_as(&server, &storm, |v| v["storm"]["squares"][0]["unplaced"] == 6 && !waits(v)).await?;

    // Rings on a picture become hits; taken twice they are the same hits.
    let picture = server.json(&view).await?["pictures"][0].clone();
    let mut body = picture["body"].clone();
    let ring =
        |x: f64, y: f64, text: &str| json!({ "shape": "ring", "from": [x - 0.02, y - 0.02], "to": [x + 0.02, y + 0.02], "text": text });
    body["marks"] = json!([ring(0.25, 0.75, "18 mm"), ring(0.5, 0.5, "?")]);
    let change =
        json!({ "base": picture["rev"], "body": { "note_id": body["note_id"], "caption": body["caption"], "marks": body["marks"] } });
    let path = format!("{}{view}/pictures/{}", server.address, picture["id"].as_str().unwrap_or_default());
    let put =
        reqwest::Client::new().put(path).header("idempotency-key", "0190bbbb-0000-7000-8000-00000000000b").json(&change).send().await?;
    assert!(put.status().is_success(), "{}", put.text().await?);
    b.driver.refresh().await?;
    let name = body["caption"].as_str().and_then(|c| c.split(' ').next()).context("a caption")?;
    for _ in 0..2 {
        b.choose("A marked picture", name).await?;
        b.press("Take its marks as hits").await?;
        b.sees("2 marks; the picture's edge is taken for the square's.").await?;
        let kept = kept_as(&server, &storm, |v| v["storm"]["squares"][0]["hits"].as_array().is_some_and(|h| h.len() == 2)).await?;
        let hits = &kept["storm"]["squares"][0]["hits"];
        assert_eq!((hits[0]["x"].as_f64(), hits[0]["y"].as_f64(), hits[0]["size"].as_str()), (Some(0.25), Some(0.25), Some("18 mm")));
        assert_eq!((hits[1]["unsure"].as_bool(), hits[1]["picture"].as_str()), (Some(true), picture["id"].as_str()));
        b.driver.refresh().await?;
    }
    b.close().await
}
