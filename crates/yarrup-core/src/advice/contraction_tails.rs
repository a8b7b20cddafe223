//! Contracted forms whose tails are left as words.

use crate::advice::samples::{named, text_before};
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::recipe::codes::CONTRACTION_TAILS;
use crate::step::{KeyFacts, Role};
use crate::steps::split::APOSTROPHES;
use crate::steps::text::erase::INSIDE_WORDS;

/// Contracted forms whose tails are no words.
const CONTRACTED: &str =
    "I don't think it's here and they'll see we've won, you're late, I'm sure, he'd go to Mira's nest";

/// Their tails.
const TAILS: &[&str] = &["s", "t", "ll", "ve", "re", "m", "d", "don", "isn"];

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let language = at.recipe.language.as_deref().unwrap_or("en");
    if !language.starts_with("en")
        || !matches!(at.into(), "words" | "spaces" | "posts")
        || pipeline.is_text_recipe()
    {
        return None;
    }
    let trace = pipeline.trace_up_to(CONTRACTED, pipeline.full_variant(), usize::MAX);
    let tails: Vec<&str> = TAILS
        .iter()
        .copied()
        .filter(|tail| trace.clean.split_whitespace().any(|term| term.eq_ignore_ascii_case(tail)))
        .collect();
    if tails.len() < 2 {
        return None;
    }
    let has_tail = |text: &str| {
        text.split(|c: char| !c.is_alphanumeric() && !matches!(c, '\'' | '’'))
            .any(|word| TAILS[..7].contains(&word.to_lowercase().as_str()))
    };
    let spoiler = (0..pipeline.split).find(|&step| has_tail(&text_before(pipeline, CONTRACTED, step + 1)));
    let index = spoiler.unwrap_or(pipeline.split);
    let name = &pipeline.steps()[index];
    let listed: Vec<String> = tails.iter().map(|tail| format!("`{tail}`")).collect();
    let mut advice = at.advice(
        &CONTRACTION_TAILS,
        index,
        format!("the ends of contractions are left as terms: {}", listed.join(", ")),
        "they are not words, but they rank high in every list",
    );
    advice.because = vec![format!("{} splits `don't` and `it's` at the apostrophe", named(name))];
    let inside_words = &INSIDE_WORDS.facts;
    let erases = at
        .step(index)
        .is_some_and(|step| step.operation.plays(Role::Erases) && !step.settings.has(inside_words));
    let set = |key: &KeyFacts, value: &str| Change::Set {
        step: name.number,
        keys: vec![(key.name, value.to_owned())],
    };
    let change = if erases {
        Some(set(inside_words, "[\"apostrophes\"]"))
    } else {
        (index == pipeline.split && !name.put_in).then(|| set(&APOSTROPHES.facts, "\"keep\""))
    };
    advice.fixes = vec![Fix::change(
        format!(
            "keep apostrophes inside words in {}, or expand contractions before it with `contractions`",
            named(name)
        ),
        change,
    )];
    Some(advice)
}
