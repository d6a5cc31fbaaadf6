//! The building over the years: its visits side by side, what was read at each, what keeps coming back, what to look after and to put
//! by; and how a report stands before it goes out.

use crate::{Case, JobView};
use envelope::finding::{Finding, ReportPart, Urgency};
use envelope::ground::record::{BookLine, BookRecord, Ground};
use envelope::job::{Brief, Job, VisitKind};
use envelope::moisture::record::Moisture;
use envelope::rain::record::Rainwater;
use envelope::roof::access::capital;
use envelope::roof::record::{FittingKind, Said};
use envelope::round::NoteKind;
use envelope::site::ItemKind;
use envelope::wall::record::Walls;
use envelope::years::again::{OldPicture, ReturnAccount, ReturnKept, ReturnLine, SeriesValue, return_account};
use envelope::years::building::{Building, PlaceHistory, PlaceSeen, comes_back, place_history};
use envelope::years::leaving::{DUE_DAYS, DueAccount, MissingThing, due_words};
use envelope::years::reserve::{ReserveInput, ReserveOut, ReserveThing, reserve};
use envelope::years::upkeep::{UpkeepTask, upkeep};
use jiff::ToSpan;
use jiff::civil::Date;
use ledger::{Change, Entity, Kind, LedgerError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// Figures of a visit that can be read again at the next.
pub fn series(case: &Case) -> Vec<SeriesValue> {
    let u = case.practice().units;
    let mut out = vec![];
    let visit = case.brief().visited_on;
    let mut put = |kind: &str, name: String, value: f64, words: String, on: Option<Date>| {
        out.push(SeriesValue { kind: kind.to_owned(), name, value, words, on });
    };
    let whole = case.whole();
    if whole.walls.is_some() {
        for (c, a) in case.walls_kept().cracks.iter().zip(&case.walls().cracks) {
            if let Some(m) = a.widest_m {
                put("crack", format!("{}, {}", c.id, c.face.name().to_lowercase()), m, u.fine(m), c.readings.iter().map(|r| r.on).max());
            }
        }
    }
    if whole.ground.is_some() {
        let book = case.survey().account.book.iter().filter(|b| b.within_tolerance != Some(false));
        for p in book.flat_map(|b| &b.points) {
            put("height", p.point.clone(), p.adjusted_by_setup_m, u.fine(p.adjusted_by_setup_m), visit);
        }
    }
    if whole.moisture.is_some() {
        // Of several days the last one counts.
        let mut maps: Vec<_> = case.moisture().maps.iter().filter_map(|m| Some((m, m.map.as_ref()?))).collect();
        maps.sort_by_key(|(m, _)| m.on);
        let mut last: std::collections::BTreeMap<String, (f64, Date)> = Default::default();
        for (m, map) in maps {
            last.insert(m.name.clone(), (map.area_m2, m.on));
        }
        for (name, (area, on)) in last {
            put("moisture", format!("wet area, {name}"), area, u.area(area), Some(on));
        }
    }
    if whole.roof.is_some() {
        for c in &case.roof().coverings {
            put("life", c.name.clone(), f64::from(c.plan_year), format!("to be renewed in {}", c.plan_year), visit);
        }
    }
    out
}

/// The recommendations of a visit as lines to answer, as its report has them: what must not be covered, then the findings.
pub fn lines_to_answer(case: &Case) -> Vec<ReturnLine> {
    let view = case.view();
    let pictures = |note: &str| {
        view.pictures_of(note)
            .map(|p| OldPicture { id: p.id.clone(), hash: p.body.for_print().hash.clone(), caption: p.body.caption.clone() })
            .collect::<Vec<_>>()
    };
    let line = |id: String, number: usize, title: String| ReturnLine {
        id,
        number,
        title,
        place: String::new(),
        when: String::new(),
        step: String::new(),
        trade: String::new(),
        do_not_cover: false,
        hazard: false,
        then: vec![],
        became: None,
        said: String::new(),
        by: String::new(),
        now: None,
    };
    // What is only for the record recommends nothing.
    let asks = |f: &&Finding| f.section == ReportPart::Findings && f.in_report && f.urgency != Urgency::Record;
    let main = view.findings.iter().filter(asks);
    let mut out: Vec<ReturnLine> = main
        .filter_map(|f| {
            Some(ReturnLine {
                place: f.place.clone(),
                when: f.urgency_words.clone(),
                step: f.recommendation.clone().unwrap_or_default(),
                trade: f.trade.clone().unwrap_or_default(),
                hazard: f.hazard,
                then: pictures(&f.note_id),
                ..line(f.note_id.clone(), f.number?, f.title.clone())
            })
        })
        .collect();
    if case.whole().walls.is_some() {
        let first = out.len();
        for (k, e) in case.walls().do_not_cover.iter().filter(|e| e.again.is_none()).enumerate() {
            out.push(ReturnLine {
                when: "Before it is covered".into(),
                step: e.text.clone(),
                do_not_cover: true,
                ..line(format!("cover-{}", k + 1), first + k + 1, e.what.clone())
            });
        }
    }
    out
}

/// What a return visit starts with.
pub fn return_from(earlier: &Case) -> ReturnKept {
    ReturnKept {
        of: earlier.whole().job.id.clone(),
        of_name: earlier.whole().job.body.name.clone(),
        then_on: earlier.brief().visited_on,
        said_mended: None,
        why_now: String::new(),
        lines: lines_to_answer(earlier),
        then: series(earlier),
    }
}

/// A return visit as the changes that make it: the job, every recommendation as a line, and what does not change between visits.
///
/// # Errors
/// What the ledger refuses.
pub fn return_changes(earlier: &Case, new: &str) -> Result<Vec<Change>, LedgerError> {
    let whole = earlier.whole();
    let was = &whole.job.body;
    let brief = Brief {
        visit: VisitKind::ReturnVisit,
        visited_on: None,
        report_due: None,
        weather: String::new(),
        worries: String::new(),
        ..was.brief.clone()
    };
    let name = format!("{}, return", was.name);
    let job = Job { name, brief, closed_at: None, building: was.building.clone() };
    let mut out = vec![Change::put(new, None, &job)?, Change::put(&Kind::Return.only_id(new), None, &return_from(earlier))?];
    fn along<T: Entity>(out: &mut Vec<Change>, new: &str, kept: Option<&T>) -> Result<(), LedgerError> {
        if let Some(body) = kept {
            out.push(Change::put(&T::KIND.only_id(new), None, body)?);
        }
        Ok(())
    }
    along(&mut out, new, whole.roof.as_ref().map(|r| &r.body))?;
    along(&mut out, new, whole.rainwater.as_ref().map(|r| &r.body))?;
    along(&mut out, new, whole.walls.as_ref().map(|w| walls_again(&w.body)).as_ref())?;
    along(&mut out, new, whole.ground.as_ref().map(|g| ground_again(&g.body)).as_ref())?;
    along(&mut out, new, whole.moisture.as_ref().map(|m| Moisture { rooms: m.body.rooms.clone(), ..Moisture::default() }).as_ref())?;
    for i in &whole.items {
        let own = uuid::Uuid::new_v5(&uuid::Uuid::NAMESPACE_URL, format!("{new} {}", i.id).as_bytes());
        out.push(Change::put(&own.to_string(), None, &i.body)?);
    }
    Ok(out)
}

/// What is read of the walls again: cracks with the widths they had, so that a trend goes on. What was judged then is a line to answer.
fn walls_again(then: &Walls) -> Walls {
    Walls { cracks: then.cracks.clone(), ..Walls::default() }
}

/// The ground as it lies: soil, what stands nearby, lower edges of claddings. Heights are read anew, in a book with the same points in
/// the same order.
fn ground_again(then: &Ground) -> Ground {
    let line = |l: &BookLine| BookLine { point: l.point.clone(), ..BookLine::default() };
    let book = BookRecord { start: then.book.start.clone(), lines: then.book.lines.iter().map(line).collect() };
    Ground { spots: vec![], lines: vec![], book, ..then.clone() }
}

/// What a return visit comes to, with what is new at it; none when it is no return visit.
pub fn returned(case: &Case) -> Option<ReturnAccount> {
    let kept = &case.whole().again.as_ref()?.body;
    let fresh = case.view().findings.iter().filter(|f| f.section == ReportPart::Findings);
    let fresh: Vec<String> = fresh.map(|f| format!("{}, {}: {}.", f.title, f.place, f.urgency_words.to_lowercase())).collect();
    Some(return_account(kept, &series(case), &fresh))
}

/// The day a report is due: the brief's, or else a day after the visit.
pub fn due_on(brief: &Brief) -> Option<Date> {
    brief.report_due.or_else(|| brief.visited_on.and_then(|d| d.checked_add(DUE_DAYS.days()).ok()))
}

/// What is missing before a report may go out, and when it is due.
pub fn due(case: &Case) -> DueAccount {
    let view = case.view();
    let b = case.brief();
    let on = due_on(b);
    let (words, late) = due_words(case.today(), on);
    let mut missing = vec![];
    let mut miss = |words: String, note_id: Option<&str>, stops: bool| {
        missing.push(MissingThing { words, note_id: note_id.map(str::to_owned), stops })
    };
    let main: Vec<&Finding> = view.findings.iter().filter(|f| f.section == ReportPart::Findings).collect();
    for f in main.iter().filter(|f| f.hazard && f.recommendation.as_ref().is_none_or(|r| r.trim().is_empty())) {
        miss(format!("{} can hurt someone and has no next step. Say what is to be done.", f.title), Some(&f.note_id), true);
    }
    for w in &view.wanted_pictures {
        let name = main.iter().find(|f| f.note_id == w.note_id).map_or("A finding", |f| &f.title);
        miss(format!("{name}: {} is missing.", w.missing.replacen(" one", " picture", 1)), Some(&w.note_id), false);
    }
    if !view.closing.gap.sentence.is_empty() {
        miss(format!("{} Look, or say why not.", view.closing.gap.sentence), None, false);
    }
    if b.recipient.trim().is_empty() {
        miss("Nobody is named to receive it. Name them on the brief.".into(), None, true);
    }
    if b.inspector.trim().is_empty() {
        miss("Nobody is named as inspector. Name them on the brief.".into(), None, true);
    }
    if b.visited_on.is_none() {
        miss("The day of the visit is not known. Say it on the brief.".into(), None, true);
    }
    if let Some(a) = returned(case).filter(|a| a.open > 0) {
        miss(format!("{} recommendations of the earlier visit are not answered.", a.open), None, true);
    }
    for q in case
        .whole()
        .said
        .iter()
        .map(|s| &s.body)
        .filter(|s| s.kind == envelope::years::leaving::SaidKind::Question && s.answer.trim().is_empty())
    {
        miss(format!("A question waits for its answer: {}", q.text), q.note_id.as_deref(), false);
    }
    DueAccount { on, words, late, missing }
}

/// One entry of a building's time line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TimeEntry {
    /// The day; as near as it is known.
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<Date>,
    /// "Visit", "Repair", "Paper", "Storm", "Other", "Built".
    pub what: String,
    /// In words.
    pub text: String,
    /// More of it.
    pub more: String,
    /// The job, when it is a visit.
    pub job: Option<String>,
}

/// One figure at every visit it was read at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SeriesRow {
    /// "crack", "height", "moisture", "life".
    pub kind: String,
    /// What was read.
    pub name: String,
    /// Day, figure, and the figure in words, the oldest first.
    pub values: Vec<SeriesPoint>,
}

/// One reading of a series.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SeriesPoint {
    /// The day of the visit.
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<Date>,
    /// The figure, SI.
    pub value: f64,
    /// In the reader's units.
    pub words: String,
}

/// A building with everything that follows from its visits.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BuildingAccount {
    /// The oldest first.
    pub time_line: Vec<TimeEntry>,
    /// Figures that were read more than once, then the rest.
    pub series: Vec<SeriesRow>,
    /// Places, from the ridge down.
    pub places: Vec<PlaceHistory>,
    /// What keeps coming back.
    pub comes_back: Vec<String>,
    /// What to look after.
    pub upkeep: Vec<UpkeepTask>,
    /// What goes into the reserve: coverings and the building's own things.
    pub things: Vec<ReserveThing>,
    /// The reserve; none while it cannot be worked out.
    pub reserve: Option<ReserveOut>,
    /// Why not.
    pub problem: Option<String>,
}

/// What a paper says of the covering, and the day it is of.
fn paper(said: &Said) -> (Option<Date>, String) {
    match said {
        Said::Permit { on } => (Some(*on), "Permit".into()),
        Said::Invoice { on } => (Some(*on), "Invoice".into()),
        Said::Picture { on, there: true } => (Some(*on), "Picture, the covering is there".into()),
        Said::Picture { on, there: false } => (Some(*on), "Picture, the covering is not there yet".into()),
        Said::Stated { years, .. } => (None, format!("Said to be {years:.0} years old")),
        Said::Range { low_years, high_years } => (None, format!("Said to be {low_years:.0} to {high_years:.0} years old")),
    }
}

/// What the building has that asks for upkeep.
fn shapes(case: &Case) -> BTreeSet<&'static str> {
    let mut has = BTreeSet::new();
    let roof = case.roof_kept();
    if !roof.masses.is_empty() {
        has.insert("roof");
    }
    for f in &roof.fittings {
        match f.kind {
            FittingKind::Chimney => has.insert("chimney"),
            FittingKind::Skylight => has.insert("skylight"),
            FittingKind::Pipe => has.insert("pipe"),
            FittingKind::Curb => false,
        };
    }
    if case.whole().roof.is_some()
        && case.roof().shape.as_ref().is_some_and(|s| s.edge_totals.iter().any(|(k, l)| k.contains("valley") && l.true_m > 0.0))
    {
        has.insert("valley");
    }
    let gutters = !case.rainwater_kept().gutters.is_empty() && case.rainwater_kept() != Rainwater::default();
    if gutters || case.whole().items.iter().any(|i| i.body.kind == ItemKind::GutterRun) {
        has.insert("gutters");
    }
    if case.notes().any(|n| n.condition.as_deref().is_some_and(|c| c.contains("drain"))) {
        has.insert("yard-drain");
    }
    has
}

fn state(f: &Finding) -> String {
    match f.kind {
        NoteKind::Good => "done right".into(),
        _ => f.urgency_words.to_lowercase(),
    }
}

fn seen_at(case: &Case) -> Vec<PlaceSeen> {
    let view: &JobView = case.view();
    view.findings
        .iter()
        .filter(|f| matches!(f.section, ReportPart::Findings | ReportPart::Good))
        .filter_map(|f| {
            let n = &view.notes.iter().find(|n| n.id == f.note_id)?.body;
            Some(PlaceSeen {
                on: case.brief().visited_on,
                job: view.job.id.clone(),
                face: n.place.face,
                zone: n.place.zone,
                condition: n.condition.clone(),
                title: f.title.clone(),
                state: state(f),
                open: f.section == ReportPart::Findings,
            })
        })
        .collect()
}

/// Works a building out from its visits; `today` is the day it is asked on.
pub fn building_account(building: &Building, cases: &[std::sync::Arc<Case>], today: Date) -> BuildingAccount {
    let mut cases: Vec<&Case> = cases.iter().map(|c| &**c).collect();
    cases.sort_by_key(|c| (c.brief().visited_on, c.whole().changed_at.clone()));
    let mut time_line: Vec<TimeEntry> = vec![];
    let mut put = |on: Option<Date>, what: &str, text: String, more: String, job: Option<String>| {
        time_line.push(TimeEntry { on, what: what.to_owned(), text, more, job });
    };
    if let Some(y) = cases.iter().find_map(|c| c.brief().year_built) {
        put(Date::new(y as i16, 1, 1).ok(), "Built", format!("Built {y}"), String::new(), None);
    }
    for c in &cases {
        let v = c.view();
        let front = c.front();
        let more =
            returned(c).map_or_else(|| front.answer.iter().find(|s| s.contains("finding")).cloned().unwrap_or_default(), |r| r.sentence);
        put(c.brief().visited_on, "Visit", v.visit.clone(), more, Some(v.job.id.clone()));
    }
    for e in &building.events {
        put(Some(e.on), e.what.words(), e.text.clone(), String::new(), None);
    }
    // The last visit that measured the roof knows it best.
    let roofed = cases.iter().rev().find(|c| c.whole().roof.is_some());
    for p in roofed.iter().flat_map(|c| c.roof_kept().papers) {
        let (on, said) = paper(&p.said);
        put(on, "Paper", format!("{said}: {}", p.source), String::new(), None);
    }
    // What has no day stands first, as it is older than anyone knows.
    time_line.sort_by_key(|e| e.on);
    let mut rows: Vec<SeriesRow> = vec![];
    for c in &cases {
        for s in series(c) {
            let point = SeriesPoint { on: s.on.or(c.brief().visited_on), value: s.value, words: s.words };
            match rows.iter_mut().find(|r| r.kind == s.kind && r.name == s.name) {
                // A width that a later visit took along was read once.
                Some(r) if r.values.contains(&point) && point.on != c.brief().visited_on => {}
                Some(r) => r.values.push(point),
                None => rows.push(SeriesRow { kind: s.kind, name: s.name, values: vec![point] }),
            }
        }
    }
    rows.sort_by_key(|r| r.values.len() < 2);
    let places = place_history(cases.iter().flat_map(|c| seen_at(c)).collect());
    // A return visit answers; what is open was found by the visit before.
    let last = cases.iter().rev().find(|c| c.brief().visit != VisitKind::ReturnVisit).or(cases.last());
    let has: BTreeSet<&str> = cases.iter().flat_map(|c| shapes(c)).collect();
    let found: Vec<(String, String)> = last
        .iter()
        .flat_map(|c| seen_at(c))
        .filter(|s| s.open)
        .filter_map(|s| {
            Some((s.condition?, format!("{}{}", s.title, s.face.map_or_else(String::new, |f| format!(", {}", f.name().to_lowercase())))))
        })
        .collect();
    let mut things: Vec<ReserveThing> = roofed.iter().flat_map(|c| covering_things(c, today)).collect();
    things.extend(building.things.iter().map(|t| ReserveThing {
        name: t.name.clone(),
        cost: t.cost,
        due: [t.soonest, t.middle, t.latest],
        again_after: t.again_after,
    }));
    let plan = reserve(&ReserveInput { from_year: today.year() + 1, years: building.reserve_years, things: things.clone() });
    let (reserve, problem) = match plan {
        Ok(r) => (Some(r), None),
        Err(why) => (None, Some(why)),
    };
    BuildingAccount {
        time_line,
        series: rows,
        comes_back: comes_back(&places),
        places,
        upkeep: upkeep(&has, &found),
        things,
        reserve,
        problem,
    }
}

/// Coverings as things to be paid: their worst slope says when, counted from the end of this year.
fn covering_things(case: &Case, today: Date) -> Vec<ReserveThing> {
    let a = case.roof();
    let visit = f64::from(case.brief().visited_on.unwrap_or(today).year());
    let passed = f64::from(today.year() + 1) - visit - 1.0;
    a.coverings
        .iter()
        .filter_map(|c| {
            let left = a.slopes.iter().find(|s| s.label == c.worst)?.left?;
            Some(ReserveThing {
                name: format!("{}, {:.1} squares", capital(&c.name), c.squares),
                cost: c.cost.round(),
                due: left.map(|y| ((y - passed) * 10.0).round() / 10.0),
                again_after: None,
            })
        })
        .collect()
}
