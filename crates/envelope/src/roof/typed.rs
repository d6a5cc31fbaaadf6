//! Lengths as they are typed.

use crate::measure::{self, Quantity};

/// A length as typed, in metres. A bare number is metres.
///
/// # Errors
/// What is wrong with the text, naming the figure.
pub fn metres(what: &str, text: &str) -> Result<f64, String> {
    let shown: String = text.trim().chars().take(40).collect();
    if shown.is_empty() {
        return Err(format!("{what} is missing. Type a length, for example 5.4 m or 18 ft."));
    }
    let value = match shown.parse::<f64>() {
        Ok(v) => v,
        Err(_) => {
            let m = measure::parse(text).map_err(|e| format!("{what}: {e}"))?;
            if m.quantity != Quantity::Length {
                return Err(format!("{what}: \u{201c}{shown}\u{201d} is no length. Type it as 5.4 m, 18 ft or 210 in."));
            }
            m.si
        }
    };
    if value.is_finite() && (0.0..=1000.0).contains(&value) {
        Ok(value)
    } else {
        Err(format!("{what} cannot be {shown}. Type a length from 0 to 1000 m (3280 ft)."))
    }
}

/// A length that must be more than nothing.
pub(crate) fn some_metres(what: &str, text: &str) -> Result<f64, String> {
    metres(what, text)
        .and_then(|v| if v > 0.0 { Ok(v) } else { Err(format!("{what} is nothing. Type a length above 0, for example 5.4 m.")) })
}

/// A height or distance as typed, metres; may be negative.
pub(crate) fn signed(what: &str, text: &str) -> Result<f64, String> {
    let t = text.trim();
    let (sign, rest) = match t.strip_prefix(['-', '−']) {
        Some(rest) => (-1.0, rest),
        None => (1.0, t.strip_prefix('+').unwrap_or(t)),
    };
    if rest.trim().parse::<f64>() == Ok(0.0) {
        return Ok(0.0);
    }
    metres(what, rest).map(|v| sign * v)
}
