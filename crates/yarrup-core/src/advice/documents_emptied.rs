//! Documents that are left without any token.

use crate::advice::{Advice, Collected, Fix, Reviewed};
use crate::numbers::{counted, grouped};
use crate::recipe::codes::DOCUMENTS_EMPTIED;

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    found(at, collected).into_iter().collect()
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    let totals = collected.account.totals;
    let emptied = totals.emptied;
    if emptied == 0 {
        return None;
    }
    // The step that drops most is the first to look at.
    let most = collected
        .effects
        .iter()
        .filter(|effect| effect.tokens_dropped > Some(0))
        .max_by_key(|effect| effect.tokens_dropped)?;
    let index = most.step - 1;
    let what = format!(
        "{} of {} are left without any token",
        grouped(emptied),
        counted(totals.documents, "document")
    );
    let mut advice = at.advice(
        &DOCUMENTS_EMPTIED,
        index,
        what,
        "an empty document is missing from every table made from the result",
    );
    advice.because =
        vec![format!("this step drops the most tokens: {}", grouped(most.tokens_dropped.unwrap_or(0)))];
    advice.fixes = vec![Fix::by_hand(
        "look at one of them with `yarrup try … --from … --document ID`; spare what they consist of, or accept the loss",
    )];
    Some(advice)
}
