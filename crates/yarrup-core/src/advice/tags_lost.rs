//! A tagger that reads sentences out of which words or full stops have been taken.

use crate::advice::samples::named;
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::TAGS_LOST;
use crate::run::TokenFate;
use crate::step::Role;

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

/// A tagger that reads sentences out of which words or full stops have been taken.
fn found(at: &Reviewed<'_>) -> Option<Advice> {
    const SAMPLE: &str = "The wardens were counting two nests. They left.";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.tokens.iter().find(|stage| at.plays(stage.step, Role::Tags))?;
    let trace = pipeline.trace_up_to(SAMPLE, pipeline.full_variant(), stage.step);
    let spoils = |fate: &TokenFate, form: &str| match fate {
        TokenFate::Dropped(_) | TokenFate::Joined(_) => true,
        TokenFate::Changed(to) => to.to_lowercase() != form.to_lowercase(),
        _ => false,
    };
    let text = trace.text_steps.iter().find(|step| !step.text.contains('.')).map(|step| step.step);
    let token = trace
        .token_steps
        .iter()
        .find(|step| step.tokens.iter().any(|(_, form, fate)| spoils(fate, form)))
        .map(|step| step.step);
    let culprit = text.or(token)?;
    let name = &steps[stage.step];
    let mut advice = at.advice(
        &TAGS_LOST,
        stage.step,
        format!("`{}` reads incomplete sentences", name.operation),
        "parts of speech depend on the words around them, and sentences on their full stops",
    );
    let left: Vec<&str> = trace.clean.split_whitespace().collect();
    advice.because = vec![format!("after {} `{SAMPLE}` is `{}`", named(culprit), left.join(" "))];
    let to = if text.is_some() {
        format!("move {} after {}", named(culprit), named(name))
    } else {
        format!("move {} before {}", named(name), named(culprit))
    };
    let to = if text.is_some() { format!("{to}, as `drop` with `kinds = [\"punctuation\"]`") } else { to };
    let change = text.is_none().then_some(Change::MoveBefore { step: name.number, before: culprit.number });
    advice.fixes = vec![Fix::change(to, change)];
    Some(advice)
}
