//! The contract of token steps, and what they are told of a token.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::step::{Place, SequenceStep, Term};

/// A distinct spelling of a token at some point of a recipe.
#[derive(Clone, Copy, Debug)]
pub struct Form<'a> {
    /// The spelling.
    pub text: &'a str,
    /// What it is made of.
    pub kind: Kind,
    /// What earlier steps have said of it.
    pub mark: Mark,
}

impl<'a> Form<'a> {
    /// The form with this spelling.
    pub fn new(text: &'a str) -> Form<'a> {
        Form::marked(text, Mark::default())
    }

    /// The form with this spelling and mark.
    pub fn marked(text: &'a str, mark: Mark) -> Form<'a> {
        Form { text, kind: Kind::of(text), mark }
    }
}

/// What steps have said of a token beside its spelling: its part of speech and its labels.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Mark(u32);

impl Mark {
    /// How many labels a recipe can have.
    pub const MOST_LABELS: usize = 24;

    /// Its part of speech, where a step gave one.
    pub fn tag(self) -> Option<Tag> {
        Tag::numbered((self.0 & 0xff) as u8)
    }

    /// Its labels, a bit for each.
    pub fn labels(self) -> u32 {
        self.0 >> 8
    }

    /// The mark of a token that is made of others: all their labels, and the part of speech of a name if one of them is a name, else of
    /// the last.
    pub(crate) fn of_parts(parts: impl Iterator<Item = Mark> + Clone) -> Mark {
        let labels = parts.clone().fold(0, |labels, mark| labels | mark.labels());
        let mut tags = parts.clone().filter_map(Mark::tag);
        let tag = tags.find(|tag| *tag == Tag::ProperNoun).or_else(|| parts.last().and_then(Mark::tag));
        tag.map_or(Mark::default(), |tag| Mark::default().with_tag(tag)).with_labels(labels)
    }

    pub(crate) fn with_tag(self, tag: Tag) -> Mark {
        Mark(self.0 & !0xff | tag as u32)
    }

    pub(crate) fn with_labels(self, labels: u32) -> Mark {
        Mark(self.0 | labels << 8)
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

    /// What works on tokens in their order, for a step that needs to; such a step is not asked about single forms.
    fn sequence(&self) -> Option<&dyn SequenceStep> {
        None
    }

    /// What learns for this step from the collection as it is before it; none if nothing is left to learn.
    fn learner(&self) -> Option<Box<dyn TokenLearner + '_>> {
        None
    }

    /// Whether what the step leaves of a word is its lemma.
    fn gives_lemmas(&self) -> bool {
        false
    }

    /// The label that the step gives to tokens.
    fn gives_label(&self) -> Option<&str> {
        None
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

/// Something that a step has learned from the collection, with its evidence.
#[derive(Clone, Debug, PartialEq)]
pub struct Learned {
    /// What was learned: a word, the words of a phrase.
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

/// Learns for a token step from the collection as it is before the step.
pub trait TokenLearner {
    /// Looks at the tokens of a document, in order. Only for those that need the order.
    fn document(&mut self, _tokens: &[Place<'_>]) {}

    /// Whether [`TokenLearner::document`] must be shown the documents.
    fn needs_order(&self) -> bool {
        false
    }

    /// What was learned. `vocabulary` is that before the step: by count, then by bytes.
    fn learned(
        self: Box<Self>,
        vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        documents: u64,
    ) -> Vec<Learned>;
}
