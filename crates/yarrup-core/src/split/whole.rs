use aho_corasick::{AhoCorasick, MatchKind};

use crate::span::Span;
use crate::split::Splitter;
use crate::split::clitics::split_part;

/// Another splitter's tokens, but placeholders that earlier steps put in are whole.
pub(crate) struct Whole {
    of: Box<dyn Splitter>,
    placeholders: Option<AhoCorasick>,
}

impl Whole {
    /// Keeps these placeholders whole.
    pub(crate) fn around(of: Box<dyn Splitter>, placeholders: &[String]) -> Box<dyn Splitter> {
        let placeholders =
            AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(placeholders).ok();
        Box::new(Whole { of, placeholders })
    }
}

impl Splitter for Whole {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        // A placeholder within a sentence is a part of it.
        if !self.of.parts_words() {
            return self.of.split(text, spans);
        }
        let mut from = 0;
        for hit in self.placeholders.iter().flat_map(|finder| finder.find_iter(text)) {
            split_part(text, from, hit.start(), self.of.as_ref(), spans);
            spans.push(Span { start: hit.start() as u32, end: hit.end() as u32 });
            from = hit.end();
        }
        split_part(text, from, text.len(), self.of.as_ref(), spans);
    }

    fn parts_words(&self) -> bool {
        self.of.parts_words()
    }

    fn makes_lines(&self) -> bool {
        self.of.makes_lines()
    }

    fn ignores_case(&self) -> bool {
        self.of.ignores_case()
    }

    fn covers_letters(&self) -> bool {
        self.of.covers_letters()
    }

    fn sentences(&self) -> Option<&dyn Splitter> {
        self.of.sentences()
    }
}
