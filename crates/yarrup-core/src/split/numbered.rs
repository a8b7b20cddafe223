//! Tokens that keep the numbers of their sentences.

use crate::span::Span;
use crate::split::Splitter;

/// Another splitter's tokens, which keep the numbers of their sentences.
pub(crate) struct Numbered {
    pub(crate) of: Box<dyn Splitter>,
    pub(crate) sentences: Box<dyn Splitter>,
}

impl Splitter for Numbered {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        self.of.split(text, spans);
    }

    fn ignores_case(&self) -> bool {
        self.of.ignores_case()
    }

    fn parts_words(&self) -> bool {
        self.of.parts_words()
    }

    fn makes_lines(&self) -> bool {
        self.of.makes_lines()
    }

    fn sentences(&self) -> Option<&dyn Splitter> {
        Some(self.sentences.as_ref())
    }
}
