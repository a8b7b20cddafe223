//! What a step can be: declared once, for reading, help, suggestions and reference pages.

use crate::split::Splitter;
use crate::step::{DocumentStep, SequenceStep, Settings, TextStep, TokenStep};

/// Where in a recipe a step may stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub enum Stage {
    /// Before the split.
    Text,
    /// The split itself.
    Split,
    /// Behind the split.
    Token,
    /// On either side of the split.
    TextOrToken,
}

impl Stage {
    /// The stage's name, as reports write it.
    pub fn name(self) -> &'static str {
        match self {
            Stage::Text => "text",
            Stage::Split => "split",
            Stage::Token => "token",
            Stage::TextOrToken => "text or token",
        }
    }
}

/// One thing that a step can do, declared once: its name, its keys, and how it is built.
#[derive(Debug)]
pub struct Operation {
    /// The value of `do`.
    pub name: &'static str,
    /// Where the step may stand.
    pub stage: Stage,
    /// What it does, in one sentence without a subject.
    pub about: &'static str,
    /// Its keys, beside those that every step has.
    pub keys: &'static [Key],
    /// Keys of a step that works, as TOML.
    pub example: &'static str,
    /// Builds what runs. An error is one sentence about the settings.
    pub build: fn(&Settings) -> Result<Built, String>,
}

/// A key of a step.
#[derive(Clone, Copy, Debug)]
pub struct Key {
    /// The key as written.
    pub name: &'static str,
    /// What its value looks like.
    pub shape: Shape,
    /// The value that it has when left out, as TOML would show it without quotes.
    pub default: Option<&'static str>,
    /// What it means.
    pub about: &'static str,
}

/// What the value of a key looks like.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shape {
    /// A whole number within bounds.
    Whole {
        /// The least that is allowed.
        least: u64,
        /// The most that is allowed.
        most: u64,
    },
    /// One of these words.
    OneOf(&'static [&'static str]),
    /// An array of some of these words.
    SomeOf(&'static [&'static str]),
    /// `true` or `false`.
    Truth,
    /// A text.
    Text,
    /// An array of texts.
    Texts,
    /// A table of texts by name.
    Named,
    /// An array of tables of pairs: own files.
    Pairs,
    /// An array of word lists: names on the shelf, or own files.
    Lists,
    /// An array of tables of rows: own files.
    Rows,
    /// A decimal number from 0 to 1.
    Share,
    /// The path of a file.
    File,
    /// A dictionary in Hunspell's format: its name on this system, or the path of one of its two files.
    Dictionary {
        /// Whether a step in a language other than English takes the dictionary of its language if it names no source of its own.
        of_language: bool,
    },
}

/// A step that can run.
pub enum Built {
    /// A text step.
    Text(Box<dyn TextStep>),
    /// A splitter.
    Split(Box<dyn Splitter>),
    /// A step that decides about each form.
    Token(Box<dyn TokenStep>),
    /// A step that looks at tokens in their order.
    Sequence(Box<dyn SequenceStep>),
    /// A step that decides about whole documents.
    Document(Box<dyn DocumentStep>),
    /// Both, for a step that may stand on either side.
    TextOrToken(Box<dyn TextStep>, Box<dyn TokenStep>),
}
