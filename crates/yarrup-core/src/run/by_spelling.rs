//! What is decided about spellings that the split gives: the case of their letters, and their fate behind the first steps.

use crate::pipeline::{Pipeline, TextStage, Variant};
use crate::run::cleaned::Outputs;
use crate::run::forms::{Fate, NONE};
use crate::run::intern::Interner;
use crate::run::ledger::FormTally;
use crate::run::passage::Passage;
use crate::run::split_forms::{Decide, Decision};
use crate::span::Span;

/// Decides about the spellings of documents of a variant.
pub(super) struct Deciding<'w, 'p> {
    pub(super) passage: &'w mut Passage<'p, FormTally>,
    pub(super) index: usize,
    pub(super) variant: Variant,
    /// The text step whose work is done spelling by spelling.
    pub(super) text_step: Option<&'p TextStage>,
}

impl Decide for Deciding<'_, '_> {
    fn decide(&mut self, spelling: &str) -> Decision {
        match self.text_step.map(|stage| stage.runs.recase(spelling)) {
            None => self.of_form(spelling, spelling, 0),
            Some(Some((form, letters))) => self.of_form(spelling, &form, letters),
            Some(None) => Decision { form: NONE, recased: 0, touched: 0, fate: None },
        }
    }

    fn decide_at(&mut self, text: &str, span: Span) -> Option<Decision> {
        let (form, letters) = self.text_step?.runs.recase_at(text, span.start as usize..span.end as usize)?;
        Some(self.of_form(span.of(text), &form, letters))
    }

    fn text(&self, form: u32) -> &str {
        self.passage.spellings.text(form)
    }
}

impl Deciding<'_, '_> {
    /// What becomes of a spelling that has this form, and so many other letters.
    fn of_form(&mut self, spelling: &str, form: &str, letters: u64) -> Decision {
        let recased = u32::try_from(letters).expect("a document has fewer letters");
        let form = self.passage.spellings.number(if recased > 0 { form } else { spelling });
        let (fate, touched) = self.passage.fate(self.index, self.variant, form);
        Decision { form, recased, touched, fate: Some(fate) }
    }
}

/// Notes spellings and decides nothing.
pub(super) struct Naming<'w>(pub(super) &'w mut Interner);

impl Decide for Naming<'_> {
    fn decide(&mut self, spelling: &str) -> Decision {
        let form = self.0.number(spelling);
        Decision { form, recased: 0, touched: 0, fate: Some(Fate::Kept { to: form }) }
    }

    fn text(&self, form: u32) -> &str {
        self.0.text(form)
    }
}

/// The last text step, if all that it does is change the case of letters, token by token and whatever stands around them.
pub(super) fn recases(pipeline: &Pipeline) -> Option<usize> {
    let (last, before) = pipeline.text.split_last()?;
    let leaves = |text: &String| last.runs.recase(text).is_some_and(|(_, letters)| letters == 0);
    let leaves_placeholders =
        before.iter().flat_map(|stage| stage.runs.placeholders()).all(|text| leaves(&text));
    (last.runs.recases_alone() && last.spares_nothing() && leaves_placeholders).then_some(before.len())
}

/// Whether the text need not be rewritten by a step that changes the case of letters: it is split alike, all letters are in tokens, and nobody asks
/// for the text that the step would leave.
pub(super) fn defers(pipeline: &Pipeline, outputs: Outputs) -> bool {
    let splitter = &pipeline.splitter;
    let needs_text =
        outputs != Outputs::default() && (pipeline.is_text_recipe() || splitter.sentences().is_some());
    splitter.ignores_case() && splitter.covers_letters() && !needs_text
}
