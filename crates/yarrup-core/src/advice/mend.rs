//! Changes to the text of a recipe that leave the rest of it as it was written.

use std::fmt;

use toml_edit::{ArrayOfTables, DocumentMut, Item, Table, Value};

use crate::advice::Change;
use crate::recipe::Recipe;

/// Why a change cannot be made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum MendError {
    /// The step does not stand in the recipe: it was added.
    AddedStep,
    /// The step stands in an included recipe.
    IncludedStep,
    /// The steps are not written as `[[step]]` tables.
    NoTables,
    /// The value is no TOML.
    NotAValue,
}

impl fmt::Display for MendError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            MendError::AddedStep => "the step does not stand in the recipe",
            MendError::IncludedStep => "the step stands in an included recipe",
            MendError::NoTables => "the steps are not written as `[[step]]` tables",
            MendError::NotAValue => "the value is not valid TOML",
        })
    }
}

impl std::error::Error for MendError {}

/// The text of a recipe with a change made; comments and layout stay.
///
/// # Errors
///
/// If a step that is to be changed cannot be.
pub fn mend(text: &str, recipe: &Recipe, change: &Change) -> Result<String, MendError> {
    let mut document: DocumentMut = text.parse().map_err(|_| MendError::NoTables)?;
    let steps = document.get_mut("step").and_then(Item::as_array_of_tables_mut).ok_or(MendError::NoTables)?;
    match change {
        Change::Set { step, keys } => {
            let table = steps.get_mut(place(recipe, *step)?).ok_or(MendError::NoTables)?;
            for (key, value) in keys {
                set(table, key, value.parse().map_err(|_| MendError::NotAValue)?);
            }
        }
        Change::MoveBefore { step, before } => {
            let (from, to) = (place(recipe, *step)?, place(recipe, *before)?);
            if from < to {
                return Err(MendError::NoTables);
            }
            move_table(steps, from, to);
        }
    }
    Ok(document.to_string())
}

/// Gives a key a value; a comment behind the old one stays.
fn set(table: &mut Table, key: &str, mut value: Value) {
    let old = table.get(key).and_then(Item::as_value).map(|value| value.decor().clone());
    *value.decor_mut() = old.unwrap_or_else(|| toml_edit::Decor::new(" ", ""));
    match table.get_mut(key) {
        Some(item) => *item = Item::Value(value),
        None => {
            table.insert(key, Item::Value(value));
        }
    }
}

/// Moves the table at `from` to a place before the one at `to`, with the comments above it.
fn move_table(steps: &mut ArrayOfTables, from: usize, to: usize) {
    let mut tables: Vec<Table> = steps.iter().cloned().collect();
    let mut places: Vec<isize> = Vec::new();
    tables.iter().for_each(|table| each_place(table, &mut |place| places.push(place)));
    places.sort_unstable();
    let moved = tables.remove(from);
    tables.insert(to, moved);
    // The first table of a file has no empty line above it.
    let first = tables.get(to).is_some_and(|_| to == 0);
    if first {
        swap_gaps(&mut tables);
    }
    let mut places = places.into_iter();
    for table in &mut tables {
        set_places(table, &mut places);
    }
    steps.clear();
    tables.into_iter().for_each(|table| steps.push(table));
}

/// Lets the first two tables change the empty lines that stand above their comments.
fn swap_gaps(tables: &mut [Table]) {
    let [first, second, ..] = tables else { return };
    let above = |table: &Table| {
        table.decor().prefix().and_then(|prefix| prefix.as_str()).unwrap_or_default().to_owned()
    };
    let (one, other) = (above(first), above(second));
    let gap = |text: &str| text.len() - text.trim_start_matches('\n').len();
    let (gap_one, gap_other) = ("\n".repeat(gap(&one)), "\n".repeat(gap(&other)));
    first.decor_mut().set_prefix(format!("{gap_other}{}", one.trim_start_matches('\n')));
    second.decor_mut().set_prefix(format!("{gap_one}{}", other.trim_start_matches('\n')));
}

/// Gives the places of a table and of the tables in it, which decide the order in which they are written.
fn each_place(table: &Table, visit: &mut dyn FnMut(isize)) {
    table.position().into_iter().for_each(&mut *visit);
    table.iter().filter_map(|(_, item)| item.as_table()).for_each(|inner| each_place(inner, visit));
}

fn set_places(table: &mut Table, places: &mut dyn Iterator<Item = isize>) {
    if table.position().is_some() {
        table.set_position(places.next());
    }
    for (_, item) in table.iter_mut() {
        if let Some(inner) = item.as_table_mut() {
            set_places(inner, places);
        }
    }
}

/// Which of the `[[step]]` tables holds the step with this number.
fn place(recipe: &Recipe, number: usize) -> Result<usize, MendError> {
    // Numbers count a split that was added; the text knows nothing of it.
    let has_split = recipe.steps.iter().any(|step| step.operation.stage == crate::step::Stage::Split);
    let first_token = recipe.steps.iter().position(|step| step.operation.stage.needs_tokens());
    let index = match (has_split, first_token) {
        (false, Some(first)) if number - 1 > first => number - 2,
        (false, Some(first)) if number - 1 == first => return Err(MendError::AddedStep),
        _ => number - 1,
    };
    let step = recipe.steps.get(index).ok_or(MendError::AddedStep)?;
    if step.included.is_some() {
        return Err(MendError::IncludedStep);
    }
    Ok(recipe.table_of(index))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::read;

    fn changed(text: &str, change: &Change) -> String {
        mend(text, &read(text).expect("a recipe"), change).expect("a change that can be made")
    }

    #[test]
    fn keys_are_set_where_the_step_stands_and_comments_stay() {
        let text = "[[step]]\ndo = \"limit\" # rare words\ntop = 9  # few\n\n# only here\n[step.only]\nsite = \"spit\"\n\n[[step]]\ndo = \"case\"\n";
        let change =
            Change::Set { step: 2, keys: vec![("known", "[\"a\", \"b\"]".into()), ("top", "7".into())] };
        assert_eq!(
            changed(text, &change),
            "[[step]]\ndo = \"limit\" # rare words\ntop = 7  # few\nknown = [\"a\", \"b\"]\n\n# only here\n[step.only]\nsite = \"spit\"\n\n[[step]]\ndo = \"case\"\n"
        );
        // A value over several lines is replaced whole.
        let text = "[[step]]\ndo = \"stopwords\"\nadd = [\n  \"a\", # one\n  \"b\",\n]\n";
        let change = Change::Set { step: 2, keys: vec![("add", "[\"c\"]".into())] };
        assert_eq!(changed(text, &change), "[[step]]\ndo = \"stopwords\"\nadd = [\"c\"]\n");
    }

    #[test]
    fn a_step_moves_with_its_comments_and_tables() {
        let text = "recipe = \"x\"\n\n# one\n[[step]]\ndo = \"case\"\n\n# two\n[[step]]\ndo = \"markup\"\n[step.only]\nsite = \"spit\"\n\n[[step]]\ndo = \"split\"\n";
        assert_eq!(
            changed(text, &Change::MoveBefore { step: 2, before: 1 }),
            "recipe = \"x\"\n\n# two\n[[step]]\ndo = \"markup\"\n[step.only]\nsite = \"spit\"\n\n# one\n[[step]]\ndo = \"case\"\n\n[[step]]\ndo = \"split\"\n"
        );
    }

    #[test]
    fn steps_that_stand_elsewhere_are_not_changed() {
        let text = "[[step]]\ndo = \"stem\"\n";
        let recipe = read(text).expect("a recipe");
        let change = Change::Set { step: 1, keys: vec![("into", "\"posts\"".into())] };
        assert_eq!(mend(text, &recipe, &change), Err(MendError::AddedStep));
        let inline = "step = [{ do = \"stem\" }]\n";
        let change = Change::Set { step: 2, keys: vec![("method", "\"porter\"".into())] };
        assert_eq!(mend(inline, &read(inline).expect("a recipe"), &change), Err(MendError::NoTables));
    }
}
