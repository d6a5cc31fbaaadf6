//! Where a line says it is: faces both ways of naming, corners, zones, rooms, stations.

use super::reader::{Item, Match, Reader};
use crate::round::vocabulary::{Cue, Sense};
use crate::site::{Bearing, Face, ItemKind, Place, Surface, Zone};

impl Reader<'_> {
    /// Where a position along the face is described: "under kitchen window". Set phrases win over it.
    pub(super) fn stations(&self) -> Vec<Match> {
        let strong: Vec<&Match> =
            self.matches.iter().filter(|m| matches!(m.sense, Sense::Phrase(_) | Sense::Alone(_)) && m.len > 1).collect();
        let mut out: Vec<Match> = Vec::new();
        let mut i = 0;
        while i < self.items.len() {
            let begins = self.matches.iter().filter(|m| m.first == i && m.sense == Sense::Station).map(|m| m.len).max();
            // "look at the grading" points, it does not place.
            let looked = self.memory.is_some() && i > 0 && self.items[i].stem == "at" && self.items[i - 1].stem == "look";
            let inside_phrase = looked || strong.iter().any(|m| m.first <= i && i < m.first + m.len);
            let Some(len) = begins.filter(|_| !inside_phrase) else {
                i += 1;
                continue;
            };
            let stop = |j: usize| {
                let item = &self.items[j];
                item.closed
                    // "at the front are well extended": the place ends where something is said of it
                    || ["is", "are", "was", "has", "have", "isn", "need", "look", "do", "don"].contains(&item.stem.as_str())
                    || item.clause != self.items[i].clause
                    || strong.iter().any(|m| m.first == j)
                    || self.matches.iter().any(|m| {
                        m.first == j && matches!(m.sense, Sense::Negation | Sense::Extent(_) | Sense::Certainty(_) | Sense::Station)
                    })
            };
            const MOST_WORDS: usize = 5;
            let end = (i + len..self.items.len().min(i + len + MOST_WORDS))
                .find(|j| stop(*j))
                .unwrap_or(self.items.len().min(i + len + MOST_WORDS));
            // "starting at the front" says the face, no station of it.
            let says_face = |j: usize| {
                ["sid", "wall", "fac", "hous", "build"].contains(&self.items[j].stem.as_str())
                    || self.v.is_filler(&self.items[j].stem)
                    || self.matches.iter().any(|m| m.first == j && matches!(m.sense, Sense::Face(_)))
                    || self.compass(j, &self.items[j]).is_some()
            };
            let names_face = (i + len..end).any(|j| {
                let face = self.compass(j, &self.items[j]).is_some()
                    || self.matches.iter().any(|m| m.first == j && matches!(m.sense, Sense::Face(_)));
                face && self.items.get(j + 1).is_some_and(|n| ["sid", "wall", "fac", "elevation", "slop"].contains(&n.stem.as_str()))
            });
            if self.memory.is_some() && (names_face || (i + len..end).all(says_face)) {
                i += len;
                continue;
            }
            // A station needs a name; "over all" or a lone preposition is none.
            if self.items[i + len..end].iter().any(|it| !self.v.is_filler(&it.stem)) {
                out.push(Match { sense: Sense::Station, first: i, len: end - i });
                i = end;
            } else {
                i += len;
            }
        }
        out
    }

    /// A part that exists inside only takes the note inside, behind the face that is set.
    pub(super) fn inside(&self, place: &Place, component: Option<usize>) -> Place {
        let mut place = place.clone();
        if let Some(c) = component.filter(|c| self.v.inside[*c]) {
            if place.zone != Zone::Inside {
                place.zone = Zone::Inside;
            }
            place.surface = place.surface.or(match self.v.components()[c].key.as_str() {
                "ceiling" => Some(Surface::Ceiling),
                "interior-wall" => Some(Surface::Wall),
                "carpet-edge" => Some(Surface::Floor),
                _ => None,
            });
        }
        place
    }

    pub(super) fn place(&self, stations: &[Match]) -> (Place, Vec<Match>) {
        let mut place = self.context.place.clone();
        let mut used = Vec::new();
        let outside_station = |m: &Match| !Self::within(m, stations);
        let taken = |m: &Match| {
            self.matches.iter().any(|p| {
                matches!(p.sense, Sense::Phrase(_) | Sense::Alone(_))
                    && p.len > 1
                    && p.first <= m.first
                    && m.first < p.first + p.len
                    && p.len > m.len
            })
        };
        for m in self.matches.iter().filter(|m| outside_station(m) && !taken(m)) {
            match m.sense {
                Sense::Face(f) if self.is_face_word(m, f) => {
                    place.face = Some(f);
                    used.push(*m);
                }
                Sense::Zone(z) => {
                    place.zone = z;
                    used.push(*m);
                }
                Sense::Room if self.is_inside_word(m, &place) => {
                    place.zone = Zone::Inside;
                    place.room = Some(self.line[self.span(m).start..self.span(m).end].to_lowercase());
                    used.push(*m);
                }
                _ => {}
            }
        }
        if self.has(Cue::NextFace) && used.iter().all(|m| !matches!(m.sense, Sense::Face(_))) {
            let next = place.face.and_then(|f| Face::ALL.iter().position(|x| *x == f)).map(|i| Face::ALL[(i + 1) % Face::ALL.len()]);
            place.face = next.or(place.face);
        }
        for (i, item) in self.items.iter().enumerate() {
            let m = Match { sense: Sense::Station, first: i, len: 1 };
            if let Some(f) = self.compass(i, item).filter(|_| outside_station(&m)) {
                place.face = Some(f);
                used.push(m);
            }
        }
        if let Some((m, zone)) = self.item_name() {
            place.station = Some(self.line[self.span(&m).start..self.span(&m).end].to_uppercase());
            place.zone = zone;
            used.push(m);
        }
        if let Some(corner) = self.corner(&used) {
            // In talk "the back corner" is a corner of the face one stands at.
            if self.memory.is_some() && self.context.place.face.is_some() && !self.has(Cue::Moving) {
                place.face = self.context.place.face;
            }
            place.station = Some(self.line[self.span(&corner).start..self.span(&corner).end].to_lowercase());
            used.push(corner);
        }
        // Going out of a room, or on to another face, leaves what was inside or along the old face.
        if place.face != self.context.place.face && place.zone != Zone::Inside {
            place.room = None;
            place.surface = None;
        }
        if self
            .matches
            .iter()
            .any(|m| matches!(m.sense, Sense::Cue(Cue::Moving)) && self.surface(&self.items[m.first + m.len - 1]) == "outside")
        {
            place.room = None;
            place.surface = None;
            place.zone = if place.zone == Zone::Inside { Zone::Base } else { place.zone };
        }
        used.extend(stations.iter().copied());
        (place, used)
    }

    /// `W2`, `D1`, `P3`, `G1`: an opening, fitting or gutter run that was counted on this face.
    fn item_name(&self) -> Option<(Match, Zone)> {
        self.items.windows(2).enumerate().find_map(|(i, pair)| {
            let kind = ItemKind::by_letter(pair[0].stem.as_str())?;
            let glued = pair[0].span.end == pair[1].span.start;
            let digits = self.surface(&pair[1]).chars().all(|c| c.is_ascii_digit());
            (glued && digits && pair[0].upper).then_some((Match { sense: Sense::Station, first: i, len: 2 }, kind.zone()))
        })
    }

    /// "front left corner", "northeast corner": the corner as a station of the face said first.
    fn corner(&self, used: &[Match]) -> Option<Match> {
        (0..self.items.len()).filter(|at| self.items[*at].stem == "corner" && !self.items[*at].closed).find_map(|at| {
            let mut first = at;
            while first > 0 && used.iter().any(|m| m.first + m.len == first && m.len > 0) {
                first -= 1;
            }
            (first < at).then_some(Match { sense: Sense::Station, first, len: at - first + 1 })
        })
    }

    /// "in the kitchen", or a room's name when the walk is inside already.
    fn is_inside_word(&self, m: &Match, place: &Place) -> bool {
        let word = |back: usize| m.first.checked_sub(back).map_or("", |i| self.items[i].stem.as_str());
        let into = |w: &str| ["in", "insid", "into", "within"].contains(&w);
        place.zone == Zone::Inside && place.room.as_deref() != Some("") && !["behind", "under", "below"].contains(&word(2))
            || into(word(1))
            || into(word(2)) && ["the", "thi", "that", "a"].contains(&word(1))
    }

    /// In talk nobody sets the zone by hand: the condition or the part says how high it is, unless the sentence does.
    pub(super) fn zoned(&self, mut place: Place, condition: Option<usize>, component: Option<usize>, said: &[Match]) -> Place {
        if self.memory.is_none() || said.iter().any(|m| matches!(m.sense, Sense::Zone(_) | Sense::Room)) {
            return place;
        }
        // Only the roof and the inside are zones one stands in; the others are looked at from the ground.
        let carried = matches!(place.zone, Zone::Roof | Zone::Inside).then_some(place.zone);
        let of_part = component.and_then(|c| self.v.zone_of(c));
        let zone = match condition.map(|c| &self.v.conditions[c]) {
            Some(k) => {
                let first_part = k.components.first().and_then(|c| self.v.zone_of(*c));
                let among = |z: Option<Zone>| z.filter(|z| k.zones.contains(z));
                // A part that only stands beside the finding says nothing of its height.
                let own = component.filter(|c| k.components.contains(c)).and(of_part);
                among(carried).or(among(own)).or(among(first_part)).unwrap_or(k.zones[0])
            }
            None => of_part.unwrap_or(place.zone),
        };
        if zone != Zone::Inside {
            place.room = None;
            place.surface = None;
        }
        place.zone = zone;
        place
    }

    /// Where a typed finding goes that is never met at the height that is set: to the height its part has. None where the height can
    /// hold it, where the line itself names one, and in talk, where nobody sets one.
    pub(super) fn held(&self, place: &Place, condition: usize, part: Option<usize>, said: &[Match]) -> Option<Place> {
        let known = &self.v.conditions[condition];
        let named = said.iter().any(|m| matches!(m.sense, Sense::Zone(_) | Sense::Room | Sense::Station));
        let of_part = part.and_then(|c| self.v.zone_of(c));
        let holds = known.held_at.is_empty() || known.held_at.contains(&place.zone) || of_part == Some(place.zone);
        if self.memory.is_some() || named || holds || place.zone == Zone::Inside {
            return None;
        }
        let zone = of_part.filter(|z| known.zones.contains(z)).unwrap_or(*known.zones.first()?);
        // What is a part of a room goes inside by its own rule; a wall is wet on its outside as well.
        (zone != Zone::Inside).then(|| Place { zone, ..place.clone() })
    }

    /// Words for a side that also mean other things count only beside a word for a face, or alone at the start.
    pub(super) fn is_face_word(&self, m: &Match, face: Face) -> bool {
        let word = |i: Option<usize>| i.and_then(|i| self.items.get(i)).map_or("", |i| i.stem.as_str());
        let after = word(Some(m.first + m.len));
        let names_a_face =
            ["sid", "fac", "wall", "elevation", "corner", "gutter", "slop", "eav", "yard", "roof", "upper", "ground", "bas", "edg"]
                .contains(&after);
        let before = word(m.first.checked_sub(1));
        let before_that = word(m.first.checked_sub(2));
        // "same as the front" compares, "boxes in front" hides
        if ["as", "lik"].contains(&before_that) && before == "the"
            || ["as", "lik"].contains(&before)
            || before == "in" && after != "of" && face == Face::Front
        {
            return false;
        }
        // "back down", "back on the roof": the way, not the side
        if self.items[m.first].stem == "back" && ["down", "on", "at", "in", "insid", "into", "to", "up", "outsid", "out"].contains(&after) {
            return false;
        }
        let first = m.first == 0;
        if self.memory.is_some() {
            let clause = self.items[m.first].clause;
            let ends = self.items.get(m.first + m.len).is_none_or(|i| i.clause != clause);
            let the = before == "the";
            // "window on the left" is a station of the face one stands at
            let part_before = self.matches.iter().any(|p| {
                matches!(p.sense, Sense::Component(_))
                    && p.first < m.first
                    && self.items[p.first].clause == clause
                    && !["sid", "wall"].contains(&self.items[p.first].stem.as_str())
            });
            let spoken = match face {
                _ if part_before && !names_a_face && !self.has(Cue::Moving) => false,
                Face::Front | Face::Rear if after == "of" && !the => false,
                Face::Front | Face::Rear => {
                    the || names_a_face
                        || ends
                        || first
                        || self.matches.iter().any(|p| p.first == m.first + m.len && matches!(p.sense, Sense::Component(_)))
                            && self.items[m.first].stem != "back"
                }
                Face::Left | Face::Right => {
                    names_a_face && !["don", "all", "lap", "flash", "vent"].contains(&before) || the && ends || first && ends
                }
            };
            return spoken;
        }
        match face {
            Face::Front | Face::Rear if self.items[m.first].stem != "back" => after != "of",
            Face::Right if first => !["her", "ther", "at", "now", "about", "under", "by", "of"].contains(&after),
            _ if first => !["of", "pitch", "fall", "in", "slop", "up", "out", "to", "down"].contains(&after),
            _ => names_a_face && !["don", "all", "lap", "flash", "vent", "of"].contains(&before),
        }
    }

    /// "north", "NE", and at the start of the line "w": only when it is known which way the front faces.
    pub(super) fn compass(&self, i: usize, item: &Item) -> Option<Face> {
        let front = self.context.front?;
        if item.closed {
            return None;
        }
        // W2 is a window that was counted, not the west
        if self.line[item.span.end..].starts_with(|c: char| c.is_ascii_digit()) {
            return None;
        }
        let degrees = match item.stem.as_str() {
            "north" | "northern" => 0.0,
            "east" | "eastern" => 90.0,
            "south" | "southern" => 180.0,
            "west" | "western" => 270.0,
            "northeast" => 45.0,
            "southeast" => 135.0,
            "southwest" => 225.0,
            "northwest" => 315.0,
            short if (item.upper || i == 0) && !self.line[item.span.end..].starts_with('/') => match short {
                "n" => 0.0,
                "e" => 90.0,
                "s" => 180.0,
                "w" => 270.0,
                "ne" => 45.0,
                "se" => 135.0,
                "sw" => 225.0,
                "nw" => 315.0,
                _ => return None,
            },
            _ => return None,
        };
        Some(Face::nearest(Bearing::new(degrees).ok()?, front))
    }
}
