//! What a step can be: the one list from which reading, help, suggestions and reference pages are drawn.

use std::ops::Range;

use crate::split::{SPLIT, Splitter};
use crate::text::{CASE, ERASE, SPACES, TextStep};
use crate::token::{DROP, STEM, STOPWORDS, TokenStep};

/// Every operation that a step's `do` can name. A new one is its own file and one line here.
pub static OPERATIONS: &[&Operation] = &[&CASE, &ERASE, &SPACES, &SPLIT, &DROP, &STOPWORDS, &STEM];

/// The operation with this name.
pub fn operation(name: &str) -> Option<&'static Operation> {
    OPERATIONS.iter().copied().find(|operation| operation.name == name)
}

/// Where in a recipe a step may stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
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
    /// An array of texts.
    Texts,
    /// An array of word lists: names on the shelf, or own files.
    Lists,
}

/// A step that can run.
pub enum Built {
    /// A text step.
    Text(Box<dyn TextStep>),
    /// A splitter.
    Split(Box<dyn Splitter>),
    /// A token step.
    Token(Box<dyn TokenStep>),
    /// Both, for a step that may stand on either side.
    TextOrToken(Box<dyn TextStep>, Box<dyn TokenStep>),
}

/// A word list as a recipe names it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ListReference {
    /// A name on the shelf, or the path of a file as written.
    pub name: String,
    /// The column of a CSV file.
    pub column: Option<String>,
    /// Where the reference stands in the recipe.
    pub span: Range<usize>,
}

impl ListReference {
    /// Whether this names a file rather than a list on the shelf: it has an ending or a folder.
    pub fn is_file(&self) -> bool {
        self.column.is_some() || self.name.contains(['.', '/', '\\'])
    }
}

/// A word list whose words are known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WordList {
    /// The name on the shelf, or the path as written.
    pub name: String,
    /// The words, in the order of the list.
    pub words: Vec<String>,
}

/// The value of a key, as written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Setting {
    Whole(u64),
    Choice(&'static str),
    Choices(Vec<&'static str>),
    Texts(Vec<String>),
    References(Vec<ListReference>),
    Lists(Vec<WordList>),
}

/// The values of a step's own keys. The types are those of the operation's keys.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Settings {
    pub(crate) values: Vec<(&'static str, Setting)>,
}

impl Settings {
    fn get(&self, key: &str) -> Option<&Setting> {
        self.values.iter().find(|(name, _)| *name == key).map(|(_, value)| value)
    }

    /// The word that a [`Shape::OneOf`] key has.
    pub fn choice(&self, key: &str) -> Option<&'static str> {
        match self.get(key) {
            Some(Setting::Choice(word)) => Some(word),
            _ => None,
        }
    }

    /// The words that a [`Shape::SomeOf`] key has.
    pub fn choices(&self, key: &str) -> Vec<&'static str> {
        match self.get(key) {
            Some(Setting::Choices(words)) => words.clone(),
            _ => Vec::new(),
        }
    }

    /// The number that a [`Shape::Whole`] key has.
    pub fn whole(&self, key: &str) -> Option<u64> {
        match self.get(key) {
            Some(Setting::Whole(number)) => Some(*number),
            _ => None,
        }
    }

    /// The texts that a [`Shape::Texts`] key has.
    pub fn texts(&self, key: &str) -> &[String] {
        match self.get(key) {
            Some(Setting::Texts(texts)) => texts,
            _ => &[],
        }
    }

    /// The lists that a [`Shape::Lists`] key has. Empty before the lists were read.
    pub fn lists(&self, key: &str) -> &[WordList] {
        match self.get(key) {
            Some(Setting::Lists(lists)) => lists,
            _ => &[],
        }
    }

    /// The word lists that this step names.
    pub fn references(&self) -> impl Iterator<Item = &ListReference> {
        self.values.iter().flat_map(|(_, value)| match value {
            Setting::References(references) => references.as_slice(),
            _ => &[],
        })
    }
}

/// The settings with each reference to a word list replaced by what `words` makes of it.
pub(crate) fn setting_lists(
    settings: &Settings,
    mut words: impl FnMut(&ListReference) -> Option<WordList>,
) -> Settings {
    let values = settings.values.iter().map(|(key, value)| match value {
        Setting::References(references) => {
            (*key, Setting::Lists(references.iter().filter_map(&mut words).collect()))
        }
        other => (*key, other.clone()),
    });
    Settings { values: values.collect() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::{read, testing};
    use std::collections::HashSet;

    #[test]
    fn names_are_unique_and_lower_case() {
        let mut seen = HashSet::new();
        for operation in OPERATIONS {
            assert!(seen.insert(operation.name), "{}", operation.name);
            assert!(operation.name.bytes().all(|b| b.is_ascii_lowercase()));
            let mut keys: HashSet<_> = ["do", "label", "spare", "only"].into();
            for key in operation.keys {
                assert!(keys.insert(key.name), "{}.{}", operation.name, key.name);
                assert!(!key.about.is_empty());
            }
        }
    }

    #[test]
    fn every_example_is_read_and_built() {
        for operation in OPERATIONS {
            let written = format!("[[step]]\ndo = \"{}\"\n{}\n", operation.name, operation.example);
            assert!(read(&written).is_ok(), "{written}");
            testing::clean(&written, "Some terns nest.");
        }
    }

    #[test]
    fn defaults_are_among_the_choices() {
        for key in OPERATIONS.iter().flat_map(|operation| operation.keys) {
            if let (Shape::OneOf(words), Some(default)) = (key.shape, key.default) {
                assert!(words.contains(&default), "{}", key.name);
            }
        }
    }
}
