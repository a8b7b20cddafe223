//! The contract of token steps, and what they are told of a token.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::step::Facts;

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

    /// The mark as a number that tells it apart from others.
    pub(crate) fn number(self) -> u32 {
        self.0
    }

    /// The mark without its labels.
    pub(crate) fn without_labels(self) -> Mark {
        Mark(self.0 & 0xff)
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
    /// The form goes no further, for the reason with this number: see [`Facts::reason`].
    Drop(u16),
}

/// A step that decides about each form by its spelling, kind and mark alone, so that it runs once a distinct form.
pub trait TokenStep: Facts {
    /// What becomes of `form`. The same form must always meet the same fate.
    fn apply(&self, form: &Form<'_>) -> Outcome;
}
