//! Single sentences as people say them on a walk, each with the place, kind and condition it must be read as. They were
//! written without looking at the vocabulary; a sentence that gives no note is small talk, a rule, or about elsewhere.

use envelope::round::track::TrackStop;
use envelope::round::{WalkInput, WalkNote, read_walk};
use envelope::site::{Face, Place, Zone};

/// Said standing at the rear, outside: the sentence, its kind and its condition; "" for no note.
const SAID: &[(&str, &str, &str)] = &[
    ("there's moss all over this slope", "defect", "roof-growth-moss"),
    ("these weep holes are all clogged up with mortar", "defect", "brick-weeps-absent"),
    ("I don't see any expansion joints in this whole brick wall", "defect", "brick-joint-absent"),
    ("window on the left has a failed seal, it's all fogged up", "defect", "glass-seal-failed"),
    ("looks like the caulking has failed around the meter", "defect", "wall-sealant-open"),
    ("there's a tree limb rubbing on the roof", "defect", "limb-contact"),
    ("couldn't get in the crawl space, it was locked", "limitation", ""),
    ("soffit has some water staining near the corner, about two feet long", "defect", "soffit-fascia-damaged"),
    ("paint is peeling on the fascia all along", "defect", "trim-finish-failed"),
    ("gutter's pulling away from the fascia, couple of inches", "defect", "gutter-loose-leaking"),
    ("the concrete walkway has settled, it's a trip hazard, about an inch and a half", "defect", "flatwork-settled"),
    ("stucco has a crack running from the window corner to the ground, about an eighth of an inch wide", "defect", "stucco-crack"),
    ("shingles are curling pretty bad, I'd say ten to thirteen years old", "defect", "shingle-mat-showing"),
    ("ridge caps are cracked and lifting", "defect", "ridge-cap-worn"),
    ("there's a hose bib here that doesn't have a vacuum breaker", "defect", "hose-tap-unprotected"),
    ("dryer vent cover is missing the flap", "defect", "dryer-outlet-faulty"),
    ("the deck ledger is not flashed", "defect", "deck-ledger-unflashed"),
    ("one of the stringers is cracked on the stairs, that's a safety hazard", "defect", "deck-wood-decay"),
    ("we're seeing efflorescence on the foundation wall, about three foot high", "defect", "masonry-white-stain"),
    ("gutter's sagging right here in the middle", "defect", "gutter-standing-water"),
    ("big oak tree about five feet from the foundation", "defect", "tree-near-foundation"),
    ("fiber cement siding is touching the soil down here, there's no clearance at all", "defect", "soil-high-at-cladding"),
    ("there's a gap around the electrical conduit where it goes in the wall", "defect", "service-pipe-gap"),
    ("there's a cracked boot on this plumbing vent", "defect", "pipe-boot-torn"),
    ("the flashing on the roof here, somebody just slapped tar on it", "defect", "roof-mastic-patch"),
    ("valley's clean", "good", ""),
    ("I couldn't walk the back slope, it's too steep", "limitation", ""),
    ("the AC unit looks older, I'd have an HVAC guy look at it", "side", ""),
    ("the gutters overflowed here, you can see the streaks", "defect", "gutter-overflow-marks"),
    ("no kick-out where the roof comes down to the wall", "defect", "kickout-missing"),
    ("grading is flat here", "defect", "grade-flat-at-wall"),
    ("nice ladder", "", ""),
    ("you want that to be out at least six feet", "", ""),
    ("I did an inspection yesterday where the basement was flooded because of that", "", ""),
    ("thanks for walking along, mind the step", "", ""),
    ("that cost me four hundred dollars", "", ""),
    ("if you see a crack like that in the foundation, call someone", "", ""),
    ("what is that noise?", "", ""),
    ("we always check the gutters first", "", ""),
    ("it was built in 1998", "", ""),
    ("my brother has a roof with every boot torn", "", ""),
    ("hang on, the dog is loose", "", ""),
];

fn read(sentence: &str) -> Vec<WalkNote> {
    let walk = format!("Now the rear side.\n{sentence}\n");
    read_walk(&WalkInput { walk, ..WalkInput::default() }).unwrap().notes
}

fn kind(n: &WalkNote) -> String {
    serde_json::to_value(n.kind).unwrap().as_str().unwrap().to_owned()
}

#[test]
fn sentences_give_the_note_they_mean_and_talk_gives_none() {
    let mut wrong = Vec::new();
    for (said, meant, condition) in SAID {
        let notes = read(said);
        let right = match (*meant, notes.first()) {
            ("", first) => first.is_none(),
            (meant, Some(n)) => kind(n) == meant && n.condition.as_deref().unwrap_or("") == *condition && n.face.as_deref() == Some("rear"),
            _ => false,
        };
        if !right {
            let got: Vec<_> = notes.iter().map(|n| (kind(n), n.condition.clone(), n.face.clone())).collect();
            wrong.push(format!("{said}: {got:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), SAID.len(), wrong.join("\n"));
}

/// The place is carried along: who moves on is somewhere else afterwards.
#[test]
fn the_place_is_carried_from_sentence_to_sentence() {
    let walk = "Starting at the front.\nGutter is loose.\nGonna walk around to the left side.\nGutter is loose.\nGoing up on the roof now.\nTorn boot.\nBack outside, now the rear.\nSlab tips back to the wall.\n";
    let notes = read_walk(&WalkInput { walk: walk.into(), ..WalkInput::default() }).unwrap().notes;
    let places: Vec<_> =
        notes.iter().map(|n| (n.face.as_deref().unwrap(), serde_json::to_value(n.zone).unwrap().as_str().unwrap().to_owned())).collect();
    let meant = [("front", "edge"), ("left", "edge"), ("left", "roof"), ("rear", "ground")];
    assert_eq!(places, meant.map(|(f, z)| (f, z.to_owned())));
}

/// Faces said by compass are named by compass until somebody says which way the front looks.
#[test]
fn compass_faces_keep_their_names_until_the_front_is_known() {
    let of = |walk: &str| read_walk(&WalkInput { walk: walk.into(), ..WalkInput::default() }).unwrap().notes;
    assert_eq!(of("Now the west side.\nGutter is loose.\n")[0].face.as_deref(), Some("west"));
    assert_eq!(of("Front of the house faces west.\nNow the west side.\nGutter is loose.\n")[0].face.as_deref(), Some("front"));
}

/// Corrections are followed, and told in words.
#[test]
fn corrections_are_followed_and_told() {
    let of = |walk: &str| read_walk(&WalkInput { walk: walk.into(), ..WalkInput::default() }).unwrap();
    let dropped = of("Now the rear.\nTorn boot.\nScratch that, it's only dirt.\n");
    assert!(dropped.notes.is_empty() && dropped.remarks[0].contains("took back"));
    let moved = of("Now the rear.\nGutter is loose.\nNo, left side.\n");
    assert_eq!(moved.notes[0].face.as_deref(), Some("left"));
    let measured = of("Now the rear.\nFascia is rotted for two feet.\nSorry, three feet.\n");
    assert_eq!(measured.notes[0].measures.iter().map(|m| m.text.as_str()).collect::<Vec<_>>(), ["three feet"]);
    let again = of("Now the rear.\nFascia is rotted.\nNow the left side.\nSame thing here.\n");
    let faces: Vec<_> = again.notes.iter().map(|n| (n.face.as_deref().unwrap(), n.condition.as_deref().unwrap())).collect();
    assert_eq!(faces, [("rear", "soffit-fascia-damaged"), ("left", "soffit-fascia-damaged")]);
}

/// The same finding told twice within a minute is one note, with what was added; later it is another.
#[test]
fn what_is_told_twice_is_kept_once() {
    let walk = |second: &str| {
        let text = format!("[0:02] Now the rear.\n[0:05] Fascia is rotted.\n[{second}] Yes the fascia is rotted, two feet of it.\n");
        read_walk(&WalkInput { walk: text, ..WalkInput::default() }).unwrap().notes
    };
    let near = walk("0:20");
    assert_eq!((near.len(), near[0].measures.len()), (1, 1));
    assert_eq!(walk("9:20").len(), 2);
}

/// Who says that it was said already tells it again, however long ago and on whatever face; what is new in the same words is not lost.
#[test]
fn what_is_said_to_have_been_said_is_kept_once() {
    let walk = |second: &str| {
        let text = format!("[0:02] Now the rear.\n[0:05] Fascia is rotted.\n[9:00] Now the left side.\n[9:20] {second}\n");
        let notes = read_walk(&WalkInput { walk: text, ..WalkInput::default() }).unwrap().notes;
        notes.into_iter().filter_map(|n| n.condition).collect::<Vec<_>>()
    };
    assert_eq!(walk("The fascia is rotted."), ["soffit-fascia-damaged"; 2]);
    assert_eq!(walk("The fascia is rotted, like I said."), ["soffit-fascia-damaged"]);
    // "Here too" is another place.
    assert_eq!(walk("As I said, and the fascia is rotted here too."), ["soffit-fascia-damaged"; 2]);
    assert_eq!(walk("As I said, there's a tree limb rubbing on the roof."), ["soffit-fascia-damaged", "limb-contact"]);
}

/// A pronoun is the part that was named before it, also when a sentence that names none lies between.
#[test]
fn it_is_the_part_that_was_named() {
    let found = |walk: &str| -> Vec<String> {
        let input = WalkInput { walk: walk.into(), ..WalkInput::default() };
        read_walk(&input).unwrap().notes.into_iter().filter_map(|n| n.condition).collect()
    };
    for between in ["", "Hold on a second.\n"] {
        let told = found(&format!("Now the rear side.\nHere is the chimney.\n{between}It has no cap on it at all.\n"));
        assert_eq!(told, ["chimney-cap-missing"], "{between}");
        let told = found(&format!("Now the rear side.\nThat is the gutter.\n{between}There is a puddle standing in it.\n"));
        assert_eq!(told, ["gutter-standing-water"], "{between}");
    }
}

/// Who sets no limit and who goes by the usual practice are proposed the same.
#[test]
fn the_usual_limit_is_that_of_the_usual_practice() {
    assert_eq!(envelope::practice::Practice::default().rule("talk-sure").figure(), envelope::round::USUALLY_SURE);
}

/// The practice's limit moves findings between what is proposed and what is a maybe; none is lost.
#[test]
fn what_is_unsure_is_a_maybe_and_never_lost() {
    let walk = include_str!("../walks/heron.txt");
    let at = |sure: f64| read_walk(&WalkInput { walk: walk.into(), sure_from: Some(sure), ..WalkInput::default() }).unwrap();
    let (loose, strict) = (at(0.25), at(0.95));
    let found = |notes: &[WalkNote]| notes.iter().filter(|n| n.condition.is_some()).count();
    assert!(found(&loose.notes) > found(&strict.notes) && found(&strict.maybe) > found(&loose.maybe));
    let conditions = |w: &envelope::round::Walk| {
        let all: std::collections::BTreeSet<String> = w.notes.iter().chain(&w.maybe).filter_map(|n| n.condition.clone()).collect();
        all
    };
    let lost: Vec<String> = conditions(&loose).difference(&conditions(&strict)).cloned().collect();
    assert_eq!(lost, Vec::<String>::new());
    assert!(strict.maybe.iter().chain(&loose.notes).all(|n| (0.0..=1.0).contains(&n.confidence)));
    // What a rule heard is unsure, but nobody heard it for nothing: its chance is its own, not that of a list it fell off.
    let none = strict.maybe.iter().filter(|n| n.condition.is_some() && n.confidence == 0.0).map(|n| &n.text);
    assert_eq!(none.collect::<Vec<_>>(), Vec::<&String>::new());
}

/// Captions end where the line is full, not where the thought is: what is told over their ends is found, and once.
#[test]
fn a_finding_over_the_end_of_a_caption_is_noted_once() {
    let srt = |lines: &[&str]| -> String {
        let one = |(i, l): (usize, &&str)| format!("{}\n00:00:{:02},000 --> 00:00:{:02},900\n{l}\n\n", i + 1, 3 * i, 3 * i + 2);
        lines.iter().enumerate().map(one).collect()
    };
    let found = |lines: &[&str]| -> Vec<String> {
        let input = WalkInput { walk: srt(lines), ..WalkInput::default() };
        read_walk(&input).unwrap().notes.into_iter().filter_map(|n| n.condition).collect()
    };
    let once = |all: &[String], id: &str| all.iter().filter(|c| *c == id).count();
    // Whole in its own caption, with others before and behind it.
    let whole = found(&["now the rear side we had tea", "the gutter is full of leaves and sludge here", "and it's a fine day so on we go"]);
    assert_eq!(whole.len(), 1, "{whole:?}");
    // Cut in the middle.
    let cut = found(&["now the rear side so there's a tear in", "the house wrap by the corner as long", "as your arm and it's a fine day"]);
    assert_eq!(once(&cut, "wrb-hole"), 1, "{cut:?}");
    let cut = found(&["round at the rear the soil is right up", "over the bottom of the siding here", "and we carry on"]);
    assert_eq!(once(&cut, "soil-high-at-cladding"), 1, "{cut:?}");
}

/// A walk that names three places, recorded while the wheel was turned; the recorder's clock is 47 s before the wheel's first place.
fn with_track(began: Option<&str>, lines: &str) -> envelope::round::Walk {
    let stop = |at: &str, place: Option<Place>| TrackStop { at: format!("2026-11-18T10:{at}Z"), place };
    let on = |face, zone| Some(Place::outside(face, zone));
    read_walk(&WalkInput {
        walk: lines.into(),
        track: vec![
            stop("00:00", on(Face::Front, Zone::Base)),
            stop("04:00", on(Face::Left, Zone::Edge)),
            stop("07:30", on(Face::Rear, Zone::Roof)),
            stop("12:00", on(Face::Right, Zone::Base)),
            stop("15:00", None),
        ],
        began: began.map(str::to_owned),
        ..WalkInput::default()
    })
    .unwrap()
}

const RECORDED: &str = "[0:50] Starting at the front.\n[2:00] Mortar is cracked.\n[4:45] Round to the left side.\n\
    [5:20] Gutter is sagging.\n[8:20] Now the rear.\n[10:00] Shingles are curling.\n[13:10] Siding touches the soil.\n[13:20] Right side now.\n";

#[test]
fn a_recording_takes_its_places_from_the_wheel() {
    let w = with_track(None, RECORDED);
    let fit = w.track.unwrap();
    assert!(fit.found && fit.named >= 3 && fit.agree == fit.named, "{fit:?}");
    let began: jiff::Timestamp = fit.began.unwrap().parse().unwrap();
    let truth: jiff::Timestamp = "2026-11-18T09:59:13Z".parse().unwrap();
    assert!((began.as_second() - truth.as_second()).abs() <= 10, "{began}");
    // Said before the words say that they went on, but the wheel knows it.
    let soil = w.notes.iter().find(|n| n.text.contains("soil")).unwrap();
    assert_eq!(soil.face.as_deref(), Some("right"));
    let gutter = w.notes.iter().find(|n| n.text.contains("sagging")).unwrap();
    assert_eq!((gutter.face.as_deref(), gutter.zone), (Some("left"), Zone::Edge));
    // Without the track the soil would be the rear's.
    let alone = read_walk(&WalkInput { walk: RECORDED.into(), ..WalkInput::default() }).unwrap();
    assert_eq!((alone.notes.iter().find(|n| n.text.contains("soil")).unwrap().face.as_deref(), alone.track), (Some("rear"), None));
}

#[test]
fn a_beginning_that_is_told_is_used_and_one_that_cannot_be_found_is_asked_for() {
    let silent = "[2:00] Fascia is rotted.\n[5:20] Gutter is sagging.\n[10:00] Shingles are curling.\n";
    let open = with_track(None, silent);
    let fit = open.track.unwrap();
    assert_eq!((fit.began, fit.named), (None, 0));
    assert!(fit.sentence.contains("say when"), "{}", fit.sentence);
    assert!(open.notes.iter().all(|n| n.face.is_none()), "no place is guessed");
    let told = with_track(Some("2026-11-18T09:59:13Z"), silent);
    let face = |text: &str| told.notes.iter().find(|n| n.text.contains(text)).unwrap().face.clone();
    assert_eq!(
        (face("Fascia").as_deref(), face("sagging").as_deref(), face("curling").as_deref()),
        (Some("front"), Some("left"), Some("rear"))
    );
    // Before the first place and after the last nobody stood anywhere; a text without times is read as it was.
    let far = with_track(Some("2026-11-18T08:00:00Z"), silent);
    assert!(far.notes.iter().all(|n| n.face.is_none()));
    let plain = with_track(None, "Mortar is cracked. Now the rear. Shingles are curling.");
    assert!(plain.track.unwrap().sentence.contains("no times"));
    let wrong =
        read_walk(&WalkInput { walk: silent.into(), track: vec![TrackStop { at: "ten".into(), place: None }], ..WalkInput::default() });
    assert!(wrong.unwrap_err().to_string().contains("no time that can be laid on a track"));
}
