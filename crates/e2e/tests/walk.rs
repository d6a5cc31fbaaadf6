//! A whole inspection through the real interface.

use anyhow::{Context, Result};
use e2e::{Browser, Server, kept_as, type_into};
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
    b.css("[role=option]").await?.click().await?;
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

trait Ways {
    async fn press_text(&self, text: &str) -> Result<()>;
    async fn press_in_dialog(&self, text: &str) -> Result<()>;
}

impl Ways for Browser {
    /// Presses whatever holds a text.
    async fn press_text(&self, text: &str) -> Result<()> {
        Ok(self.sees(text).await?.click().await?)
    }
    async fn press_in_dialog(&self, text: &str) -> Result<()> {
        let path = format!("//*[@role='dialog']//button[normalize-space(.)='{text}']");
        let button = self.driver.query(By::XPath(path)).first().await?;
        button.scroll_into_view().await?;
        Ok(button.click().await?)
    }
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
async fn the_wheel_is_walked_by_keys_and_speaks() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(390, 844).await?;
    let job = server.job("Thistlewick").await?;
    b.driver.goto(format!("{}/jobs/{job}/round", server.address)).await?;
    b.css("[data-cell='front.roof'][aria-pressed=true]").await?;
    b.driver.execute("document.querySelector('[data-cell=\"front.roof\"]').focus()", vec![]).await?;
    b.keys(Key::Right + Key::Right + Key::Down).await?;
    b.css("[data-cell='rear.edge'][aria-pressed=true]:focus").await?;
    let said = b.css("[data-cell='rear.edge']").await?.attr("aria-label").await?.unwrap_or_default();
    assert_eq!(said, "Rear, edge and gutter: 4 notes, soonest: before next rain");
    // One stop for the tab key, whatever is chosen; nothing on the page is wider than the phone.
    b.until("document.querySelectorAll('[data-cell][tabindex=\"0\"]').length === 1").await?;
    b.until("document.documentElement.scrollWidth <= window.innerWidth").await?;
    // The page keeps its own strict policy: nothing was refused by it.
    b.until("getComputedStyle(document.body).fontFamily.includes('Atkinson')").await?;
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
    let by_hand = By::XPath("//*[@role='dialog']//button[contains(., 'As suggested')]");
    b.driver.query(by_hand).first().await?.click().await?;
    b.driver.query(By::XPath("//*[@role='option'][contains(., 'Watch')]")).first().await?.click().await?;
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
    assert_eq!((&set["urgency"], &set["suggestion"]["step"]), (&json!("watch"), &json!("before-next-rain")));
    // Deleted, and brought back by the key.
    b.bench("Blind corner traps water").await?.click().await?;
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

#[tokio::test]
async fn drawings_by_keys_and_no_bench_wider_than_a_phone() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let job = server.job("Thistlewick").await?;
    let bench = |path: &str| format!("{}/jobs/{job}/{path}", server.address);
    b.driver.goto(bench("roof")).await?;
    b.css("[data-facet]").await?;
    // The first part of the drawing takes focus; arrows go on, Enter chooses.
    b.driver.execute("document.querySelector('main [role=button][tabindex=\"0\"]').focus()", vec![]).await?;
    b.keys(Key::Right).await?;
    b.keys(Key::Enter).await?;
    b.until("document.querySelectorAll('main [data-facet][aria-pressed=true]').length > 0").await?;
    b.css("tr[data-chosen=true]").await?;
    // On the Rainwater bench the same key lets a drop run down, without a pointer.
    b.driver.goto(bench("rainwater")).await?;
    b.css("[data-facet]").await?;
    let ways = "return document.querySelectorAll('main svg polyline').length";
    let before = b.driver.execute(ways, vec![]).await?.json().as_u64();
    b.driver.execute("document.querySelector('main [role=button][tabindex=\"0\"]').focus()", vec![]).await?;
    b.keys(Key::Enter).await?;
    b.until(&format!("document.querySelectorAll('main svg polyline').length > {}", before.unwrap_or(0))).await?;
    // A phone: nothing has to be pushed sideways but what scrolls by itself.
    b.resize(390, 844).await?;
    for (path, shows) in [
        ("brief", "Only the name is needed"),
        ("round", "Front face"),
        ("roof", "squares."),
        ("rainwater", "L/min on the roof"),
        ("ground", "Rain test"),
        ("moisture", "5 wet, 1 raised"),
        ("trace", "something that is not on the list"),
        ("storm", "Draw a square"),
        ("report", "As it will print"),
        ("practice", "1.2 m (4 ft)"),
    ] {
        b.driver.goto(bench(path)).await?;
        b.sees(shows).await?;
        let wide = b.driver.execute("return document.documentElement.scrollWidth", vec![]).await?.json().as_u64();
        assert!(wide.is_some_and(|w| w <= 390), "{path} is {wide:?} wide");
    }
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

/// No page breaks a rule of accessibility that a program can find: AA and best practice, in both themes.
#[tokio::test]
async fn no_page_breaks_a_rule_of_accessibility() -> Result<()> {
    let axe = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js"))?;
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Thistlewick").await?;
    let benches = ["brief", "round", "roof", "rainwater", "ground", "walls", "moisture", "trace", "storm", "report", "practice", "walk"]
        .map(|n| format!("/jobs/{job}/{n}"));
    let again = server.job("Thistlewick Animal Clinic, return").await?;
    let building = server.json("/api/buildings").await?[0]["id"].as_str().unwrap_or_default().to_owned();
    let others = [format!("/jobs/{again}/return"), format!("/jobs/{job}/walk-back"), format!("/buildings/{building}")];
    let mut found = Vec::new();
    for theme in ["daylight", "attic"] {
        for path in ["/".to_owned(), "/interface".to_owned()].iter().chain(&benches).chain(&others) {
            b.driver.goto(format!("{}{path}", server.address)).await?;
            b.driver.execute(format!("localStorage.setItem('trowel-theme', '{theme}')"), vec![]).await?;
            b.driver.refresh().await?;
            b.css("h1").await?;
            b.until("!document.querySelector('[aria-busy=true]')").await?;
            b.driver.execute(axe.clone(), vec![]).await?;
            // The other theme has other colours, and nothing else.
            let which = if theme == "attic" {
                "runOnly: ['color-contrast']"
            } else {
                "rules: { 'label-content-name-mismatch': { enabled: true } }"
            };
            let run = format!(
                "const done = arguments[arguments.length - 1]; axe.run(document, {{ resultTypes: ['violations'], {which} }}).then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.target.join(' ') + ' ' + n.failureSummary.split('\\n').slice(0, 2).join(' ')).join(' | '))))"
            );
            let violations: Vec<String> = b.driver.execute_async(run, vec![]).await?.convert()?;
            found.extend(violations.into_iter().map(|v| format!("{theme} {path}: {v}")));
        }
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
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
    b.sees("goes from 0.3 to 4 m").await?;
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
