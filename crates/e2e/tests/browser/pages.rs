//! What holds for every page: keys, sizes, and what a program can find wrong with its accessibility.

use anyhow::Result;
use e2e::{Browser, Server};
use thirtyfour::prelude::*;

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
        assert_eq!(jumps(&b).await?, Vec::<String>::new(), "{path} jumps");
    }
    b.close().await
}

/// What moved on the page after it was first drawn and without anybody's doing: what moves away under a finger is pressed beside.
async fn jumps(b: &Browser) -> Result<Vec<String>> {
    let look = "const done = arguments[0];
        const told = (e) => e.sources.map((s) => `${(s.node?.textContent ?? '').slice(0, 40)} ${s.previousRect.y} to ${s.currentRect.y}`).join(', ');
        const all = PerformanceObserver.supportedEntryTypes.includes('layout-shift') ? [] : ['this browser does not tell'];
        const seen = (list) => all.push(...list.getEntries().filter((e) => e.value > 0.01 && !e.hadRecentInput).map(told));
        new PerformanceObserver(seen).observe({ type: 'layout-shift', buffered: true });
        setTimeout(() => done(all), 60)";
    Ok(b.driver.execute_async(look, vec![]).await?.convert()?)
}

/// No page breaks a rule of accessibility that a program can find: AA and best practice, in both themes. And none jumps.
#[tokio::test]
async fn no_page_breaks_a_rule_of_accessibility_or_jumps() -> Result<()> {
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
    for path in ["/".to_owned(), "/interface".to_owned()].iter().chain(&benches).chain(&others) {
        b.driver.goto(format!("{}{path}", server.address)).await?;
        b.css("h1").await?;
        b.until("!document.querySelector('[aria-busy=true]')").await?;
        found.extend(jumps(&b).await?.into_iter().map(|j| format!("{path} jumps: {j}")));
        b.driver.execute(axe.clone(), vec![]).await?;
        // The other theme has other colours, and nothing else.
        for (theme, which) in
            [("daylight", "rules: { 'label-content-name-mismatch': { enabled: true } }"), ("attic", "runOnly: ['color-contrast']")]
        {
            b.driver.execute(format!("document.documentElement.dataset.theme = '{theme}'"), vec![]).await?;
            b.until("document.getAnimations().length === 0").await?;
            let run = format!(
                "const done = arguments[arguments.length - 1]; axe.run(document, {{ resultTypes: ['violations'], preload: false, {which} }}).then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.target.join(' ') + ' ' + n.failureSummary.split('\\n').slice(0, 2).join(' ')).join(' | '))))"
            );
            let violations: Vec<String> = b.driver.execute_async(run, vec![]).await?.convert()?;
            found.extend(violations.into_iter().map(|v| format!("{theme} {path}: {v}")));
        }
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
    b.close().await
}
