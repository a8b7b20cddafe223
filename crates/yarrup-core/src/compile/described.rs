//! What a recipe says, step by step, in words: for setting recipes side by side.

use std::hash::{DefaultHasher, Hash, Hasher};

use crate::compile::{spares, with_lists, with_split};
use crate::pipeline::WordLists;
use crate::recipe::{Recipe, SpareList};
use crate::step::{KeyText, StepText, Value};

/// What each step of a recipe says, with the `split` that is put in if it has none. What cannot be read is left out: a recipe that compiles has
/// nothing of the kind.
pub fn described(recipe: &Recipe, files: &dyn WordLists) -> Vec<StepText> {
    let steps = with_split(recipe);
    let text = |(index, step): (usize, &std::borrow::Cow<'_, crate::recipe::Step>)| {
        let settings = with_lists(step, recipe, files, &mut Vec::new());
        let mut keys: Vec<KeyText> =
            settings.values.iter().map(|(name, value)| key_text((*name).to_owned(), value)).collect();
        let spared = spares(recipe, step).fold(SpareList::default(), |mut sum, list| {
            sum.add(list);
            sum
        });
        keys.extend(spare_text(&spared));
        let only = step.only.as_ref().map(ToString::to_string);
        keys.extend(only.map(|written| plain("only", written)));
        keys.sort_by(|a, b| a.name.cmp(&b.name));
        keys.dedup_by(|a, b| a.name == b.name);
        let (operation, label) = (step.operation.name, step.label.clone());
        StepText { number: index + 1, operation, label, language: recipe.language.clone(), keys }
    };
    steps.iter().enumerate().map(text).collect()
}

fn plain(name: &str, written: String) -> KeyText {
    KeyText { name: name.to_owned(), written, entries: Vec::new() }
}

fn spare_text(spare: &SpareList) -> Option<KeyText> {
    let mut entries: Vec<String> = spare.words.clone();
    let named = |sort: &str, name: &str| format!("{sort} {name}");
    entries.extend(spare.kinds.iter().map(|kind| named("kind", kind)));
    entries.extend(spare.tags.iter().map(|tag| named("tag", tag)));
    entries.extend(spare.labels.iter().map(|label| named("label", label)));
    if entries.is_empty() {
        return None;
    }
    let written = listed(&entries, if spare.all { "all of " } else { "" });
    Some(KeyText { name: "spare".to_owned(), written, entries: sorted(entries) })
}

fn key_text(name: String, value: &Value) -> KeyText {
    let millionths = |number: u64| format!("{}", number as f64 / 1e6);
    let (written, entries) = match value {
        Value::Whole(number) => (number.to_string(), Vec::new()),
        Value::Choice(choice) => ((*choice).to_owned(), Vec::new()),
        Value::Truth(truth) => (truth.to_string(), Vec::new()),
        Value::Text(text) => (format!("{text:?}"), Vec::new()),
        Value::Share(share) => (millionths(u64::from(*share)), Vec::new()),
        Value::Number(number) => (millionths(*number), Vec::new()),
        Value::Fields(condition) => (condition.to_string(), Vec::new()),
        Value::Choices(choices) => of_entries(choices.iter().map(|choice| (*choice).to_owned()).collect()),
        Value::Texts(texts) => of_entries(texts.clone()),
        Value::Named(pairs) => of_entries(pairs.iter().map(pair).collect()),
        Value::Lists(lists) => (
            listed(&lists.iter().map(|list| list.name.clone()).collect::<Vec<_>>(), ""),
            lists.iter().flat_map(|list| list.words.iter().cloned()).collect(),
        ),
        Value::Pairs(lists) => (
            listed(&lists.iter().map(|list| list.name.clone()).collect::<Vec<_>>(), ""),
            lists.iter().flat_map(|list| list.pairs.iter().map(pair)).collect(),
        ),
        Value::Rows(lists) => (
            listed(&lists.iter().map(|list| list.name.clone()).collect::<Vec<_>>(), ""),
            lists.iter().flat_map(|list| list.rows.iter().map(|row| row.join(", "))).collect(),
        ),
        Value::File(bytes) => (content("a file", &[bytes]), Vec::new()),
        Value::Dictionary(files) => {
            (content(&files.name, &[files.affixes.as_bytes(), files.words.as_bytes()]), Vec::new())
        }
    };
    KeyText { name, written, entries: sorted(entries) }
}

/// A name with what tells one content from another.
fn content(name: &str, parts: &[&[u8]]) -> String {
    let mut hasher = DefaultHasher::new();
    parts.hash(&mut hasher);
    let bytes: usize = parts.iter().map(|part| part.len()).sum();
    format!("{name} of {bytes} bytes ({:08x})", hasher.finish() as u32)
}

fn pair((from, to): &(String, String)) -> String {
    format!("{from} → {to}")
}

fn of_entries(entries: Vec<String>) -> (String, Vec<String>) {
    (listed(&entries, ""), entries)
}

/// How many entries of a value are shown.
const SHOWN: usize = 6;

fn listed(entries: &[String], before: &str) -> String {
    let mut shown = entries.iter().take(SHOWN).cloned().collect::<Vec<_>>().join(", ");
    if entries.len() > SHOWN {
        shown.push_str(&format!(" and {} more", entries.len() - SHOWN));
    }
    format!("{before}{shown}")
}

fn sorted(mut entries: Vec<String>) -> Vec<String> {
    entries.sort_unstable();
    entries.dedup();
    entries
}
