//! The report: data for the template, then PDF or pages.

use crate::cut::{Cut, ReportWanted, cautions, is_of_trade, quantities};
use crate::sources::PictureSource;
use crate::world::{ReportWorld, can_print};
use account::{Case, JobView};
use drawing::{Look, marks_svg, places_svg, wheel_svg};
use envelope::finding::{Effect, Finding, ReportPart};
use envelope::measure::Units;
use envelope::roof::key_plan::KeyPlan;
use envelope::site::Cell;
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};
use typst::foundations::{Datetime, Smart};
use typst_layout::PagedDocument;
use typst_pdf::{PdfOptions, PdfStandard, PdfStandards};

/// Why a report could not be made.
#[derive(Debug, thiserror::Error)]
pub enum ReportError {
    /// The typesetter refused.
    #[error("The report could not be set: {0}")]
    Typeset(String),
    /// A page could not be drawn.
    #[error("Page {0} is not in this report.")]
    NoPage(usize),
}

/// Bytes, with what the reader should know about them.
#[derive(Debug)]
pub struct Made {
    /// The file.
    pub bytes: Vec<u8>,
    /// Sentences; empty when all is well.
    pub warnings: Vec<String>,
}

/// A report that has been set.
pub struct Typeset {
    document: PagedDocument,
    warnings: Vec<String>,
    identity: String,
    date: Option<Datetime>,
}

/// Sets the report of a case, or another cut of the same account; the day of the case is the day of the report.
///
/// # Errors
/// When the typesetter refuses; a picture that cannot be read is left out and said so in the report.
pub fn typeset(case: &Case, pictures: &dyn PictureSource, wanted: &ReportWanted) -> Result<Typeset, ReportError> {
    let (view, date) = (case.view(), case.today());
    let mut warnings = Vec::new();
    let mut data = data(case, pictures, wanted, &mut warnings);
    let missing = make_printable(&mut data);
    if missing > 0 {
        let sentence = format!("{missing} characters have no sign in the report's fonts and are printed as □. The bundle keeps them.");
        data["unprintable"] = json!(sentence);
        warnings.push(sentence);
    }
    let wheel = wheel_svg(&view.wheel, &view.coverage, &case.by_cell(), Look::PRINT);
    let world = ReportWorld::new(data.to_string().into_bytes(), wheel, pictures);
    let compiled = typst::compile::<PagedDocument>(&world);
    let document = compiled.output.map_err(|e| ReportError::Typeset(join(&e)))?;
    // Rarely used documents keep their parts in the typesetter's cache; a few generations are enough.
    comemo_evict();
    let date = Datetime::from_ymd(i32::from(date.year()), date.month() as u8, date.day() as u8);
    Ok(Typeset { document, warnings, identity: view.job.id.clone(), date })
}

fn comemo_evict() {
    typst::comemo::evict(3);
}

fn join(errors: &[typst::diag::SourceDiagnostic]) -> String {
    errors.iter().map(|e| e.message.to_string()).collect::<Vec<_>>().join("; ")
}

impl Typeset {
    /// What the reader should know; empty when all is well.
    pub fn warnings(&self) -> &[String] {
        &self.warnings
    }

    /// Pages.
    pub fn pages(&self) -> usize {
        self.document.pages().len()
    }

    /// The PDF: tagged, and to PDF/UA-1 when the content allows it.
    ///
    /// # Errors
    /// When the document cannot be written.
    pub fn pdf(&self) -> Result<Made, ReportError> {
        let options = |standards| PdfOptions {
            ident: Smart::Custom(self.identity.clone()),
            creator: Smart::Custom(Some("Trowel".to_owned())),
            timestamp: self.date.map(typst_pdf::Timestamp::new_utc),
            standards,
            ..PdfOptions::default()
        };
        let mut warnings = self.warnings.clone();
        let accessible = PdfStandards::new(&[PdfStandard::Ua_1]).map_err(|e| ReportError::Typeset(e.message().to_string()))?;
        match typst_pdf::pdf(&self.document, &options(accessible)) {
            Ok(bytes) => Ok(Made { bytes, warnings }),
            Err(why) => {
                warnings.push(format!("The file is tagged but does not meet PDF/UA-1: {}", join(&why)));
                let bytes =
                    typst_pdf::pdf(&self.document, &options(PdfStandards::default())).map_err(|e| ReportError::Typeset(join(&e)))?;
                Ok(Made { bytes, warnings })
            }
        }
    }

    /// One page as PNG, counted from one, for looking at before download.
    ///
    /// # Errors
    /// [`ReportError::NoPage`].
    pub fn page_png(&self, number: usize, pixels_per_point: f64) -> Result<Vec<u8>, ReportError> {
        let page = number.checked_sub(1).and_then(|i| self.document.pages().get(i)).ok_or(ReportError::NoPage(number))?;
        let options = typst_render::RenderOptions { pixel_per_pt: pixels_per_point.into(), ..Default::default() };
        typst_render::render(page, &options).encode_png().map_err(|e| ReportError::Typeset(e.to_string()))
    }
}

fn finding(view: &JobView, f: &Finding, pictures: &dyn PictureSource, warnings: &mut Vec<String>) -> Value {
    let note = view.notes.iter().find(|n| n.id == f.note_id);
    let said = note.map(|n| n.body.text.trim()).filter(|t| !t.is_empty() && *t != f.title);
    let reasons: Vec<Value> = f
        .suggestion
        .iter()
        .flat_map(|s| &s.reasons)
        .map(|r| {
            let moved = match r.effect {
                Effect::Start | Effect::Stays => String::new(),
                _ => format!(" → {}", r.step.words()),
            };
            json!(format!("{}{moved}", r.text))
        })
        .collect();
    let shown: Vec<Value> = view.pictures_of(&f.note_id).filter_map(|p| picture(p, pictures, warnings)).collect();
    json!({
        "number": f.number.unwrap_or_default(), "title": f.title, "place": f.place, "urgency": f.urgency_words, "ticks": f.ticks, "hazard": f.hazard,
        "measures": f.measures, "remarks": f.remarks, "said": said, "cause": f.cause, "consequence": f.consequence,
        "recommendation": f.recommendation, "trade": f.trade, "reasons": reasons, "by_hand": f.by_hand, "pictures": shown,
        "key": note.map_or_else(String::new, |n| n.body.place.cell().to_string()),
        "judged": f.judged.as_ref().map(|j| json!({ "sum": j.sum, "school": j.school })),
    })
}

pub(crate) fn picture(p: &ledger::Record<ledger::Picture>, pictures: &dyn PictureSource, warnings: &mut Vec<String>) -> Option<Value> {
    let b = &p.body;
    let shown = b.for_print();
    if pictures.bytes(&shown.hash).is_none() {
        warnings.push(format!("The picture {} could not be read and was left out.", b.name));
        return None;
    }
    let extension = if shown.media == "image/png" { "png" } else { "jpg" };
    let caption = if b.caption.is_empty() { b.name.clone() } else { b.caption.clone() };
    let taken = b.taken_at.as_deref().map(|t| t.replace('T', " "));
    let marks = (!b.marks.is_empty()).then(|| marks_svg(&b.marks, b.width, b.height));
    let said: Vec<&str> = b.marks.iter().map(|m| m.text.as_str()).filter(|t| !t.is_empty()).collect();
    let alt = if said.is_empty() { caption.clone() } else { format!("{caption}. Marked: {}", said.join(", ")) };
    Some(json!({
        "path": format!("pictures/{}.{extension}", shown.hash), "caption": caption, "alt": alt, "taken": taken, "marks": marks,
        "ratio": f64::from(b.width.max(1)) / f64::from(b.height.max(1)),
    }))
}

/// "18 November 2026".
pub(crate) fn day(d: jiff::civil::Date) -> String {
    d.strftime("%-d %B %Y").to_string()
}

/// *Next cycle* findings by the work they wait for, with their numbers.
fn bundles(view: &JobView) -> Vec<Value> {
    let named = |f: &Finding| Some(format!("{}. {} ({})", f.number?, f.title, f.place));
    view.bundles
        .iter()
        .filter_map(|b| {
            let found: Vec<String> = view.findings.iter().filter(|f| b.notes.contains(&f.note_id)).filter_map(named).collect();
            (!found.is_empty()).then(|| json!({ "with": b.with, "findings": found }))
        })
        .collect()
}

/// What this kind of visit expects and nobody looked at, face by face.
fn open_expectations(view: &JobView) -> Vec<String> {
    view.expectations
        .iter()
        .filter(|e| e.state == envelope::site::ExpectationState::Open)
        .map(|e| match &e.item {
            Some(item) => format!("{}, {item}: {}", e.face.name(), e.words),
            None => format!("{}, {}: {}", e.face.name(), e.zone.name().to_lowercase(), e.words),
        })
        .collect()
}

/// The schools that were used: those that judged something in this report, and those the practice chose itself.
fn rules(view: &JobView) -> Vec<Value> {
    let used = |key: &str| view.findings.iter().any(|f| f.in_report && f.judged.as_ref().is_some_and(|j| j.point == key));
    envelope::practice::points()
        .iter()
        .filter(|p| used(&p.key) || view.practice.choice.contains_key(&p.key))
        .map(|p| json!({ "what": p.what, "school": view.practice.rule(&p.key).words() }))
        .collect()
}

/// Where each of some findings lies, small: one drawing for each place.
fn keys(case: &Case, plan: &KeyPlan) -> BTreeMap<String, String> {
    let cells: BTreeSet<Cell> = case.view().notes.iter().map(|n| n.body.place.cell()).collect();
    let one = |c: Cell| (c.to_string(), places_svg(plan, &BTreeMap::new(), &BTreeSet::from([c]), Look::PRINT));
    cells.into_iter().map(one).collect()
}

/// The building with the numbers of its findings; what comes first on a dark ground.
fn places(case: &Case, plan: &KeyPlan) -> String {
    let view = case.view();
    let first: BTreeSet<&str> = case.front().first.iter().map(|f| f.note_id.as_str()).collect();
    let mut numbers: BTreeMap<Cell, Vec<usize>> = BTreeMap::new();
    let mut dark = BTreeSet::new();
    for f in view.findings.iter().filter(|f| f.section == ReportPart::Findings) {
        if let (Some(n), Some(note)) = (f.number, view.notes.iter().find(|n| n.id == f.note_id)) {
            numbers.entry(note.body.place.cell()).or_default().push(n);
            if first.contains(f.note_id.as_str()) {
                dark.insert(note.body.place.cell());
            }
        }
    }
    places_svg(plan, &numbers, &dark, Look::PRINT)
}

/// Places that were not looked at, face by face.
fn gap_places(view: &JobView) -> Vec<(String, String)> {
    let mut by: Vec<(String, Vec<String>)> = vec![];
    for c in view.coverage.cells.iter().filter(|c| c.expected && c.state == envelope::site::CellState::Untouched) {
        let (face, zone) = match c.cell {
            Cell::Outside(f, z) => (f.name().to_owned(), z.name().to_lowercase()),
            Cell::Inside => ("Inside".to_owned(), "rooms".to_owned()),
        };
        match by.iter_mut().find(|(f, _)| *f == face) {
            Some((_, zones)) => zones.push(zone),
            None => by.push((face, vec![zone])),
        }
    }
    by.into_iter().map(|(f, z)| (f, z.join(", "))).collect()
}

fn data(case: &Case, pictures: &dyn PictureSource, wanted: &ReportWanted, warnings: &mut Vec<String>) -> Value {
    let (view, today) = (case.view(), case.today());
    let b = &view.job.body.brief;
    let is = |section: ReportPart| view.findings.iter().filter(move |f| f.section == section);
    let left_out = is(ReportPart::LeftOut).count();
    let main: Vec<&Finding> = is(ReportPart::Findings).collect();
    let of_trade = |f: &&Finding| wanted.cut != Cut::Trade || is_of_trade(f, wanted.trade());
    let mut told =
        |section: ReportPart| -> Vec<Value> { is(section).filter(of_trade).map(|f| finding(view, f, pictures, warnings)).collect() };
    let findings = told(ReportPart::Findings);
    let good = told(ReportPart::Good);
    let side = told(ReportPart::Side);
    let noted_limits = told(ReportPart::Limits);
    let loose: Vec<Value> = view.loose_pictures().filter_map(|p| picture(p, pictures, warnings)).collect();
    let parts = |list: &[envelope::job::PartMaterial]| -> String {
        list.iter()
            .filter(|p| !(p.part.is_empty() && p.material.is_empty()))
            .map(|p| if p.part.is_empty() { p.material.clone() } else { format!("{}: {}", p.part, p.material) })
            .collect::<Vec<_>>()
            .join("; ")
    };
    let facts: Vec<(&str, String)> = [
        ("Address", b.address.clone()),
        ("Visited on", b.visited_on.map(day).unwrap_or_default()),
        ("Weather", b.weather.clone()),
        ("Inspected by", [b.inspector.as_str(), b.practice.as_str()].into_iter().filter(|s| !s.is_empty()).collect::<Vec<_>>().join(", ")),
        ("Prepared for", b.recipient.clone()),
        ("Built", b.year_built.map(|y| y.to_string()).unwrap_or_default()),
        ("Storeys", b.storeys.map(|s| s.to_string()).unwrap_or_default()),
        ("Front faces", view.front.clone().unwrap_or_default()),
        ("Walls", parts(&b.walls)),
        ("Roofs", parts(&b.roofs)),
    ]
    .into_iter()
    .filter(|(_, v)| !v.trim().is_empty())
    .collect();
    let benches: Vec<(&str, Value)> = vec![
        ("rain", crate::rain_report::rain_data(case)),
        ("ground", crate::ground_report::ground_data(case)),
        ("walls", crate::wall_report::wall_data(case, pictures, warnings)),
        ("moisture", crate::trace_report::moisture_data(case)),
        ("trace", crate::trace_report::trace_data(case)),
        ("storm", crate::storm_report::storm_data(case)),
        ("roof", crate::roof_report::roof_data(case)),
    ];
    let gaps = gap_places(view);
    let plan = case.key_plan();
    let open = open_expectations(view);
    let levels = benches.iter().any(|(n, v)| *n == "ground" && v["levels"].as_array().is_some_and(|l| !l.is_empty()));
    let has_annexes = benches.iter().any(|(_, v)| !v.is_null());
    let mut out = json!({
        "cut": wanted.cut, "paper": wanted.paper.typst_name(), "trade": wanted.trade(), "heading": wanted.heading(&view.visit),
        "quantities": if wanted.cut == Cut::Trade { quantities(case, wanted.trade()) } else { vec![] },
        "cautions": cautions(&main, wanted.trade()),
        "front": case.front(), "keys": keys(case, &plan), "places": places(case, &plan),
        "places_alt": format!("The building from above with the numbers of its findings. {}", case.front().unseen.sentence),
        "has_annexes": has_annexes, "has_tables": levels || !gaps.is_empty() || !open.is_empty(),
        "again": crate::return_report::return_data(case, pictures),
        "name": view.job.body.name, "visit": view.visit, "date": day(today), "facts": facts,
        "asks": view.asks, "worries": b.worries, "papers": b.papers, "author": b.inspector,
        "coverage": view.coverage.sentence, "gap": view.closing.gap.sentence, "gap_places": gaps, "closed": view.closing.closed,
        "limits": view.limits().collect::<Vec<_>>(), "noted_limits": noted_limits,
        "findings": findings, "good": good, "side": side, "loose": loose,
        "wheel_alt": format!("The building from above with its faces as sectors and its heights as rings. {}", view.coverage.sentence),
        "left_out": warnings.clone(),
        "unprintable": "",
        "bundles": bundles(view),
        "open_expectations": open,
        "rules": rules(view),
        "practice": view.practice.name,
        "us": view.units.first() == Units::Us,
        "out_of_scope": if left_out > 0 {
            let notes = if left_out == 1 { "One note that needs nothing done is".to_owned() } else { format!("{left_out} notes that need nothing done are") };
            format!("{notes} left out, as the practice reports material defects only.")
        } else {
            String::new()
        },
    });
    if let Value::Object(map) = &mut out {
        map.extend(benches.into_iter().map(|(k, v)| (k.to_owned(), v)));
    }
    out
}

/// Replaces characters that no bundled font can draw; gives their number. Line ends and tabs become spaces.
fn make_printable(value: &mut Value) -> usize {
    match value {
        Value::String(s) => {
            let mut missing = 0;
            let clean: String = s
                .chars()
                .filter_map(|c| match c {
                    '\n' => Some('\n'),
                    '\t' => Some(' '),
                    // Marks that only shape or join their neighbours need no sign of their own.
                    '\u{200d}' | '\u{fe0f}' | '\u{fe0e}' | '\u{feff}' => None,
                    c if c.is_control() => None,
                    // Marks that turn the direction of what follows would reverse the words beside them.
                    '\u{061c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' => None,
                    c if can_print(c) => Some(c),
                    _ => {
                        missing += 1;
                        Some('□')
                    }
                })
                .collect();
            *s = clean;
            missing
        }
        Value::Array(list) => list.iter_mut().map(make_printable).sum(),
        Value::Object(map) => map.values_mut().map(make_printable).sum(),
        _ => 0,
    }
}
