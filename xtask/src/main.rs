//! The developer's commands: `cargo xtask demo`, `test`, `screenshots`, `bench`, `types`, `licences`.

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

fn cargo(args: &[&str]) -> Result<()> {
    run("cargo", args, &root())
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

fn packages() -> Result<()> {
    let stamp = web().join("node_modules/.package-lock.json");
    if changed(&stamp) < changed(&web().join("package-lock.json")) {
        // Not `npm ci`: it refuses a lock file that leaves out optional parts for other systems, as ours does. With the lock
        // file in place this installs the same versions.
        run("npm", &["install", "--no-audit", "--no-fund"], &web())?;
    }
    Ok(())
}

/// Builds the page if anything it is made of is newer than it.
fn page() -> Result<()> {
    packages()?;
    if changed(&web().join("dist/index.html")) < newest(&web()) {
        run("npm", &["run", "--silent", "build"], &web())?;
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

/// The set of packages and targets that the tests need. Building always the same set keeps the choice of features, and so
/// the heavy dependencies, the same from step to step.
const EVERYTHING: [&str; 3] = ["build", "--workspace", "--all-targets"];

fn types() -> Result<()> {
    packages()?;
    cargo(&EVERYTHING)?;
    let out = Command::new(trowel()).arg("openapi").output()?;
    if !out.status.success() {
        bail!("the description could not be printed");
    }
    // The page's own types are made from this at every build, so that a mismatch cannot be built.
    std::fs::write(root().join(OPENAPI), out.stdout)?;
    Ok(())
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
    cargo(&["fmt", "--all", "--check"])?;
    packages()?;
    unchanged(&[OPENAPI], types, "types")?;
    run("npm", &["run", "--silent", "check"], &web())?;
    page()?;
    cargo(&["clippy", "--quiet", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    browser()?;
    cargo(&EVERYTHING)?;
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
            cargo(&["bench", "--package", "envelope", "--package", "server"])
        }
        Task::Types => types(),
        Task::Licences => {
            packages()?;
            licences::write(&root())
        }
    }
}
