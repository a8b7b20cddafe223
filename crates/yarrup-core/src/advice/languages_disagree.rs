//! Steps for another language than the recipe.

use crate::advice::samples::named;
use crate::advice::{Advice, Fix, Reviewed};
use crate::recipe::codes::LANGUAGES_DISAGREE;

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let Some(language) = at.recipe.language.as_deref() else { return Vec::new() };
    let primary = language.split('-').next().unwrap_or(language);
    let mut found = Vec::new();
    for (index, name) in at.pipeline.steps().iter().enumerate() {
        if at.step(index).is_none_or(|step| step.only.is_some()) {
            continue;
        }
        let others = at.pipeline.facts(index).map(|facts| facts.foreign(primary)).unwrap_or_default();
        if others.is_empty() {
            continue;
        }
        let what = format!("the recipe is for `{language}`, but {} is not", named(name));
        let mut advice = at.advice(
            &LANGUAGES_DISAGREE,
            index,
            what,
            "rules and lists for one language damage text in another",
        );
        advice.because = others;
        advice.fixes = vec![Fix::by_hand(
            "change the recipe's `language`, or use `only = { language = \"…\" }` to choose the documents that the step works on",
        )];
        found.push(advice);
    }
    found
}
