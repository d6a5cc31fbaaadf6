//! Which piece lies over which, where the words say it: the upper over the lower sheds water, the lower over the upper leads it in.

use super::{NoteKind, ReadNote};

/// Pieces by where they sit, from the lowest: sill, sides, head.
const LOW: [&str; 6] = ["bottom", "sill", "lower", "below", "base", "pan"];
const SIDE: [&str; 5] = ["side", "sides", "jamb", "jambs", "edges"];
const HIGH: [&str; 4] = ["top", "head", "upper", "above"];
const OVER: [&str; 2] = ["over", "outside"];
const UNDER: [&str; 4] = ["under", "behind", "beneath", "inside"];

fn rank(word: &str) -> Option<u8> {
    [&LOW[..], &SIDE[..], &HIGH[..]].iter().position(|list| list.contains(&word)).map(|r| r as u8)
}

/// True when an upper piece is said to lie over a lower one, false when the other way round; none when nothing is said of it.
fn shingled(text: &str) -> Option<bool> {
    let lower = text.to_lowercase();
    let words: Vec<&str> = lower.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).collect();
    let at = words.iter().position(|w| OVER.contains(w) || UNDER.contains(w))?;
    /// A piece is named at most so many words from the one word that orders them.
    const NEAR: usize = 4;
    let first = words[..at].iter().rev().take(NEAR).find_map(|w| rank(w))?;
    let second = words[at + 1..].iter().take(NEAR).find_map(|w| rank(w))?;
    let (over, under) = if OVER.contains(&words[at]) { (first, second) } else { (second, first) };
    (over != under).then_some(over > under)
}

/// Flashing tape that is said to lie in an order is right or wrong by that order, whatever else the words sound like.
pub(super) fn put_in_order(note: &mut ReadNote) {
    const RIGHT: &str = "flash-tape-lap-ok";
    const REVERSED: &str = "flash-tape-lap-reversed";
    if !note.condition.as_deref().is_some_and(|c| c == RIGHT || c == REVERSED) {
        return;
    }
    let Some(right) = shingled(&note.text) else { return };
    note.condition = Some(if right { RIGHT } else { REVERSED }.into());
    note.kind = if right { NoteKind::Good } else { NoteKind::Defect };
}

#[cfg(test)]
mod tests {
    use super::shingled;

    #[test]
    fn the_order_of_the_pieces_decides() {
        for (text, right) in [
            ("window flashing taped bottom over top", Some(false)),
            ("window flashing taped top over bottom", Some(true)),
            ("head strip behind the sides", Some(false)),
            ("sides lapped over the sill", Some(true)),
            ("sill tape tucked under the jambs", Some(true)),
            ("top under sides", Some(false)),
            ("tape all over the place", None),
            ("top over top", None),
            ("shingled", None),
        ] {
            assert_eq!(shingled(text), right, "{text}");
        }
    }
}
