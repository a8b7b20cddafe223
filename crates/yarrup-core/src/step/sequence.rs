//! The tokens of one document in their order, for steps that look at neighbours.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::step::Facts;

/// A token step that needs to see tokens in their order. Immutable, and shared by all workers.
pub trait SequenceStep: Facts {
    /// What does the work for one worker: it may keep what it has worked out.
    fn worker(&self) -> Box<dyn SequenceWork + '_>;
}

/// The working part of a [`SequenceStep`], one for each worker.
pub trait SequenceWork: Send {
    /// Looks at the tokens of a document and says what becomes of them. The same tokens must always meet the same fate.
    fn document(&mut self, tokens: &mut Sequence<'_>);
}

/// A token in its place.
#[derive(Clone, Copy, Debug)]
pub struct Place<'a> {
    /// Its spelling.
    pub text: &'a str,
    /// Its part of speech, where it has one.
    pub tag: Option<Tag>,
    /// Its labels, a bit for each.
    pub labels: u32,
    /// Whether a sentence or a paragraph may begin with it, as far as the text before it tells.
    pub begins: bool,
    /// Whether the step must leave it alone.
    pub spared: bool,
}

impl Place<'_> {
    /// What it is made of.
    pub fn kind(&self) -> Kind {
        Kind::of(self.text)
    }

    /// Whether a run of words cannot go on over it: it is a mark, a symbol, or the like.
    pub fn parts(&self) -> bool {
        !self.text.chars().any(char::is_alphanumeric)
    }
}

/// What becomes of tokens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Edit {
    /// The token gets a part of speech.
    Tag(u32, Tag),
    /// The token gets labels beside those that it has.
    Label(u32, u32),
    /// The token goes no further, for the reason with this number.
    Drop(u32, u16),
    /// The tokens of this range become one.
    Join(u32, u32, String),
    /// The tokens of this range are the material of another one; they go themselves, unless kept.
    Run(u32, u32, String),
}

/// The tokens of a document, and what a step makes of them.
#[derive(Debug, Default)]
pub struct Sequence<'a> {
    tokens: Vec<Place<'a>>,
    edits: Vec<Edit>,
    /// Whether all tokens go that are not added.
    replaced: bool,
}

impl<'a> Sequence<'a> {
    pub(crate) fn new(tokens: Vec<Place<'a>>) -> Sequence<'a> {
        Sequence { tokens, edits: Vec::new(), replaced: false }
    }

    /// The tokens, in order.
    pub fn tokens(&self) -> &[Place<'a>] {
        &self.tokens
    }

    /// Gives a token its part of speech.
    pub fn tag(&mut self, place: usize, tag: Tag) {
        self.edits.push(Edit::Tag(place as u32, tag));
    }

    /// Gives a token labels beside those that it has.
    pub fn label(&mut self, place: usize, labels: u32) {
        self.edits.push(Edit::Label(place as u32, labels));
    }

    /// Drops a token, for the reason with this number.
    pub fn drop(&mut self, place: usize, reason: u16) {
        self.edits.push(Edit::Drop(place as u32, reason));
    }

    /// Makes one token of those from `start` to before `end`. Joins must not overlap, and must come from left to right.
    pub fn join(&mut self, start: usize, end: usize, text: String) {
        self.edits.push(Edit::Join(start as u32, end as u32, text));
    }

    /// Replaces all tokens by runs of them, which may overlap, in the order of coming.
    pub fn run(&mut self, start: usize, end: usize, text: String) {
        self.replaced = true;
        self.edits.push(Edit::Run(start as u32, end as u32, text));
    }

    /// Drops every token that [`Sequence::run`] does not make.
    pub fn replace_all(&mut self) {
        self.replaced = true;
    }

    pub(crate) fn into_edits(self) -> (Vec<Edit>, bool) {
        (self.edits, self.replaced)
    }
}
