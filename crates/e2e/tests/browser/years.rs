//! What comes after the visit, through the real interface: the report's first page and cuts, the walk-back, the client's page with a
//! question and its answer, a return visit, the building over the years.

use anyhow::{Context, Result};
use e2e::{Browser, Server, kept_as, type_into};
use serde_json::Value;
use thirtyfour::prelude::*;

async fn fits(b: &Browser, what: &str) -> Result<()> {
    let wide = b.driver.execute("return document.documentElement.scrollWidth - innerWidth", vec![]).await?.json().as_i64();
    assert!(wide.is_some_and(|w| w <= 0), "{what} is {wide:?} too wide");
    Ok(())
}

/// A client opens the page under its key on a phone, finds by place, asks; the inspector answers; withdrawn, the page is gone.
#[tokio::test]
async fn the_client_reads_asks_and_is_answered() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Thistlewick").await?;
    let leaving = format!("/api/jobs/{job}/leaving");
    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.sees("To be done first").await?;
    b.press("With the client").await?;
    b.press("Make an address").await?;
    b.sees("it is not kept here and cannot be shown again").await?;
    let address = "return document.querySelector('[role=status] span').textContent";
    let address = b.driver.execute(address, vec![]).await?.json().as_str().context("no address")?.to_owned();
    let key = address.rsplit('/').next().context("no key")?.to_owned();
    let kept = kept_as(&server, &leaving, |v| v["links"].as_array().is_some_and(|l| l.len() == 1)).await?;
    assert!(key.len() == 43 && !kept.to_string().contains(&key), "the key itself is not kept");

    b.resize(390, 844).await?;
    b.driver.goto(&address).await?;
    b.css("#wheel [data-cell='right.openings']").await?;
    fits(&b, "the client's page").await?;
    // By place, with keys: only what was found there stays.
    b.driver.execute("document.querySelector(\"#wheel [data-cell='right.openings']\").focus()", vec![]).await?;
    b.keys(Key::Enter).await?;
    b.until("[...document.querySelectorAll('article')].filter(a => !a.hidden).length === 1").await?;
    b.until(
        "!document.getElementById('chosen').hidden && document.querySelector('article:not([hidden]) h4').textContent.startsWith('1. ')",
    )
    .await?;
    let ask = "const a = document.querySelector('article:not([hidden]) details'); a.open = true; a.querySelector('textarea').focus()";
    b.driver.execute(ask, vec![]).await?;
    b.keys("Is it <b>live</b>?").await?;
    b.driver.execute("document.querySelector('article:not([hidden]) form button').click()", vec![]).await?;
    b.until("document.querySelector('article:not([hidden]) [role=status]').textContent.startsWith('Sent')").await?;
    // It loads nothing and runs nothing of others: the policy would say so in the console, and the page has no outside address.
    let outside =
        "return performance.getEntriesByType('resource').filter(r => !r.name.startsWith('data:') && !r.name.endsWith('/questions')).length";
    assert_eq!(b.driver.execute(outside, vec![]).await?.json().as_u64(), Some(0));

    b.resize(1280, 900).await?;
    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.press("With the client").await?;
    b.sees("Is it <b>live</b>?").await?;
    type_into(&b, "Answer; it is shown on the client's page", "Treat it as live. The electrician comes on Friday.").await?;
    b.press("Keep the answer").await?;
    kept_as(&server, &leaving, |v| v["said"][0]["body"]["answer"].as_str().is_some_and(|a| a.contains("Friday"))).await?;
    b.driver.goto(&address).await?;
    b.until("document.body.textContent.includes('The electrician comes on Friday.')").await?;

    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.press("With the client").await?;
    b.press("Withdraw it").await?;
    kept_as(&server, &leaving, |v| v["links"][0]["body"]["withdrawn_at"].is_string()).await?;
    b.driver.goto(&address).await?;
    b.until("document.body.textContent.includes('not open any more')").await?;
    b.close().await
}

/// On a tablet between two people: next by arrow and by swipe, what they say kept with its time and its finding.
#[tokio::test]
async fn the_walk_back_keeps_what_was_said() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(820, 1180).await?;
    let job = server.job("Thistlewick").await?;
    b.driver.goto(format!("{}/jobs/{job}/walk-back", server.address)).await?;
    b.sees("1. Fixture gone, box open").await?;
    fits(&b, "the walk-back").await?;
    b.press("They knew").await?;
    b.keys(Key::Right).await?;
    b.sees("2. Ceiling stain").await?;
    let swipe = "const s = document.querySelector('main section'); const e = (t, x) => s.dispatchEvent(new PointerEvent(t, { bubbles: true, clientX: x, clientY: 300 })); e('pointerdown', 600); e('pointerup', 300);";
    b.driver.execute(swipe, vec![]).await?;
    b.until("document.querySelector('h1').textContent.startsWith('3. ')").await?;
    b.press("They asked…").await?;
    type_into(&b, "What they asked", "Does it go on?").await?;
    b.press("Keep it").await?;
    let leaving = kept_as(&server, &format!("/api/jobs/{job}/leaving"), |v| v["said"].as_array().is_some_and(|s| s.len() == 2)).await?;
    let view = server.json(&format!("/api/jobs/{job}")).await?;
    let number = |said: &Value| {
        let note = &said["body"]["note_id"];
        view["findings"].as_array().into_iter().flatten().find(|f| &f["note_id"] == note).and_then(|f| f["number"].as_u64())
    };
    let said: Vec<(Option<u64>, &str)> =
        leaving["said"].as_array().into_iter().flatten().map(|s| (number(s), s["body"]["kind"].as_str().unwrap_or_default())).collect();
    assert_eq!(said, [(Some(1), "knew"), (Some(3), "asked")]);
    b.close().await
}

/// A return visit is started from the report, answered by one key, refused without a reason; the building shows both visits.
#[tokio::test]
async fn a_return_visit_and_the_building_it_belongs_to() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    let job = server.job("Quarry Row").await?;
    b.driver.goto(format!("{}/jobs/{job}/report", server.address)).await?;
    b.press("Afterwards").await?;
    b.press("Begin a building with it").await?;
    b.sees("It is another building").await?;
    b.press("Start a return visit").await?;
    b.sees("recommendations of the earlier visit").await?;
    let address = b.driver.current_url().await?;
    let again = address.path().split('/').nth(2).context("no job")?.to_owned();
    let page = format!("/api/jobs/{again}/return");
    // What must not be covered comes first.
    let kept = server.json(&page).await?;
    let first = kept["account"]["order"][0].as_str().unwrap_or_default().to_owned();
    assert!(first.starts_with("cover-"), "{first}");
    b.driver.execute("document.querySelector('main ol li button').focus()", vec![]).await?;
    b.keys("1").await?;
    let line =
        |v: &Value, id: &str| v["kept"]["lines"].as_array().into_iter().flatten().find(|l| l["id"] == id).cloned().unwrap_or_default();
    kept_as(&server, &page, |v| line(v, &first)["became"] == "done-right").await?;
    // Done wrong needs a reason; it is asked for, and nothing is lost.
    b.keys("2").await?;
    b.sees("Say what is wrong with it").await?;
    type_into(&b, "What was seen", "turned, but cut short at the left").await?;
    let kept = kept_as(&server, &page, |v| line(v, &first)["became"] == "done-wrong").await?;
    assert!(kept["account"]["letter"].to_string().contains("turned, but cut short at the left"));
    assert!(server.bytes(&format!("/api/jobs/{again}/report.pdf")).await?.starts_with(b"%PDF"));

    // The building knows both visits.
    b.driver.goto(format!("{}/jobs/{again}/report", server.address)).await?;
    b.press("Afterwards").await?;
    b.css("section[aria-label='The building'] a").await?.click().await?;
    b.sees("Before-cladding check").await?;
    b.sees("Return visit").await?;
    for (tab, shows) in [("Upkeep", "As a calendar"), ("Reserve", "What goes into it"), ("Places", "Front")] {
        b.press(tab).await?;
        b.sees(shows).await?;
    }
    b.resize(390, 844).await?;
    fits(&b, "the building's page").await?;
    b.driver.goto(format!("{}/jobs/{again}/return", server.address)).await?;
    b.sees("recommendations of the earlier visit").await?;
    fits(&b, "the return visit").await?;
    b.close().await
}

/// The demo's return visit stands beside the clinic's first one, with its series and its picture of then.
#[tokio::test]
async fn the_clinic_over_the_years() -> Result<()> {
    let server = Server::start(true).await?;
    let b = Browser::start(1280, 900).await?;
    b.driver.goto(&server.address).await?;
    b.css("section[aria-label='Buildings'] a").await?.click().await?;
    b.sees("Leak assessment").await?;
    b.press("Series").await?;
    b.sees("1.1 mm").await?;
    b.press("Reserve").await?;
    b.sees("is enough in nine of ten cases").await?;
    type_into(&b, "Years it looks ahead", "30").await?;
    b.until("document.body.textContent.includes('by the end of 2056')").await?;
    let again = server.job("Thistlewick Animal Clinic, return").await?;
    b.driver.goto(format!("{}/jobs/{again}/return", server.address)).await?;
    b.sees("1 done wrong").await?;
    b.driver.execute("[...document.querySelectorAll('main ol li button')].find(x => x.textContent === 'More').click()", vec![]).await?;
    b.until("[...document.querySelectorAll('main img')].filter(i => i.complete && i.naturalWidth > 0).length === 2").await?;
    b.close().await
}

/// The picture of then lies half transparent over the camera; what is taken stands beside it, under a slider, and is kept.
#[tokio::test]
async fn a_picture_is_taken_in_the_frame_of_then() -> Result<()> {
    let server = Server::start(true).await?;
    let again = server.job("Thistlewick Animal Clinic, return").await?;
    let page = format!("/api/jobs/{again}/return");
    let with_old = |v: &Value| {
        let lines = v["kept"]["lines"].as_array().cloned().unwrap_or_default();
        lines.into_iter().find(|l| l["then"].as_array().is_some_and(|t| !t.is_empty())).unwrap_or_default()
    };
    let line = with_old(&server.json(&page).await?);
    let (number, before) = (line["number"].as_u64().context("no line with a picture")?, line["now"].clone());
    let more = format!(
        "[...document.querySelectorAll('main ol li')].find(l => l.getAttribute('aria-label').startsWith('{number}. ')).querySelector('[aria-expanded=false]').click()"
    );

    // Without a camera it is said, and another way is shown; nothing changes.
    let b = Browser::start(820, 1180).await?;
    b.driver.goto(format!("{}/jobs/{again}/return", server.address)).await?;
    b.sees("recommendations of the earlier visit").await?;
    b.driver.execute(&more, vec![]).await?;
    b.press("Then, half transparent over the camera").await?;
    b.sees("The camera cannot be used here").await?;
    b.css("input[type=file]").await?;
    b.close().await?;
    assert_eq!(with_old(&server.json(&page).await?)["now"], before);

    let b = Browser::start_with_camera(820, 1180).await?;
    b.driver.goto(format!("{}/jobs/{again}/return", server.address)).await?;
    b.sees("recommendations of the earlier visit").await?;
    b.driver.execute(&more, vec![]).await?;
    b.press("Then, half transparent over the camera").await?;
    b.until("document.querySelector('main video')?.videoWidth > 0").await?;
    b.until("getComputedStyle(document.querySelector('main img[alt=Then]')).opacity === '0.5'").await?;
    b.press("Take it in the same frame").await?;
    let kept = kept_as(&server, &page, |v| with_old(v)["now"].is_string() && with_old(v)["now"] != before).await?;
    b.until("!document.querySelector('main video') && document.querySelector('main img[alt=Now]')?.naturalWidth > 0").await?;
    // The slider uncovers one and covers the other.
    let clip = "getComputedStyle(document.querySelector('main img[alt=Then]')).clipPath";
    b.until(&format!("{clip} === 'inset(0px 50% 0px 0px)'")).await?;
    b.driver.execute("document.querySelector('input[type=range]').focus()", vec![]).await?;
    b.keys(Key::Home).await?;
    b.until(&format!("{clip} === 'inset(0px 100% 0px 0px)'")).await?;
    let id = with_old(&kept)["now"].as_str().context("no picture")?.to_owned();
    let taken = server.bytes(&format!("/api/jobs/{again}/pictures/{id}/display")).await?;
    assert!(taken.starts_with(b"\xff\xd8") && taken.len() > 1000, "a picture of the camera");
    b.close().await
}
