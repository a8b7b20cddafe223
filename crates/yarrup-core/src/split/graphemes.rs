//! Characters as people see them, and runs of them.

use crate::span::Span;
use crate::split::Splitter;
use crate::unicode::{self, GraphemeBreak};

/// A token is a run of `size` characters of a word, a character being an extended grapheme cluster; each begins one character
/// further than the one before. A word that is shorter is a token as it is. White space parts words and is in no token.
#[derive(Clone, Copy, Debug)]
pub struct Characters {
    /// How many characters a token has; 1 or more.
    pub size: usize,
}

impl Splitter for Characters {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        // Where the last characters of the present word begin, as many as a token has.
        let mut begins: std::collections::VecDeque<usize> =
            std::collections::VecDeque::with_capacity(self.size);
        let (mut at, mut made) = (0, false);
        let flush = |begins: &mut std::collections::VecDeque<usize>,
                     made: &mut bool,
                     end: usize,
                     spans: &mut Vec<Span>| {
            if let Some(&start) = begins.front().filter(|_| !*made) {
                spans.push(Span { start: start as u32, end: end as u32 });
            }
            begins.clear();
            *made = false;
        };
        while at < text.len() {
            let end = next_grapheme_boundary(text, at);
            if text[at..end].chars().all(unicode::is_white_space) {
                flush(&mut begins, &mut made, at, spans);
            } else {
                if begins.len() == self.size {
                    begins.pop_front();
                }
                begins.push_back(at);
                if begins.len() == self.size {
                    spans.push(Span { start: begins[0] as u32, end: end as u32 });
                    made = true;
                }
            }
            at = end;
        }
        flush(&mut begins, &mut made, text.len(), spans);
    }

    fn ignores_case(&self) -> bool {
        // No letter differs from its other case in how it joins the next.
        true
    }
}

/// Where the extended grapheme cluster that begins at the boundary `start` of `text` ends (Unicode Standard Annex #29, section 3.1).
///
/// # Panics
///
/// If `start` is not on a character border of `text`.
pub fn next_grapheme_boundary(text: &str, start: usize) -> usize {
    use GraphemeBreak as G;
    let bytes = text.as_bytes();
    // Two ASCII characters that are no carriage return and line feed never join.
    if let (Some(0x20..0x7f), Some(0x20..0x7f)) = (bytes.get(start), bytes.get(start + 1)) {
        return start + 1;
    }
    let mut chars = text[start..].char_indices();
    let Some((_, first)) = chars.next() else { return start };
    let mut last = unicode::grapheme_break(first);
    let mut flags = usize::from(last == G::RegionalIndicator);
    // GB11: whether a pictograph and its extensions came, and whether a joiner is behind them.
    let mut pictograph = unicode::is_pictographic(first);
    let mut joined = false;
    for (offset, c) in chars {
        let class = unicode::grapheme_break(c);
        let joins = match (last, class) {
            (G::Cr, G::Lf) => true,
            (G::Control | G::Cr | G::Lf, _) | (_, G::Control | G::Cr | G::Lf) => false,
            (G::L, G::L | G::V | G::Lv | G::Lvt) | (G::Lv | G::V, G::V | G::T) | (G::Lvt | G::T, G::T) => {
                true
            }
            (_, G::Extend | G::Zwj | G::SpacingMark) | (G::Prepend, _) => true,
            (G::RegionalIndicator, G::RegionalIndicator) => flags % 2 == 1,
            _ => joined && unicode::is_pictographic(c),
        };
        if !joins {
            return start + offset;
        }
        joined = pictograph && class == G::Zwj;
        if unicode::is_pictographic(c) {
            pictograph = true;
        } else if !matches!(class, G::Extend | G::Zwj) {
            pictograph = false;
        }
        flags += usize::from(class == G::RegionalIndicator);
        last = class;
    }
    text.len()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn runs(size: usize, text: &str) -> Vec<&str> {
        let mut spans = Vec::new();
        Characters { size }.split(text, &mut spans);
        spans.iter().map(|span| span.of(text)).collect()
    }

    #[test]
    fn characters_are_what_people_see() {
        assert_eq!(runs(1, "e\u{301}a 👩\u{200d}🔬🇫🇷"), ["e\u{301}", "a", "👩\u{200d}🔬", "🇫🇷"]);
        assert_eq!(runs(3, "terns at sea"), ["ter", "ern", "rns", "at", "sea"]);
        assert_eq!(runs(2, "a bc  "), ["a", "bc"]);
        assert_eq!(runs(2, " \n"), [""; 0]);
    }
}
