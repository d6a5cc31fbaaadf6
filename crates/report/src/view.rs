//! One account of a job, for the screen and for print.

use envelope::finding::{Finding, findings};
use envelope::job::Job;
use envelope::round::Note;
use envelope::site::{Coverage, Mark, Wheel, coverage, wheel};
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
    /// How the visit stands against its end.
    pub closing: Closing,
    /// When anything last changed, RFC 3339.
    pub changed_at: String,
}

/// Works a job out.
pub fn view(whole: WholeJob) -> JobView {
    let WholeJob { job, notes, marks, pictures, changed_at } = whole;
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
    JobView {
        visit: visit.name().to_owned(),
        asks: visit.asks().to_owned(),
        front: brief.front_faces.map(|b| format!("{:.0}° {}", b.degrees(), b.point())),
        findings: findings(notes.iter().map(|n| (n.id.as_str(), &n.body)), brief),
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
