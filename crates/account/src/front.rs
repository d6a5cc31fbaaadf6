//! The first page: what was asked, the answer, what to do first, what is dangerous, and what could not be seen. Page, PDF and the
//! client's page print this and choose nothing themselves.

use crate::Case;
use envelope::finding::{Finding, ReportPart, Urgency};
use envelope::job::VisitKind;
use envelope::roof::access::capital;
use envelope::site::{Cell, CellReport, CellState, Zone};
use envelope::years::again::ReturnLine;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The answer has at most so many sentences.
pub const MOST_SENTENCES: usize = 5;
/// So many things are named as the first to do, when there are as many.
const FIRST: std::ops::RangeInclusive<usize> = 3..=5;
/// A cause is named alone from this chance up; under it, its rival is named beside it.
const LIKELY: f64 = 0.6;

/// One of the things to do first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FirstThing {
    /// Its number among the findings.
    pub number: usize,
    /// The note it comes from.
    pub note_id: String,
    /// What it is.
    pub title: String,
    /// Where.
    pub place: String,
    /// "Now", "Before next rain".
    pub when: String,
    /// Who does it.
    pub who: String,
    /// What is to be done.
    pub step: String,
    /// It can hurt someone.
    pub hazard: bool,
}

/// What could not be seen, in short.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Unseen {
    /// Places that could not be seen.
    pub limited: usize,
    /// Places nobody looked at.
    pub untouched: usize,
    /// The place among them where most could be hidden.
    pub worst: Option<String>,
    /// All of it in one or two sentences.
    pub sentence: String,
}

/// The first page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FrontPage {
    /// What this kind of visit asks.
    pub asked: String,
    /// What worries the client, as told.
    pub worries: String,
    /// The answer, at most five sentences, drawn from what was found.
    pub answer: Vec<String>,
    /// What to do first: three to five things, or as many as there are.
    pub first: Vec<FirstThing>,
    /// What can hurt someone: every one of them, soonest first.
    pub dangers: Vec<FirstThing>,
    /// What could not be seen.
    pub unseen: Unseen,
}

pub(crate) fn front_page(case: &Case) -> FrontPage {
    let view = case.view();
    let main: Vec<&Finding> = view.findings.iter().filter(|f| f.section == ReportPart::Findings).collect();
    let now = main.iter().filter(|f| f.urgency == Urgency::Now).count();
    // At a return visit what is left of the earlier one comes before what is new.
    let left: Vec<FirstThing> = case.whole().again.iter().flat_map(|a| a.body.left()).map(left).collect();
    let most = left.len().max(now).clamp(*FIRST.start(), *FIRST.end());
    let new = main.iter().filter_map(|f| thing(f));
    let hurt = left.iter().filter(|f| f.hazard).cloned();
    let dangers = hurt.chain(main.iter().filter(|f| f.hazard).filter_map(|f| thing(f))).collect();
    FrontPage {
        asked: view.asks.clone(),
        worries: case.brief().worries.clone(),
        answer: answer(case, &main),
        first: left.into_iter().chain(new).take(most).collect(),
        dangers,
        unseen: unseen(&view.coverage.cells),
    }
}

/// A recommendation of the earlier visit that is left, under the number it has there.
fn left(l: &ReturnLine) -> FirstThing {
    FirstThing {
        number: l.number,
        note_id: l.id.clone(),
        title: l.title.clone(),
        place: l.place.clone(),
        when: l.became.map_or_else(|| l.when.clone(), |b| format!("{}, {}", l.when, b.words())),
        who: if l.trade.is_empty() { "To be agreed".into() } else { l.trade.clone() },
        step: l.step.clone(),
        hazard: l.hazard,
    }
}

fn thing(f: &Finding) -> Option<FirstThing> {
    Some(FirstThing {
        number: f.number?,
        note_id: f.note_id.clone(),
        title: f.title.clone(),
        place: f.place.clone(),
        when: f.urgency_words.clone(),
        who: f.trade.clone().unwrap_or_else(|| "To be agreed".into()),
        step: f.recommendation.clone().unwrap_or_default(),
        hazard: f.hazard,
    })
}

/// "Three findings: one now, two this season."
pub fn counted(main: &[&Finding]) -> String {
    let of = |u: Urgency| main.iter().filter(|f| f.urgency == u).count();
    let parts: Vec<String> =
        Urgency::ALL.into_iter().filter(|u| of(*u) > 0).map(|u| format!("{} {}", of(u), u.words().to_lowercase())).collect();
    match main.len() {
        0 => "Nothing was found that needs doing.".to_owned(),
        1 => format!("One finding: {}.", parts.join(", ")),
        n => format!("{n} findings: {}.", parts.join(", ")),
    }
}

/// What the benches say to the question of the visit, then how much there is to do and what comes first.
fn answer(case: &Case, main: &[&Finding]) -> Vec<String> {
    let mut out = match case.brief().visit {
        VisitKind::LeakAssessment => traced(case),
        VisitKind::StormAssessment => counted_hits(case),
        VisitKind::BeforeCladding => before_cladding(case),
        VisitKind::RoofStatement => lives(case, 3),
        VisitKind::ReturnVisit => returned(case),
        VisitKind::PurchaseSurvey | VisitKind::EndOfWarranty | VisitKind::MaintenanceRound => {
            let mut both = traced(case);
            both.extend(lives(case, 1));
            both
        }
    };
    out.truncate(MOST_SENTENCES - 2);
    out.push(counted(main));
    if let Some(f) = main.first() {
        let who = f.trade.as_ref().map_or_else(String::new, |t| format!(" ({})", t.to_lowercase()));
        out.push(format!("Soonest, {}: {}, {}{who}.", f.urgency_words.to_lowercase(), lower(&f.title), lower(&f.place)));
    }
    out
}

/// The first letter small, unless the word is written in capitals.
fn lower(text: &str) -> String {
    let mut c = text.chars();
    let (first, second) = (c.next(), c.next());
    match (first, second) {
        (Some(a), b) if b.is_none_or(|b| !b.is_uppercase()) => a.to_lowercase().chain(text.chars().skip(1)).collect(),
        _ => text.to_owned(),
    }
}

/// A chance as it is told: nobody is quite sure.
pub fn percent(p: f64) -> String {
    match p {
        p if p > 0.99 => "over 99 %".into(),
        p if p < 0.01 => "under 1 %".into(),
        p => format!("{:.0} %", p * 100.0),
    }
}

/// Each wet spot with where its water most likely comes from.
fn traced(case: &Case) -> Vec<String> {
    if case.whole().trace.is_none() {
        return vec![];
    }
    let a = case.trace();
    let called = |ids: &[String]| {
        let name =
            |id: &String| a.list.iter().find(|g| g.candidate.id == *id).map_or_else(|| id.clone(), |g| g.candidate.called().to_owned());
        lower(&ids.iter().map(name).collect::<Vec<_>>().join(" with "))
    };
    let spots = &case.trace_kept().spots;
    let one = |s: &envelope::trace::form::TracedSpot| {
        let name = capital(spots.iter().find(|k| k.id == s.id).map_or(s.id.as_str(), |k| &k.name));
        let best = s.ranking.first()?;
        let share = |p: f64| percent(p);
        Some(match s.ranking.get(1) {
            _ if best.p >= LIKELY => format!("{name}: the water most likely comes in by {} ({}).", called(&best.causes), share(best.p)),
            Some(next) => format!(
                "{name}: not settled; {} ({}) or {} ({}).",
                called(&best.causes),
                share(best.p),
                called(&next.causes),
                share(next.p)
            ),
            None => format!("{name}: not settled; perhaps {} ({}).", called(&best.causes), share(best.p)),
        })
    };
    a.result.iter().flat_map(|r| &r.spots).filter_map(one).collect()
}

fn counted_hits(case: &Case) -> Vec<String> {
    if case.whole().storm.is_none() {
        return vec![];
    }
    let a = case.damage();
    let mut out = vec![];
    if let Some(d) = Some(&a.directional_words).filter(|w| !w.is_empty()) {
        out.push(d.clone());
    }
    out.extend(a.which.as_ref().map(|w| w.words.clone()));
    out.extend(a.unreached.first().cloned());
    out
}

fn before_cladding(case: &Case) -> Vec<String> {
    if case.whole().walls.is_none() {
        return vec![];
    }
    let a = case.walls();
    let open = a.do_not_cover.iter().filter(|e| e.again.is_none()).count();
    let mut out = vec![a.matrix.sentence.clone()];
    if open > 0 {
        let (thing, must) = if open == 1 { ("thing", "it is") } else { ("things", "they are") };
        out.push(format!("{open} {thing} must be put right and seen again before {must} covered."));
    }
    out.retain(|s| !s.is_empty());
    out
}

/// What the coverings have left, the worst first.
fn lives(case: &Case, most: usize) -> Vec<String> {
    if case.whole().roof.is_none() {
        return vec![];
    }
    let mut coverings: Vec<_> = case.roof().coverings.iter().collect();
    coverings.sort_by_key(|c| c.plan_year);
    coverings.into_iter().take(most).map(|c| format!("{}: {}", capital(&c.name), lower(&c.sentence))).collect()
}

fn returned(case: &Case) -> Vec<String> {
    crate::years::returned(case).map(|r| vec![r.sentence, r.letter.into_iter().next().unwrap_or_default()]).unwrap_or_default()
}

/// What stays hidden longest and does most harm: the roof before the walls, the walls before the ground; what could not be seen
/// before what nobody looked at.
fn unseen(cells: &[CellReport]) -> Unseen {
    let weight = |c: Cell| match c.zone() {
        Zone::Roof => 0,
        Zone::Inside => 1,
        Zone::Base => 2,
        Zone::Edge => 3,
        Zone::Openings => 4,
        Zone::UpperWall => 5,
        Zone::Ground => 6,
    };
    let limited: Vec<&CellReport> = cells.iter().filter(|c| c.limit.is_some()).collect();
    let untouched: Vec<&CellReport> = cells.iter().filter(|c| c.expected && c.state == CellState::Untouched).collect();
    let worst = limited.iter().chain(&untouched).min_by_key(|c| (c.limit.is_none(), weight(c.cell)));
    let places = |n: usize| if n == 1 { "1 place".to_owned() } else { format!("{n} places") };
    let mut said = vec![];
    if !limited.is_empty() {
        said.push(format!("{} could not be seen in full.", places(limited.len())));
    }
    if !untouched.is_empty() {
        said.push(format!("{} {} not looked at.", places(untouched.len()), if untouched.len() == 1 { "was" } else { "were" }));
    }
    let worst = worst.map(|c| c.limit.clone().unwrap_or_else(|| format!("{}: not looked at", c.name)));
    if said.is_empty() {
        said.push("Every place this visit asks for was seen.".into());
    } else if let Some(w) = &worst {
        said.push(format!("Where most could be hidden: {}.", lower(w.trim_end_matches('.'))));
    }
    Unseen { limited: limited.len(), untouched: untouched.len(), worst, sentence: said.join(" ") }
}
