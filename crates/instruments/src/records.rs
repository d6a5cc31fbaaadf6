//! The records office: permits by address.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::ToSchema;

/// A permit on file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Permit {
    /// The day it was given.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// "building", "re-roof".
    pub kind: String,
    /// What it was for.
    pub words: String,
}

/// How a question to the office ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// The address is on file.
    Found,
    /// It is not.
    UnknownAddress,
    /// Nobody answered.
    NoAnswer,
}

/// What the office said.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Lookup {
    /// How it ended.
    pub outcome: Outcome,
    /// In words, with what to do.
    pub words: String,
    /// The permits, oldest first.
    pub permits: Vec<Permit>,
    /// Where it is from; always says when it is simulated.
    pub source: String,
    /// It is not real.
    pub simulated: bool,
}

/// An office that keeps permits.
pub trait RecordsOffice: Send + Sync {
    /// Permits of an address. May take its time: not to be called where others wait.
    fn permits(&self, address: &str) -> Lookup;
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    address: String,
    #[serde(default)]
    permits: Vec<Permit>,
    /// The clerk does not answer.
    #[serde(default)]
    silent: bool,
}

#[derive(Debug, Deserialize)]
struct Files {
    file: Vec<File>,
}

/// The stand-in that ships with the application.
#[derive(Debug)]
pub struct SimulatedRecords {
    files: Vec<File>,
    /// How long an answer takes.
    delay: Duration,
}

const SOURCE: &str = "Simulated records office of Ostermoor";
/// Addresses at least this alike may be meant.
const ALIKE: f64 = 0.75;

impl SimulatedRecords {
    /// The office, answering after `delay`; one that is silent takes three times as long to be given up.
    pub fn new(delay: Duration) -> SimulatedRecords {
        let files: Files = toml::from_str(include_str!("records.toml")).expect("the shipped file is tested");
        SimulatedRecords { files: files.file, delay }
    }
}

/// An address without what clerks leave out.
fn plain(address: &str) -> String {
    let words: Vec<String> =
        address.to_lowercase().split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(str::to_owned).collect();
    words.join(" ")
}

impl RecordsOffice for SimulatedRecords {
    fn permits(&self, address: &str) -> Lookup {
        let say = |outcome, words: String, permits| Lookup { outcome, words, permits, source: SOURCE.to_owned(), simulated: true };
        let asked = plain(address);
        if asked.is_empty() {
            return say(Outcome::UnknownAddress, "Type the address in the brief first.".into(), vec![]);
        }
        std::thread::sleep(self.delay);
        match self.files.iter().find(|f| plain(&f.address) == asked) {
            Some(f) if f.silent => {
                std::thread::sleep(self.delay * 2);
                say(Outcome::NoAnswer, "The office did not answer. Try again later, or ask the owner for the papers.".into(), vec![])
            }
            Some(f) => {
                let n = f.permits.len();
                say(Outcome::Found, format!("{n} permit{} on file.", if n == 1 { "" } else { "s" }), f.permits.clone())
            }
            None => {
                let near =
                    self.files.iter().map(|f| (strsim::jaro_winkler(&plain(&f.address), &asked), f)).max_by(|a, b| a.0.total_cmp(&b.0));
                let meant = near.filter(|(alike, _)| *alike >= ALIKE).map(|(_, f)| format!(" Is {} meant?", f.address)).unwrap_or_default();
                say(Outcome::UnknownAddress, format!("The office has nothing under this address.{meant}"), vec![])
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ask(address: &str) -> Lookup {
        SimulatedRecords::new(Duration::ZERO).permits(address)
    }

    #[test]
    fn permits_by_address_however_it_is_written() {
        for address in ["14 Tannery Lane, Ostermoor", "14 tannery lane ostermoor", " 14  Tannery Lane; Ostermoor "] {
            let l = ask(address);
            assert_eq!((l.outcome, l.permits.len(), l.simulated), (Outcome::Found, 3, true));
            assert!(l.permits.is_sorted_by_key(|p| p.on) && l.source.contains("Simulated"));
        }
    }

    #[test]
    fn a_wrong_address_and_no_answer_are_told_apart() {
        let wrong = ask("41 Tannery Lane, Ostermoor");
        assert_eq!(wrong.outcome, Outcome::UnknownAddress);
        assert!(wrong.words.contains("Is 14 Tannery Lane, Ostermoor meant?"), "{}", wrong.words);
        assert!(!ask("Somewhere else entirely 99").words.contains("meant?"));
        assert_eq!(ask("2 Weir Cottages, Ostermoor").outcome, Outcome::NoAnswer);
        assert_eq!(ask("  ").outcome, Outcome::UnknownAddress);
    }
}
