//! From the text of a recipe file to a [`Recipe`], or to all of its mistakes.

use std::ops::Range;

use toml::Spanned;
use toml::de::{DeArray, DeTable, DeValue};

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::recipe::{Fault, INCLUDE, NoRecipes, Recipe, Recipes, SpareList, Step, include};
use crate::step::{
    Condition, KeyFacts, ListReference, Operation, Shape, Stage, Value, Written, WrittenSettings,
};
use crate::steps::OPERATIONS;

/// How many steps a recipe can have: the engine keeps a bit for each.
const MOST_STEPS: usize = 60;

const RECIPE_KEYS: &[&str] = &["recipe", "about", "language", "spare", "allow", "step"];
const STEP_KEYS: &[&str] = &["do", "label", "spare", "only", "allow"];

/// Reads a recipe.
///
/// # Errors
///
/// All mistakes of the file, in the order of their places.
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
    read_nested(text, recipes, operations, &mut Vec::new())
}

/// Reads a recipe that the recipes named in `stack` include, each the next.
fn read_nested(
    text: &str,
    recipes: &dyn Recipes,
    operations: &'static [&'static Operation],
    stack: &mut Vec<String>,
) -> Result<Recipe, Vec<Fault>> {
    let (table, broken) = DeTable::parse_recoverable(text);
    let mut reader = Reader { faults: Vec::new(), recipes, operations, stack };
    let recipe = reader.recipe(table.get_ref(), text);
    if !broken.is_empty() {
        // What was recovered from broken lines is guesswork: faults on these lines would be about that guess, and
        // what seems to be missing may stand there.
        let line = |at: usize| text[..at.min(text.len())].bytes().filter(|&b| b == b'\n').count();
        let broken_lines: Vec<_> = broken.iter().filter_map(|e| e.span()).map(|s| line(s.start)).collect();
        reader.faults.retain(|fault| {
            !fault.title.contains("missing") && !broken_lines.contains(&line(fault.span.start))
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

/// Reads the recipe at `path`. `stack` holds the name and path of every recipe on the way to it.
///
/// # Errors
///
/// A title and a label of the fault.
fn bring_in(
    path: &str,
    recipes: &dyn Recipes,
    operations: &'static [&'static Operation],
    stack: &mut Vec<String>,
) -> Result<Recipe, (String, String)> {
    let (name, text) = recipes.recipe(path).map_err(|why| (format!("no recipe `{path}`"), why))?;
    if let Some(first) = stack.iter().position(|known| *known == name) {
        let mut way: Vec<&str> = stack[first..].iter().map(String::as_str).collect();
        way.push(&name);
        return Err(("recipes include one another".to_owned(), way.join(" includes ")));
    }
    stack.push(name);
    // What it includes itself is named from where it stands.
    let nested = include::Nested { path, recipes };
    let read = read_nested(&text, &nested, operations, stack);
    stack.pop();
    read.map_err(|faults| {
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
pub fn nearest<'k>(found: &str, known: impl IntoIterator<Item = &'k str>) -> Option<&'k str> {
    let plain = |name: &str| name.to_lowercase().replace(['-', '_', ' '], "");
    known
        .into_iter()
        .map(|name| (strsim::damerau_levenshtein(&plain(found), &plain(name)), name))
        .filter(|(distance, name)| *distance <= (name.len().max(found.len()) / 3).max(1))
        .min()
        .map(|(_, name)| name)
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

/// A number, with a point or without.
fn decimal(value: &Toml<'_>) -> Option<f64> {
    match value.get_ref() {
        DeValue::Integer(number) => number.as_str().parse().ok(),
        DeValue::Float(number) => number.as_str().parse().ok(),
        _ => None,
    }
}

struct Reader<'r> {
    faults: Vec<Fault>,
    recipes: &'r dyn Recipes,
    /// What steps can do.
    operations: &'static [&'static Operation],
    /// The recipes that are being read, each including the next.
    stack: &'r mut Vec<String>,
}

type Toml<'a> = Spanned<DeValue<'a>>;

impl Reader<'_> {
    fn fault(
        &mut self,
        span: Range<usize>,
        title: impl Into<String>,
        label: impl Into<String>,
        help: Option<String>,
    ) {
        self.faults.push(Fault { title: title.into(), span, label: label.into(), help });
    }

    fn wrong_type(&mut self, value: &Toml<'_>, key: &str, expected: &str) {
        let label = format!("found {}, expected {expected}", what(value.get_ref()));
        self.fault(value.span(), format!("wrong value for `{key}`"), label, None);
    }

    fn recipe(&mut self, table: &DeTable<'_>, source: &str) -> Recipe {
        let mut recipe = Recipe {
            name: None,
            about: None,
            language: None,
            spare: SpareList::default(),
            allow: Vec::new(),
            steps: Vec::new(),
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
                unknown => {
                    let help = did_you_mean(unknown, RECIPE_KEYS);
                    self.fault(
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
                source.len().saturating_sub(1)..source.len(),
                "steps are missing",
                "a recipe needs at least one step",
                Some("begin one with `[[step]]` and `do = \"…\"`".into()),
            );
        }
        recipe
    }

    fn steps(&mut self, array: &DeArray<'_>, recipe: &mut Recipe) {
        if array.len() > MOST_STEPS {
            let span = array.get(MOST_STEPS).map_or(0..0, Spanned::span);
            self.fault(
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
            self.fault(span, "too many steps", label, None);
        }
        // Without a `split`, one is put in before the first token step: a text step behind that is too late as well.
        let splits =
            |step: &Step| step.operation.stage == Stage::Split || step.operation.stage.needs_tokens();
        if let Some(first) = recipe.steps.iter().position(splits) {
            for late in recipe.steps[first..].iter().filter(|step| step.operation.stage == Stage::Text) {
                let name = late.operation.name;
                self.fault(
                    late.span.clone(),
                    format!("`{name}` stands behind the split"),
                    "works on the whole text, which is in tokens by now",
                    Some(format!("move `{name}` to a place before `{}`", recipe.steps[first].operation.name)),
                );
            }
        }
    }

    /// Adds a step to the recipe, if its place among the others is right.
    fn take(&mut self, step: Step, recipe: &mut Recipe, split_at: &mut Option<Range<usize>>) {
        match (step.operation.stage, &*split_at) {
            (Stage::Split, Some(_)) => self.fault(
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
                        earlier.span.clone(),
                        format!("`{name}` stands before `split`"),
                        "works on tokens, and there are none yet",
                        Some(format!("move `split` to a place before `{name}`")),
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
                    key.span(),
                    format!("unknown key `{}`", key.get_ref()),
                    "`include` has no such key",
                    help,
                );
            }
        }
        let Some(value) = table.get("recipe") else {
            let help = Some("name the file, such as `recipe = \"house.toml\"`".into());
            self.fault(span, "`recipe` is missing", "an `include` without a recipe", help);
            return None;
        };
        let path = self.text(value, "recipe")?;
        match bring_in(&path, self.recipes, self.operations, self.stack) {
            Ok(mut recipe) => {
                let at = table.get("do").map_or(span, Spanned::span);
                include::mark(&mut recipe, &path, &at);
                Some(recipe)
            }
            Err((title, label)) => {
                self.fault(value.span(), title, label, None);
                None
            }
        }
    }

    fn step(&mut self, table: &DeTable<'_>, span: Range<usize>) -> Option<Step> {
        let Some(named) = table.get("do") else {
            let help = Some("say what the step does, such as `do = \"case\"`".into());
            self.fault(span, "`do` is missing", "a step without `do`", help);
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
                named.span(),
                format!("unknown step `{name}`"),
                "no step has this name",
                did_you_mean(name, &known),
            );
            return None;
        };
        let mut step = Step {
            operation,
            label: None,
            spare: SpareList::default(),
            only: None,
            allow: Vec::new(),
            included: None,
            settings: WrittenSettings::default(),
            span: named.span(),
        };
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

    fn setting(&mut self, key: &KeyFacts, value: &Toml<'_>) -> Option<Written> {
        Some(match key.shape {
            Shape::Pairs => Written::Pairs(self.references(value, key)?),
            Shape::Rows => Written::Rows(self.references(value, key)?),
            Shape::Lists => Written::Lists(self.references(value, key)?),
            Shape::File => Written::File(self.file(value, key)?),
            Shape::Dictionary { .. } => Written::Dictionary(self.file(value, key)?),
            _ => Written::Value(self.plain(value, key)?),
        })
    }

    fn references(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<Vec<ListReference>> {
        let items = self.array(value, key.name)?;
        Some(items.iter().filter_map(|item| self.reference(item, key)).collect())
    }

    fn file(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<ListReference> {
        let name = self.text(value, key.name)?;
        Some(ListReference { name, column: None, to: None, span: value.span() })
    }

    /// A value that names no file.
    fn plain(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<Value> {
        match key.shape {
            Shape::Whole { least, most } => {
                let number = value.get_ref().as_integer().and_then(|number| {
                    u64::from_str_radix(&number.as_str().replace('_', ""), number.radix()).ok()
                });
                let number = number.filter(|number| (least..=most).contains(number));
                if number.is_none() {
                    self.wrong_type(value, key.name, &format!("a whole number from {least} to {most}"));
                }
                number.map(Value::Whole)
            }
            Shape::OneOf(words) => self.choice(key.name, words, value).map(Value::Choice),
            Shape::SomeOf(words) => {
                let items = self.array(value, key.name)?;
                let chosen = items.iter().filter_map(|item| self.choice(key.name, words, item));
                Some(Value::Choices(chosen.collect()))
            }
            Shape::Truth => {
                let truth = value.get_ref().as_bool();
                if truth.is_none() {
                    self.wrong_type(value, key.name, "`true` or `false`");
                }
                truth.map(Value::Truth)
            }
            Shape::Text => self.text(value, key.name).map(Value::Text),
            Shape::Texts => self.texts(value, key.name).map(Value::Texts),
            Shape::Named => self.named(value, key.name).map(Value::Named),
            Shape::Fields => self.condition(value, key.name).map(Value::Fields),
            Shape::Share => {
                let share = decimal(value).filter(|share| (0.0..=1.0).contains(share));
                if share.is_none() {
                    self.wrong_type(value, key.name, "a number from 0 to 1, such as 0.5");
                }
                share.map(|share| Value::Share((share * 1e6).round() as u32))
            }
            Shape::Pairs | Shape::Rows | Shape::Lists | Shape::File | Shape::Dictionary { .. } => None,
        }
    }

    fn choice(
        &mut self,
        key: &str,
        words: &'static [&'static str],
        value: &Toml<'_>,
    ) -> Option<&'static str> {
        let Some(found) = value.get_ref().as_str() else {
            self.wrong_type(value, key, &format!("one of {}", listed(words)));
            return None;
        };
        let chosen = words.iter().copied().find(|word| word.eq_ignore_ascii_case(found));
        if chosen.is_none() {
            self.fault(
                value.span(),
                format!("wrong value for `{key}`"),
                format!("expected {}{}", if words.len() > 1 { "one of " } else { "" }, listed(words)),
                nearest(found, words.iter().copied()).map(|word| format!("did you mean `{word}`?")),
            );
        }
        chosen
    }

    fn reference(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<ListReference> {
        let span = value.span();
        if let Some(name) = value.get_ref().as_str() {
            return Some(ListReference { name: name.to_owned(), column: None, to: None, span });
        }
        let is_pairs = key.shape == Shape::Pairs;
        let (what, from) = match is_pairs {
            true => ("a file, or `{ file = \"…\", from = \"…\", to = \"…\" }`", "from"),
            false => ("the name of a list, a file, or `{ file = \"…\", column = \"…\" }`", "column"),
        };
        let Some(table) = value.get_ref().as_table() else {
            self.wrong_type(value, key.name, what);
            return None;
        };
        let (mut file, mut column, mut to) = (None, None, None);
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "file" => file = self.text(value, "file"),
                name if name == from => column = self.text(value, from),
                "to" if is_pairs => to = self.text(value, "to"),
                other => self.fault(
                    key.span(),
                    format!("unknown key `{other}`"),
                    "a list has no such key",
                    did_you_mean(other, if is_pairs { &["file", "from", "to"] } else { &["file", "column"] }),
                ),
            }
        }
        if file.is_none() {
            self.fault(span.clone(), "`file` is missing", "a list without a file", None);
        }
        Some(ListReference { name: file?, column, to, span })
    }

    /// A table of texts by name.
    fn named(&mut self, value: &Toml<'_>, key: &str) -> Option<Vec<(String, String)>> {
        let Some(table) = value.get_ref().as_table() else {
            self.wrong_type(value, key, "a table, such as `{ \"this\" = \"that\" }`");
            return None;
        };
        let mut entries: Vec<_> = table.iter().collect();
        entries.sort_by_key(|(name, _)| name.span().start);
        let texts = entries.into_iter().filter_map(|(name, value)| {
            Some((name.get_ref().to_string(), self.text(value, name.get_ref())?))
        });
        Some(texts.collect())
    }

    /// Codes of advice.
    fn codes(&mut self, value: &Toml<'_>) -> Vec<String> {
        let items = self.array(value, "allow").unwrap_or_default();
        let mut codes = Vec::new();
        for item in items {
            let Some(code) = self.text(item, "allow") else { continue };
            let known: Vec<&str> = super::CODES.iter().map(|code| code.name).collect();
            if known.contains(&code.as_str()) {
                codes.push(code);
            } else {
                let help = did_you_mean(&code, &known);
                self.fault(
                    item.span(),
                    format!("unknown code `{code}`"),
                    "`check` gives no such advice",
                    help,
                );
            }
        }
        codes
    }

    fn text(&mut self, value: &Toml<'_>, key: &str) -> Option<String> {
        match value.get_ref().as_str() {
            Some(text) => Some(text.to_owned()),
            None => {
                self.wrong_type(value, key, "a text in quotes");
                None
            }
        }
    }

    fn language(&mut self, value: &Toml<'_>) -> Option<String> {
        let language = self.text(value, "language")?;
        let mut parts = language.split('-');
        let primary = parts.next().unwrap_or_default();
        let is_tag = (2..=3).contains(&primary.len())
            && language.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-');
        if !is_tag {
            self.fault(
                value.span(),
                "wrong value for `language`",
                "expected a language tag of two or three letters, such as `en` or `pt-BR`",
                None,
            );
        }
        Some(language)
    }

    fn array<'v>(&mut self, value: &'v Toml<'_>, key: &str) -> Option<Vec<&'v Toml<'v>>> {
        match value.get_ref().as_array() {
            Some(array) => Some(array.iter().collect()),
            None => {
                let help = value.get_ref().as_str().map(|text| format!("write `{key} = [\"{text}\"]`"));
                let label = format!("found {}, expected an array", what(value.get_ref()));
                self.fault(value.span(), format!("wrong value for `{key}`"), label, help);
                None
            }
        }
    }

    fn texts(&mut self, value: &Toml<'_>, key: &str) -> Option<Vec<String>> {
        let items = self.array(value, key)?;
        Some(items.iter().filter_map(|item| self.text(item, key)).collect())
    }

    fn spare(&mut self, value: &Toml<'_>) -> SpareList {
        let mut spare = SpareList::default();
        let Some(table) = value.get_ref().as_table() else {
            spare.words = self.texts(value, "spare").unwrap_or_default();
            self.refuse_empty(&spare.words, value);
            return spare;
        };
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "words" => spare.words = self.texts(value, "words").unwrap_or_default(),
                "kinds" => {
                    let items = self.array(value, "kinds").unwrap_or_default();
                    spare.kinds =
                        items.iter().filter_map(|item| self.choice("kinds", Kind::NAMES, item)).collect();
                }
                "tags" => {
                    let items = self.array(value, "tags").unwrap_or_default();
                    spare.tags =
                        items.iter().filter_map(|item| self.choice("tags", Tag::NAMES, item)).collect();
                }
                other => self.fault(
                    key.span(),
                    format!("unknown key `{other}`"),
                    "`spare` has no such key",
                    did_you_mean(other, &["words", "kinds", "tags"]),
                ),
            }
        }
        self.refuse_empty(&spare.words, value);
        spare
    }

    fn refuse_empty(&mut self, words: &[String], value: &Toml<'_>) {
        if words.iter().any(String::is_empty) {
            self.fault(value.span(), "wrong value for `spare`", "an empty word", Some("take it out".into()));
        }
    }

    fn condition(&mut self, value: &Toml<'_>, key: &str) -> Option<Condition> {
        let mut condition = Condition::default();
        match value.get_ref().as_table() {
            Some(table) if !table.is_empty() => self.fields(table, "", &mut condition),
            _ => self.fault(
                value.span(),
                format!("wrong value for `{key}`"),
                format!("found {}, expected a field and its value", what(value.get_ref())),
                Some(format!("write `{key} = {{ season = \"spring\" }}`")),
            ),
        }
        Some(condition)
    }

    fn fields(&mut self, table: &DeTable<'_>, prefix: &str, condition: &mut Condition) {
        for (key, value) in table {
            let path = format!("{prefix}{}", key.get_ref());
            if let Some(inner) = value.get_ref().as_table() {
                self.fields(inner, &format!("{path}."), condition);
                continue;
            }
            let items = match value.get_ref().as_array() {
                Some(array) => array.iter().collect(),
                None => vec![value],
            };
            let mut values = Vec::new();
            for item in items {
                match item.get_ref() {
                    DeValue::String(text) => values.push(text.to_string()),
                    DeValue::Integer(number) => values.push(number.as_str().to_owned()),
                    DeValue::Float(number) => values.push(number.as_str().to_owned()),
                    DeValue::Boolean(truth) => values.push(truth.to_string()),
                    _ => self.wrong_type(item, &path, "a text, a number, `true` or `false`"),
                }
            }
            condition.fields.insert(path, values);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn faults(text: &str) -> Vec<(String, String)> {
        let faults = read(text).expect_err("the recipe has mistakes");
        faults.into_iter().map(|fault| (fault.title, text[fault.span].to_owned())).collect()
    }

    #[test]
    fn all_mistakes_are_found_at_once_each_in_its_place() {
        let mistaken = "recipes = \"x\"\nlanguage = \"english\"\n[[step]]\ndo = \"stopword\"\n[[step]]\ndo = \"case\"\n\
                    to = \"lowercase\"\nspare = \"US\"\n[[step]]\ndo = \"drop\"\nshorter_than = -2\nkind = []\n[[step]]\n\
                    label = \"x\"\n";
        let expected = [
            ("unknown key `recipes`", "recipes"),
            ("wrong value for `language`", "\"english\""),
            ("unknown step `stopword`", "\"stopword\""),
            ("wrong value for `to`", "\"lowercase\""),
            ("wrong value for `spare`", "\"US\""),
            ("wrong value for `shorter_than`", "-2"),
            ("unknown key `kind`", "kind"),
        ];
        let found = faults(mistaken);
        for (found, expected) in found.iter().zip(expected) {
            assert_eq!((found.0.as_str(), found.1.as_str()), expected);
        }
        assert_eq!(found.len(), 8);
        assert_eq!(found[7].0, "`do` is missing");
    }

    #[test]
    fn the_nearest_known_name_is_offered() {
        let help = |text: &str| read(text).expect_err("mistaken").remove(0).help;
        assert_eq!(help("[[step]]\ndo = \"stop_word\"\n"), Some("did you mean `stopwords`?".into()));
        assert_eq!(help("[[step]]\ndo = \"case\"\nto = \"uper\"\n"), Some("did you mean `upper`?".into()));
        assert!(
            help("[[step]]\ndo = \"xyzzy\"\n").is_some_and(|help| help.starts_with("known here: `unicode`"))
        );
    }

    #[test]
    fn broken_toml_does_not_hide_other_mistakes() {
        let found =
            faults("language = en\n[[step]]\ndo = \"stems\"\n[[step]]\ndo = \"case\"\nto = \"lower\n");
        assert_eq!(found[0].0, "not valid TOML");
        assert!(found.iter().any(|(title, _)| title == "unknown step `stems`"), "{found:?}");
    }

    #[test]
    fn the_order_of_stages_is_kept() {
        let order = |steps: &[&str]| {
            let text: String = steps
                .iter()
                .map(|name| {
                    let example = crate::steps::operation(name).map_or("", |operation| operation.example);
                    format!("[[step]]\ndo = \"{name}\"\n{example}\n")
                })
                .collect();
            read(&text).err().map(|faults| faults.into_iter().map(|f| f.title).collect::<Vec<_>>())
        };
        assert_eq!(order(&["case", "split", "case", "stem"]), None);
        assert_eq!(order(&["spaces", "stopwords", "stem"]), None);
        assert_eq!(order(&["split", "spaces"]), Some(vec!["`spaces` stands behind the split".into()]));
        assert_eq!(order(&["stem", "erase"]), Some(vec!["`erase` stands behind the split".into()]));
        assert_eq!(order(&["stem", "split"]), Some(vec!["`stem` stands before `split`".into()]));
        assert_eq!(order(&["split", "split"]), Some(vec!["two `split` steps".into()]));
    }

    #[test]
    fn conditions_and_spared_things_are_read() {
        let text = "spare = { words = [\"no\"], kinds = [\"number\"] }\n[[step]]\ndo = \"case\"\n\
                    only = { site.name = [\"spit\", \"hide\"], rating = 3 }\n";
        let recipe = read(text).expect("no mistakes");
        assert_eq!(recipe.spare.kinds, ["number"]);
        let only = recipe.steps[0].only.clone().unwrap_or_default();
        assert_eq!(only.fields["site.name"], ["spit", "hide"]);
        assert_eq!(only.fields["rating"], ["3"]);
    }

    #[test]
    fn an_empty_recipe_is_a_mistake() {
        assert_eq!(faults("")[0].0, "steps are missing");
    }

    proptest! {
        #[test]
        fn any_text_is_a_recipe_or_a_list_of_mistakes(text in "(\\[\\[step\\]\\]|do|only|spare|=|\"|case|[{}\\[\\],\n a-z0-9]){0,40}") {
            if let Err(faults) = read(&text) {
                prop_assert!(!faults.is_empty());
                for fault in faults {
                    prop_assert!(text.get(fault.span.clone()).is_some(), "{:?}", fault);
                }
            }
        }
    }
}
