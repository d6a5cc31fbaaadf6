//! The kinds of entity, each declared once: its table, how it is called, what is refused, how it prints in history.
//!
//! A new kind is a file here, a line in [`kinds!`] and a step of the schema; everything else follows from that.

mod again;
mod building;
mod ground;
mod item;
mod job;
mod link;
mod mark;
mod moisture;
mod note;
mod picture;
mod practice;
mod rainwater;
mod roof;
mod said;
mod stop;
mod storm;
mod trace;
mod walls;

pub use mark::mark_id;
pub use picture::{BlobRef, LARGEST_EDGE, Picture};

use crate::LedgerError;
use crate::record::{Raw, Record};
use envelope::job::{LONG_TEXT, SHORT_TEXT, too_long};
use envelope::practice::Practice;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::fmt;
use utoipa::ToSchema;

/// Why an entity is not kept: the field, and what to do.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Refused {
    /// The field, as it is called in JSON.
    pub field: String,
    /// What is wrong and what to do.
    pub message: String,
}

impl Refused {
    /// A field that cannot be kept.
    pub fn new(field: &str, message: impl Into<String>) -> Refused {
        Refused { field: field.to_owned(), message: message.into() }
    }
}

/// Refuses a text that is longer than any that is typed, wherever it stands: what a kind's own check does not ask of each of its texts.
/// `way` is where in the entity it stands; things of a list go by their ids.
pub(crate) fn bounded(v: &Value, way: &mut Vec<String>) -> Result<(), Refused> {
    let fits = |text: &str, way: &[String]| too_long(text, LONG_TEXT).map_or(Ok(()), |m| Err(Refused::new(&way.join("."), m)));
    match v {
        Value::String(text) => fits(text, way)?,
        Value::Array(all) => {
            for (k, v) in all.iter().enumerate() {
                let id = v["id"].as_str().filter(|id| id.len() <= SHORT_TEXT);
                way.push(id.map_or_else(|| k.to_string(), str::to_owned));
                bounded(v, way)?;
                way.pop();
            }
        }
        Value::Object(all) => {
            for (key, v) in all {
                fits(key, way)?;
                way.push(key.clone());
                bounded(v, way)?;
                way.pop();
            }
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => {}
    }
    Ok(())
}

/// Something the ledger keeps.
pub trait Entity: Serialize + DeserializeOwned {
    /// Which kind.
    const KIND: Kind;
    /// What can be said against it by itself, whoever brings it: a request, a bundle, the demo.
    ///
    /// # Errors
    /// The first field that cannot be kept.
    fn check(&self) -> Result<(), Refused>;
    /// What history calls it. Read from the JSON, since history holds entities of every earlier form.
    fn label(body: &Value) -> String;
}

/// A text of an entity's JSON.
fn text(body: &Value, key: &str) -> String {
    body[key].as_str().unwrap_or_default().to_owned()
}

/// How the entities of a kind stand in a job.
trait Gathered: Sized {
    type Entity: Entity;
    fn gathered(rows: Vec<Raw>) -> Result<Self, LedgerError>;
}

impl<T: Entity> Gathered for Vec<Record<T>> {
    type Entity = T;
    fn gathered(rows: Vec<Raw>) -> Result<Self, LedgerError> {
        rows.into_iter().map(Raw::typed).collect()
    }
}

impl<T: Entity> Gathered for Option<Record<T>> {
    type Entity = T;
    fn gathered(mut rows: Vec<Raw>) -> Result<Self, LedgerError> {
        rows.pop().map(Raw::typed).transpose()
    }
}

macro_rules! kinds {
    (
        roots { $( $(#[$rdoc:meta])* $root:ident = $rtable:literal $rnoun:literal, $rtype:ty; )* }
        of_a_job { $( $(#[$doc:meta])* $kind:ident = $table:literal $noun:literal, $field:ident: $slot:ty; )* }
    ) => {
        /// The kinds of entity.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
        #[serde(rename_all = "kebab-case")]
        pub enum Kind {
            $( $(#[$rdoc])* $root, )*
            $( $(#[$doc])* $kind, )*
        }

        impl Kind {
            /// Every kind.
            pub const ALL: &'static [Kind] = &[ $( Kind::$root, )* $( Kind::$kind, )* ];

            /// The table, and the word in messages.
            pub(crate) fn table(self) -> &'static str {
                match self { $( Kind::$root => $rtable, )* $( Kind::$kind => $table, )* }
            }
            /// How history begins a sentence about it.
            pub(crate) fn noun(self) -> &'static str {
                match self { $( Kind::$root => $rnoun, )* $( Kind::$kind => $noun, )* }
            }
            /// Stands by itself: its id is the id of what it belongs to.
            pub(crate) fn is_root(self) -> bool {
                matches!(self, $( Kind::$root )|*)
            }
            pub(crate) fn label(self, body: &Value) -> String {
                match self {
                    $( Kind::$root => <$rtype as Entity>::label(body), )*
                    $( Kind::$kind => <<$slot as Gathered>::Entity as Entity>::label(body), )*
                }
            }
            /// Whether a kept body still reads as what it is.
            pub(crate) fn reads(self, body: &str) -> Result<(), String> {
                match self {
                    $( Kind::$root => serde_json::from_str::<$rtype>(body).map(drop), )*
                    $( Kind::$kind => serde_json::from_str::<<$slot as Gathered>::Entity>(body).map(drop), )*
                }
                .map_err(|e| e.to_string())
            }
        }

        /// A job with everything in it.
        #[derive(Debug, Clone, PartialEq)]
        pub struct WholeJob {
            /// The job.
            pub job: Record<envelope::job::Job>,
            $( $(#[$doc])* pub $field: $slot, )*
            /// The practice the brief names, or the usual one.
            pub practice: Practice,
            /// The change it was last touched by, and the revision of its practice.
            pub version: Version,
            /// When anything in it last changed.
            pub changed_at: String,
        }

        impl WholeJob {
            /// A job with nothing in it yet, under the usual practice.
            pub fn empty(job: Record<envelope::job::Job>) -> WholeJob {
                WholeJob {
                    job,
                    $( $field: Default::default(), )*
                    practice: Practice::default(),
                    version: Version { seq: 1, practice: 0 },
                    changed_at: String::new(),
                }
            }
            /// Puts a job together from the rows of each kind.
            pub(crate) fn gather(
                job: Record<envelope::job::Job>,
                practice: Practice,
                version: Version,
                changed_at: String,
                mut rows: impl FnMut(Kind) -> Result<Vec<Raw>, LedgerError>,
            ) -> Result<WholeJob, LedgerError> {
                $( let $field = <$slot as Gathered>::gathered(rows(Kind::$kind)?)?; )*
                Ok(WholeJob { job, $( $field, )* practice, version, changed_at })
            }
        }
    };
}

/// The state of a job and of the practice it follows: what is worked out from one stands as long as it is the same.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Version {
    /// Number of the last change of the job.
    pub seq: i64,
    /// Number of the last change of any practice.
    pub practice: i64,
}

kinds! {
    roots {
        /// A job with its brief.
        Job = "job" "Job", envelope::job::Job;
        /// What a practice follows.
        Practice = "practice" "Practice", Practice;
        /// A building, to which many jobs may belong.
        Building = "building" "Building", envelope::years::building::Building;
    }
    of_a_job {
        /// Notes, in the order they were entered.
        Note = "note" "Note", notes: Vec<Record<envelope::round::Note>>;
        /// Cells that were seen, or could not be.
        Mark = "mark" "Mark", marks: Vec<Record<envelope::site::Mark>>;
        /// Openings, fittings and gutter runs, in the order they were counted.
        Item = "item" "Counted", items: Vec<Record<envelope::site::Item>>;
        /// The roof, once something of it was measured: one at most.
        Roof = "roof" "Roof", roof: Option<Record<envelope::roof::record::Roof>>;
        /// Rain and gutters, once something of them was entered: one at most.
        Rainwater = "rainwater" "Rainwater", rainwater: Option<Record<envelope::rain::record::Rainwater>>;
        /// The ground, once something of it was read: one at most.
        Ground = "ground" "Ground", ground: Option<Record<envelope::ground::record::Ground>>;
        /// The walls, once something of them was met: one at most.
        Walls = "walls" "Walls", walls: Option<Record<envelope::wall::record::Walls>>;
        /// Rooms and readings, once something was read: one at most.
        Moisture = "moisture" "Moisture", moisture: Option<Record<envelope::moisture::record::Moisture>>;
        /// Wet spots and what was tried, once there is one: one at most.
        Trace = "trace" "Trace", trace: Option<Record<envelope::trace::record::Trace>>;
        /// The count after a storm.
        Storm = "storm" "Storm count", storm: Option<Record<envelope::storm::record::StormVisit>>;
        /// What became of what an earlier visit recommended: one at most.
        Return = "return_visit" "Return visit", again: Option<Record<envelope::years::again::ReturnKept>>;
        /// What was said of the report, in the order it was said.
        Said = "said" "Said", said: Vec<Record<envelope::years::leaving::SaidThing>>;
        /// Links under which the client's page is read.
        Link = "link" "Link", links: Vec<Record<envelope::years::leaving::ClientLink>>;
        /// Places chosen on the wheel while a walk was recorded elsewhere.
        Stop = "stop" "Place", track: Vec<Record<envelope::round::track::TrackStop>>;
        /// Pictures, in the order they came. After the notes they belong to.
        Picture = "picture" "Picture", pictures: Vec<Record<Picture>>;
    }
}

impl Kind {
    pub(crate) fn from_table(name: &str) -> Result<Kind, LedgerError> {
        let found = Kind::ALL.iter().copied().find(|k| k.table() == name);
        found.ok_or_else(|| LedgerError::Unreadable(format!("unknown kind {name}")))
    }
    /// The id of a kind of which a job has one.
    pub fn only_id(self, job_id: &str) -> String {
        format!("{job_id}:{}", self.table())
    }
}

impl fmt::Display for Kind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.table())
    }
}
