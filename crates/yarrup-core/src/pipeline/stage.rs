//! The steps of a compiled recipe in their places.

use std::sync::Arc;

use crate::pipeline::Variant;
use crate::step::{
    DocumentStep, Facts, Form, Mark, Matches, Outcome, Place, SequenceStep, Spare, Text, TextStep, TokenStep,
};

/// A text step in its place.
#[derive(Clone)]
pub(crate) struct TextStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) runs: Arc<dyn TextStep>,
    pub(crate) spare: Spare,
    pub(crate) condition: Option<usize>,
}

/// A step behind the split in its place.
#[derive(Clone)]
pub(crate) struct TokenStage {
    /// The index of the step's name.
    pub(crate) step: usize,
    pub(crate) work: TokenWork,
    pub(crate) spare: Spare,
    pub(crate) condition: Option<usize>,
}

/// What a step behind the split decides by.
#[derive(Clone)]
pub(crate) enum TokenWork {
    /// By each form alone.
    Form(Arc<dyn TokenStep>),
    /// By each form alone, but what is spared depends on the tokens around it.
    FormInOrder(Arc<dyn TokenStep>),
    /// By the tokens of a document in their order.
    Sequence(Arc<dyn SequenceStep>),
    /// By the document as a whole.
    Document(Arc<dyn DocumentStep>),
}

impl TextStage {
    /// Whether the step works on documents of this variant.
    pub(crate) fn works_on(&self, variant: Variant) -> bool {
        variant.meets(self.condition)
    }

    /// Whether there is nothing that the step must leave alone.
    pub(crate) fn spares_nothing(&self) -> bool {
        self.spare.is_empty() && !self.spare.has_runs()
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

    /// What the step tells of itself.
    pub(crate) fn facts(&self) -> &dyn Facts {
        match &self.work {
            TokenWork::Form(step) | TokenWork::FormInOrder(step) => step.as_ref(),
            TokenWork::Sequence(step) => step.as_ref(),
            TokenWork::Document(step) => step.as_ref(),
        }
    }

    /// What becomes of a form in documents of this variant. A step that does not go by the form leaves it as it is.
    pub(crate) fn apply(&self, form: &Form<'_>, variant: Variant) -> Outcome {
        match &self.work {
            TokenWork::Form(step) if self.works_on(variant) && !self.spares_token(form.text, form.mark) => {
                step.apply(form)
            }
            _ => Outcome::Keep,
        }
    }

    /// Whether the step must leave a token alone.
    pub(crate) fn spares_token(&self, token: &str, mark: Mark) -> bool {
        !self.spare.is_empty() && (self.spare.has_token(token) || self.spare.has_mark(mark))
    }

    /// Whether the step must leave any token alone.
    pub(crate) fn spares_any(&self) -> bool {
        !self.spare.is_empty() || self.spare.has_runs()
    }

    /// Marks the tokens as spared that the step must leave alone for what stands around them.
    pub(crate) fn spare_runs(&self, tokens: &mut [Place<'_>]) {
        self.spare.spare_runs(tokens);
    }

    /// Whether the step must leave a token alone by its spelling.
    pub(crate) fn spares(&self, token: &str) -> bool {
        self.spare.has_token(token)
    }
}
