//! Lines and paragraphs, and groups of other tokens.

use crate::kind::Kind;
use crate::span::Span;
use crate::split::Splitter;
use crate::split::sentences::push_trimmed;

/// A token is a line without the white space at its ends; empty lines are none.
#[derive(Clone, Copy, Debug)]
pub struct Lines;

impl Splitter for Lines {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut start = 0;
        let ends = text.char_indices().filter(|(_, c)| {
            matches!(c, '\n' | '\r' | '\u{b}' | '\u{c}' | '\u{85}' | '\u{2028}' | '\u{2029}')
        });
        for (at, c) in ends {
            push_trimmed(text, start, at, spans);
            start = at + c.len_utf8();
        }
        push_trimmed(text, start, text.len(), spans);
    }

    fn parts_words(&self) -> bool {
        false
    }

    fn makes_lines(&self) -> bool {
        true
    }
}

/// A token is a paragraph: lines up to one that is empty or white space alone.
#[derive(Clone, Copy, Debug)]
pub struct Paragraphs;

impl Splitter for Paragraphs {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let (mut start, mut at) = (0, 0);
        for line in text.split_inclusive(['\n', '\u{2029}']) {
            let end = at + line.len();
            if line.trim().is_empty() {
                push_trimmed(text, start, at, spans);
                start = end;
            } else if line.ends_with('\u{2029}') {
                push_trimmed(text, start, end, spans);
                start = end;
            }
            at = end;
        }
        push_trimmed(text, start, text.len(), spans);
    }

    fn parts_words(&self) -> bool {
        false
    }

    fn makes_lines(&self) -> bool {
        true
    }
}

/// A token is a group of `size` tokens of another splitter, from the first to the last with all that stands between; what is left at
/// the end is a group of its own. Marks count for nothing: they go with the word that they stand at.
pub(crate) struct Groups {
    pub(crate) of: Box<dyn Splitter>,
    pub(crate) size: usize,
}

impl Splitter for Groups {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut parts = Vec::new();
        self.of.split(text, &mut parts);
        let mut group: Option<Span> = None;
        let mut words = 0;
        for (place, part) in parts.iter().enumerate() {
            let is_mark = matches!(Kind::of(part.of(text)), Kind::Punctuation | Kind::Symbol);
            // A mark right before a word, with a space before it, opens what follows.
            let touches_next = parts.get(place + 1).is_some_and(|next| next.start == part.end);
            let touches_last = group.is_some_and(|group| group.end == part.start);
            let opens = is_mark && touches_next && !touches_last;
            if words == self.size && (!is_mark || opens) {
                spans.extend(group.take());
                words = 0;
            }
            words += usize::from(!is_mark);
            group = Some(Span { start: group.map_or(part.start, |group| group.start), end: part.end });
        }
        spans.extend(group);
    }

    fn ignores_case(&self) -> bool {
        self.of.ignores_case()
    }

    fn parts_words(&self) -> bool {
        false
    }

    fn makes_lines(&self) -> bool {
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::split::{Sentences, Words};

    fn parts<'t>(splitter: &dyn Splitter, text: &'t str) -> Vec<&'t str> {
        let mut spans = Vec::new();
        splitter.split(text, &mut spans);
        spans.iter().map(|span| span.of(text)).collect()
    }

    #[test]
    fn lines_and_paragraphs_are_trimmed() {
        let text = "\n one\r\ntwo \n \t\n\nthree\u{2029}four";
        assert_eq!(parts(&Lines, text), ["one", "two", "three", "four"]);
        assert_eq!(parts(&Paragraphs, text), ["one\r\ntwo", "three", "four"]);
    }

    #[test]
    fn the_rest_is_a_group_of_its_own() {
        let words = Groups { of: Box::new(Words::default()), size: 3 };
        assert_eq!(
            parts(&words, "One two, “three.” Four (five) six. Seven"),
            ["One two, “three.”", "Four (five) six.", "Seven"]
        );
        assert_eq!(parts(&words, "One two three (four"), ["One two three", "(four"]);
        let sentences = Groups { of: Box::new(Sentences::of(Some("en"))), size: 2 };
        assert_eq!(parts(&sentences, "Ab cd. Ef gh. Ij kl."), ["Ab cd. Ef gh.", "Ij kl."]);
    }
}
