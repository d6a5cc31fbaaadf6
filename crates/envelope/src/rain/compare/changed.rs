//! What differs between two records of rainwater, in words. Nothing that differs goes untold.

use super::super::checks::ends;
use super::super::figures::RainAccount;
use super::super::flat::record::{FlatRoof, RoofOutlet, WayOut};
use super::super::record::{GutterRecord, Inside, Rainwater};
use crate::site::Face;

/// One gutter or flat roof that differs, or the rain.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Changed {
    /// In words.
    pub words: String,
    /// The gutter, where it is one.
    pub gutter: Option<String>,
}

/// What stands where something differs and none of the words fit.
const ELSE: &str = "something else of it";

fn fewer(outlets: usize) -> Option<String> {
    match outlets {
        0 => None,
        1 => Some("one outlet less".into()),
        n => Some(format!("{n} outlets less")),
    }
}

impl GutterRecord {
    fn differs(&self, was: &GutterRecord) -> Vec<String> {
        let mut parts: Vec<String> = Vec::new();
        if was.inside != self.inside {
            parts.push(match self.inside {
                Inside::Clean => "clean it".into(),
                Inside::Aged => "aged inside".into(),
                Inside::Debris => "debris in it".into(),
            });
        }
        if (&was.form, &was.width, &was.depth) != (&self.form, &self.width, &self.depth) {
            parts.push(format!("{} wide", self.width));
        }
        if was.levels != self.levels {
            parts.push(format!("refit it to levels {}", self.levels));
        }
        if (&was.past_fascia, &was.above_rim, &was.eave, &was.round) != (&self.past_fascia, &self.above_rim, &self.eave, &self.round) {
            parts.push("hang it elsewhere".into());
        }
        let added = self.outlets.iter().filter(|o| was.outlets.iter().all(|w| w.from_left != o.from_left));
        parts.extend(added.map(|o| format!("outlet of {} at {}", o.bore, o.from_left)));
        for o in &self.outlets {
            let Some(w) = was.outlets.iter().find(|w| w.from_left == o.from_left) else { continue };
            if w.bore != o.bore {
                parts.push(format!("outlet of {} in place of {}", o.bore, w.bore));
            }
            if w.strainer != o.strainer {
                parts.push(if o.strainer { "a strainer over its outlet".into() } else { "no strainer over its outlet".into() });
            }
            if w.up != o.up {
                parts.push(if o.up.trim().is_empty() { "its outlet flush".into() } else { format!("an overflow {} up", o.up) });
            }
            if (w.ends, &w.distance, &w.onto) != (o.ends, &o.distance, &o.onto) {
                parts.push(format!("let go {}", ends(o.ends, &o.distance)));
            }
        }
        parts.extend(fewer(was.outlets.iter().filter(|w| self.outlets.iter().all(|o| o.from_left != w.from_left)).count()));
        if parts.is_empty() && was != self {
            parts.push(ELSE.into());
        }
        parts
    }
}

impl RoofOutlet {
    /// Where it is, by which it is found again.
    fn at(&self) -> (WayOut, Option<Face>, &str, &str) {
        (self.kind, self.face, &self.from_left, &self.from_front)
    }
    fn name(&self) -> &'static str {
        match (self.kind, self.overflow) {
            (_, true) => "overflow",
            (WayOut::InnerDrain, _) => "drain",
            (WayOut::Scupper, _) => "scupper",
        }
    }
    fn differs(&self, was: &RoofOutlet) -> Vec<String> {
        let mut parts = Vec::new();
        let name = self.name();
        if was.blocked != self.blocked {
            parts.push(if self.blocked { format!("{name} blocked") } else { format!("clear the {name}") });
        }
        if was.size != self.size {
            parts.push(format!("{name} of {} in place of {}", self.size, was.size));
        }
        if was.overflow != self.overflow {
            parts.push(if self.overflow { "an outlet made an overflow".into() } else { format!("an overflow made a {name}") });
        }
        if was.strainer != self.strainer {
            parts.push(if self.strainer { format!("a strainer over the {name}") } else { format!("no strainer over the {name}") });
        }
        if was.up != self.up {
            parts.push(if self.up.trim().is_empty() { format!("{name} flush") } else { format!("{name} {} up", self.up) });
        }
        if (was.ends, &was.distance, &was.onto) != (self.ends, &self.distance, &self.onto) {
            parts.push(format!("{name} let go {}", ends(self.ends, &self.distance)));
        }
        parts
    }
}

impl FlatRoof {
    fn differs(&self, was: &FlatRoof) -> Vec<String> {
        let mut parts = Vec::new();
        if was.parapets != self.parapets {
            parts.push("other parapets".into());
        }
        if (&was.fall, was.toward) != (&self.fall, self.toward) {
            parts.push(match self.toward {
                _ if self.fall.trim().is_empty() => "level".into(),
                Some(face) => format!("a fall of {} to the {}", self.fall, face.name().to_lowercase()),
                None => format!("a fall of {}", self.fall),
            });
        }
        if was.heights != self.heights {
            parts.push("other heights".into());
        }
        let added = self.outlets.iter().filter(|o| was.outlets.iter().all(|w| w.at() != o.at()));
        parts.extend(added.map(|o| format!("{} of {}", o.name(), o.size)));
        for o in &self.outlets {
            if let Some(w) = was.outlets.iter().find(|w| w.at() == o.at()) {
                parts.extend(o.differs(w));
            }
        }
        parts.extend(fewer(was.outlets.iter().filter(|w| self.outlets.iter().all(|o| o.at() != w.at())).count()));
        if parts.is_empty() && was != self {
            parts.push(ELSE.into());
        }
        parts
    }
}

/// What was changed between two records: one for each gutter and flat roof that differs, and the rain. Flat roofs have their names from
/// what follows from the later one.
pub fn changes([before, after]: [&Rainwater; 2], account: &RainAccount) -> Vec<Changed> {
    let mut out = Vec::new();
    let mut at = |gutter: Option<&GutterRecord>, words: String| out.push(Changed { words, gutter: gutter.map(|g| g.id.clone()) });
    for g in &after.gutters {
        match before.gutters.iter().find(|o| o.id == g.id) {
            None => at(Some(g), format!("hang {}, {} wide", g.id, g.width)),
            Some(was) if was != g => at(Some(g), format!("{}: {}", g.id, g.differs(was).join(", "))),
            Some(_) => {}
        }
    }
    for g in before.gutters.iter().filter(|g| after.gutters.iter().all(|o| o.id != g.id)) {
        at(Some(g), format!("take {} down", g.id));
    }
    let called =
        |mass: &str| account.flats.iter().find(|f| f.mass == mass).map_or_else(|| format!("flat roof of {mass}"), |f| f.label.clone());
    for f in &after.flats {
        match before.flats.iter().find(|o| o.mass == f.mass) {
            None => at(None, format!("{}, measured", called(&f.mass))),
            Some(was) if was != f => at(None, format!("{}: {}", called(&f.mass), f.differs(was).join(", "))),
            Some(_) => {}
        }
    }
    for f in before.flats.iter().filter(|f| after.flats.iter().all(|o| o.mass != f.mass)) {
        at(None, format!("{} left out", called(&f.mass)));
    }
    if before.storm != after.storm {
        at(None, "another rain".into());
    }
    if before.rains != after.rains {
        at(None, "other rains to look at".into());
    }
    if before.costs != after.costs {
        at(None, "other costs".into());
    }
    if out.is_empty() && before != after {
        out.push(Changed { words: "another order".into(), gutter: None });
    }
    out
}
