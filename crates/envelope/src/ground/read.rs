//! What is read off a surface that is known: what drains through a point, how high it lies, and what an instrument says of it.

use super::survey::{GroundInput, Survey};
use crate::measure::Units;
use crate::terrain::flood::DRY;
use crate::terrain::surface::Cell;

/// The fall that is taken where nothing was read: gently away from the nearest reading. Only the simulated instruments use it.
const ASSUMED_FALL: f64 = 0.03;
/// An altimeter that comes back further off than this has drifted. Rule of practice for hose altimeters.
const DRIFTED_MM: f64 = 5.0;

impl Survey {
    /// What drains through a point of the plan, and where it goes, in a sentence. The point is given as the plan shows it, north up.
    pub fn drains(&self, north: [f64; 2], units: Units) -> String {
        let Some(surfaced) = &self.surface else { return "There is no surface yet.".into() };
        let (g, w) = (&surfaced.grid, &surfaced.water);
        let cell = g.lay.cell_at(self.building(north)).filter(|k| g.cells[*k] == Cell::Ground);
        let Some(k) = cell else { return "Nothing was read here: what happens there is not known.".into() };
        let area = w.accumulation(g)[k];
        let way = w.way_out(k);
        let last = way.last().copied().unwrap_or(k);
        let ponds = way.iter().filter_map(|c| Some(w.pond[*c]).filter(|p| *p != DRY));
        let mut past: Vec<&str> = ponds.filter_map(|p| surfaced.named.get(&p)).map(|n| self.account.ponds[*n].id.as_str()).collect();
        past.dedup();
        let past = if past.is_empty() { String::new() } else { format!(", through pond {}", past.join(", then ")) };
        if w.next[last] == DRY {
            format!("{} drain through this point{past}. It has no way out.", units.area(area))
        } else {
            let long = way.len() as f64 * g.lay.cell;
            format!(
                "{} drain through this point{past}. It leaves the known ground after about {}.",
                units.area(area),
                units.length(long, 0)
            )
        }
    }

    /// The height of a place, millimetres from the finished floor: the surface that is known, or else the nearest reading and a gentle
    /// fall away from it. None while nothing was read.
    pub fn height_mm(&self, at: [f64; 2]) -> Option<f64> {
        let known = self.surface.as_ref().and_then(|f| f.grid.height_at(at));
        let off = |p: [f64; 2]| (p[0] - at[0]).hypot(p[1] - at[1]);
        let nearest =
            || self.account.readings.iter().min_by(|a, b| off(a.at).total_cmp(&off(b.at))).map(|r| r.z_m - ASSUMED_FALL * off(r.at));
        known.or_else(nearest).map(|z| z * 1000.0)
    }

    /// The heights of both ends of a slope stick that is laid straight out from a reading placed by a face, millimetres. None when
    /// the reading is not placed so.
    pub fn stick(&self, input: &GroundInput, spot: &str, length_m: f64) -> Option<[f64; 2]> {
        let from = self.account.readings.iter().find(|r| r.id == spot)?;
        let at = &input.ground.spots.iter().find(|o| o.id == spot)?.at;
        let (wall, face) = (self.place.standing.get(self.place.mass(&at.mass)?)?, at.face?);
        // Straight out from its own wall, which may be turned.
        let [near, far] = [0.0, -length_m].map(|inward| wall.point(face, 0.0, inward));
        let end = [from.at[0] + far[0] - near[0], from.at[1] + far[1] - near[1]];
        let near = from.z_m * 1000.0;
        Some([near, self.height_mm(end).unwrap_or(near)])
    }
}

/// What zeroing an altimeter on a reading showed: what it drifted since it was last zeroed there, if it was.
pub fn zeroed_words(spot: &str, height_mm: f64, drift_mm: Option<f64>, units: Units) -> String {
    let off = |mm: f64| format!("{}{}", if mm > 0.0 { "+" } else { "" }, units.fine(mm / 1000.0));
    match drift_mm {
        Some(d) if d.abs() > DRIFTED_MM => format!("Back on {spot} it shows {}: it drifted. Read what lies between again.", off(d)),
        Some(d) => format!("Back on {spot} it shows {}. Zeroed again.", off(d)),
        None => format!("Zeroed on {spot}, {} from the floor. Return here now and then to see the drift.", units.depth(height_mm / 1000.0)),
    }
}

/// What a slope stick shows: per cent outward, negative when it tips back.
pub fn stick_words(percent: f64, length_m: f64, units: Units) -> String {
    let way = if percent < 0.0 { "back to the wall" } else { "away" };
    format!("{:.1} % {way} over {}", percent.abs(), units.length(length_m, 2))
}
