//! From the text of a recipe file to a [`Recipe`], or to all of its mistakes.

#[cfg(test)]
mod tests;
mod values;

use std::ops::Range;

use toml::Spanned;
use toml::de::{DeArray, DeTable, DeValue};

use crate::recipe::{
    Example, Fault, FaultKind, INCLUDE, NoRecipes, Recipe, Recipes, SpareList, Step, include,
};
use crate::step::{Operation, Stage};
use crate::steps::OPERATIONS;

/// How many steps a recipe can have: the engine keeps a bit for each.
const MOST_STEPS: usize = 60;

const RECIPE_KEYS: &[&str] = &["recipe", "about", "language", "spare", "allow", "step", "example"];
const EXAMPLE_KEYS: &[&str] = &["text", "about", "fields", "clean", "tokens", "drops", "keeps"];
const STEP_KEYS: &[&str] = &["do", "label", "spare", "only", "allow"];

/// Reads a recipe.
///
/// # Errors
///
/// All mistakes of the file, in the order of their places.
///
/// ```
/// use yarrup_core::recipe;
///
/// let recipe = recipe::read("[[step]]\ndo = \"case\"\n").expect("no mistakes");
/// assert_eq!(recipe.steps[0].operation.name, "case");
/// let faults = recipe::read("[[step]]\ndo = \"csae\"\n").expect_err("a mistake");
/// assert_eq!(faults[0].help.as_deref(), Some("did you mean `case`?"));
/// ```
pub fn read(text: &str) -> Result<Recipe, Vec<Fault>> {
    read_with(text, &NoRecipes)
}

/// As [`read`], bringing in the steps of the recipes that it includes.
///
/// # Errors
///
/// As [`read`]; a mistake of an included recipe, or a cycle of them, is told where it is included.
pub fn read_with(text: &str, recipes: &dyn Recipes) -> Result<Recipe, Vec<Fault>> {
    read_known(text, recipes, OPERATIONS)
}

/// As [`read_with`], for recipes of these operations: those of the program and others.
///
/// # Errors
///
/// As [`read_with`].
pub fn read_known(
    text: &str,
    recipes: &dyn Recipes,
    operations: &'static [&'static Operation],
) -> Result<Recipe, Vec<Fault>> {
    read_nested(text, recipes, operations, &mut Way::default())
}

/// Reads a recipe that the recipes of `way` include, each the next.
fn read_nested(
    text: &str,
    recipes: &dyn Recipes,
    operations: &'static [&'static Operation],
    way: &mut Way,
) -> Result<Recipe, Vec<Fault>> {
    let (table, broken) = DeTable::parse_recoverable(text);
    let mut reader = Reader { faults: Vec::new(), recipes, operations, way };
    let recipe = reader.recipe(table.get_ref(), text);
    if !broken.is_empty() {
        // What was recovered from broken lines is guesswork: faults on these lines would be about that guess, and
        // what seems to be missing may stand there.
        let line = |at: usize| text[..at.min(text.len())].bytes().filter(|&b| b == b'\n').count();
        let broken_lines: Vec<_> = broken.iter().filter_map(|e| e.span()).map(|s| line(s.start)).collect();
        reader.faults.retain(|fault| {
            fault.kind != FaultKind::Missing && !broken_lines.contains(&line(fault.span.start))
        });
        let mut seen = Vec::new();
        for error in &broken {
            let span = error.span().unwrap_or(0..0);
            // One slip often makes the parser stumble more than once on the same line.
            if seen.contains(&line(span.start)) {
                continue;
            }
            seen.push(line(span.start));
            reader.faults.push(Fault {
                kind: FaultKind::Syntax,
                title: "not valid TOML".to_owned(),
                span,
                label: error.message().lines().collect::<Vec<_>>().join("; "),
                help: None,
            });
        }
    }
    reader.faults.sort_by_key(|fault| (fault.span.start, fault.span.end));
    if reader.faults.is_empty() { Ok(recipe) } else { Err(reader.faults) }
}

/// How deep recipes may include one another.
const DEEPEST: usize = 32;
/// How many a recipe may include in all: ten that include ten each, and so on, would never end.
const MOST_BROUGHT_IN: usize = 500;

/// The recipes on the way to the one that is being read.
#[derive(Default)]
struct Way {
    /// Their names, each including the next.
    names: Vec<String>,
    /// How many were included so far, on all ways.
    brought_in: usize,
    /// Whether it was too long to be read to its end.
    is_too_long: bool,
}

/// What is told of recipes that include one another too deep.
fn too_long() -> (String, String) {
    ("recipes include one another without end".to_owned(), format!("more than {DEEPEST} deep"))
}

/// Reads the recipe at `path`, which stands at the end of `way`.
///
/// # Errors
///
/// A title and a label of the fault.
fn bring_in(
    path: &str,
    recipes: &dyn Recipes,
    operations: &'static [&'static Operation],
    way: &mut Way,
) -> Result<Recipe, (String, String)> {
    let (name, text) =
        recipes.recipe(path).map_err(|why| (format!("no recipe `{path}`"), why.to_string()))?;
    if let Some(first) = way.names.iter().position(|known| *known == name) {
        let mut round: Vec<&str> = way.names[first..].iter().map(String::as_str).collect();
        round.push(&name);
        return Err(("recipes include one another".to_owned(), round.join(" includes ")));
    }
    if way.names.len() >= DEEPEST {
        way.is_too_long = true;
        return Err(too_long());
    }
    way.brought_in += 1;
    if way.brought_in > MOST_BROUGHT_IN {
        return Err((
            "too many recipes are included".to_owned(),
            format!("more than {MOST_BROUGHT_IN} in all"),
        ));
    }
    way.names.push(name);
    // What it includes itself is named from where it stands.
    let nested = include::Nested { path, recipes };
    let read = read_nested(&text, &nested, operations, way);
    way.names.pop();
    let is_too_long = way.is_too_long;
    read.map_err(|faults| {
        // Told once, and not as a mistake of each on the way.
        if is_too_long {
            return too_long();
        }
        let line = |at: usize| text[..at.min(text.len())].matches('\n').count() + 1;
        let told: Vec<String> = faults
            .iter()
            .take(3)
            .map(|fault| format!("line {}: {}: {}", line(fault.span.start), fault.title, fault.label))
            .collect();
        (format!("`{path}` has mistakes"), told.join("; "))
    })
}

/// The name among `known` that is meant by `found`, if one is near.
///
/// ```
/// use yarrup_core::recipe::nearest;
///
/// assert_eq!(nearest("stop_word", ["stem", "stopwords"]), Some("stopwords"));
/// assert_eq!(nearest("quux", ["stem", "stopwords"]), None);
/// ```
pub fn nearest<'k>(found: &str, known: impl IntoIterator<Item = &'k str>) -> Option<&'k str> {
    let plain = |name: &str| name.to_lowercase().replace(['-', '_', ' '], "");
    known
        .into_iter()
        // Of two as near, the one that is as long is meant.
        .map(|name| {
            (strsim::damerau_levenshtein(&plain(found), &plain(name)), name.len().abs_diff(found.len()), name)
        })
        .filter(|(distance, _, name)| *distance <= (name.len().max(found.len()) / 3).max(1))
        .min()
        .map(|(.., name)| name)
}

/// Ordinary words for what a step does, and the step that does it.
const OTHER_WORDS: &[(&str, &[&str])] = &[
    ("case", &["lower", "lowercase", "uppercase"]),
    ("split", &["token", "tokens", "words", "sentences"]),
    ("stopwords", &["stop", "stoplist"]),
    ("lemma", &["lemmas", "lemmatise", "lemmatize"]),
    ("stem", &["stemming", "stemmer"]),
    ("tag", &["pos", "partsofspeech"]),
    ("erase", &["punctuation", "digits"]),
    ("markup", &["html", "xml", "tags"]),
    ("unicode", &["normalise", "normalize", "normalisation"]),
    ("spaces", &["whitespace", "trim"]),
    ("replace", &["regex", "substitute", "pattern"]),
    ("mask", &["anonymise", "anonymize", "redact", "urls", "emails"]),
    ("equate", &["synonyms", "spelling", "spellings"]),
    ("phrases", &["collocations", "terms"]),
    ("ngrams", &["bigrams", "trigrams"]),
    ("drop", &["filter", "remove", "delete"]),
    ("limit", &["frequency", "rare"]),
    ("documents", &["duplicates", "copies"]),
    ("lines", &["boilerplate", "headers", "hyphens"]),
    ("label", &["entities", "names", "annotate"]),
];

/// The step that another word for what it does means.
fn meant_step(found: &str) -> Option<&'static str> {
    let plain = found.to_lowercase().replace(['-', '_', ' '], "");
    OTHER_WORDS.iter().find(|(_, others)| others.contains(&plain.as_str())).map(|(step, _)| *step)
}

fn listed(names: &[&str]) -> String {
    names.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")
}

fn did_you_mean(found: &str, known: &[&str]) -> Option<String> {
    Some(match nearest(found, known.iter().copied()) {
        Some(name) => format!("did you mean `{name}`?"),
        None => format!("known here: {}", listed(known)),
    })
}

fn what(value: &DeValue<'_>) -> String {
    match value {
        DeValue::String(text) => format!("the text `{text}`"),
        DeValue::Integer(number) => format!("the number {}", number.as_str()),
        DeValue::Float(number) => format!("the number {}", number.as_str()),
        DeValue::Boolean(truth) => format!("`{truth}`"),
        DeValue::Datetime(_) => "a date".to_owned(),
        DeValue::Array(_) => "an array".to_owned(),
        DeValue::Table(_) => "a table".to_owned(),
    }
}

struct Reader<'r> {
    faults: Vec<Fault>,
    recipes: &'r dyn Recipes,
    /// What steps can do.
    operations: &'static [&'static Operation],
    /// The recipes that are being read, each including the next.
    way: &'r mut Way,
}

type Toml<'a> = Spanned<DeValue<'a>>;

impl Reader<'_> {
    fn fault(
        &mut self,
        kind: FaultKind,
        span: Range<usize>,
        title: impl Into<String>,
        label: impl Into<String>,
        help: Option<String>,
    ) {
        self.faults.push(Fault { kind, title: title.into(), span, label: label.into(), help });
    }

    fn wrong_type(&mut self, value: &Toml<'_>, key: &str, expected: &str) {
        let label = format!("found {}, expected {expected}", what(value.get_ref()));
        self.fault(FaultKind::WrongValue, value.span(), format!("wrong value for `{key}`"), label, None);
    }

    fn recipe(&mut self, table: &DeTable<'_>, source: &str) -> Recipe {
        let mut recipe = Recipe {
            name: None,
            about: None,
            language: None,
            spare: SpareList::default(),
            allow: Vec::new(),
            steps: Vec::new(),
            examples: Vec::new(),
        };
        let mut steps: Option<&Toml<'_>> = None;
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "recipe" => recipe.name = self.text(value, "recipe"),
                "about" => recipe.about = self.text(value, "about"),
                "language" => recipe.language = self.language(value),
                "spare" => recipe.spare = self.spare(value),
                "allow" => recipe.allow = self.codes(value),
                "step" => steps = Some(value),
                "example" => recipe.examples = self.examples(value),
                unknown => {
                    let help = did_you_mean(unknown, RECIPE_KEYS);
                    self.fault(
                        FaultKind::UnknownKey,
                        key.span(),
                        format!("unknown key `{unknown}`"),
                        "a recipe has no such key",
                        help,
                    );
                }
            }
        }
        match steps.map(|value| (value, value.get_ref().as_array())) {
            Some((_, Some(array))) => self.steps(array, &mut recipe),
            Some((value, None)) => {
                self.fault(
                    FaultKind::WrongValue,
                    value.span(),
                    "wrong value for `step`",
                    "a single table",
                    Some("write each step as `[[step]]`, with two brackets".into()),
                );
            }
            None => {}
        }
        if steps.is_none() {
            self.fault(
                FaultKind::Missing,
                source.len().saturating_sub(1)..source.len(),
                "steps are missing",
                "a recipe needs at least one step",
                Some("begin one with `[[step]]` and `do = \"…\"`".into()),
            );
        }
        recipe
    }

    fn examples(&mut self, value: &Toml<'_>) -> Vec<Example> {
        let Some(array) = value.get_ref().as_array() else {
            let help = Some("write each example as `[[example]]`, with two brackets".into());
            self.fault(
                FaultKind::WrongValue,
                value.span(),
                "wrong value for `example`",
                "a single table",
                help,
            );
            return Vec::new();
        };
        array.iter().filter_map(|value| self.example(value)).collect()
    }

    fn example(&mut self, value: &Toml<'_>) -> Option<Example> {
        let Some(table) = value.get_ref().as_table() else {
            self.wrong_type(value, "example", "a table");
            return None;
        };
        let mut example = Example { span: value.span(), ..Example::default() };
        let (mut text, faults) = (None, self.faults.len());
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "text" => text = self.text(value, "text"),
                "about" => example.about = self.text(value, "about"),
                "clean" => example.clean = self.text(value, "clean"),
                "tokens" => example.tokens = self.texts(value, "tokens"),
                "drops" => example.drops = self.texts(value, "drops").unwrap_or_default(),
                "keeps" => example.keeps = self.texts(value, "keeps").unwrap_or_default(),
                "fields" => example.fields = self.named(value, "fields").unwrap_or_default(),
                unknown => self.fault(
                    FaultKind::UnknownKey,
                    key.span(),
                    format!("unknown key `{unknown}`"),
                    "an example has no such key",
                    did_you_mean(unknown, EXAMPLE_KEYS),
                ),
            }
        }
        let expects = example.clean.is_some()
            || example.tokens.is_some()
            || !example.drops.is_empty()
            || !example.keeps.is_empty();
        let missing = match (&text, expects) {
            (None, _) => Some(("`text` is missing", "an example without a text", "say it as `text = \"…\"`")),
            (Some(_), false) => Some((
                "nothing is expected",
                "an example that cannot fail",
                "add `clean = \"…\"`, `tokens = […]`, `drops = […]` or `keeps = […]`",
            )),
            _ => None,
        };
        // What is written wrongly may be what seems to be missing.
        if let Some((title, label, help)) = missing.filter(|_| self.faults.len() == faults) {
            self.fault(FaultKind::Missing, value.span(), title, label, Some(help.to_owned()));
        }
        Some(Example { text: text?, ..example })
    }

    fn steps(&mut self, array: &DeArray<'_>, recipe: &mut Recipe) {
        if array.len() > MOST_STEPS {
            let span = array.get(MOST_STEPS).map_or(0..0, Spanned::span);
            self.fault(
                FaultKind::TooMany,
                span,
                "too many steps",
                format!("found {} steps, a recipe has at most {MOST_STEPS}", array.len()),
                None,
            );
        }
        let mut split_at: Option<Range<usize>> = None;
        for value in array.iter() {
            let Some(table) = value.get_ref().as_table() else {
                self.wrong_type(value, "step", "a table");
                continue;
            };
            if table.get("do").and_then(|named| named.get_ref().as_str()) == Some(INCLUDE) {
                let included = self.include(table, value.span());
                if let Some(included) = included {
                    recipe.language = recipe.language.take().or(included.language);
                    for step in included.steps {
                        self.take(step, recipe, &mut split_at);
                    }
                }
                continue;
            }
            let Some(step) = self.step(table, value.span()) else {
                continue;
            };
            self.take(step, recipe, &mut split_at);
        }
        if recipe.steps.len() > MOST_STEPS && array.len() <= MOST_STEPS {
            let span = recipe.steps.get(MOST_STEPS).map_or(0..0, |step| step.span.clone());
            let label = format!(
                "found {} steps with all that is included, a recipe has at most {MOST_STEPS}",
                recipe.steps.len()
            );
            self.fault(FaultKind::TooMany, span, "too many steps", label, None);
        }
        // Without a `split`, one is put in before the first token step: a text step behind that is too late as well.
        let splits =
            |step: &Step| step.operation.stage == Stage::Split || step.operation.stage.needs_tokens();
        if let Some(first) = recipe.steps.iter().position(splits) {
            for late in recipe.steps[first..].iter().filter(|step| step.operation.stage == Stage::Text) {
                let name = late.operation.name;
                self.fault(
                    FaultKind::Order,
                    late.span.clone(),
                    format!("`{name}` comes after the split"),
                    "works on the whole text, which is in tokens by now",
                    Some(format!("move `{name}` before `{}`", recipe.steps[first].operation.name)),
                );
            }
        }
    }

    /// Adds a step to the recipe, if its place among the others is right.
    fn take(&mut self, step: Step, recipe: &mut Recipe, split_at: &mut Option<Range<usize>>) {
        match (step.operation.stage, &*split_at) {
            (Stage::Split, Some(_)) => self.fault(
                FaultKind::Order,
                step.span.clone(),
                "two `split` steps",
                "the text was split by an earlier step",
                Some("keep one of them".into()),
            ),
            (Stage::Split, None) => {
                *split_at = Some(step.span.clone());
                let late = |earlier: &&Step| earlier.operation.stage.needs_tokens();
                for earlier in recipe.steps.iter().filter(late) {
                    let name = earlier.operation.name;
                    self.fault(
                        FaultKind::Order,
                        earlier.span.clone(),
                        format!("`{name}` comes before `split`"),
                        "works on tokens, and there are none yet",
                        Some(format!("move `split` before `{name}`")),
                    );
                }
            }
            _ => {}
        }
        recipe.steps.push(step);
    }

    /// The recipe that an `include` names, its steps marked as brought in.
    fn include(&mut self, table: &DeTable<'_>, span: Range<usize>) -> Option<Recipe> {
        for (key, _) in table {
            if !matches!(key.get_ref().as_ref(), "do" | "recipe") {
                let help = did_you_mean(key.get_ref(), &["recipe"]);
                self.fault(
                    FaultKind::UnknownKey,
                    key.span(),
                    format!("unknown key `{}`", key.get_ref()),
                    "`include` has no such key",
                    help,
                );
            }
        }
        let Some(value) = table.get("recipe") else {
            let help = Some("name the file, such as `recipe = \"house.toml\"`".into());
            self.fault(
                FaultKind::Missing,
                span,
                "`recipe` is missing",
                "an `include` without a recipe",
                help,
            );
            return None;
        };
        let path = self.text(value, "recipe")?;
        match bring_in(&path, self.recipes, self.operations, self.way) {
            Ok(mut recipe) => {
                let at = table.get("do").map_or(span, Spanned::span);
                include::mark(&mut recipe, &path, &at);
                Some(recipe)
            }
            Err((title, label)) => {
                self.fault(FaultKind::Include, value.span(), title, label, None);
                None
            }
        }
    }

    fn step(&mut self, table: &DeTable<'_>, span: Range<usize>) -> Option<Step> {
        let Some(named) = table.get("do") else {
            // `stem = true` and `include = "base.toml"` mean a step of that name.
            let named = table.keys().map(|key| key.get_ref().as_ref()).find(|key| {
                *key == INCLUDE || self.operations.iter().any(|operation| operation.name == *key)
            });
            let help = Some(match named {
                Some(INCLUDE) => "write `do = \"include\"` and `recipe = \"…\"`".to_owned(),
                name => format!("say what the step does, such as `do = \"{}\"`", name.unwrap_or("case")),
            });
            self.fault(FaultKind::Missing, span, "`do` is missing", "a step without `do`", help);
            return None;
        };
        let Some(name) = named.get_ref().as_str() else {
            self.wrong_type(named, "do", "the name of a step");
            return None;
        };
        let Some(operation) = self.operations.iter().copied().find(|known| known.name == name) else {
            let known: Vec<_> =
                self.operations.iter().map(|operation| operation.name).chain([INCLUDE]).collect();
            self.fault(
                FaultKind::UnknownName,
                named.span(),
                format!("unknown step `{name}`"),
                "no step has this name",
                meant_step(name)
                    .map(|step| format!("did you mean `{step}`?"))
                    .or_else(|| did_you_mean(name, &known)),
            );
            return None;
        };
        let mut step = Step::new(operation, named.span());
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "do" => {}
                "label" => step.label = self.text(value, "label"),
                "spare" => step.spare = self.spare(value),
                "only" => step.only = self.condition(value, "only"),
                "allow" => step.allow = self.codes(value),
                other => match operation.keys.iter().find(|key| key.name == other) {
                    Some(key) => {
                        if let Some(setting) = self.setting(key, value) {
                            step.settings.values.push((key.name, setting));
                            step.key_spans.push((key.name, value.span()));
                        }
                    }
                    None => {
                        let known: Vec<_> = operation
                            .keys
                            .iter()
                            .map(|key| key.name)
                            .chain(STEP_KEYS.iter().copied())
                            .collect();
                        self.fault(
                            FaultKind::UnknownKey,
                            key.span(),
                            format!("unknown key `{other}`"),
                            format!("`{name}` has no such key"),
                            did_you_mean(other, &known),
                        );
                    }
                },
            }
        }
        Some(step)
    }
}
