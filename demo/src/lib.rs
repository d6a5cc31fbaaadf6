//! The demo jobs: read from the open files in `jobs/`, with pictures drawn here. Invented throughout.

pub use scenes::{SCENES, draw};

use envelope::ground::record::Ground;
use envelope::job::{Brief, Job};
use envelope::moisture::record::Moisture;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::record::Roof;
use envelope::round::{Context, read};
use envelope::site::{Cell, Face, Item, ItemKind, LimitReason, Mark, MarkState, Place, Zone, next_names};
use envelope::storm::record::StormVisit;
use envelope::trace::record::Trace;
use envelope::wall::record::Walls;
use envelope::years::again::{Became, ReturnKept};
use envelope::years::building::Building;
use ledger::{Change, Entity, Ledger, LedgerError, Request};
use rayon::prelude::*;
use serde::Deserialize;
use std::collections::BTreeMap;
use uuid::Uuid;

const FILES: [&str; 4] = [
    include_str!("../jobs/1-thistlewick.toml"),
    include_str!("../jobs/2-quarry-row.toml"),
    include_str!("../jobs/3-heron.toml"),
    include_str!("../jobs/4-thistlewick-return.toml"),
];

/// A demo job as its file says it.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoJob {
    /// The job's name.
    pub name: String,
    /// Its brief.
    pub brief: Brief,
    /// The job it is a return visit of.
    pub returns_to: Option<String>,
    said_mended: Option<bool>,
    /// What became of everything that has no answer of its own.
    others: Option<Became>,
    #[serde(default)]
    why_now: String,
    #[serde(default, rename = "answer")]
    answers: Vec<DemoAnswer>,
    #[serde(default, rename = "note")]
    notes: Vec<DemoNote>,
    #[serde(default)]
    seen: Vec<DemoSeen>,
    #[serde(default)]
    limit: Vec<DemoLimit>,
    #[serde(default)]
    items: Vec<DemoItems>,
    /// Its roof, as it was measured.
    pub roof: Option<Roof>,
    /// Rain and gutters.
    pub rainwater: Option<Rainwater>,
    /// The ground, as it was read.
    pub ground: Option<Ground>,
    /// The walls, as they were met.
    pub walls: Option<Walls>,
    /// Rooms and readings, as they were taken.
    pub moisture: Option<Moisture>,
    /// Wet spots, as they were seen and tried.
    pub trace: Option<Trace>,
    /// Its count after a storm.
    pub storm: Option<StormVisit>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoNote {
    at: Cell,
    line: String,
    /// The condition it must be read as; checked by a test.
    #[cfg_attr(not(test), allow(dead_code))]
    expect: Option<String>,
    /// The condition of a second note in the same line.
    #[cfg_attr(not(test), allow(dead_code))]
    also: Option<String>,
    /// It must be read as done right.
    #[serde(default)]
    #[cfg_attr(not(test), allow(dead_code))]
    good: bool,
    station: Option<String>,
    from_left_m: Option<f64>,
    room: Option<String>,
    face: Option<Face>,
    #[serde(default)]
    active: bool,
    #[serde(default)]
    sensitive: bool,
    picture: Option<DemoPicture>,
}

/// What became of a recommendation, which is named by the line it was noted with.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoAnswer {
    line: String,
    became: Became,
    #[serde(default)]
    said: String,
    #[serde(default)]
    by: String,
    picture: Option<DemoPicture>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoPicture {
    scene: String,
    heading: Option<f64>,
    /// Time of day.
    at: String,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoSeen {
    at: Cell,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoLimit {
    at: Cell,
    reason: LimitReason,
    detail: String,
}

/// Why the demo could not be loaded.
#[derive(Debug, thiserror::Error)]
pub enum DemoError {
    /// The ledger refused.
    #[error(transparent)]
    Ledger(#[from] LedgerError),
    /// A scene could not be drawn or read.
    #[error("the demo picture {0} could not be drawn")]
    Scene(String),
}

/// The demo jobs as their files say them.
pub fn jobs() -> Vec<DemoJob> {
    FILES.iter().map(|f| toml::from_str(f).expect("the demo files are tested")).collect()
}

/// Ids that stay the same from one loading to the next.
fn id(what: &str) -> Uuid {
    const SPACE: Uuid = Uuid::from_u128(0x7f1d_4c5e_0a2b_4d8e_9b7a_5e0c_1f2a_3b4c);
    Uuid::new_v5(&SPACE, what.as_bytes())
}

impl DemoNote {
    fn place(&self) -> Place {
        let (face, zone) = match self.at {
            Cell::Outside(face, zone) => (Some(face), zone),
            Cell::Inside => (self.face, Zone::Inside),
        };
        Place { face, zone, station: self.station.clone(), from_left_m: self.from_left_m, room: self.room.clone(), surface: None }
    }
}

/// What was counted on a face.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoItems {
    face: Face,
    kind: ItemKind,
    labels: Vec<String>,
}

/// The practice of the demo, as its file says it.
pub fn practice() -> Practice {
    Practice::from_toml(include_str!("../practice.toml")).expect("the demo files are tested")
}

/// Loads every demo job that is not there yet; gives how many were loaded. What a person changed is left alone.
///
/// # Errors
/// When the ledger refuses.
pub fn load(ledger: &Ledger) -> Result<usize, DemoError> {
    let mut loaded = 0;
    let practice = practice();
    if ledger.practices()?.iter().all(|p| p.body.name != practice.name) {
        let practice_id = id("practice").to_string();
        // One that was deleted is put on top of what was deleted.
        let base = ledger.live_revision(ledger::Kind::Practice, &practice_id, &practice_id)?;
        let request = Request { id: Uuid::new_v4(), who: "Ida Marrow".to_owned() };
        ledger.apply(&request, &practice_id, &[Change::put(&practice_id, base, &practice)?], &[])?;
    }
    // The last one loaded is listed first, and the main demo should be.
    let jobs = jobs();
    let (returns, firsts): (Vec<&DemoJob>, Vec<&DemoJob>) = jobs.iter().rev().partition(|j| j.returns_to.is_some());
    for job in firsts.into_iter().chain(returns) {
        let job_id = id(&job.name).to_string();
        if ledger.live_revision(ledger::Kind::Job, &job_id, &job_id)?.is_none() {
            load_job(ledger, job, &job_id)?;
            loaded += 1;
        }
    }
    if loaded > 0 {
        clinic(ledger)?;
    }
    Ok(loaded)
}

/// The clinic as a building, with both visits and what happened to it between them.
fn clinic(ledger: &Ledger) -> Result<(), DemoError> {
    let building_id = id("building").to_string();
    let request = || Request { id: Uuid::new_v4(), who: "Ida Marrow".to_owned() };
    if ledger.live_revision(ledger::Kind::Building, &building_id, &building_id)?.is_none() {
        let building: Building = toml::from_str(include_str!("../building.toml")).expect("the demo files are tested");
        let put = Change::put(&building_id, None, &building)?;
        ledger.apply(&request(), &building_id, &[put], &[])?;
    }
    for name in ["Thistlewick Animal Clinic, return", "Thistlewick Animal Clinic"] {
        let job_id = id(name).to_string();
        let kept: ledger::Record<Job> = ledger.get(&job_id, &job_id)?;
        if kept.body.building.is_none() {
            let body = Job { building: Some(building_id.clone()), ..kept.body };
            ledger.apply(&request(), &job_id, &[Change::put(&job_id, Some(kept.rev), &body)?], &[])?;
        }
    }
    Ok(())
}

/// A return visit: what the earlier one recommended, answered.
fn return_visit(ledger: &Ledger, job: &DemoJob, job_id: &str, of: &str, drawn: &mut Drawn) -> Result<(), DemoError> {
    let earlier = account::Case::new(ledger.job(&id(of).to_string())?, ledger.today());
    let request = || Request { id: Uuid::new_v4(), who: job.brief.inspector.clone() };
    ledger.apply(&request(), job_id, &account::return_changes(&earlier, job_id)?, &[])?;
    let kept: ledger::Record<Job> = ledger.get(job_id, job_id)?;
    let body = Job { name: job.name.clone(), brief: job.brief.clone(), ..kept.body };
    ledger.apply(&request(), job_id, &[Change::put(job_id, Some(kept.rev), &body)?], &[])?;
    let again_id = ledger::Kind::Return.only_id(job_id);
    let again: ledger::Record<ReturnKept> = ledger.get(job_id, &again_id)?;
    let mut lines = again.body.lines.clone();
    for a in &job.answers {
        let said = |n: &&ledger::Record<envelope::round::Note>| n.body.text.trim() == a.line;
        let of_line: Vec<&str> = earlier.whole().notes.iter().filter(said).map(|n| n.id.as_str()).collect();
        let now = match &a.picture {
            Some(p) => Some(attach(ledger, &request(), job, job_id, drawn.take(p)?, None)?),
            None => None,
        };
        for l in lines.iter_mut().filter(|l| of_line.contains(&l.id.as_str())) {
            (l.became, l.said, l.by) = (Some(a.became), a.said.clone(), a.by.clone());
            l.now.clone_from(&now);
        }
    }
    for l in lines.iter_mut().filter(|l| l.became.is_none()) {
        l.became = job.others;
    }
    let answered = ReturnKept { said_mended: job.said_mended, why_now: job.why_now.clone(), lines, ..again.body };
    ledger.apply(&request(), job_id, &[Change::put(&again_id, Some(again.rev), &answered)?], &[])?;
    Ok(())
}

fn load_job(ledger: &Ledger, job: &DemoJob, job_id: &str) -> Result<(), DemoError> {
    let who = if job.brief.inspector.is_empty() { "demo" } else { &job.brief.inspector };
    // New request ids each time: a job that was deleted can be loaded again.
    let request = || Request { id: Uuid::new_v4(), who: who.to_owned() };
    let day = job.brief.visited_on.map(|d| d.to_string()).unwrap_or_default();
    let mut drawn = Drawn::of(job, &day)?;
    match &job.returns_to {
        Some(of) => return_visit(ledger, job, job_id, of, &mut drawn)?,
        None => {
            let body = Job { brief: job.brief.clone(), ..Job::named(&job.name) };
            ledger.apply(&request(), job_id, &[Change::put(job_id, None, &body)?], &[])?;
        }
    }
    for (n, said) in job.notes.iter().enumerate() {
        let clock = said.picture.as_ref().map_or_else(|| format!("{:02}:{:02}", 10 + n / 30, (n * 2) % 60), |p| p.at.clone());
        let context = Context::at(said.place(), job.brief.front_faces);
        let mut changes = Vec::new();
        let mut first = None;
        for (i, note) in read(&said.line, &context).notes.into_iter().enumerate() {
            let mut note = note.into_note(format!("{day}T{clock}:00Z"));
            note.facts.water_active = said.active;
            note.facts.sensitive_behind = said.sensitive;
            let note_id = id(&format!("{} {n} {i}", job.name)).to_string();
            changes.push(Change::put(&note_id, None, &note)?);
            first.get_or_insert((note_id, note.place));
        }
        ledger.apply(&request(), job_id, &changes, &[])?;
        if let (Some(p), Some((note_id, place))) = (&said.picture, first) {
            attach(ledger, &request(), job, job_id, drawn.take(p)?, Some((note_id, place)))?;
        }
    }
    /// What a job has one of. A return visit has taken some along: it is read anew.
    fn one<T: Entity>(ledger: &Ledger, request: Request, job_id: &str, body: Option<&T>) -> Result<(), DemoError> {
        let Some(body) = body else { return Ok(()) };
        let id = T::KIND.only_id(job_id);
        let base = match ledger.get::<T>(job_id, &id) {
            Ok(kept) => Some(kept.rev),
            Err(LedgerError::NotFound { .. }) => None,
            Err(e) => return Err(e.into()),
        };
        ledger.apply(&request, job_id, &[Change::put(&id, base, body)?], &[])?;
        Ok(())
    }
    one(ledger, request(), job_id, job.roof.as_ref())?;
    one(ledger, request(), job_id, job.rainwater.as_ref())?;
    one(ledger, request(), job_id, job.ground.as_ref())?;
    // A detail names its pictures by their scenes.
    let mut walls = job.walls.clone();
    for p in walls.iter_mut().flat_map(|w| &mut w.details).flat_map(|d| &mut d.pictures) {
        *p = picture_id(job, p);
    }
    one(ledger, request(), job_id, walls.as_ref())?;
    one(ledger, request(), job_id, job.moisture.as_ref())?;
    one(ledger, request(), job_id, job.trace.as_ref())?;
    one(ledger, request(), job_id, job.storm.as_ref())?;
    let mut items: Vec<Item> = Vec::new();
    for counted in &job.items {
        for (name, label) in next_names(&items, counted.face, counted.kind, counted.labels.len() as u32).into_iter().zip(&counted.labels) {
            let item = Item { face: counted.face, kind: counted.kind, name, label: label.clone(), from_left_m: None, seen: vec![] };
            let item_id = id(&format!("{} {:?} {}", job.name, item.face, item.name)).to_string();
            ledger.apply(&request(), job_id, &[Change::put(&item_id, None, &item)?], &[])?;
            items.push(item);
        }
    }
    for (cell, state) in job
        .seen
        .iter()
        .map(|s| (s.at, MarkState::Seen))
        .chain(job.limit.iter().map(|l| (l.at, MarkState::Limited { reason: l.reason, detail: l.detail.clone() })))
    {
        ledger.apply(&request(), job_id, &[Change::put(&format!("{job_id}:{cell}"), None, &Mark { cell, state })?], &[])?;
    }
    Ok(())
}

/// The lasting name of a scene's picture in a job.
fn picture_id(job: &DemoJob, scene: &str) -> String {
    id(&format!("{} {scene}", job.name)).to_string()
}

/// A scene that was drawn, and its picture as one from a camera is read.
struct Scene {
    name: String,
    caption: String,
    picture: picture::Ingested,
}

/// The pictures of a job, drawn beside one another: that is most of what loading it takes.
struct Drawn(BTreeMap<String, Scene>);

impl Drawn {
    fn of(job: &DemoJob, day: &str) -> Result<Drawn, DemoError> {
        let notes = job.notes.iter().filter_map(|n| n.picture.as_ref());
        let all: Vec<&DemoPicture> = notes.chain(job.answers.iter().filter_map(|a| a.picture.as_ref())).collect();
        let one = |p: &&DemoPicture| {
            let failed = || DemoError::Scene(p.scene.clone());
            let (jpeg, caption) = draw(&p.scene, &format!("{day} {}", p.at), p.heading).ok_or_else(failed)?;
            let picture = picture::ingest(jpeg, u64::MAX).map_err(|_| failed())?;
            Ok((p.scene.clone(), Scene { name: p.scene.clone(), caption: caption.to_owned(), picture }))
        };
        Ok(Drawn(all.par_iter().map(one).collect::<Result<_, DemoError>>()?))
    }

    /// The picture of a scene, which stands in a job once.
    fn take(&mut self, p: &DemoPicture) -> Result<Scene, DemoError> {
        self.0.remove(&p.scene).ok_or_else(|| DemoError::Scene(p.scene.clone()))
    }
}

/// Keeps a picture with the note it belongs to; gives its id.
fn attach(
    ledger: &Ledger,
    request: &Request,
    job: &DemoJob,
    job_id: &str,
    scene: Scene,
    of: Option<(String, Place)>,
) -> Result<String, DemoError> {
    let known = picture::Known {
        name: format!("{}.jpg", scene.name),
        caption: format!("{} (sample)", scene.caption),
        note_id: of.as_ref().map(|(note, _)| note.clone()),
        place: of.map(|(_, place)| place),
        front: job.brief.front_faces,
    };
    let (entity, blobs) = scene.picture.into_picture(known);
    let picture_id = picture_id(job, &scene.name);
    ledger.apply(request, job_id, &[Change::put(&picture_id, None, &entity)?], &blobs)?;
    Ok(picture_id)
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::round::NoteKind;
    use std::collections::BTreeSet;

    /// The demo is only honest if the note line reads its lines as it says.
    #[test]
    fn every_line_is_read_as_its_file_expects() {
        let mut wrong = Vec::new();
        for job in jobs() {
            for n in &job.notes {
                let r = read(&n.line, &Context::at(n.place(), job.brief.front_faces));
                let got: Vec<_> = r.notes.iter().map(|x| (x.condition.as_deref(), x.kind)).collect();
                let expected = [n.expect.as_deref(), n.also.as_deref()];
                let same = if n.good {
                    got.len() == 1 && got[0].1 == NoteKind::Good
                } else {
                    got.len() == expected.iter().flatten().count()
                        && got.iter().map(|g| g.0).eq(expected.iter().flatten().map(|e| Some(*e)))
                };
                if !same || r.notes.iter().any(|x| x.place.cell() != n.at) {
                    wrong.push(format!("{}: {got:?} at {:?}, {:?}", n.line, r.notes[0].place, r.notes[0].candidates));
                }
            }
        }
        assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    }

    #[test]
    fn the_demo_is_as_large_as_it_says() {
        let all = jobs();
        assert!(all[0].notes.len() >= 30 && all[1].notes.len() >= 15 && all[2].notes.len() >= 20);
        let faces: BTreeSet<_> = all[0].notes.iter().map(|n| n.at).collect();
        for face in Face::ALL {
            assert!(faces.iter().any(|c| matches!(c, Cell::Outside(f, _) if *f == face)), "{face:?} has no note");
        }
        for zone in Zone::OUTSIDE {
            assert!(faces.iter().any(|c| matches!(c, Cell::Outside(_, z) if *z == zone)), "{zone:?} has no note");
        }
    }
}
