//! A compiled recipe: what runs on one document.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::sync::Arc;

use crate::kind::Kind;
use crate::language::language_of;
use crate::lemma::DictionaryFiles;
use crate::part_of_speech::Tag;
use crate::recipe::{Condition, Fault, Recipe, SpareList, Step, nearest};
use crate::split::{Splitter, Whole};
use crate::step::{
    Built, Form, ListReference, Mark, Matches, Outcome, PairList, RowList, SequenceStep, Setting, Settings,
    Shape, Spare, Stage, Text, TextStep, TokenStep, WordList,
};
use crate::steps::operation;
use crate::words;

/// Reads the word lists that a recipe names by file.
pub trait WordLists {
    /// The words of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, String>;

    /// The pairs of the table that `reference` names: texts, each with what is put in its place.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn pairs(&self, reference: &ListReference) -> Result<Vec<(String, String)>, String> {
        Err(format!("tables of pairs cannot be read here, and `{}` is one", reference.name))
    }

    /// The rows of the table that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn rows(&self, reference: &ListReference) -> Result<Vec<Vec<String>>, String> {
        Err(format!("tables cannot be read here, and `{}` is one", reference.name))
    }

    /// The bytes of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn bytes(&self, reference: &ListReference) -> Result<Vec<u8>, String> {
        Err(format!("files cannot be read here, and `{}` is one", reference.name))
    }

    /// The two files of the dictionary in Hunspell's format with this name (`de_DE`), of this language (`de`), or at this path.
    ///
    /// # Errors
    ///
    /// One sentence that says why there is none.
    fn dictionary(&self, name: &str) -> Result<DictionaryFiles, String> {
        Err(format!("dictionaries cannot be read here, and `{name}` is one"))
    }
}

/// Knows the fields of a document, for steps that work on some documents only.
pub trait Fields {
    /// The value of the field at this path, as text. None if there is no such field.
    fn field(&self, path: &str) -> Option<Cow<'_, str>>;
}

/// A document without fields.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoFields;

impl Fields for NoFields {
    fn field(&self, _path: &str) -> Option<Cow<'_, str>> {
        None
    }
}

/// Which conditions of a recipe hold for a document, a bit for each. Documents of the same variant meet the same steps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Variant(u64);

/// How reports name a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StepName {
    /// The step's place in the recipe, from 1.
    pub number: usize,
    /// Its operation.
    pub operation: &'static str,
    /// Its label, if it has one.
    pub label: Option<String>,
    /// Where it works.
    pub stage: Stage,
    /// Whether it does not stand in the recipe but was put in.
    pub put_in: bool,
}

#[derive(Clone)]
pub(crate) struct TextStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) runs: Arc<dyn TextStep>,
    spare: Spare,
    condition: Option<usize>,
}

#[derive(Clone)]
pub(crate) struct TokenStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) runs: Arc<dyn TokenStep>,
    spare: Spare,
    condition: Option<usize>,
}

impl Variant {
    fn meets(self, condition: Option<usize>) -> bool {
        condition.is_none_or(|bit| self.0 >> bit & 1 == 1)
    }
}

impl TextStage {
    /// Whether the step works on documents of this variant.
    pub(crate) fn works_on(&self, variant: Variant) -> bool {
        variant.meets(self.condition)
    }

    /// Whether the step changes anything in `text`.
    pub(crate) fn matches(&self, text: &str) -> bool {
        self.applied(text) != text
    }

    /// What the step alone makes of `text`.
    pub(crate) fn applied(&self, text: &str) -> String {
        let mut rewritten = Text::new(false);
        rewritten.begin();
        self.apply(&mut rewritten, text, &mut Matches::default());
        rewritten.as_str(text).to_owned()
    }

    /// Lets the step rewrite the text; returns how many places it changed.
    pub(crate) fn apply(&self, text: &mut Text, original: &str, matched: &mut Matches) -> u64 {
        text.apply(original, self.runs.as_ref(), &self.spare, matched)
    }
}

impl TokenStage {
    /// Whether the step works on documents of this variant.
    pub(crate) fn works_on(&self, variant: Variant) -> bool {
        variant.meets(self.condition)
    }

    /// What becomes of a form in documents of this variant.
    pub(crate) fn apply(&self, form: &Form<'_>, variant: Variant) -> Outcome {
        if !self.works_on(variant) || self.spares_token(form.text, form.kind, form.mark) {
            return Outcome::Keep;
        }
        self.runs.apply(form)
    }

    /// What works on tokens in their order, if the step is of that sort.
    pub(crate) fn sequence(&self) -> Option<&dyn SequenceStep> {
        self.runs.sequence()
    }

    /// Whether the step must leave anything alone.
    pub(crate) fn has_spare(&self) -> bool {
        !self.spare.is_empty()
    }

    pub(crate) fn spares_token(&self, token: &str, kind: Kind, mark: Mark) -> bool {
        !self.spare.is_empty() && (self.spare.has_token(token, kind) || self.spare.has_tag(mark.tag()))
    }

    pub(crate) fn spares(&self, token: &str) -> bool {
        self.spare.has_token(token, Kind::of(token))
    }
}

/// A compiled recipe: every word list is read, every step is built. Immutable, and shared by all workers.
pub struct Pipeline {
    pub(crate) text: Vec<TextStage>,
    pub(crate) splitter: Arc<dyn Splitter>,
    /// The index of the split's name.
    pub(crate) split: usize,
    pub(crate) tokens: Vec<TokenStage>,
    steps: Vec<StepName>,
    conditions: Vec<Condition>,
    labels: Vec<String>,
    is_text_recipe: bool,
}

impl Pipeline {
    /// Compiles `recipe`, reading its word lists from `files`.
    ///
    /// # Errors
    ///
    /// Every list that cannot be had and every step whose settings do not fit together.
    pub fn compile(recipe: &Recipe, files: &dyn WordLists) -> Result<Pipeline, Vec<Fault>> {
        let is_text_recipe =
            recipe.steps.iter().all(|step| matches!(step.operation.stage, Stage::Text | Stage::TextOrToken));
        let mut written: Vec<Cow<'_, Step>> = recipe.steps.iter().map(Cow::Borrowed).collect();
        let has_split = recipe.steps.iter().any(|step| step.operation.stage == Stage::Split);
        if !has_split {
            let first = written.iter().position(|step| step.operation.stage == Stage::Token);
            let step = Step {
                operation: operation("split").expect("`split` is among the operations"),
                label: None,
                spare: SpareList::default(),
                only: None,
                allow: Vec::new(),
                included: None,
                settings: Settings::default(),
                span: 0..0,
            };
            written.insert(first.unwrap_or(written.len()), Cow::Owned(step));
        }
        let mut faults = Vec::new();
        // What one text step puts in, no later one takes apart, nor does the split.
        let mut placeholders: Vec<String> = Vec::new();
        let mut labels: Vec<String> = Vec::new();
        let (mut text, mut splitter, mut tokens) = (Vec::new(), None, Vec::new());
        let (mut steps, mut conditions, mut known) = (Vec::new(), Vec::new(), BTreeMap::new());
        for (index, step) in written.iter().enumerate() {
            let known_faults = faults.len();
            let mut settings = with_lists(step, recipe, files, &mut faults);
            settings.labels.clone_from(&labels);
            settings.tagged = written[..index].iter().any(|earlier| earlier.operation.name == "tag");
            settings.spared = recipe.spare.words.iter().chain(&step.spare.words).cloned().collect();
            let built = match (step.operation.build)(&settings) {
                Ok(built) => built,
                Err(title) => {
                    // A list that could not be read makes a step look empty: one fault is enough.
                    if faults.len() == known_faults {
                        let label = "cannot be done as it is set".to_owned();
                        faults.push(Fault { title, span: step.span.clone(), label, help: None });
                    }
                    continue;
                }
            };
            if let Some(label) = match &built {
                Built::Token(runs) => runs.gives_label(),
                _ => None,
            } && !labels.iter().any(|known| known == label)
            {
                labels.push(label.to_owned());
            }
            let condition = step.only.as_ref().map(|condition| {
                *known.entry(condition.clone()).or_insert_with(|| {
                    conditions.push(condition.clone());
                    conditions.len() - 1
                })
            });
            // Placeholders are protected from what rewrites, not from what drops them by their kind.
            let rewrites = !matches!(built, Built::Token(_));
            let protected: &[String] = if rewrites { &placeholders } else { &[] };
            let spare = spare_of(&[&recipe.spare, &step.spare], protected);
            let stage = match built {
                Built::Split(runs) => {
                    if condition.is_some() {
                        faults.push(Fault {
                            title: "`split` has a condition".into(),
                            span: step.span.clone(),
                            label: "every document must be split".into(),
                            help: Some("take `only` out".into()),
                        });
                    }
                    let runs =
                        if placeholders.is_empty() { runs } else { Whole::around(runs, &placeholders) };
                    splitter = Some((index, Arc::from(runs)));
                    Stage::Split
                }
                Built::TextOrToken(runs, _) if splitter.is_none() => {
                    placeholders.extend(runs.placeholders());
                    text.push(TextStage { step: index, runs: runs.into(), spare, condition });
                    Stage::Text
                }
                Built::Text(runs) => {
                    placeholders.extend(runs.placeholders());
                    text.push(TextStage { step: index, runs: runs.into(), spare, condition });
                    Stage::Text
                }
                Built::Token(runs) | Built::TextOrToken(_, runs) => {
                    tokens.push(TokenStage { step: index, runs: runs.into(), spare, condition });
                    Stage::Token
                }
            };
            steps.push(StepName {
                number: index + 1,
                operation: step.operation.name,
                label: step.label.clone(),
                stage,
                put_in: step.span.is_empty(),
            });
        }
        match splitter {
            Some((split, splitter)) if faults.is_empty() => {
                Ok(Pipeline { text, splitter, split, tokens, steps, conditions, labels, is_text_recipe })
            }
            _ => Err(faults),
        }
    }

    /// The steps, in order, with the `split` that was put in if the recipe has none.
    pub fn steps(&self) -> &[StepName] {
        &self.steps
    }

    /// The labels that steps give, in the order of their bits.
    pub fn labels(&self) -> &[String] {
        &self.labels
    }

    /// Whether some step gives tokens their parts of speech.
    pub fn tags(&self) -> bool {
        self.steps.iter().any(|step| step.operation == "tag")
    }

    /// The same pipeline without the token steps from the one with this index on.
    pub(crate) fn before(&self, token_step: usize) -> Pipeline {
        let end = self.tokens.get(token_step).map_or(self.steps.len(), |stage| stage.step);
        Pipeline {
            text: self.text.clone(),
            splitter: self.splitter.clone(),
            split: self.split,
            tokens: self.tokens[..token_step].to_vec(),
            steps: self.steps[..end].to_vec(),
            conditions: self.conditions.clone(),
            labels: self.labels.clone(),
            is_text_recipe: false,
        }
    }

    /// Whether some step leaves lemmas.
    pub(crate) fn gives_lemmas(&self) -> bool {
        self.tokens.iter().any(|stage| stage.runs.gives_lemmas())
    }

    /// The pipeline's segments: runs of token steps that decide form by form, with steps between them that look at tokens in their
    /// order. A pipeline without such a step has one segment.
    pub(crate) fn segments(&self) -> Vec<std::ops::Range<usize>> {
        let mut segments = Vec::new();
        let mut start = 0;
        for (index, stage) in self.tokens.iter().enumerate() {
            if stage.sequence().is_some() {
                segments.push(start..index);
                start = index + 1;
            }
        }
        segments.push(start..self.tokens.len());
        segments
    }

    /// Whether the recipe has text steps alone, so that its cleaned text is the rewritten text itself and words are
    /// split only for the counts.
    pub fn is_text_recipe(&self) -> bool {
        self.is_text_recipe
    }

    /// The variant of a document with this text and these fields. A condition on the field `language` goes by the language of the text
    /// where the document has no such field.
    pub fn variant(&self, text: &str, fields: &dyn Fields) -> Variant {
        let mut detected = None;
        let mut holds = |condition: &Condition| {
            condition.fields.iter().all(|(path, values)| match fields.field(path) {
                Some(value) if path == "language" => {
                    values.iter().any(|allowed| is_language(&value, allowed))
                }
                Some(value) => values.iter().any(|allowed| *allowed == value),
                None if path == "language" => {
                    let found = *detected.get_or_insert_with(|| language_of(text));
                    found.is_some_and(|found| values.iter().any(|allowed| is_language(found, allowed)))
                }
                None => false,
            })
        };
        let bits = self.conditions.iter().enumerate().filter(|(_, condition)| holds(condition));
        Variant(bits.fold(0, |mask, (bit, _)| mask | 1 << bit))
    }

    /// The variant of a document for which every condition holds.
    pub fn full_variant(&self) -> Variant {
        Variant((0..self.conditions.len()).fold(0, |mask, bit| mask | 1 << bit))
    }
}

/// Whether a document in this language is meant by a condition: `de-AT` and `de` are one language where one of them is all that is said.
fn is_language(language: &str, allowed: &str) -> bool {
    let primary = |tag: &str| tag.split(['-', '_']).next().unwrap_or(tag).to_ascii_lowercase();
    language.eq_ignore_ascii_case(allowed)
        || (primary(language) == primary(allowed)
            && !(language.contains(['-', '_']) && allowed.contains(['-', '_'])))
}

fn spare_of(lists: &[&SpareList], placeholders: &[String]) -> Spare {
    let words = lists.iter().flat_map(|list| &list.words).chain(placeholders).cloned().collect();
    let kinds =
        lists.iter().flat_map(|list| list.kinds.iter().filter_map(|name| Kind::named(name))).collect();
    let tags = lists.iter().flat_map(|list| list.tags.iter().filter_map(|name| Tag::named(name))).collect();
    Spare::new(words, kinds).with_tags(tags)
}

/// The settings with every reference to a file or a list replaced by what it holds.
fn with_lists(step: &Step, recipe: &Recipe, files: &dyn WordLists, faults: &mut Vec<Fault>) -> Settings {
    // A step that works on documents of one language works in that language.
    let of_its_documents =
        step.only.as_ref().and_then(|only| match only.fields.get("language")?.as_slice() {
            [language] => Some(language),
            _ => None,
        });
    let mut settings =
        Settings { language: of_its_documents.or(recipe.language.as_ref()).cloned(), ..Settings::default() };
    let mut tell = |title: String, span: &std::ops::Range<usize>, label: String, help: Option<String>| {
        faults.push(Fault { title, span: span.clone(), label, help });
    };
    for (key, value) in &step.settings.values {
        let read = match value {
            Setting::References(references) => Setting::Lists(
                references
                    .iter()
                    .filter_map(|reference| {
                        let words = named_words(reference, files)
                            .map_err(|(label, help)| {
                                tell(
                                    format!("no word list `{}`", reference.name),
                                    &reference.span,
                                    label,
                                    help,
                                );
                            })
                            .ok()?;
                        Some(WordList { name: reference.name.clone(), words })
                    })
                    .collect(),
            ),
            Setting::PairReferences(references) => Setting::Pairs(
                references
                    .iter()
                    .filter_map(|reference| {
                        let shelf =
                            if reference.is_file() { None } else { words::pair_table(&reference.name) };
                        let pairs = shelf
                            .map_or_else(|| files.pairs(reference), Ok)
                            .map_err(|label| {
                                let title = format!("no table of pairs `{}`", reference.name);
                                tell(title, &reference.span, label, None);
                            })
                            .ok()?;
                        Some(PairList { name: reference.name.clone(), pairs })
                    })
                    .collect(),
            ),
            Setting::RowReferences(references) => Setting::Rows(
                references
                    .iter()
                    .filter_map(|reference| {
                        let rows = files
                            .rows(reference)
                            .map_err(|label| {
                                tell(format!("no table `{}`", reference.name), &reference.span, label, None);
                            })
                            .ok()?;
                        Some(RowList { name: reference.name.clone(), rows })
                    })
                    .collect(),
            ),
            Setting::FileReference(reference) => match files.bytes(reference) {
                Ok(bytes) => Setting::File(bytes),
                Err(label) => {
                    tell(format!("no file `{}`", reference.name), &reference.span, label, None);
                    continue;
                }
            },
            Setting::DictionaryReference(reference) => match files.dictionary(&reference.name) {
                Ok(found) => Setting::Dictionary(found.into()),
                Err(label) => {
                    tell(format!("no dictionary `{}`", reference.name), &reference.span, label, None);
                    continue;
                }
            },
            other => other.clone(),
        };
        settings.values.push((key, read));
    }
    // A step that can use a dictionary and names no source of its own takes that of its language.
    let key = step.operation.keys.iter().find(|key| key.shape == Shape::Dictionary { of_language: true });
    if let Some(key) = key
        && let Some(language) = settings.language().filter(|language| *language != "en").map(str::to_owned)
        && !step.operation.keys.iter().any(|key| {
            matches!(key.shape, Shape::Dictionary { .. } | Shape::Rows | Shape::File)
                && step.settings.has(key.name)
        })
    {
        match files.dictionary(&language) {
            Ok(found) => settings.values.push((key.name, Setting::Dictionary(found.into()))),
            Err(label) => {
                let help = "install one, name its file as `dictionary`, or give a table of your own or a learned model";
                tell(format!("no dictionary for `{language}`"), &step.span, label, Some(help.to_owned()));
            }
        }
    }
    settings
}

/// The words that a reference names, or what is wrong with it and what may help.
fn named_words(
    reference: &ListReference,
    files: &dyn WordLists,
) -> Result<Vec<String>, (String, Option<String>)> {
    if reference.is_file() {
        return files.words(reference).map_err(|why| (why, None));
    }
    words::stop_list(&reference.name).ok_or_else(|| {
        let help = match nearest(&reference.name, words::stop_list_names()) {
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
    use crate::recipe::read;
    use crate::testing::NoFiles;

    #[test]
    fn steps_that_say_too_little_are_mistakes() {
        for (step, title) in [
            ("do = \"erase\"", "`erase` needs `classes`"),
            (
                "do = \"drop\"",
                "`drop` needs at least one of `kinds`, `tags`, `labels`, `lists`, `words`, `matches`, `dictionary_words`, `contains`, `shorter_than`, `longer_than`",
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
