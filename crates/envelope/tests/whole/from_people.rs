//! Whatever is typed, said or pasted: it is read or refused, nothing of it is lost, and it never ends the program.

use envelope::measure;
use envelope::round::{Context, WalkInput, decode, read, read_walk};
use envelope::site::{Face, Place, Zone};
use proptest::prelude::*;

/// Pieces of real lines in any order, with odd signs between them.
fn line() -> impl Strategy<Value = String> {
    let piece = prop::sample::select(vec![
        "gutter",
        "torn boot",
        "no kickout",
        "6 1/2 in",
        "1/0 in",
        "3'4\"",
        "6 in by 2 percent",
        "W2",
        "rear",
        "no, west",
        "scratch that",
        "same here",
        "make that 3 ft",
        "1e999 m",
        "½",
        "\u{202e}",
        "\u{0}",
        "🧱",
        "ß",
        "--",
        ",",
        ";",
        ".",
        "12:30",
        "2.4.5 ft",
        "-5 mm",
        "slab tips back 1%",
        "now the north side",
    ]);
    prop::collection::vec(piece, 0..14).prop_map(|p| p.join(" "))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn the_pieces_of_any_line_are_the_line(line in line()) {
        let r = read(&line, &Context::at(Place::outside(Face::Rear, Zone::Edge), None));
        prop_assert_eq!(r.fragments.iter().map(|f| f.text.as_str()).collect::<String>(), line);
        for n in r.notes {
            n.into_note(String::new()).check().unwrap();
        }
    }

    #[test]
    fn any_text_is_a_measure_or_says_what_is_missing(text in "\\PC{0,260}") {
        match measure::parse(&text) {
            Ok(m) => prop_assert!(m.si.is_finite(), "{:?}", m),
            Err(e) => prop_assert!(e.to_string().len() > 20),
        }
    }

    #[test]
    fn any_bytes_are_a_walk_or_refused(bytes in prop::collection::vec(any::<u8>(), 0..300), lines in prop::collection::vec(line(), 0..6)) {
        let _ = decode(&bytes);
        let text = format!("WEBVTT\n\n00:01.000 --> 00:02.000\n{}", lines.join("\n\n00:0x.000 --> 99:99\n"));
        for walk in [text.clone(), lines.join("\n"), String::from_utf8_lossy(&bytes).into_owned()] {
            let _ = read_walk(&WalkInput { walk, ..WalkInput::default() });
        }
        // The same text reads the same in every encoding, with its mark or without.
        let wide = |order: fn(u16) -> [u8; 2]| text.encode_utf16().flat_map(order).collect::<Vec<u8>>();
        prop_assert_eq!(decode(&wide(u16::to_le_bytes)).unwrap(), text.clone());
        prop_assert_eq!(decode(&wide(u16::to_be_bytes)).unwrap(), text);
    }
}
