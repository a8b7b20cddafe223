//! Writing what was suggested into a recipe: the rest of its text stays as it was written.

use std::fmt;

use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, Value};

use crate::recipe::{self, Recipe};
use crate::step::Stage;
use crate::suggest::{Proposal, StepPlace};

/// Why suggestions cannot be written into a recipe.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum AcceptError {
    /// The recipe has mistakes.
    Mistakes,
    /// The steps are not written as `[[step]]` tables.
    NoTables,
    /// A key that entries go into is not written as an array or a table of pairs.
    Key {
        /// The number of the step.
        step: usize,
        /// The key.
        key: &'static str,
    },
}

impl fmt::Display for AcceptError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            AcceptError::Mistakes => f.write_str("the recipe has mistakes; `check` tells them"),
            AcceptError::NoTables => f.write_str("the steps are not written as `[[step]]` tables"),
            AcceptError::Key { step, key } => {
                write!(f, "`{key}` of step {step} is not written as a list here")
            }
        }
    }
}

impl std::error::Error for AcceptError {}

/// A recipe with what was accepted.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Accepted {
    /// Its text.
    pub text: String,
    /// What was changed, a sentence each.
    pub changes: Vec<String>,
}

/// Writes proposals into the text of a recipe, which may be empty. Entries go into a step of their sort that is there already and stands where they can work; else a step is put in.
///
/// # Errors
///
/// If the recipe cannot be changed without writing it anew.
pub fn accept(text: &str, proposals: &[Proposal]) -> Result<Accepted, AcceptError> {
    let mut now = Accepted { text: text.to_owned(), changes: Vec::new() };
    let chosen =
        |wanted: fn(&Proposal) -> Option<String>| proposals.iter().filter_map(wanted).collect::<Vec<_>>();
    // Whole steps first: entries go where these leave room.
    for proposal in proposals {
        if let Proposal::Step { toml, place } = proposal {
            now = put_in(&now, toml, *place)?;
        }
    }
    let lines: Vec<String> = proposals
        .iter()
        .flat_map(|proposal| match proposal {
            Proposal::Lines(lines) => lines.clone(),
            _ => Vec::new(),
        })
        .collect();
    now = with_texts(&now, &LINES, &lines)?;
    let passages = proposals.iter().filter_map(|proposal| match proposal {
        Proposal::Passage(text) => Some((text.clone(), String::new())),
        _ => None,
    });
    now = with_pairs(&now, &PASSAGES, &passages.collect::<Vec<_>>())?;
    let pairs = proposals.iter().filter_map(|proposal| match proposal {
        Proposal::Equate { from, to } => Some((from.clone(), to.clone())),
        _ => None,
    });
    now = with_pairs(&now, &PAIRS, &pairs.collect::<Vec<_>>())?;
    for label in ["person", "place", "organisation", "name"] {
        let names: Vec<String> = proposals
            .iter()
            .filter_map(|proposal| match proposal {
                Proposal::Name { name, label: known } if *known == label => Some(name.clone()),
                _ => None,
            })
            .collect();
        now = with_names(&now, label, &names)?;
    }
    now = with_texts(
        &now,
        &STOP_WORDS,
        &chosen(|proposal| match proposal {
            Proposal::StopWord(word) => Some(word.clone()),
            _ => None,
        }),
    )?;
    now = with_texts(
        &now,
        &PHRASES,
        &chosen(|proposal| match proposal {
            Proposal::Phrase(phrase) => Some(phrase.clone()),
            _ => None,
        }),
    )?;
    Ok(now)
}

/// Where entries of a sort go.
struct Home {
    operation: &'static str,
    key: &'static str,
    place: StepPlace,
    noun: (&'static str, &'static str),
}

const LINES: Home =
    Home { operation: "lines", key: "known", place: StepPlace::First, noun: ("line", "lines") };
const PASSAGES: Home =
    Home { operation: "replace", key: "pairs", place: StepPlace::First, noun: ("passage", "passages") };
const PAIRS: Home =
    Home { operation: "equate", key: "words", place: StepPlace::BeforeReducing, noun: ("word", "words") };
const STOP_WORDS: Home =
    Home { operation: "stopwords", key: "add", place: StepPlace::BehindReducing, noun: ("word", "words") };
const PHRASES: Home =
    Home { operation: "phrases", key: "add", place: StepPlace::BehindReducing, noun: ("phrase", "phrases") };

/// The steps that make another word of a word.
const REDUCERS: &[&str] = &["stem", "lemma", "equate"];
/// The steps that drop words or make others of them.
const REDUCING: &[&str] =
    &["stopwords", "stem", "lemma", "phrases", "ngrams", "unique", "limit", "documents", "drop", "keep"];
/// The steps that make runs of words, or look at the whole collection.
const LAST: &[&str] = &["ngrams", "unique", "limit", "documents"];

fn read(text: &str) -> Result<Recipe, AcceptError> {
    if text.trim().is_empty() {
        return Ok(Recipe::default());
    }
    recipe::read(text).map_err(|_| AcceptError::Mistakes)
}

/// Where among the steps of this file a new one goes: before the one with this index.
fn index_of(recipe: &Recipe, place: StepPlace) -> usize {
    let steps = &recipe.steps;
    let first_token = steps.iter().position(|step| step.operation.stage.needs_tokens());
    let split = steps.iter().position(|step| step.operation.stage == Stage::Split);
    // Where no split is written it stands before the first step that needs tokens.
    let behind_split = split.map(|split| split + 1).or(first_token).unwrap_or(steps.len());
    let from = |index: usize, names: &[&str]| {
        let found = steps[index..].iter().position(|step| names.contains(&step.operation.name));
        found.map_or(steps.len(), |found| index + found)
    };
    match place {
        StepPlace::First => 0,
        StepPlace::BeforeReducing => from(behind_split, REDUCING),
        StepPlace::BehindReducing => from(behind_split, LAST),
        StepPlace::Last => from(behind_split, &["limit"]),
    }
}

/// Puts a step in.
fn put_in(now: &Accepted, toml: &str, place: StepPlace) -> Result<Accepted, AcceptError> {
    let recipe = read(&now.text)?;
    let mut index = index_of(&recipe, place);
    // All steps of an included recipe stand where one table includes it.
    while index > 0 && index < recipe.steps.len() && recipe.steps[index].included.is_some() {
        index -= 1;
    }
    let text = &now.text;
    let at = match recipe.steps.get(index) {
        Some(step) => start_of_table(text, step.span.start).ok_or(AcceptError::NoTables)?,
        None => end_of_steps(text, &recipe),
    };
    let (before, behind) = text.split_at(at);
    let gap = if before.is_empty() || before.ends_with("\n\n") {
        ""
    } else if before.ends_with('\n') {
        "\n"
    } else {
        "\n\n"
    };
    let after = if behind.is_empty() { "" } else { "\n" };
    let mut changes = now.changes.clone();
    let operation =
        toml.lines().find_map(|line| line.strip_prefix("do = ")).unwrap_or_default().trim().trim_matches('"');
    changes.push(format!("a step `{operation}` put in as number {}", index + 1));
    Ok(Accepted { text: format!("{before}{gap}{}\n{after}{behind}", toml.trim_end()), changes })
}

/// Where the `[[step]]` begins that holds this place, with the comments right above it.
fn start_of_table(text: &str, inside: usize) -> Option<usize> {
    let header = text[..inside].rfind("[[step]]")?;
    let mut start = text[..header].rfind('\n').map_or(0, |at| at + 1);
    while start > 0 {
        let above = text[..start - 1].rfind('\n').map_or(0, |at| at + 1);
        // What stands above the first step with a comment alone is a word on the whole recipe.
        if !text[above..start].trim_start().starts_with('#') {
            break;
        }
        start = above;
    }
    Some(start)
}

/// Where the last step ends: before what else the recipe has behind it.
fn end_of_steps(text: &str, recipe: &Recipe) -> usize {
    let last = recipe.steps.last().map_or(0, |step| step.span.end);
    let rest = &text[last..];
    let next = rest.find("\n[").map(|at| last + at + 1);
    next.map(|header| {
        // The comments above the next table are its own.
        let mut start = header;
        while let Some(above) = text[..start.saturating_sub(1)]
            .rfind('\n')
            .map(|at| at + 1)
            .filter(|above| *above > last && *above < start)
        {
            if !text[above..start].trim_start().starts_with('#') {
                break;
            }
            start = above;
        }
        start
    })
    .unwrap_or(text.len())
}

/// The index among the tables of this file of a step that entries can go into.
fn home_of(recipe: &Recipe, home: &Home) -> Option<usize> {
    let steps = &recipe.steps;
    let found = steps.iter().rposition(|step| {
        step.operation.name == home.operation && step.included.is_none() && step.only.is_none()
    })?;
    let is_reshaped = steps[found + 1..].iter().any(|step| REDUCERS.contains(&step.operation.name));
    let fits = match home.place {
        // A term of the end is none before words are reduced.
        StepPlace::BehindReducing => !is_reshaped,
        StepPlace::First => steps[..found]
            .iter()
            .all(|step| step.operation.name == "lines" || step.operation.name == "replace"),
        _ => true,
    };
    let before = steps[..found].iter().filter(|step| step.included.is_some()).count();
    // The steps of an included recipe stand in one table.
    (fits && before == 0).then_some(found)
}

/// Adds texts to the list of a step.
fn with_texts(now: &Accepted, home: &Home, texts: &[String]) -> Result<Accepted, AcceptError> {
    if texts.is_empty() {
        return Ok(now.clone());
    }
    let recipe = read(&now.text)?;
    let Some(index) = home_of(&recipe, home) else {
        let list: Array = texts.iter().map(String::as_str).collect();
        let toml = format!("[[step]]\ndo = \"{}\"\n{} = {}\n", home.operation, home.key, laid_out(&list));
        return put_in(now, &toml, home.place);
    };
    change(now, index, home, texts.len(), |table| {
        let item = table.entry(home.key).or_insert(Item::Value(Value::Array(Array::new())));
        let list = item.as_array_mut()?;
        for text in texts {
            if !list.iter().any(|known| known.as_str() == Some(text)) {
                list.push(text.as_str());
            }
        }
        Some(())
    })
}

/// Adds pairs to the table of a step.
fn with_pairs(now: &Accepted, home: &Home, pairs: &[(String, String)]) -> Result<Accepted, AcceptError> {
    if pairs.is_empty() {
        return Ok(now.clone());
    }
    let recipe = read(&now.text)?;
    let Some(index) = home_of(&recipe, home) else {
        let mut table = InlineTable::new();
        for (from, to) in pairs {
            table.insert(from, to.as_str().into());
        }
        let toml =
            format!("[[step]]\ndo = \"{}\"\n{} = {}\n", home.operation, home.key, table.to_string().trim());
        return put_in(now, &toml, home.place);
    };
    change(now, index, home, pairs.len(), |table| {
        let item = table.entry(home.key).or_insert(Item::Value(Value::InlineTable(InlineTable::new())));
        let known = item.as_table_like_mut()?;
        for (from, to) in pairs {
            known.insert(from, Item::Value(to.as_str().into()));
        }
        Some(())
    })
}

/// Adds names to the label step that gives this label.
fn with_names(now: &Accepted, label: &str, names: &[String]) -> Result<Accepted, AcceptError> {
    if names.is_empty() {
        return Ok(now.clone());
    }
    let list: Array = names.iter().map(String::as_str).collect();
    let toml = format!("[[step]]\ndo = \"label\"\nname = \"{label}\"\nadd = {}\n", laid_out(&list));
    put_in(now, &toml, StepPlace::BeforeReducing)
}

/// Changes the table of a step.
fn change(
    now: &Accepted,
    index: usize,
    home: &Home,
    count: usize,
    edit: impl FnOnce(&mut Table) -> Option<()>,
) -> Result<Accepted, AcceptError> {
    let mut document: DocumentMut = now.text.parse().map_err(|_| AcceptError::Mistakes)?;
    let steps =
        document.get_mut("step").and_then(Item::as_array_of_tables_mut).ok_or(AcceptError::NoTables)?;
    let table = steps.get_mut(index).ok_or(AcceptError::NoTables)?;
    edit(table).ok_or(AcceptError::Key { step: index + 1, key: home.key })?;
    let mut changes = now.changes.clone();
    let noun = if count == 1 { home.noun.0 } else { home.noun.1 };
    changes.push(format!("{count} {noun} added to step {} (`{}`)", index + 1, home.operation));
    Ok(Accepted { text: document.to_string(), changes })
}

/// How many entries stand on one line.
const ON_ONE_LINE: usize = 8;

/// A list as it is written by hand: on one line, or an entry a line where there are many.
fn laid_out(list: &Array) -> String {
    let entries: Vec<String> = list.iter().map(|value| value.to_string().trim().to_owned()).collect();
    match entries.len() {
        0..=ON_ONE_LINE => format!("[{}]", entries.join(", ")),
        _ => format!("[\n    {},\n]", entries.join(",\n    ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const RECIPE: &str = "# Field notes as topics.\nrecipe = \"notes\"\nlanguage = \"en\"\n\n# small letters\n[[step]]\ndo = \"case\"\n\n[[step]]\ndo = \"split\"\n\n# what tells nothing\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"] # the short one\n\n[[step]]\ndo = \"lemma\"\n\n[[step]]\ndo = \"limit\"\nmin_documents = 2\n\n# must hold\n[[example]]\ntext = \"a tern\"\ntokens = [\"tern\"]\n";

    fn operations(text: &str) -> Vec<&'static str> {
        recipe::read(text).expect("no mistakes").steps.iter().map(|step| step.operation.name).collect()
    }

    #[test]
    fn entries_go_where_they_can_work_and_the_rest_stays() {
        let proposals = [
            Proposal::StopWord("note".into()),
            Proposal::Equate { from: "recieved".into(), to: "received".into() },
            Proposal::Phrase("marsh harrier".into()),
            Proposal::Lines(vec!["-- sent by hand \"x\"".into()]),
            Proposal::Passage("Do not\nanswer.".into()),
            Proposal::Name { name: "Gull Hide".into(), label: "place" },
            Proposal::Step {
                toml: "[[step]]\ndo = \"documents\"\ncopies = \"near\"\n".into(),
                place: StepPlace::Last,
            },
        ];
        let accepted = accept(RECIPE, &proposals).expect("written");
        assert_eq!(
            operations(&accepted.text),
            [
                "replace",
                "lines",
                "case",
                "split",
                "equate",
                "label",
                "stopwords",
                "lemma",
                "stopwords",
                "phrases",
                "documents",
                "limit"
            ]
        );
        for kept in [
            "# Field notes as topics.",
            "# small letters\n[[step]]\ndo = \"case\"",
            "# what tells nothing\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"] # the short one",
            "# must hold\n[[example]]",
        ] {
            assert!(accepted.text.contains(kept), "{kept}\n{}", accepted.text);
        }
        assert_eq!(accepted.changes.len(), 7, "{:?}", accepted.changes);
        // Once more: the steps are there now.
        let again = accept(
            &accepted.text,
            &[
                Proposal::StopWord("day".into()),
                Proposal::StopWord("note".into()),
                Proposal::Equate { from: "thier".into(), to: "their".into() },
                Proposal::Phrase("nest box".into()),
                Proposal::Lines(vec!["y".into()]),
            ],
        )
        .expect("written");
        assert_eq!(operations(&again.text), operations(&accepted.text));
        for line in
            ["add = [\"note\", \"day\"]", "thier = \"their\"", "add = [\"marsh harrier\", \"nest box\"]"]
        {
            assert!(again.text.contains(line), "{line}\n{}", again.text);
        }
    }

    #[test]
    fn entries_join_a_list_that_no_reducer_follows() {
        let recipe = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [\n    \"tern\", # the commonest\n]\n";
        let accepted = accept(recipe, &[Proposal::StopWord("gull".into())]).expect("written");
        assert_eq!(accepted.changes, ["1 word added to step 3 (`stopwords`)"]);
        assert!(
            accepted.text.contains("\"tern\", # the commonest") || accepted.text.contains("# the commonest"),
            "{}",
            accepted.text
        );
        assert_eq!(operations(&accepted.text).len(), 3);
    }

    #[test]
    fn steps_without_a_split_and_inline_steps() {
        let accepted =
            accept("[[step]]\ndo = \"stem\"\n", &[Proposal::Equate { from: "a".into(), to: "b".into() }])
                .expect("written");
        assert_eq!(operations(&accepted.text), ["equate", "stem"]);
        let text_alone =
            accept("[[step]]\ndo = \"case\"\n", &[Proposal::StopWord("a".into())]).expect("written");
        assert_eq!(operations(&text_alone.text), ["case", "stopwords"]);
        assert_eq!(
            accept("step = [{ do = \"case\" }]\n", &[Proposal::Lines(vec!["a".into()])]),
            Err(AcceptError::NoTables)
        );
        assert_eq!(
            accept("[[step]]\ndo = \"cse\"\n", &[Proposal::StopWord("a".into())]),
            Err(AcceptError::Mistakes)
        );
    }
}
