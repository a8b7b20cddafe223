//! Terms that stand in most documents and are spread evenly over them.
//!
//! A word of content comes in bursts: where it comes once it comes again. How evenly a term is spread is told by the documents that hold it against those that
//! would if its tokens fell by chance (Church and Gale 1995, "Inverse document frequency (IDF): a measure of deviations from Poisson").

use crate::kind::Kind;
use crate::step::Term;
use crate::suggest::contexts::Contexts;
use crate::suggest::{Inquiry, Proposal, Sort, Suggestion};
use crate::words::stop_groups;

/// The least share of the documents that a candidate stands in.
const LEAST_SHARE: f64 = 0.4;
/// How evenly it must be spread: its documents against those by chance.
const EVEN: f64 = 0.8;
/// A word that stands beside many different ones, as function words do, may stand in fewer documents: the least share of them, the least of the different words in
/// a sample of so many neighbours, and how evenly it must be spread.
const LEAST_SHARE_FUNCTION: f64 = 0.05;
const DIVERSE: f64 = 0.5;
const SAMPLE: u32 = 120;
const EVEN_FUNCTION: f64 = 0.75;
/// How many of the most widely spread terms are looked at, and the longest that is no word of content, in letters.
const MOST_SUSPECTS: usize = 200;
const LONGEST: usize = 10;
/// Fewer documents tell nothing.
const FEWEST_DOCUMENTS: u64 = 20;

/// The words whose neighbours are asked for: the most widely spread.
pub(super) fn suspects(inquiry: &Inquiry<'_>) -> Vec<String> {
    let all = inquiry.account.totals.documents;
    if all < FEWEST_DOCUMENTS || !drops_words(inquiry) {
        return Vec::new();
    }
    let is_suspect = |term: &&Term<'_>| {
        term.kind() == Kind::Word
            && term.count >= u64::from(SAMPLE)
            && term.documents as f64 >= LEAST_SHARE_FUNCTION * all as f64
            && evenness(term.count, term.documents, all) >= EVEN_FUNCTION
    };
    let mut terms: Vec<&Term<'_>> = inquiry.vocabulary.iter().filter(is_suspect).collect();
    terms.sort_by(|a, b| b.documents.cmp(&a.documents).then_with(|| a.text.cmp(b.text)));
    terms.into_iter().take(MOST_SUSPECTS).map(|term| term.commonest_form.to_lowercase()).collect()
}

pub(super) fn suggest(inquiry: &Inquiry<'_>, contexts: &Contexts) -> Vec<Suggestion> {
    let documents = inquiry.account.totals.documents;
    if !drops_words(inquiry) {
        return Vec::new();
    }
    // What the recipe spares of the list, as a group such as `negation`, is meant to stay.
    let groups =
        inquiry.recipe.steps.iter().flat_map(|step| &step.spare.words).chain(&inquiry.recipe.spare.words);
    let spared_groups = stop_groups(inquiry.language(), groups.map(String::as_str));
    let spared = |word: &str| {
        let spares = inquiry.recipe.steps.iter().flat_map(|step| &step.spare.words);
        spares.chain(&inquiry.recipe.spare.words).any(|spared| spared.eq_ignore_ascii_case(word))
    };
    let mut all = Vec::new();
    for term in &inquiry.vocabulary {
        let small = term.text.to_lowercase();
        if term.kind() != Kind::Word || spared(term.text) || spared_groups.contains(&small) {
            continue;
        }
        // The stem of another word may be spelled as a function word: German `schön` gives `schon`.
        let is_listed = inquiry.stop_words.contains(&small)
            && inquiry.stop_words.contains(&term.commonest_form.to_lowercase());
        let share = term.documents as f64 / documents.max(1) as f64;
        let even = evenness(term.count, term.documents, documents);
        let is_everywhere = documents >= FEWEST_DOCUMENTS && share >= LEAST_SHARE && even >= EVEN;
        let is_frequent_function_word =
            is_listed && term.count >= 3 && term.count * 1000 >= inquiry.account.totals.tokens_kept;
        let is_short = small.chars().count() <= LONGEST;
        let may_be_function = is_short && share >= LEAST_SHARE_FUNCTION && even >= EVEN_FUNCTION;
        let neighbours = if may_be_function {
            contexts.diversity(inquiry, &term.commonest_form.to_lowercase(), SAMPLE)
        } else {
            None
        };
        let is_diverse = neighbours.is_some_and(|share| share >= DIVERSE);
        if !is_everywhere && !is_frequent_function_word && !is_diverse {
            continue;
        }
        let because = match is_listed {
            true => format!(
                "in {:.0} % of the documents; a function word on the `{}` list",
                share * 100.0,
                inquiry.language()
            ),
            false => format!(
                "in {:.0} % of the documents, evenly spread{}",
                share * 100.0,
                if is_diverse { "; next to many different words" } else { "" }
            ),
        };
        all.push(Suggestion {
            sort: Sort::StopWords,
            what: term.text.to_owned(),
            count: term.count,
            documents: term.documents,
            because,
            proposal: Proposal::StopWord(term.text.to_owned()),
        });
    }
    all.sort_by(|a, b| b.documents.cmp(&a.documents).then_with(|| a.what.cmp(&b.what)));
    all
}

/// Whether the recipe means to leave words out: one that keeps sentences whole for a reader or a model needs no stop list.
fn drops_words(inquiry: &Inquiry<'_>) -> bool {
    ["stopwords", "limit"].iter().any(|operation| inquiry.has_step(operation))
}

/// The documents that hold a term against those that would by chance.
fn evenness(count: u64, documents: u64, all: u64) -> f64 {
    let all = all.max(1) as f64;
    let expected = all * (1.0 - (-(count as f64) / all).exp());
    documents as f64 / expected.max(f64::MIN_POSITIVE)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_comes_in_bursts_is_uneven() {
        assert!(evenness(100, 95, 1_000) > 0.95);
        assert!(evenness(100, 20, 1_000) < 0.25);
        assert!((evenness(10_000, 1_000, 1_000) - 1.0).abs() < 1e-3);
    }
}
