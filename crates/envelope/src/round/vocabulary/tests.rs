use super::*;
use proptest::prelude::*;

#[test]
fn words_and_catalogue_name_the_same_conditions() {
    let said: HashSet<_> = vocabulary().conditions.iter().map(|c| c.id.as_str()).collect();
    let known: HashSet<_> = catalogue().rows().iter().map(|r| r.id.as_str()).collect();
    assert_eq!(said, known);
    assert!(vocabulary().conditions.iter().all(|c| !c.components.is_empty() && !c.zones.is_empty()));
    let homeless: Vec<&str> = vocabulary()
        .components
        .iter()
        .zip(&vocabulary().component_zone)
        .filter(|(_, z)| z.is_none())
        .map(|(c, _)| c.key.as_str())
        .collect();
    assert_eq!(homeless, ["access", "history"], "every part of the building has a zone");
    let covered: HashSet<usize> = vocabulary().conditions.iter().filter_map(|c| c.covering).collect();
    assert_eq!(covered.len(), 5, "every covering has conditions");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]
    /// Looked up by numbers, a line gives what comparing its words with every entry gives: none more, none less.
    #[test]
    fn numbers_find_what_words_say(picked in proptest::collection::vec((0usize..5000, any::<bool>()), 1..6)) {
        let v = vocabulary();
        let words: HashMap<u32, &str> = v.numbers.iter().map(|(w, n)| (*n, w.as_str())).collect();
        let all: Vec<(Vec<&str>, Sense)> =
            v.by_first.iter().flatten().map(|e| (e.stems.iter().map(|n| words[n]).collect(), e.sense)).collect();
        // Entries one after the other, some with a word between that stands in none.
        let mut line: Vec<&str> = vec![];
        for (k, apart) in &picked {
            line.extend(&all[k % all.len()].0);
            if *apart {
                line.push("zzyzx");
            }
        }
        let numbered: Vec<u32> = line.iter().map(|w| v.number(w)).collect();
        for i in 0..line.len() {
            let found: Vec<(usize, Sense)> = v.at(&numbered, i).map(|(e, len)| (len, e.sense)).collect();
            let said: Vec<&(Vec<&str>, Sense)> = all.iter().filter(|(w, _)| line[i..].starts_with(w)).collect();
            prop_assert_eq!(found.len(), said.len(), "{:?} at {}", line, i);
            prop_assert!(said.iter().all(|(w, sense)| found.contains(&(w.len(), *sense))));
            prop_assert!(found.windows(2).all(|w| w[0].0 >= w[1].0), "longest first");
        }
    }
}

#[test]
fn forms_of_a_word_share_a_stem() {
    for group in [
        &["crack", "cracks", "cracked", "cracking"][..],
        &["rot", "rots", "rotted", "rotting"],
        &["leave", "leaves"],
        &["damage", "damaged", "damages"],
        &["body", "bodies"],
    ] {
        let stems: HashSet<_> = group.iter().map(|w| stem(w)).collect();
        assert_eq!(stems.len(), 1, "{group:?} {stems:?}");
    }
    assert_ne!(stem("moss"), stem("mos"));
    assert_eq!(stem("é"), "é");
}
