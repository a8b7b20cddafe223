//! Words that are cut down twice.

use crate::advice::samples::named;
use crate::advice::{Advice, Fix, Reviewed};
use crate::recipe::codes::TWO_REDUCERS;
use crate::step::Role;

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let mut reducers = at.pipeline.tokens.iter().filter(|stage| at.plays(stage.step, Role::Reduces));
    let first = reducers.next()?;
    let both_work = |second: &&crate::pipeline::TokenStage| {
        let only = |index| at.step(index).and_then(|step| step.only.clone());
        only(first.step).is_none() || only(second.step).is_none() || only(first.step) == only(second.step)
    };
    let second = reducers.find(both_work)?;
    let steps = at.pipeline.steps();
    let what = format!("this step reduces words that {} has already reduced", named(&steps[first.step]));
    let mut advice = at.advice(
        &TWO_REDUCERS,
        second.step,
        what,
        "a stem is not a word, and what the second step cuts from it is arbitrary",
    );
    let sample = "organisations generalised nesting";
    let trace = at.pipeline.trace_up_to(sample, at.pipeline.full_variant(), second.step + 1);
    advice.because = vec![format!("`{sample}` becomes `{}`", trace.clean)];
    advice.fixes =
        vec![Fix::by_hand(format!("remove {} or {}", named(&steps[first.step]), named(&steps[second.step])))];
    Some(advice)
}
