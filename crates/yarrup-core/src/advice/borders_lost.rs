//! Words that come to be neighbours because the marks between them were erased, before a step that joins neighbours.

use crate::advice::samples::{first_spoiler, named, text_before};
use crate::advice::{Advice, Fix, Reviewed};
use crate::recipe::codes::BORDERS_LOST;
use crate::step::Role;

/// A text whose two sentences a full stop parts.
const PARTED: &str = "There was a marsh. Harriers came";

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let joins = pipeline.tokens.iter().find(|stage| stage.facts().joins_tokens());
    let parts = |text: &str| text.contains('.');
    let Some(joins) = joins.filter(|_| !parts(&text_before(pipeline, PARTED, pipeline.split))) else {
        return Vec::new();
    };
    let spoiler = first_spoiler(pipeline, PARTED, pipeline.split, parts);
    let culprit = &pipeline.steps()[spoiler];
    let what = format!(
        "words of two sentences become neighbours here: {} removed the marks between them",
        named(culprit)
    );
    let mut advice = at.advice(
        &BORDERS_LOST,
        joins.step,
        what,
        "words joined across a full stop are not a phrase in the text",
    );
    advice.because =
        vec![format!("`{PARTED}` arrives as `{}`", text_before(pipeline, PARTED, pipeline.split).trim())];
    let told = match at.plays(spoiler, Role::Erases) {
        true => format!(
            "remove {} and drop the marks after {} instead: `do = \"drop\"`, `kinds = [\"punctuation\"]`",
            named(culprit),
            named(&pipeline.steps()[joins.step])
        ),
        false => format!("let {} keep the marks", named(culprit)),
    };
    advice.fixes = vec![Fix::by_hand(told)];
    vec![advice]
}
