//! Sentences by the default rules of Unicode.

use crate::span::Span;
use crate::split::Splitter;
use crate::split::sentences::push_trimmed;
use crate::unicode::{self, SentenceBreak};

/// A token is a sentence by Unicode's default rules (Unicode Standard Annex #29, section 5.1).
#[derive(Clone, Copy, Debug)]
pub struct UnicodeSentences;

impl Splitter for UnicodeSentences {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut at = 0;
        while at < text.len() {
            let end = next_sentence_boundary(text, at);
            push_trimmed(text, at, end, spans);
            at = end;
        }
    }

    fn ignores_case(&self) -> bool {
        false
    }

    fn parts_words(&self) -> bool {
        false
    }

    fn makes_lines(&self) -> bool {
        true
    }
}

/// How far behind a sign that ends sentences we are: rules SB8 to SB11.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Behind {
    Nothing,
    Sign,
    Close,
    Space,
    /// A separator of paragraphs: the sentence ends here.
    Separator,
}

/// Where the sentence that begins at the boundary `start` of `text` ends, by the rules of the annex. Cost: rule SB8 looks ahead, but
/// never past the next sign that could end a sentence.
///
/// # Panics
///
/// If `start` is not on a character border of `text`.
pub fn next_sentence_boundary(text: &str, start: usize) -> usize {
    use SentenceBreak as S;
    let mut chars = text[start..].char_indices();
    let Some((_, first)) = chars.next() else { return start };
    let mut last_raw = unicode::sentence_break(first);
    // The last class and that before it, but for what rule SB5 skips.
    let (mut last, mut before_last) = (last_raw, None);
    let is_separator = |class: S| matches!(class, S::Sep | S::Cr | S::Lf);
    let (mut behind, mut full_stop) = match last_raw {
        S::ATerm => (Behind::Sign, true),
        S::STerm => (Behind::Sign, false),
        class if is_separator(class) => (Behind::Separator, false),
        _ => (Behind::Nothing, false),
    };
    for (offset, c) in chars {
        let at = start + offset;
        let class = unicode::sentence_break(c);
        // SB3, SB4
        if last_raw == S::Cr && class == S::Lf {
            last_raw = class;
            continue;
        }
        if is_separator(last_raw) {
            return at;
        }
        last_raw = class;
        // SB5
        if matches!(class, S::Extend | S::Format) {
            continue;
        }
        let joined = match behind {
            Behind::Nothing => true,
            Behind::Separator => false,
            _ => {
                let at_sign = behind == Behind::Sign;
                // SB6, SB7
                (full_stop && at_sign && class == S::Numeric)
                    || (full_stop && at_sign && matches!(before_last, Some(S::Upper | S::Lower)) && class == S::Upper)
                    // SB8
                    || (full_stop && leads_to_small_letter(text, at))
                    // SB8a
                    || matches!(class, S::SContinue | S::STerm | S::ATerm)
                    // SB9
                    || (behind != Behind::Space && matches!(class, S::Close | S::Sp | S::Sep | S::Cr | S::Lf))
                    // SB10
                    || matches!(class, S::Sp | S::Sep | S::Cr | S::Lf)
            }
        };
        if !joined {
            return at;
        }
        behind = match class {
            S::ATerm => {
                full_stop = true;
                Behind::Sign
            }
            S::STerm => {
                full_stop = false;
                Behind::Sign
            }
            S::Close if matches!(behind, Behind::Sign | Behind::Close) => Behind::Close,
            S::Sp if behind != Behind::Nothing => Behind::Space,
            S::Sep | S::Cr | S::Lf => Behind::Separator,
            _ => Behind::Nothing,
        };
        before_last = Some(last);
        last = class;
    }
    text.len()
}

/// Rule SB8: whether a small letter comes from `at` on before any other letter, separator or sign.
fn leads_to_small_letter(text: &str, at: usize) -> bool {
    use SentenceBreak as S;
    for c in text[at..].chars() {
        match unicode::sentence_break(c) {
            S::Lower => return true,
            S::OLetter | S::Upper | S::Sep | S::Cr | S::Lf | S::STerm | S::ATerm => return false,
            _ => {}
        }
    }
    false
}
