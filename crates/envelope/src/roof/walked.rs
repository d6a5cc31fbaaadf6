//! Walls as they are called out on the walk: `18 L 9 L 18 L 9` is length, turn, length, turn.
//!
//! `L` and `R` turn a quarter to the left and right; `L45` or `R 30°` by so much. Lengths are as typed; a bare number is
//! metres. The building is on the left hand when the turns are to the left.

use super::perimeter::Wall;
use super::typed::some_metres;

/// Reads the walls.
///
/// # Errors
/// Names the wall that could not be read.
pub fn walls(text: &str) -> Result<Vec<Wall>, String> {
    // A comma or semicolon may stand after each wall.
    let spaced = text.replace([',', ';'], " ");
    let mut out: Vec<Wall> = Vec::new();
    let mut length = String::new();
    let mut close = |length: &mut String, turn: f64| -> Result<(), String> {
        let wall = out.len() + 1;
        let length_m = some_metres(&format!("Wall {wall}"), length)?;
        length.clear();
        out.push(Wall { length_m, turn_after_deg: turn });
        Ok(())
    };
    let mut words = spaced.split_whitespace().peekable();
    while let Some(word) = words.next() {
        let Some(side) = turn(word) else {
            length.push_str(word);
            length.push(' ');
            continue;
        };
        let angle = match side.1 {
            Some(a) => a,
            // "L 45°": a number with a degree sign after the letter is the angle.
            None => match words.peek().and_then(|w| w.strip_suffix('°')).and_then(|w| w.parse::<f64>().ok()) {
                Some(a) => {
                    words.next();
                    a
                }
                None => 90.0,
            },
        };
        close(&mut length, side.0 * angle)?;
    }
    if !length.trim().is_empty() {
        // The last turn goes without saying: it closes the walk.
        let so_far: f64 = out.iter().map(|w| w.turn_after_deg).sum();
        let last = if so_far < 0.0 { -360.0 - so_far } else { 360.0 - so_far };
        let wall = out.len() + 1;
        out.push(Wall { length_m: some_metres(&format!("Wall {wall}"), &length)?, turn_after_deg: last.clamp(-180.0, 180.0) });
    }
    if out.is_empty() {
        return Err("Type the walls as you walk them, for example 18 L 9 L 18 L 9.".into());
    }
    Ok(out)
}

/// `L`, `R`, `L45`, `R30°`: the side, and the angle when it is said.
fn turn(word: &str) -> Option<(f64, Option<f64>)> {
    let (side, rest) = match word.chars().next()? {
        'L' | 'l' => (1.0, &word[1..]),
        'R' | 'r' => (-1.0, &word[1..]),
        _ => return None,
    };
    if rest.is_empty() || rest.eq_ignore_ascii_case("eft") || rest.eq_ignore_ascii_case("ight") {
        return Some((side, None));
    }
    rest.trim_end_matches('°').parse::<f64>().ok().map(|a| (side, Some(a)))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Vec<(f64, f64)> {
        walls(text).unwrap().iter().map(|w| ((w.length_m * 1e4).round() / 1e4, w.turn_after_deg)).collect()
    }

    #[test]
    fn a_rectangle_as_it_is_called_out() {
        let four = vec![(18.0, 90.0), (9.0, 90.0), (18.0, 90.0), (9.0, 90.0)];
        assert_eq!(read("18 L 9 L 18 L 9"), four);
        assert_eq!(read("18 m L, 9 m L, 18 m L, 9 m L"), four);
        assert_eq!(read("18 left 9 left 18 left 9 left"), four);
        assert_eq!(read("18 R 9 R 18 R 9")[3], (9.0, -90.0), "walked the other way round");
    }

    #[test]
    fn feet_and_other_angles() {
        assert_eq!(read("10 ft L45 10 ft L 45° 5 ft")[..2], [(3.048, 45.0), (3.048, 45.0)]);
        assert_eq!(read("59' 6\" L 30 ft L 59' 6\" L 30 ft")[0], (18.1356, 90.0));
    }

    #[test]
    fn a_wall_that_cannot_be_read_is_named() {
        assert!(walls("18 L nine L 18").unwrap_err().contains("Wall 2"));
        assert!(walls("18 L 0 L 18").unwrap_err().contains("Wall 2"));
        assert!(walls("").unwrap_err().contains("18 L 9"));
        assert!(walls("18 L L 9").unwrap_err().contains("Wall 2"));
    }
}
