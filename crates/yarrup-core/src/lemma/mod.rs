//! Lemmas: the word that a form is listed under in a dictionary.

mod english;
mod lexicon;

use std::borrow::Cow;

pub(crate) use english::{English, Readings, english};
pub(crate) use lexicon::{Classes, english_lexicon};

/// The lemma of a form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Lemma<'f> {
    pub(crate) text: Cow<'f, str>,
    pub(crate) known: Known,
}

/// Whether a word was found in a table or a lexicon.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Known {
    Yes,
    No,
}

impl<'f> Lemma<'f> {
    /// A lemma that a table holds.
    fn of(lemma: &str) -> Lemma<'f> {
        Lemma { text: Cow::Owned(lemma.to_owned()), known: Known::Yes }
    }
}
