//! Writing what was suggested into a recipe: the rest of its text stays as it was written.

use std::fmt;

use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, Value};

use crate::recipe::{Recipe, Recipes, Step, read_with};
use crate::step::Stage;
use crate::steps::token::label::NAME;
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
    /// A step would have to stand between those of a recipe that this one includes.
    Included {
        /// The operation of the step.
        operation: String,
        /// The path of the included recipe.
        recipe: String,
    },
}

impl fmt::Display for AcceptError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            AcceptError::Mistakes => f.write_str("the recipe has mistakes; `check` shows them"),
            AcceptError::NoTables => f.write_str("the steps are not written as `[[step]]` tables"),
            AcceptError::Key { step, key } => {
                write!(f, "`{key}` of step {step} is not written as a list here")
            }
            AcceptError::Included { operation, recipe } => {
                write!(
                    f,
                    "a step `{operation}` has to stand between the steps of `{recipe}`, which this recipe includes: accept it in that recipe"
                )
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

/// Writes proposals into the text of a recipe, which may be empty, and may include others of `recipes`. Entries go into a step of their sort that is there already and
/// stands where they can work; else a step is put in.
///
/// # Errors
///
/// If the recipe cannot be changed without writing it anew.
pub fn accept(text: &str, recipes: &dyn Recipes, proposals: &[Proposal]) -> Result<Accepted, AcceptError> {
    let mut accepting =
        Accepting { text: text.to_owned(), recipe: Recipe::default(), recipes, changes: Vec::new() };
    accepting.read()?;
    let document: DocumentMut = text.parse().map_err(|_| AcceptError::Mistakes)?;
    if document.get("step").is_some_and(|steps| !steps.is_array_of_tables()) {
        return Err(AcceptError::NoTables);
    }
    // Whole steps first: entries go where these leave room.
    for proposal in proposals {
        if let Proposal::Step { toml, place } = proposal {
            accepting.put_in(toml, *place)?;
        }
    }
    for home in HOMES {
        let entries: Vec<Entry> = proposals.iter().flat_map(|proposal| home.entries_of(proposal)).collect();
        accepting.add(home, &entries)?;
    }
    Ok(Accepted { text: accepting.text, changes: accepting.changes })
}

/// The operation of a step that is written as TOML.
pub(super) fn operation_of(toml: &str) -> &str {
    let written = toml.lines().find_map(|line| line.strip_prefix("do = "));
    written.unwrap_or_default().trim().trim_matches('"')
}

/// What goes into a list or a table of a step: a text, and what it becomes.
type Entry = (String, Option<String>);

/// Where entries of a sort go.
struct Home {
    operation: &'static str,
    key: &'static str,
    /// The `name` that the step must have.
    name: Option<&'static str>,
    place: StepPlace,
    noun: (&'static str, &'static str),
}

impl Home {
    const fn new(
        operation: &'static str,
        key: &'static str,
        place: StepPlace,
        noun: (&'static str, &'static str),
    ) -> Home {
        Home { operation, key, name: None, place, noun }
    }

    /// Of names with this label.
    const fn label(name: &'static str) -> Home {
        Home { name: Some(name), ..Home::new("label", "add", StepPlace::BeforeReducing, ("name", "names")) }
    }

    /// The entries of a proposal that belong here.
    fn entries_of(&self, proposal: &Proposal) -> Vec<Entry> {
        let alone = |text: &String| vec![(text.clone(), None)];
        match (self.operation, proposal) {
            ("lines", Proposal::Lines(lines)) => lines.iter().map(|line| (line.clone(), None)).collect(),
            ("replace", Proposal::Passage(text)) => vec![(text.clone(), Some(String::new()))],
            ("equate", Proposal::Equate { from, to }) => vec![(from.clone(), Some(to.clone()))],
            ("label", Proposal::Name { name, label }) if self.name == Some(label) => alone(name),
            ("stopwords", Proposal::StopWord(text)) | ("phrases", Proposal::Phrase(text)) => alone(text),
            _ => Vec::new(),
        }
    }

    /// Whether a step is one that entries can go into.
    fn is_one(&self, step: &Step) -> bool {
        step.operation.name == self.operation
            && step.included.is_none()
            && step.only.is_none()
            && self.name.is_none_or(|name| step.settings.get(&NAME) == Some(name))
    }

    /// The index of a step that entries can go into, and stands where they can work.
    fn index_in(&self, steps: &[Step]) -> Option<usize> {
        let found = steps.iter().rposition(|step| self.is_one(step))?;
        let fits = match self.place {
            // A term of the end is none before words are reduced.
            StepPlace::BehindReducing => {
                !steps[found + 1..].iter().any(|step| REDUCERS.contains(&step.operation.name))
            }
            StepPlace::First => {
                steps[..found].iter().all(|step| matches!(step.operation.name, "lines" | "replace"))
            }
            StepPlace::BeforeReducing | StepPlace::Last => true,
        };
        fits.then_some(found)
    }

    /// A step with these entries, as TOML.
    fn step(&self, entries: &[Entry]) -> String {
        let name = self.name.map_or(String::new(), |name| format!("name = \"{name}\"\n"));
        let value = match entries.iter().any(|(_, becomes)| becomes.is_some()) {
            true => {
                let pairs =
                    entries.iter().map(|(from, to)| (from.as_str(), to.as_deref().unwrap_or_default()));
                pairs.collect::<InlineTable>().to_string().trim().to_owned()
            }
            false => laid_out(&entries.iter().map(|(text, _)| text.as_str()).collect()),
        };
        format!("[[step]]\ndo = \"{}\"\n{name}{} = {value}\n", self.operation, self.key)
    }
}

/// Where all entries go, in the order in which they are put in.
const HOMES: &[Home] = &[
    Home::new("lines", "known", StepPlace::First, ("line", "lines")),
    Home::new("replace", "pairs", StepPlace::First, ("passage", "passages")),
    Home::new("equate", "words", StepPlace::BeforeReducing, ("word", "words")),
    Home::label("person"),
    Home::label("place"),
    Home::label("organisation"),
    Home::label("name"),
    Home::new("stopwords", "add", StepPlace::BehindReducing, ("word", "words")),
    Home::new("phrases", "add", StepPlace::BehindReducing, ("phrase", "phrases")),
];

/// The steps that make another word of a word.
const REDUCERS: &[&str] = &["stem", "lemma", "equate"];
/// The steps that drop words or make others of them.
const REDUCING: &[&str] =
    &["stopwords", "stem", "lemma", "phrases", "ngrams", "unique", "limit", "documents", "drop", "keep"];
/// The steps that make runs of words, or look at the whole collection.
const LAST: &[&str] = &["ngrams", "unique", "limit", "documents"];

/// Where among the steps of a recipe a new one goes: before the one with this index.
fn index_of(steps: &[Step], place: StepPlace) -> usize {
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

/// A recipe that is being changed.
struct Accepting<'r> {
    text: String,
    /// As the text is now.
    recipe: Recipe,
    recipes: &'r dyn Recipes,
    changes: Vec<String>,
}

impl Accepting<'_> {
    fn read(&mut self) -> Result<(), AcceptError> {
        if !self.text.trim().is_empty() {
            self.recipe = read_with(&self.text, self.recipes).map_err(|_| AcceptError::Mistakes)?;
        }
        Ok(())
    }

    /// Puts a step in.
    fn put_in(&mut self, toml: &str, place: StepPlace) -> Result<(), AcceptError> {
        let index = index_of(&self.recipe.steps, place);
        let included = self.recipe.steps.get(index).and_then(|step| step.included.as_ref());
        if let Some(recipe) = included
            && index > 0
            && self.recipe.table_of(index - 1) == self.recipe.table_of(index)
        {
            let (operation, recipe) = (operation_of(toml).to_owned(), recipe.clone());
            return Err(AcceptError::Included { operation, recipe });
        }
        let text = &self.text;
        let at = match self.recipe.steps.get(index) {
            Some(step) => start_of_table(text, step.span.start).ok_or(AcceptError::NoTables)?,
            None => end_of_steps(text, &self.recipe),
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
        // Before the steps of an included recipe is before the table that includes it.
        let table = self.recipe.steps.get(index).map_or_else(
            || self.recipe.steps.len().checked_sub(1).map_or(0, |last| self.recipe.table_of(last) + 1),
            |_| self.recipe.table_of(index),
        );
        self.changes.push(format!("step {} (`{}`) is new", table + 1, operation_of(toml)));
        self.text = format!("{before}{gap}{}\n{after}{behind}", toml.trim_end());
        self.read()
    }

    /// Adds entries to a step, or puts one in.
    fn add(&mut self, home: &Home, entries: &[Entry]) -> Result<(), AcceptError> {
        if entries.is_empty() {
            return Ok(());
        }
        let Some(index) = home.index_in(&self.recipe.steps) else {
            return self.put_in(&home.step(entries), home.place);
        };
        let number = self.recipe.table_of(index);
        let mut document: DocumentMut = self.text.parse().map_err(|_| AcceptError::Mistakes)?;
        let steps =
            document.get_mut("step").and_then(Item::as_array_of_tables_mut).ok_or(AcceptError::NoTables)?;
        let table = steps.get_mut(number).ok_or(AcceptError::NoTables)?;
        let added =
            add_to(table, home.key, entries).ok_or(AcceptError::Key { step: number + 1, key: home.key })?;
        let step = format!("step {} (`{}`)", number + 1, home.operation);
        self.changes.push(match added {
            0 if entries.len() == 1 => format!("{step} has it already"),
            0 => format!("{step} has them already"),
            1 => format!("1 {} added to {step}", home.noun.0),
            _ => format!("{added} {} added to {step}", home.noun.1),
        });
        self.text = document.to_string();
        self.read()
    }
}

/// Adds entries to a key of a step, which is made if need be: how many were not there, or became something else. None if the key is not written as an array, or a table of pairs.
fn add_to(table: &mut Table, key: &str, entries: &[Entry]) -> Option<usize> {
    let are_pairs = entries.iter().any(|(_, becomes)| becomes.is_some());
    let new = if are_pairs { Value::InlineTable(InlineTable::new()) } else { Value::Array(Array::new()) };
    let item = table.entry(key).or_insert(Item::Value(new));
    let mut added = 0;
    for (text, becomes) in entries {
        if are_pairs {
            let known = item.as_table_like_mut()?;
            let becomes = becomes.as_deref().unwrap_or_default();
            let before = known.insert(text, Item::Value(becomes.into()));
            added += usize::from(before.is_none_or(|before| before.as_str() != Some(becomes)));
        } else {
            let list = item.as_array_mut()?;
            if !list.iter().any(|known| known.as_str() == Some(text)) {
                push(list, text);
                added += 1;
            }
        }
    }
    Some(added)
}

/// Adds an entry to a list: on a line of its own where each has one, and behind the comment of the last.
fn push(list: &mut Array, entry: &str) {
    let trailing = list.trailing().as_str().unwrap_or_default().to_owned();
    if !(list.trailing_comma() && trailing.contains('\n')) {
        list.push(entry);
        return;
    }
    let before = list.get(0).and_then(|first| first.decor().prefix()?.as_str()).unwrap_or_default();
    let indent = before.rsplit('\n').next().unwrap_or_default();
    let mut value = Value::from(entry);
    value.decor_mut().set_prefix(format!("{}\n{indent}", trailing.trim_end()));
    list.push_formatted(value);
    let last = trailing.rsplit('\n').next().unwrap_or_default();
    list.set_trailing(format!("\n{last}"));
    list.set_trailing_comma(true);
}

/// Where the `[[step]]` begins that holds this place, with the comments right above it.
fn start_of_table(text: &str, inside: usize) -> Option<usize> {
    const HEADER: &str = "[[step]]";
    let end = (inside + HEADER.len()).min(text.len());
    let header = text.get(..end)?.rfind(HEADER)?;
    let line = text[..header].rfind('\n').map_or(0, |at| at + 1);
    Some(with_comments_above(text, line, 0))
}

/// Where the last step ends: before what else the recipe has behind it.
fn end_of_steps(text: &str, recipe: &Recipe) -> usize {
    let last = recipe.steps.last().map_or(0, |step| step.span.end);
    let next = text[last..].find("\n[").map(|at| last + at + 1);
    next.map_or(text.len(), |header| with_comments_above(text, header, last))
}

/// Where the comments begin that stand right above the line at `start`, and behind `from`.
fn with_comments_above(text: &str, mut start: usize, from: usize) -> usize {
    while start > from {
        let above = text[..start - 1].rfind('\n').map_or(0, |at| at + 1);
        if above < from || !text[above..start].trim_start().starts_with('#') {
            break;
        }
        start = above;
    }
    start
}

/// How many entries stand on one line.
const ON_ONE_LINE: usize = 8;

/// A list as it is written by hand: on one line, or an entry a line where there are many.
pub(super) fn laid_out(list: &Array) -> String {
    let entries: Vec<String> = list.iter().map(|value| value.to_string().trim().to_owned()).collect();
    match entries.len() {
        0..=ON_ONE_LINE => format!("[{}]", entries.join(", ")),
        _ => format!("[\n    {},\n]", entries.join(",\n    ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::{self, NoRecipes};

    fn accept(text: &str, proposals: &[Proposal]) -> Result<Accepted, AcceptError> {
        super::accept(text, &NoRecipes, proposals)
    }

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
        let list = "add = [\n    \"tern\", # the commonest\n    \"gull\",\n]\n";
        assert!(accepted.text.ends_with(list), "{}", accepted.text);
        assert_eq!(operations(&accepted.text).len(), 3);
    }

    /// A recipe that splits, drops stop words and stems.
    struct Base;

    impl Recipes for Base {
        fn recipe(&self, path: &str) -> Result<(String, String), recipe::FileError> {
            let text = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"stem\"\n";
            Ok((path.to_owned(), text.to_owned()))
        }
    }

    #[test]
    fn the_steps_of_an_included_recipe_are_left_as_they_are() {
        let text = "language = \"en\"\n[[step]]\ndo = \"include\"\nrecipe = \"base.toml\"\n\n# own\n[[step]]\ndo = \"limit\"\nmin_documents = 2\n";
        let proposals = [Proposal::StopWord("note".into()), Proposal::Lines(vec!["-- end".into()])];
        let accepted = super::accept(text, &Base, &proposals).expect("written");
        let again = recipe::read_with(&accepted.text, &Base).expect("no mistakes");
        let operations: Vec<&str> = again.steps.iter().map(|step| step.operation.name).collect();
        assert_eq!(operations, ["lines", "case", "split", "stopwords", "stem", "stopwords", "limit"]);
        assert!(accepted.text.contains("\n\n# own\n[[step]]\ndo = \"limit\""), "{}", accepted.text);
        assert_eq!(accepted.text.matches("recipe = \"base.toml\"").count(), 1);
        // A word must be mended before it is stemmed, which is between the steps that are included.
        let pair = [Proposal::Equate { from: "recieved".into(), to: "received".into() }];
        let refused = super::accept(text, &Base, &pair).expect_err("no place");
        assert!(refused.to_string().contains("`equate`") && refused.to_string().contains("`base.toml`"));
    }

    #[test]
    fn names_join_the_step_of_their_label() {
        let text = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"label\"\nname = \"place\"\nadd = [\"Gull Hide\"]\n[[step]]\ndo = \"label\"\nname = \"person\"\nadd = [\"Ines Okoro\"]\n";
        let name = |name: &str, label| Proposal::Name { name: name.into(), label };
        let proposals =
            [name("Sedge Pool", "place"), name("Gull Hide", "place"), name("Tideway", "organisation")];
        let accepted = accept(text, &proposals).expect("written");
        assert!(accepted.text.contains("add = [\"Gull Hide\", \"Sedge Pool\"]"), "{}", accepted.text);
        assert!(accepted.text.contains("add = [\"Ines Okoro\"]"), "{}", accepted.text);
        assert_eq!(accepted.changes, ["1 name added to step 2 (`label`)", "step 4 (`label`) is new"]);
    }

    #[test]
    fn pairs_go_into_a_table_however_it_is_written_and_nowhere_else() {
        let pair = [Proposal::Equate { from: "recieved".into(), to: "received".into() }];
        let table =
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"equate\"\n[step.words]\nthier = \"their\" # often\n";
        let accepted = accept(table, &pair).expect("written");
        assert!(
            accepted.text.ends_with("[step.words]\nthier = \"their\" # often\nrecieved = \"received\"\n"),
            "{}",
            accepted.text
        );
        let both = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"equate\"\nwords = { thier = \"their\", recieved = \"receive\" }\n";
        let accepted = accept(both, &pair).expect("written");
        // It becomes another word than before.
        assert_eq!(accepted.changes, ["1 word added to step 2 (`equate`)"]);
        assert!(accepted.text.contains("recieved = \"received\""), "{}", accepted.text);
        let again = accept(&accepted.text, &pair).expect("written");
        assert_eq!(again.changes, ["step 2 (`equate`) has it already"]);
        assert_eq!(again.text, accepted.text);
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
        for proposal in [Proposal::Lines(vec!["a".into()]), Proposal::StopWord("a".into())] {
            assert_eq!(accept("step = [{ do = \"case\" }]\n", &[proposal]), Err(AcceptError::NoTables));
        }
        assert_eq!(
            accept("[[step]]\ndo = \"cse\"\n", &[Proposal::StopWord("a".into())]),
            Err(AcceptError::Mistakes)
        );
    }
}
