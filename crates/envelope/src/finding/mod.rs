//! What is wrong or right with the envelope: the catalogue of conditions, and when each must be dealt with.

mod catalogue;
mod judge;
mod urgency;

pub use catalogue::{Catalogue, Condition, WaterRole, catalogue};
pub use judge::{Bundled, Finding, ReportPart, bundled, findings, judge};
pub use urgency::{Effect, Facts, HandSet, Reason, Suggestion, Urgency, suggest};
