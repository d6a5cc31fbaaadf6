//! Renews docs/screenshots from the demo data.

use anyhow::Result;
use e2e::{Browser, Server};
use std::path::Path;
use std::time::Duration;

#[tokio::main]
async fn main() -> Result<()> {
    let out = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    std::fs::create_dir_all(&out)?;
    let server = Server::start(true).await?;
    let job = server.job("Thistlewick").await?;
    let b = Browser::start(1280, 800).await?;
    let bench = |path: &str| format!("{}/jobs/{job}/{path}", server.address);
    let settle = || tokio::time::sleep(Duration::from_millis(900));
    let choose = |cell: &str| {
        format!(
            "document.querySelector('[data-cell=\"{cell}\"]').dispatchEvent(new MouseEvent('click', {{ bubbles: true }})); window.scrollTo(0, 0)"
        )
    };
    let shoot = async |name: &str| -> Result<()> {
        settle().await;
        b.driver.screenshot(&out.join(format!("{name}.png"))).await?;
        println!("{name}.png");
        Ok(())
    };
    b.resize(1280, 800).await?;
    b.driver.goto(&server.address).await?;
    b.named("Thistlewick Animal Clinic").await?;
    shoot("jobs").await?;

    b.driver.goto(bench("brief")).await?;
    b.sees("Only the name is needed").await?;
    shoot("brief").await?;

    b.driver.goto(bench("round")).await?;
    b.css("#note-line").await?;
    b.driver.execute(choose("rear.edge"), vec![]).await?;
    shoot("round").await?;
    b.driver.goto(bench("roof")).await?;
    b.css("[data-facet]").await?;
    shoot("roof").await?;
    b.driver.goto(bench("rainwater")).await?;
    b.sees("L/min on the roof").await?;
    shoot("rainwater").await?;

    b.driver.goto(bench("ground")).await?;
    b.press("Storm of once in 10 years").await?;
    b.shows("The sums differ").await?;
    b.driver.execute("const r = document.querySelector('main input[type=range]'); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(r, 11); r.dispatchEvent(new Event('input', { bubbles: true })); document.querySelector('section[aria-label=\"Rain test\"]').scrollIntoView(); window.scrollBy(0, -60)", vec![]).await?;
    b.shows("60 min:").await?;
    shoot("ground").await?;

    let plot = server.job("Quarry Row").await?;
    b.driver.goto(format!("{}/jobs/{plot}/walls", server.address)).await?;
    b.css("[data-key='front.W2.head-lap']").await?.click().await?;
    shoot("walls").await?;
    b.press("Laps").await?;
    b.shows("Right only while the top edge of the head tape stays closed").await?;
    shoot("laps").await?;

    let boats = server.job("Heron").await?;
    b.driver.goto(format!("{}/jobs/{boats}/storm", server.address)).await?;
    b.shows("drawn by the seed").await?;
    shoot("storm").await?;

    b.driver.goto(bench("moisture")).await?;
    b.shows("5 wet, 1 raised").await?;
    b.driver
        .execute("document.querySelector('[aria-label^=\"treatment room, ceiling\"]').scrollIntoView(); window.scrollBy(0, -60)", vec![])
        .await?;
    shoot("moisture").await?;
    b.driver.goto(bench("trace")).await?;
    b.shows("something that is not on the list").await?;
    shoot("trace").await?;

    b.driver.goto(bench("practice")).await?;
    b.bench("1.2 m (4 ft)").await?.click().await?;
    b.sees("to spare").await?;
    shoot("practice").await?;

    b.driver.goto(bench("walk")).await?;
    b.css("main textarea").await?;
    let walk = include_str!("../../../envelope/tests/walks/clinic.vtt");
    let fill = "const a = document.querySelector('main textarea'); Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set.call(a, arguments[0]); a.dispatchEvent(new Event('input', { bubbles: true }))";
    b.driver.execute(fill, vec![walk.into()]).await?;
    b.press("Read it").await?;
    b.sees("to look at").await?;
    shoot("recorded-walk").await?;

    b.driver.goto(bench("report")).await?;
    b.sees("As it will print").await?;
    b.until("[...document.querySelectorAll('ol img')].slice(0, 1).every(i => i.complete && i.naturalWidth > 0)").await?;
    shoot("report").await?;
    b.press("With the client").await?;
    b.press("Make an address").await?;
    b.sees("cannot be shown again").await?;
    let address = b.driver.execute("return document.querySelector('[role=status] span').textContent", vec![]).await?;
    let address = address.json().as_str().unwrap_or_default().to_owned();

    b.css("section[aria-label='Walk-back'] a").await?.click().await?;
    b.sees("1. Fixture gone").await?;
    b.until("[...document.querySelectorAll('img')].every(i => i.complete)").await?;
    shoot("walk-back").await?;
    let again = server.job("Thistlewick Animal Clinic, return").await?;
    b.driver.goto(format!("{}/jobs/{again}/return", server.address)).await?;
    b.sees("1 done wrong").await?;
    let more = "const m = [...document.querySelectorAll('main ol li button')].find(x => x.textContent === 'More'); m.click(); m.closest('li').scrollIntoView(); window.scrollBy(0, -60)";
    b.driver.execute(more, vec![]).await?;
    b.until("[...document.querySelectorAll('main img')].filter(i => i.complete && i.naturalWidth > 0).length === 2").await?;
    shoot("return").await?;
    b.driver.goto(&server.address).await?;
    b.css("section[aria-label='Buildings'] a").await?.click().await?;
    b.press("Reserve").await?;
    b.sees("is enough in nine of ten cases").await?;
    shoot("building").await?;

    b.driver.execute("localStorage.setItem('trowel-theme', 'attic')", vec![]).await?;
    b.driver.goto(bench("round")).await?;
    b.css("#note-line").await?;
    b.driver.execute(choose("left.ground"), vec![]).await?;
    shoot("round-attic").await?;
    b.driver.execute("localStorage.setItem('trowel-theme', 'daylight')", vec![]).await?;
    b.resize(390, 844).await?;
    b.driver.goto(&address).await?;
    b.css("#wheel [data-cell]").await?;
    shoot("client").await?;
    b.close().await
}
