//! Words of negation that a stop list drops.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::recipe::codes::NEGATION_DROPPED;
use crate::run::FormFate;
use crate::step::Role;

/// Words of negation, in the languages of the shelf's lists.
const NEGATION: &[&str] = &[
    "not", "no", "never", "nor", "none", "nothing", "nobody", "neither", "don't", "didn't", "isn't",
    "wasn't", "can't", "won't", "nicht", "kein", "pas", "ne", "nunca",
];

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    found(at, collected).into_iter().collect()
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    let mut dropped: Vec<(&str, u64)> = Vec::new();
    let mut at_step = None;
    for form in collected.account.forms() {
        if let FormFate::Dropped { step, .. } = form.fate
            && NEGATION.contains(&form.text.to_lowercase().as_str())
            && at.plays(step - 1, Role::StopList)
        {
            dropped.push((form.text, form.count));
            at_step.get_or_insert(step);
        }
    }
    let index = at_step? - 1;
    let count: u64 = dropped.iter().map(|(_, count)| count).sum();
    let shown: Vec<String> =
        dropped.iter().take(SHOWN).map(|(word, count)| format!("`{word}` {count}")).collect();
    let mut advice = at.advice(
        &NEGATION_DROPPED,
        index,
        format!("{count} words of negation are dropped"),
        "`not good` and `good` are the same after this step: fine for topics, wrong for opinions",
    );
    advice.because = vec![shown.join(", ")];
    // Who spares one of them has thought of it.
    if at
        .step(index)
        .is_some_and(|step| step.spare.words.iter().any(|word| NEGATION.contains(&word.as_str())))
    {
        return None;
    }
    // Whether negation matters is for the author to say: nothing is written without being asked for.
    let told = "`spare = [\"not\", \"no\", \"never\", \"nor\"]` keeps them where they matter; `allow = [\"negation-dropped\"]` says that they do not";
    advice.fixes = vec![Fix::by_hand(told)];
    Some(advice)
}
