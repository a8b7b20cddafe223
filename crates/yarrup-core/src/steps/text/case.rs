use std::borrow::Cow;
use std::ops::Range;

use crate::step::{
    Built, Facts, Form, Key, Operation, Outcome, Rewriter, Role, Settings, Stage, TextStep, TokenStep,
};
use crate::unicode;

const TO: Key<&'static str> = Key::one_of("to", &["lower", "upper", "fold"], "the case to write every letter in. `lower`: a Greek sigma at the end of a word becomes `ς`. `upper`: `ß` becomes \
                    `SS`. `fold`: as Unicode compares texts without case: `ß` becomes `ss`, `ς` becomes `σ`").or("lower");

const SPARE_ACRONYMS: Key<bool> = Key::truth("spare_acronyms", "does not change words of two to six capitals (`US`, `RSPB2`), unless the words next to them are also all in capitals. After the split, the words next to them are not considered").or("false");

const LANGUAGE: Key<String> = Key::text(
    "language",
    "the language whose rules apply, if not that of the recipe: in Turkish and Azerbaijani (`tr`, `az`), `ı` is the lower case of `I`, and `i` that of `İ`",
);

pub(crate) static CASE: Operation = Operation {
    name: "case",
    stage: Stage::TextOrToken,
    about: "changes the letter case, in all scripts that have one. Doing it twice changes nothing",
    keys: &[&TO.facts, &SPARE_ACRONYMS.facts, &LANGUAGE.facts],
    example: "to = \"lower\"",
    roles: &[Role::Recases],
    learns: None,
    build: |settings| {
        let case = Case::chosen(settings);
        Ok(Built::TextOrToken(Box::new(case), Box::new(case)))
    },
};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum To {
    Lower,
    Upper,
    Fold,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Case {
    to: To,
    /// Whether the letters I with a dot and without are two letters.
    dotted: bool,
    spare_acronyms: bool,
}

impl Case {
    fn chosen(settings: &Settings) -> Case {
        Case {
            to: match settings.get(&TO) {
                Some("upper") => To::Upper,
                Some("fold") => To::Fold,
                _ => To::Lower,
            },
            dotted: matches!(settings.language(), Some("tr" | "az")),
            spare_acronyms: settings.get(&SPARE_ACRONYMS) == Some(true),
        }
    }

    /// Changes a run of ASCII.
    fn recase_run(self, text: &str, run: Range<usize>, out: &mut Rewriter<'_>) {
        let (changes, recase): (usize, fn(&mut str)) = match self.to {
            To::Lower | To::Fold => {
                (count(&text[run.clone()], u8::is_ascii_uppercase), str::make_ascii_lowercase)
            }
            To::Upper => (count(&text[run.clone()], u8::is_ascii_lowercase), str::make_ascii_uppercase),
        };
        out.recase_ascii(run, changes as u64, recase);
    }

    /// Appends what becomes of `c`, which stands at `at` in `text`.
    fn change(self, text: &str, at: usize, c: char, changed: &mut String) {
        match (self.to, c) {
            (To::Lower | To::Fold, 'I') if self.dotted => {
                // With its dot as a mark of its own, it is the other letter.
                let dotted = text[at + 1..].starts_with('\u{307}');
                changed.push(if dotted { 'i' } else { 'ı' });
            }
            (To::Lower | To::Fold, 'İ') if self.dotted => changed.push('i'),
            (To::Upper, 'i') if self.dotted => changed.push('İ'),
            (To::Lower, 'Σ') => changed.push(small_sigma(text, at)),
            (To::Lower, c) => changed.extend(c.to_lowercase()),
            (To::Upper, c) => changed.extend(c.to_uppercase()),
            (To::Fold, c) => fold(c, changed),
        }
    }

    fn rewrite_stretch(self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let simple = !self.dotted;
        if simple && text[range.clone()].is_ascii() {
            return self.recase_run(text, range, out);
        }
        let bytes = text.as_bytes();
        let mut buffer = String::new();
        let mut at = range.start;
        while at < range.end {
            if simple && bytes[at] < 0x80 {
                let run =
                    bytes[at..range.end].iter().position(|&byte| byte >= 0x80).unwrap_or(range.end - at);
                self.recase_run(text, at..at + run, out);
                at += run;
                continue;
            }
            let Some(c) = text[at..].chars().next() else { break };
            let was = at..at + c.len_utf8();
            at = was.end;
            buffer.clear();
            self.change(text, was.start, c, &mut buffer);
            if buffer == text[was.clone()] {
                continue;
            }
            // A dot that has become part of the letter goes with it.
            if self.dotted && c == 'I' && buffer == "i" && self.to != To::Upper {
                at += '\u{307}'.len_utf8();
                out.replace(was.start..at, &buffer);
                continue;
            }
            let mut chars = buffer.chars();
            let single = chars.next().filter(|_| chars.next().is_none());
            // The iota subscript becomes a letter in capitals, the encircled m a pictograph: no others are known.
            let alike = single.is_some_and(|now| unicode::splits_alike(now, c));
            if buffer.len() == was.len() && alike {
                out.recase(was, &buffer);
            } else {
                out.replace(was, &buffer);
            }
        }
    }
}

/// How many bytes are of a class. In pieces whose count fits into a byte, so that the compiler counts many at a time.
fn count(text: &str, class: impl Fn(&u8) -> bool) -> usize {
    let pieces = text.as_bytes().chunks(192);
    pieces.map(|piece| usize::from(piece.iter().map(|byte| u8::from(class(byte))).sum::<u8>())).sum()
}

/// Appends the full case folding of `c` (Unicode Standard, CaseFolding.txt, statuses C and F): the small letters of its
/// capitals, but for the few that the file lists otherwise.
fn fold(c: char, folded: &mut String) {
    match c {
        'ẞ' => folded.push_str("ss"),
        'ı' => folded.push('ı'),
        // Cherokee folds to its capitals, which came first.
        '\u{13f8}'..='\u{13fd}' | '\u{ab70}'..='\u{abbf}' => folded.extend(c.to_uppercase()),
        '\u{13a0}'..='\u{13f5}' => folded.push(c),
        'İ' => folded.push_str("i\u{307}"),
        c => {
            // Letters with an iota subscript fold as their small forms with the iota beside.
            for capital in c.to_uppercase() {
                folded.extend(capital.to_lowercase());
            }
        }
    }
}

/// The small letter of the sigma that stands at `at`: final if a cased letter stands before it and none behind it, with
/// nothing but case-ignorable characters between (Unicode Standard, table 3-17, Final_Sigma).
fn small_sigma(text: &str, at: usize) -> char {
    let cased = |c: Option<char>| c.is_some_and(unicode::is_cased);
    let before = text[..at].chars().rev().find(|&c| !unicode::is_case_ignorable(c));
    let after = text[at + 'Σ'.len_utf8()..].chars().find(|&c| !unicode::is_case_ignorable(c));
    if cased(before) && !cased(after) { 'ς' } else { 'σ' }
}

/// Whether it is clear from a token alone which small letter each of its sigmas gets, whatever stands before and behind the token.
fn sigmas_are_clear(token: &str) -> bool {
    token.match_indices('Σ').all(|(at, sigma)| {
        let matters = |c: &char| !unicode::is_case_ignorable(*c);
        let before = token[..at].chars().rev().find(matters);
        let after = token[at + sigma.len()..].chars().find(matters);
        match (before, after) {
            (_, Some(after)) if unicode::is_cased(after) => true,
            (Some(before), None) => !unicode::is_cased(before),
            (before, after) => before.is_some() && after.is_some(),
        }
    })
}

fn is_word(c: char) -> bool {
    c.is_alphanumeric()
}

/// Whether a word is shaped like an acronym: two to six capitals and digits, two capitals at least.
fn is_acronym(word: &str) -> bool {
    let (mut length, mut capitals) = (0, 0);
    for c in word.chars() {
        if length == 6 || !(c.is_uppercase() || c.is_ascii_digit()) {
            return false;
        }
        length += 1;
        capitals += usize::from(c.is_uppercase());
    }
    capitals >= 2
}

/// The acronyms of a stretch of `text`, in order.
fn acronyms(text: &str, range: Range<usize>) -> impl Iterator<Item = Range<usize>> + '_ {
    let mut at = range.start;
    // The words before the present one: whether they were in capitals.
    let mut shouted_before: Option<bool> = None;
    let words = std::iter::from_fn(move || {
        let start = at + text[at..range.end].find(is_word)?;
        let rest = &text[start..range.end];
        let end = start + rest.find(|c| !is_word(c)).unwrap_or(rest.len());
        at = end;
        Some(start..end)
    });
    let shouted = |word: &str| {
        word.chars().any(char::is_uppercase)
            && !word.chars().any(char::is_lowercase)
            && word.chars().count() > 1
    };
    let mut words = words.peekable();
    std::iter::from_fn(move || {
        loop {
            let word = words.next()?;
            let spelled = &text[word.clone()];
            let before = shouted_before;
            // Numbers and single letters say nothing about the letters beside them.
            if spelled.chars().filter(|c| c.is_alphabetic()).count() > 1 {
                shouted_before = Some(shouted(spelled));
            }
            if !is_acronym(spelled) {
                continue;
            }
            let after = words.peek().map(|next| shouted(&text[next.clone()]));
            if before == Some(true) || (before.is_none() && after == Some(true)) {
                continue;
            }
            return Some(word);
        }
    })
}

impl Facts for Case {}

impl TextStep for Case {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        if !self.spare_acronyms {
            return self.rewrite_stretch(text, range, out);
        }
        let mut from = range.start;
        for word in acronyms(text, range.clone()) {
            self.rewrite_stretch(text, from..word.start, out);
            from = word.end;
        }
        self.rewrite_stretch(text, from..range.end, out);
    }

    fn recases_alone(&self) -> bool {
        !self.spare_acronyms && !self.dotted
    }

    fn recase<'t>(&self, token: &'t str) -> Option<(Cow<'t, str>, u64)> {
        if token.is_ascii() && self.recases_alone() {
            let (letters, recased): (usize, fn(&str) -> String) = match self.to {
                To::Lower | To::Fold => (count(token, u8::is_ascii_uppercase), str::to_ascii_lowercase),
                To::Upper => (count(token, u8::is_ascii_lowercase), str::to_ascii_uppercase),
            };
            let now = if letters == 0 { Cow::Borrowed(token) } else { Cow::Owned(recased(token)) };
            return Some((now, letters as u64));
        }
        if self.to == To::Lower && !sigmas_are_clear(token) {
            return None;
        }
        let (now, letters) = self.recase_at(token, 0..token.len())?;
        Some((Cow::Owned(now), letters))
    }
}

impl TokenStep for Case {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if self.spare_acronyms && is_acronym(form.text) {
            return Outcome::Keep;
        }
        let changed = match (self.to, self.dotted) {
            (To::Lower, false) => form.text.to_lowercase(),
            (To::Upper, false) => form.text.to_uppercase(),
            _ => {
                let mut changed = String::with_capacity(form.text.len());
                let mut chars = form.text.char_indices().peekable();
                while let Some((at, c)) = chars.next() {
                    let before = changed.len();
                    self.change(form.text, at, c, &mut changed);
                    if self.dotted && c == 'I' && &changed[before..] == "i" {
                        chars.next();
                    }
                }
                changed
            }
        };
        if changed == form.text { Outcome::Keep } else { Outcome::Change(changed) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::step::{Matches, Spare, Text};
    use crate::testing;
    use proptest::prelude::*;

    fn recased(to: To, original: &str) -> (String, u64) {
        let case = Case { to, dotted: false, spare_acronyms: false };
        let mut text = Text::new(true);
        text.begin();
        let matches = text.apply(original, &case, &Spare::default(), &mut Matches::default());
        (text.as_str(original).to_owned(), matches)
    }

    #[test]
    fn every_script_changes_case() {
        assert_eq!(recased(To::Lower, "ΟΔΟΣ Σ. ÉTÉ Ёж İ"), ("οδος σ. été ёж i\u{307}".into(), 10));
        assert_eq!(recased(To::Upper, "Straße ŉ"), ("STRASSE ʼN".into(), 6));
        assert_eq!(recased(To::Lower, "plain 123"), ("plain 123".into(), 0));
        assert_eq!(recased(To::Fold, "STRAẞE Straße ΟΔΟΣ οδος").0, "strasse strasse οδοσ οδοσ");
    }

    #[test]
    fn turkish_has_two_letters_i() {
        for side in ["", "[[step]]\ndo = \"split\"\n"] {
            let recipe =
                |to: &str| format!("language = \"tr\"\n{side}[[step]]\ndo = \"case\"\nto = \"{to}\"\n");
            assert_eq!(testing::clean(&recipe("lower"), "IĞDIR İzmir I\u{307}l"), "ığdır izmir il");
            assert_eq!(testing::clean(&recipe("upper"), "ığdır izmir"), "IĞDIR İZMİR");
            assert_eq!(testing::clean(&recipe("fold"), "Iı İi"), "ıı ii");
        }
        assert_eq!(testing::clean("[[step]]\ndo = \"case\"\nlanguage = \"tr-TR\"\n", "DIŞ"), "dış");
    }

    #[test]
    fn acronyms_can_be_spared() {
        let recipe = "[[step]]\ndo = \"case\"\nspare_acronyms = true\n";
        let table = [
            ("The RSPB and the US met", "the RSPB and the US met"),
            ("NO DOGS ON THE SPIT", "no dogs on the spit"),
            ("I saw B2B tERNS", "i saw B2B terns"),
            ("US", "US"),
            ("SALTMERE Wardens", "saltmere wardens"),
        ];
        for (text, expected) in table {
            assert_eq!(testing::clean(recipe, text), expected, "{text}");
        }
    }

    /// Unicode's own table, whole.
    #[test]
    fn folding_is_that_of_unicode() {
        let mut wrong = Vec::new();
        for line in include_str!("../../../tests/unicode/CaseFolding.txt").lines() {
            let mut fields = line.split('#').next().unwrap_or_default().split(';').map(str::trim);
            let (Some(code), Some("C" | "F"), Some(mapping)) = (fields.next(), fields.next(), fields.next())
            else {
                continue;
            };
            let parse = |code: &str| {
                u32::from_str_radix(code, 16).ok().and_then(char::from_u32).expect("a code point")
            };
            let expected: String = mapping.split(' ').map(parse).collect();
            let mut folded = String::new();
            fold(parse(code), &mut folded);
            if folded != expected {
                wrong.push((parse(code), folded, expected));
            }
        }
        assert_eq!(wrong, []);
    }

    proptest! {
        /// The standard library knows the whole of Unicode's case rules: the text step must do the same, span by span.
        #[test]
        fn lower_and_upper_agree_with_the_standard_library(text in "[a-zA-ZΑ-Ωσς'.:\u{301} ÉßİǅŉЁ]{0,30}") {
            prop_assert_eq!(recased(To::Lower, &text).0, text.to_lowercase());
            prop_assert_eq!(recased(To::Upper, &text).0, text.to_uppercase());
        }
    }
}
