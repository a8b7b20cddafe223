//! The word lists of a recipe side by side: what they share, what of them occurs in a run, and what is missing from them.

use std::collections::{BTreeMap, HashMap, HashSet};

use crate::account::{Account, WordCounts};
use crate::lemma::english;
use crate::pipeline::WordLists;
use crate::recipe::{FileError, Recipe};
use crate::step::{ListReference, Value, Written};
use crate::words::{pair_table, stop_list};

/// A word list of a recipe.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RecipeList {
    /// The number of the step that names it, counted as `[[step]]` tables stand in the recipe, with what it includes.
    pub step: usize,
    /// The operation of that step.
    pub operation: &'static str,
    /// The name on the shelf, the path, or the key that it is written in: `add`.
    pub name: String,
    /// Where it stands.
    pub home: ListHome,
    /// Its entries, in their order; of a table of pairs, the words that become others.
    pub entries: Vec<String>,
}

/// Where a list stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum ListHome {
    /// On the shelf.
    Shelf,
    /// In a file of one's own.
    File,
    /// In the recipe.
    Recipe,
}

/// The keys whose texts are entries.
const ENTRY_KEYS: &[&str] = &["add", "words"];

/// The word lists that the steps of a recipe name or hold.
///
/// # Errors
///
/// If a file cannot be read.
pub fn recipe_lists(recipe: &Recipe, files: &dyn WordLists) -> Result<Vec<RecipeList>, FileError> {
    let mut lists = Vec::new();
    for (number, step) in (1..).zip(&recipe.steps) {
        let mut add = |name: &str, home, entries| {
            lists.push(RecipeList {
                step: number,
                operation: step.operation.name,
                name: name.to_owned(),
                home,
                entries,
            });
        };
        let home = |named: &ListReference| if named.is_file() { ListHome::File } else { ListHome::Shelf };
        for (key, written) in &step.settings.values {
            match written {
                Written::Lists(named) => {
                    for named in named {
                        let shelf = if named.is_file() { None } else { stop_list(&named.name) };
                        add(&named.name, home(named), shelf.map_or_else(|| files.words(named), Ok)?);
                    }
                }
                Written::Pairs(named) => {
                    for named in named {
                        let shelf = if named.is_file() { None } else { pair_table(&named.name) };
                        let pairs = shelf.map_or_else(|| files.pairs(named), Ok)?;
                        add(&named.name, home(named), pairs.into_iter().map(|(from, _)| from).collect());
                    }
                }
                Written::Value(Value::Texts(texts)) if ENTRY_KEYS.contains(key) => {
                    add(key, ListHome::Recipe, texts.clone());
                }
                Written::Value(Value::Named(pairs)) if ENTRY_KEYS.contains(key) => {
                    add(key, ListHome::Recipe, pairs.iter().map(|(from, _)| from.clone()).collect());
                }
                _ => {}
            }
        }
    }
    lists.sort_by_key(|list| (list.step, list.home));
    Ok(lists)
}

/// How often something comes in a run: tokens and documents.
pub type Met = (u64, u64);

/// What is said of a list among others.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct ListFacts {
    /// Its different entries, in their order, each with how often it comes in the run, if there is one.
    pub entries: Vec<(String, Option<Met>)>,
    /// Entries that it has more than once.
    pub repeated: Vec<String>,
    /// For each other list that shares entries with it: its place among all, and the entries.
    pub shared: Vec<(usize, Vec<String>)>,
    /// Words of the run that are forms of the same word as an entry and stand in no list of the step: the word, its tokens, and the entry.
    pub missing_forms: Vec<(String, u64, String)>,
}

/// The words of a run as lists meet them, in small letters.
pub struct RunWords {
    counts: HashMap<String, Met>,
}

impl RunWords {
    /// The words of a run, those that were dropped among them.
    pub fn of(account: &Account) -> RunWords {
        let words = WordCounts::of(account, |_| true).words.into_iter();
        RunWords { counts: words.map(|(word, counts)| (word, (counts.count, counts.documents))).collect() }
    }

    /// How often an entry of one word comes.
    pub fn met(&self, entry: &str) -> Met {
        self.counts.get(entry.to_lowercase().as_str()).copied().unwrap_or_default()
    }
}

/// Whether an entry has several words, so that its place in texts has to be asked.
pub fn has_several_words(entry: &str) -> bool {
    entry.split_whitespace().nth(1).is_some()
}

/// What is said of lists that stand side by side. `run` is what they are met by, if anything; `several` says how often entries of several words come in its
/// documents.
pub fn compare_lists(
    lists: &[RecipeList],
    language: Option<&str>,
    run: Option<(&RunWords, &HashMap<String, Met>)>,
) -> Vec<ListFacts> {
    let small: Vec<HashSet<String>> =
        lists.iter().map(|list| list.entries.iter().map(|entry| entry.to_lowercase()).collect()).collect();
    let mut facts = Vec::new();
    for (place, list) in lists.iter().enumerate() {
        let mut fact = ListFacts::default();
        let mut seen: HashSet<&str> = HashSet::new();
        for entry in &list.entries {
            if !seen.insert(entry) {
                fact.repeated.push(entry.clone());
                continue;
            }
            let met = run.map(|(words, several)| match has_several_words(entry) {
                true => several.get(entry).copied().unwrap_or_default(),
                false => words.met(entry),
            });
            fact.entries.push((entry.clone(), met));
        }
        for (other, others) in small.iter().enumerate().filter(|(other, _)| *other != place) {
            let both: Vec<String> = fact
                .entries
                .iter()
                .map(|(entry, _)| entry)
                .filter(|entry| others.contains(&entry.to_lowercase()))
                .cloned()
                .collect();
            if !both.is_empty() {
                fact.shared.push((other, both));
            }
        }
        if let Some((words, _)) = run
            && list.home != ListHome::Shelf
            && language.is_some_and(|language| language.starts_with("en"))
        {
            let own =
                lists.iter().zip(&small).filter(|(other, _)| other.step == list.step).map(|(_, small)| small);
            fact.missing_forms = missing_forms(&small[place], &own.collect::<Vec<_>>(), words);
        }
        facts.push(fact);
    }
    facts
}

/// The words of the run that have the lemma of an entry and stand in none of the lists.
fn missing_forms(
    entries: &HashSet<String>,
    listed: &[&HashSet<String>],
    words: &RunWords,
) -> Vec<(String, u64, String)> {
    let lemma = |word: &str| english().lemma(word, None).text.to_string();
    let mut by_lemma: BTreeMap<String, &String> = BTreeMap::new();
    for entry in entries.iter().filter(|entry| entry.chars().all(char::is_alphabetic)) {
        let known = by_lemma.entry(lemma(entry)).or_insert(entry);
        // The same whichever order a set has: the first by its letters.
        *known = (*known).min(entry);
    }
    let is_listed = |word: &str| listed.iter().any(|list| list.contains(word));
    let mut missing: Vec<(String, u64, String)> = words
        .counts
        .iter()
        .filter(|(word, _)| word.chars().all(char::is_alphabetic) && !is_listed(word))
        .filter_map(|(word, (count, _))| {
            let entry = by_lemma.get(&lemma(word))?;
            Some((word.clone(), *count, (*entry).clone()))
        })
        .collect();
    missing.sort_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(&b.0)));
    missing
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::NoFiles;
    use crate::recipe;

    #[test]
    fn lists_stand_side_by_side() {
        let text = "language = \"en\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [\"observed\", \"the\", \"observed\", \"Gull Hide\"]\n\
                    [[step]]\ndo = \"equate\"\nwords = { \"seagull\" = \"gull\" }\n";
        let recipe = recipe::read(text).expect("no mistakes");
        let lists = recipe_lists(&recipe, &NoFiles).expect("lists");
        let named: Vec<(usize, &str, usize)> =
            lists.iter().map(|list| (list.step, list.name.as_str(), list.entries.len())).collect();
        assert_eq!(named, [(1, "en", lists[0].entries.len()), (1, "add", 4), (2, "words", 1)]);
        assert_eq!((lists[0].home, lists[1].home), (ListHome::Shelf, ListHome::Recipe));
        let mut words = RunWords { counts: HashMap::new() };
        for (word, count) in
            [("observed", 5), ("observes", 3), ("observing", 2), ("the", 90), ("tern", 7), ("seagulls", 1)]
        {
            words.counts.insert(word.to_owned(), (count, 1));
        }
        let several = HashMap::from([("Gull Hide".to_owned(), (4, 2))]);
        let facts = compare_lists(&lists, Some("en-GB"), Some((&words, &several)));
        assert_eq!(facts[1].repeated, ["observed"]);
        assert_eq!(facts[1].shared, [(0, vec!["the".to_owned()])]);
        assert_eq!(facts[1].entries[2], ("Gull Hide".to_owned(), Some((4, 2))));
        let missing: Vec<(&str, u64, &str)> = facts[1]
            .missing_forms
            .iter()
            .map(|(word, count, entry)| (word.as_str(), *count, entry.as_str()))
            .collect();
        assert_eq!(missing, [("observes", 3, "observed"), ("observing", 2, "observed")]);
        assert_eq!(facts[2].missing_forms[0].0, "seagulls");
        // What the shelf has is nobody's to complete.
        assert!(facts[0].missing_forms.is_empty());
        assert!(compare_lists(&lists, None, None)[1].entries.iter().all(|(_, met)| met.is_none()));
    }
}
