//! The client's page: one file of HTML with everything in it, to be read on a phone, offline, and printed. Served under a key it also
//! takes questions. Text is escaped where it is written; the page loads nothing from anywhere.

use crate::document::day;
use crate::sources::PictureSource;
use account::{Case, FirstThing};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use drawing::{Look, css_tones, marks_svg, wheel_svg};
use envelope::finding::{Finding, ReportPart};
use envelope::years::leaving::{LONGEST_QUESTION, SaidKind};
use ledger::{Picture, Record};
use maud::{DOCTYPE, Markup, PreEscaped, html};

const STYLE: &str = include_str!("client.css");
/// What the page does by itself; a content policy names it by its hash.
pub const CLIENT_SCRIPT: &str = include_str!("client.js");
const REGULAR: &[u8] = include_bytes!("../fonts/AtkinsonHyperlegibleNext-Regular.ttf");
const BOLD: &[u8] = include_bytes!("../fonts/AtkinsonHyperlegibleNext-Bold.ttf");

fn data(media: &str, bytes: &[u8]) -> String {
    format!("data:{media};base64,{}", STANDARD.encode(bytes))
}

/// The page of a case. `questions` is where questions go; a file that is handed over has none.
pub fn client_page(case: &Case, pictures: &dyn PictureSource, questions: Option<&str>) -> String {
    let view = case.view();
    let front = case.front();
    let of = |part: ReportPart| view.findings.iter().filter(move |f| f.section == part);
    let found: Vec<&Finding> = of(ReportPart::Findings).collect();
    let good: Vec<&Finding> = of(ReportPart::Good).collect();
    let b = case.brief();
    let wheel = wheel_svg(&view.wheel, &view.coverage, &case.by_cell(), Look::PAGE);
    let fonts = format!(
        "@font-face{{font-family:Page;font-weight:400;src:url({})}}@font-face{{font-family:Page;font-weight:700;src:url({})}}",
        data("font/ttf", REGULAR),
        data("font/ttf", BOLD)
    );
    let mut last = "";
    html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="robots" content="noindex";
                title { (view.job.body.name) ": " (view.visit) }
                style { (PreEscaped(fonts)) (PreEscaped(css_tones())) (PreEscaped(STYLE)) }
            }
            body data-questions=[questions] {
                header {
                    p.kind { (view.visit) @if let Some(d) = b.visited_on { ", " (day(d)) } }
                    h1 { (view.job.body.name) }
                    p.soft { (b.address) @if !b.inspector.is_empty() { " · " (b.inspector) @if !b.practice.is_empty() { ", " (b.practice) } } }
                }
                main {
                    section.answer aria-label="The answer" {
                        p.soft { (front.asked) }
                        @for s in &front.answer { p { b { (s) } } }
                    }
                    @if !front.first.is_empty() {
                        section aria-labelledby="first" {
                            h2 #first { "To be done first" }
                            ol.first { @for f in &front.first { (first(f)) } }
                        }
                    }
                    @if !front.dangers.is_empty() {
                        section.danger aria-labelledby="danger" {
                            h2 #danger { "What can hurt someone" }
                            ul { @for f in &front.dangers { li { a href=(format!("#f{}", f.number)) { (f.number) ". " (f.title) } ", " (f.place) } } }
                        }
                    }
                    section aria-labelledby="where" {
                        h2 #where { "Find it by place" }
                        p.soft { "The building from above. Choose a place to see what was found there." }
                        div #wheel { (PreEscaped(wheel)) }
                        p #chosen hidden { span {} " " button type="button" #all { "Show everything" } }
                    }
                    section aria-labelledby="found" {
                        h2 #found { "What was found" }
                        @if found.is_empty() { p { "Nothing was found that needs doing." } }
                        @for f in &found {
                            @if f.urgency_words != last { h3.when { ({ last = &f.urgency_words; last }) } }
                            (finding(case, f, pictures, questions.is_some()))
                        }
                    }
                    @if !good.is_empty() {
                        section aria-labelledby="good" {
                            h2 #good { "Done right" }
                            ul.good { @for f in &good { li { b { (f.title) } ", " (f.place) } } }
                        }
                    }
                    section aria-labelledby="unseen" {
                        h2 #unseen { "What was not seen" }
                        p { (front.unseen.sentence) }
                        p.soft { "What is written here was seen on the day, from where it could be seen. Local code, the manufacturer's instructions and the licensed trade decide. Ladders, roofs, electricity, structure, mould and asbestos are work for people who are trained and equipped for them." }
                    }
                    section.ask aria-labelledby="asking" {
                        h2 #asking { "A question to the inspector" }
                        @if questions.is_some() { (ask(None)) } @else { p { "Write or call, and name the number of what you ask about." } }
                        (asked(case))
                    }
                }
                footer { p.soft { "Report of " (day(case.today())) "." } }
                script { (PreEscaped(CLIENT_SCRIPT)) }
            }
        }
    }
    .into_string()
}

fn first(f: &FirstThing) -> Markup {
    html! {
        li value=(f.number) {
            a href=(format!("#f{}", f.number)) { b { (f.title) } } ", " (f.place)
            div { @if f.hazard { b.hazard { "Hazard · " } } (f.when) " · " (f.who) }
        }
    }
}

fn finding(case: &Case, f: &Finding, pictures: &dyn PictureSource, asks: bool) -> Markup {
    let view = case.view();
    let number = f.number.unwrap_or_default();
    let note = view.notes.iter().find(|n| n.id == f.note_id);
    let cell = note.map_or_else(String::new, |n| n.body.place.cell().to_string());
    html! {
        article id=(format!("f{number}")) data-cell=(cell) {
            @for p in view.pictures_of(&f.note_id) { (figure(p, pictures)) }
            h4 { (number) ". " (f.title) }
            p { @if f.hazard { b.hazard { "Hazard. " } } (f.place) @for m in &f.measures { " · " (m) } }
            @if let Some(c) = &f.cause { p { (c) " " @if let Some(x) = &f.consequence { (x) } } }
            @if let Some(r) = &f.recommendation { p { b { "Next step. " } (r) @if let Some(t) = &f.trade { " (" (t) ")" } } }
            @if let Some(j) = &f.judged { p.soft { (j.sum) ". Rule: " (j.school) } }
            @if asks { details { summary { "Ask about this" } (ask(Some(&f.note_id))) } }
        }
    }
}

fn figure(p: &Record<Picture>, pictures: &dyn PictureSource) -> Markup {
    let b = &p.body;
    let Some(bytes) = pictures.bytes(&b.display.hash) else {
        return html! { p.soft { "The picture " (b.name) " cannot be shown." } };
    };
    let caption = if b.caption.is_empty() { &b.name } else { &b.caption };
    html! {
        figure {
            div.marked {
                img src=(data(&b.display.media, &bytes)) alt=(caption) width=(b.width) height=(b.height);
                @if !b.marks.is_empty() { (PreEscaped(marks_svg(&b.marks, b.width, b.height))) }
            }
            figcaption { (caption) }
        }
    }
}

fn ask(note: Option<&str>) -> Markup {
    html! {
        form.question data-note=[note] {
            label { "Your question" textarea name="text" rows="3" maxlength=(LONGEST_QUESTION) required {} }
            button type="submit" { "Send" }
            p role="status" {}
        }
    }
}

/// What was asked from this page before, with its answers.
fn asked(case: &Case) -> Markup {
    let list: Vec<_> = case.whole().said.iter().map(|s| &s.body).filter(|s| s.kind == SaidKind::Question).collect();
    html! {
        @if !list.is_empty() {
            h3 { "Asked before" }
            ul { @for s in list { li { (s.text) @if !s.answer.is_empty() { br; b { "Answer: " } (s.answer) } @else { " " span.soft { "Not answered yet." } } } } }
        }
    }
}
