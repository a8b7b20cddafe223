//! A compiled recipe: what runs on one document.

use std::borrow::Cow;
use std::collections::BTreeMap;

use crate::recipe::{
    Built, Condition, Fault, ListReference, PairList, Recipe, Settings, SpareList, Stage, Step, WordList,
    operation,
};
use crate::recipe::{nearest, setting_lists};
use crate::split::{Kind, Splitter, Whole};
use crate::text::{Matches, Spare, Text, TextStep};
use crate::token::{Form, Outcome, TokenStep};
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

pub(crate) struct TextStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) runs: Box<dyn TextStep>,
    spare: Spare,
    condition: Option<usize>,
}

pub(crate) struct TokenStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) runs: Box<dyn TokenStep>,
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
        if !self.works_on(variant) || self.spare.has_token(form.text, form.kind) {
            return Outcome::Keep;
        }
        self.runs.apply(form)
    }

    pub(crate) fn spares(&self, token: &str) -> bool {
        self.spare.has_token(token, Kind::of(token))
    }
}

/// A compiled recipe: every word list is read, every step is built. Immutable, and shared by all workers.
pub struct Pipeline {
    pub(crate) text: Vec<TextStage>,
    pub(crate) splitter: Box<dyn Splitter>,
    /// The index of the split's name.
    pub(crate) split: usize,
    pub(crate) tokens: Vec<TokenStage>,
    steps: Vec<StepName>,
    conditions: Vec<Condition>,
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
        let (mut text, mut splitter, mut tokens) = (Vec::new(), None, Vec::new());
        let (mut steps, mut conditions, mut known) = (Vec::new(), Vec::new(), BTreeMap::new());
        for (index, step) in written.iter().enumerate() {
            let known_faults = faults.len();
            let mut settings = with_lists(&step.settings, files, &mut faults);
            // A step that works on documents of one language works in that language.
            let of_its_documents =
                step.only.as_ref().and_then(|only| match only.fields.get("language")?.as_slice() {
                    [language] => Some(language),
                    _ => None,
                });
            settings.language = of_its_documents.or(recipe.language.as_ref()).cloned();
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
                    splitter = Some((index, runs));
                    Stage::Split
                }
                Built::TextOrToken(runs, _) if splitter.is_none() => {
                    placeholders.extend(runs.placeholders());
                    text.push(TextStage { step: index, runs, spare, condition });
                    Stage::Text
                }
                Built::Text(runs) => {
                    placeholders.extend(runs.placeholders());
                    text.push(TextStage { step: index, runs, spare, condition });
                    Stage::Text
                }
                Built::Token(runs) | Built::TextOrToken(_, runs) => {
                    tokens.push(TokenStage { step: index, runs, spare, condition });
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
                Ok(Pipeline { text, splitter, split, tokens, steps, conditions, is_text_recipe })
            }
            _ => Err(faults),
        }
    }

    /// The steps, in order, with the `split` that was put in if the recipe has none.
    pub fn steps(&self) -> &[StepName] {
        &self.steps
    }

    /// Whether the recipe has text steps alone, so that its cleaned text is the rewritten text itself and words are
    /// split only for the counts.
    pub fn is_text_recipe(&self) -> bool {
        self.is_text_recipe
    }

    /// The variant of a document with these fields.
    pub fn variant(&self, fields: &dyn Fields) -> Variant {
        let holds = |condition: &Condition| {
            condition.fields.iter().all(|(path, values)| {
                fields.field(path).is_some_and(|value| values.iter().any(|allowed| *allowed == value))
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

fn spare_of(lists: &[&SpareList], placeholders: &[String]) -> Spare {
    let words = lists.iter().flat_map(|list| &list.words).chain(placeholders).cloned().collect();
    let kinds =
        lists.iter().flat_map(|list| list.kinds.iter().filter_map(|name| Kind::named(name))).collect();
    Spare::new(words, kinds)
}

/// The settings with every reference to a word list replaced by its words.
fn with_lists(settings: &Settings, files: &dyn WordLists, faults: &mut Vec<Fault>) -> Settings {
    // A list that cannot be had is told where it is named.
    let faults = std::cell::RefCell::new(faults);
    let words = |reference: &ListReference| {
        let found = if reference.is_file() {
            files.words(reference).map_err(|why| (why, None))
        } else {
            words::stop_list(&reference.name).ok_or_else(|| {
                let help = match nearest(&reference.name, words::stop_list_names()) {
                    Some(name) => {
                        format!("did you mean `{name}`? A file is named with its ending, or as `./file`")
                    }
                    None => {
                        let names: Vec<_> =
                            words::stop_list_names().map(|name| format!("`{name}`")).collect();
                        format!(
                            "on the shelf: {}. A file is named with its ending, or as `./file`",
                            names.join(", ")
                        )
                    }
                };
                ("no list on the shelf has this name".to_owned(), Some(help))
            })
        };
        match found {
            Ok(words) => Some(WordList { name: reference.name.clone(), words }),
            Err((label, help)) => {
                let title = format!("no word list `{}`", reference.name);
                faults.borrow_mut().push(Fault { title, span: reference.span.clone(), label, help });
                None
            }
        }
    };
    let pairs = |reference: &ListReference| match files.pairs(reference) {
        Ok(pairs) => Some(PairList { name: reference.name.clone(), pairs }),
        Err(label) => {
            let title = format!("no table of pairs `{}`", reference.name);
            faults.borrow_mut().push(Fault { title, span: reference.span.clone(), label, help: None });
            None
        }
    };
    setting_lists(settings, words, pairs)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::{read, testing::NoFiles};

    #[test]
    fn steps_that_say_too_little_are_mistakes() {
        for (step, title) in [
            ("do = \"erase\"", "`erase` needs `classes`"),
            (
                "do = \"drop\"",
                "`drop` needs at least one of `kinds`, `contains`, `shorter_than`, `longer_than`",
            ),
            ("do = \"stopwords\"", "`stopwords` needs `lists`, `add`, or both"),
            ("do = \"split\"\nonly = { a = 1 }", "`split` has a condition"),
            ("do = \"stopwords\"\nlists = [\"en\", \"fr\"]", "no word list `fr`"),
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
        use crate::recipe::testing;
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
