//! The values of a step's keys.

use std::ops::Range;
use std::sync::Arc;

use crate::condition::Condition;
use crate::lemma::DictionaryFiles;
use crate::step::{Arrival, Arrivals, ArrivedToken, Gap, Key, KeyFacts, KeyValue};

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

/// The value of a key, once all files are read that it names.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "as in `Shape`")]
pub enum Value {
    Whole(u64),
    Choice(&'static str),
    Choices(Vec<&'static str>),
    Truth(bool),
    Text(String),
    Texts(Vec<String>),
    Named(Vec<(String, String)>),
    Lists(Vec<WordList>),
    Pairs(Vec<PairList>),
    Rows(Vec<RowList>),
    /// In millionths.
    Share(u32),
    /// In millionths.
    Number(u64),
    Fields(Condition),
    File(Vec<u8>),
    Dictionary(Arc<DictionaryFiles>),
}

/// The value of a key as it is written: files are named, and not read yet.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Written {
    /// A value that names no file.
    Value(Value),
    Lists(Vec<ListReference>),
    Pairs(Vec<ListReference>),
    Rows(Vec<ListReference>),
    File(ListReference),
    Dictionary(ListReference),
}

/// The values of a step's own keys, as they are written.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct WrittenSettings {
    pub(crate) values: Vec<(&'static str, Written)>,
}

impl WrittenSettings {
    /// Whether the key was written at all.
    pub fn has(&self, key: &KeyFacts) -> bool {
        self.values.iter().any(|(name, _)| *name == key.name)
    }

    /// The value of a key that names no file.
    pub fn get<V: KeyValue>(&self, key: &Key<V>) -> V::Given<'_> {
        V::given(self.values.iter().find_map(|(name, written)| match written {
            Written::Value(value) if *name == key.facts.name => Some(value),
            _ => None,
        }))
    }

    /// Everything that names a file, or a list on the shelf.
    pub fn references(&self) -> impl Iterator<Item = &ListReference> {
        self.values.iter().flat_map(|(_, written)| match written {
            Written::Lists(named) | Written::Pairs(named) | Written::Rows(named) => named.as_slice(),
            Written::File(named) | Written::Dictionary(named) => std::slice::from_ref(named),
            Written::Value(_) => &[],
        })
    }

    /// As [`WrittenSettings::references`], to be changed.
    pub(crate) fn references_mut(&mut self) -> impl Iterator<Item = &mut ListReference> {
        self.values.iter_mut().flat_map(|(_, written)| match written {
            Written::Lists(named) | Written::Pairs(named) | Written::Rows(named) => named.as_mut_slice(),
            Written::File(named) | Written::Dictionary(named) => std::slice::from_mut(named),
            Written::Value(_) => &mut [],
        })
    }
}

/// The values of a step's own keys, with all that it is told of the recipe around it.
#[derive(Clone, Default)]
pub struct Settings {
    pub(crate) values: Vec<(&'static str, Value)>,
    /// The language of the documents, as the recipe names it.
    pub(crate) language: Option<String>,
    /// The words that the step must leave alone, by the recipe or by the step.
    pub(crate) spared: Vec<String>,
    /// The labels that earlier steps give, in the order of their bits.
    pub(crate) labels: Vec<String>,
    /// Whether an earlier step gives tokens their parts of speech.
    pub(crate) tagged: bool,
    pub(crate) reduced: bool,
    /// How entries of word lists arrive at the step; none before the split.
    pub(crate) arrivals: Option<Arc<dyn Arrivals>>,
}

impl std::fmt::Debug for Settings {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Settings").field("values", &self.values).finish_non_exhaustive()
    }
}

/// The key by which steps name the language of the documents.
const LANGUAGE: Key<String> = Key::text("language", "");

impl Settings {
    /// The value of a key: nothing, or an empty list, where it is left out.
    pub fn get<V: KeyValue>(&self, key: &Key<V>) -> V::Given<'_> {
        V::given(self.values.iter().find(|(name, _)| *name == key.facts.name).map(|(_, value)| value))
    }

    /// Whether the key was written at all.
    pub fn has(&self, key: &KeyFacts) -> bool {
        self.values.iter().any(|(name, _)| *name == key.name)
    }

    /// The words that the step must leave alone, by the recipe or by the step itself.
    pub fn spared(&self) -> &[String] {
        &self.spared
    }

    /// For each entry of a word list, the ways in which it arrives at the step; word by word for a step that stands before the split.
    pub(crate) fn arrivals(&self, entries: &[&str]) -> Vec<Vec<Arrival>> {
        if let Some(arrivals) = &self.arrivals {
            return arrivals.of(entries);
        }
        let as_written = |entry: &&str| {
            let word = |word: &str| ArrivedToken { text: word.to_owned(), gap: Gap::None };
            vec![entry.split_whitespace().map(word).collect()]
        };
        entries.iter().map(as_written).collect()
    }

    /// The bit of a label that an earlier step gives.
    pub fn label_bit(&self, name: &str) -> Option<u32> {
        self.labels.iter().position(|known| known == name).map(|bit| 1 << bit)
    }

    /// Whether an earlier step gives tokens their parts of speech.
    pub fn is_tagged(&self) -> bool {
        self.tagged
    }

    /// Whether an earlier step takes endings off, so that a word's form tells no more of its number or tense.
    pub fn is_reduced(&self) -> bool {
        self.reduced
    }

    /// The labels that earlier steps give.
    pub fn labels(&self) -> &[String] {
        &self.labels
    }

    /// The primary part of the language of the documents, such as `en` of `en-GB`, if the step or the recipe names one.
    pub fn language(&self) -> Option<&str> {
        let named = self.get(&LANGUAGE).or(self.language.as_deref());
        named.map(|tag| tag.split('-').next().unwrap_or(tag))
    }
}
