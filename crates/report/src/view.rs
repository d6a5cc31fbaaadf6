//! One account of a job, for the screen and for print.

use envelope::finding::Urgency;
use envelope::finding::{Finding, findings};
use envelope::ground::record::Ground;
use envelope::job::Job;
use envelope::practice::Practice;
use envelope::rain::record::Rainwater;
use envelope::roof::account::details_of;
use envelope::roof::details::Detail;
use envelope::roof::record::Roof;
use envelope::round::{Note, NoteKind};
use envelope::site::{Coverage, Expectation, ExpectationState, Face, Item, Left, Mark, Wheel, coverage, expected, left, wheel};
use ledger::{Picture, Record, WholeJob};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How the visit stands against its end.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Closing {
    /// It is closed.
    pub closed: bool,
    /// What the report says about places that were not looked at; empty when there are none.
    pub gap: String,
}

/// How much of what is expected somewhere is answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Progress {
    /// A face, a zone or an item, in words.
    pub what: String,
    /// Looked at or limited.
    pub done: usize,
    /// Asked for.
    pub of: usize,
}

/// Findings that wait for the same work.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Bundled {
    /// "With the next re-roof".
    pub with: String,
    /// The notes.
    pub notes: Vec<String>,
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
    /// The practice followed.
    pub practice: Practice,
    /// How the visit stands against its end.
    pub closing: Closing,
    /// When anything last changed, RFC 3339.
    pub changed_at: String,
}

/// The way round from one face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LeftFrom {
    /// Standing at this face.
    pub here: Face,
    /// What is left, in the order of the shortest way round.
    pub left: Vec<Left>,
}

/// A finding that wants pictures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Wanted {
    /// The note.
    pub note_id: String,
    /// What is missing, in words: "a close one", "a wide one", "a close and a wide one".
    pub missing: String,
}

/// Findings that must be dealt with soon are shown twice: close, for what it is, and wide, for where it is.
fn wanted(findings: &[Finding], pictures: &[Record<Picture>]) -> Vec<Wanted> {
    let soon = |f: &&Finding| f.kind == NoteKind::Defect && (f.urgency <= Urgency::BeforeNextRain || f.hazard);
    let missing = |f: &Finding| {
        let of: Vec<&Picture> = pictures.iter().map(|p| &p.body).filter(|p| p.note_id.as_deref() == Some(&f.note_id)).collect();
        let has = |range: ledger::Range| of.iter().any(|p| p.range == Some(range));
        // Two pictures of which nobody said how near they are may be the pair.
        let unsaid = of.iter().filter(|p| p.range.is_none()).count();
        let lacking = usize::from(!has(ledger::Range::Close)) + usize::from(!has(ledger::Range::Wide));
        match (lacking.saturating_sub(unsaid), has(ledger::Range::Close), has(ledger::Range::Wide)) {
            (0, ..) => None,
            (_, false, true) => Some("a close one"),
            (_, true, false) => Some("a wide one"),
            (1, ..) => Some("a second one, close or wide"),
            _ => Some("a close and a wide one"),
        }
    };
    findings.iter().filter(soon).filter_map(|f| Some(Wanted { note_id: f.note_id.clone(), missing: missing(f)?.to_owned() })).collect()
}

fn progress(coverage: &Coverage, expectations: &[Expectation]) -> Vec<Progress> {
    let mut out: Vec<Progress> = Vec::new();
    let mut count = |what: String, done: bool| match out.iter_mut().find(|p| p.what == what) {
        Some(p) => {
            p.of += 1;
            p.done += usize::from(done);
        }
        None => out.push(Progress { what, done: usize::from(done), of: 1 }),
    };
    let cells = || coverage.cells.iter().filter(|c| c.expected).map(|c| (c.cell, c.state != envelope::site::CellState::Untouched));
    for face in Face::ALL {
        for (cell, done) in cells() {
            if matches!(cell, envelope::site::Cell::Outside(f, _) if f == face) {
                count(face.name().into(), done);
            }
        }
        expectations.iter().filter(|e| e.face == face).for_each(|e| count(face.name().into(), e.state != ExpectationState::Open));
    }
    for (cell, done) in cells() {
        if let envelope::site::Cell::Outside(_, zone) = cell {
            count(zone.name().into(), done);
        }
    }
    for e in expectations {
        count(e.zone.name().into(), e.state != ExpectationState::Open);
    }
    for e in expectations.iter().filter(|e| e.item.is_some()) {
        count(format!("{} {}", e.face.name(), e.item.as_deref().unwrap_or_default()), e.state != ExpectationState::Open);
    }
    out
}

fn bundled(findings: &[Finding]) -> Vec<Bundled> {
    let mut out: Vec<Bundled> = Vec::new();
    for (with, note) in findings.iter().filter_map(|f| Some((f.bundle.clone()?, f.note_id.clone()))) {
        match out.iter_mut().find(|b| b.with == with) {
            Some(b) => b.notes.push(note),
            None => out.push(Bundled { with, notes: vec![note] }),
        }
    }
    out
}

/// Works a job out.
pub fn view(whole: WholeJob) -> JobView {
    let WholeJob { job, notes, marks, pictures, mut items, roof, rainwater, ground, practice, changed_at } = whole;
    items.sort_by(|a, b| {
        let key = |i: &Item| (i.face, i.kind, i.name[1..].parse::<u32>().unwrap_or(0));
        key(&a.body).cmp(&key(&b.body))
    });
    let brief = &job.body.brief;
    let visit = brief.visit;
    let coverage = coverage(notes.iter().map(|n| n.body.place.cell()), marks.iter().map(|m| &m.body), |c| visit.expects(c));
    let open: Vec<&str> =
        coverage.cells.iter().filter(|c| c.expected && c.state == envelope::site::CellState::Untouched).map(|c| c.name.as_str()).collect();
    let gap = match open.len() {
        0 => String::new(),
        1 => format!("One place was not looked at: {}.", open[0]),
        n => format!("{n} places were not looked at: {}.", open.join("; ")),
    };
    let bodies: Vec<Item> = items.iter().map(|i| i.body.clone()).collect();
    let said: Vec<&Note> = notes.iter().map(|n| &n.body).collect();
    let mut expectations = expected(visit, &bodies, &said, &coverage.cells);
    let roof = roof.map(|r| r.body);
    let rainwater = rainwater.map(|r| r.body);
    let ground = ground.map(|g| g.body);
    let details = roof.as_ref().map(|r| details_of(r, brief.front_faces, &practice, &said)).unwrap_or_default();
    expectations.extend(details.iter().filter_map(Detail::expectation));
    let findings = findings(notes.iter().map(|n| (n.id.as_str(), &n.body)), brief, &practice);
    JobView {
        left: Face::ALL.into_iter().map(|here| LeftFrom { here, left: left(here, &coverage.cells, &expectations, &bodies) }).collect(),
        progress: progress(&coverage, &expectations),
        bundles: bundled(&findings),
        wanted_pictures: wanted(&findings, &pictures),
        expectations,
        details,
        roof,
        rainwater,
        ground,
        items,
        practice,
        visit: visit.name().to_owned(),
        asks: visit.asks().to_owned(),
        front: brief.front_faces.map(|b| format!("{:.0}° {}", b.degrees(), b.point())),
        findings,
        wheel: wheel(brief.front_faces),
        closing: Closing { closed: job.body.closed_at.is_some(), gap },
        job,
        notes,
        marks,
        coverage,
        pictures,
        changed_at,
    }
}

impl JobView {
    /// The limits, as they are printed.
    pub fn limits(&self) -> impl Iterator<Item = &str> {
        self.coverage.cells.iter().filter_map(|c| c.limit.as_deref())
    }
    /// Pictures of a note.
    pub fn pictures_of<'a>(&'a self, note_id: &'a str) -> impl Iterator<Item = &'a Record<Picture>> + 'a {
        self.pictures.iter().filter(move |p| p.body.note_id.as_deref() == Some(note_id))
    }
}
