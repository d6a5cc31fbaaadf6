//! The first page and what is cut from the same account: a page, a statement, a work list, the client's page, the return visit.

use crate::fixture::{Fixture, mark, note, record};
use account::{MOST_SENTENCES, return_from, returned};
use envelope::finding::ReportPart;
use envelope::job::VisitKind;
use envelope::round::NoteKind;
use envelope::site::{Cell, Face, MarkState, Zone};
use envelope::years::again::{Became, OldPicture};
use envelope::years::leaving::{SaidKind, SaidThing};
use proptest::prelude::*;
use report::{Cut, Paper, ReportWanted, client_page, trades};

const LINES: [&str; 8] = [
    "light missing, wires hanging",
    "gutter end no downspout",
    "cracked shake 3 in, several",
    "torn boot 1/8 in",
    "moss on the slope",
    "gutter clean, free flowing",
    "stucco crack 1/8 in x 3 ft",
    "flue too short, old cement pipe",
];

fn some(lines: &[usize], seen: bool, visit: usize) -> Fixture {
    let mut f = Fixture::new();
    f.whole.notes = lines.iter().enumerate().map(|(k, l)| note(k as u128 + 1, Face::ALL[k % 4], Zone::OUTSIDE[k % 6], LINES[*l])).collect();
    f.whole.job.body.brief.visit = VisitKind::ALL[visit];
    if seen {
        f.whole.marks = Cell::all().into_iter().map(|c| mark(&c.to_string(), MarkState::Seen)).collect();
    }
    f
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    /// Whatever was found on whatever visit: at most five sentences; three to five things first, or as many as there are; every hazard
    /// is named; trades' lists together hold every finding; what is first is never later than what is not.
    #[test]
    fn the_first_page_keeps_its_measure(lines in prop::collection::vec(0usize..8, 0..14), seen in any::<bool>(), visit in 0usize..8) {
        let f = some(&lines, seen, visit);
        let case = f.case();
        let front = case.front();
        let main: Vec<_> = case.findings().iter().filter(|x| x.section == ReportPart::Findings).collect();
        prop_assert!((1..=MOST_SENTENCES).contains(&front.answer.len()));
        prop_assert!(front.first.len() <= 5 && front.first.len() >= main.len().min(3));
        prop_assert_eq!(front.dangers.len(), main.iter().filter(|x| x.hazard).count());
        let later = main.iter().skip(front.first.len()).map(|x| x.urgency).min();
        let latest = main.iter().take(front.first.len()).map(|x| x.urgency).max();
        prop_assert!(later.zip(latest).is_none_or(|(a, b)| b <= a));
        prop_assert_eq!(front.unseen.untouched == 0, seen || f.case().view().coverage.tally.untouched == 0);
        let listed: usize = trades(case.view()).iter().map(|t| t.1).sum();
        prop_assert!(listed >= main.iter().filter(|x| x.trade.is_some()).count());
    }
}

#[test]
fn a_page_is_a_page_and_says_what_comes_first() {
    let f = Fixture::new();
    let wanted = ReportWanted { cut: Cut::Note, ..Default::default() };
    let set = report::typeset(&f.case(), &f, &wanted).unwrap();
    assert_eq!(set.pages(), 1);
    let text = f.cut(&wanted);
    for said in ["To be done first", "Fixture gone, box open", "What can hurt someone", "What was not seen", "Where most could be hidden"] {
        assert!(text.contains(said), "{said}: {text}");
    }
    assert!(!text.contains("Rules of practice used"));
}

#[test]
fn letter_is_letter() {
    let f = Fixture::new();
    let set = report::typeset(&f.case(), &f, &ReportWanted { paper: Paper::Letter, ..Default::default() }).unwrap();
    let png = image::load_from_memory(&set.page_png(1, 1.0).unwrap()).unwrap();
    assert_eq!((png.width(), png.height()), (612, 792));
}

#[test]
fn a_trade_gets_its_own_findings_with_their_numbers_and_nothing_else() {
    let f = Fixture::new();
    let list = |trade: &str| f.cut(&ReportWanted { cut: Cut::Trade, trade: Some(trade.into()), ..Default::default() });
    let gutters = list("Gutter installer");
    assert!(gutters.contains("2. Too few or no outlets") && !gutters.contains("Shakes cracked") && !gutters.contains("Fixture gone"));
    assert!(list("Electrician").contains("make it safe first"));
    assert!(list("Mason").contains("Nothing of this report is for this trade."));
}

#[test]
fn an_insurer_reads_facts_and_no_opinion() {
    let text = Fixture::new().cut(&ReportWanted { cut: Cut::Insurer, ..Default::default() });
    assert!(text.contains("gives no opinion on cover") && text.contains("The roof has not been measured"));
    assert!(text.contains("Shakes cracked through") && !text.contains("Fixture gone"), "{text}");
}

/// A picture stands on the page of its finding, however many there are; more pictures follow.
#[test]
fn findings_and_pictures_never_part() {
    let mut f = some(&[3, 1, 2, 3, 1, 2, 3, 1, 2, 3, 1, 2], true, 0);
    for n in 1..=12u8 {
        f.attach(u128::from(n), n * 10);
    }
    let made = f.set().pdf().unwrap();
    let pages = pdf_extract::extract_text_from_mem_by_pages(&made.bytes).unwrap();
    let main: Vec<(usize, u8)> = f
        .case()
        .findings()
        .iter()
        .filter_map(|x| Some((x.number?, (1..=12u8).find(|n| uuid::Uuid::from_u128(u128::from(*n)).to_string() == x.note_id)?)))
        .collect();
    assert_eq!(main.len(), 12);
    // The table of findings names them first; the block is the last page that does.
    for (number, n) in main {
        let plain = |t: &str| t.split_whitespace().collect::<Vec<_>>().join(" ");
        let title = &f.case().findings().iter().find(|x| x.number == Some(number)).unwrap().title.clone();
        let of = |said: &str| pages.iter().rposition(|p| plain(p).contains(said));
        let (block, picture) = (of(&format!("{number}. {title}")), of(&format!("sample {}", n * 10)));
        assert!(block.is_some() && block == picture, "{number}. {title}: {block:?} {picture:?}");
    }
}

#[test]
fn the_clients_page_is_one_file_and_takes_no_script_from_anyone() {
    let mut f = Fixture::new();
    f.attach(2, 40);
    f.whole.job.body.name = "<script>alert(1)</script> & Sons".into();
    f.whole.said = vec![record(
        7,
        SaidThing {
            at: "2026-11-23T08:00:00Z".into(),
            note_id: None,
            kind: SaidKind::Question,
            text: "Is it safe? <img src=x onerror=alert(2)>".into(),
            answer: String::new(),
        },
    )];
    let file = client_page(&f.case(), &f, None);
    assert!(!file.contains("<script>alert") && !file.contains("<img src=x"));
    assert!(file.contains("&lt;script&gt;alert(1)") && file.contains("Not answered yet."));
    // Nothing is loaded from anywhere: every address in it is its own data or a place on the page.
    for part in file.split(['"', '(', ')']).filter(|p| p.contains("://")) {
        assert!(part.starts_with("http://www.w3.org/"), "{part}");
    }
    assert!(file.contains("data:image/") && !file.contains("<form"));
    let served = client_page(&f.case(), &f, Some("/c/key/questions"));
    assert!(served.contains("data-questions=\"/c/key/questions\"") && served.matches("<form").count() == 1 + 3);
    // Every finding can be found by place: the wheel has its cell.
    for x in f.case().findings().iter().filter(|x| x.section == ReportPart::Findings) {
        let cell = f.whole.notes.iter().find(|n| n.id == x.note_id).unwrap().body.place.cell();
        assert!(file.contains(&format!("data-cell=\"{cell}\" aria-label")), "{cell}");
    }
}

#[test]
fn a_return_visit_answers_what_was_recommended() {
    let mut then = Fixture::new();
    then.attach(2, 40);
    let kept = return_from(&then.case());
    let numbers: Vec<usize> = kept.lines.iter().map(|l| l.number).collect();
    let shown = then.case().findings().iter().filter(|x| x.section == ReportPart::Findings).count();
    assert_eq!(numbers, (1..=shown).collect::<Vec<_>>());
    assert_eq!(kept.lines[1].then.len(), 1);

    let mut now = Fixture::new();
    now.whole.job.body.brief.visit = VisitKind::ReturnVisit;
    now.whole.notes = vec![note(50, Face::Left, Zone::Roof, "torn boot 1/8 in")];
    // The earlier visit's file is here, another's is not.
    now.files.clone_from(&then.files);
    let mut answered = kept.clone();
    answered.lines[0].became = Some(Became::DoneRight);
    answered.lines[1].became = Some(Became::DoneWrong);
    answered.lines[1].said = "an outlet without a pipe".into();
    answered.lines[0].then = vec![OldPicture { id: "gone".into(), hash: "0".repeat(64), caption: "lost".into() }];
    now.whole.again = Some(record(60, answered));
    let account = returned(&now.case()).unwrap();
    assert_eq!(account.open, shown - 2);
    assert!(account.letter.iter().any(|l| l.contains("an outlet without a pipe")), "{:?}", account.letter);
    assert!(account.letter.iter().any(|l| l.starts_with("New: ")));
    // What is left comes first, then what is new; what was mended is named no more.
    let case = now.case();
    let first: Vec<&str> = case.front().first.iter().map(|f| f.title.as_str()).collect();
    assert_eq!(first, ["Too few or no outlets", "Pipe boot torn or chewed"]);
    assert!(case.front().dangers.is_empty(), "the open box was mended");
    let text = now.text();
    for said in [
        "What became of it",
        "1 done right, 1 done wrong",
        "not answered",
        "No picture of the earlier visit can be shown.",
        "Then: sample 40",
    ] {
        assert!(text.contains(said), "{said}: {text}");
    }
    assert!(returned(&then.case()).is_none(), "a first visit returns to nothing");
}

#[test]
fn what_is_missing_is_said_before_it_goes_out() {
    let mut f = Fixture::new();
    let missing = |f: &Fixture| account::due(&f.case()).missing;
    let stops: Vec<String> = missing(&f).into_iter().filter(|m| m.stops).map(|m| m.words).collect();
    assert_eq!(stops.len(), 3, "{stops:?}");
    assert!(missing(&f).iter().any(|m| m.words.contains("not looked at")));
    let b = &mut f.whole.job.body.brief;
    (b.recipient, b.inspector, b.visited_on) = ("the owner".into(), "Ida Marrow".into(), Some("2026-11-20".parse().unwrap()));
    let due = account::due(&f.case());
    assert!(due.missing.iter().all(|m| !m.stops), "{:?}", due.missing);
    assert_eq!((due.on, due.late, due.words.as_str()), (Some("2026-11-21".parse().unwrap()), true, "2 days late"));
    assert_eq!(f.case().findings().iter().filter(|x| x.kind == NoteKind::Side).count(), 1);
}
