//! German lemmas of words whose letters were made small.

use crate::advice::samples::named;
use crate::advice::{Advice, Fix, Reviewed};
use crate::recipe::codes::CAPITALS_LOST;
use crate::step::Role;

/// A German noun with its capital: lists and lemmatisers leave it alone here.
const SAMPLE: &str = "Zwergseeschwalbenkolonie";

/// A step that makes letters small before one that gives German lemmas. Only the capital tells `Abschnitt` from a form of `abschneiden`.
pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    at.recipe.language.as_deref().filter(|tag| tag.split('-').next() == Some("de"))?;
    let stage = pipeline.tokens.iter().find(|stage| stage.facts().gives_lemmas())?;
    let recases = |index: &usize| {
        let small = || pipeline.trace_up_to(SAMPLE, pipeline.full_variant(), index + 1).clean;
        at.plays(*index, Role::Recases) && small() == SAMPLE.to_lowercase()
    };
    let culprit = (0..stage.step).find(recases)?;
    let name = &pipeline.steps()[stage.step];
    let what = format!("`{}` reads German words without their capitals", name.operation);
    let mut advice = at.advice(
        &CAPITALS_LOST,
        stage.step,
        what,
        "German nouns have capitals: without them `abschnitt` is a form of `abschneiden`, and many plurals are not found",
    );
    advice.because = vec![format!("{} makes letters small before it", named(&pipeline.steps()[culprit]))];
    advice.fixes =
        vec![Fix::by_hand(format!("move {} after {}", named(&pipeline.steps()[culprit]), named(name)))];
    Some(advice)
}
