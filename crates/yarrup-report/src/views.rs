//! What people are shown of the views of an account: rows, covers and points, taken from them and not computed anew.

use yarrup_core::step::Term;
use yarrup_core::{Effect, terms_to_cover};

use crate::page::{Coverage, TopTerm};
use crate::terminal::{StepRow, visible, visible_name};

/// The shares of all tokens whose cover is told.
const SHARES: [f64; 3] = [0.5, 0.8, 0.95];

/// The effect of every step as a row.
pub fn step_rows(effects: &[Effect]) -> Vec<StepRow> {
    let name = |effect: &Effect| match &effect.label {
        Some(label) => format!("{} · {}", effect.operation, visible(label)),
        None if effect.put_in => format!("{} (put in)", effect.operation),
        None => effect.operation.clone(),
    };
    effects
        .iter()
        .map(|effect| StepRow {
            step: effect.step,
            name: name(effect),
            tokens: effect.tokens_out,
            dropped: effect.tokens_dropped,
            joined: effect.tokens_joined,
            made: effect.tokens_added,
            changed: effect.tokens_changed,
            marked: effect.tokens_marked,
            matches: effect.matches,
            types: effect.types_out,
            documents: effect.documents_touched,
        })
        .collect()
}

/// How many of the most frequent terms cover the shares that are told.
pub fn coverage(vocabulary: &[Term<'_>]) -> Vec<Coverage> {
    let total = vocabulary.iter().map(|term| term.count).sum();
    let terms = |share| terms_to_cover(vocabulary.iter().map(|term| term.count), total, share) as u64;
    SHARES.iter().map(|&share| Coverage { share, terms: terms(share) }).collect()
}

/// The most frequent terms, as the page lists them.
pub fn top_terms(vocabulary: &[Term<'_>], most: usize) -> Vec<TopTerm> {
    let row = |(rank, term): (u64, &Term<'_>)| TopTerm {
        rank,
        term: visible_name(term.text),
        count: term.count,
        documents: term.documents,
        forms: term.forms,
        commonest_form: visible_name(term.commonest_form),
    };
    (1..).zip(&vocabulary[..most.min(vocabulary.len())]).map(row).collect()
}

/// The points of the rank–frequency curve that can be told apart: all of the first, then evenly on the logarithmic axis, and the
/// last.
pub fn curve(vocabulary: &[Term<'_>]) -> Vec<(u64, u64, String)> {
    let last = vocabulary.len() as u64;
    let mut next = 0.0;
    let point = |(rank, term): (u64, &Term<'_>)| {
        if (rank as f64) < next && rank != last {
            return None;
        }
        next = if rank < 300 { 0.0 } else { rank as f64 * 1.005 };
        Some((rank, term.count, visible_name(term.text)))
    };
    (1..).zip(vocabulary).filter_map(point).collect()
}
