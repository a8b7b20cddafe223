use aho_corasick::{AhoCorasick, MatchKind};

use crate::kind::placeholder_end;
use crate::span::Span;
use crate::split::Splitter;
use crate::split::clitics::split_part;

/// Another splitter's tokens, but placeholders that earlier steps put in are whole.
pub(crate) struct Whole {
    of: Box<dyn Splitter>,
    placeholders: Vec<String>,
    /// Finds what they begin with: all but the last sign.
    openings: Option<AhoCorasick>,
}

impl Whole {
    /// Keeps these placeholders whole.
    pub(crate) fn around(of: Box<dyn Splitter>, placeholders: &[String]) -> Box<dyn Splitter> {
        let openings = placeholders.iter().map(|placeholder| placeholder.trim_end_matches('>'));
        let openings = AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(openings).ok();
        Box::new(Whole { of, placeholders: placeholders.to_vec(), openings })
    }

    /// Where the placeholder ends that begins at `start`, if one does.
    fn placeholder_end(&self, text: &str, start: usize) -> Option<usize> {
        self.placeholders.iter().find_map(|placeholder| placeholder_end(text, start, placeholder))
    }
}

impl Splitter for Whole {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        // A placeholder within a sentence is a part of it.
        if !self.of.parts_words() {
            return self.of.split(text, spans);
        }
        let mut from = 0;
        for hit in self.openings.iter().flat_map(|finder| finder.find_iter(text)) {
            let start = hit.start();
            let Some(end) = self.placeholder_end(text, start) else { continue };
            split_part(text, from, start, self.of.as_ref(), spans);
            spans.push(Span { start: start as u32, end: end as u32 });
            from = end;
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
