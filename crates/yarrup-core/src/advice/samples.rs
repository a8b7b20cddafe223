//! Sample texts on their way through the steps of a recipe.

use crate::pipeline::{Pipeline, StepName};

pub(super) fn named(name: &StepName) -> String {
    format!("step {} (`{}`)", name.number, name.operation)
}

/// The letters and digits of a text in small letters, words parted by single spaces: what two texts have in common that differ in marks.
pub(super) fn core_of(text: &str) -> String {
    let plain: String =
        text.to_lowercase().chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
    plain.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The index of the first step before `end` behind which `holds` is no longer true of the text.
pub(super) fn first_spoiler(
    pipeline: &Pipeline,
    text: &str,
    end: usize,
    holds: impl Fn(&str) -> bool,
) -> usize {
    (0..end).find(|&step| !holds(&text_before(pipeline, text, step + 1))).unwrap_or(end.saturating_sub(1))
}

/// What a text is before the text step with this index.
pub(super) fn text_before(pipeline: &Pipeline, text: &str, step: usize) -> String {
    let trace = pipeline.trace_up_to(text, pipeline.full_variant(), step);
    trace.text_steps.last().map_or_else(|| text.to_owned(), |step| step.text.clone())
}
