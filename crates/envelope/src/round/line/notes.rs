//! From scored clauses to a note, and the line cut into pieces for display.

use super::reader::{Match, Reader};
use super::score::{SURE, Scored};
use super::{Candidate, Fragment, FragmentKind, ReadNote, Reading};
use crate::finding::catalogue;
use crate::measure::Measure;
use crate::round::note::{Certainty, NoteKind};
use crate::round::vocabulary::{Cue, Sense};
use crate::site::{LimitReason, Place};
use crate::text::Span;

impl Reader<'_> {
    pub(super) fn note(
        &self,
        clauses: &[usize],
        scored: &Scored,
        place: &Place,
        places: &[Match],
        stations: &[Match],
        pieces: &mut Vec<(Span, FragmentKind, String)>,
    ) -> ReadNote {
        let mine = |m: &Match| clauses.contains(&self.items[m.first].clause);
        let chosen = scored.best().map(|b| b.0);
        let known = chosen.map(|c| &self.v.conditions[c]);
        let parts: Vec<Match> = self.parts(None).into_iter().filter(|m| mine(m)).collect();
        let index = |m: &Match| if let Sense::Component(c) = m.sense { Some(c) } else { None };
        let part = parts
            .iter()
            .find(|m| known.is_some_and(|k| index(m).is_some_and(|c| k.components.contains(&c))))
            .or_else(|| parts.iter().find(|m| !Self::within(m, stations)))
            .copied();
        let limit = self.limit(clauses, scored);
        let side = self.side(clauses, scored, stations);
        let mut good = known.is_some_and(|k| k.good);
        let mut extent = None;
        let mut certainty = Certainty::Seen;
        for m in self.matches.iter().filter(|m| mine(m)) {
            let span = self.span(m);
            match m.sense {
                Sense::Phrase(c) | Sense::Alone(c) | Sense::State(c)
                    if Some(c) == chosen || self.denied(m) && known.is_some_and(|k| k.good) =>
                {
                    pieces.push((
                        span,
                        FragmentKind::Condition,
                        catalogue().get(&self.v.conditions[chosen.unwrap_or(c)].id).map(|r| r.name.clone()).unwrap_or_default(),
                    ));
                }
                Sense::Extent(e) => {
                    extent.get_or_insert(e);
                    pieces.push((span, FragmentKind::Extent, e.words().into()));
                }
                Sense::Certainty(c) => {
                    certainty = c;
                    pieces.push((span, FragmentKind::Certainty, c.words().into()));
                }
                Sense::Praise if scored.praised => {
                    good |= chosen.is_none();
                    pieces.push((span, FragmentKind::Praise, "done right".into()));
                }
                _ => {}
            }
        }
        for m in parts.iter().filter(|m| !Self::within(m, stations) || part.is_some_and(|p| p.first == m.first)) {
            if let Some(c) = index(m) {
                pieces.push((self.span(m), FragmentKind::Component, self.v.components()[c].key.replace('-', " ")));
            }
        }
        let spans: Vec<Span> = self.items.iter().filter(|i| clauses.contains(&i.clause)).map(|i| i.span).collect();
        let in_note = |s: Span| spans.iter().any(|x| x.overlaps(s));
        let measures: Vec<Measure> = self.measures.iter().filter(|m| in_note(m.span)).map(|m| m.measure.clone()).collect();
        let text = if clauses.len() == self.clauses {
            self.line.trim().trim_start_matches([',', ';', '.']).trim_start().to_owned()
        } else {
            self.text_of(clauses)
        };
        let understood: Vec<Span> = pieces.iter().map(|p| p.0).chain(places.iter().chain(stations).map(|m| self.span(m))).collect();
        let left: Vec<&str> = self
            .items
            .iter()
            .filter(|i| {
                clauses.contains(&i.clause) && !i.closed && !self.v.is_filler(&i.stem) && !understood.iter().any(|s| s.overlaps(i.span))
            })
            .map(|i| &self.line[i.span.start..i.span.end])
            .collect();
        let asked = self.matches.iter().any(|m| mine(m) && m.sense == Sense::Cue(Cue::Recommend));
        let own = part.as_ref().and_then(index).filter(|c| self.memory.is_none() || self.v.zone_of(*c).is_some());
        let component = own.or_else(|| self.remembered(clauses));
        let kind = match known {
            _ if limit.is_some() => NoteKind::Limitation,
            _ if side.is_some() => NoteKind::Side,
            Some(k) if k.good => NoteKind::Good,
            Some(k) if k.side => NoteKind::Side,
            Some(k) if k.fact => NoteKind::Measurement,
            Some(_) => NoteKind::Defect,
            None if good && (own.is_some() || self.memory.is_none() || self.points_back()) => NoteKind::Good,
            None if asked && component.is_some() && self.memory.is_some() => NoteKind::Recommendation,
            None if !measures.is_empty() && (own.is_some() || self.memory.is_none()) => NoteKind::Measurement,
            None => NoteKind::Remark,
        };
        let known = known.filter(|_| limit.is_none() && side.is_none());
        let mut place = place.clone();
        let said: Vec<&str> = stations.iter().filter(|m| mine(m)).map(|m| &self.line[self.span(m).start..self.span(m).end]).collect();
        if !said.is_empty() {
            place.station = Some(said.join(", "));
        }
        let from_below = matches!(limit.flatten(), Some(LimitReason::TooSteep | LimitReason::Brittle));
        if from_below && self.memory.is_some() {
            place.zone = crate::site::Zone::Roof;
        }
        let component = component
            .filter(|_| side.is_none())
            .filter(|_| !from_below || own.is_some_and(|c| self.v.zone_of(c) == Some(crate::site::Zone::Roof)));
        let (condition, part) = (chosen.filter(|_| known.is_some()), if known.is_some() { own } else { component });
        let place = self.zoned(self.inside(&place, component), condition, part, places);
        let elsewhere = condition.and_then(|c| self.held(&place, c, own, places));
        let (place, instead_of) = elsewhere.map_or((place.clone(), None), |there| (there, Some(place)));
        ReadNote {
            instead_of,
            place,
            kind,
            condition: known.map(|k| k.id.clone()),
            candidates: if known.is_some() || chosen.is_none() { self.candidates(scored) } else { vec![] },
            component: component.map(|c| self.v.components()[c].key.clone()),
            measures,
            extent,
            certainty,
            limit: limit.flatten(),
            trade: side.map(|t| self.v.trade(t).to_owned()),
            text,
            left_over: left.join(" "),
        }
    }

    /// Words that say it could not be seen, unless they are the condition's own: a soil that is "too high" hides nothing.
    fn limit(&self, clauses: &[usize], scored: &Scored) -> Option<Option<LimitReason>> {
        let best = scored.best().map(|b| b.0);
        let taken = |m: &Match| {
            self.matches.iter().any(|o| {
                matches!(o.sense, Sense::Phrase(c) | Sense::Alone(c) | Sense::State(c) if Some(c) == best)
                    && o.first < m.first + m.len
                    && m.first < o.first + o.len
            })
        };
        let found: Vec<&Match> = self
            .matches
            .iter()
            .filter(|m| matches!(m.sense, Sense::Limit(_)) && clauses.contains(&self.items[m.first].clause) && !taken(m))
            .collect();
        // "shut off" alone beside a named fault is no limit; a reason or plain words of not seeing are.
        let reason = found.iter().find_map(|m| if let Sense::Limit(Some(r)) = m.sense { Some(r) } else { None });
        match (found.is_empty(), best) {
            (true, _) => None,
            (false, Some(_)) if reason.is_some() && found.iter().all(|m| m.len == 1) => None,
            _ => Some(reason),
        }
    }

    /// Another trade's matter: named outside a station, with something wrong about it, and no envelope finding stronger.
    fn side(&self, clauses: &[usize], scored: &Scored, stations: &[Match]) -> Option<usize> {
        let (trade, at) = self.matches.iter().find_map(|m| match m.sense {
            Sense::Side(t) if clauses.contains(&self.items[m.first].clause) && !Self::within(m, stations) => Some((t, *m)),
            _ => None,
        })?;
        const STRONG: f64 = 13.0;
        if scored.best().is_some_and(|(_, s)| s >= STRONG) {
            return None;
        }
        let speaks = self.matches.iter().any(|m| {
            m.first != at.first
                && clauses.contains(&self.items[m.first].clause)
                && (matches!(m.sense, Sense::State(_) | Sense::Phrase(_) | Sense::Negation | Sense::Cue(Cue::Recommend)))
        });
        (speaks || at.len > 1 || self.memory.is_none()).then_some(trade)
    }

    /// "They look good": said of what was named before.
    fn points_back(&self) -> bool {
        self.items.iter().any(|i| ["it", "they", "those", "thes", "that", "all", "look"].contains(&i.stem.as_str()))
    }

    /// In talk, the part spoken of before, when this sentence names none.
    fn remembered(&self, clauses: &[usize]) -> Option<usize> {
        self.memory.and_then(|m| m.component).filter(|_| clauses.len() == self.clauses)
    }

    fn candidates(&self, scored: &Scored) -> Vec<Candidate> {
        scored
            .ranked
            .iter()
            .take(3)
            .map(|(c, s)| {
                let id = self.v.conditions[*c].id.clone();
                let name = catalogue().get(&id).map(|r| r.name.clone()).unwrap_or_default();
                Candidate { condition: id, name, confidence: ((s / SURE).min(1.0) * 100.0).round() / 100.0 }
            })
            .collect()
    }

    fn text_of(&self, clauses: &[usize]) -> String {
        let mut runs: Vec<Span> = Vec::new();
        for item in self.items.iter().filter(|i| clauses.contains(&i.clause)) {
            match runs.last_mut() {
                Some(last) if !self.line[last.end..item.span.start].contains([',', ';', '.']) => *last = last.join(item.span),
                _ => runs.push(item.span),
            }
        }
        // Take the signs that close a measure along: 4', 2".
        runs.iter()
            .map(|s| {
                let end = self.measures.iter().filter(|m| m.span.overlaps(*s)).map(|m| m.span.end).max().unwrap_or(s.end).max(s.end);
                self.line[s.start..end].trim()
            })
            .collect::<Vec<_>>()
            .join(", ")
    }

    /// A line of signs only is kept as it is.
    pub(super) fn wordless(&self) -> Reading {
        let note = ReadNote {
            place: self.context.place.clone(),
            kind: NoteKind::Remark,
            condition: None,
            candidates: vec![],
            component: None,
            measures: vec![],
            extent: None,
            certainty: Certainty::Seen,
            limit: None,
            trade: None,
            text: self.line.trim().to_owned(),
            left_over: String::new(),
            instead_of: None,
        };
        Reading {
            notes: if self.line.trim().is_empty() { vec![] } else { vec![note] },
            fragments: if self.line.is_empty() { vec![] } else { vec![Fragment::rest(self.line, 0, self.line.len())] },
            correction: None,
            again: false,
            moved: None,
            doubts: vec![],
        }
    }

    /// Cuts the line into pieces that do not overlap; measures first, then conditions, parts, places and the rest.
    pub(super) fn partition(&self, mut pieces: Vec<(Span, FragmentKind, String)>) -> Vec<Fragment> {
        pieces.sort_by(|a, b| a.1.cmp(&b.1).then((b.0.end - b.0.start).cmp(&(a.0.end - a.0.start))).then(a.0.start.cmp(&b.0.start)));
        let mut kept: Vec<(Span, FragmentKind, String)> = Vec::new();
        for p in pieces {
            if !kept.iter().any(|k| k.0.overlaps(p.0)) {
                kept.push(p);
            }
        }
        kept.sort_by_key(|p| p.0.start);
        let mut out = Vec::new();
        let mut at = 0;
        let rest = |start: usize, end: usize| Fragment::rest(self.line, start, end);
        for (span, kind, meaning) in kept {
            if span.start > at {
                out.push(rest(at, span.start));
            }
            let (confidence, read_as) = self.mending(span);
            out.push(Fragment { span, kind, text: self.line[span.start..span.end].to_owned(), meaning, confidence, read_as });
            at = span.end;
        }
        if at < self.line.len() {
            out.push(rest(at, self.line.len()));
        }
        out
    }
}
