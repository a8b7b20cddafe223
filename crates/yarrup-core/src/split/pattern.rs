use regex::Regex;

use crate::span::Span;
use crate::split::Splitter;

/// A token is what a regular expression matches, or what stands between its matches.
#[derive(Clone, Debug)]
pub struct Pattern {
    /// The expression.
    pub pattern: Regex,
    /// Whether the matches part tokens and are none.
    pub gaps: bool,
}

impl Splitter for Pattern {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut push = |start: usize, end: usize| {
            if !text[start..end].trim().is_empty() {
                spans.push(Span { start: start as u32, end: end as u32 });
            }
        };
        let mut from = 0;
        for hit in self.pattern.find_iter(text) {
            if self.gaps {
                push(from, hit.start());
                from = hit.end();
            } else {
                push(hit.start(), hit.end());
            }
        }
        if self.gaps {
            push(from, text.len());
        }
    }

    fn ignores_case(&self) -> bool {
        false
    }

    fn parts_words(&self) -> bool {
        false
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn matches_and_gaps() {
        let parts = |pattern: &str, gaps: bool| {
            let pattern = Pattern { pattern: Regex::new(pattern).expect("an expression"), gaps };
            let text = "tern, gull;  knot";
            let mut spans = Vec::new();
            pattern.split(text, &mut spans);
            spans.iter().map(|span| span.of(text)).collect::<Vec<_>>()
        };
        assert_eq!(parts("[a-z]+", false), ["tern", "gull", "knot"]);
        assert_eq!(parts("[,;] *", true), ["tern", "gull", "knot"]);
        assert_eq!(parts("", true), ["t", "e", "r", "n", ",", "g", "u", "l", "l", ";", "k", "n", "o", "t"]);
        assert_eq!(parts(" ", false), [""; 0]);
    }
}
