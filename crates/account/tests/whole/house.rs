//! A house with something on every bench, and where its walls are by a geometry of its own.

use account::Case;
use envelope::job::Job;
use envelope::round::{Context, Note, read};
use envelope::site::{Face, Place, Zone};
use ledger::{Record, WholeJob};
use proptest::prelude::*;
use serde_json::{Value, json};

pub(crate) const FACES: [Face; 4] = Face::ALL;

/// One block, as it was measured, and which way it looks.
#[derive(Debug, Clone)]
pub(crate) struct House {
    pub(crate) length: f64,
    pub(crate) depth: f64,
    pub(crate) eave: f64,
    /// Rise over run.
    pub(crate) pitch: f64,
    pub(crate) hip: bool,
    /// About its middle, degrees counterclockwise.
    pub(crate) turned: f64,
    /// Where its front looks, degrees.
    pub(crate) front: f64,
}

pub(crate) fn any_house() -> impl Strategy<Value = House> {
    (7_u32..20, 6_u32..11, 24_u32..60, 2_u32..13, any::<bool>(), prop::sample::select(vec![0.0, 20.0, -70.0, 90.0]), 0_u32..360).prop_map(
        |(length, depth, eave, pitch, hip, turned, front)| House {
            length: f64::from(length),
            depth: f64::from(depth),
            eave: f64::from(eave) / 10.0,
            pitch: f64::from(pitch) / 12.0,
            hip,
            turned,
            front: f64::from(front),
        },
    )
}

pub(crate) fn record<T>(id: &str, body: T) -> Record<T> {
    Record { id: id.to_owned(), rev: 1, body }
}

pub(crate) fn kept<T: serde::de::DeserializeOwned>(what: &str, body: Value) -> Option<Record<T>> {
    Some(record(what, serde_json::from_value(body).unwrap_or_else(|e| panic!("{what}: {e}"))))
}

pub(crate) fn side(h: &House, face: Face) -> f64 {
    if matches!(face, Face::Front | Face::Rear) { h.length } else { h.depth }
}

/// A point on the plan, right and rear of the front left corner: so far from a face's left end, seen from outside, and so far out.
pub(crate) fn on_plan(h: &House, face: Face, along: f64, out: f64) -> [f64; 2] {
    let straight = match face {
        Face::Front => [along, -out],
        Face::Right => [h.length + out, along],
        Face::Rear => [h.length - along, h.depth + out],
        Face::Left => [-out, h.depth - along],
    };
    let ([mx, my], (s, c)) = ([h.length / 2.0, h.depth / 2.0], h.turned.to_radians().sin_cos());
    let [x, y] = [straight[0] - mx, straight[1] - my];
    [mx + x * c - y * s, my + x * s + y * c]
}

/// Where a face looks: clockwise from north, as its number in the round of faces says, less what the block is turned the other way.
pub(crate) fn looks(h: &House, face: Face) -> f64 {
    let round = match face {
        Face::Front => 0.0,
        Face::Left => 90.0,
        Face::Rear => 180.0,
        Face::Right => 270.0,
    };
    (h.front + round - h.turned).rem_euclid(360.0)
}

/// The angle between two directions, degrees.
pub(crate) fn between(a: f64, b: f64) -> f64 {
    let d = (a - b).rem_euclid(360.0);
    d.min(360.0 - d)
}

/// What was typed at a place, as the note line reads it.
pub(crate) fn note(id: &str, face: Face, zone: Zone, from_left: Option<f64>, line: &str) -> Record<Note> {
    let place = Place { from_left_m: from_left, ..Place::outside(face, zone) };
    let read = read(line, &Context::at(place, None)).notes;
    record(id, read.into_iter().next().unwrap_or_else(|| panic!("{line} is no note")).into_note(String::new()))
}

impl House {
    /// The house with its roof and nothing else.
    pub(crate) fn whole(&self) -> WholeJob {
        let brief = json!({ "front_faces": self.front, "visited_on": "2026-11-18" });
        let job = Job { brief: serde_json::from_value(brief).unwrap(), ..Job::named("A house") };
        let mass = json!({ "id": "A", "name": "house", "length": format!("{} m", self.length), "depth": format!("{} m", self.depth),
            "form": if self.hip { "hip" } else { "gable" }, "pitch": { "how": "typed", "text": format!("{}:12", self.pitch * 12.0) },
            "eave": format!("{} m", self.eave), "overhang": "0.4 m", "covering": "asphalt-laminated", "turned_deg": self.turned });
        WholeJob { roof: kept("roof", json!({ "masses": [mass] })), ..WholeJob::empty(record("job", job)) }
    }
}

pub(crate) fn with_rainwater(mut whole: WholeJob, gutters: Value) -> WholeJob {
    let storm = json!({ "i5": "132 mm/h", "i60": "34 mm/h", "years": 10 });
    whole.rainwater = kept("rainwater", json!({ "storm": storm, "gutters": gutters }));
    whole
}
pub(crate) fn with_ground(mut whole: WholeJob, ground: Value) -> WholeJob {
    whole.ground = kept("ground", ground);
    whole
}
/// Rooms, readings and air; and what is traced.
pub(crate) fn with_inside(mut whole: WholeJob, moisture: Value, trace: Value) -> WholeJob {
    whole.moisture = kept("moisture", moisture);
    whole.trace = kept("trace", trace);
    whole
}

pub(crate) fn case(whole: WholeJob) -> Case {
    Case::new(whole, "2026-11-20".parse().unwrap())
}
