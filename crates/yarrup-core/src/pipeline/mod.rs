//! A compiled recipe: what runs on one document.

mod condition;
mod files;
mod stage;

use std::collections::HashSet;
use std::sync::Arc;

pub use condition::Variant;
pub use files::{NoFiles, WordLists};
pub(crate) use stage::{TextStage, TokenStage, TokenWork};

use crate::split::Splitter;
use crate::step::{Condition, Copies, Facts, Operation, Role, Stage};

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

/// A compiled recipe: every word list is read, every step is built. Immutable, and shared by all workers.
#[derive(Clone)]
pub struct Pipeline {
    pub(crate) text: Vec<TextStage>,
    pub(crate) splitter: Arc<dyn Splitter>,
    /// The index of the split's name.
    pub(crate) split: usize,
    pub(crate) tokens: Vec<TokenStage>,
    pub(crate) steps: Vec<StepName>,
    pub(crate) operations: Vec<&'static Operation>,
    pub(crate) conditions: Vec<Condition>,
    pub(crate) labels: Vec<String>,
    pub(crate) is_text_recipe: bool,
}

impl Pipeline {
    /// The steps, in order, with the `split` that was put in if the recipe has none.
    pub fn steps(&self) -> &[StepName] {
        &self.steps
    }

    /// What each step can do, in the order of [`Pipeline::steps`].
    pub fn operations(&self) -> &[&'static Operation] {
        &self.operations
    }

    /// What the step with this index tells of itself; nothing of the split.
    pub(crate) fn facts(&self, index: usize) -> Option<&dyn Facts> {
        let text = self.text.iter().find(|stage| stage.step == index);
        let token = self.tokens.iter().find(|stage| stage.step == index);
        text.map(|stage| stage.runs.as_ref() as &dyn Facts).or(token.map(|stage| stage.facts()))
    }

    /// The labels that steps give, in the order of their bits.
    pub fn labels(&self) -> &[String] {
        &self.labels
    }

    /// Whether some step gives tokens their parts of speech.
    pub fn tags(&self) -> bool {
        self.operations.iter().any(|operation| operation.plays(Role::Tags))
    }

    /// Whether the recipe has text steps alone, so that its cleaned text is the rewritten text itself and words are
    /// split only for the counts.
    pub fn is_text_recipe(&self) -> bool {
        self.is_text_recipe
    }

    /// Whether the recipe makes terms of single words.
    pub fn makes_words(&self) -> bool {
        !self.is_text_recipe && self.splitter.parts_words()
    }

    /// Whether the terms of a document can be told from its cleaned text: none of them holds white space.
    pub fn clean_tells_terms(&self) -> bool {
        self.splitter.parts_words()
    }

    /// The terms of a document, in order, by its cleaned text: see [`Pipeline::clean_tells_terms`].
    pub fn terms_of_clean<'c>(&self, clean: &'c str, terms: &mut Vec<&'c str>) {
        if self.is_text_recipe {
            let mut spans = Vec::new();
            self.splitter.split(clean, &mut spans);
            terms.extend(spans.iter().map(|span| span.of(clean)));
        } else {
            let ends = memchr::memchr2_iter(b' ', b'\n', clean.as_bytes()).chain([clean.len()]);
            let mut start = 0;
            for end in ends {
                if start < end {
                    terms.push(&clean[start..end]);
                }
                start = end + 1;
            }
        }
    }

    /// The conditions on fields that its steps ask of documents, each with the number of a step that asks: those of `only`, and those of steps
    /// that decide about documents.
    pub fn conditions(&self) -> Vec<(usize, &Condition)> {
        let number = |step: usize| self.steps[step].number;
        let texts = self.text.iter().map(|stage| (stage.step, stage.condition));
        let tokens = self.tokens.iter().map(|stage| (stage.step, stage.condition));
        let only =
            texts.chain(tokens).filter_map(|(step, at)| Some((number(step), self.conditions.get(at?)?)));
        let own = self.tokens.iter().flat_map(|stage| {
            stage.facts().conditions().into_iter().map(move |condition| (number(stage.step), condition))
        });
        only.chain(own).collect()
    }

    /// Whether some step leads words back to their lemmas.
    pub fn gives_lemmas(&self) -> bool {
        self.tokens.iter().any(|stage| stage.facts().gives_lemmas())
    }

    /// The last of the first so many token steps that does not decide form by form, by its index.
    pub(crate) fn last_part_within(&self, steps: usize) -> Option<usize> {
        let decides = |stage: &TokenStage| matches!(stage.work, TokenWork::Form(_));
        self.tokens.iter().take(steps).rposition(|stage| !decides(stage))
    }

    /// What stands in the place of white space that a step puts into a token, so that terms can be told apart in the cleaned text: the sign of
    /// the first step that joins words.
    pub(crate) fn join_sign(&self) -> &str {
        let mut signs = self.tokens.iter().filter_map(|stage| stage.facts().join_sign());
        signs.find(|sign| !sign.is_empty()).unwrap_or("_")
    }

    /// The same pipeline, in which the step at this place of the recipe knows which documents are copies of others.
    pub fn knowing(mut self, step: usize, copies: &Arc<Copies>) -> Pipeline {
        let steps = &self.steps;
        for stage in self.tokens.iter_mut().filter(|stage| steps[stage.step].number == step) {
            if let TokenWork::Document(work) = &stage.work
                && let Some(knowing) = work.knowing(Arc::clone(copies))
            {
                stage.work = TokenWork::Document(knowing);
            }
        }
        self
    }

    /// The places of all documents that some step knows to be repeated by others.
    pub fn originals(&self) -> HashSet<u64> {
        let known = self.tokens.iter().filter_map(|stage| match &stage.work {
            TokenWork::Document(work) => work.copies(),
            _ => None,
        });
        known.flat_map(Copies::originals).collect()
    }

    /// The place of the document that the one at this place repeats, as the step at this place of the recipe knows it.
    pub fn original(&self, step: usize, order: u64) -> Option<u64> {
        let stage = self.tokens.iter().find(|stage| self.steps[stage.step].number == step)?;
        match &stage.work {
            TokenWork::Document(work) => work.copies()?.original(order).map(|(original, _)| original),
            _ => None,
        }
    }

    /// The reason with this number why the step at this place drops, in words. Empty for a step that does not drop.
    pub fn reason(&self, step: usize, reason: u16) -> String {
        let stage = self.tokens.iter().find(|stage| self.steps[stage.step].number == step);
        stage.map(|stage| stage.facts().reason(reason)).unwrap_or_default()
    }
}
