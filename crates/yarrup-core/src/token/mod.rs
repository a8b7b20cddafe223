//! Tokens after the split, and the steps that keep, change or drop them.

mod drop;
mod stem;
mod stopwords;

pub(crate) use drop::DROP;
pub(crate) use stem::STEM;
pub(crate) use stopwords::STOPWORDS;

use crate::split::Kind;

/// A distinct spelling of a token at some point of a recipe.
#[derive(Clone, Copy, Debug)]
pub struct Form<'a> {
    /// The spelling.
    pub text: &'a str,
    /// What it is made of.
    pub kind: Kind,
}

impl<'a> Form<'a> {
    /// The form with this spelling.
    pub fn new(text: &'a str) -> Form<'a> {
        Form { text, kind: Kind::of(text) }
    }
}

/// What a token step makes of a form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// The form goes on as it is.
    Keep,
    /// The form goes on with another spelling, which is neither the same nor empty.
    Change(String),
    /// The form goes no further, for the reason with this number: see [`TokenStep::reason`].
    Drop(u16),
}

/// A step that decides about each form by its spelling and kind alone, so that it runs once a distinct form.
pub trait TokenStep: Send + Sync {
    /// What becomes of `form`. The same form must always meet the same fate.
    fn apply(&self, form: &Form<'_>) -> Outcome;

    /// The reason with this number, as reports name it.
    fn reason(&self, _number: u16) -> String {
        String::new()
    }

    /// The entries of the word lists that this step compares tokens with.
    fn entries(&self) -> &[Entry] {
        &[]
    }

    /// Whether the lists hold `token`, by the rule of this step for letter case.
    fn lists(&self, _token: &str) -> bool {
        false
    }
}

/// One word of a word list, and where it was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The word as written.
    pub word: String,
    /// The list's name: a shelf name, a file, or `add`.
    pub list: String,
}
