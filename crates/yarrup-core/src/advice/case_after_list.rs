//! Lists that compare letter case exactly, with a change of case behind them and none before.

use crate::advice::samples::named;
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::CASE_AFTER_LIST;
use crate::step::Role;

/// Lists that compare letter case exactly, with a change of case behind them and none before.
pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for (place, stage) in pipeline.tokens.iter().enumerate() {
        let later = pipeline.tokens[place + 1..].iter().find(|later| at.plays(later.step, Role::Recases));
        let Some(later) = later else { continue };
        let escaped: Vec<(String, String)> = stage
            .facts()
            .entries()
            .iter()
            .take(40)
            .filter_map(|entry| {
                let mut chars = entry.word.chars();
                let capital: String = chars.next()?.to_uppercase().chain(chars).collect();
                let trace = pipeline.trace_up_to(&capital, pipeline.full_variant(), usize::MAX);
                (capital != entry.word && trace.clean == entry.word).then(|| (capital, entry.word.clone()))
            })
            .collect();
        let Some((capital, word)) = escaped.first() else { continue };
        let name = &pipeline.steps()[later.step];
        let what = format!(
            "words with a capital pass this list, and {} then turns them into its entries",
            named(name)
        );
        let mut advice = at.advice(
            &CASE_AFTER_LIST,
            stage.step,
            what,
            "the list compares letter case exactly, but the case changes only after it",
        );
        advice.because = vec![format!("`{capital}` passes and stays in the text as `{word}`")];
        advice.fixes = vec![Fix::change(
            format!("move {} before {}", named(name), named(&pipeline.steps()[stage.step])),
            Some(Change::MoveBefore { step: name.number, before: pipeline.steps()[stage.step].number }),
        )];
        if stage.facts().has_case_rule() {
            advice.fixes.push(Fix::by_hand(format!(
                "or remove `case = \"exact\"` from {}",
                named(&pipeline.steps()[stage.step])
            )));
        }
        found.push(advice);
    }
    found
}
