//! Pieces that mean nothing, as the advice on a run finds them.

use crate::advice::check_account;
use crate::recipe::codes::REMNANTS;
use crate::suggest::{Inquiry, Proposal, Sort, StepPlace, Suggestion};

pub(super) fn suggest(inquiry: &Inquiry<'_>) -> Vec<Suggestion> {
    let advice = check_account(inquiry.recipe, inquiry.pipeline, inquiry.account, &[]);
    let found = advice.into_iter().filter(|advice| advice.code == REMNANTS.name);
    let each = found.flat_map(|advice| advice.because.into_iter().zip(advice.fixes));
    each.filter_map(|(because, fix)| {
        let mut toml = format!("{}\n", fix.step?);
        let operation = toml
            .lines()
            .find_map(|line| line.strip_prefix("do = "))
            .unwrap_or_default()
            .trim_matches('"')
            .to_owned();
        if inquiry.has_step(&operation) && operation != "drop" {
            // What a step has left that was to take it away is either a word of its own, as `html` where links are masked, or goes by name.
            if operation == "mask" {
                return None;
            }
            let terms: Vec<String> =
                because.split('`').skip(1).step_by(2).map(|term| format!("{term:?}")).collect();
            toml = format!("[[step]]\ndo = \"drop\"\nwords = [{}]\n", terms.join(", "));
        }
        // What drops tokens stands behind the split; all else must see the text as it was.
        let place = if toml.contains("\"drop\"") { StepPlace::BehindReducing } else { StepPlace::First };
        let (what, examples) = because.split_once(": ").unwrap_or((&because, ""));
        let counts = examples.split(", ").filter_map(|one| one.rsplit(' ').next()?.parse::<u64>().ok());
        Some(Suggestion {
            sort: Sort::Remnants,
            what: what.to_owned(),
            count: counts.sum(),
            documents: 0,
            because: examples.to_owned(),
            proposal: Proposal::Step { toml, place },
        })
    })
    .collect()
}
