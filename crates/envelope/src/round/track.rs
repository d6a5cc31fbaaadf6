//! Where somebody stood while a walk was recorded elsewhere: each choice of a place on the wheel with its time, and how the recording
//! is laid on it.
//!
//! A recorder knows nothing of the wheel's clock. When the recording began is either told, or found from the sentences that name a
//! place: of all beginnings, that is taken under which most of them were said where the wheel stood.

use crate::site::{Face, Place, Zone};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// A choice of a place on the wheel, or the end of a walk.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TrackStop {
    /// When, RFC 3339, by the clock of the device with the wheel.
    pub at: String,
    /// The place that was chosen; none where the recording was said to be over.
    #[serde(default)]
    pub place: Option<Place>,
}

/// Why it is not kept, or a walk not laid on it.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct TrackError(pub String);

/// A track longer than this is nobody's walk.
pub const MOST_STOPS: usize = 10_000;

impl TrackStop {
    fn time(&self) -> Result<f64, TrackError> {
        seconds(&self.at)
    }

    /// Checks it.
    ///
    /// # Errors
    /// A time that is none.
    pub fn check(&self) -> Result<(), TrackError> {
        self.time().map(drop)
    }
}

fn seconds(at: &str) -> Result<f64, TrackError> {
    let t: Timestamp = at.parse().map_err(|_| {
        TrackError(format!("\"{at}\" is no time that can be laid on a track. Write it with its offset, as 2026-11-18T10:02:11Z."))
    })?;
    Ok(t.as_duration().as_secs_f64())
}

/// One walk of a track: from the first place that was chosen to where the recording was said to be over.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrackRun {
    /// When its first place was chosen, RFC 3339.
    pub began: String,
    /// When it was over; none while it goes on.
    pub ended: Option<String>,
    /// How many places were chosen.
    pub places: usize,
}

/// The walks of a track, in order of time. Stops may be given in any order.
#[must_use]
pub fn runs(stops: &[TrackStop]) -> Vec<TrackRun> {
    let mut out: Vec<TrackRun> = Vec::new();
    for s in in_time(stops) {
        let open = out.last_mut().filter(|r| r.ended.is_none());
        match (open, &s.place) {
            (Some(r), Some(_)) => r.places += 1,
            (Some(r), None) => r.ended = Some(s.at.clone()),
            (None, Some(_)) => out.push(TrackRun { began: s.at.clone(), ended: None, places: 1 }),
            (None, None) => {}
        }
    }
    out
}

/// The stops of one walk, that which began so.
#[must_use]
pub fn run<'a>(stops: &'a [TrackStop], began: &str) -> Vec<&'a TrackStop> {
    let from = in_time(stops).into_iter().skip_while(|s| s.at != began);
    let mut out: Vec<&TrackStop> = Vec::new();
    for s in from {
        out.push(s);
        if s.place.is_none() {
            break;
        }
    }
    out
}

fn in_time(stops: &[TrackStop]) -> Vec<&TrackStop> {
    let mut out: Vec<&TrackStop> = stops.iter().filter(|s| s.time().is_ok()).collect();
    out.sort_by(|a, b| a.time().unwrap_or(0.0).total_cmp(&b.time().unwrap_or(0.0)));
    out
}

/// How a recording was laid on a track.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrackFit {
    /// When the recording began, RFC 3339; none when it could not be found, and then the track was not used.
    pub began: Option<String>,
    /// It was found from what was said, not told.
    pub found: bool,
    /// Sentences that name a place.
    pub named: usize,
    /// Of those, the ones that were said where the wheel stood.
    pub agree: usize,
    /// In words.
    pub sentence: String,
}

/// Somebody says where they go a little before or after they choose it, seconds. Rule of practice.
const EITHER_SIDE_S: f64 = 10.0;
/// So many sentences must agree before a beginning is believed, at so many different places, and so large a share of those that name one.
const LEAST_AGREEING: usize = 3;
const LEAST_PLACES: usize = 2;
const LEAST_SHARE: f64 = 0.6;
/// Another beginning this far off that explains as much leaves it open, seconds.
const ANOTHER_S: f64 = 60.0;

/// A place that a sentence names: the face, the height, or both; or that it is inside.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) struct Named {
    pub face: Option<Face>,
    pub zone: Option<Zone>,
}

impl Named {
    fn is(self, p: &Place) -> bool {
        let inside = (self.zone == Some(Zone::Inside)) == (p.zone == Zone::Inside);
        inside && self.face.is_none_or(|f| p.face == Some(f)) && self.zone.is_none_or(|z| p.zone == z)
    }
}

/// A track with its times in seconds after its first stop.
pub(super) struct Track<'a> {
    first: Timestamp,
    /// When, and where from then on.
    stops: Vec<(f64, Option<&'a Place>)>,
}

impl<'a> Track<'a> {
    /// Reads a track.
    ///
    /// # Errors
    /// A time that is none, or too many stops.
    pub(super) fn new(stops: &'a [TrackStop]) -> Result<Option<Self>, TrackError> {
        if stops.len() > MOST_STOPS {
            return Err(TrackError(format!("A track of {} places is nobody's walk; the most is {MOST_STOPS}.", stops.len())));
        }
        let mut all: Vec<(f64, Option<&Place>)> = stops.iter().map(|s| Ok((s.time()?, s.place.as_ref()))).collect::<Result<_, _>>()?;
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        let Some(at) = all.first().map(|s| s.0) else { return Ok(None) };
        for s in &mut all {
            s.0 -= at;
        }
        let first = in_time(stops).first().and_then(|s| s.at.parse().ok());
        Ok(first.map(|first| Self { first, stops: all }))
    }

    /// Seconds after the first stop of a time that was told.
    ///
    /// # Errors
    /// A time that is none.
    pub(super) fn after_first(&self, at: &str) -> Result<f64, TrackError> {
        Ok(seconds(at)? - self.first.as_duration().as_secs_f64())
    }

    /// A time that many seconds after the first stop, to the second.
    pub(super) fn as_time(&self, after: f64) -> String {
        let at = self.first.as_duration().as_secs_f64() + after;
        Timestamp::from_second(at.round() as i64).map_or_else(|_| String::new(), |t| t.to_string())
    }

    /// The stop that holds so many seconds after the first, by its number.
    pub(super) fn stop_at(&self, after: f64) -> Option<usize> {
        self.stops.partition_point(|s| s.0 <= after).checked_sub(1)
    }

    pub(super) fn place(&self, stop: usize) -> Option<&'a Place> {
        self.stops.get(stop).and_then(|s| s.1)
    }

    /// How many of the sentences were said where the wheel stood, a little before or after, had the recording begun then.
    pub(super) fn agreeing(&self, began: f64, named: &[(f64, Named)]) -> Vec<usize> {
        let here = |t: f64, n: Named| {
            let (from, to) = (t + began - EITHER_SIDE_S, t + began + EITHER_SIDE_S);
            let first = self.stop_at(from).unwrap_or(0);
            self.stops[first..].iter().take_while(|s| s.0 <= to).any(|s| s.1.is_some_and(|p| n.is(p)))
        };
        (0..named.len()).filter(|i| here(named[*i].0, named[*i].1)).collect()
    }

    /// When the recording began, in seconds after the first stop, from when which place was named. None when too little agrees, or when
    /// another beginning explains as much.
    pub(super) fn found(&self, named: &[(f64, Named)]) -> Option<f64> {
        // Each sentence allows the beginnings under which its place was chosen about then. Where most of them meet is looked for at
        // the ends of those spans: the count changes nowhere else.
        let mut ends: Vec<(f64, i64)> = Vec::new();
        for (t, n) in named {
            let mut spans: Vec<(f64, f64)> = Vec::new();
            for (k, (from, place)) in self.stops.iter().enumerate() {
                if !place.is_some_and(|p| n.is(p)) {
                    continue;
                }
                let to = self.stops.get(k + 1).map_or(from + ANOTHER_S, |s| s.0);
                let span = (from - t - EITHER_SIDE_S, to - t + EITHER_SIDE_S);
                match spans.last_mut() {
                    // Spans of one sentence that meet are one: it agrees once.
                    Some(last) if span.0 <= last.1 => last.1 = f64::max(last.1, span.1),
                    _ => spans.push(span),
                }
            }
            ends.extend(spans.iter().flat_map(|s| [(s.0, 1), (s.1, -1)]));
        }
        ends.sort_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)));
        let mut spans: Vec<(f64, f64, i64)> = Vec::new();
        let mut count = 0;
        for pair in ends.windows(2) {
            count += pair[0].1;
            spans.push((pair[0].0, pair[1].0, count));
        }
        let most = spans.iter().map(|s| s.2).max().filter(|m| *m >= LEAST_AGREEING as i64)?;
        let best: Vec<_> = spans.iter().filter(|s| s.2 == most).collect();
        if best.windows(2).any(|pair| pair[1].0 - pair[0].1 > ANOTHER_S) {
            return None;
        }
        let (from, to) = (best.first()?.0, best.last()?.1);
        // Within what they allow, places are named as they are reached.
        let middle = f64::midpoint(from, to);
        let agree = self.agreeing(middle, named);
        let mut reached: Vec<f64> = agree
            .iter()
            .filter_map(|i| {
                let (t, n) = named[*i];
                let near = self.stops.iter().filter(|s| s.1.is_some_and(|p| n.is(p))).map(|s| s.0 - t);
                near.min_by(|a, b| (a - middle).abs().total_cmp(&(b - middle).abs()))
            })
            .collect();
        reached.sort_by(f64::total_cmp);
        let began = reached.get(reached.len() / 2).copied().unwrap_or(middle).clamp(from, to);
        let agree = self.agreeing(began, named);
        let mut places: Vec<Named> = Vec::new();
        for i in &agree {
            if !places.contains(&named[*i].1) {
                places.push(named[*i].1);
            }
        }
        let enough = agree.len() >= LEAST_AGREEING && places.len() >= LEAST_PLACES;
        (enough && agree.len() as f64 >= LEAST_SHARE * named.len() as f64).then_some(began)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn stop(second: i64, face: Option<Face>) -> TrackStop {
        let at = Timestamp::from_second(1_800_000_000 + second).unwrap().to_string();
        TrackStop { at, place: face.map(|f| Place::outside(f, Zone::Base)) }
    }

    const FACES: [Face; 4] = [Face::Front, Face::Left, Face::Rear, Face::Right];

    #[test]
    fn a_track_is_cut_into_its_walks() {
        let stops = [stop(50, Some(Face::Left)), stop(0, Some(Face::Front)), stop(90, None), stop(95, None), stop(200, Some(Face::Rear))];
        let all = runs(&stops);
        assert_eq!(all.iter().map(|r| (r.places, r.ended.is_some())).collect::<Vec<_>>(), [(2, true), (1, false)]);
        assert_eq!(run(&stops, &all[0].began).len(), 3);
        assert_eq!(run(&stops, &all[1].began).len(), 1);
        assert!(TrackStop { at: "noon".into(), place: None }.check().is_err());
        assert!(Track::new(&[]).unwrap().is_none());
    }

    #[test]
    fn one_place_named_three_times_says_nothing_of_the_clock() {
        let stops = [stop(0, Some(Face::Front)), stop(300, Some(Face::Left)), stop(600, None)];
        let track = Track::new(&stops).unwrap().unwrap();
        let front = Named { face: Some(Face::Front), zone: None };
        assert_eq!(track.found(&[(10.0, front), (40.0, front), (80.0, front)]), None);
    }

    #[test]
    fn a_walk_that_goes_round_twice_alike_is_left_open() {
        // Four faces of 100 s, twice; named once round: the first and the second time explain as much.
        let stops: Vec<TrackStop> = (0..8).map(|k| stop(k * 100, Some(FACES[k as usize % 4]))).chain([stop(800, None)]).collect();
        let track = Track::new(&stops).unwrap().unwrap();
        let named: Vec<(f64, Named)> = (0..4).map(|k| (k as f64 * 100.0, Named { face: Some(FACES[k]), zone: None })).collect();
        assert_eq!(track.found(&named), None);
    }

    proptest! {
        /// Whatever the recorder's clock, the beginning is found from places that are named as they are reached, a few of them wrongly,
        /// and shifting the recording shifts it by as much.
        #[test]
        fn the_beginning_is_found(
            stays in prop::collection::vec((20_i64..180, 0_usize..4), 8..30),
            late in prop::collection::vec(-6.0_f64..8.0, 30),
            began in -400.0_f64..900.0,
            shift in -300.0_f64..300.0,
            wrong in 0_usize..3,
        ) {
            let mut t = 0;
            let mut stops = Vec::new();
            let mut last = None;
            for (stay, face) in &stays {
                let face = if last == Some(*face) { (*face + 1) % 4 } else { *face };
                last = Some(face);
                stops.push((t, face));
                t += stay;
            }
            let kept: Vec<TrackStop> = stops.iter().map(|(t, f)| stop(*t, Some(FACES[*f]))).chain([stop(t, None)]).collect();
            let track = Track::new(&kept).unwrap().unwrap();
            let mut named: Vec<(f64, Named)> = stops
                .iter()
                .zip(&late)
                .map(|((t, f), late)| (*t as f64 + late - began, Named { face: Some(FACES[*f]), zone: None }))
                .collect();
            for n in named.iter_mut().take(wrong) {
                n.1.face = n.1.face.map(|f| FACES[(FACES.iter().position(|x| *x == f).unwrap() + 2) % 4]);
            }
            if let Some(found) = track.found(&named) {
                // Right, or another beginning under which no fewer agree.
                let agree = track.agreeing(found, &named).len();
                prop_assert!((found - began).abs() <= 12.0 || agree >= track.agreeing(began, &named).len(), "{found} for {began}");
                let moved: Vec<(f64, Named)> = named.iter().map(|(t, n)| (t - shift, *n)).collect();
                let again = track.found(&moved);
                prop_assert!(again.is_some_and(|a| (a - found - shift).abs() < 1e-6), "{again:?}");
            } else {
                // Only left open when round walks look alike, or too little agrees.
                prop_assert!(wrong > 0 || stays.len() < 14);
            }
        }
    }
}
