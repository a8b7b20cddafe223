//! The splitters: the one step that turns text into tokens.

mod abbreviations;
mod blocks;
mod clitics;
mod graphemes;
mod numbered;
mod pattern;
mod posts;
mod refined;
mod sentences;
mod spaces;
mod unicode_sentences;
mod unspaced;
mod whole;
mod window;
mod words;

pub(crate) use blocks::Groups;
pub use blocks::{Lines, Paragraphs};
pub use clitics::Clitics;
pub use graphemes::{Characters, next_grapheme_boundary};
pub(crate) use numbered::Numbered;
pub use pattern::Pattern;
pub use posts::Posts;
pub(crate) use refined::{Joint, Refined};
pub use sentences::Sentences;
pub use spaces::Spaces;
pub use unicode_sentences::{UnicodeSentences, next_sentence_boundary};
pub(crate) use whole::Whole;
pub use words::{Words, next_word_boundary};

use crate::span::Span;

/// Turns text into tokens.
pub trait Splitter: Send + Sync {
    /// Appends the spans of the tokens of `text` to `spans`, in order. Only runs of characters overlap.
    ///
    /// No token is empty or white space alone.
    fn split(&self, text: &str, spans: &mut Vec<Span>);

    /// Whether changing a letter's case without changing its length moves no boundary, so that the engine need not split the text as found
    /// once more.
    fn ignores_case(&self) -> bool {
        true
    }

    /// As [`Splitter::split`], of a text that differs from `original` in that letters of this are small there. Returns whether the original is split
    /// at the same places. If that cannot be told, no span is appended.
    fn split_alike(&self, original: &str, text: &str, spans: &mut Vec<Span>) -> bool {
        debug_assert_eq!(original.len(), text.len(), "letters keep their places");
        let ignores_case = self.ignores_case();
        if ignores_case {
            self.split(text, spans);
        }
        ignores_case
    }

    /// Whether every letter of a text is in one token, so that what is done to the letters of all tokens is done to those of the text.
    fn covers_letters(&self) -> bool {
        false
    }

    /// Whether its tokens are words or parts of words, and none holds white space.
    fn parts_words(&self) -> bool {
        true
    }

    /// Whether its tokens are longer than words, so that each stands on a line of its own in the cleaned text.
    fn makes_lines(&self) -> bool {
        false
    }

    /// What finds the sentences whose numbers tokens are to keep.
    fn sentences(&self) -> Option<&dyn Splitter> {
        None
    }
}
