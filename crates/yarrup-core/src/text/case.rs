use std::ops::Range;

use super::{Rewriter, TextStep};
use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};
use crate::token::{Form, Outcome, TokenStep};
use crate::unicode;

pub(crate) static CASE: Operation = Operation {
    name: "case",
    stage: Stage::TextOrToken,
    about: "changes the letter case, of all scripts that have one",
    keys: &[Key {
        name: "to",
        shape: Shape::OneOf(&["lower", "upper"]),
        default: Some("lower"),
        about: "the case that every letter gets; a Greek sigma at the end of a word becomes `ς`, `ß` in capitals `SS`",
    }],
    example: "to = \"lower\"",
    build: |settings| {
        let case = Case::chosen(settings);
        Ok(Built::TextOrToken(Box::new(case), Box::new(case)))
    },
};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Case {
    Lower,
    Upper,
}

impl Case {
    fn chosen(settings: &Settings) -> Case {
        match settings.choice("to") {
            Some("upper") => Case::Upper,
            _ => Case::Lower,
        }
    }

    /// Changes a run of ASCII; returns how many letters changed.
    fn recase_run(self, run: &str, out: &mut Rewriter<'_>) -> u64 {
        let (changes, recase): (usize, fn(&mut str)) = match self {
            Case::Lower => (count(run, u8::is_ascii_uppercase), str::make_ascii_lowercase),
            Case::Upper => (count(run, u8::is_ascii_lowercase), str::make_ascii_uppercase),
        };
        out.recase_ascii(run, recase);
        changes as u64
    }
}

/// How many bytes are of a class. In pieces whose count fits into a byte, so that the compiler counts many at a time.
fn count(text: &str, class: impl Fn(&u8) -> bool) -> usize {
    let pieces = text.as_bytes().chunks(192);
    pieces.map(|piece| usize::from(piece.iter().map(|byte| u8::from(class(byte))).sum::<u8>())).sum()
}

impl TextStep for Case {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) -> u64 {
        let stretch = &text[range.clone()];
        if stretch.is_ascii() {
            return self.recase_run(stretch, out);
        }
        let mut changes = 0;
        let mut buffer = String::new();
        let mut rest = stretch;
        while let Some(c) = rest.chars().next() {
            let at = stretch.len() - rest.len();
            if c.is_ascii() {
                let run = rest.bytes().position(|byte| byte >= 0x80).unwrap_or(rest.len());
                changes += self.recase_run(&rest[..run], out);
                rest = &rest[run..];
                continue;
            }
            rest = &rest[c.len_utf8()..];
            buffer.clear();
            match self {
                Case::Lower if c == 'Σ' => buffer.push(small_sigma(text, range.start + at)),
                Case::Lower => buffer.extend(c.to_lowercase()),
                Case::Upper => buffer.extend(c.to_uppercase()),
            }
            let was = &stretch[at..at + c.len_utf8()];
            if buffer == was {
                out.keep(was);
            } else {
                changes += 1;
                let mut chars = buffer.chars();
                let single = chars.next().filter(|_| chars.next().is_none());
                // The iota subscript becomes a letter in capitals, the encircled m a pictograph: no others are known.
                let alike = single.is_some_and(|now| unicode::splits_alike(now, c));
                if buffer.len() == was.len() && alike {
                    out.recase(&buffer);
                } else {
                    out.replace(was.len(), &buffer);
                }
            }
        }
        changes
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

impl TokenStep for Case {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        let changed = match self {
            Case::Lower => form.text.to_lowercase(),
            Case::Upper => form.text.to_uppercase(),
        };
        if changed == form.text { Outcome::Keep } else { Outcome::Change(changed) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::{Spare, Text};
    use proptest::prelude::*;

    fn recased(case: Case, original: &str) -> (String, u64) {
        let mut text = Text::new(true);
        text.begin();
        let matches = text.apply(original, &case, &Spare::default());
        (text.as_str(original).to_owned(), matches)
    }

    #[test]
    fn every_script_changes_case() {
        assert_eq!(recased(Case::Lower, "ΟΔΟΣ Σ. ÉTÉ Ёж İ"), ("οδος σ. été ёж i\u{307}".into(), 10));
        assert_eq!(recased(Case::Upper, "Straße ŉ"), ("STRASSE ʼN".into(), 6));
        assert_eq!(recased(Case::Lower, "plain 123"), ("plain 123".into(), 0));
    }

    proptest! {
        /// The standard library knows the whole of Unicode's case rules: the text step must do the same, span by span.
        #[test]
        fn lower_and_upper_agree_with_the_standard_library(text in "[a-zA-ZΑ-Ωσς'.:\u{301} ÉßİǅŉЁ]{0,30}") {
            prop_assert_eq!(recased(Case::Lower, &text).0, text.to_lowercase());
            prop_assert_eq!(recased(Case::Upper, &text).0, text.to_uppercase());
        }
    }
}
