//! Reading a bundle in: as one change, or not at all.

use crate::bundle::{Bundle, BundleError, BundleLimits, Opened, open};
use envelope::job::Job;
use ledger::{BlobRef, Change, Composed, Entity, Kind, Ledger, LedgerError, Now, Record, Request, mark_id};
use sha2::{Digest, Sha256};
use std::io::{Read, Seek, SeekFrom};

/// Reads a bundle in as one change. Picture files are read one by one and taken away again when anything is refused. The same
/// request with the same file gives the same answer.
///
/// # Errors
/// Whatever is wrong with the bundle; [`LedgerError::AlreadyHere`] when the job is here. Nothing is kept then.
pub fn take_in<R: Read + Seek>(
    ledger: &Ledger,
    request: &Request,
    mut file: R,
    limits: BundleLimits,
    most_pixels: u64,
) -> Result<Record<Job>, BundleError> {
    let asked = fingerprint(&mut file).map_err(LedgerError::from)?;
    let mut opened = open(file, limits)?;
    let job = opened.bundle.job.id.clone();
    if let Some((stored, ())) = ledger.answered(request, &job, &asked)? {
        return the_job(stored);
    }
    if ledger.has_job(&job)? {
        return Err(LedgerError::AlreadyHere.into());
    }
    let mut files = Vec::new();
    let kept = store(ledger, &mut opened, most_pixels, &mut files).and_then(|()| {
        let bundle = &opened.bundle;
        let compose = |now: &Now<'_>| -> Result<Composed<()>, BundleError> {
            if now.revision(Kind::Job, &job)?.is_some() {
                return Err(LedgerError::AlreadyHere.into());
            }
            Ok(Composed { changes: changes(bundle, now)?, files: files.clone(), told: () })
        };
        ledger.bring_in(request, &job, &asked, compose)
    });
    match kept {
        Ok((stored, ())) => the_job(stored),
        Err(e) => {
            ledger.forget(&files)?;
            Err(e)
        }
    }
}

fn fingerprint(file: &mut (impl Read + Seek)) -> std::io::Result<String> {
    let mut hash = Sha256::new();
    file.seek(SeekFrom::Start(0))?;
    std::io::copy(file, &mut hash)?;
    file.seek(SeekFrom::Start(0))?;
    Ok(hash.finalize().iter().map(|b| format!("{b:02x}")).collect())
}

fn the_job(stored: Vec<ledger::Stored>) -> Result<Record<Job>, BundleError> {
    let first = stored.into_iter().find(|s| s.kind == Kind::Job);
    Ok(first.ok_or(BundleError::NoJob)?.typed()?)
}

fn store<R: Read + Seek>(ledger: &Ledger, opened: &mut Opened<R>, most_pixels: u64, files: &mut Vec<BlobRef>) -> Result<(), BundleError> {
    for r in opened.files() {
        let blob = opened.file(&r)?;
        picture::check(&blob.bytes, most_pixels).map_err(|e| BundleError::Content(e.to_string()))?;
        // Known before it lies there: what is half written is taken away as well.
        files.push(blob.to_ref());
        ledger.store(&[blob])?;
    }
    Ok(())
}

/// Everything in it, as changes. Ids of a job that was deleted here are used again on top of what was deleted.
fn changes(bundle: &Bundle, now: &Now<'_>) -> Result<Vec<Change>, BundleError> {
    let job = &bundle.job.id;
    let mut out = vec![Change::put(job, None, &bundle.job.body)?];
    let mut put = |change: Change| out.push(change);
    for n in &bundle.notes {
        put(on_top(now, &n.id, &n.body)?);
    }
    for m in &bundle.marks {
        put(on_top(now, &mark_id(job, m.body.cell), &m.body)?);
    }
    for i in &bundle.items {
        put(on_top(now, &i.id, &i.body)?);
    }
    if let Some(roof) = &bundle.roof {
        put(on_top(now, &Kind::Roof.only_id(job), roof)?);
    }
    if let Some(rainwater) = &bundle.rainwater {
        put(on_top(now, &Kind::Rainwater.only_id(job), rainwater)?);
    }
    if let Some(ground) = &bundle.ground {
        put(on_top(now, &Kind::Ground.only_id(job), ground)?);
    }
    if let Some(walls) = &bundle.walls {
        put(on_top(now, &Kind::Walls.only_id(job), walls)?);
    }
    if let Some(moisture) = &bundle.moisture {
        put(on_top(now, &Kind::Moisture.only_id(job), moisture)?);
    }
    if let Some(trace) = &bundle.trace {
        put(on_top(now, &Kind::Trace.only_id(job), trace)?);
    }
    if let Some(storm) = &bundle.storm {
        put(on_top(now, &Kind::Storm.only_id(job), storm)?);
    }
    if let Some(again) = &bundle.again {
        put(on_top(now, &Kind::Return.only_id(job), again)?);
    }
    for s in &bundle.said {
        put(on_top(now, &s.id, &s.body)?);
    }
    for s in &bundle.track {
        put(on_top(now, &s.id, &s.body)?);
    }
    for p in &bundle.pictures {
        put(on_top(now, &p.id, &p.body)?);
    }
    Ok(out)
}

fn on_top<T: Entity>(now: &Now<'_>, id: &str, body: &T) -> Result<Change, LedgerError> {
    let base = now.revision(T::KIND, id)?;
    Change::put(id, base, body).map_err(|e| match e {
        LedgerError::Refused { kind, field, message } => LedgerError::Refused {
            kind,
            message: format!("The bundle holds something that cannot be kept: {kind} {id}, {field}: {message}"),
            field,
        },
        other => other,
    })
}
