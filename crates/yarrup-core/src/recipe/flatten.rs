//! A recipe with all that it includes written out.

use std::fmt;

use toml_edit::{Array, ArrayOfTables, DocumentMut, InlineTable, Item, Table, TableLike, Value};

use crate::recipe::include::seen_from;
use crate::recipe::{FileError, INCLUDE, Recipes};
use crate::step::{ListReference, Role, Shape};
use crate::steps::operation;

/// Why a recipe cannot be written out. What [`crate::recipe::read_with`] has read can be.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum FlattenError {
    /// It is no recipe.
    NotARecipe,
    /// What it includes cannot be had.
    Include(FileError),
}

impl fmt::Display for FlattenError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            FlattenError::NotARecipe => f.write_str("it is not a recipe"),
            FlattenError::Include(why) => write!(f, "what it includes cannot be had: {why}"),
        }
    }
}

impl std::error::Error for FlattenError {}

/// The text of a recipe in which every step stands as a `[[step]]` of its own: those of included recipes in the place of what includes them, with
/// files named as they are named from here. None if it is written like that already. Comments stay.
///
/// # Errors
///
/// If the recipe, or one that it includes, cannot be read.
///
/// ```
/// use yarrup_core::recipe::{NoRecipes, flatten};
///
/// let flat = flatten("step = [{ do = \"case\" }]\n", &NoRecipes).expect("a recipe");
/// assert_eq!(flat.as_deref(), Some("[[step]]\ndo = \"case\"\n"));
/// assert_eq!(flatten("[[step]]\ndo = \"case\"\n", &NoRecipes), Ok(None));
/// ```
pub fn flatten(text: &str, recipes: &dyn Recipes) -> Result<Option<String>, FlattenError> {
    let mut document: DocumentMut = text.parse().map_err(|_| FlattenError::NotARecipe)?;
    let steps = document.get("step").ok_or(FlattenError::NotARecipe)?;
    let tables = steps.as_array_of_tables();
    if tables.is_some_and(|tables| tables.iter().all(|table| !is_include(table))) {
        return Ok(None);
    }
    let (steps, language) = written_out(&document, "", recipes)?;
    if let Some(language) = language.filter(|_| !document.contains_key("language")) {
        document.insert("language", Item::Value(language.into()));
    }
    let mut tables = ArrayOfTables::new();
    // Where a table is written follows from its place, and those of other files have places of other files.
    let mut place = document.iter().count() as isize + 1_000;
    for mut step in steps {
        number(&mut step, &mut place);
        tables.push(step);
    }
    document.insert("step", Item::ArrayOfTables(tables));
    Ok(Some(document.to_string()))
}

/// The text of a recipe that includes nothing, as it is to be written elsewhere: with files named as they are named from there. `path` is the way from there
/// to the recipe.
///
/// # Errors
///
/// If it is no recipe, or not written out.
pub fn moved(text: &str, path: &str) -> Result<String, FlattenError> {
    let mut document: DocumentMut = text.parse().map_err(|_| FlattenError::NotARecipe)?;
    let steps = document.get_mut("step").and_then(Item::as_array_of_tables_mut);
    for step in steps.ok_or(FlattenError::NotARecipe)?.iter_mut() {
        relocate(step, path);
    }
    Ok(document.to_string())
}

fn is_include(table: &Table) -> bool {
    table.get("do").and_then(Item::as_str) == Some(INCLUDE)
}

fn number(table: &mut Table, place: &mut isize) {
    table.set_position(Some(*place));
    *place += 1;
    for (_, item) in table.iter_mut() {
        if let Some(inner) = item.as_table_mut() {
            number(inner, place);
        }
    }
}

/// The steps of a recipe at `path` with all that it includes, as they are written in the recipe that is read first; and the language of the
/// first recipe that says one.
fn written_out(
    document: &DocumentMut,
    path: &str,
    recipes: &dyn Recipes,
) -> Result<(Vec<Table>, Option<String>), FlattenError> {
    let steps = document.get("step").cloned().ok_or(FlattenError::NotARecipe)?;
    let steps = steps.into_array_of_tables().map_err(|_| FlattenError::NotARecipe)?;
    let mut language = document.get("language").and_then(Item::as_str).map(str::to_owned);
    let mut all = Vec::new();
    for mut step in steps {
        if !is_include(&step) {
            relocate(&mut step, path);
            all.push(step);
            continue;
        }
        let named = step.get("recipe").and_then(Item::as_str).ok_or(FlattenError::NotARecipe)?;
        let inner_path = seen_from(path, named);
        let (_, text) = recipes.recipe(&inner_path).map_err(FlattenError::Include)?;
        let inner: DocumentMut = text.parse().map_err(|_| FlattenError::NotARecipe)?;
        let (inner_steps, inner_language) = written_out(&inner, &inner_path, recipes)?;
        language = language.or(inner_language);
        for mut inner_step in inner_steps {
            take_over(&mut inner_step, &inner);
            all.push(inner_step);
        }
    }
    Ok((all, language))
}

/// Names the files of a step as they are named from the recipe that is read first.
fn relocate(step: &mut Table, path: &str) {
    let keys = step.get("do").and_then(Item::as_str).and_then(operation).map_or(&[][..], |found| found.keys);
    for key in keys {
        let Some(item) = step.get_mut(key.name) else { continue };
        match key.shape {
            Shape::Lists | Shape::Pairs | Shape::Rows => {
                for value in item.as_array_mut().into_iter().flat_map(Array::iter_mut) {
                    relocate_value(value, path);
                }
            }
            Shape::File | Shape::Dictionary { .. } => {
                if let Some(value) = item.as_value_mut() {
                    relocate_value(value, path);
                }
            }
            _ => {}
        }
    }
}

fn relocate_value(value: &mut Value, path: &str) {
    let is_named_file =
        |name: &str| ListReference { name: name.to_owned(), column: None, to: None, span: 0..0 }.is_file();
    if let Some(table) = value.as_inline_table_mut() {
        if let Some(file) = table.get_mut("file") {
            let name = file.as_str().map(|name| seen_from(path, name));
            *file = name.map_or_else(|| file.clone(), Value::from);
        }
    } else if let Some(name) = value.as_str().filter(|name| is_named_file(name)) {
        *value = Value::from(seen_from(path, name));
    }
}

/// Lets a step spare, and allow, what the included recipe around it does.
fn take_over(step: &mut Table, recipe: &DocumentMut) {
    let does = step.get("do").and_then(Item::as_str).and_then(operation);
    if let Some(around) = recipe.get("spare").filter(|_| does.is_none_or(|does| !does.plays(Role::Marks))) {
        let mut spare = spare_table(step.get("spare"));
        for (key, value) in spare_table(Some(around)).iter() {
            match (spare.get_mut(key).and_then(Value::as_array_mut), value.as_array()) {
                (Some(ours), Some(theirs)) => ours.extend(theirs.iter().map(plain)),
                _ => {
                    spare.insert(key, plain(value));
                }
            }
        }
        step.insert("spare", Item::Value(spare.into()));
    }
    if let Some(around) = recipe.get("allow").and_then(Item::as_array) {
        let mut allow = step.get("allow").and_then(Item::as_array).cloned().unwrap_or_default();
        allow.extend(around.iter().map(plain));
        step.insert("allow", Item::Value(allow.into()));
    }
}

/// A value without the comments and line breaks around it.
fn plain(value: &Value) -> Value {
    value.clone().decorated("", "")
}

/// What `spare` says, as a table: written as an array it is of words.
fn spare_table(item: Option<&Item>) -> InlineTable {
    let mut table = InlineTable::new();
    match item {
        Some(item) if item.is_array() => {
            let words = item.as_array().into_iter().flatten().map(plain);
            table.insert("words", Value::from(words.collect::<Array>()));
        }
        Some(item) => {
            for (key, value) in item.as_table_like().into_iter().flat_map(TableLike::iter) {
                if let Some(value) = value.as_value() {
                    table.insert(key, plain(value));
                }
            }
        }
        None => {}
    }
    table
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use super::*;
    use crate::recipe::{read, read_with};

    struct Files(HashMap<&'static str, &'static str>);

    impl Recipes for Files {
        fn recipe(&self, path: &str) -> Result<(String, String), FileError> {
            let missing = || FileError::Refused { path: path.to_owned(), why: "not there".to_owned() };
            self.0.get(path).map(|text| (path.to_owned(), (*text).to_owned())).ok_or_else(missing)
        }
    }

    #[test]
    fn a_recipe_that_moves_names_its_files_from_its_new_place() {
        let text = "[[step]]\ndo = \"stopwords\"\nlists = [\"en\", \"lists/ours.txt\"] # ours\n";
        let there = moved(text, "../recipes/words.toml").expect("a recipe");
        assert_eq!(there, text.replace("lists/ours.txt", "../recipes/lists/ours.txt"));
        assert!(moved("step = [{ do = \"case\" }]\n", "a/b.toml").is_err());
    }

    #[test]
    fn a_recipe_with_all_that_it_includes_is_the_same_recipe() {
        let host = "about = \"all\" # of it\nspare = [\"US\"]\n\n# the house\n[[step]]\ndo = \"include\"\nrecipe = \"house/clean.toml\"\n\n# last\n[[step]]\ndo = \"limit\"\ntop = 3\n[step.only]\nsite = \"spit\"\n";
        let clean = "language = \"en\"\nallow = [\"no-effect\"]\n[spare]\nwords = [\"Wash\"]\ntags = [\"noun\"]\n[[step]]\ndo = \"case\"\nspare = [\"A\"]\n[[step]]\ndo = \"include\"\nrecipe = \"more.toml\"\n[[step]]\ndo = \"label\"\nname = \"x\"\nlists = [\"birds.csv\"]\n";
        let more = "step = [{ do = \"split\" }, { do = \"stopwords\", lists = [\"en\", { file = \"../own.csv\", column = \"w\" }, \"own.txt\"] }]\n";
        let files = Files([("house/clean.toml", clean), ("house/more.toml", more)].into());
        let flat = flatten(host, &files).expect("recipes").expect("it includes one");
        let (one, other) = (read(&flat).expect("a recipe"), read_with(host, &files).expect("a recipe"));
        assert_eq!(one.steps.len(), other.steps.len(), "{flat}");
        assert_eq!((&one.language, &one.spare), (&other.language, &other.spare));
        for (one, other) in one.steps.iter().zip(&other.steps) {
            assert_eq!(one.operation.name, other.operation.name, "{flat}");
            let files = |step: &crate::recipe::Step| -> Vec<String> {
                step.settings.references().map(|reference| reference.name.clone()).collect()
            };
            assert_eq!(files(one), files(other), "{flat}");
            assert_eq!((&one.only, &one.allow), (&other.only, &other.allow), "{flat}");
            let mut all = other.spare.clone();
            if !other.operation.plays(Role::Marks) {
                all.add(&other.spare_around);
            }
            assert_eq!(one.spare, all, "{flat}");
        }
        assert!(flat.starts_with("about = \"all\" # of it\n") && flat.contains("# last"), "{flat}");
        assert_eq!(flatten(&flat, &files), Ok(None));
    }

    #[test]
    fn steps_in_one_array_become_tables() {
        let flat = flatten(
            "step = [{ do = \"case\" }, { do = \"stem\", spare = [\"a\"] }]\n",
            &crate::recipe::NoRecipes,
        );
        let flat = flat.expect("a recipe").expect("changed");
        assert_eq!(flat.matches("[[step]]").count(), 2, "{flat}");
        assert_eq!(read(&flat).expect("a recipe").steps[1].spare.words, ["a"]);
        assert_eq!(flatten("about = 1", &crate::recipe::NoRecipes), Err(FlattenError::NotARecipe));
    }
}
