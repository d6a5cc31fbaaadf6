//! What each command does. Everything real is in the other crates.

use account::Case;
use anyhow::{Context, Result, bail};
use instruments::SimulatedPost;
use ledger::{Ledger, Request, SystemClock};
use server::App;
use std::io::{Read, Write};
use std::net::{IpAddr, TcpListener};
use std::path::Path;
use std::process::ExitCode;
use std::sync::Arc;
use tracing_subscriber::EnvFilter;
use uuid::Uuid;

pub(crate) fn log(json: bool) {
    let filter = EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("warn,server=info,trowel=info"));
    let builder = tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr);
    if json { builder.json().init() } else { builder.compact().init() }
}

fn open(data: &Path) -> Result<Ledger> {
    Ok(Ledger::open(data, Arc::new(SystemClock))?)
}

/// The data folder as it is; it is not made when it is not there.
fn open_existing(data: &Path) -> Result<Ledger> {
    if !data.join("trowel.db").is_file() {
        bail!("There is no data in {}. Give the folder with --data.", data.display());
    }
    open(data)
}

pub(crate) fn serve(data: &Path, who: &str, bind: &IpAddr, port: u16, hosts: Vec<String>) -> Result<()> {
    let listener = TcpListener::bind((*bind, port)).with_context(|| {
        format!("Cannot listen on {bind} port {port}. Another program may use it; choose one with --port, or 0 for a free one")
    })?;
    let address = listener.local_addr()?;
    let held = ledger::take(data)?;
    let mut app = App::new(Arc::new(open(data)?), who);
    app.hosts = hosts;
    app.post = Box::new(SimulatedPost::at(data.join("post")));
    if app.ledger.is_for_reading_only() {
        eprintln!("This data folder can only be read: everything can be looked at and exported, nothing can be changed.");
    } else {
        app.ledger.tidy(&held)?;
    }
    if !bind.is_loopback() {
        let key = server::new_key();
        app.beyond_this_machine = true;
        app.access_key = Some(key.clone());
        eprintln!(
            "Listening for others on {bind}. Whoever has the access key can read and change everything here; what is sent is not encrypted. \
             It answers under this machine's addresses and the names given with --host. Use --bind 127.0.0.1 to keep it to this machine."
        );
        println!("Access key, asked for once in each browser: {key}");
    }
    println!("Trowel is ready at http://{address}");
    std::io::stdout().flush()?;
    actix_web::rt::System::new().block_on(server::serve(Arc::new(app), listener))?;
    // Whoever started it may be gone and no longer listening.
    let _ = writeln!(std::io::stdout(), "Stopped. Everything is kept in {}.", data.display());
    Ok(())
}

pub(crate) fn demo(data: &Path, fresh: bool) -> Result<()> {
    if fresh && data.exists() {
        // Only what Trowel made is removed; a folder given by mistake keeps its other files.
        for file in ["trowel.db", "trowel.db-wal", "trowel.db-shm"] {
            match std::fs::remove_file(data.join(file)) {
                Err(e) if e.kind() != std::io::ErrorKind::NotFound => return Err(e.into()),
                _ => {}
            }
        }
        match std::fs::remove_dir_all(data.join("pictures")) {
            Err(e) if e.kind() != std::io::ErrorKind::NotFound => return Err(e.into()),
            _ => {}
        }
    }
    let loaded = demo::load(&open(data)?)?;
    if loaded > 0 {
        println!("{loaded} demo jobs loaded.");
    }
    Ok(())
}

/// Finds a job by its id or its name, or by the beginning of its name when only one begins so.
fn find(ledger: &Ledger, wanted: &str) -> Result<Case> {
    let jobs = ledger.jobs()?;
    let lower = wanted.to_lowercase();
    let by_name: Vec<_> = jobs.iter().filter(|j| j.job.id == wanted || j.job.body.name.to_lowercase().starts_with(&lower)).collect();
    let whole = by_name.iter().copied().filter(|j| j.job.body.name.to_lowercase() == lower).collect::<Vec<_>>();
    match if whole.len() == 1 { &whole } else { &by_name }[..] {
        [one] => Ok(Case::new(ledger.job(&one.job.id)?, ledger.today())),
        [] => bail!("No job begins with \"{wanted}\"."),
        _ => bail!("{} jobs begin with \"{wanted}\". Give more of the name, or the id.", by_name.len()),
    }
}

/// Writes a file whole or not at all.
fn write(out: &Path, make: impl FnOnce(&mut std::fs::File) -> Result<()>) -> Result<()> {
    let cannot = || format!("Cannot write {}", out.display());
    let folder = out.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut part = tempfile::NamedTempFile::new_in(folder).with_context(cannot)?;
    make(part.as_file_mut())?;
    part.as_file().sync_all().with_context(cannot)?;
    let bytes = part.as_file().metadata()?.len();
    part.persist(out).with_context(cannot)?;
    println!("{} ({} KB)", out.display(), bytes.div_ceil(1024));
    Ok(())
}

pub(crate) fn report(data: &Path, job: &str, out: &Path, wanted: &report::ReportWanted) -> Result<()> {
    let ledger = open_existing(data)?;
    let case = find(&ledger, job)?;
    if wanted.cut == report::Cut::Trade {
        let all = report::trades(case.view());
        if !all.iter().any(|(t, _)| Some(t) == wanted.trade.as_ref()) {
            let names: Vec<String> = all.into_iter().map(|(t, _)| t).collect();
            bail!("Name the trade with --trade. This report has work for: {}.", names.join(", "));
        }
    }
    let made = report::typeset(&case, &ledger, wanted)?.pdf()?;
    for warning in &made.warnings {
        eprintln!("{warning}");
    }
    write(out, |file| Ok(file.write_all(&made.bytes)?))
}

pub(crate) fn export(data: &Path, job: &str, out: &Path) -> Result<()> {
    let ledger = open_existing(data)?;
    let case = find(&ledger, job)?;
    if out.extension().is_some_and(|e| e == "csv") {
        return write(out, |file| Ok(file.write_all(&exchange::findings_csv(&case)?)?));
    }
    write(out, |file| {
        for name in exchange::pack(case.whole(), &server::bundle_schema(), |h| ledger.blob(h), file)? {
            eprintln!("The file of the picture {name} is damaged or missing; it is not in the bundle. Attach it again to heal it.");
        }
        Ok(())
    })
}

pub(crate) fn import(data: &Path, who: &str, file: &Path) -> Result<()> {
    let bundle = std::fs::File::open(file).with_context(|| format!("Cannot read {}", file.display()))?;
    let request = Request { id: Uuid::new_v4(), who: who.to_owned() };
    let limits = server::Limits::default();
    let ledger = open(data)?;
    // Beside a server it tidies up nothing; without one nobody begins to serve before the job is whole.
    let held = ledger::take(data).ok();
    if let Some(held) = &held {
        ledger.tidy(held)?;
    }
    let job = exchange::take_in(&ledger, &request, bundle, limits.bundle, limits.picture_pixels)?;
    println!("{} was read in.", job.body.name);
    Ok(())
}

pub(crate) fn backup(data: &Path, file: &Path) -> Result<()> {
    let made = open_existing(data)?.backup(file)?;
    println!("{} ({} KB). trowel restore goes back to it.", file.display(), made.bytes.div_ceil(1024));
    if !made.left_out.is_empty() {
        bail!(
            "{} picture files are damaged or missing and are not in the backup: {}. Attach the pictures again to heal them",
            made.left_out.len(),
            made.left_out.join(", ")
        );
    }
    Ok(())
}

pub(crate) fn restore(data: &Path, file: &Path) -> Result<()> {
    let done = ledger::restore(file, data, Arc::new(SystemClock))?;
    println!("{} is back: {} jobs and {} picture files, all sound.", file.display(), done.jobs, done.files);
    if let Some(before) = done.before {
        println!("What was there before lies in {}; delete it when you do not need it any more.", before.display());
    }
    Ok(())
}

pub(crate) fn check(data: &Path, mend: bool) -> ExitCode {
    let look = |l: Ledger| {
        if mend {
            let mended = l.mend()?;
            mended.done.iter().for_each(|d| println!("{d}"));
            if mended.done.is_empty() {
                println!("There was nothing to mend.");
            }
        }
        Ok(l.check()?)
    };
    let report = match open_existing(data).and_then(look) {
        Ok(report) => report,
        Err(e) => {
            eprintln!("trowel: {e:#}");
            return ExitCode::FAILURE;
        }
    };
    for problem in &report.problems {
        println!("{problem}");
    }
    let jobs = if report.jobs == 1 { "1 job".to_owned() } else { format!("{} jobs", report.jobs) };
    if report.problems.is_empty() {
        println!("{jobs} and {} picture files looked at; all is sound.", report.files);
        ExitCode::SUCCESS
    } else {
        println!(
            "{jobs} and {} picture files looked at; {} things are wrong. Each line says what to do.",
            report.files,
            report.problems.len()
        );
        ExitCode::FAILURE
    }
}

/// Bad input ends with 2 and one line.
pub(crate) fn calc(name: &str, file: Option<&Path>) -> ExitCode {
    let mut bytes = Vec::new();
    let read = match file {
        Some(path) => std::fs::read(path).map(|b| bytes = b),
        // A little more than is ever read, so that a file too large is told apart.
        None => std::io::stdin().take(envelope::round::LARGEST_WALK_FILE as u64 * 10).read_to_end(&mut bytes).map(|_| ()),
    };
    let answer = read
        .map_err(|e| format!("The input cannot be read: {e}"))
        .and_then(|()| envelope::round::decode(&bytes).map_err(|e| e.to_string()))
        .and_then(|input| envelope::calc::run(name, &input).map_err(|e| e.to_string()));
    match answer {
        Ok(json) => {
            // Whoever reads may have seen enough and be gone.
            let _ = writeln!(std::io::stdout(), "{json}");
            ExitCode::SUCCESS
        }
        Err(e) => {
            eprintln!("trowel calc {name}: {}", e.replace('\n', " "));
            ExitCode::from(2)
        }
    }
}

pub(crate) fn openapi() -> Result<()> {
    println!("{}", server::openapi().to_pretty_json()?);
    Ok(())
}
