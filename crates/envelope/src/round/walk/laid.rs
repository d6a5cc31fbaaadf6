//! A recording laid on the wheel's track: when it began by the wheel's clock.

use super::super::track::{Named, Track, TrackFit};
use super::{ASSUMED_FRONT_DEG, WalkFileError, WalkInput};
use crate::round::Sentence;
use crate::round::line::{Context, read_with};
use crate::site::{Bearing, Face, Place, Zone};

/// When the recording began on a track, in seconds after its first stop, and how well what is said goes with it.
pub(super) fn lay(track: &Track<'_>, sentences: &[Sentence], input: &WalkInput) -> Result<(Option<f64>, TrackFit), WalkFileError> {
    let named: Vec<(f64, Named)> = sentences.iter().filter_map(|s| Some((s.t_s?, names(&s.text, input)?))).collect();
    let told = input.began.as_deref().map(|b| track.after_first(b)).transpose()?;
    let timed = sentences.iter().any(|s| s.t_s.is_some());
    let began = if timed { told.or_else(|| track.found(&named)) } else { None };
    let agree = began.map_or(0, |b| track.agreeing(b, &named).len());
    let (at, of) = (began.map(|b| track.as_time(b)), named.len());
    let sentence = match (&at, told) {
        _ if !timed => "This text has no times, so it cannot be laid on the wheel's track: places are as they were said.".to_owned(),
        (Some(_), None) => format!("Places are from the wheel: {agree} of {of} sentences that name a place were said where it stood."),
        (Some(_), Some(_)) if of > 0 => {
            format!(
                "Places are from the wheel, from when you say it began: {agree} of {of} sentences that name a place were said where it stood."
            )
        }
        (Some(_), Some(_)) => {
            "Places are from the wheel, from when you say it began; no sentence names one that could be held against it.".to_owned()
        }
        (None, _) if of == 0 => {
            "No sentence names a place, so it cannot be told when the recording began by the wheel's clock: say when, or places are as they were said.".to_owned()
        }
        (None, _) => format!(
            "The {} a place cannot be brought together with where the wheel stood: say when the recording began, or places are as they were said.",
            if of == 1 { "one sentence that names".to_owned() } else { format!("{of} sentences that name") }
        ),
    };
    Ok((began, TrackFit { began: at, found: told.is_none() && began.is_some(), named: of, agree, sentence }))
}

/// The place a sentence names by itself, wherever it was said.
fn names(text: &str, input: &WalkInput) -> Option<Named> {
    let read_at = |zone: Zone| {
        let place = Place { face: None, ..Place::outside(Face::Front, zone) };
        let front = input.front.or_else(|| Bearing::new(ASSUMED_FRONT_DEG).ok());
        read_with(text, &Context { place, front, own_words: input.own_words.clone(), units: input.units }, None)
    };
    let low = read_at(Zone::Base);
    let Some(moved) = &low.moved else {
        // Where a finding is said to be names the face; its height may only be that of its part.
        return Some(Named { face: Some(low.notes.first()?.place.face?), zone: None });
    };
    // A height that is the same wherever one stood was named.
    let high = read_at(Zone::Roof).moved.map(|p| p.zone);
    let zone = high.filter(|z| *z == moved.zone);
    (moved.face.is_some() || zone.is_some()).then_some(Named { face: moved.face, zone })
}
