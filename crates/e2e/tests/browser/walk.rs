//! A whole inspection through the real interface.

use crate::Ways;
use anyhow::{Context, Result};
use e2e::{Browser, Server};
use serde_json::{Value, json};
use std::path::PathBuf;
use thirtyfour::prelude::*;

/// A small picture that is nobody's property.
fn sample(dir: &std::path::Path) -> Result<PathBuf> {
    let path = dir.join("left-gutter.png");
    image::RgbImage::from_fn(320, 240, |x, y| image::Rgb([(x / 2) as u8, y as u8, 120])).save(&path)?;
    Ok(path)
}

/// What a bundle must bring to another machine; revisions and times of change are the machine's own.
fn same_job(view: &Value) -> Value {
    let bodies =
        |key: &str| view[key].as_array().into_iter().flatten().map(|r| json!({ "id": r["id"], "body": r["body"] })).collect::<Vec<_>>();
    let mut marks = bodies("marks");
    marks.sort_by_key(|m| m["id"].to_string());
    json!({ "job": view["job"]["body"], "notes": bodies("notes"), "pictures": bodies("pictures"), "marks": marks, "findings": view["findings"], "coverage": view["coverage"] })
}

#[tokio::test]
async fn from_a_walk_to_a_report_and_to_another_machine() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.new_job("Gull Boathouse", "Heron").await?;
    let view = format!("/api/jobs/{job}");

    // Open the job from the list.
    b.driver.goto(&server.address).await?;
    b.press("Gull Boathouse").await?;
    b.sees("Front face").await?;

    // Three faces with keys only: ] walks on, - goes down, N is the note line, Enter keeps, Escape leaves the line.
    b.keys("n").await?;
    b.css("#note-line:focus").await?;
    b.keys("cracked shake 3 in, ridge cap lifts 2 ft").await?;
    b.sees("Shakes cracked through").await?;
    b.keys(Key::Enter).await?;
    b.until("document.querySelector('#note-line').value === ''").await?;
    b.until("document.querySelectorAll('ol li ul li').length === 2").await?;
    b.keys(Key::Escape).await?;
    b.keys("]-n").await?;
    b.sees("Left, edge and gutter").await?;
    b.keys("dents in gutter 1/2 in").await?;
    b.sees("Dents in soft metal").await?;
    b.keys(Key::Enter).await?;
    b.sees("1/2 in (12.7 mm)").await?;
    b.keys(Key::Escape).await?;
    b.keys("]n").await?;
    b.sees("Rear, edge and gutter").await?;
    b.keys("gutter end no downspout").await?;
    b.sees("Too few or no outlets").await?;
    b.keys(Key::Enter).await?;
    b.until("document.querySelectorAll('ol li ul li').length === 1").await?;
    b.keys(Key::Escape).await?;
    assert_eq!(server.json(&view).await?["notes"].as_array().map(Vec::len), Some(4));

    // A picture, put with its note.
    let picture = sample(server.data.path())?;
    b.css("#attach-pictures").await?.send_keys(picture.display().to_string()).await?;
    b.sees("Pictures without a note").await?;
    b.press_text("left-gutter.png").await?;
    b.css("[role=dialog] img").await?;
    b.css("[role=dialog] [role=combobox]").await?.send_keys(Key::Control + "a" + Key::Null + "Too few").await?;
    b.css("[role=option]").await?;
    b.keys(Key::Down + Key::Enter).await?;
    b.until("!document.querySelector('[role=option]')").await?;
    b.press_in_dialog("Keep").await?;
    b.until("document.querySelectorAll('ol li ul li img').length === 1").await?;
    let now = server.json(&view).await?;
    assert_eq!(now["pictures"][0]["body"]["note_id"], now["notes"][3]["id"]);

    // Undo takes the last step back, and the one before.
    b.press("Undo").await?;
    b.sees("Pictures without a note").await?;
    b.press("Undo").await?;
    b.until("!document.body.textContent.includes('Pictures without a note')").await?;
    assert_eq!(server.json(&view).await?["pictures"].as_array().map(Vec::len), Some(0));

    // A limit, by gesture.
    b.driver
        .execute("document.querySelector('[data-cell=\"right.roof\"]').dispatchEvent(new MouseEvent('click', { bubbles: true }))", vec![])
        .await?;
    b.sees("Right, roof").await?;
    b.press("Could not be seen ▾").await?;
    b.sees("because it was too steep").await?.click().await?;
    b.sees("Right, roof could not be seen: it was too steep").await?;

    // Seen, by key.
    b.keys("-").await?;
    b.sees("Right, edge and gutter").await?;
    b.keys("s").await?;
    b.until("document.querySelector('[data-cell=\"right.edge\"]').getAttribute('aria-label').includes('seen, nothing to note')").await?;

    // Closing lists what is open and takes answers; what is left open is printed.
    b.press("Report").await?;
    b.press("Close the visit").await?;
    b.sees("places were not looked at").await?;
    b.press("All of them were seen").await?;
    b.press_in_dialog("Close the visit").await?;
    b.named("Open the visit again").await?;
    let closed = server.json(&view).await?;
    assert_eq!(closed["coverage"]["tally"]["untouched"], 0);
    assert_eq!(closed["coverage"]["tally"]["limited"], 1);

    // The PDF says what was found, where, and what could not be seen.
    let link = b.named("Download PDF").await?.attr("href").await?.context("the link leads nowhere")?;
    let pdf = server.bytes(&link).await?;
    let text = pdf_extract::extract_text_from_mem(&pdf)?.split_whitespace().collect::<Vec<_>>().join(" ");
    for said in [
        "Gull Boathouse",
        "Storm assessment",
        "Too few or no outlets",
        "Shakes cracked through",
        "Right, roof could not be seen",
        "Local code",
        "Page 1 of",
    ] {
        assert!(text.contains(said), "the report does not say {said}: {text}");
    }
    assert!(pdf.windows(14).any(|w| w == b"/StructTreeRoo"), "the report is not tagged");

    // The bundle, read in on another machine, is the same job.
    let bundle = server.data.path().join("heron.zip");
    std::fs::write(&bundle, server.bytes(&format!("/api/jobs/{job}/bundle.zip")).await?)?;
    let other = Server::start(false).await?;
    b.driver.goto(&other.address).await?;
    b.sees("No jobs yet").await?;
    b.css("input[type=file]").await?.send_keys(bundle.display().to_string()).await?;
    b.named("Gull Boathouse").await?;
    assert_eq!(same_job(&other.json(&view).await?), same_job(&closed));
    // Twice is refused, in words.
    let again = server.data.path().join("again.zip");
    std::fs::copy(&bundle, &again)?;
    b.css("input[type=file]").await?.send_keys(again.display().to_string()).await?;
    b.sees("This job is already here").await?;
    b.close().await
}

#[tokio::test]
async fn a_job_with_nothing_but_a_name_and_a_brief_that_keeps_itself() -> Result<()> {
    let server = Server::start(false).await?;
    let b = Browser::start(1280, 800).await?;
    b.driver.goto(&server.address).await?;
    b.css("input[type=text]").await?.send_keys("Kiln Cottage" + Key::Enter).await?;
    b.sees("Only the name is needed").await?;
    let job = server.job("Kiln").await?;
    let field = |label: &str| By::XPath(format!("//label[normalize-space(.)='{label}']/following::input[1]"));
    for (label, text) in [("Address", "2 Weir Road"), ("Front faces", "SW"), ("Year built", "1931")] {
        b.driver.query(field(label)).first().await?.send_keys(text).await?;
    }
    b.css("main textarea").await?.send_keys("Water runs in over the door after wind from the west.").await?;
    // What is typed is kept without a button, in the order it was typed.
    let began = std::time::Instant::now();
    loop {
        let brief = server.json(&format!("/api/jobs/{job}")).await?["job"]["body"]["brief"].clone();
        if brief["worries"].as_str().is_some_and(|w| w.ends_with("west.")) {
            assert_eq!(
                (&brief["address"], &brief["front_faces"], &brief["year_built"]),
                (&json!("2 Weir Road"), &json!(225.0), &json!(1931))
            );
            break;
        }
        assert!(began.elapsed().as_secs() < 40, "the brief was not kept: {brief}");
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    // What is no value yet is named at its field and not sent.
    let year = b.driver.query(field("Year built")).first().await?;
    year.send_keys("x").await?;
    b.sees("Type a year such as 1967.").await?;
    b.driver.refresh().await?;
    b.until("[...document.querySelectorAll('input')].some(i => i.value === '1931')").await?;
    b.close().await
}

#[tokio::test]
async fn two_people_on_one_note_see_both_versions() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Quarry").await?;
    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.bench("Slab edge stands proud").await?.click().await?;
    let words = b.css("[role=dialog] textarea").await?;
    words.send_keys(" at the corner").await?;
    // Meanwhile somebody else changes the same note.
    let view = server.json(&format!("/api/jobs/{job}")).await?;
    let note =
        view["notes"].as_array().into_iter().flatten().find(|n| n["body"]["condition"] == "slab-edge-lip").context("the note")?.clone();
    let mut body = note["body"].clone();
    body["text"] = json!("slab sticks out 2 in");
    let url = format!("{}/api/jobs/{job}/notes/{}", server.address, note["id"].as_str().unwrap_or_default());
    let put = reqwest::Client::new()
        .put(&url)
        .header("idempotency-key", "0190aaaa-0000-7000-8000-000000000001")
        .json(&json!({ "base": note["rev"], "body": body }));
    assert!(put.send().await?.status().is_success());
    b.press_in_dialog("Keep changes").await?;
    b.sees("This note was changed elsewhere").await?;
    b.sees("slab sticks out 2 in").await?;
    // Mine stands chosen; what is chosen is kept, and the dialog is put away when its reader is done with it.
    b.press_in_dialog("Keep what is chosen").await?;
    b.until("!document.querySelector('[role=alert]')").await?;
    b.press_in_dialog("Keep changes").await?;
    b.until("!document.querySelector('[role=dialog]')").await?;
    let after = server.json(&format!("/api/jobs/{job}")).await?;
    assert!(after["notes"].as_array().into_iter().flatten().any(|n| n["body"]["text"] == "slab sticks out 1 1/4 in, 6 ft at the corner"));
    b.close().await
}

#[tokio::test]
async fn two_people_on_one_brief_see_both_versions() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Heron").await?;
    let path = format!("/api/jobs/{job}");
    b.driver.goto(format!("{}/jobs/{job}/brief", server.address)).await?;
    b.sees("Only the name is needed").await?;
    let mut other = server.json(&path).await?["job"].clone();
    other["body"]["brief"]["recipient"] = json!("The harbour master");
    other["body"]["brief"]["worries"] = json!("Is the jetty theirs?");
    let put = reqwest::Client::new()
        .put(format!("{}{path}", server.address))
        .header("idempotency-key", "0190aaaa-0000-7000-8000-000000000002")
        .json(&json!({ "base": other["rev"], "body": other["body"] }));
    assert!(put.send().await?.status().is_success());
    b.css("main textarea").await?.send_keys(" And the boats?").await?;
    b.sees("The brief was changed elsewhere while you had it open.").await?;
    b.sees("The other: Is the jetty theirs?").await?;
    b.until("document.querySelector('main textarea').value.endsWith('And the boats?')").await?;
    // What only the other side changed is there already, and nothing is overwritten before a choice is made.
    b.until("[...document.querySelectorAll('input')].some(i => i.value === 'The harbour master')").await?;
    assert_eq!(server.json(&path).await?["job"]["body"]["brief"]["worries"], "Is the jetty theirs?");
    b.press_text("The other: Is the jetty theirs?").await?;
    b.press("Keep what is chosen").await?;
    b.until("document.querySelector('main textarea').value === 'Is the jetty theirs?'").await?;
    b.until("!document.querySelector('[role=alert]')").await?;
    // Different fields are brought together without a question.
    let mut other = server.json(&path).await?["job"].clone();
    other["body"]["brief"]["weather"] = json!("dry, light wind");
    let put = reqwest::Client::new()
        .put(format!("{}{path}", server.address))
        .header("idempotency-key", "0190aaaa-0000-7000-8000-000000000003")
        .json(&json!({ "base": other["rev"], "body": other["body"] }));
    assert!(put.send().await?.status().is_success());
    b.css("main textarea").await?.send_keys(" Which?").await?;
    b.until("[...document.querySelectorAll('input')].some(i => i.value === 'dry, light wind')").await?;
    b.until("document.querySelector('[role=status]').textContent === 'All kept'").await?;
    let brief = &server.json(&path).await?["job"]["body"]["brief"];
    assert_eq!((&brief["weather"], &brief["worries"]), (&json!("dry, light wind"), &json!("Is the jetty theirs? Which?")));
    b.close().await
}

#[tokio::test]
async fn a_finding_is_set_by_hand_deleted_and_brought_back() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Thistlewick").await?;
    let path = format!("/api/jobs/{job}");
    let finding = async |title: &str| -> Result<Option<Value>> {
        let view = server.json(&path).await?;
        Ok(view["findings"].as_array().into_iter().flatten().find(|f| f["title"] == title).cloned())
    };
    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.bench("Blind corner traps water").await?.click().await?;
    // By hand, with a reason; without one it is refused in words and nothing is lost.
    b.choose("Set by hand", "Watch").await?;
    b.press_in_dialog("Keep changes").await?;
    b.sees("Say in a few words why").await?;
    b.driver
        .query(By::XPath("//label[normalize-space(.)='Because']/following::input[1]"))
        .first()
        .await?
        .send_keys("drain is ordered")
        .await?;
    b.press_in_dialog("Keep changes").await?;
    b.sees("Set by hand: drain is ordered").await?;
    let set = finding("Blind corner traps water").await?.context("the finding")?;
    assert_eq!((&set["urgency"], &set["suggestion"]["step"]), (&json!("watch"), &json!("before-next-rain")), "{set}");
    // Deleted, and brought back by the key. It has just gone to its new step; it is opened by keys, which find it wherever it stands.
    let row = "[...document.querySelectorAll('main li button')].find(b => b.textContent.includes('Blind corner traps water')).focus()";
    b.driver.execute(row, vec![]).await?;
    b.keys(Key::Enter + "").await?;
    b.press_in_dialog("Delete note").await?;
    b.sees("The note was deleted.").await?;
    assert_eq!(finding("Blind corner traps water").await?, None);
    b.until("!document.querySelector('[role=dialog]')").await?;
    b.driver.execute("document.activeElement.blur()", vec![]).await?;
    b.keys("u").await?;
    b.bench("Blind corner traps water").await?;
    assert_eq!(finding("Blind corner traps water").await?, Some(set));
    // The history tells all of it.
    b.press("History").await?;
    b.sees("Note deleted: blind corner").await?;
    b.close().await
}

#[tokio::test]
async fn a_recorded_walk_is_reviewed_with_one_key_each() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.new_job("Gull Boathouse", "Heron").await?;
    let view = format!("/api/jobs/{job}");
    b.driver.goto(format!("{}/jobs/{job}/round", server.address)).await?;
    b.press("Read in a recorded walk").await?;
    b.sees("A recorded walk").await?;
    b.css("main textarea")
        .await?
        .send_keys(
            "Front first. Gutter is full of leaves, nice ladder though. Torn boot on the roof. Now the left side. Soffit has water stains.",
        )
        .await?;
    b.press("Read it").await?;
    b.sees("to look at").await?;
    let before = server.json(&view).await?["notes"].as_array().map(Vec::len);
    assert_eq!(before, Some(0), "nothing is kept unseen");
    b.css("li[data-row]:focus").await?;
    b.keys("k").await?;
    b.sees("1 kept").await?;
    b.keys("d").await?;
    b.sees("1 dropped").await?;
    // Another bench and back: the walk is where it was.
    b.press("Roof").await?;
    b.until("document.querySelector('main h1')?.textContent === 'Roof'").await?;
    b.press("Round").await?;
    b.press("Read in a recorded walk").await?;
    b.sees("1 dropped").await?;
    b.css("li[data-row]:focus").await?;
    b.keys("k").await?;
    b.sees("2 kept").await?;
    let notes = server.json(&view).await?["notes"].clone();
    let kept: Vec<_> =
        notes.as_array().context("notes")?.iter().map(|n| (n["body"]["place"]["face"].as_str(), n["body"]["condition"].as_str())).collect();
    assert_eq!(kept.len(), 2, "{kept:?}");
    assert_eq!(kept[1], (Some("left"), Some("soffit-fascia-damaged")));
    b.close().await
}

#[tokio::test]
async fn another_school_shows_what_it_would_change_before_it_is_kept() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Thistlewick").await?;
    let view = format!("/api/jobs/{job}");
    let verdicts = |v: &Value| {
        v["findings"].as_array().into_iter().flatten().filter_map(|f| f["judged"]["sum"].as_str().map(str::to_owned)).collect::<Vec<_>>()
    };
    let before = verdicts(&server.json(&view).await?);
    assert!(before.iter().any(|s| s.contains("closer by 148 mm")), "{before:?}");
    b.driver.goto(format!("{}/jobs/{job}/practice", server.address)).await?;
    b.bench("100 mm (4 in)").await?.click().await?;
    b.sees("52 mm to spare").await?;
    assert_eq!(verdicts(&server.json(&view).await?), before, "nothing is kept yet");
    b.press("Keep the practice").await?;
    b.sees("is kept").await?;
    let after = verdicts(&server.json(&view).await?);
    assert!(after.iter().any(|s| s.contains("52 mm to spare")), "{after:?}");
    b.close().await
}

#[tokio::test]
async fn openings_are_counted_and_undo_and_redo_walk_the_history() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(820, 1180).await?;
    let job = server.new_job("Gull Boathouse", "Heron").await?;
    let view = format!("/api/jobs/{job}");
    b.driver.goto(format!("{}/jobs/{job}/round", server.address)).await?;
    b.until("[...document.querySelectorAll('main button')].filter(x => x.textContent.startsWith('Count')).length === 2").await?;
    b.driver
        .execute("[...document.querySelectorAll('main button')].filter(x => x.textContent.startsWith('Count'))[1].click()", vec![])
        .await?;
    b.until("[...document.querySelectorAll('[role=menuitem]')].some(x => x.textContent === '4 windows')").await?;
    b.driver.execute("[...document.querySelectorAll('[role=menuitem]')].find(x => x.textContent === '4 windows').click()", vec![]).await?;
    b.sees("W4").await?;
    b.keys("u").await?;
    b.until("!document.querySelector('main').textContent.includes('W4')").await?;
    b.keys("r").await?;
    b.sees("W4").await?;
    assert_eq!(server.json(&view).await?["items"].as_array().map(Vec::len), Some(4));
    b.driver
        .execute("[...document.querySelectorAll('main button')].find(x => x.textContent.startsWith('What is left')).click()", vec![])
        .await?;
    b.sees("shortest way round").await?;
    b.close().await
}

/// With the server stopped the page stays, says so, and keeps what was typed when it is back.
#[tokio::test]
async fn what_is_typed_while_the_server_is_away_is_kept_when_it_is_back() -> Result<()> {
    let mut server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Heron").await?;
    b.driver.goto(format!("{}/jobs/{job}/brief", server.address)).await?;
    b.sees("Only the name is needed").await?;
    // The other benches are fetched as soon as a job is open.
    b.until("performance.getEntriesByType('resource').some(r => r.responseEnd > 0 && r.name.includes('/Round-'))").await?;
    server.stop();
    b.css("main textarea").await?.send_keys(" And the boats?").await?;
    b.sees("The server is not reached").await?;
    b.sees("Waiting for the server").await?;
    // A line is taken, and the bench can be changed meanwhile; nothing is torn down.
    b.css("#note-line").await?.send_keys("gutter sagging" + Key::Enter).await?;
    b.press("Round").await?;
    b.sees("Front face").await?;
    server.start_again().await?;
    b.until("document.querySelector('[role=status]').textContent === 'All kept'").await?;
    b.until("!document.querySelector('[role=alert]')").await?;
    let view = server.json(&format!("/api/jobs/{job}")).await?;
    assert!(view["job"]["body"]["brief"]["worries"].as_str().is_some_and(|w| w.ends_with("And the boats?")), "{}", view["job"]);
    let lines = view["notes"].as_array().into_iter().flatten().filter(|n| n["body"]["text"] == "gutter sagging").count();
    assert_eq!(lines, 1, "kept once, however often it was sent");
    b.close().await
}
