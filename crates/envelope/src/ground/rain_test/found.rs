//! What was found when the storm was over: every wet place with where its water came from, the water before each way in, and the faces
//! that stayed clear.

use super::*;

impl Prepared<'_> {
    pub(super) fn wet(&self, origins: &[Origin], fullest: &[Fullest], waters: &Waters<'_>, watched_h: f64) -> Vec<WetPlace> {
        let account = &self.survey.account;
        let u = self.input.practice.units;
        let mut out: Vec<WetPlace> = Vec::new();
        for (w, f) in self.watched.iter().zip(fullest) {
            let at = |leaf: usize| w.leaves.iter().position(|l| *l == leaf).map_or(f64::NEG_INFINITY, |n| f.levels[n]);
            let depth_m =
                f.levels.iter().zip(&w.leaves).map(|(l, n)| l - self.land.z[self.hollows.nodes[*n].lowest as usize]).fold(0.0, f64::max);
            /// Less than this wets shoes, metres.
            const WET_M: f64 = 0.003;
            if f.volume <= 0.0 || depth_m < WET_M {
                continue;
            }
            let level = |k: usize| at(self.hollows.basin[k] as usize);
            let walls = contacts_at(self.input, &self.survey.place, self.s, &w.at_wall, &level);
            let mut from: Vec<FromWhere> =
                f.of.iter()
                    .zip(origins)
                    .filter(|(v, _)| **v > 0.0)
                    .map(|(v, o)| FromWhere { origin: o.words(), source: o.clone(), share: v / f.volume, litres: v * 1000.0 })
                    .collect();
            from.sort_by(|a, b| b.share.total_cmp(&a.share));
            let pond = &account.ponds[w.pond];
            let wall_m: f64 = walls.iter().map(|w| w.length_m).sum();
            let against = if walls.is_empty() { String::new() } else { format!(" against {} of wall", u.length(wall_m, 1)) };
            let mut sentence =
                format!("{}: {} stand {} deep{against}", crate::roof::access::capital(&pond.place), u.water(f.volume), u.depth(depth_m));
            if let Some(f) = from.first() {
                sentence.push_str(&format!("; {:.0} % of it came {}", f.share * 100.0, f.source.came()));
            }
            sentence.push('.');
            if let Some(c) = walls.iter().filter_map(|w| w.clearance_m).min_by(f64::total_cmp) {
                sentence.push_str(&if c < 0.0 {
                    format!(" The cladding stands {} in it.", u.depth(-c))
                } else {
                    format!(" The cladding stays {} above it.", u.depth(c))
                });
            }
            let still = w.leaves.iter().any(|l| waters.wet_now[*l]);
            let gone_h = (!still).then(|| w.leaves.iter().map(|l| waters.last_wet[*l]).fold(0.0, f64::max) / 60.0);
            sentence.push_str(&match gone_h {
                Some(h) => format!(" Gone after {h:.0} hours."),
                None => format!(" Some of it still stands after {watched_h:.0} hours."),
            });
            out.push(WetPlace {
                pond: pond.id.clone(),
                place: pond.place.clone(),
                face: pond.face,
                sentence,
                volume_m3: f.volume,
                depth_m,
                walls,
                wall_metre_hours: f.wall_metre_hours,
                fullest_min: f.minute,
                over_from_min: f.over_from,
                gone_h,
                from,
            });
        }
        // Against a wall first, then by how much.
        out.sort_by(|a, b| a.walls.is_empty().cmp(&b.walls.is_empty()).then(b.volume_m3.total_cmp(&a.volume_m3)));
        out
    }

    /// The water before each way in, when the pond there was fullest.
    pub(super) fn ways_in(&self, fullest: &[Fullest]) -> Vec<WayInStood> {
        /// As wide as a door while nobody said.
        const USUAL_M: f64 = 1.0;
        /// A hand's breadth above water is little.
        const LITTLE_M: f64 = 0.1;
        let (u, place, lay) = (self.input.practice.units, &self.survey.place, &self.s.grid.lay);
        let mut out: Vec<WayInStood> = Vec::new();
        for w in &self.input.ground.ways_in {
            let (Ok(along), Ok(height)) = (metres("", &w.along), signed("", &w.height)) else { continue };
            let mass = place.mass(&w.mass);
            let name = format!("{} {} at the {}", crate::roof::access::capital(w.kind.name()), w.id, w.face.name().to_lowercase());
            // What lies on no wall is not dry: nothing can be said of it.
            if mass.is_none_or(|m| along > place.standing[m].side(w.face)) {
                let sentence = format!("{name} lies on no wall there is: check its mass and its distance from the left end.");
                out.push(WayInStood { id: w.id.clone(), level_m: None, margin_m: None, clear: false, sentence });
                continue;
            }
            let half = metres("", &w.width).unwrap_or(USUAL_M) / 2.0 + lay.cell;
            let before = |k: usize| place.nearest_side(lay.middle(k)).is_some_and(|(_, _, x, _)| (x - along).abs() <= half);
            let stood = self.watched.iter().zip(fullest).flat_map(|(of, f)| {
                let cells = of.at_wall.iter().filter(|(k, m, face)| Some(*m) == mass && *face == w.face && before(*k));
                cells.filter_map(|(k, _, _)| {
                    let leaf = of.leaves.iter().position(|l| *l == self.hollows.basin[*k] as usize)?;
                    let level = *f.levels.get(leaf)?;
                    (level > self.land.z[*k] + WET_WALL_M).then_some(level)
                })
            });
            let level_m = stood.max_by(f64::total_cmp);
            let margin_m = level_m.map(|l| height - l);
            let clear = margin_m.is_none_or(|m| m >= LITTLE_M);
            let sentence = match margin_m {
                None => format!("{name}: no water stands before it."),
                Some(m) if m < 0.0 => format!("{name}: {} under water; it comes in there.", u.depth(-m)),
                Some(m) if m < LITTLE_M => format!("{name}: {} above the water, which is little.", u.depth(m)),
                Some(m) => format!("{name}: {} above the water.", u.depth(m)),
            };
            out.push(WayInStood { id: w.id.clone(), level_m, margin_m, clear, sentence });
        }
        out.sort_by(|a, b| a.margin_m.unwrap_or(f64::INFINITY).total_cmp(&b.margin_m.unwrap_or(f64::INFINITY)));
        out
    }

    /// Whether the known ground has a place to lead water to that lies lower than a pond's bottom.
    pub(crate) fn lower_ground(&self, pond: &str) -> bool {
        let Some(w) = self.watched.iter().find(|w| self.survey.account.ponds[w.pond].id == pond) else { return false };
        let bottom = self.land.z[self.hollows.nodes[w.leaves[0]].lowest as usize];
        /// A pipe needs so much fall at least, metres.
        const FALL_M: f64 = 0.02;
        (0..self.land.z.len()).any(|k| self.land.open[k] && self.land.z[k] < bottom - FALL_M)
    }

    pub(super) fn dry(&self, wet: &[WetPlace]) -> Vec<String> {
        let stands =
            |f: &crate::ground::survey::GroundFace| wet.iter().any(|w| w.walls.iter().any(|c| c.mass == f.mass && c.face == f.face));
        let name = |mass: &str| {
            self.survey.place.ids.iter().position(|i| i == mass).map_or(mass.to_owned(), |k| self.survey.place.names[k].clone())
        };
        let faces = self.survey.account.faces.iter().filter(|f| !stands(f));
        faces.map(|f| format!("{} of the {}: stays clear of standing water in this storm.", f.face.name(), name(&f.mass))).collect()
    }
}
