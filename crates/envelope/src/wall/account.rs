//! Everything that follows from walls as they were met: each detail with its water, what must not be covered, masonry, cracks.

use super::cracks::{self, CrackAccount, CrackReader};
use super::floor::{FloorPlane, plane};
use super::laps::{End, LapMending, LapVerdict, LapsInput, LapsOut, Over, PathPoint, PieceKind, SealKind, Strip, laps};
use super::matrix::{self, DoNotCover, Matrix, RowShare};
use super::record::{DetailRecord, MasonryRecord, Walls};
use super::templates::{FORMS, Fault, Form, build};
use crate::measure::Units;
use crate::practice::Practice;
use crate::rain::account::Offered;
use crate::roof::record::metres;
use crate::round::Note;
use crate::site::{Face, Item, Place, Zone};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What goes into the account of walls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WallInput {
    /// As they were met.
    pub walls: Walls,
    /// Openings as they were counted on the round.
    #[serde(default)]
    pub items: Vec<Item>,
    /// Notes of the round.
    #[serde(default)]
    pub notes: Vec<Note>,
    /// How long each face is, metres, as far as the roof tells.
    #[serde(default)]
    pub face_m: BTreeMap<Face, f64>,
    /// Clearances that Ground worked out, in its words.
    #[serde(default)]
    pub clearances: Vec<Clearance>,
    /// Heights out of Ground's level book, metres above its datum; none while the book misses by more than it may.
    #[serde(default)]
    pub booked: Vec<Booked>,
    /// The practice.
    #[serde(default)]
    pub practice: Practice,
}

/// A height out of the level book.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Booked {
    /// The point, as the book names it.
    pub point: String,
    /// Its height, metres.
    pub height_m: f64,
}

/// A height that can be taken for the floor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BookedShown {
    /// The point, as the book names it.
    pub point: String,
    /// Its height as it would be typed.
    pub typed: String,
}

/// How far cladding stands over the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Clearance {
    /// The face.
    pub face: Face,
    /// From its left end, metres.
    pub station_m: f64,
    /// Over the ground, metres.
    pub stands_m: f64,
    /// What the practice asks, metres.
    pub asked_m: f64,
}

/// A lap that can be turned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LapShown {
    /// The piece outside.
    pub outer: String,
    /// The piece inside.
    pub inner: String,
    /// "upper sheet over window, 100 mm".
    pub words: String,
    /// The higher one is outside; none for a lap that runs sideways.
    pub shingled: Option<bool>,
    /// Shorter than the practice asks.
    pub short: bool,
    /// Turned by hand.
    pub turned: bool,
}

/// A set of laps to turn, in words.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MendingShown {
    /// What to do.
    pub words: String,
    /// The wall must be opened for it.
    pub opens_wall: bool,
}

/// A way in, for tracing: where water gets through and with what.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WayIn {
    /// The detail.
    pub detail: String,
    /// Where.
    pub place: Place,
    /// "Head of W2".
    pub words: String,
    /// The condition it is noted as.
    pub condition: String,
    /// Share of the width that lets water in, every seal sound.
    pub sound: f64,
    /// The same with aged seals.
    pub aged: f64,
    /// From where the wind has to come for it.
    pub wind: super::record::Wind,
}

/// A detail, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DetailAccount {
    /// Which.
    pub id: String,
    /// "Flanged window, front W2".
    pub name: String,
    /// Where.
    pub place: Place,
    /// The pieces as they lie, for the drawing; none where a size cannot be read.
    pub input: Option<LapsInput>,
    /// Why it could not be worked out.
    pub problem: Option<String>,
    /// What is to be said of it.
    pub verdict: Option<LapVerdict>,
    /// Share of the width that lets water in, every seal sound.
    pub sound: f64,
    /// The same with aged seals.
    pub aged: f64,
    /// The verdict in a sentence, with the way of the water.
    pub sentence: String,
    /// Seals of which each alone keeps water out.
    pub rests_on: Vec<String>,
    /// Its laps.
    pub laps: Vec<LapShown>,
    /// What would end it.
    pub mending: Vec<MendingShown>,
    /// In which order the pieces go on.
    pub order: String,
    /// A piece that was put on too early.
    pub too_early: Option<String>,
    /// What may be noted.
    pub offered: Option<Offered>,
    /// What is handed on for tracing.
    pub way_in: Option<WayIn>,
    /// Water's ways: for sound and for aged seals, one for each way that differs.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub ways: [Vec<Strip>; 2],
}

/// Masonry, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MasonryAccount {
    /// Which.
    pub id: String,
    /// Weeps it needs.
    pub needs: u32,
    /// Weeps that are missing.
    pub missing: u32,
    /// The sum of the weeps.
    pub weeps: String,
    /// What is to be said of its joints.
    pub joints: String,
    /// What else is to be said.
    pub more: Vec<String>,
    /// What may be noted.
    pub offered: Vec<Offered>,
}

/// Floor heights, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FloorAccount {
    /// The plane; none while there are too few heights.
    pub plane: Option<FloorPlane>,
    /// In words, beside the practice's limits.
    pub sentence: String,
    /// Within both limits.
    pub right: bool,
}

/// A template as the page offers it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FormShown {
    /// Which.
    pub template: super::templates::Template,
    /// What it is called.
    pub name: String,
    /// Its sizes.
    pub sizes: Vec<SizeShown>,
    /// Its usual faults.
    pub faults: Vec<FaultShown>,
}

/// A size as the page asks it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SizeShown {
    /// Its name.
    pub key: String,
    /// As it is asked for.
    pub words: String,
    /// While nothing is typed, metres.
    pub usual_m: f64,
}

/// A fault as the page offers it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FaultShown {
    /// Its name.
    pub key: String,
    /// As it is said.
    pub words: String,
}

/// Everything that follows from walls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WallAccount {
    /// Details.
    pub details: Vec<DetailAccount>,
    /// Openings and faces by checks.
    pub matrix: Matrix,
    /// What must be seen again before it is closed up.
    pub do_not_cover: Vec<DoNotCover>,
    /// Rows of fasteners.
    pub rows: Vec<RowShare>,
    /// What may be noted of rows.
    pub offered_rows: Vec<Offered>,
    /// Masonry.
    pub masonry: Vec<MasonryAccount>,
    /// Clearances, in words, short ones first.
    pub clearances: Vec<String>,
    /// Cracks.
    pub cracks: Vec<CrackAccount>,
    /// All signs beside four movements; none while there is no sign.
    pub reader: Option<CrackReader>,
    /// The floor; none while no height was read.
    pub floor: Option<FloorAccount>,
    /// Heights of the level book that are not among the floor's.
    pub booked: Vec<BookedShown>,
    /// What the details hand on for tracing.
    pub ways_in: Vec<WayIn>,
    /// What can be chosen.
    pub forms: Vec<FormShown>,
}

/// Works walls out.
pub fn wall_account(i: &WallInput) -> WallAccount {
    let details: Vec<DetailAccount> = i.walls.details.iter().map(|d| detail_account(d, i)).collect();
    let u = i.practice.units;
    let floor = (!i.walls.floor.is_empty()).then(|| floor_account(i));
    let mut do_not_cover = matrix::do_not_cover(&i.walls, &i.items);
    for (d, a) in i.walls.details.iter().zip(&details).filter(|(d, a)| !d.covered && a.verdict.is_some_and(|v| v != LapVerdict::Right)) {
        let key = format!("detail.{}", d.id);
        do_not_cover.push(DoNotCover {
            what: a.name.clone(),
            text: a.verdict.map(|v| v.words().to_owned()).unwrap_or_default(),
            condition: d.template.form().condition.into(),
            place: a.place.clone(),
            again: i.walls.again.get(&key).copied(),
            noted: false,
            key,
        });
    }
    for e in &mut do_not_cover {
        e.noted = i.notes.iter().any(|n| n.condition.as_deref() == Some(&e.condition) && same_place(&n.place, &e.place));
    }
    let mut clearances: Vec<&Clearance> = i.clearances.iter().collect();
    clearances.sort_by(|a, b| (a.stands_m - a.asked_m).total_cmp(&(b.stands_m - b.asked_m)));
    WallAccount {
        matrix: matrix::matrix(&i.walls, &i.items),
        do_not_cover,
        rows: matrix::rows(&i.walls),
        offered_rows: offered_rows(i),
        masonry: i.walls.masonry.iter().filter_map(|m| masonry(m, i)).collect(),
        clearances: clearances
            .into_iter()
            .map(|c| {
                let place = format!("{}, {} from its left end", c.face.name(), u.length(c.station_m, 1));
                let (stands, asked) = (u.depth(c.stands_m), u.depth(c.asked_m));
                if c.stands_m < c.asked_m {
                    format!("{place}: the cladding stands {stands} over the ground; {asked} are asked.")
                } else {
                    format!("{place}: {stands} clear, as asked ({asked}).")
                }
            })
            .collect(),
        cracks: i.walls.cracks.iter().filter_map(|c| cracks::crack(c, &|m| u.fine(m), &|m| u.length(m, 2))).collect(),
        reader: cracks::read_all(&i.walls.cracks, &i.walls.signs, floor.as_ref().and_then(|f| f.plane.as_ref()), &|f| {
            i.face_m.get(&f).copied()
        }),
        floor,
        booked: i
            .booked
            .iter()
            .filter(|b| i.walls.floor.iter().all(|p| p.id != b.point))
            .map(|b| BookedShown { point: b.point.clone(), typed: u.first().typed_height(b.height_m) })
            .collect(),
        ways_in: details.iter().filter_map(|d| d.way_in.clone()).collect(),
        details,
        forms: FORMS.iter().map(shown).collect(),
    }
}

fn shown(f: &Form) -> FormShown {
    FormShown {
        template: f.template,
        name: f.name.into(),
        sizes: f.sizes.iter().map(|s| SizeShown { key: s.key.into(), words: s.words.into(), usual_m: s.usual_m }).collect(),
        faults: f.faults.iter().map(|f| FaultShown { key: f.key.into(), words: f.words.into() }).collect(),
    }
}

/// The same face and height, and the same opening where one is named.
fn same_place(a: &Place, b: &Place) -> bool {
    a.face == b.face && a.zone == b.zone && (b.station.is_none() || a.station == b.station)
}

/// The name of a piece in a sentence.
fn plain(id: &str) -> String {
    id.replace('-', " ")
}

/// A detail as it lies: its template at its sizes, with its faults, and the laps that were turned.
///
/// # Errors
/// A size that cannot be read.
pub fn built(d: &DetailRecord, practice: &Practice) -> Result<LapsInput, String> {
    let form = d.template.form();
    let mut sizes = BTreeMap::new();
    for s in form.sizes {
        let typed = d.sizes.get(s.key).map(|t| t.trim()).filter(|t| !t.is_empty());
        sizes.insert(s.key, typed.map_or(Ok(s.usual_m), |t| s.read(t))?);
    }
    let mut input = build(form, &|key| sizes.get(key).copied().unwrap_or(1.0), &|fault| d.faults.iter().any(|f| f == fault));
    if d.wind.drift() != 0.0 {
        input.drift = d.wind.drift();
    }
    for t in &d.turned {
        turn(&mut input.over, &t.outer, &t.inner);
    }
    if d.covered {
        input.covered = input.over.clone();
    }
    let there = |id: &String| input.pieces.iter().any(|p| p.id == *id);
    let installed: Vec<String> = d.installed.iter().filter(|id| there(id)).cloned().collect();
    if !installed.is_empty() {
        input.installed = Some(installed);
    }
    input.lap_minimum.insert(PieceKind::Barrier, practice.rule("lap-minimum").figure());
    Ok(input)
}

/// Puts one piece outside another, as a hand does it: the inner one is tucked under, and with it goes under whatever lies over the
/// outer one there. Otherwise the three would lie over each other in a ring.
fn turn(over: &mut [Over], outer: &str, inner: &str) {
    let mut under = vec![outer.to_owned()];
    let mut done: Vec<String> = vec![];
    while let Some(top) = under.pop() {
        if done.contains(&top) {
            continue;
        }
        if let Some(o) = over.iter_mut().find(|o| o.outer == inner && o.inner == top) {
            std::mem::swap(&mut o.outer, &mut o.inner);
        } else if top == outer && !over.iter().any(|o| o.outer == outer && o.inner == inner) {
            // The two do not overlap: there is nothing to turn.
            return;
        }
        // What lies over it, and still under the piece that was tucked in.
        let above = over.iter().filter(|o| o.inner == top).map(|o| o.outer.clone());
        let above: Vec<String> = above.filter(|a| over.iter().any(|o| o.outer == inner && o.inner == *a)).collect();
        under.extend(above);
        done.push(top);
    }
}

fn detail_account(d: &DetailRecord, i: &WallInput) -> DetailAccount {
    let form = d.template.form();
    let at = if d.at.trim().is_empty() { String::new() } else { format!(" {}", d.at.trim()) };
    let name = format!("{}, {}{at}", form.name, d.face.name().to_lowercase());
    let place = Place { station: (!at.is_empty()).then(|| d.at.trim().to_owned()), ..Place::outside(d.face, form.zone) };
    let mut out = DetailAccount {
        id: d.id.clone(),
        name,
        place,
        input: None,
        problem: None,
        verdict: None,
        sound: 0.0,
        aged: 0.0,
        sentence: String::new(),
        rests_on: vec![],
        laps: vec![],
        mending: vec![],
        order: String::new(),
        too_early: None,
        offered: None,
        way_in: None,
        ways: [vec![], vec![]],
    };
    let input = match built(d, &i.practice) {
        Ok(input) => input,
        Err(e) => {
            out.problem = Some(e);
            return out;
        }
    };
    match laps(&input) {
        Err(e) => {
            out.problem = Some(e.to_string());
            out.laps = laps_shown(&input, None, d, i.practice.units);
        }
        Ok(r) => fill(&mut out, &input, &r, d, i),
    }
    out.input = Some(input);
    out
}

fn fill(out: &mut DetailAccount, input: &LapsInput, r: &LapsOut, d: &DetailRecord, i: &WallInput) {
    let form = d.template.form();
    out.verdict = Some(r.verdict);
    (out.sound, out.aged) = (r.sound.share_in, r.aged.share_in);
    out.rests_on = if r.verdict == LapVerdict::OnlyWhileSealed { rests_on(input) } else { vec![] };
    out.sentence = sentence(r, &out.rests_on);
    out.laps = laps_shown(input, Some(r), d, i.practice.units);
    out.mending = in_words(&r.mending, r, input);
    out.order = if r.order.is_empty() { String::new() } else { r.order.iter().map(|p| plain(p)).collect::<Vec<_>>().join(", then ") };
    out.too_early = r.installed_too_early.as_ref().map(|p| format!("The {} was put on before what it lies over.", plain(p)));
    out.ways = [ways(&r.sound.strips), ways(&r.aged.strips)];
    if r.verdict != LapVerdict::Right {
        let at = if d.at.trim().is_empty() { String::new() } else { format!("{}: ", d.at.trim()) };
        let faults: Vec<&Fault> = form.faults.iter().filter(|f| d.faults.iter().any(|k| k == f.key)).collect();
        let what = if faults.is_empty() { form.name.to_lowercase() } else { faults.iter().map(|f| f.words).collect::<Vec<_>>().join("; ") };
        let rests = if r.verdict == LapVerdict::Wrong {
            "wrong with every seal sound".to_owned()
        } else if out.rests_on.is_empty() {
            "right only while the seals hold".to_owned()
        } else {
            format!("right only while the seal at the {} holds", out.rests_on.join(" and at the "))
        };
        let line = format!("{at}{what}: {rests}");
        let condition = if faults.iter().any(|f| PAN_FAULTS.contains(&f.key)) { "sill-pan-corner-loose" } else { form.condition };
        out.offered = Some(Offered { condition: condition.into(), line, place: out.place.clone(), limitation: false });
        out.way_in = Some(WayIn {
            detail: d.id.clone(),
            place: out.place.clone(),
            words: out.name.clone(),
            condition: condition.into(),
            sound: out.sound,
            aged: out.aged,
            wind: d.wind,
        });
    }
}

/// Faults of an opening that are its pan's, whatever else stands in it.
const PAN_FAULTS: [&str; 5] = ["frame-leaks", "pan-corner", "no-pan", "no-end-dams", "foot-sealed"];

/// The ageing seals of which each alone keeps water out: without it, and with all others sound, some gets in.
fn rests_on(input: &LapsInput) -> Vec<String> {
    let ageing = (0..input.seals.len()).filter(|k| input.seals[*k].kind != SealKind::Adhered);
    ageing
        .filter(|k| {
            let mut without = input.clone();
            let gone = without.seals.remove(*k);
            // The same edge may be closed twice; then neither alone is what it rests on.
            let twice = without.seals.iter().any(|s| s.piece == gone.piece && s.edge == gone.edge);
            !twice && laps(&without).is_ok_and(|r| r.sound.strips.iter().any(|s| !s.right))
        })
        .map(|k| format!("{} of the {}", input.seals[k].edge.words(), plain(&input.seals[k].piece)))
        .collect()
}

/// The widest of the strips that do not go right.
fn worst(strips: &[Strip]) -> Option<&Strip> {
    strips.iter().filter(|s| !s.right).max_by(|a, b| (a.x_to - a.x_from).total_cmp(&(b.x_to - b.x_from)))
}

fn percent(share: f64) -> String {
    match 100.0 * share {
        p if p < 1.0 => "under 1 %".to_owned(),
        p => format!("{p:.0} %"),
    }
}

fn sentence(r: &LapsOut, rests_on: &[String]) -> String {
    match r.verdict {
        LapVerdict::Right => "Right: every drop runs off or drains, with aged seals as well.".to_owned(),
        LapVerdict::OnlyWhileSealed => {
            let seals =
                if rests_on.is_empty() { "its seals hold".to_owned() } else { format!("the {} stays closed", rests_on.join(" or the ")) };
            let way = worst(&r.aged.strips).map(|s| way(&s.path, s.end)).unwrap_or_default();
            format!("Right only while {seals}. Aged, water gets in over {} of its width: {way}.", percent(r.aged.share_in))
        }
        LapVerdict::Wrong => {
            let way = worst(&r.sound.strips).map(|s| way(&s.path, s.end)).unwrap_or_default();
            format!("Wrong with every seal sound: water gets in over {} of its width: {way}.", percent(r.sound.share_in))
        }
    }
}

/// The way of a drop in words: what it runs on, what it gets behind, how it ends.
fn way(path: &[PathPoint], end: End) -> String {
    let mut said: Vec<String> = vec![];
    let on = |p: &PathPoint| match p.on.as_str() {
        "sheathing" => "bare sheathing".to_owned(),
        id => format!("the {}", plain(id)),
    };
    if let Some(first) = path.first() {
        said.push(if first.on == "opening" { "it falls into the opening".into() } else { format!("it runs down {}", on(first)) });
    }
    for w in path.windows(2) {
        let (before, now) = (&w[0], &w[1]);
        if now.on == "opening" {
            if before.on != "opening" {
                said.push("falls into the opening".into());
            }
            continue;
        }
        let new: Vec<String> = now.behind.iter().filter(|b| !before.behind.contains(b)).map(|b| format!("the {}", plain(b))).collect();
        match (now.on != before.on, new.is_empty()) {
            (true, true) => said.push(format!("comes to {}", on(now))),
            (true, false) => said.push(format!("comes to {} behind {}", on(now), new.join(" and "))),
            (false, false) => said.push(format!("gets behind {}", new.join(" and "))),
            (false, true) => {}
        }
    }
    said.push(end.words().to_owned());
    let last = said.pop().unwrap_or_default();
    if said.is_empty() { last } else { format!("{} and {last}", said.join(", ")) }
}

/// One strip for each way that differs from its neighbour's: what the drawing shows.
fn ways(strips: &[Strip]) -> Vec<Strip> {
    let mut out: Vec<Strip> = vec![];
    let same = |a: &Strip, b: &Strip| {
        let of = |s: &Strip| s.path.iter().map(|p| (p.on.clone(), p.behind.clone())).collect::<Vec<_>>();
        a.end == b.end && a.wets == b.wets && of(a) == of(b)
    };
    for s in strips {
        match out.last_mut() {
            Some(l) if same(l, s) => {
                // The wider of two that do the same is shown, over the width of both.
                if s.x_to - s.x_from > l.x_to - l.x_from {
                    l.path.clone_from(&s.path);
                }
                l.x_to = s.x_to;
            }
            _ => out.push(s.clone()),
        }
    }
    out
}

fn laps_shown(input: &LapsInput, r: Option<&LapsOut>, d: &DetailRecord, u: Units) -> Vec<LapShown> {
    let find = |id: &str| input.pieces.iter().find(|p| p.id == id);
    let mut out: Vec<LapShown> = input
        .over
        .iter()
        .filter_map(|o| {
            let (outer, inner) = (find(&o.outer)?, find(&o.inner)?);
            let stacked = |up: &str, low: &str| r.and_then(|r| r.laps.iter().find(|l| l.upper == up && l.lower == low));
            let lap = stacked(&o.outer, &o.inner).or_else(|| stacked(&o.inner, &o.outer));
            let how = match lap {
                Some(l) => format!(", {}{}", u.depth(l.lap_m), if l.short { ", short" } else { "" }),
                None => String::new(),
            };
            let turned = d.turned.iter().any(|t| t.outer == o.outer && t.inner == o.inner);
            Some(LapShown {
                words: format!("{} over {}{how}", plain(&outer.id), plain(&inner.id)),
                outer: o.outer.clone(),
                inner: o.inner.clone(),
                shingled: lap.map(|l| l.shingled),
                short: lap.is_some_and(|l| l.short),
                turned,
            })
        })
        .collect();
    // Stacked laps first: those are the ones that shed water.
    out.sort_by_key(|l| l.shingled.is_none());
    out
}

fn in_words(mending: &[LapMending], r: &LapsOut, input: &LapsInput) -> Vec<MendingShown> {
    // Turning a lap so that the lower piece lies outside ends a leak on paper only: those come last.
    let kind = |id: &str| input.pieces.iter().find(|p| p.id == id).map(|p| p.kind);
    // A sheet is never put on over the boards or the framing it is to keep dry: no mending, though it would shed water.
    let can_be = |m: &&LapMending| {
        let dressed = |k: Option<PieceKind>| matches!(k, Some(PieceKind::Cladding | PieceKind::Trim | PieceKind::Frame));
        !m.reverse.iter().any(|o| kind(&o.outer) == Some(PieceKind::Barrier) && dressed(kind(&o.inner)))
    };
    let upside_down = |m: &LapMending| m.reverse.iter().any(|o| r.laps.iter().any(|l| l.upper == o.inner && l.lower == o.outer));
    let mut sets: Vec<&LapMending> = mending.iter().filter(can_be).filter(|m| !upside_down(m)).collect();
    if sets.is_empty() {
        sets = mending.iter().filter(can_be).collect();
    }
    sets.iter()
        .map(|m| {
            let each: Vec<String> = m.reverse.iter().map(|o| format!("the {} over the {}", plain(&o.outer), plain(&o.inner))).collect();
            let opens = if m.opens_wall { " The wall must be opened for it." } else { "" };
            MendingShown { words: format!("Lap {}.{opens}", each.join(", and ")), opens_wall: m.opens_wall }
        })
        .collect()
}

fn offered_rows(i: &WallInput) -> Vec<Offered> {
    let rows = matrix::rows(&i.walls);
    i.walls
        .fasteners
        .iter()
        .zip(rows)
        .filter(|(f, _)| f.overdriven > 0)
        .map(|(f, r)| {
            let row = if f.row.trim().is_empty() { String::new() } else { format!(" {}", f.row.trim()) };
            let under = if f.under_window { ", under a window" } else { "" };
            let line = format!("fasteners{row}{under}: {}", r.words);
            Offered { condition: "wrb-fastener-overdriven".into(), line, place: Place::outside(f.face, Zone::UpperWall), limitation: false }
        })
        .collect()
}

fn masonry(m: &MasonryRecord, i: &WallInput) -> Option<MasonryAccount> {
    let u = i.practice.units;
    let length = metres("The length", &m.length).ok()?;
    let apart = i.practice.rule("weep-spacing").figure();
    let gaps = (length / apart - 1e-9).ceil().max(1.0) as u32;
    let needs = gaps + 1;
    let missing = needs.saturating_sub(m.weeps);
    let sum = format!("{} at most {} apart: {gaps} spaces, so {needs} weeps; {} are open", u.length(length, 2), u.depth(apart), m.weeps);
    let weeps = if missing > 0 { format!("{sum}, {missing} are missing.") } else { format!("{sum}: enough.") };
    let name = if m.name.trim().is_empty() { m.id.clone() } else { m.name.trim().to_owned() };
    let base = Place::outside(m.face, Zone::Base);
    let mut offered = vec![];
    let mut offer = |condition: &str, line: String, zone: Zone| {
        offered.push(Offered { condition: condition.into(), line, place: Place { zone, ..base.clone() }, limitation: false });
    };
    if m.weeps == 0 {
        offer("brick-weeps-absent", format!("{name}: no open weep over {}", u.length(length, 1)), Zone::Base);
    } else if missing > 0 {
        offer("brick-weeps-absent", format!("{name}: {} of {needs} weeps open", m.weeps), Zone::Base);
    } else {
        offer("brick-weeps-ok", format!("{name}: {} weeps open over {}", m.weeps, u.length(length, 1)), Zone::Base);
    }
    let mut more = vec![];
    if m.stray_holes > 0 {
        more.push(format!("{} open holes that are no weeps: seal those, never the weeps.", m.stray_holes));
        offer("brick-stray-hole", format!("{name}: {} stray holes", m.stray_holes), Zone::UpperWall);
    }
    if m.painted {
        more.push("Painted: it dries slower, and weeps are easily painted shut.".to_owned());
    }
    let mut joints: Vec<f64> = m.joints().filter_map(Result::ok).collect();
    joints.sort_by(f64::total_cmp);
    let rule = i.practice.rule("movement-joint");
    let (said, absent) = joints_said(length, &joints, rule.figure(), rule.named("corner").unwrap_or(0.0), u);
    if absent {
        offer("brick-joint-absent", format!("{name}: {}", said.trim_end_matches('.')), Zone::UpperWall);
    }
    let joints = format!("{said} ({})", rule.words());
    Some(MasonryAccount { id: m.id.clone(), needs, missing, weeps, joints, more, offered })
}

/// What movement joints a wall has against what it needs; whether some are missing. `apart` nought: none are asked for.
fn joints_said(length: f64, joints: &[f64], apart: f64, corner: f64, u: Units) -> (String, bool) {
    if apart <= 0.0 || length <= apart + 1e-9 {
        return ("No movement joint is needed over this length.".to_owned(), false);
    }
    let mut ends = vec![0.0];
    ends.extend_from_slice(joints);
    ends.push(length);
    let widest = ends.windows(2).map(|w| w[1] - w[0]).fold(0.0, f64::max);
    let first = joints.first().map_or(length, |j| j.min(length - joints.last().copied().unwrap_or(*j)));
    if joints.is_empty() {
        (format!("No movement joint over {}; at most {} are usual.", u.length(length, 1), u.length(apart, 1)), true)
    } else if widest > apart + 1e-9 {
        (format!("{} without a joint at its widest; at most {} are usual.", u.length(widest, 1), u.length(apart, 1)), true)
    } else if corner > 0.0 && first > corner + 1e-9 {
        (format!("The joint nearest to a corner is {} from it; {} are usual.", u.length(first, 1), u.length(corner, 1)), true)
    } else {
        (format!("Joints at most {} apart: enough.", u.length(widest, 1)), false)
    }
}

fn floor_account(i: &WallInput) -> FloorAccount {
    let u = i.practice.units;
    let p = match plane(&i.walls.floor) {
        Ok(p) => p,
        Err(e) => return FloorAccount { plane: None, sentence: e, right: true },
    };
    let (tilt, bend) = (i.practice.rule("floor-tilt"), i.practice.rule("floor-bend"));
    let tilted = p.tilt_pct > 100.0 * tilt.figure() + 1e-9;
    let bent = p.bend_one_in.is_some_and(|n| 1.0 / n > bend.figure() + 1e-12);
    let bends = match (p.bend_one_in, &p.bends_between) {
        (Some(n), Some([a, b])) => format!(
            "; beside its plane it bends by 1/{n:.0} of the distance between {a} and {b}{}",
            if bent { ", more than the practice allows" } else { "" }
        ),
        _ => String::new(),
    };
    let sentence = format!(
        "The floor tilts {:.2} %{}; it departs from its plane by {} at {}{bends}. Limits: {}; {}.",
        p.tilt_pct,
        if tilted { ", more than the practice allows" } else { "" },
        u.depth(p.departure_m.abs()),
        p.departs_at,
        tilt.words(),
        bend.words()
    );
    FloorAccount { right: !tilted && !bent, plane: Some(p), sentence }
}
