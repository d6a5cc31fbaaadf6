//! Drives the real binary with a real browser, as a person would. Every test has its own server and data folder on a free port, so that
//! they can run beside one another. A browser that is done with a test is lent to the next: another port is another site to it, of
//! which it has kept nothing.

use anyhow::{Context, Result, bail};
use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use std::time::Duration;
use tempfile::TempDir;
use thirtyfour::prelude::*;
use tokio::sync::OnceCell;
use tokio::time::sleep;

/// How long something may take to appear before a test gives up: generous, because it is never a measurement.
const PATIENCE: Duration = Duration::from_secs(40);

/// Where `cargo xtask` put the program.
fn program() -> Result<PathBuf> {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/debug/trowel");
    if !path.is_file() {
        bail!("The trowel program is not built. Run cargo xtask test, which builds it first.");
    }
    Ok(path)
}

/// A process that ends with the test.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// The data of the demo jobs as the program makes them: each test has a copy.
static DEMO: OnceCell<PathBuf> = OnceCell::const_new();

/// The demo jobs are made anew for each program that is tested, and once for all its tests: that takes seconds.
async fn demo_data() -> Result<PathBuf> {
    let built = std::fs::metadata(program()?)?.modified()?.duration_since(std::time::UNIX_EPOCH)?.as_nanos();
    let all = program()?.parent().and_then(Path::parent).context("the program stands in target/debug")?.join("e2e");
    std::fs::create_dir_all(&all)?;
    let there = all.join(format!("demo-{built}"));
    if there.is_dir() {
        return Ok(there);
    }
    for old in std::fs::read_dir(&all)?.flatten().filter(|e| e.file_name().to_string_lossy().starts_with("demo-")) {
        std::fs::remove_dir_all(old.path())?;
    }
    let mut server = Server { process: None, data: TempDir::new_in(&all)?, address: String::new() };
    server.run("demo", "0").await?;
    server.stop();
    // It is there only when it is whole; another that was quicker made the same.
    let _ = std::fs::rename(server.data.path().join("data"), &there);
    if !there.is_dir() {
        bail!("The demo data could not be put by at {}.", there.display());
    }
    Ok(there)
}

fn copy(from: &Path, to: &Path) -> Result<()> {
    std::fs::create_dir_all(to)?;
    for entry in std::fs::read_dir(from)? {
        let entry = entry?;
        let there = to.join(entry.file_name());
        if entry.file_type()?.is_dir() {
            copy(&entry.path(), &there)?;
        } else {
            std::fs::copy(entry.path(), there)?;
        }
    }
    Ok(())
}

/// A server on a free port with a data folder of its own.
pub struct Server {
    process: Option<Running>,
    /// Its data folder.
    pub data: TempDir,
    /// "http://127.0.0.1:4310".
    pub address: String,
}

impl Server {
    /// Starts with the demo jobs, or empty.
    ///
    /// # Errors
    /// When the program cannot be started or does not say that it is ready.
    pub async fn start(demo: bool) -> Result<Server> {
        let mut server = Server { process: None, data: TempDir::new()?, address: String::new() };
        if demo {
            copy(DEMO.get_or_try_init(demo_data).await?, &server.data.path().join("data"))?;
        }
        server.run(if demo { "demo" } else { "serve" }, "0").await?;
        Ok(server)
    }

    async fn run(&mut self, command: &str, port: &str) -> Result<()> {
        let said = self.data.path().join("said");
        let mut child = Command::new(program()?);
        child.arg("--data").arg(self.data.path().join("data")).args(["--who", "Ida Marrow", command, "--port", port]);
        self.process = Some(Running(child.stdout(std::fs::File::create(&said)?).stderr(Stdio::null()).spawn()?));
        self.address = wait("the server", || {
            let text = std::fs::read_to_string(&said).unwrap_or_default();
            text.split_once("ready at ").map(|(_, rest)| rest.lines().next().unwrap_or_default().to_owned())
        })
        .await?;
        Ok(())
    }

    /// Ends the server, as when a machine goes down; its data stays.
    pub fn stop(&mut self) {
        self.process = None;
    }

    /// Starts it again on the same data and the same port.
    ///
    /// # Errors
    /// When it cannot be started.
    pub async fn start_again(&mut self) -> Result<()> {
        let port = self.address.rsplit(':').next().unwrap_or("0").to_owned();
        self.run("serve", &port).await
    }

    /// The answer of the HTTP interface.
    ///
    /// # Errors
    /// When it does not answer with JSON.
    pub async fn json(&self, path: &str) -> Result<serde_json::Value> {
        Ok(reqwest::get(format!("{}{path}", self.address)).await?.error_for_status()?.json().await?)
    }

    /// The bytes behind an address of the page.
    ///
    /// # Errors
    /// When it does not answer.
    pub async fn bytes(&self, path: &str) -> Result<Vec<u8>> {
        Ok(reqwest::get(format!("{}{path}", self.address)).await?.error_for_status()?.bytes().await?.to_vec())
    }

    /// A job of its own with the brief of a demo job, and nothing met yet.
    ///
    /// # Errors
    /// When it cannot be made.
    pub async fn new_job(&self, name: &str, like: &str) -> Result<String> {
        let view = self.json(&format!("/api/jobs/{}", self.job(like).await?)).await?;
        let id = "0190bbbb-0000-7000-8000-000000000001";
        let body = serde_json::json!({ "base": null, "body": { "name": name, "brief": view["job"]["body"]["brief"] } });
        let put = reqwest::Client::new().put(format!("{}/api/jobs/{id}", self.address)).header("idempotency-key", id).json(&body);
        put.send().await?.error_for_status()?;
        Ok(id.to_owned())
    }

    /// The id of the job whose name begins so.
    ///
    /// # Errors
    /// When there is none.
    pub async fn job(&self, name: &str) -> Result<String> {
        let jobs = self.json("/api/jobs").await?;
        let found = jobs["jobs"].as_array().into_iter().flatten().find(|j| j["name"].as_str().is_some_and(|n| n.starts_with(name)));
        Ok(found.and_then(|j| j["id"].as_str()).context("no such job")?.to_owned())
    }
}

/// Waits until `look` finds something.
///
/// # Errors
/// When it does not in good time.
pub async fn wait<T>(what: &str, mut look: impl FnMut() -> Option<T>) -> Result<T> {
    let began = std::time::Instant::now();
    while began.elapsed() < PATIENCE {
        if let Some(found) = look() {
            return Ok(found);
        }
        sleep(Duration::from_millis(50)).await;
    }
    bail!("waited in vain for {what}")
}

/// A driver and its browser. Both end when nobody holds them any more: when a test fails, when its program ends, or when it is killed.
struct Driver {
    keeper: Child,
    address: String,
    profile: PathBuf,
}

impl Driver {
    fn start() -> Result<Driver> {
        // The shell waits for the end of what it reads, which comes when whoever started it is gone. A driver that is just stopped
        // leaves its browser behind; the profile tells which one is ours.
        const KEEP: &str =
            "chromedriver --port=\"$1\" >/dev/null 2>&1 & read -r _; kill $!; pkill -f -- \"user-data-dir=$2\"; sleep 0.2; rm -rf \"$2\"";
        let (port, profile) = (free_port()?.to_string(), TempDir::new()?.keep());
        let mut keeper = Command::new("sh");
        keeper.args(["-c", KEEP, "keeper", &port]).arg(&profile).stdin(Stdio::piped()).stdout(Stdio::null()).stderr(Stdio::null());
        Ok(Driver { keeper: keeper.spawn()?, address: format!("127.0.0.1:{port}"), profile })
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        drop(self.keeper.stdin.take());
        let _ = self.keeper.wait();
    }
}

/// A browser.
pub struct Browser {
    _process: Driver,
    /// The session.
    pub driver: WebDriver,
    /// Another test can have it afterwards.
    lent: bool,
}

/// Browsers that wait for a test: to start one takes as long as many a test.
static IDLE: Mutex<Vec<Browser>> = Mutex::new(Vec::new());

fn free_port() -> Result<u16> {
    Ok(TcpListener::bind("127.0.0.1:0")?.local_addr()?.port())
}

impl Browser {
    /// A browser on an empty page, in a window of this size.
    ///
    /// # Errors
    /// When the driver or the browser cannot be started.
    pub async fn start(width: u32, height: u32) -> Result<Browser> {
        let idle = IDLE.lock().expect("nothing fails while it is held").pop();
        let b = match idle {
            Some(b) => b,
            None => Browser { lent: true, ..Browser::start_with(&[]).await? },
        };
        b.resize(width, height).await?;
        Ok(b)
    }

    /// The same with a camera: the browser's own moving test picture, which may be used without asking.
    ///
    /// # Errors
    /// When either cannot be started.
    pub async fn start_with_camera(width: u32, height: u32) -> Result<Browser> {
        let b = Browser::start_with(&["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"]).await?;
        b.resize(width, height).await?;
        Ok(b)
    }

    async fn start_with(more: &[&str]) -> Result<Browser> {
        let process = Driver::start()?;
        wait("chromedriver, which cargo xtask test installs", || std::net::TcpStream::connect(&process.address).ok()).await?;
        let mut caps = DesiredCapabilities::chrome();
        for arg in [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
        ]
        .iter()
        .chain(more)
        {
            caps.add_arg(arg)?;
        }
        caps.add_arg(&format!("--user-data-dir={}", process.profile.display()))?;
        // Each test runs on a runtime of its own: a connection that outlives it would be dead for the next.
        let driver = WebDriver::builder(format!("http://{}", process.address), caps).keep_alive(false).connect().await?;
        Ok(Browser { _process: process, driver, lent: false })
    }

    /// Ends with this test. A browser that is just dropped ends with its driver.
    ///
    /// # Errors
    /// When the driver does not answer.
    pub async fn close(self) -> Result<()> {
        if !self.lent {
            return Ok(self.driver.clone().quit().await?);
        }
        self.driver.goto("about:blank").await?;
        IDLE.lock().expect("nothing fails while it is held").push(self);
        Ok(())
    }

    /// Waits for an element by its CSS selector.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn css(&self, selector: &str) -> Result<WebElement> {
        self.one(By::Css(selector.to_owned()), selector).await
    }

    /// Waits for a button or link by what it says.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn named(&self, text: &str) -> Result<WebElement> {
        let path = format!("//*[(self::button or self::a or @role='tab') and (normalize-space(.)='{text}' or @aria-label='{text}')]");
        self.one(By::XPath(path), text).await
    }

    /// Waits in the page until `look`, the body of a function of `given`, finds something: looked for again when the page has changed. To
    /// ask from out here every few milliseconds took a good part of what the page itself took.
    async fn found(&self, look: &str, given: Vec<serde_json::Value>, what: &str) -> Result<ScriptRet> {
        let script = format!(
            "const [given, done] = [[...arguments].slice(0, -1), arguments[arguments.length - 1]];
            const look = () => {{ {look} }};
            let soon = 0;
            const tell = (found) => {{ seen.disconnect(); clearInterval(again); clearTimeout(over); clearTimeout(soon); done(found); }};
            const check = () => {{ soon = 0; let found = null; try {{ found = look(); }} catch {{}} if (found) tell(found); }};
            const seen = new MutationObserver(() => {{ soon ||= setTimeout(check, 30); }});
            const again = setInterval(check, 200);
            const over = setTimeout(() => tell(null), 5000);
            seen.observe(document, {{ subtree: true, childList: true, characterData: true, attributes: true }});
            check();"
        );
        let began = std::time::Instant::now();
        let mut fault = String::new();
        while began.elapsed() < PATIENCE {
            // A page that is left while it is looked at is looked at again.
            match self.driver.execute_async(&script, given.clone()).await {
                Ok(found) if !found.json().is_null() => return Ok(found),
                Ok(_) => {}
                Err(e) => {
                    fault = format!("; the browser said at last: {e}");
                    sleep(Duration::from_millis(60)).await;
                }
            }
        }
        bail!("waited in vain for {what}{fault}")
    }

    /// Waits for a text anywhere on the page.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn sees(&self, text: &str) -> Result<WebElement> {
        // Down from the page to the last element that still has the whole text; XPath would read the page again for each element.
        let look = "const has = (e) => e.textContent.replace(/\\s+/g, ' ').includes(given[0]);
            let at = document.body;
            for (let next = has(at) && at; next; next = [...at.children].find(has)) at = next;
            return at === document.body ? null : at";
        Ok(self.found(look, vec![text.into()], text).await?.element()?)
    }

    /// Waits for a text anywhere on the page, without asking which element has it: quick on a page with large drawings.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn shows(&self, text: &str) -> Result<()> {
        let look = "return document.body.innerText.replace(/\\s+/g, ' ').includes(given[0])";
        self.found(look, vec![text.into()], text).await.map(drop)
    }

    /// Waits for a text on the bench, leaving out strip and dock.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn bench(&self, text: &str) -> Result<WebElement> {
        let look = "const own = (e) => [...e.childNodes].find((n) => n.nodeType === 3)?.data.replace(/\\s+/g, ' ').trim();
            return [...document.querySelectorAll('main *')].find((e) => own(e) === given[0])";
        Ok(self.found(look, vec![text.into()], text).await?.element()?)
    }

    async fn one(&self, by: By, what: &str) -> Result<WebElement> {
        self.driver.query(by).wait(PATIENCE, Duration::from_millis(80)).first().await.with_context(|| format!("looking for {what}"))
    }

    /// Presses a button or link by what it says.
    ///
    /// # Errors
    /// When it does not come or cannot be pressed.
    pub async fn press(&self, text: &str) -> Result<()> {
        let button = self.named(text).await?;
        button.scroll_into_view().await?;
        Ok(button.click().await?)
    }

    /// Chooses a part of a bench by how its tab begins: some say how much there is in it.
    ///
    /// # Errors
    /// When it does not come or cannot be pressed.
    pub async fn part(&self, begins: &str) -> Result<()> {
        let path = format!("//*[@role='tab' and starts-with(normalize-space(.), '{begins}')]");
        let tab = self.one(By::XPath(path), begins).await?;
        tab.scroll_into_view().await?;
        Ok(tab.click().await?)
    }

    /// Chooses one of a few by what stands over the choice and how the one begins. With keys: what opens may still be finding its
    /// place when it is pressed, and another is hit.
    ///
    /// # Errors
    /// When there is no such choice, or nothing in it begins so.
    pub async fn choose(&self, label: &str, option: &str) -> Result<()> {
        let path = format!("//button[@aria-haspopup='listbox'][../*[normalize-space(.)='{label}']]");
        self.one(By::XPath(path), label).await?.focus().await?;
        self.keys(Key::Down + "").await?;
        self.css("[role=option]:focus").await?;
        self.keys(option).await?;
        self.until(&format!("document.activeElement.textContent.startsWith({})", serde_json::to_string(option)?)).await?;
        self.keys(Key::Enter + "").await?;
        self.until("!document.querySelector('[role=option]')").await
    }

    /// Sends keys to whatever has the focus.
    ///
    /// # Errors
    /// When the driver does not answer.
    pub async fn keys(&self, keys: impl Into<thirtyfour::TypingData>) -> Result<()> {
        Ok(self.driver.action_chain().send_keys(keys).perform().await?)
    }

    /// Waits until a script gives true.
    ///
    /// # Errors
    /// When it does not.
    pub async fn until(&self, script: &str) -> Result<()> {
        self.found(&format!("return !!({script})"), vec![], script).await.map(drop)
    }

    /// Gives the page another size.
    ///
    /// # Errors
    /// When the driver does not answer.
    pub async fn resize(&self, width: u32, height: u32) -> Result<()> {
        let metrics = serde_json::json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.driver.cdp().send_raw("Emulation.setDeviceMetricsOverride", metrics).await?;
        Ok(())
    }
}

/// Types into a field found by its label, in place of what stands there, and leaves it.
///
/// # Errors
/// When there is no such field.
pub async fn type_into(b: &Browser, label: &str, text: &str) -> Result<()> {
    let field = b
        .driver
        .query(By::XPath(format!("//main//label[contains(., \"{label}\")]/following-sibling::*[self::input or self::textarea]")))
        .first()
        .await?;
    field.send_keys(Key::Control + "a" + Key::Null + text + Key::Tab).await?;
    Ok(())
}

/// What the server keeps, once it is so.
///
/// # Errors
/// When it never is, with what is kept instead.
pub async fn kept_as(server: &Server, path: &str, is: impl Fn(&serde_json::Value) -> bool) -> Result<serde_json::Value> {
    let mut last = serde_json::Value::Null;
    for _ in 0..100 {
        last = server.json(path).await?;
        if is(&last) {
            return Ok(last);
        }
        sleep(Duration::from_millis(100)).await;
    }
    let shown: String = last.to_string().chars().take(1500).collect();
    bail!("never kept so: {shown}")
}
