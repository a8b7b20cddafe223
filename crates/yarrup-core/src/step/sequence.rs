//! The tokens of one document in their order, for steps that look at neighbours.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::step::Facts;
use crate::unicode;

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

/// What stands between a token and the one before it. A run of words that may go over a gap may go over every lesser one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Gap {
    /// Nothing but white space.
    #[default]
    None,
    /// Words that are no tokens any more, or never were.
    Words,
    /// A mark, or a symbol: a full stop, a comma, a bracket.
    Mark,
    /// The border of a paragraph, or the beginning of the text.
    Paragraph,
}

impl Gap {
    /// What the text between two tokens is.
    pub(crate) fn of(between: &str) -> Gap {
        let lines = between.bytes().filter(|&byte| byte == b'\n').count();
        if lines > 1 {
            Gap::Paragraph
        } else if between.chars().all(char::is_whitespace) {
            Gap::None
        } else {
            Gap::of_token(between)
        }
    }

    /// What is left where this token stood.
    pub(crate) fn of_token(token: &str) -> Gap {
        let joins = |c: char| {
            c.is_alphanumeric()
                || matches!(c, '-' | '\u{2010}' | '\u{2011}' | '_')
                || unicode::is_apostrophe(c)
        };
        if token.chars().any(joins) { Gap::Words } else { Gap::Mark }
    }
}

/// Spellings by their numbers.
pub(crate) trait Spellings: std::fmt::Debug {
    /// The spelling with this number.
    fn spelling(&self, number: u32) -> &str;
}

/// Where the spelling of a token is found: most steps know it by its number, and do without a look into memory for its letters.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Spelling<'a> {
    Known(&'a dyn Spellings),
    Text(&'a str),
}

/// A token in its place.
#[derive(Clone, Copy, Debug)]
pub struct Place<'a> {
    pub(crate) spelling: Spelling<'a>,
    /// The number of its spelling, by which whoever works on the tokens may remember it: one number, one spelling.
    pub number: u32,
    /// Its part of speech, where it has one.
    pub tag: Option<Tag>,
    /// Its labels, a bit for each.
    pub labels: u32,
    /// What stands before it.
    pub gap: Gap,
    /// Whether the step must leave it alone.
    pub spared: bool,
}

impl<'a> Place<'a> {
    /// A token alone, of a spelling with this number.
    pub(crate) fn alone(text: &'a str, number: u32) -> Place<'a> {
        let spelling = Spelling::Text(text);
        Place { spelling, number, tag: None, labels: 0, gap: Gap::None, spared: false }
    }

    /// Its spelling.
    pub fn text(&self) -> &'a str {
        match self.spelling {
            Spelling::Known(spellings) => spellings.spelling(self.number),
            Spelling::Text(text) => text,
        }
    }

    /// What it is made of.
    pub fn kind(&self) -> Kind {
        Kind::of(self.text())
    }

    /// Whether a run of words cannot go on over it: it is a mark, a symbol, or the like.
    pub fn parts(&self) -> bool {
        !self.text().chars().any(char::is_alphanumeric)
    }
}

/// What becomes of tokens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Edit {
    /// The token gets labels beside those that it has.
    Label(u32, u32),
    /// The token gets another spelling.
    Change(u32, String),
    /// The token goes no further, for the reason with this number.
    Drop(u32, u16),
    /// The tokens of this range become one.
    Join(u32, u32, String),
    /// The tokens of this range are the material of another one, and go into it.
    Run(u32, u32, String),
}

/// What a step has made of the tokens of a document.
pub(crate) struct Edits<'a> {
    pub(crate) tokens: Vec<Place<'a>>,
    /// By token, or empty.
    pub(crate) tags: Vec<Option<Tag>>,
    pub(crate) edits: Vec<Edit>,
    pub(crate) replaced: Option<u16>,
}

/// The tokens of a document, and what a step makes of them.
#[derive(Debug, Default)]
pub struct Sequence<'a> {
    tokens: Vec<Place<'a>>,
    /// The parts of speech that tokens get; empty if none gets any.
    tags: Vec<Option<Tag>>,
    edits: Vec<Edit>,
    /// The number of the reason for which all tokens are dropped of which nothing is made, unless they are spared.
    replaced: Option<u16>,
}

impl<'a> Sequence<'a> {
    pub(crate) fn new(tokens: Vec<Place<'a>>) -> Sequence<'a> {
        Sequence { tokens, ..Sequence::default() }
    }

    /// The tokens, in order.
    pub fn tokens(&self) -> &[Place<'a>] {
        &self.tokens
    }

    /// Gives a token its part of speech.
    pub fn tag(&mut self, place: usize, tag: Tag) {
        if self.tags.is_empty() {
            self.tags.resize(self.tokens.len(), None);
        }
        self.tags[place] = Some(tag);
    }

    /// Gives a token labels beside those that it has.
    pub fn label(&mut self, place: usize, labels: u32) {
        self.edits.push(Edit::Label(place as u32, labels));
    }

    /// Gives a token another spelling, which is neither the same nor empty.
    pub fn change(&mut self, place: usize, text: String) {
        self.edits.push(Edit::Change(place as u32, text));
    }

    /// Drops a token, for the reason with this number.
    pub fn drop(&mut self, place: usize, reason: u16) {
        self.edits.push(Edit::Drop(place as u32, reason));
    }

    /// Makes one token of those from `start` to before `end`. Joins must not overlap, and must come from left to right.
    pub fn join(&mut self, start: usize, end: usize, text: String) {
        self.edits.push(Edit::Join(start as u32, end as u32, text));
    }

    /// Makes a token of those from `start` to before `end`, which go into it; runs may overlap. Behind [`Sequence::replace_all`] alone.
    pub fn run(&mut self, start: usize, end: usize, text: String) {
        self.edits.push(Edit::Run(start as u32, end as u32, text));
    }

    /// Replaces all tokens that are not spared: those of which [`Sequence::run`] makes nothing are dropped, for the reason with this number.
    pub fn replace_all(&mut self, reason: u16) {
        self.replaced = Some(reason);
    }

    /// The tokens again, the parts of speech that they get, what becomes of them else, and the reason for which all are dropped.
    pub(crate) fn into_edits(self) -> Edits<'a> {
        Edits { tokens: self.tokens, tags: self.tags, edits: self.edits, replaced: self.replaced }
    }
}

#[cfg(test)]
mod tests {
    use super::Gap;

    #[test]
    fn gaps_are_told_by_the_text_between() {
        for (between, gap) in [
            (" ", Gap::None),
            ("", Gap::None),
            ("\r\n", Gap::None),
            ("\n\n", Gap::Paragraph),
            ("\r\n\r\n", Gap::Paragraph),
            (" \n \n", Gap::Paragraph),
            (". ", Gap::Mark),
            (" of ", Gap::Words),
            ("-", Gap::Words),
            ("\u{2019}", Gap::Words),
            (" \u{3002}", Gap::Mark),
        ] {
            assert_eq!(Gap::of(between), gap, "{between:?}");
        }
    }
}
