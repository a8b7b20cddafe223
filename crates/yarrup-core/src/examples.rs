//! Whether a recipe makes of the examples in it what they say.

use std::borrow::Cow;

use toml_edit::{Array, DocumentMut, Item, Table, value};

use crate::pipeline::Pipeline;
use crate::recipe::Example;
use crate::run::{TokenFate, Trace};
use crate::step::Fields;

/// What is otherwise than an example expects.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Miss {
    /// What was expected.
    pub expected: String,
    /// What came.
    pub got: String,
    /// The place of the step that made the difference, from 1, where one did.
    pub step: Option<usize>,
    /// What that step did, in words.
    pub did: String,
}

/// What came of an example.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outcome<'e> {
    /// The example.
    pub example: &'e Example,
    /// What is otherwise than it expects; nothing if it holds.
    pub misses: Vec<Miss>,
}

impl Fields for Example {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        self.fields.iter().find(|(name, _)| name == path).map(|(_, value)| Cow::Borrowed(value.as_str()))
    }
}

/// Takes every example through the recipe. Steps that learn from a collection do what they do before they have learned.
///
/// ```
/// use yarrup_core::{NoFiles, Pipeline, examples, recipe};
///
/// let text = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n\
///             [[example]]\ntext = \"The Tern\"\nclean = \"tern\"\n[[example]]\ntext = \"The Tern\"\nkeeps = [\"The\"]\n";
/// let recipe = recipe::read(text).expect("no mistakes");
/// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
/// let outcomes = examples::run(&recipe.examples, &pipeline);
/// assert!(outcomes[0].misses.is_empty());
/// assert_eq!(outcomes[1].misses[0].step, Some(3));
/// ```
pub fn run<'e>(examples: &'e [Example], pipeline: &Pipeline) -> Vec<Outcome<'e>> {
    examples.iter().map(|example| Outcome { example, misses: misses(example, pipeline) }).collect()
}

fn misses(example: &Example, pipeline: &Pipeline) -> Vec<Miss> {
    let trace = pipeline.trace(&example.text, example);
    let journeys = journeys(&trace, &example.text);
    let mut misses = Vec::new();
    if let Some(expected) = example.clean.as_deref().filter(|expected| *expected != trace.clean) {
        let (step, did) = match pipeline.is_text_recipe() {
            true => text_step(&trace, &example.text, expected),
            false => {
                let words = |text: &str| text.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
                first_difference(&words(expected), &words(&trace.clean), &journeys)
            }
        };
        misses.push(Miss { expected: expected.to_owned(), got: trace.clean.clone(), step, did });
    }
    if let Some(expected) = &example.tokens {
        let got: Vec<String> = match pipeline.is_text_recipe() {
            true => trace.tokens.iter().map(|token| token.form.clone()).collect(),
            false => left(&journeys),
        };
        if *expected != got {
            let (step, did) = first_difference(expected, &got, &journeys);
            misses.push(Miss { expected: expected.join(" | "), got: got.join(" | "), step, did });
        }
    }
    let miss = |expected: String, got: &str, step: Option<&(usize, String)>| Miss {
        expected,
        got: got.to_owned(),
        step: step.map(|(step, _)| *step),
        did: step.map_or_else(String::new, |(_, did)| did.clone()),
    };
    for word in &example.drops {
        let expected = format!("`{word}` is dropped");
        let own: Vec<&Journey> = journeys.iter().filter(|journey| journey.is_spelled(word)).collect();
        if own.is_empty() {
            misses.push(miss(expected, "no token of the text is spelled like it", None));
        } else if let Some(kept) = own.iter().find(|journey| journey.is_kept) {
            let got = format!("it is left as `{}`", kept.last());
            misses.push(miss(expected, &got, None));
        } else if let Some(joined) = own.iter().find(|journey| journey.is_joined) {
            misses.push(miss(expected, "it goes into another token", joined.end.as_ref()));
        }
    }
    for word in &example.keeps {
        let own: Vec<&Journey> = journeys.iter().filter(|journey| journey.is_spelled(word)).collect();
        let is_left = journeys
            .iter()
            .any(|journey| journey.is_kept && (journey.last() == word || journey.is_spelled(word)));
        if is_left {
            continue;
        }
        let expected = format!("`{word}` is left");
        match own.first() {
            Some(journey) => misses.push(miss(expected, "it is not", journey.end.as_ref())),
            None => {
                misses.push(miss(expected, "no token of the text is spelled like it, or becomes it", None));
            }
        }
    }
    misses
}

/// The way of a token through the token steps.
struct Journey {
    /// How it is written in the text; nothing for a token that a step made.
    written: String,
    /// Its spelling at the split, and what steps made of it, each with the place of the step; 0 for the split.
    spellings: Vec<(usize, String)>,
    is_kept: bool,
    /// Whether it lives on in a token that a step made of it.
    is_joined: bool,
    /// The step that ended it, and what that did.
    end: Option<(usize, String)>,
}

impl Journey {
    fn last(&self) -> &str {
        self.spellings.last().map_or("", |(_, spelling)| spelling)
    }

    /// Whether the token was spelled like this, in the text or at the split.
    fn is_spelled(&self, word: &str) -> bool {
        self.written == word || self.spellings.first().is_some_and(|(_, spelling)| spelling == word)
    }
}

/// The journeys of all tokens, in the order of the text.
fn journeys(trace: &Trace<'_>, text: &str) -> Vec<Journey> {
    let begin = |place: usize, spelling: &str, step: usize| {
        let written = trace.tokens.get(place).filter(|_| step == 0).map(|token| token.span.of(text));
        let written = written.unwrap_or_default().to_owned();
        (
            place,
            Journey {
                written,
                spellings: vec![(step, spelling.to_owned())],
                is_kept: true,
                is_joined: false,
                end: None,
            },
        )
    };
    let mut found: Vec<(usize, Journey)> =
        trace.tokens.iter().enumerate().map(|(place, token)| begin(place, &token.form, 0)).collect();
    for step in &trace.token_steps {
        let number = step.step.number;
        // Each token that comes in is the next that is still there of its place and spelling.
        let mut taken = vec![false; found.len()];
        let mut added = Vec::new();
        for (place, spelling, fate) in &step.tokens {
            if *fate == TokenFate::Added {
                added.push(begin(*place, spelling, number));
                continue;
            }
            let own = (0..found.len()).find(|at| {
                let (own_place, journey) = &found[*at];
                !taken[*at] && journey.is_kept && own_place == place && journey.last() == spelling
            });
            let Some(at) = own else { continue };
            taken[at] = true;
            let journey = &mut found[at].1;
            match fate {
                TokenFate::Changed(to) => journey.spellings.push((number, to.clone())),
                TokenFate::Dropped(reason) => {
                    journey.is_kept = false;
                    journey.end = Some((number, format!("drops `{spelling}`: {reason}")));
                }
                TokenFate::Joined(into) => {
                    journey.is_kept = false;
                    journey.is_joined = true;
                    let into = into.as_ref().map_or_else(|| "others".to_owned(), |into| format!("`{into}`"));
                    journey.end = Some((number, format!("makes `{spelling}` part of {into}")));
                }
                TokenFate::Kept | TokenFate::Marked(_) | TokenFate::Added => {}
            }
        }
        found.extend(added);
        found.sort_by_key(|(place, _)| *place);
    }
    found.into_iter().map(|(_, journey)| journey).collect()
}

fn left(journeys: &[Journey]) -> Vec<String> {
    journeys.iter().filter(|journey| journey.is_kept).map(|journey| journey.last().to_owned()).collect()
}

/// The step that made the first term that is not as expected, and what it did.
fn first_difference(expected: &[String], got: &[String], journeys: &[Journey]) -> (Option<usize>, String) {
    let at = expected.iter().zip(got).take_while(|(one, other)| one == other).count();
    let (wanted, found) = (expected.get(at), got.get(at));
    // A term that was there once, and no longer is.
    let lost = |wanted: &String| {
        journeys.iter().find_map(|journey| {
            let was = journey.spellings.iter().position(|(_, spelling)| spelling == wanted)?;
            match journey.spellings.get(was + 1) {
                Some((step, now)) => Some((*step, format!("makes `{now}` of `{wanted}`"))),
                None => journey.end.clone(),
            }
        })
    };
    // A term that should not be there, and what made it.
    let made = |found: &String| {
        journeys.iter().filter(|journey| journey.is_kept && journey.last() == found).find_map(|journey| {
            let (step, now) = journey.spellings.last().filter(|(step, _)| *step > 0)?;
            let before = journey.spellings.iter().rev().nth(1);
            Some((
                *step,
                before
                    .map_or_else(|| format!("makes `{now}`"), |(_, was)| format!("makes `{now}` of `{was}`")),
            ))
        })
    };
    let is_extra = |found: &&String| !expected.contains(found);
    let told = wanted.filter(|wanted| !got.contains(wanted)).and_then(lost);
    let told = told.or_else(|| found.filter(is_extra).and_then(made));
    match told {
        Some((step, did)) => (Some(step), did),
        None => (None, String::new()),
    }
}

/// The step of a text recipe behind which the text is no longer as expected.
fn text_step(trace: &Trace<'_>, original: &str, expected: &str) -> (Option<usize>, String) {
    let texts = std::iter::once(original).chain(trace.text_steps.iter().map(|step| step.text.as_str()));
    let last = texts.enumerate().filter(|(_, text)| *text == expected).last();
    match last.and_then(|(place, _)| trace.text_steps.get(place)) {
        Some(step) => {
            let places = if step.matches == 1 { "place" } else { "places" };
            (Some(step.step.number), format!("changes {} {places}", step.matches))
        }
        None => (None, String::new()),
    }
}

/// The text of a recipe with one more example behind all that stands in it: this text, these fields, and the cleaned text. One with the same text and fields is
/// put right instead. Comments and layout stay. None if it is no recipe.
///
/// ```
/// let with = yarrup_core::examples::added("[[step]]\ndo = \"case\" # small\n", "A Tern", &[], "a tern").expect("a recipe");
/// assert_eq!(with, "[[step]]\ndo = \"case\" # small\n\n[[example]]\ntext = \"A Tern\"\nclean = \"a tern\"\n");
/// ```
pub fn added(recipe: &str, text: &str, fields: &[(String, String)], clean: &str) -> Option<String> {
    let mut document: DocumentMut = recipe.parse().ok()?;
    let written = |table: &Table| -> Vec<(String, String)> {
        let inner = table.get("fields").and_then(Item::as_table_like);
        let pairs = inner.into_iter().flat_map(|inner| inner.iter());
        pairs.filter_map(|(name, value)| Some((name.to_owned(), value.as_str()?.to_owned()))).collect()
    };
    if !document.contains_key("example") {
        document.insert("example", Item::ArrayOfTables(toml_edit::ArrayOfTables::new()));
    }
    let examples = document.get_mut("example")?.as_array_of_tables_mut()?;
    let known = examples
        .iter_mut()
        .find(|table| table.get("text").and_then(Item::as_str) == Some(text) && written(table) == fields);
    if let Some(table) = known {
        table.insert("clean", value(clean));
        if table.contains_key("tokens") {
            let mut tokens = Array::new();
            tokens.extend(clean.split_whitespace());
            table.insert("tokens", value(tokens));
        }
        return Some(document.to_string());
    }
    let mut table = Table::new();
    table.insert("text", value(text));
    if !fields.is_empty() {
        let mut inner = toml_edit::InlineTable::new();
        for (name, field) in fields {
            inner.insert(name, field.as_str().into());
        }
        table.insert("fields", value(inner));
    }
    table.insert("clean", value(clean));
    examples.push(table);
    Some(document.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::read;
    use crate::testing;

    fn told(steps: &str, example: &str) -> Vec<Miss> {
        let text = format!("{steps}[[example]]\n{example}\n");
        let recipe = read(&text).unwrap_or_else(|faults| panic!("{faults:?}"));
        run(&recipe.examples, &testing::pipeline(&text)).remove(0).misses
    }

    const STEPS: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"of\"]\n\
                         [[step]]\ndo = \"stem\"\n[[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n";

    #[test]
    fn what_holds_is_no_miss() {
        for example in [
            "text = \"The nests of terns\"\nclean = \"nest tern\"",
            "text = \"The nests of terns\"\ntokens = [\"nest\", \"tern\"]",
            "text = \"The nests of terns\"\ndrops = [\"the\", \"of\"]\nkeeps = [\"nests\", \"tern\"]",
            "text = \"A barn owl\"\nkeeps = [\"barn_owl\"]",
            "text = \"The Nests of Terns\"\ndrops = [\"The\"]\nkeeps = [\"Nests\", \"tern\"]",
        ] {
            assert_eq!(told(STEPS, example), [], "{example}");
        }
    }

    #[test]
    fn the_step_that_made_the_difference_is_named() {
        for (example, step, did) in [
            ("text = \"The nests\"\nclean = \"nests\"", Some(4), "makes `nest` of `nests`"),
            ("text = \"The nests\"\nclean = \"the nest\"", Some(3), "drops `the`: "),
            ("text = \"The nests\"\ntokens = [\"nests\"]", Some(4), "makes `nest` of `nests`"),
            ("text = \"The nests\"\nkeeps = [\"the\"]", Some(3), "drops `the`: "),
            ("text = \"The nests\"\ndrops = [\"nests\"]", None, ""),
            ("text = \"The nests\"\ndrops = [\"owls\"]", None, ""),
            ("text = \"A barn owl\"\ndrops = [\"barn\"]", Some(5), "makes `barn` part of `barn_owl`"),
            (
                "text = \"A barn owl\"\ntokens = [\"a\", \"barn\", \"owl\"]",
                Some(5),
                "makes `barn` part of `barn_owl`",
            ),
        ] {
            let misses = told(STEPS, example);
            assert_eq!(misses.len(), 1, "{example}: {misses:?}");
            assert_eq!(misses[0].step, step, "{example}");
            assert!(misses[0].did.starts_with(did), "{example}: {}", misses[0].did);
        }
    }

    #[test]
    fn a_text_recipe_tells_the_step_behind_which_the_text_is_another() {
        let steps = "[[step]]\ndo = \"spaces\"\n[[step]]\ndo = \"case\"\n";
        assert_eq!(told(steps, "text = \"A  Tern\"\nclean = \"a tern\""), []);
        assert_eq!(told(steps, "text = \"A  Tern\"\nclean = \"A Tern\"")[0].step, Some(2));
        let first = told(steps, "text = \"A  Tern\"\nclean = \"A  Tern\"").remove(0);
        assert_eq!((first.step, first.did.as_str()), (Some(1), "changes 1 place"));
    }

    #[test]
    fn fields_decide_which_steps_work() {
        let steps = "[[step]]\ndo = \"case\"\nonly = { ward = \"north\" }\n[[step]]\ndo = \"split\"\n";
        assert_eq!(told(steps, "text = \"A Tern\"\nfields = { ward = \"north\" }\nclean = \"a tern\""), []);
        assert_eq!(told(steps, "text = \"A Tern\"\nclean = \"A Tern\""), []);
    }

    #[test]
    fn examples_without_text_or_aim_are_mistakes() {
        for (example, title) in [
            ("clean = \"a\"", "`text` is missing"),
            ("text = \"a\"", "nothing is expected"),
            ("text = \"a\"\nclaen = \"a\"", "unknown key `claen`"),
            ("text = 5\nclean = \"a\"", "wrong value for `text`"),
        ] {
            let faults =
                read(&format!("[[step]]\ndo = \"case\"\n[[example]]\n{example}\n")).expect_err("a mistake");
            assert_eq!(faults[0].title, title, "{example}: {faults:?}");
        }
    }

    #[test]
    fn an_example_with_the_same_text_is_put_right() {
        let recipe = "[[step]]\ndo = \"case\"\n\n[[example]] # first\ntext = \"A\"\nclean = \"x\"\n";
        let fixed = added(recipe, "A", &[], "a").expect("a recipe");
        assert_eq!(fixed, recipe.replace("\"x\"", "\"a\""));
        let fields = [("ward".to_owned(), "north".to_owned())];
        let more = added(recipe, "A", &fields, "a").expect("a recipe");
        let recipe = read(&more).expect("no mistakes");
        assert_eq!((recipe.examples.len(), &recipe.examples[1].fields[..]), (2, &fields[..]));
        assert_eq!(added("= no recipe", "A", &[], "a"), None);
    }
}
