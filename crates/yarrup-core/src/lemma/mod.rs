//! Lemmas: the word that a form is listed under in a dictionary.

mod english;
mod hunspell;
mod lexicon;

use std::borrow::Cow;
use std::sync::Arc;

pub(crate) use english::{English, Readings, english};
pub(crate) use hunspell::Hunspell;
pub(crate) use lexicon::english_lexicon;

use crate::recipe::DictionaryFiles;

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

/// Tells whether there is such a word.
#[derive(Clone, Debug)]
pub(crate) enum Speller {
    English(&'static English),
    Dictionary(Arc<Hunspell>),
}

impl Speller {
    /// By the dictionary in these files.
    pub(crate) fn dictionary(files: &DictionaryFiles) -> Result<Speller, String> {
        Ok(Speller::Dictionary(Arc::new(Hunspell::read(files)?)))
    }

    /// Whether the word, in any letter case, is a word or a form of one.
    pub(crate) fn knows(&self, word: &str) -> bool {
        match self {
            Speller::English(english) => english.knows(&word.to_lowercase()),
            Speller::Dictionary(dictionary) => dictionary.knows(word),
        }
    }
}
