//! Words of negation that a stop list drops.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::numbers::{counted, grouped};
use crate::recipe::codes::NEGATION_DROPPED;
use crate::run::FormFate;
use crate::step::Role;
use crate::words;

/// Words of negation, in the languages of the shelf's lists.
const NEGATION: &[&str] = &[
    "not", "no", "never", "nor", "none", "nothing", "nobody", "neither", "don't", "didn't", "isn't",
    "wasn't", "can't", "won't", "nicht", "kein", "pas", "ne", "nunca",
];

/// The group of stop lists that has such words.
const GROUP: &str = "negation";

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
        dropped.iter().take(SHOWN).map(|(word, count)| format!("`{word}` {}", grouped(*count))).collect();
    let mut advice = at.advice(
        &NEGATION_DROPPED,
        index,
        format!("{} {} dropped", counted(count, "negation"), if count == 1 { "is" } else { "are" }),
        "after this step, `not good` and `good` are the same: fine for topics, wrong for opinions",
    );
    advice.because = vec![shown.join(", ")];
    // Who spares one of them, or their group, has thought of it.
    let is_thought_of = |word: &String| word == GROUP || NEGATION.contains(&word.as_str());
    let step = at.step(index)?;
    if step.spare.words.iter().chain(&at.recipe.spare.words).any(is_thought_of) {
        return None;
    }
    let has_group =
        step.settings.references().any(|list| !words::stop_groups(&list.name, [GROUP]).is_empty());
    let spare = if has_group { "[\"negation\"]" } else { "[\"not\", \"no\", \"never\", \"nor\"]" };
    // Whether negation matters is for the author to say: nothing is written without being asked for.
    let told = format!(
        "if they matter, keep them with `spare = {spare}`; if not, add `allow = [\"negation-dropped\"]`"
    );
    advice.fixes = vec![Fix::by_hand(told)];
    Some(advice)
}
