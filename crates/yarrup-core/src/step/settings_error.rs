//! Why a step cannot be done as it is set.

use crate::step::KeyFacts;

/// Why a step cannot be done as it is set. The step's name is for whoever words it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum SettingsError {
    /// None of these keys is set, and the step needs one of them at least.
    NeedsOneOf(Vec<&'static str>),
    /// The value of a key does not serve.
    Key {
        /// The key.
        key: &'static str,
        /// One sentence that says why.
        why: String,
    },
    /// Keys that do not go together, or with the recipe around them: one sentence.
    Step(String),
}

impl SettingsError {
    /// None of these keys is set.
    pub fn needs_one_of(keys: &[&KeyFacts]) -> SettingsError {
        SettingsError::NeedsOneOf(keys.iter().map(|key| key.name).collect())
    }

    /// The value of this key does not serve, for the reason in this sentence.
    pub fn key(key: &KeyFacts, why: impl Into<String>) -> SettingsError {
        SettingsError::Key { key: key.name, why: why.into() }
    }

    /// That the value of this key does not serve, for the reason that is given.
    pub(crate) fn at(key: &KeyFacts) -> impl Fn(String) -> SettingsError {
        let key = key.name;
        move |why| SettingsError::Key { key, why }
    }

    /// The sentence for a step of this name.
    pub fn told_of(&self, step: &str) -> String {
        match self {
            SettingsError::NeedsOneOf(keys) => {
                let keys: Vec<_> = keys.iter().map(|key| format!("`{key}`")).collect();
                match keys.as_slice() {
                    [one] => format!("`{step}` needs {one}"),
                    _ => format!("`{step}` needs at least one of {}", keys.join(", ")),
                }
            }
            SettingsError::Key { why, .. } | SettingsError::Step(why) => why.clone(),
        }
    }
}

impl From<String> for SettingsError {
    fn from(sentence: String) -> SettingsError {
        SettingsError::Step(sentence)
    }
}

impl From<&str> for SettingsError {
    fn from(sentence: &str) -> SettingsError {
        SettingsError::Step(sentence.to_owned())
    }
}
