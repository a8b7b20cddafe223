//! Text steps and stemmers that cannot find what they look for where they stand.

use crate::advice::samples::{core_of, first_spoiler, named, text_before};
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::NEVER_FINDS;
use crate::step::{Form, Outcome, Role};

/// Text steps that cannot find their sample any more where they stand, although it is still there in pieces.
pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let mut found = samples_lost(at);
    found.extend(lines_gone(at));
    found.extend(stems_nothing(at));
    found
}

/// Text steps that cannot find their sample any more, although it is still there in pieces.
fn samples_lost(at: &Reviewed<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for stage in &pipeline.text {
        let mut lost: Vec<(String, String, usize)> = Vec::new();
        for probe in stage.runs.probes() {
            let arrived = text_before(pipeline, &probe, stage.step);
            if arrived == probe || stage.matches(&arrived) || !stage.matches(&probe) {
                continue;
            }
            let left = core_of(&arrived);
            // What is gone altogether, or comes as the step would have left it, is no loss.
            if left.is_empty() || left == core_of(&stage.applied(&probe)) {
                continue;
            }
            let spoiler = first_spoiler(pipeline, &probe, stage.step, |text| stage.matches(text));
            lost.push((probe, arrived.trim().to_owned(), spoiler));
        }
        // Masking links on purpose before marks go is not to be told because another kind is lost: all that is lost by one step is one.
        let Some((_, _, spoiler)) = lost.first().cloned() else { continue };
        let (name, culprit) = (&pipeline.steps()[stage.step], &pipeline.steps()[spoiler]);
        if at.plays(spoiler, Role::Replaces) {
            continue;
        }
        let what = format!("`{}` can never find what it looks for here", name.operation);
        let why = "an earlier step breaks it up, and the pieces stay in the text as words";
        let mut advice = at.advice(&NEVER_FINDS, stage.step, what, why);
        advice.because = lost
            .iter()
            .take(4)
            .map(|(probe, arrived, spoiler)| {
                let text = probe.replace('\n', "⏎");
                format!(
                    "`{text}` arrives as `{}` because of {}",
                    arrived.replace('\n', "⏎"),
                    named(&pipeline.steps()[*spoiler])
                )
            })
            .collect();
        advice.fixes = vec![Fix::change(
            format!("move {} before {}", named(name), named(culprit)),
            Some(Change::MoveBefore { step: name.number, before: culprit.number }),
        )];
        found.push(advice);
    }
    found
}

/// Lines that are to be dropped behind a step that has joined all lines.
fn lines_gone(at: &Reviewed<'_>) -> Option<Advice> {
    const SAMPLE: &str = "one line\nanother line";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.text.iter().find(|stage| stage.runs.drops_lines())?;
    if text_before(pipeline, SAMPLE, stage.step).contains('\n') {
        return None;
    }
    let spoiler = first_spoiler(pipeline, SAMPLE, stage.step, |text| text.contains('\n'));
    let (name, culprit) = (&steps[stage.step], &steps[spoiler]);
    let what = format!("`{}` finds only one line here", steps[stage.step].operation);
    let mut advice = at.advice(
        &NEVER_FINDS,
        stage.step,
        what,
        "all line breaks are gone, so a pattern sees the whole text as one line",
    );
    advice.because = vec![format!("{} turns line breaks into spaces", named(culprit))];
    advice.fixes = vec![Fix::change(
        format!("move {} before {}", named(name), named(culprit)),
        Some(Change::MoveBefore { step: name.number, before: culprit.number }),
    )];
    Some(advice)
}

/// Stemmers that meet words in a shape that they leave alone.
fn stems_nothing(at: &Reviewed<'_>) -> Option<Advice> {
    const SAMPLE: &str = "nesting";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.tokens.iter().find(|stage| at.plays(stage.step, Role::Stems))?;
    let changes = |text: &str| stage.apply(&Form::new(text), pipeline.full_variant()) != Outcome::Keep;
    let arrived = pipeline.trace_up_to(SAMPLE, pipeline.full_variant(), stage.step).clean;
    if !changes(SAMPLE) || changes(&arrived) || arrived.to_lowercase() != SAMPLE {
        return None;
    }
    let culprit =
        steps[..stage.step].iter().enumerate().find(|(index, _)| at.plays(*index, Role::Recases))?.1;
    let name = &steps[stage.step];
    let mut advice = at.advice(
        &NEVER_FINDS,
        stage.step,
        format!("`{}` leaves every word as it is here", name.operation),
        "stemmers expect lower case",
    );
    advice.because = vec![format!("`{SAMPLE}` arrives as `{arrived}` because of {}", named(culprit))];
    advice.fixes = vec![Fix::by_hand(format!(
        "let {} change to lower case, or move it after {}",
        named(culprit),
        named(name)
    ))];
    Some(advice)
}
