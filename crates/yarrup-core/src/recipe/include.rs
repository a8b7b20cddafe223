//! Recipes that bring in the steps of others, so that a team keeps one house style.

use std::ops::Range;

use crate::recipe::{FileError, Recipe};

/// Finds the recipes that a recipe includes.
pub trait Recipes {
    /// The text of the recipe at `path`, and a name that is the same for every path to it. `path` starts at the recipe that is read first.
    ///
    /// # Errors
    ///
    /// Why there is none.
    fn recipe(&self, path: &str) -> Result<(String, String), FileError>;
}

/// No recipes at all.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoRecipes;

impl Recipes for NoRecipes {
    fn recipe(&self, path: &str) -> Result<(String, String), FileError> {
        Err(FileError::Unsupported { what: "recipes", name: path.to_owned() })
    }
}

/// The folder of a path, with the slash at its end; empty for a name alone.
fn folder(path: &str) -> &str {
    path.rfind(['/', '\\']).map_or("", |at| &path[..=at])
}

fn is_absolute(path: &str) -> bool {
    path.starts_with(['/', '\\']) || path.as_bytes().get(1) == Some(&b':')
}

/// The path that `named` in a recipe at `from` means.
pub(super) fn seen_from(from: &str, named: &str) -> String {
    if is_absolute(named) { named.to_owned() } else { format!("{}{named}", folder(from)) }
}

/// Recipes as a recipe in another folder names them.
pub(super) struct Nested<'r> {
    pub(super) path: &'r str,
    pub(super) recipes: &'r dyn Recipes,
}

impl Recipes for Nested<'_> {
    fn recipe(&self, path: &str) -> Result<(String, String), FileError> {
        self.recipes.recipe(&seen_from(self.path, path))
    }
}

/// Marks the steps of a recipe as brought in at the place `at`: what they name, they name from there.
pub(super) fn mark(recipe: &mut Recipe, path: &str, at: &Range<usize>) {
    for step in &mut recipe.steps {
        step.included = Some(match step.included.take() {
            Some(inner) => seen_from(path, &inner),
            None => path.to_owned(),
        });
        step.span = at.clone();
        step.key_spans.clear();
        // What the included recipe spares, its steps spare.
        step.spare_around.add(&recipe.spare);
        step.allow.extend(recipe.allow.iter().cloned());
        for reference in step.settings.references_mut() {
            reference.span = at.clone();
            if reference.is_file() {
                reference.name = seen_from(path, &reference.name);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::read_with;
    use std::collections::HashMap;

    struct Shelf(HashMap<&'static str, &'static str>);

    impl Recipes for Shelf {
        fn recipe(&self, path: &str) -> Result<(String, String), FileError> {
            let text = self.0.get(path).ok_or_else(|| FileError::Refused {
                path: path.to_owned(),
                why: "there is no such file".to_owned(),
            })?;
            Ok((path.to_owned(), (*text).to_owned()))
        }
    }

    fn read(text: &str, files: &[(&'static str, &'static str)]) -> Result<Recipe, Vec<crate::recipe::Fault>> {
        read_with(text, &Shelf(files.iter().copied().collect()))
    }

    const HOST: &str =
        "[[step]]\ndo = \"include\"\nrecipe = \"house/clean.toml\"\n[[step]]\ndo = \"split\"\n";

    #[test]
    fn steps_are_brought_in_with_what_they_name() {
        let house = "language = \"en\"\nspare = [\"US\"]\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"include\"\nrecipe = \"more.toml\"\n";
        let more = "[[step]]\ndo = \"replace\"\ntables = [\"pairs.csv\"]\n";
        let recipe = read(HOST, &[("house/clean.toml", house), ("house/more.toml", more)]).expect("read");
        let names: Vec<_> =
            recipe.steps.iter().map(|step| (step.operation.name, step.included.as_deref())).collect();
        let clean = Some("house/clean.toml");
        assert_eq!(names, [("case", clean), ("replace", Some("house/more.toml")), ("split", None)]);
        assert_eq!(recipe.language.as_deref(), Some("en"));
        assert_eq!(recipe.steps[0].spare_around.words, ["US"]);
        assert_eq!(
            recipe.steps[1].settings.references().next().map(|list| list.name.as_str()),
            Some("house/pairs.csv")
        );
        assert_eq!(&HOST[recipe.steps[0].span.clone()], "\"include\"");
    }

    #[test]
    fn cycles_and_mistakes_are_told_where_they_are_included() {
        let round = "[[step]]\ndo = \"include\"\nrecipe = \"clean.toml\"\n";
        let faults = read(HOST, &[("house/clean.toml", round)]).expect_err("a cycle");
        assert!(
            faults[0]
                .label
                .contains("recipes include one another: house/clean.toml includes house/clean.toml"),
            "{faults:?}"
        );
        let faults =
            read(HOST, &[("house/clean.toml", "[[step]]\ndo = \"cases\"\n")]).expect_err("a mistake");
        assert_eq!(faults[0].title, "`house/clean.toml` has mistakes");
        assert!(faults[0].label.starts_with("line 2: unknown step `cases`"), "{faults:?}");
        assert_eq!(read(HOST, &[]).expect_err("missing")[0].title, "no recipe `house/clean.toml`");
        let late = "[[step]]\ndo = \"split\"\n";
        assert_eq!(read(HOST, &[("house/clean.toml", late)]).expect_err("two")[0].title, "two `split` steps");
    }
}
