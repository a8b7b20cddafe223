//! Sentences that cannot be told apart any more.

use crate::advice::samples::{first_spoiler, named, text_before};
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::SENTENCES_LOST;
use crate::span::Span;
use crate::step::{Role, Stage};

/// A text whose sentences only marks and capitals tell apart.
const SENTENCES: &str = "Dr. Sand came at 5 p.m. with J. Reed. The terns were back, e.g. on the spit. Did they nest? Yes! They did.";

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let splitter = pipeline.splitter.sentences()?;
    let count = |text: &str| {
        let mut spans: Vec<Span> = Vec::new();
        splitter.split(text, &mut spans);
        spans.len()
    };
    let expected = count(SENTENCES);
    let arrived = count(&text_before(pipeline, SENTENCES, pipeline.split));
    if arrived == expected {
        return None;
    }
    let spoiler = first_spoiler(pipeline, SENTENCES, pipeline.split, |text| count(text) == expected);
    let culprit = &pipeline.steps()[spoiler];
    let what = format!("sentences cannot be found here: {arrived} of {expected} in a sample");
    let mut advice = at.advice(
        &SENTENCES_LOST,
        pipeline.split,
        what,
        "full stops and capitals show where a sentence ends",
    );
    advice.because = vec![format!("{} removes what shows their ends", named(culprit))];
    let both_sides = at.step(spoiler).is_some_and(|step| step.operation.stage == Stage::TextOrToken);
    let erases = at.plays(spoiler, Role::Erases);
    let told = match (both_sides, erases) {
        (true, _) => format!("move {} after the split", named(culprit)),
        (false, true) => format!("spare the marks that end sentences in {}", named(culprit)),
        (false, false) => format!("remove {}", named(culprit)),
    };
    let change = match (both_sides, erases) {
        // The split comes to stand before it: the same, and the text steps between stay before the split.
        (false, true)
            if at
                .step(spoiler)
                .is_some_and(|step| step.spare.words.is_empty() && step.spare.kinds.is_empty()) =>
        {
            Some(Change::Set {
                step: culprit.number,
                keys: vec![("spare", "[\".\", \"!\", \"?\", \"…\"]".to_owned())],
            })
        }
        (true, _) if spoiler + 1 == pipeline.split => {
            Some(Change::MoveBefore { step: pipeline.steps()[pipeline.split].number, before: culprit.number })
        }
        _ => None,
    };
    advice.fixes = vec![Fix::change(told, change)];
    Some(advice)
}
