//! The splitters: the one step that turns text into tokens, and the kinds that tokens are of.

mod kind;
mod recognise;
mod spaces;
mod words;

pub use kind::Kind;
pub(crate) use recognise::emoji_length;
pub use recognise::{KindSet, recognise};
pub use spaces::Spaces;
pub use words::{Words, next_word_boundary};

use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};

/// A half-open range of bytes in a document's text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Span {
    /// Where the first byte stands.
    pub start: u32,
    /// Where the byte after the last stands.
    pub end: u32,
}

impl Span {
    /// The stretch of `text` that this span covers. `text` is the one that the span was made for.
    pub fn of<'a>(&self, text: &'a str) -> &'a str {
        &text[self.start as usize..self.end as usize]
    }
}

/// Turns text into tokens.
pub trait Splitter: Send + Sync {
    /// Appends the spans of the tokens of `text` to `spans`, in order and without overlap.
    ///
    /// No token is empty or white space alone. Changing a letter's case without changing its length must not move
    /// a boundary: the engine relies on it.
    fn split(&self, text: &str, spans: &mut Vec<Span>);
}

pub(crate) static SPLIT: Operation = Operation {
    name: "split",
    stage: Stage::Split,
    about: "cuts the text into tokens",
    keys: &[Key {
        name: "into",
        shape: Shape::OneOf(&["words", "spaces"]),
        default: Some("words"),
        about: "`words`: Unicode's word boundaries, punctuation marks being tokens of their own; \
                `spaces`: whatever stands between white space",
    }],
    example: "into = \"words\"",
    build: |settings| Ok(Built::Split(splitter(settings))),
};

fn splitter(settings: &Settings) -> Box<dyn Splitter> {
    match settings.choice("into") {
        Some("spaces") => Box::new(Spaces),
        _ => Box::new(Words),
    }
}
