//! Steps that change nothing in the whole collection.

use crate::advice::{Advice, Collected, Fix, Reviewed};
use crate::recipe::codes::NO_EFFECT;

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    let idle =
        collected.effects.iter().filter(|effect| effect.step > 0 && effect.documents_touched == Some(0));
    idle.map(|effect| {
        let index = effect.step - 1;
        // What a condition keeps away from every document is not idle by its nature.
        let conditional = at.step(index).is_some_and(|step| step.only.is_some());
        let why = if conditional {
            "no document meets its `only`, or it finds nothing to change in those that do"
        } else {
            "a step that does nothing costs time and hides what matters"
        };
        let mut advice = at.advice(
            &NO_EFFECT,
            index,
            format!("`{}` changes nothing in this collection", effect.operation),
            why,
        );
        advice.fixes = vec![Fix::by_hand(
            "remove it, unless other collections need it; then add `allow = [\"no-effect\"]`",
        )];
        advice
    })
    .collect()
}
