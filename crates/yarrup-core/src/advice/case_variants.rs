//! Terms that differ in letter case alone.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::recipe::codes::CASE_VARIANTS;
use crate::step::Role;

/// Words of the vocabulary in two letter cases.
pub(crate) struct CaseVariants {
    /// The words in small letters, those first that come most often in both.
    pub(crate) words: Vec<String>,
    /// How many tokens have the rarer case.
    pub(crate) tokens: u64,
}

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    let Some(found) = find(at, collected) else { return Vec::new() };
    let shown: Vec<String> = found.words.iter().take(SHOWN).map(|word| format!("`{word}`")).collect();
    let mut advice = at.advice(
        &CASE_VARIANTS,
        at.pipeline.split,
        format!("{} words are in the vocabulary in two letter cases", found.words.len()),
        "each counts as two terms, and both counts are too low",
    );
    advice.because = vec![format!("most frequent: {}", shown.join(", "))];
    advice.fixes = vec![Fix::by_hand(
        "add a step `do = \"case\"`, with `spare_acronyms = true` if `US` and `us` must stay different",
    )];
    vec![advice]
}

/// The words in two letter cases, if they are many and no step is there to bring them together.
pub(super) fn find(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<CaseVariants> {
    if !at.pipeline.makes_words()
        || at.pipeline.operations().iter().any(|operation| operation.plays(Role::Recases))
    {
        return None;
    }
    let mut by_lower: std::collections::HashMap<String, (u64, u64)> = std::collections::HashMap::new();
    for term in collected.vocabulary {
        let lower = term.text.to_lowercase();
        let (small, other) = by_lower.entry(lower).or_default();
        if term.text.chars().any(char::is_uppercase) { *other += term.count } else { *small += term.count }
    }
    let mut pairs: Vec<(u64, String)> = by_lower
        .into_iter()
        .filter(|(_, (small, other))| *small > 0 && *other > 0)
        .map(|(word, (small, other))| (small.min(other), word))
        .collect();
    let tokens: u64 = pairs.iter().map(|(count, _)| count).sum();
    if pairs.len() < 5 || tokens * 100 < collected.account.totals.tokens_kept {
        return None;
    }
    pairs.sort_by(|a, b| b.0.cmp(&a.0).then_with(|| a.1.cmp(&b.1)));
    Some(CaseVariants { words: pairs.into_iter().map(|(_, word)| word).collect(), tokens })
}
