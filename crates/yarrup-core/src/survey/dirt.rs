//! What stands in raw text and is no language: markup, links, signs of broken encodings and the like.

use std::ops::Range;

use unicode_normalization::{IsNormalized, UnicodeNormalization as _, is_nfc_quick};

use crate::kind::{Kind, recognise};
use crate::step::Operation;
use crate::steps::text::erase::ERASE;
use crate::steps::text::lines::LINES;
use crate::steps::text::markup::{ENTITIES, MARKUP, find_markup};
use crate::steps::text::mask::MASK;
use crate::steps::text::repeats::{REPEATS, is_drawn_out};
use crate::steps::text::unicode::{UNICODE, repaired};
use crate::survey::{Order, Place};

/// A sort of dirt.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(usize)]
#[allow(missing_docs, reason = "`words` says it")]
pub enum Dirt {
    Markup,
    Entities,
    Links,
    Addresses,
    Mentions,
    Hashtags,
    Emoticons,
    Emoji,
    Elongated,
    Typography,
    OddSpaces,
    Invisible,
    Control,
    Unnormalised,
    Misdecoded,
    Replaced,
    LineHyphens,
}

impl Dirt {
    /// All of them.
    pub const ALL: [Dirt; 17] = [
        Dirt::Markup,
        Dirt::Entities,
        Dirt::Links,
        Dirt::Addresses,
        Dirt::Mentions,
        Dirt::Hashtags,
        Dirt::Emoticons,
        Dirt::Emoji,
        Dirt::Elongated,
        Dirt::Typography,
        Dirt::OddSpaces,
        Dirt::Invisible,
        Dirt::Control,
        Dirt::Unnormalised,
        Dirt::Misdecoded,
        Dirt::Replaced,
        Dirt::LineHyphens,
    ];

    /// What it is, and the step of a recipe that treats it.
    const NAMES: [(&'static str, &'static Operation); 17] = [
        ("markup (<b>)", &MARKUP),
        ("entities (&amp;)", &MARKUP),
        ("links", &MASK),
        ("e-mail addresses", &MASK),
        ("mentions (@name)", &MASK),
        ("hashtags (#word)", &MASK),
        ("emoticons", &MASK),
        ("emoji", &ERASE),
        ("elongated (soooo)", &REPEATS),
        ("typographic signs (“ ” – …)", &UNICODE),
        ("odd spaces", &UNICODE),
        ("invisible characters", &UNICODE),
        ("control characters", &UNICODE),
        ("letters with accents apart", &UNICODE),
        ("wrongly decoded (Ã©)", &UNICODE),
        ("replaced letters (\u{fffd})", &ERASE),
        ("words broken at line ends", &LINES),
    ];

    /// What it is, for people.
    pub fn words(self) -> &'static str {
        Self::NAMES[self as usize].0
    }

    /// The step of a recipe that treats it.
    pub fn step(self) -> &'static str {
        Self::NAMES[self as usize].1.name
    }
}

/// Dirt that was found.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DirtFound {
    /// What it is.
    pub dirt: Dirt,
    /// How often.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// The first of them.
    pub first: Place,
    /// What it looks like there.
    pub example: String,
}

/// How much there is of a sort of dirt.
#[derive(Clone, Debug, Default)]
pub(super) struct DirtCount {
    count: u64,
    documents: u64,
    in_this: bool,
    first: Option<(Place, String)>,
}

/// The longest example.
const EXAMPLE: usize = 60;

impl DirtCount {
    pub(super) fn note(&mut self, order: Order, id: &str, example: &str) {
        self.count += 1;
        self.in_this = true;
        if self.first.as_ref().is_none_or(|(place, _)| order < place.order) {
            let example = example.chars().take(EXAMPLE).collect();
            self.first = Some((Place { order, id: id.to_owned() }, example));
        }
    }

    pub(super) fn end_document(&mut self) {
        self.documents += u64::from(self.in_this);
        self.in_this = false;
    }

    pub(super) fn absorb(&mut self, other: DirtCount) {
        self.count += other.count;
        self.documents += other.documents;
        if let Some(theirs) = other.first
            && self.first.as_ref().is_none_or(|(ours, _)| theirs.0.order < ours.order)
        {
            self.first = Some(theirs);
        }
    }

    pub(super) fn found(self, dirt: Dirt) -> Option<DirtFound> {
        let (first, example) = self.first?;
        Some(DirtFound { dirt, count: self.count, documents: self.documents, first, example })
    }
}

/// Gives every piece of dirt of a text, with what it looks like.
pub(super) fn find(text: &str, mut note: impl FnMut(Dirt, &str)) {
    if is_nfc_quick(text.chars()) != IsNormalized::Yes {
        unnormalised(text, &mut note);
    }
    // Markup is what the step for it takes out; what is of a kind of its own is found by the one recogniser of kinds. Nothing is looked
    // for inside of either.
    let mut found: Vec<Range<usize>> = Vec::new();
    find_markup(true, true, text, 0..text.len(), |sort, place, _| {
        note(if sort == ENTITIES { Dirt::Entities } else { Dirt::Markup }, &text[place.clone()]);
        found.push(place);
    });
    let mut markup = found.clone().into_iter().peekable();
    recognise(text, |kind, range| {
        let dirt = match kind {
            Kind::Url => Dirt::Links,
            Kind::Email => Dirt::Addresses,
            Kind::Mention => Dirt::Mentions,
            Kind::Hashtag => Dirt::Hashtags,
            Kind::Emoticon => Dirt::Emoticons,
            Kind::Emoji => Dirt::Emoji,
            _ => return,
        };
        while markup.next_if(|place| place.end <= range.start).is_some() {}
        if markup.peek().is_none_or(|place| place.start >= range.end) {
            note(dirt, &text[range.clone()]);
            found.push(range);
        }
    });
    found.sort_unstable_by_key(|range| range.start);
    let mut found = found.into_iter().peekable();
    let bytes = text.as_bytes();
    let mut at = 0;
    let mut run = 1;
    while at < bytes.len() {
        if let Some(place) = found.next_if(|place| place.start <= at) {
            (at, run) = (at.max(place.end), 1);
            continue;
        }
        let byte = bytes[at];
        let rest = &text[at..];
        let mut next = at + 1;
        match byte {
            b'-' => {
                if let Some((from, to)) = line_hyphen(text, at) {
                    note(Dirt::LineHyphens, &text[from..to]);
                }
            }
            0..=8 | 11 | 12 | 14..=31 | 127 => note(Dirt::Control, &numbered(char::from(byte))),
            0x80.. => {
                let Some(c) = rest.chars().next() else { break };
                if let Some((_, end)) = repaired(text, at) {
                    note(Dirt::Misdecoded, &text[at..end]);
                    at = end;
                    continue;
                }
                next = at + c.len_utf8();
                beyond_ascii(c, &mut note);
            }
            _ => {}
        }
        // Three of one letter: no language writes that.
        if byte.is_ascii_alphabetic() && next == at + 1 {
            let same = at > 0 && bytes[at - 1].eq_ignore_ascii_case(&byte);
            run = if same { run + 1 } else { 1 };
            if run == 3 {
                let more = bytes[next..].iter().take_while(|more| more.eq_ignore_ascii_case(&byte)).count();
                if is_drawn_out(text, &(at - 2..next + more)) {
                    note(Dirt::Elongated, word_around(text, at).trim_matches(|c: char| !c.is_alphanumeric()));
                }
            }
        }
        at = next;
    }
}

/// A word that is broken at a line's end: letters, the hyphen, the break, a small letter.
fn line_hyphen(text: &str, at: usize) -> Option<(usize, usize)> {
    let rest = text[at + 1..]
        .strip_prefix("\r\n")
        .or_else(|| text[at + 1..].strip_prefix('\n'))?
        .trim_start_matches([' ', '\t']);
    let before = text[..at].trim_end_matches(char::is_alphabetic);
    if before.len() == at || !rest.starts_with(char::is_lowercase) {
        return None;
    }
    let length = rest.find(|c: char| !c.is_alphabetic()).unwrap_or(rest.len());
    Some((before.len(), text.len() - rest.len() + length))
}

fn word_around(text: &str, at: usize) -> &str {
    let from = text[..at].rfind(char::is_whitespace).map_or(0, |from| from + 1);
    let to = text[at..].find(char::is_whitespace).map_or(text.len(), |to| at + to);
    // A space beyond ASCII is longer than one byte.
    text.get(from..to).unwrap_or(&text[at..to]).trim()
}

fn beyond_ascii(c: char, note: &mut impl FnMut(Dirt, &str)) {
    let mut buffer = [0; 4];
    let piece: &str = c.encode_utf8(&mut buffer);
    match c {
        '\u{2018}'..='\u{201f}'
        | '\u{2010}'..='\u{2015}'
        | '\u{2026}'
        | '\u{2032}'
        | '\u{2033}'
        | '«'
        | '»'
        | '‹'
        | '›' => {
            note(Dirt::Typography, piece);
        }
        '\u{a0}' | '\u{1680}' | '\u{2000}'..='\u{200a}' | '\u{202f}' | '\u{205f}' | '\u{3000}' => {
            note(Dirt::OddSpaces, &numbered(c));
        }
        // The joiner of emoji is part of them.
        '\u{200d}' | '\u{fe0f}' => {}
        '\u{ad}'
        | '\u{200b}'
        | '\u{200c}'
        | '\u{200e}'
        | '\u{200f}'
        | '\u{202a}'..='\u{202e}'
        | '\u{2060}'..='\u{2064}'
        | '\u{feff}' => {
            note(Dirt::Invisible, &numbered(c));
        }
        '\u{80}'..='\u{9f}' => note(Dirt::Control, &numbered(c)),
        '\u{fffd}' => note(Dirt::Replaced, piece),
        _ => {}
    }
}

/// A character that cannot be seen, by its number.
fn numbered(c: char) -> String {
    format!("U+{:04X}", u32::from(c))
}

/// Letters that stand in another form than the composed one.
fn unnormalised(text: &str, note: &mut impl FnMut(Dirt, &str)) {
    for word in text.split_whitespace() {
        if is_nfc_quick(word.chars()) != IsNormalized::Yes && !word.nfc().eq(word.chars()) {
            note(Dirt::Unnormalised, word);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(text: &str) -> Vec<(Dirt, String)> {
        let mut found = Vec::new();
        find(text, |dirt, example| found.push((dirt, example.to_owned())));
        found
    }

    #[test]
    fn dirt_is_found_and_what_only_looks_like_it_is_not() {
        for (text, expected) in [
            (
                "<b>tern</b> &amp; <!-- x --> gull",
                vec![
                    (Dirt::Markup, "<b>"),
                    (Dirt::Markup, "</b>"),
                    (Dirt::Entities, "&amp;"),
                    (Dirt::Markup, "<!-- x -->"),
                ],
            ),
            (
                "<a href=\"https://example.org\">x</a>",
                vec![(Dirt::Markup, "<a href=\"https://example.org\">"), (Dirt::Markup, "</a>")],
            ),
            ("a < b > c, I <3 terns & gulls; AT&T; R&D", vec![(Dirt::Emoticons, "<3")]),
            (
                "see https://example.org/a?b=c#d. www.example.org",
                vec![(Dirt::Links, "https://example.org/a?b=c#d"), (Dirt::Links, "www.example.org")],
            ),
            (
                "mira.b@example.org, @oskar_2 @ 5",
                vec![(Dirt::Addresses, "mira.b@example.org"), (Dirt::Mentions, "@oskar_2")],
            ),
            ("#ternwatch #1 C# &#233;", vec![(Dirt::Entities, "&#233;"), (Dirt::Hashtags, "#ternwatch")]),
            ("fine :-) 3:1 (see: a) ;)", vec![(Dirt::Emoticons, ":-)"), (Dirt::Emoticons, ";)")]),
            ("🐦 ©", vec![(Dirt::Emoji, "🐦")]),
            ("sooo good, aaargh, www, VIII", vec![(Dirt::Elongated, "sooo"), (Dirt::Elongated, "aaargh")]),
            ("the (IEEE) 0xffff NOOOO", vec![(Dirt::Elongated, "NOOOO")]),
            ("it’s…", vec![(Dirt::Typography, "’"), (Dirt::Typography, "…")]),
            (
                "a\u{a0}b\u{200b}c\u{7}",
                vec![(Dirt::OddSpaces, "U+00A0"), (Dirt::Invisible, "U+200B"), (Dirt::Control, "U+0007")],
            ),
            ("cafe\u{301} café", vec![(Dirt::Unnormalised, "cafe\u{301}")]),
            ("CafÃ© donâ€™t Âge São", vec![(Dirt::Misdecoded, "Ã©"), (Dirt::Misdecoded, "â€™")]),
            ("week-\nends, A-\nB, 3-\n4", vec![(Dirt::LineHyphens, "week-\nends")]),
            ("\u{fffd}", vec![(Dirt::Replaced, "\u{fffd}")]),
        ] {
            let expected: Vec<_> =
                expected.into_iter().map(|(dirt, example)| (dirt, example.to_owned())).collect();
            let found: Vec<_> = found(text)
                .into_iter()
                .filter(|(dirt, _)| *dirt != Dirt::Typography || text.contains("it’s"))
                .collect();
            assert_eq!(found, expected, "{text}");
        }
    }

    #[test]
    fn every_sort_has_words_and_a_step() {
        for (index, dirt) in Dirt::ALL.into_iter().enumerate() {
            assert_eq!(dirt as usize, index);
            assert!(!dirt.words().is_empty());
            assert!(crate::steps::operation(dirt.step()).is_some(), "{}", dirt.step());
        }
    }
}
