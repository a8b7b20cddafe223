//! The lines of a text, and when two of them are the same.

use std::borrow::Cow;
use std::ops::Range;

/// A line: its bytes without the break, and where the break ends.
#[derive(Clone, Debug)]
pub(super) struct Line {
    pub(super) body: Range<usize>,
    pub(super) end: usize,
}

/// The lines of a text. A break is a line feed, with a carriage return before it or not.
pub(super) fn lines_of(text: &str, range: Range<usize>) -> impl Iterator<Item = Line> + '_ {
    let mut at = range.start;
    std::iter::from_fn(move || {
        if at >= range.end {
            return None;
        }
        let start = at;
        let feed = memchr::memchr(b'\n', &text.as_bytes()[at..range.end]);
        at = feed.map_or(range.end, |offset| start + offset + 1);
        let mut end = feed.map_or(range.end, |offset| start + offset);
        if feed.is_some() && text[start..end].ends_with('\r') {
            end -= 1;
        }
        Some(Line { body: start..end, end: at })
    })
}

/// The lines at both ends of a text: those that begin before one place, or at another or behind it.
pub(super) struct Edges {
    head: usize,
    foot: usize,
}

impl Edges {
    /// So many lines at each end, not counting empty ones; all of them where no number is given.
    pub(super) fn of(text: &str, count: Option<usize>) -> Edges {
        let Some(count) = count else { return Edges { head: 0, foot: 0 } };
        let is_full = |line: &&str| !line.trim().is_empty();
        let place = |line: &str| line.as_ptr() as usize - text.as_ptr() as usize;
        let head = text.split('\n').filter(is_full).nth(count);
        let foot = text.rsplit('\n').filter(is_full).nth(count - 1);
        Edges { head: head.map_or(text.len(), place), foot: foot.map_or(0, place) }
    }

    pub(super) fn has(&self, start: usize) -> bool {
        start < self.head || start >= self.foot
    }
}

/// A line as it is compared with others: without white space at its ends, and with all numbers alike if they are to be.
pub(super) fn compared(line: &str, numbers_alike: bool) -> Cow<'_, str> {
    let line = line.trim();
    if !numbers_alike || line.is_empty() {
        return line.into();
    }
    if is_roman(line) {
        return "0".into();
    }
    if !line.contains(char::is_numeric) {
        return line.into();
    }
    let mut alike = String::with_capacity(line.len());
    for c in line.chars() {
        match c.is_numeric() {
            true if alike.ends_with('0') => {}
            true => alike.push('0'),
            false => alike.push(c),
        }
    }
    alike.into()
}

/// Whether a line is a Roman number, in letters of one case.
fn is_roman(line: &str) -> bool {
    let small = line.to_ascii_lowercase();
    if line != small && line != line.to_ascii_uppercase() {
        return false;
    }
    let mut rest = small.trim_start_matches('m');
    for [nine, four, five, one] in [["cm", "cd", "d", "c"], ["xc", "xl", "l", "x"], ["ix", "iv", "v", "i"]] {
        if let Some(behind) = rest.strip_prefix(nine).or_else(|| rest.strip_prefix(four)) {
            rest = behind;
            continue;
        }
        rest = rest.strip_prefix(five).unwrap_or(rest);
        for _ in 0..3 {
            rest = rest.strip_prefix(one).unwrap_or(rest);
        }
    }
    rest.is_empty() && !line.is_empty()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_compared_with_their_numbers_alike_if_asked() {
        for (line, alike) in [
            (" 12 of 118 ", "0 of 0"),
            ("xiv", "0"),
            ("Civil", "Civil"),
            ("civil", "civil"),
            ("iiii", "iiii"),
            ("MCMXCIV", "0"),
            ("MMXXXI", "0"),
            ("v2.10", "v0.0"),
            ("٣ من ١٢", "0 من 0"),
            ("100", "0"),
            ("", ""),
        ] {
            assert_eq!(compared(line, true), alike);
            assert_eq!(compared(line, false), line.trim());
        }
    }
}
