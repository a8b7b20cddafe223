//! What a step says, in words.

use serde::Serialize;

/// What a step says.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct StepText {
    /// Its place in the recipe, from 1.
    pub number: usize,
    /// Its operation.
    pub operation: &'static str,
    /// Its label, if it has one.
    pub label: Option<String>,
    /// The language that the recipe is for, where it names one.
    pub language: Option<String>,
    /// What its keys say, in the order of their names. What a step spares and on which documents it works stand among them.
    pub keys: Vec<KeyText>,
}

/// What a key of a step says.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct KeyText {
    /// The key.
    pub name: String,
    /// Its value as it is shown.
    pub written: String,
    /// The entries of the lists that it names, each once, in the order of their bytes; empty for a value that is no list.
    #[serde(skip)]
    pub entries: Vec<String>,
}

impl StepText {
    /// Whether both do the same: their labels are of no account.
    pub fn does_as(&self, other: &StepText) -> bool {
        self.says_as(other) && self.language == other.language
    }

    /// Whether both say the same of themselves, whatever language their recipes are for.
    pub fn says_as(&self, other: &StepText) -> bool {
        self.operation == other.operation && self.keys == other.keys
    }
}
