//! From a recipe to what runs.

mod described;
mod route;

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

pub use crate::compile::described::described;
use crate::compile::route::Route;
use crate::condition::LANGUAGE;
use crate::kind::Kind;
use crate::language::code_of_name;
use crate::part_of_speech::Tag;
use crate::pipeline::{Pipeline, StepName, TextStage, TokenStage, TokenWork, WordLists};
use crate::recipe::{Fault, FaultKind, FileError, Recipe, SpareList, Step, nearest};
use crate::split::{Splitter, Whole};
use crate::step::{
    Built, Condition, ListReference, PairList, Role, RowList, Settings, SettingsError, Shape, Spare,
    SpareMarks, Stage, Value, WordList, Written,
};
use crate::steps::split::SPLIT;
use crate::words;

impl Pipeline {
    /// Compiles `recipe`, reading its word lists from `files`.
    ///
    /// # Errors
    ///
    /// Every list that cannot be had and every step whose settings do not fit together.
    pub fn compile(recipe: &Recipe, files: &dyn WordLists) -> Result<Pipeline, Vec<Fault>> {
        let is_text_recipe =
            recipe.steps.iter().all(|step| matches!(step.operation.stage, Stage::Text | Stage::TextOrToken));
        let written = with_split(recipe);
        let mut compiling = Compiling::default();
        for (index, step) in written.iter().enumerate() {
            let earlier = &written[..index];
            if let Some((built, settings)) = compiling.build(step, earlier, recipe, files) {
                compiling.add(index, step, built, recipe, &settings);
            }
        }
        let faults = std::mem::take(&mut compiling.faults);
        match compiling.so_far() {
            Some(pipeline) if faults.is_empty() => {
                let operations = written.iter().map(|step| step.operation).collect();
                Ok(Pipeline { operations, is_text_recipe, ..pipeline })
            }
            _ => Err(faults),
        }
    }
}

/// The steps of a recipe; one without a split gets one before its first step that needs tokens.
fn with_split(recipe: &Recipe) -> Vec<Cow<'_, Step>> {
    let mut written: Vec<Cow<'_, Step>> = recipe.steps.iter().map(Cow::Borrowed).collect();
    if !recipe.steps.iter().any(|step| step.operation.stage == Stage::Split) {
        let first = written.iter().position(|step| step.operation.stage.needs_tokens());
        let step = Step::new(&SPLIT, 0..0);
        written.insert(first.unwrap_or(written.len()), Cow::Owned(step));
    }
    written
}

/// What is compiled so far.
#[derive(Default)]
struct Compiling {
    faults: Vec<Fault>,
    /// What one text step puts in, no later one takes apart, nor does the split.
    placeholders: Vec<String>,
    labels: Vec<String>,
    text: Vec<TextStage>,
    splitter: Option<(usize, Arc<dyn Splitter>)>,
    tokens: Vec<TokenStage>,
    steps: Vec<StepName>,
    conditions: Vec<Condition>,
}

impl Compiling {
    /// Builds a step; none, and told, if it cannot be done as it is set.
    fn build(
        &mut self,
        step: &Step,
        earlier: &[Cow<'_, Step>],
        recipe: &Recipe,
        files: &dyn WordLists,
    ) -> Option<(Built, Settings)> {
        let known_faults = self.faults.len();
        let mut settings = with_lists(step, recipe, files, &mut self.faults);
        settings.labels.clone_from(&self.labels);
        let plays = |role| earlier.iter().any(|earlier| earlier.operation.plays(role));
        settings.tagged = plays(Role::Tags);
        settings.reduced = plays(Role::Reduces);
        settings.spared = spares(recipe, step).flat_map(|list| list.words.iter().cloned()).collect();
        settings.arrivals = self.so_far().map(|pipeline| Arc::new(Route::new(pipeline)) as _);
        let error = match (step.operation.build)(&settings) {
            Ok(built) => return Some((built, settings)),
            Err(error) => error,
        };
        // A list that could not be read makes a step look empty: one fault is enough.
        if self.faults.len() == known_faults {
            let title = error.told_of(step.operation.name);
            let (kind, at) = match &error {
                SettingsError::NeedsOneOf(_) => (FaultKind::Missing, None),
                SettingsError::Key { key, .. } => (FaultKind::Settings, step.span_of(key)),
                SettingsError::Step(_) => (FaultKind::Settings, None),
            };
            let (span, label) = match at {
                Some(value) => (value, format!("`{}` does not work with this value", step.operation.name)),
                None => (&step.span, "cannot be done as it is set".to_owned()),
            };
            self.faults.push(Fault { kind, title, span: span.clone(), label, help: None });
        }
        None
    }

    /// Puts a step in its place among those before it.
    fn add(&mut self, index: usize, step: &Step, built: Built, recipe: &Recipe, settings: &Settings) {
        let condition = step.only.as_ref().map(|condition| self.condition(condition));
        // Placeholders are protected from what rewrites, not from what drops them by their kind.
        let rewrites = matches!(built, Built::Text(_) | Built::Split(_) | Built::TextOrToken(..));
        let protected: Vec<String> = if rewrites { self.placeholders.clone() } else { Vec::new() };
        let spare = self.spare_of(recipe, step, protected).with_runs(settings);
        let in_order = spare.has_runs();
        let work = match built {
            Built::Split(runs) => {
                if condition.is_some() {
                    self.split_has_a_condition(step);
                }
                let runs = match self.placeholders.is_empty() {
                    true => runs,
                    false => Whole::around(runs, &self.placeholders),
                };
                self.splitter = Some((index, Arc::from(runs)));
                self.name(index, step, Stage::Split);
                return;
            }
            Built::Text(runs) => {
                self.add_text(index, step, TextStage { step: index, runs: runs.into(), spare, condition });
                return;
            }
            Built::TextOrToken(runs, _) if self.splitter.is_none() => {
                self.add_text(index, step, TextStage { step: index, runs: runs.into(), spare, condition });
                return;
            }
            Built::Token(runs) | Built::TextOrToken(_, runs) if in_order => {
                TokenWork::FormInOrder(runs.into())
            }
            Built::Token(runs) | Built::TextOrToken(_, runs) => TokenWork::Form(runs.into()),
            Built::Sequence(runs) => TokenWork::Sequence(runs.into()),
            Built::Document(runs) => TokenWork::Document(runs.into()),
        };
        let stage = TokenStage { step: index, work, spare, condition };
        let label = stage.facts().gives_label();
        if let Some(label) = label.filter(|label| !self.labels.iter().any(|known| known == label)) {
            self.labels.push(label.to_owned());
        }
        self.tokens.push(stage);
        let stage = match step.operation.stage {
            Stage::Collection => Stage::Collection,
            _ => Stage::Token,
        };
        self.name(index, step, stage);
    }

    /// What the steps so far make up; none before the split.
    fn so_far(&self) -> Option<Pipeline> {
        let (split, splitter) = self.splitter.clone()?;
        Some(Pipeline {
            text: self.text.clone(),
            splitter,
            split,
            tokens: self.tokens.clone(),
            steps: self.steps.clone(),
            operations: Vec::new(),
            conditions: self.conditions.clone(),
            labels: self.labels.clone(),
            is_text_recipe: false,
        })
    }

    fn spare_of(&mut self, recipe: &Recipe, step: &Step, placeholders: Vec<String>) -> Spare {
        let (mut words, mut kinds, mut all_marks) = (placeholders, Vec::new(), Vec::new());
        for list in spares(recipe, step) {
            words.extend(list.words.iter().cloned());
            kinds.extend(list.kinds.iter().filter_map(|name| Kind::named(name)));
            let tags = list.tags.iter().filter_map(|name| Tag::named(name)).collect();
            let mut marks = SpareMarks { tags, labels: 0, all: list.all };
            for label in &list.labels {
                match self.labels.iter().position(|known| known == label) {
                    Some(bit) => marks.labels |= 1 << bit,
                    // Steps before the one that labels have nothing to spare by the label.
                    None if std::ptr::eq(list, &raw const step.spare) => self.no_such_label(step, label),
                    None => {}
                }
            }
            all_marks.push(marks);
        }
        all_marks.into_iter().fold(Spare::new(words, kinds), Spare::with_marks)
    }

    fn no_such_label(&mut self, step: &Step, label: &str) {
        let known: Vec<String> = self.labels.iter().map(|label| format!("`{label}`")).collect();
        let known = if known.is_empty() { "none".to_owned() } else { known.join(", ") };
        self.faults.push(Fault {
            kind: FaultKind::Settings,
            title: format!("no step before gives the label `{label}`"),
            span: step.span.clone(),
            label: format!("`spare` names a label, and there are: {known}"),
            help: None,
        });
    }

    fn add_text(&mut self, index: usize, step: &Step, stage: TextStage) {
        self.placeholders.extend(stage.runs.placeholders());
        self.text.push(stage);
        self.name(index, step, Stage::Text);
    }

    fn name(&mut self, index: usize, step: &Step, stage: Stage) {
        self.steps.push(StepName {
            number: index + 1,
            operation: step.operation.name,
            label: step.label.clone(),
            stage,
            put_in: step.span.is_empty(),
        });
    }

    /// The number of a condition: one for all steps that have it.
    fn condition(&mut self, condition: &Condition) -> usize {
        self.conditions.iter().position(|known| known == condition).unwrap_or_else(|| {
            self.conditions.push(condition.clone());
            self.conditions.len() - 1
        })
    }

    fn split_has_a_condition(&mut self, step: &Step) {
        self.faults.push(Fault {
            kind: FaultKind::Settings,
            title: "`split` has a condition".into(),
            span: step.span.clone(),
            label: "every document must be split".into(),
            help: Some("take `only` out".into()),
        });
    }
}

/// What a step must leave alone: by itself, and by the recipes around it unless it changes nothing.
fn spares<'r>(recipe: &'r Recipe, step: &'r Step) -> impl Iterator<Item = &'r SpareList> {
    let around = (!step.operation.plays(Role::Marks)).then_some([&recipe.spare, &step.spare_around]);
    around.into_iter().flatten().chain([&step.spare])
}

/// The settings with every reference to a file or a list replaced by what it holds.
fn with_lists(step: &Step, recipe: &Recipe, files: &dyn WordLists, faults: &mut Vec<Fault>) -> Settings {
    // A step that works on documents of one language works in that language.
    let of_its_documents = step.only.as_ref().and_then(|only| only.only_value(LANGUAGE));
    let mut settings =
        Settings { language: of_its_documents.or(recipe.language.as_ref()).cloned(), ..Settings::default() };
    let mut loading = Loading { files, faults };
    for (key, written) in &step.settings.values {
        settings.values.extend(loading.load(written).map(|value| (*key, value)));
    }
    // A step that can use a dictionary and names no source of its own takes that of its language.
    let key = step.operation.keys.iter().find(|key| key.shape == Shape::Dictionary { of_language: true });
    if let Some(key) = key
        && let Some(language) = settings.language().filter(|language| *language != "en").map(str::to_owned)
        && !step.operation.keys.iter().any(|key| {
            matches!(key.shape, Shape::Dictionary { .. } | Shape::Rows | Shape::File)
                && step.settings.has(key)
        })
    {
        match files.dictionary(&language) {
            Ok(found) => settings.values.push((key.name, Value::Dictionary(found.into()))),
            Err(label) => {
                let help = "install one, name its file as `dictionary`, or give a table of your own or a learned model";
                loading.tell(
                    format!("no dictionary for `{language}`"),
                    &step.span,
                    label.to_string(),
                    Some(help.to_owned()),
                );
            }
        }
    }
    settings
}

/// Reads what settings name.
struct Loading<'f> {
    files: &'f dyn WordLists,
    faults: &'f mut Vec<Fault>,
}

impl Loading<'_> {
    fn tell(&mut self, title: String, span: &Range<usize>, label: String, help: Option<String>) {
        self.faults.push(Fault { kind: FaultKind::File, title, span: span.clone(), label, help });
    }

    /// The value with every reference replaced by what it names; what cannot be had is told, and left out.
    fn load(&mut self, written: &Written) -> Option<Value> {
        Some(match written {
            Written::Value(value) => value.clone(),
            Written::Lists(named) => Value::Lists(named.iter().filter_map(|list| self.list(list)).collect()),
            Written::Pairs(named) => Value::Pairs(named.iter().filter_map(|list| self.pairs(list)).collect()),
            Written::Rows(named) => Value::Rows(named.iter().filter_map(|list| self.rows(list)).collect()),
            Written::File(named) => {
                let read = self.files.bytes(named);
                Value::File(self.had("file", named, read)?)
            }
            Written::Dictionary(named) => {
                let read = self.files.dictionary(&named.name);
                Value::Dictionary(self.had("dictionary", named, read)?.into())
            }
        })
    }

    /// What was read; none, and told, if it could not be.
    fn had<T>(&mut self, what: &str, named: &ListReference, read: Result<T, FileError>) -> Option<T> {
        read.map_err(|why| {
            self.tell(format!("no {what} `{}`", named.name), &named.span, why.to_string(), None);
        })
        .ok()
    }

    fn list(&mut self, named: &ListReference) -> Option<WordList> {
        let words = named_words(named, self.files)
            .map_err(|(label, help)| {
                self.tell(format!("no word list `{}`", named.name), &named.span, label, help);
            })
            .ok()?;
        Some(WordList { name: named.name.clone(), words })
    }

    fn pairs(&mut self, named: &ListReference) -> Option<PairList> {
        let shelf = if named.is_file() { None } else { words::pair_table(&named.name) };
        let read = shelf.map_or_else(|| self.files.pairs(named), Ok);
        let pairs = self.had("table of pairs", named, read)?;
        Some(PairList { name: named.name.clone(), pairs })
    }

    fn rows(&mut self, named: &ListReference) -> Option<RowList> {
        let read = self.files.rows(named);
        let rows = self.had("table", named, read)?;
        Some(RowList { name: named.name.clone(), rows })
    }
}

/// The words that a reference names, or what is wrong with it and what may help.
fn named_words(
    reference: &ListReference,
    files: &dyn WordLists,
) -> Result<Vec<String>, (String, Option<String>)> {
    if reference.is_file() {
        return files.words(reference).map_err(|why| (why.to_string(), None));
    }
    words::stop_list(&reference.name).ok_or_else(|| {
        let by_name =
            code_of_name(&reference.name).filter(|code| words::stop_list_names().any(|name| name == *code));
        let help = match by_name.or_else(|| nearest(&reference.name, words::stop_list_names())) {
            Some(name) => format!("did you mean `{name}`? A file is named with its ending, or as `./file`"),
            None => {
                let names: Vec<_> = words::stop_list_names().map(|name| format!("`{name}`")).collect();
                format!("on the shelf: {}. A file is named with its ending, or as `./file`", names.join(", "))
            }
        };
        ("no list on the shelf has this name".to_owned(), Some(help))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::NoFiles;
    use crate::recipe::read;

    #[test]
    fn steps_that_say_too_little_are_mistakes() {
        for (step, title) in [
            ("do = \"erase\"", "`erase` needs `classes`"),
            (
                "do = \"drop\"",
                "`drop` needs at least one of `kinds`, `tags`, `features`, `labels`, `lists`, `words`, `matches`, `dictionary_words`, `contains`, `shorter_than`, `longer_than`",
            ),
            ("do = \"stopwords\"", "`stopwords` needs at least one of `lists`, `add`, `share`, `top`"),
            ("do = \"split\"\nonly = { a = 1 }", "`split` has a condition"),
            ("do = \"stopwords\"\nlists = [\"en\", \"xx\"]", "no word list `xx`"),
        ] {
            let recipe = read(&format!("[[step]]\n{step}\n")).expect("read");
            let faults = Pipeline::compile(&recipe, &NoFiles).err().unwrap_or_default();
            assert_eq!(faults.iter().map(|fault| fault.title.as_str()).collect::<Vec<_>>(), [title]);
        }
    }

    #[test]
    fn the_value_that_does_not_serve_is_pointed_at() {
        for (step, value) in [
            ("do = \"documents\"\ncopies = \"near\"\nsimilarity = 0.1", "0.1"),
            ("do = \"phrases\"\nadd = [\"tern\"]", "[\"tern\"]"),
            ("do = \"drop\"\ntags = [\"verb\"]", "[\"verb\"]"),
            ("do = \"drop\"\nlabels = [\"place\"]", "[\"place\"]"),
            ("do = \"drop\"\nmatches = \"[\"", "\"[\""),
            ("do = \"ngrams\"\nsize = 2\nsmallest = 3", "3"),
            ("do = \"stem\"\nlanguage = \"tlh\"", "\"tlh\""),
            ("do = \"stem\"\nmethod = \"own\"", "\"own\""),
            ("do = \"replace\"\npattern = \"(\"", "\"(\""),
            ("do = \"replace\"\nfind = \"\"", "\"\""),
            ("do = \"mask\"\npatterns = { ticket = \"x*\" }", "{ ticket = \"x*\" }"),
            ("do = \"split\"\ninto = \"pattern\"", "\"pattern\""),
            ("do = \"equate\"\nwords = { tern = \"\" }", "{ tern = \"\" }"),
            ("do = \"tag\"\nlanguage = \"de\"", "\"de\""),
            // The language of the recipe stands elsewhere.
            ("do = \"tag\" # language", "\"tag\""),
        ] {
            let text = format!("language = \"fi\"\n[[step]]\n{step}\n");
            let faults = Pipeline::compile(&read(&text).expect("read"), &NoFiles).err().unwrap_or_default();
            let pointed: Vec<&str> = faults.iter().map(|fault| &text[fault.span.clone()]).collect();
            assert_eq!(pointed, [value], "{faults:?}");
        }
    }

    #[test]
    fn a_step_for_documents_of_one_language_works_in_that_language() {
        let recipe = "language = \"de\"\n[[step]]\ndo = \"contractions\"\nonly = { language = \"en\" }\n";
        let compiled = |text: &str| Pipeline::compile(&read(text).expect("read"), &NoFiles);
        assert!(compiled(recipe).is_ok());
        assert!(compiled(&recipe.replace("only", "label = \"x\" #")).is_err());
    }

    #[test]
    fn a_split_is_put_in_before_the_first_token_step() {
        let names = |recipe: &str| -> Vec<(usize, &'static str, Stage)> {
            let pipeline = testing::pipeline(recipe);
            pipeline.steps().iter().map(|step| (step.number, step.operation, step.stage)).collect()
        };
        use crate::testing;
        assert_eq!(
            names("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"case\"\n"),
            [
                (1, "case", Stage::Text),
                (2, "split", Stage::Split),
                (3, "stem", Stage::Token),
                (4, "case", Stage::Token)
            ]
        );
        assert_eq!(
            names("[[step]]\ndo = \"case\"\n"),
            [(1, "case", Stage::Text), (2, "split", Stage::Split)]
        );
        assert!(testing::pipeline("[[step]]\ndo = \"case\"\n").is_text_recipe());
    }
}
