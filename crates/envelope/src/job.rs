//! What was asked of a visit: the job and its brief. Everything is optional but the name.

use crate::measure::Units;
use crate::practice::Practice;
use crate::site::{Bearing, Cell};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// Why the visit is made; changes what is expected and asked first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum VisitKind {
    /// Before a purchase.
    PurchaseSurvey,
    /// Weather barrier on, cladding not yet.
    BeforeCladding,
    /// Before a builder's warranty ends.
    EndOfWarranty,
    /// Where does the water come in?
    LeakAssessment,
    /// After hail or wind.
    StormAssessment,
    /// A statement of the roof for an insurer.
    RoofStatement,
    /// Regular look round.
    #[default]
    MaintenanceRound,
    /// Were the recommendations done, and done right?
    ReturnVisit,
}

impl VisitKind {
    /// Every kind.
    pub const ALL: [VisitKind; 8] = [
        VisitKind::PurchaseSurvey,
        VisitKind::BeforeCladding,
        VisitKind::EndOfWarranty,
        VisitKind::LeakAssessment,
        VisitKind::StormAssessment,
        VisitKind::RoofStatement,
        VisitKind::MaintenanceRound,
        VisitKind::ReturnVisit,
    ];
    /// The name on the page.
    pub fn name(self) -> &'static str {
        match self {
            VisitKind::PurchaseSurvey => "Purchase survey",
            VisitKind::BeforeCladding => "Before-cladding check",
            VisitKind::EndOfWarranty => "End-of-warranty round",
            VisitKind::LeakAssessment => "Leak assessment",
            VisitKind::StormAssessment => "Storm assessment",
            VisitKind::RoofStatement => "Roof statement for an insurer",
            VisitKind::MaintenanceRound => "Maintenance round",
            VisitKind::ReturnVisit => "Return visit",
        }
    }
    /// Whether the visit asks for a place: the inside is asked for only where water inside is the question.
    pub fn expects(self, cell: Cell) -> bool {
        cell != Cell::Inside
            || matches!(self, VisitKind::PurchaseSurvey | VisitKind::EndOfWarranty | VisitKind::LeakAssessment | VisitKind::ReturnVisit)
    }
    /// What to ask first.
    pub fn asks(self) -> &'static str {
        match self {
            VisitKind::PurchaseSurvey => "What does the buyer need to know before signing?",
            VisitKind::BeforeCladding => "What must be put right before it is covered?",
            VisitKind::EndOfWarranty => "What should the builder still put right?",
            VisitKind::LeakAssessment => "Where does it show, and in which rain?",
            VisitKind::StormAssessment => "When was the storm, and what did the weather office report?",
            VisitKind::RoofStatement => "What does the insurer ask: age, covering, years left?",
            VisitKind::MaintenanceRound => "What has changed since the last round?",
            VisitKind::ReturnVisit => "Which recommendations were carried out, and by whom?",
        }
    }
}

/// A part of the building and what it is made of.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct PartMaterial {
    /// "main", "wing", "porch".
    pub part: String,
    /// "stucco on block".
    pub material: String,
}

/// What is known before the round starts.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct Brief {
    /// Street and town.
    pub address: String,
    /// Why the visit is made.
    pub visit: VisitKind,
    /// The units its reader wants; the practice's while nobody chose.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub units: Option<Units>,
    /// Day of the visit.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub visited_on: Option<Date>,
    /// Day the report is due.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub report_due: Option<Date>,
    /// The direction the front faces.
    pub front_faces: Option<Bearing>,
    /// The direction driving rain comes from.
    pub driving_rain_from: Option<Bearing>,
    /// Year of building.
    pub year_built: Option<u16>,
    /// Storeys above ground.
    pub storeys: Option<u8>,
    /// Walls by part.
    pub walls: Vec<PartMaterial>,
    /// Roofs by part.
    pub roofs: Vec<PartMaterial>,
    /// What worries the client.
    pub worries: String,
    /// Permits, statements, dated pictures.
    pub papers: String,
    /// Weather on the day and before.
    pub weather: String,
    /// Who receives the report.
    pub recipient: String,
    /// Who inspects.
    pub inspector: String,
    /// The practice.
    pub practice: String,
    /// Keep location data in pictures that leave the building.
    pub keep_location: bool,
}

impl Brief {
    /// The units the job is read in: its own, or else the practice's.
    pub fn units_under(&self, practice: &Practice) -> Units {
        self.units.unwrap_or(practice.units)
    }
}

/// One job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Job {
    /// What it is called.
    pub name: String,
    /// The brief.
    #[serde(default)]
    pub brief: Brief,
    /// The visit is closed: when, RFC 3339.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub closed_at: Option<String>,
    /// The building it is a visit of; none while nobody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub building: Option<String>,
}

/// Why a job cannot be kept as it is.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct BriefError {
    /// The field, as it is called in JSON.
    pub field: &'static str,
    /// What is wrong and what to do.
    pub message: String,
}

/// Longest short text (names, materials).
pub const SHORT_TEXT: usize = 200;
/// Longest long text (worries, papers, a note).
pub const LONG_TEXT: usize = 20_000;
/// Years in which a building that is inspected today can have been built.
const YEARS: std::ops::RangeInclusive<u16> = 1000..=2200;
/// Storeys above ground that are inspected from outside.
const STOREYS: std::ops::RangeInclusive<u8> = 1..=60;
/// Parts that anyone lists by hand.
const MOST_PARTS: usize = 50;

/// Refuses a text of more than so many characters, naming its length and what to do; None where it fits.
pub fn too_long(text: &str, most: usize) -> Option<String> {
    let n = text.chars().count();
    (n > most).then(|| format!("This is {n} characters long; the most is {most}. Shorten it or split it."))
}

impl Job {
    /// A job with nothing but its name.
    pub fn named(name: &str) -> Job {
        Job { name: name.to_owned(), brief: Brief::default(), closed_at: None, building: None }
    }
    /// Checks every field.
    ///
    /// # Errors
    /// The first field that cannot be kept, with what to do.
    pub fn check(&self) -> Result<(), BriefError> {
        let err = |field, message: String| Err(BriefError { field, message });
        if self.name.trim().is_empty() {
            return err("name", "A job needs a name. Type what you call the place.".into());
        }
        let b = &self.brief;
        let short = [
            ("name", &self.name),
            ("address", &b.address),
            ("recipient", &b.recipient),
            ("inspector", &b.inspector),
            ("practice", &b.practice),
            ("weather", &b.weather),
        ];
        let long = [("worries", &b.worries), ("papers", &b.papers)];
        for (texts, most) in [(&short[..], SHORT_TEXT), (&long[..], LONG_TEXT)] {
            for (field, text) in texts {
                if let Some(message) = too_long(text, most) {
                    return err(field, message);
                }
            }
        }
        if self.building.as_ref().is_some_and(|b| b.len() > SHORT_TEXT) {
            return err("building", "A building is named by its id. Choose it from the list.".into());
        }
        for (field, parts) in [("walls", &b.walls), ("roofs", &b.roofs)] {
            if parts.len() > MOST_PARTS {
                return err(field, format!("{} parts are listed; the most is {MOST_PARTS}.", parts.len()));
            }
            if let Some(message) = parts.iter().flat_map(|p| [&p.part, &p.material]).find_map(|t| too_long(t, SHORT_TEXT)) {
                return err(field, message);
            }
        }
        match (b.year_built, b.storeys) {
            (Some(y), _) if !YEARS.contains(&y) => err("year_built", format!("{y} is not a year of building. Type a year such as 1967.")),
            (_, Some(s)) if !STOREYS.contains(&s) => err("storeys", format!("{s} storeys cannot be. Type a number from 1 to 60.")),
            _ => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_enough() {
        assert_eq!(Job::named("Quarry Row, plot 7").check(), Ok(()));
    }

    #[test]
    fn bad_fields_are_named() {
        let with = |f: fn(&mut Job)| {
            let mut j = Job::named("x");
            f(&mut j);
            j.check().unwrap_err().field
        };
        assert_eq!(with(|j| j.name = "  ".into()), "name");
        assert_eq!(with(|j| j.name = "x".repeat(201)), "name");
        assert_eq!(with(|j| j.brief.year_built = Some(67)), "year_built");
        assert_eq!(with(|j| j.brief.storeys = Some(0)), "storeys");
        assert_eq!(with(|j| j.brief.worries = "x".repeat(20_001)), "worries");
        assert_eq!(with(|j| j.brief.walls = vec![PartMaterial::default(); 51]), "walls");
    }

    #[test]
    fn only_visits_about_water_inside_ask_for_the_inside() {
        assert!(VisitKind::LeakAssessment.expects(Cell::Inside));
        assert!(!VisitKind::BeforeCladding.expects(Cell::Inside));
        assert!(VisitKind::ALL.iter().all(|v| Cell::all().into_iter().filter(|c| *c != Cell::Inside).all(|c| v.expects(c))));
    }

    #[test]
    fn an_old_job_file_still_reads() {
        let job: Job = serde_json::from_str(r#"{"name":"x","brief":{"front_faces":200}}"#).unwrap();
        assert_eq!(job.brief.front_faces.unwrap().point(), "SSW");
        assert!(serde_json::from_str::<Job>(r#"{"name":"x","brief":{"front_faces":700}}"#).is_err());
    }
}
