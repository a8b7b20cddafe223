//! Terms that differ in letter case alone.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::recipe::codes::CASE_VARIANTS;
use crate::step::Role;

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    if !at.pipeline.is_text_recipe() && at.pipeline.splitter.parts_words() {
        found(at, collected).into_iter().collect()
    } else {
        Vec::new()
    }
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    if at.pipeline.operations().iter().any(|operation| operation.plays(Role::Recases)) {
        return None;
    }
    let mut by_lower: std::collections::HashMap<String, (u64, u64)> = std::collections::HashMap::new();
    for term in &collected.vocabulary {
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
    let shown: Vec<String> = pairs.iter().take(SHOWN).map(|(_, word)| format!("`{word}`")).collect();
    let what = format!("{} words stand in the vocabulary in two letter cases", pairs.len());
    let mut advice = at.advice(
        &CASE_VARIANTS,
        at.pipeline.split,
        what,
        "each counts as two terms, and neither count is right",
    );
    advice.because = vec![format!("the commonest: {}", shown.join(", "))];
    advice.fixes = vec![Fix::by_hand(
        "add a step `do = \"case\"`, with `spare_acronyms = true` where `US` and `us` are to stay apart",
    )];
    Some(advice)
}
