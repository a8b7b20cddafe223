//! What a step can be: declared once, for reading, help, suggestions and reference pages.

use crate::split::Splitter;
use crate::step::{DocumentStep, KeyFacts, SequenceStep, Settings, SettingsError, TextStep, TokenStep};

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
    /// Behind the split, with the whole collection in view.
    Collection,
}

impl Stage {
    /// Whether the step needs tokens: it stands behind the split.
    pub fn needs_tokens(self) -> bool {
        matches!(self, Stage::Token | Stage::Collection)
    }

    /// The stage's name, as reports write it.
    pub fn name(self) -> &'static str {
        match self {
            Stage::Text => "text",
            Stage::Split => "split",
            Stage::Token => "token",
            Stage::TextOrToken => "text or token",
            Stage::Collection => "collection",
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
    pub keys: &'static [&'static KeyFacts],
    /// Keys of a step that works, as TOML.
    pub example: &'static str,
    /// The parts that it plays among others.
    pub roles: &'static [Role],
    /// What it learns from the whole collection, if it can.
    pub learns: Option<&'static Learns>,
    /// Builds what runs.
    pub build: fn(&Settings) -> Result<Built, SettingsError>,
}

impl Operation {
    /// Whether the step plays this part.
    pub fn plays(&self, role: Role) -> bool {
        self.roles.contains(&role)
    }
}

/// A part that a step plays among others: what advice asks for, in place of the names of steps.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// Takes out or replaces what it finds, on purpose, so that later steps do not miss it.
    Replaces,
    /// Erases characters.
    Erases,
    /// Changes letter case.
    Recases,
    /// Makes one space of many.
    CollapsesSpaces,
    /// Writes contracted forms out.
    WritesOut,
    /// Drops the words of stop lists.
    StopList,
    /// Cuts words down, to stems or to lemmas.
    Reduces,
    /// Cuts words down to stems.
    Stems,
    /// Gives tokens their parts of speech, by the words around them.
    Tags,
    /// Says something of tokens and changes none, so that what the recipe spares from change is no concern of it.
    Marks,
    /// Is for single words, and does nothing for sentences or lines.
    WorksOnWords,
    /// Is for documents of one language.
    KnowsLanguage,
}

/// What a step learns from the whole collection.
#[derive(Debug)]
pub struct Learns {
    /// The key that holds what was learned, in the frozen recipe.
    pub key: &'static KeyFacts,
    /// What one of the things learned is called, and several.
    pub names: (&'static str, &'static str),
    /// What is told of each of them.
    pub evidence: Evidence,
}

/// What is told of something that was learned.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Evidence {
    /// How often it came.
    Count,
    /// In what share of the documents it stands.
    Share,
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
