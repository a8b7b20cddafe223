//! Documents in another language than the recipe is for.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::numbers::grouped;
use crate::recipe::codes::OTHER_LANGUAGE;
use crate::step::Role;

/// How many documents are in a language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LanguageShare {
    /// The language, as a tag of two or three letters.
    pub language: String,
    /// How many documents.
    pub documents: u64,
}

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    found(at, collected).into_iter().collect()
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    let language = at.recipe.language.as_deref()?;
    let primary = language.split('-').next().unwrap_or(language);
    let all: u64 = collected.languages.iter().map(|share| share.documents).sum();
    let others: Vec<&LanguageShare> =
        collected.languages.iter().filter(|share| share.language != primary).collect();
    let count: u64 = others.iter().map(|share| share.documents).sum();
    if count * 50 < all || count == 0 {
        return None;
    }
    let shown: Vec<String> = others
        .iter()
        .take(SHOWN)
        .map(|share| format!("`{}` {}", share.language, grouped(share.documents)))
        .collect();
    // It is the first step that knows a language that goes wrong.
    let index = at
        .pipeline
        .operations()
        .iter()
        .position(|operation| operation.plays(Role::KnowsLanguage))
        .unwrap_or(at.pipeline.split);
    if at.step(index).is_some_and(|step| step.only.is_some()) {
        return None;
    }
    let what = format!(
        "{} of {} documents with a detected language are not in `{language}`",
        grouped(count),
        grouped(all)
    );
    let mut advice =
        at.advice(&OTHER_LANGUAGE, index, what, "lists and rules for one language damage text in another");
    advice.because = vec![shown.join(", ")];
    advice.fixes = vec![Fix::by_hand(
        "read only documents in the language (`--where`), or use `only = { language = \"…\" }` to choose the documents that a step works on",
    )];
    Some(advice)
}
