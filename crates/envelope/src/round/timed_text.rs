//! A recorded walk as text: WebVTT, SRT, or plain lines with or without `[m:ss]` marks, cut into timed sentences.

use serde::Serialize;

/// Largest walk file that is read. A day of talk is under a megabyte.
pub const LARGEST_WALK_FILE: usize = 10_000_000;

/// Why a walk file cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum WalkFileError {
    /// The bytes are no text this reads.
    #[error("The file is not UTF-8 text: byte {0} cannot be read. Save it as UTF-8 (or as UTF-16 with a byte order mark) and try again.")]
    Encoding(usize),
    /// Nothing a person could have said in a day.
    #[error("The file has {megabytes} MB; the words of a whole day has under 1 MB. Check that it is the text and not the sound; the most is {most} MB.", most = LARGEST_WALK_FILE / 1_000_000)]
    TooLarge {
        /// Its size.
        megabytes: usize,
    },
    /// Nothing in it.
    #[error("The file has no words in it.")]
    Empty,
    /// The track it is to be laid on.
    #[error(transparent)]
    Track(#[from] super::track::TrackError),
}

/// One sentence as said.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Sentence {
    /// Seconds from the start, when the file says.
    pub t_s: Option<f64>,
    /// The words.
    pub text: String,
}

/// Bytes of a file as text.
///
/// # Errors
/// [`WalkFileError`] for a file that is too large, or in another encoding.
pub fn decode(bytes: &[u8]) -> Result<String, WalkFileError> {
    if bytes.len() > LARGEST_WALK_FILE {
        return Err(WalkFileError::TooLarge { megabytes: bytes.len() / 1_000_000 });
    }
    let wide = |from: usize, read: fn([u8; 2]) -> u16| -> Result<String, WalkFileError> {
        let units = bytes[from..].chunks(2).map(|c| read([c[0], c.get(1).copied().unwrap_or(0)]));
        char::decode_utf16(units).enumerate().map(|(i, c)| c.map_err(|_| WalkFileError::Encoding(from + 2 * i))).collect()
    };
    match (bytes, unmarked_utf16(bytes)) {
        ([0xff, 0xfe, ..], _) => wide(2, u16::from_le_bytes),
        ([0xfe, 0xff, ..], _) => wide(2, u16::from_be_bytes),
        (_, Some(first_is_low)) => wide(0, if first_is_low { u16::from_le_bytes } else { u16::from_be_bytes }),
        _ => {
            let text = std::str::from_utf8(bytes).map_err(|e| WalkFileError::Encoding(e.valid_up_to()))?;
            Ok(text.trim_start_matches('\u{feff}').to_owned())
        }
    }
}

/// UTF-16 without its mark: text of any western language has a zero in nearly every second byte, and UTF-8 text has hardly any.
/// Gives whether the first byte of each pair is the low one.
fn unmarked_utf16(bytes: &[u8]) -> Option<bool> {
    /// The beginning is enough to tell.
    const LOOKED_AT: usize = 4096;
    let pairs: Vec<&[u8]> = bytes.chunks_exact(2).take(LOOKED_AT / 2).collect();
    let zeros = |at: usize| pairs.iter().filter(|p| p[at] == 0).count();
    let (first, second, half) = (zeros(0), zeros(1), pairs.len().div_ceil(2));
    (!pairs.is_empty() && first.max(second) > half && first.min(second) * 8 < first.max(second)).then_some(second > first)
}

/// A piece of text with the time it starts at.
struct Piece {
    start: Option<f64>,
    end: Option<f64>,
    text: String,
}

/// Cuts a walk file into sentences in order.
///
/// # Errors
/// [`WalkFileError::Empty`] when there are no words, [`WalkFileError::TooLarge`] beyond [`LARGEST_WALK_FILE`].
pub fn sentences(text: &str) -> Result<Vec<Sentence>, WalkFileError> {
    if text.len() > LARGEST_WALK_FILE {
        return Err(WalkFileError::TooLarge { megabytes: text.len() / 1_000_000 });
    }
    let timed = text.lines().any(|l| cue_times(l).is_some());
    let pieces = if timed { cues(text) } else { plain(text) };
    let out: Vec<Sentence> = joined(pieces, timed).iter().flat_map(|run| split(run)).collect();
    if out.is_empty() { Err(WalkFileError::Empty) } else { Ok(out) }
}

/// `00:01:02.500 --> 00:01:05.000`, with a dot or a comma, hours or none.
fn cue_times(line: &str) -> Option<(f64, f64)> {
    let (from, rest) = line.split_once("-->")?;
    Some((clock(from.trim())?, clock(rest.split_whitespace().next()?)?))
}

/// `1:02`, `01:02:03`, `01:02.5`, `00:01:02,500` as seconds.
fn clock(text: &str) -> Option<f64> {
    let mut total = 0.0;
    let parts: Vec<&str> = text.split(':').collect();
    if !(2..=3).contains(&parts.len()) {
        return None;
    }
    for (i, part) in parts.iter().enumerate() {
        let last = i + 1 == parts.len();
        let plain = part.replace(',', ".");
        if plain.is_empty() || !plain.chars().all(|c| c.is_ascii_digit() || last && c == '.') {
            return None;
        }
        total = total * 60.0 + plain.parse::<f64>().ok()?;
    }
    Some(total)
}

/// The cues of WebVTT and SRT: what stands between a line of times and the next blank line or line of times.
fn cues(text: &str) -> Vec<Piece> {
    let mut out: Vec<Piece> = Vec::new();
    let mut open: Option<Piece> = None;
    let mut last_line = String::new();
    for line in text.lines() {
        let line = line.trim();
        if let Some((start, end)) = cue_times(line) {
            out.extend(open.take());
            open = Some(Piece { start: Some(start), end: Some(end), text: String::new() });
        } else if line.is_empty() {
            out.extend(open.take());
        } else if let Some(cue) = &mut open {
            let words = plain_words(line);
            // Captions that roll repeat the line before.
            if !words.is_empty() && words != last_line {
                if !cue.text.is_empty() {
                    cue.text.push(' ');
                }
                cue.text.push_str(&words);
                last_line = words;
            }
        }
    }
    out.extend(open);
    out.retain(|p| !p.text.is_empty());
    out
}

/// Words without the marks captions carry: `<v Name>`, `<c>`, `&amp;`.
fn plain_words(line: &str) -> String {
    let mut out = String::new();
    let mut in_tag = false;
    for c in line.chars() {
        match c {
            '<' => in_tag = true,
            '>' if in_tag => in_tag = false,
            _ if !in_tag => out.push(c),
            _ => {}
        }
    }
    let out = out.replace("&nbsp;", " ").replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&");
    out.trim_start_matches("- ").trim_start_matches(">> ").trim().to_owned()
}

/// Plain lines; a mark `[m:ss]` or `m:ss` in front gives the time from there on.
fn plain(text: &str) -> Vec<Piece> {
    let mut now = None;
    let mut out = Vec::new();
    for line in text.lines() {
        let line = line.trim();
        let mut words = line;
        if let Some((mark, rest)) = line.strip_prefix('[').or_else(|| line.strip_prefix('(')).and_then(|l| l.split_once([']', ')']))
            && let Some(t) = clock(mark.trim())
        {
            now = Some(t);
            words = rest.trim();
        } else if let Some((mark, rest)) = line.split_once(char::is_whitespace)
            && let Some(t) = clock(mark.trim_end_matches([':', '-', ',']))
        {
            now = Some(t);
            words = rest.trim();
        }
        if !words.is_empty() {
            out.push(Piece { start: now, end: None, text: words.to_owned() });
        }
    }
    out
}

/// Captions cut sentences anywhere: where full stops are written, what does not end in one goes on in the next cue.
fn joined(pieces: Vec<Piece>, timed: bool) -> Vec<Vec<(Option<f64>, String)>> {
    /// Longer silences end a sentence, full stop or not. Rule of practice.
    const PAUSE_S: f64 = 2.5;
    let ends = |t: &str| t.trim_end_matches(['"', '\u{201d}']).ends_with(['.', '?', '!']);
    let punctuated = timed && pieces.iter().filter(|p| ends(&p.text)).count() * 4 > pieces.len();
    let mut out: Vec<Vec<(Option<f64>, String)>> = Vec::new();
    let mut goes_on = false;
    let mut until = None;
    for p in pieces {
        let near = match (until, p.start) {
            (Some(a), Some(b)) => b - a <= PAUSE_S,
            _ => true,
        };
        let next = punctuated && !ends(&p.text);
        if goes_on && near {
            if let Some(last) = out.last_mut() {
                last.push((p.start, p.text));
            }
        } else {
            out.push(vec![(p.start, p.text)]);
        }
        goes_on = next;
        until = p.end;
    }
    out
}

/// Abbreviations whose full stop ends no sentence.
const SHORT_FORMS: [&str; 14] = ["in", "ft", "sq", "approx", "no", "st", "mr", "mrs", "ms", "dr", "vs", "etc", "yd", "max"];
/// Talk without full stops is cut at a new thought once it is this long, and anywhere at the second figure.
const LONG_SENTENCE: usize = 25;
const LONGEST_SENTENCE: usize = 45;
const NEW_THOUGHT: [&str; 10] = ["so", "now", "okay", "ok", "then", "but", "alright", "also", "and", "moving"];

fn split(run: &[(Option<f64>, String)]) -> Vec<Sentence> {
    let words: Vec<(Option<f64>, &str)> = run.iter().flat_map(|(t, text)| text.split_whitespace().map(|w| (*t, w))).collect();
    let mut out = Vec::new();
    let mut start = 0;
    for i in 0..words.len() {
        let word = words[i].1;
        let bare = word.trim_end_matches(['.', '?', '!', '"', '\u{201d}', ')']);
        let next = words.get(i + 1).map(|w| w.1);
        let stops = word.len() > bare.len() && word[bare.len()..].contains(['.', '?', '!']);
        let short = word.ends_with('.')
            && SHORT_FORMS.contains(&bare.to_lowercase().as_str())
            && next.is_some_and(|n| n.starts_with(char::is_lowercase));
        let long = i + 1 - start;
        let thought = next.is_some_and(|n| NEW_THOUGHT.contains(&n.to_lowercase().as_str()));
        if stops && !short || long >= LONGEST_SENTENCE || long >= LONG_SENTENCE && thought || i + 1 == words.len() {
            let text = words[start..=i].iter().map(|w| w.1).collect::<Vec<_>>().join(" ");
            out.push(Sentence { t_s: words[start].0, text });
            start = i + 1;
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(text: &str) -> Vec<String> {
        sentences(text).unwrap().iter().map(|s| format!("{:?} {}", s.t_s, s.text)).collect()
    }

    #[test]
    fn three_forms_give_the_same_sentences() {
        let vtt = "WEBVTT\n\nNOTE made by hand\n\n1\n00:00:04.000 --> 00:00:06.000\n<v Ida>The gutter is full\n\n00:00:06.500 --> 00:00:09.000 align:start\nof leaves. Now the left side.\n";
        let srt = "1\r\n00:00:04,000 --> 00:00:06,000\r\nThe gutter is full\r\n\r\n2\r\n00:00:06,500 --> 00:00:09,000\r\nof leaves. Now the left side.\r\n";
        let plain = "[0:04] The gutter is full of leaves.\n0:06.5 Now the left side.\n";
        let meant = ["Some(4.0) The gutter is full of leaves.", "Some(6.5) Now the left side."];
        for text in [vtt, srt, plain] {
            assert_eq!(shown(text), meant);
        }
        assert_eq!(shown("gutter full of leaves\nleft side"), ["None gutter full of leaves", "None left side"]);
    }

    #[test]
    fn a_full_stop_after_a_unit_or_in_a_number_ends_nothing() {
        assert_eq!(shown("About 6.5 in. of mulch here. Fine."), ["None About 6.5 in. of mulch here.", "None Fine."]);
    }

    #[test]
    fn captions_that_roll_are_said_once() {
        let text = "WEBVTT\n\n0:01.0 --> 0:02.0\nno cricket here.\n\n0:02.0 --> 0:03.0\nno cricket here.\ntorn boot.\n";
        assert_eq!(shown(text).len(), 2);
    }

    #[test]
    fn what_is_no_walk_file_is_refused_with_what_to_do() {
        assert_eq!(decode(b"gutter \xff\xfe loose"), Err(WalkFileError::Encoding(7)));
        assert_eq!(decode(&vec![b'a'; 50_000_000]), Err(WalkFileError::TooLarge { megabytes: 50 }));
        assert_eq!(sentences(" \n\n"), Err(WalkFileError::Empty));
        let wide: Vec<u8> = [0xff, 0xfe].into_iter().chain("crack".encode_utf16().flat_map(u16::to_le_bytes)).collect();
        assert_eq!(decode(&wide).as_deref(), Ok("crack"));
    }
}
