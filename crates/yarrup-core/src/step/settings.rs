//! The values of a step's keys.

use std::ops::Range;
use std::sync::Arc;

use crate::lemma::DictionaryFiles;

/// A word list as a recipe names it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ListReference {
    /// A name on the shelf, or the path of a file as written.
    pub name: String,
    /// The column of a CSV file; of a table of pairs, that of the texts to be replaced.
    pub column: Option<String>,
    /// The column of a table of pairs that holds what is put in their place.
    pub to: Option<String>,
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

/// A table of pairs that has been read: texts, each with what is put in its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PairList {
    /// The path as written.
    pub name: String,
    /// The pairs, in the order of the table.
    pub pairs: Vec<(String, String)>,
}

/// A table of rows that has been read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RowList {
    /// The path as written.
    pub name: String,
    /// The rows, in the order of the table, each of two or three cells.
    pub rows: Vec<Vec<String>>,
}

/// The value of a key, as written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Setting {
    Whole(u64),
    Choice(&'static str),
    Choices(Vec<&'static str>),
    Truth(bool),
    Text(String),
    Texts(Vec<String>),
    Named(Vec<(String, String)>),
    References(Vec<ListReference>),
    Lists(Vec<WordList>),
    PairReferences(Vec<ListReference>),
    Pairs(Vec<PairList>),
    RowReferences(Vec<ListReference>),
    Rows(Vec<RowList>),
    /// In millionths.
    Share(u32),
    FileReference(ListReference),
    File(Vec<u8>),
    DictionaryReference(ListReference),
    Dictionary(Arc<DictionaryFiles>),
}

/// The values of a step's own keys. The types are those of the operation's keys.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Settings {
    pub(crate) values: Vec<(&'static str, Setting)>,
    /// The language of the documents, as the recipe names it.
    pub(crate) language: Option<String>,
    /// The words that the step must leave alone, by the recipe or by the step.
    pub(crate) spared: Vec<String>,
    /// The labels that earlier steps give, in the order of their bits.
    pub(crate) labels: Vec<String>,
    /// Whether an earlier step gives tokens their parts of speech.
    pub(crate) tagged: bool,
}

impl Settings {
    fn get(&self, key: &str) -> Option<&Setting> {
        self.values.iter().find(|(name, _)| *name == key).map(|(_, value)| value)
    }

    /// Whether the key was written at all.
    pub fn has(&self, key: &str) -> bool {
        self.get(key).is_some()
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

    /// Whether a [`Shape::Truth`] key is true; none if it is left out.
    pub fn truth(&self, key: &str) -> Option<bool> {
        match self.get(key) {
            Some(Setting::Truth(truth)) => Some(*truth),
            _ => None,
        }
    }

    /// The text that a [`Shape::Text`] key has.
    pub fn text(&self, key: &str) -> Option<&str> {
        match self.get(key) {
            Some(Setting::Text(text)) => Some(text),
            _ => None,
        }
    }

    /// The texts by name that a [`Shape::Named`] key has, in the order written.
    pub fn named(&self, key: &str) -> &[(String, String)] {
        match self.get(key) {
            Some(Setting::Named(pairs)) => pairs,
            _ => &[],
        }
    }

    /// The tables that a [`Shape::Pairs`] key has. Empty before they were read.
    pub fn pairs(&self, key: &str) -> &[PairList] {
        match self.get(key) {
            Some(Setting::Pairs(lists)) => lists,
            _ => &[],
        }
    }

    /// The tables that a [`Shape::Rows`] key has. Empty before they were read.
    pub fn rows(&self, key: &str) -> &[RowList] {
        match self.get(key) {
            Some(Setting::Rows(lists)) => lists,
            _ => &[],
        }
    }

    /// The number that a [`Shape::Share`] key has, from 0 to 1.
    pub fn share(&self, key: &str) -> Option<f64> {
        match self.get(key) {
            Some(Setting::Share(millionths)) => Some(f64::from(*millionths) / 1e6),
            _ => None,
        }
    }

    /// The bytes of the file that a [`Shape::File`] key names, once it was read.
    pub fn file(&self, key: &str) -> Option<&[u8]> {
        match self.get(key) {
            Some(Setting::File(bytes)) => Some(bytes),
            _ => None,
        }
    }

    /// The dictionary that a [`Shape::Dictionary`] key names, or the one of the documents' language, once it was read.
    pub fn dictionary(&self, key: &str) -> Option<&DictionaryFiles> {
        match self.get(key) {
            Some(Setting::Dictionary(files)) => Some(files),
            _ => None,
        }
    }

    /// The words that the step must leave alone, by the recipe or by the step itself.
    pub fn spared(&self) -> &[String] {
        &self.spared
    }

    /// The bit of a label that an earlier step gives.
    pub fn label_bit(&self, name: &str) -> Option<u32> {
        self.labels.iter().position(|known| known == name).map(|bit| 1 << bit)
    }

    /// Whether an earlier step gives tokens their parts of speech.
    pub fn is_tagged(&self) -> bool {
        self.tagged
    }

    /// The labels that earlier steps give.
    pub fn labels(&self) -> &[String] {
        &self.labels
    }

    /// The primary part of the language of the documents, such as `en` of `en-GB`, if the step or the recipe names one.
    pub fn language(&self) -> Option<&str> {
        let named = self.text("language").or(self.language.as_deref());
        named.map(|tag| tag.split('-').next().unwrap_or(tag))
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
            Setting::References(references)
            | Setting::PairReferences(references)
            | Setting::RowReferences(references) => references.as_slice(),
            Setting::FileReference(reference) => std::slice::from_ref(reference),
            _ => &[],
        })
    }
}
