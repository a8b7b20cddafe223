//! What a recipe stands on, written down: so that it is noticed when any of it has changed.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::bounded::read_bounded;
use crate::word_list::Input;

/// What a recipe stood on when it was locked.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RecipeLock {
    /// The version of the tool, and so of all that ships in it.
    pub yarrup: String,
    /// The XXH3 hash (128 bits) of the recipe file, in hexadecimal.
    pub recipe: String,
    /// The files that it names, also those of the system: names and hashes.
    #[serde(default)]
    pub files: BTreeMap<String, String>,
}

impl RecipeLock {
    /// What a recipe stands on now.
    pub fn of(version: &str, text: &str, inputs: &[Input]) -> RecipeLock {
        let file = |input: &Input| (input.name.clone(), crate::hash(&input.content));
        RecipeLock {
            yarrup: version.to_owned(),
            recipe: crate::hash(text.as_bytes()),
            files: inputs.iter().map(file).collect(),
        }
    }

    /// Where the lock of a recipe stands.
    pub fn place(recipe: &Path) -> PathBuf {
        recipe.with_extension("lock")
    }

    /// Reads a lock; none if there is none.
    ///
    /// # Errors
    ///
    /// Why it cannot be read.
    pub fn read(path: &Path) -> Result<Option<RecipeLock>, String> {
        let bytes = match read_bounded(path) {
            Err(why) if why.kind() == std::io::ErrorKind::NotFound => return Ok(None),
            other => other.map_err(|why| why.to_string())?,
        };
        let text = String::from_utf8(bytes).map_err(|_| "is not UTF-8".to_owned())?;
        toml::from_str(&text).map(Some).map_err(|why| why.message().to_owned())
    }

    /// As it is written.
    pub fn toml(&self, recipe: &str) -> String {
        // Texts always are TOML.
        let table = toml::to_string(self).unwrap_or_default();
        format!(
            "# What {recipe} depends on, written by `yarrup lock`. A run warns if any of it has changed; with --locked it refuses to run.\n{table}"
        )
    }

    /// What is not as it was locked, each in words.
    pub fn changes(&self, now: &RecipeLock) -> Vec<String> {
        let mut changes = Vec::new();
        if self.yarrup != now.yarrup {
            changes.push(format!("yarrup was {} then and is {} now", self.yarrup, now.yarrup));
        }
        if self.recipe != now.recipe {
            changes.push("the recipe has changed".to_owned());
        }
        for (name, hash) in &now.files {
            match self.files.get(name) {
                Some(locked) if locked == hash => {}
                Some(_) => changes.push(format!("`{name}` has changed")),
                None => changes.push(format!("`{name}` is new")),
            }
        }
        let gone = self.files.keys().filter(|name| !now.files.contains_key(*name));
        changes.extend(gone.map(|name| format!("`{name}` is not used any more")));
        changes
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_has_changed_is_told_in_words() {
        let input = |name: &str, content: &str| Input {
            name: name.to_owned(),
            content: content.as_bytes().to_vec(),
            of_system: false,
        };
        let locked = RecipeLock::of("1", "a", &[input("ours.txt", "the"), input("old", "x")]);
        let read: RecipeLock = toml::from_str(&locked.toml("r.toml")).expect("as it was written");
        assert_eq!(read, locked);
        assert!(read.changes(&locked).is_empty());
        let now = RecipeLock::of("2", "b", &[input("ours.txt", "an"), input("new", "x")]);
        assert_eq!(
            locked.changes(&now),
            [
                "yarrup was 1 then and is 2 now",
                "the recipe has changed",
                "`new` is new",
                "`ours.txt` has changed",
                "`old` is not used any more"
            ]
        );
    }
}
