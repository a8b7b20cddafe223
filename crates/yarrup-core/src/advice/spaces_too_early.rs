//! A text recipe that makes white space one, and then leaves more of it.

use crate::advice::samples::{named, text_before};
use crate::advice::{Advice, Fix, Reviewed};
use crate::kind::Kind;
use crate::recipe::codes::SPACES_TOO_EARLY;
use crate::step::Role;

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

/// A text recipe that makes white space one, and then leaves more of it.
fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let spaces = pipeline.text.iter().rev().find(|stage| at.plays(stage.step, Role::CollapsesSpaces))?;
    if !pipeline.is_text_recipe() {
        return None;
    }
    let sample = format!(
        "see {} and {} now, or not - at {} 5 + 3 <b>here</b> 🐦 end",
        Kind::SAMPLES[Kind::Url as usize],
        Kind::SAMPLES[Kind::Mention as usize],
        Kind::SAMPLES[Kind::Email as usize]
    );
    let after = text_before(pipeline, &sample, pipeline.split);
    let at_spaces = text_before(pipeline, &sample, spaces.step + 1);
    if !after.contains("  ") || at_spaces.contains("  ") {
        return None;
    }
    let culprit = (spaces.step + 1..pipeline.split)
        .find(|&step| text_before(pipeline, &sample, step + 1).contains("  "))?;
    let steps = pipeline.steps();
    let mut advice = at.advice(
        &SPACES_TOO_EARLY,
        spaces.step,
        format!("{} leaves more white space", named(&steps[culprit])),
        "the cleaned text has runs of spaces that this step should have removed",
    );
    advice.because = vec![format!("`{}` comes out", after.split_inclusive("  ").next().unwrap_or_default())];
    advice.fixes = vec![Fix::change(
        format!("move {} after {}", named(&steps[spaces.step]), named(&steps[culprit])),
        None,
    )];
    Some(advice)
}
