//! Function words among the most frequent terms, although a stop list was used.

use crate::advice::{Advice, Change, Collected, Fix, Reviewed, SHOWN};
use crate::numbers::grouped;
use crate::recipe::codes::STOPWORDS_LEFT;
use crate::step::Role;
use crate::steps::token::stopwords::ADD;
use crate::words;

/// How many of the commonest terms are looked at for stop words.
const TOP: usize = 100;

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    if at.pipeline.makes_words() { found(at, collected).into_iter().collect() } else { Vec::new() }
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    let (index, step) = at
        .pipeline
        .tokens
        .iter()
        .filter_map(|stage| Some((stage.step, at.step(stage.step)?)))
        .find(|(_, step)| step.operation.plays(Role::StopList) && step.only.is_none())?;
    let language =
        at.recipe.language.as_deref().map(|tag| tag.split('-').next().unwrap_or(tag)).unwrap_or("en");
    let list = words::stop_list(language)?;
    // Words, or the names of groups of words.
    let spare = || step.spare.words.iter().chain(&at.recipe.spare.words).map(String::as_str);
    let groups = words::stop_groups(language, spare());
    let spared = |word: &str| {
        spare().any(|spare| spare.eq_ignore_ascii_case(word)) || groups.contains(&word.to_lowercase())
    };
    let left: Vec<(&str, u64)> = collected
        .vocabulary
        .iter()
        .take(TOP)
        .filter(|term| list.iter().any(|word| word == &term.text.to_lowercase()) && !spared(term.text))
        .map(|term| (term.text, term.count))
        .collect();
    if left.is_empty() {
        return None;
    }
    let shown: Vec<String> =
        left.iter().take(SHOWN).map(|(term, count)| format!("`{term}` {}", grouped(*count))).collect();
    let what = match left.len() {
        1 => format!("1 of the {TOP} most frequent terms is still a function word"),
        many => format!("{many} of the {TOP} most frequent terms are still function words"),
    };
    let mut advice = at.advice(&STOPWORDS_LEFT, index, what, "the stop list should have removed them");
    advice.because = vec![shown.join(", ")];
    let uses_shelf = step.settings.references().any(|reference| reference.name == language);
    advice.fixes = vec![match uses_shelf {
        true => Fix::by_hand(
            "a step after the list creates them again (a stem, a change of case): move the list after it, or `add` the words",
        ),
        false => {
            let words: Vec<String> =
                left.iter().map(|(term, _)| format!("{:?}", term.to_lowercase())).collect();
            let has_add = step.settings.has(&ADD.facts);
            let change = (!has_add).then(|| Change::Set {
                step: at.pipeline.steps()[index].number,
                keys: vec![(ADD.facts.name, format!("[{}]", words.join(", ")))],
            });
            Fix::change(
                "add them to the list, or also use Yarrup's own list",
                change.filter(|_| left.len() <= 20),
            )
        }
    }];
    Some(advice)
}
