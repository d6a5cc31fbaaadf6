//! Cases that were worked out, kept while nothing they stand on changes.

use crate::Case;
use jiff::civil::Date;
use ledger::{Ledger, LedgerError, Version};
use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};

/// What a case stands on.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Key {
    /// The job.
    pub job: String,
    /// Its state, and its practice's.
    pub version: Version,
    /// The day.
    pub today: Date,
}

/// Cases that are held at once. One holds a job with all that follows from it.
const KEPT: usize = 8;

/// The cases that were asked for last.
#[derive(Debug, Default)]
pub struct Cases {
    kept: Mutex<VecDeque<(Key, Arc<Case>)>>,
}

impl Cases {
    /// The case of a job as it stands now; the same one while nothing changes.
    ///
    /// # Errors
    /// [`LedgerError::NotFound`], or what SQLite says.
    pub fn get(&self, ledger: &Ledger, job: &str) -> Result<Arc<Case>, LedgerError> {
        let today = ledger.today();
        // A job that was deleted still has a state, and its case must not be answered from here.
        if !ledger.has_job(job)? {
            return Err(LedgerError::NotFound { kind: ledger::Kind::Job, id: job.to_owned() });
        }
        let wanted = Key { job: job.to_owned(), version: ledger.version(job)?, today };
        if let Some(case) = self.find(&wanted) {
            return Ok(case);
        }
        let whole = ledger.job(job)?;
        // What was read may be newer than what was asked for; it is kept under what it is.
        let key = Key { version: whole.version, ..wanted };
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        let before = kept.iter().find(|(k, _)| k.job == key.job).map(|(_, c)| c.clone());
        let case = Arc::new(match before {
            Some(before) => Case::after(whole, today, &before),
            None => Case::new(whole, today),
        });
        kept.retain(|(k, _)| k.job != key.job);
        kept.push_back((key, case.clone()));
        if kept.len() > KEPT {
            kept.pop_front();
        }
        Ok(case)
    }

    fn find(&self, key: &Key) -> Option<Arc<Case>> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        let at = kept.iter().position(|(k, _)| k == key)?;
        let found = kept.remove(at)?;
        let case = found.1.clone();
        kept.push_back(found);
        Some(case)
    }
}

impl Case {
    /// What it stands on.
    pub fn key(&self) -> Key {
        Key { job: self.whole.job.id.clone(), version: self.whole.version, today: self.today }
    }
}
