//! The choices that splitters into words have in common.

use crate::kind::Kind;
use crate::span::Span;
use crate::split::Splitter;
use crate::split::clitics::split_part;
use crate::unicode::{self, Category, is_apostrophe, is_hyphen};

/// Another splitter's tokens, joined or parted as a recipe asks.
pub(crate) struct Refined {
    pub(crate) of: Box<dyn Splitter>,
    /// Words with hyphens: joined, parted, or as the splitter has them.
    pub(crate) hyphens: Option<Joint>,
    /// Whether words are parted at the apostrophes inside.
    pub(crate) part_apostrophes: bool,
    /// Whether numbers are parted at their separators.
    pub(crate) part_numbers: bool,
    /// Whether tokens that are punctuation marks are left out.
    pub(crate) leave_punctuation: bool,
}

/// What is done with words that hyphens join.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Joint {
    Keep,
    Part,
}

fn is_solid(c: char) -> bool {
    unicode::is_letter(c)
        || unicode::is_number(c)
        || matches!(unicode::category(c), Category::Mark | Category::SpacingMark)
}

impl Refined {
    fn part(&self, text: &str, span: Span, spans: &mut Vec<Span>) {
        let token = span.of(text);
        let kind = Kind::of(token);
        if self.leave_punctuation && kind == Kind::Punctuation {
            return;
        }
        let cut_at = |c: char| match kind {
            Kind::Word => {
                (self.hyphens == Some(Joint::Part) && is_hyphen(c))
                    || (self.part_apostrophes && is_apostrophe(c))
            }
            Kind::Number => self.part_numbers && !unicode::is_number(c),
            _ => false,
        };
        let (mut start, base) = (0, span.start as usize);
        let mut push = |from: usize, to: usize, is_mark: bool| {
            if to > from && !(is_mark && self.leave_punctuation) {
                spans.push(Span { start: (base + from) as u32, end: (base + to) as u32 });
            }
        };
        for (at, c) in token.char_indices().filter(|&(_, c)| cut_at(c)) {
            push(start, at, false);
            start = at + c.len_utf8();
            push(at, start, true);
        }
        push(start, token.len(), false);
    }
}

impl Splitter for Refined {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut found = Vec::new();
        split_part(text, 0, text.len(), self.of.as_ref(), &mut found);
        let mut next = 0;
        while let Some(&first) = found.get(next) {
            let mut span = first;
            next += 1;
            while self.hyphens == Some(Joint::Keep)
                && let (Some(hyphen), Some(word)) = (found.get(next), found.get(next + 1))
                && hyphen.start == span.end
                && word.start == hyphen.end
                && hyphen.of(text).strip_prefix(is_hyphen) == Some("")
                && span.of(text).chars().next_back().is_some_and(is_solid)
                && word.of(text).chars().next().is_some_and(is_solid)
            {
                span.end = word.end;
                next += 2;
            }
            self.part(text, span, spans);
        }
    }

    fn ignores_case(&self) -> bool {
        self.of.ignores_case()
    }

    fn covers_letters(&self) -> bool {
        self.of.covers_letters()
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn words_are_joined_and_parted_as_asked() {
        let text = "The nest-box isn't 3,000.5 m; well-known x–y -z- (l'été)";
        let table = [
            ("", "The nest - box isn't 3,000.5 m ; well - known x – y - z - ( l'été )"),
            ("hyphens = \"keep\"", "The nest-box isn't 3,000.5 m ; well-known x – y - z - ( l'été )"),
            (
                "apostrophes = \"part\"",
                "The nest - box isn ' t 3,000.5 m ; well - known x – y - z - ( l ' été )",
            ),
            ("numbers = \"part\"", "The nest - box isn't 3 , 000 . 5 m ; well - known x – y - z - ( l'été )"),
            ("punctuation = \"leave\"", "The nest box isn't 3,000.5 m well known x y z l'été"),
            (
                "into = \"posts\"\nhyphens = \"part\"\npunctuation = \"leave\"",
                "The nest box isn't 3,000.5 m well known x y z l'été",
            ),
            (
                "into = \"spaces\"\nhyphens = \"part\"",
                "The nest - box isn't 3,000.5 m; well - known x–y - z - (l'été)",
            ),
        ];
        for (settings, expected) in table {
            assert_eq!(
                testing::clean(&format!("[[step]]\ndo = \"split\"\n{settings}\n"), text),
                expected,
                "{settings}"
            );
        }
    }
}
