//! Where the squares of a storm lie: drawn by their seed clear of fittings and of each other, kept where they were once they are being
//! counted, or moved for a reason.

use super::*;

/// A square with its place.
pub(super) struct Placed<'a> {
    pub(super) kept: &'a SquareKept,
    pub(super) at: Result<Rect, RoofError>,
}

impl StormOn<'_> {
    pub(in crate::storm) fn slope(&self, facet: &str) -> Option<&Slope> {
        self.roof.slopes.iter().find(|s| s.facet == facet)
    }
    pub(super) fn frame(&self, facet: &str) -> Option<Frame> {
        Some(Frame::of(self.roof.shape.as_ref()?.facets.iter().find(|f| f.id == facet)?))
    }
    /// The circles that fittings take up.
    pub(super) fn on_a_fitting(&self, frame: &Frame, r: Rect) -> bool {
        /// What a fitting without a measured width takes up.
        const USUAL_M: f64 = 0.3;
        let corners = frame.on_plan(r);
        self.roof.fittings.iter().any(|f| {
            let half = f.width_m.unwrap_or(USUAL_M) / 2.0;
            let near = |k: usize| plane::length(plane::nearest(f.at, corners[k], corners[(k + 1) % 4]), f.at) < half;
            (0..4).any(near) || (0..4).all(|k| plane::Linear::left_of(corners[k], corners[(k + 1) % 4]).is_some_and(|l| l.at(f.at) >= 0.0))
        })
    }

    /// Draws a square: clear of the slope's edges, of fittings and of what is taken.
    pub(super) fn draw(&self, q: &SquareKept, frame: &Frame, size: [f64; 2], taken: &dyn Fn(Rect) -> bool) -> Result<Rect, String> {
        let (margin, u) = (self.practice.rule("square-margin").figure(), self.practice.units);
        frame.draw(q.seed, size, margin, &|r| taken(r) || self.on_a_fitting(frame, r)).ok_or_else(|| {
            format!(
                "No square of {} by {} fits on this slope {} from its edges. Take a smaller one, or the practice's other margin.",
                u.length(size[0], 2),
                u.length(size[1], 2),
                u.length(margin, 2)
            )
        })
    }

    /// Where one square lies, clear of those that are `taken`.
    pub(super) fn place(&self, q: &SquareKept, taken: &[(&str, Rect)]) -> Result<Rect, RoofError> {
        let err = |part: &str, message: String| RoofError { field: format!("squares.{}.{part}", q.id), message };
        let Some(frame) = self.frame(&q.slope) else {
            return Err(err("slope", format!("The roof has no slope \u{201c}{}\u{201d} any more. Choose the slope it lies on.", q.slope)));
        };
        let [Ok(wide), Ok(high)] = [side("The width", &q.wide), side("The height", &q.high)] else {
            return Err(err("wide", "Type both sides of the square.".into()));
        };
        let size = [wide, high];
        let over = |r: Rect| taken.iter().find(|(_, t)| t.overlaps(r)).map(|(id, _)| *id);
        let (part, [left, low], edge) = match (&q.moved, q.drawn) {
            (Some(m), _) => {
                let (left, low) = (metres("From the left", &m.from_left), metres("From the low edge", &m.from_low));
                let (Ok(left), Ok(low)) = (left, low) else { return Err(err("moved.from_left", "Type where it was moved to.".into())) };
                ("moved.from_left", [left, low], "There it would hang over the edge of its slope. Move it inside.")
            }
            (None, Some(d)) => {
                let edge = "The slope has been measured anew, and where this square was counted hangs over its edge. Look at the slope again, or move it with a reason.";
                ("drawn", [d.from_left_m, d.from_low_m], edge)
            }
            (None, None) => return self.draw(q, &frame, size, &|r| over(r).is_some()).map_err(|m| err("wide", m)),
        };
        let r = frame.rect(left, low, size);
        if !frame.holds(r, 0.0) {
            return Err(err(part, edge.into()));
        }
        over(r)
            .map_or(Ok(r), |other| Err(err(part, format!("There it overlaps {other}: hits in both would count twice. Move one of them."))))
    }

    /// Where each square lies. What was counted or moved lies where it lay; what is still to be drawn keeps clear of that, and of those
    /// before it on its slope.
    pub(super) fn placed(&self) -> Vec<Option<Placed<'_>>> {
        let squares = &self.kept.squares;
        let mut taken: BTreeMap<&str, Vec<(&str, Rect)>> = BTreeMap::new();
        let mut out: Vec<Option<Placed<'_>>> = squares.iter().map(|_| None).collect();
        let free = |q: &SquareKept| q.moved.is_none() && q.drawn.is_none();
        let mut order: Vec<usize> = (0..squares.len()).collect();
        order.sort_by_key(|k| free(&squares[*k]));
        for k in order {
            let q = &squares[k];
            if self.slope(&q.slope).is_none() {
                continue;
            }
            let there = taken.entry(&q.slope).or_default();
            let at = self.place(q, there);
            if let Ok(r) = &at {
                there.push((&q.id, *r));
            }
            out[k] = Some(Placed { kept: q, at });
        }
        out
    }

    /// The places to keep for these squares: where each lay before, once it is being counted; else where it is drawn now.
    #[must_use]
    pub fn places(&self, before: &StormOn<'_>) -> Vec<Option<DrawnAt>> {
        let (then, now) = (before.placed(), self.placed());
        let at = |p: &Placed<'_>| {
            let [from_left_m, from_low_m] = self.frame(&p.kept.slope)?.corner(*p.at.as_ref().ok()?);
            Some(DrawnAt { from_left_m, from_low_m })
        };
        let one = |q: &SquareKept, now: Option<&Placed<'_>>| {
            let same = then.iter().flatten().find(|p| p.kept.drawn_as(q));
            match (&q.moved, same) {
                _ if !q.begun() => None,
                // A square that lies elsewhere for a reason still knows where it was drawn.
                (Some(_), _) => same.and_then(|p| p.kept.drawn),
                (None, Some(p)) if p.kept.moved.is_some() => p.kept.drawn.or_else(|| at(now?)),
                (None, Some(p)) => at(p).or_else(|| at(now?)),
                (None, None) => at(now?),
            }
        };
        self.kept.squares.iter().zip(&now).map(|(q, now)| one(q, now.as_ref())).collect()
    }

    /// Checks squares against the roof: each on its slope, none over another.
    ///
    /// # Errors
    /// The square that cannot lie where it is, with what to do.
    pub fn check(&self) -> Result<(), RoofError> {
        for (placed, q) in self.placed().into_iter().zip(&self.kept.squares) {
            match placed {
                Some(p) => drop(p.at?),
                None if self.roof.shape.is_none() => {
                    let message = "Measure the roof first, on the Roof bench: squares lie on its slopes.".into();
                    return Err(RoofError { field: format!("squares.{}.slope", q.id), message });
                }
                None => {
                    let message = format!("The roof has no slope \u{201c}{}\u{201d}. Choose the slope it lies on.", q.slope);
                    return Err(RoofError { field: format!("squares.{}.slope", q.id), message });
                }
            }
        }
        Ok(())
    }
}
