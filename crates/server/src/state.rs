//! What every request can reach.

use crate::ApiError;
use actix_web::web;
use instruments::{Altimeter, RecordsOffice, SimulatedAltimeter, SimulatedRecords, SimulatedWeather, WeatherOffice};
use ledger::{Ledger, Request};
use report::Typeset;
use std::collections::VecDeque;
use std::sync::{Arc, Mutex};

/// Sizes that are accepted.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// A JSON body.
    pub json_bytes: usize,
    /// A picture file.
    pub picture_bytes: usize,
    /// Width times height of a picture.
    pub picture_pixels: u64,
    /// A bundle file.
    pub bundle_bytes: usize,
    /// What a bundle may unpack to.
    pub bundle: report::BundleLimits,
}

impl Default for Limits {
    fn default() -> Self {
        Limits {
            json_bytes: 1 << 20,
            picture_bytes: 40 << 20,
            picture_pixels: 120_000_000,
            bundle_bytes: 1 << 30,
            bundle: report::BundleLimits::default(),
        }
    }
}

/// An altimeter that was zeroed: where, the height it was told, and when.
#[derive(Debug, Clone)]
pub(crate) struct Zeroed {
    pub(crate) spot: String,
    pub(crate) height_mm: f64,
    pub(crate) at: std::time::Instant,
}

/// A report that was set, kept for looking through its pages.
pub(crate) type Kept = (String, String, Arc<Typeset>);

/// The application.
pub struct App {
    /// Where everything is kept.
    pub ledger: Arc<Ledger>,
    /// Who works here.
    pub who: String,
    /// Sizes that are accepted.
    pub limits: Limits,
    /// Where permits are looked up.
    pub records: Box<dyn RecordsOffice>,
    /// Where rain is looked up.
    pub weather: Box<dyn WeatherOffice>,
    /// Height differences over a hose.
    pub altimeter: Box<dyn Altimeter>,
    /// When and where the altimeter was zeroed.
    pub(crate) zeroed: Mutex<std::collections::HashMap<String, Zeroed>>,
    /// Host names a browser may use to reach this server; empty allows any.
    pub hosts: Vec<String>,
    typeset: Mutex<VecDeque<Kept>>,
}

impl std::fmt::Debug for App {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("App").field("who", &self.who).field("hosts", &self.hosts).finish_non_exhaustive()
    }
}

/// An office takes a moment.
const OFFICE_DELAY: std::time::Duration = std::time::Duration::from_millis(700);
/// Reports kept for looking through.
const KEPT_REPORTS: usize = 3;

impl App {
    /// An application on a ledger, with the usual limits.
    pub fn new(ledger: Arc<Ledger>, who: &str) -> App {
        let records = Box::new(SimulatedRecords::new(OFFICE_DELAY));
        let weather = Box::new(SimulatedWeather::new(OFFICE_DELAY));
        App {
            ledger,
            who: who.to_owned(),
            limits: Limits::default(),
            records,
            weather,
            altimeter: Box::new(SimulatedAltimeter),
            zeroed: Mutex::default(),
            hosts: Vec::new(),
            typeset: Mutex::new(VecDeque::new()),
        }
    }

    pub(crate) fn request(&self, id: uuid::Uuid) -> Request {
        Request { id, who: self.who.clone() }
    }

    /// The report of a job as it stands now; the same object while nothing changes.
    pub(crate) fn report(&self, job_id: &str) -> Result<Arc<Typeset>, ApiError> {
        let view = report::view(self.ledger.job(job_id)?);
        let key = (job_id.to_owned(), format!("{} {}", view.changed_at, view.job.rev));
        let kept = || self.typeset.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some((_, _, t)) = kept().iter().find(|k| (&k.0, &k.1) == (&key.0, &key.1)) {
            return Ok(t.clone());
        }
        let now: jiff::Timestamp = self.ledger.now().parse().map_err(|e: jiff::Error| ApiError::internal(&e))?;
        let set = Arc::new(report::typeset(&view, &*self.ledger, now)?);
        let mut list = kept();
        list.retain(|k| k.0 != key.0);
        list.push_back((key.0, key.1, set.clone()));
        if list.len() > KEPT_REPORTS {
            list.pop_front();
        }
        Ok(set)
    }
}

/// The one door for work that would hold up the server: SQLite, pictures, typesetting.
pub(crate) async fn block<T: Send + 'static>(work: impl FnOnce() -> Result<T, ApiError> + Send + 'static) -> Result<T, ApiError> {
    web::block(work).await.map_err(|e| ApiError::internal(&e))?
}
