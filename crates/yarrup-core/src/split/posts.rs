//! Social text: links, mentions, hashtags, faces and quantities whole.

use crate::kind::{Kind, KindSet};
use crate::span::Span;
use crate::split::abbreviations::Abbreviations;
use crate::split::clitics::{Cased, join_marks, split_around_kinds};
use crate::split::{Splitter, Words};

/// A token is a word by Unicode's boundaries, but whatever the recogniser finds and holds no white space is whole: links, addresses,
/// mentions, hashtags, emoticons, emoji, dates, times, amounts. Words with hyphens, abbreviations, and runs of dots, dashes, `!` and `?`
/// are whole too.
#[derive(Clone, Debug)]
pub struct Posts {
    words: Words,
    part_hashtags: bool,
    abbreviations: Abbreviations,
}

impl Posts {
    /// Posts in a language, such as `en`, whose abbreviations are kept whole.
    pub fn of(language: Option<&str>, part_hashtags: bool) -> Posts {
        Posts { words: Words::default(), part_hashtags, abbreviations: Abbreviations::of(language) }
    }

    /// With words split like this.
    #[must_use]
    pub fn with_words(self, words: Words) -> Self {
        Self { words, ..self }
    }
}

impl Splitter for Posts {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        self.split_cased(&Cased::of(text), spans);
    }

    fn split_alike(&self, original: &str, text: &str, spans: &mut Vec<Span>) -> bool {
        Cased::split_alike(original, text, spans, |text, spans| self.split_cased(text, spans))
    }

    fn ignores_case(&self) -> bool {
        false
    }
}

impl Posts {
    fn split_cased(&self, cased: &Cased<'_>, spans: &mut Vec<Span>) {
        let first = spans.len();
        split_around_kinds(cased, &self.words, KindSet::FOUND, spans);
        let found = spans.split_off(first);
        join_marks(cased, &found, &self.abbreviations, |span| {
            let token = span.of(cased.text());
            if self.part_hashtags && token.starts_with(['#', '＃']) && Kind::of(token) == Kind::Hashtag {
                // Capitals tell where its words begin.
                cased.check(|original| span.of(original) == token);
                part_hashtag(token, span.start, spans);
            } else {
                spans.push(span);
            }
        });
    }
}

/// Appends the sign of a hashtag and its words: a word begins at a capital behind a small letter or before one, at a digit behind a letter, at a
/// letter behind a digit, and behind `_`.
fn part_hashtag(token: &str, offset: u32, spans: &mut Vec<Span>) {
    let mut push = |start: usize, end: usize| {
        let trimmed = token[start..end].trim_matches('_');
        if !trimmed.is_empty() {
            let from = start + token[start..end].len() - token[start..end].trim_start_matches('_').len();
            spans.push(Span { start: offset + from as u32, end: offset + (from + trimmed.len()) as u32 });
        }
    };
    let sign = token.chars().next().map_or(0, char::len_utf8);
    push(0, sign);
    let mut start = sign;
    let chars: Vec<(usize, char)> = token.char_indices().skip(1).collect();
    for (place, &(at, c)) in chars.iter().enumerate().skip(1) {
        let before = chars[place - 1].1;
        let next = chars.get(place + 1).map(|&(_, c)| c);
        let begins = (c.is_uppercase() && before.is_lowercase())
            || (c.is_uppercase() && before.is_uppercase() && next.is_some_and(char::is_lowercase))
            || (c.is_numeric() != before.is_numeric() && c != '_' && before != '_')
            || before == '_';
        if begins {
            push(start, at);
            start = at;
        }
    }
    push(start, token.len());
}

#[cfg(test)]
mod tests {
    use super::*;

    fn tokens<'t>(part_hashtags: bool, text: &'t str) -> String {
        let mut spans = Vec::new();
        Posts::of(Some("en"), part_hashtags).split(text, &mut spans);
        spans.iter().map(|span| span.of(text)).collect::<Vec<&'t str>>().join(" ")
    }

    #[test]
    fn what_posts_hold_is_whole() {
        let table = [
            (
                "@mira saw #terns :-) 🐦🐦 https://example.org/a?b=1, wow!!!",
                "@mira saw #terns :-) 🐦 🐦 https://example.org/a?b=1 , wow !!!",
            ),
            ("don't £5.50 15% 40km 06:30", "don't £5.50 15% 40km 06:30"),
            ("call +44 20 7946 0018 now", "call +44 20 7946 0018 now"),
            ("-5 degrees, +3,000.5 m, 10%-20 -5-6 a-5", "-5 degrees , +3,000.5 m , 10% - 20 -5 - 6 a-5"),
            ("<3 nest-box... ok", "<3 nest-box ... ok"),
            ("the 90's, rock-'n'-roll, #a/#b a/#c", "the 90's , rock-'n'-roll , #a / #b a / # c"),
        ];
        for (text, expected) in table {
            assert_eq!(tokens(false, text), expected, "{text}");
        }
        assert_eq!(
            tokens(true, "#SeaWallWatch2031 #RSPBNews #low_tide #terns"),
            "# Sea Wall Watch 2031 # RSPB News # low tide # terns"
        );
    }
}
