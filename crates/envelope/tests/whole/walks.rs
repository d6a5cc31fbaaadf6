//! Whole walks, written by hand in the way people talk, against lists made by hand of what they should give.
//!
//! A note counts as found when its face, kind and condition are right; its zone and its readings are counted apart. The
//! figures that must be reached are the ones reached by weights that were not trained on them; they may only rise.

use envelope::round::{NoteKind, WalkInput, WalkNote, read_walk};

struct Expected {
    t_s: Option<f64>,
    face: String,
    zone: String,
    kind: String,
    condition: Option<String>,
    measures: Vec<String>,
}

fn expected(list: &str) -> Vec<Expected> {
    list.lines()
        .filter(|l| !l.starts_with('#') && !l.trim().is_empty())
        .map(|l| {
            let cells: Vec<&str> = l.split('|').map(str::trim).collect();
            let (face, zone) = cells[1].split_once(' ').unwrap();
            Expected {
                t_s: cells[0].parse().ok(),
                face: face.into(),
                zone: zone.into(),
                kind: cells[2].into(),
                condition: (cells[3] != "-").then(|| cells[3].to_owned()),
                measures: cells[4].split(';').map(str::trim).filter(|m| !m.is_empty()).map(str::to_owned).collect(),
            }
        })
        .collect()
}

fn word<T: serde::Serialize>(value: T) -> String {
    serde_json::to_value(value).unwrap().as_str().unwrap().to_owned()
}

fn is(n: &WalkNote, e: &Expected) -> bool {
    let when = match (n.t_s, e.t_s) {
        (Some(a), Some(b)) => (a - b).abs() <= 8.0,
        _ => true,
    };
    // Without a condition in the list, any or none is right: what counts is that it was noted as what it is.
    let condition = e.condition.is_none() || n.condition == e.condition;
    when && n.face.as_deref() == Some(&e.face) && word(n.kind) == e.kind && condition
}

fn has_measure(n: &WalkNote, text: &str) -> bool {
    let wanted = envelope::measure::scan(text);
    let Some(m) = wanted.first().map(|f| &f.measure) else {
        let count: f64 = text.parse().unwrap();
        return n.measures.iter().any(|m| m.value == count);
    };
    n.measures.iter().any(|r| r.quantity == m.quantity && (r.si - m.si).abs() <= 1e-9 * m.si.abs().max(1.0))
}

struct Score {
    found: usize,
    expected: usize,
    read: usize,
    zones: usize,
    measures: (usize, usize),
    told: String,
    sentences: usize,
}

fn score(walk: &str, list: &str) -> Score {
    let walk = read_walk(&WalkInput { walk: walk.to_owned(), ..WalkInput::default() }).unwrap();
    let wanted = expected(list);
    let mut free: Vec<Option<&WalkNote>> = walk.notes.iter().map(Some).collect();
    let mut s = Score {
        found: 0,
        expected: wanted.len(),
        read: walk.notes.len(),
        zones: 0,
        measures: (0, 0),
        told: String::new(),
        sentences: walk.sentences,
    };
    for e in &wanted {
        s.measures.1 += e.measures.len();
        match free.iter().position(|n| n.is_some_and(|n| is(n, e))) {
            Some(i) => {
                let n = free[i].take().unwrap();
                s.found += 1;
                if word(n.zone) == e.zone {
                    s.zones += 1;
                } else {
                    s.told += &format!("  zone   {} instead of {}: {}\n", word(n.zone), e.zone, n.text);
                }
                for m in &e.measures {
                    if has_measure(n, m) {
                        s.measures.0 += 1;
                    } else {
                        s.told +=
                            &format!("  figure {m} not in: {} {:?}\n", n.text, n.measures.iter().map(|m| &m.text).collect::<Vec<_>>());
                    }
                }
            }
            None => s.told += &format!("  missed {:?} {} {} {} {:?}\n", e.t_s, e.face, e.zone, e.kind, e.condition),
        }
    }
    for n in free.into_iter().flatten() {
        s.told += &format!("  extra  {:?} {:?} {} {} {:?} {}\n", n.t_s, n.face, word(n.zone), word(n.kind), n.condition, n.text);
    }
    s
}

/// Precision and recall that every walk must reach, and the share of right zones and readings among the found. The rules were tuned on
/// these three and reached 0.95 on them, and 0.30 and 0.57 on walks they had not seen; the weights were not trained on these three.
const PRECISION: f64 = 0.75;
const RECALL: f64 = 0.87;

fn hold(name: &str, walk: &str, list: &str) {
    let s = score(walk, list);
    assert!(s.sentences >= 60, "{name} is a short walk");
    let share = |a: usize, b: usize| a as f64 / b.max(1) as f64;
    let (precision, recall) = (share(s.found, s.read), share(s.found, s.expected));
    println!(
        "{name}: precision {precision:.3} ({} of {}), recall {recall:.3} ({} of {}), zones {} of {}, readings {} of {}\n{}",
        s.found, s.read, s.found, s.expected, s.zones, s.found, s.measures.0, s.measures.1, s.told
    );
    assert!(precision >= PRECISION && recall >= RECALL, "{name}: precision {precision:.3}, recall {recall:.3}\n{}", s.told);
    assert!(share(s.zones, s.found) >= 0.85 && share(s.measures.0, s.measures.1) >= 0.75, "{name}\n{}", s.told);
}

#[test]
fn the_clinic_as_webvtt() {
    hold("clinic", include_str!("../walks/clinic.vtt"), include_str!("../walks/clinic.expected"));
}

#[test]
fn quarry_row_as_srt() {
    hold("quarry row", include_str!("../walks/quarry-row.srt"), include_str!("../walks/quarry-row.expected"));
}

#[test]
fn the_boathouse_as_plain_lines() {
    hold("boathouse", include_str!("../walks/heron.txt"), include_str!("../walks/heron.expected"));
}

#[test]
fn talk_alone_gives_no_finding() {
    let talk = "Hello everyone.\nWe always check the gutters first.\nLast week I had a roof with every boot torn.\nIf you see a crack like that, call someone.\nWhat is that smell?\nNice ladder.\nThat cost me four hundred dollars.\n";
    let walk = read_walk(&WalkInput { walk: talk.into(), ..WalkInput::default() }).unwrap();
    assert!(walk.notes.iter().all(|n| n.kind == NoteKind::Side), "{:#?}", walk.notes);
    assert_eq!(walk.talk, walk.sentences);
}
