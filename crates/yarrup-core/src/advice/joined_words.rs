//! Words that are joined because the marks between them are erased to nothing.

use crate::advice::samples::{named, text_before};
use crate::advice::{Advice, Change, Collected, Fix, Reviewed};
use crate::numbers::counted;
use crate::recipe::codes::JOINED_WORDS;
use crate::step::Role;
use crate::steps::text::erase::{INSIDE_WORDS, JOINED, TO};

/// Texts in which a mark parts two words.
const PARTED: [&str; 5] = ["nest-box", "and/or", "terns,gulls", "left.Then", "wait…no"];

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for stage in &pipeline.text {
        let Some(step) = at.step(stage.step) else { continue };
        if !stage.runs.joins_words() {
            continue;
        }
        let joined: Vec<(&str, String)> = PARTED
            .into_iter()
            .map(|text| (text, text_before(pipeline, text, stage.step + 1)))
            .filter(|(text, after)| {
                *after == text.chars().filter(|c| c.is_alphanumeric()).collect::<String>()
                    || (after.to_lowercase()
                        == text.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect::<String>())
            })
            .collect();
        // That a hyphen alone is deleted may well be meant: `e-mail`.
        if joined.len() < 2 {
            continue;
        }
        let name = &pipeline.steps()[stage.step];
        let mut advice = at.advice(
            &JOINED_WORDS,
            stage.step,
            "erasing marks joins the words that they separate",
            "these joined words are not real words",
        );
        advice.because =
            joined.iter().take(3).map(|(text, after)| format!("`{text}` becomes `{after}`")).collect();
        let mut keys = vec![(TO.facts.name, "\"space\"".to_owned())];
        if !step.settings.has(&INSIDE_WORDS.facts) && !step.spare.words.iter().any(|word| word == "'") {
            keys.push((INSIDE_WORDS.facts.name, "[\"apostrophes\"]".to_owned()));
        }
        advice.fixes = vec![Fix::change(
            format!("replace them with a space in {}, and keep apostrophes inside words", named(name)),
            Some(Change::Set { step: name.number, keys }),
        )];
        found.push(advice);
    }
    found
}

/// The same, counted in a collection.
pub(super) fn advise_counted(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    let joined = collected
        .account
        .matches()
        .into_iter()
        .filter(|row| at.plays(row.step - 1, Role::Erases) && row.sort == JOINED && row.count > 0);
    joined
        .map(|row| {
            let index = row.step - 1;
            let what = format!(
                "erasing marks joined words in {}, in {}",
                counted(row.count, "place"),
                counted(row.documents, "document")
            );
            let mut advice = at.advice(&JOINED_WORDS, index, what, "these joined words are not real words");
            let shown: Vec<String> = row.examples.iter().map(|example| format!("`{example}`")).collect();
            advice.because = vec![format!("such as {}", shown.join(", "))];
            advice.fixes = vec![Fix::change(
                "replace them with a space, and keep apostrophes inside words",
                Some(Change::Set {
                    step: row.step,
                    keys: vec![
                        (TO.facts.name, "\"space\"".into()),
                        (INSIDE_WORDS.facts.name, "[\"apostrophes\"]".into()),
                    ],
                }),
            )];
            advice
        })
        .collect()
}
