//! Unicode's default word boundaries (Unicode Standard Annex #29, section 4.1, by Mark Davis and others).

use crate::many_bytes::WINDOW;
use crate::span::Span;
use crate::split::Splitter;
use crate::split::window::Window;
use crate::unicode::{self, WordBreak};

/// A token is a stretch between two word boundaries of Unicode that is not white space alone. Punctuation marks and
/// symbols are tokens too; a number takes its sign along (`-5`).
///
/// Scripts that are written without spaces between words (Chinese, Japanese, Thai, Lao, Khmer, Burmese) are split by the dictionaries of
/// the Unicode consortium's segmenter; Unicode's default rules alone would split them letter by letter.
#[derive(Clone, Copy, Debug, Default)]
pub struct Words {
    /// Splits scripts without spaces by the default rules all the same.
    pub without_dictionary: bool,
}

impl Splitter for Words {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let bytes = text.as_bytes();
        let mut at = 0;
        while at < bytes.len() {
            at = self.split_window(text, at, spans);
        }
    }

    fn covers_letters(&self) -> bool {
        true
    }
}

impl Words {
    /// Finds the tokens that begin in the window from `at` on and are known to end there. Returns where the next window begins, which is behind
    /// them. What ASCII alone does not decide is left to the slow rules, token by token.
    fn split_window(&self, text: &str, at: usize, spans: &mut Vec<Span>) -> usize {
        let bytes = text.as_bytes();
        let window = Window::of(bytes, at);
        let words = window.words() | window.joining();
        let others = !(words | window.spaces | window.beyond);
        // Behind the text all is space; behind the window nothing is known.
        let is_last = at + WINDOW >= bytes.len();
        let unclear_ends = window.beyond | (window.middles() & window.beyond >> 1);
        let unclear_others = window.beyond >> 1 | (window.signs & window.digits >> 1);
        let mut starts = (words & !(words << 1)) | others | (window.beyond & !(window.beyond << 1));
        while starts != 0 {
            let place = starts.trailing_zeros() as usize;
            starts &= starts - 1;
            let start = at + place;
            let mut end = None;
            if words >> place & 1 == 1 {
                let length = (words >> place).trailing_ones() as usize;
                let behind = place + length;
                if behind < WINDOW - 1 || is_last {
                    let is_clear = behind >= WINDOW || unclear_ends >> behind & 1 == 0;
                    end = is_clear.then_some(start + length);
                } else if place > 0 {
                    return start;
                }
            } else if others >> place & 1 == 1 {
                if place == WINDOW - 1 && !is_last {
                    return start;
                }
                end = (unclear_others >> place & 1 == 0).then_some(start + 1);
            }
            if let Some(end) = end {
                spans.push(Span { start: start as u32, end: end as u32 });
                continue;
            }
            let end = self.split_slowly(text, start, spans);
            if end >= at + WINDOW {
                return end;
            }
            starts &= u64::MAX << (end - at);
            // What follows may begin within what seemed a word.
            starts |= 1 << (end - at) & !window.spaces;
        }
        at + WINDOW
    }

    /// Finds the token, or those without spaces between them, that begin at `at` or with what stands there. Returns where they end.
    fn split_slowly(&self, text: &str, at: usize, spans: &mut Vec<Span>) -> usize {
        let bytes = text.as_bytes();
        let class = ascii_class(bytes[at]);
        let (mut at, mut end) = (at, None);
        if let Some((space, behind)) = ridden_space(text, at) {
            (at, end) = (space, Some(behind));
        }
        if end.is_none() && (class == OTHER || class == BEYOND) {
            if let Some(end) = signed_number_end(text, at) {
                spans.push(Span { start: at as u32, end: end as u32 });
                return end;
            }
            if class == BEYOND
                && !self.without_dictionary
                && let Some(end) = super::unspaced::split(text, at, spans)
            {
                return end;
            }
        }
        let end = end.or_else(|| ascii_word_end(bytes, at)).unwrap_or_else(|| next_word_boundary(text, at));
        if class == BEYOND {
            // Marks ride on the space before them, which is no part of a token; what nobody sees makes none.
            if !text[at..end].contains(is_seen) {
                return end;
            }
            at += text[at..end].chars().take_while(parts_tokens).map(char::len_utf8).sum::<usize>();
        }
        spans.push(Span { start: at as u32, end: end as u32 });
        end
    }
}

/// Where the space begins that what stands at `at` rides on, and where both end: marks beyond ASCII do, on a plain space.
fn ridden_space(text: &str, at: usize) -> Option<(usize, usize)> {
    let bytes = text.as_bytes();
    let before = *bytes.get(at.checked_sub(1)?)?;
    let rides = ascii_class(bytes[at]) == BEYOND
        && ascii_class(before) == SPACE
        && text[at..].chars().next().is_some_and(|c| is_skipped(unicode::word_break(c)));
    if !rides {
        return None;
    }
    // WB3d keeps plain spaces together.
    let spaces = bytes[..at].iter().rev().take_while(|&&byte| byte == b' ').count();
    let space = at - spaces.max(1);
    let end = next_word_boundary(text, space);
    (end > at).then_some((space, end))
}

/// Whether a character parts tokens and is part of none: white space, or a control character.
fn parts_tokens(c: &char) -> bool {
    unicode::is_white_space(*c) || c.is_control()
}

/// Whether a character is to be seen: direction signs and joiners, which may be part of tokens, make none.
fn is_seen(c: char) -> bool {
    !parts_tokens(&c) && unicode::category(c) != unicode::Category::Format
}

/// The sign that a text begins with, if a number may have it.
pub(super) fn sign_length(text: &str) -> Option<usize> {
    text.chars().next().filter(|c| matches!(c, '-' | '+' | '\u{2212}')).map(char::len_utf8)
}

/// Whether a number with a sign may begin behind this text: what stands there is no word, mark or number that the sign would belong to.
pub(super) fn may_begin_number(before: &str) -> bool {
    before.chars().next_back().is_none_or(|c| {
        unicode::is_white_space(c)
            || matches!(c, '(' | '[' | '{' | '"' | '\'' | '“' | '‘' | '«' | '„' | '=' | '<' | '>')
    })
}

/// Where a number ends that begins with its sign at `at`. The one thing in which a token goes over a boundary of Unicode: what `-5` says is lost
/// without.
fn signed_number_end(text: &str, at: usize) -> Option<usize> {
    let digits = at + sign_length(&text[at..])?;
    let first = text[digits..].chars().next()?;
    if unicode::category(first) != unicode::Category::Digit || !may_begin_number(&text[..at]) {
        return None;
    }
    let end = ascii_word_end(text.as_bytes(), digits).unwrap_or_else(|| next_word_boundary(text, digits));
    let is_number = !text[digits..end].chars().any(|c| unicode::is_letter(c) || c == '_');
    is_number.then_some(end)
}

/// Classes of single bytes for the fast path. A word is a run of `LETTER`, `DIGIT` and `JOINER`.
const OTHER: u8 = 0;
const LETTER: u8 = 1;
const DIGIT: u8 = 2;
const JOINER: u8 = 3;
const MID_LETTER: u8 = 4;
const MID_NUMBER: u8 = 5;
const MID_BOTH: u8 = 6;
const SPACE: u8 = 7;
const BEYOND: u8 = 8;

static ASCII_CLASS: [u8; 256] = {
    let mut table = [OTHER; 256];
    let mut byte = 0;
    while byte < 256 {
        table[byte] = match byte as u8 {
            b'a'..=b'z' | b'A'..=b'Z' => LETTER,
            b'0'..=b'9' => DIGIT,
            b'_' => JOINER,
            b':' => MID_LETTER,
            b',' | b';' => MID_NUMBER,
            b'.' | b'\'' => MID_BOTH,
            // Control characters are no more to be seen than spaces.
            0..=b' ' | 0x7f => SPACE,
            0x80.. => BEYOND,
            _ => OTHER,
        };
        byte += 1;
    }
    table
};

#[inline]
fn ascii_class(byte: u8) -> u8 {
    ASCII_CLASS[usize::from(byte)]
}

/// Where the segment that begins at the boundary `at` ends, if ASCII alone decides it.
#[inline(always)]
fn ascii_word_end(bytes: &[u8], at: usize) -> Option<usize> {
    let class = |at: usize| bytes.get(at).map_or(OTHER, |&byte| ascii_class(byte));
    let first = class(at);
    if !(LETTER..=JOINER).contains(&first) {
        // One character alone, unless something beyond ASCII joins it.
        return (first < SPACE && class(at + 1) != BEYOND).then_some(at + 1);
    }
    let mut end = at;
    loop {
        end += run_of_word_bytes(&bytes[end..]);
        let here = class(end);
        match here {
            BEYOND => return None,
            MID_LETTER | MID_NUMBER | MID_BOTH => {
                let (before, after) = (class(end - 1), class(end + 1));
                if after == BEYOND {
                    return None;
                }
                let joins = before == after
                    && ((before == LETTER && here != MID_NUMBER) || (before == DIGIT && here != MID_LETTER));
                if !joins {
                    return Some(end);
                }
                end += 1;
            }
            _ => return Some(end),
        }
    }
}

/// How many bytes from the start are ASCII letters, digits or `_`.
#[inline]
fn run_of_word_bytes(bytes: &[u8]) -> usize {
    bytes.iter().take_while(|&&byte| (LETTER..=JOINER).contains(&ascii_class(byte))).count()
}

/// Where the segment that begins at the boundary `start` of `text` ends.
///
/// The rules are numbered as in the annex. They need no memory of what stands before a boundary: a boundary is only
/// kept open by what is in the same segment. Cost: one look at each character of the segment, and at those that
/// follow it up to the next that is neither Extend, Format nor ZWJ.
///
/// # Panics
///
/// If `start` is not on a character border of `text`, or is its end.
pub fn next_word_boundary(text: &str, start: usize) -> usize {
    use WordBreak as W;
    let mut rest = text[start..].char_indices();
    let Some((_, first)) = rest.next() else {
        return start;
    };
    // The class of the last character, that of the last one but for Extend, Format and ZWJ (WB4), and that before it.
    let mut last = unicode::word_break(first);
    let (mut solid, mut before_solid) = (last, None);
    let mut flags = usize::from(last == W::RegionalIndicator);
    for (offset, c) in rest {
        let class = unicode::word_break(c);
        let at = start + offset;
        // WB3, WB3a, WB3b
        if last == W::Cr && class == W::Lf {
            return at + 1;
        }
        if is_line_end(last) || is_line_end(class) {
            return at;
        }
        let joined = if (last == W::Zwj && unicode::is_pictographic(c)) // WB3c
            || (last == W::WSegSpace && class == W::WSegSpace) // WB3d
            || is_skipped(class)
        // WB4
        {
            true
        } else {
            let after = || next_solid(text, at + c.len_utf8());
            joins(before_solid, solid, class, after) || {
                // WB15, WB16
                solid == W::RegionalIndicator && class == W::RegionalIndicator && flags % 2 == 1
            }
        };
        if !joined {
            return at;
        }
        last = class;
        if !is_skipped(class) {
            before_solid = Some(solid);
            solid = class;
            flags += usize::from(class == W::RegionalIndicator);
        }
    }
    text.len()
}

fn is_line_end(class: WordBreak) -> bool {
    matches!(class, WordBreak::Cr | WordBreak::Lf | WordBreak::Newline)
}

fn is_skipped(class: WordBreak) -> bool {
    matches!(class, WordBreak::Extend | WordBreak::Format | WordBreak::Zwj)
}

/// The class of the first character from `at` on that rule WB4 does not skip.
fn next_solid(text: &str, at: usize) -> Option<WordBreak> {
    text[at..].chars().map(unicode::word_break).find(|&class| !is_skipped(class))
}

/// Rules WB5 to WB13b: whether `class` belongs to the segment whose last two solid classes are given.
fn joins(
    before: Option<WordBreak>,
    last: WordBreak,
    class: WordBreak,
    after: impl Fn() -> Option<WordBreak>,
) -> bool {
    use WordBreak as W;
    let letter = |class| matches!(class, W::ALetter | W::HebrewLetter);
    let mid_letter = |class| matches!(class, W::MidLetter | W::MidNumLet | W::SingleQuote);
    let mid_number = |class| matches!(class, W::MidNum | W::MidNumLet | W::SingleQuote);
    match (last, class) {
        // WB5, WB8, WB9, WB10
        (l, c) if letter(l) && (letter(c) || c == W::Numeric) => true,
        (W::Numeric, c) if c == W::Numeric || letter(c) => true,
        // WB7a stands before WB6, but both join
        (W::HebrewLetter, W::SingleQuote) => true,
        // WB6, WB7b
        (l, c) if letter(l) && mid_letter(c) => after().is_some_and(letter),
        (W::HebrewLetter, W::DoubleQuote) => after() == Some(W::HebrewLetter),
        // WB7, WB7c
        (l, c) if mid_letter(l) && letter(c) => before.is_some_and(letter),
        (W::DoubleQuote, W::HebrewLetter) => before == Some(W::HebrewLetter),
        // WB11, WB12
        (l, W::Numeric) if mid_number(l) => before == Some(W::Numeric),
        (W::Numeric, c) if mid_number(c) => after() == Some(W::Numeric),
        // WB13, WB13a, WB13b
        (W::Katakana, W::Katakana) => true,
        (W::ALetter | W::HebrewLetter | W::Numeric | W::Katakana | W::ExtendNumLet, W::ExtendNumLet) => true,
        (W::ExtendNumLet, W::ALetter | W::HebrewLetter | W::Numeric | W::Katakana) => true,
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tokens(text: &str) -> Vec<&str> {
        let mut spans = Vec::new();
        Words { without_dictionary: true }.split(text, &mut spans);
        spans.iter().map(|span| span.of(text)).collect()
    }

    /// The slow rules alone, from one boundary to the next, but for signs of numbers.
    fn tokens_by_rules(text: &str) -> Vec<&str> {
        let mut found = Vec::new();
        let mut at = 0;
        while at < text.len() {
            let end = signed_number_end(text, at).unwrap_or_else(|| next_word_boundary(text, at));
            if text[at..end].contains(is_seen) {
                found.push(text[at..end].trim_start_matches(|c| parts_tokens(&c)));
            }
            at = end;
        }
        found
    }

    #[test]
    fn words_marks_and_numbers_are_tokens() {
        let table: &[(&str, &[&str])] = &[
            ("The wardens' hut isn't locked.", &["The", "wardens", "'", "hut", "isn't", "locked", "."]),
            (
                "can\u{2019}t e.g. 3,000.50 a:b x;y",
                &["can\u{2019}t", "e.g", ".", "3,000.50", "a:b", "x", ";", "y"],
            ),
            ("nest_box nest-box", &["nest_box", "nest", "-", "box"]),
            ("l'été naïf\u{301}", &["l'été", "naïf\u{301}"]),
            ("鳥の巣 カタカナ", &["鳥", "の", "巣", "カタカナ"]),
            ("👩\u{200d}🔬🇫🇷🇩🇪", &["👩\u{200d}🔬", "🇫🇷", "🇩🇪"]),
            ("a\u{308}b 1a2 _x", &["a\u{308}b", "1a2", "_x"]),
            (" \u{308}x", &["\u{308}", "x"]),
            (
                "at -5 (+3,000.5) −7 5-6 x-5 a -b ±2 --5 2031-05-04 -5th $-5 +44 20",
                &[
                    "at", "-5", "(", "+3,000.5", ")", "−7", "5", "-", "6", "x", "-", "5", "a", "-", "b", "±",
                    "2", "-", "-", "5", "2031", "-", "05", "-", "04", "-", "5th", "$", "-", "5", "+44", "20",
                ],
            ),
            ("a \u{200f}b \u{ad} c\u{2003}\u{301}", &["a", "b", "c", "\u{301}"]),
            ("\u{200f}a\u{ad}b", &["a\u{ad}b"]),
            ("a\u{1f}b \u{7f} \u{1}\u{301}c", &["a", "b", "\u{301}", "c"]),
            ("\u{a0}\u{2003}", &[]),
            ("", &[]),
        ];
        for (text, expected) in table {
            assert_eq!(&tokens(text), expected, "{text:?}");
        }
    }

    proptest! {
        #[test]
        fn the_fast_path_agrees_with_the_rules(
            text in "[a-cA0-2 '.,:;_\"\n\r\u{301}\u{200d}\u{2019}é\u{5d0}カ🇫👩+-]{0,150}"
        ) {
            prop_assert_eq!(tokens(&text), tokens_by_rules(&text));
        }

        #[test]
        fn any_text_is_covered_but_for_white_space(text in "\\PC{0,40}") {
            let kept: String = tokens(&text).concat();
            let gaps: usize = text.len() - kept.len();
            let white: usize = text.chars().filter(|&c| unicode::is_white_space(c)).map(char::len_utf8).sum();
            prop_assert!(gaps <= white);
        }
    }

    /// A capital and its small letter of the same length split alike, for every character there is but two: letter case
    /// can be changed before or after splitting.
    #[test]
    fn letter_case_moves_no_boundary() {
        let mut moved = Vec::new();
        for c in '\0'..=char::MAX {
            for other in [c.to_lowercase().collect::<String>(), c.to_uppercase().collect::<String>()] {
                let mut chars = other.chars();
                let (Some(changed), None) = (chars.next(), chars.next()) else {
                    continue;
                };
                // The standard library knows characters that are younger than our table.
                if [c, changed].iter().any(|&c| unicode::category(c) == unicode::Category::Other) {
                    continue;
                }
                if changed.len_utf8() == c.len_utf8() && !unicode::splits_alike(c, changed) {
                    moved.push(c);
                }
            }
        }
        assert_eq!(moved, ['\u{345}', 'Ⓜ', 'ⓜ']);
    }
}
