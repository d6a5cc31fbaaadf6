//! What every request can reach.

use crate::http::work::Work;
use crate::http::{Ask, block};
use crate::{ApiError, Patience};
use account::{Case, Cases, Key};
use actix_web::web::Bytes;
use instruments::{
    Altimeter, Meters, PostOffice, RecordsOffice, SimulatedAltimeter, SimulatedMeters, SimulatedPost, SimulatedRecords, SimulatedWeather,
    WeatherOffice,
};
use ledger::{Ledger, Request};
use report::{ReportWanted, Typeset};
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
    pub bundle_bytes: u64,
    /// What a bundle may unpack to.
    pub bundle: exchange::BundleLimits,
    /// How slowly a body may come.
    pub patience: Patience,
}

impl Default for Limits {
    fn default() -> Self {
        Limits {
            json_bytes: 1 << 20,
            picture_bytes: 40 << 20,
            picture_pixels: 80_000_000,
            bundle_bytes: 1 << 30,
            bundle: exchange::BundleLimits::default(),
            patience: Patience::default(),
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
    /// Moisture, air and heat.
    pub meters: Box<dyn Meters>,
    /// When and where the altimeter was zeroed.
    pub(crate) zeroed: Mutex<std::collections::HashMap<String, Zeroed>>,
    /// The queue for heavy work.
    pub work: Work,
    /// Host names a browser may use to reach this server beside this machine's own.
    pub hosts: Vec<String>,
    /// It listens for others than this machine.
    pub beyond_this_machine: bool,
    /// Asked for once in each browser; none asks for nothing.
    pub access_key: Option<String>,
    cases: Cases,
    /// Where letters are handed in.
    pub post: Box<dyn PostOffice>,
    typeset: Shelf<ReportWanted, Arc<Typeset>>,
    pages: Shelf<(), Bytes>,
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
/// Pages of jobs kept for looking again.
const KEPT_PAGES: usize = 16;

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
            meters: Box::new(SimulatedMeters),
            zeroed: Mutex::default(),
            work: Work::default(),
            hosts: Vec::new(),
            beyond_this_machine: false,
            access_key: None,
            cases: Cases::default(),
            post: Box::new(SimulatedPost::default()),
            typeset: Shelf::of(KEPT_REPORTS),
            pages: Shelf::of(KEPT_PAGES),
        }
    }

    pub(crate) fn request(&self, ask: &Ask) -> Request {
        Request { id: ask.id, who: self.who.clone() }
    }

    /// The account of a job as it stands now; the same one while nothing changes.
    pub(crate) fn case(&self, job: &str) -> Result<Arc<Case>, ApiError> {
        Ok(self.cases.get(&self.ledger, job)?)
    }

    /// The same, from a place that must not wait.
    pub(crate) async fn case_in_background(self: &Arc<Self>, job: String) -> Result<Arc<Case>, ApiError> {
        let app = self.clone();
        block(move || app.case(&job)).await
    }

    /// The report of a case; the same object while nothing changes.
    pub(crate) fn typeset(&self, case: &Case, wanted: &ReportWanted) -> Result<Arc<Typeset>, ApiError> {
        self.typeset.get(case.key(), wanted, || Ok(Arc::new(report::typeset(case, &*self.ledger, wanted)?)))
    }

    /// The page of a case as it is sent; the same bytes while nothing changes.
    pub(crate) fn page(&self, case: &Case, make: impl FnOnce() -> Result<Bytes, ApiError>) -> Result<Bytes, ApiError> {
        self.pages.get(case.key(), &(), make)
    }
}

/// What was made of cases, kept while they stand: the last few. `W` is which of the things that are made of a case.
pub(crate) struct Shelf<W, T>(Mutex<VecDeque<(Key, W, T)>>, usize);

impl<W: Clone + PartialEq, T: Clone> Shelf<W, T> {
    fn of(most: usize) -> Shelf<W, T> {
        Shelf(Mutex::new(VecDeque::new()), most)
    }
    fn get(&self, key: Key, wanted: &W, make: impl FnOnce() -> Result<T, ApiError>) -> Result<T, ApiError> {
        let list = || self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some((.., kept)) = list().iter().find(|(k, w, _)| *k == key && w == wanted) {
            return Ok(kept.clone());
        }
        let made = make()?;
        let mut list = list();
        // Of another state of the job nobody wants anything any more.
        list.retain(|(k, w, _)| k.job != key.job || *k == key && w != wanted);
        list.push_back((key, wanted.clone(), made.clone()));
        if list.len() > self.1 {
            list.pop_front();
        }
        Ok(made)
    }
}
