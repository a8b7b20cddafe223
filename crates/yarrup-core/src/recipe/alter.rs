//! Recipes that are another but for one thing.

use toml_edit::{DocumentMut, Item, Value};

/// What is otherwise in a recipe than in another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Alteration {
    /// A step is not there.
    Without {
        /// The index of its `[[step]]`.
        step: usize,
    },
    /// A key of a step has another value.
    Set {
        /// The index of its `[[step]]`.
        step: usize,
        /// The key.
        key: String,
        /// The value, as TOML.
        value: String,
    },
}

/// The text of a recipe with these alterations; none if its steps do not stand as `[[step]]` tables, as [`flatten()`](crate::recipe::flatten()) writes
/// them, if there is no such step, or if a value is no TOML. The rest of the text stays as it is. Steps are counted as they stand before any is taken out.
pub fn alter(text: &str, alterations: &[Alteration]) -> Option<String> {
    let mut document: DocumentMut = text.parse().ok()?;
    let steps = document.get_mut("step").and_then(Item::as_array_of_tables_mut)?;
    for alteration in alterations {
        if let Alteration::Set { step, key, value } = alteration {
            let value: Value = value.parse().ok()?;
            steps.get_mut(*step)?.insert(key, Item::Value(value));
        }
    }
    let mut gone: Vec<usize> = Vec::new();
    for alteration in alterations {
        if let Alteration::Without { step } = alteration {
            steps.get(*step)?;
            gone.push(*step);
        }
    }
    gone.sort_unstable();
    gone.dedup();
    for step in gone.into_iter().rev() {
        steps.remove(step);
    }
    if steps.is_empty() {
        document.remove("step");
    }
    Some(document.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    const RECIPE: &str = "recipe = \"notes\"\n\n# small letters\n[[step]]\ndo = \"case\"\n\n[[step]]\ndo = \"stem\" # short\nmethod = \"porter\"\n";

    #[test]
    fn one_thing_is_otherwise() {
        let without = alter(RECIPE, &[Alteration::Without { step: 0 }]).expect("altered");
        assert_eq!(without, "recipe = \"notes\"\n\n[[step]]\ndo = \"stem\" # short\nmethod = \"porter\"\n");
        let set = Alteration::Set { step: 1, key: "method".into(), value: "\"light\"".into() };
        let other = alter(RECIPE, &[set.clone(), Alteration::Without { step: 0 }]).expect("altered");
        assert!(other.contains("method = \"light\"") && !other.contains("case"), "{other}");
        assert_eq!(alter(RECIPE, &[Alteration::Without { step: 2 }]), None);
        assert_eq!(alter("step = [{ do = \"case\" }]", &[set]), None);
    }
}
