//! One spelling a character: normal forms, plain typographic signs, no invisible characters, wrongly decoded text repaired.

use std::borrow::Cow;
use std::ops::Range;

use unicode_normalization::char::{canonical_combining_class, decompose_canonical};
use unicode_normalization::{
    IsNormalized, UnicodeNormalization, is_nfc_quick, is_nfd_quick, is_nfkc_quick, is_nfkd_quick,
};

use crate::step::{Built, Facts, Key, Operation, Rewriter, Settings, Stage, TextStep};
use crate::unicode::{self as properties, Category};

const FORM: Key<&'static str> = Key::one_of("form", &["nfc", "nfd", "nfkc", "nfkd", "keep"], "the normal form (Unicode Standard Annex #15): `nfc` combines letters with their accents, `nfd` separates them; `nfkc` and `nfkd` also change ligatures, wide letters and superscripts into plain letters").or("nfc");

const QUOTES_KEY: Key<bool> =
    Key::truth("quotes", "curly, low, angular and prime quotes become `'` and `\"`").or("true");

const DASHES_KEY: Key<bool> = Key::truth("dashes", "dashes, other hyphens and the minus sign become `-`; a long dash between two words without spaces becomes `-` with a space on either side, so that it does not join them").or("true");

const ELLIPSIS_KEY: Key<bool> =
    Key::truth("ellipsis", "the character `…` becomes three full stops").or("true");

const SPACES_KEY: Key<bool> = Key::truth(
    "spaces",
    "spaces of other widths and no-break spaces become plain spaces, and line separators become line breaks",
)
.or("true");

const INVISIBLE_KEY: Key<bool> = Key::truth(
    "invisible",
    "removes zero-width and direction characters; a joiner stays between emoji and in scripts that need it",
)
.or("true");

const CONTROL_KEY: Key<bool> =
    Key::truth("control", "removes control characters, except tabs and line breaks").or("true");

const SOFT_HYPHENS_KEY: Key<bool> = Key::truth("soft_hyphens", "soft hyphens go").or("true");

const REPAIR: Key<bool> = Key::truth(
    "repair",
    "repairs UTF-8 text that was read as windows-1252 (`Ã©` becomes `é`), sequence by sequence, where its \
             bytes are valid UTF-8 and give the same characters back",
)
.or("false");

pub(crate) static UNICODE: Operation = Operation {
    name: "unicode",
    stage: Stage::Text,
    about: "writes every character in one way: a normal form; plain quotes, dashes, dots and spaces; no invisible characters. \
            Doing it twice changes nothing",
    keys: &[
        &FORM.facts,
        &QUOTES_KEY.facts,
        &DASHES_KEY.facts,
        &ELLIPSIS_KEY.facts,
        &SPACES_KEY.facts,
        &INVISIBLE_KEY.facts,
        &CONTROL_KEY.facts,
        &SOFT_HYPHENS_KEY.facts,
        &REPAIR.facts,
    ],
    example: "form = \"nfc\"\nrepair = true",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Unicode::new(settings)))),
};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Nfc,
    Nfd,
    Nfkc,
    Nfkd,
    Keep,
}

struct Unicode {
    form: Form,
    quotes: bool,
    dashes: bool,
    ellipsis: bool,
    spaces: bool,
    invisible: bool,
    control: bool,
    soft_hyphens: bool,
    repair: bool,
}

const SORTS: [&str; 9] = [
    "quotes",
    "dashes",
    "ellipsis",
    "spaces",
    "invisible",
    "control",
    "soft hyphens",
    "wrongly decoded",
    "normal form",
];
const QUOTES: usize = 0;
const DASHES: usize = 1;
const ELLIPSIS: usize = 2;
const SPACES: usize = 3;
const INVISIBLE: usize = 4;
const CONTROL: usize = 5;
const SOFT_HYPHENS: usize = 6;
const DECODED: usize = 7;
const NORMAL: usize = 8;

impl Unicode {
    fn new(settings: &Settings) -> Unicode {
        let on = |key: &Key<bool>, default| settings.get(key).unwrap_or(default);
        Unicode {
            form: match settings.get(&FORM) {
                Some("nfd") => Form::Nfd,
                Some("nfkc") => Form::Nfkc,
                Some("nfkd") => Form::Nfkd,
                Some("keep") => Form::Keep,
                _ => Form::Nfc,
            },
            quotes: on(&QUOTES_KEY, true),
            dashes: on(&DASHES_KEY, true),
            ellipsis: on(&ELLIPSIS_KEY, true),
            spaces: on(&SPACES_KEY, true),
            invisible: on(&INVISIBLE_KEY, true),
            control: on(&CONTROL_KEY, true),
            soft_hyphens: on(&SOFT_HYPHENS_KEY, true),
            repair: on(&REPAIR, false),
        }
    }

    /// What is put in the place of a single character, whatever stands beside it.
    fn plain(&self, c: char) -> Option<(usize, &'static str)> {
        let found = match c {
            '\u{2018}'..='\u{201b}'
            | '\u{2032}'
            | '\u{2035}'
            | '\u{2039}'
            | '\u{203a}'
            | '\u{ff07}'
            | '\u{b4}'
            | '\u{2bc}'
            | '\u{275b}'
            | '\u{275c}'
                if self.quotes =>
            {
                (QUOTES, "'")
            }
            '\u{201c}'..='\u{201f}'
            | '\u{2033}'
            | '\u{2036}'
            | '«'
            | '»'
            | '\u{ff02}'
            | '\u{301d}'..='\u{301f}'
            | '\u{275d}'
            | '\u{275e}'
                if self.quotes =>
            {
                (QUOTES, "\"")
            }
            '\u{2010}'..='\u{2015}' | '\u{2212}' | '\u{fe58}' | '\u{fe63}' | '\u{ff0d}' if self.dashes => {
                (DASHES, "-")
            }
            '…' if self.ellipsis => (ELLIPSIS, "..."),
            '\u{85}' | '\u{2028}' | '\u{2029}' | '\u{b}' | '\u{c}' if self.spaces => (SPACES, "\n"),
            c if self.spaces && c != ' ' && properties::category(c) == Category::Separator => (SPACES, " "),
            '\u{ad}' if self.soft_hyphens => (SOFT_HYPHENS, ""),
            '\u{200b}'
            | '\u{200e}'
            | '\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{2064}'
            | '\u{2066}'..='\u{206f}'
            | '\u{feff}'
            | '\u{61c}'
            | '\u{180e}'
                if self.invisible =>
            {
                (INVISIBLE, "")
            }
            c if self.control && c.is_control() && !properties::is_white_space(c) => (CONTROL, ""),
            _ => return None,
        };
        Some(found)
    }

    fn is_quick(&self, chars: impl Iterator<Item = char>) -> IsNormalized {
        match self.form {
            Form::Nfc => is_nfc_quick(chars),
            Form::Nfd => is_nfd_quick(chars),
            Form::Nfkc => is_nfkc_quick(chars),
            Form::Nfkd => is_nfkd_quick(chars),
            Form::Keep => IsNormalized::Yes,
        }
    }

    fn normalised(&self, text: &str) -> String {
        match self.form {
            Form::Nfc => text.nfc().collect(),
            Form::Nfd => text.nfd().collect(),
            Form::Nfkc => text.nfkc().collect(),
            Form::Nfkd => text.nfkd().collect(),
            Form::Keep => text.to_owned(),
        }
    }

    /// Whether normalising what stands before `c` cannot depend on `c`, nor the other way round.
    fn begins_cluster(&self, c: char) -> bool {
        if c.is_ascii() || self.form == Form::Keep {
            return true;
        }
        if canonical_combining_class(c) != 0 || self.is_quick(std::iter::once(c)) == IsNormalized::Maybe {
            return false;
        }
        // A few characters are no marks themselves but decompose to them.
        let mut first = None;
        decompose_canonical(c, |part| {
            first.get_or_insert(part);
        });
        first.is_none_or(|first| canonical_combining_class(first) == 0 && !is_composing(first))
    }

    /// The character or the letter with its marks that begins at `at`, and where it ends.
    fn cluster_end(&self, text: &str, at: usize, end: usize) -> usize {
        let mut chars = text[at..end].char_indices();
        chars.next();
        chars.find(|&(_, c)| self.begins_cluster(c)).map_or(end, |(offset, _)| at + offset)
    }

    /// Replaces what must be replaced in the cluster.
    fn cluster(&self, text: &str, place: Range<usize>, out: &mut Rewriter<'_>) {
        let was = &text[place.clone()];
        let mut chars = was.chars();
        if let (Some(c), None) = (chars.next(), chars.next()) {
            if let Some((sort, plain)) = self.plain(c) {
                return out.replace_as(sort, place.clone(), self.fitted(text, &place, c, plain));
            }
            if matches!(c, '\u{200c}' | '\u{200d}') && self.invisible && !joins(text, &place) {
                return out.replace_as(INVISIBLE, place, "");
            }
            if self.is_quick(std::iter::once(c)) == IsNormalized::Yes {
                return;
            }
        }
        // Invisible characters may stand between a letter and its mark.
        let cleaned: Cow<'_, str> = if was.chars().any(|c| self.plain(c).is_some()) {
            let mut cleaned = String::with_capacity(was.len());
            for c in was.chars() {
                match self.plain(c) {
                    Some((_, plain)) => cleaned.push_str(plain),
                    None => cleaned.push(c),
                }
            }
            cleaned.into()
        } else {
            was.into()
        };
        if cleaned == was && self.is_quick(was.chars()) == IsNormalized::Yes {
            return;
        }
        out.replace_as(NORMAL, place, &self.after_form(&self.normalised(&cleaned)));
    }

    /// Compatibility forms bring signs back that are to be plain.
    fn after_form<'n>(&self, normalised: &'n str) -> Cow<'n, str> {
        if !normalised.chars().any(|c| !c.is_ascii() && self.plain(c).is_some()) {
            return normalised.into();
        }
        let plain = normalised.chars().fold(String::new(), |mut all, c| {
            match self.plain(c) {
                Some((_, plain)) => all.push_str(plain),
                None => all.push(c),
            }
            all
        });
        plain.into()
    }

    /// A long dash between two words without spaces keeps them apart.
    fn fitted(&self, text: &str, place: &Range<usize>, c: char, plain: &'static str) -> &'static str {
        // Dashes in a row are a line, and part nothing.
        let solid =
            |c: Option<char>| c.is_some_and(|c| !properties::is_white_space(c) && !properties::is_dash(c));
        let parts = matches!(c, '\u{2014}' | '\u{2015}')
            && solid(text[..place.start].chars().next_back())
            && solid(text[place.end..].chars().next());
        if parts { " - " } else { plain }
    }
}

/// Whether a character that is no mark composes with the one before it, as the vowels and finals of Hangul do.
fn is_composing(c: char) -> bool {
    matches!(c, '\u{1161}'..='\u{1175}' | '\u{11a8}'..='\u{11c2}')
}

/// Whether a joiner or non-joiner does its work where it stands: between emoji, or behind a letter or mark of a script whose
/// letters join (all that are written with such joiners lie between U+0600 and U+1CFF, or beyond U+A800).
fn joins(text: &str, place: &Range<usize>) -> bool {
    let before = text[..place.start].chars().next_back();
    let after = text[place.end..].chars().next();
    let (Some(before), Some(after)) = (before, after) else { return false };
    let emoji =
        |c: char| properties::is_pictographic(c) || matches!(c, '\u{fe0f}' | '\u{1f3fb}'..='\u{1f3ff}');
    let joining = |c: char| matches!(c as u32, 0x0600..=0x1cff | 0xa800..=0xabff | 0x10a00..=0x11fff);
    (emoji(before) && emoji(after)) || (joining(before) && joining(after))
}

/// The byte that windows-1252 has for `c`. Its five free places stand for the control characters of the same number, as
/// programs read them.
fn windows_1252(c: char) -> Option<u8> {
    const HIGH: [char; 32] = [
        '€', '\u{81}', '‚', 'ƒ', '„', '…', '†', '‡', 'ˆ', '‰', 'Š', '‹', 'Œ', '\u{8d}', 'Ž', '\u{8f}',
        '\u{90}', '‘', '’', '“', '”', '•', '–', '—', '˜', '™', 'š', '›', 'œ', '\u{9d}', 'ž', 'Ÿ',
    ];
    match c as u32 {
        code @ (0x00..0x80 | 0xa0..=0xff) => u8::try_from(code).ok(),
        // A real control character of that range came out where the text was read as Latin-1.
        code @ 0x80..0xa0 => u8::try_from(code).ok(),
        _ => HIGH.iter().position(|&high| high == c).and_then(|place| u8::try_from(0x80 + place).ok()),
    }
}

/// The character that was written where the text at `at` shows several: its bytes, read as UTF-8. And where they end.
pub(crate) fn repaired(text: &str, at: usize) -> Option<(char, usize)> {
    let mut bytes = [0; 4];
    let mut chars = text[at..].char_indices();
    let lead = windows_1252(chars.next()?.1)?;
    let length = match lead {
        0xc2..=0xdf => 2,
        0xe0..=0xef => 3,
        0xf0..=0xf4 => 4,
        _ => return None,
    };
    bytes[0] = lead;
    for byte in &mut bytes[1..length] {
        *byte = windows_1252(chars.next()?.1).filter(|byte| (0x80..0xc0).contains(byte))?;
    }
    let c = std::str::from_utf8(&bytes[..length]).ok()?.chars().next()?;
    let end = chars.next().map_or(text.len(), |(offset, _)| at + offset);
    // The way back must give the same characters, and what comes out must be a character that people write.
    let same = text[at..end].chars().filter_map(windows_1252).eq(bytes[..length].iter().copied());
    (same && properties::category(c) != Category::Other).then_some((c, end))
}

impl Facts for Unicode {
    fn probes(&self) -> Vec<String> {
        if self.repair { vec!["caf\u{c3}\u{a9} Ã‰tÃ©".to_owned()] } else { Vec::new() }
    }
}

impl TextStep for Unicode {
    fn sorts(&self) -> Vec<String> {
        SORTS.map(str::to_owned).to_vec()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let mut at = range.start;
        while at < range.end {
            let rest = &bytes[at..range.end];
            // In ASCII only control characters are anything to us; a letter may have a mark behind it, though.
            let special = |byte: &u8| {
                *byte >= 0x80 || (*byte < 0x20 && !matches!(byte, b'\t' | b'\n' | b'\r')) || *byte == 0x7f
            };
            let Some(offset) = rest.iter().position(special) else { break };
            let place = at + offset;
            if self.control && bytes[place] == ESCAPE {
                let end = place + escape_length(&text[place..range.end]);
                out.replace_as(CONTROL, place..end, "");
                at = end;
                continue;
            }
            let mut start = place;
            if offset > 0
                && bytes[place] >= 0x80
                && text[place..].chars().next().is_some_and(|c| !self.begins_cluster(c))
            {
                start = place - 1;
            }
            if self.repair
                && let Some((mut c, mut end)) = repaired(text, start)
                && end <= range.end
            {
                // Read wrongly twice, it is still several characters: read again until it is one.
                let mut seen = String::from(c);
                while let Some((next, further)) = repaired_behind(text, end, &mut seen, range.end) {
                    (c, end) = (next, further);
                }
                let mut letter = String::from(c);
                if let Some((_, plain)) = self.plain(c) {
                    letter = plain.to_owned();
                }
                out.replace_as(DECODED, start..end, &letter);
                at = end;
                continue;
            }
            let end = self.cluster_end(text, start, range.end);
            self.cluster(text, start..end, out);
            at = end;
        }
    }
}

const ESCAPE: u8 = 0x1b;
/// The longest command to a terminal that carries a text of its own, such as a title or the target of a link, in bytes.
const LONGEST_COMMAND: usize = 4096;

/// How many bytes the command to a terminal takes up that a text begins with (ECMA-48, section 5.4 and 8.3): its colours, moves of the cursor,
/// titles. The escape character alone if nothing behind it is a command.
fn escape_length(text: &str) -> usize {
    let bytes = text.as_bytes();
    let run = |from: usize, of: std::ops::RangeInclusive<u8>| {
        bytes[from.min(bytes.len())..].iter().take_while(|byte| of.contains(byte)).count()
    };
    match bytes.get(1) {
        Some(b'[') => {
            let parameters = 2 + run(2, 0x30..=0x3f);
            let last = parameters + run(parameters, 0x20..=0x2f);
            if bytes.get(last).is_some_and(|byte| (0x40..=0x7e).contains(byte)) { last + 1 } else { 1 }
        }
        Some(b']' | b'P' | b'X' | b'^' | b'_') => {
            let inside = &bytes[..bytes.len().min(LONGEST_COMMAND)];
            let bell = memchr::memchr(0x07, inside).map(|at| at + 1);
            let end = memchr::memmem::find(&inside[1..], b"\x1b\\").map(|at| at + 3);
            bell.into_iter().chain(end).min().unwrap_or(1)
        }
        Some(0x20..=0x2f) => {
            let last = 1 + run(1, 0x20..=0x2f);
            if bytes.get(last).is_some_and(|byte| (0x30..=0x7e).contains(byte)) { last + 1 } else { 1 }
        }
        Some(0x30..=0x7e) => 2,
        _ => 1,
    }
}

/// Where the text was read wrongly twice, the character that `seen` and the repaired ones behind it make.
fn repaired_behind(text: &str, from: usize, seen: &mut String, end: usize) -> Option<(char, usize)> {
    let lead = seen.chars().next().and_then(windows_1252)?;
    let length = match lead {
        0xc2..=0xdf => 2,
        0xe0..=0xef => 3,
        0xf0..=0xf4 => 4,
        _ => return None,
    };
    let mut inner = seen.clone();
    let mut at = from;
    while inner.chars().count() < length {
        let (c, further) = repaired(text, at)?;
        inner.push(c);
        at = further;
    }
    let (c, used) = repaired(&inner, 0)?;
    if used != inner.len() || at > end {
        return None;
    }
    *seen = String::from(c);
    Some((c, at))
}

#[cfg(test)]
mod tests {
    use crate::testing;
    use proptest::prelude::*;
    use unicode_normalization::UnicodeNormalization;

    #[test]
    fn commands_to_terminals_go_whole() {
        for (text, expected) in [
            ("\u{1b}[1;31mred\u{1b}[0m tern", "red tern"),
            ("\u{1b}]8;;https://example.org/é\u{1b}\\link\u{1b}]8;;\u{1b}\\ here", "link here"),
            ("\u{1b}]0;title\u{7}text", "text"),
            ("a\u{1b}(Bb \u{1b}M\u{1b}7c", "ab c"),
            ("\u{1b}[31", "[31"),
            ("\u{1b}é \u{1b}", "é "),
            ("\u{1b}]never ends", "]never ends"),
            ("\u{1b}[38;2;1;2;3mx\u{1b}[K", "x"),
        ] {
            assert_eq!(cleaned("", text), expected, "{text:?}");
        }
        assert_eq!(cleaned("control = false", "\u{1b}[1mx"), "\u{1b}[1mx");
    }

    fn cleaned(settings: &str, text: &str) -> String {
        testing::clean(&format!("[[step]]\ndo = \"unicode\"\n{settings}\n"), text)
    }

    const OFF: &str = "quotes = false\ndashes = false\nellipsis = false\nspaces = false\ninvisible = false\ncontrol = false\n\
                       soft_hyphens = false\n";

    #[test]
    fn signs_are_made_plain() {
        let text = "“Don’t”… a–b word—word – \u{a0}\u{2003}x\u{200b}y\u{ad}z\u{7}\u{feff} « oui » 5−3\u{2028}e\u{301}";
        assert_eq!(cleaned("", text), "\"Don't\"... a-b word - word -   xyz \" oui \" 5-3\né");
        assert_eq!(cleaned(&format!("{OFF}form = \"keep\""), text), text);
        assert_eq!(cleaned(&OFF.replace("quotes = false", "quotes = true"), "“a”…"), "\"a\"…");
    }

    #[test]
    fn joiners_stay_where_they_join() {
        let text = "👩\u{200d}🔬 می\u{200c}خواهم a\u{200d}b";
        assert_eq!(cleaned("", text), "👩\u{200d}🔬 می\u{200c}خواهم ab");
    }

    #[test]
    fn wrong_decoding_is_repaired_when_asked_for() {
        let table = [
            ("cafÃ©", "café"),
            ("itâ€™s", "it's"),
            ("Ã¼ber â‚¬5", "über €5"),
            ("ðŸ\u{90}¦ tern", "🐦 tern"),
            ("cafÃƒÂ©", "café"),
            ("Ã alone, SÃO, naïve", "Ã alone, SÃO, naïve"),
            ("Ã©Ã©", "éé"),
        ];
        for (text, expected) in table {
            assert_eq!(cleaned("repair = true", text), expected, "{text}");
        }
        assert_eq!(cleaned("", "cafÃ©"), "cafÃ©");
    }

    #[test]
    fn forms_are_those_of_the_standard() {
        for (form, expected) in [
            ("nfc", "ﬁ é ² Å 가"),
            ("nfd", "ﬁ e\u{301} ² A\u{30a} \u{1100}\u{1161}"),
            ("nfkc", "fi é 2 Å 가"),
            ("nfkd", "fi e\u{301} 2 A\u{30a} \u{1100}\u{1161}"),
        ] {
            assert_eq!(
                cleaned(&format!("form = \"{form}\""), "ﬁ e\u{301} ² \u{212b} \u{1100}\u{1161}"),
                expected
            );
        }
    }

    proptest! {
        /// Cluster by cluster gives what the whole gives.
        #[test]
        fn every_form_is_that_of_the_whole_text(
            text in "[a-c Åéﬁﬃ가각½①\u{301}\u{323}\u{1100}\u{1161}\u{11a8}\u{344}\u{f73}\u{f71}\u{3099}か\u{fb1d}\u{5b4}\u{212b}\u{2126}\u{9cb}\u{9c7}\u{9be}]{0,24}"
        ) {
            for (form, expected) in [
                ("nfc", text.nfc().collect::<String>()),
                ("nfd", text.nfd().collect()),
                ("nfkc", text.nfkc().collect()),
                ("nfkd", text.nfkd().collect()),
            ] {
                prop_assert_eq!(cleaned(&format!("{OFF}form = \"{form}\""), &text), expected);
            }
        }
    }
}
