//! The developer's commands: `cargo xtask demo`, `test`, `screenshots`, `bench`, `types`, `learn`, `licences`.

mod licences;

use anyhow::{Context, Result, bail};
use clap::Parser;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::{Instant, SystemTime};

/// What a developer of Trowel runs.
#[derive(Debug, Parser)]
#[command(name = "xtask")]
enum Task {
    /// Build everything, load the demo jobs and serve them.
    Demo {
        /// Start over with the demo as it was.
        #[arg(long)]
        fresh: bool,
        /// Port to serve on.
        #[arg(long, default_value_t = 4310)]
        port: u16,
    },
    /// Everything that must pass: formatting, lints, types, tests, browser tests.
    Test,
    /// Drive the application through every view and renew docs/screenshots.
    Screenshots,
    /// Measure what the notes quote.
    Bench,
    /// Train the reader of talk from its sentences and walks; with `--measure`, only leave one walk out at a time and say how it is read.
    Learn {
        /// Measure; write nothing.
        #[arg(long)]
        measure: bool,
    },
    /// Renew the interface types of the page from the server's description.
    Types,
    /// Renew THIRD-PARTY.md.
    Licences,
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("xtask lies in the workspace").to_owned()
}

fn run(program: &str, args: &[&str], dir: &Path) -> Result<()> {
    eprintln!("> {program} {}", args.join(" "));
    let began = Instant::now();
    let status = Command::new(program)
        .args(args)
        .current_dir(dir)
        .status()
        .with_context(|| format!("{program} could not be started. Is it installed?"))?;
    if !status.success() {
        bail!("{program} {} failed", args.join(" "));
    }
    eprintln!("  {:.0} s", began.elapsed().as_secs_f64());
    Ok(())
}

/// Our own crates are compiled by clippy's driver wherever it is installed: one pass gives lints and programs, demo and tests share
/// what was built, and the dependencies are compiled once and not once more for checking.
fn cargo_command() -> Command {
    const DRIVER: &str = "clippy-driver";
    let mut command = Command::new("cargo");
    command.current_dir(root());
    if std::env::var_os("RUSTC_WORKSPACE_WRAPPER").is_none() && found(DRIVER) {
        command.env("RUSTC_WORKSPACE_WRAPPER", DRIVER);
    }
    command
}

fn cargo(args: &[&str]) -> Result<()> {
    let began = Instant::now();
    eprintln!("> cargo {}", args.join(" "));
    if !cargo_command().args(args).status()?.success() {
        bail!("cargo {} failed", args.join(" "));
    }
    eprintln!("  {:.0} s", began.elapsed().as_secs_f64());
    Ok(())
}

/// Builds everything and fails at the first pass that leaves a warning, of the compiler or of clippy. Cargo repeats the warnings of
/// what it built before.
fn cargo_without_a_warning(args: &[&str]) -> Result<()> {
    if !found("clippy-driver") {
        bail!("The lints need clippy. Install it with: rustup component add clippy");
    }
    let began = Instant::now();
    eprintln!("> cargo {} (lints as well)", args.join(" "));
    let mut child = cargo_command().args(args).arg("--message-format=json").stdout(std::process::Stdio::piped()).spawn()?;
    let said = std::io::BufReader::new(child.stdout.take().context("cargo says nothing")?);
    let mut warnings = 0;
    for line in std::io::BufRead::lines(said) {
        let message: serde_json::Value = serde_json::from_str(&line?).unwrap_or_default();
        if message["reason"] == "compiler-message" {
            warnings += 1;
            eprint!("{}", message["message"]["rendered"].as_str().unwrap_or_default());
        }
    }
    if !child.wait()?.success() || warnings > 0 {
        bail!("cargo {} left {warnings} messages", args.join(" "));
    }
    eprintln!("  {:.0} s", began.elapsed().as_secs_f64());
    Ok(())
}

fn web() -> PathBuf {
    root().join("web")
}

fn changed(path: &Path) -> Option<SystemTime> {
    path.metadata().and_then(|m| m.modified()).ok()
}

/// The newest change below a folder, leaving out what is made from it.
fn newest(path: &Path) -> Option<SystemTime> {
    if path.is_file() {
        return changed(path);
    }
    let entries = std::fs::read_dir(path).ok()?;
    entries
        .flatten()
        .filter(|e| !["node_modules", "dist", "schema.d.ts"].iter().any(|made| e.file_name() == *made))
        .filter_map(|e| newest(&e.path()))
        .max()
}

/// Installs what the lock file names, once for each state of it.
fn packages() -> Result<()> {
    let lock = std::fs::read(web().join("package-lock.json"))?;
    let stamp = web().join("node_modules/.installed-lock.json");
    if std::fs::read(&stamp).is_ok_and(|installed| installed == lock) {
        return Ok(());
    }
    // Not `npm ci`: it refuses a lock file that leaves out optional parts for other systems, as ours does. With the lock file in
    // place this installs the same versions; what it would write into the lock file for this system is not kept.
    let installed = run("npm", &["install", "--no-audit", "--no-fund"], &web());
    std::fs::write(web().join("package-lock.json"), &lock)?;
    installed?;
    Ok(std::fs::write(stamp, &lock)?)
}

/// Builds the page if anything it is made of is newer than it.
fn page() -> Result<()> {
    packages()?;
    if changed(&web().join("dist/index.html")) < newest(&web()) {
        run("npm", &["run", "--silent", "build"], &web())?;
    }
    Ok(())
}

/// Format, lints and types of the page, once for each state of it, as Cargo does for what it builds.
fn page_checks() -> Result<()> {
    let stamp = web().join("node_modules/.checked");
    if changed(&stamp) < newest(&web()) {
        run("npm", &["run", "--silent", "check"], &web())?;
        std::fs::write(stamp, "")?;
    }
    Ok(())
}

fn trowel() -> PathBuf {
    root().join("target/debug").join(format!("trowel{}", std::env::consts::EXE_SUFFIX))
}

fn demo(fresh: bool, port: u16) -> Result<()> {
    page()?;
    cargo(&["build", "--package", "trowel"])?;
    let data = root().join("trowel-data");
    let port = port.to_string();
    let mut command = Command::new(trowel());
    command.args(["--who", "Ida Marrow", "--data"]).arg(data).args(["demo", "--port", &port]);
    if fresh {
        command.arg("--fresh");
    }
    let status = command.status()?;
    if !status.success() {
        bail!("the demo stopped with {status}");
    }
    Ok(())
}

const OPENAPI: &str = "web/src/api/openapi.json";
const TONES: &str = "web/src/design/palette.ts";

/// The set of packages and targets that the tests need. Building always the same set keeps the choice of features, and so
/// the heavy dependencies, the same from step to step.
const EVERYTHING: [&str; 3] = ["build", "--workspace", "--all-targets"];

fn printed(what: &str) -> Result<Vec<u8>> {
    let out = Command::new(trowel()).arg(what).output()?;
    if !out.status.success() {
        bail!("{what} could not be printed");
    }
    Ok(out.stdout)
}

/// Writes what the page takes from Rust; the programs are built.
fn write_types() -> Result<()> {
    // The page's own types are made from this at every build, so that a mismatch cannot be built. A file that says the same is left
    // alone: it would be newer than the page, and all of the page would be built again.
    for (file, what) in [(OPENAPI, "openapi"), (TONES, "tones")] {
        let (path, new) = (root().join(file), printed(what)?);
        if std::fs::read(&path).is_ok_and(|old| old == new) {
            continue;
        }
        std::fs::write(path, new)?;
    }
    Ok(())
}

fn types() -> Result<()> {
    cargo(&EVERYTHING)?;
    write_types()
}

/// Runs `renew` and fails when a file it makes was not up to date.
fn unchanged(files: &[&str], renew: impl FnOnce() -> Result<()>, how: &str) -> Result<()> {
    let read = || files.iter().map(|f| std::fs::read(root().join(f)).unwrap_or_default()).collect::<Vec<_>>();
    let before = read();
    renew()?;
    if read() != before {
        bail!("{} was not up to date and has been renewed by `cargo xtask {how}`. Look at the change and commit it.", files.join(", "));
    }
    Ok(())
}

fn found(program: &str) -> bool {
    let paths = std::env::var_os("PATH").unwrap_or_default();
    std::env::split_paths(&paths).any(|p| p.join(program).is_file())
}

/// The browser the tests drive, from the system's packages.
fn browser() -> Result<()> {
    if found("chromium") && found("chromedriver") {
        return Ok(());
    }
    let install = found("apt-get")
        && run("apt-get", &["update", "-qq"], &root()).is_ok()
        && run("apt-get", &["install", "-y", "-qq", "--no-install-recommends", "chromium", "chromium-driver"], &root()).is_ok();
    if !install || !found("chromedriver") {
        bail!("The browser tests need the packages chromium and chromium-driver. Install them and run this again.");
    }
    Ok(())
}

fn test() -> Result<()> {
    let began = Instant::now();
    // The form of the sources is looked at beside the build, which has a core to spare while it only finds that nothing is new.
    let mut form = cargo_command().args(["fmt", "--all", "--check"]).spawn()?;
    // The page is built into the program: first what it is made of, then the page, then the program.
    page()?;
    cargo_without_a_warning(&EVERYTHING)?;
    if !form.wait()?.success() {
        bail!("cargo fmt --all --check failed. Run: cargo fmt --all");
    }
    unchanged(&[OPENAPI, TONES], write_types, "types")?;
    page_checks()?;
    browser()?;
    cargo(&["test", "--workspace"])?;
    eprintln!("Everything passed in {:.0} s.", began.elapsed().as_secs_f64());
    Ok(())
}

fn main() -> Result<()> {
    match Task::parse() {
        Task::Demo { fresh, port } => demo(fresh, port),
        Task::Test => test(),
        Task::Screenshots => {
            page()?;
            browser()?;
            cargo(&EVERYTHING)?;
            run(&root().join("target/debug/screenshots").display().to_string(), &[], &root())
        }
        Task::Bench => {
            page()?;
            cargo(&["bench", "--package", "envelope", "--package", "server", "--package", "ledger"])
        }
        Task::Learn { measure } => {
            let mut args = vec!["run", "--release", "--package", "envelope", "--example", "learn_talk"];
            args.extend(measure.then_some(["--", "measure"]).into_iter().flatten());
            cargo(&args)
        }
        Task::Types => types(),
        Task::Licences => {
            packages()?;
            licences::write(&root())
        }
    }
}
