//! What the page and the report show of a job.

use crate::Case;
use envelope::finding::{Bundled, Finding, bundled};
use envelope::ground::record::Ground;
use envelope::job::{Job, VisitKind};
use envelope::measure::Units;
use envelope::moisture::record::Moisture;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::account::details_of;
use envelope::roof::details::Detail;
use envelope::roof::record::Roof;
use envelope::round::track::{TrackRun, runs};
use envelope::round::{Note, Wanted, wanted};
use envelope::site::{Coverage, Expectation, Face, Gap, Item, Left, Mark, Progress, Wheel, coverage, expected, left, progress, wheel};
use envelope::storm::record::StormVisit;
use envelope::trace::record::Trace;
use envelope::wall::matrix::{seen, settle};
use envelope::wall::record::Walls;
use ledger::{Picture, Record};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How the visit stands against its end.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Closing {
    /// It is closed.
    pub closed: bool,
    /// Places that were not looked at.
    pub gap: Gap,
}

/// The way round from one face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LeftFrom {
    /// Standing at this face.
    pub here: Face,
    /// What is left, in the order of the shortest way round.
    pub left: Vec<Left>,
}

/// A job, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct JobView {
    /// The job and its revision.
    pub job: Record<Job>,
    /// "Leak assessment".
    pub visit: String,
    /// What this kind of visit asks first.
    pub asks: String,
    /// "200° SSW", when known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub front: Option<String>,
    /// Notes in the order they were entered.
    pub notes: Vec<Record<Note>>,
    /// Every note judged, soonest first.
    pub findings: Vec<Finding>,
    /// Marks on cells.
    pub marks: Vec<Record<Mark>>,
    /// What has been seen.
    pub coverage: Coverage,
    /// The wheel.
    pub wheel: Wheel,
    /// Pictures in the order they came.
    pub pictures: Vec<Record<Picture>>,
    /// Openings, fittings and gutter runs, face by face.
    pub items: Vec<Record<Item>>,
    /// The roof, once something of it was measured.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub roof: Option<Roof>,
    /// Rain and gutters, once something of them was entered.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rainwater: Option<Rainwater>,
    /// The ground, once something of it was read.
    pub ground: Option<Ground>,
    /// The walls, once something of them was met.
    pub walls: Option<Walls>,
    /// Rooms and readings, once something was read.
    pub moisture: Option<Moisture>,
    /// Wet spots and what was tried, once there is one.
    pub trace: Option<Trace>,
    /// The count after a storm, once there is one.
    pub storm: Option<StormVisit>,
    /// Walks that were recorded elsewhere while places were chosen on the wheel, in order of time.
    pub track: Vec<TrackRun>,
    /// What the shape of the roof asks for.
    pub details: Vec<Detail>,
    /// What this kind of visit expects at them and at the zones.
    pub expectations: Vec<Expectation>,
    /// What is left to look at, for each face one may stand at: the shortest way round from there.
    pub left: Vec<LeftFrom>,
    /// Progress by face, then by zone, then by item.
    pub progress: Vec<Progress>,
    /// *Next cycle* findings by the work they wait for.
    pub bundles: Vec<Bundled>,
    /// Findings whose condition wants a close and a wide picture, with what is missing.
    pub wanted_pictures: Vec<Wanted>,
    /// The units the job is read in.
    pub units: Units,
    /// The practice followed.
    pub practice: Practice,
    /// How the visit stands against its end.
    pub closing: Closing,
    /// Number of the job's last change: what is shown stands while it is the same.
    pub version: i64,
    /// The revision of the roof; what is dear to work out is asked again only when one of these is another.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub roof_rev: Option<i64>,
    /// The revision of rain and gutters.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rainwater_rev: Option<i64>,
    /// The state of the practices.
    pub practice_version: i64,
    /// When anything last changed, RFC 3339.
    pub changed_at: String,
}

pub(crate) fn view(case: &Case) -> JobView {
    let whole = case.whole();
    let brief = case.brief();
    let visit = brief.visit;
    let items: Vec<Item> = whole.items.iter().map(|i| i.body.clone()).collect();
    let walls = whole.walls.as_ref().map(|w| w.body.clone());
    // Before cladding, a place whose checks are all answered, and not all by "not seen", was seen; a mark that somebody set stands before that.
    let by_checks = walls.as_ref().filter(|_| visit == VisitKind::BeforeCladding).map(|w| seen(w, &items)).unwrap_or_default();
    let marks = by_checks.iter().chain(whole.marks.iter().map(|m| &m.body));
    let coverage = coverage(case.notes().map(|n| n.place.cell()), marks, |c| visit.expects(c));
    let said: Vec<&Note> = case.notes().collect();
    let mut expectations = expected(visit, &items, &said, &coverage.cells);
    if let Some(walls) = &walls {
        settle(&mut expectations, walls);
    }
    if let Some(storm) = &whole.storm {
        envelope::storm::account::settle(&mut expectations, &storm.body, case.roof());
    }
    let roof = whole.roof.as_ref().map(|r| r.body.clone());
    let details = roof.as_ref().map(|r| details_of(r, brief.front_faces, case.practice(), &said)).unwrap_or_default();
    expectations.extend(details.iter().filter_map(Detail::expectation));
    let findings = case.findings().to_vec();
    let taken = whole.pictures.iter().filter_map(|p| Some((p.body.note_id.as_deref()?, p.body.range)));
    JobView {
        left: Face::ALL.into_iter().map(|here| LeftFrom { here, left: left(here, &coverage.cells, &expectations, &items) }).collect(),
        progress: progress(&coverage, &expectations),
        bundles: bundled(&findings),
        wanted_pictures: wanted(&findings, taken),
        expectations,
        details,
        roof,
        rainwater: whole.rainwater.as_ref().map(|r| r.body.clone()),
        ground: whole.ground.as_ref().map(|g| g.body.clone()),
        walls,
        moisture: whole.moisture.as_ref().map(|m| m.body.clone()),
        trace: whole.trace.as_ref().map(|t| t.body.clone()),
        storm: whole.storm.as_ref().map(|s| s.body.clone()),
        items: whole.items.clone(),
        practice: whole.practice.clone(),
        units: case.practice().units,
        visit: visit.name().to_owned(),
        asks: visit.asks().to_owned(),
        front: brief.front_faces.map(|b| format!("{:.0}° {}", b.degrees(), b.point())),
        findings,
        wheel: wheel(brief.front_faces),
        closing: Closing { closed: whole.job.body.closed_at.is_some(), gap: coverage.gap() },
        job: whole.job.clone(),
        notes: whole.notes.clone(),
        marks: whole.marks.clone(),
        coverage,
        track: runs(&whole.track.iter().map(|s| s.body.clone()).collect::<Vec<_>>()),
        pictures: whole.pictures.clone(),
        version: whole.version.seq,
        roof_rev: whole.roof.as_ref().map(|r| r.rev),
        rainwater_rev: whole.rainwater.as_ref().map(|r| r.rev),
        practice_version: whole.version.practice,
        changed_at: whole.changed_at.clone(),
    }
}

impl JobView {
    /// The limits, as they are printed.
    pub fn limits(&self) -> impl Iterator<Item = &str> {
        self.coverage.cells.iter().filter_map(|c| c.limit.as_deref())
    }
    /// Pictures that belong to no note and to no detail of the walls.
    pub fn loose_pictures(&self) -> impl Iterator<Item = &Record<Picture>> {
        let of_detail = |id: &String| self.walls.iter().flat_map(|w| &w.details).any(|d| d.pictures.contains(id));
        self.pictures.iter().filter(move |p| p.body.note_id.is_none() && !of_detail(&p.id))
    }
    /// Pictures of a note.
    pub fn pictures_of<'a>(&'a self, note_id: &'a str) -> impl Iterator<Item = &'a Record<Picture>> + 'a {
        self.pictures.iter().filter(move |p| p.body.note_id.as_deref() == Some(note_id))
    }
}
