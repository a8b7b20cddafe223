//! Recipes as written: what a recipe file may hold, and how it is read.

mod alter;
pub(crate) mod codes;
mod file_error;
mod flatten;
mod include;
mod read;
mod starters;

pub use alter::{Alteration, alter};
pub use codes::{CODES, Code};
pub use file_error::FileError;
pub use flatten::{FlattenError, flatten, moved};
pub use include::{NoRecipes, Recipes};
pub use read::{nearest, read, read_known, read_with};
pub use starters::{STARTERS, Starter};

use crate::step::{Condition, Operation, WrittenSettings};
use crate::steps::collection::limit::{KNOWN, LIMIT};
use std::ops::Range;

/// A mistake in a recipe, and where it stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// What sort of mistake it is.
    pub kind: FaultKind,
    /// What is wrong, in one sentence.
    pub title: String,
    /// The bytes of the recipe file that it speaks of.
    pub span: Range<usize>,
    /// What was found there against what was expected.
    pub label: String,
    /// What to type instead, where that is known.
    pub help: Option<String>,
}

/// A sort of mistake.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum FaultKind {
    /// The file is not valid TOML.
    Syntax,
    /// A key that does not exist.
    UnknownKey,
    /// A step or a code of advice that does not exist.
    UnknownName,
    /// A value of another type, or beyond its bounds.
    WrongValue,
    /// Something that must be there and is not.
    Missing,
    /// Steps in an order that cannot be.
    Order,
    /// More steps than there may be.
    TooMany,
    /// An included recipe that cannot be had, or has mistakes.
    Include,
    /// A file or a list that cannot be had.
    File,
    /// Settings that do not fit together.
    Settings,
}

/// The name of the step that brings the steps of another recipe in.
pub const INCLUDE: &str = "include";

/// What a step, or every step, must leave alone: as written.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SpareList {
    /// The words.
    pub words: Vec<String>,
    /// The names of the kinds.
    pub kinds: Vec<&'static str>,
    /// The parts of speech, by name or code.
    pub tags: Vec<&'static str>,
    /// The labels that earlier steps give.
    pub labels: Vec<String>,
    /// Whether a token must have one of the parts of speech and all of the labels, not any of them.
    pub all: bool,
}

impl SpareList {
    /// Adds what another list spares.
    pub(crate) fn add(&mut self, other: &SpareList) {
        self.words.extend(other.words.iter().cloned());
        self.kinds.extend(other.kinds.iter().copied());
        self.tags.extend(other.tags.iter().copied());
        self.labels.extend(other.labels.iter().cloned());
        self.all |= other.all;
    }
}

/// A step as written.
#[derive(Clone, Debug)]
pub struct Step {
    /// What the step does.
    pub operation: &'static Operation,
    /// A name for reports.
    pub label: Option<String>,
    /// What it must leave alone.
    pub spare: SpareList,
    /// What the included recipe that it stands in spares.
    pub spare_around: SpareList,
    /// On which documents it works; on all if there is no condition.
    pub only: Option<Condition>,
    /// The codes of advice that its author has no need of.
    pub allow: Vec<String>,
    /// The path of the included recipe that the step stands in, if it does not stand in this one.
    pub included: Option<String>,
    /// The step's own keys.
    pub settings: WrittenSettings,
    /// Where the value of `do` stands in the file; empty for a step that was put in.
    pub span: Range<usize>,
    /// Where its own keys stand in the file, each with its value. None for an included step, which stands in another.
    pub(crate) key_spans: Vec<(&'static str, Range<usize>)>,
}

impl Step {
    /// Where the value of this key stands in the file, if it stands there.
    pub(crate) fn span_of(&self, key: &str) -> Option<&Range<usize>> {
        self.key_spans.iter().find(|(name, _)| *name == key).map(|(_, span)| span)
    }

    /// A step with nothing but its `do`, which stands at `span`.
    pub(crate) fn new(operation: &'static Operation, span: Range<usize>) -> Step {
        Step {
            operation,
            label: None,
            spare: SpareList::default(),
            spare_around: SpareList::default(),
            only: None,
            allow: Vec::new(),
            included: None,
            settings: WrittenSettings::default(),
            span,
            key_spans: Vec::new(),
        }
    }
}

/// A text with what a recipe must make of it: a test that stands in the recipe itself.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Example {
    /// The text.
    pub text: String,
    /// What it shows.
    pub about: Option<String>,
    /// The fields of the document that it stands for.
    pub fields: Vec<(String, String)>,
    /// The cleaned text.
    pub clean: Option<String>,
    /// The terms that are left, in order.
    pub tokens: Option<Vec<String>>,
    /// Words of the text that must be dropped wherever they stand in it.
    pub drops: Vec<String>,
    /// Terms that must be left, or words of the text that must not be dropped.
    pub keeps: Vec<String>,
    /// Where it stands in the file.
    pub span: Range<usize>,
}

/// A recipe as written: an ordered list of steps. Every name in it is known and every value has its type, but own word
/// lists have not been read.
#[derive(Clone, Debug, Default)]
pub struct Recipe {
    /// The recipe's name.
    pub name: Option<String>,
    /// What it is for.
    pub about: Option<String>,
    /// The language of the documents, as a BCP 47 tag.
    pub language: Option<String>,
    /// What every step must leave alone.
    pub spare: SpareList,
    /// The codes of advice on the whole that its author has no need of.
    pub allow: Vec<String>,
    /// The steps, in the order written.
    pub steps: Vec<Step>,
    /// What it must make of some texts. Those of recipes that it includes are theirs.
    pub examples: Vec<Example>,
}

impl Recipe {
    /// Which of the `[[step]]` tables of its file holds the step with this index, or includes it: all steps of an included recipe stand where one table
    /// includes it.
    pub(crate) fn table_of(&self, index: usize) -> usize {
        let steps = &self.steps[..self.steps.len().min(index + 1)];
        steps.windows(2).filter(|pair| pair[0].span.start != pair[1].span.start).count()
    }

    /// The terms that the last `limit` keeps, where they were learned and are written out; none if no `limit` has any.
    pub fn limited_to(&self) -> Option<&[String]> {
        let limits = self.steps.iter().filter(|step| step.operation.name == LIMIT.name);
        let step = limits.rev().find(|step| step.settings.has(&KNOWN.facts))?;
        Some(step.settings.get(&KNOWN))
    }
}
