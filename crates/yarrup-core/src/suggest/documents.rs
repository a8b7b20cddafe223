//! Documents that repeat others, and those of which hardly anything is left.

use crate::numbers::grouped;
use crate::suggest::evidence::{Found, NEARLY_EMPTY};
use crate::suggest::{Inquiry, Proposal, Sort, StepPlace, Suggestion};

/// The share of the documents that must be copies, or nearly empty, before a step is suggested.
const LEAST_SHARE: f64 = 0.005;
const LEAST: u64 = 3;

impl Proposal {
    /// A step that leaves copies out, near ones among them.
    pub fn without_copies() -> Proposal {
        Proposal::Step {
            toml: "[[step]]\ndo = \"documents\"\ncopies = \"near\"\n".to_owned(),
            place: StepPlace::Last,
        }
    }
}

pub(super) fn suggest(inquiry: &Inquiry<'_>, found: &Found) -> Vec<Suggestion> {
    let all = inquiry.account.totals.documents;
    let is_many = |count: u64| count >= LEAST && count as f64 >= LEAST_SHARE * all as f64;
    let mut suggestions = Vec::new();
    let (exact, near) = found.copies;
    if is_many(exact + near) {
        suggestions.push(Suggestion {
            sort: Sort::Documents,
            what: "copies of earlier documents".to_owned(),
            count: exact + near,
            documents: exact + near,
            because: format!("{} have the same terms, {} nearly the same", grouped(exact), grouped(near)),
            proposal: Proposal::without_copies(),
        });
    }
    let few = found.nearly_empty;
    if is_many(few) && !inquiry.has_step("documents") {
        suggestions.push(Suggestion {
            sort: Sort::Documents,
            what: format!("documents with fewer than {NEARLY_EMPTY} terms"),
            count: few,
            documents: few,
            because: format!("{:.1} % of all documents", few as f64 / all.max(1) as f64 * 100.0),
            proposal: Proposal::Step {
                toml: format!("[[step]]\ndo = \"documents\"\nmin_tokens = {NEARLY_EMPTY}\n"),
                place: StepPlace::Last,
            },
        });
    }
    suggestions
}
