//! The contract of what learns for a step from the whole collection.

use std::any::Any;

use crate::seen::Seen;
use crate::step::{Arriving, Copies, Term};

/// Something that a step has learned from the collection, with its evidence.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Learned {
    /// What was learned: a word, the words of a phrase, a line.
    pub text: String,
    /// What it becomes, where it is a pair that was learned.
    pub to: Option<String>,
    /// How often it came.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// The score by which it was chosen, where there is one.
    pub score: Option<f64>,
}

/// What a learner is shown of each document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shown {
    /// The text before the step.
    Text,
    /// The tokens before the step, in order.
    Tokens,
    /// Nothing: the vocabulary of all documents is enough.
    Vocabulary,
}

/// Learns for a step from the documents in which the step works, as they are before it. Each worker has one of its own; together they learn
/// what one alone would have learned, whoever saw which documents.
pub trait Learner: Any + Send {
    /// What it is shown of each document.
    fn shown(&self) -> Shown {
        Shown::Vocabulary
    }

    /// Looks at the text of a document that stands at this place among all.
    fn text(&mut self, _order: u64, _text: &str) {}

    /// Looks at the tokens of a document, in order.
    fn tokens(&mut self, _arriving: &Arriving<'_>) {}

    /// Adds what another worker's learner has seen, which learns for the same step.
    fn absorb(&mut self, other: Box<dyn Learner>);

    /// Begins another pass over the collection, if one is needed: because the first was too much to keep.
    fn needs_another_pass(&mut self) -> bool {
        false
    }

    /// What another worker begins the same pass with.
    fn fresh(&self) -> Box<dyn Learner>;

    /// What it has seen, to be kept.
    fn seen(&mut self) -> Seen {
        Seen::default()
    }

    /// A learner for the same step that has seen this; none if it is not what such a learner sees.
    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        seen.read().is_empty().then(|| self.fresh())
    }

    /// Which documents repeat others, for a learner that looks for this and learns nothing else.
    fn copies(&mut self) -> Option<Copies> {
        None
    }

    /// What was learned, in the order in which it is told. `vocabulary` is that of the documents before the step, by count and then by bytes,
    /// for a learner that is shown nothing else; `documents` is their number.
    fn learned(
        self: Box<Self>,
        vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        documents: u64,
    ) -> Vec<Learned>;
}

/// A learner that is shown nothing but the vocabulary.
struct FromVocabulary<F>(F);

impl<F> Learner for FromVocabulary<F>
where
    F: Fn(&mut dyn Iterator<Item = Term<'_>>, u64) -> Vec<Learned> + Clone + Send + 'static,
{
    fn absorb(&mut self, _other: Box<dyn Learner>) {}

    fn fresh(&self) -> Box<dyn Learner> {
        Box::new(FromVocabulary(self.0.clone()))
    }

    fn learned(
        self: Box<Self>,
        vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        documents: u64,
    ) -> Vec<Learned> {
        (self.0)(vocabulary, documents)
    }
}

/// A learner for which the vocabulary before the step, and the number of documents, are enough.
pub fn from_vocabulary(
    learn: impl Fn(&mut dyn Iterator<Item = Term<'_>>, u64) -> Vec<Learned> + Clone + Send + 'static,
) -> Box<dyn Learner> {
    Box::new(FromVocabulary(learn))
}

/// The learner itself behind the contract, for [`Learner::absorb`].
///
/// # Panics
///
/// If it is of another step, which the engine never gives.
pub(crate) fn same<L: Learner>(learner: Box<dyn Learner>) -> L {
    let any: Box<dyn Any> = learner;
    *any.downcast().expect("learners of one step are of one type")
}
