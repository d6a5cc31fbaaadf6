//! The report as PDF, set from a [`account::Case`]. Nothing here asks for the time, a file or the network.

mod client;
mod cut;
mod document;
mod ground_report;
mod rain_report;
mod return_report;
mod roof_report;
mod sources;
mod storm_report;
mod trace_report;
mod wall_report;
mod world;

pub use client::{CLIENT_SCRIPT, client_page};
pub use cut::{Cut, Paper, ReportWanted, trades};
pub use document::{Made, ReportError, Typeset, typeset};
pub use sources::PictureSource;
