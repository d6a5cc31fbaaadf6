use super::said::words_of;
use super::*;
use proptest::prelude::*;
use std::collections::{HashMap, HashSet};

fn best(text: &str) -> (Option<&'static str>, f64) {
    let chances = Model::shipped().chances(&hear(text, &Before::default()));
    let (class, p) = chances.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).unwrap();
    (class_id(class), *p)
}

/// Sentences that stand neither in the corpus nor in a walk.
#[test]
fn what_it_has_never_heard() {
    for (said, id) in [
        ("the guttering on the porch has come away from its board", "gutter-loose-leaking"),
        ("can't see a single weep in that brickwork", "brick-weeps-absent"),
        ("rotten fascia above the bay, a pen goes straight in", "soffit-fascia-damaged"),
        ("those slates have slid, there's two hanging over the edge", "tile-broken-slipped"),
        ("the lawn tips down to the back wall", "grade-toward-wall"),
        ("somebody has tarred over the split in that lead", "roof-mastic-patch"),
        ("the pane in the stair window is misted between the two sheets of glass", "glass-seal-failed"),
        ("nine hail hits in the square on the east slope", "hail-bruise"),
    ] {
        let (found, p) = best(said);
        assert_eq!(found, Some(id), "{said}: {p:.2}");
    }
    for said in ["I had eggs for breakfast", "we'll start with the tall ladder", "his cousin built the place in eighty four"] {
        assert_eq!(best(said).0, None, "{said}");
    }
}

/// Every condition is taught by enough sentences, none of them twice, and none is taken from a walk.
#[test]
fn the_sentences_it_learns_from() {
    let dir = concat!(env!("CARGO_MANIFEST_DIR"), "/talk");
    let read = |d: &str| {
        let mut files: Vec<_> = std::fs::read_dir(d).unwrap().map(|e| e.unwrap().path()).filter(|p| !p.is_dir()).collect();
        files.sort();
        files
            .into_iter()
            .filter(|p| p.extension().is_some_and(|e| e == "txt" || e == "vtt"))
            .map(|p| (p.clone(), std::fs::read_to_string(p).unwrap()))
            .collect::<Vec<_>>()
    };
    let walks: String = read(&format!("{dir}/walks")).into_iter().map(|(_, t)| words_of(&t).join(" ")).collect::<Vec<_>>().join(" ");
    let (mut of, mut seen) = (HashMap::<String, usize>::new(), HashMap::new());
    for (path, text) in read(dir).into_iter().filter(|(p, _)| !p.ends_with("concepts.txt")) {
        let mut id = String::new();
        for line in text.lines().map(str::trim).filter(|l| !l.is_empty() && !l.starts_with('#')) {
            if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
                assert!(name == "none" || class_of(name).is_some(), "{}: {name}", path.display());
                id = name.to_owned();
                continue;
            }
            *of.entry(id.clone()).or_default() += 1;
            if let Some(other) = seen.insert(line.to_lowercase(), id.clone()) {
                assert_eq!(other, id, "\u{201c}{line}\u{201d} teaches two conditions");
            }
            let words = words_of(line);
            assert!(words.len() < 7 || !walks.contains(&words.join(" ")), "\u{201c}{line}\u{201d} stands in a walk");
        }
    }
    for c in &vocabulary().conditions {
        assert!(of.get(&c.id).is_some_and(|n| *n >= 5), "{}: {:?}", c.id, of.get(&c.id));
    }
    assert!(of["none"] >= 400, "{}", of["none"]);
}

#[test]
fn damaged_weights_are_refused() {
    let bytes = include_bytes!("../../../../talk/weights.bin");
    assert!(bytes.len() < 3_000_000, "{} bytes", bytes.len());
    assert!(Model::read(&bytes[..bytes.len() - 1]).is_err() && Model::read(&[]).is_err());
    let mut other = bytes.to_vec();
    other[0] ^= 1;
    assert!(Model::read(&other).is_err(), "weights for another catalogue");
    // A row for a class beyond the catalogue: the first row's class, after the head of counts and figures and of its bucket.
    let mut beyond = bytes.to_vec();
    let first = 2 + 4 * classes() + 4 * TIED + 4 + 4 + 3;
    assert!(beyond[first - 1] > 0 && usize::from(beyond[first]) < classes());
    beyond[first] = u8::try_from(classes()).unwrap();
    assert!(Model::read(&beyond).is_err(), "a class the catalogue has not");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    /// Whatever is said: chances are chances and add up to one, and no condition is proposed twice.
    #[test]
    fn any_talk_has_chances(said in "[a-zA-Z ,.?'0-9\u{e9}]{0,160}", before in "[a-z ]{0,40}") {
        let chances = Model::shipped().chances(&hear(&said, &Before::of(&before)));
        prop_assert!((chances.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        prop_assert!(chances.iter().all(|p| (0.0..=1.0).contains(p)));
        let found = propose(Model::shipped(), &said, &Before::of(&before), 0.1);
        let classes: HashSet<usize> = found.iter().map(|f| f.class).collect();
        prop_assert_eq!(classes.len(), found.len());
        prop_assert!(found.windows(2).all(|w| w[0].p >= w[1].p));
    }

    /// A stretch weighed as a difference of sums is its features weighed one by one, whatever is said and whatever was said before it; and
    /// what is passed over has no chance that would be proposed.
    #[test]
    fn sums_weigh_what_features_weigh(
        said in "((the |a |is |and |no |if )?(gutter|fascia|Chimney|leaking|loose|rotten|3/8 in|caf\u{e9}|weep holes|isn't)[,.?\u{2014} ] ?){1,24}",
        before in "((the |now )?(roof|gutter|it|rain) ){0,12}[.]?",
        least in 0.0f64..0.9,
    ) {
        let model = Model::shipped();
        let earlier = Before::of(&before);
        reading(&before, &said, |s| {
            let mut weighing = Weighing::new(model, s, &earlier);
            let all = s.stretches();
            prop_assert_eq!(&all[0], &s.sentence());
            for words in all {
                let slow = model.chances(&s.heard(&words, &earlier));
                match weighing.chances(&words, least) {
                    Some(quick) => prop_assert!(quick.iter().zip(&slow).all(|(a, b)| (a - b).abs() < 1e-12)),
                    None => prop_assert!(slow[..classes() - 1].iter().all(|p| *p < least)),
                }
            }
            Ok(())
        })?;
    }
}

fn stretches(before: &str, said: &str) -> Vec<String> {
    reading(before, said, |s| s.stretches().iter().map(|words| s.text(words).to_owned()).collect())
}

/// Clauses by their signs and by *and*, two neighbours together, long talk in pieces, and over the end of a caption; in the words as said.
#[test]
fn what_may_be_a_finding_by_itself() {
    assert_eq!(
        stretches("", "Gutter is loose at the end and the fascia behind it is rotten; valley's fine."),
        [
            "Gutter is loose at the end and the fascia behind it is rotten; valley's fine.",
            "Gutter is loose at the end",
            "and the fascia behind it is rotten;",
            "valley's fine.",
            "Gutter is loose at the end and the fascia behind it is rotten;",
            "and the fascia behind it is rotten; valley's fine.",
        ]
    );
    assert_eq!(stretches("", "Six and seven, 6:12 and 1.5 in"), ["Six and seven, 6:12 and 1.5 in", "Six and seven,", "6:12 and 1.5 in"]);
    let run: Vec<String> = (1..=20).map(|k| format!("w{k}")).collect();
    let pieces = stretches("", &run.join(" "));
    assert_eq!(pieces[0], run.join(" "));
    assert_eq!(pieces[1], run[..11].join(" "));
    assert!(run.iter().all(|w| pieces[1..].iter().any(|p| p.split(' ').any(|x| x == w))), "no word is left out: {pieces:?}");
    let over = stretches("there is a crack", "in the sill here");
    assert!(over.contains(&"is a crack in the sill here".to_owned()), "{over:?}");
    assert_eq!(stretches("There is a crack.", "in the sill here"), ["in the sill here"], "what has ended is not gone on with");
    assert!(stretches("", " \u{2014} ?!")[0].contains('!') && stretches("", "")[0].is_empty());
}
