//! The keys of steps, and what their values look like.

use std::marker::PhantomData;

use crate::lemma::DictionaryFiles;
use crate::step::{Condition, PairList, RowList, Value, WordList};

/// What is known of a key without its value.
#[derive(Clone, Copy, Debug)]
pub struct KeyFacts {
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
    /// A decimal number from 0 up.
    Number,
    /// A table of conditions on fields.
    Fields,
    /// The path of a file.
    File,
    /// A dictionary in Hunspell's format: its name on this system, or the path of one of its two files.
    Dictionary {
        /// Whether a step in a language other than English takes the dictionary of its language if it names no source of its own.
        of_language: bool,
    },
}

impl Shape {
    /// What a value looks like, in a few words.
    pub fn told(self) -> String {
        let words =
            |words: &[&str]| words.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", ");
        let told = match self {
            Shape::Whole { least, most } => return format!("a whole number from {least} to {most}"),
            Shape::OneOf(choices) => return format!("one of {}", words(choices)),
            Shape::SomeOf(choices) => return format!("an array of {}", words(choices)),
            Shape::Truth => "`true` or `false`",
            Shape::Text => "a text",
            Shape::Texts => "an array of texts",
            Shape::Named => "a table of texts",
            Shape::Pairs => "an array of tables",
            Shape::Rows => "an array of files",
            Shape::Number => "a number from 0 up",
            Shape::Share => "a number from 0 to 1",
            Shape::Fields => "a table of fields and values",
            Shape::File => "a file",
            Shape::Dictionary { .. } => "the name or the file of a dictionary",
            Shape::Lists => "an array of lists",
        };
        told.to_owned()
    }
}

/// A key of a step whose value is of the type `V`: asking for another key than is declared, or for a value of another type, does not compile.
pub struct Key<V: 'static> {
    /// What is known of it without its value.
    pub facts: KeyFacts,
    value: PhantomData<fn() -> V>,
}

/// A type that the values of keys have.
pub trait KeyValue {
    /// What is given of a value: nothing, or an empty list, where the key is left out.
    type Given<'s>;

    /// Takes the value, which is of the type that the key's shape asks for.
    fn given(value: Option<&Value>) -> Self::Given<'_>;
}

impl<V> Key<V> {
    const fn of(name: &'static str, shape: Shape, about: &'static str) -> Key<V> {
        Key { facts: KeyFacts { name, shape, default: None, about }, value: PhantomData }
    }

    /// The key with the value that it has when left out, as TOML would show it without quotes.
    pub const fn or(self, default: &'static str) -> Key<V> {
        let facts = self.facts;
        Key { facts: KeyFacts { default: Some(default), ..facts }, value: PhantomData }
    }
}

impl Key<u64> {
    /// A whole number within bounds.
    pub const fn whole(name: &'static str, least: u64, most: u64, about: &'static str) -> Key<u64> {
        Key::of(name, Shape::Whole { least, most }, about)
    }
}

impl KeyValue for u64 {
    type Given<'s> = Option<u64>;

    fn given(value: Option<&Value>) -> Option<u64> {
        match value {
            Some(Value::Whole(number)) => Some(*number),
            _ => None,
        }
    }
}

impl Key<&'static str> {
    /// One of these words.
    pub const fn one_of(
        name: &'static str,
        words: &'static [&'static str],
        about: &'static str,
    ) -> Key<&'static str> {
        Key::of(name, Shape::OneOf(words), about)
    }
}

impl KeyValue for &'static str {
    type Given<'s> = Option<&'static str>;

    fn given(value: Option<&Value>) -> Option<&'static str> {
        match value {
            Some(Value::Choice(word)) => Some(*word),
            _ => None,
        }
    }
}

impl Key<Vec<&'static str>> {
    /// An array of some of these words.
    pub const fn some_of(
        name: &'static str,
        words: &'static [&'static str],
        about: &'static str,
    ) -> Key<Vec<&'static str>> {
        Key::of(name, Shape::SomeOf(words), about)
    }
}

impl KeyValue for Vec<&'static str> {
    type Given<'s> = &'s [&'static str];

    fn given(value: Option<&Value>) -> &'_ [&'static str] {
        match value {
            Some(Value::Choices(words)) => words,
            _ => &[],
        }
    }
}

impl Key<bool> {
    /// `true` or `false`.
    pub const fn truth(name: &'static str, about: &'static str) -> Key<bool> {
        Key::of(name, Shape::Truth, about)
    }
}

impl KeyValue for bool {
    type Given<'s> = Option<bool>;

    fn given(value: Option<&Value>) -> Option<bool> {
        match value {
            Some(Value::Truth(truth)) => Some(*truth),
            _ => None,
        }
    }
}

impl Key<String> {
    /// A text.
    pub const fn text(name: &'static str, about: &'static str) -> Key<String> {
        Key::of(name, Shape::Text, about)
    }
}

impl KeyValue for String {
    type Given<'s> = Option<&'s str>;

    fn given(value: Option<&Value>) -> Option<&'_ str> {
        match value {
            Some(Value::Text(text)) => Some(text),
            _ => None,
        }
    }
}

impl Key<Vec<String>> {
    /// An array of texts.
    pub const fn texts(name: &'static str, about: &'static str) -> Key<Vec<String>> {
        Key::of(name, Shape::Texts, about)
    }
}

impl KeyValue for Vec<String> {
    type Given<'s> = &'s [String];

    fn given(value: Option<&Value>) -> &'_ [String] {
        match value {
            Some(Value::Texts(texts)) => texts,
            _ => &[],
        }
    }
}

impl Key<Vec<(String, String)>> {
    /// A table of texts by name, in the order written.
    pub const fn named(name: &'static str, about: &'static str) -> Key<Vec<(String, String)>> {
        Key::of(name, Shape::Named, about)
    }
}

impl KeyValue for Vec<(String, String)> {
    type Given<'s> = &'s [(String, String)];

    fn given(value: Option<&Value>) -> &'_ [(String, String)] {
        match value {
            Some(Value::Named(pairs)) => pairs,
            _ => &[],
        }
    }
}

impl Key<Vec<PairList>> {
    /// An array of tables of pairs.
    pub const fn pairs(name: &'static str, about: &'static str) -> Key<Vec<PairList>> {
        Key::of(name, Shape::Pairs, about)
    }
}

impl KeyValue for Vec<PairList> {
    type Given<'s> = &'s [PairList];

    fn given(value: Option<&Value>) -> &'_ [PairList] {
        match value {
            Some(Value::Pairs(lists)) => lists,
            _ => &[],
        }
    }
}

impl Key<Vec<RowList>> {
    /// An array of tables of rows.
    pub const fn rows(name: &'static str, about: &'static str) -> Key<Vec<RowList>> {
        Key::of(name, Shape::Rows, about)
    }
}

impl KeyValue for Vec<RowList> {
    type Given<'s> = &'s [RowList];

    fn given(value: Option<&Value>) -> &'_ [RowList] {
        match value {
            Some(Value::Rows(lists)) => lists,
            _ => &[],
        }
    }
}

impl Key<Vec<WordList>> {
    /// An array of word lists.
    pub const fn lists(name: &'static str, about: &'static str) -> Key<Vec<WordList>> {
        Key::of(name, Shape::Lists, about)
    }
}

impl KeyValue for Vec<WordList> {
    type Given<'s> = &'s [WordList];

    fn given(value: Option<&Value>) -> &'_ [WordList] {
        match value {
            Some(Value::Lists(lists)) => lists,
            _ => &[],
        }
    }
}

impl Key<f64> {
    /// A decimal number from 0 up.
    pub const fn decimal(name: &'static str, about: &'static str) -> Key<f64> {
        Key::of(name, Shape::Number, about)
    }

    /// A decimal number from 0 to 1.
    pub const fn share(name: &'static str, about: &'static str) -> Key<f64> {
        Key::of(name, Shape::Share, about)
    }
}

impl KeyValue for f64 {
    type Given<'s> = Option<f64>;

    fn given(value: Option<&Value>) -> Option<f64> {
        match value {
            Some(Value::Share(millionths)) => Some(f64::from(*millionths) / 1e6),
            Some(Value::Number(millionths)) => Some(*millionths as f64 / 1e6),
            _ => None,
        }
    }
}

impl Key<Condition> {
    /// A table of conditions on fields.
    pub const fn fields(name: &'static str, about: &'static str) -> Key<Condition> {
        Key::of(name, Shape::Fields, about)
    }
}

impl KeyValue for Condition {
    type Given<'s> = Option<&'s Condition>;

    fn given(value: Option<&Value>) -> Option<&'_ Condition> {
        match value {
            Some(Value::Fields(condition)) => Some(condition),
            _ => None,
        }
    }
}

impl Key<Vec<u8>> {
    /// The path of a file, which is read.
    pub const fn file(name: &'static str, about: &'static str) -> Key<Vec<u8>> {
        Key::of(name, Shape::File, about)
    }
}

impl KeyValue for Vec<u8> {
    type Given<'s> = Option<&'s [u8]>;

    fn given(value: Option<&Value>) -> Option<&'_ [u8]> {
        match value {
            Some(Value::File(bytes)) => Some(bytes),
            _ => None,
        }
    }
}

impl Key<DictionaryFiles> {
    /// A dictionary in Hunspell's format. `of_language` says whether a step in a language other than English takes that of its language if it names no
    /// source of its own.
    pub const fn dictionary(
        name: &'static str,
        of_language: bool,
        about: &'static str,
    ) -> Key<DictionaryFiles> {
        Key::of(name, Shape::Dictionary { of_language }, about)
    }
}

impl KeyValue for DictionaryFiles {
    type Given<'s> = Option<&'s DictionaryFiles>;

    fn given(value: Option<&Value>) -> Option<&'_ DictionaryFiles> {
        match value {
            Some(Value::Dictionary(files)) => Some(files),
            _ => None,
        }
    }
}
