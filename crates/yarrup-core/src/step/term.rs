//! Terms as steps that learn are shown them.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::step::Learned;

/// A term of the vocabulary.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Term<'l> {
    /// The spelling.
    pub text: &'l str,
    /// Its number among the texts of the account.
    pub number: u32,
    /// Tokens that became this term.
    pub count: u64,
    /// Documents that hold it.
    pub documents: u64,
    /// Distinct forms that became it.
    pub forms: u64,
    /// The form that most of its tokens had; the first by bytes among equals.
    pub commonest_form: &'l str,
    /// The part of speech that most of its tokens had, where the recipe gives one.
    pub tag: Option<Tag>,
}

impl Term<'_> {
    /// The term as something that was learned, with its counts as evidence.
    pub fn learned(&self) -> Learned {
        Learned {
            text: self.text.to_owned(),
            to: None,
            count: self.count,
            documents: self.documents,
            score: None,
        }
    }

    /// What the term is made of.
    pub fn kind(&self) -> Kind {
        Kind::of(self.text)
    }
}
