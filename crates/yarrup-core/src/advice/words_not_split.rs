//! Steps for single words behind a split that makes larger tokens.

use crate::advice::samples::named;
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::WORDS_NOT_SPLIT;
use crate::step::Role;
use crate::steps::split::{GROUP, INTO, SENTENCES};

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

/// Steps for single words behind a split that makes larger tokens.
fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let split = at.step(pipeline.split)?;
    let into = at.into();
    if pipeline.splitter.parts_words() || into == "pattern" {
        return None;
    }
    let steps = pipeline.steps();
    let stage = pipeline.tokens.iter().find(|stage| at.plays(stage.step, Role::WorksOnWords))?;
    let name = &steps[stage.step];
    let what = format!(
        "`{}` is for single words, and the tokens are {}",
        name.operation,
        if split.settings.has(&GROUP.facts) { "groups" } else { into }
    );
    let mut advice = at.advice(
        &WORDS_NOT_SPLIT,
        stage.step,
        what,
        "whole sentences, lines or groups match no word in any list",
    );
    advice.because = vec![format!("{} makes one token of each", named(&steps[pipeline.split]))];
    let change = (into == "sentences" && !split.settings.has(&GROUP.facts)).then(|| Change::Set {
        step: steps[pipeline.split].number,
        keys: vec![(INTO.facts.name, "\"words\"".to_owned()), (SENTENCES.facts.name, "true".to_owned())],
    });
    advice.fixes = vec![Fix::change("split into words and keep the sentences".to_owned(), change)];
    Some(advice)
}
