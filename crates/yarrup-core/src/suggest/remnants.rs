//! Pieces that mean nothing, as the advice on a run finds them.

use toml_edit::Array;

use crate::suggest::accept::{laid_out, operation_of};
use crate::suggest::{Inquiry, Proposal, Sort, StepPlace, Suggestion};

pub(super) fn suggest(inquiry: &Inquiry<'_>) -> Vec<Suggestion> {
    let each = inquiry.advised().remnants().into_iter().filter_map(|remnants| {
        let mut toml = format!("{}\n", remnants.fix.step?);
        let operation = operation_of(&toml);
        // What a step has left that was to take it away is either a word of its own, as `html` where links are masked, or goes by name.
        if operation == "mask" && inquiry.has_step("mask") {
            return None;
        }
        if operation != "drop" && inquiry.has_step(operation) {
            let terms: Array = remnants.terms.iter().map(|(term, _)| *term).collect();
            toml = format!("[[step]]\ndo = \"drop\"\nwords = {}\n", laid_out(&terms));
        }
        // What drops tokens stands behind the split; all else must see the text as it was.
        let place = if operation_of(&toml) == "drop" { StepPlace::BehindReducing } else { StepPlace::First };
        Some(Suggestion {
            sort: Sort::Remnants,
            what: remnants.name.to_owned(),
            count: remnants.tokens(),
            documents: 0,
            because: remnants.examples(),
            proposal: Proposal::Step { toml, place },
        })
    });
    each.collect()
}
