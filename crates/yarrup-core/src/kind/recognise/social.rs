//! What social text has: mentions, hashtags, emoticons, emoji.

use crate::kind::Kind;
use crate::kind::recognise::{changes_script, is_word_character, joins_apart, name_end};
use crate::unicode;

/// The longest run of hashtags with slashes between them that is looked through, in characters.
const LONGEST_RUN: usize = 200;

/// A mention or a hashtag, by the sign at `at`.
pub(super) fn sign(text: &str, at: usize) -> Option<(Kind, usize)> {
    let sign = text[at..].chars().next()?;
    let before = text[..at].chars().next_back();
    // Behind a slash begins the part of an address, unless hashtags stand on both sides: `#a/#b`.
    let behind_hashtag = before == Some('/') && matches!(sign, '#' | '＃') && {
        let run = text[..at - 1].chars().rev().take(LONGEST_RUN).take_while(|c| !c.is_whitespace());
        text[at - 1 - run.map(char::len_utf8).sum::<usize>()..].starts_with(['#', '＃'])
    };
    if !behind_hashtag
        && before.is_some_and(|c| is_word_character(c) || matches!(c, '@' | '#' | '&' | '/' | '＃' | '＠'))
    {
        return None;
    }
    let from = at + sign.len_utf8();
    if matches!(sign, '#' | '＃') {
        let end = name_end(text, from);
        let name = &text[from..end];
        // In Chinese posts a second sign ends it: `#海鸟#`.
        let is_closed = text[end..].starts_with(sign) && name.chars().any(unicode::is_unspaced);
        if !is_closed && joins_apart(text, at, from) {
            return None;
        }
        let end = if is_closed { end + sign.len_utf8() } else { end };
        // A hashtag holds a letter: `#1` is a number with its sign.
        return name.chars().any(unicode::is_letter).then_some((Kind::Hashtag, end));
    }
    if joins_apart(text, at, from) {
        return None;
    }
    let end = changes_script(text, from, name_end(text, from));
    let name = &text[from..end];
    // A name has a letter as well: `@10:50` is a time, `@22` a price.
    if !name.chars().any(unicode::is_letter) {
        return None;
    }
    // A name on another server: `@mira@birds.example.org`.
    if text[end..].starts_with('@') {
        let host = &text.as_bytes()[end + 1..];
        let length =
            host.iter().take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-')).count();
        let server = text[end + 1..end + 1 + length].trim_end_matches(['.', '-']);
        if server.contains('.') {
            return Some((Kind::Mention, end + 1 + server.len()));
        }
    }
    Some((Kind::Mention, end))
}

/// Emoticons that follow no scheme, the longer first where one begins another.
const SIGNS: &[&str] = &[
    "¯\\_(ツ)_/¯",
    "(╯°□°)╯︵ ┻━┻",
    "<3",
    "</3",
    "\\o/",
    "^_^",
    "^^",
    "^.^",
    "-_-",
    "-.-",
    "o_O",
    "O_o",
    "o_o",
    "O_O",
    "o.O",
    "O.o",
    "T_T",
    "T.T",
    ">_<",
    ">.<",
    "xD",
    "XD",
    "x-D",
    "X-D",
    ":3",
    "=3",
    "D:",
    "(-:",
    "(:",
    "(;",
    "(^_^)",
    "(^^)",
    ":'-(",
    ":'-)",
    ":'(",
    ":')",
    ";_;",
    "u_u",
    "*_*",
    "@_@",
    "°_°",
    "ಠ_ಠ",
];

/// The bytes that an emoticon can begin with.
pub(super) static FIRST: [bool; 256] = {
    let mut first = [false; 256];
    let mut sign = 0;
    while sign < SIGNS.len() {
        first[SIGNS[sign].as_bytes()[0] as usize] = true;
        sign += 1;
    }
    let mut eye = 0;
    while eye < EYES.len() {
        first[EYES[eye] as usize] = true;
        eye += 1;
    }
    first[b'>' as usize] = true;
    first
};

/// The bytes that an emoticon can have in the second place: most marks have a space or a letter behind them.
static SECOND: [bool; 256] = {
    let mut second = [false; 256];
    let mut sign = 0;
    while sign < SIGNS.len() {
        second[SIGNS[sign].as_bytes()[1] as usize] = true;
        sign += 1;
    }
    let others = [EYES, NOSES, MOUTHS];
    let mut other = 0;
    while other < others.len() {
        let mut at = 0;
        while at < others[other].len() {
            second[others[other][at] as usize] = true;
            at += 1;
        }
        other += 1;
    }
    second
};

/// What the eyes of an emoticon can be, behind a brow as well.
const EYES: &[u8] = b":;=8xX";
/// What its nose can be.
const NOSES: &[u8] = b"-^o'";

/// An emoticon: eyes, perhaps a nose, a mouth that may be drawn out; or one of a list. Letters must not stand on either side.
pub(super) fn emoticon(text: &str, at: usize) -> Option<(Kind, usize)> {
    let rest = &text[at..];
    let (first, second) = (rest.as_bytes()[0], rest.as_bytes().get(1).copied().unwrap_or_default());
    if !FIRST[usize::from(first)] || !SECOND[usize::from(second)] {
        return None;
    }
    let before = text[..at].chars().next_back();
    let after_word = before.is_some_and(is_word_character);
    let ends = |end: usize| {
        let next = text[at + end..].chars().next();
        next.is_none_or(|c| !is_word_character(c) && !matches!(c, '/' | '\\') || unicode::is_emoji(c))
    };
    if !after_word && let Some(sign) = SIGNS.iter().find(|sign| sign.as_bytes()[..2] == [first, second] && rest.starts_with(**sign))
        && ends(sign.len())
        // `(:` and `D:` are marks between words as often as they are faces.
        && (!matches!(*sign, "(:" | "(;" | "D:" | ":3" | "=3" | "^^") || alone(text, at, at + sign.len()))
        && !(*sign == "D:" && heads_line(text, at, at + sign.len()))
        // `<3` and `=3` have no decimals.
        && !(sign.ends_with('3') && text[at + sign.len()..].starts_with(['.', ',']) && text[at + sign.len() + 1..].starts_with(|c: char| c.is_ascii_digit()))
    {
        return Some((Kind::Emoticon, at + sign.len()));
    }
    let bytes = rest.as_bytes();
    let brow = usize::from(matches!(bytes.first(), Some(b'>')));
    let eyes = *bytes.get(brow)?;
    if !EYES.contains(&eyes) {
        return None;
    }
    let nose =
        usize::from(bytes.get(brow + 1).is_some_and(|byte| NOSES.contains(byte)) && bytes.len() > brow + 2);
    let mut mouth_at = brow + 1 + nose;
    if nose == 1 && !is_mouth(bytes.get(mouth_at).copied()) {
        mouth_at -= 1;
    }
    let nose = mouth_at > brow + 1;
    let mouth = *bytes.get(mouth_at)?;
    if !is_mouth(Some(mouth)) {
        return None;
    }
    // Eyes that are letters or figures need a nose; a face right behind a word needs one too, or `see note:)` were one.
    if (matches!(eyes, b'8' | b'x' | b'X')
        || after_word
        || eyes == b'=' && !matches!(mouth, b')' | b'(' | b'D' | b'P'))
        && !nose
    {
        return None;
    }
    let drawn = bytes[mouth_at..].iter().take_while(|&&byte| byte == mouth).count();
    let repeats = matches!(mouth, b')' | b'(' | b'D' | b'P' | b'*' | b'O' | b'o');
    let end = mouth_at + if repeats { drawn } else { 1 };
    // `:/` begins a path, `://` an address, `::` a scope.
    let vague = matches!(
        mouth,
        b'/' | b'\\'
            | b'|'
            | b'['
            | b']'
            | b'{'
            | b'}'
            | b'@'
            | b'>'
            | b'<'
            | b's'
            | b'S'
            | b'c'
            | b'x'
            | b'X'
            | b'b'
            | b'#'
            | b'$'
    ) && !nose;
    (ends(end) && (!vague || alone(text, at, at + end))).then_some((Kind::Emoticon, at + end))
}

/// What the mouth of an emoticon can be.
const MOUTHS: &[u8] = b")(DdPpbOo0/\\|*[]{}@><$sScxX#";

fn is_mouth(byte: Option<u8>) -> bool {
    byte.is_some_and(|byte| MOUTHS.contains(&byte))
}

/// Whether white space, or the text's ends, stand on both sides; marks that end a sentence may follow.
fn alone(text: &str, start: usize, end: usize) -> bool {
    let before = text[..start].chars().next_back();
    let after = text[end..].chars().next();
    before.is_none_or(char::is_whitespace)
        && after.is_none_or(|c| c.is_whitespace() || matches!(c, '.' | ',' | '!' | '?'))
}

/// Whether a line begins here and goes on: what stands there is a mark of what the line is, as `D:` of a question in Italian.
fn heads_line(text: &str, start: usize, end: usize) -> bool {
    let begins = text[..start].trim_end_matches([' ', '\t']);
    let goes_on = text[end..].trim_start_matches([' ', '\t']);
    (begins.is_empty() || begins.ends_with('\n')) && !goes_on.is_empty() && !goes_on.starts_with(['\n', '\r'])
}

/// The emoji sequence at `at`.
pub(super) fn emoji_at(text: &str, at: usize) -> Option<(Kind, usize)> {
    let length = emoji_length(&text[at..]);
    (length > 0).then_some((Kind::Emoji, at + length))
}

/// How many bytes the emoji sequence at the start of `text` takes; 0 if there is none (Unicode Technical Standard #51).
pub(crate) fn emoji_length(text: &str) -> usize {
    let mut chars = text.char_indices().peekable();
    let Some((_, first)) = chars.next() else {
        return 0;
    };
    let second = chars.peek().map(|&(_, c)| c);
    let keycap = || {
        let mut rest = text[first.len_utf8()..].chars();
        let next = rest.next();
        next == Some('\u{20e3}') || (next == Some('\u{fe0f}') && rest.next() == Some('\u{20e3}'))
    };
    let starts = unicode::is_emoji(first)
        || (unicode::is_pictographic(first)
            && matches!(second, Some('\u{fe0f}' | '\u{1f3fb}'..='\u{1f3ff}')))
        || (matches!(first, '0'..='9' | '#' | '*') && keycap());
    if !starts {
        return 0;
    }
    let is_flag = |c| unicode::word_break(c) == unicode::WordBreak::RegionalIndicator;
    let mut end = first.len_utf8();
    let mut previous = first;
    let mut flags = usize::from(is_flag(first));
    for (at, c) in chars {
        // Variation selector, keycap, joiner, skin tones and tags ride on an emoji; a joiner brings the next one.
        let rides = matches!(c, '\u{fe0f}' | '\u{20e3}' | '\u{200d}' | '\u{1f3fb}'..='\u{1f3ff}' | '\u{e0020}'..='\u{e007f}')
            || (previous == '\u{200d}' && unicode::is_pictographic(c))
            || (is_flag(c) && flags == 1 && is_flag(previous));
        if !rides {
            break;
        }
        flags += usize::from(is_flag(c));
        previous = c;
        end = at + c.len_utf8();
    }
    end
}
