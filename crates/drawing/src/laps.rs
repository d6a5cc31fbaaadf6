//! A wall detail as an exploded lap: pieces as flat sheets stepped toward the viewer in their order, and water as a line that
//! vanishes behind what it goes behind. Sound and aged stand beside each other.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::wall::account::DetailAccount;
use envelope::wall::laps::{End, LapsInput, Piece, PieceKind, Strip};
use std::collections::BTreeMap;

/// How far one sheet stands before the other, on paper: to the right and down.
const STEP: [f64; 2] = [11.0, 8.0];
/// Room for one of the two drawings.
const ROOM: [f64; 2] = [290.0, 270.0];
const MARGIN: f64 = 18.0;

/// How many sheets lie under each piece: the longest row of pieces, each over the next.
fn layers(input: &LapsInput) -> BTreeMap<&str, usize> {
    let mut layer: BTreeMap<&str, usize> = input.pieces.iter().map(|p| (p.id.as_str(), 1)).collect();
    // Each round carries the longest row one farther; a ring that no place shows ends it at the number of pieces.
    for _ in 0..input.pieces.len() {
        let mut moved = false;
        for o in &input.over {
            let under = layer.get(o.inner.as_str()).copied().unwrap_or(1);
            if let Some(l) = layer.get_mut(o.outer.as_str()).filter(|l| **l <= under) {
                *l = under + 1;
                moved = true;
            }
        }
        if !moved {
            break;
        }
    }
    layer
}

struct View<'a> {
    input: &'a LapsInput,
    layer: BTreeMap<&'a str, usize>,
    k: f64,
    left: f64,
    most: usize,
}

impl View<'_> {
    fn at(&self, x: f64, z: f64, layer: usize) -> [f64; 2] {
        let d = layer as f64;
        [self.left + (x - self.input.x0) * self.k + d * STEP[0], MARGIN + (self.input.top - z) * self.k + d * STEP[1]]
    }
    /// The corners of a rectangle as far as the detail goes.
    fn ring(&self, [x0, x1, z0, z1]: [f64; 4], layer: usize) -> Vec<[f64; 2]> {
        let (x0, x1) = (x0.max(self.input.x0), x1.min(self.input.x1));
        let (z0, z1) = (z0.max(self.input.bottom), z1.min(self.input.top));
        [[x0, z0], [x1, z0], [x1, z1], [x0, z1]].iter().map(|[x, z]| self.at(*x, *z, layer)).collect()
    }
    fn of(&self, p: &Piece) -> usize {
        self.layer.get(p.id.as_str()).copied().unwrap_or(1)
    }
}

fn fill(kind: PieceKind, look: Look) -> &'static str {
    match kind {
        PieceKind::Sheathing | PieceKind::Frame => look.noted,
        PieceKind::Barrier => look.plaster,
        PieceKind::Membrane | PieceKind::Pan => look.seen,
        PieceKind::Tape => look.plaster_low,
        PieceKind::Flange | PieceKind::Trim => look.field,
        PieceKind::Flashing => look.plaster_line,
        PieceKind::Cladding => look.plaster_low,
    }
}

/// As many ways as one drawing can show.
const MOST_WAYS: usize = 9;

/// The ways that are drawn: those that go wrong first, the wider before the narrower, and of those that run alike only one.
fn chosen(ways: &[Strip]) -> Vec<&Strip> {
    let wide = |s: &Strip| s.x_to - s.x_from;
    let mut all: Vec<&Strip> = ways.iter().collect();
    all.sort_by(|a, b| a.right.cmp(&b.right).then(wide(b).total_cmp(&wide(a))));
    let alike = |a: &Strip, b: &Strip| {
        let on = |s: &Strip| s.path.iter().map(|p| p.on.clone()).collect::<Vec<_>>();
        a.end == b.end && on(a) == on(b)
    };
    let mut out: Vec<&Strip> = vec![];
    for s in all {
        if out.len() < MOST_WAYS && !out.iter().any(|o| alike(o, s)) {
            out.push(s);
        }
    }
    out
}

/// A detail, sound beside aged. `None` while it cannot be worked out.
pub fn laps_svg(a: &DetailAccount, look: Look) -> Option<String> {
    let input = a.input.as_ref()?;
    a.verdict?;
    let layer = layers(input);
    let most = layer.values().copied().max().unwrap_or(1);
    let (wide, high) = (input.x1 - input.x0, input.top - input.bottom);
    let k = (ROOM[0] / wide).min(ROOM[1] / high);
    let one = wide * k + most as f64 * STEP[0] + 2.0 * MARGIN;
    let height = high * k + most as f64 * STEP[1] + 2.0 * MARGIN + 34.0;
    let mut s = Svg::new(look);
    let names: BTreeMap<&str, usize> = numbers(a, input);
    for (n, (words, ways)) in [("Seals sound", &a.ways[0]), ("Seals aged", &a.ways[1])].into_iter().enumerate() {
        let v = View { input, layer: layer.clone(), k, left: MARGIN + n as f64 * (one + 10.0), most };
        let ways = chosen(ways);
        detail(&mut s, &v, a, &ways, &names, n == 0, look);
        let share = if n == 0 { a.sound } else { a.aged };
        let gets = if share > 0.0 { format!("{words}: water gets in") } else { format!("{words}: none gets in") };
        s.text([v.left, height - 22.0], &gets, &Style::new().fill(look.ink).weight(600));
    }
    let legend: Vec<String> = {
        let mut all: Vec<(&usize, &&str)> = names.iter().map(|(id, n)| (n, id)).collect();
        all.sort();
        all.into_iter().map(|(n, id)| format!("{n} {}", id.replace('-', " "))).collect()
    };
    let width = 2.0 * one + 10.0;
    // The legend wraps by words; a character is about six units wide.
    let (mut lines, per) = (vec![String::new()], (width / 6.0) as usize);
    for l in legend {
        let fits = lines.last().is_some_and(|last| last.is_empty() || last.chars().count() + l.chars().count() + 3 <= per);
        match lines.last_mut().filter(|_| fits) {
            Some(last) if last.is_empty() => last.push_str(&l),
            Some(last) => last.push_str(&format!(" · {l}")),
            None => lines.push(l),
        }
    }
    for (n, line) in lines.iter().enumerate() {
        s.text([MARGIN, height + 14.0 * n as f64], line, &Style::new().fill(look.ink_soft).size(11.0));
    }
    Some(s.done(width, height + 14.0 * lines.len() as f64, &format!("{}: pieces stepped toward the viewer, {}", a.name, a.sentence)))
}

/// Pieces numbered in the order they go on.
fn numbers<'a>(a: &DetailAccount, input: &'a LapsInput) -> BTreeMap<&'a str, usize> {
    let order: Vec<String> = a.order.split(", then ").map(|w| w.replace(' ', "-")).collect();
    let place = |id: &str| order.iter().position(|o| o == id).unwrap_or(order.len());
    let mut ids: Vec<&str> = input.pieces.iter().map(|p| p.id.as_str()).collect();
    ids.sort_by_key(|id| place(id));
    ids.into_iter().enumerate().map(|(n, id)| (id, n + 1)).collect()
}

fn detail(s: &mut Svg, v: &View<'_>, a: &DetailAccount, ways: &[&Strip], names: &BTreeMap<&str, usize>, choose: bool, look: Look) {
    let i = v.input;
    // The wood, with its hole.
    let mut wood = vec![v.ring([i.x0, i.x1, i.bottom, i.top], 0)];
    wood.extend(i.opening.map(|o| v.ring([o.x0, o.x1, o.z0, o.z1], 0)));
    s.path(&wood, &Style::new().fill(look.noted).holes().stroke(look.ink_soft, 1.0));
    water(s, v, ways, 0, look);
    for layer in 1..=v.most {
        for p in i.pieces.iter().filter(|p| v.of(p) == layer) {
            let ring = v.ring([p.x0, p.x1, p.z0, p.z1], layer);
            let style = Style::new().fill(fill(p.kind, look)).solid(0.74).stroke(look.ink, 1.2);
            s.path(std::slice::from_ref(&ring), &style.when(p.kind == PieceKind::Tape, |s| s.dash("4 2")));
            if p.drip {
                s.line(ring[0], ring[1], &Style::new().stroke(look.ink, 3.0));
            }
            let number = names.get(p.id.as_str()).copied().unwrap_or(0);
            s.text([ring[3][0] + 3.0, ring[3][1] + 10.0], &number.to_string(), &Style::new().fill(look.ink_soft).size(10.0));
        }
        water(s, v, ways, layer, look);
    }
    ends(s, v, ways, look);
    if !choose {
        return;
    }
    // What can be turned: the band where two stacked pieces overlap, on the outer one.
    for l in a.laps.iter().filter(|l| l.shingled.is_some()) {
        let find = |id: &str| i.pieces.iter().find(|p| p.id == id);
        let (Some(o), Some(n)) = (find(&l.outer), find(&l.inner)) else { continue };
        let band = v.ring([o.x0.max(n.x0), o.x1.min(n.x1), o.z0.max(n.z0), o.z1.min(n.z1)], v.of(o));
        let stroke = if l.turned || l.shingled == Some(false) { look.copper } else { "transparent" };
        s.group(&Style::button("data-piece", &format!("{}>{}", l.outer, l.inner), &format!("Turn: {}", l.words)), |s| {
            s.path(&[band], &Style::new().unseen().stroke(stroke, 1.5));
        });
    }
}

/// The parts of all ways that run on one layer; those on the wood and in the opening are on layer nought.
fn water(s: &mut Svg, v: &View<'_>, ways: &[&Strip], layer: usize, look: Look) {
    let on = |id: &str| v.layer.get(id).copied().unwrap_or(0);
    for w in ways {
        for (n, p) in w.path.windows(2).enumerate() {
            if on(&p[0].on) != layer {
                continue;
            }
            let hidden = !p[0].behind.is_empty();
            let style = Style::new().stroke(look.water, if hidden { 1.6 } else { 2.4 }).round().when(hidden, |s| s.dash("1 4"));
            s.line(v.at(p[0].x, p[0].z, layer), v.at(p[1].x, p[1].z, layer), &style);
            // From sheet to sheet: a short step inward or outward.
            let next = on(&p[1].on);
            if next != layer && n + 2 < w.path.len() {
                let (from, to) = (v.at(p[1].x, p[1].z, layer), v.at(p[1].x, p[1].z, next));
                s.line(from, to, &Style::new().stroke(look.water, 1.0).faint(0.45));
            }
        }
    }
}

/// Where each way ends: an arrow out, a disc where it is held, a cross where it gets in. Over everything, so that none is hidden.
fn ends(s: &mut Svg, v: &View<'_>, ways: &[&Strip], look: Look) {
    for w in ways {
        let Some(last) = w.path.last() else { continue };
        let [x, y] = v.at(last.x, last.z, v.layer.get(last.on.as_str()).copied().unwrap_or(0));
        if w.right {
            s.sign([x - 3.5, y], "l3.5 6l3.5 -6z", &Style::new().fill(look.water));
        } else if w.end == End::Held {
            s.circle([x, y], 4.5, &Style::new().fill(look.water));
        } else {
            s.sign([x - 4.0, y - 4.0], "l8 8m0 -8l-8 8", &Style::new().stroke(look.ink, 2.4).hollow());
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::wall::account::{WallInput, wall_account};

    const CROSS: &str = "l8 8m0 -8l-8 8";

    fn drawn(faults: &str) -> String {
        let walls =
            format!(r#"{{"walls":{{"details":[{{"id":"L1","template":"window","face":"rear","at":"<W3>","faults":[{faults}]}}]}}}}"#);
        let input: WallInput = serde_json::from_str(&walls).unwrap();
        laps_svg(&wall_account(&input).details[0], Look::PRINT).unwrap()
    }

    /// Water that gets in is a cross by shape, not by colour; what is right has none, and sound seals stand left of aged ones.
    #[test]
    fn a_cross_stands_where_water_gets_in_and_nowhere_else() {
        assert!(!drawn("").contains(CROSS));
        let sealed = drawn(r#""head-reversed""#);
        let first = sealed.find(CROSS).expect("aged, it gets in");
        assert!(sealed[..first].contains("Seals sound: none gets in"), "not while the tape holds");
        let open = drawn(r#""head-untaped""#);
        assert!(open.find(CROSS) < open.find("Seals sound: water gets in"), "and left as well without tape");
        assert!(!sealed.contains("<W3>") && sealed.contains("&lt;W3&gt;"), "a place is text");
    }

    /// Each piece lies a sheet above whatever it lies over.
    #[test]
    fn sheets_are_stepped_in_their_order() {
        let walls = r#"{"walls":{"details":[{"id":"L1","template":"sidewall-kickout","face":"rear"}]}}"#;
        let input: WallInput = serde_json::from_str(walls).unwrap();
        let a = wall_account(&input);
        let detail = a.details[0].input.as_ref().unwrap();
        let layer = layers(detail);
        assert!(detail.over.len() > 10 && detail.over.iter().all(|o| layer[o.outer.as_str()] > layer[o.inner.as_str()]));
    }
}
